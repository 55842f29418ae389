//! Functions, lights and inputs of the plan, one after the other.

use caltrin_core::curve::{Easing, Stop};
use caltrin_core::interval::Interval;
use caltrin_core::kind::{ChangeRate, Kind};
use caltrin_core::program::{
    ChoiceId, Constant, CurveId, Dial, Domain, Drive, Event, EventId, ExprId, Field, Given,
    InputId, Light, LightId, Op, Program, Size, Space, Subject, TableId, Write, parts_of,
};
use caltrin_core::quantity::Place;
use caltrin_core::{SourceNote, SourceNotes, ValidatedProgram, kernel};
use rustc_hash::{FxHashMap, FxHashSet};

use super::body::Body;
use super::easings::Easings;
use super::reach::{Needs, Reached};
use super::types::{plain_line, stays_between};
use super::{
    ChoicePlan, Code, ConditionalWrite, Each, EventPlan, EventWrites, FieldPlan, Function,
    FunctionId, Helper, Infix, InputPlan, LightPlan, Local, Locals, OutputConversion, Part, Role,
    SendPlan, Source, Statement, Type, prune, steps_up, visit_statement,
};

/// The names of the parts of a kind, empty for one number.
pub(super) fn part_names(kind: Kind) -> &'static [&'static str] {
    match kind {
        Kind::Color => &["_r", "_g", "_b"],
        Kind::Point => &["_x", "_y", "_z"],
        _ => &[""],
    }
}

pub(super) fn type_of(kind: Kind) -> Type {
    match kind {
        Kind::OnOff => Type::Flag,
        _ => Type::Number,
    }
}

pub(super) struct Maker<'a> {
    pub program: &'a Program,
    pub notes: &'a SourceNotes,
    pub needs: Needs,
    pub tables: Vec<TableId>,
    pub easings: Easings,
    /// Where curves are played, of those that are only looped.
    pub played: FxHashMap<CurveId, Interval>,
    pub inputs: Vec<InputId>,
    pub choices: Vec<ChoiceId>,
    pub functions: Vec<Function>,
    pub known: FxHashMap<(Subject, usize), FunctionId>,
}

