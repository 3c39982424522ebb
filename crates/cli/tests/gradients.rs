//! `inky trace --tones`, `--screen` and `--inks silhouette`: from a portrait to files.

use std::fs;

use anyhow::{Result, ensure};
use tempfile::TempDir;

use crate::support::run::inky;

#[test]
fn a_portrait_is_written_as_tones_and_as_rows() -> Result<()> {
    let folder = TempDir::new()?;
    let path = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    fs::write(path("portrait.jpg"), inky_demo::PHOTOGRAPHS[1].file())?;
    let trace = |more: &[&str]| {
        let (input, output) = (path("portrait.jpg"), path("portrait.svg"));
        let mut all = vec![
            "trace", &input, "-o", &output, "--width", "100mm", "--force",
        ];
        all.extend(more);
        inky(&all)
    };
    for (more, words) in [
        (
            &["--tones", "4", "--material", "Card 240 g"][..],
            "4 tones, parted best at",
        ),
        (
            &["--tones", "3", "--levels", "equal", "--even", "40%"],
            "of equal area",
        ),
        (
            &["--tones", "3", "--levels", "30%,60%"],
            "parted as set at 30 and 60 %",
        ),
        (&["--screen", "rows", "--pitch", "3mm"], "Rows as wide"),
        (
            &["--screen", "dots", "--pitch", "4mm", "--turned", "30deg"],
            "Dots as large",
        ),
        (&["--inks", "silhouette"], "nothing of it is clear"),
        (
            &["--subject", "--inks", "silhouette"],
            "All that is not clear",
        ),
    ] {
        let done = trace(more)?;
        let said = String::from_utf8_lossy(&done.stdout).into_owned()
            + &String::from_utf8_lossy(&done.stderr);
        ensure!(
            done.status.success() && said.contains(words),
            "{more:?}: {said}"
        );
        ensure!(
            fs::read_to_string(path("portrait.svg"))?.contains("<path"),
            "{more:?}"
        );
    }
    // Refusals say what helps.
    let flat = crate::support::png(60, 40, |_, _| true)?;
    fs::write(path("flat.png"), flat)?;
    let refused = inky(&[
        "trace",
        &path("flat.png"),
        "-o",
        &path("flat.svg"),
        "--subject",
    ])?;
    let said = String::from_utf8_lossy(&refused.stderr).into_owned();
    ensure!(
        refused.status.code() == Some(1) && said.contains("no subject stands out"),
        "{said}"
    );
    for (more, code, words) in [
        (&["--tones", "9"][..], 1, "outside 2 to 6"),
        (
            &["--tones", "4", "--levels", "30%,60%"],
            1,
            "levels between tones of 2 is outside 3 to 3",
        ),
        (
            &["--tones", "4", "--inks", "mono"],
            2,
            "cannot be used with",
        ),
        (&["--levels", "equal"], 2, "--tones"),
        (
            &["--screen", "rows", "--pitch", "90mm"],
            1,
            "outside 0.1 to 50 mm",
        ),
    ] {
        let refused = trace(more)?;
        let said = String::from_utf8_lossy(&refused.stderr).into_owned();
        ensure!(
            refused.status.code() == Some(code) && said.contains(words),
            "{more:?}: {said}"
        );
    }
    Ok(())
}
