//! A file for a machine, cut into paths that can each be begun with.
//!
//! ```text
//!   HPGL    IN; SP1; VS30; FS80; │ PU…; PD…; │ PU…; PD…; │ PU; SP0;
//!   G-code  G21 G90 … M4 S300    │ G0…  G1…  │ G0…  G1…  │ M5 … M2
//!           setting                path 0      path 1      end
//! ```

use super::Known;

/// What a machine understands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Language {
    /// Plotter instructions.
    Hpgl,
    /// Lines of RS-274.
    Gcode,
}

impl Language {
    /// That of a file: plotter instructions begin with two letters and end with a semicolon.
    #[must_use]
    pub fn of(text: &str) -> Option<Self> {
        let text = text.trim_start();
        let mut letters = text.chars();
        let two = letters.by_ref().take(2).filter(char::is_ascii_alphabetic);
        if two.count() == 2 {
            return text.contains(';').then_some(Self::Hpgl);
        }
        let words = ["G0", "G1", "G2", "G3", "M3", "M4", "M5"];
        words
            .iter()
            .any(|w| text.contains(w))
            .then_some(Self::Gcode)
    }
}

/// A stretch that is begun at its own first place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Path {
    /// What has to be said before it where it is the first that is sent.
    pub setting: String,
    /// What is sent of it.
    pub text: String,
}

/// A file in paths.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Program {
    /// What it is written in.
    pub language: Language,
    /// Its paths, in order.
    pub paths: Vec<Path>,
    /// What is said after them.
    pub end: String,
}

impl Program {
    /// The paths of a file.
    #[must_use]
    pub fn of(language: Language, text: &str) -> Self {
        match language {
            Language::Hpgl => plotter(text),
            Language::Gcode => lines(text),
        }
    }
}

impl Program {
    /// The path to go on with where a plotter stands at a place, in its own units: the one after that which ends there,
    /// or the one that was broken off there. Where several do, the one nearest to what is likely. At its origin and on no
    /// path it is the first that is not certainly done. `None` where it stands elsewhere.
    #[must_use]
    pub fn next_at(&self, place: [i64; 2], known: Known) -> Option<usize> {
        let Known {
            certain, likely, ..
        } = known;
        // One that was switched on anew stands at its origin, and what it held is gone.
        let at_home = place.iter().all(|v| v.abs() <= 1);
        let from = certain.saturating_sub(1);
        let ways = self.paths.iter().enumerate().skip(from);
        let mut before = None;
        let stands = ways.filter_map(|(n, path)| {
            let places = places(&path.text);
            let near = |p: &[i64; 2]| (0..2).all(|k| (p[k] - place[k]).abs() <= 1);
            // Stopped at once it may stand anywhere along its legs, the way to the path among them.
            let way: Vec<[i64; 2]> = before.iter().chain(&places).copied().collect();
            before = places.last().copied();
            // Where a closed path ends it also begins, and a tool that was stopped may only have come there.
            let begins = places.first().is_some_and(near);
            let may_begin = (known.cut_short || at_home) && begins && n >= certain;
            if before.as_ref().is_some_and(near) && !may_begin {
                Some((0, n + 1))
            } else {
                let on = begins || way.windows(2).any(|leg| lies_on(place, leg[0], leg[1]));
                on.then_some((1, n))
            }
        });
        let stands = stands.filter(|&(_, next)| next >= certain);
        stands
            .min_by_key(|&(broken, next)| (broken, next.abs_diff(likely)))
            .map(|(_, next)| next)
            .or(at_home.then_some(certain))
    }
}

impl Program {
    /// Where a plotter stands once a path is done, in its own units; `None` where that is not said outright.
    pub(super) fn end_of(&self, path: usize) -> Option<[i64; 2]> {
        let text = &self.paths.get(path)?.text;
        let outright = self.language == Language::Hpgl && !text.contains("PR");
        places(text).last().copied().filter(|_| outright)
    }
}

/// Pairs of numbers in a piece at most: any buffer has room for it.
const PAIRS: usize = 24;

/// Plotter instructions in pieces that go as a whole. The way to a path goes with the beginning of its cut, so that a
/// machine that stands there has cut it to its end and not only gone there.
pub(super) fn pieces(text: &str) -> Vec<String> {
    let mut all: Vec<String> = Vec::new();
    let mut travels = String::new();
    for said in text.split_inclusive(';') {
        let (name, numbers) = said.split_at(said.len().min(2));
        let numbers: Vec<&str> = numbers.trim_end_matches(';').split(',').collect();
        if name == "PU" && numbers.len() > 1 {
            travels.push_str(said);
            continue;
        }
        if numbers.len() <= 2 * PAIRS {
            all.push(std::mem::take(&mut travels) + said);
            continue;
        }
        for some in numbers.chunks(2 * PAIRS) {
            all.push(format!(
                "{}{name}{};",
                std::mem::take(&mut travels),
                some.join(",")
            ));
        }
    }
    if !travels.is_empty() {
        all.push(travels);
    }
    all
}

