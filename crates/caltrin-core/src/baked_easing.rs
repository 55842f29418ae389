//! Bezier easings as polynomials: a `cubic-bezier` asks for a root of a cubic each time, so it is solved once, when a book
//! is read, and what is left for each frame is one polynomial of the fifth degree.

use std::cell::RefCell;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use crate::kernel;

/// How far a baked easing is from the exact one at most.
pub const MOST_ERROR: f64 = 1e-7;

/// How far it may be where it is compared; between these places it is a little farther.
const ACCEPTED: f64 = 5e-8;

/// Most pieces of one easing; what needs more is solved each time.
const MOST_PIECES: usize = 64;

/// How many places of each piece are compared.
const COMPARED: usize = 21;

/// How many easings are kept per thread.
const MOST_KEPT: usize = 256;

/// The degree of each piece, and how many numbers it has.
const NUMBERS: usize = 6;

/// Chebyshev's places from 0 to 1, ends included, so that pieces meet.
const NODES: [f64; NUMBERS] =
    [0.0, 0.09549150281252627, 0.3454915028125263, 0.6545084971874737, 0.9045084971874737, 1.0];

/// An easing as polynomials.
#[derive(Clone, Debug, PartialEq)]
pub struct BakedEasing {
    /// Whether the argument is spread at both ends first, by [`kernel::spread_ends`]: for easings that start or end like a
    /// root.
    pub spread: bool,
    /// Six numbers for each piece of 0..1, pieces of one length; the highest power first.
    pub table: Vec<f64>,
}

thread_local! {
    static KNOWN: RefCell<FxHashMap<[u64; 4], Option<Arc<BakedEasing>>>> = RefCell::default();
}

impl BakedEasing {
    /// The polynomials of a `cubic-bezier` with these control values, or `None` if too many would be needed.
    pub fn of(controls: [f64; 4]) -> Option<Arc<BakedEasing>> {
        let key = controls.map(f64::to_bits);
        KNOWN.with_borrow_mut(|known| {
            if known.len() >= MOST_KEPT {
                known.clear();
            }
            known.entry(key).or_insert_with(|| bake(controls).map(Arc::new)).clone()
        })
    }

    /// How many pieces it has.
    pub fn pieces(&self) -> usize {
        self.table.len() / NUMBERS
    }

    /// The eased ratio at `u` from 0 to 1; up to [`MOST_ERROR`] beyond the exact curve.
    #[inline]
    pub fn at(&self, u: f64) -> f64 {
        let u = if self.spread { kernel::spread_ends(u) } else { u };
        kernel::ease_baked(u, &self.table, self.pieces())
    }
}

fn bake(controls: [f64; 4]) -> Option<BakedEasing> {
    let mut pieces = 1;
    while pieces <= MOST_PIECES {
        for spread in [false, true] {
            let baked = baked_in(controls, spread, pieces);
            if is_close(&baked, controls) {
                return Some(baked);
            }
        }
        pieces *= 2;
    }
    None
}

fn exact(u: f64, [x1, y1, x2, y2]: [f64; 4]) -> f64 {
    kernel::ease_bezier(u, x1, y1, x2, y2)
}

/// Where a place of the polynomials lies on the easing: the inverse of [`kernel::spread_ends`].
fn gathered(v: f64, spread: bool) -> f64 {
    match (spread, v < 0.5) {
        (false, _) => v,
        (true, true) => 2.0 * v * v,
        (true, false) => 1.0 - 2.0 * (1.0 - v) * (1.0 - v),
    }
}

fn baked_in(controls: [f64; 4], spread: bool, pieces: usize) -> BakedEasing {
    let mut table = Vec::with_capacity(NUMBERS * pieces);
    for piece in 0..pieces {
        let values = NODES.map(|node| {
            let v = (piece as f64 + node) / pieces as f64;
            exact(gathered(v, spread), controls)
        });
        let mut numbers = polynomial(values);
        numbers.reverse();
        table.extend(numbers);
    }
    BakedEasing { spread, table }
}

