// The page: it shows the book as it is, computes with the exported code, so that what moves here is what ships, and
// writes what hands do back into the text.

import { render } from "preact";
import { App } from "./app";
import type { Eye, Info, Lamp, Module, Notice, OutputValue, Run, Text, Vec3 } from "./book";
import { type Command, CommandList, keyName } from "./commands";
import { Controls, words } from "./controls";
import { CurvePanel } from "./curve";
import { $, element, pressed } from "./dom";
import { fileOf, freeName } from "./feeds";
import { GalleryDialog, type Way } from "./gallery";
import { Handles } from "./handles";
import { Hands, type Op } from "./hands";
import { Hints } from "./hints";
import { HistoryDialog, RefusedDialog } from "./history";
import { Pictures } from "./hung";
import { Kept } from "./kept";
import { Differing, type Other, OthersDialog } from "./others";
import { KnobPanel } from "./knobs";
import { Midi } from "./midi";
import { hourText, plain, snapped } from "./number";
import { Panes } from "./panes";
import { type Drawn, lampOf, toBook } from "./lamp";
import { type Air, EIGHTY, Place, type View } from "./place";
import { Player } from "./player";
import { Lane, type Sampled, type Visible, expectation, short } from "./sheet";
import { Sounds } from "./sounds";
import { copied, moduleAt } from "./reach";
import { TakeDialog } from "./takes";
import { type Tap, TapDialog, type Use, momentsOf, pulsesOf, rhythmOf } from "./taps";
import { TextPane } from "./text";
import { Timeline } from "./timeline";

const meta = (name: string) => document.querySelector<HTMLMetaElement>(`meta[name="${name}"]`)?.content ?? "";
const hands = new Hands(meta("caltrin-key"), (words, wrong) => status(words, wrong));
const app = new App(hands);
const place = new Place($<HTMLCanvasElement>("canvas"));
/** A, drawn over the place. */
const before = new Place($<HTMLCanvasElement>("canvas-a"));
const handles = new Handles(app, place, $("view-box"));
const sounds = new Sounds();
const set = { playing: true, speed: 1, span: 20, names: true };
const controls = new Controls(app, { again, expose, relane });
const timeline = new Timeline(
  app,
  controls.channels,
  (share) => {
    if (!span) return;
    play(false);
    app.now = span.from + share * (span.to - span.from);
  },
  (from, to) => {
    if (!span) return;
    const at = (share: number) => snapped(span!.from + share * (span!.to - span!.from), 0.01);
    between(at(from), at(to));
  },
  () => controls.rehearsed,
  (light, share) => span && expectAt(light, span.from + share * (span.to - span.from)),
);
const hints = new Hints();
const midi = new Midi($("inputs"), status);
const text = new TextPane(app, $("text"), $("files"), meta("caltrin-key"), meta("caltrin-nonce"));
let panes: Panes | null = null;
/** The visual range of fog of which an output gives 100%, in meters. */
const THICK = 50;
const pictures = new Pictures();
let run: Run | null = null;
let looking: Run | null = null;
let lamps = new Map<string, Lamp[]>();
let at: number | null = null;
/** The last moment that was shown. */
let played = 0;
let span: Visible | null = null;
let work: Sampled[] = [];
let fine = false;
/** The version that is kept as A, and whether the place shows it. */
let kept: Kept | null = null;
/** What the place shows: B, A, or A on the left of B. */
let shows: "a" | "b" | "split" = "b";
/** Where A ends in a split place, in hundredths of its width. */
let divider = 50;
let lampsBefore = new Map<string, Lamp[]>();
/** The span of time that is repeated; the visible one if there is no other. */
let loop: Visible | "visible" | null = null;
/** The kind of light that the next click into the place makes. */
let adding: string | null = null;

function status(words: string, wrong: boolean) {
  $("status").textContent = words;
  $("status").className = wrong ? "wrong" : "";
}

/** Begins all pictures again, after a change of the book, another seed or another input; coarse first. */
function again() {
  if (!app.player) return;
  controls.forgetNotices();
  run = app.player.fresh();
  looking = app.player.fresh();
  fine = false;
  kept?.again();
  for (const lane of timeline.lanes) {
    if (lane instanceof Lane) lane.before = kept?.levels(lane.light, lane.value) ?? null;
    lane.clear(120);
  }
  work = [...timeline.lanes];
  marks();
  if (kept) tellDiffering();
}

function expose() {
  place.exposure = 0;
}

function relane() {
  timeline.build();
  again();
  timeline.measure();
}

/** The ruler, with flags where the game does something. */
function marks() {
  const { info, player } = app;
  if (!span || !info || !player) return;
  const flags = player.deeds.map((deed) => {
    const { at, name = "", choice, option, hour, values } = deed;
    if (choice) return { at, name: `${choice} ${option}` };
    if (hour !== undefined) return { at, name: hourText(hour) };
    const input = values && info.inputs.find((one) => one.name === name);
    return { at, name: input && values ? `${name} ${words(input, values)}`.trimEnd() : name };
  });
  timeline.rule(span, flags, loop === "visible" ? null : loop);
}

