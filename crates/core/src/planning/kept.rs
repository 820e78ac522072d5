//! A day as it is kept from one laying to the next: what people go by.

use crate::planning::changes::Change;

use crate::planning::plan::{Bar, Plan};
use serde::{Deserialize, Serialize};

/// What was other, and since when.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayNews))]
pub struct News {
    /// When, s since 1970.
    pub at_s: i64,
    /// What; the greatest first.
    pub changes: Vec<Change>,
}

/// A day that was laid, in seconds since 1970.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct KeptDay {
    /// What is done.
    pub bars: Vec<Bar>,
    /// Blades that no room was found for.
    #[serde(default)]
    pub left_out: Vec<String>,
    /// What was other lately, the newest first.
    #[serde(default)]
    pub news: Vec<News>,
}

/// News that are kept.
pub const MOST_NEWS: usize = 12;

impl Bar {
    /// The same, so many seconds later.
    #[must_use]
    pub fn later(&self, by_s: i64) -> Self {
        Self {
            start_s: self.start_s + by_s,
            leave_s: self.leave_s + by_s,
            end_s: self.end_s + by_s,
            ..self.clone()
        }
    }
}

impl KeptDay {
    /// Its bars counted from another zero, as a plan.
    #[must_use]
    pub fn plan(&self, zero_s: i64) -> Plan {
        Plan::known(self.bars.iter().map(|b| b.later(-zero_s)).collect())
    }

    /// What is other by now goes before what was.
    pub fn tell(&mut self, at_s: i64, changes: Vec<Change>) {
        if changes.is_empty() {
            return;
        }
        self.news.insert(0, News { at_s, changes });
        self.news.truncate(MOST_NEWS);
    }
}
