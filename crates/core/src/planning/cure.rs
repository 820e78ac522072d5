//! The smallest change that cures a day on which something cannot be: each single relaxation tried, the cheapest first.

use crate::planning::day::{Day, Sharing};
use crate::planning::genome::Genome;
use crate::planning::plan::Plan;
use crate::planning::problem::Problem;
use crate::planning::score::Score;
use crate::planning::search::{Budget, search};
use serde::{Deserialize, Serialize};

/// What could be given.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DayRelaxation))]
pub enum Relaxation {
    /// A pin is let go.
    Unpin {
        /// The blade.
        blade: String,
        /// Its activity.
        activity: usize,
    },
    /// An operator stays longer on the first shift that is not over.
    Longer {
        /// Who.
        operator: String,
        /// By so much, s.
        by_s: i64,
    },
    /// A blade is wanted later.
    Due {
        /// Which.
        blade: String,
        /// By so much, s.
        by_s: i64,
    },
    /// A second one of a station.
    Second {
        /// Of which.
        station: String,
    },
    /// A blade waits for another day.
    Without {
        /// Which.
        blade: String,
    },
}

/// What a relaxation does.
#[derive(Debug, Clone, PartialEq)]
pub struct Cure {
    /// What is given.
    pub gives: Relaxation,
    /// How good the day is then.
    pub score: Score,
    /// Nothing is left out, broken or late any more.
    pub cures: bool,
}

/// Longer by this, s.
const LONGER_S: [i64; 4] = [900, 1800, 3600, 7200];
/// Passes of each try: a known day is a good start.
const PASSES: u64 = 150;

/// Whether there is anything that cannot be.
#[must_use]
pub const fn ails(score: &Score) -> bool {
    score.left_out > 0 || score.broken_s > 0 || score.late_s > 0
}

/// Less than this nobody gives anything for, s.
const WORTH_S: i64 = 300;

/// Whether what ails is less, by enough to give something for it.
const fn helps(before: &Score, after: &Score) -> bool {
    after.left_out < before.left_out
        || (after.left_out == before.left_out && after.broken_s + WORTH_S <= before.broken_s)
        || (after.left_out == before.left_out
            && after.broken_s <= before.broken_s
            && after.late_s + WORTH_S <= before.late_s)
        || !ails(after)
}

/// The day with something given.
#[must_use]
pub fn relaxed(day: &Day, gives: &Relaxation) -> Day {
    let mut day = day.clone();
    match gives {
        Relaxation::Unpin { blade, activity } => {
            day.pins
                .retain(|p| p.blade != *blade || p.activity != *activity);
        }
        Relaxation::Longer { operator, by_s } => {
            let now_s = day.now_s;
            let mut who = day.operators.iter_mut().filter(|o| o.id == *operator);
            if let Some(who) = who.next() {
                let mut shifts = who.hours.iter_mut().filter(|h| h.1 > now_s);
                if let Some(shift) = shifts.next() {
                    shift.1 += by_s;
                }
            }
        }
        Relaxation::Due { blade, by_s } => {
            for one in day.blades.iter_mut().filter(|b| b.id == *blade) {
                one.due_s = one.due_s.map(|due| due + by_s);
            }
        }
        Relaxation::Second { station } => {
            let found = day.stations.iter().find(|s| s.id == *station).cloned();
            if let Some(mut second) = found {
                second.id.push_str(" 2");
                for activity in day.blades.iter_mut().flat_map(|b| &mut b.activities) {
                    if activity.at.contains(station) {
                        activity.at.push(second.id.clone());
                    }
                }
                day.stations.push(second);
            }
        }
        Relaxation::Without { blade } => {
            day.blades.retain(|b| b.id != *blade);
            day.pins.retain(|p| p.blade != *blade);
            day.past.retain(|p| p.blade != *blade);
            day.before.retain(|s| s.blade != *blade);
        }
    }
    day
}

