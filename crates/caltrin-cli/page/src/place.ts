// The lit place on a canvas: glTF's punctual lights, with shadows of walls and posts. What a lamp gives
// each cell is kept as long as the lamp stays where it is, so that most frames only weigh and add.

import type { Eye, Post, Solids, Vec3, Wall } from "./book";
import type { Hung } from "./hung";
import { DEPTH, type Drawn, GROUND, type Placed, type Standing, type Surrounding, UPRIGHT, stands } from "./lamp";
import { Painter } from "./painter";
import { DOWN, type Camera, type Lens, boundsOf, cameraOf, dot, onPlane, slid, surfaceAt, wallDistance, wayOf } from "./lens";

/** How many times a cell on the edge of a shadow is looked at along each side. */
const FINE = 4;
export const EIGHTY = 1.609438;
const UNSEEN = 1 / 512;
// How far around a lamp the picture reaches at the most, in meters.
const POOL = 8;
// What is drawn at 80% of white, in lx, is kept within these, so that a night stays a night.
const DARKEST = 10;
const BRIGHTEST = 300000;
// What lies nearer than this to a surface, level, is the surface itself, in meters.
const TOUCHING = 4e-3;
const encoded = (v: number) => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);

/** 8-bit sRGB of 1 - e^-x for x from 0 to 8, over each part of the ground's own light. */
const TONES = GROUND.map((ground) => {
  const table = new Uint8Array(4097);
  for (let n = 0; n <= 4096; ++n) {
    const v = ground + (1 - ground) * (1 - Math.exp((-n / 4096) * 8));
    table[n] = Math.round(255 * Math.min(1, Math.max(0, encoded(v))));
  }
  return table;
});

/** The radius of a lamp as an eye sees it, in meters. */
const LAMP = 0.09;

type Numbers = ArrayLike<number>;
/** At the visual range a twentieth of the contrast is left. */
const HIDDEN = Math.log(20);
/** Where what is behind an eye is put. */
const AWAY = -1e4;
export type View = "above" | "front" | "eye";

/** What an eye sees besides surfaces: fog, with its visual range in meters and its color, and the color of the sky. */
export interface Air {
  range: number | null;
  tint: Vec3;
  sky: Vec3;
}

/** What a lamp gives the cells around it. */
interface Share {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
  given: Float32Array;
}

function wallBetween(wall: Wall, from: Vec3, way: Vec3): boolean {
  const ax = wall.from[0] - from[0];
  const az = wall.from[2] - from[2];
  const bx = wall.to[0] - wall.from[0];
  const bz = wall.to[2] - wall.from[2];
  const across = way[0] * bz - way[2] * bx;
  if (Math.abs(across) < 1e-9) return false;
  const s = (ax * bz - az * bx) / across;
  const u = (ax * way[2] - az * way[0]) / across;
  if (!(s * Math.hypot(way[0], way[2]) > TOUCHING && s < 1 && u >= 0 && u <= 1)) return false;
  const y = from[1] + s * way[1];
  return y >= wall.from[1] + u * (wall.to[1] - wall.from[1]) && y <= wall.top;
}

function postBetween(post: Post, from: Vec3, way: Vec3): boolean {
  const cx = post.at[0] - from[0];
  const cz = post.at[2] - from[2];
  const length = way[0] * way[0] + way[2] * way[2];
  if (length < 1e-12) return false;
  const nearest = (cx * way[0] + cz * way[2]) / length;
  const dx = cx - nearest * way[0];
  const dz = cz - nearest * way[2];
  const apart = post.radius * post.radius - (dx * dx + dz * dz);
  if (apart <= 0) return false;
  const half = Math.sqrt(apart / length);
  const enters = Math.max(TOUCHING / Math.sqrt(length), nearest - half);
  const leaves = Math.min(1, nearest + half);
  if (enters >= leaves) return false;
  const a = from[1] + enters * way[1];
  const b = from[1] + leaves * way[1];
  return Math.min(a, b) <= post.top && Math.max(a, b) >= post.at[1];
}

