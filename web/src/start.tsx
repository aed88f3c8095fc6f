import "@fontsource-variable/hanken-grotesk";
import "@fontsource/young-serif";
import { plainMessage } from "@jar-count/core/contract";
import { type ReactNode, StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { config } from "zod";
import { followTheme } from "./settings/index.ts";
import "./index.css";

/** Shows a page: its theme, its fonts, and what it is made of. */
export function start(page: ReactNode): void {
  // The page may not make code out of text (content security policy), so schemas are read without doing so.
  config({ jitless: true, customError: plainMessage });
  followTheme();
  createRoot(document.getElementById("root")!).render(<StrictMode>{page}</StrictMode>);
}
