//! `inky sheet --print` and `inky correct`: stickers printed and cut, the cut falling on the printed edge wherever the
//! page lies.

use std::fs;

use anyhow::{Context, Result, ensure};
use inky_core::correct::correction;
use inky_core::projective::Projective;
use inky_demo::SAMPLES;
use inky_demo::photograph::{self, Camera};
use inky_devices::printed::{Eye, Lying};
use inky_formats::corrected;
use kurbo::{Affine, Line, Point, Vec2};
use tempfile::TempDir;

use crate::support::bed::OnBed;
use crate::support::blade::{blade, lines, off};
use crate::support::run::inky;

/// Nine lanterns of 45 mm with a border of 3 mm on an A4 page, unless it is said otherwise.
struct Page {
    folder: TempDir,
    told: String,
}

impl Page {
    fn file(&self, name: &str) -> String {
        self.folder.path().join(name).to_string_lossy().into_owned()
    }

    fn printed(cut: &str, more: &[&str]) -> Result<Self> {
        let folder = TempDir::new()?;
        let path = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
        let lantern = SAMPLES
            .iter()
            .find(|s| s.file_name == "lantern.jpg")
            .context("no lantern")?;
        fs::write(path("lantern.jpg"), lantern.file())?;
        let (picture, out, cut) = (path("lantern.jpg"), path("page.pdf"), path(cut));
        let mut args = vec!["sheet", &picture, "--print", "--width", "45mm"];
        if !more.contains(&"--copies") {
            args.extend(["--copies", "9"]);
        }
        args.extend([
            "--border",
            "3mm",
            "--border-colour",
            "#ffffff",
            "-o",
            &out,
            "--cut",
            &cut,
        ]);
        args.extend(more);
        let done = inky(&args)?;
        let told = String::from_utf8_lossy(&done.stderr).into_owned();
        ensure!(done.status.success(), "{told}");
        Ok(Self { folder, told })
    }

    /// How far apart its marks are, mm.
    fn apart(&self) -> Result<[f64; 2]> {
        let (_, told) = self.told.split_once("--marks ").context("no marks")?;
        let figures = told.split("mm").next().context("no unit")?;
        let (w, h) = figures.split_once('x').context("one side")?;
        Ok([w.parse()?, h.parse()?])
    }
}

#[test]
fn the_cut_falls_on_the_printed_edge_of_two_hundred_pages() -> Result<()> {
    let page = Page::printed("cut.plt", &[])?;
    ensure!(page.told.contains("printed: 9 pictures"), "{}", page.told);
    let again = Page::printed("cut.svg", &[])?;
    let [w, h] = page.apart()?;
    let marks = [
        Point::ORIGIN,
        Point::new(w, 0.0),
        Point::new(w, h),
        Point::new(0.0, h),
    ];
    let edges = lines(&fs::read(again.file("cut.svg"))?)?;
    let file = fs::read_to_string(page.file("cut.plt"))?;
    // With the eye's places exact and wrong by 0.1 mm, by three marks and by four; and laid at its first mark alone.
    let mut farthest = [0.0_f64; 5];
    for seed in 0..200 {
        let lying = Lying::at_random(seed, Vec2::new(40.0, 40.0));
        let printed: Vec<Line> = edges.iter().map(|l| lying.map * *l).collect();
        let mut way = 0;
        for three in [true, false] {
            let meant: Vec<Point> = match three {
                true => vec![marks[0], marks[1], marks[3]],
                false => marks.to_vec(),
            };
            for noise in [0.0, 0.1] {
                let eye = Eye {
                    noise,
                    blind_to: None,
                };
                let found: Option<Vec<Point>> =
                    eye.finds(&meant, &lying, seed).into_iter().collect();
                let map = correction(&meant, &found.context("all are found")?)?.map;
                let cut = blade(corrected::hpgl(&file, &map)?.as_bytes());
                ensure!(cut.len() > 200, "{} places", cut.len());
                farthest[way] = farthest[way].max(off(&cut, &printed));
                way += 1;
            }
        }
        if seed < 10 {
            // Put down at its first mark, and no more.
            let first = lying.map * Point::ORIGIN;
            let laid = Projective::from(Affine::translate(first.to_vec2()));
            let cut = blade(corrected::hpgl(&file, &laid)?.as_bytes());
            farthest[4] = farthest[4].max(off(&cut, &printed));
        }
    }
    let [three, three_noisy, four, four_noisy, uncorrected] = farthest;
    ensure!(three < 0.15 && four < 0.15, "{farthest:?}");
    ensure!(three_noisy < 0.3 && four_noisy < 0.3, "{farthest:?}");
    ensure!(uncorrected > 4.0, "{farthest:?}");
    Ok(())
}

