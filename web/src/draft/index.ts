/** Documents being edited: kept in the browser until the server has them, undone, compared, saved once. */
export { type Draft, type DraftStore, isChanged, makeDraft, type Save } from "./draft.ts";
export { keepDraft, type KeptDraft, keptDrafts, throwAway, watchPage } from "./kept.ts";
export { DraftNotices, SaveState } from "./DraftNotices.tsx";
export { UndoButtons } from "./UndoButtons.tsx";
