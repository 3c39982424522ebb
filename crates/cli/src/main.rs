//! `inky`: the program. It parses its arguments, calls the core, and says how it went.
//!
//! Results go to standard output or the named file, messages to standard error. Exit code 0: done;
//! 1: the work could not be done, and why; 2: wrong usage.

mod args;
mod backup;
mod check;
mod convert;
mod files;
mod inspect;
mod piece;
mod plan;
mod save;
mod serve;
mod sheet;
mod trace;

use std::process::ExitCode;

use clap::Parser;

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

fn main() -> ExitCode {
    let args = args::Args::parse();
    let result = match args.command {
        args::Command::Trace(args) => trace::run(&args).map_err(|e| e.to_string()),
        args::Command::Inspect(args) => inspect::run(&args).map_err(|e| e.to_string()),
        args::Command::Check(args) => check::run(&args).map_err(|e| e.to_string()),
        args::Command::Convert(args) => convert::run(&args).map_err(|e| e.to_string()),
        args::Command::Sheet(args) => sheet::run(&args).map_err(|e| e.to_string()),
        args::Command::Plan(args) => plan::run(&args).map_err(|e| e.to_string()),
        args::Command::Backup(args) => backup::run(&args).map_err(|e| e.to_string()),
        args::Command::Restore(args) => backup::restore(&args).map_err(|e| e.to_string()),
        args::Command::Serve(args) => serve::run(&args, false).map_err(|e| e.to_string()),
        args::Command::Demo(args) => serve::run(&args, true).map_err(|e| e.to_string()),
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("inky: {message}");
            ExitCode::FAILURE
        }
    }
}
