//! A page of a PDF as pixels: its lines, areas and plain pictures, as far as a shop's own files have them.
//!
//! The file is read by a library and painted by another; here each instruction of the page finds what it means (ISO
//! 32000-2:2020, 8.4 graphics state, 8.5 paths, 8.6 colours, 8.9 images). Words, shadings and patterns are counted and
//! left out.

use std::sync::Arc;

use hayro_syntax::Pdf;
use hayro_syntax::content::TypedIter;
use hayro_syntax::content::ops::TypedInstruction as Said;
use hayro_syntax::object::{Array, Dict, Name, Number, Stream};
use hayro_syntax::page::{Page, Resources};
use tiny_skia::{
    Color, FillRule, FilterQuality, LineCap, LineJoin, Mask, Paint, PathBuilder, Pixmap,
    PixmapPaint, Rect, Stroke, Transform,
};

use super::colour::Space;
use super::{MM_PER_POINT, Model, Print};

/// Pixels of a print at most; larger ones are drawn coarser.
const MOST: f64 = 12e6;
/// Forms within forms at most.
const NESTED: usize = 8;
/// States that are kept at once at most.
const DEEP: usize = 256;

#[derive(Clone)]
struct State {
    map: Transform,
    fill: Color,
    stroke: Color,
    fill_space: Space,
    stroke_space: Space,
    pen: Stroke,
    clip: Option<Arc<Mask>>,
}

struct Painter<'a> {
    page: &'a Page<'a>,
    /// What names stand for in the forms that are shown, one within the other.
    forms: Vec<Resources<'a>>,
    paper: Pixmap,
    state: State,
    kept: Vec<State>,
    path: PathBuilder,
    at: (f32, f32),
    /// The area that is cut out by the path once it is painted.
    clip: Option<FillRule>,
    left_out: usize,
}

/// A page of a file, printed; how many things of it were left out. `None` where it cannot be drawn at all.
pub(super) fn print(file: &Arc<Vec<u8>>, number: usize, model: &Model) -> Option<(Print, usize)> {
    let pdf = Pdf::new(Arc::clone(file)).ok()?;
    let page = pdf.pages().get(number)?;
    let unit = page.raw().get::<Number>("UserUnit");
    let unit = unit.map_or(1.0, |n| n.as_f64());
    let (wide, long) = page.render_dimensions();
    let size = [wide, long].map(|v| f64::from(v) * unit);
    let finest = (MOST / (size[0] * size[1])).sqrt();
    let scale = (model.ppi / 72.0).min(finest);
    let pixels = size.map(|v| (v * scale).ceil().clamp(1.0, 65_000.0) as u32);
    let mut paper = Pixmap::new(pixels[0], pixels[1])?;
    paper.fill(Color::WHITE);
    let [a, b, c, d, e, f] = page.initial_transform(true).as_coeffs().map(|v| v as f32);
    let [right, down] = model
        .slip
        .shift
        .map(|mm| (mm / MM_PER_POINT * scale) as f32);
    let [across, along] = model.slip.stretch.map(|v| v as f32);
    let points = (scale * unit) as f32;
    let map = Transform::from_row(a, b, c, d, e, f)
        .post_scale(points, points)
        .post_scale(across, along)
        .post_concat(Transform::from_skew(model.slip.skew as f32, 0.0))
        .post_concat(Transform::from_rotate(model.slip.turn as f32))
        .post_translate(right, down);
    let mut painter = Painter {
        page,
        forms: Vec::new(),
        paper,
        state: State {
            map,
            fill: Color::BLACK,
            stroke: Color::BLACK,
            fill_space: Space::Grey,
            stroke_space: Space::Grey,
            pen: Stroke::default(),
            clip: None,
        },
        kept: Vec::new(),
        path: PathBuilder::new(),
        at: (0.0, 0.0),
        clip: None,
        left_out: 0,
    };
    let mut said = page.typed_operations();
    while let Some(said) = said.next() {
        painter.does(&said);
    }
    let print = Print {
        pixels,
        rgba: painter.paper.take(),
    };
    Some((print, painter.left_out))
}

fn figures<const N: usize>(numbers: [&Number; N]) -> [f32; N] {
    numbers.map(Number::as_f32)
}

