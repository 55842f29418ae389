//! The proof of a shader: the same functions, printed as C in single precision, are compiled, run and compared with the
//! reference bit for bit.

use std::fs;
use std::io;
use std::path::Path;
use std::process::{Command, Stdio};

use caltrin_core::{SourceNotes, ValidatedProgram};

use super::{Asked, Mismatch, Outcome, version};
use crate::ir::Type;
use crate::language::SINGLE_C;
use crate::plan::{LightPlan, Plan};
use crate::shader::{
    Sample, Shader, ShaderFile, file_name, samples as samples_of, words_of_sample,
};
use crate::target::Tool;

/// Proves a shader with at least `samples` samples, in a folder for temporary files.
///
/// # Errors
/// If files cannot be written to the folder or read from it.
pub fn prove(
    checked: &ValidatedProgram,
    plan: &Plan,
    shader: &Shader,
    samples: u64,
    folder: &Path,
) -> io::Result<Outcome> {
    compare(plan, shader, &samples_of(checked, plan, shader, samples), folder)
}

/// Compiles a shader as C and compares it with the values that samples of it have.
///
/// # Errors
/// As [`prove`].
pub fn compare(
    plan: &Plan,
    shader: &Shader,
    asked: &[Sample],
    folder: &Path,
) -> io::Result<Outcome> {
    let tool = Tool {
        command: "gcc".to_owned(),
        version: vec!["--version".to_owned()],
        package: "gcc".to_owned(),
    };
    let Some(version) = version(&tool) else { return Ok(Outcome::NotTried { missing: tool }) };
    let Some(file) = ShaderFile::of(shader, plan, &SINGLE_C) else {
        return Ok(failed(version, "C in single precision is not a shading language".to_owned()));
    };
    let name = file_name(plan, &SINGLE_C);
    let path = |name: &str| folder.join(name);
    fs::create_dir_all(folder)?;
    fs::write(path(&name), file.print())?;
    fs::write(path("prove_single.c"), prover(&file, &name))?;
    let words = asked.iter().flat_map(|asked| asked.words(shader)).flat_map(u32::to_le_bytes);
    fs::write(path("asked.bin"), words.collect::<Vec<u8>>())?;
    let program = path("prove_single");
    let compile = Command::new("gcc")
        .args(["-std=c99", "-O2", "-ffp-contract=off", "-Wall", "-Wextra", "-Werror"])
        .args([path("prove_single.c"), "-o".into(), program.clone(), "-lm".into()])
        .stdin(Stdio::null())
        .output()?;
    let run = || {
        let files = [path("asked.bin"), path("found.bin")];
        Command::new(&program).args(files).stdin(Stdio::null()).output()
    };
    for out in [Ok(compile), run()] {
        let out = out?;
        if !out.status.success() {
            let said = String::from_utf8_lossy(&out.stderr);
            let lines: Vec<&str> = said.lines().take(12).collect();
            return Ok(failed(version, format!("{}\n{}", out.status, lines.join("\n"))));
        }
    }
    let found = fs::read(path("found.bin"))?;
    let mut found = found.chunks_exact(4).map(|b| u32::from_le_bytes([b[0], b[1], b[2], b[3]]));
    let (mut values, mut mismatches, mut first) = (0, 0, Vec::new());
    for asked in asked {
        let light = &plan.lights[shader.lights[asked.light].place];
        for (wanted, field) in asked.wanted.iter().zip(headings(light)) {
            values += 1;
            let found = found.next();
            if found == Some(wanted.to_bits()) {
                continue;
            }
            mismatches += 1;
            if first.len() < 5 {
                first.push(Mismatch {
                    light: light.name.clone(),
                    index: asked.index,
                    field,
                    asked: Asked::at(asked.moment, asked.seed),
                    wanted: *wanted,
                    found: found.map_or(f32::NAN, f32::from_bits),
                });
            }
        }
    }
    if found.next().is_some() {
        return Ok(failed(version, "more values came out than were expected".to_owned()));
    }
    Ok(Outcome::Compared { version, samples: asked.len() as u64, values, mismatches, first })
}

