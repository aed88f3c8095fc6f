import { CommitPlan } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { commitQuery, ordersQuery, stockChanged } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { Dialog, DialogFoot } from "../../ui/Dialog.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { Diamond, sayNumber, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";
import { Waiting } from "../../ui/Waiting.tsx";
import { useBox } from "./boxStore.ts";
import { ComponentName } from "./sections.tsx";
import { nameOfBox } from "./shared.tsx";

/** What committing does, shown before it is done; what can't be covered is said, and may be accepted. */
export function CommitDialog({ onClose }: { onClose: () => void }) {
  const id = useBox(({ box }) => box.id);
  const asked = useQuery(commitQuery(id));
  const [changed, setChanged] = useState<CommitPlan | null>(null);
  const plan = changed ?? asked.data;
  return (
    <Dialog
      title={plan && plan.state !== "planned" ? "Take the changes over" : "Commit this box"}
      open
      onClose={onClose}
      wide
    >
      {plan ? (
        <Commitment id={id} plan={plan} isNews={changed !== null} onNews={setChanged} onDone={onClose} />
      ) : (
        <Waiting error={asked.error} what="what it takes" retry={() => void asked.refetch()} />
      )}
    </Dialog>
  );
}

interface CommitmentProps {
  id: string;
  plan: CommitPlan;
  /** Something changed since it was shown first. */
  isNews: boolean;
  onNews: (plan: CommitPlan) => void;
  onDone: () => void;
}

