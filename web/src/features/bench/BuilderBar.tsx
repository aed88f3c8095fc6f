import type { Laid } from "@jar-count/core/contract";
import { Download, Maximize2, ZoomIn, ZoomOut } from "lucide-react";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { useSettings } from "../../settings/index.ts";
import { Button, IconButton, Labelled } from "../../ui/controls.tsx";
import { pictureAsSvg, svgAsPng } from "../../ui/exportPicture.ts";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { download, handOver } from "../../ui/handOver.ts";
import { type Look, type Showing, useBench, useBenchStore } from "./benchStore.ts";
import type { Act, Builder } from "./builder.ts";

const ACTS: { act: Act; label: string; key?: string }[] = [
  { act: "repeat", label: "Repeat", key: "r" },
  { act: "mirror", label: "Mirror", key: "m" },
  { act: "fringe", label: "Fringe", key: "f" },
  { act: "loop", label: "Loop", key: "l" },
  { act: "pass", label: "Pass through", key: "p" },
  { act: "size", label: "By size" },
  { act: "remove", label: "Take out", key: "Del" },
];

const LAID: Record<Laid, string> = { strand: "Strand", ring: "Ring", hanging: "Hanging", rising: "Rising" };

/** What of a picture is not measured but shown as it is usually done. */
const SCHEMATIC: Partial<Record<Laid | Showing, string>> = {
  worn: "lengths are true, how the piece falls is up to gravity and the wearer",
  ring: "later rounds stand where the passes tell, as far as they do",
  braid: "how the strands cross is up to the hands",
};

/** Keys to choose from, each behind the word that goes before it in the rows. */
const choices = (keys: readonly string[], word = "") =>
  keys.map((k) => (
    <option key={k} value={word + k}>
      {word + k}
    </option>
  ));

