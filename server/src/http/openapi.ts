import { OpenApiGeneratorV31, OpenAPIRegistry, type RouteConfig } from "@asteasolutions/zod-to-openapi";
import {
  Answer,
  BoxDetail,
  BoxSummary,
  ComponentDetail,
  ComponentList,
  CountRequest,
  Delivery,
  Design,
  DesignSummary,
  ErrorBody,
  Movement,
  Order,
  PinnedDesign,
  PostStocktake,
  Reverse,
  RevisionNote,
  Rooms,
  SaveBox,
  SaveComponent,
  SaveDesign,
  SaveOrder,
  SetAside,
  ShelfJar,
  StockEntry,
  Stocktake,
  StocktakeLine,
  Trial,
  Workshop,
} from "@jar-count/core/contract";
import { z } from "zod";
import { Imported, ImportRequest } from "./imports.ts";
import { LabelRequest } from "./labels.ts";

interface Route {
  method: RouteConfig["method"];
  path: string;
  summary: string;
  body?: z.ZodType;
  answers: Record<number, z.ZodType | string>;
  refusals?: number[];
  query?: Record<string, z.ZodType>;
}

const JSON_TYPE = "application/json";
const TakenIn = z.object({ components: z.int(), designs: z.int(), boxes: z.int(), movements: z.int() });

