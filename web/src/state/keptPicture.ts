/** The last picture of each scene, small, kept in the browser; shown until the first is drawn. */

const NAME = "sow-face-";
const LIST = "sow-faces";
const MOST = 24;

const listed = (): number[] => {
  try {
    return JSON.parse(localStorage.getItem(LIST) ?? "[]") as number[];
  } catch {
    return [];
  }
};

export function keptPicture(scene: number): string | null {
  try {
    return localStorage.getItem(NAME + scene);
  } catch {
    return null; // the browser keeps nothing
  }
}

export function keepPicture(scene: number, picture: string) {
  try {
    const scenes = [scene, ...listed().filter((id) => id !== scene)];
    for (const old of scenes.splice(MOST)) localStorage.removeItem(NAME + old);
    localStorage.setItem(NAME + scene, picture);
    localStorage.setItem(LIST, JSON.stringify(scenes));
  } catch {
    // no room: the face begins empty next time
  }
}
