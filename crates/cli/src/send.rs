//! `inky send`: a file to a machine, with what of it is really done.

use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use clap::Args as ClapArgs;
use inky_devices::line::{self, Address, Lost, Said, Wish};
use inky_devices::sender::{Known, Language, Program, Sender, Stand, Trouble};

use crate::input;
use crate::named::{Named, Unsuited};
use crate::say;

#[derive(Debug, ClapArgs)]
pub(crate) struct SendArgs {
    /// The file: HPGL or G-code; - is standard input
    pub(crate) input: PathBuf,
    /// Where the machine is, such as tcp://192.168.1.20:9100; of one on the list its own address, unless said
    #[arg(long, required_unless_present = "machine")]
    pub(crate) to: Option<Address>,
    /// Name of a machine on the list: the file is held against what it is and reaches
    #[arg(long, value_name = "NAME")]
    pub(crate) machine: Option<String>,
    /// Folder of the server whose list that is
    #[arg(long, default_value = "data")]
    pub(crate) data: PathBuf,
    /// Number of the path to begin with
    #[arg(long, default_value_t = 1)]
    pub(crate) from: usize,
    /// The machine answers nothing: send as fast as the line takes it, and take that for done
    #[arg(long)]
    pub(crate) mute: bool,
    /// Say what would be sent, and send nothing
    #[arg(long)]
    pub(crate) dry_run: bool,
}

/// Why it was not all done.
#[derive(Debug, thiserror::Error)]
pub(crate) enum SendFailed {
    #[error("cannot read {}: {why}", path.display())]
    Read { path: PathBuf, why: std::io::Error },
    #[error(
        "this is neither HPGL, G-code nor PDF; make it with inky convert, or download it from the page"
    )]
    Unknown,
    #[error("there is nothing to cut in it")]
    Nothing,
    #[error(transparent)]
    Unsuited(#[from] Unsuited),
    #[error("it has {0} paths; --from is one of them")]
    From(usize),
    #[error("say where the machine is with --to")]
    NoAddress,
    #[error("{why}. {}", said(*.done, *.all))]
    Trouble {
        why: Trouble,
        done: usize,
        all: usize,
    },
    #[error("{why}. {}", said(*.done, *.all))]
    Lost { why: Lost, done: usize, all: usize },
    #[error("stopped. {}", said(*.done, *.all))]
    Stopped { done: usize, all: usize },
    #[error(transparent)]
    Io(#[from] std::io::Error),
}

/// How far it came, and how to go on.
fn said(done: usize, all: usize) -> String {
    format!(
        "{done} of {all} paths are done; go on with --from {}",
        (done + 1).min(all)
    )
}

pub(crate) fn run(args: &SendArgs) -> Result<(), SendFailed> {
    let bytes = input::read(&args.input).map_err(|why| SendFailed::Read {
        path: args.input.clone(),
        why,
    })?;
    if bytes.starts_with(b"%PDF-") {
        return hand_over(args, bytes);
    }
    let text = String::from_utf8_lossy(&bytes);
    let language = Language::of(&text).ok_or(SendFailed::Unknown)?;
    let program = Program::of(language, &text);
    let all = program.paths.len();
    if all == 0 {
        return Err(SendFailed::Nothing);
    }
    if !(1..=all).contains(&args.from) {
        return Err(SendFailed::From(all));
    }
    let named = named(args)?;
    let mut time = String::new();
    if let Some(named) = &named {
        named.holds(&program)?;
        time = format!(", about {:.0} s", named.seconds(language, &text));
    }
    let to = address(args, named.as_ref())?;
    if args.dry_run {
        say::done(format_args!(
            "would send paths {} to {all} to {to}{time}",
            args.from
        ));
        return Ok(());
    }
    let (at, from) = (to.clone(), args.from - 1);
    let mute = args.mute || named.is_some_and(|n| n.is_mute());
    let work = move |stopped: &AtomicBool| {
        let again = program.clone();
        let mut sender = match mute {
            true => Sender::to_mute(program, from),
            false => Sender::new(program, from),
        };
        let mut progress = say::Progress::new();
        let mut wish = || wished(stopped);
        let mut told = |s: &Sender, _: Said<'_>| {
            progress.at(&format!("{} of {} paths done", s.done(), s.paths()))
        };
        let gone = line::speak(&mut sender, &at, &mut wish, &mut told);
        let mut done = sender.done();
        if gone == Err(Lost::Gone) && !mute {
            let known = Known {
                certain: done,
                likely: sender.begun(),
                cut_short: at.parts_instructions(),
            };
            let found = line::ask_again(again, known, &at, &mut wish, &mut |_, _| {});
            done = found.unwrap_or(done);
        }
        (sender.stand().clone(), done, gone)
    };
    let (stand, done, gone) = until_stopped(work)?;
    match (gone, stand) {
        (Err(why), _) => Err(SendFailed::Lost { why, done, all }),
        (Ok(()), Stand::Failed(why)) => Err(SendFailed::Trouble { why, done, all }),
        (Ok(()), Stand::Stopped) => Err(SendFailed::Stopped { done, all }),
        (Ok(()), _) => {
            say::done(format_args!("done: {} paths at {to}", all - from));
            Ok(())
        }
    }
}

