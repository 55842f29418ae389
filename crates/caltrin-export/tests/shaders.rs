//! Shaders: near the preview, the same bits as the reference, and valid in every shading language; WGSL is run.
//!
//! What is not installed is left out; with `CALTRIN_STRICT` set it fails.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;
#[path = "../../caltrin-lang/tests/random/mod.rs"]
mod random;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

use caltrin_core::ValidatedProgram;
use caltrin_core::program::Wanted;
use caltrin_export::ir::walk::{Value, call};
use caltrin_export::language::{GLSL, HLSL, Language, WGSL};
use caltrin_export::plan::Plan;
use caltrin_export::prove::Outcome;
use caltrin_export::prove::shader::{compare, prove};
use caltrin_export::shader::{
    HORIZONS, Names, Sample, Shader, TOLERANCE, kernel, names, print, samples,
};

/// Uses every function, operator, easing and channel of the language at least once.
const EVERYTHING: &str = include_str!("everything.caltrin");
const SIDING: &str = include_str!("../../caltrin/books/siding.caltrin");
const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");
/// Names that are key words somewhere, fall together, or are no ASCII.
const NAMES: &str = include_str!("names.caltrin");
/// Everything is called as something that the exported code has itself.
const TAKEN: &str = include_str!("taken.caltrin");
const LED: &str = include_str!("led.caltrin");
const NESTED: &str = include_str!("nested.caltrin");
/// What shaders have of their own: inputs of each lamp, choices that fade, rates that differ.
const SHADED: &str = include_str!("shaded.caltrin");

const BOOKS: [(&str, &str); 7] = [
    ("everything", EVERYTHING),
    ("siding", SIDING),
    ("names", NAMES),
    ("taken", TAKEN),
    ("led", LED),
    ("nested", NESTED),
    ("shaded", SHADED),
];

fn made(text: &str) -> (ValidatedProgram, Plan) {
    let reading = heard::read_for(text, "book.caltrin", Wanted::default());
    let problems: Vec<&String> = reading.diagnostics.iter().map(|d| &d.message).collect();
    let checked = reading.checked.unwrap_or_else(|| panic!("{problems:?}"));
    let plan = Plan::without_test(&checked, &reading.notes);
    (checked, plan)
}

/// Whether something that is needed is there.
fn is_there(what: &str, there: bool) -> bool {
    let strict = std::env::var_os("CALTRIN_STRICT").is_some();
    assert!(there || !strict, "{what} is not installed");
    if !there {
        eprintln!("not tried: {what} is not installed");
    }
    there
}

fn starts(command: &str) -> bool {
    Command::new(command).arg("--version").output().is_ok()
}

/// A random book of which something can be shaded.
fn random_book(seed: u64) -> String {
    random::Author::new(seed * seed * 7919 + 1).book()
}

fn fixed(v: i128) -> Value {
    let bits = v as u64;
    Value::Fixed((bits >> 32) as u32, bits as u32)
}

fn bits(value: &Value) -> i64 {
    match value {
        Value::Fixed(whole, part) => i64::from(*whole) << 32 | i64::from(*part),
        other => panic!("{other:?} is not in fixed point"),
    }
}

#[test]
fn fixed_point_arithmetic_is_that_of_wide_integers() {
    let module = kernel();
    let run = |name: &str, all: Vec<Value>| {
        call(&module, name, all, &mut 100_000).unwrap_or_else(|| panic!("{name} has no result"))
    };
    let mut x = 1u64;
    let mut next = || {
        x = x.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        x ^ x >> 29
    };
    for n in 0..4_000u32 {
        // Small and large numbers, at the edges too.
        let [a, b, c] = [0, 1, 2].map(|_| match n % 5 {
            0 => i128::from((next() >> 20) as i64),
            1 => i128::from(next() as i64),
            2 => i128::from((next() << 32) as i64),
            3 => i128::from(next() as u32) - (1 << 31),
            _ => i128::from((u64::MAX >> (next() % 64)) as i64),
        });
        assert_eq!(bits(&run("fixed_sum", vec![fixed(a), fixed(b)])), (a + b) as i64);
        assert_eq!(bits(&run("fixed_difference", vec![fixed(a), fixed(b)])), (a - b) as i64);
        assert_eq!(bits(&run("fixed_opposite", vec![fixed(a)])), (-a) as i64);
        if (a - b).abs() < 1 << 63 {
            assert_eq!(run("fixed_below", vec![fixed(a), fixed(b)]), Value::Flag(a < b));
        }
        let factor = next() >> (next() % 40);
        let (high, low) = ((factor >> 32) as u32, factor as u32);
        let scaled = run("fixed_scaled", vec![fixed(a), Value::Word(high), Value::Word(low)]);
        assert_eq!(bits(&scaled), ((a * i128::from(factor)) >> 48) as i64, "{a} by {factor}");
        let (low, high) = (a.min(b), a.max(b));
        let kept = run("fixed_clamped", vec![fixed(c >> 4), fixed(low >> 4), fixed(high >> 4)]);
        assert!((low >> 4..=high >> 4).contains(&i128::from(bits(&kept))));
    }
}