/// The polynomial through values at [`NODES`], the lowest power first: Newton's divided differences, multiplied out.
fn polynomial(values: [f64; NUMBERS]) -> [f64; NUMBERS] {
    let mut differences = values;
    for order in 1..NUMBERS {
        for n in (order..NUMBERS).rev() {
            let span = NODES[n] - NODES[n - order];
            differences[n] = (differences[n] - differences[n - 1]) / span;
        }
    }
    let mut all = [0.0; NUMBERS];
    for n in (0..NUMBERS).rev() {
        // Times (x - node), and one more.
        for power in (1..NUMBERS).rev() {
            all[power] = all[power - 1] - NODES[n] * all[power];
        }
        all[0] = differences[n] - NODES[n] * all[0];
    }
    all
}

fn is_close(baked: &BakedEasing, controls: [f64; 4]) -> bool {
    let pieces = baked.pieces();
    let mut places = (0..pieces * COMPARED).map(|n| {
        let v = (n as f64 + 0.5) / (pieces * COMPARED) as f64;
        gathered(v, baked.spread)
    });
    places.all(|u| (baked.at(u) - exact(u, controls)).abs() <= ACCEPTED)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::kernel::{draw, to_unit};

    /// The easings that have names in CSS.
    const CSS: [[f64; 4]; 4] = [
        [0.25, 0.1, 0.25, 1.0],
        [0.42, 0.0, 1.0, 1.0],
        [0.0, 0.0, 0.58, 1.0],
        [0.42, 0.0, 0.58, 1.0],
    ];

    /// The plain meaning of a Bezier easing: halve until the place is found.
    fn by_halving(u: f64, [x1, y1, x2, y2]: [f64; 4]) -> f64 {
        let along = |s: f64, a: f64, b: f64| {
            let r = 1.0 - s;
            3.0 * r * r * s * a + 3.0 * r * s * s * b + s * s * s
        };
        let (mut lo, mut hi) = (0.0, 1.0);
        for _ in 0..80 {
            let middle = 0.5 * (lo + hi);
            if along(middle, x1, x2) < u { lo = middle } else { hi = middle }
        }
        along(0.5 * (lo + hi), y1, y2)
    }

    #[test]
    fn baked_easings_are_close_to_the_exact_ones() {
        let mut all = CSS.to_vec();
        let named = all.len();
        let unit = |n: u32, k: u32| to_unit(draw(n, k));
        all.extend(
            (0..300)
                .map(|n| [unit(n, 0), 3.0 * unit(n, 1) - 1.0, unit(n, 2), 3.0 * unit(n, 3) - 1.0]),
        );
        let mut baked_ones = 0;
        for (n, controls) in all.into_iter().enumerate() {
            let Some(baked) = BakedEasing::of(controls) else { continue };
            baked_ones += 1;
            for k in 0..=500u32 {
                let u = if k % 2 == 0 { f64::from(k) / 500.0 } else { to_unit(draw(7, k)) };
                let error = (baked.at(u) - by_halving(u, controls)).abs();
                assert!(error <= MOST_ERROR, "{controls:?} at {u}: {error:e}");
            }
            // What has a name in CSS stays small in files.
            assert!(n >= named || baked.pieces() <= 32, "{controls:?}: {}", baked.pieces());
        }
        assert!(baked_ones > 200, "{baked_ones}");
    }

    #[test]
    fn what_is_nowhere_smooth_is_not_baked() {
        assert_eq!(BakedEasing::of([1.0, 0.0, 0.0, 1.0]), None);
        assert_eq!(BakedEasing::of([0.0, 1.0, 0.0, 1.0]), None);
    }

    #[test]
    fn pieces_meet() {
        for controls in CSS {
            let baked = BakedEasing::of(controls).expect("the easings of CSS are baked");
            for n in 1..baked.pieces() {
                let v = n as f64 / baked.pieces() as f64;
                let sides =
                    [v.next_down(), v].map(|v| kernel::ease_baked(v, &baked.table, baked.pieces()));
                assert!((sides[0] - sides[1]).abs() < 1e-10, "{controls:?} at {v}: {sides:?}");
            }
            assert_eq!(baked.at(0.0), 0.0);
            assert!((baked.at(1.0) - 1.0).abs() < 1e-10);
        }
    }
}
