import {
  type BeadAt,
  between,
  describeStretch,
  isMirroredPair,
  keyUse,
  type Mend,
  renameKey,
} from "@jar-count/core/builder";
import {
  type Answer,
  Design as DesignContract,
  DESIGN_VERSION,
  type Design,
  type DesignSummary,
  type KeyEntry,
  type Laid,
  type Part,
} from "@jar-count/core/contract";
import { type Counting, countWhole, type StrungPartOf, unitsOf } from "@jar-count/core/count";
import { checkFit, type FitFound } from "@jar-count/core/fit";
import {
  type Appearance,
  appearancesOf,
  hasWhole,
  isBraid,
  laidOf,
  layOut,
  layWorn,
  type Mark,
  type Picture,
  type Proposal,
} from "@jar-count/core/picture";
import { placeOf } from "@jar-count/core/shorthand";
import { createContext, useContext } from "react";
import { createStore, type StoreApi, useStore } from "zustand";
import { type Draft, type DraftStore, isChanged } from "../../draft/index.ts";
import type { Lit } from "../../ui/StrandPicture.tsx";
import { freeKey, keysOf, sameButRows } from "./designs.ts";
import { draftOf } from "./draftOf.ts";

/** What is shown: the whole piece as worn, the part as it is laid, its strand straight, or its strands braided. */
export type Showing = "worn" | "laid" | "strand" | "braid";

/** How the picture is looked at. */
export interface Look {
  zoom: number;
  /** Null: the whole piece where there is one, else the part as it is laid. */
  showing: Showing | null;
  pair: boolean;
  path: boolean;
}

/** Beads chosen on the strand, from one to another, as long as the text is the one they were chosen in. */
export interface Stretch {
  part: string;
  text: string;
  a: BeadAt;
  b: BeadAt;
  /** Which of the picture's marks was chosen last; -1 where an edit put it there. */
  cursor: number;
}

/** A place in a part's text to go to; a new object each time. */
export interface GoTo {
  part: string;
  row: number;
  from: number;
  to: number;
}

/** What can be open over the bench. */
export type BenchDialog = "log" | "differ" | "revisions" | "fit" | "length" | "method";

/** What a person chose on the bench; nothing of it is saved. */
interface View {
  partId: string;
  askedSize: string | null;
  askedOption: string | null;
  look: Look;
  /** What is pointed at. */
  pointed: Lit | null;
  /** A place that was gone to stays lit until something changes. */
  kept: { lit: Lit; over: Design } | null;
  goTo: GoTo | null;
  stretch: Stretch | null;
  /** Why the last act of the builder was not done. */
  fault: string | null;
  dialog: BenchDialog | null;
  /** The card that explains the notation, where it is open: what is looked for in it. */
  card: string | null;
  /** Text to be put where the cursor stands in the rows; null again once it is there. */
  putIn: { part: string; text: string } | null;
  /** What changed, in the person's words. */
  why: string;
  /** What keeps the design from being saved. */
  saveFaults: readonly string[];
}

export interface Before {
  design: Design;
  answer: Answer;
}

/** What follows from the draft and the view. */
interface Derived {
  design: Design;
  /** The design as it was before rows were typed: what does not read rows need not follow them. */
  frame: Design;
  part: Part | undefined;
  sizes: readonly string[];
  size: string | null;
  option: string | null;
  /** Counted in each size, or once where there is one size. */
  columns: readonly { label: string; counting: Counting }[];
  /** Counted in the chosen size. */
  counting: Counting;
  /** What was last saved, counted, where something changed since. */
  before: Before | null;
  looks: ReadonlyMap<string, Appearance>;
  strung: StrungPartOf | undefined;
  /** Whether it fits: judged from the same counting. */
  fit: FitFound;
  picture: Picture | null;
  /** What is shown, of what there is a choice of; and how the part is laid, with the reason where nobody said it. */
  showing: Showing;
  may: { show: readonly Showing[]; pair: boolean };
  proposal: Proposal;
  /** How wide and tall a part that is a ring comes out, mm, as it is drawn; its thread strung says nothing of that. */
  ringMm: { wide: number; tall: number } | null;
  lit: Lit | null;
  /** The stretch that is still there. */
  selected: Stretch | null;
  isChosen: (mark: Mark) => boolean;
  /** The chosen stretch as text. */
  chosen: { text: string; beads: number } | null;
  unused: readonly string[];
  /** Keys in the rows that the bead key lacks. */
  missing: readonly string[];
}

