import { type Clash, mergeRecords } from "@jar-count/core/merge";
import { useState } from "react";
import type { FieldValues, UseFormReturn } from "react-hook-form";
import type { z } from "zod";
import { Button } from "./controls.tsx";
import { DataTable } from "./DataTable.tsx";
import { useContractForm } from "./form.tsx";

interface Found<V> {
  version: number;
  value: V;
}

interface Asked<V extends FieldValues> {
  schema: z.ZodType;
  /** What the server has, as it is read again now and then. */
  found: Found<V>;
}

export interface EditedRecord<V extends FieldValues> {
  form: UseFormReturn<V>;
  /** The version that what is filled in is based on. */
  version: number;
  /** Somebody saved first: merges what is filled in with theirs; null where they clash, which is then shown. */
  merge: (theirs: Found<V>) => V | null;
  /** It was saved, and is what the form begins with from here on. */
  saved: (now: Found<V>) => void;
  clash: { list: Clash[]; theirs: Found<V> } | null;
  /** Decides a clash: what to send, based on which version. */
  decide: (whose: "mine" | "theirs") => Found<V> | null;
}

/**
 * A record that several people may edit, as a form: what is typed stays while others save, and what does not clash with
 * theirs is merged.
 */
export function useRecord<V extends FieldValues>({ schema, found }: Asked<V>): EditedRecord<V> {
  const [base, setBase] = useState(found);
  const [clash, setClash] = useState<EditedRecord<V>["clash"]>(null);
  const form = useContractForm<V>({ schema, start: base.value });
  const { isDirty } = form.formState;
  const begin = (now: Found<V>) => {
    setBase(now);
    setClash(null);
    form.reset(now.value);
  };
  // Read again and another one: taken up where nothing was typed.
  const read = JSON.stringify(found);
  const [seen, setSeen] = useState(read);
  if (read !== seen) {
    setSeen(read);
    if (!isDirty) begin(found);
  }
  return {
    form,
    version: base.version,
    merge: (theirs) => {
      const { merged, clashes } = mergeRecords(base.value, form.getValues(), theirs.value);
      setClash(clashes.length > 0 ? { list: clashes, theirs } : null);
      return clashes.length > 0 ? null : merged;
    },
    saved: begin,
    clash,
    decide: (whose) => {
      if (!clash) return null;
      const { theirs } = clash;
      const { merged } = mergeRecords(base.value, form.getValues(), theirs.value, whose);
      return { version: theirs.version, value: merged };
    },
  };
}

const say = (x: unknown): string =>
  x === null || x === undefined || x === ""
    ? "none"
    : typeof x === "object"
      ? String((x as { name?: unknown }).name ?? JSON.stringify(x))
      : typeof x === "boolean"
        ? x
          ? "yes"
          : "no"
        : String(x as string | number);

/** Where it is, in words: the names of fields in plain ones, the names of things as they are. */
const sayWhere = (path: readonly string[]) =>
  path
    .map((step, i) => (i === 0 || i === path.length - 1 ? step.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`) : step))
    .join(" › ");

/** Where both changed the same: one row each, and whose goes on. Everything else of both is kept. */
export function ClashNotice({ clash, decide }: { clash: Clash[]; decide: (whose: "mine" | "theirs") => void }) {
  return (
    <div role="alert" className="mx-6 my-4 rounded-md border-l-4 border-short bg-hush px-4 py-3">
      <p className="font-semibold">Somebody else changed the same meanwhile.</p>
      <p className="mb-2">Nothing was overwritten. The rest of both is merged; choose whose goes on here.</p>
      <DataTable
        rows={clash}
        rowKey={(c) => c.path.join(" › ")}
        columns={[
          { head: "Where", names: true, look: "text-muted", cell: (c) => sayWhere(c.path) },
          { head: "Yours", cell: (c) => say(c.mine) },
          { head: "Theirs", cell: (c) => say(c.theirs) },
        ]}
      />
      <div className="mt-3 flex flex-wrap gap-2">
        <Button onClick={() => decide("mine")}>Keep mine</Button>
        <Button onClick={() => decide("theirs")}>Take theirs</Button>
      </div>
    </div>
  );
}
