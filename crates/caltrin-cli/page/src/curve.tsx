// The curve editor: stops are dragged, typed, added, removed, scaled and drawn, for all columns of a curve.

import { useEffect, useMemo, useRef, useState } from "preact/hooks";
import { type App, Gesture } from "./app";
import type { Curve, Stop, Vec3 } from "./book";
import { hex } from "./color";
import { type Point, forward, kept } from "./fit";
import { lineAt } from "./grip";
import type { Op } from "./hands";
import { hourText, plain, snapped } from "./number";
import { ColorButton } from "./picker";
import { bezierOf, bezierText, column, columns, reversed, seam, stepsOf, stretched, unitOf, windowOf } from "./shape";
import { SpinButton } from "./spin";

const EASINGS = ["linear", "smooth", "ease", "ease-in", "ease-out", "ease-in-out", "jump", "cubic-bezier(0.4, 0, 0.6, 1)", "steps(4)"];
const INKS = ["#8fd3ff", "#ffd08a", "#b7e3a1", "#ff8fc7", "#c9b6ff", "#ece6d8"];
/** Room around the drawing, in pixels. */
const EDGE = { left: 52, right: 16, top: 12, bottom: 26 };

interface Seen {
  app: App;
  curve: Curve;
  hash: string;
}

/** The open curve, as the book has it now. */
export function CurvePanel({ app }: { app: App }) {
  const [, redraw] = useState(0);
  useEffect(() => app.listen(() => redraw((n) => n + 1)), []);
  const all = app.info?.curves ?? [];
  const curve = all.find(({ name }) => name === app.curve);
  if (app.curve === null) return null;
  return (
    <section class="curve" aria-label={curve ? `Curve ${curve.name}` : "Curve"}>
      <div class="tools">
        <label>
          Curve{" "}
          <select value={app.curve} aria-label="Curve" onChange={(event) => app.open(event.currentTarget.value)}>
            {all.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
        <button class="close" aria-label="Close the curve" onClick={() => app.open(null)}>
          Close
        </button>
      </div>
      {curve ? <Editor key={curve.name} app={app} curve={curve} hash={app.text(curve.file)?.hash ?? ""} /> : <p class="quiet">`{app.curve}` is not in the book any more.</p>}
    </section>
  );
}

function say(curve: Curve, position: number): string {
  if (curve.domain === "hour") return hourText(position);
  if (curve.domain === "time") return `${plain(position)}s`;
  return curve.base === "" ? `${plain(position * 100)}%` : `${plain(position)}${curve.base}`;
}

/** A size that follows that of an element. */
function useSize(): [(element: Element | null) => void, { width: number; height: number }] {
  const [size, setSize] = useState({ width: 600, height: 200 });
  const observer = useRef<ResizeObserver | null>(null);
  const follow = (element: Element | null) => {
    if (!element || observer.current) return;
    observer.current = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: Math.max(200, entry.contentRect.width), height: Math.max(120, entry.contentRect.height) });
    });
    observer.current.observe(element);
  };
  useEffect(() => () => observer.current?.disconnect(), []);
  return [follow, size];
}

