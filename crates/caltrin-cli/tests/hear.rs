//! What `caltrin hear` prints, against the samples it was given.

use std::f64::consts::TAU;
use std::fs;
use std::path::Path;

use assert_cmd::Command;
use hound::{SampleFormat, WavSpec, WavWriter};
use tempfile::TempDir;

const RATE: u32 = 24_000;

fn hear(folder: &Path, arguments: &[&str]) -> assert_cmd::assert::Assert {
    let mut command = Command::cargo_bin("caltrin").expect("the command is built");
    command.current_dir(folder).arg("hear").args(arguments).assert()
}

/// A folder with `bell.wav`: a tone of a level each from 0.25 s and from 0.75 s on, a quarter of a second long.
fn bell() -> TempDir {
    let folder = tempfile::tempdir().unwrap();
    let spec = WavSpec {
        channels: 1,
        sample_rate: RATE,
        bits_per_sample: 32,
        sample_format: SampleFormat::Float,
    };
    let mut file = WavWriter::create(folder.path().join("bell.wav"), spec).unwrap();
    for n in 0..RATE * 5 / 4 {
        let t = f64::from(n) / f64::from(RATE);
        let strength = match t {
            t if (0.25..0.5).contains(&t) => 0.4,
            t if (0.75..1.0).contains(&t) => 0.8,
            _ => 0.0,
        };
        file.write_sample((strength * (TAU * 600.0 * t).sin()) as f32).unwrap();
    }
    file.finalize().unwrap();
    folder
}

#[test]
fn csv_has_what_was_measured_row_by_row() {
    let folder = bell();
    let told = hear(folder.path(), &["bell.wav", "--csv"]).code(0);
    let text = String::from_utf8(told.get_output().stdout.clone()).unwrap();
    let mut lines = text.lines();
    assert_eq!(lines.next(), Some("seconds,level,peak,low,mid,high,onset"));
    let rows: Vec<Vec<&str>> = lines.map(|line| line.split(',').collect()).collect();
    assert_eq!(rows.len(), 300);
    for (n, row) in rows.iter().enumerate() {
        let v = |column: usize| row[column].parse::<f64>().unwrap();
        assert!((v(0) - n as f64 / 240.0).abs() < 1e-6);
        // Away from the edges of the tones the level of a sine is its strength over the root of two.
        let inside = |from: f64| v(0) > from + 0.05 && v(0) < from + 0.2;
        let strength = if inside(0.25) { 0.4 } else { 0.8 };
        if inside(0.25) || inside(0.75) {
            assert!((v(1) - strength / 2f64.sqrt()).abs() < 0.005, "{row:?}");
            assert!((v(2) - strength).abs() < 0.01, "{row:?}");
            assert!(v(4) > 0.95 * v(1) && v(3) < 0.02 && v(5) < 0.02, "{row:?}");
        }
    }
    let onsets: Vec<(usize, &str)> = rows
        .iter()
        .enumerate()
        .filter(|(_, row)| !row[6].is_empty())
        .map(|(n, row)| (n, row[6]))
        .collect();
    assert_eq!(onsets.len(), 2, "{onsets:?}");
    for ((n, _), at) in onsets.iter().zip([0.25, 0.75]) {
        assert!((*n as f64 / 240.0 - at).abs() <= 0.01, "{onsets:?}");
    }
    assert_eq!(onsets[1].1, "1.000000");
}

#[test]
fn csv_of_music_has_its_notes_and_beats() {
    let tune: &[u8] = include_bytes!("../../caltrin/books/sounds/carillon.mid");
    let folder = tempfile::tempdir().unwrap();
    fs::write(folder.path().join("tune.mid"), tune).unwrap();
    let told = hear(folder.path(), &["tune.mid", "--csv"]).code(0);
    let text = String::from_utf8(told.get_output().stdout.clone()).unwrap();
    assert!(text.starts_with("seconds,level,peak,low,mid,high,onset,note,beat\n"));
    let told = hear(folder.path(), &["tune.mid", "--json"]).code(0);
    let json: serde_json::Value = serde_json::from_slice(&told.get_output().stdout).unwrap();
    let beats = json["beats"].as_array().unwrap().len();
    let found = text.lines().skip(1).filter(|line| !line.ends_with(',')).count();
    assert_eq!(found, beats);
}

#[test]
fn no_decoder_panics_in_front_of_the_user() {
    let folder = bell();
    let whole = fs::read(folder.path().join("bell.wav")).unwrap();
    // Every byte of the header is 0, and then 255.
    for at in 4..whole.len().min(80) {
        for with in [0, 255] {
            let mut bytes = whole.clone();
            bytes[at] = with;
            fs::write(folder.path().join("odd.wav"), &bytes).unwrap();
            let told = hear(folder.path(), &["odd.wav", "--json"]);
            let told = told.get_output();
            let said = String::from_utf8_lossy(&told.stderr);
            assert!(!said.contains("panicked") && !said.contains("internal error"), "{at}: {said}");
            assert!(matches!(told.status.code(), Some(0 | 2)), "{at}: {:?}", told.status);
        }
    }
    let mut still = whole;
    still[24..28].fill(0);
    fs::write(folder.path().join("still.wav"), &still).unwrap();
    let told = hear(folder.path(), &["still.wav"]).code(2);
    let said = String::from_utf8_lossy(&told.get_output().stderr);
    assert!(said.contains("its sample rate is 0 Hz"), "{said}");
    assert_eq!(said.lines().count(), 1, "{said}");
}

#[test]
fn the_suggested_line_is_one_that_a_book_accepts() {
    let folder = bell();
    fs::create_dir(folder.path().join("book")).unwrap();
    fs::create_dir(folder.path().join("sounds")).unwrap();
    fs::copy(folder.path().join("bell.wav"), folder.path().join("sounds/bell.wav")).unwrap();
    let absolute = folder.path().join("bell.wav").display().to_string();
    for (at, given, file, copies) in [
        (folder.path().join("book"), "../bell.wav", "bell.wav", true),
        (folder.path().join("book"), absolute.as_str(), "bell.wav", true),
        (folder.path().to_path_buf(), "./sounds/bell.wav", "sounds/bell.wav", false),
        (folder.path().to_path_buf(), "bell.wav", "bell.wav", false),
    ] {
        let told = hear(&at, &[given, "--colors", "none"]).code(0);
        let text = String::from_utf8_lossy(&told.get_output().stdout).into_owned();
        let line = text.lines().find(|line| line.starts_with("  sound ")).unwrap().to_owned();
        assert!(line.contains(&format!("\"{file}\"")), "{line}");
        assert_eq!(line.contains("copy the file into the book's folder"), copies, "{line}");
        if copies {
            fs::copy(folder.path().join("bell.wav"), at.join("bell.wav")).unwrap();
        }
        let lines: Vec<&str> =
            text.lines().skip_while(|line| !line.starts_with("  sound ")).collect();
        let book = format!("lightbook \"b\"\n{}\noutput y = bell_level\n", lines.join("\n"));
        fs::write(at.join("b.caltrin"), &book).unwrap();
        let opened = caltrin::open(&at.join("b.caltrin")).unwrap();
        assert!(opened.checked.is_some(), "{book}: {:?}", opened.diagnostics);
    }
}
