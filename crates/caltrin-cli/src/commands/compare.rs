//! `caltrin compare`

use std::collections::BTreeSet;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::Command;
use std::sync::Arc;

use caltrin::Opened;
use caltrin::core::ValidatedProgram;
use caltrin::core::program::{LightId, Program, Wanted};
use caltrin::core::quantity::{Hours, Seconds, Seed};
use caltrin::core::sound::Band;
use caltrin::draw::shape::Picture;
use caltrin::draw::{Came, Change, CompareOptions, Side, When, compare, png, svg};
use caltrin::files::Inputs;
use caltrin::lang::Resources;
use caltrin::sound::{SoundError, SoundLoader, hear_bytes};
use serde_json::json;

use super::{
    Done, Failure, Goal, Status, cache, count, failure, lights, needs_clock, open_and_tell,
    parse_hour, parse_seed, parse_when, rehearsal_named, say, span_asked, state_of,
};
use crate::report;

/// Compare two books, two git revisions of one book, or two lights, in words, figures and shared lanes.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin compare pier.caltrin pier-new.caltrin
  caltrin compare pier.caltrin --since HEAD -o change.png      compare with the last commit
  caltrin compare pier.caltrin --since v1 --until v2
  caltrin compare pier.caltrin pier-new.caltrin --rehearsal last_ferry
  caltrin compare pier.caltrin --light quay.core --with ticket_hatch

Unchanged lights are only counted. Both sides run with the same seed, that of the second book by default.")]
pub struct Arguments {
    /// The lightbook, or the first of two.
    book: PathBuf,
    /// The second lightbook.
    other: Option<PathBuf>,
    /// Git revision of the first version.
    #[arg(long, value_name = "REVISION", conflicts_with = "other")]
    since: Option<String>,
    /// Git revision of the second version; default: the current file.
    #[arg(long, value_name = "REVISION", requires = "since")]
    until: Option<String>,
    /// First light; compare it with `--with`, another light of the same book.
    #[arg(long, value_name = "NAME", requires = "with", conflicts_with_all = ["other", "since"])]
    light: Option<String>,
    /// Second light.
    #[arg(long, value_name = "NAME", requires = "light")]
    with: Option<String>,
    /// Write a picture, .svg or .png.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// First moment, or hour of the game's day; default: the first 20 s, every rehearsal of both sides, and the day
    /// if the book has a clock.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    from: Option<When>,
    /// Last moment, or hour.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    to: Option<When>,
    /// Compare only this rehearsal.
    #[arg(long, value_name = "NAME")]
    rehearsal: Option<String>,
    /// Random seed of both runs.
    #[arg(long, value_parser = parse_seed)]
    seed: Option<Seed>,
    /// Set an input in both runs, as in `swell=40%`; repeatable.
    #[arg(long, value_name = "NAME=VALUE")]
    set: Vec<String>,
    /// Hour of the game's day at moment 0; default: the start of the book's clock.
    #[arg(long, value_name = "HOUR", value_parser = parse_hour)]
    hour: Option<Hours>,
    /// Width of the picture in pixels, 480 to 8192.
    #[arg(long, value_name = "PIXELS", default_value_t = 1280, value_parser = clap::value_parser!(u32).range(480..=8192))]
    width: u32,
    /// Print the changes as JSON.
    #[arg(long)]
    json: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let ending = arguments.output.as_ref().map(|path| {
        path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase()).unwrap_or_default()
    });
    if ending.as_deref().is_some_and(|ending| !matches!(ending, "svg" | "png")) {
        return Err(failure(
            "a comparison is written as .svg or .png",
            "for example: -o change.png",
        ));
    }
    let Some([first, second]) = sides(arguments)? else {
        return Ok(Status::Problems);
    };
    let files = first.files.iter().chain(&second.files).chain([&arguments.book]).cloned();
    let inputs = Inputs::new(files);
    let (first_name, second_name) = (first.name, second.name);
    let is_same_text = first.text == second.text;
    let (first, second) = (first.checked, second.checked);
    let span = span(arguments, &second)?;
    if matches!(span, Some(Covers { hour: Some(_), .. })) {
        needs_clock(&first)?;
    }
    let seed = arguments.seed.unwrap_or(second.program().seed());
    let side = |name: String, checked, hour: Option<Hours>| -> Result<Side<'_>, Failure> {
        let start = state_of(checked, Some(seed), &arguments.set, hour.or(arguments.hour))?;
        Ok(Side { name, checked, start })
    };
    let pair = match (&arguments.light, &arguments.with) {
        (Some(light), Some(with)) => Some((one(&first, light)?, one(&second, with)?)),
        _ => None,
    };
    let mut looked: Vec<(Covers, Picture, Vec<Change>)> = Vec::new();
    for one in covers(arguments, span, [&first, &second])? {
        let options = CompareOptions {
            from: one.from,
            to: one.to,
            width: arguments.width,
            pair,
            rehearsal: one.rehearsal.clone(),
            day: one.day,
        };
        let (a, b) = (
            side(first_name.clone(), &first, one.hour)?,
            side(second_name.clone(), &second, one.hour)?,
        );
        let (picture, changes) = compare(&a, &b, &options);
        looked.push((one, picture, changes));
    }
    tell(arguments, (&first_name, &second_name, is_same_text), &looked)?;
    if let (Some(output), Some(ending)) = (&arguments.output, ending) {
        // The picture shows the first of them in which something differs.
        let differs =
            |changes: &[Change]| changes.iter().any(|change| change.came == Came::Changed);
        let shown = looked.iter().find(|(.., changes)| differs(changes)).unwrap_or(&looked[0]);
        let picture = &shown.1;
        let bytes = if ending == "svg" { svg(picture).into_bytes() } else { png(picture)? };
        Goal::named(output).write(&bytes, &inputs)?;
        if !arguments.json {
            let of =
                if looked.len() > 1 { format!(", {}", shown.0.words()) } else { String::new() };
            say(format!(
                "wrote {} ({} x {}{of})",
                output.display(),
                picture.width,
                picture.height
            ))?;
        }
    }
    Ok(Status::Fine)
}

