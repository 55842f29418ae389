// The steps of sequences and the lines of a rehearsal as sliders on their lanes; moving one edits its time.

import { type App, Gesture } from "./app";
import type { Script, ScriptLine } from "./book";
import { lineAt } from "./grip";
import type { Op } from "./hands";
import { plain, roundStep, snapped } from "./number";
import type { BandLane, Visible } from "./sheet";

interface Track {
  kind: "sequence" | "rehearsal";
  name: string;
  element: HTMLElement;
  band: BandLane | null;
  sliders: HTMLButtonElement[];
}

/** The part that a slider moves: a line, or its second time. */
interface Part {
  n: number;
  end: boolean;
}

/** The finest step of times, in seconds. */
const FINE = 0.01;

/** The range of a line's time: from that of the line before to that of the line after. */
export function roomOf(lines: ScriptLine[], n: number): [number, number] {
  const after = lines[n + 1];
  // What counts from this line moves along with it.
  return [lines[n - 1]?.from ?? 0, !after || after.relative ? Infinity : after.from];
}

/** The operation that moves a part of a script to a time, with its words. */
export function moved(script: Script, { n, end }: Part, to: number): { words: string; ops: Op[] } {
  const line = script.lines[n]!;
  if (end && line.end) {
    const at = Math.max(line.from, to);
    return { words: `${script.name}: ${line.text} until ${plain(at)}s`, ops: [{ number: { at: line.end, to: at } }] };
  }
  const [least, most] = roomOf(script.lines, n);
  const at = Math.min(most, Math.max(least, to));
  return { words: `${script.name}: ${line.text} at ${plain(at)}s`, ops: [{ time: { at: line.at, to: at } }] };
}

export class Steps {
  private tracks: Track[] = [];
  private span: Visible = { from: 0, to: 1 };
  private held = false;

  constructor(private readonly app: App) {
    app.listen((what) => what === "book" && this.follow());
  }

  /** Removes all lanes. */
  clear() {
    this.tracks = [];
  }

  /** Puts sliders over the canvas of a lane. */
  track(kind: Track["kind"], name: string, canvas: HTMLElement, band: BandLane | null): HTMLElement {
    const element = document.createElement("div");
    element.className = `track ${kind}`;
    element.append(canvas);
    this.tracks.push({ kind, name, element, band, sliders: [] });
    this.follow();
    return element;
  }

  private scriptOf({ kind, name }: Track): Script | undefined {
    const { info } = this.app;
    return (kind === "sequence" ? info?.sequences : info?.scripts)?.find((script) => script.name === name);
  }

  private parts(script: Script): Part[] {
    return script.lines.flatMap((line, n): Part[] => (line.end && !line.relative ? [{ n, end: false }, { n, end: true }] : [{ n, end: false }]));
  }

  /** Updates the sliders from the book; they are kept while their number stays the same. */
  private follow() {
    for (const track of this.tracks) {
      const script = this.scriptOf(track);
      const parts = script ? this.parts(script) : [];
      while (track.sliders.length > parts.length) track.sliders.pop()!.remove();
      while (track.sliders.length < parts.length) {
        const slider = this.slider(track, track.sliders.length);
        track.sliders.push(slider);
        track.element.append(slider);
      }
      if (!script) continue;
      parts.forEach(({ n, end }, k) => {
        const line = script.lines[n]!;
        const at = end ? line.to : line.from;
        const slider = track.sliders[k]!;
        const what = `${script.name} ${track.kind === "sequence" ? "step" : "line"} ${n + 1} ${end ? "end" : "time"}`;
        slider.setAttribute("aria-label", what);
        slider.setAttribute("aria-valuenow", plain(at));
        slider.setAttribute("aria-valuetext", `${plain(at)} s: ${line.text}`);
        slider.title = `${plain(at)} s: ${line.text}`;
        slider.classList.toggle("end", end);
        // A rehearsal says what happens; a sequence has its name there.
        slider.textContent = track.kind === "rehearsal" ? line.text : "";
      });
    }
    this.put(this.span);
  }