impl Maker<'_> {
    fn note(&self, subject: Subject) -> Option<SourceNote> {
        self.notes.lines.get(&subject).cloned()
    }

    fn push(&mut self, subject: Subject, part: usize, function: Function) {
        self.known.insert((subject, part), FunctionId(self.functions.len()));
        self.functions.push(function);
    }

    pub fn parts_of(&mut self, used: &Reached, subject: Subject, value: ExprId) {
        for part in 0..self.program.expr(value).kind.width() {
            let wanted = match subject {
                Subject::Signal(id) => used.signals.contains(&(id, part)),
                _ => used.exprs.contains(&(value, part)),
            };
            if wanted {
                self.function(subject, value, part);
            }
        }
    }

    fn function(&mut self, subject: Subject, value: ExprId, part: usize) {
        let program = self.program;
        let kind = program.expr(value).kind;
        let (name, source) = match subject {
            Subject::Signal(id) => (&program.signal(id).name, Source::Signal),
            Subject::Behavior(id) => (&program.behavior(id).name, Source::Behavior),
            Subject::Book
            | Subject::Curve(_)
            | Subject::Input(_)
            | Subject::Choice(_)
            | Subject::Sound(_)
            | Subject::Event(_)
            | Subject::Light(_)
            | Subject::Drive(..) => return,
        };
        let mut body = Body::new(self, None);
        let mut given = Vec::new();
        if let Subject::Behavior(id) = subject {
            for (n, part) in &self.needs[&(id, part)] {
                let parameter = &program.behavior(id).parameters[*n];
                let kind = program.expr(parameter.default).kind;
                let local = body.local(&format!("{}{}", parameter.name, part_names(kind)[*part]));
                given.push((Role::Value(*n, *part), local, type_of(kind)));
                body.parameters.insert((*n, *part), local);
            }
            body.key = Some(body.local("key"));
        }
        body.count(&[(value, part)]);
        let result = body.value(value, part, false);
        let mut statements = body.shared;
        statements.extend(body.lamp);
        statements.push(Statement::Return(result));
        prune(&mut [&mut statements], &[]);
        let (mut now, mut seed, mut key) = (false, false, false);
        let (mut hour, mut days) = (false, false);
        let mut asked = FxHashSet::default();
        for statement in &statements {
            visit_statement(statement, &mut |code| {
                if let Code::Local(local) = code {
                    asked.insert(*local);
                }
                now |= *code == Code::Now;
                seed |= *code == Code::Seed;
                hour |= *code == Code::Clock(Dial::Hour);
                days |= *code == Code::Clock(Dial::Days);
                key |= body.key.is_some_and(|local| *code == Code::Local(local));
            });
        }
        let mut locals = body.locals;
        let mut parameters = Vec::new();
        for (role, needed, name, ty) in [
            (Role::Now, now, "t", Type::Number),
            (Role::Seed, seed, "seed", Type::Word),
            (Role::Clock(Dial::Hour), hour, "hour", Type::Number),
            (Role::Clock(Dial::Days), days, "days", Type::Number),
        ] {
            if needed {
                locals.push(name.to_owned());
                parameters.push((role, Local(locals.len() - 1), ty));
            }
        }
        if let Some(local) = body.key.filter(|_| key) {
            parameters.push((Role::Key, local, Type::Word));
        }
        for ((input, part), local) in body.inputs {
            if let (true, Some(id)) = (asked.contains(&local), self.inputs.get(input)) {
                let ty = type_of(program.input(*id).kind);
                parameters.push((Role::Input(input, part), local, ty));
            }
        }
        for (role, ty, local) in body.chosen {
            if asked.contains(&local) {
                parameters.push((role, local, ty));
            }
        }
        parameters.extend(given);
        let function = Function {
            name: format!("{name}{}", part_names(kind)[part]),
            source,
            note: self.note(subject),
            locals,
            parameters,
            result: type_of(kind),
            unit: kind.unit(),
            body: statements,
        };
        self.push(subject, part, function);
    }

    pub fn choice(&self, id: ChoiceId) -> ChoicePlan {
        let choice = self.program.choice(id);
        ChoicePlan {
            id,
            name: choice.name.clone(),
            options: choice.options.clone(),
            over: choice.over.0,
            note: self.note(Subject::Choice(id)),
        }
    }

    pub fn input(&self, id: InputId) -> InputPlan {
        let (program, input) = (self.program, self.program.input(id));
        let unit = about(Field::Named(0), input.kind, program.space());
        InputPlan {
            kept: input.kept.is_some(),
            id,
            name: input.name.clone(),
            flag: input.kind == Kind::OnOff,
            suffixes: parts_of(input.kind),
            about: input.kept.map_or_else(|| unit.clone(), str::to_owned),
            unit,
            symbol: symbol(program, input.kind),
            note: self.note(Subject::Input(id)),
            count: match input.size {
                Size::Many(n) => Some(n),
                Size::One | Size::Open => None,
            },
            default: match input.default {
                Constant::Scalar(v) => vec![v],
                Constant::Vector(v) => v.to_vec(),
                Constant::OnOff(on) => vec![f64::from(u8::from(on))],
            },
            bounds: input.bounds,
        }
    }

    /// An event; `None` where nothing reads what it writes.
    pub fn event(&self, id: EventId, event: &Event) -> Option<EventPlan> {
        let place = |id: &InputId| self.inputs.iter().position(|known| known == id);
        let (mut values, mut offsets, mut numbers) = (Vec::new(), Vec::new(), 0);
        for id in &event.values {
            if let Some(place) = place(id) {
                values.push(place);
                offsets.push(numbers);
            }
            numbers += self.program.input(*id).kind.width();
        }
        let home = event.home.light(&event.name);
        let own: Vec<&Write> = event.writes.iter().filter(|write| write.each.is_none()).collect();
        let own = self.doing(&home, &own);
        let each = event.spread().into_iter().filter_map(|(others, which)| {
            let writes: Vec<&Write> = which.into_iter().map(|n| &event.writes[n]).collect();
            // What is kept of a switch is named for it, and that for whose it is.
            let kept = writes.iter().find_map(|write| write.sets.first());
            let name = match kept {
                Some((id, _)) => {
                    let kept = &self.program.input(*id).name;
                    kept.rsplitn(3, '.').nth(2).unwrap_or(kept).to_owned()
                }
                None => "each".to_owned(),
            };
            let does = self.doing(&others.light(&name), &writes);
            let count = others.count() / event.home.count();
            (!does.writes.is_empty()).then_some(Each { name, count, does })
        });
        let each: Vec<Each> = each.collect();
        if own.writes.is_empty() && each.is_empty() && values.is_empty() {
            return None;
        }
        // Only for exported events: the signals of others may have no functions.
        let due = event.due.map(|due| {
            let mut body = Body::new(self, Some(&home));
            body.within = true;
            body.count(&[(due, 0)]);
            let value = body.value(due, 0, false);
            let mut statements = body.shared;
            statements.extend(body.lamp);
            statements.push(Statement::Return(value));
            prune(&mut [&mut statements], &[]);
            Locals { locals: body.locals, statements }
        });
        Some(EventPlan {
            name: event.name.clone(),
            note: self.note(Subject::Event(id)),
            values,
            offsets,
            numbers,
            due,
            follows: event.source.follows(),
            by_clock: self.program.set_event() == Some(id),
            count: event.home.many(),
            own,
            each,
        })
    }

    /// What an event does of these writes, to the book or to each lamp of an array.
    fn doing(&self, lamps: &Light, writes: &[&Write]) -> EventWrites {
        let place = |id: &InputId| self.inputs.iter().position(|known| known == id);
        let writes: Vec<ConditionalWrite<ExprId>> = writes
            .iter()
            .map(|write| {
                let sets = write.sets.iter();
                let sets = sets.filter_map(|(id, value)| Some((place(id)?, *value)));
                let parts = |(place, value): (usize, ExprId)| {
                    let width = self.program.input(self.inputs[place]).kind.width();
                    (0..width).map(move |part| (place, part, value))
                };
                let sets = sets.flat_map(parts).collect();
                let sends = write.sends.as_ref().map(|sends| {
                    let values = sends.values.iter().flat_map(|&(n, value)| {
                        let width = self.program.expr(value).kind.width();
                        (0..width).map(move |part| (n, part, value))
                    });
                    let values = values.collect();
                    SendPlan { line: sends.line, text: sends.text, lamp: sends.lamp, values }
                });
                ConditionalWrite { when: write.when, sets, sends, slot: write.slot }
            })
            .filter(|written| !written.sets.is_empty() || written.sends.is_some())
            .collect();
        let mut body = Body::new(self, Some(lamps));
        body.within = true;
        let roots: Vec<(ExprId, usize)> = writes
            .iter()
            .flat_map(|written| {
                let looked = written.when.iter().chain(&written.slot);
                let looked = looked.chain(written.sends.iter().map(|sends| &sends.text));
                let carried = written.sends.iter().flat_map(|sends| &sends.values);
                let values = written.sets.iter().chain(carried);
                let values = values.map(|(_, part, value)| (*value, *part));
                looked.map(|value| (*value, 0)).chain(values).collect::<Vec<_>>()
            })
            .collect();
        body.count(&roots);
        let mut named = Vec::new();
        // What is written may be read by what comes after, so all of it is evaluated first.
        let mut keep = |body: &mut Body<'_>, name: &str, ty: Type, code: Code| match code {
            Code::Number(_) | Code::Flag(_) | Code::Local(_) | Code::Now => code,
            code => {
                let local = body.local(name);
                named.push(Statement::Let(local, ty, code));
                Code::Local(local)
            }
        };
        let mut made = Vec::with_capacity(writes.len());
        for ConditionalWrite { when, sets, sends, slot } in writes {
            let when = when.map(|when| {
                let code = body.value(when, 0, false);
                keep(&mut body, "turns", Type::Flag, code)
            });
            let mut values = Vec::with_capacity(sets.len());
            for (place, part, value) in sets {
                let input = self.program.input(self.inputs[place]);
                let suffix = part_names(input.kind)[part];
                let name = format!("next_{}{suffix}", input.name.replace('.', "_"));
                let code = body.value(value, part, false);
                values.push((place, part, keep(&mut body, &name, type_of(input.kind), code)));
            }
            let sends = sends.map(|SendPlan { line, text, lamp, values }| {
                let text = body.value(text, 0, false);
                let text = keep(&mut body, "text", Type::Number, text);
                let values = values.into_iter().map(|(n, part, value)| {
                    let carried = &self.program.notice_values()[n];
                    let name = format!("{}{}", carried.name, part_names(carried.kind)[part]);
                    let code = body.value(value, part, false);
                    (n, part, keep(&mut body, &name, type_of(carried.kind), code))
                });
                let values = values.collect();
                SendPlan { line, text, lamp, values }
            });
            let slot = slot.map(|slot| {
                let code = body.value(slot, 0, false);
                keep(&mut body, "slot", Type::Number, code)
            });
            made.push(ConditionalWrite { when, sets: values, sends, slot });
        }
        let mut statements = body.shared;
        statements.extend(body.lamp);
        statements.extend(named);
        let results: Vec<&Code> = made.iter().flat_map(ConditionalWrite::all).collect();
        prune(&mut [&mut statements], &results);
        EventWrites { looked: Locals { locals: body.locals, statements }, writes: made }
    }

    pub fn curve(&mut self, id: CurveId) {
        let named = self.program.curve(id);
        let x = Local(0);
        let stops = named.curve.stops();
        let mut body = Vec::new();
        let places = self.played.get(&id).copied().unwrap_or(EVERYWHERE);
        // Before the first stop, and every flat start, it is the first value.
        let flat = stops.iter().take_while(|stop| stop.value == stops[0].value).count();
        let first = flat.min(stops.len() - 1);
        if named.domain == Domain::Day && first == 1 {
            // No hour lies before the last stop of the day before.
        } else if places.lo < stops[first - 1].at.0 {
            when_before(x, stops[first - 1].at.0, Code::Number(stops[0].value), &mut body);
        }
        segments(x, &stops[first - 1..], &self.easings, &mut body);
        // Nor after the first of the day after: what lies before it is all that is left.
        let end = Code::Number(stops[stops.len() - 1].at.0);
        let end = Code::infix(Infix::Below, Code::Local(x), end);
        if named.domain == Domain::Day
            && let [.., Statement::When(before, last), Statement::Return(_)] = &mut body[..]
            && *before == end
        {
            let last = std::mem::take(last);
            body.truncate(body.len() - 2);
            body.extend(last);
        }
        // What is never played past its last stop needs no value after it, if it comes to that value exactly.
        if places.hi <= stops[stops.len() - 1].at.0
            && let [.., Statement::When(before, last), Statement::Return(Code::Number(rest))] =
                &mut body[..]
            && *before == end
            && comes_to(&stops[stops.len() - 2..], *rest)
        {
            let last = std::mem::take(last);
            body.truncate(body.len() - 2);
            body.extend(last);
        }
        let function = Function {
            name: named.name.clone(),
            source: Source::Curve(named.domain),
            note: self.note(Subject::Curve(id)),
            locals: vec!["x".to_owned()],
            parameters: vec![(Role::Value(0, 0), x, Type::Number)],
            result: Type::Number,
            unit: named.kind.unit(),
            body,
        };
        self.push(Subject::Curve(id), 0, function);
    }

    pub fn light(&mut self, checked: &ValidatedProgram, id: LightId, light: &Light) -> LightPlan {
        let mut body = Body::new(self, Some(light));
        let roots: Vec<(ExprId, usize)> = light
            .drives
            .iter()
            .flat_map(|drive| (0..drive.width()).map(|part| (drive.value, part)))
            .collect();
        body.count(&roots);
        let mut fields = Vec::new();
        for drive in &light.drives {
            body.property = light.field_name(drive.field);
            let parts = (0..drive.width()).map(|part| match self.program.constant(drive.value) {
                Some(Constant::Scalar(v)) => Part::Constant(kernel::to_output(v)),
                Some(Constant::Vector(v)) => Part::Constant(kernel::to_output(v[part])),
                Some(Constant::OnOff(on)) => Part::Constant(f32::from(u8::from(on))),
                _ => match body.value(drive.value, part, false) {
                    Code::Number(v) => Part::Constant(kernel::to_output(v)),
                    code => {
                        let bounds = checked.bounds(id, drive.field);
                        let bounds = bounds.map_or(Interval::of(0.0), |b| b.part(part));
                        let finish = match OutputConversion::of(bounds) {
                            OutputConversion::Single if steps_up(&code) => {
                                OutputConversion::Convert
                            }
                            finish => finish,
                        };
                        Part::Code(code, finish)
                    }
                },
            });
            let parts = parts.collect();
            // What stands on the light's own line is reported there.
            let note = self.note(Subject::Drive(id, drive.field)).filter(|note| {
                self.note(Subject::Light(id)).is_none_or(|own| own.line != note.line)
            });
            fields.push(FieldPlan {
                name: light.field_name(drive.field).to_owned(),
                flag: drive.kind == Kind::OnOff,
                suffixes: parts_of(drive.kind),
                about: about(drive.field, drive.kind, self.program.space()),
                unit: unit_of(self.program, drive),
                changes: match self.program.expr(drive.value).change_rate {
                    ChangeRate::Constant => 0,
                    ChangeRate::Fixed => 1,
                    ChangeRate::Stepwise => 2,
                    ChangeRate::Flowing => 3,
                },
                note,
                parts,
            });
        }
        let results: Vec<&Code> = fields
            .iter()
            .flat_map(|field| &field.parts)
            .filter_map(|part| match part {
                Part::Code(code, _) => Some(code),
                Part::Constant(_) => None,
            })
            .collect();
        prune(&mut [&mut body.shared, &mut body.lamp], &results);
        LightPlan {
            name: light.name.clone(),
            kind: light.kind,
            size: light.size,
            note: self.note(Subject::Light(id)),
            locals: body.locals,
            shared: body.shared,
            lamp: body.lamp,
            fields,
            tags: light.tags,
        }
    }
}