/// What is compared: a span of a run, at an hour or in a rehearsal, or the whole day.
#[derive(Clone, Debug)]
struct Covers {
    from: Seconds,
    to: Seconds,
    hour: Option<Hours>,
    rehearsal: Option<String>,
    day: bool,
}

impl Covers {
    fn span(from: f64, to: f64) -> Covers {
        Covers { from: Seconds(from), to: Seconds(to), hour: None, rehearsal: None, day: false }
    }

    /// In words, for example `the rehearsal last_ferry, 48 s`.
    fn words(&self) -> String {
        let span = match self.from.0 {
            0.0 => format!("{} s", self.to.0),
            from => format!("{from} s to {} s", self.to.0),
        };
        match (&self.rehearsal, self.hour) {
            _ if self.day => "the 24 hours of the day".to_owned(),
            (Some(name), _) => format!("the rehearsal {name}, {span}"),
            (None, Some(hour)) => format!("{span} from {}", hour.to_clock()),
            (None, None) if self.from.0 == 0.0 => format!("the first {span}"),
            (None, None) => span,
        }
    }
}

/// The span that is asked for, if one is.
fn span(arguments: &Arguments, checked: &ValidatedProgram) -> Result<Option<Covers>, Failure> {
    if arguments.from.is_none() && arguments.to.is_none() {
        return Ok(None);
    }
    let asked = span_asked(checked, arguments.from, arguments.to)?;
    let to = asked.to.map_or(asked.from.0 + 20.0, |to| to.0);
    if to <= asked.from.0 {
        return Err(failure("`--to` must be after `--from`", "for example: --from 0s --to 20s"));
    }
    Ok(Some(Covers { hour: asked.hour, ..Covers::span(asked.from.0, to) }))
}

/// All that is compared: what is asked for or, by default, the start of a run, each rehearsal of both sides, and the day.
fn covers(
    arguments: &Arguments,
    span: Option<Covers>,
    sides: [&ValidatedProgram; 2],
) -> Result<Vec<Covers>, Failure> {
    let [first, second] = sides.map(ValidatedProgram::program);
    let named = |name: &str| {
        let end = |program: &Program| {
            let found = program.rehearsals().iter().find(|rehearsal| rehearsal.name == name);
            found.map(|rehearsal| rehearsal.end.0)
        };
        Some(end(first)?.max(end(second)?))
    };
    if let Some(name) = &arguments.rehearsal {
        rehearsal_named(sides[1], name)?;
        rehearsal_named(sides[0], name)?;
        let end = named(name).unwrap_or(20.0);
        let span = span.unwrap_or(Covers::span(0.0, end));
        return Ok(vec![Covers { rehearsal: Some(name.clone()), ..span }]);
    }
    if let Some(span) = span {
        return Ok(vec![span]);
    }
    let mut all = vec![Covers::span(0.0, 20.0)];
    // Two lights are mostly compared by how they move.
    if arguments.light.is_some() {
        return Ok(all);
    }
    for rehearsal in second.rehearsals() {
        let end = named(&rehearsal.name);
        all.extend(end.map(|end| Covers {
            rehearsal: Some(rehearsal.name.clone()),
            ..Covers::span(0.0, end)
        }));
    }
    if first.clock().is_some() && second.clock().is_some() {
        all.push(Covers { day: true, ..Covers::span(0.0, 20.0) });
    }
    Ok(all)
}

/// A book as it was read.
struct Read {
    name: String,
    checked: ValidatedProgram,
    text: String,
    files: Vec<PathBuf>,
}

