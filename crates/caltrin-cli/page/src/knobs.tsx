// The knobs of what is selected: every literal that feeds it, through signals, behaviors, fittings and used books.

import { useEffect, useRef, useState } from "preact/hooks";
import { type App, Gesture, nameOf } from "./app";
import type { Knob, Knobs, Vec3 } from "./book";
import { Feeds } from "./feeds";
import { lineAt } from "./grip";
import type { Op } from "./hands";
import { hourText, plain } from "./number";
import { ColorButton } from "./picker";
import { SpinButton } from "./spin";

/** Reads the knobs of what is selected again whenever the book has changed, but not while a hand turns one. */
function useKnobs(app: App): { of: string | null; knobs: Knobs | null; hold: { held: boolean }; again: () => void } {
  const [knobs, setKnobs] = useState<Knobs | null>(null);
  const [of, setOf] = useState<string | null>(null);
  const hold = useRef({ held: false }).current;
  const asked = useRef(0);
  const read = async () => {
    const name = app.selected?.name ?? null;
    if (hold.held) return;
    asked.current += 1;
    const own = asked.current;
    const found = name === null ? null : await app.knobs(name);
    if (own !== asked.current || hold.held) return;
    setOf(name);
    setKnobs(found);
  };
  useEffect(() => {
    void read();
    return app.listen(() => void read());
  }, []);
  return { of, knobs, hold, again: () => void read() };
}

export function KnobPanel({ app, tries }: { app: App; tries: (way: "seeds" | "neighbors" | "stock") => void }) {
  const { of, knobs, hold, again } = useKnobs(app);
  const [all, setAll] = useState(false);
  if (!of) {
    return <p class="quiet">Select a light by its name, or its lamp in the place: everything that feeds it can be turned here.</p>;
  }
  if (!knobs) return <p class="quiet">`{of}` is not in the book.</p>;
  const groups = new Map<string, Named[]>();
  const literals = named(knobs.literals, app.info?.curves.filter(({ name }) => knobs.curves.includes(name)) ?? []);
  for (const one of literals) {
    const group = one.knob.path.slice(0, 2).join(" ");
    groups.set(group, [...(groups.get(group) ?? []), one]);
  }
  const FEW = 40;
  let left = all ? Infinity : FEW;
  return (
    <div class="knobs">
      <Feeds app={app} light={of} tries={tries} />
      {[...groups].map(([group, own]) => {
        const shown = own.slice(0, Math.max(0, left));
        left -= own.length;
        return (
          shown.length > 0 && (
            <fieldset key={group}>
              <legend>{group}</legend>
              {shown.map(({ knob, name, within }) => (
                <KnobRow key={name} app={app} knob={knob} name={name} within={within} hash={knob.file === null ? "" : (knobs.hashes[knob.file] ?? "")} hold={hold} again={again} />
              ))}
            </fieldset>
          )
        );
      })}
      {literals.length > FEW && !all && <button onClick={() => setAll(true)}>All {literals.length} knobs</button>}
      {knobs.curves.length > 0 && (
        <p>
          Curves:{" "}
          {knobs.curves.map((curve) => (
            <button key={curve} onClick={() => app.open(curve)}>
              {curve}
            </button>
          ))}
        </p>
      )}
      {knobs.literals.length === 0 && <p class="quiet">No literal feeds it.</p>}
    </div>
  );
}

/** A knob with its name, and what it is called within its channel. */
interface Named {
  knob: Knob;
  name: string;
  within: string;
}

/** Knobs with names of their own: the second of a name has a 2. Stops of curves are left to the curve editor. */
export function named(knobs: Knob[], curves: { file: string; at: [number, number] }[]): Named[] {
  const times = new Map<string, number>();
  const inCurve = (knob: Knob) => curves.some(({ file, at }) => file === knob.file && at[0] <= knob.at[0] && knob.at[1] <= at[1]);
  return knobs
    .filter((knob) => !inCurve(knob))
    .map((knob) => {
      const path = nameOf(knob);
      const nth = (times.get(path) ?? 0) + 1;
      times.set(path, nth);
      const more = nth > 1 ? ` ${nth}` : "";
      return { knob, name: `${path}${more}`, within: `${knob.path.slice(2).join(" ") || (knob.path[1] ?? "")}${more}` };
    });
}

