//! `inky sheet --print`: pictures on a page with marks, and the file that cuts them out.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use clap::Args as ClapArgs;
use inky_core::assembly::build;
use inky_core::inks::Rgb;
use inky_core::material::Material;
use inky_core::picture::Picture;
use inky_core::plan::page::Page;
use inky_core::print::code::{CodeError, sayable};
use inky_core::print::look::Look;
use inky_core::print::{A4, BLEED, MarkChoice, MarkCount, PrintChoice, PrintPage, Printed, ROLL};
use inky_core::recipe::Recipe;
use inky_core::sheet::{Load, lay};
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::{DEFAULT_PPI, MM_PER_INCH};
use inky_formats::pdf;
use inky_formats::picture::{self, PlainJpeg};
use inky_formats::png::{self, PngError};

use crate::args::SheetArgs;
use crate::batch::title;
use crate::check::some;
use crate::coloured::{CutShapeAsked, FillAsked, fill};
use crate::paper::{count, margins, mm, paper};
use crate::save::{Target, save};
use crate::sheet::{self, SheetFailed};
use crate::{piece, say};

/// What is said of a printed page.
#[derive(Debug, ClapArgs)]
#[command(next_help_heading = "A page to be printed and cut")]
pub(crate) struct PrintArgs {
    /// The files are pictures: write a page to print (.pdf or .png), to be cut out of it
    #[arg(long, conflicts_with_all = ["stock", "margin", "rest", "panels", "trial", "weed_box", "relief", "single"])]
    pub(crate) print: bool,
    /// A4, A3, letter, tabloid, or its sides, such as 320x450mm; the longer side upright as it is typed
    #[arg(long, value_parser = paper, requires = "print")]
    page: Option<[f64; 2]>,
    /// A roll so wide, as long as what is printed on it
    #[arg(long, value_name = "WIDTH", value_parser = mm, requires = "print", conflicts_with = "page")]
    roll: Option<f64>,
    /// What the printer leaves white: one length, or left, top, right and bottom; 15,15,15,45 without
    #[arg(long, value_parser = margins, requires = "print")]
    printer_margins: Option<[f64; 4]>,
    /// How many registration marks: 3 or 4
    #[arg(long, value_parser = count, requires = "print")]
    marks: Option<MarkCount>,
    /// Across a mark; 6mm without
    #[arg(long, value_parser = mm, requires = "print")]
    mark_size: Option<f64>,
    /// What stays clear around a mark; 6mm without
    #[arg(long, value_parser = mm, requires = "print")]
    clear: Option<f64>,
    /// Pull the marks up to what is printed, to save media
    #[arg(long, requires = "print")]
    pull_marks: bool,
    /// A code beside the upper left mark that says this, such as the number of an order: 20 capitals, digits, spaces and
    /// $%*+-./: at most
    #[arg(long, value_name = "TEXT", value_parser = sayable, requires = "print")]
    code: Option<String>,
    /// How far past the cut it is printed; 2mm without
    #[arg(long, value_parser = mm, requires = "print")]
    bleed: Option<f64>,
    /// How far outside the picture it is cut
    #[arg(long, value_parser = mm, requires = "print")]
    border: Option<f64>,
    /// The colour of border and bleed, such as #ffffff; without, the picture's own colours go on
    #[arg(long, value_name = "#RRGGBB", requires = "print")]
    border_colour: Option<Rgb>,
    /// What the cut line follows: the picture's own edge, a box, a box with round corners, or an ellipse
    #[arg(long, value_enum, default_value_t = CutShapeAsked::Artwork, requires = "print")]
    along: CutShapeAsked,
    /// White under all that is printed, as a layer of its own in the PDF, so far within it
    #[arg(long, value_name = "MM", value_parser = mm, num_args = 0..=1, default_missing_value = "0.2mm", requires = "print")]
    white: Option<f64>,
    /// Colour something in: what, such as an ink #000000 or the piece at 12,30 (mm from the picture's upper left), then =
    /// and with what, #rrggbb or a pattern: dots, stripes or checks:#rrggbb:#ground:SIZE:DEGREES, or
    /// picture:FILE:#ground:SIZE:DEGREES
    #[arg(long, value_name = "WHAT=PAINT", value_parser = fill, requires = "print")]
    fill: Vec<FillAsked>,
    /// Width of every picture; without, as large as its dpi says
    #[arg(long, value_parser = mm, requires = "print")]
    width: Option<f64>,
    /// The file that cuts, measured from the first mark: .svg, .dxf, .plt, .gcode or .pdf
    #[arg(long, value_name = "FILE", requires = "print")]
    cut: Option<PathBuf>,
}

