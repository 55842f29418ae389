
    /// Lets a notice wait until the host takes it, if there is room.
    fn send(&mut self, line: u32, text: f64, lamp: u32VALUE_PARAMETERS) {
        if self.COUNT >= 32.0 {
            self.DROPPED += 1.0;
            return;
        }
        let end = self.FIRST + self.COUNT;
        let at = (if end >= 32.0 { end - 32.0 } else { end }) as u32;
        self.COUNT += 1.0;
        self.MOMENTS[at as usize] = self.now;
        self.PACKED[at as usize] = (f64::from(line) * 64.0 + text) * 1048576.0 + f64::from(lamp);
        let place = self.notice_place(line, lamp).map(f64::from); //: placed
        KEEP place[PART] //: placed
        KEEP_VALUE
    }
 //: placed
    /// Where the lamp is that the notice of a line comes from. //: placed
    fn notice_place(&self, line: u32, lamp: u32) -> [f32; 3] { //: placed
        let _ = lamp; //: placed
        match line { //: placed
PLACES
            _ => [0.0; 3], //: placed
        } //: placed
    } //: placed
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
        let moment = self.MOMENTS[at];
        let mut position = [0.0; 3]; //: placed
        position[PART] = KEPT as f32; //: placed
        let position = [0.0; 3]; //: nowhere
        self.COUNT -= 1.0;
        self.FIRST = if self.FIRST >= 31.0 { 0.0 } else { self.FIRST + 1.0 };
        let empty = Notice {
            moment,
            name: "",
            text: "",
            from: "",
            lamp,
            position,
            VALUE_TAKEN
        };
        let notice = match which / 64 {
LINES            _ => empty,
        };
        let _ = text;
        Some(notice)
    }

    /// How many notices there was no room for since the start.
    pub fn dropped_notices(&self) -> u32 {
        self.DROPPED as u32
    }
