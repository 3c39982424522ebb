//! The page as the bench draws it: paper, marks with their ground, each picture with what is printed of it.

use inky_core::offset::{Join, offset};
use inky_core::overlay::Rings;
use inky_core::print::Mark;
use inky_core::shapes::Ring;
use inky_formats::svg;
use kurbo::{Affine, Shape};
use serde::Serialize;

use crate::workshop::PrintedSheet;

/// All that is printed; mm on the stock, which begins where pictures may lie.
#[derive(Serialize)]
pub(in crate::job::sheet) struct Page {
    /// The paper: x, y, width, height.
    paper: [f64; 4],
    /// What the printer prints on, the same.
    printable: [f64; 4],
    /// Marks and code, and what stays clear around them, as SVG path data.
    marks: String,
    ground: String,
    /// Middle of each mark and its corner: x, y, corner; a press so near takes it.
    places: Vec<[f64; 3]>,
    near: f64,
    /// The picture of each piece.
    pictures: Vec<Picture>,
}

#[derive(Serialize)]
struct Picture {
    /// Number under which it is fetched.
    n: usize,
    /// Names its pixels: the same as long as it looks the same.
    name: String,
    /// Where its pixels lie on the piece: x, y, width, height.
    at: [f64; 4],
    /// What is printed, as SVG path data on the piece.
    within: String,
    /// As far within the cut as it is printed past it: nothing that matters lies farther out, since a cut strays.
    safe: String,
}

/// What lies so far within a cut line.
fn safe(cut: &[Rings], margin: f64) -> Vec<Rings> {
    let rings: Vec<&Ring> = cut.iter().flat_map(Rings::all).collect();
    offset(&rings, -margin, Join::Round)
}

/// Shapes as SVG path data.
fn data(shapes: &[Rings], map: Affine) -> String {
    let ring = |r: &Ring| {
        let moved = r.segments().iter().flat_map(|s| s.moved(map));
        svg::segments_data(&moved.collect::<Vec<_>>(), true)
    };
    shapes.iter().flat_map(Rings::all).map(ring).collect()
}

pub(in crate::job::sheet) fn of(printed: &PrintedSheet) -> Page {
    let page = &printed.page;
    let room = page.choice.laid();
    let printable = page.choice.printable();
    let [w, h] = page.choice.page;
    let to_stock = Affine::translate(-room.origin().to_vec2());
    let marks: Vec<Mark> = page
        .marks
        .iter()
        .map(|m| Mark {
            at: to_stock * m.at,
            ..*m
        })
        .collect();
    let code = page.code.as_ref().and_then(|_| page.choice.code_box());
    let code = code.map(|b| to_stock.transform_rect_bbox(b).to_path(0.1).to_svg());
    let pictures = printed.arts.iter().enumerate().map(|(n, art)| {
        let corner = art.printed.bounds().origin();
        let [px_w, px_h] = [art.cleaned.picture.width(), art.cleaned.picture.height()];
        let per_px = [
            art.printed.size[0] / f64::from(px_w),
            art.printed.size[1] / f64::from(px_h),
        ];
        let b = art.printed.shown_px(px_w);
        let to_piece = Affine::translate(-corner.to_vec2());
        Picture {
            n,
            name: art.name.clone(),
            at: [
                f64::from(b[0]) * per_px[0] - corner.x,
                f64::from(b[1]) * per_px[1] - corner.y,
                f64::from(b[2]) * per_px[0],
                f64::from(b[3]) * per_px[1],
            ],
            within: data(&art.printed.printed, to_piece),
            safe: data(&safe(&art.printed.cut, page.choice.bleed), to_piece),
        }
    });
    Page {
        paper: [-room.x0, -room.y0, w, h],
        printable: [
            printable.x0 - room.x0,
            printable.y0 - room.y0,
            printable.width(),
            printable.height(),
        ],
        marks: data(&page.ink().collect::<Vec<_>>(), to_stock),
        ground: svg::path_data(page.choice.ground(&marks).iter()) + &code.unwrap_or_default(),
        near: page.choice.marks.size / 2.0 + page.choice.marks.clear / 2.0,
        places: marks
            .iter()
            .zip(page.choice.marks.count.corners())
            .map(|(m, &corner)| [m.at.x, m.at.y, corner as f64])
            .collect(),
        pictures: pictures.collect(),
    }
}
