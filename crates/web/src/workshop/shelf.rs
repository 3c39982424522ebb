//! A shelf: the values used last, found by key.

use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex, PoisonError};

use lru::LruCache;

/// Keeps a fixed number of values; the one not used for longest goes first.
pub(super) struct Shelf<V>(Mutex<LruCache<String, Arc<V>>>);

impl<V> Shelf<V> {
    pub(super) fn new(room: NonZeroUsize) -> Self {
        Self(Mutex::new(LruCache::new(room)))
    }

    pub(super) fn get(&self, key: &str) -> Option<Arc<V>> {
        self.0
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .get(key)
            .cloned()
    }

    /// The value of a key, made where it is not there. Two makers at once both make it; the
    /// values are equal, so either may stay.
    pub(super) fn get_or_make<E>(
        &self,
        key: &str,
        make: impl FnOnce() -> Result<V, E>,
    ) -> Result<Arc<V>, E> {
        if let Some(found) = self.get(key) {
            return Ok(found);
        }
        let value = Arc::new(make()?);
        let mut shelf = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        shelf.put(key.to_owned(), Arc::clone(&value));
        Ok(value)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_value_not_used_for_longest_goes_first() {
        let shelf = Shelf::new(NonZeroUsize::MIN.saturating_add(1));
        let make = |v: u8| move || Ok::<_, ()>(v);
        shelf.get_or_make("a", make(1)).unwrap();
        shelf.get_or_make("b", make(2)).unwrap();
        assert_eq!(shelf.get("a").as_deref(), Some(&1));
        shelf.get_or_make("c", make(3)).unwrap();
        assert_eq!(
            (shelf.get("a").is_some(), shelf.get("b").is_some()),
            (true, false)
        );
        assert_eq!(
            shelf.get_or_make("a", || Err(())).as_deref(),
            Ok(&1),
            "not made again"
        );
    }
}
