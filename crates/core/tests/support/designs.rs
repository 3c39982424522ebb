//! Designs put together from rings.

use inky_core::inks::{InkId, Rgb};
use inky_core::shapes::{Design, Ring};
use inky_core::size::Size;
use inky_core::tidy::{Drawing, Kind, Path};
use inky_core::units::Mm;

pub(crate) const RED: Rgb = Rgb([200, 40, 40]);
pub(crate) const TEAL: Rgb = Rgb([40, 120, 130]);
pub(crate) const SAND: Rgb = Rgb([220, 190, 140]);

/// A design of shapes by colour; each a list of rings, the outer one first.
pub(crate) fn design(shapes: &[(Rgb, Vec<Ring>)]) -> Design {
    let mut d = Drawing {
        items: Vec::new(),
        added_inks: vec![RED, TEAL, SAND],
        artwork_inks: 0,
        next: 0,
    };
    for (colour, rings) in shapes {
        let ink = d.added_inks.iter().position(|c| c == colour).unwrap();
        let paths = rings.iter().map(Path::of).collect();
        d.add(InkId(ink as u8), Kind::Shape, paths);
    }
    let page = Design::empty(Size {
        width: Mm::new(100.0),
        height: Mm::new(100.0),
        locked: true,
    });
    d.design(&page, &Default::default())
}
