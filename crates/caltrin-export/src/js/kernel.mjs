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

//: clamp
/** @param {number} v @param {number} lo @param {number} hi @returns {number} */
function clamp(v, lo, hi) {
  v = v < lo ? lo : v;
  return v > hi ? hi : v;
}

//: lerp
/** lo at 0, hi at 1, never outside of the two. @param {number} lo @param {number} hi @param {number} s @returns {number} */
function lerp(lo, hi, s) {
  const v = lo + (hi - lo) * s;
  return lo <= hi ? clamp(v, lo, hi) : clamp(v, hi, lo);
}

//: min
/** @param {number} a @param {number} b @returns {number} */
function min(a, b) {
  return b < a ? b : a;
}

//: max
/** @param {number} a @param {number} b @returns {number} */
function max(a, b) {
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

//: ease_steps
/**
 * CSS `steps()` at `u`: the number of steps, the jumps before the first of them, and all jumps.
 * @param {number} u @param {number} steps @param {number} first @param {number} jumps @returns {number}
 */
function easeSteps(u, steps, first, jumps) {
  const s = (Math.floor(u * steps) + first) / jumps;
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

//: noise
/** Passes smoothly through draws at whole numbers x, 0..1. @param {number} x @param {number} key @returns {number} */
function noise(x, key) {
  const n = roundDown(x), f = x - n;
  const i = cellIndex(n);
  const eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
  const s = eased > 1.0 ? 1.0 : eased;
  const a = toUnit(draw(key, i));
  const b = toUnit(draw(key, (i + 1) >>> 0));
  return a + (b - a) * s;
}

//: drift_level
/** Drifts smoothly in 0..1, `rate` draws a second, and as many octaves. @param {number} t @param {number} key @param {number} rate @param {number} octaves @returns {number} */
function driftLevel(t, key, rate, octaves) {
  let x = t * rate + chancePhase(key);
  let sum = noise(x, key), total = 1.0;
  for (let octave = 1; octave < octaves; ++octave) {
    x = 2.0 * x + 0.37;
    key = (key + 0x9e3779b9) >>> 0;
    sum = 2.0 * sum + noise(x, key);
    total = 2.0 * total + 1.0;
  }
  return sum / total;
}

//: cell_edge
/** Where cell i of a held level begins, from i. @param {number} key @param {number} i @param {number} jitter @returns {number} */
function cellEdge(key, i, jitter) {
  const h = draw(key, i);
  const drawn = jitter * (2.0 * toUnit(h) - 1.0);
  const fixed = h >>> 31 !== 0 ? jitter : -jitter;
  return (i & 1) !== 0 ? fixed : drawn;
}

//: soft_level
/** A held level, each reached softly over a part of its time. @param {number} t @param {number} key @param {number} rate @param {number} jitter @param {number} part @returns {number} */
function softLevel(t, key, rate, jitter, part) {
  const x = t * rate + chancePhase(key);
  const n = roundDown(x + 0.5);
  const nearCell = cellIndex(n);
  const pastNear = x - n - cellEdge(key, nearCell, jitter);
  const i = pastNear >= 0.0 ? nearCell : (nearCell - 1) >>> 0;
  const edge = cellEdge(key, i, jitter);
  const passed = pastNear >= 0.0 ? pastNear : x - n + 1.0 - edge;
  const soft = part * (1.0 + cellEdge(key, (i + 1) >>> 0, jitter) - edge);
  const to = toUnit(draw((key ^ 0x68e31da4) >>> 0, i));
  if (passed >= soft) return to;
  const from = toUnit(draw((key ^ 0x68e31da4) >>> 0, (i - 1) >>> 0));
  return from + (to - from) * easeSmooth(passed / soft);
}

//: burst_level
/** 1 while a burst lasts, else 0. The sums are running sums of even draws, `pairs` + 1 of each. @param {number} t @param {number} key @param {number} onLo @param {number} onHi @param {number} offLo @param {number} offHi @param {number[]} onSums @param {number[]} offSums @param {number} pairs @returns {number} */
function burstLevel(t, key, onLo, onHi, offLo, offHi, onSums, offSums, pairs) {
  const edge = (n) => {
    const begun = (n + 1) >>> 1, ended = n >>> 1;
    return onLo * begun + (onHi - onLo) * onSums[begun] + (offLo * ended + (offHi - offLo) * offSums[ended]);
  };
  const whole = edge(2 * pairs);
  const x = t / whole + chancePhase(key);
  const n = roundDown(x);
  const first = draw(key, cellIndex(n)) % pairs;
  const begun = (x - n) * whole + edge(2 * first);
  const u = begun >= whole ? begun - whole : begun;
  let last = 0;
  for (let step = pairs; step > 0; step >>>= 1) {
    if (u >= edge(last + step)) last += step;
  }
  return last % 2 === 0 ? 1.0 : 0.0;
}

//: table_level
/** A table's value at place x, straight between its entries 0 to `last`. @param {number} x @param {number[]} table @param {number} last @returns {number} */
function tableLevel(x, table, last) {
  const kept = clamp(x, 0.0, last);
  const cell = roundDown(kept);
  const i = cell < last ? cell : last - 1;
  return lerp(table[i], table[i + 1], kept - i);
}

//: envelope_level
/** The level, 0 to 1, at place x of an envelope with entries 0 to `last`: straight lines between places (the upper 24 bits) and levels in parts of 255 (the lower 8). @param {number} x @param {Uint32Array} envelope @param {number} last @returns {number} */
function envelopeLevel(x, envelope, last) {
  let low = 0, high = last;
  while (high - low > 1) {
    const middle = (low + high) >>> 1;
    if (envelope[middle] >>> 8 <= x) low = middle;
    else high = middle;
  }
  const from = envelope[low] >>> 8, to = envelope[high] >>> 8;
  const a = envelope[low] & 255, b = envelope[high] & 255;
  return lerp(a, b, clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0;
}

//: next_place
/** The first of the rising places 0 to `last` that lies after x; 2e9, which no moment reaches, if there is none. @param {number} x @param {number[]} places @param {number} last @returns {number} */
function nextPlace(x, places, last) {
  let low = 0, high = last + 1;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (places[middle] > x) high = middle;
    else low = middle + 1;
  }
  return low <= last ? places[low] : 2e9;
}

//: in_ball
/** One part of a displacement in a ball of radius 1, from three numbers in -1..1. @param {number} a @param {number} b @param {number} c @returns {number} */
function inBall(a, b, c) {
  const bb = b * b, cc = c * c;
  return a * Math.sqrt(1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)) * 0.9999997615814209;
}

//: heading
/** One part of a direction of length 1; `still` where there is none. @param {number} part @param {number} x @param {number} y @param {number} z @param {number} still @returns {number} */
function heading(part, x, y, z, still) {
  const length = Math.sqrt(x * x + y * y + z * z);
  return length > 1e-9 ? part / length : still;
}

//: sine_of_turns
/** @param {number} x @returns {number} */
function sineOfTurns(x) {
  const nearTurn = x - roundDown(x + 0.5);
  const upper = nearTurn > 0.25 ? 0.5 - nearTurn : nearTurn;
  const r = upper < -0.25 ? -0.5 - upper : upper;
  const q = r * r;
  const high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
  const low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
  return clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0);
}

