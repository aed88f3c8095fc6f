import type { Appearance, Picture } from "@jar-count/core/picture";
import { Download, Maximize2, ZoomIn, ZoomOut } from "lucide-react";
import { memo, useState } from "react";
import { useSettings } from "../../settings/index.ts";
import { Button, IconButton, Labelled } from "../../ui/controls.tsx";
import { pictureAsSvg, svgAsPng } from "../../ui/exportPicture.ts";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { download, handOver } from "../../ui/handOver.ts";
import type { Act, Builder } from "./useBuilder.ts";

/** How the picture is looked at. */
export interface Look {
  zoom: number;
  ring: boolean;
  braid: boolean;
  pair: boolean;
  path: boolean;
}

interface Props {
  /** What can be put on the strand, joined by spaces, so that typing rows leaves the bar as it is. */
  keys: string;
  sized: boolean;
  onChain: boolean;
  chosen: Builder["chosen"];
  across: boolean;
  fault: string | null;
  look: Look;
  /** Which ways of looking there are a choice of. */
  mayRing: boolean;
  mayBraid: boolean;
  mayPair: boolean;
  onLook: (change: Partial<Look>) => void;
  /** What the bar asks at the moment it is pressed; the object stays the same. */
  hands: React.RefObject<{
    builder: Builder;
    picture: Picture | null;
    looks: ReadonlyMap<string, Appearance>;
    name: string;
  }>;
}

const ACTS: { act: Act; label: string; key?: string }[] = [
  { act: "repeat", label: "Repeat", key: "r" },
  { act: "mirror", label: "Mirror", key: "m" },
  { act: "fringe", label: "Fringe", key: "f" },
  { act: "loop", label: "Loop", key: "l" },
  { act: "pass", label: "Pass through", key: "p" },
  { act: "size", label: "By size" },
  { act: "remove", label: "Take out", key: "Del" },
];

/** What can be done to the beads that are chosen on the strand, and how the strand is looked at. */
export const BuilderBar = memo(function BuilderBar({
  keys: joined,
  sized,
  onChain,
  chosen,
  across,
  fault,
  look,
  mayRing,
  mayBraid,
  mayPair,
  onLook,
  hands,
}: Props) {
  const act = (what: Act, n: number) => hands.current.builder.act(what, n);
  const unit = useSettings((s) => s.unit);
  const [times, setTimes] = useState(2);
  const keys = joined.split(" ").filter(Boolean);
  const single =
    chosen && /^\d*[\p{L}][\p{L}0-9_]*$/u.test(chosen.text) ? Number(/^\d+/.exec(chosen.text)?.[0] ?? 1) : null;
  const svg = () => pictureAsSvg(hands.current.picture!, hands.current.looks, unit);
  return (
    <div className="border-b border-rule px-6 py-2" aria-label="Building" role="group">
      <div className="flex flex-wrap items-center gap-x-1.5 gap-y-1.5">
        <p className="mr-1 min-w-40" role="status" data-testid="chosen">
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
                : "Click a bead; shift and click for a stretch."}
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
            onChange={(n) => n !== null && hands.current.builder.setMany(n)}
          />
        )}
        {ACTS.filter((a) => a.act !== "size" || sized).map(({ act: what, label, key }) => (
          <span key={what} className="inline-flex items-center">
            <button
              type="button"
              disabled={!chosen}
              title={key ? `Key: ${key}` : undefined}
              onClick={() => act(what, times)}
              className="h-7 rounded px-2 text-sm whitespace-nowrap hover:bg-hush disabled:opacity-45"
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
        <button
          type="button"
          onClick={() => act("copy row", 1)}
          className="h-7 rounded px-2 text-sm whitespace-nowrap hover:bg-hush"
        >
          Copy the row
        </button>
        <Labelled label={<span className="sr-only">Put on the strand</span>} className="flex-row!">
          <select
            className="field h-7! w-32"
            value=""
            onChange={(e) => e.target.value && hands.current.builder.put(e.target.value)}
          >
            <option value="">Put on …</option>
            {keys.map((k) => (
              <option key={k} value={k}>
                {k}
              </option>
            ))}
            {keys.map((k) => (
              <option key={`hang ${k}`} value={`hang ${k}`}>
                hang {k}
              </option>
            ))}
            <option value="space 6mm">space 6mm</option>
            {onChain && <option value="skip 2">skip 2</option>}
          </select>
        </Labelled>
        <span className="ml-auto flex items-center gap-1">
          {mayRing && (
            <Toggle on={look.ring} onChange={(ring) => onLook({ ring })}>
              Ring
            </Toggle>
          )}
          {mayBraid && (
            <Toggle on={look.braid} onChange={(braid) => onLook({ braid })}>
              Braid
            </Toggle>
          )}
          {mayPair && (
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
          <Button
            look="quiet"
            className="h-7! px-1.5! text-sm"
            onClick={() => download(`${hands.current.name}.svg`, svg(), "image/svg+xml")}
          >
            <Download size={14} aria-hidden /> SVG
          </Button>
          <Button
            look="quiet"
            className="h-7! px-1.5! text-sm"
            onClick={() => void svgAsPng(svg()).then((png) => handOver(`${hands.current.name}.png`, png))}
          >
            <Download size={14} aria-hidden /> PNG
          </Button>
        </span>
      </div>
      {fault && (
        <p role="alert" className="pt-1 font-medium text-short">
          <Triangle /> {fault}
        </p>
      )}
      {(look.ring && mayRing) || (look.braid && mayBraid) ? (
        <p className="pt-1 text-xs text-muted">
          A schematic:{" "}
          {look.ring && mayRing
            ? "later rounds stand where the passes tell, as far as they do"
            : "how the strands cross is up to the hands"}
          ; every bead is drawn and to scale.
        </p>
      ) : null}
    </div>
  );
});

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
