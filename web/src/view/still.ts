/** A still of any size: many jittered frames summed in floats, tile by tile. */
import type * as THREE from "three";
import { byteTarget, sumTarget, target } from "./targets";
import { halton } from "./textures";

const SIDE_PX = 1024;

/** What a still is drawn with. */
export interface StillFrames {
  renderer: THREE.WebGLRenderer;
  camera: THREE.PerspectiveCamera;
  /** Sets the camera to the still's eye, without an offset. */
  aim: () => void;
  /** One frame with grain of its own, in pieces; false when it was stopped. */
  frame: (
    t: THREE.WebGLRenderTarget,
    width: number,
    height: number,
    grain: number,
  ) => Promise<boolean>;
  add: (picture: THREE.WebGLRenderTarget, sum: THREE.WebGLRenderTarget) => void;
  begin: (sum: THREE.WebGLRenderTarget) => void;
  show: (sum: THREE.WebGLRenderTarget, frames: number, to: THREE.WebGLRenderTarget) => void;
  /** Ends when what was given is drawn. */
  drawn: () => Promise<number>;
}

export interface StillSize {
  width: number;
  height: number;
  frames: number;
}

interface Targets {
  picture: THREE.WebGLRenderTarget;
  sum: THREE.WebGLRenderTarget;
  bytes: THREE.WebGLRenderTarget;
}

/** Gives a PNG, or null when stopped. */
export async function drawStill(
  by: StillFrames,
  size: StillSize,
  tell: (share: number) => void,
  stopped: () => boolean,
): Promise<Blob | null> {
  const { width, height, frames } = size;
  const out = document.createElement("canvas");
  out.width = width;
  out.height = height;
  const paint = out.getContext("2d")!;
  const columns = Math.ceil(width / SIDE_PX);
  const rows = Math.ceil(height / SIDE_PX);
  const wide = Math.ceil(width / columns);
  const high = Math.ceil(height / rows);
  const targets: Targets = {
    picture: target(wide, high, true),
    sum: sumTarget(wide, high),
    bytes: byteTarget(wide, high),
  };
  const whole = columns * rows * frames;
  let done = 0;
  try {
    for (let row = 0; row < rows; row++)
      for (let column = 0; column < columns; column++) {
        const tile = { x: column * wide, y: row * high, wide, high };
        by.begin(targets.sum);
        for (let i = 0; i < frames; i++) {
          if (stopped() || !(await drawFrame(by, size, tile, i, targets))) return null;
          tell(++done / whole);
        }
        by.show(targets.sum, frames, targets.bytes);
        await by.drawn();
        paint.putImageData(imageOf(by.renderer, targets.bytes, wide, high), tile.x, tile.y);
      }
    return await new Promise((r) => out.toBlob(r, "image/png"));
  } finally {
    for (const t of Object.values(targets)) t.dispose();
  }
}

interface Tile {
  x: number;
  y: number;
  wide: number;
  high: number;
}

async function drawFrame(by: StillFrames, size: StillSize, tile: Tile, i: number, t: Targets) {
  by.aim();
  by.camera.setViewOffset(
    size.width,
    size.height,
    tile.x + halton(i + 1, 2) - 0.5,
    tile.y + halton(i + 1, 3) - 0.5,
    tile.wide,
    tile.high,
  );
  const whole = await by.frame(t.picture, tile.wide, tile.high, i);
  by.camera.clearViewOffset();
  if (!whole) return false;
  by.add(t.picture, t.sum);
  await by.drawn();
  return true;
}

/** A target's bytes, upper row first. */
function imageOf(
  renderer: THREE.WebGLRenderer,
  from: THREE.WebGLRenderTarget,
  wide: number,
  high: number,
): ImageData {
  const data = new Uint8Array(wide * high * 4);
  const image = new ImageData(wide, high);
  renderer.readRenderTargetPixels(from, 0, 0, wide, high, data);
  for (let r = 0; r < high; r++) {
    const row = data.subarray((high - 1 - r) * wide * 4, (high - r) * wide * 4);
    image.data.set(row, r * wide * 4);
  }
  return image;
}
