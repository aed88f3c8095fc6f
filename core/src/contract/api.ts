import { z } from "zod";
import { Ahead, Shares } from "./ahead.ts";
import { RestorePlan, Restoring } from "./archive.ts";
import { Box, BoxDetail, BoxSummary, ChangeBox, SaveBox, SavedBox } from "./box.ts";
import { ChangeComponents, ComponentList, PlaceComponents, SaveComponent } from "./component.ts";
import { CountAnswer, CountRequest } from "./count.ts";
import { Design } from "./design.ts";
import { FitAnswer, FitRequest, LengthsAnswer, LengthsRequest, SentencesAnswer, SentencesRequest } from "./fit.ts";
import { Imported, ImportRequest, INTAKES } from "./intake.ts";
import { ComponentDetail } from "./jar.ts";
import { READING_LEVELS } from "./kinds.ts";
import { LabelRequest, PAPERS } from "./label.ts";
import { Books, Movement, Reverse, StockEntry } from "./ledger.ts";
import { DesignSummary, KeptTrial, PinnedDesign, RevisionNote, SavedDesign, SaveDesign, SaveTrial } from "./library.ts";
import { Delivery, Order, SaveOrder } from "./order.ts";
import { type Reached, type RouteName, ROUTES } from "./routes.ts";
import {
  CostAnswer,
  HowManyAnswer,
  HowManyRequest,
  MeasuredRates,
  MoneyTerms,
  Postage,
  PriceAnswer,
  PriceRequest,
  SaveMoney,
} from "./money.ts";
import { KnownSales, LookedBack, SoldMonths } from "./sale.ts";
import { SetAside } from "./reservation.ts";
import { BillAnswer, BoxBill, CommitBox, CommitPlan, Run, TakeBack } from "./run.ts";
import { PostStocktake, ShelfJar, Stocktake, StocktakeLine } from "./stocktake.ts";
import { Day, RequestKey, Uuid } from "./values.ts";
import { BuyList, PacksAnswer, PacksRequest, WriteOrders, WrittenOrders } from "./buy.ts";
import { CutPiece, EndRun, PackedAnswer, Packing, SetPacked, TakeBackTold, TellPacking, ToldAnswer } from "./pack.ts";
import { Care, Rooms, SaveRooms, SaveWorkshop, Workshop } from "./workshop.ts";

/** One route of the server: all that anybody need know to serve it, call it or describe it. */
export interface RouteSpec extends Reached {
  /** One line of words. */
  summary: string;
  params?: Record<string, z.ZodType>;
  query?: Record<string, z.ZodType>;
  /** The body's schema, or the media type of a body that is not JSON. */
  body?: z.ZodType | string;
  /** The most that a body may be; 2 MB where nothing is said. */
  limit?: string;
  /** The most values that a JSON body may hold, counted before it is read; 100,000 where nothing is said. */
  most?: number;
  /** Handed on as its bytes, to be read by its schema in a thread: it may be large. */
  raw?: true;
  /** The schema of what is sent back, the media type of a file, or null for nothing. */
  answer: z.ZodType | string | null;
  /** 200 where nothing is said; both where a save may make something new. */
  status?: readonly number[];
  /** Statuses of the refusals to be expected beside 500 and 503. */
  refusals?: readonly number[];
  /** With 409 `stale`: the schema of what is there now. */
  current?: z.ZodType;
}

const id = { id: Uuid };
/** A movement's place in the ledger. */
const MovementId = z.string().regex(/^\d{1,18}$/, "Name the movement before which to read on.");
/** Where an earlier list stood: a transaction's number. */
const AsOf = z.string().regex(/^\d{1,19}$/, "Send the asOf of an earlier list.");
const SAVED = [200, 201] as const;

/**
 * The one table of the API. The router, the OpenAPI description, the page's client and its query keys are made from it.
 */
