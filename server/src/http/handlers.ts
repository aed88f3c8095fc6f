import { Design } from "@jar-count/core/contract";
import { ahead, atOnce, frozenBill, readBill, sharesOfBox } from "../work/ahead.ts";
import { packEmpty, packWorkshop, planRestore, takeIn } from "../work/archive.ts";
import { checkBooks } from "../work/book.ts";
import { billFile } from "../work/bills.ts";
import { askBackUp, layDown, readRestoring } from "../work/care.ts";
import { orderFile, orderPdf, packsFor, readBuyList, writeOrders } from "../work/buying.ts";
import { changeBox, readBox, saveBox, takeOutBox } from "../work/boxes.ts";
import {
  allComponents,
  changeComponents,
  changedComponents,
  movementsOf,
  placeComponents,
  readJar,
  readJarByCode,
  saveComponent,
} from "../work/components.ts";
import { putAway, readDesign, readRevision, saveDesign, saveTrial } from "../work/designs.ts";
import { importTable } from "../work/imports.ts";
import { labelProgress, packLabels, printLabels } from "../work/labels.ts";
import { readOrder, receiveOrder, saveOrder } from "../work/orders.ts";
import { closeRun, cutPiece, readPacking, setPacked, stopRun, takeBackTold, tellPacking } from "../work/packing.ts";
import { readLookBack, readMeasured } from "../work/lookBack.ts";
import { numberToMake, price, readCost, readPostage, saveMoney } from "../work/money.ts";
import { askShop, readSoldMonths } from "../work/sales.ts";
import { commitBox, planCommit, readRun, takeBack } from "../work/runs.ts";
import { moveStock, release, reverse, setAside } from "../work/stock.ts";
import { begin, countJar, postStocktake, readStocktake } from "../work/stocktakes.ts";
import { contentsPdf, makerPdf } from "../work/sheets.ts";
import { askPriceList } from "../work/suppliers.ts";
import { fillInvented } from "../work/demo.ts";
import { saveRooms, saveWorkshop } from "../work/workshop.ts";
import { listBoxes, tagOfBox, tagOfBoxes } from "../store/boxes.ts";
import { tagOfComponents } from "../store/components.ts";
import { findCare } from "../store/care.ts";
import { beat, type Databases } from "../store/database.ts";
import { listDesigns, listRevisions, listTrials, tagOfDesigns } from "../store/designs.ts";
import { listOrders } from "../store/orders.ts";
import { findMoney } from "../store/money.ts";
import { knownSales } from "../store/sales.ts";
import { listRooms } from "../store/rooms.ts";
import { listStocktakes, shelf } from "../store/stocktakes.ts";
import { readWorkshop } from "../store/workshop.ts";
import { wrongAt } from "../refusal/index.ts";
import { inThread } from "../threads/pool.ts";
import { caching, sharing } from "./cached.ts";
import { describeApi } from "./openapi.ts";
import { file, saved } from "./reply.ts";
import type { Handlers } from "./router.ts";

/** How long one item may take to be counted, s. */
const COUNT_SECONDS = 10;

/** A part is asked for by its id. */
function mustHavePart({ design, part }: { design: Design; part: string }) {
  if (!design.parts.some((p) => p.id === part))
    throw wrongAt(
      "/part",
      `The design has no part ${part}: its parts are ${design.parts.map((p) => p.id).join(", ")}.`,
    );
}

/**
 * What each route does: read, call, answer. The doing is in `work/`, the SQL in `store/`. Each takes the connections
 * that are meant for it: looking at something and packing never wait for what is long.
 */
