//! `caltrin hear`

use std::path::{Path, PathBuf};

use caltrin::core::sound::{Advice, Band, Hearing, Marks};
use caltrin::draw::hearing;
use caltrin::sound;
use serde_json::json;

use super::sheet::{Format, Shown, in_terminal};
use super::{Done, Status, count, hearing_bar, say};

/// Tell what is heard in a sound, draw it, and suggest how a light could follow it.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin hear sounds/horn.wav
  caltrin hear sounds/horn.wav -o horn.png
  caltrin hear sounds/carillon.mid --json

WAV, FLAC, Ogg Vorbis, MP3 and MIDI files. Levels are parts of the loudest.")]
pub struct Arguments {
    /// The sound.
    file: PathBuf,
    /// The picture to write, .svg, .png or .html; without it the sound is shown as text.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// Colors of the text: true for 24 bits, 256, 16, or none; by default what the terminal can do.
    #[arg(long, value_name = "COLORS", conflicts_with = "output")]
    colors: Option<Shown>,
    /// Tell what was heard as JSON.
    #[arg(long, conflicts_with_all = ["output", "colors"])]
    json: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let format = arguments.output.as_deref().map(Format::of).transpose()?;
    let bar = hearing_bar();
    let heard = sound::hear(&arguments.file, &[], Some(&|name, part| bar.tell(name, part)))?;
    bar.finish();
    let advice = heard.advice();
    if arguments.json {
        say(serde_json::to_string_pretty(&as_json(&heard, &advice))?)?;
        return Ok(Status::Fine);
    }
    let name = arguments.file.display().to_string();
    let picture = hearing(&name, &heard, &advice);
    match (format, &arguments.output) {
        (Some(format), Some(output)) => format.write(&picture, output)?,
        _ => in_terminal(&picture, arguments.colors)?,
    }
    for line in in_words(&arguments.file, &heard, &advice) {
        say(line)?;
    }
    Ok(Status::Fine)
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

/// What was heard and what would suit it, line by line.
fn in_words(file: &Path, heard: &Hearing, advice: &Advice) -> Vec<String> {
    // The name that a book would give it.
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
    let [onsets, notes, beats] =
        [Marks::Onsets, Marks::Notes, Marks::Beats].map(|which| heard.marks(which).len() as u64);
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
        None => "Its level hardly changes, so a light that follows it just glows.".to_owned(),
        Some(_) => format!(
            "Its level goes from {} in the quietest tenth to {} in the loudest; it changes most in {}.",
            percent(advice.quiet),
            percent(advice.loud),
            word(advice.band)
        ),
    };
    lines.push(changes);
    lines.push("To begin with:".to_owned());
    let gate = advice.gate.map_or(String::new(), |gate| format!(", gate {}", percent(gate)));
    lines.push(format!("  sound {name} = \"{}\"", file.display()));
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
            "  event {name}_peak when {name}_level above {} again below {}   // {times}",
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
        "notes": marks(Marks::Notes),
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
