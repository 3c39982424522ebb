//! The work order: one page for the workshop.

use super::Paper;
use super::paper::{BOLD, MARGIN, PLAIN, Page};

/// What it says.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Order {
    /// Title of the job.
    pub title: String,
    /// For whom.
    pub client: String,
    /// Headings with their rows of a name and what it is.
    pub parts: Vec<(String, Vec<[String; 2]>)>,
}

/// Where the second column begins, mm.
const COLUMN: f64 = 62.0;
/// Characters that fit in it.
const WIDE: usize = 78;
/// Space kept at the foot, mm.
const FOOT: f64 = 20.0;

/// Writes the order. What does not fit on the page is counted at its foot.
#[must_use]
pub fn write(order: &Order, paper: Paper) -> Vec<u8> {
    let mut page = Page::new(paper);
    page.line((BOLD, 20.0), &order.title);
    page.line((PLAIN, 11.0), &order.client);
    let mut left_out = 0;
    for (heading, rows) in &order.parts {
        if page.down > page.size[1] - FOOT - 14.0 {
            left_out += rows.len();
            continue;
        }
        page.rule();
        page.line((BOLD, 12.0), heading);
        page.down += 1.0;
        for [name, value] in rows {
            let lines = wrapped(value);
            if page.down + 5.0 * lines.len() as f64 > page.size[1] - FOOT {
                left_out += 1;
                continue;
            }
            page.line((PLAIN, 10.0), name);
            for (n, text) in lines.iter().enumerate() {
                if n > 0 {
                    page.down += 4.6;
                }
                page.words((COLUMN, page.down), (PLAIN, 10.0), text);
            }
        }
    }
    if left_out > 0 {
        let at = (MARGIN, page.size[1] - 12.0);
        page.words(at, (PLAIN, 9.0), &format!("and {left_out} more lines"));
    }
    page.done(&order.title)
}

/// Words in lines that fit beside the names.
fn wrapped(text: &str) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in text.split_whitespace() {
        let full = lines
            .last()
            .is_none_or(|l| !l.is_empty() && l.chars().count() + word.chars().count() >= WIDE);
        if full {
            lines.push(String::new());
        }
        if let Some(line) = lines.last_mut() {
            if !line.is_empty() {
                line.push(' ');
            }
            line.push_str(word);
        }
    }
    lines
}
