import "@fontsource-variable/hanken-grotesk";
import "@fontsource/sometype-mono/400.css";
import "@fontsource/sometype-mono/700.css";
import "@fontsource/young-serif";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./app/App.tsx";
import "./index.css";

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <App />
  </StrictMode>,
);
