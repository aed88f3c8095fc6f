import { Design, DESIGN_KINDS, type DesignSummary, LEVELS, TECHNIQUES } from "@jar-count/core/contract";
import { countKit, countWhole } from "@jar-count/core/count";
import { appearancesOf, layWorn } from "@jar-count/core/picture";
import { levelOfDesign } from "@jar-count/core/sheet";
import { useQuery } from "@tanstack/react-query";
import { Archive, ArchiveRestore, Copy, FileUp, Plus } from "lucide-react";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { componentsQuery, designsQuery, makeStale } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, IconButton } from "../../ui/controls.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { monthName, sayDay } from "../../ui/month.ts";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { PictureCard } from "../../ui/PictureCard.tsx";
import { readDesignFile } from "./designFile.ts";
import { Drafts } from "./Drafts.tsx";

/** All designs, each with its strand: the place to begin one, or to bring one in. */
export function Library() {
  const designs = useQuery(designsQuery);
  const navigate = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const [faults, setFaults] = useState<{ name: string; list: string[] } | null>(null);
  const [name, setName] = useState("");

  const adding = useSend("saveDesign", () => makeStale("designs"));
  const wrong = adding.refusal?.errors?.map((e) => `${e.pointer.replace("/design", "")}: ${e.detail}`);
  const refused = adding.refusal && { name, list: wrong ?? [adding.refusal.detail] };
  const notTakenIn = faults ?? refused;
  const add = async (design: Design, reason: string, name: string) => {
    setFaults(null);
    setName(name);
    const id = crypto.randomUUID();
    const body = { revision: 0, reason, design };
    if (await adding.send((requestKey) => ({ params: { id }, body: { ...body, requestKey } }))) {
      await navigate(`/designs/${id}`);
    }
  };
  const bringIn = async (chosen: File) => {
    const found = await readDesignFile(chosen);
    if ("faults" in found) setFaults({ name: chosen.name, list: found.faults });
    else await add(found.design, `From the file ${chosen.name}`.slice(0, 500), chosen.name);
  };

  const actions = (
    <div className="flex gap-2">
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        className="sr-only"
        aria-label="Design file"
        tabIndex={-1}
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) void bringIn(chosen);
          e.target.value = "";
        }}
      />
      <Button onClick={() => file.current?.click()}>
        <FileUp size={16} aria-hidden /> Open a design file
      </Button>
      <ButtonLink look="main" to="/designs/new">
        <Plus size={16} aria-hidden /> New design
      </ButtonLink>
    </div>
  );

  const [search, setSearch] = useState("");
  const [about, setAbout] = useState<{ kind: string; technique: string; level: string }>({
    kind: "",
    technique: "",
    level: "",
  });
  const [order, setOrder] = useState<"name" | "used" | "saved">("name");
  const [putAway, setPutAway] = useState(false);
  // Whoever looks at the designs opens one next.
  useEffect(() => void import("../bench/index.ts").then((bench) => bench.prepare()), []);
  const components = useQuery({ ...componentsQuery, enabled: search.trim() !== "" });
  if (!designs.data) return <Waiting error={designs.error} what="the designs" retry={() => void designs.refetch()} />;
  const away = designs.data.filter((d) => d.archived).length;
  const all = designs.data.filter((d) => d.archived === putAway);
  // A design is also found by its beads: by the names in its key, and by the jars that boxes chose for them.
  const jar = new Map((components.data ?? []).map((c) => [c.id, `${c.name} ${c.code}`]));
  const terms = search.toLowerCase().split(/\s+/).filter(Boolean);
  const wordsOf = (d: DesignSummary) =>
    [d.name, ...d.design.key.map((e) => e.name), ...d.components.map((c) => jar.get(c) ?? "")].map((w) =>
      w.toLowerCase(),
    );
  const found = all
    .filter((d) => (["kind", "technique"] as const).every((f) => about[f] === "" || d.design.about?.[f] === about[f]))
    .filter((d) => about.level === "" || levelOfDesign(d.design) === about.level)
    .filter((d) => terms.length === 0 || wordsOf(d).some((w) => terms.every((t) => w.includes(t))))
    .sort(
      (a, b) =>
        (order === "used"
          ? (b.lastUsed ?? "").localeCompare(a.lastUsed ?? "")
          : order === "saved"
            ? b.savedAt.localeCompare(a.savedAt)
            : 0) || a.name.localeCompare(b.name),
    );
  const choose = (field: keyof typeof about, label: string, list: readonly string[]) => (
    <select
      className="field"
      aria-label={label}
      value={about[field]}
      onChange={(e) => setAbout({ ...about, [field]: e.target.value })}
    >
      <option value="">any {label.toLowerCase()}</option>
      {list.map((x) => (
        <option key={x}>{x}</option>
      ))}
    </select>
  );
  return (
    <Page title="Designs">
      <PageHead
        title="Designs"
        about={
          <span role="status">
            {designs.data.length === 0
              ? "None yet"
              : found.length === all.length
                ? `${sayNumber(all.length)} in the library`
                : `${sayNumber(found.length)} of ${sayNumber(all.length)}`}
            {away > 0 && (
              <>
                {" "}
                ·{" "}
                <button type="button" className="link" onClick={() => setPutAway(!putAway)}>
                  {putAway ? "back to the library" : `${away} put away`}
                </button>
              </>
            )}
          </span>
        }
        actions={actions}
      />
      {notTakenIn && (
        <div role="alert" className="mx-6 mb-4 rounded-md border-l-4 border-short bg-hush px-4 py-3">
          <p className="font-semibold break-words">{notTakenIn.name} was not taken in. Nothing was changed.</p>
          <ul className="mt-1 list-disc pl-5">
            {notTakenIn.list.map((f) => (
              <li key={f} className="break-words">
                {f}
              </li>
            ))}
          </ul>
        </div>
      )}
      <Drafts known={designs.data} />
      {designs.data.length === 0 ? (
        <Empty title="No designs yet">
          A design is rows of beads, written as on the back of an envelope: (3A 2B) x4. Start one, or open a
          *.jarcount.json file.
        </Empty>
      ) : (
        <>
          <div className="flex flex-wrap gap-2 px-6 pb-4">
            <input
              type="search"
              className="field min-w-52 flex-1"
              aria-label="Find a design"
              placeholder="A name, or a bead in it: 6 mm round"
              value={search}
              onChange={(e) => setSearch(e.target.value)}
            />
            {choose("kind", "Kind", DESIGN_KINDS)}
            {choose("technique", "Technique", TECHNIQUES)}
            {choose("level", "Level", LEVELS)}
            <select
              className="field"
              aria-label="In which order"
              value={order}
              onChange={(e) => setOrder(e.target.value as typeof order)}
            >
              <option value="name">by name</option>
              <option value="used">last used first</option>
              <option value="saved">last saved first</option>
            </select>
          </div>
          {found.length === 0 && <p className="px-6 text-muted">Nothing fits that. Try fewer words.</p>}
          <ul className="grid grid-cols-1 gap-x-6 px-6 xl:grid-cols-2">
            {found.map((d) => (
              <Card
                key={d.id}
                item={d}
                onCopy={() =>
                  void add(
                    { ...d.design, name: `${d.design.name} again`.slice(0, 200) },
                    `Copied from ${d.name}`.slice(0, 500),
                    d.name,
                  )
                }
              />
            ))}
          </ul>
        </>
      )}
    </Page>
  );
}

