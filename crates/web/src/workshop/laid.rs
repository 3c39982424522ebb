//! Sheets of a job as they are laid out, with the jobs that are gathered on them, and their plans.

use std::sync::{Arc, OnceLock};

use inky_core::clean::Cleaned;
use inky_core::cutting::Cutting;
use inky_core::layers::LayerChoice;
use inky_core::material::Material;
use inky_core::picture::Picture;
use inky_core::plan::page::Page;
use inky_core::plan::{Plan, PlanChoice};
use inky_core::print::look::Drawn;
use inky_core::print::{Fault, PrintChoice, PrintPage, Printed};
use inky_core::recipe::Recipe;
use inky_core::sheet::choice::{Copies, SheetChoice};
use inky_core::sheet::{Group, Load, Sheet, Source, groups, lay};
use inky_core::stock::{Stock, StockKind};
use inky_core::stop::Stop;
use inky_store::{JobDetails, JobId};
use kurbo::Vec2;

use super::code;
use super::outcome::Outcome;
use super::stages::{Stages, digest};
use crate::error::WebError;
use crate::job::saving;

/// All sheets of a job.
pub(crate) struct Laid {
    /// Names this arrangement in addresses.
    pub(crate) key: String,
    pub(crate) sheets: Vec<OnSheet>,
}

/// One of them.
pub(crate) struct OnSheet {
    /// What lies on it, for nesting.
    pub(crate) load: Load,
    pub(crate) sheet: Sheet,
    /// What is printed, where the artwork itself is.
    pub(crate) printed: Option<PrintedSheet>,
    choice: PlanChoice,
    gap: f64,
    page: OnceLock<Arc<Page>>,
}

/// A page to be printed.
pub(crate) struct PrintedSheet {
    pub(crate) page: PrintPage,
    /// The pictures in the order of the sheet's sources.
    pub(crate) arts: Vec<Art>,
    /// What cannot lie where it does, each with the number of its print.
    pub(crate) faults: Vec<(Fault, usize)>,
}

/// A job's picture on it.
pub(crate) struct Art {
    pub(crate) job: JobId,
    /// Names what is printed of it, wherever it lies.
    pub(crate) name: String,
    pub(crate) printed: Printed,
    pub(crate) cleaned: Arc<Cleaned>,
    /// Whether its pixels are those of its file.
    pub(crate) as_it_came: bool,
}

/// A picture that repeats has so many pixels at most.
const TILE_PX: u64 = 1_000_000;
/// Sheets with more parts are planned when the plan is asked for.
const PLANNED: usize = 60;
/// Width of a roll where a material has no stock in its list, mm.
const ROLL: f64 = 600.0;

impl OnSheet {
    /// Its lines, which every file and the run-through are made of.
    pub(crate) fn page(&self) -> Arc<Page> {
        Arc::clone(self.lines())
    }

    fn lines(&self) -> &Arc<Page> {
        let cutting = || match &self.printed {
            Some(printed) => printed.page.from_first_mark(),
            None => self.sheet.cutting(),
        };
        self.page
            .get_or_init(|| Arc::new(Page::new(cutting(), self.choice.clone())))
    }

    /// From its lines' own page to the stock, mm.
    pub(crate) fn on_stock(&self) -> Vec2 {
        let printed = self.printed.as_ref();
        printed.map_or(Vec2::ZERO, |p| {
            p.page.cut_box().origin() - p.page.choice.laid().origin()
        })
    }

    /// The lines of a printed page, measured from the paper's own corner.
    pub(crate) fn on_paper(&self, printed: &PrintedSheet) -> Page {
        Page::new(printed.page.cutting.clone(), self.choice.clone())
    }

    /// Its lines and the order they are run in; made at the first call, which is not for the
    /// server's own threads.
    pub(crate) fn planned(&self) -> (&Cutting, &Plan) {
        let page = self.lines();
        (page.cutting(), page.plan())
    }

    /// Between any two parts, mm.
    pub(crate) const fn gap(&self) -> f64 {
        self.gap
    }

    /// The same where it was made already.
    pub(crate) fn if_planned(&self) -> Option<(&Cutting, &Plan)> {
        let page = self.page.get()?;
        Some((page.cutting(), page.if_planned()?))
    }
}

