/**
 * How long others wait at most while something heavy is asked for, given up, or ends in the death of who does it: from
 * outside, as a reader feels it. The baseline is the same readers with nothing heavy beside them, in the same run.
 */
import { spawnSync } from "node:child_process";
import { zipSync } from "fflate";

const AIM_MS = 250;
/** What others do meanwhile: health, reading, and what packing reads. */
async function readers(url, packing, until) {
  let worst = 0;
  const faults = [];
  const ask = async (path) => {
    while (!until.over) {
      const began = performance.now();
      try {
        const answer = await fetch(url + path);
        await answer.arrayBuffer();
        if (answer.status >= 500) faults.push(`${answer.status} ${path}`);
      } catch (error) {
        faults.push(`${error.cause?.code ?? error.message} ${path}`);
      }
      worst = Math.max(worst, performance.now() - began);
    }
  };
  await Promise.all(["/api/health", "/api/workshop", "/api/orders", `/api/boxes/${packing}/packing`].map(ask));
  return { worst, faults };
}

/** Threads and readers of a server are its own: a reader is a child process. */
function killReaders(pid) {
  // None is there where none was needed since the last one died.
  const { stdout } = spawnSync("pgrep", ["-P", String(pid)], { encoding: "utf8" });
  for (const child of stdout.trim().split("\n").filter(Boolean)) process.kill(Number(child), "SIGKILL");
}

export async function others({ url, child, report }) {
  const boxes = await (await fetch(`${url}/api/boxes`)).json();
  const committed = boxes.find((b) => b.state !== "planned");
  const whole = Buffer.from(await (await fetch(`${url}/api/archive`)).arrayBuffer());
  const design = {
    format: "jar-count/design",
    version: 1,
    name: "D",
    key: [{ key: "A", name: "a", kind: "bead", alongMm: 6 }],
    parts: Array.from({ length: 20 }, (_, i) => ({
      id: `p${i}`,
      name: `P${i}`,
      makes: 1,
      steps: Array.from({ length: 900 }, (_, j) => `${j + 1}A (2A 3A) x9`).join("\n"),
    })),
  };
  const commas = zipSync({
    "workshop.json": Buffer.from("{}"),
    "ledger.csv": Buffer.alloc(190_000_000, ","),
  });
  const quotes = zipSync({ "workshop.json": Buffer.from("{}"), "ledger.csv": Buffer.alloc(100_000_000, '"') });
  const rows = Array.from({ length: 20_000 }, (_, i) => ({ code: `N${i}`, name: `thing ${i}`, kind: "none" }));
  const json = (body) => ({ headers: { "content-type": "application/json" }, body: JSON.stringify(body) });
  const zip = (body) => ({ headers: { "content-type": "application/zip" }, body });
  const heavy = {
    "a count of 20 parts of 900 rows": ["/api/count", { method: "POST", ...json({ design }) }],
    "whether that fits": ["/api/fit", { method: "POST", ...json({ design }) }],
    "the whole archive": ["/api/archive", {}],
    "a commit plan": [`/api/boxes/${boxes.at(-1).id}/commit`, {}],
    "a contents list as PDF": [`/api/boxes/${committed.id}/contents.pdf`, {}],
    "what to buy": ["/api/buy", {}],
    "an archive, looked into": ["/api/archive/plan", { method: "POST", ...zip(whole) }],
    "an archive of 190 MB of commas": ["/api/archive/plan", { method: "POST", ...zip(commas) }],
    "one of 100 MB of quotes": ["/api/archive/plan", { method: "POST", ...zip(quotes) }],
    "a table of 20,000 rows, refused": [
      "/api/imports/components",
      { method: "POST", ...json({ requestKey: crypto.randomUUID(), name: "t", rows }) },
    ],
  };
  const measure = async (work) => {
    const until = { over: false };
    const reading = readers(url, committed.id, until);
    await work();
    until.over = true;
    return reading;
  };
  const pause = (ms) => new Promise((next) => setTimeout(next, ms));
  // What was made above took longer than a connection is kept: the next one is a new one.
  await fetch(`${url}/api/health`).catch(() => {});
  const alone = await measure(() => pause(2000));
  report.note(`nothing heavy beside them: ${Math.round(alone.worst)} ms at most (the baseline)`);
  for (const [name, [path, init]] of Object.entries(heavy)) {
    const ask = (signal) =>
      fetch(url + path, { ...init, ...(signal ? { signal } : {}) }).then(
        (a) => a.arrayBuffer(),
        () => {},
      );
    const runs = await measure(() => Promise.all([ask(), ask(), ask()]));
    const gone = await measure(async () => {
      await Promise.all([5, 40, 150].map((ms) => ask(AbortSignal.timeout(ms))));
      await ask();
    });
    const dies = await measure(async () => {
      const asked = ask();
      await pause(60);
      killReaders(child.pid);
      await asked;
    });
    const say = ({ worst, faults }) => `${Math.round(worst)}${faults.length > 0 ? ` (${faults[0]})` : ""}`;
    report.line(
      `others beside ${name}`,
      `at most ${say(runs)} ms while three run, ${say(gone)} given up, ${say(dies)} where its reader dies`,
      [
        [runs.worst, AIM_MS],
        [gone.worst, AIM_MS],
        [dies.worst, AIM_MS],
      ],
    );
  }
}
