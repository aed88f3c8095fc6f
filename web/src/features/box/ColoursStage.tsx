import { axesOf, billOf } from "@jar-count/core/bom";
import { choicesFor, colourWord, oddOf, wantedOf } from "@jar-count/core/component";
import type { BoxInput, BoxRole, Component, KeyEntry } from "@jar-count/core/contract";
import { roleId } from "@jar-count/core/contract";
import { coinPlaces, costOf, costOfComponent } from "@jar-count/core/cost";
import { EllipsisVertical, Plus, X } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { memo, useCallback, useMemo, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { Chip } from "../../ui/Bead.tsx";
import { type Choice, ChooseAt } from "../../ui/Choose.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, IconButton } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { checkName, NumberField, TextField } from "../../ui/fields.tsx";
import { later } from "../../ui/later.tsx";
import { useSayQuantity } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { useRowsLater } from "../../ui/useRowsLater.ts";
import { BoxFit } from "./BoxFit.tsx";
import { PlanNotice } from "./Commit.tsx";
import { type BoxWork, useBox, useBoxStore, holdsSomething } from "./boxStore.ts";
import {
  addColourway,
  choose,
  chooseInAll,
  followColourway,
  joinRole,
  setBoxes,
  setOnceABox,
  setColourwayName,
  splitRole,
  withoutColourway,
} from "./tray.ts";

/** The form comes when it is asked for. */
const AddComponent = later(async () => (await import("./AddComponent.tsx")).AddComponent);

/** Eight colourways stand beside the roles at 1280. */
const ROLE_COLUMN = "w-40 min-w-40 max-w-40";

/** A cell that is being chosen for: its role, its colourway where the role follows one, and where it stands. */
interface Asked {
  role: BoxRole;
  first: string | null;
  typed: string;
  at: HTMLElement;
}
type Ask = (role: BoxRole, first: string | null, typed: string, at: HTMLElement) => void;

/** A component that is being added from a cell, for it alone or for its whole row. */
interface Adding {
  name: string;
  inAll: boolean;
  asked: Asked;
}

/** The colour tray: which jar every bead comes from, role by role and colourway by colourway. */
export function ColoursStage() {
  const { edit, work } = useBoxStore();
  const { id, roles, colourways, noLines } = useBox(
    useShallow(({ box }) => ({
      id: box.id,
      roles: box.roles,
      colourways: box.colourways,
      noLines: !holdsSomething(box),
    })),
  );
  const [asked, setAsked] = useState<Asked | null>(null);
  const [odd, setOdd] = useState<Odd | null>(null);
  const [adding, setAdding] = useState<Adding | null>(null);
  const ask = useCallback<Ask>((role, first, typed, at) => setAsked({ role, first, typed, at }), []);
  const grid = useRef<HTMLTableElement>(null);
  const rows = useRowsLater(roles, 8);
  const addOne = () => {
    edit(addColourway);
    // Its name is what one says first.
    requestAnimationFrame(() => {
      const names = grid.current?.querySelectorAll<HTMLInputElement>("[data-colourway-name]");
      const name = names?.[names.length - 1];
      name?.focus();
      name?.select();
    });
  };
  if (noLines) {
    return (
      <Empty
        title="Nothing to colour yet"
        action={
          <ButtonLink look="main" to={`/months/${id}/designs`}>
            Add a design
          </ButtonLink>
        }
      >
        The tray fills with the beads and findings of the designs in the box.
      </Empty>
    );
  }
  return (
    <section className="pt-4" aria-label="Colour tray">
      <div className="px-6">
        <PlanNotice />
      </div>
      <div className="flex flex-wrap items-center justify-between gap-3 px-6 pb-2">
        <p className="text-muted">
          {colourways.length === 0
            ? "Add the first colourway: a name such as Moss, and how many boxes of it go out."
            : "Choose a cell and type to search. Counts follow the chosen bead’s own measures."}
        </p>
        <Button look={colourways.length === 0 ? "main" : "plain"} onClick={addOne}>
          <Plus size={16} aria-hidden /> Add a colourway
        </Button>
      </div>
      <div className="mx-6 overflow-x-auto" tabIndex={0} role="region" aria-label="Colour tray, scrolls sideways">
        <table ref={grid} className="row-table" onKeyDown={(e) => moveByArrows(e, grid.current)}>
          <thead>
            <tr className="align-bottom">
              <th scope="col" className={`sticky left-0 z-10 bg-paper pl-0! ${ROLE_COLUMN}`}>
                <span className="block">What the designs ask for</span>
                {colourways.length > 0 && <span className="flex h-7 items-center justify-end pr-1">Boxes</span>}
              </th>
              {colourways.map((colourway) => (
                <ColourwayHead key={colourway.id} colourway={colourway} />
              ))}
              <td className="w-full" />
            </tr>
          </thead>
          <tbody>
            {rows.map((role, r) => (
              <TrayRow key={role.id} role={role} row={r} colourways={colourways} onAsk={ask} />
            ))}
          </tbody>
        </table>
      </div>
      <BoxFit />
      {asked && (
        <Chooser
          key={`${asked.role.id} ${asked.first}`}
          asked={asked}
          onClose={() => setAsked(null)}
          onOdd={setOdd}
          onAdd={(name, inAll) => setAdding({ name, inAll, asked })}
        />
      )}
      {odd && <OddDialog odd={odd} onClose={() => setOdd(null)} />}
      {adding && (
        <AddComponent
          name={adding.name}
          colourway={adding.inAll ? null : (colourways.find((c) => c.id === adding.asked.first)?.name ?? null)}
          role={adding.asked.role}
          entries={entriesOf(adding.asked.role.id)(work.getState())}
          onClose={() => setAdding(null)}
          onAdded={(id) => {
            const { role, first } = adding.asked;
            edit(adding.inAll ? chooseInAll(role, id) : choose(role.id, first, id));
            setAdding(null);
          }}
          at={adding.asked.at}
        />
      )}
    </section>
  );
}

/** Arrow keys go from cell to cell; from a row of many cells to one of a single wide cell as well. */
function moveByArrows(e: React.KeyboardEvent, grid: HTMLTableElement | null) {
  const cell = (e.target as HTMLElement).closest<HTMLElement>("[data-cell]");
  if (!cell || !/^Arrow/.test(e.key)) return;
  const [r, c] = cell.dataset.cell!.split(",").map(Number) as [number, number];
  const down = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
  const right = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
  const at = (row: number, column: number) => grid?.querySelector<HTMLElement>(`[data-cell="${row},${column}"]`);
  const to = at(r + down, c + right) ?? (down !== 0 ? at(r + down, 0) : null);
  if (!to) return;
  e.preventDefault();
  to.focus();
}

/** A colourway's name and how many boxes of it go out. */
const ColourwayHead = memo(function ColourwayHead({ colourway }: { colourway: BoxInput["colourways"][number] }) {
  const { edit } = useBoxStore();
  const boxes = useBox(({ box }) => box.variants.find((v) => v.first === colourway.id)?.boxes ?? 0);
  return (
    <th scope="col" className="w-19 min-w-19 px-0.5! align-bottom">
      <TextField
        data-colourway-name
        title={colourway.name}
        aria-label={`Name of the colourway ${colourway.name}`}
        className="cell-field px-1! font-semibold"
        value={colourway.name}
        check={checkName}
        onChange={(name) => edit(setColourwayName(colourway.id, name), `colourway-${colourway.id}`)}
      />
      <span className="flex items-center">
        <NumberField
          aria-label={`Boxes of ${colourway.name}`}
          className="field h-7! w-12 px-1! text-right"
          whole
          max={1_000_000}
          value={boxes}
          onChange={(n) => edit(setBoxes(colourway.id, n!), `boxes-${colourway.id}`)}
        />
        <IconButton
          label={`Take the colourway ${colourway.name} out`}
          className="size-6! shrink-0"
          onClick={() => edit(withoutColourway(colourway.id))}
        >
          <X size={13} />
        </IconButton>
      </span>
    </th>
  );
});

interface RowProps {
  role: BoxRole;
  row: number;
  colourways: BoxInput["colourways"];
  onAsk: Ask;
}

const TrayRow = memo(function TrayRow({ role, row, colourways, onAsk }: RowProps) {
  const { edit } = useBoxStore();
  const picks = useBox((w) => w.picksOf.get(role.id));
  const componentOf = useBox((w) => w.componentOf);
  const chosen = (first: string | null) =>
    componentOf.get(picks?.find((p) => p.first === first && p.second === null)?.component ?? "");
  const clear = useCallback((first: string | null) => edit(choose(role.id, first, null)), [edit, role.id]);
  const shared = { role, onAsk, onClear: clear };
  return (
    <tr>
      <th scope="row" className={`sticky left-0 z-10 bg-paper py-1.5 pl-0! text-left align-middle ${ROLE_COLUMN}`}>
        <span className="flex items-center justify-between gap-1">
          <span className="min-w-0">
            <span className="block font-medium break-words">{role.name}</span>
            <UsedBy role={role} />
          </span>
          <RoleMenu role={role} />
        </span>
      </th>
      {role.follows === "none" ? (
        <td colSpan={Math.max(colourways.length, 1)}>
          <Cell {...shared} first={null} colourway="every colourway" cell={`${row},0`} component={chosen(null)} wide />
        </td>
      ) : (
        colourways.map((colourway, c) => {
          const [first] = axesOf(role, colourway.id, null);
          return (
            <td key={colourway.id} className="px-0.5!">
              <Cell
                {...shared}
                first={first}
                colourway={colourway.name}
                cell={`${row},${c}`}
                component={chosen(first)}
              />
            </td>
          );
        })
      )}
      <td />
    </tr>
  );
});

/** `A, b · Kiln Door Earrings`: the keys that stand for a role, by design. */
function UsedBy({ role }: { role: BoxRole }) {
  const words = useBox(({ box, designs }) =>
    box.lines
      .flatMap((line) => {
        const design = designs.find((d) => d.designId === line.designId && d.revision === line.revision)?.design;
        const keys = box.bindings
          .filter((b) => b.line === line.id && b.boxRole === role.id)
          .flatMap((b) => design?.key.find((e) => roleId(e) === b.role)?.key ?? []);
        return design && keys.length > 0 ? [`${keys.join(", ")} · ${design.name.slice(0, 40)}`] : [];
      })
      .join("; "),
  );
  return <span className="block text-xs font-normal text-muted">{words}</span>;
}

interface CellProps {
  role: BoxRole;
  /** The colourway that it is chosen for; null where the role is the same in every one. */
  first: string | null;
  colourway: string;
  /** Row and column, for the arrow keys. */
  cell: string;
  component: Component | undefined;
  onAsk: Ask;
  onClear: (first: string | null) => void;
  wide?: boolean;
}

/** One cell: the bead that was chosen, or a plain gap. A letter opens the search with it. */
const Cell = memo(function Cell({ role, first, colourway, cell, component, onAsk, onClear, wide }: CellProps) {
  const shape = wide ? "min-h-8" : "min-h-16 flex-col justify-center";
  const gap = component ? "" : "border border-dashed border-short";
  return (
    <button
      type="button"
      data-cell={cell}
      aria-haspopup="dialog"
      aria-label={`${role.name}, ${colourway}: ${component?.name ?? "not chosen"}`}
      title={component?.name}
      className={`flex w-full items-center gap-1.5 rounded px-1 py-1 text-left hover:bg-hush ${shape} ${gap}`}
      onClick={(e) => onAsk(role, first, "", e.currentTarget)}
      onKeyDown={(e) => {
        const letter = e.key.length === 1 && /[\p{L}\p{N}]/u.test(e.key) && !e.ctrlKey && !e.metaKey && !e.altKey;
        const clears = (e.key === "Delete" || e.key === "Backspace") && component !== undefined;
        if (!letter && !clears) return;
        e.preventDefault();
        if (letter) onAsk(role, first, e.key, e.currentTarget);
        else onClear(first);
      }}
    >
      {component ? (
        <>
          <Chip of={component} size={wide ? 20 : 28} />
          <span
            className={wide ? "truncate" : "line-clamp-2 w-full text-center text-xs leading-4 [overflow-wrap:anywhere]"}
          >
            {wide ? component.name : colourIn(component.name)}
          </span>
        </>
      ) : (
        <span className="w-full text-xs font-medium text-short">not chosen</span>
      )}
    </button>
  );
});

/** Of `6 mm round, celadon` the colour's name alone: the drawing shows the rest, and the whole stands in the title. */
const colourIn = (name: string) => name.slice(name.lastIndexOf(",") + 1).trim() || name;

/** What each component is found by; thousands of them, so each is worked out once. */
const found = new WeakMap<Component, Choice & { kind: string }>();
function choiceOf(c: Component, say: ReturnType<typeof useSayQuantity>): Choice & { kind: string } {
  let choice = found.get(c);
  if (!choice) {
    const words = `${c.code} ${c.kind} ${c.form ?? ""} ${colourWord(c.colour)}`;
    choice = { id: c.id, label: c.name, words, kind: c.kind };
    found.set(c, choice);
  }
  choice.look = () => ({ mark: <Chip of={c} />, note: say(c.onHand, c.baseUnit) });
  return choice;
}

/** The keys of the box's designs that stand for a role. */
const entriesOf =
  (role: string) =>
  ({ box, designs }: BoxWork): KeyEntry[] =>
    box.bindings
      .filter((b) => b.boxRole === role)
      .flatMap((b) => {
        const line = box.lines.find((l) => l.id === b.line);
        const pinned = designs.find((d) => d.designId === line?.designId && d.revision === line.revision);
        return pinned?.design.key.filter((e) => roleId(e) === b.role) ?? [];
      });

/** The colours that a colourway's other cells have already. */
const coloursBeside =
  (role: string, first: string | null) =>
  ({ box, componentOf }: BoxWork): string[] =>
    first === null
      ? []
      : box.picks.flatMap((p) => {
          const c = p.first === first && p.boxRole !== role ? componentOf.get(p.component) : undefined;
          return c && (c.kind === "bead" || c.kind === "focal") ? [c.colour] : [];
        });

interface ChooserProps {
  asked: Asked;
  onClose: () => void;
  /** Something of another kind was chosen: it waits until somebody confirms it. */
  onOdd: (odd: Odd) => void;
  onAdd: (name: string, inAll: boolean) => void;
}

/** The search over the cell that asks: what fits first, what is near in colour next, the rest behind. */
function Chooser({ asked: { role, first, typed, at }, onClose, onOdd, onAdd }: ChooserProps) {
  const { edit, work } = useBoxStore();
  const components = useBox((w) => w.components);
  const colourway = useBox(({ box }) => box.colourways.find((c) => c.id === first)?.name ?? "every colourway");
  const several = useBox(({ box }) => first !== null && box.colourways.length > 1);
  const isChosen = useBox((w) => w.picksOf.get(role.id)?.some((p) => p.first === first && p.second === null) ?? false);
  const [inAll, setInAll] = useState(false);
  const say = useSayQuantity();
  const wanted = useMemo(() => wantedOf(role.name, role.kind, entriesOf(role.id)(work.getState())), [role, work]);
  const [choices, behind] = useMemo(() => {
    const inUse = components.filter((c) => !c.away);
    const { same, near, rest } = choicesFor(wanted, inUse, coloursBeside(role.id, first)(work.getState()));
    const listed = (list: Component[], group: string) => list.map((c) => ({ ...choiceOf(c, say), group }));
    return [
      [...listed(same, "Fits: kind, form and size"), ...listed(near, "Other form or size, near in colour")],
      listed(rest, "Everything else"),
    ];
  }, [wanted, components, say, role.id, first, work]);
  const take = (component: string) => edit(inAll ? chooseInAll(role, component) : choose(role.id, first, component));
  return (
    <ChooseAt
      at={at}
      label={`${role.name}, ${colourway}: find a component`.slice(0, 90)}
      choices={choices}
      behind={behind}
      typed={typed}
      onClose={onClose}
      onChoose={(id) => {
        const component = components.find((c) => c.id === id)!;
        const odd = oddOf(wanted, component);
        if (odd === null) take(id);
        else onOdd({ odd, component, take: () => take(id), at, role, first });
      }}
      foot={(words) => (
        <div className="flex flex-wrap items-center gap-x-2">
          <Button
            look="quiet"
            className="h-8 px-2!"
            onClick={() => {
              onClose();
              const named = words.length > 1 ? words : role.name;
              onAdd(first === null || inAll || words.length > 1 ? named : `${named}, ${colourway}`, inAll);
            }}
          >
            <Plus size={15} aria-hidden /> Add this component
          </Button>
          {several && (
            <label className="flex items-center gap-1.5 px-1">
              <input type="checkbox" className="size-4" checked={inAll} onChange={(e) => setInAll(e.target.checked)} />
              for the whole row
            </label>
          )}
          {isChosen && (
            <Button
              look="quiet"
              className="h-8 px-2!"
              onClick={() => {
                edit(choose(role.id, first, null));
                onClose();
              }}
            >
              Leave it open
            </Button>
          )}
        </div>
      )}
    />
  );
}

/** A choice that waits to be confirmed, and what is odd about it. */
interface Odd {
  odd: string;
  component: Component;
  take: () => void;
  at: HTMLElement;
  role: BoxRole;
  first: string | null;
}

/** Asks before something of another kind is taken: what is odd, and what it would cost. */
function OddDialog({ odd, onClose }: { odd: Odd; onClose: () => void }) {
  const { work } = useBoxStore();
  const money = useSayMoney();
  const cost = useMemo(() => {
    const { box, detail, terms } = work.getState();
    const places = coinPlaces(terms?.currency ?? "GBP");
    const tried = { ...box, ...choose(odd.role.id, odd.first, odd.component.id)(box) };
    const components = [...detail.components.filter((c) => c.id !== odd.component.id), odd.component];
    const bill = billOf({ ...detail, box: tried, components });
    return costOfComponent(costOf(bill, places, terms?.money.basis), odd.component.id, places);
  }, [odd, work]);
  return (
    <Dialog title="Is this what you mean?" open onClose={onClose} returnTo={odd.at}>
      <p className="mb-1">
        <strong>{odd.component.name}</strong> is {odd.odd}
        {cost !== null && `; ${money(cost)} for the run`}.
      </p>
      <p className="mb-4 text-muted">
        The row asks for something of another kind. It can be used all the same where you know better.
      </p>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Choose something else</Button>
        <Button
          look="danger"
          onClick={() => {
            odd.take();
            onClose();
          }}
        >
          Use it all the same
        </Button>
      </div>
    </Dialog>
  );
}

const SUB_MENU = "z-50 max-h-80 overflow-y-auto rounded-md border border-edge bg-paper p-1 shadow-lg";
const MENU_ITEM = "cursor-pointer rounded px-2 py-1.5 outline-none data-[highlighted]:bg-hush";

/** Where a role's choice comes from: each colourway its own, one for all, or another role's jar. */
function RoleMenu({ role }: { role: BoxRole }) {
  const [open, setOpen] = useState(false);
  return (
    <DropdownMenu.Root open={open} onOpenChange={setOpen}>
      <DropdownMenu.Trigger asChild>
        <IconButton label={`More for ${role.name}`} className="size-7! shrink-0">
          <EllipsisVertical size={14} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-50 max-w-72 rounded-md border border-edge bg-paper p-1 shadow-lg"
        >
          {open && <RoleItems role={role} />}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function RoleItems({ role }: { role: BoxRole }) {
  const { edit } = useBoxStore();
  const others = useBox(useShallow(({ box }) => box.roles.filter((r) => r.id !== role.id && r.kind === role.kind)));
  const shared = useBox(({ box }) => box.bindings.filter((b) => b.boxRole === role.id).length > 1);
  const onceAKit = useBox(({ bill }) =>
    bill.variants.some((v) => v.needs.some((n) => n.from.some((f) => f.boxRole === role.id && f.per === "kit"))),
  );
  return (
    <>
      <DropdownMenu.Item className={MENU_ITEM} onSelect={() => edit(followColourway(role))}>
        {role.follows === "none" ? "Choose for each colourway" : "The same in every colourway"}
      </DropdownMenu.Item>
      {shared && onceAKit && (
        <DropdownMenu.Item className={MENU_ITEM} onSelect={() => edit(setOnceABox(role.id, !role.onceABox))}>
          {role.onceABox ? "Once for each design that asks for it" : "Once a box for all its designs"}
        </DropdownMenu.Item>
      )}
      {shared && (
        <DropdownMenu.Item className={MENU_ITEM} onSelect={() => edit(splitRole(role, () => crypto.randomUUID()))}>
          Give each design its own
        </DropdownMenu.Item>
      )}
      {others.length > 0 && (
        <DropdownMenu.Sub>
          <DropdownMenu.SubTrigger className={MENU_ITEM}>Take it from the same jar as …</DropdownMenu.SubTrigger>
          <DropdownMenu.Portal>
            <DropdownMenu.SubContent className={SUB_MENU}>
              {others.map((o) => (
                <DropdownMenu.Item key={o.id} className={MENU_ITEM} onSelect={() => edit(joinRole(role.id, o.id))}>
                  {o.name}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.SubContent>
          </DropdownMenu.Portal>
        </DropdownMenu.Sub>
      )}
    </>
  );
}
