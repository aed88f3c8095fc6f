import { useWindowVirtualizer, type Virtualizer } from "@tanstack/react-virtual";
import { type RefObject, useLayoutEffect, useRef, useState } from "react";

interface Asked {
  count: number;
  /** How tall a row is, or is thought to be until it is measured, px. */
  estimateSize: (index: number) => number;
  overscan?: number;
  getItemKey?: (index: number) => string;
}

/**
 * A list of thousands in the page's own scroll: only the rows in sight are drawn.
 * @returns the list's frame, as tall as all rows together, and where a row stands in it, px from its top
 */
export function useWindowRows<Frame extends HTMLElement>(
  asked: Asked,
): {
  frame: RefObject<Frame | null>;
  virtual: Virtualizer<Window, Element>;
  topOf: (item: { start: number }) => number;
} {
  const frame = useRef<Frame>(null);
  const [margin, setMargin] = useState(0);
  useLayoutEffect(() => {
    // Whatever stands above the list may grow by itself.
    const look = () => frame.current && setMargin(Math.round(frame.current.getBoundingClientRect().top + scrollY));
    look();
    const observer = new ResizeObserver(look);
    observer.observe(document.body);
    return () => observer.disconnect();
  }, []);
  const virtual = useWindowVirtualizer({ ...asked, scrollMargin: margin });
  return { frame, virtual, topOf: ({ start }) => start - margin };
}
