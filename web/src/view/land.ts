/** The ground: a quadtree of patches over a texture of heights, clothed in blended materials. */
import * as THREE from "three";
import type { Field } from "./field";
import type { Horizon } from "./horizon";
import { patchGeometry, QUADS } from "./landPatch";

const MOST_PATCHES = 2048;

/** Patches that are drawn at once. */
class Patches {
  readonly mesh: THREE.Mesh;
  private readonly places = new Float32Array(4 * MOST_PATCHES);
  private readonly geometry = patchGeometry();
  count = 0;

  constructor(material: THREE.Material) {
    const attribute = new THREE.InstancedBufferAttribute(this.places, 4);
    attribute.setUsage(THREE.DynamicDrawUsage);
    this.geometry.setAttribute("patch_", attribute);
    this.mesh = new THREE.Mesh(this.geometry, material);
    this.mesh.frustumCulled = false;
  }

  add(column: number, row: number, step: number, skirt: number) {
    if (this.count < MOST_PATCHES) this.places.set([column, row, step, skirt], 4 * this.count++);
  }

  commit() {
    this.geometry.instanceCount = this.count;
    this.geometry.getAttribute("patch_").needsUpdate = true;
    this.mesh.visible = this.count > 0;
  }
}

/** A rectangle in m: west, south, east, north. */
export type Hole = [number, number, number, number];

export class Land {
  /** Everything of the land, shown or hidden at once. */
  readonly group = new THREE.Group();
  private readonly whole: Patches;
  /** What the hole's edge crosses: parts are cut away, which costs the rest its early test. */
  private readonly rim: Patches | null;
  /** What is not drawn, as something finer lies there. */
  hole: Hole | null = null;
  private field: Field | null = null;
  private ranges: Float32Array[] = []; // lowest and highest height of each node, by level

  /** `cut` is worn where a hole's edge crosses. */
  constructor(
    readonly material: THREE.ShaderMaterial,
    cut?: THREE.ShaderMaterial,
  ) {
    this.whole = new Patches(material);
    this.rim = cut ? new Patches(cut) : null;
    this.group.add(this.whole.mesh);
    if (this.rim) this.group.add(this.rim.mesh);
    this.group.visible = false;
  }

  /** The land in another material for a while; null gives it back its own. */
  wear(material: THREE.ShaderMaterial | null) {
    this.whole.mesh.material = material ?? this.material;
  }

  set(field: Field) {
    this.field = field;
    this.group.visible = true;
    // heights of nodes of QUADS, 2 QUADS, ... posts
    this.ranges = [];
    let step = 1;
    for (;;) {
      const size = QUADS * step;
      const nx = Math.max(1, Math.ceil((field.nx - 1) / size));
      const ny = Math.max(1, Math.ceil((field.ny - 1) / size));
      const out = new Float32Array(nx * ny * 2);
      if (step === 1) {
        for (let r = 0; r < ny; r++)
          for (let c = 0; c < nx; c++) {
            let lo = Infinity;
            let hi = -Infinity;
            for (let y = r * size; y <= Math.min(field.ny - 1, (r + 1) * size); y++)
              for (let x = c * size; x <= Math.min(field.nx - 1, (c + 1) * size); x++) {
                const h = field.values[y * field.nx + x];
                if (h < lo) lo = h;
                if (h > hi) hi = h;
              }
            out[(r * nx + c) * 2] = lo;
            out[(r * nx + c) * 2 + 1] = hi;
          }
      } else {
        const below = this.ranges[this.ranges.length - 1];
        const bx = Math.max(1, Math.ceil((field.nx - 1) / (size / 2)));
        const by = Math.max(1, Math.ceil((field.ny - 1) / (size / 2)));
        for (let r = 0; r < ny; r++)
          for (let c = 0; c < nx; c++) {
            let lo = Infinity;
            let hi = -Infinity;
            for (let k = 0; k < 4; k++) {
              const y = 2 * r + (k >> 1);
              const x = 2 * c + (k & 1);
              if (y >= by || x >= bx) continue;
              lo = Math.min(lo, below[(y * bx + x) * 2]);
              hi = Math.max(hi, below[(y * bx + x) * 2 + 1]);
            }
            out[(r * nx + c) * 2] = lo;
            out[(r * nx + c) * 2 + 1] = hi;
          }
      }
      this.ranges.push(out);
      if (nx === 1 && ny === 1) break;
      step *= 2;
    }
  }

