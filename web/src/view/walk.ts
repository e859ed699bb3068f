/** Moving about: look round, go round a point, walk, rise, come nearer. */
import { heightAt } from "./field";
import type { Pose } from "./pose";
import type { View } from "./view";

const MOVES: Record<string, [number, number, number]> = {
  ArrowUp: [0, 1, 0],
  ArrowDown: [0, -1, 0],
  ArrowLeft: [-1, 0, 0],
  ArrowRight: [1, 0, 0],
  PageUp: [0, 0, 1],
  PageDown: [0, 0, -1],
  KeyW: [0, 1, 0],
  KeyS: [0, -1, 0],
  KeyA: [-1, 0, 0],
  KeyD: [1, 0, 0],
};

const ON_FOOT = 6; // m/s
const MOST_PACE = 40;

export class Walk {
  /** By how much faster or slower than of itself the eye travels: set by the wheel with Alt. */
  pace = 1;
  /** Hears of another speed, in m/s. */
  onSpeed: ((speed: number) => void) | null = null;
  locked = false;
  /** Asked first of every press, move and release; what it takes does not move the eye. */
  grab: ((what: "down" | "move" | "up", x: number, y: number, e: PointerEvent) => boolean) | null =
    null;
  private keys = new Set<string>();
  private last = 0;
  private drag: {
    x: number;
    y: number;
    button: number;
    shift: boolean;
    /** Over the inset, whose shot stands still. */
    still: boolean;
    pivot: { east: number; north: number; up: number } | null;
    moved: boolean;
  } | null = null;

  constructor(
    private view: View,
    private element: HTMLElement,
    private onPose: () => void,
    private onClick: (x: number, y: number, e: PointerEvent) => void,
    private onHover: (x: number, y: number) => void,
  ) {
    element.addEventListener("pointerdown", this.down);
    element.addEventListener("pointermove", this.move);
    element.addEventListener("pointerup", this.up);
    element.addEventListener("wheel", this.wheel, { passive: false });
    element.addEventListener("contextmenu", (e) => e.preventDefault());
    element.addEventListener("keydown", this.key);
    element.addEventListener("keyup", (e) => this.keys.delete(e.code));
    element.addEventListener("blur", () => this.keys.clear());
  }

