//! Colors: linear light with Rec. 709 primaries.
//!
//! sRGB is read as IEC 61966-2-1 says. Color temperatures are Planck's law weighed with the CIE
//! 1931 2-degree observer (CIE 018:2019) and turned into Rec. 709 primaries with a D65 white. Daylight is the
//! CIE daylight illuminant of a correlated color temperature (CIE 015:2018). `hsl` and OKLab are those of CSS Color 4.

use std::sync::LazyLock;

use crate::observer::{FIRST_NM, OBSERVER, STEP_NM};
use crate::quantity::Kelvin;

/// A color in linear light, Rec. 709 primaries, D65 white; 1 is the display's or lamp's full.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rgb(pub [f64; 3]);

/// Lowest color temperature that can be written.
pub const COLDEST: Kelvin = Kelvin(1000.0);
/// Highest color temperature that can be written.
pub const HOTTEST: Kelvin = Kelvin(40_000.0);

/// Lowest and highest correlated color temperature of CIE daylight.
pub const DAYLIGHT: [Kelvin; 2] = [Kelvin(4000.0), Kelvin(25_000.0)];

/// OKLab's axes a and b, each from the roots of the three cone responses.
pub(crate) const HUE_AXES: [[f64; 3]; 2] = [
    [1.977_998_495_1, -2.428_592_205, 0.450_593_709_9],
    [0.025_904_037_1, 0.782_771_766_2, -0.808_675_766],
];

/// Back from the axes a and b to each root.
pub(crate) const HUE_BACK: [[f64; 2]; 3] = [
    [0.396_337_777_4, 0.215_803_757_3],
    [-0.105_561_345_8, -0.063_854_172_8],
    [-0.089_484_177_5, -1.291_485_548],
];

/// Where a color lies on OKLab's axes a and b, from the roots of its cone responses.
pub(crate) fn hue_axes(roots: [f64; 3]) -> [f64; 2] {
    HUE_AXES.map(|axis| axis.iter().zip(roots).map(|(share, root)| share * root).sum())
}

impl Rgb {
    /// From 8-bit sRGB, as in `#rrggbb`.
    pub fn from_srgb8(r: u8, g: u8, b: u8) -> Self {
        Rgb([r, g, b].map(|v| decode_srgb(f64::from(v) / 255.0))).rounded()
    }

    /// The light of a black body at a temperature from [`COLDEST`] to [`HOTTEST`], scaled so that
    /// its brightest part is 1. Below about 1900 K the true color lies outside Rec. 709; the
    /// missing part is 0.
    pub fn from_kelvin(temperature: Kelvin) -> Self {
        Rgb(black_body(temperature).map(|v| v.max(0.0))).brightest_at_one().rounded()
    }

    /// CIE daylight of a correlated color temperature within [`DAYLIGHT`], scaled so that its largest component is
    /// 1. 6504 K is D65, the white of sRGB.
    pub fn from_daylight(temperature: Kelvin) -> Self {
        Rgb(daylight(temperature).map(|v| v.max(0.0))).brightest_at_one().rounded()
    }

    /// From sRGB components, each 0 to 1.
    pub fn from_srgb(components: [f64; 3]) -> Self {
        Rgb(components.map(decode_srgb)).rounded()
    }

    /// From hue in degrees, saturation and lightness from 0 to 1, as CSS Color 4 defines `hsl()`.
    pub fn from_hsl(hue: f64, saturation: f64, lightness: f64) -> Self {
        let chroma = saturation * lightness.min(1.0 - lightness);
        Self::from_srgb([0.0, 8.0, 4.0].map(|n: f64| {
            let k = (n + hue / 30.0).rem_euclid(12.0);
            lightness - chroma * (k - 3.0).min(9.0 - k).clamp(-1.0, 1.0)
        }))
    }

    /// From OKLab: lightness from 0 to 1, axes a and b. Components below 0, outside Rec. 709, become 0.
    pub fn from_oklab([lightness, a, b]: [f64; 3]) -> Self {
        let roots = HUE_BACK.map(|[of_a, of_b]| lightness + of_a * a + of_b * b);
        Rgb([0, 1, 2].map(|part| crate::kernel::light_of(part, roots))).rounded()
    }

