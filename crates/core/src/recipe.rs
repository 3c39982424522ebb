//! The recipe: every choice made for a job, as one versioned value.
//!
//! A choice that was left to the program is `None` (or an `Auto` variant), not the figure it came
//! to: so a better copy of the artwork or another size gets a fitting default again.

use kurbo::Point;
use serde::{Deserialize, Serialize};

use crate::clean::square::Squared;
use crate::clean::{Action, Frame, Step};
use crate::inks::{Asked, InkChoice, InkMode, Screen, screen, tones};
use crate::layers::{LayerChoice, LayerError, Meet};
use crate::limits::{self, OutOfRange, within};
use crate::print::PrintChoice;
use crate::shapes::Edges;
use crate::sheet::choice::{SheetChoice, SheetError};
use crate::size::Size;
use crate::tidy::{Edit, Tidy};
use crate::units::{Degrees, Mm, SquareMm};

/// Version written into every stored recipe.
pub const RECIPE_VERSION: u32 = 1;

/// From one row of a screen to the next, unless it is chosen: so many of the finest stroke and gap together, and not
/// less than so many mm.
const PITCHES: f64 = 2.0;
const LEAST_PITCH: f64 = 0.8;

/// All choices of one job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Recipe {
    /// Layout of this value; see [`RECIPE_VERSION`].
    pub version: u32,
    /// What is done to the artwork first, in order.
    #[serde(default)]
    pub clean: Vec<Step>,
    /// How the artwork is parted into inks.
    #[serde(default)]
    pub inks: InkChoice,
    /// How the edges are followed.
    #[serde(default)]
    pub trace: TraceChoice,
    /// The finished size of the whole cleaned artwork.
    pub size: Size,
    /// What the inks are cut from, and how they meet.
    #[serde(default, skip_serializing_if = "LayerChoice::is_empty")]
    pub layers: LayerChoice,
    /// How it lies on its sheets.
    #[serde(default, skip_serializing_if = "SheetChoice::is_empty")]
    pub sheet: SheetChoice,
    /// How the artwork itself is printed, to be cut out; `None` cuts its layers.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub print: Option<PrintChoice>,
    /// What was changed of the outlines by hand and by rule; a new trace starts without.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tidy: Option<Tidy>,
}

/// How the edges are followed; lengths at the finished size.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct TraceChoice {
    /// Greatest distance of an outline from the artwork's edge; `None` follows the pixels' size.
    pub tolerance: Option<Mm>,
    /// Smallest part to keep; `None` follows the pixels' size.
    pub min_part: Option<SquareMm>,
    /// Turn from which a bend is a corner; `None` is [`crate::fit::DEFAULT_CORNER`].
    pub corner: Option<Degrees>,
    /// Length below which wobble of an edge is smoothed; `None` follows the measured noise.
    #[serde(default)]
    pub smooth: Option<Mm>,
    /// Which edges become outlines.
    pub edges: Edges,
}

/// A choice outside what can be done, with what is allowed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum RecipeError {
    /// A length, area or angle out of range.
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    /// More clean-up steps, points in them, or edits than are replayed.
    #[error("{found} {what} are more than the {most} that are replayed; take some steps out")]
    TooMuchCleaning {
        /// The number there is.
        found: usize,
        /// The number allowed.
        most: usize,
        /// Of what.
        what: &'static str,
    },
    /// A choice of layers that cannot be.
    #[error(transparent)]
    Layers(#[from] LayerError),
    /// A choice of sheets that cannot be.
    #[error(transparent)]
    Sheet(#[from] SheetError),
    /// Written by a newer version.
    #[error(
        "this recipe has version {found}, newer than {RECIPE_VERSION}; open it with a newer copy of the program"
    )]
    Version {
        /// The version found.
        found: u32,
    },
}

impl Recipe {
    /// A recipe that leaves everything but the size to the program.
    #[must_use]
    pub fn automatic(size: Size) -> Self {
        Self {
            version: RECIPE_VERSION,
            clean: Vec::new(),
            inks: InkChoice::default(),
            trace: TraceChoice::default(),
            size,
            layers: LayerChoice::default(),
            sheet: SheetChoice::default(),
            print: None,
            tidy: None,
        }
    }

