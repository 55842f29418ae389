// A color: by lightness, chroma and hue (OKLCH), as `#rrggbb`, or by kelvins. It is written in the notation that the hand
// used last.

import { useState } from "preact/hooks";
import type { Vec3 } from "./book";
import { hex, kelvins, mostChroma, ofHex, ofOklch, oklchOf } from "./color";
import { plain } from "./number";

/** The standard way of browsers to take a color from the screen, where there is one. */
interface EyeDropper {
  open(): Promise<{ sRGBHex: string }>;
}

interface Picker {
  label: string;
  text: string;
  value: Vec3;
  free: boolean;
  title?: string;
  begins(): void;
  turns(text: string): void;
  ends(): void;
}

export function ColorButton(props: Picker) {
  const [open, setOpen] = useState(false);
  return (
    <span class="color">
      <button
        class="chip"
        aria-label={`${props.label}: ${props.text}`}
        aria-expanded={open}
        title={props.title ?? props.text}
        disabled={!props.free}
        onClick={() => setOpen(!open)}
      >
        <span class="swatch" ref={(swatch) => swatch?.style.setProperty("background", hex(props.value))} />
        {props.text}
      </button>
      {open && <ColorFields {...props} closes={() => setOpen(false)} />}
    </span>
  );
}

function ColorFields(props: Picker & { closes: () => void }) {
  const [local, setLocal] = useState<{ l: number; c: number; h: number } | null>(null);
  const now = local ?? oklchOf(props.value);
  const kelvin = kelvins(props.text);
  const most = mostChroma(now.l, now.h);
  const [held, setHeld] = useState(false);
  const begin = () => {
    if (!held) props.begins();
    setHeld(true);
  };
  const rest = () => {
    if (!held) return;
    setHeld(false);
    setLocal(null);
    props.ends();
  };
  const turn = (next: typeof now) => {
    begin();
    const fits = { ...next, c: Math.min(next.c, mostChroma(next.l, next.h)) };
    setLocal(fits);
    props.turns(hex(ofOklch(fits)));
  };
  const screen = (window as { EyeDropper?: new () => EyeDropper }).EyeDropper;
  const take = async () => {
    // Given up with Escape it is an error.
    const taken = screen && (await new screen().open().catch(() => null));
    if (!taken || !ofHex(taken.sRGBHex)) return;
    props.begins();
    props.turns(taken.sRGBHex.toLowerCase());
    props.ends();
  };
  const slider = (part: "l" | "c" | "h", name: string, max: number, step: number) => (
    <label>
      {name}
      <input
        type="range"
        min={0}
        max={max}
        step={step}
        value={now[part]}
        aria-label={`${props.label} ${name}`}
        onInput={(event) => turn({ ...now, [part]: event.currentTarget.valueAsNumber })}
        onChange={rest}
      />
      <output>{part === "l" ? `${plain(now.l * 100, 3)}%` : part === "c" ? plain(now.c, 3) : `${plain(now.h, 3)}deg`}</output>
    </label>
  );
  return (
    <div
      class="picker"
      role="group"
      aria-label={`${props.label} color`}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === "Escape") props.closes();
      }}
    >
      {slider("l", "lightness", 1, 0.005)}
      {slider("c", "chroma", Math.max(0.02, most), 0.002)}
      {slider("h", "hue", 360, 1)}
      <label>
        kelvins
        <input
          type="range"
          min={1000}
          max={12000}
          step={50}
          value={kelvin ?? 2700}
          aria-label={`${props.label} kelvins`}
          onInput={(event) => {
            begin();
            props.turns(`${event.currentTarget.value}K`);
          }}
          onChange={rest}
        />
        <output>{kelvin === null ? "" : `${kelvin}K`}</output>
      </label>
      {screen && (
        <button onClick={() => void take()} title="Take the color of anything on the screen">
          Take from the screen
        </button>
      )}
      <label>
        as text
        <input
          type="text"
          value={props.text}
          aria-label={`${props.label} as text`}
          onChange={(event) => {
            const text = event.currentTarget.value.trim();
            if (text === props.text) return;
            props.begins();
            props.turns(ofHex(text) ? text.toLowerCase() : text);
            props.ends();
          }}
        />
      </label>
    </div>
  );
}
