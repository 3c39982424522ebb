//! What of the artwork is printed: what the cut line follows, what is coloured in, white under it.

use inky_core::inks::Rgb;
use inky_core::print::PrintChoice;
use inky_core::print::look::{CutShape, Fill, Filled};
use inky_core::print::paint::Pattern;
use inky_core::recipe::Recipe;
use inky_core::shapes::{Design, DesignInk};
use inky_core::units::Unit;
use kurbo::Point;
use serde::Deserialize;

use crate::error::{WebError, wrong};
use crate::form::{Figures, Tick, parsed};
use crate::job::controls::Other;
use crate::job::layers::shown::Choice;
use crate::job::request::Base;
use crate::text;
use crate::typed::{mm, mm_or_none, number, place};

/// Where a refusal is told.
const FIELD: &str = "look";
/// How far white stays within what is printed, mm, so that none is seen beside it (common practice, no source).
const WITHIN: f64 = 0.2;

/// One change.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub(super) enum Change {
    /// What the cut line follows: a word, or the colour of a layer.
    Along { value: String },
    /// Whether white lies under it.
    White {
        #[serde(default)]
        value: Tick,
    },
    /// How far that stays within what is printed.
    WhiteWithin { value: String },
    /// What the colour of cut lines is called.
    CutName { value: String },
    /// All of an ink is coloured in.
    FillInk { value: Rgb },
    /// The piece at a place of the artwork, as it is typed.
    FillPlace { value: String },
    /// The piece at a place of the page, mm.
    FillAt { at: Figures<2> },
    /// What something is coloured in with.
    FillWith {
        #[serde(deserialize_with = "parsed")]
        which: usize,
        pattern: Pattern,
        colour: Rgb,
        #[serde(default)]
        ground: Option<Rgb>,
        #[serde(default)]
        size: Option<String>,
        #[serde(default)]
        angle: Option<String>,
        /// The job whose artwork repeats; empty before one was chosen.
        #[serde(default)]
        picture: String,
    },
    /// Not any more.
    FillOff {
        #[serde(deserialize_with = "parsed")]
        which: usize,
    },
}

impl Change {
    /// Changes a recipe, and names the step.
    pub(super) fn apply(self, base: &Base) -> Result<(Recipe, String), WebError> {
        let mut recipe = base.recipe.clone();
        let print = recipe.print.as_mut();
        let print = print.ok_or_else(|| wrong(FIELD, "print the artwork first"))?;
        let design = &base.outcome.design;
        let name = match self {
            Self::Along { value } => {
                print.look.cut = along(&value)?;
                // Its lines are others now.
                recipe.sheet = recipe.sheet.laid_anew();
                "What the cut line follows".to_owned()
            }
            Self::White { value } => {
                print.white = value.is_on().then_some(WITHIN);
                match value.is_on() {
                    true => "White under it",
                    false => "No white under it",
                }
                .to_owned()
            }
            Self::WhiteWithin { value } => {
                print.white = Some(mm_or_none(FIELD, &value, base.unit)?);
                "Edge of the white".to_owned()
            }
            Self::CutName { value } => {
                print.cut_name = value.trim().chars().take(60).collect();
                "Name of the cut colour".to_owned()
            }
            Self::FillInk { value } => {
                coloured(print, design, Filled::Ink(value))?;
                "Ink coloured in".to_owned()
            }
            Self::FillPlace { value } => {
                let p = place(FIELD, &value, base.unit)?;
                coloured(print, design, Filled::Piece(parts(design, p)))?;
                "Piece coloured in".to_owned()
            }
            Self::FillAt {
                at: Figures([x, y]),
            } => {
                let p = on_artwork(base, Point::new(x, y))?;
                coloured(print, design, Filled::Piece(parts(design, p)))?;
                "Piece coloured in".to_owned()
            }
            Self::FillWith {
                which,
                pattern,
                colour,
                ground,
                size,
                angle,
                picture,
            } => {
                let fill = of(print, which)?;
                fill.picture = match pattern {
                    Pattern::Picture => picture.parse().ok().or(fill.picture),
                    _ => None,
                };
                let with = &mut fill.with;
                (with.pattern, with.colour) = (pattern, colour);
                with.ground = ground.unwrap_or(with.ground);
                if let Some(size) = size {
                    with.size = mm(FIELD, &size, base.unit)?;
                }
                if let Some(angle) = angle {
                    with.angle = number(FIELD, angle.trim_end_matches('°'), "45")?;
                }
                "Colouring".to_owned()
            }
            Self::FillOff { which } => {
                of(print, which)?;
                print.look.fills.remove(which);
                "Colouring taken off".to_owned()
            }
        };
        Ok((recipe, name))
    }
}

fn of(print: &mut PrintChoice, which: usize) -> Result<&mut Fill, WebError> {
    let fill = print.look.fills.get_mut(which);
    fill.ok_or_else(|| wrong(FIELD, "this colouring is no more; open the line again"))
}

fn along(word: &str) -> Result<CutShape, WebError> {
    match word {
        "artwork" => Ok(CutShape::Artwork),
        "box" => Ok(CutShape::Box),
        "rounded" => Ok(CutShape::Rounded),
        "ellipse" => Ok(CutShape::Ellipse),
        colour => match colour.parse::<Rgb>() {
            Ok(colour) => Ok(CutShape::Layer(colour)),
            Err(_) => Err(wrong(FIELD, "choose what the cut line follows")),
        },
    }
}

/// A place of the artwork, mm, as parts of its sides.
fn parts(design: &Design, p: Point) -> [f64; 2] {
    let (w, h) = (design.size.width.get(), design.size.height.get());
    [p.x / w, p.y / h]
}

