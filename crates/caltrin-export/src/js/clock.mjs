/** Hours from the midnight of the day at which the clock was last touched. @param {Run} run @returns {number} */
function clockHours(run) {
  return run.clockHour + (run.now - run.clockSince) * (run.clockRate * PACE);
}

/** What the game's clock shows: the hour of the day, 0 to 24 (24 excluded). @param {Run} run @returns {number} */
export function clockHour(run) {
  return hourOf(clockHours(run));
}

/** How many days have begun on it since the run's first, which is 0; below 0 before it. @param {Run} run @returns {number} */
export function clockDays(run) {
  return clamp(run.clockDays + daysOf(clockHours(run)), -1e9, 1e9);
}

/** Sets it to an hour of the current day, from which it goes on as fast as before. @param {Run} run @param {number} hour */
export function setClock(run, hour) {
  run.clockDays = clockDays(run);
  run.clockHour = hourOf(cleanInput(hour, -1e9, 1e9, START));
  run.clockFrom = run.clockHour;
  run.clockSince = run.now;
  run.due = run.now;
  BY_HOUR(run);
}

/** Moves it to an hour, the short way round, and holds it there: for a game that has a clock of its own. @param {Run} run @param {number} hour */
export function driveClock(run, hour) {
  const to = hourOf(cleanInput(hour, -1e9, 1e9, START));
  const way = to - clockHour(run);
  const midnight = way > 12.0 ? -1.0 : way < -12.0 ? 1.0 : 0.0;
  run.clockDays = clamp(clockDays(run) + midnight, -1e9, 1e9);
  run.clockFrom = clockHour(run);
  run.clockHour = to;
  run.clockSince = run.now;
  run.due = run.now;
  run.clockRate = 0.0;
  settle(run);
}

/** Sets how many days it has counted; whole ones. @param {Run} run @param {number} days */
export function setClockDays(run, days) {
  run.clockHour = clockHour(run);
  run.clockFrom = run.clockHour;
  run.clockDays = roundDown(cleanInput(days, -1e9, 1e9, 0.0));
  run.clockSince = run.now;
  run.due = run.now;
}

/** Sets how fast it goes: 1 as the book has it, 0 stands still, below 0 backwards; -1e6 to 1e6. @param {Run} run @param {number} rate */
export function setClockRate(run, rate) {
  const hour = clockHour(run);
  run.clockDays = clockDays(run);
  run.clockHour = hour;
  run.clockFrom = hour;
  run.clockSince = run.now;
  run.due = run.now;
  run.clockRate = cleanInput(rate, -1e6, 1e6, RATE);
}

//: strikes
/**
 * The first moment after another at which it comes to show an hour, as far as is known now; 2e9 for none.
 * @param {Run} run @param {number} hour @param {number} after @returns {number}
 */
function clockStrikes(run, hour, after) {
  const speed = run.clockRate * PACE;
  if (speed === 0.0) {
    const far = run.clockHour - run.clockFrom;
    const way = far > 12.0 ? far - 24.0 : far < -12.0 ? far + 24.0 : far;
    const left = hourOf(way < 0.0 ? run.clockFrom - hour : hour - run.clockFrom);
    const passed = left > 0.0 && left <= (way < 0.0 ? -way : way);
    return passed && run.clockSince > after ? run.clockSince : 2e9;
  }
  const shown = run.clockHour, since = run.clockSince;
  const next = hourOf(speed > 0.0 ? hour - shown : shown - hour);
  const ahead = next < 1e-9 ? 24.0 : next;
  const pace = speed > 0.0 ? speed : -speed;
  const last = after > since ? after : since;
  const turns = roundDown(((last - since) * pace - ahead) / 24.0);
  const whole = turns > 0.0 ? turns : 0.0;
  const at = since + (ahead + 24.0 * whole) / pace;
  return at > last ? at : since + (ahead + 24.0 * (whole + 1.0)) / pace;
}