export class Place {
  view: View = "above";
  /** The eye that is looked through, in the view of that name. */
  eye: Eye | null = null;
  hung: Hung[] = [];
  air: Air = { range: null, tint: [1, 1, 1], sky: [0, 0, 0] };
  lens: Lens = { kind: "above" };
  exposure = 0;
  solids: Solids = { walls: [], posts: [] };
  box: { lo: Vec3; hi: Vec3 } | null = null;
  window: { left: number; top: number; wide: number; tall: number } | null = null;
  private context: CanvasRenderingContext2D;
  private small = document.createElement("canvas");
  private cells: CanvasRenderingContext2D;
  private kept = new Map<string, { lamp: Standing; share: Share; seen: number }>();
  private turn = 0;
  private cell = 1;
  /** Renders views through an eye; null if the browser cannot, undefined before the first use. */
  private painter: Painter | null | undefined;
  /** What the painter was made ready for. */
  private painted = "";
  /** The view whose part of the place is shown. */
  private leader: Place | null = null;
  private slowness = 0;
  private settling = 0;
  /** Whether views through an eye are rendered at full resolution regardless of speed. */
  full = true;
  /** The part of the canvas's width and height that the painter draws. */
  private finer = 1;
  private image = new ImageData(1, 1);
  private light = new Float32Array(3);
  private at = new Float32Array(3);
  private faces = new Float32Array(3);
  private seen = new Uint8Array(1);
  private paints = new Float32Array(3);
  private flat = new Uint8Array(1);
  /** How far away each cell is from the eye; through how much fog the sky is seen. */
  private away = new Float32Array(1);

  constructor(readonly canvas: HTMLCanvasElement) {
    this.context = canvas.getContext("2d", { alpha: false })!;
    this.cells = this.small.getContext("2d", { alpha: false, willReadFrequently: true })!;
  }

  /** Takes a new book; lamps are those of one moment, to frame the place. */
  frame(solids: Solids, lamps: Placed[], hung: Hung[], eyes: Eye[]) {
    const state = () => JSON.stringify([this.solids, this.box, this.view === "eye" && this.eye, this.hung]);
    const before = this.box && state();
    this.solids = solids;
    this.hung = hung;
    this.eye = eyes.find(({ name }) => name === this.eye?.name) ?? null;
    if (!this.eye && this.view === "eye") this.view = "above";
    const lo: Vec3 = [Infinity, Infinity, Infinity];
    const hi: Vec3 = [-Infinity, -Infinity, -Infinity];
    const take = (p: Numbers, around: number) => {
      for (let n = 0; n < 3; ++n) {
        const air = n === 1 ? 1 : around;
        lo[n] = Math.min(lo[n]!, p[n]! - air);
        hi[n] = Math.max(hi[n]!, p[n]! + air);
      }
    };
    for (const lamp of lamps) {
      if (!stands(lamp)) continue;
      const around = Number.isFinite(lamp.outer) ? lamp.outer * 0.7 : Math.max(3, Math.sqrt(Math.max(...lamp.candelas) * 0.5));
      take(lamp.base, Math.min(POOL, Math.max(1, around)));
      // A spot's pool lies where it points.
      if (lamp.aim && lamp.cone && lamp.aim[1] < -0.1 && lamp.at[1] > 0) {
        const far = Math.min(lamp.at[1] / -lamp.aim[1], lamp.outer, 4 * POOL);
        take(lamp.base.map((v, n) => v + lamp.aim![n]! * far), 2);
      }
    }
    for (const wall of solids.walls) {
      take(wall.from, 1);
      take([wall.to[0], wall.top, wall.to[2]], 1);
    }
    for (const post of solids.posts) {
      take(post.at, 1 + post.radius);
      take([post.at[0], post.top, post.at[2]], 1);
    }
    // A picture alone is a place too.
    for (const one of lo[0] > hi[0] ? hung : []) {
      take(one.corner, 0);
      take(one.foot, 0);
    }
    if (lo[0] > hi[0]) for (let n = 0; n < 3; ++n) [lo[n], hi[n]] = [-5, 5];
    this.box = { lo, hi };
    // What is where it was needs no new shadows.
    if (state() === before) return;
    this.exposure = 0;
    this.resize();
  }

  /** Takes lamps into the picture that stand outside of it: those that an event makes, or that have moved. */
  include(lamps: Drawn[]) {
    if (!this.box) return;
    const { lo, hi } = this.box;
    let grown = false;
    for (const { lamp } of lamps) {
      if (!stands(lamp) || lamp.candelas.every((v) => v === 0)) continue;
      for (let n = 0; n < 3; ++n) {
        const around = n === 1 ? 0.5 : 3;
        const at = lamp.at[n]!;
        if (at >= lo[n]! - 0.01 && at <= hi[n]! + 0.01) continue;
        lo[n] = Math.min(lo[n]!, at - around);
        hi[n] = Math.max(hi[n]!, at + around);
        grown = true;
      }
    }
    if (grown) this.resize();
  }

