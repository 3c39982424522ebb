//! The page: pictures laid out with their cut lines, and marks.

use kurbo::{Affine, Point, Rect, Shape as _};

use super::code::{Code, CodeError};
use super::marks::{Mark, from_first};
use super::{PrintChoice, Printed};
use crate::cutting::Cutting;
use crate::material::Material;
use crate::overlay::Rings;
use crate::sheet::{Group, Sheet, Source, choice::SheetChoice};

/// Where one copy of a picture lies.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Print {
    /// Number of the picture.
    pub picture: usize,
    /// From the picture, mm, to the page, mm.
    pub map: Affine,
}

/// A page to be printed, and what is cut of it; mm, y down.
#[derive(Clone, Debug)]
pub struct PrintPage {
    /// What it is printed like.
    pub choice: PrintChoice,
    /// Where pictures lie.
    pub prints: Vec<Print>,
    /// Marks in their order.
    pub marks: Vec<Mark>,
    /// The code that names what it belongs to.
    pub code: Option<Code>,
    /// How much of the page's length is saved by marks that were pulled up, mm.
    pub saved: f64,
    /// The cut lines, on the page.
    pub cutting: Cutting,
}

impl Printed {
    /// Its cut line as what is laid on a sheet.
    #[must_use]
    pub fn source(
        &self,
        (sheet, material): (&PrintChoice, &Material),
        choice: &SheetChoice,
    ) -> Source {
        let group = Group {
            name: material.name.clone(),
            material: material.clone(),
            colour: None,
            layers: vec![self.layer(material)],
        };
        group.source((&self.name, ""), &sheet.stock(&material.name), choice)
    }
}

impl PrintPage {
    /// Pictures as they were laid out as the sources of a sheet of [`PrintChoice::stock`], in the same order.
    #[must_use]
    pub fn of(choice: &PrintChoice, pictures: &[Printed], sheet: &Sheet) -> Self {
        let room = choice.laid();
        let to_page = Affine::translate(room.origin().to_vec2());
        let prints: Vec<Print> = sheet
            .items
            .iter()
            .filter_map(|item| {
                let (spot, picture) = (item.spot?, pictures.get(item.source)?);
                let corner = picture.bounds().origin().to_vec2();
                let map = to_page * sheet.piece(item).to(spot) * Affine::translate(-corner);
                Some(Print {
                    picture: item.source,
                    map,
                })
            })
            .collect();
        let cutting = Cutting {
            size: choice.page,
            ..sheet.cutting().moved(to_page)
        };
        let page = Self {
            choice: choice.clone(),
            marks: choice.marks(),
            code: None,
            saved: 0.0,
            prints,
            cutting,
        };
        if !choice.pulled {
            let saved = choice.saved_by(&page.marks, page.cutting.bounds());
            return Self { saved, ..page };
        }
        let (marks, saved) = choice.pulled(&page.outlines(pictures));
        let page = Self {
            marks,
            saved,
            ..page
        };
        if choice.roll { page.cut_off() } else { page }
    }

    /// A roll that ends its margin below the lowest mark.
    fn cut_off(mut self) -> Self {
        let lowest = self.reach().y1 + self.choice.marks.size / 2.0;
        self.choice.page[1] = lowest + self.choice.margins[3];
        self.cutting.size = self.choice.page;
        self.saved = 0.0;
        self
    }

    /// Puts a code that says a text on it, where one is asked for.
    ///
    /// # Errors
    /// The text cannot be said by a code; then it has none.
    pub fn name(&mut self, text: &str) -> Result<(), CodeError> {
        let code = self.choice.code_box().map(|b| Code::new(text, b));
        self.code = code.transpose()?;
        Ok(())
    }

    /// The picture that is cut out where a place of the page lies, by its number, and the place on it, mm.
    pub fn picture_at<'a>(
        &self,
        at: Point,
        picture: impl Fn(usize) -> Option<&'a Printed>,
    ) -> Option<(usize, Point)> {
        self.prints.iter().find_map(|print| {
            let p = print.map.inverse() * at;
            let holds = |r: &Rings| r.outer.path().contains(p);
            let cut = &picture(print.picture)?.cut;
            cut.iter().any(holds).then_some((print.picture, p))
        })
    }

    /// What is printed black of marks and code, on the page.
    pub fn ink(&self) -> impl Iterator<Item = Rings> {
        let marks = self.marks.iter().flat_map(|m| self.choice.marks.ink(*m));
        marks.chain(self.code.iter().flat_map(|c| c.ink.clone()))
    }

    /// All that is printed of pictures, as chords.
    fn outlines(&self, pictures: &[Printed]) -> Vec<Vec<Point>> {
        let lines = self.prints.iter().flat_map(|print| {
            let rings = pictures[print.picture].printed.iter().flat_map(Rings::all);
            rings.map(move |ring| {
                let points = ring.chords(crate::sheet::piece::TOLERANCE);
                points.into_iter().map(|p| print.map * p).collect()
            })
        });
        lines.collect()
    }

    /// The box between the middles of the marks, mm.
    #[must_use]
    pub fn reach(&self) -> Rect {
        let boxes = self.marks.iter().map(|m| Rect::from_points(m.at, m.at));
        boxes.reduce(|a, b| a.union(b)).unwrap_or_default()
    }

    /// From the first mark to the farthest others, mm: files measured from its lower left corner are measured from the first
    /// mark.
    #[must_use]
    pub fn cut_box(&self) -> Rect {
        let reach = self.reach();
        let first = self.marks.first().map_or(reach.origin(), |m| m.at);
        Rect::new(first.x, reach.y0, reach.x1, first.y)
    }

    /// The cut lines on a page that is [`Self::cut_box`].
    #[must_use]
    pub fn from_first_mark(&self) -> Cutting {
        let b = self.cut_box();
        Cutting {
            size: [b.width(), b.height()],
            ..self.cutting.moved(Affine::translate(-b.origin().to_vec2()))
        }
    }

    /// The marks as seen from the first, y up, mm.
    #[must_use]
    pub fn meant(&self) -> Vec<Point> {
        let map = from_first(&self.marks);
        self.marks.iter().map(|m| map * m.at).collect()
    }

    /// The box around the cut lines and that around all that is printed of pictures, mm; the whole page where nothing
    /// is on it.
    #[must_use]
    pub fn boxes(&self) -> [Rect; 2] {
        let [w, h] = self.choice.page;
        let whole = Rect::new(0.0, 0.0, w, h);
        let trim = self.cutting.bounds().unwrap_or(whole);
        let bleed = trim
            .inflate(self.choice.bleed, self.choice.bleed)
            .intersect(whole);
        [trim, bleed]
    }
}
