// The grips of the place view: one on each lamp, wall end and post; for the selected lamp also reach, cone, aim and
// height, with lines that show them.

import type { App } from "./app";
import type { Eye, Knob, Space, Vec3 } from "./book";
import { fieldSpec, pointSpec, turnSpec, walkSpec, wedge } from "./eyes";
import { type Hold, Grip, type NumberHold, type PointHold, type Spec, taken } from "./grip";
import { dot, plus, sized } from "./lens";
import { plain, snapped } from "./number";
import { type Drawn, type Standing, toBook, upright } from "./lamp";
import { type Place } from "./place";

/** The finest step of points, in meters. */
const FINE = 0.01;
/** The distance at which things snap to the line of others, in pixels. */
const NEAR = 6;
/** The length of an aim that does not meet the ground, in meters. */
const AHEAD = 5;
const DEGREES = 180 / Math.PI;


/** The full angles of a cone, in degrees: the inner and the outer one. */
export function anglesOf([scale, offset]: [number, number]): [number, number] {
  const outer = -offset / scale;
  const inner = Math.min(1, outer + 1 / scale);
  const full = (cosine: number) => 2 * Math.acos(Math.min(1, Math.max(-1, cosine))) * DEGREES;
  return [full(inner), full(outer)];
}

/** The axis of a lamp: where it meets the ground or ends, its length, and a unit vector across it. */
export function axisOf(lamp: Standing): { middle: Vec3; far: number; across: Vec3 } {
  const aim = sized(lamp.aim ?? [0, -1, 0]);
  const down = aim[1] < -0.1 && lamp.at[1] > 0 ? lamp.at[1] / -aim[1] : Infinity;
  const far = Math.min(down, Number.isFinite(lamp.outer) ? Math.max(lamp.outer, 1) : Infinity, down === Infinity ? AHEAD : 4 * AHEAD);
  const right: Vec3 = Math.abs(aim[0]) < 0.9 ? [1, 0, 0] : [0, 0, 1];
  return { middle: plus(lamp.at, aim, far), far, across: sized(plus(right, aim, -dot(right, aim))) };
}

/** The direction in which a grip is moved away from another that it would cover. */
const WAY: Record<string, [number, number]> = { aim: [0, -1], outer: [1, 0], inner: [-1, 0], cone1: [0.7, 0.7], cone0: [-0.7, 0.7] };
/** The least distance between grips, in pixels. */
const APART = 18;

/** The nearest position in a grip's direction at which it covers none of the others. */
export function apart(part: string, [x, y]: [number, number], others: [number, number][]): [number, number] {
  const way = WAY[part];
  if (!way) return [x, y];
  let [px, py] = [x, y];
  for (let n = 0; n < 40 && others.some(([ox, oy]) => Math.hypot(px - ox, py - oy) < APART); ++n) {
    px += 3 * way[0];
    py += 3 * way[1];
  }
  return [px, py];
}

interface Found {
  knobs: Knob[];
  hashes: Record<string, string>;
}

interface Seen {
  key: string;
  /** A point of the place, or a place on the page in pixels. */
  at: Vec3 | [number, number];
  spec: () => Spec;
  meters?: (dx: number, dy: number) => Vec3;
}

export class Handles {
  private readonly grips = new Map<string, Grip>();
  /** Literals by light and channel, for the current text. */
  private readonly asked = new Map<string, Promise<Found>>();
  private drawn = new Map<string, Drawn>();
  private readonly lines = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  private readonly reach = this.path("reach");
  private readonly cone = this.path("cone");
  private readonly side = this.path("side");
  private readonly guide = this.path("guide");
  private readonly fields = this.path("fields");
  private guides: { across: boolean; at: Vec3 }[] = [];
  private shownLines = "";
  /** The grid in meters; 0 for none. */
  grid = 0.1;

  constructor(
    readonly app: App,
    readonly place: Place,
    private readonly parent: HTMLElement,
  ) {
    this.lines.setAttribute("class", "lines");
    this.lines.setAttribute("aria-hidden", "true");
    parent.append(this.lines);
    app.listen((what) => {
      if (what === "book" && ![...this.grips.values()].some(({ held }) => held)) this.asked.clear();
      this.press();
    });
  }

  private path(name: string): SVGPathElement {
    const path = document.createElementNS("http://www.w3.org/2000/svg", "path");
    path.setAttribute("class", name);
    this.lines.append(path);
    return path;
  }

