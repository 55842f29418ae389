//! `caltrin flash`

use std::fmt::Write;
use std::path::{Path, PathBuf};

use caltrin::core::ValidatedProgram;
use caltrin::core::flash::{
    FlashReport, FlashSample, FlashSearch, Flashing, LightFlashes, flashes, search,
};
use caltrin::core::quantity::Seconds;
use serde_json::{Value, json};

use super::{
    Done, Failure, Start, Status, count, failure, open_and_tell, parse_time, say, working,
};

/// Find flashes that break WCAG 2.2's limit of three in any second.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin flash pier.caltrin                       every light, 8 seeds, all rehearsals
  caltrin flash pier.caltrin --span 2min --seeds 50
  caltrin flash frames.csv --json                  samples, for example of a captured video

Each light is judged as if it filled the view, with its brightest moment as white: alone, and all \
lamps of an array together. A CSV file has the columns time and luminance, or time, r, g and b: \
seconds, and linear values from 0 to 1. General flashes are changes of relative luminance by 0.1 \
or more whose darker state is below 0.8; red flashes are changes into or out of a saturated red. \
docs/flash.md has the definitions, and what they do not cover.

Exit status: 1 if more than three flashes occur in any second.")]
pub struct Arguments {
    /// The lightbook, or a CSV file of samples.
    file: PathBuf,
    #[command(flatten)]
    start: Start,
    /// Length of each free run.
    #[arg(long, value_name = "TIME", default_value = "20s", value_parser = parse_time)]
    span: Seconds,
    /// Number of seeds of free runs.
    #[arg(long, value_name = "COUNT", default_value_t = 8, value_parser = clap::value_parser!(u32).range(1..=1000))]
    seeds: u32,
    /// Print the results as JSON.
    #[arg(long)]
    json: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let is_csv = arguments.file.extension().is_some_and(|end| end.eq_ignore_ascii_case("csv"));
    if is_csv && !arguments.start.is_default() {
        return Err(failure(
            "samples have no seed, inputs or hour",
            "omit `--seed`, `--set` and `--hour`",
        ));
    }
    if is_csv { of_samples(arguments) } else { of_book(arguments) }
}

/// The largest CSV file that is read.
const MOST_BYTES: u64 = 1 << 28;

fn of_samples(arguments: &Arguments) -> Done {
    let samples = read(&arguments.file)?;
    let report = flashes(&samples);
    let has_color = samples.iter().any(|sample| sample.color.is_some());
    if arguments.json {
        let mut told = figures(&report, has_color);
        told["samples"] = json!(samples.len());
        let times = samples.first().zip(samples.last());
        told["seconds"] = json!(times.map_or(0.0, |(first, last)| last.time - first.time));
        say(serde_json::to_string_pretty(&told)?)?;
    } else {
        let mut out = String::new();
        let _ = writeln!(out, "{}", kind("general flashes", &report.general));
        if has_color {
            let _ = writeln!(out, "{}", kind("red flashes", &report.red));
        }
        let verdict = if report.passes() { "passes" } else { "FAILS" };
        let _ = writeln!(
            out,
            "{}: {verdict} ({})",
            arguments.file.display(),
            count(samples.len() as u64, "sample")
        );
        if !report.passes() {
            let _ = writeln!(out, "  {}", remedy(&report));
        }
        say(out.trim_end())?;
    }
    Ok(if report.passes() { Status::Fine } else { Status::Problems })
}

/// One kind of flash in words.
fn kind(name: &str, of: &Flashing) -> String {
    match of.most {
        0 => format!("{name}: none"),
        _ => format!(
            "{name}: {} in the worst second, from {} s; limit 3",
            number(of.flashes()),
            seconds(of.worst)
        ),
    }
}

/// What makes a series pass.
fn remedy(report: &FlashReport) -> String {
    let speed = format!(
        "slow it down to {:.0}% of its speed (the limit is 3 flashes in a second)",
        (report.safe_speed() * 100.0).floor(),
    );
    match report.general.passes() {
        true => format!("{speed}, or use a less saturated red"),
        false => format!("{speed}, or keep it above 90% of its brightest"),
    }
}

fn figures(report: &FlashReport, has_color: bool) -> Value {
    let kind = |of: &Flashing| {
        json!({
            "passes": of.passes(), "flashes": of.flashes(), "from": of.worst,
            "changes": of.changes.len(),
        })
    };
    json!({
        "passes": report.passes(),
        "general": kind(&report.general),
        "red": if has_color { kind(&report.red) } else { Value::Null },
        "largest_change": report.largest,
        "safe_speed": report.safe_speed(),
    })
}

