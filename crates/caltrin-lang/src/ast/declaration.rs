//! Declarations.

use super::{
    AstNode, Body, CurveLength, EventSource, Expr, GroupLine, LightPath, Over, Parameter, Path,
    Phase, Property, RehearsalLine, Rule, SequenceStep, SoundLine, Span, Stop, SwitchLine, child,
    children, nodes, second_word, token_of, tokens, unquoted,
};
use crate::grammar::{self, Declaration};
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;

nodes! {
    /// A whole text.
    Book = Book;
    /// `seed 41`
    Seed = SeedDecl;
    /// `notices 64`
    Notices = NoticesDecl;
    /// `use "stock"`
    Use = UseDecl;
    /// `space { up z; unit 1cm }`
    Space = SpaceDecl;
    /// `color`, `value` or `signal`.
    Named = NamedDecl;
    /// `input swell = 20% in 0%..100%`
    Input = InputDecl;
    /// `curve dip { 0s 100%; 400ms 20% }`
    Curve = CurveDecl;
    /// `behavior buzzing(floor = 85%) = ...`
    Behavior = BehaviorDecl;
    /// `fitting bollard(strength = 300lm) { ... }`
    Fitting = FittingDecl;
    /// `place quay[3] of bollard { ... }`
    Place = PlaceDecl;
    /// `light mast[8] spot { ... }`
    Light = LightDecl;
    /// `spark shell[6] point at rocket { ... }`
    Spark = SparkDecl;
    /// `output fog = 30%`
    Output = OutputDecl;
    /// `wall shed { ... }`
    Wall = WallDecl;
    /// `post pile[4] { ... }`
    Post = PostDecl;
    /// `eye door { ... }`
    Eye = EyeDecl;
    /// `backdrop "deck.png" { ... }`
    Backdrop = BackdropDecl;
    /// `clock { day 24min; start 15:40 }`
    Clock = ClockDecl;
    /// `choice region { coast, hills } over 8s`
    Choice = ChoiceDecl;
    /// `hours open from 06:00 to 20:00`
    Hours = HoursDecl;
    /// `phases mood { ... }`
    Phases = PhasesDecl;
    /// `sun { ... }`
    Sun = SunDecl;
    /// `moon { ... }`
    Moon = MoonDecl;
    /// `event fault every 25s..70s`
    Event = EventDecl;
    /// `switch power { ... }`
    Switch = SwitchDecl;
    /// `modes warning { ... }`
    Modes = ModesDecl;
    /// `sound horn = "sounds/horn.wav" { ... }`
    Sound = SoundDecl;
    /// `group pier { ... }`
    Group = GroupDecl;
    /// `sequence docking at ferry_docks { ... }`
    Sequence = SequenceDecl;
    /// `rehearsal evening { ... }`
    Rehearsal = RehearsalDecl;
    /// `at fault send strike("strike_a")`
    Send = SendDecl;
    /// `gives held(80%..100%, every 70ms..210ms)`
    Gives = Gives;
}

/// Each with its node in the tree.
macro_rules! decls {
    ($($name:ident = $kind:ident,)*) => {
        /// Any declaration.
        #[derive(Clone, Debug, PartialEq, Eq, Hash)]
        #[allow(missing_docs, reason = "each is the type of that name")]
        pub enum Decl {
            $($name($name),)*
        }

        impl AstNode for Decl {
            fn cast(node: Node) -> Option<Self> {
                Some(match node.kind() {
                    $(SyntaxKind::$kind => Decl::$name($name(node)),)*
                    _ => return None,
                })
            }

            fn syntax(&self) -> &Node {
                match self {
                    $(Decl::$name($name(node)) => node,)*
                }
            }
        }
    };
}

decls! {
    Seed = SeedDecl,
    Notices = NoticesDecl,
    Use = UseDecl,
    Space = SpaceDecl,
    Named = NamedDecl,
    Input = InputDecl,
    Curve = CurveDecl,
    Behavior = BehaviorDecl,
    Fitting = FittingDecl,
    Place = PlaceDecl,
    Light = LightDecl,
    Spark = SparkDecl,
    Output = OutputDecl,
    Wall = WallDecl,
    Post = PostDecl,
    Eye = EyeDecl,
    Backdrop = BackdropDecl,
    Clock = ClockDecl,
    Choice = ChoiceDecl,
    Hours = HoursDecl,
    Phases = PhasesDecl,
    Sun = SunDecl,
    Moon = MoonDecl,
    Event = EventDecl,
    Switch = SwitchDecl,
    Modes = ModesDecl,
    Sound = SoundDecl,
    Group = GroupDecl,
    Sequence = SequenceDecl,
    Rehearsal = RehearsalDecl,
    Send = SendDecl,
    Gives = Gives,
}

/// What has a name after its first word.
pub trait HasName: AstNode {
    /// The name.
    fn name(&self) -> Option<Token> {
        second_word(self.syntax())
    }
}

macro_rules! named {
    ($($name:ident)*) => {
        $(impl HasName for $name {})*
    };
}