function read(): Drawn[] {
  const { info, player } = app;
  if (!info || !player || !run) return [];
  return readOf(info, player.book, run, lamps);
}

/** Draws A over B, or over a part of it. */
function drawA() {
  if (!kept || shows === "b") return;
  kept.playTo(kept.run, app.now);
  before.like(place, kept.info.solids, kept.hung);
  before.air = airOf(kept.info, kept.book, kept.run);
  before.draw(readOf(kept.info, kept.book, kept.run, lampsBefore), set.names);
}

/** The lamps of a book as they are in a run. */
function readOf(info: Info, book: Module, run: Run, lamps: Map<string, Lamp[]>): Drawn[] {
  const all: Drawn[] = [];
  for (const light of info.lights) {
    if (light.kind === "output" || !timeline.shows(light)) continue;
    let own = lamps.get(light.name);
    if (!own) {
      own = Array.from({ length: light.lamps }, () => (light.array ? book[light.read](run, 0) : book[light.read](run)));
      lamps.set(light.name, own);
    }
    if (light.array) book[light.fill](run, 0, own);
    else book[light.read](run, own[0]);
    const other = previewed?.light === light.name && span ? previewed : null;
    if (other) {
      const at = Math.min(other.level.length - 1, Math.max(0, Math.floor(((app.now - span!.from) / set.span) * other.level.length)));
      const { intensity, color } = light.fields;
      for (const lamp of own) {
        if (intensity) lamp[intensity] = other.level[at]!;
        if (color) lamp[color] = [...other.color[at]!];
      }
    }
    own.forEach((lamp, index) => {
      const made = lampOf(light, lamp, info.space);
      // A spark that does not live is not there.
      if (!made || (light.spark && made.candelas.every((v) => v === 0))) return;
      const name = index === 0 ? light.name + light.size : "";
      all.push({ key: `${light.name}/${index}`, light: light.name, index, spark: light.spark, lamp: made, name });
    });
  }
  return all;
}

/** What the eye that is looked through sees besides surfaces. */
function airOf(info: Info, book: Module, run: Run): Air {
  const eye = place.view === "eye" ? info.eyes.find(({ name }) => name === place.eye?.name) : null;
  const value = (of: OutputValue | null | undefined) => (of ? (book[of.read](run)[of.field] as number | Vec3) : null);
  const color = (of: OutputValue | null | undefined, without: Vec3) => (value(of) as Vec3 | null) ?? without;
  const thick = value(eye?.fog?.range) as number | null;
  const range = thick === null ? null : eye!.fog!.range.length ? thick * info.space.unit : THICK / Math.max(thick, 1e-6);
  return { range, tint: color(eye?.fog?.color, [1, 1, 1]), sky: color(eye?.sky, [0, 0, 0]) };
}

function frame(time: number) {
  requestAnimationFrame(frame);
  const passed = at === null ? 0 : Math.min(0.25, (time - at) / 1000);
  at = time;
  const { info, player } = app;
  // A change that is being taken has the machine to itself.
  if (!info || !player || !run || !looking || taking > 0) return;
  if (set.playing) app.now += passed * set.speed;
  const repeated = loop === "visible" ? span : loop;
  if (repeated && set.playing && app.now >= repeated.to) app.now = repeated.from + ((app.now - repeated.to) % (repeated.to - repeated.from));
  const from = Math.floor(app.now / set.span + 1e-9) * set.span;
  if (!span || span.from !== from || span.to !== from + set.span) {
    span = { from, to: from + set.span };
    again();
  }
  // Back in time everything is sent again.
  if (app.now < played) controls.forgetNotices();
  played = app.now;
  player.playTo(run, app.now);
  const take = player.book.takeNotice;
  if (take) {
    const heard: Notice[] = [];
    for (let notice = take(run); notice; notice = take(run)) heard.push(notice);
    controls.hear(heard);
    if (heard.length && set.playing) sounds.tick();
  }
  sounds.follow(player.book, run, app.now, set.playing);
  const seen = read();
  place.air = airOf(info, player.book, run);
  place.include(seen);
  place.paced(passed);
  place.draw(seen, set.names);
  drawA();
  handles.follow(seen);
  // The lanes take what is left of the frame.
  const until = performance.now() + (fine && set.playing ? 6 : 32);
  const book = { ...player.book, advance: (run: Run, to: number) => player.playTo(run, to) } as Module;
  // Lanes that are not seen wait until they are.
  const next = () => work.findIndex((lane) => timeline.seen.has(lane.canvas));
  let first = next();
  while (first >= 0 && performance.now() < until) {
    const lane = work[first]!;
    const more = lane.sample(book, looking, span, until);
    lane.draw();
    if (!more) work.splice(first, 1);
    timeline.tell(lane);
    first = next();
  }
  if (first < 0 && !fine && timeline.seen.size) {
    fine = true;
    document.body.dataset.drawn = String(info.good);
    for (const lane of timeline.lanes) {
      const columns = Math.min(700, Math.max(160, lane.canvas.clientWidth));
      if (columns > lane.columns) {
        lane.clear(columns);
        work.push(lane);
      }
    }
  }
  tell();
}

