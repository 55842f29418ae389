// Saltgate pier. Made by caltrin from pier.caltrin.
//
// Change the lightbook and export again rather than this file.
//
// No dependency, no globals. A run is a plain object: `structuredClone` it, or call save() for a saved game.
// Values are computed when they are read, at any moment, in any order, at the same cost.
// Reading into a lamp that you keep allocates nothing.
//
// Host loop:
//
//     const run = start(bookSeed);
//     function frame(secondsOfThisFrame) {
//       step(run, secondsOfThisFrame);
//       const lamp = readMast(run, 0);
//     }

/** The book's own seed. */
export const bookSeed = 41;

/**
 * A run of the book: where it stands, and the seed of all its chances.
 * @typedef {object} Run
 * @property {number} now s since the run's start
 * @property {number} due s, the earliest moment at which something can occur by itself; recomputed after each action of the game
 * @property {number} clockHour h, the clock when it was last set
 * @property {number} clockDays number of days at that time
 * @property {number} clockSince s, when that occurred
 * @property {number} clockRate its rate, 1 as in the book
 * @property {number} weatherSince s, when it was chosen
 * @property {number[]} weatherFrom how much each option counted then
 * @property {number} mist number
 * @property {number} swell number
 * @property {number} season number
 * @property {number} haul number
 * @property {number[]} rocketPlace its latest value
 * @property {number[]} rocketTint its latest value
 * @property {number} hornAt s, its position at that time
 * @property {number} hornSince s, when it was at that position
 * @property {number} hornChanged s, when it was started, stopped or set
 * @property {number} ratchetAt s, its position at that time
 * @property {number} ratchetSince s, when it was at that position
 * @property {number} ratchetRate its speed since then; negative until it is known
 * @property {number} powerSince s, when it last changed
 * @property {number} powerFrom its level at that time
 * @property {number} warningMode the active mode, counted from 0
 * @property {number} warningEntered s, when it was entered
 * @property {number} warningWay the index of its current crossfade
 * @property {number} warningFromWatch its weight at that time
 * @property {number} warningFromAlarm its weight at that time
 * @property {number} warningRule1Since s, when that became true
 * @property {number} blareHornFollow0From the level when the sound was started, stopped or set
 * @property {number} blastPassed s, the position in the sound after which the next one is
 * @property {number[]} noticeMoments s, when each was sent
 * @property {number[]} noticePacked the packed notice
 * @property {number[][]} noticePositions the position of its lamp at that time
 * @property {number} noticeFirst the index of the oldest
 * @property {number} noticeCount number of queued notices
 * @property {number} noticeDropped number of dropped notices
 * @property {number} notice0Sent number of times sent
 * @property {number[]} noticeValueLoud that value of each notice
 * @property {number} notice0Text the index of its latest text
 * @property {number[]} fogLampFaultLast s, when it last occurred
 * @property {number[]} fogLampFaultCount number of occurrences
 * @property {number[]} notice1Sent number of times sent
 * @property {number[]} noticeValueWithin that value of each notice
 * @property {number[]} notice1Text the index of its latest text
 * @property {number[]} quayCock number
 * @property {number[]} boardLoudness number
 * @property {number} dockingStarted s, when it started
 * @property {number} gateOpensLast s, when it last occurred
 * @property {number[]} starShellBorn s, when it began
 * @property {number[]} starShellLength s, its lifetime
 * @property {number[][]} starShellPlace its value
 * @property {number[][]} starShellTint its value
 * @property {number} starShellCount number of occurrences of its event
 * @property {number} seed of all its chances
 * @property {number} weather the option chosen
 * @property {boolean} hornPlays whether it plays
 * @property {boolean} powerOn whether it is on or turning on
 * @property {boolean} warningRule1Seen whether the condition was true
 */

/** A run at moment 0. @param {number} seed @returns {Run} */
export function start(seed) {
  return {
    now: 0.0,
    due: 0.0,
    clockHour: 17.666666666666668,
    clockDays: 0.0,
    clockSince: 0.0,
    clockRate: 1.0,
    weatherSince: -2e9,
    weatherFrom: [1.0, 0.0],
    mist: 0.3,
    swell: 0.2,
    season: 324.0,
    haul: 1.0,
    rocketPlace: [30.0, 40.0, -60.0],
    rocketTint: [1.0, 1.0, 1.0],
    hornAt: 0.0,
    hornSince: 0.0,
    hornChanged: -2e9,
    ratchetAt: 0.0,
    ratchetSince: 0.0,
    ratchetRate: -1.0,
    powerSince: -2e9,
    powerFrom: 1.0,
    warningMode: 0.0,
    warningEntered: -2e9,
    warningWay: 0.0,
    warningFromWatch: 0.0,
    warningFromAlarm: 0.0,
    warningRule1Since: -2e9,
    blareHornFollow0From: 0.0,
    blastPassed: -1e-9,
    noticeMoments: Array.from({ length: 32 }, () => 0.0),
    noticePacked: Array.from({ length: 32 }, () => 0.0),
    noticePositions: Array.from({ length: 32 }, () => [0.0, 0.0, 0.0]),
    noticeFirst: 0.0,
    noticeCount: 0.0,
    noticeDropped: 0.0,
    notice0Sent: 0.0,
    noticeValueLoud: Array.from({ length: 32 }, () => 0.0),
    notice0Text: -1.0,
    fogLampFaultLast: Array.from({ length: 3 }, () => -2e9),
    fogLampFaultCount: Array.from({ length: 3 }, () => 0.0),
    notice1Sent: Array.from({ length: 3 }, () => 0.0),
    noticeValueWithin: Array.from({ length: 32 }, () => 0.0),
    notice1Text: Array.from({ length: 3 }, () => -1.0),
    quayCock: Array.from({ length: 12 }, () => 1.0),
    boardLoudness: Array.from({ length: 3 }, () => 0.6),
    dockingStarted: -2e9,
    gateOpensLast: -2e9,
    starShellBorn: Array.from({ length: 6 }, () => -2e9),
    starShellLength: Array.from({ length: 6 }, () => 5.0),
    starShellPlace: Array.from({ length: 6 }, () => [30.0, 40.0, -60.0]),
    starShellTint: Array.from({ length: 6 }, () => [1.0, 1.0, 1.0]),
    starShellCount: 0.0,
    weather: 0,
    hornPlays: false,
    powerOn: true,
    warningRule1Seen: false,
    seed: seed >>> 0,
  };
}

/** Advances to a moment of the run, in seconds since its start. Returns false if events are left for the
 * next call. @param {Run} run @param {number} to @returns {boolean} */
export function advance(run, to) {
  const end = cleanMoment(to);
  const back = end < run.now;
  if (!back && end < run.due) {
    run.now = end;
    return true;
  }
  for (let pass = 0; pass < 10000; ++pass) {
    let next = dueRatchetSpeeds(run);
    let which = 0;
    let index = 0;
    const warningRule1LookDue = dueWarningRule1Look(run);
    if (warningRule1LookDue < next) {
      next = warningRule1LookDue;
      which = 1;
    }
    const warningRule1Due = dueWarningRule1(run);
    if (warningRule1Due < next) {
      next = warningRule1Due;
      which = 2;
    }
    const warningRule2Due = dueWarningRule2(run);
    if (warningRule2Due < next) {
      next = warningRule2Due;
      which = 3;
    }
    const blastDue = dueBlast(run);
    if (blastDue < next) {
      next = blastDue;
      which = 4;
    }
    for (let k = 0; k < 3; ++k) {
      const fogLampFaultDue = dueFogLampFault(run, k);
      if (fogLampFaultDue < next) {
        next = fogLampFaultDue;
        which = 5;
        index = k;
      }
    }
    const gateOpensDue = dueGateOpens(run);
    if (gateOpensDue < next) {
      next = gateOpensDue;
      which = 6;
    }
    if (next > end) {
      run.due = back ? end : next;
      run.now = end;
      return true;
    }
    run.now = next;
    switch (which) {
      case 0: happenRatchetSpeeds(run); break;
      case 1: happenWarningRule1Look(run); break;
      case 2: happenWarningRule1(run); break;
      case 3: happenWarningRule2(run); break;
      case 4: happenBlast(run); break;
      case 5: happenFogLampFault(run, index); break;
      default: happenGateOpens(run); break;
    }
  }
  run.due = end;
  run.now = end;
  return false;
}

/** Advances by some seconds. Steps add up their rounding errors; `advance` does not. @param {Run} run
 * @param {number} seconds @returns {boolean} */
export function step(run, seconds) {
  return advance(run, run.now + seconds);
}

/** Processes events that are due at this moment, after an action of the game and at moment 0.
 * @param {Run} run */
function settle(run) {
  if (run.now > 0.0) advance(run, run.now);
}

/** A hash of the layout of saves. */
export const layout = 972592800;

/** The version of the exporter. */
export const exporter = "caltrin 0.1.0";

/**
 * Saves a run. The bytes are the same on every machine, in every language and in the preview.
 * @param {Run} run @returns {Uint8Array}
 */
export function save(run) {
  const bytes = new Uint8Array(3304);
  writeSave(run, bytes);
  return bytes;
}

/**
 * Loads a save of this book or of another version of it. Fields that both have are restored; all others start at their
 * defaults. Returns the number of fields in the save that this file lacks or has fewer of, or null if the bytes are not a
 * complete save; the run is then unchanged.
 * @param {Run} run @param {Uint8Array} bytes @returns {number | null}
 */
export function load(run, bytes) {
  return isSave(bytes, bytes.length) ? readSave(run, bytes, bytes.length) : null;
}

/** Choice, set by the game: fair, overcast, with a transition of 20.0 s -- pier.caltrin:14: choice weather
 * { fair, overcast } over 20s */
export const WEATHER_FAIR = 0;
export const WEATHER_OVERCAST = 1;

/** Hours from the midnight of the day on which the clock was last set. @param {Run} run @returns {number} */
function clockHours(run) {
  return run.clockHour + (run.now - run.clockSince) * (run.clockRate * 0.011428571428571429);
}

/** Hour of the game's clock, 0 to 24 (24 excluded). @param {Run} run @returns {number} */
export function clockHour(run) {
  return hourOf(clockHours(run));
}

/** How many days have begun on the clock since the run's first, which is 0; below 0 before it.
 * @param {Run} run @returns {number} */
export function clockDays(run) {
  return clamp(run.clockDays + daysOf(clockHours(run)), -1e9, 1e9);
}

/** Sets the clock to an hour of the current day. It keeps its rate. @param {Run} run @param {number} hour */
export function setClock(run, hour) {
  run.clockDays = clockDays(run);
  run.clockHour = hourOf(cleanInput(hour, -1e9, 1e9, 17.666666666666668));
  run.clockSince = run.now;
  run.due = run.now;
}

/** Moves the clock to an hour, the shorter way around, and holds it there: for a game with a clock of its
 * own. @param {Run} run @param {number} hour */
export function driveClock(run, hour) {
  const to = hourOf(cleanInput(hour, -1e9, 1e9, 17.666666666666668));
  const from = clockHour(run);
  const way = to - from;
  const midnight = way > 12.0 ? -1.0 : way < -12.0 ? 1.0 : 0.0;
  run.clockDays = clamp(clockDays(run) + midnight, -1e9, 1e9);
  run.clockHour = to;
  run.clockSince = run.now;
  run.due = run.now;
  run.clockRate = 0.0;
  settle(run);
}

/** Sets how many days the clock has counted, rounded down. @param {Run} run @param {number} days */
export function setClockDays(run, days) {
  run.clockHour = clockHour(run);
  run.clockDays = roundDown(cleanInput(days, -1e9, 1e9, 0.0));
  run.clockSince = run.now;
  run.due = run.now;
}

/** Sets the rate of the clock: 1 as in the book, 0 stops it, below 0 it runs backward; -1e6 to 1e6.
 * @param {Run} run @param {number} rate */
export function setClockRate(run, rate) {
  const hour = clockHour(run);
  run.clockDays = clockDays(run);
  run.clockHour = hour;
  run.clockSince = run.now;
  run.due = run.now;
  run.clockRate = cleanInput(rate, -1e6, 1e6, 1.0);
}

/** How much an option counts now, 0 to 1. @param {Run} run @param {number} option @returns {number} */
function weatherWeight(run, option) {
  const to = option === run.weather ? 1.0 : 0.0;
  return faded(run.weatherFrom[option], to, run.weatherSince, 20.0, run.now);
}

/** Choice, set by the game: fair, overcast, with a transition of 20.0 s -- pier.caltrin:14: choice weather
 * { fair, overcast } over 20s @param {Run} run @param {number} option */
export function setWeather(run, option) {
  if (!(Number.isInteger(option) && option >= 0 && option < 2) || option === run.weather) return;
  for (let n = 0; n < 2; ++n) {
    run.weatherFrom[n] = weatherWeight(run, n);
  }
  run.weatherSince = run.now;
  run.weather = option;
  run.due = run.now;
  settle(run);
}

/** Index of a spark of `star_shell` that is free: the lowest that does not live, else the oldest.
 * @param {Run} run @returns {number} */
function freeStarShell(run) {
  let oldest = 0;
  for (let n = 0; n < 6; ++n) {
    if (run.starShellBorn[n] + run.starShellLength[n] <= run.now) return n;
    if (run.starShellBorn[n] < run.starShellBorn[oldest]) oldest = n;
  }
  return oldest;
}

/** Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
 * game fires these) @param {Run} run */
export function fireFerryDocks(run) {
  const t = run.now;
  const dockingStarted = run.dockingStarted;
  const nextBlareHornFollow0From = max(run.hornPlays
      ? envelopeLevel(hornPlace(t, run.hornAt, run.hornSince, run.hornPlays) * 3840.0, hornEnvelope, 48)
      : 0.0, run.blareHornFollow0From * decay((t - run.hornChanged) / 0.28));
  const turns = !(dockingStarted > -1.5e9 && dockingStarted + 24.0 > t);
  run.hornAt = 0.0;
  run.hornSince = t;
  run.hornChanged = t;
  run.hornPlays = true;
  run.blareHornFollow0From = nextBlareHornFollow0From;
  run.blastPassed = -1e-9;
  if (turns) run.dockingStarted = t;
  run.due = run.now;
  settle(run);
}

/** Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
 * game fires these) @param {Run} run */
export function firePowerCut(run) {
  const t = run.now;
  const turns = run.powerOn;
  const nextPowerFrom = power(t, run.powerOn, run.powerSince, run.powerFrom);
  if (turns) {
    run.powerOn = false;
    run.powerSince = t;
    run.powerFrom = nextPowerFrom;
  }
  run.due = run.now;
  settle(run);
}

/** Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
 * game fires these) @param {Run} run */
export function firePowerBack(run) {
  const t = run.now;
  const turns = !run.powerOn;
  const nextPowerFrom = power(t, run.powerOn, run.powerSince, run.powerFrom);
  if (turns) {
    run.powerOn = true;
    run.powerSince = t;
    run.powerFrom = nextPowerFrom;
  }
  run.due = run.now;
  settle(run);
}

/** Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
 * game fires these) @param {Run} run */
export function fireAllClear(run) {
  const t = run.now;
  const turns = !(run.warningMode === 0.0);
  const nextWarningFromWatch = warningWatch(t, run.warningMode, run.warningEntered, run.warningWay,
    run.warningFromWatch);
  const nextWarningFromAlarm = warningAlarm(t, run.warningMode, run.warningEntered, run.warningWay,
    run.warningFromAlarm);
  if (turns) {
    run.warningMode = 0.0;
    run.warningEntered = t;
    run.warningFromWatch = nextWarningFromWatch;
    run.warningFromAlarm = nextWarningFromAlarm;
    run.warningWay = 2.0;
  }
  run.due = run.now;
  settle(run);
}

/** Event, fired by the game with place (m), tint (linear Rec. 709) -- pier.caltrin:29: event rocket(place
 * = (30m, 40m, -60m), tint = #ffffff) (a star shell bursts over the water) @param {Run} run
 * @param {number} placeX @param {number} placeY @param {number} placeZ @param {number} tintR
 * @param {number} tintG @param {number} tintB */
export function fireRocket(run, placeX, placeY, placeZ, tintR, tintG, tintB) {
  const t = run.now;
  run.rocketPlace[0] = cleanInput(placeX, -1e6, 1e6, 30.0);
  run.rocketPlace[1] = cleanInput(placeY, -1e6, 1e6, 40.0);
  run.rocketPlace[2] = cleanInput(placeZ, -1e6, 1e6, -60.0);
  run.rocketTint[0] = cleanInput(tintR, 0.0, 1.0, 1.0);
  run.rocketTint[1] = cleanInput(tintG, 0.0, 1.0, 1.0);
  run.rocketTint[2] = cleanInput(tintB, 0.0, 1.0, 1.0);
  const starShellCount = run.starShellCount;
  const then = starShellCount;
  const slot = freeStarShell(run);
  const nextStarShellLength = lerp(5.0, 7.0, steadyLevel(then, chanceKey(run.seed, 0x5da0a4f2), 1.0));
  const nextStarShellPlaceX = run.rocketPlace[0];
  const nextStarShellPlaceY = run.rocketPlace[1];
  const nextStarShellPlaceZ = run.rocketPlace[2];
  const nextStarShellTintR = run.rocketTint[0];
  const nextStarShellTintG = run.rocketTint[1];
  const nextStarShellTintB = run.rocketTint[2];
  const nextStarShellCount = min(starShellCount + 1.0, 4e9);
  const place = Math.floor(slot);
  run.starShellBorn[place] = t;
  run.starShellLength[place] = nextStarShellLength;
  run.starShellPlace[place][0] = nextStarShellPlaceX;
  run.starShellPlace[place][1] = nextStarShellPlaceY;
  run.starShellPlace[place][2] = nextStarShellPlaceZ;
  run.starShellTint[place][0] = nextStarShellTintR;
  run.starShellTint[place][1] = nextStarShellTintG;
  run.starShellTint[place][2] = nextStarShellTintB;
  run.starShellCount = nextStarShellCount;
  run.due = run.now;
  settle(run);
}

/** When `ratchet.speeds` happens next. @param {Run} run @returns {number} */
function dueRatchetSpeeds(run) {
  const t = run.now;
  return !(run.ratchetRate === run.haul) ? t : 2e9;
}

/** Event, occurs by itself @param {Run} run */
function happenRatchetSpeeds(run) {
  const t = run.now;
  const nextRatchetRate = run.haul;
  const nextRatchetAt = clamp(ratchetPlace(t, run.haul, run.ratchetAt, run.ratchetSince, run.ratchetRate),
    -1e9, 1e9);
  run.ratchetRate = nextRatchetRate;
  run.ratchetAt = nextRatchetAt;
  run.ratchetSince = t;
}

/** When `warning.rule1.look` happens next. @param {Run} run @returns {number} */
function dueWarningRule1Look(run) {
  const t = run.now;
  const part = run.swell > 0.5;
  const warningRule1Seen = run.warningRule1Seen;
  return (part && !warningRule1Seen) || (!part && warningRule1Seen)
    ? max(t, nextLook(run.warningRule1Since))
    : 2e9;
}

/** Event, occurs by itself @param {Run} run */
function happenWarningRule1Look(run) {
  const t = run.now;
  const part = run.swell > 0.5;
  const warningRule1Seen = run.warningRule1Seen;
  const turns = (part && !warningRule1Seen) || (!part && warningRule1Seen);
  if (turns) {
    run.warningRule1Seen = part;
    run.warningRule1Since = t;
  }
}

/** When `warning.rule1` happens next. @param {Run} run @returns {number} */
function dueWarningRule1(run) {
  const t = run.now;
  const warningEntered = run.warningEntered;
  return run.warningRule1Seen && run.warningMode === 0.0
    ? max(t, max(nextLook(warningEntered), max(run.warningRule1Since, max(warningEntered, 0.0)) + 2.0))
    : 2e9;
}

/** Event, occurs by itself @param {Run} run */
function happenWarningRule1(run) {
  const t = run.now;
  const nextWarningFromWatch = warningWatch(t, run.warningMode, run.warningEntered, run.warningWay,
    run.warningFromWatch);
  const nextWarningFromAlarm = warningAlarm(t, run.warningMode, run.warningEntered, run.warningWay,
    run.warningFromAlarm);
  run.warningMode = 1.0;
  run.warningEntered = t;
  run.warningFromWatch = nextWarningFromWatch;
  run.warningFromAlarm = nextWarningFromAlarm;
  run.warningWay = 0.0;
}

/** When `warning.rule2` happens next. @param {Run} run @returns {number} */
function dueWarningRule2(run) {
  const t = run.now;
  return run.swell > 0.8 && run.warningMode === 1.0 ? max(t, nextLook(run.warningEntered)) : 2e9;
}

/** Event, occurs by itself @param {Run} run */
function happenWarningRule2(run) {
  const t = run.now;
  const nextWarningFromWatch = warningWatch(t, run.warningMode, run.warningEntered, run.warningWay,
    run.warningFromWatch);
  const nextWarningFromAlarm = warningAlarm(t, run.warningMode, run.warningEntered, run.warningWay,
    run.warningFromAlarm);
  run.warningMode = 2.0;
  run.warningEntered = t;
  run.warningFromWatch = nextWarningFromWatch;
  run.warningFromAlarm = nextWarningFromAlarm;
  run.warningWay = 1.0;
}

/** When `blast` happens next. @param {Run} run @returns {number} */
function dueBlast(run) {
  const t = run.now;
  const part = nextPlace(run.blastPassed, blastPlaces, 1);
  return 2e9 > part && run.hornPlays ? max(t, run.hornSince + (part - run.hornAt)) : 2e9;
}

/** Event, occurs by itself -- pier.caltrin:125: event blast when blare above 60% rearm below 40%
 * @param {Run} run */
function happenBlast(run) {
  const notice0Text = run.notice0Text;
  const notice0Sent = run.notice0Sent;
  const then = notice0Sent;
  const part = steadyLevel(then, chanceKey(run.seed, 0x8e7e045e), 1.0) * 2.0;
  const text = 0.0 > notice0Text
    ? clamp(part - wrapTime(part, 1.0), 0.0, 1.0)
    : notice0Text > 0.0
    ? 0.0
    : 1.0;
  const then_2 = notice0Sent;
  const nextBlastPassed = nextPlace(run.blastPassed, blastPlaces, 1);
  const nextNotice0Sent = min(notice0Sent + 1.0, 4e9);
  const loud = lerp(0.5, 0.9, steadyLevel(then_2, chanceKey(run.seed, 0x97c3dd2f), 1.0))
    * (1.0 - 0.6 * run.mist);
  run.blastPassed = nextBlastPassed;
  run.notice0Text = text;
  run.notice0Sent = nextNotice0Sent;
  send(run, 0, text, 0, loud, 0.0);
}

/** When `fog_lamp.fault` happens next. @param {Run} run @param {number} index @returns {number} */
function dueFogLampFault(run, index) {
  const key = chanceKey(run.seed, 0xc031abee);
  const fogLampFaultLast = run.fogLampFaultLast[index];
  const then = run.fogLampFaultCount[index];
  return (fogLampFaultLast > -1.5e9 ? fogLampFaultLast : 0.0)
    + lerp(4.0, 21.0, steadyLevel(then, lampKey(key, index), 1.0));
}

/** Event, occurs by itself -- pier.caltrin:150: event fault every 4s..21s (at different moments for each
 * tube) @param {Run} run @param {number} index */
function happenFogLampFault(run, index) {
  const t = run.now;
  const key = chanceKey(run.seed, 0x52b93c79);
  const key_2 = chanceKey(run.seed, 0x17a9cc27);
  const notice1Text = run.notice1Text[index];
  const notice1Sent = run.notice1Sent[index];
  const then = notice1Sent;
  const part = steadyLevel(then, lampKey(key, index), 1.0);
  const part_2 = part * 3.0;
  const part_3 = part * 2.0;
  const part_4 = clamp(part_3 - wrapTime(part_3, 1.0), 0.0, 1.0);
  const text = 0.0 > notice1Text
    ? clamp(part_2 - wrapTime(part_2, 1.0), 0.0, 2.0)
    : notice1Text > part_4
    ? part_4
    : part_4 + 1.0;
  const then_2 = notice1Sent;
  const nextFogLampFaultCount = min(run.fogLampFaultCount[index] + 1.0, 4e9);
  const nextNotice1Sent = min(notice1Sent + 1.0, 4e9);
  const loud = lerp(0.4, 0.8, steadyLevel(then_2, lampKey(key_2, index), 1.0));
  run.fogLampFaultLast[index] = t;
  run.fogLampFaultCount[index] = nextFogLampFaultCount;
  run.notice1Text[index] = text;
  run.notice1Sent[index] = nextNotice1Sent;
  send(run, 1, text, index, loud, 12.0);
}

/** When `gate_opens` happens next. @param {Run} run @returns {number} */
function dueGateOpens(run) {
  const dockingStarted = run.dockingStarted;
  const part = dockingStarted + 4.0;
  return dockingStarted > -1.5e9 && part > run.gateOpensLast ? part : 2e9;
}

/** Event, occurs by itself -- pier.caltrin:257: +1.5s mark gate_opens @param {Run} run */
function happenGateOpens(run) {
  const t = run.now;
  run.gateOpensLast = t;
}

/** Input, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:10: input mist = 30% in 0%..100%
 * (fog density, set by the game) @param {Run} run @param {number} to */
export function setMist(run, to) {
  run.mist = cleanInput(to, 0.0, 1.0, 0.3);
  run.due = run.now;
  settle(run);
}

/** Input, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:11: input swell = 20% in 0%..100%
 * (height of the sea) @param {Run} run @param {number} to */
export function setSwell(run, to) {
  run.swell = cleanInput(to, 0.0, 1.0, 0.2);
  run.due = run.now;
  settle(run);
}

/** Input, set by the game: number, kept within 1.0..366.0 -- pier.caltrin:12: input season = 324 in 1..366
 * (day of the year, 20 November by default) @param {Run} run @param {number} to */
export function setSeason(run, to) {
  run.season = cleanInput(to, 1.0, 366.0, 324.0);
  run.due = run.now;
  settle(run);
}

/** Input, set by the game: number, kept within 0.0..2.0 -- pier.caltrin:13: input haul = 100% in 0%..200%
 * (speed of the winch in the workshop) @param {Run} run @param {number} to */
