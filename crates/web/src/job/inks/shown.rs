//! The controls of the Inks line.

use inky_core::inks::{EdgeField, InkMode, InkReason, Levels, RimKind, Screen};
use inky_core::recipe::Recipe;
use inky_core::units::Unit;

use crate::job::controls::Slider;
use crate::job::inks::made;
use crate::text;
use crate::workshop::Outcome;

/// What the Inks line shows.
pub(crate) struct InksBody {
    pub(crate) mode: &'static str,
    pub(crate) count: Slider,
    /// Counts for the buttons that ask for one ink fewer or more.
    pub(crate) fewer: usize,
    pub(crate) more: usize,
    pub(crate) threshold: Slider,
    pub(crate) local: bool,
    pub(crate) invert: bool,
    /// The lower threshold, where a band of tones is ink.
    pub(crate) above: Option<Slider>,
    /// `none`, `band` or `pulled-in`.
    pub(crate) rim: &'static str,
    pub(crate) rim_width: Slider,
    /// Whether it is made of a picture with gradients: tones, a silhouette, rows or dots.
    pub(crate) is_made: bool,
    /// For these, the sliders in their order.
    pub(crate) made: Vec<Slider>,
    /// How the levels of tones are chosen: `found`, `equal` or `hand`.
    pub(crate) levels: &'static str,
    /// Whether rows or dots draw what is light.
    pub(crate) light: bool,
    pub(crate) added: Vec<String>,
    pub(crate) enclosed: Vec<EnclosedRow>,
    /// Enclosed parts that are not listed.
    pub(crate) more_enclosed: usize,
}

/// An enclosed part of the ground.
pub(crate) struct EnclosedRow {
    pub(crate) said: String,
    /// The place to keep, `x,y` in mm, or the number of the one to drop again.
    pub(crate) value: String,
    pub(crate) kept: bool,
}

/// Parts that are listed; the bench reaches the others.
const LISTED: usize = 6;

/// The line's result: how many inks are cut, and how many are not.
pub(crate) fn summary(outcome: &Outcome) -> String {
    let inks = &outcome.design.inks;
    let kept = inks.iter().filter(|i| i.letter.is_some());
    let (kept, cut) = (kept.clone().count(), kept.filter(|i| i.is_cut()).count());
    let dropped = format!("**{cut}** kept, **{}** dropped", inks.len() - kept);
    match kept - cut {
        0 => dropped,
        empty => format!("{dropped}, **{empty}** too small"),
    }
}

/// Why the artwork was parted so.
pub(crate) fn why(recipe: &Recipe, outcome: &Outcome) -> String {
    let notes = outcome.solid.notes(recipe.inks.background);
    let reason = outcome.solid.reason.to_string();
    [vec![reason], notes].concat().join(" ")
}

