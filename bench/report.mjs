/** Prints figures beside their aims, and remembers which were missed. */
export function makeReport(notYet = new Set()) {
  let missed = 0;
  return {
    note: (text) => console.log(`  ${text}`),
    /** `checks`: [figure, aim] pairs, each to be at or under its aim. */
    line(name, text, checks) {
      const aims = checks.map(([, aim]) => aim).join(" / ");
      const over = checks.some(([figure, aim]) => figure > aim);
      const state = !over ? "" : notYet.has(name) ? "  not yet" : "  MISSED";
      if (over && !notYet.has(name)) missed++;
      console.log(`  ${name}: ${text}; aim ${aims}${state}`);
    },
    get missed() {
      return missed;
    },
  };
}
