import type { BoxBill, Design, Paper, Trial } from "@jar-count/core/contract";
import { appearanceOf, emptyPicture } from "@jar-count/core/picture";
import { cautionWords, DEFER, sayHowMuch, sayTaken } from "@jar-count/core/run";
import { type MakersSheet, sayMinutes, sheetFor, type SheetAsked, type SheetPart } from "@jar-count/core/sheet";
import { inUnit, type LengthUnit, sayLength } from "@jar-count/core/units";
import PDFDocument from "pdfkit";
import { drawPicture, drawRuler } from "./picture.ts";
import { FONTS } from "./sheet.ts";

const MM = 72 / 25.4;
const MARGIN = 18 * MM;
const SIZES = { a4: "A4", letter: "LETTER" } as const satisfies Record<Paper, string>;
const INK = "#1c1f22";

export interface MakerSheetOptions {
  paper: Paper;
  unit: LengthUnit;
}

/** The maker's sheet of one line of a box as a PDF; null where the box has no such line or variant. */
export function makerSheet(
  bill: BoxBill,
  design: Design,
  asked: SheetAsked,
  trials: readonly Pick<Trial, "minutes">[],
  options: MakerSheetOptions,
): Promise<Buffer> | null {
  const sheet = sheetFor(bill, design, asked, trials);
  return sheet && new SheetPdf(sheet, options).done();
}

class SheetPdf {
  private readonly doc: PDFKit.PDFDocument;
  private readonly finished: Promise<Buffer>;

  constructor(
    private readonly sheet: MakersSheet,
    private readonly options: MakerSheetOptions,
  ) {
    this.doc = new PDFDocument({
      size: SIZES[options.paper],
      margin: MARGIN,
      info: { Title: `${sheet.name}, maker's sheet` },
    });
    const { doc } = this;
    doc.registerFont("plain", FONTS.plain).registerFont("strong", FONTS.strong).registerFont("title", FONTS.title);
    const parts: Buffer[] = [];
    doc.on("data", (part: Buffer) => parts.push(part));
    this.finished = new Promise((resolve) => doc.on("end", () => resolve(Buffer.concat(parts))));
  }

  done(): Promise<Buffer> {
    this.head();
    this.inTheBag();
    this.key();
    this.ruler();
    for (const part of this.sheet.parts) this.part(part);
    this.doc.end();
    return this.finished;
  }

  private get wide() {
    return this.doc.page.width - 2 * MARGIN;
  }

  private need(points: number) {
    if (this.doc.y + points > this.doc.page.height - MARGIN) this.doc.addPage();
    this.doc.x = MARGIN;
  }

  private heading(words: string, follows = 20) {
    this.need(34 + follows);
    this.doc.moveDown(0.8).font("strong").fontSize(12.5).fillColor(INK).text(words, MARGIN);
    this.doc.moveDown(0.2);
  }

  /** A paragraph; what it begins with stands out. */
  private say(words: string, indent = 0, lead = "") {
    const { doc } = this;
    const width = this.wide - indent;
    const text = inUnit(words, this.options.unit);
    doc.font("strong").fontSize(10.5).fillColor(INK);
    this.need(doc.heightOfString(`${lead}${text}`, { width }));
    if (lead !== "") doc.text(lead, MARGIN + indent, doc.y, { width, continued: text !== "" });
    if (text !== "") {
      doc.font("plain");
      if (lead === "") doc.text(text, MARGIN + indent, doc.y, { width });
      else doc.text(text, { width });
    }
    doc.moveDown(0.15);
    doc.x = MARGIN;
  }

  private length(mm: number) {
    return `${sayLength(mm, this.options.unit)} ${this.options.unit}`;
  }

  private head() {
    const { name, theme, variant, times, judged, minutes, sizes, options, revision } = this.sheet;
    const { doc } = this;
    doc.font("title").fontSize(24).fillColor(INK).text(name);
    doc.font("plain").fontSize(12).text([theme, variant].filter(Boolean).join(", "));
    doc.moveDown(0.4);
    this.say(`${capital(judged.level)} · ${sayMinutes(minutes)}`);
    if (times > 1) this.say(`The box makes it ${times} times.`);
    for (const { label, comesOutMm } of sizes)
      this.say(comesOutMm > 0 ? `Size ${label}: ${this.length(comesOutMm)}` : `Size ${label}`);
    if (options.length > 1) this.say(`Choose one way: ${options.join(" or ")}`);
    this.say(`Revision ${revision}`);
  }

  private inTheBag() {
    const { contents } = this.sheet;
    for (const bag of contents.bags) {
      this.heading(contents.bags.length === 1 ? "In the bag" : `In the bag: ${bag.title}`);
      for (const item of bag.items)
        this.row(item.component.name, sayHowMuch(item, this.options.unit, true), appearanceOf(item.component));
    }
    if (contents.atHand.length > 0) {
      this.heading("Not in the bag; have at hand");
      this.say(contents.atHand.join(", "));
    }
    if (contents.cautions.length > 0) {
      this.heading("Take care");
      for (const words of [...cautionWords(contents.cautions), DEFER]) this.say(words);
    }
  }

  private key() {
    const [card] = this.sheet.contents.cards;
    if (!card || card.keys.length === 0) return;
    this.heading("Bead key", 60);
    for (const key of card.keys)
      this.row(key.component.name, sayTaken(key, this.options.unit), appearanceOf(key.component), key.key);
  }

