import { gunzipSync } from "node:zlib";
import { expect, test } from "vitest";
import { caching, sharing } from "../src/http/cached.ts";

/** Something that is over when it is told to be. */
function waiting<T>() {
  let end!: (value: T) => void;
  let fail!: (error: Error) => void;
  const promise = new Promise<T>((resolve, reject) => ([end, fail] = [resolve, reject]));
  return { promise, end, fail };
}
const turn = () => new Promise((resolve) => setImmediate(resolve));

test("who asks while a question is on its way shares the next one, never that one", async () => {
  const asked: ReturnType<typeof waiting<number>>[] = [];
  const ask = sharing(() => {
    const one = waiting<number>();
    asked.push(one);
    return one.promise;
  });
  const first = ask("tag");
  const [second, third] = [ask("tag"), ask("tag")];
  expect(asked).toHaveLength(1);
  asked[0]!.end(1);
  expect(await first).toBe(1);
  await turn();
  expect(asked).toHaveLength(2);
  asked[1]!.end(2);
  expect(await Promise.all([second, third])).toEqual([2, 2]);
  const later = ask("tag");
  expect(asked).toHaveLength(3);
  asked[2]!.end(3);
  expect(await later).toBe(3);
});

test("a question that fails fails for who asked it, and the next is asked anew", async () => {
  let turns = 0;
  const ask = sharing(async () => {
    if (++turns === 1) throw new Error("away");
    return turns;
  });
  const first = ask("tag");
  const second = ask("tag");
  await expect(first).rejects.toThrow("away");
  expect(await second).toBe(2);
});

test("an answer is made once for all who ask, and cached for as long as its tag is the same", async () => {
  let tag = "1";
  let made = 0;
  const cached = caching(
    async () => tag,
    async (key) => `${key} ${++made}`,
  );
  const many = await Promise.all(Array.from({ length: 30 }, () => cached("list")));
  expect(made).toBe(1);
  expect(many.every((h) => h.plain.toString() === "list 1")).toBe(true);
  expect(gunzipSync(many[0]!.packed).toString()).toBe("list 1");
  tag = "2";
  expect((await cached("list")).plain.toString()).toBe("list 2");
  expect((await cached("other")).plain.toString()).toBe("other 3");
  expect((await cached("list")).plain.toString()).toBe("list 2");
});

test("while one is being made, a newer one waits for it, and is not older than its question", async () => {
  let tag = "1";
  const making: ReturnType<typeof waiting<string>>[] = [];
  const cached = caching(
    async () => tag,
    () => {
      const one = waiting<string>();
      making.push(one);
      return one.promise;
    },
  );
  const first = cached("list");
  await turn();
  tag = "2";
  const second = cached("list");
  await turn();
  expect(making).toHaveLength(1);
  making[0]!.end("old");
  expect((await first).plain.toString()).toBe("old");
  await turn();
  await turn();
  expect(making).toHaveLength(2);
  making[1]!.end("new");
  expect((await second).plain.toString()).toBe("new");
});

test("one that could not be made is not cached", async () => {
  let turns = 0;
  const cached = caching(
    async () => "1",
    async () => {
      if (++turns === 1) throw new Error("away");
      return "there";
    },
  );
  await expect(cached("list")).rejects.toThrow("away");
  expect((await cached("list")).plain.toString()).toBe("there");
});

test("the oldest gives way where too many are cached", async () => {
  let made = 0;
  const cached = caching(
    async () => "1",
    async (key) => `${key}${++made}`,
    2,
  );
  for (const key of ["a", "b", "c"]) await cached(key);
  expect(made).toBe(3);
  expect((await cached("c")).plain.toString()).toBe("c3");
  expect((await cached("a")).plain.toString()).toBe("a4");
});
