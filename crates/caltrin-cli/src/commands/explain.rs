//! `caltrin explain`

use std::path::PathBuf;

use serde_json::json;

use super::{Done, Status, failure, open_and_tell, say};
use crate::report::quoted;

/// Show what a signal, behavior, curve, light or channel is made of and what uses it, or list the whole book.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin explain pier.caltrin
  caltrin explain pier.caltrin supply
  caltrin explain pier.caltrin mast.intensity
  caltrin explain pier.caltrin quay.core --json

Bounds are known without sampling: nothing that is ever read lies outside of them.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Name, or `light.channel`; without it, all names of the book are listed.
    name: Option<String>,
    /// Print JSON.
    #[arg(long)]
    json: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    let Some(name) = &arguments.name else {
        return list(&caltrin::explainable(&checked, &opened.notes), arguments.json);
    };
    let told = match caltrin::explain(&checked, &opened.notes, name) {
        Ok(told) => told,
        Err(near) => {
            let message = format!("`{}` has no `{name}`", arguments.book.display());
            let book = quoted(&arguments.book);
            return Err(match near {
                Some(near) => failure(message, format!("did you mean `{near}`?")),
                None => failure(message, format!("`caltrin explain {book}` lists all names")),
            });
        }
    };
    if arguments.json {
        let parts: Vec<_> = told
            .parts
            .iter()
            .map(|[name, what, place]| json!({ "name": name, "what": what, "place": place }))
            .collect();
        let all = json!({
            "title": told.title, "place": told.place, "text": told.text, "parts": parts,
            "bounds": told.bounds, "period": told.period, "changes": told.changes, "tags": told.tags, "users": told.users,
        });
        say(serde_json::to_string_pretty(&all)?)?;
        return Ok(Status::Fine);
    }
    say(&told.title)?;
    if !told.place.is_empty() {
        say(format!("  {}  {}", told.place, told.text))?;
    }
    let wide = |n: usize| told.parts.iter().map(|part| part[n].chars().count()).max().unwrap_or(0);
    let (names, whats) = (wide(0), wide(1));
    for (n, [name, what, place]) in told.parts.iter().enumerate() {
        let lead = if n == 0 { "made of" } else { "" };
        say(format!("{lead:10}{name:names$}  {what:whats$}  {place}").trim_end())?;
    }
    for (lead, words) in
        [("range", &told.bounds), ("repeats", &told.period), ("changes", &told.changes)]
    {
        if let Some(words) = words {
            say(format!("{lead:10}{words}"))?;
        }
    }
    if !told.tags.is_empty() {
        say(format!("{:10}{}", "tags", told.tags.join(", ")))?;
    }
    if !told.users.is_empty() {
        say(format!("{:10}{}", "used by", told.users.join(", ")))?;
    }
    Ok(Status::Fine)
}

fn list(all: &[[String; 3]], as_json: bool) -> Done {
    if as_json {
        let each = all.iter();
        let each = each.map(|[name, what, at]| json!({ "name": name, "what": what, "place": at }));
        say(serde_json::to_string_pretty(&each.collect::<Vec<_>>())?)?;
        return Ok(Status::Fine);
    }
    let wide = all.iter().map(|[name, ..]| name.chars().count()).max().unwrap_or(0);
    for [name, what, place] in all {
        let line = place.rsplit(':').next().unwrap_or_default();
        say(format!("{line:>5}  {name:wide$}  {what}"))?;
    }
    Ok(Status::Fine)
}
