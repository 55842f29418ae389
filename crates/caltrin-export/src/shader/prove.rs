//! The proof of a shader: its tree, printed as C with singles, is compiled and run, and compared with the reference bit by
//! bit.

use std::fs;
use std::io;
use std::path::Path;
use std::process::{Command, Stdio};

use caltrin_core::ValidatedProgram;

use super::measure::{Draws, given, state};
use super::print::ShaderFile;
use super::{HORIZONS, Shader, ShaderLight};
use crate::ir::Type;
use crate::ir::walk::Value;
use crate::language::SINGLE_C;
use crate::plan::Plan;
use crate::prove::version;
use crate::target::Tool;

/// The result of the proof of a shader.
#[derive(Clone, Debug, PartialEq)]
pub enum Proved {
    /// It was run and compared.
    Compared {
        /// The compiler's version line.
        version: String,
        /// How many lamps were compared.
        samples: u64,
        /// How many values.
        values: u64,
        /// How many of them had other bits than the reference.
        mismatches: u64,
        /// The first of those: the light, the lamp, and what it was given.
        first: Option<String>,
    },
    /// A tool is missing; nothing was run.
    NotTried {
        /// The missing tool.
        missing: Tool,
    },
    /// The code did not compile, or did not run to its end.
    Failed {
        /// What the compiler or the program printed.
        said: String,
    },
}

/// Proves a shader in a folder with at least so many lamps at as many moments.
///
/// # Errors
/// If files cannot be written to the folder or read from it.
pub fn prove(
    checked: &ValidatedProgram,
    plan: &Plan,
    shader: &Shader,
    samples: u64,
    folder: &Path,
) -> io::Result<Proved> {
    let tool = Tool {
        command: "gcc".to_owned(),
        version: vec!["--version".to_owned()],
        package: "gcc".to_owned(),
    };
    let Some(version) = version(&tool) else { return Ok(Proved::NotTried { missing: tool }) };
    let Some(file) = ShaderFile::of(shader, plan, &SINGLE_C) else {
        return Ok(Proved::Failed { said: "C with singles is no shading language".to_owned() });
    };
    let name = super::file_name(plan, &SINGLE_C);
    let path = |name: &str| folder.join(name);
    fs::create_dir_all(folder)?;
    fs::write(path(&name), file.print())?;
    fs::write(path("prove_single.c"), prover(&file, &name))?;
    let asked = asked(checked, plan, shader, samples);
    let words = asked.iter().flat_map(|asked| &asked.words).flat_map(|word| word.to_le_bytes());
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
            return Ok(Proved::Failed { said: format!("{}\n{}", out.status, lines.join("\n")) });
        }
    }
    let found = fs::read(path("found.bin"))?;
    let mut found = found.chunks_exact(4).map(|b| u32::from_le_bytes([b[0], b[1], b[2], b[3]]));
    let (mut values, mut mismatches, mut first) = (0, 0, None);
    for asked in &asked {
        for wanted in &asked.wanted {
            values += 1;
            if found.next() != Some(wanted.to_bits()) {
                mismatches += 1;
                first.get_or_insert_with(|| asked.about.clone());
            }
        }
    }
    if found.next().is_some() {
        return Ok(Proved::Failed { said: "more values came out than were expected".to_owned() });
    }
    Ok(Proved::Compared { version, samples: asked.len() as u64, values, mismatches, first })
}

/// A lamp that is asked for.
struct Asked {
    /// The frame, the light, the lamp, and what it has of its own.
    words: Vec<u32>,
    wanted: Vec<f32>,
    about: String,
}

/// How many words a lamp is asked for with.
fn width(shader: &Shader) -> usize {
    let own = shader.lights.iter().map(|light| light.own.len()).max().unwrap_or(0);
    shader.frame.len() + 2 + own
}

fn asked(checked: &ValidatedProgram, plan: &Plan, shader: &Shader, samples: u64) -> Vec<Asked> {
    let word = |value: &Value| match value {
        Value::Number(v) => (*v as f32).to_bits(),
        Value::Word(v) => *v,
        Value::Flag(on) => u32::from(*on),
        _ => 0,
    };
    let reference = shader.reference();
    let mut all = Vec::new();
    let mut draws = Draws::new(0x0100_0000);
    let each = samples.div_ceil(shader.lights.len().max(1) as u64);
    for (n, light) in shader.lights.iter().enumerate() {
        let state_of = |draw, draws: &mut Draws| state(checked.program(), draw, draws);
        let mut now = state_of(0, &mut draws);
        for sample in 0..each {
            if sample % 16 == 15 {
                now = state_of(1, &mut draws);
            }
            let horizon = if sample % 2 == 0 { 600.0 } else { HORIZONS[0] };
            let whole = (horizon * draws.unit()).floor();
            let t = whole + f64::from(draws.word() >> 12) / 1_048_576.0;
            let count = plan.lights[light.place].size.shown().max(1);
            let index = draws.word() % count;
            let given = given(plan, shader, light, (checked, &now), (t, index));
            let Some(wanted) = reference.read(light, &given, index) else { continue };
            let mut words: Vec<u32> =
                shader.frame.iter().map(|field| word(&given[&field.name])).collect();
            words.extend([n as u32, index]);
            words.extend(own(light).map(|name| word(&given[name])));
            words.resize(width(shader), 0);
            let about = format!("{}[{index}] at {t} s", plan.lights[light.place].name);
            all.push(Asked { words, wanted, about });
        }
    }
    all
}

/// The names of what a lamp has of its own.
fn own(light: &ShaderLight) -> impl Iterator<Item = &str> {
    let first = usize::from(light.by_index);
    let own = &light.function.locals[first..light.function.parameters];
    own.iter().map(|local| local.name.as_str())
}

/// The program that asks the file.
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
        width = width(shader),
        frame = file.frame_type,
    )
}
