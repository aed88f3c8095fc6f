import { packByOf, sharingFor } from "@jar-count/core/ahead";
import { type Bill, chooseFromKeys, layTray, makeBilling, type Sharing } from "@jar-count/core/bom";
import { changesOf } from "@jar-count/core/box";
import {
  API,
  type Box,
  type BoxDetail,
  type BoxInput,
  type Component,
  type DesignSummary,
  type PinnedDesign,
  type Shares,
} from "@jar-count/core/contract";
import { type BoxCost, coinPlaces, costOf } from "@jar-count/core/cost";
import { type BoxSteps, stepsOf, type Terms } from "@jar-count/core/price";
import { createContext, useContext } from "react";
import { createStore, type StoreApi, useStore } from "zustand";
import { call } from "../../api/client.ts";
import { boxQuery, boxSaved, queryClient } from "../../api/queries.ts";
import { type DraftStore, isChanged, makeDraft } from "../../draft/index.ts";

type Pick = BoxInput["picks"][number];

/** All that the stages of a box work with: the box as it stands in its draft, and what follows from it. */
export interface BoxWork {
  box: Box;
  /** The revisions that its lines may be pinned to: every design's newest, and older ones that it holds. */
  designs: readonly PinnedDesign[];
  library: readonly DesignSummary[];
  /** Every component of the workshop, and the same by their ids. */
  components: readonly Component[];
  componentOf: ReadonlyMap<string, Component>;
  /** The choices of each box role: the same list for as long as none of them changes. */
  picksOf: ReadonlyMap<string, readonly Pick[]>;
  /** The box with its designs and chosen components, as counting takes it; its names and what-ifs may be older ones. */
  detail: BoxDetail;
  /** What it shares with other boxes; null until it is here. */
  shares: Shares | null;
  bill: Bill;
  /** What its materials cost. */
  cost: BoxCost;
  /** What the workshop counts costs by, and what a box costs by that, step by step; null until it is known. */
  terms: Terms | null;
  steps: BoxSteps | null;
}

export interface BoxStore {
  draft: DraftStore<BoxInput>;
  work: StoreApi<BoxWork>;
  /** Changes the box; changes of one `group`, shortly after each other, are undone together. */
  edit: (change: (box: BoxInput) => BoxInput, group?: string) => void;
  /** Takes over what was read from the server since. */
  follow: (found: BoxDetail, library: readonly DesignSummary[], components: readonly Component[]) => void;
  /** Takes over what the other boxes take. */
  share: (shares: Shares) => void;
  /** Takes over what costs go by. */
  reckon: (terms: Terms) => void;
}

const inputOf = ({ id: _id, version: _version, ...box }: Box): BoxInput => box;

function draftOf(found: BoxDetail): DraftStore<BoxInput> {
  const { id } = found.box;
  return makeDraft<BoxInput>({
    name: `box/${id}`,
    doc: inputOf(found.box),
    version: found.box.version,
    newer: { prices: [], whatIfs: [], overrules: [] },
    send: async ({ requestKey, doc, base, version }) => {
      const saved = await call("changeBox", {
        params: { id },
        body: { requestKey, version, changes: changesOf(base, doc) },
      });
      const box = { ...doc, id, version: saved.version };
      queryClient.setQueryData(boxQuery(id).queryKey, (known) => (known ? { ...known, box } : known));
      const took = takenBy(base);
      void boxSaved(
        id,
        [...takenBy(doc)].some((component) => !took.has(component)),
      );
      return saved.version;
    },
    readCurrent: (current) => {
      const now = API.changeBox.current.safeParse(current);
      return now.success ? { doc: inputOf(now.data), version: now.data.version } : null;
    },
  });
}

/** The components that a box takes. */
const takenBy = ({ picks, contents }: BoxInput) => new Set([...picks, ...contents].map((x) => x.component));

/** Every design's newest revision, and of the revisions that a box holds those that are older. */
function revisionsOf(library: readonly DesignSummary[], held: readonly PinnedDesign[]): PinnedDesign[] {
  const newest = new Map(
    library.map((d): [string, PinnedDesign] => [
      d.id,
      { designId: d.id, revision: d.revision, newest: d.revision, design: d.design },
    ]),
  );
  const older = held
    .filter((p) => newest.get(p.designId)?.revision !== p.revision)
    .map((p) => ({ ...p, newest: newest.get(p.designId)?.newest ?? p.newest }));
  return [...newest.values(), ...older];
}

/** Groups choices by their role; a role whose choices are the same as before keeps its list. */
function groupPicks(
  picks: readonly Pick[],
  before: ReadonlyMap<string, readonly Pick[]>,
): ReadonlyMap<string, readonly Pick[]> {
  const groups = new Map<string, Pick[]>();
  for (const pick of picks) {
    const group = groups.get(pick.boxRole);
    if (group) group.push(pick);
    else groups.set(pick.boxRole, [pick]);
  }
  return new Map(
    [...groups].map(([role, group]) => {
      const known = before.get(role);
      const same = known?.length === group.length && known.every((pick, i) => pick === group[i]);
      return [role, same ? known : group];
    }),
  );
}

