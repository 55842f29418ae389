//! Books of any size, and calls whose cost depends on it.
#![allow(dead_code, reason = "each user uses some of it")]

use std::fmt::Write as _;

/// A book of a size.
pub type Book = fn(usize) -> String;

/// A command line for a book: its name, its arguments, and the two sizes at which its instructions are counted.
pub struct Call {
    pub name: &'static str,
    pub arguments: &'static [&'static str],
    pub book: Book,
    pub counted: [usize; 2],
}

const fn call(
    name: &'static str,
    arguments: &'static [&'static str],
    book: Book,
    counted: [usize; 2],
) -> Call {
    Call { name, arguments, book, counted }
}

pub const CALLS: [Call; 10] = [
    call("check_lights", &["check"], lights, [500, 2000]),
    call("check_a_chain_of_signals", &["check"], chain, [500, 2000]),
    call("check_what_is_used_twice", &["check"], twice, [200, 800]),
    call("check_an_error_below_what_is_used_twice", &["check"], twice_wrong, [200, 800]),
    call("check_errors", &["check"], errors, [1000, 4000]),
    call("check_a_long_name", &["check"], long_name, [5_000, 20_000]),
    call("list_lights", &["explain"], lights, [500, 2000]),
    call("lay_out_lights", &["fmt", "--check"], lights, [500, 2000]),
    call("export_lights", &["export", "--to", "c", "-o", "code"], lights, [150, 600]),
    call("draw_events", &["sheet", "--no-curves"], events, [16, 64]),
];

fn lights(n: usize) -> String {
    let mut book = "lightbook \"Many\"\nseed 7\ncurve sag { 0s 100%; 2.1s 80% smooth; 5.3s 100% ease-out }\n\
        signal mains = loop(sag)\nbehavior buzz(floor = 85%) = held(floor..100%, every 60ms..240ms)\n"
        .to_owned();
    let strengths = [
        "400lm * buzz(60%) * mains",
        "90cd * mains",
        "30cd * sine(50%..100%, every 3.1s)",
        "200lm * buzz(40%)",
    ];
    for k in 0..n {
        let (x, z, strength) = (k % 100, k / 100, strengths[k % 4]);
        let _ = writeln!(
            book,
            "light lamp_{k} point {{ position ({x}m, 3m, {z}m); color 2400K; intensity {strength} }}"
        );
    }
    book
}

fn chain(n: usize) -> String {
    let mut book =
        "lightbook \"Chain\"\ninput swell = 20% in 0%..100%\nsignal s0 = swell\n".to_owned();
    for k in 1..n {
        let _ = writeln!(
            book,
            "signal s{k} = s{} * 50% + 25% * sine(0..1, every {}.1s)",
            k - 1,
            1 + k % 7
        );
    }
    book + &format!("light lamp point {{ intensity 10lm * s{} }}\n", n - 1)
}

fn twice_to(n: usize, last: &str) -> String {
    let mut book = "lightbook \"Twice\"\nsignal s0 = sine(0..1, every 3.1s)\n".to_owned();
    for k in 1..n {
        let _ = writeln!(book, "signal s{k} = s{0} * s{0}", k - 1);
    }
    book + &format!("light lamp point {{ intensity {last} s{} }}\n", n - 1)
}

fn twice(n: usize) -> String {
    twice_to(n, "10lm *")
}

/// It may divide by zero.
fn twice_wrong(n: usize) -> String {
    twice_to(n, "10lm /")
}

fn errors(n: usize) -> String {
    let mut book = "lightbook \"Mistakes\"\n".to_owned();
    for k in 0..n {
        let _ = writeln!(book, "light l{k} point {{ intensity 10lm * nothing{k}; color 3 }}");
    }
    book
}

fn long_name(n: usize) -> String {
    let name = "a".repeat(n);
    format!("lightbook \"Long\"\nvalue {name} = 1lm\nlight b point {{ intensity {name}x }}\n")
}

/// So many happen in each tenth of a second.
fn events(n: usize) -> String {
    let mut book = "lightbook \"Events\"\nevent tick every 100ms\n".to_owned();
    for k in 0..n {
        let _ =
            writeln!(book, "event e{k} every 100ms\nswitch s{k} {{ starts off; flip at e{k} }}");
    }
    book + "light lamp point { intensity 1lm * s0 }\n"
}
