//! Lines of known width under known blur: their outlines have that width, beside a block that shows
//! how dark the ink is. (Where nothing is wide, lighter ink in a wider line looks the same.)
//!
//! Source: the pixel values are exact. Light through a line of width *w* blurred by a Gaussian of
//! standard deviation σ is ½ (erf((x + w/2)/(σ√2)) − erf((x − w/2)/(σ√2))); its mean over a pixel is a
//! difference of the integral x·erf(x) + exp(−x²)/√π (Abramowitz & Stegun 7.1.1, 7.2.1). The
//! error function is their approximation 7.1.26, which errs by 1.5 · 10⁻⁷ at most.

use inky_core::inks::InkMode;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::shapes::Design;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{TraceError, trace};

/// Abramowitz & Stegun 7.1.26.
fn erf(x: f64) -> f64 {
    let t = 1.0 / (1.0 + 0.327_591_1 * x.abs());
    let sum = [
        1.061_405_429,
        -1.453_152_027,
        1.421_413_741,
        -0.284_496_736,
        0.254_829_592,
    ]
    .iter()
    .fold(0.0, |sum, a| (sum + a) * t);
    (1.0 - sum * (-x * x).exp()) * x.signum()
}

/// Part of a pixel from `x` to `x + 1` that an edge at nought, blurred by σ, has passed.
fn passed(x: f64, sigma: f64) -> f64 {
    let integral = |x: f64| {
        let u = x / (sigma * std::f64::consts::SQRT_2);
        let root = std::f64::consts::PI.sqrt();
        0.5 * (x + sigma * std::f64::consts::SQRT_2 * (u * erf(u) + (-u * u).exp() / root))
    };
    integral(x + 1.0) - integral(x)
}

/// Five upright lines of a width, dark on white, each a little farther between two pixels, and a
/// block 14 px wide.
fn lines(width: f64, sigma: f64) -> Picture {
    let (w, h) = (180u32, 60u32);
    let ink = |x: u32, y: u32| -> f64 {
        // Ends are blunt and far from where widths are measured.
        if !(8..52).contains(&y) {
            return 0.0;
        }
        let own = |middle: f64, width: f64| {
            let from = f64::from(x) - middle;
            passed(from + width / 2.0, sigma) - passed(from - width / 2.0, sigma)
        };
        let lines = (0..5).map(|n| own(20.0 + 27.2 * f64::from(n), width));
        lines.sum::<f64>() + own(160.0, 14.0)
    };
    let pixels = (0..w * h).map(|i| {
        let v = (255.0 * (1.0 - ink(i % w, i / w)))
            .round()
            .clamp(0.0, 255.0) as u8;
        [v, v, v, 255]
    });
    Picture::new(w, h, pixels.collect()).unwrap_or_else(|_| unreachable!("a picture of one size"))
}

fn traced(picture: &Picture) -> Result<Design, TraceError> {
    let (w, h) = (picture.width(), picture.height());
    let mut recipe = Recipe::automatic(Size::at_ppi(w, h, 25.4));
    recipe.inks.mode = InkMode::Auto;
    Ok(trace(picture, &recipe, &Stop::new(), &mut |_| {})?.design)
}

#[test]
fn lines_of_known_width_under_known_blur_keep_it() -> Result<(), TraceError> {
    for (width, sigma) in [(0.8, 0.4), (1.2, 0.5), (1.5, 0.5), (1.5, 0.8), (2.2, 1.2)] {
        let design = traced(&lines(width, sigma))?;
        assert_eq!(design.shapes.len(), 6, "{width} px, blur {sigma}");
        for shape in design
            .shapes
            .iter()
            .filter(|s| s.outer.bounds().width() < 7.0)
        {
            // Of a line 44 px long.
            let found = shape.area() / 44.0;
            let off = (found - width).abs();
            assert!(off < 0.26, "{width} px, blur {sigma}: {found:.2} px");
        }
    }
    Ok(())
}
