// The grips of eyes: where one stands and what it looks toward, in the views from above and from the front; through an
// eye, turning, walking and the width of its field.

import type { App } from "./app";
import type { Eye, Knob, Vec3 } from "./book";
import { type Hold, type PointHold, type Spec, taken } from "./grip";
import { type Camera, cameraOf, plus } from "./lens";
import { plain, snapped } from "./number";
import { toBook } from "./lamp";

const DEGREES = 180 / Math.PI;
/** The steepest look up or down, in degrees. */
const STEEP = 85;

/** A point that an eye looks at, turned about it: to the right and up, in degrees. */
export function turned({ at, toward }: Pick<Eye, "at" | "toward">, right: number, up: number): Vec3 {
  const way = plus(toward, at, -1);
  const far = Math.hypot(...way);
  const level = Math.hypot(way[0], way[2]);
  const pitch = Math.max(-STEEP, Math.min(STEEP, Math.atan2(way[1], level) * DEGREES + up)) / DEGREES;
  const yaw = Math.atan2(way[0], -way[2]) + right / DEGREES;
  return plus(at, [far * Math.cos(pitch) * Math.sin(yaw), far * Math.sin(pitch), -far * Math.cos(pitch) * Math.cos(yaw)]);
}

/** A step of an eye in meters: to the right, up, and ahead on the level. */
export function stepped({ ahead, right }: Camera, by: Vec3): Vec3 {
  const level = Math.hypot(ahead[0], ahead[2]) || 1;
  const [x, z] = level === 1 && ahead[0] === 0 && ahead[2] === 0 ? [0, -1] : [ahead[0] / level, ahead[2] / level];
  return [right[0] * by[0] - x * by[2], by[1], right[2] * by[0] - z * by[2]];
}

/** An eye and what it looks toward after a step. */
function walked(eye: Eye, by: Vec3): Partial<Eye> {
  const move = stepped(cameraOf(eye), by);
  return { at: plus(eye.at, move), toward: plus(eye.toward, move) };
}

/** The corners of an eye's field on the level, so far ahead. */
export function wedge(eye: Eye, far: number): Vec3[] {
  const camera = cameraOf(eye);
  const edge = (side: number) => plus(eye.at, plus(camera.ahead, camera.right, side * camera.half), far);
  return [edge(-1), eye.at, edge(1)];
}

interface Around {
  app: App;
  knobs(of: string, channel: string): Promise<{ knobs: Knob[]; hashes: Record<string, string> }>;
  pointHold(knob: Knob, hashes: Record<string, string>, how: { what: string; key: string; share: number; from: () => Vec3 | undefined }): PointHold;
  eyeNamed(name: string): Eye | undefined;
  /** The eye that is looked through, which can be moved without changing the book. */
  seen: { eye: Eye | null; resize(): void };
}

/** Moves what is looked through, but not the eye of the book. */
function freely({ seen }: Around, step: number, to: (eye: Eye, by: Vec3) => Partial<Eye>): Spec["freely"] {
  return {
    step,
    move(by) {
      if (!seen.eye) return;
      seen.eye = { ...seen.eye, ...to(seen.eye, by) };
      seen.resize();
    },
  };
}

const CM = 0.01;

/** The literal of one of an eye's points. */
async function literal(around: Around, name: string, word: "at" | "toward"): Promise<{ knob: Knob; hashes: Record<string, string> } | string> {
  const { knobs, hashes } = await around.knobs(name, word);
  const knob = knobs.find(({ kind }) => kind === "point");
  return knob ? { knob, hashes } : `\`${word}\` of ${name} is computed; change what feeds it in the knobs`;
}

/** A grip on where an eye is, or on what it looks toward. */
export function pointSpec(around: Around, name: string, word: "at" | "toward", key: string): Spec {
  const hold = async (): Promise<Hold | string> => {
    const found = await literal(around, name, word);
    if (typeof found === "string") return found;
    return around.pointHold(found.knob, found.hashes, { what: `${name}: ${word}`, key, share: 1, from: () => around.eyeNamed(name)?.[word] });
  };
  const label = word === "at" ? `${name} eye` : `${name} looks toward`;
  return { label, title: `${label}: drag it, or move it with the arrow keys; Page Up and Page Down for its height`, look: word === "at" ? "eye" : "aim", light: name, index: 0, hold };
}