  private press() {
    for (const { button, spec } of this.grips.values()) {
      const own = this.app.selected?.name === spec.light;
      if (!spec.now) button.setAttribute("aria-pressed", String(own));
      button.classList.toggle("selected", own);
    }
  }

  /** The literals in the lines of a declaration. */
  knobs(of: string, channel?: string): Promise<Found> {
    const key = `${of}/${channel ?? ""}`;
    const known = this.asked.get(key);
    if (known) return known;
    const asked = this.app.knobs(of, channel).then((found) => ({
      knobs: (found?.literals ?? []).filter((knob) => knob.file !== null && knob.path.length === 2 && (!channel || knob.path[1] === channel)),
      hashes: found?.hashes ?? {},
    }));
    this.asked.set(key, asked);
    return asked;
  }

  private get space(): Space {
    return this.app.info!.space;
  }

  /** Positions all grips. */
  follow(lamps: Drawn[]) {
    if (!this.place.window || !this.app.info) return;
    this.drawn = new Map(lamps.map((one) => [one.key, one]));
    const through = this.place.view === "eye";
    const seen = [...(through ? [] : [...this.solids(), ...this.hangings()]), ...this.lamps(lamps), ...this.eyes()];
    const chosen = through ? null : this.chosen(lamps);
    if (chosen) seen.push(...this.more(chosen));
    const ratio = this.place.canvas.width / Math.max(1, this.place.canvas.clientWidth);
    const keys = new Set<string>();
    const { clientWidth: wide, clientHeight: tall } = this.place.canvas;
    const others: [number, number][] = [];
    for (const { key, at, spec, meters } of seen) {
      const [x, y] = (at.length === 2 ? at : this.place.project(at).map((v) => v / ratio)) as [number, number];
      // What is behind an eye cannot be taken hold of.
      if (through && !(x >= 0 && y >= 0 && x <= wide && y <= tall)) continue;
      keys.add(key);
      const grip = this.grip(key, spec, meters ?? ((dx, dy) => this.place.meters(dx, dy, this.drawn.get(key)?.lamp.base)));
      // What of the selected lamp reaches beyond the view is taken hold of at its edge.
      if (!chosen || !key.startsWith(`${chosen.key}/`)) {
        grip.put(x, y);
        continue;
      }
      // What reaches beyond the view is taken hold of at its edge, and none covers the lamp.
      if (others.length === 0) others.push(this.place.project(chosen.lamp.base).map((v) => v / ratio) as [number, number]);
      const inside: [number, number] = [Math.min(wide - 10, Math.max(10, x)), Math.min(tall - 10, Math.max(10, y))];
      const free = apart(key.slice(key.lastIndexOf("/") + 1), inside, others);
      others.push(free);
      grip.put(...free);
    }
    if (chosen) this.height(chosen, keys);
    for (const [key, { button, held }] of this.grips) {
      if (keys.has(key) || held) continue;
      button.remove();
      this.grips.delete(key);
    }
    this.draw(chosen, ratio);
  }

  private grip(key: string, spec: () => Spec, meters = (dx: number, dy: number) => this.place.meters(dx, dy)): Grip {
    const known = this.grips.get(key);
    if (known) return known;
    const done = () => {
      this.guides = [];
      this.asked.clear();
    };
    const made = new Grip(this.app, spec(), this.parent, meters, done);
    this.grips.set(key, made);
    this.press();
    return made;
  }

  eyeNamed(name: string): Eye | undefined {
    return this.app.info?.eyes?.find((eye) => eye.name === name);
  }

  /** The eye that is looked through. */
  get seen() {
    return this.place;
  }

