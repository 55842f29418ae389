//! Flashes in a series of samples, as WCAG 2.2 defines them for success criterion 2.3.1, "three flashes or below threshold".
//!
//! - A *general* change is a change of relative luminance by 0.1 or more where the darker state is below 0.8.
//! - A *red* change is a change into or out of a saturated red, R / (R + G + B) of at least 0.8, by more than 0.2 in the CIE
//!   1976 u'v' diagram. Black has no chromaticity and counts as white.
//!
//! Changes are measured between successive extremes and dated where an extreme is reached; reversals smaller than the
//! threshold end nothing, so a ramp is one change however long it takes. A flash is a pair of opposing changes: the number
//! of flashes of a second is half the number of changes in it. More than three in any second fail.
//!
//! The criterion's area rule is not applied: the samples stand for what fills the view.

mod book;

pub use book::{FlashPlace, FlashSearch, LightFlashes, rehearsed, search};

/// Least change of relative luminance.
pub const LUMINANCE_CHANGE: f64 = 0.1;
/// The darker state of a change is below this relative luminance.
pub const DARKER_BELOW: f64 = 0.8;
/// Least part of red in a saturated red.
pub const SATURATED_RED: f64 = 0.8;
/// A change of chromaticity is larger than this.
pub const CHROMATICITY_CHANGE: f64 = 0.2;
/// Most flashes in a second.
pub const MOST_FLASHES: f64 = 3.0;

/// What rounding may take from a difference of decimal numbers.
const ROUNDING: f64 = 1e-9;

/// A moment of a series.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FlashSample {
    /// The time, in seconds.
    pub time: f64,
    /// The relative luminance, 0 to 1; limited to that.
    pub luminance: f64,
    /// Linear red, green and blue; `None` for a series of luminance alone, which has no red flashes.
    pub color: Option<[f64; 3]>,
}

impl FlashSample {
    /// A sample of luminance alone.
    pub fn of_luminance(time: f64, luminance: f64) -> Self {
        FlashSample { time, luminance, color: None }
    }

    /// A sample of a linear color with components 0 to 1. Its relative luminance is that of Rec. 709.
    pub fn of_color(time: f64, color: [f64; 3]) -> Self {
        let [r, g, b] = color.map(|part| part.clamp(0.0, 1.0));
        let luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b;
        FlashSample { time, luminance, color: Some([r, g, b]) }
    }
}

/// The changes of one kind in a series.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Flashing {
    /// When each change ended, in seconds, ascending.
    pub changes: Vec<f64>,
    /// The most changes in any second.
    pub most: usize,
    /// When the first second with that many begins; 0 if there are none.
    pub worst: f64,
}

impl Flashing {
    fn of(changes: Vec<f64>) -> Flashing {
        let (mut most, mut worst, mut first) = (0, 0.0, 0);
        for (n, change) in changes.iter().enumerate() {
            // The second is half-open, so what is exactly a second apart is not in it together.
            while change - changes[first] >= 1.0 - ROUNDING {
                first += 1;
            }
            if n + 1 - first > most {
                (most, worst) = (n + 1 - first, changes[first]);
            }
        }
        Flashing { changes, most, worst }
    }

    /// The most flashes in any second: half the changes in it.
    pub fn flashes(&self) -> f64 {
        self.most as f64 / 2.0
    }

    /// Whether no second has more than [`MOST_FLASHES`].
    pub fn passes(&self) -> bool {
        self.flashes() <= MOST_FLASHES
    }
}

/// The flashes of a series.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FlashReport {
    /// Flashes of luminance.
    pub general: Flashing,
    /// Flashes of saturated red.
    pub red: Flashing,
    /// The largest change of relative luminance whose darker state is below [`DARKER_BELOW`], 0 if there is none.
    pub largest: f64,
}

impl FlashReport {
    /// Whether both pass.
    pub fn passes(&self) -> bool {
        self.general.passes() && self.red.passes()
    }

    /// The most flashes of either kind in a second.
    pub fn flashes(&self) -> f64 {
        self.general.flashes().max(self.red.flashes())
    }

    /// The part of its speed at which the series would pass, above 0 and at most 1.
    pub fn safe_speed(&self) -> f64 {
        if self.passes() { 1.0 } else { MOST_FLASHES / self.flashes() }
    }
}

/// Finds the flashes of a series with ascending times.
pub fn flashes(samples: &[FlashSample]) -> FlashReport {
    let (general, largest) = general(samples);
    FlashReport { general: Flashing::of(general), red: Flashing::of(red(samples)), largest }
}

/// An extreme: a value and when it was reached.
#[derive(Clone, Copy)]
struct Extreme<T> {
    value: T,
    time: f64,
}

