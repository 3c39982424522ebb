//! The core's modules lead one way: what comes late in the work may use what comes before it, never
//! the other way round, and the files of a room have no circle among them.
//!
//! Read as text from the `use` lines and the written-out paths. The door of a room (its `mod.rs`)
//! holds what its files share and hands on what they offer, so it is left out of circles.

#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;

/// The rooms from the last step of the work to what everything stands on.
const ROOMS: [&str; 43] = [
    "offcut",
    "trace",
    "settings",
    "agreement",
    "worth",
    "added",
    "recipe",
    "check",
    "print",
    "sheet",
    "plan",
    "tidy",
    "cutting",
    "assembly",
    "layers",
    "stones",
    "material",
    "stock",
    "offset",
    "overlay",
    "shapes",
    "centre",
    "fit",
    "boundary",
    "clean",
    "inks",
    "fine",
    "segment",
    "otsu",
    "lens",
    "correct",
    "projective",
    "least_squares",
    "polyline",
    "envelope",
    "sets",
    "picture",
    "random",
    "stop",
    "size",
    "limits",
    "expression",
    "units",
];

/// Every file by its path as a module, without comments and tests.
struct Source {
    files: BTreeMap<String, String>,
    doors: BTreeSet<String>,
    /// What a file hands on: its path and a name, and where that comes from.
    handed_on: BTreeMap<(String, String), String>,
}

impl Source {
    fn read(folder: &Path) -> Self {
        let mut source = Self {
            files: BTreeMap::new(),
            doors: BTreeSet::new(),
            handed_on: BTreeMap::new(),
        };
        source.walk(folder, "");
        for (module, text) in &source.files {
            for (path, public) in uses(text) {
                let name = path.rsplit("::").next().unwrap_or_default().to_owned();
                if let Some(from) = source.absolute(module, &path).filter(|_| public) {
                    source.handed_on.insert((module.clone(), name), from);
                }
            }
        }
        source
    }

    fn walk(&mut self, folder: &Path, module: &str) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            let name = path.file_stem().unwrap().to_str().unwrap().to_owned();
            let inner = match module {
                "" => name.clone(),
                module => format!("{module}::{name}"),
            };
            if path.is_dir() {
                self.walk(&path, &inner);
            } else if name != "lib" {
                let text = fs::read_to_string(&path).unwrap();
                let text = text.split("#[cfg(test)]").next().unwrap_or_default();
                let lines = text
                    .lines()
                    .map(|l| l.split("//").next().unwrap_or_default());
                let text: Vec<&str> = lines.collect();
                let door = name == "mod";
                let module = if door { module.to_owned() } else { inner };
                if door {
                    self.doors.insert(module.clone());
                }
                self.files.insert(module, text.join("\n"));
            }
        }
    }

    /// A path from the root of the core; `None` where it leads out of it.
    fn absolute(&self, module: &str, path: &str) -> Option<String> {
        if let Some(path) = path.strip_prefix("crate::") {
            return Some(path.to_owned());
        }
        let (mut above, mut rest) = (module, path);
        while let Some(path) = rest.strip_prefix("super::") {
            above = above.rsplit_once("::").map_or("", |m| m.0);
            rest = path;
        }
        if rest.len() < path.len() {
            return Some(format!("{above}::{rest}").trim_matches(':').to_owned());
        }
        let path = path.strip_prefix("self::").unwrap_or(path);
        let own = format!("{module}::{path}");
        (self.file(&own)? != module).then_some(own)
    }

    /// The file that a path lies in.
    fn file(&self, path: &str) -> Option<String> {
        let mut path = path;
        loop {
            if self.files.contains_key(path) {
                return Some(path.to_owned());
            }
            path = path.rsplit_once("::")?.0;
        }
    }

    /// The file that a path leads to, through what doors hand on.
    fn target(&self, path: &str) -> Option<String> {
        let mut path = path.to_owned();
        for _ in 0..8 {
            let file = self.file(&path)?;
            let rest = path[file.len()..].trim_start_matches(':').to_owned();
            let (name, beyond) = rest.split_once("::").unwrap_or((&rest, ""));
            let Some(from) = self.handed_on.get(&(file.clone(), name.to_owned())) else {
                return Some(file);
            };
            path = format!("{from}::{beyond}").trim_end_matches(':').to_owned();
        }
        None
    }

    /// From every file to those it uses.
    fn arrows(&self) -> BTreeMap<String, BTreeSet<String>> {
        let of = |module: &String, text: &String| {
            let own = uses(text).into_iter().filter(|(_, public)| !public);
            let own = own.map(|(path, _)| path).chain(written_out(text));
            let own = own.filter_map(|path| self.target(&self.absolute(module, &path)?));
            own.filter(|to| to != module).collect()
        };
        let files = self.files.iter();
        files
            .map(|(module, text)| (module.clone(), of(module, text)))
            .collect()
    }
}

