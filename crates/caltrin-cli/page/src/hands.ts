// What the page does to the book: each act is an operation on one exact text. While a hand drags, one request is on its
// way at a time, and the latest one waits.

import type { Span, Vec3 } from "./book";
import { reach } from "./reach";

export type Op =
  | { number: { at: Span; to: number } }
  | { hour: { at: Span; to: number } }
  | { color: { at: Span; to: string } }
  | { point: { at: Span; to: Vec3 } }
  | { on: { at: Span; to: boolean } }
  | { expression: { at: Span; to: string } }
  | { easing: { at: Span; to: string | null } }
  | { move_stops: { curve: string; to: [number, number][] } }
  | { add_stop: { curve: string; position: number; values: string[]; easing: string | null } }
  | { remove_stop: { curve: string; n: number } }
  | { duplicate_stop: { curve: string; n: number; position: number } }
  | { stops: { curve: string; stops: [number, string[], string | null][] } }
  | { seed: { of: string; to: number } }
  | { use: { file: string } }
  | { length: { curve: string; to: number | null } }
  | { times: { of: string; word: string; by: string } }
  | { line: { of: string; word: string; to: string } }
  | { remove_line: { of: string; word: string } }
  | { declaration: { text: string; after: string | null } }
  | { duplicate: { name: string; copy: string; by: Vec3 } }
  | { remove_declaration: { name: string } }
  | { time: { at: Span; to: number } }
  | { rehearsal_line: { of: string; at: number; text: string } }
  | { stock: { at: Span; to: string } }
  | { text: { to: string } }
  | { format: Record<string, never> };

export interface Edit {
  file: string;
  /** The hash of the text that it is for. */
  hash: string;
  gesture?: string;
  words: string;
  ops: Op[];
  rests?: boolean;
}

/** Why something was not done. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export class Hands {
  private waiting: { edit: Edit; done: (hash: string | null) => void } | null = null;
  private busy = false;
  private gestures = 0;

  constructor(
    private readonly key: string,
    /** Tells what was done or why not. */
    readonly tell: (words: string, wrong: boolean) => void,
  ) {}

  /** The name of a new gesture. */
  gesture(): string {
    this.gestures += 1;
    return `${Date.now().toString(36)}-${this.gestures}`;
  }

  private async post(path: string, body: unknown): Promise<Record<string, string>> {
    // For whoever looks on from outside: how many requests are on their way.
    const open = (by: number) => (document.body.dataset.open = String(Number(document.body.dataset.open ?? 0) + by));
    open(1);
    const headers = { "content-type": "application/json", "x-caltrin-key": this.key };
    const answer = await reach(path, { method: "POST", headers, body: JSON.stringify(body) }).finally(() => open(-1));
    const told = await answer.json().catch(() => ({ why: "the server does not answer" }));
    if (!answer.ok) throw new Refused(told.why, answer.status);
    return told;
  }

  /**
   * Makes an edit. Of edits of one gesture that come faster than they are made only the latest counts. Gives the hash of the text after
   * it, or null if it was not made.
   */
  edit(edit: Edit): Promise<string | null> {
    return new Promise((done) => {
      this.waiting?.done(null);
      this.waiting = { edit, done };
      if (!this.busy) void this.next();
    });
  }

  private async next() {
    this.busy = true;
    while (this.waiting) {
      const { edit, done } = this.waiting;
      this.waiting = null;
      try {
        const { hash } = await this.post("/edit", edit);
        this.tell(edit.words, false);
        done(hash ?? null);
      } catch (why) {
        this.tell((why as Error).message, true);
        done(null);
      }
    }
    this.busy = false;
  }

  /** Asks for something else than an edit; whether it was done. */
  async ask(path: "/rest" | "/undo" | "/redo" | "/settle" | "/restore", body: unknown = {}): Promise<boolean> {
    // What the hand did comes first.
    while (this.busy) await new Promise((resolve) => setTimeout(resolve, 5));
    try {
      const { words } = await this.post(path, body);
      if (words) this.tell(path === "/undo" ? `undone: ${words}` : path === "/redo" ? `again: ${words}` : words, false);
      return true;
    } catch (why) {
      this.tell((why as Error).message, true);
      return false;
    }
  }

  /** Asks for something about another version; null if that cannot be told. */
  async compared<T>(path: "/other" | "/differs", body: unknown): Promise<T | null> {
    try {
      return (await this.post(path, body)) as unknown as T;
    } catch (why) {
      this.tell((why as Error).message, true);
      return null;
    }
  }

  /** Asks what some variants would be like; null if that cannot be told. */
  async attempt<T>(body: unknown): Promise<T | null> {
    try {
      return (await this.post("/try", body)) as unknown as T;
    } catch (why) {
      this.tell((why as Error).message, true);
      return null;
    }
  }

  rests(): Promise<boolean> {
    return this.ask("/rest");
  }
}
