//! The words of the language, for the parser, for suggestions and for the docs' own test.

use caltrin_core::pure::Pure;

/// Words that start a declaration in this version.
pub const DECLARATIONS: [&str; 30] = [
    "seed",
    "use",
    "space",
    "color",
    "value",
    "signal",
    "input",
    "curve",
    "behaviour",
    "fitting",
    "place",
    "light",
    "output",
    "wall",
    "post",
    "choice",
    "clock",
    "window",
    "phases",
    "sun",
    "moon",
    "event",
    "switch",
    "modes",
    "sequence",
    "group",
    "rehearsal",
    "at",
    "spark",
    "sound",
];
/// Kinds of light.
pub const LIGHTS: [&str; 5] = ["point", "spot", "area", "directional", "ambient"];
/// Functions of the language that are more than one of numbers alone; [`functions`] has all.
pub const FUNCTIONS: [&str; 33] = [
    "held",
    "drift",
    "wander",
    "bursts",
    "one",
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
    "shift",
    "stretch",
    "snap",
    "min",
    "max",
    "clamp",
    "map",
    "mix",
    "edge",
    "kelvin",
    "hue",
    "shade",
    "pick",
    "pulse",
    "play",
    "follow",
    "pace",
    "near",
];
/// All functions of the language.
pub fn functions<'a>() -> impl Iterator<Item = &'a str> {
    FUNCTIONS.into_iter().chain(Pure::ALL.iter().filter_map(|function| function.word()))
}

/// Whether the language has a function of this name.
pub fn is_function(word: &str) -> bool {
    functions().any(|known| known == word)
}

/// Easings that are one word.
pub const EASINGS: [&str; 7] =
    ["jump", "linear", "smooth", "ease", "ease-in", "ease-out", "ease-in-out"];

/// The word that was probably meant.
pub fn nearest<'a>(word: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let most = (word.chars().count() / 3).clamp(1, 3);
    known
        .into_iter()
        .filter(|other| *other != word)
        .map(|other| (strsim::damerau_levenshtein(word, other), other))
        .filter(|(distance, _)| *distance <= most)
        .min_by_key(|(distance, _)| *distance)
        .map(|(_, other)| other)
}
