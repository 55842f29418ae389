//! `caltrin compare`

use std::collections::BTreeSet;
use std::io::Write;
use std::path::{Path, PathBuf};

use caltrin::Opened;
use caltrin::core::ValidatedProgram;
use caltrin::core::program::{LightId, Program};
use caltrin::core::quantity::{Hours, Seconds, Seed};
use caltrin::draw::shape::Picture;
use caltrin::draw::{
    Came, Change, CompareOptions, Exposure, PlaceOptions, PlacePair, Side, Texture, View, When,
    apng, compare, png, svg,
};
use caltrin::files::Inputs;
use serde_json::json;

use super::view::{From as ViewFrom, eye_named};
use super::{
    Done, Failure, Goal, Status, cache, count, failure, lights, needs_clock, open_and_tell,
    parse_hour, parse_seed, parse_when, rehearsal_named, say, span_asked, state_of,
};
use crate::{git, report};

/// Compare two books, two git revisions of one book, or two lights, in words, figures and shared lanes.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin compare pier.caltrin pier-new.caltrin
  caltrin compare pier.caltrin --since HEAD -o change.png      compare with the last commit
  caltrin compare pier.caltrin --since v1 --until v2
  caltrin compare pier.caltrin pier-new.caltrin --rehearsal last_ferry
  caltrin compare pier.caltrin --light quay.core --with ticket_hatch
  caltrin compare pier.caltrin --since HEAD --view --at 19:00 --at 07:00 -o places.png
  caltrin compare pier.caltrin --since HEAD --eye ramp --to 6s -o places.apng

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
    /// Draw the lit place of both side by side, from `above` (the default) or from the `front`; .apng is an animation.
    #[arg(long, value_enum, value_name = "VIEW", num_args = 0..=1, require_equals = true, default_missing_value = "above")]
    view: Option<ViewFrom>,
    /// Draw the view through this eye of both books.
    #[arg(long, value_name = "NAME", conflicts_with = "view")]
    eye: Option<String>,
    /// Moment of the view, or hour of the game's day; repeatable. An animation runs from `--from` to `--to`.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    at: Vec<When>,
    /// Frames per second of an animation.
    #[arg(long, value_name = "NUMBER", default_value_t = 20, value_parser = clap::value_parser!(u16).range(1..=60))]
    rate: u16,
    /// Print the changes as JSON.
    #[arg(long)]
    json: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let ending = arguments.output.as_ref().map(|path| {
        path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase()).unwrap_or_default()
    });
    let places = arguments.view.is_some() || arguments.eye.is_some();
    match ending.as_deref() {
        None | Some("svg" | "png") => {}
        Some("apng") if places => {}
        Some("apng") => {
            return Err(failure(
                "lanes cannot be written as an animation",
                "`--view` draws the place as one",
            ));
        }
        Some(_) => {
            let help = "for example: -o change.png";
            return Err(failure("a comparison is written as .svg or .png", help));
        }
    }
    if !places && !arguments.at.is_empty() {
        return Err(failure("`--at` requires `--view` or `--eye`", "for example: --view --at 2s"));
    }
    let Some([first, second]) = sides(arguments)? else {
        return Ok(Status::Problems);
    };
    let files = first.files.iter().chain(&second.files).chain([&arguments.book]).cloned();
    let inputs = Inputs::new(files);
    let (first_name, second_name) = (first.name, second.name);
    let is_same_text = first.text == second.text;
    let pictures = [first.pictures, second.pictures];
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
    if places {
        let shown =
            Shown { first: (&first, &first_name), second: (&second, &second_name), pictures, seed };
        return draw_places(arguments, shown, &inputs);
    }
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

/// Both sides of a comparison of places.
struct Shown<'a> {
    first: (&'a ValidatedProgram, &'a str),
    second: (&'a ValidatedProgram, &'a str),
    pictures: [Vec<Option<Texture>>; 2],
    seed: Seed,
}

/// Most frames of an animation.
const MOST_FRAMES: f64 = 1800.0;

