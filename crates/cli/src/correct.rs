//! `inky correct`: a file that cuts a printed page, moved to where the page really lies on the machine.

use std::path::PathBuf;

use clap::Args as ClapArgs;
use inky_core::correct::{CorrectError, Correction, correction};
use inky_core::print::bed::on_bed;
use inky_core::print::code::{Told, told as told_by};
use inky_core::print::marks::MarkChoice;
use inky_core::print::seen::codes;
use inky_formats::corrected::{self, CorrectedError};
use inky_formats::{picture, svg};
use kurbo::{Point, Rect};

use crate::save::{SaveFailed, Target, save};
use crate::{input, say};

#[derive(Debug, ClapArgs)]
pub(crate) struct CorrectArgs {
    /// The file that cuts, as inky sheet --print --cut wrote it: HPGL or G-code; - is standard input
    input: PathBuf,
    /// The file to write
    #[arg(short, long)]
    output: PathBuf,
    /// How far apart the page's marks are across and along, such as 174x231mm; or, where they were moved, where each was
    /// meant to lie as seen from the first, mm, y up, in their order, such as "0,0;174,12;3.5,231"
    #[arg(long, value_name = "WxH|X,Y;…", value_parser = meant)]
    marks: Meant,
    /// Where they were found, mm on the machine, y up: lower left, lower right, upper right where there are four, upper
    /// left; one below nought as --found=-1.2,3.4
    #[arg(long, required_unless_present = "photo", num_args = 1..=4, value_name = "X,Y", value_parser = place)]
    found: Vec<Point>,
    /// A photograph of the bed in which the page's marks and the four of the bed are found
    #[arg(long, requires = "bed", conflicts_with = "found")]
    photo: Option<PathBuf>,
    /// How far apart the bed's marks are across and along, such as 400x300mm
    #[arg(long, value_parser = crate::paper::sides)]
    bed: Option<[f64; 2]>,
    /// Where the bed's mark with the dot is, at the lower left, mm on the machine
    #[arg(long, value_name = "X,Y", default_value = "0,0", value_parser = place)]
    bed_at: Point,
    /// How many marks the page in the photograph has
    #[arg(long, default_value_t = 3, value_parser = clap::value_parser!(u8).range(3..=4))]
    count: u8,
    /// What the code on the page says: a photograph of a sheet with another code is refused
    #[arg(long, requires = "photo", value_name = "TEXT")]
    code: Option<String>,
    /// Replace a file that is there already
    #[arg(long)]
    force: bool,
}

