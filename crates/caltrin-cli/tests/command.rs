//! The command through its binary: what it prints, what it writes, how it exits.

use std::fs;
use std::path::Path;
use std::time::{Duration, Instant};

use assert_cmd::Command;
use tempfile::TempDir;

const PIER: &str = include_str!("../../caltrin/books/pier.caltrin");
const WRONG: &str =
    "lightbook \"Wrong\"\nlight a point { intensty 1lm }\nlight b pont { intensity 3s }\n";

fn caltrin(folder: &Path) -> Command {
    let mut command = Command::cargo_bin("caltrin").expect("the command is built");
    command.current_dir(folder);
    command
}

/// Puts the sounds and pictures of the demonstration into a book's folder.
fn put_sounds(folder: &Path) {
    fs::create_dir_all(folder.join("sounds")).unwrap();
    fs::create_dir_all(folder.join("pictures")).unwrap();
    caltrin::SOUNDS
        .iter()
        .chain(&caltrin::PICTURES)
        .for_each(|(name, bytes)| fs::write(folder.join(name), bytes).unwrap());
}

fn folder() -> TempDir {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    fs::write(folder.path().join("pier.caltrin"), PIER).unwrap();
    put_sounds(folder.path());
    fs::write(folder.path().join("wrong.caltrin"), WRONG).unwrap();
    folder
}

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

#[test]
fn check_reports_errors_and_exits_with_1() {
    let folder = folder();
    caltrin(folder.path())
        .args(["check", "pier.caltrin"])
        .assert()
        .code(0)
        .stdout("pier.caltrin: no errors (21 lights, 82 lamps, 6 outputs)\n")
        .stderr("");
    let told = caltrin(folder.path()).args(["check", "wrong.caltrin"]).assert().code(1);
    insta::assert_snapshot!(text(&told.get_output().stderr));
    assert_eq!(text(&told.get_output().stdout), "wrong.caltrin: 2 errors\n");
}

#[test]
fn check_as_json_is_a_list_of_places() {
    let folder = folder();
    let told = caltrin(folder.path()).args(["check", "--json", "wrong.caltrin"]).assert().code(1);
    let all: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(all.as_array().unwrap().len(), 2);
    assert_eq!(all[0]["line"], 2);
    assert_eq!(all[0]["column"], 17);
    assert_eq!(all[0]["help"], "did you mean `intensity`?");
    assert_eq!(all[1]["severity"], "error");
}

#[test]
fn warnings_have_a_code_and_fail_when_asked() {
    let folder = folder();
    let book = "lightbook \"D\"\ncurve c { 0s 0; 1.3s 1; 2.7s 0 }\nlight a[3] point { color #203040; intensity 5lm * loop(c) - 1lm }\n";
    fs::write(folder.path().join("warnings.caltrin"), book).unwrap();
    let told = caltrin(folder.path()).args(["check", "warnings.caltrin"]).assert().code(0);
    let said = text(&told.get_output().stderr);
    for code in ["C01", "C02", "C03"] {
        assert!(said.contains(code), "{said}");
        caltrin(folder.path()).args(["check", "--explain", code]).assert().code(0);
    }
    caltrin(folder.path()).args(["check", "--strict", "warnings.caltrin"]).assert().code(1);
    let twin = book.replace("loop(c) - 1lm", "loop(c, scatter)").replace("#203040", "#ffaa40");
    fs::write(folder.path().join("twin.caltrin"), twin).unwrap();
    caltrin(folder.path()).args(["check", "--strict", "twin.caltrin"]).assert().code(0).stderr("");
}

#[test]
fn a_wrong_call_exits_with_2_and_says_what_to_do() {
    let folder = folder();
    fs::write(folder.path().join("binary.caltrin"), [0u8, 255, 254, 3]).unwrap();
    for (arguments, wanted) in [
        (vec!["check", "missing.caltrin"], "cannot read `missing.caltrin`"),
        (vec!["check", "binary.caltrin"], "a lightbook is plain text"),
        (vec!["check", "."], "it is a folder"),
        (vec!["check", "--explain", "C99"], "checks are C01"),
        (vec!["sheet", "pier.caltrin", "-o", "pier.jpg"], "written as .svg, .png or .html"),
        (vec!["sheet", "pier.caltrin", "--light", "welt"], "did you mean `weld`?"),
        (vec!["sheet", "pier.caltrin", "--to", "soon"], "a time is written"),
        (vec!["sheet", "pier.caltrin", "-l", "mast[8]"], "its lamps are 0 to 7"),
        (vec!["sheet", "pier.caltrin", "-l", "deck[0]"], "`deck` is one lamp, not an array"),
        (vec!["sheet", "pier.caltrin", "-l", "mast[x]"], "as in `row[2]`"),
        (vec!["sheet", "pier.caltrin", "-l", "mast[2"], "as in `row[2]`"),
        (vec!["explain", "pier.caltrin", "nothing_at_all"], "`caltrin explain pier.caltrin` lists"),
        (vec!["trace", "pier.caltrin", "--rate", "0"], "--rate 60"),
        (vec!["export", "pier.caltrin", "--to", "csharpp"], "did you mean `csharp`?"),
        (vec!["new", "a\"b"], "or contain quotes"),
        (vec!["nonsense"], "unrecognized subcommand"),
    ] {
        let told = caltrin(folder.path()).args(&arguments).assert().code(2);
        let said = text(&told.get_output().stderr);
        assert!(said.contains(wanted), "{arguments:?}\n{said}");
        assert!(!said.contains('\u{1b}'), "a pipe gets no colors");
    }
}

#[test]
fn warnings_are_counted_when_a_picture_is_drawn() {
    let folder = folder();
    let unused: String = (0..5).map(|n| format!("event e{n}\n")).collect();
    let book = format!("lightbook \"D\"\n{unused}light a point {{ intensity 5lm }}\n");
    fs::write(folder.path().join("many warnings.caltrin"), book).unwrap();
    let told = caltrin(folder.path())
        .args(["sheet", "many warnings.caltrin", "-o", "d.svg"])
        .assert()
        .code(0);
    let said = text(&told.get_output().stderr);
    let wanted = "many warnings.caltrin: 5 warnings (5 of C10); `caltrin check 'many warnings.caltrin'` shows them\n";
    assert_eq!(said, wanted);
    let told = caltrin(folder.path()).args(["check", "many warnings.caltrin"]).assert().code(0);
    assert_eq!(text(&told.get_output().stderr).matches("C10").count(), 5);
    // One is no more than a line either, each time.
    let book = "lightbook \"D\"\nevent idle\nlight a point { intensity 5lm }\n";
    fs::write(folder.path().join("one.caltrin"), book).unwrap();
    let told =
        caltrin(folder.path()).args(["sheet", "one.caltrin", "-o", "d.svg"]).assert().code(0);
    let said = text(&told.get_output().stderr);
    assert_eq!(said, "one.caltrin: 1 warning (1 of C10); `caltrin check one.caltrin` shows them\n");
}

#[test]
fn one_lamp_of_an_array_is_shown_and_traced() {
    let folder = folder();
    let rows = |light: &str| {
        let told = caltrin(folder.path())
            .args(["trace", "pier.caltrin", "-l", light, "--to", "1s", "--rate", "10"])
            .assert()
            .code(0);
        text(&told.get_output().stdout).to_owned()
    };
    let (all, one) = (rows("mast"), rows("mast[3]"));
    let kept: Vec<&str> = all.lines().filter(|line| line.contains("mast,3,")).collect();
    assert_eq!(one.lines().skip(1).collect::<Vec<_>>(), kept);
    assert_eq!(kept.len(), 11);
    caltrin(folder.path())
        .args(["sheet", "pier.caltrin", "-l", "mast[3]", "-o", "one.svg"])
        .assert()
        .code(0);
    let drawn = fs::read_to_string(folder.path().join("one.svg")).unwrap();
    assert!(drawn.contains("mast[3] of 8") && drawn.contains("1 light, 1 lamp"), "{drawn:.900}");
}

#[test]
fn explain_lists_what_a_book_has() {
    let folder = folder();
    let told = caltrin(folder.path()).args(["explain", "pier.caltrin"]).assert().code(0);
    let said = text(&told.get_output().stdout);
    let book = fs::read_to_string(folder.path().join("pier.caltrin")).unwrap();
    for line in said.lines() {
        let (line, rest) = line.trim_start().split_once("  ").unwrap_or((line, ""));
        let Ok(line) = line.parse::<usize>() else { continue };
        let name = rest.split_whitespace().next().unwrap().rsplit('.').next().unwrap();
        let own = book.lines().nth(line - 1).unwrap();
        assert!(own.contains(name), "{line} {rest}: {own}");
    }
    for name in ["mast ", "hunting ", "buzzing ", "warning ", "ferry_docks ", "mist ", "horn "] {
        assert!(said.lines().any(|line| line.contains(&format!("  {name}"))), "{name}\n{said}");
    }
}