/// Reads samples. Columns are found by their names.
fn read(path: &Path) -> Result<Vec<FlashSample>, Failure> {
    let shown = path.display();
    let columns = "columns are `time,luminance` or `time,r,g,b`, with a heading";
    let bytes = caltrin::files::read(path, MOST_BYTES)
        .map_err(|why| failure(format!("cannot read `{shown}`: {why}"), columns))?;
    let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).from_reader(&bytes[..]);
    let wrong = |why: String| failure(format!("{shown}: {why}"), columns);
    let headings = reader.headers().map_err(|why| wrong(why.to_string()))?.clone();
    let named: Vec<String> = headings
        .iter()
        .map(|name| name.trim_start_matches('\u{feff}').to_ascii_lowercase())
        .collect();
    let place = |name: &str| named.iter().position(|own| own == name);
    let time = place("time").ok_or_else(|| wrong("there is no column `time`".to_owned()))?;
    let luminance = place("luminance");
    let color = place("r").zip(place("g")).zip(place("b")).map(|((r, g), b)| [r, g, b]);
    if luminance.is_none() && color.is_none() {
        let found = named.join(", ");
        return Err(wrong(format!(
            "there is no column `luminance`, nor `r`, `g` and `b`: {found}"
        )));
    }
    let mut samples: Vec<FlashSample> = Vec::new();
    for record in reader.records() {
        let record = record.map_err(|why| wrong(why.to_string()))?;
        let line = record.position().map_or(0, csv::Position::line);
        let number = |at: usize| -> Result<f64, Failure> {
            let text = record.get(at).unwrap_or_default();
            let known = text.parse::<f64>().ok().filter(|v| v.is_finite());
            known.ok_or_else(|| wrong(format!("line {line}: `{text}` is not a number")))
        };
        let t = number(time)?;
        if let Some(last) = samples.last().filter(|last| last.time >= t) {
            return Err(wrong(format!("line {line}: time {t} does not come after {}", last.time)));
        }
        samples.push(match color {
            Some([r, g, b]) => FlashSample::of_color(t, [number(r)?, number(g)?, number(b)?]),
            None => FlashSample::of_luminance(t, number(luminance.unwrap_or_default())?),
        });
    }
    if samples.is_empty() {
        return Err(wrong("there are no samples".to_owned()));
    }
    Ok(samples)
}

fn of_book(arguments: &Arguments) -> Done {
    let (opened, Some(checked)) = open_and_tell(&arguments.file)? else {
        return Ok(Status::Problems);
    };
    if arguments.span.0 <= 0.0 || arguments.span.0 > 3600.0 {
        return Err(failure("the span is above 0s and at most 1h", "for example: --span 1min"));
    }
    let start = arguments.start.state(&checked)?;
    let bar = working("searching for flashes");
    let asked =
        FlashSearch { span: arguments.span.0, seeds: arguments.seeds, ..FlashSearch::default() };
    let found = search(&checked, &start, asked);
    bar.finish_and_clear();
    let fine = found.iter().all(|light| light.worst.passes());
    if arguments.json {
        let lights: Vec<Value> = found.iter().map(|light| as_json(&checked, light)).collect();
        let told = json!({
            "passes": fine, "span": arguments.span.0, "seeds": arguments.seeds,
            "rehearsals": checked.program().rehearsals().len(), "lights": lights,
        });
        say(serde_json::to_string_pretty(&told)?)?;
    } else {
        table(&checked, &found)?;
        let failing = found.iter().filter(|light| !light.worst.passes()).count();
        say(match failing {
            0 => format!("{}: no light flashes more than three times in a second", opened.file),
            n => format!(
                "{}: {} of {} more than three times in a second",
                opened.file,
                n,
                match found.len() {
                    1 => "1 light flashes".to_owned(),
                    all => format!("{all} lights flash"),
                }
            ),
        })?;
        say(format!(
            "searched {} s with {} and {}, each light as if it filled the view; what this does not cover: docs/flash.md",
            number(arguments.span.0),
            count(u64::from(arguments.seeds), "seed"),
            count(checked.program().rehearsals().len() as u64, "rehearsal")
        ))?;
    }
    Ok(if fine { Status::Fine } else { Status::Problems })
}

fn table(checked: &ValidatedProgram, found: &[LightFlashes]) -> Result<(), Failure> {
    let name = |light: &LightFlashes| checked.program().light(light.light).name.clone();
    let wide = found.iter().map(|light| name(light).len()).max().unwrap_or(0);
    for light in found {
        let report = &light.worst;
        let what = match (light.proved, report.passes()) {
            (true, _) => "cannot flash".to_owned(),
            (false, _) if report.flashes() == 0.0 => "no flash found".to_owned(),
            (false, true) => format!("{} in the worst second", some(report.flashes(), "")),
            (false, false) => {
                let kind = if report.general.passes() { "red flashes" } else { "flashes" };
                format!(
                    "FAILS: {} {kind} in one second, {}",
                    number(report.flashes()),
                    place(light)
                )
            }
        };
        say(format!("{:wide$}  {what}", name(light)))?;
        if !report.passes() {
            say(format!("{:wide$}  {}", "", remedy(report)))?;
        }
    }
    Ok(())
}

/// Where the worst second of a light is.
fn place(light: &LightFlashes) -> String {
    let report = &light.worst;
    let worse = if report.general.passes() { &report.red } else { &report.general };
    let lamp = match light.place.lamp {
        Some(lamp) => format!("lamp {lamp}"),
        None => "all lamps together".to_owned(),
    };
    let run = match &light.place.rehearsal {
        Some(name) => format!("rehearsal {name}"),
        None => format!("seed {}", light.place.seed.0),
    };
    format!("from {} s ({lamp}, {run})", seconds(worse.worst))
}

fn as_json(checked: &ValidatedProgram, light: &LightFlashes) -> Value {
    let mut told = figures(&light.worst, true);
    told["light"] = json!(checked.program().light(light.light).name);
    told["cannot_flash"] = json!(light.proved);
    told["lamp"] = json!(light.place.lamp);
    told["seed"] = json!(light.place.seed.0);
    told["rehearsal"] = json!(light.place.rehearsal);
    told
}

/// A number of flashes in words.
fn some(flashes: f64, kind: &str) -> String {
    match flashes {
        1.0 => format!("1 {kind}flash"),
        flashes => format!("{} {kind}flashes", number(flashes)),
    }
}

/// A number without needless digits.
fn number(v: f64) -> String {
    format!("{}", (v * 10.0).round() / 10.0)
}

fn seconds(v: f64) -> String {
    format!("{:.2}", v)
}