let told = "";
let exposed = -1;
function tell() {
  const words = `${short(Math.floor(app.now * 10) / 10)} s`;
  if (words !== told) $("now").textContent = told = words;
  controls.tellHour();
  if (span) {
    timeline.playhead((app.now - span.from) / set.span);
    timeline.steps.put(span);
  }
  if (place.exposure !== exposed) {
    exposed = place.exposure;
    $("exposure").textContent = exposed > 0 ? `exposure: ${short(1.609438 / exposed)} lx at 80%` : "";
  }
  // For whoever looks on from outside: how many frames there were, and the moment shown.
  const page = window as unknown as { caltrin?: { frames: number } };
  page.caltrin = { frames: (page.caltrin?.frames ?? 0) + 1, ...{ now: app.now, heard: sounds.heard(), painted: place.size(), bright: EIGHTY / place.exposure } };
}

controls.hour = () => (app.player && run ? app.player.book.clockHour(run) : 0);

/** Takes what the server tells of the book. A book with errors leaves the last good version. */
async function follow(next: Info) {
  $("told").hidden = !next.told;
  $("told").className = next.errors ? "" : "warnings";
  $("told").replaceChildren(
    element("b", { textContent: next.errors ? `${next.errors} error${next.errors === 1 ? "" : "s"}: the last good version is shown` : "Warnings" }),
    element("pre", { textContent: next.told }),
  );
  if (next.unwritten) status(next.unwritten, true);
  const before = app.info;
  const same = next.good === null || (before !== null && app.player !== null && before.run === next.run && before.good === next.good);
  const loaded: Module | null = same ? null : await import(moduleAt(`/book.mjs?v=${next.run}-${next.good}`));
  for (const curve of next.curves) {
    const shape = (column: string | undefined) => next.shapes?.[column === undefined ? curve.name : `${curve.name}.${column}`] ?? [];
    const samples = (curve.columns.length ? curve.columns : [undefined]).map(shape);
    if (samples.every((column) => column.length > 1)) curve.samples = samples;
  }
  app.info = next;
  panes ??= new Panes(`${next.folder}/${next.texts[0]?.name ?? ""}`, measure);
  for (const [id, can] of [["undo", next.undo], ["redo", next.redo]] as const) $<HTMLButtonElement>(id).disabled = !can || next.readOnly;
  $("saved").textContent = next.readOnly ? "read-only" : next.waiting ? "writing" : "written";
  document.body.dataset.version = String(next.version);
  app.changed("book");
  if (!loaded) return;
  app.player = Player.following(app.player, next, loaded);
  lamps = new Map();
  sounds.take(next.sounds, `${next.run}-${next.good}`);
  $("sound").hidden = !sounds.any && !app.player.book.takeNotice;
  document.title = `${next.name} - Caltrin`;
  $("name").textContent = next.name;
  $("name").title = next.name;
  if (app.player.seed === null) $<HTMLInputElement>("seed").value = String(next.seed);
  controls.followRehearsal();
  // Lanes and controls stay as they are while only numbers change.
  const shape = (info: Info) => JSON.stringify([info.lights, info.inputs, info.events, info.choices, info.bands, info.sounds.map(({ name }) => name), info.rehearsals.map(({ name }) => name), info.clock], (key, value) => (key === "bounds" || key === "end" ? undefined : value));
  const alike = before !== null && before.lights !== undefined && timeline.lanes.length > 0 && shape(before) === shape(next);
  if (alike) timeline.refresh();
  else {
    timeline.build();
    controls.build();
  }
  const exposure = place.exposure;
  run = app.player.fresh();
  app.player.playTo(run, app.now);
  place.frame(next.solids, read().filter(({ spark }) => !spark).map(({ lamp }) => lamp), await pictures.of(next.backdrops), next.eyes);
  tellView();
  // A change must not change how bright the page is.
  if (exposure > 0) place.exposure = exposure;
  again();
  measure();
  document.body.dataset.good = String(next.good);
  if (app.free) hints.show();
}

let following: Promise<void> = Promise.resolve();
let taking = 0;
let latest: Info | null = null;
/** The server leaves out what it has sent before. */
function whole(told: Info): Info {
  const texts = told.texts.map((text) => ({ ...text, text: text.text ?? latest?.texts.find(({ name }) => name === text.name)?.text ?? "" }));
  return (latest = { ...latest, ...told, texts });
}

function followed(event: MessageEvent<string>) {
  const next = whole(JSON.parse(event.data) as Info);
  taking += 1;
  following = following
    .then(() => follow(next))
    .catch((why: Error) => link(`cannot follow: ${why.message}`, true))
    .finally(() => {
      taking -= 1;
    });
}

function link(words: string, lost: boolean) {
  $("link").textContent = words;
  $("link").className = lost ? "lost" : "";
}

