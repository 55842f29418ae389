// What the parts of the page share: the book as it is shown, what is selected, and what the hands do.

import type { Info, Knob, Knobs, Text } from "./book";
import type { Edit, Hands, Op } from "./hands";
import type { Player } from "./player";
import { reach } from "./reach";

export interface Selected {
  /** A light, output, curve, signal or another name of the book. */
  name: string;
  /** The lamp of an array. */
  index: number;
}

/** What the page shows, and who wants to know when it changes. */
export class App {
  info: Info | null = null;
  player: Player | null = null;
  /** The moment that is shown, in seconds of the run. */
  now = 0;
  selected: Selected | null = null;
  /** The curve that is open. */
  curve: string | null = null;
  /** Bytes of a file that are marked in the text. */
  marked: { file: string; at: [number, number] } | null = null;
  private readonly listeners = new Set<(what: "book" | "selection") => void>();

  constructor(readonly hands: Hands) {}

  listen(listener: (what: "book" | "selection") => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  changed(what: "book" | "selection") {
    for (const listener of this.listeners) listener(what);
  }

  select(name: string | null, index = 0) {
    this.selected = name === null ? null : { name, index };
    this.changed("selection");
  }

  open(curve: string | null) {
    this.curve = curve;
    this.changed("selection");
  }

  mark(file: string, at: [number, number]) {
    this.marked = { file, at };
    this.changed("selection");
  }

  text(file: string): Text | undefined {
    return this.info?.texts.find((text) => text.name === file);
  }

  /** Whether hands can change anything. */
  get free(): boolean {
    return this.info !== null && !this.info.readOnly;
  }

  /** An act without a gesture: it is written at once. */
  do(file: string, words: string, ops: Op[]): Promise<string | null> {
    const text = this.text(file);
    if (!text) return Promise.resolve(null);
    return this.hands.edit({ file, hash: text.hash, words, ops, rests: true });
  }

  async knobs(of: string, channel?: string): Promise<Knobs | null> {
    const query = new URLSearchParams({ of, ...(channel ? { channel } : {}) });
    const answer = await reach(`/knobs.json?${query}`);
    return answer.ok ? answer.json() : null;
  }
}

/**
 * A gesture: all its edits are for the text that it began with, and the last of them counts. Two texts are never changed by
 * one.
 */
export class Gesture {
  private readonly name: string;
  private moved = false;

  constructor(
    private readonly app: App,
    private readonly file: string,
    private readonly hash: string,
  ) {
    this.name = app.hands.gesture();
  }

  /** The gesture has come to this. */
  to(words: string, ops: Op[]): void {
    this.moved = true;
    const edit: Edit = { file: this.file, hash: this.hash, gesture: this.name, words, ops };
    void this.app.hands.edit(edit);
  }

  /** The hand lets go. */
  async ends(): Promise<void> {
    if (this.moved) await this.app.hands.rests();
  }
}

/** What a knob is called, by what it feeds. */
export function nameOf(knob: Knob): string {
  return knob.path.join(" ");
}
