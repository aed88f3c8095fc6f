import {
  Design as DesignContract,
  type Design,
  type DesignSummary,
  type KeyEntry,
  type Part,
} from "@jar-count/core/contract";
import { isMirroredPair, renameKey } from "@jar-count/core/builder";
import { countWhole } from "@jar-count/core/count";
import { appearancesOf, closesToRing, layOut } from "@jar-count/core/picture";
import { formatPattern, placeOf } from "@jar-count/core/shorthand";
import { useQuery } from "@tanstack/react-query";
import { AlignLeft, ClipboardList, Copy, Diff, Download, History, Plus, Redo2, Undo2 } from "lucide-react";
import { memo, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { useStore } from "zustand";
import { designQuery } from "../../api/queries.ts";
import { DraftNotices, isChanged, SaveState } from "../../draft/index.ts";
import { Button, IconButton, Segmented } from "../../ui/controls.tsx";
import { checkName, TextField } from "../../ui/fields.tsx";
import { later } from "../../ui/later.tsx";
import { sayMinute } from "../../ui/month.ts";
import { Page, Waiting } from "../../ui/page.tsx";
import { type Lit, StrandPicture } from "../../ui/StrandPicture.tsx";
import { designFileName, download } from "../../ui/handOver.ts";
import { BeadKey } from "./BeadKey.tsx";
import { BenchTally } from "./BenchTally.tsx";
import { BenchLog } from "./BenchLog.tsx";
import { WhatDiffers } from "./WhatDiffers.tsx";
import { BuilderBar, type Look } from "./BuilderBar.tsx";
import { useBuilder } from "./useBuilder.ts";
import { PartFields } from "./PartFields.tsx";
import { Revisions } from "./Revisions.tsx";
import type { ShorthandEditorProps } from "./ShorthandEditor.tsx";
import { type DesignDraft, freeKey, keysOf, useDesignDraft } from "./useBench.ts";
import { WholeItem } from "./WholeItem.tsx";

export const ShorthandEditor = later(
  async () => (await import("./ShorthandEditor.tsx")).default,
  ({ text }: ShorthandEditorProps) => (
    <pre className="rounded-md bg-hush px-10 py-2.5 font-mono leading-6">{text || " "}</pre>
  ),
);

export function Bench() {
  const { id } = useParams() as { id: string };
  const found = useQuery(designQuery(id));
  if (!found.data) return <Waiting error={found.error} what="the design" retry={() => void found.refetch()} />;
  return <BenchOf key={id} found={found.data} />;
}

function BenchOf({ found }: { found: DesignSummary }) {
  const store = useDesignDraft(found);
  const draft = useStore(store);
  const { doc: design, base, edit } = draft;
  const changed = isChanged(draft);
  const undo = useCallback(() => store.temporal.getState().undo(), [store]);
  const redo = useCallback(() => store.temporal.getState().redo(), [store]);

  const [chosenPart, choosePart] = useState(
    () => design.parts.find((p) => p.as == null)?.id ?? design.parts[0]?.id ?? "",
  );
  const part = design.parts.find((p) => p.id === chosenPart) ?? design.parts[0];
  const sizes = useMemo(() => (design.sizes ?? []).map((s) => s.key), [design.sizes]);
  const options = design.options ?? [];
  const [chosenSize, chooseSize] = useState<string | null>(null);
  const [chosenOption, chooseOption] = useState<string | null>(null);
  const size =
    sizes.length === 0
      ? null
      : chosenSize !== null && sizes.includes(chosenSize)
        ? chosenSize
        : sizes[Math.floor((sizes.length - 1) / 2)]!;
  const option =
    options.length === 0 ? null : options.some((o) => o.key === chosenOption) ? chosenOption : options[0]!.key;
  // What is pointed at lights up; a place that was gone to stays lit until something changes.
  const [pointed, light] = useState<Lit | null>(null);
  const [held, hold] = useState<{ lit: Lit; over: Design } | null>(null);
  const kept = held?.over === design ? held.lit : null;
  const lit = pointed?.from === undefined ? (kept ?? pointed) : pointed;
  const [goTo, setGoTo] = useState<{ part: string; row: number; from: number; to: number } | null>(null);
  const [lookingBack, setLookingBack] = useState(false);
  const lookBack = useCallback(() => setLookingBack(true), []);
  const [dialog, setDialog] = useState<"log" | "differ" | null>(null);
  const openLog = useCallback(() => setDialog("log"), []);
  const openDiffer = useCallback(() => setDialog("differ"), []);
  const [why, setWhy] = useState("");
  const [saveFault, setSaveFault] = useState<string[]>([]);

  const counting = useMemo(() => countWhole(design, { size, option }), [design, size, option]);
  const before = useMemo(() => countWhole(base, { size, option }).answer, [base, size, option]);
  const answers = useMemo(
    () =>
      sizes.length === 0 ? [] : sizes.map((s) => ({ size: s, counting: countWhole(design, { size: s, option }) })),
    [design, sizes, option],
  );
  const looks = useMemo(() => appearancesOf(design.key), [design.key]);
  const strung = counting.parts.find((p) => p.part.id === part?.id);
  const [look, setLook] = useState<Look>({ zoom: 1, ring: true, braid: false, pair: true, path: false });
  const mirrored = part !== undefined && isMirroredPair(design, part);
  const may = { ring: strung !== undefined && closesToRing(strung), braid: (part?.strands ?? 1) > 2, pair: mirrored };
  const { ring, braid, pair } = look;
  const picture = useMemo(
    () => (strung ? layOut(counting, strung, looks, undefined, { ring, braid, pair: pair && mirrored }) : null),
    [counting, strung, looks, ring, braid, pair, mirrored],
  );
  const labelOf = (key: string) => (design.sizes ?? []).find((s) => s.key === key)?.label ?? key;
  const columns =
    sizes.length === 0
      ? [{ label: "an item", counting }]
      : answers.map((a) => ({ label: labelOf(a.size), counting: a.size === size ? counting : a.counting }));

  const partId = part?.id;
  const editPart = useCallback(
    (change: Partial<Part>, together?: string) =>
      edit(
        (d) => ({ ...d, parts: d.parts.map((p) => (p.id === partId ? { ...p, ...change } : p)) }),
        together && `${partId}-${together}`,
      ),
    [edit, partId],
  );
  const removePart = useCallback(
    () => edit((d) => ({ ...d, parts: d.parts.filter((p) => p.id !== partId) })),
    [edit, partId],
  );
  const editDesign = useCallback(
    (change: Partial<Design>, together?: string) => edit((d) => ({ ...d, ...change }), together),
    [edit],
  );
  const rename = useCallback(
    (from: string, to: string) => edit((d) => renameKey(d, from, to), `rename-${to.slice(0, 1)}`),
    [edit],
  );
  const editKey = useCallback((key: KeyEntry[], together?: string) => edit((d) => ({ ...d, key }), together), [edit]);
  const builder = useBuilder({ design, part, picture, size, option, sizes, onText: (steps) => editPart({ steps }) });
  const barHands = useRef({ builder, picture, looks, name: "" });
  useLayoutEffect(() => {
    barHands.current = {
      builder,
      picture,
      looks,
      name: `${design.name.slice(0, 60)}, ${part?.name.slice(0, 30) ?? ""}`,
    };
  });
  const changeLook = useCallback((change: Partial<Look>) => setLook((l) => ({ ...l, ...change })), []);
  const putable = design.key
    .filter((e) => e.kind !== "stringing" && e.kind !== "packaging" && e.kind !== "consumable")
    .map((e) => e.key);
  const subs = design.parts.flatMap((p) => (p.as != null && p.id !== part?.id ? [p.as] : []));
  const problems = useMemo(() => counting.answer.problems.filter((p) => p.part === partId), [counting, partId]);

  const save = useCallback(async () => {
    const checked = DesignContract.safeParse(store.getState().doc);
    if (!checked.success) {
      setSaveFault(checked.error.issues.slice(0, 8).map((i) => `${i.path.join(" › ")}: ${i.message}`));
      return;
    }
    setSaveFault([]);
    store.getState().setReason(why.trim());
    if (await store.getState().save()) setWhy("");
  }, [store, why]);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey)) return;
      const key = e.key.toLowerCase();
      if (key === "s") {
        e.preventDefault();
        void save();
      } else if (key === "z" || key === "y") {
        e.preventDefault();
        if (key === "y" || e.shiftKey) redo();
        else undo();
      }
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [save, undo, redo]);
  // A save that found nobody is tried again until it gets through.
  const away = draft.saving === "away";
  useEffect(() => {
    if (!away) return;
    const timer = setInterval(() => void save(), 4000);
    return () => clearInterval(timer);
  }, [away, save]);

  /** Goes to a stretch of a part's text, and lights it there and in the picture. */
  const show = useCallback(
    (partId: string, key: string, at: { from: number; to: number } | null) => {
      choosePart(partId);
      const text = store.getState().doc.parts.find((p) => p.id === partId)?.steps ?? "";
      if (at && at.to <= text.length) {
        const { row, from, to } = placeOf(text, at);
        setGoTo({ part: partId, row, from, to });
      }
      hold({ lit: at ? { key, part: partId, from: at.from, to: at.to } : { key }, over: store.getState().doc });
    },
    [store],
  );
  // An address may name a place: a count in a box that was asked where it comes from.
  const [place, setPlace] = useSearchParams();
  useEffect(() => {
    const [partId, key, from, to] = ["part", "key", "from", "to"].map((name) => place.get(name));
    if (!key) return;
    chooseSize(place.get("size"));
    chooseOption(place.get("option"));
    if (partId) show(partId, key, from && to ? { from: Number(from), to: Number(to) } : null);
    else hold({ lit: { key }, over: store.getState().doc });
    setPlace({}, { replace: true });
  }, [place, setPlace, show, store]);

  const go = (partId: string, at: { row: number; from: number; to: number } | null) => {
    choosePart(partId);
    if (at) setGoTo({ part: partId, ...at });
  };

  return (
    <Page
      title={design.name || "Design"}
      tally={
        <BenchTally
          design={design}
          counting={counting}
          before={changed ? before : null}
          size={size}
          option={option}
          part={part}
          onGo={go}
        />
      }
    >
      <BenchHead
        store={store}
        savedAt={found.savedAt}
        partId={part?.id}
        why={why}
        onWhy={setWhy}
        onSave={save}
        onUndo={undo}
        onRedo={redo}
        onLookBack={lookBack}
        onLog={openLog}
        onDiffer={openDiffer}
        faults={saveFault}
      />
      <DraftNotices store={store} what="design" />
      {lookingBack && (
        <Revisions
          id={found.id}
          design={design}
          open
          onClose={() => setLookingBack(false)}
          onTakeUp={(old, no) => {
            edit(() => old);
            setWhy(`Back to revision ${no}`);
            setLookingBack(false);
          }}
        />
      )}

      {dialog === "log" && (
        <BenchLog
          id={found.id}
          revision={draft.version}
          design={design}
          size={size}
          option={option}
          onClose={() => setDialog(null)}
          onCorrect={(corrected, reason) => {
            edit(() => corrected);
            setWhy(reason.slice(0, 500));
            setDialog(null);
          }}
        />
      )}
      {dialog === "differ" && <WhatDiffers design={design} onClose={() => setDialog(null)} />}

      <div className="flex flex-wrap items-center justify-between gap-3 px-6 py-3">
        <div role="group" aria-label="Parts" className="flex flex-wrap items-center gap-1">
          {design.parts.map((p) => {
            const wrong = counting.answer.problems.some((x) => x.part === p.id && x.level === "error");
            return (
              <button
                key={p.id}
                type="button"
                aria-pressed={p.id === part?.id}
                onClick={() => choosePart(p.id)}
                className={`h-8 max-w-48 truncate rounded-md px-2.5 ${p.id === part?.id ? "bg-ink font-semibold text-paper" : "hover:bg-hush"} ${wrong ? "underline decoration-short decoration-wavy decoration-2" : ""}`}
              >
                {p.name}
                {p.as != null && <span className="ml-1.5 font-mono text-xs opacity-80">{p.as}</span>}
              </button>
            );
          })}
          {part && (
            <IconButton
              label={`Copy ${part.name}`}
              disabled={design.parts.length >= 200}
              onClick={() => {
                const id = crypto.randomUUID();
                editDesign({
                  parts: design.parts.flatMap((p) =>
                    p.id === part.id
                      ? [
                          p,
                          {
                            ...p,
                            id,
                            name: `${p.name} again`.slice(0, 200),
                            as: p.as == null ? null : freeKey(keysOf(design)),
                          },
                        ]
                      : [p],
                  ),
                });
                choosePart(id);
              }}
            >
              <Copy size={15} />
            </IconButton>
          )}
          <IconButton
            label="Add a part"
            disabled={design.parts.length >= 200}
            onClick={() => {
              const id = crypto.randomUUID();
              editDesign({
                parts: [...design.parts, { id, name: `Part ${design.parts.length + 1}`, makes: 1, steps: "" }],
              });
              choosePart(id);
            }}
          >
            <Plus size={17} />
          </IconButton>
        </div>
        <div className="flex flex-wrap gap-3">
          {options.length > 0 && (
            <Segmented
              label="Way"
              value={option!}
              options={options.map((o) => ({ value: o.key, label: o.label ?? o.key }))}
              onChange={chooseOption}
            />
          )}
          {sizes.length > 0 && (
            <Segmented
              label="Size"
              value={size!}
              options={sizes.map((s) => ({ value: s, label: labelOf(s) }))}
              onChange={chooseSize}
            />
          )}
        </div>
      </div>

      {picture ? (
        <>
          <StrandPicture
            picture={picture}
            looks={looks}
            label={`${part!.name}: ${picture.marks.length} beads drawn to scale${mirrored && pair ? ", the second of the pair mirrored" : ""}`}
            lit={lit}
            onLight={light}
            zoom={look.zoom}
            path={look.path}
            building={builder.building}
          />
          <BuilderBar
            keys={[...putable, ...subs].join(" ")}
            sized={sizes.length > 0}
            onChain={design.key.some((e) => e.key === part!.stringing && e.linkMm)}
            chosen={builder.chosen}
            across={builder.across}
            fault={builder.fault}
            look={look}
            mayRing={may.ring}
            mayBraid={may.braid}
            mayPair={may.pair}
            onLook={changeLook}
            hands={barHands}
          />
        </>
      ) : (
        <p className="border-y border-rule bg-board px-6 py-8">
          This part is not made in the way that is chosen above.
        </p>
      )}

      {part && (
        <>
          <div className="px-6 pt-4">
            <ShorthandEditor
              key={part.id}
              part={part.id}
              label={`Rows of ${part.name}, in shorthand`}
              text={part.steps ?? ""}
              keys={design.key}
              subs={design.parts.flatMap((p) =>
                p.as != null && p.id !== part.id ? [{ key: p.as, name: p.name }] : [],
              )}
              sizes={sizes}
              problems={problems}
              lit={lit}
              goTo={goTo?.part === part.id ? goTo : null}
              onChange={(steps) => editPart({ steps }, "steps")}
              onLight={light}
            />
          </div>
          <PartFields key={`fields-${part.id}`} design={design} part={part} onChange={editPart} onRemove={removePart} />
        </>
      )}
      <BeadKey
        design={design}
        looks={looks}
        answers={columns}
        lit={lit}
        onLight={light}
        onChange={editKey}
        onRename={rename}
        onPut={builder.put}
        onGo={(column, key, origin) => {
          if (sizes[column] !== undefined) chooseSize(sizes[column]);
          if (origin.part) show(origin.part.id, key, origin.place);
        }}
      />
      <WholeItem design={design} onChange={editDesign} />
    </Page>
  );
}

