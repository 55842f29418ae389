//! The words of everything that a person reads: one word for one thing, and none of the words of earlier versions.

use std::fs;
use std::path::{Path, PathBuf};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).ancestors().nth(2).expect("the workspace").into()
}

/// All files under a folder.
fn files(folder: &Path, out: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).expect("a folder") {
        let path = entry.expect("an entry").path();
        let name = path.file_name().expect("a name").to_string_lossy().into_owned();
        match (path.is_dir(), name.as_str()) {
            (true, "target" | "node_modules" | ".git" | "snapshots" | "screenshots") => {}
            (true, _) => files(&path, out),
            (false, _) => out.push(path),
        }
    }
}

/// Words and phrases that stand for something with another name, in lower case.
const PHRASES: [&str; 42] = [
    "mistake",
    "doubts",
    "is at hand",
    "drawn anew",
    "goes round",
    "comes round",
    "placings",
    "put up",
    "to the bit",
    "the same bits",
    "the call was wrong",
    "follows every save",
    "another draw",
    "is no color",
    "is no number",
    "is no light",
    "is no hour",
    "is no behavior",
    "leave the unit away",
    "leave this away",
    "there twice",
    "taken twice",
    "does not take this as well",
    "to and fro",
    "nobody hears",
    "usual value",
    "unless said",
    "the usual ",
    "hears a sound",
    "picked up",
    "behaviour",
    "colour",
    "metre",
    "neighbour",
    "harbour",
    "draught",
    "dim by ",
    "tint by ",
    "full oldest",
    "full ignore",
    "again below",
    "again above",
];

/// Functions of earlier versions.
const CALLS: [&str; 5] = ["shade(", "snap(", "edge(", "one(", "shift("];

/// Names of types of earlier versions.
const TYPES: [&str; 22] = [
    "Draft",
    "Misfit",
    "Checked",
    "Analyst",
    "Surveyor",
    "Tape",
    "Pace",
    "Home",
    "Origin",
    "Origins",
    "Notes",
    "Beside",
    "Ears",
    "Library",
    "Happenings",
    "Happening",
    "Looked",
    "Doing",
    "Written",
    "Spelling",
    "Finish",
    "Placing",
];

/// What a person reads of Rust code: texts, and the doc comments that are help of the command.
fn texts(path: &Path, code: &str) -> String {
    let help = path.components().any(|part| part.as_os_str() == "commands");
    let mut out = String::new();
    let code = code.split("#[cfg(test)]").next().unwrap_or("");
    let mut signs = code.chars().peekable();
    let mut line_start = true;
    while let Some(sign) = signs.next() {
        match sign {
            '/' if signs.peek() == Some(&'/') => {
                let line: String = signs.by_ref().take_while(|c| *c != '\n').collect();
                if help && line_start && line.starts_with("//") {
                    out.push_str(&line);
                }
                out.push('\n');
                line_start = true;
                continue;
            }
            '\'' => {
                // A character, such as `'"'`; a lifetime has no second quote.
                let ahead: Vec<char> = signs.clone().take(3).collect();
                let length = match ahead[..] {
                    ['\\', _, '\''] => 3,
                    [_, '\'', ..] => 2,
                    _ => 0,
                };
                signs.by_ref().take(length).for_each(drop);
            }
            '"' => {
                while let Some(sign) = signs.next() {
                    match sign {
                        '"' => break,
                        '\\' if signs.peek() == Some(&'\n') => {
                            while signs.next_if(|c| c.is_whitespace()).is_some() {}
                        }
                        '\\' => {
                            signs.next();
                            out.push(' ');
                        }
                        sign => out.push(sign),
                    }
                }
                out.push('\n');
            }
            _ => {}
        }
        line_start = sign == '\n' || (line_start && sign.is_whitespace());
    }
    out
}

