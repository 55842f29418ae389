//! A backdrop whose picture cannot be read. The rule applies to files, so the facade reports it.

use crate::Rule;

pub(crate) const RULE: Rule = Rule {
    code: "C19",
    title: "missing picture",
    explanation: "A backdrop names a PNG, JPEG or WebP file in the book's folder. If that file is \
        missing, damaged or larger than 64 megapixels, the place is drawn without it; nothing else \
        depends on it. Export the picture again or correct its name.",
};
