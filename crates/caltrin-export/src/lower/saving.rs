//! Saves: a run as bytes and back, in the format of [`caltrin_core::save`].

use std::collections::BTreeMap;

use caltrin_core::program::InputId;
use caltrin_core::save::{self, SavedField, SavedKind, SavedPlace};

use super::run::{self, choice_key};
use super::{Maker, field};
use crate::ir::read::Known;
use crate::ir::{
    Entries, Expr, Module, Operation as Op, Receiver, RunField, Statement, Table, Type,
};
use crate::plan::Plan;

/// Tables of the file: the keys of what is saved, its kinds and counts, the keys of options, and those of what is not
/// saved here.
const TABLES: [&str; 4] = ["save_keys", "save_heads", "option_keys", "save_unused"];

/// How many bytes a save takes.
pub fn save_bytes(plan: &Plan) -> usize {
    save::HEAD + plan.saved.iter().map(SavedField::bytes).sum::<usize>()
}

/// The keys of the options of all fields, and where those of each field begin.
fn options(plan: &Plan) -> (Vec<u32>, Vec<usize>) {
    let (mut all, mut starts) = (Vec::new(), Vec::new());
    for field in &plan.saved {
        let keys: &[u32] = match &field.kind {
            SavedKind::Option(keys) => keys,
            SavedKind::Number | SavedKind::Word => &[],
        };
        // Lists that are alike are there once.
        let known = all.windows(keys.len().max(1)).position(|part| part == keys);
        starts.push(known.unwrap_or(all.len()));
        if known.is_none() {
            all.extend(keys);
        }
    }
    (all, starts)
}

/// The tables of saves.
pub(super) fn tables(plan: &Plan) -> Vec<Table> {
    let keys = plan.saved.iter().map(|field| field.key).collect();
    let head = |field: &SavedField| field.kind.code() * save::KINDS + field.count;
    let heads = plan.saved.iter().map(head).collect();
    let all = [
        ("Keys of the saved fields.", keys),
        ("Their kinds, times 2^24, plus counts.", heads),
        ("Keys of the options of choices and modes.", options(plan).0),
        (
            "Keys of fields that the preview saves too and this file does not use.",
            plan.unsaved.clone(),
        ),
    ];
    let each = TABLES.iter().zip(all).map(|(name, (about, words))| Table {
        name: (*name).to_owned(),
        about: about.to_owned(),
        entries: Entries::Words(words),
        hex: true,
    });
    each.filter(|table| table.entries.count() > 0).collect()
}

/// Where a run has a value, of which there may be several.
fn place(plan: &Plan, maker: &Maker<'_>, of: SavedPlace, n: Option<Expr>) -> RunField {
    let input = |id: InputId, part: usize, n: Option<Expr>| {
        let at = plan.inputs.iter().position(|input| input.id == id);
        maker.input(at.expect("what is saved is in the file"), part, n)
    };
    let choice = |id, what: &str, ty| {
        let at = plan.choices.iter().position(|choice| choice.id == id);
        field(&choice_key(at.expect("what is saved is in the file"), what), ty)
    };
    match of {
        SavedPlace::Now => field("now", Type::F64),
        SavedPlace::Seed => field("seed", Type::Word),
        SavedPlace::ClockHour => field("clock_hour", Type::F64),
        SavedPlace::ClockDays => field("clock_days", Type::F64),
        SavedPlace::ClockSince => field("clock_since", Type::F64),
        SavedPlace::ClockRate => field("clock_rate", Type::F64),
        SavedPlace::ClockFrom => field("clock_from", Type::F64),
        SavedPlace::Chosen(id) => choice(id, "chosen", Type::Word),
        SavedPlace::Since(id) => choice(id, "since", Type::F64),
        SavedPlace::Weight(id, option) => {
            RunField { index: Some(Box::new(Expr::Int(option))), ..choice(id, "from", Type::F64) }
        }
        SavedPlace::Input(id, part) => input(id, part, n),
    }
}