/// The places that plotter instructions go to, in its units.
fn places(text: &str) -> Vec<[i64; 2]> {
    let mut all = Vec::new();
    for said in text.split(';') {
        let numbers = said.get(2..).unwrap_or_default().split(',');
        let numbers: Vec<i64> = numbers
            .filter_map(|v| Some(v.trim().parse::<f64>().ok()?.round() as i64))
            .collect();
        if ["PU", "PD", "PA"].iter().any(|name| said.starts_with(name)) {
            all.extend(numbers.chunks_exact(2).map(|p| [p[0], p[1]]));
        }
    }
    all
}

/// Whether a place lies on a leg, but for rounding.
fn lies_on(place: [i64; 2], from: [i64; 2], to: [i64; 2]) -> bool {
    let [p, a, b] = [place, from, to].map(|[x, y]| kurbo::Point::new(x as f64, y as f64));
    let (way, off) = (b - a, p - a);
    let along = (off.dot(way) / way.hypot2().max(1e-9)).clamp(0.0, 1.0);
    p.distance(a + way * along) < 1.5
}

/// Settings by their name, each as it was said last, in the order in which they came first.
#[derive(Clone, Debug, Default)]
struct Settings(Vec<(String, String)>);

impl Settings {
    fn set(&mut self, name: &str, said: &str) {
        match self.0.iter_mut().find(|(known, _)| known == name) {
            Some((_, last)) => said.clone_into(last),
            None => self.0.push((name.to_owned(), said.to_owned())),
        }
    }

    fn all(&self, between: &str) -> String {
        self.0
            .iter()
            .map(|(_, said)| format!("{said}{between}"))
            .collect()
    }
}

fn plotter(text: &str) -> Program {
    let mut settings = Settings::default();
    let mut paths: Vec<Path> = Vec::new();
    let (mut setting, mut waiting, mut cuts) = (String::new(), String::new(), false);
    for said in text.split(';').map(str::trim).filter(|s| !s.is_empty()) {
        let name = said.get(..2).unwrap_or(said).to_ascii_uppercase();
        if name == "PU" && cuts {
            // The tool is raised where the path ends, not where the next one begins.
            paths.push(Path {
                setting: std::mem::take(&mut setting),
                text: std::mem::take(&mut waiting) + "PU;",
            });
            cuts = false;
            if said.len() == 2 {
                continue;
            }
        }
        if waiting.is_empty() {
            setting = settings.all(";");
        }
        if SETTINGS.contains(&name.as_str()) {
            settings.set(&name, said);
        }
        cuts |= name == "PD";
        waiting.push_str(said);
        waiting.push(';');
    }
    Program {
        language: Language::Hpgl,
        paths,
        end: waiting,
    }
}

/// Instructions that hold until they are given again.
const SETTINGS: [&str; 5] = ["IN", "DF", "SP", "VS", "FS"];

fn lines(text: &str) -> Program {
    let mut settings = Settings::default();
    let mut paths: Vec<Path> = Vec::new();
    let (mut setting, mut waiting, mut cuts) = (String::new(), String::new(), false);
    for line in text.lines() {
        let bare: String = bare(line);
        if bare.is_empty() {
            continue;
        }
        let has = |word: &str| {
            bare.match_indices(word).any(|(at, _)| {
                !bare[at + word.len()..].starts_with(|c: char| c.is_ascii_digit() || c == '.')
            })
        };
        let travels = has("G0");
        let off = has("M5") || has("M2") || has("M30");
        if cuts && (travels || off) {
            paths.push(Path {
                setting: std::mem::take(&mut setting),
                text: std::mem::take(&mut waiting),
            });
            cuts = false;
        }
        if waiting.is_empty() {
            setting = settings.all("\n");
        }
        for (name, word) in MODES {
            if has(word) {
                settings.set(name, word);
            }
        }
        for letter in ['S', 'F'] {
            if let Some(at) = bare.find(letter) {
                let number: String = bare[at + 1..]
                    .chars()
                    .take_while(|c| c.is_ascii_digit() || *c == '.')
                    .collect();
                settings.set(&letter.to_string(), &format!("{letter}{number}"));
            }
        }
        cuts |= has("G1") || has("G2") || has("G3");
        waiting.push_str(&bare);
        waiting.push('\n');
    }
    if cuts {
        paths.push(Path {
            setting,
            text: std::mem::take(&mut waiting),
        });
    }
    Program {
        language: Language::Gcode,
        paths,
        end: waiting,
    }
}

/// Words that hold until another of their group is given.
const MODES: [(&str, &str); 7] = [
    ("unit", "G20"),
    ("unit", "G21"),
    ("distance", "G90"),
    ("distance", "G91"),
    ("beam", "M3"),
    ("beam", "M4"),
    ("beam", "M5"),
];

