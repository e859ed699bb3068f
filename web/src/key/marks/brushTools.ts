import type { Brush } from "../../state/slices";

/** A tool of the brush: its name, its word, its drawing. */
type Tool = [Brush["tool"], string, string];

export const TOOLS: Tool[] = [
  ["raise", "Raise", "M2 13h14M5 13c1-6 3-8 4-8s3 2 4 8M9 1v3M7 3l2-2 2 2"],
  ["lower", "Lower", "M2 5h14M5 5c1 6 3 8 4 8s3-2 4-8M9 10v4M7 12l2 2 2-2"],
  ["smooth", "Smooth", "M2 12l2-4 2 3 2-6 2 5M10 10c2 0 4-2 6-2"],
  ["level", "Level", "M2 9h14M5 6v6M13 6v6"],
  ["roughen", "Roughen", "M2 11l2-3 1.5 3L8 5l2 6 2-4 1.5 3L16 8"],
  ["pull", "Pull", "M2 14c4 0 4-9 7-9s3 9 7 9M9 1v8M7 3l2-2 2 2"],
  ["grade", "Grade", "M2 14L16 4M2 14h4M12 4h4"],
  ["basin", "Basin", "M1 6h3c1 6 3 7 5 7s4-1 5-7h3"],
  ["cut", "Cut", "M2 9h4c0-5 2-7 3-7M12 9h4M6 9h6"],
  ["fill", "Fill", "M2 5h3c0 6 2 8 4 8s4-2 4-8h3M5 9h8"],
  ["rub", "Rub out", "M4 12l6-8 5 4-6 7H5zM7 8l5 4"],
];

export const ON_MASKS: Tool[] = [
  ["paint", "Paint", "M3 14c1-3 3-3 4-4l6-8 2 2-7 7c-1 1-1 3-5 3z"],
  ["rub", "Rub out", "M4 12l6-8 5 4-6 7H5zM7 8l5 4"],
  ["smooth", "Soften", "M2 12l2-4 2 3 2-6 2 5M10 10c2 0 4-2 6-2"],
];
