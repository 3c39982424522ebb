//! SVG of a design: one user unit is one millimetre.
//!
//! `width` and `height` in mm (or as many units as a reader that ignores units needs), `viewBox`
//! in mm, one group for each ink, each shape one path with its holes, each stroke line one open path. Nothing but groups, titles
//! and paths is ever written. Source: W3C SVG 1.1 (2nd ed.), chapters 7 and 8.

use std::fmt::Write as _;

use inky_core::centre::Stroke;
use inky_core::segment::Segment;
use inky_core::shapes::{Design, DesignInk, Ring, Shape};
use kurbo::Point;

/// How shapes are drawn.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Style {
    /// Filled with their ink.
    #[default]
    Filled,
    /// Hairlines without fill, for software that cuts every line it is given.
    CutLines,
}

/// Decimals of a millimetre that are written.
const DECIMALS: usize = 4;
/// Width of a cut line, mm.
const HAIRLINE: f64 = 0.05;

/// Writes a design as SVG.
#[must_use]
pub fn write(design: &Design, title: &str, style: Style) -> String {
    let (w, h) = (
        number(design.size.width.get()),
        number(design.size.height.get()),
    );
    let mut out = String::new();
    out.push_str("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
    // Writing into a string cannot fail.
    let _ = writeln!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" width=\"{w}mm\" height=\"{h}mm\" viewBox=\"0 0 {w} {h}\">\n<title>{}</title>",
        escape(title)
    );
    for (i, ink) in design.inks.iter().enumerate() {
        let Some(letter) = &ink.letter else { continue };
        let shapes = design.shapes.iter();
        let strokes = design.strokes.iter();
        group(
            &mut out,
            ink,
            letter,
            shapes.filter(|s| usize::from(s.ink.0) == i),
            style,
        );
        for stroke in strokes.filter(|s| usize::from(s.ink.0) == i) {
            let _ = writeln!(
                out,
                "<path d=\"{}\"{}/>",
                stroke_data(stroke),
                pen(stroke, ink, style)
            );
        }
        out.push_str("</g>\n");
    }
    out.push_str("</svg>\n");
    out
}

fn group<'a>(
    out: &mut String,
    ink: &DesignInk,
    letter: &str,
    shapes: impl Iterator<Item = &'a Shape>,
    style: Style,
) {
    let colour = ink.paint;
    let paint = match style {
        Style::Filled => format!("fill=\"{colour}\" fill-rule=\"evenodd\""),
        Style::CutLines => format!("fill=\"none\" stroke=\"{colour}\" stroke-width=\"{HAIRLINE}\""),
    };
    let _ = writeln!(
        out,
        "<g id=\"layer-{}\" {paint}>\n<title>{letter} {colour}</title>",
        letter.to_lowercase()
    );
    for shape in shapes {
        let _ = writeln!(out, "<path d=\"{}\"/>", path_data(shape.rings()));
    }
}

/// How a stroke is drawn: with a round pen as wide as the line it stands for, or as a cut line.
fn pen(stroke: &Stroke, ink: &DesignInk, style: Style) -> String {
    match style {
        Style::Filled => format!(
            " fill=\"none\" stroke=\"{}\" stroke-width=\"{}\" stroke-linecap=\"round\" stroke-linejoin=\"round\"",
            ink.paint,
            number(stroke.width.mean)
        ),
        Style::CutLines => String::new(),
    }
}

/// Path data of closed rings, mm, absolute, at most four decimals.
pub fn path_data<'a>(rings: impl Iterator<Item = &'a Ring>) -> String {
    let mut d = String::new();
    for ring in rings {
        if let Some(first) = ring.segments().first() {
            put(&mut d, 'M', &[first.start()]);
        }
        along(&mut d, ring.segments(), true);
    }
    d
}

/// Path data of a stroke line, mm, absolute, at most four decimals.
#[must_use]
pub fn stroke_data(stroke: &Stroke) -> String {
    segments_data(&stroke.segments, stroke.closed)
}

/// Path data of segments, end to end, mm, absolute, at most four decimals.
#[must_use]
pub fn segments_data(segments: &[Segment], closed: bool) -> String {
    let mut d = String::new();
    if let Some(first) = segments.first() {
        put(&mut d, 'M', &[first.start()]);
    }
    along(&mut d, segments, closed);
    d
}

/// Segments after the point where the first one starts.
fn along(d: &mut String, segments: &[Segment], closed: bool) {
    for (i, segment) in segments.iter().enumerate() {
        let is_last = i + 1 == segments.len();
        match segment {
            // `Z` draws a straight last side by itself.
            Segment::Line(_) if closed && is_last && i > 1 => {}
            Segment::Line(l) => put(d, 'L', &[l.p1]),
            Segment::Arc(a) => {
                let r = number(a.radius());
                let large = i32::from(a.bulge.abs() > 1.0);
                let sweep = i32::from(a.bulge > 0.0);
                let (x, y) = (number(a.p1.x), number(a.p1.y));
                let _ = write!(d, "A{r} {r} 0 {large} {sweep} {x} {y}");
            }
            Segment::Cubic(c) => put(d, 'C', &[c.p1, c.p2, c.p3]),
        }
    }
    if closed {
        d.push('Z');
    }
}

/// A letter and its points.
fn put(d: &mut String, letter: char, points: &[Point]) {
    d.push(letter);
    for (i, p) in points.iter().enumerate() {
        if i > 0 {
            d.push(' ');
        }
        let _ = write!(d, "{} {}", number(p.x), number(p.y));
    }
}

/// A number with at most four decimals and no trailing noughts.
#[must_use]
pub fn number(value: f64) -> String {
    let text = format!("{value:.DECIMALS$}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" {
        "0".to_owned()
    } else {
        text.to_owned()
    }
}

fn escape(text: &str) -> String {
    text.chars()
        .filter(|c| !c.is_control())
        .flat_map(|c| match c {
            '&' => "&amp;".chars().collect::<Vec<_>>(),
            '<' => "&lt;".chars().collect(),
            '>' => "&gt;".chars().collect(),
            '"' => "&quot;".chars().collect(),
            c => vec![c],
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_short() {
        for (value, text) in [
            (1.0, "1"),
            (0.12345, "0.1235"),
            (-0.00001, "0"),
            (150.0, "150"),
            (2.5, "2.5"),
        ] {
            assert_eq!(number(value), text);
        }
    }

    #[test]
    fn a_title_cannot_break_out_of_its_element() {
        assert_eq!(escape("a<b>&\"\u{7}"), "a&lt;b&gt;&amp;&quot;");
    }
}
