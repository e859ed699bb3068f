/** The shapes and sheets of kinds, fetched as they are first needed. */
import * as THREE from "three";
import * as calls from "../api/calls";
import { dressed } from "../api/dressed";
import * as urls from "../api/urls";

export interface Level {
  geometry: THREE.BufferGeometry;
  triangles: number;
}

/** In the place of a level: what casts a shadow far from the eye. */
export const CASTS = -1;

export interface Shape {
  levels: Level[][];
  /** Of each variant, where that is a mesh of its own. */
  casts: Level[];
  sheet: THREE.Texture;
  far: number[];
  height: number;
  reach: number;
  family: string;
  /** Whether its surfaces tell how rough, metallic and clear they are. */
  finished: boolean;
}

export interface KindFacts {
  height_m: number;
  reach_m: number;
  family: string;
}

/** What each vertex brings, with how many numbers. */
const ATTRIBUTES: [string, number][] = [
  ["position", 3],
  ["normal", 3],
  ["uv", 2],
  ["tone", 3],
  ["leaf", 1],
];
const FINISHED: [string, number][] = [...ATTRIBUTES, ["finish", 3]];

const MOST_WAIT_MS = 2500;

/** Where a mesh lies among a kind's numbers. */
interface Place {
  vertices: number;
  indices: number;
  at: number;
}

function levelOf(
  data: ArrayBuffer,
  start: number,
  { vertices, indices, at }: Place,
  brings: [string, number][],
): Level {
  const geometry = new THREE.BufferGeometry();
  let from = start + at;
  for (const [attribute, width] of brings) {
    const values = new Float32Array(data, from, vertices * width);
    geometry.setAttribute(attribute, new THREE.BufferAttribute(values, width));
    from += vertices * width * 4;
  }
  geometry.setIndex(new THREE.BufferAttribute(new Uint32Array(data, from, indices), 1));
  return { geometry, triangles: indices / 3 };
}

export class PlantShapes {
  private readonly shapes = new Map<string, Shape | null>();
  private readonly known = new Map<string, KindFacts>();
  private toldAt = 0;

  /** `changed` is called when shapes have come. */
  constructor(private readonly changed: () => void) {}

  /** What the cabinet tells of its kinds. */
  setFacts(kinds: (KindFacts & { name: string })[]) {
    for (const kind of kinds) this.known.set(kind.name, kind);
  }

  /** What is known of a kind, whatever look or tint its name carries. */
  facts(name: string): KindFacts | undefined {
    return this.known.get(name.split(/[~@]/)[0]);
  }

  /** A kind's shape with its look, once it is there. */
  get(name: string): Shape | null | undefined {
    return this.shapes.get(name);
  }

  get pending(): boolean {
    return [...this.shapes.values()].some((s) => s === null);
  }

  async fetch(name: string) {
    if (this.shapes.has(name)) return;
    this.shapes.set(name, null);
    try {
      const { kind, look } = dressed(name);
      const wears = `?look=${look}`;
      const [data, sheet] = await Promise.all([
        calls.kindShape(kind, look),
        new THREE.TextureLoader().loadAsync(urls.kindSheet(kind, wears)),
      ]);
      sheet.flipY = false;
      sheet.colorSpace = THREE.SRGBColorSpace;
      sheet.anisotropy = 2;
      const length = new DataView(data).getUint32(0, true);
      const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length)));
      const start = 4 + length;
      this.known.set(kind, {
        height_m: head.height_m,
        reach_m: head.reach_m,
        family: head.family,
      });
      const brings = head.finished ? FINISHED : ATTRIBUTES;
      const made = (place: Place) => levelOf(data, start, place, brings);
      this.shapes.set(name, {
        levels: head.levels.map((row: Place[]) => row.map(made)),
        casts: head.casts.map(made),
        sheet,
        far: head.far_m,
        height: head.height_m,
        reach: head.reach_m,
        family: head.family,
        finished: head.finished,
      });
    } catch {
      this.shapes.delete(name); // asked again at the next change
    }
    this.arrived();
  }

  /** A shape is there: the face is drawn anew when the last has come, or when others take long. */
  private arrived() {
    const now = performance.now();
    if (this.pending && now - this.toldAt < MOST_WAIT_MS) return;
    this.toldAt = now;
    this.changed();
  }
}