/// What a field's values are, in words: their unit and what they mean.
fn about(field: Field, kind: Kind, space: Space) -> String {
    let facts = field.facts();
    let unit = match (field, kind) {
        (Field::Intensity, Kind::Number) => return "factor of the lamp's own strength".to_owned(),
        (Field::Named(_), Kind::Color) => return "linear Rec. 709".to_owned(),
        (Field::Named(_), Kind::OnOff) => return "on or off".to_owned(),
        (Field::Named(_), kind) if kind.unit().is_empty() => return "number".to_owned(),
        (Field::Named(_), kind) => space.symbol(kind),
        (_, Kind::Angle) => "degrees".into(),
        (_, kind) => space.symbol(kind),
    };
    match (facts.given, facts.meaning) {
        (Given::Plain, meaning) => meaning.to_owned(),
        (Given::Unit, "") => unit.into_owned(),
        (Given::Unit, meaning) => format!("{unit}, {meaning}"),
    }
}

/// Returns `value` before `at`. A line before it that says the same of earlier moments goes.
fn when_before(x: Local, at: f64, value: Code, body: &mut Vec<Statement>) {
    let before = Code::infix(Infix::Below, Code::Local(x), Code::Number(at));
    let block = vec![Statement::Return(value)];
    if matches!(body.last(), Some(Statement::When(_, last)) if *last == block) {
        body.pop();
    }
    body.push(Statement::When(before, block));
}

