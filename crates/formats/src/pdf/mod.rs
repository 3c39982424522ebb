//! PDF of a page, in points of 1/72 inch, the page box exactly as large as the page.
//!
//! ```text
//!   layout   cut lines as hairlines in a Separation colour with a name of one's own, on their layer
//!   proof    for the customer: the design in its colours with its measures
//!   chart    for who sets the stones: where each lies, and the list of them
//!   order    for the workshop: what to cut, from what, with which settings
//!   print    pictures with bleed, registration marks and the cut lines of a page to be printed and cut
//! ```
//!
//! A page above 14 400 points states a user unit (PDF 1.6). Words are in Helvetica, one of the fonts that
//! every reader has. No date, no random id. Source: ISO 32000-1, 7.7.3.3 (page boxes), 8.6.6.4
//! (Separation), 8.11 (optional content), 9.6.2.2 (standard fonts).

pub mod chart;
pub mod order;
mod paper;
mod pattern;
pub mod print;
pub mod proof;

use inky_core::cutting::{CutLayer, Cutting};
use inky_core::units::MM_PER_INCH;
use kurbo::{Affine, BezPath, PathEl};
use pdf_writer::writers::ColorSpace;
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Rect, Ref, Str};

pub use paper::Paper;

/// Points in a mm.
pub const POINTS_PER_MM: f64 = 72.0 / MM_PER_INCH;
/// Greatest side of a page without a user unit, points.
const LARGEST: f64 = 14_400.0;
/// Width of a cut line, points.
const HAIRLINE: f32 = 0.25;
/// What the colour of cut lines is called unless it is chosen.
pub const CUT_LINE: &str = "Cut line";
/// How the cut lines look where there is no such ink: cyan, magenta, yellow, black.
const LOOKS: [f32; 4] = [0.0, 1.0, 0.2, 0.0];

const CATALOG: i32 = 1;
const TREE: i32 = 2;
const PAGE: i32 = 3;
const CONTENT: i32 = 4;
/// References from here on are of layers.
const GROUPS: i32 = 10;

/// Writes the lines of a page, each layer as one that a reader can switch off.
#[must_use]
pub fn layout(cutting: &Cutting, title: &str, spot: &str) -> Vec<u8> {
    let [width, height] = cutting.size.map(|mm| mm * POINTS_PER_MM);
    let unit = (width.max(height) / LARGEST).ceil().max(1.0);
    let scale = POINTS_PER_MM / unit;
    let up = Affine::new([scale, 0.0, 0.0, -scale, 0.0, height / unit]);
    let mut content = Content::new();
    content.set_stroke_color_space(pdf_writer::types::ColorSpaceOperand::Named(Name(b"Cut")));
    content.set_stroke_color([1.0]);
    content.set_line_width(HAIRLINE / unit as f32);
    let group = |n: usize| format!("L{n}");
    for (n, layer) in cutting.layers.iter().enumerate() {
        content
            .begin_marked_content_with_properties(Name(b"OC"))
            .properties_named(Name(group(n).as_bytes()));
        lines(&mut content, layer, up);
        content.end_marked_content();
    }
    let mut pdf = Pdf::new();
    pdf.set_version(1, 6);
    let groups: Vec<Ref> = (0..cutting.layers.len())
        .map(|n| Ref::new(GROUPS + n as i32))
        .collect();
    let mut catalog = pdf.catalog(Ref::new(CATALOG));
    catalog.pages(Ref::new(TREE));
    let mut optional = catalog.insert(Name(b"OCProperties")).dict();
    optional
        .insert(Name(b"OCGs"))
        .array()
        .items(groups.iter().copied());
    let mut shown = optional.insert(Name(b"D")).dict();
    shown
        .insert(Name(b"Order"))
        .array()
        .items(groups.iter().copied());
    shown.finish();
    optional.finish();
    catalog.finish();
    pdf.pages(Ref::new(TREE)).kids([Ref::new(PAGE)]).count(1);
    for (layer, id) in cutting.layers.iter().zip(&groups) {
        let mut dict = pdf.indirect(*id).dict();
        dict.pair(Name(b"Type"), Name(b"OCG"));
        dict.pair(Name(b"Name"), pdf_writer::TextStr(&layer.name));
    }
    let mut page = pdf.page(Ref::new(PAGE));
    let whole = Rect::new(0.0, 0.0, (width / unit) as f32, (height / unit) as f32);
    page.parent(Ref::new(TREE)).media_box(whole).trim_box(whole);
    if unit > 1.0 {
        page.user_unit(unit as f32);
    }
    page.contents(Ref::new(CONTENT));
    let mut resources = page.resources();
    let mut spaces = resources.color_spaces();
    spot_space(&mut spaces, spot);
    spaces.finish();
    let mut properties = resources.insert(Name(b"Properties")).dict();
    for (n, id) in groups.iter().enumerate() {
        properties.pair(Name(group(n).as_bytes()), *id);
    }
    properties.finish();
    resources.finish();
    page.finish();
    finish(pdf, content, title)
}