#[test]
fn new_starts_a_good_book_and_overwrites_nothing() {
    let folder = folder();
    caltrin(folder.path()).args(["new", "Slipway at night"]).assert().code(0);
    caltrin(folder.path()).args(["check", "--strict", "slipway_at_night.caltrin"]).assert().code(0);
    let before = fs::read(folder.path().join("slipway_at_night.caltrin")).unwrap();
    caltrin(folder.path()).args(["new", "Slipway at night"]).assert().code(2);
    assert_eq!(fs::read(folder.path().join("slipway_at_night.caltrin")).unwrap(), before);
}

#[test]
fn a_trace_is_a_table_or_lines_of_json() {
    let folder = folder();
    let csv = caltrin(folder.path())
        .args([
            "trace",
            "pier.caltrin",
            "--light",
            "weld",
            "--light",
            "deck",
            "--to",
            "1s",
            "--rate",
            "10",
        ])
        .assert()
        .code(0);
    let csv = text(&csv.get_output().stdout);
    let lines: Vec<&str> = csv.lines().collect();
    assert_eq!(lines.len(), 1 + 11 * 2);
    assert_eq!(
        lines[0],
        "seconds,light,lamp,intensity,color.r,color.g,color.b,reach_inner,reach_outer,position.x,position.y,position.z,shadows"
    );
    assert_eq!(lines[1], "0,weld,0,0,0.6389992,0.7163725,1,0.5,30,48,1,-2,1");
    assert!(lines[2].starts_with("0,deck,0,1.35,") && lines[2].ends_with(",,,,,,"), "{}", lines[2]);
    caltrin(folder.path())
        .args(["trace", "pier.caltrin", "-o", "pier.jsonl", "--to", "0.5s", "--rate", "2"])
        .assert()
        .code(0);
    let jsonl = fs::read_to_string(folder.path().join("pier.jsonl")).unwrap();
    assert_eq!(jsonl.lines().count(), 2 * 487);
    for line in jsonl.lines() {
        let row: serde_json::Value = serde_json::from_str(line).unwrap();
        let tint = if row["light"] == "stars" { &row["tint"] } else { &row["color"] };
        let plain = ["view_range", "fog", "sky_tint", "haze_tint", "drumming"];
        let tinted = !plain.iter().any(|name| row["light"] == *name);
        assert!(!tinted || tint.as_array().unwrap().len() == 3);
        assert!(row["light"].is_string());
    }
}

/// A language of the user's own: a module as in JavaScript, with other words in its head.
fn own_language() -> String {
    let text = include_str!("../../caltrin-export/languages/javascript/language.toml");
    let text = text.replace("// Host loop:", "// In our engine:");
    text.replace("name = \"{base}.mjs\"", "name = \"{base}.engine.mjs\"")
}

#[test]
fn a_language_of_ones_own_is_exported_and_proved_by_its_commands_only_when_asked() {
    let folder = folder();
    fs::write(folder.path().join("engine.toml"), own_language()).unwrap();
    let told = caltrin(folder.path())
        .args(["export", "pier.caltrin", "--language", "engine.toml", "-o", "out"])
        .assert()
        .code(0);
    let out = text(&told.get_output().stdout);
    assert!(out.starts_with("wrote out/saltgate_pier.engine.mjs ("), "{out}");
    let made = fs::read_to_string(folder.path().join("out/saltgate_pier.engine.mjs")).unwrap();
    assert!(made.contains("// In our engine:") && !made.contains("// Host loop:"));
    assert_eq!(fs::read_dir(folder.path().join("out")).unwrap().count(), 1, "no other language");
    // Made by caltrin, so it is replaced without `--force`; both kinds of languages go together.
    caltrin(folder.path())
        .args(["export", "pier.caltrin", "--language", "engine.toml", "--to", "c", "-o", "out"])
        .assert()
        .code(0);
    assert_eq!(fs::read_dir(folder.path().join("out")).unwrap().count(), 2);

    let prove = ["prove", "pier.caltrin", "--language", "engine.toml", "--samples", "2000"];
    let told = caltrin(folder.path()).args(prove).assert().code(2);
    let said = text(&told.get_output().stderr);
    assert!(said.contains("the language `engine` runs programs: node FOLDER/prove.mjs"), "{said}");
    assert!(said.contains("--run-commands"), "{said}");
    let told = caltrin(folder.path()).args(prove).arg("--run-commands").assert().code(0);
    let said = text(&told.get_output().stdout);
    let row: Vec<&str> = said.lines().nth(1).unwrap().split_whitespace().collect();
    assert_eq!((row[0], row[3]), ("engine", "0"), "{said}");

    // A file from elsewhere runs nothing unasked.
    let ran = folder.path().join("ran");
    let hostile = own_language().replace(
        "run = [\"node\", \"{folder}/prove.mjs\"]",
        &format!("compile = [[\"touch\", \"{}\"]]\nrun = [\"true\"]", ran.display()),
    );
    fs::write(folder.path().join("hostile.toml"), hostile).unwrap();
    for command in [&["export", "pier.caltrin", "-o", "out"][..], &["prove", "pier.caltrin"]] {
        let _ = caltrin(folder.path()).args(command).args(["--language", "hostile.toml"]).output();
        assert!(!ran.exists(), "{command:?}");
    }
    caltrin(folder.path())
        .args(["prove", "pier.caltrin", "--samples", "100", "--language", "hostile.toml"])
        .arg("--run-commands")
        .assert()
        .code(1);
    assert!(ran.exists());
}

#[test]
fn languages_that_are_named_give_the_same_bits() {
    let folder = folder();
    let book = "lightbook \"Slip\"\nseed 7\nevent bell\ninput swell = 20% in 0%..100%\n\
        at bell send ring(\"low\" or \"high\")\n\
        light row[3] point {\n  intensity 400lm * held(40%..100%, every 80ms..300ms) * swell\n  \
        position (0m, 3m, 0m), (4m, 0m, 0m)\n}\n";
    fs::write(folder.path().join("slip.caltrin"), book).unwrap();
    // The page's own packages have the compiler of TypeScript.
    let packages = Path::new(env!("CARGO_MANIFEST_DIR")).join("page/node_modules/.bin");
    let known = std::env::var("PATH").unwrap_or_default();
    let path = format!("{known}:{}", packages.display());
    for (name, tool) in
        [("cpp", "g++"), ("ts", "tsc"), ("java", "javac"), ("python", "python3"), ("lua", "lua5.4")]
    {
        if std::process::Command::new(tool).arg("-v").env("PATH", &path).output().is_err() {
            println!("{name}: not tried, `{tool}` is missing");
            continue;
        }
        let told = caltrin(folder.path())
            .args(["prove", "slip.caltrin", "--samples", "300", "--to", name])
            .env("PATH", &path)
            .assert()
            .code(0);
        let said = text(&told.get_output().stdout);
        let row: Vec<&str> = said.lines().nth(1).unwrap().split_whitespace().collect();
        assert_eq!((row[0], row[3]), (name, "0"), "{said}");
        assert!(row[2].parse::<u32>().unwrap() > 1000, "{said}");
    }
}

#[test]
fn what_is_wrong_in_a_language_file_is_told_with_the_nearest_word() {
    let folder = folder();
    let export = |text: &str| {
        fs::write(folder.path().join("mine.toml"), text).unwrap();
        let told = caltrin(folder.path())
            .args(["export", "pier.caltrin", "--language", "mine.toml", "-o", "out"])
            .assert()
            .code(2);
        assert!(!folder.path().join("out").exists());
        self::text(&told.get_output().stderr)
    };
    for (from, to, wanted) in [
        (
            "square_root = ",
            "squareroot = ",
            "`squareroot` is not known; did you mean `square_root`?",
        ),
        (
            "{title}. {made}.",
            "{titel}. {made}.",
            "[file] text]: `titel` is not known; did you mean `title`?",
        ),
        ("{title}. {made}.", "{title}.", "[file] text: the slot {made} is missing"),
        (
            "\"events\", ",
            "\"event\", ",
            "[file.parts]: `event` is not known; did you mean `events`?",
        ),
        ("\"events\", ", "", "[file.parts]: `events` is missing"),
        ("{base}.engine.mjs", "../{base}.mjs", "must be a file name without a folder"),
        ("fact = \"parts\"", "fact = \"part\"", "`part` is not known; did you mean `parts`?"),
        ("nothing = \"return null;\"", "nothin = \"return null;\"", "did you mean `nothing`?"),
    ] {
        let own = own_language();
        assert!(own.contains(from), "{from}");
        let said = export(&own.replacen(from, to, 1));
        assert!(said.contains("mine.toml: ") && said.contains(wanted), "{wanted}: {said}");
    }
    let told = caltrin(folder.path())
        .args(["export", "pier.caltrin", "--language", "none.toml"])
        .assert()
        .code(2);
    assert!(text(&told.get_output().stderr).contains("cannot read `none.toml`"));
    fs::write(folder.path().join("rust.toml"), own_language()).unwrap();
    let told = caltrin(folder.path())
        .args(["export", "pier.caltrin", "--language", "rust.toml"])
        .assert()
        .code(2);
    let said = text(&told.get_output().stderr);
    assert!(said.contains("would be called `rust`, as a language that is built in"), "{said}");
}

