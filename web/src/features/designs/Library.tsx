import { Design, type DesignSummary } from "@jar-count/core/contract";
import { countKit, countWhole } from "@jar-count/core/count";
import { appearancesOf, layOut } from "@jar-count/core/picture";
import { useQuery } from "@tanstack/react-query";
import { FileUp, Plus } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { call, Refused } from "../../api/client.ts";
import { designsQuery, queryClient } from "../../api/queries.ts";
import { Button, Empty } from "../../ui/controls.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";
import { Page, Waiting } from "../../ui/page.tsx";
import { StrandPicture } from "../../ui/StrandPicture.tsx";
import { newDesign, readDesignFile } from "./files.ts";

/** All designs, each with its strand: the place to begin one, or to bring one in. */
export function Library() {
  const designs = useQuery(designsQuery);
  const navigate = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const [faults, setFaults] = useState<{ name: string; list: string[] } | null>(null);

  const add = async (design: Design, reason: string, name: string) => {
    setFaults(null);
    try {
      const id = crypto.randomUUID();
      await call("PUT", `/designs/${id}`, { revision: 0, reason, design });
      await queryClient.invalidateQueries({ queryKey: ["designs"] });
      await navigate(`/designs/${id}`);
    } catch (error) {
      const list = error instanceof Refused ? (error.body.errors ?? []).map((e) => `${e.pointer.replace("/design", "")}: ${e.detail}`) : [];
      setFaults({ name, list: list.length > 0 ? list : [(error as Error).message] });
    }
  };
  const bringIn = async (chosen: File) => {
    const found = await readDesignFile(chosen);
    if ("faults" in found) setFaults({ name: chosen.name, list: found.faults });
    else await add(found.design, `From the file ${chosen.name}`.slice(0, 500), chosen.name);
  };

  const actions = (
    <div className="flex gap-2">
      <input ref={file} type="file" accept=".json,application/json" className="sr-only" aria-label="Design file" tabIndex={-1}
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) void bringIn(chosen);
          e.target.value = "";
        }} />
      <Button onClick={() => file.current?.click()}><FileUp size={16} aria-hidden /> Open a design file</Button>
      <Button look="main" onClick={() => void add(newDesign(), "", "New design")}><Plus size={16} aria-hidden /> New design</Button>
    </div>
  );

  if (!designs.data) return <Waiting error={designs.error} what="the designs" retry={() => void designs.refetch()} />;
  return (
    <Page title="Designs">
      <header className="flex flex-wrap items-end justify-between gap-3 px-6 pt-6 pb-4">
        <div>
          <h1>Designs</h1>
          <p className="text-muted">{designs.data.length === 0 ? "None yet" : `${designs.data.length} in the library`}</p>
        </div>
        {actions}
      </header>
      {faults && (
        <div role="alert" className="mx-6 mb-4 rounded-md border-l-4 border-short bg-hush px-4 py-3">
          <p className="font-semibold break-words">{faults.name} was not taken in. Nothing was changed.</p>
          <ul className="mt-1 list-disc pl-5">
            {faults.list.map((f) => <li key={f} className="break-words">{f}</li>)}
          </ul>
        </div>
      )}
      {designs.data.length === 0 ? (
        <Empty title="No designs yet">
          A design is rows of beads, written as on the back of an envelope: (3A 2B) x4. Start one, or open a *.jarcount.json file.
        </Empty>
      ) : (
        <ul className="grid grid-cols-1 gap-x-6 px-6 xl:grid-cols-2">
          {designs.data.map((d) => <Card key={d.id} item={d} />)}
        </ul>
      )}
    </Page>
  );
}

function Card({ item }: { item: DesignSummary }) {
  const { design } = item;
  const size = design.sizes?.[Math.floor((design.sizes.length - 1) / 2)]?.key ?? null;
  const counting = countWhole(design, { size, option: design.options?.[0]?.key ?? null });
  const part = counting.parts.filter((p) => p.part.as == null).sort((a, b) => b.whole.strandMm - a.whole.strandMm)[0];
  const looks = appearancesOf(design.key);
  const beads = design.key.filter((e) => e.kind === "bead" || e.kind === "focal").reduce((n, e) => n + (counting.answer.counts[e.key] ?? 0), 0);
  const broken = countKit(design, null, null, null).problems.some((p) => p.level === "error");
  return (
    <li className="min-w-0 border-t border-rule py-3">
      <Link to={`/designs/${item.id}`} className="block rounded-md hover:bg-hush">
        <span className="block truncate font-semibold" title={item.name}>{item.name}</span>
        <span className="block text-muted">
          {sayNumber(beads)} beads · {design.sizes?.length ? `${design.sizes.length} sizes · ` : ""}revision {item.revision}, {sayDay(item.savedAt)}
          {broken && <span className="ml-2 font-medium text-short"><Triangle /> something is wrong in it</span>}
        </span>
        {part && part.placings.length > 0 && <StrandPicture picture={layOut(counting, part, looks, 600)} looks={looks} bare />}
      </Link>
    </li>
  );
}
