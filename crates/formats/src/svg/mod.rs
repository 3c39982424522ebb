//! SVG of a page: one user unit is one millimetre.
//!
//! `width` and `height` in mm or inches (or as many units as a reader that ignores units needs), `viewBox` in
//! user units, one group for each layer, each shape one path with its holes, each open line one path.
//! Nothing but groups, titles and paths is ever written. Source: W3C SVG 1.1 (2nd ed.), chapters 7 and 8.

mod bed;

use std::fmt::Write as _;

use inky_core::centre::Stroke;
use inky_core::cutting::{CutLayer, CutLine, Cutting};
use inky_core::segment::{Arc, Segment};
use inky_core::shapes::Ring;
use inky_core::units::{MM_PER_INCH, Unit};
use kurbo::Point;

pub use bed::bed_marks;

/// How shapes are drawn.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Style {
    /// Filled with their ink.
    #[default]
    Filled,
    /// Hairlines without fill, for software that cuts every line it is given.
    CutLines,
}

/// How large the page says it is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Sized {
    /// In a unit; a user unit is a millimetre.
    In(Unit),
    /// In user units alone, so many to the inch, for readers that ignore units.
    PerInch(f64),
}

impl Default for Sized {
    fn default() -> Self {
        Self::In(Unit::Mm)
    }
}

/// Decimals of a user unit that are written.
const DECIMALS: usize = 4;
/// As many in one user unit.
const SCALE: i64 = 10_000;
/// Width of a cut line, mm.
const HAIRLINE: f64 = 0.05;

/// Writes a page as SVG.
#[must_use]
pub fn write(cutting: &Cutting, title: &str, style: Style, sized: Sized) -> String {
    let scale = match sized {
        Sized::In(_) => 1.0,
        Sized::PerInch(units) => units / MM_PER_INCH,
    };
    let thin;
    let cutting = if (scale - 1.0).abs() > 1e-12 {
        thin = cutting.scaled(scale);
        &thin
    } else {
        cutting
    };
    let [w, h] = cutting.size.map(number);
    let [width, height] = match sized {
        Sized::In(Unit::Mm) => [format!("{w}mm"), format!("{h}mm")],
        Sized::In(Unit::In) => cutting
            .size
            .map(|side| format!("{}in", number(side / MM_PER_INCH))),
        Sized::PerInch(_) => [w.clone(), h.clone()],
    };
    let mut out = String::new();
    out.push_str("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
    // Writing into a string cannot fail.
    let _ = writeln!(
        out,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" version=\"1.1\" width=\"{width}\" height=\"{height}\" viewBox=\"0 0 {w} {h}\">\n<title>{}</title>",
        escape(title)
    );
    let mut letters: Vec<&str> = Vec::new();
    for layer in &cutting.layers {
        let before = letters.iter().filter(|l| **l == layer.letter).count();
        letters.push(&layer.letter);
        group(&mut out, layer, before, style, HAIRLINE * scale);
    }
    out.push_str("</svg>\n");
    out
}

/// A layer; `before` others have its letter.
fn group(out: &mut String, layer: &CutLayer, before: usize, style: Style, hairline: f64) {
    let colour = layer.colour;
    let paint = match style {
        Style::Filled => format!("fill=\"{colour}\" fill-rule=\"evenodd\""),
        Style::CutLines => {
            format!(
                "fill=\"none\" stroke=\"{colour}\" stroke-width=\"{}\"",
                number(hairline)
            )
        }
    };
    let again = match before {
        0 => String::new(),
        n => format!("-{}", n + 1),
    };
    let id: String = layer
        .letter
        .chars()
        .filter(char::is_ascii_alphanumeric)
        .collect();
    let _ = writeln!(
        out,
        "<g id=\"layer-{}{again}\" {paint}>\n<title>{}</title>",
        id.to_lowercase(),
        escape(&layer.name)
    );
    for shape in &layer.shapes {
        let _ = writeln!(out, "<path d=\"{}\"/>", path_data(shape.all()));
    }
    for line in &layer.lines {
        let data = segments_data(&line.segments, line.closed);
        let _ = writeln!(out, "<path d=\"{data}\"{}/>", pen(line, layer, style));
    }
    out.push_str("</g>\n");
}

/// How a line is drawn: with a round pen as wide as the line it stands for, or as a cut line.
fn pen(line: &CutLine, layer: &CutLayer, style: Style) -> String {
    match style {
        Style::Filled => format!(
            " fill=\"none\" stroke=\"{}\" stroke-width=\"{}\" stroke-linecap=\"round\" stroke-linejoin=\"round\"",
            layer.colour,
            number(line.width)
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
            Segment::Arc(a) => arc(d, a),
            Segment::Cubic(c) => put(d, 'C', &[c.p1, c.p2, c.p3]),
        }
    }
    if closed {
        d.push('Z');
    }
}

/// An arc whose middle lies nearer to its chord than this part of its radius moves with every digit
/// that its ends lose.
const NEARLY_HALF: f64 = 0.1;

/// An arc to its end. Half a circle has a radius that just does not reach, so that any reader takes
/// the middle of its ends (SVG 1.1, F.6.6); one that is nearly half is written in two.
fn arc(d: &mut String, a: &Arc) {
    let middle = a.p0.midpoint(a.p1);
    let off = a.centre().distance(middle);
    let mut r = a.radius();
    if off * (SCALE as f64) < 0.5 {
        let written = |p: Point| Point::new(rounded(p.x), rounded(p.y));
        let reach = written(a.p0).distance(written(a.p1)) / 2.0;
        r = (reach * SCALE as f64 - 1e-6).floor().max(1.0) / SCALE as f64;
    } else if off < NEARLY_HALF * r {
        let whole = Segment::Arc(*a);
        for (from, to) in [(0.0, 0.5), (0.5, 1.0)] {
            if let Segment::Arc(part) = whole.part(from, to) {
                arc(d, &part);
            }
        }
        return;
    }
    let r = number(r);
    let large = i32::from(a.bulge.abs() > 1.0);
    let sweep = i32::from(a.bulge > 0.0);
    let (x, y) = (number(a.p1.x), number(a.p1.y));
    let _ = write!(d, "A{r} {r} 0 {large} {sweep} {x} {y}");
}

/// A figure as [`number`] writes it.
fn rounded(value: f64) -> f64 {
    (value * SCALE as f64).round() / SCALE as f64
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
    // Whole ten-thousandths: a page of a kilometre still has them exactly.
    let scaled = (value * SCALE as f64).round() as i64;
    let sign = if scaled < 0 { "-" } else { "" };
    let (whole, rest) = (scaled.abs() / SCALE, scaled.abs() % SCALE);
    if rest == 0 {
        return format!("{sign}{whole}");
    }
    let mut text = format!("{sign}{whole}.{rest:0DECIMALS$}");
    text.truncate(text.trim_end_matches('0').len());
    text
}

pub(crate) fn escape(text: &str) -> String {
    text.chars()
        .filter(|c| !c.is_control() && !matches!(c, '\u{fffe}' | '\u{ffff}'))
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
