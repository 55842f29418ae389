//! The formatter: spacing, indentation and alignment. The only words that it changes are words of
//! earlier versions and alternative spellings.
//!
//! It works on tokens, line by line. Line breaks are kept; it changes indentation, spacing, and the
//! alignment of adjacent lines.

use crate::diagnostic::Diagnostic;
use crate::grammar::{self, Alignment, Around, Keyword, Starts};
use crate::parser::{parse, updated};
use crate::syntax::{SyntaxKind, lex};
use crate::words;

/// One step of indentation.
const STEP: usize = 2;
/// The byte-order mark.
const MARK: char = '\u{feff}';
/// Between the columns of aligned lines.
const GAP: &str = "  ";

/// Formats a lightbook. Its meaning does not change, words of earlier versions are replaced by
/// current ones, and formatting is idempotent. If the first line ends with CRLF, all lines do; a
/// byte-order mark is kept.
///
/// # Errors
/// The syntax errors, if there are any; such a book is not formatted.
pub fn format(text: &str) -> Result<String, Vec<Diagnostic>> {
    let parsed = parse(text);
    if !parsed.diagnostics.is_empty() {
        return Err(parsed.diagnostics);
    }
    let text = &updated(text, &parsed.renamed);
    let mut lines = lines_of(text);
    indent(&mut lines);
    align(&mut lines);
    let mut out = String::with_capacity(text.len());
    let mut empty = 0;
    for line in &lines {
        if line.words.is_empty() && line.comment.is_none() {
            empty += 1;
            continue;
        }
        if empty > 0 && !out.is_empty() {
            out.push('\n');
        }
        empty = 0;
        line.write(&mut out);
    }
    debug_assert_eq!(said(text), said(&out), "formatting changes no word that is current");
    if text.lines().next().is_some_and(|first| text[first.len()..].starts_with("\r\n")) {
        out = out.replace('\n', "\r\n");
    }
    if text.starts_with(MARK) && !out.starts_with(MARK) {
        out.insert(0, MARK);
    }
    Ok(out)
}

/// Each line of a text as the formatter writes it, without its line end; empty lines stay. Words of
/// earlier versions are not replaced.
pub(crate) fn formatted_lines(text: &str) -> Vec<String> {
    let mut lines = lines_of(text);
    indent(&mut lines);
    align(&mut lines);
    let each = lines.iter().map(|line| {
        let mut out = String::new();
        line.write(&mut out);
        out.pop();
        out
    });
    each.collect()
}

/// The content of a text: its tokens without spaces, and its comments.
fn said(text: &str) -> Vec<&str> {
    let (tokens, _) = lex(text);
    tokens
        .iter()
        .filter(|token| !matches!(token.kind, SyntaxKind::Blank | SyntaxKind::LineEnd))
        .map(|token| text[token.start..token.end].trim_end())
        .collect()
}

#[derive(Clone, Copy)]
struct Word<'t> {
    kind: SyntaxKind,
    text: &'t str,
    /// Whether it is adjacent to the previous word.
    touches: bool,
}

/// A line of the text.
#[derive(Default)]
struct TextLine<'t> {
    words: Vec<Word<'t>>,
    comment: Option<&'t str>,
    /// The original column of the comment.
    comment_at: usize,
    indent: usize,
    /// Whether it continues the statement of the previous line.
    goes_on: bool,
    /// The cells that can be aligned with those of adjacent lines; otherwise a single one.
    cells: Vec<String>,
    shape: LineShape,
}

/// The adjacent lines that a line is aligned with.
#[derive(Clone, Debug, Default, PartialEq)]
enum LineShape {
    /// None.
    #[default]
    Free,
    /// Properties: the name, then the value.
    Property,
    /// Stops of a curve.
    Stop,
    /// Phases of the day: the name, the hour, its transition, the tint.
    Phase,
    /// Steps of a sequence: the time, the channel, its value, the easing.
    Step,
    /// Several channels of a sequence at one time.
    Held,
    /// Transitions of modes: source, target, trigger, duration.
    Rule,
    /// Rules of a switch: state, event, duration.
    Turn,
    /// Declarations that begin with the same word.
    Named(String),
}

