// The controls of the run: the clock, rehearsals, events, choices and inputs of the book.

import type { App } from "./app";
import type { Choice, Field, Input, Light, Notice } from "./book";
import { hex, ofHex } from "./color";
import { $, element, labeled, pressed } from "./dom";
import { hourText } from "./number";
import { millisecond } from "./player";
import { asRead } from "./take";
import { short } from "./sheet";

type Values = (number | boolean)[];

/** What the controls ask of the page. */
export interface Asks {
  /** Begins all pictures again. */
  again(): void;
  /** Fits the exposure. */
  expose(): void;
  /** Lanes of channels besides strength and color are shown or not. */
  relane(): void;
}

/** The most notices that are listed. */
const MOST = 200;
// A number that goes far beyond 1 is not a ratio.
const percent = (field: Field) => field.kind === "a number" && Math.max(-field.lo, field.hi) <= 10;

/** Values of an input in words. */
export function words(field: Field, values: Values): string {
  if (field.kind === "on or off") return values[0] ? "on" : "off";
  if (field.kind === "a color") return "";
  const one = (v: number | boolean) => (percent(field) ? `${short(Number(v) * 100)}%` : short(Number(v)));
  return `${values.map(one).join(", ")}${field.unit ? ` ${field.unit}` : ""}`;
}

export class Controls {
  /** The rehearsal that is played. */
  rehearsed = "";
  /** Inputs that are moved are acts at their moments, not how the run starts. */
  recording = false;
  /** How many notices were sent. */
  private noticed = 0;
  /** Channels besides strength and color that have lanes. */
  readonly channels = new Set<string>();
  private hourTold = "";

  constructor(
    private readonly app: App,
    private readonly asks: Asks,
  ) {}

  private get player() {
    return this.app.player!;
  }

  private get info() {
    return this.app.info!;
  }

  /** The rehearsal that is played goes on as the book has it now. */
  followRehearsal() {
    if (!this.rehearsed) return;
    this.player.deeds = this.info.rehearsals.find(({ name }) => name === this.rehearsed)?.deeds ?? [];
  }

  build() {
    const { info, player } = this;
    $("inputs").replaceChildren(
      ...(info.clock ? [this.clockRow()] : []),
      ...(info.rehearsals.length ? [this.rehearsalRow()] : []),
      ...(info.events.length ? [this.eventRow()] : []),
      ...(player.book.takeNotice ? [this.noticeRow()] : []),
      ...(info.lights.some((light) => light.channels.length) ? [this.channelRow()] : []),
      ...info.choices.map((choice) => this.choiceRow(choice)),
      ...info.inputs.map((input) => this.inputRow(input)),
    );
  }

  private clockRow() {
    const { player } = this;
    const slider = labeled(element("input", { type: "range", id: "hour", min: "0", max: "24", step: String(1 / 60) }), "Hour of the game's day");
    const turnTo = (hour: number) => {
      player.clock.at = millisecond(this.app.now);
      player.clock.hour = hour;
      this.asks.again();
      this.asks.expose();
    };
    slider.oninput = () => turnTo(Number(slider.value));
    slider.onpointerdown = () => (player.clock.turning = true);
    slider.onpointerup = () => (player.clock.turning = false);
    const hold = element("button", { textContent: "Hold", title: "Stop the clock", id: "hold" });
    pressed(hold, player.clock.held);
    hold.onclick = () => {
      const { clock } = this.player;
      clock.hour = this.hour();
      clock.at = millisecond(this.app.now);
      clock.held = !clock.held;
      pressed(hold, clock.held);
      this.asks.again();
    };
    this.hourTold = "";
    return element("div", { className: "input clock" }, element("b", { textContent: "hour" }), slider, element("output"), hold);
  }

  /** The hour of the run that is shown. */
  hour: () => number = () => 0;

  tellHour() {
    if (!this.info.clock) return;
    const hour = this.hour();
    const words = hourText(hour);
    if (words === this.hourTold) return;
    this.hourTold = words;
    const slider = $<HTMLInputElement>("hour");
    slider.nextElementSibling!.textContent = words;
    if (document.activeElement !== slider || !this.player.clock.turning) slider.value = String(hour);
  }

