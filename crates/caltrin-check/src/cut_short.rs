//! A truncated sound file.

use caltrin_core::ValidatedProgram;
use caltrin_core::program::Subject;

use crate::{Finding, Rule};

pub(crate) const RULE: Rule = Rule {
    code: "C14",
    title: "truncated sound file",
    explanation: "The file ends in the middle of its sound, as after an interrupted download or \
        copy. The preview and the exported tables contain only the part that is there, so lights \
        that follow the rest stay dark.",
};

pub(crate) fn look(checked: &ValidatedProgram) -> Vec<Finding> {
    let sounds = checked.program().sounds_by_id();
    let cut = sounds.filter_map(|(id, sound)| sound.hearing.cut().map(|cut| (id, sound, cut)));
    cut.map(|(id, sound, cut)| {
        let message = cut.message(&sound.file, sound.hearing.length());
        let help = "save or copy the file again";
        Finding::new(&RULE, checked, Subject::Sound(id), message, help)
    })
    .collect()
}
