import { plainNumber, sayRun } from "@jar-count/core/units";
import { useCallback } from "react";
import { useSettings } from "../app/settings.ts";

/** Digits in groups of three; decimals only where there are some. */
export const sayNumber = (n: number, places = 1) => {
  const text = plainNumber(Math.abs(n), places);
  const [whole, part] = text.split(".");
  return `${n < 0 ? "−" : ""}${whole!.replace(/\B(?=(\d{3})+$)/g, ",")}${part ? `.${part}` : ""}`;
};

type Unit = "piece" | "mm" | "g" | "length";

/** A quantity in its unit as text: `1,240`, `8.4 g`, `19 1/4 in`. */
export function useSayQuantity() {
  const unit = useSettings((s) => s.unit);
  return useCallback((n: number, of: Unit) => (of === "piece" ? sayNumber(n, 0) : of === "g" ? `${sayNumber(n, n < 10 ? 2 : 1)} g` : sayRun(n, unit)), [unit]);
}

/** Never a bare number: a count with its unit, as people say it. */
export function Quantity({ n, of, strong }: { n: number; of: Unit; strong?: boolean }) {
  const say = useSayQuantity();
  return <span className={strong ? "font-semibold" : undefined}>{say(n, of)}</span>;
}

/** So much short: told by the filled triangle and the words, not by colour alone. */
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
  onHand: number;
  /** What of it the view at hand needs. */
  needed?: number;
  size?: number;
}

/**
 * A small jar: filled as far as what is on hand covers what is needed (twice the need is full), with the need as a
 * line. Empty shows empty, so it reads without colour.
 */
export function JarGauge({ onHand, needed = 0, size = 24 }: JarProps) {
  const full = needed > 0 ? Math.min(1, onHand / (2 * needed)) : onHand > 0 ? 0.75 : 0;
  const height = 15 * full;
  const enough = onHand >= needed;
  return (
    <svg viewBox="0 0 20 24" width={(size * 20) / 24} height={size} aria-hidden className="inline-block shrink-0 text-ink">
      <rect x="5" y="1" width="10" height="3" rx="1" fill="none" stroke="currentColor" strokeWidth="1.2" />
      <path d="M5.500 4.500h9l1.500 2.500v13.500a2 2 0 0 1-2 2h-8a2 2 0 0 1-2-2V7z" fill="none" stroke="currentColor" strokeWidth="1.2" />
      {height > 0.3 && <rect x="5.200" y={21.4 - height} width="9.600" height={height} rx="1" fill="currentColor" opacity={enough ? 0.55 : 0.8} />}
      {needed > 0 && <path d="M3 13.900H17" stroke={enough ? "currentColor" : "var(--short)"} strokeWidth="1.400" strokeDasharray="2 1.400" />}
    </svg>
  );
}
