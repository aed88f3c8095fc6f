import type { ReactNode } from "react";
import { useLeft } from "./kept.ts";

/** Less used fields behind one line, which stays open or shut as it was left under its name. */
export function Fold({ name, title, children }: { name: string; title: ReactNode; children: ReactNode }) {
  const [open, setOpen] = useLeft<boolean>(name, false);
  return (
    <details open={open} onToggle={(e) => e.currentTarget.open !== open && setOpen(e.currentTarget.open)}>
      <summary className="w-fit cursor-pointer font-medium text-action">{title}</summary>
      {open && <div className="mt-3">{children}</div>}
    </details>
  );
}
