import type { Books } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { RefreshCw } from "lucide-react";
import { Link } from "react-router";
import { componentsQuery, query } from "../../api/queries.ts";
import { Button } from "../../ui/controls.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { sayMinute } from "../../ui/month.ts";
import { Leading, Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";

const booksQuery = query("checkBooks");

/** Whether what the jars say is what the ledger adds up to: checked when the page is opened, and again when asked. */
export function BooksPage() {
  const books = useQuery(booksQuery);
  if (!books.data) return <Waiting error={books.error} what="the books" retry={() => void books.refetch()} />;
  const { checkedAt, movements, components, differ } = books.data;
  return (
    <Page title="Books">
      <PageHead
        back={{ to: "/workshop/data", words: "Workshop" }}
        title="Books"
        about={
          "Every count of every jar, added up anew from the ledger’s movements and held against what the jar says. " +
          "The server does the same every night."
        }
        actions={
          <Button disabled={books.isFetching} onClick={() => void books.refetch()}>
            <RefreshCw size={16} aria-hidden /> Check again
          </Button>
        }
      />
      <section className="px-6" aria-label="What differs" aria-busy={books.isFetching}>
        <Leading n={differ.length === 0 ? "None" : sayNumber(differ.length)}>
          {differ.length === 1 ? "count differs" : "of the counts differ"}
        </Leading>
        <p className="text-muted" role="status">
          {sayNumber(components)} components, {sayNumber(movements)} movements, checked {sayMinute(checkedAt)}.
        </p>
        {books.error && (
          <p role="alert" className="pt-2 font-medium text-short">
            It could not be checked again: {books.error.message}
          </p>
        )}
        {differ.length > 0 && <Differing list={differ} />}
      </section>
    </Page>
  );
}

function Differing({ list }: { list: Books["differ"] }) {
  const units = useQuery(componentsQuery);
  const say = useSayQuantity();
  const amount = (id: string, n: number) => {
    const unit = units.data?.find((c) => c.id === id)?.baseUnit;
    return unit ? say(n, unit) : sayNumber(n);
  };
  return (
    <>
      <p className="max-w-prose pt-4 pb-2">
        Count these jars: what was counted sets the balance right, by an entry of its own. Then take an archive out and
        keep it, since a difference means that something changed a balance past the ledger.
      </p>
      <DataTable
        scrolls="What differs"
        rows={list}
        rowKey={(d) => `${d.component} ${d.ledger} ${d.balance}`}
        testId="differs"
        columns={[
          {
            head: "Component",
            wide: true,
            names: true,
            cell: (d) => (
              <Link className="[overflow-wrap:anywhere] hover:underline" to={`/jars/${d.component}/count`}>
                {d.name}
              </Link>
            ),
          },
          { head: "Code", look: "font-mono text-sm text-muted", cell: (d) => d.code },
          { head: "by the ledger", number: true, cell: (d) => amount(d.component, d.ledger) },
          { head: "the jar says", number: true, look: "font-semibold", cell: (d) => amount(d.component, d.balance) },
        ]}
      />
    </>
  );
}
