/** Pictures of whole grounds, as layers of one texture, each laid over the plot or one landform. */
import type * as THREE from "three";
import * as calls from "../api/calls";
import type { Scene } from "../api/shapes";
import { layeredTexture } from "./textures";
import { MOST_PICTURES, type Uniforms } from "./uniforms";

interface Decoded {
  width: number;
  height: number;
  data: Uint8Array;
}

interface Framed {
  id: string;
  east_m?: number;
  north_m?: number;
  width_m?: number;
  depth_m?: number;
  turn?: number;
}

/** A picture at another size, each dot from its four neighbours. */
function scaled(p: Decoded, width: number, height: number): Uint8Array {
  if (p.width === width && p.height === height) return p.data;
  const out = new Uint8Array(width * height * 4);
  for (let r = 0; r < height; r++) {
    const y = Math.min(p.height - 1, Math.max(0, ((r + 0.5) * p.height) / height - 0.5));
    const r0 = Math.floor(y);
    const r1 = Math.min(p.height - 1, r0 + 1);
    for (let c = 0; c < width; c++) {
      const x = Math.min(p.width - 1, Math.max(0, ((c + 0.5) * p.width) / width - 0.5));
      const c0 = Math.floor(x);
      const c1 = Math.min(p.width - 1, c0 + 1);
      for (let k = 0; k < 4; k++) {
        const at = (row: number, column: number) => p.data[(row * p.width + column) * 4 + k];
        const top = at(r0, c0) + (x - c0) * (at(r0, c1) - at(r0, c0));
        const foot = at(r1, c0) + (x - c0) * (at(r1, c1) - at(r1, c0));
        out[(r * width + c) * 4 + k] = top + (y - r0) * (foot - top);
      }
    }
  }
  return out;
}

async function load(name: string): Promise<Decoded> {
  const data = await calls.groundPicture(name);
  const [width, height] = new Uint32Array(data, 0, 2);
  return { width, height, data: new Uint8Array(data, 8) };
}

/** Pictures as layers of one size: that of the largest. */
function layered(pictures: Decoded[]): THREE.DataArrayTexture {
  const width = Math.max(...pictures.map((p) => p.width));
  const height = Math.max(...pictures.map((p) => p.height));
  const all = new Uint8Array(width * height * 4 * pictures.length);
  pictures.forEach((p, i) => all.set(scaled(p, width, height), i * width * height * 4));
  return layeredTexture(all, width, height, pictures.length, true);
}

export class Pictures {
  private shown = "";

  /** `wait` holds frames back while pictures are on their way. */
  constructor(
    private readonly uniforms: Uniforms,
    private readonly wait: (work: Promise<void>) => void,
  ) {}

  /** Lays the pictures of a scene's materials; those that are new are fetched first. */
  set(doc: Scene) {
    const mine = doc.ground
      .map((material, index) => ({ material, index }))
      .filter(({ material }) => material.on && material.picture)
      .slice(0, MOST_PICTURES);
    this.place(doc, mine);
    const names = mine.map(({ material }) => material.picture as string);
    if (this.shown === names.join()) {
      this.uniforms.uPictureCount.value = mine.length;
      return;
    }
    this.shown = names.join();
    this.uniforms.uPictureCount.value = 0;
    if (names.length) this.wait(this.fetch(names));
  }

  private place(doc: Scene, mine: { material: Scene["ground"][number]; index: number }[]) {
    const plot = doc.plot;
    mine.forEach(({ material: m, index }, layer) => {
      const over = (doc.land as unknown as Framed[]).find(
        (e) => e.id === m.over && e.width_m && e.depth_m,
      );
      this.uniforms.uPictureAt.value[layer].set(
        over?.east_m ?? plot.width_m / 2,
        over?.north_m ?? plot.depth_m / 2,
        over?.width_m ?? plot.width_m,
        over?.depth_m ?? plot.depth_m,
      );
      const a = ((over?.turn ?? 0) * Math.PI) / 180;
      this.uniforms.uPictureTurn.value[layer].set(Math.cos(a), Math.sin(a), m.picture_m, index);
    });
  }

  private async fetch(names: string[]) {
    const wanted = names.join();
    const texture = layered(await Promise.all(names.map(load)));
    if (this.shown !== wanted) return;
    this.uniforms.uPictures.value.dispose();
    this.uniforms.uPictures.value = texture;
    this.uniforms.uPictureCount.value = names.length;
  }
}
