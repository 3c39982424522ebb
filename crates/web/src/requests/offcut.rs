//! Odd pieces of stock: what is changed of them, what is refused, and how they become stock.

use inky_core::sheet::choice::Copies;
use inky_core::stock::{Stock, StockKind};

use super::*;

const BODY: &str = r#"{"material":1,"name":"Plate","paper":"A4","corners":null,"margin":5.0,"flaws":[],"found":{"shape":{"outer":[[0,0],[400,0],[400,300],[0,300]],"holes":[[[100,100],[120,100],[120,120]]]},"off":0.4},"trouble":"","size":[10,10],"kept":false}"#;
const UNFOUND: &str = r#"{"material":1,"name":"Plate","paper":"A4","corners":null,"margin":5.0,"flaws":[],"found":null,"trouble":"no sheet","size":[10,10],"kept":false}"#;

fn stocks(store: &Store) -> Vec<Stock> {
    let all = materials::stocked::all(store).unwrap();
    all.into_iter().find(|m| m.id == 1).unwrap().material.stocks
}

#[actix_web::test]
async fn a_piece_is_changed_and_kept_once_and_what_cannot_be_is_refused() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let id = store.add_offcut(BODY, b"no picture", b"jpeg").unwrap();
    let address = format!("/offcuts/{id}");
    for (form, words) in [
        (
            "do=flaw&x=900&y=10&across=5",
            "from the left of 900 mm is outside 0 to 400 mm",
        ),
        ("do=flaw&x=9&y=10&across=0", "width"),
        ("do=flaw&x=wide&y=10&across=5", "wide"),
        ("do=margin&value=900", "A margin of 900 mm is outside"),
        ("do=paper&value=B9", "a sheet of the list"),
    ] {
        let (status, page) = post(&app, &address, "mm", form).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{form}: {page}");
        assert!(page.contains(words), "{form}: {page}");
        assert_eq!(store.offcut(id).unwrap().unwrap(), BODY, "{form}");
    }
    // A photograph that cannot be read any more is told, and nothing is lost.
    let (status, _) = post(&app, &address, "mm", "do=corners&value=1,1,9,1,9,9,1,9").await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    for form in [
        "do=name&value=Ply+plate",
        "do=margin&value=7",
        "do=flaw&x=200&y=150&across=30",
        "do=hole-off&value=0",
        "do=hole-off&value=7",
        "do=flaw-off&value=7",
    ] {
        let (status, page) = post(&app, &address, "mm", form).await;
        assert_eq!(status, StatusCode::OK, "{form}: {page}");
    }
    let before = stocks(&store).len();
    for _ in 0..2 {
        let (status, _) = post(&app, &format!("{address}/keep"), "mm", "").await;
        assert_eq!(status, StatusCode::NO_CONTENT);
    }
    let all = stocks(&store);
    assert_eq!(all.len(), before + 1);
    let kept = all.last().unwrap();
    assert_eq!(
        (kept.name.as_str(), kept.margin, kept.kind),
        ("Ply plate", 7.0, StockKind::Offcut)
    );
    let shape = kept.shape.as_ref().unwrap();
    assert_eq!((shape.holes.len(), shape.picture), (1, Some(id)));
    assert!(
        store.offcut_photograph(id).unwrap().unwrap().is_empty(),
        "it is not needed any more"
    );
    // It is kept: no change of it, and throwing it away leaves it there.
    let (status, _) = post(&app, &address, "mm", "do=name&value=Other").await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    post(&app, &format!("{address}/drop"), "mm", "").await;
    assert_eq!(
        get(&app, &format!("{address}/picture"), "mm").await.0,
        StatusCode::OK
    );
    // Its outline says how large it is, in the list of its material too.
    let row = |width: &str| {
        format!(
            "stock_kind=offcut&stock_name=Plate&stock_width={width}&stock_length=300&stock_margin=3"
        )
    };
    let listed = all.iter().map(|s| {
        format!(
            "stock_kind={}&stock_name={}&stock_width={}&stock_length={}&stock_margin={}",
            s.kind.word(),
            s.name,
            s.width,
            s.length,
            s.margin
        )
    });
    let mut rows: Vec<String> = listed.collect();
    *rows.last_mut().unwrap() = row("350");
    let (_, page) = post(&app, "/materials/1", "mm", rows.join("&")).await;
    assert!(page.contains("its outline says how large"), "{page}");
    *rows.last_mut().unwrap() = row("400.00");
    post(&app, "/materials/1", "mm", rows.join("&")).await;
    let now = stocks(&store);
    let kept = now.last().unwrap();
    assert_eq!((kept.width, kept.margin), (400.0, 3.0));
    assert!(kept.shape.is_some());
}

