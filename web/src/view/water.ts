/**
 * Water: a sea to the horizon, pools kept within their hollows, streams as ribbons that fall along
 * their lines.
 */
import * as THREE from "three";
import { ribbon } from "./ribbon";
import { FRAGMENT, VERTEX } from "./waterShader";

export interface WaterSpec {
  level: number;
  clear: number;
  tint: THREE.Color;
  waves_m: number;
  bounds: number[] | null;
  mask: { data: Uint8Array; rows: number; columns: number } | null;
  ribbon?: Float32Array;
  width?: number;
}

export class Water {
  readonly group = new THREE.Group();
  constructor(private shared: Record<string, THREE.IUniform>) {}

  set(waters: WaterSpec[], centre: THREE.Vector2) {
    for (const child of [...this.group.children] as THREE.Mesh[]) {
      this.group.remove(child);
      child.geometry.dispose();
      (child.material as THREE.Material).dispose();
    }
    for (const w of waters) {
      let mask: THREE.DataTexture | null = null;
      if (w.mask) {
        const { data, rows, columns } = w.mask;
        mask = new THREE.DataTexture(data.slice(0, rows * columns), columns, rows, THREE.RedFormat);
        mask.minFilter = mask.magFilter = THREE.LinearFilter;
        mask.unpackAlignment = 1;
        mask.needsUpdate = true;
      }
      const b = w.bounds ?? [
        centre.x - 60000,
        centre.y - 60000,
        centre.x + 60000,
        centre.y + 60000,
      ];
      const material = new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms: {
          ...this.shared,
          uMask: { value: mask },
          uMasked: { value: mask ? 1 : 0 },
          uBounds: { value: new THREE.Vector4(...b) },
          uClear: { value: w.clear },
          uWaves: { value: w.waves_m },
          uTint: { value: new THREE.Vector3(w.tint.r, w.tint.g, w.tint.b) },
        },
        transparent: true,
        premultipliedAlpha: true,
        depthWrite: true,
        side: w.ribbon ? THREE.DoubleSide : THREE.FrontSide,
        blending: THREE.CustomBlending,
        blendSrc: THREE.OneFactor,
        blendDst: THREE.OneMinusSrcAlphaFactor,
      });
      const mesh = new THREE.Mesh(
        w.ribbon ? ribbon(w.ribbon, w.width!) : new THREE.PlaneGeometry(b[2] - b[0], b[3] - b[1]),
        material,
      );
      if (!w.ribbon) mesh.position.set((b[0] + b[2]) / 2, (b[1] + b[3]) / 2, w.level);
      mesh.frustumCulled = false;
      this.group.add(mesh);
    }
  }
}
