//! What a step of the history is called: what changed from one recipe to the next.

use inky_core::inks::{InkMode, Levels, RimKind, Screen};
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::units::Unit;

use crate::job::clean::shown as clean;
use crate::text;

/// Names what changed from one recipe to the next; `None` where nothing did.
pub(crate) fn name_of_change(old: &Recipe, new: &Recipe, unit: Unit) -> Option<String> {
    let len = |mm: f64, decimals| format!("{} {}", text::length(mm, unit, decimals), unit.symbol());
    if old == new {
        return None;
    }
    if old.clean != new.clean {
        return Some(clean::change(&old.clean, &new.clean));
    }
    if old.inks.mode != new.inks.mode {
        return Some(match new.inks.mode {
            InkMode::Auto => "Inks found by themselves".to_owned(),
            InkMode::Count { count } => format!("{count} inks"),
            InkMode::Mono {
                threshold: Some(t),
                above: Some(a),
                ..
            } => format!("Tones from {a:.0} to {t:.0} %"),
            InkMode::Mono {
                threshold: Some(t), ..
            } => format!("Threshold {t:.0} %"),
            InkMode::Mono { local: true, .. } => "Threshold by surroundings".to_owned(),
            InkMode::Mono { invert: true, .. } => "One tone, inverted".to_owned(),
            InkMode::Mono { invert: false, .. } => "One tone".to_owned(),
            InkMode::Tones => format!("{} tones", new.inks.tones.count),
            InkMode::Silhouette => "Silhouette".to_owned(),
            InkMode::Screen => screen(new.inks.screen.screen).to_owned(),
        });
    }
    if old.inks.screen != new.inks.screen {
        return Some(screen(new.inks.screen.screen).to_owned());
    }
    if old.inks.tones != new.inks.tones {
        let (was, is) = (&old.inks.tones, &new.inks.tones);
        return Some(if was.count != is.count {
            format!("{} tones", is.count)
        } else if was.levels != is.levels {
            match &is.levels {
                Levels::Found => "Levels found".to_owned(),
                Levels::Equal => "Tones of equal area".to_owned(),
                Levels::Hand { percents } => {
                    let all: Vec<String> = percents.iter().map(|p| format!("{p:.0}")).collect();
                    format!("Levels at {} %", all.join(", "))
                }
            }
        } else if was.narrowest != is.narrowest {
            "Narrowest part of tones".to_owned()
        } else {
            format!("Contrast evened out by {:.0} %", is.even)
        });
    }
    if let Some(switch) = new
        .inks
        .switched
        .last()
        .filter(|_| old.inks.switched != new.inks.switched)
    {
        return Some(format!(
            "{} {}",
            switch.colour,
            if switch.kept { "kept" } else { "dropped" }
        ));
    }
    if old.inks.merged != new.inks.merged {
        let gone = old
            .inks
            .merged
            .iter()
            .find(|m| !new.inks.merged.contains(m));
        return Some(match (new.inks.merged.last(), gone) {
            (Some(m), _) if !old.inks.merged.contains(m) => {
                format!("{} merged into {}", m.colour, m.into)
            }
            (_, Some(m)) => format!("{} an ink of its own", m.colour),
            _ => "Inks merged".to_owned(),
        });
    }
    if old.inks.rim != new.inks.rim {
        return Some(match new.inks.rim {
            Some(rim) if rim.kind == RimKind::Band => {
                format!("Rim of {}", len(rim.width.get(), 2))
            }
            Some(rim) => format!("Pulled in by {}", len(rim.width.get(), 2)),
            None => "Whole shapes".to_owned(),
        });
    }
    if old.inks.added != new.inks.added {
        return Some(match new.inks.added.last() {
            Some(c) if new.inks.added.len() > old.inks.added.len() => format!("{c} added"),
            _ => "Added colour taken out".to_owned(),
        });
    }
    if old.inks.enclosed != new.inks.enclosed {
        let more = new.inks.enclosed.len() > old.inks.enclosed.len();
        let what = if more { "kept" } else { "dropped" };
        return Some(format!("Enclosed ground {what}"));
    }
    if old.inks.repainted != new.inks.repainted {
        return Some("Ink in another colour".to_owned());
    }
    if old.inks.names != new.inks.names {
        return Some("Ink renamed".to_owned());
    }
    let (a, b) = (&old.trace, &new.trace);
    if a.tolerance != b.tolerance {
        let told = b
            .tolerance
            .map_or_else(|| "by itself".to_owned(), |t| len(t.get(), 3));
        return Some(format!("Follow within {told}"));
    }
    if a.min_part != b.min_part {
        let told = b.min_part.map_or_else(
            || "by itself".to_owned(),
            |p| text::told_area(p.get(), unit),
        );
        return Some(format!("Smallest part {told}"));
    }
    if a.corner != b.corner {
        let told = b
            .corner
            .map_or_else(|| "by itself".to_owned(), |c| format!("{:.0}°", c.get()));
        return Some(format!("Corners above {told}"));
    }
    if a.smooth != b.smooth {
        let told = b
            .smooth
            .map_or_else(|| "by itself".to_owned(), |l| len(l.get(), 2));
        return Some(format!("Smooth under {told}"));
    }
    if a.edges != b.edges {
        return Some(match b.edges {
            Edges::All => "All edges".to_owned(),
            Edges::Outer => "Outer edge only".to_owned(),
            Edges::Solid => "Solid shapes".to_owned(),
            Edges::CentreLine => "Centre lines".to_owned(),
        });
    }
    if old.size.locked != new.size.locked {
        return Some(
            if new.size.locked {
                "Sides locked"
            } else {
                "Sides freed"
            }
            .to_owned(),
        );
    }
    Some(format!(
        "Size {} × {}",
        len(new.size.width.get(), 1),
        len(new.size.height.get(), 1)
    ))
}

/// What a picture drawn in rows or dots is called.
const fn screen(screen: Screen) -> &'static str {
    match screen {
        Screen::Rows => "Drawn in rows",
        Screen::Dots => "Drawn in dots",
    }
}
