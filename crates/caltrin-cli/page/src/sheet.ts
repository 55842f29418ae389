// The lanes of the timeline, drawn from the exported code a little at a time, so that the page never
// stands still.

import type { Band, LaneValue, Light, Module, Lamp, Run, Sound } from "./book";

const INK = "#ece6d8";
const QUIET = "#9aa5a8";

export function short(v: number): string {
  const size = Math.abs(v);
  const text = v.toFixed(size >= 1000 ? 0 : size >= 100 ? 1 : size >= 1 ? 2 : 3);
  return text.includes(".") ? text.replace(/\.?0+$/, "") : text;
}

export const srgb = (v: number): number => {
  const c = Math.min(1, Math.max(0, v));
  return Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055));
};

/** The visible part of the timeline. */
export interface Visible {
  from: number;
  to: number;
}

/** A lane that is sampled a few columns at a time. */
export abstract class Sampled {
  columns = 1;
  done = 0;
  /** Where its scale, or its value under the pointer, is told. */
  told: HTMLElement | null = null;
  /** The bar of its meter. */
  bar: HTMLElement | null = null;

  constructor(readonly canvas: HTMLCanvasElement) {}

  abstract clear(columns: number): void;
  /** Takes the values of the run at a moment; `step` is the distance between columns, in seconds. */
  abstract take(book: Module, run: Run, step: number, at: number): void;
  abstract draw(): void;

  /** The top of its scale. */
  top(): string {
    return "";
  }

  /** Where its value is on its scale at a share of the span, 0..1; null for what has none. */
  // eslint-disable-next-line @typescript-eslint/no-unused-vars
  meter(_share: number): number | null {
    return null;
  }

  /** Its value at a share of the span. */
  // eslint-disable-next-line @typescript-eslint/no-unused-vars
  words(_share: number): string {
    return "";
  }

  /** Samples some more columns; whether there is anything left. */
  sample(book: Module, run: Run, span: Visible, until: number): boolean {
    while (this.done < this.columns) {
      const t = span.from + ((this.done + 0.5) / this.columns) * (span.to - span.from);
      book.advance(run, t);
      this.take(book, run, (span.to - span.from) / this.columns, t);
      this.done += 1;
      if (this.done % 16 === 0 && performance.now() > until) break;
    }
    return this.done < this.columns;
  }

  /** The canvas as large as it is seen, empty. */
  empty() {
    const ratio = window.devicePixelRatio || 1;
    const { clientWidth, clientHeight } = this.canvas;
    const w = Math.max(1, Math.round(clientWidth * ratio));
    const h = Math.max(1, Math.round(clientHeight * ratio));
    if (this.canvas.width !== w || this.canvas.height !== h) {
      this.canvas.width = w;
      this.canvas.height = h;
    }
    const context = this.canvas.getContext("2d")!;
    context.clearRect(0, 0, w, h);
    return { context, ratio, w, h };
  }
}

/** A sound's lane: its waveform where it plays, and where something begins in it. */
export class SoundLane extends Sampled {
  level = new Float32Array(1);
  marks = new Uint8Array(1);
  read: Lamp | undefined;

  constructor(
    readonly sound: Sound,
    canvas: HTMLCanvasElement,
  ) {
    super(canvas);
  }

  override meter(share: number): number | null {
    const x = Math.floor(share * this.columns);
    return x < this.done ? this.level[x]! : null;
  }

  clear(columns: number) {
    this.columns = columns;
    this.level = new Float32Array(columns);
    this.marks = new Uint8Array(columns);
    this.done = 0;
  }

  take(book: Module, run: Run, step: number) {
    const { sound } = this;
    const read: Lamp = book[sound.read](run, this.read);
    this.read = read;
    const place = read[sound.place] as number;
    if ((sound.plays && !read[sound.plays]) || place >= sound.length) return;
    const from = Math.floor((place - step / 2) * sound.rate);
    const to = Math.max(from + 1, Math.ceil((place + step / 2) * sound.rate));
    for (let n = Math.max(0, from); n < to && n < sound.peaks.length; ++n) {
      this.level[this.done] = Math.max(this.level[this.done]!, sound.peaks[n]! / 255);
    }
    if (sound.marks.some((at) => at >= place - step / 2 && at < place + step / 2)) this.marks[this.done] = 1;
  }

