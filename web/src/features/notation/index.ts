export { examplesOf } from "./examples.ts";
export { HelpPage } from "./HelpPage.tsx";
export { LESSONS, type Lesson, lessonOf } from "./lessons.ts";
export { NotationCard } from "./NotationCard.tsx";
