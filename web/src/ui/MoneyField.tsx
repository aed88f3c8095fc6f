import { Money } from "@jar-count/core/contract";
import type { InputHTMLAttributes } from "react";
import { numberMarks, plainDigits } from "../settings/index.ts";
import { Typed } from "./fields.tsx";

interface Props extends Omit<InputHTMLAttributes<HTMLInputElement>, "value" | "onChange" | "type"> {
  /** Decimal text; null for nothing. */
  value: string | null;
  onChange: (value: string | null) => void;
  optional?: boolean;
}

/** An amount of money, kept as the digits that are typed: never by way of a binary float. */
export function MoneyField({ value, onChange, optional, ...rest }: Props) {
  const read = (text: string) => {
    const plain = plainDigits(text);
    if (plain === "") return optional ? { value: null } : { fault: "Write an amount." };
    return Money.safeParse(plain).success ? { value: plain } : { fault: "Write an amount such as 4 or 4.20." };
  };
  const say = (amount: string | null) => (amount ?? "").replace(".", numberMarks().decimal);
  return <Typed inputMode="decimal" {...rest} value={value} say={say} read={read} onChange={onChange} />;
}
