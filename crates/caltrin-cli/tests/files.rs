//! What the command writes and what it never writes over; and what is left when a write fails or the command is killed
//! at any of its steps, which strace sees to.

use std::collections::BTreeMap;
use std::fs;
use std::path::Path;
use std::process::Output;

use assert_cmd::Command;
use tempfile::TempDir;

/// What a folder holds, by name.
type Files = BTreeMap<String, Vec<u8>>;

const BOOK: &str = "lightbook \"Sluice\"\nseed 3\nlight a[4] point {\n  intensity  5lm * held(50%..100%, every 50ms..90ms)\n}\n";
/// The same, not laid out evenly, with something else to export.
const OTHER: &str = "lightbook \"Sluice\"\nseed 4\nlight a[4] point {\n intensity 6lm\n}\n";

fn caltrin(folder: &Path) -> Command {
    let mut command = Command::cargo_bin("caltrin").expect("the command is built");
    command.current_dir(folder);
    command
}

fn folder(books: &[(&str, &str)]) -> TempDir {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    for (name, text) in books {
        fs::write(folder.path().join(name), text).unwrap();
    }
    folder
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

/// Every file of a folder with what it holds, hidden ones too.
fn all(folder: &Path) -> Files {
    let Ok(entries) = folder.read_dir() else { return BTreeMap::new() };
    let files = entries.flatten().map(|entry| {
        let name = entry.file_name().to_string_lossy().into_owned();
        (name, fs::read(entry.path()).unwrap_or_default())
    });
    files.collect()
}

/// All files of a folder and its subfolders with their contents, except hidden ones.
fn tree(folder: &Path) -> Files {
    let mut files = Files::new();
    for entry in folder.read_dir().into_iter().flatten().flatten() {
        let name = entry.file_name().to_string_lossy().into_owned();
        if name.starts_with('.') {
            continue;
        }
        if entry.path().is_dir() {
            let within = tree(&entry.path()).into_iter();
            files.extend(within.map(|(file, bytes)| (format!("{name}/{file}"), bytes)));
        } else {
            files.insert(name, fs::read(entry.path()).unwrap());
        }
    }
    files
}

#[test]
fn no_picture_replaces_a_book_or_a_sound() {
    let sound = "lightbook \"Quay\"\nsound horn = \"horn.png\"\nlight a point { intensity 1lm * follow(horn) }\n";
    let folder = folder(&[
        ("s.svg", BOOK),
        ("s2.png", BOOK),
        ("b.caltrin", BOOK),
        ("c.caltrin", "lightbook \"C\"\nuse \"parts.svg\"\nlight a point { intensity bright }\n"),
        ("parts.svg", "lightbook \"Parts\"\nvalue bright = 10lm\n"),
        ("d.caltrin", sound),
        ("mine.html", "my own page"),
        ("b.svg", "a drawing of mine"),
        ("b-view.png", "a photograph"),
    ]);
    let here = folder.path();
    let horn = caltrin::SOUNDS.iter().find(|(name, _)| name.ends_with("horn.wav")).unwrap().1;
    fs::write(here.join("horn.png"), horn).unwrap();
    let before = all(here);
    for (arguments, wanted) in [
        (&["sheet", "s.svg"][..], "`s.svg` is an input of this command"),
        (&["sheet", "s2.png", "-o", "s2.png"], "`s2.png` is an input of this command"),
        (&["sheet", "b.caltrin", "-o", "s.svg"], "`s.svg` is a lightbook"),
        (&["sheet", "c.caltrin", "-o", "parts.svg"], "`parts.svg` is an input of this command"),
        (&["view", "d.caltrin", "-o", "horn.png"], "`horn.png` is an input of this command"),
        (&["hear", "horn.png", "-o", "horn.png"], "`horn.png` is an input of this command"),
        (
            &["trace", "b.caltrin", "--format", "csv", "-o", "b.caltrin"],
            "`b.caltrin` is an input of this command",
        ),
        (&["compare", "b.caltrin", "s2.png", "-o", "s2.png"], "is an input of this command"),
        (&["sheet", "b.caltrin"], "`-o b.svg` replaces it"),
        (&["view", "b.caltrin"], "`-o b-view.png` replaces it"),
    ] {
        let output = caltrin(here).args(arguments).assert().code(2).get_output().clone();
        assert!(said(&output).contains(wanted), "{arguments:?}: {}", said(&output));
        assert!(all(here) == before, "{arguments:?} changed a file");
    }
    // What the user names is replaced, and what was drawn before is drawn again.
    caltrin(here).args(["sheet", "b.caltrin", "-o", "mine.html"]).assert().success();
    caltrin(here).args(["sheet", "b.caltrin", "-o", "b.svg"]).assert().success();
    for _ in 0..2 {
        caltrin(here).args(["sheet", "b.caltrin"]).assert().success();
    }
    assert!(fs::read_to_string(here.join("mine.html")).unwrap().starts_with("<!doctype html>"));
}

#[test]
fn books_are_laid_out_one_by_one() {
    let folder =
        folder(&[("a.caltrin", OTHER), ("b.caltrin", OTHER), ("c.caltrin", "lightbook \"C\" {")]);
    let here = folder.path();
    let mut fmt = caltrin(here);
    fmt.args(["fmt", "a.caltrin", "gone.caltrin", "c.caltrin", "b.caltrin"]);
    let output = fmt.assert().code(2).get_output().clone();
    assert!(said(&output).contains("cannot read `gone.caltrin`"), "{}", said(&output));
    for name in ["a.caltrin", "b.caltrin"] {
        assert!(
            fs::read_to_string(here.join(name)).unwrap().contains("\n  intensity  6lm"),
            "{name}"
        );
    }
}

#[cfg(unix)]
#[test]
fn laying_out_keeps_rights_and_links() {
    use std::os::unix::fs::{PermissionsExt, symlink};
    let folder = folder(&[("real.caltrin", OTHER), ("fixed.caltrin", OTHER)]);
    let here = folder.path();
    let mode = |name: &str| fs::metadata(here.join(name)).unwrap().permissions().mode() & 0o777;
    symlink("real.caltrin", here.join("link.caltrin")).unwrap();
    fs::set_permissions(here.join("real.caltrin"), PermissionsExt::from_mode(0o600)).unwrap();
    fs::set_permissions(here.join("fixed.caltrin"), PermissionsExt::from_mode(0o444)).unwrap();
    caltrin(here).args(["fmt", "link.caltrin"]).assert().success();
    assert!(fs::symlink_metadata(here.join("link.caltrin")).unwrap().is_symlink());
    assert_eq!(mode("real.caltrin"), 0o600);
    assert!(fs::read_to_string(here.join("real.caltrin")).unwrap().contains("\n  intensity"));
    let output = caltrin(here).args(["fmt", "fixed.caltrin"]).assert().code(2).get_output().clone();
    assert!(said(&output).contains("is read-only"), "{}", said(&output));
    assert_eq!(fs::read_to_string(here.join("fixed.caltrin")).unwrap(), OTHER);
}

#[cfg(unix)]
#[test]
fn names_that_hide_something_are_shown_without_it() {
    let name = "a\u{1b}[31mred\u{202e}txt.caltrin";
    let folder = folder(&[(name, BOOK)]);
    for arguments in [&["sheet", name][..], &["check", name], &["fmt", name, "gone\u{7}.caltrin"]] {
        let output = caltrin(folder.path()).args(arguments).output().unwrap();
        let told = format!("{}{}", said(&output), String::from_utf8_lossy(&output.stdout));
        let hidden = |c: char| matches!(c, '\u{1b}' | '\u{7}' | '\u{202e}');
        assert!(!told.contains(hidden) && told.contains('\u{fffd}'), "{arguments:?}: {told:?}");
    }
    // A book that hides something in a title, a text and a comment.
    let book = "lightbook \"Quay \u{202e}east\"\n// see \u{2066}here\nlight a point { intensity 1lm }\nlight b point { intensity 1lx }\n";
    fs::write(folder.path().join("b.caltrin"), book).unwrap();
    let output = caltrin(folder.path()).args(["check", "b.caltrin"]).output().unwrap();
    assert!(!said(&output).contains(['\u{202e}', '\u{2066}']), "{}", said(&output));
}

/// Runs the command with one of its system calls disturbed.
fn disturbed(folder: &Path, how: &str, arguments: &[&str]) -> Output {
    disturbed_with(folder, how, arguments, "")
}

/// The same with an environment variable, `NAME=VALUE`.
fn disturbed_with(folder: &Path, how: &str, arguments: &[&str], variable: &str) -> Output {
    let mut command = std::process::Command::new("strace");
    command.args(["-f", "-qq", "-o", "/dev/null", "-e", how]);
    if !variable.is_empty() {
        command.args(["-E", variable]);
    }
    command.arg(env!("CARGO_BIN_EXE_caltrin")).args(arguments).current_dir(folder);
    command.output().expect("strace can be run")
}

/// Ways to be killed: at the first, second, and so on of each of these calls.
fn kills() -> impl Iterator<Item = String> {
    let nth = |call: &'static str| {
        (1..=12).map(move |nth| format!("inject={call}:signal=SIGKILL:when={nth}"))
    };
    STEPS.into_iter().flat_map(nth)
}

