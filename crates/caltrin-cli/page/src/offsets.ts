// Places in a text: the server counts bytes of UTF-8, the page code units of UTF-16.

export class Offsets {
  /** For each byte the code unit that it belongs to; null where every character is one byte. */
  private readonly units: Uint32Array | null;

  constructor(text: string) {
    if (/^[\u0000-\u007f]*$/.test(text)) {
      this.units = null;
      return;
    }
    const size = new TextEncoder().encode(text).length;
    this.units = new Uint32Array(size + 1);
    let byte = 0;
    for (let unit = 0; unit < text.length; ) {
      const point = text.codePointAt(unit)!;
      const bytes = point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
      for (let n = 0; n < bytes; ++n) this.units[byte + n] = unit;
      byte += bytes;
      unit += point > 0xffff ? 2 : 1;
    }
    this.units[size] = text.length;
  }

  /** The code unit at a byte. */
  unit(byte: number): number {
    if (!this.units) return byte;
    return this.units[Math.min(byte, this.units.length - 1)]!;
  }
}

/** The smallest replacement that turns one text into another, in code units. */
export function replacement(before: string, after: string): { from: number; to: number; insert: string } | null {
  if (before === after) return null;
  let start = 0;
  const most = Math.min(before.length, after.length);
  while (start < most && before[start] === after[start]) start += 1;
  let end = 0;
  while (end < most - start && before[before.length - 1 - end] === after[after.length - 1 - end]) end += 1;
  return { from: start, to: before.length - end, insert: after.slice(start, after.length - end) };
}

/** The name of the declaration of the book around a place: the last line before it that begins one. */
export function declarationAt(text: string, at: number): string | null {
  const before = text.slice(0, text.indexOf("\n", at) === -1 ? text.length : text.indexOf("\n", at));
  const starts = [...before.matchAll(/^(light|output|spark|place|signal|curve|input|behavior|fitting|event|switch|modes|group|sequence|color|value)\s+([\p{L}_][\p{L}\p{N}_]*)/gmu)];
  return starts.at(-1)?.[2] ?? null;
}
