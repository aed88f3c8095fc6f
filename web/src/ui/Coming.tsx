import type { BuyLine, Component, Order } from "@jar-count/core/contract";
import { Link } from "react-router";
import { Diamond, useSayQuantity } from "./marks.tsx";
import { sayDay } from "./month.ts";

/** Why nothing is bought of something that is lacking, and the way out. */
export const whyNotBought = (component: Component): string =>
  component.offers.length === 0 ? "Give it a pack to buy" : "No pack is long enough: add one";

interface Props {
  line: Pick<BuyLine, "late" | "need" | "by">;
  component: Component;
  orders: readonly Order[];
}

/** What is ordered and comes too late: what buying beside it would double. */
export function LateOrders({ line, component, orders }: Props) {
  const say = useSayQuantity();
  const unit = component.baseUnit;
  return line.late.map(({ order, line: id, due, quantity }) => {
    const twice = Math.min(quantity, line.need);
    const when = due === null ? "nobody knows when" : `but only on ${sayDay(due)}`;
    return (
      <span key={id}>
        <Diamond className="text-low" />{" "}
        <Link to={`/orders/${order}`} className="link">
          Order {orders.find((o) => o.id === order)?.number ?? ""}
        </Link>{" "}
        brings {say(quantity, unit)}, {when}, needed by {sayDay(line.by)}: bought beside it, {say(twice, unit)}{" "}
        {unit === "piece" && twice !== 1 ? "are" : "is"} there twice.
      </span>
    );
  });
}