interface HeadProps {
  store: DesignDraft;
  savedAt: string;
  partId: string | undefined;
  why: string;
  onWhy: (why: string) => void;
  onSave: () => Promise<void>;
  onUndo: () => void;
  onRedo: () => void;
  onLookBack: () => void;
  onLog: () => void;
  onDiffer: () => void;
  faults: readonly string[];
}

/** The design's name and how saving stands; it reads the draft by itself, so that typing rows leaves it alone. */
const BenchHead = memo(function BenchHead({
  store,
  savedAt,
  partId,
  why,
  onWhy,
  onSave,
  onUndo,
  onRedo,
  onLookBack,
  onLog,
  onDiffer,
  faults,
}: HeadProps) {
  const name = useStore(store, (d) => d.doc.name);
  const version = useStore(store, (d) => d.version);
  const blocked = useStore(store, (d) => d.saving === "busy" || d.theirs !== null);
  const changed = useStore(store, isChanged);
  const undoable = useStore(store.temporal, (t) => t.pastStates.length > 0);
  const redoable = useStore(store.temporal, (t) => t.futureStates.length > 0);
  const { edit } = store.getState();
  const tidy = () =>
    edit((d) => ({
      ...d,
      parts: d.parts.map((p) => (p.id === partId ? { ...p, steps: formatPattern(p.steps ?? "") } : p)),
    }));
  const toFile = () => {
    const { doc } = store.getState();
    download(designFileName(doc.name), `${JSON.stringify(doc, null, 2)}\n`, "application/json");
  };
  return (
    <header className="px-6 pt-5">
      <TextField
        aria-label="Name of the design"
        className="cell-field -ml-1.5 h-11! font-serif text-[1.625rem]"
        value={name}
        check={checkName}
        onChange={(to) => edit((d) => ({ ...d, name: to }), "name")}
      />
      <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2">
        <p className="text-muted">
          <SaveState store={store} saved={`Revision ${version}, saved ${sayMinute(savedAt)}`} />
        </p>
        <div className="flex flex-wrap items-center gap-1.5">
          <IconButton label="Undo" disabled={!undoable} onClick={onUndo}>
            <Undo2 size={17} />
          </IconButton>
          <IconButton label="Redo" disabled={!redoable} onClick={onRedo}>
            <Redo2 size={17} />
          </IconButton>
          <IconButton label="Bench log" onClick={onLog}>
            <ClipboardList size={17} />
          </IconButton>
          <IconButton label="What differs between sizes and ways" onClick={onDiffer}>
            <Diff size={17} />
          </IconButton>
          <IconButton label="Revisions" onClick={onLookBack}>
            <History size={17} />
          </IconButton>
          <IconButton label="Tidy the rows" onClick={tidy}>
            <AlignLeft size={17} />
          </IconButton>
          <IconButton label="Save as a design file" onClick={toFile}>
            <Download size={17} />
          </IconButton>
          {changed && (
            <input
              className="field w-44"
              aria-label="What changed, in a few words"
              placeholder="What changed (may stay empty)"
              maxLength={500}
              value={why}
              onChange={(e) => onWhy(e.target.value)}
            />
          )}
          <Button look="main" disabled={!changed || blocked} onClick={() => void onSave()}>
            Save revision {version + 1}
          </Button>
        </div>
      </div>
      {faults.length > 0 && (
        <ul role="alert" className="mt-2 list-disc pl-5 font-medium text-short">
          {faults.map((f) => (
            <li key={f}>{f}</li>
          ))}
        </ul>
      )}
    </header>
  );
});