fn lines_of(text: &str) -> Vec<TextLine<'_>> {
    let (tokens, _) = lex(text);
    let mut lines = vec![TextLine::default()];
    let (mut end, mut column) = (0, 0);
    for token in &tokens {
        let said = &text[token.start..token.end];
        let last = lines.len() - 1;
        match token.kind {
            // A line end within brackets or after an operator is a blank to the parser.
            SyntaxKind::Blank | SyntaxKind::LineEnd => {
                for part in said.split_inclusive('\n') {
                    if part.ends_with('\n') {
                        column = 0;
                        let goes_on = token.kind == SyntaxKind::Blank;
                        lines.push(TextLine { goes_on, ..TextLine::default() });
                    } else {
                        column += part.trim_start_matches('\u{feff}').chars().count();
                    }
                }
                continue;
            }
            SyntaxKind::Comment => {
                lines[last].comment = Some(said.trim_end());
                lines[last].comment_at = column;
            }
            kind => {
                let touches = end == token.start && !lines[last].words.is_empty();
                if touches && lines[last].joins_date(kind) {
                    // `11-20` is one word to a reader.
                    lines[last].words.pop();
                    if let Some(month) = lines[last].words.last_mut() {
                        month.text =
                            &text[token.end - said.len() - 1 - month.text.len()..token.end];
                    }
                    end = token.end;
                    column += said.chars().count();
                    continue;
                }
                lines[last].words.push(Word { kind, text: said, touches });
            }
        }
        end = token.end;
        column += said.chars().count();
    }
    lines
}

