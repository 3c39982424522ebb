//! Files to take away: every format, of the design or of its sheets, and what each will hold, in words.

use std::sync::Arc;

use actix_web::http::header::{ContentDisposition, DispositionParam, DispositionType};
use actix_web::{HttpResponse, get, web};
use askama::Template;
use askama_web::WebTemplate;
use inky_core::assembly::build;
use inky_core::cutting::Cutting;
use inky_core::plan::PlanChoice;
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_formats::dxf::Version;
use inky_formats::files::{self, Format, Options, Split};
use inky_formats::gcode::Controller;
use inky_formats::hpgl::Blade;
use inky_formats::svg::{Sized, Style};
use inky_formats::{names, pdf};
use inky_store::JobId;
use serde::Deserialize;

use crate::Shop;
use crate::error::WebError;
use crate::error::wrong;
use crate::pages::job::{laid, loaded};
use crate::pages::saving;
use crate::pages::units::Reader;
use crate::view::{Order, text, work_order};
use crate::workshop::{Laid, Outcome, Wanted};

/// What is wanted, as the Send line asks for it. All of it may be left out.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(default)]
struct Wish {
    format: String,
    /// `design`, `sheets`, or the number of one sheet.
    what: String,
    /// `one`, `layer` or `material`.
    split: String,
    /// SVG: `filled` or `lines`.
    style: String,
    /// SVG: `mm`, `in`, or units for an inch.
    sized: String,
    /// DXF: `splines`, `arcs` or `r12`.
    dxf: String,
    /// DXF and PDF: `mm` or `in`.
    unit: String,
    swivel: String,
    turned: String,
    full: Option<f64>,
    spot: String,
    ppi: Option<f64>,
    mirrored: String,
    trimmed: String,
    /// Whether lines are left as they were designed.
    plain: String,
    /// PDF: `layout`, `proof` or `order`.
    paper: String,
}

/// Pixels per inch that can be asked for.
const PPI: std::ops::RangeInclusive<f64> = 10.0..=2400.0;
/// The greatest power words of controllers.
const FULL: std::ops::RangeInclusive<f64> = 1.0..=100_000.0;
/// Between sheets that lie in one file, mm.
const BETWEEN: f64 = 20.0;

/// A page to be written.
struct SentPage {
    name: String,
    cutting: Cutting,
    plan: PlanChoice,
}

/// What files are made from.
struct Job {
    title: String,
    client: String,
    recipe: Recipe,
    outcome: Arc<Outcome>,
    laid: Arc<Laid>,
}

impl Wish {
    fn format(&self) -> Result<Format, WebError> {
        if self.format.is_empty() {
            return Ok(Format::Svg);
        }
        let found = Format::of_ending(&self.format);
        found.ok_or_else(|| wrong("send", "choose SVG, DXF, HPGL, G-code, PDF or PNG"))
    }

    fn options(&self) -> Result<Options, WebError> {
        let known = Options::default();
        let on = |word: &str| matches!(word, "on" | "yes" | "true");
        let unit = if self.unit == "in" {
            Unit::In
        } else {
            Unit::Mm
        };
        let ppi = self.ppi.unwrap_or(known.ppi);
        if !PPI.contains(&ppi) {
            return Err(wrong("send", "choose between 10 and 2400 pixels per inch"));
        }
        let full = self.full.unwrap_or(known.controller.full);
        if !FULL.contains(&full) {
            return Err(wrong("send", "full power is a number between 1 and 100000"));
        }
        Ok(Options {
            style: match self.style.as_str() {
                "lines" => Style::CutLines,
                _ => Style::Filled,
            },
            sized: match self.sized.as_str() {
                "in" => Sized::In(Unit::In),
                "72" => Sized::PerInch(72.0),
                "90" => Sized::PerInch(90.0),
                "96" => Sized::PerInch(96.0),
                _ => Sized::In(Unit::Mm),
            },
            unit,
            dxf: match self.dxf.as_str() {
                "arcs" => Version::Arcs,
                "r12" => Version::R12,
                _ => Version::Splines,
            },
            blade: Blade {
                swivel: on(&self.swivel),
                turned: on(&self.turned),
            },
            controller: Controller {
                full,
                ..known.controller
            },
            spot: if self.spot.trim().is_empty() {
                known.spot
            } else {
                self.spot.clone()
            },
            ppi,
            mirrored: on(&self.mirrored),
            trimmed: on(&self.trimmed),
        })
    }

    fn split(&self) -> Split {
        match self.split.as_str() {
            "layer" => Split::Layer,
            "material" => Split::Material,
            _ => Split::One,
        }
    }

