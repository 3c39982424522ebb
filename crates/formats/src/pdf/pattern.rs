//! What is coloured in with a pattern: its row as a form, shown once for each row.
//!
//! Source: ISO 32000-1, 8.10 (forms).

use inky_core::inks::Rgb;
use inky_core::print::look::Painted;
use inky_core::print::paint::Rows;
use kurbo::Affine;
use pdf_writer::{Content, Filter, Finish, Name, Pdf, Rect, Ref};

use super::print::path;
use super::{follow, packed};

/// What a row is called where it is shown.
pub(super) fn row_name(n: usize) -> String {
    format!("R{n}")
}

/// What is coloured in: its ground, then the rows of its pattern, which are told.
pub(super) fn painted(content: &mut Content, n: usize, p: &Painted) -> Option<Rows> {
    let shapes = path(&p.shapes);
    let rows = p.rows();
    let fill = |content: &mut Content, Rgb(colour): Rgb| {
        let [r, g, b] = colour.map(|v| f32::from(v) / 255.0);
        content.set_fill_rgb(r, g, b);
    };
    content.save_state();
    fill(content, p.ground());
    follow(content, &shapes, Affine::IDENTITY);
    content.fill_even_odd();
    if let Some(rows) = &rows {
        follow(content, &shapes, Affine::IDENTITY);
        content.clip_even_odd().end_path();
        fill(content, p.paint.colour);
        for down in &rows.down {
            let map = rows.map * Affine::translate((0.0, *down));
            content.save_state();
            content.transform(map.as_coeffs().map(|v| v as f32));
            content.x_object(Name(row_name(n).as_bytes()));
            content.restore_state();
        }
    }
    content.restore_state();
    rows
}

/// A row of a pattern as a form, in the colour that is set where it is shown.
pub(super) fn row(pdf: &mut Pdf, id: Ref, rows: &Rows) {
    let mut content = Content::new();
    follow(&mut content, &rows.row, Affine::IDENTITY);
    content.fill_nonzero();
    let packed_content = packed(content.finish().as_slice());
    let b = rows.row.control_box().inflate(0.1, 0.1);
    let mut form = pdf.form_xobject(id, &packed_content);
    form.filter(Filter::FlateDecode);
    form.bbox(Rect::new(
        b.x0 as f32,
        b.y0 as f32,
        b.x1 as f32,
        b.y1 as f32,
    ));
    form.resources().finish();
}

/// The same of a picture that repeats.
pub(super) fn tiles(pdf: &mut Pdf, (id, tile): (Ref, Ref), rows: &Rows) {
    let [w, h] = rows.repeat;
    let mut content = Content::new();
    for x in &rows.across {
        content.save_state();
        content.transform([w, 0.0, 0.0, -h, *x, h].map(|v| v as f32));
        content.x_object(Name(b"T"));
        content.restore_state();
    }
    let packed_content = packed(content.finish().as_slice());
    let ends = [rows.across.first(), rows.across.last()];
    let [from, to] = ends.map(|x| x.copied().unwrap_or_default() as f32);
    let mut form = pdf.form_xobject(id, &packed_content);
    form.filter(Filter::FlateDecode);
    form.bbox(Rect::new(from, 0.0, to + w as f32, h as f32));
    form.resources().x_objects().pair(Name(b"T"), tile);
}