#[test]
fn export_writes_each_language_and_tells_it_as_json() {
    let folder = folder();
    let told = caltrin(folder.path())
        .args(["export", "pier.caltrin", "--to", "js,c", "-o", "made/here", "--json"])
        .assert()
        .code(0);
    let all: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(all.as_array().unwrap().len(), 2);
    assert!(folder.path().join("made/here/saltgate_pier.h").exists());
    assert!(folder.path().join("made/here/saltgate_pier.mjs").exists());
    caltrin(folder.path()).args(["export", "wrong.caltrin", "-o", "made"]).assert().code(1);
    assert!(!folder.path().join("made/wrong.h").exists());
}

/// Runs `flash` on a file with this text: the exit status, and the output as JSON if there is any.
fn flash(name: &str, content: &str) -> (i32, serde_json::Value, String) {
    let folder = folder();
    fs::write(folder.path().join(name), content).unwrap();
    let out = caltrin(folder.path()).args(["flash", name, "--json"]).output().unwrap();
    let told = serde_json::from_slice(&out.stdout).unwrap_or_default();
    (out.status.code().unwrap(), told, text(&out.stderr))
}

/// A square wave of luminance: so many samples a half at 120 a second.
fn wave(half: usize) -> String {
    let rows = (0..600).map(|n| format!("{},{}\n", n as f64 / 120.0, n / half % 2));
    format!("time,luminance\n{}", rows.collect::<String>())
}

#[test]
fn flashes_of_samples_pass_or_fail() {
    let (code, told, _) = flash("slow.csv", &wave(20));
    assert_eq!((code, &told["passes"]), (0, &true.into()));
    assert_eq!(
        (&told["general"]["flashes"], &told["red"]),
        (&3.0.into(), &serde_json::Value::Null)
    );
    let (code, told, _) = flash("quick.csv", &wave(15));
    assert_eq!((code, &told["passes"], &told["safe_speed"]), (1, &false.into(), &0.75.into()));
    assert_eq!((&told["general"]["flashes"], &told["samples"]), (&4.0.into(), &600.into()));
    // Columns are found by their names, in any order, beside others.
    let rows = (0..240).map(|n| {
        let red = if n / 15 % 2 == 0 { "0.2126,0.2126,0.2126" } else { "0,0,1" };
        format!("x,{red},{}\n", f64::from(n) / 120.0)
    });
    let (code, told, _) =
        flash("red.csv", &format!("note,B,G,R,Time\n{}", rows.collect::<String>()));
    assert_eq!(
        (code, &told["red"]["flashes"], &told["general"]["flashes"]),
        (1, &4.0.into(), &0.0.into())
    );
}

#[test]
fn files_of_samples_that_cannot_be_read_say_why() {
    for (content, wanted) in [
        ("", "there is no column `time`"),
        ("time,luminance\n", "there are no samples"),
        ("time,level\n0,1\n", "there is no column `luminance`, nor `r`, `g` and `b`: time, level"),
        ("time,luminance\n0,1\n0,0\n", "line 3: time 0 does not come after 0"),
        ("time,luminance\n0,bright\n", "line 2: `bright` is not a number"),
        ("time,luminance\n0,nan\n", "line 2: `nan` is not a number"),
        ("time,r,g,b\n0,1,1\n", "found record with 3 fields"),
    ] {
        let (code, told, said) = flash("samples.csv", content);
        assert_eq!((code, told), (2, serde_json::Value::Null), "{content}");
        let said = said.split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(said.contains(wanted), "{content:?}: {said}");
    }
    // What starts a run of a book means nothing to samples.
    let folder = folder();
    fs::write(folder.path().join("slow.csv"), wave(20)).unwrap();
    let told = caltrin(folder.path()).args(["flash", "slow.csv", "--seed", "3"]).assert().code(2);
    let said = text(&told.get_output().stderr);
    assert!(said.contains("samples have no seed, inputs or hour"), "{said}");
}

#[test]
fn lights_of_a_book_that_flash_are_found() {
    let book = "lightbook \"Slip\"\n\
        light calm point { intensity 400lm * held(95%..100%, every 80ms..300ms) }\n\
        light slow point { intensity square(0lm..400lm, every 400ms) }\n\
        light quick[3] point { intensity square(0lm..400lm, every 250ms) }\n\
        light shallow point { intensity square(365lm..400lm, every 100ms) }\n\
        light alarm point {\n  color #ff0000\n  intensity square(0lm..400lm, every 200ms)\n}\n\
        output level = square(0..1, every 100ms)\n";
    let (code, told, _) = flash("slip.caltrin", book);
    assert_eq!((code, &told["passes"]), (1, &false.into()));
    let of = |name: &str| {
        let lights = told["lights"].as_array().unwrap();
        lights.iter().find(|light| light["light"] == name).cloned().unwrap_or_default()
    };
    assert_eq!(of("calm")["cannot_flash"], true);
    // 2.5 a second: 5 changes in a second, and 6 in one that begins with the first of them.
    assert_eq!(of("slow")["passes"], true);
    assert_eq!(
        (&of("quick")["passes"], &of("quick")["general"]["flashes"]),
        (&false.into(), &4.0.into())
    );
    assert_eq!(
        (&of("shallow")["passes"], &of("shallow")["general"]["flashes"]),
        (&true.into(), &0.0.into())
    );
    // The brightest red of a display has a relative luminance of 0.2126, which is a general change too.
    assert_eq!(
        (&of("alarm")["red"]["flashes"], &of("alarm")["general"]["flashes"]),
        (&5.0.into(), &5.0.into())
    );
    assert_eq!(of("level"), serde_json::Value::Null);
    let folder = folder();
    fs::write(folder.path().join("slip.caltrin"), book).unwrap();
    let out = caltrin(folder.path()).args(["flash", "slip.caltrin"]).assert().code(1);
    let said = text(&out.get_output().stdout);
    assert!(
        said.contains("quick    FAILS: 4 flashes in one second, from 0.13 s (lamp 0, seed"),
        "{said}"
    );
    assert!(said.contains("slow it down to 75% of its speed"), "{said}");
    assert!(said.contains("2 of 5 lights flash more than three times in a second"), "{said}");
}

#[test]
fn a_rehearsal_may_expect_that_no_light_flashes() {
    let folder = folder();
    let rehearse = |more: &str, expect: &str| {
        let book = format!(
            "lightbook \"Slip\"\nevent go\nswitch on_it {{ on at go }}\n{more}\
             light calm point {{ intensity 400lm * on_it }}\n\
             light quick[2] point {{ intensity square(0lm..400lm, every 250ms) * on_it }}\n\
             rehearsal start {{\n  2s    go\n  {expect}\n  6s    end\n}}\n"
        );
        fs::write(folder.path().join("slip.caltrin"), book).unwrap();
        let out = caltrin(folder.path()).args(["rehearse", "slip.caltrin"]).output().unwrap();
        (out.status.code().unwrap(), text(&out.stdout))
    };
    let (code, said) = rehearse("", "0s    expect safe");
    assert_eq!(code, 1, "{said}");
    assert!(said.contains("found 4 flashes in one second of `quick` of lamp 0 at 2."), "{said}");
    // Until it goes on, and within a part of it.
    let (code, said) = rehearse("", "0s    expect safe for 2s");
    assert_eq!(code, 0, "{said}");
    let (code, said) = rehearse("", "3s    expect safe for 2s");
    assert_eq!(code, 1, "{said}");
    let (code, said) = rehearse("", "3s    expect safe for 0.4s");
    assert_eq!(code, 0, "{said}");
    // A name of the book comes first.
    let (code, said) = rehearse("signal safe = on_it is on\n", "3s    expect safe");
    assert_eq!(code, 0, "{said}");
}

#[test]
fn c_is_proved_with_other_compilers_and_on_other_machines() {
    let folder = folder();
    fs::write(folder.path().join("ripple.caltrin"), RIPPLE).unwrap();
    let prove = ["prove", "ripple.caltrin", "--samples", "500", "--json", "--compiler"];
    let told = caltrin(folder.path()).args(prove).arg("all").assert().code(0);
    let all: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    let all = all.as_array().unwrap();
    assert_eq!(all.len(), 7, "and no language besides");
    for row in all {
        let strict = std::env::var_os("CALTRIN_STRICT").is_some();
        if strict || row["outcome"] != "not tried" {
            assert_eq!(
                (&row["outcome"], &row["mismatches"]),
                (&"compared".into(), &0.into()),
                "{row}"
            );
        }
    }
    let told = caltrin(folder.path()).args(prove).arg("clangg").assert().code(2);
    let said = text(&told.get_output().stderr);
    assert!(said.contains("did you mean `clang`?"), "{said}");
    // With a language, both.
    let told = caltrin(folder.path()).args(prove).args(["gcc", "--to", "c"]).assert().code(0);
    let both: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(both.as_array().unwrap().len(), 2);
}

