//! The functions of the language.

use caltrin_core::curve::Easing;
use caltrin_core::kind::{ChangeRate, Kind as ValueKind};
use caltrin_core::program::{Constant, Domain, ExprId, Start, Turn, Wave};
use caltrin_core::program_builder::{Owner, Track, Use};
use caltrin_core::pure::Pure;
use caltrin_core::semantic_error::SemanticError;

use super::call::Arguments;
use super::{Item, Resolver, child_of, expressions, span, tokens};
use crate::diagnostic::Diagnostic;
use crate::syntax::{Node, SyntaxKind};
use crate::words;

impl Resolver {
    /// A call of one of [`words::functions`].
    pub(super) fn function(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
    ) -> Option<ExprId> {
        if let Some(function) = Pure::called(arguments.callee.text()) {
            return self.of_numbers(function, arguments, owner);
        }
        match words::current(arguments.callee.text()) {
            "held" => self.held(arguments, owner),
            "drift" => self.drift(arguments, owner),
            "wander" => self.wander(arguments, owner),
            "bursts" => self.bursts(arguments, owner),
            "drawn" => self.drawn(arguments, owner),
            "once" => self.once(arguments),
            "loop" => self.turning(arguments, owner, Turn::Loop),
            "alternate" => self.turning(arguments, owner, Turn::Alternate),
            "sine" => self.wave(arguments, owner, Some(Wave::Sine)),
            "triangle" => self.wave(arguments, owner, Some(Wave::Triangle)),
            "saw" => self.wave(arguments, owner, Some(Wave::Saw)),
            "square" => self.wave(arguments, owner, None),
            "blink" | "rhythm" => self.rhythm(arguments, owner),
            "later" => self.later(arguments, owner),
            "stretch" => self.bent(arguments, owner, "by", "stretch(x, by 150%)"),
            "stepped" => self.bent(arguments, owner, "every", "stepped(x, every 40ms)"),
            "min" | "max" => self.extreme(arguments, owner),
            "clamp" => self.clamp(arguments, owner),
            "map" => self.map(arguments, owner),
            "mix" => self.mix(arguments, owner),
            "threshold" => self.threshold(arguments, owner),
            "kelvin" | "daylight" => self.temperature(arguments, owner),
            "pick" => self.pick(arguments, owner),
            "pulse" => self.pulse(arguments, owner),
            "play" => self.play(arguments, owner),
            "follow" => self.follow(arguments, owner),
            "pace" => self.pace(arguments, owner),
            "near" => self.near(arguments, owner),
            "hue" => self.colored(arguments, owner, "hue(x, by 10deg)"),
            // Only functions of the list come here.
            _ => self.colored(arguments, owner, "scaled(x, by 70%)"),
        }
    }

    /// A function of numbers alone.
    fn of_numbers(
        &mut self,
        function: Pure,
        arguments: &mut Arguments,
        owner: &mut Owner,
    ) -> Option<ExprId> {
        let mut all = Vec::with_capacity(function.arguments());
        while all.len() < function.arguments() {
            let Some(range) = arguments.plain() else {
                let wanted = match function.arguments() {
                    1 => "one number".to_owned(),
                    n => format!("{n} numbers"),
                };
                self.missing(arguments, &wanted);
                return None;
            };
            all.push(self.plain_number(&range, owner)?);
        }
        let made = self.builder.function(function, &all);
        self.fits(made, &arguments.node.clone())
    }

    /// `follow(throttle, attack 200ms, release 1.5s)`
    fn follow(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        if let Some((sound, named)) = self.sound_first(arguments) {
            return self.follow_sound(sound, &named, arguments, owner);
        }
        let place = self.builder.use_of(owner, "follow");
        let parts = (arguments.plain(), arguments.named("attack"), arguments.named("release"));
        let (Some(value), Some(attack), Some(release)) = parts else {
            // A missing sound has its own message.
            let values = parts.0.map_or(Vec::new(), |value| expressions(&value));
            if let [path] = &values[..]
                && path.kind() == SyntaxKind::Path
                && let Some(name) = tokens(path).next()
            {
                match self.item(name.text()) {
                    None => {
                        self.unknown(&name, false);
                        return None;
                    }
                    // Its error was reported at its declaration.
                    Some(Item::Broken) => return None,
                    Some(_) => {}
                }
            }
            let wanted =
                "a value and two times, as in `follow(throttle, attack 200ms, release 1.5s)`";
            self.missing(arguments, wanted);
            return None;
        };
        let (value, _) = self.single(&value, owner)?;
        let mut times = [value; 2];
        for (time, range) in times.iter_mut().zip([attack, release]) {
            let (made, place) = self.single(&range, owner)?;
            let fits = self.builder.expect(made, ValueKind::Time);
            self.fits(fits, &place)?;
            *time = made;
        }
        let made = self.builder.followed(owner, &place, value, times);
        self.fits(made, &arguments.node.clone())
    }

