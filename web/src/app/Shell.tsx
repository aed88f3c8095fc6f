import { useQuery } from "@tanstack/react-query";
import type { BoxSummary } from "@jar-count/core/contract";
import { Menu, Moon, Plus, Sun, X } from "lucide-react";
import { Dialog as RadixDialog } from "radix-ui";
import { useCallback, useEffect, useState, useSyncExternalStore } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import { isAway, onAway } from "../api/client.ts";
import { boxesQuery, careQuery, healthQuery, roomsQuery, workshopQuery } from "../api/queries.ts";
import { later } from "../ui/later.tsx";
import { IconButton, Segmented } from "../ui/controls.tsx";
import { Triangle } from "../ui/marks.tsx";
import { monthName } from "../ui/month.ts";
import { Begin } from "./Begin.tsx";
import { Keys } from "./Keys.tsx";
import { followDay, followLocale, followUnit, useSettings } from "../settings/index.ts";

const ROOMS = [
  { to: "/designs", name: "Designs", key: "d" },
  { to: "/jars", name: "Jars", key: "j" },
  { to: "/ahead", name: "Ahead", key: "a" },
  { to: "/buy", name: "Buy", key: "b" },
  { to: "/look-back", name: "Look back", key: "l" },
  { to: "/stocktakes", name: "Stocktake", key: "s" },
  { to: "/workshop", name: "Workshop", key: "w" },
  { to: "/help", name: "Help", key: "h" },
];

export function Shell() {
  const [finding, setFinding] = useState(false);
  const find = useCallback(() => setFinding(true), []);
  // Fetched before it is asked for, so that what is typed after / is not lost.
  useEffect(() => void Find.load(), []);
  const online = useSyncExternalStore(watchConnection, () => navigator.onLine);
  const away = useAway();
  const narrow = useSyncExternalStore(watchWidth, () => NARROW.matches);
  const workshop = useQuery(workshopQuery).data;
  followLocale(workshop?.locale ?? "");
  if (workshop) followDay(workshop);
  useEffect(() => workshop && followUnit(workshop.ruler), [workshop]);
  return (
    <div className="flex min-h-screen flex-col md:flex-row">
      <a href="#work" className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-paper focus:p-2">
        Skip to the work
      </a>
      {narrow ? (
        <NarrowHead workshop={workshop?.name} onFind={find} />
      ) : (
        <nav
          aria-label="Months and rooms"
          className="no-print sticky top-0 flex h-screen w-[180px] shrink-0 flex-col border-r border-rule"
        >
          <div className="px-4 pt-5 pb-2">
            <NavLink to="/" className="font-serif text-xl">
              Jar Count
            </NavLink>
            <p className="truncate text-xs text-muted" title={workshop?.name}>
              {workshop?.name}
            </p>
          </div>
          <Shelf onFind={find} />
        </nav>
      )}
      <div id="work" className="flex min-w-0 flex-1 flex-col">
        {(!online || away) && (
          <p role="status" className="no-print border-b border-rule bg-hush px-6 py-2 font-medium">
            {online
              ? "Waiting for the workshop’s server or database. What you type is kept here, and sent when it is back."
              : "No connection. What you type is kept here, and sent when it is back."}
          </p>
        )}
        <BackupFault />
        <Begin />
        {/* Numbers and dates are written anew where the workshop's way of writing them, or its time zone, changes. */}
        <Outlet key={`${workshop?.locale ?? ""} ${workshop?.timeZone ?? ""}`} />
      </div>
      <Keys onFind={find} />
      {finding && <Find onClose={() => setFinding(false)} />}
    </div>
  );
}

/** Too narrow for the shelf beside the work: it is behind a menu. */
const NARROW = matchMedia("(width < 48rem)");
function watchWidth(changed: () => void) {
  NARROW.addEventListener("change", changed);
  return () => NARROW.removeEventListener("change", changed);
}