  /** Shows the same part of the place as another view, as bright. */
  like(leader: Place, solids: Solids, hung: Hung[]) {
    const same = this.leader === leader && this.window === leader.window && this.solids === solids && this.hung === hung;
    this.exposure = leader.exposure;
    this.full = leader.full;
    this.finer = leader.finer;
    if (same) return;
    Object.assign(this, { leader, solids, hung, box: leader.box, view: leader.view, eye: leader.eye });
    this.resize();
  }

  /** Fits the window to the canvas. */
  resize() {
    if (!this.box) return;
    const { lo, hi } = this.box;
    const ratio = window.devicePixelRatio || 1;
    const shape = Math.max(0.2, this.canvas.clientHeight / Math.max(1, this.canvas.clientWidth));
    this.canvas.width = Math.max(1, Math.round(this.canvas.clientWidth * ratio));
    this.canvas.height = Math.max(1, Math.round(this.canvas.clientHeight * ratio));
    if (this.view === "eye" && this.eye) {
      const eye = cameraOf(this.eye);
      this.lens = { kind: "eye", eye };
      const wide = 2 * eye.half;
      this.window = { left: -eye.half, top: (wide * shape) / 2, wide, tall: wide * shape };
    } else {
      const front = this.view === "front";
      this.lens = front ? { kind: "front", back: lo[2], front: hi[2] } : { kind: "above" };
      const low = -hi[2] * DOWN[0];
      const tall = front ? hi[1] * DOWN[1] - lo[2] * DOWN[0] - low : hi[2] - lo[2];
      const wide = Math.max(hi[0] - lo[0], tall / shape);
      const seen = wide * shape;
      const top = front ? low + seen / 2 + tall / 2 : seen / 2 - (lo[2] + hi[2]) / 2;
      this.window = { left: (lo[0] + hi[0]) / 2 - wide / 2, top, wide, tall: seen };
    }
    if (this.leader) [this.lens, this.window] = [this.leader.lens, this.leader.window!];
    // Cells of about three pixels, at most 40,000 of them.
    let w = Math.min(360, Math.ceil(this.canvas.clientWidth / 3));
    while (w * w * shape > 40000) w = Math.floor(w * 0.9);
    const h = Math.max(8, Math.round(w * shape));
    this.small.width = w;
    this.small.height = h;
    this.image = this.cells.createImageData(w, h);
    this.light = new Float32Array(w * h * 3);
    this.kept.clear();
    this.look();
  }

  /** What is seen in each cell: the place of a surface and the direction that it faces. */
  private look() {
    if (!this.window) return;
    const { width: w, height: h } = this.small;
    const { left, top, wide } = this.window;
    const cell = wide / w;
    this.cell = cell;
    this.at = new Float32Array(w * h * 3);
    this.faces = new Float32Array(w * h * 3);
    this.paints = new Float32Array(w * h * 3).fill(1);
    this.seen = new Uint8Array(w * h);
    this.flat = new Uint8Array(w * h);
    this.away = new Float32Array(w * h);
    const { lens } = this;
    for (let n = 0; n < w * h; ++n) {
      const x = left + ((n % w) + 0.5) * cell;
      const y = top - (Math.floor(n / w) + 0.5) * cell;
      const surface = surfaceAt(lens, this.solids, this.hung, x, y);
      if (lens.kind === "eye") {
        const way = wayOf(lens.eye, x, y);
        this.away[n] = surface ? Math.hypot(...[0, 1, 2].map((k) => surface.at[k]! - lens.eye.at[k]!)) : DEPTH / Math.max(1e-3, way[1] / Math.hypot(...way));
      }
      if (!surface) continue;
      this.seen[n] = 1;
      this.flat[n] = surface.flat ? 1 : 0;
      this.at.set(surface.at, n * 3);
      this.faces.set(surface.faces, n * 3);
      this.paints.set(surface.paint, n * 3);
    }
  }

  /** Where a point is drawn, in pixels of the canvas. */
  project(p: Numbers): [number, number] {
    const { left, top, wide } = this.window!;
    const scale = this.canvas.width / wide;
    const on = onPlane(this.lens, p);
    return on ? [(on[0] - left) * scale, (top - on[1]) * scale] : [AWAY, AWAY];
  }

  /** How many meters a pixel of the page is wide, for an eye at the distance of a point. */
  scale(at?: Vec3): number {
    const plane = (this.window?.wide ?? 1) / Math.max(1, this.canvas.clientWidth);
    if (this.lens.kind !== "eye") return plane;
    const { eye } = this.lens;
    return at ? plane * Math.max(0.1, dot([0, 1, 2].map((n) => at[n]! - eye.at[n]!), eye.ahead)) : plane;
  }

