//! The words of the language, for the parser, for suggestions and for the docs' own test.

/// Words that start a declaration in this version.
pub const DECLARATIONS: [&str; 7] =
    ["seed", "color", "value", "signal", "curve", "behaviour", "light"];
/// Words that start a declaration in a later version of the language.
pub const LATER: [&str; 19] = [
    "use",
    "clock",
    "space",
    "input",
    "choice",
    "sound",
    "event",
    "fitting",
    "place",
    "spark",
    "output",
    "switch",
    "modes",
    "phases",
    "window",
    "sequence",
    "group",
    "at",
    "rehearsal",
];
/// Kinds of light in this version.
pub const LIGHTS: [&str; 3] = ["point", "spot", "ambient"];
/// Kinds of light in a later version.
pub const LATER_LIGHTS: [&str; 2] = ["area", "directional"];
/// Channels in a later version.
pub const LATER_CHANNELS: [&str; 4] = ["falloff", "offset", "aim", "shadows"];
/// Functions of the language.
pub const FUNCTIONS: [&str; 8] =
    ["held", "once", "loop", "alternate", "min", "max", "clamp", "mix"];
/// Functions of a later version.
pub const LATER_FUNCTIONS: [&str; 22] = [
    "drift", "wander", "bursts", "sine", "triangle", "square", "saw", "blink", "rhythm", "later",
    "map", "one", "pick", "play", "pulse", "follow", "kelvin", "near", "snap", "stretch", "shift",
    "pace",
];
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