impl<'a> Painter<'a> {
    /// Does what an instruction says.
    fn does(&mut self, said: &Said<'_, '_>) {
        match said {
            Said::SaveState(_) if self.kept.len() < DEEP => self.kept.push(self.state.clone()),
            Said::RestoreState(_) => {
                if let Some(state) = self.kept.pop() {
                    self.state = state;
                }
            }
            Said::Transform(t) => {
                let [a, b, c, d, e, f] = figures([&t.0, &t.1, &t.2, &t.3, &t.4, &t.5]);
                self.state.map = self
                    .state
                    .map
                    .pre_concat(Transform::from_row(a, b, c, d, e, f));
            }
            Said::LineWidth(w) => self.state.pen.width = w.0.as_f32().max(0.0),
            Said::LineCap(cap) => {
                self.state.pen.line_cap = match cap.0.as_i64() {
                    1 => LineCap::Round,
                    2 => LineCap::Square,
                    _ => LineCap::Butt,
                };
            }
            Said::LineJoin(join) => {
                self.state.pen.line_join = match join.0.as_i64() {
                    1 => LineJoin::Round,
                    2 => LineJoin::Bevel,
                    _ => LineJoin::Miter,
                };
            }
            Said::MiterLimit(limit) => self.state.pen.miter_limit = limit.0.as_f32().max(1.0),
            Said::MoveTo(_)
            | Said::LineTo(_)
            | Said::CubicTo(_)
            | Said::CubicStartTo(_)
            | Said::CubicEndTo(_)
            | Said::ClosePath(_)
            | Said::RectPath(_) => self.draws(said),
            Said::StrokePath(_) => self.paints(None, true, false),
            Said::CloseAndStrokePath(_) => self.paints(None, true, true),
            Said::FillPathNonZero(_) | Said::FillPathNonZeroCompatibility(_) => {
                self.paints(Some(FillRule::Winding), false, false);
            }
            Said::FillPathEvenOdd(_) => self.paints(Some(FillRule::EvenOdd), false, false),
            Said::FillAndStrokeNonZero(_) => self.paints(Some(FillRule::Winding), true, false),
            Said::FillAndStrokeEvenOdd(_) => self.paints(Some(FillRule::EvenOdd), true, false),
            Said::CloseFillAndStrokeNonZero(_) => self.paints(Some(FillRule::Winding), true, true),
            Said::CloseFillAndStrokeEvenOdd(_) => self.paints(Some(FillRule::EvenOdd), true, true),
            Said::EndPath(_) => self.paints(None, false, false),
            Said::ClipNonZero(_) => self.clip = Some(FillRule::Winding),
            Said::ClipEvenOdd(_) => self.clip = Some(FillRule::EvenOdd),
            Said::XObject(object) => self.places(object.0),
            Said::Shading(_)
            | Said::InlineImage(_)
            | Said::ShowText(_)
            | Said::ShowTexts(_)
            | Said::NextLineAndShowText(_)
            | Said::ShowTextWithParameters(_) => self.left_out += 1,
            _ => self.colours(said),
        }
    }

    /// A piece more of the path.
    fn draws(&mut self, said: &Said<'_, '_>) {
        match said {
            Said::MoveTo(to) => {
                let [x, y] = figures([&to.0, &to.1]);
                self.path.move_to(x, y);
                self.at = (x, y);
            }
            Said::LineTo(to) => {
                let [x, y] = figures([&to.0, &to.1]);
                self.path.line_to(x, y);
                self.at = (x, y);
            }
            Said::CubicTo(c) => self.curve(figures([&c.0, &c.1, &c.2, &c.3, &c.4, &c.5])),
            Said::CubicStartTo(c) => {
                let [x2, y2, x, y] = figures([&c.0, &c.1, &c.2, &c.3]);
                self.curve([self.at.0, self.at.1, x2, y2, x, y]);
            }
            Said::CubicEndTo(c) => {
                let [x1, y1, x, y] = figures([&c.0, &c.1, &c.2, &c.3]);
                self.curve([x1, y1, x, y, x, y]);
            }
            Said::ClosePath(_) => self.path.close(),
            Said::RectPath(r) => {
                let [x, y, w, h] = figures([&r.0, &r.1, &r.2, &r.3]);
                let sides = Rect::from_ltrb(x.min(x + w), y.min(y + h), x.max(x + w), y.max(y + h));
                if let Some(sides) = sides {
                    self.path.push_rect(sides);
                }
                self.at = (x, y);
            }
            _ => {}
        }
    }