    /// The pages that are asked for, parted, as they are wanted.
    fn pages(&self, job: &Job) -> Result<Vec<SentPage>, WebError> {
        let options = self.options()?;
        let whole = self.whole(job)?;
        let mut pages = Vec::new();
        for page in whole {
            let cutting = options.page(&page.cutting);
            let split = self.split();
            let sheet = self.what != "design" && !self.what.is_empty();
            // A sheet is of one material already, its weeding lines with it.
            if split == Split::One || sheet && split == Split::Material {
                pages.push(SentPage { cutting, ..page });
                continue;
            }
            for (name, part) in files::parts(&cutting, split) {
                pages.push(SentPage {
                    name: [page.name.as_str(), &name].join(" ").trim().to_owned(),
                    cutting: part,
                    // Paths pulled by hand are named by the number of their layer, and a part numbers its
                    // layers anew.
                    plan: PlanChoice {
                        lead: page.plan.lead,
                        ..PlanChoice::default()
                    },
                });
            }
        }
        pages.retain(|p| !p.cutting.is_empty());
        if pages.is_empty() {
            return Err(wrong("send", "there is nothing to cut; switch a layer on"));
        }
        Ok(pages)
    }

    fn whole(&self, job: &Job) -> Result<Vec<SentPage>, WebError> {
        let design = &job.outcome.design;
        let lead = job.recipe.sheet.lead;
        if self.what.is_empty() || self.what == "design" {
            let built = &job.outcome.checked().built;
            let cutting = if matches!(self.plain.as_str(), "on" | "yes" | "true") {
                let plain = job.recipe.layers.as_designed();
                Cutting::of(design, &build(design, &plain))
            } else {
                Cutting::of(design, built)
            };
            return Ok(vec![SentPage {
                name: String::new(),
                cutting,
                plan: PlanChoice {
                    lead,
                    ..PlanChoice::default()
                },
            }]);
        }
        let sheets = &job.laid.sheets;
        let page = |own: &crate::workshop::OnSheet| SentPage {
            name: own.sheet.name.clone(),
            cutting: own.planned().0.clone(),
            plan: job.recipe.sheet.plan(&own.sheet.name),
        };
        if self.what != "sheets" {
            let n = self.what.parse::<usize>().ok();
            let own = n.and_then(|n| sheets.get(n));
            let own = own.ok_or_else(|| wrong("send", "this sheet is no more"))?;
            return Ok(vec![page(own)]);
        }
        let mut all: Vec<SentPage> = sheets.iter().map(page).collect();
        if self.split() == Split::One && all.len() > 1 {
            let cuttings: Vec<Cutting> = all.drain(..).map(|p| p.cutting).collect();
            return Ok(vec![SentPage {
                name: String::new(),
                cutting: Cutting::below(&cuttings, BETWEEN),
                plan: PlanChoice {
                    lead,
                    ..PlanChoice::default()
                },
            }]);
        }
        Ok(all)
    }

    /// The file, or all in a zip: its ending and its bytes.
    fn made(&self, job: &Job, unit: Unit) -> Result<(&'static str, Vec<u8>), WebError> {
        let (format, options) = (self.format()?, self.options()?);
        if format == Format::Pdf && self.paper == "order" {
            let order: Order = work_order(&job.recipe, &job.outcome, &job.laid, unit);
            let order = pdf::order::Order {
                title: job.title.clone(),
                client: job.client.clone(),
                parts: order,
            };
            let bytes = pdf::order::write(&order, pdf::Paper::usual(unit));
            return Ok((format.ending(), bytes));
        }
        if format == Format::Pdf && self.paper == "proof" {
            let cutting = Cutting::of(&job.outcome.design, &job.outcome.checked().built);
            let bytes = pdf::proof::write(&cutting, (&job.title, &job.client), unit);
            return Ok((format.ending(), bytes));
        }
        let mut written = Vec::new();
        for page in self.pages(job)? {
            let title = [job.title.as_str(), &page.name].join(" ").trim().to_owned();
            let bytes = files::write(&page.cutting, &page.plan, &title, format, &options)?;
            written.push((title, format.ending(), bytes));
        }
        if written.len() == 1 {
            return Ok((format.ending(), written.swap_remove(0).2));
        }
        Ok(("zip", files::zip(&written)?))
    }
}

fn download(name: &str, ending: &str, media_type: &str, body: Vec<u8>) -> HttpResponse {
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![DispositionParam::Filename(format!(
            "{}.{ending}",
            names::file(name)
        ))],
    };
    HttpResponse::Ok()
        .content_type(media_type)
        .insert_header(disposition)
        .body(body)
}

