// A grip in the place view: a button over the picture that is dragged or moved with keys, and the edit that it makes.

import { type App, Gesture } from "./app";
import type { Knob, Span, Vec3 } from "./book";
import type { Op } from "./hands";

/** The edit of a movement. */
export interface Written {
  words: string;
  ops: Op[];
}

/** The literal that a grip edits, in one exact text. */
interface Taken {
  file: string;
  hash: string;
  /** The literal's bytes. */
  at: Span;
  text: string;
}

/** The place of a literal, in the text that it was read from. */
export function taken({ file, at, text }: Pick<Knob, "file" | "at" | "text">, hashes: Record<string, string>): Taken {
  return { file: file ?? "", hash: hashes[file ?? ""] ?? "", at, text };
}

/** A point, moved in the plane of the view. */
export interface PointHold extends Taken {
  kind: "point";
  /** Key steps, in meters. */
  step: number;
  fine: number;
  /** The edit of a move in meters, y up. `lines` snaps to the lines of other things. */
  set(by: Vec3, how: { fine: boolean; lines: boolean }): Written;
}

/** A number, changed along one line. */
export interface NumberHold extends Taken {
  kind: "number";
  step: number;
  fine: number;
  /** What a move in meters, y up, adds to the number. */
  along(by: Vec3): number;
  /** The edit that adds an amount. */
  set(by: number, fine: boolean): Written;
}

export type Hold = PointHold | NumberHold;

/** The name of a grip and what it edits. */
export interface Spec {
  label: string;
  /** The tooltip. */
  title: string;
  look: "lamp" | "end" | "ring" | "aim" | "height" | "eye" | "walk";
  /** Words on it; it stays where it is while it is dragged. */
  text?: string;
  /** What is selected with it; empty for nothing. */
  light: string;
  index: number;
  /** What it edits, or why it cannot. */
  hold(): Promise<Hold | string>;
  /** Moves what is seen where the book cannot be changed: a movement, and the length of key steps. */
  freely?: { move(by: Vec3): void; step: number };
  /** The current value, of a number. */
  now?(): { value: number; text: string } | null;
}

const WAYS: Record<string, Vec3> = { ArrowLeft: [-1, 0, 0], ArrowRight: [1, 0, 0], ArrowUp: [0, 0, -1], ArrowDown: [0, 0, 1], PageUp: [0, 1, 0], PageDown: [0, -1, 0] };
const AMOUNTS: Record<string, number> = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 };

/** The line number of a byte, from 1. */
export function lineAt(text: string, byte: number): number {
  const before = new TextDecoder().decode(new TextEncoder().encode(text).slice(0, byte));
  return before.split("\n").length;
}

export class Grip {
  readonly button = document.createElement("button");
  /** Set while it is dragged; it does not follow the picture then. */
  held = false;
  private shown = "";

  constructor(
    private readonly app: App,
    readonly spec: Spec,
    parent: HTMLElement,
    /** Converts a pointer movement in pixels to meters, y up. */
    private readonly meters: (dx: number, dy: number) => Vec3,
    private readonly done: () => void,
  ) {
    const { button } = this;
    button.className = `grip ${spec.look}`;
    button.setAttribute("aria-label", spec.label);
    button.title = spec.title;
    if (spec.text) button.textContent = spec.text;
    if (spec.now) button.setAttribute("role", "slider");
    else button.setAttribute("aria-pressed", "false");
    button.onpointerdown = (event) => this.drag(event);
    button.onclick = () => spec.light && app.select(spec.light, spec.index);
    button.onkeydown = (event) => void this.key(event);
    button.onpointerenter = () => void this.hint();
    button.onfocus = () => void this.hint();
    parent.append(button);
  }

  /** Positions it in the view, in pixels. */
  put(x: number, y: number) {
    if (this.held) return;
    const shown = `translate(${(x - 9).toFixed(1)}px, ${(y - 9).toFixed(1)}px)`;
    if (shown !== this.shown) this.button.style.transform = this.shown = shown;
    const now = this.spec.now?.();
    if (!now || this.button.getAttribute("aria-valuetext") === now.text) return;
    this.button.setAttribute("aria-valuenow", String(now.value));
    this.button.setAttribute("aria-valuetext", now.text);
  }

