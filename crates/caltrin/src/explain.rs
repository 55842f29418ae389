//! What a named thing of a lightbook is made of, how far it goes, when it repeats, and who uses it.

use std::collections::BTreeSet;

use caltrin_core::bounds::{Bounds, RangeQuery};
use caltrin_core::kind::{ChangeRate, InstanceLevel, Kind};
use caltrin_core::period::Period;
use caltrin_core::program::{
    Choice, Constant, CurveId, Depth, Dial, Event, EventSource, ExprId, Field, Input, Light,
    LightId, LightKind, Op, Program, Reference, Size, Sound, SoundId, Subject, Table, Wave,
};
use caltrin_core::sound::Marks;
use caltrin_core::{SourceNote, SourceNotes, ValidatedProgram};
use caltrin_lang::words::nearest;

/// An explanation, in words that can be shown.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Explanation {
    /// What it is: `mast.intensity: strength of 8 spot lamps`.
    pub title: String,
    /// Where it stands: `pier.caltrin:52`; empty without a book.
    pub place: String,
    /// Its line of the book.
    pub text: String,
    /// What it is made of: name, what that is, and where it stands.
    pub parts: Vec<[String; 3]>,
    /// The bounds that it never leaves.
    pub bounds: Option<String>,
    /// When it repeats again.
    pub period: Option<String>,
    /// How often it changes, and whose it is.
    pub changes: Option<String>,
    /// The tags of a light.
    pub tags: Vec<String>,
    /// Who uses it.
    pub users: Vec<String>,
}

/// Explains `name`: a signal, behavior, curve, light or output, or `light.channel`.
///
/// # Errors
/// The nearest name that there is, if any is near.
pub fn explain(
    checked: &ValidatedProgram,
    notes: &SourceNotes,
    name: &str,
) -> Result<Explanation, Option<String>> {
    let book = Book { checked, program: checked.program(), notes };
    let names = book.names();
    match names.iter().find(|(known, _)| known == name) {
        Some((name, subject)) => Ok(book.explain(name, *subject)),
        None if book.declared(name).is_some() => book.declared(name).ok_or(None),
        None if book.scripted(name).is_some() => book.scripted(name).ok_or(None),
        None if book.group(name).is_some() => book.group(name).ok_or(None),
        None => {
            // Of modes and sequences there are parts.
            let part = names.iter().find(|(known, _)| {
                known.strip_prefix(name).is_some_and(|rest| rest.starts_with('.'))
            });
            let groups = book.notes.groups.iter().map(|group| group.name.as_str());
            let groups = groups.chain(book.notes.named.iter().map(|(name, _)| name.as_str()));
            let near = || nearest(name, names.iter().map(|(n, _)| n.as_str()).chain(groups));
            Err(part.map(|(known, _)| known.as_str()).or_else(near).map(str::to_owned))
        }
    }
}

/// What a book itself declares and [`explain`] knows, in its order: the name, what it is, and where it stands. Channels
/// of lights, parts of modes and sequences, and what comes from used books are left out.
pub fn explainable(checked: &ValidatedProgram, notes: &SourceNotes) -> Vec<[String; 3]> {
    let book = Book { checked, program: checked.program(), notes };
    let own = |subject: &Subject| notes.lines.get(subject).filter(|note| note.file.is_none());
    // The line that it stands in, its name with what it is, and where it stands.
    let mut found: Vec<(u32, String, String)> = Vec::new();
    for (name, subject) in book.names() {
        let whole = match subject {
            Subject::Drive(..) => false,
            Subject::Light(_) => true,
            Subject::Event(_) | Subject::Input(_) => !book.is_part(&name),
            _ => !name.contains('.'),
        };
        if let Some(note) = own(&subject).filter(|_| whole) {
            let (what, ..) = book.what(subject);
            found.push((note.line, format!("{name}: {what}"), book.stands(Some(note))));
        }
    }
    let modes = book.program.modes().iter().map(|modes| &modes.name);
    let scripts = modes.chain(book.program.scenes().iter().map(|scene| &scene.name));
    for told in scripts.filter_map(|name| book.scripted(name)) {
        let line = told.place.rsplit(':').next().and_then(|line| line.parse().ok());
        found.push((line.unwrap_or(u32::MAX), told.title, told.place));
    }
    for (name, note) in notes.named.iter().filter(|(_, note)| note.file.is_none()) {
        found.extend(book.declared(name).map(|told| (note.line, told.title, told.place)));
    }
    for group in notes.groups.iter().filter(|group| group.note.file.is_none()) {
        let told = book.group(&group.name);
        found.extend(told.map(|told| (group.note.line, told.title, told.place)));
    }
    found.sort_by_key(|(line, ..)| *line);
    // A curve of colors is three of numbers.
    found.dedup_by(|(_, a, _), (_, b, _)| a == b);
    let split = |(_, title, place): (u32, String, String)| {
        let (name, what) = title.split_once(": ").unwrap_or((&title, ""));
        [name.to_owned(), what.to_owned(), place]
    };
    found.into_iter().map(split).collect()
}