/// Everything that could be given, the cheapest first.
fn all(day: &Day, plan: &Plan) -> Vec<Relaxation> {
    let pins = day.pins.iter().map(|p| Relaxation::Unpin {
        blade: p.blade.clone(),
        activity: p.activity,
    });
    let mut all: Vec<Relaxation> = pins.collect();
    for by_s in LONGER_S {
        let working = day.operators.iter().filter(|o| !o.hours.is_empty());
        all.extend(working.map(|o| Relaxation::Longer {
            operator: o.id.clone(),
            by_s,
        }));
    }
    let fires = day.stations.iter().filter(|s| s.fire.is_some());
    let mut fires: Vec<_> = fires.collect();
    // A second oven is nearer to hand than a second kiln.
    fires.sort_by_key(|s| s.sharing == Sharing::Load);
    all.extend(fires.iter().map(|s| Relaxation::Second {
        station: s.id.clone(),
    }));
    for blade in &day.blades {
        let bars = plan.bars.iter().filter(|b| b.blade == blade.id);
        let over_s = bars.map(|b| b.end_s).max();
        if let (Some(due_s), Some(over_s)) = (blade.due_s, over_s)
            && over_s > due_s
        {
            all.push(Relaxation::Due {
                blade: blade.id.clone(),
                by_s: over_s - due_s,
            });
        }
    }
    let begun = |id: &str| day.past.iter().any(|p| p.blade == id);
    let waiting = day.blades.iter().filter(|b| !begun(&b.id));
    if day.blades.len() > 1 {
        all.extend(waiting.map(|b| Relaxation::Without {
            blade: b.id.clone(),
        }));
    }
    all
}

/// Blades that are late on a plan and would be late if nothing else were on the day: no order cures that.
#[must_use]
pub fn late_alone(day: &Day, plan: &Plan, stop: impl Fn() -> bool) -> Vec<String> {
    let over_s = |plan: &Plan, id: &str| {
        let bars = plan.bars.iter().filter(|b| b.blade == id);
        bars.map(|b| b.end_s).max()
    };
    let is_late = |plan: &Plan, id: &str, due_s: Option<i64>| {
        over_s(plan, id)
            .zip(due_s)
            .is_some_and(|(over, due)| over > due)
    };
    let late = day.blades.iter().filter(|b| is_late(plan, &b.id, b.due_s));
    let alone = late.filter(|blade| {
        let mut only = day.clone();
        only.blades.retain(|b| b.id == blade.id);
        only.pins.clear();
        only.before.clear();
        only.past.retain(|p| p.blade == blade.id);
        let Ok(problem) = Problem::new(&only) else {
            return false;
        };
        let budget = Budget {
            passes: PASSES,
            seed: 1,
            known: Vec::new(),
        };
        let found = search(&problem, &budget, &stop);
        found.score.late_s > 0
    });
    alone.map(|b| b.id.clone()).collect()
}

/// What mends a day, those that cure it first, each as cheap as its kind goes; empty where nothing ails.
#[must_use]
pub fn cures(day: &Day, plan: &Plan, stop: impl Fn() -> bool) -> Vec<Cure> {
    if !ails(&plan.score) {
        return Vec::new();
    }
    let mut found: Vec<Cure> = Vec::new();
    for gives in all(day, plan) {
        if stop() {
            break;
        }
        let kind = std::mem::discriminant(&gives);
        // The smallest of a kind that cures is enough.
        let cured = |c: &Cure| c.cures && std::mem::discriminant(&c.gives) == kind;
        if !matches!(gives, Relaxation::Without { .. }) && found.iter().any(cured) {
            continue;
        }
        let other = relaxed(day, &gives);
        let Ok(problem) = Problem::new(&other) else {
            continue;
        };
        let budget = Budget {
            passes: PASSES,
            seed: 1,
            known: vec![Genome::known(&other, &problem, plan)],
        };
        let score = search(&problem, &budget, &stop).score;
        if helps(&plan.score, &score) {
            found.push(Cure {
                gives,
                cures: !ails(&score),
                score,
            });
        }
    }
    found.sort_by_key(|c| !c.cures);
    found
}