  /** The grips of eyes; of the one that is looked through those that turn it, walk with it and change its field. */
  private eyes(): Seen[] {
    const { eyes } = this.app.info!;
    const { clientWidth: wide, clientHeight: tall } = this.place.canvas;
    const { eye } = this.place;
    if (this.place.view === "eye" && eye) {
      const { name } = eye;
      const degrees = eye.field / Math.max(1, wide);
      return [
        { key: `eye/${name}/turn`, at: [wide / 2 - 22, tall - 22], spec: () => turnSpec(this, name), meters: (dx, dy) => [-dx * degrees, 0, -dy * degrees] },
        { key: `eye/${name}/walk`, at: [wide / 2 + 26, tall - 22], spec: () => walkSpec(this, name), meters: (dx, dy) => [dx * 0.02, 0, dy * 0.02] },
        { key: `eye/${name}/field`, at: [wide - 26, tall - 22], spec: () => fieldSpec(this, name), meters: (dx) => [dx * 0.1, 0, 0] },
      ];
    }
    return (eyes ?? []).flatMap(({ name, at, toward }): Seen[] => {
      const [own, other] = [`eye/${name}/at`, `eye/${name}/toward`];
      const all: Seen[] = [{ key: own, at, spec: () => pointSpec(this, name, "at", own) }];
      if (this.app.selected?.name === name) all.push({ key: other, at: toward, spec: () => pointSpec(this, name, "toward", other) });
      return all;
    });
  }

  /** The corners of backdrops. */
  private hangings(): Seen[] {
    return (this.app.info?.hangings ?? []).flatMap(({ file, picture, points }, n) =>
      points.flatMap((point, k): Seen[] => {
        const { value } = point;
        // A point that is no literal is moved in the text.
        if (point.kind !== "point" || !Array.isArray(value)) return [];
        const key = `hung/${n}/${k}`;
        const at = upright(this.space, value, 1);
        const label = `${picture} ${k === 0 ? "first" : "second"} corner`;
        const hold = (): Promise<Hold | string> => {
          const hashes = { [file]: this.app.text(file)?.hash ?? "" };
          return Promise.resolve(this.pointHold({ ...point, value, file }, hashes, { what: `${picture}: corner`, key, share: 1, from: () => at }));
        };
        return [{ key, at, spec: () => ({ label, title: `${label}: drag it, or move it with the arrow keys; Page Up and Page Down for its height`, look: "end", light: "", index: 0, hold }) }];
      }),
    );
  }

  /** Turns the eye that is looked through while the picture is dragged. */
  turns(event: PointerEvent) {
    const name = this.place.view === "eye" ? this.place.eye?.name : undefined;
    if (name) this.grips.get(`eye/${name}/turn`)?.drag(event);
  }

  /** The lamp whose reach, cone, aim and height can be changed. */
  private chosen(lamps: Drawn[]): (Drawn & { lamp: Standing }) | null {
    const { selected } = this.app;
    if (!selected) return null;
    const own = lamps.filter(({ light, spark, lamp }) => light === selected.name && !spark && lamp.at !== undefined);
    return (own.find(({ index }) => index === selected.index) ?? own[0] ?? null) as (Drawn & { lamp: Standing }) | null;
  }

  private lamps(lamps: Drawn[]): Seen[] {
    return lamps.flatMap(({ key, light, index, lamp, spark }) => {
      if (!lamp.base || spark) return [];
      return [{ key, at: lamp.base, spec: () => this.lampSpec(key, light, index) }];
    });
  }

  private nameOf(light: string, index: number): string {
    const array = this.app.info?.lights.find(({ name }) => name === light)?.array ?? false;
    return array ? `${light}[${index}]` : light;
  }

  private lampSpec(key: string, light: string, index: number): Spec {
    const name = this.nameOf(light, index);
    const hold = async (): Promise<Hold | string> => {
      const { knobs, hashes } = await this.positions(light);
      const lamps = this.app.info?.lights.find((one) => one.name === light)?.lamps ?? 1;
      // Of an array the distance from lamp to lamp is written; the last lamp is moved by all of them.
      const last = index > 0 && index === lamps - 1;
      const knob = index === 0 ? knobs[0] : knobs.length > 2 ? knobs[index] : last ? knobs[1] : undefined;
      if (!knob) return `the position of ${name} is computed; it has none of its own`;
      const share = knobs.length === 2 && last ? 1 / (lamps - 1) : 1;
      return this.pointHold(knob, hashes, { what: `${light}: ${share === 1 ? "position" : "distance"}`, key, share, from: () => this.drawn.get(key)?.lamp.base });
    };
    return { label: `${name} position`, title: `${name}: drag it, or move it with the arrow keys; Page Up and Page Down for its height`, look: "lamp", light, index, hold };
  }

  /** The points of a light's position, in its own line or in that of its fitting's instance. */
  private async positions(light: string): Promise<Found> {
    const { knobs, hashes } = await this.knobs(light, "position");
    return { knobs: knobs.filter(({ kind }) => kind === "point"), hashes };
  }