    /// As OKLab: lightness from 0 to 1, axes a and b. For display; blending uses the kernel.
    pub fn to_oklab(self) -> [f64; 3] {
        const CONES: [[f64; 3]; 3] = [
            [0.412_221_470_8, 0.536_332_536_3, 0.051_445_992_9],
            [0.211_903_498_2, 0.680_699_545_1, 0.107_396_956_6],
            [0.088_302_461_9, 0.281_718_837_6, 0.629_978_700_5],
        ];
        const AXES: [[f64; 3]; 3] = [
            [0.210_454_255_3, 0.793_617_785_0, -0.004_072_046_8],
            [1.977_998_495_1, -2.428_592_205_0, 0.450_593_709_9],
            [0.025_904_037_1, 0.782_771_766_2, -0.808_675_766_0],
        ];
        let by =
            |rows: [[f64; 3]; 3], [x, y, z]: [f64; 3]| rows.map(|[a, b, c]| a * x + b * y + c * z);
        by(AXES, by(CONES, self.0).map(f64::cbrt))
    }

    /// The largest of the three parts.
    pub fn brightest(self) -> f64 {
        let [r, g, b] = self.0;
        r.max(g).max(b)
    }

    /// The same hue with its brightest part at 1; black stays black.
    pub fn brightest_at_one(self) -> Self {
        let top = self.brightest();
        if top > 0.0 { Rgb(self.0.map(|v| v / top)) } else { self }
    }

    /// Seven decimal digits a part: what a baked color keeps, so that it stays short in print.
    fn rounded(self) -> Self {
        Rgb(self.0.map(|v| {
            let text = format!("{}", v as f32);
            text.parse().unwrap_or(v)
        }))
    }

    /// As 8-bit sRGB for a picture; parts above 1 are cut.
    pub fn to_srgb8(self) -> [u8; 3] {
        // The linear light at which each 8-bit step gives way to the next: rounding to the nearest
        // step is a search among them, and no power has to be taken for a pixel. The search begins
        // at the step that a coarse grid of light begins with.
        static STEPS: LazyLock<[f64; 255]> =
            LazyLock::new(|| std::array::from_fn(|n| decode_srgb((n as f64 + 0.5) / 255.0)));
        static GRID: LazyLock<[u8; 1025]> = LazyLock::new(|| {
            let first = |n: usize| STEPS.partition_point(|step| *step <= n as f64 / 1024.0);
            std::array::from_fn(|n| first(n) as u8)
        });
        let (steps, grid) = (&*STEPS, &*GRID);
        self.0.map(|v| {
            let mut n = grid[(v.clamp(0.0, 1.0) * 1024.0) as usize];
            while n < 255 && steps[usize::from(n)] <= v {
                n += 1;
            }
            n
        })
    }
}

/// The light of a black body with a luminance of 1, before what lies outside of Rec. 709 is cut off. It
/// changes smoothly with temperature.
pub(crate) fn black_body(temperature: Kelvin) -> [f64; 3] {
    let mut xyz = [0.0; 3];
    for (n, row) in OBSERVER.iter().enumerate() {
        let meters = (FIRST_NM + STEP_NM * n as f64) * 1e-9;
        // Second radiation constant as CIE 15 takes it for daylight and Planckian radiators.
        let exponent = 1.4388e-2 / (meters * temperature.0);
        let micro = meters * 1e6;
        let power = 1.0 / (micro * micro * micro * micro * micro * libm::expm1(exponent));
        for (sum, weight) in xyz.iter_mut().zip(row) {
            *sum += power * weight;
        }
    }
    let luminance = xyz[1];
    from_xyz(xyz.map(|v| v / luminance))
}

/// Daylight of a correlated color temperature with a luminance of 1, before what lies outside of Rec. 709 is cut off.
pub(crate) fn daylight(temperature: Kelvin) -> [f64; 3] {
    let r = 1e3 / temperature.0;
    let x = if temperature.0 <= 7000.0 {
        ((-4.607 * r + 2.9678) * r + 0.099_11) * r + 0.244_063
    } else {
        ((-2.0064 * r + 1.9018) * r + 0.247_48) * r + 0.237_04
    };
    let y = (-3.0 * x + 2.87) * x - 0.275;
    from_xyz([x / y, 1.0, (1.0 - x - y) / y])
}

/// One sRGB part, 0..1, as linear light (IEC 61966-2-1).
pub fn decode_srgb(v: f64) -> f64 {
    if v <= 0.04045 { v / 12.92 } else { libm::pow((v + 0.055) / 1.055, 2.4) }
}

/// One part of linear light, 0..1, as sRGB (IEC 61966-2-1).
pub fn encode_srgb(v: f64) -> f64 {
    if v <= 0.003_130_8 { v * 12.92 } else { 1.055 * libm::pow(v, 1.0 / 2.4) - 0.055 }
}

