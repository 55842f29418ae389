//! Tables of names in the exported code: what a host binds by at run time gives what the typed functions and the preview
//! give, and says what the manifest says.

use std::fmt::Write as _;
use std::path::Path;
use std::process::Command;

use caltrin::core::program::{Constant, Size};
use caltrin::core::quantity::Seconds;
use caltrin::core::{Run, ValidatedProgram};
use caltrin::export::{ExportOptions, Manifest, export_as, target_named};

const LIDO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/books/lido.caltrin");

/// What a host does by names and indices.
enum Act {
    Fire(&'static str, u32, &'static [f64]),
    Set(&'static str, u32, &'static [f64]),
    Choose(&'static str, &'static str),
}

/// At which moments it does what, and then looks at everything.
const ACTS: [(f64, Act); 8] = [
    (0.5, Act::Fire("gala", 0, &[])),
    (1.25, Act::Fire("cabins.cord", 3, &[])),
    (2.0, Act::Fire("rocket", 0, &[20.0, 25.0, -30.0, 0.2, 1.0, 0.2, 2.0])),
    (2.75, Act::Set("throttle", 0, &[0.95])),
    (3.5, Act::Set("walker", 0, &[23.0, 1.7, -1.0])),
    (4.0, Act::Choose("weather", "drizzle")),
    // What there is not changes nothing.
    (4.5, Act::Fire("cabins.cord", 900, &[])),
    (6.0, Act::Set("throttle", 1, &[0.1])),
];

/// All values of all lights at the moments, as bits.
fn preview(checked: &ValidatedProgram) -> Vec<Vec<u32>> {
    let program = checked.program();
    let mut run = Run::new(checked);
    let mut all = Vec::new();
    for (at, act) in ACTS {
        run.advance(Seconds(at));
        match act {
            Act::Fire(name, index, values) => {
                let id = program.event_named(name).expect("it is there");
                let event = program.event(id);
                let mut rest = values;
                let mut given = Vec::new();
                for id in &event.values {
                    let width = program.input(*id).kind.width();
                    let (own, after) = rest.split_at(width);
                    given.push(match own {
                        [v] => Constant::Scalar(*v),
                        [x, y, z] => Constant::Vector([*x, *y, *z]),
                        _ => panic!("one or three"),
                    });
                    rest = after;
                }
                if index < 900 {
                    run.fire_at(id, index, &given);
                }
            }
            Act::Set(name, 0, values) => {
                let input = program.inputs().find(|(_, input)| input.name == name);
                let value = match values {
                    [v] => Constant::Scalar(*v),
                    [x, y, z] => Constant::Vector([*x, *y, *z]),
                    _ => panic!("one or three"),
                };
                run.set(input.expect("it is there").0, 0, value).expect("it fits");
            }
            Act::Set(..) => {}
            Act::Choose(name, option) => {
                let (id, choice) = program.choices().find(|(_, c)| c.name == name).expect("it is");
                let option = choice.options.iter().position(|own| own == option);
                run.choose(id, option.expect("it is there") as u32);
            }
        }
        let mut bits = Vec::new();
        for (id, light) in program.lights() {
            let count = match light.size {
                Size::One => 1,
                Size::Many(count) => count,
                Size::Open => 0,
            };
            let mut values = vec![0.0f32; run.width(id) * count as usize];
            if count > 0 {
                run.read(id, 0, &mut values);
            }
            bits.extend(values.iter().map(|v| v.to_bits()));
        }
        all.push(bits);
    }
    all
}

