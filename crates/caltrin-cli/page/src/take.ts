// What was done by hand, as a rehearsal: events, inputs, choices and the clock, each at its moment.

import type { Choice, Deed, Field, Info, Input } from "./book";
import { hex } from "./color";
import { hourText, plain, snapped } from "./number";

type Values = (number | boolean)[];

/** Everything that was done by hand. */
export interface Acts {
  /** Inputs that were set before the start, by name and index. */
  turned: Map<string, Map<number, Values>>;
  /** Choices, by name. */
  chosen: Map<string, { at: number; option: string }[]>;
  deeds: Deed[];
  clock: { hour: number | null; at: number; held: boolean };
}

/** A line of a rehearsal. */
export interface TakeLine {
  at: number;
  text: string;
}

/** Whether a number is written in percent. */
const isShare = (field: Pick<Field, "kind" | "unit" | "lo" | "hi">) => field.unit === "" && field.kind === "a number" && Math.max(-field.lo, field.hi) <= 10;

/** The value of a percentage as the language reads it: its digits are shifted, which gives the nearest number. */
function hundredths(percent: string): number {
  return percent.includes("e") ? Number(percent) / 100 : Number(`${percent}e-2`);
}

/** Values rounded to what the language reads from their text. */
export function asRead(field: Pick<Field, "kind" | "unit" | "lo" | "hi">, values: Values): Values {
  return isShare(field) ? values.map((v) => (typeof v === "number" ? hundredths(plain(v * 100, 12)) : v)) : values;
}

/** The text of a value; it reads back bit for bit. */
export function valueText(field: Pick<Field, "kind" | "unit" | "lo" | "hi">, values: Values): string {
  if (field.kind === "on or off") return values[0] ? "on" : "off";
  const numbers = values.map(Number);
  if (field.kind === "a color") return hex(numbers);
  if (field.kind === "an hour") return hourText(numbers[0] ?? 0);
  const unit = field.unit === "-" ? "" : field.unit;
  if (numbers.length === 3) return `(${numbers.map((v) => `${plain(v, 17)}${unit}`).join(", ")})`;
  const v = numbers[0] ?? 0;
  // A share is written in percent, as designers do, where that is the same number.
  const percent = plain(v * 100, 12);
  return isShare(field) && hundredths(percent) === v ? `${percent}%` : `${plain(v, 17)}${unit}`;
}

/** A name with an index after its first part: `quay[2].cock`. */
export function indexed(name: string, index: number): string {
  const [first, ...rest] = name.split(".");
  return [`${first}[${index}]`, ...rest].join(".");
}

/** The lines of a rehearsal of what was done, in time order. */
export function takeOf(info: Info, acts: Acts): { clock: number | null; lines: TakeLine[] } {
  const lines: TakeLine[] = [];
  const inputs = new Map(info.inputs.map((input) => [input.name, input]));
  const set = (at: number, input: Input, index: number, values: Values) => {
    const name = input.many ? indexed(input.name, index) : input.name;
    lines.push({ at, text: `${name} = ${valueText(input, values)}` });
  };
  for (const [name, values] of acts.turned) {
    const input = inputs.get(name);
    if (input) for (const [index, own] of values) set(0, input, index, own);
  }
  for (const choice of info.choices as Choice[]) {
    for (const { at, option } of acts.chosen.get(choice.name) ?? []) lines.push({ at, text: `${choice.name} = ${option}` });
  }
  for (const { at, name, values, index, indices, given, choice, option, hour, drive, rate } of acts.deeds) {
    if (drive !== undefined) lines.push({ at, text: `clock drive ${hourText(drive)}` });
    else if (rate !== undefined) lines.push({ at, text: `clock rate ${plain(rate)}` });
    else if (hour !== undefined) lines.push({ at, text: `clock ${hourText(hour)}` });
    else if (choice !== undefined) lines.push({ at, text: `${choice} = ${option ?? ""}` });
    else if (values) {
      const input = inputs.get(name ?? "");
      if (input) for (const n of indices ?? [index ?? 0]) set(at, input, n, values);
    } else {
      const event = info.events.find((one) => one.name === name);
      if (!event) continue;
      const all = !event.count || !indices || indices.length === event.count;
      let from = 0;
      const carried = event.fields.flatMap((field) => {
        const own = (given ?? event.values).slice(from, from + field.parts);
        from += field.parts;
        // What is as the event has it need not be said.
        return JSON.stringify(own) === JSON.stringify(field.default) ? [] : [`${field.name} ${valueText(field, own)}`];
      });
      const more = carried.length ? `(${carried.join(", ")})` : "";
      for (const which of all ? [null] : (indices ?? [])) lines.push({ at, text: `${which === null ? event.name : indexed(event.name, which)}${more}` });
    }
  }
  let clock: number | null = null;
  if (info.clock && acts.clock.hour !== null) {
    if (acts.clock.at === 0) clock = acts.clock.hour;
    else lines.push({ at: acts.clock.at, text: `clock ${hourText(acts.clock.hour)}` });
  }
  if (info.clock && acts.clock.held) lines.push({ at: acts.clock.at, text: "clock rate 0" });
  return { clock, lines: lines.map((line, n) => [line, n] as const).sort(([a, n], [b, m]) => a.at - b.at || n - m).map(([line]) => line) };
}

/** Lines snapped to a time grid; of an input that is set several times in one step only the last setting stays. */
export function tidied(lines: TakeLine[], grid: number): TakeLine[] {
  const kept: TakeLine[] = [];
  for (const { at, text } of lines) {
    const place = grid > 0 ? snapped(at, grid) : snapped(at, 0.001);
    const [target, value] = text.split(" = ");
    if (value !== undefined) {
      const before = kept.findIndex((line) => line.at === place && line.text.startsWith(`${target} = `));
      if (before >= 0) kept.splice(before, 1);
    }
    kept.push({ at: place, text });
  }
  return kept;
}

/** A rehearsal as it is written. */
export function rehearsalText(name: string, clock: number | null, lines: TakeLine[], end: number): string {
  const each = [...(clock === null ? [] : [`clock ${hourText(clock)}`]), ...lines.map(({ at, text }) => `${plain(at, 9)}s ${text}`), `${plain(end, 9)}s end`];
  return `\nrehearsal ${name} {\n${each.map((line) => `  ${line}`).join("\n")}\n}`;
}
