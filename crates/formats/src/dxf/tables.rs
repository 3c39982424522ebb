//! What stands around the entities: header, tables, blocks, objects.

use inky_core::inks::{Rgb, difference};
use inky_core::units::Unit;

use super::Groups;

/// Handle of the model space that owns every entity.
pub(super) const MODEL: &str = "1F";
/// Handle of the paper space.
const PAPER: &str = "1E";
/// Greatest handle that may be met; any above all that are used.
const SEED: &str = "FFFFFF";

/// The numbered colours of DXF that are used, with how they look.
const COLOURS: [(u8, Rgb); 9] = [
    (1, Rgb([255, 0, 0])),
    (2, Rgb([255, 255, 0])),
    (3, Rgb([0, 255, 0])),
    (4, Rgb([0, 255, 255])),
    (5, Rgb([0, 0, 255])),
    (6, Rgb([255, 0, 255])),
    (7, Rgb([0, 0, 0])),
    (8, Rgb([128, 128, 128])),
    (9, Rgb([192, 192, 192])),
];

/// The numbered colour nearest to another.
pub(super) fn index(colour: Rgb) -> u8 {
    let far = |c: &(u8, Rgb)| difference(c.1, colour);
    let nearest = COLOURS.iter().min_by(|a, b| far(a).total_cmp(&far(b)));
    nearest.map_or(7, |c| c.0)
}

/// Version, unit and extents of the page.
pub(super) fn header(out: &mut Groups, old: bool, unit: Unit, size: [f64; 2]) {
    out.put(0, "SECTION");
    out.put(2, "HEADER");
    let variable = |out: &mut Groups, name: &str, code: u32, value: &str| {
        out.put(9, name);
        out.put(code, value);
    };
    variable(out, "$ACADVER", 1, if old { "AC1009" } else { "AC1015" });
    if !old {
        variable(out, "$HANDSEED", 5, SEED);
    }
    let metric = unit == Unit::Mm;
    variable(out, "$INSUNITS", 70, if metric { "4" } else { "1" });
    variable(out, "$MEASUREMENT", 70, if metric { "1" } else { "0" });
    for (name, corner) in [("$EXTMIN", [0.0, 0.0]), ("$EXTMAX", size)] {
        out.put(9, name);
        out.number(10, corner[0]);
        out.number(20, corner[1]);
        out.number(30, 0.0);
    }
    out.put(0, "ENDSEC");
}

/// The head of a table with `count` entries.
fn table(out: &mut Groups, old: bool, name: &str, count: usize) -> String {
    out.put(0, "TABLE");
    out.put(2, name);
    let handle = if old { String::new() } else { out.handle() };
    if !old {
        out.put(5, &handle);
        out.put(330, 0);
        out.put(100, "AcDbSymbolTable");
    }
    out.put(70, count);
    handle
}

/// The head of an entry.
fn entry(out: &mut Groups, old: bool, kind: &str, (owner, class, name): (&str, &str, &str)) {
    out.put(0, kind);
    if !old {
        let handle = out.handle();
        out.put(if kind == "DIMSTYLE" { 105 } else { 5 }, handle);
        out.put(330, owner);
        out.put(100, "AcDbSymbolTableRecord");
        out.put(100, class);
    }
    out.put(2, name);
    out.put(70, 0);
}

