import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useEffect, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import { boxesQuery, componentsQuery, designsQuery } from "../api/queries.ts";
import { Dialog } from "../ui/Dialog.tsx";
import { monthName } from "../ui/month.ts";

const FOUND =
  "flex cursor-pointer items-baseline justify-between gap-3 rounded px-2 py-1.5 data-[selected=true]:bg-hush";

const MOST = 12;

/** Finds designs, components and boxes by any words of their names, from anywhere. */
export default function Find({ onClose }: { onClose: () => void }) {
  return (
    <Dialog title="Find" open onClose={onClose}>
      <Found onClose={onClose} />
    </Dialog>
  );
}

function Found({ onClose }: { onClose: () => void }) {
  const [search, setSearch] = useState("");
  const navigate = useNavigate();
  const { pathname } = useLocation();
  // On a design, help opens beside its rows.
  const helpAt = /^\/(designs\/.|lessons\/)/.test(pathname) ? `${pathname}?how=` : "/help?find=";
  const designs = useQuery(designsQuery);
  const components = useQuery(componentsQuery);
  const boxes = useQuery(boxesQuery);
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (text: string) => words.every((w) => text.toLowerCase().includes(w));
  const groups = [
    {
      title: "Boxes",
      list: (boxes.data ?? []).map((b) => ({
        id: b.id,
        to: `/months/${b.id}`,
        label: b.theme,
        note: monthName(b.month, true),
      })),
    },
    {
      title: "Designs",
      list: (designs.data ?? []).map((d) => ({
        id: d.id,
        to: `/designs/${d.id}`,
        label: d.name,
        note: `revision ${d.revision}`,
      })),
    },
    {
      title: "Jars",
      list: (components.data ?? []).map((c) => ({ id: c.id, to: `/jars/${c.id}`, label: c.name, note: c.code })),
    },
  ].map((g) => ({ ...g, list: g.list.filter((x) => fits(`${x.label} ${x.note}`)) }));
  // What explains the notation comes when somebody looks for something: no page needs it to begin with.
  const [notation, setNotation] = useState<typeof import("@jar-count/core/shorthand") | null>(null);
  useEffect(() => void import("@jar-count/core/shorthand").then(setNotation), []);
  const [beginners, setBeginners] = useState<typeof import("../features/notation/beginners.ts") | null>(null);
  useEffect(() => void import("../features/notation/beginners.ts").then(setBeginners), []);
  const answers = beginners?.findAnswers(search) ?? [];
  if (answers.length > 0) {
    groups.push({
      title: "Help",
      list: answers.map((a) => ({ id: `answer ${a.title}`, to: a.to, label: `${a.title}: ${a.says}`, note: "" })),
    });
  }
  const help = words.length === 0 ? [] : (notation?.findConstructs(search) ?? []);
  if (help.length > 0) {
    groups.push({
      title: "How rows are written",
      list: [
        ...(words.includes("help")
          ? [{ id: "help", to: "/help", label: "Help: the notation and lessons", note: "" }]
          : []),
        ...help.map((c) => ({
          id: `help ${c.id}`,
          to: helpAt + encodeURIComponent(c.title.toLowerCase()),
          label: c.title,
          note: c.words.join(", "),
        })),
      ],
    });
  }
  return (
    <Command shouldFilter={false} label="Find" loop>
      <Command.Input
        autoFocus
        value={search}
        onValueChange={setSearch}
        placeholder="A design, a component, a box, or help: repeat, length"
        className="field h-10! w-full"
      />
      <Command.List className="mt-2 max-h-96 overflow-y-auto">
        {groups.every((g) => g.list.length === 0) && <p className="px-2 py-3 text-muted">Nothing is called that.</p>}
        {groups.map((g) =>
          g.list.length === 0 ? null : (
            <Command.Group
              key={g.title}
              heading={<span className="block px-2 pt-2 text-xs text-muted">{g.title}</span>}
            >
              {g.list.slice(0, MOST).map((x) => (
                <Command.Item
                  key={x.id}
                  value={x.id}
                  className={FOUND}
                  onSelect={() => {
                    onClose();
                    void navigate(x.to);
                  }}
                >
                  <span className="min-w-0 truncate">{x.label}</span>
                  <span className="text-xs whitespace-nowrap text-muted">{x.note}</span>
                </Command.Item>
              ))}
              {g.list.length > MOST && (
                <p className="px-2 py-1 text-xs text-muted">{g.list.length - MOST} more: type on.</p>
              )}
            </Command.Group>
          ),
        )}
      </Command.List>
    </Command>
  );
}
