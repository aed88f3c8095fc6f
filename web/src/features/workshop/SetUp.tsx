import { type Workshop, WorkshopInput, workshopInputOf } from "@jar-count/core/contract";
import { type ReactNode, useEffect } from "react";
import { queryClient, workshopQuery } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { useContractForm } from "../../ui/form.tsx";
import { Page } from "../../ui/page.tsx";
import { guessFrom } from "./guess.ts";
import { WorkshopFields } from "./WorkshopFields.tsx";

const guessed = () => guessFrom(navigator.language, Intl.DateTimeFormat().resolvedOptions().timeZone);

/** The first page of a new workshop: what every price, length and date is written in, asked before there is any. */
export function SetUp({ workshop, others }: { workshop: Workshop; others: ReactNode }) {
  const { send, busy, refusal } = useSend("saveWorkshop", (saved) =>
    queryClient.setQueryData(workshopQuery.queryKey, saved),
  );
  const start = { ...workshopInputOf(workshop), ...guessed() };
  const form = useContractForm<WorkshopInput>({ schema: WorkshopInput, start, refusal, at: "/workshop" });
  const { setFocus } = form;
  useEffect(() => setFocus("name", { shouldSelect: true }), [setFocus]);
  const save = (value: WorkshopInput) =>
    send((requestKey) => ({ body: { requestKey, version: workshop.version, workshop: value } }));
  return (
    <Page title="A new workshop">
      <form
        noValidate
        aria-label="A new workshop"
        onSubmit={form.handleSubmit(save)}
        className="mx-auto max-w-md px-6 py-10"
      >
        <h1>A new workshop</h1>
        <p className="mt-1 mb-5 text-muted">
          How prices, lengths and dates are written. All of it can be changed later, under Workshop.
        </p>
        <div className="flex flex-col gap-4">
          <WorkshopFields form={form} currencyFixed={workshop.currencyFixed} />
        </div>
        <p className="mt-6 flex flex-wrap items-center gap-3">
          <Button type="submit" look="main" disabled={busy}>
            Open the workshop
          </Button>
          {refusal && !refusal.errors && <Fault>{refusal.detail}</Fault>}
        </p>
        <div className="mt-8 border-t border-rule pt-4 text-muted">{others}</div>
      </form>
    </Page>
  );
}
