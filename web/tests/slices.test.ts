import { expect, test } from "vitest";
import { firsts, ofScene } from "../src/state/firsts";

test("each value of the page belongs to one slice, and opening a scene keeps the set-up", () => {
  const all = firsts();
  const anew = ofScene();
  for (const kept of ["pose", "open", "cabinet", "catalogue", "dialog", "insetWide"])
    expect(Object.keys(anew)).not.toContain(kept);
  for (const name of ["doc", "chosen", "hidden", "tool", "drawing", "stills", "compared"])
    expect(Object.keys(anew)).toContain(name);
  expect(Object.keys(all).length).toBeGreaterThan(50);
});

test("two scenes do not share what is hidden or chosen together", () => {
  expect(ofScene().hidden).not.toBe(ofScene().hidden);
  expect(ofScene().several).not.toBe(ofScene().several);
});
