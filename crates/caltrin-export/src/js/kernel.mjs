//: scramble
/** Mixes 32 bits; one-to-one. @param {number} x @returns {number} */
function scramble(x) {
  x ^= x >>> 16;
  x = Math.imul(x, 0x21f0aaad);
  x ^= x >>> 15;
  x = Math.imul(x, 0x735a2d97);
  return (x ^ (x >>> 15)) >>> 0;
}

//: chance_key
/** The key of one place of chance under a seed, or under another key. @param {number} seed @param {number} place @returns {number} */
function chanceKey(seed, place) {
  return scramble((((scramble((seed + 0x9e3779b9) >>> 0) ^ place) >>> 0) + 0x85ebca6b) >>> 0);
}

//: lamp_key
/** The key of one lamp of an array; lamp 0 keeps the key. @param {number} key @param {number} index @returns {number} */
function lampKey(key, index) {
  return (key ^ scramble(index)) >>> 0;
}

//: draw
/** The n-th draw of a key. @param {number} key @param {number} n @returns {number} */
function draw(key, n) {
  return scramble((scramble((n + key) >>> 0) ^ key) >>> 0);
}

//: to_unit
/** 0..1, 1 excluded, in steps of 2^-24. @param {number} bits @returns {number} */
function toUnit(bits) {
  return (bits >>> 8) * (1.0 / 16777216.0);
}

//: round_down
/** @param {number} x @returns {number} */
function roundDown(x) {
  return Math.floor(x);
}

//: cell_index
/** A whole number as a wrapping 32-bit index. @param {number} n @returns {number} */
function cellIndex(n) {
  return n >>> 0;
}

//: chance_phase
/** Where a chance begins along its own cells, 0..1. @param {number} key @returns {number} */
function chancePhase(key) {
  return toUnit(scramble((key + 0x9e3779b9) >>> 0));
}

//: within
/** @param {number} v @param {number} lo @param {number} hi @returns {number} */
function within(v, lo, hi) {
  v = v < lo ? lo : v;
  return v > hi ? hi : v;
}

//: between
/** lo at 0, hi at 1, never outside of the two. @param {number} lo @param {number} hi @param {number} s @returns {number} */
function between(lo, hi, s) {
  const v = lo + (hi - lo) * s;
  return lo <= hi ? within(v, lo, hi) : within(v, hi, lo);
}

//: least
/** @param {number} a @param {number} b @returns {number} */
function least(a, b) {
  return b < a ? b : a;
}

//: greatest
/** @param {number} a @param {number} b @returns {number} */
function greatest(a, b) {
  return b > a ? b : a;
}

//: share
/** @param {number} part @param {number} whole @returns {number} */
function share(part, whole) {
  return whole > 0.0 ? part / whole : 0.0;
}

//: held_level
/**
 * A level 0..1 drawn again after random times between a and b seconds:
 * rate = 2 / (a + b), jitter = (b - a) / (2 (a + b)).
 * @param {number} t @param {number} key @param {number} rate @param {number} jitter @returns {number}
 */
function heldLevel(t, key, rate, jitter) {
  const x = t * rate + chancePhase(key);
  const n = roundDown(x + 0.5);
  const i = cellIndex(n);
  const h = draw(key, i);
  const drawn = jitter * (2.0 * toUnit(h) - 1.0);
  const steady = h >>> 31 !== 0 ? jitter : -jitter;
  const edge = (i & 1) !== 0 ? steady : drawn;
  const cell = x - n >= edge ? i : (i - 1) >>> 0;
  return toUnit(draw((key ^ 0x68e31da4) >>> 0, cell));
}

//: ease_smooth
/** @param {number} u @returns {number} */
function easeSmooth(u) {
  const s = u * u * (3.0 - 2.0 * u);
  return s > 1.0 ? 1.0 : s;
}

//: ease_bezier
/**
 * CSS cubic-bezier(x1, y1, x2, y2) at u: Laguerre's method inside a bracket.
 * @param {number} u @param {number} x1 @param {number} y1 @param {number} x2 @param {number} y2 @returns {number}
 */
function easeBezier(u, x1, y1, x2, y2) {
  const cx = 3.0 * x1, bx = 3.0 * (x2 - x1) - cx, ax = 1.0 - cx - bx;
  const cy = 3.0 * y1, by = 3.0 * (y2 - y1) - cy, ay = 1.0 - cy - by;
  if (u <= 0.0) return 0.0;
  if (u >= 1.0) return 1.0;
  let lo = 0.0, hi = 1.0, s = u;
  for (let step = 0; step < 8; ++step) {
    const e = ((ax * s + bx) * s + cx) * s - u;
    if (e === 0.0) break;
    if (e < 0.0) lo = s; else hi = s;
    const d = (3.0 * ax * s + 2.0 * bx) * s + cx;
    const q = 4.0 * d * d - 6.0 * e * (6.0 * ax * s + 2.0 * bx);
    const w = s - 3.0 * e / (d + Math.sqrt(q > 0.0 ? q : 0.0));
    s = lo <= w && w <= hi ? w : 0.5 * (lo + hi);
  }
  return ((ay * s + by) * s + cy) * s;
}

//: wrap_time
/** Where t stands in a turn that starts again and again. @param {number} t @param {number} period @returns {number} */
function wrapTime(t, period) {
  const x = t - roundDown(t / period) * period;
  if (x < 0.0) return x + period;
  return x >= period ? x - period : x;
}

//: fold_time
/** Where t stands in a turn that plays there and back. @param {number} t @param {number} period @returns {number} */
function foldTime(t, period) {
  const x = wrapTime(t, 2.0 * period);
  return x > period ? 2.0 * period - x : x;
}

//: clean_moment
/** Not-a-number is 0; nothing lies beyond 1e9 s. @param {number} t @returns {number} */
function cleanMoment(t) {
  if (!(t < -1e-30 || t > 1e-30)) return 0.0;
  return within(t, -1e9, 1e9);
}

//: to_single
/** No negative zero, no subnormal. @param {number} v @returns {number} */
function toSingle(v) {
  return Math.fround(v < 1e-30 && v > -1e-30 ? 0.0 : v);
}

//: to_output
/** No negative zero, no subnormal, no infinity. @param {number} v @returns {number} */
function toOutput(v) {
  v = v < 1e-30 && v > -1e-30 ? 0.0 : v;
  return Math.fround(within(v, -3.4028234663852886e38, 3.4028234663852886e38));
}
//: end
