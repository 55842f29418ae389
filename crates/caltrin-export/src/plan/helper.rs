//! The functions of the kernel that an export may need, by name.

use caltrin_core::pure::Pure;

/// A function of the kernel that an export may need.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Helper(&'static str);

/// One line a function that the plan calls by itself: its name here, and its name in the kernel.
macro_rules! helpers {
    ($($(#[$doc:meta])* $name:ident $kernel:literal,)*) => {
        #[expect(non_upper_case_globals, reason = "they read as variants, and are named like functions")]
        impl Helper {
            $($(#[$doc])* pub const $name: Helper = Helper($kernel);)*
        }

        #[cfg(test)]
        pub(crate) const NAMED: &[Helper] = &[$(Helper::$name,)*];
    };
}

helpers! {
    /// `scramble(bits)`
    Scramble "scramble",
    /// `chance_key(seed, place)`
    ChanceKey "chance_key",
    /// `lamp_key(key, index)`
    LampKey "lamp_key",
    /// `draw(key, n)`
    Draw "draw",
    /// `to_unit(bits)`
    ToUnit "to_unit",
    /// `round_down(x)`
    RoundDown "round_down",
    /// `cell_index(n)`
    CellIndex "cell_index",
    /// `chance_phase(key)`
    ChancePhase "chance_phase",
    /// `clamp(v, lo, hi)`
    Clamp "clamp",
    /// `lerp(lo, hi, s)`
    Lerp "lerp",
    /// `min(a, b)`
    Min "min",
    /// `max(a, b)`
    Max "max",
    /// `share(part, whole)`
    Share "share",
    /// `held_level(t, key, rate, jitter)`
    HeldLevel "held_level",
    /// `steady_level(t, key, rate)`
    SteadyLevel "steady_level",
    /// `ease_smooth(u)`
    EaseSmooth "ease_smooth",
    /// `spread_ends(u)`
    SpreadEnds "spread_ends",
    /// `ease_baked(u, table, pieces)`
    EaseBaked "ease_baked",
    /// `ease_bezier(u, x1, y1, x2, y2)`
    EaseBezier "ease_bezier",
    /// `ease_steps(u, steps, first, jumps)`
    EaseSteps "ease_steps",
    /// `wrap_time(t, period)`
    WrapTime "wrap_time",
    /// `fold_time(t, period)`
    FoldTime "fold_time",
    /// `noise(x, key)`
    Noise "noise",
    /// `drift_level(t, key, rate, octaves)`
    DriftLevel "drift_level",
    /// `cell_edge(key, i, jitter)`
    CellEdge "cell_edge",
    /// `soft_level(t, key, rate, jitter, part)`
    SoftLevel "soft_level",
    /// `burst_level(t, key, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums, pairs)`
    BurstLevel "burst_level",
    /// `table_level(x, table, last)`
    TableLevel "table_level",
    /// `envelope_level(x, envelope, last)`
    EnvelopeLevel "envelope_level",
    /// `next_place(x, places, last)`
    NextPlace "next_place",
    /// `in_ball(a, b, c)`
    InBall "in_ball",
    /// `heading(part, x, y, z, still)`
    Heading "heading",
    /// `sine_of_turns(x)`
    SineOfTurns "sine_of_turns",
    /// `sine_level(x)`
    SineLevel "sine_level",
    /// `triangle_level(x)`
    TriangleLevel "triangle_level",
    /// `saw_level(x)`
    SawLevel "saw_level",
    /// `square_level(x, on)`
    SquareLevel "square_level",
    /// `days_of(hours)`
    DaysOf "days_of",
    /// `hour_of(hours)`
    HourOf "hour_of",
    /// `hours_level(hour, start, rise, end, fall)`
    HoursLevel "hours_level",
    /// `through_level(hour, start, end)`
    ThroughLevel "through_level",
    /// `arc_tangent(y, x)`
    ArcTangent "arc_tangent",
    /// `arc_sine(x)`
    ArcSine "arc_sine",
    /// `compass(east, north)`
    Compass "compass",
    /// `sun_way(days)`
    SunWay "sun_way",
    /// `axis_tilt(days)`
    AxisTilt "axis_tilt",
    /// `sky_turn(days, longitude)`
    SkyTurn "sky_turn",
    /// `sky_part(part, days, ahead, latitude, longitude)`
    SkyPart "sky_part",
    /// `sun_hour(side, days, latitude, longitude, sine)`
    SunHour "sun_hour",
    /// `sun_stays(days, latitude, longitude, sine)`
    SunStays "sun_stays",
    /// `root(x)`
    Root "root",
    /// `absolute(x)`
    Absolute "absolute",
    /// `whole_below(x)`
    WholeBelow "whole_below",
    /// `whole_nearest(x)`
    WholeNearest "whole_nearest",
    /// `decay(x)`
    Decay "decay",
    /// `next_look(t)`
    NextLook "next_look",
    /// `cube_root(x)`
    CubeRoot "cube_root",
    /// `cone_l(r, g, b)`
    ConeL "cone_l",
    /// `cone_m(r, g, b)`
    ConeM "cone_m",
    /// `cone_s(r, g, b)`
    ConeS "cone_s",
    /// `light_r(l, m, s)`
    LightR "light_r",
    /// `light_g(l, m, s)`
    LightG "light_g",
    /// `light_b(l, m, s)`
    LightB "light_b",
    /// `faded(from, to, since, over, now)`
    Faded "faded",
    /// `clean_moment(t)`
    CleanMoment "clean_moment",
    /// `clean_input(v, lo, hi, fallback)`
    CleanInput "clean_input",
    /// `at_most(index, last)`
    AtMost "at_most",
    /// `to_single(v)`
    ToSingle "to_single",
    /// `to_output(v)`
    ToOutput "to_output",
}

impl Helper {
    /// The kernel's function for a function of numbers alone.
    pub fn of(function: Pure) -> Helper {
        Helper(function.kernel())
    }

    /// Its name, words joined by `_`; languages write it in their own case.
    pub fn name(self) -> &'static str {
        self.0
    }
}
