import type { Form } from "@jar-count/core/contract";
import type { ReactNode } from "react";

/** Drawn over a contour, so that white thread shows on white paper and black on black. */
function Line({ d, colour, wide = 2 }: { d: string; colour: string; wide?: number }) {
  return (
    <>
      <path d={d} fill="none" stroke="var(--contour)" strokeWidth={wide + 1.1} />
      <path d={d} fill="none" stroke={colour} strokeWidth={wide} />
    </>
  );
}

function Area({ d, colour, children }: { d: string; colour: string; children?: ReactNode }) {
  return (
    <>
      <path d={d} fill={colour} stroke="var(--contour)" strokeWidth={0.9} />
      {children}
    </>
  );
}

const INK = "var(--contour)";
const PAPER = "#f3f0e8";
const thin = (d: string) => <path d={d} fill="none" stroke={INK} strokeWidth={0.9} />;

/** What is strung on, used up, packed in or pinned through, in a square of 24: each as what it is. Our own drawings. */
const DRAWN: Partial<Record<Form, (colour: string) => ReactNode>> = {
  thread: (c) => (
    <>
      <Area d="M6 3h12v3H6zM6 18h12v3H6z" colour="#b58b5a" />
      <Area d="M7.500 6h9v12h-9z" colour={c} />
      {thin("M7.500 9h9M7.500 12h9M7.500 15h9")}
    </>
  ),
  "beading wire": (c) => (
    <>
      <Line d="M12 4a8 8 0 1 0 .1 0M12 7a5 5 0 1 0 .1 0" colour={c} wide={1.1} />
      <Line d="M18 6l4-3" colour={c} wide={1.1} />
    </>
  ),
  "craft wire": (c) => (
    <>
      <Line d="M12 4a8 8 0 1 0 .1 0M12 7.500a4.500 4.500 0 1 0 .1 0" colour={c} wide={2} />
      <Line d="M18 6l4-3" colour={c} wide={2} />
    </>
  ),
  "memory wire": (c) => (
    <Line d="M3 8c0-5 18-5 18 0s-18 5-18 0M3 13c0 5 18 5 18 0M3 18c0 5 18 5 18 0" colour={c} wide={1.3} />
  ),
  "stretch cord": (c) => <Line d="M3 16C5 5 10 5 10 12s-4 7-4 0 9-9 11-2-2 8-4 3 4-8 8-3" colour={c} wide={1.6} />,
  cord: (c) => <Line d="M3 17C5 4 11 4 11 12s-5 7-5 0 9-9 12-2-3 9-5 3 4-8 8-3" colour={c} wide={3} />,
  ribbon: (c) => (
    <Area d="M2 6l8-2 4 5 8-2v6l-8 2-4-5-8 2zM10 10l4 5v6l-4-5z" colour={c}>
      {thin("M10 4v6M14 9v6")}
    </Area>
  ),
  chain: (c) => (
    <>
      <Line d="M3.500 12a3.300 2.300 0 1 0 6.600 0a3.300 2.300 0 1 0-6.600 0" colour={c} wide={1.5} />
      <Line d="M13.900 12a3.300 2.300 0 1 0 6.600 0a3.300 2.300 0 1 0-6.600 0" colour={c} wide={1.5} />
      <Line d="M8.700 12h6.600" colour={c} wide={1.8} />
    </>
  ),
  "stone chain": (c) => (
    <>
      <Line d="M2 12h20" colour="#b7b4ad" wide={1} />
      {[5, 12, 19].map((x) => (
        <Area key={x} d={`M${x - 2.6} 12a2.600 2.600 0 1 0 5.200 0a2.600 2.600 0 1 0-5.200 0`} colour={c} />
      ))}
    </>
  ),
  "head pin": (c) => (
    <>
      <Line d="M12 3v16" colour={c} wide={1.5} />
      <Line d="M9 20.500h6" colour={c} wide={2} />
    </>
  ),
  "eye pin": (c) => (
    <>
      <Line d="M12 9v13" colour={c} wide={1.5} />
      <Line d="M12 2.500a3 3 0 1 0 .1 0" colour={c} wide={1.5} />
    </>
  ),
  needle: () => (
    <>
      <Line d="M4 20L18.500 5.500" colour="#c9ccce" wide={1.4} />
      <Line d="M18 6a1.500 2.600 45 1 0 2.600-2.600a1.500 2.600 45 1 0-2.600 2.600" colour="#c9ccce" wide={1} />
    </>
  ),
  glue: () => (
    <>
      <Area d="M6 8h9l1.500 12h-12z" colour="#e7c96b" />
      <Area d="M8.500 5h4l1 3h-6z" colour="#b3262f" />
      {thin("M10.500 5V2M7 14h7.500")}
    </>
  ),
  bag: () => (
    <Area d="M5 4h14v17H5z" colour="#dfe8ea">
      {thin("M5 7.500h14M5 9h14M9 14h6")}
    </Area>
  ),
  card: () => (
    <Area d="M6 3h12v18H6z" colour={PAPER}>
      {thin("M10.500 6h3M8.500 11h7M8.500 14h7M8.500 17h4")}
    </Area>
  ),
  label: () => (
    <Area d="M4 8l4-4h12v16H8l-4-4z" colour={PAPER}>
      {thin("M8 12a1.200 1.200 0 1 0 .1 0M11.500 9h6M11.500 12h6M11.500 15h4")}
    </Area>
  ),
  mailer: () => (
    <Area d="M2 6h20v13H2z" colour="#d2a878">
      {thin("M2 6l10 7.500L22 6")}
    </Area>
  ),
  "packing box": () => (
    <>
      <Area d="M3 8l9-4 9 4v9l-9 4-9-4z" colour="#c99f6b" />
      {thin("M3 8l9 4 9-4M12 12v9M7.500 6l9 4v3")}
    </>
  ),
};

/** Something that is used up, of no form that is known: a tin. */
const tin = () => (
  <>
    <Area d="M5 9h14v11H5z" colour="#cfc6b4" />
    <Area d="M4 5h16v4H4z" colour="#b9b2a4" />
  </>
);

/** The drawing of a form that is no bead; null where its own shape is drawn as beads are. */
export const thingOf = (form: Form | null, kind: string): ((colour: string) => ReactNode) | null =>
  (form && DRAWN[form]) ??
  (kind === "stringing" ? DRAWN.cord! : kind === "packaging" ? DRAWN["packing box"]! : null) ??
  (kind === "consumable" ? tin : null);
