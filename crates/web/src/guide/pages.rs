//! The pages of the guide, from Markdown.

use std::sync::LazyLock;

use pulldown_cmark::{Event, Options, Parser, html};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "$CARGO_MANIFEST_DIR/../../docs/guide"]
struct Sources;

/// A page of the guide.
pub(crate) struct Page {
    /// Its word in addresses.
    pub(crate) slug: String,
    pub(crate) title: String,
    /// Its body, without the title.
    pub(crate) html: String,
    /// Its words alone, to be searched.
    pub(crate) words: String,
}

/// All pages, in the order of their numbers.
pub(crate) static PAGES: LazyLock<Vec<Page>> = LazyLock::new(|| {
    let mut names: Vec<_> = Sources::iter().collect();
    names.sort_unstable();
    let pages = names.iter().filter_map(|name| {
        let source = Sources::get(name)?;
        let source = String::from_utf8_lossy(&source.data).into_owned();
        let stem = name.strip_suffix(".md")?;
        let slug = stem.split_once('-').map_or(stem, |(_, slug)| slug);
        Some(page(slug, &source))
    });
    pages.collect()
});

fn page(slug: &str, source: &str) -> Page {
    let (title, body) = source.split_once('\n').unwrap_or((source, ""));
    let parsed: Vec<Event<'_>> =
        Parser::new_ext(body, Options::ENABLE_HEADING_ATTRIBUTES).collect();
    let mut words = String::new();
    for event in &parsed {
        match event {
            Event::Text(text) | Event::Code(text) => words.push_str(text),
            Event::SoftBreak | Event::HardBreak | Event::End(_) => words.push(' '),
            _ => {}
        }
    }
    let mut html = String::new();
    html::push_html(&mut html, parsed.into_iter());
    Page {
        slug: slug.to_owned(),
        title: title.trim_start_matches('#').trim().to_owned(),
        html,
        words: words.split_whitespace().collect::<Vec<_>>().join(" "),
    }
}

/// Words around the first place where something is found, for a list of what was found.
pub(crate) fn around(words: &str, wanted: &str) -> String {
    const BEFORE: usize = 40;
    const IN_ALL: usize = 160;
    let at = words.to_lowercase().find(wanted).unwrap_or(0);
    let chars: Vec<char> = words.chars().collect();
    // Counted in characters; case may change how many bytes there are.
    let at = words
        .to_lowercase()
        .get(..at)
        .map_or(0, |before| before.chars().count());
    let from = at.saturating_sub(BEFORE).min(chars.len());
    let to = (from + IN_ALL).min(chars.len());
    let cut = |at_end: bool| if at_end { "" } else { "… " };
    let told: String = chars.get(from..to).unwrap_or_default().iter().collect();
    format!("{}{told}{}", cut(from == 0), cut(to == chars.len()))
}

/// Pages that hold all of some words, in their order.
pub(crate) fn found(words: &str) -> Vec<&'static Page> {
    let wanted: Vec<String> = words.split_whitespace().map(str::to_lowercase).collect();
    let holds = |page: &&Page| {
        let text = format!("{} {}", page.title, page.words).to_lowercase();
        wanted.iter().all(|word| text.contains(word.as_str()))
    };
    PAGES.iter().filter(holds).collect()
}
