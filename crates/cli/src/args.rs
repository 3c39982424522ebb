//! The words of the command line.

use std::net::SocketAddr;
use std::path::PathBuf;

use clap::{Args as ClapArgs, Parser, Subcommand, ValueEnum};
use inky_core::expression::parse_length;
use inky_core::inks::{Background, InkMode, Rgb};
use inky_core::layers::Meet;
use inky_core::shapes::Edges;
use inky_core::sheet::choice::Copies;
use inky_core::units::{Degrees, Length, SquareMm, Unit, parse_angle, parse_area};
use inky_formats::vector::FileUnit;

use crate::batch::OutArgs;
use crate::files::FileArgs;
use crate::machine::MachineArgs;
use crate::made::MadeArgs;
use crate::send::SendArgs;
use crate::squared::{Corners, TrueSize};

/// Bitmap artwork to closed cut paths, measured in millimetres.
#[derive(Debug, Parser)]
#[command(name = "inky", version)]
pub(crate) struct Args {
    /// Say nothing but errors
    #[arg(short, long, global = true, conflicts_with = "verbose")]
    pub(crate) quiet: bool,
    /// Say how long the stages took
    #[arg(short, long, global = true)]
    pub(crate) verbose: bool,
    #[command(subcommand)]
    pub(crate) command: Command,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Serve the web application
    Serve(ServeArgs),
    /// Serve the web application with the demo jobs
    Demo(ServeArgs),
    /// Copy all jobs with their originals into one file, also while the server runs
    Backup(BackupArgs),
    /// Bring a backup back into an empty folder
    Restore(RestoreArgs),
    /// Trace a picture into cut paths
    Trace(Box<TraceArgs>),
    /// Tell what a picture is worth as a source
    Inspect(InspectArgs),
    /// Tell whether a vector file can be cut of a material
    Check(CheckArgs),
    /// Write a vector file in another format
    Convert(Box<ConvertArgs>),
    /// Lay files out on stock
    Sheet(Box<SheetArgs>),
    /// Move a file that cuts a printed page to where its marks were found on the machine
    Correct(crate::correct::CorrectArgs),
    /// Write the four marks that stick on a bed, for photographs of pages that lie on it
    BedMarks(crate::correct::BedMarksArgs),
    /// Set stones along the lines of a file or in its shapes, as the holes of a template
    Stones(Box<crate::stones::StonesArgs>),
    /// Make a piece of stock of a photograph that shows it beside a sheet of paper
    Stock(crate::stock::StockArgs),
    /// Tell in which order a file is cut, how long that is and how long it takes
    Plan(PlanArgs),
    /// Send a file to a machine, and tell what of it is really done; Ctrl-C stops the machine
    Send(SendArgs),
    /// Run a simulated machine that is spoken to as a real one is
    Machine(MachineArgs),
    /// Print completions for a shell
    Completions {
        /// Which shell
        shell: clap_complete::Shell,
    },
    /// Print the manual page
    Man,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct ServeArgs {
    /// Address to listen on; port 0 takes a free one
    #[arg(long, default_value = "127.0.0.1:8137")]
    pub(crate) addr: SocketAddr,
    /// Folder that holds the jobs
    #[arg(long, default_value = "data")]
    pub(crate) data: PathBuf,
    /// A name this machine is called by from elsewhere, such as shop.local; may be given several times
    #[arg(long = "host")]
    pub(crate) hosts: Vec<String>,
    /// A file with the password to ask for, or its Argon2 hash; needed where other machines can come in
    #[arg(long)]
    pub(crate) password_file: Option<PathBuf>,
    /// A certificate and its private key, two PEM files: then the address is https
    #[arg(long, num_args = 2, value_names = ["CERT", "KEY"])]
    pub(crate) tls: Option<Vec<PathBuf>>,
    /// Another server takes requests in and hands them on: believe what it says of where they come from
    /// (X-Forwarded-For, X-Forwarded-Host, X-Forwarded-Proto). Asks for --password-file
    #[arg(long)]
    pub(crate) behind_proxy: bool,
    /// Write logs as JSON lines
    #[arg(long)]
    pub(crate) log_json: bool,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct BackupArgs {
    /// The file to write, such as inky.zip
    #[arg(short, long)]
    pub(crate) output: PathBuf,
    /// Folder that holds the jobs
    #[arg(long, default_value = "data")]
    pub(crate) data: PathBuf,
    /// Replace the file of that name where it is there already
    #[arg(long)]
    pub(crate) force: bool,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct RestoreArgs {
    /// A file that `backup` wrote
    pub(crate) input: PathBuf,
    /// Folder that will hold the jobs; it must hold none yet
    #[arg(long)]
    pub(crate) data: PathBuf,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct InspectArgs {
    /// The picture: PNG, JPEG, TIFF, BMP, GIF or WebP
    pub(crate) input: PathBuf,
    /// Finished width of the whole picture; without: what the file states, else 96 to the inch
    #[arg(long, value_parser = length)]
    pub(crate) width: Option<Length>,
    /// Write figures as JSON
    #[arg(long)]
    pub(crate) json: bool,
}

/// How a vector file is read.
#[derive(Debug, ClapArgs)]
pub(crate) struct ReadArgs {
    /// What the figures of the file are, whatever it says: mm, cm, m, in, ft, pt or px
    #[arg(long)]
    pub(crate) unit: Option<FileUnit>,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct CheckArgs {
    /// The files: SVG, DXF, HPGL or G-code; - is standard input
    #[arg(required = true)]
    pub(crate) inputs: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    /// What it is cut of, by name; without: the first of the list
    #[arg(long)]
    pub(crate) material: Option<String>,
    /// A list of materials saved from the Materials page; without: those that ship
    #[arg(long)]
    pub(crate) materials: Option<PathBuf>,
    /// Write findings as JSON; of several files a list
    #[arg(long)]
    pub(crate) json: bool,
    /// Mend what can be mended and write the result as SVG
    #[arg(long)]
    pub(crate) fix: Option<PathBuf>,
    /// Replace the file of that name where it is there already
    #[arg(long)]
    pub(crate) force: bool,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct ConvertArgs {
    /// The files: SVG, DXF, HPGL or G-code; - is standard input
    #[arg(required = true)]
    pub(crate) inputs: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) out: OutArgs,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    /// Width of the whole page, such as 120mm or 4.5in; without: as it is
    #[arg(long, value_parser = length)]
    pub(crate) width: Option<Length>,
    /// What it is cut of, by name; without: the first of the list
    #[arg(long)]
    pub(crate) material: Option<String>,
    /// A list of materials saved from the Materials page; without: those that ship
    #[arg(long)]
    pub(crate) materials: Option<PathBuf>,
    /// Move lines by half the material's kerf, so that parts have the size of the file
    #[arg(long)]
    pub(crate) kerf: bool,
    #[command(flatten)]
    pub(crate) file: FileArgs,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TurnsArg {
    None,
    Half,
    Quarter,
    /// Steps of 15 degrees
    Fine,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct SheetArgs {
    /// The files: SVG, DXF, HPGL or G-code; with --print pictures
    #[arg(required = true)]
    pub(crate) inputs: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    /// The file to write: .svg, .dxf, .plt, .gcode, .pdf or .png
    #[arg(short, long)]
    pub(crate) output: PathBuf,
    #[command(flatten)]
    pub(crate) print: crate::print::PrintArgs,
    /// A roll's width, a sheet's sides, or a file with the outline of a piece, such as 610mm, 300x200mm or offcut.svg;
    /// without: the material's first
    #[arg(long, value_parser = crate::sheet::stock)]
    pub(crate) stock: Option<crate::stock::StockArg>,
    /// How far parts stay away from its edges and holes; 5mm for a piece that is no rectangle, else nought
    #[arg(long, value_parser = length, requires = "stock")]
    pub(crate) margin: Option<Length>,
    /// Write what is left of a plate when the parts are out, as the next piece of stock
    #[arg(long, value_name = "FILE")]
    pub(crate) rest: Option<PathBuf>,
    /// How many of each file: a number, width (as many as lie side by side) or sheet
    #[arg(long, value_parser = crate::sheet::copies)]
    pub(crate) copies: Option<Copies>,
    /// Between any two, such as 3mm
    #[arg(long, value_parser = length)]
    pub(crate) gap: Option<Length>,
    /// Lay true shapes close together instead of in rows
    #[arg(long)]
    pub(crate) nest: bool,
    /// With --nest: for so many seconds; without, always the same number of tries
    #[arg(long, requires = "nest")]
    pub(crate) seconds: Option<f64>,
    /// With --nest: which turns are tried
    #[arg(long, value_enum, requires = "nest")]
    pub(crate) turns: Option<TurnsArg>,
    /// Keep the material's direction
    #[arg(long)]
    pub(crate) grain: bool,
    /// The parts of a file may lie apart
    #[arg(long)]
    pub(crate) single: bool,
    /// A weed box around each, at this distance
    #[arg(long, value_parser = length, num_args = 0..=1, default_missing_value = "5mm")]
    pub(crate) weed_box: Option<Length>,
    /// Relief lines through waste wider than this
    #[arg(long, value_parser = length, num_args = 0..=1, default_missing_value = "50mm", requires = "weed_box")]
    pub(crate) relief: Option<Length>,
    /// Cut what is wider than the stock in panels that lap by this
    #[arg(long, value_parser = length, num_args = 0..=1, default_missing_value = "10mm")]
    pub(crate) panels: Option<Length>,
    /// Add a trial cut
    #[arg(long)]
    pub(crate) trial: bool,
    /// What it is cut of, by name; without: the first of the list
    #[arg(long)]
    pub(crate) material: Option<String>,
    /// A list of materials saved from the Materials page; without: those that ship
    #[arg(long)]
    pub(crate) materials: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) file: FileArgs,
}

#[derive(Debug, ClapArgs)]
pub(crate) struct PlanArgs {
    /// The file: HPGL and G-code in their own order, SVG and DXF in ours
    pub(crate) input: PathBuf,
    #[command(flatten)]
    pub(crate) read: ReadArgs,
    /// What it is cut of, by name; without: the first of the list
    #[arg(long)]
    pub(crate) material: Option<String>,
    /// A list of materials saved from the Materials page; without: those that ship
    #[arg(long)]
    pub(crate) materials: Option<PathBuf>,
    /// Write figures as JSON
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum BuildArg {
    /// Layers lie edge to edge
    Flush,
    /// Lower layers reach under upper ones by a margin
    Overlap,
    /// Lower layers go on under what lies in them, and reach under the rest
    Stacked,
}

impl From<BuildArg> for Meet {
    fn from(arg: BuildArg) -> Self {
        match arg {
            BuildArg::Flush => Self::Flush,
            BuildArg::Overlap => Self::Overlap,
            BuildArg::Stacked => Self::Stacked,
        }
    }
}

#[derive(Debug, ClapArgs)]
pub(crate) struct TraceArgs {
    /// The pictures: PNG, JPEG, TIFF, BMP, GIF or WebP; - is standard input
    #[arg(required = true)]
    pub(crate) inputs: Vec<PathBuf>,
    #[command(flatten)]
    pub(crate) out: OutArgs,
    /// Finished width of the whole picture, such as 120mm, 4.5in, 1/4in
    #[arg(long, value_parser = length, group = "size")]
    pub(crate) width: Option<Length>,
    /// Finished height of the whole picture
    #[arg(long, value_parser = length, group = "size")]
    pub(crate) height: Option<Length>,
    /// Pixels per inch; without a size: what the file states, else 96
    #[arg(long, group = "size")]
    pub(crate) dpi: Option<f64>,
    /// mono, auto, silhouette (all that is not clear) or a number that counts the background too
    ///
    /// Without it: what the recipe says, else auto.
    #[arg(long, value_parser = inks)]
    pub(crate) inks: Option<Inks>,
    /// With mono: auto, local (for scans with stains), or N% of full white; darker than it is ink
    #[arg(long, value_parser = threshold)]
    pub(crate) threshold: Option<Threshold>,
    /// With mono: the lighter part is the ink
    #[arg(long)]
    pub(crate) invert: bool,
    #[command(flatten)]
    pub(crate) made: MadeArgs,
    /// The ink to drop: auto, none or #rrggbb
    #[arg(long, value_parser = background)]
    pub(crate) background: Option<Background>,
    /// Which edges become outlines
    #[arg(long, value_enum)]
    pub(crate) edges: Option<EdgesArg>,
    /// Greatest distance from the artwork's edge, such as 0.05mm or 0.3px
    #[arg(long, value_parser = length)]
    pub(crate) tolerance: Option<Length>,
    /// Turn from which a bend is a corner, such as 30deg
    #[arg(long, value_parser = angle)]
    pub(crate) corner: Option<Degrees>,
    /// Wobble shorter than this is smoothed, such as 0.3mm or 6px; 0mm for none
    #[arg(long, value_parser = length)]
    pub(crate) smooth: Option<Length>,
    /// Smallest part to keep, such as 1mm2
    #[arg(long, value_parser = area)]
    pub(crate) min_part: Option<SquareMm>,
    /// How layers of different inks meet
    #[arg(long, value_enum)]
    pub(crate) build: Option<BuildArg>,
    /// How far a lower layer reaches under an upper one, such as 0.4mm
    #[arg(long, value_parser = length)]
    pub(crate) overlap: Option<Length>,
    /// What it is cut of, by name; without: what the recipe says, else the first of the list
    #[arg(long)]
    pub(crate) material: Option<String>,
    /// A list of materials saved from the Materials page; without: those that ship
    #[arg(long)]
    pub(crate) materials: Option<PathBuf>,
    /// Square up what was photographed askew: auto, or x,y of its four corners, px, with commas between
    #[arg(long, value_name = "auto|CORNERS")]
    pub(crate) square_up: Option<Corners>,
    /// What it truly measures, such as A4, Letter, card or 300x200mm; it sets the finished size
    #[arg(long, requires = "square_up", value_name = "SIZE")]
    pub(crate) true_size: Option<TrueSize>,
    /// Every choice of a job as JSON, clean-up steps too; other arguments come on top of it
    #[arg(long)]
    pub(crate) recipe: Option<PathBuf>,
    /// Write figures as JSON
    #[arg(long)]
    pub(crate) report: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) file: FileArgs,
}

#[derive(Clone, Copy, Debug)]
pub(crate) enum Inks {
    Mono,
    Colour(InkMode),
}

#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Threshold {
    Auto,
    Local,
    Percent(f64),
}

#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum EdgesArg {
    /// Every edge of every kept ink
    All,
    /// Only the outermost edge around all kept inks
    Outer,
    /// Every shape without its holes
    Solid,
    /// The middle of drawn lines, as single strokes
    #[value(name = "centreline", alias = "centerline")]
    CentreLine,
}

impl From<EdgesArg> for Edges {
    fn from(edges: EdgesArg) -> Self {
        match edges {
            EdgesArg::All => Self::All,
            EdgesArg::Outer => Self::Outer,
            EdgesArg::Solid => Self::Solid,
            EdgesArg::CentreLine => Self::CentreLine,
        }
    }
}

pub(crate) fn length(text: &str) -> Result<Length, String> {
    parse_length(text, Unit::Mm).map_err(|e| e.to_string())
}

fn area(text: &str) -> Result<SquareMm, String> {
    parse_area(text, Unit::Mm).map_err(|e| e.to_string())
}

pub(crate) fn angle(text: &str) -> Result<Degrees, String> {
    parse_angle(text).map_err(|e| e.to_string())
}

fn inks(text: &str) -> Result<Inks, String> {
    match text {
        "mono" => Ok(Inks::Mono),
        "auto" => Ok(Inks::Colour(InkMode::Auto)),
        "silhouette" => Ok(Inks::Colour(InkMode::Silhouette)),
        _ => match text.parse() {
            Ok(count) => Ok(Inks::Colour(InkMode::Count { count })),
            Err(_) => Err("use mono, auto, silhouette or a number of inks".to_owned()),
        },
    }
}

fn threshold(text: &str) -> Result<Threshold, String> {
    match text {
        "auto" => return Ok(Threshold::Auto),
        "local" => return Ok(Threshold::Local),
        _ => {}
    }
    let number = text.strip_suffix('%').unwrap_or(text);
    match number.trim().parse::<f64>() {
        Ok(percent) => Ok(Threshold::Percent(percent)),
        Err(_) => Err("use auto, local or a part of full white, such as 45%".to_owned()),
    }
}

fn background(text: &str) -> Result<Background, String> {
    match text {
        "auto" => Ok(Background::Auto),
        "none" => Ok(Background::None),
        _ => match text.parse::<Rgb>() {
            Ok(colour) => Ok(Background::Colour { colour }),
            Err(e) => Err(format!("use auto, none or a colour: {e}")),
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use clap::CommandFactory;

    #[test]
    fn the_arguments_are_consistent() {
        Args::command().debug_assert();
    }

    #[test]
    fn thresholds_are_parts_of_full_white() {
        assert!(matches!(threshold("45%"), Ok(Threshold::Percent(p)) if (p - 45.0).abs() < 1e-9));
        assert_eq!(threshold("auto"), Ok(Threshold::Auto));
        assert_eq!(threshold("local"), Ok(Threshold::Local));
        assert!(threshold("dark").is_err());
    }
}