function Commitment({ id, plan, isNews, onNews, onDone }: CommitmentProps) {
  const componentOf = useBox((w) => w.componentOf);
  const say = useSayQuantity();
  const person = useSettings((s) => s.person);
  const orders = useQuery(ordersQuery).data;
  const [knowing, setKnowing] = useState(false);
  useEffect(() => setKnowing(false), [plan]);
  const { send, busy, refusal } = useSend("commitBox", stockChanged, (current) => {
    const now = CommitPlan.safeParse(current);
    if (now.success) onNews(now.data);
    return null;
  });
  const said = (component: string, n: number) => say(n, componentOf.get(component)?.baseUnit ?? "piece");
  const commit = async () => {
    const body = { version: plan.version, person, lacking: plan.lacking, seen: plan.seen };
    if (await send((requestKey) => ({ params: { id }, body: { ...body, requestKey } }))) onDone();
  };
  const again = plan.state !== "planned";
  // Planned boxes that come first: committing is what decides.
  const { boxes, totals } = useBox(useShallow((w) => ({ boxes: w.shares?.boxes, totals: w.bill.totals })));
  const firm = new Set(boxes?.flatMap((b) => (b.state === "planned" ? [] : [b.id])));
  const passed = [...new Set(totals.flatMap((t) => t.because.map((b) => b.box)))].filter((b) => !firm.has(b));
  const name = (component: string) => {
    const c = componentOf.get(component);
    return c ? <ComponentName component={c} /> : "";
  };
  return (
    <>
      {isNews && (
        <p role="alert" className="mb-3 rounded-md border-l-4 border-short bg-hush px-3 py-2 font-medium">
          This changed meanwhile: others took some of it, or the box was changed. Nothing was committed; this is what it
          would be now.
        </p>
      )}
      {plan.open.length > 0 ? (
        <>
          <p className="font-semibold text-short">
            <Triangle /> Something is still open, so it can’t be committed:
          </p>
          <ul className="mt-1 list-disc pl-6">
            {plan.open.map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        </>
      ) : (
        <>
          <p>
            The bill is frozen with the revisions, counts and costs of today, and what it needs is spoken for:{" "}
            <strong>{sayNumber(plan.covered.stock)}</strong> things from stock
            {plan.covered.orders > 0 && (
              <>
                , <strong>{sayNumber(plan.covered.orders)}</strong> with what orders bring in time
              </>
            )}
            {plan.lacking.length > 0 && (
              <>
                ; <strong className="text-short">{sayNumber(plan.lacking.length)}</strong> not covered whole
              </>
            )}
            .
          </p>
          {passed.length > 0 && (
            <p className="mt-2">
              <Diamond className="text-low" /> It takes what planned boxes want that are packed before it:{" "}
              {passed.map((b) => nameOfBox(boxes, b)).join("; ")}.
            </p>
          )}
          {plan.changes.length > 0 && (
            <>
              <h3 className="mt-4 mb-1 font-semibold">What changes in the frozen bill</h3>
              <DataTable
                rows={plan.changes}
                rowKey={(c) => c.component}
                testId="bill-change"
                columns={[
                  { head: "Component", wide: true, names: true, cell: (c) => name(c.component) },
                  { head: "frozen", number: true, look: "text-muted", cell: (c) => said(c.component, c.before) },
                  { head: "now", number: true, look: "font-semibold", cell: (c) => said(c.component, c.after) },
                ]}
              />
            </>
          )}
          {plan.fromOrders.length > 0 && (
            <>
              <h3 className="mt-4 mb-1 font-semibold">From orders on the way</h3>
              <DataTable
                rows={plan.fromOrders}
                rowKey={(c) => c.line}
                columns={[
                  { head: "Component", wide: true, names: true, cell: (c) => name(c.component) },
                  {
                    head: "Order",
                    cell: (c) => (
                      <>
                        {orders?.find((o) => o.id === c.order)?.number},{" "}
                        {c.due === null ? "without a day" : `due ${sayDay(c.due)}`}
                        {c.late && <span className="font-semibold text-short"> too late</span>}
                      </>
                    ),
                  },
                  { head: "how much", number: true, look: "font-semibold", cell: (c) => said(c.component, c.quantity) },
                ]}
              />
            </>
          )}
          {plan.lacking.length > 0 && (
            <>
              <h3 className="mt-4 mb-1 font-semibold text-short">Not covered</h3>
              <DataTable
                rows={plan.lacking}
                rowKey={(c) => c.component}
                testId="lacking"
                columns={[
                  { head: "Component", wide: true, names: true, cell: (c) => name(c.component) },
                  { head: "short", number: true, look: "font-semibold", cell: (c) => said(c.component, c.quantity) },
                ]}
              />
              <label className="mt-3 flex items-center gap-2">
                <input type="checkbox" checked={knowing} onChange={(e) => setKnowing(e.target.checked)} />
                Commit short all the same: I know what is missing
              </label>
            </>
          )}
        </>
      )}
      {refusal && !isNews && (
        <p className="mt-3">
          <Fault>{sentenceOf(refusal)}</Fault>
        </p>
      )}
      <DialogFoot>
        <Button onClick={onDone}>Not now</Button>
        {plan.open.length === 0 && (
          <Button look="main" disabled={busy || (plan.lacking.length > 0 && !knowing)} onClick={() => void commit()}>
            {again ? "Take over" : plan.lacking.length > 0 ? "Commit short" : "Commit"}
          </Button>
        )}
      </DialogFoot>
    </>
  );
}

export function BackDialog({ onClose }: { onClose: () => void }) {
  const { id, theme } = useBox(({ box }) => box);
  const person = useSettings((s) => s.person);
  const { send, busy, refusal } = useSend("takeBack", stockChanged);
  const back = async () => {
    if (await send((requestKey) => ({ params: { id }, body: { requestKey, person } }))) onClose();
  };
  return (
    <Dialog title={`Take ${theme.slice(0, 60)} back?`} open onClose={onClose}>
      <p className="mb-4">
        Everything that it speaks for is free again, and other boxes may take it. Its frozen bill stays to be read; the
        box is a plan again.
      </p>
      {refusal && <Fault>{sentenceOf(refusal)}</Fault>}
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it committed</Button>
        <Button look="danger" disabled={busy} onClick={() => void back()}>
          Take it back
        </Button>
      </div>
    </Dialog>
  );
}
