// The parts of the page that compute without a page.

import assert from "node:assert/strict";
import { test } from "node:test";
import type { Curve, Deed, Info, Input, Knob, Script, Solids, Stop, Vec3 } from "../src/book";
import { hex, kelvins, mostChroma, ofHex, ofOklch, oklchOf, shown } from "../src/color";
import { found, keyName } from "../src/commands";
import { followed, freeName, looped, switched } from "../src/feeds";
import { stepped, turned, wedge } from "../src/eyes";
import { forward, kept } from "../src/fit";
import { neighbors, seeds, stocked, varied } from "../src/gallery";
import { lineAt } from "../src/grip";
import { anglesOf, apart, axisOf } from "../src/handles";
import { toBook } from "../src/lamp";
import { differing } from "../src/history";
import { named } from "../src/knobs";
import { literalIn, turnedBy } from "../src/literal";
import { meaningOf } from "../src/midi";
import { type Lens, boundsOf, cameraOf, dot, onPlane, plus, sized, slid, surfaceAt } from "../src/lens";
import { hourText, plain, roundStep, snapped, typed } from "../src/number";
import { Offsets, declarationAt, replacement } from "../src/offsets";
import { bezierOf, columns, mirrored, reversed, seam, stretched, unitOf, windowOf } from "../src/shape";
import { moved, roomOf } from "../src/steps";
import { asRead, indexed, rehearsalText, takeOf, tidied, valueText } from "../src/take";
import { movedCurve, movedInputs, movement } from "../src/takes";
import { expectation } from "../src/sheet";
import { type Tap, momentsOf, pulsesOf, rhythmOf, timesOf } from "../src/taps";
import type { Standing } from "../src/lamp";

/** Numbers that are the same in each run. */
function* numbers(seed: number): Generator<number> {
  let state = seed;
  for (;;) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    yield state / 4294967296;
  }
}

test("colors come back from OKLCH and from hex", () => {
  const chance = numbers(7);
  for (let n = 0; n < 500; ++n) {
    const color = [0, 1, 2].map(() => chance.next().value as number) as Vec3;
    const back = ofOklch(oklchOf(color));
    color.forEach((v, k) => assert.ok(Math.abs(v - back[k]!) < 1e-6, `${color} ${back}`));
    const text = hex(color);
    assert.equal(hex(ofHex(text)!), text);
  }
  assert.equal(ofHex("#12345"), null);
  assert.equal(kelvins("2400K"), 2400);
  assert.equal(kelvins("2400k"), null);
});

test("the most chroma is the last that can be shown", () => {
  for (const h of [0, 40, 145, 264, 330]) {
    const c = mostChroma(0.7, h);
    assert.ok(shown(ofOklch({ l: 0.7, c, h })) && !shown(ofOklch({ l: 0.7, c: c + 0.01, h })), `${h}`);
  }
});

test("a stroke keeps few points and stays within the tolerance", () => {
  const chance = numbers(3);
  for (const tolerance of [0.5, 2, 8]) {
    const points = Array.from({ length: 200 }, (_, x) => ({ x, y: 40 * Math.sin(x / 17) + 3 * (chance.next().value as number) }));
    const stays = kept(points, tolerance);
    assert.equal(stays[0], 0);
    assert.equal(stays.at(-1), 199);
    for (let k = 1; k < stays.length; ++k) {
      const [a, b] = [points[stays[k - 1]!]!, points[stays[k]!]!];
      for (let n = stays[k - 1]!; n <= stays[k]!; ++n) {
        const p = points[n]!;
        const y = a.y + ((p.x - a.x) / (b.x - a.x)) * (b.y - a.y);
        assert.ok(Math.abs(p.y - y) <= tolerance + 1e-9);
      }
    }
  }
  const straight = Array.from({ length: 50 }, (_, x) => ({ x, y: 2 * x }));
  assert.deepEqual(kept(straight, 0.1), [0, 49]);
  assert.deepEqual(forward([{ x: 0, y: 0 }, { x: 5, y: 1 }, { x: 3, y: 2 }, { x: 4, y: 3 }]).map(({ x }) => x), [0, 3, 4]);
});

