//! Files as they come over the line, and what lies in the tray afterwards.

use super::*;

/// A PDF with a page for each content, so many points wide and high.
fn pdf([wide, high]: [u32; 2], contents: &[&str]) -> Vec<u8> {
    let mut objects = vec![
        "<< /Type /Catalog /Pages 2 0 R >>".to_owned(),
        format!(
            "<< /Type /Pages /Count {} /Kids [{}] >>",
            contents.len(),
            (0..contents.len())
                .map(|n| format!("{} 0 R ", 3 + 2 * n))
                .collect::<String>()
        ),
    ];
    for (n, content) in contents.iter().enumerate() {
        objects.push(format!(
            "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 {wide} {high}] /Contents {} 0 R /Resources << /ColorSpace << \
             /Cut [/Separation /Cut#20line /DeviceCMYK << /FunctionType 2 /N 1 /Domain [0 1] /C0 [0 0 0 0] /C1 [0 1 0 0] >>] \
             >> /XObject << /Pic 99 0 R >> >> >>",
            4 + 2 * n
        ));
        objects.push(format!(
            "<< /Length {} >>\nstream\n{content}\nendstream",
            content.len()
        ));
    }
    let mut file = "%PDF-1.7\n".to_owned();
    let mut places = Vec::new();
    for (n, object) in objects.iter().enumerate() {
        places.push(file.len());
        file += &format!("{} 0 obj\n{object}\nendobj\n", n + 1);
    }
    let table = file.len();
    file += &format!("xref\n0 {}\n0000000000 65535 f \n", objects.len() + 1);
    for place in places {
        file += &format!("{place:010} 00000 n \n");
    }
    file += &format!(
        "trailer\n<< /Size {} /Root 1 0 R >>\nstartxref\n{table}\n%%EOF\n",
        objects.len() + 1
    );
    file.into_bytes()
}

/// A printer that prints nothing beside, a pixel for each point.
fn exact() -> Printer {
    Printer::new(Model {
        ppi: 72.0,
        slip: Slip::NONE,
        ..Model::default()
    })
}

/// All that is in the tray once a file has come, bytes at a time.
fn printed(printer: &mut Printer, file: &[u8]) -> Vec<Arc<Sheet>> {
    for piece in file.chunks(97) {
        printer.receive(piece);
        printer.advance(0.01);
    }
    printer.line_closed();
    printer.advance(1e4);
    assert!(printer.is_idle());
    printer.tray()
}

/// Red, green and blue at a place of a print.
fn at(sheet: &Sheet, x: u32, y: u32) -> [u8; 3] {
    let print = sheet.print.as_ref().unwrap();
    let first = 4 * (y * print.pixels[0] + x) as usize;
    [0, 1, 2].map(|n| print.rgba[first + n])
}

#[test]
fn areas_and_lines_lie_where_the_file_has_them() {
    let file = pdf(
        [100, 50],
        &[
            "1 0 0 rg 10 10 20 20 re f 0 0 1 RG 4 w 60 0 m 60 50 l S \
             q 1 0 0 1 70 20 cm 0 g 0 0 m 10 0 l 10 10 l 0 10 l h 2 2 m 8 2 l 8 8 l 2 8 l h f* Q",
            "/Cut CS 1 SCN 6 w 0 25 m 100 25 l S 0 1 0 0 k 0 0 10 10 re W n 0 0 100 5 re f",
        ],
    );
    let sheets = printed(&mut exact(), &file);
    assert_eq!(sheets.len(), 2);
    let first = &sheets[0];
    assert!(first.told.is_empty(), "{}", first.told);
    assert_eq!(first.print.as_ref().unwrap().pixels, [100, 50]);
    // y points up in the file, down in the picture.
    assert_eq!(
        [at(first, 15, 35), at(first, 15, 15), at(first, 5, 35)],
        [[255, 0, 0], [255; 3], [255; 3]]
    );
    assert_eq!(
        [at(first, 60, 25), at(first, 64, 25)],
        [[0, 0, 255], [255; 3]]
    );
    // By the even-odd rule there is a hole in the square.
    assert_eq!([at(first, 71, 25), at(first, 75, 25)], [[0; 3], [255; 3]]);
    let second = &sheets[1];
    // An ink of its own is shown by what the file says of it: all magenta. What is cut out stays so.
    assert_eq!(
        [at(second, 50, 25), at(second, 50, 15)],
        [[255, 0, 255], [255; 3]]
    );
    assert_eq!(
        [at(second, 5, 48), at(second, 50, 48)],
        [[255, 0, 255], [255; 3]]
    );
}

