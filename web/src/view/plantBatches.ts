/** Instances in batches: one for each kind, variant and level, each drawn at once. */
import * as THREE from "three";
import { dressed } from "../api/dressed";
import type { FamilyFacts } from "../api/shapes";
import { DEPTH, FRAGMENT, VERTEX } from "./plantsShader";
import { Features } from "./features";
import { CASTS, type Level, type Shape } from "./plantShapes";
import type { Uniforms } from "./uniforms";

const AS_MADE = [1, 1, 1] as const;

function levelOf(shape: Shape, variant: number, level: number): Level {
  const some = variant % shape.levels.length;
  return level === CASTS ? shape.casts[some] : shape.levels[some][level];
}

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
      const source = levelOf(shape, variant, level).geometry;
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
          value: new THREE.Color(dressed(kind).tint).multiplyScalar(dressed(kind).bright / 100),
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
        defines: { ...defines, PLAIN: 1 },
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

  /** One more instance, in numbers one by one, as there are many thousands; its foot's height. */
  push(
    b: Batch,
    east: number,
    north: number,
    foot: number,
    size: number,
    turn: number,
    lean: number,
    bearing: number,
    tint: number,
    form: readonly [number, number, number] = AS_MADE,
  ) {
    const i = 4 * b.count++;
    if (i >= b.spots.length) grow(b);
    const { spots, stances, forms } = b;
    spots[i] = east;
    spots[i + 1] = north;
    spots[i + 2] = foot;
    spots[i + 3] = size;
    // turned about its own axis, then leaning away from a bearing
    const [ct, st] = [Math.cos(turn / 2), Math.sin(turn / 2)];
    const [cl, sl] = [Math.cos(lean / 2), Math.sin(lean / 2)];
    const [x, y] = [-Math.cos(bearing) * sl, Math.sin(bearing) * sl];
    stances[i] = x * ct - y * st;
    stances[i + 1] = y * ct + x * st;
    stances[i + 2] = -cl * st;
    stances[i + 3] = cl * ct;
    forms[i] = form[0];
    forms[i + 1] = form[1];
    forms[i + 2] = form[2];
    forms[i + 3] = tint;
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
      .map((b) => ({ mesh: b.mesh, triangles: b.count * levelOf(b.shape, 0, b.level).triangles }));
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

const ATTRIBUTES = { spot: "spots", stance: "stances", form: "forms" } as const;

/** Room for twice as many instances. */
function grow(b: Batch) {
  const room = Math.max(256, b.spots.length * 2);
  const g = b.mesh.geometry as THREE.InstancedBufferGeometry;
  g.dispose();
  for (const [name, values] of Object.entries(ATTRIBUTES)) {
    const more = new Float32Array(room);
    more.set(b[values]);
    b[values] = more;
    const attribute = new THREE.InstancedBufferAttribute(more, 4);
    g.setAttribute(name, attribute.setUsage(THREE.DynamicDrawUsage));
  }
}