/** Shows what a page that was copied has with it. */
function show({ state, opens }: NonNullable<typeof copied>) {
  link("offline copy", false);
  const list = $<HTMLSelectElement>("span");
  set.span = opens.span;
  if (![...list.options].some(({ value }) => Number(value) === opens.span)) list.append(new Option(`${short(opens.span)} s`, String(opens.span)));
  list.value = String(opens.span);
  app.now = opens.at;
  loop = { from: opens.at, to: opens.at + opens.span };
  controls.rehearsed = opens.rehearsal ?? "";
  void follow(state).then(() => {
    if (loop && loop !== "visible") between(loop.from, loop.to);
    if (opens.seed !== null) seed(opens.seed);
    const eye = state.eyes.find(({ name }) => name === opens.eye);
    look(eye ? "eye" : opens.view, eye);
    controls.followRehearsal();
    controls.build();
    relane();
  });
}

function connect() {
  const events = new EventSource("/events");
  events.onopen = () => link("reloads on save", false);
  events.addEventListener("saved", followed);
  events.onerror = () => link("connection lost, reconnecting", true);
}

function measure() {
  timeline.measure();
  marks();
}

function play(on: boolean) {
  set.playing = on;
  $("play").textContent = on ? "Pause" : "Play";
  pressed($("play"), on);
}

function seed(next: number) {
  if (!app.player) return;
  app.player.seed = next;
  $<HTMLInputElement>("seed").value = String(next);
  again();
}

const draw = () => seed(Math.floor(Math.random() * 4294967296));
function tellView() {
  $("view").textContent = place.view === "eye" ? `Through ${place.eye?.name}` : place.view === "above" ? "From above" : "From the front";
}
function look(view: View, eye: Eye | null = null) {
  place.view = view;
  place.eye = eye;
  tellView();
  place.exposure = 0;
  place.resize();
}
/** From above, from the front, then through each eye of the book. */
const view = () => {
  const eyes = app.info?.eyes ?? [];
  if (place.view === "above") return look("front");
  const next = place.view === "front" ? eyes[0] : eyes[eyes.findIndex(({ name }) => name === place.eye?.name) + 1];
  look(next ? "eye" : "above", next);
};
const names = () => {
  set.names = !set.names;
  pressed($("names"), set.names);
};
const listen = () => {
  sounds.on = !sounds.on;
  pressed($("sound"), sounds.on);
};
function repeats(next: typeof loop) {
  loop = next;
  pressed($("loop"), loop !== null);
  $("loop").textContent = loop && loop !== "visible" ? `Repeat ${short(loop.from)}..${short(loop.to)} s` : "Repeat";
  marks();
}
const repeat = () => repeats(loop ? null : "visible");
/** Repeats a span of time. */
function between(from: number, to: number) {
  repeats(to - from > 0.01 ? { from, to } : null);
  if (loop && loop !== "visible" && (app.now < from || app.now > to)) app.now = from;
}
/** Sets one end of the repeated span to the moment that is shown. */
function loopEnd(end: "from" | "to") {
  const now = snapped(app.now, 0.01);
  const other = loop && loop !== "visible" ? loop : { from: 0, to: span?.to ?? now + 1 };
  if (end === "from") between(now, Math.max(other.to, now + 0.1));
  else between(Math.min(other.from, now - 0.1), now);
}

/** The next click into the place makes a light of a kind. */
function placeLight(kind: string | null) {
  adding = kind;
  $("view-box").classList.toggle("adding", kind !== null);
  $<HTMLSelectElement>("add").value = kind ?? "";
  if (kind) status(`click into the place where the ${kind}${["wall", "post", "eye"].includes(kind) ? "" : " light"} is to stand: writes a declaration at the end of the book; Escape ends`, false);
}

function addLight(kind: string, at: Vec3) {
  const { info } = app;
  if (!info?.texts[0]) return;
  const grid = handles.grid || 0.1;
  const point = (p: Vec3) => `(${toBook(info.space, p).map((v) => `${plain(snapped(v, grid), 6)}m`).join(", ")})`;
  const exact = (p: Vec3) => `(${toBook(info.space, p).map((v) => `${plain(snapped(v, 0.01), 6)}m`).join(", ")})`;
  let [name, declaration, words] = ["", "", ""];
  if (kind === "wall") {
    name = freeName(info, "wall");
    declaration = `\nwall ${name} { along ${point([at[0], 0, at[2]])}..${point([at[0] + 4, 0, at[2]])}; height 3m }`;
    words = `${name}: wall added`;
  } else if (kind === "post") {
    name = freeName(info, "post");
    declaration = `\npost ${name} { position ${point([at[0], 0, at[2]])}; radius 30cm; height 2m }`;
    words = `${name}: post added`;
  } else if (kind === "eye") {
    name = freeName(info, "eye");
    const { lo, hi } = place.box!;
    const middle: Vec3 = [(lo[0] + hi[0]) / 2, 1.7, (lo[2] + hi[2]) / 2];
    const far = Math.hypot(middle[0] - at[0], middle[2] - at[2]);
    const toward = far > 1 ? middle : ([at[0], 1.7, at[2] - 5] as Vec3);
    // Eyes of a standing player, 1.7 m over the ground.
    declaration = `\neye ${name} { at ${exact([at[0], 1.7, at[2]])}; toward ${exact(toward)}; field 70deg }`;
    words = `${name}: eye added`;
  } else {
    name = freeName(info, "lamp");
    const strong = kind === "point" || kind === "area" ? "600lm" : "400cd";
    const aim = kind === "spot" ? `\n  aim        ${point([0, -1, 0])}\n  cone       20deg..60deg` : "";
    declaration = `\nlight ${name} ${kind} {\n  position   ${point(at)}${aim}\n  reach      10m\n  color      2700K\n  intensity  ${strong}\n}`;
    words = `${name}: ${kind} light added`;
  }
  hints.done("view");
  void app.do(info.texts[0].name, words, [{ declaration: { text: declaration, after: null } }]).then((done) => done && app.select(name));
}

