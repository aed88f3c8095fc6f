import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";

export interface Choice {
  id: string;
  label: string;
  /** Words it is also found by. */
  words?: string;
  mark?: ReactNode;
  note?: ReactNode;
}

interface ChooseProps {
  /** What is being chosen, spoken and in the search field. */
  label: string;
  choices: readonly Choice[];
  onChoose: (id: string) => void;
  /** Offered at the foot of the list. */
  foot?: ReactNode;
  children: (how: { open: boolean }) => ReactNode;
  open: boolean;
  onOpen: (open: boolean) => void;
  /** The letter that opened it, as the start of the search. */
  typed?: string;
}

const MOST = 60;

/** Chooses one of many by typing: every word typed must be found, in any order. Opens over its child, a button. */
export function Choose({ label, choices, onChoose, foot, children, open, onOpen, typed = "" }: ChooseProps) {
  return (
    <Popover.Root open={open} onOpenChange={onOpen}>
      <Popover.Trigger asChild>{children({ open })}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          className="z-50 w-80 rounded-md border border-edge bg-paper shadow-lg"
        >
          <List {...{ label, choices, onChoose, foot, typed }} close={() => onOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function List({
  label,
  choices,
  onChoose,
  foot,
  typed,
  close,
}: Pick<ChooseProps, "label" | "choices" | "onChoose" | "foot" | "typed"> & { close: () => void }) {
  const [search, setSearch] = useState(typed ?? "");
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = choices.filter((c) => {
    const text = `${c.label} ${c.words ?? ""}`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
  return (
    <Command shouldFilter={false} label={label} loop>
      <Command.Input
        autoFocus
        value={search}
        onValueChange={setSearch}
        placeholder={label}
        className="h-10 w-full rounded-t-md border-b border-rule bg-transparent px-3 outline-none placeholder:text-muted"
      />
      <Command.List className="max-h-72 overflow-y-auto p-1">
        {found.length === 0 && <p className="px-2 py-3 text-muted">Nothing is called that.</p>}
        {found.slice(0, MOST).map((c) => (
          <Command.Item
            key={c.id}
            value={c.id}
            onSelect={() => {
              onChoose(c.id);
              close();
            }}
            className="flex cursor-pointer items-center gap-2 rounded px-2 py-1.5 data-[selected=true]:bg-hush"
          >
            {c.mark}
            <span className="min-w-0 flex-1 truncate">{c.label}</span>
            <span className="text-xs text-muted">{c.note}</span>
          </Command.Item>
        ))}
        {found.length > MOST && (
          <p className="px-2 py-1 text-xs text-muted">{found.length - MOST} more: type on to narrow it down.</p>
        )}
      </Command.List>
      {foot && <div className="border-t border-rule p-1">{foot}</div>}
    </Command>
  );
}