test("numbers are snapped without noise, and read as they are written", () => {
  assert.equal(snapped(0.1 + 0.2, 0.1), 0.3);
  assert.equal(snapped(1.2345, 0.05), 1.25);
  assert.deepEqual([0.0123, 0.3, 7, 200].map(roundStep), [0.01, 0.2, 5, 200]);
  assert.equal(plain(0.1 + 0.2), "0.3");
  assert.equal(typed("72%", 0.01, "%"), 0.72);
  assert.equal(typed("150", 0.001, "ms"), 0.15);
  assert.equal(typed("1,5", 1, ""), null);
  assert.equal(typed("", 1, ""), null);
  assert.equal(hourText(23.999), "23:59");
  assert.deepEqual(unitOf("2.5deg", 2.5), { unit: "deg", size: 1 });
  assert.deepEqual(unitOf("-80%", -0.8), { unit: "%", size: 0.01 });
});

test("bytes of UTF-8 and units of UTF-16 are told apart", () => {
  const text = "aé\n😀b";
  const offsets = new Offsets(text);
  const bytes = new TextEncoder();
  for (let unit = 0; unit <= text.length; ++unit) {
    if (/[\uDC00-\uDFFF]/.test(text[unit] ?? "")) continue;
    assert.equal(offsets.unit(bytes.encode(text.slice(0, unit)).length), unit);
  }
  assert.equal(new Offsets("plain").unit(3), 3);
});

test("a replacement is the smallest that gives the other text", () => {
  const chance = numbers(11);
  const pick = (n: number) => Math.floor((chance.next().value as number) * n);
  for (let n = 0; n < 500; ++n) {
    const before = Array.from({ length: pick(12) }, () => "ab\n"[pick(3)]).join("");
    const after = Array.from({ length: pick(12) }, () => "ab\n"[pick(3)]).join("");
    const change = replacement(before, after);
    const made = change ? before.slice(0, change.from) + change.insert + before.slice(change.to) : before;
    assert.equal(made, after);
    if (change && change.to > change.from && change.insert) assert.notEqual(before[change.from], change.insert[0]);
  }
});

test("the declaration around a place is named", () => {
  const text = "lightbook \"B\"\n\nsignal gust = 1\n\nlight lamp point {\n  intensity 1lm\n}\n";
  assert.equal(declarationAt(text, text.indexOf("intensity")), "lamp");
  assert.equal(declarationAt(text, text.indexOf("gust")), "gust");
  assert.equal(declarationAt(text, 3), null);
});

function curve(stops: [number, number, string | null][], extra: Partial<Curve> = {}): Curve {
  const made = stops.map(([position, value, easing]): Stop => ({
    at: [0, 0],
    position,
    values: [{ at: [0, 0], text: `${value * 100}%`, kind: "number", base: "", value }],
    easing,
  }));
  return { file: "a", name: "sag", at: [0, 0], columns: [], domain: "time", base: "s", length: null, stops: made, ...extra };
}

test("a curve turned around twice is the same", () => {
  const sag = curve([[0, 1, null], [1, 0.8, "ease-in"], [3, 0.2, "cubic-bezier(0.1, 0.2, 0.3, 0.9)"], [4, 1, null]]);
  const once = reversed(sag.stops);
  assert.deepEqual(once.map(({ position }) => position), [0, 1, 3, 4]);
  assert.deepEqual(once.map(({ easing }) => easing), [null, null, "cubic-bezier(0.7, 0.1, 0.9, 0.8)", "ease-out"]);
  const twice = reversed(once.map(({ position, values, easing }) => ({ at: [0, 0], position, easing, values: values.map((text) => ({ at: [0, 0], text, kind: "number", base: "", value: 0 })) })) as Stop[]);
  assert.deepEqual(twice.map(({ position, easing }) => [position, easing]), sag.stops.map(({ position, easing }) => [position, easing]));
  assert.equal(mirrored("smooth"), "smooth");
});

test("the seam is the jump from the last stop to the first", () => {
  const [found] = seam(curve([[0, 1, null], [2, 0.75, null]]));
  assert.equal(found?.jump, 0.25);
  assert.deepEqual(seam(curve([[0, 1, null]])), []);
});