/** A box's draft with all that follows from it, worked out once for each change. */
export function makeBoxStore(
  found: BoxDetail,
  library: readonly DesignSummary[],
  components: readonly Component[],
): BoxStore {
  const { id } = found.box;
  const draft = draftOf(found);
  const billing = makeBilling();
  let given = { found, library, components, shares: null as Shares | null, terms: null as Terms | null };
  let sharing: { of: Shares; packBy: string; month: string; say: Sharing } | null = null;
  const sharingOf = (box: Box): Sharing | undefined => {
    const [of, packBy, { month }] = [given.shares, packByOf(box), box];
    if (!of) return undefined;
    if (sharing?.of !== of || sharing.packBy !== packBy || sharing.month !== month) {
      sharing = { of, packBy, month, say: sharingFor(of, { id, packBy, month }) };
    }
    return sharing.say;
  };

  const workOut = (before: BoxWork | null): BoxWork => {
    const { doc, version } = draft.getState();
    const fresh = before === null || before.library !== given.library;
    const designs = fresh ? revisionsOf(given.library, given.found.designs) : before.designs;
    const sameComponents = before?.components === given.components;
    const componentOf = sameComponents ? before.componentOf : new Map(given.components.map((c) => [c.id, c]));
    const samePicks = sameComponents && before.box.picks === doc.picks && before.box.contents === doc.contents;
    const picksOf = samePicks ? before.picksOf : groupPicks(doc.picks, before?.picksOf ?? new Map());
    const chosen = samePicks
      ? before.detail.components
      : [...new Set([...doc.picks, ...doc.contents].map((p) => p.component))].flatMap((c) => componentOf.get(c) ?? []);
    const box = { ...doc, id, version };
    const { spares, ruler } = given.found;
    const detail: BoxDetail = { box, designs: designs as PinnedDesign[], components: chosen, spares, ruler };
    const bill = billing(detail, sharingOf(box));
    const { terms } = given;
    // Where only names or what is tried changed, what follows from the rest stays the same objects.
    const same = before?.bill === bill && before.terms === terms && before.box.prices === doc.prices;
    if (same) return { ...before, box, components: given.components, shares: given.shares };
    return {
      box,
      designs,
      library: given.library,
      components: given.components,
      componentOf,
      picksOf,
      detail,
      shares: given.shares,
      bill,
      cost: terms ? costOf(bill, coinPlaces(terms.currency), terms.money.basis) : costOf(bill),
      terms,
      steps: terms && stepsOf(detail, bill, terms),
    };
  };

  const work = createStore<BoxWork>(() => workOut(null));
  draft.subscribe((now, before) => {
    if (now.doc !== before.doc || now.version !== before.version) work.setState(workOut(work.getState()), true);
  });
  return {
    draft,
    work,
    edit: (change, group) =>
      draft.getState().edit((before) => {
        const after = change(before);
        const { designs, componentOf } = work.getState();
        const laid = after.lines === before.lines ? after : layTray(after, designs, () => crypto.randomUUID());
        const isInUse = (id: string) => componentOf.has(id) && !componentOf.get(id)!.away;
        return chooseFromKeys(before, laid, designs, isInUse);
      }, group),
    follow: (newFound, newLibrary, newComponents) => {
      const { spares, ruler } = given.found;
      const same =
        newLibrary === given.library &&
        newComponents === given.components &&
        newFound.spares === spares &&
        newFound.ruler === ruler;
      given = { ...given, found: newFound, library: newLibrary, components: newComponents };
      draft.getState().follow(inputOf(newFound.box), newFound.box.version);
      if (!same) work.setState(workOut(work.getState()), true);
    },
    share: (shares) => {
      if (shares === given.shares) return;
      given = { ...given, shares };
      work.setState(workOut(work.getState()), true);
    },
    reckon: (terms) => {
      if (terms === given.terms) return;
      given = { ...given, terms };
      work.setState(workOut(work.getState()), true);
    },
  };
}

const SAVE_AFTER_MS = 500;
const RETRY_MS = 4000;

/**
 * Saves a draft by itself, a moment after its last change, for as long as somebody works on it. Returns how to end:
 * what was changed last is saved then at once, for whoever goes on to where it is needed.
 */
export function saveByItself(draft: DraftStore<BoxInput>): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const waits = () => {
    const state = draft.getState();
    return !state.theirs && state.saving !== "busy" && state.saving !== "refused" && isChanged(state);
  };
  const plan = () => {
    clearTimeout(timer);
    const state = draft.getState();
    if (!waits()) return;
    timer = setTimeout(() => void state.save(), state.saving === "away" ? RETRY_MS : SAVE_AFTER_MS);
  };
  plan();
  const stop = draft.subscribe(plan);
  return () => {
    stop();
    clearTimeout(timer);
    if (waits()) void draft.getState().save();
  };
}

export const BoxContext = createContext<BoxStore | null>(null);

export function useBoxStore(): BoxStore {
  const store = useContext(BoxContext);
  if (!store) throw new Error("A stage of a box stands outside its page.");
  return store;
}

/** A narrow slice of the box at hand. */
export const useBox = <T>(select: (work: BoxWork) => T): T => useStore(useBoxStore().work, select);

export const boxesOf = (box: BoxInput) => box.variants.reduce((sum, v) => sum + v.boxes, 0);

/** Whether anything is in a box: a design, or something beside the designs. */
export const holdsSomething = (box: BoxInput) => box.lines.length + box.contents.length > 0;