impl Read {
    fn of(name: String, opened: &Opened) -> Option<Read> {
        let checked = opened.checked.clone()?;
        let texts: Vec<&str> = opened.sources.iter().map(|source| source.text.as_str()).collect();
        Some(Read { name, checked, text: texts.join("\0"), files: opened.files() })
    }
}

/// Both sides with their names; none if one has errors, which are printed.
fn sides(arguments: &Arguments) -> Result<Option<[Read; 2]>, Failure> {
    let book = &arguments.book;
    let as_it_is = |path: &Path| -> Result<Option<Read>, Failure> {
        let (opened, _) = open_and_tell(path)?;
        Ok(Read::of(path.display().to_string(), &opened))
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
                Ok(as_it_is(book)?.map(|read| Read { name: name.to_owned(), ..read }))
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
fn revision(book: &Path, revision: &str) -> Result<Option<Read>, Failure> {
    let folder = match book.parent() {
        Some(folder) if folder != Path::new("") => folder.to_owned(),
        _ => PathBuf::from("."),
    };
    if revision.starts_with('-') {
        return Err(failure(
            format!("`{revision}` is not a revision"),
            "for example: --since HEAD~1",
        ));
    }
    let cache = cache();
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
        String::from_utf8(show(name)?).map_err(|_| format!("`{name}` at `{revision}` is not text"))
    };
    let outside = |name: &str| name.split('/').any(|part| part == "..") || name.starts_with('/');
    let sounds = |name: &str, own: &[Band]| {
        let told = |fault: SoundError| fault.to_string();
        match show(name) {
            Ok(bytes) if !outside(name) => {
                hear_bytes(&bytes, name, own).map(Arc::new).map_err(told)
            }
            // Sounds are large, and often kept elsewhere.
            _ => SoundLoader::new(&folder).keeping(cache.as_ref()).hear(name, own).map_err(told),
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
    let beside = Resources { books: &books, sounds: &sounds };
    let mut opened = caltrin::read_with_resources(&text, &name, beside, Wanted::default());
    opened.file = format!("{} at {revision}", book.display());
    opened.sources[0].name.clone_from(&opened.file);
    if opened.checked.is_none() {
        report::diagnostics(&opened);
    }
    Ok(Read::of(opened.file.clone(), &opened))
}

fn one(checked: &ValidatedProgram, name: &str) -> Result<LightId, Failure> {
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
    (before, after, is_same_text): (&str, &str, bool),
    looked: &[(Covers, Picture, Vec<Change>)],
) -> Result<(), Failure> {
    let covered: Vec<String> = looked.iter().map(|(covers, ..)| covers.words()).collect();
    // What is said of a light is said once, where it is first seen.
    let mut lines = Vec::new();
    let mut all: Vec<serde_json::Value> = Vec::new();
    let mut changed: BTreeSet<&str> = BTreeSet::new();
    for (n, (covers, _, changes)) in looked.iter().enumerate() {
        for change in changes {
            let added = matches!(change.came, Came::Added | Came::Removed);
            if change.came == Came::Same || (added && n > 0) {
                if n == 0 && arguments.json {
                    all.push(json!({ "light": change.light, "came": came(change), "words": change.words, "in": covers.words() }));
                }
                continue;
            }
            if !changed.insert(&change.light) {
                continue;
            }
            all.push(json!({ "light": change.light, "came": came(change), "words": change.words, "in": covers.words() }));
            let place = if looked.len() > 1 && !added {
                format!(" in {}", covers.words())
            } else {
                String::new()
            };
            lines.push(match arguments.light {
                Some(_) => format!("{}{place}", change.light.replace(" and ", " differs from ")),
                None => format!("{} {}{place}", change.light, came(change)),
            });
            lines.extend(change.words.iter().map(|words| format!("  {words}")));
        }
    }
    if arguments.json {
        let all = json!({ "before": before, "after": after, "compared": covered, "lights": all });
        return say(serde_json::to_string_pretty(&all)?);
    }
    let heads = match arguments.light {
        Some(_) => [format!("first:  {before}"), format!("second: {after}")],
        None => [format!("before: {before}"), format!("after:  {after}")],
    };
    let total = looked.first().map_or(0, |(.., changes)| changes.len());
    let same = total - changed.len();
    let end = match same {
        0 => String::new(),
        n if n == total && arguments.light.is_some() => "both give the same".to_owned(),
        n if n == total && is_same_text => "the books are the same".to_owned(),
        n if n == total => format!(
            "the texts differ, but the lights do not: no difference in {}",
            count(n as u64, "light")
        ),
        n => format!("{} unchanged", count(n as u64, "other light")),
    };
    lines.push(end);
    lines.push(format!("compared: {}", covered.join("; ")));
    let mut out = anstream::stdout().lock();
    for line in heads.iter().chain(&lines).filter(|line| !line.is_empty()) {
        super::quiet_pipe(writeln!(out, "{line}"))?;
    }
    Ok(())
}
