// Variants of the selected light side by side: other random seeds, neighbors of its numbers, ready-made behaviors. They are
// computed by the server; only the chosen one is written.

import { useEffect, useRef, useState } from "preact/hooks";
import { type App, nameOf } from "./app";
import type { Knob, Light } from "./book";
import { hex } from "./color";
import { fileOf } from "./feeds";
import type { Op } from "./hands";
import { plain, snapped } from "./number";
import { Lane } from "./sheet";
import { reach } from "./reach";

export type Way = "seeds" | "neighbors" | "stock";

/** A variant: its label and its operations. */
export interface Variant {
  label: string;
  ops: Op[];
}

interface Samples {
  why?: string;
  level?: number[];
  color?: [number, number, number][];
}

interface Stocked {
  name: string;
  parameters: string;
  about: string;
}

const MANY = 6;
const TITLES: Record<Way, string> = { seeds: "Other random seeds", neighbors: "Neighbors of its numbers", stock: "Ready-made behaviors" };

/** Variants with other seeds of a light. */
export function seeds(light: string, chance: () => number): Variant[] {
  return Array.from({ length: MANY }, () => {
    const seed = Math.floor(chance() * 4294967296);
    return { label: `seed ${seed}`, ops: [{ seed: { of: light, to: seed } }] };
  });
}

/** The numbers of a light that can be varied: all but its geometry. */
export function varied(knobs: Knob[], light: string): Knob[] {
  return knobs.filter(({ file, kind, value, path }) => file !== null && (kind === "number" || kind === "time") && value !== 0 && path[0] === light && !["position", "reach", "cone", "aim", "falloff"].includes(path[1] ?? ""));
}

/** Variants whose numbers differ by at most a factor of `1 ± share`, on their steps and within their bounds. */
export function neighbors(knobs: Knob[], share: number, chance: () => number): Variant[] {
  return Array.from({ length: MANY }, () => {
    const ops: Op[] = [];
    const told: string[] = [];
    for (const knob of knobs) {
      const value = knob.value as number;
      const step = knob.step / 10 || 1e-3;
      const [least, most] = knob.bounds;
      const to = Math.min(Math.max(most, value), Math.max(Math.min(least, value), snapped(value * (1 + share * (2 * chance() - 1)), step)));
      if (to === value) continue;
      ops.push({ number: { at: knob.at, to } });
      told.push(`${knob.path.slice(1).join(" ") || nameOf(knob)} ${plain(to / knob.size, 4)}${knob.unit}`);
    }
    return { label: told.join(", ") || "as it is", ops };
  });
}

/** Variants with ready-made behaviors, whose intensity is multiplied by one of them. */
export function stocked(light: string, all: Stocked[]): (Variant & { about: string })[] {
  return all.map(({ name, about }) => ({ label: `${name}()`, about, ops: [{ use: { file: "stock" } }, { times: { of: light, word: "intensity", by: `${name}()` } }] }));
}

interface Props {
  app: App;
  light: Light;
  way: Way;
  rehearsal: string;
  span: { from: number; to: number };
  /** Shows a variant in the place, or the light as it is. */
  preview: (samples: { level: number[]; color: [number, number, number][] } | null) => void;
  closes: () => void;
}

