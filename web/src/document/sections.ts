export type Section =
  "land" | "water" | "ground" | "planting" | "light" | "shots" | "marks" | "handover";

export const SECTIONS: [Section, string][] = [
  ["land", "Land"],
  ["water", "Water"],
  ["ground", "Ground"],
  ["planting", "Planting"],
  ["light", "Light and air"],
  ["shots", "Shots"],
  ["handover", "Hand over"],
  ["marks", "Marks"],
];
