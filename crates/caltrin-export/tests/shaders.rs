//! Shaders: near the preview, the same bits as the reference, and valid in every shading language.

#[path = "../../caltrin-lang/tests/heard/mod.rs"]
mod heard;

use caltrin_core::program::Wanted;
use caltrin_core::{SourceNotes, ValidatedProgram};
use caltrin_export::language::{GLSL, HLSL, SINGLE_C, WGSL};
use caltrin_export::plan::Plan;
use caltrin_export::shader::{Proved, Shader, print, prove};

fn read(text: &str) -> (ValidatedProgram, SourceNotes) {
    let reading = heard::read_for(text, "book.caltrin", Wanted::default());
    (reading.checked.expect("the book has no errors"), reading.notes)
}

#[test]
fn try_it() {
    let path = std::env::var("BOOK").unwrap();
    let (checked, notes) = read(&std::fs::read_to_string(path).unwrap());
    let plan = Plan::without_test(&checked, &notes);
    let start = std::time::Instant::now();
    let shader = Shader::of(&checked, &plan);
    println!("measured in {:?}", start.elapsed());
    for light in &shader.lights {
        println!("{} {:?}", plan.lights[light.place].name, light.distance);
    }
    for out in &shader.left_out {
        println!("{} {}", out.light, out.reason);
    }
    let folder = std::path::Path::new("/tmp/w/shade");
    std::fs::create_dir_all(folder).unwrap();
    for language in [&WGSL, &GLSL, &HLSL, &SINGLE_C] {
        let name = caltrin_export::shader::file_name(&plan, language);
        std::fs::write(folder.join(name), print(&shader, &plan, language)).unwrap();
    }
    let proved = prove(&checked, &plan, &shader, 5000, folder).unwrap();
    println!("{proved:?}");
    assert!(matches!(proved, Proved::Compared { mismatches: 0, .. }));
}
