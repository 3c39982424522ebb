//! How a file's figures lie on the page: scaled units (`IP`, `SC`) and turns (`RO`).
//!
//! Source: HP-GL/2 and HP RTL Reference Guide, "IP", "SC", "RO". Plotter units are 0.025 mm.

use kurbo::{Affine, Point, Rect, Vec2};

use super::broken;
use crate::vector::VectorError;

/// From a file's figures to plotter units.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Scale {
    corners: Option<Rect>,
    scaled: Option<Affine>,
    quarters: i64,
}

impl Scale {
    /// The corners P1 and P2, plotter units; none is those of the machine.
    pub(super) fn corners(&mut self, said: &[f64]) {
        match *said {
            [x0, y0, x1, y1, ..] => self.corners = Some(Rect { x0, y0, x1, y1 }),
            // P2 follows P1.
            [x0, y0, ..] => {
                let was = self.corners.unwrap_or_default();
                self.corners = Some(was + Vec2::new(x0 - was.x0, y0 - was.y0));
            }
            _ => self.corners = None,
        }
    }

    /// Units of the file's own.
    ///
    /// # Errors
    /// Where they depend on a page that the file does not state, or are none.
    pub(super) fn units(&mut self, said: &[f64]) -> Result<(), VectorError> {
        let [x0, x1, y0, y1, ref more @ ..] = *said else {
            self.scaled = None;
            return if said.is_empty() {
                Ok(())
            } else {
                Err(broken("SC needs four figures"))
            };
        };
        let kind = more.first().copied().unwrap_or(0.0) as i64;
        let origin = Affine::translate((-x0, -y0));
        if kind == 2 {
            // So many plotter units each, from P1.
            let corner = self
                .corners
                .map_or(Point::ORIGIN, |c| Point::new(c.x0, c.y0));
            return self.take(
                Affine::translate(corner.to_vec2()) * Affine::scale_non_uniform(x1, y1) * origin,
            );
        }
        let Some(page) = self.corners else {
            return Err(broken(
                "its units are scaled (SC) to a page that it does not state; write it in plotter units",
            ));
        };
        let (mut sx, mut sy) = (
            (page.x1 - page.x0) / (x1 - x0),
            (page.y1 - page.y0) / (y1 - y0),
        );
        let mut corner = Vec2::new(page.x0, page.y0);
        if kind == 1 {
            // Alike both ways, in the middle of what is left or where it is told.
            let least = sx.abs().min(sy.abs());
            let part = |n: usize| more.get(n).copied().unwrap_or(50.0) / 100.0;
            corner.x += (page.x1 - page.x0 - least * sx.signum() * (x1 - x0)) * part(1);
            corner.y += (page.y1 - page.y0 - least * sy.signum() * (y1 - y0)) * part(2);
            (sx, sy) = (least * sx.signum(), least * sy.signum());
        }
        self.take(Affine::translate(corner) * Affine::scale_non_uniform(sx, sy) * origin)
    }

    fn take(&mut self, map: Affine) -> Result<(), VectorError> {
        if !map.is_finite() || map.determinant().abs() < 1e-12 {
            return Err(broken("its scaled units (SC) have no size"));
        }
        self.scaled = Some(map);
        Ok(())
    }

    /// The page turned by 0°, 90°, 180° or 270°.
    pub(super) fn turned(&mut self, degrees: f64) {
        self.quarters = (degrees / 90.0).round() as i64;
    }

    /// From the file's figures to plotter units.
    pub(super) fn map(&self) -> Affine {
        let turn = match self.quarters.rem_euclid(4) {
            0 => Affine::IDENTITY,
            1 => Affine::new([0.0, 1.0, -1.0, 0.0, 0.0, 0.0]),
            2 => Affine::new([-1.0, 0.0, 0.0, -1.0, 0.0, 0.0]),
            _ => Affine::new([0.0, -1.0, 1.0, 0.0, 0.0, 0.0]),
        };
        turn * self.scaled.unwrap_or(Affine::IDENTITY)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn scaled_units_lie_between_the_corners() {
        let mut scale = Scale::default();
        assert!(scale.units(&[0.0, 10.0, 0.0, 10.0]).is_err());
        scale.corners(&[100.0, 200.0, 1100.0, 700.0]);
        let at = |s: &Scale, x: f64, y: f64| s.map() * Point::new(x, y);
        scale.units(&[0.0, 10.0, 0.0, 10.0]).unwrap();
        assert_eq!(at(&scale, 10.0, 5.0), Point::new(1100.0, 450.0));
        // Alike both ways: 50 units each, 250 left on both sides.
        scale.units(&[0.0, 10.0, 0.0, 10.0, 1.0]).unwrap();
        assert_eq!(at(&scale, 0.0, 10.0), Point::new(350.0, 700.0));
        scale.units(&[1.0, 40.0, 1.0, 40.0, 2.0]).unwrap();
        assert_eq!(at(&scale, 2.0, 1.0), Point::new(140.0, 200.0));
        scale.units(&[]).unwrap();
        scale.turned(90.0);
        assert_eq!(at(&scale, 3.0, 4.0), Point::new(-4.0, 3.0));
        assert!(scale.units(&[0.0, 0.0, 0.0, 1.0]).is_err());
        assert!(scale.units(&[0.0]).is_err());
    }
}
