//! The plan: what an exported file holds, decided once for all languages.
//!
//! Vectors are taken apart here, shared parts get names, what is the same for a whole array moves
//! out of its loop, and each function is reported exactly what it needs. A language only has to spell
//! it.

mod answers;
mod body;
mod easings;
pub(crate) mod helper;
mod make;
mod reach;
mod self_test;
mod types;

use std::collections::BTreeSet;

use caltrin_core::program::{Dial, Field, InputId, Program, Queue, Subject, TableId};
use caltrin_core::save::{self, SavedPlace};
use caltrin_core::{SourceNotes, ValidatedProgram};

use rustc_hash::{FxHashMap, FxHashSet};

use easings::Easings;
pub use helper::Helper;
use make::{Maker, played};
pub(crate) use make::{symbol, unit_of};
use reach::{needs, reachable};
pub use self_test::{ACT_SALT, Given, HOURS_TRIED, Nth, OPEN_STEP, SelfTest, TestAct, carried};
pub use types::*;

impl Plan {
    /// Plans the export of a program.
    pub fn of(checked: &ValidatedProgram, notes: &SourceNotes) -> Plan {
        let mut plan = Plan::without_test(checked, notes);
        plan.self_test = SelfTest::of(checked, &plan);
        plan
    }

    /// The same for code that is only evaluated: its self-test tries nothing, since to know what it should find takes
    /// longer than all else.
    pub fn without_test(checked: &ValidatedProgram, notes: &SourceNotes) -> Plan {
        let all = Plan::with_inputs(checked, notes, None);
        // What code turned out to be needless can have been the only one to ask for an input.
        let mut asked = FxHashSet::default();
        let mut ask = |code: &Code| {
            if let Code::Input(place, ..) = code {
                asked.insert(all.inputs[*place].id);
            }
            false
        };
        all.lights.iter().for_each(|light| {
            light.any(&mut ask);
        });
        all.events.iter().for_each(|event| {
            event.any(&mut ask);
        });
        asked.extend(all.inputs.iter().filter(|input| input.kept).map(|input| input.id));
        if asked.len() == all.inputs.len() {
            return all;
        }
        Plan::with_inputs(checked, notes, Some(&asked))
    }

