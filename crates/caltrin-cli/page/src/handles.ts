// Lamps in the place that can be taken hold of: a button over each lamp whose position is written as a point.

import { type App, Gesture } from "./app";
import type { Knob, Space, Vec3 } from "./book";
import { plain, snapped } from "./number";
import type { Drawn, Place } from "./place";

/** Steps in which lamps move, in meters. */
const STEP = 0.1;
const FINE = 0.01;

/** Meters with y up as the axes and meters of the book. */
export function toBook(space: Space, [x, y, z]: Vec3): Vec3 {
  return space.up === "z" ? [x, -z, y] : [x, y, z];
}

interface Handle {
  button: HTMLButtonElement;
  light: string;
  index: number;
}

export class Handles {
  private readonly handles = new Map<string, Handle>();
  /** The points of lights that were asked for, and the texts that they are in. */
  private readonly points = new Map<string, Promise<{ knobs: Knob[]; hashes: Record<string, string> }>>();
  /** While a lamp is dragged its own button does not follow the picture. */
  private held: string | null = null;
  snap = STEP;

  constructor(
    private readonly app: App,
    private readonly place: Place,
    private readonly parent: HTMLElement,
  ) {
    app.listen((what) => {
      if (what === "book" && !this.held) this.points.clear();
      for (const handle of this.handles.values()) handle.button.setAttribute("aria-pressed", String(app.selected?.name === handle.light));
    });
  }

  /** The points that a light's position is written with: one, or those of both ends of an array. */
  private pointsOf(light: string) {
    const known = this.points.get(light);
    if (known) return known;
    const asked = this.app.knobs(light, "position").then((found) => ({
      knobs: (found?.literals ?? []).filter((knob) => knob.kind === "point" && knob.file !== null),
      hashes: found?.hashes ?? {},
    }));
    this.points.set(light, asked);
    return asked;
  }

  /** Puts the buttons where the lamps are. */
  follow(lamps: Drawn[]) {
    const ratio = this.place.canvas.width / Math.max(1, this.place.canvas.clientWidth);
    const seen = new Set<string>();
    for (const { key, light, index, lamp, spark } of lamps) {
      if (!lamp.base || spark || !this.place.window) continue;
      seen.add(key);
      let handle = this.handles.get(key);
      if (!handle) this.handles.set(key, (handle = this.make(light, index)));
      if (this.held === key) continue;
      const [x, y] = this.place.project(lamp.base);
      handle.button.style.transform = `translate(${(x / ratio - 9).toFixed(1)}px, ${(y / ratio - 9).toFixed(1)}px)`;
    }
    for (const [key, { button }] of this.handles) {
      if (seen.has(key)) continue;
      button.remove();
      this.handles.delete(key);
    }
  }

  private make(light: string, index: number): Handle {
    const button = document.createElement("button");
    const array = this.app.info?.lights.find(({ name }) => name === light)?.array ?? false;
    const name = array ? `${light}[${index}]` : light;
    button.className = "lamp";
    button.setAttribute("aria-label", `${name} position`);
    button.title = `${name}: drag it, or move it with the arrow keys; Page Up and Page Down for its height`;
    button.setAttribute("aria-pressed", String(this.app.selected?.name === light));
    const handle = { button, light, index };
    button.onpointerdown = (event) => this.drag(event, handle);
    button.onclick = () => this.app.select(light, index);
    button.onkeydown = (event) => void this.key(event, handle);
    this.parent.append(button);
    return handle;
  }

  /** The point that is written for a lamp: of an array only its ends have one. */
  private async pointOf({ light, index }: Handle) {
    const { knobs, hashes } = await this.pointsOf(light);
    const lamps = this.app.info?.lights.find(({ name }) => name === light)?.lamps ?? 1;
    // Of an array the distance from lamp to lamp is written; the last lamp is moved by all of them.
    const last = index > 0 && index === lamps - 1;
    const knob = index === 0 ? knobs[0] : last ? knobs[1] : undefined;
    return knob && { knob, hash: hashes[knob.file ?? ""] ?? "", share: last ? 1 / (lamps - 1) : 1 };
  }

