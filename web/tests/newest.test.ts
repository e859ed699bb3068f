import { expect, test } from "vitest";
import { Newest } from "../src/api/newest";

const later = () => new Promise((r) => setTimeout(r, 1));

test("only the newest of what was wished meanwhile is done", async () => {
  const done: number[] = [];
  const newest = new Newest<number>(async (wish) => {
    await later();
    done.push(wish);
  });
  for (const wish of [1, 2, 3, 4]) newest.wish(wish);
  expect(newest.working).toBe(true);
  expect(newest.overtaken).toBe(true);
  while (newest.working) await later();
  expect(done).toEqual([1, 4]);
});

test("what was given up comes back unless there is something newer", async () => {
  const done: string[] = [];
  const newest = new Newest<string>(async (wish) => {
    await later();
    done.push(wish);
    if (wish === "a" && done.length === 1) newest.again("a");
    if (wish === "b") newest.again("old");
  });
  newest.wish("a");
  while (newest.working) await later();
  expect(done).toEqual(["a", "a"]);
  newest.wish("b");
  newest.wish("c");
  while (newest.working) await later();
  expect(done).toEqual(["a", "a", "b", "c"]);
  newest.wish("d");
  newest.wish("e");
  newest.forget();
  while (newest.working) await later();
  expect(done.at(-1)).toBe("d");
});