  /**
   * A movement on the page, in pixels, as one in the place, in meters: from above along the ground, from the front upright,
   * through an eye across its picture at the distance of a point.
   */
  meters(dx: number, dy: number, at?: Vec3): Vec3 {
    const scale = this.scale(at);
    if (this.lens.kind === "eye") {
      const { right, up } = this.lens.eye;
      return [0, 1, 2].map((n) => (dx * right[n]! - dy * up[n]!) * scale) as Vec3;
    }
    return this.view === "above" ? [dx * scale, 0, dy * scale] : [dx * scale, (-dy * scale) / DOWN[1], 0];
  }

  /** The point of the place in which a click into the picture puts something: on the ground, or upright in the middle. */
  pointAt(x: number, y: number): Vec3 | null {
    const { left, top, wide } = this.window!;
    const scale = wide / Math.max(1, this.canvas.clientWidth);
    const [px, py] = [left + x * scale, top - y * scale];
    if (this.lens.kind === "above") return [px, 0, -py];
    if (this.lens.kind === "front") return [px, Math.max(0.1, py), 0];
    return surfaceAt(this.lens, this.solids, [], px, py)?.at ?? null;
  }

  /** What a lamp gives the cells around it. */
  private share(lamp: Standing): Share {
    const { width: w, height: h } = this.small;
    const { left, top } = this.window!;
    const cell = this.cell;
    const seen = 2 * Math.max(...lamp.candelas) * this.exposure;
    const far = this.exposure > 0 && lamp.falloff >= 1 ? Math.pow(seen / UNSEEN, 1 / lamp.falloff) : Infinity;
    const fades = Math.max(far, lamp.inner);
    const reach = Math.min(lamp.outer, fades);
    const clamp = (v: number, n: number) => Math.min(n, Math.max(0, Math.floor(v)));
    const [low, high, foot, head] = boundsOf(this.lens, lamp.at, reach) ?? [0, 0, 0, 0];
    const x0 = clamp((low - left) / cell, w);
    const x1 = clamp((high - left) / cell + 1, w);
    const y0 = clamp((top - head) / cell, h);
    const y1 = clamp((top - foot) / cell + 1, h);
    const wide = Math.max(0, x1 - x0);
    const given = new Float32Array(wide * Math.max(0, y1 - y0));
    const walls = lamp.shadows ? this.solids.walls.filter((wall) => wallDistance(wall, lamp.at) < lamp.outer) : [];
    const posts = lamp.shadows
      ? this.solids.posts.filter((post) => {
          const apart = Math.hypot(post.at[0] - lamp.at[0], post.at[2] - lamp.at[2]);
          return apart > post.radius && apart - post.radius < lamp.outer;
        })
      : [];
    const open = new Uint8Array(given.length);
    const ray: Vec3 = [0, 0, 0];
    const isOpen = (from: Vec3) => {
      for (let k = 0; k < 3; ++k) ray[k] = lamp.at[k]! - from[k]!;
      return !walls.some((wall) => wallBetween(wall, from, ray)) && !posts.some((post) => postBetween(post, from, ray));
    };
    const way: Vec3 = [0, 0, 0];
    const from: Vec3 = [0, 0, 0];
    const faces: Vec3 = [0, 0, 0];
    for (let y = y0; y < y1; ++y) {
      for (let x = x0; x < x1; ++x) {
        const n = y * w + x;
        if (!this.seen[n]) continue;
        for (let k = 0; k < 3; ++k) {
          from[k] = this.at[n * 3 + k]!;
          faces[k] = this.faces[n * 3 + k]!;
          way[k] = lamp.at[k]! - from[k]!;
        }
        const squared = dot(way, way);
        if (squared >= lamp.outer * lamp.outer || squared < 1e-12) continue;
        const distance = Math.sqrt(squared);
        const faced = this.flat[n] ? 1 : dot(faces, way) / distance;
        if (faced <= 0) continue;
        const away = squared / (lamp.outer * lamp.outer);
        const near = Math.max(distance, lamp.inner);
        let value = (faced * Math.max(0, 1 - away * away)) / Math.pow(near, lamp.falloff);
        // Where it is too weak to be drawn it fades out, so that no edge is seen.
        if (fades < lamp.outer) value *= Math.max(0, 1 - (squared / (fades * fades)) ** 2);
        if (lamp.aim) {
          const along = -dot(lamp.aim, way) / distance;
          const inside = lamp.cone ? Math.min(1, Math.max(0, along * lamp.cone[0] + lamp.cone[1])) : Math.max(0, along);
          value *= lamp.cone ? inside * inside : inside;
        }
        if (value <= 0) continue;
        const at = (y - y0) * wide + (x - x0);
        given[at] = value;
        open[at] = isOpen(from) ? 1 : 2;
      }
    }
    if (walls.length > 0 || posts.length > 0) this.smooth({ x0, y0, wide }, given, open, isOpen);
    return { x0, y0, x1, y1, given };
  }

