#!/usr/bin/env python3
"""What exported books take in each language, as ratios to C: docs/performance.md has the table that this prints.

    scripts/export-figures.py [target/release/caltrin]

A frame goes on by 1/60 s and reads all lamps into a list (`read_all` of `--names`). Each figure is the least of five. What is
not installed is left out.
"""

import os
import re
import shutil
import subprocess
import sys
import tempfile

ROOT = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
CALTRIN = os.path.abspath(sys.argv[1]) if len(sys.argv) > 1 else os.path.join(ROOT, "target/release/caltrin")
BOOKS = ["siding", "pier", "lido"]

# Of each language: the file of its host, the host, the commands that build it, and the one that runs it. `BASE` is the
# book's name, `PASCAL` as a type and `UPPER` as a constant; `FRAMES` is how many frames are timed.
HOSTS = {
    "c": ("host.c", """
#define _POSIX_C_SOURCE 199309L
#include <stdio.h>
#include <time.h>
#include "BASE.h"
int main(void)
{
    static float values[UPPER_ALL_VALUES];
    BASE_run run = BASE_start(1u);
    struct timespec begin, end;
    double sum = 0.0; /* so that nothing is left out */
    clock_gettime(CLOCK_MONOTONIC, &begin);
    for (int n = 0; n < FRAMES; ++n) { BASE_step(&run, 1.0 / 60.0); BASE_read_all(&run, values); sum += values[n % UPPER_ALL_VALUES]; }
    clock_gettime(CLOCK_MONOTONIC, &end);
    printf("%.0f\\n", ((end.tv_sec - begin.tv_sec) * 1e9 + (end.tv_nsec - begin.tv_nsec)) / FRAMES);
    return sum < -1e30;
}
""", [["gcc", "-std=c99", "-O2", "host.c", "-lm", "-o", "host"]], ["./host"], 3000),
    "cpp": ("host.cpp", """
#include <chrono>
#include <cstdio>
#include "BASE.hpp"
int main()
{
    static float values[BASE::ALL_VALUES];
    BASE::Run run = BASE::start(1);
    double sum = 0.0; // so that nothing is left out
    const auto begin = std::chrono::steady_clock::now();
    for (int n = 0; n < FRAMES; ++n) { BASE::step(run, 1.0 / 60.0); BASE::read_all(run, values); sum += values[n % BASE::ALL_VALUES]; }
    const std::chrono::duration<double, std::nano> passed = std::chrono::steady_clock::now() - begin;
    std::printf("%.0f\\n", passed.count() / FRAMES);
    return sum < -1e30;
}
""", [["g++", "-std=c++17", "-O2", "host.cpp", "-o", "host"]], ["./host"], 3000),
    "rust": ("host.rs", """
#[allow(dead_code)]
mod book { include!("BASE.rs"); }
fn main() {
    let mut values = vec![0.0; book::ALL_VALUES as usize];
    let mut run = book::Run::start(1);
    let begin = std::time::Instant::now();
    for _ in 0..FRAMES { run.step(1.0 / 60.0); run.read_all(std::hint::black_box(&mut values)); }
    println!("{}", begin.elapsed().as_nanos() / FRAMES);
}
""", [["rustc", "--edition=2021", "-O", "host.rs", "-o", "host"]], ["./host"], 3000),
    "csharp": ("host.cs", """
using System;
using System.Diagnostics;
static class Host
{
    static void Main()
    {
        var values = new float[Lightbooks.PASCAL.AllValues];
        var run = Lightbooks.PASCAL.Start(1u);
        for (int n = 0; n < 100; ++n) { run.Step(1.0 / 60.0); run.ReadAll(values); }
        var watch = Stopwatch.StartNew();
        for (int n = 0; n < FRAMES; ++n) { run.Step(1.0 / 60.0); run.ReadAll(values); }
        Console.WriteLine("{0:F0}", watch.Elapsed.TotalMilliseconds * 1e6 / FRAMES);
    }
}
""", [["mcs", "-optimize+", "-out:host.exe", "host.cs", "BASE.cs"]], ["mono", "host.exe"], 1000),
    "java": ("Host.java", """
class Host {
    public static void main(String[] arguments) {
        final float[] values = new float[(int)JAVA.ALL_VALUES];
        final JAVA run = new JAVA(1);
        for (int n = 0; n < 1000; ++n) { run.step(1.0 / 60.0); run.readAll(values); }
        final long begin = System.nanoTime();
        for (int n = 0; n < FRAMES; ++n) { run.step(1.0 / 60.0); run.readAll(values); }
        System.out.println((System.nanoTime() - begin) / FRAMES);
    }
}
""", [["javac", "Host.java", "JAVA.java"]], ["java", "-cp", ".", "Host"], 1000),
    "js": ("host.mjs", """
import * as book from "./BASE.mjs";
const values = new Float32Array(book.ALL_VALUES);
const run = book.start(1);
for (let n = 0; n < 300; ++n) { book.step(run, 1 / 60); book.readAll(run, values); }
const begin = performance.now();
for (let n = 0; n < FRAMES; ++n) { book.step(run, 1 / 60); book.readAll(run, values); }
console.log(Math.round(((performance.now() - begin) * 1e6) / FRAMES));
""", [], ["node", "host.mjs"], 1000),
    "python": ("host.py", """
import time
import BASE as book
values = [0.0] * book.ALL_VALUES
run = book.Run(1)
begin = time.perf_counter()
for _ in range(FRAMES):
    run.step(1 / 60)
    run.read_all(values)
print(round((time.perf_counter() - begin) * 1e9 / FRAMES))
""", [], ["python3", "-B", "host.py"], 20),
    "lua": ("host.lua", """
local book = require("BASE")
local values = {}
local run = book.start(1)
for _ = 1, 50 do book.step(run, 1 / 60) book.read_all(run, values) end
local begin = os.clock()
for _ = 1, FRAMES do book.step(run, 1 / 60) book.read_all(run, values) end
print(math.floor((os.clock() - begin) * 1e9 / FRAMES))
""", [], ["lua5.4", "host.lua"], 60),
}
HOSTS["lua (LuaJIT)"] = HOSTS["lua"][:3] + (["luajit", "host.lua"], 60)


