//! Instructions of HP-GL as they come, byte by byte: two letters, numbers, and an end.
//!
//! A number is complete with the byte after it, so a polyline of any length goes through a small buffer.
//! Source: HP-GL/2 and HP RTL Reference Guide (Hewlett-Packard 5961-3526), chapter 1, "Syntax".

/// A part of an instruction.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Word {
    /// Its two letters, in capitals.
    Begin([u8; 2]),
    /// One of its numbers.
    Number(f64),
    /// Its end.
    End,
    /// A byte that belongs nowhere.
    Odd,
}

/// Where in an instruction the bytes are.
#[derive(Clone, Debug, Default)]
pub(super) struct Words {
    first: Option<u8>,
    open: bool,
    number: String,
    /// Within a label, whose letters are no instructions.
    label: bool,
}

/// Ends a label.
const END_OF_TEXT: u8 = 3;
/// Digits of a number at most.
const DIGITS: usize = 24;

impl Words {
    /// What is complete with one byte more.
    pub(super) fn feed(&mut self, byte: u8, found: &mut Vec<Word>) {
        if self.label {
            self.label = byte != END_OF_TEXT;
            return;
        }
        match byte {
            b'A'..=b'Z' | b'a'..=b'z' => self.letter(byte.to_ascii_uppercase(), found),
            b'0'..=b'9' | b'.' => {
                if self.number.len() < DIGITS {
                    self.number.push(char::from(byte));
                }
            }
            b'+' | b'-' => {
                self.end_number(found);
                self.number.push(char::from(byte));
            }
            b',' | b' ' | b'\t' | b'\r' | b'\n' => self.end_number(found),
            b';' => self.end(found),
            _ => found.push(Word::Odd),
        }
    }

    fn letter(&mut self, letter: u8, found: &mut Vec<Word>) {
        let Some(first) = self.first.take() else {
            self.end(found);
            self.first = Some(letter);
            return;
        };
        let name = [first, letter];
        self.label = &name == b"LB";
        self.open = true;
        found.push(Word::Begin(name));
    }

    fn end_number(&mut self, found: &mut Vec<Word>) {
        if self.number.is_empty() {
            return;
        }
        found.push(self.number.parse().map_or(Word::Odd, Word::Number));
        self.number.clear();
    }

    fn end(&mut self, found: &mut Vec<Word>) {
        self.end_number(found);
        if self.first.take().is_some() {
            found.push(Word::Odd);
        }
        if std::mem::take(&mut self.open) {
            found.push(Word::End);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn words(text: &[u8]) -> Vec<Word> {
        let (mut words, mut found) = (Words::default(), Vec::new());
        text.iter().for_each(|&b| words.feed(b, &mut found));
        found
    }

    #[test]
    fn letters_numbers_and_ends_in_every_allowed_writing() {
        let plain = words(b"PD10,-20;");
        assert_eq!(
            plain,
            [
                Word::Begin(*b"PD"),
                Word::Number(10.0),
                Word::Number(-20.0),
                Word::End
            ]
        );
        assert_eq!(words(b"pd 10 -20;"), plain);
        assert_eq!(words(b"PD10-20\r\n;"), plain);
        // The next instruction ends the one before it; a label holds no instructions.
        let two = [
            Word::Begin(*b"IN"),
            Word::End,
            Word::Begin(*b"PU"),
            Word::End,
        ];
        assert_eq!(words(b"INPU;"), two);
        assert_eq!(words(b"LBPD1,1;\x03;"), [Word::Begin(*b"LB"), Word::End]);
        assert_eq!(words(b"P;"), [Word::Odd]);
    }
}