  /**
   * Leaves of what cells are given what the open part of each lets through: `open` is 1 where a cell is open, 2 where it lies in
   * shadow, 0 where nothing is given. Where a shadow begins beside a cell it is looked at in several places, so that the
   * edge is smooth.
   */
  private smooth(
    { x0, y0, wide }: { x0: number; y0: number; wide: number },
    given: Float32Array,
    open: Uint8Array,
    isOpen: (from: Vec3) => boolean,
  ) {
    const w = this.small.width;
    const at: Vec3 = [0, 0, 0];
    const differs = (own: number, other: number) => other > 0 && other !== own;
    for (let n = 0; n < open.length; ++n) {
      const own = open[n]!;
      if (own === 0) continue;
      const x = n % wide;
      const edge =
        (x > 0 && differs(own, open[n - 1]!)) ||
        (x + 1 < wide && differs(own, open[n + 1]!)) ||
        (n >= wide && differs(own, open[n - wide]!)) ||
        (n + wide < open.length && differs(own, open[n + wide]!));
      if (!edge) {
        if (own === 2) given[n] = 0;
        continue;
      }
      const cell = ((y0 + Math.floor(n / wide)) * w + x0 + x) * 3;
      let seen = 0;
      for (let k = 0; k < FINE * FINE; ++k) {
        const right = (((k % FINE) + 0.5) / FINE - 0.5) * this.cell;
        const down = ((Math.floor(k / FINE) + 0.5) / FINE - 0.5) * this.cell;
        this.near(cell, right, down, at);
        if (isOpen(at)) seen += 1;
      }
      given[n]! *= seen / (FINE * FINE);
    }
  }

  /** The place of the surface of a cell so far to the right and down in the picture. */
  private near(cell: number, right: number, down: number, to: Vec3) {
    const three = (from: Float32Array): Vec3 => [from[cell]!, from[cell + 1]!, from[cell + 2]!];
    slid(this.lens, three(this.at), three(this.faces), right, down, to);
  }

  /** What the lamp gave when it was last where it is. Lamps that move are worked out again, as many in a frame
   * as there is time for. */
  private keptShare(key: string, lamp: Standing, moving: { until: number }): Share {
    const kept = this.kept.get(key);
    const still = kept && this.stands(kept.lamp, lamp);
    // How far its light is seen: a lamp that grows brighter reaches farther.
    const seen = Math.max(...lamp.candelas) * this.exposure;
    const reaches = kept && kept.seen >= seen;
    if (reaches && (still || performance.now() > moving.until)) return kept.share;
    const share = this.share(lamp);
    this.kept.set(key, { lamp, share, seen: seen * 2 });
    return share;
  }

  /** Whether a lamp stands and points as before, to an eighth of a cell. */
  private stands(a: Standing, b: Standing): boolean {
    if (a.inner !== b.inner || a.outer !== b.outer || a.falloff !== b.falloff || a.shadows !== b.shadows) return false;
    for (let k = 0; k < 3; ++k) {
      if (Math.abs(a.at[k]! - b.at[k]!) > this.cell / 8) return false;
      if (a.aim && b.aim && Math.abs(a.aim[k]! - b.aim[k]!) > 1e-3) return false;
    }
    return !a.cone || (a.cone[0] === b.cone?.[0] && a.cone[1] === b.cone[1]);
  }

