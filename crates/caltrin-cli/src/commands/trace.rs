//! `caltrin trace`

use std::collections::{BTreeMap, BTreeSet};
use std::io::Write;
use std::path::PathBuf;

use caltrin::core::ValidatedProgram;
use caltrin::core::program::{Constant, Field, LightId, LightKind, NoticeValue, parts_of};
use caltrin::core::quantity::{Hertz, Seconds};
use caltrin::core::rehearsal::Player;
use caltrin::core::run::Taken;
use caltrin::core::trace::{LampTrace, Sampling};
use caltrin::draw::When;
use caltrin::files::Inputs;
use clap::ValueEnum;
use serde_json::{Map, Value, json};

use super::page::needs_reach;
use super::{
    Done, Failure, Start, Status, count, failure, lamps, open_and_tell, parse_when, rehearsal_of,
    span_asked,
};
use super::{Goal, quiet_pipe, say, working};

/// Write sampled values of the lamps as CSV or JSON lines.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin trace pier.caltrin --light weld --to 5s --rate 60 > weld.csv
  caltrin trace pier.caltrin -o pier.jsonl
  caltrin trace pier.caltrin --from 1h --to 3610s --format jsonl | head

Each row is one lamp at one moment: seconds, light, lamp, then a column for each channel that \
any lamp has, such as color.r or position.x, then one for each number of an output, such as \
output.sky.value.r or output.heaven.stars. Strengths are in the book's unit, colors linear Rec. \
709. What a light does not have is empty. With --notices each row is one notice: seconds, name, \
text, light or instance, lamp, its position, and its values.")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// Only this light, or this lamp of it as in `row[2]`; repeatable.
    #[arg(short, long, value_name = "NAME")]
    light: Vec<String>,
    /// First moment, or hour of the game's day; default: 0s.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    from: Option<When>,
    /// Last moment, or hour; default: 10 s after the first.
    #[arg(long, value_name = "TIME", value_parser = parse_when, allow_hyphen_values = true)]
    to: Option<When>,
    /// Samples per second.
    #[arg(long, value_name = "HZ", default_value_t = 30.0)]
    rate: f64,
    #[command(flatten)]
    start: Start,
    /// Play this rehearsal of the book.
    #[arg(long, value_name = "NAME")]
    rehearsal: Option<String>,
    /// Write the notices that are sent instead of the lamps.
    #[arg(long, conflicts_with = "light")]
    notices: bool,
    /// Format; default: by the file extension, else CSV.
    #[arg(long, value_enum)]
    format: Option<Format>,
    /// File to write; default: standard output.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
}

#[derive(Clone, Copy, PartialEq, ValueEnum)]
enum Format {
    /// Comma-separated values with a heading.
    Csv,
    /// One JSON object a line.
    Jsonl,
}