#[test]
fn numbers_become_fixed_point_and_back() {
    let module = kernel();
    let run = |name: &str, all: Vec<Value>| call(&module, name, all, &mut 100_000).unwrap();
    for v in [0.0, 1.0, -1.0, 0.5, -0.25, 1e-9, -1e-9, 3.75, -1234.5, 16_777_216.0, -3e9, 3e9] {
        let single = f64::from(v as f32);
        let fixed = run("fixed_of", vec![Value::Number(single)]);
        let wanted = single.clamp(-2_147_483_520.0, 2_147_483_520.0);
        let found = bits(&fixed) as f64 / 4_294_967_296.0;
        assert!((found - wanted).abs() <= 1.0 / 4_294_967_296.0, "{v}: {found}");
        let Value::Number(back) = run("number_of", vec![fixed]) else { panic!("it is a number") };
        assert!((back - wanted).abs() <= wanted.abs() * 1e-7 + 3e-10, "{v}: {back}");
        for by in [1.0, -0.5, 3.25, 65_535.0, 1e-6] {
            let fixed = run("fixed_of", vec![Value::Number(f64::from((v / 140_000.0) as f32))]);
            let exact = bits(&fixed) as f64 / 4_294_967_296.0 * f64::from(by as f32);
            let times = run("fixed_times", vec![fixed, Value::Number(f64::from(by as f32))]);
            let found = bits(&times) as f64 / 4_294_967_296.0;
            assert!((found - exact).abs() <= 1e-9 + exact.abs() * 1e-9, "{v} by {by}: {found}");
        }
    }
}

#[test]
fn what_is_shown_is_near_the_preview_and_nothing_is_lost() {
    for (name, text) in BOOKS.into_iter().chain([("pier", PIER)]) {
        let (checked, plan) = made(text);
        let shader = Shader::of(&checked, &plan);
        for light in &shader.lights {
            let own = &plan.lights[light.place].name;
            assert!(light.deviation.worst <= TOLERANCE, "{name}, {own}: {:?}", light.deviation);
            assert!(HORIZONS.contains(&light.deviation.horizon) && light.deviation.samples > 100);
        }
        let shown = shader.lights.iter().map(|light| plan.lights[light.place].name.as_str());
        let mut all: Vec<&str> =
            shown.chain(shader.excluded.iter().map(|out| out.light.as_str())).collect();
        let mut wanted: Vec<&str> = plan.lights.iter().map(|light| light.name.as_str()).collect();
        all.sort_unstable();
        wanted.sort_unstable();
        assert_eq!(all, wanted, "{name}");
    }
}

#[test]
fn most_lights_stay_near_for_a_thousand_hours() {
    let (checked, plan) = made(SIDING);
    let shader = Shader::of(&checked, &plan);
    let long = shader.lights.iter().filter(|light| light.deviation.horizon == HORIZONS[0]);
    // Only the tubes have a behavior that is used with different times.
    assert_eq!((shader.lights.len(), long.count()), (10, 9));
    assert!(shader.excluded.is_empty());
}

