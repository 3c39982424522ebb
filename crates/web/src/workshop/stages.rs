//! The stages of a trace, each kept under a key of exactly what it depends on.
//!
//! ```text
//!   artwork (original) ─► cleaned (+ every step so far) ─► solid (+ ink mode)
//!     └► bounded (+ smallest part, px²; merged inks) ─► fitted (+ size, tolerance, corner, smoothing) ─► outcome
//! ```

use std::sync::{Arc, OnceLock};

use inky_core::agreement::Agreement;
use inky_core::boundary::{self, Bounded};
use inky_core::clean::square::{self, Seen};
use inky_core::clean::{self, Cleaned, Step};
use inky_core::fit::{self, FittedMap};
use inky_core::inks::{self, Asked, EnclosedPart, InkId, InkMode, Solid, Tone};
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::settings;
use inky_core::sheet::choice::SheetChoice;
use inky_core::stop::Stop;
use inky_core::tidy::{Changed, Drawing, DrawingData, Tidy};
use inky_core::trace;
use inky_core::worth::Worth;
use inky_formats::picture::{self, Artwork};
use inky_store::{JobId, Store};
use sha2::{Digest, Sha256};

use super::laid::Laid;
use super::outcome::{Arrived, Base, Made, Outcome};
use super::shelf::{Room, Shelf};
use super::underway::{Going, Stage, Underway};
use crate::error::WebError;
use crate::job::saving;
use crate::refusal::Refusal;

/// Pixels of each tone.
type Tones = [u64; 256];

/// Memory that results kept for the next change may take, bytes; what is worked on comes on top.
const KEPT: usize = 512 << 20;
/// Pixels of the copy that a quick answer is made from.
const QUICK_PX: u64 = 1_000_000;
/// Points of edges from which a quick answer draws new ones in straight steps instead of fitting them.
const QUICK_POINTS: usize = 6_000;

/// The shelves.
pub(crate) struct Stages {
    store: Store,
    artworks: Shelf<Arrived>,
    cleaned: Shelf<Cleaned>,
    reduced: Shelf<Picture>,
    solids: Shelf<Solid>,
    bounded: Shelf<Bounded>,
    fitted: Shelf<FittedMap>,
    made: Shelf<Made>,
    outcomes: Shelf<Outcome>,
    worths: Shelf<Worth>,
    four_sided: Shelf<Vec<Seen>>,
    edited: Shelf<Changed>,
    tones: Shelf<Tones>,
    enclosed: Shelf<Vec<EnclosedPart>>,
    sheets: Shelf<Laid>,
    /// How far what is being made is.
    pub(super) underway: Underway,
}

pub(super) fn digest(parts: &[&str]) -> String {
    let mut hash = Sha256::new();
    for part in parts {
        hash.update(part.as_bytes());
        hash.update([0]);
    }
    hash.finalize()
        .iter()
        .take(16)
        .map(|b| format!("{b:02x}"))
        .collect()
}

/// Names what a recipe gives for an artwork. How it lies on its sheets changes nothing of what is traced,
/// built and checked.
fn outcome_key(arrived: &Arrived, recipe: &Recipe) -> Result<String, WebError> {
    let plain = Recipe {
        sheet: SheetChoice::default(),
        print: None,
        ..recipe.clone()
    };
    let recipe = serde_json::to_string(&plain)?;
    Ok(digest(&[&arrived.sha256, &recipe]))
}

impl Stages {
    pub(super) fn new(store: Store) -> Self {
        let room = Room::new(KEPT);
        Self {
            store,
            artworks: room.shelf("artworks"),
            cleaned: room.shelf("cleaned"),
            reduced: room.shelf("reduced"),
            solids: room.shelf("solids"),
            bounded: room.shelf("bounded"),
            fitted: room.shelf("fitted"),
            made: room.shelf("made"),
            outcomes: room.shelf("outcomes"),
            worths: room.shelf("worths"),
            four_sided: room.shelf("four-sided"),
            edited: room.shelf("edited"),
            tones: room.shelf("tones"),
            enclosed: room.shelf("enclosed"),
            sheets: room.shelf("sheets"),
            underway: Underway::default(),
        }
    }

    pub(crate) fn store(&self) -> &Store {
        &self.store
    }

    pub(super) fn sheets(&self) -> &Shelf<Laid> {
        &self.sheets
    }

    /// The sheets of a key, made again as those of a job are.
    pub(crate) fn kept_sheets(&self, job: JobId, key: &str) -> Result<Arc<Laid>, WebError> {
        if let Some(found) = self.sheets.get(key) {
            return Ok(found);
        }
        let recipe = saving::recipe(&self.store, job)?;
        let outcome = self.outcome(job, &recipe, false, &Stop::new())?;
        let laid = self.laid(job, &recipe, &outcome)?;
        (laid.key == key).then_some(laid).ok_or(WebError::Gone)
    }

