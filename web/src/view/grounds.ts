/** The plot's land and the rings of far land around it, with the heights that all shaders ask. */
import * as THREE from "three";
import type { Scene } from "../api/shapes";
import { Features } from "./features";
import type { Field } from "./field";
import type { Horizon } from "./horizon";
import { type Hole, Land } from "./land";
import { directLand, farLand, keptLand } from "./landMaterials";
import { normalTexture, patchNormals } from "./normals";
import type { Products } from "./products";
import { SunLine } from "./sunLine";
import { byteTexture, floatTexture, gridLayers, pairTexture } from "./textures";
import { emptyTexture, type Uniforms } from "./uniforms";

const RINGS = 2;
const OVERLAP = 0.3; // of a post, by which an outer ring reaches under what lies within it

interface Ring {
  land: Land;
  uniforms: Uniforms;
}

export class Grounds {
  readonly plot: Land;
  readonly rings: Ring[];
  /** What the plot wears in stills. */
  readonly direct: THREE.ShaderMaterial;
  private readonly sunLine: SunLine;
  private line: Float32Array | null = null;
  private open: Uint8Array | null = null;

  constructor(
    private readonly shared: Uniforms,
    private readonly own: Uniforms,
    private readonly soft: boolean,
    changed: () => void,
  ) {
    this.sunLine = new SunLine((line, field) => {
      this.line = line;
      this.layLight(field);
      changed();
    });
    this.plot = new Land(keptLand({ ...shared, ...own }));
    this.direct = directLand({ ...shared, ...own }, soft);
    this.rings = Array.from({ length: RINGS }, () => {
      const uniforms: Uniforms = {
        uFarHeights: { value: floatTexture(new Float32Array([0]), 1, 1) },
        uFarGrid: { value: new THREE.Vector4() },
        uFarColour: { value: emptyTexture() },
        uFarNormals: { value: emptyTexture() },
        uInner: { value: new THREE.Vector4() },
      };
      const all = { ...shared, ...uniforms };
      return { land: new Land(farLand(all, false), farLand(all, true)), uniforms };
    });
  }

  /** The sun's line and the openness as one texture; one that is not there yet hides nothing. */
  private layLight(f: Field) {
    const count = f.nx * f.ny;
    const pairs = new Float32Array(count * 2);
    const line = this.line?.length === count ? this.line : null;
    const open = this.open?.length === count ? this.open : null;
    for (let i = 0; i < count; i++) {
      pairs[2 * i] = line ? line[i] : -1e6;
      pairs[2 * i + 1] = open ? open[i] / 255 : 1;
    }
    this.shared.uLandLight.value.dispose();
    this.shared.uLandLight.value = pairTexture(pairs, f.nx, f.ny);
  }

  get groups(): THREE.Group[] {
    return [this.plot.group, ...this.rings.map((r) => r.land.group)];
  }

  /** New products: only what changed is sent to the renderer. */
  set(doc: Scene, products: Products, old: Products | null, hidden: boolean) {
    const f = products.field;
    this.shared.uPlot.value.set(doc.plot.width_m, doc.plot.depth_m);
    if (old?.manifest.heights !== products.manifest.heights) this.setHeights(f);
    this.setRings(doc, products, old);
    if (old?.weights !== products.weights) {
      this.own.uWeights.value.dispose();
      this.own.uWeights.value = gridLayers(products.weights, f.nx, f.ny, products.layers);
    }
    if (old?.cover !== products.cover)
      this.own.uCover.value = byteTexture(products.cover, f.nx, f.ny, this.own.uCover.value);
    if (old?.shore !== products.shore) {
      this.shared.uShore.value.dispose();
      this.shared.uShore.value = floatTexture(products.shore, f.nx, f.ny);
    }
    if (old?.open !== products.open) {
      this.open = products.open;
      this.layLight(f);
    }
    this.plot.group.visible = !hidden;
    if (hidden) for (const { land } of this.rings) land.group.visible = false;
  }

