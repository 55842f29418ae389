//! Flashes of the lights of a program, each as if it filled the view.

use super::{FlashReport, FlashSample, LUMINANCE_CHANGE, flashes};
use crate::kind::ChangeRate;
use crate::player::Player;
use crate::program::{Field, LightId, LightKind, Rehearsal};
use crate::quantity::{Seconds, Seed};
use crate::run::State;
use crate::validated::ValidatedProgram;

/// What is searched for flashes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct FlashSearch {
    /// Length of each free run, in seconds.
    pub span: f64,
    /// Samples per second.
    pub rate: f64,
    /// Number of seeds of free runs, from the start state's on. Rehearsals run with the first.
    pub seeds: u32,
    /// Largest number of lamps of an array that are searched one by one; others are taken evenly from it.
    pub lamps: u32,
}

impl Default for FlashSearch {
    /// 20 s at 120 samples a second with 8 seeds; up to 32 lamps of an array.
    fn default() -> Self {
        FlashSearch { span: 20.0, rate: 120.0, seeds: 8, lamps: 32 }
    }
}

impl FlashSearch {
    /// The time of sample `n`. Samples lie between the multiples of common periods: at such a moment a jump could be dated
    /// one sample late by rounding, and a wave of exactly 3 flashes a second would fail.
    fn time(&self, n: u64) -> f64 {
        (n as f64 + 0.37) / self.rate
    }
}

/// Where flashes were found.
#[derive(Clone, Debug, PartialEq)]
pub struct FlashPlace {
    /// The lamp; `None` for all lamps of the array together.
    pub lamp: Option<u32>,
    /// The seed.
    pub seed: Seed,
    /// The rehearsal's name; `None` for a free run.
    pub rehearsal: Option<String>,
}

/// The flashes of a light.
#[derive(Clone, Debug, PartialEq)]
pub struct LightFlashes {
    /// The light.
    pub light: LightId,
    /// The worst case: the one with most flashes in a second.
    pub worst: FlashReport,
    /// Where it was found.
    pub place: FlashPlace,
    /// Whether its guaranteed ranges prove that it cannot flash; then nothing was searched.
    pub proved: bool,
}

/// Searches all lights of a program, outputs aside.
pub fn search(checked: &ValidatedProgram, start: &State, search: FlashSearch) -> Vec<LightFlashes> {
    let program = checked.program();
    let lights = program.lights().filter(|(_, light)| light.kind != LightKind::Output);
    lights.map(|(id, _)| of_light(checked, start, search, id)).collect()
}

/// Judges all lights, outputs aside, between two times of a rehearsal that is played from a state.
pub fn rehearsed(
    checked: &ValidatedProgram,
    start: &State,
    rehearsal: &Rehearsal,
    [from, to]: [Seconds; 2],
) -> Vec<LightFlashes> {
    let search = FlashSearch::default();
    let run = || Search {
        state: start.clone(),
        rehearsal: Some(rehearsal),
        from: from.0,
        span: to.0 - from.0,
    };
    let lights = checked.program().lights().filter(|(_, light)| light.kind != LightKind::Output);
    lights.map(|(id, _)| judge(checked, id, &[run()], search)).collect()
}

/// Whether the brightness of a light changes by less than a general flash, and its color not at all.
fn cannot_flash(checked: &ValidatedProgram, id: LightId) -> bool {
    let (program, light) = (checked.program(), checked.program().light(id));
    let still = |field: Field| {
        let rate = light.drive(field).map(|value| program.expr(value).change_rate);
        matches!(rate, None | Some(ChangeRate::Constant | ChangeRate::Fixed))
    };
    let near = checked.bounds(id, Field::Intensity).is_none_or(|bounds| {
        let level = bounds.part(0);
        level.hi <= 0.0 || level.lo > level.hi * (1.0 - LUMINANCE_CHANGE)
    });
    still(Field::Color) && (near || still(Field::Intensity))
}

/// One run that is searched.
struct Search<'a> {
    state: State,
    rehearsal: Option<&'a Rehearsal>,
    from: f64,
    span: f64,
}