/// Draws the place of both sides.
fn draw_places(arguments: &Arguments, shown: Shown<'_>, inputs: &Inputs) -> Done {
    let goal = Goal::or_beside(arguments.output.as_deref(), &arguments.book, "-compare.png");
    let moving = goal.ending() == "apng";
    let (first, second) = (shown.first.0, shown.second.0);
    let moment = |when: Option<When>, default: f64| when.map_or(default, |when| when.moment.0);
    let (from, to) = (moment(arguments.from, 0.0), moment(arguments.to, 5.0));
    let moments: Vec<When> = if moving {
        let count = ((to - from) * f64::from(arguments.rate)).floor();
        let by_hour =
            [arguments.from, arguments.to].iter().flatten().any(|when| when.hour.is_some());
        if by_hour || !(1.0..=MOST_FRAMES).contains(&count) {
            return Err(failure(
                format!(
                    "an animation runs from a moment to a later one and has at most {MOST_FRAMES} frames"
                ),
                "for example: --from 0s --to 5s",
            ));
        }
        (0..=count as u32)
            .map(|n| Seconds(from + f64::from(n) / f64::from(arguments.rate)).into())
            .collect()
    } else if arguments.at.is_empty() {
        vec![arguments.from.unwrap_or(Seconds(0.0).into())]
    } else {
        arguments.at.clone()
    };
    if moments.iter().any(|when| when.hour.is_some()) {
        needs_clock(first)?;
        needs_clock(second)?;
    }
    let view = |checked: &ValidatedProgram| match (&arguments.eye, arguments.view) {
        (Some(name), _) => eye_named(checked.program(), name),
        (None, Some(ViewFrom::Front)) => Ok(View::Front),
        (None, _) => Ok(View::Above),
    };
    let hours = moments.iter().filter(|when| when.hour.is_some()).count();
    let exposure = if hours > 1 { Exposure::Each } else { Exposure::Fitted };
    let [before, after] = shown.pictures;
    let options = |checked: &ValidatedProgram, pictures| -> Result<PlaceOptions, Failure> {
        let rehearsal = match &arguments.rehearsal {
            Some(name) => Some(rehearsal_named(checked, name)?),
            None => None,
        };
        Ok(PlaceOptions {
            view: view(checked)?,
            moments: moments.clone(),
            start: Some(state_of(checked, Some(shown.seed), &arguments.set, arguments.hour)?),
            rehearsal,
            width: arguments.width,
            pictures,
            exposure,
            ..PlaceOptions::default()
        })
    };
    let (before, after) = (options(first, before)?, options(second, after)?);
    let pair = PlacePair::new([(first, shown.first.1, &before), (second, shown.second.1, &after)]);
    let picture = pair.picture(&moments[..if moving { 1 } else { moments.len() }]);
    let bytes = match goal.ending().as_str() {
        "apng" => apng(moments.iter().map(|when| pair.picture(&[*when])), arguments.rate, |_| {})?,
        "svg" => svg(&picture).into_bytes(),
        _ => png(&picture)?,
    };
    goal.write(&bytes, inputs)?;
    let many = if moving { format!(", {} pictures", moments.len()) } else { String::new() };
    say(format!("wrote {} ({} x {}{many})", goal.path.display(), picture.width, picture.height))?;
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
    pictures: Vec<Option<Texture>>,
}

impl Read {
    fn of(name: String, opened: &Opened) -> Option<Read> {
        let checked = opened.checked.clone()?;
        let texts: Vec<&str> = opened.sources.iter().map(|source| source.text.as_str()).collect();
        let pictures = opened.pictures();
        Some(Read { name, checked, text: texts.join("\0"), files: opened.files(), pictures })
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

/// The book as a git revision has it; none if it has errors, which are printed.
fn revision(book: &Path, revision: &str) -> Result<Option<Read>, Failure> {
    let opened =
        git::opened_at(book, revision, cache().as_ref()).map_err(|why| Failure(why, None))?;
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
