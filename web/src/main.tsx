import "@fontsource-variable/hanken-grotesk";
import "@fontsource/sometype-mono/400.css";
import "@fontsource/sometype-mono/700.css";
import "@fontsource/young-serif";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { plainMessage } from "@jar-count/core/contract";
import { config } from "zod";
import { App } from "./app/App.tsx";
import { followTheme } from "./settings/index.ts";
import "./index.css";

// The page may not make code out of text (content security policy), so schemas are read without doing so.
config({ jitless: true, customError: plainMessage });

followTheme();

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
