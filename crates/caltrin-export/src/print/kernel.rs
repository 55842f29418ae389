//! The parts of the kernel that a file needs.

use crate::plan::Helper;

/// The parts of a kernel file that are needed, in its order. A part starts at a line `//: name`.
pub fn kernel_parts(source: &str, needed: &[Helper]) -> String {
    let mut out = String::new();
    let mut wanted = false;
    for line in source.lines() {
        if let Some(name) = line.trim_start().strip_prefix("//: ") {
            wanted = needed.iter().any(|helper| helper.name() == name);
        } else if wanted {
            out.push_str(line);
            out.push('\n');
        }
    }
    out.trim_end().to_owned() + "\n"
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_helper_says_which_others_it_calls() {
        // Rust Reports a function that nothing calls, and all languages of one that is missing.
        let source = include_str!("../rust/kernel.rs");
        for helper in Helper::ALL.iter().copied() {
            let part = kernel_parts(source, &[helper]);
            let calls: Vec<Helper> = Helper::ALL
                .iter()
                .copied()
                .filter(|other| *other != helper)
                .filter(|other| {
                    part.match_indices(&format!("{}(", other.name())).any(|(at, _)| {
                        !part[..at].ends_with(|c: char| c.is_alphanumeric() || c == '_')
                    })
                })
                .collect();
            let name = helper.name();
            for used in helper.uses() {
                assert!(calls.contains(used), "{name} never calls {}", used.name());
            }
            let (mut open, mut all) = (helper.uses().to_vec(), Vec::new());
            while let Some(used) = open.pop() {
                open.extend(used.uses());
                all.push(used);
            }
            for called in &calls {
                assert!(all.contains(called), "{name} also calls {}", called.name());
            }
        }
    }

    #[test]
    fn every_function_of_numbers_alone_is_in_the_kernels() {
        use caltrin_core::pure::Pure;
        for function in Pure::ALL.iter().copied() {
            let part = kernel_parts(include_str!("../rust/kernel.rs"), &[Helper::of(function)]);
            let takes = part.split("fn ").nth(1).unwrap().split(')').next().unwrap();
            let wanted = function.arguments() + usize::from(function.first().is_some());
            assert_eq!(takes.matches(": f64").count(), wanted, "{function:?}: {takes}");
        }
    }

    #[test]
    fn every_kernel_file_has_every_helper_once() {
        let files = [
            include_str!("../c/kernel.h"),
            include_str!("../rust/kernel.rs"),
            include_str!("../csharp/kernel.cs"),
            include_str!("../js/kernel.mjs"),
        ];
        for file in files {
            for helper in Helper::ALL.iter().copied() {
                let marker = format!("//: {}\n", helper.name());
                assert_eq!(file.matches(&marker).count(), 1, "{marker}");
                assert!(!kernel_parts(file, &[helper]).trim().is_empty());
            }
        }
    }
}
