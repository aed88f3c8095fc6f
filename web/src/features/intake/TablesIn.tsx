import {
  type DecimalMark,
  guessMapping,
  INTAKE_COLUMNS,
  type IntakeColumn,
  tableOf,
  writeTable,
} from "@jar-count/core/intake";
import { type ErrorBody, type Intake, INTAKES, MOST_OF_IMPORT } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { Download, FileUp } from "lucide-react";
import { proxy } from "comlink";
import { useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { call, callFile } from "../../api/client.ts";
import {
  componentsQuery,
  knownSalesQuery,
  makeStale,
  moneyQuery,
  ordersQuery,
  queryClient,
  roomsQuery,
  shelfQuery,
  stockChanged,
} from "../../api/queries.ts";
import { refusalOf } from "../../api/refusal.ts";
import { useSettings } from "../../settings/index.ts";
import { Button, Labelled, Segmented } from "../../ui/controls.tsx";
import { Diamond, sayNumber, Triangle } from "../../ui/marks.tsx";
import { Page, PageHead, RefusalNotice } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { download } from "../../ui/handOver.ts";
import type { IntakeWorker, Judged, TableFile } from "../../workers/intake.ts";
import { useWindowRows } from "../../ui/windowRows.ts";
import { useWorker } from "../../workers/useWorker.ts";

const WORDS: Record<Intake, { name: string; about: string }> = {
  components: {
    name: "Components",
    about: "What there is: code, name, kind, measures. A known code is changed where the table says something else.",
  },
  offers: { name: "Packs and prices", about: "Who sells what in which pack at what price." },
  deliveries: {
    name: "Deliveries",
    about: "What came. Out comes what is still on order, to be ticked off and sent back.",
  },
  counts: { name: "Counts", about: "What is in the jars: each line sets one jar to what was counted." },
  sales: {
    name: "Sales",
    about:
      "What buyers ordered, and what came back. The same order and line is the same sale; what it changes is shown.",
  },
};

/** Asks a supplier for its price list. Suppliers are simulated for now: their prices drift from month to month. */
function AskSupplier(props: {
  suppliers: readonly { id: string; name: string }[];
  disabled: boolean;
  onList: (list: File) => void;
  onSay: (what: string | null) => void;
}) {
  const { suppliers, disabled, onList, onSay } = props;
  const [id, setId] = useState(suppliers[0]!.id);
  const [asking, setAsking] = useState(false);
  const ask = async () => {
    setAsking(true);
    onSay(null);
    try {
      const list = await callFile("readPriceList", { params: { id } });
      onList(new File([list], `${suppliers.find((s) => s.id === id)!.name}, price list.csv`));
    } catch (error) {
      onSay((error as Error).message);
    } finally {
      setAsking(false);
    }
  };
  return (
    <>
      <Labelled label="Or a supplier's price list (simulated)">
        <select className="field max-w-56" value={id} onChange={(e) => setId(e.target.value)}>
          {suppliers.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </Labelled>
      <Button disabled={disabled || asking} onClick={() => void ask()}>
        Ask for it
      </Button>
    </>
  );
}

/** Asks the shop what it sold of the boxes here. It is simulated unless Workshop names another one. */
function AskShop(props: { disabled: boolean; onList: (list: File) => void; onSay: (what: string | null) => void }) {
  const { disabled, onList, onSay } = props;
  const address = useQuery(moneyQuery).data?.shop;
  const [asking, setAsking] = useState(false);
  const ask = async () => {
    setAsking(true);
    onSay(null);
    try {
      onList(new File([await callFile("askShop")], "sales of the shop.csv"));
    } catch (error) {
      onSay(refusalOf(error)?.detail ?? (error as Error).message);
    } finally {
      setAsking(false);
    }
  };
  return (
    <Button disabled={disabled || asking} onClick={() => void ask()}>
      {asking ? "Asking the shop …" : address ? "Ask the shop" : "Ask the shop (simulated)"}
    </Button>
  );
}

/** Which heading was which column the last time, in this browser. */
const useMappings = create<{
  known: Record<string, Record<string, string>>;
  keep: (key: string, mapping: Record<string, string>) => void;
}>()(
  persist((set) => ({ known: {}, keep: (key, mapping) => set((s) => ({ known: { ...s.known, [key]: mapping } })) }), {
    name: "jar-count/mappings",
  }),
);

interface NamedFile extends TableFile {
  name: string;
}
const startIntake = () => new Worker(new URL("../../workers/intake.ts", import.meta.url), { type: "module" });

/** Tables in and out: every line is looked at before anything is written, and then all of it is or nothing. */
export function TablesIn() {
  const { kind: asked } = useParams();
  const kind = INTAKES.find((k) => k === asked) ?? "components";
  const navigate = useNavigate();
  const [components, rooms, jars, orders, sold] = [
    useQuery(componentsQuery),
    useQuery(roomsQuery),
    useQuery(shelfQuery),
    useQuery(ordersQuery),
    useQuery(knownSalesQuery),
  ];
  const waiting = [components, rooms, jars, orders, sold].find((q) => !q.data);
  if (waiting) return <Waiting error={waiting.error} what="the workshop" retry={() => void waiting.refetch()} />;
  const known = { components: components.data!, ...rooms.data!, jars: jars.data!, orders: orders.data!, ...sold.data! };
  return (
    <Page title="Tables in and out">
      <PageHead
        back={{ to: "/jars", words: "Jars" }}
        title="Tables in and out"
        about="CSV in any column order. Every line is looked at first; then all of it is written, or nothing."
      />
      <div className="flex flex-wrap items-center justify-between gap-3 px-6">
        <Segmented
          label="What"
          value={kind}
          options={INTAKES.map((k) => ({ value: k, label: WORDS[k].name }))}
          onChange={(k) => void navigate(`/tables/${k}`, { replace: true })}
        />
        <Button onClick={() => download(`${kind}.csv`, writeTable(kind, tableOf(kind, known)), "text/csv")}>
          <Download size={16} aria-hidden /> Take {WORDS[kind].name.toLowerCase()} out
        </Button>
      </div>
      <p className="px-6 pt-2 text-muted">{WORDS[kind].about}</p>
      <Bring key={kind} kind={kind} known={known} />
    </Page>
  );
}

function Bring({ kind, known }: { kind: Intake; known: Parameters<typeof tableOf>[1] }) {
  const person = useSettings((s) => s.person);
  const { known: mappings, keep } = useMappings();
  const worker = useWorker<IntakeWorker>(startIntake);
  const picker = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<NamedFile | null>(null);
  const [mapping, setMapping] = useState<Record<string, string>>({});
  /** What stands before the decimals of the file; null where nobody can tell and a person must say it. */
  const [mark, setMark] = useState<DecimalMark | null>(".");
  const [progress, setProgress] = useState<{ done: number; of: number } | null>(null);
  const [found, setFound] = useState<{ judged: Judged[]; whole: boolean } | null>(null);
  const [writing, setWriting] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const [refusal, setRefusal] = useState<ErrorBody | null>(null);
  const [show, setShow] = useState<"all" | "refused">("all");

  /** Ends the worker, with its request where one is on its way: the server notices, and writes nothing. */
  const stop = () => {
    worker.stop();
    setProgress(null);
    setWriting(false);
    setFile(null);
    setFound(null);
  };
  const judge = async (of: NamedFile, by: Record<string, string>, said: DecimalMark | null = null) => {
    setMapping(by);
    setMark(said ?? ".");
    setFound(null);
    setProgress({ done: 0, of: of.rows });
    const judged: Judged[] = [];
    const { places, suppliers } = await queryClient.fetchQuery(roomsQuery);
    let told: DecimalMark | null;
    try {
      told = await worker.ask().judge(
        kind,
        by,
        { places, suppliers },
        said,
        proxy((done) => setProgress({ done, of: of.rows })),
        proxy((part) => void judged.push(...part)),
      );
    } catch {
      setSaid("The server can't be reached, so the lines can't be looked at. Choose the file again when it is back.");
      return;
    } finally {
      setProgress(null);
    }
    setMark(told);
    if (told === null) return;
    setFound({ judged, whole: true });
    setShow(judged.some((j) => j.status === "refused") ? "refused" : "all");
  };
  const open = async (chosen: File) => {
    setSaid(null);
    setRefusal(null);
    setFound(null);
    const of = { name: chosen.name, ...(await worker.ask().read(await chosen.text())) };
    if (of.rows > MOST_OF_IMPORT.rows) {
      setFile(null);
      return setSaid(
        `${of.name} has ${sayNumber(of.rows)} lines, and at most ${sayNumber(MOST_OF_IMPORT.rows)} are taken at a ` +
          "time. Split it into files of that many.",
      );
    }
    setFile(of);
    await judge(of, mappings[`${kind} ${of.headings.join("|")}`] ?? guessMapping(kind, of.headings));
  };
  const write = async () => {
    setWriting(true);
    setRefusal(null);
    const lines = found!.whole ? null : found!.judged.map((j) => j.line);
    const written = await worker.ask().write(kind, file!.name.slice(0, 200), person, lines);
    setWriting(false);
    if ("refusal" in written) {
      if (written.refusal.code === "stale") await judge(file!, mapping, mark);
      if (written.refusal.code !== "away") return setRefusal(written.refusal);
      return setSaid(
        "No answer came from the server. The table is still here: write it again when the server is back, " +
          "and it is written once.",
      );
    }
    const many = written.imported;
    keep(`${kind} ${file!.headings.join("|")}`, mapping);
    setSaid(
      `Written: ${sayNumber(many.new)} new, ${sayNumber(many.changed)} changed, ${sayNumber(many.same)} as ` +
        "they were.",
    );
    setFile(null);
    setFound(null);
    await (kind === "sales" ? makeStale("sales") : stockChanged());
  };
  const stopWriting = () => {
    stop();
    setSaid(
      "Stopped. Unless it was written just before, nothing was: look at the ledger before you choose the file again.",
    );
  };
  const downloadRefused = async () =>
    download(`refused of ${file!.name}`, writeTable(kind, await worker.ask().refused(), ["why"]), "text/csv");
  const unknown = [
    ...new Map(found?.judged.flatMap((j) => (j.supplier ? [[j.supplier.toLowerCase(), j.supplier]] : []))),
  ];
  const addSuppliers = async () => {
    const { version, ...rooms } = await queryClient.fetchQuery({ ...roomsQuery, staleTime: 0 });
    const added = unknown.map(([, name]) => ({ id: crypto.randomUUID(), name, leadDays: null }));
    const body = { version, rooms: { ...rooms, suppliers: [...rooms.suppliers, ...added] } };
    try {
      queryClient.setQueryData(roomsQuery.queryKey, await call("saveRooms", { body }));
      await judge(file!, mapping, mark);
    } catch (error) {
      setRefusal(refusalOf(error));
    }
  };
  const many = (status: Judged["status"]) => found?.judged.filter((j) => j.status === status).length ?? 0;
  const refused = many("refused");
  return (
    <div className="px-6 pt-4">
      <input
        ref={picker}
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        className="sr-only"
        aria-label="Table file"
        tabIndex={-1}
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) void open(chosen);
          e.target.value = "";
        }}
      />
      <div className="flex flex-wrap items-end gap-4">
        <Button look={file ? "plain" : "main"} disabled={writing} onClick={() => picker.current?.click()}>
          <FileUp size={16} aria-hidden /> {file ? "Another file" : "Choose a file"}
        </Button>
        {kind === "sales" && <AskShop disabled={writing} onList={(list) => void open(list)} onSay={setSaid} />}
        {kind === "offers" && known.suppliers.length > 0 && (
          <AskSupplier
            suppliers={known.suppliers}
            disabled={writing}
            onList={(list) => void open(list)}
            onSay={setSaid}
          />
        )}
      </div>
      {said && (
        <p role="status" className="pt-3 font-medium">
          {said}
        </p>
      )}
      {refusal && (
        <div className="-mx-6">
          <RefusalNotice refusal={{ ...refusal, errors: refusal.errors?.slice(0, 10) }} />
        </div>
      )}
      {file && (
        <>
          <h2 className="pt-5">{file.name}</h2>
          <p className="text-muted">{sayNumber(file.rows)} lines. Which column is which:</p>
          {file.faults.length > 0 && (
            <p className="pt-1">
              <Diamond className="text-low" />{" "}
              {file.faults
                .slice(0, 3)
                .map((f) => `line ${f.line}: ${f.message}`)
                .join("; ")}
            </p>
          )}
          <Mapping
            columns={INTAKE_COLUMNS[kind].filter((c) => c.required || mapping[c.name] !== undefined)}
            headings={file.headings}
            mapping={mapping}
            onMap={(by) => void judge(file, by)}
          />
          <details className="pt-2">
            <summary className="w-fit cursor-pointer text-sm font-medium text-action">
              Other columns that a table may have
            </summary>
            <Mapping
              columns={INTAKE_COLUMNS[kind].filter((c) => !c.required && mapping[c.name] === undefined)}
              headings={file.headings}
              mapping={mapping}
              onMap={(by) => void judge(file, by)}
            />
          </details>
        </>
      )}
      {file && !progress && <Decimals mark={mark} onSay={(said) => void judge(file, mapping, said)} />}
      {progress && (
        <p className="flex items-center gap-3 pt-4" role="status">
          <progress max={progress.of} value={progress.done} aria-label="Lines looked at" />
          <span>
            {sayNumber(progress.done)} of {sayNumber(progress.of)} looked at
          </span>
          <Button className="h-8!" onClick={stop}>
            Stop
          </Button>
        </p>
      )}
      {found && file && (
        <>
          <p className="flex flex-wrap items-center gap-x-5 gap-y-1 pt-5" data-testid="preview">
            <span>
              <strong>{sayNumber(many("new"))}</strong> new
            </span>
            {kind !== "counts" && kind !== "deliveries" && (
              <>
                <span>
                  <strong>{sayNumber(many("changed"))}</strong> changed
                </span>
                <span>
                  <strong>{sayNumber(many("same"))}</strong> as they are
                </span>
              </>
            )}
            <span className={refused > 0 ? "font-semibold text-short" : ""}>
              {refused > 0 && <Triangle />} <strong>{sayNumber(refused)}</strong> refused
            </span>
          </p>
          {unknown.length > 0 && (
            <p className="flex flex-wrap items-center gap-3 pt-2">
              <Button onClick={() => void addSuppliers()}>
                {unknown.length === 1 ? "Add the supplier" : `Add ${sayNumber(unknown.length)} suppliers`}
              </Button>
              <span>
                Not in the workshop yet:{" "}
                {unknown
                  .slice(0, 6)
                  .map(([, name]) => name.slice(0, 60))
                  .join(", ")}
                {unknown.length > 6 && " …"}
              </span>
            </p>
          )}
          {refused > 0 && (
            <p className="pt-1">
              Nothing can be written while lines are refused.{" "}
              <button type="button" className="link font-medium" onClick={() => void downloadRefused()}>
                Download the refused lines
              </button>
              , mend them and send them again; or{" "}
              <button
                type="button"
                className="link font-medium"
                onClick={() => setFound({ judged: found.judged.filter((j) => j.status !== "refused"), whole: false })}
              >
                go on without them
              </button>
              .
            </p>
          )}
          <div className="flex items-center gap-3 pt-3">
            <Button
              look="main"
              disabled={refused > 0 || found.judged.length === 0 || writing}
              onClick={() => void write()}
            >
              {writing ? "Writing …" : `Write all ${sayNumber(found.judged.length)} lines`}
            </Button>
            {writing && <Button onClick={stopWriting}>Stop</Button>}
            {refused > 0 && (
              <Segmented
                label="Show"
                value={show}
                options={[
                  { value: "refused", label: "Refused lines" },
                  { value: "all", label: "All lines" },
                ]}
                onChange={setShow}
              />
            )}
          </div>
          <Preview
            list={show === "refused" && refused > 0 ? found.judged.filter((j) => j.status === "refused") : found.judged}
          />
        </>
      )}
    </div>
  );
}

