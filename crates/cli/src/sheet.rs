//! `inky sheet`: files laid out on stock, in rows or nested, as one file.

use std::time::{Duration, Instant};

use inky_core::limits::OutOfRange;
use inky_core::material::Material;
use inky_core::plan::page::Page;
use inky_core::sheet::choice::{Arrange, Copies, SheetChoice, SheetError, Turns};
use inky_core::sheet::piece::Piece;
use inky_core::sheet::{self, Load, Source, lay};
use inky_core::stock::{Stock, StockKind};
use inky_core::stop::Stop;
use inky_core::units::Length;
use inky_formats::offcut;

use crate::args::{ReadArgs, SheetArgs, TurnsArg};
use crate::files::WriteFailed;
use crate::piece::{self, Piece as File, PieceFailed};
use crate::print::{self, PrintFailed};
use crate::save::{SaveFailed, Target, save};
use crate::stock::{StockArg, StockFailed};
use crate::{say, stock};

/// Why nothing was laid out.
#[derive(Debug, thiserror::Error)]
pub(crate) enum SheetFailed {
    #[error(transparent)]
    Piece(#[from] PieceFailed),
    #[error(transparent)]
    Write(#[from] WriteFailed),
    #[error(transparent)]
    Stock(#[from] StockFailed),
    #[error(transparent)]
    Choice(#[from] SheetError),
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    #[error(transparent)]
    Save(#[from] SaveFailed),
    #[error(transparent)]
    Print(#[from] PrintFailed),
    #[error("nothing to speak of is left of this stock; a roll is cut across")]
    NoRest,
    #[error("{0} is a length on the piece; give it in mm or in")]
    Pixels(&'static str),
    #[error("{0} has no stock; give one, such as --stock 610mm or --stock 300x200mm")]
    NoStock(String),
    #[error("the stock's margins leave nothing to cut on")]
    NoRoom,
    #[error("nothing fits on {width:.0} mm of usable width{remedy}")]
    TooLarge { width: f64, remedy: &'static str },
}

/// How far parts stay away from the edges of a piece that is no rectangle, mm.
const MARGIN: f64 = 5.0;
/// How often nesting pushes parts together unless it is told for how long.
const TRIES: usize = 60;

pub(crate) fn run(args: &SheetArgs) -> Result<(), SheetFailed> {
    if args.print.print {
        return print::run(args);
    }
    // What cannot be written is said before anything is read.
    let target = Target::new(args.inputs.iter().chain(&args.materials), args.file.force);
    args.file.check(&target, &args.output)?;
    let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
    let choice = choice(args)?;
    choice.check()?;
    let margin = match args.margin {
        Some(Length::Mm(margin)) => Some(margin),
        Some(Length::Px(_)) => return Err(SheetFailed::Pixels("--margin")),
        None => None,
    };
    if let Some(rest) = &args.rest {
        target.check(rest)?;
    }
    let stock = match &args.stock {
        Some(StockArg::Typed(stock)) => Stock {
            margin: margin.unwrap_or(stock.margin),
            ..stock.clone()
        },
        Some(StockArg::File(path)) => stock::read(path, margin.unwrap_or(MARGIN))?,
        None => material
            .stocks
            .first()
            .cloned()
            .ok_or_else(|| SheetFailed::NoStock(material.name.clone()))?,
    };
    stock.check()?;
    let usable = stock.usable();
    if usable.width() <= 0.0 || usable.height() <= 0.0 {
        return Err(SheetFailed::NoRoom);
    }
    let mut load = Load {
        name: material.name.clone(),
        sources: Vec::new(),
        stock,
        material: material.clone(),
    };
    for input in &args.inputs {
        let title = input.file_stem().unwrap_or_default().to_string_lossy();
        let source = source(&load, &material, &args.read, (input, &title), &choice)?;
        load.sources.push(source);
    }
    let choice = nested(args, &load, choice);
    let laid = lay(&load, &choice);
    if laid.copies() == 0 {
        let remedy = if args.panels.is_some() {
            ""
        } else {
            "; cut it in --panels or take a wider --stock"
        };
        let width = usable.width();
        return Err(SheetFailed::TooLarge { width, remedy });
    }
    let title = args
        .output
        .file_stem()
        .unwrap_or_default()
        .to_string_lossy();
    let plan = choice.plan(&load.name);
    let page = Page::new(laid.cutting(), plan);
    let writing = format_args!("planning and writing {}", args.output.display());
    let to = (&target, args.output.as_path());
    say::long(writing, || args.file.write(page, &title, to))?;
    told(&laid);
    if let Some(path) = &args.rest {
        left(&laid, path)?;
    }
    Ok(())
}

/// Writes what is left of the stock.
fn left(laid: &sheet::Sheet, path: &std::path::Path) -> Result<(), SheetFailed> {
    let rest = laid.rest().ok_or(SheetFailed::NoRest)?.shape;
    let name = path.file_stem().unwrap_or_default().to_string_lossy();
    save(path, offcut::write(&rest, &name, None).as_bytes()).map_err(WriteFailed::Save)?;
    let b = rest.bounds();
    say::done(format_args!(
        "left: {:.0} × {:.0} mm, {:.0} cm², in {}",
        b.width(),
        b.height(),
        rest.area() / 100.0,
        path.display()
    ));
    Ok(())
}

/// A file's lines as one source, all of its layers together.
fn source(
    load: &Load,
    material: &Material,
    read: &ReadArgs,
    (input, title): (&std::path::Path, &str),
    choice: &SheetChoice,
) -> Result<Source, SheetFailed> {
    let cutting = File::open(input, read, material.clone())?.cutting();
    let group = sheet::Group {
        name: material.name.clone(),
        material: material.clone(),
        colour: None,
        layers: cutting.layers,
    };
    Ok(group.source((title, ""), &load.stock, choice))
}

pub(crate) fn choice(args: &SheetArgs) -> Result<SheetChoice, SheetFailed> {
    let mm = |length: Option<Length>, what| match length {
        Some(Length::Mm(value)) => Ok(Some(value)),
        Some(Length::Px(_)) => Err(SheetFailed::Pixels(what)),
        None => Ok(None),
    };
    Ok(SheetChoice {
        copies: args.copies.unwrap_or(Copies::Number(1)),
        arrange: if args.nest {
            Arrange::Nested
        } else {
            Arrange::Rows
        },
        gap: mm(args.gap, "--gap")?,
        turns: match args.turns {
            Some(TurnsArg::None) => Turns::None,
            Some(TurnsArg::Half) => Turns::Half,
            Some(TurnsArg::Fine) => Turns::Fine,
            Some(TurnsArg::Quarter) | None => Turns::Quarter,
        },
        grain: args.grain,
        single: args.single,
        weed_box: mm(args.weed_box, "--weed-box")?,
        relief: mm(args.relief, "--relief")?,
        panels: mm(args.panels, "--panels")?,
        trial: args.trial,
        ..SheetChoice::default()
    })
}

/// The choice with the spots that nesting found.
pub(crate) fn nested(args: &SheetArgs, load: &Load, choice: SheetChoice) -> SheetChoice {
    if choice.arrange == Arrange::Rows {
        return choice;
    }
    let until = args
        .seconds
        .map(|s| Instant::now() + Duration::from_secs_f64(s.clamp(0.1, 3600.0)));
    let stop = Stop::new();
    let tries = until.map_or(TRIES, |_| usize::MAX);
    let placed = say::long("nesting", || {
        sheet::nested(load, &choice, tries, &stop, &mut |_| {
            if until.is_some_and(|u| Instant::now() > u) {
                stop.set();
            }
        })
    });
    SheetChoice {
        placed: vec![placed],
        ..choice
    }
}

/// What is used of the stock.
fn used(laid: &sheet::Sheet) -> String {
    let (width, length) = (laid.stock.width, laid.left.used_length);
    match laid.stock.kind {
        _ if laid.stock.shape.is_some() => format!("a piece of {width:.0} × {length:.0} mm"),
        StockKind::Roll => format!("{length:.0} mm of a roll {width:.0} mm wide"),
        other => format!("{length:.0} mm of a {}, {width:.0} mm wide", other.word()),
    }
}

fn told(laid: &sheet::Sheet) {
    let one = |p: &Piece| p.size[0].max(p.size[1]) > 0.0;
    let parts = laid.items.iter().filter(|i| one(laid.piece(i))).count();
    say::done(format_args!(
        "laid out: {} copies, {parts} parts on {}{}{}",
        laid.copies(),
        used(laid),
        laid.left
            .length
            .map_or_else(String::new, |l| format!(", {l:.0} mm left")),
        // Open lines cover nothing.
        match laid.yield_() {
            part if part > 0.0 => format!(", {:.0} % of it used", part * 100.0),
            _ => String::new(),
        }
    ));
    if laid.left_out() > 0 {
        say::done(format_args!(
            "inky: note: {} parts did not fit; they need another sheet",
            laid.left_out()
        ));
    }
}

/// A stock as it is typed: the width of a roll, the width and length of a sheet, or the name of a file.
pub(crate) fn stock(text: &str) -> Result<StockArg, String> {
    let path = std::path::Path::new(text);
    let ending = path.extension().unwrap_or_default();
    if ["svg", "dxf"]
        .iter()
        .any(|e| ending.eq_ignore_ascii_case(e))
    {
        return Ok(StockArg::File(path.to_owned()));
    }
    sides(text).map(StockArg::Typed)
}

fn sides(text: &str) -> Result<Stock, String> {
    let length = |t: &str| match inky_core::expression::parse_length(t, inky_core::units::Unit::Mm)
    {
        Ok(Length::Mm(v)) if (1.0..=200_000.0).contains(&v) => Ok(v),
        Ok(_) => Err("give lengths between 1 mm and 200 m".to_owned()),
        Err(e) => Err(e.to_string()),
    };
    let (kind, width, along) = match text.split_once(['x', '×']) {
        None => (StockKind::Roll, length(text)?, 0.0),
        Some((w, l)) => {
            // 300x200mm: the unit of the second is that of the first where it has none.
            let unit = l.trim_start_matches(|c: char| c.is_ascii_digit() || c == '.');
            let bare = w.trim().chars().all(|c| c.is_ascii_digit() || c == '.');
            let w = if bare {
                format!("{w}{unit}")
            } else {
                w.to_owned()
            };
            (StockKind::Sheet, length(&w)?, length(l)?)
        }
    };
    Ok(Stock {
        name: String::new(),
        kind,
        width,
        length: along,
        margin: 0.0,
        shape: None,
    })
}

/// Copies as they are typed.
pub(crate) fn copies(text: &str) -> Result<Copies, String> {
    match text {
        "width" => Ok(Copies::Width),
        "sheet" => Ok(Copies::Sheet),
        number => number
            .parse()
            .map(Copies::Number)
            .map_err(|_| "use a number, width or sheet".to_owned()),
    }
}