  pointHold(
    knob: Pick<Knob, "file" | "at" | "text" | "value">,
    hashes: Record<string, string>,
    { what, key, share, from }: { what: string; key: string; share: number; from: () => Vec3 | undefined },
  ): PointHold {
    const base = knob.value as Vec3;
    const start = from();
    return {
      kind: "point",
      ...taken(knob, hashes),
      step: this.grid || FINE * 10,
      fine: FINE,
      set: (by, { fine, lines }) => {
        const step = share === 1 ? (fine ? FINE : this.grid || FINE) : FINE / 10;
        const lined = lines && share === 1 && start && !fine ? this.lineUp(start, by, key) : [null, null, null];
        const moved = by.map((v, n) => lined[n] ?? v * share) as Vec3;
        const axes = toBook(this.space, moved);
        const free = toBook(this.space, lined.map((v) => (v === null ? 0 : 1)) as Vec3);
        const to = base.map((v, n) => (axes[n] === 0 ? v : snapped(v + axes[n]!, free[n] !== 0 ? FINE / 10 : step))) as Vec3;
        const text = `(${to.map((v) => `${plain(v, 4)}m`).join(", ")})`;
        return { words: `${what} ${text}`, ops: [{ point: { at: knob.at, to } }] };
      },
    };
  }

  /** The movement along each axis that puts a point on the line of another near it; null where none is near. */
  private lineUp(start: Vec3, by: Vec3, own: string): (number | null)[] {
    const near = NEAR * this.place.scale();
    const others: Vec3[] = [];
    for (const [key, { lamp, spark }] of this.drawn) if (key !== own && lamp.base && !spark) others.push(lamp.base);
    for (const wall of this.place.solids.walls) others.push(wall.from, wall.to);
    for (const post of this.place.solids.posts) others.push(post.at);
    this.guides = [];
    return by.map((v, n) => {
      if (v === 0) return null;
      const to = start[n]! + v;
      let best: number | null = null;
      for (const other of others) if (Math.abs(other[n]! - to) < (best === null ? near : Math.abs(best - to))) best = other[n]!;
      if (best === null) return null;
      const at: Vec3 = [...start];
      at[n] = best;
      this.guides.push({ across: n > 0, at });
      return best - start[n]!;
    });
  }

  /** The literal with the current value of a channel; a value that no literal has is computed. */
  private async numberHold(
    light: string,
    channel: string,
    now: number | undefined,
    { what, step, fine, least, most, along }: { what: string; step: number; fine: number; least: number; most: number; along: (by: Vec3) => number },
  ): Promise<NumberHold | string> {
    const { knobs, hashes } = await this.knobs(light, channel);
    const knob = knobs.find((knob) => typeof knob.value === "number" && now !== undefined && Math.abs(knob.value - now) < 1e-4 * Math.max(1, Math.abs(now)));
    if (!knob) return `${what} is computed; change what feeds it in the knobs`;
    const base = knob.value as number;
    return {
      kind: "number",
      ...taken(knob, hashes),
      step,
      fine,
      along,
      set: (by, isFine) => {
        const to = Math.min(most, Math.max(least, snapped(base + by, isFine ? fine : step)));
        return { words: `${what}: ${knob.text} to ${plain(to / knob.size, 5)}${knob.unit}`, ops: [{ number: { at: knob.at, to } }] };
      },
    };
  }

