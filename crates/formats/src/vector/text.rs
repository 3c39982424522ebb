//! Bytes to text: gzip undone within the limit, and the encoding that the file states.
//!
//! Source: XML 1.0 (5th ed.), appendix F: a byte order mark, else the first bytes, else what the
//! declaration names; RFC 1952 for gzip.

use std::borrow::Cow;
use std::io::Read;

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252};
use flate2::read::GzDecoder;
use inky_core::limits;

use super::VectorError;

/// How a gzip file begins.
const GZIP: [u8; 2] = [0x1f, 0x8b];
/// A declaration of an encoding stands in the first bytes.
const DECLARED_IN: usize = 256;

/// The bytes of a file, unpacked where it is packed.
///
/// # Errors
/// When it is broken, or more than the limit once it is unpacked.
pub(super) fn unpacked(bytes: &[u8]) -> Result<Cow<'_, [u8]>, VectorError> {
    if !bytes.starts_with(&GZIP) {
        return Ok(Cow::Borrowed(bytes));
    }
    let mut all = Vec::new();
    let most = limits::FILE_BYTES as u64 + 1;
    GzDecoder::new(bytes)
        .take(most)
        .read_to_end(&mut all)
        .map_err(|e| VectorError::Broken {
            format: "gzip",
            why: e.to_string(),
        })?;
    if all.len() > limits::FILE_BYTES {
        return Err(VectorError::TooManyBytes);
    }
    Ok(Cow::Owned(all))
}

/// The first bytes of a file, unpacked; empty where that fails.
pub(super) fn head(bytes: &[u8], most: usize) -> Cow<'_, [u8]> {
    if !bytes.starts_with(&GZIP) {
        return Cow::Borrowed(&bytes[..bytes.len().min(most)]);
    }
    let mut first = Vec::new();
    // A file that breaks off later still begins with what it is.
    let _ = GzDecoder::new(bytes)
        .take(most as u64)
        .read_to_end(&mut first);
    Cow::Owned(first)
}

/// Whether a file begins as XML does in any encoding: with a bracket, or a byte order mark before it.
pub(super) fn may_be_xml(head: &[u8]) -> bool {
    let blank = |b: &&u8| b.is_ascii_whitespace();
    let first = head.iter().find(|b| !blank(b));
    first == Some(&b'<') || head.starts_with(&[0, b'<']) || Encoding::for_bom(head).is_some()
}

/// Whether the first bytes are no text in any encoding of a byte a character.
pub(super) fn is_binary(head: &[u8]) -> bool {
    head.iter().take(512).any(|b| *b == 0)
}

/// The text of an XML file.
pub(super) fn decoded(bytes: &[u8]) -> Cow<'_, str> {
    if let Some((encoding, mark)) = Encoding::for_bom(bytes) {
        return encoding.decode_without_bom_handling(&bytes[mark..]).0;
    }
    let encoding = match bytes {
        [b'<', 0, ..] => UTF_16LE,
        [0, b'<', ..] => UTF_16BE,
        _ => declared(bytes).unwrap_or(UTF_8),
    };
    let (text, wrong) = encoding.decode_without_bom_handling(bytes);
    if wrong && encoding == UTF_8 {
        return WINDOWS_1252.decode_without_bom_handling(bytes).0;
    }
    text
}

/// The encoding that the declaration names.
fn declared(bytes: &[u8]) -> Option<&'static Encoding> {
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(DECLARED_IN)]);
    let declaration = head
        .trim_start()
        .strip_prefix("<?xml")?
        .split("?>")
        .next()?;
    let value = declaration.split("encoding").nth(1)?;
    let value = value.trim_start().strip_prefix('=')?.trim_start();
    let label = value.trim_start_matches(['"', '\'']);
    let label = label.split(['"', '\'']).next()?;
    // A file that was read as single bytes up to here is no UTF-16, whatever it says.
    Encoding::for_label(label.as_bytes()).filter(|e| *e != UTF_16LE && *e != UTF_16BE)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Write;

    #[test]
    fn text_is_read_in_the_encoding_it_is_in() {
        let plain = "<svg>é</svg>";
        let little: Vec<u8> = plain.encode_utf16().flat_map(u16::to_le_bytes).collect();
        let big: Vec<u8> = plain.encode_utf16().flat_map(u16::to_be_bytes).collect();
        assert_eq!(decoded(plain.as_bytes()), plain);
        assert_eq!(decoded(&little), plain);
        assert_eq!(decoded(&big), plain);
        assert_eq!(decoded(&[&[0xff, 0xfe][..], &little].concat()), plain);
        assert_eq!(
            decoded(&[&[0xef, 0xbb, 0xbf], plain.as_bytes()].concat()),
            plain
        );
        let latin = b"<?xml version='1.0' encoding='ISO-8859-1'?><svg>\xe9</svg>";
        assert!(decoded(latin).ends_with(plain));
        // No declaration, and no UTF-8 either.
        assert_eq!(decoded(b"<svg>\xe9</svg>"), plain);
    }

    #[test]
    fn a_packed_file_is_unpacked_within_the_limit() {
        let mut packer = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        packer.write_all(b"<svg/>").unwrap();
        let packed = packer.finish().unwrap();
        assert_eq!(&*unpacked(&packed).unwrap(), b"<svg/>");
        assert_eq!(&*head(&packed, 3), b"<sv");
        assert!(unpacked(&packed[..8]).is_err());
        let mut bomb = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::best());
        for _ in 0..65 {
            bomb.write_all(&vec![b' '; 1 << 20]).unwrap();
        }
        let bomb = bomb.finish().unwrap();
        assert!(bomb.len() < 100_000);
        assert_eq!(unpacked(&bomb), Err(VectorError::TooManyBytes));
    }
}
