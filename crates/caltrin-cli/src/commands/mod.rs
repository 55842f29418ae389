//! One file a command, and what they share.

pub mod check;
pub mod compare;
pub mod completions;
pub mod day;
pub mod demo;
pub mod explain;
pub mod export;
pub mod flash;
pub mod fmt;
mod goal;
pub mod hear;
pub mod live;
pub mod lsp;
pub mod new;
mod page;
pub mod prove;
pub mod rehearse;
pub mod share;
pub mod sheet;
pub mod stock;
pub mod trace;
pub mod view;
mod watch;

use std::fmt::Display;
use std::io::{self, Write};
use std::path::{Path, PathBuf};
use std::time::Duration;

use caltrin::core::ValidatedProgram;
use caltrin::core::kind::Kind;
use caltrin::core::program::{Constant, LightId, LightKind, Size, Up, Wanted};
use caltrin::core::quantity::{Hours, Seconds, Seed};
use caltrin::core::run::State;
use caltrin::core::text::shown;
use caltrin::draw::When;
use caltrin::export::language::Language;
use caltrin::export::{OwnTarget, TARGETS, Target, every_target, target_named};
use caltrin::sound::Cache;
use caltrin::{OpenError, Opened, Opening};
use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};

use crate::report;

use goal::Goal;

pub use crate::outcome::{Done, Failure, Status, count, failure};

/// The place of the rehearsal that is asked for, if one is.
pub fn rehearsal_of(
    checked: &ValidatedProgram,
    name: &Option<String>,
) -> Result<Option<usize>, Failure> {
    name.as_deref().map(|name| rehearsal_named(checked, name)).transpose()
}

/// The place of a rehearsal of that name among those of a book.
pub fn rehearsal_named(checked: &ValidatedProgram, name: &str) -> Result<usize, Failure> {
    let all = checked.program().rehearsals();
    all.iter().position(|rehearsal| rehearsal.name == name).ok_or_else(|| {
        let known: Vec<&str> = all.iter().map(|rehearsal| rehearsal.name.as_str()).collect();
        let help = match caltrin::lang::words::nearest(name, known.iter().copied()) {
            Some(near) => format!("did you mean `{near}`?"),
            None if known.is_empty() => "the book has no rehearsal".to_owned(),
            None => format!("the book has {}", known.join(", ")),
        };
        failure(format!("there is no rehearsal `{name}`"), help)
    })
}

/// The analysis of sounds, in the user's cache folder.
pub fn cache() -> Option<Cache> {
    let places = directories::ProjectDirs::from("", "", "caltrin")?;
    Some(Cache::at(places.cache_dir().join("heard")))
}

/// Opens a book, without a word.
pub fn open(path: &Path) -> Result<Opened, OpenError> {
    caltrin::open_with(path, Opening { cache: cache().as_ref(), ..Opening::default() })
}

/// Opens a book and prints its diagnostics. `None` if it has errors.
pub fn open_and_tell(path: &Path) -> Result<(Opened, Option<ValidatedProgram>), Failure> {
    open_for_and_tell(path, Wanted::default(), cache().as_ref())
}

/// [`open_and_tell`] with axes, unit or strengths given out otherwise than the book says, and the analysis of
/// sounds cached there, if anywhere.
fn open_for_and_tell(
    path: &Path,
    wanted: Wanted,
    cache: Option<&Cache>,
) -> Result<(Opened, Option<ValidatedProgram>), Failure> {
    let bar = hearing_bar();
    let told = |name: &str, part: f64| bar.tell(name, part);
    let opened = caltrin::open_with(
        path,
        Opening { wanted, cache, progress: Some(&told), ..Opening::default() },
    )?;
    bar.finish();
    // Warnings about a good book are for `check` to print.
    if opened.errors() == 0 && opened.warnings() > 0 {
        report::warnings(&opened, path);
    } else {
        report::diagnostics(&opened);
    }
    let checked = opened.checked.clone();
    if checked.is_none() {
        let n = opened.errors();
        let mut out = anstream::stderr().lock();
        let _ = writeln!(out, "{}: {}", opened.file, count(n as u64, "error"));
    }
    Ok((opened, checked))
}

