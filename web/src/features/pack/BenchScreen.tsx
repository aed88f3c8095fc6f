import type { Packing } from "@jar-count/core/contract";
import { shortId } from "@jar-count/core/pack";
import { useQuery } from "@tanstack/react-query";
import { ArrowLeft, Check, ListChecks, PackageCheck, Scissors } from "lucide-react";
import { useEffect, useState, useSyncExternalStore } from "react";
import { packingQuery, roomsQuery } from "../../api/queries.ts";
import { useSettings } from "../../settings/index.ts";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { monthName } from "../../ui/month.ts";
import { Bags } from "./Bags.tsx";
import { CutList } from "./CutList.tsx";
import { packedNow, sendAll, useQueue } from "./queue.ts";
import { PickList } from "./PickList.tsx";
import { RefusedTaps } from "./RefusedTaps.tsx";

const TABS = [
  { key: "pick", name: "Pick", icon: ListChecks },
  { key: "cut", name: "Cut", icon: Scissors },
  { key: "bags", name: "Bags", icon: PackageCheck },
] as const;
type Tab = (typeof TABS)[number]["key"];

/** What stands in the address: the box, and behind a label's code the bag. */
function asked() {
  const query = new URLSearchParams(location.search);
  const number = (name: string) => Number(query.get(name)) || null;
  const tab = TABS.find((t) => t.key === query.get("tab"))?.key;
  return {
    box: location.pathname.split("/")[2] ?? "",
    variant: query.get("v"),
    no: number("no"),
    bag: number("bag"),
    tab: tab ?? (query.has("v") ? "bags" : ("pick" as Tab)),
  };
}

/** Keeps what is looked at in the address, so that a reload comes back to it. */
export function note(values: Record<string, string | number | null>) {
  const query = new URLSearchParams(location.search);
  for (const [name, value] of Object.entries(values)) {
    if (value === null) query.delete(name);
    else query.set(name, String(value));
  }
  history.replaceState(null, "", `${location.pathname}?${query}`);
}

/** Packing a committed box at the bench, with one hand: pick, cut, and fill bags. */
export function BenchScreen() {
  const [at] = useState(asked);
  const found = useQuery(packingQuery(at.box));
  useEffect(() => void sendAll(), []);
  if (!found.data) {
    return (
      <main className="mx-auto max-w-xl p-6">
        {found.error ? (
          <div role="alert">
            <h1 className="mb-2 text-xl">Nothing to pack here</h1>
            <p className="mb-4">{found.error.message}</p>
            <a className="link" href={at.box === "" ? "/" : `/months/${at.box}`}>
              To the box
            </a>
          </div>
        ) : (
          <p role="status" className="text-muted">
            Fetching the box …
          </p>
        )}
      </main>
    );
  }
  return <Screen packing={found.data} at={at} />;
}

function Screen({ packing: known, at }: { packing: Packing; at: ReturnType<typeof asked> }) {
  const waiting = useQueue((q) => q.waiting);
  const packing = { ...known, packed: packedNow(known, waiting) };
  const [tab, setTab] = useState<Tab>(at.tab);
  const first = packing.of.variants.find((v) => v.id && at.variant !== null && shortId(v.id) === at.variant);
  const over = packing.state === "sent" || packing.stoppedAt !== null;
  return (
    <div className="mx-auto flex min-h-dvh max-w-3xl flex-col pb-20">
      <Head packing={packing} />
      <RefusedTaps packing={packing} />
      <main className="flex-1 px-4 pt-3">
        {over && (
          <p role="status" className="mb-3 rounded-md bg-hush px-4 py-2 font-medium">
            {packing.state === "sent" ? "This box is sent." : "Packing was stopped: the rest was given back."}
          </p>
        )}
        {tab === "pick" && <PickList packing={packing} />}
        {tab === "cut" && <CutList packing={packing} over={over} />}
        {tab === "bags" && <Bags packing={packing} first={first?.id ?? null} no={at.no} bag={at.bag} over={over} />}
      </main>
      <nav
        aria-label="Lists"
        className="fixed inset-x-0 bottom-0 z-20 border-t border-rule bg-mat pb-[env(safe-area-inset-bottom)]"
      >
        <div className="mx-auto flex max-w-3xl">
          {TABS.map(({ key, name, icon: Icon }) => (
            <button
              key={key}
              type="button"
              aria-current={tab === key ? "page" : undefined}
              onClick={() => {
                setTab(key);
                note({ tab: key });
                scrollTo(0, 0);
              }}
              className={`flex h-14 flex-1 flex-col items-center justify-center gap-0.5 text-xs ${
                tab === key ? "border-t-2 border-action font-semibold" : "border-t-2 border-transparent text-muted"
              }`}
            >
              <Icon size={20} aria-hidden /> {name}
            </button>
          ))}
        </div>
      </nav>
    </div>
  );
}

