//! A material as it is typed: each figure by itself, and what cannot be used beside its own field.

use inky_core::material::Tool;

use super::*;

/// What the sheet shows in a field.
fn shown(page: &str, id: &str) -> String {
    let field = page.split(&format!("id=\"m-{id}\"")).nth(1).unwrap();
    let value = field.split("value=\"").nth(1).unwrap();
    value.split('"').next().unwrap().to_owned()
}

#[actix_web::test]
async fn a_figure_that_cannot_be_is_told_beside_its_field_and_keeps_no_other_from_being_taken() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let all = || crate::materials::stocked::all(&store).unwrap();
    let vinyl = all().remove(0);
    let (id, before) = (vinyl.id, vinyl.material);
    let address = format!("/materials/{id}");
    let form = "name=Film&kerf=9in&gap=wide&hole=0.1&price=12,5&parts=-3";
    let (status, page) = post(&app, &address, "in", form).await;
    assert_eq!(status, StatusCode::OK, "{page}");
    for (field, typed, why) in [
        ("kerf", "9in", "a kerf of 9 in is outside 0 to 0.197 in"),
        ("gap", "wide", "wide"),
        ("parts", "-3", "is no number of things"),
    ] {
        assert_eq!(shown(&page, field), typed, "what was typed stays");
        let problem = page.split(&format!("id=\"problem-m-{field}\"")).nth(1);
        assert!(problem.is_some_and(|p| p.contains(why)), "{field}: {page}");
    }
    let now = all().into_iter().find(|m| m.id == id).unwrap().material;
    assert_eq!(now.name, "Film");
    assert_eq!((now.limits.hole, now.price), (2.54, 12.5));
    assert_eq!((now.kerf, now.limits.gap), (before.kerf, before.limits.gap));
    assert_eq!(now.limits.parts, before.limits.parts);
    assert_eq!(page.matches("aria-invalid").count(), 3);
    // A name that another one has.
    let taken = all()
        .into_iter()
        .find(|m| m.id != id)
        .unwrap()
        .material
        .name;
    let (_, page) = post(
        &app,
        &address,
        "mm",
        format!("name={}", taken.replace(' ', "+")),
    )
    .await;
    assert!(
        page.contains("already") && shown(&page, "name") == taken,
        "{page}"
    );
    assert_eq!(
        all()
            .into_iter()
            .find(|m| m.id == id)
            .unwrap()
            .material
            .name,
        "Film"
    );
    // Powers that contradict each other.
    let (_, page) = post(&app, &address, "mm", "tool=laser&cut_least=60&cut_most=50").await;
    assert!(page.contains("id=\"problem-m-cut_least\""), "{page}");
    assert_eq!(
        (shown(&page, "cut_least"), shown(&page, "cut_most")),
        ("60".into(), "50".into())
    );
}

#[actix_web::test]
async fn of_a_stock_with_a_bad_figure_the_others_are_kept() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let vinyl = crate::materials::stocked::all(&store).unwrap().remove(0);
    let now = || {
        crate::materials::stocked::one(&store, vinyl.id)
            .unwrap()
            .material
            .stocks
    };
    let row = |kind: &str, width: &str, length: &str, margin: &str| {
        format!(
            "&stock_kind={kind}&stock_name=&stock_width={width}&stock_length={length}&stock_margin={margin}"
        )
    };
    let address = format!("/materials/{}", vinyl.id);
    let good = format!("x={}", row("sheet", "300", "200", "5"));
    assert_eq!(post(&app, &address, "mm", good).await.0, StatusCode::OK);
    let bad = format!(
        "x={}{}",
        row("sheet", "310", "long", "6"),
        row("offcut", "0.2", "80", "2")
    );
    let (_, page) = post(&app, &address, "mm", bad).await;
    let [only] = now().try_into().unwrap();
    assert_eq!((only.width, only.length, only.margin), (310.0, 200.0, 6.0));
    for problem in ["problem-stock_length-1", "problem-stock_width-2"] {
        assert!(
            page.contains(&format!("id=\"{problem}\"")),
            "{problem}: {page}"
        );
    }
    // More rows than are listed: told, and the list stays as it was.
    let many = format!("x={}", row("sheet", "300", "200", "5").repeat(201));
    let (_, page) = post(&app, &address, "mm", many).await;
    assert!(page.contains("201 stocks are more than the 200"), "{page}");
    assert_eq!(now().len(), 1);
    // An emptied width takes it out.
    let none = format!("x={}", row("sheet", "", "200", "6"));
    post(&app, &address, "mm", none).await;
    assert!(now().is_empty());
}

#[actix_web::test]
async fn the_field_of_a_trial_that_is_pointed_at_is_what_is_cut_with() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let all = || materials::stocked::all(&store).unwrap();
    let of = |tool: Tool| {
        let listed = all().into_iter().find(|m| m.material.tool == tool);
        listed.unwrap().id
    };
    let (film, ply) = (of(Tool::Blade), of(Tool::Laser));
    let now = |id: i64| materials::stocked::one(&store, id).unwrap().material;
    let (_, page) = get(&app, &format!("/materials/{film}/trials"), "mm").await;
    assert!(
        page.contains("Overcut 0.50 mm") && !page.contains("Kerf from"),
        "{page}"
    );
    let (_, page) = get(&app, &format!("/materials/{ply}/trials"), "in").await;
    assert!(
        page.contains("Kerf from") && page.contains("grid-trial"),
        "{page}"
    );
    assert!(!page.contains("Overcut"), "{page}");
    for (id, form) in [
        (film, "set=offset&value=0.35"),
        (film, "set=overcut&value=1.5"),
        (ply, "set=beam&power=60&speed=12"),
    ] {
        let (status, words) = post(&app, &format!("/materials/{id}/pointed"), "mm", form).await;
        assert_eq!(status, StatusCode::NO_CONTENT, "{form}: {words}");
    }
    let blade = now(film).blade.unwrap();
    assert_eq!((blade.offset, blade.overcut), (0.35, 1.5));
    let cut = now(ply).laser.unwrap().cut;
    assert_eq!((cut.least, cut.most, cut.speed), (60.0, 60.0, 12.0));
    for (id, form, told) in [
        (film, "set=offset&value=99", "a blade offset"),
        (film, "set=beam&power=60&speed=12", "another tool"),
        (ply, "set=overcut&value=1", "another tool"),
        (ply, "set=beam&power=60", "a speed"),
        (ply, "set=banana&value=1", "could not be read"),
    ] {
        let before = (now(film), now(ply));
        let (status, words) = post(&app, &format!("/materials/{id}/pointed"), "mm", form).await;
        assert!(status.is_client_error(), "{form}: {status}");
        assert!(words.to_lowercase().contains(told), "{form}: {words}");
        assert_eq!((now(film), now(ply)), before, "{form}");
    }
    for (id, form) in [
        (film, "machine=2&what=knife"),
        (film, "machine=2&what=grid"),
        (ply, "machine=1&what=comb"),
    ] {
        let (status, words) = post(&app, &format!("/materials/{id}/trial"), "mm", form).await;
        assert_eq!(status, REFUSED, "{form}: {words}");
    }
    let (status, words) = post(
        &app,
        &format!("/materials/{ply}/trial"),
        "mm",
        "machine=2&what=grid",
    )
    .await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{words}");
    let run = store.queue(Some(2)).unwrap().remove(0);
    assert!(run.title.starts_with("Power and speed"), "{}", run.title);
    assert!(run.stops.contains("a piece of 76 mm"), "{}", run.stops);
}