test("the window shows zero, all stops, and what the evaluator gives between them", () => {
  const sag = curve([[0, 0.5, null], [2, 0.9, null]], { samples: [[0.5, 1.2, 0.9]] });
  const { from, to, low, high } = windowOf(sag);
  assert.deepEqual([from, to, low], [0, 2, 0]);
  assert.ok(high > 1.2);
  assert.deepEqual(windowOf({ ...sag, domain: "hour" }).to, 24);
  assert.deepEqual(columns(sag), [{ n: 0, name: "level", color: false, line: true }]);
  assert.deepEqual(stretched([1, 2, 4], 0.5), [1, 1.5, 2.5]);
});

test("easings of CSS have control values", () => {
  assert.deepEqual(bezierOf("ease-in"), [0.42, 0, 1, 1]);
  assert.deepEqual(bezierOf("cubic-bezier(0.3, -0.4, 0.7, 1.4)"), [0.3, -0.4, 0.7, 1.4]);
  assert.equal(bezierOf("jump"), null);
});

test("knobs have names of their own, and stops are left to the curve editor", () => {
  const knob = (path: string[], at: [number, number]) => ({ file: "a", at, text: "1", kind: "number" as const, unit: "", base: "", size: 1, value: 1, bounds: [0, 1] as [number, number], step: 0.1, path });
  const all = named([knob(["mast", "cone"], [0, 1]), knob(["mast", "cone"], [3, 4]), knob(["mast", "intensity", "sag"], [20, 24])], [{ file: "a", at: [10, 40] }]);
  assert.deepEqual(all.map(({ name, within }) => [name, within]), [["mast cone", "cone"], ["mast cone 2", "cone 2"]]);
});

test("commands are found by their words and keys", () => {
  const commands = [{ name: "Fit the exposure", do: () => undefined }, { name: "Add a spot light", do: () => undefined }];
  assert.deepEqual(found(commands, "light add").map(({ name }) => name), ["Add a spot light"]);
  const press = (key: string, held: object = {}) => keyName({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held } as KeyboardEvent);
  assert.deepEqual([press(" "), press("z", { ctrlKey: true }), press("Z", { ctrlKey: true, shiftKey: true }), press("ArrowLeft", { shiftKey: true }), press("?", { shiftKey: true })], ["Space", "Ctrl z", "Ctrl Shift z", "Shift ArrowLeft", "?"]);
});

test("meters of the picture are those of the book", () => {
  const space = { unit: 1, factor: 1 };
  assert.deepEqual(toBook({ ...space, up: "y" }, [1, 2, 3]), [1, 2, 3]);
  assert.deepEqual(toBook({ ...space, up: "z" }, [1, 2, 3]), [1, -3, 2]);
});

test("two texts are shown by the lines in which they differ", () => {
  assert.deepEqual(differing("a\nb\nc", "a\nx\ny\nc"), ["b", "x\ny"]);
  assert.deepEqual(differing("a", "a"), ["", ""]);
});

test("numbers in a line are found where the cursor touches them", () => {
  const line = "  1.85s  -82%   smooth #ffb060 lamp2 17:40 6_200lm // 5s";
  const at = (text: string) => line.indexOf(text);
  assert.equal(literalIn(line, at("1.85"))?.text, "1.85s");
  assert.equal(literalIn(line, at("1.85") + 5)?.text, "1.85s");
  assert.equal(literalIn(line, at("82%"))?.text, "-82%");
  assert.equal(literalIn(line, at("17:40") + 2)?.text, "17:40");
  assert.equal(literalIn(line, at("6_200") + 3)?.text, "6_200lm");
  for (const none of ["ffb060", "lamp2", "smooth"]) assert.equal(literalIn(line, at(none) + 1), null, none);
  assert.equal(literalIn(line, line.lastIndexOf("5s")), null);
  assert.equal(literalIn("#905020", 3), null);
});

test("a number is turned by its steps and stays within its bounds", () => {
  const knob = (value: number, more: Partial<Knob> = {}): Knob => ({ file: "a", at: [4, 8], text: "82%", kind: "number", unit: "%", base: "", size: 0.01, value, bounds: [0, 1], step: 0.02, path: [], ...more });
  assert.deepEqual(turnedBy(knob(0.82), 2, false), { words: "82% to 86%", ops: [{ number: { at: [4, 8], to: 0.86 } }] });
  assert.deepEqual(turnedBy(knob(0.82), -1, true)?.ops, [{ number: { at: [4, 8], to: 0.818 } }]);
  assert.deepEqual(turnedBy(knob(0.82), 100, false)?.ops, [{ number: { at: [4, 8], to: 1 } }]);
  // What is beyond its bounds already may stay there, but goes no farther.
  assert.deepEqual(turnedBy(knob(1.5), 10, false)?.ops, [{ number: { at: [4, 8], to: 1.5 } }]);
  assert.deepEqual(turnedBy(knob(17, { kind: "hour", step: 0.5, bounds: [0, 24] }), 1, false)?.ops, [{ hour: { at: [4, 8], to: 17.5 } }]);
  assert.equal(turnedBy(knob(0, { kind: "color", value: [1, 0, 0] }), 1, false), null);
});

