//! The sample pictures of Marl Lane Signs, an invented two-person shop, drawn from their own
//! geometry, so that the true outline of every picture is known.
//!
//! Each [`Sample`] gives the file as a client would send it ([`Sample::file`]) and its truth in
//! pixels of that file ([`Sample::truth`]): fills painted one over the other, y down.

mod drawings;
pub mod photograph;
pub mod plate;
pub mod portrait;
mod render;
pub mod sign;
mod spoil;

use kurbo::{Affine, BezPath};

pub use render::{Raster, render};

/// One fill of a drawing.
#[derive(Clone, Debug)]
pub struct Fill {
    /// sRGB.
    pub colour: [u8; 3],
    /// Closed rings; inside by the non-zero rule, so hole rings run the other way.
    pub path: BezPath,
}

/// What happens to a drawing on its way to the sign maker.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Spoiling {
    /// A clean PNG with soft edges.
    None,
    /// A scan: uneven paper, blur, grain; PNG that states its dpi.
    Scan,
    /// A small JPEG of poor quality.
    SmallJpeg,
}

/// One sample picture and the job made from it.
#[derive(Clone, Copy, Debug)]
pub struct Sample {
    /// Title of the job.
    pub title: &'static str,
    /// The invented client.
    pub client: &'static str,
    /// Tags, comma separated.
    pub tags: &'static str,
    /// What it shows of the program, in one sentence.
    pub shows: &'static str,
    /// Name of the file.
    pub file_name: &'static str,
    /// Finished width, mm.
    pub width_mm: f64,
    /// Whether the job is one tone rather than several inks.
    pub mono: bool,
    /// Whether the job is cut along the middle of its lines.
    pub centre_line: bool,
    /// Size of the picture, px.
    pub size_px: (u32, u32),
    drawing: fn() -> Vec<Fill>,
    /// Size of the drawing's own grid.
    grid: (f64, f64),
    spoiling: Spoiling,
}

/// A photograph and the job made from it.
#[derive(Clone, Copy, Debug)]
pub struct Photograph {
    /// Title of the job.
    pub title: &'static str,
    /// The invented client.
    pub client: &'static str,
    /// Tags, comma separated.
    pub tags: &'static str,
    /// What it shows of the program, in one sentence.
    pub shows: &'static str,
    /// Name of the file.
    pub file_name: &'static str,
    /// Finished width as it comes, mm.
    pub width_mm: f64,
    /// Whether the job is tones of card rather than one tone.
    pub tones: bool,
    /// Size of the picture, px.
    pub size_px: (u32, u32),
    taken: fn() -> Raster,
}

/// What was photographed.
pub const PHOTOGRAPHS: [Photograph; 2] = [
    Photograph {
        title: "Old sign",
        client: "Old Lock Boatyard",
        tags: "sign, photograph",
        shows: "Photographed askew in the evening; Clean squares it up.",
        file_name: "old-sign.jpg",
        width_mm: 300.0,
        tones: false,
        size_px: sign::SIGN_PX,
        taken: sign::photograph,
    },
    Photograph {
        title: "Portrait",
        client: "Brindle Kettle",
        tags: "card, photograph",
        shows: "A face half in shadow, parted into tones of card.",
        file_name: "portrait.jpg",
        width_mm: 150.0,
        tones: true,
        size_px: portrait::PORTRAIT_PX,
        taken: portrait::photograph,
    },
];

impl Photograph {
    /// The file as it came in: JPEG bytes, the same on every call.
    #[must_use]
    pub fn file(&self) -> Vec<u8> {
        spoil::jpeg(&(self.taken)(), 88)
    }
}

/// The five samples, in the order of the Jobs page.
pub const SAMPLES: [Sample; 5] = [
    Sample {
        title: "Teapot emblem",
        client: "Brindle Kettle",
        tags: "van, vinyl",
        shows: "Three flat colours, each cut from its own film.",
        file_name: "teapot.png",
        width_mm: 150.0,
        mono: false,
        centre_line: false,
        size_px: (1200, 900),
        drawing: drawings::teapot,
        grid: (480.0, 360.0),
        spoiling: Spoiling::None,
    },
    Sample {
        title: "Dome and telescope",
        client: "Quarry Top Observatory",
        tags: "stencil",
        shows: "One tone with fine stars; as a stencil it wants bridges.",
        file_name: "observatory.png",
        width_mm: 400.0,
        mono: true,
        centre_line: false,
        size_px: (1600, 1200),
        drawing: drawings::observatory,
        grid: (400.0, 300.0),
        spoiling: Spoiling::None,
    },
    Sample {
        title: "Beehive badge",
        client: "Fernhill Beekeepers",
        tags: "badge, ply",
        shows: "A scan on uneven paper, levelled and calmed by itself.",
        file_name: "beehive-scan.png",
        width_mm: 60.0,
        mono: false,
        centre_line: false,
        size_px: (1000, 1000),
        drawing: drawings::beehive,
        grid: (200.0, 200.0),
        spoiling: Spoiling::Scan,
    },
    Sample {
        title: "Needle and twine",
        client: "Nettle & Twine",
        tags: "card, line drawing",
        shows: "Thin lines followed along their middle, for a pen.",
        file_name: "needle-twine.png",
        width_mm: 90.0,
        mono: true,
        centre_line: true,
        size_px: (1200, 800),
        drawing: drawings::needle_and_twine,
        grid: (300.0, 200.0),
        spoiling: Spoiling::None,
    },
    Sample {
        title: "Lantern sticker",
        client: "Old Lock Boatyard",
        tags: "sticker",
        shows: "A small poor JPEG, and what can be had of it.",
        file_name: "lantern.jpg",
        width_mm: 80.0,
        mono: true,
        centre_line: false,
        size_px: (200, 260),
        drawing: drawings::lantern,
        grid: (200.0, 260.0),
        spoiling: Spoiling::SmallJpeg,
    },
];

impl Sample {
    /// The drawing's fills, px of the picture, y down.
    #[must_use]
    pub fn truth(&self) -> Vec<Fill> {
        let scale = Affine::scale_non_uniform(
            f64::from(self.size_px.0) / self.grid.0,
            f64::from(self.size_px.1) / self.grid.1,
        );
        (self.drawing)()
            .into_iter()
            .map(|fill| Fill {
                path: scale * fill.path,
                ..fill
            })
            .collect()
    }

    /// The file as it came in: PNG or JPEG bytes, the same on every call.
    #[must_use]
    pub fn file(&self) -> Vec<u8> {
        let raster = render(&self.truth(), self.size_px.0, self.size_px.1, [255; 3]);
        match self.spoiling {
            Spoiling::None => spoil::png(&raster, None),
            Spoiling::Scan => spoil::png(&spoil::scanned(&raster), Some(423)),
            Spoiling::SmallJpeg => spoil::jpeg(&raster, 70),
        }
    }
}
