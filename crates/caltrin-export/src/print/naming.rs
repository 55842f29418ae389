//! The names of a file's own things.

use std::collections::BTreeSet;

use super::KERNEL;
use crate::language::{Language, Printer};
use crate::names::{Case, Namer, cased};
use crate::plan::{Helper, Plan, clock_fields};

/// Functions that a file has besides the book's.
const OWN: [&str; 101] = [
    "start",
    "advance",
    "step",
    "settle",
    "self_test",
    "act",
    "check",
    "check_notices",
    "checksum",
    "differences",
    "sample",
    "put",
    "put_notices",
    "text_sum",
    "counted",
    "is_exact",
    "send",
    "take_notice",
    "dropped_notices",
    "clock_hours",
    "clock_strikes",
    "clock_hour",
    "clock_days",
    "set_clock",
    "drive_clock",
    "set_clock_days",
    "set_clock_rate",
    "by_hour",
    "run",
    "seed",
    "book_seed",
    "notice",
    "save",
    "load",
    "save_bytes",
    "layout",
    "exporter",
    "word_at",
    "put_word",
    "saved_value",
    "take_saved",
    "option_of",
    "clean_saved",
    "save_sum",
    "is_save",
    "resave",
    "write_save",
    "read_save",
    "same_text",
    "light_named",
    "light_name",
    "light_kind",
    "light_lamp_count",
    "light_tags",
    "light_channel_count",
    "light_value_count",
    "channel_at",
    "channel_name",
    "channel_unit",
    "channel_size",
    "channel_changes",
    "read_all",
    "read_changing",
    "put_lamp",
    "read_lamp",
    "input_named",
    "input_name",
    "input_kind",
    "input_unit",
    "input_count",
    "input_min",
    "input_max",
    "input_value",
    "set_input",
    "choice_named",
    "choice_name",
    "choice_option_count",
    "option_name",
    "option_named",
    "choose",
    "chosen",
    "event_named",
    "event_name",
    "event_count",
    "event_value_count",
    "fire_event",
    "switch_named",
    "switch_name",
    "switch_count",
    "switch_on",
    "modes_named",
    "modes_name",
    "modes_count",
    "modes_option_count",
    "mode_name",
    "mode_named",
    "active_mode",
    "sequence_named",
    "sequence_name",
    "sequence_count",
    "sequence_elapsed",
];

/// Constants that count what a file has.
const COUNTS: [&str; 8] =
    ["lights", "all_values", "inputs", "choices", "events", "switches", "all_modes", "sequences"];

/// Tables that a file has besides the book's.
const TABLES: [&str; 42] = [
    "notice_names",
    "notice_sources",
    "notice_texts",
    "notice_text_starts",
    "test_seeds",
    "test_moments",
    "test_waits",
    "test_sums",
    "save_keys",
    "save_heads",
    "option_keys",
    "save_unused",
    "all_light_names",
    "all_light_kinds",
    "all_light_lamps",
    "all_light_tags",
    "all_light_changes",
    "all_channel_starts",
    "all_channel_names",
    "all_channel_units",
    "all_channel_parts",
    "all_channel_changes",
    "all_input_names",
    "all_input_kinds",
    "all_input_units",
    "all_input_counts",
    "all_input_min",
    "all_input_max",
    "all_choice_names",
    "all_option_starts",
    "all_option_names",
    "all_event_names",
    "all_event_counts",
    "all_event_values",
    "all_switch_names",
    "all_switch_counts",
    "all_modes_names",
    "all_modes_counts",
    "all_mode_starts",
    "all_mode_names",
    "all_sequence_names",
    "all_sequence_counts",
];

/// The file's own names, in one language.
#[derive(Clone, Debug)]
pub struct FileNames {
    /// The file's base name and the prefix or type of the whole, snake case.
    pub base: String,
    /// Of [`Plan::functions`].
    pub functions: Vec<String>,
    /// Of [`Plan::tables`].
    pub tables: Vec<String>,
    /// Of [`Plan::inputs`].
    pub inputs: Vec<InputNames>,
    /// Of [`Plan::choices`].
    pub choices: Vec<ChoiceNames>,
    /// The constants of [`Plan::tags`], and those of the tags of [`Plan::lights`]; none in a book without tags.
    pub tags: [Vec<String>; 2],
    /// Of [`Plan::events`].
    pub events: Vec<EventNames>,
    /// Of [`Plan::notice_values`]: the field of a notice.
    pub notice_values: Vec<String>,
    /// The functions that keep where a lamp is, for notices that come from there: by the place of its light.
    pub places: Vec<(usize, String)>,
    /// Of [`Plan::sparks`]: the function that finds one that is free.
    pub sparks: Vec<String>,
    /// Of [`Plan::lights`]: the type of a lamp, and the book's name in the case of functions.
    pub lights: Vec<LightNames>,
}