const text = (p: Vec3) => `(${p.map((v) => `${plain(v, 4)}m`).join(", ")})`;

/** Turns an eye that is looked through: `by` in degrees, to the right and, with the sign of the keys, up. */
export function turnSpec(around: Around, name: string): Spec {
  const hold = async (): Promise<Hold | string> => {
    const found = await literal(around, name, "toward");
    const eye = around.eyeNamed(name);
    if (typeof found === "string" || !eye) return typeof found === "string" ? found : `${name} is gone`;
    const { knob, hashes } = found;
    return {
      kind: "point",
      ...taken(knob, hashes),
      step: 2,
      fine: 0.2,
      set: (by) => {
        const to = toBook(around.app.info!.space, turned(eye, by[0], by[1] - by[2])).map((v) => snapped(v, CM)) as Vec3;
        return { words: `${name}: toward ${text(to)}`, ops: [{ point: { at: knob.at, to } }] };
      },
    };
  };
  return { label: `Turn ${name}`, title: `Turn ${name}: drag the picture, or use the arrow keys`, look: "walk", text: "Turn", light: name, index: 0, hold, freely: freely(around, 2, (eye, by) => ({ toward: turned(eye, by[0], by[1] - by[2]) })) };
}

/** Walks with an eye that is looked through: both of its points move. */
export function walkSpec(around: Around, name: string): Spec {
  const hold = async (): Promise<Hold | string> => {
    const [own, other] = [await literal(around, name, "at"), await literal(around, name, "toward")];
    const eye = around.eyeNamed(name);
    if (typeof own === "string") return own;
    if (typeof other === "string") return other;
    if (!eye) return `${name} is gone`;
    const camera = cameraOf(eye);
    const { space } = around.app.info!;
    return {
      kind: "point",
      ...taken(own.knob, own.hashes),
      step: 0.5,
      fine: 0.05,
      set: (by) => {
        const move = stepped(camera, by);
        const moved = (p: Vec3) => toBook(space, plus(p, move)).map((v) => snapped(v, CM)) as Vec3;
        const [at, toward] = [moved(eye.at), moved(eye.toward)];
        return { words: `${name}: at ${text(at)}`, ops: [{ point: { at: own.knob.at, to: at } }, { point: { at: other.knob.at, to: toward } }] };
      },
    };
  };
  return { label: `Walk with ${name}`, title: `Walk with ${name}: drag to the side and ahead, or use the arrow keys; Page Up and Page Down for its height`, look: "walk", text: "Walk", light: name, index: 0, hold, freely: freely(around, 0.5, walked) };
}

/** The width of the field of an eye. */
export function fieldSpec(around: Around, name: string): Spec {
  const hold = async (): Promise<Hold | string> => {
    const { knobs, hashes } = await around.knobs(name, "field");
    const knob = knobs.find(({ value }) => typeof value === "number");
    if (!knob) return `the field of ${name} is computed; change what feeds it in the knobs`;
    const base = knob.value as number;
    return {
      kind: "number",
      ...taken(knob, hashes),
      step: 1,
      fine: 0.1,
      along: (by) => by[0],
      set: (by, fine) => {
        const to = Math.min(150, Math.max(5, snapped(base + by, fine ? 0.1 : 1)));
        return { words: `${name}: field ${plain(to, 4)}deg`, ops: [{ number: { at: knob.at, to } }] };
      },
    };
  };
  const now = () => {
    const eye = around.eyeNamed(name);
    return eye ? { value: Number(plain(eye.field, 4)), text: `${plain(eye.field, 4)} deg` } : null;
  };
  return { label: `${name} field`, title: `${name} field: drag it sideways, or use the arrow keys`, look: "walk", text: "Field", light: name, index: 0, hold, now, freely: freely(around, 1, ({ field }, by) => ({ field: Math.min(150, Math.max(5, field + by[0] - by[2])) })) };
}
