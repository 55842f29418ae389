/// Plays the self-test: how many checksums differ from those of the preview.
fn differences(run: &mut Run) -> u32 {
    let mut sums = zeros(SUM_COUNT);
    for round in 0..ROUNDS {
        let seed = SEEDS[round];
        restart(run, seed);
        for n in 0..MOMENT_COUNT {
            advance(run, MOMENTS[n]);
            if SAVES {
                resave(run);
            }
            if READS {
                if INDEXED {
                    check(run, n, sums);
                } else {
                    check(run, sums);
                }
            }
        }
        if CLOCK {
            for n in 0..HOUR_COUNT {
                set_clock_days(run, 3.7 * f64::from(n));
                set_clock(run, 0.2473 * f64::from(n));
                if READS {
                    if INDEXED {
                        check(run, n, sums);
                    } else {
                        check(run, sums);
                    }
                }
            }
        }
        if ACTS {
            restart(run, seed);
            let mut moment = 0.0;
            for n in 0..STEP_COUNT {
                let step = (STEP_COUNT.wrapping_mul(round)).wrapping_add(n);
                let drawn = scramble(step.wrapping_add(ACT_SALT)) % ACT_COUNT;
                let which = if n < ACT_COUNT { n } else { drawn };
                if CHANCE {
                    let unit = f64::from(scramble(step) >> 8) / 16777216.0;
                    act(run, which, unit);
                } else {
                    act(run, which);
                }
                if READS {
                    if INDEXED {
                        check(run, TWO.wrapping_mul(n), sums);
                    } else {
                        check(run, sums);
                    }
                }
                if SAVES {
                    resave(run);
                }
                moment += WAITS[n % WAIT_COUNT];
                advance(run, moment);
                if READS {
                    if INDEXED {
                        check(run, (TWO.wrapping_mul(n)).wrapping_add(1), sums);
                    } else {
                        check(run, sums);
                    }
                }
            }
        }
    }
    let mut wrong: u32 = 0;
    for k in 0..SUM_COUNT {
        if sums[k] != WANTED[k] {
            wrong = wrong.wrapping_add(1);
        }
    }
    wrong
}