//: sine_level
/** A wave 0..1, lowest at whole turns x. @param {number} x @returns {number} */
function sineLevel(x) {
  return 0.5 + 0.5 * sineOfTurns(x - 0.25);
}

//: triangle_level
/** @param {number} x @returns {number} */
function triangleLevel(x) {
  const r = x - roundDown(x);
  return r < 0.5 ? 2.0 * r : 2.0 - 2.0 * r;
}

//: saw_level
/** @param {number} x @returns {number} */
function sawLevel(x) {
  return x - roundDown(x);
}

//: square_level
/** @param {number} x @param {number} on @returns {number} */
function squareLevel(x, on) {
  return x - roundDown(x) < on ? 1.0 : 0.0;
}

//: days_of
/** Whole days in a number of hours. @param {number} hours @returns {number} */
function daysOf(hours) {
  return roundDown(hours / 24.0);
}

//: hour_of
/**
 * The hour of the day, 24 excluded, after a number of hours from midnight on.
 * @param {number} hours
 * @returns {number}
 */
function hourOf(hours) {
  return clamp(hours - 24.0 * daysOf(hours), 0.0, 23.999999999999996);
}

//: hours_level
/**
 * 0 outside and 1 inside of a span of hours: opens from start on, closes from end on.
 * @param {number} hour
 * @param {number} start
 * @param {number} rise
 * @param {number} end
 * @param {number} fall
 * @returns {number}
 */
