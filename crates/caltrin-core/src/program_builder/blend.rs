//! Blending and color: between two values, from range to range, hues and temperatures.

use crate::color::{HUE_AXES, HUE_BACK};
use crate::curve::Easing;
use crate::kind::Kind;
use crate::program::{Constant, Entries, ExprId, Op, Table, TableId, Wave};
use crate::semantic_error::SemanticError;

use super::ProgramBuilder;

impl ProgramBuilder {
    /// `a` at `s` = 0, `b` at `s` = 1, never outside of the two. Colors are blended in OKLab, or in
    /// linear light if `linear`.
    pub fn lerp(
        &mut self,
        a: ExprId,
        b: ExprId,
        s: ExprId,
        linear: bool,
    ) -> Result<ExprId, SemanticError> {
        self.expect(s, Kind::Number)?;
        let kind = match (self.kind(a), self.kind(b)) {
            (Kind::Color, Kind::Color) if !linear => {
                let mut roots = Vec::with_capacity(3);
                for cone in 0..3 {
                    let from = self.derived(Op::ConeRoot(cone, a), Kind::Number)?;
                    let to = self.derived(Op::ConeRoot(cone, b), Kind::Number)?;
                    roots.push(self.derived(Op::Lerp(from, to, s), Kind::Number)?);
                }
                return self.color_of_cones([roots[0], roots[1], roots[2]]);
            }
            (kind @ (Kind::Color | Kind::Point), other) if kind == other => kind,
            _ => self.ordered(a, b, "blend")?,
        };
        self.derived(Op::Lerp(a, b, s), kind)
    }

