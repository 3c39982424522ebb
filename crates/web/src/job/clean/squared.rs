//! What is squared up: the four-sided things that a photograph shows, corners pointed at, and the step's figures.

use actix_web::{HttpResponse, get, web};
use inky_core::clean::square::{self, Paper, Seen, Squared};
use inky_core::clean::{self, Action, Step};
use inky_core::recipe::Recipe;
use inky_core::units::Unit;
use inky_formats::picture::Artwork;
use inky_store::Job;
use kurbo::Point;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

use crate::error::{WebError, wrong};
use crate::job::clean::asked::{to_original, to_piece};
use crate::job::request::JobRequest;
use crate::text;
use crate::typed;

/// Something that can be squared up, as the page shows it.
#[derive(Serialize)]
struct Offer {
    /// What is added to the steps; its corners are mm on the piece.
    action: Action,
    /// What follows from it.
    then: Vec<Action>,
    /// What it is like, in words.
    said: String,
    /// Whether it lies so that it is no rectangle in the picture.
    askew: bool,
}

/// The four-sided things that the photograph shows.
#[get("/jobs/{id}/squares")]
async fn squares(job: JobRequest) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let id = job.id;
    let offers = job.run(move |stages| {
        let arrived = stages.artwork(id)?;
        let artwork = &arrived.artwork;
        let size = (now.job.width_px, now.job.height_px);
        // What was cropped away is not offered.
        let frame = now.recipe.frame(size);
        let seen = |s: &Seen| {
            s.corners.iter().all(|p| {
                let at = frame.to([p.x, p.y]);
                let within = |v: f64, most: u32| (-1.0..=f64::from(most) + 1.0).contains(&v);
                within(at.x, frame.width) && within(at.y, frame.height)
            })
        };
        let found = stages.four_sided(&arrived)?;
        let found = found.iter().filter(|s| seen(s));
        let squared = found.filter_map(|s| Squared::of_seen(s, &artwork.picture, artwork.focal));
        let offers: Vec<Offer> = squared
            .map(|s| offer(s, artwork, &now.recipe, &now.job))
            .collect();
        if offers.is_empty() {
            return Err(wrong(
                "clean",
                "nothing with four straight sides stands out; point at its four corners",
            ));
        }
        Ok(offers)
    });
    Ok(HttpResponse::Ok().json(offers.await?))
}

#[derive(Deserialize)]
struct Pointed {
    /// Eight figures: x, y of four corners, mm on the piece.
    corners: String,
    /// Whether they are drawn to the edges beside them.
    #[serde(default)]
    draw: bool,
}

/// What four pointed corners square up.
#[get("/jobs/{id}/square")]
async fn pointed(job: JobRequest, asked: web::Query<Pointed>) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let id = job.id;
    let offer = job.run(move |stages| {
        let arrived = stages.artwork(id)?;
        let artwork = &arrived.artwork;
        let places = places::<4>(&asked.corners)
            .ok_or_else(|| wrong("clean", "four corners are needed, each inside the picture"))?;
        let places = places.map(to_original(&now.recipe, &now.job));
        let squared = Squared::pointed(&artwork.picture, places, asked.draw, artwork.focal)
            .map_err(|e| wrong("clean", e))?;
        Ok(offer(squared, artwork, &now.recipe, &now.job))
    });
    Ok(HttpResponse::Ok().json(offer.await?))
}

#[derive(Deserialize)]
struct Edge {
    /// Four figures: x, y of both ends, mm on the piece.
    ends: String,
}

/// What the lens does, percent, seen in an edge that is straight in truth.
#[get("/jobs/{id}/lens")]
async fn lens(job: JobRequest, asked: web::Query<Edge>) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let id = job.id;
    let found = job.run(move |stages| {
        let arrived = stages.artwork(id)?;
        let ends = places::<2>(&asked.ends)
            .ok_or_else(|| wrong("clean", "draw a line from one end of the edge to the other"))?;
        let ends = ends.map(to_original(&now.recipe, &now.job));
        let found = square::lens_along(&arrived.artwork.picture, ends).ok_or_else(|| {
            wrong(
                "clean",
                "no edge runs along this line; draw it along one that is straight in truth",
            )
        })?;
        if found == 0.0 {
            return Err(wrong(
                "clean",
                "this edge lies straight, as far as can be seen",
            ));
        }
        Ok(found)
    });
    Ok(HttpResponse::Ok().json(found.await?))
}

