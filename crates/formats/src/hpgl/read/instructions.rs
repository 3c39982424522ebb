//! HPGL text to instructions: two letters and what follows them.
//!
//! Source: HP-GL/2 and HP RTL Reference Guide, "HP-GL/2 syntax". Letters have no case; an
//! instruction ends at a semicolon or at the next one.

use super::broken;
use crate::vector::VectorError;

/// The end of a label, unless a file sets another.
const ETX: char = '\u{3}';

/// One instruction.
pub(super) struct Instruction<'a> {
    /// Its two letters, upper case.
    pub(super) word: [char; 2],
    /// What follows, up to its end.
    pub(super) text: &'a str,
}

/// Instructions in the order of the file.
pub(super) struct Instructions<'a> {
    rest: &'a str,
    label_end: char,
}

/// Text after switches from another language, `ESC % … A` or `B`, and a reset, `ESC E`.
pub(super) fn after_escapes(mut text: &str) -> &str {
    while let Some(rest) = text.strip_prefix('\u{1b}') {
        let end = rest.find(|c: char| c.is_ascii_uppercase());
        text = end.map_or("", |n| &rest[n + 1..]).trim_start();
    }
    text
}

/// Some characters of what cannot be read.
pub(super) fn shown(text: &str) -> String {
    text.chars().take(12).filter(|c| !c.is_control()).collect()
}

impl<'a> Instructions<'a> {
    pub(super) const fn of(text: &'a str) -> Self {
        Self {
            rest: text,
            label_end: ETX,
        }
    }

    /// The next one.
    ///
    /// # Errors
    /// Where there are no two letters.
    pub(super) fn next(&mut self) -> Result<Option<Instruction<'a>>, VectorError> {
        let idle = |c: char| c.is_whitespace() || c == ';' || c == '\0';
        self.rest = self.rest.trim_start_matches(idle);
        self.rest = after_escapes(self.rest).trim_start_matches(idle);
        let mut letters = self.rest.chars();
        let word = match (letters.next(), letters.next()) {
            (None, _) => return Ok(None),
            (Some(a), Some(b)) if a.is_ascii_alphabetic() && b.is_ascii_alphabetic() => {
                [a.to_ascii_uppercase(), b.to_ascii_uppercase()]
            }
            _ => {
                let why = format!("'{}' is no instruction", shown(self.rest));
                return Err(broken(why));
            }
        };
        let after = &self.rest[2..];
        let (text, rest) = match word {
            ['L', 'B'] => split_after(after, self.label_end),
            ['D', 'T'] => {
                self.label_end = after.chars().next().filter(|c| *c != ';').unwrap_or(ETX);
                let taken = self.label_end.len_utf8().min(after.len());
                let taken = if self.label_end == ETX && after.starts_with(';') {
                    0
                } else {
                    taken
                };
                let (more, rest) = split_before(&after[taken..], |c| c == ';');
                (&after[..taken + more.len()], rest)
            }
            ['P', 'E'] => split_before(after, |c| c == ';'),
            ['C', 'O'] => {
                let open = after.find('"').map(|n| n + 1);
                let close = open.and_then(|n| after[n..].find('"').map(|m| n + m + 1));
                after.split_at(close.unwrap_or(after.len()))
            }
            // A symbol may be any character.
            ['S', 'M'] => {
                let taken = after.chars().next().map_or(0, char::len_utf8);
                after.split_at(taken)
            }
            _ => split_before(after, |c| {
                c == ';' || c.is_ascii_alphabetic() || c == '\u{1b}'
            }),
        };
        self.rest = rest;
        Ok(Some(Instruction { word, text }))
    }
}

fn split_before(text: &str, ends: impl Fn(char) -> bool) -> (&str, &str) {
    text.split_at(text.find(ends).unwrap_or(text.len()))
}

fn split_after(text: &str, end: char) -> (&str, &str) {
    text.split_at(text.find(end).map_or(text.len(), |n| n + end.len_utf8()))
}
