//! Remedies of what the checks found: looked at before, and applied as one step.

use actix_web::{HttpRequest, HttpResponse, get, post, web};
use inky_core::check::remedy::{Bench, Cure, cure};
use inky_core::check::{Finding, Kind, Remedy};
use inky_core::recipe::Recipe;
use inky_core::shapes::Shape;
use inky_formats::svg;
use inky_store::JobId;
use serde::Deserialize;
use serde_json::json;

use crate::Shop;
use crate::error::WebError;
use crate::pages::job::loaded;
use crate::pages::layers::keep;
use crate::pages::saving::carry_edits;
use crate::pages::units::Reader;
use crate::view::{Line, text};
use crate::workshop::{Outcome, Wanted};

/// Which findings, and what is to be done.
#[derive(Debug, Deserialize)]
struct Asked {
    #[serde(default)]
    revision: i64,
    #[serde(default)]
    line: String,
    kind: String,
    /// Number of the layer; empty where it concerns them all.
    #[serde(default)]
    layer: String,
    /// Which of the findings of that kind on that layer; empty for all.
    #[serde(default)]
    place: String,
    remedy: String,
}

fn wrong(message: impl ToString) -> WebError {
    WebError::Field {
        field: "checks",
        message: message.to_string(),
    }
}

/// The recipe after a remedy, and how many findings it was for.
fn cured(
    outcome: &Outcome,
    recipe: &Recipe,
    asked: &Asked,
) -> Result<(Recipe, Kind, usize), WebError> {
    let gone = || wrong("this is mended already; the list was made anew");
    let kind = Kind::from_slug(&asked.kind).ok_or_else(gone)?;
    let remedy = Remedy::from_slug(&asked.remedy).ok_or_else(gone)?;
    let checked = outcome.checked();
    let layer: Option<usize> = asked.layer.parse().ok();
    let all: Vec<&Finding> = checked
        .findings
        .iter()
        .filter(|f| f.kind == kind && f.layer == layer)
        .collect();
    let own: Vec<&Finding> = match asked.place.parse::<usize>() {
        Ok(n) => all.get(n).copied().into_iter().collect(),
        Err(_) => all,
    };
    let drawing = outcome.drawing();
    let bench = Bench {
        drawing: &drawing,
        built: &checked.built,
        choice: &recipe.layers,
    };
    let Cure {
        edits,
        layers,
        size,
    } = cure(bench, &own, remedy).map_err(wrong)?;
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
    new.check().map_err(wrong)?;
    Ok((new, kind, own.len()))
}

#[post("/jobs/{id}/remedy")]
async fn apply(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Asked>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (*id, form.into_inner());
    let line = Line::from_slug(&form.line).unwrap_or(Line::Size);
    let now = loaded(&shop, id).await?;
    let outcome = shop
        .workshop
        .trace(id, now.recipe.clone(), Wanted::Kept)
        .await?;
    let (recipe, revision) = (now.recipe.clone(), form.revision);
    let (new, kind, count) = shop
        .workshop
        .run(move |_| cured(&outcome, &recipe, &form))
        .await?;
    let name = format!(
        "Mended: {}{}",
        kind.title(),
        if count > 1 { format!(" × {count}") } else { String::new() }
    );
    keep(&request, &shop, (id, revision), (now.recipe, new), (name, line), reader.0).await
}

/// What a remedy would change: the lines as they would be, and what would be left to do.
#[get("/jobs/{id}/remedy")]
async fn look(
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    asked: web::Query<Asked>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let id = *id;
    let now = loaded(&shop, id).await?;
    let outcome = shop
        .workshop
        .trace(id, now.recipe.clone(), Wanted::Kept)
        .await?;
    let (recipe, asked) = (now.recipe, asked.into_inner());
    let unit = reader.0;
    let body = shop
        .workshop
        .run(move |stages| {
            let (new, ..) = cured(&outcome, &recipe, &asked)?;
            let after = stages.outcome(id, &new, false, &inky_core::stop::Stop::new())?;
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
