// The live page: reloads on save, and computes with the exported code, so that what moves
// here is what ships.

import { Place, lampOf } from "/place.mjs";
import { Sounds } from "/sounds.mjs";
import { BandLane, Lane, SoundLane, ruler, short } from "/sheet.mjs";

const $ = (id) => document.getElementById(id);
const place = new Place($("canvas"));
const sounds = new Sounds();
const set = { playing: true, speed: 1, span: 20, now: 0, seed: null, names: true };
/** What the designer turned: input name, then index, to values. Kept through saves. */
const turned = new Map();
/** What the designer chose: choice name to options and the moments at which they were chosen. */
const chosen = new Map();
/** What the designer fired, and turned on the way: names and moments, in the order of time; an input's index and values. */
let fired = [];
/** The rehearsal that is played, and the last notices that were sent. */
let rehearsed = "";
let sent = [];
/** How far each run has been played, and how many of those events it has had. */
const played = new WeakMap();
/** The hour that the designer set the clock to, at which moment, and whether it is held there. */
const clock = { hour: null, at: 0, held: false };
const hidden = new Set();
/** Channels besides strength and color that have lanes. */
const channels = new Set();
let solo = null;
let info = null;
let book = null;
let run = null;
let looking = null;
let lanes = [];
let lamps = new Map();
let at = null;
let span = null;
let work = [];
let fine = false;

/** Sets an input of a run, if the book has one that takes it. */
function put(made, input, index, values) {
  const fits = values.length === input.parts && typeof values[0] === (input.kind === "on or off" ? "boolean" : "number");
  if (!fits || index >= input.count) return;
  if (input.many) book[input.set](made, index, ...values);
  else book[input.set](made, ...values);
}

/** A run with the seed and inputs that are set. */
function fresh() {
  const made = book.start(set.seed ?? info.seed);
  for (const input of info.inputs) {
    for (const [index, values] of turned.get(input.name) ?? []) put(made, input, index, values);
  }
  for (const choice of info.choices) {
    for (const { at, option } of chosen.get(choice.name) ?? []) {
      const place = choice.options.indexOf(option);
      if (place < 0) continue;
      book.advance(made, at);
      book[choice.set](made, place);
    }
  }
  if (info.clock && (clock.hour !== null || clock.held)) {
    book.advance(made, clock.at);
    if (clock.hour !== null) book.setClock(made, clock.hour);
    if (clock.held) book.setClockRate(made, 0);
  }
  return made;
}

/** Does what the game does: it fires an event, sets an input, makes a choice or sets its clock. */
function act(made, { at, name, values, index, indices, given, choice, option, hour, drive, rate }) {
  book.advance(made, at);
  if (drive !== undefined || rate !== undefined) {
    if (info.clock && drive !== undefined) book.driveClock(made, drive);
    if (info.clock && rate !== undefined) book.setClockRate(made, rate);
    return;
  }
  if (hour !== undefined) {
    if (info.clock) book.setClock(made, hour);
    return;
  }
  if (choice !== undefined) {
    const one = info.choices.find((one) => one.name === choice);
    if (one) book[one.set](made, one.options.indexOf(option));
    return;
  }
  const one = (values ? info.inputs : info.events).find((one) => one.name === name);
  if (!one) return;
  if (values) {
    for (const n of indices ?? [index]) put(made, one, n, values);
    return;
  }
  const told = given?.length === one.values.length ? given : one.values;
  if (!one.count) book[one.fire](made, ...told);
  else for (const n of indices ?? Array(one.count).keys()) book[one.fire](made, n, ...told);
}

/**
 * Takes a run to a moment, with the events that were fired and the inputs that were turned on the way. Going back begins it again, since the
 * run itself undoes nothing.
 */
function playTo(made, to) {
  let state = played.get(made);
  if (!state || to < state.at) {
    if (state) Object.assign(made, fresh());
    played.set(made, (state = { at: to, next: 0 }));
  }
  state.at = to;
  for (; state.next < fired.length && fired[state.next].at <= to; state.next += 1) {
    act(made, fired[state.next]);
  }
  book.advance(made, to);
}

