import { worthOf } from "@jar-count/core/cost";
import { type ComponentDetail, type Movement, REASONS } from "@jar-count/core/contract";
import { sayRun, expanded } from "@jar-count/core/units";
import { extent } from "d3-array";
import { scaleLinear, scaleTime } from "d3-scale";
import { Undo2 } from "lucide-react";
import { useState } from "react";
import { call } from "../../api/client.ts";
import { stockChanged } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useCurrency, useSayMoney } from "../../ui/money.ts";
import { sayDay, sayMinute } from "../../ui/month.ts";
import { DataTable } from "../../ui/DataTable.tsx";

/** The ledger of one component: what moved, why and by whom, with the balance after it; each line can be taken back. */
export function Movements({ detail }: { detail: ComponentDetail }) {
  const { component } = detail;
  const [older, setOlder] = useState<{ movements: Movement[]; older: boolean } | null>(null);
  const [away, setAway] = useState<string | null>(null);
  const person = useSettings((s) => s.person);
  const { send, busy, refusal } = useSend("reverseEntry", () => stockChanged());
  const fault = sentenceOf(refusal);
  const say = useSayQuantity();
  const money = useSayMoney();
  const currency = useCurrency();
  const unit = useSettings((s) => s.unit);
  const last = detail.movements.at(-1)?.id ?? "";
  const list = [...detail.movements, ...(older?.movements.filter((m) => Number(m.id) < Number(last)) ?? [])];
  const more = older ? older.older : detail.older;
  const readOn = async () => {
    try {
      const found = await call("listMovements", {
        params: { id: component.id },
        query: { before: list.at(-1)!.id },
      });
      setOlder({ movements: [...(older?.movements ?? []), ...found.movements], older: found.older });
      setAway(null);
    } catch (error) {
      setAway((error as Error).message);
    }
  };
  const amount = (m: Movement) =>
    m.stretchMm === null
      ? say(Math.abs(m.quantity), component.baseUnit)
      : `${sayNumber(Math.abs(m.quantity))} × ${sayRun(m.stretchMm, unit)}`;
  if (list.length === 0)
    return <p className="text-muted">Nothing yet. Write down what you received, or count what is in the jar.</p>;
  return (
    <>
      <StepChart list={list} say={(n) => say(n, component.baseUnit)} />
      {fault && <Fault>{fault}</Fault>}
      <DataTable
        early
        rows={list}
        rowKey={(m) => m.id}
        testId="movement"
        columns={[
          { head: "When", look: "whitespace-nowrap text-muted", cell: (m) => sayMinute(m.at) },
          { head: "What", look: "whitespace-nowrap", cell: (m) => REASONS[m.kind].label.toLowerCase() },
          { head: "Who", look: "whitespace-nowrap text-muted", cell: (m) => m.person },
          {
            head: "Where",
            look: "whitespace-nowrap text-muted",
            cell: (m) => [m.place, m.lot].filter(Boolean).join(", "),
          },
          {
            head: "Note",
            wide: true,
            look: "min-w-32 [overflow-wrap:anywhere]",
            cell: (m) => [m.note, m.entered].filter(Boolean).join(" · "),
          },
          {
            head: "moved",
            number: true,
            cell: (m) => (
              <>
                {m.quantity < 0 ? "−" : "+"}
                {amount(m)}
                {m.counted !== null && m.u > 0 && (
                  <span className="ml-1 text-xs text-muted">± {sayNumber(Math.max(1, expanded(m.u)), 0)}</span>
                )}
              </>
            ),
          },
          {
            head: "worth",
            number: true,
            look: "text-muted",
            cell: ({ value }) =>
              Number(value) === 0
                ? null
                : `${value.startsWith("-") ? "−" : ""}${money(worthOf(value.replace("-", ""), 1, currency))}`,
          },
          {
            head: "on hand",
            number: true,
            look: "font-semibold",
            cell: (m) => say(m.balance, component.baseUnit),
          },
          {
            head: "Take back",
            silent: true,
            look: "px-0!",
            cell: (m) =>
              m.reversible && (
                <button
                  type="button"
                  disabled={busy}
                  aria-label={`Take back: ${REASONS[m.kind].label.toLowerCase()} ${amount(m)}, ${sayMinute(m.at)}`}
                  title="Take this back by another entry"
                  className="grid size-8 place-items-center rounded text-muted hover:bg-hush hover:text-ink"
                  onClick={() =>
                    void send((requestKey) => ({ params: { entry: m.entry }, body: { requestKey, person } }))
                  }
                >
                  <Undo2 size={15} />
                </button>
              ),
          },
        ]}
      />
      {more && (
        <p className="pt-2">
          <Button onClick={() => void readOn()}>Older movements</Button> {away && <Fault>{away}</Fault>}
        </p>
      )}
    </>
  );
}

const [WIDE, TALL, LEFT, UNDER] = [760, 96, 52, 18];

/** The balance over time, a step at every movement. */
function StepChart({ list, say }: { list: readonly Movement[]; say: (n: number) => string }) {
  // Movements of one entry happen at one moment: the last of them is what stood then.
  const points = list.toReversed().map((m) => ({ at: new Date(m.at), n: m.balance }));
  if (points.length < 3) return null;
  const x = scaleTime(extent(points, (p) => p.at) as [Date, Date], [LEFT, WIDE - 8]);
  const y = scaleLinear([0, Math.max(...points.map((p) => p.n), 1)], [TALL, 8]).nice(3);
  const line = points
    .map((p, i) =>
      i === 0 ? `M${x(p.at).toFixed(1)} ${y(p.n).toFixed(1)}` : `H${x(p.at).toFixed(1)}V${y(p.n).toFixed(1)}`,
    )
    .join("");
  const days = [points[0]!, points[Math.floor(points.length / 2)]!, points.at(-1)!];
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${TALL + UNDER}`}
      role="img"
      aria-label={`Balance over time: from ${say(points[0]!.n)} to ${say(points.at(-1)!.n)}`}
      className="mb-3 w-full max-w-[760px]"
    >
      {y.ticks(3).map((t) => (
        <g key={t}>
          <path d={`M${LEFT} ${y(t)}H${WIDE - 8}`} stroke="var(--rule)" />
          <text x={LEFT - 6} y={y(t) + 4} textAnchor="end" fontSize="11" fill="var(--muted)">
            {say(t)}
          </text>
        </g>
      ))}
      <path d={line} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      {days.map((p, i) => (
        <text
          key={i}
          x={x(p.at)}
          y={TALL + 14}
          textAnchor={i === 0 ? "start" : i === 1 ? "middle" : "end"}
          fontSize="11"
          fill="var(--muted)"
        >
          {sayDay(p.at.toISOString())}
        </text>
      ))}
    </svg>
  );
}