struct Book<'a> {
    checked: &'a ValidatedProgram,
    program: &'a Program,
    notes: &'a SourceNotes,
}

impl Book<'_> {
    /// Everything that can be explained by its name, in the book's order.
    fn names(&self) -> Vec<(String, Subject)> {
        let mut names: Vec<(String, Subject)> = Vec::new();
        for subject in self.program.order() {
            match subject {
                Subject::Signal(id) => {
                    names.push((self.program.signal(*id).name.clone(), *subject))
                }
                Subject::Behavior(id) => {
                    names.push((self.program.behavior(*id).name.clone(), *subject));
                }
                // What a sequence does over time is not a curve of the book.
                Subject::Curve(id) if self.program.curve(*id).led => {}
                Subject::Curve(id) => names.push((self.program.curve(*id).title.clone(), *subject)),
                Subject::Input(id) => names.push((self.program.input(*id).name.clone(), *subject)),
                Subject::Event(id) => names.push((self.program.event(*id).name.clone(), *subject)),
                Subject::Choice(id) => {
                    names.push((self.program.choice(*id).name.clone(), *subject))
                }
                Subject::Light(id) => {
                    let light = self.program.light(*id);
                    names.push((light.name.clone(), *subject));
                    for drive in &light.drives {
                        let field = light.field_name(drive.field);
                        let inner = Subject::Drive(*id, drive.field);
                        names.push((format!("{}.{field}", light.name), inner));
                        // A channel of two sides goes by its own name too.
                        if let Some(channel) = field.strip_suffix("_outer") {
                            names.push((format!("{}.{channel}", light.name), inner));
                        }
                    }
                }
                Subject::Book | Subject::Drive(..) | Subject::Sound(_) => {}
            }
        }
        for (id, sound) in self.program.sounds_by_id() {
            names.push((sound.name.clone(), Subject::Sound(id)));
        }
        names
    }

    /// Whether a dotted name is that of a part of modes, a sequence, phases or a sound.
    fn is_part(&self, name: &str) -> bool {
        let Some((whole, _)) = name.split_once('.') else { return false };
        let program = self.program;
        program.modes().iter().any(|modes| modes.name == whole)
            || program.scenes().iter().any(|scene| scene.name == whole)
            || program.phases().iter().any(|phases| phases.name == whole)
            || program.sounds().iter().any(|sound| sound.name == whole)
    }

    /// The sequence whose curve this is, where it is none of the book.
    fn scene_of(&self, id: CurveId) -> Option<&str> {
        if !self.program.curve(id).led {
            return None;
        }
        let title = &self.program.curve(id).title;
        let scenes = self.program.scenes().iter().map(|scene| scene.name.as_str());
        let mut own = scenes
            .filter(|name| title.strip_prefix(*name).is_some_and(|rest| rest.starts_with('_')));
        own.next()
    }

    /// What is declared by a name and has values or texts, but is not a value itself: phases, the sun, the moon, notices and
    /// rehearsals.
    fn declared(&self, name: &str) -> Option<Explanation> {
        let program = self.program;
        let part = |name: String, what: String| [name, what, String::new()];
        let (what, parts, users) = if let Some(phases) =
            program.phases().iter().find(|phases| phases.name == name)
        {
            let each = phases.parts.iter().map(|(phase, from, _)| {
                part(
                    format!("{name}.{phase}"),
                    format!("from {}, its weight, 0 to 1", from.to_clock()),
                )
            });
            let tint = phases
                .tint
                .map(|_| part(format!("{name}.tint"), "the blend of their tints".to_owned()));
            let what = format!("{} phases of the day", phases.parts.len());
            (what, each.chain(tint).collect(), self.users_below(name))
        } else if let Some(body) = program.bodies().iter().find(|body| body.name == name) {
            let is_moon = body.lit.is_some();
            let about = [
                ("height", "elevation in degrees"),
                ("azimuth", "azimuth in degrees, clockwise from north"),
                ("aim", "direction of its light"),
                ("up", "whether it is above the horizon"),
                ("rise", "hour of rising"),
                ("set", "hour of setting"),
                ("noon", "hour of the highest point"),
                ("dawn", "start of twilight"),
                ("dusk", "end of twilight"),
                ("daylight", "brightness of the sky, 0 to 1"),
                ("color", "color of its light"),
                ("strength", "strength of its light, 0 to 1"),
                ("lit", "lit fraction, 0 to 1"),
            ];
            let has = |part: &str| {
                let path = format!("{name}.{part}");
                program.signals().any(|(_, signal)| signal.name == path)
            };
            let parts = about.iter().filter(|(part, _)| has(part));
            let parts = parts.map(|(own, what)| part(format!("{name}.{own}"), (*what).to_owned()));
            let what = if is_moon { "the moon" } else { "the sun" };
            (what.to_owned(), parts.collect(), self.users_below(name))
        } else if program.notices().iter().any(|notice| notice.name == name) {
            let own = program.notices().iter().filter(|notice| notice.name == name);
            let each = own.map(|notice| {
                let from = match notice.from.as_str() {
                    "" => "from the book".to_owned(),
                    from => format!("from `{from}`"),
                };
                let texts = match notice.texts.len() {
                    0 => String::new(),
                    1 => format!(", with \"{}\"", notice.texts[0]),
                    _ => format!(", with one of \"{}\"", notice.texts.join("\", \"")),
                };
                let values = match notice.values.len() {
                    0 => String::new(),
                    1 => format!(", value {}", notice.values[0]),
                    _ => format!(", values {}", notice.values.join(", ")),
                };
                part(name.to_owned(), format!("{from}{texts}{values}"))
            });
            ("a notice for the game".to_owned(), each.collect(), Vec::new())
        } else {
            let rehearsal = program.rehearsals().iter().find(|r| r.name == name)?;
            let count =
                |n: usize, what: &str| format!("{n} {what}{}", if n == 1 { "" } else { "s" });
            let (acts, expected) = (rehearsal.deeds.len(), rehearsal.expectations.len());
            let start =
                rehearsal.clock.map_or(String::new(), |at| format!(", from {}", at.to_clock()));
            let what = format!(
                "a rehearsal of {} s{start}, with {} and {}",
                short(rehearsal.end.0),
                count(acts, "act"),
                count(expected, "expectation")
            );
            (what, Vec::new(), Vec::new())
        };
        let note = self.named(name);
        Some(Explanation {
            title: format!("{name}: {what}"),
            place: self.stands(note),
            text: note.map_or(String::new(), |note| note.text.clone()),
            parts,
            bounds: None,
            period: None,
            tags: Vec::new(),
            changes: None,
            users,
        })
    }

    /// Who uses any of the values of something.
    fn users_below(&self, name: &str) -> Vec<String> {
        let own =
            |signal: &str| signal.strip_prefix(name).is_some_and(|rest| rest.starts_with('.'));
        let signals = self.program.signals().filter(|(_, signal)| own(&signal.name));
        let all: BTreeSet<String> = signals
            .flat_map(|(id, _)| self.users(Subject::Signal(id)))
            .filter(|user| !own(user))
            .collect();
        all.into_iter().collect()
    }

    /// What something is in a few words, with its value, if it has one, and the light that it belongs to.
    fn what(&self, subject: Subject) -> (String, Option<ExprId>, Option<LightId>) {
        match subject {
            Subject::Signal(id) => {
                let value = self.program.signal(id).value;
                ("a signal, shared by all that use it".to_owned(), Some(value), None)
            }
            Subject::Behavior(id) => {
                let behavior = self.program.behavior(id);
                let own = match behavior.parameters.len() {
                    0 => String::new(),
                    n => format!(", with {n} parameter{}", if n == 1 { "" } else { "s" }),
                };
                (format!("a behavior, a copy for each use{own}"), Some(behavior.value), None)
            }
            Subject::Curve(id) => {
                let curve = &self.program.curve(id).curve;
                (format!("a curve of {} stops", curve.stops().len()), None, None)
            }
            Subject::Input(id) => {
                let mut events = self.program.events();
                let of = events.find(|(_, event)| event.values.contains(&id));
                let about = match of {
                    Some((_, event)) => format!("a value of the event `{}`", event.name),
                    None => about_input(self.program.input(id)),
                };
                (about, None, None)
            }
            Subject::Event(id) => (about_event(self.program.event(id)), None, None),
            Subject::Choice(id) => (about_choice(self.program.choice(id)), None, None),
            Subject::Light(id) => (about(self.program.light(id)), None, Some(id)),
            Subject::Drive(id, field) => {
                let light = self.program.light(id);
                let what = match field {
                    Field::Intensity => "the strength".to_owned(),
                    field => format!("the {}", light.field_name(field).replace('_', " ")),
                };
                let value = light.drive(field);
                (format!("{what} of {}", about(light)), value, Some(id))
            }
            Subject::Sound(id) => (about_sound(self.program.sound(id)), None, None),
            Subject::Book => ("the book".to_owned(), None, None),
        }
    }

    /// The tags of a light.
    fn tags(&self, subject: Subject) -> Vec<String> {
        let (Subject::Light(id) | Subject::Drive(id, _)) = subject else { return Vec::new() };
        let bits = self.program.light(id).tags;
        let named = self.program.tags().iter().enumerate();
        named.filter(|(n, _)| bits >> n & 1 == 1).map(|(_, tag)| tag.clone()).collect()
    }

    fn explain(&self, name: &str, subject: Subject) -> Explanation {
        let (what, value, light) = self.what(subject);
        let note = self.notes.lines.get(&subject);
        let mut parts = Vec::new();
        if let Some(value) = value {
            let parameters: Vec<String> = match subject {
                Subject::Behavior(id) => {
                    let behavior = self.program.behavior(id);
                    behavior.parameters.iter().map(|p| p.name.clone()).collect()
                }
                _ => Vec::new(),
            };
            parts = self.parts(value, &parameters);
        } else if let Subject::Light(id) = subject {
            parts = self.channels(id);
        } else if let Subject::Sound(id) = subject {
            parts = self.followed(id);
        }
        let bounds = match (value, subject) {
            // What a behavior gives depends on its arguments.
            (Some(_), Subject::Behavior(_)) => None,
            (Some(value), _) => {
                let mut ranges = RangeQuery::new(self.program);
                let kind = self.program.expr(value).kind;
                let unit = match subject {
                    Subject::Drive(..) => self.program.space().symbol(kind),
                    _ => kind.unit().into(),
                };
                Some(self.range(ranges.bounds(light, value), &unit))
            }
            (None, Subject::Curve(id)) => {
                let named = self.program.curve(id);
                let plain = named.title == named.name;
                plain.then(|| self.range(Bounds::Scalar(named.curve.bounds()), named.kind.unit()))
            }
            (None, Subject::Input(id)) => {
                let input = self.program.input(id);
                let unit = self.program.space().symbol(input.kind);
                let bounds = match input.kind.width() {
                    _ if input.kind == Kind::OnOff => Bounds::OnOff,
                    1 => Bounds::Scalar(input.bounds),
                    _ => Bounds::Vector([input.bounds; 3]),
                };
                Some(self.range(bounds, &unit))
            }
            (None, _) => None,
        };
        Explanation {
            title: format!("{name}: {what}"),
            place: self.stands(note),
            text: note.map_or(String::new(), |note| note.text.clone()),
            parts,
            bounds,
            period: value.map(|value| self.period(value)),
            tags: self.tags(subject),
            changes: match subject {
                Subject::Input(_) => Some("when the game sets it".to_owned()),
                Subject::Choice(_) => Some("when the game chooses".to_owned()),
                Subject::Event(_) => None,
                _ => value.map(|value| self.pace(value, light)),
            },
            users: self.users(subject),
        }
    }

    /// The tables of what follows a sound.
    fn followed(&self, id: SoundId) -> Vec<[String; 3]> {
        let tables = self.program.sound(id).followed.iter().map(|id| self.program.table(*id));
        let about = |table: &Table| {
            let size = format!("a table of {} entries, {} bytes", table.count(), table.bytes());
            [table.name.clone(), size, String::new()]
        };
        tables.map(about).collect()
    }

    /// A group: the lights in it.
    fn group(&self, name: &str) -> Option<Explanation> {
        let group = self.notes.groups.iter().find(|group| group.name == name)?;
        let about_one = |light: &String| {
            let id = self.program.light_named(light)?;
            Some([light.clone(), about(self.program.light(id)), self.place(Subject::Light(id))])
        };
        let count = group.lights.len();
        Some(Explanation {
            title: format!("{name}: a group of {count} light{}", if count == 1 { "" } else { "s" }),
            place: self.stands(Some(&group.note)),
            text: group.note.text.clone(),
            parts: group.lights.iter().filter_map(about_one).collect(),
            bounds: None,
            period: None,
            tags: Vec::new(),
            changes: None,
            users: Vec::new(),
        })
    }

    /// Modes, or a sequence: what has parts but is not a value itself.
    fn scripted(&self, name: &str) -> Option<Explanation> {
        let signal = |wanted: &str| {
            let found = self.program.signals().find(|(_, signal)| signal.name == wanted);
            found.map(|(id, _)| Subject::Signal(id))
        };
        let modes = self.program.modes().iter().find(|modes| modes.name == name);
        let scene = self.program.scenes().iter().find(|scene| scene.name == name);
        let (what, parts) = match (modes, scene) {
            (Some(modes), _) => {
                let first = &modes.parts.first()?.0;
                let parts = modes.parts.iter().map(|(mode, _)| format!("{name}.{mode}"));
                (format!("modes, starting with {first}"), parts.collect::<Vec<_>>())
            }
            (None, Some(scene)) => {
                let end = match scene.end {
                    Some(end) => format!("a sequence of {} s", short(end.0)),
                    None => "a sequence that keeps its last values".to_owned(),
                };
                (end, vec![format!("{name}.at")])
            }
            (None, None) => return None,
        };
        let subjects: Vec<Subject> = parts.iter().filter_map(|part| signal(part)).collect();
        let mut users: Vec<String> =
            subjects.iter().flat_map(|subject| self.users(*subject)).collect();
        users.sort_unstable();
        users.dedup();
        let note = subjects.first().and_then(|subject| self.notes.lines.get(subject));
        let about = |part: String| match modes {
            Some(_) => [part, "weight, 0 to 1".to_owned(), String::new()],
            None => [part, "elapsed time in seconds".to_owned(), String::new()],
        };
        Some(Explanation {
            title: format!("{name}: {what}"),
            place: self.stands(note),
            text: note.map_or(String::new(), |note| note.text.clone()),
            parts: parts.into_iter().map(about).collect(),
            bounds: None,
            period: None,
            tags: Vec::new(),
            changes: Some("at events".to_owned()),
            users,
        })
    }

    /// Where something of a name stands that is not a subject of its own.
    fn named(&self, name: &str) -> Option<&SourceNote> {
        self.notes.named.iter().find(|(known, _)| known == name).map(|(_, note)| note)
    }

    /// The file and line of a note, empty without one.
    fn stands(&self, note: Option<&SourceNote>) -> String {
        note.map_or(String::new(), |note| {
            let file = note.file.as_ref().unwrap_or(&self.notes.file);
            format!("{file}:{}", note.line)
        })
    }

    fn place(&self, subject: Subject) -> String {
        self.notes.lines.get(&subject).map_or(String::new(), |note| match &note.file {
            Some(file) => format!("{file}:{}", note.line),
            None => format!("line {}", note.line),
        })
    }

    /// What an expression is made of, in the order in which it is met, each once.
    fn parts(&self, root: ExprId, parameters: &[String]) -> Vec<[String; 3]> {
        let program = self.program;
        let (mut open, mut seen, mut parts) = (vec![root], BTreeSet::new(), Vec::new());
        let mut scattered = BTreeSet::new();
        while let Some(id) = open.pop() {
            if !seen.insert(id) {
                continue;
            }
            let op = &program.expr(id).op;
            let part = |name: &str, what: &str, place: String| {
                Some([name.to_owned(), what.to_owned(), place])
            };
            let found = match op {
                Op::Signal(id) => {
                    let name = &program.signal(*id).name;
                    let place = self.place(Subject::Signal(*id));
                    match self.inner_of(name) {
                        // Words that the book cannot say.
                        Some(body) => {
                            let note = self.named(body);
                            let line =
                                note.map_or(String::new(), |note| format!("line {}", note.line));
                            part(body, "position in the sky", line)
                        }
                        None => part(name, "signal, shared by all that use it", place),
                    }
                }
                Op::Call(id, _, site) => part(
                    &program.behavior(*id).name,
                    if site.is_some() {
                        "behavior, with its own random values"
                    } else {
                        "behavior, without chance"
                    },
                    self.place(Subject::Behavior(*id)),
                ),
                Op::Curve(id, _) if self.scene_of(*id).is_some() => {
                    self.scene_of(*id).and_then(|scene| {
                        let at = program
                            .signals()
                            .find(|(_, signal)| signal.name == format!("{scene}.at"));
                        let place =
                            at.map_or(String::new(), |(id, _)| self.place(Subject::Signal(id)));
                        part(scene, "sequence, while it holds this", place)
                    })
                }
                Op::Curve(id, _) if program.curve(*id).led => {
                    part("rhythm", "on and off, repeated", String::new())
                }
                Op::Curve(id, _) => {
                    part(&program.curve(*id).title, "curve", self.place(Subject::Curve(*id)))
                }
                Op::Input(id) if program.input(*id).kept.is_some() => {
                    program.event_kept_in(*id).and_then(|event| {
                        let name = &program.event(event).name;
                        let place = self.place(Subject::Event(event));
                        part(name, "event, its latest occurrence", place)
                    })
                }
                Op::Input(id) => part(
                    &program.input(*id).name,
                    "input, set by the game",
                    self.place(Subject::Input(*id)),
                ),
                Op::IsChosen(id, option) | Op::Weight(id, option) => {
                    let choice = program.choice(*id);
                    let name = format!("{}.{}", choice.name, choice.options[*option as usize]);
                    let place = self.place(Subject::Choice(*id));
                    part(&name, "option, chosen by the game", place)
                }
                Op::Clock(Dial::Hour) => part("hour", "hour of the game's clock", String::new()),
                Op::Clock(Dial::Days) => part("days", "days of the game's clock", String::new()),
                Op::SampleAndHold(..) => part("held", "random levels", String::new()),
                Op::SmoothHold(..) => {
                    part("held", "random levels with soft transitions", String::new())
                }
                Op::Drift(..) => part("drift", "smooth noise", String::new()),
                Op::Burst(..) => part("bursts", "random bursts", String::new()),
                Op::InBall(..) => part("wander", "a displacement within a radius", String::new()),
                Op::Phase(_) if scattered.contains(&id) => {
                    part("scatter", "a random phase", String::new())
                }
                Op::Phase(_) => part("drawn", "a random value, chosen once", String::new()),
                Op::Wave(wave, _) => {
                    let name = match wave {
                        Wave::Sine => "sine",
                        Wave::Triangle => "triangle",
                        Wave::Saw => "saw",
                    };
                    part(name, "a wave", String::new())
                }
                Op::Square(..) => part("square", "on and off, repeated", String::new()),
                Op::Parameter(n) => {
                    let name = parameters.get(*n).map_or("", String::as_str);
                    part(name, "a parameter", String::new())
                }
                _ => None,
            };
            if let Some(found) = found
                && !parts.contains(&found)
            {
                parts.push(found);
            }
            // Where a turn or a wave starts is drawn for it, and not by `one`.
            if let Op::Looped(..) | Op::Wave(..) | Op::Square(..) = op {
                scattered.extend(phases_below(program, id));
            }
            // What a wander drifts with is part of it, and what turns a hue is of no account.
            match (op, program.hue(id)) {
                (Op::InBall(..), _) => {}
                (_, Some([color, angle])) => open.extend([angle, color]),
                _ => open.extend(op.operands().into_iter().rev()),
            }
        }
        parts
    }

    /// The sun or moon whose inner value has this name, which no book can say.
    fn inner_of<'n>(&self, name: &'n str) -> Option<&'n str> {
        let (whole, part) = name.split_once('.')?;
        let inner = part.contains('.') || matches!(part, "moment" | "day");
        let is_body = self.program.bodies().iter().any(|body| body.name == whole);
        (inner && is_body).then_some(whole)
    }

    /// A light's driven channels with their bounds.
    fn channels(&self, id: LightId) -> Vec<[String; 3]> {
        let light = self.program.light(id);
        let mut channels = Vec::new();
        for drive in &light.drives {
            let bounds = self.checked.bounds(id, drive.field);
            let range = bounds.map_or(String::new(), |bounds| {
                self.range(bounds, &self.program.space().symbol(drive.kind))
            });
            let place = self.place(Subject::Drive(id, drive.field));
            channels.push([light.field_name(drive.field).to_owned(), range, place]);
        }
        channels
    }

    fn range(&self, bounds: Bounds, unit: &str) -> String {
        let one = |n: usize| {
            let part = bounds.part(n);
            if part.lo == part.hi {
                short(part.lo)
            } else {
                format!("{}..{}", short(part.lo), short(part.hi))
            }
        };
        let unit = if unit.is_empty() { String::new() } else { format!(" {unit}") };
        match bounds {
            Bounds::Scalar(_) => format!("{}{unit}", one(0)),
            Bounds::Vector(_) => format!("({}, {}, {}){unit}", one(0), one(1), one(2)),
            Bounds::OnOff => "on or off".to_owned(),
        }
    }

    fn period(&self, value: ExprId) -> String {
        match self.program.period(value) {
            Period::Steady if self.program.expr(value).change_rate == ChangeRate::Stepwise => {
                "never changes by itself".to_owned()
            }
            Period::Steady => "never changes".to_owned(),
            Period::Every(period) => format!("every {} s", short(period.0)),
            Period::Long => "after more than a day".to_owned(),
            Period::Once if self.heeds_events(value) => "never: depends on events".to_owned(),
            Period::Once => "never: plays once".to_owned(),
            Period::Chance => "never: it is random".to_owned(),
        }
    }

    fn pace(&self, value: ExprId, light: Option<LightId>) -> String {
        let expr = self.program.expr(value);
        let pace = match expr.change_rate {
            ChangeRate::Constant => "never: it is constant",
            ChangeRate::Fixed => "never during a run",
            ChangeRate::Stepwise => "at events",
            ChangeRate::Flowing => {
                match (self.goes_with(value, true), self.goes_with(value, false)) {
                    (true, false) => "with the game's clock",
                    (true, true) => "with time and the game's clock",
                    _ => "with time",
                }
            }
        };
        let many = light.is_some_and(|id| self.program.light(id).size != Size::One);
        let whose = match expr.scope {
            InstanceLevel::Lamp if many => "; separate for each lamp",
            InstanceLevel::Instance(_) => "; separate for each instance",
            InstanceLevel::Book if many => "; shared by all lamps",
            InstanceLevel::Book | InstanceLevel::Lamp => "",
        };
        format!("{pace}{whose}")
    }

    /// Whether what events left is in a value.
    fn heeds_events(&self, root: ExprId) -> bool {
        self.has(root, |op| matches!(op, Op::Input(id) if self.program.input(*id).kept.is_some()))
    }

    /// Whether a value goes with the game's clock, or with time.
    fn goes_with(&self, root: ExprId, clock: bool) -> bool {
        self.has(root, |op| match op {
            Op::Clock(_) => clock,
            Op::Now
            | Op::SampleAndHold(..)
            | Op::SmoothHold(..)
            | Op::Drift(..)
            | Op::Burst(..) => !clock,
            _ => false,
        })
    }

    /// Whether such an operation is in a value, signals and behaviors included.
    fn has(&self, root: ExprId, wanted: impl Fn(&Op) -> bool) -> bool {
        self.program.walk([root], Depth::Whole).any(|(_, expr)| wanted(&expr.op))
    }

    /// The switches, modes and sequences that an event turns, and the events that follow it.
    fn turned_by(&self, subject: Subject) -> Vec<String> {
        let Subject::Event(id) = subject else { return Vec::new() };
        let event = self.program.event(id);
        let last = event.last;
        let written = event.writes.iter().flat_map(|write| &write.sets);
        let mut turned: Vec<String> = Vec::new();
        for (input, _) in written {
            let kept = &self.program.input(*input).name;
            let named = [".on", ".mode", ".started", ".stopped"];
            let name = named.iter().find_map(|end| kept.strip_suffix(end));
            turned.extend(name.filter(|name| !turned.iter().any(|t| t == name)).map(str::to_owned));
        }
        let follows = self.program.events().filter(|(other, event)| {
            let heeds = |op: &Op| matches!(op, Op::Input(id) if *id == last);
            let own = event.source.is_own();
            !own && *other != id && event.due.is_some_and(|due| self.has(due, heeds))
        });
        turned.into_iter().chain(follows.map(|(_, event)| event.name.clone())).collect()
    }

    /// Who uses something: signals and behaviors by name, lights with the channel.
    fn users(&self, subject: Subject) -> Vec<String> {
        let program = self.program;
        let mut users = self.turned_by(subject);
        let uses = |root: ExprId| {
            program.reads([root], Depth::Own).any(|read| match (read, subject) {
                (Reference::Signal(id), _) => subject == Subject::Signal(id),
                (Reference::Behavior(id), _) => subject == Subject::Behavior(id),
                (Reference::Input(id), Subject::Event(event)) => program.event(event).last == id,
                (Reference::Input(id), _) => subject == Subject::Input(id),
                (Reference::Choice(id), _) => subject == Subject::Choice(id),
                (Reference::Table(table), Subject::Sound(id)) => {
                    program.sound(id).followed.contains(&table)
                }
                (Reference::Curve(id), Subject::Curve(wanted)) => {
                    program.curve(id).title == program.curve(wanted).title
                }
                (Reference::Table(_) | Reference::Curve(_), _) => false,
            })
        };
        for user in program.order() {
            match user {
                Subject::Signal(id) if uses(program.signal(*id).value) => {
                    users.push(program.signal(*id).name.clone());
                }
                Subject::Behavior(id) if uses(program.behavior(*id).value) => {
                    users.push(program.behavior(*id).name.clone());
                }
                Subject::Light(id) => {
                    let light = program.light(*id);
                    for drive in light.drives.iter().filter(|drive| uses(drive.value)) {
                        users.push(format!("{}.{}", light.name, light.field_name(drive.field)));
                    }
                }
                _ => {}
            }
        }
        users
    }
}

