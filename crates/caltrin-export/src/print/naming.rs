//! The names of a file's own things.

use super::{KERNEL, Syntax};
use crate::language::Printer;
use crate::names::{Case, Namer, cased};
use crate::plan::{Helper, Plan, clock_fields};

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
    /// Of [`Plan::notice_values`]: the field of a notice, and the parameters of the function that sends one.
    pub notice_values: Vec<(String, Vec<String>)>,
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
}

impl FileNames {
    /// Names everything of a plan. `own` are names that the file uses anyway; functions get
    /// `prefix`.
    pub fn of<S: Syntax>(syntax: &S, plan: &Plan, own: &[&str], prefix: &str) -> Self {
        let mut namer = Namer::without(syntax.language().reserved().chain(own.iter().copied()));
        for helper in Helper::ALL.iter().copied() {
            namer.take(&format!("{prefix}{}", syntax.helper(helper)));
        }
        let printer = Printer::new(syntax.language(), &KERNEL, prefix, 0);
        for constant in &KERNEL.constants {
            namer.take(&printer.constant_name(&constant.name));
        }
        let mut fields = Namer::without(syntax.language().reserved().chain(["now", "seed", "due"]));
        for (field, ..) in plan.clock.iter().flat_map(clock_fields) {
            fields.take(&cased(field, S::FIELDS));
        }
        let choices = plan.choices.iter().map(|choice| {
            let mut field = |name: &str| {
                let name = cased(name, S::FIELDS);
                if S::MEMBERS { namer.take(&name) } else { fields.take(&name) }
            };
            let own = field(&choice.name);
            let since = field(&format!("{}_since", choice.name));
            let from = field(&format!("{}_from", choice.name));
            let mut function =
                |name: &str| namer.take(&format!("{prefix}{}", cased(name, S::FUNCTIONS)));
            let set = function(&format!("set_{}", choice.name));
            let weight = function(&format!("{}_weight", choice.name));
            let constant = |option: &String| {
                let name = format!("{prefix}{}_{option}", choice.name);
                namer.take(&cased(&name, S::CONSTANTS))
            };
            let options = choice.options.iter().map(constant).collect();
            ChoiceNames { field: own, since, from, set, weight, options }
        });
        let choices: Vec<ChoiceNames> = choices.collect();
        let setters: Vec<(String, String)> = plan
            .inputs
            .iter()
            .map(|input| {
                let set = cased(&format!("set_{}", input.name), S::FUNCTIONS);
                let field = cased(&input.name, S::FIELDS);
                let field = if S::MEMBERS { namer.take(&field) } else { fields.take(&field) };
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
                    cased(&format!("{name}_{}", event.name), S::FUNCTIONS)
                ))
            };
            let act = function(if event.is_fired() { "fire" } else { "happen" });
            let due = function("due");
            let mut each = |of: &str| {
                let name = format!("{}_at_{of}", event.name);
                namer.take(&format!("{prefix}{}", cased(&name, S::FUNCTIONS)))
            };
            let each = event.each.iter().map(|others| each(&others.name)).collect();
            EventNames { act, due, each }
        });
        let events: Vec<EventNames> = events.collect();
        let sparks = plan.sparks.iter().map(|spark| {
            let name = cased(&format!("free_{}", spark.name), S::FUNCTIONS);
            namer.take(&format!("{prefix}{name}"))
        });
        let sparks: Vec<String> = sparks.collect();
        let mut named: Vec<(String, String)> = Vec::new();
        for light in &plan.lights {
            let mut verb = |verb: &str| {
                let name = cased(&format!("{verb}_{}", light.name), S::FUNCTIONS);
                namer.take(&format!("{prefix}{name}"))
            };
            named.push((verb("read"), verb("fill")));
        }
        let lights = plan
            .lights
            .iter()
            .zip(named)
            .map(|(light, (read, fill))| {
                let lamp = namer.take(&format!("{prefix}{}", cased(&light.name, S::TYPES)));
                LightNames { lamp, read, fill }
            })
            .collect();
        let functions = plan
            .functions
            .iter()
            .map(|f| namer.take(&format!("{prefix}{}", cased(&f.name, S::FUNCTIONS))))
            .collect();
        let tables = plan
            .tables
            .iter()
            .map(|t| namer.take(&format!("{prefix}{}", cased(&t.name, S::TABLES))))
            .collect();
        let mut constant =
            |name: String| namer.take(&cased(&format!("{prefix}{name}"), S::CONSTANTS));
        let own = plan.tags.iter().map(|tag| constant(format!("tag_{tag}"))).collect();
        let tagged = plan.lights.iter().filter(|_| !plan.tags.is_empty());
        let of_lights = tagged.map(|light| constant(format!("{}_tags", light.name))).collect();
        let mut of_notice = Namer::without(syntax.language().reserved());
        for own in ["moment", "name", "text", "from", "lamp", "position", "x", "y", "z"] {
            of_notice.take(&cased(own, S::FIELDS));
        }
        let mut of_send = Namer::without(syntax.language().reserved());
        let notice_values = plan.notice_values.iter().map(|place| {
            let input = &plan.inputs[*place];
            let name = input.name.rsplit('.').next().unwrap_or(&input.name);
            let parts: &[&str] = if input.suffixes.is_empty() { &[""] } else { input.suffixes };
            let parameter =
                |part: &&str| of_send.take(&cased(&format!("value_{name}_{part}"), S::LOCALS));
            let parameters = parts.iter().map(parameter).collect();
            let mut field = of_notice.take(&cased(name, S::FIELDS));
            // Where each part is a field, its name is free too.
            let part = |field: &str, part: &str| format!("{field}{}", part.to_ascii_uppercase());
            while input.suffixes.iter().any(|suffix| of_notice.is_taken(&part(&field, suffix))) {
                field = of_notice.take(&cased(name, S::FIELDS));
            }
            for suffix in input.suffixes {
                of_notice.take(&part(&field, suffix));
            }
            (field, parameters)
        });
        let notice_values = notice_values.collect();
        FileNames {
            notice_values,
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
