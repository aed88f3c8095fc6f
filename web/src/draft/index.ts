/** Documents being edited: kept in the browser until the server has them, undone, compared, saved once. */
export {
  type Draft,
  type DraftStore,
  isChanged,
  keepDraft,
  type KeptDraft,
  keptDrafts,
  makeDraft,
  type Save,
  throwAway,
} from "./draft.ts";
export { DraftNotices, SaveState } from "./DraftNotices.tsx";
export { UndoButtons } from "./UndoButtons.tsx";
