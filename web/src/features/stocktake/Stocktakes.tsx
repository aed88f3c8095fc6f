import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { Link, useNavigate } from "react-router";
import { makeStale, shelfQuery, stocktakesQuery } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Empty, Fault } from "../../ui/controls.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { sayMinute } from "../../ui/month.ts";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { DataTable } from "../../ui/DataTable.tsx";

/** The walks along the shelf, the newest first. */
export function Stocktakes() {
  const walks = useQuery(stocktakesQuery);
  const shelf = useQuery(shelfQuery);
  const navigate = useNavigate();
  const { send, busy, refusal } = useSend("beginStocktake", () => makeStale("stocktakes"));
  const fault = sentenceOf(refusal);
  if (!walks.data || !shelf.data)
    return <Waiting error={walks.error ?? shelf.error} what="the stocktakes" retry={() => void walks.refetch()} />;
  const begin = async () => {
    const id = crypto.randomUUID();
    if (await send({ params: { id } })) await navigate(`/stocktakes/${id}`);
  };
  const button = (
    <Button look="main" disabled={busy || shelf.data.length === 0} onClick={() => void begin()}>
      <Plus size={16} aria-hidden /> Begin a walk
    </Button>
  );
  return (
    <Page title="Stocktake">
      <PageHead
        title="Stocktake"
        about={
          <>
            Walk the shelf place by place; weigh, count or skip each of {sayNumber(shelf.data.length)} jars. Nothing
            changes in the book until you post it.
          </>
        }
        actions={walks.data.length > 0 && button}
      />
      {fault && (
        <p className="px-6">
          <Fault>{fault}</Fault>
        </p>
      )}
      {walks.data.length === 0 ? (
        <Empty title="No walk yet" action={button}>
          {shelf.data.length === 0
            ? "There is nothing on the shelf yet: receive something first."
            : "A walk can be left and gone on with; what moves meanwhile is carried along."}
        </Empty>
      ) : (
        <div className="px-6">
          <DataTable
            rows={walks.data}
            rowKey={(walk) => walk.id}
            columns={[
              {
                head: "Walk",
                names: true,
                wide: true,
                cell: (walk) => (
                  <Link className="font-medium hover:underline" to={`/stocktakes/${walk.id}`}>
                    begun {sayMinute(walk.startedAt)}
                  </Link>
                ),
              },
              {
                head: "looked at",
                number: true,
                cell: (walk) => `${sayNumber(walk.lines.length)} of ${sayNumber(shelf.data.length)}`,
              },
              { head: "posted", number: true, cell: (walk) => sayNumber(walk.lines.filter((l) => l.posted).length) },
            ]}
          />
        </div>
      )}
    </Page>
  );
}