export type BenchState = View & Derived;

export interface BenchStore {
  id: string;
  draft: DraftStore<Design>;
  state: StoreApi<BenchState>;
  set: (change: Partial<View>) => void;
  editDesign: (change: Partial<Design>, group?: string) => void;
  editPart: (change: Partial<Part>, group?: string) => void;
  editKey: (change: (key: KeyEntry[]) => KeyEntry[], group?: string) => void;
  rename: (from: string, to: string) => void;
  /** Adds a line to the bead key, under the first letter that is free or the key that it is asked under. */
  addEntry: (entry: Omit<KeyEntry, "key" | "id">, key?: string) => string;
  /** Puts right what is wrong at a place of a part's text. */
  mend: (partId: string, mend: Mend) => void;
  /** Goes to a stretch of a part's text, and lights it there and in the picture. */
  show: (partId: string, key: string, at: { from: number; to: number } | null) => void;
  save: () => Promise<void>;
}

const LOOK: Look = { zoom: 1, showing: null, pair: true, path: false };
const STRAND: Proposal = { laid: "strand", reason: null };
export const beadOf = (mark: Mark): BeadAt => ({ at: mark.from, nth: mark.nth });

/** Remembers the last result, for as long as what it was made of is the same. */
function last<A extends readonly unknown[], R>(make: (...from: A) => R): (...from: A) => R {
  let known: { from: A; result: R } | null = null;
  return (...from) => {
    if (!known || from.some((x, i) => x !== known!.from[i])) known = { from, result: make(...from) };
    return known.result;
  };
}

/** A draft, as far as what follows from it asks. */
type Saved = Pick<Draft<Design>, "doc" | "base" | "version">;

