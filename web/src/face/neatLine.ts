import type { Shot } from "../api/shapes";

export const TOP = 21;

export const LEFT = 34;

export const INSET = { width: 222, height: 158, left: 14, bottom: 14 };

const LEAST_INSET = 140;
const MOST_HIGH = 0.8;

/** How large the inset is drawn: at its shot's own aspect, up to half the face. */
export function insetSize(
  wide: number,
  shot: Pick<Shot, "width_px" | "height_px"> | null,
  faceWidth: number,
  faceHeight: number,
) {
  const aspect = shot ? shot.height_px / shot.width_px : INSET.height / INSET.width;
  const most = Math.min(faceWidth / 2, (faceHeight * MOST_HIGH) / aspect);
  const width = Math.round(Math.max(LEAST_INSET, Math.min(wide, most)));
  return { width, height: Math.round(width * aspect) };
}
