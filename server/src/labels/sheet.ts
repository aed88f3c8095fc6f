import type { Component, Paper } from "@jar-count/core/contract";
import { createRequire } from "node:module";
import PDFDocument from "pdfkit";
import QRCode from "qrcode";

const MM = 72 / 25.4;

/** Sheets of labels as stationers sell them, mm: common practice. */
const PAPERS = {
  a4: { size: "A4", columns: 3, rows: 8, left: 0, top: 4.5, width: 70, height: 36 },
  letter: { size: "LETTER", columns: 3, rows: 10, left: 4.8, top: 12.7, width: 69.9, height: 25.4 },
} as const satisfies Record<Paper, object>;
export const labelsASheet = (paper: Paper) => PAPERS[paper].columns * PAPERS[paper].rows;

const require = createRequire(import.meta.url);
const font = (weight: number) =>
  require.resolve(`@fontsource/hanken-grotesk/files/hanken-grotesk-latin-${weight}-normal.woff`);

/** The faces that printed sheets are set in. */
export const FONTS = {
  plain: font(400),
  strong: font(600),
  title: require.resolve("@fontsource/young-serif/files/young-serif-latin-400-normal.woff"),
};

/** What a jar's code leads to: its count screen, at the workshop's own address. */
export const jarAddress = (publicAddress: string, code: string) =>
  `${publicAddress.replace(/\/+$/, "")}/j/${encodeURIComponent(code)}`;

/** A QR code's modules, dark ones true, row by row: error correction M, so that a scratched label is still read. */
export function qrModules(text: string): boolean[][] {
  const { size, data } = QRCode.create(text, { errorCorrectionLevel: "M" }).modules;
  return Array.from({ length: size }, (_, y) => Array.from({ length: size }, (_, x) => data[y * size + x] === 1));
}

/** What one label says, and where its code leads. */
export interface LabelFace {
  strong: string;
  text: string;
  small: string;
  address: string;
  /** Of the chip; null for none. */
  colour: string | null;
}

/** What a jar's label says: name, size and kind, chip, code, and its count screen behind the QR code. */
const jarFace = (c: Component, publicAddress: string): LabelFace => ({
  strong: c.code,
  text: c.name,
  small: [c.size, c.form ?? c.kind, c.holeMm ? `hole ${c.holeMm} mm` : null].filter(Boolean).join(" · "),
  address: jarAddress(publicAddress, c.code),
  colour: c.colour,
});

/** Labels for jars as a PDF. */
export const labelSheet = (
  components: readonly Component[],
  publicAddress: string,
  paper: Paper,
  skip: number,
  note: (done: number) => unknown = () => {},
): Promise<Buffer> =>
  sheetOfLabels(
    components.map((c) => jarFace(c, publicAddress)),
    { title: "Jar labels", paper, skip },
    note,
  );

/**
 * Sheets of labels as a PDF.
 * @param skip how many labels of the first sheet are used up already
 * @param note is called with how many are drawn, sheet by sheet
 */
export function sheetOfLabels(
  faces: readonly LabelFace[],
  { title, paper, skip }: { title: string; paper: Paper; skip: number },
  note: (done: number) => unknown = () => {},
): Promise<Buffer> {
  const p = PAPERS[paper];
  const doc = new PDFDocument({ size: p.size, margin: 0, info: { Title: title } });
  doc.registerFont("plain", FONTS.plain).registerFont("strong", FONTS.strong);
  const parts: Buffer[] = [];
  doc.on("data", (part: Buffer) => parts.push(part));
  const done = new Promise<Buffer>((resolve) => doc.on("end", () => resolve(Buffer.concat(parts))));
  const each = labelsASheet(paper);
  faces.forEach((face, i) => {
    const at = i + skip;
    if (at > skip && at % each === 0) {
      doc.addPage();
      void note(i);
    }
    const x = (p.left + (at % p.columns) * p.width) * MM;
    const y = (p.top + Math.floor((at % each) / p.columns) * p.height) * MM;
    label(doc, face, x, y, p.width * MM, p.height * MM);
  });
  doc.end();
  return done;
}

const PAD = 3.5 * MM;

function label(doc: PDFKit.PDFDocument, face: LabelFace, x: number, y: number, width: number, height: number) {
  const modules = qrModules(face.address);
  const side = Math.min(height - 2 * PAD, 22 * MM);
  const module = side / modules.length;
  const [qx, qy] = [x + width - PAD - side, y + (height - side) / 2];
  modules.forEach((row, j) => {
    // Dark modules side by side are one bar: fewer marks, and no seams between them.
    for (let i = 0; i < row.length; i++) {
      if (!row[i]) continue;
      const from = i;
      while (row[i + 1]) i++;
      doc.rect(qx + from * module, qy + j * module, (i - from + 1) * module, module * 1.02);
    }
  });
  doc.fill("#000000");
  const chip = 5 * MM;
  const indent = face.colour === null ? 0 : chip + 4;
  if (face.colour !== null)
    doc.circle(x + PAD + chip / 2, y + PAD + chip / 2, chip / 2).fillAndStroke(face.colour, "#333333");
  const left = x + PAD;
  const text = width - 3 * PAD - side;
  doc
    .fillColor("#000000")
    .font("strong")
    .fontSize(9.5)
    .text(face.strong, left + indent, y + PAD + 2, {
      width: text - indent,
      height: 12,
      ellipsis: true,
      lineBreak: false,
    });
  doc
    .font("plain")
    .fontSize(9.5)
    .text(face.text, left, y + PAD + chip + 4, { width: text, height: height - 2 * PAD - chip - 16, ellipsis: true });
  doc
    .fontSize(7.5)
    .fillColor("#444444")
    .text(face.small, left, y + height - PAD - 8, { width: text, height: 9, ellipsis: true, lineBreak: false });
}
