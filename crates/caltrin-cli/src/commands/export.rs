//! `caltrin export`

use std::path::PathBuf;

use caltrin::export::shader::Shader;
use caltrin::export::{ExportOptions, Exports, FilePrefix, Target, export_all, manifest};
use caltrin::files::{Inputs, put_exported};
use serde_json::{Value, json};

use super::goal::interrupted;
use super::{Done, GivenOut, OwnLanguages, Status, failure, parse_target, say, targets};
use crate::interrupt::whole;

/// Export a lightbook as source code, one file per language.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin export pier.caltrin --to c -o src/lights
  caltrin export pier.caltrin --to c --split -o src/lights
  caltrin export pier.caltrin --to rust,csharp,js -o generated --force
  caltrin export pier.caltrin --to c --up z --unit 1cm --factor 0.001
  caltrin export pier.caltrin --to c,csharp --prefix harbor_lights
  caltrin export pier.caltrin --to cpp,ts,java,python,lua -o generated
  caltrin export siding.caltrin --to wgsl,glsl,hlsl -o shaders
  caltrin export pier.caltrin --language engine.toml -o scripts
  caltrin export pier.caltrin --manifest -o tools

Languages: rust (one module), c (one C99 header), csharp (one struct), js (one ES module); if \
they are named also cpp (one C++17 header), ts (one TypeScript module), java (one class, Java 17), python (3.9, standard \
library alone) and lua (5.3 and later, and LuaJIT, from one file). Shaders, for many small lamps and emissive surfaces: \
wgsl, glsl and hlsl, with the lights that do not depend on events (docs/shaders.md). Another language is a file \
that says how it spells things: docs/languages.md. The manifest is JSON: names, counts, kinds, \
units and bounds of all that the files hold (docs/manifest.schema.json). Files are written whole \
or not at all; a file that caltrin did not write stays unless you say --force.")]
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
    /// Write the manifest: what the files hold, as JSON; alone unless languages are asked for too.
    #[arg(long)]
    manifest: bool,
    /// Folder to write to; created if it does not exist.
    #[arg(short, long, value_name = "FOLDER", default_value = ".")]
    output: PathBuf,
    /// Name to use in the code instead of the book's: the prefix in C, the namespace in C#, the file in Rust and
    /// JavaScript.
    #[arg(long, value_name = "NAME", value_parser = parse_prefix)]
    prefix: Option<FilePrefix>,
    /// Add tables of names, for hosts that bind at run time: look-up by name, all lights as a list of numbers, and inputs,
    /// choices and events by index.
    #[arg(long)]
    names: bool,
    /// Write C as a header and a source file, so that only one file is compiled with the project's options.
    #[arg(long)]
    split: bool,
    /// Replace files that caltrin did not write.
    #[arg(long)]
    force: bool,
    /// Print the written files as JSON.
    #[arg(long)]
    json: bool,
}

fn parse_prefix(text: &str) -> Result<FilePrefix, String> {
    FilePrefix::new(text).map_err(|error| error.to_string())
}

/// The lights of shaders with their measured deviations from the preview.
fn lights_of(shader: &Shader) -> Value {
    let each = shader.lights.iter().map(|light| {
        let deviation = light.deviation;
        json!({
            "light": light.name, "deviation": deviation.worst, "hours": deviation.horizon / 3600.0,
        })
    });
    each.collect()
}

pub fn run(arguments: &Arguments) -> Done {
    let (opened, Some(checked)) = arguments.given.open(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    let own = arguments.own.read()?;
    let alone = arguments.manifest && arguments.to.is_empty() && own.is_empty();
    let asked = if alone { Vec::new() } else { targets(&arguments.to, &own) };
    let prefix = arguments.prefix.as_ref();
    let splits =
        |target: &&dyn Target| !target.is_shading() && target.language().file.split.is_some();
    if arguments.split && !asked.iter().any(splits) {
        return Err(failure("only C has headers, so `--split` needs `--to c`", "omit `--split`"));
    }
    let options =
        ExportOptions { prefix: prefix.cloned(), names: arguments.names, split: arguments.split };
    let Exports { files, shader } = export_all(&checked, &opened.notes, &asked, &options);
    if let Some(shader) = shader.as_ref().filter(|shader| shader.lights.is_empty()) {
        return Err(failure(
            "no light of the book can be a shader, so nothing was written",
            shader.exclusions().join("; "),
        ));
    }
    let names =
        asked.iter().zip(&files).flat_map(|(target, files)| files.iter().map(|_| target.name()));
    let names: Vec<&str> = names.chain(["manifest"]).collect();
    let mut files: Vec<_> = files.into_iter().flatten().collect();
    if arguments.manifest {
        files.push(manifest(&checked, &opened.notes, prefix));
    }
    let inputs = Inputs::new(opened.files());
    let (paths, done) =
        whole(|| put_exported(&arguments.output, &files, &inputs, arguments.force))?;
    interrupted(&done);
    let mut told = Vec::new();
    let shading =
        |name: &str| asked.iter().any(|target| target.name() == name && target.is_shading());
    for ((name, file), path) in names.into_iter().zip(&files).zip(&paths) {
        let lines = file.text.lines().count();
        if arguments.json {
            let mut row = json!({ "language": name, "file": path, "lines": lines });
            if let Some(shader) = shader.as_ref().filter(|_| shading(name)) {
                row["lights"] = lights_of(shader);
                row["excluded"] = json!(
                    (shader.excluded.iter())
                        .map(|out| json!({ "light": out.light, "reason": out.reason }))
                        .collect::<Vec<_>>()
                );
            }
            told.push(row);
        } else {
            say(format!("wrote {} ({lines} lines)", path.display()))?;
        }
    }
    if let Some(shader) = shader.filter(|_| !arguments.json) {
        let (shown, out) = (shader.lights.len(), shader.excluded.len());
        say(format!("shaders contain {shown} of {} lights", shown + out))?;
        for line in shader.exclusions() {
            say(format!("  excluded: {line}"))?;
        }
    }
    // What sounds add to each file.
    let program = checked.program();
    let tables = program.sounds().iter().flat_map(|sound| &sound.followed);
    let bytes: usize = tables.map(|id| program.table(*id).bytes()).sum();
    if arguments.json {
        say(serde_json::to_string_pretty(&told)?)?;
    } else if bytes > 0 && !asked.is_empty() {
        say(format!(
            "followers of sounds take {bytes} bytes in each file (`caltrin explain BOOK SOUND` shows which)"
        ))?;
    }
    Ok(Status::Fine)
}
