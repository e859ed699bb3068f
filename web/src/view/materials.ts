/** The materials of the ground: their textures, tunes and edges, and the ground's mean tone. */
import * as THREE from "three";
import * as calls from "../api/calls";
import type { Scene } from "../api/shapes";
import { Pictures } from "./pictures";
import type { Products } from "./products";
import { byteTexture, layeredTexture } from "./textures";
import { tunes } from "./tune";
import type { Uniforms } from "./uniforms";

const TEXELS = 512;

type Material = Scene["ground"][number];

/** Mean linear colour and rank, then mean normal, roughness and shade, of one ground. */
function meansOf(colours: Uint8Array, details: Uint8Array): number[] {
  const table = Array.from({ length: 256 }, (_, v) =>
    v <= 10 ? v / 255 / 12.92 : Math.pow((v / 255 + 0.055) / 1.055, 2.4),
  );
  const sum = new Float64Array(8);
  const n = colours.length / 4;
  for (let i = 0; i < colours.length; i += 4)
    for (let k = 0; k < 4; k++) {
      sum[k] += k < 3 ? table[colours[i + k]] : colours[i + 3] / 255;
      sum[4 + k] += k < 2 ? details[i + k] / 127.5 - 1 : details[i + k] / 255;
    }
  return [...sum].map((v) => v / n);
}

/** Where a material's textures come from: the cabinet, or a set that was brought in. */
const textureOf = (m: Material) =>
  m.texture ? `textures/${m.texture}` : `cabinet/grounds/${m.ground}`;

/** Linear light as the square root's byte. */
const rooted = (v: number) => 255 * Math.sqrt(Math.min(1, Math.max(0, v)));

export class Materials {
  private grounds: string[] = [];
  private means: number[][] = [];
  private loading = "";
  private toneKey = "";
  private directed = new Set<string>();
  private pictures: Pictures;
  private doc: Scene | null = null;
  private products: Products | null = null;

  /** `wait` holds frames back while textures are on their way. */
  constructor(
    private readonly shared: Uniforms,
    private readonly own: Uniforms,
    private readonly soft: boolean,
    private readonly wait: (work: Promise<void>) => void,
  ) {
    this.pictures = new Pictures(own, wait);
  }

  /** Grounds that keep their way when their patches are set anew. */
  setDirected(names: string[]) {
    this.directed = new Set(names);
  }

  set(doc: Scene, products: Products | null) {
    this.doc = doc;
    this.products = products;
    this.own.uCount.value = doc.ground.length;
    doc.ground.forEach((m, i) => this.setOne(m, i));
    this.setTone();
    this.pictures.set(doc);
    const needed = [...new Set(doc.ground.map(textureOf))];
    if (needed.some((n) => !this.grounds.includes(n))) this.wait(this.load(needed));
  }

  private setOne(m: Material, i: number) {
    const o = this.own;
    const a = (m.turn * Math.PI) / 180;
    const at = this.grounds.indexOf(textureOf(m));
    const directed = this.directed.has(m.ground) || m.texture ? 1 : 0;
    o.uTunes.value[i].fromArray(tunes(m));
    o.uLies.value[i].set(Math.cos(a), Math.sin(a), m.relief / 100, m.rough / 100);
    o.uDarkens.value[i] = m.wet / 100;
    o.uEdges.value[i].set(m.stands / 100, m.broken / 100, m.size_m, directed);
    o.uGrounds.value[i] = Math.max(0, at);
    const mean = this.means[at];
    if (mean) {
      o.uMeans.value[i].fromArray(mean);
      o.uMeanDetails.value[i].fromArray(mean, 4);
    }
  }

  /** The ground's mean colour at each post, which stones and pieces take on at their foot. */
  private setTone() {
    const p = this.products;
    const doc = this.doc!;
    if (!p || !(doc.pieces.length || p.sown.length)) return;
    const means = doc.ground.map((_, i) => {
      const m = this.own.uMeans.value[i] as THREE.Vector4;
      return new THREE.Vector3(m.x, m.y, m.z).applyMatrix3(this.own.uTunes.value[i]);
    });
    const told = means.map((m) => m.toArray().map((v) => v.toFixed(3)));
    const key = `${p.manifest.weights} ${told.join(" ")}`;
    if (key === this.toneKey) return;
    this.toneKey = key;
    const old = this.shared.uGroundTone.value as THREE.Texture & { image: { width: number } };
    this.shared.uGroundTone.value = byteTexture(
      toneOf(p, means),
      p.field.nx,
      p.field.ny,
      old.image.width > 1 ? old : undefined,
    );
  }

  private async load(names: string[]) {
    const mine = (this.loading = names.join());
    const bytes = TEXELS * TEXELS * 4;
    const colours = new Uint8Array(bytes * names.length);
    const details = new Uint8Array(bytes * names.length);
    await Promise.all(
      names.map(async (name, i) => {
        const data = new Uint8Array(await calls.groundMaps(name));
        colours.set(data.subarray(0, bytes), i * bytes);
        details.set(data.subarray(bytes), i * bytes);
      }),
    );
    if (this.loading !== mine) return; // newer materials are on their way
    for (const u of [this.own.uColours, this.own.uDetails]) u.value.dispose();
    this.own.uColours.value = this.repeating(colours, names.length, true);
    this.own.uDetails.value = this.repeating(details, names.length, false);
    this.grounds = names;
    this.means = names.map((_, i) =>
      meansOf(
        colours.subarray(i * bytes, (i + 1) * bytes),
        details.subarray(i * bytes, (i + 1) * bytes),
      ),
    );
    if (this.doc) this.set(this.doc, this.products);
  }

  private repeating(data: Uint8Array, layers: number, srgb: boolean) {
    const t = layeredTexture(data, TEXELS, TEXELS, layers, srgb);
    t.wrapS = t.wrapT = THREE.RepeatWrapping;
    t.anisotropy = this.soft ? 1 : 8;
    return t;
  }
}

/** Square roots of the mean linear colour at each post, RGBA bytes; alpha 0 where nothing lies. */
function toneOf(p: Products, means: THREE.Vector3[]): Uint8Array {
  const n = p.field.nx * p.field.ny;
  const out = new Uint8Array(n * 4);
  for (let i = 0; i < n; i++) {
    let r = 0;
    let g = 0;
    let b = 0;
    let all = 0;
    for (let k = 0; k < means.length; k++) {
      const w = p.weights[((k >> 2) * n + i) * 4 + (k & 3)];
      if (!w) continue;
      r += w * means[k].x;
      g += w * means[k].y;
      b += w * means[k].z;
      all += w;
    }
    if (!all) continue;
    out[i * 4] = rooted(r / all);
    out[i * 4 + 1] = rooted(g / all);
    out[i * 4 + 2] = rooted(b / all);
    out[i * 4 + 3] = 255;
  }
  return out;
}