/// The machine of the list that is named.
fn named(args: &SendArgs) -> Result<Option<Named>, SendFailed> {
    let name = args.machine.as_deref();
    let found = name.map(|name| Named::find(&args.data, name));
    Ok(found.transpose()?)
}

/// Where it is sent: as it is said, else to the machine's own address.
fn address(args: &SendArgs, named: Option<&Named>) -> Result<Address, SendFailed> {
    match (&args.to, named) {
        (Some(to), _) => Ok(to.clone()),
        (None, Some(named)) => Ok(named.address()?),
        (None, None) => Err(SendFailed::NoAddress),
    }
}

/// What Ctrl-C makes of it.
fn wished(stopped: &AtomicBool) -> Wish {
    match stopped.load(Ordering::Relaxed) {
        true => Wish::Stop,
        false => Wish::GoOn,
    }
}

/// Works while Ctrl-C is listened for: it lifts the tool and puts the beam out.
fn until_stopped<T: Send + 'static>(
    work: impl FnOnce(&AtomicBool) -> T + Send + 'static,
) -> std::io::Result<T> {
    let stop = Arc::new(AtomicBool::new(false));
    let stopped = Arc::clone(&stop);
    let done = actix_web::rt::System::new().block_on(async {
        actix_web::rt::spawn(async move {
            if actix_web::rt::signal::ctrl_c().await.is_ok() {
                stop.store(true, Ordering::Relaxed);
            }
        });
        actix_web::rt::task::spawn_blocking(move || work(&stopped)).await
    });
    done.map_err(std::io::Error::other)
}

/// A PDF to a printer, which takes it as a whole.
fn hand_over(args: &SendArgs, file: Vec<u8>) -> Result<(), SendFailed> {
    let named = named(args)?;
    if let Some(named) = &named {
        named.prints()?;
    }
    let to = address(args, named.as_ref())?;
    if args.dry_run {
        say::done(format_args!(
            "would send a PDF of {} kB to {to}",
            file.len() / 1024
        ));
        return Ok(());
    }
    let at = to.clone();
    let gone = until_stopped(move |stopped| {
        let mut progress = say::Progress::new();
        let all = file.len();
        let mut told = |gone: usize| progress.at(&format!("{gone} of {all} bytes sent"));
        line::hand_over(&file, &at, &mut || wished(stopped), &mut told)
    })?;
    match gone {
        Ok(true) => {
            say::done(format_args!("sent to {to}; it prints what it takes"));
            Ok(())
        }
        Ok(false) => Err(SendFailed::Stopped { done: 0, all: 1 }),
        Err(why) => Err(SendFailed::Lost {
            why,
            done: 0,
            all: 1,
        }),
    }
}