/// What writes and reads saves: the names of the functions, each after what it uses.
pub(super) fn saving(plan: &Plan, module: &mut Module) -> Vec<String> {
    let (keys, starts) = options(plan);
    let word = |v: u32| Expr::Word(v);
    let mut names = Vec::new();
    module.others.insert("word_at".to_owned(), (Receiver::None, Type::Word));
    module.others.insert("put_word".to_owned(), (Receiver::None, Type::Void));
    values(plan, &starts, module, &mut names);
    let known = Known {
        values: BTreeMap::from([
            ("MARK", word(save::MARK)),
            ("VERSION", word(save::VERSION)),
            ("LAYOUT", word(plan.layout)),
            ("HEAD", Expr::Int(save::HEAD as u32)),
            ("NUMBERS", word(save::NUMBERS)),
            ("COUNTS", word(save::KINDS - 1)),
            ("FIELDS", word(plan.saved.len() as u32)),
            ("SEED", word(plan.seed.0)),
            ("UNUSED", word(plan.unsaved.len() as u32)),
            ("LEAVES", Expr::Flag(!plan.unsaved.is_empty())),
            ("MANY", Expr::Flag(plan.saved.iter().any(|saved| is_many(plan, saved)))),
        ]),
        tables: BTreeMap::from([
            ("SAVE_KEYS", (TABLES[0].to_owned(), Type::Words)),
            ("SAVE_HEADS", (TABLES[1].to_owned(), Type::Words)),
            ("OPTION_KEYS", (TABLES[2].to_owned(), Type::Words)),
            ("SAVE_UNUSED", (TABLES[3].to_owned(), Type::Words)),
        ]),
        supplied: vec![
            ("word_at", vec![Type::Bytes, Type::Int], Type::Word),
            ("put_word", vec![Type::Buffer, Type::Int, Type::Word], Type::Void),
        ],
        ..Known::default()
    };
    let mut read = run::read(include_str!("sources/saving.rs"), &known, module);
    if keys.is_empty() {
        read.retain(|name| name != "option_of");
        module.functions.retain(|function| function.name != "option_of");
    }
    // What values are cleaned by stands before what takes them.
    let (mut all, after): (Vec<String>, Vec<String>) =
        read.into_iter().partition(|name| name == "option_of" || name == "clean_saved");
    all.extend(names);
    all.extend(after);
    all
}

/// What gives and takes each value that is saved, by its field.
fn values(plan: &Plan, starts: &[usize], module: &mut Module, names: &mut Vec<String>) {
    let to_int = |value: Expr| match value {
        Expr::Run(RunField { ty: Type::Word, .. }) => Expr::Do(Op::WordToInt, vec![value]),
        value => Expr::Do(Op::NumberToInt, vec![value]),
    };
    let any = plan.saved.iter().any(|saved| is_many(plan, saved));
    let index = |maker: &mut Maker<'_>| any.then(|| Expr::Local(maker.parameter("n", Type::Int)));
    let mut giver = Maker::new(plan);
    let which = giver.parameter("field", Type::Word);
    let n = index(&mut giver);
    let each = plan.saved.iter().zip(starts).map(|(saved, start)| {
        let many = n.clone().filter(|_| is_many(plan, saved));
        let own = place(plan, &giver, saved.place, many);
        let ty = own.ty;
        let own = Expr::Run(own);
        let given = match (&saved.kind, ty) {
            (SavedKind::Option(_), _) => {
                let at = Expr::Do(Op::IntAdd, vec![Expr::Int(*start as u32), to_int(own)]);
                let key = Expr::TableEntry(TABLES[2].to_owned(), Type::Words, Box::new(at));
                Expr::Do(Op::WordToNumber, vec![key])
            }
            (_, Type::Bool) => {
                Expr::Do(Op::Select, vec![own, Expr::Number(1.0), Expr::Number(0.0)])
            }
            (_, Type::Word) => Expr::Do(Op::WordToNumber, vec![own]),
            _ => own,
        };
        Statement::Return(given)
    });
    let body = vec![Statement::Switch(Expr::Local(which), each.collect())];
    let about = "The n-th value of a saved field.".to_owned();
    let gives = (Receiver::Reads, false, Type::F64);
    module.functions.push(giver.done("saved_value".to_owned(), about, gives, body));
    names.push("saved_value".to_owned());

    let mut taker = Maker::new(plan);
    let which = taker.parameter("field", Type::Word);
    let n = index(&mut taker);
    let value = Expr::Local(taker.parameter("value", Type::F64));
    let each = plan.saved.iter().zip(starts).map(|(saved, start)| {
        let many = n.clone().filter(|_| is_many(plan, saved));
        let own = place(plan, &taker, saved.place, many);
        let as_word = || Expr::Do(Op::NumberToWord, vec![value.clone()]);
        let taken = match (&saved.kind, own.ty) {
            (SavedKind::Option(keys), ty) => {
                let count = Expr::Word(keys.len() as u32);
                let parts = vec![as_word(), Expr::Int(*start as u32), count];
                let option = Expr::Call("option_of".to_owned(), parts);
                match ty {
                    Type::Word => option,
                    _ => Expr::Do(Op::WordToNumber, vec![option]),
                }
            }
            (_, Type::Bool) => Expr::Do(Op::Unequal, vec![value.clone(), Expr::Number(0.0)]),
            (_, Type::Word) => as_word(),
            _ => {
                let ends = [saved.bounds.lo, saved.bounds.hi, saved.first].map(Expr::Number);
                let parts = std::iter::once(value.clone()).chain(ends).collect();
                Expr::Call("clean_saved".to_owned(), parts)
            }
        };
        Statement::Set(own, None, taken)
    });
    let body = vec![Statement::Switch(Expr::Local(which), each.collect())];
    let about = "Restores the n-th value of a saved field.".to_owned();
    let gives = (Receiver::Changes, false, Type::Void);
    module.functions.push(taker.done("take_saved".to_owned(), about, gives, body));
    names.push("take_saved".to_owned());
}

/// Whether the run keeps several of it.
fn is_many(plan: &Plan, saved: &SavedField) -> bool {
    let SavedPlace::Input(id, _) = saved.place else { return false };
    plan.inputs.iter().any(|input| input.id == id && input.count.is_some())
}
