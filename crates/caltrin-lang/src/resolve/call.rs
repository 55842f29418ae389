//! Calls: the language's functions and the book's behaviours.

use caltrin_core::draft::Owner;
use caltrin_core::kind::Pace;
use caltrin_core::program::{BehaviourId, CurveId, ExprId, Start, Turn};

use super::{Item, Resolver, child_of, expressions, span, token_span, tokens};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Kind, Node, Token};
use crate::words;

/// One argument: its name if it has one, and its value or range.
struct Argument {
    word: Option<Token>,
    range: Node,
}

/// The arguments of a call; each is taken by what it is for, and what is left over is told.
struct Arguments {
    callee: Token,
    node: Node,
    left: Vec<Argument>,
}

impl Arguments {
    fn of(call: &Node) -> Option<Self> {
        let callee = tokens(call).next()?;
        let node = child_of(call, Kind::Arguments)?;
        let left = node
            .children()
            .filter(|child| child.kind() == Kind::Argument)
            .filter_map(|argument| {
                let word = tokens(&argument).next();
                Some(Argument { word, range: child_of(&argument, Kind::Range)? })
            })
            .collect();
        Some(Arguments { callee, node, left })
    }

    /// The next argument without a name.
    fn plain(&mut self) -> Option<Node> {
        let at = self.left.iter().position(|a| a.word.is_none())?;
        Some(self.left.remove(at).range)
    }

    /// The argument of that name.
    fn named(&mut self, name: &str) -> Option<Node> {
        let at = self
            .left
            .iter()
            .position(|a| a.word.as_ref().is_some_and(|word| word.text() == name))?;
        Some(self.left.remove(at).range)
    }

    /// Whether a bare word such as `together` is among them.
    fn bare(&mut self, word: &str) -> Option<Node> {
        let at = self
            .left
            .iter()
            .position(|a| a.word.is_none() && a.range.text().to_string().trim() == word)?;
        Some(self.left.remove(at).range)
    }
}

