import type { BoxDetail, BoxInput, ErrorBody } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { call, Refused } from "../../api/client.ts";
import { boxesQuery, queryClient } from "../../api/queries.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { checkName } from "../../ui/fields.tsx";
import { Page, RefusalNotice } from "../../ui/page.tsx";

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
  const [refusal, setRefusal] = useState<ErrorBody | null>(null);
  const [id] = useState(() => crypto.randomUUID());
  const chosen = month ?? nextMonth(boxes.data?.at(-1)?.month);

  const plan = async (e: React.FormEvent) => {
    e.preventDefault();
    const wrong = checkName(theme);
    setFault(wrong);
    if (wrong) return;
    const box: BoxInput = {
      month: chosen,
      theme,
      lines: [],
      colourways: [],
      seconds: [],
      variants: [],
      roles: [],
      bindings: [],
      picks: [],
    };
    try {
      const saved = await call<BoxDetail>("PUT", `/boxes/${id}`, { version: 0, box });
      queryClient.setQueryData(["box", id], saved);
      await queryClient.invalidateQueries({ queryKey: ["boxes"] });
      await navigate(`/months/${id}/designs`);
    } catch (error) {
      if (error instanceof Refused) setRefusal(error.body);
      else setFault((error as Error).message);
    }
  };
  return (
    <Page title="Plan a month">
      <header className="px-6 pt-6 pb-4">
        <h1>Plan a month</h1>
        <p className="text-muted">A month has a box with a theme. Designs, colourways and counts come next.</p>
      </header>
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
        <Button type="submit" look="main" className="mt-5 h-8!">
          Plan it
        </Button>
      </form>
    </Page>
  );
}
