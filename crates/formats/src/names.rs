//! Names that are safe in a file or as a file's name, whatever they were typed as.

use std::collections::BTreeSet;

/// Capitals, digits, `_` and `-`; what else there is becomes `_`. Never empty.
#[must_use]
pub fn plain(name: &str) -> String {
    let mut out = String::new();
    for c in name.chars() {
        if c.is_ascii_alphanumeric() || c == '-' {
            out.push(c.to_ascii_uppercase());
        } else if !out.ends_with('_') && !out.is_empty() {
            out.push('_');
        }
    }
    let out: String = out.trim_end_matches('_').chars().take(60).collect();
    if out.is_empty() {
        "LAYER".to_owned()
    } else {
        out
    }
}

/// Small letters, digits and `-`, for the name of a file. Never empty.
#[must_use]
pub fn file(name: &str) -> String {
    let lower = name.chars().map(|c| match c {
        c if c.is_ascii_alphanumeric() => c.to_ascii_lowercase(),
        _ => '-',
    });
    let dashed: String = lower.collect();
    let words: Vec<&str> = dashed.split('-').filter(|w| !w.is_empty()).collect();
    let name: String = words.join("-").chars().take(80).collect();
    if name.is_empty() {
        "job".to_owned()
    } else {
        name
    }
}

/// The same names, a number behind each that was there before.
pub fn unique(names: impl Iterator<Item = String>) -> Vec<String> {
    let mut seen = BTreeSet::new();
    let mut one = |name: String| {
        let mut unique_name = name.clone();
        let mut n = 1;
        while !seen.insert(unique_name.clone()) {
            n += 1;
            unique_name = format!("{name}-{n}");
        }
        unique_name
    };
    names.map(&mut one).collect()
}

/// Printable ASCII without what ends a comment or a string.
#[must_use]
pub fn ascii(text: &str) -> String {
    let kept = text.chars().map(|c| match c {
        '(' | ')' | '"' | '%' | ';' | '\\' => ' ',
        c if c == ' ' || c.is_ascii_graphic() => c,
        _ => '?',
    });
    kept.collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn quotes_slashes_and_emoji_leave_a_usable_name() {
        for (name, dxf, on_disk) in [
            (
                "A Kettle blue kiss cut",
                "A_KETTLE_BLUE_KISS_CUT",
                "a-kettle-blue-kiss-cut",
            ),
            ("\"../etc\"/🫖", "ETC", "etc"),
            ("🫖", "LAYER", "job"),
            ("Tür/Öl", "T_R_L", "t-r-l"),
        ] {
            assert_eq!(plain(name), dxf);
            assert_eq!(file(name), on_disk);
        }
        assert_eq!(ascii("a) G0 \"x\" ü"), "a  G0  x  ?");
        let twice = unique(["A", "B", "A", "A"].into_iter().map(String::from));
        assert_eq!(twice, ["A", "B", "A-2", "A-3"]);
    }
}