named! {
    Named Input Curve Behavior Fitting Place Light Spark Output Wall Post Eye Choice Hours Phases Event Switch
    Modes Sound Group Sequence Rehearsal
}

impl Decl {
    /// Its first word.
    pub fn keyword(&self) -> Option<Token> {
        tokens(self.syntax()).next()
    }

    /// Its entry in the table of declarations.
    pub fn declaration(&self) -> &'static Declaration {
        let word = self.keyword();
        let word = word.as_ref().map_or("", |word| words::spelled(word.text()));
        // Every type of this enumeration is a node of the table; a test keeps it so.
        grammar::of_node(self.syntax().kind(), word).unwrap_or(&grammar::DECLARATIONS[0])
    }

    /// The name that it declares. A sun or moon without a name has its first word.
    pub fn name(&self) -> Option<Token> {
        match self {
            Decl::Sun(_) | Decl::Moon(_) => second_word(self.syntax()).or_else(|| self.keyword()),
            Decl::Seed(_)
            | Decl::Notices(_)
            | Decl::Use(_)
            | Decl::Space(_)
            | Decl::Clock(_)
            | Decl::Backdrop(_)
            | Decl::Send(_)
            | Decl::Gives(_) => None,
            _ => second_word(self.syntax()),
        }
    }
}

impl Book {
    /// The name of the book.
    pub fn title(&self) -> Option<Token> {
        let header = self.0.children().find(|child| child.kind() == SyntaxKind::Header)?;
        token_of(&header, SyntaxKind::Text)
    }

    /// Its declarations.
    pub fn declarations(&self) -> impl Iterator<Item = Decl> {
        children(&self.0)
    }

    /// The books that it uses, as they are written.
    pub fn used(&self) -> impl Iterator<Item = String> {
        let uses = children::<Use>(&self.0);
        uses.filter_map(|used| Some(unquoted(&used.file()?).to_owned()))
    }
}

impl Use {
    /// The file, in quotes.
    pub fn file(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Text)
    }
}

impl Seed {
    /// The number.
    pub fn number(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Number)
    }
}

impl Notices {
    /// The number.
    pub fn number(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Number)
    }
}

impl Named {
    /// Its value.
    pub fn value(&self) -> Option<Expr> {
        child(&self.0)
    }
}

impl Input {
    /// Its default.
    pub fn default(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// Its range.
    pub fn bounds(&self) -> Option<Span> {
        child(&self.0)
    }
}

impl Curve {
    /// Its stops.
    pub fn stops(&self) -> impl Iterator<Item = Stop> {
        children(&self.0)
    }

    /// Its length, where it is longer than its stops.
    pub fn length(&self) -> Option<CurveLength> {
        child(&self.0)
    }

    /// The names of its columns.
    pub fn columns(&self) -> Vec<Token> {
        let line = self.0.children().find(|child| child.kind() == SyntaxKind::Columns);
        line.iter()
            .flat_map(|line| tokens(line).skip(1).collect::<Vec<_>>())
            .filter(|token| token.kind() == SyntaxKind::Name)
            .collect()
    }
}

impl Behavior {
    /// Its parameters.
    pub fn parameters(&self) -> Vec<Parameter> {
        parameters(&self.0)
    }

    /// Its value: that after `=`, or that of `gives`.
    pub fn value(&self) -> Option<Expr> {
        child(&self.0).or_else(|| child::<Gives>(&self.0)?.value())
    }

    /// The declarations in its braces.
    pub fn declarations(&self) -> impl Iterator<Item = Decl> {
        children(&self.0)
    }
}

impl Gives {
    /// The value.
    pub fn value(&self) -> Option<Expr> {
        child(&self.0)
    }
}

impl Fitting {
    /// Its parameters.
    pub fn parameters(&self) -> Vec<Parameter> {
        parameters(&self.0)
    }

    /// What is in it.
    pub fn declarations(&self) -> impl Iterator<Item = Decl> {
        children(&self.0)
    }
}

impl Event {
    /// Its parameters.
    pub fn parameters(&self) -> Vec<Parameter> {
        parameters(&self.0)
    }

    /// When it occurs by itself.
    pub fn source(&self) -> Option<EventSource> {
        child(&self.0)
    }
}

/// The size in brackets after a name, as it is written.
fn size(node: &Node) -> Option<Token> {
    let size = node.children().find(|child| child.kind() == SyntaxKind::Size)?;
    token_of(&size, SyntaxKind::Number)
}

fn parameters(node: &Node) -> Vec<Parameter> {
    let all = node.children().find(|child| child.kind() == SyntaxKind::Parameters);
    all.iter().flat_map(|all| children(all).collect::<Vec<_>>()).collect()
}

impl Place {
    /// How many, as it is written.
    pub fn size(&self) -> Option<Token> {
        size(&self.0)
    }