/// The names around one input.
#[derive(Clone, Debug)]
pub struct InputNames {
    /// What the run keeps it in.
    pub field: String,
    /// The function that sets it.
    pub set: String,
    /// The names of its parts, none for one number.
    pub suffixes: &'static [&'static str],
}

/// The names around one choice.
#[derive(Clone, Debug)]
pub struct ChoiceNames {
    /// What the run keeps the option in.
    pub field: String,
    /// What the run keeps the moment of the change in.
    pub since: String,
    /// What the run keeps how much each counted at that moment in.
    pub from: String,
    /// The function that sets it.
    pub set: String,
    /// The function that says how much an option counts.
    pub weight: String,
    /// The constants of its options.
    pub options: Vec<String>,
}

/// The names around one event.
#[derive(Clone, Debug)]
pub struct EventNames {
    /// The function that lets it happen.
    pub act: String,
    /// The function that says when it is due.
    pub due: String,
    /// The functions that say what it does to each instance or lamp.
    pub each: Vec<String>,
}

/// The names around one light.
#[derive(Clone, Debug)]
pub struct LightNames {
    /// The type of its lamps.
    pub lamp: String,
    /// The function that reads one lamp.
    pub read: String,
    /// The function that reads many.
    pub fill: String,
    /// The function that adds one to a checksum.
    pub check: String,
    /// The function of a prover that puts out all of its values.
    pub put: String,
}