    pub(crate) fn artwork(&self, job: JobId) -> Result<Arc<Arrived>, WebError> {
        // Another original may have taken its place since.
        let key = self.store.job(job)?.original.to_string();
        self.artworks.get_or_make(&key, || {
            let original = self.store.original(job)?;
            Ok(Arrived {
                sha256: original.sha256,
                artwork: picture::read(&original.bytes)?,
            })
        })
    }

    /// Keeps the artwork of a job that was read when it arrived.
    pub(crate) fn keep_artwork(&self, job: JobId, artwork: Artwork) -> Result<(), WebError> {
        let original = self.store.original(job)?;
        let key = original.id.to_string();
        let made = || -> Result<_, WebError> {
            Ok(Arrived {
                sha256: original.sha256,
                artwork,
            })
        };
        self.artworks.get_or_make(&key, made).map(|_| ())
    }

    /// The outcome of a key. One that made room for others meanwhile is made again where it is that of
    /// the job as it is now, or the one that was remembered.
    pub(crate) fn kept(&self, job: JobId, key: &str) -> Result<Arc<Outcome>, WebError> {
        if let Some(found) = self.outcomes.get(key) {
            return Ok(found);
        }
        let now = saving::recipe(&self.store, job)?;
        let remembered = saving::remembered(&self.store, job)?;
        for recipe in std::iter::once(now).chain(remembered) {
            let made = self.outcome(job, &recipe, false, &Stop::new())?;
            if made.key == key {
                return Ok(made);
            }
        }
        Err(WebError::Gone)
    }

    /// The artwork after the steps that are switched on, and its key. Every step's picture is kept
    /// for a while, so a change runs only the steps from it on.
    pub(crate) fn cleaned(
        &self,
        arrived: &Arrived,
        steps: &[Step],
        stop: &Stop,
    ) -> Result<(Arc<Cleaned>, String), WebError> {
        let original = &arrived.artwork.picture;
        let on: Vec<Step> = steps.iter().filter(|s| s.on).cloned().collect();
        let mut now = Arc::new(Cleaned::original(original));
        let mut key = arrived.sha256.clone();
        for n in 0..on.len() {
            key = digest(&[&key, &serde_json::to_string(&on[n])?]);
            now = self.cleaned.get_or_make::<WebError>(&key, || {
                Ok(clean::after(original, &on[..=n], &now, stop)?)
            })?;
        }
        Ok((now, key))
    }

    /// A copy of a cleaned artwork with at most so many pixels.
    pub(crate) fn reduced(
        &self,
        cleaned: &Cleaned,
        key: &str,
        most: u64,
    ) -> Result<Arc<Picture>, WebError> {
        let key = format!("{key}/{most}");
        self.reduced
            .get_or_make(&key, || Ok(cleaned.picture.reduced(most)))
    }

    /// The four-sided things that an artwork shows.
    pub(crate) fn four_sided(&self, arrived: &Arrived) -> Result<Arc<Vec<Seen>>, WebError> {
        self.four_sided.get_or_make(&arrived.sha256, || {
            Ok(square::four_sided(&arrived.artwork.picture))
        })
    }

    /// What an artwork is worth, from its flat colours as they are found by themselves.
    fn worth(&self, arrived: &Arrived, stop: &Stop) -> Result<Arc<Worth>, WebError> {
        self.worths.get_or_make(&arrived.sha256, || {
            let artwork = &arrived.artwork;
            let asked = Asked::from(InkMode::Auto);
            let key = digest(&[&arrived.sha256, &serde_json::to_string(&asked)?]);
            let separate = || inks::separate(&artwork.picture, &asked, stop);
            let solid = self.solids.get_or_make(&key, separate)?;
            Ok(Worth::of(&artwork.picture, &solid, artwork.jpeg_quality))
        })
    }

    /// Whether a result or its sheets are at hand.
    pub(super) fn holds(&self, key: &str) -> bool {
        self.outcomes.get(key).is_some() || self.sheets.get(key).is_some()
    }

    /// The outcome of a recipe where it is at hand, checked; nothing is decoded or computed for it.
    pub(super) fn at_hand(&self, job: JobId, recipe: &Recipe) -> Option<Arc<Outcome>> {
        let original = self.store.job(job).ok()?.original.to_string();
        let arrived = self.artworks.get(&original)?;
        let found = self.outcomes.get(&outcome_key(&arrived, recipe).ok()?)?;
        found.if_checked().is_some().then_some(found)
    }

