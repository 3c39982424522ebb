//! Brushes: a stroke from dab to dab, round or square, softly edged like a drawn line.

use kurbo::Point;

use crate::clean::raster::Coverage;
use crate::clean::{Dab, Frame, Ground, Tip, Tool};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// A dab in px of the picture that is painted on.
#[derive(Clone, Copy)]
struct At {
    point: Point,
    half: f64,
}

/// The picture with a stroke; `kept` is what [`Tool::Restore`] brings back.
pub(super) fn stroked(
    picture: &Picture,
    kept: Option<&Picture>,
    (tool, tip): (Tool, Tip),
    dabs: &[Dab],
    frame: Frame,
    stop: &Stop,
) -> Result<Picture, Stopped> {
    let coverage = coverage(picture, dabs, frame, tip, stop)?;
    Ok(match tool {
        Tool::Erase => {
            let ground = Ground::of(picture);
            coverage.lay(picture, |x, y| ground.at(x, y))
        }
        Tool::Paint { colour } => {
            let [r, g, b] = colour.0;
            coverage.lay(picture, |_, _| [r, g, b, 255])
        }
        Tool::Restore => match kept {
            Some(kept) if kept.pixels().len() == picture.pixels().len() => {
                let w = picture.width() as usize;
                coverage.lay(picture, |x, y| kept.pixels()[y * w + x])
            }
            _ => picture.clone(),
        },
    })
}

/// How much of every pixel a stroke covers.
fn coverage(
    picture: &Picture,
    dabs: &[Dab],
    frame: Frame,
    tip: Tip,
    stop: &Stop,
) -> Result<Coverage, Stopped> {
    let dabs: Vec<At> = dabs
        .iter()
        .map(|&[x, y, half]| At {
            point: frame.to([x, y]),
            half: half * frame.scale_at([x, y]),
        })
        .collect();
    let size = (picture.width(), picture.height());
    let reach = |sign: f64, of: fn(Point) -> f64| {
        let sides = dabs.iter().map(move |d| sign * of(d.point) + d.half + 1.0);
        sign * sides.fold(f64::NEG_INFINITY, f64::max)
    };
    if dabs.is_empty() {
        return Ok(Coverage::none(size, (0.0, 0.0), (0.0, 0.0)));
    }
    let (low, high) = (
        (reach(-1.0, |p| p.x), reach(-1.0, |p| p.y)),
        (reach(1.0, |p| p.x), reach(1.0, |p| p.y)),
    );
    let mut all = Coverage::none(size, low, high);
    let last = dabs[dabs.len() - 1];
    let next = dabs.iter().skip(1).chain([&last]);
    for (n, (&a, &b)) in dabs.iter().zip(next).enumerate() {
        if n.is_multiple_of(64) {
            stop.check()?;
        }
        segment(&mut all, a, b, tip);
    }
    Ok(all)
}

/// Adds the way from one dab to the next.
fn segment(all: &mut Coverage, a: At, b: At, tip: Tip) {
    let most = a.half.max(b.half) + 1.0;
    let range = |a: f64, b: f64, offset: usize, n: usize| {
        let local = |v: f64| (v - offset as f64).clamp(0.0, n as f64) as usize;
        local((a.min(b) - most).floor())..local((a.max(b) + most).ceil())
    };
    let columns = range(a.point.x, b.point.x, all.left, all.width);
    for row in range(a.point.y, b.point.y, all.top, all.height) {
        for column in columns.clone() {
            let (x, y) = ((all.left + column) as f64, (all.top + row) as f64);
            let outside = match tip {
                Tip::Round => beyond_round(Point::new(x + 0.5, y + 0.5), a, b),
                Tip::Square => beyond_square(Point::new(x + 0.5, y + 0.5), a, b),
            };
            let part = (0.5 - outside).clamp(0.0, 1.0) as f32;
            let cell = &mut all.part[row * all.width + column];
            *cell = cell.max(part);
        }
    }
}