    /// The name of its fitting.
    pub fn fitting(&self) -> Option<Token> {
        let mut words = tokens(&self.0).skip_while(|token| token.text() != "of");
        words.nth(1).filter(|token| token.kind() == SyntaxKind::Name)
    }

    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

impl Light {
    /// How many, as it is written.
    pub fn size(&self) -> Option<Token> {
        size(&self.0)
    }

    /// Its kind.
    pub fn kind(&self) -> Option<Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::Name).nth(2)
    }

    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

impl Spark {
    /// How many, as it is written.
    pub fn size(&self) -> Option<Token> {
        size(&self.0)
    }

    /// Its kind.
    pub fn kind(&self) -> Option<Token> {
        tokens(&self.0).filter(|token| token.kind() == SyntaxKind::Name).nth(2)
    }

    /// The event that makes them.
    pub fn event(&self) -> Option<Path> {
        child(&self.0)
    }

    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

impl Output {
    /// How many, as it is written.
    pub fn size(&self) -> Option<Token> {
        size(&self.0)
    }

    /// The value after `=`.
    pub fn value(&self) -> Option<Expr> {
        child(&self.0)
    }

    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

impl Wall {
    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

impl Eye {
    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

impl Backdrop {
    /// The file with its quotes.
    pub fn file(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Text)
    }

    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

impl Post {
    /// How many, as it is written.
    pub fn size(&self) -> Option<Token> {
        size(&self.0)
    }

    /// Its braces.
    pub fn body(&self) -> Option<Body> {
        child(&self.0)
    }
}

/// The lines in the braces of these are properties.
macro_rules! with_properties {
    ($($name:ident)*) => {$(
        impl $name {
            /// Its lines.
            pub fn properties(&self) -> impl Iterator<Item = Property> {
                children(&self.0)
            }
        }
    )*};
}

with_properties! { Space Clock Sun Moon }

impl Moon {
    /// The sun that it goes with, if it is named.
    pub fn sun(&self) -> Option<Token> {
        let mut words = tokens(&self.0).skip_while(|token| token.text() != "of");
        words.nth(1).filter(|token| token.kind() == SyntaxKind::Name)
    }
}

impl Choice {
    /// Its options.
    pub fn options(&self) -> Vec<Token> {
        let options = tokens(&self.0).skip_while(|token| token.kind() != SyntaxKind::BraceOpen);
        options.filter(|token| token.kind() == SyntaxKind::Name).collect()
    }

    /// The transition.
    pub fn over(&self) -> Option<Over> {
        child(&self.0)
    }
}

impl Hours {
    /// The start and the end.
    pub fn ends(&self) -> [Option<Expr>; 2] {
        let mut all = children(&self.0);
        [all.next(), all.next()]
    }

    /// The transition.
    pub fn over(&self) -> Option<Over> {
        child(&self.0)
    }
}

impl Phases {
    /// Its phases.
    pub fn phases(&self) -> impl Iterator<Item = Phase> {
        children(&self.0)
    }
}

impl Switch {
    /// Its lines.
    pub fn lines(&self) -> impl Iterator<Item = SwitchLine> {
        children(&self.0)
    }
}

impl Modes {
    /// The names of its modes.
    pub fn modes(&self) -> Vec<Token> {
        let lists = self.0.children().filter(|child| child.kind() == SyntaxKind::ModeList);
        let names = lists.flat_map(|list| tokens(&list).collect::<Vec<_>>());
        names.filter(|token| token.kind() == SyntaxKind::Name).collect()
    }

    /// Its rules.
    pub fn rules(&self) -> impl Iterator<Item = Rule> {
        children(&self.0)
    }
}

impl Sound {
    /// The file, in quotes; `None` for a live sound.
    pub fn file(&self) -> Option<Token> {
        token_of(&self.0, SyntaxKind::Text)
    }

    /// How it plays.
    pub fn lines(&self) -> impl Iterator<Item = SoundLine> {
        children(&self.0)
    }
}

impl Group {
    /// The lights, instances and groups in it.
    pub fn lights(&self) -> Vec<LightPath> {
        let lists = self.0.children().filter(|child| child.kind() == SyntaxKind::GroupLights);
        lists.flat_map(|list| children(&list).collect::<Vec<_>>()).collect()
    }

    /// `dim with` and `tint with`.
    pub fn lines(&self) -> impl Iterator<Item = GroupLine> {
        children(&self.0)
    }
}

impl Sequence {
    /// The events that start it.
    pub fn events(&self) -> impl Iterator<Item = Path> {
        children(&self.0)
    }

    /// Its steps.
    pub fn steps(&self) -> impl Iterator<Item = SequenceStep> {
        children(&self.0)
    }
}

impl Rehearsal {
    /// Its lines.
    pub fn lines(&self) -> impl Iterator<Item = RehearsalLine> {
        children(&self.0)
    }
}

impl Send {
    /// The events.
    pub fn events(&self) -> impl Iterator<Item = Path> {
        children(&self.0)
    }

    /// The name of the notice.
    pub fn notice(&self) -> Option<Token> {
        tokens(&self.0).skip_while(|token| token.text() != "send").nth(1)
    }
}
