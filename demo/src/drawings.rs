//! The geometry of the five drawings, each on a grid of its own, y down.

use std::f64::consts::{PI, TAU};

use kurbo::{
    Arc, BezPath, Cap, Circle, Ellipse, Join, Point, Rect, RoundedRect, Shape, Stroke, Vec2,
};

use crate::Fill;

/// Accuracy of arcs turned into cubics, in units of the grid.
const ARC: f64 = 1e-4;

const KETTLE_BLUE: [u8; 3] = [43, 109, 120];
const COPPER: [u8; 3] = [179, 85, 44];
const CREAM: [u8; 3] = [239, 217, 164];
const BLACK: [u8; 3] = [16, 16, 18];
const HIVE_BROWN: [u8; 3] = [92, 58, 33];
const HONEY: [u8; 3] = [224, 158, 40];
const LOCK_NAVY: [u8; 3] = [26, 44, 74];

fn fill(colour: [u8; 3], path: BezPath) -> Fill {
    Fill { colour, path }
}

fn polygon(points: impl IntoIterator<Item = Point>) -> BezPath {
    let mut path = BezPath::new();
    for (i, p) in points.into_iter().enumerate() {
        if i == 0 {
            path.move_to(p)
        } else {
            path.line_to(p)
        }
    }
    path.close_path();
    path
}

/// A star with tips on `outer` and notches on `inner`, one tip pointing up.
fn star(centre: Point, tips: usize, outer: f64, inner: f64) -> BezPath {
    polygon((0..2 * tips).map(|i| {
        let r = if i % 2 == 0 { outer } else { inner };
        centre + Vec2::from_angle(-PI / 2.0 + PI * i as f64 / tips as f64) * r
    }))
}

fn circle(x: f64, y: f64, r: f64) -> BezPath {
    Circle::new((x, y), r).to_path(ARC)
}

/// A ring: a circle with a round hole in it.
fn ring(x: f64, y: f64, outer: f64, inner: f64) -> BezPath {
    let mut path = circle(x, y, outer);
    path.extend(circle(x, y, inner).reverse_subpaths());
    path
}

fn rounded(x0: f64, y0: f64, x1: f64, y1: f64, r: f64) -> BezPath {
    RoundedRect::from_rect(Rect::new(x0, y0, x1, y1), r).to_path(ARC)
}

/// A line with round ends as the outline that a pen of that width leaves.
fn pen(path: &BezPath, width: f64) -> BezPath {
    let style = Stroke::new(width)
        .with_caps(Cap::Round)
        .with_join(Join::Round);
    kurbo::stroke(path.iter(), &style, &Default::default(), 1e-3)
}

fn open_arc(centre: (f64, f64), rx: f64, ry: f64, from: f64, sweep: f64, turn: f64) -> BezPath {
    Arc::new(centre, (rx, ry), from, sweep, turn).to_path(ARC)
}

/// A teapot in three flat colours: body, handle and spout; lid and knob; a star.
pub(crate) fn teapot() -> Vec<Fill> {
    let mut handle = Ellipse::new((104.0, 196.0), (62.0, 66.0), 0.15).to_path(ARC);
    handle.extend(
        Ellipse::new((106.0, 196.0), (38.0, 43.0), 0.15)
            .to_path(ARC)
            .reverse_subpaths(),
    );
    let mut spout = BezPath::new();
    spout.move_to((318.0, 178.0));
    spout.curve_to((366.0, 172.0), (362.0, 116.0), (404.0, 100.0));
    spout.curve_to((414.0, 96.0), (424.0, 106.0), (417.0, 114.0));
    spout.curve_to((388.0, 148.0), (396.0, 224.0), (316.0, 246.0));
    spout.close_path();
    let mut body = BezPath::new();
    body.move_to((150.0, 112.0));
    body.line_to((304.0, 112.0));
    body.curve_to((342.0, 140.0), (352.0, 184.0), (346.0, 218.0));
    body.curve_to((338.0, 264.0), (302.0, 296.0), (276.0, 300.0));
    body.line_to((178.0, 300.0));
    body.curve_to((152.0, 296.0), (116.0, 264.0), (108.0, 218.0));
    body.curve_to((102.0, 184.0), (112.0, 140.0), (150.0, 112.0));
    body.close_path();
    let mut lid = BezPath::new();
    lid.move_to((158.0, 112.0));
    lid.curve_to((164.0, 78.0), (194.0, 66.0), (227.0, 66.0));
    lid.curve_to((260.0, 66.0), (290.0, 78.0), (296.0, 112.0));
    lid.close_path();
    vec![
        fill(KETTLE_BLUE, handle),
        fill(KETTLE_BLUE, spout),
        fill(KETTLE_BLUE, body),
        fill(KETTLE_BLUE, rounded(168.0, 306.0, 286.0, 318.0, 6.0)),
        fill(COPPER, lid),
        fill(COPPER, circle(227.0, 46.0, 14.0)),
        fill(CREAM, star(Point::new(227.0, 206.0), 5, 56.0, 23.0)),
    ]
}

