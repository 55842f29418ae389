//! tmp
fn main() {
    let t = std::env::args().nth(1).unwrap();
    let text = std::fs::read_to_string(&t).unwrap();
    let r = caltrin_lang::read(&text, "pier.caltrin");
    let c = r.checked.unwrap();
    for tg in caltrin_export::TARGETS {
        let e = caltrin_export::export(&c, &r.notes, tg);
        std::fs::write(format!("/tmp/c/{}", e.file_name), e.text).unwrap();
        println!("{}", e.file_name);
    }
}
