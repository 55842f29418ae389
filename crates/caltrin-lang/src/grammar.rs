//! The table of declarations. The parser, suggestions, the resolver, the formatter, language
//! services and the tests of the reference and of the editors' grammar all read it.
//!
//! To add a declaration: a line here, its nodes in `syntax.rs`, how its lines are parsed in
//! `parser/`, its typed node in `ast/`, and what it means in `resolve/`.

use crate::syntax_kind::SyntaxKind;

/// What contains a declaration.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Around {
    /// The book itself.
    Book,
    /// A light, spark or output.
    Light,
    /// A behavior in braces.
    Behavior,
    /// A fitting.
    Fitting,
}

/// What makes a line of a light a declaration and not one of its channels or values.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Starts {
    /// The word alone.
    Word,
    /// A name follows.
    Named,
    /// A name and `=` follow.
    Assigned,
    /// A name and `{` follow.
    Braced,
    /// Nothing: in a light the word is an ordinary name.
    Never,
}

/// What `use` does with a declaration of the other book.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Import {
    /// It is not brought.
    Own,
    /// It is brought; a declaration of the same name in the book itself hides it.
    Hidden,
    /// It is brought, and two of the same name are an error.
    Once,
}

/// How the formatter aligns the lines in braces.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Alignment {
    /// Not at all, or there are no braces.
    None,
    /// The first word, then the rest.
    Properties,
    /// Position, values, easing.
    Stops,
    /// Name, hour, transition, tint.
    Phases,
    /// Time, channel, value, easing.
    Steps,
    /// Source, target, trigger, duration.
    Rules,
    /// State, event, duration.
    Turns,
    /// Time, then the rest.
    Moments,
}

/// A line in the braces of a declaration.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Clause {
    /// Its first word; empty if it starts with a name or a position.
    pub word: &'static str,
    /// An example of the whole line.
    pub example: &'static str,
}

/// A declaration of the language.
#[derive(Clone, Copy, Debug)]
pub struct Declaration {
    /// Which one it is.
    pub keyword: Keyword,
    /// Its first word.
    pub word: &'static str,
    /// The node that it is in the tree.
    pub node: SyntaxKind,
    /// What it declares, for messages: `list of phases`.
    pub noun: &'static str,
    /// Where it can stand.
    pub inside: &'static [Around],
    /// What to say where it cannot stand; empty for the usual message.
    pub elsewhere: &'static str,
    /// What makes a line of a light this declaration.
    pub starts: Starts,
    /// What `use` does with it.
    pub import: Import,
    /// Whether a book in which nothing uses it is warned about.
    pub wants_use: bool,
    /// Whether it is something that the game reads: a light, spark, output or place.
    pub shines: bool,
    /// Whether its lines are also channels: [`CHANNELS`].
    pub channels: bool,
    /// How the formatter aligns its lines.
    pub alignment: Alignment,
    /// An example of its first line.
    pub example: &'static str,
    /// The lines in its braces, other than declarations and channels.
    pub clauses: &'static [Clause],
}

/// The channels of lights and sparks, each with an example.
pub const CHANNELS: &[Clause] = &[
    Clause { word: "intensity", example: "intensity 600lm" },
    Clause { word: "color", example: "color 2100K" },
    Clause { word: "reach", example: "reach 2m..12m" },
    Clause { word: "cone", example: "cone 20deg..35deg" },
    Clause { word: "falloff", example: "falloff 2" },
    Clause { word: "position", example: "position (0m, 6m, 0m), (4m, 0m, 0m)" },
    Clause { word: "offset", example: "offset wander(radius 3cm, rate 4Hz)" },
    Clause { word: "aim", example: "aim (0m, -1m, 0m)" },
    Clause { word: "shadows", example: "shadows on" },
];

