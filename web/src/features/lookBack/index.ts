/** What was planned of packed boxes, and what came of it. */
export { LookBackPage } from "./LookBackPage.tsx";
