
    /// Which `ABOUT` is free: the lowest that does not live, else NONE.
    fn FREE(&self) -> f64 {
        let mut oldest = 0;
        for n in 0..COUNT {
            if self.BORN[n] + self.LENGTH[n] <= self.now {
                return n as f64;
            }
            oldest = if self.BORN[n] < self.BORN[oldest] { n } else { oldest };
        }
        NONE as f64
    }