export function setHaul(run, to) {
  run.haul = cleanInput(to, 0.0, 2.0, 1.0);
  run.due = run.now;
  settle(run);
}

/** Input of 12, index 0 to 11, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:158: input
 * cock = 100% in 0%..100% (gas supply of each lamp) @param {Run} run @param {number} index
 * @param {number} to */
export function setQuayCock(run, index, to) {
  if (!(Number.isInteger(index) && index >= 0 && index < 12)) return;
  run.quayCock[index] = cleanInput(to, 0.0, 1.0, 1.0);
  run.due = run.now;
  settle(run);
}

/** Input of 3, index 0 to 2, set by the game: number, kept within 0.0..2.0 -- pier.caltrin:208: input
 * loudness = 60% in 0%..200% @param {Run} run @param {number} index @param {number} to */
export function setBoardLoudness(run, index, to) {
  if (!(Number.isInteger(index) && index >= 0 && index < 3)) return;
  run.boardLoudness[index] = cleanInput(to, 0.0, 2.0, 0.6);
  run.due = run.now;
  settle(run);
}

/**
 * A lamp of 8, index 0 to 7: spot -- pier.caltrin:136: light mast[8] spot (eight lamps, each with its own buzz)
 * @typedef {object} Mast
 * @property {number} intensity lm -- pier.caltrin:142: intensity 6200lm * dark * buzzing() * supply
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:141: color sodium
 * @property {number} reachInner m, full light up to this distance -- pier.caltrin:140: reach 1m..14m
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:140: reach 1m..14m
 * @property {number} coneInner degrees, full angle, full light inside -- pier.caltrin:139: cone 20deg..50deg
 * @property {number} coneOuter degrees, full angle, none from here on -- pier.caltrin:139: cone 20deg..50deg
 * @property {number[]} position m -- pier.caltrin:137: position (0m, 6m, 0m), (7m, 0m, 0m)
 * @property {number[]} aim direction, of length 1 -- pier.caltrin:138: aim (0m, -1m, 0m)
 */

/**
 * A lamp of 3, index 0 to 2: area -- pier.caltrin:146: light fog_lamp[3] area (old tubes on the same generator; they fail and strike again)
 * @typedef {object} FogLamp
 * @property {number} intensity cd -- pier.caltrin:154: intensity 90cd * needed * alive * held(94%..100%, every 20ms..60ms) * supply
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:149: color #ffc37a
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:148: reach 12m - 10m * mist
 * @property {number[]} position m -- pier.caltrin:147: position (4m, 4m, -3m), (18m, 0m, 0m)
 */

/**
 * A lamp of 12, index 0 to 11: point -- pier.caltrin:161: light glow point { color 2450K; reach 9m; intensity strength * lit * 60% }
 * @typedef {object} QuayGlow
 * @property {number} intensity lm
 * @property {number[]} color linear Rec. 709
 * @property {number} reachOuter m, no light from this distance on
 * @property {number[]} position m
 */

/**
 * A lamp of 12, index 0 to 11: point -- pier.caltrin:162: light core point { color 2450K; reach 9m; intensity strength * flame; offset wander(radius 3cm, r...
 * @typedef {object} QuayCore
 * @property {number} intensity lm
 * @property {number[]} color linear Rec. 709
 * @property {number} reachOuter m, no light from this distance on
 * @property {number[]} position m
 * @property {number[]} offset m, added to the position
 */

/**
 * A lamp: point -- pier.caltrin:168: light ticket_hatch point (open to the wind)
 * @typedef {object} TicketHatch
 * @property {number} intensity lm -- pier.caltrin:172: intensity 420lm * guttering(50%, draft 250ms)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:171: color 2700K
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:170: reach 5m
 * @property {number[]} position m -- pier.caltrin:169: position (31m, 2m, 5m)
 */

/**
 * A lamp of 6, index 0 to 5: area -- pier.caltrin:175: light pane[6] area (workshop windows, each lit at a different dusk level)
 * @typedef {object} Pane
 * @property {number} intensity cd -- pier.caltrin:182: intensity 55cd * dim * awake
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:179: color #ffcf9a
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:178: reach 6m
 * @property {number[]} position m -- pier.caltrin:176: position (44m, 2m, -5m), (1.8m, 0m, 0m)
 * @property {number[]} aim direction, of length 1 -- pier.caltrin:177: aim (0m, 0m, 1m)
 */

/**
 * A lamp: point -- pier.caltrin:185: light weld point (welding in runs with pauses)
 * @typedef {object} Weld
 * @property {number} intensity lm -- pier.caltrin:189: intensity 20_000lm * bursts(on 400ms..2.5s, off 700ms..5s) * held(30%..100%, every 15ms..40ms)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:188: color arc
 * @property {number} reachInner m, full light up to this distance -- pier.caltrin:187: reach 0.5m..30m
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:187: reach 0.5m..30m
 * @property {number[]} position m -- pier.caltrin:186: position (48m, 1m, -2m)
 * @property {boolean} shadows whether the lamp casts shadows -- pier.caltrin:190: shadows on
 */

/**
 * A lamp: point -- pier.caltrin:193: light bench_lamp point (the winch pulls its voltage down at each tooth)
 * @typedef {object} BenchLamp
 * @property {number} intensity lm -- pier.caltrin:197: intensity 640lm * (100% - 40% * follow(ratchet, band high, attack 5ms, release 140ms))
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:196: color 2700K
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:195: reach 7m
 * @property {number[]} position m -- pier.caltrin:194: position (46m, 2.4m, -3m)
 */

/**
 * A lamp: point -- pier.caltrin:200: light horn_lamp point (lights up with the horn)
 * @typedef {object} HornLamp
 * @property {number} intensity lm -- pier.caltrin:204: intensity 4000lm * blare
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:203: color 3000K
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:202: reach 20m
 * @property {number[]} position m -- pier.caltrin:201: position (60m, 8m, 0m)
 */

/**
 * A lamp of 3, index 0 to 2: area -- pier.caltrin:209: light strip area { color #ffd9a0; reach 5m; intensity 60cd * later(blare, by 80ms) * loudness }
 * @typedef {object} BoardStrip
 * @property {number} intensity cd
 * @property {number[]} color linear Rec. 709
 * @property {number} reachOuter m, no light from this distance on
 * @property {number[]} position m
 */

/**
 * A lamp: point -- pier.caltrin:213: light buoy_lamp point (off the pier's head, flashes with the bell)
 * @typedef {object} BuoyLamp
 * @property {number} intensity cd -- pier.caltrin:217: intensity 700cd * (10% + 90% * stroke)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:216: color #9dffb0
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:215: reach 16m
 * @property {number[]} position m -- pier.caltrin:214: position (72m, 2m, 18m)
 */

/**
 * A lamp: point -- pier.caltrin:220: light harbor_light point (two flashes every six seconds)
 * @typedef {object} HarborLight
 * @property {number} intensity cd -- pier.caltrin:223: intensity 2600cd * rhythm(on 400ms, off 800ms, on 400ms, off 4.4s)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:222: color #9dffb0
 * @property {number[]} position m -- pier.caltrin:221: position (60m, 14m, 0m)
 */

/**
 * A lamp of 4, index 0 to 3: point -- pier.caltrin:226: light standby[4] point (standby lamps of the winches, never in step)
 * @typedef {object} Standby
 * @property {number} intensity cd -- pier.caltrin:230: intensity 12cd * alternate(breathing, scatter)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:229: color #ff5a1f
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:228: reach 2m
 * @property {number[]} position m -- pier.caltrin:227: position (12m, 1m, 2m), (9m, 0m, 0m)
 */

/**
 * A lamp of 16, index 0 to 15: point -- pier.caltrin:233: light edge_lamp[16] point (a chase along the pier's edge)
 * @typedef {object} EdgeLamp
 * @property {number} intensity cd -- pier.caltrin:237: intensity 18cd * later(sine(20%..100%, every 2.9s), each 110ms)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:236: color hue(#ffb000, by drawn(-6deg..6deg))
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:235: reach 2m
 * @property {number[]} position m -- pier.caltrin:234: position (0m, 0.2m, 12m), (3.5m, 0m, 0m)
 */

/**
 * A lamp: point -- pier.caltrin:240: light gangway point
 * @typedef {object} Gangway
 * @property {number} intensity lm -- pier.caltrin:244: intensity 320lm * once(warming)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:243: color 3500K
 * @property {number} reachInner m, full light up to this distance -- pier.caltrin:242: reach 1m..8m
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:242: reach 1m..8m
 * @property {number[]} position m -- pier.caltrin:241: position (22m, 2m, 4m)
 */

/**
 * A lamp: point -- pier.caltrin:247: light gate_lamp point
 * @typedef {object} GateLamp
 * @property {number} intensity cd -- pier.caltrin:251: intensity 40cd * play(opening, at gate_opens)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:250: color #58ff9a
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:249: reach 3m
 * @property {number[]} position m -- pier.caltrin:248: position (22m, 1m, 8m)
 */

/**
 * A lamp: point -- pier.caltrin:262: light warning_lamp point (red, at the pier's head)
 * @typedef {object} WarningLamp
 * @property {number} intensity cd -- pier.caltrin:266: intensity 900cd * pick(warning, calm 0%, watch sine(10%..50%, every 3.1s), alarm rhythm(on 300ms,...
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:265: color #ff2a10
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:264: reach 12m
 * @property {number[]} position m -- pier.caltrin:263: position (60m, 10m, 0m)
 */

/**
 * A lamp of 6, index 0 to 5: point -- pier.caltrin:269: spark star_shell[6] point at rocket (star shells on small parachutes)
 * @typedef {object} StarShell
 * @property {number} intensity cd -- pier.caltrin:276: intensity 9000cd * fading(life) * held(85%..100%, every 40ms..120ms)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:275: color rocket.tint
 * @property {number} reachOuter m, no light from this distance on -- pier.caltrin:274: reach 90m
 * @property {number[]} position m -- pier.caltrin:272: position rocket.place
 * @property {number[]} offset m, added to the position -- pier.caltrin:273: offset (0m, life * -12m, 0m)
 */

/**
 * A lamp: directional -- pier.caltrin:285: light sunlight directional
 * @typedef {object} Sunlight
 * @property {number} intensity lx -- pier.caltrin:288: intensity 60_000lx * sun.strength * pick(weather, fair 1 - 80% * mist, overcast 0%)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:287: color sun.color
 * @property {number[]} aim direction, of length 1 -- pier.caltrin:286: aim sun.aim
 * @property {boolean} shadows whether the lamp casts shadows -- pier.caltrin:289: shadows on
 */

/**
 * A lamp: directional -- pier.caltrin:292: light moonlight directional
 * @typedef {object} Moonlight
 * @property {number} intensity lx -- pier.caltrin:295: intensity 0.25lx * moon.strength * pick(weather, fair 1 - mist, overcast 0%)
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:294: color #b8ccff
 * @property {number[]} aim direction, of length 1 -- pier.caltrin:293: aim moon.aim
 */

/**
 * A lamp: ambient -- pier.caltrin:298: light deck ambient
 * @typedef {object} Deck
 * @property {number} intensity lx -- pier.caltrin:300: intensity 3lx * (40% + 5% * supply) + 2500lx * overhead
 * @property {number[]} color linear Rec. 709 -- pier.caltrin:299: color mix(#5a6f86, sky, by sun.daylight)
 */

/**
 * An output -- pier.caltrin:303: output sky_tint = sky
 * @typedef {object} SkyTint
 * @property {number[]} value linear Rec. 709
 */

/**
 * An output -- pier.caltrin:304: output haze_tint = mix(watch.tint, #ffb36b, by 30% * dark) (haze takes the color of the light a...)
 * @typedef {object} HazeTint
 * @property {number[]} value linear Rec. 709
 */

/**
 * An output -- pier.caltrin:305: output fog = mist * pick(watch, night 130%, morning 160%, others 100%)
 * @typedef {object} Fog
 * @property {number} value number
 */

/**
 * An output -- pier.caltrin:306: output view_range = mix(900m + 3100m * overhead, 150m, by mist)
 * @typedef {object} ViewRange
 * @property {number} value m
 */

/**
 * An output -- pier.caltrin:308: output drumming = follow(rain, band mid, attack 5ms, release 90ms) * pick(weather, fair 0%, overc...
 * @typedef {object} Drumming
 * @property {number} value number
 */

/**
 * An output of 400, index 0 to 399 -- pier.caltrin:310: output stars[400] (a field of stars for the sky)
 * @typedef {object} Stars
 * @property {number} level number -- pier.caltrin:312: level clear * held(40%..100%, every 200ms..900ms, over 60%)
 * @property {number[]} tint linear Rec. 709 -- pier.caltrin:313: tint drawn(#ffd9b0, #ffffff, #b8ccff)
 */

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {Mast[]} lamps
 */
