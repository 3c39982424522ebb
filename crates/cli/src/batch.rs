//! Several files at once: what each is written as, and how they went.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};

use clap::Args;
use inky_formats::files::Format;

use crate::say;

/// Where the results go.
#[derive(Debug, Args)]
pub(crate) struct OutArgs {
    /// The file to write: .svg, .dxf, .plt, .gcode, .pdf or .png; - is standard output, with --format
    #[arg(
        short,
        long,
        required_unless_present = "out_dir",
        conflicts_with = "out_dir"
    )]
    pub(crate) output: Option<PathBuf>,
    /// A folder for the results of several files, each under its own name
    #[arg(long)]
    pub(crate) out_dir: Option<PathBuf>,
}

/// Why nothing was begun.
#[derive(Debug, thiserror::Error)]
pub(crate) enum BatchFailed {
    #[error("several files need --out-dir; -o names one")]
    OneName,
    #[error("{} and {} would both be written as {}", .0.display(), .1.display(), .2.display())]
    SameName(PathBuf, PathBuf, PathBuf),
    #[error("cannot make the folder {}: {source}", path.display())]
    Folder {
        path: PathBuf,
        source: std::io::Error,
    },
}

/// One file and what it is written as.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Job<'a> {
    pub(crate) input: &'a PathBuf,
    pub(crate) output: &'a PathBuf,
}

/// Name of a file without its ending, for a title.
pub(crate) fn title(path: &Path) -> String {
    let stem = path.file_stem().unwrap_or_default().to_string_lossy();
    match &*stem {
        "-" => "standard input".to_owned(),
        stem => stem.to_owned(),
    }
}

/// What each input is written as.
///
/// # Errors
/// Where one name is for several, or the folder cannot be made.
pub(crate) fn outputs(
    inputs: &[PathBuf],
    out: &OutArgs,
    format: Option<Format>,
) -> Result<Vec<PathBuf>, BatchFailed> {
    let Some(folder) = &out.out_dir else {
        let named: Vec<PathBuf> = out.output.iter().cloned().collect();
        return if inputs.len() == named.len() {
            Ok(named)
        } else {
            Err(BatchFailed::OneName)
        };
    };
    let ending = format.unwrap_or(Format::Svg).ending();
    let name = |input: &PathBuf| folder.join(format!("{}.{ending}", title(input)));
    let named: Vec<PathBuf> = inputs.iter().map(name).collect();
    let mut taken = BTreeSet::new();
    for (n, path) in named.iter().enumerate() {
        if !taken.insert(path) {
            let first = named.iter().position(|p| p == path).unwrap_or(n);
            let (a, b) = (inputs[first].clone(), inputs[n].clone());
            return Err(BatchFailed::SameName(a, b, path.clone()));
        }
    }
    std::fs::create_dir_all(folder).map_err(|source| BatchFailed::Folder {
        path: folder.clone(),
        source,
    })?;
    Ok(named)
}

/// Does the work for every file; one that fails does not keep the others. Of several, each has a
/// line that names it.
///
/// # Errors
/// What went wrong with the only one, or how many of several failed.
pub(crate) fn each<E: std::fmt::Display>(
    inputs: &[PathBuf],
    mut work: impl FnMut(usize, &PathBuf) -> Result<String, E>,
) -> Result<(), String> {
    let several = inputs.len() > 1;
    let mut failed = 0;
    for (n, input) in inputs.iter().enumerate() {
        let name = input.display().to_string();
        match work(n, input) {
            Ok(said) if said.is_empty() => {}
            Ok(said) if several => say::done(format_args!("{name}: {said}")),
            Ok(said) => say::done(said),
            Err(why) if !several => return Err(why.to_string()),
            Err(why) => {
                failed += 1;
                let why = why.to_string();
                let named = why.starts_with(&name);
                let name = if named {
                    String::new()
                } else {
                    format!("{name}: ")
                };
                eprintln!("inky: {name}{why}");
            }
        }
    }
    if failed == 0 {
        return Ok(());
    }
    Err(format!("{failed} of {} files failed", inputs.len()))
}
