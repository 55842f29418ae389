//! `caltrin sheet`

use std::io::Write;
use std::path::{Path, PathBuf};

use caltrin::Opened;
use caltrin::core::ValidatedProgram;
use caltrin::core::program::{CHANNELS, Channel, InputId};
use caltrin::core::quantity::{Hours, Seed};
use caltrin::core::run::State;
use caltrin::draw::{
    Colors, Picture, SheetOptions, TerminalOptions, When, html, png, sheet, svg, terminal,
};
use caltrin::files::Inputs;
use clap::ValueEnum;

use super::page::{Page, needs_reach};
use super::watch::watch;
use super::{
    Done, Failure, Goal, Status, failure, lamps, needs_lights, open_and_tell, parse_hour,
    parse_seed, parse_when, span_asked, state_of,
};
use super::{quiet_pipe, rehearsal_of, say};

/// Draw a lightbook's timeline as SVG, PNG, an HTML page or text.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin sheet pier.caltrin                       writes pier.svg beside the book
  caltrin sheet pier.caltrin -o pier.png --to 60s
  caltrin sheet pier.caltrin --light mast --light quay --seed 7
  caltrin sheet pier.caltrin --seed 41 --seed 42    two random seeds below each other
  caltrin sheet pier.caltrin --over mist            an input along the top instead of time
  caltrin sheet pier.caltrin -o pier.html           a page with values under the pointer
  caltrin sheet pier.caltrin --terminal             as text in the terminal
  caltrin sheet pier.caltrin --watch               redraws on every save")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Picture to write, .svg, .png or .html; default: the book's name with .svg.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// Only this light, or this lamp of it as in `row[2]`; repeatable.
    #[arg(short, long, value_name = "NAME")]
    light: Vec<String>,
    #[command(flatten)]
    page: Page,
    /// First moment, or hour of the game's day; default: 0s.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    from: Option<When>,
    /// Last moment, or hour; default: two periods of the longest curve.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    to: Option<When>,
    /// Random seed of the run; several give each light a lane per seed. Default: the book's.
    #[arg(long, value_parser = parse_seed)]
    seed: Vec<Seed>,
    /// Set an input, as in `swell=40%` or `quay.draft[2]=1.5m`; repeatable.
    #[arg(long, value_name = "NAME=VALUE")]
    set: Vec<String>,
    /// Hour of the game's day at moment 0; default: the start of the book's clock.
    #[arg(long, value_name = "HOUR", value_parser = parse_hour)]
    hour: Option<Hours>,
    /// Draw the values of this input or signal along the top instead of time, at the moment `--from`.
    #[arg(long, value_name = "NAME", conflicts_with_all = ["to"])]
    over: Option<String>,
    /// Add lanes for this channel of the lights that have it: reach, cone, falloff, position, offset, aim, shadows
    /// or color; repeatable.
    #[arg(long, value_name = "CHANNEL", value_parser = parse_channel)]
    channel: Vec<&'static Channel>,
    /// Play this rehearsal of the book.
    #[arg(long, value_name = "NAME", conflicts_with = "over")]
    rehearsal: Option<String>,
    /// Omit the curves below the lanes.
    #[arg(long)]
    no_curves: bool,
    /// Width of the picture in pixels, 480 to 8192.
    #[arg(long, value_name = "PIXELS", default_value_t = 1280, value_parser = clap::value_parser!(u32).range(480..=8192))]
    width: u32,
    /// Height of a lane in pixels, 14 to 400; default: fitted to a screen.
    #[arg(long, value_name = "PIXELS", value_parser = clap::value_parser!(u32).range(14..=400))]
    lane: Option<u32>,
    /// Print it as text in the terminal instead of writing a picture.
    #[arg(long, conflicts_with_all = ["output", "watch"])]
    terminal: bool,
    /// Print every lane, even beyond the height of the terminal.
    #[arg(long, requires = "terminal")]
    all: bool,
    /// Colors of the terminal; default: detected, none in a pipe.
    #[arg(long, value_enum, value_name = "WHICH", requires = "terminal")]
    colors: Option<Shown>,
    /// Redraw on every save until Ctrl-C.
    #[arg(long)]
    watch: bool,
}

