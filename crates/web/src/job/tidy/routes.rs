//! Edits of the outlines: done, looked at before, and what the bench needs to show them.

use actix_web::{HttpResponse, get, post, web};
use inky_core::limits;
use inky_core::tidy::follow;
use inky_core::tidy::refit::{self, Pieces, Within};
use inky_core::tidy::rules::{self, Rules};
use inky_core::tidy::sketch::Sketch;
use inky_core::tidy::{Edit, Item, ItemData, ItemId, Part, PathData, Pigment, TextLine};
use inky_formats::{lettering, svg};
use kurbo::{Affine, Point};
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::error::{WebError, wrong};
use crate::job::kept::Kept;
use crate::job::line::Line;
use crate::job::request::{Answer, JobRequest};
use crate::job::tidy::shown;
use crate::workshop::Wanted;

/// An edit as the page asks for it: as it is stored, or something drawn.
#[derive(Deserialize)]
#[serde(untagged)]
enum Asked {
    Drawn(Drawn),
    Lettered(Lettered),
    Edit(Edit),
}

#[derive(Deserialize)]
struct Drawn {
    sketch: Sketch,
    pigment: Pigment,
    pen: f64,
}

/// Lettering, new or in the place of what is picked.
#[derive(Deserialize)]
struct Lettered {
    lettering: TextLine,
    pigment: Pigment,
    #[serde(default)]
    replaces: Vec<ItemId>,
}

impl Lettered {
    fn edit(self) -> Result<Edit, WebError> {
        let paths = lettering::outlines(&self.lettering).map_err(|e| wrong("tidy", e))?;
        let short: String = self.lettering.words.chars().take(24).collect();
        let parts = vec![Part {
            pigment: self.pigment,
            pen: None,
            paths,
            text: Some(self.lettering),
        }];
        Ok(if self.replaces.is_empty() {
            Edit::Add {
                parts,
                name: format!("Lettering {short}"),
            }
        } else {
            Edit::Replace {
                items: self.replaces,
                parts,
            }
        })
    }
}

/// What a thing drawn is called in the history.
fn called(sketch: &Sketch) -> &'static str {
    match sketch {
        Sketch::Rectangle { .. } => "Rectangle drawn",
        Sketch::Ellipse { .. } => "Ellipse drawn",
        Sketch::Circle { .. } => "Circle drawn",
        Sketch::Arc { .. } => "Arc drawn",
        Sketch::Line { closed: true, .. } => "Polygon drawn",
        Sketch::Line { .. } => "Line drawn",
        Sketch::Pen { .. } | Sketch::Path { .. } => "Outline drawn",
    }
}

impl Asked {
    fn edit(self) -> Result<Edit, WebError> {
        match self {
            Self::Edit(edit) => Ok(edit),
            Self::Lettered(lettered) => lettered.edit(),
            Self::Drawn(drawn) => {
                let path = drawn.sketch.drawn()?.path;
                let part = Part {
                    pigment: drawn.pigment,
                    pen: (!path.closed).then_some(drawn.pen),
                    paths: vec![path],
                    text: None,
                };
                Ok(Edit::Add {
                    parts: vec![part],
                    name: called(&drawn.sketch).to_owned(),
                })
            }
        }
    }
}

#[derive(Deserialize)]
struct EditForm {
    revision: i64,
    edit: String,
}

#[post("/jobs/{id}/edit")]
async fn edited(asked: JobRequest, form: web::Form<EditForm>) -> Result<HttpResponse, WebError> {
    let wanted: Asked = serde_json::from_str(&form.edit).map_err(|_| {
        wrong(
            "tidy",
            "this edit could not be read; reload the page and try it again",
        )
    })?;
    do_edit(&asked, form.revision, wanted.edit()?).await
}

/// Does an edit, keeps it as a step, and answers with what changed.
pub(crate) async fn do_edit(
    asked: &JobRequest,
    revision: i64,
    edit: Edit,
) -> Result<HttpResponse, WebError> {
    let name = shown::name(&edit, asked.unit);
    let now = asked.now_at(revision).await?;
    let mut recipe = now.recipe.with_edit(edit);
    asked.keep_first(&now.recipe, &mut recipe).await?;
    // Done before it is stored: what cannot be done never becomes a step.
    let outcome = asked.outcome(&recipe, Wanted::Edited).await?;
    let after = asked
        .step(revision, name, (now.recipe, recipe.clone()))
        .await?;
    asked
        .answer(&after, (&recipe, &outcome), Line::Tidy, Answer::Edited)
        .await
}

#[derive(Deserialize)]
struct Back {
    revision: i64,
    /// Which of the results that were set aside.
    which: i64,
}

/// Takes back an edited result that a new trace set aside; what is edited now is set aside instead.
#[post("/jobs/{id}/edited-back")]
async fn edited_back(asked: JobRequest, form: web::Form<Back>) -> Result<HttpResponse, WebError> {
    let has_edits = asked.now().await?.recipe.tidy.is_some();
    let (store, id, person) = (asked.shop.store.clone(), asked.id, asked.person.clone());
    let Back { revision, which } = form.into_inner();
    web::block(move || {
        let name = "Edited result taken back";
        Ok::<_, WebError>(store.take_back(
            (id, revision),
            which,
            (name, &person.name),
            has_edits,
        )?)
    })
    .await??;
    asked.shown(Line::Tidy, Answer::Kept).await
}

/// An item with what is told of it.
#[derive(Serialize)]
struct BenchItem {
    #[serde(flatten)]
    data: ItemData,
    area: f64,
    length: f64,
    nodes: usize,
    bounds: [f64; 4],
}