/// Where the corners of a step lie now, mm on the piece.
#[get("/jobs/{id}/steps/{index}/corners")]
async fn corners(
    job: JobRequest,
    path: web::Path<(String, usize)>,
) -> Result<HttpResponse, WebError> {
    let now = job.now().await?;
    let step = now.recipe.clean.get(path.1);
    let Some(Action::Square(squared)) = step.map(|s| &s.action) else {
        return Err(wrong(
            "clean",
            "this step is no longer there; reload the page",
        ));
    };
    let place = to_piece(&now.recipe, &now.job);
    let at = squared.corners.map(|[x, y]| {
        let p = place(Point::new(x, y));
        [p.x, p.y]
    });
    Ok(HttpResponse::Ok().json(at))
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config
        .service(squares)
        .service(pointed)
        .service(lens)
        .service(corners);
}

/// Places, mm, from figures with commas between.
fn places<const N: usize>(text: &str) -> Option<[Point; N]> {
    let figures: Vec<f64> = text
        .split(',')
        .map(|v| v.trim().parse().ok().filter(|v: &f64| v.is_finite()))
        .collect::<Option<_>>()?;
    let places: Vec<Point> = figures
        .as_chunks::<2>()
        .0
        .iter()
        .map(|&[x, y]| Point::new(x, y))
        .collect();
    places.try_into().ok().filter(|_| figures.len() == 2 * N)
}

fn offer(squared: Squared, artwork: &Artwork, recipe: &Recipe, job: &Job) -> Offer {
    let mut steps = clean::squaring(&artwork.picture, squared).into_iter();
    let action = steps.next().unwrap_or(Action::Square(squared));
    let level = |s: &Step| s.on && s.action == Action::Even;
    let then = if recipe.clean.iter().any(level) {
        Vec::new()
    } else {
        steps.collect()
    };
    Offer {
        action: action.moved(to_piece(recipe, job)),
        then,
        said: like(&squared),
        askew: askew(&squared) && large(&squared, artwork),
    }
}

/// Whether something four-sided is what the photograph is of, not a thing in it.
fn large(squared: &Squared, artwork: &Artwork) -> bool {
    const LEAST: f64 = 0.1;
    let c = squared.corners.map(|[x, y]| Point::new(x, y));
    let sides = (0..4).map(|n| c[n].to_vec2().cross(c[(n + 1) % 4].to_vec2()));
    let area = sides.sum::<f64>().abs() / 2.0;
    area >= LEAST * artwork.picture.pixels().len() as f64
}

/// Whether an angle of something four-sided is no right one in the picture.
fn askew(squared: &Squared) -> bool {
    const SEEN_DEG: f64 = 1.0;
    let c = squared.corners.map(|[x, y]| Point::new(x, y));
    (0..4).any(|n| {
        let (u, v) = (c[(n + 1) % 4] - c[n], c[(n + 3) % 4] - c[n]);
        (u.dot(v) / (u.hypot() * v.hypot()))
            .asin()
            .to_degrees()
            .abs()
            > SEEN_DEG
    })
}

/// What something four-sided is like, in words.
fn like(squared: &Squared) -> String {
    let ratio = squared.ratio.max(1.0 / squared.ratio);
    let off = (2.0 * squared.off).max(0.01);
    let near = |r: f64| (ratio / r).ln().abs() < off.min(0.04);
    let (lies, times) = if squared.ratio > 1.0 {
        ("lying", "as wide as high")
    } else {
        ("standing", "as high as wide")
    };
    if near(1.0) {
        "as wide as high".to_owned()
    } else if near(2f64.sqrt()) {
        format!("{lies}, like A4")
    } else if near(11.0 / 8.5) {
        format!("{lies}, like Letter")
    } else {
        format!("{ratio:.2} times {times}")
    }
}

/// A step squared up anew: what was typed of the one before stays.
pub(super) fn in_place_of(old: &Action, new: Action) -> Action {
    match (old, new) {
        (Action::Square(old), Action::Square(new)) => Action::Square(Squared {
            width: old.width,
            height: old.height,
            around: old.around,
            ..new
        }),
        (_, new) => new,
    }
}