const RIPPLE: &str = "lightbook \"Ripple\"\nevent rung\n\
    light reed[3] point { intensity 400lm * held(40%..100%, every 80ms..300ms) }\n\
    light bell point {\n  switch on_it { on at rung }\n  intensity 5lm * on_it\n}\n";

#[test]
fn shaders_contain_what_needs_no_events_and_list_the_rest() {
    let folder = folder();
    fs::write(folder.path().join("ripple.caltrin"), RIPPLE).unwrap();
    let export = ["export", "ripple.caltrin", "--to", "wgsl,c"];
    let told = caltrin(folder.path()).args(export).assert().code(0);
    let out = text(&told.get_output().stdout);
    let wanted =
        "shaders contain 1 of 2 lights\n  excluded: bell: depends on events (`bell.on_it`)\n";
    assert!(out.ends_with(wanted), "{out}");
    let made = fs::read_to_string(folder.path().join("ripple.wgsl")).unwrap();
    assert!(made.contains("fn ripple_reed(frame: RippleFrame, index: u32) -> RippleReed {"));
    assert!(made.contains("//     bell: depends on events (`bell.on_it`)"), "{made}");
    assert!(!made.contains("fn ripple_bell"));
    let told = caltrin(folder.path()).args(export).arg("--json").assert().code(0);
    let all: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    let of = |language: &str| {
        let all = all.as_array().unwrap();
        all.iter().find(|row| row["language"] == language).unwrap().clone()
    };
    assert_eq!(of("c").get("lights"), None);
    assert_eq!(of("wgsl")["lights"][0]["light"], "reed");
    assert_eq!(of("wgsl")["lights"][0]["hours"], 1000.0);
    assert!(of("wgsl")["lights"][0]["deviation"].as_f64().unwrap() < 1e-6);
    assert_eq!(of("wgsl")["excluded"][0]["light"], "bell");

    let told = caltrin(folder.path())
        .args(["prove", "ripple.caltrin", "--to", "glsl", "--samples", "500"])
        .assert()
        .code(0);
    let said = text(&told.get_output().stdout);
    assert!(said.contains("as C in single precision; 1 of 2 lights, at most"), "{said}");

    // Nothing is written where no light can be exported.
    let only = RIPPLE.lines().filter(|line| !line.contains("reed")).collect::<Vec<_>>().join("\n");
    fs::write(folder.path().join("bell.caltrin"), only).unwrap();
    let told = caltrin(folder.path())
        .args(["export", "bell.caltrin", "--to", "c,hlsl", "-o", "none"])
        .assert()
        .code(2);
    let said = text(&told.get_output().stderr);
    assert!(said.contains("no light of the book can be a shader"), "{said}");
    assert!(said.contains("bell: depends on events (`bell.on_it`)"), "{said}");
    assert!(!folder.path().join("none").exists());
    caltrin(folder.path()).args(["prove", "bell.caltrin", "--to", "hlsl"]).assert().code(1);
}

#[test]
fn a_shading_language_of_ones_own_is_like_another() {
    let folder = folder();
    fs::write(folder.path().join("ripple.caltrin"), RIPPLE).unwrap();
    let own = "like = \"glsl\"\nname = \"House shaders\"\n[file]\nname = \"{base}.house\"\n\
        [type]\nf64 = \"number\"\nf32 = \"number\"\n[shader]\nframe_type = \"{base_pascal}Now\"\n";
    fs::write(folder.path().join("house.toml"), own).unwrap();
    let export = ["export", "ripple.caltrin", "--language", "house.toml"];
    caltrin(folder.path()).args(export).assert().code(0);
    let made = fs::read_to_string(folder.path().join("ripple.house")).unwrap();
    assert!(made.contains("number ripple_to_unit(uint bits) {"), "{made}");
    assert!(made.contains("struct RippleNow {"));
    let wrong = own.replace("frame_type", "frame_typ");
    fs::write(folder.path().join("house.toml"), wrong).unwrap();
    let told = caltrin(folder.path()).args(export).assert().code(2);
    let said = text(&told.get_output().stderr);
    assert!(said.contains("did you mean `frame_type`?"), "{said}");
}

#[test]
fn a_sheet_goes_where_its_ending_says() {
    let folder = folder();
    caltrin(folder.path()).args(["sheet", "pier.caltrin"]).assert().code(0);
    assert!(fs::read_to_string(folder.path().join("pier.svg")).unwrap().starts_with("<svg"));
    caltrin(folder.path())
        .args(["sheet", "pier.caltrin", "-o", "a.png", "--seed", "3"])
        .assert()
        .code(0);
    assert!(fs::read(folder.path().join("a.png")).unwrap().starts_with(b"\x89PNG"));
    caltrin(folder.path()).args(["sheet", "wrong.caltrin", "-o", "w.png"]).assert().code(1);
    assert!(!folder.path().join("w.png").exists());
}

#[test]
fn watching_draws_again_at_every_save_and_survives_errors() {
    let folder = folder();
    let book = folder.path().join("pier.caltrin");
    let picture = folder.path().join("pier.svg");
    let mut watcher = std::process::Command::new(env!("CARGO_BIN_EXE_caltrin"))
        .args(["sheet", "pier.caltrin", "--watch"])
        .current_dir(folder.path())
        .stdout(std::process::Stdio::null())
        .stderr(std::process::Stdio::null())
        .spawn()
        .unwrap();
    let soon = |what: &str, done: &dyn Fn(&str) -> bool| {
        let begin = Instant::now();
        while !fs::read_to_string(&picture).is_ok_and(|text| done(&text)) {
            assert!(begin.elapsed() < Duration::from_secs(30), "{what}");
            std::thread::sleep(Duration::from_millis(20));
        }
    };
    soon("the first picture", &|text| text.contains("harbor_light"));
    let used = "lightbook \"Used\"\ncolor sodium = 2100K\n";
    fs::write(folder.path().join("used.caltrin"), used).unwrap();
    let text = PIER.replace("color sodium = 2100K", "use \"used.caltrin\"");
    fs::write(&book, text.replace("light deck", "light deck_of_the_pier")).unwrap();
    soon("after a save", &|text| text.contains("deck_of_the_pier"));
    let before = fs::read_to_string(&picture).unwrap();
    fs::write(folder.path().join("used.caltrin"), used.replace("2100K", "#00ff00")).unwrap();
    soon("after a save of a used book", &|text| text != before);
    fs::write(&book, PIER.replace("harbor_light", "beacon_light")).unwrap();
    soon("after another save", &|text| text.contains("beacon_light"));
    fs::write(&book, WRONG).unwrap();
    std::thread::sleep(Duration::from_millis(200));
    assert!(
        fs::read_to_string(&picture).unwrap().contains("beacon_light"),
        "the last good one stays"
    );
    // As some editors save: a new file, renamed into place.
    let other = folder.path().join("pier.tmp");
    fs::write(&other, PIER.replace("harbor_light", "third_light")).unwrap();
    fs::rename(&other, &book).unwrap();
    soon("after a rename", &|text| text.contains("third_light"));
    let before = fs::read_to_string(&picture).unwrap();
    fs::write(folder.path().join("sounds/bell_buoy.wav"), caltrin::SOUNDS[2].1).unwrap();
    soon("after another sound", &|text| text != before);
    watcher.kill().unwrap();
    watcher.wait().unwrap();
}

#[test]
fn prove_names_a_missing_compiler_and_never_counts_it() {
    let folder = folder();
    let told = caltrin(folder.path())
        .args(["prove", "pier.caltrin", "--json"])
        .env("PATH", folder.path())
        .assert()
        .code(2);
    let all: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(all.as_array().unwrap().len(), 4);
    for outcome in all.as_array().unwrap() {
        assert_eq!(outcome["outcome"], "not tried");
    }
    assert!(text(&told.get_output().stderr).contains("nothing was proved"));
}

#[test]
fn the_demo_makes_a_folder_and_keeps_what_was_changed() {
    let folder = folder();
    let told = caltrin(folder.path()).args(["demo", "-o", "d"]).assert();
    let said = text(&told.get_output().stdout);
    assert!(
        said.contains("bit for bit") && said.contains("caltrin sheet d/pier.caltrin"),
        "{said}"
    );
    for file in
        ["pier.caltrin", "pier.svg", "pier.png", "code/saltgate_pier.rs", "code/saltgate_pier.cs"]
    {
        assert!(folder.path().join("d").join(file).exists(), "{file}");
    }
    fs::write(folder.path().join("d/pier.caltrin"), "lightbook \"Mine\"\n").unwrap();
    caltrin(folder.path()).args(["demo", "-o", "d"]).assert().code(2);
    let kept = fs::read_to_string(folder.path().join("d/pier.caltrin")).unwrap();
    assert_eq!(kept, "lightbook \"Mine\"\n");
}

