//! Choices of layers, material and stock: one address, one change each.

use actix_web::{HttpRequest, HttpResponse, post, web};
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_store::JobId;

use crate::Shop;
use crate::error::WebError;
use crate::pages::job::{Results, answer, laid, loaded, remembered, stepped};
use crate::pages::layering::{Asking, Change, LAYERS};
use crate::pages::saving::carry_edits;
use crate::pages::tidy::keep_first;
use crate::pages::units::Reader;
use crate::refusal::Refusal;
use crate::view::Line;
use crate::workshop::Wanted;

#[post("/jobs/{id}/layers")]
async fn change(
    request: HttpRequest,
    shop: web::Data<Shop>,
    id: web::Path<JobId>,
    form: web::Form<Asking>,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let (id, form) = (*id, form.into_inner());
    let line = Line::from_slug(&form.line).unwrap_or(Line::Layers);
    let now = loaded(&shop, id).await?;
    let before = shop
        .workshop
        .trace(id, now.recipe.clone(), Wanted::Kept)
        .await?;
    let (store, old) = (shop.store.clone(), now.recipe.clone());
    let outcome = before.clone();
    let revision = form.revision;
    let (recipe, name) = shop
        .workshop
        .run(move |_| {
            let mut change = Change {
                asking: &form,
                unit: reader.0,
                store: &store,
                outcome: &outcome,
                recipe: old.clone(),
            };
            let name = change.done()?;
            let mut recipe = change.recipe;
            recipe.check().map_err(|e| e.beside(LAYERS))?;
            if recipe.size != old.size {
                carry_edits(&old, &mut recipe);
            }
            Ok((recipe, name))
        })
        .await?;
    if recipe == now.recipe {
        let beside = remembered(&shop, id).await?;
        let laid = laid(&shop, id, &recipe, &before).await?;
        let both = Results {
            outcome: &before,
            beside: beside.as_deref(),
            laid: Some(&laid),
        };
        let ticket = now.ticket(&recipe, both, line, reader.0);
        return Ok(answer(&request, ticket, true, true));
    }
    keep(
        &request,
        &shop,
        (id, revision),
        (now.recipe, recipe),
        (name, line),
        reader.0,
    )
    .await
}

/// Keeps a recipe as a step and answers with what changed. What cannot be made never becomes a step.
pub(crate) async fn keep(
    request: &HttpRequest,
    shop: &web::Data<Shop>,
    (id, revision): (JobId, i64),
    (old, mut new): (Recipe, Recipe),
    (name, line): (String, Line),
    unit: Unit,
) -> Result<HttpResponse, WebError> {
    keep_first(shop, id, &old, &mut new).await?;
    let outcome = shop.workshop.trace(id, new.clone(), Wanted::Kept).await?;
    let after = stepped(shop, (id, revision), name, (old, new.clone())).await?;
    let beside = remembered(shop, id).await?;
    let laid = laid(shop, id, &new, &outcome).await?;
    let both = Results {
        outcome: &outcome,
        beside: beside.as_deref(),
        laid: Some(&laid),
    };
    Ok(answer(
        request,
        after.ticket(&new, both, line, unit),
        true,
        true,
    ))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(change);
}
