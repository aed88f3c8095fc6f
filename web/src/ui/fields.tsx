import type { BaseUnit } from "@jar-count/core/contract";
import { exact, readLength, sayTyped } from "@jar-count/core/units";
import { useId, useState, type InputHTMLAttributes } from "react";
import { numberMarks, plainDigits, useSettings } from "../settings/index.ts";
import { Fault } from "./controls.tsx";

type Base = Omit<InputHTMLAttributes<HTMLInputElement>, "value" | "onChange" | "type">;

interface TypedProps<V> extends Base {
  /** Shown inside the field, behind what is typed, unless that says a unit itself. */
  unit?: string;
  value: V;
  /** What the value looks like as text, and what a text is read as: a value, or what is wrong with it. */
  say: (value: V) => string;
  read: (text: string) => { value: V } | { fault: string };
  onChange: (value: V) => void;
}

/**
 * A field over a value that not every text can be. While a text can't be read it stays as typed with what is wrong
 * under it, and the value stays what it was.
 */
export function Typed<V>({ unit, value, say, read, onChange, className = "field", ...rest }: TypedProps<V>) {
  const [typed, setTyped] = useState<{ text: string; over: string } | null>(null);
  const faultId = useId();
  const shown = say(value);
  const meant = typed && read(typed.text);
  // What is typed counts for as long as the value is what it was read as, or, unreadable, what it was typed over;
  // once an undo or another unit has changed the value, that is shown instead.
  const stands = meant && ("value" in meant ? say(meant.value) === shown : typed.over === shown);
  const text = stands ? typed.text : shown;
  const found = read(text);
  const fault = "fault" in found ? found.fault : null;
  const input = (
    <input
      {...rest}
      type="text"
      className={unit === undefined ? className : `${className} pr-7!`}
      value={text}
      autoComplete="off"
      aria-invalid={fault ? true : undefined}
      aria-describedby={fault ? faultId : undefined}
      onBlur={(e) => {
        if (!fault) setTyped(null);
        rest.onBlur?.(e);
      }}
      onChange={(e) => {
        setTyped({ text: e.target.value, over: shown });
        const next = read(e.target.value);
        if ("value" in next) onChange(next.value);
      }}
    />
  );
  return (
    <span className="relative flex min-w-0 flex-col">
      {unit === undefined ? (
        input
      ) : (
        <span className="unit-inside" data-unit={/[a-z″"]/i.test(text) ? undefined : unit}>
          {input}
        </span>
      )}
      {fault && (
        <span id={faultId} className="mt-0.5 max-w-56">
          <Fault>{fault}</Fault>
        </span>
      )}
    </span>
  );
}

interface NumberProps extends Base {
  value: number | null;
  onChange: (value: number | null) => void;
  whole?: boolean;
  min?: number;
  max?: number;
  /** Whether the field may be left empty. */
  optional?: boolean;
  places?: number;
  /** How many of what is shown one of the value is: 100 shows a share in per cent. */
  factor?: number;
}

export function NumberField({
  value,
  onChange,
  whole,
  min = 0,
  max = 1e9,
  optional,
  places = 4,
  factor = 1,
  ...rest
}: NumberProps) {
  const read = (text: string) => {
    const plain = plainDigits(text);
    if (plain === "") return optional ? { value: null } : { fault: "Write a number." };
    const n = Number(plain) / factor;
    if (!Number.isFinite(n)) return { fault: "This is not a number." };
    if (whole && !Number.isInteger(n)) return { fault: "Write a whole number." };
    if (n < min) return { fault: min > 0 && min < 0.01 ? "More than 0." : `At least ${min * factor}.` };
    if (n > max) return { fault: `At most ${(max * factor).toLocaleString("en")}.` };
    return { value: n };
  };
  const say = (n: number | null) =>
    n === null ? "" : String(Number((n * factor).toFixed(places))).replace(".", numberMarks().decimal);
  return <Typed inputMode="decimal" {...rest} value={value} say={say} read={read} onChange={onChange} />;
}

interface LengthProps extends Base {
  mm: number | null;
  onChange: (mm: number | null) => void;
  optional?: boolean;
  zero?: boolean;
}

/**
 * A length in the unit that was chosen. A fraction that is rounded says so by a ~; the length behind it stays as it is
 * until something else is typed, in either unit.
 */
export function LengthField({ mm, onChange, optional, zero, ...rest }: LengthProps) {
  const unit = useSettings((s) => s.unit);
  const say = (n: number | null) => (n === null ? "" : sayTyped(n, unit).replace(".", numberMarks().decimal));
  const read = (typed: string) => {
    if (mm !== null && typed === say(mm)) return { value: mm };
    const text = typed.replace(/^\s*(~|about\s)/, "");
    if (text.trim() === "") return optional ? { value: null } : { fault: "Write a length." };
    const n = readLength(text, unit);
    if (n === null)
      return { fault: unit === "in" ? "Write a length such as 7 1/2 or 190mm." : "Write a length such as 6 or 1/4in." };
    if (n < 0 || (n === 0 && !zero)) return { fault: "A length is more than 0." };
    if (n > 100_000) return { fault: "A length is at most 100 m." };
    // As finely as lengths are kept: a 64th of an inch lies between two steps.
    return { value: exact(n) };
  };
  const rounded = mm !== null && say(mm).startsWith("~");
  const title = rounded
    ? `rounded: ${Number(mm.toFixed(3))} mm exactly`
    : `in ${unit === "in" ? "inches" : "millimetres"}`;
  return <Typed title={title} {...rest} unit={unit} value={mm} say={say} read={read} onChange={onChange} />;
}

interface AmountProps extends Omit<Base, "min" | "max"> {
  /** The base unit that the amount is in; pieces are whole. */
  unit: BaseUnit | undefined;
  amount: number | null;
  onChange: (amount: number | null) => void;
  optional?: boolean;
  zero?: boolean;
}

/** How much of a component: a length where it is kept by length, else a number. */
export function AmountField({ unit, amount, zero, ...rest }: AmountProps) {
  if (unit === "mm") return <LengthField {...rest} zero={zero ?? false} mm={amount} />;
  const whole = unit === "piece";
  return <NumberField {...rest} whole={whole} min={zero ? 0 : whole ? 1 : 0.001} value={amount} />;
}

interface TextProps extends Base {
  value: string;
  onChange: (value: string) => void;
  /** Says what is wrong with a text, or null. */
  check?: (text: string) => string | null;
}

export function TextField({ value, onChange, check, ...rest }: TextProps) {
  const read = (text: string) => {
    const fault = check?.(text) ?? null;
    return fault ? { fault } : { value: text };
  };
  return <Typed {...rest} value={value} say={(text) => text} read={read} onChange={onChange} />;
}

/** The title of a page as a field of as many lines as it takes: a long one is never cut. */
export function TitleField({ value, onChange, check, ...rest }: TextProps) {
  const [typed, setTyped] = useState<{ text: string; over: string } | null>(null);
  const faultId = useId();
  const text = typed && typed.over === value ? typed.text : value;
  const fault = check?.(text) ?? null;
  return (
    <span className="flex flex-col">
      <textarea
        aria-label={rest["aria-label"]}
        rows={1}
        className="cell-field -ml-1.5 h-auto! resize-none overflow-hidden py-0.5 font-serif text-[1.625rem] leading-8
          [field-sizing:content]"
        value={text}
        aria-invalid={fault ? true : undefined}
        aria-describedby={fault ? faultId : undefined}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.preventDefault();
        }}
        onChange={(e) => {
          const next = e.target.value.replace(/\s*\n\s*/g, " ");
          const wrong = check?.(next) ?? null;
          setTyped(wrong ? { text: next, over: value } : null);
          if (!wrong) onChange(next);
        }}
      />
      {fault && (
        <span id={faultId}>
          <Fault>{fault}</Fault>
        </span>
      )}
    </span>
  );
}

/** A name: anything from 1 to 200 characters. */
export const checkName = (text: string) =>
  text.trim() === ""
    ? "Give it a name."
    : text.length > 200
      ? `A name has at most 200 characters; this has ${text.length.toLocaleString("en")}.`
      : null;
