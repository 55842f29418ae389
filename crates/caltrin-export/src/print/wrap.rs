//! Lines of code that are not too wide.

/// How wide a line of exported code is at the most, where it can be broken.
const WIDEST: usize = 110;

/// Breaks long lines of code after commas and operators, the loosest first; what follows is indented once
/// more. Comments and lines of the preprocessor stay as they are.
pub fn wrapped(code: &str, indent: &str) -> String {
    let mut out = String::with_capacity(code.len() + code.len() / 16);
    for line in code.lines() {
        // Fast path: a line never has more characters than bytes.
        if line.len() <= WIDEST {
            out.push_str(line);
            out.push('\n');
            continue;
        }
        let inner = line.trim_start();
        let plain =
            !(inner.starts_with(['#', '*']) || inner.contains("//") || inner.contains("/*"));
        let (mut rest, mut depth) = (line.to_owned(), line.len() - inner.len());
        let mut first = true;
        while let Some(at) = plain.then(|| break_of(&rest)).flatten() {
            out.push_str(rest[..at].trim_end());
            out.push('\n');
            if first {
                depth += indent.len();
                first = false;
            }
            rest = format!("{}{}", " ".repeat(depth), rest[at..].trim_start());
        }
        out.push_str(&rest);
        out.push('\n');
    }
    out
}

/// Where a line that is too wide is broken: after the loosest comma or operator that lies far enough to the
/// right.
fn break_of(line: &str) -> Option<usize> {
    if line.chars().count() <= WIDEST {
        return None;
    }
    const OPERATORS: [&str; 10] =
        [" + ", " - ", " * ", " / ", " ? ", " : ", " && ", " || ", ", ", " = "];
    let start = line.len() - line.trim_start().len();
    let (mut depth, mut best): (u32, Option<(u32, usize)>) = (0, None);
    let mut open = None;
    for (at, sign) in line.char_indices().take(WIDEST).skip(start) {
        match sign {
            '(' | '[' | '{' => {
                depth += 1;
                // Where the first comma lies too far to the right, the bracket before it is next best.
                open = Some((0, at + 1)).filter(|_| sign == '(' && at > start + 20).or(open);
            }
            ')' | ']' | '}' => depth = depth.saturating_sub(1),
            _ => {}
        }
        if !matches!(sign, ' ' | ',') {
            continue;
        }
        let after = OPERATORS.iter().find(|sign| line[at..].starts_with(**sign));
        let Some(after) = after else { continue };
        let end = at + after.len();
        // A name alone before its value is not a good line.
        let early = end < start + (WIDEST - start.min(WIDEST)) / 3 || *after == " = ";
        let rank = depth + if early { 100 } else { 0 };
        if end <= WIDEST && best.is_none_or(|(known, _)| rank <= known) {
            best = Some((rank, end));
        }
    }
    best.or(open).map(|(_, end)| end).filter(|end| line[*end..].trim().len() > 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn long_lines_are_broken_after_their_loosest_operator_and_say_the_same() {
        let short = "    const double x = a + b;\n";
        assert_eq!(wrapped(short, "    "), short);
        let long = format!(
            "    const double level = {} + {};\n",
            "f(a, bb)",
            ["level_of(a, b)"; 9].join(" * ")
        );
        let broken = wrapped(&long, "    ");
        assert!(
            broken.lines().count() > 1 && broken.lines().all(|line| line.len() <= WIDEST),
            "{broken}"
        );
        assert!(broken.lines().skip(1).all(|line| line.starts_with("        ")), "{broken}");
        let words = |text: &str| text.split_whitespace().collect::<Vec<_>>().join(" ");
        assert_eq!(words(&broken), words(&long));
        // The sum is looser than its products.
        let sum =
            format!("x = {} + {};\n", ["aaaaaaaaaa"; 6].join(" * "), ["bbbbbbbbbb"; 5].join(" * "));
        assert!(wrapped(&sum, "  ").lines().next().unwrap().len() > 40, "{}", wrapped(&sum, "  "));
        let comment = format!("    double x; /* {} */\n", "word ".repeat(40));
        assert_eq!(wrapped(&comment, "    "), comment);
        let head =
            format!("API {} {}(const run *run, uint32_t index)\n", "t".repeat(40), "f".repeat(60));
        let shown = format!(
            "API {} {}(\n    const run *run, uint32_t index)\n",
            "t".repeat(40),
            "f".repeat(60)
        );
        assert_eq!(wrapped(&head, "    "), shown);
        let alone = format!("    {};\n", "a".repeat(200));
        assert_eq!(wrapped(&alone, "    "), alone);
    }
}
