//! A page to be printed and cut: pictures with their bleed, marks, and the cut lines as hairlines in a Separation colour.
//!
//! ```text
//!   page ── "White" ── on wish, in a Separation colour of its own, under all that is printed
//!     ├──── "Print" ── a form for each picture, shown once for each copy: colour or bleed, then the picture itself,
//!     │                what is coloured in over it; marks and code, black
//!     └──── "Cut line" hairlines
//! ```
//!
//! Media box: the page; bleed box: all that is printed of pictures; trim box: what is cut. A picture lies in the file
//! once, a JPEG as the JPEG that it was. Source: ISO 32000-1, 8.9.5 (images), 8.10 (forms), 14.11.2 (page boxes).

use inky_core::cutting::CutLayer;
use inky_core::overlay::Rings;
use inky_core::picture::Picture;
use inky_core::print::paint::Rows;
use inky_core::print::{PrintPage, Printed};
use kurbo::{Affine, BezPath};
use pdf_writer::types::ColorSpaceOperand;
use pdf_writer::writers::ColorSpace;
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Rect, Ref};

use super::{
    CATALOG, CONTENT, HAIRLINE, PAGE, POINTS_PER_MM, TREE, finish, follow, lines, packed, pattern,
    spot_space,
};
use crate::picture::PlainJpeg;

/// A picture that is printed.
#[derive(Clone, Copy, Debug)]
pub struct Art<'a> {
    /// Its lines.
    pub printed: &'a Printed,
    /// Its pixels.
    pub picture: &'a Picture,
    /// Its file, where that is a JPEG which shows these very pixels.
    pub jpeg: Option<PlainJpeg<'a>>,
}

/// What the colour of white ink is called (common practice, no source).
const WHITE: &str = "White";
const GROUPS: i32 = 10;
/// References from here on are of pictures: the form, the bleed, the picture, its mask; then of each pattern a row and what
/// repeats in it.
const ARTS: i32 = 20;
const ROWS: i32 = 4;