/// A line on standard output. A reader that went away ends the command quietly.
pub fn say(line: impl Display) -> Result<(), Failure> {
    let mut out = anstream::stdout().lock();
    quiet_pipe(writeln!(out, "{}", shown(&line.to_string())))
}

/// Prints a line on standard output. The command continues if its reader is gone.
pub fn mention(line: impl Display) {
    let _ = writeln!(anstream::stdout().lock(), "{}", shown(&line.to_string()));
}

/// Ends the command without a word if what reads our output is gone.
pub fn quiet_pipe(written: io::Result<()>) -> Result<(), Failure> {
    match written {
        Ok(()) => Ok(()),
        Err(e) if e.kind() == io::ErrorKind::BrokenPipe => std::process::exit(0),
        Err(e) => Err(Failure(format!("cannot write the output: {e}"), None)),
    }
}

/// Reads `2s`, `450ms`, `1.5min` or a number of seconds.
pub fn parse_time(text: &str) -> Result<Seconds, String> {
    match caltrin::lang::time(text) {
        Some(t) if t.0.abs() <= caltrin::core::kernel::LAST_MOMENT => Ok(t),
        Some(_) => Err("moments go up to a billion seconds either way".to_owned()),
        None => {
            Err("a time is written `20s`, `450ms`, `1.5min` or as a number of seconds".to_owned())
        }
    }
}

/// Reads an hour of the day.
pub fn parse_hour(text: &str) -> Result<Hours, String> {
    caltrin::lang::hour(text)
}

/// Reads an hour of the day, or a time.
pub fn parse_when(text: &str) -> Result<When, String> {
    match text.contains(':') {
        true => parse_hour(text).map(When::from),
        false => parse_time(text).map(When::from),
    }
}

/// Reads a seed.
pub fn parse_seed(text: &str) -> Result<Seed, String> {
    text.parse().map(Seed).map_err(|_| format!("a seed is a whole number from 0 to {}", u32::MAX))
}

/// Overrides of the book's space for exported code.
#[derive(clap::Args)]
pub struct GivenOut {
    /// Up axis of the exported code: y or z; default: the book's space.
    #[arg(long, value_name = "AXIS", value_parser = parse_axis)]
    up: Option<Up>,
    /// Length of the game's unit, such as 1cm; default: the book's space.
    #[arg(long, value_name = "LENGTH", value_parser = parse_length)]
    unit: Option<f64>,
    /// Multiply every strength in lm, cd or lx by this.
    #[arg(long, value_name = "NUMBER", value_parser = parse_factor)]
    factor: Option<f64>,
    /// Analyze every sound again instead of using the cache.
    #[arg(long)]
    no_cache: bool,
}

impl GivenOut {
    /// The same for the library.
    fn wanted(&self) -> Wanted {
        Wanted { up: self.up, unit: self.unit, factor: self.factor }
    }

    /// Opens a book for that and prints its diagnostics.
    pub fn open(&self, book: &Path) -> Result<(Opened, Option<ValidatedProgram>), Failure> {
        let cache = cache().filter(|_| !self.no_cache);
        open_for_and_tell(book, self.wanted(), cache.as_ref())
    }
}

fn parse_axis(text: &str) -> Result<Up, String> {
    match text {
        "y" => Ok(Up::Y),
        "z" => Ok(Up::Z),
        _ => Err("the axis that is up is y or z".to_owned()),
    }
}

fn parse_length(text: &str) -> Result<f64, String> {
    match caltrin::lang::value(text) {
        Ok((Constant::Scalar(v), Kind::Length)) if (1e-6..=1e6).contains(&v) => Ok(v),
        _ => Err("a unit is a length such as `1cm` or `0.3048m`".to_owned()),
    }
}

