//! What the bench fetches under the key of a result: drawn in the workshop, kept by the browser for ever.

use std::future::{Ready, ready};

use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest, HttpResponse, web};
use inky_store::{JobId, Store};
use serde::Serialize;

use crate::Shop;
use crate::door::Person;
use crate::error::WebError;
use crate::workshop::{OnSheet, Outcome, Stages};

/// A result never changes under its key.
const FOR_EVER: (&str, &str) = ("Cache-Control", "private, max-age=31536000, immutable");

/// A request for something of a result, which its address names by a key.
pub(crate) struct Kept {
    shop: web::Data<Shop>,
    person: Person,
    job: JobId,
    key: String,
    /// Number of the sheet, where one is asked for.
    sheet: usize,
}

impl FromRequest for Kept {
    type Error = actix_web::Error;
    type Future = Ready<Result<Self, Self::Error>>;

    fn from_request(http: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let named = http.match_info();
        let job = named.get("id").and_then(|id| id.parse().ok());
        let (Some(shop), Some(job), Some(key)) =
            (http.app_data::<web::Data<Shop>>(), job, named.get("key"))
        else {
            return ready(Err(WebError::NoPage.into()));
        };
        let sheet = named.get("n").unwrap_or("0").parse();
        let Ok(sheet) = sheet else {
            return ready(Err(WebError::NoPage.into()));
        };
        let person = Person::from_request(http, payload).into_inner();
        ready(person.map(|person| Self {
            shop: shop.clone(),
            person,
            job,
            key: key.to_owned(),
            sheet,
        }))
    }
}

impl Kept {
    /// Figures of the result.
    pub(crate) async fn json<T: Serialize>(
        self,
        draw: impl FnOnce(&Outcome) -> T + Send + 'static,
    ) -> Result<HttpResponse, WebError> {
        let body = self
            .told(move |stages, job, key| Ok(serde_json::to_vec(&draw(&*stages.kept(job, key)?))?));
        Ok(answer("application/json", body.await?))
    }

    /// A picture of the result.
    pub(crate) async fn png(
        self,
        draw: impl FnOnce(&Outcome) -> Result<Vec<u8>, WebError> + Send + 'static,
    ) -> Result<HttpResponse, WebError> {
        let body = self.drawn(move |stages, job, key| draw(&*stages.kept(job, key)?));
        Ok(answer("image/png", body.await?))
    }

    /// Figures of one of its sheets.
    pub(crate) async fn sheet_json<T: Serialize>(
        self,
        draw: impl FnOnce(&OnSheet) -> T + Send + 'static,
    ) -> Result<HttpResponse, WebError> {
        let body = self.of_sheet(move |_, on| Ok(serde_json::to_vec(&draw(on))?));
        Ok(answer("application/json", body.await?))
    }

    /// What is made of one of its sheets.
    pub(crate) async fn of_sheet<T: Send + 'static>(
        self,
        make: impl FnOnce(&Store, &OnSheet) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        let n = self.sheet;
        self.told(move |stages, job, key| {
            let laid = stages.kept_sheets(job, key)?;
            let on = laid.sheets.get(n).ok_or(WebError::NoPage)?;
            make(stages.store(), on)
        })
        .await
    }

    /// Figures take no time where the result is at hand; else they wait for the person's turn.
    async fn told<T: Send + 'static>(
        self,
        draw: impl FnOnce(&Stages, JobId, &str) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        if !self.shop.workshop.holds(&self.key) {
            return self.drawn(draw).await;
        }
        let Self { shop, job, key, .. } = self;
        let draw = move |stages: &Stages| draw(stages, job, &key);
        shop.workshop.beside(draw).await
    }

    async fn drawn<T: Send + 'static>(
        self,
        draw: impl FnOnce(&Stages, JobId, &str) -> Result<T, WebError> + Send + 'static,
    ) -> Result<T, WebError> {
        let Self {
            shop,
            person,
            job,
            key,
            ..
        } = self;
        let draw = move |stages: &Stages| draw(stages, job, &key);
        shop.workshop.run(&person, draw).await
    }
}

/// Something that belongs to a result, or to an original, for good.
pub(crate) fn answer(content: &'static str, body: Vec<u8>) -> HttpResponse {
    HttpResponse::Ok()
        .content_type(content)
        .insert_header(FOR_EVER)
        .body(body)
}