/// CIE XYZ to linear Rec. 709 (the matrix that follows from the primaries and white of ITU-R
/// BT.709).
fn from_xyz([x, y, z]: [f64; 3]) -> [f64; 3] {
    [
        3.240_969_941_904_521 * x - 1.537_383_177_570_093 * y - 0.498_610_760_293_003 * z,
        -0.969_243_636_280_88 * x + 1.875_967_501_507_72 * y + 0.041_555_057_407_175 * z,
        0.055_630_079_696_993 * x - 0.203_976_958_888_976 * y + 1.056_971_514_242_878 * z,
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn srgb_goes_out_as_it_came_in() {
        for v in 0..=255u8 {
            assert_eq!(Rgb::from_srgb8(v, 255 - v, 7).to_srgb8(), [v, 255 - v, 7]);
        }
        assert!((decode_srgb(0.5) - 0.214_041_14).abs() < 1e-8);
        for n in 0..=10_000 {
            let v = f64::from(n) / 10_000.0;
            let plain = (encode_srgb(v) * 255.0 + 0.5) as u8;
            assert_eq!(Rgb([v; 3]).to_srgb8(), [plain; 3], "{v}");
        }
        assert_eq!(Rgb([-0.5, 0.0, 7.0]).to_srgb8(), [0, 0, 255]);
    }

    /// The chromaticity of CIE standard illuminant A, a black body of 2855.54 K with this second
    /// radiation constant, is published as x = 0.44758, y = 0.40745.
    #[test]
    fn illuminant_a_has_its_published_chromaticity() {
        let (x, y) = (0.44758, 0.40745);
        let published = Rgb(from_xyz([x / y, 1.0, (1.0 - x - y) / y])).brightest_at_one();
        let ours = Rgb::from_kelvin(Kelvin(2855.54));
        for (a, b) in ours.0.iter().zip(published.0) {
            assert!((a - b).abs() < 2e-4, "{ours:?} {published:?}");
        }
    }

    /// The chromaticities of D50, D65 and D75 are published in CIE 015:2018, for 5003 K, 6504 K and 7504 K.
    #[test]
    fn daylight_has_its_published_chromaticities() {
        for (kelvin, x, y) in
            [(5003.0, 0.34567, 0.35850), (6504.0, 0.31272, 0.32903), (7504.0, 0.29902, 0.31485)]
        {
            let published = Rgb(from_xyz([x / y, 1.0, (1.0 - x - y) / y])).brightest_at_one();
            let ours = Rgb::from_daylight(Kelvin(kelvin));
            for (a, b) in ours.0.iter().zip(published.0) {
                assert!((a - b).abs() < 2e-3, "{kelvin} K: {ours:?} {published:?}");
            }
        }
    }

    /// Pairs from the examples of CSS Color 4.
    #[test]
    fn oklab_and_back_is_the_same_color() {
        for n in 0..64u8 {
            let color = Rgb::from_srgb8(n * 4, 255 - n * 3, n ^ 21);
            let back = Rgb::from_oklab(color.to_oklab());
            for (a, b) in color.0.iter().zip(back.0) {
                assert!((a - b).abs() < 1e-5, "{color:?} {back:?}");
            }
        }
    }

    #[test]
    fn hsl_and_oklab_are_those_of_css() {
        let close = |ours: Rgb, r: u8, g: u8, b: u8| {
            let wanted = [r, g, b];
            let found = ours.to_srgb8();
            assert!(
                found.iter().zip(wanted).all(|(a, b)| a.abs_diff(b) <= 1),
                "{found:?} {wanted:?}"
            );
        };
        close(Rgb::from_hsl(30.0, 1.0, 0.5), 255, 128, 0);
        close(Rgb::from_hsl(120.0, 1.0, 0.25), 0, 128, 0);
        close(Rgb::from_hsl(-90.0, 0.4, 0.6), 153, 112, 194);
        close(Rgb::from_oklab([0.401_01, 0.114_7, 0.045_3]), 0x7d, 0x23, 0x29);
        close(Rgb::from_oklab([0.596_86, 0.100_9, 0.119_2]), 0xc6, 0x5d, 0x07);
        close(Rgb::from_oklab([1.0, 0.0, 0.0]), 255, 255, 255);
        close(Rgb::from_oklab([0.627_955, 0.224_863, 0.125_846]), 255, 0, 0);
    }

    #[test]
    fn warmer_is_redder_and_every_color_has_its_brightest_part_at_one() {
        let mut blue_before = -1.0;
        for k in (1000..=40_000).step_by(100) {
            let c = Rgb::from_kelvin(Kelvin(f64::from(k)));
            assert_eq!(c.brightest(), 1.0, "{k}");
            let blue_to_red = c.0[2] / c.0[0];
            assert!(blue_to_red >= blue_before, "{k}");
            blue_before = blue_to_red;
        }
    }
}
