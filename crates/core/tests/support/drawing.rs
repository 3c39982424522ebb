//! Drawings made by hand, and what every edit of one has to leave sound.

use inky_core::inks::Rgb;
use inky_core::overlay::fault;
use inky_core::recipe::Recipe;
use inky_core::stop::Stop;
use inky_core::tidy::sketch::Sketch;
use inky_core::tidy::{Changed, Drawing, Edit, ItemId, Kind, Part, Pigment};
use inky_core::trace;

pub(crate) const RED: Pigment = Pigment::Colour(Rgb([200, 40, 40]));

pub(crate) fn empty() -> Drawing {
    Drawing {
        items: Vec::new(),
        added_inks: Vec::new(),
        artwork_inks: 2,
        next: 0,
    }
}

pub(crate) fn sketched(d: &Drawing, sketch: &Sketch) -> Changed {
    let path = sketch.drawn().unwrap().path;
    let part = Part {
        pigment: Pigment::Ink(0),
        pen: (!path.closed).then_some(0.5),
        paths: vec![path],
        text: None,
    };
    let name = "drawn".to_owned();
    d.after(&Edit::Add {
        parts: vec![part],
        name,
    })
    .unwrap()
}

pub(crate) fn rectangle(d: &Drawing, from: [f64; 2], to: [f64; 2]) -> (Drawing, ItemId) {
    let changed = sketched(
        d,
        &Sketch::Rectangle {
            from,
            to,
            radius: 0.0,
        },
    );
    (changed.drawing, changed.made[0])
}

pub(crate) fn line(d: &Drawing, places: &[[f64; 2]]) -> (Drawing, ItemId) {
    let sketch = Sketch::Line {
        places: places.to_vec(),
        closed: false,
        smooth: false,
    };
    let changed = sketched(d, &sketch);
    (changed.drawing, changed.made[0])
}

pub(crate) fn done(d: &Drawing, edit: Edit) -> (Drawing, Vec<ItemId>) {
    let changed = d.after(&edit).unwrap();
    sound(&changed.drawing);
    (changed.drawing, changed.made)
}

pub(crate) fn sound(d: &Drawing) {
    for item in &d.items {
        for path in &item.paths {
            for w in path.segments.windows(2) {
                assert!(w[0].end().distance(w[1].start()) < 1e-9, "segments meet");
            }
        }
        if item.kind == Kind::Shape {
            let rings = item.rings();
            assert!(item.paths.iter().all(|p| p.closed));
            assert_eq!(
                fault(&rings.iter().collect::<Vec<_>>()),
                None,
                "item {}",
                item.id
            );
            assert!(
                rings[0].signed_area() > 0.0 && rings[1..].iter().all(|r| r.signed_area() < 0.0)
            );
        }
    }
}

pub(crate) fn area(d: &Drawing, ids: &[ItemId]) -> f64 {
    ids.iter().map(|&id| d.item(id).unwrap().area()).sum()
}

/// The traced teapot.
pub(crate) fn teapot() -> Drawing {
    let sample = super::sample("teapot");
    let (picture, size) = sample;
    let traced = trace::trace(
        &picture,
        &Recipe::automatic(size),
        &Stop::new(),
        &mut |_| {},
    )
    .unwrap();
    Drawing::of(&traced.design)
}
