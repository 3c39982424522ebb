//! The plane an entity is drawn in, seen from above.
//!
//! Source: the published DXF reference, "Object coordinate systems (OCS)": the arbitrary axis algorithm.

use kurbo::Affine;

use super::Entity;

type Vec3 = [f64; 3];

/// An axis nearer to the vertical than this takes its x from the world's y.
const NEARLY_UP: f64 = 1.0 / 64.0;

fn cross(a: Vec3, b: Vec3) -> Vec3 {
    [
        a[1] * b[2] - a[2] * b[1],
        a[2] * b[0] - a[0] * b[2],
        a[0] * b[1] - a[1] * b[0],
    ]
}

fn unit(v: Vec3) -> Option<Vec3> {
    let length = v.iter().map(|c| c * c).sum::<f64>().sqrt();
    (length > 1e-12).then(|| v.map(|c| c / length))
}

/// The normal of an entity's plane; upwards where it states none.
pub(super) fn normal(entity: &Entity<'_>) -> Vec3 {
    let stated = [210, 220, 230].map(|code| entity.figure(code).unwrap_or(0.0));
    unit(stated).unwrap_or([0.0, 0.0, 1.0])
}

/// From a plane with a normal, at some height above the world's origin, to the world as seen from
/// above.
pub(super) fn from_above(normal: Vec3, elevation: f64) -> Affine {
    let up = normal[0].abs() < NEARLY_UP && normal[1].abs() < NEARLY_UP;
    let base = if up { [0.0, 1.0, 0.0] } else { [0.0, 0.0, 1.0] };
    let x = unit(cross(base, normal)).unwrap_or([1.0, 0.0, 0.0]);
    let y = cross(normal, x);
    let [nx, ny, _] = normal;
    Affine::new([x[0], x[1], y[0], y[1], nx * elevation, ny * elevation])
}

/// The second axis of an ellipse: the normal times the first, as seen from above.
pub(super) fn across(normal: Vec3, major: Vec3) -> kurbo::Vec2 {
    let [x, y, _] = cross(normal, major);
    kurbo::Vec2::new(x, y)
}

#[cfg(test)]
mod tests {
    use super::*;
    use kurbo::Point;

    #[test]
    fn planes_lie_as_the_reference_says() {
        let at = |normal, p: (f64, f64)| from_above(normal, 0.0) * Point::from(p);
        assert_eq!(at([0.0, 0.0, 1.0], (3.0, 4.0)), Point::new(3.0, 4.0));
        // From below x runs the other way.
        assert_eq!(at([0.0, 0.0, -1.0], (3.0, 4.0)), Point::new(-3.0, 4.0));
        // Tilted about the world's x by 60°, a circle is seen half as high.
        let tilted = unit([0.0, -(3.0_f64.sqrt()) / 2.0, 0.5]).unwrap();
        let map = from_above(tilted, 0.0);
        assert!((map.determinant() - 0.5).abs() < 1e-12);
        // On edge it is a line.
        assert!(from_above([1.0, 0.0, 0.0], 0.0).determinant().abs() < 1e-12);
    }
}
