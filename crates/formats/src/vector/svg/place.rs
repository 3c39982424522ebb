//! Lengths, transforms and viewports.
//!
//! Source: SVG 1.1 (2nd ed.), chapter 7; CSS Values 3 for absolute units (1 px is 1/96 inch, 1 Q a
//! quarter of a millimetre); CSS Transforms 1 for transforms in styles.

use std::str::FromStr;

use kurbo::{Affine, Size, Vec2};
use svgtypes::{Align, AspectRatio, Length, LengthUnit, Transform, TransformOrigin, ViewBox};

use super::style::{CSS_TRANSFORM, Stated};

/// Units in an inch.
const INCH: f64 = 96.0;

/// A length in user units; `whole` is what a percentage is of, `font` the height of the type.
pub(super) fn length(text: &str, whole: f64, font: f64) -> Option<f64> {
    let text = text.trim();
    // The library knows all units but these two.
    for (ending, by) in [("Q", INCH / 101.6), ("q", INCH / 101.6), ("rem", 16.0)] {
        if let Some(figure) = text.strip_suffix(ending) {
            return figure.trim().parse::<f64>().ok().map(|v| v * by);
        }
    }
    let measured = measured(Length::from_str(text).ok()?, whole, font);
    measured.is_finite().then_some(measured)
}

fn measured(Length { number, unit }: Length, whole: f64, font: f64) -> f64 {
    let by = match unit {
        LengthUnit::None | LengthUnit::Px => 1.0,
        LengthUnit::Em => font,
        LengthUnit::Ex => font / 2.0,
        LengthUnit::In => INCH,
        LengthUnit::Cm => INCH / 2.54,
        LengthUnit::Mm => INCH / 25.4,
        LengthUnit::Pt => INCH / 72.0,
        LengthUnit::Pc => INCH / 6.0,
        LengthUnit::Percent => whole / 100.0,
    };
    number * by
}

/// A view box of some size.
pub(super) fn view_box(text: Option<&str>) -> Option<ViewBox> {
    let text = text?;
    ViewBox::from_str(text)
        .ok()
        .filter(|b| b.w > 0.0 && b.h > 0.0)
}

/// The map from a view box to a viewport of some size whose corner is the origin.
pub(super) fn fitted(view: ViewBox, size: Size, ratio: Option<&str>) -> Affine {
    let ratio = ratio.and_then(|r| AspectRatio::from_str(r).ok());
    let (align, slice) = ratio.map_or((Align::XMidYMid, false), |r| (r.align, r.slice));
    let (sx, sy) = (size.width / view.w, size.height / view.h);
    let moved = Affine::translate((-view.x, -view.y));
    if align == Align::None {
        return Affine::scale_non_uniform(sx, sy) * moved;
    }
    let s = if slice { sx.max(sy) } else { sx.min(sy) };
    let left = Vec2::new(size.width - s * view.w, size.height - s * view.h);
    let part = match align {
        Align::None | Align::XMinYMin => (0.0, 0.0),
        Align::XMidYMin => (0.5, 0.0),
        Align::XMaxYMin => (1.0, 0.0),
        Align::XMinYMid => (0.0, 0.5),
        Align::XMidYMid => (0.5, 0.5),
        Align::XMaxYMid => (1.0, 0.5),
        Align::XMinYMax => (0.0, 1.0),
        Align::XMidYMax => (0.5, 1.0),
        Align::XMaxYMax => (1.0, 1.0),
    };
    Affine::translate((left.x * part.0, left.y * part.1)) * Affine::scale(s) * moved
}

/// The transform of an element, and whether it could be read.
pub(super) fn transform(stated: &Stated<'_>, viewport: Size, font: f64) -> (Affine, bool) {
    let read = match (stated.get(CSS_TRANSFORM), stated.get("transform")) {
        (Some(&"none"), _) | (None, None) => return (Affine::IDENTITY, true),
        (Some(css), _) => css_transform(css, viewport, font),
        (None, Some(attribute)) => Transform::from_str(attribute)
            .ok()
            .map(|t| Affine::new([t.a, t.b, t.c, t.d, t.e, t.f])),
    };
    let Some(map) = read.filter(|m| m.is_finite()) else {
        return (Affine::IDENTITY, false);
    };
    let origin = stated
        .get("transform-origin")
        .and_then(|v| TransformOrigin::from_str(v).ok());
    let Some(origin) = origin else {
        return (map, true);
    };
    let origin = Vec2::new(
        measured(origin.x_offset, viewport.width, font),
        measured(origin.y_offset, viewport.height, font),
    );
    (
        Affine::translate(origin) * map * Affine::translate(-origin),
        true,
    )
}

/// A transform as styles write it: units on lengths and angles.
fn css_transform(text: &str, viewport: Size, font: f64) -> Option<Affine> {
    let mut map = Affine::IDENTITY;
    let mut rest = text.trim();
    while !rest.is_empty() {
        let (name, after) = rest.split_once('(')?;
        let (inside, after) = after.split_once(')')?;
        rest = after.trim_start();
        let given: Vec<&str> = inside
            .split(|c: char| c == ',' || c.is_whitespace())
            .filter(|v| !v.is_empty())
            .collect();
        map *= function(name.trim(), &given, viewport, font)?;
    }
    Some(map)
}

