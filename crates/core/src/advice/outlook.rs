//! What comes of a firing from here on: by what was done so far, and by the plan for what is left.

use crate::material::medium::Medium;
use crate::prediction::Prediction;
use crate::prediction::predict::TemperFor;
use crate::process::step::{Step, StepKind};
use crate::quantity::interval::Interval;
use crate::record::done::Done;
use crate::record::firing::{Course, Mark, State};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// What was done in another way than planned.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Departure {
    /// A heat, a temper or a cold was hotter or cooler.
    Heat {
        /// Kind of the step.
        kind: StepKind,
        /// How much hotter, °C; below 0 cooler.
        hotter_c: f64,
    },
    /// It was held for another time.
    Held {
        /// Kind of the step.
        kind: StepKind,
        /// Planned, s.
        planned_s: f64,
        /// How long it was, s.
        was_s: f64,
    },
    /// It went into another bath.
    Bath {
        /// Planned.
        planned: Medium,
        /// What it went into.
        was: Medium,
    },
    /// The bath was warmer or colder.
    BathHeat {
        /// The medium.
        medium: Medium,
        /// How much warmer, °C; below 0 colder.
        warmer_c: f64,
    },
    /// It was in a bath for another time.
    InBath {
        /// The medium.
        medium: Medium,
        /// Planned, s.
        planned_s: f64,
        /// How long it was, s.
        was_s: f64,
    },
    /// A step was left out.
    LeftOut {
        /// Its kind.
        kind: StepKind,
    },
    /// A step was done that was not planned, or once more.
    Extra {
        /// Its kind.
        kind: StepKind,
    },
}

/// What comes of a firing from here on.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Outlook {
    /// Hardness before the temper, HRC.
    pub as_quenched: Interval,
    /// Hardness of the finished blade, HRC.
    pub tempered: Interval,
    /// How much harder that is than what was predicted at the start, HRC; below 0 softer.
    pub harder_hrc: f64,
    /// The temper for the wanted hardness from here on; none once one was begun, or none is left.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temper: Option<TemperAhead>,
    /// Chance of a crack, 0 to 1, where the whole blade was computed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub crack: Option<f64>,
    /// The same as it was at the start.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub crack_before: Option<f64>,
    /// What was done in another way than planned, in the order of the work.
    pub departures: Vec<Departure>,
}

/// The temper that is still to be done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TemperAhead {
    /// Number of its step.
    pub step: usize,
    /// Planned, °C.
    pub planned_c: f64,
    /// What reaches the wanted hardness.
    pub wanted: TemperFor,
}

/// Thermocouples and dials tell no less than this apart, °C.
const TOLD_C: f64 = 3.0;
/// Of a time that went otherwise this share is told, and no less than the seconds below.
const TOLD_SHARE: f64 = 0.15;
const TOLD_HOLD_S: f64 = 30.0;
const TOLD_BATH_S: f64 = 0.5;

/// What comes of a firing: `before` was predicted at its start, `now` of what was done and is left to do.
#[must_use]
pub fn outlook(
    planned: &[Step],
    state: &State,
    done: &Done,
    (before, now): (&Prediction, &Prediction),
) -> Outlook {
    let course = state.course(planned);
    let crack = |p: &Prediction| p.outcomes.as_ref().map(|o| o.crack.probability);
    Outlook {
        as_quenched: now.hardness.as_quenched,
        tempered: now.hardness.tempered,
        harder_hrc: now.hardness.tempered.middle - before.hardness.tempered.middle,
        temper: temper_ahead(&course, state, now),
        crack: crack(now),
        crack_before: crack(before),
        departures: departures(planned, state, done),
    }
}

/// The first temper behind the last quench, while it was not begun.
fn temper_ahead(course: &Course, state: &State, now: &Prediction) -> Option<TemperAhead> {
    let actions = course.actions();
    let quench = actions.iter().rposition(|a| a.mark == Mark::Quenched)?;
    let first = actions[quench..]
        .iter()
        .position(|a| a.mark == Mark::Tempering)?
        + quench;
    let number = actions[first].step;
    let Step::Temper { temperature_c, .. } = course.steps()[number] else {
        return None;
    };
    let wanted = now.temper_for_target.clone()?;
    (state.position <= first).then(|| TemperAhead {
        step: number,
        planned_c: temperature_c.value(),
        wanted,
    })
}

