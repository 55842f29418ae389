// The timeline: a lane for each sound, band and value of a light, with its label and buttons.

import type { App } from "./app";
import type { Light, LaneValue } from "./book";
import { $, element, pressed } from "./dom";
import { BandLane, Lane, type Sampled, SoundLane, type Visible, ruler, short } from "./sheet";
import { Steps } from "./steps";

export class Timeline {
  lanes: Sampled[] = [];
  readonly hidden = new Set<string>();
  solo: string | null = null;
  readonly steps: Steps;
  /** The canvases of lanes that are scrolled into view, or nearly. */
  readonly seen = new Set<Element>();
  private readonly watched = new IntersectionObserver(
    (entries) => {
      for (const { target, isIntersecting } of entries) {
        if (isIntersecting) this.seen.add(target);
        else this.seen.delete(target);
      }
    },
    { root: $("sheet"), rootMargin: "120px" },
  );
  private pointed: number | null = null;
  private layout = { left: 0, width: 0 };

  constructor(
    private readonly app: App,
    private readonly channels: Set<string>,
    /** The pointer is at a share of the span, held down. */
    private readonly scrub: (share: number) => void,
    /** A part of the span is selected, by two shares. */
    private readonly select: (from: number, to: number) => void,
    /** The rehearsal that is played; empty for none. */
    private readonly rehearsed: () => string,
    /** What the lane of a light shows at a share of the span is expected. */
    private readonly expect: (light: string, share: number) => void,
  ) {
    this.steps = new Steps(app);
    $("ruler").onpointerdown = (event) => this.hold(event, $("ruler"));
    $("sheet").onpointermove = (event) => {
      const box = $("ruler").getBoundingClientRect();
      const share = (event.clientX - box.left) / box.width;
      this.point(share >= 0 && share < 1 ? share : null);
    };
    $("sheet").onpointerleave = () => this.point(null);
    app.listen(() => this.marks());
  }

  private hold(event: PointerEvent, element: HTMLElement) {
    element.setPointerCapture(event.pointerId);
    const box = element.getBoundingClientRect();
    const share = (event: PointerEvent) => Math.min(0.999999, Math.max(0, (event.clientX - box.left) / box.width));
    const first = share(event);
    // With Shift on the ruler a span is selected.
    const selects = event.shiftKey && element === $("ruler");
    const move = (event: PointerEvent) => {
      if (!selects) return this.scrub(share(event));
      const last = share(event);
      if (Math.abs(last - first) * box.width > 3) this.select(Math.min(first, last), Math.max(first, last));
    };
    const up = () => {
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", up);
    };
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", up);
    move(event);
  }

  shows(light: Light): boolean {
    return this.solo ? this.solo === light.name : !this.hidden.has(light.name);
  }

  private canvas(): HTMLCanvasElement {
    const canvas = element("canvas");
    canvas.onpointerdown = (event) => this.hold(event, canvas);
    this.watched.observe(canvas);
    return canvas;
  }

  private lane(lane: Sampled, told: HTMLElement | null) {
    lane.told = told;
    this.lanes.push(lane);
  }

  /** The meter of a lane: its level at the moment that is shown. */
  private meter(lane: Sampled): HTMLElement {
    lane.bar = element("i");
    const meter = element("span", { className: "meter" }, lane.bar);
    meter.setAttribute("aria-hidden", "true");
    return meter;
  }

  build() {
    const info = this.app.info!;
    this.lanes = [];
    this.watched.disconnect();
    this.seen.clear();
    const sounds = info.sounds.map((sound) => {
      const canvas = this.canvas();
      const lane = new SoundLane(sound, canvas);
      this.lane(lane, null);
      const about = element("small", { textContent: `sound, ${short(sound.length)} s${sound.loops ? ", repeats" : ""}` });
      return element("div", { className: "lane sound" }, element("div", { className: "label" }, element("b", { textContent: sound.name }), about, this.meter(lane)), canvas);
    });
    this.steps.clear();
    const named = (name: string) => element("b", { textContent: name, title: `${name}: click to turn what feeds it`, onclick: () => this.app.select(name) });
    const bands = info.bands.map((band) => {
      const canvas = this.canvas();
      const told = element("output");
      const lane = new BandLane(band, canvas);
      this.lane(lane, told);
      const about = element("small", { textContent: band.parts ? "modes" : "sequence" });
      const drawn = band.parts ? canvas : this.steps.track("sequence", band.name, canvas, lane);
      return element("div", { className: "lane band" }, element("div", { className: "label" }, told, named(band.name), about), drawn);
    });
    const rehearsal = this.rehearsed();
    const script = info.scripts.some(({ name }) => name === rehearsal)
      ? [element("div", { className: "lane band" }, element("div", { className: "label" }, named(rehearsal), element("small", { textContent: "rehearsal" })), this.steps.track("rehearsal", rehearsal, element("div", { className: "empty" }), null))]
      : [];
    const lights = this.values().map(([light, value, n]) => this.lightLane(light, value, n === 0));
    $("lanes").replaceChildren(...script, ...sounds, ...bands, ...lights);
    this.marks();
  }

