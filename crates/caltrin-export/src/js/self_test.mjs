
/** Adds a value to a checksum. @param {number} sum @param {number} value @param {DataView} bits @returns {number} */
function checksum(sum, value, bits) {
  bits.setFloat64(0, value);
  return scramble(sum ^ bits.getInt32(0) ^ bits.getInt32(4));
}

/** Adds the values of the n-th reading, one lamp of each light, to the checksums. @param {Run} run @param {number} n @param {number[]} sums */ //: indexed
function check(run, n, sums) { //: indexed
  const turn = n % 4 < 2 ? 0 : Math.floor(n / 4); //: indexed
/** Adds the values of a reading to the checksums. @param {Run} run @param {number} _ @param {number[]} sums */ //: single
function check(run, _, sums) { //: single
  const bits = new DataView(new ArrayBuffer(8));
READS
  for (let notice = takeNotice(run); notice !== null; notice = takeNotice(run)) { //: notices
    for (const value of [notice.moment, notice.lamp, ...notice.position]) { //: notices
      sums[NOTICE_SUM] = checksum(sums[NOTICE_SUM], value, bits); //: notices
    } //: notices
    sums[NOTICE_SUM] = checksum(sums[NOTICE_SUM], NOTICE_VALUE, bits); //: notices
  } //: notices
}

/** What the game does in the self-test; unit is a chance of 0 to 1. @param {Run} run @param {number} n @param {number} unit */ //: chance
function act(run, n, unit) { //: chance
/** What the game does in the self-test. @param {Run} run @param {number} n @param {number} _ */ //: sure
function act(run, n, _) { //: sure
  switch (n) { //: acts
CASES  } //: acts
} //: acts

/**
 * Plays this file and compares checksums of everything that it gives with those of the preview: the number of lights that
 * differ, 0 if this engine gives bit-identical results.
 * @returns {number}
 */
export function selfTest() {
  const moments = [MOMENTS];
  const waits = [WAITS]; //: acts
  const wanted = [SUMS];
  const sums = wanted.map(() => 0);
  [SEEDS].forEach((seed, round) => {
    const quiet = start(seed);
    moments.forEach((moment, n) => {
      advance(quiet, moment);
      check(quiet, n, sums);
    });
    for (let n = 0; n < HOUR_COUNT; ++n) { //: clock
      setClockDays(quiet, 3.7 * n); //: clock
      setClock(quiet, 0.2473 * n); //: clock
      check(quiet, n, sums); //: clock
    } //: clock
    let moment = 0.0; //: acts
    const run = start(seed); //: acts
    for (let n = 0; n < STEP_COUNT; ++n) { //: acts
      const step = round * STEP_COUNT + n; //: acts
      act(run, n < ACT_COUNT ? n : scramble(step + ACT_SALT) % ACT_COUNT, (scramble(step) >>> 8) / 16777216.0); //: acts
      check(run, 2 * n, sums); //: acts
      moment += waits[n % WAIT_COUNT]; //: acts
      advance(run, moment); //: acts
      check(run, 2 * n + 1, sums); //: acts
    } //: acts
  });
  return wanted.filter((sum, n) => sum !== sums[n]).length;
}
