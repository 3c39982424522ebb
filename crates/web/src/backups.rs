//! What is done every day while the server runs: a backup, and what was deleted long ago goes.

use std::path::PathBuf;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use actix_web::{rt, web};
use inky_store::{BackupError, Kept, Store, daily};

/// How long after its start the server looks first, when the first pages have been served …
const FIRST: Duration = Duration::from_secs(20);
/// … and how often it looks whether another day has come.
const EVERY: Duration = Duration::from_secs(3600);

/// What the Jobs page says of the backups.
#[derive(Clone, Debug, Default)]
pub(crate) struct Backups(Arc<Mutex<Option<String>>>);

impl Backups {
    /// In words; `None` before the first look.
    pub(crate) fn told(&self) -> Option<String> {
        let told = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        told.clone()
    }

    fn tell(&self, words: String) {
        *self.0.lock().unwrap_or_else(PoisonError::into_inner) = Some(words);
    }

    /// Looks after a data folder and its store for as long as the server runs.
    pub(crate) fn look_after(&self, store: Store, data: PathBuf) {
        let backups = self.clone();
        rt::spawn(async move {
            rt::time::sleep(FIRST).await;
            loop {
                let (store, folder) = (store.clone(), data.clone());
                let round = web::block(move || (daily(&folder), store.empty_bin()));
                if let Ok((made, emptied)) = round.await {
                    if let Err(error) = emptied {
                        tracing::error!(%error, "the bin was not emptied");
                    }
                    if let Err(error) = &made {
                        tracing::error!(%error, "no backup was made");
                    }
                    backups.tell(words(&made));
                }
                rt::time::sleep(EVERY).await;
            }
        });
    }
}

fn words(made: &Result<Kept, BackupError>) -> String {
    match made {
        Ok(kept) => {
            let newest = kept.days.first().map_or("", String::as_str);
            let days = match kept.days.len() {
                0 | 1 => String::new(),
                days => format!("the last {days} are "),
            };
            format!(
                "Backed up on {newest}; {days}kept in {}.",
                kept.folder.display()
            )
        }
        Err(error) => format!("No backup was made today: {error}."),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_page_says_which_backups_there_are_or_why_there_is_none() {
        let kept = Kept {
            folder: PathBuf::from("data/backups"),
            days: vec!["2026-11-28".to_owned(), "2026-11-27".to_owned()],
        };
        assert_eq!(
            words(&Ok(kept)),
            "Backed up on 2026-11-28; the last 2 are kept in data/backups."
        );
        let none = words(&Err(BackupError::Nothing(PathBuf::from("data"))));
        assert!(none.starts_with("No backup was made today"), "{none}");
        assert_eq!(Backups::default().told(), None);
    }
}
