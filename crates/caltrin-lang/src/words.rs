//! The words of the language, for the parser, suggestions and the test of the docs.

use caltrin_core::pure::Pure;

/// Words that start a declaration of the book.
pub const DECLARATIONS: [&str; 33] = crate::grammar::book_words();
/// Kinds of light.
pub const LIGHTS: [&str; 5] = ["point", "spot", "area", "directional", "ambient"];
/// Functions of the language that are not functions of numbers only; [`functions`] returns all.
pub const FUNCTIONS: [&str; 33] = [
    "held",
    "drift",
    "wander",
    "bursts",
    "drawn",
    "once",
    "loop",
    "alternate",
    "sine",
    "triangle",
    "square",
    "saw",
    "blink",
    "rhythm",
    "later",
    "stretch",
    "stepped",
    "min",
    "max",
    "clamp",
    "map",
    "mix",
    "threshold",
    "kelvin",
    "daylight",
    "hue",
    "scaled",
    "pick",
    "pulse",
    "play",
    "follow",
    "pace",
    "near",
];
/// Functions of earlier versions, with their current names. No behavior or curve may have such a name.
pub const OLD_FUNCTIONS: [(&str, &str); 5] = [
    ("shade", "scaled"),
    ("snap", "stepped"),
    ("edge", "threshold"),
    ("one", "drawn"),
    ("shift", "later"),
];
/// Accepted spellings of words; the formatter writes the second.
pub const SPELLINGS: [(&str, &str); 2] = [("behaviour", "behavior"), ("colour", "color")];

/// The language's spelling of a word.
pub fn spelled(word: &str) -> &str {
    SPELLINGS.iter().find(|(other, _)| *other == word).map_or(word, |(_, ours)| ours)
}

/// The current name of a function.
pub fn current(function: &str) -> &str {
    OLD_FUNCTIONS.iter().find(|(old, _)| *old == function).map_or(function, |(_, new)| new)
}

/// All functions of the language.
pub fn functions<'a>() -> impl Iterator<Item = &'a str> {
    FUNCTIONS.into_iter().chain(Pure::ALL.iter().filter_map(|function| function.word()))
}

/// Whether the language has a function of this name.
pub fn is_function(word: &str) -> bool {
    functions().any(|known| known == word)
}

/// Easings that consist of one word.
pub const EASINGS: [&str; 7] =
    ["jump", "linear", "smooth", "ease", "ease-in", "ease-out", "ease-in-out"];

/// Common words and the language's words for them.
const OTHERWISE: [(&str, &str); 48] = [
    ("flicker", "held"),
    ("random", "held"),
    ("rand", "held"),
    ("noise", "drift"),
    ("sin", "sine"),
    ("wave", "sine"),
    ("ramp", "map"),
    ("lerp", "mix"),
    ("blend", "mix"),
    ("strobe", "blink"),
    ("flash", "blink"),
    ("delay", "later"),
    ("sqrt", "root"),
    ("brightness", "intensity"),
    ("strength", "intensity"),
    ("power", "intensity"),
    ("tint", "color"),
    ("radius", "reach"),
    ("range", "reach"),
    ("angle", "cone"),
    ("direction", "aim"),
    ("target", "aim"),
    ("shadow", "shadows"),
    ("attenuation", "falloff"),
    ("pos", "position"),
    ("visible", "intensity"),
    ("alpha", "intensity"),
    ("repeat", "loop"),
    ("pingpong", "alternate"),
    ("floor", "stepped"),
    ("steps", "stepped"),
    ("step", "threshold"),
    ("smoothstep", "threshold"),
    ("select", "pick"),
    ("jitter", "wander"),
    ("shake", "wander"),
    ("chase", "later"),
    ("stagger", "later"),
    ("wait", "later"),
    ("keyframes", "curve"),
    ("keys", "curve"),
    ("state", "modes"),
    ("states", "modes"),
    ("scene", "sequence"),
    ("cue", "sequence"),
    ("timeline", "sequence"),
    ("import", "use"),
    ("fade", "switch"),
];

/// An example call of each function that is not of numbers alone, for help in messages.
const EXAMPLES: [&str; 22] = [
    "held(80%..100%, every 70ms..210ms)",
    "drift(40%..100%, rate 2Hz)",
    "wander(radius 3cm, rate 4Hz)",
    "bursts(on 80ms..600ms, off 2s..9s)",
    "drawn(90%..110%)",
    "sine(20%..60%, every 3.1s)",
    "triangle(20%..60%, every 3.1s)",
    "saw(20%..60%, every 3.1s)",
    "square(20%..60%, every 3.1s, on 35%)",
    "blink(on 300ms, off 700ms)",
    "rhythm(on 300ms, off 300ms, on 300ms, off 5.1s)",
    "later(sine(every 3.1s), by 2s)",
    "stretch(sine(every 3.1s), by 150%)",
    "stepped(sine(every 3.1s), every 40ms)",
    "min(50%, 80%)",
    "max(50%, 80%)",
    "clamp(sine(every 3.1s), to 5%..95%)",
    "map(sine(every 3.1s), from 0%..100%, to 2..9)",
    "mix(20%, 80%, by sine(every 3.1s))",
    "threshold(sine(every 3.1s), at 40%, over 10%)",
    "kelvin(2000 + 400 * sine(every 3.1s))",
    "daylight(6500)",
];

/// The example call of a function, if there is one.
pub fn example(function: &str) -> Option<&'static str> {
    examples()
        .find(|example| example.strip_prefix(function).is_some_and(|rest| rest.starts_with('(')))
}

/// All example calls.
pub fn examples() -> impl Iterator<Item = &'static str> {
    EXAMPLES.into_iter().chain(Pure::ALL.iter().filter_map(|function| function.example()))
}

/// Functions that create a color from components, as in CSS Color 4.
pub const COLOR_FUNCTIONS: [&str; 5] = ["rgb", "hsl", "oklab", "oklch", "color"];

/// The language's word for a common word, in any context.
pub fn instead(word: &str) -> Option<String> {
    let (_, ours) = OTHERWISE.iter().find(|(theirs, _)| *theirs == word)?;
    Some(match example(ours) {
        Some(call) => format!("did you mean `{ours}`, as in `{call}`?"),
        None => format!("did you mean `{ours}`?"),
    })
}

/// The word that was probably intended.
pub fn nearest<'a>(word: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    // What nobody writes by hand is compared with nothing: the time goes with the square of the length.
    const LONGEST: usize = 80;
    let length = word.chars().count();
    if length > LONGEST {
        return None;
    }
    let most = (length / 3).clamp(1, 3);
    let known: Vec<&str> = known.into_iter().collect();
    let mut otherwise = OTHERWISE.iter().filter(|(theirs, _)| *theirs == word);
    if let Some(ours) = otherwise.find_map(|(_, ours)| known.iter().find(|one| *one == ours)) {
        return Some(ours);
    }
    known
        .into_iter()
        .filter(|other| *other != word && other.chars().count().abs_diff(length) <= most)
        .map(|other| (strsim::damerau_levenshtein(word, other), other))
        .filter(|(distance, _)| *distance <= most)
        .min_by_key(|(distance, _)| *distance)
        .map(|(_, other)| other)
}
