//! Asks a cutter's eye where the marks of a printed page lie.
//!
//! ```text
//!   IN; PU x,y; DP; OS; ─►  ◄─ 4   seen?   OD; ─►  ◄─ x,y,0      the next one is looked for where those found say
//! ```
//!
//! Without sockets and without a clock, as [`crate::sender`] is. Source of the instructions: see [`crate::cutter::eye`].

use kurbo::{Affine, Point, Vec2};

use crate::cutter::UNITS_PER_MM;

/// What is waited for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Awaited {
    Status,
    Place,
}

/// Finds marks, one after the other.
#[derive(Clone, Debug)]
pub struct Finder {
    meant: Vec<Point>,
    /// Marks in the order in which they are looked for.
    order: Vec<usize>,
    found: Vec<Option<Point>>,
    /// How many were looked for.
    at: usize,
    awaited: Option<Awaited>,
    heard: Vec<u8>,
    waiting: Vec<u8>,
    garbage: bool,
}

/// Says that a place was pointed at.
const POINTED: u32 = 4;
/// A longer answer is none.
const LONGEST_ANSWER: usize = 64;

impl Finder {
    /// Looks for marks that were meant to lie at these places of the machine, mm; what is known of some of them helps
    /// with the others, and stays.
    #[must_use]
    pub fn new(meant: &[Point], known: &[Option<Point>]) -> Self {
        let known = |n: usize| known.get(n).copied().flatten();
        let found: Vec<Option<Point>> = (0..meant.len()).map(known).collect();
        let mut order: Vec<usize> = (0..meant.len()).filter(|&n| found[n].is_none()).collect();
        // The nearer to the corner, the less a turn of the page moves it.
        order.sort_by(|&a, &b| {
            meant[a]
                .to_vec2()
                .hypot2()
                .total_cmp(&meant[b].to_vec2().hypot2())
        });
        let mut finder = Self {
            meant: meant.to_vec(),
            order,
            found,
            at: 0,
            awaited: None,
            heard: Vec::new(),
            waiting: b";IN;".to_vec(),
            garbage: false,
        };
        finder.look();
        finder
    }

    /// Where the marks were found.
    #[must_use]
    pub fn found(&self) -> &[Option<Point>] {
        &self.found
    }

    /// Whether no mark is left to look for.
    #[must_use]
    pub const fn is_over(&self) -> bool {
        self.garbage || self.at >= self.order.len()
    }

    /// Whether it was answered what cannot be understood.
    #[must_use]
    pub const fn is_garbled(&self) -> bool {
        self.garbage
    }

    /// What is to be written now.
    pub fn poll(&mut self) -> Vec<u8> {
        std::mem::take(&mut self.waiting)
    }

    /// Takes what the machine said.
    pub fn hear(&mut self, bytes: &[u8]) {
        for &byte in bytes {
            if byte != b'\r' && byte != b'\n' {
                self.heard.push(byte);
                self.garbage |= self.heard.len() > LONGEST_ANSWER;
                continue;
            }
            let line = std::mem::take(&mut self.heard);
            let line = String::from_utf8_lossy(&line).trim().to_owned();
            if !line.is_empty() && !self.is_over() {
                self.understand(&line);
            }
        }
    }

    fn understand(&mut self, line: &str) {
        let figures: Result<Vec<f64>, _> = line.split(',').map(|v| v.trim().parse()).collect();
        match (self.awaited, figures.as_deref()) {
            (Some(Awaited::Status), Ok(&[status])) if status as u32 & POINTED != 0 => {
                self.waiting.extend_from_slice(b"OD;");
                self.awaited = Some(Awaited::Place);
            }
            (Some(Awaited::Status), Ok(&[_])) => self.next(None),
            (Some(Awaited::Place), Ok(&[x, y, _])) => {
                self.next(Some(Point::new(x / UNITS_PER_MM, y / UNITS_PER_MM)));
            }
            _ => self.garbage = true,
        }
    }

    fn next(&mut self, found: Option<Point>) {
        if let Some(&number) = self.order.get(self.at) {
            self.found[number] = found;
        }
        self.at += 1;
        self.look();
    }

    /// Goes to where the next mark should be.
    fn look(&mut self) {
        let Some(&number) = self.order.get(self.at) else {
            return;
        };
        let to = self.likely(number);
        let unit = |mm: f64| (mm.max(0.0) * UNITS_PER_MM).round() as i64;
        let said = format!("PU{},{};DP;OS;", unit(to.x), unit(to.y));
        self.waiting.extend_from_slice(said.as_bytes());
        self.awaited = Some(Awaited::Status);
    }

