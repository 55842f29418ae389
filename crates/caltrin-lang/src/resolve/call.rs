//! Calls: the language's functions and the book's behaviors.

use caltrin_core::program::{BehaviorId, Domain, ExprId};
use caltrin_core::program_builder::{Owner, Track};

use super::{Columns, Item, Resolver, child_of, expressions, span, token_span, tokens};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind, Token};
use crate::words;

/// One argument: its name if it has one, and its value or range.
pub(super) struct Argument {
    pub word: Option<Token>,
    pub range: Node,
}

/// The arguments of a call; each is taken by what it is for, and what is left over is reported.
pub(super) struct Arguments {
    pub callee: Token,
    pub node: Node,
    pub left: Vec<Argument>,
}

impl Arguments {
    pub fn of(call: &Node) -> Option<Self> {
        let callee = tokens(call).next()?;
        let node = child_of(call, SyntaxKind::Arguments)?;
        let left = node
            .children()
            .filter(|child| child.kind() == SyntaxKind::Argument)
            .filter_map(|argument| {
                let word = tokens(&argument).next();
                Some(Argument { word, range: child_of(&argument, SyntaxKind::Range)? })
            })
            .collect();
        Some(Arguments { callee, node, left })
    }

    /// The next argument without a name.
    pub fn plain(&mut self) -> Option<Node> {
        let at = self.left.iter().position(|a| a.word.is_none())?;
        Some(self.left.remove(at).range)
    }

    /// The argument of that name.
    pub fn named(&mut self, name: &str) -> Option<Node> {
        let at = self
            .left
            .iter()
            .position(|a| a.word.as_ref().is_some_and(|word| word.text() == name))?;
        Some(self.left.remove(at).range)
    }

    /// Whether a bare word such as `together` is among them.
    pub fn bare(&mut self, word: &str) -> Option<Node> {
        let at = self
            .left
            .iter()
            .position(|a| a.word.is_none() && a.range.text().to_string().trim() == word)?;
        Some(self.left.remove(at).range)
    }
}

impl Resolver {
    pub(super) fn call(&mut self, node: &Node, owner: &mut Owner) -> Option<ExprId> {
        let mut arguments = Arguments::of(node)?;
        let callee = arguments.callee.clone();
        let column = tokens(node)
            .nth(2)
            .filter(|_| tokens(node).nth(1).is_some_and(|t| t.kind() == SyntaxKind::Dot));
        let since = arguments.named("since");
        let made = if column.is_none() && words::is_function(words::current(callee.text())) {
            let made = self.function(&mut arguments, owner);
            if made.is_some() {
                self.leftover(&arguments, known_words(callee.text()));
            }
            made
        } else {
            self.call_of_book(&mut arguments, column.as_ref(), owner)
        };
        let (Some(since), Some(value)) = (&since, made) else { return made };
        let origin = self.counted_from(since)?;
        let made = self.builder.since(value, origin);
        self.fits(made, since)
    }

