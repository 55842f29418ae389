// The run that the page plays: what the designer fired, turned and chose is done at its moment, however often the run is
// begun again.

import type { Choice, Deed, Info, Input, Module, Run } from "./book";

type Values = (number | boolean)[];

/** How far a run has been played, and how many of the deeds it has had. */
interface Played {
  at: number;
  next: number;
}

/** The last whole millisecond of a moment. */
export const millisecond = (at: number) => Math.floor(at * 1000 + 1e-6) / 1000;

export class Player {
  seed: number | null = null;
  /** What was turned before the start: input name, then index, to values. Kept through changes of the book. */
  readonly turned = new Map<string, Map<number, Values>>();
  /** What was chosen: choice name to options and the moments at which they were chosen. */
  readonly chosen = new Map<string, { at: number; option: string }[]>();
  /** What the game does, in the order of time. */
  deeds: Deed[] = [];
  /** The hour that the clock was set to, at which moment, and whether it is held there. */
  readonly clock = { hour: null as number | null, at: 0, held: false, turning: false };
  private readonly played = new WeakMap<Run, Played>();

  constructor(
    readonly info: Info,
    readonly book: Module,
  ) {}

  /** The same acts on another book. */
  static following(before: Player | null, info: Info, book: Module): Player {
    const player = new Player(info, book);
    if (!before) return player;
    player.seed = before.seed;
    player.deeds = before.deeds;
    for (const [name, values] of before.turned) player.turned.set(name, values);
    for (const [name, options] of before.chosen) player.chosen.set(name, options);
    Object.assign(player.clock, before.clock);
    return player;
  }

  /** Sets an input of a run, if the book has one that takes it. */
  private put(run: Run, input: Input, index: number, values: Values) {
    const fits = values.length === input.parts && typeof values[0] === (input.kind === "on or off" ? "boolean" : "number");
    if (!fits || index >= input.count) return;
    if (input.many) this.book[input.set](run, index, ...values);
    else this.book[input.set](run, ...values);
  }

  /** A run with the seed and inputs that are set. */
  fresh(): Run {
    const { book, info, clock } = this;
    const run = book.start(this.seed ?? info.seed);
    for (const input of info.inputs) {
      for (const [index, values] of this.turned.get(input.name) ?? []) this.put(run, input, index, values);
    }
    for (const choice of info.choices) {
      for (const { at, option } of this.chosen.get(choice.name) ?? []) {
        const place = choice.options.indexOf(option);
        if (place < 0) continue;
        book.advance(run, at);
        book[choice.set](run, place);
      }
    }
    if (info.clock && (clock.hour !== null || clock.held)) {
      book.advance(run, clock.at);
      if (clock.hour !== null) book.setClock(run, clock.hour);
      if (clock.held) book.setClockRate(run, 0);
    }
    return run;
  }

  /** Does what the game does: it fires an event, sets an input, makes a choice or sets its clock. */
  private act(run: Run, { at, name, values, index, indices, given, choice, option, hour, drive, rate }: Deed) {
    const { book, info } = this;
    book.advance(run, at);
    if (drive !== undefined || rate !== undefined) {
      if (info.clock && drive !== undefined) book.driveClock(run, drive);
      if (info.clock && rate !== undefined) book.setClockRate(run, rate);
      return;
    }
    if (hour !== undefined) {
      if (info.clock) book.setClock(run, hour);
      return;
    }
    if (choice !== undefined) {
      const one = info.choices.find((one: Choice) => one.name === choice);
      if (one) book[one.set](run, one.options.indexOf(option ?? ""));
      return;
    }
    if (values) {
      const input = info.inputs.find((one) => one.name === name);
      if (input) for (const n of indices ?? [index ?? 0]) this.put(run, input, n, values);
      return;
    }
    const event = info.events.find((one) => one.name === name);
    if (!event) return;
    const carried = given?.length === event.values.length ? given : event.values;
    if (!event.count) book[event.fire](run, ...carried);
    else for (const n of indices ?? Array(event.count).keys()) book[event.fire](run, n, ...carried);
  }

  /**
   * Takes a run to a moment, with the deeds on the way. Going back begins it again, since the run itself undoes nothing.
   */
  playTo(run: Run, to: number) {
    let played = this.played.get(run);
    if (!played || to < played.at) {
      if (played) Object.assign(run, this.fresh());
      this.played.set(run, (played = { at: to, next: 0 }));
    }
    played.at = to;
    for (let deed = this.deeds[played.next]; deed && deed.at <= to; deed = this.deeds[played.next]) {
      this.act(run, deed);
      played.next += 1;
    }
    this.book.advance(run, to);
  }

  /** A deed more, at its moment: on a whole millisecond that has passed, so that it can be written as it is. */
  does(deed: Deed) {
    this.deeds = [...this.deeds, { ...deed, at: millisecond(deed.at) }].sort((a, b) => a.at - b.at);
  }

  /** Nothing was done by hand. */
  forget() {
    this.deeds = [];
    this.turned.clear();
    this.chosen.clear();
    Object.assign(this.clock, { hour: null, at: 0, held: false });
  }
}