  draw() {
    const { context, ratio, w, h } = this.empty();
    const step = w / this.columns;
    context.fillStyle = "#8fd3ffb0";
    for (let x = 0; x < this.done; ++x) {
      const reach = (this.level[x]! * h) / 2;
      context.fillRect(x * step, h / 2 - reach, Math.max(1, step), Math.max(ratio, 2 * reach));
    }
    const many = this.marks.reduce((sum, v) => sum + v, 0) * 12 > this.done;
    context.fillStyle = "#ffd08a";
    for (let x = 0; x < this.done; ++x) {
      if (this.marks[x]) context.fillRect(x * step, 0, ratio, many ? 5 * ratio : h);
    }
  }
}

/** A value with its unit: a ratio without one is shown in percent, `-` stands for a number that has none. */
export const withUnit = (v: number, unit: string): string => (unit === "" ? `${short(v * 100)}%` : unit === "-" ? short(v) : `${short(v)} ${unit}`);

/** The band of modes, or of a sequence: how much each counts. */
export class BandLane extends Sampled {
  readonly parts: { name: string; field?: string }[];
  weights = new Float32Array(1);
  read: Lamp | undefined;
  /** When a sequence began, in seconds of the run, as far as it plays in the visible span. */
  private starts: number[] = [];
  private startsBefore: number[] = [];

  constructor(
    public band: Band,
    canvas: HTMLCanvasElement,
  ) {
    super(canvas);
    this.parts = band.parts ?? [{ name: band.name }];
    this.clear(1);
  }

  clear(columns: number) {
    // What was known stays until it is sampled again, so that nothing jumps meanwhile.
    this.startsBefore = this.known();
    this.starts = [];
    this.columns = columns;
    this.weights = new Float32Array(columns * this.parts.length);
    this.done = 0;
  }

  /** When the sequence began, as far as it is known. */
  known(): number[] {
    return this.starts.length || this.done >= this.columns ? this.starts : this.startsBefore;
  }

  take(book: Module, run: Run, step: number, at: number) {
    const { band } = this;
    const read: Lamp = book[band.read](run, this.read);
    this.read = read;
    const first = this.done * this.parts.length;
    if (band.parts) {
      band.parts.forEach(({ field }, n) => (this.weights[first + n] = read[field] as number));
      return;
    }
    const place = read[band.at!] as number;
    const end = band.end ?? null;
    const plays = place >= 0 && (end === null || place < end);
    if (plays && Math.abs(at - place - (this.starts.at(-1) ?? -Infinity)) > 1e-6 + step / 1e3) this.starts.push(at - place);
    this.weights[first] = plays ? (band.holds ? (read[band.holds] as number) : 1) : 0;
  }

  /** What counts most at a share of the span, in words. */
  override words(share: number): string {
    const x = Math.floor(share * this.columns);
    if (x >= this.done) return "";
    const own = [...this.weights.subarray(x * this.parts.length, (x + 1) * this.parts.length)];
    const most = Math.max(...own);
    if (!this.band.parts) return most > 0 ? "plays" : "";
    return most > 0 ? this.parts[own.indexOf(most)]!.name : "";
  }

  draw() {
    const { context, ratio, w, h } = this.empty();
    const step = w / this.columns;
    const last = Math.max(1, this.parts.length - 1);
    for (let x = 0; x < this.done; ++x) {
      let foot = h;
      this.parts.forEach((_, n) => {
        const high = h * Math.min(1, Math.max(0, this.weights[x * this.parts.length + n]!));
        context.fillStyle = this.band.parts ? `rgba(143, 211, 255, ${0.11 + (0.36 * n) / last})` : "#ffd08a46";
        context.fillRect(x * step, foot - high, Math.max(1, step), high);
        foot -= high;
      });
    }
    context.font = `${11 * ratio}px "Atkinson Hyperlegible", sans-serif`;
    context.fillStyle = INK;
    context.textBaseline = "middle";
    this.parts.forEach(({ name }, n) => {
      const on = (x: number) => x < this.done && this.weights[x * this.parts.length + n]! > 0.5;
      for (let x = 0; x < this.done; ++x) {
        const from = x;
        while (on(x)) ++x;
        if (context.measureText(name).width + 10 * ratio <= (x - from) * step) context.fillText(name, from * step + 5 * ratio, h / 2);
      }
    });
  }
}