/// Determines the indentation and the shape of each line.
fn indent(lines: &mut [TextLine<'_>]) {
    // What each open brace belongs to: the first word of its statement.
    let mut open: Vec<&str> = Vec::new();
    let mut statement = "";
    for line in lines {
        let closers = line.words.iter().take_while(|w| w.kind == SyntaxKind::BraceClose).count();
        line.indent = STEP * open.len().saturating_sub(closers);
        if line.goes_on {
            line.indent += 2 * STEP;
        }
        let inside = open.get(open.len().wrapping_sub(1)).copied();
        line.shape = if line.goes_on { LineShape::Free } else { shape(&line.words, inside) };
        let mut fresh = !line.goes_on;
        for word in &line.words {
            if fresh && word.kind != SyntaxKind::BraceClose {
                statement = word.text;
            }
            fresh = false;
            match word.kind {
                SyntaxKind::BraceOpen => {
                    open.push(statement);
                    fresh = true;
                }
                SyntaxKind::BraceClose => {
                    open.pop();
                    fresh = true;
                }
                SyntaxKind::Semicolon => fresh = true,
                _ => {}
            }
        }
        line.cells = cells(&line.words, &line.shape);
    }
}

fn shape(words: &[Word<'_>], inside: Option<&str>) -> LineShape {
    let simple = words.iter().all(|w| {
        !matches!(w.kind, SyntaxKind::BraceOpen | SyntaxKind::BraceClose | SyntaxKind::Semicolon)
    });
    let (Some(first), Some(second)) = (words.first(), words.get(1)) else { return LineShape::Free };
    let named = words.get(2).is_some_and(|w| w.kind == SyntaxKind::Equals);
    // How a sound plays stands after its file.
    if inside.is_none() && named && first.text == "sound" {
        return LineShape::Named(first.text.to_owned());
    }
    if !simple {
        return LineShape::Free;
    }
    let around = inside.and_then(grammar::declaration);
    let alignment = match inside {
        // The properties of one lamp or instance.
        Some("except") => Alignment::Properties,
        _ => around.map_or(Alignment::None, |around| around.alignment),
    };
    // What happens in a light is not a channel of it.
    let declares = grammar::declaration(first.text).is_some_and(|known| {
        known.keyword == Keyword::At
            || known.starts == Starts::Named && known.inside.contains(&Around::Light)
    });
    let is_name = first.kind == SyntaxKind::Name;
    let is_number = matches!(first.kind, SyntaxKind::Number | SyntaxKind::Plus);
    match alignment {
        Alignment::Stops if is_number => LineShape::Stop,
        Alignment::Stops if matches!(first.kind, SyntaxKind::Hour | SyntaxKind::Sign) => {
            LineShape::Stop
        }
        Alignment::Stops => LineShape::Free,
        Alignment::Phases if is_name => LineShape::Phase,
        // A moment, and what happens then.
        Alignment::Moments => LineShape::Property,
        Alignment::Steps if is_number => LineShape::Step,
        Alignment::Rules if words.iter().any(|w| w.kind == SyntaxKind::Arrow) => LineShape::Rule,
        Alignment::Turns => LineShape::Turn,
        _ if is_name && inside.is_some_and(is_step) => LineShape::Held,
        _ if is_name && named && second.kind == SyntaxKind::Name => {
            LineShape::Named(first.text.to_owned())
        }
        Alignment::Properties if is_name && !declares => LineShape::Property,
        _ => LineShape::Free,
    }
}

/// Whether the statement around a line is a step of a sequence, by its first word.
fn is_step(first: &str) -> bool {
    first.starts_with(|c: char| c == '+' || c.is_ascii_digit())
}

/// The cells of a line, with correct spacing.
fn cells(words: &[Word<'_>], shape: &LineShape) -> Vec<String> {
    match shape {
        LineShape::Free => vec![spaced(words)],
        LineShape::Property => vec![spaced(&words[..1]), spaced(&words[1..])],
        LineShape::Named(_) => vec![spaced(&words[..2]), spaced(&words[2..])],
        LineShape::Phase => {
            let at = |word: &str| words.iter().position(|w| w.text == word).unwrap_or(words.len());
            let (from, tint) = (at("from"), at("tint"));
            let over = at("over").min(tint);
            let (from, over) = (from.min(over), over.max(from));
            let parts = [&words[..from], &words[from..over], &words[over..tint], &words[tint..]];
            parts.map(spaced).to_vec()
        }
        LineShape::Step => {
            let mut moment = 1 + usize::from(words[0].kind == SyntaxKind::Plus);
            if words.get(moment).is_some_and(|word| word.kind == SyntaxKind::DotDot) {
                moment = (moment + 2).min(words.len());
            }
            let mut cells = vec![spaced(&words[..moment])];
            cells.extend(held(&words[moment..]));
            cells
        }
        LineShape::Held => held(words),
        LineShape::Rule => {
            let at = |n: Option<usize>| n.unwrap_or(words.len());
            let arrow = at(words.iter().position(|w| w.kind == SyntaxKind::Arrow));
            let over = at(words.iter().position(|w| w.text == "over"));
            let why = (arrow + 2).min(over);
            let parts = [&words[..arrow], &words[arrow..why], &words[why..over], &words[over..]];
            parts.map(spaced).to_vec()
        }
        LineShape::Turn => {
            let over = words.iter().position(|w| w.text == "over").unwrap_or(words.len());
            match words[0].text {
                "on" | "off" | "flip" => {
                    [&words[..1], &words[1..over], &words[over..]].map(spaced).to_vec()
                }
                _ => vec![spaced(words)],
            }
        }
        LineShape::Stop => {
            let signed = matches!(words[0].kind, SyntaxKind::Sign | SyntaxKind::Plus);
            let place = 1 + usize::from(signed);
            let mut cells = vec![spaced(&words[..place])];
            let mut rest = &words[place..];
            // The easing is the last word, or the last word with a bracket that touches it.
            let easing = easing_at(rest);
            let easing = easing.filter(|n| *n > 0).map(|n| rest.split_at(n));
            if let Some((values, _)) = easing {
                rest = values;
            }
            let mut depth = 0usize;
            let mut start = 0;
            for (n, word) in rest.iter().enumerate() {
                match word.kind {
                    SyntaxKind::ParenOpen | SyntaxKind::BracketOpen => depth += 1,
                    SyntaxKind::ParenClose | SyntaxKind::BracketClose => {
                        depth = depth.saturating_sub(1)
                    }
                    SyntaxKind::Comma if depth == 0 => {
                        cells.push(spaced(&rest[start..=n]));
                        start = n + 1;
                    }
                    _ => {}
                }
            }
            cells.push(spaced(&rest[start..]));
            cells.extend(easing.map(|(_, easing)| spaced(easing)));
            cells
        }
    }
}

/// The start of the easing of a stop or step: its last easing word outside parentheses.
fn easing_at(words: &[Word<'_>]) -> Option<usize> {
    let (mut depth, mut found) = (0usize, None);
    for (n, word) in words.iter().enumerate() {
        match word.kind {
            SyntaxKind::ParenOpen | SyntaxKind::BracketOpen => depth += 1,
            SyntaxKind::ParenClose | SyntaxKind::BracketClose => depth = depth.saturating_sub(1),
            SyntaxKind::HyphenWord if depth == 0 => found = Some(n),
            _ if depth == 0 && (words::EASINGS.contains(&word.text) || word.text == "steps") => {
                found = Some(n);
            }
            _ => {}
        }
    }
    found
}

/// A channel, its value and the easing; anything else is one cell.
fn held(words: &[Word<'_>]) -> Vec<String> {
    let path = words.iter().take_while(|w| {
        w.touches || matches!(w.kind, SyntaxKind::Dot) || std::ptr::eq(*w, &words[0])
    });
    let path = path.count();
    if !words[..path].iter().any(|w| w.kind == SyntaxKind::Dot) || path == words.len() {
        return vec![spaced(words)];
    }
    let (channel, value) = words.split_at(path);
    let easing = easing_at(value);
    match easing.filter(|n| *n > 0) {
        Some(n) => [channel, &value[..n], &value[n..]].map(spaced).to_vec(),
        None => [channel, value].map(spaced).to_vec(),
    }
}

/// Joins words with correct spacing.
fn spaced(words: &[Word<'_>]) -> String {
    let mut out = String::new();
    for (n, word) in words.iter().enumerate() {
        let before = n.checked_sub(1).map(|n| words[n]);
        let around = n.checked_sub(2).map(|n| words[n]);
        if before.is_some_and(|before| parts(around, before, *word)) {
            out.push(' ');
        }
        out.push_str(word.text);
    }
    out
}

/// Whether no operand precedes an operator.
fn is_open(word: Word<'_>) -> bool {
    matches!(
        word.kind,
        SyntaxKind::ParenOpen
            | SyntaxKind::Comma
            | SyntaxKind::DotDot
            | SyntaxKind::Equals
            | SyntaxKind::Plus
            | SyntaxKind::Minus
            | SyntaxKind::Star
            | SyntaxKind::Slash
            | SyntaxKind::Semicolon
            | SyntaxKind::BraceOpen
    )
}

/// Whether a space separates two words; `around` is the word before both.
fn parts(around: Option<Word<'_>>, before: Word<'_>, word: Word<'_>) -> bool {
    // `srgb-linear` is one word to a reader.
    let srgb = |w: Word<'_>| w.text == "srgb";
    let hyphen = |w: Word<'_>| w.kind == SyntaxKind::Minus && w.touches;
    if srgb(before) && hyphen(word) || around.is_some_and(srgb) && hyphen(before) {
        return false;
    }
    // A dot of its own after a number is not part of it.
    if word.kind == SyntaxKind::Dot && before.kind == SyntaxKind::Number {
        return !word.touches;
    }
    match (before.kind, word.kind) {
        (
            SyntaxKind::ParenOpen
            | SyntaxKind::BracketOpen
            | SyntaxKind::DotDot
            | SyntaxKind::Dot
            | SyntaxKind::Sign,
            _,
        ) => false,
        (
            _,
            SyntaxKind::ParenClose
            | SyntaxKind::BracketClose
            | SyntaxKind::Comma
            | SyntaxKind::Semicolon
            | SyntaxKind::DotDot
            | SyntaxKind::Dot,
        ) => false,
        // A bracket that touches makes a call or an array.
        (_, SyntaxKind::ParenOpen | SyntaxKind::BracketOpen) => {
            !word.touches || is_open(before) || before.kind == SyntaxKind::Equals
        }
        // `+x` stays together.
        (SyntaxKind::Plus, _) if around.is_none_or(is_open) => !word.touches,
        _ => true,
    }
}

/// Aligns the cells of adjacent lines of one shape.
fn align(lines: &mut [TextLine<'_>]) {
    let mut start = 0;
    while start < lines.len() {
        let mut end = start + 1;
        if lines[start].shape != LineShape::Free {
            while end < lines.len()
                && lines[end].shape == lines[start].shape
                && lines[end].indent == lines[start].indent
            {
                end += 1;
            }
            pad(&mut lines[start..end]);
        }
        start = end;
    }
}

fn pad(block: &mut [TextLine<'_>]) {
    let columns = block.iter().map(|line| line.cells.len()).max().unwrap_or(0);
    // Named lines have one blank before `=`, others two between columns.
    let gap = if matches!(block[0].shape, LineShape::Named(_)) { " " } else { GAP };
    for column in 0..columns {
        let wide = |line: &TextLine<'_>| line.cells[column].chars().count();
        let widest = block.iter().filter(|l| l.cells.len() > column + 1).map(wide).max();
        if widest == Some(0) {
            continue;
        }
        for line in block.iter_mut().filter(|line| line.cells.len() > column + 1) {
            let short = widest.unwrap_or(0).saturating_sub(line.cells[column].chars().count());
            line.cells[column].push_str(&" ".repeat(short));
            line.cells[column].push_str(gap);
        }
    }
}

impl TextLine<'_> {
    /// Whether the next word is the day of a date such as `date 11-20`.
    fn joins_date(&self, kind: SyntaxKind) -> bool {
        let [date, month, minus] = &self.words[..] else { return false };
        kind == SyntaxKind::Number
            && date.text == "date"
            && month.kind == SyntaxKind::Number
            && minus.kind == SyntaxKind::Minus
            && minus.touches
    }

    fn write(&self, out: &mut String) {
        let mut line = " ".repeat(self.indent);
        line.extend(self.cells.iter().map(String::as_str));
        let code = line.trim_end();
        if let Some(comment) = self.comment {
            if code.is_empty() {
                line = " ".repeat(self.indent) + comment;
            } else {
                // A comment stays where it stood, if there is room.
                let wide = code.chars().count();
                let at = self.comment_at.max(wide + 2);
                line = format!("{code}{}{comment}", " ".repeat(at - wide));
            }
        }
        out.push_str(line.trim_end());
        out.push('\n');
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_crooked_book_comes_out_straight() {
        let crooked = "lightbook   \"Slip\"\n\n\n\ncolor a=2100K\ncolor longer   = #ffffff  // why\n\
            curve c{\n0s 100%\n450ms   82%  smooth\n1.1s 118% cubic-bezier( 0.3,-0.4 , 0.7,1.4 )\n}\n\
            light  l[ 3 ]  point {\nintensity 5lm*loop( c ,scatter)+ -1lm\n color    a // tint\n\
            position (0m,1m, -2m),(1m,0m,0m)\n}\n";
        let straight = "lightbook \"Slip\"\n\ncolor a      = 2100K\ncolor longer = #ffffff    // why\n\
            curve c {\n  0s     100%\n  450ms  82%   smooth\n  1.1s   118%  cubic-bezier(0.3, -0.4, 0.7, 1.4)\n}\n\
            light l[3] point {\n  intensity  5lm * loop(c, scatter) + -1lm\n  color      a  // tint\n  \
            position   (0m, 1m, -2m), (1m, 0m, 0m)\n}\n";
        assert_eq!(format(crooked).unwrap(), straight);
        assert_eq!(format(straight).unwrap(), straight);
    }

    #[test]
    fn the_parts_of_phases_stand_below_each_other() {
        let crooked = "lightbook \"D\"\nphases mood {\nnight from 21:30 over 01:00 before tint #0d1420\n\
            forenoon from sun.rise   tint #ffffff // bright\n dusk from 17:00 over 00:10\n}\n\
            phases plain {\na from 06:00\nlonger from 18:00\n}\n";
        let straight = "lightbook \"D\"\nphases mood {\n  \
            night     from 21:30     over 01:00 before  tint #0d1420\n  \
            forenoon  from sun.rise                     tint #ffffff  // bright\n  \
            dusk      from 17:00     over 00:10\n}\n\
            phases plain {\n  a       from 06:00\n  longer  from 18:00\n}\n";
        assert_eq!(format(crooked).unwrap(), straight);
        assert_eq!(format(straight).unwrap(), straight);
    }

    #[test]
    fn the_parts_of_rules_and_steps_stand_below_each_other() {
        let crooked = "lightbook \"D\"\nswitch power {\nstarts on\noff at cut, gone over 60ms\non at back over 2s smooth\n}\n\
            modes m {\ncalm, watch\ncalm->watch when swell above 50% for 2s over 3s\nany -> calm at clear\n}\n\
            sequence s at go again restart {\n0s a.intensity 0cd jump\n2s {\na[3].color #ffb000 jump\n  a.intensity 40cd\n}\n\
            +2.5s mark gate\n8s mast.intensity base*40% smooth\n12s return over 1.5s\n}\n\
            group g {\nlights a, b\ndim with power to 3%\n}\n";
        let straight = "lightbook \"D\"\nswitch power {\n  starts on\n  off  at cut, gone  over 60ms\n  on   at back       over 2s smooth\n}\n\
            modes m {\n  calm, watch\n  calm  -> watch  when swell above 50% for 2s  over 3s\n  any   -> calm   at clear\n}\n\
            sequence s at go again restart {\n  0s  a.intensity  0cd  jump\n  2s {\n    a[3].color   #ffb000  jump\n    a.intensity  40cd\n  }\n  \
            +2.5s  mark gate\n  8s     mast.intensity  base * 40%  smooth\n  12s    return over 1.5s\n}\n\
            group g {\n  lights  a, b\n  dim     with power to 3%\n}\n";
        assert_eq!(format(crooked).unwrap(), straight);
        assert_eq!(format(straight).unwrap(), straight);
    }

    #[test]
    fn a_book_with_mistakes_of_form_is_not_touched() {
        assert!(format("lightbook \"B\"\nlight a point { intensity (1lm }").is_err());
    }
}
