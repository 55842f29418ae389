//! The manifest: against the program, the exported code, an independent validator of its schema, and runs.

use std::collections::BTreeSet;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command as Tool;

use assert_cmd::Command;
use caltrin::core::program::{LightKind, Size};
use caltrin::core::quantity::Seconds;
use caltrin::core::{Run, ValidatedProgram};
use serde_json::{Value, json};

fn caltrin(folder: &Path) -> Command {
    let mut command = Command::cargo_bin("caltrin").expect("the command is built");
    command.current_dir(folder);
    command
}

fn books() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../caltrin/books")
}

const BOOKS: [&str; 3] = ["pier", "lido", "siding"];

/// A book, and the manifest that the command writes of it.
fn manifest_of(book: &str, folder: &Path) -> (ValidatedProgram, Value) {
    let path = books().join(format!("{book}.caltrin"));
    caltrin(folder).args(["export", "--manifest"]).arg(&path).assert().code(0);
    let files: Vec<PathBuf> = fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).collect();
    let [file] = &files[..] else { panic!("only the manifest is written: {files:?}") };
    assert!(file.to_str().unwrap().ends_with("_manifest.json"), "{file:?}");
    let manifest = serde_json::from_slice(&fs::read(file).unwrap()).unwrap();
    let opened = caltrin::open(&path).expect("the book can be read");
    (opened.checked.expect("the book is good"), manifest)
}

fn strings(all: &Value, key: &str) -> Vec<String> {
    let all = all.as_array().expect("a list").iter();
    all.map(|entry| entry[key].as_str().expect("a text").to_owned()).collect()
}

/// What the validator says of each of some documents: whether they fit the schema. `None` where there is no validator.
fn fit_the_schema(documents: &[Value]) -> Option<Vec<bool>> {
    const CHECKS: &str = "import json, sys, jsonschema\n\
        schema, documents = json.load(open(sys.argv[1])), json.load(open(sys.argv[2]))\n\
        jsonschema.Draft202012Validator.check_schema(schema)\n\
        check = jsonschema.Draft202012Validator(schema)\n\
        print(json.dumps([check.is_valid(document) for document in documents]))\n";
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("documents.json");
    fs::write(&file, serde_json::to_vec(documents).unwrap()).unwrap();
    let schema = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/manifest.schema.json");
    for python in ["/usr/bin/python3", "python3"] {
        let known = Tool::new(python).args(["-c", "import jsonschema"]).output();
        if !known.is_ok_and(|known| known.status.success()) {
            continue;
        }
        let said = Tool::new(python).args(["-c", CHECKS]).arg(&schema).arg(&file).output().unwrap();
        assert!(said.status.success(), "{}", String::from_utf8_lossy(&said.stderr));
        return Some(serde_json::from_slice(&said.stdout).unwrap());
    }
    println!("not validated: python3-jsonschema is missing");
    None
}

#[test]
fn a_manifest_names_and_counts_what_the_program_has() {
    for book in BOOKS {
        let folder = tempfile::tempdir().unwrap();
        let (checked, manifest) = manifest_of(book, folder.path());
        let program = checked.program();
        for (key, outputs) in [("lights", false), ("outputs", true)] {
            let wanted = program.lights().filter(|(_, l)| (l.kind == LightKind::Output) == outputs);
            let wanted: Vec<String> = wanted.map(|(_, light)| light.name.clone()).collect();
            assert_eq!(strings(&manifest[key], "name"), wanted, "{book}");
            for entry in manifest[key].as_array().unwrap() {
                let name = entry["name"].as_str().unwrap();
                let light = program.light(program.light_named(name).unwrap());
                let count = match light.size {
                    Size::One => json!(1),
                    Size::Many(n) => json!(n),
                    Size::Open => Value::Null,
                };
                assert_eq!(entry["count"], count, "{book}: {name}");
                assert_eq!(entry["channels"].as_array().unwrap().len(), light.drives.len());
            }
        }
        let unique: BTreeSet<String> = strings(&manifest["inputs"], "name").into_iter().collect();
        assert_eq!(unique.len(), manifest["inputs"].as_array().unwrap().len());
        // What a save of the exported code has, under the names of the program.
        let saves = &manifest["saves"];
        let all = program.saved_fields();
        assert_eq!(saves["layout"], json!(caltrin::core::save::layout(&all)), "{book}");
        let mut bytes = caltrin::core::save::HEAD;
        for field in saves["fields"].as_array().unwrap() {
            let known = all.iter().find(|known| field["name"] == json!(known.name));
            let known = known.unwrap_or_else(|| panic!("{book}: {field}"));
            assert_eq!((&field["key"], &field["count"]), (&json!(known.key), &json!(known.count)));
            bytes += known.bytes();
        }
        assert_eq!(saves["bytes"], json!(bytes), "{book}");
        for modes in manifest["modes"].as_array().unwrap() {
            assert!(modes["options"].as_array().unwrap().contains(&modes["start"]), "{modes}");
        }
    }
}

