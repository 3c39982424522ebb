//! The files of a wish: their pages, what each will hold in words, and their bytes.

use std::sync::Arc;

use inky_core::assembly::{Layer, build};
use inky_core::cutting::Cutting;
use inky_core::plan::PlanChoice;
use inky_core::plan::page::Page;
use inky_core::recipe::Recipe;
use inky_core::shapes::Ring;
use inky_core::units::Unit;
use inky_formats::files::{self, Split};
use inky_formats::{names, pdf};
use kurbo::Circle;

use crate::error::{WebError, wrong};
use crate::job::layers::stones;
use crate::job::order::work_order;
use crate::job::send::asked::{Paper, What, Wish};
use crate::text;
use crate::workshop::{Laid, Outcome};

/// What files are made from.
pub(crate) struct Job {
    pub(crate) revision: i64,
    pub(crate) title: String,
    pub(crate) client: String,
    pub(crate) recipe: Recipe,
    pub(crate) outcome: Arc<Outcome>,
    pub(crate) laid: Arc<Laid>,
}

/// A page with what is added to the job's title to name it.
struct Named {
    name: String,
    page: Arc<Page>,
}

/// A file in words.
pub(crate) struct FileRow {
    pub(crate) name: String,
    pub(crate) size: String,
    pub(crate) holds: String,
}

/// What files will hold.
pub(crate) struct Told {
    pub(crate) files: Vec<FileRow>,
    /// How many more there are.
    pub(crate) more: usize,
    pub(crate) warnings: Vec<String>,
}

/// Between sheets that lie in one file, mm.
const BETWEEN: f64 = 20.0;
/// Files that are told one by one.
const TOLD: usize = 6;

impl Job {
    /// The pages that are asked for, as they are wanted, parted.
    fn pages(&self, wish: &Wish) -> Result<Vec<Named>, WebError> {
        let (options, split) = (wish.options()?, wish.split());
        let one_sheet = matches!(wish.what(), What::Sheet(_) | What::Sheets);
        let mut pages = Vec::new();
        for Named { name, page } in self.whole(wish)? {
            let page = options.page(&page);
            // A sheet is of one material already, its weeding lines with it.
            if split == Split::One || one_sheet && split == Split::Material {
                pages.push(Named { name, page });
                continue;
            }
            for (part, page) in files::parts(&page, split) {
                let name = [name.as_str(), &part].join(" ").trim().to_owned();
                pages.push(Named { name, page });
            }
        }
        pages.retain(|p| !p.page.cutting().is_empty());
        if pages.is_empty() {
            return Err(wrong("send", "there is nothing to cut; switch a layer on"));
        }
        Ok(pages)
    }

    fn whole(&self, wish: &Wish) -> Result<Vec<Named>, WebError> {
        let sheets = &self.laid.sheets;
        let named = |sheet: &crate::workshop::OnSheet| Named {
            name: sheet.sheet.name.clone(),
            page: sheet.page(),
        };
        Ok(match wish.what() {
            What::Design => vec![Named {
                name: String::new(),
                page: Arc::new(self.design(wish.as_designed())),
            }],
            What::Sheet(n) => {
                let sheet = sheets.get(n);
                let sheet = sheet.ok_or_else(|| wrong("send", "this sheet is no more"))?;
                vec![named(sheet)]
            }
            What::Sheets if wish.split() == Split::One && sheets.len() > 1 => {
                let pages: Vec<Arc<Page>> = sheets.iter().map(|s| s.page()).collect();
                vec![Named {
                    name: String::new(),
                    page: Page::below(&pages, BETWEEN),
                }]
            }
            What::Sheets => sheets.iter().map(named).collect(),
        })
    }

    /// One copy of the design.
    fn design(&self, as_designed: bool) -> Page {
        let design = &self.outcome.design;
        let cutting = if as_designed {
            let plain = self.recipe.layers.as_designed();
            Cutting::of(design, &build(design, &plain))
        } else {
            Cutting::of(design, &self.outcome.checked().built)
        };
        let choice = PlanChoice {
            lead: self.recipe.sheet.lead,
            ..PlanChoice::default()
        };
        Page::new(cutting, choice)
    }

