//! Lettering: words in a shipped face to outlines, by the height of a capital in mm.
//!
//! ```text
//!   words ──harfrust──► letters and places ──skrifa──► outlines ──bend──► union of what overlaps
//!           kerning        font units                   y down    along an arc
//! ```
//!
//! The faces are ten that suit signs, all under the SIL Open Font License 1.1 and without reserved
//! names (`licences/faces`), their Latin parts as the `@fontsource` packages ship them.

mod woff;

use std::sync::OnceLock;

use harfrust::{FontRef, ShapeOptions, ShaperData, UnicodeBuffer};
use inky_core::limits::{OutOfRange, within};
use inky_core::overlay::{self, Keep};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::tidy::{PathData, TextLine};
use kurbo::{Affine, CubicBez, Line, Point, QuadBez, Vec2};
use skrifa::MetadataProvider as _;
use skrifa::instance::{LocationRef, Size};
use skrifa::outline::{DrawSettings, OutlinePen};

/// A shipped face.
struct Face {
    name: &'static str,
    woff: &'static [u8],
}

macro_rules! face {
    ($name:literal, $file:literal) => {
        Face {
            name: $name,
            woff: include_bytes!(concat!("../../faces/", $file, ".woff")),
        }
    };
}

static FACES: [Face; 10] = [
    face!("Montserrat", "montserrat"),
    face!("Oswald", "oswald"),
    face!("Bebas Neue", "bebas-neue"),
    face!("Anton", "anton"),
    face!("Archivo Black", "archivo-black"),
    face!("League Spartan", "league-spartan"),
    face!("Fredoka", "fredoka"),
    face!("Pacifico", "pacifico"),
    face!("Great Vibes", "great-vibes"),
    face!("Saira Stencil One", "saira-stencil-one"),
];

/// Letters of a line at most.
const LETTERS: usize = 200;

/// Why there is no lettering.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum LetteringError {
    /// No words, or too many.
    #[error("type between 1 and {LETTERS} letters")]
    Words,
    /// No such face.
    #[error("there is no face called {0}; choose one from the list")]
    Face(String),
    /// A figure that cannot be used.
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    /// Letters that the face does not have.
    #[error("{face} has no {letters}; choose another face")]
    Missing {
        /// The face.
        face: &'static str,
        /// The letters.
        letters: String,
    },
    /// The words go more than once around.
    #[error(
        "these words are {length:.0} mm long; on an arc they need a radius of at least {least:.1} mm"
    )]
    Around {
        /// Length of the words, mm.
        length: f64,
        /// Least radius, mm.
        least: f64,
    },
}

/// Names of the shipped faces.
pub fn faces() -> impl Iterator<Item = &'static str> {
    FACES.iter().map(|f| f.name)
}

/// The font of a face, unpacked once.
fn font(n: usize) -> Option<FontRef<'static>> {
    static FONTS: [OnceLock<Option<Vec<u8>>>; 10] = [const { OnceLock::new() }; 10];
    let bytes = FONTS[n].get_or_init(|| woff::unwrap(FACES[n].woff));
    FontRef::new(bytes.as_deref()?).ok()
}

fn check(line: &TextLine) -> Result<(), LetteringError> {
    let count = line.words.chars().count();
    if line.words.trim().is_empty() || count > LETTERS || line.words.chars().any(char::is_control) {
        return Err(LetteringError::Words);
    }
    for (what, found, least, greatest) in [
        ("a cap height", line.cap_height, 0.5, 2000.0),
        ("a spacing", line.spacing, -100.0, 500.0),
        ("a radius", line.radius, -20_000.0, 20_000.0),
        ("a place", line.at[0], -1e5, 1e5),
        ("a place", line.at[1], -1e5, 1e5),
    ] {
        within(what, found, &(least..=greatest), "mm")?;
    }
    Ok(())
}

/// A letter: its outline in font units, y up, where it stands and how far it moves on.
struct Letter {
    contours: Vec<Vec<Segment>>,
    at: Vec2,
    advance: f64,
}

