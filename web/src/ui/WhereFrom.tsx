import type { Origin } from "@jar-count/core/count";
import { Popover } from "radix-ui";
import { type ReactNode, type RefObject, useRef, useState } from "react";
import { Link } from "react-router";
import { sayNumber, useSayQuantity } from "./marks.tsx";
import { DataTable } from "./DataTable.tsx";

export interface OriginRow {
  id: string;
  /** Where it stands, in words. */
  where: ReactNode;
  /** How its number is made: `112 in one Strand × 2`. */
  how: ReactNode;
  total: ReactNode;
  /** Going there: an address, or something to do. */
  to?: string | undefined;
  go?: (() => void) | undefined;
}

/** Something to show, or how to make it when it is opened. */
type Made = ReactNode | (() => ReactNode);
const make = (made: Made) => (typeof made === "function" ? made() : made);

interface Props {
  /** What the number is, for its button's name: `Where 123 of b come from`. */
  label: string;
  title: Made;
  /** Made when it is opened. */
  rows: () => OriginRow[];
  total: ReactNode;
  note?: Made;
  className?: string;
  children: ReactNode;
}

const QUESTIONED = "rounded underline decoration-dotted decoration-1 underline-offset-4 hover:decoration-2";
/** Never higher than the room that there is in the window. */
const FRAME =
  "z-50 max-h-[min(60vh,var(--radix-popover-content-available-height))] w-[26rem] max-w-[92vw] overflow-y-auto " +
  "rounded-md border border-edge bg-paper p-3 shadow-lg";

/** A number that can be questioned: opens to what makes it, each row a way to go there. */
export function WhereFrom({ label, className = "", children, ...inside }: Props) {
  const button = useRef<HTMLButtonElement>(null);
  const [open, setOpen] = useState(false);
  return (
    <>
      <button
        ref={button}
        type="button"
        aria-label={label}
        aria-haspopup="dialog"
        aria-expanded={open}
        className={`${QUESTIONED} ${className}`}
        onClick={() => setOpen(!open)}
      >
        {children}
      </button>
      {/* A page holds hundreds of these numbers: what opens is made when it opens. */}
      {open && <Opened label={label} {...inside} at={button} onClose={() => setOpen(false)} />}
    </>
  );
}

type OpenedProps = Omit<Props, "children" | "className"> & {
  at: RefObject<HTMLButtonElement | null>;
  onClose: () => void;
};

function Opened({ label, title, rows, total, note, at, onClose }: OpenedProps) {
  return (
    <Popover.Root open onOpenChange={(now) => !now && onClose()}>
      <Popover.Anchor virtualRef={at as RefObject<HTMLButtonElement>} />
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          collisionPadding={12}
          aria-label={label}
          onCloseAutoFocus={(e) => {
            e.preventDefault();
            at.current?.focus();
          }}
          // A press on the number itself closes it by its own button.
          onInteractOutside={(e) => at.current?.contains(e.target as Node) && e.preventDefault()}
          className={FRAME}
        >
          <p className="mb-2 font-semibold">{make(title)}</p>
          <Rows rows={rows} total={total} />
          {note !== undefined && <p className="mt-2 text-xs text-muted">{make(note)}</p>}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Only mounted while open, so that what makes a number is worked out when it is asked for. */
function Rows({ rows, total }: { rows: () => OriginRow[]; total: ReactNode }) {
  const place = "w-full rounded px-1 text-left hover:bg-hush";
  return (
    <DataTable
      bare
      rows={rows()}
      rowKey={(row) => row.id}
      testId="origin"
      columns={[
        {
          head: "Where",
          look: "py-1.5 pl-0!",
          cell: ({ where, how, to, go }) => {
            const inside = (
              <>
                <span className="block font-medium text-action">{where}</span>
                <span className="block text-xs text-muted">{how}</span>
              </>
            );
            if (to !== undefined) {
              return (
                <Link to={to} className={`block ${place}`}>
                  {inside}
                </Link>
              );
            }
            if (!go) return <span className="block px-1">{inside}</span>;
            return (
              <Popover.Close asChild>
                <button type="button" className={place} onClick={go}>
                  {inside}
                </button>
              </Popover.Close>
            );
          },
        },
        { head: "How much", number: true, look: "font-semibold", cell: ({ total }) => total },
      ]}
      foot={
        <tr className="sticky bottom-0 bg-paper font-semibold">
          <th scope="row" className="pl-1! text-left font-semibold!">
            adds up to
          </th>
          <td className="num" data-testid="origin-total">
            {total}
          </td>
        </tr>
      }
    />
  );
}

/** Says one origin in words: where it stands, and what it is times. */
export function useSayOrigin(linear: boolean) {
  const say = useSayQuantity();
  const amount = (n: number) => (linear ? say(n, "length") : sayNumber(n));
  return (o: Origin): { where: ReactNode; how: string } => {
    const part = o.part?.name ?? "the whole item";
    const place = o.place ? `${part}, row ${o.place.row}, column ${o.place.column + 1}` : part;
    const where = (
      <>
        {place}
        {o.place && <code className="ml-2 font-mono text-ink">{o.text.replace(/\s+/g, " ").slice(0, 40)}</code>}
      </>
    );
    const times = o.times === 1 ? "" : ` × ${sayNumber(o.times)}`;
    const each = amount(o.each);
    switch (o.how) {
      case "row":
        return { where, how: `${each} picked up in one ${part}${times}` };
      case "hangs":
        return { where, how: `${each} that ${o.by} hangs by in one ${part}${times}` };
      case "uses":
        return {
          where,
          how: `${each} named with the findings of one ${part}${o.by ? `, for each ${o.by}` : ""}${times}`,
        };
      case "item":
        return { where, how: `${each} for each item` };
      case "kit":
        return { where: "the kit", how: `${each} once a kit` };
      case "box":
        return { where: "the box", how: `${each} once a box` };
      case "mix":
        return { where, how: `its share of mix ${o.by} here` };
      case "strung":
        return { where, how: `${each} strung for one ${part}${times}` };
      case "also":
        return { where, how: `${each} that run along in one ${part}${times}` };
      case "measured":
        return { where: "the ruler", how: `${each} up to what can be measured` };
      case "cut":
        return { where, how: `${each} named under the cuts of one ${part}${times}` };
    }
  };
}

/** The address of a place on the bench, which lights it there. */
export function benchPlace(
  designId: string,
  origin: Origin,
  key: string,
  size: string | null,
  option: string | null,
): string {
  const params = new URLSearchParams({ key });
  if (origin.part) params.set("part", origin.part.id);
  if (origin.place) {
    params.set("from", String(origin.place.from));
    params.set("to", String(origin.place.to));
  }
  if (size !== null) params.set("size", size);
  if (option !== null) params.set("option", option);
  return `/designs/${designId}?${params.toString()}`;
}
