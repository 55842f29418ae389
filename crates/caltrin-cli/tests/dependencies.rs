//! What Caltrin is built of: licenses that go with its own, and each crate once as far as can be. Advisories are not
//! looked up here, since that needs a connection.

use std::collections::{BTreeMap, BTreeSet};
use std::process::Command;

use serde_json::Value;

/// Licenses that allow what those of Caltrin allow; MPL-2.0 asks that changes of its own files stay open.
const ALLOWED: [&str; 13] = [
    "0BSD",
    "Apache-2.0",
    "Apache-2.0 WITH LLVM-exception",
    "BSD-2-Clause",
    "BSD-3-Clause",
    "BSL-1.0",
    "CC0-1.0",
    "ISC",
    "MIT",
    "MPL-2.0",
    "Unicode-3.0",
    "Unlicense",
    "Zlib",
];

/// Crates of which two versions are built, because what is used asks for both.
const TWICE: [&str; 26] = [
    "base64",
    "bitflags",
    "cookie",
    "cpufeatures",
    "embedded-io",
    "getrandom",
    "hashbrown",
    "http",
    "icu_collections",
    "icu_provider",
    "litemap",
    "miniz_oxide",
    "r-efi",
    "rand",
    "rand_core",
    "rustc-hash",
    "syn",
    "synstructure",
    "thiserror",
    "thiserror-impl",
    "tinystr",
    "writeable",
    "yoke",
    "yoke-derive",
    "zerovec",
    "zerovec-derive",
];

fn packages() -> Vec<Value> {
    let output = Command::new(env!("CARGO"))
        .args(["metadata", "--format-version", "1", "--locked"])
        .current_dir(env!("CARGO_MANIFEST_DIR"))
        .output()
        .expect("cargo can be run");
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let all: Value = serde_json::from_slice(&output.stdout).expect("it is JSON");
    all["packages"].as_array().expect("there are packages").clone()
}

/// Whether a license expression can be met: one side of each `OR`, both sides of each `AND`.
fn is_allowed(license: &str) -> bool {
    let license = license.trim();
    // Loosest first, outside of brackets.
    for (sign, all) in [(" OR ", false), ("/", false), (" AND ", true)] {
        let (mut depth, mut parts, mut from) = (0, Vec::new(), 0);
        for (at, c) in license.char_indices() {
            depth += i32::from(c == '(') - i32::from(c == ')');
            if depth == 0 && at >= from && license[at..].starts_with(sign) {
                parts.push(&license[from..at]);
                from = at + sign.len();
            }
        }
        parts.push(&license[from..]);
        if parts.len() > 1 {
            let mut parts = parts.into_iter();
            return if all { parts.all(is_allowed) } else { parts.any(is_allowed) };
        }
    }
    match license.strip_prefix('(').and_then(|inner| inner.strip_suffix(')')) {
        Some(inner) => is_allowed(inner),
        None => ALLOWED.contains(&license),
    }
}

#[test]
fn every_license_goes_with_ours() {
    for (license, wanted) in [
        ("MIT OR GPL-3.0", true),
        ("GPL-3.0", false),
        ("MIT AND GPL-3.0", false),
        ("(GPL-3.0 OR MIT) AND Zlib", true),
        ("(GPL-3.0 OR MIT) AND LGPL-3.0", false),
        ("Apache-2.0 / MIT", true),
    ] {
        assert_eq!(is_allowed(license), wanted, "{license}");
    }
    let mut refused = Vec::new();
    for package in packages() {
        let license = package["license"].as_str().unwrap_or("none");
        if !is_allowed(license) {
            refused.push(format!("{} ({license})", package["name"]));
        }
    }
    assert!(refused.is_empty(), "{refused:?}");
}

#[test]
fn no_crate_comes_twice_that_need_not() {
    let mut versions: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for package in packages() {
        let text = |field: &str| package[field].as_str().unwrap_or_default().to_owned();
        versions.entry(text("name")).or_default().insert(text("version"));
    }
    let twice = versions.iter().filter(|(_, versions)| versions.len() > 1);
    let new: Vec<_> = twice.filter(|(name, _)| !TWICE.contains(&name.as_str())).collect();
    assert!(new.is_empty(), "{new:?}");
}