fn function(name: &str, given: &[&str], viewport: Size, font: f64) -> Option<Affine> {
    let number = |n: usize| given.get(n)?.parse::<f64>().ok();
    let across = |n: usize| length(given.get(n)?, viewport.width, font);
    let down = |n: usize| length(given.get(n)?, viewport.height, font);
    let turn = |n: usize| angle(given.get(n)?);
    // A second figure may be left out, but not be wrong.
    let or = |n: usize, read: Option<f64>, missing: f64| match given.get(n) {
        None => Some(missing),
        Some(_) => read,
    };
    Some(match name {
        "translate" => Affine::translate((across(0)?, or(1, down(1), 0.0)?)),
        "translateX" => Affine::translate((across(0)?, 0.0)),
        "translateY" => Affine::translate((0.0, down(0)?)),
        "scale" => Affine::scale_non_uniform(number(0)?, or(1, number(1), number(0)?)?),
        "scaleX" => Affine::scale_non_uniform(number(0)?, 1.0),
        "scaleY" => Affine::scale_non_uniform(1.0, number(0)?),
        "rotate" => Affine::rotate(turn(0)?),
        "skew" => Affine::skew(turn(0)?.tan(), or(1, turn(1), 0.0)?.tan()),
        "skewX" => Affine::skew(turn(0)?.tan(), 0.0),
        "skewY" => Affine::skew(0.0, turn(0)?.tan()),
        "matrix" => {
            let all = [number(0)?, number(1)?, number(2)?, number(3)?];
            let [a, b, c, d] = all;
            Affine::new([a, b, c, d, across(4)?, down(5)?])
        }
        _ => return None,
    })
}

/// An angle in radians.
fn angle(text: &str) -> Option<f64> {
    use std::f64::consts::{PI, TAU};
    // The longer ending of two first.
    for (ending, by) in [
        ("grad", PI / 200.0),
        ("rad", 1.0),
        ("deg", PI / 180.0),
        ("turn", TAU),
        ("", PI / 180.0),
    ] {
        if let Some(figure) = text.strip_suffix(ending) {
            return figure.parse::<f64>().ok().map(|v| v * by);
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::Point;

    #[test]
    fn lengths_know_every_absolute_unit() {
        // CSS Values 3, table of absolute units.
        for (text, inches) in [
            ("96", 1.0),
            ("96px", 1.0),
            ("25.4mm", 1.0),
            ("2.54cm", 1.0),
            ("1in", 1.0),
            ("72pt", 1.0),
            ("6pc", 1.0),
            ("101.6Q", 1.0),
            ("50%", 1.0),
            ("12em", 2.0),
        ] {
            let found = length(text, 192.0, 16.0).unwrap();
            assert!((found - 96.0 * inches).abs() < 1e-9, "{text}");
        }
        assert!(length("wide", 1.0, 1.0).is_none() && length("1e999", 1.0, 1.0).is_none());
    }

    #[test]
    fn a_view_box_is_fitted_as_its_ratio_says() {
        let view = view_box(Some("5 10 100 50")).unwrap();
        let place = |ratio, size| fitted(view, size, ratio) * Point::new(5.0, 10.0);
        let wide = Size::new(400.0, 100.0);
        assert_eq!(place(None, wide), Point::new(100.0, 0.0));
        assert_eq!(place(Some("xMaxYMin meet"), wide), Point::new(200.0, 0.0));
        assert_eq!(place(Some("xMidYMid slice"), wide), Point::new(0.0, -50.0));
        let corner = fitted(view, wide, Some("none")) * Point::new(105.0, 60.0);
        assert_eq!(corner, Point::new(400.0, 100.0));
        assert!(view_box(Some("0 0 0 5")).is_none() && view_box(Some("a")).is_none());
    }

    #[test]
    fn transforms_of_styles_have_units() {
        let size = Size::new(200.0, 100.0);
        let place = |css: &str| css_transform(css, size, 16.0).map(|m| m * Point::new(1.0, 0.0));
        let near = |css: &str, x: f64, y: f64| {
            assert!(
                place(css).unwrap().distance(Point::new(x, y)) < 1e-9,
                "{css}"
            );
        };
        near("translate(10px, 5px) rotate(90deg)", 10.0, 6.0);
        near("rotate(0.25turn) translateX(50%)", 0.0, 101.0);
        near("rotate(100grad)", 0.0, 1.0);
        near("scale(2) skewY(45deg)", 2.0, 2.0);
        near("matrix(0, 1, -1, 0, 3, 4)", 3.0, 5.0);
        near("translate(25.4mm)", 97.0, 0.0);
        assert!(place("perspective(3px)").is_none() && place("scale(a)").is_none());
    }
}