/// What was done in another way than planned, in the order of the work; what was left out stands where it would have
/// been.
#[must_use]
pub fn departures(planned: &[Step], state: &State, done: &Done) -> Vec<Departure> {
    let course = state.course(planned);
    let order = course.order();
    let confirmed: BTreeSet<usize> = course
        .actions()
        .iter()
        .take(state.position)
        .map(|a| a.step)
        .collect();
    let mut found = Vec::new();
    let mut left_out = (0..planned.len()).filter(|n| !order.contains(n)).peekable();
    for number in &order {
        while left_out.next_if(|n| n < number).is_some_and(|n| {
            found.push(Departure::LeftOut {
                kind: planned[n].kind(),
            });
            true
        }) {}
        if *number >= planned.len() {
            found.push(Departure::Extra {
                kind: course.steps()[*number].kind(),
            });
        }
        if confirmed.contains(number) {
            let really = done.steps.iter().zip(&done.planned);
            // Held against the plan, whatever was set since.
            let meant = planned.get(*number).unwrap_or(&course.steps()[*number]);
            for (step, _) in really.filter(|(_, n)| *n == number) {
                of_step(meant, step, &mut found);
            }
            if course.steps()[*number].rounds() < meant.rounds() {
                found.push(Departure::LeftOut { kind: meant.kind() });
            }
        }
    }
    found.extend(left_out.map(|n| Departure::LeftOut {
        kind: planned[n].kind(),
    }));
    found
}

fn differs(planned_s: f64, was_s: f64, least_s: f64) -> bool {
    (planned_s - was_s).abs() >= least_s.max(TOLD_SHARE * planned_s)
}