impl Resolver<'_> {
    pub(super) fn call(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let mut arguments = Arguments::of(node)?;
        let callee = arguments.callee.clone();
        let made = match callee.text() {
            "held" => self.held(&mut arguments, owner),
            "once" => self.once(&mut arguments),
            "loop" => self.turning(&mut arguments, owner, Turn::Loop),
            "alternate" => self.turning(&mut arguments, owner, Turn::Alternate),
            "min" | "max" => self.extreme(&mut arguments, owner),
            "clamp" => self.clamp(&mut arguments, owner),
            "mix" => self.mix(&mut arguments, owner),
            _ => return self.call_of_book(&mut arguments, owner),
        };
        if made.is_some() {
            self.leftover(&arguments, &known_words(callee.text()));
        }
        made
    }

    fn call_of_book(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let callee = arguments.callee.clone();
        let item = self.names.get(callee.text()).map(|n| self.entries[*n].item);
        let message = match item {
            Some(Item::Behaviour(behaviour)) => {
                return self.call_behaviour(arguments, owner, behaviour);
            }
            Some(Item::Broken) => return None,
            Some(Item::Curve(_)) => {
                let word = callee.text();
                self.tell(
                    Diagnostic::error(
                        token_span(&callee),
                        format!("`{word}` is a curve in seconds; it plays and is not called"),
                    )
                    .help(format!("write `loop({word})`, `once({word})` or `alternate({word})`")),
                );
                return None;
            }
            Some(Item::Value(_) | Item::Signal(_)) => "is a value, not a behaviour",
            Some(Item::Light) => "is a light, not a behaviour",
            None => {
                self.unknown(&callee, true);
                return None;
            }
        };
        let message = format!("`{}` {message}", callee.text());
        self.tell(Diagnostic::error(token_span(&callee), message));
        None
    }

    fn leftover(&mut self, arguments: &Arguments, known: &[&str]) {
        let Some(extra) = arguments.left.first() else { return };
        let callee = arguments.callee.text();
        let told = match &extra.word {
            Some(word) => {
                let told = Diagnostic::error(
                    token_span(word),
                    format!("`{callee}` takes no `{}`", word.text()),
                );
                match words::nearest(word.text(), known.iter().copied()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None if known.is_empty() => told,
                    None => told.help(format!("it takes {}", known.join(", "))),
                }
            }
            None => {
                let text = extra.range.text().to_string();
                let told = Diagnostic::error(
                    span(&extra.range),
                    format!("`{callee}` does not take this as well"),
                );
                match words::nearest(text.trim(), known.iter().copied()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => told,
                }
            }
        };
        self.tell(told);
    }

    fn missing(&mut self, arguments: &Arguments, wanted: &str) {
        let message = format!("`{}` needs {wanted}", arguments.callee.text());
        let told = Diagnostic::error(span(&arguments.node), message);
        let known = known_words(arguments.callee.text());
        let meant = arguments.left.iter().find_map(|argument| {
            let word = argument.word.as_ref()?;
            words::nearest(word.text(), known.iter().copied())
        });
        self.tell(match meant {
            Some(near) => told.help(format!("did you mean `{near}`?")),
            None => told,
        });
    }

    /// A single value, not a range.
    fn single(&mut self, range: &Node, owner: &mut Owner) -> Option<(ExprId, Node)> {
        let values = expressions(range);
        match &values[..] {
            [value] => Some((self.expression(value, owner)?, value.clone())),
            [_, _] => {
                self.tell(Diagnostic::error(span(range), "expected a value, found a range"));
                None
            }
            _ => None,
        }
    }

    /// A range; a single value is the same at both ends where that is allowed.
    fn ends(
        &mut self,
        range: &Node,
        owner: &mut Owner,
        single: bool,
    ) -> Option<[(ExprId, Node); 2]> {
        let values = expressions(range);
        match &values[..] {
            [lo, hi] => {
                let (a, b) = (self.expression(lo, owner), self.expression(hi, owner));
                Some([(a?, lo.clone()), (b?, hi.clone())])
            }
            [value] if single => {
                let id = self.expression(value, owner)?;
                Some([(id, value.clone()), (id, value.clone())])
            }
            [value] => {
                let text = value.text().to_string();
                let message = "expected a range such as `80%..100%`, found one value";
                self.tell(
                    Diagnostic::error(span(range), message)
                        .help(format!("did you mean `0%..{}`?", text.trim())),
                );
                None
            }
            _ => None,
        }
    }

    fn held(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let place = self.draft.use_of(owner, "held");
        let range = arguments.plain();
        let every = arguments.named("every");
        let (Some(range), Some(every)) = (range.clone(), every) else {
            let wanted = match range {
                None => "a range first, as in `held(80%..100%, every 70ms..210ms)`",
                Some(_) => "`every` and how long a level stays, as in `every 70ms..210ms`",
            };
            self.missing(arguments, wanted);
            return None;
        };
        let bounds = self.ends(&range, owner, false);
        let times = self.ends(&every, owner, true);
        let ([(lo, _), (hi, hi_place)], times) = (bounds?, times?);
        let alike = self.draft.expect(hi, self.draft.kind(lo));
        self.fits(alike, &hi_place)?;
        let scalar = self.draft.expect_scalar(lo);
        self.fits(scalar, &range)?;
        let rising = self.draft.rising(lo, hi);
        self.fits(rising, &range)?;
        for (time, time_place) in &times {
            let fits = self.draft.expect(*time, caltrin_core::kind::Kind::Time);
            self.fits(fits, time_place)?;
            self.expect_pace(owner, *time, time_place, Pace::Constant, "the time between draws")?;
        }
        let [(shortest, _), (longest, _)] = times;
        let made = self.draft.held(owner, &place, [lo, hi], [shortest, longest]);
        self.fits(made, &every)
    }

    fn curve_named(&mut self, arguments: &mut Arguments) -> Option<CurveId> {
        let Some(range) = arguments.plain() else {
            self.missing(arguments, "a curve");
            return None;
        };
        let values = expressions(&range);
        let entry = match &values[..] {
            [value] if value.kind() == Kind::Path => {
                let name = tokens(value).next()?;
                match self.names.get(name.text()) {
                    Some(n) => self.entries[*n].item,
                    None => {
                        self.unknown(&name, false);
                        return None;
                    }
                }
            }
            _ => Item::Light,
        };
        match entry {
            Item::Curve(id) => Some(id),
            Item::Broken => None,
            _ => {
                let message = format!("`{}` plays a curve", arguments.callee.text());
                self.tell(
                    Diagnostic::error(span(&range), message)
                        .help("declare one with `curve name { 0s 100%; 2s 80% smooth }`"),
                );
                None
            }
        }
    }

    fn once(&mut self, arguments: &mut Arguments) -> Option<ExprId> {
        for word in ["together", "scatter"] {
            if let Some(place) = arguments.bare(word) {
                let message = format!("`once` starts with the run and takes no `{word}`");
                self.tell(Diagnostic::error(span(&place), message));
            }
        }
        let curve = self.curve_named(arguments)?;
        Some(self.draft.once(curve))
    }

    fn turning(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        turn: Turn,
    ) -> Option<ExprId> {
        let place = self.draft.use_of(owner, arguments.callee.text());
        let together = arguments.bare("together");
        let scatter = arguments.bare("scatter");
        if let (Some(_), Some(second)) = (&together, &scatter) {
            let message = "`together` and `scatter` exclude each other";
            self.tell(Diagnostic::error(span(second), message));
            return None;
        }
        let curve = self.curve_named(arguments)?;
        let start = match (together, scatter) {
            (Some(_), _) => Start::Together,
            (None, Some(_)) => Start::Scattered,
            (None, None) => Start::Unsaid,
        };
        let made = self.draft.turning(owner, &place, curve, turn, start);
        let node = arguments.node.clone();
        self.fits(made, &node)
    }

    fn extreme(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let largest = arguments.callee.text() == "max";
        let mut made: Option<ExprId> = None;
        while let Some(range) = arguments.plain() {
            let (value, place) = self.single(&range, owner)?;
            made = Some(match made {
                None => {
                    let fits = self.draft.expect_scalar(value);
                    self.fits(fits, &place)?;
                    value
                }
                Some(before) => {
                    let joined = if largest {
                        self.draft.greatest(before, value)
                    } else {
                        self.draft.least(before, value)
                    };
                    self.fits(joined, &place)?
                }
            });
        }
        if made.is_none() {
            self.missing(arguments, "at least one value");
        }
        made
    }

    fn clamp(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let (Some(value), Some(to)) = (arguments.plain(), arguments.named("to")) else {
            self.missing(arguments, "a value and a range, as in `clamp(x, to 20%..100%)`");
            return None;
        };
        let (value, _) = self.single(&value, owner)?;
        let [(lo, _), (hi, _)] = self.ends(&to, owner, false)?;
        let made = self.draft.within(value, lo, hi);
        self.fits(made, &to)
    }

    fn mix(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let (first, second, by) = (arguments.plain(), arguments.plain(), arguments.named("by"));
        let (Some(first), Some(second), Some(by)) = (first, second, by) else {
            self.missing(arguments, "two values and a ratio, as in `mix(a, b, by 30%)`");
            return None;
        };
        let (a, _) = self.single(&first, owner)?;
        let (b, second) = self.single(&second, owner)?;
        let (by, by_place) = self.single(&by, owner)?;
        let fits = self.draft.expect(by, caltrin_core::kind::Kind::Number);
        self.fits(fits, &by_place)?;
        let made = self.draft.between(a, b, by);
        self.fits(made, &second)
    }

    fn call_behaviour(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        behaviour: BehaviourId,
    ) -> Option<ExprId> {
        let place = self.draft.use_of(owner, arguments.callee.text());
        let parameters = self.program().behaviour(behaviour).parameters.clone();
        let mut given = vec![None; parameters.len()];
        for (n, parameter) in parameters.iter().enumerate() {
            // The first may go without its name.
            let range = arguments
                .named(&parameter.name)
                .or_else(|| if n == 0 { arguments.plain() } else { None });
            let Some(range) = range else { continue };
            let (value, value_place) = self.single(&range, owner)?;
            let kind = self.draft.kind(parameter.default);
            let fits = self.draft.expect(value, kind);
            self.fits(fits, &value_place)?;
            let role = format!("`{}` of `{}`", parameter.name, arguments.callee.text());
            self.expect_pace(owner, value, &value_place, parameter.limit, &role)?;
            given[n] = Some(value);
        }
        let known: Vec<&str> = parameters.iter().map(|p| p.name.as_str()).collect();
        self.leftover(arguments, &known);
        let made = self.draft.call(owner, &place, behaviour, &given);
        let node = arguments.node.clone();
        self.fits(made, &node)
    }
}

/// The words that a function of the language takes.
fn known_words(function: &str) -> Vec<&'static str> {
    match function {
        "held" => vec!["every"],
        "loop" | "alternate" => vec!["together", "scatter"],
        "clamp" => vec!["to"],
        "mix" => vec!["by"],
        _ => Vec::new(),
    }
}
