//! A piece as its page shows it.

use askama::Template;
use askama_web::WebTemplate;
use inky_core::clean::square::Paper;
use inky_core::stock::shaped;
use inky_core::units::Unit;
use inky_formats::offcut::outline;
use inky_store::OffcutId;

use super::piece::Piece;
use crate::text;

/// The piece on the left, what is asked of it on the right.
#[derive(Template, WebTemplate)]
#[template(path = "materials/offcut/_piece.html")]
pub(super) struct Shown {
    pub(super) id: OffcutId,
    pub(super) material: i64,
    pub(super) name: String,
    /// Width and height of what is drawn: mm of the piece, or px of the photograph.
    size: [f64; 2],
    found: bool,
    /// Outline and holes as one path.
    path: String,
    flaws: Vec<[f64; 3]>,
    /// Corners that are pointed at, px.
    corners: Vec<[f64; 2]>,
    trouble: String,
    told: String,
    holes: Vec<String>,
    flaw_words: Vec<String>,
    margin: String,
    /// A flaw that is added next: from the left, from the top, across.
    next: [String; 3],
    next_mm: [f64; 2],
    papers: Vec<(&'static str, bool)>,
    unit: &'static str,
    mm_per_unit: f64,
    kept: bool,
    /// Whether it takes the place of the one on the page.
    swap: bool,
}

pub(super) fn shown(id: OffcutId, piece: &Piece, unit: Unit) -> Shown {
    let side = |mm: f64| text::side(mm, unit);
    let length = |mm: f64| format!("{} {}", text::length(mm, unit, 1), unit.symbol());
    let found = piece.found.as_ref();
    let size = found.map_or(piece.size.map(f64::from), |f| {
        let b = f.shape.bounds();
        [b.width(), b.height()]
    });
    let told = found.map_or(String::new(), |f| {
        let [width, height] = size.map(|mm| text::length(mm, unit, 1));
        // What was not measured in a photograph is not said.
        let sure = match f.off > 0.0 {
            true => format!(", true within **{}**", length(f.off.max(0.1))),
            false => String::new(),
        };
        format!("**{width}** × **{height}** {}{sure}.", unit.symbol())
    });
    let across = |line: &shaped::Line| (shaped::area(line) * 4.0 / std::f64::consts::PI).sqrt();
    let holes = found.map_or(&[][..], |f| &f.shape.holes);
    let next = size.map(|s| s / 2.0);
    Shown {
        id,
        material: piece.material,
        name: piece.name.clone(),
        size,
        found: found.is_some(),
        path: found.map_or(String::new(), |f| outline(&f.shape)),
        flaws: piece
            .flaws
            .iter()
            .map(|f| [f.x, f.y, f.across / 2.0])
            .collect(),
        corners: if found.is_some() {
            Vec::new()
        } else {
            piece.pointed().to_vec()
        },
        trouble: piece.trouble.clone(),
        told,
        holes: holes.iter().map(|h| length(across(h))).collect(),
        flaw_words: piece.flaws.iter().map(|f| length(f.across)).collect(),
        margin: side(piece.margin),
        next: [next[0], next[1], 10.0].map(|mm| text::length(mm, unit, 1)),
        next_mm: next,
        papers: Paper::ALL
            .map(|p| (p.word(), p.word() == piece.paper))
            .to_vec(),
        unit: unit.symbol(),
        mm_per_unit: match unit {
            Unit::Mm => 1.0,
            Unit::In => inky_core::units::MM_PER_INCH,
        },
        kept: piece.kept,
        swap: false,
    }
}

impl Shown {
    /// The same in the place of the one on the page.
    pub(super) fn swapped(mut self) -> Self {
        self.swap = true;
        self
    }

    /// What was found in words, its figures marked.
    fn bits(&self) -> Vec<text::Bit> {
        text::bits(&self.told)
    }
}