export function makeHandlers(databases: Databases, standIns: string | null): Handlers {
  const { health: pulse, reading, packing, work: db } = databases;
  // However many ask at once, the database is written and read once for all of them.
  const health = sharing(async () => {
    await beat(pulse);
    const { books, old, fault } = await findCare(pulse);
    return { status: "ok", database: "ok", booksDiffer: books?.differ ?? null, backupOld: old || fault !== null };
  });
  // However many ask at once, the carrier is asked once for all of them.
  const postage = sharing(() => readPostage(db, standIns));
  // However many ask at once, a bill is counted once for all of them.
  const bill = sharing((id: string) => billFile(db, id));
  const json = async (value: Promise<unknown>) => JSON.stringify(await value);
  const cached = {
    components: caching(
      () => tagOfComponents(reading),
      () => allComponents(reading),
    ),
    designs: caching(
      () => tagOfDesigns(reading),
      () => json(listDesigns(reading)),
    ),
    boxes: caching(
      () => tagOfBoxes(reading),
      () => json(listBoxes(reading)),
    ),
    box: caching(
      (id) => tagOfBox(reading, id),
      (id) => json(readBox(reading, id)),
    ),
  };

  return {
    health: () => health("now"),
    describe: () => describeApi(),
    count: ({ body }, { signal }) => inThread((work) => work.count(body), { signal, seconds: COUNT_SECONDS }),

    judgeFit: ({ body }, { signal }) => inThread((work) => work.fit(body), { signal, seconds: COUNT_SECONDS }),
    findLengths: ({ body }, { signal }) => {
      mustHavePart(body);
      return inThread((work) => work.lengths(body), { signal, seconds: COUNT_SECONDS });
    },
    tellSentences: ({ body }, { signal }) => {
      mustHavePart(body);
      return inThread((work) => work.sentences(body), { signal, seconds: COUNT_SECONDS });
    },

    readWorkshop: () => readWorkshop(reading),
    saveWorkshop: ({ body }) => saveWorkshop(db, body),
    seeInvented: () => fillInvented(db),
    readCare: () => findCare(reading),
    askBackUp: () => askBackUp(db),
    readMoney: () => findMoney(reading),
    saveMoney: ({ body }) => saveMoney(db, body),
    readPostage: () => postage("now"),
    readMeasured: () => readMeasured(db),
    priceFor: ({ body }) => price(body),
    howMany: ({ body }, { signal }) => numberToMake(body, signal),
    knownSales: () => knownSales(reading),
    readSoldMonths: () => readSoldMonths(reading),
    askShop: async (_request, { signal }) => {
      const { name, csv } = await askShop(reading, standIns, signal);
      return file(name, "text/csv; charset=utf-8", csv);
    },
    readLookBack: () => readLookBack(db),
    readRooms: () => listRooms(reading),
    saveRooms: ({ body }) => saveRooms(db, body),

    readPriceList: async ({ params }) => {
      const { name, csv } = await askPriceList(db, params.id);
      return file(name, "text/csv; charset=utf-8", csv);
    },
    listComponents: ({ query: { since, after } }) =>
      since === undefined ? cached.components("all") : changedComponents(reading, since, after ?? null),
    readComponentByCode: ({ params }) => readJarByCode(reading, params.code),
    readComponent: ({ params }) => readJar(reading, params.id),
    changeComponents: ({ body }) => changeComponents(db, body),
    placeComponents: ({ body }) => placeComponents(db, body),
    saveComponent: async ({ params, body }) => saved(body.version === 0, await saveComponent(db, params.id, body)),
    listMovements: ({ params, query }) => movementsOf(reading, params.id, query.before),
    moveStock: ({ params, body }) => moveStock(db, params.id, body),
    setAside: ({ params, body }) => setAside(db, params.id, body),
    release: ({ params }) => release(db, params.id, params.reservation),
    reverseEntry: ({ params, body }) => reverse(db, params.entry, body),
    checkBooks: () => checkBooks(db),
    importTable: ({ params, body }, { signal }) => importTable(db, params.kind, body as Buffer, signal),
    printLabels: async ({ body }, { here, signal }) =>
      file("jar labels.pdf", "application/pdf", await printLabels(db, body, here, signal)),
    readLabelProgress: ({ params }) => labelProgress(params.key),

    listOrders: () => listOrders(reading),
    readOrder: ({ params }) => readOrder(reading, params.id),
    saveOrder: async ({ params, body }) => saved(body.version === 0, await saveOrder(db, params.id, body)),
    receiveOrder: ({ params, body }) => receiveOrder(db, params.id, body),

    writeOrders: ({ body }) => writeOrders(db, body),
    downloadOrder: async ({ params }) => {
      const { name, csv } = await orderFile(db, params.id);
      return file(name, "text/csv; charset=utf-8", csv);
    },
    printOrder: async ({ params, query }, { signal }) => {
      const { name, pdf } = await orderPdf(db, params.id, query.paper, signal);
      return file(name, "application/pdf", pdf);
    },
    choosePacks: ({ body }) => packsFor(body),
    readBuyList: ({ query }, { signal }) => readBuyList(db, query.boxes, query.until, signal),

    listStocktakes: () => listStocktakes(reading),
    listShelf: () => shelf(reading),
    readStocktake: ({ params }) => readStocktake(reading, params.id),
    beginStocktake: ({ params }) => begin(db, params.id),
    countJar: ({ params, body }) => countJar(db, params.id, body),
    postStocktake: ({ params, body }) => postStocktake(db, params.id, body),

    listDesigns: () => cached.designs("all"),
    readDesign: ({ params }) => readDesign(reading, params.id),
    saveDesign: async ({ params, body }) => saved(body.revision === 0, await saveDesign(db, params.id, body)),
    readDesignFile: async ({ params }) => {
      const { name, design } = await readDesign(reading, params.id);
      return file(`${name}.jarcount.json`, "json", `${JSON.stringify(Design.parse(design), null, 2)}\n`);
    },
    listRevisions: ({ params }) => listRevisions(reading, params.id),
    readRevision: ({ params }) => readRevision(reading, params.id, params.no),
    listTrials: ({ params }) => listTrials(reading, params.id),
    saveTrial: ({ params, body }) => saveTrial(db, params.id, params.trial, body),
    putDesignAway: ({ params, body }) => putAway(db, params.id, body.archived),

    listBoxes: () => cached.boxes("all"),
    readBox: ({ params }) => cached.box(params.id),
    saveBox: async ({ params, body }) => saved(body.version === 0, await saveBox(db, params.id, body)),
    changeBox: ({ params, body }) => changeBox(db, params.id, body),
    deleteBox: ({ params, query }) => takeOutBox(db, params.id, query.version),
    downloadBill: async ({ params }) => {
      const { name, csv } = await bill(params.id);
      return file(name, "text/csv; charset=utf-8", csv);
    },

    readBill: ({ params }) => readBill(db, params.id),
    readCost: ({ params }) => readCost(db, params.id, standIns),
    readFrozenBill: ({ params }) => frozenBill(reading, params.id),
    readShares: ({ params }) => sharesOfBox(db, params.id),
    readRun: ({ params }) => atOnce(db, (session) => readRun(session, params.id)),
    planCommit: ({ params }) => planCommit(db, params.id),
    commitBox: ({ params, body }) => commitBox(db, params.id, body),
    takeBack: ({ params, body }) => takeBack(db, params.id, body),
    downloadSheet: async ({ params, query }, { signal }) => {
      const { line, first, second, size, level, paper, unit } = query;
      const asked = { line, first, second: second ?? null, size: size ?? null, level };
      const { name, pdf } = await makerPdf(db, params.id, asked, { paper, unit }, signal);
      return file(name, "application/pdf", pdf);
    },
    downloadContents: async ({ params, query }, { signal }) => {
      const { paper, unit, spares, first } = query;
      const asked = { paper, unit, spares: spares === "told", first: first ?? null };
      const { name, pdf } = await contentsPdf(db, params.id, asked, signal);
      return file(name, "application/pdf", pdf);
    },
    readPacking: ({ params }) => readPacking(packing, params.id),
    setPacked: ({ params, body }) => setPacked(packing, params.id, body),
    tellPacking: ({ params, body }) => tellPacking(packing, params.id, body),
    takeBackTold: ({ params, body }) => takeBackTold(packing, params.id, params.entry, body),
    cutPiece: ({ params, body }) => cutPiece(packing, params.id, body),
    stopRun: ({ params, body }) => stopRun(db, params.id, body),
    closeRun: ({ params, body }) => closeRun(db, params.id, body),
    printPackLabels: async ({ params, query }, { here, signal }) => {
      const asked = { ...query, variant: query.variant ?? null };
      return file("packing labels.pdf", "application/pdf", await packLabels(db, params.id, asked, here, signal));
    },
    readAhead: ({ query }) => ahead(db, query.from, query.until),

    downloadArchive: async () => {
      const { name, zip } = await packWorkshop(db);
      return file(`${name}.jarcount.zip`, "application/zip", zip);
    },
    emptyArchive: async () => file("empty.jarcount.zip", "application/zip", await packEmpty(db)),
    takeInArchive: ({ body }, { signal }) => takeIn(db, body as Buffer, signal),
    planRestore: ({ body }, { signal }) => planRestore(db, body as Buffer, signal),
    restoreArchive: ({ params, query, body }, { signal }) => layDown(db, params.id, body as Buffer, query.seen, signal),
    readRestore: ({ params }) => readRestoring(reading, params.id),
  };
}
