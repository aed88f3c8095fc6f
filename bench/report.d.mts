/** Figures beside their aims; see report.mjs. */
export interface Report {
  note(text: string): void;
  line(name: string, text: string, checks: readonly (readonly [figure: number, aim: number])[]): void;
  readonly missed: number;
}
export function makeReport(notYet?: ReadonlySet<string>): Report;
