/** One typed function for each route of the server; no other file knows a path. */
import { answerOf, ask, bytesOf, fileOf, sendFiles } from "./client";
import type * as shapes from "./shapes";

export const maskPicture = (scene: number, mark: string, body: object, signal?: AbortSignal) =>
  ask<shapes.MaskPicture>("POST", `/api/scenes/${scene}/mask-pictures/${mark}`, body, {}, signal);

export const moments = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.Moments>("POST", `/api/scenes/${scene}/moments`, body, {}, signal);

export const matchColour = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.MatchAnswer>("POST", `/api/scenes/${scene}/match`, body, {}, signal);

export const forecastHandOver = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.HandOverForecast>(
    "POST",
    `/api/scenes/${scene}/hand-over-forecasts`,
    body,
    {},
    signal,
  );

export const listHandOvers = (scene: number, signal?: AbortSignal) =>
  ask<shapes.Job[]>("GET", `/api/scenes/${scene}/hand-overs`, undefined, {}, signal);

export const startHandOver = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.Job>("POST", `/api/scenes/${scene}/hand-overs`, body, {}, signal);

export const stopHandOver = (job: string, signal?: AbortSignal) =>
  ask<unknown>("DELETE", `/api/hand-overs/${job}`, undefined, {}, signal);

export const readLines = (scene: number, file: File) =>
  upload<shapes.ContourLine[]>(`/api/scenes/${scene}/lines`, file);

export const readContours = (scene: number, file: File) =>
  upload<shapes.ContourLine[]>(`/api/scenes/${scene}/contours`, file);

export const fillMask = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.RasterInfo>("POST", `/api/scenes/${scene}/masks`, body, {}, signal);

export const readPlaces = (scene: number, file: File) =>
  upload<shapes.PlacesAnswer>(`/api/scenes/${scene}/places`, file);

export const keepMix = (scene: number, body: object) =>
  ask<{ id: string; name: string }>("POST", `/api/scenes/${scene}/kept-mixes`, body);

export const pullTones = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.ToneAnswer>("POST", `/api/scenes/${scene}/tones`, body, {}, signal);

export const whereHolds = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.WhereAnswer>("POST", `/api/scenes/${scene}/where`, body, {}, signal);

export const survey = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.SurveyAnswer>("POST", `/api/scenes/${scene}/surveys`, body, {}, signal);

export const listScenes = (signal?: AbortSignal) =>
  ask<shapes.SceneLine[]>("GET", "/api/scenes", undefined, {}, signal);

export const borrowLand = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.BorrowedLand>("POST", `/api/scenes/${scene}/borrowed`, body, {}, signal);

export const rasterFacts = (raster: string, signal?: AbortSignal) =>
  ask<shapes.RasterInfo>("GET", `/api/rasters/${raster}`, undefined, {}, signal);

export const revisionDocument = (scene: number, revision: number, signal?: AbortSignal) =>
  ask<shapes.Scene>("GET", `/api/scenes/${scene}/revisions/${revision}`, undefined, {}, signal);

export const orderBuild = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.Manifest>("POST", `/api/scenes/${scene}/builds`, body, {}, signal);

export const draftLand = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.LandDraft>("POST", `/api/scenes/${scene}/land-drafts`, body, {}, signal);

export const compareRevisions = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.CompareAnswer>("POST", `/api/scenes/${scene}/comparisons`, body, {}, signal);

export const endStroke = (scene: number, session: string, body: object, signal?: AbortSignal) =>
  ask<shapes.SceneState>("POST", `/api/scenes/${scene}/strokes/${session}/end`, body, {}, signal);

export const dropStroke = (scene: number, session: string) =>
  ask<{ deleted: string }>("DELETE", `/api/scenes/${scene}/strokes/${session}`);

export const sceneState = (scene: number, signal?: AbortSignal) =>
  ask<shapes.SceneState>("GET", `/api/scenes/${scene}`, undefined, {}, signal);

export const takePart = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.Scene>("POST", `/api/scenes/${scene}/taken`, body, {}, signal);

export const readSceneFile = (file: File, measured = false) =>
  upload<shapes.BroughtIn>(`/api/packages${measured ? "?measured=1" : ""}`, file);

export const newScene = (body: object, signal?: AbortSignal) =>
  ask<shapes.SceneState>("POST", "/api/scenes", body, {}, signal);

export const guessRaw = (file: File) => upload<shapes.RawGuess>("/api/raw-guesses", file);

