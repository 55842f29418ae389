//! The prover of a file: it reads samples, and puts out all values at them.

use std::collections::BTreeSet;

use super::{SourceFile, apart, item};
use crate::ir::{Function, Operation, Statement, each_expr, each_statement};
use crate::language::Language;
use crate::language::shape::{self, Fill};
use crate::lower::{sample_numbers, test_prover};
use crate::plan::Plan;
use crate::sample::Blocks;

/// Prints the prover of a plan's file; empty where the language does not say how files are proved.
pub fn prover(plan: &Plan, language: &Language, blocks: &Blocks) -> String {
    let Some(proof) = &language.proof else { return String::new() };
    let file = SourceFile::of(plan, language);
    let mut module = file.lowered.module.clone();
    let names = test_prover(plan, blocks, &mut module);
    let own: Vec<&Function> = names.iter().filter_map(|name| module.function(name)).collect();
    let lines = shape::lines(&proof.text, 0, |slot, column| match slot {
        "functions" => {
            let printer = file.printer_of(&module, column);
            let print = |function: &&Function| item(&printer.print_function(function), column);
            let written: BTreeSet<Operation> = match proof.repeats {
                true => own.iter().flat_map(|function| printer.written(function)).collect(),
                false => BTreeSet::new(),
            };
            let again = written.into_iter().map(|own| item(&printer.print_written(own), column));
            Fill::Lines(apart(again.chain(own.iter().map(print))))
        }
        "imports" => Fill::Text(imports(&file, &own, &names).join(", ")),
        "count" => Fill::Text(sample_numbers(plan).to_string()),
        slot => file.slot(slot, column),
    });
    shape::tidy(lines).join("\n") + "\n"
}

/// What the functions of a prover call of the file.
fn imports(file: &SourceFile<'_>, own: &[&Function], names: &[String]) -> Vec<String> {
    let mut used = BTreeSet::new();
    let printer = file.printer(0);
    let mut call = |name: &String| {
        if file.lowered.module.function(name).is_some() && !names.contains(name) {
            used.insert(printer.function_name(name));
        }
    };
    let mut read = BTreeSet::new();
    for function in own {
        each_expr(&function.body, &mut |expr| {
            if let crate::ir::Expr::Call(name, _) = expr {
                call(name);
            }
        });
        each_statement(&function.body, &mut |statement| match statement {
            Statement::Call(name, _) => call(name),
            Statement::Read(at, _) => {
                read.insert(file.names.lights[*at].read.clone());
            }
            Statement::ReadMany(at, ..) => {
                read.insert(file.names.lights[*at].fill.clone());
            }
            Statement::EachNotice(_) => {
                read.insert(printer.function_name("take_notice"));
            }
            _ => {}
        });
    }
    used.extend(read);
    used.into_iter().collect()
}