/// The draws below an expression that say where something starts.
fn phases_below(program: &Program, root: ExprId) -> Vec<ExprId> {
    let met = program.walk([root], Depth::Own);
    met.filter(|(_, expr)| matches!(expr.op, Op::Phase(_))).map(|(id, _)| id).collect()
}

fn about_input(input: &Input) -> String {
    let default = match input.default {
        Constant::Scalar(v) => short(v),
        Constant::Vector(v) => format!("({})", v.map(short).join(", ")),
        Constant::OnOff(on) => if on { "on" } else { "off" }.to_owned(),
    };
    let many = match input.count() {
        1 => String::new(),
        n => format!(" of {n}, index 0 to {}", n - 1),
    };
    format!("an input{many}, default {default}")
}

fn about_event(event: &Event) -> String {
    let source = match event.source {
        EventSource::Game => "fired by the game",
        EventSource::Every => "that repeats",
        EventSource::After => "after a delay",
        EventSource::Hour => "at an hour",
        EventSource::When => "of a condition",
        EventSource::Sound => "of a sound",
        EventSource::Within | EventSource::Look | EventSource::Set => "of the book itself",
    };
    match event.home.many() {
        None => format!("an event {source}"),
        Some(n) => format!("an event {source}, one for each of {n}, index 0 to {}", n - 1),
    }
}

