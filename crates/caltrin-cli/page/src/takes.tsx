// The dialog that keeps what was done by hand as a rehearsal, or the movement of one input as a curve.

import { useEffect, useRef, useState } from "preact/hooks";
import type { App } from "./app";
import type { Deed, Info, Input } from "./book";
import { freeName } from "./feeds";
import { kept } from "./fit";
import { plain, snapped } from "./number";
import { type Acts, rehearsalText, takeOf, tidied, valueText } from "./take";

/** The movement of an input: seconds since its first change, and the value. */
export function movement(deeds: Deed[], input: Input, index: number): { x: number; y: number }[] {
  const own = deeds.filter(({ name, values, index: at }) => name === input.name && values?.length === 1 && typeof values[0] === "number" && (at ?? 0) === index);
  const start = own[0]?.at ?? 0;
  const points: { x: number; y: number }[] = [];
  for (const { at, values } of own) {
    const x = snapped(at - start, 0.001);
    if (points.at(-1)?.x === x) points.pop();
    points.push({ x, y: Number(values![0]) });
  }
  return points;
}

/** The movement of an input as a curve that stays within a share of the input's range. */
export function movedCurve(name: string, input: Input, points: { x: number; y: number }[], tolerance: number): { text: string; stops: number } {
  const few = kept(points, tolerance * (input.hi - input.lo)).map((n) => points[n]!);
  const lines = few.map(({ x, y }) => `  ${plain(x, 9)}s ${valueText(input, [y])}`);
  return { text: `\ncurve ${name} {\n${lines.join("\n")}\n}`, stops: few.length };
}

/** The inputs that were moved, with their indices. */
export function movedInputs(info: Info, deeds: Deed[]): { input: Input; index: number }[] {
  const found = new Map<string, { input: Input; index: number }>();
  for (const { name, values, index = 0 } of deeds) {
    const input = info.inputs.find((one) => one.name === name);
    if (!input || values?.length !== 1 || typeof values[0] !== "number" || input.kind === "an hour") continue;
    found.set(`${name} ${index}`, { input, index });
  }
  return [...found.values()].filter(({ input, index }) => movement(deeds, input, index).length > 2);
}

interface Take {
  app: App;
  acts: Acts;
  /** The moment that the run has come to. */
  end: number;
  /** The rehearsal is written; it is played from now on. */
  done: (name: string) => void;
  closes: () => void;
}

export function TakeDialog({ app, acts, end, done, closes }: Take) {
  const info = app.info!;
  const dialog = useRef<HTMLDialogElement | null>(null);
  const [name, setName] = useState(() => freeName(info, "take"));
  const [grid, setGrid] = useState(0);
  const [tolerance, setTolerance] = useState(2);
  useEffect(() => dialog.current?.showModal(), []);
  const { clock, lines } = takeOf(info, acts);
  const tidy = tidied(lines, grid);
  const last = Math.max(end, tidy.at(-1)?.at ?? 0);
  const text = rehearsalText(name, clock, tidy, snapped(Math.ceil(last * 10) / 10 + 0.5, 0.1));
  const file = info.texts[0]?.name ?? "";
  const keep = async () => {
    closes();
    if (await app.do(file, `${name}: rehearsal of ${tidy.length} lines kept`, [{ declaration: { text, after: null } }])) done(name);
  };
  const good = /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name);
  return (
    <dialog ref={dialog} class="take" aria-label="Keep what was done" onClose={closes}>
      <h2>Keep what was done</h2>
      {tidy.length === 0 && clock === null && <p class="quiet">Nothing was done yet: fire an event, move an input, make a choice or set the clock.</p>}
      <div class="tools">
        <label>
          Name <input aria-label="Name of the rehearsal" value={name} onInput={(event) => setName(event.currentTarget.value)} />
        </label>
        <label>
          Times{" "}
          <select aria-label="Grid of times" value={String(grid)} onChange={(event) => setGrid(Number(event.currentTarget.value))}>
            <option value="0">as played</option>
            <option value="0.1">each 0.1 s</option>
            <option value="0.25">each 0.25 s</option>
            <option value="0.5">each 0.5 s</option>
            <option value="1">each second</option>
          </select>
        </label>
      </div>
      <pre tabIndex={0} aria-label="The rehearsal as it is written">
        {text.trim()}
      </pre>
      <div class="choices">
        <button disabled={!app.free || !good || (tidy.length === 0 && clock === null)} onClick={() => void keep()}>
          Keep as rehearsal
        </button>
        <button onClick={closes}>Close</button>
      </div>
      {movedInputs(info, acts.deeds).map(({ input, index }) => {
        const points = movement(acts.deeds, input, index);
        const curve = freeName(info, `${input.name.replace(/\W/g, "_")}_moved`);
        const made = movedCurve(curve, input, points, tolerance / 100);
        return (
          <div class="tools" key={`${input.name} ${index}`}>
            <b>{input.many ? `${input.name}[${index}]` : input.name}</b>
            <label>
              within{" "}
              <input type="range" min={0} max={20} step={0.5} value={tolerance} aria-label={`Tolerance of ${input.name}`} onInput={(event) => setTolerance(event.currentTarget.valueAsNumber)} /> {tolerance}%
            </label>
            <button
              disabled={!app.free}
              onClick={() => {
                closes();
                void app.do(file, `${curve}: movement of ${input.name} as a curve of ${made.stops} stops`, [{ declaration: { text: made.text, after: null } }]).then((hash) => hash && app.open(curve));
              }}
            >
              Keep as a curve of {made.stops} stops
            </button>
          </div>
        );
      })}
    </dialog>
  );
}
