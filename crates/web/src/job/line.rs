//! The lines of the ticket, in the order of the work: the one table that the page, its addresses, its keys
//! and its help are made of.

use serde::Deserialize;

/// A line of the ticket, by its slug in forms.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum Line {
    Artwork,
    Clean,
    Inks,
    /// The one that is open when a job is opened.
    #[default]
    Trace,
    Tidy,
    Layers,
    Size,
    Sheet,
    Send,
}

/// What there is to say of a line.
struct Row {
    line: Line,
    /// Its word in addresses and forms, and the name of its folders.
    slug: &'static str,
    /// Its page of the guide.
    guide: &'static str,
    name: &'static str,
    /// What it is for, in the list of keys.
    help: &'static str,
    /// Fields whose problems are told beside them.
    fields: &'static [&'static str],
}

const TABLE: [Row; 9] = [
    Row {
        line: Line::Artwork,
        slug: "artwork",
        guide: "/guide/poor-jpeg",
        name: "Artwork",
        help: "what came in, and what it is worth",
        fields: &["title"],
    },
    Row {
        line: Line::Clean,
        slug: "clean",
        guide: "/guide/photograph",
        name: "Clean",
        help: "crop, turn, mend",
        fields: &["clean"],
    },
    Row {
        line: Line::Inks,
        slug: "inks",
        guide: "/guide/layered-decal",
        name: "Inks",
        help: "which colours are cut",
        fields: &[
            "count",
            "threshold",
            "above",
            "rim_width",
            "tones",
            "level1",
            "level2",
            "level3",
            "level4",
            "level5",
            "even",
            "narrowest",
            "pitch",
            "angle",
        ],
    },
    Row {
        line: Line::Trace,
        slug: "trace",
        guide: "/guide/figures",
        name: "Trace",
        help: "how closely edges are followed",
        fields: &["tolerance", "corner", "smooth", "min_part"],
    },
    Row {
        line: Line::Tidy,
        slug: "tidy",
        guide: "/guide/sticker",
        name: "Tidy",
        help: "outlines by hand",
        fields: &["tidy"],
    },
    Row {
        line: Line::Layers,
        slug: "layers",
        guide: "/guide/layered-decal",
        name: "Layers",
        help: "materials, and how pieces meet",
        fields: &["layers", "margin", "registration", "inlay", "bridges"],
    },
    Row {
        line: Line::Size,
        slug: "size",
        guide: "/guide/checks",
        name: "Size",
        help: "the finished size, and the checks",
        fields: &[
            "width", "height", "scale", "measured", "drawn", "stock", "checks",
        ],
    },
    Row {
        line: Line::Sheet,
        slug: "sheet",
        guide: "/guide/sheet-for-many",
        name: "Sheet",
        help: "copies, nesting, the order of cutting",
        fields: &["sheet", "copies", "gap", "weed", "panels", "guests"],
    },
    Row {
        line: Line::Send,
        slug: "send",
        guide: "/guide/files",
        name: "Send",
        help: "files to take away",
        fields: &["send"],
    },
];

impl Line {
    /// All of them, each with its number on the ticket, which is its key too.
    pub(crate) fn numbered() -> impl Iterator<Item = (usize, Self)> {
        (1..).zip(TABLE.iter().map(|row| row.line))
    }

    pub(crate) fn from_slug(slug: &str) -> Option<Self> {
        let mut rows = TABLE.iter();
        rows.find(|row| row.slug == slug).map(|row| row.line)
    }

    /// The address that opens a line of a job, as a pattern.
    pub(crate) fn address() -> String {
        let slugs: Vec<&str> = TABLE.iter().map(|row| row.slug).collect();
        format!("/jobs/{{id}}/{{line:{}}}", slugs.join("|"))
    }

    const fn row(self) -> &'static Row {
        &TABLE[self as usize]
    }

    /// Its word in addresses and forms.
    pub(crate) const fn slug(self) -> &'static str {
        self.row().slug
    }

    pub(crate) const fn name(self) -> &'static str {
        self.row().name
    }

    /// Address of its page of the guide.
    pub(crate) const fn guide(self) -> &'static str {
        self.row().guide
    }

    pub(crate) const fn help(self) -> &'static str {
        self.row().help
    }

    pub(crate) const fn fields(self) -> &'static [&'static str] {
        self.row().fields
    }

    /// The name of a field of any line; a word that is none of them is told in the notice line.
    pub(crate) fn field(name: &str) -> &'static str {
        let mut all = TABLE.iter().flat_map(|row| row.fields);
        all.find(|f| **f == name).copied().unwrap_or("notice")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_line_is_where_its_number_says() {
        for (n, line) in Line::numbered() {
            assert_eq!(line as usize + 1, n);
            assert_eq!(line.row().line, line);
            assert_eq!(Line::from_slug(line.slug()), Some(line));
        }
    }

    #[test]
    fn the_problem_of_a_field_has_one_place() {
        let mut all: Vec<_> = TABLE.iter().flat_map(|row| row.fields).collect();
        let count = all.len();
        all.sort();
        all.dedup();
        assert_eq!(all.len(), count);
    }
}
