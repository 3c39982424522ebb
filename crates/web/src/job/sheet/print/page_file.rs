//! A page to be printed as a file.

use inky_formats::picture::PlainJpeg;
use inky_formats::{pdf, png};
use inky_store::Store;

use crate::error::WebError;
use crate::workshop::{Art, OnSheet, PrintedSheet};

/// Pixels per inch of a page as PNG.
const PPI: f64 = 300.0;

/// What is printed on a sheet.
pub(super) fn printed(on: &OnSheet) -> Result<&PrintedSheet, WebError> {
    on.printed.as_ref().ok_or(WebError::NoPage)
}

fn title(on: &OnSheet) -> &str {
    on.load.sources.first().map_or("", |s| s.job.as_str())
}

/// What its files are called.
pub(super) fn name(on: &OnSheet) -> String {
    format!("{} page", title(on))
}

/// Pictures with the files that they came as, as far as those go into a page as they are.
fn arts<'a>(printed: &'a PrintedSheet, files: &'a [Option<Vec<u8>>]) -> Vec<pdf::print::Art<'a>> {
    let with_file = |(n, art): (usize, &'a Art)| pdf::print::Art {
        printed: &art.printed,
        picture: &art.cleaned.picture,
        jpeg: files
            .get(n)
            .and_then(Option::as_deref)
            .and_then(PlainJpeg::of),
    };
    printed.arts.iter().enumerate().map(with_file).collect()
}

/// The page as PDF; `cut` names the colour of its cut line, which is left out without.
pub(crate) fn pdf(store: &Store, on: &OnSheet, cut: Option<&str>) -> Result<Vec<u8>, WebError> {
    let printed = printed(on)?;
    let file = |art: &Art| match art.as_it_came {
        true => Ok(Some(store.original(art.job)?.bytes)),
        false => Ok(None),
    };
    let files: Result<Vec<Option<Vec<u8>>>, WebError> = printed.arts.iter().map(file).collect();
    let files = files?;
    let arts = arts(printed, &files);
    Ok(pdf::print::write(&printed.page, &arts, title(on), cut))
}

/// The page as PNG, with its pixels per inch.
pub(super) fn png(on: &OnSheet) -> Result<Vec<u8>, WebError> {
    let printed = printed(on)?;
    Ok(png::print::write(&printed.page, &arts(printed, &[]), PPI)?)
}
