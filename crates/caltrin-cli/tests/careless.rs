//! What can go wrong around the command: files that are not there, places that take nothing, being interrupted, two at
//! once, texts from other systems. Nothing is lost, and each message says what to do.

use std::fs;
use std::path::Path;

use assert_cmd::Command;
use tempfile::TempDir;

const BOOK: &str = "lightbook \"Sluice\"\nseed 3\nlight a[40] point {\n  intensity  5lm * held(50%..100%, every 50ms..90ms)\n}\n";

fn caltrin(folder: &Path) -> Command {
    let mut command = Command::cargo_bin("caltrin").expect("the command is built");
    command.current_dir(folder);
    command
}

fn folder() -> TempDir {
    let folder = tempfile::tempdir().expect("there is room for a folder");
    fs::write(folder.path().join("sluice.caltrin"), BOOK).unwrap();
    folder
}

/// What a call that cannot be carried out says.
fn refused(folder: &Path, arguments: &[&str]) -> String {
    let told = caltrin(folder).args(arguments).assert().code(2);
    String::from_utf8_lossy(&told.get_output().stderr).into_owned()
}

fn names(folder: &Path) -> Vec<String> {
    let entries = folder.read_dir().expect("it is a folder").flatten();
    let mut names: Vec<String> =
        entries.map(|entry| entry.file_name().to_string_lossy().into_owned()).collect();
    names.sort_unstable();
    names
}

#[test]
fn what_cannot_be_read_or_written_is_told_with_what_to_do() {
    let folder = folder();
    let here = folder.path();
    fs::create_dir(here.join("empty")).unwrap();
    fs::write(here.join("noise.wav"), [7u8, 200, 31, 4]).unwrap();
    let used = "lightbook \"Parts\"\ncolor brass = #e0a860\n";
    fs::write(here.join("parts.caltrin"), used).unwrap();
    for (arguments, wanted) in [
        (&["sheet", "slucie.caltrin"][..], "did you mean `sluice.caltrin`?"),
        (&["check", "another_place.caltrin"], "that folder has parts.caltrin, sluice.caltrin"),
        (&["view", "gone/sluice.caltrin"], "there is no folder `gone`"),
        (&["live", "empty/sluice.caltrin"], "start one with `caltrin new"),
        (&["check", "noise.wav"], "`caltrin hear noise.wav` tells what is in a sound"),
        (&["hear", "sluice.caltrin"], "`caltrin check sluice.caltrin` reads a lightbook"),
        (&["sheet", "sluice.caltrin", "-o", "out/a.png"], "no folder `out`: make it first"),
        (&["trace", "sluice.caltrin", "-o", "out/a.csv"], "no folder `out`: make it first"),
        (&["export", "sluice.caltrin", "-o", "sluice.caltrin"], "write to another place"),
        (&["sheet", "parts.caltrin"], "no lights or outputs to draw"),
        (&["place", "sluice.caltrin", "--at", "2s"], "`caltrin place` is now `caltrin view`"),
        (&["view", "parts.caltrin"], "no lights or outputs to draw"),
        (&["new", "Slipway", "-o", "out/slipway.caltrin"], "no folder `out`: make it first"),
    ] {
        let said = refused(here, arguments);
        assert!(said.contains(wanted), "{arguments:?}\n{said}");
        assert!(!said.contains("os error") && said.contains("help"), "{arguments:?}\n{said}");
    }
    let there = ["empty", "noise.wav", "parts.caltrin", "sluice.caltrin"];
    assert_eq!(names(here), there, "nothing was made on the way");
}

/// Whoever may do everything is refused nothing, so this is seen where others run it.
#[cfg(unix)]
#[test]
fn a_folder_that_may_not_be_written_stays_as_it_is() {
    use std::os::unix::fs::PermissionsExt;

    let folder = folder();
    let closed = folder.path().join("closed");
    fs::create_dir(&closed).unwrap();
    fs::write(closed.join("sluice.caltrin"), BOOK).unwrap();
    fs::set_permissions(&closed, fs::Permissions::from_mode(0o555)).unwrap();
    let refuses = fs::write(closed.join("tried"), "").is_err();
    if refuses {
        for arguments in
            [&["sheet", "sluice.caltrin"][..], &["export", "sluice.caltrin"], &["new", "Slip"]]
        {
            let said = refused(&closed, arguments);
            assert!(said.contains("allow writing there"), "{arguments:?}\n{said}");
        }
        caltrin(&closed).args(["check", "sluice.caltrin"]).assert().code(0);
        assert_eq!(names(&closed), ["sluice.caltrin"]);
    }
    fs::set_permissions(&closed, fs::Permissions::from_mode(0o755)).unwrap();
}

/// A disk on which there is no room for all of it: what was there stays whole.
#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_leaves_what_was_there() {
    let folder = folder();
    let here = folder.path();
    caltrin(here).args(["export", "sluice.caltrin", "--to", "c"]).assert().code(0);
    let before = fs::read(here.join("sluice.h")).unwrap();
    fs::write(here.join("sluice.caltrin"), BOOK.replace("5lm", "7lm")).unwrap();
    // A limit on the size of a file stands for the disk: what goes beyond it is refused.
    let program = Command::cargo_bin("caltrin").unwrap().get_program().to_owned();
    let line = "trap '' XFSZ; ulimit -f 4; exec \"$0\" export sluice.caltrin --to c";
    let told = std::process::Command::new("sh")
        .args(["-c", line])
        .arg(program)
        .current_dir(here)
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&told.stderr);
    assert_eq!(told.status.code(), Some(2), "{said}");
    assert!(said.contains("cannot write `./sluice.h`") && said.contains("help"), "{said}");
    assert!(fs::read(here.join("sluice.h")).unwrap() == before);
    assert_eq!(names(here), ["sluice.caltrin", "sluice.h"]);
}

