//! The functions of the kernel that an export may need, and which of them call which.

use std::collections::BTreeSet;

use caltrin_core::pure::Pure;

/// One line a function: its name here, its name in the kernels with what it takes, and the functions that
/// it calls itself.
macro_rules! helpers {
    ($($(#[$doc:meta])* $name:ident $kernel:literal [$($uses:ident),*],)*) => {
        /// A function of the kernel that an export may need.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Helper {
            $($(#[$doc])* $name,)*
        }

        impl Helper {
            /// All, in an order in which each stands after those that it uses.
            pub const ALL: &'static [Helper] = &[$(Helper::$name,)*];

            /// Its name, words joined by `_`; languages write it in their own case.
            pub fn name(self) -> &'static str {
                match self {
                    $(Helper::$name => $kernel,)*
                }
            }

            /// These and all that they use, in the order of [`Helper::ALL`].
            pub(crate) fn with_uses(mut needed: BTreeSet<Helper>) -> Vec<Helper> {
                let mut open: Vec<Helper> = needed.iter().copied().collect();
                while let Some(helper) = open.pop() {
                    open.extend(helper.uses().iter().filter(|used| needed.insert(**used)));
                }
                Helper::ALL.iter().copied().filter(|helper| needed.contains(helper)).collect()
            }

            /// The functions of the kernel that it calls itself.
            pub(crate) fn uses(self) -> &'static [Helper] {
                match self {
                    $(Helper::$name => &[$(Helper::$uses),*],)*
                }
            }
        }
    };
}

helpers! {
    /// `scramble(bits)`
    Scramble "scramble" [],
    /// `chance_key(seed, place)`
    ChanceKey "chance_key" [Scramble],
    /// `lamp_key(key, index)`
    LampKey "lamp_key" [Scramble],
    /// `draw(key, n)`
    Draw "draw" [Scramble],
    /// `to_unit(bits)`
    ToUnit "to_unit" [],
    /// `round_down(x)`
    RoundDown "round_down" [],
    /// `cell_index(n)`
    CellIndex "cell_index" [],
    /// `chance_phase(key)`
    ChancePhase "chance_phase" [Scramble, ToUnit],
    /// `clamp(v, lo, hi)`
    Clamp "clamp" [],
    /// `lerp(lo, hi, s)`
    Lerp "lerp" [Clamp],
    /// `min(a, b)`
    Min "min" [],
    /// `max(a, b)`
    Max "max" [],
    /// `share(part, whole)`
    Share "share" [],
    /// `held_level(t, key, rate, jitter)`
    HeldLevel "held_level" [ChancePhase, RoundDown, CellIndex, Draw],
    /// `ease_smooth(u)`
    EaseSmooth "ease_smooth" [],
    /// `ease_bezier(u, x1, y1, x2, y2)`
    EaseBezier "ease_bezier" [],
    /// `ease_steps(u, steps, first, jumps)`
    EaseSteps "ease_steps" [RoundDown],
    /// `wrap_time(t, period)`
    WrapTime "wrap_time" [RoundDown],
    /// `fold_time(t, period)`
    FoldTime "fold_time" [WrapTime],
    /// `noise(x, key)`
    Noise "noise" [RoundDown, CellIndex, Draw, ToUnit],
    /// `drift_level(t, key, rate, octaves)`
    DriftLevel "drift_level" [ChancePhase, Noise],
    /// `cell_edge(key, i, jitter)`
    CellEdge "cell_edge" [Draw, ToUnit],
    /// `soft_level(t, key, rate, jitter, part)`
    SoftLevel "soft_level" [ChancePhase, RoundDown, CellIndex, CellEdge, Draw, ToUnit, EaseSmooth],
    /// `burst_level(t, key, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums, pairs)`
    BurstLevel "burst_level" [ChancePhase, RoundDown, CellIndex, Draw],
    /// `table_level(x, table, last)`
    TableLevel "table_level" [Clamp, Lerp, RoundDown],
    /// `envelope_level(x, envelope, last)`
    EnvelopeLevel "envelope_level" [Clamp, Lerp],
    /// `next_place(x, places, last)`
    NextPlace "next_place" [],
    /// `in_ball(a, b, c)`
    InBall "in_ball" [],
    /// `heading(part, x, y, z, still)`
    Heading "heading" [],
    /// `sine_of_turns(x)`
    SineOfTurns "sine_of_turns" [RoundDown, Clamp],
    /// `sine_level(x)`
    SineLevel "sine_level" [SineOfTurns],
    /// `triangle_level(x)`
    TriangleLevel "triangle_level" [RoundDown],
    /// `saw_level(x)`
    SawLevel "saw_level" [RoundDown],
    /// `square_level(x, on)`
    SquareLevel "square_level" [RoundDown],
    /// `days_of(hours)`
    DaysOf "days_of" [RoundDown],
    /// `hour_of(hours)`
    HourOf "hour_of" [DaysOf, Clamp],
    /// `hours_level(hour, start, rise, end, fall)`
    HoursLevel "hours_level" [HourOf],
    /// `through_level(hour, start, end)`
    ThroughLevel "through_level" [HourOf],
    /// `arc_tangent(y, x)`
    ArcTangent "arc_tangent" [],
    /// `arc_sine(x)`
    ArcSine "arc_sine" [ArcTangent, Clamp],
    /// `compass(east, north)`
    Compass "compass" [ArcTangent],
    /// `sun_way(days)`
    SunWay "sun_way" [SineOfTurns],
    /// `axis_tilt(days)`
    AxisTilt "axis_tilt" [],
    /// `sky_turn(days, longitude)`
    SkyTurn "sky_turn" [],
    /// `sky_part(part, days, ahead, latitude, longitude)`
    SkyPart "sky_part" [SunWay, AxisTilt, SkyTurn, SineOfTurns, Clamp],
    /// `sun_hour(side, days, latitude, longitude, sine)`
    SunHour "sun_hour" [SunWay, AxisTilt, SkyTurn, SineOfTurns, ArcTangent, ArcSine, HourOf, RoundDown, Clamp],
    /// `sun_stays(days, latitude, longitude, sine)`
    SunStays "sun_stays" [SunHour, SunWay, AxisTilt, SineOfTurns, HourOf],
    /// `root(x)`
    Root "root" [],
    /// `decay(x)`
    Decay "decay" [RoundDown],
    /// `next_look(t)`
    NextLook "next_look" [RoundDown],
    /// `cube_root(x)`
    CubeRoot "cube_root" [],
    /// `cone_l(r, g, b)`
    ConeL "cone_l" [CubeRoot],
    /// `cone_m(r, g, b)`
    ConeM "cone_m" [CubeRoot],
    /// `cone_s(r, g, b)`
    ConeS "cone_s" [CubeRoot],
    /// `light_r(l, m, s)`
    LightR "light_r" [],
    /// `light_g(l, m, s)`
    LightG "light_g" [],
    /// `light_b(l, m, s)`
    LightB "light_b" [],
    /// `faded(from, to, since, over, now)`
    Faded "faded" [Lerp, EaseSmooth, Clamp],
    /// `clean_moment(t)`
    CleanMoment "clean_moment" [Clamp],
    /// `clean_input(v, lo, hi, fallback)`
    CleanInput "clean_input" [Clamp],
    /// `at_most(index, last)`
    AtMost "at_most" [],
    /// `to_single(v)`
    ToSingle "to_single" [],
    /// `to_output(v)`
    ToOutput "to_output" [Clamp],
}

impl Helper {
    /// The kernel's function for a function of numbers alone.
    ///
    /// # Panics
    /// If the kernels have none; a test goes through all of them.
    pub fn of(function: Pure) -> Helper {
        let named = Helper::ALL.iter().find(|helper| helper.name() == function.kernel());
        *named.expect("every function of numbers alone is in the kernels")
    }
}