    fn with_inputs(
        checked: &ValidatedProgram,
        notes: &SourceNotes,
        asked: Option<&FxHashSet<InputId>>,
    ) -> Plan {
        let program = checked.program();
        let needs = needs(program);
        let mut used = reachable(program, &needs);
        if let Some(queue) = program.queue() {
            let Queue { moments, packed, positions, first, count, dropped } = queue;
            used.inputs.extend([moments, packed, first, count, dropped]);
            if places_notices(program) {
                used.inputs.insert(positions);
            }
            used.inputs.extend(program.notice_values().iter().map(|value| value.kept));
        }
        let tables: Vec<TableId> = used.tables.iter().copied().collect();
        let wanted = |id: &InputId| asked.is_none_or(|asked| asked.contains(id));
        let inputs: Vec<InputId> = used.inputs.iter().copied().filter(wanted).collect();
        let mut maker = Maker {
            program,
            notes,
            needs,
            tables,
            easings: Easings::of(program, &used),
            played: played(program, &used),
            inputs,
            choices: used.choices.iter().copied().collect(),
            functions: Vec::new(),
            known: FxHashMap::default(),
        };
        for subject in program.order() {
            match subject {
                Subject::Curve(id) => {
                    if used.curves.contains(id) {
                        maker.curve(*id);
                    }
                }
                Subject::Signal(id) => maker.parts_of(&used, *subject, program.signal(*id).value),
                Subject::Behavior(id) => {
                    maker.parts_of(&used, *subject, program.behavior(*id).value);
                }
                Subject::Book
                | Subject::Input(_)
                | Subject::Choice(_)
                | Subject::Sound(_)
                | Subject::Event(_)
                | Subject::Light(_)
                | Subject::Drive(..) => {}
            }
        }
        let lights: Vec<LightPlan> =
            program.lights().map(|(id, light)| maker.light(checked, id, light)).collect();
        let inputs: Vec<InputPlan> = maker.inputs.iter().map(|id| maker.input(*id)).collect();
        let choices: Vec<ChoicePlan> = maker.choices.iter().map(|id| maker.choice(*id)).collect();
        let events: Vec<EventPlan> =
            program.events().filter_map(|(id, event)| maker.event(id, event)).collect();
        let functions = maker.functions;
        let tables = maker.tables.iter().map(|id| TablePlan::of(program.table(*id)));
        let tables = tables.chain(maker.easings.tables()).collect();
        let follows = [Dial::Hour, Dial::Days].into_iter().any(|dial| {
            let shown = Code::Clock(dial);
            lights.iter().any(|light| light.uses_clock(dial))
                || events.iter().any(|event| event.any(|code| *code == shown))
        });
        let mut strikes = false;
        for event in &events {
            strikes |= event.any(|code| matches!(code, Code::NextHour(..)));
        }
        let clock = program.clock().filter(|_| follows || strikes).map(|clock| ClockPlan {
            strikes,
            happens: events.iter().any(|event| event.due.is_some()),
            follows: events.iter().any(|event| event.follows),
            pace: clock.pace(),
            start: clock.start.0,
            rate: clock.rate,
        });
        let place = |id: InputId| inputs.iter().position(|input| input.id == id);
        let notice_values: Vec<usize> =
            program.notice_values().iter().filter_map(|value| place(value.kept)).collect();
        // What is kept is called by what keeps it.
        let state = |name: &str, what: &str, options: &[String]| {
            let kept = format!("{name}.{what}");
            let place = inputs.iter().position(|input| input.kept && input.name == kept)?;
            Some(StatePlan { name: name.to_owned(), options: options.to_vec(), place })
        };
        let states = program.states().iter();
        let (switches, modes): (Vec<_>, Vec<_>) =
            states.partition(|state| state.options.is_empty());
        let switches = switches.iter().filter_map(|of| state(&of.name, "on", &[])).collect();
        let modes = modes.iter().filter_map(|of| state(&of.name, "mode", &of.options)).collect();
        let sequences = program.scenes().iter();
        let sequences = sequences.filter_map(|of| state(&of.name, "started", &[])).collect();
        let mut used = helpers(&functions, &lights, &inputs, &events, clock.is_some(), &choices);
        if notice_values.iter().any(|place| !inputs[*place].flag) {
            used.insert(Helper::ToSingle);
        }
        let fields = program.saved_fields();
        let layout = save::layout(&fields);
        let (saved, unsaved): (Vec<_>, Vec<_>) =
            fields.into_iter().partition(|saved| match saved.place {
                SavedPlace::Now | SavedPlace::Seed => true,
                SavedPlace::ClockFrom => clock.is_some_and(|clock| clock.strikes),
                SavedPlace::ClockHour
                | SavedPlace::ClockDays
                | SavedPlace::ClockSince
                | SavedPlace::ClockRate => clock.is_some(),
                SavedPlace::Chosen(id) | SavedPlace::Since(id) | SavedPlace::Weight(id, _) => {
                    choices.iter().any(|choice| choice.id == id)
                }
                SavedPlace::Input(id, _) => inputs.iter().any(|input| input.id == id),
            });
        let mut plan = Plan {
            tags: program.tags().to_vec(),
            switches,
            modes,
            sequences,
            saved,
            unsaved: unsaved.iter().map(|field| field.key).collect(),
            layout,
            clock,
            tables,
            book: program.name().to_owned(),
            file: notes.file.clone(),
            prefix: None,
            names: false,
            seed: program.seed(),
            helpers: used.into_iter().collect(),
            self_test: SelfTest::default(),
            notices: notices(checked, &lights),
            notice_values,
            sparks: sparks(checked, &inputs),
            queue: program.queue().and_then(|queue| {
                let place = |id: InputId| inputs.iter().position(|input| input.id == id);
                Some(QueuePlan {
                    moments: place(queue.moments)?,
                    packed: place(queue.packed)?,
                    positions: place(queue.positions),
                    first: place(queue.first)?,
                    count: place(queue.count)?,
                    dropped: place(queue.dropped)?,
                })
            }),
            inputs,
            choices,
            events,
            functions,
            lights,
        };
        plan.self_test = SelfTest::none(&plan);
        plan
    }
}