/// Writes a page of pictures; `spot` names the colour of cut lines, and without it these are left out.
#[must_use]
pub fn write(page: &PrintPage, arts: &[Art<'_>], title: &str, spot: Option<&str>) -> Vec<u8> {
    let [width, height] = page.choice.page.map(|mm| mm * POINTS_PER_MM);
    let up = Affine::new([POINTS_PER_MM, 0.0, 0.0, -POINTS_PER_MM, 0.0, height]);
    let white = page.choice.white.is_some();
    let layers: Vec<&str> = [
        (WHITE, white),
        ("Print", true),
        ("Cut line", spot.is_some()),
    ]
    .into_iter()
    .filter_map(|(name, there)| there.then_some(name))
    .collect();
    let mut content = Content::new();
    if white {
        layer(&mut content, 0);
        content.set_fill_color_space(ColorSpaceOperand::Named(Name(b"White")));
        content.set_fill_color([1.0]);
        for print in &page.prints {
            let shapes = arts
                .get(print.picture)
                .map_or(&[][..], |a| &a.printed.white);
            follow(&mut content, &path(shapes), up * print.map);
            content.fill_even_odd();
        }
        content.end_marked_content();
    }
    layer(&mut content, usize::from(white));
    for print in &page.prints {
        content.save_state();
        content.transform((up * print.map).as_coeffs().map(|v| v as f32));
        content.x_object(Name(form(print.picture).as_bytes()));
        content.restore_state();
    }
    content.set_fill_gray(0.0);
    for shape in page.ink() {
        shape
            .all()
            .for_each(|ring| follow(&mut content, &ring.path(), up));
        content.fill_even_odd();
    }
    content.end_marked_content();
    if spot.is_some() {
        layer(&mut content, layers.len() - 1);
        content.set_stroke_color_space(ColorSpaceOperand::Named(Name(b"Cut")));
        content.set_stroke_color([1.0]);
        content.set_line_width(HAIRLINE);
        page.cutting
            .layers
            .iter()
            .for_each(|l: &CutLayer| lines(&mut content, l, up));
        content.end_marked_content();
    }
    let mut pdf = Pdf::new();
    pdf.set_version(1, 6);
    let first = first_references(arts);
    catalogue(&mut pdf, &layers);
    let [trim, bleed] = page.boxes().map(|b| {
        let b = up.transform_rect_bbox(b);
        Rect::new(b.x0 as f32, b.y0 as f32, b.x1 as f32, b.y1 as f32)
    });
    let mut leaf = pdf.page(Ref::new(PAGE));
    leaf.parent(Ref::new(TREE))
        .media_box(Rect::new(0.0, 0.0, width as f32, height as f32))
        .bleed_box(bleed)
        .trim_box(trim)
        .contents(Ref::new(CONTENT));
    let mut resources = leaf.resources();
    let mut forms = resources.x_objects();
    for (n, first) in first.iter().enumerate() {
        forms.pair(Name(form(n).as_bytes()), Ref::new(*first));
    }
    forms.finish();
    let mut spaces = resources.color_spaces();
    if let Some(spot) = spot {
        spot_space(&mut spaces, spot);
    }
    if white {
        white_space(&mut spaces);
    }
    spaces.finish();
    let mut properties = resources.insert(Name(b"Properties")).dict();
    for n in 0..layers.len() {
        properties.pair(Name(group(n).as_bytes()), Ref::new(GROUPS + n as i32));
    }
    properties.finish();
    resources.finish();
    leaf.finish();
    for (n, art) in arts.iter().enumerate() {
        put(&mut pdf, first[n], *art);
    }
    finish(pdf, content, title)
}

fn group(n: usize) -> String {
    format!("L{n}")
}

fn form(n: usize) -> String {
    format!("F{n}")
}

/// The first reference of each picture.
fn first_references(arts: &[Art<'_>]) -> Vec<i32> {
    let mut next = ARTS;
    let mut first = |art: &Art<'_>| {
        let own = next;
        next += ROWS + 2 * art.printed.painted.len() as i32;
        own
    };
    arts.iter().map(&mut first).collect()
}

/// White ink as the colour space `White`: what shows nothing on white paper.
fn white_space(spaces: &mut pdf_writer::Dict<'_>) {
    let space = spaces.insert(Name(b"White")).start::<ColorSpace>();
    let mut white = space.separation(Name(WHITE.as_bytes()));
    white.alternate_color_space().device_cmyk();
    white
        .tint_exponential()
        .n(1.0)
        .domain([0.0, 1.0])
        .c0([0.0; 4])
        .c1([0.0; 4])
        .range([0.0, 1.0, 0.0, 1.0, 0.0, 1.0, 0.0, 1.0]);
}

fn layer(content: &mut Content, n: usize) {
    content
        .begin_marked_content_with_properties(Name(b"OC"))
        .properties_named(Name(group(n).as_bytes()));
}

/// The catalogue, the pages and the layers.
fn catalogue(pdf: &mut Pdf, groups: &[&str]) {
    let all = (0..groups.len()).map(|n| Ref::new(GROUPS + n as i32));
    let mut catalog = pdf.catalog(Ref::new(CATALOG));
    catalog.pages(Ref::new(TREE));
    let mut optional = catalog.insert(Name(b"OCProperties")).dict();
    optional.insert(Name(b"OCGs")).array().items(all.clone());
    let mut shown = optional.insert(Name(b"D")).dict();
    shown.insert(Name(b"Order")).array().items(all);
    shown.finish();
    optional.finish();
    catalog.finish();
    pdf.pages(Ref::new(TREE)).kids([Ref::new(PAGE)]).count(1);
    for (n, name) in groups.iter().enumerate() {
        let mut dict = pdf.indirect(Ref::new(GROUPS + n as i32)).dict();
        dict.pair(Name(b"Type"), Name(b"OCG"));
        dict.pair(Name(b"Name"), pdf_writer::TextStr(name));
    }
}

/// Rings as one path.
pub(super) fn path(rings: &[Rings]) -> BezPath {
    rings
        .iter()
        .flat_map(Rings::all)
        .flat_map(|r| r.path().into_iter())
        .collect()
}

/// A picture as a form in its own mm, y down, and the images that it shows.
fn put(pdf: &mut Pdf, first: i32, art: Art<'_>) {
    let reference = |part: i32| Ref::new(first + part);
    let printed = art.printed;
    let [w, h] = printed.size;
    let mut content = Content::new();
    if let Some(colour) = printed.border_colour {
        let [r, g, b] = colour.0.map(|v| f32::from(v) / 255.0);
        content.set_fill_rgb(r, g, b);
        follow(&mut content, &path(&printed.printed), Affine::IDENTITY);
        content.fill_even_odd();
    }
    let under = match printed.border_colour {
        Some(_) => &printed.outline,
        None => &printed.printed,
    };
    let bled = printed.bled(art.picture);
    let [x, y, wide, high] = bled.at;
    shown(&mut content, under, ([x, y], [wide, high]), b"B");
    shown(&mut content, &printed.inner, ([0.0, 0.0], [w, h]), b"P");
    let reach = path(&printed.printed).control_box().inflate(1.0, 1.0);
    let bbox = Rect::new(
        reach.x0 as f32,
        reach.y0 as f32,
        reach.x1 as f32,
        reach.y1 as f32,
    );
    let rows: Vec<Option<Rows>> = printed
        .painted
        .iter()
        .enumerate()
        .map(|(n, p)| pattern::painted(&mut content, n, p))
        .collect();
    let packed_content = packed(content.finish().as_slice());
    let mut form = pdf.form_xobject(reference(0), &packed_content);
    form.filter(Filter::FlateDecode);
    form.bbox(bbox);
    let mut resources = form.resources();
    let mut images = resources.x_objects();
    images.pair(Name(b"B"), reference(1));
    images.pair(Name(b"P"), reference(2));
    let numbered = || {
        rows.iter()
            .enumerate()
            .map(|(n, r)| (n, ROWS + 2 * n as i32, r))
    };
    for (n, part, _) in numbered().filter(|(.., rows)| rows.is_some()) {
        images.pair(Name(pattern::row_name(n).as_bytes()), reference(part));
    }
    images.finish();
    resources.finish();
    form.finish();
    for (n, part, rows) in numbered() {
        let Some(rows) = rows else { continue };
        match &printed.painted[n].tile {
            Some(tile) => {
                pattern::tiles(pdf, (reference(part), reference(part + 1)), rows);
                image(pdf, reference(part + 1), tile, None);
            }
            None => pattern::row(pdf, reference(part), rows),
        }
    }
    image(pdf, reference(1), &bled.picture, None);
    match art.jpeg {
        Some(jpeg) => {
            let mut image = pdf.image_xobject(reference(2), jpeg.bytes);
            image.filter(Filter::DctDecode);
            image
                .width(jpeg.width as i32)
                .height(jpeg.height as i32)
                .bits_per_component(8);
            match jpeg.components {
                1 => image.color_space().device_gray(),
                _ => image.color_space().device_rgb(),
            };
        }
        None => image(pdf, reference(2), art.picture, Some(reference(3))),
    }
}

/// An image in a box of mm, within shapes.
fn shown(
    content: &mut Content,
    within: &[Rings],
    ([x, y], [w, h]): ([f64; 2], [f64; 2]),
    name: &[u8],
) {
    if within.is_empty() {
        return;
    }
    content.save_state();
    follow(content, &path(within), Affine::IDENTITY);
    content.clip_even_odd().end_path();
    content.transform([w, 0.0, 0.0, -h, x, y + h].map(|v| v as f32));
    content.x_object(Name(name));
    content.restore_state();
}

/// Pixels without loss; what they let through as a mask where they let anything through.
fn image(pdf: &mut Pdf, id: Ref, picture: &Picture, mask: Option<Ref>) {
    let rgb: Vec<u8> = picture
        .pixels()
        .iter()
        .flat_map(|p| [p[0], p[1], p[2]])
        .collect();
    let clear = picture.pixels().iter().any(|p| p[3] < 255);
    let mask = mask.filter(|_| clear);
    let (w, h) = (picture.width() as i32, picture.height() as i32);
    let data = packed(&rgb);
    let mut image = pdf.image_xobject(id, &data);
    image.filter(Filter::FlateDecode);
    image.width(w).height(h).bits_per_component(8);
    image.color_space().device_rgb();
    if let Some(mask) = mask {
        image.s_mask(mask);
    }
    image.finish();
    if let Some(mask) = mask {
        let alpha: Vec<u8> = picture.pixels().iter().map(|p| p[3]).collect();
        let data = packed(&alpha);
        let mut image = pdf.image_xobject(mask, &data);
        image.filter(Filter::FlateDecode);
        image.width(w).height(h).bits_per_component(8);
        image.color_space().device_gray();
    }
}
