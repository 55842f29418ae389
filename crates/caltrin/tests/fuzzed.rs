//! Replays past findings of the fuzzer, and runs its targets on the books and sounds of the tree.

#[path = "../../../fuzz/src/targets.rs"]
mod targets;

use std::fs;
use std::path::{Path, PathBuf};

/// The files of a folder with their bytes, by path.
fn files(folder: &Path) -> Vec<(PathBuf, Vec<u8>)> {
    let found = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let mut files: Vec<PathBuf> = found
        .filter(|path| path.is_file() && path.file_name().is_some_and(|name| name != ".keep"))
        .collect();
    files.sort();
    files.into_iter().map(|path| (path.clone(), fs::read(path).unwrap())).collect()
}

#[test]
fn what_was_found_once_is_not_found_again() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../fuzz/found");
    for (name, target) in targets::ALL {
        for (file, bytes) in files(&root.join(name)) {
            println!("{name}: {}", file.display());
            target(&bytes);
        }
    }
}

#[test]
fn every_target_takes_the_books_and_the_sounds_of_the_tree() {
    let crates = Path::new(env!("CARGO_MANIFEST_DIR")).join("..");
    let mut tried = 0;
    for folder in ["caltrin/books", "caltrin/books/sounds", "caltrin/tests/sounds"] {
        for (file, bytes) in files(&crates.join(folder)) {
            let is_book = file.extension().is_some_and(|ending| ending == "caltrin");
            for (name, target) in targets::ALL {
                println!("{name}: {}", file.display());
                match name {
                    "text" | "format" if is_book => target(&bytes),
                    "sounds" if !is_book => target(&bytes[..bytes.len().min(40_000)]),
                    // Any bytes are valid choices.
                    "books" | "runs" => target(&bytes[..bytes.len().min(300)]),
                    _ => continue,
                }
                tried += 1;
            }
        }
    }
    assert!(tried > 50, "only {tried} tried");
}
