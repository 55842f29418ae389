//! A name that nothing uses.

use crate::Rule;

pub(crate) const RULE: Rule = Rule {
    code: "C10",
    title: "nothing uses it",
    explanation: "A signal, curve, behaviour, fitting, color or value that nothing uses changes nothing \
        and is not handed over. It is often the old spelling of something, or what is left of an \
        experiment: use it, or take it out.",
};
