//! The guide holds together: its links lead somewhere, its pictures are there, its words are found.

use super::pages::{PAGES, found};
use crate::job::line::Line;

/// Addresses in a page's links and pictures.
fn addresses(html: &str) -> Vec<String> {
    let after = |mark: &str| {
        let parts = html.split(mark).skip(1);
        let ends = parts.filter_map(|rest| rest.split('"').next());
        ends.map(str::to_owned).collect::<Vec<_>>()
    };
    [after("href=\""), after("src=\"")].concat()
}

/// Whether an address names a page, and the place on it where it names one.
fn leads(address: &str) -> bool {
    let Some(rest) = address.strip_prefix("/guide/") else {
        return false;
    };
    let (slug, place) = rest.split_once('#').unwrap_or((rest, ""));
    PAGES.iter().any(|page| {
        let there = place.is_empty() || page.html.contains(&format!("id=\"{place}\""));
        page.slug == slug && there
    })
}

#[test]
fn links_lead_to_pages_and_pictures_that_there_are() {
    assert_eq!(PAGES.len(), 18);
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/screenshots/");
    for page in PAGES.iter() {
        for address in addresses(&page.html) {
            let there = match address.strip_prefix("/guide/pictures/") {
                Some(name) => std::path::Path::new(folder).join(name).exists(),
                None => leads(&address),
            };
            assert!(there, "{}: {address}", page.slug);
        }
    }
    for (_, line) in Line::numbered() {
        assert!(leads(line.guide()), "{}: {}", line.name(), line.guide());
    }
}

#[test]
fn words_are_found_wherever_they_stand() {
    let slugs =
        |words: &str| -> Vec<&str> { found(words).iter().map(|p| p.slug.as_str()).collect() };
    assert_eq!(slugs("bridges islands"), ["stencil"]);
    assert!(slugs("KERF").contains(&"inlay-badge"));
    assert!(slugs("no such word here").is_empty());
    let around = super::pages::around("Ünder the bridge, an island", "island");
    assert!(around.contains("island"), "{around}");
}