test("the angles of a cone come back from its cosines", () => {
  const chance = numbers(5);
  for (let n = 0; n < 200; ++n) {
    const outer = 2 + (chance.next().value as number) * 170;
    const inner = outer * (chance.next().value as number) * 0.95;
    const cos = (full: number) => Math.cos((full * Math.PI) / 360);
    const scale = 1 / (cos(inner) - cos(outer));
    const [a, b] = anglesOf([scale, -cos(outer) * scale]);
    assert.ok(Math.abs(a - inner) < 1e-6 && Math.abs(b - outer) < 1e-6, `${inner} ${a}, ${outer} ${b}`);
  }
});

test("a lamp points to the ground where it meets it, and its cone lies across", () => {
  const lamp = (at: Vec3, aim: Vec3, outer = 14): Standing => ({ at, base: at, aim, cone: null, candelas: [1, 1, 1], inner: 0.1, outer, falloff: 2, shadows: true });
  const down = axisOf(lamp([3, 6, 1], [0, -1, 0]));
  assert.deepEqual(down.middle.map((v) => Number(v.toFixed(9))), [3, 0, 1]);
  const level = axisOf(lamp([0, 2, 0], [0, 0, -1], 4));
  assert.deepEqual(level.middle, [0, 2, -4]);
  for (const { across } of [down, level]) assert.ok(Math.abs(Math.hypot(...across) - 1) < 1e-9);
  const along = axisOf(lamp([0, 2, 0], [1, 0, 0]));
  assert.ok(Math.abs(along.across[0]) < 1e-9);
});

test("a step stays between its neighbors, and takes relative ones along", () => {
  const line = (from: number, more: Partial<Script["lines"][number]> = {}) => ({ at: [from, from + 1] as [number, number], from, to: from, end: null, relative: false, text: "mark", ...more });
  const script: Script = { file: "a", name: "docking", at: [0, 9], lines: [line(0, { to: 1, end: [5, 7] }), line(2), line(3.5, { relative: true }), line(8)] };
  assert.deepEqual(roomOf(script.lines, 0), [0, 2]);
  assert.deepEqual(roomOf(script.lines, 1), [0, Infinity]);
  assert.deepEqual(roomOf(script.lines, 3), [3.5, Infinity]);
  assert.deepEqual(moved(script, { n: 3, end: false }, 1).ops, [{ time: { at: [8, 9], to: 3.5 } }]);
  assert.deepEqual(moved(script, { n: 0, end: true }, 1.5), { words: "docking: mark until 1.5s", ops: [{ number: { at: [5, 7], to: 1.5 } }] });
  assert.deepEqual(moved(script, { n: 0, end: true }, -2).ops, [{ number: { at: [5, 7], to: 0 } }]);
});

test("taps keep their times", () => {
  const taps: Tap[] = [{ from: 10, to: 10.12 }, { from: 10.5, to: 10.61 }, { from: 11.3, to: 11.3 }];
  assert.deepEqual(momentsOf(taps), [0, 0.5, 1.3]);
  assert.deepEqual(timesOf(taps), [{ on: 0.12, off: 0.38 }, { on: 0.11, off: 0.69 }, { on: 0.04, off: 0.61 }]);
  assert.equal(rhythmOf(taps), "rhythm(on 120ms, off 380ms, on 110ms, off 690ms, on 40ms, off 610ms)");
  const pulses = pulsesOf("taps_1", taps);
  assert.ok(pulses.includes("curve taps_1 {\n  0s 100%\n  120ms 0% jump\n  500ms 100% jump"), pulses);
  assert.ok(pulses.endsWith("  1.95s 100% jump\n}"), pulses);
  const chance = numbers(3);
  for (let n = 0; n < 200; ++n) {
    let at = 0;
    const any = Array.from({ length: 2 + (n % 6) }, (): Tap => {
      const from = at;
      at += 0.02 + (chance.next().value as number);
      return { from, to: from + (chance.next().value as number) * 2 };
    });
    for (const { on, off } of timesOf(any)) assert.ok(on >= 0.04 - 1e-9 && off >= 0.04 - 1e-9, `${on} ${off}`);
  }
});