/// All tables, and for AC1015 the two blocks that it asks for.
pub(super) fn tables(out: &mut Groups, old: bool, layers: &[String], colours: &[u8]) {
    out.put(0, "SECTION");
    out.put(2, "TABLES");
    if !old {
        table(out, old, "VPORT", 0);
        out.put(0, "ENDTAB");
    }
    let lines: &[&str] = if old {
        &["CONTINUOUS"]
    } else {
        &["ByBlock", "ByLayer", "Continuous"]
    };
    let owner = table(out, old, "LTYPE", lines.len());
    for name in lines {
        entry(out, old, "LTYPE", (&owner, "AcDbLinetypeTableRecord", name));
        out.put(3, "");
        out.put(72, 65);
        out.put(73, 0);
        out.number(40, 0.0);
    }
    out.put(0, "ENDTAB");
    let zero = "0".to_owned();
    let all = std::iter::once((&zero, &7)).chain(layers.iter().zip(colours));
    let owner = table(out, old, "LAYER", layers.len() + 1);
    for (name, colour) in all {
        entry(out, old, "LAYER", (&owner, "AcDbLayerTableRecord", name));
        out.put(62, colour);
        out.put(6, if old { "CONTINUOUS" } else { "Continuous" });
    }
    out.put(0, "ENDTAB");
    if !old {
        rest(out);
    }
    out.put(0, "ENDSEC");
    if !old {
        blocks(out);
    }
}

/// Tables that AC1015 asks for and that hold nothing of the page.
fn rest(out: &mut Groups) {
    let owner = table(out, false, "STYLE", 1);
    entry(
        out,
        false,
        "STYLE",
        (&owner, "AcDbTextStyleTableRecord", "Standard"),
    );
    for (code, value) in [(40, 0.0), (41, 1.0), (50, 0.0)] {
        out.number(code, value);
    }
    out.put(71, 0);
    out.number(42, 2.5);
    out.put(3, "txt");
    out.put(4, "");
    out.put(0, "ENDTAB");
    for name in ["VIEW", "UCS"] {
        table(out, false, name, 0);
        out.put(0, "ENDTAB");
    }
    let owner = table(out, false, "APPID", 1);
    entry(
        out,
        false,
        "APPID",
        (&owner, "AcDbRegAppTableRecord", "ACAD"),
    );
    out.put(0, "ENDTAB");
    let owner = table(out, false, "DIMSTYLE", 1);
    out.put(100, "AcDbDimStyleTable");
    entry(
        out,
        false,
        "DIMSTYLE",
        (&owner, "AcDbDimStyleTableRecord", "Standard"),
    );
    out.put(0, "ENDTAB");
    let owner = table(out, false, "BLOCK_RECORD", 2);
    for (handle, name) in [(MODEL, "*Model_Space"), (PAPER, "*Paper_Space")] {
        out.put(0, "BLOCK_RECORD");
        out.put(5, handle);
        out.put(330, &owner);
        out.put(100, "AcDbSymbolTableRecord");
        out.put(100, "AcDbBlockTableRecord");
        out.put(2, name);
    }
    out.put(0, "ENDTAB");
}

fn blocks(out: &mut Groups) {
    out.put(0, "SECTION");
    out.put(2, "BLOCKS");
    for (owner, name) in [(MODEL, "*Model_Space"), (PAPER, "*Paper_Space")] {
        for kind in ["BLOCK", "ENDBLK"] {
            let begins = kind == "BLOCK";
            out.put(0, kind);
            let handle = out.handle();
            out.put(5, handle);
            out.put(330, owner);
            out.put(100, "AcDbEntity");
            out.put(8, 0);
            out.put(
                100,
                if begins {
                    "AcDbBlockBegin"
                } else {
                    "AcDbBlockEnd"
                },
            );
            if begins {
                out.put(2, name);
                out.put(70, 0);
                for code in [10, 20, 30] {
                    out.number(code, 0.0);
                }
                out.put(3, name);
                out.put(1, "");
            }
        }
    }
    out.put(0, "ENDSEC");
}

/// The dictionary at the root, and the one of groups.
pub(super) fn objects(out: &mut Groups) {
    let (root, groups) = (out.handle(), out.handle());
    out.put(0, "SECTION");
    out.put(2, "OBJECTS");
    for (handle, owner) in [(&root, "0"), (&groups, root.as_str())] {
        out.put(0, "DICTIONARY");
        out.put(5, handle);
        out.put(330, owner);
        out.put(100, "AcDbDictionary");
        out.put(281, 1);
        if *handle == root {
            out.put(3, "ACAD_GROUP");
            out.put(350, &groups);
        }
    }
    out.put(0, "ENDSEC");
}
