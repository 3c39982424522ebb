//! `inky`: the program. It parses its arguments, calls the core, and says how it went.
//!
//! Results go to standard output or the named file, messages to standard error. Exit code 0: done;
//! 1: the work could not be done, and why; 2: wrong usage.

mod args;
mod backup;
mod batch;
mod check;
mod coloured;
mod convert;
mod correct;
mod files;
mod input;
mod inspect;
mod machine;
mod made;
mod named;
mod paper;
mod piece;
mod plan;
mod print;
mod save;
mod say;
mod send;
mod serve;
mod sheet;
mod squared;
mod stock;
mod stones;
mod trace;

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use clap::error::ErrorKind;
use clap::{CommandFactory, Parser};
use inky_formats::files::Format;

use args::{Args, Command};
use batch::{BatchFailed, Job, OutArgs};

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    let args = args::Args::parse();
    say::as_much_as(args.quiet, args.verbose);
    match run(args.command) {
        Ok(()) => ExitCode::SUCCESS,
        Err(Failure::Usage(message)) => Args::command()
            .error(ErrorKind::ArgumentConflict, message)
            .exit(),
        Err(Failure::Work(message)) => {
            eprintln!("inky: {message}");
            ExitCode::FAILURE
        }
    }
}

/// Why nothing, or not all, was done.
enum Failure {
    /// What was asked for makes no sense.
    Usage(String),
    /// It could not be done.
    Work(String),
}

fn work(error: impl std::fmt::Display) -> Failure {
    Failure::Work(error.to_string())
}

fn run(command: Command) -> Result<(), Failure> {
    match command {
        Command::Trace(args) => {
            if args.inputs.len() > 1 && args.report.is_some() {
                let message = "--report is of one picture; trace one at a time";
                return Err(Failure::Usage(message.to_owned()));
            }
            let outputs = outputs(&args.inputs, &args.out, args.file.format)?;
            batch::each(&args.inputs, |n, input| {
                let output = &outputs[n];
                trace::run(&args, Job { input, output })
            })
            .map_err(work)
        }
        Command::Convert(args) => {
            let outputs = outputs(&args.inputs, &args.out, args.file.format)?;
            batch::each(&args.inputs, |n, input| {
                let output = &outputs[n];
                convert::run(&args, Job { input, output })
            })
            .map_err(work)
        }
        Command::Check(args) => check::run(&args).map_err(work),
        Command::Inspect(args) => inspect::run(&args).map_err(work),
        Command::Sheet(args) => sheet::run(&args).map_err(work),
        Command::Stones(args) => stones::run(&args).map_err(work),
        Command::Correct(args) => correct::run(&args).map_err(work),
        Command::BedMarks(args) => correct::bed_marks(&args).map_err(work),
        Command::Stock(args) => stock::run(&args).map_err(work),
        Command::Plan(args) => plan::run(&args).map_err(work),
        Command::Backup(args) => backup::run(&args).map_err(work),
        Command::Restore(args) => backup::restore(&args).map_err(work),
        Command::Serve(args) => serve::run(&args, false).map_err(work),
        Command::Demo(args) => serve::run(&args, true).map_err(work),
        Command::Send(args) => send::run(&args).map_err(work),
        Command::Machine(args) => machine::run(&args).map_err(work),
        Command::Completions { shell } => {
            let mut text = Vec::new();
            clap_complete::generate(shell, &mut Args::command(), "inky", &mut text);
            save::save(Path::new(input::STANDARD), &text).map_err(work)
        }
        Command::Man => {
            let mut text = Vec::new();
            let page = clap_mangen::Man::new(Args::command());
            page.render(&mut text).map_err(work)?;
            save::save(Path::new(input::STANDARD), &text).map_err(work)
        }
    }
}

fn outputs(
    inputs: &[PathBuf],
    out: &OutArgs,
    format: Option<Format>,
) -> Result<Vec<PathBuf>, Failure> {
    batch::outputs(inputs, out, format).map_err(|e| match e {
        BatchFailed::Folder { .. } => work(e),
        _ => Failure::Usage(e.to_string()),
    })
}