/// The changes of luminance, and the size of the largest.
fn general(samples: &[FlashSample]) -> (Vec<f64>, f64) {
    let mut changes = Vec::new();
    let mut largest = 0f64;
    let mut add = |from: Extreme<f64>, to: Extreme<f64>| {
        if from.value.min(to.value) < DARKER_BELOW - ROUNDING {
            changes.push(to.time);
            largest = largest.max((to.value - from.value).abs());
        }
    };
    let reaches = |from: f64, to: f64| (to - from).abs() >= LUMINANCE_CHANGE - ROUNDING;
    let mut all = samples
        .iter()
        .map(|sample| Extreme { value: sample.luminance.clamp(0.0, 1.0), time: sample.time });
    let Some(first) = all.next() else { return (changes, largest) };
    // The lowest and the highest so far; once the direction is known, the last extreme and the one being reached.
    let (mut low, mut high) = (first, first);
    let mut rises: Option<bool> = None;
    for now in all {
        match rises {
            None => {
                if now.value < low.value {
                    low = now;
                }
                if now.value > high.value {
                    high = now;
                }
                if reaches(low.value, high.value) {
                    rises = Some(low.time < high.time);
                }
            }
            Some(true) if now.value > high.value + ROUNDING => high = now,
            Some(true) if reaches(high.value, now.value) => {
                add(low, high);
                (low, rises) = (now, Some(false));
            }
            Some(false) if now.value < low.value - ROUNDING => low = now,
            Some(false) if reaches(low.value, now.value) => {
                add(high, low);
                (high, rises) = (now, Some(true));
            }
            Some(_) => {}
        }
    }
    match rises {
        Some(true) => add(low, high),
        Some(false) => add(high, low),
        None => {}
    }
    (changes, largest)
}

/// A chromaticity in the CIE 1976 u'v' diagram, and whether it is a saturated red.
#[derive(Clone, Copy, PartialEq)]
struct Chroma {
    u: f64,
    v: f64,
    red: bool,
}

impl Chroma {
    /// Of a linear color of Rec. 709. Black has no chromaticity and counts as white.
    fn of([r, g, b]: [f64; 3]) -> Chroma {
        let sum = r + g + b;
        let [r, g, b] = if sum > ROUNDING { [r, g, b] } else { [1.0; 3] };
        let x = 0.4123907992659595 * r + 0.357584339383878 * g + 0.1804807884018343 * b;
        let y = 0.21263900587151036 * r + 0.715168678767756 * g + 0.07219231536073371 * b;
        let z = 0.01933081871559185 * r + 0.11919477979462599 * g + 0.9505321522496606 * b;
        let whole = x + 15.0 * y + 3.0 * z;
        let red = sum > ROUNDING && r / sum >= SATURATED_RED - ROUNDING;
        Chroma { u: 4.0 * x / whole, v: 9.0 * y / whole, red }
    }

    fn distance(self, other: Chroma) -> f64 {
        ((self.u - other.u) * (self.u - other.u) + (self.v - other.v) * (self.v - other.v)).sqrt()
    }

    /// Whether a change between the two is a red one.
    fn changes(self, other: Chroma) -> bool {
        (self.red || other.red) && self.distance(other) > CHROMATICITY_CHANGE + ROUNDING
    }
}

/// The changes that involve a saturated red.
fn red(samples: &[FlashSample]) -> Vec<f64> {
    let mut changes = Vec::new();
    let all = samples
        .iter()
        .filter_map(|sample| Some(Extreme { value: Chroma::of(sample.color?), time: sample.time }));
    // Chromaticities before the first change, without repetitions.
    let mut before: Vec<Extreme<Chroma>> = Vec::new();
    let mut both: Option<(Extreme<Chroma>, Extreme<Chroma>)> = None;
    for now in all {
        let Some((from, to)) = &mut both else {
            let starts = |start: &&Extreme<Chroma>| {
                start.value.red != now.value.red && start.value.changes(now.value)
            };
            if let Some(start) = before.iter().find(starts) {
                both = Some((*start, now));
            } else if before.iter().all(|known| {
                known.value.red != now.value.red || known.value.distance(now.value) > 0.01
            }) {
                before.push(now);
            }
            continue;
        };
        let farther = now.value.distance(from.value) > to.value.distance(from.value) + ROUNDING;
        if now.value.red == to.value.red {
            if farther {
                *to = now;
            }
        } else if to.value.changes(now.value) {
            changes.push(to.time);
            (*from, *to) = (*to, now);
        }
    }
    changes.extend(both.map(|(_, to)| to.time));
    changes
}
