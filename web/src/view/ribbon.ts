import * as THREE from "three";

/** A strip along points of east, north and level. */
export function ribbon(points: Float32Array, width: number): THREE.BufferGeometry {
  const n = points.length / 3;
  const at = new Float32Array(n * 6);
  const index: number[] = [];
  for (let i = 0; i < n; i++) {
    const a = Math.max(0, i - 1) * 3;
    const b = Math.min(n - 1, i + 1) * 3;
    const dx = points[b] - points[a];
    const dy = points[b + 1] - points[a + 1];
    const l = Math.hypot(dx, dy) || 1;
    const x = (dy / l) * width * 0.5;
    const y = (-dx / l) * width * 0.5;
    at.set(
      [
        points[i * 3] + x,
        points[i * 3 + 1] + y,
        points[i * 3 + 2],
        points[i * 3] - x,
        points[i * 3 + 1] - y,
        points[i * 3 + 2],
      ],
      i * 6,
    );
    if (i) index.push(2 * i - 2, 2 * i, 2 * i - 1, 2 * i - 1, 2 * i, 2 * i + 1);
  }
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(at, 3));
  g.setIndex(index);
  return g;
}
