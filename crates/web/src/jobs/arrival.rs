//! Pictures and vector files that become jobs: their size on arrival, their title, and the request that brings
//! them in.

use actix_multipart::form::MultipartForm;
use actix_multipart::form::tempfile::TempFile;
use actix_multipart::form::text::Text;
use actix_web::{HttpResponse, post, web};
use inky_core::expression::parse_length;
use inky_core::limits;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::units::{DEFAULT_PPI, Length, Mm, Unit};
use inky_formats::picture::{self, ReadError};
use inky_store::{JobDetails, JobId, NewJob, Store};

use crate::Shop;
use crate::door::Person;
use crate::error::{WebError, wrong};
use crate::job::tidy::vectors;
use crate::reader::Reader;
use crate::workshop::Stages;

#[derive(MultipartForm)]
struct Upload {
    #[multipart(rename = "file", limit = "65 MiB")]
    files: Vec<TempFile>,
    /// `ppi`, `fit` or `width`.
    arrive: Option<Text<String>>,
    fit_width: Option<Text<String>>,
    fit_height: Option<Text<String>>,
    arrive_width: Option<Text<String>>,
}

/// The finished size of a picture as it arrives.
#[derive(Clone, Copy)]
enum Arrival {
    /// By the pixels per inch that its file states.
    Stated,
    /// As large as fits.
    Fit(Mm, Mm),
    /// So wide.
    Wide(Mm),
}

impl Arrival {
    fn of(form: &Upload, unit: Unit) -> Result<Self, WebError> {
        let length = |text: &Option<Text<String>>| {
            let text = text.as_ref().map_or("", |t| t.0.as_str());
            match parse_length(text, unit).map_err(|e| wrong("file", e))? {
                Length::Mm(mm) => {
                    let told = limits::within("the size on arrival", mm, &limits::SIDE_MM, "mm");
                    told.map_err(|figure| WebError::Figure {
                        field: "file",
                        figure,
                    })?;
                    Ok(Mm::new(mm))
                }
                _ => Err(wrong("file", "a size on arrival is a length, such as 150")),
            }
        };
        Ok(match form.arrive.as_ref().map(|t| t.0.as_str()) {
            Some("fit") => Self::Fit(length(&form.fit_width)?, length(&form.fit_height)?),
            Some("width") => Self::Wide(length(&form.arrive_width)?),
            _ => Self::Stated,
        })
    }

    /// The size of a picture of so many px.
    fn size(self, (w, h): (u32, u32), stated: Option<f64>) -> Size {
        let size = Size::at_ppi(w, h, stated.unwrap_or(DEFAULT_PPI));
        match self {
            Self::Stated => size,
            Self::Wide(width) => size.with_width(width, w, h),
            Self::Fit(width, height) => {
                let by_width = size.with_width(width, w, h);
                if by_width.height.get() <= height.get() {
                    by_width
                } else {
                    size.with_height(height, w, h)
                }
            }
        }
    }
}

/// Makes one job of one file, which is read once: its picture is at hand for whoever opens the job.
fn bring_in(
    (store, stages): (&Store, &Stages),
    (name, bytes): (&str, &[u8]),
    arrival: Arrival,
    person: &Person,
    stop: &Stop,
) -> Result<JobId, WebError> {
    let (artwork, outlines) = picture::read_with_outlines(bytes, stop)?;
    let size_px = (artwork.picture.width(), artwork.picture.height());
    let size = arrival.size(size_px, artwork.ppi);
    let recipe = Recipe::automatic(fitting(size));
    let details = JobDetails {
        title: title(name),
        ..JobDetails::default()
    };
    let recipe = serde_json::to_string(&recipe)?;
    let job = store.create_job(NewJob {
        bytes,
        file_name: name,
        size_px,
        details: &details,
        recipe: &recipe,
        by: &person.name,
    })?;
    stages.keep_artwork(job, artwork)?;
    if let Some(file) = outlines {
        vectors::take_outlines(store, stages, (job, person), &file, stop)?;
    }
    Ok(job)
}

