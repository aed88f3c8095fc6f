import {
  addressOf,
  type BilledVariant,
  type BoxBill,
  PAPERS,
  READING_LEVELS,
  type ReadingLevel,
} from "@jar-count/core/contract";
import type { Appearance, Picture } from "@jar-count/core/picture";
import { cautionWords, DEFER, sayHowMuch } from "@jar-count/core/run";
import { type MakersSheet, type RowPicture, sayMinutes, sheetFor, type SheetPart } from "@jar-count/core/sheet";
import { inUnit } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { Download, Printer } from "lucide-react";
import { useMemo } from "react";
import { useSearchParams } from "react-router";
import { query, trialsQuery } from "../../api/queries.ts";
import { useSettings } from "../../settings/index.ts";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, Labelled, Segmented } from "../../ui/controls.tsx";
import { pictureAsSvg } from "../../ui/exportPicture.ts";
import { useLeft } from "../../ui/kept.ts";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { useBox } from "./boxStore.ts";
import { Card, Drawn } from "./ListsStage.tsx";

/** The maker's sheet of one design of the box in one colourway, as a page; and as PDF. */
export function MakerSheet({ bill, variant }: { bill: BoxBill; variant: BilledVariant }) {
  const detail = useBox((w) => w.detail);
  const id = useBox((w) => w.box.id);
  const unit = useSettings((s) => s.unit);
  const [params, setParams] = useSearchParams();
  const [level, setLevel] = useLeft<ReadingLevel>("sheet/level", "plain");
  const lines = bill.designs;
  const line = lines.find((d) => d.line === params.get("line")) ?? lines[0];
  // What the bill names: usually what is pinned now, else an earlier revision.
  const now = detail.designs.find((d) => d.designId === line?.designId && d.revision === line.revision);
  const before = useQuery({
    ...query("readRevision", { params: { id: line?.designId ?? "", no: line?.revision ?? 0 } }),
    enabled: line !== undefined && now === undefined,
    staleTime: Infinity,
  });
  const design = (now ?? before.data)?.design;
  const sizes = (design?.sizes ?? []).filter((s) => line?.sizes.includes(s.label ?? s.key));
  const asked = params.get("size");
  const size = sizes.some((s) => s.key === asked) ? asked : null;
  const trials = useQuery({ ...trialsQuery(line?.designId ?? ""), enabled: line !== undefined }).data;
  const { first, second } = variant;
  const sheet = useMemo(
    () =>
      line && design ? sheetFor(bill, design, { line: line.line, first, second, size, level }, trials ?? []) : null,
    [bill, design, line, first, second, size, level, trials],
  );
  if (line && !design) return <Waiting error={before.error} what="the design" retry={() => void before.refetch()} />;
  if (!line || !sheet)
    return <Empty title="No sheet yet">A sheet says how a design of the box is made. Put a design into it.</Empty>;
  const set = (name: string, value: string | null) =>
    setParams((p) => {
      if (value === null) p.delete(name);
      else p.set(name, value);
      return p;
    });
  const wanted = { line: line.line, first, second, size, level, unit };
  return (
    <>
      <div className="no-print flex flex-wrap items-end gap-3 pb-4">
        <Labelled label="Design">
          <select className="field max-w-64" value={line.line} onChange={(e) => set("line", e.target.value)}>
            {lines.map((l) => (
              <option key={l.line} value={l.line}>
                {l.name}
              </option>
            ))}
          </select>
        </Labelled>
        {sizes.length > 1 && (
          <Labelled label="Size">
            <select className="field" value={size ?? ""} onChange={(e) => set("size", e.target.value || null)}>
              <option value="">every size</option>
              {sizes.map((s) => (
                <option key={s.key} value={s.key}>
                  {s.label ?? s.key}
                </option>
              ))}
            </select>
          </Labelled>
        )}
        <Segmented
          label="How closely it is told"
          value={level}
          options={READING_LEVELS.map((value) => ({ value, label: value }))}
          onChange={setLevel}
        />
        <span className="ml-auto flex flex-wrap gap-2">
          <Button onClick={() => window.print()}>
            <Printer size={15} aria-hidden /> Print
          </Button>
          {PAPERS.map((paper) => (
            <ButtonLink
              key={paper}
              to={addressOf("downloadSheet", { id }, { ...wanted, paper })}
              reloadDocument
              download
            >
              <Download size={15} aria-hidden /> PDF, {paper === "a4" ? "A4" : "Letter"}
            </ButtonLink>
          ))}
        </span>
      </div>
      <Page sheet={sheet} />
    </>
  );
}