  /** Shows which line a move would write. */
  private async hint() {
    if (this.held || !this.app.free) return;
    const hold = await this.spec.hold();
    if (this.held) return;
    if (typeof hold === "string") return this.app.hands.tell(hold, false);
    const line = lineAt(this.app.text(hold.file)?.text ?? "", hold.at[0]);
    this.app.hands.tell(`${this.spec.label}: writes ${hold.text} in line ${line} of ${hold.file}`, false);
  }

  /** Follows the pointer from where it was pressed, on the grip or on what it stands for. */
  drag(event: PointerEvent) {
    if (event.button !== 0) return;
    const { button } = this;
    button.setPointerCapture(event.pointerId);
    if (!this.app.free && this.spec.freely) return this.wander(event, this.spec.freely);
    const asked = this.app.free ? this.spec.hold() : Promise.resolve("the book is shown read-only");
    const [x, y] = [event.clientX, event.clientY];
    const start = this.shown;
    let gesture: Gesture | null = null;
    let last: PointerEvent | null = null;
    const move = async (event: PointerEvent) => {
      const [dx, dy] = [event.clientX - x, event.clientY - y];
      if (!gesture && Math.hypot(dx, dy) < 3) return;
      last = event;
      this.held = true;
      const hold = await asked;
      if (typeof hold === "string") return this.app.hands.tell(hold, true);
      // Of several movements that waited for the hold only the latest counts.
      if (event !== last) return;
      gesture ??= new Gesture(this.app, hold.file, hold.hash);
      if (!this.spec.text) button.style.transform = `${start} translate(${dx}px, ${dy}px)`;
      const by = this.meters(dx, dy);
      const fine = event.shiftKey;
      const { words, ops } = hold.kind === "point" ? hold.set(by, { fine, lines: !event.altKey }) : hold.set(hold.along(by), fine);
      gesture.to(words, ops);
    };
    const done = async () => {
      button.removeEventListener("pointermove", move);
      button.removeEventListener("pointerup", done);
      button.removeEventListener("pointercancel", done);
      await asked;
      await gesture?.ends();
      this.held = false;
      this.shown = "";
      if (gesture) this.done();
    };
    button.addEventListener("pointermove", move);
    button.addEventListener("pointerup", done);
    button.addEventListener("pointercancel", done);
  }

  /** Follows the pointer without changing the book. */
  private wander(event: PointerEvent, freely: { move(by: Vec3): void }) {
    const { button } = this;
    let [x, y] = [event.clientX, event.clientY];
    const move = (event: PointerEvent) => {
      freely.move(this.meters(event.clientX - x, event.clientY - y));
      [x, y] = [event.clientX, event.clientY];
    };
    button.addEventListener("pointermove", move);
    button.addEventListener("lostpointercapture", () => button.removeEventListener("pointermove", move), { once: true });
  }

  private async key(event: KeyboardEvent) {
    const way = WAYS[event.key];
    if (way && !this.app.free && this.spec.freely) {
      event.preventDefault();
      event.stopPropagation();
      const step = this.spec.freely.step * (event.shiftKey ? 0.1 : 1);
      return this.spec.freely.move(way.map((v) => v * step) as Vec3);
    }
    if (!way || event.ctrlKey || event.altKey || event.metaKey || !this.app.free) return;
    event.preventDefault();
    event.stopPropagation();
    const fine = event.shiftKey;
    const hold = await this.spec.hold();
    if (typeof hold === "string") return this.app.hands.tell(hold, true);
    const step = fine ? hold.fine : hold.step;
    const { words, ops } =
      hold.kind === "point" ? hold.set(way.map((v) => v * step) as Vec3, { fine, lines: false }) : hold.set(AMOUNTS[event.key]! * step, fine);
    await this.app.hands.edit({ file: hold.file, hash: hold.hash, words, ops, rests: true });
    this.done();
  }
}