/// A size within what can be made: a one-pixel picture is still a millimetre.
fn fitting(size: Size) -> Size {
    let (w, h) = (size.width.get(), size.height.get());
    let factor = (limits::SIDE_MM.start() / w.min(h))
        .max(1.0)
        .min(limits::SIDE_MM.end() / w.max(h));
    let clamp = |v: f64| {
        inky_core::units::Mm::new(
            (v * factor).clamp(*limits::SIDE_MM.start(), *limits::SIDE_MM.end()),
        )
    };
    Size {
        width: clamp(w),
        height: clamp(h),
        ..size
    }
}

/// A title from a file name: `old_lock-sign.final.png` becomes `Old lock sign final`.
fn title(file_name: &str) -> String {
    let stem = file_name
        .rsplit_once('.')
        .map_or(file_name, |(stem, _)| stem);
    let words: String = stem
        .chars()
        .map(|c| if "-_.".contains(c) { ' ' } else { c })
        .collect();
    let words = words.split_whitespace().collect::<Vec<_>>().join(" ");
    let mut chars = words.chars();
    match chars.next() {
        Some(first) => first.to_uppercase().collect::<String>() + chars.as_str(),
        None => "Untitled".to_owned(),
    }
}

#[post("/jobs")]
async fn create(
    shop: web::Data<Shop>,
    form: MultipartForm<Upload>,
    reader: Reader,
    person: Person,
) -> Result<HttpResponse, WebError> {
    let form = form.into_inner();
    let arrival = Arrival::of(&form, reader.0)?;
    let files = form.files;
    if files.is_empty() || files.iter().all(|f| f.size == 0) {
        return Err(ReadError::Empty.into());
    }
    let (store, by) = (shop.store.clone(), person.clone());
    let made: Vec<JobId> = shop
        .workshop
        .arrive(&person, move |stages, stop| {
            let mut made = Vec::new();
            for file in &files {
                let name = file
                    .file_name
                    .clone()
                    .unwrap_or_else(|| "pasted.png".to_owned());
                let bytes = std::fs::read(file.file.path())
                    .map_err(|e| WebError::Internal(e.to_string()))?;
                let brought = bring_in((&store, stages), (&name, &bytes), arrival, &by, stop);
                let job = brought.map_err(|e| match e {
                    WebError::Picture(why) => {
                        let before = if made.is_empty() {
                            String::new()
                        } else {
                            format!(" The {} before it are in the list.", made.len())
                        };
                        WebError::Field {
                            field: "file",
                            message: format!("“{name}”: {why}.{before}"),
                        }
                    }
                    other => other,
                })?;
                made.push(job);
            }
            Ok(made)
        })
        .await?;
    let target = match made.as_slice() {
        [one] => format!("/jobs/{one}"),
        _ => "/".to_owned(),
    };
    Ok(HttpResponse::Created()
        .insert_header(("HX-Redirect", target.clone()))
        .insert_header(("Location", target))
        .finish())
}

pub(crate) fn routes(config: &mut web::ServiceConfig) {
    config.service(create);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn titles_come_from_file_names() {
        assert_eq!(title("old_lock-sign.final.png"), "Old lock sign final");
        assert_eq!(title(".png"), "Untitled");
    }

    #[test]
    fn a_picture_arrives_as_large_as_fits() {
        let mm = |size: Size| (size.width.get().round(), size.height.get().round());
        let fit = Arrival::Fit(Mm::new(600.0), Mm::new(300.0));
        assert_eq!(mm(fit.size((200, 100), None)), (600.0, 300.0));
        assert_eq!(mm(fit.size((200, 200), None)), (300.0, 300.0));
        assert_eq!(mm(fit.size((400, 100), None)), (600.0, 150.0));
        assert_eq!(
            mm(Arrival::Wide(Mm::new(80.0)).size((200, 100), None)),
            (80.0, 40.0)
        );
        assert_eq!(
            mm(Arrival::Stated.size((254, 127), Some(254.0))),
            (25.0, 13.0)
        );
    }

    #[test]
    fn a_one_pixel_picture_gets_a_size_that_can_be_made() {
        let size = fitting(Size::at_ppi(1, 3, 96.0));
        assert!((size.width.get() - 1.0).abs() < 1e-9 && (size.height.get() - 3.0).abs() < 1e-9);
    }
}
