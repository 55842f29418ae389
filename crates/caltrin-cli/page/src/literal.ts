// Numbers in a text: finding and changing them.

import type { Knob } from "./book";
import type { Op } from "./hands";
import { hourText, plain, snapped } from "./number";

/** A number, a time of day or a percentage in a line, with its sign. */
const LITERAL = /-?(?:\d[\d_]*:\d\d|\d[\d_]*(?:\.\d+)?[a-zA-Z%µ]*)/g;

/** The literal at a position of a line. */
export function literalIn(line: string, at: number): { from: number; to: number; text: string } | null {
  const code = line.split("//")[0]!;
  for (const match of code.matchAll(LITERAL)) {
    const [from, to] = [match.index, match.index + match[0].length];
    // A digit in a name or color is none.
    if (/[\p{L}_#\d.]$/u.test(code.slice(0, from))) continue;
    if (from <= at && at <= to) return { from, to, text: match[0] };
  }
  return null;
}

/** The operation that changes a number or hour by a number of steps, with its words. */
export function turnedBy(knob: Knob, steps: number, fine: boolean): { words: string; ops: Op[] } | null {
  if (typeof knob.value !== "number") return null;
  const step = fine ? knob.step / 10 : knob.step;
  const [least, most] = knob.bounds;
  const to = Math.min(Math.max(most, knob.value), Math.max(Math.min(least, knob.value), snapped(knob.value + steps * step, step)));
  if (knob.kind === "hour") return { words: `${knob.text} to ${hourText(to)}`, ops: [{ hour: { at: knob.at, to } }] };
  return { words: `${knob.text} to ${plain(to / knob.size)}${knob.unit}`, ops: [{ number: { at: knob.at, to } }] };
}