/// The stock that a group is cut from.
fn stock(layers: &LayerChoice, material: &Material) -> Stock {
    let chosen = if material.name == layers.material().name {
        layers.stock()
    } else {
        material.stocks.first().cloned()
    };
    chosen.unwrap_or_else(|| Stock {
        name: String::new(),
        kind: StockKind::Roll,
        width: ROLL,
        length: 0.0,
        margin: 0.0,
        shape: None,
    })
}

/// A job that lies on the sheets.
struct Lying {
    job: JobId,
    /// Key of its outcome.
    key: String,
    title: String,
    owner: String,
    groups: Vec<Group>,
    copies: Copies,
    size: [f64; 2],
    /// What of it is printed, and its choice in words.
    drawn: Drawn,
    look: String,
    cleaned: Arc<Cleaned>,
    as_it_came: bool,
}

impl Lying {
    fn of(
        (job, details): (JobId, JobDetails),
        (recipe, outcome): (&Recipe, &Outcome),
        copies: Copies,
        tile: impl Fn(JobId) -> Option<Arc<Picture>>,
    ) -> Self {
        let built = &outcome.checked().built;
        let size = outcome.design.size;
        let look = recipe
            .print
            .as_ref()
            .map(|p| p.look.clone())
            .unwrap_or_default();
        let px = size.width.get() / f64::from(outcome.cleaned.picture.width());
        let drawn = look.drawn((&outcome.design, built), px, tile);
        Self {
            job,
            key: outcome.key.clone(),
            title: details.title,
            owner: details.client,
            groups: groups(&outcome.design, built),
            copies,
            size: [size.width.get(), size.height.get()],
            drawn,
            look: format!("{look:?}"),
            cleaned: Arc::clone(&outcome.cleaned),
            as_it_came: recipe.clean.iter().all(|step| !step.on),
        }
    }
}

/// What the sheets of a job alone are made of, in words.
fn named(
    outcome: &Outcome,
    recipe: &Recipe,
    details: &JobDetails,
) -> Result<Vec<String>, WebError> {
    Ok(vec![
        outcome.key.clone(),
        serde_json::to_string(&recipe.sheet)?,
        serde_json::to_string(&recipe.print)?,
        details.title.clone(),
        details.client.clone(),
    ])
}

fn key(parts: &[String]) -> String {
    digest(&parts.iter().map(String::as_str).collect::<Vec<_>>())
}

impl Laid {
    /// Plans the sheets where that takes no time.
    pub(super) fn plan_small(&self) {
        self.small().for_each(|on| {
            on.planned();
        });
    }

    fn small(&self) -> impl Iterator<Item = &OnSheet> {
        let sheets = self.sheets.iter();
        sheets.filter(|on| on.sheet.items.len() <= PLANNED)
    }
}

impl Stages {
    /// The sheets of an outcome where they are at hand and planned; those with other jobs on them are
    /// looked up in turn.
    pub(super) fn laid_before(
        &self,
        job: JobId,
        recipe: &Recipe,
        outcome: &Outcome,
    ) -> Result<Option<Arc<Laid>>, WebError> {
        if !recipe.sheet.guests.is_empty() {
            return Ok(None);
        }
        let details = self.store().job(job)?.details;
        let found = self.sheets().get(&key(&named(outcome, recipe, &details)?));
        Ok(found.filter(|laid| laid.small().all(|on| on.if_planned().is_some())))
    }

    /// A job's artwork as it came, to be repeated; `None` where it is no more.
    fn tile(&self, job: JobId) -> Option<Arc<Picture>> {
        let arrived = self.artwork(job).ok()?;
        Some(Arc::new(arrived.artwork.picture.reduced(TILE_PX)))
    }

