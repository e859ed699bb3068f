/** What is seen of all that was drawn: the face's last picture, and the inset's over it. */
import * as THREE from "three";
import type { Shot } from "../api/shapes";
import type { Developer } from "./develop";
import { target } from "./targets";

const QUICK = 0.6; // below such a share of the pixels it is developed small

export interface Inset {
  shot: Shot;
  x: number;
  y: number;
  width: number;
  height: number;
}

export class Screen {
  /** How many pictures were shown so far. */
  shows = 0;
  private insetPicture: THREE.WebGLRenderTarget | null = null;
  private insetAt: Inset | null = null;
  private shown: { from: THREE.WebGLRenderTarget; frames: number; part: THREE.Vector2 } | null =
    null;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly developer: Developer,
  ) {}

  get hasPicture(): boolean {
    return this.shown !== null;
  }

  /** A sum of frames is the face's picture; parts of it across and down are used. */
  show(from: THREE.WebGLRenderTarget, frames: number, across: number, down: number) {
    this.shows++;
    this.shown = { from, frames, part: new THREE.Vector2(across, down) };
    this.present();
  }

  /** A picture of a size, for the inset to be drawn in. */
  insetOf(width: number, height: number): THREE.WebGLRenderTarget {
    if (this.insetPicture?.width !== width || this.insetPicture.height !== height) {
      this.insetPicture?.dispose();
      this.insetPicture = target(width, height, true);
    }
    return this.insetPicture;
  }

  /** The inset's picture is drawn. */
  showInset(inset: Inset) {
    this.insetAt = inset;
    this.present();
  }

  /** The inset is no longer asked for, or another is. */
  forgetInset(now: Inset | null) {
    if (JSON.stringify(now) !== JSON.stringify(this.insetAt)) this.insetAt = null;
  }

  /** What was drawn last, on the canvas. */
  present(withInset = true) {
    if (!this.shown) return;
    const { from, frames, part } = this.shown;
    const size = this.renderer.getSize(new THREE.Vector2());
    this.renderer.setRenderTarget(null);
    this.renderer.setViewport(0, 0, size.x, size.y);
    if (part.x * part.y < QUICK) this.developer.enlarge(from, frames, part);
    else this.developer.show(from, frames, null, part);
    const inset = withInset ? this.insetAt : null;
    if (!inset || !this.insetPicture) return;
    const { x, y, width, height } = inset;
    this.renderer.setScissorTest(true);
    this.renderer.setViewport(x, size.y - y - height, width, height);
    this.renderer.setScissor(x, size.y - y - height, width, height);
    this.developer.show(this.insetPicture, 1, null);
    this.renderer.setScissorTest(false);
    this.renderer.setViewport(0, 0, size.x, size.y);
  }

  /** What was drawn belongs to another scene, or to another size. */
  forget() {
    this.shown = null;
    this.insetAt = null;
  }

  /** The face without the inset, as a picture's address. */
  photograph(): string {
    this.present(false);
    const out = this.renderer.domElement.toDataURL("image/jpeg", 0.92);
    this.present();
    return out;
  }

  /** The face without the inset, small. Null before the first picture. */
  thumbnail(width: number): string | null {
    if (!this.shown) return null;
    const canvas = this.renderer.domElement;
    this.present(false);
    const small = document.createElement("canvas");
    small.width = width;
    small.height = Math.round((width * canvas.height) / Math.max(1, canvas.width));
    small.getContext("2d")!.drawImage(canvas, 0, 0, small.width, small.height);
    this.present();
    return small.toDataURL("image/jpeg", 0.7);
  }
}
