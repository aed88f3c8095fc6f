import type { Change } from "@jar-count/core/count";
import { sayNumber, useSayQuantity } from "./marks.tsx";

/** What changed between two states of a design, as counts and lengths. */
export function Changes({ list, none }: { list: readonly Change[]; none: string }) {
  const say = useSayQuantity();
  if (list.length === 0) return <p className="text-muted">{none}</p>;
  return (
    <table className="row-table">
      <thead>
        <tr>
          <th scope="col">Key</th>
          <th scope="col" className="w-full">
            What it is
          </th>
          <th scope="col" className="text-right!">
            from
          </th>
          <th scope="col" className="text-right!">
            to
          </th>
          <th scope="col" className="text-right!">
            change
          </th>
        </tr>
      </thead>
      <tbody>
        {list.map((c) => {
          const amount = (n: number) => (c.unit === "mm" ? say(n, "length") : sayNumber(n));
          return (
            <tr key={c.role}>
              <td className="font-mono font-bold">{c.key}</td>
              <td className="[overflow-wrap:anywhere]">{c.name}</td>
              <td className="num text-muted">{amount(c.from)}</td>
              <td className="num font-semibold">{amount(c.to)}</td>
              <td className="num">
                {c.to > c.from ? "+" : "−"}
                {amount(Math.abs(c.to - c.from))}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
