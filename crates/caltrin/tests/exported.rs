//! The golden copies of the demo's exported code: what an engineer would merge, kept to be read.

use std::collections::BTreeMap;

use caltrin::core::Run;
use caltrin::core::program::Constant;
use caltrin::core::quantity::{Hours, Seconds};
use caltrin::core::run::State;
use caltrin::export::{
    ExportOptions, FilePrefix, TARGETS, built_in, export, export_all, export_as,
};

/// As `caltrin export crates/caltrin/books/pier.caltrin -o examples/exported --force` writes them.
const GOLDEN: [(&str, &str); 4] = [
    ("saltgate_pier.rs", include_str!("../../../examples/exported/saltgate_pier.rs")),
    ("saltgate_pier.h", include_str!("../../../examples/exported/saltgate_pier.h")),
    ("saltgate_pier.cs", include_str!("../../../examples/exported/saltgate_pier.cs")),
    ("saltgate_pier.mjs", include_str!("../../../examples/exported/saltgate_pier.mjs")),
];

#[test]
fn the_golden_copies_are_what_the_demo_exports() {
    let opened = caltrin::read(caltrin::PIER, "pier.caltrin");
    let checked = opened.checked.expect("the demo is good");
    for target in TARGETS {
        let file = export(&checked, &opened.notes, target);
        let golden = GOLDEN.iter().find(|(name, _)| *name == file.file_name);
        let (_, golden) = golden.unwrap_or_else(|| panic!("there is a copy of {}", file.file_name));
        let differs = golden.lines().zip(file.text.lines()).position(|(a, b)| a != b);
        assert!(
            *golden == file.text,
            "{} differs from line {} on: read the change, then export it again",
            file.file_name,
            differs.map_or(0, |n| n + 1)
        );
    }
}

