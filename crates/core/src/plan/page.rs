//! A page with the one order it is run in: however it is turned, parted or put beside others, its lines
//! are run as they were planned.
//!
//! ```text
//!   Page ──mirrored, trimmed──► Page     The plan is made once, of the page as it was laid out; every
//!     └────only some layers───► Page     page made from it runs the same paths in the same turn.
//!   Pages ──one below the other──► Page
//! ```

use std::sync::{Arc, OnceLock};

use kurbo::{Affine, Line, Point};

use super::hatch::Row;
use super::{Course, PathKey, Plan, PlanChoice, PlannedPath, home, plan, timed};
use crate::cutting::{CutLayer, Cutting};
use crate::segment::Segment;

/// A page, planned when its plan is first asked for.
#[derive(Debug)]
pub struct Page {
    cutting: Cutting,
    source: Source,
    plan: OnceLock<Plan>,
}

/// Where the order comes from.
#[derive(Debug)]
enum Source {
    /// It is planned.
    Planned(PlanChoice),
    /// It is that of other pages, one after the other.
    Pages(Vec<Taken>),
}

/// What was taken of a page.
#[derive(Debug)]
struct Taken {
    page: Arc<Page>,
    /// From that page to this one.
    map: Affine,
    /// For each of its layers the number here, where it was taken.
    layers: Vec<Option<usize>>,
}

impl Page {
    /// A page that is planned.
    #[must_use]
    pub const fn new(cutting: Cutting, choice: PlanChoice) -> Self {
        Self {
            cutting,
            source: Source::Planned(choice),
            plan: OnceLock::new(),
        }
    }

    /// Its lines.
    #[must_use]
    pub const fn cutting(&self) -> &Cutting {
        &self.cutting
    }

    /// The order they are run in; made at the first call.
    #[must_use]
    pub fn plan(&self) -> &Plan {
        self.plan.get_or_init(|| match &self.source {
            Source::Planned(choice) => plan(&self.cutting, choice),
            Source::Pages(pages) => {
                let steps = pages.iter().flat_map(Taken::steps).collect();
                let forgotten = pages.iter().map(|t| t.page.plan().forgotten).sum();
                Plan {
                    forgotten,
                    ..timed(&self.cutting, home(&self.cutting), steps)
                }
            }
        })
    }

    /// The same where it was made already.
    #[must_use]
    pub fn if_planned(&self) -> Option<&Plan> {
        self.plan.get()
    }

    /// Mirrored left to right.
    #[must_use]
    pub fn mirrored(self: &Arc<Self>) -> Arc<Self> {
        let turned = Affine::new([-1.0, 0.0, 0.0, 1.0, self.cutting.size[0], 0.0]);
        self.seen(self.cutting.mirrored(), turned)
    }

    /// Cut down to what is drawn.
    #[must_use]
    pub fn trimmed(self: &Arc<Self>) -> Arc<Self> {
        let corner = self.cutting.bounds().map_or(Point::ORIGIN, |b| b.origin());
        let moved = Affine::translate(-corner.to_vec2());
        self.seen(self.cutting.trimmed(), moved)
    }

    /// With its layers of one kind alone.
    #[must_use]
    pub fn only(self: &Arc<Self>, keep: impl Fn(&CutLayer) -> bool) -> Arc<Self> {
        let mut numbers = 0..;
        let layers = self.cutting.layers.iter();
        let layers = layers.map(|l| keep(l).then(|| numbers.next()).flatten());
        let layers = layers.collect();
        self.taken(self.cutting.only(&keep), Affine::IDENTITY, layers)
    }

    /// Pages one below the other, `gap` mm apart; the upper ones are run first.
    #[must_use]
    pub fn below(pages: &[Arc<Self>], gap: f64) -> Arc<Self> {
        let cuttings: Vec<Cutting> = pages.iter().map(|p| p.cutting.clone()).collect();
        let (mut down, mut numbers) = (0.0, 0..);
        let mut taken = Vec::with_capacity(pages.len());
        for page in pages {
            taken.push(Taken {
                page: Arc::clone(page),
                map: Affine::translate((0.0, down)),
                layers: page.cutting.layers.iter().map(|_| numbers.next()).collect(),
            });
            down += page.cutting.size[1] + gap;
        }
        Arc::new(Self {
            cutting: Cutting::below(&cuttings, gap),
            source: Source::Pages(taken),
            plan: OnceLock::new(),
        })
    }

    fn seen(self: &Arc<Self>, cutting: Cutting, map: Affine) -> Arc<Self> {
        let layers = (0..cutting.layers.len()).map(Some).collect();
        self.taken(cutting, map, layers)
    }

    fn taken(
        self: &Arc<Self>,
        cutting: Cutting,
        map: Affine,
        layers: Vec<Option<usize>>,
    ) -> Arc<Self> {
        let page = Arc::clone(self);
        Arc::new(Self {
            cutting,
            source: Source::Pages(vec![Taken { page, map, layers }]),
            plan: OnceLock::new(),
        })
    }
}

impl Taken {
    /// The steps of what was taken, as they lie here.
    fn steps(&self) -> impl Iterator<Item = PlannedPath> {
        let steps = self.page.plan().steps.iter();
        steps.filter_map(|step| {
            let layer = *self.layers.get(step.key.layer)?;
            let key = PathKey {
                layer: layer?,
                ..step.key
            };
            Some(step.moved(key, self.map))
        })
    }
}

impl PlannedPath {
    /// The same path on another page; `map` turns, moves or mirrors.
    fn moved(&self, key: PathKey, map: Affine) -> Self {
        let line = |s: &[Segment]| s.iter().flat_map(|s| s.moved(map)).collect();
        Self {
            key,
            course: match &self.course {
                Course::Line(segments) => Course::Line(line(segments)),
                Course::Rows(rows) => Course::Rows(rows.iter().map(|r| r.moved(map)).collect()),
            },
            lead: self.lead.map(|l| Line::new(map * l.p0, map * l.p1)),
            over: line(&self.over),
            ..self.clone()
        }
    }
}

impl Row {
    /// The same row moved or mirrored left to right, its spans from left to right again.
    fn moved(&self, map: Affine) -> Self {
        let span = |s: &[f64; 2]| {
            let ends = s.map(|x| (map * Point::new(x, self.y)).x);
            [ends[0].min(ends[1]), ends[0].max(ends[1])]
        };
        let mut spans: Vec<[f64; 2]> = self.spans.iter().map(span).collect();
        spans.sort_by(|a, b| a[0].total_cmp(&b[0]));
        Self {
            y: (map * Point::new(0.0, self.y)).y,
            spans,
        }
    }
}
