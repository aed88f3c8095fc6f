import type { AheadComponent, Component } from "@jar-count/core/contract";
import { scaleLinear, scaleUtc } from "d3-scale";
import { useSayQuantity } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";

type Step = AheadComponent["steps"][number];

interface Props {
  row: AheadComponent & { least: number };
  of: Component;
  /** What a step is, in words. */
  sayStep: (step: Step) => string;
}

const [WIDE, HIGH, PAD] = [352, 88, 12];

/** What is left over time: a line of steps; boxes take at squares, orders bring at circles, and zero is drawn. */
export function LeftLine({ row, of, sayStep }: Props) {
  const say = useSayQuantity();
  const { steps } = row;
  const start = steps[0]!.left - steps[0]!.quantity;
  const days = steps.map((s) => new Date(`${s.on}T00:00:00Z`));
  const first = new Date(days[0]!.getTime() - 6 * 86_400_000);
  const last = new Date(Math.max(days.at(-1)!.getTime(), first.getTime() + 30 * 86_400_000));
  const lefts = [start, ...steps.map((s) => s.left), 0, of.reorderAt ?? 0];
  const x = scaleUtc([first, last], [PAD, WIDE - PAD]);
  const y = scaleLinear([Math.min(...lefts), Math.max(...lefts, 1)], [HIGH - PAD, PAD]);
  // What is left stays until the next step: a line of levels.
  const levels = steps.map((s, i) => `H${x(days[i]!)}V${y(s.left)}`).join("");
  const path = `M${PAD} ${y(start)}${levels}H${WIDE - PAD}`;
  return (
    <div>
      <svg viewBox={`0 0 ${WIDE} ${HIGH}`} className="w-full max-w-88" aria-hidden>
        <path d={`M${PAD} ${y(0)}H${WIDE - PAD}`} stroke="var(--rule)" strokeWidth="1" />
        {row.least < 0 && (
          <rect
            x={PAD}
            y={y(0)}
            width={WIDE - 2 * PAD}
            height={Math.max(0, y(Math.min(...lefts)) - y(0))}
            fill="var(--short)"
            opacity=".08"
          />
        )}
        {of.reorderAt != null && of.reorderAt > 0 && (
          <path d={`M${PAD} ${y(of.reorderAt)}H${WIDE - PAD}`} stroke="var(--low)" strokeDasharray="3 3" />
        )}
        <path d={path} fill="none" stroke="currentColor" strokeWidth="1.6" />
        {steps.map((s, i) => {
          const [cx, cy] = [x(days[i]!), y(s.left)];
          const colour = s.left < 0 ? "var(--short)" : "currentColor";
          return s.kind === "order" ? (
            <circle
              key={`${s.on}${s.id}`}
              cx={cx}
              cy={cy}
              r="4"
              fill="var(--paper)"
              stroke={colour}
              strokeWidth="1.6"
            />
          ) : (
            <rect key={`${s.on}${s.id}`} x={cx - 3.5} y={cy - 3.5} width="7" height="7" fill={colour} />
          );
        })}
      </svg>
      <ol className="text-xs text-muted">
        {steps.slice(0, 5).map((s) => (
          <li key={`${s.on}${s.kind}${s.id}`} className="flex justify-between gap-3">
            <span className="min-w-0 [overflow-wrap:anywhere]">
              {sayDay(s.on)}, {sayStep(s)}
            </span>
            <span className="whitespace-nowrap">
              {s.quantity > 0 ? "+" : "−"}
              {say(Math.abs(s.quantity), of.baseUnit)}, left{" "}
              <strong className={`font-semibold ${s.left < 0 ? "text-short" : "text-ink"}`}>
                {s.left < 0 ? `−${say(-s.left, of.baseUnit)}` : say(s.left, of.baseUnit)}
              </strong>
            </span>
          </li>
        ))}
        {steps.length > 5 && <li>and {steps.length - 5} more steps</li>}
      </ol>
    </div>
  );
}
