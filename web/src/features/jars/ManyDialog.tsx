import { type Component, MATERIALS } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { roomsQuery } from "../../api/queries.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { AmountField, LengthField } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import type { ManyChanges } from "./changeMany.ts";

interface Props {
  list: readonly Component[];
  onSet: (changes: ManyChanges) => void;
  onClose: () => void;
}

const MEASURES = [
  { field: "alongMm", label: "Along the thread" },
  { field: "acrossMm", label: "Across" },
  { field: "holeMm", label: "Hole" },
] as const;

/** Sets the same of many components: what stays empty stays as it is in each. */
export function ManyDialog({ list, onSet, onClose }: Props) {
  const rooms = useQuery(roomsQuery).data;
  const [changes, setChanges] = useState<ManyChanges>({});
  const put = <K extends keyof ManyChanges>(name: K, value: ManyChanges[K] | undefined) => {
    const { [name]: _gone, ...rest } = changes;
    setChanges(value === undefined ? rest : { ...rest, [name]: value });
  };
  const [unit, ...others] = new Set(list.map((c) => c.baseUnit));
  const unnamed = list.filter((c) => c.offers.some((o) => o.supplier == null)).length;
  const AS_IT_IS = <option value="">as it is</option>;
  return (
    <Dialog title={`Change ${sayNumber(list.length)} components`} open onClose={onClose}>
      <p className="pb-4 text-muted">What is left empty stays as it is in each.</p>
      <div className="grid grid-cols-2 gap-4">
        <Labelled label="Place" hint="all that is not held back moves there">
          <select
            className="field"
            value={changes.place ?? ""}
            onChange={(e) => put("place", e.target.value || undefined)}
          >
            {AS_IT_IS}
            {rooms?.places
              .filter((p) => !p.held)
              .map((p) => (
                <option key={p.id} value={p.id}>
                  {p.code}, {p.name}
                </option>
              ))}
          </select>
        </Labelled>
        <Labelled
          label="Supplier"
          hint={unnamed === 0 ? "every pack names one" : `for the packs of ${sayNumber(unnamed)} that name none`}
        >
          <select
            className="field"
            disabled={unnamed === 0}
            value={changes.supplier ?? ""}
            onChange={(e) => put("supplier", e.target.value || undefined)}
          >
            {AS_IT_IS}
            {rooms?.suppliers.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled
          label="Order again at"
          hint={others.length > 0 ? "choose components of one unit to set this" : unit === "g" ? "grams" : undefined}
        >
          <AmountField
            aria-label="Order again at"
            className="field"
            unit={unit}
            optional
            zero
            disabled={others.length > 0}
            placeholder="as it is"
            amount={changes.reorderAt ?? null}
            onChange={(n) => put("reorderAt", n ?? undefined)}
          />
        </Labelled>
        <Labelled label="Material">
          <select
            className="field"
            value={changes.material ?? ""}
            onChange={(e) =>
              put(
                "material",
                MATERIALS.find((m) => m === e.target.value),
              )
            }
          >
            {AS_IT_IS}
            {MATERIALS.map((m) => (
              <option key={m} value={m}>
                {m}
              </option>
            ))}
          </select>
        </Labelled>
        {MEASURES.map(({ field, label }) => (
          <Labelled key={field} label={label}>
            <LengthField
              aria-label={label}
              className="field w-full"
              optional
              placeholder="as it is"
              mm={changes[field] ?? null}
              onChange={(mm) => put(field, mm ?? undefined)}
            />
          </Labelled>
        ))}
      </div>
      <p className="flex justify-end gap-2 pt-6">
        <Button onClick={onClose}>Leave them as they are</Button>
        <Button look="main" disabled={Object.keys(changes).length === 0} onClick={() => onSet(changes)}>
          Change {sayNumber(list.length)}
        </Button>
      </p>
    </Dialog>
  );
}
