import { expect, test } from "vitest";
import type { Prop, Scene } from "../src/api/shapes";
import { dressed } from "../src/api/dressed";
import { labelled, lightOnly, same } from "../src/document/change";
import { lasting, shown, shownBytes } from "../src/document/numbers";
import { at, put } from "../src/document/path";
import { counts } from "../src/settings/counts";

const scene = () =>
  ({
    name: "One",
    land: [{ id: "a", height_m: 3 }],
    light: { haze: 1 },
    shots: [],
  }) as never as Scene;

test("a change makes another document and leaves the first as it was", () => {
  const before = scene();
  const after = labelled(before, (d) => put(d, ["land", 0, "height_m"], 5));
  expect(at(before, ["land", 0, "height_m"])).toBe(3);
  expect(at(after, ["land", 0, "height_m"])).toBe(5);
  expect(same(before, after)).toBe(false);
  expect(lightOnly(before, after)).toBe(false);
  expect(at(after, ["water", 2, "level_m"])).toBeUndefined();
});

test("light, shots and grade alone ask for no build", () => {
  const before = scene();
  const after = labelled(before, (d) => put(d, ["light", "haze"], 2));
  expect(lightOnly(before, after)).toBe(true);
});

test("numbers are shown as a person reads them", () => {
  expect([0.5, 12, 12.34, 123.4, 12345].map(shown)).toEqual(["0.5", "12", "12.3", "123", "12,345"]);
  expect(shownBytes(3_500_000)).toBe("3.5 MB");
  expect([0.2, 80, 120, 7200].map(lasting)).toEqual(["1 s", "80 s", "2 min", "2 h"]);
});

test("a field counts while what it depends on says so", () => {
  const prop = { sow: { only: { kind: ["a", "b"] }, given: "line" } } as Prop;
  expect(counts(prop, { kind: "a", line: "x" })).toBe(true);
  expect(counts(prop, { kind: "c", line: "x" })).toBe(false);
  expect(counts(prop, { kind: "a", line: "" })).toBe(false);
  expect(counts({}, undefined)).toBe(true);
});

test("a dressed kind's string says kind, look, tint and lightness", () => {
  expect(dressed("birch~autumn~ffddaa~120")).toEqual({
    kind: "birch",
    look: "autumn",
    tint: "#ffddaa",
    bright: 120,
  });
  expect(dressed("birch")).toEqual({ kind: "birch", look: "summer", tint: "#ffffff", bright: 100 });
});