pub(crate) fn body(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> InksBody {
    let (mode, threshold, local, invert, above) = match recipe.inks.mode {
        InkMode::Auto => ("auto", None, false, false, None),
        InkMode::Count { .. } => ("several", None, false, false, None),
        InkMode::Mono {
            threshold,
            local,
            invert,
            above,
        } => ("mono", threshold, local, invert, above),
        InkMode::Tones => ("tones", None, false, false, None),
        InkMode::Silhouette => ("silhouette", None, false, false, None),
        InkMode::Screen => match recipe.inks.screen.screen {
            Screen::Rows => ("rows", None, false, false, None),
            Screen::Dots => ("dots", None, false, false, None),
        },
    };
    let is_made = matches!(
        recipe.inks.mode,
        InkMode::Tones | InkMode::Silhouette | InkMode::Screen
    );
    let now = match &outcome.solid.field {
        EdgeField::Tone { threshold, .. } => f64::from(*threshold) / 2.55,
        EdgeField::Colours { .. } => 50.0,
    };
    let count = outcome.solid.inks.iter().filter(|i| !i.enclosed).count();
    let rim = recipe.inks.rim;
    let width = rim.map_or(2.0, |rim| rim.width.get());
    let (enclosed, more_enclosed) = enclosed(recipe, outcome, unit);
    InksBody {
        mode,
        count: Slider::whole("count", "Inks and ground", count.max(2)),
        fewer: count.saturating_sub(1).max(2),
        more: count + 1,
        threshold: Slider {
            automatic: threshold.is_none(),
            has_automatic: true,
            ..Slider::percent("threshold", "Darker than", threshold.unwrap_or(now))
        },
        local,
        invert,
        above: above.map(|a| Slider::percent("above", "Lighter than", a)),
        rim: match rim.map(|rim| rim.kind) {
            None => "none",
            Some(RimKind::Band) => "band",
            Some(RimKind::PulledIn) => "pulled-in",
        },
        rim_width: Slider::width("rim_width", "Width", width, unit),
        is_made,
        made: made::sliders(recipe, outcome, unit),
        levels: match recipe.inks.tones.levels {
            Levels::Found => "found",
            Levels::Equal => "equal",
            Levels::Hand { .. } => "hand",
        },
        light: recipe.inks.screen.invert,
        added: recipe.inks.added.iter().map(ToString::to_string).collect(),
        enclosed,
        more_enclosed,
    }
}

/// Kept parts first, then the greatest that are not.
fn enclosed(recipe: &Recipe, outcome: &Outcome, unit: Unit) -> (Vec<EnclosedRow>, usize) {
    let size = recipe.size;
    let frame = &outcome.cleaned.frame;
    let (across, down) = size.mm_per_px(frame.width, frame.height);
    let place = |x: f64, y: f64| {
        let at = |mm: f64| text::length(mm, unit, 1);
        format!("{}, {} {}", at(x), at(y), unit.symbol())
    };
    let kept = recipe.inks.enclosed.iter().enumerate().map(|(n, &at)| {
        let p = frame.to(at);
        EnclosedRow {
            said: format!("kept at {}", place(p.x * across, p.y * down)),
            value: n.to_string(),
            kept: true,
        }
    });
    let placement = outcome.settings.placement;
    let free = outcome.enclosed.iter().take(LISTED).map(|part| {
        let at = placement.place(part.at);
        let area = part.px as f64 * placement.across * placement.down;
        EnclosedRow {
            said: format!("{} at {}", text::told_area(area, unit), place(at.x, at.y)),
            value: format!("{:.4},{:.4}", at.x, at.y),
            kept: false,
        }
    });
    let rows = kept.chain(free).collect();
    (rows, outcome.enclosed.len().saturating_sub(LISTED))
}

/// The tones as a path in a box of 256 × 60, on a scale of roots so that thin tones show.
pub(crate) fn tones(histogram: &[u64; 256]) -> String {
    let most = histogram.iter().max().copied().unwrap_or(1).max(1) as f64;
    let mut path = "M0 60".to_owned();
    for (v, &n) in histogram.iter().enumerate() {
        let height = 58.0 * (n as f64 / most).powf(0.3);
        path.push_str(&format!("L{v} {:.1}", 60.0 - height));
    }
    path + "L255 60Z"
}

/// Where the thresholds lie in that box.
pub(crate) fn marks(outcome: &Outcome, recipe: &Recipe) -> Vec<String> {
    let at = |percent: f64| format!("{:.1}", percent * 2.55);
    if recipe.inks.mode == InkMode::Tones {
        return made::levels(outcome).into_iter().map(at).collect();
    }
    let InkMode::Mono {
        threshold,
        above,
        local: false,
        ..
    } = recipe.inks.mode
    else {
        return Vec::new();
    };
    let found = match &outcome.solid.reason {
        InkReason::Threshold { percent, .. } => Some(*percent),
        _ => None,
    };
    let all = threshold.or(found).into_iter().chain(above);
    all.map(at).collect()
}