#[test]
fn what_is_left_out_says_why() {
    let (checked, plan) = made(PIER);
    let shader = Shader::of(&checked, &plan);
    let reason = |light: &str| {
        let out = shader.excluded.iter().find(|out| out.light == light);
        out.map(|out| out.reason.as_str()).unwrap_or_default()
    };
    assert_eq!(reason("mast"), "depends on events (`power`)");
    assert!(reason("quay.core").contains("sun or moon"), "{}", reason("quay.core"));
    let (checked, plan) = made(SHADED);
    let shader = Shader::of(&checked, &plan);
    let excluded: Vec<&str> = shader.excluded.iter().map(|out| out.light.as_str()).collect();
    assert_eq!(excluded, ["alarm", "fine"]);
}

#[test]
fn code_has_the_bits_of_the_reference() {
    if !is_there("gcc", starts("gcc")) {
        return;
    }
    let books = BOOKS.into_iter().map(|(name, text)| (name.to_owned(), text.to_owned()));
    let random = (0..4).map(|n| (format!("random book {n}"), random_book(n)));
    for (name, text) in books.chain(random) {
        let (checked, plan) = made(&text);
        let shader = Shader::unmeasured(&plan);
        let folder = tempfile::tempdir().unwrap();
        match prove(&checked, &plan, &shader, 2_000, folder.path()).unwrap() {
            Outcome::Compared { mismatches: 0, samples, values, .. } => {
                assert!(shader.lights.is_empty() || samples >= 2_000 && values > 0, "{name}");
            }
            other => panic!("{name}: {other:#?}"),
        }
    }
}

#[test]
fn a_wrong_number_is_seen() {
    if !is_there("gcc", starts("gcc")) {
        return;
    }
    let (checked, plan) = made(SIDING);
    let shader = Shader::unmeasured(&plan);
    let mut other = shader.clone();
    let constant = other.module.constants.iter_mut().find(|own| own.name == "octave").unwrap();
    constant.value = caltrin_export::ir::Expr::Word(12_345);
    // Samples of the right code, asked of the wrong one.
    let all = samples(&checked, &plan, &shader, 500);
    let folder = tempfile::tempdir().unwrap();
    match compare(&plan, &other, &all, folder.path()).unwrap() {
        Outcome::Compared { mismatches, first, .. } => {
            assert!(mismatches > 100 && first.len() == 5, "{mismatches}");
        }
        outcome => panic!("{outcome:#?}"),
    }
}

/// What calls all lights of a file: `one` makes a call of a light by its number and name.
fn calls(shader: &Shader, names: &Names, one: impl Fn(usize, &str, &[String]) -> String) -> String {
    let first = shader.frame.len();
    let each = shader.lights.iter().zip(&names.lights).enumerate().map(|(n, (light, own))| {
        let mut given = vec!["frame".to_owned()];
        if light.by_index {
            given.push(format!("asked[at + {}u]", first + 1));
        }
        let skipped = usize::from(light.by_index);
        let locals = &light.function.locals[skipped..light.function.parameters];
        for (k, local) in locals.iter().enumerate() {
            given.push(value(local.ty, first + 2 + k));
        }
        one(n, &own.read, &given)
    });
    each.collect()
}

fn value(ty: caltrin_export::ir::Type, at: usize) -> String {
    use caltrin_export::ir::Type;
    match ty {
        Type::F64 => format!("number(asked[at + {at}u])"),
        Type::Bool => format!("asked[at + {at}u] != 0u"),
        _ => format!("asked[at + {at}u]"),
    }
}

/// The numbers of a lamp as expressions.
fn parts(names: &Names, n: usize, shader: &Shader, plan: &Plan) -> Vec<String> {
    let light = &plan.lights[shader.lights[n].place];
    let fields = names.lights[n].lamp.fields.iter().zip(&light.fields);
    let each = fields.flat_map(|((name, suffixes), field)| {
        let one = |text: String| if field.flag { format!("flag({text})") } else { text };
        match suffixes.as_slice() {
            [] => vec![one(format!("lamp.{name}"))],
            all => all.iter().map(|suffix| one(format!("lamp.{name}.{suffix}"))).collect(),
        }
    });
    each.collect()
}

/// Fills the fields of a frame.
fn frame(shader: &Shader, names: &Names) -> String {
    let fields = shader.frame.iter().zip(&names.fields).enumerate();
    let each =
        fields.map(|(n, (field, name))| format!("    frame.{name} = {};\n", value(field.ty, n)));
    each.collect()
}

