//! `caltrin check`

use std::path::PathBuf;

use super::{Done, Status, count, failure, open, say, what_there_is};
use crate::report;

/// Report errors and warnings in lightbooks.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin check pier.caltrin
  caltrin check places/*.caltrin --strict
  caltrin check pier.caltrin --json
  caltrin check --explain C01")]
pub struct Arguments {
    /// The lightbooks.
    #[arg(value_name = "BOOK", required_unless_present = "explain")]
    books: Vec<PathBuf>,
    /// Print JSON: one list of diagnostics.
    #[arg(long)]
    json: bool,
    /// Treat warnings as errors.
    #[arg(long)]
    strict: bool,
    /// Explain the code of a warning.
    #[arg(long, value_name = "CODE", exclusive = true)]
    explain: Option<String>,
}

pub fn run(arguments: &Arguments) -> Done {
    if let Some(code) = &arguments.explain {
        return explain(code);
    }
    let mut status = Status::Fine;
    let mut all = Vec::new();
    for book in &arguments.books {
        all.push(open(book)?);
    }
    for opened in &all {
        let warnings = opened.warnings();
        if opened.errors() > 0 || arguments.strict && warnings > 0 {
            status = Status::Problems;
        }
        if arguments.json {
            continue;
        }
        report::diagnostics(opened);
        let errors = match opened.errors() {
            0 => "no errors".to_owned(),
            n => count(n as u64, "error"),
        };
        let warnings = match warnings {
            0 => String::new(),
            n => format!(", {}", count(n as u64, "warning")),
        };
        let about = opened
            .checked
            .as_ref()
            .map_or(String::new(), |checked| format!(" ({})", what_there_is(checked)));
        say(format!("{}: {errors}{warnings}{about}", opened.file))?;
    }
    if arguments.json {
        let told: Vec<_> = all.iter().flat_map(report::told).collect();
        say(serde_json::to_string_pretty(&told)?)?;
    }
    Ok(status)
}

fn explain(code: &str) -> Done {
    let Some(rule) = caltrin::check::rule(code) else {
        let codes: Vec<&str> = caltrin::check::RULES.iter().map(|rule| rule.code).collect();
        return Err(failure(
            format!("there is no check `{code}`"),
            format!("checks are {}", codes.join(", ")),
        ));
    };
    say(format!("{}: {}\n", rule.code, rule.title))?;
    let mut line = String::new();
    for word in rule.explanation.split_whitespace() {
        if line.len() + word.len() >= 80 {
            say(std::mem::take(&mut line))?;
        }
        if !line.is_empty() {
            line.push(' ');
        }
        line.push_str(word);
    }
    say(line)?;
    Ok(Status::Fine)
}
