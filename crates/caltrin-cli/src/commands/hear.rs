//! `caltrin hear`

use std::path::{Component, Path, PathBuf};

use caltrin::core::sound::{Advice, Band, Hearing, Marks, Measure, STEPS};
use caltrin::draw::hearing;
use caltrin::files::Inputs;
use caltrin::sound;
use serde_json::json;

use super::sheet::{Format, Shown, in_terminal};
use super::{Done, Failure, Goal, Status, count, hearing_bar, quiet_pipe, say};
use crate::report;

/// Analyze a sound, draw it, and suggest how a light could follow it.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin hear sounds/horn.wav
  caltrin hear sounds/horn.wav -o horn.png
  caltrin hear sounds/carillon.mid --json
  caltrin hear sounds/horn.wav --csv > horn.csv

WAV, FLAC, Ogg Vorbis, MP3 and MIDI files. Levels are parts of the loudest.")]
pub struct Arguments {
    /// The sound.
    file: PathBuf,
    /// Picture to write, .svg, .png or .html; without it the analysis is printed as text.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// Colors of the text: true for 24 bits, 256, 16, or none; default: detected.
    #[arg(long, value_name = "COLORS", conflicts_with = "output")]
    colors: Option<Shown>,
    /// Print the analysis as JSON.
    #[arg(long, conflicts_with_all = ["output", "colors"])]
    json: bool,
    /// Print the measures as CSV, 240 rows per second: seconds, level, peak, low, mid, high, onset, and note and
    /// beat of a MIDI file. An onset, note or beat is in the row of its moment.
    #[arg(long, conflicts_with_all = ["output", "colors", "json"])]
    csv: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let format = arguments.output.as_deref().map(Format::of).transpose()?;
    let bar = hearing_bar();
    let heard = sound::hear(&arguments.file, &[], Some(&|name, part| bar.tell(name, part)))?;
    bar.finish();
    if let Some(cut) = heard.cut() {
        let message = cut.message(&arguments.file.display().to_string(), heard.length());
        report::warning(&message, "save or copy the file again");
    }
    if arguments.csv {
        return as_csv(&heard);
    }
    let advice = heard.advice();
    if arguments.json {
        say(serde_json::to_string_pretty(&as_json(&heard, &advice))?)?;
        return Ok(Status::Fine);
    }
    let name = arguments.file.display().to_string();
    let picture = hearing(&name, &heard, &advice);
    match (format, &arguments.output) {
        (Some(format), Some(output)) => {
            let inputs = Inputs::new([arguments.file.clone()]);
            format.write(&picture, &Goal::named(output), &inputs)?;
        }
        _ => in_terminal(&picture, arguments.colors, true)?,
    }
    for line in in_words(&arguments.file, &heard, &advice) {
        say(line)?;
    }
    Ok(Status::Fine)
}

/// A row for each step of the sound.
fn as_csv(heard: &Hearing) -> Done {
    let measures = [
        ("level", Measure::Level),
        ("peak", Measure::Peak),
        ("low", Measure::Band(Band::Low)),
        ("mid", Measure::Band(Band::Mid)),
        ("high", Measure::Band(Band::High)),
    ];
    let columns = measures.map(|(_, measure)| heard.measured(measure));
    let mut marks = vec![("onset", Marks::Onsets)];
    if !heard.marks(Marks::SourceNotes).is_empty() {
        marks.extend([("note", Marks::SourceNotes), ("beat", Marks::Beats)]);
    }
    let per_second = f64::from(STEPS);
    let step = |at: f64| (at * per_second).round() as usize;
    let mut places = vec![0; marks.len()];
    let mut table = csv::Writer::from_writer(std::io::stdout().lock());
    let names = measures.map(|(name, _)| name);
    let mut row: Vec<String> = vec!["seconds".to_owned()];
    row.extend(
        names.iter().chain(marks.iter().map(|(name, _)| name)).map(|name| (*name).to_owned()),
    );
    write_row(&mut table, &row)?;
    for n in 0..heard.steps() {
        row.clear();
        row.push(format!("{:.6}", n as f64 / per_second));
        row.extend(columns.iter().map(|column| format!("{:.6}", column[n])));
        for ((_, which), place) in marks.iter().zip(&mut places) {
            let all = heard.marks(*which);
            let from = *place;
            while all.get(*place).is_some_and(|mark| step(mark.at) <= n || n + 1 == heard.steps()) {
                *place += 1;
            }
            // The last of several in one step counts, as for followers.
            let last = all[from..*place].last();
            row.push(last.map_or(String::new(), |mark| format!("{:.6}", mark.value)));
        }
        write_row(&mut table, &row)?;
    }
    quiet_pipe(table.flush())?;
    Ok(Status::Fine)
}