    pub(crate) fn outcome(
        &self,
        job: JobId,
        recipe: &Recipe,
        quick: bool,
        stop: &Stop,
    ) -> Result<Arc<Outcome>, WebError> {
        stop.check()?;
        let going = self.underway.begin(job, Stage::Reading);
        let arrived = self.artwork(job)?;
        let key = outcome_key(&arrived, recipe)?;
        if let Some(found) = self.outcomes.get(&key) {
            return Ok(found);
        }
        recipe.check().map_err(|e| e.beside("notice"))?;
        going.at(Stage::Cleaning);
        let (cleaned, cleaned_key) = self.cleaned(&arrived, &recipe.clean, stop)?;
        let whole = recipe;
        let recipe = &whole.traced();
        let mut asked = recipe.asked(&cleaned.frame);
        let asked_key = serde_json::to_string(&asked)?;
        let mut base = Base {
            key,
            picture: cleaned.picture.clone(),
            picture_key: cleaned_key.clone(),
            cleaned_key,
            arrived,
            cleaned,
            reduced: false,
            quick,
        };
        let pixels = base.picture.pixels().len() as u64;
        let ready = || self.solids.get(&digest(&[&base.cleaned_key, &asked_key]));
        // Edits were made on the outlines of all pixels.
        let coarse = quick && whole.tidy.is_none() && ready().is_none();
        if coarse {
            asked = asked.draft();
            base.reduced = asked.draft;
        }
        if coarse && pixels > QUICK_PX {
            base.picture_key = format!("{}/{QUICK_PX}", base.cleaned_key);
            let small = self.reduced(&base.cleaned, &base.cleaned_key, QUICK_PX)?;
            base.picture = small.as_ref().clone();
            base.reduced = true;
        }
        // What is answered while a slider moves is not held against the artwork; what is kept is.
        if quick && whole.tidy.is_none() {
            let how = if base.reduced { "quick" } else { "live" };
            base.key = format!("{}-{how}", base.key);
        }
        let key = base.key.clone();
        self.outcomes.get_or_make(&key, || {
            let make = || self.make(&base, &asked, recipe, &going, stop);
            // What is tried while a slider moves is not made again; what is edited is, edit by edit.
            let made = if quick && whole.tidy.is_none() {
                Arc::new(make()?)
            } else {
                self.made.get_or_make(&base.made_key(recipe)?, make)?
            };
            let mut outcome = base.outcome(&made, recipe);
            if !quick && whole.tidy.is_none() {
                stop.check()?;
                going.at(Stage::Agreement);
                let picture = &outcome.cleaned.picture;
                let agreement = || Agreement::of(picture, &made.solid, &made.design);
                outcome.agreement = made.agreement.get_or_init(agreement).clone();
            }
            if let Some(tidy) = &whole.tidy {
                going.at(Stage::Edits);
                self.edit(&mut outcome, whole, tidy, stop)?;
            }
            Ok(outcome)
        })
    }

    /// Replays edits on a traced outcome; those that were replayed before are not done again.
    fn edit(
        &self,
        outcome: &mut Outcome,
        recipe: &Recipe,
        tidy: &Tidy,
        stop: &Stop,
    ) -> Result<(), WebError> {
        let base = match &tidy.kept {
            Some(name) => name.clone(),
            None => digest(&[
                &outcome.arrived.sha256,
                &serde_json::to_string(&recipe.traced())?,
            ]),
        };
        let mut keys = vec![base];
        for edit in &tidy.edits {
            let before = keys.last().map_or("", String::as_str);
            keys.push(digest(&[before, &serde_json::to_string(edit)?]));
        }
        let mut done = tidy.edits.len();
        let mut now = loop {
            if let Some(found) = self.edited.get(&keys[done]) {
                break found;
            }
            if done == 0 {
                let kept = match &tidy.kept {
                    Some(name) => self.store.traced(name)?,
                    None => None,
                };
                let drawing = match kept {
                    Some(json) => {
                        let data: DrawingData = serde_json::from_str(&json)?;
                        data.drawing()
                            .map_err(|e| WebError::Internal(e.to_string()))?
                    }
                    None => Drawing::of(&outcome.design),
                };
                let made = Vec::new();
                break Arc::new(Changed { drawing, made });
            }
            done -= 1;
        };
        for n in done..tidy.edits.len() {
            stop.check()?;
            now = self.edited.get_or_make::<WebError>(&keys[n + 1], || {
                Ok(now.drawing.after(&tidy.edits[n])?)
            })?;
        }
        outcome.design.size = recipe.size;
        outcome.design = now.drawing.design(&outcome.design, &recipe.inks);
        outcome.edits = tidy.edits.len();
        outcome.edited = Some(now);
        Ok(())
    }

