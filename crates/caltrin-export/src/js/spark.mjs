// Which `ABOUT` is free: the lowest that does not live, else NONE.
/** @param {Run} run @returns {number} */
function FREE(run) {
  let oldest = 0;
  for (let n = 0; n < COUNT; ++n) {
    if (!(run.BORN[n] + run.LENGTH[n] > run.now)) return n;
    if (run.BORN[n] < run.BORN[oldest]) oldest = n;
  }
  return NONE;
}

