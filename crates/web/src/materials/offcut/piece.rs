//! A piece as it is kept: what is asked of its photograph, and what was found in it.

use inky_core::clean::square::{Paper, Quad};
use inky_core::limits::within;
use inky_core::offcut::{Offcut, offcut};
use inky_core::stock::{Shaped, Stock, StockKind, shaped};
use inky_core::stop::Stop;
use inky_formats::offcut::photograph;
use inky_formats::picture;
use inky_store::{MaterialId, OffcutId, Store};
use kurbo::Point;
use serde::{Deserialize, Serialize};

use crate::error::{WebError, wrong};
use crate::materials::stocked::{self, Listed};

/// The field beside which a piece's troubles are told.
pub(super) const FIELD: &str = "offcut";
/// How far parts stay away from the edges of a new piece, mm.
const MARGIN: f64 = 5.0;
/// Flaws of one piece at most.
const FLAWS: usize = 200;

/// A place that nobody may cut in, mm from the corner of the piece's box.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Flaw {
    pub(super) x: f64,
    pub(super) y: f64,
    pub(super) across: f64,
}

/// What was found in the photograph.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Found {
    pub(super) shape: Shaped,
    /// How far its outline may be off, mm.
    pub(super) off: f64,
}

/// A piece that is being made of a photograph.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Piece {
    /// The material whose stock it becomes.
    pub(super) material: MaterialId,
    pub(super) name: String,
    /// Which sheet lies beside it.
    pub(super) paper: String,
    /// The sheet's corners in the photograph where they are known, px.
    pub(super) corners: Option<[[f64; 2]; 4]>,
    pub(super) margin: f64,
    pub(super) flaws: Vec<Flaw>,
    pub(super) found: Option<Found>,
    /// Why nothing was found.
    pub(super) trouble: String,
    /// Width and height of the photograph, px.
    pub(super) size: [u32; 2],
    /// Whether it is among the material's stock already.
    pub(super) kept: bool,
}

fn sheet(word: &str) -> Result<Paper, WebError> {
    Paper::called(word).ok_or_else(|| wrong(FIELD, "choose a sheet of the list"))
}

/// A name as it can be kept.
pub(super) fn name(text: &str) -> String {
    let letters = text.trim().chars().filter(|c| !c.is_control());
    letters.take(40).collect()
}

fn jpeg(found: &Offcut) -> Result<Vec<u8>, WebError> {
    photograph(&found.picture).map_err(|e| WebError::Internal(e.to_string()))
}

impl Piece {
    /// A piece of a photograph that has just come, and its picture where it was found.
    pub(super) fn of(
        material: MaterialId,
        file: &str,
        paper: &str,
        bytes: &[u8],
    ) -> Result<(Self, Vec<u8>), WebError> {
        let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
        let mut piece = Self::begun(material, name(stem), sheet(paper)?);
        let picture = piece.look(bytes)?.unwrap_or_default();
        Ok((piece, picture))
    }

    /// A piece that is among the stock from the start and has no photograph of its own.
    pub(super) fn kept_already(material: MaterialId, name: String, found: Found) -> Self {
        Self {
            found: Some(found),
            kept: true,
            ..Self::begun(material, name, Paper::A4)
        }
    }

    /// A piece of which nothing is known yet.
    fn begun(material: MaterialId, name: String, paper: Paper) -> Self {
        Self {
            material,
            name,
            paper: paper.word().to_owned(),
            corners: None,
            margin: MARGIN,
            flaws: Vec::new(),
            found: None,
            trouble: String::new(),
            size: [1, 1],
            kept: false,
        }
    }

    /// Looks for the piece in its photograph; its picture where it is found. What is in the way is told in the piece.
    pub(super) fn look(&mut self, bytes: &[u8]) -> Result<Option<Vec<u8>>, WebError> {
        let sides = sheet(&self.paper)?.sides();
        let artwork = picture::read(bytes).map_err(|e| wrong(FIELD, e))?;
        let photograph = &artwork.picture;
        self.size = [photograph.width(), photograph.height()];
        let corners: Option<Quad> = self.corners.map(|c| c.map(|[x, y]| Point::new(x, y)));
        match offcut(photograph, sides, corners, artwork.focal, &Stop::new()) {
            Ok(found) => {
                self.corners = Some(found.sheet.map(|p| [p.x, p.y]));
                let picture = jpeg(&found)?;
                self.found = Some(Found {
                    shape: found.shaped,
                    off: found.off,
                });
                self.trouble.clear();
                self.flaws.clear();
                Ok(Some(picture))
            }
            Err(why) => {
                self.found = None;
                self.trouble = why.to_string();
                Ok(None)
            }
        }
    }

    /// The corners that are pointed at: the sheet's, or a quadrilateral to begin with.
    pub(super) fn pointed(&self) -> [[f64; 2]; 4] {
        let [w, h] = self.size.map(f64::from);
        let usual = [[0.35, 0.35], [0.65, 0.35], [0.65, 0.65], [0.35, 0.65]];
        self.corners.unwrap_or(usual.map(|[x, y]| [x * w, y * h]))
    }

    pub(super) fn add_flaw(&mut self, flaw: Flaw) -> Result<(), WebError> {
        let found = self.found.as_ref().ok_or(WebError::NoPage)?;
        let b = found.shape.bounds();
        let figures = [
            ("a flaw's place from the left", flaw.x, b.x1),
            ("a flaw's place from the top", flaw.y, b.y1),
        ];
        for (what, figure, most) in figures {
            within(what, figure, &(0.0..=most), "mm").map_err(figure_of)?;
        }
        within("a flaw's width", flaw.across, &(0.5..=2000.0), "mm").map_err(figure_of)?;
        if self.flaws.len() >= FLAWS {
            let full = format!("a piece has {FLAWS} flaws at most; make one of them larger");
            return Err(wrong(FIELD, full));
        }
        self.flaws.push(flaw);
        Ok(())
    }

    /// The piece as stock; `None` until it is found.
    pub(super) fn stock(&self, id: OffcutId) -> Option<Stock> {
        let found = self.found.as_ref()?;
        let mut shape = found.shape.clone();
        let disc = |f: &Flaw| shaped::disc([f.x, f.y], f.across / 2.0);
        shape.holes.extend(self.flaws.iter().map(disc));
        shape.picture = Some(id);
        let b = shape.bounds();
        Some(Stock {
            name: self.name.clone(),
            kind: StockKind::Offcut,
            width: b.width(),
            length: b.height(),
            margin: self.margin,
            shape: Some(shape),
        })
    }
}

pub(super) fn figure_of(figure: inky_core::limits::OutOfRange) -> WebError {
    WebError::Figure {
        field: FIELD,
        figure,
    }
}

/// A piece of the store.
pub(super) fn one(store: &Store, id: OffcutId) -> Result<Piece, WebError> {
    let body = store.offcut(id)?.ok_or(WebError::NoPage)?;
    Ok(serde_json::from_str(&body)?)
}

/// All materials with the pieces that somebody began with and did not keep yet.
pub(crate) fn with_unkept(store: &Store) -> Result<Vec<Listed>, WebError> {
    let mut all = stocked::all(store)?;
    for (id, body) in store.unkept_offcuts()? {
        let piece: Piece = serde_json::from_str(&body)?;
        if let Some(own) = all.iter_mut().find(|m| m.id == piece.material) {
            own.unkept.push((id, piece.name));
        }
    }
    Ok(all)
}