#[test]
fn fmt_lays_out_and_only_says_so_when_asked() {
    let folder = folder();
    let crooked = PIER.replace("  intensity", " intensity ");
    let book = folder.path().join("pier.caltrin");
    fs::write(&book, &crooked).unwrap();
    caltrin(folder.path())
        .args(["fmt", "--check", "pier.caltrin"])
        .assert()
        .code(1)
        .stdout("pier.caltrin is not formatted\n");
    assert_eq!(fs::read_to_string(&book).unwrap(), crooked, "nothing is written");
    caltrin(folder.path()).args(["fmt", "pier.caltrin"]).assert().code(0);
    assert_eq!(fs::read_to_string(&book).unwrap(), PIER);
    caltrin(folder.path()).args(["fmt", "--check", "pier.caltrin"]).assert().code(0);
    fs::write(&book, "lightbook \"B\"\nlight a point { intensity (1lm\n").unwrap();
    caltrin(folder.path()).args(["fmt", "pier.caltrin"]).assert().code(1);
    assert!(fs::read_to_string(&book).unwrap().ends_with("(1lm\n"), "it is left as it is");
}

#[test]
fn explain_says_what_a_name_is_made_of_and_who_uses_it() {
    let folder = folder();
    let told = caltrin(folder.path()).args(["explain", "pier.caltrin", "supply"]).assert().code(0);
    insta::assert_snapshot!(text(&told.get_output().stdout));
    let told = caltrin(folder.path())
        .args(["explain", "pier.caltrin", "mast.intensity", "--json"])
        .assert()
        .code(0);
    let all: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(all["parts"][0]["name"], "dark");
    assert_eq!(all["parts"][1]["name"], "buzzing");
    assert_eq!(all["period"], "never: it is random");
    let told = caltrin(folder.path()).args(["explain", "pier.caltrin", "suply"]).assert().code(2);
    assert!(text(&told.get_output().stderr).contains("did you mean `supply`?"));
    let small = "lightbook \"S\"\nspace { unit 1cm }\nsignal far = 4m\n\
                 light a point { reach 50cm..far }\noutput level = far\n";
    fs::write(folder.path().join("small.caltrin"), small).unwrap();
    for (name, range) in [("a.reach_outer", "400 cm"), ("level", "400 cm"), ("far", "4 m")] {
        let told = caltrin(folder.path()).args(["explain", "small.caltrin", name]).assert().code(0);
        let said = text(&told.get_output().stdout);
        assert!(said.contains(range), "{said}");
    }
}

#[test]
fn the_stock_is_listed_drawn_and_printed() {
    let folder = folder();
    let told = caltrin(folder.path()).arg("stock").assert().code(0);
    let said = text(&told.get_output().stdout);
    for name in ["gas_mantle(", "failing_tube(", "open_flame(", "water_caustics("] {
        assert!(said.contains(name), "{said}");
    }
    assert!(!said.contains('\u{1b}'), "a pipe gets no colors");
    caltrin(folder.path()).args(["stock", "-o", "stock.svg"]).assert().code(0);
    assert!(fs::read_to_string(folder.path().join("stock.svg")).unwrap().starts_with("<svg"));
    let printed = caltrin(folder.path()).args(["stock", "--text"]).assert().code(0);
    fs::write(folder.path().join("stock.caltrin"), &printed.get_output().stdout).unwrap();
    caltrin(folder.path()).args(["check", "--strict", "stock.caltrin"]).assert().code(0);
    fs::write(
        folder.path().join("mine.caltrin"),
        "lightbook \"Mine\"\nuse \"stock\"\nlight a point { intensity 9lm * open_flame() }\n",
    )
    .unwrap();
    caltrin(folder.path()).args(["check", "--strict", "mine.caltrin"]).assert().code(0);
}

#[test]
fn help_version_and_completions_are_there() {
    let folder = folder();
    for command in [
        "new",
        "check",
        "fmt",
        "explain",
        "stock",
        "sheet",
        "trace",
        "export",
        "prove",
        "demo",
        "completions",
    ] {
        let told = caltrin(folder.path()).args([command, "--help"]).assert().code(0);
        assert!(text(&told.get_output().stdout).contains("Example"), "{command}");
    }
    caltrin(folder.path()).arg("--version").assert().code(0).stdout("caltrin 0.1.0\n");
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let told = caltrin(folder.path()).args(["completions", shell]).assert().code(0);
        assert!(text(&told.get_output().stdout).contains("prove"), "{shell}");
    }
}

#[test]
fn blanks_and_other_letters_in_a_path_are_fine() {
    let folder = folder();
    let place = folder.path().join("am Pier, früh");
    fs::create_dir(&place).unwrap();
    fs::write(place.join("mein buch.caltrin"), PIER).unwrap();
    put_sounds(&place);
    caltrin(folder.path()).args(["sheet", "am Pier, früh/mein buch.caltrin"]).assert().code(0);
    assert!(place.join("mein buch.svg").exists());
}

#[test]
fn inputs_are_set_as_the_game_would() {
    let folder = folder();
    let last_reach = |set: &[&str]| {
        let mut command = caltrin(folder.path());
        command.args(["trace", "pier.caltrin", "--light", "fog_lamp", "--to", "0s"]);
        for line in set {
            command.args(["--set", line]);
        }
        let out = text(&command.assert().code(0).get_output().stdout);
        let heading: Vec<&str> = out.lines().next().unwrap().split(',').collect();
        let reach = heading.iter().position(|name| *name == "reach_outer").unwrap();
        out.lines().last().unwrap().split(',').nth(reach).unwrap().to_owned()
    };
    assert_eq!(last_reach(&[]), "9");
    assert_eq!(last_reach(&["mist=80%"]), "4");
    // Kept within its bounds, and the last word counts.
    assert_eq!(last_reach(&["mist=80%", "mist = 700%"]), "2");
    for (line, wanted) in [
        ("mist", "is not a setting"),
        ("mst=1", "did you mean `mist`?"),
        ("mist=on", "`mist` takes a number, found on or off"),
        ("mist=3 lm", "`3 lm` is not a value"),
        ("quay.cock[12]=1", "`quay.cock` has index 0 to 11, found 12"),
    ] {
        let told =
            caltrin(folder.path()).args(["trace", "pier.caltrin", "--set", line]).assert().code(2);
        let told = text(&told.get_output().stderr);
        assert!(told.contains(wanted), "{line}: {told}");
    }
}

#[test]
fn a_place_is_drawn_at_moments_as_a_strip_or_as_an_animation() {
    let folder = folder();
    for (args, wanted) in [
        (&["pier.caltrin"][..], "wrote pier-view.png (1280 x 618)"),
        (
            &["pier.caltrin", "-o", "a.svg", "--view", "front", "--at", "600ms"],
            "wrote a.svg (1280 x",
        ),
        (&["pier.caltrin", "-o", "b.png", "--strip", "6", "--to", "3s"], "wrote b.png (1280 x"),
        (
            &["pier.caltrin", "-o", "c.apng", "--to", "0.2s", "--width", "320", "--set", "mist=1"],
            "wrote c.apng (320 x",
        ),
    ] {
        let told = caltrin(folder.path()).arg("view").args(args).assert().code(0);
        let told = text(&told.get_output().stdout);
        assert!(told.starts_with(wanted), "{told}");
    }
    for (args, wanted) in [
        (&["pier.caltrin", "-o", "a.gif"][..], "not a picture file"),
        (&["pier.caltrin", "-o", "a.apng", "--to", "0s"], "must be after"),
        (&["pier.caltrin", "-o", "a.apng", "--to", "1h"], "at most 1800 frames"),
        (&["pier.caltrin", "--exposure", "0"], "a number of lx above 0"),
        (&["pier.caltrin", "--light", "nobody"], "there is no light"),
    ] {
        let told = caltrin(folder.path()).arg("view").args(args).assert().code(2);
        let told = text(&told.get_output().stderr);
        assert!(told.contains(wanted), "{told}");
    }
}

#[test]
fn a_sheet_goes_into_a_terminal_or_a_page() {
    let folder = folder();
    let told =
        caltrin(folder.path()).args(["sheet", "pier.caltrin", "--terminal"]).assert().code(0);
    let told = text(&told.get_output().stdout);
    // Into a pipe there are no colors, and the legend says so.
    assert!(!told.contains('\u{1b}') && told.contains("color is not shown"), "{told}");
    let told = caltrin(folder.path())
        .args(["sheet", "pier.caltrin", "--terminal", "--colors", "256"])
        .assert()
        .code(0);
    assert!(text(&told.get_output().stdout).contains("\u{1b}[38;5;"));
    caltrin(folder.path()).args(["sheet", "pier.caltrin", "-o", "pier.html"]).assert().code(0);
    assert!(
        fs::read_to_string(folder.path().join("pier.html")).unwrap().contains("const readings")
    );
    let told =
        caltrin(folder.path()).args(["sheet", "pier.caltrin", "--over", "mst"]).assert().code(2);
    assert!(text(&told.get_output().stderr).contains("did you mean `mist`?"));
}