  /** The values that have lanes, with their lights, and which of a light's it is. */
  private values(): [Light, LaneValue, number][] {
    return this.app.info!.lights.flatMap((light) => {
      const more = light.channels.filter(({ level, hue }) => this.channels.has((level ?? hue ?? "").split("_")[0]!));
      return [...light.values, ...more].map((value, n): [Light, LaneValue, number] => [light, value, n]);
    });
  }

  /** The same lanes, of a book in which only their numbers are others. */
  refresh() {
    const own = this.lanes.filter((lane) => lane instanceof Lane);
    const bands = this.lanes.filter((lane) => lane instanceof BandLane);
    this.app.info!.bands.forEach((band, n) => Object.assign(bands[n]!, { band, read: undefined }));
    this.values().forEach(([light, value], n) => Object.assign(own[n]!, { light, value, seen: [0, 0], lamp: undefined }));
  }

  /** The lane of one value of a light; the first one has its buttons. */
  private lightLane(light: Light, value: LaneValue, first: boolean) {
    const canvas = this.canvas();
    // With Alt what is seen there is expected of the rehearsal.
    canvas.addEventListener("pointerdown", (event) => {
      if (!event.altKey) return;
      event.stopImmediatePropagation();
      const box = canvas.getBoundingClientRect();
      this.expect(light.name, (event.clientX - box.left) / box.width);
    }, true);
    const name = light.name + light.size + (value.name ? `.${value.name}` : "");
    const told = element("output", { title: "Scale of the lane; value under the pointer" });
    const one = element("button", { textContent: "solo", title: `Only ${light.name} (s)`, onclick: () => this.only(light.name) });
    const hide = element("button", { textContent: "hide", title: `Without ${light.name} (h)`, onclick: () => this.toggle(light.name) });
    const kind = light.spark ? "the brightest; blue: how many live" : ` ${light.kind}`;
    const about = element("small", { textContent: kind, title: light.spark ? `A pool of ${light.lamps} sparks: the brightest at each moment, and how many live` : kind.trim() });
    const found = light.findings.length && first ? element("small", { className: "found", textContent: ` ${light.findings.join(" ")}` }) : "";
    const title = element("b", { textContent: name, title: `${name}: click to turn what feeds it (Enter)`, onclick: () => this.app.select(light.name) });
    const lane = new Lane(light, value, canvas);
    const row = element("div", { className: "lane", tabIndex: 0 }, element("div", { className: "label" }, told, title, ...(first ? [one, hide] : []), about, found, this.meter(lane)), canvas);
    row.setAttribute("role", "group");
    row.setAttribute("aria-label", `Lane of ${name}`);
    row.dataset.light = light.name;
    row.dataset.value = value.name;
    this.lane(lane, told);
    return row;
  }

  /** The share of the span under the pointer, or null where it is elsewhere. */
  point(share: number | null) {
    this.pointed = share;
    for (const lane of this.lanes) this.tell(lane);
  }

  tell(lane: Sampled) {
    if (lane.told) lane.told.textContent = this.pointed === null ? lane.top() : lane.words(this.pointed);
  }

  marks() {
    for (const row of document.querySelectorAll<HTMLElement>(".lane[data-light]")) {
      const light = this.app.info?.lights.find((light) => light.name === row.dataset.light);
      if (!light) continue;
      row.classList.toggle("hidden", !this.shows(light));
      row.classList.toggle("selected", this.app.selected?.name === light.name);
      const [one, hide] = row.querySelectorAll<HTMLElement>("button");
      if (!one || !hide) continue;
      pressed(one, this.solo === light.name);
      pressed(hide, this.hidden.has(light.name));
    }
  }

  only(name: string) {
    this.solo = this.solo === name ? null : name;
    this.marks();
  }

  toggle(name: string) {
    if (!this.hidden.delete(name)) this.hidden.add(name);
    this.marks();
  }

  /** Looks up where the lanes lie. */
  measure() {
    const canvas = $("ruler").getBoundingClientRect();
    const sheet = $("sheet").getBoundingClientRect();
    this.layout = { left: canvas.left - sheet.left, width: canvas.width };
    $("playhead").style.height = `${$("sheet").scrollHeight}px`;
  }

  playhead(share: number) {
    for (const lane of this.lanes) {
      if (!lane.bar || !this.seen.has(lane.canvas)) continue;
      const level = Math.min(1, Math.max(0, lane.meter(share) ?? 0)).toFixed(3);
      if (lane.bar.dataset.level === level) continue;
      lane.bar.dataset.level = level;
      lane.bar.style.transform = `scaleY(${level})`;
    }
    $("playhead").style.transform = `translateX(${this.layout.left + share * this.layout.width}px)`;
  }

  rule(span: Visible, flags: { at: number; name: string }[], loop: Visible | null) {
    ruler($<HTMLCanvasElement>("ruler"), span, flags, loop);
  }
}
