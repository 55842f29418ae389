//! `caltrin sheet`

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::mpsc;
use std::time::{Duration, Instant};

use caltrin::core::quantity::{Seconds, Seed};
use caltrin::draw::{SheetOptions, png, sheet, svg};
use notify::{RecursiveMode, Watcher};

use super::{
    Done, Failure, Status, beside, failure, lights, open_and_tell, parse_seed, parse_time,
};
use super::{say, write_whole};

/// Draw a lightbook's timeline as SVG or PNG.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin sheet pier.caltrin                       writes pier.svg beside the book
  caltrin sheet pier.caltrin -o pier.png --to 60s
  caltrin sheet pier.caltrin --light mast --light quay --seed 7
  caltrin sheet pier.caltrin --watch               draws again at every save")]
pub struct Arguments {
    /// The lightbook.
    book: PathBuf,
    /// The picture to write, .svg or .png; by default the book's name with .svg.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// Only this light; may be given more than once.
    #[arg(short, long, value_name = "NAME")]
    light: Vec<String>,
    /// First moment.
    #[arg(long, value_name = "TIME", default_value = "0s", value_parser = parse_time, allow_hyphen_values = true)]
    from: Seconds,
    /// Last moment; by default two turns of the longest curve.
    #[arg(long, value_name = "TIME", value_parser = parse_time, allow_hyphen_values = true)]
    to: Option<Seconds>,
    /// The run's seed; by default the book's own.
    #[arg(long, value_parser = parse_seed)]
    seed: Option<Seed>,
    /// Width of the picture in pixels, 480 to 8192.
    #[arg(long, value_name = "PIXELS", default_value_t = 1280, value_parser = clap::value_parser!(u32).range(480..=8192))]
    width: u32,
    /// Height of a lane in pixels, 14 to 400; by default lanes are fitted to a screen.
    #[arg(long, value_name = "PIXELS", value_parser = clap::value_parser!(u32).range(14..=400))]
    lane: Option<u32>,
    /// Draw again at every save, until stopped with Ctrl-C.
    #[arg(long)]
    watch: bool,
}

#[derive(Clone, Copy)]
enum Format {
    Svg,
    Png,
}

pub fn run(arguments: &Arguments) -> Done {
    let output = arguments.output.clone().unwrap_or_else(|| beside(&arguments.book, "svg"));
    let ending = output.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
    let format = match ending.as_deref() {
        Some("svg") => Format::Svg,
        Some("png") => Format::Png,
        _ => {
            return Err(failure(
                format!("`{}` is no picture's name", output.display()),
                "a sheet is written as .svg or .png",
            ));
        }
    };
    if arguments.to.is_some_and(|to| to.0 <= arguments.from.0) {
        return Err(failure("`--to` must lie after `--from`", "for example: --from 0s --to 20s"));
    }
    if arguments.watch {
        return watch(arguments, &output, format);
    }
    draw(arguments, &output, format)
}

fn draw(arguments: &Arguments, output: &Path, format: Format) -> Done {
    let (opened, Some(checked)) = open_and_tell(&arguments.book)? else {
        return Ok(Status::Problems);
    };
    let chosen = match &arguments.light[..] {
        [] => None,
        names => Some(lights(&checked, names)?),
    };
    let options = SheetOptions {
        from: arguments.from,
        to: arguments.to,
        seed: arguments.seed,
        width: arguments.width,
        lane: arguments.lane,
        lights: chosen,
    };
    let picture = sheet(&checked, &opened.findings, &options);
    let bytes = match format {
        Format::Svg => svg(&picture).into_bytes(),
        Format::Png => png(&picture)?,
    };
    write_whole(output, &bytes)?;
    say(format!("wrote {} ({} x {})", output.display(), picture.width, picture.height))?;
    Ok(Status::Fine)
}

/// How long the events of one save are gathered, at most.
const SAVE: Duration = Duration::from_millis(80);

/// Draws at once and then at every save of the book or of a book that it uses. The folder is watched
/// rather than the files, since editors save by writing another file and renaming it.
fn watch(arguments: &Arguments, output: &Path, format: Format) -> Done {
    let book = arguments
        .book
        .canonicalize()
        .map_err(|e| Failure(format!("cannot read `{}`: {e}", arguments.book.display()), None))?;
    let folder = book.parent().unwrap_or(Path::new("/")).to_owned();
    let (tell, told) = mpsc::channel();
    let mut watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
        // Reading changes nothing; a viewer that looks at the picture again and again must not keep
        // us from drawing.
        if !event.is_ok_and(|event| event.kind.is_access()) {
            // The other end is gone only when the command ends.
            let _ = tell.send(());
        }
    })?;
    let mut watched = BTreeSet::from([folder.clone()]);
    watcher.watch(&folder, RecursiveMode::NonRecursive)?;
    let mut used = vec![book.clone()];
    let mut drawn = Vec::new();
    loop {
        // Only what the books say counts: our own picture lies in the same folder.
        let seen = texts(&used);
        if seen[0].is_some() && seen != drawn {
            used = books(&book, &folder);
            for around in used.iter().filter_map(|path| path.parent()) {
                // A folder that is not there yet is awaited by its book's own.
                if !watched.contains(around)
                    && watcher.watch(around, RecursiveMode::NonRecursive).is_ok()
                {
                    watched.insert(around.to_owned());
                }
            }
            // Read before they are drawn, so that what changes while drawing is drawn next.
            drawn = texts(&used);
            if drawn[0] != seen[0] {
                drawn.clear();
                continue;
            }
            if let Err(failure) = draw(arguments, output, format) {
                crate::report::failure(&failure);
            }
            say(format!("watching {} (Ctrl-C ends)", arguments.book.display()))?;
        }
        if told.recv().is_err() {
            return Ok(Status::Fine);
        }
        // A save is several events; they are awaited for a moment and taken together.
        let end = Instant::now() + SAVE;
        while let Some(left) = end.checked_duration_since(Instant::now()) {
            if told.recv_timeout(left).is_err() {
                break;
            }
        }
    }
}

/// What the files say, nothing where one cannot be read.
fn texts(files: &[PathBuf]) -> Vec<Option<Vec<u8>>> {
    files.iter().map(|path| std::fs::read(path).ok()).collect()
}

/// The files of the book and of all that it uses.
fn books(book: &Path, folder: &Path) -> Vec<PathBuf> {
    let mut all = vec![book.to_owned()];
    if let Ok(opened) = caltrin::open(book) {
        let used = opened.sources.iter().skip(1).filter(|s| s.name != caltrin::STOCK_NAME);
        all.extend(used.map(|source| folder.join(&source.name)));
    }
    all
}
