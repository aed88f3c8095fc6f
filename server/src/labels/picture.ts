import {
  type Appearance,
  areasOf,
  type Fitting,
  colourOf,
  linkLook,
  lookOfFitting,
  type Mark,
  type Picture,
} from "@jar-count/core/picture";

const MM = 72 / 25.4;
const CONTOUR = "#3c3c3c";
/** What was there before, where what is new stands in its colours. */
const THERE = "#d9d9d9";

export interface Drawn {
  picture: Picture;
  looks: ReadonlyMap<string, Appearance>;
  /** Which marks are shown in their colours; all of them where nothing is said. */
  isNew?: readonly boolean[];
  /** The thread's way, drawn over the beads. */
  path?: readonly { x: number; y: number }[];
}

/**
 * Draws a window of a picture at real size: a millimetre of the piece is a millimetre on paper.
 * @param at where the window's left top corner lies on the page, points
 * @param window what is shown, mm of the picture
 */
export function drawPicture(
  doc: PDFKit.PDFDocument,
  { picture, looks, isNew, path }: Drawn,
  at: { x: number; y: number },
  window: { left: number; top: number; wide: number; tall: number },
) {
  const inside = ({ x }: { x: number }) => x >= window.left - 40 && x <= window.left + window.wide + 40;
  doc.save();
  doc.rect(at.x, at.y, window.wide * MM, window.tall * MM).clip();
  doc.translate(at.x, at.y).scale(MM).translate(-window.left, -window.top);
  for (const { points, wideMm, key } of picture.lines) {
    const [first, ...rest] = points;
    if (!first) continue;
    doc.moveTo(first.x, first.y);
    for (const p of rest) doc.lineTo(p.x, p.y);
    doc.lineWidth(Math.max(0.25, wideMm)).stroke(colourOf(key, looks, "#777777"));
  }
  for (const link of picture.links) {
    if (!inside(link)) continue;
    doc.save().translate(link.x, link.y).rotate(link.turn);
    const { rx, ry, thick, colour, filled } = linkLook(link, looks);
    doc.ellipse(0, 0, rx, ry);
    if (filled) doc.fill(colour);
    else doc.lineWidth(thick).stroke(colour);
    doc.restore();
  }
  for (const { x, y, rx, ry } of picture.coils) doc.ellipse(x, y, rx, ry).lineWidth(0.6).stroke("#8a8782");
  const order = picture.marks.map((mark, i) => ({ mark, i }));
  order.sort((a, b) => Number(b.mark.behind ?? false) - Number(a.mark.behind ?? false));
  for (const { mark, i } of order) {
    const look = looks.get(mark.drawn);
    if (look && inside(mark)) bead(doc, mark, look, isNew === undefined || isNew[i] === true);
  }
  for (const f of picture.fittings) {
    if (inside(f)) bead(doc, f, lookOfFitting(f, looks), isNew === undefined);
  }
  if (path && path.length > 1) {
    doc.moveTo(path[0]!.x, path[0]!.y);
    for (const p of path.slice(1)) doc.lineTo(p.x, p.y);
    doc.lineWidth(0.35).lineJoin("round").stroke("#a3243b");
  }
  doc.restore();
}

function bead(
  doc: PDFKit.PDFDocument,
  at: Pick<Mark | Fitting, "x" | "y" | "turn" | "flipped">,
  look: Appearance,
  isNew: boolean,
) {
  doc.save().translate(at.x, at.y);
  if (at.turn) doc.rotate(at.turn);
  if (at.flipped) doc.scale(-1, 1);
  const colour = isNew ? look.colour : THERE;
  for (const { d, fill, opacity, wire } of areasOf(look)) {
    if (wire !== undefined) doc.path(d).lineWidth(wire).stroke(colour);
    else if (fill === "shading")
      doc
        .path(d)
        .lineWidth(0.12)
        .fillAndStroke(colour, isNew ? CONTOUR : "#a8a8a8");
    else if (isNew)
      doc
        .path(d)
        .fillOpacity(opacity ?? 1)
        .fill(fill)
        .fillOpacity(1);
  }
  doc.restore();
}

/** A ruler along an edge, so that a print can be held against a real one. */
export function drawRuler(doc: PDFKit.PDFDocument, x: number, y: number, longMm: number, unit: "mm" | "in") {
  const [step, many, long] =
    unit === "mm" ? [1, 10, Math.floor(longMm / 10) * 10] : [25.4 / 8, 8, Math.floor(longMm / 25.4) * 25.4];
  doc.moveTo(x, y).lineTo(x + long * MM, y);
  for (let i = 0; i * step <= long + 1e-6; i++) {
    const tall = i % many === 0 ? 3 : i % (many / 2) === 0 ? 2.2 : 1.4;
    doc.moveTo(x + i * step * MM, y).lineTo(x + i * step * MM, y + tall * MM);
  }
  doc.lineWidth(0.4).stroke("#1c1f22");
  doc.font("plain").fontSize(9).fillColor("#1c1f22");
  for (let i = 0; i * step * many <= long + 1e-6; i += unit === "mm" ? 2 : 1)
    doc.text(`${unit === "mm" ? i * 10 : i}`, x + i * step * many * MM - 10, y + 3.4 * MM, {
      width: 20,
      align: "center",
      lineBreak: false,
    });
  return long;
}
