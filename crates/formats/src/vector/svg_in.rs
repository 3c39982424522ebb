//! SVG to outlines, through usvg: transforms, `use`, styles, arcs and units resolved.
//!
//! Nothing outside the file is opened. One px is 1/96 inch (CSS Values 3).

use inky_core::inks::Rgb;
use inky_core::segment::Segment;
use kurbo::{CubicBez, Line, Point, QuadBez};
use usvg::roxmltree;
use usvg::tiny_skia_path::PathSegment;

use super::{Found, PICTURES, Raw, VectorError, VectorFile, finish};

/// Millimetres in a px.
const MM: f64 = 25.4 / 96.0;

fn broken(why: impl ToString) -> VectorError {
    VectorError::Broken {
        format: "SVG",
        why: why.to_string(),
    }
}

pub(super) fn read(bytes: &[u8]) -> Result<VectorFile, VectorError> {
    let text = std::str::from_utf8(bytes).map_err(|_| broken("it is not UTF-8 text"))?;
    let options = roxmltree::ParsingOptions {
        allow_dtd: true,
        ..roxmltree::ParsingOptions::default()
    };
    let xml = roxmltree::Document::parse_with_options(text, options).map_err(broken)?;
    let mut found = Found::default();
    // What usvg would drop without a word.
    for node in xml.descendants().filter(roxmltree::Node::is_element) {
        let hidden = node.ancestors().any(|a| {
            ["defs", "symbol", "clipPath", "mask", "pattern"].contains(&a.tag_name().name())
        });
        let kind = match node.tag_name().name() {
            _ if hidden => continue,
            "text" => "texts (set them as lettering, or turn them into outlines first)",
            "image" => PICTURES,
            "foreignObject" => "foreign objects",
            "script" => "scripts",
            "animate" | "animateTransform" | "animateMotion" | "set" => "animations",
            _ => continue,
        };
        found.leave_out(kind);
    }
    let none = |_: &str, _: &usvg::Options<'_>| None;
    let usvg_options = usvg::Options {
        image_href_resolver: usvg::ImageHrefResolver {
            resolve_data: Box::new(|_, _, _| None),
            resolve_string: Box::new(none),
        },
        ..usvg::Options::default()
    };
    let tree = usvg::Tree::from_xmltree(&xml, &usvg_options).map_err(broken)?;
    group(tree.root(), &mut found)?;
    let root = xml.root_element();
    let stated = ["width", "height"].iter().all(|side| {
        let value = root.attribute(*side).unwrap_or("");
        !value.is_empty() && !value.ends_with('%')
    });
    let size = tree.size();
    let page = [f64::from(size.width()) * MM, f64::from(size.height()) * MM];
    finish("SVG", found, Some(page), stated)
}

fn group(group: &usvg::Group, found: &mut Found) -> Result<(), VectorError> {
    if group.clip_path().is_some() {
        found.leave_out("clippings");
    }
    if group.mask().is_some() {
        found.leave_out("masks");
    }
    if !group.filters().is_empty() {
        found.leave_out("filters");
    }
    for node in group.children() {
        match node {
            usvg::Node::Group(inner) => self::group(inner, found)?,
            usvg::Node::Path(one) if one.is_visible() => path(one, found)?,
            usvg::Node::Path(_) => found.leave_out("hidden paths"),
            usvg::Node::Image(_) | usvg::Node::Text(_) => {}
        }
    }
    Ok(())
}

/// A plain colour; of gradients and patterns their first.
fn colour(paint: &usvg::Paint, found: &mut Found) -> Rgb {
    let stop = |stops: &[usvg::Stop]| stops.first().map(usvg::Stop::color);
    let solid = match paint {
        usvg::Paint::Color(c) => Some(*c),
        usvg::Paint::LinearGradient(g) => stop(g.stops()),
        usvg::Paint::RadialGradient(g) => stop(g.stops()),
        usvg::Paint::Pattern(_) => None,
    };
    if !matches!(paint, usvg::Paint::Color(_)) {
        found.leave_out("gradients and patterns (drawn in one colour)");
    }
    solid.map_or(Rgb([0, 0, 0]), |c| Rgb([c.red, c.green, c.blue]))
}

fn path(path: &usvg::Path, found: &mut Found) -> Result<(), VectorError> {
    let map = path.abs_transform();
    let place = |p: usvg::tiny_skia_path::Point| {
        let (x, y) = (f64::from(p.x), f64::from(p.y));
        let [sx, kx, ky, sy] = [map.sx, map.kx, map.ky, map.sy].map(f64::from);
        let (tx, ty) = (f64::from(map.tx), f64::from(map.ty));
        Point::new((sx * x + kx * y + tx) * MM, (ky * x + sy * y + ty) * MM)
    };
    let mut runs: Vec<(Vec<Segment>, bool)> = Vec::new();
    let mut now: Vec<Segment> = Vec::new();
    let (mut start, mut at) = (Point::ORIGIN, Point::ORIGIN);
    let mut done = |now: &mut Vec<Segment>, closed: bool| {
        if !now.is_empty() {
            runs.push((std::mem::take(now), closed));
        }
    };
    for segment in path.data().segments() {
        match segment {
            PathSegment::MoveTo(p) => {
                done(&mut now, false);
                start = place(p);
                at = start;
            }
            PathSegment::LineTo(p) => {
                now.push(Segment::Line(Line::new(at, place(p))));
                at = place(p);
            }
            PathSegment::QuadTo(c, p) => {
                let quad = QuadBez::new(at, place(c), place(p));
                now.push(Segment::Cubic(quad.raise()));
                at = place(p);
            }
            PathSegment::CubicTo(a, b, p) => {
                now.push(Segment::Cubic(CubicBez::new(
                    at,
                    place(a),
                    place(b),
                    place(p),
                )));
                at = place(p);
            }
            PathSegment::Close => {
                if at.distance(start) > 1e-6 {
                    now.push(Segment::Line(Line::new(at, start)));
                }
                at = start;
                done(&mut now, true);
            }
        }
    }
    done(&mut now, false);
    found.count(runs.iter().map(|(s, _)| s.len()).sum())?;
    if let Some(fill) = path.fill() {
        if path.stroke().is_some() {
            found.leave_out("strokes around filled shapes");
        }
        let colour = colour(fill.paint(), found);
        let rings = runs.into_iter().map(|(run, _)| run).collect();
        found
            .filled
            .push((colour, fill.rule() == usvg::FillRule::NonZero, rings));
    } else if let Some(stroke) = path.stroke() {
        if stroke.dasharray().is_some() {
            found.leave_out("dashes (drawn through)");
        }
        let colour = colour(stroke.paint(), found);
        let scale = f64::from(map.sx * map.sy - map.kx * map.ky).abs().sqrt() * MM;
        let pen = f64::from(stroke.width().get()) * scale;
        for (segments, closed) in runs {
            found.lines.push((
                Raw {
                    colour,
                    segments,
                    closed,
                },
                pen,
            ));
        }
    }
    Ok(())
}
