//! `caltrin prove`

use std::path::{Path, PathBuf};

use caltrin::core::{SourceNotes, ValidatedProgram};
use caltrin::export::compilers::{COMPILERS, Compiler, compiler_named};
use caltrin::export::prove::shader::prove_shown;
use caltrin::export::prove::{Asked, Outcome, moments, moments_with, prove};
use caltrin::export::{OwnTarget, Target};
use serde_json::{Value, json};

use super::{
    Done, Failure, GivenOut, OwnLanguages, Status, failure, parse_target, rehearsal_of, say,
    targets, working,
};
use crate::interrupt::Scratch;

/// Compile and run the exported code with the real compilers, and compare it with the preview bit
/// for bit.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin prove pier.caltrin
  caltrin prove pier.caltrin --to c,js --samples 1000000
  caltrin prove pier.caltrin --strict --json      for a build server
  caltrin prove siding.caltrin --to wgsl
  caltrin prove pier.caltrin --compiler clang,x86-32,aarch64
  caltrin prove pier.caltrin --language engine.toml --run-commands

A sample is one lamp at one moment with all its fields. Shaders (wgsl, glsl, hlsl) are printed as C in single precision \
and compared with their reference; how far that is from the preview is printed. A language whose compiler is missing is \
told as not tried; with --strict that counts as a problem. A language file of your own \
(docs/languages.md) names the commands that compile and run its code; they run only with \
--run-commands.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    #[command(flatten)]
    given: GivenOut,
    /// Languages, separated by commas; default: rust,c,csharp,js.
    #[arg(long, value_name = "LANGUAGES", value_delimiter = ',', value_parser = parse_target)]
    to: Vec<&'static dyn Target>,
    #[command(flatten)]
    own: OwnLanguages,
    /// Run the commands that language files name.
    #[arg(long, requires = "language")]
    run_commands: bool,
    /// Prove C with these compilers, separated by commas: gcc, clang, gcc-native, clang-native, x86-32, aarch64 and
    /// armhf (emulated), or all.
    #[arg(long, value_name = "COMPILERS", value_delimiter = ',', value_parser = parse_compiler)]
    compiler: Vec<&'static [Compiler]>,
    /// Minimum number of samples.
    #[arg(long, value_name = "NUMBER", default_value_t = 100_000, value_parser = clap::value_parser!(u64).range(1..=50_000_000))]
    samples: u64,
    /// Replay only this rehearsal; default: all.
    #[arg(long, value_name = "NAME")]
    rehearsal: Option<String>,
    /// Fail if a language cannot be tried.
    #[arg(long)]
    strict: bool,
    /// Keep the compiled files in this folder.
    #[arg(long, value_name = "FOLDER")]
    keep: Option<PathBuf>,
    /// Print the results as JSON.
    #[arg(long)]
    json: bool,
}

/// Reads a compiler's name, or `all`.
fn parse_compiler(text: &str) -> Result<&'static [Compiler], String> {
    if text == "all" {
        return Ok(&COMPILERS);
    }
    compiler_named(text).map(std::slice::from_ref).ok_or_else(|| {
        let names: Vec<&str> = COMPILERS.iter().map(|compiler| compiler.option).collect();
        match caltrin::lang::words::nearest(text, names.iter().copied()) {
            Some(near) => format!("there is no compiler `{text}`; did you mean `{near}`?"),
            None => format!("compilers are {} and all", names.join(", ")),
        }
    })
}

pub fn run(arguments: &Arguments) -> Done {
    let (opened, Some(checked)) = arguments.given.open(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    let own = arguments.own.read()?;
    if !arguments.run_commands {
        own.iter().try_for_each(refuse_commands)?;
    }
    // Compilers alone are asked for without the default languages.
    let only_compilers =
        arguments.to.is_empty() && own.is_empty() && !arguments.compiler.is_empty();
    let mut asked = if only_compilers { Vec::new() } else { targets(&arguments.to, &own) };
    let compilers = arguments.compiler.iter().flat_map(|some| some.iter());
    asked.extend(compilers.map(|compiler| compiler as &dyn Target));
    let only = rehearsal_of(&checked, &arguments.rehearsal)?;
    let moments = match only {
        Some(n) => moments_with(&checked, arguments.samples, &[n]),
        None => moments(&checked, arguments.samples),
    };
    let outcomes = outcomes(
        &checked,
        &opened.notes,
        &asked,
        (&moments, arguments.samples),
        arguments.keep.as_deref(),
    )?;
    if arguments.json {
        let all: Vec<Value> = outcomes.iter().map(|(t, o)| as_json(*t, o)).collect();
        say(serde_json::to_string_pretty(&all)?)?;
    } else {
        table(&outcomes)?;
    }
    let tried = outcomes.iter().filter(|(_, o)| !matches!(o, Outcome::NotTried { .. })).count();
    if tried == 0 {
        return Err(failure(
            "no language could be tried, so nothing was proved",
            "install a compiler; scripts/install-debian.sh installs all of them on Debian",
        ));
    }
    Ok(status(&outcomes, arguments.strict))
}

/// The commands of a language file are somebody else's programs: they are shown before they run.
fn refuse_commands(target: &OwnTarget) -> Result<(), Failure> {
    let folder = Path::new("FOLDER");
    let mut commands = target.compile(folder, "FILE");
    commands.push(target.run(folder));
    let commands: Vec<String> =
        commands.iter().filter(|words| !words.is_empty()).map(|words| words.join(" ")).collect();
    if commands.is_empty() {
        return Ok(());
    }
    Err(failure(
        format!("the language `{}` runs programs: {}", target.name(), commands.join("; ")),
        "if you trust the file, say --run-commands",
    ))
}

pub type Outcomes<'t> = Vec<(&'t dyn Target, Outcome)>;