    /// The sheets of an outcome, with the jobs gathered on them.
    pub(crate) fn laid(
        &self,
        job: JobId,
        recipe: &Recipe,
        outcome: &Outcome,
    ) -> Result<Arc<Laid>, WebError> {
        let choice = &recipe.sheet;
        let details = self.store().job(job)?.details;
        let mut parts = named(outcome, recipe, &details)?;
        let mut guests = Vec::new();
        for guest in &choice.guests {
            // A job that was deleted since lies on no sheet any more.
            let Ok(found) = self.store().job(guest.job) else {
                continue;
            };
            let own = saving::recipe(self.store(), guest.job)?;
            let theirs = self.outcome(guest.job, &own, false, &Stop::new())?;
            parts.extend([
                found.details.title.clone(),
                found.details.client.clone(),
                theirs.key.clone(),
            ]);
            guests.push((guest.job, found.details, own, theirs, guest.copies));
        }
        let key = key(&parts);
        self.sheets().get_or_make(&key.clone(), || {
            let mut lying = vec![Lying::of(
                (job, details),
                (recipe, outcome),
                choice.copies,
                |job| self.tile(job),
            )];
            for (job, details, own, theirs, copies) in &guests {
                let copies = Copies::Number(*copies);
                lying.push(Lying::of(
                    (*job, details.clone()),
                    (own, theirs),
                    copies,
                    |job| self.tile(job),
                ));
            }
            Ok(Laid {
                sheets: match &recipe.print {
                    Some(print) => {
                        let said = code::said(job, &key);
                        printed(lying, &recipe.layers.material(), (print, choice), &said)
                    }
                    None => sheets(&lying, &recipe.layers, choice),
                },
                key,
            })
        })
    }
}

/// A sheet for each material and colour of all jobs, those of the first job first.
fn sheets(lying: &[Lying], layers: &LayerChoice, choice: &SheetChoice) -> Vec<OnSheet> {
    let mut loads: Vec<Load> = Vec::new();
    for job in lying {
        for group in &job.groups {
            let known = loads.iter().position(|l| l.name == group.name);
            let n = known.unwrap_or_else(|| {
                loads.push(Load {
                    name: group.name.clone(),
                    material: group.material.clone(),
                    stock: stock(layers, &group.material),
                    sources: Vec::new(),
                });
                loads.len() - 1
            });
            let mut source = group.source((&job.title, &job.owner), &loads[n].stock, choice);
            source.copies = job.copies;
            loads[n].sources.push(source);
        }
    }
    let on_sheet = |load: Load| OnSheet {
        sheet: lay(&load, choice),
        printed: None,
        choice: choice.plan(&load.name),
        gap: choice.gap(),
        page: OnceLock::new(),
        load,
    };
    loads.into_iter().map(on_sheet).collect()
}

/// The page on which the artwork of all jobs is printed; none where there is nothing to cut out.
fn printed(
    lying: Vec<Lying>,
    material: &Material,
    (print, sheet): (&PrintChoice, &SheetChoice),
    said: &str,
) -> Vec<OnSheet> {
    let (print, sheet) = print.with(sheet);
    let mut load = Load {
        name: material.name.clone(),
        material: material.clone(),
        stock: print.stock(&material.name),
        sources: Vec::new(),
    };
    let mut arts = Vec::new();
    for job in lying {
        let looks = format!("{:?}", (print.border, print.border_colour, print.bleed));
        let picture = &job.cleaned.picture;
        let Some(printed) = Printed::of(&job.title, (picture, job.size), job.drawn, &print) else {
            continue;
        };
        let source = printed.source((&print, material), &sheet);
        load.sources.push(Source {
            copies: job.copies,
            owner: job.owner,
            ..source
        });
        arts.push(Art {
            job: job.job,
            name: key(&[job.key, looks, job.look]),
            printed,
            cleaned: job.cleaned,
            as_it_came: job.as_it_came,
        });
    }
    if arts.is_empty() {
        return Vec::new();
    }
    let mut laid = lay(&load, &sheet);
    let pictures: Vec<Printed> = arts.iter().map(|a| a.printed.clone()).collect();
    let mut page = PrintPage::of(&print, &pictures, &laid);
    if page.name(said).is_err() {
        tracing::warn!(said, "too long for a code");
    }
    if print.roll {
        // What is used of it is what it is cut off to.
        laid.stock = page.choice.stock(&material.name);
        laid.left = laid.stock.left(laid.bounds().unwrap_or_default());
    }
    vec![OnSheet {
        printed: Some(PrintedSheet {
            faults: page.faults(&pictures),
            page,
            arts,
        }),
        sheet: laid,
        choice: sheet.plan(&load.name),
        gap: sheet.gap(),
        page: OnceLock::new(),
        load,
    }]
}
