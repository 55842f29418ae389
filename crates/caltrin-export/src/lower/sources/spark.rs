/// Index of a spark of `ABOUT` that is free: the lowest that does not live, else NONE.
fn free(run: &Run) -> f64 {
    let mut oldest: usize = 0;
    for n in 0..COUNT {
        if run.born[n] + run.length[n] <= run.now {
            return n as f64;
        }
        if OLDEST {
            if run.born[n] < run.born[oldest] {
                oldest = n;
            }
        }
    }
    if OLDEST {
        return oldest as f64;
    }
    COUNT as f64
}