/**
 * One value of a light: its samples over the span, and its canvas. A pool of sparks shows its brightest at each moment, and how many
 * live.
 */
export class Lane extends Sampled {
  /** The least and the most that the run has shown so far; kept while the book stays the same. */
  seen: [number, number] = [0, 0];
  lamps = 1;
  level = new Float32Array(1);
  color = new Float32Array(3);
  live = new Uint16Array(1);
  lamp: Lamp | undefined;
  /** The level of the same lamp in the version that is kept as A, at a moment; null where it has none. */
  before: ((at: number) => number | null) | null = null;
  levelBefore = new Float32Array(1);

  constructor(
    public light: Light,
    public value: LaneValue,
    canvas: HTMLCanvasElement,
  ) {
    super(canvas);
    this.clear(1);
  }

  /** Begins again with so many columns. */
  clear(columns: number) {
    this.columns = columns;
    this.lamps = this.light.spark ? 1 : Math.min(this.light.lamps, 6);
    this.level = new Float32Array(columns * this.lamps);
    this.color = new Float32Array(columns * this.lamps * 3);
    this.live = new Uint16Array(columns);
    this.levelBefore = new Float32Array(columns).fill(NaN);
    this.done = 0;
  }

  /** The lower and upper end: the guaranteed range or, where that is far from all that has been seen, what has been seen. */
  ends(): [number, number] {
    const [least, most] = this.seen;
    const bound = this.value.bounds?.[1] ?? 0;
    const top = bound > 0 && bound <= 50 * most ? bound : most > 0 ? most : bound > 0 ? bound : least < 0 ? 0 : 1;
    return [least, top];
  }

  take(book: Module, run: Run, _step: number, at: number) {
    const { light, value } = this;
    if (this.before) this.levelBefore[this.done] = this.before(at) ?? NaN;
    const level = value.level && light.fields[value.level];
    const hue = value.hue && light.fields[value.hue];
    this.lamp ??= light.array ? book[light.read](run, 0) : book[light.read](run);
    const read = (n: number): Lamp => (light.array ? book[light.read](run, n, this.lamp) : book[light.read](run, this.lamp));
    const number = (lamp: Lamp) => (!level ? 1 : Number(value.part === null ? lamp[level] : (lamp[level] as number[])[value.part]));
    let first = 0;
    if (light.spark) {
      let most = 0;
      for (let n = 0; n < light.lamps; ++n) {
        const v = number(read(n));
        if (v > 0) this.live[this.done] = this.live[this.done]! + 1;
        if (v > most) [most, first] = [v, n];
      }
    }
    for (let n = 0; n < this.lamps; ++n) {
      const lamp = read(first + n);
      const at = n * this.columns + this.done;
      const v = number(lamp);
      this.level[at] = v;
      if (v > this.seen[1]) this.seen[1] = v;
      if (v < this.seen[0]) this.seen[0] = v;
      const color = hue ? (lamp[hue] as number[]) : null;
      for (let k = 0; k < 3; ++k) this.color[at * 3 + k] = v * (color ? color[k]! : 1);
    }
  }

  /** The top with its unit. */
  override top() {
    if (!this.value.level) return "";
    return withUnit(this.ends()[1], this.value.unit);
  }

  override meter(share: number): number | null {
    const x = Math.floor(share * this.columns);
    if (x >= this.done || !this.value.level) return null;
    const [least, top] = this.ends();
    return (this.level[x]! - least) / (top - least || 1);
  }

  /** The value of the first lamp at a share of the span, in words. */
  override words(share: number): string {
    const x = Math.floor(share * this.columns);
    if (x >= this.done) return "";
    if (!this.value.level) {
      const hex = (k: number) => srgb(this.color[x * 3 + k]!).toString(16).padStart(2, "0");
      return this.value.hue ? `#${hex(0)}${hex(1)}${hex(2)}` : "";
    }
    const live = this.light.spark ? `, ${this.live[x]!} live` : "";
    const before = this.levelBefore[x]!;
    // A is named where it differs.
    const differs = Math.abs(before - this.level[x]!) > 1e-3 * Math.max(Math.abs(before), Math.abs(this.level[x]!));
    const was = this.before && differs ? `\nA ${withUnit(before, this.value.unit)}` : "";
    return withUnit(this.level[x]!, this.value.unit) + live + was;
  }