    fn curve(&mut self, [x1, y1, x2, y2, x, y]: [f32; 6]) {
        self.path.cubic_to(x1, y1, x2, y2, x, y);
        self.at = (x, y);
    }

    /// The path is painted, and cut out where that was asked for; then it is gone.
    fn paints(&mut self, fill: Option<FillRule>, stroke: bool, close: bool) {
        let mut path = std::mem::take(&mut self.path);
        let clip = self.clip.take();
        if close {
            path.close();
        }
        let Some(path) = path.finish() else { return };
        let State { map, ref pen, .. } = self.state;
        // No line is thinner than a dot of the printer (8.4.3.2).
        let dot = 1.0 / map.get_scale().0.min(map.get_scale().1).max(1e-6);
        let pen = &Stroke {
            width: pen.width.max(dot),
            ..pen.clone()
        };
        let mask = self.state.clip.clone();
        let mut paint = Paint::default();
        if let Some(rule) = fill {
            paint.set_color(self.state.fill);
            self.paper
                .fill_path(&path, &paint, rule, map, mask.as_deref());
        }
        if stroke {
            paint.set_color(self.state.stroke);
            self.paper
                .stroke_path(&path, &paint, pen, map, mask.as_deref());
        }
        if let Some(rule) = clip {
            let inside = match mask {
                Some(mask) => {
                    let mut mask = Arc::unwrap_or_clone(mask);
                    mask.intersect_path(&path, rule, true, map);
                    Some(mask)
                }
                None => Mask::new(self.paper.width(), self.paper.height()).map(|mut mask| {
                    mask.fill_path(&path, rule, true, map);
                    mask
                }),
            };
            self.state.clip = inside.map(Arc::new);
        }
    }

    /// What names stand for: those of the form that is shown, else of the page.
    fn resources(&self) -> &Resources<'a> {
        self.forms.last().unwrap_or(self.page.resources())
    }

    /// Does what a form says, in its own space (ISO 32000-2:2020, 8.10).
    fn shows(&mut self, form: &Stream<'a>) {
        let (Ok(bytes), dict) = (form.decoded(), form.dict()) else {
            self.left_out += 1;
            return;
        };
        let outside = (self.state.clone(), std::mem::take(&mut self.kept));
        if let Some([a, b, c, d, e, f]) = dict.get::<[f32; 6]>("Matrix") {
            let map = Transform::from_row(a, b, c, d, e, f);
            self.state.map = self.state.map.pre_concat(map);
        }
        self.forms
            .push(Resources::new(dict.get("Resources").unwrap_or_default()));
        let mut all = TypedIter::new(&bytes);
        while let Some(said) = all.next() {
            self.does(&said);
        }
        self.forms.pop();
        (self.state, self.kept) = outside;
    }

    fn colours(&mut self, said: &Said<'_, '_>) {
        let spaces = &self.resources().color_spaces.clone();
        let parts = |all: &[Number]| -> Vec<f32> { all.iter().map(Number::as_f32).collect() };
        let state = &mut self.state;
        let (stroke, space, parts) = match said {
            Said::ColorSpaceStroke(name) => {
                state.stroke_space = Space::named(name.0, spaces);
                return;
            }
            Said::ColorSpaceNonStroke(name) => {
                state.fill_space = Space::named(name.0, spaces);
                return;
            }
            Said::StrokeColor(c) => (true, state.stroke_space.clone(), parts(&c.0)),
            Said::StrokeColorNamed(c) => (true, state.stroke_space.clone(), parts(&c.0)),
            Said::NonStrokeColor(c) => (false, state.fill_space.clone(), parts(&c.0)),
            Said::NonStrokeColorNamed(c) => (false, state.fill_space.clone(), parts(&c.0)),
            Said::StrokeColorDeviceGray(c) => (true, Space::Grey, figures([&c.0]).to_vec()),
            Said::NonStrokeColorDeviceGray(c) => (false, Space::Grey, figures([&c.0]).to_vec()),
            Said::StrokeColorDeviceRgb(c) => {
                (true, Space::Rgb, figures([&c.0, &c.1, &c.2]).to_vec())
            }
            Said::NonStrokeColorDeviceRgb(c) => {
                (false, Space::Rgb, figures([&c.0, &c.1, &c.2]).to_vec())
            }
            Said::StrokeColorCmyk(c) => (
                true,
                Space::Cmyk,
                figures([&c.0, &c.1, &c.2, &c.3]).to_vec(),
            ),
            Said::NonStrokeColorCmyk(c) => (
                false,
                Space::Cmyk,
                figures([&c.0, &c.1, &c.2, &c.3]).to_vec(),
            ),
            _ => return,
        };
        let Some(colour) = space.colour(&parts) else {
            self.left_out += 1;
            return;
        };
        if stroke {
            (state.stroke, state.stroke_space) = (colour, space);
        } else {
            (state.fill, state.fill_space) = (colour, space);
        }
    }

    /// A picture or a form where the page has one of this name.
    fn places(&mut self, name: &Name<'_>) {
        let resources = self.resources();
        let stream = resources.x_objects.get::<Stream<'_>>(name);
        let picture = stream
            .as_ref()
            .and_then(|s| picture(s, &resources.color_spaces));
        let form = stream.filter(|s| is_a(s, b"Form") && self.forms.len() < NESTED);
        if let Some(form) = form {
            self.shows(&form);
            return;
        }
        let Some(picture) = picture else {
            self.left_out += 1;
            return;
        };
        // It fills a square of one, upside down.
        let (w, h) = (picture.width() as f32, picture.height() as f32);
        let map =
            self.state
                .map
                .pre_concat(Transform::from_row(1.0 / w, 0.0, 0.0, -1.0 / h, 0.0, 1.0));
        let paint = PixmapPaint {
            quality: FilterQuality::Bilinear,
            ..PixmapPaint::default()
        };
        let mask = self.state.clip.clone();
        self.paper
            .draw_pixmap(0, 0, picture.as_ref(), &paint, map, mask.as_deref());
    }
}

