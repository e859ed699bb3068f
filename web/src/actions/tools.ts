import type { Tool } from "../state/slices";

interface ToolOnFace {
  /** What to do, shown on the face while the tool is held; none where something else shows it. */
  hint: string;
  /** The pointer over the face. */
  pointer: "cursor-crosshair" | "cursor-cell" | "cursor-none" | "";
  /** Points are set one by one and make a line. */
  draws?: true;
}

const DRAWS = { hint: "Click on the map, point by point", pointer: "cursor-crosshair" } as const;

/** Every tool that is held on the face: one row for each. */
export const TOOLS: Record<Tool, ToolOnFace> = {
  brush: { hint: "", pointer: "cursor-crosshair" },
  match: { hint: "", pointer: "cursor-crosshair" },
  figure: { hint: "Click the ground where it is to stand", pointer: "cursor-cell" },
  focus: { hint: "Click what is to be sharp", pointer: "cursor-crosshair" },
  aim: { hint: "Click what it is to be aimed at", pointer: "cursor-crosshair" },
  stand: { hint: "Click the ground where it is to stand in the air", pointer: "cursor-cell" },
  sun: { hint: "Drag in the view: the sun follows", pointer: "cursor-crosshair" },
  pool: { hint: "Click the hollow that the pool fills", pointer: "cursor-crosshair" },
  contour: { ...DRAWS, draws: true },
  line: { ...DRAWS, draws: true },
  area: { ...DRAWS, draws: true },
};

/** What the face says while a tool is held, with `points` set so far. */
export function hintOf(tool: Tool, points: number): string {
  const { hint, draws } = TOOLS[tool];
  return draws && points
    ? `${points} points; Enter or a double click ends the line, near its beginning closes it`
    : hint;
}

/** Whether a tool sets points one by one. */
export const draws = (tool: Tool | null): boolean => !!tool && !!TOOLS[tool].draws;
