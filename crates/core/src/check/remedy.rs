//! Remedies: what mends a finding, as edits of the outlines or as other choices.
//!
//! A remedy is worked out on the drawing as it is, for one finding or for several of one kind on one
//! layer, and comes back as values: applying it is to keep them as one step of the history.

use super::finding::Finding;
use super::kind::Kind;
use super::region::{band, data, distance, grown, outer, ring_at, ring_near};
use super::remedy_kind::Remedy;
use super::whole;
use crate::assembly::bridge::{self, Asked, BridgeError};
use crate::assembly::{Built, Layer};
use crate::layers::{LayerChoice, Meet, Pair, Registration};
use crate::material::Operation;
use crate::offset::{self, Join};
use crate::overlay::{self, Keep, Rings};
use crate::segment::Segment;
use crate::shapes::Ring;
use crate::size::Size;
use crate::tidy::refit::Pieces;
use crate::tidy::rules::Rules;
use crate::tidy::{Drawing, Edit, How, Item, ItemId, Patch, PathData};
use crate::units::Mm;

/// What a remedy changes.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Cure {
    /// Edits of the outlines, in order.
    pub edits: Vec<Edit>,
    /// Other choices of layers.
    pub layers: Option<LayerChoice>,
    /// Another finished size.
    pub size: Option<Size>,
}

/// Why there is no remedy.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum RemedyError {
    /// It is not one for this kind of finding, or there are no findings.
    #[error("this is mended already; the list is made anew")]
    Gone,
    /// What was found is not an outline of its own.
    #[error("this place comes from how the layers are built; change their overlap or bridges")]
    NotDrawn,
    /// Bridges that cannot be.
    #[error(transparent)]
    Bridge(#[from] BridgeError),
    /// Nothing that would fit.
    #[error("{0}")]
    Cannot(&'static str),
}

/// Something found lies on an outline within this, mm.
const ON: f64 = 0.1;
/// Regions that end on an edge are larger by this, mm.
const HAIR: f64 = 0.01;
/// A refit that lessens nodes stays within this, mm.
const REFIT: f64 = 0.03;
/// Bridges of the remedy: how many for each island, and how much wider than the thinnest stroke.
const BRIDGES: usize = 2;
const BRIDGE_WIDER: f64 = 1.25;
/// Registration shapes of the remedy, mm.
const REGISTRATION: Registration = Registration {
    size: 6.0,
    gap: 4.0,
};

/// What there is to work on.
#[derive(Clone, Copy, Debug)]
pub struct Bench<'a> {
    /// The outlines as items.
    pub drawing: &'a Drawing,
    /// Them as layers.
    pub built: &'a Built,
    /// What was chosen of layers.
    pub choice: &'a LayerChoice,
}

/// Works out a remedy for findings of one kind.
///
/// # Errors
/// [`RemedyError`] says why there is none.
pub fn cure(bench: Bench<'_>, findings: &[&Finding], remedy: Remedy) -> Result<Cure, RemedyError> {
    let first = findings.first().ok_or(RemedyError::Gone)?;
    if !first.kind.remedies().contains(&remedy) || findings.iter().any(|f| f.kind != first.kind) {
        return Err(RemedyError::Gone);
    }
    let mut cure = Cure::default();
    let mut layers = bench.choice.clone();
    match remedy {
        Remedy::FitStock => {
            let (size, place) = fitted(bench)?;
            cure.size = Some(size);
            // A rectangle holds it wherever its box lies; an odd piece at that place alone.
            let odd = layers.stock().is_some_and(|s| s.shape.is_some());
            layers.place = if odd { Some(place) } else { layers.place };
        }
        Remedy::MoveInside => {
            let place = whole::inside(bench.built, bench.choice);
            let place = place.ok_or(RemedyError::Cannot(
                "no place of the stock holds it as it is",
            ))?;
            layers.place = Some(place);
        }
        Remedy::AsMaterial => layers.mirror = None,
        Remedy::Register => layers.registration = Some(REGISTRATION),
        Remedy::Overlap => overlap(bench, findings, &mut layers),
        Remedy::DrawIt => {
            for layer in findings.iter().filter_map(|f| bench.layer(f)) {
                layers.of_mut(layer.colour).operation = Some(Operation::Draw);
            }
        }
        Remedy::Bridge => bridges(bench, findings, &mut layers)?,
        _ => {
            // Each is worked out on the drawing that the one before it left.
            let mut drawing = bench.drawing.clone();
            for finding in findings {
                let now = Bench {
                    drawing: &drawing,
                    ..bench
                };
                let Some(edit) = now.edit(finding, remedy) else {
                    continue;
                };
                if let Ok(changed) = drawing.after(&edit) {
                    drawing = changed.drawing;
                    cure.edits.push(edit);
                }
            }
            if cure.edits.is_empty() {
                return Err(RemedyError::NotDrawn);
            }
        }
    }
    if layers != *bench.choice {
        cure.layers = Some(layers);
    }
    Ok(cure)
}

