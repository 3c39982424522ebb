//! The demo jobs, made from the sample pictures.

use inky_core::inks::InkMode;
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::size::Size;
use inky_core::units::Mm;
use inky_demo::{SAMPLES, Sample};
use inky_store::{JobDetails, NewJob, Store, StoreError};

/// Adds a job for every sample, the first on top of the list.
pub(crate) fn fill(store: &Store) -> Result<(), StoreError> {
    for sample in SAMPLES.iter().rev() {
        let details = JobDetails {
            title: sample.title.to_owned(),
            client: sample.client.to_owned(),
            tags: sample.tags.to_owned(),
        };
        let recipe = serde_json::to_string(&recipe(sample)).unwrap_or_default();
        store.create_job(NewJob {
            by: "",
            bytes: &sample.file(),
            file_name: sample.file_name,
            size_px: sample.size_px,
            details: &details,
            recipe: &recipe,
        })?;
    }
    Ok(())
}

fn recipe(sample: &Sample) -> Recipe {
    let (w, h) = sample.size_px;
    let size = Size::at_ppi(w, h, 96.0).with_width(Mm::new(sample.width_mm), w, h);
    let mut recipe = Recipe::automatic(size);
    if sample.mono {
        recipe.inks.mode = InkMode::Mono {
            threshold: None,
            invert: false,
            local: false,
            above: None,
        };
    }
    if sample.centre_line {
        recipe.trace.edges = Edges::CentreLine;
    }
    recipe
}