    fn call_of_book(
        &mut self,
        arguments: &mut Arguments,
        column: Option<&Token>,
        owner: &mut Owner,
    ) -> Option<ExprId> {
        let callee = arguments.callee.clone();
        let item = self.names.get(callee.text()).map(|n| self.entries[*n].item.clone());
        let message = match item {
            Some(Item::Behavior(behavior)) if column.is_none() => {
                return self.call_behavior(arguments, owner, behavior);
            }
            Some(Item::Broken) => return None,
            Some(Item::Curve(columns)) => {
                let track = self.column(&columns, &callee, column)?;
                if let Domain::Ramp(kind) = track.domain {
                    return self.ramp(arguments, owner, &track, kind);
                }
                let word = callee.text();
                if track.domain == Domain::Day {
                    let message = format!(
                        "`{word}` is a curve of hours; it follows the clock and is not called"
                    );
                    let part = column.map_or(String::new(), |c| format!(".{}", c.text()));
                    self.tell(
                        Diagnostic::error(token_span(&callee), message)
                            .help(format!("write `{word}{part}` without brackets")),
                    );
                    return None;
                }
                self.tell(
                    Diagnostic::error(
                        token_span(&callee),
                        format!("`{word}` is a curve in seconds; it is played, not called"),
                    )
                    .help(format!("write `loop({word})`, `once({word})` or `alternate({word})`")),
                );
                return None;
            }
            Some(Item::Value(_) | Item::Signal(_)) => "is a value, not a behavior",
            Some(Item::Behavior(_)) => "has no columns",
            Some(Item::Parts(_)) => "is a value of the time of day, not a behavior",
            Some(Item::Event(_)) => "is an event, not a behavior",
            Some(Item::Switch(_)) => "is a switch, not a behavior",
            Some(Item::Sound(_)) => "is a sound, not a behavior; use `follow`",
            Some(Item::Fitting) => "is a fitting, not a behavior",
            Some(Item::Rehearsal) => "is a rehearsal, not a behavior",
            Some(Item::Group | Item::Sequence | Item::Sends) => {
                "belongs to lights and is not a behavior"
            }
            Some(Item::Light) => "is a light, not a behavior",
            Some(Item::Scenery) => "is a wall, post or eye, not a behavior",
            None => {
                self.unknown(&callee, true);
                return None;
            }
        };
        let message = format!("`{}` {message}", callee.text());
        self.tell(Diagnostic::error(token_span(&callee), message));
        None
    }

    /// The track of a curve's column.
    pub(super) fn column(
        &mut self,
        columns: &Columns,
        name: &Token,
        column: Option<&Token>,
    ) -> Option<Track> {
        let names: Vec<&str> = columns.names.iter().map(String::as_str).collect();
        let told = match (column, columns.tracks.first()) {
            (None, Some(track)) if names.is_empty() => return Some(track.clone()),
            (None, _) => Diagnostic::error(
                token_span(name),
                format!("`{}` has several columns; choose one", name.text()),
            )
            .help(format!(
                "write {}",
                names
                    .iter()
                    .map(|c| format!("`{}.{c}`", name.text()))
                    .collect::<Vec<_>>()
                    .join(", ")
            )),
            (Some(column), _) => {
                let found = names.iter().position(|known| *known == column.text());
                if let Some(track) = found.and_then(|n| columns.tracks.get(n)) {
                    return Some(track.clone());
                }
                let message = format!("`{}` has no column `{}`", name.text(), column.text());
                let told = Diagnostic::error(token_span(column), message);
                match self.nearest(column.text(), names.iter().copied()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None if names.is_empty() => told.help("it has one column without a name"),
                    None => told.help(format!("it has {}", names.join(", "))),
                }
            }
        };
        self.tell(told);
        None
    }

    /// The value of a ramp at a driving value.
    fn ramp(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        track: &Track,
        kind: caltrin_core::kind::Kind,
    ) -> Option<ExprId> {
        let Some(range) = arguments.plain() else {
            self.missing(arguments, &format!("{kind} that drives it"));
            return None;
        };
        let (value, place) = self.single(&range, owner)?;
        let fits = self.builder.expect(value, kind);
        self.fits(fits, &place)?;
        self.leftover(arguments, &[]);
        let made = self.builder.track_at(track, value);
        self.fits(made, &range)
    }

    fn leftover(&mut self, arguments: &Arguments, known: &[&str]) {
        let Some(extra) = arguments.left.first() else { return };
        let callee = arguments.callee.text();
        let told = match &extra.word {
            Some(word) => {
                let told = Diagnostic::error(
                    token_span(word),
                    format!("`{callee}` has no argument `{}`", word.text()),
                );
                match self.nearest(word.text(), known.iter().copied()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None if known.is_empty() => told,
                    None => told.help(format!("it takes {}", known.join(", "))),
                }
            }
            None => {
                let text = extra.range.text().to_string();
                let told = Diagnostic::error(
                    span(&extra.range),
                    format!("too many arguments for `{callee}`"),
                );
                match self.nearest(text.trim(), known.iter().copied()) {
                    Some(near) => told.help(format!("did you mean `{near}`?")),
                    None => told,
                }
            }
        };
        self.tell(told);
    }