fn about_sound(sound: &Sound) -> String {
    if sound.file.is_empty() {
        return "a live sound, with levels from the game".to_owned();
    }
    let hearing = &sound.hearing;
    let marks = Marks::NAMED.map(|(name, which)| (name, hearing.marks(which).len()));
    let marks: Vec<String> = marks
        .iter()
        .filter(|(_, n)| *n > 0)
        .map(|(name, n)| format!("{n} {name}{}", if *n == 1 { "" } else { "s" }))
        .collect();
    let marks =
        if marks.is_empty() { String::new() } else { format!(", with {}", marks.join(" and ")) };
    let how = match (sound.loops, sound.plays.is_some()) {
        (true, false) => "repeats",
        (true, true) => "repeats when started",
        (false, false) => "plays once",
        (false, true) => "plays when started",
    };
    format!("a sound of {} s in `{}`{marks}; it {how}", short(hearing.length().0), sound.file)
}

fn about_choice(choice: &Choice) -> String {
    let over = match choice.over.0 {
        0.0 => "at once".to_owned(),
        over => format!("over {} s", short(over)),
    };
    let (first, all) = (&choice.options[0], choice.options.join(", "));
    format!("a choice of {all}; default {first}, transition {over}")
}

fn about(light: &Light) -> String {
    let (one, many) = match light.kind {
        LightKind::Output => ("an output".to_owned(), "outputs".to_owned()),
        kind => {
            let article = if kind.name().starts_with('a') { "an" } else { "a" };
            (format!("{article} {} lamp", kind.name()), format!("{} lamps", kind.name()))
        }
    };
    match light.size {
        Size::One => one,
        Size::Many(n) => format!("{n} {many}"),
        Size::Open => format!("any number of {many}"),
    }
}

/// A number in four digits.
fn short(v: f64) -> String {
    let digits = if v == 0.0 { 0 } else { (3 - v.abs().log10().floor() as i32).clamp(0, 9) };
    let text = format!("{v:.*}", digits as usize);
    if text.contains('.') {
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    } else {
        text
    }
}
