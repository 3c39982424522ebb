//! `inky inspect`: what an artwork is worth at a finished size.

use std::io::Write;

use inky_core::inks::{InkMode, separate};
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::TraceError;
use inky_core::units::{DEFAULT_PPI, Length};
use inky_core::worth::Worth;
use inky_formats::worth;

use crate::args::InspectArgs;
use crate::trace::{TraceFailed, open};

pub(crate) fn run(args: &InspectArgs) -> Result<(), TraceFailed> {
    let artwork = open(&args.input)?;
    let picture = &artwork.picture;
    let (w, h) = (picture.width(), picture.height());
    let mut size = Size::at_ppi(w, h, artwork.ppi.unwrap_or(DEFAULT_PPI));
    match args.width {
        Some(Length::Mm(width)) => {
            size = size.with_width(inky_core::units::Mm::new(width), w, h);
        }
        Some(Length::Px(_)) => return Err(TraceFailed::SizeInPixels("--width")),
        None => {}
    }
    let solid = separate(picture, &InkMode::Auto.into(), &Stop::new()).map_err(TraceError::from)?;
    let found = Worth::of(picture, &solid, artwork.jpeg_quality);
    let text = if args.json {
        worth::write(&found, size)?
    } else {
        told(&found, size)
    };
    let written = writeln!(std::io::stdout(), "{text}");
    written.map_err(TraceFailed::Print)
}

/// The figures as lines for people.
fn told(found: &Worth, size: Size) -> String {
    let (w, h) = found.size_px;
    let mut lines = vec![
        format!(
            "{w} × {h} px, {:.1} × {:.1} mm, {:.0} px per inch: {}",
            size.width.get(),
            size.height.get(),
            found.ppi(size),
            found.verdict(size).word()
        ),
        format!(
            "smallest detail that survives  {:.2} mm",
            found.smallest_detail(size)
        ),
        match found.flat_colours {
            0 => "flat colours                   none".to_owned(),
            n => format!(
                "flat colours                   {n}, {:.0} % of the pixels on them",
                found.flat_share * 100.0
            ),
        },
        format!(
            "contrast                       {:.0} %",
            found.contrast * 100.0
        ),
        format!("grain                          {:.1} of 255", found.noise),
        match found.jpeg_quality {
            Some(quality) => format!("JPEG quality                   {quality:.0}"),
            None => format!(
                "traces of compression          {:.0} %",
                found.blocks * 100.0
            ),
        },
        format!(
            "paper darker at one side by    {:.0} %",
            found.unevenness * 100.0
        ),
    ];
    lines.extend(
        found
            .advice(size)
            .into_iter()
            .map(|a| format!("- {}", a.text)),
    );
    lines.join("\n")
}