/** Works out what follows from draft and view; what did not change keeps its object. */
function deriving() {
  const count = last((design: Design, size: string | null, option: string | null) => columnsOf(design, size, option));
  const judge = last((counting: Counting) => checkFit(counting));
  const saved = last((base: Design, size: string | null, option: string | null): Before => {
    const has = (list: readonly { key: string }[] | null | undefined, key: string | null) =>
      list?.find((x) => x.key === key)?.key ?? list?.[0]?.key ?? null;
    const choice = { size: has(base.sizes, size), option: has(base.options, option) };
    return { design: base, answer: countWhole(base, choice).answer };
  });
  const looksOf = last((key: readonly KeyEntry[]) => appearancesOf(key));
  const pictureOf = last(
    (
      counting: Counting,
      strung: StrungPartOf | undefined,
      looks: ReadonlyMap<string, Appearance>,
      showing: Showing,
      laid: Laid,
      pair: boolean,
    ) => {
      if (showing === "worn") return layWorn(counting, looks);
      if (!strung) return null;
      const how = { laid: showing === "laid" ? laid : ("strand" as const), braid: showing === "braid", pair };
      return layOut(counting, strung, looks, undefined, how);
    },
  );
  const chosenBy = last(
    (selected: Stretch | null) => (m: Mark) =>
      selected !== null && m.part === selected.part && between(beadOf(m), selected.a, selected.b),
  );
  const chosenOf = last((selected: Stretch | null, picture: Picture | null, isChosen: (m: Mark) => boolean) => {
    const said = selected && describeStretch(selected.text, selected.a, selected.b);
    return said && { text: said.text, beads: picture?.marks.filter(isChosen).length ?? 0 };
  });
  const useOf = last((design: Design) => keyUse(design));
  const mayOf = last((show: string, pair: boolean) => ({ show: show.split(" ") as Showing[], pair }));
  const ringOf = last((counting: Counting, strung: StrungPartOf, looks: ReadonlyMap<string, Appearance>) =>
    layOut(counting, strung, looks, undefined, { laid: "ring" }),
  );
  const sizeOf = last(({ left, right, top, bottom }: Picture) => ({ wide: right - left, tall: bottom - top }));
  const proposalOf = last((laid: Laid, reason: string | null): Proposal => ({ laid, reason }));
  const sizesOf = last((sizes: Design["sizes"]) => (sizes ?? []).map((s) => s.key));

  return ({ doc: design, base, version }: Saved, view: View, before: Derived | null): Derived => {
    const part = design.parts.find((p) => p.id === view.partId) ?? design.parts[0];
    const sizes = sizesOf(design.sizes);
    const size = sizes.find((s) => s === view.askedSize) ?? sizes[Math.floor((sizes.length - 1) / 2)] ?? null;
    const options = design.options ?? [];
    const option = (options.find((o) => o.key === view.askedOption) ?? options[0])?.key ?? null;
    const { columns, counting } = count(design, size, option);
    const looks = looksOf(design.key);
    const strung = counting.parts.find((p) => p.part.id === part?.id);
    const mirrored = part !== undefined && isMirroredPair(design, part);
    const found = strung ? laidOf(counting, strung) : STRAND;
    const proposal = proposalOf(found.laid, found.reason);
    const show: Showing[] = [
      "worn",
      "laid",
      ...(proposal.laid === "strand" ? [] : ["strand" as const]),
      ...(strung && isBraid(strung) ? ["braid" as const] : []),
    ];
    const asked = view.look.showing;
    const showing = asked && show.includes(asked) ? asked : hasWhole(design) ? "worn" : "laid";
    const picture = pictureOf(counting, strung, looks, showing, proposal.laid, view.look.pair && mirrored);
    const isShown = showing === "laid" && !(view.look.pair && mirrored) && picture !== null;
    const laidOut = () => (isShown ? picture : ringOf(counting, strung!, looks));
    const { stretch, kept, pointed } = view;
    const selected = stretch && stretch.part === part?.id && stretch.text === (part.steps ?? "") ? stretch : null;
    const isChosen = chosenBy(selected);
    const use = useOf(design);
    const stays = kept?.over === design ? kept.lit : null;
    return {
      design,
      frame: before && sameButRows(before.frame, design) ? before.frame : design,
      part,
      sizes,
      size,
      option,
      columns,
      counting,
      // What was never saved was nothing before.
      before: version > 0 && isChanged({ doc: design, base }) ? saved(base, size, option) : null,
      looks,
      strung,
      fit: judge(counting),
      picture,
      showing,
      may: mayOf(show.join(" "), mirrored),
      proposal,
      ringMm: strung && proposal.laid === "ring" && isStitched(strung) ? sizeOf(laidOut()) : null,
      lit: pointed?.from === undefined ? (stays ?? pointed) : pointed,
      selected,
      isChosen,
      chosen: chosenOf(selected, picture, isChosen),
      unused: use.unused,
      missing: use.undefined,
    };
  };
}

/** Whether a ring is stitched on: later rows add beads. One that is only closed is told by its strand. */
const isStitched = ({ rows }: StrungPartOf) => rows.slice(1).some((row) => unitsOf(row.strung) > 0);

/** Every size counted once, in its order; the chosen one among them. */
function columnsOf(design: Design, size: string | null, option: string | null) {
  const sizes = design.sizes?.length ? design.sizes : null;
  const columns = (sizes ?? [{ key: null, label: "an item" }]).map((s) => ({
    label: s.label ?? s.key ?? "",
    counting: countWhole(design, { size: s.key, option }),
  }));
  const at = sizes ? sizes.findIndex((s) => s.key === size) : 0;
  return { columns, counting: columns[at]!.counting };
}

