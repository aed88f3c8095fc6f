import type { Component } from "@jar-count/core/contract";
import { plainNumber } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { componentsQuery } from "../../api/queries.ts";
import { Chip } from "../../ui/Bead.tsx";
import { ButtonLink, Empty } from "../../ui/controls.tsx";
import { JarGauge, useSayQuantity } from "../../ui/marks.tsx";
import { Page, Waiting } from "../../ui/page.tsx";
import { useSayMoney } from "../../ui/money.ts";

/** Everything on the shelf, found as fast as typing. */
export function Jars() {
  const components = useQuery(componentsQuery);
  const [search, setSearch] = useState("");
  if (!components.data) return <Waiting error={components.error} what="the jars" retry={() => void components.refetch()} />;
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = components.data.filter((c) => {
    const text = `${c.name} ${c.code} ${c.kind} ${c.shape ?? ""} ${c.finish}`.toLowerCase();
    return words.every((w) => text.includes(w));
  });
  return (
    <Page title="Jars">
      <header className="flex flex-wrap items-end justify-between gap-3 px-6 pt-6 pb-4">
        <div>
          <h1>Jars</h1>
          <p className="text-muted" role="status">
            {search ? `${found.length} of ${components.data.length} components` : `${components.data.length} components`}
          </p>
        </div>
        <div className="flex gap-2">
          <input type="search" className="field h-9 w-64" aria-label="Find a component" placeholder="Find by name, code or kind" value={search} onChange={(e) => setSearch(e.target.value)} />
          <ButtonLink look="main" to="/jars/new"><Plus size={16} aria-hidden /> Add a component</ButtonLink>
        </div>
      </header>
      {components.data.length === 0 ? (
        <Empty title="No jars yet" action={<ButtonLink look="main" to="/jars/new">Add the first component</ButtonLink>}>
          Every bead, finding, wire and bag that goes into a box has its own jar here: what it is, what a pack costs, how much is on hand.
        </Empty>
      ) : found.length === 0 ? (
        <p className="px-6 text-muted">Nothing is called that. Try fewer words.</p>
      ) : (
        <Rows list={found} />
      )}
    </Page>
  );
}

const ROW = 40;

function Rows({ list }: { list: Component[] }) {
  const frame = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({ count: list.length, getScrollElement: () => frame.current, estimateSize: () => ROW, overscan: 12 });
  const say = useSayQuantity();
  const money = useSayMoney();
  return (
    <div role="table" aria-label="Components" aria-rowcount={list.length + 1} className="px-6">
      <div role="row" aria-rowindex={1} className={`${COLUMNS} pb-1.5 text-xs text-muted`}>
        <span role="columnheader">Component</span>
        <span role="columnheader" className="hidden sm:block">Code</span>
        <span role="columnheader" className="hidden text-right md:block">along mm</span>
        <span role="columnheader" className="hidden text-right md:block">a pack</span>
        <span role="columnheader" className="text-right">on hand</span>
        <span role="columnheader"><span className="sr-only">Level</span></span>
      </div>
      <div ref={frame} role="rowgroup" tabIndex={0} aria-label="List of components" className="max-h-[calc(100vh-160px)] overflow-y-auto">
        <div style={{ height: virtual.getTotalSize() }} className="relative">
          {virtual.getVirtualItems().map(({ index, start }) => {
            const c = list[index]!;
            return (
              <div key={c.id} role="row" aria-rowindex={index + 2} className={`${COLUMNS} absolute inset-x-0 border-t border-rule hover:bg-hush`} style={{ height: ROW, top: start }}>
                <span role="cell" className="flex min-w-0 items-center gap-2">
                  <span className="grid w-6 shrink-0 place-items-center"><Chip of={c} /></span>
                  <Link to={`/jars/${c.id}`} className="truncate font-medium hover:underline" title={c.name}>{c.name}</Link>
                </span>
                <span role="cell" className="hidden truncate font-mono text-sm text-muted sm:block" title={c.code}>{c.code}</span>
                <span role="cell" className="hidden text-right md:block">{c.alongMm ? plainNumber(c.alongMm, 2) : ""}</span>
                <span role="cell" className="hidden text-right whitespace-nowrap text-muted md:block">{c.offer ? `${c.offer.pack}, ${money(c.offer.price)}` : "no price"}</span>
                <span role="cell" className="text-right font-semibold whitespace-nowrap">{say(c.onHand, c.baseUnit)}</span>
                <span role="cell" className="text-right"><JarGauge onHand={c.onHand} /></span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

const COLUMNS = "grid items-center gap-3 grid-cols-[minmax(0,1fr)_110px_28px] sm:grid-cols-[minmax(0,1fr)_110px_110px_28px] md:grid-cols-[minmax(0,1fr)_110px_70px_180px_110px_28px]";
