import { OpenApiGeneratorV31, OpenAPIRegistry } from "@asteasolutions/zod-to-openapi";
import { API, ErrorBody, ROUTE_NAMES, type RouteName, type RouteSpec } from "@jar-count/core/contract";
import { z } from "zod";

const REFUSALS: Record<number, string> = {
  400: "The body is not JSON",
  404: "Not here",
  409: "Changed meanwhile, or not empty: what is there now comes with it",
  413: "The body is too large",
  415: "Another media type was sent",
  422: "Not as agreed: a message for each place",
  502: "Another one, such as the shop, can't be reached: what it said before still holds",
};

const content = (answer: z.ZodType | string) =>
  typeof answer === "string" ? { [answer]: { schema: z.string() } } : { "application/json": { schema: answer } };

function describeRoute(registry: OpenAPIRegistry, name: RouteName) {
  const spec: RouteSpec = API[name];
  const description = spec.summary;
  const { answer } = spec;
  const answers = (spec.status ?? [200]).map(
    (status) => [status, answer === null ? { description } : { description, content: content(answer) }] as const,
  );
  const refusals = (spec.refusals ?? []).map((status) => {
    const now = status === 409 && spec.current ? z.object({ ...ErrorBody.shape, current: spec.current }) : ErrorBody;
    return [
      status,
      { description: REFUSALS[status]!, content: { "application/problem+json": { schema: now } } },
    ] as const;
  });
  registry.registerPath({
    method: spec.method,
    path: `/api${spec.path}`,
    summary: spec.summary,
    operationId: name,
    request: {
      ...(spec.params ? { params: z.object(spec.params) } : {}),
      ...(spec.query ? { query: z.object(spec.query) } : {}),
      ...(spec.body ? { body: { required: true, content: content(spec.body) } } : {}),
    },
    responses: Object.fromEntries([...answers, ...refusals]),
  });
}

let described: { openapi: string } | null = null;

/** The OpenAPI 3.1 description, made from the table of the API. */
export function describeApi(): { openapi: string } {
  if (described) return described;
  const registry = new OpenAPIRegistry();
  for (const name of ROUTE_NAMES) describeRoute(registry, name);
  described = new OpenApiGeneratorV31(registry.definitions).generateDocument({
    openapi: "3.1.0",
    info: {
      title: "Jar Count",
      version: "1",
      description:
        "Lengths are millimetres, masses grams, money decimal text. Refusals are problem details (RFC 9457) " +
        "with a code that programs go by.",
    },
    servers: [{ url: "/" }],
  });
  return described;
}