function Page({ sheet }: { sheet: MakersSheet }) {
  const unit = useSettings((s) => s.unit);
  const say = useSayQuantity();
  const { contents, judged, minutes, sizes, options, looks } = sheet;
  return (
    <article aria-label="Maker’s sheet" className="max-w-5xl pb-8">
      <h2 className="font-serif text-2xl [overflow-wrap:anywhere]">{sheet.name}</h2>
      <p className="text-muted">
        {[sheet.theme, sheet.variant].filter(Boolean).join(", ")} · revision {sheet.revision}
      </p>
      <p className="mt-1 font-medium">
        <span className="inline-block first-letter:uppercase">{judged.level}</span> · {sayMinutes(minutes)}
        {sheet.times > 1 && ` · the box makes it ${sayNumber(sheet.times)} times`}
      </p>
      {sizes.length > 0 && (
        <p>
          {sizes.map((s) => `Size ${s.label}${s.comesOutMm > 0 ? `: ${say(s.comesOutMm, "mm")}` : ""}`).join(" · ")}
        </p>
      )}
      {options.length > 1 && <p>Choose one way: {options.join(" or ")}.</p>}
      <div className="mt-4 grid gap-x-10 gap-y-5 lg:grid-cols-2">
        <div>
          {contents.bags.map((bag) => (
            <div key={bag.of} className="mb-4">
              <h3 className="font-semibold">
                {contents.bags.length === 1 ? "In the bag" : `In the bag: ${bag.title}`}
              </h3>
              <ul>
                {bag.items.map((item) => (
                  <li key={item.component.id} className="flex justify-between gap-3 border-b border-rule py-1">
                    <Drawn of={item.component} />
                    <strong className="text-right">{sayHowMuch(item, unit, true)}</strong>
                  </li>
                ))}
              </ul>
            </div>
          ))}
        </div>
        <div>
          {contents.cards.map((card) => (
            <Card key={card.line} card={card} />
          ))}
          {contents.atHand.length > 0 && (
            <>
              <h3 className="font-semibold">Not in the bag; have at hand</h3>
              <p className="mb-4">{contents.atHand.join(", ")}</p>
            </>
          )}
          {contents.cautions.length > 0 && (
            <>
              <h3 className="font-semibold">Take care</h3>
              <ul className="list-disc pl-5">
                {cautionWords(contents.cautions).map((words) => (
                  <li key={words}>{words}</li>
                ))}
              </ul>
              <p className="mt-1 text-xs text-muted">{DEFER}</p>
            </>
          )}
        </div>
      </div>
      {sheet.parts.map((part) => (
        <PartOf key={part.id} part={part} looks={looks} />
      ))}
    </article>
  );
}

function PartOf({ part, looks }: { part: SheetPart; looks: ReadonlyMap<string, Appearance> }) {
  const unit = useSettings((s) => s.unit);
  const say = useSayQuantity();
  return (
    <section className="mt-6 border-t border-rule pt-3" aria-label={part.name}>
      <h3 className="font-serif text-lg">
        {part.name}
        {part.as !== null && <span className="font-mono"> {part.as}</span>}
        {part.makes > 1 && <span className="text-muted">, {sayNumber(part.makes)} of it</span>}
      </h3>
      {part.comesOutMm > 0 && <p className="text-muted">Comes out at {say(part.comesOutMm, "mm")}</p>}
      {part.picture && <AtRealSize picture={part.picture} looks={looks} label={`${part.name}, at real size`} />}
      <ol className="mt-2 max-w-[75ch]" aria-label={`Steps of ${part.name}`}>
        {part.rows.map((row, i) => (
          <li key={i} className="py-1">
            {row.label !== null ? (
              <strong className="mr-1 inline-block first-letter:uppercase">{row.label}:</strong>
            ) : (
              part.rows.length > 1 && <strong>{i + 1}: </strong>
            )}
            {inUnit(row.text, unit)}
          </li>
        ))}
      </ol>
      {part.made.length > 0 && (
        <ul className="mt-1 max-w-[75ch]" aria-label={`Ends, links and knots of ${part.name}`}>
          {part.made.map(({ label, text }) => (
            <li key={`${label} ${text}`} className="py-1">
              <strong className="mr-1 inline-block first-letter:uppercase">{label}:</strong>
              {inUnit(text, unit)}
            </li>
          ))}
        </ul>
      )}
      {part.byRow.length > 0 && (
        <>
          <p className="mt-2 text-muted">
            Row by row: what is there is grey, what is new is in its colours, the thread’s way is the line.
          </p>
          <ul className="flex flex-wrap gap-4 pt-1">
            {part.byRow.map((row) => (
              <li key={row.row}>
                <p className="text-sm font-semibold first-letter:uppercase">{row.label ?? `row ${row.row}`}</p>
                <AtRealSize
                  {...greyed(row, looks)}
                  path={row.path}
                  label={`${part.name} after ${row.label ?? `row ${row.row}`}`}
                />
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** What was there before, in grey; what is new keeps its looks. */
function greyed({ picture, isNew }: RowPicture, looks: ReadonlyMap<string, Appearance>) {
  const all = new Map(looks);
  for (const [key, look] of looks) all.set(`there ${key}`, { ...look, colour: "#d4d4d4", finish: "matt" as const });
  const marks = picture.marks.map((m, i) => (isNew[i] ? m : { ...m, drawn: `there ${m.drawn}` }));
  return { picture: { ...picture, marks }, looks: all };
}

/** How wide a picture may be on a phone's screen of 320 px, at 96 px an inch, with its margins. */
const PHONE_MM = 60;

/** A picture in its own millimetres: printed at 100 %, it can be held against the piece. */
function AtRealSize({
  picture,
  looks,
  label,
  path,
}: {
  picture: Picture;
  looks: ReadonlyMap<string, Appearance>;
  label: string;
  path?: RowPicture["path"];
}) {
  const unit = useSettings((s) => s.unit);
  const svg = useMemo(
    () => pictureAsSvg(picture, looks, unit, { bare: path !== undefined, ...(path ? { path } : {}) }),
    [picture, looks, unit, path],
  );
  // Where it may be wider than a phone's screen, it scrolls by keyboard too.
  const scrolls = picture.right - picture.left > PHONE_MM ? { role: "region", tabIndex: 0 } : {};
  return (
    <div className="overflow-x-auto py-2" {...scrolls} aria-label={scrolls.role && `${label}, scrolls sideways`}>
      <img
        alt={label}
        className="max-w-none rounded"
        src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`}
      />
    </div>
  );
}
