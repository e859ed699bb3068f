/** One typed function for each route of the server; no other file knows a path. */
import { api, formOf, onScene, pictureOf, told, upload, type Body } from "./client";
import type * as shapes from "./shapes";

export const maskPicture = (
  scene: number,
  mark: string,
  body: Body<"/api/scenes/{scene}/mask-pictures/{mark}">,
  signal?: AbortSignal,
) =>
  told(
    api.POST("/api/scenes/{scene}/mask-pictures/{mark}", {
      params: { path: { scene, mark } },
      body,
      signal,
    }),
  );

export const moments = onScene("/api/scenes/{scene}/moments");

export const matchColour = onScene("/api/scenes/{scene}/match");

export const forecastHandOver = onScene("/api/scenes/{scene}/hand-over-forecasts");

export const listHandOvers = (scene: number, signal?: AbortSignal) =>
  told(api.GET("/api/scenes/{scene}/hand-overs", { params: { path: { scene } }, signal }));

export const startHandOver = onScene("/api/scenes/{scene}/hand-overs");

export const stopHandOver = (job: string, signal?: AbortSignal) =>
  told(api.DELETE("/api/hand-overs/{job}", { params: { path: { job } }, signal }));

export const readLines = (scene: number, file: File) =>
  upload("/api/scenes/{scene}/lines", { scene }, file);

export const readContours = (scene: number, file: File) =>
  upload("/api/scenes/{scene}/contours", { scene }, file);

export const fillMask = onScene("/api/scenes/{scene}/masks");

export const readPlaces = (scene: number, file: File) =>
  upload("/api/scenes/{scene}/places", { scene }, file);

export const keepMix = onScene("/api/scenes/{scene}/kept-mixes");

export const pullTones = onScene("/api/scenes/{scene}/tones");

export const whereHolds = onScene("/api/scenes/{scene}/where");

export const survey = onScene("/api/scenes/{scene}/surveys");

export const listScenes = (signal?: AbortSignal) => told(api.GET("/api/scenes", { signal }));

export const borrowLand = onScene("/api/scenes/{scene}/borrowed");

export const rasterFacts = (raster: string, signal?: AbortSignal) =>
  told(api.GET("/api/rasters/{name}", { params: { path: { name: raster } }, signal }));

export const revisionDocument = (scene: number, revision: number, signal?: AbortSignal) =>
  told(
    api.GET("/api/scenes/{scene}/revisions/{revision}", {
      params: { path: { scene, revision } },
      signal,
    }),
  );

export const orderBuild = onScene("/api/scenes/{scene}/builds");

export const draftLand = onScene("/api/scenes/{scene}/land-drafts");

export const compareRevisions = onScene("/api/scenes/{scene}/comparisons");

export const endStroke = (
  scene: number,
  session: string,
  body: Body<"/api/scenes/{scene}/strokes/{session}/end">,
  signal?: AbortSignal,
) =>
  told(
    api.POST("/api/scenes/{scene}/strokes/{session}/end", {
      params: { path: { scene, session } },
      body,
      signal,
    }),
  );

export const dropStroke = (scene: number, session: string) =>
  told(
    api.DELETE("/api/scenes/{scene}/strokes/{session}", { params: { path: { scene, session } } }),
  );

export const sceneState = (scene: number, signal?: AbortSignal) =>
  told(api.GET("/api/scenes/{scene}", { params: { path: { scene } }, signal }));

export const takePart = onScene("/api/scenes/{scene}/taken");

export const readSceneFile = (file: File, measured = false) =>
  upload("/api/packages", {}, file, measured ? { measured: "1" } : {});

export const newScene = (body: Body<"/api/scenes">, signal?: AbortSignal) =>
  told(api.POST("/api/scenes", { body, signal }));

export const guessRaw = (file: File) => upload("/api/raw-guesses", {}, file);

export const kindFacts = (name: string, signal?: AbortSignal) =>
  told(api.GET("/api/cabinet/kinds/{name}", { params: { path: { name } }, signal }));

export const deletePart = (part: number, signal?: AbortSignal) =>
  told(api.DELETE("/api/parts/{part}", { params: { path: { part } }, signal }));