    /// This recipe with the artwork parted in another way. Tones are stacked, since that is how sheets of card or film
    /// make a picture; what is no longer tones lies edge to edge again.
    #[must_use]
    pub fn parted(&self, mode: InkMode) -> Self {
        let mut changed = self.clone();
        let is_tones = |mode: InkMode| mode == InkMode::Tones;
        match (is_tones(self.inks.mode), is_tones(mode)) {
            (false, true) => changed.layers.meet = Meet::Stacked,
            (true, false) if self.layers.meet == Meet::Stacked => changed.layers.meet = Meet::Flush,
            _ => {}
        }
        changed.inks.mode = mode;
        changed
    }

    /// The recipe of the trace whose outlines the edits change: the same without edits, at the
    /// size at which it was traced. Inks that were switched off since are left out afterwards.
    #[must_use]
    pub fn traced(&self) -> Self {
        match &self.tidy {
            None => self.clone(),
            Some(tidy) => Self {
                size: tidy.traced_at,
                inks: InkChoice {
                    switched: tidy.switched.clone(),
                    ..self.inks.clone()
                },
                tidy: None,
                ..self.clone()
            },
        }
    }

    /// This recipe with one edit more.
    #[must_use]
    pub fn with_edit(&self, edit: Edit) -> Self {
        let mut changed = self.clone();
        let tidy = changed.tidy.get_or_insert_with(|| Tidy {
            traced_at: self.size,
            switched: self.inks.switched.clone(),
            kept: None,
            edits: Vec::new(),
        });
        tidy.edits.push(edit);
        changed
    }

    /// # Errors
    /// The first choice that is out of range.
    pub fn check(&self) -> Result<(), RecipeError> {
        if self.version > RECIPE_VERSION {
            return Err(RecipeError::Version {
                found: self.version,
            });
        }
        let traced_at = self.tidy.as_ref().map(|tidy| tidy.traced_at);
        for size in [Some(self.size), traced_at].into_iter().flatten() {
            within("a width", size.width.get(), &limits::SIDE_MM, "mm")?;
            within("a height", size.height.get(), &limits::SIDE_MM, "mm")?;
        }
        if let Some(t) = self.trace.tolerance {
            within("a tolerance", t.get(), &limits::TOLERANCE_MM, "mm")?;
        }
        if let Some(c) = self.trace.corner {
            within("a corner angle", c.get(), &limits::CORNER_DEG, "°")?;
        }
        if let Some(l) = self.trace.smooth {
            within("a smoothing", l.get(), &limits::SMOOTH_MM, "mm")?;
        }
        if let Some(a) = self.trace.min_part {
            within("a smallest part", a.get(), &limits::MIN_PART_MM2, "mm²")?;
        }
        let edits = self.tidy.as_ref().map_or(0, |t| t.edits.len());
        if edits > limits::EDITS {
            return Err(RecipeError::TooMuchCleaning {
                found: edits,
                most: limits::EDITS,
                what: "edits",
            });
        }
        self.layers.check()?;
        self.sheet.check()?;
        self.print.as_ref().map_or(Ok(()), PrintChoice::check)?;
        self.check_steps()?;
        Ok(self.inks.check()?)
    }

    fn check_steps(&self) -> Result<(), RecipeError> {
        let points = |step: &Step| match &step.action {
            Action::Brush { dabs, .. } => dabs.len(),
            Action::Areas { areas } => areas.iter().map(Vec::len).sum(),
            Action::Subject { strokes } => strokes.iter().map(|s| s.dabs.len()).sum(),
            _ => 0,
        };
        let counts = [
            (self.clean.len(), limits::CLEAN_STEPS, "clean-up steps"),
            (
                self.clean.iter().map(points).sum(),
                limits::CLEAN_POINTS,
                "points of strokes and areas",
            ),
        ];
        for (found, most, what) in counts {
            if found > most {
                return Err(RecipeError::TooMuchCleaning { found, most, what });
            }
        }
        let mut steps = self.clean.iter();
        Ok(steps.try_for_each(|step| step.action.check())?)
    }

    /// What the recipe asks of the inks of the cleaned artwork with this frame.
    #[must_use]
    pub fn asked(&self, frame: &Frame) -> Asked {
        let inks = &self.inks;
        let one_tone = matches!(inks.mode, InkMode::Mono { .. });
        let rim = inks.rim.filter(|rim| one_tone && rim.width.get() > 0.0);
        let part = |at: [f64; 2]| {
            let p = frame.to(at);
            [p.x / f64::from(frame.width), p.y / f64::from(frame.height)]
        };
        Asked {
            mode: inks.mode,
            added: if one_tone {
                Vec::new()
            } else {
                inks.added.clone()
            },
            rim: rim.map(|rim| (rim.kind, rim.width.get() / self.size.width.get())),
            enclosed: inks.enclosed.iter().map(|&at| part(at)).collect(),
            tones: self.tones(),
            screen: self.screen(),
            draft: false,
        }
    }