pub(super) fn parse_channel(text: &str) -> Result<&'static Channel, String> {
    CHANNELS.iter().find(|channel| channel.name == text).ok_or_else(|| {
        let names = CHANNELS.map(|channel| channel.name);
        match caltrin::lang::words::nearest(text, names) {
            Some(near) => format!("there is no channel `{text}`; did you mean `{near}`?"),
            None => format!("channels are {}", names.join(", ")),
        }
    })
}

/// How a sheet is written.
#[derive(Clone, Copy)]
pub enum Format {
    Svg,
    Png,
    Html,
}

impl Format {
    /// By the file extension.
    pub fn of(output: &Path) -> Result<Format, Failure> {
        let ending = output.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
        match ending.as_deref() {
            Some("svg") => Ok(Format::Svg),
            Some("png") => Ok(Format::Png),
            Some("html" | "htm") => Ok(Format::Html),
            _ => Err(failure(
                format!("`{}` is not a picture file", output.display()),
                "a sheet is written as .svg, .png or .html",
            )),
        }
    }

    /// Paints and writes a picture, and prints its path.
    pub fn write(self, picture: &Picture, goal: &Goal, inputs: &Inputs) -> Result<(), Failure> {
        let bytes = match self {
            Format::Svg => svg(picture).into_bytes(),
            Format::Png => png(picture)?,
            Format::Html => html(picture).into_bytes(),
        };
        goal.write(&bytes, inputs)?;
        say(format!("wrote {} ({} x {})", goal.path.display(), picture.width, picture.height))
    }
}

/// The terminal's colors.
#[derive(Clone, Copy, ValueEnum)]
pub enum Shown {
    /// 24 bits.
    True,
    /// The nearest of 256.
    #[value(name = "256")]
    Many,
    /// The terminal's own 16.
    #[value(name = "16")]
    Sixteen,
    /// None: strength by how full a character is.
    None,
}

pub fn run(arguments: &Arguments) -> Done {
    if arguments.terminal {
        return show(arguments);
    }
    let goal = Goal::or_beside(arguments.output.as_deref(), &arguments.book, ".svg");
    let format = Format::of(&goal.path)?;
    if arguments.watch {
        return watch(&arguments.book, |_, files| {
            let read = |opened: &Opened| files.are(opened.files());
            if let Err(failure) = draw(arguments, &goal, format, read) {
                crate::report::failure(&failure);
            }
            say(format!("watching {} (Ctrl-C ends)", arguments.book.display()))
        });
    }
    draw(arguments, &goal, format, |_| {})
}

/// Draws the picture and calls `read` with the opened book.
fn draw(arguments: &Arguments, goal: &Goal, format: Format, read: impl FnOnce(&Opened)) -> Done {
    let (opened, checked) = open_and_tell(&arguments.book)?;
    read(&opened);
    let Some(checked) = checked else {
        return Ok(Status::Problems);
    };
    needs_lights(&checked)?;
    let (checked, over) = along(arguments, checked)?;
    let options = SheetOptions { over, ..options(arguments, &checked)? };
    let picture = sheet(&checked, &opened.findings, &options);
    format.write(&picture, goal, &Inputs::new(opened.files()))?;
    Ok(Status::Fine)
}

/// Shows the sheet as text, as wide as the terminal is.
fn show(arguments: &Arguments) -> Done {
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    needs_lights(&checked)?;
    let (checked, over) = along(arguments, checked)?;
    let options = SheetOptions { over, ..options(arguments, &checked)? };
    in_terminal(&sheet(&checked, &opened.findings, &options), arguments.colors, arguments.all)?;
    Ok(Status::Fine)
}