#[actix_web::test]
async fn a_piece_that_is_not_found_is_no_stock_and_can_be_thrown_away() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let id = store.add_offcut(UNFOUND, b"no picture", b"").unwrap();
    let address = format!("/offcuts/{id}");
    let (_, page) = get(&app, "/materials/1", "mm").await;
    assert!(
        page.contains("Plate, not kept yet"),
        "it is found again: {page}"
    );
    let (status, page) = get(&app, &address, "mm").await;
    assert!(
        status == StatusCode::OK && page.contains("no sheet") && page.contains("data-corner"),
        "{page}"
    );
    let (status, _) = post(&app, &format!("{address}/keep"), "mm", "").await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(
        get(&app, &format!("{address}/picture"), "mm").await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        get(&app, &format!("{address}/photograph"), "mm").await.0,
        StatusCode::UNPROCESSABLE_ENTITY
    );
    post(&app, &format!("{address}/drop"), "mm", "").await;
    assert_eq!(get(&app, &address, "mm").await.0, StatusCode::NOT_FOUND);
    assert_eq!(
        post(&app, "/offcuts/77/keep", "mm", "").await.0,
        StatusCode::NOT_FOUND
    );
}

#[actix_web::test]
async fn a_job_takes_what_the_shop_has_now_and_what_it_leaves_is_kept_once() {
    let (_folder, shop, job) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    let id = store.add_offcut(BODY, b"", b"").unwrap();
    post(&app, &format!("/offcuts/{id}/keep"), "mm", "").await;
    let n = stocks(&store).len() - 1;
    let (status, page) = post(
        &app,
        &format!("/jobs/{job}/size"),
        "mm",
        format!("revision=0&do=stock&value={n}"),
    )
    .await;
    assert_eq!(status, StatusCode::OK, "{page}");
    let recipe = crate::job::saving::recipe(&store, job).unwrap();
    assert!(recipe.layers.stock.is_some_and(|s| s.shape.is_some()));
    assert_eq!(recipe.sheet.copies, Copies::Number(1));
    let (_, page) = get(&app, &format!("/jobs/{job}/sheet"), "mm").await;
    let key = page
        .split("data-sheets=\"")
        .nth(1)
        .unwrap()
        .split('"')
        .next()
        .unwrap();
    let (status, drawn) = get(&app, &format!("/jobs/{job}/sheets/{key}/0.json"), "mm").await;
    assert!(
        status == StatusCode::OK && drawn.contains("\"outline\":\"M0,0"),
        "{drawn}"
    );
    for _ in 0..2 {
        let rest = format!("/jobs/{job}/sheets/{key}/0/rest");
        let (status, page) = post(&app, &rest, "mm", "").await;
        assert!(
            status == StatusCode::OK && page.contains("Plate, rest"),
            "{page}"
        );
    }
    let names: Vec<String> = stocks(&store).into_iter().map(|s| s.name).collect();
    assert_eq!(
        names.iter().filter(|n| n.starts_with("Plate")).count(),
        1,
        "{names:?}"
    );
}
