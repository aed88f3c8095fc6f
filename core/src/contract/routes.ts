/** How a route is reached: all that a page needs to call it. What it takes and sends back stands in `api.ts`. */
export interface Reached {
  method: "get" | "put" | "patch" | "post" | "delete";
  /** Under /api, with its parameters in braces. */
  path: string;
}

/** Every route of the server by its name. Those with fixed words stand before those with a parameter in their place. */
export const ROUTES = {
  health: { method: "get", path: "/health" },
  describe: { method: "get", path: "/openapi.json" },
  count: { method: "post", path: "/count" },
  judgeFit: { method: "post", path: "/fit" },
  findLengths: { method: "post", path: "/lengths" },
  tellSentences: { method: "post", path: "/sentences" },
  readWorkshop: { method: "get", path: "/workshop" },
  saveWorkshop: { method: "put", path: "/workshop" },
  seeInvented: { method: "post", path: "/workshop/invented" },
  readCare: { method: "get", path: "/workshop/care" },
  askBackUp: { method: "post", path: "/workshop/care/back-up" },
  readMoney: { method: "get", path: "/money" },
  saveMoney: { method: "put", path: "/money" },
  readPostage: { method: "get", path: "/money/postage" },
  readMeasured: { method: "get", path: "/money/measured" },
  priceFor: { method: "post", path: "/price" },
  howMany: { method: "post", path: "/how-many" },
  knownSales: { method: "get", path: "/sales" },
  readSoldMonths: { method: "get", path: "/sales/months" },
  askShop: { method: "get", path: "/sales/from-shop" },
  readLookBack: { method: "get", path: "/look-back" },
  readRooms: { method: "get", path: "/rooms" },
  saveRooms: { method: "put", path: "/rooms" },
  readPriceList: { method: "get", path: "/suppliers/{id}/price-list" },
  listComponents: { method: "get", path: "/components" },
  readComponentByCode: { method: "get", path: "/components/by-code/{code}" },
  changeComponents: { method: "post", path: "/components/changes" },
  placeComponents: { method: "post", path: "/components/place" },
  readComponent: { method: "get", path: "/components/{id}" },
  saveComponent: { method: "put", path: "/components/{id}" },
  listMovements: { method: "get", path: "/components/{id}/movements" },
  moveStock: { method: "post", path: "/components/{id}/stock" },
  setAside: { method: "post", path: "/components/{id}/aside" },
  release: { method: "delete", path: "/components/{id}/aside/{reservation}" },
  reverseEntry: { method: "post", path: "/entries/{entry}/reverse" },
  checkBooks: { method: "get", path: "/books" },
  importTable: { method: "post", path: "/imports/{kind}" },
  printLabels: { method: "post", path: "/labels" },
  readLabelProgress: { method: "get", path: "/labels/{key}" },
  listOrders: { method: "get", path: "/orders" },
  readOrder: { method: "get", path: "/orders/{id}" },
  saveOrder: { method: "put", path: "/orders/{id}" },
  receiveOrder: { method: "post", path: "/orders/{id}/receive" },
  writeOrders: { method: "post", path: "/orders" },
  downloadOrder: { method: "get", path: "/orders/{id}/order.csv" },
  printOrder: { method: "get", path: "/orders/{id}/order.pdf" },
  choosePacks: { method: "post", path: "/packs" },
  readBuyList: { method: "get", path: "/buy" },
  listStocktakes: { method: "get", path: "/stocktakes" },
  listShelf: { method: "get", path: "/stocktakes/shelf" },
  readStocktake: { method: "get", path: "/stocktakes/{id}" },
  beginStocktake: { method: "put", path: "/stocktakes/{id}" },
  countJar: { method: "put", path: "/stocktakes/{id}/line" },
  postStocktake: { method: "post", path: "/stocktakes/{id}/post" },
  listDesigns: { method: "get", path: "/designs" },
  readDesign: { method: "get", path: "/designs/{id}" },
  saveDesign: { method: "put", path: "/designs/{id}" },
  readDesignFile: { method: "get", path: "/designs/{id}/file" },
  listRevisions: { method: "get", path: "/designs/{id}/revisions" },
  readRevision: { method: "get", path: "/designs/{id}/revisions/{no}" },
  listTrials: { method: "get", path: "/designs/{id}/trials" },
  saveTrial: { method: "put", path: "/designs/{id}/trials/{trial}" },
  putDesignAway: { method: "put", path: "/designs/{id}/archived" },
  listBoxes: { method: "get", path: "/boxes" },
  readBox: { method: "get", path: "/boxes/{id}" },
  saveBox: { method: "put", path: "/boxes/{id}" },
  changeBox: { method: "patch", path: "/boxes/{id}" },
  deleteBox: { method: "delete", path: "/boxes/{id}" },
  downloadBill: { method: "get", path: "/boxes/{id}/bill.csv" },
  readBill: { method: "get", path: "/boxes/{id}/bill" },
  readCost: { method: "get", path: "/boxes/{id}/cost" },
  readFrozenBill: { method: "get", path: "/boxes/{id}/frozen" },
  readShares: { method: "get", path: "/boxes/{id}/shares" },
  readRun: { method: "get", path: "/boxes/{id}/run" },
  planCommit: { method: "get", path: "/boxes/{id}/commit" },
  commitBox: { method: "post", path: "/boxes/{id}/commit" },
  takeBack: { method: "post", path: "/boxes/{id}/take-back" },
  downloadSheet: { method: "get", path: "/boxes/{id}/sheet.pdf" },
  downloadContents: { method: "get", path: "/boxes/{id}/contents.pdf" },
  readPacking: { method: "get", path: "/boxes/{id}/packing" },
  setPacked: { method: "post", path: "/boxes/{id}/packed" },
  tellPacking: { method: "post", path: "/boxes/{id}/told" },
  takeBackTold: { method: "post", path: "/boxes/{id}/told/{entry}/take-back" },
  cutPiece: { method: "post", path: "/boxes/{id}/cuts" },
  stopRun: { method: "post", path: "/boxes/{id}/stop" },
  closeRun: { method: "post", path: "/boxes/{id}/close" },
  printPackLabels: { method: "get", path: "/boxes/{id}/labels.pdf" },
  readAhead: { method: "get", path: "/ahead" },
  downloadArchive: { method: "get", path: "/archive" },
  emptyArchive: { method: "get", path: "/archive/empty" },
  takeInArchive: { method: "post", path: "/archive" },
  planRestore: { method: "post", path: "/archive/plan" },
  restoreArchive: { method: "put", path: "/restores/{id}" },
  readRestore: { method: "get", path: "/restores/{id}" },
} as const satisfies Record<string, Reached>;
export type RouteName = keyof typeof ROUTES;
export const ROUTE_NAMES = Object.keys(ROUTES) as RouteName[];

/**
 * A route's address under /api with its parameters and query filled in.
 * @throws Error where a parameter is missing: a mistake of the caller, not of the data
 */
export function addressOf(
  name: RouteName,
  params: Record<string, string | number> = {},
  query: Record<string, unknown> = {},
): string {
  const path = segmentsOf(name, params).map(encodeURIComponent).join("/");
  const asked = Object.entries(query).filter(([, value]) => value != null);
  const search = asked.map(([key, value]) => `${key}=${encodeURIComponent(String(value))}`).join("&");
  return `/api/${path}${search ? `?${search}` : ""}`;
}

/** The parts of a route's path, parameters filled in: also the key under which a page keeps what it read there. */
export function segmentsOf(name: RouteName, params: Record<string, string | number> = {}): string[] {
  return ROUTES[name].path
    .slice(1)
    .split("/")
    .map((part) => {
      const parameter = /^\{(\w+)\}$/.exec(part)?.[1];
      if (!parameter) return part;
      const value = params[parameter];
      if (value === undefined) throw new Error(`${name} needs ${parameter}`);
      return String(value);
    });
}
