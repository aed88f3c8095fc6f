import { packByOf } from "@jar-count/core/ahead";
import { EMPTY_BOX } from "@jar-count/core/box";
import { BoxInput } from "@jar-count/core/contract";
import { monthAfter, notBefore } from "@jar-count/core/day";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { z } from "zod";
import { boxesQuery, makeStale, workshopQuery } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button } from "../../ui/controls.tsx";
import { Field, useContractForm } from "../../ui/form.tsx";
import { sayDay } from "../../ui/month.ts";
import { Page, PageHead, RefusalNotice } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";

/** The first month after the last one planned whose box can still be packed by its usual day. */
function nextMonth(last: string | undefined, today: string): string {
  const next = monthAfter(last ?? today.slice(0, 7), 1);
  return packByOf({ month: next }) < today ? nextMonth(next, today) : next;
}

export function NewMonth() {
  const boxes = useQuery(boxesQuery);
  const workshop = useQuery(workshopQuery);
  if (!boxes.data || !workshop.data) {
    return <Waiting error={boxes.error ?? workshop.error} what="the months" retry={() => void boxes.refetch()} />;
  }
  const { today } = workshop.data;
  return <MonthForm start={{ month: nextMonth(boxes.data.at(-1)?.month, today), theme: "" }} today={today} />;
}

const Planned = z.object({ month: BoxInput.shape.month, theme: BoxInput.shape.theme });

function MonthForm({ start, today }: { start: { month: string; theme: string }; today: string }) {
  const navigate = useNavigate();
  const { send, busy, refusal } = useSend("saveBox", () => makeStale("boxes"));
  const [id] = useState(() => crypto.randomUUID());
  const form = useContractForm({ schema: Planned, start, refusal, at: "/box" });
  const month = form.watch("month");
  const plan = form.handleSubmit(async (planned) => {
    // Never packed by a day that is over, unless somebody says so.
    const packBy = packByOf(planned) < today ? today : null;
    const box = { ...EMPTY_BOX, ...planned, packBy };
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
      {/^\d{4}-\d\d$/.test(month) && (
        <p className="px-6 pt-2 text-muted">
          Packed by {sayDay(notBefore(packByOf({ month }), today))}, unless you say another day in it.
        </p>
      )}
    </Page>
  );
}
