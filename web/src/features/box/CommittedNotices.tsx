import { boxBill, totalsOfBill } from "@jar-count/core/run";
import type { Run } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { frozenQuery, ordersQuery } from "../../api/queries.ts";
import { Button } from "../../ui/controls.tsx";
import { Diamond, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";
import { useBox } from "./boxStore.ts";
import { useSaved } from "./Commit.tsx";
import { CommitDialog } from "./CommitDialog.tsx";

/** What a committed box lacks, and what was changed in it since. */
export function CommittedNotices({ run }: { run: Run }) {
  const { id, detail, bill, componentOf } = useBox(
    useShallow((w) => ({ id: w.box.id, detail: w.detail, bill: w.bill, componentOf: w.componentOf })),
  );
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
  const differ = changed === 1 ? "one thing differs" : `${changed} things differ`;
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
            <Diamond className="text-low" /> Changed since it was committed: {differ} from the frozen bill. It stays a
            plan until it is taken over.
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
