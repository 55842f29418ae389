//! `caltrin stock`

use std::path::PathBuf;

use caltrin::core::Run;
use caltrin::core::color::Rgb;
use caltrin::core::program::Field;
use caltrin::core::quantity::Seconds;
use caltrin::draw::{SheetOptions, png, sheet, svg};
use caltrin::files::Inputs;
use serde_json::json;

use super::{Done, Goal, Status, failure, say};

/// List the ready-made behaviors of `use "stock"`, with eight seconds of each.
#[derive(clap::Args)]
#[command(after_help = "Examples:
  caltrin stock
  caltrin stock -o stock.png          a picture of all of them
  caltrin stock --text > stock.caltrin the stock itself, to read and to copy from")]
pub struct Arguments {
    /// Write a picture instead, .svg or .png.
    #[arg(short, long, value_name = "FILE")]
    output: Option<PathBuf>,
    /// Print the text of the stock.
    #[arg(long, conflicts_with = "output")]
    text: bool,
    /// Print the list as JSON.
    #[arg(long, conflicts_with_all = ["output", "text"])]
    json: bool,
}

/// How many characters a strip of time has.
const STRIP: usize = 48;
/// How much time it shows.
const SPAN: f64 = 8.0;

pub fn run(arguments: &Arguments) -> Done {
    if arguments.text {
        say(caltrin::STOCK.trim_end())?;
        return Ok(Status::Fine);
    }
    let all = caltrin::stock();
    if arguments.json {
        let list: Vec<_> = all
            .iter()
            .map(|s| json!({ "name": s.name, "parameters": s.parameters, "about": s.about, "knobs": s.knobs }))
            .collect();
        say(serde_json::to_string_pretty(&list)?)?;
        return Ok(Status::Fine);
    }
    let opened = caltrin::read(&caltrin::showcase(), "stock.caltrin");
    let checked = opened.checked.ok_or_else(|| failure("the stock is broken", "report this"))?;
    if let Some(output) = &arguments.output {
        let options = SheetOptions { to: Some(Seconds(20.0)), ..SheetOptions::default() };
        let picture = sheet(&checked, &[], &options);
        let ending = output.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
        let bytes = match ending.as_deref() {
            Some("svg") => svg(&picture).into_bytes(),
            Some("png") => png(&picture)?,
            _ => {
                return Err(failure(
                    format!("`{}` is not a picture file", output.display()),
                    "the stock is written as .svg or .png",
                ));
            }
        };
        Goal::named(output).write(&bytes, &Inputs::default())?;
        say(format!("wrote {} ({} x {})", output.display(), picture.width, picture.height))?;
        return Ok(Status::Fine);
    }
    for (n, stocked) in all.iter().enumerate() {
        if n > 0 {
            say("")?;
        }
        say(format!("{}({})", stocked.name, stocked.parameters))?;
        let light = checked.program().light_named(&stocked.name);
        if let Some(light) = light {
            say(format!("  {}", strip(&checked, light)))?;
        }
        say(format!("  {}", stocked.about))?;
        say(format!("  {}", stocked.knobs))?;
    }
    say("\nImport them with `use \"stock\"`; your own names shadow imported ones.")?;
    Ok(Status::Fine)
}

/// Eight seconds of a light: blocks as high as its intensity, in its color if the terminal has colors.
fn strip(
    checked: &caltrin::core::ValidatedProgram,
    light: caltrin::core::program::LightId,
) -> String {
    const BLOCKS: [char; 9] = [' ', '▁', '▂', '▃', '▄', '▅', '▆', '▇', '█'];
    let described = checked.program().light(light);
    let at = |field: Field| described.places(field).map_or(0, |places| places.start);
    let (strength, color) = (at(Field::Intensity), at(Field::Color));
    let mut run = Run::new(checked);
    let mut lamp = vec![0.0; run.width(light)];
    let mut text = String::new();
    for n in 0..STRIP {
        run.advance(Seconds(SPAN * n as f64 / STRIP as f64));
        run.read(light, 0, &mut lamp);
        let level = (lamp[strength] * 8.0).round().clamp(0.0, 8.0) as usize;
        let tint = Rgb([0, 1, 2].map(|part| f64::from(lamp[color + part])));
        let [r, g, b] = tint.to_srgb8();
        text += &format!("\u{1b}[38;2;{r};{g};{b}m{}", BLOCKS[level]);
    }
    text + "\u{1b}[0m"
}