/// What the tables say, a line for each light and channel, then inputs, choices and events.
fn told(manifest: &Manifest, checked: &ValidatedProgram) -> String {
    let mut out = String::new();
    // The manifest has outputs apart.
    let all = || manifest.lights.iter().chain(&manifest.outputs);
    for (_, light) in checked.program().lights() {
        let light = all().find(|own| own.name == light.name).expect("it is in the manifest");
        let tags = manifest.tags.iter().enumerate();
        let tags: u32 = tags.filter(|(_, tag)| light.tags.contains(tag)).map(|(n, _)| 1 << n).sum();
        writeln!(out, "{} {} {} {tags}", light.name, light.kind, light.count.unwrap_or(0)).unwrap();
        for channel in &light.channels {
            let changes = channel.changes as u32;
            writeln!(out, " {} [{}] {} {changes}", channel.name, channel.unit, channel.least.len())
                .unwrap();
        }
    }
    for input in &manifest.inputs {
        let count = input.count.unwrap_or(1);
        writeln!(out, "{} {} [{}] {count}", input.name, input.ty, input.unit).unwrap();
    }
    for choice in &manifest.choices {
        writeln!(out, "{}: {}", choice.name, choice.options.join(", ")).unwrap();
    }
    for switch in &manifest.switches {
        writeln!(out, "{} {}", switch.name, switch.count.unwrap_or(1)).unwrap();
    }
    for modes in &manifest.modes {
        let count = modes.count.unwrap_or(1);
        writeln!(out, "{} {count}: {}", modes.name, modes.options.join(", ")).unwrap();
    }
    for sequence in &manifest.sequences {
        writeln!(out, "{}", sequence.name).unwrap();
    }
    for event in &manifest.events {
        let wide = |ty: &str| if matches!(ty, "color" | "point") { 3 } else { 1 };
        let numbers: u32 = event.values.iter().map(|value| wide(value.ty)).sum();
        writeln!(out, "{} {} {numbers}", event.name, event.count.unwrap_or(1)).unwrap();
    }
    out
}