test("lines are counted in bytes", () => {
  const text = "a\nü é\nb";
  assert.equal(lineAt(text, 0), 1);
  assert.equal(lineAt(text, 2), 2);
  assert.equal(lineAt(text, 8), 3);
});

test("no grip of a lamp covers another", () => {
  const chance = numbers(23);
  for (let n = 0; n < 200; ++n) {
    const placed: [number, number][] = [[100, 80]];
    for (const part of ["aim", "outer", "inner", "cone0", "cone1"]) {
      const wanted: [number, number] = [90 + 20 * (chance.next().value as number), 70 + 20 * (chance.next().value as number)];
      const found = apart(part, wanted, placed);
      for (const [x, y] of placed) assert.ok(Math.hypot(found[0] - x, found[1] - y) >= 18, `${part} ${found} ${placed}`);
      placed.push(found);
    }
  }
  // What is free stays where it is, and grips of other things are not moved.
  assert.deepEqual(apart("aim", [160, 80], [[100, 80]]), [160, 80]);
  assert.deepEqual(apart("height", [100, 80], [[100, 80]]), [100, 80]);
});

test("what a light is given has names of its own, and others can follow it", () => {
  const text = "signal sway = 1\n  signal inner = 2\nswitch power { starts on }\nlight flicker_1 point { intensity 1lm }\n";
  const sag = curve([[0, 1, null], [1, 0.8, null]]);
  const wide = curve([[0, 1, null]], { name: "two", columns: ["a", "b"] });
  const info = { texts: [{ name: "a", text, hash: "" }], curves: [sag, wide, curve([[0, 1, null]], { name: "day", domain: "hour" })] } as unknown as Info;
  assert.equal(freeName(info, "flicker"), "flicker_2");
  assert.equal(freeName(info, "switch"), "switch_1");
  assert.deepEqual(followed(info).map(({ by }) => by), ["sway", "power", "loop(sag)"]);
  assert.deepEqual(looped("lamp", "flicker_2")[1], { times: { of: "lamp", word: "intensity", by: "loop(flicker_2)" } });
  assert.ok(JSON.stringify(switched("lamp", "switch_1")[0]).includes("event switch_1_off, switch_1_on\\nswitch switch_1 {"));
});

function input(name: string, more: Partial<Input> = {}): Input {
  return { name, kind: "a number", parts: 1, default: [0], lo: 0, hi: 1, unit: "", set: "", many: false, count: 1, about: "", ...more };
}

test("values are written so that the same number is read", () => {
  const share = input("mist");
  assert.equal(valueText(share, [0.6]), "60%");
  assert.equal(valueText(input("season", { hi: 366 }), [324]), "324");
  assert.equal(valueText(input("depth", { kind: "a length", unit: "m", hi: 30 }), [2.5]), "2.5m");
  assert.equal(valueText(input("open", { kind: "on or off" }), [true]), "on");
  assert.equal(valueText(input("walker", { kind: "a point", unit: "m", parts: 3 }), [1, 1.7, -2]), "(1m, 1.7m, -2m)");
  assert.equal(valueText(input("hue", { kind: "a color", parts: 3 }), [1, 1, 1]), "#ffffff");
  const chance = numbers(29);
  for (let n = 0; n < 500; ++n) {
    const v = asRead(share, [Math.round((chance.next().value as number) * 1000) / 1000])[0] as number;
    assert.ok(valueText(share, [v]).endsWith("%"));
    const text = valueText(share, [v]);
    const read = text.endsWith("%") ? Number(`${text.slice(0, -1)}e-2`) : Number(text);
    assert.equal(read, v, text);
  }
});

