import "@fontsource/sometype-mono/400.css";
import "@fontsource/sometype-mono/700.css";
import { plainMessage } from "@jar-count/core/contract";
import { config } from "zod";
import { App } from "./app/App.tsx";
import { watchPage } from "./draft/index.ts";
import { start } from "./start.tsx";

// The page may not make code out of text (content security policy), so schemas are read without doing so.
config({ jitless: true, customError: plainMessage });

watchPage();
start(<App />);