#[cfg(unix)]
#[test]
fn being_interrupted_leaves_all_files_or_none() {
    let folder = folder();
    let here = folder.path();
    let (mut all, mut none) = (0, 0);
    // From at once to after all is done, however fast the machine is.
    for n in 0..60u32 {
        let target = format!("out{n}");
        fs::create_dir(here.join(&target)).unwrap();
        let command = Command::cargo_bin("caltrin").unwrap().get_program().to_owned();
        let started = std::time::Instant::now();
        let mut child = std::process::Command::new(command)
            .args(["export", "sluice.caltrin", "-o", &target])
            .current_dir(here)
            .stdout(std::process::Stdio::null())
            .spawn()
            .unwrap();
        let wait = std::time::Duration::from_micros(u64::from(n) * 400);
        while started.elapsed() < wait {
            std::hint::spin_loop();
        }
        let id = child.id().to_string();
        let _ = std::process::Command::new("kill").args(["-INT", &id]).output();
        child.wait().unwrap();
        match names(&here.join(&target)).len() {
            0 => none += 1,
            4 => all += 1,
            n => panic!("{n} files: {:?}", names(&here.join(&target))),
        }
    }
    assert_eq!(all + none, 60);
}

#[test]
fn two_exports_at_once_leave_whole_files() {
    let folder = folder();
    let here = folder.path();
    let program = Command::cargo_bin("caltrin").unwrap().get_program().to_owned();
    let started: Vec<_> = (0..6)
        .map(|_| {
            std::process::Command::new(&program)
                .args(["export", "sluice.caltrin", "-o", "out"])
                .current_dir(here)
                .stdout(std::process::Stdio::null())
                .spawn()
                .unwrap()
        })
        .collect();
    for mut one in started {
        assert!(one.wait().unwrap().success());
    }
    caltrin(here).args(["export", "sluice.caltrin", "-o", "alone"]).assert().code(0);
    assert_eq!(names(&here.join("out")), names(&here.join("alone")));
    for name in names(&here.join("out")) {
        let of = |folder: &str| fs::read(here.join(folder).join(&name)).unwrap();
        assert!(of("out") == of("alone"), "{name}");
    }
}

#[test]
fn a_book_from_another_system_says_the_same_and_stays_as_it_is() {
    let folder = folder();
    let here = folder.path().join("größe und maß");
    fs::create_dir(&here).unwrap();
    let windows = format!("\u{feff}{}", BOOK.replace('\n', "\r\n"));
    fs::write(here.join("am see.caltrin"), &windows).unwrap();
    fs::write(here.join("plain.caltrin"), BOOK).unwrap();
    for name in ["am see", "plain"] {
        let book = format!("{name}.caltrin");
        caltrin(&here).args(["check", "--strict", &book]).assert().code(0).stderr("");
        caltrin(&here).args(["fmt", "--check", &book]).assert().code(0);
        caltrin(&here).args(["sheet", &book, "-o", &format!("{name}.svg")]).assert().code(0);
        caltrin(&here).args(["export", &book, "--to", "js", "-o", name]).assert().code(0);
    }
    let read = |name: &str| fs::read_to_string(here.join(name)).unwrap();
    assert_eq!(read("am see.svg"), read("plain.svg"));
    let code = |name: &str| read(&format!("{name}/sluice.mjs")).replace("am see", "plain");
    assert_eq!(code("am see"), code("plain"));
    caltrin(&here).args(["fmt", "am see.caltrin"]).assert().code(0);
    assert_eq!(read("am see.caltrin"), windows);
}

#[test]
fn a_mistyped_file_gets_the_nearest_one_in_the_books_folder_and_none_from_elsewhere() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path();
    fs::create_dir(path.join("sounds")).unwrap();
    fs::write(path.join("lamps.caltrin"), "lightbook \"L\"\n").unwrap();
    fs::write(path.join("sounds/bell.wav"), "RIFF").unwrap();
    let elsewhere = tempfile::tempdir().unwrap();
    fs::write(elsewhere.path().join("hidden.caltrin"), "").unwrap();
    #[cfg(unix)]
    std::os::unix::fs::symlink(elsewhere.path(), path.join("out")).unwrap();
    let said = |lines: &str| {
        fs::write(path.join("b.caltrin"), format!("lightbook \"B\"\n{lines}\n")).unwrap();
        let done = caltrin(path).args(["check", "b.caltrin"]).output().unwrap();
        String::from_utf8_lossy(&done.stderr).into_owned()
    };
    let told = said("use \"lamp.caltrin\"");
    assert!(told.contains("did you mean `lamps.caltrin`?"), "{told}");
    let told = said("sound bell = \"sounds/bel.wav\"");
    assert!(told.contains("did you mean `sounds/bell.wav`?"), "{told}");
    for lines in
        ["use \"out/hiden.caltrin\"", "use \"quite_other.caltrin\"", "sound x = \"out/hiden.wav\""]
    {
        let told = said(lines);
        assert!(!told.contains("did you mean") && !told.contains("hidden"), "{told}");
    }
}
