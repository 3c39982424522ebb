//! Materials to begin with. Figures are made up and sensible: a shop changes them to its own.
//!
//! Engraving thin ply at 75 mm/s with 15 to 50 % power, cutting it at 10 mm/s with 30 %, and
//! cutting acrylic with 40 % are common practice, no source; so is cutting heat-applied film from behind.

use super::{Beam, Blade, Laser, Limits, Material, Operation, StockColour, Tool};
use crate::inks::Rgb;
use crate::stock::{Stock, StockKind};

fn colours(list: &[(&str, [u8; 3])]) -> Vec<StockColour> {
    let stocked = |&(name, rgb): &(&str, [u8; 3])| StockColour {
        name: name.to_owned(),
        colour: Rgb(rgb),
    };
    list.iter().map(stocked).collect()
}

fn roll(width: f64, length: f64) -> Stock {
    Stock {
        name: String::new(),
        kind: StockKind::Roll,
        width,
        length,
        margin: 10.0,
        shape: None,
    }
}

fn sheet(width: f64, length: f64, margin: f64) -> Stock {
    Stock {
        kind: StockKind::Sheet,
        margin,
        ..roll(width, length)
    }
}

fn blade(force: f64, speed: f64, offset: f64) -> Option<Blade> {
    Some(Blade {
        force,
        speed,
        passes: 1,
        overcut: 0.3,
        offset,
    })
}

fn laser(speed: f64, power: f64, engrave: (f64, f64, f64)) -> Option<Laser> {
    let beam = |speed, least, most| Beam {
        speed,
        least,
        most,
        passes: 1,
    };
    Some(Laser {
        cut: beam(speed, (power - 10.0).max(5.0), power),
        engrave: beam(engrave.0, engrave.1, engrave.2),
        interval: 0.1,
    })
}

/// Limits by stroke, gap, part, hole, corner, distance of nodes, parts to weed.
fn limits(l: (f64, f64, f64, f64, f64, f64, usize)) -> Limits {
    Limits {
        stroke: l.0,
        gap: l.1,
        part: l.2,
        hole: l.3,
        corner: l.4,
        nodes: l.5,
        parts: l.6,
    }
}

fn film(name: &str, overlap: f64, limits: Limits, blade: Option<Blade>, price: f64) -> Material {
    Material {
        name: name.to_owned(),
        tool: Tool::Blade,
        operation: Operation::KissCut,
        from_behind: false,
        stencil: false,
        overlap,
        thickness: 0.05,
        kerf: 0.0,
        limits,
        blade,
        laser: None,
        colours: Vec::new(),
        stocks: Vec::new(),
        price,
    }
}

fn board(
    name: &str,
    (thickness, kerf): (f64, f64),
    limits: Limits,
    laser: Option<Laser>,
    price: f64,
) -> Material {
    Material {
        tool: Tool::Laser,
        operation: Operation::CutThrough,
        thickness,
        kerf,
        laser,
        ..film(name, 0.0, limits, None, price)
    }
}

const FILMS: [(&str, [u8; 3]); 13] = [
    ("White", [0xf6, 0xf5, 0xf1]),
    ("Black", [0x1d, 0x1c, 0x1f]),
    ("Cream", [0xf2, 0xe6, 0xc9]),
    ("Signal red", [0xb3, 0x27, 0x2d]),
    ("Rust", [0xb5, 0x54, 0x2c]),
    ("Rose", [0xc9, 0x5d, 0x63]),
    ("Sea green", [0x2b, 0x6d, 0x78]),
    ("Night blue", [0x23, 0x2f, 0x5b]),
    ("Sun yellow", [0xe8, 0xb0, 0x33]),
    ("Leaf green", [0x3f, 0x7d, 0x46]),
    ("Light grey", [0xbd, 0xbf, 0xc1]),
    ("Mid grey", [0x86, 0x89, 0x8d]),
    ("Dark grey", [0x52, 0x55, 0x5a]),
];