/// How a language says what a host does.
struct Host {
    /// The target, and the host's file.
    target: &'static str,
    file: &'static str,
    /// The host, with `ACTS` where it does things.
    text: &'static str,
    /// An act: `AT`, `NAME`, `INDEX`, `VALUES` and `OPTION`.
    fire: &'static str,
    set: &'static str,
    choose: &'static str,
    /// A list of numbers.
    list: fn(&[f64]) -> String,
    /// Commands that build and run it in its folder.
    commands: &'static [&'static [&'static str]],
}

fn numbers(values: &[f64]) -> String {
    values.iter().map(|v| format!("{v:?}")).collect::<Vec<_>>().join(", ")
}

/// A list that may not be empty.
fn some(values: &[f64]) -> String {
    if values.is_empty() { "0.0".to_owned() } else { numbers(values) }
}

const HOSTS: [Host; 5] = [
    Host {
        target: "js",
        file: "host.mjs",
        text: r#"import * as b from "./ostrel_lido.mjs";
for (let n = 0; n < b.LIGHTS; ++n) {
  if (b.lightNamed(b.lightName(n)) !== n) throw new Error(b.lightName(n));
  console.log(`${b.lightName(n)} ${b.lightKind(n)} ${b.lightLampCount(n)} ${b.lightTags(n)}`);
  for (let k = 0; k < b.lightChannelCount(n); ++k)
    console.log(` ${b.channelName(n, k)} [${b.channelUnit(n, k)}] ${b.channelSize(n, k)} ${b.channelChanges(n, k)}`);
}
for (let n = 0; n < b.INPUTS; ++n) console.log(`${b.inputName(n)} ${b.inputKind(n)} [${b.inputUnit(n)}] ${b.inputCount(n)}`);
for (let n = 0; n < b.CHOICES; ++n)
  console.log(`${b.choiceName(n)}: ${Array.from({ length: b.choiceOptionCount(n) }, (_, k) => b.optionName(n, k)).join(", ")}`);
for (let n = 0; n < b.SWITCHES; ++n) console.log(`${b.switchName(n)} ${b.switchCount(n)}`);
for (let n = 0; n < b.ALL_MODES; ++n)
  console.log(`${b.modesName(n)} ${b.modesCount(n)}: ${Array.from({ length: b.modesOptionCount(n) }, (_, k) => b.modeName(n, k)).join(", ")}`);
for (let n = 0; n < b.SEQUENCES; ++n) console.log(b.sequenceName(n));
for (let n = 0; n < b.EVENTS; ++n) console.log(`${b.eventName(n)} ${b.eventCount(n)} ${b.eventValueCount(n)}`);
const nowhere = [b.lightNamed("no"), b.inputNamed("no"), b.choiceNamed("no"), b.eventNamed("no"), b.optionNamed(0, "no")];
if (nowhere.join() !== [b.LIGHTS, b.INPUTS, b.CHOICES, b.EVENTS, b.choiceOptionCount(0)].join()) throw new Error(nowhere.join());
if (b.lightName(b.LIGHTS) + b.channelName(0, 99) + b.inputName(99) !== "") throw new Error("no name");
const run = b.start(b.bookSeed);
const all = new Float32Array(b.ALL_VALUES);
const kept = new Float32Array(b.ALL_VALUES);
b.readAll(run, kept);
const show = () => {
  b.readAll(run, all);
  b.readChanging(run, kept);
  const bits = (list) => Array.from(new Uint32Array(list.buffer), (word) => word.toString(16)).join(" ");
  if (bits(all) !== bits(kept)) throw new Error("what changes");
  const one = new Float32Array(40);
  const count = b.readLamp(run, 3, 0, one);
  if (count !== b.lightValueCount(3) || b.readLamp(run, 3, 1000, one) !== 0 || b.readLamp(run, b.LIGHTS, 0, one) !== 0) throw new Error("one lamp");
  console.log(bits(all));
};
ACTS
console.log(b.inputValue(run, b.inputNamed("throttle"), 0, 0), b.inputValue(run, b.inputNamed("walker"), 0, 2), b.chosen(run, 0));
console.log([b.switchOn(run, b.switchNamed("power"), 0), b.switchOn(run, b.switchNamed("cabins.lit"), 3), b.switchOn(run, b.switchNamed("power"), 1), b.switchOn(run, 999, 0)].map(Number).join(" "),
  b.modeName(b.modesNamed("alert"), b.activeMode(run, b.modesNamed("alert"), 0)), b.sequenceElapsed(run, b.sequenceNamed("opening"), 0) >= 0, b.sequenceElapsed(run, 999, 0));
"#,
        fire: "b.advance(run, AT); b.fireEvent(run, b.eventNamed(\"NAME\"), INDEX, [VALUES]); show();",
        set: "b.advance(run, AT); b.setInput(run, b.inputNamed(\"NAME\"), INDEX, [VALUES]); show();",
        choose: "b.advance(run, AT); b.choose(run, b.choiceNamed(\"NAME\"), b.optionNamed(b.choiceNamed(\"NAME\"), \"OPTION\")); show();",
        list: numbers,
        commands: &[&["node", "host.mjs"]],
    },
    Host {
        target: "c",
        file: "host.c",
        text: r#"#include "ostrel_lido.h"
#include <stdio.h>
#define B(name) ostrel_lido_##name
static B(run) run;
static float all[OSTREL_LIDO_ALL_VALUES], kept[OSTREL_LIDO_ALL_VALUES], one[40];
static int show(void)
{
    B(read_all)(&run, all);
    B(read_changing)(&run, kept);
    if (memcmp(all, kept, sizeof all) != 0) return 2;
    if (B(read_lamp)(&run, 3, 0, one) != B(light_value_count)(3) || B(read_lamp)(&run, 3, 1000, one) != 0) return 3;
    for (uint32_t n = 0; n < OSTREL_LIDO_ALL_VALUES; ++n) {
        uint32_t word;
        memcpy(&word, &all[n], sizeof word);
        printf(n ? " %x" : "%x", (unsigned)word);
    }
    return putchar('\n') == EOF;
}
int main(void)
{
    uint32_t n, k;
    for (n = 0; n < OSTREL_LIDO_LIGHTS; ++n) {
        if (B(light_named)(B(light_name)(n)) != n) return 4;
        printf("%s %s %u %u\n", B(light_name)(n), B(light_kind)(n), (unsigned)B(light_lamp_count)(n), (unsigned)B(light_tags)(n));
        for (k = 0; k < B(light_channel_count)(n); ++k)
            printf(" %s [%s] %u %u\n", B(channel_name)(n, k), B(channel_unit)(n, k), (unsigned)B(channel_size)(n, k), (unsigned)B(channel_changes)(n, k));
    }
    for (n = 0; n < OSTREL_LIDO_INPUTS; ++n)
        printf("%s %s [%s] %u\n", B(input_name)(n), B(input_kind)(n), B(input_unit)(n), (unsigned)B(input_count)(n));
    for (n = 0; n < OSTREL_LIDO_CHOICES; ++n) {
        printf("%s:", B(choice_name)(n));
        for (k = 0; k < B(choice_option_count)(n); ++k) printf(k ? ", %s" : " %s", B(option_name)(n, k));
        printf("\n");
    }
    for (n = 0; n < OSTREL_LIDO_SWITCHES; ++n) printf("%s %u\n", B(switch_name)(n), (unsigned)B(switch_count)(n));
    for (n = 0; n < OSTREL_LIDO_ALL_MODES; ++n) {
        printf("%s %u:", B(modes_name)(n), (unsigned)B(modes_count)(n));
        for (k = 0; k < B(modes_option_count)(n); ++k) printf(k ? ", %s" : " %s", B(mode_name)(n, k));
        printf("\n");
    }
    for (n = 0; n < OSTREL_LIDO_SEQUENCES; ++n) printf("%s\n", B(sequence_name)(n));
    for (n = 0; n < OSTREL_LIDO_EVENTS; ++n)
        printf("%s %u %u\n", B(event_name)(n), (unsigned)B(event_count)(n), (unsigned)B(event_value_count)(n));
    if (B(light_named)("no") != OSTREL_LIDO_LIGHTS || B(event_named)("no") != OSTREL_LIDO_EVENTS) return 5;
    if (*B(light_name)(OSTREL_LIDO_LIGHTS) || *B(channel_name)(0, 99) || *B(option_name)(99, 0)) return 6;
    if (B(input_min)(99) != 0.0 || B(input_max)(B(input_named)("throttle")) != 1.0) return 7;
    run = B(start)(B(book_seed_of_test));
    B(read_all)(&run, kept);
ACTS
    printf("%g %g %u\n", B(input_value)(&run, B(input_named)("throttle"), 0, 0), B(input_value)(&run, B(input_named)("walker"), 0, 2), (unsigned)B(chosen)(&run, 0));
    printf("%d %d %d %d ", B(switch_on)(&run, B(switch_named)("power"), 0), B(switch_on)(&run, B(switch_named)("cabins.lit"), 3), B(switch_on)(&run, B(switch_named)("power"), 1), B(switch_on)(&run, 999, 0));
    n = B(modes_named)("alert");
    printf("%s %s %g\n", B(mode_name)(n, B(active_mode)(&run, n, 0)), B(sequence_elapsed)(&run, B(sequence_named)("opening"), 0) >= 0.0 ? "true" : "false", B(sequence_elapsed)(&run, 999, 0));
    return 0;
}
"#,
        fire: "    { static const double values[] = {VALUES}; B(advance)(&run, AT); B(fire_event)(&run, B(event_named)(\"NAME\"), INDEX, values); if (show()) return 1; }",
        set: "    { static const double values[] = {VALUES}; B(advance)(&run, AT); B(set_input)(&run, B(input_named)(\"NAME\"), INDEX, values); if (show()) return 1; }",
        choose: "    B(advance)(&run, AT); B(choose)(&run, B(choice_named)(\"NAME\"), B(option_named)(B(choice_named)(\"NAME\"), \"OPTION\")); if (show()) return 1;",
        list: some,
        commands: &[
            &[
                "gcc",
                "-std=c99",
                "-Wall",
                "-Wextra",
                "-Werror",
                "-O2",
                "-Dostrel_lido_book_seed_of_test=23u",
                "host.c",
                "-lm",
                "-o",
                "host",
            ],
            &["./host"],
        ],
    },
    Host {
        target: "csharp",
        file: "Host.cs",
        text: r#"using System;
using System.Text;
using Lido = Lightbooks.OstrelLido;
static class Host
{
    static Lido run;
    static readonly float[] all = new float[Lido.AllValues], kept = new float[Lido.AllValues], one = new float[40];
    static string Bits(float[] list)
    {
        var text = new StringBuilder();
        foreach (float v in list) text.Append(text.Length > 0 ? " " : "").Append(BitConverter.ToUInt32(BitConverter.GetBytes(v), 0).ToString("x"));
        return text.ToString();
    }
    static void Show()
    {
        run.ReadAll(all);
        run.ReadChanging(kept);
        if (Bits(all) != Bits(kept)) throw new Exception("what changes");
        if (run.ReadLamp(3, 0, one) != Lido.LightValueCount(3) || run.ReadLamp(3, 1000, one) != 0) throw new Exception("one lamp");
        Console.WriteLine(Bits(all));
    }
    static void Main()
    {
        for (uint n = 0; n < Lido.Lights; ++n)
        {
            if (Lido.LightNamed(Lido.LightName(n)) != n) throw new Exception(Lido.LightName(n));
            Console.WriteLine("{0} {1} {2} {3}", Lido.LightName(n), Lido.LightKind(n), Lido.LightLampCount(n), Lido.LightTags(n));
            for (uint k = 0; k < Lido.LightChannelCount(n); ++k)
                Console.WriteLine(" {0} [{1}] {2} {3}", Lido.ChannelName(n, k), Lido.ChannelUnit(n, k), Lido.ChannelSize(n, k), Lido.ChannelChanges(n, k));
        }
        for (uint n = 0; n < Lido.Inputs; ++n)
            Console.WriteLine("{0} {1} [{2}] {3}", Lido.InputName(n), Lido.InputKind(n), Lido.InputUnit(n), Lido.InputCount(n));
        for (uint n = 0; n < Lido.Choices; ++n)
        {
            var options = new string[Lido.ChoiceOptionCount(n)];
            for (uint k = 0; k < options.Length; ++k) options[k] = Lido.OptionName(n, k);
            Console.WriteLine("{0}: {1}", Lido.ChoiceName(n), string.Join(", ", options));
        }
        for (uint n = 0; n < Lido.Switches; ++n) Console.WriteLine("{0} {1}", Lido.SwitchName(n), Lido.SwitchCount(n));
        for (uint n = 0; n < Lido.AllModes; ++n)
        {
            var options = new string[Lido.ModesOptionCount(n)];
            for (uint k = 0; k < options.Length; ++k) options[k] = Lido.ModeName(n, k);
            Console.WriteLine("{0} {1}: {2}", Lido.ModesName(n), Lido.ModesCount(n), string.Join(", ", options));
        }
        for (uint n = 0; n < Lido.Sequences; ++n) Console.WriteLine(Lido.SequenceName(n));
        for (uint n = 0; n < Lido.Events; ++n) Console.WriteLine("{0} {1} {2}", Lido.EventName(n), Lido.EventCount(n), Lido.EventValueCount(n));
        if (Lido.LightNamed("no") != Lido.Lights || Lido.LightName(Lido.Lights) != "") throw new Exception("no name");
        run = Lido.Start(Lido.BookSeed);
        run.ReadAll(kept);
ACTS
        Console.WriteLine("{0} {1} {2}", run.InputValue(Lido.InputNamed("throttle"), 0, 0), run.InputValue(Lido.InputNamed("walker"), 0, 2), run.Chosen(0));
        uint alert = Lido.ModesNamed("alert"), power = Lido.SwitchNamed("power");
        Console.WriteLine("{0} {1} {2} {3} {4} {5} {6}", run.SwitchOn(power, 0) ? 1 : 0, run.SwitchOn(Lido.SwitchNamed("cabins.lit"), 3) ? 1 : 0,
            run.SwitchOn(power, 1) ? 1 : 0, run.SwitchOn(999, 0) ? 1 : 0, Lido.ModeName(alert, run.ActiveMode(alert, 0)),
            run.SequenceElapsed(Lido.SequenceNamed("opening"), 0) >= 0.0 ? "true" : "false", run.SequenceElapsed(999, 0));
    }
}
"#,
        fire: "        run.Advance(AT); run.FireEvent(Lido.EventNamed(\"NAME\"), INDEX, new double[] { VALUES }); Show();",
        set: "        run.Advance(AT); run.SetInput(Lido.InputNamed(\"NAME\"), INDEX, new double[] { VALUES }); Show();",
        choose: "        run.Advance(AT); run.Choose(Lido.ChoiceNamed(\"NAME\"), Lido.OptionNamed(Lido.ChoiceNamed(\"NAME\"), \"OPTION\")); Show();",
        list: numbers,
        commands: &[
            &["mcs", "-optimize+", "-warnaserror+", "-out:Host.exe", "Host.cs", "ostrel_lido.cs"],
            &["mono", "Host.exe"],
        ],
    },
    Host {
        target: "python",
        file: "host.py",
        text: r#"import struct
import ostrel_lido as b

for n in range(b.LIGHTS):
    assert b.light_named(b.light_name(n)) == n
    print(b.light_name(n), b.light_kind(n), b.light_lamp_count(n), b.light_tags(n))
    for k in range(b.light_channel_count(n)):
        print(f" {b.channel_name(n, k)} [{b.channel_unit(n, k)}] {b.channel_size(n, k)} {b.channel_changes(n, k)}")
for n in range(b.INPUTS):
    print(f"{b.input_name(n)} {b.input_kind(n)} [{b.input_unit(n)}] {b.input_count(n)}")
for n in range(b.CHOICES):
    print(b.choice_name(n) + ": " + ", ".join(b.option_name(n, k) for k in range(b.choice_option_count(n))))
for n in range(b.SWITCHES):
    print(b.switch_name(n), b.switch_count(n))
for n in range(b.ALL_MODES):
    print(f"{b.modes_name(n)} {b.modes_count(n)}: " + ", ".join(b.mode_name(n, k) for k in range(b.modes_option_count(n))))
for n in range(b.SEQUENCES):
    print(b.sequence_name(n))
for n in range(b.EVENTS):
    print(b.event_name(n), b.event_count(n), b.event_value_count(n))
assert b.light_named("no") == b.LIGHTS and b.light_name(b.LIGHTS) == "" and b.channel_name(0, 99) == ""
run = b.Run(b.BOOK_SEED)
values, kept, one = [0.0] * b.ALL_VALUES, [0.0] * b.ALL_VALUES, [0.0] * 40
run.read_all(kept)


def show():
    run.read_all(values)
    run.read_changing(kept)
    assert values == kept
    assert run.read_lamp(3, 0, one) == b.light_value_count(3) and run.read_lamp(3, 1000, one) == 0
    print(" ".join("%x" % struct.unpack("<I", struct.pack("<f", v)) for v in values))


ACTS
print("%g %g %d" % (run.input_value(b.input_named("throttle"), 0, 0), run.input_value(b.input_named("walker"), 0, 2), run.chosen(0)))
alert, power = b.modes_named("alert"), b.switch_named("power")
print(*[int(on) for on in (run.switch_on(power, 0), run.switch_on(b.switch_named("cabins.lit"), 3), run.switch_on(power, 1), run.switch_on(999, 0))],
      b.mode_name(alert, run.active_mode(alert, 0)), "true" if run.sequence_elapsed(b.sequence_named("opening"), 0) >= 0 else "false", "%g" % run.sequence_elapsed(999, 0))
"#,
        fire: "run.advance(AT); run.fire_event(b.event_named(\"NAME\"), INDEX, [VALUES]); show()",
        set: "run.advance(AT); run.set_input(b.input_named(\"NAME\"), INDEX, [VALUES]); show()",
        choose: "run.advance(AT); run.choose(b.choice_named(\"NAME\"), b.option_named(b.choice_named(\"NAME\"), \"OPTION\")); show()",
        list: numbers,
        commands: &[&["python3", "-B", "host.py"]],
    },
    Host {
        target: "rust",
        file: "host.rs",
        text: r#"#![deny(warnings)]
mod b {
    include!("ostrel_lido.rs");
}
use b::Run;
fn show(run: &Run, kept: &mut [f32]) {
    let mut all = vec![0.0; b::ALL_VALUES as usize];
    run.read_all(&mut all);
    run.read_changing(kept);
    assert!(all == kept);
    let mut one = [0.0; 40];
    assert!(run.read_lamp(3, 0, &mut one) == b::light_value_count(3) as usize && run.read_lamp(3, 1000, &mut one) == 0);
    println!("{}", all.iter().map(|v| format!("{:x}", v.to_bits())).collect::<Vec<_>>().join(" "));
}
fn main() {
    for n in 0..b::LIGHTS {
        assert_eq!(b::light_named(b::light_name(n)), n);
        println!("{} {} {} {}", b::light_name(n), b::light_kind(n), b::light_lamp_count(n), b::light_tags(n));
        for k in 0..b::light_channel_count(n) {
            println!(" {} [{}] {} {}", b::channel_name(n, k), b::channel_unit(n, k), b::channel_size(n, k), b::channel_changes(n, k));
        }
    }
    for n in 0..b::INPUTS {
        println!("{} {} [{}] {}", b::input_name(n), b::input_kind(n), b::input_unit(n), b::input_count(n));
    }
    for n in 0..b::CHOICES {
        let options: Vec<&str> = (0..b::choice_option_count(n)).map(|k| b::option_name(n, k)).collect();
        println!("{}: {}", b::choice_name(n), options.join(", "));
    }
    for n in 0..b::SWITCHES {
        println!("{} {}", b::switch_name(n), b::switch_count(n));
    }
    for n in 0..b::ALL_MODES {
        let options: Vec<&str> = (0..b::modes_option_count(n)).map(|k| b::mode_name(n, k)).collect();
        println!("{} {}: {}", b::modes_name(n), b::modes_count(n), options.join(", "));
    }
    for n in 0..b::SEQUENCES {
        println!("{}", b::sequence_name(n));
    }
    for n in 0..b::EVENTS {
        println!("{} {} {}", b::event_name(n), b::event_count(n), b::event_value_count(n));
    }
    assert_eq!((b::light_named("no"), b::light_name(b::LIGHTS), b::channel_name(0, 99)), (b::LIGHTS, "", ""));
    let mut run = Run::start(b::SEED);
    let mut kept = vec![0.0; b::ALL_VALUES as usize];
    run.read_all(&mut kept);
ACTS
    println!("{} {} {}", run.input_value(b::input_named("throttle"), 0, 0), run.input_value(b::input_named("walker"), 0, 2), run.chosen(0));
    let (alert, power) = (b::modes_named("alert"), b::switch_named("power"));
    let on = [run.switch_on(power, 0), run.switch_on(b::switch_named("cabins.lit"), 3), run.switch_on(power, 1), run.switch_on(999, 0)];
    println!(
        "{} {} {} {}",
        on.map(|on| u8::from(on).to_string()).join(" "),
        b::mode_name(alert, run.active_mode(alert, 0)),
        run.sequence_elapsed(b::sequence_named("opening"), 0) >= 0.0,
        run.sequence_elapsed(999, 0)
    );
}
"#,
        fire: "    run.advance(AT); run.fire_event(b::event_named(\"NAME\"), INDEX, &[VALUES]); show(&run, &mut kept);",
        set: "    run.advance(AT); run.set_input(b::input_named(\"NAME\"), INDEX, &[VALUES]); show(&run, &mut kept);",
        choose: "    run.advance(AT); run.choose(b::choice_named(\"NAME\"), b::option_named(b::choice_named(\"NAME\"), \"OPTION\")); show(&run, &mut kept);",
        list: numbers,
        commands: &[&["rustc", "--edition=2021", "-O", "-o", "host", "host.rs"], &["./host"]],
    },
];

impl Host {
    fn text(&self) -> String {
        let acts = ACTS.map(|(at, act)| {
            let (pattern, name, index, values, option) = match act {
                Act::Fire(name, index, values) => (self.fire, name, index, values, ""),
                Act::Set(name, index, values) => (self.set, name, index, values, ""),
                Act::Choose(name, option) => (self.choose, name, 0, &[][..], option),
            };
            let line = pattern.replace("AT", &format!("{at:?}")).replace("NAME", name);
            let line = line.replace("INDEX", &index.to_string()).replace("OPTION", option);
            line.replace("VALUES", &(self.list)(values))
        });
        self.text.replace("ACTS", &acts.join("\n"))
    }