    /// A number eased; what is below 0 or above 1 is taken as 0 or 1.
    pub fn eased(&mut self, u: ExprId, easing: Easing) -> Result<ExprId, SemanticError> {
        self.expect(u, Kind::Number)?;
        let (lo, hi) = (self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let u = self.derived(Op::Clamp(u, lo, hi), Kind::Number)?;
        match easing {
            Easing::Linear => Ok(u),
            easing => self.derived(Op::Eased(easing, u), Kind::Number),
        }
    }

    /// The same kept in 0..1 where the easing overshoots: for what says how far on something is.
    pub(super) fn eased_inside(
        &mut self,
        u: ExprId,
        easing: Easing,
    ) -> Result<ExprId, SemanticError> {
        let eased = self.eased(u, easing)?;
        if !easing.overshoots() {
            return Ok(eased);
        }
        let (lo, hi) = (self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        self.derived(Op::Clamp(eased, lo, hi), Kind::Number)
    }

    /// From one range to another: `from` at one end gives `to` at the same end; outside it stays.
    pub fn map(
        &mut self,
        v: ExprId,
        from: [ExprId; 2],
        to: [ExprId; 2],
        easing: Easing,
    ) -> Result<ExprId, SemanticError> {
        let passed = self.subtract(v, from[0])?;
        let whole = self.subtract(from[1], from[0])?;
        self.rising(from[0], from[1])?;
        let u = self.divide(passed, whole)?;
        let u = self.eased(u, easing)?;
        if easing.overshoots() && self.kind(to[0]).is_scalar() {
            // Beyond both ends, as the easing says.
            let span = self.subtract(to[1], to[0])?;
            let span = self.multiply(span, u)?;
            return self.add(to[0], span);
        }
        self.lerp(to[0], to[1], u, false)
    }

    /// A soft threshold: 0 below, 1 above, softly over the width `over` around `at`.
    pub fn threshold(
        &mut self,
        v: ExprId,
        at: ExprId,
        over: ExprId,
    ) -> Result<ExprId, SemanticError> {
        let kind = self.ordered(v, at, "compare")?;
        self.expect(over, kind)?;
        let half = self.number(0.5, Kind::Number)?;
        let half = self.multiply(over, half)?;
        let from = self.subtract(at, half)?;
        let passed = self.subtract(v, from)?;
        let u = self.divide(passed, over)?;
        self.eased(u, Easing::Smooth)
    }

    pub(super) fn color_of_cones(
        &mut self,
        [l, m, s]: [ExprId; 3],
    ) -> Result<ExprId, SemanticError> {
        self.derived(Op::FromCones(l, m, s), Kind::Color)
    }

    /// A color with its hue turned by an angle, in OKLab: lightness and chroma stay.
    pub fn turn_hue(&mut self, color: ExprId, angle: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(color, Kind::Color)?;
        self.expect(angle, Kind::Angle)?;
        let mut roots = Vec::with_capacity(3);
        for cone in 0..3 {
            roots.push(self.derived(Op::ConeRoot(cone, color), Kind::Number)?);
        }
        let a = self.weighed(&roots, &HUE_AXES[0])?;
        let b = self.weighed(&roots, &HUE_AXES[1])?;
        let full = self.number(360.0, Kind::Angle)?;
        let turns = self.divide(angle, full)?;
        let quarter = self.number(0.25, Kind::Number)?;
        // A wave is lowest at whole turns: sine and cosine lie a quarter and a half turn on.
        let on = self.add(turns, quarter)?;
        let sine = self.full_wave(on)?;
        let on = self.add(on, quarter)?;
        let cosine = self.full_wave(on)?;
        let one = self.number(1.0, Kind::Number)?;
        let less = self.subtract(cosine, one)?;
        // What turning adds to a and b.
        let (ac, bs) = (self.multiply(a, less)?, self.multiply(b, sine)?);
        let da = self.subtract(ac, bs)?;
        let (as_, bc) = (self.multiply(a, sine)?, self.multiply(b, less)?);
        let db = self.add(as_, bc)?;
        let mut turned = Vec::with_capacity(3);
        for (root, back) in roots.into_iter().zip(HUE_BACK) {
            let moved = self.weighed(&[da, db], &back)?;
            turned.push(self.add(root, moved)?);
        }
        let turned = self.color_of_cones([turned[0], turned[1], turned[2]])?;
        self.program_mut().hues.insert(turned, [color, angle]);
        Ok(turned)
    }

    pub(super) fn weighed(
        &mut self,
        all: &[ExprId],
        weights: &[f64],
    ) -> Result<ExprId, SemanticError> {
        let mut sum: Option<ExprId> = None;
        for (v, weight) in all.iter().zip(weights) {
            let weight = self.number(*weight, Kind::Number)?;
            let part = self.multiply(*v, weight)?;
            sum = Some(match sum {
                Some(sum) => self.add(sum, part)?,
                None => part,
            });
        }
        sum.ok_or(SemanticError::NotFinite)
    }

    /// A sine in -1..1, lowest at whole turns.
    pub(crate) fn full_wave(&mut self, turns: ExprId) -> Result<ExprId, SemanticError> {
        let level = self.derived(Op::Wave(Wave::Sine, turns), Kind::Number)?;
        let (two, one) = (self.number(2.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let double = self.multiply(level, two)?;
        self.subtract(double, one)
    }

    /// A color made darker or brighter in linear light.
    pub fn scaled(&mut self, color: ExprId, by: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(color, Kind::Color)?;
        self.expect(by, Kind::Number)?;
        self.derived(Op::Multiply(color, by), Kind::Color)
    }

    /// The color of a black body at a number of kelvins that varies; what lies outside of
    /// [`crate::color::COLDEST`] and [`crate::color::HOTTEST`] is taken as those.
    pub fn kelvin(&mut self, kelvins: ExprId) -> Result<ExprId, SemanticError> {
        use crate::color::{COLDEST, HOTTEST, Rgb};
        self.expect(kelvins, Kind::Number)?;
        if let Some(v) = self.scalar(kelvins) {
            // As a literal: 500K is refused too.
            if !(COLDEST.0..=HOTTEST.0).contains(&v) {
                let (what, least, most) = ("a color temperature", COLDEST.0, HOTTEST.0);
                return Err(SemanticError::OutOfRange { what, lo: v, hi: v, least, most });
            }
            let kelvin = crate::quantity::Kelvin(v);
            return Ok(self.constant(Constant::Vector(Rgb::from_kelvin(kelvin).0), Kind::Color));
        }
        // Evenly in reciprocal temperature, where the color changes most evenly.
        const ENTRIES: usize = 256;
        let (first, last) = (1e6 / HOTTEST.0, 1e6 / COLDEST.0);
        let step = (last - first) / (ENTRIES - 1) as f64;
        let mut tables = Vec::with_capacity(3);
        for (part, name) in ["kelvin_red", "kelvin_green", "kelvin_blue"].into_iter().enumerate() {
            tables.push(self.table(name, || {
                let at = |n: usize| crate::quantity::Kelvin(1e6 / (first + step * n as f64));
                // Seven digits are plenty, and stay short in print.
                let short = |v: f64| (v * 1e7).round() / 1e7;
                (0..ENTRIES).map(|n| short(crate::color::black_body(at(n))[part])).collect()
            }));
        }
        let lo = self.number(COLDEST.0, Kind::Number)?;
        let hi = self.number(HOTTEST.0, Kind::Number)?;
        let kept = self.derived(Op::Clamp(kelvins, lo, hi), Kind::Number)?;
        let million = self.number(1e6 / step, Kind::Number)?;
        let start = self.number(first / step, Kind::Number)?;
        let mired = self.divide(million, kept)?;
        let place = self.subtract(mired, start)?;
        let mut parts = Vec::with_capacity(3);
        for table in tables {
            let part = self.derived(Op::Table(table, place), Kind::Number)?;
            let nothing = self.number(0.0, Kind::Number)?;
            parts.push(self.derived(Op::Max(part, nothing), Kind::Number)?);
        }
        let color = self.derived(Op::Parts(parts[0], parts[1], parts[2]), Kind::Color)?;
        self.derived(Op::NormalizedColor(color), Kind::Color)
    }

    /// The table of that name, made if there is none yet.
    pub(super) fn table(&mut self, name: &str, make: impl FnOnce() -> Vec<f64>) -> TableId {
        let known = self.program.tables.iter().position(|table| table.name == name);
        let at = known.unwrap_or_else(|| {
            let entries = Entries::Numbers(make());
            self.program.tables.push(Table { name: name.to_owned(), entries });
            self.program.tables.len() - 1
        });
        TableId(at as u32)
    }

    /// A table of just that, made if there is none yet.
    pub(super) fn table_of(&mut self, name: &str, entries: Entries) -> TableId {
        let known = self.program.tables.iter().position(|table| table.entries == entries);
        let at = known.unwrap_or_else(|| {
            self.program.tables.push(Table { name: name.to_owned(), entries });
            self.program.tables.len() - 1
        });
        TableId(at as u32)
    }
}