/** The head on a phone, one line: whose workshop, the month or room at hand, and the menu of all of them. */
function NarrowHead({ workshop, onFind }: { workshop: string | undefined; onFind: () => void }) {
  const [open, setOpen] = useState(false);
  const { pathname } = useLocation();
  const boxes = useQuery(boxesQuery).data;
  const box = boxes?.find((b) => pathname.startsWith(`/months/${b.id}`));
  const here = box ? monthName(box.month) : ROOMS.find((r) => pathname.startsWith(r.to))?.name;
  // Whatever leads on shuts it.
  const [at, setAt] = useState(pathname);
  if (at !== pathname) {
    setAt(pathname);
    setOpen(false);
  }
  return (
    <header className="no-print flex h-11 shrink-0 items-center gap-3 border-b border-rule pr-1 pl-4">
      <NavLink to="/" className="font-serif text-lg whitespace-nowrap">
        Jar Count
      </NavLink>
      <span className="min-w-0 flex-1 truncate text-sm text-muted">{here ?? workshop}</span>
      <RadixDialog.Root open={open} onOpenChange={setOpen}>
        <RadixDialog.Trigger className="inline-flex h-11 items-center gap-1.5 rounded px-3 font-medium">
          <Menu size={18} aria-hidden /> Menu
        </RadixDialog.Trigger>
        <RadixDialog.Portal>
          <RadixDialog.Overlay className="fixed inset-0 z-40 bg-black/35" />
          <RadixDialog.Content
            aria-describedby={undefined}
            className="fixed inset-y-0 right-0 z-50 flex w-72 max-w-[85vw] flex-col overflow-y-auto bg-mat shadow-xl"
          >
            <div className="flex items-center justify-between pt-2 pr-2 pl-4">
              <RadixDialog.Title className="truncate font-semibold">{workshop ?? "Menu"}</RadixDialog.Title>
              <RadixDialog.Close asChild>
                <IconButton label="Close the menu" className="size-11!">
                  <X size={18} />
                </IconButton>
              </RadixDialog.Close>
            </div>
            <nav aria-label="Months and rooms" className="flex flex-col">
              <Shelf
                onFind={() => {
                  setOpen(false);
                  onFind();
                }}
              />
            </nav>
          </RadixDialog.Content>
        </RadixDialog.Portal>
      </RadixDialog.Root>
    </header>
  );
}

/** So often is it looked at whether backups are still made, ms. */
const LOOK_MS = 60_000;

/** A backup that could not be made or proved: on every page, until one is. */
function BackupFault() {
  const care = useQuery({ ...careQuery, refetchInterval: LOOK_MS, staleTime: LOOK_MS }).data;
  if (!care?.fault) return null;
  return (
    <p role="alert" className="no-print border-b border-rule bg-hush px-6 py-2">
      <span className="font-semibold text-short">
        <Triangle /> The last backup failed.
      </span>{" "}
      {care.fault}{" "}
      <Link to="/workshop/data" className="link font-medium whitespace-nowrap">
        See to it
      </Link>
    </p>
  );
}

/** Whether the last thing that was asked of the server got no answer; then it is asked until it is back. */
function useAway(): boolean {
  const away = useSyncExternalStore(onAway, isAway);
  useQuery({ ...healthQuery, enabled: away, refetchInterval: 2000, retry: false, gcTime: 0 });
  return away;
}

const Find = later(
  async () => (await import("./Find.tsx")).default,
  () => null,
);

function watchConnection(changed: () => void) {
  addEventListener("online", changed);
  addEventListener("offline", changed);
  return () => {
    removeEventListener("online", changed);
    removeEventListener("offline", changed);
  };
}

/** A room in the list: a thumb's height on a phone. */
const ROOM = "flex items-baseline justify-between gap-3 rounded-md px-2 py-3 md:py-1";