/// A whole shader around a file, for the reference compiler.
fn validated(language: &Language, head: &str, file: &str, shader: &Shader, plan: &Plan) -> String {
    let names = names(shader, plan, language).unwrap();
    let is_hlsl = language.name == "HLSL";
    let calls = calls(shader, &names, |n, read, given| {
        let lamp = &names.lights[n].lamp_type;
        let sums = parts(&names, n, shader, plan)
            .iter()
            .map(|part| format!(" sum += {part};"))
            .collect::<String>();
        format!("    {{ {lamp} lamp = {read}({});{sums} }}\n", given.join(", "))
    });
    let number = if is_hlsl { "asfloat(bits)" } else { "uintBitsToFloat(bits)" };
    let (open, close) = match is_hlsl {
        true => (
            "float4 main() : SV_Target {\n    float sum = 0.0;\n",
            "    return float4(sum, sum, sum, sum);\n}\n",
        ),
        false => (
            "out vec4 shown;\nvoid main() {\n    float sum = 0.0;\n",
            "    shown = vec4(sum);\n}\n",
        ),
    };
    let asked = if is_hlsl { "uint asked[64];" } else { "uniform uint asked[64];" };
    format!(
        "{head}{file}\n{asked}\nfloat number(uint bits) {{ return {number}; }}\nfloat flag(bool on) {{ return on ? 1.0 : 0.0; }}\n{open}    uint at = 0u;\n    {} frame;\n{}{calls}{close}",
        names.frame_type,
        frame(shader, &names),
    )
}

#[test]
fn reference_compilers_accept_glsl_and_hlsl() {
    if !is_there("glslangValidator", starts("glslangValidator")) {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let random: Vec<String> = (0..3).map(random_book).collect();
    let books = BOOKS.iter().map(|(name, text)| (*name, *text));
    let random = random.iter().map(|text| ("random", text.as_str()));
    for (name, text) in books.chain(random) {
        let (_, plan) = made(text);
        let shader = Shader::unmeasured(&plan);
        let desktop = "#version 330\n#extension GL_ARB_shader_bit_encoding : require\n";
        let embedded = "#version 300 es\nprecision highp float;\nprecision highp int;\n";
        for (language, head, options) in [
            (&GLSL, desktop, &["-S", "frag"][..]),
            (&GLSL, embedded, &["-S", "frag"]),
            (&HLSL, "", &["-D", "-e", "main", "-S", "frag", "-V"]),
        ] {
            let file = print(&shader, &plan, language);
            let path = folder.path().join("whole.frag");
            fs::write(&path, validated(language, head, &file, &shader, &plan)).unwrap();
            let out = Command::new("glslangValidator")
                .args(options)
                .arg(&path)
                .current_dir(&folder)
                .output();
            let out = out.unwrap();
            let said = String::from_utf8_lossy(&out.stdout);
            assert!(
                out.status.success() && !said.contains("WARNING"),
                "{name} in {}: {said}",
                language.name
            );
        }
    }
}

#[test]
fn the_shaders_of_the_example_page_are_valid() {
    if !is_there("glslangValidator", starts("glslangValidator")) {
        return;
    }
    let page = include_str!("../../../examples/hosts/windows.html");
    let lights = include_str!("../../../examples/shaders/harbor_siding.glsl");
    let head = "#version 300 es\nprecision highp float;\nprecision highp int;\n";
    assert!(page.contains(&head.replace('\n', "\\n")));
    let folder = tempfile::tempdir().unwrap();
    for (name, lights, stage) in [("vertex", lights, "vert"), ("fragment", "", "frag")] {
        let (_, text) = page.split_once(&format!("const {name} = ")).unwrap();
        let text = text.split('`').nth(1).unwrap();
        let path = folder.path().join(format!("page.{stage}"));
        fs::write(&path, format!("{head}{lights}{text}")).unwrap();
        let out = Command::new("glslangValidator").arg(&path).output().unwrap();
        assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stdout));
    }
}

/// Python with wgpu, as `scripts/install-wgpu.sh` installs it.
fn wgpu() -> Option<PathBuf> {
    let target = Path::new(env!("CARGO_TARGET_TMPDIR")).parent()?.join("wgpu");
    target.is_dir().then_some(target)
}

