import { boxBill, totalsOfBill } from "@jar-count/core/run";
import { CommitPlan, type RunState } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { CircleDashed, LockKeyhole, Package, Send } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { commitQuery, frozenQuery, ordersQuery, runQuery, stockChanged } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { isChanged } from "../../draft/index.ts";
import { useSettings } from "../../settings/index.ts";
import { Button, Dialog, Fault } from "../../ui/controls.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { Diamond, sayNumber, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";
import { Waiting } from "../../ui/page.tsx";
import { holdsSomething, useBox, useBoxStore } from "./boxStore.ts";
import { ComponentName } from "./sections.tsx";
import { nameOfBox } from "./shared.tsx";

const STATES = {
  planned: { icon: CircleDashed, word: "Planned" },
  committed: { icon: LockKeyhole, word: "Committed" },
  packing: { icon: Package, word: "Packing" },
  sent: { icon: Send, word: "Sent" },
} as const satisfies Record<RunState, object>;

/** How far a box is: a sign and a word. */
export function StateMark({ state }: { state: RunState }) {
  const { icon: Icon, word } = STATES[state];
  return (
    <span
      data-testid="box-state"
      className="mr-1 inline-flex items-center gap-1 rounded-full border border-edge px-2 text-xs font-semibold text-ink"
    >
      <Icon size={12} aria-hidden /> {word}
    </span>
  );
}

const useRun = () => useQuery(runQuery(useBox(({ box }) => box.id))).data;

/** Whether all that was typed is saved: only what is saved can be committed. */
function useSaved(): boolean {
  const { draft } = useBoxStore();
  return !useStore(draft, isChanged);
}

/** Commits a planned box; takes a committed one back. */
export function CommitButtons() {
  const run = useRun();
  const [asking, setAsking] = useState<"commit" | "back" | null>(null);
  const begun = useBox(({ box }) => holdsSomething(box) && box.variants.length > 0);
  const saved = useSaved();
  if (!run || !begun) return null;
  return (
    <>
      {run.state === "planned" && (
        <Button look="main" disabled={!saved} onClick={() => setAsking("commit")}>
          <LockKeyhole size={15} aria-hidden /> Commit the box
        </Button>
      )}
      {run.state === "committed" && <Button onClick={() => setAsking("back")}>Take it back</Button>}
      {asking === "commit" && <CommitDialog onClose={() => setAsking(null)} />}
      {asking === "back" && <BackDialog onClose={() => setAsking(null)} />}
    </>
  );
}

/** What a committed box lacks, and what was changed in it since. */
export function RunNotice() {
  const run = useRun();
  const { id, detail, bill, componentOf } = useBox(
    useShallow((w) => ({ id: w.box.id, detail: w.detail, bill: w.bill, componentOf: w.componentOf })),
  );
  return run && run.state !== "planned" ? (
    <Notices run={run} id={id} detail={detail} bill={bill} componentOf={componentOf} />
  ) : null;
}

type NoticesProps = Pick<Parameters<Parameters<typeof useBox>[0]>[0], "detail" | "bill" | "componentOf"> & {
  run: NonNullable<ReturnType<typeof useRun>>;
  id: string;
};

function Notices({ run, id, detail, bill, componentOf }: NoticesProps) {
  const [asking, setAsking] = useState(false);
  const saved = useSaved();
  const say = useSayQuantity();
  const orders = useQuery({ ...ordersQuery, enabled: run.lacking.some((l) => l.late) }).data;
  const frozen = useQuery({ ...frozenQuery(id), enabled: run.bill !== null }).data;
  const changed = useMemo(() => {
    if (!frozen) return 0;
    const was = new Map(totalsOfBill(frozen).map((t) => [t.component.id, t.run]));
    const is = new Map(totalsOfBill(boxBill(detail, bill)).map((t) => [t.component.id, t.run]));
    return [...new Set([...was.keys(), ...is.keys()])].filter((c) => was.get(c) !== is.get(c)).length;
  }, [frozen, detail, bill]);
  const firm = run.state === "committed";
  return (
    <div className="mx-6 mt-4 flex flex-col gap-2">
      {run.bill && (
        <p className="text-muted">
          Bill no. {run.bill.no}, frozen {sayDay(run.bill.at)}
          {run.bill.person ? ` by ${run.bill.person}` : ""}
          {run.state === "sent" ? ": what went out, kept for good." : ", to be packed by "}
          {run.state !== "sent" && <strong className="font-semibold text-ink">{sayDay(run.packBy)}</strong>}
        </p>
      )}
      {run.lacking.length > 0 && (
        <div role="status" className="rounded-md border-l-4 border-short bg-hush px-4 py-2">
          <p className="font-semibold text-short">
            <Triangle /> {run.lacking.length === 1 ? "One thing is" : `${run.lacking.length} things are`} not covered
          </p>
          <ul className="mt-1">
            {run.lacking.slice(0, 6).map(({ component, quantity, late }) => {
              const c = componentOf.get(component) ?? frozen?.components.find((x) => x.id === component);
              const order = orders?.find((o) => o.id === late?.order);
              return (
                <li key={component}>
                  <Link to={`/jars/${component}`} className="hover:underline">
                    {c?.name}
                  </Link>
                  : {say(quantity, c?.baseUnit ?? "piece")} short
                  {late && (
                    <>
                      {"; "}
                      <Link to={`/orders/${late.order}`} className="link">
                        order {order?.number ?? ""}
                      </Link>{" "}
                      {late.due ? `comes too late, ${sayDay(late.due)}` : "has no day any more"}
                    </>
                  )}
                </li>
              );
            })}
            {run.lacking.length > 6 && <li className="text-muted">and {run.lacking.length - 6} more</li>}
          </ul>
          {firm && changed === 0 && run.lacking.some((l) => !l.late) && (
            <Button className="mt-2" disabled={!saved} onClick={() => setAsking(true)}>
              Cover it now
            </Button>
          )}
        </div>
      )}
      {firm && changed > 0 && (
        <p
          role="status"
          className="flex flex-wrap items-center gap-3 rounded-md border-l-4 border-low bg-hush px-4 py-2"
        >
          <span>
            <Diamond className="text-low" /> Changed since it was committed: {changed === 1 ? "one thing" : changed}{" "}
            {changed === 1 ? "differs" : "things differ"} from the frozen bill. It stays a plan until it is taken over.
          </span>
          <Button disabled={!saved} onClick={() => setAsking(true)}>
            See and take over
          </Button>
        </p>
      )}
      {asking && <CommitDialog onClose={() => setAsking(false)} />}
    </div>
  );
}

/** What committing does, shown before it is done; what can't be covered is said, and may be accepted. */
function CommitDialog({ onClose }: { onClose: () => void }) {
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
    const body = { version: plan.version, person, lacking: plan.lacking };
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
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={onDone}>Not now</Button>
        {plan.open.length === 0 && (
          <Button look="main" disabled={busy || (plan.lacking.length > 0 && !knowing)} onClick={() => void commit()}>
            {again ? "Take over" : plan.lacking.length > 0 ? "Commit short" : "Commit"}
          </Button>
        )}
      </div>
    </>
  );
}

function BackDialog({ onClose }: { onClose: () => void }) {
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