/** A design on the bench: its draft, what a person looks at, and what follows from both. */
export function makeBenchStore(found: DesignSummary): BenchStore {
  const draft = draftOf(found);
  const derive = deriving();
  const { doc } = draft.getState();
  const view: View = {
    partId: (doc.parts.find((p) => p.as == null) ?? doc.parts[0])?.id ?? "",
    askedSize: null,
    askedOption: null,
    look: LOOK,
    pointed: null,
    kept: null,
    goTo: null,
    stretch: null,
    fault: null,
    dialog: null,
    card: null,
    putIn: null,
    why: "",
    saveFaults: [],
  };
  const state = createStore<BenchState>(() => ({ ...view, ...derive(draft.getState(), view, null) }));
  const set = (change: Partial<View>) => {
    const next = { ...state.getState(), ...change };
    state.setState({ ...next, ...derive(draft.getState(), next, state.getState()) });
  };
  draft.subscribe((now, before) => {
    if (now.doc !== before.doc || now.base !== before.base) set({});
  });

  const { edit } = draft.getState();
  return {
    id: found.id,
    draft,
    state,
    set,
    editDesign: (change, group) => edit((d) => ({ ...d, ...change }), group),
    editPart: (change, group) => {
      const id = state.getState().part?.id;
      edit(
        (d) => ({ ...d, parts: d.parts.map((p) => (p.id === id ? { ...p, ...change } : p)) }),
        group && `${id}-${group}`,
      );
    },
    editKey: (change, group) => edit((d) => ({ ...d, key: change(d.key) }), group),
    rename: (from, to) => edit((d) => renameKey(d, from, to), `rename-${to.slice(0, 1)}`),
    addEntry: (entry, asked) => {
      const key = asked ?? freeKey(keysOf(draft.getState().doc));
      edit((d) => ({ ...d, key: [...d.key, { key, id: crypto.randomUUID(), ...entry }] }));
      return key;
    },
    mend: (partId, mend) => {
      if ("addKey" in mend) {
        const { addKey: key } = mend;
        return edit((d) => ({
          ...d,
          key: [...d.key, { key, id: crypto.randomUUID(), name: `Bead ${key}`, kind: "bead" as const }],
        }));
      }
      if ("usePart" in mend) {
        const { part, key } = mend.usePart;
        // As a sub-assembly it is counted where it is used, and not for itself.
        return edit((d) => ({
          ...d,
          parts: d.parts.map((p) => (p.id === part ? { ...p, as: key, makes: null } : p)),
        }));
      }
      const { from, to, insert } = mend.change;
      const put = (steps: string) => steps.slice(0, from) + insert + steps.slice(to);
      edit((d) => ({
        ...d,
        parts: d.parts.map((p) => (p.id === partId ? { ...p, steps: put(p.steps ?? "") } : p)),
      }));
    },
    show: (partId, key, at) => {
      const { doc: over } = draft.getState();
      const text = over.parts.find((p) => p.id === partId)?.steps ?? "";
      const goTo = at && at.to <= text.length ? { part: partId, ...placeOf(text, at) } : null;
      const lit = at ? { key, part: partId, from: at.from, to: at.to } : { key };
      set({ partId, kept: { lit, over }, ...(goTo ? { goTo } : {}) });
    },
    save: async () => {
      const checked = DesignContract.safeParse(draft.getState().doc);
      if (!checked.success) {
        const faults = checked.error.issues.slice(0, 8).map((i) => `${i.path.join(" › ")}: ${i.message}`);
        return set({ saveFaults: faults });
      }
      set({ saveFaults: [] });
      // A file of version 1 is kept as it is until it is saved.
      if (draft.getState().doc.version !== DESIGN_VERSION) edit((d) => ({ ...d, version: DESIGN_VERSION }), "version");
      draft.getState().setReason(state.getState().why.trim());
      if (await draft.getState().save()) set({ why: "" });
    },
  };
}

export const BenchContext = createContext<BenchStore | null>(null);

export function useBenchStore(): BenchStore {
  const store = useContext(BenchContext);
  if (!store) throw new Error("A part of the bench stands outside its page.");
  return store;
}

/** A narrow slice of the bench at hand. */
export const useBench = <T>(select: (state: BenchState) => T): T => useStore(useBenchStore().state, select);
