//! The parts of the kernel that a file needs, printed from the one source that the evaluator runs too.

use std::collections::BTreeSet;
use std::sync::LazyLock;

use caltrin_core::kernel;

use crate::ir::{Module, Operation, read};
use crate::language::{Language, Printer};
use crate::plan::Helper;

/// The kernel as a tree.
pub static KERNEL: LazyLock<Module> =
    LazyLock::new(|| read::module(kernel::SOURCE).expect("the kernel's source is read in a test"));

/// The functions and constants of the kernel that are needed, with all that they use, each after what it uses. Names
/// begin with `prefix`, lines are indented by `indent` columns.
pub fn kernel_code(
    language: &Language,
    needed: impl IntoIterator<Item = String>,
    prefix: &str,
    indent: usize,
) -> String {
    let printer = Printer::new(language, &KERNEL, prefix, indent);
    let mut wanted: BTreeSet<String> = BTreeSet::new();
    let mut written: BTreeSet<&str> = BTreeSet::new();
    let mut open: Vec<String> = Vec::new();
    for name in needed {
        // What each language has its own way for is an operation of the tree.
        if name == Helper::RoundDown.name() {
            written.insert(Operation::Floor.name());
        } else if name == Helper::CellIndex.name() {
            written.insert(Operation::NumberToWord.name());
        } else {
            open.push(name);
        }
    }
    while let Some(name) = open.pop() {
        if wanted.insert(name.clone()) {
            open.extend(KERNEL.uses(&name));
        }
    }
    let is_wanted = |name: &str| wanted.contains(name);
    let functions = || KERNEL.functions.iter().filter(|function| is_wanted(&function.name));
    for function in functions() {
        written.extend(printer.written(function).into_iter().map(Operation::name));
    }
    let constants = KERNEL.constants.iter().filter(|constant| is_wanted(&constant.name));
    let mut parts: Vec<String> =
        constants.map(|constant| printer.print_constant(&constant.name)).collect();
    let operations = Operation::ALL.iter().filter(|operation| written.contains(operation.name()));
    parts.extend(operations.map(|operation| printer.print_written(*operation)));
    parts.extend(functions().map(|function| printer.print_function(function)));
    parts.join("\n")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_helper_is_in_the_kernel() {
        for helper in Helper::ALL {
            let operation = matches!(helper, Helper::RoundDown | Helper::CellIndex);
            assert!(operation || KERNEL.function(helper.name()).is_some(), "{}", helper.name());
        }
    }

    #[test]
    fn functions_stand_after_those_that_they_use() {
        let mut known: BTreeSet<String> =
            KERNEL.constants.iter().map(|constant| constant.name.clone()).collect();
        for function in &KERNEL.functions {
            for used in KERNEL.uses(&function.name) {
                assert!(known.contains(&used), "{} uses {used}", function.name);
            }
            known.insert(function.name.clone());
        }
    }

    #[test]
    fn every_function_of_numbers_alone_is_in_the_kernel() {
        use caltrin_core::pure::Pure;
        for function in Pure::ALL.iter().copied() {
            let kernel = KERNEL.function(function.kernel()).expect("it is in the kernel");
            let wanted = function.arguments() + usize::from(function.first().is_some());
            assert_eq!(kernel.parameters, wanted, "{function:?}");
        }
    }
}