/// From a place of the page to one of the artwork that lies there, mm.
fn on_artwork(base: &Base, at: Point) -> Result<Point, WebError> {
    let printed = base.laid.sheets.iter().find_map(|s| s.printed.as_ref());
    let printed = printed.ok_or(WebError::NoPage)?;
    let picture = |n: usize| printed.arts.get(n).map(|a| &a.printed);
    let found = printed.page.picture_at(at, picture);
    match found {
        Some((0, p)) => Ok(p),
        Some(_) => Err(wrong(
            FIELD,
            "that is another job's picture: colour it in there",
        )),
        None => Err(wrong(FIELD, "no picture lies there")),
    }
}

/// Colours something in as the last one was.
fn coloured(print: &mut PrintChoice, design: &Design, of: Filled) -> Result<(), WebError> {
    print
        .look
        .colour_in(of, design)
        .map_err(|e| wrong(FIELD, e))
}

/// How the artwork is printed, in words.
pub(crate) struct LookShown {
    pub(crate) along: Vec<Choice>,
    /// How far white stays within what is printed, where there is any.
    pub(crate) white: Option<String>,
    pub(crate) cut_name: String,
    /// Colours and names of inks that can be coloured in.
    pub(crate) inks: Vec<(String, String)>,
    pub(crate) fills: Vec<FillRow>,
}

/// Something that is coloured in.
pub(crate) struct FillRow {
    pub(crate) n: usize,
    pub(crate) of: String,
    pub(crate) patterns: Vec<Choice>,
    pub(crate) flat: bool,
    pub(crate) is_picture: bool,
    /// Jobs whose artwork can repeat, where a picture does.
    pub(crate) pictures: Vec<Choice>,
    pub(crate) colour: String,
    pub(crate) ground: String,
    pub(crate) size: String,
    pub(crate) angle: String,
    /// Whether nothing of it is there any more.
    pub(crate) gone: bool,
}

impl FillRow {
    /// Whether the picture that repeats is known and there.
    pub(crate) fn has_picture(&self) -> bool {
        self.pictures.iter().any(|p| p.on)
    }
}

fn called(ink: &DesignInk) -> String {
    let letter = ink
        .letter
        .as_ref()
        .map(|l| format!("{l}, "))
        .unwrap_or_default();
    format!("{letter}{}", ink.colour)
}

pub(super) fn shown(
    print: &PrintChoice,
    (design, others): (&Design, &[Other]),
    unit: Unit,
) -> LookShown {
    let choice = |word: &str, label: &str, on| Choice {
        word: word.to_owned(),
        label: label.to_owned(),
        on,
    };
    let now = print.look.cut;
    let mut along: Vec<Choice> = [
        ("artwork", "the artwork", CutShape::Artwork),
        ("box", "a box", CutShape::Box),
        ("rounded", "a box with round corners", CutShape::Rounded),
        ("ellipse", "an ellipse", CutShape::Ellipse),
    ]
    .map(|(word, label, value)| choice(word, label, value == now))
    .into();
    let with_parts = design.inks.iter().filter(|i| i.shapes > 0);
    let inks: Vec<(String, String)> = with_parts
        .map(|i| (i.colour.to_string(), called(i)))
        .collect();
    // One ink alone is the artwork.
    if inks.len() > 1 || matches!(now, CutShape::Layer(_)) {
        along.extend(inks.iter().map(|(colour, name)| {
            let on = now == along_layer(colour);
            choice(colour, &format!("layer {name}"), on)
        }));
    }
    let fills = print.look.fills.iter().enumerate();
    LookShown {
        along,
        white: print.white.map(|mm| text::side(mm, unit)),
        cut_name: print.cut_name.clone(),
        fills: fills.map(|f| row(f, design, others, unit)).collect(),
        inks,
    }
}

fn along_layer(colour: &str) -> CutShape {
    colour
        .parse::<Rgb>()
        .map_or(CutShape::Artwork, CutShape::Layer)
}

fn row((n, fill): (usize, &Fill), design: &Design, others: &[Other], unit: Unit) -> FillRow {
    let of = match fill.of {
        Filled::Ink(colour) => {
            let ink = design.inks.iter().find(|i| i.colour == colour);
            format!("Ink {}", ink.map_or_else(|| colour.to_string(), called))
        }
        Filled::Piece([across, down]) => {
            let [x, y] = [
                across * design.size.width.get(),
                down * design.size.height.get(),
            ];
            let told = |mm: f64| text::length(mm, unit, 1);
            format!("Piece at {}, {}", told(x), told(y))
        }
    };
    let patterns = [
        ("flat", "one colour", Pattern::Flat),
        ("dots", "dots", Pattern::Dots),
        ("stripes", "stripes", Pattern::Stripes),
        ("checks", "checks", Pattern::Checks),
        ("picture", "a picture", Pattern::Picture),
    ];
    let patterns = patterns.map(|(word, label, value)| Choice {
        word: word.to_owned(),
        label: label.to_owned(),
        on: value == fill.with.pattern,
    });
    let is_picture = fill.with.pattern == Pattern::Picture;
    let others = others.iter().filter(|_| is_picture);
    let pictures = others.map(|(job, title, _)| Choice {
        word: job.to_string(),
        label: title.clone(),
        on: fill.picture == Some(*job),
    });
    let pictures: Vec<Choice> = pictures.collect();
    FillRow {
        n,
        of,
        patterns: patterns.into(),
        flat: fill.with.pattern == Pattern::Flat,
        is_picture,
        pictures,
        colour: fill.with.colour.to_string(),
        ground: fill.with.ground.to_string(),
        size: text::side(fill.with.size, unit),
        angle: format!("{}", fill.with.angle),
        gone: !fill.of.is_in(design),
    }
}
