//! `caltrin rehearse`

use std::fmt::Write;
use std::path::PathBuf;

use caltrin::core::ValidatedProgram;
use caltrin::core::program::{Constant, Rehearsal, Size, Space};
use caltrin::core::quantity::Seed;
use caltrin::core::rehearsal::{Player, Unmet, rehearse};
use caltrin::core::run::{State, TakenValue};

use super::page::needs_reach;
use super::{Done, Failure, Status, count, open_and_tell, parse_seed, rehearsal_named, say};

/// Run a lightbook's rehearsals and check their expectations.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin rehearse pier.caltrin                      all rehearsals of the book
  caltrin rehearse pier.caltrin evening
  caltrin rehearse pier.caltrin --seeds 200          with 200 seeds, the book's first
  caltrin rehearse pier.caltrin --log                also print the notices that are sent

Exit status: 1 if something expected was not so.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Only these rehearsals.
    #[arg(value_name = "NAME")]
    names: Vec<String>,
    /// Random seed of the run; default: the book's.
    #[arg(long, value_parser = parse_seed, conflicts_with = "seeds")]
    seed: Option<Seed>,
    /// Number of seeds to run each with.
    #[arg(long, value_name = "COUNT", default_value_t = 1, value_parser = clap::value_parser!(u32).range(1..=100_000))]
    seeds: u32,
    /// Print every notice with its time, of the first seed.
    #[arg(long)]
    log: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    let program = checked.program();
    let chosen: Vec<usize> = match &arguments.names[..] {
        [] => (0..program.rehearsals().len()).collect(),
        names => names
            .iter()
            .map(|name| rehearsal_named(&checked, name))
            .collect::<Result<_, Failure>>()?,
    };
    if chosen.is_empty() {
        say(format!("{}: the book has no rehearsal", opened.file))?;
        return Ok(Status::Fine);
    }
    let first = arguments.seed.unwrap_or(program.seed());
    let seeds: Vec<Seed> = (0..arguments.seeds).map(|n| Seed(first.0.wrapping_add(n))).collect();
    let (mut met, mut unmet) = (0, 0);
    for rehearsal in chosen.iter().map(|n| &program.rehearsals()[*n]) {
        let mut misses: Vec<Vec<(Seed, Unmet)>> = vec![Vec::new(); rehearsal.expectations.len()];
        for seed in &seeds {
            for (n, missed) in rehearse(&checked, rehearsal, *seed).into_iter().enumerate() {
                misses[n].extend(missed.map(|missed| (*seed, missed)));
            }
        }
        let with = match seeds.len() {
            1 => format!("seed {}", first.0),
            n => count(n as u64, "seed"),
        };
        let mut out = format!("{} ({} s, {with})\n", rehearsal.name, short(rehearsal.end.0));
        for (expectation, misses) in rehearsal.expectations.iter().zip(&misses) {
            let mark = if misses.is_empty() { "ok    " } else { "FAILED" };
            let at = short(expectation.from.0);
            let _ = writeln!(out, "  {mark}  {at:>7} s  {}", expectation.words);
            let Some((seed, missed)) = misses.first() else {
                met += 1;
                continue;
            };
            unmet += 1;
            let lamp = missed.lamp.map_or(String::new(), |lamp| format!(" of lamp {lamp}"));
            let often = match misses.len() {
                _ if seeds.len() == 1 => String::new(),
                n => format!("; with {n} of {} seeds, first {}", seeds.len(), seed.0),
            };
            let flashes = missed.light.map_or(String::new(), |light| {
                format!(" flashes in one second of `{}`", program.light(light).name)
            });
            let _ = writeln!(
                out,
                "          {}:{}: found {}{flashes}{lamp} at {} s{often}",
                opened.sources.get(expectation.source).map_or(&opened.file, |source| &source.name),
                expectation.line,
                short(missed.found),
                short(missed.at.0)
            );
        }
        if arguments.log {
            log(&checked, rehearsal, first, &mut out)?;
        }
        say(out.trim_end())?;
    }
    say(match unmet {
        0 => format!("{}: all expectations met ({})", opened.file, count(met, "expectation")),
        unmet => {
            format!("{}: {unmet} of {} failed", opened.file, count(met + unmet, "expectation"))
        }
    })?;
    Ok(if unmet == 0 { Status::Fine } else { Status::Problems })
}

/// The notices that a rehearsal sends with a seed, a line each.
fn log(
    checked: &ValidatedProgram,
    rehearsal: &Rehearsal,
    seed: Seed,
    out: &mut String,
) -> Result<(), Failure> {
    let start = State::start(checked.program()).with_seed(seed);
    needs_reach(checked, &start, Some(rehearsal), rehearsal.end)?;
    let mut player = Player::new(checked, start, Some(rehearsal));
    for notice in player.notices(rehearsal.end) {
        let text = notice.text.map_or(String::new(), |text| format!(" \"{text}\""));
        let from = match (notice.from, light_size(checked, notice.from)) {
            ("", _) => String::new(),
            (from, Some(Size::One)) => format!(" from {from}"),
            (from, _) => format!(" from {from}[{}]", notice.lamp),
        };
        let at = notice.position.map_or(String::new(), |at| {
            let [x, y, z] = at.map(|v| short(f64::from(v)));
            format!(" at ({x}, {y}, {z})")
        });
        let space = checked.program().space();
        let values = notice.values.iter().map(|value| format!(" {}", shown(value, space)));
        let values: String = values.collect();
        let moment = short(notice.moment.0);
        let _ = writeln!(out, "  sent    {moment:>7} s  {}{text}{values}{from}{at}", notice.name);
    }
    let dropped = player.run().dropped_notices();
    if dropped > 0 {
        let _ = writeln!(out, "  {} dropped because the queue was full", count(dropped, "notice"));
    }
    Ok(())
}

/// A value of a notice with its name and unit.
fn shown(value: &TakenValue<'_>, space: Space) -> String {
    let text = match value.value {
        Constant::OnOff(on) => if on { "on" } else { "off" }.to_owned(),
        Constant::Vector(parts) => {
            let [x, y, z] = parts.map(short);
            format!("({x}, {y}, {z})")
        }
        Constant::Scalar(v) => format!("{} {}", short(v), space.symbol(value.kind)),
    };
    format!("{} {}", value.name, text.trim_end())
}

/// How many lamps a light of that name has; `None` for another name, such as that of an instance.
fn light_size(checked: &ValidatedProgram, name: &str) -> Option<Size> {
    let program = checked.program();
    program.light_named(name).map(|id| program.light(id).size)
}

/// A number with four digits after the point at the most.
fn short(v: f64) -> f64 {
    (v * 1e4).round() / 1e4
}