  /** Draws lamps as they are now: a list of `{ key, lamp, name }`. */
  draw(lamps: Drawn[], names: boolean) {
    if (!this.window) return;
    // The exposure is fitted to the coarse picture.
    if (this.lens.kind === "eye" && this.exposure > 0 && this.through(this.lens.eye, lamps)) return this.marks(lamps, names);
    const { width: w, height: h } = this.small;
    const light = this.light;
    light.fill(0);
    const around = this.surrounding(lamps);
    for (let n = 0; n < w * h; ++n) {
      if (!this.seen[n]) continue;
      const open = this.flat[n] ? 1 : UPRIGHT + (1 - UPRIGHT) * Math.max(0, this.faces[n * 3 + 1]!);
      for (let k = 0; k < 3; ++k) light[n * 3 + k] = around.ambient[k]! * open;
    }
    for (const sun of around.suns) this.shine(sun);
    const moving = { until: performance.now() + 4 };
    // Another lamp is the first in each frame, so that all have their turn.
    this.turn = (this.turn + 7) % Math.max(1, lamps.length);
    for (let n = 0; n < lamps.length; ++n) {
      const { key, lamp } = lamps[(n + this.turn) % lamps.length]!;
      if (!stands(lamp)) continue;
      const [r, g, b] = lamp.candelas as Vec3;
      if (r <= 0 && g <= 0 && b <= 0) continue;
      const { x0, y0, x1, y1, given } = this.keptShare(key, lamp, moving);
      const wide = x1 - x0;
      for (let y = y0; y < y1; ++y) {
        let to = (y * w + x0) * 3;
        const row = (y - y0) * wide;
        for (let x = 0; x < wide; ++x, to += 3) {
          const v = given[row + x]!;
          if (v === 0) continue;
          light[to]! += r * v;
          light[to + 1]! += g * v;
          light[to + 2]! += b * v;
        }
      }
    }
    for (let n = 0; n < light.length; ++n) light[n]! *= this.paints[n]!;
    if (this.exposure === 0) this.fit();
    if (this.lens.kind === "eye") this.fog(around);
    this.paint();
    this.marks(lamps, names);
  }