/// Proves the lights of a program that shaders can show. The version line includes their deviation from the preview.
///
/// # Errors
/// As [`prove`].
pub fn prove_shown(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    samples: u64,
    folder: &Path,
) -> io::Result<Outcome> {
    let plan = Plan::without_test(checked, notes);
    let shader = Shader::of(checked, &plan);
    if shader.lights.is_empty() {
        return Ok(failed(String::new(), "no light of the book can be a shader".to_owned()));
    }
    let worst = shader.lights.iter().map(|light| light.deviation.worst).fold(0.0, f64::max);
    let outcome = prove(checked, &plan, &shader, samples, folder)?;
    Ok(match outcome {
        Outcome::Compared { version, samples, values, mismatches, first } => {
            let (shown, all) = (shader.lights.len(), plan.lights.len());
            let version = format!(
                "{version}, as C in single precision; {shown} of {all} lights, at most {worst:.1e} from the preview"
            );
            Outcome::Compared { version, samples, values, mismatches, first }
        }
        outcome => outcome,
    })
}

fn failed(version: String, said: String) -> Outcome {
    Outcome::Failed { version, said }
}

/// The names of a lamp's components.
fn headings(light: &LightPlan) -> impl Iterator<Item = String> {
    light.fields.iter().flat_map(|field| {
        let one = field.parts.len() == 1;
        let parts = field.suffixes.iter().map(|part| format!("{}.{part}", field.name));
        if one { vec![field.name.clone()] } else { parts.collect() }
    })
}

/// The program that evaluates the samples.
fn prover(file: &ShaderFile<'_>, name: &str) -> String {
    let shader = file.shader;
    let value = |ty: Type, at: usize| match ty {
        Type::F64 => format!("number(asked[{at}])"),
        Type::Bool => format!("asked[{at}] != 0u"),
        _ => format!("asked[{at}]"),
    };
    let first = shader.frame.len();
    let fields = shader.frame.iter().enumerate().map(|(n, field)| {
        let name = &file.field_name(&field.name);
        format!("        frame.{name} = {};\n", value(field.ty, n))
    });
    let fields: String = fields.collect();
    let cases = shader.lights.iter().zip(&file.lights).enumerate().map(|(n, (light, names))| {
        let mut given = vec!["frame".to_owned()];
        if light.by_index {
            given.push(format!("asked[{}]", first + 1));
        }
        let own = usize::from(light.by_index)..light.function.parameters;
        for (at, n) in own.enumerate() {
            given.push(value(light.function.locals[n].ty, first + 2 + at));
        }
        let puts = names.lamp.fields.iter().flat_map(|(field, suffixes)| {
            let one = || vec![format!("put(lamp.{field});")];
            let parts = |count| (0..count).map(|n| format!("put(lamp.{field}[{n}]);")).collect();
            if suffixes.is_empty() { one() } else { parts(suffixes.len()) }
        });
        let puts: Vec<String> = puts.collect();
        format!(
            "        case {n}u: {{\n            const {} lamp = {}({});\n            (void)lamp;\n            {}\n            break;\n        }}\n",
            names.lamp_type,
            names.read,
            given.join(", "),
            puts.join("\n            ")
        )
    });
    let cases: String = cases.collect();
    format!(
        "#include \"{name}\"\n\n#include <stdio.h>\n#include <stdlib.h>\n\nstatic FILE *out;\n\n\
static inline float number(uint32_t bits)\n{{\n    float v;\n    memcpy(&v, &bits, sizeof v);\n    return v;\n}}\n\n\
static inline void put(float v)\n{{\n    if (fwrite(&v, sizeof v, 1, out) != 1) exit(3);\n}}\n\n\
int main(int argc, char **argv)\n{{\n    static uint32_t asked[{width}];\n    FILE *in;\n    {frame} frame;\n    \
if (argc < 3) return 2;\n    (void)number;\n    (void)put;\n    (void)frame;\n    in = fopen(argv[1], \"rb\");\n    out = fopen(argv[2], \"wb\");\n    \
if (!in || !out) return 2;\n    while (fread(asked, sizeof asked, 1, in) == 1) {{\n{fields}        \
switch (asked[{first}]) {{\n{cases}        default: return 4;\n        }}\n    }}\n    fclose(in);\n    return fclose(out) != 0;\n}}\n",
        width = words_of_sample(shader),
        frame = file.frame_type,
    )
}
