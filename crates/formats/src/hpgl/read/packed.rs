//! Packed lines (`PE`): places as digits of base 64 or 32, in bytes above the ASCII controls.
//!
//! Source: HP-GL/2 and HP RTL Reference Guide, "PE, Polyline Encoded".

/// One step of packed lines.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Step {
    /// Another pen.
    Pen(f64),
    /// To a place, or by a way, in units.
    To {
        xy: [f64; 2],
        up: bool,
        absolute: bool,
    },
}

/// The steps of packed text; whether it could be read to its end.
pub(super) fn steps(text: &str) -> (Vec<Step>, bool) {
    let (mut steps, mut seven, mut fraction) = (Vec::new(), false, 1.0);
    let (mut up, mut absolute, mut x) = (false, false, None);
    let mut rest = text.chars().peekable();
    while let Some(&flag) = rest.peek() {
        match flag {
            ':' | '>' => {
                rest.next();
                let Some(value) = number(&mut rest, seven) else {
                    return (steps, false);
                };
                if flag == ':' {
                    steps.push(Step::Pen(value));
                } else {
                    fraction = (-value.clamp(-26.0, 26.0)).exp2();
                }
            }
            '<' | '=' | '7' => {
                rest.next();
                match flag {
                    '<' => up = true,
                    '=' => absolute = true,
                    _ => seven = true,
                }
            }
            c if c.is_whitespace() => {
                rest.next();
            }
            _ => {
                let Some(value) = number(&mut rest, seven) else {
                    return (steps, false);
                };
                match x.take() {
                    None => x = Some(value * fraction),
                    Some(x) => {
                        let xy = [x, value * fraction];
                        steps.push(Step::To { xy, up, absolute });
                        (up, absolute) = (false, false);
                    }
                }
            }
        }
    }
    (steps, x.is_none())
}

/// One figure: digits from the least on, the last of them in a range of its own; the lowest bit of
/// the whole is its sign.
fn number(rest: &mut std::iter::Peekable<std::str::Chars<'_>>, seven: bool) -> Option<f64> {
    let (bits, last) = if seven { (5, 95) } else { (6, 191) };
    let (mut value, mut shift) = (0_i64, 0);
    loop {
        let c = rest.next()? as i64;
        let (digit, ends) = if c >= last {
            (c - last, true)
        } else {
            (c - 63, false)
        };
        if !(0..1 << bits).contains(&digit) || shift > 40 {
            return None;
        }
        value |= digit << shift;
        shift += bits;
        if ends {
            let size = (value >> 1) as f64;
            return Some(if value & 1 == 1 { -size } else { size });
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The guide's way to encode: doubled, 1 added below nought, digits from the least on.
    fn packed(values: &[i64], seven: bool) -> String {
        let (bits, last) = if seven { (5, 95) } else { (6, 191) };
        let mut text = String::new();
        for &value in values {
            let mut left = (value.unsigned_abs() << 1) | u64::from(value < 0);
            loop {
                let digit = (left & ((1 << bits) - 1)) as u8;
                left >>= bits;
                let base = if left == 0 { last } else { 63 };
                text.push(char::from(base + digit));
                if left == 0 {
                    break;
                }
            }
        }
        text
    }

    #[test]
    fn what_was_packed_is_unpacked() {
        for seven in [false, true] {
            let mode = if seven { "7" } else { "" };
            let text = format!(
                "{mode}:{}<={}{}",
                packed(&[3], seven),
                packed(&[400, -120], seven),
                packed(&[0, 5000], seven)
            );
            let to = |xy, up, absolute| Step::To { xy, up, absolute };
            let expected = vec![
                Step::Pen(3.0),
                to([400.0, -120.0], true, true),
                to([0.0, 5000.0], false, false),
            ];
            assert_eq!(steps(&text), (expected, true));
        }
        // Three fractional bits: eighths of a unit.
        let eighths = format!(">{}{}", packed(&[3], false), packed(&[12, -4], false));
        let (found, whole) = steps(&eighths);
        assert!(
            whole
                && matches!(
                    found[..],
                    [Step::To {
                        xy: [1.5, -0.5],
                        ..
                    }]
                )
        );
        // A figure that has no last digit, one without its pair, and what is no digit.
        assert_eq!(steps("<=]_"), (Vec::new(), false));
        assert!(!steps(&packed(&[5], false)).1 && !steps("\u{1}").1);
    }
}