$("canvas").onpointerdown = (event) => adding === null && handles.turns(event);
$("canvas").onclick = (event) => {
  if (!adding || !place.window) return;
  const at = place.pointAt(event.offsetX, event.offsetY);
  if (!at) return status("click on the ground or on a wall", true);
  // On the ground 3 m over it, else where it is seen.
  addLight(adding, at[1] === 0 ? [at[0], 3, at[2]] : at);
  placeLight(null);
};
$<HTMLSelectElement>("add").onchange = (event) => placeLight((event.currentTarget as HTMLSelectElement).value || null);

/** The file with the declaration of what is selected. */
function selectedIn(): { name: string; file: string } | null {
  const name = app.selected?.name;
  const file = app.info?.texts.find(({ text }) => new RegExp(`^(light|wall|post|eye|spark|place|output) ${name}\\b`, "m").test(text));
  if (name && file) return { name, file: file.name };
  status("select a light, wall or post of the book first", true);
  return null;
}

function duplicate() {
  const own = selectedIn();
  const { info } = app;
  if (!own || !info) return;
  const copy = freeName(info, own.name.replace(/_\d+$/, ""));
  const by = toBook(info.space, [1, 0, 0]);
  void app.do(own.file, `${copy}: copy of ${own.name}`, [{ duplicate: { name: own.name, copy, by } }]).then((done) => done && app.select(copy));
}

function removeSelected() {
  const own = selectedIn();
  if (!own) return;
  app.select(null);
  void app.do(own.file, `${own.name}: removed`, [{ remove_declaration: { name: own.name } }]);
}

/** Taps of a key in time. They are kept when none comes for a while. */
let taps: Tap[] = [];
let tapping: ReturnType<typeof setTimeout> | undefined;
const PAUSE = 1500;
function tap() {
  const now = performance.now() / 1000;
  taps.push({ from: now, to: now });
  clearTimeout(tapping);
  status(taps.length > 1 ? `${taps.length} taps: ${rhythmOf(taps)}` : "tap t in time, and hold it for as long as it is on", false);
}
function tapEnds() {
  const last = taps.at(-1);
  if (!last) return;
  last.to = performance.now() / 1000;
  clearTimeout(tapping);
  tapping = setTimeout(() => {
    const kept = taps;
    taps = [];
    if (kept.length > 1 && app.free) render(<TapDialog app={app} taps={kept} uses={usesOf(kept)} closes={closeDialog} />, dialogs);
  }, PAUSE);
}

/** What taps can become. */
function usesOf(taps: Tap[]): Use[] {
  const { info } = app;
  const book = info?.texts[0]?.name ?? "";
  const uses: Use[] = [];
  const light = info?.lights.find(({ name, kind }) => name === app.selected?.name && kind !== "output");
  const file = light && info && fileOf(info, light.name);
  if (light && file) {
    uses.push({ label: `Multiply the intensity of ${light.name}`, file, words: `${light.name}: ${taps.length} taps as a rhythm`, ops: [{ times: { of: light.name, word: "intensity", by: rhythmOf(taps) } }] });
  }
  const curve = info?.curves.find(({ name, domain }) => name === app.curve && domain === "time");
  if (curve?.stops.length) {
    const first = curve.stops[0]!;
    const taken = new Set(curve.stops.map(({ position }) => position.toFixed(3)));
    const ops = momentsOf(taps).flatMap((at): Op[] => {
      const like = curve.stops.findLast(({ position }) => position <= at) ?? first;
      return taken.has(at.toFixed(3)) ? [] : [{ add_stop: { curve: curve.name, position: at, values: like.values.map(({ text }) => text), easing: null } }];
    });
    if (ops.length) uses.push({ label: `Add ${ops.length} stops to ${curve.name}`, file: curve.file, words: `${curve.name}: ${ops.length} tapped stops added`, ops });
  }
  const name = info ? freeName(info, "taps") : "taps";
  uses.push({ label: `New curve ${name}`, file: book, words: `${name}: curve of ${taps.length} taps added`, ops: [{ declaration: { text: pulsesOf(name, taps), after: null } }] });
  return uses;
}