export const deleteSharedPart = (file: string, signal?: AbortSignal) =>
  told(api.DELETE("/api/shared-parts/{file}", { params: { path: { file } }, signal }));

export const readPartFile = (file: File) => upload("/api/part-files", {}, file);

export const kindsNear = onScene("/api/scenes/{scene}/kinds-near");

export const setFavourite = (body: Body<"/api/favourites">, signal?: AbortSignal) =>
  told(api.POST("/api/favourites", { body, signal }));

export const keepDrawer = (body: Body<"/api/drawers">, signal?: AbortSignal) =>
  told(api.POST("/api/drawers", { body, signal }));

export const supplierListing = (signal?: AbortSignal) => told(api.GET("/api/supplier", { signal }));

export const fetchSupply = (
  item: string,
  body: Body<"/api/supplier/{item}/fetches">,
  signal?: AbortSignal,
) => told(api.POST("/api/supplier/{item}/fetches", { params: { path: { item } }, body, signal }));

export const supplyJob = (fetch: string, signal?: AbortSignal) =>
  told(api.GET("/api/fetches/{fetch}", { params: { path: { fetch } }, signal }));

export const openWindow = onScene("/api/scenes/{scene}/windows");

export const makeExhibit = (body: Body<"/api/exhibits">) =>
  told(api.POST("/api/exhibits", { body }));

export const makeKind = (
  source: string,
  body: Body<"/api/models/{source}/kinds">,
  signal?: AbortSignal,
) => told(api.POST("/api/models/{source}/kinds", { params: { path: { source } }, body, signal }));

export const cabinet = (signal?: AbortSignal) => told(api.GET("/api/cabinet", { signal }));

export const cutTransect = onScene("/api/scenes/{scene}/transects");

export const whyHere = onScene("/api/scenes/{scene}/why");

export const historyUsage = (scene: number, signal?: AbortSignal) =>
  told(api.GET("/api/scenes/{scene}/usage", { params: { path: { scene } }, signal }));

export const keepSnapshot = onScene("/api/scenes/{scene}/snapshots");

export const pruneHistory = onScene("/api/scenes/{scene}/prunings");

export const duplicateScene = (scene: number, signal?: AbortSignal) =>
  told(api.POST("/api/scenes/{scene}/duplicates", { params: { path: { scene } }, signal }));

export const listParts = (signal?: AbortSignal) => told(api.GET("/api/parts", { signal }));

export const keepPart = (body: Body<"/api/parts">, signal?: AbortSignal) =>
  told(api.POST("/api/parts", { body, signal }));

export const checkReality = onScene("/api/scenes/{scene}/reality");

export const findFaults = onScene("/api/scenes/{scene}/faults");

export const listKeptMixes = (signal?: AbortSignal) => told(api.GET("/api/kept-mixes", { signal }));

export const listMixes = (signal?: AbortSignal) => told(api.GET("/api/mixes", { signal }));

export const mixHere = (
  scene: number,
  name: string,
  body: Body<"/api/scenes/{scene}/mixes/{name}">,
  signal?: AbortSignal,
) =>
  told(
    api.POST("/api/scenes/{scene}/mixes/{name}", {
      params: { path: { scene, name } },
      body,
      signal,
    }),
  );

export const deleteMix = (drawer: string, mix: string, signal?: AbortSignal) =>
  told(api.DELETE("/api/kept-mixes/{drawer}/{mix}", { params: { path: { drawer, mix } }, signal }));

export const textureNearness = onScene("/api/scenes/{scene}/nearness");

export const listGroundPresets = (signal?: AbortSignal) =>
  told(api.GET("/api/ground-presets", { signal }));

export const groundPresetHere = (
  scene: number,
  name: string,
  body: Body<"/api/scenes/{scene}/ground-presets/{name}">,
  signal?: AbortSignal,
) =>
  told(
    api.POST("/api/scenes/{scene}/ground-presets/{name}", {
      params: { path: { scene, name } },
      body,
      signal,
    }),
  );

export const listLands = (signal?: AbortSignal) => told(api.GET("/api/lands", { signal }));

