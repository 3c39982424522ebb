//! A DXF file as pairs of a group code and its value, from its text form or its binary one.
//!
//! Source: the published DXF reference, "Group code value types" and "About binary DXF files".

use std::borrow::Cow;

use encoding_rs::{Encoding, WINDOWS_1252};

use super::broken;
use crate::vector::VectorError;

/// A group code and its value.
pub(super) type Pair<'a> = (i32, Cow<'a, str>);

/// How a file in binary form begins, after the seven letters of the program that set the form.
const BINARY: &[u8] = b" Binary DXF\r\n\x1a\0";
/// Those letters.
const NAME: usize = 7;
/// Pairs that are read at most.
const PAIRS: usize = 8_000_000;

/// Whether bytes begin as a DXF file does.
pub(in crate::vector) fn is_dxf(head: &[u8]) -> bool {
    if is_binary(head) {
        return true;
    }
    let first = head.iter().find(|b| !b.is_ascii_whitespace());
    // A code, or the mark of its encoding.
    if !first.is_some_and(|b| b.is_ascii_digit() || *b == 0xef) {
        return false;
    }
    let text = String::from_utf8_lossy(head);
    let text = text.trim_start_matches('\u{feff}').trim_start();
    let mut lines = text.lines().map(str::trim);
    let mut code = lines.next();
    while code == Some("999") {
        lines.next();
        code = lines.next();
    }
    code == Some("0") && lines.next() == Some("SECTION")
}

pub(super) fn is_binary(bytes: &[u8]) -> bool {
    bytes.get(NAME..).is_some_and(|b| b.starts_with(BINARY))
}

/// The text of a file: UTF-8, or what its code page says.
pub(super) fn decoded(bytes: &[u8]) -> Cow<'_, str> {
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    match std::str::from_utf8(bytes) {
        Ok(text) => Cow::Borrowed(text),
        Err(_) => code_page(bytes).decode_without_bom_handling(bytes).0,
    }
}

/// The code page that the header names, as `ANSI_1252`.
fn code_page(bytes: &[u8]) -> &'static Encoding {
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(1 << 16)]);
    let named = head.split("ANSI_").nth(1).map(|rest| {
        let number: String = rest.chars().take_while(char::is_ascii_digit).collect();
        format!("windows-{number}")
    });
    let known = named.and_then(|label| Encoding::for_label(label.as_bytes()));
    known.unwrap_or(WINDOWS_1252)
}

fn counted(pairs: &[Pair<'_>]) -> Result<(), VectorError> {
    if pairs.len() < PAIRS {
        return Ok(());
    }
    Err(VectorError::TooMany {
        what: "group codes",
        limit: PAIRS,
    })
}

/// Pairs of the text form: a line each.
pub(super) fn of_text(text: &str) -> Result<Vec<Pair<'_>>, VectorError> {
    let mut lines = text.lines();
    let mut pairs = Vec::new();
    while let Some(code) = lines.next() {
        let code = code.trim();
        if code.is_empty() && lines.clone().all(|l| l.trim().is_empty()) {
            break;
        }
        let number = code
            .parse()
            .map_err(|_| broken(format!("line {} is no group code", 2 * pairs.len() + 1)))?;
        let value = lines
            .next()
            .ok_or_else(|| broken("it ends in the middle of a pair"))?;
        counted(&pairs)?;
        pairs.push((number, Cow::Borrowed(value.trim())));
    }
    Ok(pairs)
}

/// Pairs of the binary form, figures as text.
pub(super) fn of_binary(bytes: &[u8]) -> Result<Vec<Pair<'static>>, VectorError> {
    let mut rest = &bytes[NAME + BINARY.len()..];
    // Files before 1994 have codes of one byte.
    let wide = rest.get(1) == Some(&0);
    let mut pairs: Vec<Pair<'static>> = Vec::new();
    while !rest.is_empty() {
        let code = match (wide, rest.first()) {
            (true, _) | (false, Some(255)) => {
                if !wide {
                    rest = &rest[1..];
                }
                i32::from(i16::from_le_bytes(taken(&mut rest)?))
            }
            (false, _) => i32::from(taken::<1>(&mut rest)?[0]),
        };
        let value = match code {
            10..=59 | 110..=149 | 210..=239 | 460..=469 | 1010..=1059 => {
                f64::from_le_bytes(taken(&mut rest)?).to_string()
            }
            60..=79 | 170..=179 | 270..=289 | 370..=389 | 400..=409 | 1060..=1070 => {
                i16::from_le_bytes(taken(&mut rest)?).to_string()
            }
            90..=99 | 420..=429 | 440..=459 | 1071 => {
                i32::from_le_bytes(taken(&mut rest)?).to_string()
            }
            160..=169 => i64::from_le_bytes(taken(&mut rest)?).to_string(),
            290..=299 => taken::<1>(&mut rest)?[0].to_string(),
            310..=319 | 1004 => {
                let [length] = taken(&mut rest)?;
                rest = rest.get(usize::from(length)..).ok_or_else(short)?;
                String::new()
            }
            _ => {
                let end = rest.iter().position(|b| *b == 0).ok_or_else(short)?;
                let text = decoded(&rest[..end]).trim().to_owned();
                rest = &rest[end + 1..];
                text
            }
        };
        counted(&pairs)?;
        let last = code == 0 && value == "EOF";
        pairs.push((code, Cow::Owned(value)));
        if last {
            break;
        }
    }
    Ok(pairs)
}

fn short() -> VectorError {
    broken("it ends in the middle of a pair")
}

fn taken<const N: usize>(rest: &mut &[u8]) -> Result<[u8; N], VectorError> {
    let (first, after) = rest.split_first_chunk::<N>().ok_or_else(short)?;
    *rest = after;
    Ok(*first)
}