  private words(handle: Handle, to: Vec3): string {
    return `${handle.light}: ${handle.index === 0 ? "position" : "distance"} (${to.map((v) => `${plain(v, 4)}m`).join(", ")})`;
  }

  private drag(event: PointerEvent, handle: Handle) {
    if (event.button !== 0) return;
    const { button } = handle;
    button.setPointerCapture(event.pointerId);
    const key = [...this.handles].find(([, one]) => one === handle)?.[0] ?? null;
    const point = this.app.free ? this.pointOf(handle) : Promise.resolve(undefined);
    const [x, y] = [event.clientX, event.clientY];
    const { window } = this.place;
    const scale = (window?.wide ?? 1) / Math.max(1, this.place.canvas.clientWidth);
    const front = this.place.view === "front";
    let gesture: Gesture | null = null;
    const start = button.style.transform;
    const move = async (event: PointerEvent) => {
      const [dx, dy] = [event.clientX - x, event.clientY - y];
      if (!gesture && Math.hypot(dx, dy) < 3) return;
      const found = await point;
      if (!found) {
        this.app.hands.tell(this.app.free ? `the position of ${handle.light} is computed; this lamp has none of its own` : "the book is shown read-only", true);
        return;
      }
      gesture ??= new Gesture(this.app, found.knob.file ?? "", found.hash);
      this.held = key;
      button.style.transform = `${start} translate(${dx}px, ${dy}px)`;
      // From above along the ground, from the front along the picture.
      const by: Vec3 = front ? [dx * scale, -dy * scale, 0] : [dx * scale, 0, dy * scale];
      const axes = toBook(this.app.info!.space, by);
      const step = event.shiftKey ? FINE : this.snap;
      const base = found.knob.value as Vec3;
      const to = base.map((v, n) => (axes[n] === 0 ? v : snapped(v + axes[n]! * found.share, found.share === 1 ? step : FINE))) as Vec3;
      gesture.to(this.words(handle, to), [{ point: { at: found.knob.at, to } }]);
    };
    const done = async () => {
      button.removeEventListener("pointermove", move);
      button.removeEventListener("pointerup", done);
      button.removeEventListener("pointercancel", done);
      await gesture?.ends();
      this.held = null;
      if (gesture) this.points.clear();
    };
    button.addEventListener("pointermove", move);
    button.addEventListener("pointerup", done);
    button.addEventListener("pointercancel", done);
  }

  private async key(event: KeyboardEvent, handle: Handle) {
    const ways: Record<string, Vec3> = { ArrowLeft: [-1, 0, 0], ArrowRight: [1, 0, 0], ArrowUp: [0, 0, -1], ArrowDown: [0, 0, 1], PageUp: [0, 1, 0], PageDown: [0, -1, 0] };
    const way = ways[event.key];
    if (!way || !this.app.free) return;
    event.preventDefault();
    event.stopPropagation();
    const found = await this.pointOf(handle);
    if (!found) {
      this.app.hands.tell(`the position of ${handle.light} is computed; this lamp has none of its own`, true);
      return;
    }
    const step = event.shiftKey ? FINE : this.snap;
    const axes = toBook(this.app.info!.space, way);
    const base = found.knob.value as Vec3;
    const by = Math.max(FINE / 10, step * found.share);
    const to = base.map((v, n) => (axes[n] === 0 ? v : snapped(v + axes[n]! * by, found.share === 1 ? step : FINE / 10))) as Vec3;
    const edit = { file: found.knob.file ?? "", hash: found.hash, words: this.words(handle, to), ops: [{ point: { at: found.knob.at, to } }] };
    await this.app.hands.edit({ ...edit, rests: true });
    this.points.clear();
  }
}