/// One entry a declaration.
macro_rules! declarations {
    ($(
        $keyword:ident $word:literal $node:ident $noun:literal in [$($around:ident)*]
        $starts:ident $import:ident $alignment:ident $example:literal
        $([$($flag:ident)*])? $(elsewhere $elsewhere:literal)?
        $({ $($clause:literal $line:literal,)* })?
    ;)*) => {
        /// The first words of declarations.
        #[allow(missing_docs, reason = "each name is the word")]
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
        pub enum Keyword {
            $($keyword,)*
        }

        /// All declarations, in the order in which messages list them.
        pub const DECLARATIONS: &[Declaration] = &[$(
            Declaration {
                keyword: Keyword::$keyword,
                word: $word,
                node: SyntaxKind::$node,
                noun: $noun,
                inside: &[$(Around::$around,)*],
                elsewhere: first(&[$($elsewhere)?]),
                starts: Starts::$starts,
                import: Import::$import,
                wants_use: has(&[$($(stringify!($flag),)*)?], "wants_use"),
                shines: has(&[$($(stringify!($flag),)*)?], "shines"),
                channels: has(&[$($(stringify!($flag),)*)?], "channels"),
                alignment: Alignment::$alignment,
                example: $example,
                clauses: &[$($(Clause { word: $clause, example: $line },)*)?],
            },
        )*];
    };
}