/** More beads than this are not told apart on a card. */
const MOST_MARKS = 1500;
/** A card that is out of sight is not drawn, and is taken to be so tall. */
const DRAWN_WHEN_SEEN = "[contain-intrinsic-size:auto_157px] [content-visibility:auto]";

/** The two or three words by which a design is known beside its name. */
const knownBy = ({ design, lastUsed }: DesignSummary) =>
  [
    design.about?.kind,
    design.about?.technique,
    levelOfDesign(design),
    lastUsed ? `in the box of ${monthName(lastUsed, true)}` : null,
  ]
    .filter(Boolean)
    .join(" · ");

function Card({ item, onCopy }: { item: DesignSummary; onCopy: () => void }) {
  const putting = useSend("putDesignAway", () => makeStale("designs"));
  const archive = async () => {
    await putting.send({ params: { id: item.id }, body: { archived: !item.archived } });
  };
  const { design } = item;
  const size = design.sizes?.[Math.floor((design.sizes.length - 1) / 2)]?.key ?? null;
  const counting = useMemo(
    () => countWhole(design, { size, option: design.options?.[0]?.key ?? null }),
    [design, size],
  );
  const make = useCallback(() => {
    const looks = appearancesOf(design.key);
    return { picture: layWorn(counting, looks, MOST_MARKS), looks };
  }, [counting, design]);
  const beads = design.key
    .filter((e) => e.kind === "bead" || e.kind === "focal")
    .reduce((n, e) => n + (counting.answer.counts[e.key] ?? 0), 0);
  const broken = countKit(design, null, null, null).problems.some((p) => p.level === "error");
  return (
    <li className={`relative min-w-0 border-t border-rule py-3 ${DRAWN_WHEN_SEEN}`}>
      <span className="absolute top-2.5 right-0 z-10 flex">
        <IconButton label={`Copy ${item.name}`} onClick={onCopy}>
          <Copy size={15} />
        </IconButton>
        <IconButton
          label={item.archived ? `Take ${item.name} out again` : `Put ${item.name} away`}
          onClick={() => void archive()}
        >
          {item.archived ? <ArchiveRestore size={15} /> : <Archive size={15} />}
        </IconButton>
      </span>
      <Link to={`/designs/${item.id}`} className="flex gap-4 rounded-md hover:bg-hush">
        <span className="block rounded-md bg-mat">
          <PictureCard of={design} make={make} />
        </span>
        <span className="block min-w-0 flex-1 py-1">
          <span className="block truncate pr-16 font-semibold" title={item.name}>
            {item.name}
          </span>
          {knownBy(item) && <span className="block text-muted">{knownBy(item)}</span>}
          <span className="block text-muted">
            {sayNumber(beads)} beads{design.sizes?.length ? ` · ${design.sizes.length} sizes` : ""}
          </span>
          <span className="block text-muted">
            revision {item.revision}, {sayDay(item.savedAt)}
          </span>
          {broken && (
            <span className="block font-medium text-short">
              <Triangle /> something is wrong in it
            </span>
          )}
        </span>
      </Link>
    </li>
  );
}