function hoursLevel(hour, start, rise, end, fall) {
  const passed = hourOf(hour - start);
  const open = hourOf(end - start);
  const late = passed < open ? passed - open + 24.0 : passed - open;
  const left = late < fall ? 1.0 - late / fall : 0.0;
  if (passed >= rise) return passed < open ? 1.0 : left;
  const up = passed / rise;
  if (passed >= open) return up > 1.0 - left ? up - (1.0 - left) : 0.0;
  const level = up + left;
  return level < 1.0 ? level : 1.0;
}

//: through_level
/**
 * How far the time from one hour to another has passed, 0..1.
 * @param {number} hour
 * @param {number} start
 * @param {number} end
 * @returns {number}
 */
function throughLevel(hour, start, end) {
  const passed = hourOf(hour - start);
  const open = hourOf(end - start);
  if (passed < open) return passed / open;
  return passed - open < (24.0 - open) * 0.5 ? 1.0 : 0.0;
}

//: arc_tangent
/** The angle of the point (x, y), in degrees. @param {number} y @param {number} x @returns {number} */
function arcTangent(y, x) {
  const ax = x < 0.0 ? -x : x;
  const ay = y < 0.0 ? -y : y;
  const steep = ay > ax;
  const small = steep ? ax : ay;
  const large = steep ? ay : ax;
  if (large === 0.0) return 0.0;
  const ratio = small / large;
  const far = ratio > 0.414213562373095;
  const z = far ? (ratio - 1.0) / (ratio + 1.0) : ratio;
  const u = z * z;
  const a = 2.878903358695536 + u * -1.4504271731546372;
  const b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
  const c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
  const d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
  const p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
  const part = far ? 45.0 + z * p : z * p;
  const half = steep ? 90.0 - part : part;
  const angle = x < 0.0 ? 180.0 - half : half;
  return y < 0.0 ? -angle : angle;
}

//: arc_sine
/** The angle of a sine, -90..90 degrees. @param {number} x @returns {number} */
function arcSine(x) {
  const kept = clamp(x, -1.0, 1.0);
  return arcTangent(kept, Math.sqrt((1.0 - kept) * (1.0 + kept)));
}

//: compass
/**
 * A direction on the compass, 0..360 degrees from north over east.
 * @param {number} east
 * @param {number} north
 * @returns {number}
 */
function compass(east, north) {
  const angle = arcTangent(east, north);
  return angle < 0.0 ? angle + 360.0 : angle;
}

//: sun_way
/**
 * Turns of the sun on its way through the year, days after noon of 1 January 2000 in UT.
 * @param {number} days
 * @returns {number}
 */
function sunWay(days) {
  const anomaly = 0.9931333333333333 + days * 0.002737778611111111;
  const mean = 0.7790555555555555 + days * 0.0027379093333333333;
  const ahead = sineOfTurns(anomaly) * 0.005319444444444444;
  return mean + ahead + sineOfTurns(anomaly + anomaly) * 0.00005555555555555556;
}

//: axis_tilt
/** How far the axis of the earth leans, in turns. @param {number} days @returns {number} */
function axisTilt(days) {
  return 0.06510833333333332 - days * 1.111111111e-9;
}

//: sky_turn
/**
 * How far the sky has turned over a longitude, in turns.
 * @param {number} days
 * @param {number} longitude
 * @returns {number}
 */
function skyTurn(days, longitude) {
  return 0.77905727325 + days * 1.002737909350795 + longitude / 360.0;
}

//: sky_part
/**
 * East (0), up (1) or south (2) of the direction to the sun, or to what runs ahead of it
 * (Michalsky 1988).
 * @param {number} part
 * @param {number} days
 * @param {number} ahead
 * @param {number} latitude
 * @param {number} longitude
 * @returns {number}
 */
