//! The golden copies of the demo's exported code: what an engineer would merge, kept to be read.

use caltrin::export::{TARGETS, export};

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
    for (name, golden) in GOLDEN {
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