/** Opens a curve: of those that feed what is selected the next one, else of all. */
async function openCurve() {
  const of = app.selected && (await app.knobs(app.selected.name))?.curves;
  const all = of?.length ? of : (app.info?.curves ?? []).map(({ name }) => name);
  const next = all[(all.indexOf(app.curve ?? "") + 1) % Math.max(1, all.length)];
  if (next) app.open(next);
  else status("the book has no curve", true);
}

const dialogs = $("dialogs");
const closeDialog = () => render(null, dialogs);

/** Keeps the book as it is as A, or lets it go. */
function keepA() {
  const { info, player } = app;
  if (kept || !info || !player) return takeA(null);
  void pictures.of(info.backdrops).then((hung) => takeA(new Kept(info, player.book, () => app.player!, hung)));
}

/** Takes a version as A; null for none. */
function takeA(next: Kept | null) {
  kept = next;
  shows = "b";
  lampsBefore = new Map();
  again();
  tellKept();
  const words = next?.name ? `A is ${next.name}` : "kept as A";
  status(next ? `${words}: lanes show both, f flicks the place between A and B, p splits it` : "A is let go", false);
}

/** Offers versions of git and other books as A. */
const others = () => render(<OthersDialog take={(other) => void takeOther(other)} closes={closeDialog} />, dialogs);

async function takeOther(other: Other) {
  const { info } = app;
  const told = await hands.compared<{ name: string; module: string; about: Info; texts: Text[] }>("/other", other);
  if (!told || !info) return;
  const module = (await import(told.module)) as Module;
  const hung = await pictures.of(told.about.backdrops, info.backdrops);
  const own = { ...info, ...told.about, texts: told.texts };
  takeA(new Kept(own, module, () => app.player!, hung, told.name, "book" in other ? other.book : null));
}

/** Shows A in the place, or B again. */
function flick() {
  if (!kept) return status("keep a version as A first", true);
  shows = shows === "a" ? "b" : "a";
  tellKept();
}

/** Shows A on the left of the place and B on the right, or B alone. */
function split() {
  if (!kept) return status("keep a version as A first", true);
  shows = shows === "split" ? "b" : "split";
  tellKept();
}

/** Moves the line between A and B. */
function divide(to: number) {
  divider = Math.round(Math.min(98, Math.max(2, to)));
  $("divider").style.left = `${divider}%`;
  $("divider").setAttribute("aria-valuenow", String(divider));
  $("canvas-a").style.clipPath = shows === "split" ? `inset(0 ${100 - divider}% 0 0)` : "";
}

function backToA() {
  if (!kept) return status("keep a version as A first", true);
  shows = "b";
  tellKept();
  void kept.back(app);
}

function tellKept() {
  $("keep-a").textContent = kept ? "Let A go" : "Keep as A";
  for (const id of ["flick", "split-a", "back-a"]) $(id).hidden = !kept;
  $("flick").textContent = shows === "a" ? "Shows A" : "Shows B";
  pressed($("flick"), shows === "a");
  pressed($("split-a"), shows === "split");
  $("canvas-a").hidden = shows === "b" || !kept;
  $("divider").hidden = shows !== "split" || !kept;
  divide(divider);
  $<HTMLButtonElement>("back-a").disabled = !app.free || !kept?.differs(app);
  tellDiffering();
}

/** Tells in what B differs from A. */
function tellDiffering() {
  const { player, info } = app;
  const version = JSON.stringify([info?.good, player?.seed, controls.rehearsed, span]);
  render(kept && span ? <Differing app={app} kept={kept} span={span} rehearsal={controls.rehearsed} version={version} /> : null, $("ab"));
}

/** A variant of a light that is shown in the place in its stead. */
let previewed: { light: string; level: number[]; color: [number, number, number][] } | null = null;

/** Six variants of the selected light, side by side. */
function tries(way: Way) {
  const { info } = app;
  const light = info?.lights.find(({ name, kind }) => name === app.selected?.name && kind !== "output");
  if (!info || !light || !span || !fileOf(info, light.name)) return status("select a light of the book first", true);
  const preview = (samples: { level: number[]; color: [number, number, number][] } | null) => (previewed = samples && { light: light.name, ...samples });
  render(<GalleryDialog app={app} light={light} way={way} rehearsal={controls.rehearsed} span={span} preview={preview} closes={() => (preview(null), closeDialog())} />, dialogs);
}

/** Inputs that are moved from now on are acts at their moments. */
function record() {
  controls.recording = !controls.recording;
  pressed($("record"), controls.recording);
  if (controls.recording) {
    if (!set.playing) play(true);
    status("recording: fire events, move inputs, make choices; press Record again to keep it", false);
  } else keepTake();
}

