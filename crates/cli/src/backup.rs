//! `inky backup` and `inky restore`: all jobs with their originals in one file, and back.

use inky_store::BackupError;

use crate::args::{BackupArgs, RestoreArgs};
use crate::save::{SaveFailed, Target};
use crate::say;

/// Why nothing was written.
#[derive(Debug, thiserror::Error)]
pub(crate) enum BackupFailed {
    #[error(transparent)]
    Backup(#[from] BackupError),
    #[error(transparent)]
    Save(#[from] SaveFailed),
}

pub(crate) fn run(args: &BackupArgs) -> Result<(), BackupFailed> {
    Target::new([], args.force).check(&args.output)?;
    inky_store::back_up(&args.data, &args.output)?;
    say::done(format_args!("backed up: {}", args.output.display()));
    Ok(())
}

pub(crate) fn restore(args: &RestoreArgs) -> Result<(), BackupFailed> {
    inky_store::restore(&args.input, &args.data)?;
    say::done(format_args!("restored to {}", args.data.display()));
    Ok(())
}