#[test]
fn it_takes_its_time_and_prints_beside_as_its_slip_has_it() {
    let file = pdf([720, 720], &["0 g 0 0 72 720 re f"]);
    let mut printer = Printer::new(Model {
        ppi: 72.0,
        slip: Slip {
            shift: [25.4, 0.0],
            ..Slip::NONE
        },
        speed: 25.4,
        ..Model::default()
    });
    printer.receive(&file);
    printer.line_closed();
    // Ten inches at one a second.
    printer.advance(9.9);
    assert!(printer.tray().is_empty() && !printer.is_idle());
    printer.slow_down(4.0);
    printer.advance(0.3);
    assert!(printer.tray().is_empty());
    printer.advance(0.2);
    let tray = printer.tray();
    assert_eq!(
        [
            at(&tray[0], 36, 300),
            at(&tray[0], 108, 300),
            at(&tray[0], 180, 300)
        ],
        [[255; 3], [0; 3], [255; 3]]
    );
    assert!((tray[0].size[0] - 254.0).abs() < 1e-3);
}

#[test]
fn what_cannot_be_printed_is_told() {
    let whole = pdf([100, 50], &["0 g 0 0 9 9 re f"]);
    for (file, told) in [
        (&b"IN;SP1;PU0,0;"[..], "no PDF"),
        (&whole[..whole.len() - 40], "in part"),
        (&pdf([4000, 50], &["0 g"]), "larger than 610"),
        (b"%PDF-1.7\nnothing\n%%EOF", "not printed"),
    ] {
        let mut printer = exact();
        let sheets = printed(&mut printer, file);
        assert_eq!(sheets.len(), 1);
        assert!(
            sheets[0].print.is_none() && sheets[0].told.contains(told),
            "{}",
            sheets[0].told
        );
        printer.empty();
        assert!(printer.tray().is_empty());
    }
    let words = printed(
        &mut exact(),
        &pdf(
            [100, 50],
            &["BT /F 9 Tf (Hello) Tj ET /Pic Do 0 g 0 0 9 9 re f"],
        ),
    );
    assert!(words[0].told.starts_with("2 things"), "{}", words[0].told);
    // A line that is opened and closed says nothing.
    assert!(printed(&mut exact(), b"").is_empty());
}

#[test]
fn the_tray_holds_the_latest() {
    let mut printer = exact();
    let pages: Vec<&str> = vec!["0 g"; HELD + 3];
    assert_eq!(printed(&mut printer, &pdf([20, 20], &pages)).len(), HELD);
}

#[test]
fn any_bytes_after_the_head_of_a_pdf_leave_it_standing() {
    let whole = pdf(
        [60, 60],
        &["q 1 0 0 rg 1 1 20 20 re f Q /Cut CS .5 SCN 2 w 5 5 m 9 9 20 20 30 3 c S"],
    );
    let mut random = 1u64;
    for _ in 0..3000 {
        let mut file = whole.clone();
        for _ in 0..3 {
            random = random
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1_442_695_040_888_963_407);
            let place = (random >> 33) as usize % file.len();
            file[place] = (random >> 20) as u8;
        }
        let mut printer = exact();
        printer.receive(&file);
        printer.line_closed();
        printer.advance(1e6);
        assert!(printer.is_idle());
    }
}