test("what was done by hand is a rehearsal, in the order of time", () => {
  const info = {
    clock: { start: 17, rate: 1 },
    inputs: [input("mist"), input("quay.cock", { many: true, count: 12 })],
    choices: [{ name: "weather", set: "", options: ["fair", "overcast"], about: "" }],
    events: [
      { name: "docks", fire: "", count: null, values: [], fields: [], about: "" },
      { name: "rocket", fire: "", count: null, values: [1, 2, 3, 1, 1, 1], fields: [input("place", { kind: "a point", unit: "m", parts: 3, default: [1, 2, 3] }), input("tint", { kind: "a color", parts: 3, default: [1, 1, 1] })], about: "" },
      { name: "row.fault", fire: "", count: 4, values: [], fields: [], about: "" },
    ],
  } as unknown as Info;
  const deeds: Deed[] = [
    { at: 2.5, name: "docks" },
    { at: 3, name: "mist", values: [0.3] },
    { at: 3.04, name: "mist", values: asRead(input("mist"), [0.35]) },
    { at: 4, name: "rocket", given: [1, 2, 3, 1, 0, 0] },
    { at: 5, name: "row.fault", indices: [2] },
    { at: 5, name: "row.fault", indices: [0, 1, 2, 3] },
    { at: 6, name: "quay.cock", index: 3, values: [0.5] },
  ];
  const acts = { turned: new Map([["mist", new Map([[0, [0.2]]])]]), chosen: new Map([["weather", [{ at: 1.5, option: "overcast" }]]]), deeds, clock: { hour: 22.25, at: 0, held: false } };
  const { clock, lines } = takeOf(info, acts);
  assert.equal(
    rehearsalText("take_1", clock, lines, 7),
    "\nrehearsal take_1 {\n  clock 22:15\n  0s mist = 20%\n  1.5s weather = overcast\n  2.5s docks\n  3s mist = 30%\n  3.04s mist = 35%\n  4s rocket(tint #ff0000)\n  5s row[2].fault\n  5s row.fault\n  6s quay[3].cock = 50%\n  7s end\n}",
  );
  // On a grid the last value of a step counts; nothing else is lost, and the order of what is left stays.
  assert.deepEqual(tidied(lines, 0.5).map(({ at, text }) => `${at} ${text}`), ["0 mist = 20%", "1.5 weather = overcast", "2.5 docks", "3 mist = 35%", "4 rocket(tint #ff0000)", "5 row[2].fault", "5 row.fault", "6 quay[3].cock = 50%"]);
  assert.equal(indexed("quay.core.cock", 2), "quay[2].core.cock");
  assert.deepEqual(movedInputs(info, deeds), []);
});

test("a movement as a curve stays within its tolerance", () => {
  const mist = input("mist", { lo: 0, hi: 2 });
  const chance = numbers(31);
  const deeds: Deed[] = Array.from({ length: 120 }, (_, n) => ({ at: 3 + n / 30, name: "mist", values: [1 + Math.sin(n / 9) * 0.8 + 0.05 * (chance.next().value as number)] }));
  const points = movement(deeds, mist, 0);
  assert.equal(points[0]!.x, 0);
  assert.equal(points.length, 120);
  let last = Infinity;
  for (const tolerance of [0.01, 0.05, 0.2]) {
    const { text, stops } = movedCurve("c", mist, points, tolerance);
    assert.ok(stops >= 2 && stops <= last);
    last = stops;
    const read = [...text.matchAll(/^ {2}([\d.]+)s ([\d.]+)(%?)$/gm)].map(([, at, v, unit]) => ({ x: Number(at), y: Number(v) / (unit ? 100 : 1) }));
    assert.equal(read.length, stops);
    for (const { x, y } of points) {
      const next = Math.max(1, read.findIndex((p) => p.x >= x));
      const [a, b] = [read[next - 1]!, read[next]!];
      const line = a.y + ((x - a.x) / (b.x - a.x)) * (b.y - a.y);
      assert.ok(Math.abs(line - y) <= tolerance * 2 + 1e-9, `${x}: ${line} ${y}`);
    }
  }
});

test("what a lane shows is expected with room", () => {
  const lane = (level: number[], unit: string, more: object = {}) =>
    ({ light: { name: "mast", kind: "spot", spark: false }, value: { name: "", level: "intensity", part: null, unit, ...more }, level: new Float32Array(level), lamps: 2, columns: 2, done: 2 }) as unknown as Parameters<typeof expectation>[0];
  assert.equal(expectation(lane([2500, 0, 2600, 0], "lm"), 0.1), "mast.intensity above 2000lm");
  assert.equal(expectation(lane([2500, 0, 2600, 0], "lm"), 0.6), "mast.intensity below 260lm");
  assert.equal(expectation(lane([0.5, 1, 0.5, 1], ""), 0.1), "mast.intensity above 40%");
  assert.equal(expectation(lane([1, 1, 1, 1], "m", { part: 1 }), 0.1), null);
});