/// The paths of all `use` lines, one by one, and whether they are handed on.
fn uses(text: &str) -> Vec<(String, bool)> {
    let mut found = Vec::new();
    for statement in text.split(';') {
        let words: Vec<&str> = statement.split_whitespace().collect();
        let Some(at) = words.iter().rposition(|w| *w == "use") else {
            continue;
        };
        let public = at > 0 && words[at - 1].starts_with("pub");
        let tree = words[at + 1..].join(" ");
        // The word may stand in a text as well.
        let code = |c: char| c.is_alphanumeric() || "_:{}, *".contains(c);
        if !tree.contains("::") || !tree.chars().all(code) {
            continue;
        }
        expand("", &tree, &mut |path| found.push((path, public)));
    }
    found
}

/// Tells every path of a tree such as `a::{b, c::{d, e}}`.
fn expand(before: &str, tree: &str, tell: &mut dyn FnMut(String)) {
    let tree = tree.trim();
    let Some(open) = tree.find('{') else {
        let path = tree.split(" as ").next().unwrap_or_default();
        if !path.is_empty() {
            tell(format!("{before}{path}"));
        }
        return;
    };
    let before = format!("{before}{}", &tree[..open]);
    let inner = &tree[open + 1..tree.rfind('}').unwrap_or(tree.len())];
    let (mut depth, mut from) = (0, 0);
    for (i, c) in inner.char_indices() {
        match c {
            '{' => depth += 1,
            '}' => depth -= 1,
            ',' if depth == 0 => {
                expand(&before, &inner[from..i], tell);
                from = i + 1;
            }
            _ => {}
        }
    }
    expand(&before, &inner[from..], tell);
}

/// Paths from the root that stand in the code itself.
fn written_out(text: &str) -> Vec<String> {
    let code = text.split(';').filter(|s| !s.contains("use "));
    let paths = code.flat_map(|s| s.split("crate::").skip(1));
    let path = |s: &str| {
        let end = s.find(|c: char| !(c.is_alphanumeric() || c == '_' || c == ':'));
        format!(
            "crate::{}",
            s[..end.unwrap_or(s.len())].trim_end_matches(':')
        )
    };
    paths.map(path).collect()
}

fn source() -> Source {
    Source::read(&Path::new(env!("CARGO_MANIFEST_DIR")).join("src"))
}

fn rank(module: &str) -> Option<usize> {
    let room = module.split("::").next().unwrap_or_default();
    ROOMS.iter().position(|r| *r == room)
}

#[test]
fn no_room_uses_one_that_comes_later_in_the_work() {
    let source = source();
    let mut back = Vec::new();
    for (from, all) in source.arrows() {
        assert!(rank(&from).is_some(), "{from} has no place among the rooms");
        back.extend(
            all.iter()
                .filter(|to| rank(to) < rank(&from))
                .map(|to| format!("{from} → {to}")),
        );
    }
    assert!(back.is_empty(), "arrows that run back up: {back:#?}");
    assert!(source.files.len() > 150, "the sources were read");
}

#[test]
fn the_files_of_a_room_have_no_circle() {
    let source = source();
    let mut arrows = source.arrows();
    arrows.retain(|from, _| !source.doors.contains(from));
    for all in arrows.values_mut() {
        all.retain(|to| !source.doors.contains(to));
    }
    // What uses nothing that is left cannot be in a circle; taken out again and again, circles stay.
    loop {
        let done: Vec<String> = arrows
            .iter()
            .filter(|a| a.1.is_empty())
            .map(|a| a.0.clone())
            .collect();
        if done.is_empty() {
            break;
        }
        for file in &done {
            arrows.remove(file);
        }
        for all in arrows.values_mut() {
            all.retain(|to| !done.contains(to));
        }
    }
    assert!(arrows.is_empty(), "circles: {arrows:#?}");
}

#[test]
fn use_lines_are_read_as_the_compiler_reads_them() {
    let text =
        "pub use inner::Kept;\nuse crate::a::{self, b::{C, D as E}};\nfn f() { crate::g::h(1); }";
    let found: Vec<String> = uses(text).into_iter().map(|u| u.0).collect();
    assert_eq!(
        found,
        [
            "inner::Kept",
            "crate::a::self",
            "crate::a::b::C",
            "crate::a::b::D"
        ]
    );
    assert_eq!(written_out(text), ["crate::g::h"]);
}
