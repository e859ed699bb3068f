import type {
  Wanted,
  BroughtIn,
  MomentLine,
  StillLine,
  Cabinet,
  Catalogue,
  CompareAnswer,
  Job,
  Manifest,
  ModelAnswer,
  Problem,
  RawLayout,
  Scene,
  SceneState,
  SurveyAnswer,
  TransectAnswer,
} from "../api/shapes";
import type { Section } from "../document/sections";
import type { Pose } from "../view/pose";
import type { Products } from "../view/products";

export interface Place {
  east: number;
  north: number;
  up: number;
  slope: number;
  facing: number;
  ground: string;
  plant: { sowing: string; name: string; label: string; away: number } | null;
}

/** Where the map is when it is not fitted: its middle in metres, px per metre. */
export interface MapAt {
  east: number;
  north: number;
  scale: number;
}

/** The sheet of the survey that is laid out; its answer and values come once they are measured. */
export interface Sheet {
  kind: string;
  entry?: string;
  latitude: number;
  day: number;
  answer?: SurveyAnswer;
  values?: Float32Array;
}

export interface Cut {
  line: number[];
  times: number;
  answer: TransectAnswer | null;
}

/** The dialogs of the page, by name. */
export type DialogName =
  | "new"
  | "plot"
  | "scenes"
  | "commands"
  | "keys"
  | "history"
  | "still"
  | "still-sheet"
  | "grades"
  | "parts"
  | "zones"
  | "proof"
  | "lights"
  | "reality"
  | "lands"
  | "ground-presets"
  | "texture-sizes"
  | "mixes"
  | "faults"
  | "asides"
  | "brought-in";

/** The scene that is open and what was made of it. */
export interface OpenScene {
  id: number | null;
  doc: Scene | null;
  state: SceneState | null;
  manifest: Manifest | null;
  products: Products | null;
  settled: boolean;
  /** The face holds a picture of this scene. */
  pictured: boolean;
  job: Job | null;
  /** The stills that were asked for, oldest first. */
  stills: StillLine[];
  stillAt: string | null;
  time: Time | null;
}

/** What is chosen in the scene and looked at. */
export interface Looked {
  chosen: string | null;
  several: Set<string>;
  hidden: Set<string>;
  place: Place | null;
  insetShot: string | null;
  /** The shot whose film and grade the face is shown through. */
  seenAs: string | null;
  /** Where the eye stood before it stepped into a shot, and whether it may move in there. */
  stepped: { shot: string; from: Pose; free: boolean } | null;
  sheet: Sheet | null;
  transect: Cut | null;
  without: string | null;
  compared: Compared | null;
}

/** What the hand holds. */
export interface Held {
  tool: Tool | null;
  brush: Brush | null;
  mapAt: MapAt | null;
  drawing: number[][];
  mask: { id: string; nx: number; ny: number; values: Uint8Array; share: number } | null;
  marking: Marking | null;
  cabinetAt: {
    drawer: string;
    kind: string | null;
    model?: ModelAnswer;
    part?: number;
    /** A scene is to be cut out as a model. */
    exhibit?: boolean;
    /** What reading the kind's file again replaced. */
    replaced?: { what: string; before: string; now: string }[];
  } | null;
}

/** How face, map and key are set up; it stays when another scene is opened. */
export interface SetUp {
  open: Section | null;
  pinned: boolean;
  pose: Pose;
  mapOnFace: boolean;
  clean: boolean;
  why: boolean;
  placing: string;
  playing: boolean;
  frameLines: boolean;
  insetWide: number;
  /** How fast the eye travels, in m/s, while that is told. */
  speed: number | null;
  reference: { how: "over" | "wipe" | "beside"; share: number };
  thinned: { budget: number | null; proxies: boolean };
}

/** What goes on, and what is told and asked. */
export interface GoingOn {
  cabinet: Cabinet | null;
  catalogue: Catalogue | null;
  /** Where the light that is drawn stands, in degrees. */
  sun: { bearing: number; height: number } | null;
  progress: { step: string; share: number } | null;
  building: boolean;
  trouble: Problem | null;
  lost: boolean;
  told: string | null;
  frames: number;
  /** Why there is no view, in words; null where there is one. */
  viewLacking: string | null;
  dialog: DialogName | null;
  confirm: { text: string; yes: () => void } | null;
  raw: { name: string; bytes: number; guess: RawLayout; take: (layout: RawLayout) => void } | null;
  /** A scene that came in from a file, and what was said of it. */
  broughtIn: (BroughtIn & { file: File }) | null;
}

export type Page = OpenScene & Looked & Held & SetUp & GoingOn;

/** A point of a picture, 0..1 from its upper left. */
export type PicturePoint = [number, number];

/** What is marked on the reference of a shot, to match it. */
export interface Marking {
  shot: string;
  what: "horizon" | "uprights" | "places";
  horizon: PicturePoint[];
  uprights: PicturePoint[][];
  places: { at: PicturePoint; ground: [number, number] | null; over: number }[];
}

/** The strip of time: the moment that is shown, and those that were asked for. */
export interface Time {
  at: number;
  lasts: number;
  playing: boolean;
  moments: MomentLine[];
  movesEye: boolean;
}

/** What is held on the face; `actions/tools.ts` says what each tells and how it points. */
export type Tool =
  | "figure"
  | "pool"
  | "contour"
  | "line"
  | "area"
  | "brush"
  | "sun"
  | "stand"
  | "aim"
  | "focus"
  | "match";

export type Brush = Wanted<"Brush"> & Record<string, unknown>;

export interface Compared {
  a: { id: number; label: string; picture: string };
  b: { id: number; label: string; picture: string };
  at: number;
  answer: CompareAnswer;
}