fn has_strace() -> bool {
    let ran = std::process::Command::new("strace").args(["-o", "/dev/null", "true"]).output();
    let there = ran.is_ok_and(|output| output.status.success());
    if !there {
        println!("strace is missing here, so nothing was disturbed");
    }
    there
}

/// The system calls that change files, or let them appear.
const STEPS: [&str; 7] = ["write", "fsync", "rename", "renameat2", "mkdir", "openat", "unlinkat"];
const EXPORT: [&str; 5] = ["export", "sluice.caltrin", "-o", "code", "--force"];

/// A folder with a changed book beside the code of the old one, and the code that it is to have.
fn between() -> (TempDir, Files, Files) {
    let folder = folder(&[("sluice.caltrin", BOOK)]);
    let code = folder.path().join("code");
    caltrin(folder.path()).args(EXPORT).assert().success();
    let old = all(&code);
    fs::write(folder.path().join("sluice.caltrin"), OTHER).unwrap();
    caltrin(folder.path()).args(EXPORT).assert().success();
    let new = all(&code);
    (folder, old, new)
}

fn put_back(code: &Path, files: &Files) {
    let _ = fs::remove_dir_all(code);
    fs::create_dir(code).unwrap();
    for (name, bytes) in files {
        fs::write(code.join(name), bytes).unwrap();
    }
}

