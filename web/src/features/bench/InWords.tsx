import { READING_LEVELS, type ReadingLevel } from "@jar-count/core/contract";
import { sentencesOf } from "@jar-count/core/sheet";
import { inUnit } from "@jar-count/core/units";
import { useSettings } from "../../settings/index.ts";
import { Segmented } from "../../ui/controls.tsx";
import { Fold } from "../../ui/Fold.tsx";
import { useLeft } from "../../ui/kept.ts";
import { useBench } from "./benchStore.ts";

/** The rows of the part at hand in plain sentences, as the maker's sheet says them. */
export function InWords() {
  return (
    <div className="px-6 pt-2">
      <Fold name="bench/words" title="The rows in plain words, as the maker’s sheet says them">
        <Words />
      </Fold>
    </div>
  );
}

function Words() {
  const design = useBench((b) => b.design);
  const part = useBench((b) => b.part);
  const size = useBench((b) => b.size);
  const unit = useSettings((s) => s.unit);
  const [level, setLevel] = useLeft<ReadingLevel>("words/level", "plain");
  if (!part) return null;
  const rows = sentencesOf(design, part, level, size);
  return (
    <>
      <Segmented
        label="How closely it is told"
        value={level}
        options={READING_LEVELS.map((value) => ({ value, label: value }))}
        onChange={setLevel}
      />
      <ol className="mt-2 max-w-[70ch]" aria-label="Rows in words">
        {rows.map((row, i) => (
          <li key={i} className="py-0.5">
            {row.label !== null && <strong>{row.label}: </strong>}
            {inUnit(row.text, unit)}
          </li>
        ))}
      </ol>
      {rows.length === 0 && <p className="text-muted">Nothing is written in its rows yet.</p>}
    </>
  );
}
