//! Why a light cannot be exported to a shader.

use std::collections::BTreeSet;

use crate::ir::{Expr, Function, Module, each_expr};
use crate::plan::Plan;
use crate::print::KERNEL;

/// Functions of dates.
const OF_DATES: [&str; 6] =
    ["sun_way", "axis_tilt", "sky_turn", "sky_part", "sun_hour", "sun_stays"];

/// Why a function cannot be exported, or `None`. `book` contains the book's functions.
pub(super) fn reason(plan: &Plan, book: &Module, function: &Function) -> Option<String> {
    let mut found: Vec<(u32, String)> = Vec::new();
    let mut seen = BTreeSet::new();
    look(plan, book, function, &mut seen, &mut found);
    found.into_iter().min().map(|(_, reason)| reason)
}

fn look(
    plan: &Plan,
    book: &Module,
    function: &Function,
    seen: &mut BTreeSet<String>,
    found: &mut Vec<(u32, String)>,
) {
    each_expr(&function.body, &mut |expr| match expr {
        Expr::Run(place) => {
            let input = place.field.strip_prefix("input ").and_then(|n| n.parse::<usize>().ok());
            if let Some(input) = input.and_then(|n| plan.inputs.get(n)).filter(|input| input.kept) {
                let what = input.name.rsplit_once('.').map_or(&*input.name, |(name, _)| name);
                // What follows a sound is named by the sound.
                let what = what.split(".follow").next().unwrap_or(what);
                found.push((0, format!("depends on events (`{what}`)")));
            }
        }
        Expr::Call(name, _) if seen.insert(name.clone()) => {
            if let Some(own) = book.function(name).or_else(|| KERNEL.function(name)) {
                if OF_DATES.contains(&name.as_str()) {
                    let what =
                        "depends on the position of the sun or moon, which needs double precision";
                    found.push((1, what.to_owned()));
                }
                look(plan, book, own, seen, found);
            } else if !name.starts_with("clock_") && !name.ends_with(" weight") {
                found.push((0, "depends on events".to_owned()));
            }
        }
        _ => {}
    });
}