function skyPart(part, days, ahead, latitude, longitude) {
  const way = sunWay(days) + ahead;
  const tilt = axisTilt(days);
  const across = sineOfTurns(way);
  const x = sineOfTurns(way + 0.25);
  const y = sineOfTurns(tilt + 0.25) * across;
  const z = sineOfTurns(tilt) * across;
  const sky = skyTurn(days, longitude);
  const sine = sineOfTurns(sky);
  const cosine = sineOfTurns(sky + 0.25);
  if (part === 0.0) return clamp(y * cosine - x * sine, -1.0, 1.0);
  const meridian = x * cosine + y * sine;
  const low = sineOfTurns(latitude / 360.0);
  const high = sineOfTurns(latitude / 360.0 + 0.25);
  const toward = part === 1.0 ? low * z + high * meridian : low * meridian - high * z;
  return clamp(toward, -1.0, 1.0);
}

//: sun_hour
/**
 * The hour at which the sun passes a height, by its sine: rising (-1), highest (0), setting (1).
 * @param {number} side
 * @param {number} days
 * @param {number} latitude
 * @param {number} longitude
 * @param {number} sine
 * @returns {number}
 */
function sunHour(side, days, latitude, longitude, sine) {
  const low = sineOfTurns(latitude / 360.0);
  const high = sineOfTurns(latitude / 360.0 + 0.25);
  let hour = 12.0;
  let aim = 0.0;
  for (let pass = 0; pass < 4; ++pass) {
    const now = days + hour / 24.0;
    const way = sunWay(now);
    const tilt = axisTilt(now);
    const across = sineOfTurns(way);
    const x = sineOfTurns(way + 0.25);
    const y = sineOfTurns(tilt + 0.25) * across;
    const z = sineOfTurns(tilt) * across;
    const left = aim - (skyTurn(now, longitude) - arcTangent(y, x) / 360.0);
    const flat = Math.sqrt((1.0 - z) * (1.0 + z));
    const cosine = high * flat > 1e-12 ? high * flat : 1e-12;
    const share = clamp((sine - low * z) / cosine, -1.0, 1.0);
    hour = hour + 24.0 * (left - roundDown(left + 0.5));
    aim = side * (0.25 - arcSine(share) / 360.0);
  }
  return hourOf(hour);
}

//: sun_stays
/**
 * Whether the sun stays below (-1) or above (1) a height on a day, by its sine.
 * @param {number} days
 * @param {number} latitude
 * @param {number} longitude
 * @param {number} sine
 * @returns {number}
 */
function sunStays(days, latitude, longitude, sine) {
  const noon = sunHour(0.0, days, latitude, longitude, sine);
  const low = sineOfTurns(latitude / 360.0);
  const high = sineOfTurns(latitude / 360.0 + 0.25);
  let stays = 0.0;
  for (let side = -1.0; side < 2.0; side += 2.0) {
    const hour = sunHour(side, days, latitude, longitude, sine);
    const after = hourOf(side * (hour - noon));
    const apart = after > 18.0 ? after - 24.0 : after;
    const now = days + (noon + side * apart) / 24.0;
    const z = sineOfTurns(axisTilt(now)) * sineOfTurns(sunWay(now));
    const flat = Math.sqrt((1.0 - z) * (1.0 + z));
    const cosine = high * flat > 1e-12 ? high * flat : 1e-12;
    const share = (sine - low * z) / cosine;
    if (share > 0.9999) stays -= 1.0;
    else if (share < -0.9999) stays += 1.0;
  }
  return stays * 0.5;
}

//: root
/** @param {number} x @returns {number} */
function root(x) {
  return Math.sqrt(x > 0.0 ? x : 0.0);
}

//: decay
/**
 * What is left of what falls to 1/e of itself again and again, after `x` such times.
 * @param {number} x
 * @returns {number}
 */