/** Which box, how many of it are packed, who packs, and whether all taps are written down. */
function Head({ packing }: { packing: Packing }) {
  const { of, packed } = packing;
  const boxes = of.variants.reduce((sum, v) => sum + v.boxes, 0);
  const part = boxes > 0 ? packed.length / boxes : 0;
  return (
    <header className="sticky top-0 z-20 border-b border-rule bg-mat px-4 pt-2 pb-2">
      <div className="flex items-center justify-between gap-3">
        <a
          href={`/months/${packing.box}/pack`}
          className="-ml-2 flex h-11 min-w-0 items-center gap-1.5 rounded-md px-2 font-medium hover:bg-hush"
        >
          <ArrowLeft size={18} aria-hidden className="shrink-0" />
          <span className="truncate">
            {of.theme}, {monthName(of.month)}
          </span>
        </a>
        <Who />
      </div>
      <h1 className="flex items-baseline gap-2 font-sans!">
        <strong data-testid="packed" className="text-3xl leading-9 font-semibold">
          {sayNumber(packed.length)}
        </strong>
        <span className="text-sm font-normal text-muted">of {sayNumber(boxes)} packed</span>
      </h1>
      <div aria-hidden className="mt-1 h-1.5 overflow-hidden rounded-full bg-rule">
        <div className="h-full bg-ink" style={{ width: `${100 * part}%` }} />
      </div>
      <Sent />
    </header>
  );
}

function Who() {
  const people = useQuery(roomsQuery).data?.people ?? [];
  const { person, setPerson } = useSettings();
  if (people.length === 0) return null;
  return (
    <label className="flex shrink-0 items-center gap-1.5">
      <span className="sr-only">Who packs</span>
      <select
        className="field h-11! max-w-32"
        value={people.some((p) => p.id === person) ? person! : ""}
        onChange={(e) => setPerson(e.target.value || null)}
      >
        <option value="">who packs?</option>
        {people.map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
      </select>
    </label>
  );
}

const watchOnline = (changed: () => void) => {
  addEventListener("online", changed);
  addEventListener("offline", changed);
  return () => {
    removeEventListener("online", changed);
    removeEventListener("offline", changed);
  };
};

/** Whether every tap is written down, or how many wait for a connection. */
function Sent() {
  const online = useSyncExternalStore(watchOnline, () => navigator.onLine);
  const waiting = useQueue((q) => q.waiting.length);
  const away = useQueue((q) => q.away);
  const last = useQueue((q) => q.last);
  const person = useSettings((s) => s.person);
  const unkept = useQueue((q) => q.unkept.size);
  const looked = useQueue((q) => q.looked);
  const lost = !online || away;
  const words =
    waiting === 0
      ? looked
        ? null
        : "Looking for taps that wait …"
      : lost
        ? `${waiting === 1 ? "One tap waits" : `${waiting} taps wait`} for a connection: ${
            unkept > 0 ? "this browser has no room to keep it, so leave this page open." : "kept here, sent once."
          }`
        : "Writing it down …";
  return (
    <p role="status" className="flex min-h-6 items-center justify-between gap-2 pt-1 text-xs">
      <span className={lost ? "font-semibold" : "text-muted"} data-testid="sent">
        {words ? (
          <>
            {lost && <Triangle className="mr-1 text-low" />}
            {words}
          </>
        ) : lost ? (
          "No connection. Taps are kept here and sent when it is back."
        ) : (
          <span className="inline-flex items-center gap-1">
            <Check size={13} aria-hidden /> all written down
          </span>
        )}
      </span>
      {last && waiting === 0 && (
        <button
          type="button"
          className="link h-6 font-medium"
          onClick={() => useQueue.getState().tap(last.box, person, { does: "undo", entry: last.entry })}
        >
          {last.words}: take it back
        </button>
      )}
    </p>
  );
}