fn parse_factor(text: &str) -> Result<f64, String> {
    match text.parse() {
        Ok(v) if (1e-9..=1e9).contains(&v) => Ok(v),
        _ => Err("a factor is a number above 0, such as 0.001".to_owned()),
    }
}

/// What a run starts with.
#[derive(clap::Args)]
pub struct Start {
    /// Random seed of the run; default: the book's.
    #[arg(long, value_parser = parse_seed)]
    seed: Option<Seed>,
    /// Set an input, as in `swell=40%` or `quay.draft[2]=1.5m`; repeatable.
    #[arg(long, value_name = "NAME=VALUE")]
    set: Vec<String>,
    /// Hour of the game's day at moment 0; default: the start of the book's clock.
    #[arg(long, value_name = "HOUR", value_parser = parse_hour)]
    hour: Option<Hours>,
}

impl Start {
    /// Whether nothing was asked for.
    pub fn is_default(&self) -> bool {
        self.seed.is_none() && self.set.is_empty() && self.hour.is_none()
    }

    /// The state that a run of this program starts from.
    pub fn state(&self, checked: &ValidatedProgram) -> Result<State, Failure> {
        state_of(checked, self.seed, &self.set, self.hour)
    }
}

/// A state with a seed, or the book's own, with inputs and choices as lines set them, and at an hour.
pub fn state_of(
    checked: &ValidatedProgram,
    seed: Option<Seed>,
    lines: &[String],
    hour: Option<Hours>,
) -> Result<State, Failure> {
    let mut state = State::start(checked.program());
    state.seed = seed.unwrap_or(state.seed);
    if let Some(hour) = hour {
        needs_clock(checked)?;
        state = state.with_hour(checked.program(), hour);
    }
    for line in lines {
        caltrin::set(checked, &mut state, line)?;
    }
    Ok(state)
}

/// A span of a run: from where to where and, where hours were asked for, the hour at its start.
#[derive(Clone, Copy, Debug)]
pub struct Asked {
    pub from: Seconds,
    pub to: Option<Seconds>,
    pub hour: Option<Hours>,
}

/// The span from one moment or hour to another. Hours are those of a run that starts at the first of them and goes on
/// at the clock's own rate.
pub fn span_asked(
    checked: &ValidatedProgram,
    from: Option<When>,
    to: Option<When>,
) -> Result<Asked, Failure> {
    let zero = Seconds(0.0);
    match (from.map(|from| (from, from.hour)), to.map(|to| (to, to.hour))) {
        (None | Some((_, None)), None | Some((_, None))) => {
            let from = from.map_or(zero, |from| from.moment);
            let to = to.map(|to| to.moment);
            match to {
                Some(to) if to.0 < from.0 => {
                    Err(failure("`--to` is before `--from`", "for example: --from 0s --to 20s"))
                }
                to => Ok(Asked { from, to, hour: None }),
            }
        }
        (Some((_, Some(hour))), None) => {
            needs_clock(checked)?;
            Ok(Asked { from: zero, to: None, hour: Some(hour) })
        }
        (Some((_, Some(hour))), Some((_, Some(to)))) => {
            needs_clock(checked)?;
            let hours = (to.0 - hour.0).rem_euclid(24.0);
            let hours = if hours == 0.0 { 24.0 } else { hours };
            let clock = checked.program().clock();
            let second = clock.map_or(1.0, |clock| clock.rate * 24.0 / clock.day.0);
            if second <= 0.0 {
                return Err(failure(
                    "the book's clock does not run forward, so hours have no order",
                    "use moments of the run: --from 0s --to 20s",
                ));
            }
            Ok(Asked { from: zero, to: Some(Seconds(hours / second)), hour: Some(hour) })
        }
        _ => Err(failure(
            "`--from` and `--to` must both be moments or both be hours",
            "for example: --from 05:00 --to 21:00",
        )),
    }
}