  /** The line of A, and what lies between the two. */
  private drawBefore(context: CanvasRenderingContext2D, { step, foot, high, low, range, ratio }: { step: number; foot: number; high: number; low: number; range: number; ratio: number }) {
    const y = (v: number) => foot - ((v - low) / range) * high;
    context.fillStyle = "#ff8fc760";
    for (let x = 0; x < this.done; ++x) {
      const [a, b] = [this.levelBefore[x]!, this.level[x]!];
      if (!Number.isFinite(a) || Math.abs(a - b) < 1e-6 * range) continue;
      context.fillRect(x * step, Math.min(y(a), y(b)), Math.max(1, step), Math.abs(y(a) - y(b)));
    }
    context.beginPath();
    let pen = false;
    for (let x = 0; x < this.done; ++x) {
      const a = this.levelBefore[x]!;
      if (!Number.isFinite(a)) {
        pen = false;
        continue;
      }
      if (pen) context.lineTo((x + 0.5) * step, y(a));
      else context.moveTo((x + 0.5) * step, y(a));
      pen = true;
    }
    context.strokeStyle = "#ece6d8";
    context.lineWidth = ratio;
    context.setLineDash([2 * ratio, 2 * ratio]);
    context.stroke();
    context.setLineDash([]);
  }

  /** Draws what is sampled. */
  draw() {
    const { context, ratio, w, h } = this.empty();
    const [low, top] = this.ends();
    const range = Math.max(1e-30, top - low);
    const plain = !this.value.level && this.value.hue;
    const ribbon = plain ? h : this.value.hue || !this.value.name ? Math.round(h * 0.34) : 0;
    const each = ribbon / this.lamps;
    const step = w / this.columns;
    for (let n = 0; ribbon > 0 && n < this.lamps; ++n) {
      const image = context.createImageData(this.columns, 1);
      for (let x = 0; x < this.columns; ++x) {
        const at = (n * this.columns + x) * 3;
        const alive = x < this.done ? 255 : 0;
        for (let k = 0; k < 3; ++k) image.data[x * 4 + k] = srgb(this.color[at + k]! / top);
        image.data[x * 4 + 3] = alive;
      }
      const strip = document.createElement("canvas");
      strip.width = this.columns;
      strip.height = 1;
      strip.getContext("2d")!.putImageData(image, 0, 0);
      context.imageSmoothingEnabled = false;
      context.drawImage(strip, 0, Math.round(n * each), w, Math.max(1, Math.round(each)));
    }
    if (plain) return;
    const foot = h - 1;
    const high = h - ribbon - 4 * ratio;
    const sum: [number, number, number] = [0, 0, 0];
    for (let x = 0; x < this.done; ++x) for (let k = 0; k < 3; ++k) sum[k]! += this.color[x * 3 + k]!;
    const most = Math.max(...sum);
    const ink = !ribbon ? INK : most > 0 ? `rgb(${sum.map((v) => srgb((0.8 * v + 0.2 * most) / most))})` : QUIET;
    context.beginPath();
    context.moveTo(0, foot);
    for (let x = 0; x < this.done; ++x) context.lineTo((x + 0.5) * step, foot - ((this.level[x]! - low) / range) * high);
    context.lineTo(this.done * step, foot);
    context.globalAlpha = 0.28;
    context.fillStyle = ink;
    context.fill();
    context.globalAlpha = 1;
    context.beginPath();
    for (let x = 0; x < this.done; ++x) {
      const y = foot - ((this.level[x]! - low) / range) * high;
      if (x === 0) context.moveTo(0.5 * step, y);
      else context.lineTo((x + 0.5) * step, y);
    }
    context.strokeStyle = ink;
    context.lineWidth = 1.2 * ratio;
    context.stroke();
    if (this.before) this.drawBefore(context, { step, foot, high, low, range, ratio });
    const crowd = this.live.reduce((most, n) => Math.max(most, n), 0);
    if (this.light.spark && crowd > 0) {
      // How many live, against the size of the pool.
      context.beginPath();
      for (let x = 0; x < this.done; ++x) context.lineTo((x + 0.5) * step, foot - (this.live[x]! / this.light.lamps) * high);
      context.strokeStyle = "#8fd3ff";
      context.stroke();
    }
    const bounds = this.value.bounds;
    if (bounds && bounds[0] < bounds[1]) {
      context.setLineDash([3 * ratio, 6 * ratio]);
      context.strokeStyle = `${QUIET}a0`;
      context.lineWidth = ratio;
      for (const v of bounds) {
        if (v === 0 || v < low || v > top + 1e-4 * range) continue;
        const y = foot - ((v - low) / range) * high;
        context.beginPath();
        context.moveTo(0, y);
        context.lineTo(w, y);
        context.stroke();
      }
      context.setLineDash([]);
    }
  }
}

