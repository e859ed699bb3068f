/** Addresses of pictures and files that an element of the page loads by itself. */

export const product = (key: string) => `/api/products/${key}`;

export const exporterPicture = (scene: number, name: string, tick = "") =>
  `/api/scenes/${scene}/exporters/${name}${tick && `/${tick}`}.png`;

export const partFile = (part: number) => `/api/parts/${part}/part.zip`;

export const kindPicture = (name: string, look = "") =>
  `/api/cabinet/kinds/${name}.png${look ? `?look=${look}` : ""}`;

export const kindTurning = (name: string, look: string) =>
  `/api/cabinet/kinds/${name}/turning.png?look=${look}`;

export const kindSheet = (name: string, look: string) =>
  `/api/cabinet/kinds/${name}/sheet.png${look}`;

export const kindFile = (name: string, look: string) =>
  `/api/cabinet/kinds/${name}/kind.glb?look=${look}`;

export const drawerPicture = (drawer: "kinds" | "grounds" | "heightmaps", name: string) =>
  `/api/cabinet/${drawer}/${name}.png`;

export const landPicture = (name: string) => `/api/lands/${name}.jpg`;

export const offerPicture = (list: string, key: string) => `/api/offers/${list}/${key}.png`;

export const revisionPicture = (scene: number, revision: number) =>
  `/api/scenes/${scene}/revisions/${revision}.png`;

export const sceneFile = (scene: number, name: string) => `/api/scenes/${scene}/${name}`;

export const events = "/api/events";

export const cardPicture = (raster: string) => `/api/cards/${raster}.jpg`;

export const gradeCdl = (scene: number, shot: string) =>
  `/api/scenes/${scene}/shots/${shot}/grade.cdl`;

export const gradeCube = (scene: number, shot: string) =>
  `/api/scenes/${scene}/shots/${encodeURIComponent(shot)}/grade.cube`;

export const stillSoFar = (still: string, shown: number) =>
  `/api/stills/${still}/so-far.jpg?shown=${shown}`;

export const stillFile = (still: string, name: string) => `/api/stills/${still}/files/${name}`;

export const stillFiles = (still: string) => `/api/stills/${still}/files.zip`;

export const handOverFiles = (job: string) => `/api/hand-overs/${job}/files.zip`;
