import type { BilledComponent, BoxBill, Paper } from "@jar-count/core/contract";
import {
  cautionWords,
  type Contents,
  contentsOf,
  DEFER,
  type KeyCard,
  sayHowMuch,
  sayMakes,
  sayTaken,
} from "@jar-count/core/run";
import type { LengthUnit } from "@jar-count/core/units";
import PDFDocument from "pdfkit";
import { FONTS } from "./sheet.ts";

const MM = 72 / 25.4;
const MARGIN = 18 * MM;
const ROW = 17;
const SIZES = { a4: "A4", letter: "LETTER" } as const satisfies Record<Paper, string>;

export interface SheetOptions {
  paper: Paper;
  unit: LengthUnit;
  /** Whether pieces to spare are told. */
  spares: boolean;
  /** One colourway, or null for a sheet of each. */
  first: string | null;
}

/**
 * Contents lists as a PDF, each variant from its own page on: what the box makes, what is in it, what must be at hand,
 * the usual cautions, and the bead key card of each design. All of it comes from the bill.
 */
export function contentsSheet(bill: BoxBill, { paper, unit, spares, first }: SheetOptions): Promise<Buffer> {
  const doc = new PDFDocument({ size: SIZES[paper], margin: MARGIN, info: { Title: `${bill.theme}, contents` } });
  doc.registerFont("plain", FONTS.plain).registerFont("strong", FONTS.strong);
  const parts: Buffer[] = [];
  doc.on("data", (part: Buffer) => parts.push(part));
  const done = new Promise<Buffer>((resolve) => doc.on("end", () => resolve(Buffer.concat(parts))));
  const variants = bill.variants.filter((v) => first === null || v.first === first);
  variants.forEach((variant, i) => {
    if (i > 0) doc.addPage();
    sheetOf(doc, contentsOf(bill, variant), unit, spares);
  });
  doc.end();
  return done;
}

function sheetOf(doc: PDFKit.PDFDocument, contents: Contents, unit: LengthUnit, spares: boolean) {
  const { theme, variant, bags, atHand, cautions, cards } = contents;
  doc.font("strong").fontSize(22).fillColor("#1c1f22").text(theme);
  if (variant !== "") doc.font("plain").fontSize(13).fillColor("#555555").text(variant);
  heading(doc, "It makes");
  for (const card of cards) line(doc, sayMakes(card));
  for (const bag of bags) {
    heading(doc, bags.length === 1 ? "In the box" : `In the box: ${bag.title}`);
    for (const item of bag.items) row(doc, item.component, item.component.name, sayHowMuch(item, unit, spares));
  }
  if (atHand.length > 0) {
    heading(doc, "Not in the box; have at hand");
    for (const thing of atHand) line(doc, thing);
  }
  if (cautions.length > 0) {
    heading(doc, "Take care");
    for (const words of [...cautionWords(cautions), DEFER]) line(doc, words);
  }
  for (const card of cards) keyCard(doc, card, unit);
}

/** A design's bead key: the letter of each bead as its instructions say it. */
function keyCard(doc: PDFKit.PDFDocument, card: KeyCard, unit: LengthUnit) {
  if (card.keys.length === 0) return;
  heading(doc, `Bead key: ${card.name}`, 3);
  for (const key of card.keys) row(doc, key.component, key.component.name, sayTaken(key, unit), key.key);
}

/** Begins a new page where so many points do not fit any more. */
function need(doc: PDFKit.PDFDocument, points: number) {
  if (doc.y + points > doc.page.height - MARGIN) doc.addPage();
}

/** A heading stays with the rows that follow it. */
function heading(doc: PDFKit.PDFDocument, words: string, rows = 1) {
  need(doc, 36 + rows * ROW);
  doc.moveDown(0.9).font("strong").fontSize(12).fillColor("#1c1f22").text(words, MARGIN);
  doc.moveDown(0.25);
}

function line(doc: PDFKit.PDFDocument, words: string) {
  need(doc, ROW);
  doc
    .font("plain")
    .fontSize(10.5)
    .fillColor("#1c1f22")
    .text(words, MARGIN, doc.y, { width: widthOf(doc) });
  doc.moveDown(0.15);
}

const widthOf = (doc: PDFKit.PDFDocument) => doc.page.width - 2 * MARGIN;

/** A row: a small drawing, a key's letter where there is one, a name, and how much at the right. */
function row(doc: PDFKit.PDFDocument, component: BilledComponent, name: string, howMuch: string, key?: string) {
  const [lead, right] = [key === undefined ? 20 : 52, 170];
  const width = widthOf(doc) - lead - right - 8;
  doc.font("plain").fontSize(10.5);
  const tall = Math.max(
    ROW,
    doc.heightOfString(name, { width }) + 4,
    doc.heightOfString(howMuch, { width: right }) + 4,
  );
  need(doc, tall);
  const y = doc.y;
  chip(doc, component, MARGIN + 6, y + 6.5);
  doc.fillColor("#1c1f22");
  if (key !== undefined) doc.font("strong").text(key, MARGIN + 20, y, { width: 30 });
  doc.font("plain").text(name, MARGIN + lead, y, { width });
  doc.font("strong").text(howMuch, doc.page.width - MARGIN - right, y, { width: right, align: "right" });
  doc
    .moveTo(MARGIN, y + tall - 3)
    .lineTo(doc.page.width - MARGIN, y + tall - 3)
    .lineWidth(0.4)
    .stroke("#d5d2cb");
  doc.y = y + tall;
  doc.x = MARGIN;
}

/** A bead by its outline and colour; what is no bead as a square. */
function chip(doc: PDFKit.PDFDocument, { kind, form, colour }: BilledComponent, x: number, y: number) {
  const r = 5;
  doc.lineWidth(0.5);
  if (form === "cube" || form === "tube" || form === "cylinder") doc.roundedRect(x - r, y - r, 2 * r, 2 * r, 1.2);
  else if (form === "bicone") doc.polygon([x - r, y], [x, y - r], [x + r, y], [x, y + r]);
  else if (form === "seed" || form === "rondelle") doc.ellipse(x, y, r, r * 0.72);
  else if (kind === "bead" || kind === "focal" || kind === "finding") doc.circle(x, y, r);
  else doc.rect(x - r, y - r * 0.7, 2 * r, 1.4 * r);
  doc.fillAndStroke(colour, "#333333");
}