    /// What is asked of the tones: what the material allows, at the finished size.
    fn tones(&self) -> Option<tones::Asked> {
        let choice = &self.inks.tones;
        let count = match self.inks.mode {
            InkMode::Tones => choice.count,
            InkMode::Silhouette => 1,
            _ => return None,
        };
        let limits = self.layers.material().limits;
        let width = self.size.width.get();
        let wide = |limit: f64| choice.narrowest.map_or(limit, Mm::get) / width;
        Some(tones::Asked {
            count,
            levels: choice.levels.clone(),
            even: choice.even / 100.0,
            stroke: wide(limits.stroke),
            gap: wide(limits.gap),
            part: limits.part / width,
            hole: limits.hole / width,
            side_by_side: self.layers.meet != Meet::Stacked,
        })
    }

    /// What is asked of rows or dots: a laser draws as fine as its lines lie, a blade as its material allows.
    fn screen(&self) -> Option<screen::Asked> {
        let choice = &self.inks.screen;
        if self.inks.mode != InkMode::Screen {
            return None;
        }
        let (stroke, gap) = self.finest();
        let width = self.size.width.get();
        Some(screen::Asked {
            screen: choice.screen,
            pitch: self.pitch().get() / width,
            angle: choice.turned().get().to_radians(),
            stroke: stroke / width,
            gap: gap / width,
            even: self.inks.tones.even / 100.0,
            invert: choice.invert,
        })
    }

    /// From one row or dot to the next: as chosen, or so far that the finest of them tell tones apart.
    #[must_use]
    pub fn pitch(&self) -> Mm {
        let (stroke, gap) = self.finest();
        let usual = (PITCHES * (stroke + gap)).max(LEAST_PITCH);
        self.inks.screen.pitch.unwrap_or(Mm::new(usual))
    }

    /// Narrowest stroke and gap that can be drawn, mm.
    fn finest(&self) -> (f64, f64) {
        let material = self.layers.material();
        let limits = &material.limits;
        match (&material.laser, self.inks.screen.screen) {
            (Some(laser), _) => (laser.interval, laser.interval),
            (None, Screen::Rows) => (limits.stroke, limits.gap),
            // Dots are parts of their own, and holes where it is dark.
            (None, Screen::Dots) => (limits.part, limits.hole),
        }
    }

    /// Size of the cleaned artwork and the way to it, for an original of so many px.
    #[must_use]
    pub fn frame(&self, original_px: (u32, u32)) -> Frame {
        Frame::new(original_px.0, original_px.1).after_all(&self.clean)
    }

    /// This recipe with other clean-up steps: what is left of the artwork keeps its scale, so a
    /// crop makes the piece smaller and an enlargement only its pixels. What is squared up gets its true size where a
    /// side of it is known, and keeps the finished width where none is.
    #[must_use]
    pub fn with_clean(&self, clean: Vec<Step>, original_px: (u32, u32)) -> Self {
        let before = self.frame(original_px);
        let mut changed = Self {
            clean,
            ..self.clone()
        };
        let after = changed.frame(original_px);
        let side = |mm: f64| Mm::new(mm.clamp(*limits::SIDE_MM.start(), *limits::SIDE_MM.end()));
        if squared_up(&self.clean).ne(squared_up(&changed.clean)) {
            // A true side says how large it is; else it is as wide as it was wanted, since nothing keeps its scale.
            let (pixel, known) = pixel(&changed.clean, original_px);
            let wanted = self.size.width.get() / (f64::from(after.width) * pixel[0]);
            let mm = if known { 1.0 } else { wanted };
            changed.size.width = side(f64::from(after.width) * pixel[0] * mm);
            changed.size.height = side(f64::from(after.height) * pixel[1] * mm);
            return changed;
        }
        let (across, down) = self.size.mm_per_px(before.width, before.height);
        // Where the picture was squared up its scale differs from place to place: one place for both.
        let middle = after.from(Point::new(
            f64::from(after.width) / 2.0,
            f64::from(after.height) / 2.0,
        ));
        let scale = after.scale_at(middle) / before.scale_at(middle);
        let (across, down) = (across / scale, down / scale);
        // A picture that was stretched is stretched along the same sides of the artwork.
        let (across, down) = if before.on_its_side() == after.on_its_side() {
            (across, down)
        } else {
            (down, across)
        };
        changed.size.width = side(f64::from(after.width) * across);
        changed.size.height = side(f64::from(after.height) * down);
        changed
    }
}