function Editor({ app, curve: latest, hash: latestHash }: Seen) {
  const [chosen, setChosen] = useState<number[]>([]);
  const [drawing, setDrawing] = useState(false);
  const [stroke, setStroke] = useState<Point[]>([]);
  const [tolerance, setTolerance] = useState(3);
  const [grid, setGrid] = useState<number | null>(null);
  const [follow, size] = useSize();
  /** The curve as it was when the gesture began, and the gesture. */
  const held = useRef<{ curve: Curve; hash: string; gesture: Gesture; box: ReturnType<typeof windowOf> } | null>(null);
  const keys = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const curve = latest;
  const box = held.current?.box ?? windowOf(curve);
  const steps = stepsOf(box, curve.domain);
  const placeStep = grid ?? steps.place;
  const lines = columns(curve).filter(({ color }) => !color);
  const ramps = columns(curve).filter(({ color }) => color);
  const rampHeight = ramps.length * 26;
  const area = {
    left: EDGE.left,
    right: size.width - EDGE.right,
    top: EDGE.top,
    bottom: size.height - EDGE.bottom - rampHeight,
  };
  const x = (position: number) => area.left + ((position - box.from) / (box.to - box.from)) * (area.right - area.left);
  const y = (value: number) => area.bottom - ((value - box.low) / (box.high - box.low)) * (area.bottom - area.top);
  const position = (px: number) => box.from + ((px - area.left) / (area.right - area.left)) * (box.to - box.from);
  const value = (py: number) => box.low + ((area.bottom - py) / (area.bottom - area.top)) * (box.high - box.low);
  const svg = useRef<SVGSVGElement | null>(null);
  const local = (event: PointerEvent): [number, number] => {
    const frame = svg.current!.getBoundingClientRect();
    return [event.clientX - frame.left, event.clientY - frame.top];
  };

  const begin = () => {
    held.current ??= { curve: latest, hash: latestHash, gesture: new Gesture(app, latest.file, latestHash), box: windowOf(latest) };
    return held.current;
  };
  const end = async () => {
    const last = held.current;
    held.current = null;
    await last?.gesture.ends();
  };

  /** The operations that move stops by an amount of position and of one column's value, from how they were. */
  const moved = (of: Curve, which: number[], along: number, up: { n: number; by: number } | null): { ops: Op[]; words: string } => {
    const ops: Op[] = [];
    const stops = which.map((n) => ({ n, stop: of.stops[n]! }));
    const first = stops[0]!;
    const told: string[] = [];
    if (along !== 0) {
      const least = which.includes(0) ? (of.domain === "time" ? 0 : -Infinity) : of.stops[Math.min(...which) - 1]!.position;
      const after = of.stops[Math.max(...which) + 1];
      const most = after ? after.position : of.domain === "hour" ? 24 - 1 / 60 : Infinity;
      const low = Math.min(...stops.map(({ stop }) => stop.position));
      const high = Math.max(...stops.map(({ stop }) => stop.position));
      const apart = placeStep / 10;
      const by = Math.min(Math.max(along, least + (Number.isFinite(least) && least > 0 ? apart : 0) - low), most - (after ? apart : 0) - high);
      const to = stops.map(({ n, stop }): [number, number] => [n, Number((stop.position + by).toPrecision(12))]);
      ops.push({ move_stops: { curve: of.name, to } });
      told.push(`${say(of, first.stop.position)} to ${say(of, to[0]![1])}`);
    }
    if (up && up.by !== 0) {
      for (const { stop } of stops) {
        const written = stop.values[up.n];
        if (!written || typeof written.value !== "number") continue;
        const next = written.value + up.by;
        ops.push(numberOp(written.at, written.text, next));
        if (stop === first.stop) told.push(`${written.text} to ${asWritten(written.text, written.value, next)}`);
      }
    }
    const who = which.length === 1 ? `stop ${first.n + 1}` : `${which.length} stops`;
    return { ops, words: `${of.name}, ${who}: ${told.join(", ")}` };
  };

  const drag = (event: PointerEvent, n: number, col: number | null) => {
    if (!app.free || event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    const target = event.currentTarget as SVGElement;
    target.focus();
    target.setPointerCapture(event.pointerId);
    if (event.shiftKey) {
      setChosen(chosen.includes(n) ? chosen.filter((k) => k !== n) : [...chosen, n].sort((a, b) => a - b));
      return;
    }
    const which = chosen.includes(n) ? chosen : [n];
    setChosen(which);
    const stop = curve.stops[n]!;
    app.mark(curve.file, stop.at);
    const [px, py] = local(event);
    const from = { position: position(px), value: value(py) };
    const move = (event: PointerEvent) => {
      const [mx, my] = local(event);
      if (!held.current && Math.hypot(mx - px, my - py) < 3) return;
      const { curve: of, gesture } = begin();
      const base = of.stops[n]!;
      // With Alt only along, with Control only up; fine without the grid.
      let along = position(mx) - from.position;
      let up = value(my) - from.value;
      if (event.altKey) up = 0;
      if (event.ctrlKey) along = 0;
      if (Math.abs(mx - px) < 3) along = 0;
      if (Math.abs(my - py) < 3) up = 0;
      const grid = event.shiftKey ? placeStep / 10 : placeStep;
      if (along !== 0) along = snapped(base.position + along, grid) - base.position;
      const now = col === null ? null : base.values[col]?.value;
      const fine = event.shiftKey ? steps.value / 10 : steps.value;
      const by = typeof now === "number" && up !== 0 ? snapped(now + up, fine) - now : 0;
      const { ops, words } = moved(of, which, along, col === null ? null : { n: col, by });
      gesture.to(words, ops);
    };
    const done = () => {
      target.removeEventListener("pointermove", move);
      target.removeEventListener("pointerup", done);
      target.removeEventListener("pointercancel", done);
      void end();
    };
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", done);
    target.addEventListener("pointercancel", done);
  };

  /** How far keys have moved the stop since the gesture began. */
  const nudged = useRef({ along: 0, up: 0 });
  const nudge = (n: number, col: number | null, along: number, up: number) => {
    if (!app.free) return;
    const which = chosen.includes(n) ? chosen : [n];
    if (!held.current) nudged.current = { along: 0, up: 0 };
    const { curve: of, gesture } = begin();
    nudged.current.along += along;
    nudged.current.up += up;
    const { ops, words } = moved(of, which, nudged.current.along, col === null ? null : { n: col, by: nudged.current.up });
    gesture.to(words, ops);
    clearTimeout(keys.current);
    keys.current = setTimeout(() => void end(), 500);
  };

  const remove = (n: number) => {
    const which = chosen.includes(n) ? chosen : [n];
    const ops = [...which].sort((a, b) => b - a).map((n): Op => ({ remove_stop: { curve: curve.name, n } }));
    setChosen([]);
    void app.do(curve.file, `${curve.name}: ${which.length === 1 ? `stop ${which[0]! + 1}` : `${which.length} stops`} removed`, ops);
  };

  const easing = (n: number, to: string | null) => {
    const stop = curve.stops[n]!;
    void app.do(curve.file, `${curve.name}, stop ${n + 1}: ${stop.easing ?? "linear"} to ${to ?? "linear"}`, [{ easing: { at: stop.at, to: to === "linear" ? null : to } }]);
  };

  /** The texts of a new stop: what the curve has there. */
  const valuesAt = (at: number): string[] => {
    const next = curve.stops.findIndex((stop) => stop.position > at);
    const [before, after] = next === -1 ? [curve.stops.at(-1)!, null] : [curve.stops[Math.max(0, next - 1)]!, curve.stops[next]!];
    return before.values.map((written, n) => {
      const other = after?.values[n];
      if (typeof written.value !== "number" || typeof other?.value !== "number" || !after) return written.text;
      const samples = curve.samples?.[n];
      const [from, to] = [curve.stops[0]!.position, curve.stops.at(-1)!.position];
      const place = samples && to > from ? ((at - from) / (to - from)) * (samples.length - 1) : 0;
      const share = after.position > before.position ? (at - before.position) / (after.position - before.position) : 0;
      const found = samples?.[Math.round(Math.min(samples.length - 1, Math.max(0, place)))] ?? written.value + (other.value - written.value) * share;
      return asWritten(written.text, written.value, snapped(found, steps.value));
    });
  };
  const add = (at: number, values = valuesAt(at)) => {
    const place = Math.max(curve.domain === "time" ? 0 : -Infinity, snapped(at, placeStep));
    const op: Op = { add_stop: { curve: curve.name, position: place, values, easing: null } };
    void app.do(curve.file, `${curve.name}: stop at ${say(curve, place)} added`, [op]);
  };
  const playhead = curve.domain === "time" ? app.now % Math.max(1e-9, box.to) : box.from;

  const stretch = (by: number) => {
    const which = chosen.length > 1 ? chosen : curve.stops.map((_, n) => n);
    const places = stretched(which.map((n) => curve.stops[n]!.position), by);
    const to = which.map((n, k): [number, number] => [n, Number(snapped(places[k]!, placeStep / 10).toPrecision(12))]);
    void app.do(curve.file, `${curve.name}: ${which.length} stops stretched to ${plain(by * 100)}%`, [{ move_stops: { curve: curve.name, to } }]);
  };
  const scale = (by: number) => {
    const which = chosen.length > 1 ? chosen : curve.stops.map((_, n) => n);
    const ops = which.flatMap((n) =>
      lines.flatMap(({ n: col }): Op[] => {
        const written = curve.stops[n]!.values[col];
        if (!written || typeof written.value !== "number") return [];
        return [numberOp(written.at, written.text, snapped(written.value * by, steps.value / 10))];
      }),
    );
    void app.do(curve.file, `${curve.name}: ${which.length} stops scaled to ${plain(by * 100)}%`, ops);
  };
  const jumps = seam(curve).filter(({ jump }) => Math.abs(jump) > 1e-9);
  const closeSeam = () => {
    const last = curve.stops.at(-1)!;
    const first = curve.stops[0]!;
    const ops = jumps.flatMap(({ n }): Op[] => {
      const [to, written] = [first.values[n]?.value, last.values[n]];
      return typeof to === "number" && written ? [numberOp(written.at, written.text, to)] : [];
    });
    void app.do(curve.file, `${curve.name}: seam closed`, ops);
  };
  const replaceStops = (stops: { position: number; values: string[]; easing: string | null }[], words: string) => {
    const all = stops.map(({ position, values, easing }): [number, string[], string | null] => [position, values, easing]);
    void app.do(curve.file, words, [{ stops: { curve: curve.name, stops: all } }]);
  };

  // A stroke over the first line becomes stops.
  const drawn = useMemo(() => {
    const points = forward(stroke);
    return kept(points, tolerance).map((n) => points[n]!);
  }, [stroke, tolerance]);
  const draw = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const target = event.currentTarget as SVGElement;
    target.setPointerCapture(event.pointerId);
    const points: Point[] = [];
    const take = (event: PointerEvent) => {
      const [px, py] = local(event);
      points.push({ x: Math.min(area.right, Math.max(area.left, px)), y: Math.min(area.bottom, Math.max(area.top, py)) });
      setStroke([...points]);
    };
    take(event);
    const done = () => {
      target.removeEventListener("pointermove", take);
      target.removeEventListener("pointerup", done);
    };
    target.addEventListener("pointermove", take);
    target.addEventListener("pointerup", done);
  };
  const keepStroke = () => {
    const line = lines[0];
    const like = curve.stops[0]?.values[line?.n ?? 0];
    if (!line || !like || typeof like.value !== "number") return;
    const sample = { text: like.text, value: like.value };
    let last = -Infinity;
    const stops = drawn.flatMap((point) => {
      const at = Math.max(0, snapped(position(point.x), placeStep));
      if (at <= last) return [];
      last = at;
      const values = curve.stops[0]!.values.map((written, n) => (n === line.n ? asWritten(sample.text, sample.value, snapped(value(point.y), steps.value)) : written.text));
      return [{ position: at, values, easing: null }];
    });
    if (stops.length > 1) replaceStops(stops, `${curve.name}: drawn, ${stops.length} stops`);
    setStroke([]);
    setDrawing(false);
  };

  const last = curve.stops.at(-1)?.position ?? 0;
  /** Copies the selected stops, or all, to another curve. */
  const copyTo = (to: Curve) => {
    const which = chosen.length ? chosen : curve.stops.map((_, n) => n);
    const taken = new Set(to.stops.map(({ position }) => position.toFixed(6)));
    const ops = which.flatMap((n): Op[] => {
      const stop = curve.stops[n]!;
      // One that is there already gets the values.
      const there = to.stops.find(({ position }) => position.toFixed(6) === stop.position.toFixed(6));
      if (there) return there.values.map((written, col): Op => ({ expression: { at: written.at, to: stop.values[col]!.text } }));
      return taken.has(stop.position.toFixed(6)) ? [] : [{ add_stop: { curve: to.name, position: stop.position, values: stop.values.map(({ text }) => text), easing: stop.easing } }];
    });
    void app.do(to.file, `${to.name}: ${which.length} stops copied from ${curve.name}`, ops);
  };
  const hint = (stop: Stop) => {
    if (held.current || !app.free) return;
    const { file } = curve;
    const text = app.text(file)?.text ?? "";
    const bytes = new TextEncoder().encode(text).slice(...stop.at);
    app.hands.tell(`writes \`${new TextDecoder().decode(bytes).trim()}\` in line ${lineAt(text, stop.at[0])} of ${file}`, false);
  };

  const chosenStop = chosen.length === 1 ? curve.stops[chosen[0]!] : undefined;
  return (
    <>
      <div class="tools">
        <button disabled={!app.free} onClick={() => add(playhead)} title="Add a stop at the playhead (a)">
          Add stop
        </button>
        <button disabled={!app.free || !chosen.length} onClick={() => remove(chosen[0]!)} title="Remove the selected stops (Delete)">
          Remove
        </button>
        <button disabled={!app.free || chosen.length !== 1} title="Copy the selected stop to the playhead (d)" onClick={() => void app.do(curve.file, `${curve.name}: stop ${chosen[0]! + 1} copied to ${say(curve, snapped(playhead, placeStep))}`, [{ duplicate_stop: { curve: curve.name, n: chosen[0]!, position: snapped(playhead, placeStep) } }])}>
          Copy to playhead
        </button>
        <button disabled={!app.free} onClick={() => replaceStops(reversed(curve.stops), `${curve.name}: reversed`)}>
          Reverse
        </button>
        {jumps.length > 0 && curve.domain !== "number" && (
          <button disabled={!app.free} onClick={closeSeam} title={`The last value differs from the first by ${jumps.map(({ jump }) => plain(jump, 3)).join(", ")}`}>
            Close seam
          </button>
        )}
        <CopyTo app={app} curve={curve} copies={copyTo} />
        {curve.domain === "time" && (
          <label title="The time in which it leads back to its first value">
            Length{" "}
            <SpinButton
              label={`${curve.name} length`}
              value={curve.length ?? last}
              bounds={[0, 1e6]}
              step={placeStep}
              size={1}
              unit="s"
              free={app.free}
              begins={() => void begin()}
              turns={(to) => {
                const { curve: of, gesture } = begin();
                const least = of.stops.at(-1)!.position;
                gesture.to(`${of.name}: length ${to > least ? `${plain(to)}s` : "that of its stops"}`, [{ length: { curve: of.name, to: to > least ? to : null } }]);
              }}
              ends={() => void end()}
            />
          </label>
        )}
        <Factor label="Stretch" turn={stretch} free={app.free} />
        <Factor label="Scale" turn={scale} free={app.free} />
        <label title="Positions snap to this">
          Grid{" "}
          <select value={String(placeStep)} aria-label="Grid" onChange={(event) => setGrid(Number(event.currentTarget.value))}>
            {[0.1, 0.2, 0.5, 1, 2, 5].map((by) => {
              const step = Number((steps.place * by).toPrecision(6));
              return (
                <option key={step} value={String(step)}>
                  {curve.domain === "hour" ? `${plain(step * 60)} min` : say(curve, step)}
                </option>
              );
            })}
          </select>
        </label>
        {lines.length > 0 && (
          <button disabled={!app.free} aria-pressed={drawing} onClick={() => (setDrawing(!drawing), setStroke([]))} title="Draw the curve freehand">
            Draw
          </button>
        )}
        {drawing && stroke.length > 1 && (
          <>
            <label>
              Tolerance{" "}
              <input type="range" min={0} max={20} step={0.5} value={tolerance} aria-label="Tolerance" onInput={(event) => setTolerance(event.currentTarget.valueAsNumber)} />
            </label>
            <button onClick={keepStroke}>Keep {drawn.length} stops</button>
          </>
        )}
      </div>
      <div class="drawing" ref={follow}>
        <svg
          ref={svg}
          width={size.width}
          height={size.height}
          role="group"
          aria-label={`Stops of ${curve.name}`}
          class={drawing ? "draws" : ""}
          onPointerDown={(event) => {
            if (drawing) return draw(event);
            if (event.target === event.currentTarget || (event.target as Element).classList.contains("ground")) setChosen([]);
          }}
          onDblClick={(event) => {
            if (drawing || !app.free || (event.target as Element).closest("[role=slider]")) return;
            const frame = svg.current!.getBoundingClientRect();
            const at = position(event.clientX - frame.left);
            const line = lines[0];
            const values = valuesAt(at);
            const like = line && curve.stops[0]?.values[line.n];
            if (line && like && typeof like.value === "number") values[line.n] = asWritten(like.text, like.value, snapped(value(event.clientY - frame.top), steps.value));
            add(at, values);
          }}
        >
          <rect class="ground" x={area.left} y={area.top} width={Math.max(0, area.right - area.left)} height={Math.max(0, area.bottom - area.top)} />
          <Grid curve={curve} box={box} x={x} y={y} area={area} like={lines[0] ? (curve.stops[0]?.values[lines[0].n]?.text ?? "") : ""} />
          {lines.map(({ n }, k) => (
            <path key={n} class="line" d={path(curve, n, x, y)} ref={(line) => line?.style.setProperty("stroke", INKS[k % INKS.length]!)} />
          ))}
          {curve.domain === "time" && <line class="playhead" x1={x(playhead)} x2={x(playhead)} y1={area.top} y2={area.bottom + rampHeight} />}
          {chosenStop?.easing && chosen[0]! > 0 && <Handles app={app} curve={curve} n={chosen[0]!} col={lines[0]?.n ?? 0} x={x} y={y} local={local} begin={begin} end={end} />}
          {drawn.length > 1 && <polyline class="stroke" points={drawn.map((p) => `${p.x},${p.y}`).join(" ")} />}
          {lines.map(({ n: col, name }, k) =>
            curve.stops.map((stop, n) => {
              const now = stop.values[col]?.value;
              if (typeof now !== "number") return null;
              const text = stop.values[col]!.text;
              const unit = unitOf(text, now);
              return (
                <circle
                  key={`${col}-${n}`}
                  class="stop"
                  role="slider"
                  tabIndex={0}
                  aria-label={`${curve.name} stop ${n + 1} ${name}`}
                  aria-valuenow={Number(plain(now / unit.size))}
                  aria-valuemin={Number(plain(box.low / unit.size))}
                  aria-valuemax={Number(plain(box.high / unit.size))}
                  aria-valuetext={`${text} at ${say(curve, stop.position)}`}
                  data-chosen={chosen.includes(n)}
                  cx={x(stop.position)}
                  cy={y(now)}
                  r={6}
                  ref={(dot) => dot?.style.setProperty("fill", INKS[k % INKS.length]!)}
                  onPointerDown={(event) => !drawing && drag(event, n, col)}
                  onFocus={() => {
                    if (!chosen.includes(n)) setChosen([n]);
                    app.mark(curve.file, stop.at);
                    hint(stop);
                  }}
                  onPointerEnter={() => hint(stop)}
                  onKeyDown={(event) => keysOf(event, n, col)}
                />
              );
            }),
          )}
          {ramps.map(({ n: col, name }, k) => {
            const top = area.bottom + EDGE.bottom - 6 + k * 26;
            return (
              <g key={col}>
                <foreignObject x={area.left} y={top} width={Math.max(0, area.right - area.left)} height={14}>
                  <div class="ramp" ref={(ramp) => ramp?.style.setProperty("background", gradient(curve, col, box))} />
                </foreignObject>
                {curve.stops.map((stop, n) => {
                  const now = stop.values[col]?.value;
                  if (!Array.isArray(now)) return null;
                  return (
                    <path
                      key={n}
                      class="stop"
                      role="slider"
                      tabIndex={0}
                      aria-label={`${curve.name} stop ${n + 1} ${name === "level" ? "color" : name}`}
                      aria-valuenow={Number(plain(stop.position))}
                      aria-valuemin={Number(plain(box.from))}
                      aria-valuemax={Number(plain(box.to))}
                      aria-valuetext={`${stop.values[col]!.text} at ${say(curve, stop.position)}`}
                      data-chosen={chosen.includes(n)}
                      d={`M ${x(stop.position)} ${top + 10} l 7 9 l -14 0 z`}
                      ref={(mark) => mark?.style.setProperty("fill", hex(now))}
                      onPointerDown={(event) => drag(event, n, null)}
                      onFocus={() => {
                        if (!chosen.includes(n)) setChosen([n]);
                        app.mark(curve.file, stop.at);
                        hint(stop);
                      }}
                      onPointerEnter={() => hint(stop)}
                      onKeyDown={(event) => keysOf(event, n, null)}
                    />
                  );
                })}
              </g>
            );
          })}
        </svg>
      </div>
      {chosenStop && <Fields app={app} curve={curve} hash={latestHash} n={chosen[0]!} stop={chosenStop} ease={(to) => easing(chosen[0]!, to)} />}
    </>
  );

  function keysOf(event: KeyboardEvent, n: number, col: number | null) {
    const fine = event.shiftKey ? 0.1 : 1;
    const by = placeStep * fine;
    switch (event.key) {
      case "ArrowLeft":
        nudge(n, col, -by, 0);
        break;
      case "ArrowRight":
        nudge(n, col, by, 0);
        break;
      case "ArrowUp":
        nudge(n, col, 0, steps.value * fine);
        break;
      case "ArrowDown":
        nudge(n, col, 0, -steps.value * fine);
        break;
      case "PageUp":
        nudge(n, col, 0, steps.value * 10);
        break;
      case "PageDown":
        nudge(n, col, 0, -steps.value * 10);
        break;
      case "Delete":
      case "Backspace":
        remove(n);
        break;
      case "a":
        add(playhead);
        break;
      case "d":
        void app.do(curve.file, `${curve.name}: stop ${n + 1} copied to ${say(curve, snapped(playhead, placeStep))}`, [{ duplicate_stop: { curve: curve.name, n, position: snapped(playhead, placeStep) } }]);
        break;
      case "Escape":
        setChosen([]);
        break;
      default:
        return;
    }
    event.preventDefault();
    event.stopPropagation();
  }
}