    pub(super) fn missing(&mut self, arguments: &Arguments, wanted: &str) {
        let message = format!("`{}` needs {wanted}", arguments.callee.text());
        let told = Diagnostic::error(span(&arguments.node), message);
        let known = known_words(arguments.callee.text());
        let meant = arguments.left.iter().find_map(|argument| {
            let word = argument.word.as_ref()?;
            self.nearest(word.text(), known.iter().copied())
        });
        self.tell(match meant {
            Some(near) => told.help(format!("did you mean `{near}`?")),
            None => told,
        });
    }

    /// A single value; a range is an error.
    pub(super) fn single(&mut self, range: &Node, owner: &mut Owner) -> Option<(ExprId, Node)> {
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
    pub(super) fn ends(
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
                let call = range.ancestors().find(|node| node.kind() == SyntaxKind::Call);
                let name = call.and_then(|call| call.first_token());
                let help = match name.and_then(|name| words::example(name.text())) {
                    Some(call) if !text.trim().ends_with('%') => format!("write `{call}`"),
                    _ => format!("did you mean `0%..{}`?", text.trim()),
                };
                self.tell(Diagnostic::error(span(range), message).help(help));
                None
            }
            _ => None,
        }
    }

    fn call_behavior(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        behavior: BehaviorId,
    ) -> Option<ExprId> {
        let place = self.builder.use_of(owner, arguments.callee.text());
        let parameters = self.program().behavior(behavior).parameters.clone();
        let mut given = vec![None; parameters.len()];
        for (n, parameter) in parameters.iter().enumerate() {
            // The name of the first can be omitted.
            let range = arguments
                .named(&parameter.name)
                .or_else(|| if n == 0 { arguments.plain() } else { None });
            let Some(range) = range else { continue };
            let (value, value_place) = self.single(&range, owner)?;
            let kind = self.builder.kind(parameter.default);
            let fits = self.builder.expect(value, kind);
            self.fits(fits, &value_place)?;
            let role = format!("`{}` of `{}`", parameter.name, arguments.callee.text());
            self.expect_change_rate(owner, value, &value_place, parameter.limit, &role)?;
            given[n] = Some(value);
        }
        let known: Vec<&str> = parameters.iter().map(|p| p.name.as_str()).collect();
        self.leftover(arguments, &known);
        let made = self.builder.call(owner, &place, behavior, &given);
        let node = arguments.node.clone();
        self.fits(made, &node)
    }
}

/// The words that a function of the language takes.
fn known_words(function: &str) -> &'static [&'static str] {
    match words::current(function) {
        "held" => &["every", "over"],
        "drift" | "wander" => &["rate", "octaves", "radius"],
        "bursts" => &["on", "off"],
        "drawn" => &["every"],
        "loop" | "alternate" => &["together", "scatter", "part"],
        "sine" | "triangle" | "saw" => &["every", "phase", "together", "scatter"],
        "square" => &["every", "on", "phase", "together", "scatter"],
        "blink" | "rhythm" => &["on", "off", "phase", "together", "scatter"],
        "later" => &["by", "each"],
        "stretch" | "hue" | "scaled" => &["by"],
        "stepped" => &["every"],
        "clamp" => &["to"],
        "map" => &["from", "to", "smooth", "ease", "jump", "linear"],
        "mix" => &["by", "linear"],
        "threshold" => &["at", "over"],
        "pulse" => &["at", "lasts"],
        "play" => &["at", "before", "again"],
        "follow" => &["attack", "release", "band", "measure", "full", "gate", "delay"],
        "pace" => &["by"],
        "near" => &["full", "none", "from", "smooth", "ease"],
        _ => &[],
    }
}