  /** A drawn bead, its letter where it has one, its name, and how much at the right. */
  private row(name: string, howMuch: string, look: ReturnType<typeof appearanceOf>, letter?: string) {
    const { doc } = this;
    const lead = letter === undefined ? 30 : 64;
    const right = 190;
    doc.font("plain").fontSize(10.5);
    const width = this.wide - lead - right - 8;
    const tall = Math.max(
      19,
      doc.heightOfString(name, { width }) + 5,
      doc.heightOfString(howMuch, { width: right }) + 5,
    );
    this.need(tall);
    const { y } = doc;
    // Drawn as large as its line, not at real size: pictures below are.
    const most = Math.max(look.alongMm, look.acrossMm);
    const shrink = Math.min(1, 5 / most);
    const shown = { ...look, alongMm: look.alongMm * shrink, acrossMm: look.acrossMm * shrink };
    drawPicture(
      doc,
      { picture: { ...emptyPicture("strip"), marks: [{ ...MARK }] }, looks: new Map([["it", shown]]) },
      { x: MARGIN, y: y - 1 },
      { left: -4, top: -3, wide: 8, tall: 6 },
    );
    doc.fillColor(INK);
    if (letter !== undefined)
      doc
        .font("strong")
        .fontSize(10.5)
        .text(letter, MARGIN + 28, y + 1, { width: 36, lineBreak: false });
    doc
      .font("plain")
      .fontSize(10.5)
      .text(name, MARGIN + lead, y + 1, { width });
    doc.font("strong").text(howMuch, doc.page.width - MARGIN - right, y + 1, { width: right, align: "right" });
    doc
      .moveTo(MARGIN, y + tall - 2)
      .lineTo(doc.page.width - MARGIN, y + tall - 2)
      .lineWidth(0.3)
      .stroke("#c9c9c9");
    doc.y = y + tall;
    doc.x = MARGIN;
  }

  private ruler() {
    const { unit } = this.options;
    this.heading("Is the print at real size?", 50);
    this.say(
      "Hold a ruler against this one. Where they differ, print again at 100 %: " +
        "pictures of parts below are at real size.",
    );
    this.need(30);
    drawRuler(this.doc, MARGIN, this.doc.y + 2, this.wide / MM, unit);
    this.doc.y += 9 * MM;
    this.doc.x = MARGIN;
  }

  private part(part: SheetPart) {
    const many = part.makes > 1 ? `, ${part.makes} of it` : "";
    const letter = part.as === null ? "" : ` (${part.as})`;
    this.heading(`${part.name}${letter}${many}`, 60);
    if (part.comesOutMm > 0) this.say(`Comes out at ${this.length(part.comesOutMm)}.`);
    if (part.picture) this.picture(part);
    part.rows.forEach(({ label, text }, i) => {
      const begun = label ? `${capital(label)}: ` : part.rows.length > 1 ? `${i + 1}: ` : "";
      if (text !== "" || label) this.say(text, 10, begun);
    });
    for (const { label, text } of part.made) this.say(text, 10, `${capital(label!)}: `);
    if (part.byRow.length > 0) this.rows(part);
  }

  /** A part at real size; one that is longer than the page goes on below itself. */
  private picture({ picture }: SheetPart) {
    const p = picture!;
    const pad = 2;
    const tall = p.bottom - p.top + 2 * pad;
    const wide = this.wide / MM;
    const most = (this.doc.page.height - 2 * MARGIN) / MM - 20;
    for (let left = p.left - pad; left < p.right + pad - 0.01; left += wide) {
      const window = { left, top: p.top - pad, wide: Math.min(wide, p.right + pad - left), tall: Math.min(tall, most) };
      this.need(window.tall * MM + 4);
      drawPicture(this.doc, { picture: p, looks: this.sheet.looks }, { x: MARGIN, y: this.doc.y }, window);
      this.doc.y += window.tall * MM + 4;
    }
    this.doc.x = MARGIN;
  }

  /** One picture a row, side by side as far as they fit. */
  private rows({ byRow }: SheetPart) {
    const { doc } = this;
    this.say("Row by row: what is there is grey, what is new is in its colours, the thread’s way is the line.");
    let [x, tallest] = [MARGIN, 0];
    for (const { picture: p, isNew, path, label, row } of byRow) {
      const [wide, tall] = [Math.min(p.right - p.left + 4, this.wide / MM), p.bottom - p.top + 4];
      if (x > MARGIN && x + wide * MM > doc.page.width - MARGIN) {
        doc.y += tallest + 8;
        [x, tallest] = [MARGIN, 0];
      }
      if (x === MARGIN) this.need(tall * MM + 22);
      const { y } = doc;
      doc
        .font("strong")
        .fontSize(9.5)
        .fillColor(INK)
        .text(label ?? `Row ${row}`, x, y, { width: Math.max(60, wide * MM), lineBreak: false });
      drawPicture(
        doc,
        { picture: p, looks: this.sheet.looks, isNew, path },
        { x, y: y + 14 },
        { left: p.left - 2, top: p.top - 2, wide, tall },
      );
      doc.y = y;
      x += Math.max(64, wide * MM) + 10;
      tallest = Math.max(tallest, tall * MM + 14);
    }
    doc.y += tallest + 6;
    doc.x = MARGIN;
  }
}

const capital = (words: string) => words.slice(0, 1).toUpperCase() + words.slice(1);

const MARK = { key: "it", drawn: "it", x: 0, y: 0, turn: 0, part: "", from: 0, to: 0, nth: 0, lane: null };
