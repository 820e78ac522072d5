//! Results kept by the content of what they depend on.

use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex};

/// Hash of everything that a result depends on.
pub type Content = [u8; 32];

/// Results by content, those made first given up first.
#[derive(Debug)]
pub struct Cache<T> {
    most: usize,
    known: Mutex<Known<T>>,
}

#[derive(Debug)]
struct Known<T> {
    results: HashMap<Content, Arc<T>>,
    order: VecDeque<Content>,
}

impl<T> Cache<T> {
    /// Of at most so many results.
    #[must_use]
    pub fn holding(most: usize) -> Self {
        Self {
            most,
            known: Mutex::new(Known {
                results: HashMap::new(),
                order: VecDeque::new(),
            }),
        }
    }

    /// The result for this content, when it is kept.
    #[must_use]
    pub fn get(&self, key: &Content) -> Option<Arc<T>> {
        self.known.lock().ok()?.results.get(key).cloned()
    }

    /// Keeps a result.
    pub fn put(&self, key: Content, value: Arc<T>) {
        let Ok(mut known) = self.known.lock() else {
            return;
        };
        if known.results.insert(key, value).is_none() {
            known.order.push_back(key);
        }
        while known.order.len() > self.most {
            if let Some(oldest) = known.order.pop_front() {
                known.results.remove(&oldest);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_oldest_is_given_up_first_and_the_same_content_once() {
        let cache = Cache::holding(2);
        let key = |i: u8| [i; 32];
        for i in [1, 2, 2, 3] {
            cache.put(key(i), Arc::new(i));
        }
        let kept = [1, 2, 3].map(|i| cache.get(&key(i)).map(|v| *v));
        assert_eq!(kept, [None, Some(2), Some(3)]);
    }
}
