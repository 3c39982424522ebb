//! Figures with their units, as people read them.

use inky_core::units::{MM_PER_INCH, Unit};
use inky_store::Millis;

/// A piece of a line of text; figures stand out from their units.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Bit {
    pub(crate) figure: bool,
    pub(crate) text: String,
}

/// Text whose words in `**` are figures: `"**3** kept, **1** dropped"`.
pub(crate) fn bits(text: &str) -> Vec<Bit> {
    text.split("**")
        .enumerate()
        .filter(|(_, part)| !part.is_empty())
        .map(|(i, part)| Bit {
            figure: i % 2 == 1,
            text: part.to_owned(),
        })
        .collect()
}

/// A length in the reader's unit without its symbol.
pub(crate) fn length(mm: f64, unit: Unit, decimals_mm: usize) -> String {
    let told = unit.length(mm, decimals_mm);
    told.trim_end_matches(unit.symbol()).trim_end().to_owned()
}

/// A length in the reader's unit, with its symbol.
pub(crate) fn told_length(mm: f64, unit: Unit, decimals_mm: usize) -> String {
    unit.length(mm, decimals_mm)
}

/// A side of the finished size: fine enough that nothing typed changes when it is shown again.
pub(crate) fn side(mm: f64, unit: Unit) -> String {
    let text = match unit {
        Unit::Mm => format!("{mm:.2}"),
        Unit::In => format!("{:.3}", mm / MM_PER_INCH),
    };
    let short = text.trim_end_matches('0');
    if short.ends_with('.') {
        format!("{short}0")
    } else {
        short.to_owned()
    }
}

/// A small area in the reader's unit, with its symbol.
pub(crate) fn told_area(mm2: f64, unit: Unit) -> String {
    let decimals = if mm2 >= 10.0 {
        0
    } else if mm2 >= 1.0 {
        1
    } else {
        3
    };
    unit.area(mm2, decimals)
}

/// The same without its symbol.
pub(crate) fn small_area(mm2: f64, unit: Unit) -> String {
    let told = told_area(mm2, unit);
    told.trim_end_matches(unit.area_symbol())
        .trim_end()
        .to_owned()
}

/// A number of things in words.
pub(crate) fn some(n: usize, one: &str) -> String {
    format!("{n} {one}{}", if n == 1 { "" } else { "s" })
}

/// Shapes, stroke lines and nodes; those there are none of are left out where there are others.
pub(crate) fn counts(shapes: usize, strokes: usize, nodes: usize) -> String {
    let lines = some(strokes, "stroke");
    match (shapes, strokes) {
        (_, 0) => format!("{} · {}", some(shapes, "shape"), some(nodes, "node")),
        (0, _) => format!("{lines} · {}", some(nodes, "node")),
        _ => format!(
            "{} · {lines} · {}",
            some(shapes, "shape"),
            some(nodes, "node")
        ),
    }
}

/// A large area: cm², or square inches.
pub(crate) fn large_area(mm2: f64, unit: Unit) -> String {
    match unit {
        // A sum of nothing is −0.
        Unit::Mm => format!("{:.1} cm²", mm2 / 100.0 + 0.0),
        Unit::In => format!("{:.2} in²", mm2 / (MM_PER_INCH * MM_PER_INCH)),
    }
}

/// A long length: metres, or feet.
pub(crate) fn long_length(mm: f64, unit: Unit) -> (String, &'static str) {
    match unit {
        Unit::Mm => (format!("{:.2}", mm / 1000.0), "m"),
        Unit::In => (format!("{:.1}", mm / MM_PER_INCH / 12.0), "ft"),
    }
}

/// A share, with a decimal where it is small.
pub(crate) fn percent(share: f64) -> String {
    let p = share * 100.0;
    if p < 1.0 {
        format!("{p:.1} %")
    } else {
        format!("{p:.0} %")
    }
}

/// Clock time today, else the date.
pub(crate) fn moment(at: Millis) -> String {
    let Ok(at) = jiff::Timestamp::from_millisecond(at) else {
        return String::new();
    };
    let zone = jiff::tz::TimeZone::system();
    let (at, now) = (
        at.to_zoned(zone.clone()),
        jiff::Timestamp::now().to_zoned(zone),
    );
    let format = if at.date() == now.date() {
        "%H:%M"
    } else {
        "%-d %b %Y"
    };
    at.strftime(format).to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_are_marked_within_their_line() {
        let bits = bits("**3** kept, **1** dropped");
        let figures: Vec<&str> = bits
            .iter()
            .filter(|b| b.figure)
            .map(|b| b.text.as_str())
            .collect();
        assert_eq!(figures, ["3", "1"]);
    }

    #[test]
    fn sides_are_shown_as_finely_as_they_are_typed() {
        assert_eq!(side(150.0, Unit::Mm), "150.0");
        assert_eq!(side(54.483, Unit::In), "2.145");
        assert_eq!(side(112.444, Unit::Mm), "112.44");
    }
}