/// Proves each language in turn, showing on a terminal how far it is.
pub fn outcomes<'t>(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    asked: &[&'t dyn Target],
    (moments, samples): (&[Asked], u64),
    keep: Option<&Path>,
) -> Result<Outcomes<'t>, Failure> {
    let temporary = Scratch::new()?;
    let folder = keep.unwrap_or(temporary.path());
    let mut outcomes = Vec::new();
    for (n, target) in asked.iter().enumerate() {
        let bar = working(&format!("proving {} ({} of {})", target.name(), n + 1, asked.len()));
        let outcome = match target.is_shading() {
            true => prove_shown(checked, notes, samples, &folder.join(target.name()))?,
            false => prove(checked, notes, *target, moments, folder)?,
        };
        bar.finish_and_clear();
        outcomes.push((*target, outcome));
    }
    Ok(outcomes)
}

/// Fine only if every language that was tried gave bit-identical results.
pub fn status(outcomes: &Outcomes<'_>, strict: bool) -> Status {
    let fine = outcomes.iter().all(|(_, outcome)| match outcome {
        Outcome::NotTried { .. } => !strict,
        outcome => outcome.holds(),
    });
    if fine { Status::Fine } else { Status::Problems }
}

/// The outcomes as a table, with details below it.
pub fn table(outcomes: &Outcomes<'_>) -> Result<(), Failure> {
    let mut rows =
        vec![["language", "samples", "values", "mismatches", "compiler"].map(str::to_owned)];
    let mut details = Vec::new();
    for (target, outcome) in outcomes {
        let name = target.name().to_owned();
        match outcome {
            Outcome::Compared { version, samples, values, mismatches, first } => {
                rows.push([
                    name,
                    samples.to_string(),
                    values.to_string(),
                    mismatches.to_string(),
                    version.clone(),
                ]);
                for m in first {
                    details.push(format!(
                        "{}: {}[{}] {} at {} s with seed {}: preview {}, code {}",
                        target.name(),
                        m.light,
                        m.index,
                        m.field,
                        m.asked.moment,
                        m.asked.seed.0,
                        m.wanted,
                        m.found
                    ));
                }
            }
            Outcome::NotTried { missing } => {
                let why =
                    format!("not tried: `{}` is missing ({})", missing.command, missing.package);
                rows.push([name, "-".to_owned(), "-".to_owned(), "-".to_owned(), why]);
            }
            Outcome::Failed { version, said } => {
                let failed = format!("failed with {version}");
                rows.push([name, "-".to_owned(), "-".to_owned(), "-".to_owned(), failed]);
                details.push(format!("{}: {said}", target.name()));
            }
        }
    }
    let widths: [usize; 4] =
        std::array::from_fn(|n| rows.iter().map(|row| row[n].len()).max().unwrap_or(0));
    for [language, samples, values, mismatches, compiler] in &rows {
        let [a, b, c, d] = widths;
        say(format!("{language:a$}  {samples:>b$}  {values:>c$}  {mismatches:>d$}  {compiler}"))?;
    }
    for detail in details {
        say(detail)?;
    }
    Ok(())
}

fn as_json(target: &dyn Target, outcome: &Outcome) -> Value {
    let language = target.name();
    match outcome {
        Outcome::Compared { version, samples, values, mismatches, .. } => json!({
            "language": language, "outcome": "compared", "compiler": version,
            "samples": samples, "values": values, "mismatches": mismatches,
        }),
        Outcome::NotTried { missing } => json!({
            "language": language, "outcome": "not tried",
            "missing": missing.command, "package": missing.package,
        }),
        Outcome::Failed { version, said } => json!({
            "language": language, "outcome": "failed", "compiler": version, "said": said,
        }),
    }
}