test("variants change only what they say, within bounds", () => {
  const chance = numbers(37);
  const next = () => chance.next().value as number;
  const six = seeds("mast", next);
  assert.equal(new Set(six.map(({ label }) => label)).size, 6);
  for (const { ops } of six) assert.ok("seed" in ops[0]! && ops[0].seed.of === "mast" && Number.isInteger(ops[0].seed.to) && ops[0].seed.to <= 4294967295);
  const knob = (value: number, path: string[], more: Partial<Knob> = {}): Knob => ({ file: "a", at: [0, 4], text: "", kind: "number", unit: "lm", base: "lm", size: 1, value, bounds: [0, 1000], step: 2, path, ...more });
  const all = [knob(600, ["mast", "intensity"]), knob(0.2, ["mast", "intensity", "buzz"], { at: [9, 12], bounds: [0, 1], step: 0.002 }), knob(3, ["mast", "reach"]), knob(5, ["mast", "intensity"], { file: null }), knob(1, ["other"]), knob(0, ["mast", "intensity"])];
  const some = varied(all, "mast");
  assert.deepEqual(some.map(({ value }) => value), [600, 0.2]);
  for (let n = 0; n < 50; ++n) {
    for (const { ops } of neighbors(some, 0.3, next)) {
      for (const op of ops) {
        assert.ok("number" in op);
        const from = op.number.at[0] === 0 ? 600 : 0.2;
        assert.ok(Math.abs(op.number.to / from - 1) <= 0.3 + 0.01, String(op.number.to));
      }
    }
  }
  assert.deepEqual(stocked("mast", [{ name: "gas_mantle", parameters: "", about: "x" }])[0]!.ops, [{ use: { file: "stock" } }, { times: { of: "mast", word: "intensity", by: "gas_mantle()" } }]);
});

test("messages of controllers are read, and others ignored", () => {
  assert.deepEqual(meaningOf([0xb2, 7, 127]), { from: "control 2 7", value: 1 });
  assert.deepEqual(meaningOf([0xb0, 1, 0]), { from: "control 0 1", value: 0 });
  assert.deepEqual(meaningOf([0x90, 36, 100]), { from: "key 0 36", value: null });
  // A key that is pressed without force is let go.
  for (const other of [[0x90, 36, 0], [0x80, 36, 64], [0xe0, 0, 64], [0xf8], []]) assert.equal(meaningOf(other), null);
});

const close = (a: ArrayLike<number>, b: ArrayLike<number>, by = 1e-6) => Array.from(a).every((v, n) => Math.abs(v - b[n]!) < by);

/** A place with a wall and two posts. */
const solids: Solids = {
  walls: [{ name: "w", from: [-3, 0, -2], to: [2, 0, -4], top: 2.5 }],
  posts: [
    { name: "p", index: 0, at: [2, 0, 1], radius: 0.6, top: 1.5 },
    { name: "p", index: 1, at: [-2, 0, 3], radius: 0.3, top: 4 },
  ],
};

/** A lens of each kind, that of the eye at random. */
function lenses(next: () => number): Lens[] {
  const at: Vec3 = [next() * 12 - 6, 0.3 + next() * 6, 5 + next() * 4];
  const eye = cameraOf({ at, toward: [next() * 4 - 2, next() * 3, next() * 3 - 2], field: 30 + next() * 90 });
  return [{ kind: "above" }, { kind: "front", back: -20, front: 20 }, { kind: "eye", eye }];
}

