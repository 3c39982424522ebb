//! Pieces of known outlines.

use inky_core::cutting::CutLayer;
use inky_core::inks::Rgb;
use inky_core::material::{Material, Operation, Tool, presets};
use inky_core::overlay::Rings;
use inky_core::shapes::Ring;
use inky_core::sheet::piece::Piece;

pub(crate) fn material(tool: Tool) -> Material {
    presets().into_iter().find(|m| m.tool == tool).unwrap()
}

pub(crate) fn piece(shapes: Vec<(Ring, Vec<Ring>)>) -> Piece {
    let shape = |(outer, holes): (Ring, Vec<Ring>)| Rings {
        outer,
        holes: holes.iter().map(Ring::reversed).collect(),
    };
    Piece::of(&[CutLayer {
        name: "A".to_owned(),
        letter: "A".to_owned(),
        colour: Rgb([0, 0, 0]),
        material: material(Tool::Blade),
        stock_colour: None,
        operation: Operation::KissCut,
        shapes: shapes.into_iter().map(shape).collect(),
        lines: Vec::new(),
    }])
    .unwrap()
}
