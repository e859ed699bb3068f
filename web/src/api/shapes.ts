import type { components } from "./types";

type Schemas = components["schemas"];

/** The name of a model, as the core calls it. */
export type ModelName = keyof Schemas;

export type Scene = Required<Schemas["Scene"]> & {
  plot: Required<Schemas["Plot"]>;
  light: Required<Schemas["Light"]>;
};

/** A document as the server gives it, with every field. */
export const whole = (document: Schemas["Scene"]) => document as Scene;

export type SceneState = Schemas["SceneState"];

export type WindowOrder = Schemas["WindowOrder"];

export type ExhibitOrder = Schemas["ExhibitOrder"];

export type BroughtIn = Schemas["BroughtIn"];

export type SceneLine = Schemas["SceneLine"];

export type Manifest = Schemas["Manifest"];

export type LandDraft = Schemas["LandDraft"];

export type WakeLine = Schemas["WakeLine"];
export type WaterLine = Schemas["WaterLine"];

export type SeaLine = Schemas["SeaLine"];

export type Problem = Schemas["Problem"];

export type RasterInfo = Schemas["RasterInfo"];

export type Job = Schemas["HandOverLine"];

export type Step = Schemas["HistoryStep"];

export type UsageAnswer = Schemas["UsageAnswer"];

export type PartLine = Schemas["PartLine"];

export type CompareAnswer = Schemas["CompareAnswer"];

export type ZoneLine = Schemas["ZoneLine"];

export type SurveyAnswer = Schemas["SurveyAnswer"];

export type TransectAnswer = Schemas["TransectAnswer"];

export type MeasureLine = Schemas["MeasureLine"];

export type LandLine = Schemas["LandLine"];

export type SheetLine = Schemas["SheetKind"];

export type Light = Required<Schemas["Light"]>;

export type LightLine = Schemas["LightLine"];

export type KeptPicture = Schemas["KeptPicture"];

export type LightTry = Schemas["LightTry"];

export type SunPath = Schemas["SunPath"];

export type Shot = Required<Schemas["Shot"]>;

export type KindLine = Schemas["KindLine"];

export type KindFacts = Schemas["KindFacts"];

export type ModelAnswer = Schemas["ModelAnswer"];

export type OwnKind = Required<Schemas["OwnKind"]> & {
  surfaces: Required<Schemas["OwnSurface"]>[];
};

export type SupplyLine = Schemas["SupplyLine"];

export type Supply = Required<Schemas["Supply"]>;

export type KindNearLine = Schemas["KindNearLine"];

export type PlacesAnswer = Schemas["PlacesAnswer"];

export type ToneAnswer = Schemas["ToneAnswer"];

export type KeptMix = Schemas["KeptMix"];

export type Cabinet = Schemas["Cabinet"];

export type MaskPicture = Schemas["MaskPicture"];

export type MatchAnswer = Schemas["MatchAnswer"];

export type HandOver = Wanted<"HandOver">;

export type HandOverForecast = Schemas["HandOverForecast"];

export type ContourLine = Schemas["ContourLine"];

export type WhereAnswer = Schemas["WhereAnswer"];

export type BorrowedLand = Schemas["BorrowedLand"];

export type RawGuess = Schemas["RawGuess"];

export type DrawerLine = Schemas["DrawerLine"];

export type KindAnswer = Schemas["KindAnswer"];

export type ReasonLine = Schemas["ReasonLine"];

export type FaultAnswer = Schemas["FaultAnswer"];

export type MixAnswer = Schemas["MixAnswer"];

export type NearnessLine = Schemas["NearnessLine"];

export type PresetLine = Schemas["PresetLine"];

export type PresetAnswer = Schemas["PresetAnswer"];

export type OfferLine = Schemas["OfferLine"];

export type WorkAnswer = Schemas["WorkAnswer"];

export type PlotCost = Schemas["PlotCost"];

export type ProofPlan = Schemas["ProofPlan"];

export type TextureAnswer = Schemas["TextureAnswer"];

export type PictureAnswer = Schemas["PictureAnswer"];

export type EntryFacts = Schemas["EntryFacts"];

export type FamilyFacts = Schemas["FamilyFacts"];

export type ExporterFacts = Schemas["ExporterFacts"];

export type Wanted<Name extends keyof Schemas> = Required<Schemas[Name]>;

export type Part = Wanted<"MixPart">;
export type Sowing = Wanted<"Sowing"> & { mix: Part[] };
export type Piece = Wanted<"Piece">;
export type Material = Wanted<"Material">;
export type Heightmap = Wanted<"Heightmap">;
export type Borrowed = Wanted<"Borrowed">;
export type ByHand = Wanted<"ByHand">;
export type MaskMark = Wanted<"Mask">;
export type DrawnMark = Wanted<"Line"> | Wanted<"Area">;

/** The layout of a file of raw posts. */
export interface RawLayout {
  columns: number;
  rows: number;
  type: string;
  order: string;
}

/** What the server knows, with the scene's schema as the panels read it. */
export type Catalogue = Omit<Schemas["Catalogue"], "scene" | "exporters"> & {
  scene: SceneSchema;
  exporters: (Omit<Schemas["ExporterFacts"], "options"> & { options: Partial<Model> })[];
};

export interface SceneSchema {
  $defs: Record<ModelName, Model>;
}

/** A model of the schema: its fields by name. */
export interface Model {
  properties: Record<string, Prop>;
}

/** One field of a model, with what a panel needs to show it. */
export interface Prop {
  title?: string;
  description?: string;
  type?: string;
  enum?: (string | number)[];
  const?: string;
  minimum?: number;
  maximum?: number;
  default?: unknown;
  items?: { type?: string };
  $ref?: string;
  allOf?: { $ref?: string }[];
  sow?: Shown;
}

/** What a field says of its widget: unit and range, when it counts, what it chooses from. */
export interface Shown {
  unit?: string;
  slider?: (number | string | null)[];
  scale?: string;
  step?: number;
  labels?: Record<string, string>;
  choices?: Record<string, string>;
  only?: Record<string, string[]>;
  given?: string;
  far?: boolean;
  fold?: string;
  file?: string;
  drawer?: string;
  mark?: string;
  colour?: boolean;
  curve?: [string, string];
  told?: boolean;
  entry?: string;
  entries?: string;
  points?: boolean;
  texture?: boolean;
  picture?: boolean;
  none?: string;
  contours?: boolean;
  surface?: boolean;
}

export type StillChoices = Schemas["StillChoices"];

export type StillForecast = Schemas["StillForecast"];

export type StillLine = Schemas["StillLine"];

export type Moments = Schemas["Moments"];

export type MomentLine = Schemas["MomentLine"];

export type StillOrder = Schemas["Order"];

export type NewStill = Schemas["NewStill"];

export type FilmOrder = Schemas["FilmOrder"];

export type GradeTry = Schemas["GradeTryLine"];

export type LensLine = Schemas["LensLine"];

export type LensOrder = Schemas["LensOrder"];