  private setHeights(f: Field) {
    const s = this.shared;
    s.uHeights.value.dispose();
    s.uNormals.value.dispose();
    s.uHeights.value = floatTexture(f.values, f.nx, f.ny);
    s.uNormals.value = normalTexture(f);
    s.uGrid.value.set(f.nx, f.ny, f.spacing, 1);
    this.plot.set(f);
  }

  private setRings(doc: Scene, products: Products, old: Products | null) {
    const inset = OVERLAP * products.field.spacing;
    let inner: Hole = [inset, inset, doc.plot.width_m - inset, doc.plot.depth_m - inset];
    this.rings.forEach((ring, i) => {
      const now = products.rings[i];
      if (now) {
        ring.uniforms.uInner.value.set(...inner);
        ring.land.hole = [...inner];
        this.setRing(ring, i, now, old?.rings[i]);
        const w = now.field;
        inner = [
          w.east + inset,
          w.north + inset,
          w.east + (w.nx - 1) * w.spacing - inset,
          w.north + (w.ny - 1) * w.spacing - inset,
        ];
      }
      ring.land.group.visible = !!now && doc.beyond.edge !== "end";
    });
  }

  private setRing(
    { land, uniforms: u }: Ring,
    i: number,
    now: Products["rings"][number],
    before: Products["rings"][number] | undefined,
  ) {
    const w = now.field;
    if (before?.field !== w) {
      u.uFarHeights.value.dispose();
      u.uFarHeights.value = floatTexture(w.values, w.nx, w.ny);
      u.uFarNormals.value.dispose();
      u.uFarNormals.value = normalTexture(w);
      u.uFarGrid.value.set(w.nx, w.east, w.north, w.spacing);
      land.set(w);
      if (i === 0) {
        // water asks how deep it is beyond the plot
        this.shared.uFarHeights.value = u.uFarHeights.value;
        this.shared.uFarGrid.value.copy(u.uFarGrid.value);
      }
    }
    if (before?.colour !== now.colour)
      u.uFarColour.value = byteTexture(now.colour, w.nx, w.ny, u.uFarColour.value);
  }

  /** Something that is drawn is still on its way. */
  get pending(): boolean {
    return this.sunLine.pending;
  }

  /** The land's own shadow, anew where sun or land changed. */
  setSun(field: Field, land: string) {
    this.sunLine.set(field, land, (this.shared.uSun.value as THREE.Vector3).toArray());
  }

  /** New heights in a rectangle of the plot's grid, as while a brush works. */
  patch(f: Field, r0: number, c0: number, rows: number, columns: number, heights: Float32Array) {
    for (let r = 0; r < rows; r++)
      f.values.set(heights.subarray(r * columns, (r + 1) * columns), (r0 + r) * f.nx + c0);
    this.shared.uHeights.value.needsUpdate = true;
    const normals = this.shared.uNormals.value as THREE.DataTexture;
    patchNormals(normals, f, r0 - 1, c0 - 1, r0 + rows + 1, c0 + columns + 1);
    this.plot.widen(r0, c0, rows, columns);
  }

  /** The plot as in stills, or as in the view. */
  laidAnew(on: boolean) {
    this.plot.wear(on ? this.direct : null);
  }

  /** What the plot's shader must be able to do; true when that is new. */
  must(asked: { WASH: boolean; FILM: boolean }): boolean {
    const wanted = Object.entries(asked).filter(([, on]) => on);
    const defines = Object.fromEntries(wanted.map(([name]) => [name, 1]));
    const { material } = this.plot;
    Features.own(this.direct, this.soft ? { ...defines, SOFT: 1 } : defines);
    return Features.own(material, defines);
  }

  /** Patches for one eye. */
  choose(camera: THREE.PerspectiveCamera, fine: number, horizon: Horizon | null) {
    this.plot.choose(camera, fine, horizon);
    for (const { land } of this.rings)
      if (land.group.visible) land.choose(camera, Math.max(0.8, fine * 0.7), horizon);
  }
}
