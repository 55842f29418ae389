// A number that is dragged, stepped by keys, or typed. Nothing of it is written before it changes.

import { useEffect, useRef, useState } from "preact/hooks";
import { plain, snapped, typed } from "./number";

export interface Spin {
  label: string;
  /** In base units. */
  value: number;
  bounds: [number, number];
  step: number;
  /** How much one of the unit is in base units, and the unit. */
  size: number;
  unit: string;
  /** How the value is told, where it is not a number with a unit. */
  say?: (value: number) => string;
  read?: (text: string) => number | null;
  free: boolean;
  /** Where the value comes from, for a tooltip. */
  title?: string;
  begins(): void;
  turns(value: number): void;
  ends(): void;
  /** It has the focus, or the pointer is over it. */
  shows?: () => void;
}

/** How far the pointer goes for one step, in pixels. */
const STEP = 4;

export function SpinButton(props: Spin) {
  const { label, bounds, size, unit } = props;
  const [local, setLocal] = useState<number | null>(null);
  const [typing, setTyping] = useState(false);
  const hand = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  const settled = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const first = useRef(props.value);
  const value = local ?? props.value;
  // What a hand has set is shown until the book has it.
  const left = useRef(false);
  useEffect(() => {
    if (left.current) setLocal(null);
  }, [props.value]);
  const ends = () => {
    left.current = true;
    props.ends();
    clearTimeout(settled.current);
    settled.current = setTimeout(() => left.current && setLocal(null), 2000);
  };
  const say = props.say ?? ((v: number) => `${plain(v / size)}${unit}`);
  const inside = (v: number) => Math.min(bounds[1], Math.max(bounds[0], v));
  const turn = (v: number, step: number) => {
    const next = inside(snapped(v, step));
    setLocal(next);
    props.turns(next);
  };
  const fine = (event: { shiftKey: boolean; ctrlKey: boolean }) => (event.shiftKey ? 0.1 : event.ctrlKey ? 10 : 1);
  /** By keys a gesture ends when they rest. */
  const byKey = (v: number, step: number) => {
    if (local === null || left.current) props.begins();
    left.current = false;
    turn(v, step);
    clearTimeout(settled.current);
    settled.current = setTimeout(ends, 500);
  };
  const accept = (text: string) => {
    setTyping(false);
    const read = props.read ? props.read(text) : typed(text, size, unit);
    if (read === null || read === props.value) return;
    props.begins();
    props.turns(read);
    props.ends();
  };
  if (typing) {
    return (
      <input
        class="spin"
        aria-label={label}
        value={say(value)}
        ref={(input) => input?.select()}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") accept(event.currentTarget.value);
          if (event.key === "Escape") setTyping(false);
        }}
        onBlur={(event) => accept(event.currentTarget.value)}
      />
    );
  }
  return (
    <span
      class="spin"
      role="spinbutton"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={Number(plain(value / size))}
      aria-valuemin={Number(plain(bounds[0] / size))}
      aria-valuemax={Number(plain(bounds[1] / size))}
      aria-valuetext={say(value)}
      aria-disabled={!props.free}
      title={props.title}
      onFocus={props.shows}
      onPointerDown={(event) => {
        if (!props.free || event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        hand.current = { x: event.clientX, from: value, moved: false };
        first.current = props.value;
      }}
      onPointerMove={(event) => {
        const held = hand.current;
        if (!held) return;
        const steps = Math.round((event.clientX - held.x) / STEP);
        if (!held.moved && steps === 0) return;
        if (!held.moved) props.begins();
        held.moved = true;
        left.current = false;
        const step = props.step * fine(event);
        turn(held.from + steps * step, step);
      }}
      onPointerUp={() => {
        const held = hand.current;
        hand.current = null;
        if (!held) return;
        if (!held.moved) return setTyping(true);
        ends();
      }}
      onKeyDown={(event) => {
        if (!props.free) return;
        const step = props.step * fine(event);
        const by: Record<string, number> = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 };
        const steps = by[event.key];
        if (steps !== undefined) byKey(value + steps * step, step);
        else if (event.key === "Home") byKey(bounds[0], props.step);
        else if (event.key === "End") byKey(bounds[1], props.step);
        else if (event.key === "Enter") setTyping(true);
        else if (event.key === "Escape" && local !== null) byKey(first.current, 1e-9);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {say(value)}
    </span>
  );
}
