//! A trial on its way to a machine.

use actix_web::{HttpResponse, post, web};
use inky_core::material::Material;
use inky_core::plan::PlanChoice;
use inky_core::plan::page::Page;
use inky_core::sheet::{comb, knife, trial};
use inky_core::units::Unit;
use inky_store::{MachineId, MaterialId, NewRun};
use serde::Deserialize;

use crate::Shop;
use crate::door::Person;
use crate::error::{WebError, wrong};
use crate::machines::{State, kept, now, stops, to};
use crate::materials::stocked;
use crate::reader::Reader;

/// Which trial.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(rename_all = "lowercase")]
enum What {
    Comb,
    Grid,
    Knife,
}

#[derive(Deserialize)]
struct Form {
    machine: MachineId,
    what: What,
}

impl What {
    /// Its page and what it is called; `None` where the material has no settings for it.
    fn page(self, material: &Material) -> Option<(Page, &'static str)> {
        let (cutting, called) = match self {
            Self::Comb => (comb::comb(material), "Kerf comb"),
            Self::Grid => (trial::grid_alone(material)?, "Power and speed"),
            Self::Knife => (knife::knife(material)?, "Offset and overcut"),
        };
        Some((Page::new(cutting, PlanChoice::default()), called))
    }
}

/// A trial, into a machine's queue.
#[post("/materials/{id}/trial")]
async fn send(
    shop: web::Data<Shop>,
    id: web::Path<MaterialId>,
    form: web::Form<Form>,
    person: Person,
    reader: Reader,
) -> Result<HttpResponse, WebError> {
    let Form { machine, what } = form.into_inner();
    web::block(move || -> Result<(), WebError> {
        let material = stocked::one(&shop.store, *id)?.material;
        let listed = kept::one(&shop.store, machine)?;
        let suits = listed.machine.kind.holds(material.tool);
        let page = what.page(&material).filter(|_| suits);
        let Some((page, called)) = page else {
            return Err(wrong(
                "pointed",
                "this machine has another tool; choose one that cuts it",
            ));
        };
        let mut stop = stops::Stop::of_page(&page, &material.name, &listed.machine)?;
        stop.size = size(&page, reader.0);
        shop.store.add_run(&NewRun {
            machine,
            job: None,
            title: &format!("{called}, {}", material.name),
            person: &person.name,
            stops: &serde_json::to_string(&[stop])?,
            state: &serde_json::to_string(&State::ready(0))?,
            asked: now(),
        })?;
        Ok(())
    })
    .await??;
    Ok(to(machine))
}

/// What it is cut from, in words.
fn size(page: &Page, unit: Unit) -> String {
    let [wide, high] = page.cutting().size.map(|mm| unit.length(mm.ceil(), 0));
    format!("a piece of {wide} × {high}")
}

pub(super) fn routes(config: &mut web::ServiceConfig) {
    config.service(send);
}