export const kindFacts = (name: string, signal?: AbortSignal) =>
  ask<shapes.KindFacts>("GET", `/api/cabinet/kinds/${name}`, undefined, {}, signal);

export const deletePart = (part: number, signal?: AbortSignal) =>
  ask<unknown>("DELETE", `/api/parts/${part}`, undefined, {}, signal);

export const deleteSharedPart = (file: string, signal?: AbortSignal) =>
  ask<unknown>("DELETE", `/api/shared-parts/${file}`, undefined, {}, signal);

export const readPartFile = (file: File) => upload<shapes.PartLine>("/api/part-files", file);

export const kindsNear = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.KindNearLine[]>("POST", `/api/scenes/${scene}/kinds-near`, body, {}, signal);

export const setFavourite = (body: object, signal?: AbortSignal) =>
  ask<unknown>("POST", "/api/favourites", body, {}, signal);

export const keepDrawer = (body: object, signal?: AbortSignal) =>
  ask<shapes.DrawerLine>("POST", "/api/drawers", body, {}, signal);

export const supplierListing = (signal?: AbortSignal) =>
  ask<shapes.SupplyLine[]>("GET", "/api/supplier", undefined, {}, signal);

export const fetchSupply = (item: string, body: object, signal?: AbortSignal) =>
  ask<shapes.Supply>("POST", `/api/supplier/${item}/fetches`, body, {}, signal);

export const supplyJob = (fetch: string, signal?: AbortSignal) =>
  ask<shapes.Supply>("GET", `/api/fetches/${fetch}`, undefined, {}, signal);

export const openWindow = (scene: number, body: shapes.WindowOrder) =>
  ask<shapes.SceneState>("POST", `/api/scenes/${scene}/windows`, body);

export const makeExhibit = (body: shapes.ExhibitOrder) =>
  ask<shapes.KindAnswer>("POST", "/api/exhibits", body);

export const makeKind = (source: string, body: object, signal?: AbortSignal) =>
  ask<shapes.KindAnswer>("POST", `/api/models/${source}/kinds`, body, {}, signal);

export const cabinet = (signal?: AbortSignal) =>
  ask<shapes.Cabinet>("GET", "/api/cabinet", undefined, {}, signal);

export const cutTransect = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.TransectAnswer>("POST", `/api/scenes/${scene}/transects`, body, {}, signal);

export const whyHere = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.ReasonLine[]>("POST", `/api/scenes/${scene}/why`, body, {}, signal);

export const historyUsage = (scene: number, signal?: AbortSignal) =>
  ask<shapes.UsageAnswer>("GET", `/api/scenes/${scene}/usage`, undefined, {}, signal);

export const keepSnapshot = (scene: number, body: object, signal?: AbortSignal) =>
  ask<unknown>("POST", `/api/scenes/${scene}/snapshots`, body, {}, signal);

export const pruneHistory = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.UsageAnswer>("POST", `/api/scenes/${scene}/prunings`, body, {}, signal);

export const duplicateScene = (scene: number, signal?: AbortSignal) =>
  ask<shapes.SceneState>("POST", `/api/scenes/${scene}/duplicates`, undefined, {}, signal);

export const listParts = (signal?: AbortSignal) =>
  ask<shapes.PartLine[]>("GET", "/api/parts", undefined, {}, signal);

export const keepPart = (body: object, signal?: AbortSignal) =>
  ask<unknown>("POST", "/api/parts", body, {}, signal);

export const checkReality = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.MeasureLine[]>("POST", `/api/scenes/${scene}/reality`, body, {}, signal);

export const findFaults = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.FaultAnswer>("POST", `/api/scenes/${scene}/faults`, body, {}, signal);

export const listKeptMixes = (signal?: AbortSignal) =>
  ask<shapes.KeptMix[]>("GET", "/api/kept-mixes", undefined, {}, signal);

export const listMixes = (signal?: AbortSignal) =>
  ask<shapes.PresetLine[]>("GET", "/api/mixes", undefined, {}, signal);

export const mixHere = (scene: number, name: string, body: object, signal?: AbortSignal) =>
  ask<shapes.MixAnswer>("POST", `/api/scenes/${scene}/mixes/${name}`, body, {}, signal);

export const deleteMix = (drawer: string, mix: string, signal?: AbortSignal) =>
  ask<unknown>("DELETE", `/api/kept-mixes/${drawer}/${mix}`, undefined, {}, signal);

export const textureNearness = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.NearnessLine[]>("POST", `/api/scenes/${scene}/nearness`, body, {}, signal);