/// A domed building with its telescope, a crescent moon and fine stars, one colour.
pub(crate) fn observatory() -> Vec<Fill> {
    let paper = [255; 3];
    let dome = open_arc((190.0, 190.0), 82.0, 82.0, PI, PI, 0.0);
    let mut dome_closed = dome;
    dome_closed.close_path();
    let along = Vec2::from_angle(-0.72);
    let across = Vec2::new(-along.y, along.x);
    let bar = |from: Point, length: f64, half: f64| {
        polygon([
            from + across * half,
            from + along * length + across * half,
            from + along * length - across * half,
            from - across * half,
        ])
    };
    let pivot = Point::new(196.0, 176.0);
    let mut hill = BezPath::new();
    hill.move_to((0.0, 300.0));
    hill.line_to((0.0, 276.0));
    hill.curve_to((90.0, 246.0), (150.0, 256.0), (210.0, 254.0));
    hill.curve_to((280.0, 252.0), (340.0, 262.0), (400.0, 280.0));
    hill.line_to((400.0, 300.0));
    hill.close_path();
    let mut fills = vec![
        fill(BLACK, hill),
        fill(BLACK, dome_closed),
        fill(BLACK, Rect::new(112.0, 196.0, 268.0, 262.0).to_path(ARC)),
        fill(paper, bar(pivot + across * 1.0 - along * 30.0, 150.0, 21.0)),
        fill(BLACK, bar(pivot - along * 20.0, 96.0, 11.0)),
        fill(BLACK, bar(pivot + along * 78.0, 34.0, 14.0)),
        fill(paper, bar(pivot + along * 70.0, 3.0, 11.5)),
        fill(paper, rounded(176.0, 222.0, 204.0, 262.0, 3.0)),
        fill(paper, circle(140.0, 226.0, 9.0)),
        fill(paper, circle(240.0, 226.0, 9.0)),
        fill(BLACK, circle(330.0, 66.0, 26.0)),
        fill(paper, circle(341.0, 60.0, 22.0)),
    ];
    let stars = [
        (40.0, 40.0, 7.0),
        (92.0, 78.0, 4.0),
        (134.0, 34.0, 5.0),
        (66.0, 132.0, 3.0),
        (28.0, 190.0, 4.5),
        (196.0, 52.0, 3.0),
        (250.0, 28.0, 5.5),
        (364.0, 128.0, 4.0),
        (318.0, 168.0, 3.0),
        (376.0, 206.0, 5.0),
        (52.0, 88.0, 2.4),
        (298.0, 118.0, 2.4),
    ];
    fills.extend(
        stars
            .iter()
            .map(|&(x, y, r)| fill(BLACK, star(Point::new(x, y), 4, r, r * 0.36))),
    );
    fills
}

