//! `caltrin compare`

use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::Arc;

use caltrin::core::Checked;
use caltrin::core::program::{LightId, Wanted};
use caltrin::core::quantity::{Hours, Seconds, Seed};
use caltrin::core::sound::Band;
use caltrin::draw::{Came, Change, CompareOptions, Side, compare, png, svg};
use caltrin::lang::Beside;
use caltrin::sound::{Ears, SoundError, hear_bytes};
use serde_json::json;

use super::{
    Done, Failure, Status, count, failure, lights, open_and_tell, parse_hour, parse_seed,
    parse_time, say, state_of, write_whole,
};
use crate::report;

/// Compare two books, one book at two git revisions, or two lights: what changed, in words and figures,
/// and on the same lanes.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin compare pier.caltrin pier-new.caltrin
  caltrin compare pier.caltrin --since HEAD -o change.png      against what was committed
  caltrin compare pier.caltrin --since v1 --until v2
  caltrin compare pier.caltrin --light quay.core --with ticket_hatch

A light that gives the same at every moment looked at is only counted. Both sides run with the same seed,
that of the second book unless you say another.")]
pub struct Arguments {
    /// The lightbook, or the first of two.
    book: PathBuf,
    /// The second lightbook.
    other: Option<PathBuf>,
    /// The git revision of the book that comes first.
    #[arg(long, value_name = "REVISION", conflicts_with = "other")]
    since: Option<String>,
    /// The git revision of the book that comes second; by default the file as it is.
    #[arg(long, value_name = "REVISION", requires = "since")]
    until: Option<String>,
    /// The light that comes first, against `--with` another of the same book.
    #[arg(long, value_name = "NAME", requires = "with", conflicts_with_all = ["other", "since"])]
    light: Option<String>,
    /// The light that comes second.
    #[arg(long, value_name = "NAME", requires = "light")]
    with: Option<String>,
    /// A picture to write, .svg or .png.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// First moment.
    #[arg(long, value_name = "TIME", default_value = "0s", value_parser = parse_time, allow_hyphen_values = true)]
    from: Seconds,
    /// Last moment.
    #[arg(long, value_name = "TIME", default_value = "20s", value_parser = parse_time, allow_hyphen_values = true)]
    to: Seconds,
    /// The seed of both runs.
    #[arg(long, value_parser = parse_seed)]
    seed: Option<Seed>,
    /// Set an input in both runs, as in `swell=40%`; may be given more than once.
    #[arg(long, value_name = "NAME=VALUE")]
    set: Vec<String>,
    /// The hour of the game's day at moment 0; by default as the book's clock has it.
    #[arg(long, value_name = "HOUR", value_parser = parse_hour)]
    hour: Option<Hours>,
    /// Width of the picture in pixels, 480 to 8192.
    #[arg(long, value_name = "PIXELS", default_value_t = 1280, value_parser = clap::value_parser!(u32).range(480..=8192))]
    width: u32,
    /// Tell what changed as JSON.
    #[arg(long)]
    json: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    if arguments.to.0 <= arguments.from.0 {
        return Err(failure("`--to` must lie after `--from`", "for example: --from 0s --to 20s"));
    }
    let ending = arguments.output.as_ref().map(|path| {
        path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase()).unwrap_or_default()
    });
    if ending.as_deref().is_some_and(|ending| !matches!(ending, "svg" | "png")) {
        return Err(failure("a comparison is drawn as .svg or .png", "for example: -o change.png"));
    }
    let Some([(first_name, first), (second_name, second)]) = sides(arguments)? else {
        return Ok(Status::Problems);
    };
    let seed = arguments.seed.unwrap_or(second.program().seed());
    let side = |name: String, checked| -> Result<Side<'_>, Failure> {
        Ok(Side {
            name,
            checked,
            start: state_of(checked, Some(seed), &arguments.set, arguments.hour)?,
        })
    };
    let options = CompareOptions {
        from: arguments.from,
        to: arguments.to,
        width: arguments.width,
        pair: match (&arguments.light, &arguments.with) {
            (Some(light), Some(with)) => Some((one(&first, light)?, one(&second, with)?)),
            _ => None,
        },
    };
    let (a, b) = (side(first_name, &first)?, side(second_name, &second)?);
    let (picture, changes) = compare(&a, &b, &options);
    tell(arguments, &a, &b, &changes)?;
    if let (Some(output), Some(ending)) = (&arguments.output, ending) {
        let bytes = if ending == "svg" { svg(&picture).into_bytes() } else { png(&picture)? };
        write_whole(output, &bytes)?;
        if !arguments.json {
            say(format!("wrote {} ({} x {})", output.display(), picture.width, picture.height))?;
        }
    }
    Ok(Status::Fine)
}

