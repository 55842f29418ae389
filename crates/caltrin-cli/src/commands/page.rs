//! Books with more lights than one picture holds.

use caltrin::core::ValidatedProgram;
use caltrin::core::program::{LightId, Rehearsal};
use caltrin::core::quantity::Seconds;
use caltrin::core::rehearsal::Player;
use caltrin::core::run::State;

use super::{Failure, failure};
use crate::report;

/// Most lights of one picture.
const MOST: usize = 200;

/// Most events that happen by themselves before the last moment that is drawn.
const MOST_HAPPENINGS: usize = 1_000_000;

/// Which lights of a large book are drawn.
#[derive(clap::Args)]
pub struct Page {
    /// Page to draw of a book with more than 200 lights, 200 lights per page; default: 1.
    #[arg(long, value_name = "NUMBER", conflicts_with = "light", value_parser = clap::value_parser!(u32).range(1..))]
    page: Option<u32>,
}

impl Page {
    /// The lights of the page, if they are not all that there are; says which.
    pub fn lights(&self, checked: &ValidatedProgram) -> Result<Option<Vec<LightId>>, Failure> {
        let all = checked.program().lights().len();
        let pages = all.div_ceil(MOST).max(1);
        let page = self.page.unwrap_or(1) as usize;
        if page > pages {
            return Err(failure(
                format!("there is no page {page}: the book's {all} lights are on {pages}"),
                "omit `--page` for the first",
            ));
        }
        if pages == 1 {
            return Ok(None);
        }
        let (from, to) = ((page - 1) * MOST, (page * MOST).min(all));
        report::note(
            &format!("lights {} to {to} of {all}, page {page} of {pages}", from + 1),
            "`--page 2` draws the next ones, `--light NAME` selects lights",
        );
        let lights = checked.program().lights().map(|(id, _)| id);
        Ok(Some(lights.skip(from).take(to - from).collect()))
    }
}

/// Refuses a time that too many events precede.
pub fn needs_reach(
    checked: &ValidatedProgram,
    start: &State,
    rehearsal: Option<&Rehearsal>,
    to: Seconds,
) -> Result<(), Failure> {
    let mut player = Player::new(checked, start.clone(), rehearsal);
    if player.reaches(to, MOST_HAPPENINGS) {
        return Ok(());
    }
    Err(failure(
        format!("more than {MOST_HAPPENINGS} events happen before {} s", to.0),
        "choose an earlier time: events are played from the start of the run",
    ))
}
