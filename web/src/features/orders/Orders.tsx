import type { Order } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { Link } from "react-router";
import { ordersQuery, roomsQuery } from "../../api/queries.ts";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Empty } from "../../ui/controls.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { sayDay, useToday } from "../../ui/month.ts";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { DataTable } from "../../ui/DataTable.tsx";

/** How far an order has come: what is still open of it, and when the next of it is due. */
export function standingOf(order: Order, today: string) {
  const open = order.lines.filter((l) => (order.received[l.id] ?? 0) < l.quantity);
  const due = open.flatMap((l) => l.due ?? []).sort()[0] ?? null;
  return {
    open: open.length,
    due,
    late: due !== null && due < today,
    begun: order.lines.some((l) => (order.received[l.id] ?? 0) > 0),
  };
}

export function Orders() {
  const orders = useQuery(ordersQuery);
  const rooms = useQuery(roomsQuery);
  const today = useToday();
  if (!orders.data || !rooms.data)
    return <Waiting error={orders.error ?? rooms.error} what="the orders" retry={() => void orders.refetch()} />;
  const supplier = new Map(rooms.data.suppliers.map((s) => [s.id, s.name]));
  const rows = orders.data
    .map((order) => ({ order, ...standingOf(order, today) }))
    .sort((a, b) => Number(b.open > 0) - Number(a.open > 0) || (a.due ?? "9").localeCompare(b.due ?? "9"));
  const open = rows.filter((r) => r.open > 0).length;
  return (
    <Page title="Orders">
      <PageHead
        title="Orders"
        about={`${
          open === 0 ? "Nothing is on the way" : `${sayNumber(open)} on the way`
        }: what is written down here counts as on the way until it is received.`}
        back={{ to: "/buy", words: "Buy" }}
        actions={
          <ButtonLink look="main" to="/orders/new">
            <Plus size={16} aria-hidden /> Write down an order
          </ButtonLink>
        }
      />
      {rows.length === 0 ? (
        <Empty
          title="No orders yet"
          action={
            <ButtonLink look="main" to="/orders/new">
              Write down an order
            </ButtonLink>
          }
        >
          {rooms.data.suppliers.length === 0 ? (
            <>
              An order goes to a supplier:{" "}
              <Link className="link" to="/workshop/people">
                add one in the workshop
              </Link>{" "}
              first.
            </>
          ) : (
            "Write down what was ordered, from whom and when it is due; receive it in parts as it comes."
          )}
        </Empty>
      ) : (
        <div className="px-6">
          <DataTable
            rows={rows}
            rowKey={({ order }) => order.id}
            columns={[
              {
                head: "Order",
                names: true,
                cell: ({ order }) => (
                  <Link className="font-medium whitespace-nowrap hover:underline" to={`/orders/${order.id}`}>
                    {order.number}
                  </Link>
                ),
              },
              {
                head: "Supplier",
                wide: true,
                look: "[overflow-wrap:anywhere]",
                cell: ({ order }) => supplier.get(order.supplier),
              },
              { head: "Placed", look: "whitespace-nowrap text-muted", cell: ({ order }) => sayDay(order.placedOn) },
              {
                head: "Due",
                look: "whitespace-nowrap",
                cell: ({ open: n, due, late }) =>
                  n === 0 ? null : !due ? (
                    "no date"
                  ) : (
                    <span className={late ? "font-semibold text-short" : ""}>
                      {late && <Triangle className="mr-1" />}
                      {sayDay(due)}
                      {late && ", late"}
                    </span>
                  ),
              },
              {
                head: "lines open",
                number: true,
                cell: ({ order, open: n, begun }) =>
                  n === 0 ? (
                    <span className="text-muted">all here</span>
                  ) : (
                    `${n} of ${order.lines.length}${begun ? ", part here" : ""}`
                  ),
              },
            ]}
          />
        </div>
      )}
    </Page>
  );
}
