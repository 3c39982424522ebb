//! A chequer whose fields meet between pixels comes out as its exact corners, whatever its hues.
//!
//! The pixel values are exact: the part of each that is inked follows from where it lies, so every
//! corner is known in closed form.

use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{TraceError, trace};

const SIDE: u32 = 220;
const FIELDS: u32 = 8;

/// Fields of so many px from (12.3, 12.3), the first inked.
fn chequer(field: f64, inks: [[f64; 3]; 2]) -> Picture {
    // How much of a pixel lies in fields of even number, and in any at all.
    let parts = |v: u32| {
        let end = f64::from(FIELDS);
        let at = |v: u32| ((f64::from(v) - 12.3) / field).clamp(0.0, end);
        let even = |at: f64| (at / 2.0).floor() + (at % 2.0).min(1.0);
        let (from, to) = (at(v), at(v + 1));
        ((even(to) - even(from)) * field, (to - from) * field)
    };
    let pixels = (0..SIDE * SIDE).map(|i| {
        let ((a, all_a), (b, all_b)) = (parts(i % SIDE), parts(i / SIDE));
        let ink = a * b + (all_a - a) * (all_b - b);
        let [r, g, b] = [0, 1, 2].map(|c| {
            let v = inks[0][c] + ink * (inks[1][c] - inks[0][c]);
            v.round() as u8
        });
        [r, g, b, 255]
    });
    Picture::new(SIDE, SIDE, pixels.collect()).unwrap_or_else(|_| unreachable!("one size"))
}

#[test]
fn corners_that_touch_are_exact() -> Result<(), TraceError> {
    for (field, inks) in [
        (24.4, [[255.0; 3], [0.0; 3]]),
        (23.1, [[250.0, 244.0, 226.0], [160.0, 40.0, 70.0]]),
    ] {
        let picture = chequer(field, inks);
        let recipe = Recipe::automatic(Size::at_ppi(SIDE, SIDE, 25.4));
        let traced = trace(&picture, &recipe, &Stop::new(), &mut |_| {})?;
        let rings = traced.design.shapes.iter().flat_map(|s| s.rings());
        let corners: Vec<_> = rings
            .flat_map(|ring| ring.segments().iter().map(|s| s.start()))
            .collect();
        // 32 fields of four corners each.
        assert_eq!(corners.len(), 128, "{field} px");
        for corner in corners {
            let off = [corner.x, corner.y].map(|v| {
                let at = (v - 12.3) / field;
                (at - at.round()).abs() * field
            });
            assert!(off[0] < 0.1 && off[1] < 0.1, "{field} px: {corner:?}");
        }
    }
    Ok(())
}