    /// `pace(loop(wheel), by speed)`
    fn pace(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let place = self.builder.use_of(owner, "pace");
        let (Some(value), Some(by)) = (arguments.plain(), arguments.named("by")) else {
            self.missing(arguments, "a value and `by`, as in `pace(loop(wheel), by speed)`");
            return None;
        };
        let (value, _) = self.single(&value, owner)?;
        let (by, by_place) = self.single(&by, owner)?;
        let made = self.builder.paced(owner, &place, value, by);
        self.fits(made, &by_place)
    }

    /// `near(walker, full 5m, none 30m)`
    fn near(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let easing = self.easing_of(arguments)?;
        let (point, from) = (arguments.plain(), arguments.named("from"));
        let (full, none) = (arguments.named("full"), arguments.named("none"));
        let (Some(point), Some(full), Some(none)) = (point, full, none) else {
            self.missing(
                arguments,
                "a point and two lengths, as in `near(walker, full 5m, none 30m)`",
            );
            return None;
        };
        let (point, point_place) = self.single(&point, owner)?;
        let fits = self.builder.expect(point, ValueKind::Point);
        self.fits(fits, &point_place)?;
        let from = match from {
            Some(from) => {
                let (from, from_place) = self.single(&from, owner)?;
                let fits = self.builder.expect(from, ValueKind::Point);
                self.fits(fits, &from_place)?;
                from
            }
            None => {
                let Some(here) = self.here else {
                    let wanted = "`from` and a point here, as in `from (3m, 2m, 0m)`; only a channel of a light \
                                  with a position measures from the lamp";
                    self.missing(arguments, wanted);
                    return None;
                };
                here
            }
        };
        let mut lengths = [from; 2];
        for (length, range) in lengths.iter_mut().zip([&full, &none]) {
            let (made, place) = self.single(range, owner)?;
            let fits = self.builder.expect(made, ValueKind::Length);
            self.fits(fits, &place)?;
            *length = made;
        }
        let rising = self.builder.rising(lengths[0], lengths[1]);
        if rising.is_err() {
            let message = "`full` must be shorter than `none`";
            self.tell(Diagnostic::error(span(&full), message));
            return None;
        }
        let made = self.builder.near([point, from], lengths, easing);
        self.fits(made, &none)
    }

    /// The time that a value counts from: `since power_back`, `since warning.alarm`, `since pier_power`
    pub(super) fn counted_from(&mut self, range: &Node) -> Option<ExprId> {
        let values = expressions(range);
        let [path] = &values[..] else {
            let message = "expected the name of an event, mode or switch";
            self.tell(Diagnostic::error(span(range), message));
            return None;
        };
        let name = tokens(path).next().filter(|_| path.kind() == SyntaxKind::Path);
        let item = name.as_ref().and_then(|name| self.item(name.text())).cloned();
        if let Some(Item::Switch(switch)) = item {
            return Some(switch.since);
        }
        if path.kind() != SyntaxKind::Path {
            let message = "expected the name of an event, mode or switch";
            self.tell(Diagnostic::error(span(path), message));
            return None;
        }
        let event = self.event_of(path)?;
        let Some(Item::Parts(parts)) = item else {
            return Some(self.program().event(event).last_value);
        };
        if let Some(known) = self.origins_of_modes.get(&event) {
            return Some(*known);
        }
        let mode = tokens(path).nth(2)?;
        let of = parts.alternatives.as_ref()?;
        let nth = of.names.iter().position(|known| known == mode.text())?;
        let made = self.builder.entered(event, parts.left.get(nth).copied());
        let origin = self.fits(made, path)?;
        self.origins_of_modes.insert(event, origin);
        Some(origin)
    }