/** What a lane shows at a share of the span, as an expectation: well above or below what it is there. */
export function expectation(lane: Pick<Lane, "light" | "value" | "level" | "lamps" | "columns" | "done">, share: number): string | null {
  const { light, value } = lane;
  const x = Math.floor(share * lane.columns);
  if (!value.level || value.part !== null || light.spark || x < 0 || x >= lane.done) return null;
  const name = light.kind === "output" ? (value.name ? `${light.name}.${value.name}` : light.name) : `${light.name}.${value.level.split("_")[0]}`;
  const levels = Array.from({ length: lane.lamps }, (_, n) => lane.level[n * lane.columns + x]!);
  const written = (v: number) => {
    const two = Number(v.toPrecision(2));
    return value.unit === "" ? `${Number((two * 100).toPrecision(3))}%` : value.unit === "-" ? `${two}` : `${two}${value.unit}`;
  };
  const [least, most] = [Math.min(...levels), Math.max(...levels)];
  const top = Math.max(...lane.level.subarray(0, lane.columns * lane.lamps));
  // What is dark stays below a tenth of the brightest.
  return least > 0.1 * top ? `${name} above ${written(0.8 * least)}` : `${name} below ${written(Math.max(1.2 * most, 0.1 * top) || 1)}`;
}

/** The marks of the ruler over all lanes. */
export function ruler(canvas: HTMLCanvasElement, span: Visible, flags: { at: number; name: string }[] = [], loop: Visible | null = null) {
  const ratio = window.devicePixelRatio || 1;
  canvas.width = Math.max(1, Math.round(canvas.clientWidth * ratio));
  canvas.height = Math.max(1, Math.round(canvas.clientHeight * ratio));
  const context = canvas.getContext("2d")!;
  if (loop) {
    const place = (t: number) => ((t - span.from) / (span.to - span.from)) * canvas.width;
    context.fillStyle = "#ffd08a40";
    context.fillRect(place(loop.from), 0, Math.max(ratio, place(loop.to) - place(loop.from)), canvas.height);
  }
  const rough = ((span.to - span.from) / Math.max(2, canvas.clientWidth / 84)) || 1;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((n) => n * power).find((s) => s >= rough) ?? power;
  context.font = `${12 * ratio}px "Atkinson Hyperlegible", sans-serif`;
  context.fillStyle = getComputedStyle(canvas).color || INK;
  context.textBaseline = "middle";
  for (let n = Math.ceil(span.from / step - 1e-9); n * step <= span.to + 1e-9; ++n) {
    const t = n * step;
    const x = ((t - span.from) / (span.to - span.from)) * canvas.width;
    const words = `${short(Math.round(t * 1e6) / 1e6)} s`;
    const wide = context.measureText(words).width;
    context.fillRect(Math.min(canvas.width - ratio, x), canvas.height - 5 * ratio, ratio, 5 * ratio);
    context.fillText(words, Math.min(canvas.width - wide, Math.max(0, x - wide / 2)), canvas.height - 13 * ratio);
  }
  // What the game does, each as a flag at its moment.
  context.fillStyle = getComputedStyle(canvas).getPropertyValue("--focus").trim() || INK;
  let free = 0;
  context.font = `${11 * ratio}px "Atkinson Hyperlegible", sans-serif`;
  for (const { at, name } of flags) {
    if (at < span.from || at > span.to) continue;
    const x = ((at - span.from) / (span.to - span.from)) * canvas.width;
    context.fillRect(x, 0, ratio, canvas.height);
    const wide = context.measureText(name).width + 6 * ratio;
    if (x >= free && x + wide <= canvas.width) {
      context.fillText(name, x + 3 * ratio, 6 * ratio);
      free = x + wide;
    }
  }
}