    /// The file, or all in a zip: its ending and its bytes.
    pub(crate) fn files(
        &self,
        wish: &Wish,
        unit: Unit,
    ) -> Result<(&'static str, Vec<u8>), WebError> {
        let (format, options) = (wish.format(), wish.options()?);
        match wish.paper() {
            Some(Paper::Order) => {
                let order = pdf::order::Order {
                    title: self.title.clone(),
                    client: self.client.clone(),
                    parts: work_order(&self.recipe, &self.outcome, &self.laid, unit),
                };
                let bytes = pdf::order::write(&order, pdf::Paper::usual(unit));
                return Ok((format.ending(), bytes));
            }
            Some(Paper::Proof) => {
                let cutting = Cutting::of(&self.outcome.design, &self.outcome.checked().built);
                let words = pdf::proof::Words {
                    title: &self.title,
                    client: &self.client,
                    price: wish.price(),
                };
                let bytes = pdf::proof::write(&cutting, words, unit);
                return Ok((format.ending(), bytes));
            }
            Some(Paper::Chart) => return Ok((format.ending(), self.chart(unit)?)),
            Some(Paper::Layout) | None => {}
        }
        let mut written = Vec::new();
        for Named { name, page } in self.pages(wish)? {
            let title = self.title_of(&name);
            let bytes = files::write(&page, &title, format, &options)?;
            written.push((title, format.ending(), bytes));
        }
        if written.len() == 1 {
            return Ok((format.ending(), written.swap_remove(0).2));
        }
        Ok(("zip", files::zip(&written)?))
    }

    /// The placing chart of its stones.
    fn chart(&self, unit: Unit) -> Result<Vec<u8>, WebError> {
        let layers = &self.outcome.checked().built.layers;
        let list = stones::list(layers);
        if list.is_empty() {
            return Err(wrong(
                "send",
                "there are no stones; set some under Layers, Stones",
            ));
        }
        let placed = layers.iter().filter(|l| l.stones.is_some());
        let placed: Vec<Circle> = placed.flat_map(Layer::stones_set).collect();
        let around = layers.iter().filter(|l| l.stones.is_none());
        let outlines: Vec<&Ring> = around.flat_map(Layer::rings).collect();
        let size = self.outcome.design.size;
        let chart = pdf::chart::Chart {
            title: &self.title,
            size: [size.width.get(), size.height.get()],
            outlines: &outlines,
            stones: &placed,
            list: &list
                .iter()
                .map(|line| line.counted.clone())
                .collect::<Vec<_>>(),
        };
        Ok(pdf::chart::write(&chart, unit))
    }

    /// What the files will hold.
    pub(crate) fn told(&self, wish: &Wish, unit: Unit) -> Result<Told, WebError> {
        let (format, options) = (wish.format(), wish.options()?);
        let paper = match wish.paper() {
            Some(Paper::Order) => {
                Some("the work order: layers, materials, settings, sheets and times")
            }
            Some(Paper::Proof) => {
                Some("the design in its colours with its measures, to be approved")
            }
            Some(Paper::Chart) => Some("where each stone lies, by size, and the list of them"),
            Some(Paper::Layout) | None => None,
        };
        if let Some(holds) = paper {
            return Ok(Told {
                files: vec![FileRow {
                    name: format!("{}.pdf", names::file(&self.title)),
                    size: size(pdf::Paper::usual(unit).size(), unit),
                    holds: holds.to_owned(),
                }],
                more: 0,
                warnings: Vec::new(),
            });
        }
        let pages = self.pages(wish)?;
        let titles = pages.iter().map(|p| self.title_of(&p.name));
        let called = names::unique(titles.map(|t| names::file(&t)));
        let mut warnings: Vec<String> = Vec::new();
        let mut rows = Vec::new();
        for (Named { page, .. }, name) in pages.iter().zip(&called) {
            let told = files::told(page.cutting(), format, &options);
            for warning in told.warnings {
                if !warnings.contains(&warning) {
                    warnings.push(warning);
                }
            }
            rows.push(FileRow {
                name: format!("{name}.{}", format.ending()),
                size: size(told.size, unit),
                holds: told.holds,
            });
        }
        let more = rows.len().saturating_sub(TOLD);
        rows.truncate(TOLD);
        Ok(Told {
            files: rows,
            more,
            warnings,
        })
    }

    fn title_of(&self, name: &str) -> String {
        [self.title.as_str(), name].join(" ").trim().to_owned()
    }
}

fn size([w, h]: [f64; 2], unit: Unit) -> String {
    format!(
        "{} × {} {}",
        text::side(w, unit),
        text::side(h, unit),
        unit.symbol()
    )
}