impl BenchItem {
    fn of(item: &Item) -> Self {
        let b = item.bounds();
        let mut data = ItemData::of(item);
        data.strayed = Vec::new();
        Self {
            data,
            area: item.area(),
            length: item.length(),
            nodes: item.nodes(),
            bounds: [b.x0, b.y0, b.x1, b.y1],
        }
    }
}

#[get("/jobs/{id}/results/{key}/items.json")]
async fn items(kept: Kept) -> Result<HttpResponse, WebError> {
    kept.json(|outcome| {
        let drawing = outcome.drawing();
        let items: Vec<BenchItem> = drawing.items.iter().map(BenchItem::of).collect();
        json!({ "items": items, "made": outcome.made() })
    })
    .await
}

#[derive(Deserialize)]
struct Sketched {
    sketch: String,
}

/// What is told of a thing while it is drawn.
#[get("/jobs/{id}/sketch")]
async fn sketched(asked: web::Query<Sketched>) -> Result<HttpResponse, WebError> {
    let sketch: Sketch = serde_json::from_str(&asked.sketch).map_err(|e| wrong("tidy", e))?;
    let drawn = sketch.drawn()?;
    let segments = drawn.path.segments().map_err(|e| wrong("tidy", e))?;
    Ok(HttpResponse::Ok().json(json!({
        "d": svg::segments_data(&segments, drawn.path.closed),
        "diameter": drawn.diameter,
        "size": drawn.size,
        "to": drawn.path.to,
    })))
}

#[derive(Deserialize)]
struct RefitAsked {
    items: String,
    tolerance: f64,
    pieces: Pieces,
    corner: f64,
}

fn numbers(text: &str) -> Vec<ItemId> {
    text.split(',')
        .filter_map(|n| n.trim().parse().ok())
        .collect()
}

/// What fitting items anew would do, with the new line to draw over the old one.
#[get("/jobs/{id}/refit")]
async fn refitted(
    job: JobRequest,
    asked: web::Query<RefitAsked>,
) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let outcome = job.outcome(&now.recipe, Wanted::Edited).await?;
    let asked = asked.into_inner();
    limits::within("a tolerance", asked.tolerance, &(0.001..=10.0), "mm").map_err(|figure| {
        WebError::Figure {
            field: "tidy",
            figure,
        }
    })?;
    let body = job
        .run(move |_| {
            let ids = numbers(&asked.items);
            let within = Within {
                tolerance: asked.tolerance,
                pieces: asked.pieces,
                corner: asked.corner.clamp(5.0, 170.0),
            };
            let drawing = outcome.drawing();
            let report = refit::report(&drawing, &ids, within);
            let (mut d, mut nodes) = (String::new(), Vec::new());
            for item in drawing.items.iter().filter(|i| ids.contains(&i.id)) {
                let (new, _) = refit::refitted(item, within);
                for path in &new.paths {
                    d.push_str(&svg::segments_data(&path.segments, path.closed));
                    let places = (0..path.nodes()).filter_map(|n| path.node(n));
                    nodes.extend(places.flat_map(|p| [p.x, p.y]));
                }
            }
            Ok(json!({ "report": report, "d": d, "nodes": nodes }))
        })
        .await?;
    Ok(HttpResponse::Ok().json(body))
}

#[derive(Deserialize)]
struct RulesAsked {
    rules: String,
}

/// What rules would mend.
#[get("/jobs/{id}/faults")]
async fn faults(job: JobRequest, asked: web::Query<RulesAsked>) -> Result<HttpResponse, WebError> {
    let rules: Rules = serde_json::from_str(&asked.rules).map_err(|e| wrong("tidy", e))?;
    let now = job.now().await?;
    let outcome = job.outcome(&now.recipe, Wanted::Edited).await?;
    let found = job
        .run(move |_| Ok(rules::find(&outcome.drawing(), &rules)))
        .await?;
    Ok(HttpResponse::Ok().json(found))
}

#[derive(Deserialize)]
struct FollowAsked {
    from_x: f64,
    from_y: f64,
    x: f64,
    y: f64,
    reach: f64,
}

/// The way along the artwork's edges from one place to another.
#[get("/jobs/{id}/follow")]
async fn followed(
    job: JobRequest,
    asked: web::Query<FollowAsked>,
) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let (size, traced) = (now.recipe.size, now.recipe.traced().size);
    let outcome = job.outcome(&now.recipe, Wanted::Edited).await?;
    let body = job
        .run(move |_| {
            // Edges were fitted at the size of the trace.
            let scale = Affine::scale_non_uniform(
                size.width.get() / traced.width.get(),
                size.height.get() / traced.height.get(),
            );
            let back = |x: f64, y: f64| scale.inverse() * Point::new(x, y);
            let (from, to) = (back(asked.from_x, asked.from_y), back(asked.x, asked.y));
            let reach = asked.reach.clamp(0.01, 20.0);
            let way = follow::follow(&outcome.fitted.edges, from, to, reach).ok_or_else(|| {
                wrong(
                    "tidy",
                    "no edge of the artwork leads there; click nearer to one",
                )
            })?;
            let way: Vec<_> = way.iter().flat_map(|s| s.moved(scale)).collect();
            let path = PathData::of(&way, false);
            let d = svg::segments_data(&way, false);
            Ok(json!({ "path": path, "d": d }))
        })
        .await?;
    Ok(HttpResponse::Ok().json(body))
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(edited)
        .service(edited_back)
        .service(items)
        .service(sketched)
        .service(refitted)
        .service(faults)
        .service(followed);
}
