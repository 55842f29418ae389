// A and B: a version of the book that is kept as A while B is edited, played with the same seed, moment, events and inputs.

import type { App } from "./app";
import type { Info, Lamp, Light, LaneValue, Module, Run, Text } from "./book";
import type { Hung } from "./hung";
import { Player } from "./player";

/** In what the lights of B differ from those of A. */
export interface Differences {
  /** How many lights there are. */
  all: number;
  differ: { light: string; came: "added" | "removed" | "changed"; words: string[] }[];
}

export class Kept {
  private readonly player: Player;
  private readonly texts: Text[];
  /** The run of the place view; lanes are sampled with another. */
  run: Run;
  private looking: Run;
  private lamps = new Map<string, Lamp>();

  constructor(
    readonly info: Info,
    module: Module,
    private readonly acts: () => Player,
    readonly hung: Hung[],
    /** What it is called where it is no version that was kept: a revision of git, or another book. */
    readonly name: string | null = null,
    /** The other book. */
    readonly other: string | null = null,
  ) {
    this.player = Player.following(acts(), info, module);
    this.texts = info.texts;
    this.run = this.player.fresh();
    this.looking = this.player.fresh();
  }

  get book(): Module {
    return this.player.book;
  }

  /** Restarts A with the current events and inputs. */
  again() {
    const { seed, deeds, turned, chosen, clock } = this.acts();
    const own = this.player;
    own.seed = seed;
    own.deeds = deeds;
    own.turned.clear();
    for (const [name, values] of turned) own.turned.set(name, values);
    own.chosen.clear();
    for (const [name, options] of chosen) own.chosen.set(name, options);
    Object.assign(own.clock, clock);
    this.run = own.fresh();
    this.looking = own.fresh();
  }

  playTo(run: Run, at: number) {
    this.player.playTo(run, at);
  }

  /** A function of the moment that gives the value of a lane in A, for the first lamp; null if A has no such value. */
  levels(light: Light, value: LaneValue): ((at: number) => number | null) | null {
    const own = this.info.lights.find(({ name }) => name === light.name);
    const level = own && value.level ? own.fields[value.level] : undefined;
    if (!own || !level || own.spark) return null;
    const { book } = this.player;
    return (at) => {
      this.player.playTo(this.looking, at);
      const known = this.lamps.get(own.name);
      const lamp: Lamp = own.array ? book[own.read](this.looking, 0, known) : book[own.read](this.looking, known);
      this.lamps.set(own.name, lamp);
      const v = value.part === null ? lamp[level] : (lamp[level] as number[])[value.part];
      return Number(v);
    };
  }

  /** In what B differs from A over a span, in words and figures. */
  differences(app: App, span: { from: number; to: number }, rehearsal: string): Promise<Differences | null> {
    const texts = this.texts.map(({ name, text }) => [name, text]);
    const seed = this.acts().seed ?? app.info?.seed ?? 0;
    return app.hands.compared<Differences>("/differs", { texts, book: this.other, seed, rehearsal: rehearsal || null, ...span });
  }

  /** Whether the texts of B differ from those of A. */
  differs(app: App): boolean {
    return this.texts.some(({ name, text }) => app.text(name)?.text !== text);
  }

  /** Restores the texts of A; each file is one undoable change. */
  async back(app: App): Promise<void> {
    for (const { name, text } of this.texts) {
      if (app.text(name) && app.text(name)!.text !== text) await app.do(name, "back to A", [{ text: { to: text } }]);
    }
  }
}
