import type { Component } from "@jar-count/core/contract";
import { plainNumber, sayRun, expanded } from "@jar-count/core/units";
import { useCallback } from "react";
import { numberMarks, useSettings } from "../settings/index.ts";

/** Digits in groups of three; decimals only where there are some. */
export const sayNumber = (n: number, places = 1) => {
  const text = plainNumber(Math.abs(n), places);
  const [whole, part] = text.split(".");
  const { group, decimal } = numberMarks();
  return `${n < 0 ? "−" : ""}${whole!.replace(/\B(?=(\d{3})+$)/g, group)}${part ? `${decimal}${part}` : ""}`;
};

type Unit = "piece" | "mm" | "g" | "length";

/** A quantity in its unit as text: `1,240`, `8.4 g`, `19 1/4 in`. */
export function useSayQuantity() {
  const unit = useSettings((s) => s.unit);
  return useCallback(
    (n: number, of: Unit) =>
      of === "piece"
        ? sayNumber(n, 0)
        : of === "g"
          ? `${sayNumber(n, n < 10 ? 2 : 1)} g`
          : sayRun(n, unit).replace(".", numberMarks().decimal),
    [unit],
  );
}

/** So much short: shown by the filled triangle and the words, not by colour alone. */
export function Short({ children }: { children: React.ReactNode }) {
  return (
    <span className="font-semibold whitespace-nowrap text-short">
      <Triangle /> <span className="sr-only">short by </span>
      {children}
    </span>
  );
}

export function Triangle({ className = "" }: { className?: string }) {
  return (
    <svg viewBox="0 0 10 9" width="10" height="9" aria-hidden className={`mb-px inline-block shrink-0 ${className}`}>
      <path d="M5 0 10 9H0Z" fill="currentColor" />
    </svg>
  );
}

export function Diamond({ className = "" }: { className?: string }) {
  return (
    <svg viewBox="0 0 10 10" width="9" height="9" aria-hidden className={`mb-px inline-block shrink-0 ${className}`}>
      <path d="M5 0 10 5 5 10 0 5Z" fill="currentColor" />
    </svg>
  );
}

interface JarProps {
  stock: Pick<Component, "onHand" | "spokenFor" | "onTheWay" | "reorderAt">;
  /** What planned boxes would take of what is free: paler than the rest of it. */
  planned?: number;
  /** What the view at hand needs of it: the line stands there instead of at the reorder point. */
  needed?: number;
  size?: number;
}

const [BOTTOM, FULL] = [21.2, 14.2];

/**
 * A small jar with four bands: free (solid), of which planned boxes would take the upper part (pale), spoken for
 * (striped) and on the way (dashed outline above them), and a
 * line at the reorder point or the need. Full is twice the line, or all there is. Each band has its own drawing, so
 * it reads without colour.
 */
export function JarGauge({ stock, planned = 0, needed, size = 24 }: JarProps) {
  const { onHand, onTheWay } = stock;
  const line = needed ?? stock.reorderAt ?? 0;
  const most = Math.max(onHand + onTheWay, 2 * line, 1e-9);
  const tall = (n: number) => (FULL * Math.max(0, Math.min(n, most))) / most;
  const aside = Math.min(stock.spokenFor, onHand);
  const free = tall(onHand - aside);
  const pale = Math.min(free, tall(planned));
  const [spoken, way] = [tall(aside), tall(onTheWay)];
  const top = BOTTOM - free - spoken;
  const stripes = Math.floor(spoken / 1.8);
  return (
    <svg
      viewBox="0 0 20 24"
      width={(size * 20) / 24}
      height={size}
      aria-hidden
      className="inline-block shrink-0 text-ink"
    >
      <rect x="5" y="1" width="10" height="3" rx="1" fill="none" stroke="currentColor" strokeWidth="1.2" />
      <path
        d="M5.500 4.500h9l1.500 2.500v13.500a2 2 0 0 1-2 2h-8a2 2 0 0 1-2-2V7z"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.2"
      />
      {way > 0.4 && (
        <rect
          x="5.600"
          y={top - way}
          width="8.800"
          height={way}
          fill="none"
          stroke="currentColor"
          strokeWidth=".8"
          strokeDasharray="1.200 1.100"
        />
      )}
      {spoken > 0.3 && (
        <g>
          <rect x="5.200" y={top} width="9.600" height={spoken} fill="currentColor" opacity=".18" />
          <path
            d={Array.from(
              { length: stripes + 1 },
              (_, i) => `M5.200 ${top + Math.min(spoken, 0.6 + i * 1.8)}h9.600`,
            ).join("")}
            stroke="currentColor"
            strokeWidth=".8"
          />
        </g>
      )}
      {free - pale > 0.3 && (
        <rect
          x="5.200"
          y={BOTTOM - free + pale}
          width="9.600"
          height={free - pale}
          rx=".8"
          fill="currentColor"
          opacity=".72"
        />
      )}
      {pale > 0.3 && (
        <rect
          x="5.500"
          y={BOTTOM - free}
          width="9"
          height={pale}
          fill="currentColor"
          fillOpacity=".12"
          stroke="currentColor"
          strokeWidth=".6"
        />
      )}
      {line > 0 && (
        <path
          d={`M2.500 ${BOTTOM - tall(line)}H17.500`}
          stroke={onHand - stock.spokenFor >= line ? "currentColor" : "var(--short)"}
          strokeWidth="1.400"
        />
      )}
    </svg>
  );
}

/** A count as sure as it is: the number, and its ± in smaller type where it is not exact. */
export function CountMark({ n, u, of, strong = true }: { n: number; u: number; of: Unit; strong?: boolean }) {
  const say = useSayQuantity();
  return (
    <span className="whitespace-nowrap">
      <span className={strong ? "font-semibold" : undefined}>{say(n, of)}</span>
      {u > 0 && (
        <span className="ml-1 text-xs text-muted">
          ± {say(of === "piece" ? Math.max(1, Math.round(expanded(u))) : expanded(u), of)}
        </span>
      )}
    </span>
  );
}
