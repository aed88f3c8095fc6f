import "@fontsource-variable/hanken-grotesk";
import "@fontsource/young-serif";
import { type ReactNode, StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { followTheme } from "./settings/index.ts";
import "./api/randomId.ts";
import "./index.css";

/** Shows a page: its theme, its fonts, and what it is made of. */
export function start(page: ReactNode): void {
  followTheme();
  createRoot(document.getElementById("root")!).render(<StrictMode>{page}</StrictMode>);
}