/// Materials to begin with.
#[must_use]
pub fn presets() -> Vec<Material> {
    let cast = Material {
        thickness: 0.05,
        colours: colours(&FILMS),
        stocks: vec![
            roll(610.0, 25_000.0),
            roll(305.0, 10_000.0),
            roll(1220.0, 50_000.0),
        ],
        ..film(
            "Cast vinyl",
            0.4,
            limits((0.8, 0.6, 2.0, 1.5, 15.0, 0.25, 150)),
            blade(80.0, 300.0, 0.25),
            14.0,
        )
    };
    let calendered = Material {
        thickness: 0.08,
        colours: colours(&FILMS[..8]),
        stocks: vec![roll(610.0, 25_000.0), roll(1260.0, 50_000.0)],
        ..film(
            "Calendered vinyl",
            0.6,
            limits((1.2, 0.9, 3.0, 2.0, 20.0, 0.3, 120)),
            blade(100.0, 300.0, 0.25),
            7.5,
        )
    };
    let transfer = Material {
        from_behind: true,
        thickness: 0.09,
        colours: colours(&FILMS),
        stocks: vec![roll(500.0, 25_000.0), sheet(300.0, 500.0, 5.0)],
        ..film(
            "Garment transfer film",
            0.0,
            limits((1.0, 0.8, 2.0, 1.5, 20.0, 0.25, 120)),
            blade(90.0, 250.0, 0.25),
            22.0,
        )
    };
    let stencil = Material {
        operation: Operation::CutThrough,
        stencil: true,
        thickness: 0.25,
        colours: colours(&[("Blue", [0x5b, 0x9b, 0xb8])]),
        stocks: vec![roll(610.0, 10_000.0), sheet(500.0, 500.0, 5.0)],
        ..film(
            "Stencil film",
            0.0,
            limits((1.5, 0.8, 2.0, 1.0, 15.0, 0.3, 200)),
            blade(180.0, 150.0, 0.5),
            9.0,
        )
    };
    let card = Material {
        operation: Operation::CutThrough,
        thickness: 0.3,
        colours: colours(&[
            ("White", [0xfb, 0xfa, 0xf5]),
            ("Pearl grey", [0xc7, 0xc6, 0xc2]),
            ("Stone grey", [0x8d, 0x8e, 0x8f]),
            ("Kraft", [0xb9, 0x8e, 0x5e]),
            ("Slate", [0x4b, 0x55, 0x5f]),
            ("Brick", [0xa8, 0x4b, 0x3c]),
            ("Black", [0x21, 0x20, 0x22]),
        ]),
        stocks: vec![sheet(210.0, 297.0, 8.0), sheet(305.0, 305.0, 6.0)],
        ..film(
            "Card 240 g",
            0.0,
            limits((1.2, 0.8, 3.0, 1.5, 20.0, 0.3, 100)),
            blade(200.0, 120.0, 0.35),
            4.0,
        )
    };
    let ply = |name: &str, thickness, kerf, laser, price| Material {
        colours: colours(&[("Birch", [0xe0, 0xc2, 0x95])]),
        stocks: vec![sheet(600.0, 300.0, 5.0), sheet(900.0, 600.0, 5.0)],
        ..board(
            name,
            (thickness, kerf),
            limits((1.5, 1.0, 4.0, 1.2, 12.0, 0.3, 100)),
            laser,
            price,
        )
    };
    let acrylic = Material {
        colours: colours(&[
            ("Clear", [0xdc, 0xea, 0xee]),
            ("Amber", [0xe8, 0x9c, 0x23]),
            ("Black", [0x1d, 0x1c, 0x1f]),
            ("White", [0xf6, 0xf5, 0xf1]),
            ("Sea green", [0x2b, 0x6d, 0x78]),
        ]),
        stocks: vec![sheet(600.0, 400.0, 5.0), sheet(300.0, 200.0, 5.0)],
        ..board(
            "Acrylic 3 mm",
            (3.0, 0.2),
            limits((2.0, 1.2, 4.0, 1.5, 15.0, 0.3, 100)),
            laser(8.0, 40.0, (120.0, 12.0, 30.0)),
            38.0,
        )
    };
    let leather = Material {
        colours: colours(&[("Tan", [0xa8, 0x71, 0x44]), ("Black", [0x26, 0x22, 0x22])]),
        stocks: vec![sheet(400.0, 300.0, 5.0)],
        ..board(
            "Leather 2 mm",
            (2.0, 0.2),
            limits((2.0, 1.2, 5.0, 1.5, 20.0, 0.3, 100)),
            laser(15.0, 35.0, (150.0, 10.0, 20.0)),
            90.0,
        )
    };
    vec![
        cast,
        calendered,
        transfer,
        stencil,
        card,
        ply(
            "Ply 3 mm",
            3.0,
            0.15,
            laser(10.0, 30.0, (75.0, 15.0, 50.0)),
            16.0,
        ),
        ply(
            "Ply 6 mm",
            6.0,
            0.25,
            laser(5.0, 55.0, (75.0, 15.0, 50.0)),
            24.0,
        ),
        acrylic,
        leather,
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn presets_hold_to_what_is_allowed_and_have_names_of_their_own() {
        let all = presets();
        let mut names: Vec<&str> = all.iter().map(|m| m.name.as_str()).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), all.len());
        for material in &all {
            assert_eq!(material.check(), Ok(()), "{}", material.name);
            let json = serde_json::to_string(material).unwrap();
            assert_eq!(&serde_json::from_str::<Material>(&json).unwrap(), material);
        }
    }

    #[test]
    fn a_figure_that_cannot_be_is_told() {
        let mut material = presets().swap_remove(0);
        material.limits.stroke = f64::NAN;
        assert!(material.check().is_err());
        material.limits.stroke = -1.0;
        assert_eq!(
            material.check().unwrap_err().to_string(),
            "the thinnest stroke of -1 mm is outside 0 to 20 mm"
        );
    }
}
