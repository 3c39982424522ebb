//! Remedies of what the checks found: looked at before, and applied as one step.

use actix_web::{HttpResponse, get, post, web};
use inky_core::check::remedy::{Bench, Cure, cure};
use inky_core::check::{Finding, Kind, Remedy};
use inky_core::recipe::Recipe;
use inky_core::shapes::Shape;
use inky_core::stop::Stop;
use inky_formats::svg;
use inky_store::JobId;
use serde::Deserialize;
use serde_json::json;

use crate::error::{WebError, wrong};
use crate::job::line::Line;
use crate::job::request::JobRequest;
use crate::job::saving::carry_edits;
use crate::refusal::Refusal;
use crate::text;
use crate::workshop::{Outcome, Stages, Wanted};

/// Which findings, and what is to be done.
#[derive(Debug, Deserialize)]
struct Asked {
    #[serde(default)]
    revision: i64,
    line: Option<Line>,
    kind: String,
    /// Number of the layer; empty where it concerns them all.
    #[serde(default)]
    layer: String,
    /// Which of the findings of that kind on that layer; empty for all.
    #[serde(default)]
    place: String,
    remedy: String,
}

/// How often what a remedy left nearby is mended too.
const ROUNDS: usize = 3;
/// Nearby is within so many times the limit, mm; within this at least.
const NEARBY: f64 = 4.0;
const NEAREST: f64 = 1.0;

/// The recipe after a remedy, and how many findings it was for.
fn cured(
    stages: &Stages,
    id: JobId,
    first: &Outcome,
    recipe: &Recipe,
    asked: &Asked,
) -> Result<(Recipe, Kind, usize), WebError> {
    let gone = || wrong("checks", "this is mended already; the list was made anew");
    let kind = Kind::from_slug(&asked.kind).ok_or_else(gone)?;
    let remedy = Remedy::from_slug(&asked.remedy).ok_or_else(gone)?;
    let layer: Option<usize> = asked.layer.parse().ok();
    let alike = |outcome: &Outcome| -> Vec<Finding> {
        let all = outcome.checked().findings.iter();
        all.filter(|f| f.kind == kind && f.layer == layer)
            .cloned()
            .collect()
    };
    let mut found = alike(first);
    if let Ok(n) = asked.place.parse::<usize>() {
        found = found.get(n).cloned().into_iter().collect();
    }
    let count = found.len();
    let places = found.clone();
    let mut now = once(first, recipe, &found, remedy)?;
    for _ in 1..ROUNDS {
        let after = stages.outcome(id, &now, false, &Stop::new())?;
        let near = |f: &Finding| {
            let reach = (f.limit * NEARBY).max(NEAREST);
            places.iter().any(|p| p.at.distance(f.at) < reach)
        };
        found = alike(&after).into_iter().filter(near).collect();
        if found.is_empty() {
            break;
        }
        match once(&after, &now, &found, remedy) {
            Ok(more) => now = more,
            Err(_) => break,
        }
    }
    now.check().map_err(|e| e.beside("checks"))?;
    Ok((now, kind, count))
}

/// A recipe with one remedy more.
fn once(
    outcome: &Outcome,
    recipe: &Recipe,
    found: &[Finding],
    remedy: Remedy,
) -> Result<Recipe, WebError> {
    let drawing = outcome.drawing();
    let bench = Bench {
        drawing: &drawing,
        built: &outcome.checked().built,
        choice: &recipe.layers,
    };
    let all_found: Vec<&Finding> = found.iter().collect();
    let Cure {
        edits,
        layers,
        size,
    } = cure(bench, &all_found, remedy).map_err(|e| wrong("checks", e))?;
    let mut new = recipe.clone();
    if let Some(layers) = layers {
        new.layers = layers;
    }
    if let Some(size) = size {
        new.size = size;
        carry_edits(recipe, &mut new);
    }
    for edit in edits {
        new = new.with_edit(edit);
    }
    Ok(new)
}

#[post("/jobs/{id}/remedy")]
async fn apply(asked: JobRequest, form: web::Form<Asked>) -> Result<HttpResponse, WebError> {
    let (id, form) = (asked.id, form.into_inner());
    let (revision, line) = (form.revision, form.line.unwrap_or(Line::Size));
    asked
        .change(revision, line, move |stages, base| {
            let (new, kind, count) = cured(stages, id, &base.outcome, &base.recipe, &form)?;
            let times = match count {
                0 | 1 => String::new(),
                more => format!(" × {more}"),
            };
            Ok((new, format!("Mended: {}{times}", kind.title())))
        })
        .await
}

/// What a remedy would change: the lines as they would be, and what would be left to do.
#[get("/jobs/{id}/remedy")]
async fn look(asked: JobRequest, query: web::Query<Asked>) -> Result<HttpResponse, WebError> {
    let recipe = asked.now().await?.recipe;
    let outcome = asked.outcome(&recipe, Wanted::Kept).await?;
    let (id, unit, query) = (asked.id, asked.unit, query.into_inner());
    let body = asked
        .run(move |stages| {
            let (new, ..) = cured(stages, id, &outcome, &recipe, &query)?;
            let after = stages.outcome(id, &new, false, &Stop::new())?;
            let (before, after) = (outcome.checked(), after.checked());
            let lines = after.built.layers.iter().flat_map(|l| l.lines());
            let d = svg::path_data(lines.flat_map(Shape::rings));
            let size = after.built.size;
            let (was, is) = (before.findings.len(), after.findings.len());
            let told = format!(
                "{} before, {} after; {} × {} {}",
                text::some(was, "finding"),
                is,
                text::side(size.width.get(), unit),
                text::side(size.height.get(), unit),
                unit.symbol()
            );
            Ok(json!({ "d": d, "told": told, "before": was, "after": is }))
        })
        .await?;
    Ok(HttpResponse::Ok().json(body))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(apply).service(look);
}
