//! Functions of numbers alone: what an operation needs only for its numbers, not for when, whose or by
//! which chance. Everything that walks a program handles them all alike, so a new one is an entry here, its
//! definition, and its part of each exported kernel.

use crate::interval::Interval;
use crate::sky;

/// Most arguments that one of them has.
pub const MOST: usize = 5;

/// A range that an argument must lie in: what it is, least and most.
pub type Demand = (usize, &'static str, f64, f64);

/// A function of numbers alone.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Pure {
    /// A window of the day, of an hour, where it opens and for how long, where it closes and for how long:
    /// [`sky::window_level`].
    Window,
    /// How far the time from one hour to another has passed at an hour: [`sky::through_level`].
    Through,
    /// How far to the east, of length 1, the sun stands, or what runs ahead of it: of days, turns ahead,
    /// latitude and longitude ([`sky::sky_part`]).
    East,
    /// How far up.
    Up,
    /// How far to the south.
    South,
    /// The hour at which the sun rises over a height: of the start of the day, latitude, longitude and the
    /// sine of the height ([`sky::sun_hour`]).
    Rises,
    /// The hour at which it stands highest, whatever the height.
    Highest,
    /// The hour at which it sets below a height.
    Sets,
    /// The angle of a sine: [`sky::arc_sine`].
    ArcSine,
    /// The direction on the compass of parts to the east and north: [`sky::compass`].
    Compass,
}

/// All that is to be known of one.
struct Entry {
    /// Its name in the kernels.
    kernel: &'static str,
    /// A number that the kernel takes before the arguments.
    first: Option<f64>,
    /// How many arguments it has.
    arguments: usize,
    at: fn(&[f64]) -> f64,
    /// What it never leaves, whatever the arguments.
    bounds: (f64, f64),
    /// What arguments must lie in.
    demands: &'static [Demand],
}

const SKY: &[Demand] = &[(2, "a latitude", -90.0, 90.0), (3, "a longitude", -180.0, 180.0)];
const SUN: &[Demand] = &[(1, "a latitude", -90.0, 90.0), (2, "a longitude", -180.0, 180.0)];
const UNIT: (f64, f64) = (0.0, 1.0);
const DAY: (f64, f64) = (0.0, sky::LAST_HOUR);

impl Pure {
    #[rustfmt::skip]
    const fn entry(self) -> Entry {
        match self {
            Pure::Window => Entry { kernel: "window_level", first: None, arguments: 5, at: |a| sky::window_level(a[0], a[1], a[2], a[3], a[4]), bounds: UNIT, demands: &[] },
            Pure::Through => Entry { kernel: "through_level", first: None, arguments: 3, at: |a| sky::through_level(a[0], a[1], a[2]), bounds: UNIT, demands: &[] },
            Pure::East => Entry { kernel: "sky_part", first: Some(0.0), arguments: 4, at: |a| sky::sky_part(0.0, a[0], a[1], a[2], a[3]), bounds: (-1.0, 1.0), demands: SKY },
            Pure::Up => Entry { kernel: "sky_part", first: Some(1.0), arguments: 4, at: |a| sky::sky_part(1.0, a[0], a[1], a[2], a[3]), bounds: (-1.0, 1.0), demands: SKY },
            Pure::South => Entry { kernel: "sky_part", first: Some(2.0), arguments: 4, at: |a| sky::sky_part(2.0, a[0], a[1], a[2], a[3]), bounds: (-1.0, 1.0), demands: SKY },
            Pure::Rises => Entry { kernel: "sun_hour", first: Some(-1.0), arguments: 4, at: |a| sky::sun_hour(-1.0, a[0], a[1], a[2], a[3]), bounds: DAY, demands: SUN },
            Pure::Highest => Entry { kernel: "sun_hour", first: Some(0.0), arguments: 4, at: |a| sky::sun_hour(0.0, a[0], a[1], a[2], a[3]), bounds: DAY, demands: SUN },
            Pure::Sets => Entry { kernel: "sun_hour", first: Some(1.0), arguments: 4, at: |a| sky::sun_hour(1.0, a[0], a[1], a[2], a[3]), bounds: DAY, demands: SUN },
            Pure::ArcSine => Entry { kernel: "arc_sine", first: None, arguments: 1, at: |a| sky::arc_sine(a[0]), bounds: (-90.0, 90.0), demands: &[] },
            Pure::Compass => Entry { kernel: "compass", first: None, arguments: 2, at: |a| sky::compass(a[0], a[1]), bounds: (0.0, 360.0), demands: &[] },
        }
    }

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

    /// What it never leaves.
    pub fn bounds(self) -> Interval {
        let (lo, hi) = self.entry().bounds;
        Interval { lo, hi }
    }

    /// What its arguments must lie in.
    pub fn demands(self) -> &'static [Demand] {
        self.entry().demands
    }
}
