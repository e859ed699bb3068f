/** First values of every slice of the page's state. */
import type { GoingOn, Held, Looked, OpenScene, Page, SetUp } from "./slices";

const openScene = (): OpenScene => ({
  id: null,
  doc: null,
  state: null,
  manifest: null,
  products: null,
  settled: false,
  pictured: false,
  job: null,
  stills: [],
  stillAt: null,
  time: null,
});

const looked = (): Looked => ({
  chosen: null,
  several: new Set(),
  hidden: new Set(),
  place: null,
  insetShot: null,
  seenAs: null,
  stepped: null,
  sheet: null,
  transect: null,
  without: null,
  compared: null,
});

const held = (): Held => ({
  tool: null,
  brush: null,
  mapAt: null,
  drawing: [],
  mask: null,
  marking: null,
  cabinetAt: null,
});

const setUp = (): SetUp => ({
  open: "land",
  pinned: false,
  pose: { east: 0, north: 0, up: 0, bearing: 0, tilt: 0, focal: 28 },
  mapOnFace: false,
  clean: false,
  why: false,
  placing: "person",
  playing: false,
  frameLines: true,
  insetWide: 222,
  speed: null,
  reference: { how: "over", share: 0.5 },
  thinned: { budget: null, proxies: false },
});

const goingOn = (): GoingOn => ({
  cabinet: null,
  catalogue: null,
  sun: null,
  progress: null,
  building: false,
  trouble: null,
  lost: false,
  told: null,
  frames: 0,
  viewLacking: null,
  dialog: null,
  confirm: null,
  raw: null,
  broughtIn: null,
});

/** What begins anew when a scene is opened. */
export const ofScene = (): OpenScene & Looked & Held => ({
  ...openScene(),
  ...looked(),
  ...held(),
});

/** All of it, as the page begins. */
export const firsts = (): Page => ({ ...ofScene(), ...setUp(), ...goingOn() });
