import { axesOf } from "@jar-count/core/bom";
import { roleId } from "@jar-count/core/contract";
import { askedOfBox, type BoxFinding } from "@jar-count/core/fit";
import { inUnit } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { componentsQuery } from "../../api/queries.ts";
import { today, useSettings } from "../../settings/index.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { Triangle } from "../../ui/marks.tsx";
import { NoteOf } from "../../ui/NoteOf.tsx";
import { usePersonName } from "../../ui/usePersonName.ts";
import type { BoxFitWorker, Named } from "../../workers/boxFit.ts";
import { useWorker } from "../../workers/useWorker.ts";
import { useBox, useBoxStore } from "./boxStore.ts";
import { choose } from "./tray.ts";

const startWorker = () => new Worker(new URL("../../workers/boxFit.ts", import.meta.url), { type: "module" });

/** What does not fit because of what was chosen, colourway by colourway: another component, or a note why it may. */
export function BoxFit() {
  const { detail, box } = useBox(useShallow((w) => ({ detail: w.detail, box: w.box })));
  const components = useQuery(componentsQuery).data;
  const asked = useMemo(() => askedOfBox({ ...detail, box: { ...detail.box, ...box } }), [detail, box]);
  const worker = useWorker<BoxFitWorker>(startWorker);
  const [found, setFound] = useState<{ of: typeof asked; list: BoxFinding[]; instead: Named[][] } | null>(null);
  /** What the worker knows already. */
  const known = useRef<{ worker: unknown; components: typeof components }>(null);
  useEffect(() => {
    let gone = false;
    const judge = async () => {
      const work = worker.ask();
      const list = await work.judge(asked, box.overrules);
      if (gone) return;
      setFound({ of: asked, list, instead: [] });
      const wrong = list.flatMap((f) =>
        f.stands.some((s) => s) ? [] : [{ asked: asked[f.asked[0]!]!, check: f.check, at: list.indexOf(f) }],
      );
      if (wrong.length === 0 || !components) return;
      if (known.current?.worker !== worker || known.current.components !== components) {
        known.current = { worker, components };
        await work.know(components);
      }
      const named = await work.instead(wrong.map(({ asked, check }) => ({ asked, check })));
      const instead = list.map((_, i) => named[wrong.findIndex((w) => w.at === i)] ?? []);
      if (!gone) setFound({ of: asked, list, instead });
    };
    void judge();
    return () => {
      gone = true;
    };
  }, [asked, box.overrules, components, worker]);
  if (!found || found.of !== asked || found.list.length === 0) return null;
  return (
    <section aria-label="What was chosen and does not fit" className="mx-6 mt-6 border-t border-rule pt-4">
      <h2 className="font-semibold">What was chosen, and does not fit</h2>
      <ul className="mt-2 flex flex-col gap-4">
        {found.list.map((f, i) => (
          <li key={`${f.asked.join()} ${f.check.rule} ${f.check.part} ${f.check.key} ${f.check.need}`}>
            <Finding found={f} asked={f.asked.map((i) => asked[i]!)} instead={found.instead[i] ?? []} />
          </li>
        ))}
      </ul>
    </section>
  );
}

type Asked = ReturnType<typeof askedOfBox>[number];

function Finding({
  found: { check, stands },
  asked,
  instead,
}: {
  found: BoxFinding;
  asked: Asked[];
  instead: readonly Named[];
}) {
  const { edit } = useBoxStore();
  const box = useBox((w) => w.box);
  const unit = useSettings((s) => s.unit);
  const [note, setNote] = useState<string | null>(null);
  const [first] = asked;
  const { design, chosen } = first!;
  const role = box.roles.find((r) => r.id === chosen[check.key]?.boxRole);
  const named = (list: readonly { id: string; name: string }[], id: string | null) =>
    list.find((c) => c.id === id)?.name ?? "";
  const variants = new Set(
    asked.map((a) => [named(box.colourways, a.first), named(box.seconds, a.second)].join(" ").trim()),
  );
  const where =
    variants.size > 1 && variants.size === box.variants.length ? "every colourway" : [...variants].join(", ");
  const places = new Set(asked.map((a) => (role ? axesOf(role, a.first, a.second).join(" ") : "")));
  // One press changes one place of the tray; what stands in several is chosen there.
  const [at, second] = role ? axesOf(role, first!.first, first!.second) : [null, null];
  const [kept] = stands;
  const who = usePersonName();
  const keep = () => {
    const entry = design.key.find((e) => e.key === check.key);
    const { rule, part, need, have } = check;
    const overrules = asked.flatMap((a) => {
      const component = a.chosen[check.key]?.component;
      if (component === undefined || !entry) return [];
      const { line, first, second, size } = a;
      const said = { note: note!.trim(), who, on: today() };
      const id = crypto.randomUUID();
      return [{ id, line, first, second, component, rule, part, roleId: roleId(entry), size, need, have, ...said }];
    });
    edit((b) => ({ ...b, overrules: [...b.overrules, ...overrules] }));
    setNote(null);
  };
  const judgeAgain = () => {
    const gone = new Set(stands.map((s) => s?.id));
    edit((b) => ({ ...b, overrules: b.overrules.filter((o) => !gone.has(o.id)) }));
  };
  return (
    <>
      <p className="flex gap-2">
        {!kept && (
          <span className="text-short">
            <Triangle />
            <span className="sr-only">Does not fit: </span>
          </span>
        )}
        <span className="min-w-0 break-words">
          <span className="text-xs text-muted">
            {design.name} · {where}
          </span>
          <br />
          {inUnit(check.message, unit)}
        </span>
      </p>
      {kept ? (
        <p className="pl-6">
          Stands: <NoteOf of={kept} />
          <button type="button" className="link ml-2" onClick={judgeAgain}>
            judge it again
          </button>
        </p>
      ) : (
        <div className="mt-1.5 flex flex-wrap gap-1.5 pl-6">
          {role &&
            places.size === 1 &&
            second === null &&
            instead.map(({ id, name }) => (
              <Button
                key={id}
                className="h-auto! min-h-8 py-1 text-sm whitespace-normal!"
                onClick={() => edit(choose(role.id, at, id))}
              >
                Take {name}
              </Button>
            ))}
          {note === null && (
            <Button look="quiet" className="h-8! text-sm" onClick={() => setNote("")}>
              Let it stand
            </Button>
          )}
        </div>
      )}
      {note !== null && (
        <div className="mt-2 flex flex-wrap items-end gap-2 pl-6">
          <Labelled label="Why it may stand" className="min-w-60 flex-1">
            <input className="field w-full" maxLength={500} value={note} onChange={(e) => setNote(e.target.value)} />
          </Labelled>
          <Button look="main" disabled={note.trim() === ""} onClick={keep}>
            Keep this note
          </Button>
          <Button look="quiet" onClick={() => setNote(null)}>
            Don’t
          </Button>
        </div>
      )}
    </>
  );
}
