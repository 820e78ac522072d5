//! What is other on a day that was laid anew, said in as little as it can be.

use crate::planning::plan::Bar;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Less than this nobody needs to be told, s.
pub const WORTH_TELLING_S: i64 = 300;

/// What is other.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayChange))]
pub enum Change {
    /// An activity that was still to come is later, or earlier where negative.
    Moved {
        /// The blade.
        blade: String,
        /// Which of its activities: the first that moved by most.
        activity: usize,
        /// What kind of thing.
        kind: String,
        /// By so much, s.
        by_s: i64,
    },
    /// A station is free at another time.
    Free {
        /// Which.
        station: String,
        /// When it is free now, s.
        at_s: i64,
        /// Later by so much than it was, s; earlier where negative.
        by_s: i64,
    },
    /// A blade is no longer on it.
    LeftOut {
        /// Which.
        blade: String,
    },
    /// A blade is on it now.
    Added {
        /// Which.
        blade: String,
    },
}

impl Change {
    fn size_s(&self) -> i64 {
        match self {
            Self::Moved { by_s, .. } | Self::Free { by_s, .. } => by_s.abs(),
            Self::LeftOut { .. } | Self::Added { .. } => i64::MAX,
        }
    }
}

/// What is other in `after` of what is still to come at `now_s`, the greatest first.
#[must_use]
pub fn changes(before: &[Bar], after: &[Bar], now_s: i64) -> Vec<Change> {
    let key = |b: &Bar| (b.blade.clone(), b.activity);
    let was: BTreeMap<_, &Bar> = before.iter().map(|b| (key(b), b)).collect();
    let mut moved: BTreeMap<&str, Change> = BTreeMap::new();
    // What cools in the air moves with what comes before it.
    let told = |b: &&Bar| b.start_s >= now_s && b.station.is_some();
    for bar in after.iter().filter(told) {
        let Some(old) = was.get(&key(bar)) else {
            continue;
        };
        let by_s = bar.start_s - old.start_s;
        let known = moved.get(bar.blade.as_str());
        if by_s.abs() < WORTH_TELLING_S || known.is_some_and(|k| k.size_s() >= by_s.abs()) {
            continue;
        }
        let change = Change::Moved {
            blade: bar.blade.clone(),
            activity: bar.activity,
            kind: bar.kind.clone(),
            by_s,
        };
        moved.insert(&bar.blade, change);
    }
    let blades = |bars: &[Bar]| -> Vec<String> {
        let mut all: Vec<String> = bars.iter().map(|b| b.blade.clone()).collect();
        all.sort();
        all.dedup();
        all
    };
    let (old, new) = (blades(before), blades(after));
    let gone = old.iter().filter(|b| !new.contains(b));
    let come = new.iter().filter(|b| !old.contains(b));
    let mut all: Vec<Change> = moved.into_values().collect();
    all.extend(gone.map(|b| Change::LeftOut { blade: b.clone() }));
    all.extend(come.map(|b| Change::Added { blade: b.clone() }));
    let free = |bars: &[Bar]| -> BTreeMap<String, i64> {
        let mut last = BTreeMap::new();
        for bar in bars.iter().filter(|b| b.heat_c.is_some()) {
            if let Some(station) = &bar.station {
                let at = last.entry(station.clone()).or_insert(bar.end_s);
                *at = bar.end_s.max(*at);
            }
        }
        last
    };
    let was = free(before);
    for (station, at_s) in free(after) {
        let by_s = was.get(&station).map_or(0, |w| at_s - w);
        if by_s.abs() >= WORTH_TELLING_S && at_s > now_s {
            all.push(Change::Free {
                station,
                at_s,
                by_s,
            });
        }
    }
    all.sort_by_key(|c| -c.size_s().min(i64::MAX - 1));
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::planning::plan::Binding;

    fn bar(blade: &str, activity: usize, start_s: i64) -> Bar {
        Bar {
            blade: blade.to_owned(),
            activity,
            kind: "temper".to_owned(),
            station: Some("oven".to_owned()),
            start_s,
            leave_s: start_s + 3600,
            end_s: start_s + 3660,
            heat_c: Some(200.0),
            preheat_c: None,
            hands: [None, None, None],
            load: None,
            binds: Binding::Now {},
        }
    }

    #[test]
    fn the_greatest_move_of_each_blade_is_told_and_when_the_oven_is_free() {
        let before = [bar("a", 0, 0), bar("a", 1, 8000), bar("b", 0, 8000)];
        let after = [bar("a", 0, 100), bar("a", 1, 9200), bar("b", 0, 8060)];
        let told = changes(&before, &after, 50);
        assert_eq!(told.len(), 2, "{told:?}");
        assert!(told.contains(&Change::Free {
            station: "oven".to_owned(),
            at_s: 9200 + 3660,
            by_s: 1200
        }));
        assert!(changes(&after, &after, 50).is_empty());
        let gone = changes(&before, &before[..2], 50);
        assert_eq!(
            gone,
            [Change::LeftOut {
                blade: "b".to_owned()
            }]
        );
    }
}
