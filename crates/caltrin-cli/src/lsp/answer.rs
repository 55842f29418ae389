//! Answers to requests.

use std::collections::BTreeMap;
use std::fmt::Write;
use std::path::PathBuf;
use std::sync::Arc;

use caltrin::Opened;
use caltrin::core::color::{Rgb, decode_srgb, encode_srgb};
use caltrin::core::program::{Field, Subject};
use caltrin::core::quantity::Seconds;
use caltrin::core::{Run, ValidatedProgram};
use caltrin::edit::{Edit, Editor, rename};
use caltrin::lang::grammar::Keyword;
use caltrin::lang::ide::{
    self, CompletionKind, Outline, TokenKind, actions, color_presentations, colors, complete,
    folds, highlights, links, outline,
};
use caltrin::lang::names::NameKind;
use caltrin::lang::{Diagnostic, Severity};
use lsp_types as lsp;
use serde::de::DeserializeOwned;
use serde_json::{Value, json};

use super::Server;
use super::project::Family;
use super::text::{Columns, Document, path_of, uri_of};

/// Why a request is not answered.
pub enum Refused {
    /// There is no such method.
    Unknown,
    /// Its parameters are wrong.
    Params(String),
    /// It cannot be done.
    Failed(String),
}

type Answer = Result<Value, Refused>;

/// The kinds of semantic tokens, in the order of [`kind_index`].
const TOKENS: [&str; 12] = [
    "keyword",
    "function",
    "variable",
    "property",
    "number",
    "string",
    "comment",
    "enumMember",
    "parameter",
    "class",
    "event",
    "type",
];

fn kind_index(kind: TokenKind) -> u32 {
    match kind {
        TokenKind::Keyword => 0,
        TokenKind::Function => 1,
        TokenKind::Property => 3,
        TokenKind::Number | TokenKind::Color => 4,
        TokenKind::Text => 5,
        TokenKind::Comment => 6,
        TokenKind::Easing => 7,
        TokenKind::Name(kind) => match kind {
            NameKind::Parameter | NameKind::Column => 8,
            NameKind::ChoiceOption | NameKind::Mode | NameKind::Phase => 7,
            NameKind::OutputValue => 3,
            NameKind::Notice | NameKind::Mark => 10,
            NameKind::Declared(keyword) => match keyword {
                Keyword::Behavior => 1,
                Keyword::Light | Keyword::Spark | Keyword::Output | Keyword::Place => 9,
                Keyword::Event | Keyword::Switch | Keyword::Modes => 10,
                Keyword::Fitting => 11,
                _ => 2,
            },
        },
    }
}

/// What the server can do.
pub fn capabilities(columns: Columns) -> Value {
    let encoding = match columns {
        Columns::Utf8 => "utf-8",
        Columns::Utf16 => "utf-16",
    };
    json!({
        "capabilities": {
            "positionEncoding": encoding,
            "textDocumentSync": { "openClose": true, "change": 2 },
            "completionProvider": { "triggerCharacters": [".", "\"", "(", " "] },
            "hoverProvider": true,
            "signatureHelpProvider": { "triggerCharacters": ["(", ","] },
            "definitionProvider": true,
            "referencesProvider": true,
            "documentHighlightProvider": true,
            "documentSymbolProvider": true,
            "codeActionProvider": { "codeActionKinds": ["quickfix"] },
            "colorProvider": true,
            "documentFormattingProvider": true,
            "documentRangeFormattingProvider": true,
            "renameProvider": { "prepareProvider": true },
            "foldingRangeProvider": true,
            "documentLinkProvider": {},
            "inlayHintProvider": true,
            "semanticTokensProvider": {
                "legend": { "tokenTypes": TOKENS, "tokenModifiers": ["definition"] },
                "full": true,
            },
        },
        "serverInfo": { "name": "caltrin", "version": env!("CARGO_PKG_VERSION") },
    })
}

