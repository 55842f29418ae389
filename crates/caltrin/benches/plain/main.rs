//! Exported C against four lights that an engineer would write by hand, in double and in float, compiled with the same
//! options, and Bezier easings against `smooth`. Prints ratios: `cargo bench -p caltrin --bench plain`.

use std::collections::BTreeMap;
use std::process::Command;

use caltrin::core::SourceNotes;
use caltrin::export::{export, target_named};

const LIGHTS: [&str; 4] = ["holding", "drifting", "swelling", "fading"];

/// The same curve with other easings, against `softly` with `smooth`.
const EASED: [&str; 3] = ["eased", "eased_both", "eased_in"];

fn main() {
    let opened = caltrin::read(include_str!("plain.caltrin"), "plain.caltrin");
    let checked = opened.checked.expect("the book is good");
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let c = target_named("c").expect("C is known");
    let file = export(&checked, &SourceNotes::default(), c);
    std::fs::write(folder.path().join(&file.file_name), &file.text).expect("it can be written");
    std::fs::write(folder.path().join("main.c"), include_str!("main.c"))
        .expect("it can be written");
    for compiler in ["gcc", "clang"] {
        let made = Command::new(compiler)
            .args(["-std=gnu99", "-O2", "-o", "plain", "main.c", "-lm"])
            .current_dir(folder.path())
            .status();
        if !made.is_ok_and(|status| status.success()) {
            println!("{compiler}: not tried, it is missing or refused");
            continue;
        }
        // The median of several processes, so that a machine whose speed wanders does it to all.
        let mut all: BTreeMap<String, Vec<f64>> = BTreeMap::new();
        for _ in 0..9 {
            let out = Command::new(folder.path().join("plain")).output().expect("it runs");
            for line in String::from_utf8_lossy(&out.stdout).lines() {
                let (what, time) = line.rsplit_once(' ').expect("a name and a time");
                let time = time.parse().expect("a time is a number");
                all.entry(what.to_owned()).or_default().push(time);
            }
        }
        let median = |what: String| {
            let mut times = all[&what].clone();
            times.sort_by(f64::total_cmp);
            times[times.len() / 2]
        };
        for light in LIGHTS {
            let [exported, double, float] =
                ["exported", "double", "float"].map(|who| median(format!("{light} {who}")));
            println!(
                "{compiler} -O2 {light}: exported over double {:.2}, over float {:.2} ({exported:.2} ns a lamp)",
                exported / double,
                exported / float
            );
        }
        let smooth = median("softly exported".to_owned());
        for light in EASED {
            let ratio = median(format!("{light} exported")) / smooth;
            println!("{compiler} -O2 {light}: over smooth {ratio:.2}");
        }
    }
}