    /// The solid picture; what is the same for every rim is kept.
    fn solid(
        &self,
        base: &Base,
        (asked, key): (&Asked, &str),
        stop: &Stop,
    ) -> Result<Arc<Solid>, WebError> {
        let before = asked.before_rim();
        let own = digest(&[&base.picture_key, &serde_json::to_string(&before)?]);
        let part = || Ok::<_, WebError>(inks::before_rim(&base.picture, &before, stop)?);
        if own == key {
            return self.solids.get_or_make(key, part);
        }
        self.solids.get_or_make(key, || {
            let parted = self.solids.get_or_make(&own, part)?;
            Ok(inks::finished(parted.as_ref().clone(), asked, stop)?)
        })
    }

    fn make(
        &self,
        base: &Base,
        asked: &Asked,
        recipe: &Recipe,
        going: &Going<'_>,
        stop: &Stop,
    ) -> Result<Made, WebError> {
        going.at(Stage::Inks);
        let solid_key = digest(&[&base.picture_key, &serde_json::to_string(asked)?]);
        let solid = self.solid(base, (asked, &solid_key), stop)?;
        let settings = settings::settings(recipe, &solid);
        going.at(Stage::Edges);
        let bounded_key = digest(&[&solid_key, &settings.min_part_px.to_string()]);
        let seen_before = self.bounded.get(&bounded_key).is_some();
        let bounded = self.bounded.get_or_make(&bounded_key, || {
            boundary::map(&solid, settings.min_part_px, stop)
        })?;
        let (bounded, bounded_key) = if recipe.inks.merged.is_empty() {
            (bounded, bounded_key)
        } else {
            let merges = serde_json::to_string(&recipe.inks.merged)?;
            let key = digest(&[&bounded_key, &merges]);
            let merge = || trace::merged(recipe, &solid, &bounded);
            let merged = self.bounded.get_or_make::<WebError>(&key, || {
                Ok(merge().unwrap_or_else(|| bounded.as_ref().clone()))
            })?;
            (merged, key)
        };
        going.at(Stage::Curves);
        let (placement, held) = (settings.placement, settings.fit);
        let fitted_key = digest(&[&bounded_key, &format!("{placement:?} {held:?}")]);
        // Many edges that a control has just made: in steps. Where it is the curves that it changes, they are fitted.
        let points = bounded.map.edges.iter().map(|e| e.points.len());
        let in_steps = base.quick && !seen_before && points.sum::<usize>() > QUICK_POINTS;
        let fitted = if in_steps {
            Arc::new(fit::draft(&bounded.map, placement))
        } else {
            let fit = || fit::fit(&bounded.map, placement, held, stop);
            self.fitted.get_or_make(&fitted_key, fit)?
        };
        let centre = trace::centre_lines(recipe, &solid, &bounded, &settings, stop)?;
        let design = trace::design(recipe, &solid, &bounded, &fitted, centre.as_ref());
        let one_tone = matches!(recipe.inks.mode, InkMode::Mono { .. });
        let tones = if let Some(histogram) = &solid.histogram {
            Some(**histogram)
        } else if one_tone || !base.quick {
            let histogram = || Ok::<_, WebError>(Tone::of(&base.picture).histogram);
            Some(*self.tones.get_or_make(&base.picture_key, histogram)?)
        } else {
            None
        };
        let ground = solid.background(recipe.inks.background);
        let ground = ground.map(|i| InkId(i as u8));
        let enclosed = if base.quick {
            Vec::new()
        } else {
            // The smallest part in px of the picture, which the labels may be finer than.
            let picture = base.picture.pixels().len() as f64;
            let px = settings.min_part_px * picture / solid.labels.len() as f64;
            let px = px.ceil() as u64;
            let key = digest(&[&bounded_key, &format!("{ground:?} {px}")]);
            let found = self.enclosed.get_or_make::<WebError>(&key, || {
                let mut found = solid.enclosed_parts(&bounded.labels, ground, px);
                found.sort_by_key(|part| std::cmp::Reverse(part.px));
                Ok(found)
            })?;
            found.as_ref().clone()
        };
        let worth = if base.quick {
            self.worths.get(&base.arrived.sha256)
        } else {
            Some(self.worth(&base.arrived, stop)?)
        };
        let repainted = serde_json::to_string(&recipe.inks.repainted)?;
        Ok(Made {
            solid_key: digest(&[&bounded_key, &repainted]),
            solid,
            bounded,
            settings,
            design,
            fitted,
            in_steps,
            worth,
            tones,
            enclosed,
            agreement: OnceLock::new(),
        })
    }
}