#[test]
fn a_file_is_corrected_from_the_command_line_or_refused_with_the_reason() -> Result<()> {
    let page = Page::printed("cut.plt", &["--marks", "4", "--pull-marks"])?;
    ensure!(page.told.contains("mm of it saved"), "{}", page.told);
    let [w, h] = page.apart()?;
    let apart = format!("{w}x{h}mm");
    let (cut, out) = (page.file("cut.plt"), page.file("moved.plt"));
    let correct = |found: &[Point], more: &[&str]| -> Result<(Option<i32>, String)> {
        let found: Vec<String> = found
            .iter()
            .map(|p| format!("{:.3},{:.3}", p.x, p.y))
            .collect();
        let mut args = vec!["correct", &cut, "-o", &out];
        args.extend(more);
        args.extend(["--marks", &apart, "--found"]);
        args.extend(found.iter().map(String::as_str));
        let done = inky(&args)?;
        Ok((
            done.status.code(),
            String::from_utf8_lossy(&done.stderr).into_owned(),
        ))
    };
    let lying = Lying::at_random(7, Vec2::new(40.0, 40.0));
    let meant = [
        Point::ORIGIN,
        Point::new(w, 0.0),
        Point::new(w, h),
        Point::new(0.0, h),
    ];
    let found = meant.map(|p| lying.map * p);
    let (code, told) = correct(&found, &[])?;
    ensure!(
        code == Some(0) && told.contains("corrected: turned by"),
        "{told}"
    );
    let cut_there = blade(&fs::read(&out)?);
    let map = correction(&meant, &found)?.map;
    let want = corrected::hpgl(&fs::read_to_string(&cut)?, &map)?;
    ensure!(
        off(
            &cut_there,
            &blade(want.as_bytes())
                .windows(2)
                .map(|w| Line::new(w[0], w[1]))
                .collect::<Vec<_>>()
        ) < 0.1
    );
    // Said one by one the marks are the same, and moved ones can be said.
    let each: Vec<String> = meant.iter().map(|p| format!("{},{}", p.x, p.y)).collect();
    let places: Vec<String> = found
        .iter()
        .map(|p| format!("{:.3},{:.3}", p.x, p.y))
        .collect();
    let again = page.file("again.plt");
    let singly = |each: &str, places: &[String]| -> Result<(Option<i32>, String)> {
        let mut args = vec!["correct", &cut, "-o", &again, "--marks", each, "--found"];
        args.extend(places.iter().map(String::as_str));
        let done = inky(&args)?;
        let told = String::from_utf8_lossy(&done.stderr).into_owned();
        Ok((done.status.code(), told))
    };
    let (code, told) = singly(&each.join(";"), &places)?;
    ensure!(code == Some(0), "{told}");
    ensure!(fs::read(&again)? == fs::read(&out)?, "it is cut elsewhere");
    fs::remove_file(&again)?;
    let (code, told) = singly(&each[..3].join(";"), &places)?;
    ensure!(
        code == Some(1) && told.contains("where 3 were meant to lie, and 4 were found"),
        "{told}"
    );
    let (code, _) = singly("0,0;174", &places)?;
    ensure!(code == Some(2));
    // An existing file is kept.
    let (code, told) = correct(&found, &[])?;
    ensure!(code == Some(1) && told.contains("--force"), "{told}");
    for (places, said) in [
        (
            [found[0], found[3], found[2], found[1]],
            "marks 2 and 4 seem to be swapped",
        ),
        (found.map(|p| Point::new(p.x * 1.1, p.y)), "stretched"),
        (
            [
                found[0],
                found[1],
                found[2],
                found[3] + kurbo::Vec2::new(2.0, 1.0),
            ],
            "most of all mark 4",
        ),
    ] {
        let (code, told) = correct(&places, &["--force"])?;
        ensure!(code == Some(1) && told.contains(said), "{told}");
    }
    let (code, told) = correct(&found[..2], &["--force"])?;
    ensure!(code == Some(1) && told.contains("three or four"), "{told}");
    Ok(())
}

/// Between the bed's marks, mm.
const BED: [f64; 2] = [260.0, 230.0];