  /** The start of a lane's script in seconds of the run: the last one before now, else the first in the span; null if it does not play. */
  private startOf(track: Track): number | null {
    if (track.kind === "rehearsal") return 0;
    const starts = track.band?.known() ?? [];
    return starts.filter((at) => at <= this.app.now).at(-1) ?? starts[0] ?? null;
  }

  /** Positions the sliders in the visible span. */
  put(span: Visible) {
    this.span = span;
    for (const track of this.tracks) {
      const script = this.scriptOf(track);
      if (!script) continue;
      const start = this.startOf(track);
      track.element.classList.toggle("idle", start === null);
      const share = (at: number) => ((start ?? span.from) + at - span.from) / (span.to - span.from);
      const parts = this.parts(script);
      parts.forEach(({ n, end }, k) => {
        const line = script.lines[n]!;
        const slider = track.sliders[k];
        if (!slider) return;
        const at = share(end ? line.to : line.from);
        const left = `${(100 * at).toFixed(3)}%`;
        if (slider.style.left !== left) slider.style.left = left;
        slider.hidden = at < -0.001 || at > 1.001;
        if (track.kind !== "rehearsal") return;
        // The words reach to the next line.
        const next = script.lines[n + 1];
        const width = `${(100 * Math.max(0, Math.min(1, next ? share(next.from) : 1) - at)).toFixed(3)}%`;
        if (slider.style.width !== width) slider.style.width = width;
      });
    }
  }

  private slider(track: Track, k: number): HTMLButtonElement {
    const slider = document.createElement("button");
    slider.className = "step";
    slider.setAttribute("role", "slider");
    const found = () => {
      const script = this.scriptOf(track);
      const part = script && this.parts(script)[k];
      return script && part ? { script, part, hash: this.app.text(script.file)?.hash ?? "" } : null;
    };
    const shows = () => {
      const own = found();
      if (!own || this.held) return;
      const { file, lines } = own.script;
      const line = lines[own.part.n]!;
      this.app.mark(file, line.at);
      this.app.hands.tell(`writes the time of "${line.text}" in line ${lineAt(this.app.text(file)?.text ?? "", line.at[0])} of ${file}`, false);
    };
    slider.onfocus = shows;
    slider.onpointerdown = (event) => {
      if (event.button !== 0 || !this.app.free) return;
      event.stopPropagation();
      slider.setPointerCapture(event.pointerId);
      const own = found();
      if (!own) return;
      const { script, part, hash } = own;
      const line = script.lines[part.n]!;
      const before = part.end ? line.to : line.from;
      const width = track.element.getBoundingClientRect().width;
      const seconds = (this.span.to - this.span.from) / Math.max(1, width);
      let gesture: Gesture | null = null;
      const move = (next: PointerEvent) => {
        const dx = next.clientX - event.clientX;
        if (!gesture && Math.abs(dx) < 3) return;
        gesture ??= new Gesture(this.app, script.file, hash);
        this.held = true;
        const step = next.shiftKey ? FINE : Math.max(FINE, roundStep(seconds * 4));
        const { words, ops } = moved(script, part, snapped(before + dx * seconds, step));
        gesture.to(words, ops);
      };
      const done = () => {
        slider.removeEventListener("pointermove", move);
        slider.removeEventListener("pointerup", done);
        slider.removeEventListener("pointercancel", done);
        this.held = false;
        void gesture?.ends();
      };
      slider.addEventListener("pointermove", move);
      slider.addEventListener("pointerup", done);
      slider.addEventListener("pointercancel", done);
    };
    slider.onkeydown = (event) => {
      const by = ({ ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 } as Record<string, number>)[event.key];
      if (by === undefined || !this.app.free || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      event.stopPropagation();
      const own = found();
      if (!own) return;
      const line = own.script.lines[own.part.n]!;
      const step = event.shiftKey ? FINE : 0.1;
      const { words, ops } = moved(own.script, own.part, snapped((own.part.end ? line.to : line.from) + by * step, FINE));
      void this.app.do(own.script.file, words, ops);
    };
    return slider;
  }
}