#[test]
fn a_refused_step_changes_no_file() {
    if !has_strace() {
        return;
    }
    let (folder, old, new) = between();
    let code = folder.path().join("code");
    let mut failed = 0;
    for (call, cause) in [
        ("write", "ENOSPC"),
        ("fsync", "EIO"),
        ("renameat2", "EACCES"),
        ("renameat2", "ENOSYS"),
        ("mkdir", "EROFS"),
    ] {
        for nth in 1..40 {
            put_back(&code, &old);
            let output = disturbed(
                folder.path(),
                &format!("inject={call}:error={cause}:when={nth}"),
                &EXPORT,
            );
            let found = all(&code);
            let is_whole = found == old || found == new;
            assert!(is_whole, "{call} {nth}: {:?} {}", found.keys(), said(&output));
            match output.status.code() {
                Some(0) => assert!(found == new, "{call} {nth}: it said that all was well"),
                _ => failed += 1,
            }
            // It came no further.
            if output.status.success() && nth > 12 {
                break;
            }
        }
    }
    assert!(failed > 10, "only {failed} calls failed");
}

#[test]
fn a_killed_export_leaves_whole_files_and_the_next_one_tells() {
    if !has_strace() {
        return;
    }
    let (folder, old, new) = between();
    let code = folder.path().join("code");
    let (mut killed, mut mixed) = (0, 0);
    for how in kills() {
        put_back(&code, &old);
        let ended = disturbed(folder.path(), &how, &EXPORT).status;
        let mut news = 0;
        for (name, bytes) in &old {
            let found = fs::read(code.join(name)).unwrap();
            assert!(found == *bytes || found == new[name], "{how}: half of {name}");
            news += usize::from(found != *bytes);
        }
        killed += u32::from(!ended.success());
        let again = caltrin(folder.path()).args(EXPORT).assert().success().get_output().clone();
        let told = said(&again).contains("was interrupted while writing to `code`");
        let is_mixture = news > 0 && news < old.len();
        mixed += u32::from(is_mixture);
        assert_eq!(told, is_mixture, "{how}, {news} new: {}", said(&again));
    }
    assert!(killed > 20 && mixed >= 2, "{killed} killed, {mixed} mixtures");
    // A folder that was made and no more stays for a minute; all others are gone.
    let left = all(&code).into_keys().filter(|name| name.starts_with('.')).count();
    assert!(left <= 1, "{left} folders are left");
}

#[test]
fn a_killed_layout_leaves_one_of_both_texts() {
    if !has_strace() {
        return;
    }
    let folder = folder(&[("sluice.caltrin", OTHER)]);
    let book = folder.path().join("sluice.caltrin");
    let even = caltrin::lang::format(OTHER).unwrap();
    let mut killed = 0;
    for how in kills() {
        fs::write(&book, OTHER).unwrap();
        let done = disturbed(folder.path(), &how, &["fmt", "sluice.caltrin"]).status.success();
        let found = fs::read_to_string(&book).unwrap();
        assert!(found == OTHER || found == even, "{how}: {found}");
        killed += u32::from(!done);
    }
    assert!(killed > 5, "{killed} killed");
}

