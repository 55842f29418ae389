//! Writing files: what is replaced, what never, and what happens with links, pipes, rights and other names.

use std::fs;
use std::io;
use std::path::{Path, PathBuf};

use caltrin::core::MADE;
use caltrin::files::{self, Inputs, Output, PutError, Replaces, put, put_exported};
use tempfile::TempDir;

const BOOK: &str = "// A place.\nlightbook \"Slipway\"\nlight a point { intensity 1lm }\n";

fn folder() -> TempDir {
    tempfile::tempdir().unwrap()
}

fn wrote(path: &Path, replaces: Replaces<'_>) -> Result<(), PutError> {
    let output = Output { path, bytes: b"new", replaces };
    put(&[output], &Inputs::default()).map(|_| ())
}

fn held(path: &Path) -> String {
    fs::read_to_string(path).unwrap()
}

/// What lies in a folder, hidden files too.
fn names(folder: &Path) -> Vec<String> {
    let entries = fs::read_dir(folder).unwrap().flatten();
    let mut names: Vec<String> =
        entries.map(|entry| entry.file_name().to_string_lossy().into_owned()).collect();
    names.sort();
    names
}

#[test]
fn inputs_and_lightbooks_are_never_replaced() {
    let folder = folder();
    let at = |name: &str| folder.path().join(name);
    for (name, text) in [
        ("a.svg", BOOK),
        ("b.png", "\u{feff}lightbook \"B\"\n"),
        ("c.caltrin", "broken {"),
        ("D.CALTRIN", ""),
    ] {
        fs::write(at(name), text).unwrap();
        for replaces in [Replaces::Any, Replaces::Made] {
            let refused = wrote(&at(name), replaces).unwrap_err();
            assert!(matches!(refused, PutError::Lightbook(_)), "{name}: {refused}");
        }
        assert_eq!(held(&at(name)), text, "{name}");
    }
    // What is not a lightbook, though it speaks of one.
    fs::write(at("notes.svg"), "// lightbook \"A\"\nsomething else").unwrap();
    wrote(&at("notes.svg"), Replaces::Any).unwrap();
    // By whatever way it is reached.
    fs::write(at("horn.wav"), "sound").unwrap();
    let inputs = Inputs::new([at("horn.wav"), at("not there")]);
    let mut ways = vec![at("horn.wav"), folder.path().join(".").join("horn.wav")];
    #[cfg(unix)]
    {
        std::os::unix::fs::symlink("horn.wav", at("link.png")).unwrap();
        fs::hard_link(at("horn.wav"), at("other.png")).unwrap();
        ways.extend([at("link.png"), at("other.png")]);
    }
    for way in ways {
        let output = Output { path: &way, bytes: b"new", replaces: Replaces::Any };
        let refused = put(&[output], &inputs).unwrap_err();
        assert!(matches!(refused, PutError::Input(_)), "{}: {refused}", way.display());
        assert_eq!(held(&at("horn.wav")), "sound");
    }
}

#[test]
fn a_name_of_our_own_replaces_only_what_was_made_here() {
    let folder = folder();
    let path = folder.path().join("a.svg");
    wrote(&path, Replaces::Made).unwrap();
    let refused = wrote(&path, Replaces::Made).unwrap_err();
    assert!(matches!(refused, PutError::Foreign(_)), "{refused}");
    wrote(&path, Replaces::Any).unwrap();
    fs::write(&path, format!("<svg><!-- {MADE} --></svg>")).unwrap();
    wrote(&path, Replaces::Made).unwrap();
    assert_eq!(held(&path), "new");
    assert!(matches!(wrote(&path, Replaces::Nothing), Err(PutError::Exists(_))));
    assert_eq!(names(folder.path()), ["a.svg"]);
}

/// Everything that Caltrin draws and exports has the mark.
#[test]
fn what_is_made_says_so() {
    use caltrin::draw::{SheetOptions, html, png, sheet, svg};
    let opened = caltrin::read(BOOK, "slipway.caltrin");
    let checked = opened.checked.unwrap();
    let picture = sheet(&checked, &[], &SheetOptions::default());
    let mut made =
        vec![svg(&picture).into_bytes(), html(&picture).into_bytes(), png(&picture).unwrap()];
    let targets = caltrin::export::TARGETS.iter();
    made.extend(
        targets.map(|to| caltrin::export::export(&checked, &opened.notes, *to).text.into_bytes()),
    );
    for bytes in made {
        let head = String::from_utf8_lossy(&bytes[..bytes.len().min(4096)]).into_owned();
        assert!(head.contains(MADE), "{head}");
    }
}