/** What can be done to the beads that are chosen on the strand, and how the strand is looked at. */
export function BuilderBar({ builder }: { builder: Builder }) {
  const { state, set } = useBenchStore();
  const { frame, partId, chosen, across, fault, look, showing, proposal, may, sized } = useBench(
    useShallow((b) => ({
      frame: b.frame,
      partId: b.part?.id,
      chosen: b.chosen,
      // Beads of more than one row are chosen, which is no stretch.
      across: b.selected !== null && b.chosen === null,
      fault: b.fault,
      look: b.look,
      showing: b.showing,
      proposal: b.proposal,
      sized: b.sizes.length > 0,
      may: b.may,
    })),
  );
  const part = frame.parts.find((p) => p.id === partId);
  const onChain = frame.key.some((e) => e.key === part?.stringing && e.linkMm);
  const keys = [
    ...frame.key.filter((e) => !["stringing", "packaging", "consumable"].includes(e.kind)).map((e) => e.key),
    ...frame.parts.flatMap((p) => (p.as != null && p.id !== partId ? [p.as] : [])),
  ];
  // What can take up the rest: read off the rows as they are now.
  const rests = useBench(
    useShallow(({ design }) =>
      design.parts.flatMap((p) =>
        p.as != null && p.id !== partId && p.targetMm == null && /to\s+length/.test(p.steps ?? "") ? [p.as] : [],
      ),
    ),
  );
  // What is linked in and not strung: findings, focal pieces and sub-assemblies.
  const subs = frame.parts.flatMap((p) => (p.as != null && p.id !== partId ? [p] : []));
  const joinable = new Set([
    ...frame.key.filter((e) => e.kind === "finding" || e.kind === "focal").map((e) => e.key),
    ...subs.map((p) => p.as!),
  ]);
  const onLook = (change: Partial<Look>) => set({ look: { ...state.getState().look, ...change } });
  const unit = useSettings((s) => s.unit);
  const [times, setTimes] = useState(2);
  const single =
    chosen && /^\d*[\p{L}][\p{L}0-9_]*$/u.test(chosen.text) ? Number(/^\d+/.exec(chosen.text)?.[0] ?? 1) : null;
  const svg = () => pictureAsSvg(state.getState().picture!, state.getState().looks, unit);
  const fileName = `${frame.name.slice(0, 60)}, ${part?.name.slice(0, 30) ?? ""}`;
  return (
    <div className="border-b border-rule px-6 py-1" aria-label="Building" role="group">
      <div className="flex flex-wrap items-center justify-between gap-x-1.5 gap-y-1">
        <span className="flex flex-wrap items-center gap-1">
          <span
            role="group"
            aria-label="What is shown"
            className="mr-1 inline-flex rounded-md border border-rule p-0.5"
          >
            {may.show.map((what) => (
              <Toggle key={what} on={showing === what} onChange={() => onLook({ showing: what, zoom: 1 })}>
                {what === "worn"
                  ? "As worn"
                  : what === "braid"
                    ? "Braid"
                    : what === "strand"
                      ? "Strand"
                      : LAID[proposal.laid]}
              </Toggle>
            ))}
          </span>
          {may.pair && showing !== "worn" && (
            <Toggle on={look.pair} onChange={(pair) => onLook({ pair })}>
              Pair
            </Toggle>
          )}
          <Toggle on={look.path} onChange={(path) => onLook({ path })}>
            Thread
          </Toggle>
          <IconButton label="Smaller" onClick={() => onLook({ zoom: Math.max(0.25, (look.zoom || 1) / 1.4) })}>
            <ZoomOut size={16} />
          </IconButton>
          <IconButton label="Larger" onClick={() => onLook({ zoom: Math.min(12, (look.zoom || 1) * 1.4) })}>
            <ZoomIn size={16} />
          </IconButton>
          <IconButton
            label={look.zoom === 0 ? "As large as reads well" : "The whole piece"}
            onClick={() => onLook({ zoom: look.zoom === 0 ? 1 : 0 })}
          >
            <Maximize2 size={15} />
          </IconButton>
        </span>
        <span className="flex flex-wrap items-center gap-1">
          <Labelled label={<span className="sr-only">Put on the strand</span>} className="flex-row!">
            <select
              className="field h-7! w-26"
              value=""
              onChange={(e) => e.target.value && builder.put(e.target.value)}
            >
              <option value="">Put on …</option>
              {choices(keys)}
              {choices(keys, "hang ")}
              {choices(
                keys.filter((k) => joinable.has(k)),
                "join ",
              )}
              {choices(rests, "rest ")}
              <option value="space 6mm">space 6mm</option>
              <option value="space to length">space to length</option>
              <option value="knot 4mm takes 40mm">knot 4mm takes 40mm</option>
              {onChain && (
                <>
                  <option value="skip 2">skip 2</option>
                  <option value="skip to length">skip to length</option>
                </>
              )}
            </select>
          </Labelled>
          {chosen && (
            <Labelled
              label={<span className="sr-only">Between every two of the chosen beads</span>}
              className="flex-row!"
            >
              <select
                className="field h-7! w-29"
                value=""
                onChange={(e) => e.target.value && builder.space(e.target.value)}
              >
                <option value="">Space by …</option>
                {choices(keys)}
              </select>
            </Labelled>
          )}
          <Button
            look="quiet"
            className="h-7! px-1.5! text-sm"
            onClick={() => download(`${fileName}.svg`, svg(), "image/svg+xml")}
          >
            <Download size={14} aria-hidden /> SVG
          </Button>
          <Button
            look="quiet"
            className="h-7! px-1.5! text-sm"
            onClick={() => void svgAsPng(svg()).then((png) => handOver(`${fileName}.png`, png))}
          >
            <Download size={14} aria-hidden /> PNG
          </Button>
        </span>
      </div>
      <div className="flex min-h-8 flex-wrap items-center gap-x-1 gap-y-1 pt-0.5">
        <p className="mr-1 max-w-full min-w-0 truncate" role="status" data-testid="chosen">
          {chosen ? (
            <>
              <strong>{sayNumber(chosen.beads)}</strong> {chosen.beads === 1 ? "bead" : "beads"}{" "}
              <code className="font-mono text-sm text-muted">
                {chosen.text.slice(0, 28)}
                {chosen.text.length > 28 && " …"}
              </code>
            </>
          ) : (
            <span className="text-muted">
              {across
                ? "A stretch lies within one row: choose beads of one."
                : "Click a bead in the picture; shift and click for a stretch. Then repeat, mirror, pass through …"}
            </span>
          )}
        </p>
        {single !== null && (
          <NumberField
            className="field h-7! w-16"
            aria-label="How many of the chosen bead"
            whole
            min={0}
            max={100_000}
            value={single}
            onChange={(n) => n !== null && builder.setMany(n)}
          />
        )}
        {chosen &&
          ACTS.filter((a) => a.act !== "size" || sized).map(({ act: what, label, key }) => (
            <span key={what} className="inline-flex items-center">
              <button
                type="button"
                title={key ? `Key: ${key}` : undefined}
                onClick={() => builder.act(what, times)}
                className="h-7 rounded px-1.5 text-sm whitespace-nowrap hover:bg-hush"
              >
                {label}
              </button>
              {what === "repeat" && (
                <NumberField
                  className="field h-7! w-12"
                  aria-label="Repeat how often"
                  whole
                  min={1}
                  max={1000}
                  value={times}
                  onChange={(n) => n && setTimes(n)}
                />
              )}
            </span>
          ))}
        {chosen && (
          <button
            type="button"
            className="h-7 rounded px-1.5 text-sm whitespace-nowrap hover:bg-hush"
            onClick={() => builder.copyRow()}
          >
            Copy the row
          </button>
        )}
      </div>
      {fault && (
        <p role="alert" className="pt-1 font-medium text-short">
          <Triangle /> {fault}
        </p>
      )}
      {SCHEMATIC[showing === "laid" ? proposal.laid : showing] && (
        <p className="pt-1 text-xs text-muted">
          A schematic: {SCHEMATIC[showing === "laid" ? proposal.laid : showing]}; every bead is drawn and to scale.
        </p>
      )}
    </div>
  );
}

function Toggle({
  on,
  onChange,
  children,
}: {
  on: boolean;
  onChange: (on: boolean) => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => onChange(!on)}
      className={`h-7 rounded px-2 text-sm ${on ? "bg-ink font-semibold text-paper" : "hover:bg-hush"}`}
    >
      {children}
    </button>
  );
}