/** Offers to keep everything that was done by hand. */
function keepTake() {
  const { info, player } = app;
  if (!info || !player) return;
  const { turned, chosen, deeds, clock } = player;
  const done = (name: string) => {
    // From now on the rehearsal does it.
    player.forget();
    controls.rehearsed = name;
    controls.followRehearsal();
    controls.build();
    relane();
  };
  const end = Math.max(app.now, ...deeds.map(({ at }) => at));
  render(<TakeDialog app={app} acts={{ turned, chosen, deeds, clock }} end={end} done={done} closes={closeDialog} />, dialogs);
}

/** Writes what a lane shows at a moment as an expectation of the rehearsal that is played. */
function expectAt(light: string | undefined, at: number) {
  const { info } = app;
  const script = info?.scripts.find(({ name }) => name === controls.rehearsed);
  if (!script) return status("choose a rehearsal first: what the lane shows is then expected in it", true);
  const lane = timeline.lanes.find((lane): lane is Lane => lane instanceof Lane && lane.light.name === light && lane.value.level !== null);
  const expected = lane && span && expectation(lane, (at - span.from) / (span.to - span.from));
  if (!lane || !expected) return status("select a light whose lane shows a level at this moment", true);
  const text = `expect ${expected} for 1s`;
  void app.do(script.file, `${script.name}: ${text}`, [{ rehearsal_line: { of: script.name, at: snapped(at, 0.01), text } }]);
}
const changes = () => render(<HistoryDialog app={app} goTo={(file, at) => text.goTo(file, at)} closes={closeDialog} />, dialogs);
const everything = () => {
  hints.done("commands");
  const eyes = (app.info?.eyes ?? []).map((eye) => ({ name: `Look through ${eye.name}`, do: () => look("eye", eye) }));
  render(<CommandList commands={[...commands, ...eyes]} closes={closeDialog} />, dialogs);
};
const light = () => (document.activeElement as HTMLElement | null)?.closest<HTMLElement>(".lane")?.dataset.light ?? app.selected?.name;
const move = (by: number) => {
  play(false);
  app.now = Math.max(0, app.now + by);
};
const step = (by: number) => {
  const list = $<HTMLSelectElement>("speed");
  const speeds = [...list.options].map((option) => Number(option.value));
  set.speed = speeds[Math.min(speeds.length - 1, Math.max(0, speeds.indexOf(set.speed) + by))]!;
  list.value = String(set.speed);
};
const spans = (by: number) => {
  const list = $<HTMLSelectElement>("span");
  list.selectedIndex = Math.min(list.options.length - 1, Math.max(0, list.selectedIndex + by));
  set.span = Number(list.value);
};
const undo = () => void text.settle().then(() => hands.ask("/undo"));
const redo = () => void text.settle().then(() => hands.ask("/redo"));

const commands: Command[] = [
  { name: "Play or pause", key: "Space", do: () => play(!set.playing) },
  { name: "Go to the start", key: "Home", do: () => (app.now = 0) },
  { name: "A frame on", key: "ArrowRight", do: () => move(1 / 60) },
  { name: "A frame back", key: "ArrowLeft", do: () => move(-1 / 60) },
  { name: "A second on", key: "Shift ArrowRight", do: () => move(1) },
  { name: "A second back", key: "Shift ArrowLeft", do: () => move(-1) },
  { name: "Faster", key: ".", do: () => step(1) },
  { name: "Slower", key: ",", do: () => step(-1) },
  { name: "Show a longer span", key: "+", do: () => spans(1) },
  { name: "Show a shorter span", key: "-", do: () => spans(-1) },
  { name: "Repeat the visible span", key: "o", do: repeat },
  { name: "Repeat from this moment", key: "[", do: () => loopEnd("from") },
  { name: "Repeat until this moment", key: "]", do: () => loopEnd("to") },
  { name: "New random seed", key: "r", do: draw },
  { name: "View from above, from the front or through the next eye", key: "v", do: view },
  { name: "Fast or full picture through eyes", key: "g", do: () => ((place.full = !place.full), status(`pictures through eyes are ${place.full ? "full" : "fast"}`, false)) },
  { name: "Fit the exposure to this moment", key: "e", do: expose },
  { name: "Names of the lights", key: "n", do: names },
  { name: "Play the sounds of the book", key: "l", do: listen },
  { name: "Only the selected light", key: "s", do: () => timeline.only(light() ?? "") },
  { name: "Hide the selected light", key: "h", do: () => timeline.toggle(light() ?? "") },
  { name: "Turn what feeds the light of this lane", key: "Enter", do: () => app.select(light() ?? null) },
  { name: "Undo", key: "Ctrl z", do: undo },
  { name: "Redo", key: "Ctrl Shift z", do: redo },
  { name: "Redo again", key: "Ctrl y", do: redo },
  { name: "Changes and earlier versions", key: "c", do: changes },
  { name: "Open a curve", key: "u", do: () => void openCurve() },
  { name: "Go to the text", key: "b", do: () => text.focus() },
  { name: "Add a point light to the place", do: () => placeLight("point") },
  { name: "Add a spot light to the place", do: () => placeLight("spot") },
  { name: "Add an area light to the place", do: () => placeLight("area") },
  { name: "Add a wall to the place", do: () => placeLight("wall") },
  { name: "Add a post to the place", do: () => placeLight("post") },
  { name: "Add an eye to the place", do: () => placeLight("eye") },
  { name: "Copy the selected light, wall or post", key: "d", do: duplicate },
  { name: "Remove the selected light, wall or post", key: "Delete", do: removeSelected },
  { name: "Record what is done by hand", key: "w", do: record },
  { name: "Keep what was done as a rehearsal or curve", key: "k", do: keepTake },
  { name: "Expect what the selected lane shows now", key: "x", do: () => expectAt(light(), app.now) },
  { name: "Try other random seeds of the selected light", key: "y", do: () => tries("seeds") },
  { name: "Try neighbors of the numbers of the selected light", do: () => tries("neighbors") },
  { name: "Try ready-made behaviors on the selected light", do: () => tries("stock") },
  { name: "Keep this version as A, or let A go", key: "q", do: keepA },
  { name: "Flick the place between A and B", key: "f", do: flick },
  { name: "Split the place between A and B", key: "p", do: split },
  { name: "Take a version of git or another book as A", do: others },
  { name: "Go back to A", do: backToA },
  { name: "Connect a MIDI controller", do: () => void midi.connect() },
  { name: "Forget what MIDI controls are bound to", do: () => midi.forget() },
  { name: "Tap a rhythm, held for as long as it is on", key: "t", do: tap },
  { name: "Show or hide the book", key: "1", do: () => panes?.toggle("book") },
  { name: "Show or hide the lanes", key: "2", do: () => panes?.toggle("lanes") },
  { name: "Show or hide the view", key: "3", do: () => panes?.toggle("view") },
  { name: "Show or hide the controls", key: "4", do: () => panes?.toggle("controls") },
  { name: "Format on save", do: () => ((text.formatsOnSave = !text.formatsOnSave), status(`format on save is ${text.formatsOnSave ? "on" : "off"}`, false)) },
  { name: "All commands", key: "Ctrl k", always: true, do: everything },
];

