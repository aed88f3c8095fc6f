import type { ErrorRequestHandler } from "express";
import { type ErrorBody, plainMessage } from "@jar-count/core/contract";
import { z } from "zod";
import { notFound, Refusal, wrongAt } from "../refusal.ts";

z.config({ customError: plainMessage });

/** Reads a body by its contract, or refuses it whole with a message for each place. */
export function read<T>(schema: z.ZodType<T>, body: unknown): T {
  const found = schema.safeParse(body);
  if (found.success) return found.data;
  throw new Refusal(
    422,
    "Not as agreed",
    "Some of this can't be accepted; each place says what to mend. Nothing was saved.",
    {
      errors: found.error.issues.slice(0, 100).map((issue) => ({
        pointer: issue.path.map((step) => `/${String(step).replaceAll("~", "~0").replaceAll("/", "~1")}`).join(""),
        detail: issue.message,
      })),
    },
  );
}

export const readId = (id: unknown) => {
  const found = z.uuid().safeParse(id);
  if (!found.success) throw notFound("This address");
  return found.data;
};

interface BodyFault {
  type?: string;
  status?: number;
}
interface DatabaseFault {
  code?: string;
  constraint?: string;
}

/** Every failure leaves by this door, in one shape; what nobody foresaw is logged and told without its insides. */
export const answerWithProblem: ErrorRequestHandler = (error: Error & BodyFault & DatabaseFault, _req, res, next) => {
  if (res.headersSent) return next(error);
  const { status, title, detail, more } = refusalOf(error);
  const body: ErrorBody = { type: "about:blank", title, status, detail, ...more };
  res.status(status).type("application/problem+json").send(JSON.stringify(body));
};

function refusalOf(
  error: Error & BodyFault & DatabaseFault,
): Pick<Refusal, "status" | "title" | "more"> & { detail: string } {
  if (error instanceof Refusal)
    return { status: error.status, title: error.title, detail: error.message, more: error.more };
  if (error.type === "entity.parse.failed") {
    return { status: 400, title: "Not JSON", detail: `The body can't be read as JSON: ${error.message}.`, more: {} };
  }
  if (error.type === "entity.too.large") {
    return {
      status: 413,
      title: "Too large",
      detail: "The body is over 10 MB. Split it, or leave out what is not needed.",
      more: {},
    };
  }
  if (error.status === 400 || error.status === 415)
    return { status: error.status, title: "Can't be read", detail: error.message, more: {} };
  if (error.constraint === "components_code") {
    return refusalOf(wrongAt("/component/code", "Another component has this code. Choose a different one."));
  }
  // 23503 foreign key, 23505 unique: the body names something that is not there, or an id that is taken.
  if (error.code === "23503" || error.code === "23505") {
    return {
      status: 422,
      title: "Not as agreed",
      detail:
        "This names something that is not here, or an id that is taken. Load the page again and repeat the change.",
      more: {},
    };
  }
  // 57P… and 08…: the database is stopping, starting or cut off. Nothing was written, and the same can be sent again.
  if (
    /^(57P|08|ECONN)/.test(error.code ?? "") ||
    /connection terminated|not queryable|timeout exceeded when trying to connect/i.test(error.message)
  ) {
    return {
      status: 503,
      title: "Away for a moment",
      detail: "The database can't be reached just now. Nothing was saved; it is tried again.",
      more: {},
    };
  }
  console.error(error);
  return {
    status: 500,
    title: "Our mistake",
    detail: "Something went wrong on the server. Nothing was saved; try again.",
    more: {},
  };
}
