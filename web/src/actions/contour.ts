import { freshId } from "../document/ids";
import { complete } from "../document/schema";
import { edit } from "../state/edits";
import { get, set } from "../state/store";
import { doWork } from "./work";

/** The contour through the pinned place becomes a line. */
export async function contourHere() {
  const { place } = get();
  if (!place) return;
  const done = await doWork("contour as a line", { east: place.east, north: place.north });
  if (done?.label) set({ open: "marks" });
}

export function addContourPoint([east, north]: [number, number]) {
  const last = get().drawing[get().drawing.length - 1];
  if (last && Math.hypot(last[0] - east, last[1] - north) < 1e-3) return;
  set((s) => ({ drawing: [...s.drawing, [+east.toFixed(2), +north.toFixed(2)]] }));
}

/**
 * The line drawn so far becomes a contour of the chosen landform, one step above the last. Near its
 * beginning it is closed.
 */
export function endContour() {
  const { drawing, doc, chosen, tool } = get();
  const schema = get().catalogue!.scene;
  if (!doc) return;
  if (tool === "line" || tool === "area") {
    set({ drawing: [] });
    if (drawing.length < (tool === "area" ? 3 : 2)) return;
    const id = freshId(tool);
    const name =
      `${tool === "line" ? "Line" : "Area"} ` +
      `${doc.marks.filter((m) => m.kind === tool).length + 1}`;
    void edit(`${name} drawn`, (d) =>
      d.marks.push(
        complete(schema, schema.$defs[tool === "line" ? "Line" : "Area"], {
          id,
          name,
          kind: tool,
          on: true,
          points: drawing,
        }),
      ),
    );
    set({ chosen: id, tool: null, open: "marks" });
    return;
  }
  if (tool !== "contour") return;
  const index = doc.land.findIndex((l) => l.id === chosen && l.kind === "contours");
  set({ drawing: [] });
  if (index < 0 || drawing.length < 2) return;
  const first = drawing[0];
  const last = drawing[drawing.length - 1];
  const reach = Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.012;
  const points =
    drawing.length > 3 && Math.hypot(first[0] - last[0], first[1] - last[1]) < reach
      ? [...drawing.slice(0, -1), first]
      : drawing;
  void edit(
    `${doc.land[index].name}: line ` +
      `${((doc.land[index] as { lines?: unknown[] }).lines?.length ?? 0) + 1}`,
    (d) => {
      const e = d.land[index] as unknown as {
        lines: { height_m: number; points: number[][] }[];
        step_m: number;
      };
      e.lines.push({
        height_m: e.lines.length ? e.lines[e.lines.length - 1].height_m + e.step_m : 0,
        points,
      });
    },
  );
}