  /** Reach, cone and aim of the selected lamp. */
  private more({ key, light, index, lamp }: Drawn & { lamp: Standing }): Seen[] {
    const all: Seen[] = [];
    const now = () => this.drawn.get(key)?.lamp as Standing | undefined;
    const name = this.nameOf(light, index);
    const meters = (v: number | undefined) => (v === undefined ? null : { value: Number(plain(v, 4)), text: `${plain(v, 4)} m` });
    const size = (what: "inner" | "outer", at: Vec3, sign: number) => {
      const label = what === "outer" ? `${name} reach` : `${name} inner reach`;
      const hold = () => this.numberHold(light, "reach", now()?.[what], { what: `${light}: ${what === "outer" ? "reach" : "inner reach"}`, step: this.grid || 0.1, fine: FINE, least: 0.01, most: 1000, along: (by) => sign * by[0] });
      all.push({ key: `${key}/${what}`, at, spec: () => ({ label, title: `${label}: drag it sideways, or use the arrow keys`, look: "ring", light, index, hold, now: () => meters(now()?.[what]) }) });
    };
    if (Number.isFinite(lamp.outer)) {
      size("outer", plus(lamp.base, [lamp.outer, 0, 0]), 1);
      // The nearest distance that counts is no literal of the book.
      if (lamp.inner > 0.1) size("inner", plus(lamp.base, [-lamp.inner, 0, 0]), -1);
    }
    if (lamp.aim) {
      const { middle, far, across } = axisOf(lamp);
      all.push({ key: `${key}/aim`, at: middle, spec: () => this.aimSpec(key, light, index, name) });
      if (lamp.cone) {
        anglesOf(lamp.cone).forEach((angle, n) => {
          const half = Math.min(80, angle / 2) / DEGREES;
          const sign = n === 0 ? -1 : 1;
          const at = plus(middle, across, sign * far * Math.tan(half));
          const what = n === 0 ? "inner cone" : "cone";
          const hold = () => {
            const lamp = now();
            const own = lamp?.cone ? anglesOf(lamp.cone)[n]! : undefined;
            const { far, across } = lamp ? axisOf(lamp) : { far: 1, across: [1, 0, 0] as Vec3 };
            // How far across the hand has moved, where the handle is seen to move with it.
            const seen: Vec3 = this.place.view === "above" ? [across[0], 0, across[2]] : [across[0], across[1], 0];
            const wide = Math.max(0.05, dot(seen, seen));
            const radius = far * Math.tan(Math.min(80, (own ?? 0) / 2) / DEGREES);
            const along = (by: Vec3) => 2 * Math.atan(Math.max(0, radius + (sign * dot(by, seen)) / wide) / far) * DEGREES - (own ?? 0);
            return this.numberHold(light, "cone", own, { what: `${light}: ${what}`, step: 1, fine: 0.1, least: 0, most: 180, along });
          };
          const value = () => {
            const cone = now()?.cone;
            const own = cone ? anglesOf(cone)[n]! : null;
            return own === null ? null : { value: Number(plain(own, 4)), text: `${plain(own, 4)} deg` };
          };
          all.push({ key: `${key}/cone${n}`, at, spec: () => ({ label: `${name} ${what}`, title: `${name} ${what}: drag it sideways, or use the arrow keys`, look: "ring", light, index, hold, now: value }) });
        });
      }
    }
    return all;
  }

  private aimSpec(key: string, light: string, index: number, name: string): Spec {
    const hold = async (): Promise<Hold | string> => {
      const { knobs, hashes } = await this.knobs(light, "aim");
      const knob = knobs.find(({ kind }) => kind === "point");
      const lamp = this.drawn.get(key)?.lamp as Standing | undefined;
      if (!knob || !lamp) return `the aim of ${name} is computed; change what feeds it in the knobs`;
      const bytes = new TextEncoder().encode(this.app.text(knob.file ?? "")?.text ?? "");
      const before = new TextDecoder().decode(bytes.slice(Math.max(0, knob.at[0] - 40), knob.at[0]));
      // `aim at` a point names the point; else it is the way from the lamp to where it points.
      const from = /\bat\s*$/.test(before) ? upright(this.space, knob.value as Vec3, 1) : plus(axisOf(lamp).middle, lamp.at, -1);
      const point = this.pointHold(knob, hashes, { what: `${light}: aim`, key: `${key}/aim`, share: 1, from: () => axisOf(lamp).middle });
      return {
        ...point,
        set: (by: Vec3, { fine }: { fine: boolean }) => {
          const step = fine ? FINE : this.grid || FINE;
          const to = toBook(this.space, plus(from, by)).map((v) => snapped(v, step)) as Vec3;
          // A light that points nowhere is an error.
          if (to.every((v) => v === 0)) to[this.space.up === "z" ? 2 : 1] = -step;
          return { words: `${light}: aim (${to.map((v) => `${plain(v, 4)}m`).join(", ")})`, ops: [{ point: { at: knob.at, to } }] };
        },
      };
    };
    return { label: `${name} aim`, title: `${name} aim: drag where it points, or use the arrow keys; Page Up and Page Down for its height`, look: "aim", light, index, hold };
  }

