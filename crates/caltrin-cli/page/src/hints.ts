// Three hints for a first visit, each where it is needed. A hint is gone for good once it is closed or followed.

import { $, element } from "./dom";

type Hint = "lanes" | "view" | "commands";

const WORDS: Record<Hint, { parent: string; words: string }> = {
  lanes: { parent: "middle", words: "Click the name of a light: everything that feeds it can be changed in the controls." },
  view: { parent: "view-box", words: "Drag a lamp to move it. Add puts a new one where you click." },
  commands: { parent: "status-box", words: "Ctrl K lists everything that can be done here, with its keys." },
};
const KEPT = "caltrin hints";

export class Hints {
  private readonly shown = new Map<Hint, HTMLElement>();
  private gone: Hint[] = [];

  constructor() {
    try {
      const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "[]");
      if (Array.isArray(kept)) this.gone = kept as Hint[];
    } catch {
      // Hints that cannot be read are shown again.
    }
  }

  /** Shows the remaining hints. */
  show() {
    for (const hint of Object.keys(WORDS) as Hint[]) {
      if (this.gone.includes(hint) || this.shown.has(hint)) continue;
      const { parent, words } = WORDS[hint];
      const close = element("button", { textContent: "Got it", onclick: () => this.done(hint) });
      close.setAttribute("aria-label", `Got it: ${words}`);
      const note = element("div", { className: `hint ${hint}` }, element("span", { textContent: words }), close);
      note.setAttribute("role", "note");
      $(parent).append(note);
      this.shown.set(hint, note);
    }
  }

  /** Removes a hint. */
  done(hint: Hint) {
    if (this.gone.includes(hint)) return;
    this.gone.push(hint);
    this.shown.get(hint)?.remove();
    localStorage.setItem(KEPT, JSON.stringify(this.gone));
  }
}
