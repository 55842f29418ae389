//! The `caltrin` command.

mod commands;
mod git;
mod interrupt;
mod live;
mod lsp;
mod outcome;
mod report;

use std::process::ExitCode;

use clap::error::ContextKind;
use clap::{Parser, Subcommand};

/// Write gameplay lighting as text, preview it on timelines, check it, and export code that
/// matches the preview bit for bit.
#[derive(Parser)]
#[command(name = "caltrin", version, max_term_width = 100, arg_required_else_help = true)]
#[command(after_help = "Examples:
  caltrin demo                             create the Saltgate pier: book, pictures, code, proof
  caltrin new \"Slipway\"                    create a lightbook
  caltrin live slipway.caltrin             preview it while you write
  caltrin check slipway.caltrin            report errors and warnings
  caltrin export slipway.caltrin --to c,js -o generated

Exit status: 0 success, 1 problems in the book, 2 usage error.")]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Subcommand)]
enum Command {
    New(commands::new::Arguments),
    Check(commands::check::Arguments),
    Fmt(commands::fmt::Arguments),
    Explain(commands::explain::Arguments),
    Stock(commands::stock::Arguments),
    Hear(commands::hear::Arguments),
    Live(commands::live::Arguments),
    Lsp(commands::lsp::Arguments),
    Sheet(commands::sheet::Arguments),
    Day(commands::day::Arguments),
    View(commands::view::Arguments),
    #[command(hide = true)]
    Place(Earlier),
    Share(commands::share::Arguments),
    Compare(commands::compare::Arguments),
    Rehearse(commands::rehearse::Arguments),
    Flash(commands::flash::Arguments),
    Trace(commands::trace::Arguments),
    Export(commands::export::Arguments),
    Prove(commands::prove::Arguments),
    Demo(commands::demo::Arguments),
    Completions(commands::completions::Arguments),
}

/// The arguments of a command of an earlier version; none is read.
#[derive(clap::Args)]
#[command(disable_help_flag = true)]
struct Earlier {
    #[arg(trailing_var_arg = true, allow_hyphen_values = true, hide = true)]
    arguments: Vec<String>,
}

fn main() -> ExitCode {
    let arguments = Arguments::try_parse().unwrap_or_else(|mut error| {
        // That a word could be passed with `--` before it helps nobody here.
        error.remove(ContextKind::Suggested);
        error.exit()
    });
    report::panics();
    interrupt::listen();
    let done = match arguments.command {
        Command::New(arguments) => commands::new::run(&arguments),
        Command::Check(arguments) => commands::check::run(&arguments),
        Command::Fmt(arguments) => commands::fmt::run(&arguments),
        Command::Explain(arguments) => commands::explain::run(&arguments),
        Command::Stock(arguments) => commands::stock::run(&arguments),
        Command::Hear(arguments) => commands::hear::run(&arguments),
        Command::Live(arguments) => commands::live::run(&arguments),
        Command::Lsp(_) => commands::lsp::run(),
        Command::Sheet(arguments) => commands::sheet::run(&arguments),
        Command::Day(arguments) => commands::day::run(&arguments),
        Command::View(arguments) => commands::view::run(&arguments),
        Command::Place(_) => {
            Err(outcome::failure("`caltrin place` is now `caltrin view`", "write `caltrin view`"))
        }
        Command::Share(arguments) => commands::share::run(&arguments),
        Command::Compare(arguments) => commands::compare::run(&arguments),
        Command::Rehearse(arguments) => commands::rehearse::run(&arguments),
        Command::Flash(arguments) => commands::flash::run(&arguments),
        Command::Trace(arguments) => commands::trace::run(&arguments),
        Command::Export(arguments) => commands::export::run(&arguments),
        Command::Prove(arguments) => commands::prove::run(&arguments),
        Command::Demo(arguments) => commands::demo::run(&arguments),
        Command::Completions(arguments) => commands::completions::run(&arguments),
    };
    match done {
        Ok(commands::Status::Fine) => ExitCode::SUCCESS,
        Ok(commands::Status::Problems) => ExitCode::from(1),
        Err(failure) => {
            report::failure(&failure);
            ExitCode::from(2)
        }
    }
}