export const listGroundPresets = (signal?: AbortSignal) =>
  ask<shapes.PresetLine[]>("GET", "/api/ground-presets", undefined, {}, signal);

export const groundPresetHere = (scene: number, name: string, body: object, signal?: AbortSignal) =>
  ask<shapes.PresetAnswer>("POST", `/api/scenes/${scene}/ground-presets/${name}`, body, {}, signal);

export const listLands = (signal?: AbortSignal) =>
  ask<shapes.LandLine[]>("GET", "/api/lands", undefined, {}, signal);

export const landDocument = (name: string, signal?: AbortSignal) =>
  ask<shapes.Scene>("GET", `/api/lands/${name}`, undefined, {}, signal);

export const keepEdit = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.SceneState>("POST", `/api/scenes/${scene}/edits`, body, {}, signal);

export const stepHistory = (scene: number, step: "undo" | "redo", signal?: AbortSignal) =>
  ask<shapes.SceneState>("POST", `/api/scenes/${scene}/${step}`, undefined, {}, signal);

export const goToRevision = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.SceneState>("POST", `/api/scenes/${scene}/go-to`, body, {}, signal);

export const stopBuild = (scene: number, client: string, signal?: AbortSignal) =>
  ask<unknown>("DELETE", `/api/scenes/${scene}/builds/${client}`, undefined, {}, signal);

export const deleteScene = (scene: number, signal?: AbortSignal) =>
  ask<unknown>("DELETE", `/api/scenes/${scene}`, undefined, {}, signal);

export const sendStroke = (scene: number, session: string, body: object) =>
  answerOf(`/api/scenes/${scene}/strokes/${session}`, body);

export const readModel = (files: File[]) => sendFiles<shapes.ModelAnswer>("/api/models", files);

export const drawProof = (scene: number, body: object, signal?: AbortSignal) =>
  fileOf(`/api/scenes/${scene}/proofs`, body, signal);

export const drawMix = (scene: number, body: object, signal?: AbortSignal) =>
  fileOf(`/api/scenes/${scene}/mix-pictures`, body, signal);

export const transectFile = (scene: number, form: string, body: object, signal?: AbortSignal) =>
  fileOf(`/api/scenes/${scene}/transects.${form}`, body, signal);

export const productBytes = (key: string) => bytesOf(`/api/products/${key}`);

/** Isolines of a field that was made for the page, by its product's key. */
export const isolines = (body: {
  key: string;
  nx: number;
  ny: number;
  levels: number[];
}): Promise<ArrayBuffer> => answerOf("/api/isolines", body);

/** For each post the height above which the sun is seen. */
export const makeLight = (body: object) => ask<shapes.LightLine>("POST", "/api/lights", body);

export const sunPath = (light: Partial<shapes.Light>, signal?: AbortSignal) =>
  ask<shapes.SunPath>("POST", "/api/sun-paths", { light }, {}, signal);

export const lightTries = (body: object, signal?: AbortSignal) =>
  ask<shapes.LightTry[]>("POST", "/api/light-tries", body, {}, signal);

export const panoramas = () => ask<{ name: string; label: string }[]>("GET", "/api/panoramas");

export const newPanorama = (file: File) => upload<shapes.KeptPicture>("/api/panoramas", file);

export const cards = () => ask<{ name: string; label: string }[]>("GET", "/api/cards");

export const newCard = (file: File) => upload<shapes.KeptPicture>("/api/cards", file);

export const newLut = (file: File) => upload<shapes.KeptPicture>("/api/luts", file);

export const lightTold = (light: shapes.Light) =>
  ask<{ label: string; differs: string[] }>("POST", "/api/lights-told", { light });

export const horizon = (body: object) => ask<{ heights: number[] }>("POST", "/api/horizons", body);

export const film = (body: shapes.FilmOrder): Promise<ArrayBuffer> => answerOf("/api/films", body);

/** Grades of a shot to try. */
export const gradeTries = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.GradeTry[]>("POST", `/api/scenes/${scene}/grade-tries`, body, {}, signal);

export const sunLine = (body: {
  key: string;
  nx: number;
  ny: number;
  spacing: number;
  sun: number[];
}): Promise<ArrayBuffer> => answerOf("/api/sun-lines", body);

export const groundPicture = (name: string) => bytesOf(`/api/ground-pictures/${name}`);

export const groundMaps = (ground: string) => bytesOf(`/api/${ground}/maps`);