function Shelf({ onFind }: { onFind: () => void }) {
  const boxes = useQuery(boxesQuery);
  const { unit, setUnit, theme, setTheme } = useSettings();
  const dark = theme === "dark" || (theme === "auto" && document.documentElement.dataset.theme === "dark");
  return (
    <>
      <ul className="flex min-h-0 flex-col gap-1 px-2 pb-2 md:flex-1 md:overflow-y-auto">
        {boxes.data?.map((box) => (
          <Month key={box.id} box={box} />
        ))}
        <li>
          <NavLink
            to="/months/new"
            className="flex items-center gap-2 rounded-md p-2 whitespace-nowrap text-muted hover:bg-hush hover:text-ink"
          >
            <Plus size={16} aria-hidden /> Plan a month
          </NavLink>
        </li>
      </ul>
      <div className="border-t border-rule px-2 py-3">
        <button type="button" onClick={onFind} className={`w-full text-left hover:bg-hush ${ROOM}`}>
          Find <kbd className="hidden font-mono text-xs text-muted md:inline">/</kbd>
        </button>
        {ROOMS.map((room) => (
          <NavLink
            key={room.to}
            to={room.to}
            className={({ isActive }) => `${ROOM} ${isActive ? "bg-paper font-semibold" : "hover:bg-hush"}`}
          >
            {room.name} <kbd className="hidden font-mono text-xs text-muted md:inline">g {room.key}</kbd>
          </NavLink>
        ))}
        <Who />
        <div className="flex items-center justify-between gap-2 px-2 pt-2">
          <Segmented
            label="Lengths in"
            value={unit}
            options={[
              { value: "in", label: "in" },
              { value: "mm", label: "mm" },
            ]}
            onChange={setUnit}
          />
          <button
            type="button"
            aria-label={dark ? "Light colours" : "Dark colours"}
            title={dark ? "Light colours" : "Dark colours"}
            onClick={() => setTheme(dark ? "light" : "dark")}
            className="grid size-8 place-items-center rounded text-muted hover:bg-hush hover:text-ink"
          >
            {dark ? <Sun size={16} /> : <Moon size={16} />}
          </button>
        </div>
      </div>
    </>
  );
}

/** Who is at the bench: written beside every move of stock. */
function Who() {
  const rooms = useQuery(roomsQuery);
  const { person, setPerson } = useSettings();
  const people = rooms.data?.people ?? [];
  return (
    <label className="flex items-center gap-2 px-2 pt-3">
      <span className="text-xs text-muted" title="Who is at the bench">
        Who
      </span>
      <select
        className="field h-7! min-w-0 flex-1 px-1"
        value={people.some((p) => p.id === person) ? person! : ""}
        onChange={(e) => setPerson(e.target.value || null)}
      >
        <option value="">nobody</option>
        {people.map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
      </select>
    </label>
  );
}

function Month({ box }: { box: BoxSummary }) {
  return (
    <li>
      <NavLink
        to={`/months/${box.id}`}
        className={({ isActive }) =>
          `flex items-center gap-2.5 rounded-md px-2 py-1.5 ${isActive ? "bg-paper" : "hover:bg-hush"}`
        }
      >
        <Stripe box={box} />
        <span className="min-w-0 flex-1">
          <span className="block truncate font-semibold">{monthName(box.month)}</span>
          <span className="block truncate text-xs text-muted" title={box.theme}>
            {box.theme}
          </span>
          {box.state !== "planned" && (
            <span className="block text-xs font-medium">
              {box.state === "packing" ? `${box.packed} of ${box.boxes} packed` : box.state}
            </span>
          )}
        </span>
      </NavLink>
    </li>
  );
}

/** A month's box from above: each colourway a row of its own beads. */
function Stripe({ box }: { box: BoxSummary }) {
  const rows = box.colourways.slice(0, 8);
  const tall = 30 / Math.max(rows.length, 1);
  return (
    <svg viewBox="0 0 36 36" width="36" height="36" aria-hidden className="shrink-0">
      <rect x="0.5" y="0.5" width="35" height="35" rx="3" fill="var(--board)" stroke="var(--rule)" />
      {rows.map((row, i) =>
        Array.from({ length: 5 }, (_, j) => {
          const colour = row.stripe[j % Math.max(row.stripe.length, 1)];
          const r = Math.min(3.1, tall / 2 - 0.2);
          return colour ? (
            <circle
              key={`${row.id}${j}`}
              cx={6 + j * 6}
              cy={3 + tall * (i + 0.5)}
              r={r}
              fill={colour}
              stroke="var(--contour)"
              strokeWidth="0.4"
            />
          ) : null;
        }),
      )}
    </svg>
  );
}