#[test]
fn exported_code_has_no_line_that_runs_off_and_no_helper_that_nothing_calls() {
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");
    let opened = caltrin::open(book.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    let lido = TARGETS.map(|target| export(&checked, &opened.notes, target));
    let lido = lido.iter().map(|file| (file.file_name.as_str(), file.text.as_str()));
    for (name, golden) in GOLDEN.into_iter().chain(lido) {
        let code = golden.lines().filter(|line| !(line.contains("//") || line.contains("/*")));
        let wide = code
            .clone()
            .find(|line| line.chars().count() > 110 && !line.starts_with([' ', '#', '*']));
        assert_eq!(wide, None, "{name}");
        // Each private function is called by another or by what the host calls.
        let private = |line: &str| {
            let line = line.trim_start();
            let after = ["static inline ", "fn ", "function ", "static double ", "double "]
                .iter()
                .find_map(|start| line.strip_prefix(start))?;
            let name = after.split('(').next()?.rsplit(' ').next()?.to_owned();
            (after.contains('(') && !line.ends_with(';') && !name.is_empty()).then_some(name)
        };
        let functions: Vec<String> = golden.lines().filter_map(private).collect();
        assert!(functions.len() > 20, "{name}: {functions:?}");
        for function in functions {
            // JavaScript hands over what happens next before it calls it.
            let handed = golden.matches(&format!("happen = {function};")).count();
            let calls = golden.matches(&format!("{function}(")).count() + handed;
            assert!(calls > 1, "{name}: nothing calls {function}");
        }
    }
}

/// Runs a command from the repository's root; nothing where its program is missing here.
fn run(program: &str, arguments: &[&str]) -> Option<String> {
    run_with(program, arguments, None)
}

/// The same with a variable that says where an interpreter looks for modules.
fn run_with(program: &str, arguments: &[&str], looks: Option<(&str, &str)>) -> Option<String> {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let mut command = std::process::Command::new(program);
    let done = command.args(arguments).envs(looks).current_dir(root).output();
    let done = match done {
        Err(why) if why.kind() == std::io::ErrorKind::NotFound => return None,
        done => done.expect("the program can be started"),
    };
    let told = format!(
        "{}{}",
        String::from_utf8_lossy(&done.stdout),
        String::from_utf8_lossy(&done.stderr)
    );
    assert!(done.status.success(), "{program} {arguments:?}: {told}");
    Some(told)
}

#[test]
fn exported_shaders_are_current() {
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/siding.caltrin");
    let opened = caltrin::open(book.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    let targets = caltrin::export::SHADING_TARGETS;
    let exports = export_all(&checked, &opened.notes, &targets, &ExportOptions::default());
    for file in exports.files.into_iter().flatten() {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../examples/shaders");
        let path = std::path::Path::new(folder).join(&file.file_name);
        let kept = std::fs::read_to_string(&path).expect("it is in the tree");
        assert!(
            kept == file.text,
            "export the siding to examples/shaders again: {}",
            file.file_name
        );
    }
}

#[test]
fn hosts_in_eight_languages_play_save_and_load_alike() {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let made = |name: &str| folder.path().join(name).display().to_string();
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");
    let opened = caltrin::open(book.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    for target in built_in() {
        let file = export(&checked, &opened.notes, target);
        std::fs::write(made(&file.file_name), file.text).expect("it can be written");
    }
    let [generated, c, cpp, cs] = [made(""), made("lido"), made("lido_cpp"), made("Lido.exe")];
    let (out, sharp, module) =
        (format!("-out:{cs}"), made("ostrel_lido.cs"), made("ostrel_lido.mjs"));
    let options = ["-std=c99", "-Wall", "-Wextra", "-Werror", "-O2", "-I", &generated];
    let built = [&options[..], &["examples/hosts/lido.c", "-lm", "-o", &c]].concat();
    let strict = ["-std=c++17", "-Wall", "-Wextra", "-Wold-style-cast", "-Werror", "-O2"];
    let built_cpp =
        [&strict[..], &["-I", &generated, "examples/hosts/lido.cpp", "-o", &cpp]].concat();
    // A module of TypeScript is compiled beside what it uses.
    let root = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
    let typed = made("lido.mts");
    std::fs::copy(format!("{root}/examples/hosts/lido.mts"), &typed).expect("it can be copied");
    let tsc = format!("{root}/crates/caltrin-cli/page/node_modules/.bin/tsc");
    let strict_types = [
        "--strict",
        "--target",
        "es2022",
        "--module",
        "nodenext",
        "--moduleResolution",
        "nodenext",
    ];
    let typescript = [&strict_types[..], &[&typed]].concat();
    let classes = made("classes");
    let java = ["-Xlint:all,-cast", "-Werror", "-d", &classes, &made("OstrelLido.java")];
    let java = [&java[..], &["examples/hosts/Lido.java"]].concat();
    let lua = Some(("LUA_PATH", made("?.lua")));
    let lua = lua.as_ref().map(|(name, place)| (*name, place.as_str()));
    let told = [
        run("g++", &built_cpp).and_then(|_| run(&cpp, &[])),
        run_with("python3", &["-B", "examples/hosts/lido.py"], Some(("PYTHONPATH", &generated))),
        run_with("lua5.4", &["examples/hosts/lido.lua"], lua),
        run_with("luajit", &["examples/hosts/lido.lua"], lua),
        run("gcc", &built).and_then(|_| run(&c, &[])),
        run("mcs", &["-optimize+", &out, "examples/hosts/Lido.cs", &sharp])
            .and_then(|_| run("mono", &[&cs])),
        run("node", &["examples/hosts/lido.mjs", &module]),
        // It writes the exported module once more, so it comes after the host in JavaScript.
        run(&tsc, &typescript).and_then(|_| run("node", &[&made("lido.mjs")])),
        run("javac", &java).and_then(|_| run("java", &["-cp", &classes, "Lido"])),
    ];
    // What was sent, that a loaded run goes on alike, and the bytes of the save: all but the cost.
    let same = |told: &String| told.lines().take(6).map(str::to_owned).collect::<Vec<_>>();
    let told: Vec<Vec<String>> = told.iter().flatten().map(same).collect();
    assert!(!told.is_empty(), "no compiler and no interpreter is there");
    for one in &told {
        assert_eq!(one, &told[0]);
        assert!(one[3].starts_with("5.780 s: brass fanfare_"), "{one:?}");
        assert!(one[4].ends_with("the same after loading"), "{one:?}");
        assert!(one[5].starts_with("a save of "), "{one:?}");
    }
}

/// A plain reader of saves: the bytes of each field's values, by its key.
fn fields(save: &[u8]) -> BTreeMap<u32, Vec<u8>> {
    let word = |at: usize| u32::from_le_bytes(save[at..at + 4].try_into().expect("four"));
    let (mut at, mut all) = (16, BTreeMap::new());
    while at < save.len() {
        let bytes = (word(at + 4) & 0xff_ffff) as usize * if save[at + 7] == 1 { 8 } else { 4 };
        all.insert(word(at), save[at + 8..at + 8 + bytes].to_vec());
        at += 8 + bytes;
    }
    all
}

#[test]
fn what_the_exported_code_saves_is_what_the_preview_saves() {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");
    let opened = caltrin::open(book.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    let program = checked.program();
    let target = built_in().find(|target| target.name() == "js").expect("it is built in");
    let file = export(&checked, &opened.notes, target);
    let made = |name: &str| folder.path().join(name);
    std::fs::write(made("lido.mjs"), &file.text).expect("it can be written");

    // The preview saves in between, and goes on.
    let mut run = Run::new(&checked);
    let event = |name: &str| program.event_named(name).expect("the event is there");
    let throttle = program.inputs().find(|(_, input)| input.name == "throttle");
    let (throttle, _) = throttle.expect("the input is there");
    run.advance(Seconds(1.0));
    run.fire(event("gala"));
    run.advance(Seconds(2.25));
    run.set(throttle, 0, Constant::Scalar(0.95)).expect("it fits");
    run.choose(program.choices().next().expect("there is one").0, 2);
    run.advance(Seconds(6.5));
    let half = run.state().to_bytes(program);
    run.fire(event("mains_out"));
    run.set_clock(Hours(4.5));
    run.advance(Seconds(9.0));
    let whole = run.state().to_bytes(program);
    std::fs::write(made("half"), &half).expect("it can be written");

    // So does the exported code: from the start, and from what the preview saved.
    let script = "import * as fs from 'node:fs';\
        import * as lido from './lido.mjs';\
        const first = lido.start(lido.bookSeed);\
        lido.advance(first, 1); lido.fireGala(first);\
        lido.advance(first, 2.25); lido.setThrottle(first, 0.95); lido.setWeather(first, lido.WEATHER_DRIZZLE);\
        lido.advance(first, 6.5);\
        fs.writeFileSync('half.js', lido.save(first));\
        const second = lido.start(0);\
        const dropped = lido.load(second, fs.readFileSync('half'));\
        for (const run of [first, second]) {\
          lido.fireMainsOut(run); lido.setClock(run, 4.5); lido.advance(run, 9);\
        }\
        fs.writeFileSync('first.js', lido.save(first));\
        fs.writeFileSync('second.js', lido.save(second));\
        console.log([dropped, lido.layout, lido.load(second, new Uint8Array(40))].join(' '));";
    std::fs::write(made("saves.mjs"), script).expect("it can be written");
    let done = std::process::Command::new("node").arg("saves.mjs").current_dir(&folder).output();
    let done = match done {
        Err(why) if why.kind() == std::io::ErrorKind::NotFound => return,
        done => done.expect("node can be started"),
    };
    let told = String::from_utf8_lossy(&done.stdout).into_owned();
    assert!(done.status.success(), "{told}{}", String::from_utf8_lossy(&done.stderr));
    let layout = caltrin::core::save::layout(&program.saved_fields());
    assert_eq!(told.trim_end_matches('\n'), format!("0 {layout} "));
    let read = |name: &str| std::fs::read(made(name)).expect("it was written");
    // Nothing that is exported reads what the preview has besides.
    for (name, wanted) in [("half.js", &half), ("first.js", &whole), ("second.js", &whole)] {
        let (found, wanted) = (fields(&read(name)), fields(wanted));
        assert!(found.len() > 60 && found.len() < wanted.len(), "{}", found.len());
        for (key, values) in &found {
            assert_eq!(Some(values), wanted.get(key), "{name}: {key}");
        }
        let loaded = State::from_bytes(program, &read(name)).expect("it is a save");
        assert!(loaded.dropped.is_empty() && loaded.unknown.is_empty(), "{name}");
        assert_eq!(loaded.fresh.len(), wanted.len() - found.len());
    }
    assert_eq!(read("first.js"), read("second.js"));
}

/// A folder with the lido as somebody changed it: another mode in front of others, a rule to it, more lamps of a light.
fn changed_lido() -> tempfile::TempDir {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let books = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("books");
    for entry in std::fs::read_dir(&books).expect("the books are there").flatten() {
        if entry.path().is_file() {
            std::fs::copy(entry.path(), folder.path().join(entry.file_name()))
                .expect("it is copied");
        }
    }
    let sounds = books.join("sounds");
    if sounds.is_dir() {
        std::fs::create_dir(folder.path().join("sounds")).expect("it is made");
        for entry in std::fs::read_dir(sounds).expect("sounds are there").flatten() {
            let to = folder.path().join("sounds").join(entry.file_name());
            std::fs::copy(entry.path(), to).expect("it is copied");
        }
    }
    let book = folder.path().join("lido.caltrin");
    let mut text = std::fs::read_to_string(&book).expect("it was copied");
    for (before, after) in [
        (
            "  calm, watch, storm\n",
            "  calm, drill, watch, storm\n  storm -> drill at curtain over 1s\n",
        ),
        ("pick(alert, calm 0%, watch", "pick(alert, calm 0%, drill 2%, watch"),
        ("light tube[4]", "light tube[6]"),
    ] {
        assert!(text.contains(before), "{before}");
        text = text.replacen(before, after, 1);
    }
    std::fs::write(book, text).expect("it can be written");
    folder
}

#[test]
fn c_is_split_into_a_header_and_a_file_that_is_compiled_once() {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let made = |name: &str| folder.path().join(name).display().to_string();
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");
    let opened = caltrin::open(book.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    let c = caltrin::export::target_named("c").expect("it is built in");
    let mut outputs = Vec::new();
    for split in [false, true] {
        let options = ExportOptions { names: true, split, ..ExportOptions::default() };
        let files = export_all(&checked, &opened.notes, &[c], &options).files.remove(0);
        let names: Vec<&str> = files.iter().map(|file| file.file_name.as_str()).collect();
        let wanted =
            if split { &["ostrel_lido.h", "ostrel_lido.c"][..] } else { &["ostrel_lido.h"] };
        assert_eq!(names, wanted);
        for file in &files {
            std::fs::write(made(&file.file_name), &file.text).expect("it can be written");
        }
        if split {
            let header = &files[0].text;
            let public = files[1].text.matches("\n").count();
            assert!(header.matches(';').count() > 300 && public > 5_000);
            // Nothing but types, constants and prototypes.
            assert!(!header.contains("static ") && !header.contains("return "));
        }
        let host = made("lido");
        for compiler in ["gcc", "clang"] {
            let strict = ["-std=c99", "-Wall", "-Wextra", "-Werror", "-O2", "-I", &made("")];
            let declared = ["-Wmissing-prototypes", "-Wstrict-prototypes", "-c"];
            let (object, source) = (made("ostrel_lido.o"), made("ostrel_lido.c"));
            let mut built = [&strict[..], &["examples/hosts/lido.c", "-lm", "-o", &host]].concat();
            if split {
                let own = [&strict[..], &declared, &[&source, "-o", &object]].concat();
                if run(compiler, &own).is_none() {
                    continue;
                }
                built.insert(0, &object);
            }
            let told = run(compiler, &built).and_then(|_| run(&host, &[]));
            // The last line has times.
            outputs.extend(told.map(|told| told.lines().take(6).collect::<Vec<_>>().join("\n")));
        }
        if split {
            // The header is included in C++ too.
            let unit = made("unit.cpp");
            let text =
                "#include \"ostrel_lido.h\"\nint main() { return ostrel_lido_self_test(); }\n";
            std::fs::write(&unit, text).expect("it can be written");
            let object = made("ostrel_lido.o");
            let built = ["-std=c++17", "-Wall", "-Wextra", "-Werror", &unit, &object, "-o", &host];
            if run("g++", &built).is_some() {
                assert_eq!(run(&host, &[]).as_deref(), Some(""));
            }
        }
    }
    assert!(outputs.windows(2).all(|pair| pair[0] == pair[1]), "{outputs:?}");
}

#[test]
fn many_instances_are_read_from_one_run() {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let made = |name: &str| folder.path().join(name).display().to_string();
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/siding.caltrin");
    let opened = caltrin::open(book.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    let c = caltrin::export::target_named("c").expect("it is built in");
    let file = export(&checked, &opened.notes, c);
    std::fs::write(made(&file.file_name), file.text).expect("it can be written");
    let host = made("many");
    let strict = ["-std=c99", "-Wall", "-Wextra", "-Werror", "-O1", "-I", &made("")];
    let built = [&strict[..], &["examples/hosts/many.c", "-lm", "-o", &host]].concat();
    if let Some(told) = run("gcc", &built).and_then(|_| run(&host, &[])) {
        assert!(told.starts_with("10000 of 10000 alike, "), "{told}");
    }
}

#[test]
fn hosts_go_on_in_a_changed_book_and_bind_by_name() {
    let book = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");
    let changed = changed_lido();
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let made = |name: &str| folder.path().join(name).display().to_string();
    std::fs::create_dir(made("changed")).expect("it is made");
    let prefix = FilePrefix::new("changed_lido").expect("it is a good one");
    for (path, prefix) in [(book.into(), None), (changed.path().join("lido.caltrin"), Some(prefix))]
    {
        let opened = caltrin::open(&path).expect("the book can be read");
        let checked = opened.checked.expect("the book is good");
        let options = ExportOptions { prefix, names: true, split: false };
        for target in built_in() {
            let file = export_as(&checked, &opened.notes, target, &options);
            // In C# the prefix is in the namespace alone.
            let name = match options.prefix.is_some() && target.name() == "csharp" {
                true => format!("changed/{}", file.file_name),
                false => file.file_name,
            };
            std::fs::write(made(&name), file.text).expect("it can be written");
        }
    }
    let [generated, c, cpp, cs] = [made(""), made("swap"), made("bound"), made("Swap.exe")];
    let strict = ["-Wall", "-Wextra", "-Werror", "-O1", "-I", &generated];
    let swap = [&["-std=c99"][..], &strict, &["examples/hosts/swap.c", "-lm", "-o", &c]].concat();
    let told = [
        run("gcc", &swap).and_then(|_| run(&c, &[])),
        run(
            "node",
            &["examples/hosts/swap.mjs", &made("ostrel_lido.mjs"), &made("changed_lido.mjs")],
        ),
        run(
            "mcs",
            &[
                &format!("-out:{cs}"),
                "examples/hosts/Swap.cs",
                &made("ostrel_lido.cs"),
                &made("changed/ostrel_lido.cs"),
            ],
        )
        .and_then(|_| run("mono", &[&cs])),
    ];
    for one in told.iter().flatten() {
        assert_eq!(one, "600 of 600 frames alike, 1 dropped, another layout\n");
    }
    let late = made("late");
    let built =
        [&["-std=c99"][..], &strict, &["examples/hosts/late.c", "-lm", "-o", &late]].concat();
    if let Some(told) = run("gcc", &built).and_then(|_| run(&late, &[])) {
        assert_eq!(told, "0 and 6 times back; the same run\n");
    }
    let bound = ["-std=c++17", "-Wold-style-cast", "-Wshadow", "-Wconversion"];
    let bound = [&bound[..], &strict, &["examples/hosts/bound.cpp", "-o", &cpp]].concat();
    if let Some(told) = run("g++", &bound).and_then(|_| run(&cpp, &[])) {
        let wanted = "157 lamps bound by name, 2 names unknown in each instance, 10.250 s\n\
                      157 of 157 alike in the changed book, 1 fields dropped\n";
        assert_eq!(told, wanted);
    }
}