export const landDocument = (name: string, signal?: AbortSignal) =>
  told(api.GET("/api/lands/{name}", { params: { path: { name } }, signal }));

export const keepEdit = onScene("/api/scenes/{scene}/edits");

export const stepHistory = (scene: number, step: "undo" | "redo", signal?: AbortSignal) =>
  told(api.POST(`/api/scenes/{scene}/${step}`, { params: { path: { scene } }, signal }));

export const goToRevision = onScene("/api/scenes/{scene}/go-to");

export const stopBuild = (scene: number, client: string, signal?: AbortSignal) =>
  told(
    api.DELETE("/api/scenes/{scene}/builds/{client}", {
      params: { path: { scene, client } },
      signal,
    }),
  );

export const deleteScene = (scene: number, signal?: AbortSignal) =>
  told(api.DELETE("/api/scenes/{scene}", { params: { path: { scene } }, signal }));

export const sendStroke = (
  scene: number,
  session: string,
  body: Body<"/api/scenes/{scene}/strokes/{session}">,
) =>
  told(
    api.POST("/api/scenes/{scene}/strokes/{session}", {
      params: { path: { scene, session } },
      body,
      parseAs: "arrayBuffer",
    }),
  );

export const readModel = (files: File[]) => upload("/api/models", {}, formOf(files));

export const drawProof = pictureOf("/api/scenes/{scene}/proofs");

export const drawMix = pictureOf("/api/scenes/{scene}/mix-pictures");

export const transectFile = (
  scene: number,
  form: "csv" | "svg",
  body: Body<"/api/scenes/{scene}/transects.csv">,
  signal?: AbortSignal,
) =>
  told(
    api.POST(`/api/scenes/{scene}/transects.${form}`, {
      params: { path: { scene } },
      body,
      parseAs: "blob",
      signal,
    }),
  );

export const productBytes = (key: string) =>
  told(api.GET("/api/products/{key}", { params: { path: { key } }, parseAs: "arrayBuffer" }));

/** Isolines of a field that was made for the page, by its product's key. */
export const isolines = (body: Body<"/api/isolines">) =>
  told(api.POST("/api/isolines", { body, parseAs: "arrayBuffer" }));

/** For each post the height above which the sun is seen. */
export const makeLight = (body: Body<"/api/lights">) => told(api.POST("/api/lights", { body }));

export const sunPath = (light: Partial<shapes.Light>, signal?: AbortSignal) =>
  told(api.POST("/api/sun-paths", { body: { light }, signal }));

export const lightTries = (body: Body<"/api/light-tries">, signal?: AbortSignal) =>
  told(api.POST("/api/light-tries", { body, signal }));

export const panoramas = () => told(api.GET("/api/panoramas"));

export const newPanorama = (file: File) => upload("/api/panoramas", {}, file);

export const cards = () => told(api.GET("/api/cards"));

export const newCard = (file: File) => upload("/api/cards", {}, file);

export const newLut = (file: File) => upload("/api/luts", {}, file);

export const lightTold = (light: shapes.Light) =>
  told(api.POST("/api/lights-told", { body: { light } }));

export const horizon = (body: Body<"/api/horizons">) => told(api.POST("/api/horizons", { body }));

export const film = (body: Body<"/api/films">) =>
  told(api.POST("/api/films", { body, parseAs: "arrayBuffer" }));

/** Grades of a shot to try. */
export const gradeTries = onScene("/api/scenes/{scene}/grade-tries");

export const sunLine = (body: Body<"/api/sun-lines">) =>
  told(api.POST("/api/sun-lines", { body, parseAs: "arrayBuffer" }));

export const groundPicture = (name: string) =>
  told(
    api.GET("/api/ground-pictures/{name}", { params: { path: { name } }, parseAs: "arrayBuffer" }),
  );

export const groundMaps = (drawer: "cabinet/grounds" | "textures", name: string) =>
  told(
    api.GET(`/api/${drawer}/{name}/maps`, { params: { path: { name } }, parseAs: "arrayBuffer" }),
  );