  /** A choice that the game makes; it fades on the page as it does in the game. */
  private choiceRow(choice: Choice) {
    const { player } = this;
    const list = labeled(element("select", {}, ...choice.options.map((option) => element("option", { value: option, textContent: option }))), choice.name);
    const known = player.chosen.get(choice.name)?.at(-1);
    if (known && choice.options.includes(known.option)) list.value = known.option;
    list.onchange = () => {
      const now = millisecond(this.app.now);
      const before = (player.chosen.get(choice.name) ?? []).filter(({ at }) => at < now).slice(-99);
      player.chosen.set(choice.name, [...before, { at: now, option: list.value }]);
      this.asks.again();
    };
    return element("div", { className: "input" }, element("b", { textContent: choice.name, title: choice.about }), list, element("output"));
  }

  /** The book's rehearsals: what the game does in the one that is chosen is done here, each deed at its moment. */
  private rehearsalRow() {
    const { rehearsals } = this.info;
    const options = [element("option", { value: "", textContent: "none" }), ...rehearsals.map(({ name }) => element("option", { value: name, textContent: name }))];
    const list = labeled(element("select", { id: "rehearsal" }, ...options), "Rehearsal");
    if (rehearsals.some(({ name }) => name === this.rehearsed)) list.value = this.rehearsed;
    list.onchange = () => {
      this.rehearsed = list.value;
      this.player.deeds = rehearsals.find(({ name }) => name === this.rehearsed)?.deeds ?? [];
      this.asks.relane();
    };
    return element("div", { className: "input" }, element("b", { textContent: "rehearsal" }), list, element("output"));
  }

  /** The last notices that the book has sent. */
  private noticeRow() {
    const list = labeled(element("div", { id: "notices", tabIndex: 0 }, element("div", { textContent: "none yet" })), "Notices");
    list.setAttribute("role", "log");
    return element("div", { className: "input notices" }, element("b", { textContent: "notices" }), list);
  }

  forgetNotices() {
    this.noticed = 0;
    const list = document.getElementById("notices");
    if (list?.childElementCount) list.replaceChildren(element("div", { textContent: "none yet" }));
  }

  /** Shows notices that were sent. */
  hear(heard: Notice[]) {
    if (!heard.length) return;
    const single = (from: string) => this.info.lights.some((light) => light.name === from && !light.array);
    const rounded = (value: unknown): string => {
      if (Array.isArray(value)) return `(${value.map(rounded).join(", ")})`;
      if (typeof value === "boolean") return value ? "on" : "off";
      return String(Number(Number(value).toPrecision(3)));
    };
    const carried = (notice: Notice) => (this.info.notices[notice.name] ?? []).map(({ name, field }) => ` ${name} ${rounded(notice[field])}`).join("");
    const told = (notice: Notice) => {
      const { moment, name, text, from, lamp } = notice;
      return `${moment.toFixed(2)} s ${name}${text ? ` "${text}"` : ""}${carried(notice)}${from ? ` from ${from}${single(from) ? "" : `[${lamp}]`}` : ""}`;
    };
    const list = $("notices");
    if (!this.noticed) list.replaceChildren();
    this.noticed += heard.length;
    list.append(...heard.slice(-MOST).map((notice) => element("div", { textContent: told(notice) })));
    while (list.childElementCount > MOST) list.firstElementChild!.remove();
    list.scrollTop = list.scrollHeight;
  }

  /**
   * A button for each event fired by the game. It fires the event at the current moment, for the instance or lamp whose index
   * is beside it, or for all of them if there is no index.
   */
  private eventRow() {
    const buttons = this.info.events.map(({ name, about, count, fields }) => {
      const button = element("button", { textContent: name, title: about });
      // What it comes with, at its defaults until it is changed here.
      const given: Values[] = fields.map((field) => field.default);
      const boxes = fields.map((field, n) => {
        const box = element("label", { className: "given", textContent: field.name });
        box.append(...this.fieldControls({ ...field, name: `${name} ${field.name}` }, field.default, (values) => (given[n] = asRead(field, values))));
        return box;
      });
      const which = count
        ? labeled(element("input", { className: "which", type: "number", min: "0", max: String(count - 1), step: "1", placeholder: "all", title: `Which one, 0 to ${count - 1}; empty for all` }), `Which ${name}`)
        : null;
      button.onclick = () => {
        const n = which?.value && count ? Math.min(count - 1, Math.max(0, Math.trunc(which.valueAsNumber))) : undefined;
        const values = fields.length ? { given: given.flat() } : {};
        this.player.does({ at: this.app.now, name, ...values, ...(n === undefined ? {} : { indices: [n] }) });
        this.asks.again();
      };
      const one = which ? element("span", { className: "one" }, button, which) : button;
      return boxes.length ? element("span", { className: "with" }, one, ...boxes) : one;
    });
    const forget = element("button", { textContent: "Reset", title: "Clear fired events and input changes", id: "forget" });
    forget.onclick = () => {
      this.player.deeds = [];
      this.player.turned.clear();
      this.rehearsed = "";
      this.build();
      this.asks.relane();
    };
    return element("div", { className: "input events" }, element("b", { textContent: "events" }), element("span", {}, ...buttons), forget);
  }