/// Both sides with their names; none if one has mistakes, which are told.
fn sides(arguments: &Arguments) -> Result<Option<[(String, Checked); 2]>, Failure> {
    let book = &arguments.book;
    let as_it_is = |path: &Path| -> Result<Option<(String, Checked)>, Failure> {
        let (_, checked) = open_and_tell(path)?;
        Ok(checked.map(|checked| (path.display().to_string(), checked)))
    };
    let pair = match (&arguments.other, &arguments.since, &arguments.light) {
        (Some(other), ..) => (as_it_is(book)?, as_it_is(other)?),
        (None, Some(since), _) => {
            let second = match &arguments.until {
                Some(until) => revision(book, until)?,
                None => as_it_is(book)?,
            };
            (revision(book, since)?, second)
        }
        (None, None, Some(light)) => {
            let named = |name: &str| -> Result<_, Failure> {
                Ok(as_it_is(book)?.map(|(_, checked)| (name.to_owned(), checked)))
            };
            let with = arguments.with.as_deref().unwrap_or_default();
            (named(light)?, named(with)?)
        }
        (None, None, None) => {
            return Err(failure(
                "there is nothing to compare with",
                "give a second book, `--since HEAD`, or `--light NAME --with NAME`",
            ));
        }
    };
    Ok(match pair {
        (Some(first), Some(second)) => Some([first, second]),
        _ => None,
    })
}

/// The book as a git revision has it; the books that it uses are of that revision too, and so are its sounds where git
/// has them.
fn revision(book: &Path, revision: &str) -> Result<Option<(String, Checked)>, Failure> {
    let folder = match book.parent() {
        Some(folder) if folder != Path::new("") => folder.to_owned(),
        _ => PathBuf::from("."),
    };
    if revision.starts_with('-') {
        return Err(failure(format!("`{revision}` is no revision"), "for example: --since HEAD~1"));
    }
    let show = |name: &str| -> Result<Vec<u8>, String> {
        let asked = Command::new("git")
            .arg("-C")
            .arg(&folder)
            .args(["show", &format!("{revision}:./{name}")])
            .output()
            .map_err(|why| format!("git cannot be started: {why}"))?;
        if !asked.status.success() {
            let said = String::from_utf8_lossy(&asked.stderr);
            let said = said.lines().next().unwrap_or_default();
            return Err(format!("git has no `{name}` at `{revision}`: {said}"));
        }
        Ok(asked.stdout)
    };
    let show_text = |name: &str| {
        String::from_utf8(show(name)?).map_err(|_| format!("`{name}` at `{revision}` is no text"))
    };
    let outside = |name: &str| name.split('/').any(|part| part == "..") || name.starts_with('/');
    let sounds = |name: &str, own: &[Band]| {
        let told = |fault: SoundError| fault.to_string();
        match show(name) {
            Ok(bytes) if !outside(name) => {
                hear_bytes(&bytes, name, own).map(Arc::new).map_err(told)
            }
            // Sounds are large, and often kept elsewhere.
            _ => Ears::new(&folder).hear(name, own).map_err(told),
        }
    };
    let name = book.file_name().map_or(String::new(), |name| name.to_string_lossy().into_owned());
    let text = show_text(&name).map_err(|why| Failure(why, None))?;
    let books = |used: &str| match used {
        caltrin::STOCK_NAME => Ok(caltrin::STOCK.to_owned()),
        used if outside(used) => {
            Err(format!("`{used}` lies outside of the book's folder; a book uses what is in it"))
        }
        used => show_text(used),
    };
    let beside = Beside { books: &books, sounds: &sounds };
    let mut opened = caltrin::read_beside(&text, &name, beside, Wanted::default());
    opened.file = format!("{} at {revision}", book.display());
    opened.sources[0].name.clone_from(&opened.file);
    if opened.checked.is_none() {
        report::diagnostics(&opened);
    }
    Ok(opened.checked.map(|checked| (opened.file, checked)))
}

fn one(checked: &Checked, name: &str) -> Result<LightId, Failure> {
    let found = lights(checked, std::slice::from_ref(&name.to_owned()))?;
    match found[..] {
        [one] => Ok(one),
        _ => Err(failure(format!("`{name}` is several lights"), "name one of them")),
    }
}

fn came(change: &Change) -> &'static str {
    match change.came {
        Came::Added => "added",
        Came::Removed => "removed",
        Came::Same => "same",
        Came::Changed => "changed",
    }
}

fn tell(
    arguments: &Arguments,
    a: &Side<'_>,
    b: &Side<'_>,
    changes: &[Change],
) -> Result<(), Failure> {
    if arguments.json {
        let all: Vec<_> = changes
            .iter()
            .map(|change| json!({ "light": change.light, "came": came(change), "words": change.words }))
            .collect();
        let all = json!({ "before": a.name, "after": b.name, "lights": all });
        return say(serde_json::to_string_pretty(&all)?);
    }
    let mut out = anstream::stdout().lock();
    let mut lines = vec![format!("before: {}", a.name), format!("after:  {}", b.name)];
    for change in changes.iter().filter(|change| change.came != Came::Same) {
        lines.push(format!("{} {}", change.light, came(change)));
        lines.extend(change.words.iter().map(|words| format!("  {words}")));
    }
    let same = changes.iter().filter(|change| change.came == Came::Same).count();
    lines.push(match same {
        0 => String::new(),
        n if n == changes.len() => format!("all {} give the same", count(n as u64, "light")),
        1 => "1 other gives the same".to_owned(),
        n => format!("{n} others give the same"),
    });
    for line in lines.iter().filter(|line| !line.is_empty()) {
        super::quiet_pipe(writeln!(out, "{line}"))?;
    }
    Ok(())
}
