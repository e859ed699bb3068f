/** What page and core both reckon, held against the core's values (TWINS names their file). */
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { dressed } from "../src/api/dressed";
import { heightAt, laidOver, slopeAt, type Field } from "../src/view/field";

interface Twins {
  field: Omit<Field, "values"> & { values: number[] };
  places: [number, number][];
  heights: number[];
  coarse: { nx: number; ny: number; spacing: number; values: number[] };
  dressed: [string, string, string, string, number][];
}

const twins = JSON.parse(readFileSync(process.env.TWINS!, "utf8")) as Twins;
const field: Field = { ...twins.field, values: new Float32Array(twins.field.values) };

test("heights between posts are the core's", () => {
  const off = twins.places.map(([e, n], i) => Math.abs(heightAt(field, e, n) - twins.heights[i]));
  expect(off.length).toBe(1000);
  expect(Math.max(...off)).toBeLessThan(1e-4);
});

test("a grid laid over another holds the core's heights at its posts", () => {
  const { values, ...grid } = twins.coarse;
  const { east, north } = field;
  const laid = laidOver(field, { ...grid, east, north, values: new Float32Array() });
  const off = values.map((v, i) => Math.abs(v - laid.values[i]));
  expect(Math.max(...off)).toBeLessThan(1e-4);
});

test("a plane slopes and faces as it was made", () => {
  const values = new Float32Array(25).map((_, i) => 2 * (i % 5) * 10); // 2 in 1
  const plane = { nx: 5, ny: 5, spacing: 10, east: 0, north: 0, values };
  const { slope, facing } = slopeAt(plane, 20, 20);
  expect(slope).toBeCloseTo(63.435, 2);
  expect(facing).toBeCloseTo(270, 5);
});

test("strings of dressed kinds are read as they were written", () => {
  for (const [text, kind, look, tint, bright] of twins.dressed)
    expect(dressed(text)).toEqual({ kind, look, tint, bright });
});