/** Every address of the API, with the schemas that the server itself reads and answers by. */
const ROUTES: Route[] = [
  {
    method: "get",
    path: "/api/health",
    summary: "Whether the server and its database are up",
    answers: { 200: z.object({ status: z.string(), database: z.string() }) },
  },
  { method: "get", path: "/api/openapi.json", summary: "This description", answers: { 200: z.looseObject({}) } },
  {
    method: "post",
    path: "/api/count",
    summary: "Count one finished item of a design",
    body: CountRequest,
    answers: { 200: Answer },
    refusals: [400, 413, 422],
  },
  { method: "get", path: "/api/workshop", summary: "The workshop's name and currency", answers: { 200: Workshop } },
  {
    method: "put",
    path: "/api/workshop",
    summary: "Change the workshop's name and currency",
    body: Workshop,
    answers: { 200: Workshop },
    refusals: [422],
  },
  {
    method: "get",
    path: "/api/components",
    summary: "Every component with its stock, or those that changed since an earlier list's asOf",
    answers: { 200: ComponentList, 304: "Nothing changed" },
    query: { since: z.string().optional(), after: z.uuid().optional() },
  },
  {
    method: "get",
    path: "/api/components/by-code/{code}",
    summary: "One component by its code",
    answers: { 200: ComponentDetail },
    refusals: [404],
  },
  {
    method: "get",
    path: "/api/components/{id}",
    summary: "One component and its latest movements",
    answers: { 200: ComponentDetail },
    refusals: [404],
  },
  {
    method: "put",
    path: "/api/components/{id}",
    summary: "Make a component (version 0) or change it",
    body: SaveComponent,
    answers: { 200: ComponentDetail, 201: ComponentDetail },
    refusals: [409, 422],
  },
  {
    method: "post",
    path: "/api/components/{id}/stock",
    summary: "Write down what came, went, was counted, cut, moved or made; the same request key happens once",
    body: StockEntry,
    answers: { 201: ComponentDetail },
    refusals: [404, 422],
  },
  {
    method: "get",
    path: "/api/components/{id}/movements",
    summary: "Older movements than one of them",
    answers: { 200: z.object({ movements: z.array(Movement), older: z.boolean() }) },
    refusals: [404, 422],
    query: { before: z.string() },
  },
  {
    method: "post",
    path: "/api/components/{id}/aside",
    summary: "Set stock aside for a purpose",
    body: SetAside,
    answers: { 201: ComponentDetail },
    refusals: [404, 422],
  },
  {
    method: "delete",
    path: "/api/components/{id}/aside/{reservation}",
    summary: "Give what was set aside free again",
    answers: { 200: ComponentDetail },
    refusals: [404],
  },
  {
    method: "post",
    path: "/api/entries/{id}/reverse",
    summary: "Undo an entry of the ledger by another one",
    body: Reverse,
    answers: { 201: z.object({ components: z.array(z.string()) }) },
    refusals: [404, 409, 422],
  },
  {
    method: "post",
    path: "/api/imports/{kind}",
    summary: "Take in a table of components, offers, deliveries or counts: all of it or nothing",
    body: ImportRequest,
    answers: { 201: Imported },
    refusals: [413, 422],
  },
  {
    method: "post",
    path: "/api/labels",
    summary: "Sheets of jar labels with QR codes (PDF)",
    body: LabelRequest,
    answers: { 200: "application/pdf" },
    refusals: [404, 422],
  },
  {
    method: "get",
    path: "/api/rooms",
    summary: "The workshop's people, suppliers and places",
    answers: { 200: Rooms },
  },
  {
    method: "put",
    path: "/api/rooms",
    summary: "Write people, suppliers and places whole",
    body: Rooms,
    answers: { 200: Rooms },
    refusals: [422],
  },
  {
    method: "get",
    path: "/api/orders",
    summary: "Every order to a supplier, the newest first",
    answers: { 200: z.array(Order) },
  },
  { method: "get", path: "/api/orders/{id}", summary: "One order", answers: { 200: Order }, refusals: [404] },
  {
    method: "put",
    path: "/api/orders/{id}",
    summary: "Write an order (version 0) or change it",
    body: SaveOrder,
    answers: { 200: Order, 201: Order },
    refusals: [409, 422],
  },
  {
    method: "post",
    path: "/api/orders/{id}/receive",
    summary: "Receive an order in full or in part, freight and duty shared",
    body: Delivery,
    answers: { 201: Order },
    refusals: [404, 422],
  },
  {
    method: "get",
    path: "/api/stocktakes",
    summary: "Walks along the shelf, the newest first",
    answers: { 200: z.array(Stocktake) },
  },
  {
    method: "get",
    path: "/api/stocktakes/shelf",
    summary: "Every jar in the order of the walk",
    answers: { 200: z.array(ShelfJar) },
  },
  {
    method: "get",
    path: "/api/stocktakes/{id}",
    summary: "One walk and what was counted on it",
    answers: { 200: Stocktake },
    refusals: [404],
  },
  {
    method: "put",
    path: "/api/stocktakes/{id}",
    summary: "Begin a walk",
    answers: { 201: Stocktake },
    refusals: [404],
  },
  {
    method: "put",
    path: "/api/stocktakes/{id}/line",
    summary: "Write down one jar of a walk",
    body: StocktakeLine,
    answers: { 200: Stocktake },
    refusals: [404, 422],
  },
  {
    method: "post",
    path: "/api/stocktakes/{id}/post",
    summary: "Post counted jars to the ledger",
    body: PostStocktake,
    answers: { 201: Stocktake },
    refusals: [404, 422],
  },
  {
    method: "get",
    path: "/api/designs",
    summary: "Every design in its newest revision",
    answers: { 200: z.array(DesignSummary) },
  },
  {
    method: "get",
    path: "/api/designs/{id}",
    summary: "One design in its newest revision",
    answers: { 200: DesignSummary },
    refusals: [404],
  },
  {
    method: "put",
    path: "/api/designs/{id}",
    summary: "Save a design as a new revision, based on the one named",
    body: SaveDesign,
    answers: { 200: DesignSummary, 201: DesignSummary },
    refusals: [409, 422],
  },
  {
    method: "get",
    path: "/api/designs/{id}/file",
    summary: "The design file",
    answers: { 200: Design },
    refusals: [404],
  },
  {
    method: "get",
    path: "/api/designs/{id}/revisions",
    summary: "The design's revisions, newest first",
    answers: { 200: z.array(RevisionNote) },
    refusals: [404],
  },
  {
    method: "get",
    path: "/api/designs/{id}/revisions/{no}",
    summary: "One revision",
    answers: { 200: PinnedDesign },
    refusals: [404],
  },
  {
    method: "get",
    path: "/api/designs/{id}/trials",
    summary: "The design's bench log, newest first",
    answers: { 200: z.array(Trial) },
    refusals: [404],
  },
  {
    method: "put",
    path: "/api/designs/{id}/trials/{trial}",
    summary: "Write a trial make down",
    body: Trial,
    answers: { 200: z.array(Trial) },
    refusals: [404, 422],
  },
  {
    method: "put",
    path: "/api/designs/{id}/archived",
    summary: "Put a design away, or take it out again",
    body: z.strictObject({ archived: z.boolean() }),
    answers: { 200: DesignSummary },
    refusals: [404, 422],
  },
  {
    method: "get",
    path: "/api/boxes",
    summary: "Every month's box, with the stripe of its colourways",
    answers: { 200: z.array(BoxSummary) },
  },
  {
    method: "get",
    path: "/api/boxes/{id}",
    summary: "One box with its pinned designs and chosen components",
    answers: { 200: BoxDetail },
    refusals: [404],
  },
  {
    method: "put",
    path: "/api/boxes/{id}",
    summary: "Make a box (version 0) or save it whole",
    body: SaveBox,
    answers: { 200: BoxDetail, 201: BoxDetail },
    refusals: [409, 422],
  },
  {
    method: "delete",
    path: "/api/boxes/{id}",
    summary: "Take a box out",
    answers: { 204: "Taken out" },
    refusals: [404, 409],
    query: { version: z.string() },
  },
  {
    method: "get",
    path: "/api/boxes/{id}/bill.csv",
    summary: "The bill of materials (RFC 4180)",
    answers: { 200: "text/csv" },
    refusals: [404],
  },
  {
    method: "get",
    path: "/api/archive",
    summary: "The whole workshop as a zip of open files",
    answers: { 200: "application/zip" },
  },
  {
    method: "post",
    path: "/api/archive",
    summary: "Take an archive (application/zip) into an empty workshop: checked whole before anything is written",
    answers: { 201: TakenIn },
    refusals: [409, 415, 422],
  },
];

