//! The demo jobs, made from the sample pictures.

use inky_core::inks::InkMode;
use inky_core::material::presets;
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::size::Size;
use inky_core::units::Mm;
use inky_demo::{PHOTOGRAPHS, Photograph, SAMPLES, Sample};
use inky_store::{JobDetails, NewJob, Store, StoreError};

/// Adds a job for every sample and for what was photographed, the first on top of the list.
pub(crate) fn fill(store: &Store) -> Result<(), StoreError> {
    let add = |(title, client, tags): (&str, &str, &str), file: (&str, Vec<u8>), size, recipe| {
        store.create_job(NewJob {
            by: "",
            bytes: &file.1,
            file_name: file.0,
            size_px: size,
            details: &JobDetails {
                title: title.to_owned(),
                client: client.to_owned(),
                tags: tags.to_owned(),
            },
            recipe: &serde_json::to_string::<Recipe>(&recipe).unwrap_or_default(),
        })
    };
    for s in SAMPLES.iter().rev() {
        let file = (s.file_name, s.file());
        add((s.title, s.client, s.tags), file, s.size_px, recipe(s))?;
    }
    for p in &PHOTOGRAPHS {
        let file = (p.file_name, p.file());
        add((p.title, p.client, p.tags), file, p.size_px, as_taken(p))?;
    }
    Ok(())
}

/// Tones of card, or one tone; nothing squared up yet.
fn as_taken(taken: &Photograph) -> Recipe {
    let (w, h) = taken.size_px;
    let size = Size::at_ppi(w, h, 96.0).with_width(Mm::new(taken.width_mm), w, h);
    let mut recipe = Recipe::automatic(size);
    if taken.tones {
        recipe = recipe.parted(InkMode::Tones);
        let card = presets().into_iter().find(|m| m.name.starts_with("Card"));
        recipe.layers.materials = card.into_iter().collect();
    } else {
        recipe.inks.mode = one_tone();
    }
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