    /// Where a mark lies by those that were found: shifted as the one, turned as two.
    #[must_use]
    pub fn likely(&self, number: usize) -> Point {
        let pairs = self.meant.iter().zip(&self.found);
        let mut known = pairs.filter_map(|(m, f)| f.map(|f| (*m, f)));
        let to = self.meant[number];
        match (known.next(), known.next()) {
            (Some(a), Some(b)) => {
                let (was, is) = (b.0 - a.0, b.1 - a.1);
                let turn = Affine::rotate(is.atan2() - was.atan2());
                a.1 + (turn * (to - a.0).to_point()).to_vec2()
            }
            (Some(a), None) => to + (a.1 - a.0),
            _ => to + Vec2::ZERO,
        }
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::cutter::eye::Laid;
    use crate::cutter::{Cutter, Model};
    use crate::printed::Eye;
    use crate::printer::{Print, Sheet};

    /// Middles of the marks, mm from the sheet's upper left corner, y down: lower left first.
    const MARKS: [Point; 3] = [
        Point::new(18.0, 180.0),
        Point::new(130.0, 180.0),
        Point::new(18.0, 18.0),
    ];

    /// A sheet of 150 × 200 mm with marks of 6 mm, 100 points to the inch.
    fn sheet() -> Arc<Sheet> {
        let per_mm = 100.0 / 25.4;
        let pixels = [591_u32, 787];
        let dark = |p: Point| {
            MARKS.iter().enumerate().any(|(n, m)| match p.distance(*m) {
                ..1.0 => n > 0,
                ..2.0 => n == 0,
                ..3.0 => true,
                _ => false,
            })
        };
        // Each pixel is as dark as 16 places in it are.
        let grey = |x: u32, y: u32| {
            let places = (0..16).map(|k| {
                let at = |v: u32, k: u32| (f64::from(v) + (f64::from(k) + 0.5) / 4.0) / per_mm;
                dark(Point::new(at(x, k % 4), at(y, k / 4)))
            });
            255 - 15 * places.filter(|d| *d).count() as u8
        };
        let rows = (0..pixels[1]).flat_map(|y| (0..pixels[0]).map(move |x| (x, y)));
        let rgba = rows
            .flat_map(|(x, y)| [grey(x, y), grey(x, y), grey(x, y), 255])
            .collect();
        Arc::new(Sheet {
            size: [f64::from(pixels[0]) / per_mm, f64::from(pixels[1]) / per_mm],
            print: Some(Print { pixels, rgba }),
            told: String::new(),
        })
    }

    fn find(cutter: &mut Cutter, finder: &mut Finder) {
        for _ in 0..10_000 {
            if finder.is_over() {
                break;
            }
            let bytes = finder.poll();
            assert_eq!(cutter.receive(&bytes), bytes.len());
            cutter.advance(0.05);
            finder.hear(&cutter.answers());
        }
    }

    #[test]
    fn marks_are_found_however_the_page_lies() {
        let meant = MARKS.map(|p| Point::new(p.y, p.x));
        let sheet = sheet();
        for seed in 0..12 {
            let laid = Laid::at_random(Arc::clone(&sheet), seed);
            let truth = MARKS.map(|p| laid.map * p);
            let mut cutter = Cutter::new(Model::default());
            cutter.lay(Some(laid));
            let mut finder = Finder::new(&meant, &[]);
            find(&mut cutter, &mut finder);
            for (found, truth) in finder.found().iter().zip(truth) {
                let off = found.map_or(99.0, |f| f.distance(truth));
                assert!(off < 0.03, "page {seed}: {off} mm");
            }
        }
    }

    #[test]
    fn what_is_not_seen_is_told_and_what_is_known_stays() {
        let meant = MARKS.map(|p| Point::new(p.y, p.x));
        let mut cutter = Cutter::new(Model::default());
        let mut finder = Finder::new(&meant, &[]);
        find(&mut cutter, &mut finder);
        assert_eq!(finder.found(), [None; 3], "nothing lies on it");
        cutter.lay(Some(Laid::at_random(sheet(), 3)));
        cutter.faults().eye = Eye {
            noise: 0.1,
            blind_to: Some(1),
        };
        let mut finder = Finder::new(&meant, &[]);
        find(&mut cutter, &mut finder);
        let unseen: Vec<usize> = (0..3).filter(|&n| finder.found()[n].is_none()).collect();
        assert_eq!(unseen.len(), 1);
        let known = finder.found().to_vec();
        let mut again = Finder::new(&meant, &known);
        find(&mut cutter, &mut again);
        assert!((0..3).all(|n| known[n].is_none() || again.found()[n] == known[n]));
        assert!(again.found()[unseen[0]].is_some());
        let mut odd = Finder::new(&meant, &[]);
        odd.hear(b"ok\r\n");
        assert!(odd.is_over() && odd.is_garbled());
    }
}