const REFUSAL: Record<number, string> = {
  400: "The body is not JSON",
  404: "Not here",
  409: "Changed meanwhile, or not empty: what is there now comes with it",
  413: "The body is too large",
  415: "Another media type was sent",
  422: "Not as agreed: a message for each place",
};

let described: object | null = null;

/** The OpenAPI 3.1 description, made from the contract's schemas. */
export function describeApi(): object {
  if (described) return described;
  const registry = new OpenAPIRegistry();
  for (const route of ROUTES) {
    const params = [...route.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!);
    const problem = (status: number) =>
      [
        String(status),
        { description: REFUSAL[status]!, content: { "application/problem+json": { schema: ErrorBody } } },
      ] as const;
    registry.registerPath({
      method: route.method,
      path: route.path,
      summary: route.summary,
      operationId: `${route.method}${route.path
        .replace(/^\/api/, "")
        .replace(/[^a-z]+(\w)/gi, (_, c: string) => c.toUpperCase())
        .replace(/\W/g, "")}`,
      request: {
        ...(params.length > 0
          ? { params: z.object(Object.fromEntries(params.map((p) => [p, p === "no" ? z.int().min(1) : z.uuid()]))) }
          : {}),
        ...(route.query ? { query: z.object(route.query) } : {}),
        ...(route.body ? { body: { required: true, content: { [JSON_TYPE]: { schema: route.body } } } } : {}),
      },
      responses: Object.fromEntries([
        ...Object.entries(route.answers).map(([status, answer]) => [
          status,
          typeof answer !== "string"
            ? { description: route.summary, content: { [JSON_TYPE]: { schema: answer } } }
            : answer.includes("/")
              ? { description: route.summary, content: { [answer]: { schema: z.string() } } }
              : { description: answer },
        ]),
        ...(route.refusals ?? []).map(problem),
      ]),
    });
  }
  described = new OpenApiGeneratorV31(registry.definitions).generateDocument({
    openapi: "3.1.0",
    info: {
      title: "Jar Count",
      version: "1",
      description:
        "Lengths are millimetres, masses grams, money decimal text. Refusals are problem details (RFC 9457).",
    },
    servers: [{ url: "/" }],
  });
  return described;
}

/** The addresses described, for a test that holds them against those that answer. */
export const describedRoutes = ROUTES.map(({ method, path }) => ({ method, path }));