addEventListener("keydown", (event) => {
  if (event.key === "Escape" && adding) return placeLight(null);
  const target = event.target as HTMLElement;
  const typing = target.matches("input, select, textarea, [contenteditable=true]") || target.closest(".cm-editor") !== null;
  const pressesButton = (event.key === " " || event.key === "Enter") && target.matches("button");
  const command = commands.find(({ key }) => key === keyName(event));
  if (!command || pressesButton || (typing && !command.always)) return;
  if (document.querySelector("dialog[open]")) return;
  event.preventDefault();
  // A key that is held does most things again and again, but it is one tap.
  if (!event.repeat || command.do !== tap) command.do();
});
addEventListener("keyup", (event) => {
  if (event.key.toLowerCase() === "t") tapEnds();
});

$("play").onclick = () => play(!set.playing);
$("start").onclick = () => (app.now = 0);
$("speed").onchange = () => (set.speed = Number($<HTMLSelectElement>("speed").value));
$("span").onchange = () => (set.span = Number($<HTMLSelectElement>("span").value));
$("seed").onchange = () => {
  const value = Number($<HTMLInputElement>("seed").value);
  if (Number.isInteger(value) && value >= 0 && value <= 4294967295) seed(value);
};
$("sound").onclick = listen;
$("draw").onclick = draw;
$("record").onclick = record;
$("keep-a").onclick = keepA;
$("flick").onclick = flick;
$("split-a").onclick = split;
$("other-a").onclick = others;
$("divider").onpointerdown = (event) => {
  const line = $("divider");
  line.setPointerCapture(event.pointerId);
  line.onpointermove = (event) => {
    const box = $("view-box").getBoundingClientRect();
    divide(((event.clientX - box.left) / box.width) * 100);
  };
  line.onpointerup = () => (line.onpointermove = null);
};
$("divider").onkeydown = (event) => {
  const by = ({ ArrowLeft: -2, ArrowRight: 2, PageUp: 10, PageDown: -10 } as Record<string, number>)[event.key];
  if (by === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  divide(divider + by);
};
$("back-a").onclick = backToA;
app.listen((what) => what === "book" && tellKept());
$("view").onclick = view;
$("names").onclick = names;
$("expose").onclick = expose;
$("loop").onclick = repeat;
$("undo").onclick = undo;
$("redo").onclick = redo;
$("changes").onclick = changes;
$("commands").onclick = everything;

const sized = new ResizeObserver(() => {
  place.resize();
  measure();
  fine = false;
  for (const lane of timeline.lanes) if (!work.includes(lane)) work.push(lane);
});
sized.observe($("place"));
sized.observe($("sheet"));

$<HTMLSelectElement>("grid").onchange = () => (handles.grid = Number($<HTMLSelectElement>("grid").value));
app.listen((what) => what === "selection" && app.selected && hints.done("lanes"));

render(<KnobPanel app={app} tries={tries} />, $("knobs"));
render(<CurvePanel app={app} />, $("curve"));
render(<RefusedDialog app={app} />, $("refused"));
if (copied) show(copied);
else connect();
requestAnimationFrame(frame);