/// Refuses options that need a clock for a book without one.
pub fn needs_clock(checked: &ValidatedProgram) -> Result<(), Failure> {
    match checked.program().clock() {
        Some(_) => Ok(()),
        None => {
            Err(failure("the book has no clock", "add one: `clock { day 24min; start 12:00 }`"))
        }
    }
}

/// How many lights, lamps and outputs a book has: `21 lights, 82 lamps, 6 outputs`.
pub fn what_there_is(checked: &ValidatedProgram) -> String {
    let program = checked.program();
    let lit = || program.lights().filter(|(_, light)| light.kind != LightKind::Output);
    let lamps = lit().map(|(_, light)| u64::from(light.size.shown())).sum::<u64>();
    let lights = lit().count();
    let outputs = match program.lights().len() - lights {
        0 => String::new(),
        n => format!(", {}", count(n as u64, "output")),
    };
    format!("{}, {}{outputs}", count(lights as u64, "light"), count(lamps, "lamp"))
}

/// Refuses to draw a book in which nothing shines.
pub fn needs_lights(checked: &ValidatedProgram) -> Result<(), Failure> {
    match checked.program().lights().len() {
        0 => Err(failure(
            format!("`{}` has no lights or outputs to draw", checked.program().name()),
            "a book of parts is drawn through the books that import it",
        )),
        _ => Ok(()),
    }
}

/// Reads a target's name.
pub fn parse_target(text: &str) -> Result<&'static dyn Target, String> {
    target_named(text).ok_or_else(|| {
        let names: Vec<&str> = every_target().map(|target| target.name()).collect();
        let near = caltrin::lang::words::nearest(text, names.iter().copied());
        match near {
            Some(near) => format!("there is no language `{text}`; did you mean `{near}`?"),
            None => format!("languages are {}", names.join(", ")),
        }
    })
}

/// The targets asked for, each once; the four of [`TARGETS`] if none was named.
pub fn targets<'t>(asked: &[&'static dyn Target], own: &'t [OwnTarget]) -> Vec<&'t dyn Target> {
    let known: Vec<&dyn Target> = match asked.is_empty() && own.is_empty() {
        true => TARGETS.into_iter().map(|target| target as _).collect(),
        false => every_target()
            .filter(|target| asked.iter().any(|other| other.name() == target.name()))
            .map(|target| target as _)
            .collect(),
    };
    known.into_iter().chain(own.iter().map(|own| own as _)).collect()
}

/// Language files of the user's own.
#[derive(clap::Args)]
pub struct OwnLanguages {
    /// A language file that says how another language spells things; can be repeated.
    #[arg(long, value_name = "FILE")]
    language: Vec<PathBuf>,
}

/// The largest language file that is read.
const MOST_LANGUAGE_BYTES: u64 = 1 << 20;

impl OwnLanguages {
    /// Reads the files.
    pub fn read(&self) -> Result<Vec<OwnTarget>, Failure> {
        self.language.iter().map(|path| own_language(path)).collect()
    }
}

fn own_language(path: &Path) -> Result<OwnTarget, Failure> {
    let shown = path.display().to_string();
    let cannot =
        |why: String| failure(format!("cannot read `{shown}`: {why}"), "a language file is text");
    let bytes =
        caltrin::files::read(path, MOST_LANGUAGE_BYTES).map_err(|why| cannot(why.to_string()))?;
    let text = String::from_utf8(bytes).map_err(|why| cannot(why.to_string()))?;
    let language = Language::read(&shown, &text)
        .map_err(|why| failure(why.to_string(), "docs/languages.md describes language files"))?;
    // A file that is only called `language.toml` is known by its folder.
    let stem = |path: &Path| path.file_stem().map(|stem| stem.to_string_lossy().into_owned());
    let own = stem(path).filter(|stem| stem != "language");
    let name = own.or_else(|| stem(path.parent()?)).unwrap_or_else(|| "language".to_owned());
    if target_named(&name).is_some() {
        return Err(failure(
            format!("`{shown}` would be called `{name}`, as a language that is built in"),
            "give the file another name",
        ));
    }
    Ok(OwnTarget::new(&name, language))
}

