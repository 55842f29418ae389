//! Functions of numbers alone: what an operation needs only for its numbers, not for when, whose or by
//! which chance. Everything that walks a program handles them all alike, so a new one is an entry here, its
//! definition, and its part of each exported kernel. One with an example is a function of the language too.

use crate::interval::Interval;
use crate::kernel;
use crate::sky;

/// Most arguments that one of them has.
pub const MOST: usize = 5;

/// A range that an argument must lie in: what it is, least and most.
pub type Demand = (usize, &'static str, f64, f64);

/// All that is to be known of one.
struct Entry {
    /// Its name in the kernels.
    kernel: &'static str,
    /// A call of it in a book, which calls it with plain numbers by the name before the bracket; `None` if no book may.
    example: Option<&'static str>,
    /// A number that the kernel takes before the arguments.
    first: Option<f64>,
    /// How many arguments it has.
    arguments: usize,
    at: fn(&[f64]) -> f64,
    /// What it never leaves with arguments in these ranges, where they are as demanded.
    bounds: fn(&[Interval]) -> Interval,
    /// What arguments must lie in.
    demands: &'static [Demand],
}

const SKY: &[Demand] = &[(2, "a latitude", -90.0, 90.0), (3, "a longitude", -180.0, 180.0)];
const SUN: &[Demand] = &[(1, "a latitude", -90.0, 90.0), (2, "a longitude", -180.0, 180.0)];
const SIGNED: fn(&[Interval]) -> Interval = |_| Interval { lo: -1.0, hi: 1.0 };
const UNIT: fn(&[Interval]) -> Interval = |_| Interval { lo: 0.0, hi: 1.0 };
const DAY: fn(&[Interval]) -> Interval = |_| Interval { lo: 0.0, hi: sky::LAST_HOUR };

/// One line a function.
macro_rules! functions {
    ($($(#[$doc:meta])* $name:ident $entry:expr,)*) => {
        /// A function of numbers alone.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Pure {
            $($(#[$doc])* $name,)*
        }

        impl Pure {
            /// All of them.
            pub const ALL: &'static [Pure] = &[$(Pure::$name,)*];

            const fn entry(self) -> Entry {
                match self {
                    $(Pure::$name => $entry,)*
                }
            }
        }
    };
}

functions! {
    /// A span of hours, where it opens and for how long, where it closes and for how long:
    /// [`sky::hours_level`].
    OpenHours Entry {
        kernel: "hours_level",
        example: None,
        first: None,
        arguments: 5,
        at: |a| sky::hours_level(a[0], a[1], a[2], a[3], a[4]),
        bounds: UNIT,
        demands: &[],
    },
    /// How far the time from one hour to another has passed at an hour: [`sky::through_level`].
    Through Entry {
        kernel: "through_level",
        example: None,
        first: None,
        arguments: 3,
        at: |a| sky::through_level(a[0], a[1], a[2]),
        bounds: UNIT,
        demands: &[],
    },
    /// How far to the east, of length 1, the sun stands, or what runs ahead of it: of days, turns ahead,
    /// latitude and longitude ([`sky::sky_part`]).
    East Entry {
        kernel: "sky_part",
        example: None,
        first: Some(0.0),
        arguments: 4,
        at: |a| sky::sky_part(0.0, a[0], a[1], a[2], a[3]),
        bounds: SIGNED,
        demands: SKY,
    },
    /// How far up.
    Up Entry {
        kernel: "sky_part",
        example: None,
        first: Some(1.0),
        arguments: 4,
        at: |a| sky::sky_part(1.0, a[0], a[1], a[2], a[3]),
        bounds: SIGNED,
        demands: SKY,
    },
    /// How far to the south.
    South Entry {
        kernel: "sky_part",
        example: None,
        first: Some(2.0),
        arguments: 4,
        at: |a| sky::sky_part(2.0, a[0], a[1], a[2], a[3]),
        bounds: SIGNED,
        demands: SKY,
    },
    /// The hour at which the sun rises over a height: of the start of the day, latitude, longitude and the
    /// sine of the height ([`sky::sun_hour`]).
    Rises Entry {
        kernel: "sun_hour",
        example: None,
        first: Some(-1.0),
        arguments: 4,
        at: |a| sky::sun_hour(-1.0, a[0], a[1], a[2], a[3]),
        bounds: DAY,
        demands: SUN,
    },
    /// The hour at which it stands highest, whatever the height.
    Highest Entry {
        kernel: "sun_hour",
        example: None,
        first: Some(0.0),
        arguments: 4,
        at: |a| sky::sun_hour(0.0, a[0], a[1], a[2], a[3]),
        bounds: DAY,
        demands: SUN,
    },
    /// The hour at which it sets below a height.
    Sets Entry {
        kernel: "sun_hour",
        example: None,
        first: Some(1.0),
        arguments: 4,
        at: |a| sky::sun_hour(1.0, a[0], a[1], a[2], a[3]),
        bounds: DAY,
        demands: SUN,
    },
    /// Whether it stays below a height (-1) or above it (1) all day: [`sky::sun_stays`].
    Stays Entry {
        kernel: "sun_stays",
        example: None,
        first: None,
        arguments: 4,
        at: |a| sky::sun_stays(a[0], a[1], a[2], a[3]),
        bounds: SIGNED,
        demands: SUN,
    },
    /// The angle of a sine: [`sky::arc_sine`].
    ArcSine Entry {
        kernel: "arc_sine",
        example: None,
        first: None,
        arguments: 1,
        at: |a| sky::arc_sine(a[0]),
        bounds: |_| Interval { lo: -90.0, hi: 90.0 },
        demands: &[],
    },
    /// The direction on the compass of parts to the east and north: [`sky::compass`].
    Compass Entry {
        kernel: "compass",
        example: None,
        first: None,
        arguments: 2,
        at: |a| sky::compass(a[0], a[1]),
        bounds: |_| Interval { lo: 0.0, hi: 360.0 },
        demands: &[],
    },
    /// The square root; of what is below 0, 0: [`kernel::root`].
    Root Entry {
        kernel: "root",
        example: Some("root(sine(every 3.1s))"),
        first: None,
        arguments: 1,
        at: |a| kernel::root(a[0]),
        bounds: |a| Interval { lo: kernel::root(a[0].lo), hi: kernel::root(a[0].hi) },
        demands: &[(0, "what `root` is taken of", 0.0, 1e9)],
    },
    /// A number without its sign: [`kernel::absolute`].
    Absolute Entry {
        kernel: "absolute",
        example: Some("abs(sine(every 3.1s) - 0.5)"),
        first: None,
        arguments: 1,
        at: |a| kernel::absolute(a[0]),
        bounds: |a| {
            let [lo, hi] = [a[0].lo, a[0].hi].map(kernel::absolute);
            let crosses = a[0].lo < 0.0 && a[0].hi > 0.0;
            Interval { lo: if crosses { 0.0 } else { lo.min(hi) }, hi: lo.max(hi) }
        },
        demands: &[],
    },
    /// The largest whole number not above: [`kernel::whole_below`].
    Floor Entry {
        kernel: "whole_below",
        example: Some("floor(4 * sine(every 3.1s))"),
        first: None,
        arguments: 1,
        at: |a| kernel::whole_below(a[0]),
        bounds: |a| Interval { lo: kernel::whole_below(a[0].lo), hi: kernel::whole_below(a[0].hi) },
        demands: &[(0, "what `floor` is taken of", -1e9, 1e9)],
    },
    /// The nearest whole number: [`kernel::whole_nearest`].
    Round Entry {
        kernel: "whole_nearest",
        example: Some("round(4 * sine(every 3.1s))"),
        first: None,
        arguments: 1,
        at: |a| kernel::whole_nearest(a[0]),
        bounds: |a| {
            Interval { lo: kernel::whole_nearest(a[0].lo), hi: kernel::whole_nearest(a[0].hi) }
        },
        demands: &[(0, "what `round` is taken of", -1e9, 1e9)],
    },
    /// A number to a power: [`kernel::to_power`].
    Power Entry {
        kernel: "to_power",
        example: Some("power(sine(every 3.1s), 2.2)"),
        first: None,
        arguments: 2,
        at: |a| kernel::to_power(a[0], a[1]),
        bounds: |a| {
            // Neither rises and falls, so that the corners are the ends.
            let corners = [a[0].lo, a[0].hi].map(|x| [a[1].lo, a[1].hi].map(|y| kernel::to_power(x, y)));
            let Interval { lo, hi } = Interval::hull(corners.as_flattened());
            let most = if a[0].hi <= 1.0 { 1.0 } else { f64::INFINITY };
            Interval { lo: lo * (1.0 - 1e-12), hi: (hi * (1.0 + 1e-12)).min(most) }
        },
        demands: &[
            (0, "what `power` is taken of", 0.0, 1e9),
            (1, "the exponent of `power`", 0.0, 16.0),
        ],
    },
    /// How much is left of what falls to 1/e of itself again and again: [`kernel::decay`].
    Decay Entry {
        kernel: "decay",
        example: None,
        first: None,
        arguments: 1,
        at: |a| kernel::decay(a[0]),
        bounds: UNIT,
        demands: &[],
    },
    /// The first whole number of 1/120 s after a moment: [`kernel::next_look`].
    NextLook Entry {
        kernel: "next_look",
        example: None,
        first: None,
        arguments: 1,
        at: |a| kernel::next_look(a[0]),
        bounds: |a| Interval { lo: a[0].lo, hi: a[0].hi + 0.02 },
        demands: &[],
    },
}

impl Pure {
    /// Its name in the exported kernels, words joined by `_`.
    pub fn kernel(self) -> &'static str {
        self.entry().kernel
    }

    /// A number that the kernel's function takes before the arguments.
    pub fn first(self) -> Option<f64> {
        self.entry().first
    }

    /// How many arguments it has, [`MOST`] at the most.
    pub fn arguments(self) -> usize {
        self.entry().arguments
    }

    /// Its value.
    ///
    /// # Panics
    /// If there are fewer arguments than it has.
    #[inline]
    pub fn at(self, arguments: &[f64]) -> f64 {
        (self.entry().at)(arguments)
    }

    /// What it never leaves with arguments in these ranges.
    pub fn bounds(self, arguments: &[Interval]) -> Interval {
        (self.entry().bounds)(arguments)
    }

    /// What a book calls it with plain numbers by, if it may.
    pub fn word(self) -> Option<&'static str> {
        self.example()?.split('(').next()
    }

    /// A call of it in a book, if a book may call it.
    pub fn example(self) -> Option<&'static str> {
        self.entry().example
    }

    /// The one that a book calls by this word.
    pub fn called(word: &str) -> Option<Pure> {
        Pure::ALL.iter().copied().find(|function| function.word() == Some(word))
    }

    /// What its arguments must lie in.
    pub fn demands(self) -> &'static [Demand] {
        self.entry().demands
    }
}
