import "@fontsource/sometype-mono/400.css";
import "@fontsource/sometype-mono/700.css";
import { App } from "./app/App.tsx";
import { start } from "./start.tsx";

start(<App />);
