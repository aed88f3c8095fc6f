import { type Construct, findConstructs } from "@jar-count/core/shorthand";
import { CornerDownLeft } from "lucide-react";
import { useCallback } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/controls.tsx";
import { PictureCard } from "../../ui/PictureCard.tsx";
import { findAnswers } from "./beginners.ts";
import { type Examples, pictureOf } from "./examples.ts";

interface Props {
  examples: Examples;
  search: string;
  /** Puts an example into the rows; without it they are only shown. */
  onPut?: ((text: string) => void) | undefined;
}

/** Every construct of the notation that a search finds: what it says, one line of it, its picture. */
export function Constructs({ examples, search, onPut }: Props) {
  const found = findConstructs(search);
  const answers = findAnswers(search);
  if (found.length + answers.length === 0) {
    return (
      <p className="py-3 text-muted">
        Nothing is called that here. Try plain words: repeat, length, clasp, earring, postage.
      </p>
    );
  }
  return (
    <ul>
      {answers.map((a) => (
        <li key={a.title} className="border-t border-rule py-2 first:border-t-0" data-testid="answer">
          <p className="font-semibold">{a.title}</p>
          <p>
            {a.says}{" "}
            <Link className="link font-medium whitespace-nowrap" to={a.to}>
              {a.go}
            </Link>
          </p>
        </li>
      ))}
      {found.map((c) => (
        <One key={c.id} construct={c} examples={examples} onPut={onPut} />
      ))}
    </ul>
  );
}

function One({ construct, examples, onPut }: { construct: Construct } & Pick<Props, "examples" | "onPut">) {
  const text = construct.example(examples.keys);
  const make = useCallback(() => pictureOf(construct, examples), [construct, examples]);
  return (
    <li className="border-t border-rule py-2 first:border-t-0" data-testid={`construct-${construct.id}`}>
      <p className="font-semibold">{construct.title}</p>
      <p className="text-muted">{construct.says}</p>
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
        <code className="rounded bg-hush px-1.5 py-0.5 font-mono font-bold whitespace-pre-wrap">{text}</code>
        {onPut && (
          <Button className="h-7! px-2! text-sm" aria-label={`Put it here: ${text}`} onClick={() => onPut(text)}>
            <CornerDownLeft size={14} aria-hidden /> Put it here
          </Button>
        )}
      </div>
      {construct.drawn && (
        <div className="mt-1 w-fit rounded bg-board">
          <PictureCard of={pictureKey(examples, construct)} make={make} width={220} height={46} />
        </div>
      )}
    </li>
  );
}

/** One object for each picture of a set of examples, so that it is drawn once and kept. */
const keys = new WeakMap<Examples, Map<string, object>>();
function pictureKey(examples: Examples, { id }: Construct): object {
  const known = keys.get(examples) ?? new Map<string, object>();
  keys.set(examples, known);
  const key = known.get(id) ?? {};
  known.set(id, key);
  return key;
}