/** Sends a file as it is, with its name. */
function upload<T>(path: string, file: File): Promise<T> {
  return ask<T>("POST", path, file, {
    "X-Name": encodeURIComponent(file.name).slice(0, 180),
    "Content-Type": "application/octet-stream",
  });
}

/** What the server knows: the schema of a scene and every register that a menu or panel shows. */
export const catalogue = () => ask<shapes.Catalogue>("GET", "/api/catalogue");

/** Keeps a heightmap or mask; raw posts need their layout. */
export function newRaster(file: File, layout?: shapes.RawLayout) {
  const query = layout ? `?${new URLSearchParams(asText(layout))}` : "";
  return upload<shapes.RasterInfo>(`/api/rasters${query}`, file);
}

/** Steps of the history before one, or its snapshots. */
export function historyOf(scene: number, query: Record<string, string>) {
  return ask<shapes.Step[]>("GET", `/api/scenes/${scene}/history?${new URLSearchParams(query)}`);
}

/** The colours of a zone map with their masks. */
export const readZones = (file: File, tolerance: number) =>
  upload<shapes.ZoneLine[]>(`/api/zones?tolerance=${tolerance}`, file);

/** Keeps a texture set; `mend` makes its edges meet. */
export const readTexture = (files: File[], mend: boolean) =>
  sendFiles<shapes.TextureAnswer>(`/api/textures${mend ? "?mend=1" : ""}`, files);

/** Keeps a picture of a whole ground: the colour and, if given, the relief. */
export const readGroundPicture = (form: FormData) =>
  ask<shapes.PictureAnswer>("POST", "/api/ground-pictures", form);

/** A kind's meshes in a look. */
export const kindShape = (name: string, look: string) =>
  bytesOf(`/api/cabinet/kinds/${name}/shape${look}`);

/** What a list of a scene offers to add. */
export const listOffers = (list: string) => ask<shapes.OfferLine[]>("GET", `/api/offers/${list}`);

/** The rules that a where-list of a stage may take. */
export const listRules = (stage: string) => ask<shapes.OfferLine[]>("GET", `/api/rules/${stage}`);

/** Does a work of the core on a document; what it gives is not kept yet. */
export const doWork = (scene: number, name: string, body: object) =>
  ask<shapes.WorkAnswer>("POST", `/api/scenes/${scene}/works/${encodeURIComponent(name)}`, body);

/** First values of the brush on a scene. */
export const firstBrush = (scene: number) => ask<object>("GET", `/api/scenes/${scene}/brush`);

/** Sizes, qualities and projections of a still. */
export const stillChoices = () => ask<shapes.StillChoices>("GET", "/api/still-choices");

/** What a still will take. */
export const stillForecast = (body: shapes.StillOrder, signal?: AbortSignal) =>
  ask<shapes.StillForecast>("POST", "/api/still-forecasts", body, {}, signal);

/** Orders a still. */
export const newStill = (scene: number, body: shapes.NewStill) =>
  ask<shapes.StillLine>("POST", `/api/scenes/${scene}/stills`, body);

/** The stills of a scene. */
export const listStills = (scene: number) =>
  ask<shapes.StillLine[]>("GET", `/api/scenes/${scene}/stills`);

/** What a shot's lens sees and where it is sharp. */
export const lens = (scene: number, body: shapes.LensOrder, signal?: AbortSignal) =>
  ask<shapes.LensLine>("POST", `/api/scenes/${scene}/lenses`, body, {}, signal);

/** Lets a still run, pause or stop. */
export const wishStill = (still: string, wish: "run" | "pause" | "stop") =>
  ask<shapes.StillLine>("POST", `/api/stills/${still}/wishes`, { wish });

/** Takes a still away. */
export const dropStill = (still: string) => ask<object>("DELETE", `/api/stills/${still}`);

/** What a plot costs in full. */
export const plotCost = (plot: object, signal?: AbortSignal) =>
  ask<shapes.PlotCost>("POST", "/api/plot-costs", plot, {}, signal);

/** The document of a new scene on a plot. */
export const newDocument = (body: object) => ask<object>("POST", "/api/new-documents", body);

/** The settings of an entry that may be varied, and twelve values of one. */
export const proofPlan = (scene: number, body: object, signal?: AbortSignal) =>
  ask<shapes.ProofPlan>("POST", `/api/scenes/${scene}/proof-plans`, body, {}, signal);

/** A mix of a document as the content of a file. */
export const mixFile = (scene: number, body: object) =>
  fileOf(`/api/scenes/${scene}/mix-files`, body);

const asText = (values: object) =>
  Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value)]));
