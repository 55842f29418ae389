//! `caltrin completions`

use clap::CommandFactory;
use clap_complete::Shell;

use super::{Done, Status, quiet_pipe};

/// Print shell completions.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin completions bash > ~/.local/share/bash-completion/completions/caltrin
  caltrin completions fish > ~/.config/fish/completions/caltrin.fish")]
pub struct Arguments {
    /// The shell.
    shell: Shell,
}

pub fn run(arguments: &Arguments) -> Done {
    let mut text = Vec::new();
    clap_complete::generate(
        arguments.shell,
        &mut crate::Arguments::command(),
        "caltrin",
        &mut text,
    );
    quiet_pipe(std::io::Write::write_all(&mut std::io::stdout().lock(), &text))?;
    Ok(Status::Fine)
}