  /** A button for each channel besides strength and color that any light drives. */
  private channelRow() {
    const channel = ({ level, hue }: Light["channels"][number]) => (level ?? hue ?? "").split("_")[0]!;
    const all = new Set(this.info.lights.flatMap((light) => light.channels.map(channel)));
    const buttons = [...all].map((name) => {
      const button = element("button", { textContent: name, title: `Lanes of ${name}` });
      pressed(button, this.channels.has(name));
      button.onclick = () => {
        if (!this.channels.delete(name)) this.channels.add(name);
        pressed(button, this.channels.has(name));
        this.asks.relane();
      };
      return button;
    });
    return element("div", { className: "input events" }, element("b", { textContent: "lanes of" }), element("span", {}, ...buttons), element("span"));
  }

  private inputRow(input: Input) {
    let index = 0;
    const own = (deed: { values?: Values; name?: string; index?: number }) => deed.values !== undefined && deed.name === input.name && deed.index === index;
    const values = (): Values => this.player.deeds.findLast((deed) => own(deed) && deed.at <= this.app.now)?.values ?? this.player.turned.get(input.name)?.get(index) ?? input.default;
    const turn = (shown: Values) => {
      const now = millisecond(this.app.now);
      const { player } = this;
      const next = asRead(input, shown);
      // Where rules follow inputs it counts when one is turned; at the start of the run it is how that starts.
      if ((this.info.follows || this.recording) && now > 0) {
        player.deeds = player.deeds.filter((deed) => !(own(deed) && Math.abs(deed.at - now) < 1 / 30));
        player.does({ at: now, name: input.name, index, values: next });
      } else {
        if (!player.turned.has(input.name)) player.turned.set(input.name, new Map());
        player.turned.get(input.name)!.set(index, next);
      }
      this.asks.again();
    };
    const row = element("div", { className: "input" }, element("b", { textContent: input.name, title: input.about }));
    const control = element("span");
    const told = element("output");
    const rebuild = () => {
      const shown = this.fieldControls(input, values(), (next) => {
        turn(next);
        told.textContent = words(input, next);
      });
      control.replaceChildren(...shown);
      told.textContent = words(input, values());
    };
    row.append(control, told);
    if (input.many) {
      const which = labeled(element("input", { type: "number", className: "which", min: "0", max: String(input.count - 1), value: "0", title: "Which one" }), `Which ${input.name}`);
      which.oninput = () => {
        index = Math.min(input.count - 1, Math.max(0, Number(which.value) || 0));
        rebuild();
      };
      row.insertBefore(which, control);
      row.classList.add("many");
    }
    rebuild();
    return row;
  }

  private fieldControls(field: Field, values: Values, turn: (values: Values) => void): HTMLElement[] {
    const named = <T extends HTMLElement>(made: T) => labeled(made, field.name);
    if (field.kind === "on or off") {
      const box = named(element("input", { type: "checkbox", checked: values[0] === true }));
      box.oninput = () => turn([box.checked]);
      return [box];
    }
    if (field.kind === "a color") {
      const box = named(element("input", { type: "color", value: hex(values.map(Number)) }));
      box.oninput = () => turn(ofHex(box.value) ?? values);
      return [box];
    }
    if (field.parts === 3) {
      const boxes = values.map((v, n) => named(element("input", { type: "number", step: "any", value: String(v), title: "xyz"[n] ?? "" })));
      for (const box of boxes) box.oninput = () => turn(boxes.map((b) => Number(b.value)));
      return [element("span", { className: "three" }, ...boxes)];
    }
    const box = named(element("input", { type: "range", min: String(field.lo), max: String(field.hi), step: String((field.hi - field.lo) / 200), value: String(values[0]) }));
    box.oninput = () => turn([Number(box.value)]);
    return [box];
  }
}