/// The size at which it fits the stock, and where it then lies, mm.
fn fitted(bench: Bench<'_>) -> Result<(Size, [f64; 2]), RemedyError> {
    let fit = whole::to_fit(bench.built, bench.choice, 0.0);
    let (scale, place) = fit.ok_or(RemedyError::Cannot(
        "the margins of the stock leave nothing",
    ))?;
    // What keeps its size, such as registration shapes, must fit too.
    let size = bench.built.size;
    let side = |mm: Mm| Mm::new((mm.get() * scale * 0.998 * 10.0).floor() / 10.0);
    let width = side(size.width);
    let size = Size {
        width,
        height: Mm::new(size.height.get() * width.get() / size.width.get()),
        ..size
    };
    Ok((size, place))
}

fn overlap(bench: Bench<'_>, findings: &[&Finding], layers: &mut LayerChoice) {
    if layers.meet == Meet::Flush {
        layers.meet = Meet::Overlap;
    }
    // Pairs that were set flush by hand.
    let below: Vec<_> = findings
        .iter()
        .filter_map(|f| bench.layer(f).map(|l| (l.colour, f.limit)))
        .collect();
    for pair in &mut layers.pairs {
        let lower = below.iter().find(|(c, _)| *c == pair.lower);
        if let Some(&(_, margin)) = lower.filter(|_| pair.meet == Meet::Flush) {
            *pair = Pair {
                meet: Meet::Overlap,
                margin,
                ..*pair
            };
        }
    }
}

fn bridges(
    bench: Bench<'_>,
    findings: &[&Finding],
    layers: &mut LayerChoice,
) -> Result<(), RemedyError> {
    let mut numbers: Vec<usize> = findings.iter().filter_map(|f| f.layer).collect();
    numbers.dedup();
    for number in numbers {
        let layer = bench.built.layers.get(number).ok_or(RemedyError::Gone)?;
        let at_place = |n: &usize| {
            let middle = layer.shapes[*n].outer.bounds().center();
            findings.iter().any(|f| f.at.distance(middle) < ON)
        };
        let islands: Vec<usize> = layer.islands.iter().copied().filter(at_place).collect();
        let stroke = layer.material.limits.stroke;
        let ask = |width| {
            let asked = Asked {
                count: BRIDGES,
                width,
            };
            bridge::auto(layer, &islands, asked, bench.built.size)
        };
        let made = match ask(stroke * BRIDGE_WIDER) {
            // A little narrower does where an island is small.
            Err(BridgeError::TooWide { most, .. }) if most > stroke * 0.7 => ask(most * 0.99)?,
            made => made?,
        };
        layers.bridges.extend(made);
    }
    Ok(())
}

