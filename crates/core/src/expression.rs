//! Lengths as sums: `2*60mm + 10`, `(210mm - 2*8mm) / 3`, `1/2in + 3mm`.
//!
//! ```text
//!   sum     = product (("+" | "−") product)*
//!   product = part (("*" | "/") part)*
//!   part    = quantity | "(" sum ")" | "−" part
//! ```
//!
//! A figure without a unit is a plain number while it multiplies or divides, and a length in the
//! reader's unit where it is added or stands alone.

use crate::units::{Length, QuantityError, Unit, single};

/// Reads `120mm`, `4.5in`, `1/4in`, `0.25"`, `12cm`, `1m`, `300px`; a bare number has `bare` as its
/// unit. Sums and products of them do too: `2*60mm + 10`.
///
/// # Errors
/// [`QuantityError`] with an example or the units that would do.
pub fn parse_length(text: &str, bare: Unit) -> Result<Length, QuantityError> {
    single(text, bare).or_else(|e| {
        let sum = text.contains(['*', '×', '(', '+', '-', '−', '/', '÷']);
        let found = sum.then(|| length(text, bare)).flatten();
        found.map(Length::Mm).ok_or(e)
    })
}

/// A number, or a length in mm.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Value {
    Number(f64),
    Mm(f64),
}

struct Reader<'a> {
    text: &'a str,
    bare: Unit,
    depth: usize,
}

/// How deep brackets may lie in each other.
const DEPTH: usize = 20;

/// What an expression comes to; `None` where it is none.
fn length(text: &str, bare: Unit) -> Option<f64> {
    let mut reader = Reader {
        text,
        bare,
        depth: 0,
    };
    let value = reader.sum()?;
    reader.skip();
    let mm = reader.mm(value);
    (reader.text.is_empty() && mm.is_finite()).then_some(mm)
}

impl Reader<'_> {
    fn skip(&mut self) {
        self.text = self.text.trim_start();
    }

    fn took(&mut self, signs: &[char]) -> Option<char> {
        self.skip();
        let sign = self.text.chars().next().filter(|c| signs.contains(c))?;
        self.text = &self.text[sign.len_utf8()..];
        Some(sign)
    }

    fn mm(&self, value: Value) -> f64 {
        match value {
            Value::Mm(mm) => mm,
            Value::Number(n) => n * self.bare.in_mm(),
        }
    }

    fn sum(&mut self) -> Option<Value> {
        let mut total = self.product()?;
        while let Some(sign) = self.took(&['+', '-', '−']) {
            let next = self.product()?;
            let by = if sign == '+' { 1.0 } else { -1.0 };
            total = match (total, next) {
                (Value::Number(a), Value::Number(b)) => Value::Number(a + by * b),
                (a, b) => Value::Mm(self.mm(a) + by * self.mm(b)),
            };
        }
        Some(total)
    }

    fn product(&mut self) -> Option<Value> {
        let mut total = self.part()?;
        while let Some(sign) = self.took(&['*', '×', '/', '÷']) {
            let next = self.part()?;
            total = match (total, next, sign == '*' || sign == '×') {
                (Value::Number(a), Value::Number(b), true) => Value::Number(a * b),
                (Value::Number(a), Value::Mm(b), true) | (Value::Mm(a), Value::Number(b), true) => {
                    Value::Mm(a * b)
                }
                (Value::Number(a), Value::Number(b), false) => Value::Number(a / b),
                (Value::Mm(a), Value::Number(b), false) => Value::Mm(a / b),
                (Value::Mm(a), Value::Mm(b), false) => Value::Number(a / b),
                // An area, or one over a length, is none.
                _ => return None,
            };
        }
        Some(total)
    }

    fn part(&mut self) -> Option<Value> {
        self.depth += 1;
        if self.depth > DEPTH {
            return None;
        }
        let value = if self.took(&['(']).is_some() {
            let inside = self.sum()?;
            self.took(&[')'])?;
            inside
        } else if self.took(&['-', '−']).is_some() {
            match self.part()? {
                Value::Number(n) => Value::Number(-n),
                Value::Mm(mm) => Value::Mm(-mm),
            }
        } else {
            self.quantity()?
        };
        self.depth -= 1;
        Some(value)
    }

    /// A figure, which may be `1/4` or `1 1/2` before a unit, with its unit.
    fn quantity(&mut self) -> Option<Value> {
        self.skip();
        let figure = |c: char| c.is_ascii_digit() || matches!(c, '.' | ',');
        let unit = |c: char| c.is_ascii_alphabetic() || matches!(c, '"' | '″');
        let till =
            |text: &str, stop: &dyn Fn(char) -> bool| text.find(|c| !stop(c)).unwrap_or(text.len());
        let first = till(self.text, &figure);
        if first == 0 {
            return None;
        }
        // `1/4in` is a fraction of an inch, `10in/4` a quarter of ten inches.
        let whole = till(self.text, &|c| figure(c) || matches!(c, '/' | ' '));
        let named = till(&self.text[whole..], &unit);
        if named > 0
            && let Ok(Length::Mm(mm)) = single(&self.text[..whole + named], self.bare)
        {
            self.text = &self.text[whole + named..];
            return Some(Value::Mm(mm));
        }
        let named = till(&self.text[first..], &unit);
        let (first_part, rest) = self.text.split_at(first + named);
        if named > 0 {
            let Ok(Length::Mm(mm)) = single(first_part, self.bare) else {
                return None;
            };
            self.text = rest;
            return Some(Value::Mm(mm));
        }
        let number = first_part.replace(',', ".").parse().ok()?;
        self.text = rest;
        Some(Value::Number(number))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sums_products_and_units_come_to_millimetres() {
        for (text, expected) in [
            ("2*60mm + 10", 130.0),
            ("(210mm - 2*8mm) / 2", 97.0),
            ("1/2in + 3mm", 15.7),
            ("10in/4", 63.5),
            ("100/3*3", 100.0),
            ("3 * 1/4in", 19.05),
            ("-(2 - 5)cm", f64::NAN),
            ("-(2cm - 5cm)", 30.0),
            ("2,5 × 4", 10.0),
            ("1 1/2in + 1mm", 39.1),
        ] {
            let found = length(text, Unit::Mm);
            if expected.is_nan() {
                assert_eq!(found, None, "{text}");
            } else {
                assert!(
                    (found.unwrap() - expected).abs() < 1e-9,
                    "{text}: {found:?}"
                );
            }
        }
        assert!((length("2 + 10mm", Unit::In).unwrap() - 60.8).abs() < 1e-9);
    }

    #[test]
    fn what_comes_to_no_length_is_none() {
        let deep = format!("{}1{}", "(".repeat(500), ")".repeat(500));
        for text in [
            "",
            "mm",
            "2mm*3mm",
            "1/0",
            "2+",
            "(2",
            "2)",
            "(4)/(2mm)",
            "2px+1",
            &deep,
        ] {
            assert_eq!(length(text, Unit::Mm), None, "{text}");
        }
    }
}
