// A standard MIDI controller: its knobs move sliders and its keys press buttons. An unbound knob or key is bound to the
// focused slider or button; bindings are stored.

/** The meaning of a message: a moved control with its value from 0 to 1, or a pressed key. */
export function meaningOf(data: ArrayLike<number>): { from: string; value: number | null } | null {
  const [status = 0, first = 0, second = 0] = [data[0], data[1], data[2]];
  const channel = status & 0x0f;
  switch (status & 0xf0) {
    case 0xb0:
      return { from: `control ${channel} ${first}`, value: Math.min(127, second) / 127 };
    case 0x90:
      return second > 0 ? { from: `key ${channel} ${first}`, value: null } : null;
    default:
      return null;
  }
}

const KEPT = "caltrin midi";

export class Midi {
  /** The name of the slider or button that each control or key is bound to. */
  private bound: Record<string, string> = {};
  /** The latest value of each slider; they are applied once per frame, however many messages come. */
  private readonly waiting = new Map<string, number>();
  private access: MIDIAccess | null = null;

  constructor(
    private readonly parent: HTMLElement,
    private readonly tell: (words: string, wrong: boolean) => void,
  ) {
    try {
      const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "{}");
      if (kept && typeof kept === "object") this.bound = kept as Record<string, string>;
    } catch {
      // Bindings that cannot be read are made again.
    }
  }

  /** Connects all controllers, now and when they are plugged in. */
  async connect() {
    if (!("requestMIDIAccess" in navigator)) return this.tell("this browser has no MIDI", true);
    try {
      this.access = await navigator.requestMIDIAccess();
    } catch (why) {
      return this.tell(`no MIDI controller: ${(why as Error).message}`, true);
    }
    const listen = () => {
      for (const input of this.access!.inputs.values()) input.onmidimessage = (event) => event.data && this.take(event.data);
    };
    this.access.onstatechange = listen;
    listen();
    const names = [...this.access.inputs.values()].map(({ name }) => name ?? "a controller");
    this.tell(names.length ? `connected: ${names.join(", ")}; focus a slider or event and move a knob or press a key to bind it` : "no MIDI controller is connected yet", false);
  }

  /** Removes all bindings. */
  forget() {
    this.bound = {};
    localStorage.removeItem(KEPT);
    this.tell("all MIDI bindings are gone", false);
  }

  private named(name: string): HTMLElement | null {
    const all = [...this.parent.querySelectorAll<HTMLElement>("input[type=range][aria-label], .events button")];
    return all.find((one) => (one.getAttribute("aria-label") ?? one.textContent) === name) ?? null;
  }

  /** Handles a message of a controller. */
  take(data: ArrayLike<number>) {
    const meaning = meaningOf(data);
    if (!meaning) return;
    const { from, value } = meaning;
    const focused = document.activeElement;
    const fits = focused instanceof HTMLElement && this.parent.contains(focused) && focused.matches(value === null ? ".events button" : "input[type=range]");
    // It goes to what it was bound to, or is bound to what has the focus.
    const known = this.bound[from];
    const name = known && this.named(known) ? known : fits ? (focused.getAttribute("aria-label") ?? focused.textContent ?? "") : null;
    if (!name) return;
    if (this.bound[from] !== name) {
      this.bound[from] = name;
      localStorage.setItem(KEPT, JSON.stringify(this.bound));
      this.tell(`${from} is bound to ${name}`, false);
    }
    if (value === null) return this.named(name)?.click();
    if (this.waiting.size === 0) requestAnimationFrame(() => this.move());
    this.waiting.set(name, value);
  }

  private move() {
    for (const [name, value] of this.waiting) {
      const slider = this.named(name);
      if (!(slider instanceof HTMLInputElement)) continue;
      const [least, most] = [Number(slider.min), Number(slider.max)];
      slider.value = String(least + value * (most - least));
      slider.dispatchEvent(new Event("input"));
    }
    this.waiting.clear();
  }
}