/// All places of a curve.
const EVERYWHERE: Interval = Interval { lo: f64::NEG_INFINITY, hi: f64::INFINITY };

/// Where each curve is played: from its start to its end, if all that plays it only loops.
pub(super) fn played(program: &Program, used: &Reached) -> FxHashMap<CurveId, Interval> {
    let mut all: FxHashMap<CurveId, Interval> = FxHashMap::default();
    for (id, _) in &used.exprs {
        let Op::Curve(curve, at) = program.expr(*id).op else { continue };
        let here = turned(program, at).unwrap_or(EVERYWHERE);
        all.entry(curve).and_modify(|known| *known = known.join(here)).or_insert(here);
    }
    all
}

/// The places of what turns in a constant period.
fn turned(program: &Program, at: ExprId) -> Option<Interval> {
    let number = |id| match program.constant(id) {
        Some(Constant::Scalar(v)) => Some(v),
        _ => None,
    };
    match program.expr(at).op {
        Op::Looped(_, _, _, period) => Some(Interval { lo: 0.0, hi: number(period)? }),
        Op::Add(from, turns) => {
            let (from, Interval { lo, hi }) = (number(from)?, turned(program, turns)?);
            Some(Interval { lo: from + lo, hi: from + hi })
        }
        _ => None,
    }
}

