import { type Letter, letterRows, letterTotal } from "@jar-count/core/buy";
import type { Paper } from "@jar-count/core/contract";
import PDFDocument from "pdfkit";
import { FONTS } from "./sheet.ts";

const MM = 72 / 25.4;
const MARGIN = 20 * MM;
const INK = "#1c1f22";

/** A letter as a thread is given it: names by component, since no function goes there. */
export type LetterData = Omit<Letter, "nameOf"> & { names: Record<string, ReturnType<Letter["nameOf"]>> };

/** An order as a letter: to whom, what, how many packs, by when, and what it comes to. */
export function orderSheet({ names, ...data }: LetterData, paper: Paper): Promise<Buffer> {
  const letter: Letter = { ...data, nameOf: (id) => names[id]! };
  const { order, supplier, workshop } = letter;
  const doc = new PDFDocument({
    size: paper === "a4" ? "A4" : "LETTER",
    margin: MARGIN,
    info: { Title: `Order ${order.number}` },
  });
  doc.registerFont("plain", FONTS.plain).registerFont("strong", FONTS.strong);
  const parts: Buffer[] = [];
  doc.on("data", (part: Buffer) => parts.push(part));
  const done = new Promise<Buffer>((resolve) => doc.on("end", () => resolve(Buffer.concat(parts))));
  const width = doc.page.width - 2 * MARGIN;
  doc.fillColor(INK).font("strong").fontSize(20).text(`Order ${order.number}`);
  doc.font("plain").fontSize(11).text(`${workshop} to ${supplier}, ${order.placedOn}`).moveDown(1.2);

  const [packs, price] = [150, 90];
  const cells = (row: { left: string; small: string; packs: string; price: string }, face: "plain" | "strong") => {
    const wide = width - packs - price - 16;
    doc.font(face).fontSize(10.5);
    const tall = Math.max(
      doc.heightOfString(row.left, { width: wide }),
      doc.heightOfString(row.packs, { width: packs }),
    );
    const whole = tall + (row.small === "" ? 0 : 12) + 8;
    if (doc.y + whole > doc.page.height - MARGIN) doc.addPage();
    const y = doc.y;
    doc.fillColor(INK).text(row.left, MARGIN, y, { width: wide });
    if (row.small !== "")
      doc.font("plain").fontSize(9).fillColor("#444444").text(row.small, MARGIN, doc.y, { width: wide });
    doc.fillColor(INK).font(face).fontSize(10.5);
    doc.text(row.packs, MARGIN + wide + 8, y, { width: packs });
    doc.text(row.price, MARGIN + width - price, y, { width: price, align: "right" });
    doc
      .moveTo(MARGIN, y + whole - 3)
      .lineTo(MARGIN + width, y + whole - 3)
      .lineWidth(0.4)
      .stroke("#d5d2cb");
    doc.x = MARGIN;
    doc.y = y + whole;
  };
  for (const row of letterRows(letter)) {
    cells(
      {
        left: row.name,
        small: [row.code, row.due ? `due ${row.due}` : ""].filter(Boolean).join(" · "),
        packs: `${row.packs} × ${row.pack}`,
        price: `${row.price} ${order.currency}`,
      },
      "plain",
    );
  }
  cells({ left: "In all", small: "", packs: "", price: `${letterTotal(order)} ${order.currency}` }, "strong");
  if (order.note !== "") doc.moveDown(1).font("plain").fontSize(10.5).text(order.note, MARGIN, doc.y, { width });
  doc.end();
  return done;
}