const fn first(all: &[&'static str]) -> &'static str {
    if all.is_empty() { "" } else { all[0] }
}

const fn has(flags: &[&str], flag: &str) -> bool {
    let mut n = 0;
    while n < flags.len() {
        // The flags differ in length.
        if flags[n].len() == flag.len() {
            return true;
        }
        n += 1;
    }
    false
}

declarations! {
    Seed "seed" SeedDecl "seed" in [Book Light] Word Own None "seed 41"
        elsewhere "a seed belongs in the book or in a light";
    Notices "notices" NoticesDecl "size of the queue of notices" in [Book] Never Own None "notices 64";
    Use "use" UseDecl "used book" in [Book] Never Once None "use \"stock\"";
    Space "space" SpaceDecl "space" in [Book] Never Own Properties "space { up z; unit 1cm }" {
        "up" "up z",
        "unit" "unit 1cm",
    };
    Color "color" NamedDecl "color" in [Book Light Behavior Fitting] Assigned Hidden None
        "color sodium = 2100K" [wants_use];
    Value "value" NamedDecl "value" in [Book Light Behavior Fitting] Assigned Hidden None
        "value floor = 12%" [wants_use];
    Signal "signal" NamedDecl "signal" in [Book Light Behavior Fitting] Assigned Hidden None
        "signal gust = drift(0..1, rate 0.3Hz)" [wants_use];
    Input "input" InputDecl "input" in [Book Light Fitting] Assigned Once None
        "input swell = 20% in 0%..100%" [wants_use]
        elsewhere "a behavior has parameters, not inputs; declare the input outside it";
    Curve "curve" CurveDecl "curve" in [Book] Named Hidden Stops "curve dip { 0s 100%; 400ms 20% }"
        [wants_use] {
        "columns" "columns level, tint",
        "blend" "blend linear",
        "length" "length 1.3s",
        "" "450ms 82% smooth",
    };
    Behavior "behavior" BehaviorDecl "behavior" in [Book] Named Hidden None
        "behavior buzzing(floor = 85%) = held(floor..100%, every 60ms..240ms)" [wants_use];
    Fitting "fitting" FittingDecl "fitting" in [Book] Never Hidden None
        "fitting bollard(strength = 300lm) { light head point { intensity strength } }" [wants_use];
    Place "place" PlaceDecl "place" in [Book Fitting] Never Own Properties
        "place quay[3] of bollard { position (0m, 0m, 0m), (5m, 0m, 0m) }" [shines] {
        "position" "position (0m, 0m, 0m), (5m, 0m, 0m)",
        "except" "except [1] { position (3m, 0m, 0m) }",
    };
    Light "light" LightDecl "light" in [Book Fitting] Named Own Properties
        "light mast[8] spot { intensity 600lm }" [shines channels] {
        "tags" "tags actors, scenery",
        "except" "except [3] { color 2700K }",
    };
    Output "output" OutputDecl "output" in [Book Fitting] Never Own Properties
        "output fog = 30%" [shines] {
        "" "level 30%",
        "tags" "tags weather",
        "except" "except [3] { level 0% }",
    };
    Wall "wall" WallDecl "wall" in [Book] Never Own Properties
        "wall shed { along (0m, 0m, 4m)..(8m, 0m, 4m); height 3m }" {
        "along" "along (0m, 0m, 4m)..(8m, 0m, 4m)",
        "height" "height 3m",
    };
    Post "post" PostDecl "post" in [Book] Never Own Properties
        "post pile[4] { position (0m, 0m, 0m), (3m, 0m, 0m); radius 20cm; height 2m }" {
        "position" "position (0m, 0m, 0m), (3m, 0m, 0m)",
        "radius" "radius 20cm",
        "height" "height 2m",
    };
    Eye "eye" EyeDecl "eye" in [Book] Never Own Properties
        "eye door { at (0m, 1.7m, 8m); toward (0m, 2m, 0m); field 70deg }" {
        "at" "at (0m, 1.7m, 8m)",
        "toward" "toward (0m, 2m, 0m)",
        "field" "field 70deg",
        "fog" "fog view_range, haze",
        "sky" "sky sky_tint",
    };
    Backdrop "backdrop" BackdropDecl "backdrop" in [Book] Never Own Properties
        "backdrop \"deck.png\" { from (-10m, 0m, -6m); to (10m, 0m, 6m) }" {
        "from" "from (-10m, 0m, -6m)",
        "to" "to (10m, 0m, 6m)",
    };
    Choice "choice" ChoiceDecl "choice" in [Book] Braced Once None
        "choice region { coast, hills } over 8s" [wants_use];
    Clock "clock" ClockDecl "clock" in [Book] Never Once Properties
        "clock { day 24min; start 15:40 }" {
        "day" "day 24min",
        "start" "start 15:40",
        "rate" "rate 2",
    };
    Hours "hours" HoursDecl "hours" in [Book] Never Once None
        "hours open from 06:00 to 20:00 over 00:40" [wants_use];
    Phases "phases" PhasesDecl "list of phases" in [Book] Never Once Phases
        "phases mood { night from 21:30 over 01:00; day from 06:30 over 01:00 }" [wants_use] {
        "" "night from 21:30 over 01:00 before tint #0d1420",
    };
    Sun "sun" SunDecl "sun" in [Book] Never Once Properties
        "sun { latitude 54deg; date 11-20 }" [wants_use] {
        "latitude" "latitude 54deg",
        "longitude" "longitude 7deg",
        "date" "date 11-20",
        "year" "year 2031",
        "zone" "zone 1",
        "rises" "rises 06:30",
        "sets" "sets 20:10",
        "highest" "highest 61deg",
        "lowest" "lowest -40deg",
        "twilight" "twilight 00:25",
    };
    Moon "moon" MoonDecl "moon" in [Book] Never Once Properties "moon { age 3 + days }" [wants_use] {
        "age" "age 3 + days",
    };
    Event "event" EventDecl "event" in [Book Light Fitting] Named Once None
        "event fault every 25s..70s" [wants_use];
    Switch "switch" SwitchDecl "switch" in [Book Light Fitting] Named Hidden Turns
        "switch power { starts on; flip at toggle over 400ms }" [wants_use] {
        "starts" "starts on",
        "on" "on at power_back over 2s smooth",
        "off" "off at power_cut over 60ms",
        "flip" "flip at toggle over 400ms",
    };
    Modes "modes" ModesDecl "list of modes" in [Book Light Fitting] Named Hidden Rules
        "modes warning { calm, alarm; calm -> alarm at storm over 2s }" [wants_use] {
        "" "calm -> alarm when swell above 80% over 400ms",
    };
    Sequence "sequence" SequenceDecl "sequence" in [Book] Never Own Steps
        "sequence docking at ferry_docks { 2s gangway.intensity 400cd smooth; 12s return over 2s }" {
        "" "2s gangway.intensity 400cd smooth",
        "stops" "stops at power_cut over 400ms",
    };
    Group "group" GroupDecl "group" in [Book] Never Own Properties
        "group pier { lights mast, quay; dim with power to 3% }" {
        "lights" "lights mast, quay",
        "dim" "dim with power to 3%",
        "tint" "tint with power to #3a2413",
    };
    Rehearsal "rehearsal" RehearsalDecl "rehearsal" in [Book] Never Own Moments
        "rehearsal evening { 3s ferry_docks; 20s expect mast.intensity above 900lm; 60s end }" {
        "clock" "clock 16:20",
        "" "3s ferry_docks",
    };
    At "at" SendDecl "notice" in [Book Light Fitting] Word Own None
        "at fault send strike(\"strike_a\" or \"strike_b\")";
    Spark "spark" SparkDecl "spark" in [Book] Never Own Properties
        "spark shell[6] point at rocket { lives 900ms..1.6s; intensity 900cd * (1 - life) }"
        [shines channels] {
        "lives" "lives 900ms..1.6s",
        "overflow" "overflow oldest",
        "tags" "tags effects",
    };
    Sound "sound" SoundDecl "sound" in [Book] Named Hidden None
        "sound horn = \"sounds/horn.wav\" { starts at ferry_docks }" [wants_use] {
        "starts" "starts at ferry_docks",
        "stops" "stops at power_cut",
        "loops" "loops",
        "once" "once",
        "speed" "speed 150%",
        "position" "position 2s at seek",
    };
    Gives "gives" Gives "value" in [Behavior] Never Own None
        "gives held(80%..100%, every 70ms..210ms)";
}

/// The words that start a declaration of the book.
pub const fn book_words() -> [&'static str; DECLARATIONS.len() - 1] {
    let mut words = [""; DECLARATIONS.len() - 1];
    let mut n = 0;
    while n < words.len() {
        words[n] = DECLARATIONS[n].word;
        n += 1;
    }
    words
}

impl Keyword {
    /// Its entry in the table.
    pub fn declaration(self) -> &'static Declaration {
        &DECLARATIONS[self as usize]
    }
}

/// The declaration that starts with a word.
pub fn declaration(word: &str) -> Option<&'static Declaration> {
    DECLARATIONS.iter().find(|declaration| declaration.word == word)
}