  /** The height of the selected lamp, at the side of the view. */
  private height(chosen: Drawn & { lamp: Standing }, keys: Set<string>) {
    const { key, light, index, lamp } = chosen;
    const own = `${key}/height`;
    keys.add(own);
    const { clientWidth: wide, clientHeight: tall } = this.place.canvas;
    // As high as the place is drawn, at least 5 m.
    const most = Math.max(5, Math.ceil(((this.place.box?.hi[1] ?? 0) + 1) / 5) * 5);
    const track = Math.max(40, tall - 40);
    const name = this.nameOf(light, index);
    const base = () => this.drawn.get(key)?.lamp.base;
    const lampSpec = this.lampSpec(key, light, 0);
    const hold = async (): Promise<Hold | string> => {
      const point = await lampSpec.hold();
      if (typeof point === "string" || point.kind !== "point") return point;
      const along = (by: Vec3) => by[1];
      return { ...point, kind: "number", along, set: (by, fine) => point.set([0, by, 0], { fine, lines: false }) };
    };
    const now = () => {
      const height = base()?.[1];
      return height === undefined ? null : { value: Number(plain(height, 4)), text: `${plain(height, 4)} m high` };
    };
    const spec = (): Spec => ({ label: `${name} height`, title: `${name} height: drag it up or down`, look: "height", light, index, hold, now });
    const grip = this.grip(own, spec, (_, dy) => [0, (-dy / track) * most, 0]);
    const share = Math.min(1, Math.max(0, lamp.base[1] / most));
    grip.put(wide - 14, 20 + (1 - share) * track);
    const text = `${plain(lamp.base[1], 3)}m`;
    if (grip.button.textContent !== text) grip.button.textContent = text;
  }

  /** Walls and posts. */
  private solids(): Seen[] {
    const all: Seen[] = [];
    const { walls, posts } = this.place.solids;
    const selected = this.app.selected?.name;
    const front = this.place.view === "front";
    for (const wall of walls) {
      const { name } = wall;
      const end = (n: 0 | 1, at: Vec3) => {
        const label = `${name} ${n === 0 ? "start" : "end"}`;
        const key = `solid/${name}/${n}`;
        const hold = async (): Promise<Hold | string> => {
          const { knobs, hashes } = await this.knobs(name, "along");
          const knob = knobs.filter(({ kind }) => kind === "point")[n];
          if (!knob) return `the ${n === 0 ? "start" : "end"} of ${name} is computed`;
          return this.pointHold(knob, hashes, { what: label, key, share: 1, from: () => at });
        };
        all.push({ key, at, spec: () => ({ label, title: `${label}: drag it, or move it with the arrow keys`, look: "end", light: name, index: 0, hold }) });
      };
      end(0, wall.from);
      end(1, wall.to);
      if (front && selected === name) {
        this.tall(all, name, [(wall.from[0] + wall.to[0]) / 2, wall.top, (wall.from[2] + wall.to[2]) / 2], () => this.place.solids.walls.find((one) => one.name === name), (one) => one.top - Math.max(one.from[1], one.to[1]));
      }
    }
    const last = new Map<string, number>();
    for (const { name, index } of posts) last.set(name, index);
    for (const post of posts) {
      const { name, index, at } = post;
      const ends = last.get(name)!;
      const key = `solid/${name}/${index}`;
      const called = ends > 0 ? `${name}[${index}]` : name;
      const hold = async (): Promise<Hold | string> => {
        const { knobs, hashes } = await this.knobs(name, "position");
        const points = knobs.filter(({ kind }) => kind === "point");
        const isLast = index > 0 && index === ends;
        const knob = index === 0 ? points[0] : points.length > 2 ? points[index] : isLast ? points[1] : undefined;
        if (!knob) return `${called} stands at the distance that the first and the last one give; move those`;
        const share = points.length === 2 && isLast ? 1 / ends : 1;
        return this.pointHold(knob, hashes, { what: `${name}: ${share === 1 ? "position" : "distance"}`, key, share, from: () => at });
      };
      all.push({ key, at, spec: () => ({ label: `${called} position`, title: `${called}: drag it, or move it with the arrow keys`, look: "end", light: name, index, hold }) });
      if (selected !== name || index !== 0) continue;
      const own = () => this.place.solids.posts.find((one) => one.name === name && one.index === 0);
      const radius = () => this.numberHold(name, "radius", own()?.radius, { what: `${name}: radius`, step: 0.05, fine: FINE, least: 0.01, most: 100, along: (by) => by[0] });
      const now = () => {
        const post = own();
        return post ? { value: Number(plain(post.radius, 4)), text: `${plain(post.radius, 4)} m` } : null;
      };
      all.push({ key: `${key}/radius`, at: plus(at, [post.radius, 0, 0]), spec: () => ({ label: `${name} radius`, title: `${name} radius: drag it sideways, or use the arrow keys`, look: "ring", light: name, index: 0, hold: radius, now }) });
      if (front) this.tall(all, name, [at[0], post.top, at[2]], own, (one) => one.top - one.at[1]);
    }
    return all;
  }

