//! A vector file as a job holds it, of a material.

use std::path::{Path, PathBuf};
use std::time::Instant;

use inky_core::assembly::{Built, build};
use inky_core::check::{self, Finding, Kind};
use inky_core::cutting::Cutting;
use inky_core::inks::Rgb;
use inky_core::layers::{LayerChoice, LayerError};
use inky_core::material::{Material, presets};
use inky_core::shapes::Design;
use inky_core::size::Size;
use inky_core::tidy::Drawing;
use inky_core::units::Mm;
use inky_formats::vector::{self, Asked, VectorError, VectorFile};

use crate::args::ReadArgs;
use crate::{input, say};

/// Why a file was not opened.
#[derive(Debug, thiserror::Error)]
pub(crate) enum PieceFailed {
    #[error("cannot read {}: {source}", path.display())]
    Open {
        path: PathBuf,
        source: std::io::Error,
    },
    #[error("{}: {source}", path.display())]
    Vector { path: PathBuf, source: VectorError },
    #[error("there is no material called '{name}'; there are {known}")]
    Material { name: String, known: String },
    #[error("{} is no list of materials: {source}; save one from the Materials page", path.display())]
    Materials {
        path: PathBuf,
        source: serde_json::Error,
    },
    #[error(transparent)]
    Choice(#[from] LayerError),
}

/// A file's outlines as a job holds them.
pub(crate) struct Piece {
    pub(crate) drawing: Drawing,
    pub(crate) page: Design,
    pub(crate) choice: LayerChoice,
    /// Names of layers of the file by their colour.
    names: Vec<(Rgb, String)>,
}

impl Piece {
    /// Opens a file; what was guessed and what was left out of it is told.
    pub(crate) fn open(
        path: &Path,
        args: &ReadArgs,
        material: Material,
    ) -> Result<Self, PieceFailed> {
        Self::of(&read(path)?, path, args, material)
    }

    /// A file whose bytes are at hand.
    pub(crate) fn of(
        bytes: &[u8],
        path: &Path,
        args: &ReadArgs,
        material: Material,
    ) -> Result<Self, PieceFailed> {
        let asked = Asked {
            unit: args.unit,
            as_drawn: false,
            ..Asked::default()
        };
        Self::read((bytes, path), asked, material)
    }

    /// Opens a file as its lines are drawn, to look for faults in them.
    pub(crate) fn as_drawn(
        path: &Path,
        args: &ReadArgs,
        material: Material,
    ) -> Result<Self, PieceFailed> {
        let asked = Asked {
            unit: args.unit,
            as_drawn: true,
            ..Asked::default()
        };
        Self::read((&read(path)?, path), asked, material)
    }

    fn read(
        (bytes, path): (&[u8], &Path),
        asked: Asked,
        material: Material,
    ) -> Result<Self, PieceFailed> {
        let reading = format_args!("reading {}", path.display());
        let started = Instant::now();
        let file = say::long(reading, || vector::read_as(bytes, &asked));
        say::detail(format_args!(
            "read in {:.2} s",
            started.elapsed().as_secs_f64()
        ));
        let file = file.map_err(|source| PieceFailed::Vector {
            path: path.to_owned(),
            source,
        })?;
        if let Some(unit) = file.taken_for {
            let [w, h] = file.size;
            say::note(format_args!(
                "{} does not say how large it is; its figures were taken as {unit}, so it is {w:.1} × {h:.1} mm (--unit or --width sets it)",
                path.display()
            ));
        }
        note_left_out(&file.report());
        let drawing = file.drawing();
        let choice = LayerChoice {
            materials: vec![material],
            // What comes later in a file lies above.
            order: drawing.added_inks.clone(),
            ..LayerChoice::default()
        };
        choice.check()?;
        Ok(Self {
            page: page(file.size),
            names: names(&file),
            choice,
            drawing,
        })
    }

    pub(crate) fn design(&self) -> Design {
        self.drawing.design(&self.page, &Default::default())
    }

    /// Its lines as they are in the file.
    pub(crate) fn cutting(&self) -> Cutting {
        self.cut_as(&self.choice.as_designed())
    }

    /// Its lines moved by half the kerf of its material, so that parts have the size of the file.
    pub(crate) fn cutting_beside_the_kerf(&self) -> Cutting {
        self.cut_as(&LayerChoice {
            kerf: Some(true),
            ..self.choice.as_designed()
        })
    }

    fn cut_as(&self, choice: &LayerChoice) -> Cutting {
        let design = self.design();
        let mut cutting = Cutting::of(&design, &build(&design, choice));
        for layer in &mut cutting.layers {
            if let Some((_, name)) = self.names.iter().find(|n| n.0 == layer.colour) {
                layer.name.clone_from(name);
            }
        }
        cutting
    }

    pub(crate) fn checked(&self) -> (Built, Vec<Finding>) {
        let built = build(&self.design(), &self.choice);
        let mut found = check::check(&built, &self.choice);
        // A file may hold registration shapes of its own.
        found.retain(|f| f.kind != Kind::Unregistered);
        (built, found)
    }
}

/// Says what of a file was left out or changed.
pub(crate) fn note_left_out(report: &str) {
    if !report.is_empty() {
        say::note(format_args!("left out or changed: {report}"));
    }
}

/// What layers of a file are called, each colour by a name of its own.
fn names(file: &VectorFile) -> Vec<(Rgb, String)> {
    let mut names: Vec<(Rgb, String)> = Vec::new();
    for (colour, name) in file.layers() {
        let same = names.iter().filter(|n| n.1.starts_with(name)).count();
        let name = match same {
            0 => name.to_owned(),
            before => format!("{name} {}", before + 1),
        };
        names.push((colour, name));
    }
    names
}

pub(crate) fn page([width, height]: [f64; 2]) -> Design {
    Design::empty(Size {
        width: Mm::new(width),
        height: Mm::new(height),
        locked: true,
    })
}

pub(crate) fn read(path: &Path) -> Result<Vec<u8>, PieceFailed> {
    input::read(path).map_err(|source| PieceFailed::Open {
        path: path.to_owned(),
        source,
    })
}

/// The material of a name, from a list that was saved or from those that ship.
pub(crate) fn material(name: Option<&str>, list: Option<&Path>) -> Result<Material, PieceFailed> {
    let known = match list {
        Some(path) => {
            serde_json::from_slice(&read(path)?).map_err(|source| PieceFailed::Materials {
                path: path.to_owned(),
                source,
            })?
        }
        None => presets(),
    };
    let names = || {
        let all: Vec<&str> = known.iter().map(|m| m.name.as_str()).collect();
        all.join(", ")
    };
    let missing = |name: &str| PieceFailed::Material {
        name: name.to_owned(),
        known: names(),
    };
    let found = match name {
        None => known.first(),
        Some(name) => known
            .iter()
            .find(|m| m.name.to_lowercase() == name.trim().to_lowercase()),
    };
    found.cloned().ok_or_else(|| missing(name.unwrap_or("")))
}