/// Shows a picture's lanes as text, as wide as the terminal is, and as high unless `all` are wanted.
pub fn in_terminal(picture: &Picture, colors: Option<Shown>, all: bool) -> Result<(), Failure> {
    let out = std::io::stdout();
    let size = terminal_size::terminal_size_of(&out);
    let width = size.map_or(100, |(width, _)| usize::from(width.0));
    let height = size.map(|(_, height)| usize::from(height.0)).filter(|_| !all);
    let colors = match colors {
        Some(Shown::True) => Colors::True,
        Some(Shown::Many) => Colors::Many,
        Some(Shown::Sixteen) => Colors::Sixteen,
        Some(Shown::None) => Colors::None,
        None => match supports_color::on(supports_color::Stream::Stdout) {
            Some(level) if level.has_16m => Colors::True,
            Some(level) if level.has_256 => Colors::Many,
            Some(_) => Colors::Sixteen,
            None => Colors::None,
        },
    };
    let text = terminal(picture, &TerminalOptions { width, height, colors });
    // Requested output is not changed, also in a pipe.
    let mut out = out.lock();
    quiet_pipe(out.write_all(text.as_bytes()))
}

fn options(arguments: &Arguments, checked: &ValidatedProgram) -> Result<SheetOptions, Failure> {
    let (chosen, lamps) = match &arguments.light[..] {
        [] => (arguments.page.lights(checked)?, Vec::new()),
        names => {
            let (lights, lamps) = lamps(checked, names)?.into_iter().unzip();
            (Some(lights), lamps)
        }
    };
    let rehearsal = rehearsal_of(checked, &arguments.rehearsal)?;
    let asked = span_asked(checked, arguments.from, arguments.to)?;
    if asked.to.is_some_and(|to| to.0 <= asked.from.0) {
        return Err(failure("`--to` must be after `--from`", "for example: --from 0s --to 20s"));
    }
    let played = rehearsal.map(|n| &checked.program().rehearsals()[n]);
    let to = asked.to.or(played.map(|rehearsal| rehearsal.end));
    let starts = starts(arguments, checked, asked.hour)?;
    if let Some(start) = starts.first() {
        needs_reach(checked, start, played, to.unwrap_or(asked.from))?;
    }
    Ok(SheetOptions {
        from: asked.from,
        to,
        starts,
        labels: Vec::new(),
        over: None,
        day: false,
        rehearsal,
        curves: !arguments.no_curves,
        width: arguments.width,
        lane: arguments.lane,
        lights: chosen,
        channels: arguments.channel.clone(),
        lamps,
    })
}

/// A state for each seed asked for, all with the inputs that are set.
fn starts(
    arguments: &Arguments,
    checked: &ValidatedProgram,
    hour: Option<Hours>,
) -> Result<Vec<State>, Failure> {
    let one = |seed| state_of(checked, seed, &arguments.set, hour.or(arguments.hour));
    match &arguments.seed[..] {
        [] => Ok(vec![one(None)?]),
        seeds => seeds.iter().map(|seed| one(Some(*seed))).collect(),
    }
}

/// The axis along the top: an input of one number, or a signal that an input replaces.
fn along(
    arguments: &Arguments,
    checked: ValidatedProgram,
) -> Result<(ValidatedProgram, Option<InputId>), Failure> {
    let Some(name) = arguments.over.as_deref() else { return Ok((checked, None)) };
    let program = checked.program();
    let ranged = |id: &InputId| program.input(*id).kind.is_scalar();
    if let Some(id) = program.input_named(name).filter(ranged) {
        return Ok((checked, Some(id)));
    }
    let signal = program.signals().find(|(_, signal)| signal.name == name).map(|(id, _)| id);
    if let Some((opened, id)) = signal.and_then(|id| checked.opened(id)) {
        return Ok((opened, Some(id)));
    }
    let inputs = program.given().filter(|(id, _)| ranged(id));
    let known: Vec<&str> = inputs
        .map(|(_, input)| input.name.as_str())
        .chain(program.signals().map(|(_, signal)| signal.name.as_str()))
        .collect();
    let help = match caltrin::lang::words::nearest(name, known.iter().copied()) {
        Some(near) => format!("did you mean `{near}`?"),
        None if known.is_empty() => "the book has no input and no signal".to_owned(),
        None => format!("an input or signal of one number; the book has {}", known.join(", ")),
    };
    Err(failure(format!("`{name}` cannot be drawn along the top"), help))
}