    /// Maps a level 0..1 to a range.
    fn spread(
        &mut self,
        bounds: [(ExprId, Node); 2],
        range: &Node,
        level: ExprId,
    ) -> Option<ExprId> {
        let [(lo, _), (hi, hi_place)] = bounds;
        let alike = self.builder.expect(hi, self.builder.kind(lo));
        self.fits(alike, &hi_place)?;
        let rising = self.builder.rising(lo, hi);
        self.fits(rising, range)?;
        let made = self.builder.lerp(lo, hi, level, false);
        self.fits(made, range)
    }

    /// The bounds of a random value, the first argument.
    fn bounds(&mut self, range: &Node, owner: &mut Owner) -> Option<[(ExprId, Node); 2]> {
        let bounds = self.ends(range, owner, false)?;
        let scalar = self.builder.expect_scalar(bounds[0].0);
        self.fits(scalar, range)?;
        Some(bounds)
    }

    /// The times between draws, `every a..b`.
    fn times(&mut self, range: &Node, owner: &mut Owner, role: &str) -> Option<[ExprId; 2]> {
        let times = self.ends(range, owner, true)?;
        for (time, place) in &times {
            let fits = self.builder.expect(*time, ValueKind::Time);
            self.fits(fits, place)?;
            self.expect_change_rate(owner, *time, place, ChangeRate::Constant, role)?;
        }
        Some(times.map(|(time, _)| time))
    }

    fn held(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let place = self.builder.use_of(owner, "held");
        let (range, every) = (arguments.plain(), arguments.named("every"));
        let over = arguments.named("over");
        let (Some(range), Some(every)) = (range.clone(), every) else {
            let wanted = match range {
                None => "a range first, as in `held(80%..100%, every 70ms..210ms)`",
                Some(_) => "`every` and how long a level stays, as in `every 70ms..210ms`",
            };
            self.missing(arguments, wanted);
            return None;
        };
        let bounds = self.bounds(&range, owner);
        let times = self.times(&every, owner, "the time between draws");
        let over = match over {
            Some(over) => Some(self.plain_number(&over, owner)?),
            None => None,
        };
        let (bounds, times) = (bounds?, times?);
        let level = self.builder.held(owner, &place, times, over);
        let level = self.fits(level, &every)?;
        self.spread(bounds, &range, level)
    }