#[test]
fn a_killed_drawing_leaves_one_of_both_pictures() {
    if !has_strace() {
        return;
    }
    let folder = folder(&[("sluice.caltrin", BOOK)]);
    let here = folder.path();
    for picture in ["s.svg", "s.png"] {
        let draw = ["sheet", "sluice.caltrin", "-o", picture, "--to", "1s"];
        let pictures = [BOOK, OTHER].map(|book| {
            fs::write(here.join("sluice.caltrin"), book).unwrap();
            caltrin(here).args(draw).assert().success();
            fs::read(here.join(picture)).unwrap()
        });
        assert!(pictures[0] != pictures[1]);
        let mut killed = 0;
        for how in kills().step_by(2) {
            fs::write(here.join(picture), &pictures[0]).unwrap();
            let done = disturbed(here, &how, &draw).status.success();
            let found = fs::read(here.join(picture)).unwrap();
            assert!(pictures.contains(&found), "{how}: {} bytes", found.len());
            assert!(!done || found == pictures[1], "{how}: it said that all was well");
            killed += u32::from(!done);
        }
        assert!(killed > 5, "{killed} killed");
    }
}

/// Wherever the demo is killed, all files are complete, and the next call creates the rest.
#[test]
fn a_killed_demonstration_is_made_whole_by_the_next() {
    if !has_strace() {
        return;
    }
    let folder = folder(&[]);
    let here = folder.path();
    // No compiler is found, so nothing is proved.
    let demo = |to: &str| {
        let mut command = caltrin(here);
        command.env("PATH", "").args(["demo", "-o", to]).assert().success();
        tree(&here.join(to))
    };
    let wanted = demo("wanted");
    assert!(wanted.len() > 10, "{:?}", wanted.keys());
    let mut killed = 0;
    for (call, all_nth) in [
        ("write", &[1, 9, 17][..]),
        ("renameat2", &[1, 7, 12]),
        ("mkdir", &[1, 4]),
        ("fsync", &[2, 12]),
    ] {
        for nth in all_nth {
            let _ = fs::remove_dir_all(here.join("found"));
            let how = format!("inject={call}:signal=SIGKILL:when={nth}");
            let ended = disturbed_with(here, &how, &["demo", "-o", "found"], "PATH=");
            killed += u32::from(!ended.status.success());
            for (name, bytes) in tree(&here.join("found")) {
                assert!(wanted.get(&name) == Some(&bytes), "{how}: half of {name}");
            }
            assert!(demo("found") == wanted, "{how}");
        }
    }
    assert!(killed > 5, "{killed} killed");
}

/// A cache that is killed while it is written gives the next call the same as none.
#[test]
fn a_killed_cache_changes_nothing_that_is_heard() {
    if !has_strace() {
        return;
    }
    let book = "lightbook \"Horn\"\nsound horn = \"horn.wav\"\nlight a point { intensity 1lm * follow(horn) }\n";
    let folder = folder(&[("horn.caltrin", book)]);
    let here = folder.path();
    let horn = caltrin::SOUNDS.iter().find(|(name, _)| name.ends_with("horn.wav")).unwrap().1;
    fs::write(here.join("horn.wav"), horn).unwrap();
    let cache = here.join("cache");
    let export = |to: &str| {
        let mut command = caltrin(here);
        command.env("XDG_CACHE_HOME", &cache);
        command.args(["export", "horn.caltrin", "--to", "c", "--force", "-o", to]);
        command.assert().success();
        all(&here.join(to))
    };
    let wanted = export("wanted");
    assert!(!all(&cache.join("caltrin/heard")).is_empty(), "something is kept");
    let mut killed = 0;
    for how in kills() {
        let _ = fs::remove_dir_all(&cache);
        let variable = format!("XDG_CACHE_HOME={}", cache.display());
        let ended = disturbed_with(here, &how, &["check", "horn.caltrin"], &variable);
        killed += u32::from(!ended.status.success());
        // Whatever was kept is read back here.
        assert!(export("found") == wanted, "{how}");
    }
    assert!(killed > 15, "{killed} killed");
}

#[test]
fn two_exports_at_once_leave_whole_files() {
    let (folder, _, new) = between();
    let start = || {
        std::process::Command::new(env!("CARGO_BIN_EXE_caltrin"))
            .args(EXPORT)
            .current_dir(folder.path())
            .output()
    };
    for _ in 0..8 {
        std::thread::scope(|scope| {
            let both = [scope.spawn(start), scope.spawn(start)];
            for one in both {
                let output = one.join().unwrap().unwrap();
                assert!(output.status.success(), "{}", said(&output));
                assert!(said(&output).is_empty(), "{}", said(&output));
            }
        });
        assert!(all(&folder.path().join("code")) == new);
    }
}