/// Answers a request.
pub fn answer(server: &mut Server, method: &str, params: Value) -> Answer {
    match method {
        "textDocument/completion" => {
            on(params, |p: lsp::CompletionParams| at(server, &p.text_document_position, completion))
        }
        "textDocument/hover" => {
            on(params, |p: lsp::HoverParams| at(server, &p.text_document_position_params, hover))
        }
        "textDocument/signatureHelp" => on(params, |p: lsp::SignatureHelpParams| {
            at(server, &p.text_document_position_params, signature)
        }),
        "textDocument/definition" => on(params, |p: lsp::GotoDefinitionParams| {
            at(server, &p.text_document_position_params, definition)
        }),
        "textDocument/references" => on(params, |p: lsp::ReferenceParams| {
            let declared = p.context.include_declaration;
            at(server, &p.text_document_position, |place| references(place, declared))
        }),
        "textDocument/documentHighlight" => on(params, |p: lsp::DocumentHighlightParams| {
            at(server, &p.text_document_position_params, highlight)
        }),
        "textDocument/prepareRename" => {
            on(params, |p: lsp::TextDocumentPositionParams| at(server, &p, prepare_rename))
        }
        "textDocument/rename" => on(params, |p: lsp::RenameParams| {
            at(server, &p.text_document_position, |place| renamed(place, &p.new_name))
        }),
        "textDocument/documentSymbol" => on(params, |p: lsp::DocumentSymbolParams| {
            in_document(server, &p.text_document.uri, symbols)
        }),
        "textDocument/foldingRange" => on(params, |p: lsp::FoldingRangeParams| {
            in_document(server, &p.text_document.uri, folding)
        }),
        "textDocument/semanticTokens/full" => on(params, |p: lsp::SemanticTokensParams| {
            in_document(server, &p.text_document.uri, semantic_tokens)
        }),
        "textDocument/documentColor" => on(params, |p: lsp::DocumentColorParams| {
            in_document(server, &p.text_document.uri, document_colors)
        }),
        "textDocument/colorPresentation" => on(params, |p: lsp::ColorPresentationParams| {
            in_document(server, &p.text_document.uri, |place| presentations(place, &p))
        }),
        "textDocument/formatting" => on(params, |p: lsp::DocumentFormattingParams| {
            in_document(server, &p.text_document.uri, formatted)
        }),
        "textDocument/rangeFormatting" => on(params, |p: lsp::DocumentRangeFormattingParams| {
            in_document(server, &p.text_document.uri, |place| range_formatted(place, p.range))
        }),
        "textDocument/documentLink" => on(params, |p: lsp::DocumentLinkParams| {
            in_document(server, &p.text_document.uri, document_links)
        }),
        "textDocument/inlayHint" => on(params, |p: lsp::InlayHintParams| {
            in_document(server, &p.text_document.uri, |place| hints(place, p.range))
        }),
        "textDocument/codeAction" => on(params, |p: lsp::CodeActionParams| {
            in_document(server, &p.text_document.uri, |place| code_actions(place, p.range))
        }),
        _ => Err(Refused::Unknown),
    }
}

fn on<P: DeserializeOwned>(params: Value, then: impl FnOnce(P) -> Answer) -> Answer {
    match serde_json::from_value(params) {
        Ok(params) => then(params),
        Err(error) => Err(Refused::Params(error.to_string())),
    }
}

/// A place in an open document.
struct Place<'s> {
    server: &'s mut Server,
    path: PathBuf,
    document: Document,
    family: Arc<Family>,
    /// The index of the document's text in the family.
    source: usize,
    at: usize,
}

impl Place<'_> {
    fn columns(&self) -> Columns {
        self.server.columns
    }

    fn range(&self, range: std::ops::Range<usize>) -> lsp::Range {
        self.document.range(range, self.columns())
    }

    /// A range of one of the family's texts as the protocol has it.
    fn location(
        &self,
        family: &Family,
        source: usize,
        range: std::ops::Range<usize>,
    ) -> Option<lsp::Location> {
        let uri = uri_of(family.files.get(source)?.as_deref()?)?;
        let text = &family.project.texts()[source].text;
        let document = Document::new(text.clone(), 0);
        Some(lsp::Location { uri, range: document.range(range, self.columns()) })
    }

    /// The last reading without errors of a book that the document belongs to.
    fn opened(&self) -> Option<&Arc<Opened>> {
        let root = self.family.files.first().and_then(Option::as_ref);
        let good = &self.server.good;
        good.get(&self.path).or_else(|| good.get(root?))
    }
}