/// A straw hive in bands with a door, and a comb of hexagons, two colours.
pub(crate) fn beehive() -> Vec<Fill> {
    let mut fills = vec![fill(HIVE_BROWN, ring(100.0, 100.0, 94.0, 88.0))];
    fills.push(fill(HIVE_BROWN, rounded(34.0, 140.0, 142.0, 160.0, 10.0)));
    fills.push(fill(HIVE_BROWN, rounded(40.0, 116.0, 136.0, 136.0, 10.0)));
    fills.push(fill(HIVE_BROWN, rounded(48.0, 92.0, 128.0, 112.0, 10.0)));
    fills.push(fill(HIVE_BROWN, rounded(58.0, 68.0, 118.0, 88.0, 10.0)));
    fills.push(fill(HIVE_BROWN, rounded(72.0, 46.0, 104.0, 64.0, 9.0)));
    let mut door = BezPath::new();
    door.move_to((76.0, 160.0));
    door.line_to((76.0, 146.0));
    door.curve_to((76.0, 134.0), (100.0, 134.0), (100.0, 146.0));
    door.line_to((100.0, 160.0));
    door.close_path();
    fills.push(fill([255; 3], door));
    for (x, y) in [(150.0, 74.0), (150.0, 98.0), (129.2, 50.0), (150.0, 50.0)] {
        let shift = if x < 140.0 { 12.0 } else { 0.0 };
        let hexagon =
            polygon((0..6).map(|i| {
                Point::new(x, y - shift) + Vec2::from_angle(TAU * f64::from(i) / 6.0) * 12.0
            }));
        fills.push(fill(HONEY, hexagon));
    }
    fills
}

/// A ball of twine and a needle with a loose thread, drawn with a pen of one width.
pub(crate) fn needle_and_twine() -> Vec<Fill> {
    const WIDTH: f64 = 2.4;
    let mut fills = Vec::new();
    let mut draw = |path: &BezPath| fills.push(fill(BLACK, pen(path, WIDTH)));
    let centre = (98.0, 112.0);
    draw(&Circle::new(centre, 66.0).to_path(ARC));
    for (ry, turn) in [
        (20.0, 0.5),
        (42.0, 0.5),
        (20.0, -0.7),
        (42.0, -0.7),
        (31.0, 1.7),
    ] {
        draw(&open_arc(centre, 66.0, ry, 0.0, PI, turn));
    }
    let mut thread = BezPath::new();
    thread.move_to((150.0, 153.0));
    thread.curve_to((190.0, 190.0), (236.0, 176.0), (220.0, 146.0));
    thread.curve_to((208.0, 122.0), (172.0, 140.0), (192.0, 162.0));
    thread.curve_to((214.0, 186.0), (276.0, 160.0), (262.0, 104.0));
    thread.curve_to((258.0, 88.0), (252.0, 76.0), (247.0, 63.0));
    draw(&thread);
    let mut needle = BezPath::new();
    needle.move_to((176.0, 16.0));
    needle.curve_to((206.0, 26.0), (234.0, 42.0), (258.0, 66.0));
    needle.curve_to((264.0, 72.0), (258.0, 80.0), (251.0, 75.0));
    needle.curve_to((224.0, 54.0), (198.0, 36.0), (176.0, 16.0));
    needle.close_path();
    draw(&needle);
    fills
}

/// A ship's lantern, small, for a sticker.
pub(crate) fn lantern() -> Vec<Fill> {
    let paper = [255; 3];
    let mut roof = BezPath::new();
    roof.move_to((54.0, 92.0));
    roof.curve_to((60.0, 66.0), (80.0, 56.0), (100.0, 54.0));
    roof.curve_to((120.0, 56.0), (140.0, 66.0), (146.0, 92.0));
    roof.close_path();
    let mut flame = BezPath::new();
    flame.move_to((100.0, 122.0));
    flame.curve_to((118.0, 146.0), (124.0, 156.0), (116.0, 172.0));
    flame.curve_to((110.0, 184.0), (90.0, 184.0), (84.0, 172.0));
    flame.curve_to((76.0, 156.0), (90.0, 146.0), (100.0, 122.0));
    flame.close_path();
    vec![
        fill(LOCK_NAVY, ring(100.0, 38.0, 24.0, 16.0)),
        fill(LOCK_NAVY, roof),
        fill(LOCK_NAVY, rounded(48.0, 92.0, 152.0, 106.0, 5.0)),
        fill(LOCK_NAVY, rounded(56.0, 104.0, 144.0, 204.0, 8.0)),
        fill(paper, rounded(68.0, 114.0, 132.0, 194.0, 6.0)),
        fill(LOCK_NAVY, flame),
        fill(LOCK_NAVY, Rect::new(66.0, 150.0, 134.0, 154.0).to_path(ARC)),
        fill(LOCK_NAVY, rounded(44.0, 200.0, 156.0, 220.0, 5.0)),
        fill(LOCK_NAVY, rounded(58.0, 218.0, 142.0, 236.0, 6.0)),
    ]
}
