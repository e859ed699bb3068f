/** Cards: pictures with transparency that stand in the scene, turned to the eye or one way. */
import * as THREE from "three";
import type { Manifest } from "../api/shapes";
import { COMMON } from "./glsl";
import type { Uniforms } from "./uniforms";

type Card = Manifest["cards"][number];

const PLACED = /* glsl */ `
uniform vec3 uPlace; // the middle of its lower edge
uniform vec3 uSize; // width, height, the bearing that it faces in radians, or -1 for the eye
uniform vec3 uLook;
vec2 facing(vec3 to) {
  if (uSize.z >= 0.0) return vec2(sin(uSize.z), cos(uSize.z));
  return normalize(to.xy - uPlace.xy + 1e-4);
}
vec3 placed(vec2 p, vec2 to) {
  return uPlace + vec3(-to.y * p.x * uSize.x, to.x * p.x * uSize.x, p.y * uSize.y);
}
`;

const VERTEX = /* glsl */ `${COMMON}${PLACED}
out vec3 vPlace;
out vec2 vUv;
flat out vec2 vFace;
void main() {
  vFace = facing(uLook);
  vPlace = placed(position.xy, vFace);
  vUv = vec2(0.5 - position.x, 1.0 - position.y);
  gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0);
}
`;

const FRAGMENT = /* glsl */ `${COMMON}
in vec3 vPlace;
in vec2 vUv;
flat in vec2 vFace;
out vec4 outColour;
uniform sampler2D uSheet;
uniform vec2 uCard; // shines, haze lies before it
void main() {
  vec4 c = texture(uSheet, vUv);
  if (c.a < 0.004) discard;
  vec3 albedo = c.rgb * c.rgb * (0.3 * c.rgb + 0.7); // sRGB to light, within a hundredth
  vec3 n = normalize(vec3(vFace, 0.5));
  float sun = uGrid.w > 0.5 ? sunAt(vPlace) : 1.0;
  vec3 light = uSunLight * (0.55 * max(dot(n, uSun), 0.0) + 0.2) * sun + skyLight(n);
#ifdef LAMPS
  light += lampsAt(vPlace, n);
#endif
  vec3 colour = uCard.x > 0.0 ? albedo * uCard.x : albedo * light;
  outColour = vec4(uCard.y > 0.5 ? hazed(colour, vPlace) : colour, c.a);
}
`;

const CAST_VERTEX = /* glsl */ `
precision highp float;
uniform vec3 uSun;
out vec2 vUv;
${PLACED.replace("uniform vec3 uLook;\n", "")}
void main() {
  vUv = vec2(0.5 - position.x, 1.0 - position.y);
  vec3 p = placed(position.xy, facing(uPlace + uSun * 100.0));
  gl_Position = projectionMatrix * viewMatrix * vec4(p, 1.0);
}
`;

const CAST_FRAGMENT = /* glsl */ `
precision highp float;
in vec2 vUv;
out vec4 outColour;
uniform sampler2D uSheet;
void main() {
  if (texture(uSheet, vUv).a < 0.5) discard;
  outColour = vec4(1.0);
}
`;

export class Cards {
  /** What is seen. */
  readonly group = new THREE.Group();
  /** What casts shadows; it shows itself to the sun's eye alone. */
  readonly casters = new THREE.Group();
  private readonly sheets = new Map<string, THREE.DataTexture>();
  private readonly plane = new THREE.PlaneGeometry(1, 1).translate(0, 0.5, 0);
  private key = "";

  constructor(private readonly shared: Uniforms) {
    this.casters.visible = false;
  }

  /** New cards with their pictures, by the keys that they name; true when something changed. */
  set(cards: Card[], pictures: Map<string, Uint8Array>, hidden: Set<string>): boolean {
    const key = JSON.stringify([cards, [...hidden]]);
    if (key === this.key) return false;
    this.key = key;
    for (const group of [this.group, this.casters]) {
      for (const mesh of group.children as THREE.Mesh[])
        (mesh.material as THREE.ShaderMaterial).dispose();
      group.clear();
    }
    for (const card of cards) {
      if (hidden.has(card.id)) continue;
      const own = this.uniformsOf(card, pictures);
      this.group.add(this.mesh(this.material(VERTEX, FRAGMENT, own, true)));
      if (card.shadow) this.casters.add(this.mesh(this.material(CAST_VERTEX, CAST_FRAGMENT, own)));
    }
    return true;
  }

  private mesh(material: THREE.ShaderMaterial): THREE.Mesh {
    const mesh = new THREE.Mesh(this.plane, material);
    mesh.frustumCulled = false;
    mesh.renderOrder = 6;
    return mesh;
  }

  private material(vertexShader: string, fragmentShader: string, uniforms: Uniforms, seen = false) {
    return new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader,
      fragmentShader,
      uniforms,
      transparent: seen,
      depthWrite: !seen,
      side: THREE.DoubleSide,
    });
  }

  private uniformsOf(card: Card, pictures: Map<string, Uint8Array>): Uniforms {
    const faces = card.faces === null ? -1 : (card.faces * Math.PI) / 180;
    const [x, y, z] = card.place;
    return {
      ...this.shared,
      uPlace: { value: new THREE.Vector3(x, y, z) },
      uSize: { value: new THREE.Vector3(card.width_m, card.height_m, faces) },
      uCard: { value: new THREE.Vector2(card.shines, card.hazed ? 1 : 0) },
      uSheet: { value: this.sheet(card, pictures) },
    };
  }

  private sheet(card: Card, pictures: Map<string, Uint8Array>): THREE.DataTexture {
    let t = this.sheets.get(card.picture);
    if (!t) {
      const bytes = pictures.get(card.picture) as Uint8Array<ArrayBuffer>;
      t = new THREE.DataTexture(bytes, card.columns, card.rows);
      t.magFilter = THREE.LinearFilter;
      t.minFilter = THREE.LinearMipmapLinearFilter;
      t.generateMipmaps = true;
      t.needsUpdate = true;
      this.sheets.set(card.picture, t);
    }
    return t;
  }
}