/** The curves that stops can be copied to: those over the same positions with as many columns. */
function CopyTo({ app, curve, copies }: { app: App; curve: Curve; copies: (to: Curve) => void }) {
  const kinds = (of: Curve) => of.stops[0]?.values.map(({ kind, base }) => `${kind} ${base}`).join() ?? "";
  const others = (app.info?.curves ?? []).filter((one) => one.name !== curve.name && one.domain === curve.domain && one.base === curve.base && kinds(one) === kinds(curve));
  if (!others.length) return null;
  return (
    <label title="Copy the selected stops, or all, to another curve">
      Copy to{" "}
      <select
        aria-label="Copy to"
        disabled={!app.free}
        value=""
        onChange={(event) => {
          const to = others.find(({ name }) => name === event.currentTarget.value);
          event.currentTarget.value = "";
          if (to) copies(to);
        }}
      >
        <option value="">curve</option>
        {others.map(({ name }) => (
          <option key={name}>{name}</option>
        ))}
      </select>
    </label>
  );
}

/** A factor that is typed or chosen, and applied to the selected stops, or to all. */
function Factor({ label, turn, free }: { label: string; turn: (by: number) => void; free: boolean }) {
  const factors = [50, 80, 90, 110, 125, 150, 200];
  return (
    <label title={`${label} the selected stops, or all`}>
      {label}{" "}
      <select
        aria-label={label}
        disabled={!free}
        value=""
        onChange={(event) => {
          const by = Number(event.currentTarget.value) / 100;
          event.currentTarget.value = "";
          if (by > 0) turn(by);
        }}
      >
        <option value="">by</option>
        {factors.map((by) => (
          <option key={by} value={by}>
            {by}%
          </option>
        ))}
      </select>
    </label>
  );
}

