
/// Adds a value to a checksum.
fn checksum(sum: u32, value: f64) -> u32 {
    let bits = value.to_bits();
    scramble(sum ^ (bits >> 32) as u32 ^ bits as u32)
}

/// Adds the values of the n-th reading, one lamp of each light, to the checksums.
fn check(run: &mut Run, n: u32, sums: &mut [u32]) {
    let turn = if n % 4 < 2 { 0 } else { n / 4 }; //: indexed
READS
    while let Some(notice) = run.take_notice() { //: notices
        sums[NOTICE_SUM] = checksum(sums[NOTICE_SUM], notice.moment); //: notices
        sums[NOTICE_SUM] = checksum(sums[NOTICE_SUM], f64::from(notice.lamp)); //: notices
        for part in notice.position { //: notices
            sums[NOTICE_SUM] = checksum(sums[NOTICE_SUM], f64::from(part)); //: notices
        } //: notices
        sums[NOTICE_SUM] = checksum(sums[NOTICE_SUM], NOTICE_VALUE); //: notices
    } //: notices
    let _ = n; //: single
    let _ = (run, sums); //: empty
}

/// What the game does in the self-test; unit is a chance of 0 to 1. //: acts
fn act(run: &mut Run, act: u32, unit: f64) { //: acts
    let _ = unit; //: acts
    match act { //: acts
CASES        _ => {} //: acts
    } //: acts
} //: acts

/// Plays this file and compares checksums of everything that it gives with those of the preview: the number of lights
/// that differ, 0 if this compiler gives bit-identical results.
#[allow(dead_code)]
pub fn self_test() -> u32 {
    let moments = [MOMENTS];
    let waits = [WAITS]; //: acts
    let wanted: [u32; SUM_COUNT] = [SUMS];
    let mut sums = [0u32; SUM_COUNT];
    for (round, seed) in (0u32..).zip([SEEDS]) {
        let mut run = Run::start(seed);
        for (n, moment) in (0..).zip(moments) {
            run.advance(moment);
            check(&mut run, n, &mut sums);
        }
        for n in 0..HOUR_COUNT { //: clock
            run.set_clock_days(3.7 * f64::from(n)); //: clock
            run.set_clock(0.2473 * f64::from(n)); //: clock
            check(&mut run, n, &mut sums); //: clock
        } //: clock
        let mut run = Run::start(seed); //: acts
        let mut moment = 0.0; //: acts
        for (n, wait) in (0..STEP_COUNT).zip(waits.iter().cycle()) { //: acts
            let step = round * STEP_COUNT + n; //: acts
            let which = if n < ACT_COUNT { n } else { scramble(step.wrapping_add(ACT_SALT)) % ACT_COUNT }; //: acts
            act(&mut run, which, f64::from(scramble(step) >> 8) / 16_777_216.0); //: acts
            check(&mut run, 2 * n, &mut sums); //: acts
            moment += wait; //: acts
            run.advance(moment); //: acts
            check(&mut run, 2 * n + 1, &mut sums); //: acts
        } //: acts
        let _ = round; //: quiet
    }
    sums.iter().zip(wanted).map(|(found, wanted)| u32::from(*found != wanted)).sum()
}
