//! A block of G-code to its words: a letter and a figure each, and its comment.
//!
//! Source: NIST IR 6556, section 3.3: spaces mean nothing outside comments, letters have no case.

use crate::vector::VectorError;

/// A letter and its figure.
pub(super) type Word = (char, f64);

/// One line.
#[derive(Default)]
pub(super) struct Block {
    pub(super) words: Vec<Word>,
    /// Text of its last comment.
    pub(super) comment: Option<String>,
}

/// Figures beyond this are no places, in the file's unit.
const FAR: f64 = 1e6;

pub(super) fn broken(line: usize, why: impl std::fmt::Display) -> VectorError {
    VectorError::Broken {
        format: "G-code",
        why: format!("line {line}: {why}"),
    }
}

/// Reads line `number` of a file.
///
/// # Errors
/// Where a word is none, or asks for more than figures.
pub(super) fn block(line: &str, number: usize) -> Result<Block, VectorError> {
    let (line, after) = line
        .split_once(';')
        .map_or((line, None), |(l, c)| (l, Some(c)));
    let mut block = Block {
        comment: after.map(|c| c.trim().to_owned()).filter(|c| !c.is_empty()),
        ..Block::default()
    };
    // Comments out, then spaces.
    let mut plain = String::with_capacity(line.len());
    let mut rest = line;
    while let Some((before, inside)) = rest.split_once('(') {
        plain.push_str(before);
        let (comment, after) = inside
            .split_once(')')
            .ok_or_else(|| broken(number, "a comment has no end"))?;
        block.comment = Some(comment.trim().to_owned()).filter(|c| !c.is_empty());
        rest = after;
    }
    plain.push_str(rest);
    plain.retain(|c| !c.is_whitespace() && c != '\u{feff}');
    // A checksum ends what some controllers are sent.
    let mut rest = plain.split('*').next().unwrap_or_default();
    while let Some(letter) = rest.chars().next() {
        rest = &rest[letter.len_utf8()..];
        match letter {
            // The ends of a tape, and a block that a switch may leave out.
            '%' | '/' => continue,
            '#' | '[' | '=' => {
                let why = "parameters and expressions are not read; write the figures out";
                return Err(broken(number, why));
            }
            _ if !letter.is_ascii_alphabetic() => {
                return Err(broken(number, format!("'{letter}' is no word")));
            }
            _ => {}
        }
        let end = rest
            .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | '-' | '+')))
            .unwrap_or(rest.len());
        let asks = rest[end..].starts_with(['#', '[']);
        let value = rest[..end].parse::<f64>().ok().filter(|v| v.abs() < FAR);
        match value {
            Some(value) => block.words.push((letter.to_ascii_uppercase(), value)),
            None if asks => {
                let why = "parameters and expressions are not read; write the figures out";
                return Err(broken(number, why));
            }
            None if named_part(letter, &block.words) => {
                return Err(broken(number, "subprograms are not read; write them out"));
            }
            None => return Err(broken(number, format!("{letter} has no figure"))),
        }
        rest = &rest[end..];
    }
    Ok(block)
}

/// Whether a word without a figure is of a subprogram: a name after `O`, or what is done with one.
fn named_part(letter: char, before: &[Word]) -> bool {
    letter.eq_ignore_ascii_case(&'O') || before.iter().any(|w| w.0 == 'O')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_is_read_as_the_standard_has_it() {
        // NIST IR 6556, 3.3.2: the first two are the same to an interpreter.
        let odd = block("g0x +0. 12 34y 7", 1).unwrap();
        assert_eq!(odd.words, [('G', 0.0), ('X', 0.1234), ('Y', 7.0)]);
        let line = block("N10 G1 (first) X-.5 (second) ; third", 1).unwrap();
        assert_eq!(line.words, [('N', 10.0), ('G', 1.0), ('X', -0.5)]);
        assert_eq!(line.comment.as_deref(), Some("second"));
        assert_eq!(block("O0001 (PART)", 1).unwrap().words, [('O', 1.0)]);
        assert_eq!(block("N3 M5*36", 1).unwrap().words.len(), 2);
        for (text, why) in [
            ("#1=5", "parameters"),
            ("G1 X[1+2]", "parameters"),
            ("G1 X#3", "parameters"),
            ("o100 sub", "subprograms"),
            ("G1 (open", "no end"),
            ("G1 X", "X has no figure"),
            ("!", "no word"),
        ] {
            let said = block(text, 7).map(|b| b.words).unwrap_err().to_string();
            assert!(said.contains(why) && said.contains("line 7"), "{said}");
        }
    }
}
