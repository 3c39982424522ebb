//! `inky convert`: a vector file as one of another format, at its true size.

use inky_core::plan::PlanChoice;
use inky_core::plan::page::Page;
use inky_core::units::Length;

use crate::args::ConvertArgs;
use crate::files::WriteFailed;
use crate::piece::{self, Piece, PieceFailed};
use crate::save::Target;

/// Why a file was not converted.
#[derive(Debug, thiserror::Error)]
pub(crate) enum ConvertFailed {
    #[error(transparent)]
    Piece(#[from] PieceFailed),
    #[error(transparent)]
    Write(#[from] WriteFailed),
    #[error("--width is no length above nought on the piece; give it in mm or in")]
    Width,
}

pub(crate) fn run(args: &ConvertArgs) -> Result<(), ConvertFailed> {
    // What cannot be written is said before anything is read.
    let target = Target::new(
        [&args.input].into_iter().chain(&args.materials),
        args.file.force,
    );
    args.file.check(&target, &args.output)?;
    let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
    let mut cutting = Piece::open(&args.input, &args.read, material)?.cutting();
    match args.width {
        Some(Length::Mm(width)) if width > 0.0 => {
            cutting = cutting.scaled(width / cutting.size[0]);
        }
        Some(_) => return Err(ConvertFailed::Width),
        None => {}
    }
    let title = args.input.file_stem().unwrap_or_default().to_string_lossy();
    let [w, h] = cutting.size;
    let page = Page::new(cutting, PlanChoice::default());
    args.file.write(page, &title, (&target, &args.output))?;
    eprintln!("converted: {w:.2} × {h:.2} mm");
    Ok(())
}