/// Why no page was written.
#[derive(Debug, thiserror::Error)]
pub(crate) enum PrintFailed {
    #[error("cannot read {}: {why}", path.display())]
    Open { path: PathBuf, why: std::io::Error },
    #[error("{}: {why}", path.display())]
    Picture {
        path: PathBuf,
        why: picture::ReadError,
    },
    #[error("{}: {why}", path.display())]
    Trace {
        path: PathBuf,
        why: inky_core::trace::TraceError,
    },
    #[error("{}: nothing to cut out: {why}", path.display())]
    Nothing { path: PathBuf, why: String },
    #[error("a page to print is written as .pdf or .png, not to {}", .0.display())]
    Ending(PathBuf),
    #[error(
        "nothing fits on the {width:.0} × {height:.0} mm that the margins leave beside the marks; make it smaller with --width, or take a larger --page"
    )]
    TooLarge { width: f64, height: f64 },
    #[error(transparent)]
    Png(#[from] PngError),
    #[error(transparent)]
    Code(#[from] CodeError),
}

impl PrintArgs {
    fn choice(&self) -> PrintChoice {
        let known = PrintChoice::default();
        let size = self.mark_size.unwrap_or(known.marks.size);
        PrintChoice {
            page: match self.roll {
                Some(wide) => [wide, ROLL],
                None => self.page.unwrap_or(A4),
            },
            roll: self.roll.is_some(),
            margins: self.printer_margins.unwrap_or(known.margins),
            marks: MarkChoice {
                count: self.marks.unwrap_or_default(),
                size,
                line: size / 6.0,
                clear: self.clear.unwrap_or(known.marks.clear),
            },
            border: self.border.unwrap_or(0.0),
            border_colour: self.border_colour,
            bleed: self.bleed.unwrap_or(BLEED),
            pulled: self.pull_marks,
            code: self.code.is_some(),
            white: self.white,
            ..known
        }
    }
}

/// A picture that was read and traced.
struct Read {
    bytes: Vec<u8>,
    picture: Picture,
    printed: Printed,
}

pub(crate) fn run(args: &SheetArgs) -> Result<(), SheetFailed> {
    // What cannot be written is said before anything is read.
    let target = Target::new(args.inputs.iter().chain(&args.materials), args.file.force);
    let ending = args
        .output
        .extension()
        .and_then(|e| e.to_str())
        .unwrap_or_default();
    if !["pdf", "png"]
        .iter()
        .any(|e| ending.eq_ignore_ascii_case(e))
    {
        return Err(PrintFailed::Ending(args.output.clone()).into());
    }
    args.file.check(&target, &args.output)?;
    if let Some(cut) = &args.print.cut {
        args.file.check(&target, cut)?;
    }
    let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
    let asked = args.print.choice();
    asked.check()?;
    let (choice, laying) = asked.with(&sheet::choice(args)?);
    laying.check()?;
    if choice.bleed < asked.bleed {
        say::note(format_args!(
            "the pictures lie {:.1} mm apart, so the bleed between them is {:.1} mm",
            laying.gap(),
            choice.bleed
        ));
    }
    let room = choice.laid();
    let (width, height) = (room.width(), room.height());
    let stock = choice.stock(&material.name);
    let read: Result<Vec<Read>, PrintFailed> = args
        .inputs
        .iter()
        .map(|path| open(path, &args.print, &choice))
        .collect();
    let read = read?;
    let load = Load {
        name: material.name.clone(),
        sources: read
            .iter()
            .map(|r| r.printed.source((&choice, &material), &laying))
            .collect(),
        stock,
        material: material.clone(),
    };
    let laying = sheet::nested(args, &load, laying);
    let laid = lay(&load, &laying);
    if laid.copies() == 0 {
        return Err(PrintFailed::TooLarge { width, height }.into());
    }
    let printed: Vec<Printed> = read.iter().map(|r| r.printed.clone()).collect();
    let mut page = PrintPage::of(&choice, &printed, &laid);
    if let Some(text) = &args.print.code {
        page.name(text).map_err(PrintFailed::Code)?;
    }
    write(args, (&page, &read), &target)?;
    if let Some(cut) = &args.print.cut {
        let plan = laying.plan(&load.name);
        let lines = Page::new(page.from_first_mark(), plan);
        args.file.write(lines, &title(cut), (&target, cut))?;
    }
    told(args, &page, &material);
    if laid.left_out() > 0 {
        say::note(format_args!(
            "{} did not fit; they need another page",
            laid.left_out()
        ));
    }
    Ok(())
}

fn read_picture(path: &Path) -> Result<(Vec<u8>, picture::Artwork), PrintFailed> {
    let bytes = crate::input::read(path).map_err(|why| PrintFailed::Open {
        path: path.to_owned(),
        why,
    })?;
    let artwork = picture::read(&bytes).map_err(|why| PrintFailed::Picture {
        path: path.to_owned(),
        why,
    })?;
    Ok((bytes, artwork))
}

fn open(path: &Path, said: &PrintArgs, choice: &PrintChoice) -> Result<Read, PrintFailed> {
    let (bytes, artwork) = read_picture(path)?;
    artwork.notices.iter().for_each(say::note);
    let picture = artwork.picture;
    let (w, h) = (picture.width(), picture.height());
    let ppi = match said.width {
        Some(mm) => f64::from(w) * MM_PER_INCH / mm,
        None => artwork.ppi.unwrap_or(DEFAULT_PPI),
    };
    let recipe = Recipe::automatic(Size::at_ppi(w, h, ppi));
    let tracing = format_args!("tracing {}", path.display());
    let traced = say::long(tracing, || {
        trace(&picture, &recipe, &Stop::new(), &mut |_| {})
    });
    let traced = traced.map_err(|why| PrintFailed::Trace {
        path: path.to_owned(),
        why,
    })?;
    let built = build(&traced.design, &recipe.layers);
    let size = [recipe.size.width.get(), recipe.size.height.get()];
    let mut tiles: Vec<Arc<Picture>> = Vec::new();
    let mut fills = Vec::new();
    for fill in &said.fill {
        if let Some(path) = &fill.picture {
            tiles.push(Arc::new(read_picture(path)?.1.picture));
        }
        let number = fill.picture.as_ref().map(|_| tiles.len() as i64 - 1);
        fills.push(fill.on(size, number));
    }
    for (fill, said) in fills.iter().zip(&said.fill) {
        if !fill.of.is_in(&traced.design) {
            say::note(format_args!("{} has not {}", path.display(), said.told()));
        }
    }
    let look = Look {
        cut: said.along.into(),
        fills,
    };
    let drawn = look.drawn((&traced.design, &built), size[0] / f64::from(w), |n| {
        tiles.get(n as usize).cloned()
    });
    let printed = Printed::of(&title(path), (&picture, size), drawn, choice);
    let printed = printed.ok_or_else(|| PrintFailed::Nothing {
        path: path.to_owned(),
        why: traced.nothing_found(),
    })?;
    Ok(Read {
        bytes,
        picture,
        printed,
    })
}

fn write(
    args: &SheetArgs,
    (page, read): (&PrintPage, &[Read]),
    target: &Target<'_>,
) -> Result<(), SheetFailed> {
    let arts: Vec<pdf::print::Art<'_>> = read
        .iter()
        .map(|r| pdf::print::Art {
            printed: &r.printed,
            picture: &r.picture,
            jpeg: PlainJpeg::of(&r.bytes),
        })
        .collect();
    let as_pixels = args
        .output
        .extension()
        .is_some_and(|e| e.eq_ignore_ascii_case("png"));
    let bytes = match as_pixels {
        true => png::print::write(page, &arts, args.file.ppi()?).map_err(PrintFailed::Png)?,
        false => {
            let spot = args.file.spot.as_deref().unwrap_or(pdf::CUT_LINE);
            let spot = (!spot.eq_ignore_ascii_case("none")).then_some(spot);
            pdf::print::write(page, &arts, &title(&args.output), spot)
        }
    };
    target.check(&args.output)?;
    save(&args.output, &bytes)?;
    Ok(())
}

fn told(args: &SheetArgs, page: &PrintPage, material: &Material) {
    let [w, h] = page.choice.page;
    let [across, up] = page.from_first_mark().size;
    let saved = match page.saved {
        saved if saved > 0.05 => format!(", {saved:.1} mm of it saved"),
        _ => String::new(),
    };
    say::done(format_args!(
        "printed: {} on {w:.0} × {h:.0} mm of {}, {} marks {across:.1} mm apart across and {up:.1} mm along{saved}",
        some(page.prints.len(), "picture"),
        material.name,
        page.marks.len(),
    ));
    if let Some(cut) = &args.print.cut {
        say::done(format_args!(
            "{} is measured from the mark at the lower left; where the marks lie on the machine, inky correct {} --marks {across:.3}x{up:.3}mm --found … moves it there",
            cut.display(),
            cut.display(),
        ));
    }
}