/// The lights of these names.
pub fn lights(checked: &ValidatedProgram, names: &[String]) -> Result<Vec<LightId>, Failure> {
    let program = checked.program();
    let mut all = Vec::new();
    for name in names {
        // The name of an instance selects all lights in it.
        let inside = format!("{name}.");
        let meant = |known: &str| known == name || known.starts_with(&inside);
        let found: Vec<LightId> =
            program.lights().filter(|(_, l)| meant(&l.name)).map(|(id, _)| id).collect();
        if found.is_empty() {
            let known: Vec<&str> = program.lights().map(|(_, l)| l.name.as_str()).collect();
            let help = match caltrin::lang::words::nearest(name, known.iter().copied()) {
                Some(near) => format!("did you mean `{near}`?"),
                None => {
                    let few: Vec<&str> = known.iter().copied().take(12).collect();
                    format!("lights are {}", few.join(", "))
                }
            };
            return Err(failure(format!("there is no light `{name}`"), help));
        }
        all.extend(found);
    }
    Ok(all)
}

/// The lights of these names, or one lamp of each: `row[2]`, or `quay[2].glow`, counted from 0 through all instances.
pub fn lamps(
    checked: &ValidatedProgram,
    names: &[String],
) -> Result<Vec<(LightId, Option<u32>)>, Failure> {
    let mut all = Vec::new();
    for asked in names {
        let (name, lamp) = match asked.split_once('[') {
            None => (asked.clone(), None),
            Some((before, after)) => {
                let closed = after.split_once(']');
                let number = closed.and_then(|(index, _)| index.trim().parse().ok());
                let (Some((_, rest)), Some(lamp)) = (closed, number) else {
                    return Err(failure(
                        format!("`{asked}` is not a lamp"),
                        "write the index of the lamp, from 0, as in `row[2]`",
                    ));
                };
                (format!("{before}{rest}"), Some(lamp))
            }
        };
        for id in lights(checked, &[name])? {
            let light = checked.program().light(id);
            match (light.size, lamp) {
                (Size::One, Some(_)) => {
                    let message = format!("`{}` is one lamp, not an array", light.name);
                    return Err(failure(message, format!("write `{}`", light.name)));
                }
                (Size::Many(n), Some(lamp)) if lamp >= n => {
                    let message = format!("`{}` has no lamp {lamp}", light.name);
                    return Err(failure(message, format!("its lamps are 0 to {}", n - 1)));
                }
                _ => all.push((id, lamp)),
            }
        }
    }
    Ok(all)
}

/// Shows on a terminal how far the hearing of sounds has come.
pub struct HearingBar(ProgressBar);

/// A progress bar that is shown only if the sound analysis takes long.
pub fn hearing_bar() -> HearingBar {
    let bar = ProgressBar::hidden();
    if let Ok(style) = ProgressStyle::with_template("hearing {msg} {bar:30} {percent}% ({eta})") {
        bar.set_style(style);
    }
    bar.set_length(1000);
    HearingBar(bar)
}

impl HearingBar {
    /// Shows the progress of a sound.
    pub fn tell(&self, name: &str, part: f64) {
        if self.0.is_hidden() && self.0.elapsed() > Duration::from_millis(500) && part < 0.7 {
            self.0.set_draw_target(ProgressDrawTarget::stderr());
        }
        if self.0.message() != name {
            self.0.set_message(name.to_owned());
        }
        self.0.set_position((part * 1000.0) as u64);
    }

    /// Removes the bar.
    pub fn finish(&self) {
        self.0.finish_and_clear();
    }
}

/// Shows on a terminal that something takes its time.
pub fn working(on: &str) -> ProgressBar {
    let bar = ProgressBar::new_spinner();
    if let Ok(style) = ProgressStyle::with_template("{spinner} {msg} ({elapsed})") {
        bar.set_style(style);
    }
    bar.set_message(on.to_owned());
    bar.enable_steady_tick(Duration::from_millis(120));
    bar
}
