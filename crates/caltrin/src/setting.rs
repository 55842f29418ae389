//! Inputs set by a line of text, as on the command line: `swell=40%`, `quay.draft[2]=1.5m`.

use caltrin_core::ValidatedProgram;
use caltrin_core::choice::ChoiceState;
use caltrin_core::kind::Kind;
use caltrin_core::run::{SetError, State};
use caltrin_lang::words::nearest;
use thiserror::Error;

/// Why a line sets nothing.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum SettingError {
    /// It has no `=`, or its index is not a number.
    #[error(
        "`{0}` is not a setting; write `swell=40%`, or `quay.draft[2]=1.5m` for one of an array"
    )]
    Form(String),
    /// There is no such input.
    #[error("there is no input `{name}`{}", help(.near.as_deref(), .any))]
    NoSuchInput {
        /// The name asked for.
        name: String,
        /// The nearest one that there is.
        near: Option<String>,
        /// Whether the book has any input.
        any: bool,
    },
    /// What stands after the `=` is not a value.
    #[error("`{text}` is not a value: {why}")]
    Value {
        /// What stands there.
        text: String,
        /// What is wrong with it.
        why: String,
    },
    /// It is another kind of value.
    #[error("`{name}` takes {wanted}, found {found}")]
    WrongKind {
        /// The input.
        name: String,
        /// What it takes.
        wanted: Kind,
        /// What stands there.
        found: Kind,
    },
    /// A choice has no such option.
    #[error("`{name}` has no `{found}`; it has {}", .options.join(", "))]
    NoSuchOption {
        /// The choice.
        name: String,
        /// What stands there.
        found: String,
        /// What it has.
        options: Vec<String>,
    },
    /// The input cannot be set so.
    #[error(transparent)]
    Set(#[from] SetError),
}

fn help(near: Option<&str>, any: &bool) -> String {
    match near {
        Some(near) => format!("; did you mean `{near}`?"),
        None if *any => String::new(),
        None => "; the book has none".to_owned(),
    }
}

/// Sets an input of a state as a line says, in the language's units: `name=value` (of each instance or
/// lamp, if there is one for each) or `name[index]=value`; or a choice, as if it had been chosen long ago:
/// `name=option`.
///
/// # Errors
/// If there is no such input, or the value is of another kind. The state is left as it was.
pub fn set(checked: &ValidatedProgram, state: &mut State, line: &str) -> Result<(), SettingError> {
    let form = || SettingError::Form(line.to_owned());
    let (name, text) = line.split_once('=').ok_or_else(form)?;
    let (name, index) = match name.trim().strip_suffix(']').map(|open| open.split_once('[')) {
        None => (name.trim(), None),
        Some(Some((name, index))) => (name, Some(index.trim().parse().map_err(|_| form())?)),
        Some(None) => return Err(form()),
    };
    let program = checked.program();
    if let (Some(id), None) = (program.choice_named(name), index) {
        let (options, text) = (&program.choice(id).options, text.trim());
        let Some(option) = options.iter().position(|option| option == text) else {
            return Err(SettingError::NoSuchOption {
                name: name.to_owned(),
                found: text.to_owned(),
                options: options.clone(),
            });
        };
        // It has been so for long.
        state.choices[id.index()] = ChoiceState::start(program.choice(id));
        state.choices[id.index()].settle(option as u32);
        return Ok(());
    }
    let Some(id) = program.input_named(name) else {
        let inputs = program.given().map(|(_, input)| input.name.as_str());
        let choices = program.choices().map(|(_, choice)| choice.name.as_str());
        let known: Vec<&str> = inputs.chain(choices).collect();
        let near = nearest(name, known.iter().copied()).map(str::to_owned);
        return Err(SettingError::NoSuchInput {
            name: name.to_owned(),
            near,
            any: !known.is_empty(),
        });
    };
    let input = program.input(id);
    let (value, found) = caltrin_lang::value(text)
        .map_err(|why| SettingError::Value { text: text.trim().to_owned(), why })?;
    if found != input.kind {
        let (name, wanted) = (name.to_owned(), input.kind);
        return Err(SettingError::WrongKind { name, wanted, found });
    }
    // The game says lengths and places in the units of its space.
    let value = program.space().scaled(input.kind, value);
    let which = match index {
        Some(index) => index..=index,
        None => 0..=input.count() - 1,
    };
    for index in which {
        state.inputs.set(program, id, index, value)?;
    }
    Ok(())
}
