/** One typed function for each route of the server; no other file knows a path. */
import { api, formOf, told, upload, type Body } from "./client";
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

export const moments = (
  scene: number,
  body: Body<"/api/scenes/{scene}/moments">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/moments", { params: { path: { scene } }, body, signal }));

export const matchColour = (
  scene: number,
  body: Body<"/api/scenes/{scene}/match">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/match", { params: { path: { scene } }, body, signal }));

export const forecastHandOver = (
  scene: number,
  body: Body<"/api/scenes/{scene}/hand-over-forecasts">,
  signal?: AbortSignal,
) =>
  told(
    api.POST("/api/scenes/{scene}/hand-over-forecasts", {
      params: { path: { scene } },
      body,
      signal,
    }),
  );

export const listHandOvers = (scene: number, signal?: AbortSignal) =>
  told(api.GET("/api/scenes/{scene}/hand-overs", { params: { path: { scene } }, signal }));

export const startHandOver = (
  scene: number,
  body: Body<"/api/scenes/{scene}/hand-overs">,
  signal?: AbortSignal,
) =>
  told(api.POST("/api/scenes/{scene}/hand-overs", { params: { path: { scene } }, body, signal }));

export const stopHandOver = (job: string, signal?: AbortSignal) =>
  told(api.DELETE("/api/hand-overs/{job}", { params: { path: { job } }, signal }));

export const readLines = (scene: number, file: File) =>
  upload("/api/scenes/{scene}/lines", { scene }, file);

export const readContours = (scene: number, file: File) =>
  upload("/api/scenes/{scene}/contours", { scene }, file);

export const fillMask = (
  scene: number,
  body: Body<"/api/scenes/{scene}/masks">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/masks", { params: { path: { scene } }, body, signal }));

export const readPlaces = (scene: number, file: File) =>
  upload("/api/scenes/{scene}/places", { scene }, file);

export const keepMix = (scene: number, body: Body<"/api/scenes/{scene}/kept-mixes">) =>
  told(api.POST("/api/scenes/{scene}/kept-mixes", { params: { path: { scene } }, body }));

export const pullTones = (
  scene: number,
  body: Body<"/api/scenes/{scene}/tones">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/tones", { params: { path: { scene } }, body, signal }));

export const whereHolds = (
  scene: number,
  body: Body<"/api/scenes/{scene}/where">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/where", { params: { path: { scene } }, body, signal }));

export const survey = (
  scene: number,
  body: Body<"/api/scenes/{scene}/surveys">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/surveys", { params: { path: { scene } }, body, signal }));

export const listScenes = (signal?: AbortSignal) => told(api.GET("/api/scenes", { signal }));

export const borrowLand = (
  scene: number,
  body: Body<"/api/scenes/{scene}/borrowed">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/borrowed", { params: { path: { scene } }, body, signal }));

export const rasterFacts = (raster: string, signal?: AbortSignal) =>
  told(api.GET("/api/rasters/{name}", { params: { path: { name: raster } }, signal }));

export const revisionDocument = (scene: number, revision: number, signal?: AbortSignal) =>
  told(
    api.GET("/api/scenes/{scene}/revisions/{revision}", {
      params: { path: { scene, revision } },
      signal,
    }),
  );

export const orderBuild = (
  scene: number,
  body: Body<"/api/scenes/{scene}/builds">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/builds", { params: { path: { scene } }, body, signal }));

export const draftLand = (
  scene: number,
  body: Body<"/api/scenes/{scene}/land-drafts">,
  signal?: AbortSignal,
) =>
  told(api.POST("/api/scenes/{scene}/land-drafts", { params: { path: { scene } }, body, signal }));

export const compareRevisions = (
  scene: number,
  body: Body<"/api/scenes/{scene}/comparisons">,
  signal?: AbortSignal,
) =>
  told(api.POST("/api/scenes/{scene}/comparisons", { params: { path: { scene } }, body, signal }));

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

export const takePart = (
  scene: number,
  body: Body<"/api/scenes/{scene}/taken">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/taken", { params: { path: { scene } }, body, signal }));

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

export const kindsNear = (
  scene: number,
  body: Body<"/api/scenes/{scene}/kinds-near">,
  signal?: AbortSignal,
) =>
  told(api.POST("/api/scenes/{scene}/kinds-near", { params: { path: { scene } }, body, signal }));

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

export const openWindow = (scene: number, body: Body<"/api/scenes/{scene}/windows">) =>
  told(api.POST("/api/scenes/{scene}/windows", { params: { path: { scene } }, body }));

export const makeExhibit = (body: Body<"/api/exhibits">) =>
  told(api.POST("/api/exhibits", { body }));

export const makeKind = (
  source: string,
  body: Body<"/api/models/{source}/kinds">,
  signal?: AbortSignal,
) => told(api.POST("/api/models/{source}/kinds", { params: { path: { source } }, body, signal }));

export const cabinet = (signal?: AbortSignal) => told(api.GET("/api/cabinet", { signal }));

export const cutTransect = (
  scene: number,
  body: Body<"/api/scenes/{scene}/transects">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/transects", { params: { path: { scene } }, body, signal }));

export const whyHere = (
  scene: number,
  body: Body<"/api/scenes/{scene}/why">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/why", { params: { path: { scene } }, body, signal }));

export const historyUsage = (scene: number, signal?: AbortSignal) =>
  told(api.GET("/api/scenes/{scene}/usage", { params: { path: { scene } }, signal }));

export const keepSnapshot = (
  scene: number,
  body: Body<"/api/scenes/{scene}/snapshots">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/snapshots", { params: { path: { scene } }, body, signal }));

export const pruneHistory = (
  scene: number,
  body: Body<"/api/scenes/{scene}/prunings">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/prunings", { params: { path: { scene } }, body, signal }));

export const duplicateScene = (scene: number, signal?: AbortSignal) =>
  told(api.POST("/api/scenes/{scene}/duplicates", { params: { path: { scene } }, signal }));

export const listParts = (signal?: AbortSignal) => told(api.GET("/api/parts", { signal }));

export const keepPart = (body: Body<"/api/parts">, signal?: AbortSignal) =>
  told(api.POST("/api/parts", { body, signal }));

export const checkReality = (
  scene: number,
  body: Body<"/api/scenes/{scene}/reality">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/reality", { params: { path: { scene } }, body, signal }));

export const findFaults = (
  scene: number,
  body: Body<"/api/scenes/{scene}/faults">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/faults", { params: { path: { scene } }, body, signal }));

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

export const textureNearness = (
  scene: number,
  body: Body<"/api/scenes/{scene}/nearness">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/nearness", { params: { path: { scene } }, body, signal }));

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

export const keepEdit = (
  scene: number,
  body: Body<"/api/scenes/{scene}/edits">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/edits", { params: { path: { scene } }, body, signal }));

export const stepHistory = (scene: number, step: "undo" | "redo", signal?: AbortSignal) =>
  told(api.POST(`/api/scenes/{scene}/${step}`, { params: { path: { scene } }, signal }));

export const goToRevision = (
  scene: number,
  body: Body<"/api/scenes/{scene}/go-to">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/go-to", { params: { path: { scene } }, body, signal }));

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

export const drawProof = (
  scene: number,
  body: Body<"/api/scenes/{scene}/proofs">,
  signal?: AbortSignal,
) =>
  told(
    api.POST("/api/scenes/{scene}/proofs", {
      params: { path: { scene } },
      body,
      parseAs: "blob",
      signal,
    }),
  );

export const drawMix = (
  scene: number,
  body: Body<"/api/scenes/{scene}/mix-pictures">,
  signal?: AbortSignal,
) =>
  told(
    api.POST("/api/scenes/{scene}/mix-pictures", {
      params: { path: { scene } },
      body,
      parseAs: "blob",
      signal,
    }),
  );

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
export const gradeTries = (
  scene: number,
  body: Body<"/api/scenes/{scene}/grade-tries">,
  signal?: AbortSignal,
) =>
  told(api.POST("/api/scenes/{scene}/grade-tries", { params: { path: { scene } }, body, signal }));

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
export const newStill = (scene: number, body: Body<"/api/scenes/{scene}/stills">) =>
  told(api.POST("/api/scenes/{scene}/stills", { params: { path: { scene } }, body }));

/** The stills of a scene. */
export const listStills = (scene: number) =>
  told(api.GET("/api/scenes/{scene}/stills", { params: { path: { scene } } }));

/** What a shot's lens sees and where it is sharp. */
export const lens = (
  scene: number,
  body: Body<"/api/scenes/{scene}/lenses">,
  signal?: AbortSignal,
) => told(api.POST("/api/scenes/{scene}/lenses", { params: { path: { scene } }, body, signal }));

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
export const proofPlan = (
  scene: number,
  body: Body<"/api/scenes/{scene}/proof-plans">,
  signal?: AbortSignal,
) =>
  told(api.POST("/api/scenes/{scene}/proof-plans", { params: { path: { scene } }, body, signal }));

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