/// The outlines of a line of lettering, mm, y down; letters that overlap are one.
///
/// # Errors
/// [`LetteringError`] says what cannot be set.
pub fn outlines(line: &TextLine) -> Result<Vec<PathData>, LetteringError> {
    check(line)?;
    let unknown = || LetteringError::Face(line.face.clone());
    let n = FACES
        .iter()
        .position(|f| f.name == line.face)
        .ok_or_else(unknown)?;
    let font = font(n).ok_or_else(unknown)?;
    let letters = shaped(&font, &line.words, FACES[n].name)?;
    let k = line.cap_height / cap_height(&font);
    let gaps = letters.len().saturating_sub(1) as f64;
    let length = letters.iter().map(|l| l.advance).sum::<f64>() * k + gaps * line.spacing;
    let least = length / std::f64::consts::TAU;
    if line.radius.abs() > 1e-9 && line.radius.abs() < least {
        return Err(LetteringError::Around { length, least });
    }
    let mut pen = -length / 2.0;
    let mut rings = Vec::new();
    for letter in &letters {
        let half = letter.advance * k / 2.0;
        // The letter around its own middle, then to its place on the baseline.
        let centred = Affine::translate((-half, 0.0))
            * Affine::scale_non_uniform(k, -k)
            * Affine::translate(letter.at);
        let placed = on_baseline(line, pen + half) * centred;
        for contour in &letter.contours {
            let moved = contour.iter().flat_map(|s| s.moved(placed)).collect();
            rings.extend(Ring::new(moved, Vec::new()));
        }
        pen += letter.advance * k + line.spacing;
    }
    let found = overlay::overlay(&rings.iter().collect::<Vec<_>>(), &[], Keep::Union);
    if found.is_empty() {
        return Err(LetteringError::Words);
    }
    let paths = found.iter().flat_map(overlay::Rings::all);
    Ok(paths.map(|r| PathData::of(r.segments(), true)).collect())
}

/// From around the middle of a letter on a level baseline to its place `along` mm from the middle.
fn on_baseline(line: &TextLine, along: f64) -> Affine {
    let at = Vec2::new(line.at[0], line.at[1]);
    if line.radius.abs() < 1e-9 {
        return Affine::translate(at + Vec2::new(along, 0.0));
    }
    // Arching up, the middle of the circle lies below; sagging, above.
    let angle = along / line.radius;
    let down = Vec2::new(0.0, line.radius);
    Affine::translate(at + down) * Affine::rotate(angle) * Affine::translate(-down)
}

/// Height of a capital, font units: as the face states it, or that of its H.
fn cap_height(font: &FontRef<'_>) -> f64 {
    let stated = font
        .metrics(Size::unscaled(), LocationRef::default())
        .cap_height;
    stated.filter(|&h| h > 0.0).map_or(700.0, f64::from)
}

/// Letters with their places, kerned.
fn shaped(
    font: &FontRef<'_>,
    words: &str,
    face: &'static str,
) -> Result<Vec<Letter>, LetteringError> {
    let charmap = font.charmap();
    let missing: String = words
        .chars()
        .filter(|&c| charmap.map(c).is_none())
        .collect();
    if !missing.is_empty() {
        return Err(LetteringError::Missing {
            face,
            letters: missing,
        });
    }
    let data = ShaperData::new(font);
    let mut buffer = UnicodeBuffer::new();
    buffer.push_str(words);
    buffer.guess_segment_properties();
    let set = data.shaper(font).build().shape(buffer, ShapeOptions::new());
    let outlines = font.outline_glyphs();
    let letters = set.glyph_infos().iter().zip(set.glyph_positions());
    Ok(letters
        .map(|(info, place)| {
            let mut pen = Pen::default();
            if let Some(glyph) = outlines.get(skrifa::GlyphId::new(info.glyph_id)) {
                let settings = DrawSettings::unhinted(Size::unscaled(), LocationRef::default());
                // A letter that cannot be drawn is a space.
                let _ = glyph.draw(settings, &mut pen);
            }
            Letter {
                contours: pen.contours,
                at: Vec2::new(f64::from(place.x_offset), f64::from(place.y_offset)),
                advance: f64::from(place.x_advance),
            }
        })
        .collect())
}

/// Gathers the contours of a letter.
#[derive(Default)]
struct Pen {
    contours: Vec<Vec<Segment>>,
    now: Vec<Segment>,
    start: Point,
    at: Point,
}

impl Pen {
    fn go(&mut self, segment: Segment) {
        self.at = segment.end();
        if segment.start() != segment.end() {
            self.now.push(segment);
        }
    }
}

impl OutlinePen for Pen {
    fn move_to(&mut self, x: f32, y: f32) {
        self.now.clear();
        self.start = Point::new(x.into(), y.into());
        self.at = self.start;
    }

    fn line_to(&mut self, x: f32, y: f32) {
        let to = Point::new(x.into(), y.into());
        self.go(Segment::Line(Line::new(self.at, to)));
    }

    fn quad_to(&mut self, cx: f32, cy: f32, x: f32, y: f32) {
        let (c, to) = (
            Point::new(cx.into(), cy.into()),
            Point::new(x.into(), y.into()),
        );
        self.go(Segment::Cubic(QuadBez::new(self.at, c, to).raise()));
    }

    fn curve_to(&mut self, cx0: f32, cy0: f32, cx1: f32, cy1: f32, x: f32, y: f32) {
        let p = |x: f32, y: f32| Point::new(x.into(), y.into());
        self.go(Segment::Cubic(CubicBez::new(
            self.at,
            p(cx0, cy0),
            p(cx1, cy1),
            p(x, y),
        )));
    }

