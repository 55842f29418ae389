// What the curve editor computes of a curve: its window, its steps, its seam, and stops that are scaled or reversed.

import type { Curve, Stop } from "./book";
import { roundStep } from "./number";

export interface Window {
  from: number;
  to: number;
  low: number;
  high: number;
}

/** The numbers of a column: null where a stop has none there. */
export function column(curve: Curve, n: number): (number | null)[] {
  return curve.stops.map((stop) => {
    const value = stop.values[n]?.value;
    return typeof value === "number" ? value : null;
  });
}

/** The columns that are drawn as lines, and those that are colors. */
export function columns(curve: Curve): { n: number; name: string; color: boolean }[] {
  const first = curve.stops[0];
  if (!first) return [];
  return first.values
    .map((_, n) => {
      const kinds = new Set(curve.stops.map((stop) => stop.values[n]?.kind).filter((kind) => kind));
      return { n, name: curve.columns[n] ?? "level", color: kinds.has("color"), line: kinds.has("number") || kinds.has("time") };
    })
    .filter(({ color, line }) => color || line);
}

/** What is seen of a curve: all of it with room around. */
export function windowOf(curve: Curve): Window {
  const places = curve.stops.map((stop) => stop.position);
  const values = columns(curve)
    .filter(({ color }) => !color)
    .flatMap(({ n }) => [...column(curve, n), ...(curve.samples?.[n] ?? [])])
    .filter((v) => v !== null);
  let [low, high] = values.length ? [Math.min(...values, 0), Math.max(...values)] : [0, 1];
  if (high - low < 1e-9) high = low + Math.max(1e-3, Math.abs(low));
  const room = (high - low) * 0.12;
  high += room;
  if (low < 0) low -= room;
  const from = curve.domain === "hour" ? 0 : Math.min(...places);
  const last = curve.domain === "hour" ? 24 : Math.max(...places, curve.length ?? -Infinity);
  return { from, to: last > from ? last : from + 1, low, high };
}

/** The unit in which a value is written, and how much one of it is. */
export function unitOf(text: string, value: number): { unit: string; size: number } {
  const unit = text.replace(/^[-+]?[\d._]*(e[+-]?\d+)?/i, "");
  const sizes: Record<string, number> = { "%": 0.01, ms: 1e-3, s: 1, min: 60, h: 3600, cm: 0.01, mm: 1e-3, m: 1, km: 1000, deg: 1, Hz: 1, kHz: 1000 };
  const known = sizes[unit];
  if (known !== undefined) return { unit, size: known };
  const digits = parseFloat(text.replace(/_/g, ""));
  return { unit, size: digits !== 0 && value !== 0 ? value / digits : 1 };
}

/** Steps in which stops move, by what is seen. */
export function stepsOf(window: Window, domain: Curve["domain"]): { place: number; value: number } {
  const place = domain === "hour" ? 1 / 12 : roundStep((window.to - window.from) / 100);
  return { place, value: roundStep((window.high - window.low) / 100) };
}

/** How much a curve that repeats jumps at its seam, for each column with a number. */
export function seam(curve: Curve): { n: number; jump: number }[] {
  const last = curve.stops.length - 1;
  // One that is longer than its stops leads back to its first value.
  if (last < 1 || (curve.length !== null && curve.length > curve.stops[last]!.position)) return [];
  return columns(curve)
    .filter(({ color }) => !color)
    .map(({ n }) => {
      const values = column(curve, n);
      return { n, jump: (values[0] ?? 0) - (values[last] ?? 0) };
    });
}

/** Positions with the distance of each to the first one scaled. */
export function stretched(places: number[], by: number): number[] {
  const first = places[0] ?? 0;
  return places.map((place) => first + (place - first) * by);
}

/** The stops in reverse: positions mirrored within the span, values and easings the other way round. */
export function reversed(stops: Stop[]): { position: number; values: string[]; easing: string | null }[] {
  const places = stops.map((stop) => stop.position);
  const [first, last] = [places[0] ?? 0, places[places.length - 1] ?? 0];
  return stops
    .map((stop, n) => ({
      position: first + last - stop.position,
      values: stop.values.map((value) => value.text),
      // The way into a stop is the way out of the one before.
      easing: mirrored(stops[n + 1]?.easing ?? null),
    }))
    .reverse()
    .map((stop, n) => (n === 0 ? { ...stop, easing: null } : stop));
}

/** An easing as it looks from behind. */
export function mirrored(easing: string | null): string | null {
  if (easing === "ease-in") return "ease-out";
  if (easing === "ease-out") return "ease-in";
  const bezier = bezierOf(easing);
  if (!bezier || easing === null || !easing.startsWith("cubic-bezier")) return easing;
  const [x1, y1, x2, y2] = bezier;
  return bezierText([1 - x2, 1 - y2, 1 - x1, 1 - y1]);
}

export type Bezier = [number, number, number, number];

/** The control values of an easing of CSS; null of those that have none. */
export function bezierOf(easing: string | null): Bezier | null {
  switch (easing) {
    case "ease":
      return [0.25, 0.1, 0.25, 1];
    case "ease-in":
      return [0.42, 0, 1, 1];
    case "ease-out":
      return [0, 0, 0.58, 1];
    case "ease-in-out":
      return [0.42, 0, 0.58, 1];
  }
  const found = /^cubic-bezier\(\s*([^,]+),\s*([^,]+),\s*([^,]+),\s*([^)]+)\)$/.exec(easing ?? "");
  const numbers = found?.slice(1).map(Number);
  return numbers?.length === 4 && numbers.every(Number.isFinite) ? (numbers as Bezier) : null;
}

export function bezierText(values: Bezier): string {
  const digits = (v: number) => String(Number(v.toFixed(2)));
  return `cubic-bezier(${values.map(digits).join(", ")})`;
}