/// The results of a WGSL file at samples.
fn run_wgsl(folder: &Path, shader: &Shader, plan: &Plan, all: &[Sample]) -> Vec<f32> {
    let names = names(shader, plan, &WGSL).unwrap();
    let words = all.first().map_or(64, |sample| sample.words(shader).len());
    let most = all.iter().map(|sample| sample.wanted.len()).max().unwrap_or(64);
    let entries = calls(shader, &names, |n, read, given| {
        let puts = parts(&names, n, shader, plan);
        let puts = puts.iter().enumerate();
        let puts: String =
            puts.map(|(k, part)| format!("    found[to + {k}u] = {part};\n")).collect();
        format!(
            "@compute @workgroup_size(1)\nfn main_{n}(@builtin(global_invocation_id) id: vec3<u32>) {{\n    let at = id.x * {words}u;\n    let to = id.x * {most}u;\n    var frame: {};\n{}    let lamp = {read}({});\n{puts}}}\n",
            names.frame_type,
            frame(shader, &names),
            given.join(", "),
        )
    });
    let whole = format!(
        "{}\n@group(0) @binding(0) var<storage, read> asked: array<u32>;\n@group(0) @binding(1) var<storage, read_write> found: array<f32>;\nfn number(bits: u32) -> f32 {{ return bitcast<f32>(bits); }}\nfn flag(on: bool) -> f32 {{ return select(0.0, 1.0, on); }}\n{entries}",
        print(shader, plan, &WGSL),
    );
    let path = |name: &str| folder.join(name);
    fs::write(path("whole.wgsl"), whole).unwrap();
    let asked = all.iter().flat_map(|sample| sample.words(shader)).flat_map(u32::to_le_bytes);
    fs::write(path("asked.bin"), asked.collect::<Vec<u8>>()).unwrap();
    let counts: Vec<String> = (0..shader.lights.len())
        .map(|n| all.iter().filter(|sample| sample.light == n).count().to_string())
        .collect();
    let script = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/shading/run.py");
    let out = Command::new("python3")
        .arg(script)
        .args([path("whole.wgsl"), path("asked.bin"), path("found.bin")])
        .args([words.to_string(), most.to_string()])
        .args(counts)
        .env("PYTHONPATH", wgpu().unwrap())
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&out.stderr);
    assert!(out.status.success(), "{said}");
    let found = fs::read(path("found.bin")).unwrap();
    let found: Vec<f32> =
        found.chunks_exact(4).map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect();
    let each = all.iter().zip(found.chunks_exact(most));
    each.flat_map(|(sample, found)| found[..sample.wanted.len()].to_vec()).collect()
}

#[test]
fn wgsl_is_accepted() {
    if !is_there("wgpu (scripts/install-wgpu.sh)", wgpu().is_some()) {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    let random = (0..3).map(random_book);
    for text in BOOKS.iter().map(|(_, text)| (*text).to_owned()).chain(random) {
        let (_, plan) = made(&text);
        // With nothing to ask, it is only compiled.
        run_wgsl(folder.path(), &Shader::unmeasured(&plan), &plan, &[]);
    }
}

#[test]
fn wgsl_gives_the_lights_of_the_reference() {
    if !is_there("wgpu (scripts/install-wgpu.sh)", wgpu().is_some()) {
        return;
    }
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in [("siding", SIDING), ("shaded", SHADED)] {
        let (checked, plan) = made(text);
        let shader = Shader::of(&checked, &plan);
        let all = samples(&checked, &plan, &shader, 2_000);
        let found = run_wgsl(folder.path(), &shader, &plan, &all);
        let mut near = 0usize;
        let wanted: Vec<f32> = all.iter().flat_map(|sample| sample.wanted.clone()).collect();
        let same = wanted.iter().zip(&found).filter(|(a, b)| a.to_bits() == b.to_bits()).count();
        let mut at = 0;
        for sample in &all {
            for wanted in &sample.wanted {
                let off = f64::from((found[at] - wanted).abs());
                near += usize::from(off <= TOLERANCE * f64::from(wanted.abs()).max(1e-3));
                at += 1;
            }
        }
        println!("{name}: {same} of {at} same, {near} near");
        // An adapter may round otherwise, so a jump can come a little early or late.
        assert!(near * 2_000 >= at * 1_999, "{name}: {near} of {at} are near");
    }
}