  /** Draws what an eye sees with the painter; false where there is none. */
  private through(eye: Camera, lamps: Drawn[]): boolean {
    if (this.painter === undefined) {
      this.painter = Painter.make();
      // Software rendering starts at a third of the pixels.
      this.finer = this.painter?.slow ? 0.6 : 1;
      this.full = !this.painter?.slow;
    }
    if (this.painter?.lost) this.painter = null;
    if (!this.painter) return false;
    const { width, height } = this.canvas;
    const most = Math.sqrt(Math.min(1, Painter.pixels(lamps.length) / (width * height)));
    const scale = this.full ? most : Math.min(most, this.finer);
    this.painter.full = this.full;
    const size: [number, number] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))];
    const state = JSON.stringify([eye, this.window, size, this.solids, this.hung]);
    if (state !== this.painted) {
      this.painter.look(eye, this.window!, size, this.solids, this.hung);
      this.painted = state;
      this.settling = 20;
    }
    this.painter.draw(lamps, this.surrounding(lamps), this.exposure, this.beyond());
    this.context.imageSmoothingEnabled = true;
    this.context.drawImage(this.painter.canvas, 0, 0, width, height);
    return true;
  }

  /** How many pixels the painter draws. */
  size(): [number, number] | null {
    return this.painter ? [this.painter.canvas.width, this.painter.canvas.height] : null;
  }

  /** Lowers the resolution if frames take too long. `seconds` is the time since the last frame. */
  paced(seconds: number) {
    if (this.lens.kind !== "eye" || !this.painter || this.full) return;
    // The first frames update all lamps.
    if (this.settling > 0) {
      this.settling -= 1;
      this.slowness = 1 / 40;
      return;
    }
    this.slowness = 0.9 * this.slowness + 0.1 * Math.min(0.2, seconds);
    if (this.slowness > 1 / 28 && this.finer > 0.25) {
      this.finer *= 0.8;
      this.slowness = 1 / 40;
    }
  }

  /** The light that comes from no lamp. */
  private surrounding(lamps: Drawn[]): Surrounding {
    const ambient: Vec3 = [0, 0, 0];
    const suns: Surrounding["suns"] = [];
    for (const { lamp } of lamps) {
      if (lamp.ambient) lamp.ambient.forEach((v, n) => (ambient[n]! += v));
      if (lamp.sun) suns.push({ sun: lamp.sun, lux: lamp.lux ?? [], shadows: lamp.shadows ?? true });
    }
    // Lit from all sides, fog is as bright as a white surface; by a sun, a quarter of that.
    const haze = ambient.map((v, n) => (v + suns.reduce((sum, { lux }) => sum + lux[n]! / 4, 0)) * this.air.tint[n]!) as Vec3;
    const density = this.air.range === null ? 0 : HIDDEN / Math.max(0.1, this.air.range);
    return { ambient, suns, density, haze };
  }

  /** The light that is shown as the color of the sky. */
  private beyond(): Vec3 {
    return this.air.sky.map((v, n) => -Math.log(1 - Math.min(0.995, Math.max(0, (v - GROUND[n]!) / (1 - GROUND[n]!)))) / this.exposure) as Vec3;
  }

  /** Applies fog and sky. */
  private fog({ density, haze }: Surrounding) {
    const sky = this.beyond();
    for (let n = 0; n < this.seen.length; ++n) {
      const through = density > 0 ? Math.exp(-density * this.away[n]!) : 1;
      for (let k = 0; k < 3; ++k) {
        const own = this.seen[n] ? this.light[n * 3 + k]! : sky[k]!;
        this.light[n * 3 + k] = own * through + haze[k]! * (1 - through);
      }
    }
  }

  private shine(sun: { sun: Vec3; lux: number[]; shadows: boolean }) {
    const { width: w, height: h } = this.small;
    const way: Vec3 = [sun.sun[0] * 1e4, sun.sun[1] * 1e4, sun.sun[2] * 1e4];
    const given = new Float32Array(w * h);
    const open = new Uint8Array(w * h);
    const isOpen = (from: Vec3) =>
      !sun.shadows ||
      !(
        this.solids.walls.some((wall) => wallBetween(wall, from, way)) ||
        this.solids.posts.some((post) => postBetween(post, from, way))
      );
    for (let n = 0; n < w * h; ++n) {
      if (!this.seen[n]) continue;
      const faced = this.flat[n] ? 1 : dot(this.faces.subarray(n * 3, n * 3 + 3), sun.sun);
      if (faced <= 0) continue;
      given[n] = faced;
      const from: Vec3 = [this.at[n * 3]!, this.at[n * 3 + 1]!, this.at[n * 3 + 2]!];
      open[n] = isOpen(from) ? 1 : 2;
    }
    this.smooth({ x0: 0, y0: 0, wide: w }, given, open, isOpen);
    for (let n = 0; n < w * h; ++n) {
      for (let k = 0; k < 3; ++k) this.light[n * 3 + k]! += sun.lux[k]! * given[n]!;
    }
  }

  /**
   * Fits the exposure to the ground that is lit: what nine tenths of it stay below is drawn at 80% of white, however bright
   * the small rest is; ground that is lit evenly is drawn a good third below that.
   */
  private fit() {
    const levels: number[] = [];
    for (let n = 0; n < this.light.length; n += 3) {
      levels.push(Math.max(this.light[n]!, this.light[n + 1]!, this.light[n + 2]!));
    }
    levels.sort((a, b) => a - b);
    const at = (all: number[], share: number) => all[Math.min(all.length - 1, Math.floor(all.length * share))] ?? 0;
    const lit = levels.filter((v) => v > Math.max(at(levels, 0.995) / 500, 1e-6));
    const mean = lit.length ? Math.exp(lit.reduce((sum, v) => sum + Math.log(v), 0) / lit.length) : 0;
    const bright = Math.max(at(lit, 0.9), 3 * mean);
    this.exposure = EIGHTY / Math.min(BRIGHTEST, Math.max(DARKEST, bright));
  }

  private paint() {
    const { width: w, height: h } = this.small;
    const data = this.image.data;
    const scale = this.exposure * 512;
    for (let n = 0, from = 0, to = 0; n < w * h; ++n, from += 3, to += 4) {
      for (let k = 0; k < 3; ++k) {
        const v = this.light[from + k]! * scale;
        data[to + k] = TONES[k]![v < 4096 ? v | 0 : 4096]!;
      }
      data[to + 3] = 255;
    }
    this.cells.putImageData(this.image, 0, 0);
    const { context } = this;
    context.imageSmoothingEnabled = true;
    context.drawImage(this.small, 0, 0, this.canvas.width, this.canvas.height);
  }

  /** The lamps that an eye sees, as bright discs. */
  private shining(lamps: Drawn[], eye: Vec3) {
    const { context } = this;
    const { density } = this.surrounding(lamps);
    for (const { lamp } of lamps) {
      if (!stands(lamp)) continue;
      const [x, y] = this.project(lamp.at);
      const way: Vec3 = [eye[0] - lamp.at[0], eye[1] - lamp.at[1], eye[2] - lamp.at[2]];
      const away = Math.hypot(...way);
      const most = Math.max(...lamp.candelas);
      const level = (1 - Math.exp(-most * this.exposure * 0.08)) * Math.exp(-density * away);
      if (x === AWAY || level < 0.03 || this.hidden(lamp.at, way)) continue;
      const radius = Math.min(this.canvas.width / 80, Math.max(1.2, (LAMP * this.canvas.width) / (this.window!.wide * away)));
      const color = lamp.candelas.map((v) => Math.round(255 * encoded(v / most)));
      for (const [size, alpha] of [[2.2, level / 5], [1, level]] as const) {
        context.beginPath();
        context.arc(x, y, radius * size, 0, 7);
        context.fillStyle = `rgba(${color}, ${alpha})`;
        context.fill();
      }
    }
  }

  private hidden(at: Vec3, way: Vec3): boolean {
    const { walls, posts } = this.solids;
    const beside = (post: Post) => Math.hypot(post.at[0] - at[0], post.at[2] - at[2]) > post.radius || at[1] > post.top;
    return walls.some((wall) => wallBetween(wall, at, way)) || posts.some((post) => beside(post) && postBetween(post, at, way));
  }

  private marks(lamps: Drawn[], names: boolean) {
    const { context } = this;
    const ratio = window.devicePixelRatio || 1;
    context.lineWidth = ratio * 2;
    if (this.lens.kind === "eye") return this.shining(lamps, this.lens.eye.at);
    context.strokeStyle = "#ece6d870";
    context.fillStyle = "#ece6d870";
    for (const wall of this.solids.walls) {
      const lines: [Vec3, Vec3][] =
        this.view === "above"
          ? [[wall.from, wall.to]]
          : [
              [wall.from, wall.to],
              [wall.to, [wall.to[0], wall.top, wall.to[2]]],
              [[wall.to[0], wall.top, wall.to[2]], [wall.from[0], wall.top, wall.from[2]]],
              [[wall.from[0], wall.top, wall.from[2]], wall.from],
            ];
      context.lineWidth = ratio * (this.view === "above" ? 2 : 1);
      for (const [a, b] of lines) {
        context.beginPath();
        context.moveTo(...this.project(a));
        context.lineTo(...this.project(b));
        context.stroke();
      }
    }
    const scale = this.canvas.width / this.window!.wide;
    for (const post of this.solids.posts) {
      const [x, y] = this.project(post.at);
      context.beginPath();
      if (this.view === "above") {
        context.arc(x, y, Math.max(1.5, post.radius * scale), 0, 7);
        context.fill();
      } else {
        const [, top] = this.project([post.at[0], post.top, post.at[2]]);
        context.lineWidth = ratio;
        context.strokeRect(x - post.radius * scale, top, 2 * post.radius * scale, y - top);
      }
    }
    const radius = 3.2 * ratio;
    for (const { lamp } of lamps) {
      if (!lamp.at) continue;
      const [x, y] = this.project(lamp.at);
      const most = Math.max(...lamp.candelas);
      const level = most > 0 ? 1 - Math.exp(-most * this.exposure * 0.08) : 0;
      const color = lamp.candelas.map((v) => Math.round(255 * Math.sqrt((most > 0 ? v / most : 0) * level)));
      context.beginPath();
      // One that is dark, or lost in daylight, only says where it is.
      if (level < 0.03) {
        context.arc(x, y, radius * 0.6, 0, 7);
        context.fillStyle = "#9aa5a8";
        context.fill();
        continue;
      }
      context.arc(x, y, radius, 0, 7);
      context.fillStyle = `rgb(${color})`;
      context.fill();
      context.lineWidth = ratio;
      context.strokeStyle = "#ece6d8b0";
      context.stroke();
    }
    if (!names) return;
    context.font = `${12 * ratio}px "Atkinson Hyperlegible", sans-serif`;
    const taken: [number, number, number][] = [];
    for (const { lamp, name } of lamps) {
      if (!lamp.at || !name) continue;
      const [x, y] = this.project(lamp.at);
      const wide = context.measureText(name).width;
      const places: [number, number][] = [
        [x + 8 * ratio, y + 4 * ratio],
        [x - 8 * ratio - wide, y + 4 * ratio],
        [x - wide / 2, y - 9 * ratio],
        [x - wide / 2, y + 18 * ratio],
      ];
      const free = places.find(([px, py]) => {
        if (px < 0 || px + wide > this.canvas.width || py < 14 * ratio || py > this.canvas.height - 2) return false;
        return !taken.some(([tx, ty, tw]) => px < tx + tw + 6 && tx < px + wide + 6 && Math.abs(py - ty) < 15 * ratio);
      });
      if (!free) continue;
      taken.push([free[0], free[1], wide]);
      context.fillStyle = "#0f1519a0";
      context.fillRect(free[0] - 3 * ratio, free[1] - 11 * ratio, wide + 6 * ratio, 15 * ratio);
      context.fillStyle = "#ece6d8";
      context.fillText(name, free[0], free[1]);
    }
  }
}