/// How far a point lies outside a round tip swept from a to b, px; negative inside.
fn beyond_round(p: Point, a: At, b: At) -> f64 {
    let way = b.point - a.point;
    let t = if way.hypot2() > 0.0 {
        ((p - a.point).dot(way) / way.hypot2()).clamp(0.0, 1.0)
    } else {
        0.0
    };
    p.distance(a.point + way * t) - (a.half + (b.half - a.half) * t)
}

/// The same for a square tip: the greater of the distances across and down, at its least along
/// the way, which is where one of the two is nought or both are alike.
fn beyond_square(p: Point, a: At, b: At) -> f64 {
    let (d, way) = (p - a.point, b.point - a.point);
    let away = |t: f64| {
        let t = t.clamp(0.0, 1.0);
        let rest = d - way * t;
        rest.x.abs().max(rest.y.abs()) - (a.half + (b.half - a.half) * t)
    };
    let at = |above: f64, below: f64| if below == 0.0 { 0.0 } else { above / below };
    [
        0.0,
        1.0,
        at(d.x, way.x),
        at(d.y, way.y),
        at(d.x - d.y, way.x - way.y),
        at(d.x + d.y, way.x + way.y),
    ]
    .into_iter()
    .map(away)
    .fold(f64::INFINITY, f64::min)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::inks::Rgb;

    fn white() -> Picture {
        Picture::new(60, 40, vec![[255; 4]; 2400]).unwrap()
    }

    fn painted(dabs: &[Dab], tip: Tip) -> f64 {
        let picture = white();
        let stop = Stop::new();
        let tool = (Tool::Paint { colour: Rgb::BLACK }, tip);
        let after = stroked(&picture, None, tool, dabs, Frame::new(60, 40), &stop).unwrap();
        after
            .pixels()
            .iter()
            .map(|p| f64::from(255 - p[0]) / 255.0)
            .sum()
    }

    #[test]
    fn a_stroke_covers_the_area_of_its_tip_along_its_way() {
        let (a, b) = ([15.3, 18.0, 5.0], [40.3, 18.0, 5.0]);
        let round = std::f64::consts::PI * 25.0;
        assert!((painted(&[a], Tip::Round) - round).abs() < 0.6);
        assert!((painted(&[a, b], Tip::Round) - (round + 250.0)).abs() < 0.8);
        assert!((painted(&[a, b], Tip::Square) - (100.0 + 250.0)).abs() < 0.8);
        // A square tip on a slope covers a hexagon.
        let slope = [[15.0, 12.0, 4.0], [35.0, 22.0, 4.0]];
        let hexagon = 64.0 + 20.0 * 8.0 + 10.0 * 8.0;
        assert!((painted(&slope, Tip::Square) - hexagon).abs() < 3.0);
    }

    #[test]
    fn what_is_erased_becomes_the_ground_and_comes_back_when_restored() {
        let mut pixels = vec![[230, 225, 210, 255]; 2400];
        for p in &mut pixels[20 * 60 + 20..20 * 60 + 40] {
            *p = [20, 20, 20, 255];
        }
        let picture = Picture::new(60, 40, pixels).unwrap();
        let dabs = [[30.0, 20.5, 6.0]];
        let (frame, stop) = (Frame::new(60, 40), Stop::new());
        let erase = (Tool::Erase, Tip::Round);
        let erased = stroked(&picture, None, erase, &dabs, frame, &stop).unwrap();
        assert_eq!(erased.pixels()[20 * 60 + 30], [230, 225, 210, 255]);
        assert_eq!(erased.pixels()[20 * 60 + 21], [20, 20, 20, 255]);
        let restore = (Tool::Restore, Tip::Round);
        let back = stroked(&erased, Some(&picture), restore, &dabs, frame, &stop).unwrap();
        assert_eq!(back.pixels(), picture.pixels());
    }
}
