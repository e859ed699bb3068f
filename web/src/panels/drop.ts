/** Files dropped on the page or chosen: heightmaps, masks, scenes. */
import { ask, type RasterInfo, type SceneState } from "../api/client";
import { edit, freshId, get, openScene, set, tell } from "../state";
import { at, put, type Path } from "./settings";

const stem = (name: string) => name.replace(/\.[^.]+$/, "").replace(/[_-]+/g, " ").slice(0, 60) || "Heightmap";

async function upload(file: File): Promise<RasterInfo> {
  return ask<RasterInfo>("POST", "/api/rasters", file, { "X-Name": encodeURIComponent(file.name).slice(0, 180), "Content-Type": "application/octet-stream" });
}

/** Puts a raster file at a path of the document, or adds a landform (or a mask, when Marks is open) for it. */
export async function dropRaster(file: File, path?: Path): Promise<void> {
  const { doc, open, chosen } = get();
  if (!doc) return;
  try {
    const info = await upload(file);
    const metres = info.dtype === "float32" ? { lowest_m: +info.lowest.toFixed(3), highest_m: +info.highest.toFixed(3) } : null;
    if (path) {
      await edit(`${stem(file.name)}: new picture`, (d) => { put(d, path, info.raster); if (metres && at(d, path.slice(0, -1)).kind === "heightmap") Object.assign(at(d, path.slice(0, -1)), metres); });
      return;
    }
    if (open === "marks") {
      const id = freshId("mask");
      await edit(`Mask ${stem(file.name)}`, (d) => d.marks.push({ id, name: stem(file.name), kind: "mask", on: true, raster: info.raster }));
      set({ chosen: id });
      return;
    }
    const old = doc.land.findIndex((l) => l.id === chosen && l.kind === "heightmap" && !(l as { raster?: string }).raster), id = freshId("heightmap");
    if (old >= 0) { await dropRaster(file, ["land", old, "raster"]); return; }
    const top = Math.round(Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.14);
    await edit(`Heightmap ${stem(file.name)}`, (d) => d.land.push({ id, name: stem(file.name), kind: "heightmap", on: true, raster: info.raster, ...(metres ?? { lowest_m: 0, highest_m: top }), combine: "add", share: 50, where: [] }));
    set({ open: "land", chosen: id });
  } catch (e) { tell(e); }
}

export async function dropFile(file: File): Promise<void> {
  if (!/\.json$/i.test(file.name)) return dropRaster(file);
  try {
    const document = JSON.parse(await file.text());
    const made = await ask<SceneState>("POST", "/api/scenes", { document });
    await openScene(made.id);
  } catch (e) {
    tell(e instanceof SyntaxError ? new Error(`“${file.name}” is not a scene: ${e.message}`) : e);
  }
}
