import type { DesignSummary } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { designQuery } from "../../api/queries.ts";
import { DraftNotices } from "../../draft/index.ts";
import { Page, Waiting } from "../../ui/page.tsx";
import { type Building, StrandPicture } from "../../ui/StrandPicture.tsx";
import { BeadKey } from "./BeadKey.tsx";
import { BenchContext, type BenchStore, makeBenchStore, useBench, useBenchStore } from "./benchStore.ts";
import { BenchDialogs } from "./BenchDialogs.tsx";
import { BenchHead } from "./BenchHead.tsx";
import { BenchTally } from "./BenchTally.tsx";
import { type Builder, makeBuilder } from "./builder.ts";
import { BuilderBar } from "./BuilderBar.tsx";
import { PartFields } from "./PartFields.tsx";
import { PartSwitch } from "./PartSwitch.tsx";
import { Rows } from "./Rows.tsx";
import { WholeItem } from "./WholeItem.tsx";

export function Bench() {
  const { id } = useParams() as { id: string };
  const found = useQuery(designQuery(id));
  if (!found.data) return <Waiting error={found.error} what="the design" retry={() => void found.refetch()} />;
  return <BenchOf key={id} found={found.data} />;
}

const RETRY_MS = 4000;

function BenchOf({ found }: { found: DesignSummary }) {
  // Made once: the page is keyed by the design's id, and later states of the same design are followed.
  const [store] = useState(() => makeBenchStore(found));
  const [builder] = useState(() => makeBuilder(store));
  const { draft } = store;
  useEffect(() => draft.getState().follow(found.design, found.revision), [draft, found]);
  useEffect(() => retrySaving(store), [store]);
  useAddress(store);
  return (
    <BenchContext value={store}>
      <BenchFrame builder={builder} savedAt={found.savedAt} />
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

function BenchFrame({ builder, savedAt }: { builder: Builder; savedAt: string }) {
  const { draft } = useBenchStore();
  const name = useBench((b) => b.design.name);
  const partId = useBench((b) => b.part?.id);
  return (
    <Page title={name || "Design"} tally={<BenchTally />}>
      <BenchHead savedAt={savedAt} />
      <DraftNotices store={draft} what="design" />
      <BenchDialogs />
      <PartSwitch />
      <Strand builder={builder} />
      {partId !== undefined && (
        <>
          <Rows key={partId} part={partId} />
          <PartFields key={`fields-${partId}`} />
        </>
      )}
      <BeadKey onPut={builder.put} />
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
