/** The ground: a quadtree of patches over a texture of heights, clothed in blended materials. */
import * as THREE from "three";
import type { Field } from "./field";
import { patchGeometry, QUADS } from "./landPatch";
import { FRAGMENT, VERTEX } from "./landShader";

export class Land {
  readonly mesh: THREE.Mesh;
  private geometry = patchGeometry();
  private patches = new Float32Array(4 * 2048);
  private field: Field | null = null;
  private ranges: Float32Array[] = []; // lowest and highest height of each node, by level

  constructor(readonly material: THREE.ShaderMaterial) {
    const attribute = new THREE.InstancedBufferAttribute(this.patches, 4);
    attribute.setUsage(THREE.DynamicDrawUsage);
    this.geometry.setAttribute("patch_", attribute);
    this.mesh = new THREE.Mesh(this.geometry, material);
    this.mesh.frustumCulled = false;
    this.mesh.visible = false;
  }

  /** `ring` holds the uniforms of one ring of far land. */
  static material(
    shared: Record<string, THREE.IUniform>,
    own: Record<string, THREE.IUniform>,
    soft: boolean,
    ring?: Record<string, THREE.IUniform>,
  ): THREE.ShaderMaterial {
    return new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      side: THREE.DoubleSide,
      uniforms: { ...shared, ...own, ...ring },
      defines: { ...(ring ? { FAR: 1 } : {}), ...(soft ? { SOFT: 1 } : {}) },
    });
  }

  set(field: Field) {
    this.field = field;
    this.mesh.visible = true;
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
   * is divided.
   */
  choose(camera: THREE.PerspectiveCamera, fine: number): number {
    const f = this.field;
    if (!f) return 0;
    const frustum = new THREE.Frustum().setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse),
    );
    const eye = camera.position;
    const box = new THREE.Box3();
    let count = 0;
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
      if (level > 0 && box.distanceToPoint(eye) < length * fine) {
        for (let k = 0; k < 4; k++) visit(level - 1, 2 * c + (k & 1), 2 * r + (k >> 1));
      } else if (count < 2048) {
        const step = 1 << level;
        this.patches.set(
          [c * size, r * size, step, Math.max(0.4, (high - low) * 0.12 + step * f.spacing * 0.25)],
          count * 4,
        );
        count++;
      }
    };
    visit(this.ranges.length - 1, 0, 0);
    this.geometry.instanceCount = count;
    this.geometry.getAttribute("patch_").needsUpdate = true;
    return count * QUADS * QUADS * 2;
  }
}
