//! `caltrin day`

use std::path::PathBuf;

use caltrin::Opened;
use caltrin::core::ValidatedProgram;
use caltrin::core::program::Channel;
use caltrin::core::quantity::Seed;
use caltrin::core::run::State;
use caltrin::draw::{SheetOptions, sheet};
use caltrin::files::Inputs;

use super::page::Page;
use super::sheet::{Format, Shown, in_terminal, parse_channel};
use super::watch::watch;
use super::{
    Done, Failure, Goal, Status, lamps, needs_clock, needs_lights, open_and_tell, parse_seed, say,
    state_of,
};

/// Draw the 24 hours of the game's day: sun and moon, phases, and each light as the eye sees it.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin day pier.caltrin                         writes pier-day.svg beside the book
  caltrin day pier.caltrin -o day.png --light mast --light sky_tint
  caltrin day pier.caltrin --variant season=80 --variant season=172
                                                   days of the year below each other
  caltrin day pier.caltrin --variant region=coast --variant \"region=hills; cloud=80%\"
  caltrin day pier.caltrin --terminal              as text in the terminal

A column gathers some minutes of the day; flicker shows as its mean and its range.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Picture to write, .svg, .png or .html; default: the book's name with -day.svg.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// Only this light or output, or this lamp of it as in `row[2]`; repeatable.
    #[arg(short, long, value_name = "NAME")]
    light: Vec<String>,
    #[command(flatten)]
    page: Page,
    /// Add a lane for this channel of each light that has it, such as `reach`; repeatable.
    #[arg(long, value_name = "CHANNEL", value_parser = parse_channel)]
    channel: Vec<&'static Channel>,
    /// Random seed of the run; default: the book's.
    #[arg(long, value_parser = parse_seed)]
    seed: Option<Seed>,
    /// Set an input or choice, as in `swell=40%`; repeatable.
    #[arg(long, value_name = "NAME=VALUE")]
    set: Vec<String>,
    /// Inputs and choices of one day, separated by `;`. Each light gets a lane per variant.
    #[arg(long, value_name = "NAME=VALUE")]
    variant: Vec<String>,
    /// Draw the curves of the lights below the lanes.
    #[arg(long)]
    curves: bool,
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

pub fn run(arguments: &Arguments) -> Done {
    let goal = Goal::or_beside(arguments.output.as_deref(), &arguments.book, "-day.svg");
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
    needs_clock(&checked)?;
    let (lights, lamps) = match &arguments.light[..] {
        [] => (arguments.page.lights(&checked)?, Vec::new()),
        names => {
            let (lights, lamps) = lamps(&checked, names)?.into_iter().unzip();
            (Some(lights), lamps)
        }
    };
    let options = SheetOptions {
        day: true,
        starts: starts(arguments, &checked)?,
        labels: arguments.variant.iter().map(|variant| variant.trim().to_owned()).collect(),
        curves: arguments.curves,
        width: arguments.width,
        lane: arguments.lane,
        lights,
        lamps,
        channels: arguments.channel.clone(),
        ..SheetOptions::default()
    };
    let picture = sheet(&checked, &opened.findings, &options);
    if arguments.terminal {
        in_terminal(&picture, arguments.colors, arguments.all)?;
    } else {
        format.write(&picture, goal, &Inputs::new(opened.files()))?;
    }
    let by_game = checked.program().by_game();
    if !by_game.is_empty() {
        say(format!(
            "Drawn as at the start of a run, because they depend on more than the hour: {}.",
            by_game.join(", ")
        ))?;
    }
    Ok(Status::Fine)
}

/// A state for each variant; one if there are none.
fn starts(arguments: &Arguments, checked: &ValidatedProgram) -> Result<Vec<State>, Failure> {
    let one = |variant: &str| {
        let own = variant.split(';').map(str::trim).filter(|line| !line.is_empty());
        let lines: Vec<String> =
            arguments.set.iter().cloned().chain(own.map(str::to_owned)).collect();
        state_of(checked, arguments.seed, &lines, None)
    };
    match &arguments.variant[..] {
        [] => Ok(vec![one("")?]),
        variants => variants.iter().map(|variant| one(variant)).collect(),
    }
}