/// Everything that a person reads, with the file that it comes from.
fn read() -> Vec<(PathBuf, String)> {
    let root = root();
    let mut all = Vec::new();
    for folder in ["crates", "docs", "editors", "examples"] {
        files(&root.join(folder), &mut all);
    }
    all.extend(["README.md", "ARCHITECTURE.md", "CHANGELOG.md"].map(|name| root.join(name)));
    let mut found = Vec::new();
    for path in all {
        let name = path.strip_prefix(&root).expect("within").to_string_lossy().into_owned();
        let ending = path.extension().map_or(String::new(), |e| e.to_string_lossy().into_owned());
        let exported = name.starts_with("examples/");
        let shown = match ending.as_str() {
            "md" | "caltrin" | "html" => true,
            "mjs" => exported || name.contains("src/live"),
            "rs" => exported || name.contains("/src/"),
            "h" | "cs" | "c" => exported,
            _ => false,
        };
        // Those have the old words themselves.
        let old = ["parser/renamed.rs", "lang/src/words.rs", "parser/declare.rs"];
        if !shown || name.contains("/tests/") || old.iter().any(|old| name.ends_with(old)) {
            continue;
        }
        let text = fs::read_to_string(&path).expect("a text");
        let text = if ending == "rs" && !exported { texts(&path, &text) } else { text };
        // The changelog lists the old words in one entry.
        let from = text.find("- Words of earlier drafts").filter(|_| name == "CHANGELOG.md");
        let text = match from {
            Some(from) => {
                let end = text[from + 1..].find("\n- ").map_or(text.len(), |n| from + 1 + n);
                text[..from].to_owned() + &text[end..]
            }
            None => text,
        };
        found.push((PathBuf::from(name), text));
    }
    found
}

#[test]
fn no_text_has_a_word_of_earlier_versions() {
    let mut found = Vec::new();
    let all = read();
    assert!(all.len() > 120, "{} files", all.len());
    for (path, text) in &all {
        for line in text.lines() {
            let lower = line.to_lowercase();
            let inside = |at: usize| {
                lower[..at]
                    .ends_with(|c: char| c.is_alphanumeric() || matches!(c, '_' | '.' | '-' | ':'))
            };
            let phrase = PHRASES.iter().find(|phrase| {
                lower
                    .match_indices(**phrase)
                    .any(|(at, _)| !inside(at) && !lower[..at].ends_with("there "))
            });
            // Code of other languages has functions of its own.
            let book = path.extension().is_some_and(|e| e == "md" || e == "caltrin")
                || path.components().any(|part| part.as_os_str() == "src") && line.contains(' ');
            let call = CALLS
                .iter()
                .find(|call| book && lower.match_indices(**call).any(|(at, _)| !inside(at)));
            if let Some(word) = phrase.or(call) {
                found.push(format!("{}: `{word}` in: {}", path.display(), line.trim()));
            }
        }
    }
    assert!(found.is_empty(), "{} places:\n{}", found.len(), found.join("\n"));
}

#[test]
fn no_type_has_a_name_of_earlier_versions_and_few_names_stand_twice() {
    let mut all = Vec::new();
    files(&root().join("crates"), &mut all);
    let mut count = std::collections::BTreeMap::<String, usize>::new();
    for path in all.iter().filter(|path| path.extension().is_some_and(|e| e == "rs")) {
        if path
            .components()
            .any(|part| part.as_os_str() == "tests" || part.as_os_str() == "benches")
        {
            continue;
        }
        for line in fs::read_to_string(path).expect("a text").lines() {
            let words: Vec<&str> = line.split(|c: char| !c.is_alphanumeric() && c != '_').collect();
            let at = words.iter().position(|word| ["struct", "enum", "trait"].contains(word));
            let name = at.and_then(|at| words.get(at + 1));
            if let Some(name) = name.filter(|_| !line.trim_start().starts_with("//")) {
                assert!(!TYPES.contains(name), "{}: {line}", path.display());
                *count.entry((*name).to_owned()).or_default() += 1;
            }
        }
    }
    for name in ["Line", "Band", "Frame", "Kind", "Scene", "Window", "Shape", "Stop"] {
        let times = count.get(name).copied().unwrap_or(0);
        assert!(times <= 2, "{times} types are called {name}");
    }
}

#[test]
fn texts_of_code_are_found() {
    let code = "/// help\nfn f() { g(\"a \\\"b\\\" c \\\n    d\", '\"', 'x', \"e\"); } // \"no\"\n#[cfg(test)]\n\"test\"";
    assert_eq!(texts(Path::new("src/lib.rs"), code), "\na  b  c d\ne\n\n");
    assert!(texts(Path::new("src/commands/fmt.rs"), code).starts_with("// help\n"));
}
