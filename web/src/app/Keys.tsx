import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../ui/controls.tsx";
import { Dialog } from "../ui/Dialog.tsx";
import { openHelpHere } from "../ui/help.ts";

const GO: Record<string, string> = {
  d: "/designs",
  j: "/jars",
  m: "/",
  a: "/ahead",
  b: "/buy",
  o: "/orders",
  l: "/look-back",
  s: "/stocktakes",
  w: "/workshop",
  h: "/help",
};

const LIST: [string, string][] = [
  ["/", "Find a design, a component or a box"],
  ["g then d", "Designs"],
  ["g then j", "Jars"],
  ["g then a", "Ahead: what runs out, and when"],
  ["g then m", "The months"],
  ["g then b", "Buy: what the boxes lack"],
  ["g then o", "Orders"],
  ["g then l", "Look back: what was planned, and what came of it"],
  ["g then s", "Stocktake"],
  ["g then w", "The workshop"],
  ["g then h", "Help: how rows are written, and lessons"],
  ["Ctrl+Z, Ctrl+Shift+Z", "Undo and redo in an editor"],
  ["Ctrl+S", "Save a design as a new revision"],
  ["Ctrl+Space, Tab", "Offer keys in the shorthand, take the one offered"],
  ["Arrows, Enter, a letter", "Move on the colour tray, open a cell, search at once"],
  ["?", "How rows are written, beside them on a design; elsewhere these keys"],
  ["Esc", "Close what is open"],
];

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Keys that hold everywhere: `g` and a letter goes to a room, `?` shows what there is. */
export function Keys({ onFind }: { onFind: () => void }) {
  const [shown, setShown] = useState(false);
  const navigate = useNavigate();
  const pending = useRef(false);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (typing(e.target) || e.ctrlKey || e.metaKey || e.altKey) return;
      if (pending.current) {
        pending.current = false;
        const to = GO[e.key];
        if (to) {
          e.preventDefault();
          void navigate(to);
        }
      } else if (e.key === "g") pending.current = true;
      else if (e.key === "?") {
        e.preventDefault();
        if (!openHelpHere()) setShown(true);
      } else if (e.key === "/") {
        e.preventDefault();
        onFind();
      }
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [navigate, onFind]);
  return (
    <Dialog title="Keys" open={shown} onClose={() => setShown(false)}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-6 gap-y-2">
        {LIST.map(([key, does]) => (
          <div key={key} className="contents">
            <dt className="font-mono text-sm">{key}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
      <Button
        className="mt-4"
        onClick={() => {
          setShown(false);
          void navigate("/help");
        }}
      >
        How rows are written, and four lessons
      </Button>
    </Dialog>
  );
}