/// What is squared up with some of its figures set anew.
pub(super) fn changed(
    old: &Squared,
    set: &Map<String, Value>,
    size: (u32, u32),
    unit: Unit,
) -> Result<Squared, WebError> {
    let mut new = *old;
    for (key, value) in set {
        let words = value.as_str().unwrap_or_default();
        match key.as_str() {
            "width" => new.width = side(words, unit)?,
            "height" => new.height = side(words, unit)?,
            "around" => new.around = value.as_bool().unwrap_or_default(),
            "paper" => {
                new = match Paper::called(words) {
                    Some(paper) => new.on_paper(paper),
                    None => Squared {
                        width: None,
                        height: None,
                        ..new
                    },
                }
            }
            "lens" => {
                let percent = value
                    .as_f64()
                    .filter(|v| v.abs() <= 30.0)
                    .ok_or_else(|| wrong("clean", "a lens is a number from -30 to 30 %"))?;
                new = new.with_lens(percent, size).ok_or_else(|| {
                    wrong(
                        "clean",
                        "bent so far the corners stand around nothing; use less",
                    )
                })?;
            }
            _ => {}
        }
    }
    Ok(new)
}

/// A true side, mm; nothing typed is unknown.
fn side(text: &str, unit: Unit) -> Result<Option<f64>, WebError> {
    let mm = typed::mm_or_none("clean", text, unit)?;
    Ok((mm > 0.0).then_some(mm))
}

/// The paper that a step's sides are those of.
pub(super) fn paper(squared: &Squared) -> &'static str {
    let (Some(width), Some(height)) = (squared.width, squared.height) else {
        return "";
    };
    let (short, long) = (width.min(height), width.max(height));
    let mut all = Paper::ALL.into_iter();
    let is = |p: &Paper| {
        let [a, b] = p.sides();
        (a - short).abs() < 0.01 && (b - long).abs() < 0.01
    };
    all.find(is).map_or("", Paper::word)
}

/// What is told of how its proportions are known.
pub(super) fn told(squared: &Squared, unit: Unit) -> String {
    if squared.width.is_some() && squared.height.is_some() {
        return "Both sides are known; they set the scale of everything.".to_owned();
    }
    let percent = 100.0 * 2.0 * squared.off;
    let sure = if percent < 2.0 {
        format!("Proportions told by the four corners, within {percent:.1} %")
    } else {
        format!("Proportions are unsure, within {percent:.0} %: type both sides, or name the sheet")
    };
    match squared.sides_mm() {
        Some([width, height]) => format!(
            "{} × {}. {sure}.",
            text::told_length(width, unit, 1),
            text::told_length(height, unit, 1)
        ),
        None => format!("{sure}. A true side sets the scale."),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn squared() -> Squared {
        let around = [[60.0, 40.0], [350.0, 60.0], [340.0, 280.0], [70.0, 250.0]];
        Squared::of(
            around.map(|[x, y]| Point::new(x, y)),
            0.0,
            (400, 300),
            0.5,
            None,
        )
        .unwrap()
    }

    #[test]
    fn sides_are_read_in_the_readers_unit_and_paper_lies_as_the_corners_do() {
        let set = |key: &str, value: Value, unit| {
            changed(
                &squared(),
                &Map::from_iter([(key.to_owned(), value)]),
                (400, 300),
                unit,
            )
        };
        let inches = set("width", "10".into(), Unit::In).unwrap();
        assert_eq!((inches.width, inches.height), (Some(254.0), None));
        assert_eq!(set("width", "".into(), Unit::Mm).unwrap().width, None);
        let a4 = set("paper", "A4".into(), Unit::Mm).unwrap();
        assert_eq!(
            (a4.width, a4.height, paper(&a4)),
            (Some(297.0), Some(210.0), "A4")
        );
        assert!(
            set("width", "-3".into(), Unit::Mm).is_err()
                || set("width", "x".into(), Unit::Mm).is_err()
        );
        assert!(set("lens", 90.0.into(), Unit::Mm).is_err());
        let bent = set("lens", 4.0.into(), Unit::Mm).unwrap();
        assert!((bent.lens - 4.0).abs() < 1e-9 && (bent.ratio - squared().ratio).abs() > 1e-6);
    }
}