#[test]
fn all_are_written_or_none() {
    let opened = caltrin::read(BOOK, "slipway.caltrin");
    let checked = opened.checked.unwrap();
    let export = |name: &str| {
        let target = caltrin::export::target_named(name).unwrap();
        caltrin::export::export(&checked, &opened.notes, target)
    };
    let files = [export("rust"), export("c")];
    let folder = folder();
    let code = folder.path().join("deep/code");
    let header = code.join("slipway.h");
    fs::create_dir_all(&code).unwrap();
    fs::write(&header, "/* mine */").unwrap();
    let none = Inputs::default();
    let refused = put_exported(&code, &files, &none, false).unwrap_err();
    assert!(matches!(refused, PutError::Foreign(_)), "{refused}");
    assert_eq!(held(&header), "/* mine */");
    assert_eq!(names(&code), ["slipway.h"]);
    put_exported(&code, &files, &none, true).unwrap();
    put_exported(&code, &files, &none, false).unwrap();
    assert_eq!(held(&header), files[1].text);
    assert_eq!(names(&code), ["slipway.h", "slipway.rs"]);
    // A folder in the way of one.
    let other = folder.path().join("other");
    fs::create_dir_all(other.join("slipway.h")).unwrap();
    let refused = put_exported(&other, &files, &none, true).unwrap_err();
    assert!(matches!(refused, PutError::Io { .. }), "{refused}");
    assert_eq!(names(&other), ["slipway.h"]);
}

#[test]
fn a_text_that_was_saved_meanwhile_stays() {
    let folder = folder();
    let path = folder.path().join("a.caltrin");
    for text in ["old", "old and longer", "ol", ""] {
        fs::write(&path, text).unwrap();
        let written = wrote(&path, Replaces::Text(b"old"));
        match text {
            "old" => written.unwrap(),
            _ => {
                assert!(matches!(written, Err(PutError::Changed(_))), "{text}");
                assert_eq!(held(&path), text);
            }
        }
        assert_eq!(names(folder.path()), ["a.caltrin"]);
    }
}

#[cfg(unix)]
#[test]
fn links_rights_and_other_names_stay() {
    use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
    let folder = folder();
    let at = |name: &str| folder.path().join(name);
    let mode = |name: &str| fs::metadata(at(name)).unwrap().permissions().mode() & 0o777;
    fs::create_dir(at("far")).unwrap();
    fs::write(at("far/real.svg"), "old").unwrap();
    fs::set_permissions(at("far/real.svg"), PermissionsExt::from_mode(0o600)).unwrap();
    symlink("far/real.svg", at("link.svg")).unwrap();
    symlink("link.svg", at("second.svg")).unwrap();
    wrote(&at("second.svg"), Replaces::Any).unwrap();
    assert!(fs::symlink_metadata(at("link.svg")).unwrap().is_symlink());
    assert_eq!((held(&at("far/real.svg")), mode("far/real.svg")), ("new".to_owned(), 0o600));
    // A link to what is not there yet, and one that leads in a circle.
    symlink("far/next.svg", at("open.svg")).unwrap();
    wrote(&at("open.svg"), Replaces::Any).unwrap();
    assert_eq!(held(&at("far/next.svg")), "new");
    symlink("round.svg", at("round.svg")).unwrap();
    assert!(wrote(&at("round.svg"), Replaces::Any).is_err());
    // Two names of one file.
    fs::write(at("one.svg"), "a longer old text").unwrap();
    fs::hard_link(at("one.svg"), at("two.svg")).unwrap();
    wrote(&at("one.svg"), Replaces::Any).unwrap();
    assert_eq!((held(&at("one.svg")), held(&at("two.svg"))), ("new".to_owned(), "new".to_owned()));
    assert_eq!(fs::metadata(at("one.svg")).unwrap().nlink(), 2);
    fs::hard_link(at("far/real.svg"), at("three.svg")).unwrap();
    assert!(matches!(wrote(&at("three.svg"), Replaces::Text(b"other")), Err(PutError::Changed(_))));
    assert_eq!(held(&at("three.svg")), "new");
    // Nobody writes it.
    fs::write(at("fixed.svg"), "old").unwrap();
    fs::set_permissions(at("fixed.svg"), PermissionsExt::from_mode(0o444)).unwrap();
    for replaces in [Replaces::Any, Replaces::Text(b"old")] {
        assert!(matches!(wrote(&at("fixed.svg"), replaces), Err(PutError::ReadOnly(_))));
    }
    assert_eq!((held(&at("fixed.svg")), mode("fixed.svg")), ("old".to_owned(), 0o444));
    assert!(!names(folder.path()).iter().any(|name| name.starts_with(".caltrin")));
}

#[cfg(unix)]
fn pipe(path: &Path) {
    assert!(std::process::Command::new("mkfifo").arg(path).status().unwrap().success());
}