/// A line without comments and blanks, in capitals.
fn bare(line: &str) -> String {
    let mut within = false;
    let letters = line.chars().take_while(|&c| c != ';');
    let kept = letters.filter(|&c| {
        let was = within;
        within = match c {
            '(' => true,
            ')' => false,
            _ => within,
        };
        !was && !within && !c.is_whitespace() && c != ')'
    });
    kept.collect::<String>().to_ascii_uppercase()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn plotter_instructions_in_paths() {
        let text =
            "IN;\nSP1;VS30;FS80;PU0,0;PD40,0,40,40;PU9,9;PD10,10;SP2;VS10;PU50,50;PD60,60;PU;SP0;";
        let program = Program::of(Language::Hpgl, text);
        let texts: Vec<&str> = program.paths.iter().map(|p| p.text.as_str()).collect();
        assert_eq!(
            texts,
            [
                "IN;SP1;VS30;FS80;PU0,0;PD40,0,40,40;PU;",
                "PU9,9;PD10,10;SP2;VS10;PU;",
                "PU50,50;PD60,60;PU;"
            ]
        );
        assert_eq!(program.end, "SP0;");
        assert_eq!(Language::of(text), Some(Language::Hpgl));
    }

    #[test]
    fn pieces_are_short_and_begin_with_the_way_there() {
        assert_eq!(
            pieces("IN;SP1;PU0,0;PD4,0,4,4;PU;"),
            ["IN;", "SP1;", "PU0,0;PD4,0,4,4;", "PU;"]
        );
        let long: Vec<String> = (0..1000).map(|n| n.to_string()).collect();
        let parts = pieces(&format!("PU1,1;PD{};PU9,9;", long.join(",")));
        assert!(parts.iter().all(|p| p.len() < 300));
        let numbers: String = parts.concat();
        assert!(parts[0].starts_with("PU1,1;PD0,1,") && numbers.ends_with("999;PU9,9;"));
        assert_eq!(numbers.matches("PD").count(), 1000_usize.div_ceil(48));
    }

    #[test]
    fn where_a_plotter_stands_tells_what_is_left() {
        let text = "IN;PU0,0;PD40,0,40,40;PU90,0;PD90,50;PU0,0;PD7,7,0,0;PU;SP0;";
        let program = Program::of(Language::Hpgl, text);
        let stopped = |place, certain, likely, cut_short| {
            let known = Known {
                certain,
                likely,
                cut_short,
            };
            program.next_at(place, known)
        };
        let at = |place, certain, likely| stopped(place, certain, likely, false);
        assert_eq!(at([40, 41], 0, 0), Some(1));
        assert_eq!(at([40, 40], 1, 2), Some(1));
        assert_eq!(at([90, 50], 1, 1), Some(2));
        // Broken off, and all done.
        assert_eq!(at([7, 7], 1, 3), Some(2));
        assert_eq!(
            at([0, 0], 2, 3),
            Some(2),
            "it may have been switched on anew"
        );
        assert_eq!(at([0, 0], 3, 3), Some(3));
        // Stopped in the midst of a leg, and on the way to a path.
        assert_eq!(at([20, 0], 0, 0), Some(0));
        assert_eq!(at([65, 20], 1, 1), Some(1));
        // The third begins where it ends: stopped there it may only have come.
        let ring = Program::of(
            Language::Hpgl,
            "IN;PU0,0;PD9,0;PU50,50;PD90,50,90,90,50,50;PU;SP0;",
        );
        let there = |cut_short| {
            let (certain, likely) = (1, 1);
            let known = Known {
                certain,
                likely,
                cut_short,
            };
            ring.next_at([50, 50], known)
        };
        assert_eq!([there(false), there(true)], [Some(2), Some(1)]);
        assert_eq!(
            stopped([90, 50], 1, 1, true),
            Some(2),
            "an open one is done"
        );
        // Somewhere else, and where it was before what is certain.
        assert_eq!(at([500, 500], 0, 1), None);
        assert_eq!(at([40, 40], 3, 3), None);
    }

    #[test]
    fn lines_in_paths_with_what_was_set_before_them() {
        let text = "G21 G90 G94\n(teal)\nM4 S300\nG0 X1 Y1\nG1 X2 F600\nG2 X3 Y3 I1\nG0 X9 Y9\nG1 X10 S200\nM5\nG0 X0 Y0\nM2\n";
        let program = Program::of(Language::Gcode, text);
        assert_eq!(program.paths.len(), 2);
        assert_eq!(
            program.paths[0].text,
            "G21G90G94\nM4S300\nG0X1Y1\nG1X2F600\nG2X3Y3I1\n"
        );
        assert_eq!(program.paths[1].text, "G0X9Y9\nG1X10S200\n");
        assert_eq!(program.paths[1].setting, "G21\nG90\nM4\nS300\nF600\n");
        assert_eq!(program.end, "M5\nG0X0Y0\nM2\n");
        assert_eq!(Language::of(text), Some(Language::Gcode));
        assert_eq!(Language::of("hello"), None);
    }
}
