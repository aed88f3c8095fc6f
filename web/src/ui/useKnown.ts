import type { Component } from "@jar-count/core/contract";
import { useEffect } from "react";
import { makeStale } from "../api/queries.ts";

/**
 * Whether all components that something names were read. One that somebody wrote down since is not among them yet:
 * then they are read again.
 */
export function useKnown(named: readonly string[], components: ReadonlyMap<string, Component>): boolean {
  const missing = named.filter((id) => !components.has(id)).join();
  useEffect(() => {
    if (missing !== "") void makeStale("components");
  }, [missing]);
  return missing === "";
}
