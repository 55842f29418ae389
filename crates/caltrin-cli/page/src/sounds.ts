// The sounds of the book, played where the exported code says they are.

import type { Lamp, Module, Run, Sound } from "./book";
import { reach } from "./reach";

/** How far a sound may lie from its place before it is set again, in seconds; what is less is caught up with. */
const APART = 0.25;

interface Playing {
  sound: Sound;
  version: string;
  audio: HTMLAudioElement | null;
  last: { now: number; place: number } | null;
  read: Lamp | undefined;
  place: number;
  rate: number | undefined;
}

export class Sounds {
  on = false;
  private all: Playing[] = [];

  /** Whether there is anything to listen to. */
  get any() {
    return this.all.some(({ sound }) => sound.file);
  }

  /** Takes the sounds of a book that was saved. */
  take(sounds: Sound[], version: string) {
    for (const { audio } of this.all) audio?.pause();
    this.all = sounds.map((sound) => ({ sound, version, audio: null, last: null, read: undefined, place: 0, rate: undefined }));
  }

  /** Fetched whole, so that any place of it can be gone to. */
  private async fetch(one: Playing) {
    const audio = new Audio();
    one.audio = audio;
    const answer = await reach(`${one.sound.file}?v=${one.version}`);
    if (answer.ok) audio.src = URL.createObjectURL(await answer.blob());
  }

  /** Brings what is heard to where the run is. */
  follow(book: Module, run: Run, now: number, playing: boolean) {
    for (const one of this.all) {
      const { sound } = one;
      const read: Lamp = book[sound.read](run, one.read);
      one.read = read;
      const place = read[sound.place] as number;
      const on = this.on && playing && (!sound.plays || read[sound.plays]) && place < sound.length;
      const passed = one.last === null ? 0 : now - one.last.now;
      const rate = one.last && passed > 0 ? (place - one.last.place) / passed : 1;
      one.last = { now, place };
      one.place = place;
      if (!on || !sound.file) {
        one.audio?.pause();
        continue;
      }
      if (!one.audio) void this.fetch(one);
      const { audio } = one;
      if (!audio || audio.readyState < 2) continue;
      // A turn of one that loops is not a speed.
      if (rate > 0.06 && rate < 16) one.rate = rate;
      const late = place - audio.currentTime;
      const wanted = (one.rate ?? 1) * (1 + Math.min(0.1, Math.max(-0.1, late)));
      if (Math.abs(wanted - audio.playbackRate) > 0.01) audio.playbackRate = wanted;
      if (Math.abs(late) > APART * Math.max(1, wanted)) audio.currentTime = place;
      if (passed > 0 && rate === 0) audio.pause();
      else if (audio.paused) audio.play().catch(() => undefined);
    }
  }

  private context: AudioContext | null = null;

  /** A short click, where the book sends a notice. */
  tick() {
    if (!this.on) return;
    this.context ??= new AudioContext();
    const { context } = this;
    const [tone, gain] = [context.createOscillator(), context.createGain()];
    const now = context.currentTime;
    tone.frequency.value = 1600;
    gain.gain.setValueAtTime(0.12, now);
    gain.gain.exponentialRampToValueAtTime(0.001, now + 0.03);
    tone.connect(gain).connect(context.destination);
    tone.start(now);
    tone.stop(now + 0.03);
  }

  /** For whoever looks on from outside: where each sound is, and what is heard of it. */
  heard() {
    return this.all.map(({ sound, place, audio }) => ({ name: sound.name, place, at: audio?.currentTime ?? null, plays: audio !== null && !audio.paused }));
  }
}