/** The position, values and easing of one stop, to be typed. */
function Fields({ app, curve, hash, n, stop, ease }: { app: App; curve: Curve; hash: string; n: number; stop: Stop; ease: (to: string | null) => void }) {
  const gesture = useRef<Gesture | null>(null);
  const begins = () => (gesture.current = new Gesture(app, curve.file, hash));
  const ends = () => {
    void gesture.current?.ends();
    gesture.current = null;
  };
  const base = useRef(stop);
  if (!gesture.current) base.current = stop;
  const from = base.current;
  const name = `${curve.name}, stop ${n + 1}`;
  return (
    <div class="tools fields" role="group" aria-label={name}>
      <b>stop {n + 1}</b>
      <SpinButton
        label={`${curve.name} stop ${n + 1} position`}
        value={stop.position}
        bounds={[curve.domain === "time" ? 0 : -1e6, 1e6]}
        step={curve.domain === "hour" ? 1 / 12 : 0.01}
        size={1}
        unit=""
        say={(v) => say(curve, v)}
        read={(text) => positionOf(curve, text)}
        free={app.free}
        begins={begins}
        turns={(to) => gesture.current?.to(`${name}: ${say(curve, from.position)} to ${say(curve, to)}`, [{ move_stops: { curve: curve.name, to: [[n, to]] } }])}
        ends={ends}
      />
      {stop.values.map((written, col) => {
        const column = curve.columns[col] ?? "value";
        const label = `${curve.name} stop ${n + 1} ${column} value`;
        const before = from.values[col] ?? written;
        if (typeof written.value === "number") {
          const { unit, size } = unitOf(written.text, written.value);
          return (
            <SpinButton
              key={col}
              label={label}
              value={written.value}
              bounds={[-1e9, 1e9]}
              step={size}
              size={size}
              unit={unit}
              free={app.free}
              begins={begins}
              turns={(to) => gesture.current?.to(`${name}: ${before.text} to ${plain(to / size)}${unit}`, [numberOp(before.at, before.text, to)])}
              ends={ends}
            />
          );
        }
        if (Array.isArray(written.value) && written.kind === "color") {
          return (
            <ColorButton
              key={col}
              label={label}
              text={written.text}
              value={written.value as Vec3}
              free={app.free}
              begins={begins}
              turns={(to) => gesture.current?.to(`${name}: ${before.text} to ${to}`, [{ color: { at: before.at, to } }])}
              ends={ends}
            />
          );
        }
        return <code key={col}>{written.text}</code>;
      })}
      {n > 0 && (
        <label>
          reached{" "}
          <select
            aria-label={`${curve.name} stop ${n + 1} easing`}
            disabled={!app.free}
            value={stop.easing ?? "linear"}
            onChange={(event) => ease(event.currentTarget.value)}
          >
            {[...new Set([...EASINGS, ...(stop.easing ? [stop.easing] : [])])].map((easing) => (
              <option key={easing} value={easing}>
                {easing}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}

/** The handles of a cubic-bezier, or of a named easing that is one. */
function Handles({ app, curve, n, col, x, y, local, begin, end }: {
  app: App;
  curve: Curve;
  n: number;
  col: number;
  x: (v: number) => number;
  y: (v: number) => number;
  local: (event: PointerEvent) => [number, number];
  begin: () => { curve: Curve; gesture: Gesture };
  end: () => Promise<void>;
}) {
  const [from, to] = [curve.stops[n - 1]!, curve.stops[n]!];
  const bezier = bezierOf(to.easing);
  const [a, b] = [from.values[col]?.value, to.values[col]?.value];
  if (!bezier || typeof a !== "number" || typeof b !== "number") return null;
  const [x0, x1, y0, y1] = [x(from.position), x(to.position), y(a), y(b)];
  const tall = Math.abs(y1 - y0) < 1 ? 40 : y1 - y0;
  const ends = [
    [x0, y0],
    [x1, y0 + tall],
  ] as const;
  const place = (k: 0 | 1): [number, number] => [x0 + bezier[k === 0 ? 0 : 2] * (x1 - x0), y0 + bezier[k === 0 ? 1 : 3] * tall];
  const set = (k: 0 | 1, px: number, py: number) => {
    const { curve: of, gesture } = begin();
    const next = [...bezier] as typeof bezier;
    next[k === 0 ? 0 : 2] = Math.min(1, Math.max(0, (px - x0) / (x1 - x0)));
    next[k === 0 ? 1 : 3] = (py - y0) / tall;
    const text = bezierText(next);
    gesture.to(`${of.name}, stop ${n + 1}: ${of.stops[n]!.easing ?? "linear"} to ${text}`, [{ easing: { at: of.stops[n]!.at, to: text } }]);
  };
  return (
    <>
      {([0, 1] as const).map((k) => {
        const [px, py] = place(k);
        return (
          <g key={k}>
            <line class="arm" x1={ends[k][0]} y1={ends[k][1]} x2={px} y2={py} />
            <circle
              class="handle"
              role="slider"
              tabIndex={0}
              aria-label={`${curve.name} stop ${n + 1} easing handle ${k + 1}`}
              aria-valuenow={Number(plain(bezier[k === 0 ? 0 : 2], 3))}
              aria-valuemin={0}
              aria-valuemax={1}
              aria-valuetext={to.easing ?? ""}
              cx={px}
              cy={py}
              r={5}
              onPointerDown={(event) => {
                if (!app.free) return;
                event.stopPropagation();
                const target = event.currentTarget;
                target.setPointerCapture(event.pointerId);
                const move = (event: PointerEvent) => set(k, ...local(event));
                const done = () => {
                  target.removeEventListener("pointermove", move);
                  target.removeEventListener("pointerup", done);
                  void end();
                };
                target.addEventListener("pointermove", move);
                target.addEventListener("pointerup", done);
              }}
              onKeyDown={(event) => {
                const by: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
                const step = by[event.key];
                if (!step || !app.free) return;
                event.preventDefault();
                event.stopPropagation();
                set(k, px + (step[0] * (x1 - x0)) / 50, py + step[1] * Math.sign(tall) * Math.sign(tall) * 4);
                void end();
              }}
            />
          </g>
        );
      })}
    </>
  );
}

function Grid({ curve, box, x, y, area, like }: {
  curve: Curve;
  box: { from: number; to: number; low: number; high: number };
  x: (v: number) => number;
  y: (v: number) => number;
  area: { left: number; right: number; top: number; bottom: number };
  like: string;
}) {
  const { unit, size } = unitOf(like, Number.NaN);
  const along = ticks(box.from, box.to, Math.max(2, (area.right - area.left) / 90), curve.domain === "hour" ? [1, 2, 3, 4, 6, 12] : undefined);
  const up = ticks(box.low / size, box.high / size, Math.max(2, (area.bottom - area.top) / 40));
  return (
    <g class="grid" aria-hidden="true">
      {along.map((at) => (
        <g key={at}>
          <line x1={x(at)} x2={x(at)} y1={area.top} y2={area.bottom} />
          <text x={x(at)} y={area.bottom + 15} text-anchor="middle">
            {say(curve, at)}
          </text>
        </g>
      ))}
      {up.map((v) => (
        <g key={v}>
          <line x1={area.left} x2={area.right} y1={y(v * size)} y2={y(v * size)} />
          <text x={area.left - 6} y={y(v * size) + 4} text-anchor="end">
            {plain(v)}
            {unit}
          </text>
        </g>
      ))}
    </g>
  );
}

/** Even marks from one number to another, at most so many. */
function ticks(from: number, to: number, most: number, steps?: number[]): number[] {
  const rough = (to - from) / most;
  if (!(rough > 0)) return [];
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = steps?.find((s) => s >= rough) ?? [1, 2, 5, 10].map((n) => n * power).find((s) => s >= rough) ?? rough;
  const found: number[] = [];
  for (let n = Math.ceil(from / step - 1e-9); n * step <= to + step * 1e-6; ++n) found.push(Number((n * step).toPrecision(10)));
  return found;
}

/** The line of a column: what the evaluator gives where it is known, else from stop to stop. */
function path(curve: Curve, n: number, x: (v: number) => number, y: (v: number) => number): string {
  const [first, last] = [curve.stops[0]?.position ?? 0, curve.stops.at(-1)?.position ?? 1];
  const samples = curve.samples?.[n];
  const points = samples
    ? samples.map((v, k) => [first + (k / (samples.length - 1)) * (last - first), v] as const)
    : curve.stops.flatMap((stop, k) => {
        const v = column(curve, n)[k];
        return typeof v === "number" ? [[stop.position, v] as const] : [];
      });
  return points.map(([at, v], k) => `${k === 0 ? "M" : "L"}${x(at).toFixed(1)} ${y(v).toFixed(1)}`).join("");
}

function gradient(curve: Curve, n: number, box: { from: number; to: number }): string {
  const stops = curve.stops.flatMap((stop) => {
    const v = stop.values[n]?.value;
    if (!Array.isArray(v)) return [];
    return [`${hex(v)} ${(((stop.position - box.from) / (box.to - box.from)) * 100).toFixed(2)}%`];
  });
  return stops.length > 1 ? `linear-gradient(to right in oklab, ${stops.join(", ")})` : "none";
}

/** A number in the unit of what it replaces. */
function asWritten(text: string, value: number, to: number): string {
  const { unit, size } = unitOf(text, value);
  return `${plain(to / size)}${unit}`;
}

/** The operation that writes a number where another one stands, with its sign. */
function numberOp([start, end]: [number, number], text: string, to: number): Op {
  const sign = text.startsWith("-") ? 1 : 0;
  return { number: { at: [start + sign, end], to } };
}

/** A position as it was typed. */
function positionOf(curve: Curve, text: string): number | null {
  if (curve.domain === "hour") {
    const found = /^(\d{1,2}):(\d\d)$/.exec(text.trim());
    return found && Number(found[1]) < 24 && Number(found[2]) < 60 ? Number(found[1]) + Number(found[2]) / 60 : null;
  }
  const found = /^([+-]?[\d.]+)\s*([a-z%]*)$/i.exec(text.trim());
  if (!found) return null;
  const number = Number(found[1]);
  const base = curve.domain === "time" ? "s" : curve.base === "" ? "%" : (curve.base ?? "");
  const { size } = unitOf(`1${found[2] || base}`, 1);
  return Number.isFinite(number) ? number * size : null;
}