    /// What it prints; nothing where a tool of it is missing.
    fn play(&self, folder: &Path) -> Option<String> {
        std::fs::write(folder.join(self.file), self.text()).expect("it can be written");
        let mut told = String::new();
        for command in self.commands {
            let done = Command::new(command[0]).args(&command[1..]).current_dir(folder).output();
            let done = match done {
                Err(why) if why.kind() == std::io::ErrorKind::NotFound => return None,
                done => done.expect("it can be started"),
            };
            told = String::from_utf8_lossy(&done.stdout).into_owned();
            let wrong = String::from_utf8_lossy(&done.stderr);
            assert!(
                done.status.success(),
                "{}: {}",
                self.target,
                wrong.lines().take(20).collect::<Vec<_>>().join("\n")
            );
        }
        Some(told)
    }
}

#[test]
fn hosts_that_bind_by_name_see_what_the_preview_shows() {
    let opened = caltrin::open(LIDO.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    let said = told(&Manifest::of(&checked, &opened.notes), &checked);
    let shown = preview(&checked);
    let options = ExportOptions { names: true, ..ExportOptions::default() };
    let mut played = 0;
    for host in &HOSTS {
        let folder = tempfile::tempdir().expect("there is room for a folder");
        let target = target_named(host.target).expect("it is built in");
        let file = export_as(&checked, &opened.notes, target, &options);
        std::fs::write(folder.path().join(&file.file_name), &file.text).expect("it can be written");
        let Some(found) = host.play(folder.path()) else { continue };
        let tables: String =
            found.lines().take(said.lines().count()).map(|line| format!("{line}\n")).collect();
        for (found, wanted) in tables.lines().zip(said.lines()) {
            assert_eq!(found, wanted, "{}", host.target);
        }
        let mut rest = found.lines().skip(said.lines().count());
        for (n, wanted) in shown.iter().enumerate() {
            let bits = rest.next().expect("a line for each moment").split(' ');
            let bits: Vec<u32> = bits.map(|word| u32::from_str_radix(word, 16).unwrap()).collect();
            assert_eq!(bits.len(), wanted.len(), "{}", host.target);
            let differs = bits.iter().zip(wanted).position(|(a, b)| a != b);
            assert_eq!(differs, None, "{}: value at moment {n}", host.target);
        }
        assert_eq!(rest.next(), Some("0.95 -1 2"), "{}", host.target);
        assert_eq!(rest.next(), Some("1 1 0 0 watch true -1"), "{}", host.target);
        played += 1;
    }
    assert!(played > 0, "no compiler and no interpreter is there");
}

#[test]
fn tables_of_names_are_there_only_where_they_are_wanted() {
    let opened = caltrin::open(LIDO.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    for target in caltrin::export::built_in() {
        let plain = export_as(&checked, &opened.notes, target, &ExportOptions::default());
        assert!(!plain.text.to_lowercase().contains("light_named"), "{}", target.name());
        let options = ExportOptions { names: true, ..ExportOptions::default() };
        let named = export_as(&checked, &opened.notes, target, &options);
        let found = named.text.to_lowercase().replace('_', "").contains("lightnamed");
        assert!(found, "{}", target.name());
        // All else stays as it is.
        let lines: std::collections::HashSet<&str> = named.text.lines().collect();
        let lost: Vec<&str> = plain.text.lines().filter(|line| !lines.contains(line)).collect();
        assert!(lost.is_empty(), "{}: {lost:?}", target.name());
    }
}

/// The commands of docs/hosts.md, each on a whole file: lights, saves, tables of names and the self-test.
#[test]
fn every_language_is_clean_under_its_strict_settings() {
    let opened = caltrin::open(LIDO.as_ref()).expect("the book can be read");
    let checked = opened.checked.expect("the book is good");
    let folder = tempfile::tempdir().expect("there is room for a folder");
    let options = ExportOptions { names: true, ..ExportOptions::default() };
    for target in caltrin::export::built_in() {
        let file = export_as(&checked, &opened.notes, target, &options);
        std::fs::write(folder.path().join(file.file_name), file.text).expect("it can be written");
    }
    let write = |name: &str, text: &str| {
        std::fs::write(folder.path().join(name), text).expect("it can be written")
    };
    write(
        "unit.c",
        "#include \"ostrel_lido.h\"\nint main(void) { return ostrel_lido_self_test(); }\n",
    );
    write(
        "unit.cpp",
        "#include \"ostrel_lido.hpp\"\nint main() { return ostrel_lido::self_test(); }\n",
    );
    let tsc = concat!(env!("CARGO_MANIFEST_DIR"), "/../caltrin-cli/page/node_modules/.bin/tsc");
    let c = "-std=c99 -fsyntax-only -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Werror unit.c";
    let cpp = "-std=c++17 -fsyntax-only -Wall -Wextra -Wpedantic -Wold-style-cast -Wshadow -Wconversion -Wsign-conversion -Werror unit.cpp";
    let commands = [
        ("gcc", c),
        ("clang", c),
        ("g++", cpp),
        ("clang++", cpp),
        ("rustc", "--edition=2021 --crate-type=lib --emit=metadata -D warnings ostrel_lido.rs"),
        ("mcs", "-target:library -warnaserror+ ostrel_lido.cs"),
        ("node", "--check ostrel_lido.mjs"),
        (
            tsc,
            "--strict --noEmit --target es2022 --module nodenext --moduleResolution nodenext ostrel_lido.mts",
        ),
        ("javac", "-Xlint:all,-cast -Werror -d classes OstrelLido.java"),
        ("python3", "-W error -m py_compile ostrel_lido.py"),
        ("luac5.4", "-p ostrel_lido.lua"),
        ("luajit", "-bl ostrel_lido.lua listing"),
    ];
    let mut clean = 0;
    for (command, arguments) in commands {
        let mut started = Command::new(command);
        let done = started.args(arguments.split(' ')).current_dir(folder.path()).output();
        let done = match done {
            Err(why) if why.kind() == std::io::ErrorKind::NotFound => continue,
            done => done.expect("it can be started"),
        };
        let told = [done.stdout, done.stderr].concat();
        let told = String::from_utf8_lossy(&told);
        let told: Vec<&str> = told.lines().take(12).collect();
        assert!(done.status.success() && told.is_empty(), "{command}: {}", told.join("\n"));
        clean += 1;
    }
    assert!(clean > 0, "no compiler and no interpreter is there");
}