#[test]
fn books_revisions_and_lights_are_compared() {
    let folder = folder();
    let path = folder.path();
    let git = |args: &[&str]| {
        let done =
            std::process::Command::new("git").arg("-C").arg(path).args(args).output().unwrap();
        assert!(done.status.success(), "{args:?}: {}", text(&done.stderr));
    };
    git(&["init", "-q"]);
    git(&["add", "pier.caltrin"]);
    git(&["-c", "user.name=a", "-c", "user.email=a@b", "commit", "-q", "-m", "first"]);
    // Another sound at that revision is another light.
    fs::write(
        path.join("bell.caltrin"),
        "lightbook \"Bell\"\nsound bell = \"bell.wav\"\nlight a point { intensity 5lm * follow(bell) }\nlight b point { intensity 5lm }\n",
    )
    .unwrap();
    let sound = |n: usize| fs::write(path.join("bell.wav"), caltrin::SOUNDS[n].1).unwrap();
    sound(0);
    git(&["add", "bell.caltrin", "bell.wav"]);
    git(&["-c", "user.name=a", "-c", "user.email=a@b", "commit", "-q", "-m", "bell"]);
    sound(2);
    let told = caltrin(path).args(["compare", "bell.caltrin", "--since", "HEAD"]).assert().code(0);
    let told = text(&told.get_output().stdout);
    assert!(told.contains("a changed") && told.contains("1 other light unchanged"), "{told}");
    fs::write(path.join("pier.caltrin"), PIER.replace("420lm * guttering", "210lm * guttering"))
        .unwrap();
    let told = caltrin(path)
        .args(["compare", "pier.caltrin", "--since", "HEAD", "-o", "change.svg"])
        .assert()
        .code(0);
    let told = text(&told.get_output().stdout);
    assert!(
        told.contains("ticket_hatch changed in the first 20 s\n  intensity: on average"),
        "{told}"
    );
    assert!(told.contains("(-50%)") && told.contains("26 other lights unchanged"), "{told}");
    assert!(told.contains("compared: the first 20 s; the rehearsal last_ferry"), "{told}");
    assert!(told.contains("the 24 hours of the day\n"), "{told}");
    assert!(fs::read_to_string(path.join("change.svg")).unwrap().contains("ticket_hatch"));
    // What only happens in a rehearsal, or in the evening, is seen too; and what only the text says is said as such.
    let yard = "lightbook \"Y\"\nclock { day 24min; start 12:00 }\nevent flare\nevent eve at 19:00\nevent morn at 06:00\n\
        switch lit { starts off; on at eve over 2s; off at morn }\nlight lamp point { position (0m, 2m, 0m); intensity 10cd * lit }\n\
        spark ember[8] point at flare { lives 2s..4s; position (1m, 1m, 0m); intensity 400cd * (1 - life) }\n\
        rehearsal test { 1s flare; 9s end }\n";
    fs::write(path.join("y.caltrin"), yard).unwrap();
    let compared = |text_of: &str| {
        fs::write(path.join("z.caltrin"), text_of).unwrap();
        let told = caltrin(path).args(["compare", "y.caltrin", "z.caltrin"]).assert().code(0);
        text(&told.get_output().stdout).to_owned()
    };
    let told = compared(&yard.replace("2s..4s", "1s..2s"));
    assert!(told.contains("ember changed in the rehearsal test, 9 s"), "{told}");
    let told = compared(&yard.replace("10cd", "20cd"));
    assert!(told.contains("lamp changed in the 24 hours of the day"), "{told}");
    let told = compared(&yard.replace("event flare\n", "event flare   // by hand\n"));
    assert!(told.contains("the texts differ, but the lights do not"), "{told}");
    let told = compared(yard);
    assert!(told.contains("the books are the same"), "{told}");
    let told = caltrin(path)
        .args([
            "compare",
            "pier.caltrin",
            "--light",
            "quay.core",
            "--with",
            "ticket_hatch",
            "--json",
        ])
        .assert()
        .code(0);
    let told: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(told["lights"][0]["came"], "changed");
    for (args, wanted) in [
        (&["pier.caltrin"][..], "nothing to compare with"),
        (&["pier.caltrin", "--since", "nope"], "git has no `pier.caltrin` at `nope`"),
        (&["pier.caltrin", "--since", "--help"], ""),
        (&["pier.caltrin", "pier.caltrin", "--to", "0s"], "must be after"),
        (&["pier.caltrin", "pier.caltrin", "-o", "a.gif"], ".svg or .png"),
    ] {
        let told = caltrin(path).arg("compare").args(args).assert().code(2);
        let told = text(&told.get_output().stderr);
        assert!(told.contains(wanted), "{told}");
    }
    // An error on one side is reported, and nothing is compared.
    caltrin(path).args(["compare", "pier.caltrin", "wrong.caltrin"]).assert().code(1);
}

#[test]
fn a_day_is_drawn_with_its_variants_and_into_a_terminal() {
    let folder = folder();
    let args = ["day", "pier.caltrin", "-o", "aim.svg", "--light", "sunlight", "--channel", "aim"];
    caltrin(folder.path()).args(args).assert().code(0);
    let aims = fs::read_to_string(folder.path().join("aim.svg")).unwrap();
    assert!(aims.contains("sunlight.aim.x") && aims.contains("sunlight.aim.z"), "lanes of aim");
    let done = caltrin(folder.path()).args(["day", "pier.caltrin"]).assert().code(0);
    let said = text(&done.get_output().stdout);
    assert!(said.starts_with("wrote pier-day.svg (1280 x "), "{said}");
    let svg = fs::read_to_string(folder.path().join("pier-day.svg")).unwrap();
    assert!(
        svg.contains("rises 07:37, sets 15:53")
            && svg.contains(">23:00<") != svg.contains(">22:00<")
    );
    let variants = ["--variant", "season=80", "--variant", "season=172; weather=overcast"];
    caltrin(folder.path())
        .args(["day", "pier.caltrin", "-o", "day.html", "--light", "stars"])
        .args(variants)
        .assert()
        .code(0);
    let page = fs::read_to_string(folder.path().join("day.html")).unwrap();
    assert!(page.contains("stars[400].level season=172; weather=overcast"));
    let shown = caltrin(folder.path())
        .args(["day", "pier.caltrin", "--terminal", "--colors", "none", "--light", "deck"])
        .assert()
        .code(0);
    let shown = text(&shown.get_output().stdout);
    assert!(shown.contains("|12:00") && shown.contains("deck"), "{shown}");
    for (wrong, said) in [
        (vec!["day", "pier.caltrin", "--variant", "seson=3"], "did you mean `season`?"),
        (
            vec!["day", "pier.caltrin", "--set", "weather=foul"],
            "`weather` has no `foul`; it has fair, overcast",
        ),
        (vec!["day", "pier.caltrin", "-o", "day.txt"], "is not a picture file"),
        (vec!["day", "still.caltrin"], "the book has no clock"),
        (vec!["sheet", "still.caltrin", "--hour", "10:00"], "the book has no clock"),
        (vec!["view", "still.caltrin", "--at", "10:00"], "the book has no clock"),
        (vec!["view", "pier.caltrin", "--at", "24:00"], "did you mean `00:00`?"),
        (
            vec!["view", "pier.caltrin", "--strip", "3", "--from", "10:00"],
            "both be moments or both be hours",
        ),
    ] {
        fs::write(
            folder.path().join("still.caltrin"),
            "lightbook \"S\"\nlight a point { intensity 1cd }\n",
        )
        .unwrap();
        let told = caltrin(folder.path()).args(&wrong).assert().code(2);
        let told = text(&told.get_output().stderr);
        assert!(told.contains(said), "{wrong:?}: {told}");
    }
}

#[test]
fn a_trace_and_a_place_begin_at_the_hour_that_is_asked_for() {
    let folder = folder();
    let trace = |more: &[&str]| {
        let done = caltrin(folder.path())
            .args(["trace", "pier.caltrin", "--light", "deck", "--to", "0s"])
            .args(more)
            .assert()
            .code(0);
        let table = text(&done.get_output().stdout);
        let row: Vec<f64> =
            table.lines().nth(1).unwrap().split(',').skip(3).map(|v| v.parse().unwrap()).collect();
        row[0]
    };
    let (night, noon) = (trace(&["--hour", "03:00"]), trace(&["--hour", "12:00:00"]));
    assert!(night < 2.0 && noon > 1000.0, "{night} {noon}");
    let overcast = trace(&["--hour", "12:00", "--set", "weather=overcast"]);
    assert!(overcast < noon * 0.5 && overcast > night, "{overcast}");
    caltrin(folder.path())
        .args(["view", "pier.caltrin", "--strip", "4", "--from", "22:00", "--to", "04:00"])
        .args(["--width", "600", "-o", "night.png"])
        .assert()
        .code(0);
    let done = caltrin(folder.path())
        .args(["view", "pier.caltrin", "--from", "06:00", "--to", "08:00", "--rate", "4"])
        .args(["--width", "320", "-o", "dawn.apng"])
        .assert()
        .code(0);
    assert!(text(&done.get_output().stdout).contains("9 pictures"));
}

