import {
  boxBill,
  cautionWords,
  type Contents,
  contentsOf,
  contentsText,
  DEFER,
  type KeyCard,
  sayHowMuch,
  sayMakes,
  sayTaken,
} from "@jar-count/core/run";
import { addressOf, type BilledComponent, type Paper, PAPERS } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { Copy, Download } from "lucide-react";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { frozenQuery, runQuery } from "../../api/queries.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, Segmented } from "../../ui/controls.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { Diamond, sayNumber, Triangle } from "../../ui/marks.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { useLeft } from "../../ui/kept.ts";
import { useBox } from "./boxStore.ts";
import { ColourwaySwitch } from "./ColourwaySwitch.tsx";
import { MakerSheet } from "./MakerSheet.tsx";
import { useColourway } from "./useColourway.ts";

/** What goes out with the box, in words: from its bill, so that no list says anything else than what is in the bag. */
export function ListsStage() {
  const { id, detail, bill } = useBox(useShallow((w) => ({ id: w.box.id, detail: w.detail, bill: w.bill })));
  const running = useQuery(runQuery(id));
  const run = running.data;
  const freezing = useQuery({ ...frozenQuery(id), enabled: run?.bill != null });
  const current = useMemo(() => boxBill(detail, bill), [detail, bill]);
  // Until it is known whether the box is committed nothing is shown: its plan may be another than its frozen bill.
  const shown = run && (run.bill ? freezing.data : current);
  const [colourway, setColourway] = useColourway();
  const [spares, setSpares] = useLeft<"told" | "untold">("lists/spares", "told");
  const [params, setParams] = useSearchParams();
  const isSheet = params.get("list") === "sheet";
  const show = (list: "contents" | "sheet") =>
    setParams((p) => {
      if (list === "sheet") p.set("list", list);
      else p.delete("list");
      return p;
    });
  const unit = useSettings((s) => s.unit);
  const [said, setSaid] = useState("");
  const variant = shown?.variants.find((v) => v.first === colourway) ?? shown?.variants[0];
  if (shown && !variant) {
    return (
      <Empty
        title="No list yet"
        action={
          <ButtonLink look="main" to={`/months/${id}/colours`}>
            Add a colourway
          </ButtonLink>
        }
      >
        A list says what is in the box of one colourway.
      </Empty>
    );
  }
  if (!shown || !variant) {
    const retry = () => void Promise.all([running.refetch(), run?.bill && freezing.refetch()]);
    return <Waiting error={running.error ?? freezing.error} what="the list" retry={retry} />;
  }
  const contents = contentsOf(shown, variant);
  const copy = async () => {
    await navigator.clipboard.writeText(contentsText(contents, { unit, spares: spares === "told" }));
    setSaid("The list is copied.");
  };
  return (
    <section className="px-6 pt-4" aria-label="Lists">
      <div className="no-print flex flex-wrap items-center justify-between gap-3 pb-3">
        <span className="flex flex-wrap items-center gap-3">
          <Segmented
            label="Which list"
            value={isSheet ? "sheet" : "contents"}
            options={[
              { value: "contents", label: "Contents" },
              { value: "sheet", label: "Maker’s sheet" },
            ]}
            onChange={show}
          />
          <ColourwaySwitch value={variant.first} onChange={setColourway} />
        </span>
        <span className={isSheet ? "hidden" : "flex flex-wrap items-center gap-2"}>
          <Segmented
            label="Pieces to spare"
            value={spares}
            options={[
              { value: "told", label: "spares told" },
              { value: "untold", label: "not told" },
            ]}
            onChange={setSpares}
          />
          <Button onClick={() => void copy()}>
            <Copy size={15} aria-hidden /> Copy as text
          </Button>
          {PAPERS.map((paper) => (
            <PdfLink key={paper} id={id} first={variant.first} paper={paper} spares={spares} />
          ))}
        </span>
      </div>
      <p role="status" className="sr-only">
        {said}
      </p>
      {run?.bill && (
        <p className="mb-3 text-muted">
          <Diamond className="mr-1" /> From the frozen bill no. {run.bill.no}: what was changed since is not in it.
        </p>
      )}
      {contents.gaps.length > 0 && (
        <p className="mb-3 text-short">
          <Triangle /> Not ready to go out: {contents.gaps.join(", ")} not chosen yet.
        </p>
      )}
      {isSheet ? (
        <MakerSheet bill={shown} variant={variant} />
      ) : (
        <Sheet contents={contents} spares={spares === "told"} />
      )}
    </section>
  );
}

