import { colourWord } from "@jar-count/core/component";
import { axesOf } from "@jar-count/core/bom";
import type { BoxInput, BoxRole, Component } from "@jar-count/core/contract";
import { roleId } from "@jar-count/core/contract";
import { DropdownMenu } from "radix-ui";
import { EllipsisVertical, Plus, X } from "lucide-react";
import { useMemo, useRef, useState } from "react";
import { Chip } from "../../ui/Bead.tsx";
import { Choose, type Choice } from "../../ui/Choose.tsx";
import { Button, Empty, ButtonLink, IconButton } from "../../ui/controls.tsx";
import { checkName, NumberField, TextField } from "../../ui/fields.tsx";
import { useSayQuantity } from "../../ui/marks.tsx";
import type { BoxWork } from "./useBox.ts";

/** The colour tray: which jar every bead comes from, role by role and colourway by colourway. */
export function ColoursStage({ work }: { work: BoxWork }) {
  const { box, edit, components } = work;
  const grid = useRef<HTMLTableElement>(null);
  const say = useSayQuantity();
  const choices = useMemo(
    () =>
      components.map((c) => ({
        id: c.id,
        label: c.name,
        words: `${c.code} ${c.kind} ${c.form ?? ""} ${colourWord(c.colour)}`,
        mark: <Chip of={c} />,
        note: say(c.onHand, c.baseUnit),
        kind: c.kind,
      })),
    [components, say],
  );
  if (box.lines.length === 0) {
    return (
      <Empty
        title="Nothing to colour yet"
        action={
          <ButtonLink look="main" to={`/months/${box.id}/designs`}>
            Add a design
          </ButtonLink>
        }
      >
        The tray fills with the beads and findings of the designs in the box.
      </Empty>
    );
  }
  const addColourway = () =>
    edit((b) => {
      const id = crypto.randomUUID();
      return {
        ...b,
        colourways: [...b.colourways, { id, name: `Colourway ${b.colourways.length + 1}` }],
        variants: [...b.variants, { first: id, second: null, boxes: b.variants.at(-1)?.boxes ?? 10 }],
      };
    });
  const pick = (role: BoxRole, first: string | null, component: string | null) =>
    edit((b) => ({
      ...b,
      picks: [
        ...b.picks.filter((p) => !(p.boxRole === role.id && p.first === first && p.second === null)),
        ...(component ? [{ boxRole: role.id, first, second: null, component }] : []),
      ],
    }));
  const byId = new Map(components.map((c) => [c.id, c]));
  const chosen = new Map(box.picks.map((p) => [`${p.boxRole} ${p.first} ${p.second}`, p.component]));

  const onArrow = (e: React.KeyboardEvent) => {
    const cell = (e.target as HTMLElement).closest<HTMLElement>("[data-cell]");
    if (!cell || !/^Arrow/.test(e.key)) return;
    const [r, c] = cell.dataset.cell!.split(",").map(Number) as [number, number];
    const down = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    const right = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
    const to =
      grid.current?.querySelector<HTMLElement>(`[data-cell="${r + down},${c + right}"]`) ??
      (down !== 0 ? grid.current?.querySelector<HTMLElement>(`[data-cell="${r + down},0"]`) : null);
    if (!to) return;
    e.preventDefault();
    to.focus();
  };

  return (
    <section className="pt-4" aria-label="Colour tray">
      <div className="flex flex-wrap items-center justify-between gap-3 px-6 pb-2">
        <p className="text-muted">
          {box.colourways.length === 0
            ? "Add the first colourway: a name such as Moss, and how many boxes of it go out."
            : "Choose a cell and type to search. Counts follow the chosen bead’s own measures."}
        </p>
        <Button look={box.colourways.length === 0 ? "main" : "plain"} onClick={addColourway}>
          <Plus size={16} aria-hidden /> Add a colourway
        </Button>
      </div>
      <div className="overflow-x-auto px-6" tabIndex={0} role="region" aria-label="Colour tray, scrolls sideways">
        <table ref={grid} className="row-table" onKeyDown={onArrow}>
          <thead>
            <tr className="align-bottom">
              <th scope="col" className="sticky left-0 z-10 min-w-44 bg-paper">
                Role
              </th>
              {box.colourways.map((way) => (
                <th key={way.id} scope="col" className="min-w-28 align-bottom">
                  <span className="flex items-center">
                    <TextField
                      aria-label={`Name of the colourway ${way.name}`}
                      className="cell-field font-semibold"
                      value={way.name}
                      check={checkName}
                      onChange={(name) =>
                        edit(
                          (b) => ({
                            ...b,
                            colourways: b.colourways.map((w) => (w.id === way.id ? { ...w, name } : w)),
                          }),
                          `way-${way.id}`,
                        )
                      }
                    />
                    <IconButton
                      label={`Take the colourway ${way.name} out`}
                      className="size-7! shrink-0"
                      onClick={() => edit((b) => withoutColourway(b, way.id))}
                    >
                      <X size={14} />
                    </IconButton>
                  </span>
                  <span className="flex items-center gap-1.5 pl-1.5">
                    <NumberField
                      aria-label={`Boxes of ${way.name}`}
                      className="field h-7! w-16"
                      whole
                      max={1_000_000}
                      value={box.variants.find((v) => v.first === way.id)?.boxes ?? 0}
                      onChange={(boxes) =>
                        edit(
                          (b) => ({
                            ...b,
                            variants: b.variants.map((v) => (v.first === way.id ? { ...v, boxes: boxes! } : v)),
                          }),
                          `boxes-${way.id}`,
                        )
                      }
                    />
                    boxes
                  </span>
                </th>
              ))}
              <td className="w-full" />
            </tr>
          </thead>
          <tbody>
            {box.roles.map((role, r) => (
              <tr key={role.id}>
                <th scope="row" className="sticky left-0 z-10 bg-paper py-1.5 text-left align-middle">
                  <span className="flex items-center justify-between gap-1">
                    <span className="min-w-0">
                      <span className="block font-medium [overflow-wrap:anywhere]">{role.name}</span>
                      <span className="block text-xs font-normal text-muted">{usedBy(work, role)}</span>
                    </span>
                    <RoleMenu work={work} role={role} />
                  </span>
                </th>
                {role.follows === "none" ? (
                  <td colSpan={Math.max(box.colourways.length, 1)}>
                    <Cell
                      role={role}
                      way="every colourway"
                      cell={`${r},0`}
                      component={byId.get(chosen.get(`${role.id} null null`) ?? "")}
                      choices={choices}
                      onChoose={(c) => pick(role, null, c)}
                      wide
                    />
                  </td>
                ) : (
                  box.colourways.map((way, c) => {
                    const [first, second] = axesOf(role, way.id, null);
                    return (
                      <td key={way.id}>
                        <Cell
                          role={role}
                          way={way.name}
                          cell={`${r},${c}`}
                          component={byId.get(chosen.get(`${role.id} ${first} ${second}`) ?? "")}
                          choices={choices}
                          onChoose={(id) => pick(role, first, id)}
                        />
                      </td>
                    );
                  })
                )}
                <td />
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function withoutColourway(b: BoxInput, id: string): BoxInput {
  return {
    ...b,
    colourways: b.colourways.filter((w) => w.id !== id),
    variants: b.variants.filter((v) => v.first !== id),
    picks: b.picks.filter((p) => p.first !== id),
  };
}

/** `A, b · Kiln Door Earrings`: the keys that stand for a role, by design. */
function usedBy({ box, designs }: BoxWork, role: BoxRole): string {
  return box.lines
    .flatMap((line) => {
      const design = designs.find((d) => d.designId === line.designId && d.revision === line.revision)?.design;
      const keys = box.bindings
        .filter((b) => b.line === line.id && b.boxRole === role.id)
        .flatMap((b) => design?.key.find((e) => roleId(e) === b.role)?.key ?? []);
      return design && keys.length > 0 ? [`${keys.join(", ")} · ${design.name.slice(0, 40)}`] : [];
    })
    .join("; ");
}

interface CellProps {
  role: BoxRole;
  way: string;
  cell: string;
  component: Component | undefined;
  choices: readonly (Choice & { kind: string })[];
  onChoose: (component: string | null) => void;
  wide?: boolean;
}

/** One cell: the bead that was chosen, or a plain gap. A letter opens the search with it. */
function Cell({ role, way, cell, component, choices, onChoose, wide }: CellProps) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  // What fits the role's kind comes first; anything can be chosen.
  const fitting = useMemo(
    () => (open ? [...choices].sort((a, b) => Number(b.kind === role.kind) - Number(a.kind === role.kind)) : []),
    [open, choices, role.kind],
  );
  return (
    <Choose
      label={`${role.name}, ${way}: find a component`.slice(0, 90)}
      choices={fitting}
      open={open}
      typed={typed}
      onOpen={(now) => {
        if (!now) setTyped("");
        setOpen(now);
      }}
      onChoose={onChoose}
      foot={
        component && (
          <Button
            look="quiet"
            className="h-8"
            onClick={() => {
              onChoose(null);
              setOpen(false);
            }}
          >
            Leave it open
          </Button>
        )
      }
    >
      {() => (
        <button
          type="button"
          data-cell={cell}
          aria-label={`${role.name}, ${way}: ${component?.name ?? "not chosen"}`}
          title={component?.name}
          className={`flex w-full items-center gap-1.5 rounded px-1.5 py-1 text-left hover:bg-hush ${wide ? "min-h-8" : "min-h-16 flex-col justify-center"} ${component ? "" : "border border-dashed border-short"}`}
          onKeyDown={(e) => {
            if (e.key.length === 1 && /[\p{L}\p{N}]/u.test(e.key) && !e.ctrlKey && !e.metaKey && !e.altKey) {
              e.preventDefault();
              setTyped(e.key);
              setOpen(true);
            } else if ((e.key === "Delete" || e.key === "Backspace") && component) {
              e.preventDefault();
              onChoose(null);
            }
          }}
        >
          {component ? (
            <>
              <Chip of={component} size={wide ? 20 : 28} />
              <span className={wide ? "truncate" : "line-clamp-2 w-full max-w-28 text-center text-xs leading-4"}>
                {component.name}
              </span>
            </>
          ) : (
            <span className="w-full text-xs font-medium text-short">not chosen</span>
          )}
        </button>
      )}
    </Choose>
  );
}

function RoleMenu({ work: { box, edit }, role }: { work: BoxWork; role: BoxRole }) {
  const others = box.roles.filter((r) => r.id !== role.id && r.kind === role.kind);
  const bound = box.bindings.filter((b) => b.boxRole === role.id);
  const item = "cursor-pointer rounded px-2 py-1.5 outline-none data-[highlighted]:bg-hush";
  const follow = () =>
    edit((b) => {
      const to = role.follows === "none" ? ("first" as const) : ("none" as const);
      const had = b.picks.find((p) => p.boxRole === role.id);
      const picks = b.picks.filter((p) => p.boxRole !== role.id);
      const kept = !had
        ? []
        : to === "none"
          ? [{ ...had, first: null, second: null }]
          : b.colourways.map((w) => ({ ...had, first: w.id, second: null }));
      return {
        ...b,
        roles: b.roles.map((r) => (r.id === role.id ? { ...r, follows: to } : r)),
        picks: [...picks, ...kept],
      };
    });
  const join = (other: string) =>
    edit((b) => ({
      ...b,
      bindings: b.bindings.map((x) => (x.boxRole === role.id ? { ...x, boxRole: other } : x)),
      roles: b.roles.filter((r) => r.id !== role.id),
      picks: b.picks.filter((p) => p.boxRole !== role.id),
    }));
  const split = () =>
    edit((b) => {
      const [, ...rest] = bound;
      const fresh = rest.map((x) => ({ binding: x, role: { ...role, id: crypto.randomUUID() } }));
      const i = b.roles.findIndex((r) => r.id === role.id);
      return {
        ...b,
        roles: [...b.roles.slice(0, i + 1), ...fresh.map((f) => f.role), ...b.roles.slice(i + 1)],
        bindings: b.bindings.map((x) => {
          const own = fresh.find((f) => f.binding.line === x.line && f.binding.role === x.role);
          return own ? { ...x, boxRole: own.role.id } : x;
        }),
        picks: [
          ...b.picks,
          ...fresh.flatMap((f) =>
            b.picks.filter((p) => p.boxRole === role.id).map((p) => ({ ...p, boxRole: f.role.id })),
          ),
        ],
      };
    });
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <IconButton label={`Change the role ${role.name}`} className="size-7! shrink-0">
          <EllipsisVertical size={14} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-50 max-w-72 rounded-md border border-edge bg-paper p-1 shadow-lg"
        >
          <DropdownMenu.Item className={item} onSelect={follow}>
            {role.follows === "none" ? "Choose for each colourway" : "The same in every colourway"}
          </DropdownMenu.Item>
          {bound.length > 1 && (
            <DropdownMenu.Item className={item} onSelect={split}>
              Give each design its own
            </DropdownMenu.Item>
          )}
          {others.length > 0 && (
            <DropdownMenu.Sub>
              <DropdownMenu.SubTrigger className={item}>Take it from the same jar as …</DropdownMenu.SubTrigger>
              <DropdownMenu.Portal>
                <DropdownMenu.SubContent className="z-50 max-h-80 overflow-y-auto rounded-md border border-edge bg-paper p-1 shadow-lg">
                  {others.map((o) => (
                    <DropdownMenu.Item key={o.id} className={item} onSelect={() => join(o.id)}>
                      {o.name}
                    </DropdownMenu.Item>
                  ))}
                </DropdownMenu.SubContent>
              </DropdownMenu.Portal>
            </DropdownMenu.Sub>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
