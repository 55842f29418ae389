//! Compilers and machines to prove C with, besides the one of the language file.

use std::path::Path;

use crate::language::{C, Language};
use crate::target::{Target, Tool};

/// A compiler with its options, and what runs its programs.
#[derive(Debug)]
pub struct Compiler {
    /// What it is called on the command line.
    pub option: &'static str,
    /// What it compiles for and how.
    pub about: &'static str,
    /// The name of its results, and of their folder.
    name: &'static str,
    /// The command, and its options.
    command: &'static str,
    options: &'static [&'static str],
    /// The command that runs programs of another machine.
    emulator: Option<&'static str>,
    /// The Debian packages of the command and of what runs its programs.
    packages: [&'static str; 2],
}

/// All of them.
pub static COMPILERS: [Compiler; 7] = [
    Compiler {
        option: "gcc",
        about: "gcc -O2",
        name: "c_gcc",
        command: "gcc",
        options: &["-O2"],
        emulator: None,
        packages: ["gcc", ""],
    },
    Compiler {
        option: "clang",
        about: "clang -O2",
        name: "c_clang",
        command: "clang",
        options: &["-O2"],
        emulator: None,
        packages: ["clang", ""],
    },
    Compiler {
        option: "gcc-native",
        about: "gcc -O3 -march=native",
        name: "c_gcc_native",
        command: "gcc",
        options: &["-O3", "-march=native"],
        emulator: None,
        packages: ["gcc", ""],
    },
    Compiler {
        option: "clang-native",
        about: "clang -O3 -march=native",
        name: "c_clang_native",
        command: "clang",
        options: &["-O3", "-march=native"],
        emulator: None,
        packages: ["clang", ""],
    },
    Compiler {
        option: "x86-32",
        about: "32-bit x86 with SSE2: gcc -m32 -msse2 -mfpmath=sse",
        name: "c_x86_32",
        command: "gcc",
        options: &["-O2", "-m32", "-msse2", "-mfpmath=sse"],
        emulator: None,
        packages: ["gcc lib32gcc-12-dev libc6-dev-i386", ""],
    },
    Compiler {
        option: "aarch64",
        about: "64-bit Arm, emulated: aarch64-linux-gnu-gcc",
        name: "c_aarch64",
        command: "aarch64-linux-gnu-gcc",
        options: &["-O2", "-static"],
        emulator: Some("qemu-aarch64"),
        packages: ["gcc-aarch64-linux-gnu libc6-dev-arm64-cross", "qemu-user"],
    },
    Compiler {
        option: "armhf",
        about: "32-bit Arm with floating point, emulated: clang --target=arm-linux-gnueabihf",
        name: "c_armhf",
        command: "clang",
        options: &["-O2", "--target=arm-linux-gnueabihf", "-march=armv7-a", "-static"],
        emulator: Some("qemu-arm"),
        packages: [
            "clang binutils-arm-linux-gnueabihf libc6-dev-armhf-cross libgcc-12-dev-armhf-cross",
            "qemu-user",
        ],
    },
];

impl Target for Compiler {
    fn name(&self) -> &str {
        self.name
    }

    fn language(&self) -> &Language {
        &C
    }

    fn tools(&self) -> Vec<Tool> {
        let commands = std::iter::once(self.command).chain(self.emulator);
        let tools = commands.zip(self.packages).map(|(command, package)| Tool {
            command: command.to_owned(),
            version: vec!["--version".to_owned()],
            package: package.to_owned(),
        });
        tools.collect()
    }

    fn compile(&self, folder: &Path, _: &str) -> Vec<Vec<String>> {
        let file = |name: &str| folder.join(name).display().to_string();
        let strict = ["-std=c99", "-Wall", "-Wextra", "-Werror"];
        let words = std::iter::once(self.command).chain(strict).chain(self.options.iter().copied());
        let mut command: Vec<String> = words.map(str::to_owned).collect();
        command.extend([file("prove.c"), "-o".to_owned(), file("prove"), "-lm".to_owned()]);
        vec![command]
    }

    fn run(&self, folder: &Path) -> Vec<String> {
        let program = folder.join("prove").display().to_string();
        self.emulator.into_iter().map(str::to_owned).chain([program]).collect()
    }
}

/// The compiler of that name.
pub fn compiler_named(name: &str) -> Option<&'static Compiler> {
    COMPILERS.iter().find(|compiler| compiler.option == name)
}