pub fn run(arguments: &Arguments) -> Done {
    let format = format(arguments)?;
    if !(arguments.rate.is_finite() && arguments.rate > 0.0 && arguments.rate <= 1e6) {
        return Err(failure("a rate is above 0 and at most 1000000", "for example: --rate 60"));
    }
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    let asked = if arguments.light.is_empty() {
        checked.program().lights().map(|(id, _)| (id, None)).collect()
    } else {
        lamps(&checked, &arguments.light)?
    };
    let chosen: Vec<LightId> = asked.iter().map(|(id, _)| *id).collect();
    let from = arguments
        .from
        .or(arguments.to.is_none_or(|to| to.hour.is_none()).then(|| Seconds(0.0).into()));
    let span = span_asked(&checked, from, arguments.to)?;
    let (hour, to) = (span.hour, span.to.unwrap_or(Seconds(span.from.0 + 10.0)));
    let span = Sampling { from: span.from, to, rate: Hertz(arguments.rate) };
    let moments = span.moments();
    let mut start = arguments.start.state(&checked)?;
    if let Some(hour) = hour {
        start = start.with_hour(checked.program(), hour);
    }
    let rehearsal = rehearsal_of(&checked, &arguments.rehearsal)?;
    let rehearsal = rehearsal.map(|n| &checked.program().rehearsals()[n]);
    needs_reach(&checked, &start, rehearsal, span.to)?;
    if arguments.notices {
        let mut player = Player::new(&checked, start, rehearsal);
        let all = player.notices(span.to);
        let kept: Vec<Taken<'_>> = all.into_iter().filter(|n| n.moment.0 >= span.from.0).collect();
        let mut bytes = Vec::new();
        notices(checked.program().notice_values(), &kept, format, &mut bytes)?;
        return match &arguments.output {
            Some(path) => {
                Goal::named(path).write(&bytes, &Inputs::new(opened.files()))?;
                say(format!("wrote {} ({})", path.display(), count(kept.len() as u64, "notice")))?;
                Ok(Status::Fine)
            }
            None => {
                quiet_pipe(std::io::stdout().lock().write_all(&bytes))?;
                Ok(Status::Fine)
            }
        };
    }
    let bar = working("tracing");
    let mut lamps = Vec::new();
    for (id, lamp) in &asked {
        let all = 0..checked.program().light(*id).size.shown();
        for index in lamp.map_or(all, |lamp| lamp..lamp + 1) {
            lamps.push(LampTrace::rehearsed(&checked, (&start, rehearsal), *id, index, &moments));
        }
    }
    bar.finish_and_clear();
    let mut bytes = Vec::new();
    let rows = moments.len() * lamps.len();
    // Straight to the output while it is made, unless a file is to appear whole.
    match &arguments.output {
        Some(path) => {
            write(&checked, &chosen, &lamps, &moments, format, &mut bytes)?;
            Goal::named(path).write(&bytes, &Inputs::new(opened.files()))?;
            say(format!("wrote {} ({})", path.display(), count(rows as u64, "row")))?;
        }
        None => {
            let mut out = std::io::BufWriter::new(std::io::stdout().lock());
            write(&checked, &chosen, &lamps, &moments, format, &mut out)?;
            quiet_pipe(out.flush())?;
        }
    }
    Ok(Status::Fine)
}

fn format(arguments: &Arguments) -> Result<Format, Failure> {
    let ending = arguments.output.as_ref().and_then(|path| path.extension());
    let ending = ending.map(|e| e.to_string_lossy().to_ascii_lowercase());
    match (arguments.format, ending.as_deref()) {
        (Some(format), _) => Ok(format),
        (None, None | Some("csv")) => Ok(Format::Csv),
        (None, Some("jsonl" | "ndjson")) => Ok(Format::Jsonl),
        (None, Some(other)) => Err(failure(
            format!("a trace cannot be written as `.{other}`"),
            "use .csv or .jsonl, or `--format`",
        )),
    }
}

fn write(
    checked: &ValidatedProgram,
    chosen: &[LightId],
    lamps: &[LampTrace],
    moments: &[Seconds],
    format: Format,
    out: &mut impl Write,
) -> Result<(), Failure> {
    match format {
        Format::Csv => csv(checked, chosen, lamps, moments, out),
        Format::Jsonl => jsonl(checked, lamps, moments, out),
    }
}

