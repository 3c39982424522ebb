//! How many frames a GIF holds, told from its blocks: no frame is decoded for it.
//!
//! Source: GIF89a specification, appendix "GIF Grammar".

/// Whether a second picture follows the first.
pub(super) fn has_second(bytes: &[u8]) -> bool {
    pictures(bytes, 2) == 2
}

/// Pictures of a file, counted up to some number.
fn pictures(bytes: &[u8], most: usize) -> usize {
    let table = |packed: u8| {
        if packed & 0x80 == 0 {
            0
        } else {
            3 << ((packed & 7) + 1)
        }
    };
    let mut at = 13 + bytes.get(10).map_or(0, |p| table(*p));
    let mut found = 0;
    while found < most {
        match bytes.get(at) {
            // An extension, and a picture: both end in a row of sub-blocks.
            Some(0x21) => at += 2,
            Some(0x2c) => {
                let Some(packed) = bytes.get(at + 9) else {
                    break;
                };
                found += 1;
                at += 11 + table(*packed);
            }
            _ => break,
        }
        while let Some(&length) = bytes.get(at).filter(|l| **l > 0) {
            at += 1 + usize::from(length);
        }
        at += 1;
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn frames_are_counted_without_their_pixels() {
        let head = [&b"GIF89a\x04\0\x04\0\x80\0\0"[..], &[0; 6]].concat();
        let wait = b"!\xf9\x04\0\0\0\0\0".to_vec();
        // The second claims 60,000 by 60,000 px.
        let small = b",\0\0\0\0\x04\0\x04\0\0\x02\x02\x4c\x01\0".to_vec();
        let huge = b",\0\0\0\0\x60\xea\x60\xea\0\x02\x02\x4c\x01\0".to_vec();
        let file = |parts: &[&Vec<u8>]| {
            let all: Vec<&[u8]> = parts.iter().map(|p| p.as_slice()).collect();
            [head.as_slice(), &all.concat(), b";"].concat()
        };
        assert!(has_second(&file(&[&wait, &small, &wait, &huge])));
        assert!(!has_second(&file(&[&wait, &small])));
        assert!(!has_second(&file(&[])) && !has_second(b"GIF89a"));
    }
}
