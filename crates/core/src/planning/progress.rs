//! How far a firing has come on its day: what its presses say of when each activity began and was over.

use crate::planning::activities::{Origin, Phase, PlannedBlade};
use crate::planning::day::Past;
use crate::planning::plan::Bar;
use crate::record::firing::{ActionKind, FiringAction};

/// A firing as it was pressed.
#[derive(Debug, Clone, Copy)]
pub struct Pressed<'a> {
    /// The blade with all that is done to it.
    pub planned: &'a PlannedBlade,
    /// The number of each of its steps.
    pub order: &'a [usize],
    /// What there is to do, in order.
    pub actions: &'a [FiringAction],
    /// When each that was done was, s.
    pub pressed_s: &'a [i64],
}

/// Presses that an activity hangs on, by their position.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Presses {
    /// It begins with one and is over with another.
    Between { begins: usize, ends: usize },
    /// It begins with one and is over by itself after its time, or with what comes next.
    Since { begins: usize },
    /// It was done when one was pressed.
    Done { ends: usize },
}

impl Pressed<'_> {
    /// What was done, and what is going on, with station and heat as in the day before. Times on a grid of so many seconds.
    #[must_use]
    pub fn past(&self, known: &[Bar], now_s: i64, grid_s: i64) -> Vec<Past> {
        let PlannedBlade { blade, origins } = self.planned;
        let down = |s: i64| s.div_euclid(grid_s) * grid_s;
        let mut all: Vec<Past> = Vec::new();
        for (k, (activity, origin)) in blade.activities.iter().zip(origins).enumerate() {
            let Some(presses) = self.presses(*origin) else {
                continue;
            };
            let before_s = all.last().and_then(|p| p.end_s);
            let at = |i: usize| self.pressed_s.get(i).map(|s| down(*s));
            let lasts_s = activity.in_s + activity.heat_s + activity.hold_s + activity.out_s;
            let begun = match presses {
                Presses::Between { begins, .. } | Presses::Since { begins } => at(begins),
                Presses::Done { ends } => {
                    let done = at(ends);
                    done.map(|s| (s - lasts_s).max(before_s.unwrap_or(s - lasts_s)).min(s))
                }
            };
            let Some(start_s) = begun else { break };
            let start_s = before_s.map_or(start_s, |b| b.max(start_s));
            let (end_s, until_s) = match presses {
                Presses::Between { begins, ends } => {
                    let held = self.held_from(begins, ends);
                    let until = match held.and_then(at) {
                        Some(at_heat) => at_heat + activity.hold_s,
                        None => start_s + lasts_s - activity.out_s,
                    };
                    (at(ends), until)
                }
                Presses::Since { begins } => {
                    let over = start_s + lasts_s;
                    let next = at(begins + 1);
                    let end = next.map_or(over, |n| n.min(over));
                    ((end <= now_s).then_some(end), over)
                }
                Presses::Done { ends } => (at(ends), start_s),
            };
            let end_s = end_s.map(|e| e.max(start_s));
            let bar = known
                .iter()
                .find(|b| b.blade == blade.id && b.activity == k);
            let station = bar.and_then(|b| b.station.clone());
            let station = station.filter(|s| activity.at.contains(s));
            all.push(Past {
                blade: blade.id.clone(),
                activity: k,
                station: station.or_else(|| activity.at.first().cloned()),
                start_s,
                temperature_c: activity.temp.map(|t| {
                    let known = bar.and_then(|b| b.heat_c);
                    known.unwrap_or(t.nominal_c)
                }),
                pre_c: activity.pre.map(|t| {
                    let known = bar.and_then(|b| b.preheat_c);
                    known.unwrap_or(t.nominal_c)
                }),
                leave_s: end_s,
                end_s,
                until_s: end_s.is_none().then_some(down(until_s)),
            });
            if end_s.is_none() {
                break;
            }
        }
        all
    }

    /// What of each activity is over took how long, s, beside what is learned of it: activity, seconds, and when it was over.
    #[must_use]
    pub fn took(&self) -> Vec<(usize, i64, i64)> {
        let PlannedBlade { blade, origins } = self.planned;
        let at = |i: usize| self.pressed_s.get(i).copied();
        let mut all = Vec::new();
        for (k, origin) in origins.iter().enumerate() {
            let activity = &blade.activities[k];
            let Some(presses) = self.presses(*origin) else {
                continue;
            };
            let took = match (origin.phase, presses) {
                (Phase::Heat | Phase::Temper, Presses::Between { begins, ends }) => {
                    // An even heat before is part of the stay, not of what is learned.
                    let held = self
                        .held_from(begins, ends)
                        .filter(|_| activity.pre.is_none());
                    let (from, held) = (at(begins), held.and_then(at));
                    from.zip(held).map(|(f, h)| (h - f - activity.in_s, h))
                }
                (Phase::Bath, Presses::Between { begins, ends }) => {
                    at(begins).zip(at(ends)).map(|(f, e)| (e - f, e))
                }
                // Straight from the bath; else nobody knows when it was begun.
                (Phase::Bench, Presses::Done { ends }) => {
                    let before = k.checked_sub(1).map(|b| origins[b].phase);
                    let from = ends.checked_sub(1).and_then(at);
                    let from = from.filter(|_| before == Some(Phase::Bath));
                    from.zip(at(ends)).map(|(f, e)| (e - f, e))
                }
                _ => None,
            };
            if let Some((took_s, over_s)) = took.filter(|t| t.0 > 0) {
                all.push((k, took_s, over_s));
            }
        }
        all
    }

    fn presses(&self, origin: Origin) -> Option<Presses> {
        let number = *self.order.get(origin.step)?;
        let before = origin.step.checked_sub(1).map(|i| self.order[i]);
        let of_step = |n: usize| {
            let all = self.actions.iter().enumerate();
            all.filter(move |(_, a)| a.step == n)
        };
        let mine = || of_step(number).filter(|(_, a)| a.round == origin.round);
        let first = |is: fn(&ActionKind) -> bool| mine().find(|(_, a)| is(&a.kind)).map(|a| a.0);
        Some(match origin.phase {
            Phase::Heat => {
                let into = |n: usize| {
                    let mut all = of_step(n);
                    all.find(|(_, a)| matches!(a.kind, ActionKind::IntoFire {}))
                };
                // The even heat before is held in the same fire.
                let preheated = before
                    .filter(|n| of_step(*n).any(|(_, a)| matches!(a.kind, ActionKind::Even {})));
                let begins = preheated.and_then(into).or_else(|| into(number))?.0;
                let last = of_step(number).next_back()?.0;
                let ends = match self.actions[last].kind {
                    // It cools in the fire until it is taken out, which nobody presses for.
                    ActionKind::ShutDown {} => last + 1,
                    ActionKind::OutToCool {} | ActionKind::Bedded { .. } => last,
                    _ => last + 1,
                };
                Presses::Between { begins, ends }
            }
            Phase::Cooling => Presses::Since {
                begins: mine().next_back()?.0,
            },
            Phase::Bench => Presses::Done {
                ends: mine().next()?.0,
            },
            Phase::Drying => Presses::Between {
                begins: first(|k| matches!(k, ActionKind::ClayOn {}))?,
                ends: first(|k| matches!(k, ActionKind::ClayDry {}))?,
            },
            Phase::Bath => {
                let begins = first(|k| matches!(k, ActionKind::IntoBath { .. }))?;
                Presses::Between {
                    begins,
                    ends: begins + 1,
                }
            }
            Phase::Cool => {
                let ends = mine().next()?.0;
                match ends.checked_sub(1) {
                    Some(begins) => Presses::Between { begins, ends },
                    None => Presses::Done { ends },
                }
            }
            Phase::Cold => Presses::Between {
                begins: first(|k| matches!(k, ActionKind::IntoCold {}))?,
                ends: first(|k| matches!(k, ActionKind::OutOfCold {}))?,
            },
            Phase::Temper => Presses::Between {
                begins: first(|k| matches!(k, ActionKind::IntoOven {}))?,
                ends: first(|k| matches!(k, ActionKind::OutToCool {}))?,
            },
        })
    }

    /// The press between two that says that it is at heat.
    fn held_from(&self, begins: usize, ends: usize) -> Option<usize> {
        let mut between = (begins + 1..ends).rev();
        between.find(|i| {
            let kind = self.actions.get(*i).map(|a| a.kind);
            matches!(
                kind,
                Some(ActionKind::AtHeat {} | ActionKind::StartSoak {} | ActionKind::OvenAtHeat {})
            )
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::planning::activities::tests::{PLAN, places, planned};
    use crate::record::firing::actions;
    use crate::simulation::physics::tests::plan;

    /// Two heats to normalize, an even heat and the hardening heat, oil, straightening, two tempers.
    struct Fired {
        planned: PlannedBlade,
        actions: Vec<FiringAction>,
        order: Vec<usize>,
    }

    fn fired() -> Fired {
        let steps = plan(PLAN).steps().to_vec();
        Fired {
            planned: planned("1084", PLAN, (58.0, 61.0), "K-1", &places()).unwrap(),
            actions: actions(&steps),
            order: (0..steps.len()).collect(),
        }
    }

    impl Fired {
        fn past(&self, pressed_s: &[i64], now_s: i64) -> Vec<Past> {
            self.pressed(pressed_s).past(&[], now_s, 30)
        }

        fn pressed<'a>(&'a self, pressed_s: &'a [i64]) -> Pressed<'a> {
            Pressed {
                planned: &self.planned,
                order: &self.order,
                actions: &self.actions,
                pressed_s,
            }
        }

        /// Position of the press into the bath.
        fn bath_press(&self) -> usize {
            let mut all = self.actions.iter();
            all.position(|a| matches!(a.kind, ActionKind::IntoBath { .. }))
                .unwrap()
        }
    }

    #[test]
    fn before_the_first_press_nothing_is_past() {
        assert!(fired().past(&[], 100).is_empty());
    }

    #[test]
    fn what_is_in_the_fire_stays_until_its_hold_is_over() {
        let fired = fired();
        let hold_s = fired.planned.blade.activities[0].hold_s;
        // In at 0, at heat after ten minutes.
        let past = fired.past(&[0, 600], 660);
        assert_eq!(past.len(), 1);
        assert_eq!((past[0].start_s, past[0].end_s), (0, None));
        assert_eq!(past[0].until_s, Some((600 + hold_s) / 30 * 30));
        assert_eq!(past[0].station.as_deref(), Some("kiln"));
        // Out: it cools by itself for as long as that takes.
        let cools_s = fired.planned.blade.activities[1].hold_s;
        let past = fired.past(&[0, 600, 900], 930);
        assert_eq!(past[0].end_s, Some(900));
        assert_eq!((past[1].start_s, past[1].end_s), (900, None));
        let past = fired.past(&[0, 600, 900], 900 + cools_s);
        assert_eq!(past[1].end_s, Some(900 + cools_s));
    }

    /// From the fire into the bath is one press: no gap between them.
    #[test]
    fn the_heat_ends_when_the_quench_begins_and_the_even_heat_is_part_of_it() {
        let fired = fired();
        let bath = fired.bath_press();
        let pressed: Vec<i64> = (0..=bath as i64).map(|i| 600 * i + 7).collect();
        let past = fired.past(&pressed, pressed[bath]);
        let of = |kind: &str| {
            let mut all = fired.planned.blade.activities.iter();
            let k = all.position(|a| a.kind == kind).unwrap();
            past.iter().find(|p| p.activity == k).unwrap()
        };
        assert_eq!(of("austenitize").end_s, Some(of("quench").start_s));
        assert_eq!(of("quench").end_s, None);
        // In at the even heat, three presses before the bath at the latest.
        assert!(of("austenitize").start_s <= pressed[bath - 3]);
    }

    #[test]
    fn pressed_to_the_end_everything_is_over_in_its_order() {
        let fired = fired();
        let pressed: Vec<i64> = (0..fired.actions.len() as i64).map(|i| 900 * i).collect();
        let past = fired.past(&pressed, 900 * fired.actions.len() as i64);
        assert_eq!(past.len(), fired.planned.blade.activities.len());
        assert!(past.iter().all(|p| p.end_s.is_some()));
        assert!(past.windows(2).all(|w| w[0].end_s.unwrap() <= w[1].start_s));
    }

    #[test]
    fn lengths_are_those_between_the_presses() {
        let fired = fired();
        let pressed: Vec<i64> = (0..fired.actions.len() as i64).map(|i| 700 * i).collect();
        let took = fired.pressed(&pressed).took();
        let kinds: Vec<&str> = took
            .iter()
            .map(|t| fired.planned.blade.activities[t.0].kind.as_str())
            .collect();
        let expected = [
            "normalize",
            "normalize",
            "quench",
            "straighten",
            "temper",
            "temper",
        ];
        assert_eq!(kinds, expected);
        // Into the fire takes its minute; a quench is all of it.
        assert!(took.iter().all(|t| [700, 640].contains(&t.1)), "{took:?}");
    }
}
