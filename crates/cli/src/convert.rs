//! `inky convert`: a vector file as one of another format, at its true size.

use inky_core::plan::PlanChoice;
use inky_core::plan::page::Page;
use inky_core::units::Length;

use crate::args::ConvertArgs;
use crate::batch::{Job, title};
use crate::files::WriteFailed;
use crate::piece::{self, Piece, PieceFailed};
use crate::save::Target;
use crate::say;

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

/// Converts one file; what came of it.
pub(crate) fn run(args: &ConvertArgs, job: Job<'_>) -> Result<String, ConvertFailed> {
    // What cannot be written is said before anything is read.
    let target = Target::new(args.inputs.iter().chain(&args.materials), args.file.force);
    args.file.check(&target, job.output)?;
    let material = piece::material(args.material.as_deref(), args.materials.as_deref())?;
    let kerf = material.kerf;
    let piece = Piece::open(job.input, &args.read, material)?;
    let mut cutting = if args.kerf {
        piece.cutting_beside_the_kerf()
    } else {
        if args.material.is_some() && kerf > 0.0 {
            say::note(format_args!(
                "lines are where the file has them: the kerf of {kerf} mm is not in them (--kerf moves them by half of it)"
            ));
        }
        piece.cutting()
    };
    match args.width {
        Some(Length::Mm(width)) if width > 0.0 => {
            cutting = cutting.scaled(width / cutting.size[0]);
        }
        Some(_) => return Err(ConvertFailed::Width),
        None => {}
    }
    let [w, h] = cutting.size;
    let page = Page::new(cutting, PlanChoice::default());
    let writing = format_args!("planning and writing {}", job.output.display());
    let to = (&target, job.output.as_path());
    say::long(writing, || args.file.write(page, &title(job.input), to))?;
    Ok(format!("converted: {w:.2} × {h:.2} mm"))
}
