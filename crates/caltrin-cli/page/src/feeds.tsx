// Buttons that add to a light: a loop to draw, a switch with its events, or a signal that other lights follow.

import type { App } from "./app";
import type { Info } from "./book";
import type { Op } from "./hands";

/** A name that the book does not use. */
export function freeName(info: Info, stem: string): string {
  const texts = info.texts.map(({ text }) => text).join("\n");
  for (let n = 1; ; ++n) {
    const name = `${stem}_${n}`;
    if (!new RegExp(`\\b${name}\\b`).test(texts)) return name;
  }
}

/** The file that declares a light. */
export function fileOf(info: Info, light: string): string | null {
  const own = info.texts.find(({ text }) => new RegExp(`^(light|spark) ${light.replace(".", "\\.")}\\b`, "m").test(text));
  return own?.name ?? null;
}

/** A curve that repeats, and the intensity times it. */
export function looped(light: string, curve: string): Op[] {
  const text = `\ncurve ${curve} {\n  0s 100%\n  700ms 55% smooth\n  1.2s 85% smooth\n  2s 100% smooth\n}`;
  return [{ declaration: { text, after: null } }, { times: { of: light, word: "intensity", by: `loop(${curve})` } }];
}

/** Two events, a switch between them, and the intensity times it. */
export function switched(light: string, name: string): Op[] {
  const text = `\nevent ${name}_off, ${name}_on\nswitch ${name} {\n  starts on\n  off at ${name}_off over 200ms\n  on at ${name}_on over 600ms smooth\n}`;
  return [{ declaration: { text, after: null } }, { times: { of: light, word: "intensity", by: name } }];
}

/** The signals, switches and loops of the book that a light can follow. */
export function followed(info: Info): { label: string; by: string }[] {
  const names = info.texts.flatMap(({ text }) => [...text.matchAll(/^(signal|switch)\s+([\p{L}_][\p{L}\p{N}_]*)/gmu)].map(([, , name]) => ({ label: name!, by: name! })));
  const loops = info.curves.filter(({ domain, columns, stops }) => domain === "time" && columns.length === 0 && stops[0]?.values[0]?.kind === "number");
  return [...names, ...loops.map(({ name }) => ({ label: `loop of ${name}`, by: `loop(${name})` }))];
}

export function Feeds({ app, light, tries }: { app: App; light: string; tries: (way: "seeds" | "neighbors" | "stock") => void }) {
  const { info } = app;
  const known = info?.lights.find(({ name, kind }) => name === light && kind !== "output");
  const file = info && known ? fileOf(info, light) : null;
  if (!info || !file || !app.free) return null;
  const others = followed(info);
  const loop = async () => {
    const curve = freeName(info, "flicker");
    if (await app.do(file, `${light}: loop ${curve} added`, looped(light, curve))) app.open(curve);
  };
  const turn = () => {
    const name = freeName(info, "switch");
    void app.do(file, `${light}: switch ${name} added`, switched(light, name));
  };
  return (
    <div class="tools feeds" role="group" aria-label={`Add to ${light}`}>
      <button title={`Writes a curve that repeats, and multiplies the intensity of ${light} by it`} onClick={() => void loop()}>
        Add loop
      </button>
      <button title={`Writes a switch with its two events, and multiplies the intensity of ${light} by it`} onClick={turn}>
        Add switch
      </button>
      <button title={`Six other random seeds of ${light}, side by side (y)`} onClick={() => tries("seeds")}>
        Seeds
      </button>
      <button title={`Six neighbors of the numbers of ${light}, side by side`} onClick={() => tries("neighbors")}>
        Vary
      </button>
      <button title={`The ready-made behaviors on ${light}, side by side`} onClick={() => tries("stock")}>
        Stock
      </button>
      {others.length > 0 && (
        <label title={`Multiplies the intensity of ${light} by what others follow`}>
          In step with{" "}
          <select
            aria-label={`${light} in step with`}
            value=""
            onChange={(event) => {
              const by = event.currentTarget.value;
              event.currentTarget.value = "";
              if (by) void app.do(file, `${light}: in step with ${by}`, [{ times: { of: light, word: "intensity", by } }]);
            }}
          >
            <option value="">nothing</option>
            {others.map(({ label, by }) => (
              <option key={by} value={by}>
                {label}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}