#[cfg(unix)]
#[test]
fn pipes_and_devices_are_written_into_and_never_waited_for() {
    use std::os::unix::fs::FileTypeExt;
    let folder = folder();
    let path = folder.path().join("pipe.svg");
    pipe(&path);
    // Read as a book, as a used one, as a sound: refused at once.
    assert!(matches!(caltrin::open(&path), Err(caltrin::OpenError::Io { .. })));
    let book = folder.path().join("book.caltrin");
    pipe(&folder.path().join("used.caltrin"));
    pipe(&folder.path().join("horn.wav"));
    let text = "lightbook \"A\"\nuse \"used.caltrin\"\nsound horn = \"horn.wav\"\nlight a point { intensity 1lm * follow(horn) }\n";
    fs::write(&book, text).unwrap();
    let told = caltrin::open(&book).unwrap().diagnostics;
    let regular = told.iter().filter(|d| d.message.contains("not a regular file")).count();
    assert_eq!(regular, 2, "{told:#?}");
    assert!(caltrin::open(Path::new("/dev/zero")).is_err());
    // Written: the pipe stays one.
    let reader = {
        let path = path.clone();
        std::thread::spawn(move || fs::read_to_string(path).unwrap())
    };
    wrote(&path, Replaces::Any).unwrap();
    assert_eq!(reader.join().unwrap(), "new");
    assert!(fs::metadata(&path).unwrap().file_type().is_fifo());
    wrote(Path::new("/dev/null"), Replaces::Any).unwrap();
    assert!(fs::metadata("/dev/null").unwrap().file_type().is_char_device());
    if Path::new("/dev/full").exists() {
        assert!(matches!(wrote(Path::new("/dev/full"), Replaces::Any), Err(PutError::Io { .. })));
    }
}

#[test]
fn reading_is_bounded() {
    let folder = folder();
    let path = folder.path().join("a");
    fs::write(&path, [7; 100]).unwrap();
    assert_eq!(files::read(&path, 100).unwrap().len(), 100);
    assert_eq!(files::read(&path, 99).unwrap_err().kind(), io::ErrorKind::FileTooLarge);
    assert_eq!(files::read(folder.path(), 99).unwrap_err().kind(), io::ErrorKind::IsADirectory);
}

#[cfg(unix)]
#[test]
fn what_lies_elsewhere_is_not_opened() {
    use std::os::unix::fs::symlink;
    let folder = folder();
    let at = |name: &str| folder.path().join(name);
    fs::create_dir_all(at("book/in")).unwrap();
    fs::write(at("secret"), "secret").unwrap();
    fs::write(at("book/in/own"), "own").unwrap();
    symlink("../secret", at("book/out")).unwrap();
    symlink("../..", at("book/in/up")).unwrap();
    symlink("in/own", at("book/near")).unwrap();
    symlink(at("book/in/own"), at("book/absolute")).unwrap();
    let opened = |name: &str| {
        let file = files::open_within(&at("book"), Path::new(name));
        file.and_then(|file| files::read_open(&file, 100)).map_err(|cause| cause.kind())
    };
    for name in ["in/own", "near", "absolute", "./in/../in/own"] {
        assert_eq!(opened(name), Ok(b"own".to_vec()), "{name}");
    }
    for name in ["out", "in/up/secret", "../secret"] {
        assert_eq!(opened(name), Err(io::ErrorKind::CrossesDevices), "{name}");
    }
    assert_eq!(opened("none"), Err(io::ErrorKind::NotFound));
}

/// What a call leaves that is killed: the next one says which files are new, and cleans up.
#[test]
fn what_a_stopped_call_left_is_told_and_goes() {
    let folder = folder();
    let at = |name: &str| folder.path().join(name);
    let stage = |name: &str, journal: Option<&str>| -> PathBuf {
        let stage = at(name);
        fs::create_dir(&stage).unwrap();
        fs::write(stage.join("0"), "half").unwrap();
        if let Some(journal) = journal {
            fs::write(stage.join("journal"), journal).unwrap();
        }
        stage
    };
    let sum = |text: &str| blake3::hash(text.as_bytes());
    fs::write(at("a"), "is new").unwrap();
    fs::write(at("b"), "is old").unwrap();
    let journal = format!("{} a\n{} b\n{} ../c\n", sum("is new"), sum("will be new"), sum("c"));
    let left = stage(".caltrin-writing-one", Some(&journal));
    let whole = stage(".caltrin-writing-two", Some(&format!("{} a\n", sum("is new"))));
    let fresh = stage(".caltrin-writing-three", None);
    let output = at("d");
    let output = Output { path: &output, bytes: b"d", replaces: Replaces::Any };
    let done = put(&[output], &Inputs::default()).unwrap();
    assert_eq!(done.interrupted.len(), 1);
    assert_eq!(done.interrupted[0].new, ["a"]);
    assert_eq!(done.interrupted[0].old, ["b", "../c"]);
    assert!(!left.exists() && !whole.exists());
    // Somebody may just have begun there.
    assert!(fresh.exists());
    assert!(put(&[output], &Inputs::default()).unwrap().interrupted.is_empty());
}
