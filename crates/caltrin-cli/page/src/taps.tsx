// Taps of a key in time, kept as a rhythm or as stops. A tap is on for as long as the key is held.

import { useEffect, useRef } from "preact/hooks";
import type { App } from "./app";
import type { Op } from "./hands";
import { plain, snapped } from "./number";

/** When a key went down and up, in seconds. */
export interface Tap {
  from: number;
  to: number;
}

/** The shortest time that something is on or off, and the step of times, in seconds. */
const LEAST = 0.04;
const STEP = 0.01;

/** On and off time of each tap; the gap after the last tap is the mean of the others. */
export function timesOf(taps: Tap[]): { on: number; off: number }[] {
  const gaps = taps.slice(1).map(({ from }, n) => from - taps[n]!.from);
  const mean = gaps.reduce((sum, gap) => sum + gap, 0) / Math.max(1, gaps.length);
  return taps.map(({ from, to }, n) => {
    const gap = Math.max(2 * LEAST, snapped(gaps[n] ?? mean, STEP));
    const on = Math.min(gap - LEAST, Math.max(LEAST, snapped(to - from, STEP)));
    return { on: snapped(on, STEP), off: snapped(gap - on, STEP) };
  });
}

const seconds = (v: number) => (v > 0 && v < 1 ? `${plain(v * 1000, 4)}ms` : `${plain(v, 4)}s`);

/** The rhythm of taps: `rhythm(on 120ms, off 380ms)`. */
export function rhythmOf(taps: Tap[]): string {
  return `rhythm(${timesOf(taps).map(({ on, off }) => `on ${seconds(on)}, off ${seconds(off)}`).join(", ")})`;
}

/** When each tap begins, from 0. */
export function momentsOf(taps: Tap[]): number[] {
  return taps.map(({ from }) => snapped(from - taps[0]!.from, STEP));
}

/** A curve that is on at each tap and off between them. */
export function pulsesOf(name: string, taps: Tap[]): string {
  let at = 0;
  const lines = timesOf(taps).flatMap(({ on, off }, n) => {
    const own = [`  ${seconds(at)} 100%${n === 0 ? "" : " jump"}`, `  ${seconds(snapped(at + on, STEP))} 0% jump`];
    at = snapped(at + on + off, STEP);
    return own;
  });
  return `\ncurve ${name} {\n${lines.join("\n")}\n  ${seconds(at)} 100% jump\n}`;
}

/** Something that the taps can become, with its operations. */
export interface Use {
  label: string;
  file: string;
  words: string;
  ops: Op[];
}

export function TapDialog({ app, taps, uses, closes }: { app: App; taps: Tap[]; uses: Use[]; closes: () => void }) {
  const dialog = useRef<HTMLDialogElement | null>(null);
  useEffect(() => dialog.current?.showModal(), []);
  return (
    <dialog ref={dialog} class="taps" aria-label="Taps" onClose={closes}>
      <h2>{taps.length} taps</h2>
      <p>
        <code>{rhythmOf(taps)}</code>
      </p>
      <div class="choices">
        {uses.map(({ label, file, words, ops }) => (
          <button key={label} disabled={!app.free} onClick={() => (closes(), void app.do(file, words, ops))}>
            {label}
          </button>
        ))}
        <button onClick={closes}>Discard</button>
      </div>
    </dialog>
  );
}
