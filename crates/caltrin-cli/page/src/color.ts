// Colors as the page shows and sets them: linear Rec. 709, 8-bit sRGB, OKLCH (CSS Color 4) and kelvins.

import type { Vec3 } from "./book";

const toSrgb = (v: number) => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);
const toLinear = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
const clamp = (v: number) => Math.min(1, Math.max(0, v));

/** A linear color as `#rrggbb`. */
export function hex(color: ArrayLike<number>): string {
  const part = (v: number) => Math.round(255 * toSrgb(clamp(v))).toString(16).padStart(2, "0");
  return `#${part(color[0]!)}${part(color[1]!)}${part(color[2]!)}`;
}

/** The linear color of `#rrggbb`. */
export function ofHex(text: string): Vec3 | null {
  if (!/^#[0-9a-f]{6}$/i.test(text)) return null;
  const part = (n: number) => toLinear(parseInt(text.slice(n, n + 2), 16) / 255);
  return [part(1), part(3), part(5)];
}

/** Lightness 0..1, chroma, hue in degrees. */
export interface Oklch {
  l: number;
  c: number;
  h: number;
}

/** CSS Color 4, sample code: linear sRGB to OKLab. */
export function oklchOf([r, g, b]: Vec3): Oklch {
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  const lightness = 0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s;
  const a = 1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s;
  const bb = 0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s;
  const c = Math.hypot(a, bb);
  const h = c < 1e-4 ? 0 : ((Math.atan2(bb, a) * 180) / Math.PI + 360) % 360;
  return { l: lightness, c, h };
}

/** The linear color, with parts outside of 0..1 where it is outside of Rec. 709. */
export function ofOklch({ l, c, h }: Oklch): Vec3 {
  const a = c * Math.cos((h * Math.PI) / 180);
  const b = c * Math.sin((h * Math.PI) / 180);
  const x = (l + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const y = (l - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const z = (l - 0.0894841775 * a - 1.291485548 * b) ** 3;
  return [
    4.0767416621 * x - 3.3077115913 * y + 0.2309699292 * z,
    -1.2684380046 * x + 2.6097574011 * y - 0.3413193965 * z,
    -0.0041960863 * x - 0.7034186147 * y + 1.707614701 * z,
  ];
}

/** Whether a screen of Rec. 709 can show it. */
export const shown = (color: Vec3) => color.every((v) => v >= -1e-4 && v <= 1 + 1e-4);

/** The most chroma at a lightness and hue that can be shown. */
export function mostChroma(l: number, h: number): number {
  let [low, high] = [0, 0.4];
  for (let n = 0; n < 20; ++n) {
    const c = (low + high) / 2;
    if (shown(ofOklch({ l, c, h }))) low = c;
    else high = c;
  }
  return low;
}

/** Black-body kelvins of a color that is written so, such as `2400K`. */
export function kelvins(text: string): number | null {
  const found = /^(\d+(?:\.\d+)?)K$/.exec(text.trim());
  return found ? Number(found[1]) : null;
}