  private at(e: { clientX: number; clientY: number }): [number, number] {
    const r = this.element.getBoundingClientRect();
    return [(e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height];
  }

  private down = (e: PointerEvent) => {
    this.element.focus({ preventScroll: true });
    this.element.setPointerCapture(e.pointerId);
    if (e.button === 0 && !e.altKey && !e.shiftKey && this.grab?.("down", ...this.at(e), e)) return;
    const p =
      e.button === 2 || e.altKey
        ? (this.view.pick(...this.at(e)) ?? this.view.pick(0.5, 0.6))
        : null;
    this.drag = {
      x: e.clientX,
      y: e.clientY,
      button: e.button,
      shift: e.shiftKey,
      still: !!this.view.inInset(...this.at(e)),
      pivot: p && { east: p.x, north: p.y, up: p.z },
      moved: false,
    };
  };

  private move = (e: PointerEvent) => {
    if (this.grab?.("move", ...this.at(e), e)) return;
    const d = this.drag;
    if (!d) {
      this.onHover(...this.at(e));
      return;
    }
    const dx = e.clientX - d.x;
    const dy = e.clientY - d.y;
    if (!d.moved && Math.hypot(dx, dy) < 4) return;
    d.moved = true;
    if (this.locked || d.still) return;
    d.x = e.clientX;
    d.y = e.clientY;
    const v = this.view;
    const pose = { ...v.pose };
    const size = this.element.getBoundingClientRect();
    const angle = (2 * Math.atan(18 / pose.focal) * 180) / Math.PI / size.width;
    if (d.shift || d.button === 1) {
      const reach = Math.max(2, this.above(pose)) * 0.0035;
      this.go(pose, -dx * reach, 0, dy * reach);
    } else if (d.pivot) {
      const a = (dx / size.width) * Math.PI * 1.5;
      const c = Math.cos(a);
      const s = Math.sin(a);
      const p = d.pivot;
      const e0 = pose.east - p.east;
      const n0 = pose.north - p.north;
      pose.east = p.east + c * e0 + s * n0;
      pose.north = p.north - s * e0 + c * n0;
      pose.bearing = (pose.bearing + (a * 180) / Math.PI + 360) % 360;
      const flat = Math.hypot(e0, n0);
      const up = Math.atan2(pose.up - p.up, flat);
      const dist = Math.hypot(flat, pose.up - p.up);
      const rise = Math.min(1.5, Math.max(0.01, up + (dy / size.height) * 2));
      const k = (Math.cos(rise) * dist) / Math.max(flat, 1e-3);
      pose.east = p.east + (pose.east - p.east) * k;
      pose.north = p.north + (pose.north - p.north) * k;
      pose.up = p.up + Math.sin(rise) * dist;
      pose.tilt = Math.max(-89, Math.min(89, pose.tilt - ((rise - up) * 180) / Math.PI));
    } else {
      pose.bearing = (pose.bearing - dx * angle + 360) % 360;
      pose.tilt = Math.max(-89, Math.min(89, pose.tilt + dy * angle));
    }
    this.set(pose);
  };

  private up = (e: PointerEvent) => {
    if (this.grab?.("up", ...this.at(e), e)) return;
    const d = this.drag;
    this.drag = null;
    if (d && !d.moved && d.button === 0) this.onClick(...this.at(e), e);
  };

  private wheel = (e: WheelEvent) => {
    e.preventDefault();
    if (this.locked || this.view.inInset(...this.at(e))) return;
    if (e.altKey) {
      this.pace = Math.min(MOST_PACE, Math.max(1 / MOST_PACE, this.pace * 1.0025 ** -e.deltaY));
      this.onSpeed?.(this.speed(this.view.pose));
      return;
    }
    const [x, y] = this.at(e);
    const ray = this.view.ray(x, y);
    const hit = this.view.pick(x, y);
    const pose = { ...this.view.pose };
    const reach =
      (hit ? Math.max(1.5, hit.distanceTo(ray.origin)) : 60) *
      (1 - Math.pow(1.0016, Math.max(-240, Math.min(240, e.deltaY))));
    pose.east += ray.direction.x * reach;
    pose.north += ray.direction.y * reach;
    pose.up += ray.direction.z * reach;
    this.set(pose);
  };

  private key = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey || !(e.code in MOVES) || this.locked) return;
    e.preventDefault();
    e.stopPropagation();
    const idle = !this.keys.size;
    this.keys.add(e.code);
    if (e.shiftKey) this.keys.add("fast");
    else this.keys.delete("fast");
    if (idle) {
      this.last = performance.now() - 60;
      this.tick(performance.now());
    } // a tap is a step
  };

  private tick = (now: number) => {
    const codes = [...this.keys].filter((k) => k in MOVES);
    if (!codes.length) {
      this.keys.clear();
      return;
    }
    const dt = Math.min(0.4, (now - this.last) / 1000 + 0.016);
    const pose = { ...this.view.pose };
    this.last = now;
    const way = this.speed(pose) * (this.keys.has("fast") ? 5 : 1) * dt;
    for (const c of codes) this.go(pose, MOVES[c][0] * way, MOVES[c][1] * way, MOVES[c][2] * way);
    this.set(pose);
    requestAnimationFrame(this.tick);
  };

  /** m/s at a pose: it grows with the height above the ground. */
  private speed(p: Pose): number {
    return (ON_FOOT + this.above(p) * 0.9) * this.pace;
  }

  private above(p: Pose): number {
    return this.view.products
      ? Math.max(0, p.up - heightAt(this.view.products.field, p.east, p.north))
      : 10;
  }

  /** Moves level; on foot (under 12 m) the eye keeps its height above the ground. */
  private go(pose: Pose, right: number, ahead: number, up: number) {
    const above = this.above(pose);
    const b = (pose.bearing * Math.PI) / 180;
    pose.east += Math.sin(b) * ahead + Math.cos(b) * right;
    pose.north += Math.cos(b) * ahead - Math.sin(b) * right;
    if (above < 12 && this.view.products)
      pose.up =
        heightAt(this.view.products.field, pose.east, pose.north) + Math.max(0.3, above + up);
    else pose.up += up;
  }

  private set(pose: Pose) {
    if (this.view.products)
      pose.up = Math.max(pose.up, heightAt(this.view.products.field, pose.east, pose.north) + 0.25);
    this.view.pose = pose;
    this.view.changed();
    this.onPose();
  }
}
