//! `caltrin share`

use std::path::PathBuf;

use caltrin::core::quantity::Seed;
use caltrin::draw::When;
use caltrin::files::Inputs;

use super::live::no_key;
use super::view::{From, Seen};
use super::{
    Done, Goal, Status, failure, needs_lights, open_and_tell, parse_seed, parse_when, rehearsal_of,
    say,
};
use crate::live::Live;
use crate::live::copy::{self, Opens};

/// Write the live page as one self-contained HTML file.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin share pier.caltrin                          writes pier-share.html
  caltrin share pier.caltrin --rehearsal last_ferry --eye ramp
  caltrin share pier.caltrin --from 20s --to 26s      repeats six seconds

The file contains the book's text, the exported code, sounds and pictures, and loads nothing \
else. It opens in any browser without Caltrin and is read-only. For an animation, use `caltrin \
view BOOK -o FILE.apng`.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Page to write: .html.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    #[command(flatten)]
    seen: Seen,
    /// Play this rehearsal of the book.
    #[arg(long, value_name = "NAME")]
    rehearsal: Option<String>,
    /// First moment of the span that is shown and repeated.
    #[arg(long, value_name = "TIME", default_value = "0s", value_parser = parse_when)]
    from: When,
    /// Its last moment.
    #[arg(long, value_name = "TIME", default_value = "20s", value_parser = parse_when)]
    to: When,
    /// Random seed of the run; default: the book's.
    #[arg(long, value_parser = parse_seed)]
    seed: Option<Seed>,
}

pub fn run(arguments: &Arguments) -> Done {
    let goal = Goal::or_beside(arguments.output.as_deref(), &arguments.book, "-share.html");
    if !matches!(goal.ending().as_str(), "html" | "htm") {
        return Err(failure(
            format!("`{}` is not a page", goal.path.display()),
            "it is written as .html; `caltrin view` writes pictures",
        ));
    }
    let (from, to) = (arguments.from, arguments.to);
    if from.hour.is_some() || to.hour.is_some() {
        return Err(failure(
            "`--from` and `--to` are moments of the run",
            "for example: --from 20s --to 26s",
        ));
    }
    let span = to.moment.0 - from.moment.0;
    if !(0.1..=3600.0).contains(&span) || from.moment.0 < 0.0 {
        return Err(failure(
            "the span must be from 0.1 s to an hour long and not begin before 0 s",
            "for example: --from 20s --to 26s",
        ));
    }
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    needs_lights(&checked)?;
    rehearsal_of(&checked, &arguments.rehearsal)?;
    arguments.seen.view(checked.program())?;
    let live = Live::new(&arguments.book, true).map_err(no_key)?;
    live.saved();
    let opens = Opens {
        rehearsal: arguments.rehearsal.clone(),
        eye: arguments.seen.eye.clone(),
        view: match arguments.seen.view {
            From::Above => "above",
            From::Front => "front",
        },
        span,
        at: from.moment.0,
        seed: arguments.seed.map(|seed| seed.0),
    };
    let Some(page) = copy::page(&live, &opens) else { return Ok(Status::Problems) };
    goal.write(page.as_bytes(), &Inputs::new(opened.files()))?;
    say(format!("wrote {} ({} kB)", goal.path.display(), page.len().div_ceil(1000)))?;
    Ok(Status::Fine)
}