/** Which mark the file's numbers are written with: told from them where that can be known, else asked. */
function Decimals({ mark, onSay }: { mark: DecimalMark | null; onSay: (mark: DecimalMark) => void }) {
  return (
    <div className="pt-3">
      <Labelled label={<strong className="font-semibold text-ink">Decimal mark</strong>}>
        <select
          className="field max-w-60"
          value={mark ?? ""}
          onChange={(e) => onSay(e.target.value as DecimalMark)}
          aria-describedby={mark === null ? "which-decimals" : undefined}
        >
          {mark === null && <option value="">Choose …</option>}
          <option value=".">a point: 1,250.5</option>
          <option value=",">a comma: 1.250,5</option>
        </select>
      </Labelled>
      {mark === null && (
        <p role="alert" id="which-decimals" className="pt-1 font-medium">
          <Diamond className="text-low" /> The numbers of this file can be read in two ways: 1,250 is a thousand, or a
          little more than one. Choose the decimal mark; then the lines are looked at.
        </p>
      )}
    </div>
  );
}

interface MappingProps {
  columns: readonly IntakeColumn[];
  headings: readonly string[];
  mapping: Record<string, string>;
  onMap: (mapping: Record<string, string>) => void;
}

/** Which of the file's headings is which of our columns. */
function Mapping({ columns, headings, mapping, onMap }: MappingProps) {
  return (
    <div className="flex flex-wrap gap-x-4 gap-y-2 pt-2">
      {columns.map(({ name, required }) => (
        <Labelled key={name} label={required ? <strong className="font-semibold text-ink">{name}</strong> : name}>
          <select
            className="field h-7! max-w-40"
            value={mapping[name] ?? ""}
            onChange={(e) =>
              onMap(
                Object.fromEntries(Object.entries({ ...mapping, [name]: e.target.value }).filter(([, v]) => v !== "")),
              )
            }
          >
            <option value="">not there</option>
            {headings.map((h) => (
              <option key={h} value={h}>
                {h}
              </option>
            ))}
          </select>
        </Labelled>
      ))}
    </div>
  );
}