fn in_document(
    server: &mut Server,
    uri: &lsp::Uri,
    then: impl FnOnce(Place<'_>) -> Answer,
) -> Answer {
    // What is not a file, or not open, has nothing.
    let Some(path) = path_of(uri) else { return Ok(Value::Null) };
    let Some(document) = server.open.get(&path).cloned() else { return Ok(Value::Null) };
    let Some(family) = server.family(&path) else { return Ok(Value::Null) };
    let Some(source) = family.index(&path) else { return Ok(Value::Null) };
    then(Place { server, path, document, family, source, at: 0 })
}

fn at(
    server: &mut Server,
    place: &lsp::TextDocumentPositionParams,
    then: impl FnOnce(Place<'_>) -> Answer,
) -> Answer {
    in_document(server, &place.text_document.uri, |found| {
        let at = found.document.offset(place.position, found.columns());
        then(Place { at, ..found })
    })
}

fn completion(place: Place<'_>) -> Answer {
    const MOST: usize = 200;
    let found = complete(&place.family.project, place.source, place.at);
    let cut = found.len() > MOST;
    let items = found.into_iter().take(MOST).enumerate().map(|(n, one)| {
        let kind = match one.kind {
            CompletionKind::Word => lsp::CompletionItemKind::KEYWORD,
            CompletionKind::Function => lsp::CompletionItemKind::FUNCTION,
            CompletionKind::Unit => lsp::CompletionItemKind::UNIT,
            CompletionKind::Easing => lsp::CompletionItemKind::ENUM_MEMBER,
            CompletionKind::Color => lsp::CompletionItemKind::COLOR,
            CompletionKind::File => lsp::CompletionItemKind::FILE,
            CompletionKind::Part => lsp::CompletionItemKind::FIELD,
            CompletionKind::Name(kind) => match kind {
                NameKind::Declared(Keyword::Behavior) => lsp::CompletionItemKind::FUNCTION,
                NameKind::Declared(Keyword::Event) | NameKind::Mark | NameKind::Notice => {
                    lsp::CompletionItemKind::EVENT
                }
                NameKind::Declared(Keyword::Light | Keyword::Output | Keyword::Spark) => {
                    lsp::CompletionItemKind::CLASS
                }
                NameKind::ChoiceOption | NameKind::Mode | NameKind::Phase => {
                    lsp::CompletionItemKind::ENUM_MEMBER
                }
                NameKind::Parameter | NameKind::Column | NameKind::OutputValue => {
                    lsp::CompletionItemKind::FIELD
                }
                NameKind::Declared(_) => lsp::CompletionItemKind::VARIABLE,
            },
        };
        let format = match one.snippet {
            true => lsp::InsertTextFormat::SNIPPET,
            false => lsp::InsertTextFormat::PLAIN_TEXT,
        };
        let edit = lsp::TextEdit { range: place.range(one.replace), new_text: one.insert };
        lsp::CompletionItem {
            label: one.label,
            kind: Some(kind),
            detail: Some(one.detail).filter(|detail| !detail.is_empty()),
            sort_text: Some(format!("{n:04}")),
            insert_text_format: Some(format),
            text_edit: Some(lsp::CompletionTextEdit::Edit(edit)),
            ..lsp::CompletionItem::default()
        }
    });
    let items = items.collect();
    value(lsp::CompletionList { is_incomplete: cut, items })
}

fn value(result: impl serde::Serialize) -> Answer {
    serde_json::to_value(result).map_err(|error| Refused::Failed(error.to_string()))
}

fn hover(place: Place<'_>) -> Answer {
    let text = &place.document.text;
    let word = ide::word_at(text, place.at);
    let project = &place.family.project;
    let mut out = String::new();
    let mut name = text.get(word.clone()).unwrap_or_default().to_owned();
    if let Some(id) = project.definition_at(place.source, place.at) {
        let about = project.about(id);
        let _ = writeln!(out, "```caltrin\n{}\n```", about.code);
        if let Some(comment) = about.comment {
            let _ = writeln!(out, "{comment}\n");
        }
        let mut definition = project.names().definition(id);
        while let Some(parent) = definition.parent {
            definition = project.names().definition(parent);
            name = format!("{}.{name}", definition.name);
        }
        let _ = writeln!(out, "_{}_\n", about.kind.noun());
    } else if let Some(example) = caltrin::lang::words::example(&name) {
        let _ = writeln!(out, "```caltrin\n{example}\n```");
    } else if let Some(known) = caltrin::lang::grammar::declaration(&name) {
        let _ = writeln!(out, "```caltrin\n{}\n```", known.example);
    }
    if let Some(opened) = place.opened()
        && let Some(checked) = &opened.checked
        && let Ok(told) = caltrin::explain(checked, &opened.notes, &name)
    {
        // Of a light the range and period are those of its intensity.
        let level = caltrin::explain(checked, &opened.notes, &format!("{name}.intensity")).ok();
        let level = level.filter(|_| told.bounds.is_none());
        let bounds =
            told.bounds.as_ref().or(level.as_ref().and_then(|level| level.bounds.as_ref()));
        let period =
            told.period.as_ref().or(level.as_ref().and_then(|level| level.period.as_ref()));
        for (what, said) in
            [("range", bounds), ("period", period), ("changes", told.changes.as_ref())]
        {
            if let Some(said) = said {
                let _ = writeln!(out, "- {what}: {said}");
            }
        }
        if !told.users.is_empty() {
            let _ = writeln!(out, "- used by: {}", told.users.join(", "));
        }
        if let Some(line) = sparkline(checked, &name) {
            let _ = writeln!(out, "\n`{line}` 10 s");
        }
    }
    if out.is_empty() {
        return Ok(Value::Null);
    }
    value(lsp::Hover {
        contents: lsp::HoverContents::Markup(lsp::MarkupContent {
            kind: lsp::MarkupKind::Markdown,
            value: out.trim_end().to_owned(),
        }),
        range: Some(place.range(word)),
    })
}

/// The intensity of a light over ten seconds as a line of blocks.
fn sparkline(checked: &ValidatedProgram, name: &str) -> Option<String> {
    const BLOCKS: [char; 8] = ['▁', '▂', '▃', '▄', '▅', '▆', '▇', '█'];
    const COLUMNS: usize = 48;
    let id = checked.program().light_named(name)?;
    let places = checked.program().light(id).places(Field::Intensity)?;
    let moments: Vec<Seconds> =
        (0..COLUMNS).map(|n| Seconds(10.0 * n as f64 / COLUMNS as f64)).collect();
    let mut levels = vec![0.0; places.len() * COLUMNS];
    let width = places.len();
    Run::new(checked).read_moments((id, 0), &moments, places, &mut levels);
    let levels: Vec<f32> = levels.chunks_exact(width).map(|one| one[0]).collect();
    let most = levels.iter().copied().fold(0.0f32, f32::max);
    if most <= 0.0 {
        return None;
    }
    Some(
        levels.iter().map(|level| BLOCKS[((level / most * 7.0).round() as usize).min(7)]).collect(),
    )
}

fn signature(place: Place<'_>) -> Answer {
    let Some(found) = place.family.project.signature(place.source, place.at) else {
        return Ok(Value::Null);
    };
    let parameters = found.parameters.iter().map(|label| lsp::ParameterInformation {
        label: lsp::ParameterLabel::Simple(label.clone()),
        documentation: None,
    });
    let active = Some(found.active as u32);
    let one = lsp::SignatureInformation {
        label: found.label,
        documentation: None,
        parameters: Some(parameters.collect()),
        active_parameter: active,
    };
    value(lsp::SignatureHelp {
        signatures: vec![one],
        active_signature: Some(0),
        active_parameter: active,
    })
}

fn definition(place: Place<'_>) -> Answer {
    let Some(id) = place.family.project.definition_at(place.source, place.at) else {
        return Ok(Value::Null);
    };
    let found = place.family.project.names().definition(id);
    match place.location(&place.family, found.source, found.range.clone()) {
        Some(location) => value(location),
        None => Ok(Value::Null),
    }
}

/// Places of the name at a place, in all books that its document belongs to.
fn all_places(place: &mut Place<'_>) -> Vec<(lsp::Location, bool)> {
    let (path, at) = (place.path.clone(), place.at);
    let mut found: Vec<(lsp::Location, bool)> = Vec::new();
    for family in place.server.all_families(&path) {
        let Some(source) = family.index(&path) else { continue };
        let Some(id) = family.project.definition_at(source, at) else { continue };
        for one in family.project.names().places(id) {
            if let Some(location) = place.location(&family, one.source, one.range.clone())
                && !found.iter().any(|(known, _)| *known == location)
            {
                found.push((location, one.defines));
            }
        }
    }
    found
}

fn references(mut place: Place<'_>, declared: bool) -> Answer {
    let found = all_places(&mut place).into_iter();
    let found = found.filter(|(_, defines)| declared || !defines).map(|(location, _)| location);
    value(found.collect::<Vec<_>>())
}

fn highlight(place: Place<'_>) -> Answer {
    let names = place.family.project.names();
    let Some(id) = place.family.project.definition_at(place.source, place.at) else {
        return Ok(json!([]));
    };
    let own = names.places(id).filter(|one| one.source == place.source);
    let found = own.map(|one| lsp::DocumentHighlight {
        range: place.range(one.range.clone()),
        kind: Some(match one.defines {
            true => lsp::DocumentHighlightKind::WRITE,
            false => lsp::DocumentHighlightKind::READ,
        }),
    });
    value(found.collect::<Vec<_>>())
}

fn prepare_rename(place: Place<'_>) -> Answer {
    let Some(found) = place.family.project.names().at(place.source, place.at) else {
        return Ok(Value::Null);
    };
    let definition = place.family.project.names().definition(found.definition);
    // The stock cannot be changed.
    if place.family.files[definition.source].is_none() {
        return Err(Refused::Failed("a name of the stock cannot be changed".to_owned()));
    }
    let text = place.document.text.get(found.range.clone()).unwrap_or_default().to_owned();
    value(json!({ "range": place.range(found.range.clone()), "placeholder": text }))
}

fn renamed(place: Place<'_>, new_name: &str) -> Answer {
    let (path, at, columns) = (place.path.clone(), place.at, place.columns());
    let mut changes: BTreeMap<String, Vec<lsp::TextEdit>> = BTreeMap::new();
    for family in place.server.all_families(&path) {
        let Some(source) = family.index(&path) else { continue };
        let texts: Vec<&str> = family.project.texts().iter().map(|text| &*text.text).collect();
        let edits = rename(&texts, source, at, new_name)
            .map_err(|error| Refused::Failed(error.to_string()))?;
        for (n, edit) in edits {
            let Some(file) = &family.files[n] else {
                return Err(Refused::Failed("a name of the stock cannot be changed".to_owned()));
            };
            let Some(uri) = uri_of(file) else { continue };
            let document = Document::new(texts[n].to_owned(), 0);
            let own = changes.entry(uri.as_str().to_owned()).or_default();
            for one in text_edits(&edit, &document, columns) {
                if !own.contains(&one) {
                    own.push(one);
                }
            }
        }
    }
    value(json!({ "changes": changes }))
}

fn text_edits(edit: &Edit, document: &Document, columns: Columns) -> Vec<lsp::TextEdit> {
    let each = edit.replacements().iter().map(|one| lsp::TextEdit {
        range: document.range(one.range.clone(), columns),
        new_text: one.text.clone(),
    });
    each.collect()
}

fn symbols(place: Place<'_>) -> Answer {
    let found = outline(&place.family.project.texts()[place.source].parse);
    let all: Vec<Value> = found.iter().map(|one| symbol(one, &place)).collect();
    Ok(Value::Array(all))
}

fn symbol(one: &Outline, place: &Place<'_>) -> Value {
    let kind = match one.keyword {
        Keyword::Light | Keyword::Spark | Keyword::Output | Keyword::Place => {
            lsp::SymbolKind::CLASS
        }
        Keyword::Behavior => lsp::SymbolKind::FUNCTION,
        Keyword::Fitting => lsp::SymbolKind::STRUCT,
        Keyword::Color | Keyword::Value | Keyword::Seed => lsp::SymbolKind::CONSTANT,
        Keyword::Event | Keyword::At => lsp::SymbolKind::EVENT,
        Keyword::Choice | Keyword::Modes | Keyword::Phases => lsp::SymbolKind::ENUM,
        Keyword::Use => lsp::SymbolKind::MODULE,
        Keyword::Curve => lsp::SymbolKind::ARRAY,
        Keyword::Rehearsal | Keyword::Sequence => lsp::SymbolKind::METHOD,
        _ => lsp::SymbolKind::VARIABLE,
    };
    let children: Vec<Value> = one.children.iter().map(|child| symbol(child, place)).collect();
    let detail = match one.detail.as_str() {
        "" => one.keyword.declaration().noun.to_owned(),
        detail => format!("{} {detail}", one.keyword.declaration().noun),
    };
    json!({
        "name": one.name, "detail": detail, "kind": kind,
        "range": place.range(one.whole.clone()), "selectionRange": place.range(one.range.clone()),
        "children": children,
    })
}

fn folding(place: Place<'_>) -> Answer {
    let found = folds(&place.family.project.texts()[place.source].parse, &place.document.text);
    let all = found.into_iter().map(|range| {
        let range = place.range(range);
        // The closing brace stays in view.
        json!({ "startLine": range.start.line, "endLine": range.end.line.saturating_sub(1) })
    });
    Ok(Value::Array(all.collect()))
}

fn semantic_tokens(place: Place<'_>) -> Answer {
    let mut data: Vec<u32> = Vec::new();
    let (mut line, mut character) = (0, 0);
    for one in highlights(&place.family.project, place.source) {
        let range = place.range(one.range);
        if range.start.line != range.end.line {
            continue;
        }
        let down = range.start.line - line;
        let right =
            if down == 0 { range.start.character - character } else { range.start.character };
        let length = range.end.character - range.start.character;
        data.extend([down, right, length, kind_index(one.kind), u32::from(one.defines)]);
        (line, character) = (range.start.line, range.start.character);
    }
    Ok(json!({ "data": data }))
}

fn document_colors(place: Place<'_>) -> Answer {
    let all = colors(&place.family.project, place.source).into_iter().map(|one| {
        let [red, green, blue] = one.color.0.map(|part| encode_srgb(part.clamp(0.0, 1.0)));
        json!({
            "range": place.range(one.range),
            "color": { "red": red, "green": green, "blue": blue, "alpha": 1.0 },
        })
    });
    Ok(Value::Array(all.collect()))
}

fn presentations(place: Place<'_>, params: &lsp::ColorPresentationParams) -> Answer {
    let color = &params.color;
    let parts = [color.red, color.green, color.blue];
    let linear = Rgb(parts.map(|part| decode_srgb(f64::from(part.clamp(0.0, 1.0)))));
    let bytes = place.document.bytes(params.range, place.columns());
    let range = place.range(bytes);
    let all = color_presentations(linear).into_iter().map(|text| lsp::ColorPresentation {
        label: text.clone(),
        text_edit: Some(lsp::TextEdit { range, new_text: text }),
        additional_text_edits: None,
    });
    value(all.collect::<Vec<_>>())
}

fn formatted(place: Place<'_>) -> Answer {
    let text = &place.document.text;
    let Ok(new) = caltrin::lang::format(text) else { return Ok(Value::Null) };
    let edit = Edit::between(text, &new);
    value(text_edits(&edit, &place.document, place.columns()))
}

fn range_formatted(place: Place<'_>, range: lsp::Range) -> Answer {
    let bytes = place.document.bytes(range, place.columns());
    match Editor::of(&place.document.text).format(bytes) {
        Ok(edit) => value(text_edits(&edit, &place.document, place.columns())),
        Err(_) => Ok(Value::Null),
    }
}

fn document_links(place: Place<'_>) -> Answer {
    let folder = caltrin::folder_of(&place.path).to_owned();
    let found = links(&place.family.project.texts()[place.source].parse);
    let all =
        found.into_iter().filter(|link| link.file != caltrin::STOCK_NAME).filter_map(|link| {
            let target = folder.join(&link.file);
            let target = Some(target).filter(|target| target.starts_with(&folder))?;
            Some(json!({ "range": place.range(link.range), "target": uri_of(&target)? }))
        });
    Ok(Value::Array(all.collect()))
}

/// The guaranteed range of each channel of a light, at the end of its line.
fn hints(place: Place<'_>, range: lsp::Range) -> Answer {
    let Some(opened) = place.opened() else { return Ok(json!([])) };
    let Some(checked) = &opened.checked else { return Ok(json!([])) };
    let asked = place.document.bytes(range, place.columns());
    let mut all: Vec<Value> = Vec::new();
    for (id, light) in checked.program().lights() {
        for drive in &light.drives {
            let Some(span) = opened.source_map.subject(Subject::Drive(id, drive.field)) else {
                continue;
            };
            let source = &opened.sources[span.source];
            let same =
                source.text.get(span.range.clone()) == place.document.text.get(span.range.clone());
            let own = place.family.project.texts()[place.source].name == source.name
                || span.source == 0 && place.source == 0;
            let asked = asked.start <= span.range.end && span.range.start <= asked.end;
            if !same || !own || !asked || drive.field != Field::Intensity {
                continue;
            }
            let Ok(told) =
                caltrin::explain(checked, &opened.notes, &format!("{}.intensity", light.name))
            else {
                continue;
            };
            if let Some(bounds) = told.bounds {
                let position = place.document.position(span.range.end, place.columns());
                all.push(json!({
                    "position": position, "label": bounds, "paddingLeft": true,
                    "tooltip": "guaranteed range",
                }));
            }
        }
    }
    all.dedup();
    Ok(Value::Array(all))
}

fn code_actions(place: Place<'_>, range: lsp::Range) -> Answer {
    let asked = place.document.bytes(range, place.columns());
    let Some(opened) = place.server.read.get(&place.path) else { return Ok(json!([])) };
    let mut all: Vec<Value> = Vec::new();
    for told in &opened.diagnostics {
        let Some(source) = opened.sources.get(told.source()) else { continue };
        // It was read from this very text.
        if source.text != place.document.text {
            continue;
        }
        let at = told.range();
        if at.end < asked.start || asked.end < at.start {
            continue;
        }
        for action in actions(told, &source.text) {
            let edit = lsp::TextEdit { range: place.range(action.range), new_text: action.text };
            let Some(uri) = uri_of(&place.path) else { continue };
            all.push(json!({
                "title": action.title, "kind": "quickfix", "isPreferred": true,
                "diagnostics": [diagnostic(told, &place.document, place.columns())],
                "edit": { "changes": { uri.as_str(): [edit] } },
            }));
        }
    }
    Ok(Value::Array(all))
}

/// A diagnostic as the protocol has it.
pub fn diagnostic(told: &Diagnostic, document: &Document, columns: Columns) -> lsp::Diagnostic {
    let severity = match told.severity {
        Severity::Error => lsp::DiagnosticSeverity::ERROR,
        Severity::Warning => lsp::DiagnosticSeverity::WARNING,
    };
    let message = match &told.help {
        Some(help) => format!("{}; {help}", told.message),
        None => told.message.clone(),
    };
    lsp::Diagnostic {
        range: document.range(told.range(), columns),
        severity: Some(severity),
        code: told.code.map(|code| lsp::NumberOrString::String(code.to_owned())),
        source: Some("caltrin".to_owned()),
        message,
        ..lsp::Diagnostic::default()
    }
}