interface Row {
  app: App;
  knob: Knob;
  name: string;
  within: string;
  hash: string;
  hold: { held: boolean };
  again: () => void;
}

function KnobRow({ app, knob, name, within, hash, hold, again }: Row) {
  const gesture = useRef<Gesture | null>(null);
  const [turned, setTurned] = useState<string | null>(null);
  const free = app.free && knob.file !== null;
  const begins = () => {
    hold.held = true;
    gesture.current = new Gesture(app, knob.file ?? "", hash);
  };
  const turns = (op: Op, to: string) => {
    setTurned(to);
    gesture.current?.to(`${name}: ${knob.text} to ${to}`, [op]);
  };
  const ends = async () => {
    await gesture.current?.ends();
    gesture.current = null;
    hold.held = false;
    setTurned(null);
    again();
  };
  const where = knob.file === null ? "in the stock" : knob.file;
  const title = `${knob.text} in ${where}`;
  const hint = () => {
    if (hold.held || !free || knob.file === null) return;
    const line = lineAt(app.text(knob.file)?.text ?? "", knob.at[0]);
    app.hands.tell(`${name}: writes ${knob.text} in line ${line} of ${knob.file}`, false);
  };
  const shows = () => knob.file !== null && app.mark(knob.file, knob.at);
  const spin = (label: string, value: number, op: (to: number) => Op) => (
    <SpinButton
      label={label}
      value={value}
      bounds={knob.bounds}
      step={knob.step}
      size={knob.size}
      unit={knob.unit}
      free={free}
      title={title}
      begins={begins}
      turns={(to) => turns(op(to), `${plain(to / knob.size)}${knob.unit}`)}
      ends={() => void ends()}
      shows={shows}
    />
  );
  const control = () => {
    switch (knob.kind) {
      case "color":
        return (
          <ColorButton
            label={name}
            text={turned ?? knob.text}
            value={knob.value as Vec3}
            free={free}
            title={title}
            begins={begins}
            turns={(to) => turns({ color: { at: knob.at, to } }, to)}
            ends={() => void ends()}
          />
        );
      case "on":
        return (
          <input
            type="checkbox"
            aria-label={name}
            checked={knob.value as boolean}
            disabled={!free}
            onChange={(event) => {
              const to = event.currentTarget.checked;
              begins();
              turns({ on: { at: knob.at, to } }, to ? "on" : "off");
              void ends();
            }}
          />
        );
      case "hour":
        return (
          <SpinButton
            label={name}
            value={knob.value as number}
            bounds={[0, 24 - 1 / 60]}
            step={5 / 60}
            size={1}
            unit=""
            say={hourText}
            read={(text) => {
              const found = /^(\d{1,2}):(\d\d)$/.exec(text.trim());
              return found && Number(found[1]) < 24 && Number(found[2]) < 60 ? Number(found[1]) + Number(found[2]) / 60 : null;
            }}
            free={free}
            title={title}
            begins={begins}
            turns={(to) => turns({ hour: { at: knob.at, to } }, hourText(to))}
            ends={() => void ends()}
            shows={shows}
          />
        );
      case "point": {
        const point = knob.value as Vec3;
        return (
          <span class="point">
            {(["x", "y", "z"] as const).map((axis, n) => (
              <span key={axis}>
                {spin(`${name} ${axis}`, point[n]!, (to) => ({ point: { at: knob.at, to: point.map((v, k) => (k === n ? to : v)) as Vec3 } }))}
              </span>
            ))}
          </span>
        );
      }
      default:
        return spin(name, knob.value as number, (to) => ({ number: { at: knob.at, to } }));
    }
  };
  return (
    <div class="knob" onPointerEnter={hint} onFocusIn={hint}>
      <span class="within" title={knob.path.join(" › ")}>
        {within}
      </span>
      {control()}
    </div>
  );
}
