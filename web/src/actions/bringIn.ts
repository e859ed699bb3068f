import * as calls from "../api/calls";
import type { RawLayout } from "../api/shapes";
import { freshId } from "../document/ids";
import { at, type Path, put } from "../document/path";
import { complete, modelOf } from "../document/schema";
import { edit } from "../state/edits";
import { openScene } from "../state/opening";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

export const RASTERS = ".png,.tif,.tiff,.jpg,.jpeg,.webp,.asc,.raw,.r16,.r32,.bin";

const stem = (name: string) =>
  name
    .replace(/\.[^.]+$/, "")
    .replace(/[_-]+/g, " ")
    .slice(0, 60) || "Heightmap";

/**
 * Puts a raster file at a path of the document, or adds a landform (or a mask, when Marks is open)
 * for it. Raw posts are asked for their layout first.
 */
export async function dropRaster(file: File, path?: Path, raw?: RawLayout): Promise<void> {
  const { doc, open, chosen } = get();
  if (!doc) return;
  try {
    if (!raw && /\.(raw|r16|r32|bin)$/i.test(file.name)) {
      const guess = await calls.guessRaw(file);
      set({
        raw: {
          name: file.name,
          bytes: file.size,
          guess,
          take: (layout) => void dropRaster(file, path, layout),
        },
      });
      return;
    }
    const info = await calls.newRaster(file, raw);
    if (info.filled)
      set({
        told:
          `“${file.name}”: ${info.filled.toLocaleString("en")} posts without data ` +
          "were filled from around them.",
      });
    const metres =
      info.dtype === "float32"
        ? { lowest_m: +info.lowest.toFixed(3), highest_m: +info.highest.toFixed(3) }
        : {};
    const sized = info.spacing_m
      ? {
          area: "own" as const,
          width_m: +(info.spacing_m * (info.columns - 1)).toFixed(2),
          depth_m: +(info.spacing_m * (info.rows - 1)).toFixed(2),
          east_m: doc.plot.width_m / 2,
          north_m: doc.plot.depth_m / 2,
        }
      : {};
    if (path) {
      await edit(`${stem(file.name)}: new picture`, (d) => {
        put(d, path, info.raster);
        const e = at<{ kind?: string }>(d, path.slice(0, -1));
        if (e.kind === "heightmap") Object.assign(e, metres, sized, { ready: "" });
      });
      return;
    }
    if (open === "marks") {
      const id = freshId("mask");
      await edit(`Mask ${stem(file.name)}`, (d) =>
        d.marks.push(
          complete(get().catalogue!.scene, get().catalogue!.scene.$defs.Mask, {
            id,
            name: stem(file.name),
            kind: "mask",
            on: true,
            raster: info.raster,
          }),
        ),
      );
      set({ chosen: id });
      return;
    }
    const old = doc.land.findIndex(
      (l) => l.id === chosen && l.kind === "heightmap" && !(l as { raster?: string }).raster,
    );
    const id = freshId("heightmap");
    if (old >= 0) {
      await dropRaster(file, ["land", old, "raster"], raw);
      return;
    }
    const top = Math.round(Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.14);
    const schema = get().catalogue!.scene;
    const made = complete(schema, modelOf(schema, "land", "heightmap"), {
      id,
      name: stem(file.name),
      kind: "heightmap",
      on: true,
      raster: info.raster,
      lowest_m: 0,
      highest_m: top,
      ...metres,
      ...sized,
    });
    await edit(`Heightmap ${stem(file.name)}`, (d) => d.land.push(made));
    set({ open: "land", chosen: id });
  } catch (e) {
    tell(e);
  }
}

const SCENES = /\.(zip|glb|usdz|usdc|usda|usd)$/i;

/** A scene of its own from a file; `measured` tells it from what stands in the file alone. */
export async function bringInScene(file: File, measured = false): Promise<void> {
  try {
    const made = await calls.readSceneFile(file, measured);
    await openScene(made.scene.id);
    set({ broughtIn: { file, ...made }, dialog: "brought-in" });
  } catch (e) {
    tell(e);
  }
}

export async function dropFile(file: File): Promise<void> {
  if (SCENES.test(file.name)) return bringInScene(file);
  if (!/\.json$/i.test(file.name)) return dropRaster(file);
  try {
    const document = JSON.parse(await file.text());
    const made = await calls.newScene({ document });
    await openScene(made.id);
  } catch (e) {
    tell(e instanceof SyntaxError ? new Error(`“${file.name}” is not a scene: ${e.message}`) : e);
  }
}