/// What is squared up by the steps that are on.
fn squared_up(steps: &[Step]) -> impl Iterator<Item = &Squared> {
    steps
        .iter()
        .filter(|s| s.on)
        .filter_map(|s| match &s.action {
            Action::Square(squared) => Some(squared),
            _ => None,
        })
}

/// Width and height of a pixel of the cleaned artwork as what was squared up last says, and whether they are mm rather
/// than proportions.
fn pixel(steps: &[Step], original_px: (u32, u32)) -> ([f64; 2], bool) {
    let mut frame = Frame::new(original_px.0, original_px.1);
    let (mut pixel, mut known) = ([1.0; 2], false);
    for step in steps.iter().filter(|s| s.on) {
        let after = frame.after(&step.action);
        let before = std::mem::replace(&mut frame, after);
        match &step.action {
            Action::Square(squared) => {
                pixel = squared.pixel(original_px);
                known = squared.sides_mm().is_some();
            }
            Action::Quarter { turns } if turns % 2 == 1 => pixel.reverse(),
            Action::Enlarge { .. } => {
                let k = f64::from(before.width) / f64::from(frame.width);
                pixel = pixel.map(|side| side * k);
            }
            _ => {}
        }
    }
    (pixel, known)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_side_follows_from_the_other_while_locked() {
        // Common practice, no source: 1.500 wide and 2.298 tall, set to 1.4 wide, is 2.145 tall.
        let size = Size::at_ppi(1500, 2298, 1000.0);
        let inch = crate::units::MM_PER_INCH;
        assert!((size.height.get() / inch - 2.298).abs() < 1e-9);
        let narrower = size.with_width(Mm::new(1.4 * inch), 1500, 2298);
        assert!((narrower.height.get() / inch - 2.145).abs() < 5e-4);
        let free = Size {
            locked: false,
            ..size
        }
        .with_width(Mm::new(1.4 * inch), 1500, 2298);
        assert!((free.height.get() - size.height.get()).abs() < 1e-12);
    }

    #[test]
    fn a_crop_keeps_the_scale_and_an_enlargement_the_size() {
        let recipe = Recipe::automatic(Size::at_ppi(300, 200, 254.0));
        let on = |action| Step { on: true, action };
        let corners = [[50.0, 0.0], [250.0, 0.0], [250.0, 100.0], [50.0, 100.0]];
        let steps = vec![
            on(Action::Crop { corners }),
            on(Action::Quarter { turns: 1 }),
            on(Action::Enlarge { factor: 3 }),
        ];
        let cleaned = recipe.with_clean(steps.clone(), (300, 200));
        let frame = cleaned.frame((300, 200));
        assert_eq!((frame.width, frame.height), (300, 600));
        let size = cleaned.size;
        assert!((size.width.get() - 10.0).abs() < 1e-9 && (size.height.get() - 20.0).abs() < 1e-9);
        let json = serde_json::to_string(&cleaned).unwrap();
        assert_eq!(serde_json::from_str::<Recipe>(&json).unwrap(), cleaned);
        let off = steps.into_iter().map(|s| Step { on: false, ..s }).collect();
        let back = cleaned.with_clean(off, (300, 200)).size;
        let same = |a: Mm, b: Mm| (a.get() - b.get()).abs() < 1e-9;
        assert!(same(back.width, recipe.size.width) && same(back.height, recipe.size.height));
    }

    #[test]
    fn the_size_that_edits_were_traced_at_is_checked_too() {
        let across = 2.0;
        let resized = Edit::Resize { across, down: 1.0 };
        let mut recipe = Recipe::automatic(Size::at_ppi(32, 32, 96.0)).with_edit(resized);
        assert_eq!(recipe.check(), Ok(()));
        if let Some(tidy) = &mut recipe.tidy {
            tidy.traced_at.height = Mm::new(1e20);
        }
        assert!(recipe.check().is_err());
    }

    #[test]
    fn choices_out_of_range_say_what_is_allowed() {
        let mut recipe = Recipe::automatic(Size::at_ppi(100, 100, 96.0));
        recipe.trace.tolerance = Some(Mm::new(100.0));
        assert_eq!(
            recipe.check().unwrap_err().to_string(),
            "a tolerance of 100 mm is outside 0.001 to 10 mm"
        );
    }
}
