//! How the code is laid out, as ARCHITECTURE.md says: the crates use each other one way only, and so do the
//! modules in each.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().expect("the crates lie in a folder").into()
}

fn sources(folder: &Path, out: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).expect("a folder") {
        let path = entry.expect("an entry").path();
        if path.is_dir() {
            sources(&path, out);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            out.push(path);
        }
    }
}

/// The first part of a path in the crate: the module at its top.
fn module(path: &Path) -> String {
    let first = path.components().next().expect("a part").as_os_str().to_string_lossy();
    first.trim_end_matches(".rs").to_owned()
}

/// The modules that stand after `crate::` in a text, in `use` lists too. Comments do not count.
fn uses(text: &str) -> BTreeSet<String> {
    let code: String =
        text.lines().map(|line| line.split("//").next().unwrap_or("").to_owned() + "\n").collect();
    let name = |text: &str| {
        text.trim_start()
            .chars()
            .take_while(|c| c.is_ascii_lowercase() || *c == '_')
            .collect::<String>()
    };
    let mut found = BTreeSet::new();
    for (at, start) in code.match_indices("crate::") {
        let outside = code[..at].ends_with(|c: char| c.is_alphanumeric() || c == '_' || c == '$');
        let rest = &code[at + start.len()..];
        let Some(list) = rest.strip_prefix('{') else {
            found.extend(Some(name(rest)).filter(|_| !outside));
            continue;
        };
        let (mut depth, mut item) = (0u32, String::new());
        for sign in list.chars() {
            match sign {
                '{' => depth += 1,
                '}' if depth == 0 => break,
                '}' => depth -= 1,
                ',' if depth == 0 => found.extend(Some(name(&std::mem::take(&mut item)))),
                _ if depth == 0 => item.push(sign),
                _ => {}
            }
        }
        found.insert(name(&item));
    }
    found
}

/// What each module at the top of a crate uses of the others.
fn graph(source: &Path) -> BTreeMap<String, BTreeSet<String>> {
    let mut files = Vec::new();
    sources(source, &mut files);
    let mut graph: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for file in &files {
        let own = module(file.strip_prefix(source).expect("it lies in there"));
        let text = fs::read_to_string(file).expect("text");
        graph.entry(own).or_default().extend(uses(&text));
    }
    let known: BTreeSet<String> = graph.keys().cloned().collect();
    for (own, used) in &mut graph {
        used.retain(|other| known.contains(other) && other != own);
    }
    graph
}

/// A way from a module back to itself, if there is one.
fn round_trip(graph: &BTreeMap<String, BTreeSet<String>>) -> Option<Vec<String>> {
    let mut done = BTreeSet::new();
    fn walk(
        graph: &BTreeMap<String, BTreeSet<String>>,
        at: &str,
        way: &mut Vec<String>,
        done: &mut BTreeSet<String>,
    ) -> bool {
        if let Some(start) = way.iter().position(|passed| passed == at) {
            way.drain(..start);
            return true;
        }
        if done.contains(at) {
            return false;
        }
        way.push(at.to_owned());
        if graph[at].iter().any(|next| walk(graph, next, way, done)) {
            return true;
        }
        way.pop();
        done.insert(at.to_owned());
        false
    }
    let mut way = Vec::new();
    graph.keys().any(|start| walk(graph, start, &mut way, &mut done)).then_some(way)
}

#[test]
fn each_crate_uses_only_those_that_the_map_says() {
    let map = fs::read_to_string(crates().join("../ARCHITECTURE.md")).expect("the map");
    let mut rows = 0;
    for row in map.lines().filter(|line| line.starts_with("| `caltrin")) {
        let cells: Vec<&str> = row.split('|').map(str::trim).collect();
        let (name, wanted) = (cells[1].trim_matches('`'), cells[3]);
        let manifest = fs::read_to_string(crates().join(name).join("Cargo.toml")).expect("a crate");
        let own = manifest.split("[dependencies]").nth(1).unwrap_or("");
        let own = own.split("\n[").next().unwrap_or("");
        let used: BTreeSet<&str> = own
            .lines()
            .filter_map(|line| line.split(['.', '=', ' ']).next())
            .filter(|used| used.starts_with("caltrin"))
            .collect();
        let all =
            ["caltrin-core", "caltrin-lang", "caltrin-check", "caltrin-draw", "caltrin-export"];
        let wanted: BTreeSet<&str> = match wanted {
            "-" => BTreeSet::new(),
            "all above" => all.into(),
            some => some
                .split(", ")
                .map(|short| {
                    let long =
                        all.into_iter().find(|name| name.strip_prefix("caltrin-") == Some(short));
                    long.unwrap_or(short)
                })
                .collect(),
        };
        assert_eq!(used, wanted, "{name}");
        rows += 1;
    }
    assert_eq!(rows, fs::read_dir(crates()).expect("crates").count(), "every crate is on the map");
}

#[test]
fn no_module_reaches_back() {
    for entry in fs::read_dir(crates()).expect("crates") {
        let source = entry.expect("a crate").path().join("src");
        let graph = graph(&source);
        assert!(!graph.is_empty(), "{} has modules", source.display());
        if let Some(way) = round_trip(&graph) {
            panic!("{}: {} -> {}", source.display(), way.join(" -> "), way[0]);
        }
    }
}

#[test]
fn a_way_back_is_found() {
    let of = |all: &[(&str, &[&str])]| {
        let each = all.iter().map(|(own, used)| {
            (own.to_string(), used.iter().map(|used| used.to_string()).collect())
        });
        each.collect::<BTreeMap<String, BTreeSet<String>>>()
    };
    let one_way = of(&[("a", &["b", "c"]), ("b", &["c"]), ("c", &[])]);
    assert_eq!(round_trip(&one_way), None);
    let back = of(&[("a", &["b"]), ("b", &["c"]), ("c", &["b"])]);
    assert_eq!(round_trip(&back), Some(vec!["b".to_owned(), "c".to_owned()]));
    let text =
        "use crate::{one::Of, two, three::{self, four}};\nlet x = crate::five::f(); // crate::six";
    let found: Vec<String> = uses(text).into_iter().collect();
    assert_eq!(found, ["five", "one", "three", "two"]);
}