function decay(x) {
  if (!(x > 0.0)) return 1.0;
  if (x >= 700.0) return 0.0;
  const twos = x * 1.4426950408889634;
  const whole = roundDown(twos + 0.5);
  const f = whole - twos;
  let p = 1.021147686687256e-07;
  p = p * f + 1.325964614231444e-06;
  p = p * f + 1.5252641585726547e-05;
  p = p * f + 0.000154034337467768;
  p = p * f + 0.0013333558259554714;
  p = p * f + 0.009618129193941272;
  p = p * f + 0.05550410866424362;
  p = p * f + 0.24022650695640305;
  p = p * f + 0.6931471805599538;
  p = p * f + 1.0000000000000135;
  let half = 0.5;
  for (let left = whole; left > 0; left = Math.floor(left / 2)) {
    if (left % 2 === 1) p *= half;
    half *= half;
  }
  return p < 1.0 ? p : 1.0;
}

//: next_look
/**
 * The first whole number of 1/120 s after a moment.
 * @param {number} t
 * @returns {number}
 */
function nextLook(t) {
  const n = roundDown(t * 120.0) + 1.0;
  const look = n / 120.0;
  return look > t ? look : (n + 1.0) / 120.0;
}

//: cube_root
/** @param {number} x @returns {number} */
function cubeRoot(x) {
  let scale = 1.0;
  if (x < 1e-30) return 0.0;
  while (x >= 1.0) { x *= 0.125; scale *= 2.0; }
  while (x < 0.125) { x *= 8.0; scale *= 0.5; }
  let y = 0.3812513196434336 + x * (1.0723022680799823 - 0.46946113360511893 * x);
  for (let step = 0; step < 2; ++step) {
    const c = y * y * y;
    y = y * (c + 2.0 * x) / (2.0 * c + x);
  }
  return y * scale;
}

//: cone_l
/** The root of the long cones' response to linear light, as in OKLab. @param {number} r @param {number} g @param {number} b @returns {number} */
function coneL(r, g, b) {
  return cubeRoot(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
}

//: cone_m
/** The root of the middle cones' response to linear light, as in OKLab. @param {number} r @param {number} g @param {number} b @returns {number} */
function coneM(r, g, b) {
  return cubeRoot(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
}

//: cone_s
/** The root of the short cones' response to linear light, as in OKLab. @param {number} r @param {number} g @param {number} b @returns {number} */
function coneS(r, g, b) {
  return cubeRoot(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
}

//: light_r
/** Linear red from the roots of the cones' responses. @param {number} l @param {number} m @param {number} s @returns {number} */
function lightR(l, m, s) {
  const v = 4.0767416621 * (l * l * l) + -3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
  return v > 0.0 ? v : 0.0;
}

//: light_g
/** Linear green from the roots of the cones' responses. @param {number} l @param {number} m @param {number} s @returns {number} */
function lightG(l, m, s) {
  const v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) + -0.3413193965 * (s * s * s);
  return v > 0.0 ? v : 0.0;
}

//: light_b
/** Linear blue from the roots of the cones' responses. @param {number} l @param {number} m @param {number} s @returns {number} */
function lightB(l, m, s) {
  const v = -0.0041960863 * (l * l * l) + -0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
  return v > 0.0 ? v : 0.0;
}

//: faded
/**
 * On the way from one level to another since a moment, softly; then there to stay.
 * @param {number} from
 * @param {number} to
 * @param {number} since
 * @param {number} over
 * @param {number} now
 * @returns {number}
 */
function faded(from, to, since, over, now) {
  if (now >= since + over) return to;
  return lerp(from, to, easeSmooth(clamp((now - since) / over, 0.0, 1.0)));
}

//: clean_moment
/** Not-a-number is 0; nothing lies beyond 1e9 s. @param {number} t @returns {number} */
function cleanMoment(t) {
  if (!(t < -1e-30 || t > 1e-30)) return 0.0;
  return clamp(t, -1e9, 1e9);
}

//: clean_input
/** What is not a finite number is `fallback`; the rest is kept within its bounds. @param {number} v @param {number} lo @param {number} hi @param {number} fallback @returns {number} */
function cleanInput(v, lo, hi, fallback) {
  if (!Number.isFinite(v)) return fallback;
  return clamp(v < -1e-30 || v > 1e-30 ? v : 0.0, lo, hi);
}

//: at_most
/** The index of what is read, also of a lamp beyond the last. @param {number} index @param {number} last @returns {number} */
function atMost(index, last) {
  return index < last ? index : last;
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
  return Math.fround(clamp(v, -3.4028234663852886e38, 3.4028234663852886e38));
}
//: end