/// A row or an object for each notice.
fn notices(
    carried: &[NoticeValue],
    all: &[Taken<'_>],
    format: Format,
    out: &mut impl Write,
) -> Result<(), Failure> {
    if format == Format::Jsonl {
        for notice in all {
            let values = notice.values.iter().map(|own| {
                let value = match own.value {
                    Constant::OnOff(on) => json!(on),
                    Constant::Scalar(v) => json!(v),
                    Constant::Vector(parts) => json!(parts),
                };
                (own.name.to_owned(), value)
            });
            let values: Map<_, _> = values.collect();
            let row = json!({
                "seconds": notice.moment.0, "notice": notice.name, "text": notice.text,
                "from": notice.from, "lamp": notice.lamp, "position": notice.position,
                "values": values,
            });
            quiet_pipe(writeln!(out, "{row}"))?;
        }
        return Ok(());
    }
    let mut table = csv::Writer::from_writer(out);
    let heading =
        ["seconds", "notice", "text", "from", "lamp", "position.x", "position.y", "position.z"];
    let mut heading: Vec<String> = heading.map(str::to_owned).to_vec();
    for value in carried {
        match parts_of(value.kind) {
            [] => heading.push(value.name.clone()),
            parts => heading.extend(parts.iter().map(|part| format!("{}.{part}", value.name))),
        }
    }
    written(table.write_record(heading))?;
    for notice in all {
        let mut row = vec![
            notice.moment.0.to_string(),
            notice.name.to_owned(),
            notice.text.unwrap_or_default().to_owned(),
            notice.from.to_owned(),
            notice.lamp.to_string(),
        ];
        match notice.position {
            Some(position) => row.extend(position.map(|v| v.to_string())),
            None => row.extend(["", "", ""].map(str::to_owned)),
        }
        for value in carried {
            let own = notice.values.iter().find(|own| own.name == value.name);
            match own.map(|own| own.value) {
                Some(Constant::OnOff(on)) => row.push(on.to_string()),
                Some(Constant::Scalar(v)) => row.push(v.to_string()),
                Some(Constant::Vector(parts)) => row.extend(parts.map(|v| v.to_string())),
                None => row.extend(vec![String::new(); value.kind.width()]),
            }
        }
        written(table.write_record(&row))?;
    }
    quiet_pipe(table.flush())
}

/// What became of a row of a table; a reader that has gone is not an error.
fn written(done: Result<(), csv::Error>) -> Result<(), Failure> {
    done.or_else(|e| match e.into_kind() {
        csv::ErrorKind::Io(e) => quiet_pipe(Err(e)),
        other => Err(Failure(format!("cannot write the table: {other:?}"), None)),
    })
}

/// One table for all lights: a column for each number that any of them has.
fn csv(
    checked: &ValidatedProgram,
    chosen: &[LightId],
    lamps: &[LampTrace],
    moments: &[Seconds],
    out: &mut impl Write,
) -> Result<(), Failure> {
    // Channels in their order, then the values of each output in the book's.
    type Column = (Option<LightId>, Field, usize, String);
    let mut columns: BTreeSet<Column> = BTreeSet::new();
    let mut of_light: BTreeMap<LightId, Vec<Column>> = BTreeMap::new();
    for id in chosen {
        let light = checked.program().light(*id);
        let is_output = light.kind == LightKind::Output;
        let mut part = 0;
        let mut before = None;
        for (field, heading) in caltrin::core::trace::headings(checked, *id) {
            part = if before == Some(field) { part + 1 } else { 0 };
            before = Some(field);
            let name = match is_output {
                true => format!("output.{}.{heading}", light.name),
                false => heading,
            };
            let column = (is_output.then_some(*id), field, part, name);
            columns.insert(column.clone());
            of_light.entry(*id).or_default().push(column);
        }
    }
    let mut table = csv::Writer::from_writer(out);
    let start = ["seconds", "light", "lamp"].map(str::to_owned);
    written(table.write_record(start.iter().chain(columns.iter().map(|(.., heading)| heading))))?;
    for (n, moment) in moments.iter().enumerate() {
        for lamp in lamps {
            let mut row = vec![
                moment.0.to_string(),
                checked.program().light(lamp.light).name.clone(),
                lamp.index.to_string(),
            ];
            let values = lamp.at(n);
            let places = of_light.get(&lamp.light).map_or(&[][..], Vec::as_slice);
            row.extend(columns.iter().map(|column| {
                let at = places.iter().position(|place| place == column);
                at.map_or(String::new(), |at| values[at].to_string())
            }));
            written(table.write_record(&row))?;
        }
    }
    quiet_pipe(table.flush())
}

fn jsonl(
    checked: &ValidatedProgram,
    lamps: &[LampTrace],
    moments: &[Seconds],
    out: &mut impl Write,
) -> Result<(), Failure> {
    for (n, moment) in moments.iter().enumerate() {
        for lamp in lamps {
            let light = checked.program().light(lamp.light);
            let mut row = Map::new();
            row.insert("seconds".to_owned(), json!(moment.0));
            row.insert("light".to_owned(), json!(light.name));
            row.insert("lamp".to_owned(), json!(lamp.index));
            let mut values = lamp.at(n).iter().map(|v| number(*v));
            for drive in &light.drives {
                let value = match drive.width() {
                    1 => values.next().unwrap_or_default(),
                    width => Value::Array(values.by_ref().take(width).collect()),
                };
                row.insert(light.field_name(drive.field).to_owned(), value);
            }
            quiet_pipe(writeln!(out, "{}", Value::Object(row)))?;
        }
    }
    Ok(())
}

/// A single in its shortest text, not as the double that it is equal to.
fn number(v: f32) -> Value {
    v.to_string().parse::<f64>().map_or(Value::Null, |v| json!(v))
}
