// What the page knows of a book: the state that the server tells, and the module of exported code.

export type Vec3 = [number, number, number];
export type Value = number | boolean | Vec3;

/** A run of the exported code; only the module knows what is in it. */
export type Run = Record<string, unknown>;
/** A lamp as the exported code gives it. */
export type Lamp = Record<string, number | boolean | number[]>;

/** The exported module. Its functions have the names of the book. */
export interface Module {
  start(seed: number): Run;
  advance(run: Run, to: number): void;
  clockHour(run: Run): number;
  setClock(run: Run, hour: number): void;
  setClockRate(run: Run, rate: number): void;
  driveClock(run: Run, hour: number): void;
  takeNotice?(run: Run): Notice | null;
  // eslint-disable-next-line @typescript-eslint/no-explicit-any
  [name: string]: any;
}

export interface Notice {
  moment: number;
  name: string;
  text: string;
  from: string;
  lamp: number;
  [field: string]: unknown;
}

/** One value of a light that has a lane. */
export interface LaneValue {
  name: string;
  level: string | null;
  part: number | null;
  hue: string | null;
  bounds: [number, number] | null;
  unit: string;
}

export interface Light {
  name: string;
  kind: string;
  lamps: number;
  size: string;
  array: boolean;
  spark: boolean;
  read: string;
  fill: string;
  fields: Record<string, string>;
  strength: string;
  values: LaneValue[];
  channels: LaneValue[];
  findings: string[];
}

export interface Field {
  name: string;
  kind: string;
  parts: number;
  default: (number | boolean)[];
  lo: number;
  hi: number;
  unit: string;
}

export interface Input extends Field {
  set: string;
  many: boolean;
  count: number;
  about: string;
}

export interface Choice {
  name: string;
  set: string;
  options: string[];
  about: string;
}

export interface BookEvent {
  name: string;
  fire: string;
  count: number | null;
  values: (number | boolean)[];
  fields: Field[];
  about: string;
}

/** What the game does at a moment. */
export interface Deed {
  at: number;
  name?: string;
  values?: (number | boolean)[];
  index?: number;
  indices?: number[];
  given?: (number | boolean)[];
  choice?: string;
  option?: string;
  hour?: number;
  drive?: number;
  rate?: number;
}

export interface Sound {
  name: string;
  read: string;
  place: string;
  plays: string | null;
  length: number;
  loops: boolean;
  rate: number;
  peaks: number[];
  marks: number[];
  file: string | null;
}

export interface Band {
  name: string;
  read: string;
  parts?: { name: string; field: string }[];
  at?: string;
  holds?: string | null;
  end?: number | null;
}

export interface Wall {
  name: string;
  from: Vec3;
  to: Vec3;
  top: number;
}

export interface Post {
  name: string;
  /** Which of an array. */
  index: number;
  at: Vec3;
  radius: number;
  top: number;
}

export interface Solids {
  walls: Wall[];
  posts: Post[];
}

/** Where the module has a value of an output. */
export interface OutputValue {
  read: string;
  field: string;
  /** Whether it is a length, in the units of the book. */
  length: boolean;
}

/** A viewpoint, in meters with y up. */
export interface Eye {
  name: string;
  at: Vec3;
  toward: Vec3;
  /** The angle between the left and the right edge, in degrees. */
  field: number;
  fog: { range: OutputValue; color: OutputValue | null } | null;
  sky: OutputValue | null;
}

/** A picture in the place, in meters with y up: its left upper corner and the edges from there. */
export interface Backdrop {
  picture: string;
  corner: Vec3;
  across: Vec3;
  down: Vec3;
  lies: boolean;
  from: Vec3;
  to: Vec3;
  /** Changes with the file. */
  stamp: number;
}

/** A backdrop as it is written. */
export interface Hanging {
  file: string;
  picture: string;
  at: Span;
  points: [StopValue, StopValue];
}

export interface Space {
  up: "y" | "z";
  unit: number;
  factor: number;
}

/** A text of the book as it is now. */
export interface Text {
  name: string;
  text: string;
  hash: string;
}

export type Span = [number, number];

/** A value of a stop as it is written; one that is no literal has no kind. */
export interface StopValue {
  at: Span;
  text: string;
  kind: "number" | "time" | "hour" | "color" | "point" | "on" | null;
  base: string | null;
  value: Value | null;
}

export interface Stop {
  at: Span;
  position: number;
  values: StopValue[];
  easing: string | null;
}

export interface Curve {
  file: string;
  name: string;
  at: Span;
  columns: string[];
  domain: "time" | "hour" | "number" | null;
  base: string | null;
  /** In seconds, where it is longer than its stops. */
  length: number | null;
  stops: Stop[];
  /** The values of each column at even distances over the span of its stops; of colors three for each. */
  samples?: number[][];
}

/** A step of a sequence, or a line of a rehearsal. */
export interface ScriptLine {
  at: Span;
  /** When it begins and ends, in seconds from the start. */
  from: number;
  to: number;
  /** The bytes of its second time. */
  end: Span | null;
  /** Its time counts from the line before it. */
  relative: boolean;
  text: string;
}

/** A sequence or rehearsal as it is written. */
export interface Script {
  file: string;
  name: string;
  at: Span;
  lines: ScriptLine[];
}

export interface Entry {
  file: string;
  words: string;
  own: boolean;
  at: number;
}

/** All that the server tells. What follows from the last good book is there once there was one. */
export interface Info {
  run: number;
  version: number;
  good: number | null;
  told: string;
  errors: number;
  unwritten: string | null;
  folder: string;
  readOnly: boolean;
  waiting: boolean;
  texts: Text[];
  curves: Curve[];
  sequences: Script[];
  /** The rehearsals as they are written. */
  scripts: Script[];
  hangings: Hanging[];
  history: Entry[];
  undo: boolean;
  redo: boolean;
  refused: Text[];
  name: string;
  seed: number;
  space: Space;
  lights: Light[];
  inputs: Input[];
  choices: Choice[];
  events: BookEvent[];
  notices: Record<string, { name: string; field: string }[]>;
  rehearsals: { name: string; deeds: Deed[]; end: number }[];
  follows: boolean;
  clock: { start: number; rate: number } | null;
  solids: Solids;
  eyes: Eye[];
  backdrops: Backdrop[];
  sounds: Sound[];
  bands: Band[];
  /** The values of each curve of numbers at even distances over its span, by the name of its column. */
  shapes?: Record<string, number[]>;
}

/** A literal that feeds what is selected. */
export interface Knob {
  file: string | null;
  at: Span;
  text: string;
  kind: "number" | "time" | "hour" | "color" | "point" | "on";
  unit: string;
  base: string;
  /** How much one of the unit as it is written is in base units. */
  size: number;
  value: Value;
  bounds: [number, number];
  step: number;
  path: string[];
}

export interface Knobs {
  literals: Knob[];
  curves: string[];
  hashes: Record<string, string>;
}
