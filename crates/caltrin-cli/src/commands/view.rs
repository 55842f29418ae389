//! `caltrin view`

use std::path::PathBuf;

use caltrin::core::program::{LightId, Program};
use caltrin::core::quantity::{Hours, Seconds};
use caltrin::draw::{Exposure, PlaceOptions, PlaceView, View, When, apng, place, png, svg};
use caltrin::files::Inputs;
use clap::ValueEnum;
use indicatif::{ProgressBar, ProgressStyle};

use super::page::needs_reach;
use super::say;
use super::{
    Done, Failure, Goal, Start, Status, failure, lights, needs_clock, needs_lights, open_and_tell,
    parse_when, rehearsal_of,
};

/// Draw the lit place: lamps, their pools of light, shadows of walls and posts.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin view pier.caltrin                          writes pier-view.png, from above at 0 s
  caltrin view pier.caltrin --view front --at 12.5s
  caltrin view pier.caltrin --eye landing             as an `eye` of the book sees it
  caltrin view pier.caltrin --at 1s --at 2s --at 4s   moments side by side
  caltrin view pier.caltrin --strip 6 --to 3s         six moments of a span
  caltrin view pier.caltrin --at 16:55                at an hour of the game's day
  caltrin view pier.caltrin --strip 9 --from 05:00 --to 21:00
  caltrin view pier.caltrin -o pier.apng --to 6s      an animation

Lights that leave their position to the game are not shown. Walls, posts, viewpoints and \
pictures come from `wall`, `post`, `eye` and `backdrop` in the book.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Picture to write: .png, .svg, or .apng for an animation.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    #[command(flatten)]
    seen: Seen,
    /// Moment, or hour of the game's day; several are drawn side by side.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    at: Vec<When>,
    /// Number of moments, evenly spaced from `--from` to `--to`.
    #[arg(long, value_name = "NUMBER", conflicts_with = "at", value_parser = clap::value_parser!(u32).range(2..=60))]
    strip: Option<u32>,
    /// First moment or hour of a strip or an animation.
    #[arg(long, value_name = "TIME", default_value = "0s", value_parser = parse_when, allow_hyphen_values = true)]
    from: When,
    /// Last moment or hour of a strip or an animation; an earlier hour passes midnight.
    #[arg(long, value_name = "TIME", default_value = "5s", value_parser = parse_when, allow_hyphen_values = true)]
    to: When,
    /// Frames per second of an animation; over hours, one second shows one hour.
    #[arg(long, value_name = "NUMBER", default_value_t = 20, value_parser = clap::value_parser!(u16).range(1..=60))]
    rate: u16,
    /// Exposure: the illuminance drawn at 80% of white, such as 20lx; stops relative to the fitted one, such as +1
    /// or -1.5; or `each` to fit every moment. Default: fitted to all moments, and for several hours to each.
    #[arg(long, value_name = "LX|STOPS", value_parser = parse_exposure, allow_hyphen_values = true)]
    exposure: Option<Exposure>,
    /// Only this light; repeatable.
    #[arg(short, long, value_name = "NAME")]
    light: Vec<String>,
    /// Play this rehearsal of the book up to each moment.
    #[arg(long, value_name = "NAME")]
    rehearsal: Option<String>,
    #[command(flatten)]
    start: Start,
    /// Width of the picture in pixels, 320 to 8192; default: 1280, or 640 for an animation.
    #[arg(long, value_name = "PIXELS", value_parser = clap::value_parser!(u32).range(320..=8192))]
    width: Option<u32>,
}

/// From where the place is viewed.
#[derive(clap::Args)]
pub struct Seen {
    /// Direction of the view.
    #[arg(long, value_enum, default_value_t = From::Above)]
    pub view: From,
    /// Through this eye of the book.
    #[arg(long, value_name = "NAME", conflicts_with = "view")]
    pub eye: Option<String>,
}

impl Seen {
    /// The view that is asked for.
    pub fn view(&self, program: &Program) -> Result<View, Failure> {
        match (&self.eye, self.view) {
            (Some(name), _) => eye_named(program, name),
            (None, From::Above) => Ok(View::Above),
            (None, From::Front) => Ok(View::Front),
        }
    }
}

#[derive(Clone, Copy, ValueEnum)]
pub enum From {
    /// Straight down on the ground.
    Above,
    /// From the front and a little from above.
    Front,
}

fn parse_exposure(text: &str) -> Result<Exposure, String> {
    let number = |text: &str| text.trim().parse::<f64>().ok().filter(|v| v.is_finite());
    let in_stops = text.starts_with(['+', '-']);
    let stops = text.trim_end_matches("stops").trim_end_matches("stop");
    match text {
        "each" => Ok(Exposure::Each),
        _ if in_stops => match number(stops) {
            Some(stops) if stops.abs() <= 20.0 => Ok(Exposure::Stops(stops)),
            _ => Err("stops go from -20 to +20, for example +1.5".to_owned()),
        },
        _ => match number(text.trim_end_matches("lx")) {
            Some(lux) if lux > 0.0 => Ok(Exposure::Lux(lux)),
            _ => Err("an exposure is a number of lx above 0, such as 20lx; stops, such as +1 or -1.5; or `each`"
                .to_owned()),
        },
    }
}

/// Most lamps of a picture.
const MOST_LAMPS: u64 = 10_000;

/// Most pictures of one animation.
const MOST: f64 = 1800.0;