export const API = {
  health: {
    ...ROUTES.health,
    summary: "Whether the server is up and its database takes what is written, and what was looked after last",
    answer: z.object({
      status: z.string(),
      database: z.string(),
      /** How many balances differ from the ledger by the last check; null where none was made. */
      booksDiffer: z.int().nullable(),
      /** Whether the last proved backup is old, or there is none. */
      backupOld: z.boolean(),
    }),
  },
  describe: {
    ...ROUTES.describe,
    summary: "This description (OpenAPI 3.1)",
    answer: z.looseObject({ openapi: z.string() }),
  },
  count: {
    ...ROUTES.count,
    summary: "Count one finished item of a design",
    body: CountRequest,
    limit: "500kb",
    most: 30_000,
    answer: CountAnswer,
    refusals: [400, 413, 422],
  },
  judgeFit: {
    ...ROUTES.judgeFit,
    summary: "Judge whether one finished item of a design fits: holes, crimps, pins, cuts and the rest, with ways out",
    body: FitRequest,
    limit: "500kb",
    most: 30_000,
    answer: FitAnswer,
    refusals: [400, 413, 422],
  },
  findLengths: {
    ...ROUTES.findLengths,
    summary: "Ways to bring a part of a design to a length, the closest first",
    body: LengthsRequest,
    limit: "500kb",
    most: 30_000,
    answer: LengthsAnswer,
    refusals: [400, 413, 422],
  },
  tellSentences: {
    ...ROUTES.tellSentences,
    summary: "The rows of a part of a design in plain sentences",
    body: SentencesRequest,
    limit: "500kb",
    most: 30_000,
    answer: SentencesAnswer,
    refusals: [400, 413, 422],
  },
  readWorkshop: {
    ...ROUTES.readWorkshop,
    summary: "The workshop's name, currency and address",
    answer: Workshop,
  },
  saveWorkshop: {
    ...ROUTES.saveWorkshop,
    summary: "Change the workshop's name, currency and address",
    body: SaveWorkshop,
    answer: Workshop,
    refusals: [409, 422],
    current: Workshop,
  },
  seeInvented: {
    ...ROUTES.seeInvented,
    summary: "Fill an empty workshop with the invented one, to look round in",
    answer: Workshop,
    status: [201],
    refusals: [409],
  },
  readCare: {
    ...ROUTES.readCare,
    summary: "What looks after the workshop by itself: backups, and the books held against the ledger",
    answer: Care,
  },
  askBackUp: {
    ...ROUTES.askBackUp,
    summary: "Ask the job process for a backup now",
    answer: Care,
    status: [202],
    refusals: [409],
  },
  readMoney: {
    ...ROUTES.readMoney,
    summary: "What costs and prices go by: wage, rates of work, channels, and what was made in the shop",
    answer: MoneyTerms,
  },
  saveMoney: {
    ...ROUTES.saveMoney,
    summary: "Write what costs and prices go by, whole",
    body: SaveMoney,
    answer: MoneyTerms,
    refusals: [409, 422],
    current: MoneyTerms,
  },
  readPostage: {
    ...ROUTES.readPostage,
    summary: "What posting costs: asked of the carrier now, or as it said last",
    answer: Postage,
  },
  readMeasured: {
    ...ROUTES.readMeasured,
    summary: "What the packing bench's own times say of the rates of work",
    answer: MeasuredRates,
  },
  priceFor: {
    ...ROUTES.priceFor,
    summary: "The price for a margin or a markup, and what follows from it",
    body: PriceRequest,
    answer: PriceAnswer,
    refusals: [400, 422],
  },
  howMany: {
    ...ROUTES.howMany,
    summary: "How many to make from past sales: the newsvendor's number, and what each number earns",
    body: HowManyRequest,
    answer: HowManyAnswer,
    refusals: [400, 422],
  },
  knownSales: {
    ...ROUTES.knownSales,
    summary: "Every line that was sold, and the boxes that lines may be of",
    answer: KnownSales,
  },
  readSoldMonths: {
    ...ROUTES.readSoldMonths,
    summary: "What was sold of each box, the oldest month first",
    answer: SoldMonths,
  },
  askShop: {
    ...ROUTES.askShop,
    summary: "What the shop sold of the boxes here, as a table that can be brought in",
    answer: "text/csv",
    refusals: [502],
  },
  readLookBack: {
    ...ROUTES.readLookBack,
    summary: "What was planned of packed boxes, and what came of it",
    answer: z.array(LookedBack),
  },
  readRooms: {
    ...ROUTES.readRooms,
    summary: "The workshop's people, suppliers and places",
    answer: Rooms,
  },
  saveRooms: {
    ...ROUTES.saveRooms,
    summary: "Write people, suppliers and places whole",
    body: SaveRooms,
    answer: Rooms,
    refusals: [409, 422],
    current: Rooms,
  },
  readPriceList: {
    ...ROUTES.readPriceList,
    summary: "A supplier's price list of this month, as a table that can be brought in",
    params: id,
    answer: "text/csv",
    refusals: [404],
  },
  listComponents: {
    ...ROUTES.listComponents,
    summary: "Every component with its stock, or those that changed since an earlier list's asOf",
    query: { since: AsOf.optional(), after: Uuid.optional() },
    answer: ComponentList,
    refusals: [422],
  },
  readComponentByCode: {
    ...ROUTES.readComponentByCode,
    summary: "One component by its code",
    params: { code: z.string().max(100) },
    answer: ComponentDetail,
    refusals: [404],
  },
  readComponent: {
    ...ROUTES.readComponent,
    summary: "One component and its latest movements",
    params: id,
    answer: ComponentDetail,
    refusals: [404],
  },
  saveComponent: {
    ...ROUTES.saveComponent,
    summary: "Make a component (version 0) or change it",
    params: id,
    body: SaveComponent,
    answer: ComponentDetail,
    status: SAVED,
    refusals: [404, 409, 422],
    current: ComponentDetail,
  },
  changeComponents: {
    ...ROUTES.changeComponents,
    summary: "Change some fields of several components, all or none",
    body: ChangeComponents,
    limit: "4mb",
    answer: z.object({ changed: z.int() }),
    refusals: [404, 409, 422],
  },
  placeComponents: {
    ...ROUTES.placeComponents,
    summary: "Move all that there is of several components to one place; to be undone by its entry",
    body: PlaceComponents,
    answer: z.object({ entry: z.string().nullable(), moved: z.int() }),
    status: [201],
    refusals: [404, 422],
  },
  listMovements: {
    ...ROUTES.listMovements,
    summary: "Older movements than one of them",
    params: id,
    query: { before: MovementId },
    answer: z.object({ movements: z.array(Movement), older: z.boolean() }),
    refusals: [404, 422],
  },
  moveStock: {
    ...ROUTES.moveStock,
    summary: "Write down what came, went, was counted, cut, moved or made; the same request key happens once",
    params: id,
    body: StockEntry,
    answer: ComponentDetail,
    status: [201],
    refusals: [404, 422],
  },
  setAside: {
    ...ROUTES.setAside,
    summary: "Set stock aside for a purpose",
    params: id,
    body: SetAside,
    answer: ComponentDetail,
    status: [201],
    refusals: [404, 422],
  },
  release: {
    ...ROUTES.release,
    summary: "Give what was set aside free again",
    params: { id: Uuid, reservation: Uuid },
    answer: ComponentDetail,
    refusals: [404],
  },
  reverseEntry: {
    ...ROUTES.reverseEntry,
    summary: "Undo an entry of the ledger by another one",
    params: { entry: z.string().regex(/^\d{1,18}$/, "This is no entry.") },
    body: Reverse,
    answer: z.object({ components: z.array(z.string()) }),
    status: [201],
    refusals: [404, 409, 422],
  },
  checkBooks: {
    ...ROUTES.checkBooks,
    summary: "The books held against the ledger, now: what differs, if anything does",
    answer: Books,
  },
  importTable: {
    ...ROUTES.importTable,
    summary: "Take in a table of components, offers, deliveries or counts: all of it or nothing",
    params: { kind: z.enum(INTAKES) },
    body: ImportRequest,
    limit: "60mb",
    most: 2_000_000,
    raw: true,
    answer: Imported,
    status: [201],
    refusals: [404, 409, 413, 422],
  },
  printLabels: {
    ...ROUTES.printLabels,
    summary: "Sheets of jar labels with QR codes",
    body: LabelRequest,
    answer: "application/pdf",
    refusals: [404, 422],
  },
  readLabelProgress: {
    ...ROUTES.readLabelProgress,
    summary: "How far a sheet of labels is, by its request key",
    params: { key: RequestKey },
    answer: z.object({ done: z.int(), of: z.int() }),
    refusals: [404],
  },
  listOrders: {
    ...ROUTES.listOrders,
    summary: "Every order to a supplier, the newest first",
    answer: z.array(Order),
  },
  readOrder: {
    ...ROUTES.readOrder,
    summary: "One order",
    params: id,
    answer: Order,
    refusals: [404],
  },
  saveOrder: {
    ...ROUTES.saveOrder,
    summary: "Write an order (version 0) or change it",
    params: id,
    body: SaveOrder,
    answer: Order,
    status: SAVED,
    refusals: [404, 409, 422],
    current: Order,
  },
  receiveOrder: {
    ...ROUTES.receiveOrder,
    summary: "Receive an order in full or in part, freight and duty shared",
    params: id,
    body: Delivery,
    answer: Order,
    status: [201],
    refusals: [404, 409, 422],
    current: Order,
  },
  writeOrders: {
    ...ROUTES.writeOrders,
    summary: "Write orders to suppliers for what boxes lack, each line bound to the boxes that it covers",
    body: WriteOrders,
    limit: "5mb",
    answer: WrittenOrders,
    status: [201],
    refusals: [404, 409, 422],
    current: BuyList,
  },
  downloadOrder: {
    ...ROUTES.downloadOrder,
    summary: "An order as a table (RFC 4180)",
    params: id,
    answer: "text/csv",
    refusals: [404],
  },
  printOrder: {
    ...ROUTES.printOrder,
    summary: "An order as a letter",
    params: id,
    query: { paper: z.enum(PAPERS).default("a4") },
    answer: "application/pdf",
    refusals: [404, 422],
  },
  choosePacks: {
    ...ROUTES.choosePacks,
    summary: "Which packs of some offers cover a need for the least money",
    body: PacksRequest,
    answer: PacksAnswer,
    refusals: [400, 413, 422],
  },
  readBuyList: {
    ...ROUTES.readBuyList,
    summary:
      "What to buy for some boxes, or for all that are packed until a day: packs at the least price, by supplier",
    query: {
      /** Ids with commas between; without them and without a day, all open boxes. */
      boxes: z
        .string()
        .transform((text) => text.split(",").filter(Boolean))
        .pipe(z.array(Uuid).max(1000))
        .optional(),
      until: Day.optional(),
    },
    answer: BuyList,
    refusals: [422],
  },
  listStocktakes: {
    ...ROUTES.listStocktakes,
    summary: "Walks along the shelf, the newest first",
    answer: z.array(Stocktake),
  },
  listShelf: {
    ...ROUTES.listShelf,
    summary: "Every jar in the order of the walk",
    answer: z.array(ShelfJar),
  },
  readStocktake: {
    ...ROUTES.readStocktake,
    summary: "One walk and what was counted on it",
    params: id,
    answer: Stocktake,
    refusals: [404],
  },
  beginStocktake: {
    ...ROUTES.beginStocktake,
    summary: "Begin a walk",
    params: id,
    answer: Stocktake,
    status: [201],
    refusals: [404],
  },
  countJar: {
    ...ROUTES.countJar,
    summary: "Write down one jar of a walk",
    params: id,
    body: StocktakeLine,
    answer: Stocktake,
    refusals: [404, 422],
  },
  postStocktake: {
    ...ROUTES.postStocktake,
    summary: "Post counted jars to the ledger",
    params: id,
    body: PostStocktake,
    answer: Stocktake,
    status: [201],
    refusals: [404, 409, 422],
    current: Stocktake,
  },
  listDesigns: {
    ...ROUTES.listDesigns,
    summary: "Every design in its newest revision",
    answer: z.array(DesignSummary),
  },
  readDesign: {
    ...ROUTES.readDesign,
    summary: "One design in its newest revision",
    params: id,
    answer: DesignSummary,
    refusals: [404],
  },
  saveDesign: {
    ...ROUTES.saveDesign,
    summary: "Save a design as a new revision, based on the one named; the same request key happens once",
    params: id,
    body: SaveDesign,
    answer: SavedDesign,
    status: SAVED,
    refusals: [404, 409, 422],
    current: DesignSummary,
  },
  readDesignFile: {
    ...ROUTES.readDesignFile,
    summary: "The design file",
    params: id,
    answer: Design,
    refusals: [404],
  },
  listRevisions: {
    ...ROUTES.listRevisions,
    summary: "The design's revisions, newest first",
    params: id,
    answer: z.array(RevisionNote),
    refusals: [404],
  },
  readRevision: {
    ...ROUTES.readRevision,
    summary: "One revision",
    params: { id: Uuid, no: z.coerce.number().int().min(1) },
    answer: PinnedDesign,
    refusals: [404],
  },
  listTrials: {
    ...ROUTES.listTrials,
    summary: "The design's bench log, newest first",
    params: id,
    answer: z.array(KeptTrial),
    refusals: [404],
  },
  saveTrial: {
    ...ROUTES.saveTrial,
    summary: "Write a trial make down (version 0), or change it",
    params: { id: Uuid, trial: Uuid },
    body: SaveTrial,
    answer: z.array(KeptTrial),
    refusals: [404, 409, 422],
    current: z.array(KeptTrial),
  },
  putDesignAway: {
    ...ROUTES.putDesignAway,
    summary: "Put a design away, or take it out again",
    params: id,
    body: z.strictObject({ archived: z.boolean() }),
    answer: DesignSummary,
    refusals: [404, 422],
  },
  listBoxes: {
    ...ROUTES.listBoxes,
    summary: "Every month's box, with the stripe of its colourways",
    answer: z.array(BoxSummary),
  },
  readBox: {
    ...ROUTES.readBox,
    summary: "One box with its pinned designs and chosen components",
    params: id,
    answer: BoxDetail,
    refusals: [404],
  },
  saveBox: {
    ...ROUTES.saveBox,
    summary: "Make a box (version 0) or save it whole",
    params: id,
    body: SaveBox,
    limit: "10mb",
    most: 500_000,
    answer: SavedBox,
    status: SAVED,
    refusals: [404, 409, 422],
    current: Box,
  },
  changeBox: {
    ...ROUTES.changeBox,
    summary: "Change what is named in a box and leave the rest; the same request key happens once",
    params: id,
    body: ChangeBox,
    limit: "10mb",
    most: 500_000,
    answer: SavedBox,
    refusals: [404, 409, 422],
    current: Box,
  },
  deleteBox: {
    ...ROUTES.deleteBox,
    summary: "Take a box out",
    params: id,
    query: { version: z.coerce.number().int() },
    answer: null,
    status: [204],
    refusals: [404, 409, 422],
    current: Box,
  },
  downloadBill: {
    ...ROUTES.downloadBill,
    summary: "The bill of materials (RFC 4180)",
    params: id,
    answer: "text/csv",
    refusals: [404],
  },
  readBill: {
    ...ROUTES.readBill,
    summary:
      "The bill of materials with spares, cuts and what is left for the box; the frozen one once it is committed",
    params: id,
    answer: BillAnswer,
    refusals: [404],
  },
  readCost: {
    ...ROUTES.readCost,
    summary: "What one box of each variant costs, step by step",
    params: id,
    answer: CostAnswer,
    refusals: [404],
  },
  readFrozenBill: {
    ...ROUTES.readFrozenBill,
    summary: "The bill that the box was committed with, with all that its lists are made from",
    params: id,
    answer: BoxBill,
    refusals: [404],
  },
  readShares: {
    ...ROUTES.readShares,
    summary: "What there is of the box's components, what is to come, and which other boxes want it",
    params: id,
    answer: Shares,
    refusals: [404],
  },
  readRun: {
    ...ROUTES.readRun,
    summary: "How far the box is, and what nothing covers",
    params: id,
    answer: Run,
    refusals: [404],
  },
  planCommit: {
    ...ROUTES.planCommit,
    summary: "What committing the box, or taking its changes over, would do: nothing is written",
    params: id,
    answer: CommitPlan,
    refusals: [404],
  },
  commitBox: {
    ...ROUTES.commitBox,
    summary: "Freeze the box's bill and speak for what it needs; on a committed box, take its changes over",
    params: id,
    body: CommitBox,
    answer: Run,
    status: [201],
    refusals: [404, 409, 422],
    current: CommitPlan,
  },
  takeBack: {
    ...ROUTES.takeBack,
    summary: "Take a committed box back: all that it speaks for is free again",
    params: id,
    body: TakeBack,
    answer: Run,
    status: [201],
    refusals: [404, 409, 422],
  },
  downloadSheet: {
    ...ROUTES.downloadSheet,
    summary: "The maker's sheet of one design of a box in one colourway: what is in the bag, and how it is made",
    params: id,
    query: {
      line: Uuid,
      first: Uuid,
      second: Uuid.optional(),
      size: z.string().max(20).optional(),
      level: z.enum(READING_LEVELS).default("plain"),
      paper: z.enum(PAPERS).default("a4"),
      unit: z.enum(["mm", "in"]).default("mm"),
    },
    answer: "application/pdf",
    refusals: [404, 422],
  },
  downloadContents: {
    ...ROUTES.downloadContents,
    summary: "Contents lists and bead key cards, a sheet for each colourway",
    params: id,
    query: {
      first: Uuid.optional(),
      paper: z.enum(PAPERS).default("a4"),
      unit: z.enum(["mm", "in"]).default("mm"),
      spares: z.enum(["told", "untold"]).default("told"),
    },
    answer: "application/pdf",
    refusals: [404, 422],
  },
  readPacking: {
    ...ROUTES.readPacking,
    summary: "All that packing a committed box needs: its frozen bill, where everything stands, what is packed",
    params: id,
    answer: Packing,
    refusals: [404, 409],
  },
  setPacked: {
    ...ROUTES.setPacked,
    summary: "One box is packed, or is not after all; what it took is posted once, whoever presses twice",
    params: id,
    body: SetPacked,
    answer: PackedAnswer,
    status: [201],
    refusals: [404, 409, 422],
  },
  tellPacking: {
    ...ROUTES.tellPacking,
    summary: "Something broke, was lost, swapped or counted while packing",
    params: id,
    body: TellPacking,
    answer: ToldAnswer,
    status: [201],
    refusals: [404, 409, 422],
  },
  takeBackTold: {
    ...ROUTES.takeBackTold,
    summary: "Take back something told while packing",
    params: { id: Uuid, entry: z.string().regex(/^\d{1,18}$/, "This is no entry.") },
    body: TakeBackTold,
    answer: ToldAnswer,
    status: [201],
    refusals: [404, 409, 422],
  },
  cutPiece: {
    ...ROUTES.cutPiece,
    summary: "Cut one piece into lengths for the box; the rest of it is kept",
    params: id,
    body: CutPiece,
    answer: ToldAnswer,
    status: [201],
    refusals: [404, 409, 422],
  },
  stopRun: {
    ...ROUTES.stopRun,
    summary: "Stop with the boxes that are packed: what the rest spoke for is free again",
    params: id,
    body: EndRun,
    answer: Run,
    status: [201],
    refusals: [404, 409, 422],
  },
  closeRun: {
    ...ROUTES.closeRun,
    summary: "The box goes out: its run is over, and its frozen bill stays",
    params: id,
    body: EndRun,
    answer: Run,
    status: [201],
    refusals: [404, 409, 422],
  },
  printPackLabels: {
    ...ROUTES.printPackLabels,
    summary: "Labels for bags or boxes, each with a code that opens its list",
    params: id,
    query: {
      what: z.enum(["bags", "boxes"]).default("boxes"),
      variant: Uuid.optional(),
      paper: z.enum(PAPERS).default("a4"),
      from: z.coerce.number().int().min(1).default(1),
      to: z.coerce.number().int().min(1).default(1_000_000),
    },
    answer: "application/pdf",
    refusals: [404, 409, 422],
  },
  readAhead: {
    ...ROUTES.readAhead,
    summary: "Every component's stock from day to day: boxes take, orders bring",
    query: { from: Day.optional(), until: Day.optional() },
    answer: Ahead,
    refusals: [422],
  },
  downloadArchive: {
    ...ROUTES.downloadArchive,
    summary: "The whole workshop as a zip of open files",
    answer: "application/zip",
  },
  emptyArchive: {
    ...ROUTES.emptyArchive,
    summary: "An archive of an empty workshop under the same name: brought in, it empties this one",
    answer: "application/zip",
  },
  takeInArchive: {
    ...ROUTES.takeInArchive,
    summary: "Take an archive into an empty workshop: checked whole before anything is written",
    body: "application/zip",
    limit: "50mb",
    answer: z.object({ components: z.int(), designs: z.int(), boxes: z.int(), movements: z.int() }),
    status: [201],
    refusals: [409, 413, 415, 422],
  },
  planRestore: {
    ...ROUTES.planRestore,
    summary: "What an archive holds, beside what is here: nothing is written",
    body: "application/zip",
    limit: "50mb",
    answer: RestorePlan,
    refusals: [413, 415, 422],
  },
  restoreArchive: {
    ...ROUTES.restoreArchive,
    summary: "Put an archive in the place of everything; an archive of what is here is made first",
    params: id,
    /** The plan's `seen`, of whoever was shown one: where something else would go now, nothing does. */
    query: { seen: z.string().max(64).optional() },
    body: "application/zip",
    limit: "50mb",
    answer: Restoring,
    status: [202],
    refusals: [409, 413, 415, 422],
    current: RestorePlan,
  },
  readRestore: {
    ...ROUTES.readRestore,
    summary: "How far an archive is on its way into the workshop",
    params: id,
    answer: Restoring,
    refusals: [404],
  },
} as const satisfies Record<RouteName, RouteSpec>;