fn of_step(planned: &Step, was: &Step, found: &mut Vec<Departure>) {
    let kind = planned.kind();
    if let (Some(planned), Some(was)) = (planned.hold(), was.hold()) {
        let hotter_c = was.temperature_c.value() - planned.temperature_c.value();
        if hotter_c.abs() >= TOLD_C {
            found.push(Departure::Heat { kind, hotter_c });
        }
        let (planned_s, was_s) = (planned.lasts_s.value(), was.lasts_s.value());
        if differs(planned_s, was_s, TOLD_HOLD_S) {
            found.push(Departure::Held {
                kind,
                planned_s,
                was_s,
            });
        }
    }
    if let (Step::Quench { stages: planned }, Step::Quench { stages: was }) = (planned, was) {
        for (planned, was) in planned.iter().zip(was) {
            let medium = was.medium;
            if planned.medium != medium {
                found.push(Departure::Bath {
                    planned: planned.medium,
                    was: medium,
                });
                continue;
            }
            let warmer_c = was.bath_c.value() - planned.bath_c.value();
            if warmer_c.abs() >= TOLD_C {
                found.push(Departure::BathHeat { medium, warmer_c });
            }
            if let (Some(planned), Some(was)) = (planned.for_s, was.for_s)
                && differs(planned.value(), was.value(), TOLD_BATH_S)
            {
                found.push(Departure::InBath {
                    medium,
                    planned_s: planned.value(),
                    was_s: was.value(),
                });
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learning::Model;
    use crate::learning::bias_models::BiasModels;
    use crate::material::steel::Steel;
    use crate::prediction::outcome::outcomes;
    use crate::prediction::predict::{StationNames, predict};
    use crate::prediction::subject::Subject;
    use crate::process::plan::Plan;
    use crate::process::workpiece::Workpiece;
    use crate::quantity::units::{Celsius, Quantity, Seconds};
    use crate::record::done::as_done;
    use crate::record::firing::{Deviation, Event, FiringEvent, actions, state};
    use crate::simulation::physics::tests::{blade, plan};
    use uuid::Uuid;

    fn planned() -> Plan {
        plan(
            r#"[{"kind":"normalize","temperature_c":870},{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        )
    }

    fn predicted(plan: &Plan) -> Prediction {
        let steel = Steel::built_in("1084").unwrap();
        let work = Workpiece::plain(&blade());
        let subject = Subject {
            plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        let (model, names) = (Model::fit(Vec::new()), StationNames::new());
        let mut found = predict(subject, &model, &names, Some((59.0, 61.0)));
        let whole = outcomes(&work, plan, steel, &BiasModels::default(), 2.0, None);
        found.outcomes = Some(whole.unwrap().0);
        found
    }

    /// Events in order, each a minute after the one before.
    fn from_here(what: Vec<FiringEvent>) -> Outlook {
        let plan = planned();
        let events: Vec<Event> = what
            .into_iter()
            .enumerate()
            .map(|(i, what)| Event {
                id: Uuid::from_u128(i as u128),
                what,
                at_ms: 60_000 * i as i64,
            })
            .collect();
        let state = state(plan.steps(), &events).unwrap();
        let done = as_done(plan.steps(), &state);
        let (before, now) = (predicted(&plan), predicted(&done.clone().plan()));
        outlook(plan.steps(), &state, &done, (&before, &now))
    }

    fn confirmed(range: std::ops::Range<usize>) -> Vec<FiringEvent> {
        range
            .map(|action| FiringEvent::Confirm { action })
            .collect()
    }

    fn say(step: usize, temperature_c: Option<f64>, medium: Option<Medium>) -> FiringEvent {
        FiringEvent::Say {
            step,
            round: None,
            temperature_c: temperature_c.map(Celsius::clamped),
            by: None,
            medium,
            lasted_s: Some(Seconds::clamped(300.0)).filter(|_| medium.is_none()),
            note: String::new(),
        }
    }

    #[test]
    fn a_cool_hardening_heat_is_told_and_moves_the_temper() {
        let all = actions(planned().steps()).len();
        assert_eq!(all, 3 + 2 + 2 + 6);
        let mut events = confirmed(0..7);
        let as_planned = from_here([events.clone(), vec![say(1, None, None)]].concat());
        assert!(as_planned.harder_hrc.abs() < 0.1, "{as_planned:?}");
        events.push(say(1, Some(730.0), None));
        let cool = from_here(events);
        let by = Departure::Heat {
            kind: StepKind::Austenitize,
            hotter_c: -85.0,
        };
        assert!(cool.departures.contains(&by), "{:?}", cool.departures);
        assert!(cool.harder_hrc < -1.0, "{cool:?}");
        let (then, now) = (as_planned.temper.unwrap(), cool.temper.unwrap());
        assert_eq!((then.step, then.planned_c), (3, 205.0));
        let at = |t: &TemperAhead| t.wanted.temperature_c;
        assert!(at(&now) < at(&then), "{now:?} {then:?}");
    }

    #[test]
    fn once_the_temper_is_begun_there_is_none_to_choose() {
        assert!(from_here(confirmed(0..8)).temper.is_none());
        assert!(from_here(confirmed(0..7)).temper.is_some());
    }

    #[test]
    fn water_instead_of_oil_is_told_with_what_it_does_to_a_crack() {
        let events = [confirmed(0..7), vec![say(2, None, Some(Medium::Water))]].concat();
        let wet = from_here(events);
        let by = Departure::Bath {
            planned: Medium::FastOil,
            was: Medium::Water,
        };
        assert!(wet.departures.contains(&by), "{:?}", wet.departures);
        assert!(wet.crack > wet.crack_before, "{wet:?}");
    }

    #[test]
    fn quenched_again_from_hard_cracks_sooner_than_from_normalizing() {
        let again = |from| {
            let how = Deviation::Again { from, to: 2 };
            [confirmed(0..7), vec![FiringEvent::Deviate { how }]].concat()
        };
        let (hard, soft) = (from_here(again(1)), from_here(again(0)));
        assert!(hard.crack > soft.crack, "{hard:?} {soft:?}");
        let extra = |kind| Departure::Extra { kind };
        let told: Vec<_> = soft.departures.iter().rev().take(3).collect();
        let of = [StepKind::Quench, StepKind::Austenitize, StepKind::Normalize].map(extra);
        assert_eq!(told, of.iter().collect::<Vec<_>>());
        let left_out = FiringEvent::Deviate {
            how: Deviation::LeftOut {
                step: 0,
                round: None,
            },
        };
        let found = from_here(vec![left_out]);
        let kind = StepKind::Normalize;
        assert_eq!(found.departures, [Departure::LeftOut { kind }]);
    }
}
