import { type ErrorBody, PROBLEMS, problemType } from "@jar-count/core/contract";
import type { ErrorRequestHandler } from "express";
import { notFound, Refusal, wrongAt } from "../refusal/index.ts";
import { AWAY, DoFirst, NotKnown } from "../store/database.ts";
import { TooBusy, TooHeavy } from "../queue/index.ts";

/**
 * PostgreSQL's codes (its manual, appendix A): a lock that was not given, a statement that took too long, a transaction
 * in which nothing happened, and one that stood in another's way however often it was tried.
 */
const BUSY = ["55P03", "57014", "25P03", "40P01", "40001"];
/** A full disk, and the database's other means that ran out. */
const DISK_FULL = /^53(100)?/;
/** A number too large for a column, or a text that can't be kept. */
const NOT_KEPT = ["22003", "22021", "22P05", "22008", "54000"];
/** Only reading is allowed just now, as on a copy that follows another. */
const READ_ONLY = "25006";

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
  // Nobody waits for it any more, and what was under way was ended for that.
  if (res.destroyed) return;
  const body = problemOf(error);
  res.status(body.status).type("application/problem+json").send(JSON.stringify(body));
};

/** What is sent of an error (RFC 9457). */
export function problemOf(error: Thrown): ErrorBody {
  const refusal = error instanceof Refusal ? error : refusalOf(error);
  const { status, title } = PROBLEMS[refusal.code];
  return {
    type: problemType(refusal.code),
    code: refusal.code,
    title,
    status,
    detail: refusal.message,
    ...refusal.more,
  };
}

/** Our own code for what is written while an archive is put in the place of everything (migration 0012). */
const RESTORING = "JC001";
/** PostgreSQL's code where a row names another that is not there, and where a key is taken (its manual, appendix A). */
const FOREIGN_KEY = "23503";
const UNIQUE = "23505";
const AWAY_WORDS = /connection terminated|not queryable|timeout exceeded when trying to connect|after calling end/i;

function refusalOf(error: Thrown): Refusal {
  if (error.type === "entity.parse.failed") {
    return new Refusal("not-json", `The body can't be read as JSON: ${error.message}.`);
  }
  if (error.type === "entity.too.large") {
    return new Refusal("too-large", "The body is larger than this takes. Split it, or leave out what is not needed.");
  }
  if (error instanceof NotKnown) {
    return new Refusal(
      "not-known",
      "The connection to the database broke while this was saved, and it is not known yet whether it was. It is sent " +
        "again under the same key, so that it happens once.",
    );
  }
  if (error instanceof TooHeavy) return new Refusal("too-heavy", error.message);
  if (error instanceof TooBusy) return new Refusal("busy", error.message);
  if (error.status === 404) return notFound("This file");
  if (error.status === 400) return new Refusal("unreadable", error.message);
  if (error.status === 415) return new Refusal("wrong-media-type", error.message);
  if (error.code === RESTORING) {
    return new Refusal(
      "restoring",
      "An archive is being put in the place of everything here. Nothing was saved; it is tried again after that.",
    );
  }
  if (error.constraint === "balance_fits") {
    return new Refusal("invalid", "The unit of this component is another one now. Nothing was saved; look again.");
  }
  if (error.constraint === "currency_fixed") {
    return wrongAt("/workshop/currency", "Money was written in this currency meanwhile, so it stays.");
  }
  if (error.constraint === "sales_of_box" || error.constraint === "sales_of_variant") {
    return new Refusal("is-sold", "Some of this was sold meanwhile, so it stays. Nothing was saved; look again.");
  }
  if (error.constraint === "components_code") {
    return wrongAt("/component/code", "Another component has this code. Choose a different one.");
  }
  if (error.code === FOREIGN_KEY || error.code === UNIQUE) {
    return new Refusal(
      "invalid",
      "This names something that is not here, or an id that is taken. Load the page again and repeat the change.",
    );
  }
  if (error.constraint === "base_unit_fixed") {
    return wrongAt(
      "/component/baseUnit",
      "Something was written in its unit meanwhile, so it is fixed. Look at the jar again.",
    );
  }
  if (error.constraint === "posted_once") return wrongAt("/lines", "This jar was posted already.");
  if (NOT_KEPT.includes(error.code ?? "") || error.constraint?.endsWith("_in_range")) {
    return new Refusal("invalid", "A number in this is too large to be kept, or a text is none. Nothing was saved.");
  }
  // Nothing was written, and the same can be sent again; so where what it is worked out from changes all the time.
  if (BUSY.includes(error.code ?? "") || error instanceof DoFirst) {
    return new Refusal("busy", "Somebody else is changing this just now. Nothing was saved; try again in a moment.");
  }
  if (DISK_FULL.test(error.code ?? "")) {
    return new Refusal("disk-full", "The disk of the database is full. Nothing was saved; make room, then try again.");
  }
  if (error.code === READ_ONLY) {
    return new Refusal("away", "The database can only be read just now. Nothing was saved; it is tried again.");
  }
  if (AWAY.test(error.code ?? "") || AWAY_WORDS.test(error.message)) {
    return new Refusal("away", "The database can't be reached just now. Nothing was saved; it is tried again.");
  }
  console.error(error);
  return new Refusal("fault", "Something went wrong on the server. Nothing was saved; try again.");
}
