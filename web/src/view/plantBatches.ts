/** Instances in batches: one for each kind, variant and level, each drawn at once. */
import * as THREE from "three";
import type { FamilyFacts } from "../api/shapes";
import { DEPTH, FRAGMENT, VERTEX } from "./plantsShader";
import { Features } from "./features";
import type { Shape } from "./plantShapes";
import type { Uniforms } from "./uniforms";

const AS_MADE = [1, 1, 1] as const;

export interface Batch {
  mesh: THREE.Mesh;
  spots: Float32Array;
  stances: Float32Array;
  forms: Float32Array;
  count: number;
  level: number;
  shape: Shape;
}

export class PlantBatches {
  readonly group = new THREE.Group();
  private readonly batches = new Map<string, Batch>();
  private families = new Map<string, FamilyFacts>();

  constructor(private readonly shared: Uniforms) {}

  setFamilies(families: Map<string, FamilyFacts>) {
    this.families = families;
  }

  /** No instance stands in any batch. */
  empty() {
    for (const b of this.batches.values()) b.count = 0;
  }

  /** The batch of a kind; `spared` are the lamps that leave it dark, one bit for each. */
  batch(kind: string, variant: number, level: number, shape: Shape, spared = 0): Batch {
    const key = `${kind}/${variant}/${level}${spared ? `/${spared}` : ""}`;
    let b = this.batches.get(key);
    if (!b) {
      const source = shape.levels[variant % shape.levels.length][level].geometry;
      const g = new THREE.InstancedBufferGeometry();
      for (const [name, attribute] of Object.entries(source.attributes))
        g.setAttribute(name, attribute);
      g.setIndex(source.getIndex());
      const card = level === shape.levels[0].length - 1;
      const uniforms = {
        ...this.shared,
        uSheet: { value: shape.sheet },
        uHeight: { value: shape.height },
        uWorn: {
          value: new THREE.Color(`#${kind.split("~")[2] || "ffffff"}`).multiplyScalar(
            +(kind.split("~")[3] || 100) / 100,
          ),
        },
        uChosen: { value: 0 },
        uSpared: { value: spared },
      };
      const stone = !card && !!this.families.get(shape.family)?.foot_tone;
      const defines: Record<string, number> = card ? { CARD: 1 } : {};
      if (shape.finished) defines.FINISH = 1;
      const material = new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms,
        defines: stone ? { ...defines, STONE: 1, BLENDS: 1 } : defines,
        side: THREE.DoubleSide,
      });
      const mesh = new THREE.Mesh(g, material);
      mesh.frustumCulled = false;
      mesh.userData.depth = new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader: DEPTH,
        uniforms,
        defines,
        side: THREE.DoubleSide,
      });
      b = {
        mesh,
        spots: new Float32Array(0),
        stances: new Float32Array(0),
        forms: new Float32Array(0),
        count: 0,
        level,
        shape,
      };
      this.batches.set(key, b);
      this.group.add(mesh);
    }
    return b;
  }

  /** Some of a batch take on the ground's colour at their foot. */
  blends(b: Batch) {
    const m = b.mesh.material as THREE.ShaderMaterial;
    if (m.defines.BLENDS || m.defines.CARD) return;
    Features.own(m, { ...m.userData.own, BLENDS: 1 });
  }

  /** One more instance, in numbers one by one, as there are many thousands. */
  push(
    b: Batch,
    east: number,
    north: number,
    sink: number,
    size: number,
    turn: number,
    lean: number,
    bearing: number,
    tint: number,
    form: readonly [number, number, number] = AS_MADE,
  ) {
    const at = b.count++;
    const i = at * 4;
    if (i >= b.spots.length) {
      const grow = (a: Float32Array) => {
        const n = new Float32Array(Math.max(256, a.length * 2));
        n.set(a);
        return n;
      };
      b.spots = grow(b.spots);
      b.stances = grow(b.stances);
      const forms = new Float32Array((b.spots.length / 4) * 3);
      forms.set(b.forms);
      b.forms = forms;
      const g = b.mesh.geometry as THREE.InstancedBufferGeometry;
      g.dispose();
      g.setAttribute(
        "spot",
        new THREE.InstancedBufferAttribute(b.spots, 4).setUsage(THREE.DynamicDrawUsage),
      );
      g.setAttribute(
        "stance",
        new THREE.InstancedBufferAttribute(b.stances, 4).setUsage(THREE.DynamicDrawUsage),
      );
      g.setAttribute(
        "form",
        new THREE.InstancedBufferAttribute(b.forms, 3).setUsage(THREE.DynamicDrawUsage),
      );
    }
    const s = b.spots;
    const t = b.stances;
    s[i] = east;
    s[i + 1] = north;
    s[i + 2] = sink;
    s[i + 3] = size;
    t[i] = turn;
    t[i + 1] = lean;
    t[i + 2] = bearing;
    t[i + 3] = tint;
    b.forms.set(form, 3 * at);
  }

  /** What was pushed is drawn from now on. */
  commit() {
    for (const b of this.batches.values()) {
      const g = b.mesh.geometry as THREE.InstancedBufferGeometry;
      g.instanceCount = b.count;
      b.mesh.visible = b.count > 0;
      if (b.count)
        for (const name of ["spot", "stance", "form"]) {
          const a = g.getAttribute(name) as THREE.InstancedBufferAttribute;
          a.clearUpdateRanges();
          a.addUpdateRange(0, b.count * a.itemSize);
          a.needsUpdate = true;
        }
    }
  }

  /** The meshes that the last choice filled, each with its triangles. */
  shown(): { mesh: THREE.Mesh; triangles: number }[] {
    return [...this.batches.values()]
      .filter((b) => b.count > 0)
      .map((b) => ({ mesh: b.mesh, triangles: b.count * b.shape.levels[0][b.level].triangles }));
  }

  /** Swaps in the plain materials of the shadow pass, or the full ones. */
  plain(on: boolean) {
    for (const b of this.batches.values()) {
      const m = b.mesh;
      if (on) {
        m.userData.full ??= m.material;
        m.material = m.userData.depth;
      } else if (m.userData.full) m.material = m.userData.full;
    }
  }
}