async fn current(shop: &web::Data<Shop>, id: JobId) -> Result<Job, WebError> {
    let now = loaded(shop, id).await?;
    let outcome = shop
        .workshop
        .trace(id, now.recipe.clone(), Wanted::Kept)
        .await?;
    let laid = laid(shop, id, &now.recipe, &outcome).await?;
    Ok(Job {
        title: now.job.details.title,
        client: now.job.details.client,
        recipe: now.recipe,
        outcome,
        laid,
    })
}

async fn answered(
    shop: &web::Data<Shop>,
    id: JobId,
    wish: Wish,
    unit: Unit,
) -> Result<HttpResponse, WebError> {
    let job = current(shop, id).await?;
    let format = wish.format()?;
    let title = job.title.clone();
    let (ending, bytes) = shop.workshop.run(move |_| wish.made(&job, unit)).await?;
    let media = if ending == "zip" {
        "application/zip"
    } else {
        format.media_type()
    };
    Ok(download(&title, ending, media, bytes))
}

#[get("/jobs/{id}/file")]
async fn any_file(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    wish: web::Query<Wish>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    answered(&shop, *id, wish.into_inner(), reader.0).await
}

/// The design as one SVG, under a short address.
#[get("/jobs/{id}/cut.svg")]
async fn cut_svg(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    wish: web::Query<Wish>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    answered(&shop, *id, wish.into_inner(), reader.0).await
}

/// A file in words.
struct FileRow {
    name: String,
    size: String,
    holds: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "job/_told.html")]
struct Telling {
    files: Vec<FileRow>,
    more: usize,
    warnings: Vec<String>,
}

/// Files that are told one by one.
const TOLD: usize = 6;

fn telling(wish: &Wish, job: &Job, unit: Unit) -> Result<Telling, WebError> {
    let (format, options) = (wish.format()?, wish.options()?);
    if format == Format::Pdf && matches!(wish.paper.as_str(), "order" | "proof") {
        let [w, h] = pdf::Paper::usual(unit).size();
        let holds = if wish.paper == "order" {
            "the work order: layers, materials, settings, sheets and times"
        } else {
            "the design in its colours with its measures, to be approved"
        };
        return Ok(Telling {
            files: vec![FileRow {
                name: format!("{}.pdf", names::file(&job.title)),
                size: size([w, h], unit),
                holds: holds.to_owned(),
            }],
            more: 0,
            warnings: Vec::new(),
        });
    }
    let pages = wish.pages(job)?;
    let titles = pages
        .iter()
        .map(|p| [job.title.as_str(), &p.name].join(" "));
    let called = names::unique(titles.map(|t| names::file(&t)));
    let mut warnings: Vec<String> = Vec::new();
    let mut rows = Vec::new();
    for (page, name) in pages.iter().zip(&called) {
        let told = files::told(&page.cutting, format, &options);
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
    Ok(Telling {
        files: rows,
        more,
        warnings,
    })
}

fn size([w, h]: [f64; 2], unit: Unit) -> String {
    format!(
        "{} × {} {}",
        text::side(w, unit),
        text::side(h, unit),
        unit.symbol()
    )
}

#[get("/jobs/{id}/told")]
async fn tell(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    wish: web::Query<Wish>,
    reader: Reader,
) -> Result<Telling, WebError> {
    let (job, wish) = (current(&shop, *id).await?, wish.into_inner());
    shop.workshop
        .run(move |_| telling(&wish, &job, reader.0))
        .await
}

#[get("/jobs/{id}/recipe.json")]
async fn saved_recipe(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
) -> Result<HttpResponse, WebError> {
    let (title, recipe) = web::block(move || -> Result<_, WebError> {
        let recipe = saving::recipe(&shop.store, *id)?;
        Ok((shop.store.job(*id)?.details.title, recipe))
    })
    .await??;
    let body = serde_json::to_vec_pretty(&recipe)?;
    Ok(download(&title, "json", "application/json", body))
}

#[get("/jobs/{id}/original")]
async fn original(shop: web::Data<Shop>, id: web::Path<JobId>) -> Result<HttpResponse, WebError> {
    let (name, original) = web::block(move || -> Result<_, WebError> {
        Ok((shop.store.job(*id)?.file_name, shop.store.original(*id)?))
    })
    .await??;
    let (stem, ending) = name.rsplit_once('.').unwrap_or((&name, "bin"));
    Ok(download(
        stem,
        ending,
        "application/octet-stream",
        original.bytes,
    ))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(any_file)
        .service(cut_svg)
        .service(tell)
        .service(saved_recipe)
        .service(original);
}