fn of_light(
    checked: &ValidatedProgram,
    start: &State,
    search: FlashSearch,
    id: LightId,
) -> LightFlashes {
    let mut runs: Vec<Search<'_>> = (0..search.seeds)
        .map(|n| {
            let seed = Seed(start.seed.0.wrapping_add(n));
            Search {
                state: start.clone().with_seed(seed),
                rehearsal: None,
                from: 0.0,
                span: search.span,
            }
        })
        .collect();
    runs.extend(checked.program().rehearsals().iter().map(|rehearsal| Search {
        state: start.clone(),
        rehearsal: Some(rehearsal),
        from: 0.0,
        span: rehearsal.end.0,
    }));
    judge(checked, id, &runs, search)
}

/// The worst case of a light over runs.
fn judge(
    checked: &ValidatedProgram,
    id: LightId,
    runs: &[Search<'_>],
    search: FlashSearch,
) -> LightFlashes {
    let seed = runs.first().map_or(Seed(0), |run| run.state.seed);
    let place = FlashPlace { lamp: Some(0), seed, rehearsal: None };
    let mut found = LightFlashes { light: id, worst: FlashReport::default(), place, proved: false };
    if cannot_flash(checked, id) {
        found.proved = true;
        return found;
    }
    let count = checked.program().light(id).size.shown();
    let step = f64::from(count) / f64::from(count.min(search.lamps).max(1));
    let lamps: Vec<u32> =
        (0..count.min(search.lamps)).map(|n| (f64::from(n) * step) as u32).collect();
    let series: Vec<Vec<Vec<[f64; 3]>>> = runs
        .iter()
        .map(|run| {
            let moments: Vec<Seconds> = (0..(run.span * search.rate).ceil() as u64)
                .map(|n| Seconds(run.from + search.time(n)))
                .collect();
            lit(checked, run, id, &lamps, &moments)
        })
        .collect();
    // The brightest that it was found to be is the brightest of a display.
    let all = || series.iter().flatten().flatten();
    let top = all().flatten().copied().fold(0.0, f64::max);
    if top <= 0.0 {
        return found;
    }
    for (run, lamps_of_run) in runs.iter().zip(&series) {
        let mut consider = |lamp: Option<u32>, colors: &mut dyn Iterator<Item = [f64; 3]>| {
            let samples: Vec<FlashSample> = colors
                .enumerate()
                .map(|(n, color)| FlashSample::of_color(run.from + search.time(n as u64), color))
                .collect();
            let report = flashes(&samples);
            let is_worse = report.flashes() > found.worst.flashes()
                || report.flashes() == found.worst.flashes()
                    && report.largest > found.worst.largest;
            if is_worse {
                let rehearsal = run.rehearsal.map(|rehearsal| rehearsal.name.clone());
                found.place = FlashPlace { lamp, seed: run.state.seed, rehearsal };
                found.worst = report;
            }
        };
        for (lamp, colors) in lamps.iter().zip(lamps_of_run) {
            consider(Some(*lamp), &mut colors.iter().map(|color| color.map(|part| part / top)));
        }
        if lamps_of_run.len() > 1 {
            let whole = top * lamps_of_run.len() as f64;
            let moments = lamps_of_run[0].len();
            consider(
                None,
                &mut (0..moments).map(|n| {
                    [0, 1, 2].map(|part| {
                        lamps_of_run.iter().map(|colors| colors[n][part]).sum::<f64>() / whole
                    })
                }),
            );
        }
    }
    found
}

/// The color times the intensity of each lamp at moments.
fn lit(
    checked: &ValidatedProgram,
    run: &Search<'_>,
    id: LightId,
    lamps: &[u32],
    moments: &[Seconds],
) -> Vec<Vec<[f64; 3]>> {
    let light = checked.program().light(id);
    let mut player = Player::new(checked, run.state.clone(), run.rehearsal);
    let width = player.run().width(id);
    let mut values = vec![vec![0.0; width * moments.len()]; lamps.len()];
    let asked: Vec<_> = lamps.iter().map(|lamp| ((id, *lamp), 0..width)).collect();
    let mut outs: Vec<&mut [f32]> = values.iter_mut().map(Vec::as_mut_slice).collect();
    player.read_many(&asked, moments, &mut outs);
    let (intensity, color) = (light.places(Field::Intensity), light.places(Field::Color));
    let of = |lamp: &[f32]| {
        let level = intensity.as_ref().map_or(1.0, |at| f64::from(lamp[at.start]).max(0.0));
        match &color {
            Some(at) => [0, 1, 2].map(|part| level * f64::from(lamp[at.start + part])),
            None => [level; 3],
        }
    };
    values.iter().map(|lamp| lamp.chunks_exact(width.max(1)).map(of).collect()).collect()
}
