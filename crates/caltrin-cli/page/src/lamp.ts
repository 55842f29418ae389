// What lamps of the book are in the place, as glTF's punctual lights have them.

import type { Lamp, Light, Space, Vec3 } from "./book";

type Numbers = ArrayLike<number>;
// What a plain factor of 1 is drawn as: cd of a lamp, lx of ambient and directional light.
const FACTOR = 100;
const FACTOR_LUX = 10;
const NEAREST = 0.1;

// What an upright surface gets of the ambient light.
export const UPRIGHT = 0.6;

export const GROUND = [0.0045, 0.006, 0.0072];

/** How far up the fog before the sky reaches, in meters. */
export const DEPTH = 50;

/** Light from everywhere and from suns, and what fog makes of it. */
export interface Surrounding {
  ambient: Vec3;
  suns: { sun: Vec3; lux: number[]; shadows: boolean }[];
  density: number;
  haze: Vec3;
}

/** A lamp that stands somewhere. */
export interface Standing {
  at: Vec3;
  base: Vec3;
  aim: Vec3 | undefined;
  cone: [number, number] | null;
  candelas: number[];
  inner: number;
  outer: number;
  falloff: number;
  shadows: boolean;
}

/** What a lamp is in the place. */
export type Placed = Partial<Standing> & { candelas: number[]; ambient?: number[]; sun?: Vec3; lux?: number[] };

/** A lamp with its name, as it is drawn. */
export interface Drawn {
  key: string;
  light: string;
  index: number;
  spark: boolean;
  lamp: Placed;
  name: string;
}

export const stands = (lamp: Placed): lamp is Standing & Placed => lamp.at !== undefined;

/** A point or direction of the book's as meters with y up. */
export function upright(space: Space, p: Numbers, unit: number): Vec3 {
  const [x, y, z] = [p[0]!, p[1]!, p[2]!];
  const q: Vec3 = space.up === "z" ? [x, z, -y] : [x, y, z];
  return [q[0] * unit, q[1] * unit, q[2] * unit];
}

/** Converts meters with y up to the axes of the book. */
export function toBook(space: Space, [x, y, z]: Vec3): Vec3 {
  return space.up === "z" ? [x, -z, y] : [x, y, z];
}

/** What a light's lamp is in the place, or null if it has no place there. */
export function lampOf(light: Light, lamp: Lamp, space: Space): Placed | null {
  const f = light.fields;
  const get = (name: string) => {
    const field = f[name];
    return field === undefined ? undefined : lamp[field];
  };
  const number = (name: string) => get(name) as number | undefined;
  const vector = (name: string) => get(name) as number[] | undefined;
  const level = number("intensity") ?? 1;
  const color = vector("color") ?? [1, 1, 1];
  const factor = light.strength === "";
  let scale;
  if (factor) scale = light.kind === "ambient" || light.kind === "directional" ? FACTOR_LUX : FACTOR;
  else {
    scale = 1 / space.factor;
    if (light.strength === "lm") {
      const half = ((Math.min(180, Math.max(1, number("cone_outer") ?? 90)) / 2) * Math.PI) / 180;
      if (light.kind === "spot") scale /= 2 * Math.PI * (1 - Math.cos(half));
      else if (light.kind === "area" && f.aim !== undefined) scale /= Math.PI;
      else scale /= 4 * Math.PI;
    }
  }
  const candelas = color.map((v) => Math.max(0, v * level * scale));
  const shadows = (get("shadows") as boolean | undefined) ?? true;
  const direction = (name: string) => {
    const value = vector(name);
    return value && upright(space, value, 1);
  };
  if (light.kind === "ambient") return { ambient: candelas, candelas: [] };
  if (light.kind === "directional") {
    const [x, y, z] = direction("aim") ?? [0, -1, 0];
    return { sun: [-x, -y, -z], lux: candelas, shadows, candelas: [] };
  }
  const position = vector("position");
  if (!position) return null;
  const at = upright(space, position, space.unit);
  const base: Vec3 = [...at];
  const offset = vector("offset");
  if (offset) upright(space, offset, space.unit).forEach((v, n) => (at[n]! += v));
  let cone: [number, number] | null = null;
  if (light.kind === "spot") {
    const cos = (full: number) => Math.cos(((full / 2) * Math.PI) / 180);
    const inner = cos(number("cone_inner") ?? 0);
    const outer = cos(number("cone_outer") ?? 90);
    const scale = 1 / Math.max(0.001, inner - outer);
    cone = [scale, -outer * scale];
  }
  const ahead: Vec3 = [0, 0, -1];
  const aim = light.kind === "spot" ? (direction("aim") ?? ahead) : light.kind === "area" ? direction("aim") : undefined;
  const meters = (name: string) => {
    const length = number(name);
    return length === undefined ? undefined : length * space.unit;
  };
  return {
    at,
    base,
    aim,
    cone,
    candelas,
    inner: Math.max(NEAREST, meters("reach_inner") ?? NEAREST),
    outer: meters("reach_outer") ?? Infinity,
    falloff: number("falloff") ?? 2,
    shadows,
  };
}