def measured(book, language, folder):
    """Nanoseconds a frame; None where a tool is missing."""
    name, text, builds, run, frames = HOSTS[language]
    if any(not shutil.which(command[0]) for command in [*builds, run] if not command[0].startswith("./")):
        return None
    path = os.path.join(ROOT, "crates/caltrin/books", book + ".caltrin")
    subprocess.run([CALTRIN, "export", path, "--names", "--to", language.split()[0], "-o", folder, "--force"],
                   check=True, stdout=subprocess.DEVNULL)
    made = next(file for file in os.listdir(folder) if not file.lower().startswith("host"))
    base = re.sub(r"\..*", "", made)
    pascal = "".join(word.capitalize() for word in base.split("_"))
    for key, value in (("FRAMES", str(frames)), ("BASE", base), ("PASCAL", pascal), ("UPPER", base.upper()), ("JAVA", base)):
        text = text.replace(key, value)
        builds = [[word.replace(key, value) for word in command] for command in builds]
    with open(os.path.join(folder, name), "w") as file:
        file.write(text)
    for command in builds:
        subprocess.run(command, check=True, cwd=folder)
    times = [int(subprocess.run(run, check=True, cwd=folder, capture_output=True, text=True).stdout) for _ in range(5)]
    return min(times)


def main():
    sizes = {}
    for book in BOOKS:
        with tempfile.TemporaryDirectory() as folder:
            path = os.path.join(ROOT, "crates/caltrin/books", book + ".caltrin")
            subprocess.run([CALTRIN, "export", path, "--to", "c", "-o", folder], check=True, stdout=subprocess.DEVNULL)
            header = next(file for file in os.listdir(folder) if file.endswith(".h"))
            with open(os.path.join(folder, header)) as file:
                text = file.read()
            run = re.search(r"plain value of (\d+) bytes", text).group(1)
            save = re.search(r"SAVE_BYTES = (\d+)", text).group(1)
            with open(os.path.join(folder, "unit.c"), "w") as file:
                prefix = header[:-2]
                file.write(f'#include "{header}"\nint main(void) {{ return {prefix}_self_test(); }}\n')
            subprocess.run(["gcc", "-std=c99", "-Os", "-c", "unit.c"], check=True, cwd=folder)
            size = subprocess.run(["size", "unit.o"], check=True, cwd=folder, capture_output=True, text=True).stdout
            sizes[book] = (run, save, int(size.split("\n")[1].split()[0]))
    print("| book | run | save | code and tables of the self-test, `gcc -Os` |\n| --- | --- | --- | --- |")
    for book, (run, save, code) in sizes.items():
        print(f"| {book} | {run} bytes | {save} bytes | {code / 1000:.1f} kB |")
    print()
    print("| a frame, to C | " + " | ".join(BOOKS) + " |\n|" + " --- |" * (1 + len(BOOKS)))
    base = {}
    for language in HOSTS:
        row = []
        for book in BOOKS:
            with tempfile.TemporaryDirectory() as folder:
                time = measured(book, language, folder)
            if language == "c":
                base[book] = time
            row.append("" if time is None else f"{time / base[book]:.2f}")
        print(f"| {language} | " + " | ".join(row) + " |", flush=True)


if __name__ == "__main__":
    main()
