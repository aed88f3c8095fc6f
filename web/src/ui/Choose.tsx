import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { Fragment, type ReactNode, useState } from "react";

export interface Choice {
  id: string;
  label: string;
  /** Words it is also found by. */
  words?: string;
  mark?: ReactNode;
  note?: ReactNode;
  /** The heading it stands under; those of one heading stand together. */
  group?: string;
  /** In place of mark and note, where many are to choose from: made for those that are listed. */
  look?: () => { mark?: ReactNode; note?: ReactNode };
}

interface ListProps {
  /** What is being chosen, spoken and in the search field. */
  label: string;
  choices: readonly Choice[];
  /** What is only listed once everything is asked for. */
  behind?: readonly Choice[];
  onChoose: (id: string) => void;
  /** Offered at the foot of the list, by what is typed. */
  foot?: (typed: string) => ReactNode;
  /** The letter that opened it, as the start of the search. */
  typed?: string;
}

interface ChooseProps extends ListProps {
  children: ReactNode;
  open: boolean;
  onOpen: (open: boolean) => void;
}

const MOST = 60;
const FRAME = "z-50 w-88 max-w-[94vw] rounded-md border border-edge bg-paper shadow-lg";

/** Chooses one of many by typing: every word typed must be found, in any order. Opens over its child, a button. */
export function Choose({ children, open, onOpen, ...list }: ChooseProps) {
  return (
    <Popover.Root open={open} onOpenChange={onOpen}>
      <Popover.Trigger asChild>{children}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={2} className={FRAME}>
          <List {...list} close={() => onOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** As {@link Choose}, for many places at once: opened over whichever of them asks, which gets the focus back. */
export function ChooseAt({ at, onClose, ...list }: ListProps & { at: HTMLElement; onClose: () => void }) {
  return (
    <Popover.Root open onOpenChange={(now) => !now && onClose()}>
      <Popover.Anchor virtualRef={{ current: at }} />
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          className={FRAME}
          onCloseAutoFocus={(e) => {
            e.preventDefault();
            // Unless something else was opened from it.
            if (!document.querySelector("[role=dialog][data-state=open]")) at.focus();
          }}
        >
          <List {...list} close={onClose} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A choice's words in small letters, kept for as long as it is there. */
const texts = new WeakMap<Choice, string>();
function textOf(choice: Choice): string {
  let text = texts.get(choice);
  if (text === undefined) texts.set(choice, (text = `${choice.label} ${choice.words ?? ""}`.toLowerCase()));
  return text;
}

function List({ label, choices, behind = [], onChoose, foot, typed, close }: ListProps & { close: () => void }) {
  const [search, setSearch] = useState(typed ?? "");
  const [everything, setEverything] = useState(false);
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (c: Choice) => words.every((word) => textOf(c).includes(word));
  const near = choices.filter(fits);
  const rest = behind.filter(fits);
  const found = everything ? [...near, ...rest] : near;
  return (
    <Command shouldFilter={false} label={label} loop>
      <Command.Input
        autoFocus
        value={search}
        onValueChange={setSearch}
        placeholder={label}
        className="h-10 w-full border-b border-rule bg-transparent px-3 outline-none placeholder:text-muted"
      />
      <Command.List className="max-h-72 overflow-y-auto p-1">
        {found.length === 0 && (
          <p className="px-2 py-2 text-muted">
            {rest.length > 0 ? "Nothing that fits is called that." : "Nothing is called that."}
          </p>
        )}
        {found.slice(0, MOST).map((c, i, list) => {
          const { mark, note } = c.look?.() ?? c;
          const heads = c.group !== undefined && c.group !== list[i - 1]?.group;
          return (
            <Fragment key={c.id}>
              {heads && <p className="px-2 pt-2 pb-0.5 text-xs text-muted">{c.group}</p>}
              <Command.Item
                value={c.id}
                onSelect={() => {
                  onChoose(c.id);
                  close();
                }}
                className="flex cursor-pointer items-center gap-2 rounded px-2 py-1.5 data-[selected=true]:bg-hush"
              >
                {mark}
                <span className="min-w-0 flex-1 truncate">{c.label}</span>
                <span className="text-xs text-muted">{note}</span>
              </Command.Item>
            </Fragment>
          );
        })}
        {!everything && rest.length > 0 && (
          <Command.Item
            value="show everything"
            onSelect={() => setEverything(true)}
            className="cursor-pointer rounded px-2 py-1.5 font-medium text-action data-[selected=true]:bg-hush"
          >
            Show everything ({rest.length} more)
          </Command.Item>
        )}
        {found.length > MOST && (
          <p className="px-2 py-1 text-xs text-muted">{found.length - MOST} more: type on to narrow it down.</p>
        )}
      </Command.List>
      {foot && <div className="border-t border-rule p-1">{foot(search.trim())}</div>}
    </Command>
  );
}
