//! WOFF 1.0 to the font it wraps (W3C Recommendation, 13 December 2012): each table by zlib, or as
//! it is where that is no shorter.

use std::io::Read as _;

/// The font in a WOFF file; `None` where the file is no whole WOFF.
pub(super) fn unwrap(woff: &[u8]) -> Option<Vec<u8>> {
    let u32_at = |at: usize| Some(u32::from_be_bytes(woff.get(at..at + 4)?.try_into().ok()?));
    let u16_at = |at: usize| Some(u16::from_be_bytes(woff.get(at..at + 2)?.try_into().ok()?));
    if woff.get(..4)? != b"wOFF" {
        return None;
    }
    let count = usize::from(u16_at(12)?);
    let mut font = Vec::with_capacity(u32_at(16)? as usize);
    let power = (count.checked_ilog2()? as u16).min(15);
    font.extend(woff.get(4..8)?);
    for value in [
        count as u16,
        16 << power,
        power,
        count as u16 * 16 - (16 << power),
    ] {
        font.extend(value.to_be_bytes());
    }
    let mut place = 12 + 16 * count;
    let mut tables = Vec::new();
    for n in 0..count {
        let entry = 44 + 20 * n;
        let (offset, packed) = (u32_at(entry + 4)? as usize, u32_at(entry + 8)? as usize);
        let length = u32_at(entry + 12)? as usize;
        let body = woff.get(offset..offset.checked_add(packed)?)?;
        let mut table = Vec::with_capacity(length);
        if packed < length {
            let mut unpacked = flate2::read::ZlibDecoder::new(body).take(length as u64);
            unpacked.read_to_end(&mut table).ok()?;
        } else {
            table.extend(body);
        }
        font.extend(woff.get(entry..entry + 4)?);
        font.extend(woff.get(entry + 16..entry + 20)?);
        font.extend((place as u32).to_be_bytes());
        font.extend((length as u32).to_be_bytes());
        table.resize(length.next_multiple_of(4), 0);
        place += table.len();
        tables.push(table);
    }
    font.extend(tables.concat());
    Some(font)
}