export type Api = typeof API;

type Shape = Record<string, z.ZodType>;
type Read<S> = S extends Shape ? z.output<z.ZodObject<S>> : Record<never, never>;
type Sent<S> = S extends Shape ? z.input<z.ZodObject<S>> : Record<never, never>;
type Field<N extends RouteName, F extends keyof RouteSpec> = Api[N] extends { readonly [K in F]: infer V } ? V : null;

/** What a handler is given, read and checked. */
export interface RouteRequest<N extends RouteName> {
  params: Read<Field<N, "params">>;
  query: Read<Field<N, "query">>;
  body: Field<N, "raw"> extends true
    ? Uint8Array
    : Field<N, "body"> extends infer B extends z.ZodType
      ? z.output<B>
      : unknown;
}
type None = Record<never, never>;
type QueryCall<S> = S extends Shape ? (None extends Sent<S> ? { query?: Sent<S> } : { query: Sent<S> }) : NoQuery;
type NoQuery = { query?: undefined };
/** What a caller sends. */
export type RouteCall<N extends RouteName> = (Field<N, "params"> extends Shape
  ? { params: { [K in keyof Field<N, "params">]: string | number } }
  : { params?: undefined }) &
  QueryCall<Field<N, "query">> &
  (Field<N, "body"> extends infer B extends z.ZodType
    ? { body: z.input<B> }
    : Field<N, "body"> extends string
      ? { body: Blob }
      : { body?: undefined });
/** The arguments of a call: none where nothing need be sent. */
export type RouteArguments<N extends RouteName> =
  None extends RouteCall<N> ? [call?: RouteCall<N>] : [call: RouteCall<N>];
/** What comes back: by the schema, or nothing. Files are not read by their type. */
export type RouteAnswer<N extends RouteName> = Api[N]["answer"] extends infer A extends z.ZodType ? z.output<A> : void;
/** Routes whose answer is a file. */
export type FileRoute = { [N in RouteName]: Api[N]["answer"] extends string ? N : never }[RouteName];