test("what is seen at a point of the picture is drawn there, and what lies beside it beside it", () => {
  const chance = numbers(41);
  const next = () => chance.next().value as number;
  let seen = 0;
  for (let n = 0; n < 400; ++n) {
    for (const lens of lenses(next)) {
      const scale = lens.kind === "eye" ? 0.8 : 8;
      const [x, y] = [(next() - 0.5) * scale, (next() - 0.5) * scale];
      const surface = surfaceAt(lens, solids, [], x, y);
      if (!surface || Math.hypot(...surface.at) > 50) continue;
      seen += 1;
      // Walls and posts stand a centimeter before themselves, so that they are not in their own shadow.
      assert.ok(close(onPlane(lens, surface.at)!, [x, y], 0.03), `${lens.kind} ${x} ${y} ${surface.at}`);
      assert.ok(Math.abs(Math.hypot(...surface.faces) - 1) < 1e-9);
      const beside: Vec3 = [0, 0, 0];
      slid(lens, surface.at, surface.faces, 0.002, -0.003, beside);
      // It stays in the plane of the surface and moves as it is asked to.
      if (lens.kind === "eye" || surface.faces[1] > 0.5) assert.ok(Math.abs(dot(plus(beside, surface.at, -1), surface.faces)) < 1e-9);
      const [bx, by] = onPlane(lens, beside)!;
      const [ax, ay] = onPlane(lens, surface.at)!;
      assert.ok(close([bx - ax, by - ay], [0.002, 0.003], 2e-4), `${lens.kind} ${bx - ax} ${by - ay}`);
    }
  }
  assert.ok(seen > 500, String(seen));
});

test("a ball lies within its bounds, and an eye sees nothing behind it", () => {
  const chance = numbers(43);
  const next = () => chance.next().value as number;
  for (let n = 0; n < 300; ++n) {
    for (const lens of lenses(next)) {
      const middle: Vec3 = [next() * 16 - 8, next() * 5, next() * 20 - 12];
      const radius = 0.2 + next() * 3;
      const bounds = boundsOf(lens, middle, radius);
      for (let k = 0; k < 20; ++k) {
        const way = sized([next() - 0.5, next() - 0.5, next() - 0.5]);
        const on = onPlane(lens, plus(middle, way, radius * next()));
        if (!on) continue;
        assert.ok(bounds, "what is drawn has bounds");
        const [left, right, low, high] = bounds;
        assert.ok(on[0] >= left - 1e-9 && on[0] <= right + 1e-9 && on[1] >= low - 1e-9 && on[1] <= high + 1e-9, `${lens.kind}`);
      }
    }
  }
  const eye = cameraOf({ at: [0, 1, 0], toward: [0, 1, -5], field: 90 });
  assert.equal(onPlane({ kind: "eye", eye }, [0, 1, 2]), null);
  assert.deepEqual(onPlane({ kind: "eye", eye }, [2, 2, -2])!.map((v) => Math.round(v * 1e9) / 1e9), [1, 0.5]);
});

test("an eye turns about itself, walks on the level, and shows what it covers", () => {
  const eye = { name: "e", at: [1, 1.7, 4] as Vec3, toward: [1, 1.7, -6] as Vec3, field: 90, fog: null, sky: null };
  assert.ok(close(turned(eye, 90, 0), [11, 1.7, 4]), "to the right");
  assert.ok(close(turned(eye, 0, 30), [1, 1.7 + 5, 4 - 10 * Math.cos(Math.PI / 6)]), "up");
  // The distance stays, and there and back is where it was, short of the zenith.
  const chance = numbers(47);
  for (let n = 0; n < 200; ++n) {
    const [right, up] = [chance.next().value! * 300 - 150, chance.next().value! * 160 - 80];
    const to = turned(eye, right, up);
    assert.ok(Math.abs(Math.hypot(...plus(to, eye.at, -1)) - 10) < 1e-9);
    assert.ok(close(turned({ ...eye, toward: to }, -right, -up), eye.toward, 1e-6));
  }
  assert.ok(turned(eye, 0, 400)[1] < 1.7 + 10, "never over the zenith");
  const camera = cameraOf({ ...eye, toward: [4, 5, 0] });
  const ahead = stepped(camera, [0, 0, -1]);
  assert.ok(Math.abs(ahead[1]) < 1e-12 && Math.abs(Math.hypot(...ahead) - 1) < 1e-9 && dot(ahead, camera.ahead) > 0);
  assert.ok(close(stepped(camera, [0, 2, 0]), [0, 2, 0]) && Math.abs(dot(stepped(camera, [1, 0, 0]), camera.ahead)) < 1e-9);
  // At 90 degrees as far to each side as ahead.
  const [left, own, right] = wedge(eye, 3);
  assert.ok(close(own!, eye.at) && close(left!, [-2, 1.7, 1]) && close(right!, [4, 1.7, 1]));
});