/** What the server knows: the schema of a scene and every register that a menu or panel shows. */
export const catalogue = () =>
  told(api.GET("/api/catalogue")) as Promise<unknown> as Promise<shapes.Catalogue>;

/** Keeps a heightmap or mask; raw posts need their layout. */
export const newRaster = (file: File, layout?: shapes.RawLayout) =>
  upload("/api/rasters", {}, file, layout ? asText(layout) : {});

/** Steps of the history before one, or its snapshots. */
export const historyOf = (scene: number, query: { before?: string; snapshots?: string }) =>
  told(api.GET("/api/scenes/{scene}/history", { params: { path: { scene }, query } }));

/** The colours of a zone map with their masks. */
export const readZones = (file: File, tolerance: number) =>
  upload("/api/zones", {}, file, { tolerance: String(tolerance) });

/** Keeps a texture set; `mend` makes its edges meet. */
export const readTexture = (files: File[], mend: boolean) =>
  upload("/api/textures", {}, formOf(files), mend ? { mend: "1" } : {});

/** Keeps a picture of a whole ground: the colour and, if given, the relief. */
export const readGroundPicture = (form: FormData) => upload("/api/ground-pictures", {}, form);

/** A kind's meshes in a look. */
export const kindShape = (name: string, look: string) =>
  told(
    api.GET("/api/cabinet/kinds/{name}/shape", {
      params: { path: { name }, query: { look } },
      parseAs: "arrayBuffer",
    }),
  );

/** What a list of a scene offers to add. */
export const listOffers = (list: string) =>
  told(api.GET("/api/offers/{name}", { params: { path: { name: list } } }));

/** The rules that a where-list of a stage may take. */
export const listRules = (stage: string) =>
  told(api.GET("/api/rules/{stage}", { params: { path: { stage } } }));

/** Does a work of the core on a document; what it gives is not kept yet. */
export const doWork = (
  scene: number,
  name: string,
  body: Body<"/api/scenes/{scene}/works/{name}">,
) =>
  told(
    api.POST("/api/scenes/{scene}/works/{name}", {
      params: { path: { scene, name } },
      body,
    }),
  );

/** First values of the brush on a scene. */
export const firstBrush = (scene: number) =>
  told(api.GET("/api/scenes/{scene}/brush", { params: { path: { scene } } }));

/** Sizes, qualities and projections of a still. */
export const stillChoices = () => told(api.GET("/api/still-choices"));

/** What a still will take. */
export const stillForecast = (body: Body<"/api/still-forecasts">, signal?: AbortSignal) =>
  told(api.POST("/api/still-forecasts", { body, signal }));

/** Orders a still. */
export const newStill = onScene("/api/scenes/{scene}/stills");

/** The stills of a scene. */
export const listStills = (scene: number) =>
  told(api.GET("/api/scenes/{scene}/stills", { params: { path: { scene } } }));

/** What a shot's lens sees and where it is sharp. */
export const lens = onScene("/api/scenes/{scene}/lenses");

/** Lets a still run, pause or stop. */
export const wishStill = (still: string, wish: "run" | "pause" | "stop") =>
  told(api.POST("/api/stills/{still}/wishes", { params: { path: { still } }, body: { wish } }));

/** Takes a still away. */
export const dropStill = (still: string) =>
  told(api.DELETE("/api/stills/{still}", { params: { path: { still } } }));

/** What a plot costs in full. */
export const plotCost = (plot: Body<"/api/plot-costs">, signal?: AbortSignal) =>
  told(api.POST("/api/plot-costs", { body: plot, signal }));

/** The document of a new scene on a plot. */
export const newDocument = (body: Body<"/api/new-documents">) =>
  told(api.POST("/api/new-documents", { body }));

/** The settings of an entry that may be varied, and twelve values of one. */
export const proofPlan = onScene("/api/scenes/{scene}/proof-plans");

/** A mix of a document as the content of a file. */
export const mixFile = (scene: number, body: Body<"/api/scenes/{scene}/mix-files">) =>
  told(
    api.POST("/api/scenes/{scene}/mix-files", {
      params: { path: { scene } },
      body,
      parseAs: "blob",
    }),
  );

const asText = (values: object) =>
  Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value)]));
