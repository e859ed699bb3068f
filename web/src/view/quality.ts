import type * as THREE from "three";
export interface Quality {
  name: string;
  soft: boolean;
  moving: number;
  rest: number;
  frames: number;
  fine: number;
  budget: number;
  least: number;
  /** Texels a side of the shadow maps; 0 draws none. */
  shadow: number;
  /** Pages of the ground side by side in the atlas. */
  pages: number;
  /** Pixels that a texel of a page may be wide. */
  blur: number;
  /** Whether the ground's look is laid into pages; else it has its mean tone. */
  lays: boolean;
  /** Share of the picture's width that waters mirror with at rest; 0 draws no mirror. */
  mirror: number;
  /** Whether the sky becomes fine at rest. */
  sky: boolean;
}

const QUALITY: Record<string, Quality> = {
  soft: {
    name: "soft",
    rest: 1,
    soft: true,
    moving: 0.5,
    frames: 2,
    fine: 1.25,
    budget: 6500,
    least: 5.5,
    shadow: 1024,
    pages: 32,
    blur: 1,
    lays: true,
    mirror: 0.4,
    sky: true,
  },
  fine: {
    name: "fine",
    rest: 1,
    soft: false,
    moving: 1,
    frames: 8,
    fine: 2.2,
    budget: 120000,
    least: 2.2,
    shadow: 2048,
    pages: 48,
    blur: 1,
    lays: true,
    mirror: 1,
    sky: true,
  },
  quick: {
    name: "quick",
    rest: 1,
    soft: true,
    moving: 0.35,
    frames: 1,
    fine: 0.9,
    budget: 1500,
    least: 9,
    shadow: 512,
    pages: 32,
    blur: 1.3,
    lays: true,
    mirror: 0.35,
    sky: true,
  },
  sketch: {
    name: "sketch",
    rest: 0.08,
    soft: true,
    moving: 0.06,
    frames: 1,
    fine: 0.8,
    budget: 800,
    least: 12,
    shadow: 0,
    pages: 16,
    blur: 4,
    lays: false,
    mirror: 0,
    sky: false,
  }, // for journeys that ask the page, not its pixels
};

/** The quality that is asked for by name, or what suits the renderer. */
export function qualityFor(renderer: THREE.WebGLRenderer, wanted: string | null): Quality {
  const gl = renderer.getContext();
  const info = gl.getExtension("WEBGL_debug_renderer_info");
  const name = info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : "";
  gl.getExtension("OES_texture_float_linear");
  const software = /swiftshader|llvmpipe|software/i.test(name);
  return QUALITY[wanted ?? ""] ?? (software ? QUALITY.soft : QUALITY.fine);
}
