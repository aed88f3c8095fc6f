import type { ErrorBody } from "@jar-count/core/contract";
import { type ReactNode, useEffect, useLayoutEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { Diamond, Triangle } from "./marks.tsx";

interface PageProps {
  title: string;
  tally?: ReactNode;
  /** The tally holds a list of its own: it is wider. */
  roomy?: boolean;
  /** The tally's leading figures in one line, kept in sight where the tally stands below the work. */
  inBrief?: ReactNode;
  children: ReactNode;
}

/** The work in the middle and, where there is one, the tally at its right. */
export function Page({ title, tally, roomy, inBrief, children }: PageProps) {
  useEffect(() => {
    document.title = `${title} · Jar Count`;
  }, [title]);
  const columns = !tally ? "" : roomy ? "lg:grid-cols-[minmax(0,1fr)_340px]" : "lg:grid-cols-[minmax(0,1fr)_264px]";
  return (
    <div className={`grid min-h-full flex-1 grid-cols-[minmax(0,1fr)] ${columns}`}>
      <main className="@container min-w-0 bg-paper pb-16">{children}</main>
      {tally && (
        <aside
          aria-label="Tally"
          className={`@container border-t border-rule lg:border-t-0 lg:border-l ${roomy ? "px-4 py-4" : "px-5 py-6"}`}
        >
          <InSight>{tally}</InSight>
        </aside>
      )}
      {inBrief && (
        <div className="no-print sticky bottom-0 z-20 border-t border-edge bg-mat px-4 py-1.5 lg:hidden">{inBrief}</div>
      )}
    </div>
  );
}

/** So far from the edges of the window does the tally stand, px. */
const MARGIN = 24;

/**
 * Stays in sight beside the work while the page scrolls: by its top, or where it is taller than the window, by its
 * bottom, so that all of it is come to in the page's own scroll.
 */
function InSight({ children }: { children: ReactNode }) {
  const frame = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(MARGIN);
  useLayoutEffect(() => {
    const look = () => setTop(Math.min(MARGIN, innerHeight - MARGIN - (frame.current?.offsetHeight ?? 0)));
    const observer = new ResizeObserver(look);
    observer.observe(frame.current!);
    addEventListener("resize", look);
    return () => {
      observer.disconnect();
      removeEventListener("resize", look);
    };
  }, []);
  return (
    <div ref={frame} className="lg:sticky" style={{ top }}>
      {children}
    </div>
  );
}

interface PageHeadProps {
  title: ReactNode;
  /** One line under the title. */
  about?: ReactNode;
  /** The room that this page belongs to. */
  back?: { to: string; words: string };
  /** Beside the way back: a code. */
  beside?: ReactNode;
  /** Before the title: a chip. */
  mark?: ReactNode;
  actions?: ReactNode;
}

/** The head of every page: where it belongs, its title, one line about it, and what can be done. */
export function PageHead({ title, about, back, beside, mark, actions }: PageHeadProps) {
  return (
    <header className="flex flex-wrap items-start justify-between gap-3 px-6 pt-6 pb-4">
      <div className="min-w-0">
        {back && (
          <p className="text-sm">
            <Link to={back.to} className="link">
              {back.words}
            </Link>{" "}
            {beside}
          </p>
        )}
        <h1 className="flex items-center gap-3">
          {mark} <span className="min-w-0 [overflow-wrap:anywhere]">{title}</span>
        </h1>
        {about && <div className="text-muted">{about}</div>}
      </div>
      {actions && <div className="no-print flex gap-2">{actions}</div>}
    </header>
  );
}

export function TallyHead({ what }: { what: string }) {
  return (
    <>
      <h2>Tally</h2>
      <p className="text-muted">{what}</p>
    </>
  );
}

/** The figure that answers the page's question. */
export function Leading({ n, children }: { n: ReactNode; children: ReactNode }) {
  return (
    <p className="my-3 flex flex-wrap items-baseline gap-x-2">
      <strong data-testid="leading" className="text-3xl leading-9 font-semibold">
        {n}
      </strong>
      <span className="text-muted">{children}</span>
    </p>
  );
}

export function TallyRow({
  label,
  was,
  children,
}: {
  label: ReactNode;
  was?: string | null | undefined;
  children: ReactNode;
}) {
  return (
    <div className="flex items-baseline justify-between gap-3 py-[3px]">
      <dt className="min-w-0">{label}</dt>
      <dd className="text-right">
        {was && (
          <del className="mr-2 text-xs text-muted">
            <span className="sr-only">was </span>
            {was}
          </del>
        )}
        <span className="font-semibold">{children}</span>
      </dd>
    </div>
  );
}

export const TallyRule = () => <hr className="my-4 border-rule" />;

export interface Said {
  level: "error" | "warning";
  message: string;
  /** Which place it speaks of, in words. */
  where?: string | undefined;
  go?: (() => void) | undefined;
  action?: ReactNode;
}

/** What is wrong, where, and the way out. */
export function Problems({ list }: { list: readonly Said[] }) {
  return (
    <ul className="flex flex-col gap-3">
      {list.map((p, i) => (
        <li key={i} className="flex gap-2">
          <span className={p.level === "error" ? "text-short" : "text-low"}>
            {p.level === "error" ? <Triangle /> : <Diamond />}
            <span className="sr-only">{p.level === "error" ? "Error: " : "Note: "}</span>
          </span>
          <span className="min-w-0 break-words">
            {p.message}
            {p.go && (
              <button type="button" className="link ml-1 font-medium" onClick={p.go}>
                {p.where ?? "Show"}
              </button>
            )}
            {p.action}
          </span>
        </li>
      ))}
    </ul>
  );
}

export function RefusalNotice({ refusal }: { refusal: ErrorBody }) {
  return (
    <div role="alert" className="mx-6 mt-4 rounded-md border-l-4 border-short bg-hush px-4 py-3">
      <p className="font-semibold">{refusal.detail}</p>
      <ul className="mt-1 list-disc pl-5">
        {refusal.errors?.map((e) => (
          <li key={e.pointer + e.detail}>
            <span className="text-muted">{e.pointer.split("/").filter(Boolean).slice(1).join(" › ")}</span> {e.detail}
          </li>
        ))}
      </ul>
    </div>
  );
}