#[test]
fn the_marks_are_found_in_a_photograph_of_the_bed() -> Result<()> {
    let size = ["--page", "148x210mm", "--copies", "2"];
    let page = Page::printed("cut.plt", &size)?;
    let again = Page::printed("cut.svg", &size)?;
    let [w, h] = page.apart()?;
    let apart = format!("{w}x{h}mm");
    let pixels = page.file("page.png");
    let made = inky(&[
        "sheet",
        &page.file("lantern.jpg"),
        "--print",
        "--width",
        "45mm",
        "--border",
        "3mm",
        "--border-colour",
        "#ffffff",
        "--page",
        "148x210mm",
        "--copies",
        "2",
        "-o",
        &pixels,
    ])?;
    ensure!(
        made.status.success(),
        "{}",
        String::from_utf8_lossy(&made.stderr)
    );
    let picture = image::open(&pixels)?.to_rgb8();
    let per_mm = f64::from(picture.width()) / 148.0;
    let lying = Affine::translate((75.0, 60.0)) * Affine::rotate(0.03);
    // From the first mark, mm, y up, to the page's pixels: margins of 15 mm, 45 mm below, and half a mark.
    let to_px = Affine::new([per_mm, 0.0, 0.0, -per_mm, 0.0, f64::from(picture.height())])
        * Affine::translate((18.0, 48.0));
    let corners = [(0.0, 0.0), (BED[0], 0.0), (BED[0], BED[1]), (0.0, BED[1])];
    let scene = OnBed {
        page: picture,
        to_px: to_px * lying.inverse(),
        marks: corners.map(Point::from),
    };
    let camera = Camera {
        angles: [14.0, -18.0, 8.0],
        blur: 0.8,
        dusk: 0.3,
        ..Camera::before(Point::new(130.0, -115.0), 420.0, (1500, 1200))
    };
    let taken = scene.taken(&camera, Affine::FLIP_Y);
    let photo = page.file("bed.jpg");
    fs::write(&photo, photograph::file(&taken, 85))?;
    let (cut, out) = (page.file("cut.plt"), page.file("there.plt"));
    let correct = |bed: &str, more: &[&str]| -> Result<(Option<i32>, String)> {
        let mut args = vec![
            "correct", &cut, "-o", &out, "--marks", &apart, "--photo", &photo,
        ];
        args.extend(["--bed", bed]);
        args.extend(more);
        let done = inky(&args)?;
        Ok((
            done.status.code(),
            String::from_utf8_lossy(&done.stderr).into_owned(),
        ))
    };
    let (code, told) = correct("260x230mm", &[])?;
    ensure!(code == Some(0) && told.contains("each within"), "{told}");
    let edges = lines(&fs::read(again.file("cut.svg"))?)?;
    let printed: Vec<Line> = edges.iter().map(|l| lying * *l).collect();
    let off = off(&blade(&fs::read(&out)?), &printed);
    ensure!(off < 0.4, "the blade runs {off} mm beside the printed edge");
    // A bed of another size, a page with more marks.
    let (code, told) = correct("300x230mm", &["--force"])?;
    ensure!(code == Some(1) && told.contains("no rectangle"), "{told}");
    let (code, told) = correct("260x230mm", &["--force", "--count", "4"])?;
    ensure!(
        code == Some(1) && told.contains("3 of the page's 4 marks are seen"),
        "{told}"
    );
    let marks = page.file("bed.svg");
    let made = inky(&["bed-marks", "-o", &marks])?;
    ensure!(made.status.success() && fs::read_to_string(&marks)?.matches("<path").count() == 4);
    Ok(())
}

#[test]
fn what_cannot_be_printed_is_said() -> Result<()> {
    let folder = TempDir::new()?;
    let path = |name: &str| folder.path().join(name).to_string_lossy().into_owned();
    fs::write(path("disc.png"), crate::support::run::disc()?)?;
    let disc = path("disc.png");
    let out = path("page.pdf");
    for (args, code, said) in [
        (
            vec!["-o", &out, "--width", "400mm"],
            1,
            "nothing fits on the 179 × 236 mm",
        ),
        (
            vec!["-o", &out, "--page", "50x50mm"],
            1,
            "what the margins leave of the page's height of 0 mm is outside 12 to 5000 mm",
        ),
        (
            vec!["-o", &out, "--bleed", "50mm"],
            1,
            "a bleed of 50 mm is outside 0 to 20 mm",
        ),
        (vec!["-o", &out, "--marks", "5"], 2, "3 or 4 marks"),
        (
            vec!["-o", &out, "--stock", "100mm"],
            2,
            "cannot be used with",
        ),
        (vec!["-o", "page.svg"], 1, "written as .pdf or .png"),
        (vec!["-o", &out, "--code", "äöü"], 2, "20 capitals"),
        (vec!["-o", &out, "--fill", "here=#ffcc00"], 2, "WHAT=PAINT"),
        (
            vec!["-o", &out, "--fill", "1,1=dots:#ffcc00:#ffffff:0.1mm"],
            2,
            "the size of a pattern",
        ),
        (
            vec!["-o", &out, "--fill", "1,1=picture:nowhere.png"],
            1,
            "cannot read nowhere.png",
        ),
        (
            vec!["-o", &out, "--roll", "300mm", "--page", "A4"],
            2,
            "cannot be used with",
        ),
    ] {
        let mut all = vec!["sheet", &disc, "--print"];
        all.extend(args);
        let done = inky(&all)?;
        let told = String::from_utf8_lossy(&done.stderr).into_owned();
        ensure!(
            done.status.code() == Some(code) && told.contains(said),
            "{all:?}: {told}"
        );
        ensure!(!fs::exists(&out)?, "{all:?} wrote something");
    }
    // Nearer than their bleeds: shared out, and said.
    let done = inky(&[
        "sheet", &disc, "--print", "--width", "30mm", "--copies", "4", "--gap", "1mm", "-o", &out,
    ])?;
    let told = String::from_utf8_lossy(&done.stderr).into_owned();
    ensure!(
        done.status.success() && told.contains("the bleed between them is 0.5 mm"),
        "{told}"
    );
    Ok(())
}
