/** Kept of proved backups: the newest of each of so many days, weeks and months that have any. */
const DAYS = 7;
const WEEKS = 5;
const MONTHS = 12;
/** What was made before something was changed for good is kept so many days, whatever came after it. */
const BEFORE_DAYS = 35;
const DAY_MS = 86_400_000;

export interface Kept {
  file: string;
  madeAt: Date;
  proved: boolean;
  /** Made before a migration or a restore. */
  before: boolean;
}

/** The Monday of a day's week, UTC (ISO 8601). */
const weekOf = (d: Date) => {
  const monday = new Date(d.getTime() - ((d.getUTCDay() + 6) % 7) * DAY_MS);
  return monday.toISOString().slice(0, 10);
};
const dayOf = (d: Date) => d.toISOString().slice(0, 10);
const monthOf = (d: Date) => d.toISOString().slice(0, 7);

/** Which backups may go: those that no rule keeps. What is not proved is kept for a week and stands for nothing. */
export function outdated(backups: readonly Kept[], now: Date): string[] {
  const newestFirst = [...backups].sort((a, b) => b.madeAt.getTime() - a.madeAt.getTime());
  const keep = new Set<string>();
  const rules: [many: number, of: (d: Date) => string][] = [
    [DAYS, dayOf],
    [WEEKS, weekOf],
    [MONTHS, monthOf],
  ];
  for (const [many, of] of rules) {
    const seen = new Set<string>();
    for (const { file, madeAt, proved } of newestFirst) {
      if (!proved || seen.has(of(madeAt)) || seen.size === many) continue;
      seen.add(of(madeAt));
      keep.add(file);
    }
  }
  for (const { file, madeAt, proved, before } of newestFirst) {
    const days = (now.getTime() - madeAt.getTime()) / DAY_MS;
    if ((before && days < BEFORE_DAYS) || (!proved && days < DAYS)) keep.add(file);
  }
  return backups.map((b) => b.file).filter((file) => !keep.has(file));
}
