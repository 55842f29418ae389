//! The parts of the kernel that a file needs, printed from the one source that the evaluator runs too.

use std::collections::BTreeSet;
use std::sync::LazyLock;

use caltrin_core::kernel;

use crate::ir::{Module, read};

/// The kernel as a tree.
pub static KERNEL: LazyLock<Module> =
    LazyLock::new(|| read::module(kernel::SOURCE).expect("the kernel's source is read in a test"));

/// The functions and constants of the kernel that are needed, with all that they use.
pub fn kernel_needs(needed: impl IntoIterator<Item = String>) -> BTreeSet<String> {
    let mut wanted: BTreeSet<String> = BTreeSet::new();
    let mut open: Vec<String> = needed.into_iter().collect();
    while let Some(name) = open.pop() {
        if wanted.insert(name.clone()) {
            open.extend(KERNEL.uses(&name));
        }
    }
    wanted
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::plan::Helper;
    use crate::plan::helper::NAMED;

    #[test]
    fn every_helper_is_in_the_kernel() {
        for helper in NAMED.iter().copied() {
            let operation = [Helper::RoundDown, Helper::CellIndex].contains(&helper);
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