/// Why nothing was corrected.
#[derive(Debug, thiserror::Error)]
pub(crate) enum CorrectFailed {
    #[error("cannot read {}: {why}", path.display())]
    Read { path: PathBuf, why: std::io::Error },
    #[error(transparent)]
    Marks(#[from] CorrectError),
    #[error("{}: {why}", path.display())]
    Photo { path: PathBuf, why: String },
    #[error("{}: {why}", path.display())]
    File { path: PathBuf, why: CorrectedError },
    #[error("{} is neither HPGL nor G-code; files for machines are what lies on them", .0.display())]
    Unknown(PathBuf),
    #[error("--marks says where {0} were meant to lie, and {1} were found")]
    Meant(usize, usize),
    #[error(transparent)]
    Save(#[from] SaveFailed),
}

pub(crate) fn run(args: &CorrectArgs) -> Result<(), CorrectFailed> {
    let target = Target::new([&args.input], args.force);
    target.check(&args.output)?;
    let found = found(args)?;
    let meant = args.marks.of(found.len())?;
    let correction = correction(&meant, &found)?;
    let bytes = input::read(&args.input).map_err(|why| CorrectFailed::Read {
        path: args.input.clone(),
        why,
    })?;
    let text = String::from_utf8_lossy(&bytes);
    let language = inky_devices::sender::Language::of(&text);
    let moved = match language {
        Some(inky_devices::sender::Language::Hpgl) => corrected::hpgl(&text, &correction.map),
        Some(inky_devices::sender::Language::Gcode) => corrected::gcode(&text, &correction.map),
        None => return Err(CorrectFailed::Unknown(args.input.clone())),
    };
    let moved = moved.map_err(|why| CorrectFailed::File {
        path: args.input.clone(),
        why,
    })?;
    save(&args.output, moved.as_bytes())?;
    say::done(told(&correction));
    Ok(())
}

/// What is said of where marks were meant to lie.
#[derive(Clone, Debug, PartialEq)]
enum Meant {
    /// In the corners of a rectangle.
    Corners([f64; 2]),
    /// Each by itself.
    At(Vec<Point>),
}

fn meant(text: &str) -> Result<Meant, String> {
    if text.contains(',') {
        let places: Result<Vec<Point>, String> = text.split(';').map(place).collect();
        return places.map(Meant::At);
    }
    crate::paper::sides(text).map(Meant::Corners)
}

impl Meant {
    /// Where so many marks were meant to lie.
    fn of(&self, count: usize) -> Result<Vec<Point>, CorrectFailed> {
        match self {
            Self::Corners([w, h]) => {
                let corners = [(0.0, 0.0), (*w, 0.0), (*w, *h), (0.0, *h)].map(Point::from);
                Ok(match count {
                    3 => vec![corners[0], corners[1], corners[3]],
                    _ => corners.to_vec(),
                })
            }
            Self::At(places) if places.len() == count => Ok(places.clone()),
            Self::At(places) => Err(CorrectFailed::Meant(places.len(), count)),
        }
    }
}

/// Where the marks are: as it was said, or as a photograph shows.
fn found(args: &CorrectArgs) -> Result<Vec<Point>, CorrectFailed> {
    let (Some(photo), Some([w, h])) = (&args.photo, args.bed) else {
        return Ok(args.found.clone());
    };
    let bytes = input::read(photo).map_err(|why| CorrectFailed::Read {
        path: photo.clone(),
        why,
    })?;
    let wrong = |why: &dyn std::fmt::Display| CorrectFailed::Photo {
        path: photo.clone(),
        why: why.to_string(),
    };
    let picture = picture::read(&bytes).map_err(|e| wrong(&e))?.picture;
    let codes = codes(&picture);
    if let Some(meant) = &args.code {
        match told_by(meant, &codes) {
            Told::Nothing => say::note("no code could be read in the photograph"),
            Told::Agrees => {}
            Told::Other(other) => {
                let why = format_args!("it shows a sheet with the code {other}, not {meant}");
                return Err(wrong(&why));
            }
        }
    }
    for code in &codes {
        say::done(format_args!("the code says {code}"));
    }
    let bed = Rect::from_origin_size(args.bed_at, (w, h));
    let marks = MarkChoice::default();
    let told = on_bed(&picture, &marks, usize::from(args.count), bed).map_err(|e| wrong(&e))?;
    let places = told.found.iter().map(|p| format!("{:.2},{:.2}", p.x, p.y));
    let places: Vec<String> = places.collect();
    say::done(format!(
        "found at {}, each within {:.2} mm",
        places.join(" "),
        told.off
    ));
    Ok(told.found)
}

/// Where the four marks of a bed are written, to be printed in their true size, cut out and stuck on.
#[derive(Debug, ClapArgs)]
pub(crate) struct BedMarksArgs {
    /// The SVG to write
    #[arg(short, long)]
    output: PathBuf,
    /// Replace a file that is there already
    #[arg(long)]
    force: bool,
}

pub(crate) fn bed_marks(args: &BedMarksArgs) -> Result<(), CorrectFailed> {
    Target::new([], args.force).check(&args.output)?;
    save(&args.output, svg::bed_marks().as_bytes())?;
    Ok(())
}

/// What became of the page, in words.
fn told(c: &Correction) -> String {
    let percent = c.stretch.map(|s| format!("{:+.2}", (s - 1.0) * 100.0));
    let [least, most] = percent;
    format!(
        "corrected: turned by {:.2}°, stretched by {least} to {most} %, the marks agree within {:.2} mm",
        c.turned, c.residual
    )
}

fn place(text: &str) -> Result<Point, String> {
    let wrong = || "write a place as x,y in mm, such as 12.1,8.4".to_owned();
    let (x, y) = text.split_once(',').ok_or_else(wrong)?;
    let figure = |t: &str| {
        t.trim()
            .trim_end_matches("mm")
            .parse::<f64>()
            .ok()
            .filter(|v| v.is_finite())
    };
    Ok(Point::new(
        figure(x).ok_or_else(wrong)?,
        figure(y).ok_or_else(wrong)?,
    ))
}