/// Whether the way between two stops ends in exactly this number.
fn comes_to(pair: &[Stop], rest: f64) -> bool {
    let (from, to) = (pair[0], pair[1]);
    let exact = match to.easing {
        Easing::Linear | Easing::Smooth | Easing::Steps(..) => true,
        Easing::Jump | Easing::Bezier(_) => false,
    };
    exact && kernel::lerp(from.value, to.value, to.easing.at(1.0)).to_bits() == rest.to_bits()
}

/// How many stops are walked through one by one; more are halved first.
const WALKED: usize = 12;

/// The values between stops, and after the last. Equal neighbors are reported once.
fn segments(x: Local, stops: &[Stop], easings: &Easings, body: &mut Vec<Statement>) {
    if stops.len() > WALKED {
        let half = stops.len() / 2;
        let before = Code::infix(Infix::Below, Code::Local(x), Code::Number(stops[half].at.0));
        let mut lower = Vec::new();
        segments(x, &stops[..=half], easings, &mut lower);
        // The lower half ends by returning its last value, which no moment before it reaches.
        body.push(Statement::When(before, lower));
        segments(x, &stops[half..], easings, body);
        return;
    }
    let last = stops[stops.len() - 1];
    // Between two stops at one place there is nothing.
    for pair in stops.windows(2).filter(|pair| pair[0].at != pair[1].at) {
        let value = segment(x, pair[0], pair[1], easings);
        let rests = value == Code::Number(last.value) && pair[1].at == last.at;
        if !rests {
            when_before(x, pair[1].at.0, value, body);
        }
    }
    body.push(Statement::Return(Code::Number(last.value)));
}