export function fillMast(run, first, lamps) {
  const hour = clockHour(run);
  const t = run.now;
  const darkNow = dark(hour, run.season);
  const intensityProduct = 6200.0 * darkNow;
  const intensityKey = chanceKey(run.seed, 0x1d19816b);
  const supplyNow = supply(t);
  const intensityKey_2 = chanceKey(run.seed, 0xd065fa35);
  const powerNow = power(t, run.powerOn, run.powerSince, run.powerFrom);
  const intensityMix = lerp(0.03, 1.0, powerNow);
  const intensityIf = 1.0 > powerNow;
  const coneLong = lerp(0.6143787151789374, 0.8260104981374541, powerNow);
  const coneMiddle = lerp(0.5425139545956855, 0.739707391072413, powerNow);
  const coneShort = lerp(0.41820949404943747, 0.5629148554993054, powerNow);
  const colorNowR = intensityIf ? lightR(coneLong, coneMiddle, coneShort) : 1.0;
  const colorNowG = intensityIf ? lightG(coneLong, coneMiddle, coneShort) : 0.28053215;
  const colorNowB = intensityIf ? lightB(coneLong, coneMiddle, coneShort) : 0.017522722;
  const brightest = max(max(colorNowR, colorNowG), colorNowB);
  const colorNowR_2 = share(colorNowR, brightest);
  const colorNowG_2 = share(colorNowG, brightest);
  const colorNowB_2 = share(colorNowB, brightest);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    lamp.intensity = toSingle((index === 5.0
          ? intensityProduct * buzzing(t, lampKey(intensityKey, index), 0.2) * supplyNow
          : intensityProduct * buzzing(t, lampKey(intensityKey_2, index), 0.85) * supplyNow)
        * intensityMix
        * brightest);
    lamp.color[0] = Math.fround(colorNowR_2);
    lamp.color[1] = Math.fround(colorNowG_2);
    lamp.color[2] = Math.fround(colorNowB_2);
    lamp.reachInner = 1.0;
    lamp.reachOuter = 14.0;
    lamp.coneInner = 20.0;
    lamp.coneOuter = 50.0;
    lamp.position[0] = Math.fround(7.0 * index);
    lamp.position[1] = 6.0;
    lamp.position[2] = 0.0;
    lamp.aim[0] = 0.0;
    lamp.aim[1] = -1.0;
    lamp.aim[2] = 0.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {Mast} [lamp] kept by the caller @returns {Mast}
 */
export function readMast(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachInner: 0, reachOuter: 0,
  coneInner: 0, coneOuter: 0, position: [0, 0, 0], aim: [0, 0, 0] }) {
  const hour = clockHour(run);
  const t = run.now;
  const darkNow = dark(hour, run.season);
  const intensityProduct = 6200.0 * darkNow;
  const intensityKey = chanceKey(run.seed, 0x1d19816b);
  const supplyNow = supply(t);
  const intensityKey_2 = chanceKey(run.seed, 0xd065fa35);
  const powerNow = power(t, run.powerOn, run.powerSince, run.powerFrom);
  const intensityMix = lerp(0.03, 1.0, powerNow);
  const intensityIf = 1.0 > powerNow;
  const coneLong = lerp(0.6143787151789374, 0.8260104981374541, powerNow);
  const coneMiddle = lerp(0.5425139545956855, 0.739707391072413, powerNow);
  const coneShort = lerp(0.41820949404943747, 0.5629148554993054, powerNow);
  const colorNowR = intensityIf ? lightR(coneLong, coneMiddle, coneShort) : 1.0;
  const colorNowG = intensityIf ? lightG(coneLong, coneMiddle, coneShort) : 0.28053215;
  const colorNowB = intensityIf ? lightB(coneLong, coneMiddle, coneShort) : 0.017522722;
  const brightest = max(max(colorNowR, colorNowG), colorNowB);
  const colorNowR_2 = share(colorNowR, brightest);
  const colorNowG_2 = share(colorNowG, brightest);
  const colorNowB_2 = share(colorNowB, brightest);
  lamp.intensity = toSingle((index === 5.0
        ? intensityProduct * buzzing(t, lampKey(intensityKey, index), 0.2) * supplyNow
        : intensityProduct * buzzing(t, lampKey(intensityKey_2, index), 0.85) * supplyNow)
      * intensityMix
      * brightest);
  lamp.color[0] = Math.fround(colorNowR_2);
  lamp.color[1] = Math.fround(colorNowG_2);
  lamp.color[2] = Math.fround(colorNowB_2);
  lamp.reachInner = 1.0;
  lamp.reachOuter = 14.0;
  lamp.coneInner = 20.0;
  lamp.coneOuter = 50.0;
  lamp.position[0] = Math.fround(7.0 * index);
  lamp.position[1] = 6.0;
  lamp.position[2] = 0.0;
  lamp.aim[0] = 0.0;
  lamp.aim[1] = -1.0;
  lamp.aim[2] = 0.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {FogLamp[]} lamps
 */
export function fillFogLamp(run, first, lamps) {
  const hour = clockHour(run);
  const t = run.now;
  const mist = run.mist;
  const needed = max(dark(hour, run.season), easeSmooth(clamp((mist - 0.5) / 0.2, 0.0, 1.0)));
  const intensityProduct = 90.0 * needed;
  const intensityKey = chanceKey(run.seed, 0xe338c449);
  const supplyNow = supply(t);
  const powerNow = power(t, run.powerOn, run.powerSince, run.powerFrom);
  const intensityMix = lerp(0.03, 1.0, powerNow);
  const intensityIf = 1.0 > powerNow;
  const coneLong = lerp(0.6143787151789374, 0.8941695352865264, powerNow);
  const coneMiddle = lerp(0.5425139545956855, 0.8454330596660657, powerNow);
  const coneShort = lerp(0.41820949404943747, 0.7144274115928344, powerNow);
  const colorNowR = intensityIf ? lightR(coneLong, coneMiddle, coneShort) : 1.0;
  const colorNowG = intensityIf ? lightG(coneLong, coneMiddle, coneShort) : 0.54572445;
  const colorNowB = intensityIf ? lightB(coneLong, coneMiddle, coneShort) : 0.19461784;
  const brightest = max(max(colorNowR, colorNowG), colorNowB);
  const colorNowR_2 = share(colorNowR, brightest);
  const colorNowG_2 = share(colorNowG, brightest);
  const colorNowB_2 = share(colorNowB, brightest);
  const reachOuterSum = 12.0 - 10.0 * mist;
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const fogLampFaultLast = run.fogLampFaultLast[atMost(index, 2)];
    const alive = fogLampFaultLast > -1.5e9 ? striking(max(t - fogLampFaultLast, 0.0)) : 1.0;
    lamp.intensity = toSingle(intensityProduct
        * alive
        * (0.94 + 0.06000000000000005 * heldLevel(t, lampKey(intensityKey, index), 25.0, 0.24999999999999994))
        * supplyNow
        * intensityMix
        * brightest);
    lamp.color[0] = Math.fround(colorNowR_2);
    lamp.color[1] = Math.fround(colorNowG_2);
    lamp.color[2] = Math.fround(colorNowB_2);
    lamp.reachOuter = Math.fround(reachOuterSum);
    lamp.position[0] = Math.fround(4.0 + 18.0 * index);
    lamp.position[1] = 4.0;
    lamp.position[2] = -3.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {FogLamp} [lamp] kept by the caller @returns {FogLamp}
 */
export function readFogLamp(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0,
  0, 0] }) {
  const hour = clockHour(run);
  const t = run.now;
  const mist = run.mist;
  const needed = max(dark(hour, run.season), easeSmooth(clamp((mist - 0.5) / 0.2, 0.0, 1.0)));
  const intensityProduct = 90.0 * needed;
  const intensityKey = chanceKey(run.seed, 0xe338c449);
  const supplyNow = supply(t);
  const powerNow = power(t, run.powerOn, run.powerSince, run.powerFrom);
  const intensityMix = lerp(0.03, 1.0, powerNow);
  const intensityIf = 1.0 > powerNow;
  const coneLong = lerp(0.6143787151789374, 0.8941695352865264, powerNow);
  const coneMiddle = lerp(0.5425139545956855, 0.8454330596660657, powerNow);
  const coneShort = lerp(0.41820949404943747, 0.7144274115928344, powerNow);
  const colorNowR = intensityIf ? lightR(coneLong, coneMiddle, coneShort) : 1.0;
  const colorNowG = intensityIf ? lightG(coneLong, coneMiddle, coneShort) : 0.54572445;
  const colorNowB = intensityIf ? lightB(coneLong, coneMiddle, coneShort) : 0.19461784;
  const brightest = max(max(colorNowR, colorNowG), colorNowB);
  const colorNowR_2 = share(colorNowR, brightest);
  const colorNowG_2 = share(colorNowG, brightest);
  const colorNowB_2 = share(colorNowB, brightest);
  const reachOuterSum = 12.0 - 10.0 * mist;
  const fogLampFaultLast = run.fogLampFaultLast[atMost(index, 2)];
  const alive = fogLampFaultLast > -1.5e9 ? striking(max(t - fogLampFaultLast, 0.0)) : 1.0;
  lamp.intensity = toSingle(intensityProduct
      * alive
      * (0.94 + 0.06000000000000005 * heldLevel(t, lampKey(intensityKey, index), 25.0, 0.24999999999999994))
      * supplyNow
      * intensityMix
      * brightest);
  lamp.color[0] = Math.fround(colorNowR_2);
  lamp.color[1] = Math.fround(colorNowG_2);
  lamp.color[2] = Math.fround(colorNowB_2);
  lamp.reachOuter = Math.fround(reachOuterSum);
  lamp.position[0] = Math.fround(4.0 + 18.0 * index);
  lamp.position[1] = 4.0;
  lamp.position[2] = -3.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {QuayGlow[]} lamps
 */
export function fillQuayGlow(run, first, lamps) {
  const hour = clockHour(run);
  const sunHeightNow = sunHeight(hour, run.season);
  const intensityKey = chanceKey(run.seed, 0x5cf5239b);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const cock = run.quayCock[atMost(index, 11)];
    const lit = cock
      * (1.0
        - easeSmooth(clamp((sunHeightNow - (-5.0 + 5.0 * chancePhase(lampKey(intensityKey, index)) - 0.1))
              / 0.2, 0.0, 1.0)));
    lamp.intensity = toSingle(700.0 * lit * 0.6);
    lamp.color[0] = 1.0;
    lamp.color[1] = 0.3609750270843506;
    lamp.color[2] = 0.06020144373178482;
    lamp.reachOuter = 9.0;
    lamp.position[0] = Math.fround(5.0 * index);
    lamp.position[1] = 3.0;
    lamp.position[2] = 9.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {QuayGlow} [lamp] kept by the caller @returns {QuayGlow}
 */
export function readQuayGlow(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0,
  0, 0] }) {
  const hour = clockHour(run);
  const sunHeightNow = sunHeight(hour, run.season);
  const intensityKey = chanceKey(run.seed, 0x5cf5239b);
  const cock = run.quayCock[atMost(index, 11)];
  const lit = cock
    * (1.0
      - easeSmooth(clamp((sunHeightNow - (-5.0 + 5.0 * chancePhase(lampKey(intensityKey, index)) - 0.1))
            / 0.2, 0.0, 1.0)));
  lamp.intensity = toSingle(700.0 * lit * 0.6);
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.3609750270843506;
  lamp.color[2] = 0.06020144373178482;
  lamp.reachOuter = 9.0;
  lamp.position[0] = Math.fround(5.0 * index);
  lamp.position[1] = 3.0;
  lamp.position[2] = 9.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {QuayCore[]} lamps
 */
export function fillQuayCore(run, first, lamps) {
  const hour = clockHour(run);
  const t = run.now;
  const sunHeightNow = sunHeight(hour, run.season);
  const intensityKey = chanceKey(run.seed, 0x5cf5239b);
  const intensityKey_2 = chanceKey(run.seed, 0x67243f2f);
  const offsetKey = chanceKey(run.seed, 0xb42e7750);
  const offsetKey_2 = chanceKey(run.seed, 0x43cdf659);
  const offsetKey_3 = chanceKey(run.seed, 0x12c5244c);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const cock = run.quayCock[atMost(index, 11)];
    const lit = cock
      * (1.0
        - easeSmooth(clamp((sunHeightNow - (-5.0 + 5.0 * chancePhase(lampKey(intensityKey, index)) - 0.1))
              / 0.2, 0.0, 1.0)));
    const flame = lit * guttering(t, lampKey(intensityKey_2, index), 0.35, 0.4);
    const offsetSum = driftLevel(t, lampKey(offsetKey, index), 4.0, 1) * 2.0 - 1.0;
    const offsetSum_2 = driftLevel(t, lampKey(offsetKey_2, index), 4.0, 1) * 2.0 - 1.0;
    const offsetSum_3 = driftLevel(t, lampKey(offsetKey_3, index), 4.0, 1) * 2.0 - 1.0;
    lamp.intensity = toSingle(700.0 * flame);
    lamp.color[0] = 1.0;
    lamp.color[1] = 0.3609750270843506;
    lamp.color[2] = 0.06020144373178482;
    lamp.reachOuter = 9.0;
    lamp.position[0] = Math.fround(5.0 * index);
    lamp.position[1] = 3.0;
    lamp.position[2] = 9.0;
    lamp.offset[0] = toSingle(inBall(offsetSum, offsetSum_2, offsetSum_3) * 0.03);
    lamp.offset[1] = toSingle(inBall(offsetSum_2, offsetSum_3, offsetSum) * 0.03);
    lamp.offset[2] = toSingle(inBall(offsetSum_3, offsetSum, offsetSum_2) * 0.03);
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {QuayCore} [lamp] kept by the caller @returns {QuayCore}
 */
export function readQuayCore(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0,
  0, 0], offset: [0, 0, 0] }) {
  const hour = clockHour(run);
  const t = run.now;
  const sunHeightNow = sunHeight(hour, run.season);
  const intensityKey = chanceKey(run.seed, 0x5cf5239b);
  const intensityKey_2 = chanceKey(run.seed, 0x67243f2f);
  const offsetKey = chanceKey(run.seed, 0xb42e7750);
  const offsetKey_2 = chanceKey(run.seed, 0x43cdf659);
  const offsetKey_3 = chanceKey(run.seed, 0x12c5244c);
  const cock = run.quayCock[atMost(index, 11)];
  const lit = cock
    * (1.0
      - easeSmooth(clamp((sunHeightNow - (-5.0 + 5.0 * chancePhase(lampKey(intensityKey, index)) - 0.1))
            / 0.2, 0.0, 1.0)));
  const flame = lit * guttering(t, lampKey(intensityKey_2, index), 0.35, 0.4);
  const offsetSum = driftLevel(t, lampKey(offsetKey, index), 4.0, 1) * 2.0 - 1.0;
  const offsetSum_2 = driftLevel(t, lampKey(offsetKey_2, index), 4.0, 1) * 2.0 - 1.0;
  const offsetSum_3 = driftLevel(t, lampKey(offsetKey_3, index), 4.0, 1) * 2.0 - 1.0;
  lamp.intensity = toSingle(700.0 * flame);
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.3609750270843506;
  lamp.color[2] = 0.06020144373178482;
  lamp.reachOuter = 9.0;
  lamp.position[0] = Math.fround(5.0 * index);
  lamp.position[1] = 3.0;
  lamp.position[2] = 9.0;
  lamp.offset[0] = toSingle(inBall(offsetSum, offsetSum_2, offsetSum_3) * 0.03);
  lamp.offset[1] = toSingle(inBall(offsetSum_2, offsetSum_3, offsetSum) * 0.03);
  lamp.offset[2] = toSingle(inBall(offsetSum_3, offsetSum, offsetSum_2) * 0.03);
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {TicketHatch} [lamp] kept by the caller @returns {TicketHatch} */
export function readTicketHatch(run, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0, 0,
  0] }) {
  const t = run.now;
  lamp.intensity = Math.fround(420.0 * guttering(t, chanceKey(run.seed, 0x94bee2e0), 0.5, 0.25));
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.4152551591396332;
  lamp.color[2] = 0.09909826517105103;
  lamp.reachOuter = 5.0;
  lamp.position[0] = 31.0;
  lamp.position[1] = 2.0;
  lamp.position[2] = 5.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {Pane[]} lamps
 */
export function fillPane(run, first, lamps) {
  const hour = clockHour(run);
  const sunHeightNow = sunHeight(hour, run.season);
  const intensityKey = chanceKey(run.seed, 0xe976a432);
  const intensityKey_2 = chanceKey(run.seed, 0xd6c86fb2);
  const watchNightNow = watchNight(hour);
  const watchMorningNow = watchMorning(hour);
  const watchForenoonNow = watchForenoon(hour);
  const watchEveningNow = watchEvening(hour);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const dim = 1.0
      - easeSmooth(clamp((sunHeightNow - (-3.0 + 8.0 * chancePhase(lampKey(intensityKey, index)) - 0.15))
            / 0.3, 0.0, 1.0));
    const intensityTime = chancePhase(lampKey(intensityKey_2, index));
    const intensityChoice = 0.3333333333333333 > intensityTime
      ? 0.0
      : 0.6666666666666666 > intensityTime
      ? 0.0
      : 0.4;
    const awake = min(max(intensityChoice * watchNightNow
          + watchMorningNow
          + watchForenoonNow
          + watchEveningNow, min(min(min(intensityChoice, 1.0), 1.0), 1.0)),
      max(max(max(intensityChoice, 1.0), 1.0), 1.0));
    lamp.intensity = toSingle(55.0 * dim * awake);
    lamp.color[0] = 1.0;
    lamp.color[1] = 0.6239603757858276;
    lamp.color[2] = 0.32314321398735046;
    lamp.reachOuter = 6.0;
    lamp.position[0] = Math.fround(44.0 + 1.8 * index);
    lamp.position[1] = 2.0;
    lamp.position[2] = -5.0;
    lamp.aim[0] = 0.0;
    lamp.aim[1] = 0.0;
    lamp.aim[2] = 1.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {Pane} [lamp] kept by the caller @returns {Pane}
 */
export function readPane(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0, 0,
  0], aim: [0, 0, 0] }) {
  const hour = clockHour(run);
  const sunHeightNow = sunHeight(hour, run.season);
  const intensityKey = chanceKey(run.seed, 0xe976a432);
  const intensityKey_2 = chanceKey(run.seed, 0xd6c86fb2);
  const watchNightNow = watchNight(hour);
  const watchMorningNow = watchMorning(hour);
  const watchForenoonNow = watchForenoon(hour);
  const watchEveningNow = watchEvening(hour);
  const dim = 1.0
    - easeSmooth(clamp((sunHeightNow - (-3.0 + 8.0 * chancePhase(lampKey(intensityKey, index)) - 0.15)) / 0.3,
        0.0, 1.0));
  const intensityTime = chancePhase(lampKey(intensityKey_2, index));
  const intensityChoice = 0.3333333333333333 > intensityTime
    ? 0.0
    : 0.6666666666666666 > intensityTime
    ? 0.0
    : 0.4;
  const awake = min(max(intensityChoice * watchNightNow
        + watchMorningNow
        + watchForenoonNow
        + watchEveningNow, min(min(min(intensityChoice, 1.0), 1.0), 1.0)),
    max(max(max(intensityChoice, 1.0), 1.0), 1.0));
  lamp.intensity = toSingle(55.0 * dim * awake);
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.6239603757858276;
  lamp.color[2] = 0.32314321398735046;
  lamp.reachOuter = 6.0;
  lamp.position[0] = Math.fround(44.0 + 1.8 * index);
  lamp.position[1] = 2.0;
  lamp.position[2] = -5.0;
  lamp.aim[0] = 0.0;
  lamp.aim[1] = 0.0;
  lamp.aim[2] = 1.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {Weld} [lamp] kept by the caller @returns {Weld} */
export function readWeld(run, lamp = { intensity: 0, color: [0, 0, 0], reachInner: 0, reachOuter: 0,
  position: [0, 0, 0], shadows: false }) {
  const t = run.now;
  lamp.intensity = toSingle(2e4
      * burstLevel(t, chanceKey(run.seed, 0x57ce2f76), 0.4, 2.5, 0.7, 5.0, burstsOn, burstsOff, 64)
      * (0.3 + 0.7 * heldLevel(t, chanceKey(run.seed, 0xac037c6f), 36.36363636363637, 0.2272727272727273)));
  lamp.color[0] = 0.6389992237091064;
  lamp.color[1] = 0.7163724899291992;
  lamp.color[2] = 1.0;
  lamp.reachInner = 0.5;
  lamp.reachOuter = 30.0;
  lamp.position[0] = 48.0;
  lamp.position[1] = 1.0;
  lamp.position[2] = -2.0;
  lamp.shadows = true;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {BenchLamp} [lamp] kept by the caller @returns {BenchLamp} */
export function readBenchLamp(run, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0, 0,
  0] }) {
  const t = run.now;
  lamp.intensity = Math.fround(640.0
    * (1.0
      - 0.4
        * envelopeLevel(wrapTime(ratchetPlace(t, run.haul, run.ratchetAt, run.ratchetSince, run.ratchetRate),
              4.0)
            * 3840.0, ratchetEnvelope, 173)));
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.4152551591396332;
  lamp.color[2] = 0.09909826517105103;
  lamp.reachOuter = 7.0;
  lamp.position[0] = 46.0;
  lamp.position[1] = 2.4000000953674316;
  lamp.position[2] = -3.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {HornLamp} [lamp] kept by the caller @returns {HornLamp} */
export function readHornLamp(run, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0, 0,
  0] }) {
  const t = run.now;
  lamp.intensity = toSingle(4e3
      * blare(t, run.hornAt, run.hornSince, run.hornPlays, run.hornChanged, run.blareHornFollow0From));
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.47673800587654114;
  lamp.color[2] = 0.1536071002483368;
  lamp.reachOuter = 20.0;
  lamp.position[0] = 60.0;
  lamp.position[1] = 8.0;
  lamp.position[2] = 0.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {BoardStrip[]} lamps
 */
export function fillBoardStrip(run, first, lamps) {
  const t = run.now;
  const then = clamp(t - 0.08, -1e9, 1e9);
  const intensityProduct = 60.0
    * blare(then, run.hornAt, run.hornSince, run.hornPlays, run.hornChanged, run.blareHornFollow0From);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const loudness = run.boardLoudness[atMost(index, 2)];
    lamp.intensity = toSingle(intensityProduct * loudness);
    lamp.color[0] = 1.0;
    lamp.color[1] = 0.6938717365264893;
    lamp.color[2] = 0.35153260827064514;
    lamp.reachOuter = 5.0;
    lamp.position[0] = Math.fround(10.0 + 16.0 * index);
    lamp.position[1] = 3.0;
    lamp.position[2] = -6.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {BoardStrip} [lamp] kept by the caller @returns {BoardStrip}
 */
export function readBoardStrip(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0,
  position: [0, 0, 0] }) {
  const t = run.now;
  const then = clamp(t - 0.08, -1e9, 1e9);
  const intensityProduct = 60.0
    * blare(then, run.hornAt, run.hornSince, run.hornPlays, run.hornChanged, run.blareHornFollow0From);
  const loudness = run.boardLoudness[atMost(index, 2)];
  lamp.intensity = toSingle(intensityProduct * loudness);
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.6938717365264893;
  lamp.color[2] = 0.35153260827064514;
  lamp.reachOuter = 5.0;
  lamp.position[0] = Math.fround(10.0 + 16.0 * index);
  lamp.position[1] = 3.0;
  lamp.position[2] = -6.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {BuoyLamp} [lamp] kept by the caller @returns {BuoyLamp} */
export function readBuoyLamp(run, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0, 0,
  0] }) {
  const t = run.now;
  lamp.intensity = Math.fround(700.0 * (0.1 + 0.9 * stroke(t)));
  lamp.color[0] = 0.33716362714767456;
  lamp.color[1] = 1.0;
  lamp.color[2] = 0.43415364623069763;
  lamp.reachOuter = 16.0;
  lamp.position[0] = 72.0;
  lamp.position[1] = 2.0;
  lamp.position[2] = 18.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {HarborLight} [lamp] kept by the caller @returns {HarborLight} */
export function readHarborLight(run, lamp = { intensity: 0, color: [0, 0, 0], position: [0, 0, 0] }) {
  const t = run.now;
  lamp.intensity = toSingle(2600.0 * harborLightRhythm(wrapTime(t, 6.0)));
  lamp.color[0] = 0.33716362714767456;
  lamp.color[1] = 1.0;
  lamp.color[2] = 0.43415364623069763;
  lamp.position[0] = 60.0;
  lamp.position[1] = 14.0;
  lamp.position[2] = 0.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {Standby[]} lamps
 */
export function fillStandby(run, first, lamps) {
  const t = run.now;
  const intensityKey = chanceKey(run.seed, 0xd182480d);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    lamp.intensity = Math.fround(12.0
      * breathing(foldTime(t + 6.2 * chancePhase(lampKey(intensityKey, index)), 3.1)));
    lamp.color[0] = 1.0;
    lamp.color[1] = 0.10224173218011856;
    lamp.color[2] = 0.013702083379030228;
    lamp.reachOuter = 2.0;
    lamp.position[0] = Math.fround(12.0 + 9.0 * index);
    lamp.position[1] = 1.0;
    lamp.position[2] = 2.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {Standby} [lamp] kept by the caller @returns {Standby}
 */
export function readStandby(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0,
  0, 0] }) {
  const t = run.now;
  const intensityKey = chanceKey(run.seed, 0xd182480d);
  lamp.intensity = Math.fround(12.0
    * breathing(foldTime(t + 6.2 * chancePhase(lampKey(intensityKey, index)), 3.1)));
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.10224173218011856;
  lamp.color[2] = 0.013702083379030228;
  lamp.reachOuter = 2.0;
  lamp.position[0] = Math.fround(12.0 + 9.0 * index);
  lamp.position[1] = 1.0;
  lamp.position[2] = 2.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {EdgeLamp[]} lamps
 */
export function fillEdgeLamp(run, first, lamps) {
  const t = run.now;
  const intensityKey = chanceKey(run.seed, 0x00086cfa);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const then = clamp(t - 0.11 * index, -1e9, 1e9);
    const intensitySum = (-6.0 + 12.0 * chancePhase(lampKey(intensityKey, index))) / 360.0 + 0.25;
    const intensitySum_2 = sineLevel(intensitySum + 0.25) * 2.0 - 1.0 - 1.0;
    const intensitySum_3 = sineLevel(intensitySum) * 2.0 - 1.0;
    const intensitySum_4 = 0.04008983117438758 * intensitySum_2 - 0.16559477844099274 * intensitySum_3;
    const intensitySum_5 = 0.04008983117438758 * intensitySum_3 + 0.16559477844099274 * intensitySum_2;
    const coneLong = 0.8640444967404417 + (intensitySum_4 * 0.3963377774 + intensitySum_5 * 0.2158037573);
    const coneMiddle = 0.7976135602197533 + (intensitySum_4 * -0.1055613458 + intensitySum_5 * -0.0638541728);
    const coneShort = 0.5949687844818005 + (intensitySum_4 * -0.0894841775 + intensitySum_5 * -1.291485548);
    const colorNowR = lightR(coneLong, coneMiddle, coneShort);
    const colorNowG = lightG(coneLong, coneMiddle, coneShort);
    const colorNowB = lightB(coneLong, coneMiddle, coneShort);
    const brightest = max(max(colorNowR, colorNowG), colorNowB);
    lamp.intensity = Math.fround(18.0 * (0.2 + 0.8 * sineLevel(wrapTime(then, 2.9) / 2.9)) * brightest);
    lamp.color[0] = Math.fround(share(colorNowR, brightest));
    lamp.color[1] = Math.fround(share(colorNowG, brightest));
    lamp.color[2] = toSingle(share(colorNowB, brightest));
    lamp.reachOuter = 2.0;
    lamp.position[0] = Math.fround(3.5 * index);
    lamp.position[1] = 0.20000000298023224;
    lamp.position[2] = 12.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {EdgeLamp} [lamp] kept by the caller @returns {EdgeLamp}
 */
export function readEdgeLamp(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0,
  0, 0] }) {
  const t = run.now;
  const intensityKey = chanceKey(run.seed, 0x00086cfa);
  const then = clamp(t - 0.11 * index, -1e9, 1e9);
  const intensitySum = (-6.0 + 12.0 * chancePhase(lampKey(intensityKey, index))) / 360.0 + 0.25;
  const intensitySum_2 = sineLevel(intensitySum + 0.25) * 2.0 - 1.0 - 1.0;
  const intensitySum_3 = sineLevel(intensitySum) * 2.0 - 1.0;
  const intensitySum_4 = 0.04008983117438758 * intensitySum_2 - 0.16559477844099274 * intensitySum_3;
  const intensitySum_5 = 0.04008983117438758 * intensitySum_3 + 0.16559477844099274 * intensitySum_2;
  const coneLong = 0.8640444967404417 + (intensitySum_4 * 0.3963377774 + intensitySum_5 * 0.2158037573);
  const coneMiddle = 0.7976135602197533 + (intensitySum_4 * -0.1055613458 + intensitySum_5 * -0.0638541728);
  const coneShort = 0.5949687844818005 + (intensitySum_4 * -0.0894841775 + intensitySum_5 * -1.291485548);
  const colorNowR = lightR(coneLong, coneMiddle, coneShort);
  const colorNowG = lightG(coneLong, coneMiddle, coneShort);
  const colorNowB = lightB(coneLong, coneMiddle, coneShort);
  const brightest = max(max(colorNowR, colorNowG), colorNowB);
  lamp.intensity = Math.fround(18.0 * (0.2 + 0.8 * sineLevel(wrapTime(then, 2.9) / 2.9)) * brightest);
  lamp.color[0] = Math.fround(share(colorNowR, brightest));
  lamp.color[1] = Math.fround(share(colorNowG, brightest));
  lamp.color[2] = toSingle(share(colorNowB, brightest));
  lamp.reachOuter = 2.0;
  lamp.position[0] = Math.fround(3.5 * index);
  lamp.position[1] = 0.20000000298023224;
  lamp.position[2] = 12.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {Gangway} [lamp] kept by the caller @returns {Gangway} */
export function readGangway(run, lamp = { intensity: 0, color: [0, 0, 0], reachInner: 0, reachOuter: 0,
  position: [0, 0, 0] }) {
  const t = run.now;
  const intensityProduct = 320.0 * warming(t);
  const dockingAtNow = dockingAt(t, run.dockingStarted);
  const intensityChoice = 0.0 > dockingAtNow ? 0.0 : dockingWeight(dockingAtNow);
  const coneLong = lerp(0.9010167023289669, dockingGangwayColorL(dockingAtNow), intensityChoice);
  const coneMiddle = lerp(0.8563551629324132, dockingGangwayColorM(dockingAtNow), intensityChoice);
  const coneShort = lerp(0.744272310693046, dockingGangwayColorS(dockingAtNow), intensityChoice);
  const colorNowR = lightR(coneLong, coneMiddle, coneShort);
  const colorNowG = lightG(coneLong, coneMiddle, coneShort);
  const colorNowB = lightB(coneLong, coneMiddle, coneShort);
  const brightest = max(max(colorNowR, colorNowG), colorNowB);
  lamp.intensity = toSingle(lerp(intensityProduct,
        2.5 > dockingAtNow
          ? lerp(intensityProduct, 1500.0, easeSmooth(clamp((dockingAtNow - 1.0) / 1.5, 0.0, 1.0)))
          : 16.0 > dockingAtNow
          ? 1500.0
          : 18.0 > dockingAtNow
          ? lerp(1500.0, 900.0, easeSmooth(clamp((dockingAtNow - 16.0) / 2.0, 0.0, 1.0)))
          : 900.0, dockingWeight_2(dockingAtNow))
      * brightest);
  lamp.color[0] = Math.fround(share(colorNowR, brightest));
  lamp.color[1] = Math.fround(share(colorNowG, brightest));
  lamp.color[2] = toSingle(share(colorNowB, brightest));
  lamp.reachInner = 1.0;
  lamp.reachOuter = 8.0;
  lamp.position[0] = 22.0;
  lamp.position[1] = 2.0;
  lamp.position[2] = 4.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {GateLamp} [lamp] kept by the caller @returns {GateLamp} */
export function readGateLamp(run, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0, 0,
  0] }) {
  const t = run.now;
  const gateOpensLast = run.gateOpensLast;
  lamp.intensity = toSingle(40.0 * (gateOpensLast > -1.5e9 ? opening(max(t - gateOpensLast, 0.0)) : 0.0));
  lamp.color[0] = 0.09758734703063965;
  lamp.color[1] = 1.0;
  lamp.color[2] = 0.32314321398735046;
  lamp.reachOuter = 3.0;
  lamp.position[0] = 22.0;
  lamp.position[1] = 1.0;
  lamp.position[2] = 8.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {WarningLamp} [lamp] kept by the caller @returns {WarningLamp} */
export function readWarningLamp(run, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0, position: [0, 0,
  0] }) {
  const t = run.now;
  const intensityMix = 0.1 + 0.4 * sineLevel(wrapTime(t, 3.1) / 3.1);
  const warningLampRhythmNow = warningLampRhythm(wrapTime(t, 1.0));
  lamp.intensity = toSingle(900.0
      * min(max(intensityMix
              * warningWatch(t, run.warningMode, run.warningEntered, run.warningWay, run.warningFromWatch)
            + warningLampRhythmNow
              * warningAlarm(t, run.warningMode, run.warningEntered, run.warningWay, run.warningFromAlarm),
          min(min(0.0, intensityMix), warningLampRhythmNow)),
        max(max(0.0, intensityMix), warningLampRhythmNow)));
  lamp.color[0] = 1.0;
  lamp.color[1] = 0.023153366521000862;
  lamp.color[2] = 0.005181516520678997;
  lamp.reachOuter = 12.0;
  lamp.position[0] = 60.0;
  lamp.position[1] = 10.0;
  lamp.position[2] = 0.0;
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {StarShell[]} lamps
 */
export function fillStarShell(run, first, lamps) {
  const t = run.now;
  const intensityKey = chanceKey(run.seed, 0xdbd45ada);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const atMost_2 = atMost(index, 5);
    const starShellBorn = run.starShellBorn[atMost_2];
    const starShellLength = run.starShellLength[atMost_2];
    const lives = starShellBorn + starShellLength > t && !(starShellBorn > t);
    const life = clamp((t - starShellBorn) / starShellLength, 0.0, 1.0);
    const starShellTintR = run.starShellTint[atMost_2][0];
    const starShellTintG = run.starShellTint[atMost_2][1];
    const starShellTintB = run.starShellTint[atMost_2][2];
    const brightest = max(max(starShellTintR, starShellTintG), starShellTintB);
    lamp.intensity = toSingle((lives
          ? 9e3
            * fading(life)
            * (0.85
              + 0.15000000000000002 * heldLevel(t, lampKey(intensityKey, index), 12.5, 0.24999999999999994))
          : 0.0)
        * brightest);
    lamp.color[0] = toSingle(share(starShellTintR, brightest));
    lamp.color[1] = toSingle(share(starShellTintG, brightest));
    lamp.color[2] = toSingle(share(starShellTintB, brightest));
    lamp.reachOuter = 90.0;
    lamp.position[0] = toSingle(run.starShellPlace[atMost_2][0]);
    lamp.position[1] = toSingle(run.starShellPlace[atMost_2][1]);
    lamp.position[2] = toSingle(run.starShellPlace[atMost_2][2]);
    lamp.offset[0] = 0.0;
    lamp.offset[1] = toSingle(life * -12.0);
    lamp.offset[2] = 0.0;
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {StarShell} [lamp] kept by the caller @returns {StarShell}
 */
export function readStarShell(run, index, lamp = { intensity: 0, color: [0, 0, 0], reachOuter: 0,
  position: [0, 0, 0], offset: [0, 0, 0] }) {
  const t = run.now;
  const intensityKey = chanceKey(run.seed, 0xdbd45ada);
  const atMost_2 = atMost(index, 5);
  const starShellBorn = run.starShellBorn[atMost_2];
  const starShellLength = run.starShellLength[atMost_2];
  const lives = starShellBorn + starShellLength > t && !(starShellBorn > t);
  const life = clamp((t - starShellBorn) / starShellLength, 0.0, 1.0);
  const starShellTintR = run.starShellTint[atMost_2][0];
  const starShellTintG = run.starShellTint[atMost_2][1];
  const starShellTintB = run.starShellTint[atMost_2][2];
  const brightest = max(max(starShellTintR, starShellTintG), starShellTintB);
  lamp.intensity = toSingle((lives
        ? 9e3
          * fading(life)
          * (0.85
            + 0.15000000000000002 * heldLevel(t, lampKey(intensityKey, index), 12.5, 0.24999999999999994))
        : 0.0)
      * brightest);
  lamp.color[0] = toSingle(share(starShellTintR, brightest));
  lamp.color[1] = toSingle(share(starShellTintG, brightest));
  lamp.color[2] = toSingle(share(starShellTintB, brightest));
  lamp.reachOuter = 90.0;
  lamp.position[0] = toSingle(run.starShellPlace[atMost_2][0]);
  lamp.position[1] = toSingle(run.starShellPlace[atMost_2][1]);
  lamp.position[2] = toSingle(run.starShellPlace[atMost_2][2]);
  lamp.offset[0] = 0.0;
  lamp.offset[1] = toSingle(life * -12.0);
  lamp.offset[2] = 0.0;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {Sunlight} [lamp] kept by the caller @returns {Sunlight} */
export function readSunlight(run, lamp = { intensity: 0, color: [0, 0, 0], aim: [0, 0, 0], shadows: false }) {
  const hour = clockHour(run);
  const sunColorNowR = sunColorR(hour, run.season);
  const sunColorNowG = sunColorG(hour, run.season);
  const sunColorNowB = sunColorB(hour, run.season);
  const brightest = max(max(sunColorNowR, sunColorNowG), sunColorNowB);
  const sunAimNowX = sunAimX(hour, run.season);
  const sunAimNowY = sunAimY(hour, run.season);
  const sunAimNowZ = sunAimZ(hour, run.season);
  lamp.intensity = toSingle(6e4
      * sunStrength(hour, run.season)
      * lerp(1.0 - 0.8 * run.mist, 0.0, weatherWeight(run, 1))
      * brightest);
  lamp.color[0] = Math.fround(share(sunColorNowR, brightest));
  lamp.color[1] = Math.fround(share(sunColorNowG, brightest));
  lamp.color[2] = Math.fround(share(sunColorNowB, brightest));
  lamp.aim[0] = toSingle(heading(sunAimNowX, sunAimNowX, sunAimNowY, sunAimNowZ, 0.0));
  lamp.aim[1] = toSingle(heading(sunAimNowY, sunAimNowX, sunAimNowY, sunAimNowZ, 0.0));
  lamp.aim[2] = toSingle(heading(sunAimNowZ, sunAimNowX, sunAimNowY, sunAimNowZ, -1.0));
  lamp.shadows = true;
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {Moonlight} [lamp] kept by the caller @returns {Moonlight} */
export function readMoonlight(run, lamp = { intensity: 0, color: [0, 0, 0], aim: [0, 0, 0] }) {
  const hour = clockHour(run);
  const days = clockDays(run);
  const moonAimNowX = moonAimX(hour, days, run.season);
  const moonAimNowY = moonAimY(hour, days, run.season);
  const moonAimNowZ = moonAimZ(hour, days, run.season);
  lamp.intensity = toSingle(0.25
      * moonStrength(hour, days, run.season)
      * lerp(1.0 - run.mist, 0.0, weatherWeight(run, 1)));
  lamp.color[0] = 0.4793201684951782;
  lamp.color[1] = 0.6038273572921753;
  lamp.color[2] = 1.0;
  lamp.aim[0] = toSingle(heading(moonAimNowX, moonAimNowX, moonAimNowY, moonAimNowZ, 0.0));
  lamp.aim[1] = toSingle(heading(moonAimNowY, moonAimNowX, moonAimNowY, moonAimNowZ, 0.0));
  lamp.aim[2] = toSingle(heading(moonAimNowZ, moonAimNowX, moonAimNowY, moonAimNowZ, -1.0));
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {Deck} [lamp] kept by the caller @returns {Deck} */
export function readDeck(run, lamp = { intensity: 0, color: [0, 0, 0] }) {
  const hour = clockHour(run);
  const t = run.now;
  const weatherWeight_2 = weatherWeight(run, 1);
  const skyNowR = skyR(hour, run.season, weatherWeight_2);
  const skyNowG = skyG(hour, run.season, weatherWeight_2);
  const skyNowB = skyB(hour, run.season, weatherWeight_2);
  const sunDaylightNow = sunDaylight(hour, run.season);
  const coneLong = lerp(0.5188370226641149, coneL(skyNowR, skyNowG, skyNowB), sunDaylightNow);
  const coneMiddle = lerp(0.5377145272642493, coneM(skyNowR, skyNowG, skyNowB), sunDaylightNow);
  const coneShort = lerp(0.5886725379626864, coneS(skyNowR, skyNowG, skyNowB), sunDaylightNow);
  lamp.intensity = Math.fround(3.0 * (0.4 + 0.05 * supply(t))
    + 2500.0 * overhead(hour, run.season, weatherWeight_2));
  lamp.color[0] = Math.fround(lightR(coneLong, coneMiddle, coneShort));
  lamp.color[1] = Math.fround(lightG(coneLong, coneMiddle, coneShort));
  lamp.color[2] = Math.fround(lightB(coneLong, coneMiddle, coneShort));
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {SkyTint} [lamp] kept by the caller @returns {SkyTint} */
export function readSkyTint(run, lamp = { value: [0, 0, 0] }) {
  const hour = clockHour(run);
  const weatherWeight_2 = weatherWeight(run, 1);
  lamp.value[0] = Math.fround(skyR(hour, run.season, weatherWeight_2));
  lamp.value[1] = Math.fround(skyG(hour, run.season, weatherWeight_2));
  lamp.value[2] = Math.fround(skyB(hour, run.season, weatherWeight_2));
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {HazeTint} [lamp] kept by the caller @returns {HazeTint} */
export function readHazeTint(run, lamp = { value: [0, 0, 0] }) {
  const hour = clockHour(run);
  const watchTintNowR = watchTintR(hour);
  const watchTintNowG = watchTintG(hour);
  const watchTintNowB = watchTintB(hour);
  const valueProduct = 0.3 * dark(hour, run.season);
  const coneLong = lerp(coneL(watchTintNowR, watchTintNowG, watchTintNowB), 0.8713426777842572, valueProduct);
  const coneMiddle = lerp(coneM(watchTintNowR, watchTintNowG, watchTintNowB), 0.8115731599841808,
    valueProduct);
  const coneShort = lerp(coneS(watchTintNowR, watchTintNowG, watchTintNowB), 0.6752738619690486,
    valueProduct);
  lamp.value[0] = Math.fround(lightR(coneLong, coneMiddle, coneShort));
  lamp.value[1] = Math.fround(lightG(coneLong, coneMiddle, coneShort));
  lamp.value[2] = Math.fround(lightB(coneLong, coneMiddle, coneShort));
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {Fog} [lamp] kept by the caller @returns {Fog} */
export function readFog(run, lamp = { value: 0 }) {
  const hour = clockHour(run);
  lamp.value = toSingle(run.mist
      * clamp(1.3 * watchNight(hour) + 1.6 * watchMorning(hour) + watchForenoon(hour) + watchEvening(hour),
        1.0, 1.6));
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {ViewRange} [lamp] kept by the caller @returns {ViewRange} */
export function readViewRange(run, lamp = { value: 0 }) {
  const hour = clockHour(run);
  lamp.value = Math.fround(lerp(900.0 + 3100.0 * overhead(hour, run.season, weatherWeight(run, 1)), 150.0,
    run.mist));
  return lamp;
}

/** Reads the lamp. @param {Run} run @param {Drumming} [lamp] kept by the caller @returns {Drumming} */
export function readDrumming(run, lamp = { value: 0 }) {
  const t = run.now;
  lamp.value = toSingle(envelopeLevel(wrapTime(t, 4.0) * 3840.0, rainEnvelope, 215)
      * lerp(0.0, 1.0, weatherWeight(run, 1)));
  return lamp;
}

/**
 * Reads lamps from `first` on into the lamps of a list.
 * @param {Run} run @param {number} first @param {Stars[]} lamps
 */
export function fillStars(run, first, lamps) {
  const hour = clockHour(run);
  const t = run.now;
  const clear = (1.0 - run.mist)
    * (1.0 - sunDaylight(hour, run.season))
    * lerp(1.0, 0.0, weatherWeight(run, 1));
  const levelKey = chanceKey(run.seed, 0xff9688cd);
  const tintKey = chanceKey(run.seed, 0x09b597c5);
  for (let n = 0; n < lamps.length; ++n) {
    const lamp = lamps[n];
    const index = (first + n) >>> 0;
    const tintTime = chancePhase(lampKey(tintKey, index));
    const tintIf = 0.3333333333333333 > tintTime;
    const tintIf_2 = 0.6666666666666666 > tintTime;
    lamp.level = toSingle(clear
        * (0.4 + 0.6 * softLevel(t, lampKey(levelKey, index), 1.8181818181818181, 0.3181818181818181, 0.6)));
    lamp.tint[0] = Math.fround(tintIf ? 1.0 : tintIf_2 ? 1.0 : 0.47932017);
    lamp.tint[1] = Math.fround(tintIf ? 0.69387174 : tintIf_2 ? 1.0 : 0.60382736);
    lamp.tint[2] = Math.fround(tintIf ? 0.43415365 : 1.0);
  }
}

/**
 * Reads one lamp.
 * @param {Run} run @param {number} index @param {Stars} [lamp] kept by the caller @returns {Stars}
 */
export function readStars(run, index, lamp = { level: 0, tint: [0, 0, 0] }) {
  const hour = clockHour(run);
  const t = run.now;
  const clear = (1.0 - run.mist)
    * (1.0 - sunDaylight(hour, run.season))
    * lerp(1.0, 0.0, weatherWeight(run, 1));
  const levelKey = chanceKey(run.seed, 0xff9688cd);
  const tintKey = chanceKey(run.seed, 0x09b597c5);
  const tintTime = chancePhase(lampKey(tintKey, index));
  const tintIf = 0.3333333333333333 > tintTime;
  const tintIf_2 = 0.6666666666666666 > tintTime;
  lamp.level = toSingle(clear
      * (0.4 + 0.6 * softLevel(t, lampKey(levelKey, index), 1.8181818181818181, 0.3181818181818181, 0.6)));
  lamp.tint[0] = Math.fround(tintIf ? 1.0 : tintIf_2 ? 1.0 : 0.47932017);
  lamp.tint[1] = Math.fround(tintIf ? 0.69387174 : tintIf_2 ? 1.0 : 0.60382736);
  lamp.tint[2] = Math.fround(tintIf ? 0.43415365 : 1.0);
  return lamp;
}

/** Keeps where a lamp of fog_lamp is. @param {Run} run @param {number} at @param {number} lamp */
function noticePlaceFogLamp(run, at, lamp) {
  run.noticePositions[at][0] = Math.fround(4.0 + 18.0 * lamp);
  run.noticePositions[at][1] = 4.0;
  run.noticePositions[at][2] = -3.0;
}

/** Lets a notice wait until the host takes it, if there is room. @param {Run} run @param {number} line
 * @param {number} text @param {number} lamp @param {number} valueLoud @param {number} valueWithin */
function send(run, line, text, lamp, valueLoud, valueWithin) {
  const count = counted(run.noticeCount, 32);
  if (count === 32) {
    run.noticeDropped += 1.0;
    return;
  }
  const at = ((counted(run.noticeFirst, 31) + count) >>> 0) % 32;
  run.noticeCount = (count + 1) >>> 0;
  run.noticeMoments[at] = run.now;
  run.noticePacked[at] = (line * 64.0 + text) * 1048576.0 + lamp;
  run.noticeValueLoud[at] = valueLoud;
  run.noticeValueWithin[at] = valueWithin;
  if (line === 1) {
    noticePlaceFogLamp(run, at, lamp);
  } else {
    run.noticePositions[at][0] = 0.0;
    run.noticePositions[at][1] = 0.0;
    run.noticePositions[at][2] = 0.0;
  }
}

/**
 * What the book tells the game when something happens.
 * @typedef {object} Notice
 * @property {number} moment s since the run's start
 * @property {string} name the book's name for it
 * @property {string} text what comes with it, one of several by chance; empty for nothing
 * @property {string} from the light or instance that it comes from; empty for none
 * @property {number} lamp which lamp of the light, or which instance
 * @property {number[]} position where that lamp was then; 0 where the book does not say
 * @property {number} loud number; 0 in notices without it
 * @property {number} within m; 0 in notices without it
 */

/** Takes the oldest notice that waits; null if there is none. 32 may wait. @param {Run} run @returns {Notice | null} */
export function takeNotice(run) {
  const count = counted(run.noticeCount, 32);
  if (count === 0) return null;
  const at = counted(run.noticeFirst, 31);
  const packed = run.noticePacked[at] >= 0.0 && run.noticePacked[at] < 134217728.0
    ? run.noticePacked[at]
    : 0.0;
  const which = roundDown(packed / 1048576.0);
  const line = cellIndex(roundDown(which / 64.0));
  const start = noticeTextStarts[line];
  const text = (start + cellIndex(which - line * 64.0) % ((noticeTextStarts[(line + 1) >>> 0] - start) >>> 0))
  >>> 0;
  run.noticeCount = (count - 1) >>> 0;
  run.noticeFirst = ((at + 1) >>> 0) % 32;
  return {
    moment: run.noticeMoments[at],
    name: noticeNames[line],
    text: noticeTexts[text],
    from: noticeSources[line],
    lamp: cellIndex(packed - which * 1048576.0),
    position: [
      Math.fround(run.noticePositions[at][0]),
      Math.fround(run.noticePositions[at][1]),
      Math.fround(run.noticePositions[at][2]),
    ],
    loud: toSingle(run.noticeValueLoud[at]),
    within: toSingle(run.noticeValueWithin[at]),
  };
}

/** How many notices there was no room for since the start. @param {Run} run @returns {number} */
export function droppedNotices(run) {
  return counted(run.noticeDropped, 0xffffffff);
}

/** Envelope of a sound: 49 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
 * full scale (lower 8 bits). 196 bytes. */
const hornEnvelope = new Uint32Array([
  0x0, 0xee09, 0x24243, 0x32180, 0x390a7, 0x473d1, 0x63deb, 0x6acf9, 0x907ef, 0x96df8, 0xc0eee, 0xc79f5,
  0xe7cee, 0xf42fa, 0x1176ef, 0x121bf7, 0x1467f0, 0x14e8f9, 0x1714ef, 0x17cffb, 0x19caef, 0x1a26f5, 0x1cf3ee,
  0x1d74f5, 0x1f96ee, 0x1ff9f6, 0x2262f0, 0x22caf9, 0x2532e5, 0x2759b8, 0x2aaa59, 0x2dd129, 0x32550e,
  0x330619, 0x355086, 0x35ba92, 0x3663b8, 0x371ec2, 0x38f9bd, 0x39b3c6, 0x3c34be, 0x3cd4c5, 0x3f02bd,
  0x3f9fc3, 0x42bda8, 0x47983f, 0x4b7518, 0x528303, 0x5c0e00,
]);

/** Envelope of a sound: 55 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
 * full scale (lower 8 bits). 220 bytes. */
const buoyEnvelope = new Uint32Array([
  0x17, 0x4800f, 0x4873f, 0x4936e, 0x4a18c, 0x4a8ad, 0x4b8d2, 0x4c8da, 0x4d2d9, 0x4e2e9, 0x512e8, 0x522f8,
  0x5f1ed, 0x89ed3, 0xcb89c, 0x13f758, 0x1c802d, 0x1c8a49, 0x1ca468, 0x1caf7c, 0x1cc48c, 0x1cd68c, 0x1ce994,
  0x23666e, 0x270053, 0x270971, 0x27137d, 0x27217e, 0x27299b, 0x273eb7, 0x2753b8, 0x2760c8, 0x2794c6,
  0x27a4d0, 0x33a05b, 0x3cab29, 0x49800c, 0x498730, 0x49995a, 0x49a164, 0x49ac84, 0x49c19c, 0x49d49c,
  0x49e4a7, 0x4a14a6, 0x4a26af, 0x56b049, 0x5d042e, 0x5d1838, 0x5d2239, 0x5d314c, 0x5d7657, 0x5e8959,
  0x692428, 0x708017,
]);

const blastPlaces = [
  0.22712339743589743, 3.589878015350877,
];

const burstsOn = [
  0.0, 0.7155, 1.0152, 1.238, 1.2404, 2.0157, 2.8663, 3.7311, 4.5633, 4.7371, 5.1279, 6.0236, 6.3127, 7.1598,
  8.0075, 8.8125, 9.5932, 9.6597, 9.696, 10.6821, 11.3451, 11.8288, 12.7837, 13.1694, 13.9033, 14.8109,
  15.5938, 16.2674, 16.6973, 16.8333, 17.43, 17.7617, 17.8614, 18.6344, 19.5996, 20.1417, 20.1748, 20.377,
  21.1412, 21.3314, 21.5376, 22.1011, 23.0341, 24.0179, 24.453, 24.8634, 25.2002, 25.3501, 26.1601, 26.9151,
  27.7543, 28.1657, 28.541, 29.1283, 29.8095, 30.2508, 30.7433, 31.0401, 31.3425, 32.2912, 32.4584, 32.758,
  33.7317, 34.6752, 35.2245,
];

const burstsOff = [
  0.0, 0.7738, 1.3437, 1.6987, 1.9061, 2.4112, 3.1283, 3.642, 4.4697, 4.9292, 5.8406, 6.5692, 6.7153, 7.5377,
  7.6336, 8.3037, 8.7525, 9.1311, 9.8135, 10.3444, 11.276, 11.4266, 11.4836, 12.4501, 12.4798, 13.3973,
  13.533, 13.6373, 14.0338, 14.4989, 14.5389, 14.8797, 15.8484, 16.5283, 16.5303, 16.6322, 17.1037, 17.863,
  17.8875, 18.2454, 19.1154, 19.3658, 19.6642, 20.3023, 20.4718, 20.8784, 21.3826, 22.0989, 22.786, 22.9712,
  23.2326, 23.9456, 24.4821, 25.4601, 25.5671, 26.4133, 26.7146, 27.2721, 27.472, 28.1412, 28.2784, 28.4203,
  28.6996, 28.763, 28.8298,
];

/** Envelope of a sound: 174 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
 * full scale (lower 8 bits). 696 bytes. */
const ratchetEnvelope = new Uint32Array([
  0x6e, 0x9a1, 0x16ca, 0x2be6, 0x87dd, 0x1e07e, 0x1fd8e, 0x21191, 0x21eb1, 0x23bc8, 0x2c2b2, 0x3de6b,
  0x4066d, 0x42173, 0x42c93, 0x445ad, 0x476ae, 0x61b57, 0x63056, 0x63a88, 0x64aae, 0x665c6, 0x69ecc, 0x86861,
  0x87164, 0x87a85, 0x88da3, 0x8aaaf, 0x932a2, 0xa805a, 0xae14f, 0xae869, 0xafa89, 0xb1095, 0xb1ac0, 0xb29e3,
  0xb43f7, 0xbf1cc, 0xcce88, 0xd8165, 0xd917f, 0xdb08b, 0xdb9b7, 0xdc8df, 0xde1f6, 0xe86cd, 0xf6888,
  0x104f5c, 0x10536e, 0x105b95, 0x106bbb, 0x1083cf, 0x111fb4, 0x12316e, 0x12ed52, 0x12f054, 0x12f88b,
  0x1304bb, 0x1317de, 0x132ae5, 0x13b9c9, 0x14ba7f, 0x156061, 0x156a8a, 0x1579ab, 0x1592be, 0x1616ae,
  0x176361, 0x17a15b, 0x17ae7b, 0x17ca92, 0x17d194, 0x17e1af, 0x1803bf, 0x191e84, 0x19c75f, 0x19e05e,
  0x19ea85, 0x19fca7, 0x1a17b4, 0x1ab19f, 0x1ba566, 0x1bf05e, 0x1bf893, 0x1c04c3, 0x1c17e5, 0x1c28eb,
  0x1ca1d6, 0x1dc281, 0x1e007c, 0x1e0aae, 0x1e1ad6, 0x1e32ea, 0x1ed1ca, 0x1fc981, 0x20107e, 0x201ba6,
  0x202dc5, 0x2047d1, 0x21f16d, 0x220183, 0x22218f, 0x2229b1, 0x223ad3, 0x2254e3, 0x22ebc4, 0x23ed7b,
  0x243172, 0x243b90, 0x2453ac, 0x247fb0, 0x255889, 0x26255c, 0x267154, 0x267870, 0x268b93, 0x26a4a3,
  0x26b7b7, 0x26e2bc, 0x28b857, 0x28e455, 0x28f664, 0x291067, 0x291a91, 0x292bb4, 0x2945c3, 0x2b3d57,
  0x2b8250, 0x2b9364, 0x2bb16d, 0x2bbc8b, 0x2bd4a4, 0x2bf5a7, 0x2de24a, 0x2e5043, 0x2e587f, 0x2e63b2,
  0x2e74d8, 0x2e85e4, 0x2f1ac8, 0x303679, 0x30f05a, 0x30fb85, 0x310fa7, 0x312ab1, 0x31d994, 0x32c95e,
  0x33604b, 0x336783, 0x3371b6, 0x337fdd, 0x3393f2, 0x3406df, 0x354a80, 0x35a171, 0x35ad90, 0x35c9a8,
  0x35d2ab, 0x35e3c2, 0x3608cd, 0x37c566, 0x37e167, 0x37ed87, 0x3807a0, 0x386b9d, 0x39d256, 0x39f055,
  0x39f887, 0x3a04b2, 0x3a16d1, 0x3a29d9, 0x3abfbf, 0x3be771, 0x3c006e,
]);

/** Envelope of a sound: 216 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
 * full scale (lower 8 bits). 864 bytes. */
const rainEnvelope = new Uint32Array([
  0x6f, 0xf73b, 0x1a033, 0x1b036, 0x1b86b, 0x1c398, 0x1d4ba, 0x1eec9, 0x220c8, 0x2bb99, 0x30d86, 0x3995a,
  0x49e38, 0x5222f, 0x5f919, 0x66118, 0x66d36, 0x6884d, 0x69250, 0x69d66, 0x6c37b, 0x6d490, 0x6fa98, 0x75b8d,
  0x78895, 0x7b395, 0x7c5a8, 0x7e2af, 0x7f1c5, 0x814d0, 0x880ab, 0x8f679, 0x9be49, 0x9f34a, 0xa0b5b, 0xa225f,
  0xa3276, 0xa5a81, 0xba73b, 0xbd039, 0xbd968, 0xbe790, 0xc00ab, 0xc15cc, 0xc35d6, 0xc9eb5, 0xd02b2, 0xd569a,
  0xd96a2, 0xe4088, 0xe4bb0, 0xe60d0, 0xe79d7, 0xebaca, 0xf8e73, 0x106840, 0x10e134, 0x10ed51, 0x110a68,
  0x114374, 0x123c53, 0x12a740, 0x12f13c, 0x130356, 0x13205f, 0x132b88, 0x133fa8, 0x1356b1, 0x13c9a2,
  0x13f4a2, 0x14717f, 0x147d9d, 0x1499b4, 0x14a2b7, 0x14aecf, 0x14d0e1, 0x1560ae, 0x1570c8, 0x1596d7,
  0x15d8ce, 0x16858e, 0x16b586, 0x16d492, 0x16e593, 0x16f6a0, 0x1715a5, 0x172bb3, 0x1768b1, 0x189157,
  0x18c152, 0x18d16d, 0x18f17d, 0x18fd9a, 0x1917b2, 0x1973a1, 0x19b18e, 0x19c2a6, 0x1a09b9, 0x1a8598,
  0x1ab19c, 0x1ad2a4, 0x1addba, 0x1b02ce, 0x1b10e6, 0x1b32f5, 0x1b6ee7, 0x1bb8e7, 0x1c30c9, 0x1c64c7,
  0x1d7165, 0x1e3040, 0x1e3e59, 0x1e6569, 0x1ec961, 0x1ef269, 0x1f0180, 0x1f268c, 0x1ff85b, 0x20a043,
  0x20ab69, 0x20bf87, 0x20d191, 0x20dbb2, 0x20f2d0, 0x210cd4, 0x21b1b3, 0x21c3b7, 0x21d7cb, 0x21fdce,
  0x231c68, 0x243c32, 0x25c515, 0x26411a, 0x26a416, 0x26bd25, 0x26d025, 0x26d75a, 0x26e28d, 0x26f3b4,
  0x2702c3, 0x2710de, 0x2731f0, 0x27cbb3, 0x281ea8, 0x28bc71, 0x28e971, 0x290d7b, 0x298866, 0x29a067,
  0x29a89d, 0x29b5ce, 0x29c8ee, 0x29ecf8, 0x2a17f1, 0x2af28c, 0x2b985c, 0x2c9b46, 0x2d0248, 0x2d3342,
  0x2d4252, 0x2d6058, 0x2d6b82, 0x2d7ca2, 0x2d96b0, 0x2deba1, 0x2e3989, 0x2edb71, 0x2ee176, 0x2eea99,
  0x2efdbb, 0x2f17c6, 0x2ff38e, 0x30566e, 0x306170, 0x306c8f, 0x3085aa, 0x30c1b9, 0x31b768, 0x320d60,
  0x321165, 0x321d89, 0x3236a5, 0x3274a6, 0x328db5, 0x32e4ac, 0x334390, 0x33ad89, 0x34884e, 0x356531,
  0x357235, 0x35824c, 0x35aa58, 0x364547, 0x374a24, 0x37e122, 0x37f932, 0x38dd26, 0x39631b, 0x397929,
  0x39942d, 0x39a93d, 0x39c142, 0x39cf62, 0x39ef78, 0x39f77c, 0x3a0e8c, 0x3a3f89, 0x3a5285, 0x3a6598,
  0x3a809d, 0x3a8bc4, 0x3a9ee4, 0x3ab6ed, 0x3b10ce, 0x3b8c92, 0x3c006f,
]);

/** `ease-out` as 16 polynomials of the fifth degree, each over a part of 0..1, the highest power first;
 * within 1e-7 of the exact curve. */
const easeOutPieces = [
  -5.490921011389926e-7, -9.215858420839242e-6, -0.00021791080348798882, 0.013469837540678976,
  -5.875513068697574e-10, 0.0, -7.812906442007688e-7, -1.1921502634788701e-5, -0.00026039201886651336,
  0.012755323743685737, 0.026246331660761478, 0.013242161199117702, -1.1470303498266568e-6,
  -1.57597353894718e-5, -0.00031609106965668727, 0.011894813794337775, 0.050924208215561775,
  0.051970721791419414, -1.7479913325901494e-6, -2.1372028544560593e-5, -0.0003909298317580072,
  0.010840526335291848, 0.07369678452807546, 0.11445674596592298, -2.787034831801281e-6,
  -2.9877057746434823e-5, -0.0004944691268364615, 0.009522052430272493, 0.09411081273810756,
  0.19858000697765513, -4.6994271145375755e-6, -4.332872350007502e-5, -0.0006429030413468478,
  0.00783156935190177, 0.11153805406361833, 0.3016857389266205, -8.50732662053775e-6, -6.57344029710489e-5,
  -0.0008653246288636998, 0.005596022403982633, 0.1250756460573343, 0.42036443115017913,
  -1.6904405265351618e-5, -0.00010549397155902313, -0.0012180302593254196, 0.0025208969951021135,
  0.1333661858154677, 0.5500965332530408, 3.3712425590457837e-6, -4.095286987198712e-7,
  0.0007679774348479351, -0.018716700160231314, 0.13424733768574154, 0.6846431874274608,
  1.2579134931588407e-6, 1.6057195864345778e-5, 0.0007988598580169008, -0.01638155905865332,
  0.09913307328340157, 0.8009447641016793, -6.317713143695668e-7, 2.2480896384418486e-5, 0.00087462955533409,
  -0.013876041617058493, 0.06883704056353922, 0.8845124532938019, -3.061510011573499e-6,
  1.957322781365585e-5, 0.000956921867894759, -0.011123555996506935, 0.04379559494504209, 0.9403699309206868,
  -5.874328212508291e-6, 4.2603194355086145e-6, 0.001003101621752473, -0.008165967038836043,
  0.024482215996438905, 0.9740154034549188, -7.87288797710202e-6, -2.5796357916395782e-5,
  0.0009603605945975635, -0.005189924073107821, 0.011147244076648124, 0.9913331400254971,
  -7.1871739862643715e-6, -6.655045893937429e-5, 0.000778840811191835, -0.002542512031815276,
  0.0035059326605616247, 0.9982171513777415, -2.963768508834497e-6, -0.0001037352517158991,
  0.00044301369064583937, -0.0006773100438795756, 0.00045532018870445066, 0.999885675184754,
];

/** `ease-in-out` as 8 polynomials of the fifth degree, each over a part of 0..1, the highest power first;
 * within 1e-7 of the exact curve. */
const easeInOutPieces = [
  -5.9600306280916765e-5, -1.4288728891786733e-5, 0.0016594495774066404, 0.029528664822178394,
  -1.7527892799120912e-7, 0.0, -0.00011648313076795529, -0.00031830302097432653, 0.000978134289642213,
  0.03382451569941413, 0.06368001712452143, 0.03111405008548434, -5.5044145543013375e-5,
  -0.0009962619012020236, -0.0014212342730732153, 0.033673105764911386, 0.13240830588437225,
  0.12916193104731982, 0.00023844012784479446, -0.0013059528540354578, -0.00581312951409624,
  0.022877618144652282, 0.1912322217188494, 0.2927708023767852, 0.00023844012789033995,
  0.00011375221469641275, -0.008652539651685822, 1.3086243361283426e-5, 0.2155164586889527, 0.5,
  -5.50441455401784e-5, 0.0012714826289151513, -0.005956723333316166, -0.022881390083044177,
  0.1912305462624506, 0.7072291976232149, -0.00011648313075617576, 0.0009007186747838045,
  -0.0014599091019041797, -0.0336842691348305, 0.13240782365454262, 0.8708380689526801,
  -5.9600306281003555e-5, 0.0003122902602908354, 0.0010062915990415868, -0.033825278118245525,
  0.0636803466506784, 0.9688859499145157,
];

/** `cubic-bezier(0.3, -0.4, 0.7, 1.4)` as 16 polynomials of the fifth degree, each over a part of 0..1,
 * the highest power first; within 1e-7 of the exact curve. */
const bezier3Pieces = [
  -2.0839635253014506e-5, 0.00026346860584732564, -0.003121982037920477, 0.03375696594323201,
  -0.08333328950444055, 0.0, -1.1772708287704646e-5, 0.0001618036240917055, -0.0022714810883500977,
  0.025763733932832197, -0.02423556673985584, -0.05245567662853471, -7.155736051222788e-6,
  0.00010409337263745854, -0.001739447914372911, 0.01980252125438844, 0.021065839563878686,
  -0.05304895960810445, -4.643557890110237e-6, 6.888918567261767e-5, -0.0013932511312615102,
  0.015137248052746606, 0.055833149800659405, -0.013823109067623995, -3.215798507469831e-6,
  4.598106423557e-5, -0.0011633471260896985, 0.011324430650757281, 0.0821802409063806, 0.05581828328230301,
  -2.392753250931857e-6, 3.0082865585908042e-5, -0.0010111303210029396, 0.00807813894942822,
  0.10150691152483486, 0.1482023729790793, -1.9377183689742935e-6, 1.8235534549804022e-5,
  -0.0009144775806582286, 0.005201331345965356, 0.11473816915506503, 0.2568039832446744,
  -1.7343456705234125e-6, 8.633105562111952e-6, -0.0008608014939272777, 0.002547944762471317,
  0.12246065399033697, 0.3758453039812274, -1.7343456079591213e-6, 3.8622636578615265e-8,
  -0.0008436125282516556, 4.542597081559066e-9, 0.12499999972739867, 0.5, -1.9377183888921395e-6,
  -8.546942661832059e-6, -0.0008609126261862148, -0.002547934627580869, 0.1224606526513704,
  0.6241546960187727, -2.3927533505927746e-6, -1.811909908379443e-5, -0.0009147263913770377,
  -0.005201317647359299, 0.11473816615676595, 0.7431960167553253, -3.2157984776506527e-6,
  -2.990207177293145e-5, -0.001011580854159216, -0.008078117672846238, 0.10150690609403262,
  0.8517976270209205, -4.6435578610579695e-6, -4.5671396298825845e-5, -0.0011641299674016265,
  -0.011324394194122489, 0.08218023146561061, 0.9441817167176971, -7.155736068435378e-6,
  -6.831469235602926e-5, -0.001394631784335534, -0.01513718038659372, 0.055833133139834276,
  1.0138231090676237, -1.1772708273850223e-5, -0.00010294008270513892, -0.0017419936747978758,
  -0.019802385329485316, 0.021065808815692116, 1.0530489596081043, -2.083963520366024e-5,
  -0.0001592704297073706, -0.002276503966944367, -0.025763435112073237, -0.024235627484605594,
  1.0524556766285342,
];

/** Names of notices, by the lines that send them. */
const noticeNames = [
  "echo", "strike",
];

/** What they come from. */
const noticeSources = [
  "", "fog_lamp",
];

/** What they come with. */
const noticeTexts = [
  "echo_near", "echo_far", "strike_a", "strike_b", "strike_c",
];

/** Where the texts of each line begin. */
const noticeTextStarts = new Uint32Array([
  0, 2, 5,
]);

/** Keys of the saved fields. */
const saveKeys = new Uint32Array([
  0x61fce60f, 0xf3f00dba, 0x4b003e04, 0xcf5f1781, 0x738e7afb, 0xeef5f1b9, 0x979147f7, 0x8e30e6b4, 0xc6a36591,
  0x1d53ffb, 0xb25c12f4, 0xf219cdd, 0xfa80bb24, 0x948ac393, 0xb64aec1d, 0x77cd58ea, 0x9dff9adb, 0xebcd70c2,
  0x1e38b688, 0x29c5642b, 0x1a2ba080, 0xf5bb38b7, 0xbd763971, 0x7568b389, 0x8b0f0b16, 0x4d4462e0, 0xeee9a83f,
  0xa11805ef, 0x594dd47e, 0x7311072e, 0x97b93994, 0xb44e9fcf, 0x75f62afd, 0x95df5b27, 0xc03745b6, 0x25a40c24,
  0xae6f962d, 0x5f503edc, 0x3f7fc856, 0x808b40b7, 0x72db5e26, 0x37eb6c3d, 0x15896cfa, 0xd00d823c, 0x137e1032,
  0x4163390b, 0xd82cb83c, 0xfdc758, 0x31158687, 0xc936b300, 0x33245cbf, 0xbf8ddac4, 0x744215d4, 0x4accf95a,
  0xf334709a, 0x9291b544, 0x7c149e9d, 0xc8f8cf3b, 0x990eaa7d, 0xdf178a2e, 0x35911a6b, 0x4665aaa1, 0x98fcc1b9,
  0x4bab7fc2, 0x456bcddf, 0xf2fb69cf, 0x757733c1, 0xd31fad1d,
]);

/** Their kinds, times 2^24, plus counts. */
const saveHeads = new Uint32Array([
  0x1000001, 0x2000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x3000001, 0x1000001, 0x1000001,
  0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001,
  0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x2000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001,
  0x2000001, 0x1000001, 0x1000001, 0x3000001, 0x1000001, 0x1000001, 0x1000001, 0x1000001, 0x2000001,
  0x1000001, 0x1000001, 0x1000001, 0x1000020, 0x1000020, 0x1000020, 0x1000020, 0x1000020, 0x1000001,
  0x1000001, 0x1000001, 0x1000001, 0x1000020, 0x1000001, 0x1000003, 0x1000003, 0x1000003, 0x1000020,
  0x1000003, 0x100000c, 0x1000003, 0x1000001, 0x1000001, 0x1000006, 0x1000006, 0x1000006, 0x1000006,
  0x1000006, 0x1000006, 0x1000006, 0x1000006, 0x1000001,
]);

/** Keys of the options of choices and modes. */
const optionKeys = new Uint32Array([
  0x449e4f82, 0x75cc37d, 0xb1d77eb4, 0x2c57e7d0, 0x1cbf3d26,
]);

/** Keys of fields that the preview saves too and this file does not use. */
const saveUnused = new Uint32Array([
  0x2363e9c6, 0xfa393b02, 0xcad7ad04, 0x3f6caab2, 0x10486bfb, 0x28c29ad9, 0x99007db1, 0x1977065f, 0x1a8f76fb,
  0xb60b8925, 0xeab2eaa5, 0xc279d0de,
]);

/** Signal, shared by all that use it @param {number} hour @param {number} season @returns {number} */
function sunMoment(hour, season) {
  return season - wrapTime(season, 1.0) + 9130.5 + hour / 24.0;
}

/** Signal, shared by all that use it, deg -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunHeight(hour, season) {
  return arcSine(skyPart(1.0, sunMoment(hour, season), 0.0, 54.0, 0.0));
}

/** Signal, shared by all that use it, deg -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunAzimuth(hour, season) {
  const sunMomentNow = sunMoment(hour, season);
  return compass(skyPart(0.0, sunMomentNow, 0.0, 54.0, 0.0), -skyPart(2.0, sunMomentNow, 0.0, 54.0, 0.0));
}

/** Signal, shared by all that use it @param {number} season @returns {number} */
function sunDay(season) {
  return season - wrapTime(season, 1.0) + 9130.5;
}

/** Curve over x degrees @param {number} x @returns {number} */
function beamColorL(x) {
  if (x < -1.0) return 0.76556921644744;
  if (x < 5.0) {
    if (x < -0.833) return 0.76556921644744 + 0.0034616770224059623 * ((x + 1.0) / 0.16700000000000004);
    if (x < 0.0) return 0.769030893469846 + 0.02389409999351011 * ((x + 0.833) / 0.833);
    if (x < 1.0) return 0.7929249934633561 + 0.03311019128050918 * x;
    if (x < 2.0) return 0.8260351847438653 + 0.02858102800850204 * (x - 1.0);
    if (x < 3.0) return 0.8546162127523673 + 0.022333433690773008 * (x - 2.0);
    if (x < 5.0) return 0.8769496464431403 + 0.030483629821329572 * ((x - 3.0) / 2.0);
    return 0.9074332762644699;
  }
  if (x < 8.0) return 0.9074332762644699 + 0.026006758231013616 * ((x - 5.0) / 3.0);
  if (x < 12.0) return 0.9334400344954835 + 0.01840473974710244 * ((x - 8.0) / 4.0);
  if (x < 20.0) return 0.951844774242586 + 0.017073676766362733 * ((x - 12.0) / 8.0);
  if (x < 35.0) return 0.9689184510089487 + 0.01187939181858444 * ((x - 20.0) / 15.0);
  if (x < 60.0) return 0.9807978428275331 + 0.006256078091570805 * ((x - 35.0) / 25.0);
  if (x < 90.0) return 0.9870539209191039 + 0.0016906898945302506 * ((x - 60.0) / 30.0);
  return 0.9887446108136342;
}

/** Curve over x degrees @param {number} x @returns {number} */
function beamColorM(x) {
  if (x < -1.0) return 0.6367756176213368;
  if (x < 5.0) {
    if (x < -0.833) return 0.6367756176213368 + 0.006316339277870342 * ((x + 1.0) / 0.16700000000000004);
    if (x < 0.0) return 0.6430919568992072 + 0.04197283587181311 * ((x + 0.833) / 0.833);
    if (x < 1.0) return 0.6850647927710203 + 0.054501515243042586 * x;
    if (x < 2.0) return 0.7395663080140629 + 0.04469637475266908 * (x - 1.0);
    if (x < 3.0) return 0.7842626827667319 + 0.03392431322623923 * (x - 2.0);
    if (x < 5.0) return 0.8181869959929712 + 0.04543678850478583 * ((x - 3.0) / 2.0);
    return 0.863623784497757;
  }
  if (x < 8.0) return 0.863623784497757 + 0.03834700926595569 * ((x - 5.0) / 3.0);
  if (x < 12.0) return 0.9019707937637127 + 0.027063792179308988 * ((x - 8.0) / 4.0);
  if (x < 20.0) return 0.9290345859430217 + 0.025114345467018406 * ((x - 12.0) / 8.0);
  if (x < 35.0) return 0.9541489314100401 + 0.01749707409700796 * ((x - 20.0) / 15.0);
  if (x < 60.0) return 0.971646005507048 + 0.009228483246774943 * ((x - 35.0) / 25.0);
  if (x < 90.0) return 0.980874488753823 + 0.0024941095522693635 * ((x - 60.0) / 30.0);
  return 0.9833685983060924;
}

/** Curve over x degrees @param {number} x @returns {number} */
function beamColorS(x) {
  if (x < -1.0) return 0.47551720686508486;
  if (x < 5.0) {
    if (x < -0.833) return 0.47551720686508486 + 0.004688051812609784 * ((x + 1.0) / 0.16700000000000004);
    if (x < 0.0) return 0.48020525867769465 + 0.03213414280986854 * ((x + 0.833) / 0.833);
    if (x < 1.0) return 0.5123394014875632 + 0.046113756680241424 * x;
    if (x < 2.0) return 0.5584531581678046 + 0.045632238587331786 * (x - 1.0);
    if (x < 3.0) return 0.6040853967551364 + 0.042034465795594 * (x - 2.0);
    if (x < 5.0) return 0.6461198625507304 + 0.06882335788930949 * ((x - 3.0) / 2.0);
    return 0.7149432204400399;
  }
  if (x < 8.0) return 0.7149432204400399 + 0.06956395498472612 * ((x - 5.0) / 3.0);
  if (x < 12.0) return 0.784507175424766 + 0.05489706143893658 * ((x - 8.0) / 4.0);
  if (x < 20.0) return 0.8394042368637026 + 0.054480201757178603 * ((x - 12.0) / 8.0);
  if (x < 35.0) return 0.8938844386208812 + 0.039598989406408935 * ((x - 20.0) / 15.0);
  if (x < 60.0) return 0.9334834280272901 + 0.021378761768959365 * ((x - 35.0) / 25.0);
  if (x < 90.0) return 0.9548621897962495 + 0.005808854794570939 * ((x - 60.0) / 30.0);
  return 0.9606710445908204;
}

/** Curve over x degrees @param {number} x @returns {number} */
function beamStrength(x) {
  if (x < -0.833) return 0.0;
  if (x < 0.0) return 0.0215 * ((x + 0.833) / 0.833);
  if (x < 1.0) return 0.0215 + 0.032600000000000004 * x;
  if (x < 2.0) return 0.0541 + 0.0452 * (x - 1.0);
  if (x < 3.0) return 0.0993 + 0.05099999999999999 * (x - 2.0);
  if (x < 5.0) return 0.1503 + 0.10189999999999999 * ((x - 3.0) / 2.0);
  if (x < 8.0) return 0.2522 + 0.1311 * ((x - 5.0) / 3.0);
  if (x < 12.0) return 0.3833 + 0.13190000000000002 * ((x - 8.0) / 4.0);
  if (x < 20.0) return 0.5152 + 0.17000000000000004 * ((x - 12.0) / 8.0);
  if (x < 35.0) return 0.6852 + 0.16479999999999995 * ((x - 20.0) / 15.0);
  if (x < 60.0) return 0.85 + 0.11430000000000007 * ((x - 35.0) / 25.0);
  if (x < 90.0) return 0.9643 + 0.035699999999999954 * ((x - 60.0) / 30.0);
  return 1.0;
}

/** Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunAimX(hour, season) {
  return -skyPart(0.0, sunMoment(hour, season), 0.0, 54.0, 0.0);
}

/** Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunAimY(hour, season) {
  return -skyPart(1.0, sunMoment(hour, season), 0.0, 54.0, 0.0);
}

/** Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunAimZ(hour, season) {
  return -skyPart(2.0, sunMoment(hour, season), 0.0, 54.0, 0.0);
}

/** Signal, shared by all that use it, h -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} season @returns {number} */
function sunRise(season) {
  return sunHour(-1.0, sunDay(season), 54.0, 0.0, -0.014538080502491512);
}

/** Signal, shared by all that use it, h -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} season @returns {number} */
function sunSet(season) {
  return sunHour(1.0, sunDay(season), 54.0, 0.0, -0.014538080502491512);
}

/** Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunDaylight(hour, season) {
  return lerp(0.0, 1.0, easeSmooth(clamp((sunHeight(hour, season) + 6.0) / 12.0, 0.0, 1.0)));
}

/** Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunColorR(hour, season) {
  const sunHeightNow = sunHeight(hour, season);
  return lightR(beamColorL(sunHeightNow), beamColorM(sunHeightNow), beamColorS(sunHeightNow));
}

/** Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunColorG(hour, season) {
  const sunHeightNow = sunHeight(hour, season);
  return lightG(beamColorL(sunHeightNow), beamColorM(sunHeightNow), beamColorS(sunHeightNow));
}

/** Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunColorB(hour, season) {
  const sunHeightNow = sunHeight(hour, season);
  return lightB(beamColorL(sunHeightNow), beamColorM(sunHeightNow), beamColorS(sunHeightNow));
}

/** Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season }
 * @param {number} hour @param {number} season @returns {number} */
function sunStrength(hour, season) {
  return beamStrength(sunHeight(hour, season));
}

/** Signal, shared by all that use it @param {number} hour @param {number} season @returns {number} */
function moonMoment(hour, season) {
  return season - wrapTime(season, 1.0) + 9130.5 + hour / 24.0;
}

/** Signal, shared by all that use it, deg -- pier.caltrin:17: moon { age 9 + days } @param {number} hour
 * @param {number} days @param {number} season @returns {number} */
function moonHeight(hour, days, season) {
  return arcSine(skyPart(1.0, moonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0));
}

/** Curve over x as a number @param {number} x @returns {number} */
function moonByAge(x) {
  if (x < 0.0) return 0.0003;
  if (x < 0.1) return 0.0003 + 0.0013000000000000002 * (x / 0.1);
  if (x < 0.2) return 0.0016 + 0.0049 * ((x - 0.1) / 0.1);
  if (x < 0.3) return 0.0065 + 0.012800000000000002 * ((x - 0.2) / 0.09999999999999998);
  if (x < 0.4) return 0.0193 + 0.0263 * ((x - 0.3) / 0.10000000000000003);
  if (x < 0.5) return 0.0456 + 0.045399999999999996 * ((x - 0.4) / 0.09999999999999998);
  if (x < 0.6) return 0.091 + 0.07050000000000001 * ((x - 0.5) / 0.09999999999999998);
  if (x < 0.7) return 0.1615 + 0.10440000000000002 * ((x - 0.6) / 0.09999999999999998);
  if (x < 0.8) return 0.2659 + 0.1538 * ((x - 0.7) / 0.10000000000000009);
  if (x < 0.9) return 0.4197 + 0.22989999999999994 * ((x - 0.8) / 0.09999999999999998);
  if (x < 1.0) return 0.6496 + 0.35040000000000004 * ((x - 0.9) / 0.09999999999999998);
  return 1.0;
}

/** Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days } @param {number} hour
 * @param {number} days @param {number} season @returns {number} */
function moonAimX(hour, days, season) {
  return -skyPart(0.0, moonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
}

/** Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days } @param {number} hour
 * @param {number} days @param {number} season @returns {number} */
function moonAimY(hour, days, season) {
  return -skyPart(1.0, moonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
}

/** Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days } @param {number} hour
 * @param {number} days @param {number} season @returns {number} */
function moonAimZ(hour, days, season) {
  return -skyPart(2.0, moonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
}

/** Signal, shared by all that use it -- pier.caltrin:17: moon { age 9 + days } @param {number} hour
 * @param {number} days @param {number} season @returns {number} */
function moonStrength(hour, days, season) {
  return beamStrength(moonHeight(hour, days, season))
    * moonByAge(triangleLevel((9.0 + days + hour / 24.0) / 29.530588));
}

/** Signal, shared by all that use it @param {number} season @returns {number} */
function sunHorizonStays(season) {
  return sunStays(sunDay(season), 54.0, 0.0, -0.014538080502491512);
}

/** Signal, shared by all that use it -- pier.caltrin:19: hours dark from sun.set to sun.rise over 00:30
 * after @param {number} hour @param {number} season @returns {number} */
function dark(hour, season) {
  const sunHorizonStaysNow = sunHorizonStays(season);
  return sunHorizonStaysNow > 0.75
    ? 0.0
    : -0.75 > sunHorizonStaysNow
    ? 1.0
    : easeSmooth(clamp(hoursLevel(hour, sunSet(season), 0.5, sunRise(season), 0.5), 0.0, 1.0));
}

/** Signal, shared by all that use it -- pier.caltrin:22: night from 21:30 over 01:00 before tint #7f9fd8
 * @param {number} hour @returns {number} */
function watchNight(hour) {
  return easeSmooth(clamp(hoursLevel(hour, 20.5, 1.0, 4.5, 1.0), 0.0, 1.0));
}

/** Signal, shared by all that use it -- pier.caltrin:23: morning from 05:00 over 01:00 tint #a9c4b4
 * @param {number} hour @returns {number} */
function watchMorning(hour) {
  return easeSmooth(clamp(hoursLevel(hour, 4.5, 1.0, 8.75, 1.5), 0.0, 1.0));
}

/** Signal, shared by all that use it -- pier.caltrin:24: forenoon from 09:30 over 01:30 tint #fff6e4
 * @param {number} hour @returns {number} */
function watchForenoon(hour) {
  return easeSmooth(clamp(hoursLevel(hour, 8.75, 1.5, 14.0, 2.0), 0.0, 1.0));
}

/** Signal, shared by all that use it -- pier.caltrin:25: evening from 15:00 over 02:00 tint #ffcf8a
 * @param {number} hour @returns {number} */
function watchEvening(hour) {
  return easeSmooth(clamp(hoursLevel(hour, 14.0, 2.0, 20.5, 1.0), 0.0, 1.0));
}

/** Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches of the pier's crew)
 * @param {number} hour @returns {number} */
function watchTintR(hour) {
  const watchNightNow = watchNight(hour);
  const watchMorningNow = watchMorning(hour);
  const watchForenoonNow = watchForenoon(hour);
  const watchEveningNow = watchEvening(hour);
  return lightR(clamp(0.6758877802301922 * watchNightNow
        + 0.7846518148414676 * watchMorningNow
        + 0.9818072823266701 * watchForenoonNow
        + 0.9125592497722734 * watchEveningNow, 0.6758877802301922, 0.9818072823266701),
    clamp(0.7078847675495546 * watchNightNow
        + 0.7983533337292693 * watchMorningNow
        + 0.9734847537076345 * watchForenoonNow
        + 0.872382696771993 * watchEveningNow, 0.7078847675495546, 0.9734847537076345),
    clamp(0.8188297202235845 * watchNightNow
        + 0.7819258288945272 * watchMorningNow
        + 0.9422944153106793 * watchForenoonNow
        + 0.7513718714261628 * watchEveningNow, 0.7513718714261628, 0.9422944153106793));
}

/** Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches of the pier's crew)
 * @param {number} hour @returns {number} */
function watchTintG(hour) {
  const watchNightNow = watchNight(hour);
  const watchMorningNow = watchMorning(hour);
  const watchForenoonNow = watchForenoon(hour);
  const watchEveningNow = watchEvening(hour);
  return lightG(clamp(0.6758877802301922 * watchNightNow
        + 0.7846518148414676 * watchMorningNow
        + 0.9818072823266701 * watchForenoonNow
        + 0.9125592497722734 * watchEveningNow, 0.6758877802301922, 0.9818072823266701),
    clamp(0.7078847675495546 * watchNightNow
        + 0.7983533337292693 * watchMorningNow
        + 0.9734847537076345 * watchForenoonNow
        + 0.872382696771993 * watchEveningNow, 0.7078847675495546, 0.9734847537076345),
    clamp(0.8188297202235845 * watchNightNow
        + 0.7819258288945272 * watchMorningNow
        + 0.9422944153106793 * watchForenoonNow
        + 0.7513718714261628 * watchEveningNow, 0.7513718714261628, 0.9422944153106793));
}

/** Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches of the pier's crew)
 * @param {number} hour @returns {number} */
function watchTintB(hour) {
  const watchNightNow = watchNight(hour);
  const watchMorningNow = watchMorning(hour);
  const watchForenoonNow = watchForenoon(hour);
  const watchEveningNow = watchEvening(hour);
  return lightB(clamp(0.6758877802301922 * watchNightNow
        + 0.7846518148414676 * watchMorningNow
        + 0.9818072823266701 * watchForenoonNow
        + 0.9125592497722734 * watchEveningNow, 0.6758877802301922, 0.9818072823266701),
    clamp(0.7078847675495546 * watchNightNow
        + 0.7983533337292693 * watchMorningNow
        + 0.9734847537076345 * watchForenoonNow
        + 0.872382696771993 * watchEveningNow, 0.7078847675495546, 0.9734847537076345),
    clamp(0.8188297202235845 * watchNightNow
        + 0.7819258288945272 * watchMorningNow
        + 0.9422944153106793 * watchForenoonNow
        + 0.7513718714261628 * watchEveningNow, 0.7513718714261628, 0.9422944153106793));
}

/** Signal, shared by all that use it, s -- pier.caltrin:31: sound horn = "sounds/horn.wav" { starts at
 * ferry_docks } (the ferry sounds two blasts) @param {number} t @param {number} hornAt
 * @param {number} hornSince @param {boolean} hornPlays @returns {number} */
function hornPlace(t, hornAt, hornSince, hornPlays) {
  return hornPlays ? hornAt + max(t - hornSince, 0.0) : hornAt;
}

/** Signal, shared by all that use it, s -- pier.caltrin:32: sound ratchet = "sounds/winch.wav" { speed
 * haul } @param {number} t @param {number} haul @param {number} ratchetAt @param {number} ratchetSince
 * @param {number} ratchetRate @returns {number} */
function ratchetPlace(t, haul, ratchetAt, ratchetSince, ratchetRate) {
  return ratchetAt + max(t - ratchetSince, 0.0) * max(ratchetRate > -0.5 ? ratchetRate : haul, 0.0);
}

/** Signal, shared by all that use it -- pier.caltrin:36: switch power (power from the generator)
 * @param {number} t @param {boolean} powerOn @param {number} powerSince @param {number} powerFrom
 * @returns {number} */
function power(t, powerOn, powerSince, powerFrom) {
  return powerOn
    ? (powerSince + 2.0 > t ? lerp(powerFrom, 1.0, easeSmooth(clamp((t - powerSince) / 2.0, 0.0, 1.0))) : 1.0)
    : powerSince + 0.06 > t
    ? lerp(powerFrom, 0.0, clamp((t - powerSince) / 0.06, 0.0, 1.0))
    : 0.0;
}

/** Signal, shared by all that use it -- pier.caltrin:42: modes warning (state of the sea)
 * @param {number} t @param {number} warningMode @param {number} warningEntered @param {number} warningWay
 * @param {number} warningFromWatch @returns {number} */
function warningWatch(t, warningMode, warningEntered, warningWay, warningFromWatch) {
  const oddOne = warningWay === 0.0;
  const oddOne_2 = warningWay === 1.0;
  const part = warningMode === 1.0 ? 1.0 : 0.0;
  return (oddOne ? warningEntered + 3.0 > t : oddOne_2 ? warningEntered + 0.4 > t : warningEntered + 5.0 > t)
    ? lerp(warningFromWatch, part,
      oddOne
        ? clamp((t - warningEntered) / 3.0, 0.0, 1.0)
        : oddOne_2
        ? clamp((t - warningEntered) / 0.4, 0.0, 1.0)
        : clamp((t - warningEntered) / 5.0, 0.0, 1.0))
    : part;
}

/** Signal, shared by all that use it -- pier.caltrin:42: modes warning (state of the sea)
 * @param {number} t @param {number} warningMode @param {number} warningEntered @param {number} warningWay
 * @param {number} warningFromAlarm @returns {number} */
function warningAlarm(t, warningMode, warningEntered, warningWay, warningFromAlarm) {
  const oddOne = warningWay === 0.0;
  const oddOne_2 = warningWay === 1.0;
  const part = warningMode === 2.0 ? 1.0 : 0.0;
  return (oddOne ? warningEntered + 3.0 > t : oddOne_2 ? warningEntered + 0.4 > t : warningEntered + 5.0 > t)
    ? lerp(warningFromAlarm, part,
      oddOne
        ? clamp((t - warningEntered) / 3.0, 0.0, 1.0)
        : oddOne_2
        ? clamp((t - warningEntered) / 0.4, 0.0, 1.0)
        : clamp((t - warningEntered) / 5.0, 0.0, 1.0))
    : part;
}

/** Curve over x seconds -- pier.caltrin:52: curve hunting (the generator hunts for its speed, 7.3 s per
 * cycle) @param {number} x @returns {number} */
function hunting(x) {
  if (x < 1.4) return 1.0;
  if (x < 1.85) return 1.0 - 0.18000000000000005 * easeSmooth((x - 1.4) / 0.4500000000000002);
  if (x < 2.5) return 0.82 + 0.30000000000000016 * easeSmooth((x - 1.85) / 0.6499999999999999);
  if (x < 3.0) return lerp(1.12, 0.95, easeBaked(spreadEnds((x - 2.5) / 0.5), easeOutPieces, 16));
  if (x < 3.7) return 0.95 + 0.050000000000000044 * easeSmooth((x - 3.0) / 0.7000000000000002);
  return 1.0;
}

/** Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height of the sun, gray-green
 * before noon) @param {number} x @returns {number} */
function morningL(x) {
  if (x < -9.0) return 0.1832537775717708;
  if (x < -3.0) return 0.1832537775717708 + 0.19452205585044774 * easeSmooth((x + 9.0) / 6.0);
  if (x < 2.0) return 0.37777583342221854 + 0.3100063341823164 * easeSmooth((x + 3.0) / 5.0);
  if (x < 9.0) return 0.6877821676045349 + 0.0823375253538956 * ((x - 2.0) / 7.0);
  if (x < 25.0) return 0.7701196929584305 + 0.0451418317144755 * ((x - 9.0) / 16.0);
  return 0.815261524672906;
}

/** Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height of the sun, gray-green
 * before noon) @param {number} x @returns {number} */
function morningM(x) {
  if (x < -9.0) return 0.19279209182171184;
  if (x < -3.0) return 0.19279209182171184 + 0.1970373006888795 * easeSmooth((x + 9.0) / 6.0);
  if (x < 2.0) return 0.38982939251059134 + 0.30830698829985115 * easeSmooth((x + 3.0) / 5.0);
  if (x < 9.0) return 0.6981363808104425 + 0.08233100640067303 * ((x - 2.0) / 7.0);
  if (x < 25.0) return 0.7804673872111155 + 0.045246800169307155 * ((x - 9.0) / 16.0);
  return 0.8257141873804227;
}

/** Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height of the sun, gray-green
 * before noon) @param {number} x @returns {number} */
function morningS(x) {
  if (x < -9.0) return 0.22522903602175648;
  if (x < -3.0) return 0.22522903602175648 + 0.182928683999867 * easeSmooth((x + 9.0) / 6.0);
  if (x < 2.0) return 0.4081577200216235 + 0.2755264654602965 * easeSmooth((x + 3.0) / 5.0);
  if (x < 9.0) return 0.68368418548192 + 0.09062253576762525 * ((x - 2.0) / 7.0);
  if (x < 25.0) return 0.7743067212495452 + 0.06848678914401352 * ((x - 9.0) / 16.0);
  return 0.8427935103935588;
}

/** Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it) @param {number} x
 * @returns {number} */
function eveningL(x) {
  if (x < -9.0) return 0.1832537775717708;
  if (x < -3.0) return 0.1832537775717708 + 0.19377461856794748 * easeSmooth((x + 9.0) / 6.0);
  if (x < 2.0) return 0.3770283961397183 + 0.3057765626714638 * easeSmooth((x + 3.0) / 5.0);
  if (x < 9.0) return 0.6828049588111821 + 0.0856242707120295 * ((x - 2.0) / 7.0);
  if (x < 25.0) return 0.7684292295232116 + 0.04683229514969445 * ((x - 9.0) / 16.0);
  return 0.815261524672906;
}

/** Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it) @param {number} x
 * @returns {number} */
function eveningM(x) {
  if (x < -9.0) return 0.19279209182171184;
  if (x < -3.0) return 0.19279209182171184 + 0.16980416577719135 * easeSmooth((x + 9.0) / 6.0);
  if (x < 2.0) return 0.3625962575989032 + 0.28484235797777474 * easeSmooth((x + 3.0) / 5.0);
  if (x < 9.0) return 0.6474386155766779 + 0.09816269870779493 * ((x - 2.0) / 7.0);
  if (x < 25.0) return 0.7456013142844728 + 0.08011287309594983 * ((x - 9.0) / 16.0);
  return 0.8257141873804227;
}

/** Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it) @param {number} x
 * @returns {number} */
function eveningS(x) {
  if (x < -9.0) return 0.22522903602175648;
  if (x < -3.0) return 0.22522903602175648 + 0.1206337029642604 * easeSmooth((x + 9.0) / 6.0);
  if (x < 2.0) return 0.3458627389860169 + 0.18241108266769185 * easeSmooth((x + 3.0) / 5.0);
  if (x < 9.0) return 0.5282738216537087 + 0.13355474136133627 * ((x - 2.0) / 7.0);
  if (x < 25.0) return 0.661828563015045 + 0.18096494737851376 * ((x - 9.0) / 16.0);
  return 0.8427935103935588;
}

/** Curve over x seconds -- pier.caltrin:78: curve breathing @param {number} x @returns {number} */
function breathing(x) {
  if (x < 2.3) return lerp(0.18, 1.0, easeBaked(x / 2.3, easeInOutPieces, 8));
  if (x < 3.1) {
    return 1.0 + -0.07999999999999996 * easeBaked((x - 2.3) / 0.8000000000000003, bezier3Pieces, 16);
  }
  return 0.92;
}

/** Curve over x seconds -- pier.caltrin:84: curve warming (a cold tube strikes twice, then warms up)
 * @param {number} x @returns {number} */
function warming(x) {
  if (x < 0.3) return 0.0;
  if (x < 0.36) return 0.7;
  if (x < 1.1) return 0.05;
  if (x < 1.3) return 0.6 - 0.19999999999999996 * easeSmooth((x - 1.1) / 0.19999999999999996);
  if (x < 9.0) return lerp(0.4, 1.0, easeBaked(spreadEnds((x - 1.3) / 7.7), easeOutPieces, 16));
  return 1.0;
}

/** Curve over x seconds -- pier.caltrin:93: curve striking (a warm tube goes out, flashes and strikes
 * again) @param {number} x @returns {number} */
function striking(x) {
  if (x < 0.26) return 0.0;
  if (x < 0.33) return 0.75;
  if (x < 0.61) return 0.04;
  return 1.0;
}

/** Curve over x as a number -- pier.caltrin:100: curve fading (a star shell: full at once, then fading to
 * nothing) @param {number} x @returns {number} */
function fading(x) {
  if (x < 0.0) return 0.0;
  if (x < 0.06) return lerp(0.0, 1.0, easeBaked(spreadEnds(x / 0.06), easeOutPieces, 16));
  if (x < 0.45) return 1.0 - 0.19999999999999996 * ((x - 0.06) / 0.39);
  if (x < 1.0) return 0.8 - 0.8 * easeSmooth((x - 0.45) / 0.55);
  return 0.0;
}

/** Curve over x seconds -- pier.caltrin:107: curve opening (the lamp at the gate flashes when it opens,
 * and stays on) @param {number} x @returns {number} */
function opening(x) {
  if (x < 0.0) return 0.0;
  if (x < 0.15) return lerp(0.0, 1.0, easeBaked(spreadEnds(x / 0.15), easeOutPieces, 16));
  if (x < 0.4) return 1.0 - 0.7 * easeSmooth((x - 0.15) / 0.25);
  if (x < 0.7) return 0.3 + 0.7 * easeSmooth((x - 0.4) / 0.29999999999999993);
  if (x < 14.0) return 1.0;
  if (x < 17.0) return 1.0 - easeSmooth((x - 14.0) / 3.0);
  return 0.0;
}

/** Signal, shared by all that use it -- pier.caltrin:116: signal supply = loop(hunting) @param {number} t
 * @returns {number} */
function supply(t) {
  return hunting(wrapTime(t, 7.3));
}

/** Signal, shared by all that use it -- pier.caltrin:117: signal afternoon = map(sun.azimuth, from
 * 160deg..200deg, to 0%..100%, smooth) @param {number} hour @param {number} season @returns {number} */
function afternoon(hour, season) {
  return lerp(0.0, 1.0, easeSmooth(clamp((sunAzimuth(hour, season) - 160.0) / 40.0, 0.0, 1.0)));
}

/** Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky = mix(morning(sun.height),
 * evening(sun.height), by afternoon) @param {number} hour @param {number} season @returns {number} */
function clearSkyR(hour, season) {
  const sunHeightNow = sunHeight(hour, season);
  const afternoonNow = afternoon(hour, season);
  return lightR(lerp(morningL(sunHeightNow), eveningL(sunHeightNow), afternoonNow),
    lerp(morningM(sunHeightNow), eveningM(sunHeightNow), afternoonNow),
    lerp(morningS(sunHeightNow), eveningS(sunHeightNow), afternoonNow));
}

/** Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky = mix(morning(sun.height),
 * evening(sun.height), by afternoon) @param {number} hour @param {number} season @returns {number} */
function clearSkyG(hour, season) {
  const sunHeightNow = sunHeight(hour, season);
  const afternoonNow = afternoon(hour, season);
  return lightG(lerp(morningL(sunHeightNow), eveningL(sunHeightNow), afternoonNow),
    lerp(morningM(sunHeightNow), eveningM(sunHeightNow), afternoonNow),
    lerp(morningS(sunHeightNow), eveningS(sunHeightNow), afternoonNow));
}

/** Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky = mix(morning(sun.height),
 * evening(sun.height), by afternoon) @param {number} hour @param {number} season @returns {number} */
function clearSkyB(hour, season) {
  const sunHeightNow = sunHeight(hour, season);
  const afternoonNow = afternoon(hour, season);
  return lightB(lerp(morningL(sunHeightNow), eveningL(sunHeightNow), afternoonNow),
    lerp(morningM(sunHeightNow), eveningM(sunHeightNow), afternoonNow),
    lerp(morningS(sunHeightNow), eveningS(sunHeightNow), afternoonNow));
}

/** Signal, shared by all that use it -- pier.caltrin:119: signal sky = pick(weather, fair clear_sky,
 * overcast mix(#0b0f14, #77858d, by sun.daylight)) @param {number} hour @param {number} season
 * @param {number} weatherOvercast @returns {number} */
function skyR(hour, season, weatherOvercast) {
  const clearSkyNowR = clearSkyR(hour, season);
  const clearSkyNowG = clearSkyG(hour, season);
  const clearSkyNowB = clearSkyB(hour, season);
  const sunDaylightNow = sunDaylight(hour, season);
  return lightR(lerp(coneL(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.16263142285853904, 0.5995780250315662, sunDaylightNow), weatherOvercast),
    lerp(coneM(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.16765047234679506, 0.6103349854360245, sunDaylightNow), weatherOvercast),
    lerp(coneS(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.18219759144761766, 0.6300993101954723, sunDaylightNow), weatherOvercast));
}

/** Signal, shared by all that use it -- pier.caltrin:119: signal sky = pick(weather, fair clear_sky,
 * overcast mix(#0b0f14, #77858d, by sun.daylight)) @param {number} hour @param {number} season
 * @param {number} weatherOvercast @returns {number} */
function skyG(hour, season, weatherOvercast) {
  const clearSkyNowR = clearSkyR(hour, season);
  const clearSkyNowG = clearSkyG(hour, season);
  const clearSkyNowB = clearSkyB(hour, season);
  const sunDaylightNow = sunDaylight(hour, season);
  return lightG(lerp(coneL(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.16263142285853904, 0.5995780250315662, sunDaylightNow), weatherOvercast),
    lerp(coneM(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.16765047234679506, 0.6103349854360245, sunDaylightNow), weatherOvercast),
    lerp(coneS(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.18219759144761766, 0.6300993101954723, sunDaylightNow), weatherOvercast));
}

/** Signal, shared by all that use it -- pier.caltrin:119: signal sky = pick(weather, fair clear_sky,
 * overcast mix(#0b0f14, #77858d, by sun.daylight)) @param {number} hour @param {number} season
 * @param {number} weatherOvercast @returns {number} */
function skyB(hour, season, weatherOvercast) {
  const clearSkyNowR = clearSkyR(hour, season);
  const clearSkyNowG = clearSkyG(hour, season);
  const clearSkyNowB = clearSkyB(hour, season);
  const sunDaylightNow = sunDaylight(hour, season);
  return lightB(lerp(coneL(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.16263142285853904, 0.5995780250315662, sunDaylightNow), weatherOvercast),
    lerp(coneM(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.16765047234679506, 0.6103349854360245, sunDaylightNow), weatherOvercast),
    lerp(coneS(clearSkyNowR, clearSkyNowG, clearSkyNowB),
      lerp(0.18219759144761766, 0.6300993101954723, sunDaylightNow), weatherOvercast));
}

/** Signal, shared by all that use it -- pier.caltrin:120: signal overhead = sun.daylight * pick(weather,
 * fair 100%, overcast 35%) @param {number} hour @param {number} season @param {number} weatherOvercast
 * @returns {number} */
function overhead(hour, season, weatherOvercast) {
  return sunDaylight(hour, season) * lerp(1.0, 0.35, weatherOvercast);
}

/** Signal, shared by all that use it -- pier.caltrin:122: signal blare = follow(horn, attack 20ms, release
 * 280ms) @param {number} t @param {number} hornAt @param {number} hornSince @param {boolean} hornPlays
 * @param {number} hornChanged @param {number} blareHornFollow0From @returns {number} */
function blare(t, hornAt, hornSince, hornPlays, hornChanged, blareHornFollow0From) {
  return max(hornPlays
      ? envelopeLevel(hornPlace(t, hornAt, hornSince, hornPlays) * 3840.0, hornEnvelope, 48)
      : 0.0, blareHornFollow0From * decay((t - hornChanged) / 0.28));
}

/** Signal, shared by all that use it -- pier.caltrin:123: signal stroke = follow(buoy, measure peak,
 * attack 4ms, release 450ms) @param {number} t @returns {number} */
function stroke(t) {
  return envelopeLevel(wrapTime(t, 7.5) * 3840.0, buoyEnvelope, 54);
}

/** Behavior, a copy for each use -- pier.caltrin:128: behavior buzzing(floor = 85%) = held(floor..100%,
 * every 60ms..240ms) @param {number} t @param {number} key @param {number} floor @returns {number} */
function buzzing(t, key, floor) {
  return lerp(floor, 1.0, heldLevel(t, chanceKey(key, 0xc3f69953), 6.666666666666667, 0.3));
}

/** Behavior, a copy for each use -- pier.caltrin:130: behavior guttering(depth = 35%, draft = 400ms)
 * @param {number} t @param {number} key @param {number} depth @param {number} draft @returns {number} */
function guttering(t, key, depth, draft) {
  const flame = 0.8
    + 0.19999999999999996 * heldLevel(t, chanceKey(key, 0xd2611993), 7.142857142857142, 0.24999999999999994);
  const longest = draft * 5.0;
  const sum = draft + longest;
  const gust = softLevel(t, chanceKey(key, 0xfd5749ad), 2.0 / sum, (longest - draft) / (2.0 * sum), 0.3);
  return flame * (1.0 - depth * easeSmooth(clamp((gust - 0.72) / 0.12, 0.0, 1.0)));
}

/** Curve over x seconds @param {number} x @returns {number} */
function harborLightRhythm(x) {
  if (x < 0.4) return 1.0;
  if (x < 1.2000000000000002) return 0.0;
  if (x < 1.6) return 1.0;
  if (x < 6.0) return 0.0;
  return 1.0;
}

/** Signal, shared by all that use it, s -- pier.caltrin:254: sequence docking at ferry_docks (the gangway
 * is lit while passengers board) @param {number} t @param {number} dockingStarted @returns {number} */
function dockingAt(t, dockingStarted) {
  return dockingStarted > -1.5e9
    ? max(t - dockingStarted,
      dockingStarted + 1.0 > t
        ? 0.0
        : dockingStarted + 2.5 > t
        ? 1.0
        : dockingStarted + 16.0 > t
        ? 2.5
        : dockingStarted + 18.0 > t
        ? 16.0
        : dockingStarted + 20.0 > t
        ? 18.0
        : dockingStarted + 24.0 > t
        ? 20.0
        : 24.0)
    : -1.0;
}

/** Curve over x seconds @param {number} x @returns {number} */
function dockingGangwayColorL(x) {
  if (x < 0.0) return 0.9010167023289669;
  if (x < 1.0) return 0.9010167023289669 - 0.03697220558852521 * easeSmooth(x);
  return 0.8640444967404417;
}

/** Curve over x seconds @param {number} x @returns {number} */
function dockingGangwayColorM(x) {
  if (x < 0.0) return 0.8563551629324132;
  if (x < 1.0) return 0.8563551629324132 - 0.058741602712659935 * easeSmooth(x);
  return 0.7976135602197533;
}

/** Curve over x seconds @param {number} x @returns {number} */
function dockingGangwayColorS(x) {
  if (x < 0.0) return 0.744272310693046;
  if (x < 1.0) return 0.744272310693046 - 0.14930352621124554 * easeSmooth(x);
  return 0.5949687844818005;
}

/** Curve over x seconds @param {number} x @returns {number} */
function dockingWeight(x) {
  if (x < 20.0) return 1.0;
  if (x < 24.0) return 1.0 - easeSmooth((x - 20.0) / 4.0);
  return 0.0;
}

/** Curve over x seconds @param {number} x @returns {number} */
function dockingWeight_2(x) {
  if (x < 1.0) return 0.0;
  if (x < 20.0) return 1.0;
  if (x < 24.0) return 1.0 - easeSmooth((x - 20.0) / 4.0);
  return 0.0;
}

/** Curve over x seconds @param {number} x @returns {number} */
function warningLampRhythm(x) {
  if (x < 0.3) return 1.0;
  if (x < 1.0) return 0.0;
  return 1.0;
}

/** Largest moment that a run can reach, in seconds either side of its start (about 31 years). */
const LAST_MOMENT = 1e9;
/** Values nearer to zero than this are zero when they leave the kernel. */
const SMALLEST = 1e-30;
/** Later than every moment of a run. */
const NEVER = 2e9;
/** Separates the draws of levels from those of edges. */
const LEVELS = 0x68e31da4;
/** From the key of one octave to that of the next; also separates the draws of phases. */
const OCTAVE = 0x9e3779b9;
/** Last moment of a day, in hours. */
const LAST_HOUR = 23.999999999999996;
/** How often a condition without a solvable moment is sampled, in a second. */
const LOOKS = 120.0;

/** The largest whole number not above x; a zero has no sign. */
function roundDown(x) {
  return Math.floor(x) + 0.0;
}

/** A whole number as a 32-bit index that wraps. */
function cellIndex(n) {
  return n >>> 0;
}

/** The upper 32 bits of a number. */
function highBits(v) {
  const bits = new DataView(new ArrayBuffer(8));
  bits.setFloat64(0, v);
  return bits.getUint32(0);
}

/** The lower 32 bits of a number. */
function lowBits(v) {
  const bits = new DataView(new ArrayBuffer(8));
  bits.setFloat64(0, v);
  return bits.getUint32(4);
}

/** The number that has these bits. */
function fromBits(high, low) {
  const bits = new DataView(new ArrayBuffer(8));
  bits.setUint32(0, high);
  bits.setUint32(4, low);
  return bits.getFloat64(0);
}

/** Mixes 32 bits; one-to-one, and 0 stays 0. @param {number} x @returns {number} */
function scramble(x) {
  x ^= x >>> 16;
  x = Math.imul(x, 0x21f0aaad);
  x ^= x >>> 15;
  x = Math.imul(x, 0x735a2d97);
  return (x ^ (x >>> 15)) >>> 0;
}

/** Key of one random place under a seed, or under another key. @param {number} seed @param {number} place
 * @returns {number} */
function chanceKey(seed, place) {
  return scramble((((scramble((seed + OCTAVE) >>> 0) ^ place) >>> 0) + 0x85ebca6b) >>> 0);
}

/** Key of one lamp of an array. Lamp 0 keeps the key. @param {number} key @param {number} lamp
 * @returns {number} */
function lampKey(key, lamp) {
  return (key ^ scramble(lamp)) >>> 0;
}

/** The `n`-th random draw of a key: 32 even bits. @param {number} key @param {number} n @returns {number} */
function draw(key, n) {
  return scramble((scramble((n + key) >>> 0) ^ key) >>> 0);
}

/** A draw as a number from 0 to 1 (excluded), in steps of 2^-24. @param {number} bits @returns {number} */
function toUnit(bits) {
  return (bits >>> 8) * (1.0 / 16777216.0);
}

/** The smaller of two numbers. @param {number} a @param {number} b @returns {number} */
function min(a, b) {
  return b < a ? b : a;
}

/** The larger of two numbers. @param {number} a @param {number} b @returns {number} */
function max(a, b) {
  return b > a ? b : a;
}

/** `v` limited to `lo..hi`. @param {number} v @param {number} lo @param {number} hi @returns {number} */
function clamp(v, lo, hi) {
  const above = v < lo ? lo : v;
  return above > hi ? hi : above;
}

/** `lo` at 0, `hi` at 1, and never outside of the two. @param {number} lo @param {number} hi
 * @param {number} s @returns {number} */
function lerp(lo, hi, s) {
  const v = lo + (hi - lo) * s;
  return lo <= hi ? clamp(v, lo, hi) : clamp(v, hi, lo);
}

/** A part of a whole; 0 of a whole that is not above 0. @param {number} part @param {number} whole
 * @returns {number} */
function share(part, whole) {
  return whole > 0.0 ? part / whole : 0.0;
}

/** The square root of `x`; 0 of what is below 0. @param {number} x @returns {number} */
function root(x) {
  const kept = x > 0.0 ? x : 0.0;
  return Math.sqrt(kept);
}

/** A number without its sign. @param {number} x @returns {number} */
function absolute(x) {
  return x < 0.0 ? -x : x;
}

/** Where the cells of a key begin, from 0 to 1. @param {number} key @returns {number} */
function chancePhase(key) {
  return toUnit(scramble((key + OCTAVE) >>> 0));
}

/** Where cell `i` of a held level begins, from `i`: at most `jitter` either way. @param {number} key
 * @param {number} i @param {number} jitter @returns {number} */
function cellEdge(key, i, jitter) {
  const bits = draw(key, i);
  const drawn = jitter * (2.0 * toUnit(bits) - 1.0);
  const steady = (bits >>> 31) !== 0 ? jitter : -jitter;
  return (i & 1) !== 0 ? steady : drawn;
}

/** A level from 0 to 1 that is drawn again after random times between `a` and `b` seconds: `rate` is 2 /
 * (a + b), `jitter` is (b - a) / (2 (a + b)). @param {number} t @param {number} key @param {number} rate
 * @param {number} jitter @returns {number} */
function heldLevel(t, key, rate, jitter) {
  const x = t * rate + chancePhase(key);
  const n = roundDown(x + 0.5);
  const i = cellIndex(n);
  const early = x - n < cellEdge(key, i, jitter) ? 1 : 0;
  return toUnit(draw((key ^ LEVELS) >>> 0, (i - early) >>> 0));
}

/** A level from 0 to 1 that is drawn again `rate` times a second: `held_level` without jitter.
 * @param {number} t @param {number} key @param {number} rate @returns {number} */
function steadyLevel(t, key, rate) {
  const i = cellIndex(roundDown(t * rate + chancePhase(key)));
  return toUnit(draw((key ^ LEVELS) >>> 0, i));
}

/** Soft start and end, from 0 to 1. @param {number} u @returns {number} */
function easeSmooth(u) {
  const s = u * u * (3.0 - 2.0 * u);
  return s > 1.0 ? 1.0 : s;
}

/** Places from 0 to 1 drawn apart at both ends, so that what starts or ends like a root goes on evenly.
 * @param {number} u @returns {number} */
function spreadEnds(u) {
  const before = u < 0.5;
  const side = before ? u : 1.0 - u;
  const v = 0.5 * root(2.0 * side);
  return before ? v : 1.0 - v;
}

/** An easing at `u`, 0 to 1, that is kept as polynomials of the fifth degree: six numbers for each of
 * `pieces` of one length, the highest power first. @param {number} u @param {ArrayLike<number>} table
 * @param {number} pieces @returns {number} */
function easeBaked(u, table, pieces) {
  const x = u * pieces;
  const cell = Math.floor(x);
  const piece = cell < pieces ? cell : pieces - 1;
  const f = x - piece;
  const at = 6 * piece;
  let s = table[at];
  s = s * f + table[at + 1];
  s = s * f + table[at + 2];
  s = s * f + table[at + 3];
  s = s * f + table[at + 4];
  return s * f + table[at + 5];
}

/** Position of `t` in a turn of `period` seconds that starts again and again. @param {number} t
 * @param {number} period @returns {number} */
function wrapTime(t, period) {
  const x = t - roundDown(t / period) * period;
  const under = x >= period ? x - period : x;
  return x < 0.0 ? x + period : under;
}

/** Position of `t` in a turn of `period` seconds that plays there and back. @param {number} t
 * @param {number} period @returns {number} */
function foldTime(t, period) {
  const x = wrapTime(t, 2.0 * period);
  return x > period ? 2.0 * period - x : x;
}

/** A level from 0 to 1 that passes smoothly through draws at whole numbers `x`. @param {number} x
 * @param {number} key @returns {number} */
function noise(x, key) {
  const n = roundDown(x);
  const f = x - n;
  const i = cellIndex(n);
  const eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
  const s = eased > 1.0 ? 1.0 : eased;
  const a = toUnit(draw(key, i));
  const b = toUnit(draw(key, (i + 1) >>> 0));
  return a + (b - a) * s;
}

/** A level from 0 to 1 that drifts smoothly: `rate` draws a second, and for each octave after the first
 * one of half the depth and twice the rate. @param {number} t @param {number} key @param {number} rate
 * @param {number} octaves @returns {number} */
function driftLevel(t, key, rate, octaves) {
  let x = t * rate + chancePhase(key);
  let k = key;
  let sum = noise(x, k);
  let total = 1.0;
  for (let pass = 1; pass < octaves; ++pass) {
    x = 2.0 * x + 0.37;
    k = (k + OCTAVE) >>> 0;
    sum = 2.0 * sum + noise(x, k);
    total = 2.0 * total + 1.0;
  }
  return sum / total;
}

/** As `held_level`, but each level is reached softly over a `part` of its time. @param {number} t
 * @param {number} key @param {number} rate @param {number} jitter @param {number} part @returns {number} */
function softLevel(t, key, rate, jitter, part) {
  const x = t * rate + chancePhase(key);
  const n = roundDown(x + 0.5);
  const nearest = cellIndex(n);
  const sinceNearest = x - n - cellEdge(key, nearest, jitter);
  const i = sinceNearest >= 0.0 ? nearest : (nearest - 1) >>> 0;
  const edge = cellEdge(key, i, jitter);
  const passed = sinceNearest >= 0.0 ? sinceNearest : x - n + 1.0 - edge;
  const soft = part * (1.0 + cellEdge(key, (i + 1) >>> 0, jitter) - edge);
  const to = toUnit(draw((key ^ LEVELS) >>> 0, i));
  const from = toUnit(draw((key ^ LEVELS) >>> 0, (i - 1) >>> 0));
  const way = from + (to - from) * easeSmooth(passed / soft);
  return passed >= soft ? to : way;
}

/** When the `n`-th burst or pause of a turn ends, in seconds, by running sums of even draws.
 * @param {number} n @param {number} onLo @param {number} onHi @param {number} offLo @param {number} offHi
 * @param {ArrayLike<number>} onSums @param {ArrayLike<number>} offSums @returns {number} */
function burstEdge(n, onLo, onHi, offLo, offHi, onSums, offSums) {
  const begun = Math.floor((n + 1) / 2);
  const ended = Math.floor(n / 2);
  const on = onLo * begun + (onHi - onLo) * onSums[begun];
  return on + (offLo * ended + (offHi - offLo) * offSums[ended]);
}

/** 1 while a burst lasts, else 0. Bursts last `on_lo` to `on_hi` seconds, the pauses after them `off_lo`
 * to `off_hi`; the running sums have an entry more than there are `pairs`. @param {number} t
 * @param {number} key @param {number} onLo @param {number} onHi @param {number} offLo
 * @param {number} offHi @param {ArrayLike<number>} onSums @param {ArrayLike<number>} offSums
 * @param {number} pairs @returns {number} */
function burstLevel(t, key, onLo, onHi, offLo, offHi, onSums, offSums, pairs) {
  const whole = burstEdge(2 * pairs, onLo, onHi, offLo, offHi, onSums, offSums);
  const x = t / whole + chancePhase(key);
  const n = roundDown(x);
  const first = 2 * (draw(key, cellIndex(n)) % pairs);
  const passed = (x - n) * whole + burstEdge(first, onLo, onHi, offLo, offHi, onSums, offSums);
  const u = passed >= whole ? passed - whole : passed;
  let last = 0;
  let step = pairs;
  while (step > 0) {
    if (u >= burstEdge(last + step, onLo, onHi, offLo, offHi, onSums, offSums)) last += step;
    step = Math.floor(step / 2);
  }
  return last % 2 === 0 ? 1.0 : 0.0;
}

/** The level, 0 to 1, at position `x` of an envelope with entries 0 to `last`: linear between positions
 * (upper 24 bits) and levels in 1/255 (lower 8 bits); the ends go on. @param {number} x
 * @param {ArrayLike<number>} envelope @param {number} last @returns {number} */
function envelopeLevel(x, envelope, last) {
  let low = 0;
  let high = last;
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (envelope[middle] >>> 8 <= x) {
      low = middle;
    } else {
      high = middle;
    }
  }
  const from = envelope[low] >>> 8;
  const to = envelope[high] >>> 8;
  const a = envelope[low] & 255;
  const b = envelope[high] & 255;
  return lerp(a, b, clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0;
}

/** The first of the rising positions 0 to `last` that lies after `x`, or never. @param {number} x
 * @param {ArrayLike<number>} places @param {number} last @returns {number} */
function nextPlace(x, places, last) {
  let low = 0;
  let high = last + 1;
  while (low < high) {
    const middle = Math.floor((low + high) / 2);
    if (places[middle] > x) {
      high = middle;
    } else {
      low = middle + 1;
    }
  }
  if (low <= last) return places[low];
  return NEVER;
}

/** One coordinate of a displacement within a ball of radius 1, from three numbers in -1..1 of which `a` is
 * that coordinate's. @param {number} a @param {number} b @param {number} c @returns {number} */
function inBall(a, b, c) {
  const bb = b * b;
  const cc = c * c;
  return a * Math.sqrt(1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)) * 0.9999997615814209;
}

/** One coordinate of a direction of length 1; `still` where there is no direction. @param {number} part
 * @param {number} x @param {number} y @param {number} z @param {number} still @returns {number} */
function heading(part, x, y, z, still) {
  const length = Math.sqrt(x * x + y * y + z * z);
  return length > 1e-9 ? part / length : still;
}

/** The sine of `x` turns, to 4e-14. @param {number} x @returns {number} */
function sineOfTurns(x) {
  const turn = x - roundDown(x + 0.5);
  const upper = turn > 0.25 ? 0.5 - turn : turn;
  const r = upper < -0.25 ? -0.5 - upper : upper;
  const q = r * r;
  const high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
  const low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
  return clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0);
}

/** A sine wave from 0 to 1, lowest at whole turns `x`. @param {number} x @returns {number} */
function sineLevel(x) {
  return 0.5 + 0.5 * sineOfTurns(x - 0.25);
}

/** A triangle wave from 0 to 1, lowest at whole turns `x`. @param {number} x @returns {number} */
function triangleLevel(x) {
  const r = x - roundDown(x);
  return r < 0.5 ? 2.0 * r : 2.0 - 2.0 * r;
}

/** Whole days in a number of hours from midnight on; below 0 before it. @param {number} hours
 * @returns {number} */
function daysOf(hours) {
  return roundDown(hours / 24.0);
}

/** Hour of the day, 0 to 24 (excluded), after a number of hours from midnight on. @param {number} hours
 * @returns {number} */
function hourOf(hours) {
  return clamp(hours - 24.0 * daysOf(hours), 0.0, LAST_HOUR);
}

/** What is left of a fall of `fall` hours that began `late` hours ago: 1 to 0. @param {number} late
 * @param {number} fall @returns {number} */
function hoursLeft(late, fall) {
  return late < fall ? 1.0 - late / fall : 0.0;
}

/** 0 outside and 1 inside of a span of hours: it opens from `start` on, for `rise` hours, and closes from
 * `end` on, for `fall` hours. @param {number} hour @param {number} start @param {number} rise
 * @param {number} end @param {number} fall @returns {number} */
function hoursLevel(hour, start, rise, end, fall) {
  const passed = hourOf(hour - start);
  const open = hourOf(end - start);
  if (passed >= rise) return passed < open ? 1.0 : hoursLeft(passed - open, fall);
  const risen = passed / rise;
  if (passed >= open) {
    const lost = 1.0 - hoursLeft(passed - open, fall);
    return risen > lost ? risen - lost : 0.0;
  }
  const level = risen + hoursLeft(passed - open + 24.0, fall);
  return level < 1.0 ? level : 1.0;
}

/** The angle of the point (x, y) from the x axis toward the y axis, in degrees above -180 to 180; 0 at the
 * origin. @param {number} y @param {number} x @returns {number} */
function arcTangent(y, x) {
  const ax = x < 0.0 ? -x : x;
  const ay = y < 0.0 ? -y : y;
  const steep = ay > ax;
  const shorter = steep ? ax : ay;
  const longer = steep ? ay : ax;
  if (longer === 0.0) return 0.0;
  const ratio = shorter / longer;
  const steeper = ratio > 0.414213562373095;
  const z = steeper ? (ratio - 1.0) / (ratio + 1.0) : ratio;
  const u = z * z;
  const a = 2.878903358695536 + u * -1.4504271731546372;
  const b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
  const c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
  const d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
  const p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
  const part = steeper ? 45.0 + z * p : z * p;
  const half = steep ? 90.0 - part : part;
  const angle = x < 0.0 ? 180.0 - half : half;
  return y < 0.0 ? -angle : angle;
}

/** The angle whose sine is `x`, -90 to 90 degrees; `x` is limited to -1..1. @param {number} x
 * @returns {number} */
function arcSine(x) {
  const kept = clamp(x, -1.0, 1.0);
  return arcTangent(kept, Math.sqrt((1.0 - kept) * (1.0 + kept)));
}

/** A compass direction, 0 (north) to 360 degrees over east. @param {number} east @param {number} north
 * @returns {number} */
function compass(east, north) {
  const angle = arcTangent(east, north);
  return angle < 0.0 ? angle + 360.0 : angle;
}

/** Turns of the sun on its way through the year, from the spring equinox: `days` after noon of 1 January
 * 2000 in UT. @param {number} days @returns {number} */
function sunWay(days) {
  const anomaly = 0.9931333333333333 + days * 0.002737778611111111;
  const mean = 0.7790555555555555 + days * 0.0027379093333333333;
  const ahead = sineOfTurns(anomaly) * 0.005319444444444444;
  return mean + ahead + sineOfTurns(anomaly + anomaly) * 5.555555555555556e-5;
}

/** Tilt of the earth's axis in turns, `days` as for `sun_way`. @param {number} days @returns {number} */
function axisTilt(days) {
  return 0.06510833333333332 - days * 1.111111111e-9;
}

/** How far the sky has turned over a longitude, in turns, `days` as for `sun_way`. @param {number} days
 * @param {number} longitude @returns {number} */
function skyTurn(days, longitude) {
  return 0.77905727325 + days * 1.002737909350795 + longitude / 360.0;
}

/** East (0), up (1) or south (2) of the direction to the sun, or to what runs `ahead` turns before it
 * (Michalsky 1988). @param {number} part @param {number} days @param {number} ahead
 * @param {number} latitude @param {number} longitude @returns {number} */
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

/** The hour at which the sun passes a height, given by its sine: rising (`side` -1), highest (0), setting
 * (1). @param {number} side @param {number} days @param {number} latitude @param {number} longitude
 * @param {number} sine @returns {number} */
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
    const past = skyTurn(now, longitude) - arcTangent(y, x) / 360.0;
    const left = aim - past;
    hour += 24.0 * (left - roundDown(left + 0.5));
    const flat = Math.sqrt((1.0 - z) * (1.0 + z));
    const part = clamp((sine - low * z) / max(high * flat, 1e-12), -1.0, 1.0);
    aim = side * (0.25 - arcSine(part) / 360.0);
  }
  return hourOf(hour);
}

/** Whether the sun stays below (-1) or above (1) a height all day, given by its sine; 0 where it crosses
 * it, 0.5 (either sign) where it only rises or only sets. @param {number} days @param {number} latitude
 * @param {number} longitude @param {number} sine @returns {number} */
function sunStays(days, latitude, longitude, sine) {
  const noon = sunHour(0.0, days, latitude, longitude, sine);
  const low = sineOfTurns(latitude / 360.0);
  const high = sineOfTurns(latitude / 360.0 + 0.25);
  let stays = 0.0;
  let side = -1.0;
  while (side < 2.0) {
    const hour = sunHour(side, days, latitude, longitude, sine);
    const after = hourOf(side * (hour - noon));
    const apart = after > 18.0 ? after - 24.0 : after;
    const now = days + (noon + side * apart) / 24.0;
    const z = sineOfTurns(axisTilt(now)) * sineOfTurns(sunWay(now));
    const flat = Math.sqrt((1.0 - z) * (1.0 + z));
    const part = (sine - low * z) / max(high * flat, 1e-12);
    if (part > 0.9999) {
      stays -= 1.0;
    } else if (part < -0.9999) {
      stays += 1.0;
    }
    side += 2.0;
  }
  return stays * 0.5;
}

/** 2 to the power of a number from -1020 to 1020, to 2e-14 of it. @param {number} x @returns {number} */
function twoTo(x) {
  const whole = roundDown(x + 0.5);
  const f = x - whole;
  let p = 1.021147686687256e-7;
  p = p * f + 1.325964614231444e-6;
  p = p * f + 1.5252641585726547e-5;
  p = p * f + 0.000154034337467768;
  p = p * f + 0.0013333558259554714;
  p = p * f + 0.009618129193941272;
  p = p * f + 0.05550410866424362;
  p = p * f + 0.24022650695640305;
  p = p * f + 0.6931471805599538;
  p = p * f + 1.0000000000000135;
  let left = Math.floor(absolute(whole));
  let factor = whole < 0.0 ? 0.5 : 2.0;
  while (left > 0) {
    if (left % 2 === 1) p *= factor;
    factor *= factor;
    left = Math.floor(left / 2);
  }
  return p;
}

/** Exponential decay: e to the power of `-x`, to 1e-13 of it; 1 below 0, 0 from 700 on. @param {number} x
 * @returns {number} */
function decay(x) {
  if (Number.isNaN(x) || x <= 0.0) return 1.0;
  if (x >= 700.0) return 0.0;
  const p = twoTo(-x * 1.4426950408889634);
  return p < 1.0 ? p : 1.0;
}

/** The first multiple of 1/120 s after a moment. @param {number} t @returns {number} */
function nextLook(t) {
  const n = roundDown(t * LOOKS) + 1.0;
  const look = n / LOOKS;
  return look > t ? look : (n + 1.0) / LOOKS;
}

/** The cube root of a number that is not below 0, to 4e-16 of it; 0 for what is all but 0.
 * @param {number} x @returns {number} */
function cubeRoot(x) {
  if (x < SMALLEST) return 0.0;
  let part = x;
  let scale = 1.0;
  while (part >= 1.0) {
    part *= 0.125;
    scale *= 2.0;
  }
  while (part < 0.125) {
    part *= 8.0;
    scale *= 0.5;
  }
  let y = 0.3812513196434336 + part * (1.0723022680799823 - 0.46946113360511893 * part);
  for (let pass = 0; pass < 2; ++pass) {
    const c = y * y * y;
    y = y * (c + 2.0 * part) / (2.0 * c + part);
  }
  return y * scale;
}

/** Root of the long cones' response to linear light, as in OKLab. @param {number} r @param {number} g
 * @param {number} b @returns {number} */
function coneL(r, g, b) {
  return cubeRoot(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
}

/** Root of the middle cones' response to linear light, as in OKLab. @param {number} r @param {number} g
 * @param {number} b @returns {number} */
function coneM(r, g, b) {
  return cubeRoot(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
}

/** Root of the short cones' response to linear light, as in OKLab. @param {number} r @param {number} g
 * @param {number} b @returns {number} */
function coneS(r, g, b) {
  return cubeRoot(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
}

/** Linear red, not below 0, from the roots of the cones' responses. @param {number} l @param {number} m
 * @param {number} s @returns {number} */
function lightR(l, m, s) {
  const v = 4.0767416621 * (l * l * l) - 3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
  return v > 0.0 ? v : 0.0;
}

/** Linear green, not below 0, from the roots of the cones' responses. @param {number} l @param {number} m
 * @param {number} s @returns {number} */
function lightG(l, m, s) {
  const v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) - 0.3413193965 * (s * s * s);
  return v > 0.0 ? v : 0.0;
}

/** Linear blue, not below 0, from the roots of the cones' responses. @param {number} l @param {number} m
 * @param {number} s @returns {number} */
function lightB(l, m, s) {
  const v = -0.0041960863 * (l * l * l) - 0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
  return v > 0.0 ? v : 0.0;
}

/** On the way from one level to another: softly for `over` seconds since a moment, then there to stay.
 * @param {number} from @param {number} to @param {number} since @param {number} over @param {number} now
 * @returns {number} */
function faded(from, to, since, over, now) {
  if (now >= since + over) return to;
  return lerp(from, to, easeSmooth(clamp((now - since) / over, 0.0, 1.0)));
}

/** A moment, limited to 1e9 s either way; 0 for what is not a number. @param {number} t @returns {number} */
function cleanMoment(t) {
  if (Number.isNaN(t) || (t >= -SMALLEST && t <= SMALLEST)) return 0.0;
  return clamp(t, -LAST_MOMENT, LAST_MOMENT);
}

/** The value of an input, limited to its range; `fallback` for what is not a finite number.
 * @param {number} v @param {number} lo @param {number} hi @param {number} fallback @returns {number} */
function cleanInput(v, lo, hi, fallback) {
  if (!Number.isFinite(v)) return fallback;
  const kept = v >= -SMALLEST && v <= SMALLEST ? 0.0 : v;
  return clamp(kept, lo, hi);
}

/** An index that is at most the last. @param {number} index @param {number} last @returns {number} */
function atMost(index, last) {
  return index < last ? index : last;
}

/** Single precision without negative zero and subnormals. @param {number} v @returns {number} */
function toSingle(v) {
  return Math.fround(v < SMALLEST && v > -SMALLEST ? 0.0 : v);
}

/** The n-th value of a saved field. @param {Run} run @param {number} field @param {number} n
 * @returns {number} */
function savedValue(run, field, n) {
  switch (field) {
    case 0: return run.now;
    case 1: return run.seed;
    case 2: return run.clockHour;
    case 3: return run.clockDays;
    case 4: return run.clockSince;
    case 5: return run.clockRate;
    case 6: return optionKeys[0 + run.weather];
    case 7: return run.weatherSince;
    case 8: return run.weatherFrom[0];
    case 9: return run.weatherFrom[1];
    case 10: return run.mist;
    case 11: return run.swell;
    case 12: return run.season;
    case 13: return run.haul;
    case 14: return run.rocketPlace[0];
    case 15: return run.rocketPlace[1];
    case 16: return run.rocketPlace[2];
    case 17: return run.rocketTint[0];
    case 18: return run.rocketTint[1];
    case 19: return run.rocketTint[2];
    case 20: return run.hornAt;
    case 21: return run.hornSince;
    case 22: return run.hornPlays ? 1.0 : 0.0;
    case 23: return run.hornChanged;
    case 24: return run.ratchetAt;
    case 25: return run.ratchetSince;
    case 26: return run.ratchetRate;
    case 27: return run.powerOn ? 1.0 : 0.0;
    case 28: return run.powerSince;
    case 29: return run.powerFrom;
    case 30: return optionKeys[2 + Math.floor(run.warningMode)];
    case 31: return run.warningEntered;
    case 32: return run.warningWay;
    case 33: return run.warningFromWatch;
    case 34: return run.warningFromAlarm;
    case 35: return run.warningRule1Seen ? 1.0 : 0.0;
    case 36: return run.warningRule1Since;
    case 37: return run.blareHornFollow0From;
    case 38: return run.blastPassed;
    case 39: return run.noticeMoments[n];
    case 40: return run.noticePacked[n];
    case 41: return run.noticePositions[n][0];
    case 42: return run.noticePositions[n][1];
    case 43: return run.noticePositions[n][2];
    case 44: return run.noticeFirst;
    case 45: return run.noticeCount;
    case 46: return run.noticeDropped;
    case 47: return run.notice0Sent;
    case 48: return run.noticeValueLoud[n];
    case 49: return run.notice0Text;
    case 50: return run.fogLampFaultLast[n];
    case 51: return run.fogLampFaultCount[n];
    case 52: return run.notice1Sent[n];
    case 53: return run.noticeValueWithin[n];
    case 54: return run.notice1Text[n];
    case 55: return run.quayCock[n];
    case 56: return run.boardLoudness[n];
    case 57: return run.dockingStarted;
    case 58: return run.gateOpensLast;
    case 59: return run.starShellBorn[n];
    case 60: return run.starShellLength[n];
    case 61: return run.starShellPlace[n][0];
    case 62: return run.starShellPlace[n][1];
    case 63: return run.starShellPlace[n][2];
    case 64: return run.starShellTint[n][0];
    case 65: return run.starShellTint[n][1];
    case 66: return run.starShellTint[n][2];
    default: return run.starShellCount;
  }
}

/** Restores the n-th value of a saved field. @param {Run} run @param {number} field @param {number} n
 * @param {number} value */
function takeSaved(run, field, n, value) {
  switch (field) {
    case 0: run.now = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 1: run.seed = cellIndex(value); break;
    case 2: run.clockHour = cleanSaved(value, 0.0, 23.999999999999996, 17.666666666666668); break;
    case 3: run.clockDays = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 4: run.clockSince = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 5: run.clockRate = cleanSaved(value, -1e6, 1e6, 1.0); break;
    case 6: run.weather = optionOf(cellIndex(value), 0, 2); break;
    case 7: run.weatherSince = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 8: run.weatherFrom[0] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 9: run.weatherFrom[1] = cleanSaved(value, 0.0, 1.0, 0.0); break;
    case 10: run.mist = cleanSaved(value, 0.0, 1.0, 0.3); break;
    case 11: run.swell = cleanSaved(value, 0.0, 1.0, 0.2); break;
    case 12: run.season = cleanSaved(value, 1.0, 366.0, 324.0); break;
    case 13: run.haul = cleanSaved(value, 0.0, 2.0, 1.0); break;
    case 14: run.rocketPlace[0] = cleanSaved(value, -1e6, 1e6, 30.0); break;
    case 15: run.rocketPlace[1] = cleanSaved(value, -1e6, 1e6, 40.0); break;
    case 16: run.rocketPlace[2] = cleanSaved(value, -1e6, 1e6, -60.0); break;
    case 17: run.rocketTint[0] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 18: run.rocketTint[1] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 19: run.rocketTint[2] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 20: run.hornAt = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 21: run.hornSince = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 22: run.hornPlays = value !== 0.0; break;
    case 23: run.hornChanged = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 24: run.ratchetAt = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 25: run.ratchetSince = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 26: run.ratchetRate = cleanSaved(value, -1.0, 16.0, -1.0); break;
    case 27: run.powerOn = value !== 0.0; break;
    case 28: run.powerSince = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 29: run.powerFrom = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 30: run.warningMode = optionOf(cellIndex(value), 2, 3); break;
    case 31: run.warningEntered = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 32: run.warningWay = cleanSaved(value, 0.0, 2.0, 0.0); break;
    case 33: run.warningFromWatch = cleanSaved(value, 0.0, 1.0, 0.0); break;
    case 34: run.warningFromAlarm = cleanSaved(value, 0.0, 1.0, 0.0); break;
    case 35: run.warningRule1Seen = value !== 0.0; break;
    case 36: run.warningRule1Since = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 37: run.blareHornFollow0From = cleanSaved(value, 0.0, 1.0, 0.0); break;
    case 38: run.blastPassed = cleanSaved(value, -1000000001.0, 2e9, -1e-9); break;
    case 39: run.noticeMoments[n] = cleanSaved(value, -1e9, 1e9, 0.0); break;
    case 40: run.noticePacked[n] = cleanSaved(value, 0.0, 1e12, 0.0); break;
    case 41: run.noticePositions[n][0] = cleanSaved(value, -3.4028234663852886e38, 3.4028234663852886e38,
      0.0); break;
    case 42: run.noticePositions[n][1] = cleanSaved(value, -3.4028234663852886e38, 3.4028234663852886e38,
      0.0); break;
    case 43: run.noticePositions[n][2] = cleanSaved(value, -3.4028234663852886e38, 3.4028234663852886e38,
      0.0); break;
    case 44: run.noticeFirst = cleanSaved(value, 0.0, 31.0, 0.0); break;
    case 45: run.noticeCount = cleanSaved(value, 0.0, 32.0, 0.0); break;
    case 46: run.noticeDropped = cleanSaved(value, 0.0, 4e9, 0.0); break;
    case 47: run.notice0Sent = cleanSaved(value, 0.0, 4e9, 0.0); break;
    case 48: run.noticeValueLoud[n] = cleanSaved(value, -3.4028234663852886e38, 3.4028234663852886e38,
      0.0); break;
    case 49: run.notice0Text = cleanSaved(value, -1.0, 1.0, -1.0); break;
    case 50: run.fogLampFaultLast[n] = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 51: run.fogLampFaultCount[n] = cleanSaved(value, 0.0, 4e9, 0.0); break;
    case 52: run.notice1Sent[n] = cleanSaved(value, 0.0, 4e9, 0.0); break;
    case 53: run.noticeValueWithin[n] = cleanSaved(value, -3.4028234663852886e38, 3.4028234663852886e38,
      0.0); break;
    case 54: run.notice1Text[n] = cleanSaved(value, -1.0, 2.0, -1.0); break;
    case 55: run.quayCock[n] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 56: run.boardLoudness[n] = cleanSaved(value, 0.0, 2.0, 0.6); break;
    case 57: run.dockingStarted = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 58: run.gateOpensLast = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 59: run.starShellBorn[n] = cleanSaved(value, -2e9, 1e9, -2e9); break;
    case 60: run.starShellLength[n] = cleanSaved(value, 5.0, 7.0, 5.0); break;
    case 61: run.starShellPlace[n][0] = cleanSaved(value, -1e6, 1e6, 30.0); break;
    case 62: run.starShellPlace[n][1] = cleanSaved(value, -1e6, 1e6, 40.0); break;
    case 63: run.starShellPlace[n][2] = cleanSaved(value, -1e6, 1e6, -60.0); break;
    case 64: run.starShellTint[n][0] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 65: run.starShellTint[n][1] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    case 66: run.starShellTint[n][2] = cleanSaved(value, 0.0, 1.0, 1.0); break;
    default: run.starShellCount = cleanSaved(value, 0.0, 4e9, 0.0); break;
  }
}

/** Restores each saved value from itself, for the self-test: nothing may change. @param {Run} run */
function resave(run) {
  for (let field = 0; field < 68; ++field) {
    const count = saveHeads[field] & 0x00ffffff;
    for (let n = 0; n < count; ++n) {
      takeSaved(run, field, n, savedValue(run, field, n));
    }
  }
}

/** Writes a save of the run. @param {Run} run @param {Uint8Array} bytes */
function writeSave(run, bytes) {
  putWord(bytes, 0, 0x544c4143);
  putWord(bytes, 4, 1);
  putWord(bytes, 8, 0x39f896a0);
  let at = 16;
  for (let field = 0; field < 68; ++field) {
    const head = saveHeads[field];
    putWord(bytes, at, saveKeys[field]);
    putWord(bytes, at + 4, head);
    at += 8;
    const count = head & 0x00ffffff;
    let each = 4;
    if ((head >>> 24) === 1) each = 8;
    for (let n = 0; n < count; ++n) {
      const place = at + each * n;
      const value = savedValue(run, field, n);
      if (each === 8) {
        putWord(bytes, place, lowBits(value));
        putWord(bytes, place + 4, highBits(value));
      } else {
        putWord(bytes, place, cellIndex(value));
      }
    }
    at += each * count;
  }
  putWord(bytes, 12, saveSum(bytes, at));
}

/** Restarts the run and restores all fields that the save has. Returns the number of fields in the save
 * that this file lacks or has fewer of. @param {Run} run @param {Uint8Array} bytes @param {number} size
 * @returns {number} */
function readSave(run, bytes, size) {
  Object.assign(run, start(41));
  let dropped = 0;
  let at = 16;
  while (at < size) {
    const key = wordAt(bytes, at);
    const head = wordAt(bytes, at + 4);
    let each = 4;
    const bits = head >>> 24;
    if (bits === 1) each = 8;
    const count = head & 0x00ffffff;
    at += 8;
    let kept = 0;
    for (let field = 0; field < 68; ++field) {
      if (saveKeys[field] === key && (saveHeads[field] >>> 24) === bits) {
        const own = saveHeads[field] & 0x00ffffff;
        kept = own < count ? own : count;
        for (let n = 0; n < kept; ++n) {
          const place = at + each * n;
          const low = wordAt(bytes, place);
          let value = low;
          if (each === 8) value = fromBits(wordAt(bytes, place + 4), low);
          takeSaved(run, field, n, value);
        }
        break;
      }
    }
    for (let n_2 = 0; n_2 < 12; ++n_2) {
      if (saveUnused[n_2] === key) kept = count;
    }
    if (kept < count) dropped = (dropped + 1) >>> 0;
    at += each * count;
  }
  return dropped;
}

// A word of bytes, little endian on every machine.
function wordAt(bytes, at) {
  return (bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24)) >>> 0;
}

function putWord(bytes, at, word) {
  for (let n = 0; n < 4; ++n) bytes[at + n] = word >>> (8 * n);
}

/** A count of a run as a whole number of at most so many, also of a run that was never started.
 * @param {number} count @param {number} most @returns {number} */
function counted(count, most) {
  if (count > 0.0 && count < most) return cellIndex(roundDown(count));
  return count > 0.0 ? most : 0;
}

/** The index of the option with this key; 0 if there is none. @param {number} key @param {number} first
 * @param {number} count @returns {number} */
function optionOf(key, first, count) {
  for (let n = 0; n < count; ++n) {
    if (optionKeys[first + n] === key) return n;
  }
  return 0;
}

/** Clamps a saved number to its bounds; the default if it is not finite. @param {number} value
 * @param {number} lo @param {number} hi @param {number} first @returns {number} */
function cleanSaved(value, lo, hi, first) {
  return Number.isFinite(value) ? clamp(value, lo, hi) : first;
}

/** A checksum of all words of a save after its header. @param {Uint8Array} bytes @param {number} size
 * @returns {number} */
function saveSum(bytes, size) {
  let sum = 0x544c4143;
  let at = 16;
  while (at < size) {
    sum = scramble((sum ^ wordAt(bytes, at)) >>> 0);
    at += 4;
  }
  return sum;
}

/** Whether the bytes are a complete save in this version of the format, with the right checksum.
 * @param {Uint8Array} bytes @param {number} size @returns {boolean} */
function isSave(bytes, size) {
  if (size < 16 || size % 4 !== 0) return false;
  if (wordAt(bytes, 0) !== 0x544c4143 || wordAt(bytes, 4) !== 1) return false;
  let at = 16;
  while (at < size) {
    if (size - at < 8) return false;
    const head = wordAt(bytes, at + 4);
    let each = 4;
    if ((head >>> 24) === 1) each = 8;
    const count = head & 0x00ffffff;
    at += 8;
    if (count > Math.floor((size - at) / each)) return false;
    at += each * count;
  }
  return wordAt(bytes, 12) === saveSum(bytes, size);
}

/** Adds a value to a checksum. @param {number} sum @param {number} value @returns {number} */
function checksum(sum, value) {
  return scramble((sum ^ highBits(value) ^ lowBits(value)) >>> 0);
}

/** Seeds of the self-test. */
const testSeeds = new Uint32Array([
  41, 42,
]);

/** Moments at which it reads all lights. */
const testMoments = [
  0.0, 0.056, 0.096, 0.111, 0.148, 0.243, 0.286, 0.322, 0.37, 0.434, 0.486, 0.511, 0.518, 0.551, 0.559,
  0.591, 0.634, 0.656, 0.696, 0.721, 0.851, 1.174, 1.207, 1.272, 1.313, 1.348, 1.378, 1.443, 1.567, 1.636,
  1.929, 1.994, 2.034, 2.091, 2.099, 2.164, 2.368, 2.596, 2.65, 2.685, 2.715, 2.755, 2.82, 2.885, 3.015, 3.1,
  3.228, 3.259, 3.371, 3.437, 3.542, 3.552, 3.607, 4.093, 4.149, 4.158, 4.263, 4.284, 4.328, 4.814, 4.879,
  4.944, 4.984, 5.032, 5.05, 5.536, 5.601, 5.621, 5.666, 5.706, 5.771, 6.257, 6.322, 6.387, 6.427, 6.492,
  6.978, 7.043, 7.108, 7.149, 7.214, 7.4, 7.765, 7.83, 7.87, 7.893, 7.935, 8.03, 9.752, 10.483, 11.215,
  11.667, 12.399, 15.11, 18.599, 19.33, 19.783, 20.514, 21.246, 21.48, 26.714, 27.446, 27.898, 28.63, 29.361,
  34.829, 35.561, 36.013, 36.745, 37.477, 42.944, 43.676, 44.128, 44.86, 45.592, 51.06, 51.792, 52.976,
  53.707, 57.117, 59.175, 59.907, 61.091, 61.823, 61.995, 67.29, 68.022, 69.206, 69.938, 75.406, 76.137,
  76.869, 77.321, 78.053, 83.521, 84.253, 84.984, 85.437, 86.168, 111.219, 116.097, 165.321, 170.199,
  219.423, 224.301, 273.525, 278.403, 283.282, 327.627, 332.505, 337.384, 381.729, 386.607, 391.486, 435.831,
  440.709, 445.587, 494.811, 499.689, 548.913, 553.791,
];

/** Seconds that it waits after what it does. */
const testWaits = [
  0.001, 0.091, 0.37, 1.66, 6.262, 0.062, 0.248, 0.961, 4.444, 0.028, 0.19, 0.696, 2.929, 0.005, 0.111,
  0.434, 2.091, 8.03, 0.074, 0.286, 1.348, 5.621, 0.043, 0.217, 0.83, 3.32, 0.017, 0.141, 0.559, 2.49, 24.24,
];

/** Checksums of what the preview shows, one for each light and one for all notices. */
const testSums = new Uint32Array([
  0x1579ae48, 0x1603a01b, 0x7813a0b0, 0xb6b8e701, 0xa67d0668, 0x4ef6983a, 0xe9fb26ca, 0xb2c13a15, 0x96a8676e,
  0x76e8a1de, 0x0e249bea, 0x7cf9e5a2, 0x323641d6, 0xca3d1610, 0x152bbe6d, 0xa421d9ad, 0x97e23bed, 0xdd3363c0,
  0x2bdef6fd, 0x1c21f736, 0x603e3044, 0x94f30dc0, 0x0e490e1a, 0x162951bb, 0x39ae7baf, 0x286d704e, 0x53711b29,
  0x495d9198,
]);

/** Adds a lamp of mast to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkMast(run, n, index, sum) {
  const lamp = readMast(run, index);
  if (n % 2 === 1) fillMast(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachInner);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.coneInner);
  sum = checksum(sum, lamp.coneOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  sum = checksum(sum, lamp.aim[0]);
  sum = checksum(sum, lamp.aim[1]);
  sum = checksum(sum, lamp.aim[2]);
  return sum;
}

/** Adds a lamp of fog_lamp to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkFogLamp(run, n, index, sum) {
  const lamp = readFogLamp(run, index);
  if (n % 2 === 1) fillFogLamp(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of quay.glow to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkQuayGlow(run, n, index, sum) {
  const lamp = readQuayGlow(run, index);
  if (n % 2 === 1) fillQuayGlow(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of quay.core to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkQuayCore(run, n, index, sum) {
  const lamp = readQuayCore(run, index);
  if (n % 2 === 1) fillQuayCore(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  sum = checksum(sum, lamp.offset[0]);
  sum = checksum(sum, lamp.offset[1]);
  sum = checksum(sum, lamp.offset[2]);
  return sum;
}

/** Adds a lamp of ticket_hatch to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkTicketHatch(run, sum) {
  const lamp = readTicketHatch(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of pane to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkPane(run, n, index, sum) {
  const lamp = readPane(run, index);
  if (n % 2 === 1) fillPane(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  sum = checksum(sum, lamp.aim[0]);
  sum = checksum(sum, lamp.aim[1]);
  sum = checksum(sum, lamp.aim[2]);
  return sum;
}

/** Adds a lamp of weld to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkWeld(run, sum) {
  const lamp = readWeld(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachInner);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  sum = checksum(sum, lamp.shadows ? 1.0 : 0.0);
  return sum;
}

/** Adds a lamp of bench_lamp to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkBenchLamp(run, sum) {
  const lamp = readBenchLamp(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of horn_lamp to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkHornLamp(run, sum) {
  const lamp = readHornLamp(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of board.strip to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkBoardStrip(run, n, index, sum) {
  const lamp = readBoardStrip(run, index);
  if (n % 2 === 1) fillBoardStrip(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of buoy_lamp to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkBuoyLamp(run, sum) {
  const lamp = readBuoyLamp(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of harbor_light to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkHarborLight(run, sum) {
  const lamp = readHarborLight(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of standby to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkStandby(run, n, index, sum) {
  const lamp = readStandby(run, index);
  if (n % 2 === 1) fillStandby(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of edge_lamp to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkEdgeLamp(run, n, index, sum) {
  const lamp = readEdgeLamp(run, index);
  if (n % 2 === 1) fillEdgeLamp(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of gangway to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkGangway(run, sum) {
  const lamp = readGangway(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachInner);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of gate_lamp to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkGateLamp(run, sum) {
  const lamp = readGateLamp(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of warning_lamp to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkWarningLamp(run, sum) {
  const lamp = readWarningLamp(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  return sum;
}

/** Adds a lamp of star_shell to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkStarShell(run, n, index, sum) {
  const lamp = readStarShell(run, index);
  if (n % 2 === 1) fillStarShell(run, index, [lamp]);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.reachOuter);
  sum = checksum(sum, lamp.position[0]);
  sum = checksum(sum, lamp.position[1]);
  sum = checksum(sum, lamp.position[2]);
  sum = checksum(sum, lamp.offset[0]);
  sum = checksum(sum, lamp.offset[1]);
  sum = checksum(sum, lamp.offset[2]);
  return sum;
}

/** Adds a lamp of sunlight to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkSunlight(run, sum) {
  const lamp = readSunlight(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.aim[0]);
  sum = checksum(sum, lamp.aim[1]);
  sum = checksum(sum, lamp.aim[2]);
  sum = checksum(sum, lamp.shadows ? 1.0 : 0.0);
  return sum;
}

/** Adds a lamp of moonlight to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkMoonlight(run, sum) {
  const lamp = readMoonlight(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  sum = checksum(sum, lamp.aim[0]);
  sum = checksum(sum, lamp.aim[1]);
  sum = checksum(sum, lamp.aim[2]);
  return sum;
}

/** Adds a lamp of deck to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkDeck(run, sum) {
  const lamp = readDeck(run);
  sum = checksum(sum, lamp.intensity);
  sum = checksum(sum, lamp.color[0]);
  sum = checksum(sum, lamp.color[1]);
  sum = checksum(sum, lamp.color[2]);
  return sum;
}

/** Adds a lamp of sky_tint to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkSkyTint(run, sum) {
  const lamp = readSkyTint(run);
  sum = checksum(sum, lamp.value[0]);
  sum = checksum(sum, lamp.value[1]);
  sum = checksum(sum, lamp.value[2]);
  return sum;
}

/** Adds a lamp of haze_tint to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkHazeTint(run, sum) {
  const lamp = readHazeTint(run);
  sum = checksum(sum, lamp.value[0]);
  sum = checksum(sum, lamp.value[1]);
  sum = checksum(sum, lamp.value[2]);
  return sum;
}

/** Adds a lamp of fog to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkFog(run, sum) {
  const lamp = readFog(run);
  sum = checksum(sum, lamp.value);
  return sum;
}

/** Adds a lamp of view_range to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkViewRange(run, sum) {
  const lamp = readViewRange(run);
  sum = checksum(sum, lamp.value);
  return sum;
}

/** Adds a lamp of drumming to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkDrumming(run, sum) {
  const lamp = readDrumming(run);
  sum = checksum(sum, lamp.value);
  return sum;
}

/** Adds a lamp of stars to a checksum. @param {Run} run @param {number} n @param {number} index
 * @param {number} sum @returns {number} */
function checkStars(run, n, index, sum) {
  const lamp = readStars(run, index);
  if (n % 2 === 1) fillStars(run, index, [lamp]);
  sum = checksum(sum, lamp.level);
  sum = checksum(sum, lamp.tint[0]);
  sum = checksum(sum, lamp.tint[1]);
  sum = checksum(sum, lamp.tint[2]);
  return sum;
}

/** Adds all notices that wait to a checksum. @param {Run} run @param {number} sum @returns {number} */
function checkNotices(run, sum) {
  for (let notice = takeNotice(run); notice !== null; notice = takeNotice(run)) {
    sum = checksum(sum, notice.moment);
    sum = checksum(sum, notice.lamp);
    sum = checksum(sum, notice.position[0]);
    sum = checksum(sum, notice.position[1]);
    sum = checksum(sum, notice.position[2]);
    sum = checksum(sum, notice.loud);
    sum = checksum(sum, notice.within);
  }
  return sum;
}

/** Adds the values of the n-th reading, one lamp of each light, to the checksums. @param {Run} run
 * @param {number} n @param {number[]} sums */
function check(run, n, sums) {
  const turn = n % 4 < 2 ? 0 : Math.floor(n / 4);
  sums[0] = checkMast(run, n, turn % 8, sums[0]);
  sums[1] = checkFogLamp(run, n, turn % 3, sums[1]);
  sums[2] = checkQuayGlow(run, n, turn % 12, sums[2]);
  sums[3] = checkQuayCore(run, n, turn % 12, sums[3]);
  sums[4] = checkTicketHatch(run, sums[4]);
  sums[5] = checkPane(run, n, turn % 6, sums[5]);
  sums[6] = checkWeld(run, sums[6]);
  sums[7] = checkBenchLamp(run, sums[7]);
  sums[8] = checkHornLamp(run, sums[8]);
  sums[9] = checkBoardStrip(run, n, turn % 3, sums[9]);
  sums[10] = checkBuoyLamp(run, sums[10]);
  sums[11] = checkHarborLight(run, sums[11]);
  sums[12] = checkStandby(run, n, turn % 4, sums[12]);
  sums[13] = checkEdgeLamp(run, n, turn % 16, sums[13]);
  sums[14] = checkGangway(run, sums[14]);
  sums[15] = checkGateLamp(run, sums[15]);
  sums[16] = checkWarningLamp(run, sums[16]);
  sums[17] = checkStarShell(run, n, turn % 6, sums[17]);
  sums[18] = checkSunlight(run, sums[18]);
  sums[19] = checkMoonlight(run, sums[19]);
  sums[20] = checkDeck(run, sums[20]);
  sums[21] = checkSkyTint(run, sums[21]);
  sums[22] = checkHazeTint(run, sums[22]);
  sums[23] = checkFog(run, sums[23]);
  sums[24] = checkViewRange(run, sums[24]);
  sums[25] = checkDrumming(run, sums[25]);
  sums[26] = checkStars(run, n, turn % 400, sums[26]);
  sums[27] = checkNotices(run, sums[27]);
}

/** What the game does in the self-test; unit is a chance of 0 to 1. @param {Run} run @param {number} which
 * @param {number} unit */
function act(run, which, unit) {
  switch (which) {
    case 0: fireFerryDocks(run); break;
    case 1: setSwell(run, 0.6); break;
    case 2: setSwell(run, 0.9); break;
    case 3: fireRocket(run, 30.0, 40.0, -60.0, 1.0, 0.14412847, 0.07421357); break;
    case 4: setMist(run, 0.7); break;
    case 5: fireRocket(run, 52.0, 46.0, -70.0, 1.0, 0.14412847, 0.07421357); break;
    case 6: firePowerCut(run); break;
    case 7: firePowerBack(run); break;
    case 8: setSwell(run, 0.3); break;
    case 9: fireAllClear(run); break;
    case 10: fireFerryDocks(run); break;
    case 11: firePowerCut(run); break;
    case 12: firePowerBack(run); break;
    case 13: fireAllClear(run); break;
    case 14: fireRocket(run, 24.0 + 20.0 * unit, 39.5 + 3.0 * unit, -51.0 - 25.0 * unit, unit,
      1.0 - 0.8 * unit, 0.1 + 0.5 * unit); break;
    case 15: setWeather(run, 0); break;
    case 16: setWeather(run, 1); break;
    case 17: setMist(run, -0.03 + 1.06 * unit); break;
    case 18: setSwell(run, -0.03 + 1.06 * unit); break;
    case 19: setSeason(run, -9.95 + 386.9 * unit); break;
    case 20: setHaul(run, -0.06 + 2.12 * unit); break;
    case 21: setQuayCock(run, cellIndex(roundDown(unit * 12.0)), -0.03 + 1.06 * unit); break;
    case 22: setBoardLoudness(run, cellIndex(roundDown(unit * 3.0)), -0.06 + 2.12 * unit); break;
    case 23: setClock(run, -1.0 + 26.0 * unit); break;
    case 24: setClock(run, NaN); break;
    case 25: setClock(run, -2e9); break;
    case 26: setClock(run, 2e9); break;
    case 27: driveClock(run, 24.0 * unit); break;
    case 28: setClockDays(run, 366.0 * unit); break;
    case 29: setClockRate(run, -3.0 + 9.0 * unit); break;
    case 30: setClockRate(run, -200.0 + 800.0 * unit); break;
    case 31: setClockRate(run, 1.0); break;
    case 32: setMist(run, 0.0); break;
    case 33: setMist(run, 0.151); break;
    case 34: setMist(run, 0.261); break;
    case 35: setMist(run, 0.332); break;
    case 36: setMist(run, 0.398); break;
    case 37: setMist(run, 0.502); break;
    case 38: setMist(run, 0.612); break;
    case 39: setMist(run, 0.747); break;
    case 40: setMist(run, 0.896); break;
    case 41: setMist(run, 0.637); break;
    case 42: setMist(run, -1.0); break;
    case 43: setSwell(run, 0.149); break;
    case 44: setSwell(run, 0.259); break;
    case 45: setSwell(run, 0.331); break;
    case 46: setSwell(run, 0.361); break;
    case 47: setSwell(run, 0.498); break;
    case 48: setSwell(run, 0.608); break;
    case 49: setSwell(run, 0.703); break;
    case 50: setSwell(run, 0.803); break;
    case 51: setSwell(run, 0.337); break;
    case 52: setSwell(run, 2.5); break;
    case 53: setSeason(run, 1.104); break;
    case 54: setSeason(run, 1.305); break;
    case 55: setSeason(run, 1.843); break;
    case 56: setSeason(run, 2.291); break;
    case 57: setSeason(run, 3.012); break;
    case 58: setSeason(run, 3.715); break;
    case 59: setSeason(run, 7.968); break;
    case 60: setSeason(run, 11.952); break;
    case 61: setSeason(run, 16.064); break;
    case 62: setSeason(run, 18.072); break;
    case 63: setSeason(run, 24.096); break;
    case 64: setSeason(run, 59.76); break;
    case 65: setSeason(run, 550.0); break;
    case 66: setHaul(run, 0.1); break;
    case 67: setHaul(run, 0.201); break;
    case 68: setHaul(run, 0.329); break;
    case 69: setHaul(run, 0.359); break;
    case 70: setHaul(run, 0.452); break;
    case 71: setHaul(run, 0.602); break;
    case 72: setHaul(run, 0.697); break;
    case 73: setHaul(run, 0.797); break;
    case 74: setHaul(run, 1.004); break;
    case 75: setHaul(run, 1.205); break;
    case 76: setHaul(run, 1.594); break;
    case 77: setHaul(run, 1.992); break;
    case 78: setHaul(run, 0.6535); break;
    case 79: setQuayCock(run, 0, 0.0); break;
    case 80: setQuayCock(run, 0, 0.199); break;
    case 81: setQuayCock(run, 0, 0.299); break;
    case 82: setQuayCock(run, 0, 0.335); break;
    case 83: setQuayCock(run, 0, 0.402); break;
    case 84: setQuayCock(run, 0, 0.598); break;
    case 85: setQuayCock(run, 0, 0.664); break;
    case 86: setQuayCock(run, 0, 0.753); break;
    case 87: setQuayCock(run, 0, 0.904); break;
    case 88: setQuayCock(run, 0, 0.937); break;
    case 89: setQuayCock(run, 0, NaN); break;
    case 90: setBoardLoudness(run, 0, 0.151); break;
    case 91: setBoardLoudness(run, 0, 0.261); break;
    case 92: setBoardLoudness(run, 0, 0.331); break;
    case 93: setBoardLoudness(run, 0, 0.398); break;
    case 94: setBoardLoudness(run, 0, 0.498); break;
    case 95: setBoardLoudness(run, 0, 0.612); break;
    case 96: setBoardLoudness(run, 0, 0.703); break;
    case 97: setBoardLoudness(run, 0, 0.896); break;
    case 98: setBoardLoudness(run, 0, 1.096); break;
    case 99: setBoardLoudness(run, 0, 1.305); break;
    case 100: setBoardLoudness(run, 0, 1.606); break;
    case 101: setBoardLoudness(run, 0, 0.337); break;
    case 102: setBoardLoudness(run, 0, 4.0); break;
    case 103: setClock(run, 0.1); break;
    case 104: setClock(run, 0.201); break;
    case 105: setClock(run, 0.329); break;
    case 106: setClock(run, 0.359); break;
    case 107: setClock(run, 0.452); break;
    case 108: setClock(run, 0.602); break;
    case 109: setClock(run, 0.697); break;
    case 110: setClock(run, 0.797); break;
    case 111: setClock(run, 1.004); break;
    case 112: setClock(run, 1.205); break;
    case 113: setClock(run, 1.594); break;
    case 114: setClock(run, 1.992); break;
    case 115: setClock(run, 2.51); break;
    case 116: setClock(run, 3.112); break;
    case 117: setClock(run, 5.976); break;
    case 118: setClock(run, 8.964); break;
    case 119: setClock(run, 14.056); break;
    case 120: setClock(run, 17.068); break;
    default: setClock(run, 23.904); break;
  }
}

/** Plays the self-test: how many checksums differ from those of the preview. @param {Run} run
 * @returns {number} */
function differences(run) {
  const sums = new Array(28).fill(0);
  for (let round = 0; round < 2; ++round) {
    const seed = testSeeds[round];
    Object.assign(run, start(seed));
    for (let n = 0; n < 161; ++n) {
      advance(run, testMoments[n]);
      resave(run);
      check(run, n, sums);
    }
    for (let n_2 = 0; n_2 < 97; ++n_2) {
      setClockDays(run, 3.7 * n_2);
      setClock(run, 0.2473 * n_2);
      check(run, n_2, sums);
    }
    Object.assign(run, start(seed));
    let moment = 0.0;
    for (let n_3 = 0; n_3 < 666; ++n_3) {
      const step = ((Math.imul(666, round) >>> 0) + n_3) >>> 0;
      const drawn = scramble((step + 0x5e1f7e57) >>> 0) % 122;
      const which = n_3 < 122 ? n_3 : drawn;
      const unit = (scramble(step) >>> 8) / 16777216.0;
      act(run, which, unit);
      check(run, Math.imul(2, n_3) >>> 0, sums);
      resave(run);
      moment += testWaits[n_3 % 31];
      advance(run, moment);
      check(run, ((Math.imul(2, n_3) >>> 0) + 1) >>> 0, sums);
    }
  }
  let wrong = 0;
  for (let k = 0; k < 28; ++k) {
    if (sums[k] !== testSums[k]) wrong = (wrong + 1) >>> 0;
  }
  return wrong;
}

/**
 * Plays this file and compares checksums of everything that it gives with those of the preview: the number of lights that
 * differ, 0 if this engine gives bit-identical results.
 * @returns {number}
 */
export function selfTest() {
  return differences(start(0));
}
