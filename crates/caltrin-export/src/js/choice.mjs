/** How much an option counts now, 0 to 1. @param {Run} run @param {number} option @returns {number} */
function WEIGHT(run, option) {
  const to = option === run.FIELD ? 1.0 : 0.0;
  return faded(run.FIELD_FROM[option], to, run.FIELD_SINCE, OVER, run.now);
}

/** @param {Run} run @param {number} option */
export function SET(run, option) {
  if (!(option in run.FIELD_FROM) || option === run.FIELD) return;
  run.FIELD_FROM = run.FIELD_FROM.map((_, n) => WEIGHT(run, n));
  run.FIELD_SINCE = run.now;
  run.FIELD = option;
SETTLE}

//: plain
/** @param {Run} run @param {number} option */
export function SET(run, option) {
  if (Number.isInteger(option) && option >= 0 && option < COUNT) run.FIELD = option;
SETTLE}

