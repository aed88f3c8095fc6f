import { MethodDefinition } from "../contract/index.ts";
import cap from "./shipped/cap.method.json" with { type: "json" };
import coiledDrop from "./shipped/coiled-drop.method.json" with { type: "json" };
import cone from "./shipped/cone.method.json" with { type: "json" };
import crimpCrossed from "./shipped/crimp-crossed.method.json" with { type: "json" };
import crimpFlat from "./shipped/crimp-flat.method.json" with { type: "json" };
import crimpFolded from "./shipped/crimp-folded.method.json" with { type: "json" };
import crimpRounded from "./shipped/crimp-rounded.method.json" with { type: "json" };
import earWireBought from "./shipped/ear-wire-bought.method.json" with { type: "json" };
import earWireMade from "./shipped/ear-wire-made.method.json" with { type: "json" };
import gluedCordEnd from "./shipped/glued-cord-end.method.json" with { type: "json" };
import headPinBought from "./shipped/head-pin-bought.method.json" with { type: "json" };
import headPinMade from "./shipped/head-pin-made.method.json" with { type: "json" };
import hiddenBead from "./shipped/hidden-bead.method.json" with { type: "json" };
import jumpRingCharm from "./shipped/jump-ring-charm.method.json" with { type: "json" };
import knotInBead from "./shipped/knot-in-bead.method.json" with { type: "json" };
import knotInCup from "./shipped/knot-in-cup.method.json" with { type: "json" };
import knotSurgeon from "./shipped/knot-surgeon.method.json" with { type: "json" };
import memoryWireLoops from "./shipped/memory-wire-loops.method.json" with { type: "json" };
import ownLoopCharm from "./shipped/own-loop-charm.method.json" with { type: "json" };
import ribbonEnd from "./shipped/ribbon-end.method.json" with { type: "json" };
import ringLink from "./shipped/ring-link.method.json" with { type: "json" };
import simpleLoop from "./shipped/simple-loop.method.json" with { type: "json" };
import wrappedLoop from "./shipped/wrapped-loop.method.json" with { type: "json" };

/** The methods that ship: each a file of its own in `shipped/`. Numbers in them are common practice, from memory. */
export const SHIPPED: readonly MethodDefinition[] = /* @__PURE__ */ [
  cap,
  coiledDrop,
  cone,
  crimpCrossed,
  crimpFlat,
  crimpFolded,
  crimpRounded,
  earWireBought,
  earWireMade,
  gluedCordEnd,
  headPinBought,
  headPinMade,
  hiddenBead,
  jumpRingCharm,
  knotInBead,
  knotInCup,
  knotSurgeon,
  memoryWireLoops,
  ownLoopCharm,
  ribbonEnd,
  ringLink,
  simpleLoop,
  wrappedLoop,
].map((file) => MethodDefinition.parse(file));
