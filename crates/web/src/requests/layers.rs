//! Changes of layers and materials.

use super::*;

const INK: &str = "ink=%23000000";

#[actix_web::test]
async fn every_change_of_layers_is_taken_or_refused_beside_its_control() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let path = format!("/jobs/{job}/layers");
    let listed = crate::materials::stocked::all(&store).unwrap();
    let name = |n: usize| {
        listed[n]
            .material
            .name
            .replace(' ', "+")
            .replace(',', "%2C")
    };
    let taken = [
        format!("do=material&value={}", name(1)),
        format!("do=layer-material&{INK}&value={}", name(2)),
        format!("do=layer-material&{INK}&value="),
        format!("do=operation&{INK}&value=score"),
        format!("do=operation&{INK}&value="),
        format!("do=colour&{INK}&value=Red"),
        format!("do=cut&{INK}&value=false"),
        format!("do=cut&{INK}&value=true"),
        format!("do=show&{INK}&value=false"),
        "do=order&value=%23000000".to_owned(),
        "do=meet&value=overlap".to_owned(),
        "do=margin&value=0.5mm".to_owned(),
        "do=pair&lower=%23000000&upper=%23ffffff&meet=stacked&margin=".to_owned(),
        "do=pair&lower=%23000000&upper=%23ffffff&meet=&margin=0.7".to_owned(),
        "do=registration&value=on".to_owned(),
        "do=registration-size&value=8".to_owned(),
        "do=registration-gap&value=5mm".to_owned(),
        "do=registration".to_owned(),
        "do=negative&value=yes".to_owned(),
        "do=border&value=20mm".to_owned(),
        "do=bridge-add&ends=1,1,5,5&width=2mm".to_owned(),
        "do=bridge-move&ends=1,1,6,6&nth=0".to_owned(),
        "do=bridge-remove&nth=0".to_owned(),
        "do=bridge-add&ends=1,1,5,5&width=2mm".to_owned(),
        "do=bridges-clear".to_owned(),
        "do=negative&value=auto".to_owned(),
        "do=kerf&value=on".to_owned(),
        format!("do=clearance&{INK}&value=snug"),
        format!("do=clearance&{INK}&value="),
        "do=recolour&items=0&to=new".to_owned(),
        format!("do=inlay&items=0&material={}&fit=loose", name(2)),
        format!("do=backing&material={}&margin=3mm", name(3)),
        format!(
            "do=stones&items=0&size=SS6&second=1.2mm&laid=hexagonal&gap=0.5&wider=0.3&material={}",
            name(0)
        ),
    ];
    takes(&app, &store, job, &path, &taken).await;
    let refused = [
        ("mm", "do=banana", UNREAD, "could not be read"),
        ("mm", "do=meet&value=banana", UNREAD, "could not be read"),
        ("mm", "do=negative&value=maybe", UNREAD, "could not be read"),
        (
            "mm",
            "do=cut&ink=teal&value=on",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "do=cut&ink=%23000000&value=maybe",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "do=operation&ink=%23000000&value=nibble",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "do=order&value=%23000000,teal",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "do=recolour&items=0,x&to=0",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "do=bridge-add&ends=1,2,3&width=2",
            UNREAD,
            "3 figures where 4",
        ),
        (
            "mm",
            "do=bridge-add&ends=1,2,3,nan&width=2",
            UNREAD,
            "not finite",
        ),
        (
            "mm",
            "do=bridge-add&ends=1,1,1,1&width=2",
            REFUSED,
            "problem-bridges",
        ),
        (
            "mm",
            "do=stones&items=0&size=SS11&laid=along&gap=0.5&wider=0.3&material=x",
            REFUSED,
            "problem-stones",
        ),
        (
            "mm",
            "do=stones&items=0&size=SS6&second=SS6&laid=along&gap=0.5&wider=0.3&material=x",
            REFUSED,
            "leave the second empty",
        ),
        (
            "mm",
            "do=stones&items=0&size=0.1mm&laid=rows&gap=0.5&wider=0.3&material=x",
            REFUSED,
            "problem-stones",
        ),
        (
            "mm",
            "do=stones&items=0&size=SS6&laid=spiral&gap=0.5&wider=0.3&material=x",
            UNREAD,
            "could not be read",
        ),
        (
            "mm",
            "do=stone-price&ink=%23123456&across=2&value=4",
            REFUSED,
            "these stones are no more",
        ),
        ("mm", "do=bridge-remove&nth=7", REFUSED, "problem-bridges"),
        (
            "mm",
            "do=bridge-move&ends=1,1,6,6&nth=7",
            REFUSED,
            "problem-bridges",
        ),
        (
            "mm",
            "do=bridges&count=2&width=2mm",
            REFUSED,
            "choose the sheet first",
        ),
        ("mm", "do=margin&value=wide", REFUSED, "problem-margin"),
        ("mm", "do=margin&value=900mm", REFUSED, "is outside"),
        (
            "in",
            "do=margin&value=100in",
            REFUSED,
            "of 100 in is outside",
        ),
        ("mm", "do=border&value=px", REFUSED, "problem-bridges"),
        (
            "mm",
            "do=material&value=Cheese",
            REFUSED,
            "no material called cheese",
        ),
        (
            "mm",
            "do=recolour&items=&to=0",
            REFUSED,
            "click shapes on the bench",
        ),
        ("mm", "do=recolour&items=99&to=0", REFUSED, "problem-tidy"),
        (
            "mm",
            "do=inlay&items=0&material=Cheese&fit=snug",
            REFUSED,
            "no material called",
        ),
        (
            "mm",
            "do=clearance&ink=%23000000&value=tight",
            REFUSED,
            "problem-inlay",
        ),
    ];
    refuses(&app, &store, job, &path, refused).await;
    // What changes nothing is no step.
    let revision = store.job(job).unwrap().revision;
    let form = format!("revision={revision}&line=layers&do=kerf&value=on");
    assert_eq!(post(&app, &path, "mm", form).await.0, StatusCode::OK);
    assert_eq!(store.job(job).unwrap().revision, revision);
}
