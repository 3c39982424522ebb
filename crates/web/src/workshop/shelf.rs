//! Shelves: values kept for the next change, within one amount of memory.
//!
//! Values share much: of one picture there are many results. Each says which parts it keeps alive, and a
//! part counts once, however many values hold it.

use std::any::Any;
use std::collections::BTreeMap;
use std::marker::PhantomData;
use std::sync::{Arc, Mutex, PoisonError};

use lru::LruCache;

/// A part of a value: where it lies in memory, by which it is told from others, and its bytes.
pub(super) type Part = (usize, usize);

/// What can be kept.
pub(super) trait Weighs {
    /// The parts that it keeps alive.
    fn parts(&self) -> Vec<Part>;
}

/// The part that one shared value is.
pub(super) fn part<T>(value: &Arc<T>, bytes: usize) -> Part {
    (Arc::as_ptr(value) as usize, bytes)
}

struct Entry {
    value: Arc<dyn Any + Send + Sync>,
    parts: Vec<Part>,
}

struct Inside {
    /// By the name of the shelf and the key on it.
    entries: LruCache<(&'static str, String), Entry>,
    /// By where it lies: bytes, and how many entries hold it.
    parts: BTreeMap<usize, (usize, usize)>,
    bytes: usize,
}

/// The room that all shelves share; the value not used for longest goes first.
#[derive(Clone)]
pub(super) struct Room {
    inside: Arc<Mutex<Inside>>,
    most: usize,
}

/// So many values stay whatever they weigh: the stages of one large picture are worked on together.
const STAY: usize = 12;

impl Room {
    /// Room for so many bytes.
    pub(super) fn new(most: usize) -> Self {
        Self {
            inside: Arc::new(Mutex::new(Inside {
                entries: LruCache::unbounded(),
                parts: BTreeMap::new(),
                bytes: 0,
            })),
            most,
        }
    }

    /// A shelf in it.
    pub(super) fn shelf<V>(&self, name: &'static str) -> Shelf<V> {
        Shelf {
            room: self.clone(),
            name,
            of: PhantomData,
        }
    }

    fn put(&self, key: (&'static str, String), entry: Entry) {
        let mut guard = self.inside.lock().unwrap_or_else(PoisonError::into_inner);
        let inside = &mut *guard;
        inside.hold(&entry.parts);
        if let Some(replaced) = inside.entries.put(key, entry) {
            inside.let_go(&replaced.parts);
        }
        let before = inside.entries.len();
        while inside.bytes > self.most && inside.entries.len() > STAY {
            let Some((_, oldest)) = inside.entries.pop_lru() else {
                break;
            };
            inside.let_go(&oldest.parts);
        }
        let gone = before - inside.entries.len();
        if gone > 0 {
            let (left, megabytes) = (inside.entries.len(), inside.bytes >> 20);
            tracing::info!(gone, left, megabytes, "results put away for newer ones");
        }
    }
}

impl Inside {
    fn hold(&mut self, parts: &[Part]) {
        for &(at, bytes) in parts {
            let held = self.parts.entry(at).or_insert((bytes, 0));
            held.1 += 1;
            if held.1 == 1 {
                self.bytes += bytes;
            }
        }
    }

    fn let_go(&mut self, parts: &[Part]) {
        for (at, _) in parts {
            let Some(held) = self.parts.get_mut(at) else {
                continue;
            };
            held.1 -= 1;
            if held.1 == 0 {
                self.bytes -= held.0;
                self.parts.remove(at);
            }
        }
    }
}

/// Values of one kind, found by key.
pub(super) struct Shelf<V> {
    room: Room,
    name: &'static str,
    of: PhantomData<fn() -> V>,
}

impl<V: Weighs + Send + Sync + 'static> Shelf<V> {
    pub(super) fn get(&self, key: &str) -> Option<Arc<V>> {
        let mut inside = self
            .room
            .inside
            .lock()
            .unwrap_or_else(PoisonError::into_inner);
        let entry = inside.entries.get(&(self.name, key.to_owned()))?;
        Arc::clone(&entry.value).downcast().ok()
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
        let entry = Entry {
            parts: value.parts(),
            value: Arc::clone(&value) as Arc<dyn Any + Send + Sync>,
        };
        self.room.put((self.name, key.to_owned()), entry);
        Ok(value)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A value of its own weight that may hold a part shared with others.
    struct Thing(usize, Option<Arc<Vec<u8>>>);

    impl Weighs for Thing {
        fn parts(&self) -> Vec<Part> {
            let own = (std::ptr::from_ref(self) as usize, self.0);
            let shared = self.1.as_ref().map(|s| part(s, s.len()));
            std::iter::once(own).chain(shared).collect()
        }
    }

    fn put(shelf: &Shelf<Thing>, key: &str, bytes: usize, shared: Option<&Arc<Vec<u8>>>) {
        let thing = Thing(bytes, shared.cloned());
        assert!(shelf.get_or_make(key, || Ok::<_, ()>(thing)).is_ok());
    }

    #[test]
    fn the_value_not_used_for_longest_goes_first() {
        let room = Room::new(STAY * 100);
        let (shelf, other) = (room.shelf::<Thing>("a"), room.shelf::<Thing>("b"));
        for n in 0..STAY {
            put(&shelf, &n.to_string(), 100, None);
        }
        assert!(shelf.get("0").is_some(), "used again");
        put(&other, "0", 100, None);
        assert!(shelf.get("0").is_some() && other.get("0").is_some());
        assert!(shelf.get("1").is_none(), "it made room");
        assert_eq!(other.get("0").map(|t| t.0), Some(100));
        let made_again = shelf.get_or_make("0", || Err(()));
        assert!(made_again.is_ok(), "what is there is not made again");
    }

    #[test]
    fn what_values_share_counts_once_and_goes_with_the_last_of_them() {
        let room = Room::new(1000);
        let shelf = room.shelf::<Thing>("a");
        let bytes = || room.inside.lock().unwrap().bytes;
        let shared = Arc::new(vec![0; 900]);
        for n in 0..20 {
            put(&shelf, &n.to_string(), 1, Some(&shared));
        }
        assert_eq!(bytes(), 920);
        for n in 20..40 {
            put(&shelf, &n.to_string(), 20, None);
        }
        assert!(bytes() <= 1000, "{}", bytes());
        assert!(shelf.get("0").is_none() && shelf.get("39").is_some());
        // Too heavy for all of the room: the newest stay, so that work on them goes on.
        for n in 40..60 {
            put(&shelf, &n.to_string(), 2000, None);
        }
        let left = room.inside.lock().unwrap().entries.len();
        assert_eq!((left, bytes()), (STAY, STAY * 2000));
    }
}