#[test]
fn rehearsals_are_played_and_tell_what_is_not_as_expected() {
    let folder = folder();
    let path = folder.path();
    let told = caltrin(path).args(["rehearse", "pier.caltrin"]).assert().code(0);
    let said = text(&told.get_output().stdout);
    assert!(said.ends_with("pier.caltrin: all expectations met (11 expectations)\n"), "{said}");
    fs::write(path.join("late.caltrin"), PIER.replace("36s    power_back", "38.2s  power_back"))
        .unwrap();
    let told = caltrin(path).args(["rehearse", "late.caltrin", "--seeds", "3"]).assert().code(1);
    insta::assert_snapshot!(text(&told.get_output().stdout));
    let told = caltrin(path).args(["rehearse", "pier.caltrin", "last_fery"]).assert().code(2);
    let said = text(&told.get_output().stderr);
    assert!(said.contains("did you mean `last_ferry`?"), "{said}");
    // A trace of it shows the power go.
    let trace = |more: &[&str]| {
        let mut all = vec!["trace", "pier.caltrin", "--light", "mast", "--from", "33s"];
        all.extend(["--to", "33s"]);
        all.extend(more);
        let told = caltrin(path).args(all).assert().code(0);
        text(&told.get_output().stdout)
    };
    assert_ne!(trace(&[]), trace(&["--rehearsal", "last_ferry"]));
}

#[test]
fn explain_knows_modes_and_sequences_by_their_names() {
    let folder = folder();
    let explain = |name: &str| {
        let told = caltrin(folder.path()).args(["explain", "pier.caltrin", name]).assert().code(0);
        text(&told.get_output().stdout).to_owned()
    };
    let warning = explain("warning");
    assert!(warning.starts_with("warning: modes, starting with calm"), "{warning}");
    assert!(warning.contains("warning.alarm") && warning.contains("warning_lamp"), "{warning}");
    let docking = explain("docking");
    assert!(docking.starts_with("docking: a sequence of 24 s"), "{docking}");
    let fault = explain("fog_lamp.fault");
    assert!(fault.contains("one for each of 3"), "{fault}");
    let watch = explain("watch");
    assert!(watch.starts_with("watch: 4 phases of the day"), "{watch}");
    assert!(
        watch.contains("watch.night     from 21:30") && watch.contains("pane.intensity"),
        "{watch}"
    );
    let sun = explain("sun");
    assert!(sun.contains("sun.rise") && sun.contains("sunlight.aim"), "{sun}");
    assert!(explain("moon").contains("moon.lit"));
    let strike = explain("strike");
    assert!(strike.contains("from `fog_lamp`, with one of \"strike_a\""), "{strike}");
    assert!(explain("last_ferry").contains("a rehearsal of 48 s, from 17:40"));
    assert!(explain("rocket.tint").contains("a value of the event `rocket`"));
    // Names that are in no book are in no explanation.
    for name in ["dark", "gangway.intensity", "sunlight.color", "horn_lamp.intensity"] {
        let told = explain(name);
        for inner in ["docking_", "_weight", "sun.horizon", "sun.moment", "sun.day "] {
            assert!(!told.contains(inner), "{inner} in {told}");
        }
    }
    let gangway = explain("gangway.intensity");
    assert!(gangway.contains("docking     sequence, while it holds this"), "{gangway}");
    let all = explain_all(&folder);
    for name in [
        "watch",
        "sun",
        "moon",
        "echo",
        "strike",
        "fog_lamp.fault",
        "quay.cock",
        "last_ferry",
        "docking",
    ] {
        assert!(
            all.lines().any(|line| line.split_whitespace().nth(1) == Some(name)),
            "{name}\n{all}"
        );
    }
}

fn explain_all(folder: &tempfile::TempDir) -> String {
    let told = caltrin(folder.path()).args(["explain", "pier.caltrin"]).assert().code(0);
    text(&told.get_output().stdout).to_owned()
}

#[test]
fn explain_calls_each_function_by_its_name() {
    let folder = folder();
    let book = "lightbook \"E\"\ncurve c { 0s 20%; 1.3s 90%; 3.1s 20% }\n\
                light a[3] point { color drawn(2200K, 2700K); intensity 5lm * drawn(50%..100%) }\n\
                light b[3] point { color hue(#ff8040, by 20deg * drawn(0..1)); intensity 5lm }\n\
                light d[3] point { intensity 5lm * loop(c, scatter) }\n";
    fs::write(folder.path().join("e.caltrin"), book).unwrap();
    let explain = |name: &str| {
        let told = caltrin(folder.path()).args(["explain", "e.caltrin", name]).assert().code(0);
        text(&told.get_output().stdout).to_owned()
    };
    for name in ["a.color", "a.intensity", "b.color"] {
        let told = explain(name);
        assert!(
            told.contains("drawn  a random value, chosen once") && !told.contains("wave"),
            "{told}"
        );
    }
    let turned = explain("d.intensity");
    assert!(turned.contains("scatter") && !turned.contains("drawn "), "{turned}");
}

#[test]
fn the_notices_of_a_rehearsal_are_printed_with_their_times() {
    let folder = folder();
    let path = folder.path();
    let book = "lightbook \"N\"\nevent ring\nlight bell[3] point { position (1m, 2m, 0m), (1m, 0m, 0m); \
                tags actors, scenery; intensity 5lm * pulse(at ring, lasts 1s) }\n\
                at ring send toll(\"low\") from bell[1]\n\
                rehearsal r { 1.5s ring; 4s ring; 5s expect toll sent 2; 6s end }\n";
    fs::write(path.join("n.caltrin"), book).unwrap();
    let told = caltrin(path).args(["rehearse", "n.caltrin", "--log"]).assert().code(0);
    let said = text(&told.get_output().stdout);
    for moment in ["    1.5 s", "      4 s"] {
        let line = format!("  sent    {moment}  toll \"low\" from bell[1] at (2, 2, 0)");
        assert!(said.contains(&line), "{said}");
    }
    let trace = |more: &[&str]| {
        let told = caltrin(path)
            .args([
                "trace",
                "n.caltrin",
                "--rehearsal",
                "r",
                "--notices",
                "--from",
                "2s",
                "--to",
                "6s",
            ])
            .args(more)
            .assert()
            .code(0);
        text(&told.get_output().stdout)
    };
    assert_eq!(
        trace(&[]),
        "seconds,notice,text,from,lamp,position.x,position.y,position.z\n4,toll,low,bell,1,2,2,0\n"
    );
    let row: serde_json::Value = serde_json::from_str(&trace(&["--format", "jsonl"])).unwrap();
    assert_eq!(row["notice"], "toll");
    assert_eq!(row["position"], serde_json::json!([2.0, 2.0, 0.0]));
    let told = caltrin(path).args(["explain", "n.caltrin", "bell", "--json"]).assert().code(0);
    let told: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(told["tags"], serde_json::json!(["actors", "scenery"]));
}

#[test]
fn rehearsals_in_a_file_of_their_own_are_played_with_their_book() {
    let folder = folder();
    let path = folder.path();
    let quiet = "rehearses \"pier.caltrin\"\n\nrehearsal quiet {\n  1s  expect mast.intensity above 10lm\n  2s  expect mast.intensity above 9klm\n}\n";
    fs::write(path.join("quiet.caltrin"), quiet.replace("9klm", "9000lm")).unwrap();
    let told = caltrin(path).args(["rehearse", "quiet.caltrin", "quiet"]).assert().code(1);
    let said = text(&told.get_output().stdout);
    assert!(said.contains("quiet.caltrin:5: found"), "{said}");
    // The book's own are there too, and so are its lights.
    caltrin(path).args(["rehearse", "quiet.caltrin", "last_ferry"]).assert().code(0);
    caltrin(path).args(["fmt", "--check", "quiet.caltrin"]).assert().code(0);
    let told = caltrin(path)
        .args(["sheet", "quiet.caltrin", "--rehearsal", "quiet", "--light", "mast", "-o", "q.svg"])
        .assert()
        .code(0);
    assert!(text(&told.get_output().stdout).contains("wrote q.svg"));
    for (file, wanted) in [
        ("rehearses \"peer.caltrin\"\n", "peer.caltrin"),
        ("rehearses pier\n", "the book's file in quotes"),
        ("rehearses \"quiet.caltrin\"\n", "is a file of rehearsals, not a book"),
        ("rehearses \"pier.caltrin\"\nevent hit\n", "can contain only rehearsals"),
        ("rehearses \"pier.caltrin\"\nrehearsal last_ferry { 1s end }\n", "duplicate name"),
    ] {
        fs::write(path.join("wrong.caltrin"), file).unwrap();
        let told = caltrin(path).args(["check", "wrong.caltrin"]).assert().code(1);
        let said = text(&told.get_output().stderr);
        assert!(said.contains(wanted) && said.contains("wrong.caltrin:"), "{said}");
    }
}

