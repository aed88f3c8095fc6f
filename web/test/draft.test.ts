import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { type ErrorBody, PROBLEMS, type ProblemCode, problemType } from "@jar-count/core/contract";
import { Refused, Unreachable } from "../src/api/client.ts";
import { differences, isChanged, makeDraft, type Save } from "../src/draft/draft.ts";
import { keptDrafts, throwAway, turnInto } from "../src/draft/kept.ts";
import { Store } from "./page.ts";

let store: Store;
beforeEach(() => {
  store = new Store();
  vi.stubGlobal("localStorage", store);
  vi.useFakeTimers({ toFake: ["Date"], now: 1000 });
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

interface Doc {
  name: string;
  rows: string[];
}
const DOC: Doc = { name: "Collar", rows: ["3A"] };
type Send = (save: Save<Doc>) => Promise<number>;
const draft = (send: Send = async ({ version }) => version + 1, version = 4, doc = DOC) =>
  makeDraft<Doc>({
    name: "design/1",
    doc,
    version,
    send,
    readCurrent: (current) => current as { doc: Doc; version: number } | null,
  });
const refusal = (code: ProblemCode, detail: string, more: Partial<ErrorBody> = {}) =>
  new Refused({ type: problemType(code), code, ...PROBLEMS[code], detail, ...more });
const conflict = (current: unknown) => refusal("stale", "changed elsewhere", { current });

/** A server as far as drafts use it: a version that grows, and request keys that happen once. */
class Server {
  version = 4;
  doc = DOC;
  /** Bodies that came, in order. */
  readonly came: string[] = [];
  /** Answers get lost on the way back. */
  deaf = false;
  private readonly done = new Map<string, number>();
  send: Send = async ({ requestKey, doc, version }) => {
    this.came.push(doc.name);
    const before = this.done.get(requestKey);
    if (before === undefined) {
      if (version !== this.version) throw conflict({ doc: this.doc, version: this.version });
      [this.version, this.doc] = [version + 1, doc];
      this.done.set(requestKey, this.version);
    }
    if (this.deaf) throw new Unreachable();
    return before ?? this.version;
  };
}

describe("whether a draft changed", () => {
  const changed = (doc: unknown, base: unknown) => isChanged({ doc, base });
  test("is told by what it holds, not by its objects; a field without a value is none", () => {
    const doc = { name: "a", rows: ["3A", "2B"], of: { x: 1, y: null } };
    expect(changed(doc, structuredClone(doc))).toBe(false);
    expect(changed({ ...doc, extra: undefined }, doc)).toBe(false);
    expect(changed(doc, { ...doc, extra: undefined })).toBe(false);
    expect(changed({ ...doc, of: { x: 1, y: 0 } }, doc)).toBe(true);
    expect(changed({ ...doc, of: { x: 1 } }, doc)).toBe(true);
    expect(changed({ ...doc, rows: ["3A"] }, doc)).toBe(true);
    expect(changed(doc, { ...doc, rows: ["3A"] })).toBe(true);
    expect(changed({ ...doc, rows: ["2B", "3A"] }, doc)).toBe(true);
    expect(changed({ rows: [] }, { rows: {} })).toBe(true);
    expect(changed({ extra: null }, {})).toBe(true);
  });
});

describe("a draft", () => {
  test("is kept in the browser until the server has it, and survives a reload", async () => {
    const one = draft();
    one.getState().edit((d) => ({ ...d, name: "Collar, wider" }));
    expect(isChanged(one.getState())).toBe(true);
    const reloaded = draft();
    expect(reloaded.getState().doc.name).toBe("Collar, wider");
    expect(await reloaded.getState().save()).toBe(true);
    expect(reloaded.getState()).toMatchObject({ version: 5, saving: "idle", base: { name: "Collar, wider" } });
    expect(keptDrafts("design")).toEqual([]);
    expect(isChanged(draft(undefined, 5, reloaded.getState().doc).getState())).toBe(false);
  });
  test("typed letters in one place are undone together, what came later apart", () => {
    const one = draft();
    const { edit } = one.getState();
    const history = () => one.temporal.getState();
    for (const [i, text] of ["3A ", "3A 2", "3A 2B"].entries()) {
      vi.setSystemTime(1000 + i * 100);
      edit((d) => ({ ...d, rows: [text] }), "rows");
    }
    vi.setSystemTime(5000);
    edit((d) => ({ ...d, rows: ["3A 2B s"] }), "rows");
    history().undo();
    expect(one.getState().doc.rows).toEqual(["3A 2B"]);
    history().undo();
    expect(one.getState().doc).toEqual(DOC);
    history().redo();
    expect(one.getState().doc.rows).toEqual(["3A 2B"]);
  });
  test("somebody saved first: nothing is overwritten, and either of the two can go on", async () => {
    const theirs = { doc: { ...DOC, name: "Theirs" }, version: 7 };
    let refuse = true;
    const sent: number[] = [];
    const one = draft(async ({ version }) => {
      sent.push(version);
      if (refuse) throw conflict(theirs);
      return version + 1;
    });
    one.getState().edit((d) => ({ ...d, name: "Mine" }));
    expect(await one.getState().save()).toBe(false);
    expect(one.getState()).toMatchObject({ doc: { name: "Mine" }, theirs });
    refuse = false;
    expect(await one.getState().keepMine()).toBe(true);
    expect(sent).toEqual([4, 7]);
    expect(one.getState()).toMatchObject({ version: 8, theirs: null, base: { name: "Mine" } });

    const two = draft(async () => {
      throw conflict(theirs);
    });
    two.getState().edit((d) => ({ ...d, name: "Mine" }));
    await two.getState().save();
    two.getState().takeTheirs();
    expect(two.getState()).toMatchObject({ doc: { name: "Theirs" }, version: 7, theirs: null });
    expect(isChanged(two.getState())).toBe(false);
  });
  test("a draft of an older version, opened after somebody saved, is shown beside theirs", () => {
    draft()
      .getState()
      .edit((d) => ({ ...d, name: "Mine" }));
    const later = draft(undefined, 6, { ...DOC, name: "Theirs" });
    expect(later.getState()).toMatchObject({
      doc: { name: "Mine" },
      version: 4,
      theirs: { doc: { name: "Theirs" }, version: 6 },
    });
  });
  test("a newer state is followed at once where nothing was typed, and told of where something was", () => {
    const one = draft();
    one.getState().follow({ ...DOC, name: "Newer" }, 5);
    expect(one.getState()).toMatchObject({ doc: { name: "Newer" }, version: 5, theirs: null });
    one.getState().follow({ ...DOC, name: "Older" }, 3);
    expect(one.getState().doc.name).toBe("Newer");
    one.getState().edit((d) => ({ ...d, name: "Mine" }));
    one.getState().follow({ ...DOC, name: "Newest" }, 6);
    expect(one.getState()).toMatchObject({ doc: { name: "Mine" }, theirs: { version: 6 } });
  });
  test("a lost connection and a refusal lose nothing; what is typed while it is being saved stays", async () => {
    const away = draft(async () => {
      throw new Unreachable();
    });
    away.getState().edit((d) => ({ ...d, name: "Mine" }));
    expect(await away.getState().save()).toBe(false);
    expect(away.getState()).toMatchObject({ saving: "away", doc: { name: "Mine" } });

    const refused = draft(async () => {
      throw refusal("invalid", "Give it a name.");
    });
    refused.getState().edit((d) => ({ ...d, name: "" }));
    await refused.getState().save();
    expect(refused.getState()).toMatchObject({ saving: "refused", refusal: { detail: "Give it a name." } });
    refused.getState().edit((d) => ({ ...d, name: "x" }));
    expect(refused.getState()).toMatchObject({ refusal: null, saving: "idle" });

    let answer!: (version: number) => void;
    const slow = draft(() => new Promise((resolve) => (answer = resolve)));
    slow.getState().edit((d) => ({ ...d, name: "First" }));
    const saving = slow.getState().save();
    slow.getState().edit((d) => ({ ...d, name: "Second" }));
    expect(await slow.getState().save()).toBe(false); // one at a time
    answer(5);
    await saving;
    expect(slow.getState()).toMatchObject({ doc: { name: "Second" }, base: { name: "First" }, version: 5 });
    expect(isChanged(slow.getState())).toBe(true);
  });
  test("a save that got through but whose answer was lost is not taken for somebody else's", async () => {
    const server = new Server();
    const one = draft(server.send);
    one.getState().edit((d) => ({ ...d, name: "Mine" }));
    server.deaf = true;
    expect(await one.getState().save()).toBe(false);
    expect(server.version).toBe(5);
    server.deaf = false;
    expect(await one.getState().save()).toBe(true);
    expect(one.getState()).toMatchObject({ version: 5, theirs: null, pending: null, base: { name: "Mine" } });
    expect(server.came).toEqual(["Mine", "Mine"]);
  });
  test("nor after typing on, a reload, or reading the newer state first; what came since follows", async () => {
    const server = new Server();
    const one = draft(server.send);
    one.getState().edit((d) => ({ ...d, name: "Mine" }));
    server.deaf = true;
    await one.getState().save();
    one.getState().edit((d) => ({ ...d, name: "Mine, wider" }));
    server.deaf = false;

    const reloaded = draft(server.send, server.version, server.doc);
    expect(reloaded.getState().theirs).toBeNull();
    await vi.waitFor(() => expect(reloaded.getState()).toMatchObject({ saving: "idle", version: 6 }));
    expect(server).toMatchObject({ version: 6, doc: { name: "Mine, wider" } });

    one.getState().follow(server.doc, server.version);
    await vi.waitFor(() => expect(one.getState().pending).toBeNull());
    // The first page now saves over what the reloaded one saved: that is somebody else's change to it.
    expect(one.getState().theirs).toMatchObject({ version: 6 });
  });
  test("where the save did not get through and somebody else's did, theirs is shown", async () => {
    const server = new Server();
    const one = draft(async () => {
      throw new Unreachable();
    });
    one.getState().edit((d) => ({ ...d, name: "Mine" }));
    await one.getState().save();
    [server.version, server.doc] = [5, { ...DOC, name: "Theirs" }];
    const reloaded = draft(server.send, 5, server.doc);
    await vi.waitFor(() => expect(reloaded.getState().theirs).toMatchObject({ doc: { name: "Theirs" }, version: 5 }));
    expect(reloaded.getState()).toMatchObject({ doc: { name: "Mine" }, pending: null });
  });
  const alive = "jar-count/page/";
  /** Another tab, or the same one loaded anew. */
  const open = (page: string) => {
    turnInto(page);
    store.setItem(alive + page, String(Date.now()));
  };
  test("what another tab saves or throws away leaves this tab's draft alone, over a reload too", async () => {
    const server = new Server();
    open("one");
    draft(server.send)
      .getState()
      .edit((d) => ({ ...d, name: "Mine" }));
    open("two");
    const two = draft(server.send);
    expect(two.getState().doc).toEqual(DOC);
    two.getState().edit((d) => ({ ...d, name: "Theirs" }));
    expect(await two.getState().save()).toBe(true);
    throwAway("design/1");
    // The first is loaded anew: what was typed in it is there, beside what was saved.
    store.removeItem(`${alive}one`);
    open("one again");
    const again = draft(server.send, server.version, server.doc);
    expect(again.getState()).toMatchObject({ doc: { name: "Mine" }, theirs: { doc: { name: "Theirs" }, version: 5 } });
    // It is its own from here on: nobody else takes it up.
    open("three");
    expect(draft(server.send, server.version, server.doc).getState().doc.name).toBe("Theirs");
    expect(keptDrafts("design")).toEqual([]);
  });
  test("a draft of a tab that ended without a word is taken up after a long silence; so is one of no tab", () => {
    open("one");
    draft()
      .getState()
      .edit((d) => ({ ...d, name: "Mine" }));
    open("two");
    expect(draft().getState().doc).toEqual(DOC);
    vi.setSystemTime(Date.now() + 200_000);
    expect(draft().getState().doc.name).toBe("Mine");
    store.setItem("jar-count/draft/design/2", JSON.stringify({ doc: DOC, base: DOC, version: 4 }));
    const ids = keptDrafts("design").map((d) => d.id);
    expect(ids.sort()).toEqual(["1", "2"]);
  });
  test("a browser without room keeps the draft in memory", () => {
    store.full = true;
    const one = draft();
    one.getState().edit((d) => ({ ...d, name: "Mine" }));
    expect(one.getState().doc.name).toBe("Mine");
  });
  test("what was kept and can't be read is left alone", () => {
    store.setItem("jar-count/draft/design/1", "{ broken");
    expect(draft().getState().doc).toEqual(DOC);
  });
});

test("where two versions differ is told place by place, by names and not by numbers", () => {
  const mine = { name: "A", key: [{ key: "s", name: "seed", alongMm: 1.4 }], parts: [{ name: "Band", steps: "3A" }] };
  const theirs = {
    name: "A",
    key: [{ key: "s", name: "seed", alongMm: 1.5 }],
    parts: [{ name: "Band", steps: "4A" }, { name: "Drop" }],
  };
  expect(differences(mine, theirs)).toEqual([
    { path: "key › seed › alongMm", mine: "1.4", theirs: "1.5" },
    { path: "parts › Band › steps", mine: "3A", theirs: "4A" },
    { path: "parts › Drop", mine: "none", theirs: '{"name":"Drop"}' },
  ]);
  expect(differences(mine, mine)).toEqual([]);
});
