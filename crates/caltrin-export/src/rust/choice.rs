
    /// How much an option counts now, 0 to 1.
    fn WEIGHT(&self, option: u32) -> f64 {
        let to = if option == self.FIELD { 1.0 } else { 0.0 };
        faded(self.FIELD_FROM[option as usize], to, self.FIELD_SINCE, OVER, self.now)
    }

    pub fn SET(&mut self, option: u32) {
        if option >= COUNT || option == self.FIELD {
            return;
        }
        for n in 0..COUNT {
            self.FIELD_FROM[n as usize] = self.WEIGHT(n);
        }
        self.FIELD_SINCE = self.now;
        self.FIELD = option;
SETTLE    }
//: plain

    pub fn SET(&mut self, option: u32) {
        if option < COUNT {
            self.FIELD = option;
        }
SETTLE    }