impl Bench<'_> {
    fn layer(&self, finding: &Finding) -> Option<&Layer> {
        self.built.layers.get(finding.layer?)
    }

    /// The items that a finding's places lie on, the nearest first.
    fn items(&self, finding: &Finding) -> Vec<&Item> {
        let Some(layer) = self.layer(finding) else {
            return Vec::new();
        };
        // Where lines meet, all that do are meant, else the nearest.
        let all = matches!(finding.kind, Kind::Crossing | Kind::Doubled);
        let mut found: Vec<&Item> = Vec::new();
        for &place in &finding.touching {
            let of_ink = self.drawing.items.iter().filter(|i| i.ink == layer.ink);
            let mut near: Vec<(f64, &Item)> = of_ink
                .filter(|i| i.bounds().inflate(ON, ON).contains(place))
                .map(|i| (distance(i, place), i))
                .filter(|(far, _)| *far < ON)
                .collect();
            near.sort_by(|a, b| a.0.total_cmp(&b.0));
            for (_, item) in near.into_iter().take(if all { usize::MAX } else { 1 }) {
                if !found.iter().any(|i| i.id == item.id) {
                    found.push(item);
                }
            }
        }
        found
    }

    fn edit(&self, finding: &Finding, remedy: Remedy) -> Option<Edit> {
        let items = self.items(finding);
        let ids: Vec<ItemId> = items.iter().map(|i| i.id).collect();
        let first = *items.first()?;
        let sheet = self.layer(finding)?.sheet;
        let mend = |region: Vec<PathData>, patch: Patch| {
            let items = if patch == Patch::Cut {
                ids.clone()
            } else {
                vec![first.id]
            };
            (!region.is_empty()).then_some(Edit::Mend {
                items,
                region,
                patch,
            })
        };
        // On a sheet, outlines are what is cut out of it.
        let more = if sheet { Patch::Cut } else { Patch::Claim };
        let less = if sheet { Patch::Claim } else { Patch::Cut };
        match remedy {
            Remedy::Widen => mend(band(finding), more),
            Remedy::OpenGap => mend(band(finding), less),
            Remedy::CloseGap => mend(band(finding), if sheet { Patch::Cut } else { Patch::Cover }),
            Remedy::Drop if sheet => mend(ring_at(finding, first, false), Patch::Cover),
            Remedy::Drop => Some(Edit::Delete {
                items: vec![first.id],
            }),
            Remedy::Grow if sheet => {
                let ring = ring_near(finding, first)?.reversed();
                mend(grown(&ring, finding), Patch::Cut)
            }
            Remedy::Grow => mend(grown(&outer(first)?, finding), Patch::Claim),
            Remedy::FillHole if finding.kind == Kind::SmallHole && sheet => Some(Edit::Delete {
                items: vec![first.id],
            }),
            Remedy::FillHole => mend(ring_at(finding, first, true), Patch::Cover),
            Remedy::GrowHole if sheet => mend(grown(&outer(first)?, finding), Patch::Claim),
            Remedy::GrowHole => {
                let ring = ring_near(finding, first)?.reversed();
                mend(grown(&ring, finding), Patch::Cut)
            }
            Remedy::Round => self.rounded(finding, first),
            Remedy::Refit => Some(Edit::Refit {
                items: vec![first.id],
                tolerance: REFIT,
                pieces: Pieces::Curves,
                corner: 25.0,
            }),
            Remedy::Part | Remedy::Single if ids.len() > 1 => Some(Edit::Boolean {
                items: ids,
                how: How::Unite,
            }),
            Remedy::Part => Some(Edit::Clean {
                rules: Rules {
                    crossings: true,
                    ..nothing()
                },
            }),
            Remedy::Single => Some(Edit::Clean {
                rules: Rules {
                    doubled: Some(0.05),
                    ..nothing()
                },
            }),
            Remedy::Close => Some(Edit::JoinEnds {
                ends: [(first.id, false), (first.id, true)],
            }),
            _ => None,
        }
    }

    /// A sharp tip cut round, or a sharp notch filled round.
    fn rounded(&self, finding: &Finding, item: &Item) -> Option<Edit> {
        let limits = self.layer(finding)?.material.limits;
        let radius = (limits.stroke / 4.0).max(0.05);
        let rings = item.rings();
        let rings: Vec<&Ring> = rings.iter().collect();
        for (first, patch) in [(-radius, Patch::Cut), (radius, Patch::Claim)] {
            let there = offset::offset(&rings, first, Join::Round);
            let there: Vec<&Ring> = there.iter().flat_map(Rings::all).collect();
            let back = offset::offset(&there, -first, Join::Round);
            let back: Vec<&Ring> = back.iter().flat_map(Rings::all).collect();
            let rest = if patch == Patch::Cut {
                overlay::overlay(&rings, &back, Keep::Difference)
            } else {
                overlay::overlay(&back, &rings, Keep::Difference)
            };
            let near = rest.iter().find(|r| {
                let tip = |s: &Segment| s.start().distance(finding.at) < 0.02;
                r.outer.segments().iter().any(tip)
            });
            if let Some(tip) = near {
                // A little larger, since edges that nearly lie on each other leave hairs.
                let tip: Vec<&Ring> = tip.all().collect();
                let region = offset::offset(&tip, HAIR, Join::Round);
                return Some(Edit::Mend {
                    items: vec![item.id],
                    region: region.iter().flat_map(Rings::all).map(data).collect(),
                    patch,
                });
            }
        }
        None
    }
}

const fn nothing() -> Rules {
    Rules {
        frame: false,
        doubled: None,
        ends: None,
        close: false,
        crossings: false,
        specks: None,
    }
}