/// The pools of sparks.
fn sparks(checked: &ValidatedProgram, inputs: &[InputPlan]) -> Vec<SparkPlan> {
    let place = |id: InputId| inputs.iter().position(|input| input.id == id);
    let each = checked.program().sparks().iter().map(|spark| SparkPlan {
        name: spark.name.clone(),
        count: checked.program().input(spark.born).count(),
        kept: place(spark.born).zip(place(spark.length)).map(|(born, length)| [born, length]),
        oldest: spark.oldest,
    });
    each.collect()
}

/// Whether any notice comes from a light that is somewhere.
fn places_notices(program: &Program) -> bool {
    program.notices().iter().any(|notice| {
        let light = program.light_named(&notice.from);
        light.is_some_and(|id| program.light(id).places(Field::Position).is_some())
    })
}

/// The lines that send notices.
fn notices(checked: &ValidatedProgram, lights: &[LightPlan]) -> Vec<NoticePlan> {
    let each = checked.program().notices().iter().map(|notice| {
        let light = lights.iter().position(|light| light.name == notice.from);
        let placed = light.and_then(|n| {
            let fields = &lights[n].fields;
            Some((n, fields.iter().position(|field| field.name == "position")?))
        });
        NoticePlan {
            name: notice.name.clone(),
            texts: notice.texts.clone(),
            from: notice.from.clone(),
            placed,
        }
    });
    each.collect()
}

/// Takes out the named parts that nothing uses in the end. Later parts use earlier ones, so they are
/// evaluated from the last.
fn prune(blocks: &mut [&mut Vec<Statement>], results: &[&Code]) {
    let mut used = FxHashSet::default();
    let look = |code: &Code, used: &mut FxHashSet<Local>| {
        code.visit(&mut |inner| {
            if let Code::Local(local) = inner {
                used.insert(*local);
            }
        });
    };
    results.iter().for_each(|code| look(code, &mut used));
    for block in blocks.iter_mut().rev() {
        for n in (0..block.len()).rev() {
            match &block[n] {
                Statement::Let(local, ..) if !used.contains(local) => {
                    block.remove(n);
                }
                statement => visit_statement(statement, &mut |code| look(code, &mut used)),
            }
        }
    }
}

fn visit_statement(statement: &Statement, f: &mut impl FnMut(&Code)) {
    match statement {
        Statement::Let(_, _, code) | Statement::Return(code) => code.visit(f),
        Statement::When(code, block) => {
            code.visit(f);
            block.iter().for_each(|inner| visit_statement(inner, f));
        }
    }
}

/// The helpers that the code calls, and those that they call.
fn helpers(
    functions: &[Function],
    lights: &[LightPlan],
    inputs: &[InputPlan],
    events: &[EventPlan],
    clock: bool,
    choices: &[ChoicePlan],
) -> BTreeSet<Helper> {
    let mut needed: BTreeSet<Helper> = [Helper::CleanMoment, Helper::Scramble].into();
    if clock {
        needed.extend([Helper::HourOf, Helper::DaysOf, Helper::CleanInput, Helper::RoundDown]);
    }
    if choices.iter().any(ChoicePlan::fades) {
        needed.insert(Helper::Faded);
    }
    let values = events.iter().flat_map(|event| &event.values).map(|place| &inputs[*place]);
    let mut given = inputs.iter().filter(|input| !input.kept).chain(values);
    if given.any(|input| !input.flag) {
        needed.insert(Helper::CleanInput);
    }
    let mut look = |code: &Code| {
        if let Code::Helper(helper, _) = code {
            needed.insert(*helper);
        }
    };
    for function in functions {
        function.body.iter().for_each(|s| visit_statement(s, &mut look));
    }
    events.iter().for_each(|event| event.look(&mut look));
    let mut finished = BTreeSet::new();
    for light in lights {
        light.shared.iter().chain(&light.lamp).for_each(|s| visit_statement(s, &mut look));
        for part in light.fields.iter().flat_map(|field| &field.parts) {
            if let Part::Code(code, finish) = part {
                code.visit(&mut look);
                finished.extend(finish.helper());
            }
        }
    }
    needed.extend(finished);
    needed
}