#[test]
fn a_sound_is_heard_drawn_and_told() {
    let folder = folder();
    let path = folder.path();
    let hear = |args: &[&str]| caltrin(path).arg("hear").args(args).assert().code(0);
    let told = hear(&["sounds/horn.wav", "--colors", "none"]);
    let told = text(&told.get_output().stdout);
    for wanted in [
        "followed",
        "sounds/horn.wav: 5.50 s, 2 onsets",
        "signal horn_level = follow(horn, attack ",
    ] {
        assert!(told.contains(wanted), "{told}");
    }
    assert!(told.contains("// 2 times in the sound"), "{told}");
    // What is suggested is a book.
    let lines: Vec<&str> =
        told.lines().skip_while(|line| *line != "To begin with:").skip(1).collect();
    let book = format!(
        "lightbook \"b\"\n{}\nlight a point {{ intensity 5lm * horn_level * (1 - pulse(at horn_peak, lasts 1s)) * (1 - pulse(at horn_hit, lasts 1s)) }}\n",
        lines.join("\n")
    );
    fs::write(path.join("begun.caltrin"), book).unwrap();
    let checked = caltrin(path).args(["check", "begun.caltrin"]).assert().code(0);
    let checked = text(&checked.get_output().stdout);
    assert!(checked.contains("no errors"), "{checked}");
    let told = hear(&["sounds/carillon.mid", "--json"]);
    let all: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    assert_eq!(all["notes"].as_array().map(Vec::len), Some(32));
    assert_eq!(all["beats"].as_array().map(Vec::len), Some(24));
    assert!(all["suggested"]["attack"].as_f64().is_some_and(|v| v > 0.0));
    for picture in ["a.png", "a.svg", "a.html"] {
        let told = hear(&["sounds/bell_buoy.wav", "-o", picture]);
        assert!(text(&told.get_output().stdout).starts_with(&format!("wrote {picture} (1280 x ")));
        assert!(fs::metadata(path.join(picture)).unwrap().len() > 5_000);
    }
    for (args, wanted) in [
        (&["sounds/hron.wav"][..], "there is no sound `sounds/hron.wav`"),
        (&["pier.caltrin"], "is not a readable sound file"),
        (&["sounds"], "it is a folder"),
        (&["sounds/horn.wav", "-o", "a.txt"], "not a picture file"),
    ] {
        let told = caltrin(path).arg("hear").args(args).assert().code(2);
        let told = text(&told.get_output().stderr);
        assert!(told.contains(wanted), "{told}");
    }
    let told =
        caltrin(path).args(["export", "pier.caltrin", "--to", "c", "-o", "out"]).assert().code(0);
    let told = text(&told.get_output().stdout);
    assert!(
        told.contains("followers of sounds take ") && told.contains(" bytes in each"),
        "{told}"
    );
    let told =
        caltrin(path).args(["hear", "sounds/horn.wav", "-o", "no/such/place.png"]).assert().code(2);
    let told = text(&told.get_output().stderr);
    assert!(
        told.contains("cannot write `no/such/place.png`: No such file")
            && !told.contains(".caltrin-"),
        "{told}"
    );
    let told = caltrin(path).args(["explain", "pier.caltrin", "horn"]).assert().code(0);
    let told = text(&told.get_output().stdout);
    assert!(told.contains("a sound of 5.5 s in `sounds/horn.wav`, with 2 onsets"), "{told}");
    assert!(told.contains("used by   blare"), "{told}");
}

#[test]
fn a_day_shows_what_the_hour_turns_and_names_what_more_than_the_hour_decides() {
    let folder = tempfile::tempdir().unwrap();
    let text = "lightbook \"Eve\"\nclock { day 24min; start 12:00 }\nevent eve at 19:00\nevent morn at 06:00\nevent cut\n\
        switch lit { starts on; on at eve over 2s; off at morn over 2s }\nswitch power { starts on; off at cut }\n\
        light mast point { position (0m, 4m, 0m); intensity 900lm * lit * power }\n";
    fs::write(folder.path().join("eve.caltrin"), text).unwrap();
    let told = caltrin(folder.path())
        .args(["day", "eve.caltrin", "--terminal", "--colors", "none"])
        .assert()
        .code(0);
    let text = String::from_utf8_lossy(&told.get_output().stdout).into_owned();
    let lane: Vec<char> =
        text.lines().find(|line| line.starts_with("mast")).unwrap().chars().collect();
    let head: Vec<char> =
        text.lines().find(|line| line.contains("|00:00")).unwrap().chars().collect();
    let start = head.iter().position(|c| *c == '|').unwrap();
    let at = |hour: f64| lane[start + ((lane.len() - start) as f64 * hour / 24.0) as usize];
    for (hour, is_lit) in
        [(0.5, true), (5.5, true), (6.5, false), (18.5, false), (19.6, true), (23.0, true)]
    {
        assert_eq!(at(hour) != ' ', is_lit, "{hour}\n{text}");
    }
    assert!(text.contains("because they depend on more than the hour: power."), "{text}");
    for (arguments, is_lit) in [
        (&["trace", "eve.caltrin", "--hour", "23:00", "--to", "0s"][..], true),
        (&["trace", "eve.caltrin", "--hour", "12:00", "--to", "0s"][..], false),
    ] {
        let told = caltrin(folder.path()).args(arguments).assert().code(0);
        let text = String::from_utf8_lossy(&told.get_output().stdout).into_owned();
        assert_eq!(text.contains("mast,0,900,"), is_lit, "{text}");
    }
}

#[test]
fn columns_of_a_trace_are_unique_and_in_one_order() {
    let folder = tempfile::tempdir().unwrap();
    let text = "lightbook \"T\"\noutput sky = #8fb4d8\noutput color { r #203040; position (1m, 2m, 3m); level 20% }\n\
        light lamp point { position (0m, 3m, 0m); color 2700K; intensity 90cd }\nlight deck ambient { color #ffffff; intensity 2lx }\n";
    fs::write(folder.path().join("t.caltrin"), text).unwrap();
    let head = |arguments: &[&str]| {
        let told = caltrin(folder.path())
            .args(["trace", "t.caltrin", "--to", "0s"])
            .args(arguments)
            .assert()
            .code(0);
        let text = String::from_utf8_lossy(&told.get_output().stdout).into_owned();
        text.lines().next().unwrap_or_default().split(',').map(str::to_owned).collect::<Vec<_>>()
    };
    let all = head(&[]);
    let mut unique = all.clone();
    unique.sort();
    unique.dedup();
    assert_eq!(unique.len(), all.len(), "{all:?}");
    let wanted = "seconds light lamp intensity color.r color.g color.b position.x position.y position.z \
        output.sky.value.r output.sky.value.g output.sky.value.b output.color.r.r output.color.r.g output.color.r.b \
        output.color.position.x output.color.position.y output.color.position.z output.color.level";
    assert_eq!(all.join(" "), wanted);
    // The order is the book's and the channels', not that of the call.
    assert_eq!(head(&["-l", "deck", "-l", "sky"]), head(&["-l", "sky", "-l", "deck"]));
}

/// Paragraphs of help are as wide as there is room: the next word of no line would have stood on the one before it.
#[test]
fn help_is_wrapped_once() {
    const WIDE: usize = 100;
    let folder = folder();
    let help = |arguments: &[&str]| {
        let told = caltrin(folder.path()).args(arguments).arg("--help").assert().code(0);
        text(&told.get_output().stdout)
    };
    let all = help(&[]);
    let commands = all.lines().skip_while(|line| *line != "Commands:").skip(1);
    let commands = commands.take_while(|line| !line.is_empty());
    // What is not indented further than its name is a command, and not what is said of the one before.
    let commands = commands.filter(|line| line.starts_with("  ") && !line.starts_with("   "));
    let commands: Vec<&str> = commands.filter_map(|line| line.split_whitespace().next()).collect();
    assert!(commands.len() > 15, "{commands:?}");
    for command in commands.into_iter().filter(|command| *command != "help") {
        let said = help(&[command]);
        let lines: Vec<&str> = said.lines().collect();
        for pair in lines.windows(2) {
            let plain = |line: &str| !line.is_empty() && !line.starts_with(' ');
            let first = pair[1].split(' ').next().unwrap_or_default();
            let fits = pair[0].chars().count() + 1 + first.chars().count() <= WIDE;
            assert!(!(plain(pair[0]) && plain(pair[1]) && fits), "{command}: {pair:?}");
        }
    }
}
