//! The demo jobs, made from the sample pictures.

use inky_core::inks::InkMode;
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::size::Size;
use inky_core::units::Mm;
use inky_demo::{PHOTOGRAPHS, Photograph, SAMPLES, Sample};
use inky_store::{JobDetails, NewJob, Store, StoreError};

/// Adds a job for every sample and for what was photographed, the first on top of the list.
pub(crate) fn fill(store: &Store) -> Result<(), StoreError> {
    let details = |title: &str, client: &str, tags: &str| JobDetails {
        title: title.to_owned(),
        client: client.to_owned(),
        tags: tags.to_owned(),
    };
    for sample in SAMPLES.iter().rev() {
        store.create_job(NewJob {
            by: "",
            bytes: &sample.file(),
            file_name: sample.file_name,
            size_px: sample.size_px,
            details: &details(sample.title, sample.client, sample.tags),
            recipe: &serde_json::to_string(&recipe(sample)).unwrap_or_default(),
        })?;
    }
    for taken in PHOTOGRAPHS.iter().rev() {
        store.create_job(NewJob {
            by: "",
            bytes: &taken.file(),
            file_name: taken.file_name,
            size_px: taken.size_px,
            details: &details(taken.title, taken.client, taken.tags),
            recipe: &serde_json::to_string(&as_taken(taken)).unwrap_or_default(),
        })?;
    }
    Ok(())
}

/// One tone, nothing squared up yet.
fn as_taken(taken: &Photograph) -> Recipe {
    let (w, h) = taken.size_px;
    let size = Size::at_ppi(w, h, 96.0).with_width(Mm::new(taken.width_mm), w, h);
    let mut recipe = Recipe::automatic(size);
    recipe.inks.mode = one_tone();
    recipe
}

fn one_tone() -> InkMode {
    InkMode::Mono {
        threshold: None,
        invert: false,
        local: false,
        above: None,
    }
}

fn recipe(sample: &Sample) -> Recipe {
    let (w, h) = sample.size_px;
    let size = Size::at_ppi(w, h, 96.0).with_width(Mm::new(sample.width_mm), w, h);
    let mut recipe = Recipe::automatic(size);
    if sample.mono {
        recipe.inks.mode = one_tone();
    }
    if sample.centre_line {
        recipe.trace.edges = Edges::CentreLine;
    }
    recipe
}