export function GalleryDialog({ app, light, way, rehearsal, span, preview, closes }: Props) {
  const dialog = useRef<HTMLDialogElement | null>(null);
  const [variants, setVariants] = useState<(Variant & { about?: string })[]>([]);
  const [samples, setSamples] = useState<Samples[]>([]);
  const [share, setShare] = useState(30);
  const [round, setRound] = useState(0);
  const info = app.info!;
  const file = fileOf(info, light.name) ?? info.texts[0]?.name ?? "";
  const hash = app.text(file)?.hash ?? "";
  useEffect(() => dialog.current?.showModal(), []);
  useEffect(() => {
    let gone = false;
    const find = async (): Promise<(Variant & { about?: string })[]> => {
      if (way === "seeds") return seeds(light.name, Math.random);
      if (way === "stock") return stocked(light.name, await (await reach("/stock.json")).json());
      const knobs = varied((await app.knobs(light.name))?.literals ?? [], light.name).filter((knob) => knob.file === file);
      return neighbors(knobs, share / 100, Math.random);
    };
    void find().then(async (found) => {
      if (gone) return;
      setVariants(found);
      setSamples([]);
      const seed = app.player?.seed ?? info.seed;
      const body = { file, hash, of: light.name, seed, rehearsal: rehearsal || null, from: span.from, to: span.to, variants: found.map(({ ops }) => ops) };
      const told = await app.hands.attempt<{ variants: Samples[] }>(body);
      if (!gone && told) setSamples(told.variants);
    });
    return () => {
      gone = true;
      preview(null);
    };
  }, [round, share, way]);
  const choose = (variant: Variant) => {
    closes();
    void app.do(file, `${light.name}: ${variant.label}`, variant.ops);
  };
  return (
    <dialog ref={dialog} class="gallery" aria-label={`${TITLES[way]} of ${light.name}`} onClose={closes}>
      <div class="tools">
        <h2>
          {TITLES[way]} of {light.name}
        </h2>
        {way === "neighbors" && (
          <label>
            by up to <input type="range" min={5} max={80} step={5} value={share} aria-label="Range" onChange={(event) => setShare(event.currentTarget.valueAsNumber)} /> {share}%
          </label>
        )}
        {way !== "stock" && <button onClick={() => setRound(round + 1)}>Others</button>}
        <button class="close" onClick={closes}>
          Close
        </button>
      </div>
      <div class="cards">
        {variants.map((variant, n) => (
          <Card key={`${round} ${share} ${variant.label} ${n}`} app={app} light={light} variant={variant} samples={samples[n]} span={span} preview={preview} choose={() => choose(variant)} />
        ))}
      </div>
    </dialog>
  );
}

interface CardProps {
  app: App;
  light: Light;
  variant: Variant & { about?: string };
  samples: Samples | undefined;
  span: { from: number; to: number };
  preview: Props["preview"];
  choose: () => void;
}

/** One variant: its lane, its light at the current moment, and a button that chooses it. */
function Card({ app, light, variant, samples, span, preview, choose }: CardProps) {
  const canvas = useRef<HTMLCanvasElement | null>(null);
  const lamp = useRef<HTMLSpanElement | null>(null);
  const level = samples?.level;
  const color = samples?.color;
  useEffect(() => {
    const value = light.values[0];
    if (!canvas.current || !value || !level || !color) return;
    const lane = new Lane({ ...light, lamps: 1, spark: false }, value, canvas.current);
    lane.clear(level.length);
    lane.level.set(level);
    level.forEach((v, n) => color[n]!.forEach((c, k) => (lane.color[n * 3 + k] = v * c)));
    lane.done = level.length;
    lane.seen = [Math.min(0, ...level), Math.max(...level)];
    lane.draw();
    // The light as it is at the moment that is shown.
    const top = Math.max(1e-9, ...level);
    let frame = 0;
    const follow = () => {
      const at = Math.min(level.length - 1, Math.max(0, Math.floor(((app.now - span.from) / (span.to - span.from)) * level.length)));
      lamp.current?.style.setProperty("background", hex(color[at]!.map((c) => (c * level[at]!) / top)));
      frame = requestAnimationFrame(follow);
    };
    follow();
    return () => cancelAnimationFrame(frame);
  }, [samples]);
  const shows = () => preview(level && color ? { level, color } : null);
  return (
    <div class="card" role="group" aria-label={variant.label} onPointerEnter={shows} onFocusIn={shows} onPointerLeave={() => preview(null)}>
      <canvas ref={canvas} aria-hidden="true" />
      <div class="tools">
        <span class="lampdot" ref={lamp} aria-hidden="true" />
        <span class="label" title={variant.about ?? variant.label}>
          {samples?.why ?? variant.label}
        </span>
        <button disabled={!app.free || !level} onClick={choose} aria-label={`Choose ${variant.label}`}>
          Choose
        </button>
      </div>
    </div>
  );
}
