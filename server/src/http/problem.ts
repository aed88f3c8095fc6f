import { type ErrorBody, PROBLEMS, problemType } from "@jar-count/core/contract";
import type { ErrorRequestHandler } from "express";
import { Refusal, wrongAt } from "../refusal/index.ts";

/** What other people's code throws: Express of a body, PostgreSQL of a row. */
interface Thrown extends Error {
  type?: string;
  status?: number;
  code?: string;
  constraint?: string;
}

/** Every failure leaves by this door, in one shape; what nobody foresaw is logged, and sent without its insides. */
export const answerWithProblem: ErrorRequestHandler = (error: Thrown, _req, res, next) => {
  if (res.headersSent) return next(error);
  const refusal = error instanceof Refusal ? error : refusalOf(error);
  const { status, title } = PROBLEMS[refusal.code];
  const body: ErrorBody = {
    type: problemType(refusal.code),
    code: refusal.code,
    title,
    status,
    detail: refusal.message,
    ...refusal.more,
  };
  res.status(status).type("application/problem+json").send(JSON.stringify(body));
};

/** PostgreSQL's code where a row names another that is not there, and where a key is taken (its manual, appendix A). */
const FOREIGN_KEY = "23503";
const UNIQUE = "23505";
/** Its classes of codes for a server that is stopping or starting, and for a lost connection; and Node's own. */
const AWAY = /^(57P|08|ECONN)/;
const AWAY_WORDS = /connection terminated|not queryable|timeout exceeded when trying to connect/i;

function refusalOf(error: Thrown): Refusal {
  if (error.type === "entity.parse.failed") {
    return new Refusal("not-json", `The body can't be read as JSON: ${error.message}.`);
  }
  if (error.type === "entity.too.large") {
    return new Refusal("too-large", "The body is larger than this takes. Split it, or leave out what is not needed.");
  }
  if (error.status === 400) return new Refusal("unreadable", error.message);
  if (error.status === 415) return new Refusal("wrong-media-type", error.message);
  if (error.constraint === "components_code") {
    return wrongAt("/component/code", "Another component has this code. Choose a different one.");
  }
  if (error.code === FOREIGN_KEY || error.code === UNIQUE) {
    return new Refusal(
      "invalid",
      "This names something that is not here, or an id that is taken. Load the page again and repeat the change.",
    );
  }
  // Nothing was written, and the same can be sent again.
  if (AWAY.test(error.code ?? "") || AWAY_WORDS.test(error.message)) {
    return new Refusal("away", "The database can't be reached just now. Nothing was saved; it is tried again.");
  }
  console.error(error);
  return new Refusal("fault", "Something went wrong on the server. Nothing was saved; try again.");
}