/// The declarations that can stand inside something.
pub fn inside(around: Around) -> impl Iterator<Item = &'static Declaration> {
    DECLARATIONS.iter().filter(move |declaration| declaration.inside.contains(&around))
}

/// The entry of a node; that of `color`, `value` and `signal` is told by their first word.
pub fn of_node(kind: SyntaxKind, word: &str) -> Option<&'static Declaration> {
    let mut own = DECLARATIONS.iter().filter(|declaration| declaration.node == kind);
    let first = own.clone().next()?;
    let named = own.find(|declaration| declaration.word == word);
    Some(named.unwrap_or(first))
}

impl Declaration {
    /// The lines in its braces, other than declarations.
    pub fn lines(&self) -> impl Iterator<Item = &'static Clause> {
        let channels = if self.channels { CHANNELS } else { &[] };
        channels.iter().chain(self.clauses)
    }

    /// Its first clause with a word.
    pub fn clause(&self, word: &str) -> Option<&'static Clause> {
        self.lines().find(|clause| clause.word == word)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_is_indexed_by_its_keywords() {
        for (n, declaration) in DECLARATIONS.iter().enumerate() {
            assert_eq!(declaration.keyword as usize, n);
            assert_eq!(declaration.keyword.declaration().word, declaration.word);
        }
    }

    #[test]
    fn the_channels_are_those_of_the_program() {
        let words: Vec<&str> = CHANNELS.iter().map(|channel| channel.word).collect();
        let known: Vec<&str> =
            caltrin_core::program::CHANNELS.iter().map(|channel| channel.name).collect();
        assert_eq!(words, known);
    }

    #[test]
    fn all_but_the_last_can_stand_in_the_book() {
        let words: Vec<&str> = inside(Around::Book).map(|declaration| declaration.word).collect();
        assert_eq!(words, book_words());
    }

    #[test]
    fn flags_are_told_apart_by_their_lengths() {
        let lengths = ["wants_use", "shines", "channels"].map(str::len);
        assert!(lengths[0] != lengths[1] && lengths[1] != lengths[2] && lengths[0] != lengths[2]);
        assert!(Keyword::Light.declaration().shines && !Keyword::Light.declaration().wants_use);
        assert!(Keyword::Sun.declaration().wants_use && !Keyword::Sun.declaration().shines);
    }
}
