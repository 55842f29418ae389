// Numbers as the book writes them, and the steps in which hands change them.

/** A number without more digits than are seen, and without zeros at its end. */
export function plain(v: number, digits = 6): string {
  if (v === 0) return "0";
  return String(Number(v.toPrecision(digits)));
}

/** A step of 1, 2 or 5 times a power of ten that is no larger. */
export function roundStep(step: number): number {
  if (!(step > 0) || !Number.isFinite(step)) return 1;
  const power = 10 ** Math.floor(Math.log10(step) + 1e-9);
  const lead = step / power + 1e-9;
  return (lead >= 5 ? 5 : lead >= 2 ? 2 : 1) * power;
}

/** The nearest multiple of a step, without the noise of binary fractions. */
export function snapped(v: number, step: number): number {
  const n = Math.round(v / step) * step;
  return Number(n.toPrecision(12));
}

/** A value with its unit, as it is written: of a ratio with a `%`. */
export function written(value: number, size: number, unit: string): string {
  return `${plain(value / size)}${unit}`;
}

/** An hour as `hh:mm`. */
export function hourText(hours: number): string {
  const minutes = Math.floor(hours * 60 + 1e-6) % 1440;
  return [Math.floor(minutes / 60), minutes % 60].map((n) => String(n).padStart(2, "0")).join(":");
}

/** What was typed as a number in a unit: `1.5`, `150%` where that is the unit, `1,5` is none. In base units. */
export function typed(text: string, size: number, unit: string): number | null {
  const bare = text.trim().replace(/\s+/g, "");
  const digits = unit && bare.endsWith(unit) ? bare.slice(0, -unit.length) : bare;
  return /^[+-]?(\d+\.?\d*|\.\d+)$/.test(digits) ? Number(digits) * size : null;
}
