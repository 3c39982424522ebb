//! A sheet of office paper with words on it.

use inky_core::units::{MM_PER_INCH, Unit};
use pdf_writer::{Content, Finish, Name, Pdf, Rect, Ref};

use super::{CATALOG, CONTENT, PAGE, POINTS_PER_MM, TREE, finish};

/// Sizes of paper.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Paper {
    /// 210 × 297 mm (ISO 216).
    #[default]
    A4,
    /// 8.5 × 11 in (ANSI/ASME Y14.1, size A).
    Letter,
}

impl Paper {
    /// The paper that is usual where a unit is.
    #[must_use]
    pub const fn usual(unit: Unit) -> Self {
        match unit {
            Unit::Mm => Self::A4,
            Unit::In => Self::Letter,
        }
    }

    /// Width and height, mm.
    #[must_use]
    pub const fn size(self) -> [f64; 2] {
        match self {
            Self::A4 => [210.0, 297.0],
            Self::Letter => [8.5 * MM_PER_INCH, 11.0 * MM_PER_INCH],
        }
    }
}

/// Left and right, mm.
pub(super) const MARGIN: f64 = 18.0;
/// Upright and bold.
pub(super) const PLAIN: &[u8] = b"F1";
pub(super) const BOLD: &[u8] = b"F2";

/// A page that is filled from the top.
pub(super) struct Page {
    pub(super) content: Content,
    pub(super) size: [f64; 2],
    /// How far down it is filled, mm.
    pub(super) down: f64,
}

impl Page {
    pub(super) fn new(paper: Paper) -> Self {
        Self {
            content: Content::new(),
            size: paper.size(),
            down: MARGIN,
        }
    }

    /// Words at a distance from the left, on a line `down` mm below the top.
    pub(super) fn words(&mut self, (x, down): (f64, f64), style: (&[u8], f32), text: &str) {
        let at = (x * POINTS_PER_MM, (self.size[1] - down) * POINTS_PER_MM);
        super::show(&mut self.content, at, style, text);
    }

    /// Words on a line of their own.
    pub(super) fn line(&mut self, style: (&[u8], f32), text: &str) {
        self.down += f64::from(style.1) / POINTS_PER_MM * 1.35;
        self.words((MARGIN, self.down), style, text);
    }

    /// A thin rule across the page.
    pub(super) fn rule(&mut self) {
        self.down += 3.0;
        let y = ((self.size[1] - self.down) * POINTS_PER_MM) as f32;
        let right = ((self.size[0] - MARGIN) * POINTS_PER_MM) as f32;
        self.content.set_stroke_gray(0.7).set_line_width(0.5);
        self.content
            .move_to((MARGIN * POINTS_PER_MM) as f32, y)
            .line_to(right, y)
            .stroke();
        self.down += 2.0;
    }

    /// The document of this one page.
    pub(super) fn done(self, title: &str) -> Vec<u8> {
        let mut pdf = Pdf::new();
        pdf.catalog(Ref::new(CATALOG)).pages(Ref::new(TREE));
        pdf.pages(Ref::new(TREE)).kids([Ref::new(PAGE)]).count(1);
        let mut page = pdf.page(Ref::new(PAGE));
        let [w, h] = self.size.map(|mm| (mm * POINTS_PER_MM) as f32);
        page.parent(Ref::new(TREE))
            .media_box(Rect::new(0.0, 0.0, w, h))
            .contents(Ref::new(CONTENT));
        let mut resources = page.resources();
        let mut fonts = resources.fonts();
        let faces = [(PLAIN, Ref::new(6)), (BOLD, Ref::new(7))];
        for (name, id) in faces {
            fonts.pair(Name(name), id);
        }
        fonts.finish();
        resources.finish();
        page.finish();
        for ((_, id), face) in faces.into_iter().zip(["Helvetica", "Helvetica-Bold"]) {
            pdf.type1_font(id)
                .base_font(Name(face.as_bytes()))
                .encoding_predefined(Name(b"WinAnsiEncoding"));
        }
        finish(pdf, self.content, title)
    }
}