/// The Separation colour of cut lines as the colour space `Cut`.
fn spot_space(spaces: &mut pdf_writer::Dict<'_>, spot: &str) {
    let mut cut = spaces
        .insert(Name(b"Cut"))
        .start::<ColorSpace>()
        .separation(Name(spot_name(spot).as_bytes()));
    cut.alternate_color_space().device_cmyk();
    cut.tint_exponential()
        .n(1.0)
        .domain([0.0, 1.0])
        .c0([0.0; 4])
        .c1(LOOKS)
        .range([0.0, 1.0, 0.0, 1.0, 0.0, 1.0, 0.0, 1.0]);
}

/// A name of a colour; empty ones are none.
fn spot_name(asked: &str) -> String {
    let asked = asked.trim();
    if asked.is_empty() {
        CUT_LINE.to_owned()
    } else {
        asked.chars().filter(|c| !c.is_control()).take(60).collect()
    }
}

/// Every line of a layer, stroked.
fn lines(content: &mut Content, layer: &CutLayer, up: Affine) {
    let rings = layer.rings().map(inky_core::shapes::Ring::path);
    for path in rings.chain(layer.lines.iter().map(inky_core::cutting::CutLine::path)) {
        follow(content, &path, up);
        content.stroke();
    }
}

/// Puts a path, moved to the page.
fn follow(content: &mut Content, path: &BezPath, up: Affine) {
    let f = |p: kurbo::Point| {
        let p = up * p;
        (p.x as f32, p.y as f32)
    };
    for element in path.elements() {
        match *element {
            PathEl::MoveTo(p) => content.move_to(f(p).0, f(p).1),
            PathEl::LineTo(p) => content.line_to(f(p).0, f(p).1),
            PathEl::CurveTo(a, b, c) => {
                let (a, b, c) = (f(a), f(b), f(c));
                content.cubic_to(a.0, a.1, b.0, b.1, c.0, c.1)
            }
            PathEl::QuadTo(a, b) => {
                let (a, b) = (f(a), f(b));
                content.cubic_to_initial(a.0, a.1, b.0, b.1)
            }
            PathEl::ClosePath => content.close_path(),
        };
    }
}

/// The content, packed, and the title.
fn finish(mut pdf: Pdf, content: Content, title: &str) -> Vec<u8> {
    let packed = packed(content.finish().as_slice());
    pdf.stream(Ref::new(CONTENT), &packed)
        .filter(Filter::FlateDecode);
    pdf.document_info(Ref::new(CONTENT + 1))
        .title(pdf_writer::TextStr(title))
        .producer(pdf_writer::TextStr("Inky Outline"));
    pdf.finish()
}

fn packed(bytes: &[u8]) -> Vec<u8> {
    use std::io::Write as _;
    let mut encoder = flate2::write::ZlibEncoder::new(Vec::new(), flate2::Compression::new(6));
    // Writing into memory does not fail.
    let _ = encoder.write_all(bytes);
    encoder.finish().unwrap_or_default()
}

/// Text for the standard fonts: WinAnsi, a question mark for what it lacks.
fn win_ansi(text: &str) -> Vec<u8> {
    let byte = |c: char| match c {
        ' '..='~' | '\u{a0}'..='\u{ff}' => c as u8,
        '€' => 0x80,
        '…' => 0x85,
        '‘' => 0x91,
        '’' => 0x92,
        '“' => 0x93,
        '”' => 0x94,
        '•' => 0x95,
        '–' => 0x96,
        '—' => 0x97,
        '™' => 0x99,
        _ => b'?',
    };
    text.chars().map(byte).collect()
}

fn show(content: &mut Content, (x, y): (f64, f64), (font, size): (&[u8], f32), text: &str) {
    content
        .begin_text()
        .set_font(Name(font), size)
        .next_line(x as f32, y as f32)
        .show(Str(&win_ansi(text)))
        .end_text();
}