fn segment(x: Local, from: Stop, to: Stop, easings: &Easings) -> Code {
    let (a, b) = (Code::Number(from.value), Code::Number(to.value));
    let passed = if from.at == Place(0.0) {
        Code::Local(x)
    } else {
        Code::infix(Infix::Minus, Code::Local(x), Code::Number(from.at.0))
    };
    let u = Code::infix(Infix::Over, passed, Code::Number(to.at.0 - from.at.0));
    let flat = from.value == to.value;
    match to.easing {
        Easing::Jump => a,
        Easing::Linear | Easing::Smooth if flat => a,
        Easing::Steps(..) if flat => a,
        Easing::Linear | Easing::Smooth | Easing::Steps(..) => {
            let s = easings.eased(to.easing, u);
            match stays_between(from.value, to.value) {
                true => plain_line(from.value, to.value, s),
                false => Code::Helper(Helper::Lerp, vec![a, b, s]),
            }
        }
        Easing::Bezier(_) => {
            let s = easings.unclamped(to.easing, u);
            if to.easing.overshoots() {
                let span = Code::Number(to.value - from.value);
                Code::infix(Infix::Plus, a, Code::infix(Infix::Times, span, s))
            } else if flat {
                a
            } else {
                Code::Helper(Helper::Lerp, vec![a, b, s])
            }
        }
    }
}

/// The unit of values of a kind; empty for numbers without one, colors and flags.
pub(crate) fn symbol(program: &Program, kind: Kind) -> String {
    match kind {
        Kind::Color | Kind::OnOff => String::new(),
        kind => program.space().symbol(kind).into_owned(),
    }
}

/// The unit of a channel; a strength that is a plain number is a factor.
pub(crate) fn unit_of(program: &Program, drive: &Drive) -> String {
    let strength = drive.field == Field::Intensity && drive.kind == Kind::Number;
    if strength { "factor".to_owned() } else { symbol(program, drive.kind) }
}
