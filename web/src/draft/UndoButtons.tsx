import { Redo2, Undo2 } from "lucide-react";
import { useEffect } from "react";
import { useStore } from "zustand";
import { IconButton } from "../ui/controls.tsx";
import type { DraftStore } from "./draft.ts";

/** Undo and redo of a draft, by buttons and by Ctrl+Z and Ctrl+Shift+Z (or Ctrl+Y). */
export function UndoButtons<T>({ draft }: { draft: DraftStore<T> }) {
  const { temporal } = draft;
  const past = useStore(temporal, (t) => t.pastStates.length);
  const future = useStore(temporal, (t) => t.futureStates.length);
  const undo = () => temporal.getState().undo();
  const redo = () => temporal.getState().redo();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const key = e.key.toLowerCase();
      if (!(e.ctrlKey || e.metaKey) || (key !== "z" && key !== "y")) return;
      e.preventDefault();
      if (key === "y" || e.shiftKey) temporal.getState().redo();
      else temporal.getState().undo();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [temporal]);
  return (
    <>
      <IconButton label="Undo" disabled={past === 0} onClick={undo}>
        <Undo2 size={17} />
      </IconButton>
      <IconButton label="Redo" disabled={future === 0} onClick={redo}>
        <Redo2 size={17} />
      </IconButton>
    </>
  );
}
