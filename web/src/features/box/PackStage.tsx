import { addressOf, type Packing, PAPERS, ROLE_KINDS, type Run } from "@jar-count/core/contract";
import { boxesOf, packableNow, progressOf, settled, type SettledRow, type VariantProgress } from "@jar-count/core/pack";
import { useQuery } from "@tanstack/react-query";
import { Download, PackageCheck, Send, Square } from "lucide-react";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import { packingQuery, runQuery, stockChanged } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, Fault } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { sayNumber, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay, sayMinute, useToday } from "../../ui/month.ts";
import { useBox } from "./boxStore.ts";

/** From a committed box to the post office: how far packing is, what holds it up, and how it ended. */
export function PackStage() {
  const id = useBox(({ box }) => box.id);
  const run = useQuery(runQuery(id)).data;
  const committed = run !== undefined && run.state !== "planned";
  const packing = useQuery({ ...packingQuery(id), enabled: committed, refetchInterval: EVERY_MS }).data;
  if (run && !committed) {
    return (
      <Empty title="Not committed yet">
        A box is packed from its frozen bill: commit it first, with the button at the top of this page.
      </Empty>
    );
  }
  if (!run || !packing) return null;
  return packing.state === "sent" ? <Sent packing={packing} /> : <Underway packing={packing} run={run} />;
}

/** Others pack at the bench meanwhile: so often it is looked at anew. */
const EVERY_MS = 5000;

function Underway({ packing, run }: { packing: Packing; run: Run }) {
  const progress = progressOf(packing);
  const boxes = [...boxesOf(packing.of).values()].reduce((sum, n) => sum + n, 0);
  const done = packing.packed.length;
  const can = useMemo(() => packableNow(packing), [packing]);
  const [asking, setAsking] = useState<"stop" | "close" | null>(null);
  const whole = done === boxes || packing.stoppedAt !== null;
  const last = packing.packed.at(-1);
  return (
    <section className="px-6 pt-4" aria-label="Pack">
      <div className="flex flex-wrap items-end justify-between gap-4 pb-4">
        <div>
          <p className="flex items-baseline gap-2">
            <strong data-testid="packed-boxes" className="text-3xl leading-9 font-semibold">
              {sayNumber(done)} of {sayNumber(boxes)}
            </strong>
            packed
          </p>
          <p className="text-muted">
            {packing.stoppedAt !== null
              ? "Stopped there; what the rest spoke for is free again."
              : done === boxes
                ? "All are packed: the box can go out."
                : can === boxes - done
                  ? "All that is left can be packed with what is there now."
                  : `${sayNumber(can)} more can be packed with what is there now.`}
          </p>
          {last && (
            <p className="text-muted">
              The last one {sayMinute(last.at)}
              {last.person ? `, by ${last.person}` : ""}.
            </p>
          )}
        </div>
        <span className="no-print flex flex-wrap gap-2">
          {!whole && (
            <ButtonLink look="main" to={`/pack/${packing.box}`} reloadDocument>
              <PackageCheck size={16} aria-hidden /> Pack at the bench
            </ButtonLink>
          )}
          {done > 0 && !whole && (
            <Button onClick={() => setAsking("stop")}>
              <Square size={14} aria-hidden /> Stop at {sayNumber(done)}
            </Button>
          )}
          {whole && done > 0 && (
            <Button look="main" onClick={() => setAsking("close")}>
              <Send size={15} aria-hidden /> It goes out
            </Button>
          )}
        </span>
      </div>
      <Variants packing={packing} progress={progress} />
      <Labels packing={packing} />
      <WhatWasTold packing={packing} />
      {asking && <EndDialog how={asking} packing={packing} run={run} onClose={() => setAsking(null)} />}
    </section>
  );
}

/** When an order brings what is lacking, as words behind its number. */
function sayComing(due: string | null | undefined, today: string): string {
  if (due == null) return "brings it, no day known";
  return due < today ? `was due ${sayDay(due)}, late` : `brings it ${sayDay(due)}`;
}

function Variants({ packing, progress }: { packing: Packing; progress: VariantProgress[] }) {
  const say = useSayQuantity();
  const nameOf = (id: string) => packing.of.variants.find((v) => v.id === id)?.name || "One kind";
  const componentOf = (id: string) => packing.of.components.find((c) => c.id === id)!;
  const today = useToday();
  return (
    <DataTable
      rows={progress.filter((p) => p.boxes > 0)}
      rowKey={(p) => p.variant}
      testId={(p) => `packed-${nameOf(p.variant)}`}
      columns={[
        {
          head: "Colourway",
          names: true,
          look: "font-medium [overflow-wrap:anywhere]",
          cell: (p) => nameOf(p.variant),
        },
        {
          head: "How far",
          silent: true,
          look: "w-40 min-w-24",
          cell: (p) => (
            <div aria-hidden className="h-1.5 overflow-hidden rounded-full bg-rule">
              <div className="h-full bg-ink" style={{ width: `${(100 * p.packed) / p.boxes}%` }} />
            </div>
          ),
        },
        { head: "packed", number: true, look: "font-semibold", cell: (p) => sayNumber(p.packed) },
        { head: "of", number: true, cell: (p) => sayNumber(p.boxes) },
        { head: "can be packed", number: true, cell: (p) => (packing.stoppedAt ? "" : sayNumber(p.can)) },
        {
          head: "Held up by",
          wide: true,
          cell: ({ heldUpBy }) =>
            heldUpBy && packing.stoppedAt === null ? (
              <span>
                <Triangle className="mr-1 text-short" />
                <Link to={`/jars/${heldUpBy.component}`} className="font-medium hover:underline">
                  {componentOf(heldUpBy.component).name}
                </Link>
                , {say(heldUpBy.lacks, componentOf(heldUpBy.component).baseUnit)} short
                {heldUpBy.ordered[0] && (
                  <>
                    {"; "}
                    <Link to={`/orders/${heldUpBy.ordered[0].order}`} className="link">
                      {heldUpBy.ordered[0].number}
                    </Link>{" "}
                    {sayComing(heldUpBy.ordered[0].due, today)}
                  </>
                )}
              </span>
            ) : null,
        },
      ]}
    />
  );
}