#[test]
fn what_a_manifest_names_is_in_the_exported_code() {
    let folder = tempfile::tempdir().unwrap();
    for book in BOOKS {
        let path = books().join(format!("{book}.caltrin"));
        let told = caltrin(folder.path())
            .args([
                "export",
                "--json",
                "--manifest",
                "--to",
                "c",
                "--prefix",
                "p",
                "--force",
                "-o",
                book,
            ])
            .arg(&path)
            .assert()
            .code(0);
        let told: Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
        assert_eq!(strings(&told, "language"), ["c", "manifest"]);
        let read = |n: usize| {
            fs::read_to_string(folder.path().join(told[n]["file"].as_str().unwrap())).unwrap()
        };
        let (code, manifest) = (read(0), serde_json::from_str::<Value>(&read(1)).unwrap());
        let called = |before: &str, name: &str| format!("p_{before}{}(", name.replace('.', "_"));
        for (key, before) in
            [("lights", "read_"), ("outputs", "read_"), ("inputs", "set_"), ("events", "fire_")]
        {
            for name in strings(&manifest[key], "name") {
                let call = called(before, &name);
                assert!(code.contains(&call), "{book}: {call}");
            }
        }
    }
}

#[test]
fn values_of_runs_stay_within_the_bounds_of_the_manifest() {
    for book in BOOKS {
        let folder = tempfile::tempdir().unwrap();
        let (checked, manifest) = manifest_of(book, folder.path());
        let program = checked.program();
        let entries = ["lights", "outputs"].map(|key| manifest[key].as_array().unwrap().clone());
        let mut run = Run::new(&checked);
        let mut first: Vec<Option<Vec<f32>>> = vec![None; program.lights().len()];
        let mut compared = 0;
        for step in 0..40u32 {
            run.advance(Seconds(f64::from(step) * 1.37));
            for entry in entries.iter().flatten() {
                let id = program.light_named(entry["name"].as_str().unwrap()).unwrap();
                let mut lamp = vec![0.0f32; program.light(id).width()];
                run.read(id, 0, &mut lamp);
                let channels = entry["channels"].as_array().unwrap();
                let numbers = |key: &str| -> Vec<f64> {
                    let all = channels.iter().flat_map(|channel| channel[key].as_array().unwrap());
                    all.map(|v| v.as_f64().unwrap()).collect()
                };
                let before = first[id.index()].get_or_insert_with(|| lamp.clone());
                let (least, most) = (numbers("least"), numbers("most"));
                assert_eq!((least.len(), most.len()), (lamp.len(), lamp.len()), "{entry}");
                let changes = channels.iter().flat_map(|channel| {
                    let parts = channel["least"].as_array().unwrap().len();
                    std::iter::repeat_n(channel["changes"].as_str().unwrap(), parts)
                });
                for (n, how) in changes.enumerate() {
                    let v = f64::from(lamp[n]);
                    let slack = 1e-6 * (1.0 + least[n].abs().max(most[n].abs()));
                    assert!(v >= least[n] - slack && v <= most[n] + slack, "{book} {entry}: {v}");
                    assert!(lamp[n] == before[n] || !["never", "run"].contains(&how), "{entry}");
                    compared += 1;
                }
            }
        }
        assert!(compared > 1_000, "{book}: {compared}");
    }
}

#[test]
fn an_independent_validator_takes_every_manifest_and_refuses_others() {
    let folders: Vec<_> = BOOKS.map(|book| (book, tempfile::tempdir().unwrap())).into();
    let mut all: Vec<Value> =
        folders.iter().map(|(book, folder)| manifest_of(book, folder.path()).1).collect();
    let good = all.len();
    // What a reader of this version would be misled by.
    let spoil = |change: &dyn Fn(&mut Value)| {
        let mut other = all[0].clone();
        change(&mut other);
        assert_ne!(other, all[0]);
        other
    };
    let spoiled = [
        spoil(&|m| m["manifest"] = json!(2)),
        spoil(&|m| m["lights"][0]["kind"] = json!("lantern")),
        spoil(&|m| m["lights"][0]["count"] = json!(-1)),
        spoil(&|m| drop(m.as_object_mut().unwrap().remove("events"))),
        spoil(&|m| m["lights"][0]["channels"][0]["changes"] = json!("sometimes")),
        spoil(&|m| m["lights"][0]["colour"] = json!("red")),
        spoil(&|m| m["space"]["up"] = json!("x")),
        spoil(&|m| m["choices"][0]["options"] = json!(["alone"])),
        spoil(&|m| m["saves"]["fields"][0]["key"] = json!(-1)),
        spoil(&|m| m["saves"]["fields"][0]["kind"] = json!("text")),
    ];
    all.extend(spoiled);
    if let Some(fit) = fit_the_schema(&all) {
        let wanted: Vec<bool> = (0..all.len()).map(|n| n < good).collect();
        assert_eq!(fit, wanted);
    }
}

#[test]
fn a_manifest_of_somebody_else_stays() {
    let folder = tempfile::tempdir().unwrap();
    let path = books().join("siding.caltrin");
    let export = || {
        let mut command = caltrin(folder.path());
        command.args(["export", "--manifest"]).arg(&path);
        command
    };
    export().assert().code(0);
    let file = fs::read_dir(folder.path()).unwrap().next().unwrap().unwrap().path();
    let made = fs::read(&file).unwrap();
    // Its own is replaced, and says the same again.
    export().assert().code(0);
    assert_eq!(fs::read(&file).unwrap(), made);
    fs::write(&file, "{\"mine\": true}").unwrap();
    export().assert().code(2);
    assert_eq!(fs::read_to_string(&file).unwrap(), "{\"mine\": true}");
    export().arg("--force").assert().code(0);
    assert_eq!(fs::read(&file).unwrap(), made);
}