/** An hour as a clock shows it. */
const shownHour = (hours) => {
  const minutes = Math.floor(hours * 60 + 1e-6) % 1440;
  return [Math.floor(minutes / 60), minutes % 60].map((n) => String(n).padStart(2, "0")).join(":");
};

/** Begins all pictures again, after a save, another seed or another input; coarse first. */
function again() {
  if (!book) return;
  sent = [];
  run = fresh();
  looking = fresh();
  fine = false;
  for (const lane of lanes) lane.clear(120);
  work = [...lanes];
  marks();
}

/** The ruler, with flags where the game does something. */
function marks() {
  if (!span) return;
  const flag = ({ name, choice, option, hour, values }) => {
    if (choice) return `${choice} ${option}`;
    if (hour !== undefined) return shownHour(hour);
    if (!values) return name;
    const input = info.inputs.find((one) => one.name === name);
    return `${name} ${input ? words(input, values) : ""}`.trimEnd();
  };
  ruler($("ruler"), span, fired.map((one) => ({ at: one.at, name: flag(one) })));
}

function shown(light) {
  return solo ? solo === light.name : !hidden.has(light.name);
}

function read() {
  const all = [];
  for (const light of info.lights) {
    if (light.kind === "output" || !shown(light)) continue;
    let own = lamps.get(light.name);
    if (!own) {
      own = Array.from({ length: light.lamps }, () => (light.array ? book[light.read](run, 0) : book[light.read](run)));
      lamps.set(light.name, own);
    }
    if (light.array) book[light.fill](run, 0, own);
    else book[light.read](run, own[0]);
    own.forEach((lamp, n) => {
      const made = lampOf(light, lamp, info.space);
      // A spark that does not live is not there.
      if (light.spark && made?.candelas.every((v) => v === 0)) return;
      if (made) all.push({ key: `${light.name}/${n}`, spark: light.spark, lamp: made, name: n === 0 ? light.name + light.size : "" });
    });
  }
  return all;
}

