import type { Scene } from "../api/shapes";

/** Mean linear colour and rank, then mean normal, roughness and shade, of one ground. */
export function meansOf(colours: Uint8Array, details: Uint8Array): number[] {
  const table = Array.from({ length: 256 }, (_, v) =>
    v <= 10 ? v / 255 / 12.92 : Math.pow((v / 255 + 0.055) / 1.055, 2.4),
  );
  const sum = new Float64Array(8);
  const n = colours.length / 4;
  for (let i = 0; i < colours.length; i += 4)
    for (let k = 0; k < 4; k++) {
      sum[k] += k < 3 ? table[colours[i + k]] : colours[i + 3] / 255;
      sum[4 + k] += k < 2 ? details[i + k] / 127.5 - 1 : details[i + k] / 255;
    }
  return [...sum].map((v) => v / n);
}

/** Where a material's textures come from: the cabinet, or a set that was brought in. */
export const textureOf = (m: Scene["ground"][number]) =>
  m.texture ? `textures/${m.texture}` : `cabinet/grounds/${m.ground}`;
