//! Vector files that become jobs: their layers stay apart and keep their names.

use super::*;

#[actix_web::test]
async fn layers_of_one_colour_stay_apart_and_keep_their_names() {
    let (_folder, shop, _) = shop();
    let store = shop.store.clone();
    let app = app(shop).await;
    // Figures by ezdxf: two layers of the same red, see `scripts/reference/vector_kinds.py`.
    let file = include_bytes!("../../../formats/tests/kinds/dxf-layers-one-colour.dxf");
    let head =
        "--edge\r\nContent-Disposition: form-data; name=\"file\"; filename=\"sign.dxf\"\r\n\r\n";
    let body = [head.as_bytes(), file, b"\r\n--edge--\r\n"].concat();
    let request = TestRequest::post()
        .uri("/jobs")
        .insert_header(("Content-Type", "multipart/form-data; boundary=edge"))
        .set_payload(body);
    let (status, words) = answered(&app, request, "mm").await;
    assert_eq!(status, StatusCode::CREATED, "{words}");
    let recipe: Recipe = serde_json::from_str(&store.step(2).unwrap().recipe).unwrap();
    let mut names: Vec<&str> = recipe.inks.names.iter().map(|n| n.name.as_str()).collect();
    names.sort_unstable();
    let page = get(&app, "/jobs/2/layers", "mm").await.1;
    for name in &names {
        assert!(page.contains(name), "{name}: {page}");
    }
    assert_eq!(names, ["CUT", "ENGRAVE"]);
}
