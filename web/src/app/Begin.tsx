import { useQuery } from "@tanstack/react-query";
import { Check, X } from "lucide-react";
import { Link, useLocation } from "react-router";
import { boxesQuery, designsQuery } from "../api/queries.ts";
import { IconButton } from "../ui/controls.tsx";
import { useLeft } from "../ui/kept.ts";
import { roadOf } from "./road.ts";

/** Shown from an empty workshop on until the first box is counted, or until it is closed. */
export function Begin() {
  const designs = useQuery(designsQuery);
  const boxes = useQuery(boxesQuery);
  const { pathname } = useLocation();
  const [closed, setClosed] = useLeft<boolean>("begin", false);
  if (closed || !designs.data || !boxes.data || (pathname === "/" && designs.data.length === 0)) return null;
  const road = roadOf(designs.data, boxes.data);
  const next = road.findIndex((s) => !s.done);
  if (next < 0) return null;
  return (
    <nav
      aria-label="The first box"
      className="no-print flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule bg-hush px-6 py-1.5 text-sm"
    >
      <span className="font-semibold">The first box:</span>
      <ol className="flex flex-1 flex-wrap items-center gap-x-4">
        {road.map((s, i) => (
          <li key={s.words} className={`items-center gap-1 ${i === next ? "flex" : "hidden sm:flex"}`}>
            {s.done ? (
              <>
                <Check size={13} aria-hidden className="text-action" />
                <span className="sr-only">done: </span>
                <span className="text-muted">{s.words}</span>
              </>
            ) : i === next && i === 0 && /^\/designs\/./.test(pathname) ? (
              <strong>a design: write it here and save it</strong>
            ) : i === next ? (
              <Link className="link font-medium" to={s.to}>
                {s.words}
              </Link>
            ) : (
              <span className="text-muted">{s.words}</span>
            )}
          </li>
        ))}
      </ol>
      <IconButton label="Close the road to the first box" className="size-6!" onClick={() => setClosed(true)}>
        <X size={14} />
      </IconButton>
    </nav>
  );
}