  /** The height of something solid. */
  private tall<T>(all: Seen[], name: string, at: Vec3, own: () => T | undefined, height: (one: T) => number) {
    const value = () => {
      const one = own();
      return one === undefined ? undefined : height(one);
    };
    const hold = () => this.numberHold(name, "height", value(), { what: `${name}: height`, step: this.grid || 0.1, fine: FINE, least: 0.05, most: 1000, along: (by) => by[1] });
    const now = () => {
      const height = value();
      return height === undefined ? null : { value: Number(plain(height, 4)), text: `${plain(height, 4)} m` };
    };
    all.push({ key: `solid/${name}/height`, at, spec: () => ({ label: `${name} height`, title: `${name} height: drag it up or down, or use the arrow keys`, look: "ring", light: name, index: 0, hold, now }) });
  }

  /** Draws reach and cone of the selected lamp, and the lines that it snaps to. */
  private draw(chosen: (Drawn & { lamp: Standing }) | null, ratio: number) {
    const pen = (points: Vec3[], closes: boolean) =>
      points.map((p, n) => `${n === 0 ? "M" : "L"}${this.place.project(p).map((v) => (v / ratio).toFixed(1)).join(" ")}`).join("") + (closes ? "Z" : "");
    const round = (middle: Vec3, a: Vec3, b: Vec3, radius: number) => {
      const points = Array.from({ length: 48 }, (_, n) => plus(plus(middle, a, radius * Math.cos((n / 24) * Math.PI)), b, radius * Math.sin((n / 24) * Math.PI)));
      return pen(points, true);
    };
    let reach = "";
    let cone = "";
    let side = "";
    if (chosen) {
      side = `M${this.place.canvas.clientWidth - 14} 20V${this.place.canvas.clientHeight - 20}`;
      const { lamp } = chosen;
      const up: Vec3 = this.place.view === "above" ? [0, 0, 1] : [0, 1, 0];
      if (Number.isFinite(lamp.outer)) reach = round(lamp.base, [1, 0, 0], up, lamp.outer) + (lamp.inner > 0.1 ? round(lamp.base, [1, 0, 0], up, lamp.inner) : "");
      if (lamp.aim) {
        const { middle, far, across } = axisOf(lamp);
        const aim = sized(lamp.aim);
        const other: Vec3 = [aim[1] * across[2] - aim[2] * across[1], aim[2] * across[0] - aim[0] * across[2], aim[0] * across[1] - aim[1] * across[0]];
        cone = pen([lamp.at, middle], false);
        for (const angle of lamp.cone ? anglesOf(lamp.cone) : []) {
          const radius = far * Math.tan(Math.min(80, angle / 2) / DEGREES);
          if (radius > 0.01) cone += round(middle, across, other, radius);
        }
      }
    }
    const { clientWidth: wide, clientHeight: tall } = this.place.canvas;
    const guide = this.guides
      .map(({ across, at }) => {
        const [x, y] = this.place.project(at).map((v) => v / ratio) as [number, number];
        return across ? `M0 ${y.toFixed(1)}H${wide}` : `M${x.toFixed(1)} 0V${tall}`;
      })
      .join("");
    const through = this.place.view === "eye";
    const fields = through
      ? ""
      : (this.app.info?.eyes ?? [])
          .map((eye) => {
            const far = this.app.selected?.name === eye.name ? Math.hypot(...plus(eye.toward, eye.at, -1)) : 3;
            return pen(wedge(eye, far), false);
          })
          .join("");
    const all = [reach, cone, side, guide, fields].join("|");
    if (all === this.shownLines) return;
    this.shownLines = all;
    this.reach.setAttribute("d", reach);
    this.cone.setAttribute("d", cone);
    this.side.setAttribute("d", side);
    this.guide.setAttribute("d", guide);
    this.fields.setAttribute("d", fields);
  }
}
