import type { DesignSummary } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { designQuery } from "../../api/queries.ts";
import { DraftNotices, keptDrafts } from "../../draft/index.ts";
import { helpHere } from "../../ui/help.ts";
import { Page } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { type Building, StrandPicture } from "../../ui/StrandPicture.tsx";
import { BenchContext, type BenchStore, makeBenchStore, useBench, useBenchStore } from "./benchStore.ts";
import { BenchDialogs } from "./BenchDialogs.tsx";
import { BenchHead } from "./BenchHead.tsx";
import { BenchTally, FiguresInBrief } from "./BenchTally.tsx";
import { type Builder, makeBuilder } from "./builder.ts";
import { BuilderBar } from "./BuilderBar.tsx";
import { type Lesson, lessonOf } from "../notation/index.ts";
import { LessonSteps } from "./LessonSteps.tsx";
import { InWords } from "./InWords.tsx";
import { PartFields } from "./PartFields.tsx";
import { PartSwitch } from "./PartSwitch.tsx";
import { Rows } from "./Rows.tsx";
import { unsaved } from "./unsaved.ts";
import { WholeItem } from "./WholeItem.tsx";

/** A design on the bench; with `?new` in the address, one that nothing was kept of yet. */
export function Bench() {
  const { id } = useParams() as { id: string };
  return <BenchAt key={id} id={id} />;
}

function BenchAt({ id }: { id: string }) {
  const [params] = useSearchParams();
  // A new design lives in this browser until it is saved, whatever its address says; then it goes on as the one that
  // the server has.
  const [begun] = useState(() => {
    const isNew = params.has("new") || keptDrafts("design").some((d) => d.id === id && d.version === 0);
    return isNew ? unsaved(id) : null;
  });
  const query = useQuery({ ...designQuery(id), enabled: begun === null });
  const found = query.data ?? begun;
  if (found) return <BenchOf found={found} />;
  return <Waiting error={query.error} what="the design" retry={() => void query.refetch()} />;
}

/** A lesson: the bench over a copy of its own, with what to do beside it. */
export function LessonBench() {
  const lesson = lessonOf(useParams().id);
  if (!lesson) return <Waiting error={new Error("There is no lesson of that name.")} what="the lesson" />;
  return <LessonOf key={lesson.id} lesson={lesson} />;
}

function LessonOf({ lesson }: { lesson: Lesson }) {
  const [found] = useState(() => unsaved(`lesson-${lesson.id}`, lesson.start));
  return <BenchOf found={found} lesson={lesson} />;
}

const RETRY_MS = 4000;

function BenchOf({ found, lesson }: { found: DesignSummary; lesson?: Lesson }) {
  // Made once: the page is keyed by the design's id, and later states of the same design are followed.
  const [store] = useState(() => makeBenchStore(found));
  const [builder] = useState(() => makeBuilder(store));
  const { draft } = store;
  useEffect(() => draft.getState().follow(found.design, found.revision), [draft, found]);
  useEffect(() => retrySaving(store), [store]);
  useAddress(store);
  useLeaveNew(store);
  useNotation(store);
  return (
    <BenchContext value={store}>
      <BenchFrame builder={builder} savedAt={found.savedAt} lesson={lesson} />
    </BenchContext>
  );
}

/** A save that found nobody is tried again until it gets through. Returns how to end. */
function retrySaving({ draft, save }: BenchStore): () => void {
  const timer = setInterval(() => draft.getState().saving === "away" && void save(), RETRY_MS);
  return () => clearInterval(timer);
}

/**
 * The chosen size and option stand in the address. It may also name a place: a count in a box that was asked where it
 * comes from; the place is lit once, and leaves the address.
 */
function useAddress(store: BenchStore) {
  const [params, setParams] = useSearchParams();
  useEffect(() => {
    store.set({ askedSize: params.get("size"), askedOption: params.get("option") });
    const [part, key, from, to] = ["part", "key", "from", "to"].map((name) => params.get(name));
    if (!key) return;
    if (part) store.show(part, key, from && to ? { from: Number(from), to: Number(to) } : null);
    else store.set({ kept: { lit: { key }, over: store.draft.getState().doc } });
    setParams(
      (before) => {
        for (const name of ["part", "key", "from", "to"]) before.delete(name);
        return before;
      },
      { replace: true },
    );
  }, [params, setParams, store]);
}

/** Once a new design is saved, its address is that of any other. */
function useLeaveNew({ id, draft }: BenchStore) {
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const isNew = params.has("new");
  const saved = useStore(draft, (d) => d.version > 0);
  useEffect(() => {
    if (isNew && saved) void navigate(`/designs/${id}`, { replace: true });
  }, [isNew, saved, id, navigate]);
}

/** `?` anywhere on the bench, and F1 in the rows, open the card that explains the notation. */
function useNotation({ set, state }: BenchStore) {
  useEffect(() => helpHere(() => set({ card: state.getState().card ?? "" })), [set, state]);
  const [params, setParams] = useSearchParams();
  const asked = params.get("how");
  useEffect(() => {
    if (asked === null) return;
    set({ card: asked });
    setParams(
      (before) => {
        before.delete("how");
        return before;
      },
      { replace: true },
    );
  }, [asked, set, setParams]);
}

function BenchFrame({ builder, savedAt, lesson }: { builder: Builder; savedAt: string; lesson: Lesson | undefined }) {
  const { draft } = useBenchStore();
  const name = useBench((b) => b.design.name);
  const partId = useBench((b) => b.part?.id);
  return (
    <Page title={name || "Design"} tally={<BenchTally onPut={builder.put} />} roomy inBrief={<FiguresInBrief />}>
      <BenchHead savedAt={savedAt} lesson={lesson} />
      <DraftNotices store={draft} what="design" />
      <BenchDialogs />
      {lesson && <LessonSteps lesson={lesson} />}
      <PartSwitch />
      <Strand builder={builder} />
      {partId !== undefined && (
        <>
          <Rows key={partId} part={partId} />
          <InWords />
          <PartFields key={`fields-${partId}`} />
        </>
      )}
      <WholeItem />
    </Page>
  );
}

/** The picture of the part at hand, and what can be done to its beads. */
function Strand({ builder }: { builder: Builder }) {
  const { set } = useBenchStore();
  const { picture, looks, lit, look, showing, isChosen, pair, name, whole } = useBench(
    useShallow((b) => ({
      picture: b.picture,
      looks: b.looks,
      lit: b.lit,
      look: b.look,
      isChosen: b.isChosen,
      showing: b.showing,
      pair: b.may.pair && b.look.pair,
      name: b.part?.name ?? "",
      whole: b.frame.name,
    })),
  );
  const building = useMemo<Building>(
    () => ({ isChosen, onChoose: builder.choose, onKey: builder.onKey, onDrop: builder.onDrop }),
    [isChosen, builder],
  );
  if (!picture) {
    return (
      <p className="border-y border-rule bg-board px-6 py-8">This part is not made in the way that is chosen above.</p>
    );
  }
  const beads = picture.marks.length;
  const mirrored = pair ? ", the second of the pair mirrored" : "";
  return (
    <>
      <StrandPicture
        picture={picture}
        looks={looks}
        label={
          showing === "worn"
            ? `${whole} as it is worn: ${beads} beads drawn to scale`
            : `${name}: ${beads} beads drawn to scale${mirrored}`
        }
        lit={lit}
        onLight={(pointed) => set({ pointed })}
        zoom={look.zoom}
        path={look.path}
        building={building}
      />
      <BuilderBar builder={builder} />
    </>
  );
}
