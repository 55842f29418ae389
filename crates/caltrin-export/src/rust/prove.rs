#[path = "BOOK_RS"]
mod book;

use std::io::Write;

const RECORD: usize = 16 + 8 * RECORD_SLOTS;

fn main() {
    let arguments: Vec<String> = std::env::args().collect();
    if arguments.len() < 3 {
        std::process::exit(i32::from(book::self_test() != 0));
    }
    let asked = std::fs::read(&arguments[1]).expect("the moments can be read");
    let out = std::fs::File::create(&arguments[2]).expect("the values can be written");
    let mut out = std::io::BufWriter::new(out);
    let mut run = book::Run::start(0);
    for record in asked.chunks_exact(RECORD) {
        let double = |at: usize| f64::from_le_bytes(record[at..at + 8].try_into().unwrap());
        let input = |slot: usize| double(16 + 8 * slot);
        let given = |n: usize| double(16 + 8 * (GIVEN + n));
        let seed = u64::from_le_bytes(record[8..16].try_into().unwrap());
        // Else it goes on from where it was.
        if seed >> 32 == 0 {
            run = book::Run::start(seed as u32);
        }
        let _ = &given;
        let _ = book::Run::step;
        let _ = &input;
        // SETS
        // CLOCK
        run = book::Run::from_bytes(&run.to_bytes()).expect("a saved run comes back");
        run.advance(double(0));
        let mut put = |value: f32| out.write_all(&value.to_le_bytes()).expect("there is room");
        // READS
        let _ = &mut put;
    }
    let _ = book::SEED;
}