const ROW = 34;
const LINE_COLUMNS = "grid-cols-[70px_90px_minmax(0,1fr)_minmax(0,1.6fr)]";
const SAID: Record<Judged["status"], string> = { new: "new", changed: "changed", same: "as it is", refused: "refused" };

function Preview({ list }: { list: readonly Judged[] }) {
  const { frame, virtual, topOf } = useWindowRows<HTMLOListElement>({
    count: list.length,
    estimateSize: () => ROW,
    overscan: 10,
  });
  return (
    <section aria-label="Lines of the table" className="mt-3 border-t border-rule">
      <ol ref={frame} style={{ height: virtual.getTotalSize() }} className="relative">
        {virtual.getVirtualItems().map((item) => {
          const j = list[item.index]!;
          return (
            <li
              key={j.line}
              className={`absolute inset-x-0 grid items-center gap-3 border-b border-rule ${LINE_COLUMNS}`}
              style={{ height: ROW, top: topOf(item) }}
            >
              <span className="text-muted">line {j.line}</span>
              <span
                className={
                  j.status === "refused"
                    ? "font-semibold text-short"
                    : j.status === "same"
                      ? "text-muted"
                      : "font-medium"
                }
              >
                {j.status === "refused" && <Triangle />} {SAID[j.status]}
              </span>
              <span className="truncate" title={j.what}>
                {j.what || "no code"}
              </span>
              <span className="truncate" title={j.faults.join(" ")}>
                {j.faults.join(" ")}
              </span>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
