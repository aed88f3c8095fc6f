import { EMPTY_BOX } from "@jar-count/core/box";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { boxesQuery, makeStale } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { checkName } from "../../ui/fields.tsx";
import { Page, PageHead, RefusalNotice } from "../../ui/page.tsx";

/** The month after the last one planned, or the next one. */
function nextMonth(last: string | undefined): string {
  const from = last ? new Date(`${last}-15T00:00:00Z`) : new Date();
  from.setUTCDate(15);
  from.setUTCMonth(from.getUTCMonth() + 1);
  return from.toISOString().slice(0, 7);
}

export function NewMonth() {
  const boxes = useQuery(boxesQuery);
  const navigate = useNavigate();
  const [month, setMonth] = useState<string | null>(null);
  const [theme, setTheme] = useState("");
  const [fault, setFault] = useState<string | null>(null);
  const { send, busy, refusal } = useSend("saveBox", () => makeStale("boxes"));
  const [id] = useState(() => crypto.randomUUID());
  const chosen = month ?? nextMonth(boxes.data?.at(-1)?.month);

  const plan = async (e: React.FormEvent) => {
    e.preventDefault();
    const wrong = checkName(theme);
    setFault(wrong);
    if (wrong) return;
    const box = { ...EMPTY_BOX, month: chosen, theme };
    if (await send((requestKey) => ({ params: { id }, body: { requestKey, version: 0, box } }))) {
      await navigate(`/months/${id}/designs`);
    }
  };
  return (
    <Page title="Plan a month">
      <PageHead
        title="Plan a month"
        about="A month has a box with a theme. Designs, colourways and counts come next."
      />
      {refusal && <RefusalNotice refusal={refusal} />}
      <form onSubmit={plan} noValidate className="flex flex-wrap items-start gap-4 px-6">
        <Labelled label="Month">
          <input
            type="month"
            className="field"
            value={chosen}
            onChange={(e) => e.target.value && setMonth(e.target.value)}
          />
        </Labelled>
        <Labelled label="Theme" fault={fault}>
          <input
            className="field w-72"
            autoFocus
            placeholder="Such as Tide Pool"
            value={theme}
            aria-invalid={fault ? true : undefined}
            onChange={(e) => setTheme(e.target.value)}
          />
        </Labelled>
        <Button type="submit" look="main" disabled={busy} className="mt-5 h-8!">
          Plan it
        </Button>
      </form>
    </Page>
  );
}
