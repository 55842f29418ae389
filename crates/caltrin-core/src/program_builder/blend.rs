//! Blending and color: interpolation, range mapping, hues and color temperatures.

use crate::color::{HUE_AXES, HUE_BACK, Rgb, decode_srgb};
use crate::curve::Easing;
use crate::kind::Kind;
use crate::program::{Constant, Entries, ExprId, Op, Table, TableId, Wave};
use crate::quantity::Kelvin;
use crate::semantic_error::SemanticError;

use super::ProgramBuilder;

/// White points of one kind, by color temperature.
struct Whites {
    /// The lowest and the highest temperature.
    range: [Kelvin; 2],
    /// The color of a temperature.
    exact: fn(Kelvin) -> Rgb,
    /// The names of the tables of red, green and blue.
    names: [&'static str; 3],
    /// The color before clipping to Rec. 709, which changes smoothly.
    smooth: fn(Kelvin) -> [f64; 3],
}

impl ProgramBuilder {
    /// Interpolates from `a` at `s` = 0 to `b` at `s` = 1, clamped to both. Colors are blended in
    /// OKLab, or in linear light if `linear`.
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
                    let (from, to) = (self.cone_root(cone, a)?, self.cone_root(cone, b)?);
                    roots.push(self.derived(Op::Lerp(from, to, s), Kind::Number)?);
                }
                return self.color_of_cones([roots[0], roots[1], roots[2]]);
            }
            (kind @ (Kind::Color | Kind::Point), other) if kind == other => kind,
            _ => self.ordered(a, b, "blend")?,
        };
        self.derived(Op::Lerp(a, b, s), kind)
    }

    /// The root of a cone's response to a color. A color that is blended of others is made of such roots: they are taken
    /// as they are, in place of turning them to light and back.
    pub(super) fn cone_root(&mut self, cone: u8, color: ExprId) -> Result<ExprId, SemanticError> {
        match self.program().expr(color).op {
            Op::FromCones(l, m, s) if self.is_blend(color) => Ok([l, m, s][usize::from(cone)]),
            Op::Select(when, a, b) if self.is_blend(a) || self.is_blend(b) => {
                let (a, b) = (self.cone_root(cone, a)?, self.cone_root(cone, b)?);
                self.derived(Op::Select(when, a, b), Kind::Number)
            }
            _ => self.derived(Op::ConeRoot(cone, color), Kind::Number),
        }
    }

    /// Whether a color lies between others, so that no part of its light is cut off at 0 but by rounding.
    fn is_blend(&self, color: ExprId) -> bool {
        let program = self.program();
        let Op::FromCones(l, m, s) = program.expr(color).op else { return false };
        let between = |root: ExprId| matches!(program.expr(root).op, Op::Lerp(..) | Op::Curve(..));
        program.blends.contains_key(&color) || [l, m, s].into_iter().all(between)
    }

    /// A number, clamped to 0..1 and eased.
    pub fn eased(&mut self, u: ExprId, easing: Easing) -> Result<ExprId, SemanticError> {
        self.expect(u, Kind::Number)?;
        let (lo, hi) = (self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let u = self.derived(Op::Clamp(u, lo, hi), Kind::Number)?;
        match easing {
            Easing::Linear => Ok(u),
            easing => self.derived(Op::Eased(easing, u), Kind::Number),
        }
    }

    /// Same, with the result clamped to 0..1 if the easing overshoots: for levels.
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

    /// Maps the range `from` to the range `to`; values outside are clamped.
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

    /// A smooth threshold: 0 below, 1 above, with a transition of width `over` around `at`.
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

    /// Rotates the hue of a color by an angle, in OKLab; lightness and chroma are kept.
    pub fn turn_hue(&mut self, color: ExprId, angle: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(color, Kind::Color)?;
        self.expect(angle, Kind::Angle)?;
        let mut roots = Vec::with_capacity(3);
        for cone in 0..3 {
            roots.push(self.cone_root(cone, color)?);
        }
        let a = self.weighed(&roots, &HUE_AXES[0])?;
        let b = self.weighed(&roots, &HUE_AXES[1])?;
        let full = self.number(360.0, Kind::Angle)?;
        let turns = self.divide(angle, full)?;
        let [sine, cosine] = self.sine_and_cosine(turns)?;
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

    /// A sine wave in -1..1, lowest at whole turns.
    pub(crate) fn full_wave(&mut self, turns: ExprId) -> Result<ExprId, SemanticError> {
        let level = self.derived(Op::Wave(Wave::Sine, turns), Kind::Number)?;
        let (two, one) = (self.number(2.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let double = self.multiply(level, two)?;
        self.subtract(double, one)
    }

    /// A color scaled in linear light.
    pub fn scaled(&mut self, color: ExprId, by: ExprId) -> Result<ExprId, SemanticError> {
        self.expect(color, Kind::Color)?;
        self.expect(by, Kind::Number)?;
        self.derived(Op::Multiply(color, by), Kind::Color)
    }

    /// The color of a black body at a varying temperature in kelvins, clamped to
    /// [`crate::color::COLDEST`] and [`crate::color::HOTTEST`].
    pub fn kelvin(&mut self, kelvins: ExprId) -> Result<ExprId, SemanticError> {
        use crate::color::{COLDEST, HOTTEST, Rgb, black_body};
        self.temperature(
            kelvins,
            &Whites {
                range: [COLDEST, HOTTEST],
                exact: Rgb::from_kelvin,
                names: ["kelvin_red", "kelvin_green", "kelvin_blue"],
                smooth: black_body,
            },
        )
    }

    /// The color of CIE daylight at a varying temperature in kelvins, clamped to
    /// [`crate::color::DAYLIGHT`].
    pub fn daylight(&mut self, kelvins: ExprId) -> Result<ExprId, SemanticError> {
        use crate::color::{DAYLIGHT, Rgb, daylight};
        self.temperature(
            kelvins,
            &Whites {
                range: DAYLIGHT,
                exact: Rgb::from_daylight,
                names: ["daylight_red", "daylight_green", "daylight_blue"],
                smooth: daylight,
            },
        )
    }

    /// The color of a varying temperature, from tables; a constant one is exact.
    fn temperature(&mut self, kelvins: ExprId, whites: &Whites) -> Result<ExprId, SemanticError> {
        let [coldest, hottest] = whites.range;
        self.expect(kelvins, Kind::Number)?;
        if let Some(v) = self.scalar(kelvins) {
            // As a literal: 500K is refused too.
            if !(coldest.0..=hottest.0).contains(&v) {
                let (what, least, most) = ("a color temperature", coldest.0, hottest.0);
                return Err(SemanticError::OutOfRange { what, lo: v, hi: v, least, most });
            }
            return Ok(self.constant(Constant::Vector((whites.exact)(Kelvin(v)).0), Kind::Color));
        }
        // Evenly in reciprocal temperature, where the color changes most evenly.
        const ENTRIES: usize = 256;
        let (first, last) = (1e6 / hottest.0, 1e6 / coldest.0);
        let step = (last - first) / (ENTRIES - 1) as f64;
        let mut tables = Vec::with_capacity(3);
        for (part, name) in whites.names.into_iter().enumerate() {
            tables.push(self.table(name, || {
                let at = |n: usize| Kelvin(1e6 / (first + step * n as f64));
                // Seven digits are plenty, and stay short in print.
                let short = |v: f64| (v * 1e7).round() / 1e7;
                (0..ENTRIES).map(|n| short((whites.smooth)(at(n))[part])).collect()
            }));
        }
        let lo = self.number(coldest.0, Kind::Number)?;
        let hi = self.number(hottest.0, Kind::Number)?;
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

    /// A color from sRGB components, each clamped to 0..1.
    pub fn srgb(&mut self, components: [ExprId; 3]) -> Result<ExprId, SemanticError> {
        if let Some(known) = self.scalars(components)? {
            let color = Rgb::from_srgb(known.map(|v| v.clamp(0.0, 1.0)));
            return Ok(self.constant(Constant::Vector(color.0), Kind::Color));
        }
        // The 8-bit steps are exact; between them the table is linear.
        let table = self.table("srgb_to_linear", || {
            let short = |v: f64| (v * 1e7).round() / 1e7;
            (0..=255).map(|n| short(decode_srgb(f64::from(n) / 255.0))).collect()
        });
        let (lo, hi) = (self.number(0.0, Kind::Number)?, self.number(1.0, Kind::Number)?);
        let steps = self.number(255.0, Kind::Number)?;
        let mut linear = components;
        for component in &mut linear {
            let inside = self.derived(Op::Clamp(*component, lo, hi), Kind::Number)?;
            let place = self.multiply(inside, steps)?;
            *component = self.derived(Op::Table(table, place), Kind::Number)?;
        }
        self.derived(Op::Parts(linear[0], linear[1], linear[2]), Kind::Color)
    }

    /// A color from hue (an angle), saturation and lightness (both clamped to 0..1), as CSS Color 4
    /// defines `hsl()`.
    pub fn hsl(
        &mut self,
        hue: ExprId,
        saturation: ExprId,
        lightness: ExprId,
    ) -> Result<ExprId, SemanticError> {
        self.expect(hue, Kind::Angle)?;
        if let (Some(h), Some(s), Some(l)) =
            (self.scalar(hue), self.scalar(saturation), self.scalar(lightness))
        {
            self.expect(saturation, Kind::Number)?;
            self.expect(lightness, Kind::Number)?;
            let color = Rgb::from_hsl(h, s.clamp(0.0, 1.0), l.clamp(0.0, 1.0));
            return Ok(self.constant(Constant::Vector(color.0), Kind::Color));
        }
        let number = |builder: &mut Self, v| builder.number(v, Kind::Number);
        let (nothing, one, three) = (number(self, 0.0)?, number(self, 1.0)?, number(self, 3.0)?);
        let (six, less) = (number(self, 6.0)?, number(self, -1.0)?);
        let full = self.number(360.0, Kind::Angle)?;
        let turns = self.divide(hue, full)?;
        let saturation = self.clamp(saturation, nothing, one)?;
        let lightness = self.clamp(lightness, nothing, one)?;
        let rest = self.subtract(one, lightness)?;
        let room = self.min(lightness, rest)?;
        let chroma = self.multiply(room, saturation)?;
        let mut components = [nothing; 3];
        for (component, twelfths) in components.iter_mut().zip([0.0, 8.0, 4.0]) {
            // In CSS min(k - 3, 9 - k), where k counts twelfths of a turn: a triangle wave between -3 and 3.
            let ahead = number(self, twelfths / 12.0)?;
            let at = self.add(turns, ahead)?;
            let level = self.wave(Wave::Triangle, at)?;
            let wide = self.multiply(level, six)?;
            let wave = self.subtract(wide, three)?;
            let wave = self.clamp(wave, less, one)?;
            let part = self.multiply(chroma, wave)?;
            *component = self.subtract(lightness, part)?;
        }
        self.srgb(components)
    }

    /// A color from OKLab's lightness (0 to 1) and axes a and b. Negative components, outside Rec.
    /// 709, become 0.
    pub fn oklab(&mut self, parts: [ExprId; 3]) -> Result<ExprId, SemanticError> {
        if let Some(known) = self.scalars(parts)? {
            let color = Rgb::from_oklab(known);
            return Ok(self.constant(Constant::Vector(color.0), Kind::Color));
        }
        let [lightness, a, b] = parts;
        let mut roots = [lightness; 3];
        for (root, back) in roots.iter_mut().zip(HUE_BACK) {
            let moved = self.weighed(&[a, b], &back)?;
            *root = self.add(lightness, moved)?;
        }
        self.color_of_cones(roots)
    }

    /// A color from OKLab's lightness (0 to 1), chroma and hue.
    pub fn oklch(
        &mut self,
        lightness: ExprId,
        chroma: ExprId,
        hue: ExprId,
    ) -> Result<ExprId, SemanticError> {
        self.expect(chroma, Kind::Number)?;
        self.expect(hue, Kind::Angle)?;
        let full = self.number(360.0, Kind::Angle)?;
        let turns = self.divide(hue, full)?;
        let [sine, cosine] = self.sine_and_cosine(turns)?;
        let (a, b) = (self.multiply(chroma, cosine)?, self.multiply(chroma, sine)?);
        self.oklab([lightness, a, b])
    }

    /// Sine and cosine of an angle in turns.
    fn sine_and_cosine(&mut self, turns: ExprId) -> Result<[ExprId; 2], SemanticError> {
        // A wave is lowest at whole turns: sine and cosine lie a quarter and a half turn on.
        let quarter = self.number(0.25, Kind::Number)?;
        let on = self.add(turns, quarter)?;
        let sine = self.full_wave(on)?;
        let on = self.add(on, quarter)?;
        Ok([sine, self.full_wave(on)?])
    }

    /// Three constants, or `None` if one varies.
    fn scalars(&self, all: [ExprId; 3]) -> Result<Option<[f64; 3]>, SemanticError> {
        let mut known = [0.0; 3];
        let mut whole = true;
        for (v, id) in known.iter_mut().zip(all) {
            self.expect(id, Kind::Number)?;
            match self.scalar(id) {
                Some(scalar) => *v = scalar,
                None => whole = false,
            }
        }
        Ok(whole.then_some(known))
    }

    /// The table with this name, created on first use.
    pub(super) fn table(&mut self, name: &str, make: impl FnOnce() -> Vec<f64>) -> TableId {
        let known = self.program.tables.iter().position(|table| table.name == name);
        let at = known.unwrap_or_else(|| {
            let entries = Entries::Numbers(make());
            self.program.tables.push(Table { name: name.to_owned(), entries });
            self.program.tables.len() - 1
        });
        TableId(at as u32)
    }

    /// A table with this content, created on first use.
    pub(super) fn table_of(&mut self, name: &str, entries: Entries) -> TableId {
        let known = self.program.tables.iter().position(|table| table.entries == entries);
        let at = known.unwrap_or_else(|| {
            self.program.tables.push(Table { name: name.to_owned(), entries });
            self.program.tables.len() - 1
        });
        TableId(at as u32)
    }
}
