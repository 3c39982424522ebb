//! The words of a line of G-code.
//!
//! Source: NIST IR 6556, "The NIST RS274NGC Interpreter, version 3", section 3.3: comments in brackets, blanks without
//! meaning, letters in either case.

/// Letter and number of each word of a line.
///
/// # Errors
/// What cannot be read, in words.
pub(super) fn of(line: &str) -> Result<Vec<(char, f64)>, String> {
    let mut words = Vec::new();
    let mut letters = without_comments(line)?.into_iter().peekable();
    while let Some(letter) = letters.next() {
        if !letter.is_ascii_uppercase() {
            return Err(format!("'{letter}' begins no word"));
        }
        let mut number = String::new();
        while let Some(digit) = letters.next_if(|c| c.is_ascii_digit() || "+-.".contains(*c)) {
            number.push(digit);
        }
        let value = number
            .parse()
            .map_err(|_| format!("{letter} wants a number"))?;
        words.push((letter, value));
    }
    Ok(words)
}

/// The letters that count, in capitals.
fn without_comments(line: &str) -> Result<Vec<char>, String> {
    let mut kept = Vec::new();
    let mut within = false;
    for letter in line.chars() {
        match letter {
            '(' if within => return Err("a comment within a comment".to_owned()),
            '(' => within = true,
            ')' if !within => return Err("a comment that did not begin".to_owned()),
            ')' => within = false,
            _ if within || letter.is_whitespace() => {}
            ';' => break,
            _ => kept.push(letter.to_ascii_uppercase()),
        }
    }
    if within {
        return Err("a comment that does not end".to_owned());
    }
    Ok(kept)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_with_blanks_and_comments() {
        // NIST IR 6556, 3.3.2: "g0x +0. 12 34y 7" is "g0 x+0.1234 y7".
        let words = of("g0x +0. 12 34y 7").unwrap_or_default();
        assert_eq!(words, [('G', 0.0), ('X', 0.1234), ('Y', 7.0)]);
        assert_eq!(
            of("(tea) G1 (pot) X2 ; rest").unwrap_or_default(),
            [('G', 1.0), ('X', 2.0)]
        );
        for bad in ["G", "X1.2.3", "7", "(a", "a)", "((a))", "G1 X--2"] {
            assert!(of(bad).is_err(), "{bad}");
        }
    }
}
