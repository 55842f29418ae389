//! Colors of the drawings: a dark harbor background, warm paper inks.

use crate::shape::Ink;

/// Background.
pub const GROUND: Ink = Ink::solid(0x0f_15_19);
/// Background of every other lane.
pub const BAND: Ink = Ink::solid(0x14_1c_21);
/// Names and headings.
pub const INK: Ink = Ink::solid(0xec_e6_d8);
/// Secondary text.
pub const QUIET: Ink = Ink::solid(0x9a_a5_a8);
/// Lines of the ruler.
pub const GRID: Ink = Ink::solid(0x9a_a5_a8).alpha(38);
/// Guaranteed ranges.
pub const BOUND: Ink = Ink::solid(0x9a_a5_a8).alpha(150);
/// Findings of the checks.
pub const WARN: Ink = Ink::solid(0xff_8f_c7);
/// Increases.
pub const MORE: Ink = Ink::solid(0xff_d0_8a);
/// Decreases.
pub const LESS: Ink = Ink::solid(0x7f_b4_ff);
/// The path of the sun over a day, and its name.
pub const SUN: Ink = Ink::solid(0xff_e3_a6);
/// The path of the moon.
pub const MOON: Ink = Ink::solid(0xcd_d9_ec);
/// The playhead, the readout's line and keyboard focus, on pages.
pub const FOCUS: Ink = Ink::solid(0x8f_d3_ff);

#[cfg(test)]
mod tests {
    use super::*;

    fn linear(Ink([r, g, b, _]): Ink) -> [f64; 3] {
        [r, g, b].map(|v| {
            let v = f64::from(v) / 255.0;
            if v <= 0.040_45 { v / 12.92 } else { ((v + 0.055) / 1.055).powf(2.4) }
        })
    }

    /// The contrast of WCAG 2: relative luminances with a little flare.
    fn contrast(a: Ink, b: Ink) -> f64 {
        let luminance = |ink| {
            let [r, g, b] = linear(ink);
            0.2126 * r + 0.7152 * g + 0.0722 * b
        };
        let (a, b) = (luminance(a) + 0.05, luminance(b) + 0.05);
        a.max(b) / a.min(b)
    }

    /// A color as seen with a color vision deficiency (Machado, Oliveira and Fernandes 2009,
    /// severity 1), linear light.
    fn seen(ink: Ink, matrix: [[f64; 3]; 3]) -> [f64; 3] {
        let light = linear(ink);
        matrix.map(|row| row.iter().zip(light).map(|(m, v)| m * v).sum())
    }

    const LACKING: [[[f64; 3]; 3]; 3] = [
        [
            [0.152286, 1.052583, -0.204868],
            [0.114503, 0.786281, 0.099216],
            [-0.003882, -0.048116, 1.051998],
        ],
        [
            [0.367322, 0.860646, -0.227968],
            [0.280085, 0.672501, 0.047413],
            [-0.011820, 0.042940, 0.968881],
        ],
        [
            [1.255528, -0.076749, -0.178779],
            [-0.078411, 0.930809, 0.147602],
            [0.004733, 0.691367, 0.303900],
        ],
    ];

    #[test]
    fn inks_can_be_read_and_told_apart() {
        // As docs/looks.md says them, to a tenth.
        let told = [
            (INK, 14.8),
            (QUIET, 7.3),
            (WARN, 8.8),
            (FOCUS, 11.3),
            (MORE, 12.8),
            (LESS, 8.6),
            (SUN, 14.7),
            (MOON, 12.9),
        ];
        for (ink, wanted) in told {
            let found = contrast(ink, GROUND);
            assert!(found >= 4.5 && (found - wanted).abs() < 0.06, "{ink:?}: {found:.2}");
        }
        for matrix in LACKING {
            let (more, less) = (seen(MORE, matrix), seen(LESS, matrix));
            let apart = more.iter().zip(less).map(|(a, b)| (a - b).powi(2)).sum::<f64>().sqrt();
            assert!(apart > 0.3, "{apart}");
        }
    }
}
