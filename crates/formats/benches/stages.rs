//! Time of every stage on flat art of 1 to 48 megapixels; what each stands for: `README.md`.
#![allow(missing_docs, reason = "criterion's macro makes a public function")]

use criterion::{BenchmarkId, Criterion, criterion_group, criterion_main};
use inky_core::assembly::build;
use inky_core::cutting::Cutting;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::units::Mm;
use inky_core::{boundary, fit, inks, settings, trace};
use inky_formats::svg::{Sized, Style};
use inky_formats::{picture, png, svg};

/// Width and height of the pictures, px.
const SIZES: [(u32, u32); 5] = [
    (1200, 900),
    (1640, 1230),
    (2300, 1740),
    (4000, 3000),
    (8000, 6000),
];

/// The teapot, side by side as often as it takes, as PNG.
fn tiled(width: u32, height: u32) -> Option<Vec<u8>> {
    let tile = picture::read(&inky_demo::SAMPLES[0].file()).ok()?.picture;
    let pixels = (0..height)
        .flat_map(|y| (0..width).map(move |x| (x, y)))
        .map(|(x, y)| {
            let at = (y % tile.height()) * tile.width() + x % tile.width();
            tile.pixels()[at as usize]
        })
        .collect();
    png::write_picture(&Picture::new(width, height, pixels).ok()?).ok()
}

fn stages(c: &mut Criterion) {
    for (width, height) in SIZES {
        let Some(file) = tiled(width, height) else {
            continue;
        };
        let name = format!("{:.0} MP", f64::from(width * height) / 1e6);
        if let Some(folder) = std::env::var_os("INKY_BENCH_PICTURES") {
            let path = std::path::Path::new(&folder).join(format!("{name}.png"));
            assert!(std::fs::write(path, &file).is_ok(), "the folder is there");
        }
        let Ok(artwork) = picture::read(&file) else {
            continue;
        };
        let picture = artwork.picture;
        let stop = Stop::new();
        let size = Size::at_ppi(width, height, 96.0).with_width(Mm::new(300.0), width, height);
        let recipe = Recipe::automatic(size);
        let Ok(solid) = inks::separate(&picture, &recipe.inks.mode.into(), &stop) else {
            continue;
        };
        assert_eq!(solid.inks.len(), 4, "three inks and the ground");
        let settings = settings::settings(&recipe, &solid);
        let Ok(bounded) = boundary::map(&solid, settings.min_part_px, &stop) else {
            continue;
        };
        let Ok(fitted) = fit::fit(&bounded.map, settings.placement, settings.fit, &stop) else {
            continue;
        };
        let design = trace::design(&recipe, &solid, &bounded, &fitted, None);

        let mut group = c.benchmark_group(name);
        group.sample_size(10);
        let id = BenchmarkId::from_parameter;
        group.bench_function(id("decode"), |b| b.iter(|| picture::read(&file)));
        group.bench_function(id("inks"), |b| {
            b.iter(|| inks::separate(&picture, &recipe.inks.mode.into(), &stop))
        });
        group.bench_function(id("boundary"), |b| {
            b.iter(|| boundary::map(&solid, settings.min_part_px, &stop))
        });
        group.bench_function(id("fit"), |b| {
            b.iter(|| fit::fit(&bounded.map, settings.placement, settings.fit, &stop))
        });
        group.bench_function(id("shapes"), |b| {
            b.iter(|| trace::design(&recipe, &solid, &bounded, &fitted, None))
        });
        group.bench_function(id("write"), |b| {
            b.iter(|| {
                let cutting = Cutting::of(&design, &build(&design, &recipe.layers));
                svg::write(&cutting, "teapots", Style::Filled, Sized::default())
            })
        });
        group.finish();
    }
}

criterion_group!(benches, stages);
criterion_main!(benches);
