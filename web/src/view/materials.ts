/** The materials of the ground: their textures, tunes and edges, and the ground's mean tone. */
import * as THREE from "three";
import * as calls from "../api/calls";
import type { Scene } from "../api/shapes";
import { Pictures } from "./pictures";
import type { Products } from "./products";
import { byteTexture, layeredTexture } from "./textures";
import type { Uniforms } from "./uniforms";

const TEXELS = 512;

type Material = Scene["ground"][number];

/** Where a material's textures come from: the cabinet, or a set that was brought in. */
const textureOf = (m: Material) =>
  m.texture ? `textures/${m.texture}` : `cabinet/grounds/${m.ground}`;

const mapsOf = (texture: string) => {
  const name = texture.slice(texture.lastIndexOf("/") + 1);
  return calls.groundMaps(texture.startsWith("textures/") ? "textures" : "cabinet/grounds", name);
};

export class Materials {
  private grounds: string[] = [];
  private loading = "";
  private tone: Uint8Array | null = null;
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
    o.uLies.value[i].set(Math.cos(a), Math.sin(a), m.relief / 100, m.rough / 100);
    o.uDarkens.value[i] = m.wet / 100;
    o.uEdges.value[i].set(m.stands / 100, m.broken / 100, m.size_m, directed);
    o.uGrounds.value[i] = Math.max(0, at);
    const line = this.products?.manifest.ground.find((g) => g.id === m.id);
    if (!line) return;
    o.uTunes.value[i].fromArray(line.tune);
    o.uMeans.value[i].fromArray(line.means);
    o.uMeanDetails.value[i].fromArray(line.means, 4);
  }

  /** The ground's mean colour at each post, which stones and pieces take on at their foot. */
  private setTone() {
    const p = this.products;
    if (!p || p.tone === this.tone) return;
    this.tone = p.tone;
    const old = this.shared.uGroundTone.value as THREE.Texture & { image: { width: number } };
    this.shared.uGroundTone.value = byteTexture(
      p.tone,
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
        const data = new Uint8Array(await mapsOf(name));
        colours.set(data.subarray(0, bytes), i * bytes);
        details.set(data.subarray(bytes), i * bytes);
      }),
    );
    if (this.loading !== mine) return; // newer materials are on their way
    for (const u of [this.own.uColours, this.own.uDetails]) u.value.dispose();
    this.own.uColours.value = this.repeating(colours, names.length, true);
    this.own.uDetails.value = this.repeating(details, names.length, false);
    this.grounds = names;
    if (this.doc) this.set(this.doc, this.products);
  }

  private repeating(data: Uint8Array, layers: number, srgb: boolean) {
    const t = layeredTexture(data, TEXELS, TEXELS, layers, srgb);
    t.wrapS = t.wrapT = THREE.RepeatWrapping;
    t.anisotropy = this.soft ? 1 : 8;
    return t;
  }
}
