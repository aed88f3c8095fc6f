import { EMPTY_BOX } from "@jar-count/core/box";
import { BoxInput } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { z } from "zod";
import { boxesQuery, makeStale } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button } from "../../ui/controls.tsx";
import { Field, useContractForm } from "../../ui/form.tsx";
import { Page, PageHead, RefusalNotice } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";

/** The month after the last one planned, or the next one. */
function nextMonth(last: string | undefined): string {
  const from = last ? new Date(`${last}-15T00:00:00Z`) : new Date();
  from.setUTCDate(15);
  from.setUTCMonth(from.getUTCMonth() + 1);
  return from.toISOString().slice(0, 7);
}

export function NewMonth() {
  const boxes = useQuery(boxesQuery);
  if (!boxes.data) return <Waiting error={boxes.error} what="the months" retry={() => void boxes.refetch()} />;
  return <MonthForm start={{ month: nextMonth(boxes.data.at(-1)?.month), theme: "" }} />;
}

const Planned = z.object({ month: BoxInput.shape.month, theme: BoxInput.shape.theme });

function MonthForm({ start }: { start: { month: string; theme: string } }) {
  const navigate = useNavigate();
  const { send, busy, refusal } = useSend("saveBox", () => makeStale("boxes"));
  const [id] = useState(() => crypto.randomUUID());
  const form = useContractForm({ schema: Planned, start, refusal, at: "/box" });
  const plan = form.handleSubmit(async (planned) => {
    const box = { ...EMPTY_BOX, ...planned };
    if (await send((requestKey) => ({ params: { id }, body: { requestKey, version: 0, box } }))) {
      await navigate(`/months/${id}/designs`);
    }
  });
  return (
    <Page title="Plan a month">
      <PageHead
        title="Plan a month"
        about="A month has a box with a theme. Designs, colourways and counts come next."
      />
      {refusal && <RefusalNotice refusal={refusal} />}
      <form onSubmit={plan} noValidate className="flex flex-wrap items-start gap-4 px-6">
        <Field form={form} name="month" label="Month">
          {(field) => <input type="month" className="field" {...field} />}
        </Field>
        <Field form={form} name="theme" label="Theme">
          {(field) => <input className="field w-72" autoFocus placeholder="Such as Tide Pool" {...field} />}
        </Field>
        <Button type="submit" look="main" disabled={busy} className="mt-5 h-8!">
          Plan it
        </Button>
      </form>
    </Page>
  );
}