  /**
   * Heights in a rectangle have changed: the nodes above it learn of their new lowest and highest.
   */
  widen(r0: number, c0: number, rows: number, columns: number) {
    const f = this.field;
    if (!f) return;
    let lo = Infinity;
    let hi = -Infinity;
    for (let r = r0; r < r0 + rows; r++)
      for (let c = c0; c < c0 + columns; c++) {
        const h = f.values[r * f.nx + c];
        if (h < lo) lo = h;
        if (h > hi) hi = h;
      }
    this.ranges.forEach((range, level) => {
      const size = QUADS << level;
      const nx = Math.max(1, Math.ceil((f.nx - 1) / size));
      const ny = Math.max(1, Math.ceil((f.ny - 1) / size));
      for (
        let r = Math.floor(r0 / size);
        r <= Math.min(ny - 1, Math.floor((r0 + rows) / size));
        r++
      )
        for (
          let c = Math.floor(c0 / size);
          c <= Math.min(nx - 1, Math.floor((c0 + columns) / size));
          c++
        ) {
          const i = (r * nx + c) * 2;
          range[i] = Math.min(range[i], lo);
          range[i + 1] = Math.max(range[i + 1], hi);
        }
    });
  }

  /**
   * Chooses the patches for an eye; `fine` is the distance, in patch lengths, under which a patch
   * is divided; what the land hides by its own `horizon` is left out.
   */
  choose(camera: THREE.PerspectiveCamera, fine: number, horizon: Horizon | null) {
    const f = this.field;
    if (!f) return;
    const frustum = new THREE.Frustum().setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse),
    );
    const eye = camera.position;
    const box = new THREE.Box3();
    this.whole.count = 0;
    if (this.rim) this.rim.count = 0;
    const hole = this.hole;
    const visit = (level: number, c: number, r: number) => {
      const size = QUADS << level;
      const nx = Math.max(1, Math.ceil((f.nx - 1) / size));
      const ny = Math.max(1, Math.ceil((f.ny - 1) / size));
      if (c >= nx || r >= ny) return;
      const at = (r * nx + c) * 2;
      const low = this.ranges[level][at];
      const high = this.ranges[level][at + 1];
      const length = size * f.spacing;
      box.min.set(f.east + c * length, f.north + (f.ny - 1 - (r + 1) * size) * f.spacing, low - 1);
      box.max.set(f.east + (c + 1) * length, f.north + (f.ny - 1 - r * size) * f.spacing, high + 1);
      if (!frustum.intersectsBox(box)) return;
      if (hole && within(box, hole)) return;
      if (horizon?.hides(box)) return;
      if (level > 0 && box.distanceToPoint(eye) < length * fine) {
        for (let k = 0; k < 4; k++) visit(level - 1, 2 * c + (k & 1), 2 * r + (k >> 1));
      } else {
        const step = 1 << level;
        const skirt = Math.max(0.4, (high - low) * 0.12 + step * f.spacing * 0.25);
        const at = this.rim && hole && crosses(box, hole) ? this.rim : this.whole;
        at.add(c * size, r * size, step, skirt);
      }
    };
    visit(this.ranges.length - 1, 0, 0);
    this.whole.commit();
    this.rim?.commit();
  }
}

function within({ min, max }: THREE.Box3, [west, south, east, north]: Hole): boolean {
  return min.x > west && min.y > south && max.x < east && max.y < north;
}

function crosses({ min, max }: THREE.Box3, [west, south, east, north]: Hole): boolean {
  return max.x > west && max.y > south && min.x < east && min.y < north;
}