function frame(time) {
  requestAnimationFrame(frame);
  const passed = at === null ? 0 : Math.min(0.25, (time - at) / 1000);
  at = time;
  // A save that is being taken has the machine to itself.
  if (!book || taking > 0) return;
  if (set.playing) set.now += passed * set.speed;
  const from = Math.floor(set.now / set.span + 1e-9) * set.span;
  if (!span || span.from !== from || span.to !== from + set.span) {
    span = { from, to: from + set.span };
    again();
  }
  playTo(run, set.now);
  if (book.takeNotice) hear();
  sounds.follow(book, run, set.now, set.playing);
  const seen = read();
  place.include(seen);
  place.draw(seen, set.names);
  // The lanes take what is left of the frame.
  const until = performance.now() + (fine && set.playing ? 6 : 60);
  while (work.length && performance.now() < until) {
    const lane = work[0];
    const more = lane.sample({ ...book, advance: playTo }, looking, span, until);
    lane.draw();
    if (!more) work.shift();
    if (lane.said) lane.said.textContent = (pointed === null ? lane.top?.() : lane.words?.(pointed)) ?? "";
  }
  if (!work.length && !fine && lanes.length) {
    fine = true;
    document.body.dataset.drawn = info.good;
    for (const lane of lanes) {
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
let hourTold = "";
function tell() {
  const words = `${short(Math.floor(set.now * 10) / 10)} s`;
  if (words !== told) $("now").textContent = told = words;
  if (info.clock) {
    const hour = book.clockHour(run);
    const words = shownHour(hour);
    if (words !== hourTold) {
      hourTold = words;
      $("hour").nextElementSibling.textContent = words;
      if (document.activeElement !== $("hour") || !clock.turning) $("hour").value = hour;
    }
  }
  const share = (set.now - span.from) / set.span;
  $("playhead").style.transform = `translateX(${layout.left + share * layout.width}px)`;
  if (place.exposure !== exposed) {
    exposed = place.exposure;
    $("exposure").textContent = exposed > 0 ? `exposure: ${short(1.609438 / exposed)} lx at 80%` : "";
  }
  // For whoever looks on from outside: how many frames there were, and the moment shown.
  window.caltrin = { frames: (window.caltrin?.frames ?? 0) + 1, now: set.now, heard: sounds.heard() };
}

const element = (name, props = {}, ...children) => {
  const made = Object.assign(document.createElement(name), props);
  made.append(...children);
  return made;
};

function buildLanes() {
  lanes = [];
  $("lanes").replaceChildren(
    ...info.sounds.map((sound) => {
      const canvas = element("canvas");
      canvas.onpointerdown = (event) => scrub(event, canvas);
      lanes.push(new SoundLane(sound, canvas));
      const about = element("small", { textContent: `sound, ${short(sound.length)} s${sound.loops ? ", repeats" : ""}` });
      return element("div", { className: "lane sound" }, element("div", { className: "label" }, element("b", { textContent: sound.name }), about), canvas);
    }),
    ...info.bands.map((band) => {
      const canvas = element("canvas");
      canvas.onpointerdown = (event) => scrub(event, canvas);
      const said = element("output");
      lanes.push(Object.assign(new BandLane(band, canvas), { said }));
      const about = element("small", { textContent: band.parts ? "modes" : "sequence" });
      return element("div", { className: "lane band" }, element("div", { className: "label" }, said, element("b", { textContent: band.name }), about), canvas);
    }),
    ...info.lights.flatMap((light) => {
      const more = light.channels.filter(({ level, hue }) => channels.has((level ?? hue).split("_")[0]));
      return [...light.values, ...more].map((value, n) => lightLane(light, value, n === 0));
    }),
  );
  mark();
}

/** The lane of one value of a light; the first one has its buttons. */
function lightLane(light, value, first) {
  const canvas = element("canvas");
  const name = light.name + light.size + (value.name ? `.${value.name}` : "");
  const said = element("output", { title: "Scale of the lane; value under the pointer" });
  const one = element("button", { textContent: "solo", title: `Only ${light.name}`, onclick: () => only(light.name) });
  const hide = element("button", { textContent: "hide", title: `Without ${light.name}`, onclick: () => toggle(light.name) });
  const kind = light.spark ? "the brightest; blue: how many live" : ` ${light.kind}`;
  const about = element("small", { textContent: kind, title: light.spark ? `A pool of ${light.lamps} sparks: the brightest at each moment, and how many live` : kind.trim() });
  const found = light.findings.length && first ? element("small", { className: "found", textContent: ` ${light.findings.join(" ")}` }) : "";
  const row = element("div", { className: "lane", tabIndex: 0 }, element("div", { className: "label" }, said, element("b", { textContent: name, title: name }), ...(first ? [one, hide] : []), about, found), canvas);
  row.dataset.light = light.name;
  row.dataset.value = value.name;
  canvas.onpointerdown = (event) => scrub(event, canvas);
  lanes.push(Object.assign(new Lane(light, value, canvas), { said }));
  return row;
}

/** The share of the span under the pointer, or null where it is elsewhere. */
let pointed = null;
function point(share) {
  pointed = share;
  for (const lane of lanes) {
    if (lane.said) lane.said.textContent = (share === null ? lane.top?.() : lane.words?.(share)) ?? "";
  }
}

/** A button for each channel besides strength and color that any light drives. */
function channelRow() {
  const all = new Set(info.lights.flatMap((light) => light.channels.map(({ level, hue }) => (level ?? hue).split("_")[0])));
  const buttons = [...all].map((name) => {
    const button = element("button", { textContent: name, title: `Lanes of ${name}` });
    button.setAttribute("aria-pressed", channels.has(name));
    button.onclick = () => {
      if (!channels.delete(name)) channels.add(name);
      button.setAttribute("aria-pressed", channels.has(name));
      buildLanes();
      again();
      measure();
    };
    return button;
  });
  return element("div", { className: "input events" }, element("b", { textContent: "lanes of" }), element("span", {}, ...buttons), element("span"));
}

function mark() {
  for (const row of document.querySelectorAll(".lane[data-light]")) {
    const light = info.lights.find((light) => light.name === row.dataset.light);
    row.classList.toggle("hidden", !shown(light));
    const [one, hide] = row.querySelectorAll("button");
    if (!one) continue;
    one.setAttribute("aria-pressed", solo === light.name);
    hide.setAttribute("aria-pressed", hidden.has(light.name));
  }
}

function only(name) {
  solo = solo === name ? null : name;
  mark();
}

function toggle(name) {
  if (!hidden.delete(name)) hidden.add(name);
  mark();
}

function scrub(event, canvas) {
  const to = (event) => {
    const box = canvas.getBoundingClientRect();
    const share = Math.min(0.9999, Math.max(0, (event.clientX - box.left) / box.width));
    set.now = span.from + share * set.span;
  };
  play(false);
  to(event);
  canvas.setPointerCapture(event.pointerId);
  canvas.onpointermove = to;
  canvas.onpointerup = () => {
    canvas.onpointermove = null;
  };
}

/** The hour of the game's day: a slider that follows the clock, and holds it. */
function clockRow() {
  const slider = element("input", { type: "range", id: "hour", min: 0, max: 23.999, step: 1 / 60 });
  slider.setAttribute("aria-label", "Hour of the game's day");
  const turnTo = (hour) => {
    clock.at = now();
    clock.hour = hour;
    again();
    expose();
  };
  slider.oninput = () => turnTo(Number(slider.value));
  slider.onpointerdown = () => (clock.turning = true);
  slider.onpointerup = () => (clock.turning = false);
  const hold = element("button", { textContent: "Hold", title: "Stop the clock", id: "hold" });
  hold.setAttribute("aria-pressed", clock.held);
  hold.onclick = () => {
    clock.hour = book.clockHour(run);
    clock.at = now();
    clock.held = !clock.held;
    hold.setAttribute("aria-pressed", clock.held);
    again();
  };
  hourTold = "";
  const row = element("div", { className: "input clock" }, element("b", { textContent: "hour" }), slider, element("output"), hold);
  return row;
}

/** A choice that the game makes; it fades on the page as it does in the game. */
function choiceRow(choice) {
  const list = element("select", {}, ...choice.options.map((option) => element("option", { value: option, textContent: option })));
  list.setAttribute("aria-label", choice.name);
  const known = chosen.get(choice.name) ?? [];
  if (known.length && choice.options.includes(known.at(-1).option)) list.value = known.at(-1).option;
  list.onchange = () => {
    const before = (chosen.get(choice.name) ?? []).filter(({ at }) => at < now()).slice(-3);
    chosen.set(choice.name, [...before, { at: now(), option: list.value }]);
    again();
  };
  return element("div", { className: "input" }, element("b", { textContent: choice.name, title: choice.about }), list, element("output"));
}

/** The book's rehearsals: what the game does in the one that is chosen is done here, each deed at its moment. */
function rehearsalRow() {
  const list = element("select", { id: "rehearsal" }, element("option", { value: "", textContent: "none" }), ...info.rehearsals.map(({ name }) => element("option", { value: name, textContent: name })));
  list.setAttribute("aria-label", "Rehearsal");
  if (info.rehearsals.some(({ name }) => name === rehearsed)) list.value = rehearsed;
  list.onchange = () => {
    rehearsed = list.value;
    fired = info.rehearsals.find(({ name }) => name === rehearsed)?.deeds ?? [];
    again();
  };
  return element("div", { className: "input" }, element("b", { textContent: "rehearsal" }), list, element("output"));
}

/** The last notices that the book has sent. */
function noticeRow() {
  return element("div", { className: "input notices" }, element("b", { textContent: "notices" }), element("output", { id: "notices", textContent: "none yet" }));
}

/** Takes what the book tells the game, and shows the last of it. */
function hear() {
  const heard = [];
  for (let notice = book.takeNotice(run); notice; notice = book.takeNotice(run)) heard.push(notice);
  if (!heard.length) return;
  sent = [...sent, ...heard].slice(-3);
  const single = (from) => info.lights.some((light) => light.name === from && !light.array);
  const rounded = (value) => Array.isArray(value) ? `(${value.map(rounded).join(", ")})` : typeof value === "boolean" ? (value ? "on" : "off") : String(Number(value.toPrecision(3)));
  const carried = (notice) => (info.notices[notice.name] ?? []).map(({ name, field }) => ` ${name} ${rounded(notice[field])}`).join("");
  const words = (notice) => {
    const { moment, name, text, from, lamp } = notice;
    return `${moment.toFixed(2)} s ${name}${text ? ` "${text}"` : ""}${carried(notice)}${from ? ` from ${from}${single(from) ? "" : `[${lamp}]`}` : ""}`;
  };
  $("notices").textContent = sent.map(words).join("; ");
}

/**
 * A button for each event fired by the game. It fires the event at the current moment, for the instance or lamp whose index is beside it,
 * or for all of them if there is no index.
 */
function eventRow() {
  const buttons = info.events.map(({ name, about, count, fields }) => {
    const button = element("button", { textContent: name, title: about });
    // What it comes with, at its defaults until it is changed here.
    const given = fields.map((field) => field.default);
    const boxes = fields.map((field, n) => {
      const box = element("label", { className: "given", textContent: field.name });
      box.append(...controls({ ...field, name: `${name} ${field.name}` }, field.default, (values) => (given[n] = values)));
      return box;
    });
    const which = count && element("input", { className: "which", type: "number", min: 0, max: count - 1, step: 1, placeholder: "all", title: `Which one, 0 to ${count - 1}; empty for all` });
    if (which) which.setAttribute("aria-label", `Which ${name}`);
    button.onclick = () => {
      const n = which?.value ? Math.min(count - 1, Math.max(0, Math.trunc(which.valueAsNumber))) : undefined;
      const values = fields.length ? { given: given.flat() } : {};
      fired = [...fired, { at: now(), name, ...values, ...(n === undefined ? {} : { indices: [n] }) }].sort((a, b) => a.at - b.at);
      again();
    };
    const one = which ? element("span", { className: "one" }, button, which) : button;
    return boxes.length ? element("span", { className: "with" }, one, ...boxes) : one;
  });
  const forget = element("button", { textContent: "Reset", title: "Clear fired events and input changes", id: "forget" });
  forget.onclick = () => {
    fired = [];
    rehearsed = "";
    buildInputs();
    again();
  };
  return element("div", { className: "input events" }, element("b", { textContent: "events" }), element("span", {}, ...buttons), forget);
}

const now = () => set.now;

function buildInputs() {
  $("inputs").replaceChildren(
    ...(info.clock ? [clockRow()] : []),
    ...(info.rehearsals.length ? [rehearsalRow()] : []),
    ...(info.events.length ? [eventRow()] : []),
    ...(book.takeNotice ? [noticeRow()] : []),
    ...(info.lights.some((light) => light.channels.length) ? [channelRow()] : []),
    ...info.choices.map(choiceRow),
    ...info.inputs.map((input) => {
      let index = 0;
      const own = (one) => one.values && one.name === input.name && one.index === index;
      const values = () => fired.findLast((one) => own(one) && one.at <= now())?.values ?? turned.get(input.name)?.get(index) ?? input.default;
      const turn = (next) => {
        // Where rules follow inputs it counts when one is turned; at the start of the run it is how that starts.
        if (info.follows && now() > 0) {
          const kept = fired.filter((one) => !(own(one) && Math.abs(one.at - now()) < 1 / 30));
          fired = [...kept, { at: now(), name: input.name, index, values: next }].sort((a, b) => a.at - b.at);
          again();
          return;
        }
        if (!turned.has(input.name)) turned.set(input.name, new Map());
        turned.get(input.name).set(index, next);
        again();
      };
      const row = element("div", { className: "input" }, element("b", { textContent: input.name, title: input.about }));
      const control = element("span");
      const said = element("output");
      const rebuild = () => {
        control.replaceChildren(...controls(input, values(), (next) => {
          turn(next);
          said.textContent = words(input, next);
        }));
        said.textContent = words(input, values());
      };
      row.append(control, said);
      if (input.many) {
        const which = element("input", { type: "number", className: "which", min: 0, max: input.count - 1, value: 0, title: "Which one" });
        which.oninput = () => {
          index = Math.min(input.count - 1, Math.max(0, Number(which.value) || 0));
          rebuild();
        };
        row.insertBefore(which, control);
        row.classList.add("many");
      }
      rebuild();
      return row;
    }),
  );
}

// A number that goes far beyond 1 is not a ratio.
const percent = (input) => input.kind === "a number" && Math.max(-input.lo, input.hi) <= 10;
const words = (input, values) => {
  if (input.kind === "on or off") return values[0] ? "on" : "off";
  if (input.kind === "a color") return "";
  const one = (v) => (percent(input) ? `${short(v * 100)}%` : short(v));
  return `${values.map(one).join(", ")}${input.unit ? ` ${input.unit}` : ""}`;
};

function controls(input, values, turn) {
  const label = (made) => {
    made.setAttribute("aria-label", input.name);
    return made;
  };
  if (input.kind === "on or off") {
    const box = label(element("input", { type: "checkbox", checked: values[0] }));
    box.oninput = () => turn([box.checked]);
    return [box];
  }
  if (input.kind === "a color") {
    const hex = (v) => Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055)).toString(16).padStart(2, "0");
    const box = label(element("input", { type: "color", value: `#${values.map(hex).join("")}` }));
    const linear = (v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
    box.oninput = () => turn([1, 3, 5].map((n) => linear(parseInt(box.value.slice(n, n + 2), 16) / 255)));
    return [box];
  }
  if (input.parts === 3) {
    const boxes = values.map((v) => label(element("input", { type: "number", step: "any", value: v })));
    for (const box of boxes) box.oninput = () => turn(boxes.map((b) => Number(b.value)));
    return [element("span", { className: "three" }, ...boxes)];
  }
  const box = label(element("input", { type: "range", min: input.lo, max: input.hi, step: (input.hi - input.lo) / 200, value: values[0] }));
  box.oninput = () => turn([Number(box.value)]);
  return [box];
}

/** Takes what the server says of the book. A book with errors leaves the last good version. */
async function follow(next) {
  $("told").hidden = !next.told;
  $("told").className = next.errors ? "" : "warnings";
  $("told").replaceChildren(
    element("b", { textContent: next.errors ? `${next.errors} error${next.errors === 1 ? "" : "s"}: the last good version is shown` : "Warnings" }),
    element("pre", { textContent: next.told }),
  );
  document.body.dataset.version = next.version;
  if (next.good === null || (info && book && info.run === next.run && info.good === next.good)) return;
  const loaded = await import(`/book.mjs?v=${next.run}-${next.good}`);
  info = next;
  book = loaded;
  lamps = new Map();
  sounds.take(info.sounds, `${next.run}-${next.good}`);
  $("sound").hidden = !sounds.any;
  document.title = `${info.name} - Caltrin`;
  $("name").textContent = info.name;
  $("name").title = info.name;
  if (set.seed === null) $("seed").value = info.seed;
  const followed = info.rehearsals.find(({ name }) => name === rehearsed);
  if (rehearsed) fired = followed?.deeds ?? [];
  buildLanes();
  buildInputs();
  const exposure = place.exposure;
  run = fresh();
  playTo(run, set.now);
  place.frame(info.solids, read().filter(({ spark }) => !spark).map(({ lamp }) => lamp));
  // A save must not change how bright the page is.
  if (exposure > 0) place.exposure = exposure;
  again();
  measure();
  marks();
  document.body.dataset.good = info.good;
}

let following = Promise.resolve();
let taking = 0;
const followed = (event) => {
  const next = JSON.parse(event.data);
  taking += 1;
  following = following
    .then(() => follow(next))
    .catch((why) => link(`cannot follow: ${why.message}`, true))
    .finally(() => {
      taking -= 1;
    });
};

function link(words, lost) {
  $("link").textContent = words;
  $("link").className = lost ? "lost" : "";
}

function connect() {
  const events = new EventSource("/events");
  events.onopen = () => link("reloads on save", false);
  events.addEventListener("saved", followed);
  events.onerror = () => link("connection lost, reconnecting", true);
}

/** Where the lanes lie; looked up only when that can have changed. */
let layout = { left: 0, width: 0 };
function measure() {
  const canvas = $("ruler").getBoundingClientRect();
  const sheet = $("sheet").getBoundingClientRect();
  layout = { left: canvas.left - sheet.left, width: canvas.width };
  $("playhead").style.height = `${$("sheet").scrollHeight}px`;
}

function play(on) {
  set.playing = on;
  $("play").textContent = on ? "Pause" : "Play";
  $("play").setAttribute("aria-pressed", on);
}

function seed(next) {
  set.seed = next;
  $("seed").value = next;
  again();
}

$("ruler").onpointerdown = (event) => scrub(event, $("ruler"));
$("sheet").onpointermove = (event) => {
  const box = $("ruler").getBoundingClientRect();
  const share = (event.clientX - box.left) / box.width;
  point(share >= 0 && share < 1 ? share : null);
};
$("sheet").onpointerleave = () => point(null);
$("play").onclick = () => play(!set.playing);
$("start").onclick = () => (set.now = 0);
$("speed").onchange = () => (set.speed = Number($("speed").value));
$("span").onchange = () => (set.span = Number($("span").value));
$("seed").onchange = () => {
  const value = Number($("seed").value);
  if (Number.isInteger(value) && value >= 0 && value <= 4294967295) seed(value);
};
$("sound").onclick = () => {
  sounds.on = !sounds.on;
  $("sound").setAttribute("aria-pressed", sounds.on);
};
const draw = () => seed(Math.floor(Math.random() * 4294967296));
$("draw").onclick = draw;
const view = () => {
  place.view = place.view === "above" ? "front" : "above";
  $("view").textContent = place.view === "above" ? "From above" : "From the front";
  place.exposure = 0;
  place.resize();
};
$("view").onclick = view;
$("names").onclick = () => {
  set.names = !set.names;
  $("names").setAttribute("aria-pressed", set.names);
};
const expose = () => (place.exposure = 0);
$("expose").onclick = expose;

addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const typing = event.target.matches("input, select, textarea");
  if (typing || (event.key === " " && event.target.matches("button"))) return;
  const light = document.activeElement?.closest?.(".lane")?.dataset.light;
  const speeds = [...$("speed").options].map((option) => Number(option.value));
  const step = (by) => {
    const n = Math.min(speeds.length - 1, Math.max(0, speeds.indexOf(set.speed) + by));
    set.speed = speeds[n];
    $("speed").value = String(speeds[n]);
  };
  const move = (by) => {
    play(false);
    set.now += by;
  };
  const keys = {
    " ": () => play(!set.playing),
    Home: () => (set.now = 0),
    ArrowRight: () => move(event.shiftKey ? 1 : 1 / 60),
    ArrowLeft: () => move(event.shiftKey ? -1 : -1 / 60),
    ",": () => step(-1),
    ".": () => step(1),
    r: draw,
    v: view,
    e: expose,
    n: () => $("names").click(),
    l: () => $("sound").click(),
    s: () => light && only(light),
    h: () => light && toggle(light),
  };
  const act = keys[event.key];
  if (!act) return;
  event.preventDefault();
  act();
});

const sized = new ResizeObserver(() => {
  place.resize();
  measure();
  marks();
  fine = false;
  for (const lane of lanes) if (!work.includes(lane)) work.push(lane);
});
sized.observe($("place"));
sized.observe($("sheet"));

connect();
requestAnimationFrame(frame);