/** Sheets of labels, for boxes and for bags. */
function Labels({ packing }: { packing: Packing }) {
  const [what, setWhat] = useState<"boxes" | "bags">("boxes");
  const [variant, setVariant] = useState("");
  return (
    <div className="no-print mt-6 flex flex-wrap items-end gap-3 border-t border-rule pt-4">
      <label className="flex flex-col gap-1">
        <span className="text-xs text-muted">Labels for</span>
        <select className="field h-9!" value={what} onChange={(e) => setWhat(e.target.value as typeof what)}>
          <option value="boxes">boxes</option>
          <option value="bags">bags</option>
        </select>
      </label>
      <label className="flex flex-col gap-1">
        <span className="text-xs text-muted">Colourway</span>
        <select className="field h-9! max-w-56" value={variant} onChange={(e) => setVariant(e.target.value)}>
          <option value="">every one</option>
          {packing.of.variants.map((v) => (
            <option key={v.id} value={v.id ?? ""}>
              {v.name || "One kind"}
            </option>
          ))}
        </select>
      </label>
      {PAPERS.map((paper) => (
        <ButtonLink
          key={paper}
          reloadDocument
          download
          to={addressOf("printPackLabels", { id: packing.box }, { what, paper, variant: variant || null })}
        >
          <Download size={15} aria-hidden /> Labels, {paper === "a4" ? "A4" : "Letter"}
        </ButtonLink>
      ))}
    </div>
  );
}

const TOLD = { broken: "Broken or lost", swapped: "Swapped", counted: "Counted", cut: "Cut" } as const;

/** What went wrong, and what else was told while packing. */
function WhatWasTold({ packing }: { packing: Packing }) {
  const say = useSayQuantity();
  const person = useSettings((s) => s.person);
  const { send, busy, refusal } = useSend("takeBackTold", stockChanged);
  const told = packing.told.filter((t) => t.kind !== "cut");
  if (told.length === 0) return null;
  const of = (id: string) => packing.of.components.find((c) => c.id === id);
  return (
    <section aria-label="Told while packing" className="mt-6 max-w-3xl">
      <h2>Told while packing</h2>
      <DataTable
        rows={told}
        rowKey={(t) => `${t.entry} ${t.component}`}
        columns={[
          { head: "What", look: "whitespace-nowrap", cell: (t) => TOLD[t.kind] },
          {
            head: "Of",
            wide: true,
            names: true,
            cell: (t) => <>{t.inPlaceOf ? t.note : (of(t.component)?.name ?? t.note)}</>,
          },
          {
            head: "how much",
            number: true,
            cell: ({ kind, quantity, component }) =>
              (kind === "counted" && quantity > 0 ? "+" : "") + say(quantity, of(component)?.baseUnit ?? "piece"),
          },
          { head: "When", look: "whitespace-nowrap text-muted", cell: (t) => sayMinute(t.at) },
          { head: "Who", cell: (t) => t.person },
          {
            head: "",
            cell: ({ entry, kind, note }) =>
              packing.state === "sent" ? null : (
                <Button
                  className="h-8!"
                  disabled={busy}
                  aria-label={`Take back: ${TOLD[kind]}, ${note}`}
                  onClick={() =>
                    void send((requestKey) => ({ params: { id: packing.box, entry }, body: { requestKey, person } }))
                  }
                >
                  Take back
                </Button>
              ),
          },
        ]}
      />
      {refusal && <Fault>{sentenceOf(refusal)}</Fault>}
    </section>
  );
}

interface EndProps {
  how: "stop" | "close";
  packing: Packing;
  run: Run;
  onClose: () => void;
}