pub fn run(arguments: &Arguments) -> Done {
    let goal = Goal::or_beside(arguments.output.as_deref(), &arguments.book, "-view.png");
    let ending = goal.ending();
    if !matches!(ending.as_str(), "png" | "svg" | "apng") {
        return Err(failure(
            format!("`{}` is not a picture file", goal.path.display()),
            "a view is written as .png, .svg, or .apng for an animation",
        ));
    }
    let moving = ending == "apng";
    let (from, to, by_hour) = match (arguments.from.hour, arguments.to.hour) {
        (None, None) => (arguments.from.moment.0, arguments.to.moment.0, false),
        (Some(Hours(from)), Some(Hours(to))) => {
            (from, if to > from { to } else { to + 24.0 }, true)
        }
        _ => {
            return Err(failure(
                "`--from` and `--to` must both be moments or both be hours",
                "for example: --from 05:00 --to 21:00",
            ));
        }
    };
    // A second of the run passes with each hour.
    let when = |v: f64| match by_hour {
        true => When { hour: Some(Hours(v % 24.0)), moment: Seconds(3600.0 + v - from) },
        false => Seconds(v).into(),
    };
    if (moving || arguments.strip.is_some()) && to <= from {
        return Err(failure("`--to` must be after `--from`", "for example: --from 0s --to 5s"));
    }
    let moments: Vec<When> = if moving {
        let count = ((to - from) * f64::from(arguments.rate)).floor();
        if count > MOST {
            return Err(failure(
                format!("an animation has at most {MOST} frames, this one would have {count}"),
                "shorten the span or lower `--rate`",
            ));
        }
        (0..=count as u32).map(|n| when(from + f64::from(n) / f64::from(arguments.rate))).collect()
    } else if let Some(count) = arguments.strip {
        let step = (to - from) / f64::from(count - 1);
        (0..count).map(|n| when(from + step * f64::from(n))).collect()
    } else if arguments.at.is_empty() {
        vec![when(from)]
    } else {
        arguments.at.clone()
    };
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    needs_lights(&checked)?;
    if moments.iter().any(|when| when.hour.is_some()) {
        needs_clock(&checked)?;
    }
    // Day and night are too far apart for one exposure.
    let hours = moments.iter().filter(|when| when.hour.is_some()).count();
    let default = if hours > 1 && !moving { Exposure::Each } else { Exposure::Fitted };
    let chosen = match &arguments.light[..] {
        [] => None,
        names => Some(lights(&checked, names)?),
    };
    let drawn = |id: &LightId| chosen.as_ref().is_none_or(|chosen| chosen.contains(id));
    let lamps = checked.program().lights().filter(|(id, _)| drawn(id));
    let lamps: u64 = lamps.map(|(_, light)| u64::from(light.size.shown())).sum();
    if lamps > MOST_LAMPS {
        return Err(failure(
            format!("the picture would have {lamps} lamps; the limit is {MOST_LAMPS}"),
            "select lights with `--light`",
        ));
    }
    let rehearsal = rehearsal_of(&checked, &arguments.rehearsal)?;
    let start = arguments.start.state(&checked)?;
    let last = moments.iter().map(|when| when.moment.0).fold(0.0, f64::max);
    let played = rehearsal.map(|n| &checked.program().rehearsals()[n]);
    needs_reach(&checked, &start, played, Seconds(last))?;
    let options = PlaceOptions {
        view: arguments.seen.view(checked.program())?,
        moments,
        start: Some(start),
        rehearsal,
        exposure: arguments.exposure.unwrap_or(default),
        width: arguments.width.unwrap_or(if moving { 640 } else { 1280 }),
        lights: chosen,
        pictures: opened.pictures(),
    };
    let (bytes, width, height) = if moving {
        let view = PlaceView::new(&checked, &options);
        let bar = progress(options.moments.len() as u64);
        let pictures = options.moments.iter().map(|moment| view.picture(&checked, &[*moment]));
        let bytes = apng(pictures, arguments.rate, |done| bar.set_position(done as u64))?;
        bar.finish_and_clear();
        let first = view.picture(&checked, &options.moments[..1]);
        (bytes, first.width, first.height)
    } else {
        let picture = place(&checked, &options);
        let bytes = if ending == "svg" { svg(&picture).into_bytes() } else { png(&picture)? };
        (bytes, picture.width, picture.height)
    };
    goal.write(&bytes, &Inputs::new(opened.files()))?;
    let many = if moving { format!(", {} pictures", options.moments.len()) } else { String::new() };
    say(format!("wrote {} ({width} x {height}{many})", goal.path.display()))?;
    Ok(Status::Fine)
}

/// The view through an eye of the book.
pub fn eye_named(program: &Program, name: &str) -> Result<View, Failure> {
    let eyes = program.eyes();
    if let Some(n) = eyes.iter().position(|eye| eye.name == name) {
        return Ok(View::Eye(n));
    }
    let names: Vec<&str> = eyes.iter().map(|eye| eye.name.as_str()).collect();
    let help = match &names[..] {
        [] => {
            "declare one, as in `eye door { at (0m, 1.7m, 8m); toward (0m, 2m, 0m); field 70deg }`"
                .to_owned()
        }
        _ => format!("its eyes: {}", names.join(", ")),
    };
    Err(failure(format!("the book has no eye `{name}`"), help))
}

/// Shows on a terminal how many pictures are done.
fn progress(count: u64) -> ProgressBar {
    let bar = ProgressBar::new(count);
    if let Ok(style) = ProgressStyle::with_template("{bar:30} {pos} of {len} ({eta} left)") {
        bar.set_style(style);
    }
    bar
}