    /// `rate 2Hz, octaves 3`.
    fn rate(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<(ExprId, f64)> {
        let Some(range) = arguments.named("rate") else {
            self.missing(arguments, "a rate, as in `rate 2Hz`");
            return None;
        };
        let (rate, place) = self.single(&range, owner)?;
        let fits = self.builder.expect(rate, ValueKind::Rate);
        self.fits(fits, &place)?;
        let mut octaves = 1.0;
        if let Some(range) = arguments.named("octaves") {
            let (value, place) = self.single(&range, owner)?;
            match self.program().constant(value) {
                Some(Constant::Scalar(v)) if self.builder.kind(value) == ValueKind::Number => {
                    octaves = v;
                }
                _ => {
                    let message = "octaves are a plain number from 1 to 6";
                    self.tell(Diagnostic::error(span(&place), message));
                    return None;
                }
            }
        }
        Some((rate, octaves))
    }

    fn drift(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let place = self.builder.use_of(owner, "drift");
        let Some(range) = arguments.plain() else {
            self.missing(arguments, "a range first, as in `drift(40%..100%, rate 2Hz)`");
            return None;
        };
        let bounds = self.bounds(&range, owner);
        let (rate, octaves) = self.rate(arguments, owner)?;
        let level = self.builder.drift(owner, &place, rate, octaves);
        let level = self.fits(level, &arguments.node.clone())?;
        self.spread(bounds?, &range, level)
    }

    fn wander(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let place = self.builder.use_of(owner, "wander");
        let Some(range) = arguments.named("radius").or_else(|| arguments.plain()) else {
            self.missing(arguments, "a radius, as in `wander(radius 3cm, rate 4Hz)`");
            return None;
        };
        let (radius, radius_place) = self.single(&range, owner)?;
        let fits = self.builder.expect(radius, ValueKind::Length);
        self.fits(fits, &radius_place)?;
        let (rate, octaves) = self.rate(arguments, owner)?;
        let made = self.builder.wander(owner, &place, radius, rate, octaves);
        self.fits(made, &arguments.node.clone())
    }

    fn bursts(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let place = self.builder.use_of(owner, "bursts");
        let (Some(on), Some(off)) = (arguments.named("on"), arguments.named("off")) else {
            let wanted = "`on` and `off` times, as in `bursts(on 80ms..600ms, off 2s..9s)`";
            self.missing(arguments, wanted);
            return None;
        };
        let on_times = self.times(&on, owner, "the time of a burst");
        let off_times = self.times(&off, owner, "the time between bursts");
        let made = self.builder.bursts(owner, &place, on_times?, off_times?);
        self.fits(made, &arguments.node.clone())
    }

    /// `drawn(90%..110%)`, `drawn(a, b, c, every 2s..5s)`
    fn drawn(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        const MOST: usize = 64;
        // Part of the key of each draw: it stays when the function is renamed.
        let place = self.builder.use_of(owner, "one");
        let mut ranges = Vec::new();
        while let Some(range) = arguments.plain() {
            ranges.push(range);
        }
        if ranges.is_empty() || ranges.len() > MOST {
            let wanted =
                format!("a range, or a list of {MOST} at most, as in `drawn(2200K, 2700K)`");
            self.missing(arguments, &wanted);
            return None;
        }
        let level = match arguments.named("every") {
            Some(every) => {
                let times = self.times(&every, owner, "the time between draws")?;
                let made = self.builder.held(owner, &place, times, None);
                self.fits(made, &every)?
            }
            None => {
                let made = self.builder.drawn(owner, &place);
                self.fits(made, &arguments.node.clone())?
            }
        };
        if let [range] = &ranges[..]
            && expressions(range).len() == 2
        {
            let bounds = self.ends(range, owner, false)?;
            return self.spread(bounds, range, level);
        }
        let mut list = Vec::new();
        for range in &ranges {
            let (value, place) = self.single(range, owner)?;
            if let Some((first, _)) = list.first() {
                let alike = self.builder.expect(value, self.builder.kind(*first));
                self.fits(alike, &place)?;
            }
            list.push((value, place));
        }
        let values: Vec<ExprId> = list.iter().map(|(value, _)| *value).collect();
        let made = self.builder.one_of(level, &values);
        self.fits(made, &arguments.node.clone())
    }

    /// The curve, or its column, that a function plays.
    pub(super) fn played(&mut self, arguments: &mut Arguments) -> Option<(Track, Node)> {
        let Some(range) = arguments.plain() else {
            self.missing(arguments, "a curve");
            return None;
        };
        let values = expressions(&range);
        let path = match &values[..] {
            [value] if value.kind() == SyntaxKind::Path => Some(value.clone()),
            _ => None,
        };
        let callee = arguments.callee.text().to_owned();
        if let Some(path) = path {
            let (name, column) = (tokens(&path).next()?, tokens(&path).nth(2));
            let item = self.names.get(name.text()).map(|n| self.entries[*n].item.clone());
            match item {
                None => {
                    self.unknown(&name, false);
                    return None;
                }
                Some(Item::Broken) => return None,
                Some(Item::Curve(columns)) => {
                    let track = self.column(&columns, &name, column.as_ref())?;
                    if track.domain == Domain::Day {
                        let (word, column) = (name.text(), column.as_ref());
                        let part = column.map_or(String::new(), |c| format!(".{}", c.text()));
                        let message = format!(
                            "`{word}` is a curve of hours; it follows the clock and is not played"
                        );
                        self.tell(
                            Diagnostic::error(span(&path), message)
                                .help(format!("write `{word}{part}` alone")),
                        );
                        return None;
                    }
                    if let Domain::Ramp(kind) = track.domain {
                        let message = format!("`{}` is a ramp and is not played", name.text());
                        self.tell(
                            Diagnostic::error(span(&path), message)
                                .help(format!("{kind} drives it: write `{}(x)`", name.text())),
                        );
                        return None;
                    }
                    return Some((track, path));
                }
                Some(_) => {}
            }
        }
        let message = format!("`{callee}` plays a curve");
        self.tell(
            Diagnostic::error(span(&range), message)
                .help("declare one with `curve name { 0s 100%; 2s 80% smooth }`"),
        );
        None
    }

    fn once(&mut self, arguments: &mut Arguments) -> Option<ExprId> {
        for word in ["together", "scatter"] {
            if let Some(place) = arguments.bare(word) {
                let message = format!("`once` starts with the run and takes no `{word}`");
                self.tell(Diagnostic::error(span(&place), message));
            }
        }
        let (track, place) = self.played(arguments)?;
        let now = self.builder.now();
        let made = self.builder.track_at(&track, now);
        self.fits(made, &place)
    }

    /// `together` or `scatter`.
    fn start(&mut self, arguments: &mut Arguments) -> Option<Start> {
        match (arguments.bare("together"), arguments.bare("scatter")) {
            (Some(_), Some(second)) => {
                let message = "`together` and `scatter` exclude each other";
                self.tell(Diagnostic::error(span(&second), message));
                None
            }
            (Some(_), None) => Some(Start::Together),
            (None, Some(_)) => Some(Start::Scattered),
            (None, None) => Some(Start::Unsaid),
        }
    }

    fn turning(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        turn: Turn,
    ) -> Option<ExprId> {
        let place = self.builder.use_of(owner, arguments.callee.text());
        let start = self.start(arguments)?;
        let part = match arguments.named("part") {
            Some(range) => Some((self.times(&range, owner, "a part of a curve")?, range)),
            None => None,
        };
        let (track, curve) = self.played(arguments)?;
        let track = self.lasting(&curve, turn).unwrap_or(track);
        let length = self.program().curve(track.curves[0]).curve.length();
        let (part, told) = match part {
            Some((part, range)) => (Some(part), range),
            None => (None, curve),
        };
        let at = self.builder.turning(owner, &place, length, part, turn, start);
        let at = self.fits(at, &told)?;
        let made = self.builder.track_at(&track, at);
        self.fits(made, &told)
    }

    /// The track of a curve with a `length` for this way of playing; `None` for other curves.
    fn lasting(&self, curve: &Node, turn: Turn) -> Option<Track> {
        let name = tokens(curve).next()?;
        let Some(Item::Curve(columns)) =
            self.names.get(name.text()).map(|n| &self.entries[*n].item)
        else {
            return None;
        };
        let column = match tokens(curve).nth(2) {
            Some(column) => columns.names.iter().position(|known| known == column.text())?,
            None => 0,
        };
        let [looping, alternating] = columns.lasting.as_ref()?;
        match turn {
            Turn::Loop => looping.get(column).cloned(),
            Turn::Alternate => alternating.get(column).cloned(),
        }
    }

    /// A wave between two bounds; without a shape, a square wave.
    fn wave(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        wave: Option<Wave>,
    ) -> Option<ExprId> {
        let place = self.builder.use_of(owner, arguments.callee.text());
        let start = self.start(arguments)?;
        let bounds = match arguments.plain() {
            Some(range) => Some((self.bounds(&range, owner)?, range)),
            None => None,
        };
        let Some(every) = arguments.named("every") else {
            let callee = arguments.callee.text().to_owned();
            let wanted = format!("a period, as in `{callee}(20%..60%, every 3.1s)`");
            self.missing(arguments, &wanted);
            return None;
        };
        let (period, period_place) = self.single(&every, owner)?;
        let fits = self.builder.expect(period, ValueKind::Time);
        self.fits(fits, &period_place)?;
        self.expect_change_rate(owner, period, &period_place, ChangeRate::Fixed, "a period")?;
        let phase = match arguments.named("phase") {
            Some(range) => Some(self.plain_number(&range, owner)?),
            None => None,
        };
        let turns = self.builder.turns(owner, &place, period, phase, start);
        let turns = self.fits(turns, &every)?;
        let level = match wave {
            Some(wave) => self.builder.wave(wave, turns),
            None => {
                let on = self.number(arguments, owner, "on", 0.5)?;
                self.builder.square(turns, on)
            }
        };
        let level = self.fits(level, &every)?;
        match bounds {
            Some((bounds, range)) => self.spread(bounds, &range, level),
            None => Some(level),
        }
    }

    /// A plain number by name, or what it is otherwise.
    fn number(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        name: &str,
        otherwise: f64,
    ) -> Option<ExprId> {
        match arguments.named(name) {
            Some(range) => self.plain_number(&range, owner),
            None => self.builder.number(otherwise, ValueKind::Number).ok(),
        }
    }

    fn plain_number(&mut self, range: &Node, owner: &mut Owner) -> Option<ExprId> {
        let (value, place) = self.single(range, owner)?;
        let fits = self.builder.expect(value, ValueKind::Number);
        self.fits(fits, &place)?;
        Some(value)
    }

    /// `blink(on 300ms, off 700ms)`, `rhythm(...)`
    fn rhythm(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        const MOST: usize = 64;
        let callee = arguments.callee.text().to_owned();
        let place = self.builder.use_of(owner, &callee);
        let start = self.start(arguments)?;
        let bounds = match arguments.plain() {
            Some(range) => Some((self.bounds(&range, owner)?, range)),
            None => None,
        };
        let phase = match arguments.named("phase") {
            Some(range) => Some(self.plain_number(&range, owner)?),
            None => None,
        };
        let mut times: Vec<(bool, f64)> = Vec::new();
        let timed = |word: &str| matches!(word, "on" | "off");
        while let Some(n) = arguments
            .left
            .iter()
            .position(|a| a.word.as_ref().is_some_and(|word| timed(word.text())))
        {
            let argument = arguments.left.remove(n);
            let on = argument.word.as_ref().is_some_and(|word| word.text() == "on");
            let (time, time_place) = self.single(&argument.range, owner)?;
            let fits = self.builder.expect(time, ValueKind::Time);
            self.fits(fits, &time_place)?;
            let length = match self.program().constant(time) {
                Some(Constant::Scalar(v)) if v >= 1e-3 => v,
                _ => {
                    let message =
                        format!("a time of `{callee}` must be a constant of at least 1ms");
                    self.tell(Diagnostic::error(span(&time_place), message));
                    return None;
                }
            };
            times.push((on, length));
        }
        let fits =
            if callee == "blink" { times.len() == 2 } else { (2..=MOST).contains(&times.len()) };
        if !fits {
            let wanted = match callee.as_str() {
                "blink" => "one `on` and one `off`, as in `blink(on 300ms, off 700ms)`".to_owned(),
                _ => format!(
                    "2 to {MOST} times, as in `rhythm(on 300ms, off 300ms, on 300ms, off 5.1s)`"
                ),
            };
            self.missing(arguments, &wanted);
            return None;
        }
        let level = self.rhythm_level(&place, (start, phase), &times, owner);
        let level = self.fits(level, &arguments.node.clone())?;
        match bounds {
            Some((bounds, range)) => self.spread(bounds, &range, level),
            None => Some(level),
        }
    }

    fn rhythm_level(
        &mut self,
        place: &Use,
        (start, phase): (Start, Option<ExprId>),
        times: &[(bool, f64)],
        owner: &Owner,
    ) -> Result<ExprId, SemanticError> {
        let (track, length) = self.builder.rhythm(&self.declaration, times)?;
        let (turn, none) = (Turn::Loop, None);
        let mut at = self.builder.turning(owner, place, length, none, turn, start)?;
        if let Some(phase) = phase {
            // Phase turns on within the rhythm, so it is wrapped once more.
            let length = self.builder.number(length.0, ValueKind::Time)?;
            let shift = self.builder.multiply(length, phase)?;
            at = self.builder.turned_on(at, shift, length)?;
        }
        self.builder.track_at(&track, at)
    }

    /// A value at another moment.
    fn bent(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        word: &str,
        example: &str,
    ) -> Option<ExprId> {
        let (value, by) = (arguments.plain(), arguments.named(word));
        let (Some(value), Some(by)) = (value, by) else {
            self.missing(arguments, &format!("a value and `{word}`, as in `{example}`"));
            return None;
        };
        let (value, _) = self.single(&value, owner)?;
        let (by, by_place) = self.single(&by, owner)?;
        let wanted =
            if arguments.callee.text() == "stretch" { ValueKind::Number } else { ValueKind::Time };
        let fits = self.builder.expect(by, wanted);
        self.fits(fits, &by_place)?;
        let role = format!("`{word}` of `{}`", arguments.callee.text());
        self.expect_change_rate(owner, by, &by_place, ChangeRate::Fixed, &role)?;
        let made = match arguments.callee.text() {
            "stretch" => self.builder.stretched(value, by),
            _ => self.builder.stepped(value, by),
        };
        self.fits(made, &by_place)
    }

    /// `later(x, by 2s)`, `later(x, each 150ms)`, both, or `later(x, 2s)` where there is one lamp.
    fn later(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let value = arguments.plain();
        let (by, each) = (arguments.named("by"), arguments.named("each"));
        let plain = if by.is_none() { arguments.plain() } else { None };
        if let (Some(time), false) = (&plain, owner.is_single()) {
            let text = time.text().to_string();
            let text = text.trim();
            self.tell(
                Diagnostic::error(span(time), "`later` needs `by` or `each` before this time")
                    .help(format!(
                        "write `by {text}` for all lamps alike, or `each {text}` from lamp to lamp"
                    )),
            );
            return None;
        }
        let by = by.or(plain);
        let (Some(value), true) = (value, by.is_some() || each.is_some()) else {
            self.missing(
                arguments,
                "a value and a time, as in `later(x, by 2s)` or, from lamp to lamp, \
                 `later(x, each 150ms)`",
            );
            return None;
        };
        let (value, _) = self.single(&value, owner)?;
        let by = self.delay(by, "by", owner)?;
        let each = match self.delay(each, "each", owner)? {
            Some((each, place)) => {
                let made = self.builder.times_index(owner, each);
                Some((self.fits(made, &place)?, place))
            }
            None => None,
        };
        let (delay, place) = match (by, each) {
            (Some((by, _)), Some((each, place))) => {
                let made = self.builder.add(by, each);
                (self.fits(made, &place)?, place)
            }
            (by, each) => by.or(each)?,
        };
        let made = self.builder.later(value, delay);
        self.fits(made, &place)
    }

    /// A delay of `later`, which does not change during a run; `None` if it is wrong, `Some(None)` if it is absent.
    #[expect(clippy::option_option, reason = "wrong and absent are two things")]
    fn delay(
        &mut self,
        range: Option<Node>,
        word: &str,
        owner: &mut Owner,
    ) -> Option<Option<(ExprId, Node)>> {
        let Some(range) = range else { return Some(None) };
        let (time, place) = self.single(&range, owner)?;
        let fits = self.builder.expect(time, ValueKind::Time);
        self.fits(fits, &place)?;
        self.expect_change_rate(
            owner,
            time,
            &place,
            ChangeRate::Fixed,
            &format!("`{word}` of `later`"),
        )?;
        Some(Some((time, place)))
    }

    fn extreme(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let largest = arguments.callee.text() == "max";
        let mut made: Option<ExprId> = None;
        while let Some(range) = arguments.plain() {
            let (value, place) = self.single(&range, owner)?;
            made = Some(match made {
                None => {
                    let fits = self.builder.expect_scalar(value);
                    self.fits(fits, &place)?;
                    value
                }
                Some(before) => {
                    let joined = if largest {
                        self.builder.max(before, value)
                    } else {
                        self.builder.min(before, value)
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
        let made = self.builder.clamp(value, lo, hi);
        self.fits(made, &to)
    }

    fn map(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let easing = self.easing_of(arguments)?;
        let parts = (arguments.plain(), arguments.named("from"), arguments.named("to"));
        let (Some(value), Some(from), Some(to)) = parts else {
            let wanted = "a value and two ranges, as in `map(x, from 20%..80%, to 2m..9m)`";
            self.missing(arguments, wanted);
            return None;
        };
        let (value, _) = self.single(&value, owner)?;
        let [(a, _), (b, _)] = self.ends(&from, owner, false)?;
        let alike = self.builder.expect(a, self.builder.kind(value));
        self.fits(alike, &from)?;
        let [(c, _), (d, d_place)] = self.ends(&to, owner, false)?;
        let alike = self.builder.expect(d, self.builder.kind(c));
        self.fits(alike, &d_place)?;
        let made = self.builder.map(value, [a, b], [c, d], easing);
        self.fits(made, &from)
    }

    /// The easing among the arguments; linear by default.
    fn easing_of(&mut self, arguments: &mut Arguments) -> Option<Easing> {
        for word in words::EASINGS {
            if arguments.bare(word).is_some() {
                return Easing::named(word);
            }
        }
        let place =
            arguments.left.iter().position(|a| child_of(&a.range, SyntaxKind::Easing).is_some());
        match place {
            Some(n) => {
                let easing = child_of(&arguments.left.remove(n).range, SyntaxKind::Easing)?;
                self.easing(&easing)
            }
            None => Some(Easing::Linear),
        }
    }

    fn mix(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let linear = arguments.bare("linear").is_some();
        let (first, second, by) = (arguments.plain(), arguments.plain(), arguments.named("by"));
        let (Some(first), Some(second), Some(by)) = (first, second, by) else {
            self.missing(arguments, "two values and a ratio, as in `mix(a, b, by 30%)`");
            return None;
        };
        let (a, _) = self.single(&first, owner)?;
        let (b, second) = self.single(&second, owner)?;
        let (by, by_place) = self.single(&by, owner)?;
        let fits = self.builder.expect(by, ValueKind::Number);
        self.fits(fits, &by_place)?;
        let made = self.builder.lerp(a, b, by, linear);
        self.fits(made, &second)
    }

    fn threshold(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let parts = (arguments.plain(), arguments.named("at"), arguments.named("over"));
        let (Some(value), Some(at), Some(over)) = parts else {
            let wanted = "a value, a threshold and a width, as in `threshold(x, at 40%, over 10%)`";
            self.missing(arguments, wanted);
            return None;
        };
        let (value, _) = self.single(&value, owner)?;
        let (at, at_place) = self.single(&at, owner)?;
        let alike = self.builder.expect(at, self.builder.kind(value));
        self.fits(alike, &at_place)?;
        let (over, over_place) = self.single(&over, owner)?;
        let made = self.builder.threshold(value, at, over);
        self.fits(made, &over_place)
    }

    /// `kelvin(2000 + 400 * flame)`, `daylight(6500)`
    fn temperature(&mut self, arguments: &mut Arguments, owner: &mut Owner) -> Option<ExprId> {
        let callee = arguments.callee.text().to_owned();
        let Some(range) = arguments.plain() else {
            let example = words::example(&callee).unwrap_or_default();
            self.missing(arguments, &format!("a number of kelvins, as in `{example}`"));
            return None;
        };
        let (kelvins, place) = self.single(&range, owner)?;
        if self.builder.kind(kelvins) == ValueKind::Color {
            let message = format!("`{callee}` takes a plain number");
            let text = place.text().to_string();
            let text = text.trim().trim_end_matches('K');
            self.tell(
                Diagnostic::error(span(&place), message)
                    .help(format!("did you mean `{callee}({text})`?")),
            );
            return None;
        }
        let fits = self.builder.expect(kelvins, ValueKind::Number);
        self.fits(fits, &place)?;
        let made = match callee.as_str() {
            "daylight" => self.builder.daylight(kelvins),
            _ => self.builder.kelvin(kelvins),
        };
        self.fits(made, &place)
    }

    /// `hue(x, by 10deg)`, `scaled(x, by 70%)`
    fn colored(
        &mut self,
        arguments: &mut Arguments,
        owner: &mut Owner,
        example: &str,
    ) -> Option<ExprId> {
        let (Some(color), Some(by)) = (arguments.plain(), arguments.named("by")) else {
            self.missing(arguments, &format!("a color and `by`, as in `{example}`"));
            return None;
        };
        let (color, color_place) = self.single(&color, owner)?;
        let fits = self.builder.expect(color, ValueKind::Color);
        self.fits(fits, &color_place)?;
        let (by, by_place) = self.single(&by, owner)?;
        let turns = arguments.callee.text() == "hue";
        let wanted = if turns { ValueKind::Angle } else { ValueKind::Number };
        let fits = self.builder.expect(by, wanted);
        self.fits(fits, &by_place)?;
        let made =
            if turns { self.builder.turn_hue(color, by) } else { self.builder.scaled(color, by) };
        self.fits(made, &by_place)
    }
}