fn is_a(stream: &Stream<'_>, kind: &[u8]) -> bool {
    let subtype = stream.dict().get::<Name<'_>>("Subtype");
    subtype.is_some_and(|name| name.as_ref() == kind)
}

/// The bytes of a picture's colours, pixel by pixel.
fn samples(stream: &Stream<'_>, space: &Space) -> Option<Vec<u8>> {
    let filter = stream.dict().get::<Name<'_>>("Filter");
    if filter.is_none_or(|name| name.as_ref() != b"DCTDecode") {
        return stream.decoded().ok().map(|bytes| bytes.into_owned());
    }
    let file = stream.raw_data();
    let read = image::load_from_memory_with_format(&file, image::ImageFormat::Jpeg).ok()?;
    Some(match space {
        Space::Grey => read.into_luma8().into_raw(),
        _ => read.into_rgb8().into_raw(),
    })
}

/// A plain picture: eight bits of grey or RGB, a JPEG among them, with what it lets through.
fn picture(stream: &Stream<'_>, spaces: &Dict<'_>) -> Option<Pixmap> {
    let dict = stream.dict();
    if !is_a(stream, b"Image") {
        return None;
    }
    let side = |key: &str| u32::try_from(dict.get::<Number>(key)?.as_i64()).ok();
    let (width, height) = (side("Width")?, side("Height")?);
    if dict.get::<Number>("BitsPerComponent")?.as_i64() != 8
        || f64::from(width) * f64::from(height) > MOST
    {
        return None;
    }
    let space = match dict.get::<Name<'_>>("ColorSpace") {
        Some(name) => Space::named(&name, spaces),
        None => Space::written(&dict.get::<Array<'_>>("ColorSpace")?)?,
    };
    let bytes = samples(stream, &space)?;
    let mut rgba: Vec<u8> = match space {
        Space::Grey => bytes.iter().flat_map(|&v| [v, v, v, 255]).collect(),
        Space::Rgb => bytes
            .chunks_exact(3)
            .flat_map(|p| [p[0], p[1], p[2], 255])
            .collect(),
        _ => return None,
    };
    if let Some(mask) = dict.get::<Stream<'_>>("SMask") {
        let through = mask.decoded().ok()?;
        for (pixel, alpha) in rgba.as_chunks_mut::<4>().0.iter_mut().zip(through.iter()) {
            // Colours are held as they shine through, alpha itself among them.
            *pixel = pixel.map(|v| (u16::from(v) * u16::from(*alpha) / 255) as u8);
        }
    }
    Pixmap::from_vec(rgba, tiny_skia::IntSize::from_wh(width, height)?)
}