impl FileNames {
    /// Names everything of a plan. `own` are types that the file declares anyway; functions get `prefix`.
    pub fn of(language: &Language, plan: &Plan, prefix: &str, own: &[&str]) -> Self {
        let cases = &language.names;
        let members = cases.fields_beside_functions;
        let uses = language.file.names.iter().chain(&language.read.own).map(String::as_str);
        let uses = uses.chain(own.iter().copied()).chain(language.reserved());
        let mut namer = Namer::without(uses);
        for name in OWN {
            namer.take(&format!("{prefix}{}", cased(name, cases.functions)));
        }
        namer.take(&format!("{prefix}{}", cased("notice", cases.types)));
        for name in COUNTS {
            namer.take(&cased(&format!("{prefix}{name}"), cases.constants));
        }
        for name in TABLES {
            namer.take(&cased(&format!("{prefix}{name}"), cases.tables));
        }
        let operations = [Helper::RoundDown, Helper::CellIndex].map(Helper::name);
        let kernel = KERNEL.functions.iter().map(|function| function.name.as_str());
        for name in operations.into_iter().chain(kernel) {
            namer.take(&format!("{prefix}{}", cased(name, cases.functions)));
        }
        let printer = Printer::new(language, &KERNEL, prefix, 0);
        for constant in &KERNEL.constants {
            namer.take(&printer.constant_name(&constant.name));
        }
        let mut fields = Namer::without(language.reserved().chain(["now", "seed", "due"]));
        for (field, ..) in plan.clock.iter().flat_map(clock_fields) {
            let own = cases.clock.get(field).cloned();
            fields.take(&own.unwrap_or_else(|| cased(field, cases.fields)));
        }
        let choices = plan.choices.iter().map(|choice| {
            let mut field = |name: &str| {
                let name = cased(name, cases.fields);
                if members { namer.take(&name) } else { fields.take(&name) }
            };
            let own = field(&choice.name);
            let since = field(&format!("{}_since", choice.name));
            let from = field(&format!("{}_from", choice.name));
            let mut function =
                |name: &str| namer.take(&format!("{prefix}{}", cased(name, cases.functions)));
            let set = function(&format!("set_{}", choice.name));
            let weight = function(&format!("{}_weight", choice.name));
            let constant = |option: &String| {
                let name = format!("{prefix}{}_{option}", choice.name);
                namer.take(&cased(&name, cases.constants))
            };
            let options = choice.options.iter().map(constant).collect();
            ChoiceNames { field: own, since, from, set, weight, options }
        });
        let choices: Vec<ChoiceNames> = choices.collect();
        let setters: Vec<(String, String)> = plan
            .inputs
            .iter()
            .map(|input| {
                let set = cased(&format!("set_{}", input.name), cases.functions);
                let field = cased(&input.name, cases.fields);
                let field = if members { namer.take(&field) } else { fields.take(&field) };
                (namer.take(&format!("{prefix}{set}")), field)
            })
            .collect();
        let inputs = plan
            .inputs
            .iter()
            .zip(setters)
            .map(|(input, (set, field))| InputNames { field, set, suffixes: input.suffixes })
            .collect();
        let events = plan.events.iter().map(|event| {
            let mut function = |name: &str| {
                namer.take(&format!(
                    "{prefix}{}",
                    cased(&format!("{name}_{}", event.name), cases.functions)
                ))
            };
            let act = function(if event.is_fired() { "fire" } else { "happen" });
            let due = function("due");
            let mut each = |of: &str| {
                let name = format!("{}_at_{of}", event.name);
                namer.take(&format!("{prefix}{}", cased(&name, cases.functions)))
            };
            let each = event.each.iter().map(|others| each(&others.name)).collect();
            EventNames { act, due, each }
        });
        let events: Vec<EventNames> = events.collect();
        let sparks = plan.sparks.iter().map(|spark| {
            let name = cased(&format!("free_{}", spark.name), cases.functions);
            namer.take(&format!("{prefix}{name}"))
        });
        let sparks: Vec<String> = sparks.collect();
        let mut named: Vec<[String; 4]> = Vec::new();
        for light in &plan.lights {
            let verb = |verb: &str| {
                let name = cased(&format!("{verb}_{}", light.name), cases.functions);
                namer.take(&format!("{prefix}{name}"))
            };
            named.push(["read", "fill", "check", "put"].map(verb));
        }
        let lights = plan
            .lights
            .iter()
            .zip(named)
            .map(|(light, [read, fill, check, put])| {
                let lamp = namer.take(&format!("{prefix}{}", cased(&light.name, cases.types)));
                LightNames { lamp, read, fill, check, put }
            })
            .collect();
        let placed = plan.notices.iter().filter_map(|notice| notice.placed);
        let placed: BTreeSet<usize> = placed.map(|(light, _)| light).collect();
        let place = |light: usize| {
            let name = format!("notice_place_{}", plan.lights[light].name);
            (light, namer.take(&format!("{prefix}{}", cased(&name, cases.functions))))
        };
        let places = placed.into_iter().map(place).collect();
        let functions = plan
            .functions
            .iter()
            .map(|f| namer.take(&format!("{prefix}{}", cased(&f.name, cases.functions))))
            .collect();
        let tables = plan
            .tables
            .iter()
            .map(|t| namer.take(&format!("{prefix}{}", cased(&t.table.name, cases.tables))))
            .collect();
        let mut constant =
            |name: String| namer.take(&cased(&format!("{prefix}{name}"), cases.constants));
        let own = plan.tags.iter().map(|tag| constant(format!("tag_{tag}"))).collect();
        let tagged = plan.lights.iter().filter(|_| !plan.tags.is_empty());
        let of_lights = tagged.map(|light| constant(format!("{}_tags", light.name))).collect();
        let mut of_notice = Namer::without(language.reserved());
        for own in ["moment", "name", "text", "from", "lamp", "position", "x", "y", "z"] {
            of_notice.take(&cased(own, cases.fields));
        }
        let notice_values = plan.notice_values.iter().map(|place| {
            let input = &plan.inputs[*place];
            let name = input.name.rsplit('.').next().unwrap_or(&input.name);
            let mut field = of_notice.take(&cased(name, cases.fields));
            // Where each part is a field, its name is free too.
            let part = |field: &str, part: &str| format!("{field}{}", part.to_ascii_uppercase());
            while input.suffixes.iter().any(|suffix| of_notice.is_taken(&part(&field, suffix))) {
                field = of_notice.take(&cased(name, cases.fields));
            }
            for suffix in input.suffixes {
                of_notice.take(&part(&field, suffix));
            }
            field
        });
        let notice_values = notice_values.collect();
        FileNames {
            notice_values,
            places,
            tags: [own, of_lights],
            inputs,
            choices,
            events,
            sparks,
            tables,
            base: cased(plan.base(), Case::Snake),
            functions,
            lights,
        }
    }
}
