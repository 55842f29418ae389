
    /// Hours from the midnight of the day at which the clock was last touched.
    fn clock_hours(&self) -> f64 {
        self.clock_hour + (self.now - self.clock_since) * (self.clock_rate * PACE)
    }

    /// What the game's clock shows: the hour of the day, 0 to 24 (24 excluded).
    pub fn clock_hour(&self) -> f64 {
        hour_of(self.clock_hours())
    }

    /// How many days have begun on it since the run's first, which is 0; below 0 before it.
    pub fn clock_days(&self) -> f64 {
        clamp(self.clock_days + days_of(self.clock_hours()), -1e9, 1e9)
    }

    /// Sets it to an hour of the current day, from which it goes on as fast as before.
    pub fn set_clock(&mut self, hour: f64) {
        self.clock_days = self.clock_days();
        self.clock_hour = hour_of(clean_input(hour, -1e9, 1e9, START));
        self.clock_from = self.clock_hour;
        self.clock_since = self.now;
        self.due = self.now;
        self.BY_HOUR();
    }

    /// Moves it to an hour, the short way round, and holds it there: for a game that has a clock of its own.
    pub fn drive_clock(&mut self, hour: f64) {
        let to = hour_of(clean_input(hour, -1e9, 1e9, START));
        let way = to - self.clock_hour();
        let midnight = if way > 12.0 {
            -1.0
        } else if way < -12.0 {
            1.0
        } else {
            0.0
        };
        self.clock_days = clamp(self.clock_days() + midnight, -1e9, 1e9);
        self.clock_from = self.clock_hour();
        self.clock_hour = to;
        self.clock_since = self.now;
        self.due = self.now;
        self.clock_rate = 0.0;
        self.settle();
    }

    /// Sets how many days it has counted; whole ones.
    pub fn set_clock_days(&mut self, days: f64) {
        self.clock_hour = self.clock_hour();
        self.clock_from = self.clock_hour;
        self.clock_days = round_down(clean_input(days, -1e9, 1e9, 0.0));
        self.clock_since = self.now;
        self.due = self.now;
    }

    /// Sets how fast it goes: 1 as the book has it, 0 stands still, below 0 backwards; -1e6 to 1e6.
    pub fn set_clock_rate(&mut self, rate: f64) {
        let hour = self.clock_hour();
        self.clock_days = self.clock_days();
        self.clock_hour = hour;
        self.clock_from = hour;
        self.clock_since = self.now;
        self.due = self.now;
        self.clock_rate = clean_input(rate, -1e6, 1e6, RATE);
    }
//: strikes

    /// The first moment after another at which it comes to show an hour, as far as is known now; 2e9 for none.
    fn clock_strikes(&self, hour: f64, after: f64) -> f64 {
        let speed = self.clock_rate * PACE;
        if speed == 0.0 {
            let far = self.clock_hour - self.clock_from;
            let way = if far > 12.0 {
                far - 24.0
            } else if far < -12.0 {
                far + 24.0
            } else {
                far
            };
            let left = if way < 0.0 { self.clock_from - hour } else { hour - self.clock_from };
            let left = hour_of(left);
            let passed = left > 0.0 && left <= (if way < 0.0 { -way } else { way });
            return if passed && self.clock_since > after { self.clock_since } else { 2e9 };
        }
        let (shown, since) = (self.clock_hour, self.clock_since);
        let next = hour_of(if speed > 0.0 { hour - shown } else { shown - hour });
        let ahead = if next < 1e-9 { 24.0 } else { next };
        let pace = if speed > 0.0 { speed } else { -speed };
        let last = if after > since { after } else { since };
        let turns = round_down(((last - since) * pace - ahead) / 24.0);
        let whole = if turns > 0.0 { turns } else { 0.0 };
        let at = since + (ahead + 24.0 * whole) / pace;
        if at > last { at } else { since + (ahead + 24.0 * (whole + 1.0)) / pace }
    }