    fn close(&mut self) {
        self.go(Segment::Line(Line::new(self.at, self.start)));
        if self.now.len() > 1 {
            self.contours.push(std::mem::take(&mut self.now));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use skrifa::raw::TableProvider as _;

    fn line(words: &str, face: &str) -> TextLine {
        TextLine {
            words: words.to_owned(),
            face: face.to_owned(),
            cap_height: 20.0,
            spacing: 0.0,
            radius: 0.0,
            at: [100.0, 50.0],
        }
    }

    fn bounds(paths: &[PathData]) -> kurbo::Rect {
        let segments = paths.iter().flat_map(|p| p.segments().unwrap());
        segments
            .map(|s| s.bounds())
            .reduce(|a, b| a.union(b))
            .unwrap()
    }

    #[test]
    fn every_face_is_as_high_as_asked_and_moves_on_as_its_tables_say() {
        for (n, face) in faces().enumerate() {
            let h = bounds(&outlines(&line("H", face)).unwrap());
            // Scripts and round faces overshoot their stated cap height.
            let loose = ["Pacifico", "Great Vibes", "Fredoka"].contains(&face);
            let allowed = if loose { 8.0 } else { 0.6 };
            assert!(
                (h.height() - 20.0).abs() < allowed,
                "{face}: {}",
                h.height()
            );
            // hmtx: the advance width of each letter.
            let font = font(n).unwrap();
            let hmtx = font.hmtx().unwrap();
            for letter in shaped(&font, "H", face).unwrap() {
                let glyph = font.charmap().map('H').unwrap();
                let stated = f64::from(hmtx.advance(glyph).unwrap());
                assert!((letter.advance - stated).abs() < 1e-9, "{face}");
            }
        }
        assert_eq!(faces().count(), 10);
    }

    #[test]
    fn letters_are_kerned_spaced_and_united_where_they_overlap() {
        let wide = |text: &TextLine| bounds(&outlines(text).unwrap()).width();
        let font = font(0).unwrap();
        let sum = |words: &str| {
            shaped(&font, words, "")
                .unwrap()
                .iter()
                .map(|l| l.advance)
                .sum::<f64>()
        };
        assert!(sum("AV") < sum("A") + sum("V"), "kerned");
        let spaced = TextLine {
            spacing: 5.0,
            ..line("HIH", "Oswald")
        };
        assert!((wide(&spaced) - wide(&line("HIH", "Oswald")) - 10.0).abs() < 1e-6);
        // A connected script is one piece: as many outer rings as words and dots.
        let script = outlines(&line("mun", "Pacifico")).unwrap();
        let outer = script.iter().filter(|p| {
            let area: f64 = p.segments().unwrap().iter().map(Segment::signed_area).sum();
            area > 0.0
        });
        assert_eq!(outer.count(), 1);
        let middle = bounds(&outlines(&line("HOH", "Anton")).unwrap());
        assert!((middle.center().x - 100.0).abs() < 0.5 && (middle.y1 - 50.0).abs() < 0.5);
    }

    #[test]
    fn an_arc_bends_the_baseline_up_or_down() {
        let bent = |radius| {
            bounds(
                &outlines(&TextLine {
                    radius,
                    ..line("HHHHHHH", "Bebas Neue")
                })
                .unwrap(),
            )
        };
        let (level, up, down) = (bent(0.0), bent(60.0), bent(-60.0));
        assert!(
            up.width() < level.width() + 20.0 && up.y1 > level.y1 + 3.0,
            "ends hang down"
        );
        assert!(down.y0 < level.y0 - 3.0, "ends stand up");
        let around = outlines(&TextLine {
            radius: 5.0,
            ..line("HHHHHHH", "Anton")
        });
        assert!(matches!(around, Err(LetteringError::Around { .. })));
    }

    #[test]
    fn what_cannot_be_set_says_why() {
        assert_eq!(outlines(&line("  ", "Anton")), Err(LetteringError::Words));
        assert!(matches!(
            outlines(&line("x", "Nope")),
            Err(LetteringError::Face(_))
        ));
        let missing = outlines(&line("日x", "Anton")).unwrap_err().to_string();
        assert_eq!(missing, "Anton has no 日; choose another face");
        for cap_height in [0.0, f64::NAN, 1e300] {
            let wrong = TextLine {
                cap_height,
                ..line("x", "Anton")
            };
            assert!(matches!(
                outlines(&wrong),
                Err(LetteringError::OutOfRange(_))
            ));
        }
        assert!(woff::unwrap(b"wOFFxxxx").is_none() && woff::unwrap(&[]).is_none());
    }
}
