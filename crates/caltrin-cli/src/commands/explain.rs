//! `caltrin explain`

use std::path::PathBuf;

use serde_json::json;

use super::{Done, Failure, Status, failure, open_and_tell, say};

/// Say what a signal, behaviour, curve, light or channel is made of, and who uses it.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin explain pier.caltrin supply
  caltrin explain pier.caltrin mast.intensity
  caltrin explain pier.caltrin quay.core --json

Bounds are known without sampling: nothing that is ever read lies outside of them.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// The name, or `light.channel`.
    name: String,
    /// Tell it as JSON.
    #[arg(long)]
    json: bool,
}

pub fn run(arguments: &Arguments) -> Done {
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    let told = match caltrin::explain(&checked, &opened.notes, &arguments.name) {
        Ok(told) => told,
        Err(near) => {
            let message = format!("`{}` has no `{}`", arguments.book.display(), arguments.name);
            return Err(match near {
                Some(near) => failure(message, format!("did you mean `{near}`?")),
                None => Failure(message, None),
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
            "bounds": told.bounds, "period": told.period, "pace": told.pace, "users": told.users,
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
        [("stays in", &told.bounds), ("repeats", &told.period), ("changes", &told.pace)]
    {
        if let Some(words) = words {
            say(format!("{lead:10}{words}"))?;
        }
    }
    if !told.users.is_empty() {
        say(format!("{:10}{}", "used by", told.users.join(", ")))?;
    }
    Ok(Status::Fine)
}