fn write_row<W: std::io::Write>(table: &mut csv::Writer<W>, row: &[String]) -> Result<(), Failure> {
    table.write_record(row).or_else(|refused| match refused.into_kind() {
        csv::ErrorKind::Io(cause) => quiet_pipe(Err(cause)),
        other => Err(Failure(format!("cannot write the table: {other:?}"), None)),
    })
}

fn percent(v: f64) -> String {
    format!("{:.0}%", v * 100.0)
}

fn millis(v: f64) -> String {
    format!("{:.0}ms", v * 1e3)
}

fn word(band: Band) -> &'static str {
    Band::NAMED.iter().find(|(_, known)| *known == band).map_or("low", |(name, _)| name)
}

/// The analysis and the suggestions as text.
fn in_words(file: &Path, heard: &Hearing, advice: &Advice) -> Vec<String> {
    // The name of the sound in a book.
    let stem = file.file_stem().map_or(String::new(), |stem| stem.to_string_lossy().into_owned());
    let name: String = stem
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' })
        .collect();
    let name = if name.starts_with(|c: char| c.is_ascii_alphabetic()) {
        name
    } else {
        format!("sound_{name}")
    };
    let mut lines = Vec::new();
    let [onsets, notes, beats] = [Marks::Onsets, Marks::SourceNotes, Marks::Beats]
        .map(|which| heard.marks(which).len() as u64);
    let length = heard.length().0;
    let what = match notes {
        0 => match onsets {
            0 => "nothing in it begins clearly".to_owned(),
            n => format!("{}, about one every {:.1} s", count(n, "onset"), length / n as f64),
        },
        n => format!("{} and {}", count(n, "note"), count(beats, "beat")),
    };
    lines.push(format!("{}: {length:.2} s, {what}.", file.display()));
    let changes = match advice.threshold {
        None => "Its level hardly changes, so a light that follows it glows steadily.".to_owned(),
        Some(_) => format!(
            "Its level is {} in the quietest tenth and {} in the loudest; it changes most in {}.",
            percent(advice.quiet),
            percent(advice.loud),
            word(advice.band)
        ),
    };
    lines.push(changes);
    lines.push("To begin with:".to_owned());
    let gate = advice.gate.map_or(String::new(), |gate| format!(", gate {}", percent(gate)));
    // A book reads only files in or below its folder.
    let is_inside =
        file.components().all(|part| matches!(part, Component::Normal(_) | Component::CurDir));
    let written: PathBuf = match file.file_name() {
        Some(last) if !is_inside => PathBuf::from(last),
        _ => file.components().filter(|part| *part != Component::CurDir).collect(),
    };
    let note = if is_inside { "" } else { "   // copy the file into the book's folder first" };
    // Paths in a book have forward slashes on every system.
    let written = written.iter().map(|part| part.to_string_lossy()).collect::<Vec<_>>().join("/");
    lines.push(format!("  sound {name} = \"{written}\"{note}"));
    let (attack, release) = (millis(advice.attack.0), millis(advice.release.0));
    lines.push(format!(
        "  signal {name}_level = follow({name}, attack {attack}, release {release}{gate})"
    ));
    if let Some([above, again]) = advice.threshold {
        let times = match advice.passed {
            0 => "the smoothed level may not reach it".to_owned(),
            n => format!("{} in the sound", count(n as u64, "time")),
        };
        lines.push(format!(
            "  event {name}_peak when {name}_level above {} rearm below {}   // {times}",
            percent(above),
            percent(again)
        ));
    }
    if notes > 0 {
        lines.push(format!("  event {name}_note at {name}.note"));
        lines.push(format!(
            "  event {name}_bar at {name}.beat below 2   // the first beat of each bar"
        ));
    } else if onsets > 1 {
        lines.push(format!("  event {name}_hit at {name}.onset above 40%"));
    }
    lines
}

fn as_json(heard: &Hearing, advice: &Advice) -> serde_json::Value {
    let marks = |which: Marks| -> Vec<_> {
        heard
            .marks(which)
            .iter()
            .map(|mark| json!({ "at": mark.at, "value": mark.value }))
            .collect()
    };
    json!({
        "length": heard.length().0,
        "onsets": marks(Marks::Onsets),
        "notes": marks(Marks::SourceNotes),
        "beats": marks(Marks::Beats),
        "quiet": advice.quiet,
        "loud": advice.loud,
        "band": word(advice.band),
        "suggested": {
            "attack": advice.attack.0,
            "release": advice.release.0,
            "above": advice.threshold.map(|[above, _]| above),
            "again": advice.threshold.map(|[_, again]| again),
            "gate": advice.gate,
        },
    })
}