function PdfLink({ id, first, paper, spares }: { id: string; first: string; paper: Paper; spares: string }) {
  const unit = useSettings((s) => s.unit);
  return (
    <ButtonLink to={addressOf("downloadContents", { id }, { first, paper, unit, spares })} reloadDocument download>
      <Download size={15} aria-hidden /> PDF, {paper === "a4" ? "A4" : "Letter"}
    </ButtonLink>
  );
}

function Sheet({ contents, spares }: { contents: Contents; spares: boolean }) {
  const unit = useSettings((s) => s.unit);
  const { bags, atHand, cautions, cards } = contents;
  return (
    <article
      aria-label="Contents list"
      className="grid max-w-5xl grid-cols-[minmax(0,1fr)] gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]"
    >
      <div>
        <h2 className="text-xl">{contents.theme}</h2>
        <p className="mb-4 text-muted">
          {contents.variant} · {sayNumber(contents.boxes)} boxes
        </p>
        <h3 className="font-semibold">It makes</h3>
        <ul className="mb-4">
          {cards.map((card) => (
            <li key={card.line} className="[overflow-wrap:anywhere]">
              {sayMakes(card)}
            </li>
          ))}
        </ul>
        {bags.map((bag) => (
          <div key={bag.title} className="mb-4">
            <h3 className="font-semibold">{bags.length === 1 ? "In the box" : `In the box: ${bag.title}`}</h3>
            <DataTable
              bare
              rows={bag.items}
              rowKey={(item) => item.component.id}
              testId={(item) => `list-${item.component.code}`}
              columns={[
                { head: "What", wide: true, names: true, cell: (item) => <Drawn of={item.component} /> },
                {
                  head: "How many",
                  number: true,
                  look: "font-semibold",
                  cell: (item) => sayHowMuch(item, unit, spares),
                },
              ]}
            />
          </div>
        ))}
      </div>
      <div>
        {cards.map((card) => (
          <Card key={card.line} card={card} />
        ))}
        {atHand.length > 0 && (
          <>
            <h3 className="font-semibold">Not in the box; have at hand</h3>
            <ul className="mb-4 list-disc pl-5">
              {atHand.map((thing) => (
                <li key={thing}>{thing}</li>
              ))}
            </ul>
          </>
        )}
        {cautions.length > 0 && (
          <>
            <h3 className="font-semibold">Take care</h3>
            <ul className="list-disc pl-5">
              {cautionWords(cautions).map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
            <p className="mt-1 text-xs text-muted">{DEFER}</p>
          </>
        )}
      </div>
    </article>
  );
}

export function Drawn({ of }: { of: BilledComponent }) {
  return (
    <span className="flex items-center gap-2">
      <span className="grid w-6 shrink-0 place-items-center">
        <Chip of={of} />
      </span>
      <span className="min-w-0 [overflow-wrap:anywhere]">{of.name}</span>
    </span>
  );
}

/** A design's bead key: what each letter of its instructions is in this colourway. */
export function Card({ card }: { card: KeyCard }) {
  const unit = useSettings((s) => s.unit);
  if (card.keys.length === 0) return null;
  return (
    <div className="mb-4">
      <h3 className="font-semibold [overflow-wrap:anywhere]">Bead key: {card.name}</h3>
      <DataTable
        bare
        rows={card.keys}
        rowKey={(key) => `${key.key} ${key.component.id}`}
        columns={[
          { head: "Letter", look: "w-12 font-mono font-semibold", cell: (key) => key.key },
          { head: "What", wide: true, names: true, cell: (key) => <Drawn of={key.component} /> },
          { head: "How many", number: true, cell: (key) => sayTaken(key, unit) },
        ]}
      />
    </div>
  );
}
