//! The demo book.
#[test]
fn reads() {
    let text = include_str!("../../caltrin/books/pier.caltrin");
    let r = caltrin_lang::read(text, "pier.caltrin");
    for d in &r.diagnostics {
        println!("{d:?} {:?}", &text[d.range()]);
    }
    let c = r.checked.expect("good");
    for (id, l) in c.program().lights() {
        println!("{} {:?}", l.name, c.bounds(id, caltrin_core::program::Field::Intensity));
    }
}