/** Stops with what is packed, or lets the box go out: both for good, so they are said first. */
function EndDialog({ how, packing, run, onClose }: EndProps) {
  const person = useSettings((s) => s.person);
  const after = () => stockChanged();
  const stop = useSend("stopRun", after);
  const close = useSend("closeRun", after);
  const { busy, refusal, send } = how === "stop" ? stop : close;
  const rows = settled(packing);
  const back = rows.filter((r) => r.givenBack > 0);
  const end = async () => {
    const done = await send((requestKey) => ({ params: { id: packing.box }, body: { requestKey, person } }));
    if (done) onClose();
  };
  const n = packing.packed.length;
  return (
    <Dialog title={how === "stop" ? `Stop at ${sayNumber(n)}` : "The box goes out"} open onClose={onClose}>
      {how === "stop" ? (
        <p>
          {sayNumber(n)} of {sayNumber(run.boxes)} boxes are packed. What the other {sayNumber(run.boxes - n)} speak for
          is free again at once: {sayNumber(back.length)} things. Nothing more can be packed of this box afterwards.
        </p>
      ) : (
        <p>
          {sayNumber(n)} boxes go out. What the box still speaks for is given back, and its frozen bill is kept with
          what was really used. A sent box can’t be packed any more.
        </p>
      )}
      {refusal && (
        <p className="pt-2">
          <Fault>{sentenceOf(refusal)}</Fault>
        </p>
      )}
      <p className="flex gap-2 pt-4">
        <Button look="main" disabled={busy} onClick={() => void end()}>
          {how === "stop" ? `Stop at ${sayNumber(n)}` : "Send it"}
        </Button>
        <Button onClick={onClose}>Not yet</Button>
      </p>
    </Dialog>
  );
}

const REST = [
  { head: "replaced", of: "replaced" },
  { head: "put in instead", of: "inPlace" },
  { head: "broken, lost", of: "broken" },
  { head: "count put right", of: "counted" },
  { head: "given back", of: "givenBack" },
] as const;

/** A box looked back on: what the bill said, and what was really used. */
function Sent({ packing }: { packing: Packing }) {
  const say = useSayQuantity();
  const [all, setAll] = useState(false);
  const names = new Map(packing.of.components.map((c) => [c.id, `${ROLE_KINDS.indexOf(c.kind)} ${c.name}`]));
  const rows = settled(packing).sort((a, b) =>
    (names.get(a.component) ?? "9").localeCompare(names.get(b.component) ?? "9", "en"),
  );
  const differs = (r: SettledRow) =>
    r.used !== r.billed || r.broken !== 0 || r.counted !== 0 || r.inPlace !== 0 || r.replaced !== 0;
  const odd = rows.filter(differs);
  const of = (id: string) => packing.of.components.find((c) => c.id === id);
  const unit = (r: SettledRow) => of(r.component)?.baseUnit ?? "piece";
  const toldName = (r: SettledRow) => packing.told.find((t) => t.component === r.component)?.note ?? "";
  const n = (r: SettledRow, value: number) => (value === 0 ? "" : say(value, unit(r)));
  const shown = all || odd.length === 0 ? rows : odd;
  const boxes = [...boxesOf(packing.of).values()].reduce((sum, b) => sum + b, 0);
  const packed = packing.packed.length;
  return (
    <section className="px-6 pt-4" aria-label="Sent">
      <p className="flex items-baseline gap-2">
        <strong data-testid="packed-boxes" className="text-3xl leading-9 font-semibold">
          {sayNumber(packed > 0 ? packed : boxes)} of {sayNumber(boxes)}
        </strong>
        went out
      </p>
      <p className="pb-4 text-muted">
        {packing.closed &&
          `Sent ${sayDay(packing.closed.at)}${packing.closed.person ? ` by ${packing.closed.person}` : ""}. `}
        {packed === 0
          ? "It was packed before boxes were counted one by one here; the bill below is what went out."
          : odd.length === 0
            ? "Everything was used as the bill said."
            : (odd.length === 1 ? "One thing was" : `${sayNumber(odd.length)} things were`) +
              " not used just as the bill said."}
      </p>
      {packed > 0 && (
        <>
          <DataTable
            rows={shown}
            rowKey={(r) => r.component}
            testId={(r) => `settled-${of(r.component)?.code ?? r.component}`}
            columns={[
              {
                head: "Component",
                wide: true,
                names: true,
                cell: (r) => {
                  const c = of(r.component);
                  return (
                    <span className="flex min-w-40 items-center gap-2">
                      {c && <Chip of={c} />}
                      <Link to={`/jars/${r.component}`} className="[overflow-wrap:anywhere] hover:underline">
                        {c?.name ?? toldName(r)}
                      </Link>
                    </span>
                  );
                },
              },
              { head: "by the bill", number: true, cell: (r) => n(r, r.billed) },
              { head: "used", number: true, look: "font-semibold", cell: (r) => n(r, r.used) },
              // What happened to nothing needs no column.
              ...REST.filter(({ of: field }) => rows.some((r) => r[field] !== 0)).map(({ head, of: field }) => ({
                head,
                number: true,
                cell: (r: SettledRow) => n(r, r[field]),
              })),
            ]}
          />
          {odd.length > 0 && odd.length < rows.length && (
            <Button look="quiet" className="mt-2 -ml-3" onClick={() => setAll(!all)}>
              {all ? "Only what differs" : `All ${sayNumber(rows.length)} things`}
            </Button>
          )}
        </>
      )}
      <WhatWasTold packing={packing} />
    </section>
  );
}
