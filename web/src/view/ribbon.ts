import * as THREE from "three";

const EACH = 5; // east, north, level, speed, whiteness

/** A strip along the points of a stream, with how its water flows. */
export function ribbon(points: Float32Array, width: number): THREE.BufferGeometry {
  const n = points.length / EACH;
  const at = new Float32Array(n * 6);
  const flow = new Float32Array(n * 8);
  const side = new Float32Array(n * 2);
  const index: number[] = [];
  let along = 0;
  for (let i = 0; i < n; i++) {
    const a = Math.max(0, i - 1) * EACH;
    const b = Math.min(n - 1, i + 1) * EACH;
    const dx = points[b] - points[a];
    const dy = points[b + 1] - points[a + 1];
    const l = Math.hypot(dx, dy) || 1;
    const x = (dy / l) * width * 0.5;
    const y = (-dx / l) * width * 0.5;
    const [east, north, level, speed, white] = points.subarray(i * EACH, i * EACH + EACH);
    if (i) {
      const [e, n, up] = points.subarray((i - 1) * EACH, (i - 1) * EACH + 3);
      along += Math.hypot(east - e, north - n, level - up);
    }
    at.set([east + x, north + y, level, east - x, north - y, level], i * 6);
    const own = [(dx / l) * speed, (dy / l) * speed, white, along];
    flow.set([...own, ...own], i * 8);
    side.set([1, -1], i * 2);
    if (i) index.push(2 * i - 2, 2 * i, 2 * i - 1, 2 * i - 1, 2 * i, 2 * i + 1);
  }
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(at, 3));
  g.setAttribute("flow", new THREE.BufferAttribute(flow, 4));
  g.setAttribute("side", new THREE.BufferAttribute(side, 1));
  g.setIndex(index);
  return g;
}
