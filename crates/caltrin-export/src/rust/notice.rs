
    /// Lets a notice wait until the host takes it, if there is room.
    fn send(&mut self, line: u32, text: f64, lamp: u32) {
        if self.COUNT >= 32.0 {
            self.DROPPED += 1.0;
            return;
        }
        let end = self.FIRST + self.COUNT;
        let at = (if end >= 32.0 { end - 32.0 } else { end }) as usize;
        self.COUNT += 1.0;
        self.MOMENTS[at] = self.now;
        self.PACKED[at] = (f64::from(line) * 64.0 + text) * 1048576.0 + f64::from(lamp);
    }
//: take

    /// Takes the oldest notice that waits. 32 may wait.
    pub fn take_notice(&mut self) -> Option<Notice> {
        if self.COUNT <= 0.0 {
            return None;
        }
        let at = self.FIRST as usize;
        let which = (self.PACKED[at] / 1048576.0) as u32;
        let text = (which % 64) as usize;
        let lamp = (self.PACKED[at] - f64::from(which) * 1048576.0) as u32;
        let (moment, now) = (self.MOMENTS[at], self.now);
        self.COUNT -= 1.0;
        self.FIRST = if self.FIRST >= 31.0 { 0.0 } else { self.FIRST + 1.0 };
        let empty = Notice { moment, name: "", text: "", from: "", lamp, position: [0.0; 3] };
        self.now = moment;
        let notice = match which / 64 {
LINES            _ => empty,
        };
        self.now = now;
        let _ = text;
        Some(notice)
    }

    /// How many notices there was no room for since the start.
    pub fn dropped_notices(&self) -> u32 {
        self.DROPPED as u32
    }
