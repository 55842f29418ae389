//! Random lightbooks in which every kind fits, from every declaration and function of the language. They use the
//! sounds of the tests (see `heard`) and the stock.
#![allow(dead_code, reason = "each test uses some of it")]

/// Writes a book from given choices, then from a random seed.
pub struct Author {
    state: u64,
    /// Given choices, in reverse order.
    given: Vec<u8>,
    /// How many signals are there to use.
    signals: u32,
    /// Whether an index can be asked for.
    indexed: bool,
}

const CURVES: &str = "
curve plain { 0s 0.1; 700ms 0.9 smooth; 1.9s -0.3 ease-in; 3.3s 0.6 cubic-bezier(0.2, -0.5, 0.7, 1.6) }
curve steps { 0.2s 1; +0.8s 0.25 jump; 2.1s 0.75 steps(3); 2.4s dip smooth; length 3.7s steps(2, jump-none) }
curve dip { 0s 0.75; 120ms 0.3 steps(4, jump-both); 300ms 0.75 smooth }
curve tints { 0s #103040; 900ms #ffcc80 ease-out; 2.7s 2100K smooth; 4.1s #8060ff }
curve places { columns spot, shown, level; 0s (0m, 1m, 2m), on, 0.2; 1.3s (2m, -1m, 0m), off, 0.9 ease; 2.9s (1m, 1m, 1m), on, 0.4 }
curve ramp { -50% 0.2; 20% 0.9 smooth; 130% 0.4 ease-in-out }
curve shades { blend linear; 0% #402010; 40% #ffffff; 100% #2040a0 smooth }
clock { day 23min; start 21:15; rate 3 }
choice region { coast, hills, moor } over 4s
choice mode { dim, bright }
curve late { 18:00 0.2 smooth; 22:00 1.2; 02:00 -0.4 ease-in; 05:30:15 0.7 jump }
curve day { columns sky, gate, spot; 06:50 #0d1420, off, (0m, 1m, 0m); 12:00 #b9c8cf, on, (3m, 1m, 0m) smooth; 23:10 #b08a45, off, (1m, 0m, -2m) }
hours shift from 22:00 to 06:00 over 00:40 before
hours noonish from 11:00 to 13:30 over 01:00 after ease-in
phases mood_of { night from 21:30 over 01:00 before tint #0d1420; dawn from 05:30 over 00:40 tint #8fa396; day_ from 10:00 over 02:00 after tint #ffffff; dusk from 17:00 tint #b08a45 }
";

const EVENTS: &str = "
event hit, miss, turn
event gone after 700ms from hit
event echo after 1.3s from gone
switch power { starts on; off at hit over 400ms; on at miss, echo over 1.1s smooth; flip at turn over 90ms ease-in }
switch plain_switch { flip at turn, gone; on at miss, sea.wild }
event flash(size = 1 in 0..2, tone = #80ff40, spot = (0m, 1m, 1m), sharp = off)
event high when knob above 60% rearm below 20%
event lasting when knob above 30% and power is on for 300ms
modes sea {
  calm, rough, wild
  calm -> rough when knob above 50% for 200ms over 900ms smooth
  rough -> wild when knob above 90% over 0.3s
  rough -> calm when knob below 10%
  wild -> calm after 1.7s over 400ms
  any -> calm at hit over 1.1s
}
";

const SCENES: &str = "
sequence scene at turn again restart {
  0.1s..0.4s many.color #ff8040 smooth
  0.7s { single.intensity base * 40%; many[2].intensity 1.5 * flash.size; row.two.intensity 0.3 ease-in }
  1.1s mark midway
  +600ms single.position (1m, 0m, 3m) ease-in
  1.75s..1.9s many.color #2040ff steps(5, jump-start)
  2.3s return over 700ms smooth
  stops at miss over 210ms
}
sequence other at high, flash { 0s single.intensity 7cd jump; 0.9s single.intensity base smooth; 1s { single.shadows off; many.color base }; 2s return single; 3s keep }
group all { lights many, single, inner; dim with power to 20%; tint with clamp(sea.rough, to 0..1) to #402010 }
group inner { lights row, lone.one, many[3]; dim with knob }
output marked = pulse(at midway, lasts 300ms)
";

const SUNS: &str = "
sun { latitude -31deg + 40deg * knob; longitude 20deg; date 100 + 60 * knob; zone 1 }
sun helios { rises 06:30; sets 20:10; highest 61deg; lowest -40deg; twilight 00:25 }
moon { age 3 + days }
moon second of helios { age 20 * knob }
hours lit from sun.set to helios.rise over 00:30
";

const SOUNDS: &str = "
sound knock = \"struck.wav\" { starts at hit; stops at miss }
sound hum = \"struck.wav\" { loops; speed speed }
sound chimes = \"peal.mid\"
sound crowd = live
event knocked at knock.onset above 20%
event struck at chimes.note above 65
light booth[2] point { intensity 5cd * follow(crowd) + 3cd * follow(crowd, band high, gate 20%) }
event loud when follow(knock, attack 20ms, release 150ms) above 50% rearm below 25%
";

const PLACE: &str = "
light sunlight directional { aim sun.aim; intensity 1lx * sun.strength; color sun.color }
light haze ambient { color #203040; intensity 0.5lx * (1 - knob * 20%) }
light torrent area { intensity 9cd * stretch(held(0..1, every 90ms..1s, over 100%), by 150%); shadows open }
wall shed { along (-3m, 0m, 4m)..(6m, 0m, 4m); height 3m }
post pile[3] { position (1m, 0m, 1m), (2m, 0m, 0m); radius 20cm; height 2m }
output air { range 20m + 30m * knob; tone #203040 }
eye door { at (0m, 1.7m, 8m); toward (1m, 2m, 0m); field 70deg; fog air.range, air.tone; sky air.tone }
backdrop \"deck.png\" { from (-3m, 0m, -2m); to (3m, 0m, 2m) }
";

const NOTICES: &str = "
notices 40
at miss, struck send struck_twice(\"low\" or \"high\", heard_at drawn(40%..80%) * knob, toned mix(#102030, flash.tone, by sea.rough), forced power is on) from lone.two[1]
at turn, flash send turned(where flash.spot, toned drawn(#402010, #ffffff), delay 2s * sea.wild, heard_at held(0..1, every 90ms..300ms)) from many[2]
at loud send loud
";

impl Author {
    pub fn new(seed: u64) -> Self {
        let state = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
        Author { state, given: Vec::new(), signals: 0, indexed: false }
    }

    /// Uses the bytes as choices, then random ones.
    pub fn of(bytes: &[u8]) -> Self {
        let seed = bytes
            .iter()
            .fold(7u64, |sum, byte| sum.wrapping_mul(31).wrapping_add(u64::from(*byte)));
        Author { given: bytes.iter().rev().copied().collect(), ..Author::new(seed) }
    }

    fn any(&mut self, n: u64) -> u64 {
        if let Some(byte) = self.given.pop() {
            return u64::from(byte) % n;
        }
        self.state ^= self.state << 13;
        self.state ^= self.state >> 7;
        self.state ^= self.state << 17;
        (self.state >> 16) % n
    }

    fn pick(&mut self, words: &[&str]) -> String {
        words[self.any(words.len() as u64) as usize].to_owned()
    }

    fn time(&mut self) -> String {
        self.pick(&["70ms", "210ms", "0.9s", "1.7s", "3.1s", "11s"])
    }

    fn start(&mut self) -> String {
        self.pick(&["", ", scatter", ", together"])
    }

    fn flag(&mut self, depth: u32) -> String {
        let d = depth.saturating_sub(1);
        match self.any(if depth == 0 { 2 } else { 10 }) {
            9 => self.pick(&[
                "(power is on)",
                "(plain_switch is off)",
                "(sea is wild)",
                "flash.sharp",
            ]),
            7 => self.pick(&[
                "(hour is in 20:30..04:00)",
                "day.gate",
                "sun.up",
                "(mood_of is dawn)",
                "(region is moor)",
            ]),
            8 => format!("pick(mode, dim {}, bright {})", self.flag(d), self.flag(d)),
            0 => self.pick(&["on", "off", "open"]),
            1 => format!("loop(places.shown{})", self.start()),
            2 => format!("{} above {}", self.sum(d), self.sum(d)),
            3 => format!("({} is in -20%..60%)", self.sum(d)),
            4 => format!("(not {})", self.flag(d)),
            5 => format!("({} and {})", self.flag(d), self.flag(d)),
            _ => format!("({} or {})", self.flag(d), self.flag(d)),
        }
    }

    /// A number in brackets, so that it can stand anywhere.
    fn sum(&mut self, depth: u32) -> String {
        format!("({})", self.number(depth))
    }

    pub fn number(&mut self, depth: u32) -> String {
        if depth == 0 {
            return match self.any(5) {
                4 => "knob".to_owned(),
                0 if self.signals > 0 => format!("s{}", self.any(u64::from(self.signals))),
                _ => self.pick(&["0.25", "80%", "1", "-0.5", "0", "1.5"]),
            };
        }
        let d = depth - 1;
        match self.any(43) {
            39 => {
                let sound = self.pick(&["knock", "hum", "chimes", "crowd"]);
                let band = self.pick(&["", ", band low", ", band high"]);
                let release = self.time();
                format!("follow({sound}{band}, attack 20ms, release {release})")
            }
            40 => {
                let value = self.pick(&[
                    "knob",
                    "held_knob",
                    "flash.size",
                    "pick(mode, dim 0.2, bright knob)",
                ]);
                format!("follow({value}, attack {}, release {})", self.time(), self.time())
            }
            41 => {
                format!("pace({}, by {})", self.number(d), self.pick(&["knob * 3", "speed", "-2"]))
            }
            42 => format!(
                "near({}, full 1m, none {}{}, from {})",
                self.pick(&["guest", "flash.spot", "(1m, 0m, 0m)"]),
                self.pick(&["4m", "9m"]),
                self.pick(&["", ", smooth"]),
                self.pick(&["guest", "(0m, 0m, 0m)"])
            ),
            30 => self.pick(&["late", "shift", "shift.through", "noonish", "lit", "mood_of.dusk"]),
            31 => self.pick(&["sun.daylight", "helios.strength", "moon.lit", "second.strength"]),
            32 if self.any(2) == 0 => {
                format!("pick(sea, wild {}, others {})", self.sum(d), self.sum(d))
            }
            32 => format!("pick(mood_of, dawn {}, others {})", self.sum(d), self.sum(d)),
            33 => format!("pick(region, hills {}, coast {}, moor 0)", self.sum(d), self.sum(d)),
            36 => self.pick(&["power", "plain_switch", "sea.rough", "flash.size"]),
            37 => {
                format!(
                    "pulse(at {}, lasts {})",
                    self.pick(&["hit", "gone", "echo", "high", "lasting", "sea.calm", "flash"]),
                    self.time()
                )
            }
            38 => format!(
                "play(plain, at {}, before ({}))",
                self.pick(&["turn", "gone"]),
                self.number(d)
            ),
            35 => match self.any(5) {
                0 => format!("root(max({}, 0))", self.number(d)),
                1 => format!("abs({})", self.number(d)),
                4 => format!("power(max({}, 0), {})", self.number(d), self.pick(&["2.2", "0.5"])),
                2 => format!("floor(clamp(3 * {}, to -9..9))", self.sum(d)),
                _ => format!("round(clamp(3 * {}, to -9..9))", self.sum(d)),
            },
            34 => "map(sun.height, from -20deg..60deg, to 0..1) + region.coast".to_owned(),
            0 => format!("{} + {}", self.sum(d), self.sum(d)),
            1 => format!("{} - {}", self.sum(d), self.sum(d)),
            2 => format!("{} * {}", self.sum(d), self.sum(d)),
            3 => format!("{} / {}", self.sum(d), self.pick(&["2", "-1.5", "0.25"])),
            4 => format!("-{}", self.sum(d)),
            5 => format!("min({}, {})", self.number(d), self.number(d)),
            6 => format!("max({}, {}, {})", self.number(d), self.number(d), self.number(d)),
            7 => format!("clamp({}, to -20%..90%)", self.number(d)),
            8 => format!("mix({}, {}, by {})", self.number(d), self.number(d), self.number(d)),
            9 => format!("if {} then {} else {}", self.flag(d), self.sum(d), self.sum(d)),
            10 => format!("held(10%..1.2, every 50ms..{})", self.time()),
            11 => format!(
                "held(-1..1, every 70ms..{}, over {})",
                self.time(),
                self.pick(&["30%", "1"])
            ),
            12 => format!(
                "drift(0..1, rate {}Hz, octaves {})",
                self.pick(&["0.3", "2", "17"]),
                self.pick(&["1", "2", "4"])
            ),
            13 => "bursts(on 80ms..600ms, off 200ms..3s)".to_owned(),
            14 => {
                self.pick(&["drawn(20%..1.1)", "drawn(1, 2, 0.5)", "drawn(1, 0, every 90ms..2s)"])
            }
            15 => {
                let wave = self.pick(&["sine", "triangle", "saw"]);
                format!("{wave}(-0.5..1, every {}{})", self.time(), self.start())
            }
            16 => format!("square(every {}, on 30%, phase 60%{})", self.time(), self.start()),
            17 => format!("rhythm(on 90ms, off 300ms, on 1s, off 70ms{})", self.start()),
            18 => format!("blink(0.2..0.8, on 300ms, off 700ms, phase 20%{})", self.start()),
            19 => {
                let curve = self.pick(&["plain", "steps", "places.level"]);
                let play = self.pick(&["loop", "alternate"]);
                format!("{play}({curve}{})", self.start())
            }
            20 => self.pick(&["once(plain)", "once(places.level)", "loop(plain, part 0.4s..2.2s)"]),
            21 if self.indexed => format!("later({}, each {})", self.number(d), self.time()),
            21 | 22 => format!("later({}, by {})", self.number(d), self.time()),
            23 => format!("stretch({}, by {})", self.number(d), self.pick(&["2", "40%", "-1"])),
            24 => format!("stepped({}, every {})", self.number(d), self.time()),
            25 => format!(
                "map({}, from -0.5..1.5, to {}..{}, {})",
                self.number(d),
                self.sum(d),
                self.sum(d),
                self.pick(&[
                    "smooth",
                    "ease-in",
                    "linear",
                    "jump",
                    "cubic-bezier(0.2, -0.4, 0.8, 1.3)"
                ])
            ),
            26 => format!("threshold({}, at 30%, over 25%)", self.number(d)),
            27 => format!("ramp({})", self.number(d)),
            28 => format!("mood({})", self.sum(d)),
            _ => format!("calm(part {}, length {})", self.sum(d), self.pick(&["200ms", "1.4s"])),
        }
    }

    /// A number from 0 to 1.
    fn ratio(&mut self, depth: u32) -> String {
        format!("clamp({}, to 0..1)", self.number(depth))
    }

    pub fn color(&mut self, depth: u32) -> String {
        if depth == 0 {
            return self.pick(&[
                "#ffb060",
                "2400K",
                "dye",
                "tomato",
                "hsl(200 40% 60%)",
                "color(srgb-linear 0.2 0.5 0.9)",
            ]);
        }
        let d = depth - 1;
        match self.any(17) {
            12 => format!("rgb(({} * 255) 40 ({} * 90))", self.ratio(d), self.ratio(d)),
            13 => format!("hsl(({} * 400deg) {} 60%)", self.sum(d), self.ratio(d)),
            14 => format!("oklch(70% {} ({} * 360deg))", self.ratio(d), self.sum(d)),
            15 => format!("oklab({} 0.1 -0.05)", self.ratio(d)),
            16 => format!("daylight(6000 + 3000 * {})", self.ratio(d)),
            9 => self.pick(&["day.sky", "mood_of.tint", "sun.color", "second.color", "flash.tone"]),
            10 => format!("pick(mood_of, night {}, others {})", self.color(d), self.color(d)),
            11 => format!("pick(region, moor {}, others {})", self.color(d), self.color(d)),
            0 => format!("mix({}, {}, by {})", self.color(d), self.color(d), self.number(d)),
            1 => {
                format!("mix({}, {}, by {}, linear)", self.color(d), self.color(d), self.number(d))
            }
            2 => format!("hue({}, by {} * 90deg)", self.color(d), self.sum(d)),
            3 => format!("scaled({}, by clamp({}, to 10%..2))", self.color(d), self.number(d)),
            4 => format!("drawn({}, {})", self.color(d), self.color(d)),
            5 => format!("loop(tints{})", self.start()),
            6 => format!("shades({})", self.number(d)),
            7 => format!("kelvin(clamp(2500 + 1400 * {}, to 1000..40000))", self.sum(d)),
            _ => format!("if {} then {} else {}", self.flag(d), self.color(d), self.color(d)),
        }
    }

    pub fn point(&mut self, depth: u32) -> String {
        if depth == 0 {
            return self.pick(&[
                "(0m, 1m, 2m)",
                "(-1m, 0.5m, 30cm)",
                "(0m, 0m, 0m)",
                "guest * 0.01",
            ]);
        }
        let d = depth - 1;
        match self.any(9) {
            7 => self.pick(&["day.spot", "sun.aim", "helios.aim", "moon.aim", "flash.spot"]),
            8 => format!("pick(region, hills ({}), others {})", self.point(d), self.point(0)),
            0 => format!("{} + {}", self.point(d), self.point(0)),
            1 => format!("({}) * {}", self.point(d), self.sum(d)),
            2 => format!("wander(radius 20cm, rate 3Hz, octaves {})", self.pick(&["1", "3"])),
            3 => format!("({} * 1m, {} * 20cm, 1m)", self.sum(d), self.sum(d)),
            4 => format!("mix({}, {}, by {})", self.point(d), self.point(d), self.number(d)),
            5 => format!("loop(places.spot{})", self.start()),
            _ => format!("drawn({}..{})", self.point(0), self.point(0)),
        }
    }

    /// A whole book.
    pub fn book(&mut self) -> String {
        let depth = 3;
        let mut text = format!("lightbook \"Random\"\nseed {}\nuse \"stock\"\n", self.any(1 << 32));
        text += &self.pick(&["", "space { up z; unit 1cm }\n", "space { up y; unit 2m }\n"]);
        text += "color brass = #b08a2d\nvalue floor_level = 12%\n";
        text += CURVES;
        text += "input speed = 1 in 0..4\n";
        text += "input knob = 30% in -20%..120%\ninput open = off\ninput dye = #80c0ff\n";
        text += "input guest = (1m, 2m, -3m)\n";
        text += SUNS;
        text += EVENTS;
        text += SOUNDS;
        text += "signal held_knob = if knob above 50% then knob else floor_level\n";
        text += "behavior mood(x = 1) = x * held(50%..1, every 60ms..300ms) + sine(every 2.3s)\n";
        text += "behavior calm(part = 1, length = 300ms) {\n  signal inner = held(0..1, every length..length * 3)\n  gives part * inner + later(inner, by 200ms)\n}\n";
        for n in 0..4 {
            text += &format!("signal s{n} = {}\n", self.number(depth));
            self.signals = n + 1;
        }
        text += &format!("light single spot {{\n  signal own = {}\n", self.number(depth));
        text += &format!("  intensity 10cd * own\n  color {}\n", self.color(depth));
        text += &format!("  position {}\n  aim {}\n", self.point(depth), self.point(depth));
        text += &format!("  offset {}\n  shadows {}\n}}\n", self.point(2), self.flag(2));
        self.indexed = true;
        text += "light many[5] point {\n  input trim = 1 in 0..2\n";
        text += &self.pick(&["", "  tags near_by\n", "  tags near_by, street\n"]);
        let again = self.pick(&["", " repeating"]);
        text += &format!("  event spent every 0.4s..2.1s one at a time{again}\n");
        text += &format!("  intensity trim * {} + pulse(at spent, lasts 250ms)\n", self.sum(depth));
        text +=
            &format!("  color {}\n  position {}, (1m, 0m, 0m)\n", self.color(depth), self.point(1));
        text += &format!("  except [3] {{ color {} }}\n}}\n", self.color(1));
        text += &format!(
            "output values[3] {{ a {}; b {}; c {} }}\n",
            self.number(depth),
            self.color(2),
            self.point(2)
        );
        text += &format!("fitting twin(size = 1, tint = {}) {{\n", self.color(0));
        self.indexed = false;
        text += "  input own = 1 in 0..2\n";
        text += &format!("  signal both = own * {}\n", self.sum(2));
        text += &format!(
            "  light one point {{ color tint; intensity size * both + {} }}\n",
            self.sum(2)
        );
        text += &format!(
            "  light two[2] point {{ intensity both * {}; position {} }}\n}}\n",
            self.sum(2),
            self.point(1)
        );
        text += &format!(
            "place row[3] of twin {{ position (0m, 0m, 0m), (1m, 0m, 1m); size {}; except [1] {{ tint {} }} }}\n",
            self.number(2),
            self.color(1)
        );
        text += "place lone of twin\n";
        text += SCENES;
        text += &self.sparks();
        text += NOTICES;
        text += PLACE;
        for n in 0..self.any(3) {
            text += &self.rehearsal(n);
        }
        text
    }

    /// Two pools of sparks.
    fn sparks(&mut self) -> String {
        let full = self.pick(&["oldest", "ignore"]);
        let share = self.pick(&["", " share 2 in 3"]);
        format!(
            "spark shell[6] point at flash {{\n  lives 300ms..{}\n  overflow {full}\n  position flash.spot\n  \
             offset (0m, life * 3m, 0m)\n  color flash.tone\n  shadows flash.sharp\n  \
             intensity 40cd * (1 - life) * flash.size * {}\n}}\n\
             spark drop[3] area at echo, hit{share} {{ lives {}; intensity brass_level(life); color brass }}\n\
             behavior brass_level(x = 1) = 20cd * (1 - x) * open_flame()\n",
            self.pick(&["2s", "1.4s", "5s"]),
            self.sum(1),
            self.time(),
        )
    }

    /// A rehearsal with random acts at random intervals, some of them 0.
    fn rehearsal(&mut self, n: u64) -> String {
        let mut text = format!("rehearsal walk_{n} {{\n");
        if self.any(2) == 0 {
            text += "  clock 21:20\n";
        }
        let mut at = 0;
        for _ in 0..2 + self.any(12) {
            // In hundredths of a second.
            at += [0, 1, 7, 40, 70, 130, 400, 1700][self.any(8) as usize];
            let level = self.pick(&["0%", "15%", "35%", "70%", "100%"]);
            let act = match self.any(14) {
                0 => "hit".to_owned(),
                1 => "miss".to_owned(),
                2 => "turn".to_owned(),
                3 => self.pick(&[
                    "flash",
                    "flash(size 2, tone #ff2010)",
                    "flash(spot (2m, 1m, 0m), sharp on)",
                ]),
                4..=6 => format!("knob = {level}"),
                7 => "open = on".to_owned(),
                8 => self.pick(&["region = moor", "region = coast", "mode = bright"]),
                9 => "guest = (2m, 1m, 0m)".to_owned(),
                10 => self.pick(&[
                    "clock 22:59",
                    "clock 05:00",
                    "clock rate 30",
                    "clock rate 0",
                    "clock drive 04:30",
                ]),
                11 => self.pick(&["many[1].trim = 150%", "row[1].own = 40%", "lone.own = 2"]),
                12 => self.pick(&["speed = 0", "speed = 2.5", "speed = 1"]),
                _ => self.pick(&[
                    "crowd.level = 80%",
                    "crowd.high = 30%",
                    "expect single.intensity above -1000cd",
                ]),
            };
            text += &format!("  {}.{:02}s {act}\n", at / 100, at % 100);
        }
        format!("{text}  {}s end\n}}\n", at / 100 + 3)
    }
}
