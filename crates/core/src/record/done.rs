//! What was really done: the plan as the presses, the clock and the smith's own word say it went. Physics,
//! learning, diagnosis, lessons and comparison all go by this.

use crate::material::medium::Medium;
use crate::material::steel::Steel;
use crate::process::plan::Plan;
use crate::process::sighting::Sighting;
use crate::process::step::{Stage, Step};
use crate::quantity::units::{Celsius, Quantity, Seconds};
use crate::record::firing::{Deviation, End, FiringAction, FiringEvent, Mark, State};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A plan as it was really done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Done {
    /// The steps. A temper whose rounds differed is one step for each round; everything else is as many
    /// steps as there were to do.
    pub steps: Vec<Step>,
    /// For each of them the number of the step: its position in the plan, or beyond that where it was put in at
    /// the fire.
    pub planned: Vec<usize>,
    /// How long it lay hard before its first temper, s, where both ends were pressed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub untempered_s: Option<Seconds>,
    /// What was pressed, or not pressed, and does not count.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub doubts: Vec<Doubt>,
}

impl Done {
    /// The same of a steel: what an eye judged is as hot as that usually means for it.
    #[must_use]
    pub fn judged_on(mut self, steel: &Steel) -> Self {
        self.steps = Plan::stored(self.steps).judged_on(steel).steps().to_vec();
        self
    }

    /// It as a plan.
    #[must_use]
    pub fn plan(self) -> Plan {
        Plan::done(self.steps, self.untempered_s)
    }
}

/// Something of a firing that does not count, and why.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "doubt", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Doubt {
    /// The presses of a hold, or of a bath, lie so far from the plan that they were hardly made when it
    /// began and ended: the plan counts.
    Clock {
        /// Position of the planned step.
        step: usize,
        /// Round of a temper or bath of a quench, from 0.
        round: usize,
        /// Time between the presses, s.
        pressed_s: f64,
        /// Time that counts, s.
        counted_s: f64,
    },
    /// The firing was closed before the step was pressed: the plan counts.
    NotPressed {
        /// Position of the planned step.
        step: usize,
    },
}

/// A hold pressed shorter than this share of the plan was confirmed afterwards in one go.
const SHORTEST_HOLD: f64 = 0.25;
/// One pressed longer than this many times the plan was forgotten.
const LONGEST_HOLD: f64 = 4.0;
/// Two baths confirmed within this are one press after the fact, s: no operator is that quick.
const SHORTEST_BATH_S: f64 = 0.3;
/// However short a bath was planned, this long in it is believed, s: it is cold by then, whatever follows.
const LONGEST_BATH_S: f64 = 60.0;
/// Quench and temper confirmed within this were pressed afterwards in one go, s.
const SHORTEST_WAIT_S: f64 = 60.0;

/// What was really so in one round of one step.
#[derive(Debug, Clone, Copy, Default)]
struct Real {
    temperature_c: Option<Celsius>,
    by: Option<Sighting>,
    medium: Option<Medium>,
    lasted_s: Option<Seconds>,
}

type Rounds = BTreeMap<(usize, usize), Real>;

/// Whether a time between two presses is believed where `planned` s were planned.
fn believed(step: &Step, pressed: f64, planned: f64) -> bool {
    let longest = LONGEST_HOLD * planned;
    match step {
        Step::Quench { .. } => (SHORTEST_BATH_S..=longest.max(LONGEST_BATH_S)).contains(&pressed),
        _ => (SHORTEST_HOLD * planned..=longest).contains(&pressed),
    }
}

/// The action begins something that is timed: a hold, or a bath that another follows.
fn is_timed(action: &FiringAction, step: &Step) -> bool {
    action.mark == Mark::HoldBegins
        || matches!(step, Step::Quench { .. }) && action.mark != Mark::Quenched
}

fn seconds(from_ms: i64, to_ms: i64) -> f64 {
    to_ms.saturating_sub(from_ms) as f64 / 1000.0
}

/// The plan as it was really done: what was said, then what the clock showed, then the plan.
#[must_use]
pub fn as_done(planned: &[Step], state: &State) -> Done {
    let course = state.course(planned);
    let (steps, actions) = (course.steps(), course.actions());
    let timed: Vec<(&FiringAction, i64)> = actions
        .iter()
        .zip(state.confirmed_ms.iter().copied())
        .collect();
    let mut real = Rounds::new();
    let mut doubts = Vec::new();
    for pair in timed.windows(2) {
        let ((begun, from), (_, to)) = (pair[0], pair[1]);
        let step = &steps[begun.step];
        let Some(planned) = begun.lasts_s.filter(|_| is_timed(begun, step)) else {
            continue;
        };
        let pressed = seconds(from, to);
        if believed(step, pressed, planned) {
            let entry = real.entry((begun.step, begun.round)).or_default();
            entry.lasted_s = Some(Seconds::clamped(pressed));
        } else {
            doubts.push(Doubt::Clock {
                step: begun.step,
                round: begun.round,
                pressed_s: pressed,
                counted_s: planned,
            });
        }
    }
    hear(steps, state, &mut real);
    doubts.retain(|doubt| match doubt {
        Doubt::Clock { step, round, .. } => real
            .get(&(*step, *round))
            .is_none_or(|entry| entry.lasted_s.is_none()),
        Doubt::NotPressed { .. } => true,
    });
    // What was to last longer or shorter did so, where neither clock nor smith says otherwise.
    for deviated in state.deviations.iter().rev() {
        if let Deviation::Timed {
            step,
            round,
            lasts_s,
        } = &deviated.deviation
        {
            let entry = real.entry((*step, *round)).or_default();
            entry.lasted_s = entry.lasted_s.or(Some(*lasts_s));
        }
    }
    let pressed = |i: usize| timed.iter().any(|(action, _)| action.step == i);
    if state.closed && state.end == End::Done {
        let missed = course.order().into_iter().filter(|i| !pressed(*i));
        doubts.extend(missed.map(|step| Doubt::NotPressed { step }));
    }
    let mut done = Done {
        steps: Vec::with_capacity(steps.len()),
        planned: Vec::with_capacity(steps.len()),
        untempered_s: untempered(&timed),
        doubts,
    };
    // Where it was broken off, what was not pressed was not done; where it was begun by mistake, nothing was.
    let was_done = |i: usize| match state.end {
        End::Done => true,
        End::Abandoned => pressed(i),
        End::Mistake => false,
    };
    for i in course.order().into_iter().filter(|i| was_done(*i)) {
        let step = &steps[i];
        let rounds: Vec<Real> = (0..step.rounds())
            .map(|round| real.get(&(i, round)).copied().unwrap_or_default())
            .collect();
        let mut really = really(step, &rounds);
        if let [Step::SubZero { wait_s, .. }] = really.as_mut_slice()
            && let Some(waited) = waited(&timed, i)
        {
            *wait_s = waited;
        }
        done.planned.extend(really.iter().map(|_| i));
        done.steps.extend(really);
    }
    done
}

/// Takes in what the smith said; the last word counts.
fn hear(steps: &[Step], state: &State, real: &mut Rounds) {
    for said in &state.said {
        let FiringEvent::Say {
            step,
            round,
            temperature_c,
            by,
            medium,
            lasted_s,
            ..
        } = said
        else {
            continue;
        };
        let Some(planned) = steps.get(*step) else {
            continue;
        };
        let rounds = match (round, planned) {
            (Some(round), _) => *round..*round + 1,
            (None, Step::Temper { .. }) => 0..planned.rounds(),
            (None, _) => 0..1,
        };
        for round in rounds {
            let entry = real.entry((*step, round)).or_default();
            entry.temperature_c = temperature_c.or(entry.temperature_c);
            entry.by = by.or(entry.by);
            entry.medium = medium.or(entry.medium);
            entry.lasted_s = lasted_s.or(entry.lasted_s);
        }
    }
}

/// From the end of the quench to the first temper, where both were pressed at their time.
fn untempered(timed: &[(&FiringAction, i64)]) -> Option<Seconds> {
    let quench = (timed.iter()).rposition(|(action, _)| action.mark == Mark::Quenched)?;
    let temper = |(action, _): &&(&FiringAction, i64)| action.mark == Mark::Tempering;
    let ((_, quenched), (_, tempering)) = (&timed[quench], timed[quench..].iter().find(temper)?);
    let waited = seconds(*quenched, *tempering);
    (waited >= SHORTEST_WAIT_S).then(|| Seconds::clamped(waited))
}

/// From the end of the quench into the cold of step `i`, where both were pressed.
fn waited(timed: &[(&FiringAction, i64)], i: usize) -> Option<Seconds> {
    let cold = timed.iter().position(|(action, _)| action.step == i)?;
    let (before, (_, cold)) = (&timed[..cold], &timed[cold]);
    let (_, quenched) = before
        .iter()
        .rfind(|(action, _)| action.mark == Mark::Quenched)?;
    let waited = seconds(*quenched, *cold);
    (waited >= SHORTEST_WAIT_S).then(|| Seconds::clamped(waited))
}

/// A step with what was really so of each round.
fn really(step: &Step, rounds: &[Real]) -> Vec<Step> {
    if let Step::Temper {
        temperature_c,
        hold_s,
        times,
        station_id,
        clamp,
        cooled,
        blades,
        by,
    } = step
    {
        let round = |real: &Real, times: u32| Step::Temper {
            temperature_c: real.temperature_c.unwrap_or(*temperature_c),
            hold_s: real.lasted_s.unwrap_or(*hold_s),
            times,
            station_id: *station_id,
            clamp: *clamp,
            cooled: *cooled,
            blades: *blades,
            by: by.filter(|_| real.temperature_c.is_none()),
        };
        let each: Vec<Step> = rounds.iter().map(|real| round(real, 1)).collect();
        let alike = each.windows(2).all(|pair| pair[0] == pair[1]);
        return match rounds.first() {
            Some(first) if alike => vec![round(first, *times)],
            _ => each,
        };
    }
    let mut step = step.clone();
    for (n, real) in rounds.iter().enumerate() {
        if let Some(time) = real.lasted_s {
            set_time(&mut step, n, time);
        }
        if let Some(medium) = real.medium {
            set_medium(&mut step, n, medium);
        }
        if let Some(t) = real.temperature_c {
            step.set_temperature(n, t);
        }
        // A thermocouple says more than an eye, and an eye more than a plan.
        if (real.temperature_c.is_some() || real.by.is_some())
            && let Some((by, _)) = step.judged()
        {
            *by = real.by.filter(|_| real.temperature_c.is_none());
        }
    }
    vec![step]
}

fn set_time(step: &mut Step, round: usize, time: Seconds) {
    match step {
        Step::Normalize { hold_s, .. }
        | Step::Anneal { hold_s, .. }
        | Step::StressRelief { hold_s, .. }
        | Step::Refine { hold_s, .. }
        | Step::Clay { hold_s, .. }
        | Step::Preheat { hold_s, .. }
        | Step::Cool { hold_s, .. }
        | Step::SubZero { hold_s, .. }
        | Step::Temper { hold_s, .. } => *hold_s = time,
        Step::Austenitize { soak_s, .. } => *soak_s = time,
        Step::Quench { stages } => {
            // A bath of no time at all was left out.
            let least = Seconds::clamped(time.value().max(SHORTEST_BATH_S));
            if let Some(Stage { for_s, .. }) = stages.get_mut(round) {
                *for_s = Some(least);
            }
        }
        Step::Coat {}
        | Step::Pouch {}
        | Step::Straighten {}
        | Step::TorchTemper { .. }
        | Step::Stamp {}
        | Step::Check { .. } => {}
    }
}

/// Another bath: as warm as it usually is, and moved as usual. How deep it went in stays.
fn set_medium(step: &mut Step, round: usize, medium: Medium) {
    if let Step::Quench { stages } = step
        && let Some(stage) = stages.get_mut(round).filter(|s| s.medium != medium)
    {
        *stage = Stage {
            for_s: stage.for_s,
            edge_depth_mm: stage.edge_depth_mm,
            tip_length_mm: stage.tip_length_mm,
            transfer_s: stage.transfer_s,
            entry: stage.entry,
            ..Stage::until_cold(medium)
        };
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::firing::{Event, state};
    use crate::simulation::physics::tests::plan;
    use crate::simulation::simulated::hours_untempered;
    use rstest::rstest;
    use uuid::Uuid;

    fn steps() -> Vec<Step> {
        plan(
            r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"water","for_s":2},{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        )
        .steps()
        .to_vec()
    }

    /// A press of every action, each so many seconds after the one before it.
    fn presses(after_s: &[f64]) -> Vec<Event> {
        let mut at_ms = 0;
        after_s
            .iter()
            .enumerate()
            .map(|(action, after)| {
                at_ms += (after * 1000.0) as i64;
                Event {
                    id: Uuid::from_u128(action as u128),
                    what: FiringEvent::Confirm { action },
                    at_ms,
                }
            })
            .collect()
    }

    fn say(step: usize, round: Option<usize>, celsius: f64, lasted_s: f64) -> Event {
        Event {
            id: Uuid::from_u128(900 + round.unwrap_or(50) as u128),
            what: FiringEvent::Say {
                step,
                round,
                temperature_c: Some(Celsius::clamped(celsius)),
                lasted_s: Some(Seconds::clamped(lasted_s)),
                note: String::new(),
                by: None,
                medium: None,
            },
            at_ms: 0,
        }
    }

    fn done(events: &[Event]) -> Done {
        let steps = steps();
        as_done(&steps, &state(&steps, events).unwrap())
    }

    fn tempers(done: &Done) -> Vec<(f64, f64, u32)> {
        let soak = |s: &Step| match s {
            Step::Temper {
                temperature_c,
                hold_s,
                times,
                ..
            } => Some((temperature_c.value(), hold_s.value(), *times)),
            _ => None,
        };
        done.steps.iter().filter_map(soak).collect()
    }

    #[rstest]
    #[case(480.0, 480.0, 0)]
    #[case(0.9, 300.0, 1)]
    #[case(4000.0, 300.0, 1)]
    fn a_hold_counts_when_it_is_believable_and_says_so_when_it_is_not(
        #[case] pressed_s: f64,
        #[case] counts_s: f64,
        #[case] doubts: usize,
    ) {
        let done = done(&presses(&[0.0, 60.0, pressed_s]));
        assert!(
            matches!(&done.steps[0], Step::Austenitize { soak_s, .. } if soak_s.value() == counts_s)
        );
        assert_eq!(done.doubts.len(), doubts);
    }

    #[rstest]
    #[case(6.0, 6.0)]
    #[case(12.0, 12.0)]
    #[case(0.7, 0.7)]
    // Two presses at once after the fact: nobody is that quick.
    #[case(0.1, 2.0)]
    fn seconds_in_water_are_those_that_were_pressed(#[case] pressed_s: f64, #[case] counts_s: f64) {
        let done = done(&presses(&[0.0, 60.0, 300.0, pressed_s]));
        let Step::Quench { stages } = &done.steps[1] else {
            panic!()
        };
        assert_eq!(stages[0].for_s, Some(Seconds::clamped(counts_s)));
        assert_eq!(stages[1].for_s, None);
    }

    #[test]
    fn each_round_of_a_temper_keeps_its_own_pressed_time() {
        let until_quenched = [0.0, 60.0, 300.0, 2.0, 30.0];
        let rounds = |first: f64, second: f64| {
            let rest = [600.0, 900.0, first, 3600.0, 900.0, second];
            tempers(&done(&presses(&[&until_quenched[..], &rest[..]].concat())))
        };
        assert_eq!(rounds(7200.0, 7200.0), [(205.0, 7200.0, 2)]);
        assert_eq!(
            rounds(7200.0, 3600.0),
            [(205.0, 7200.0, 1), (205.0, 3600.0, 1)]
        );
    }

    #[test]
    fn each_round_of_a_temper_keeps_what_was_said_of_it() {
        let before = presses(&[0.0, 60.0]);
        let with = |said: &[Event]| tempers(&done(&[&before[..], said].concat()));
        assert_eq!(
            with(&[say(2, None, 220.0, 3600.0)]),
            [(220.0, 3600.0, 2)],
            "of all rounds, each"
        );
        assert_eq!(
            with(&[
                say(2, Some(0), 211.0, 7200.0),
                say(2, Some(1), 207.0, 3600.0)
            ]),
            [(211.0, 7200.0, 1), (207.0, 3600.0, 1)]
        );
        let done = done(&[&before[..], &[say(2, Some(1), 207.0, 3600.0)]].concat());
        assert_eq!(done.planned, [0, 1, 2, 2]);
    }

    #[test]
    fn what_was_said_wins_over_the_clock_and_settles_the_doubt() {
        let mut events = presses(&[0.0, 60.0, 4000.0]);
        events.push(say(0, None, 822.0, 420.0));
        let done = done(&events);
        assert!(
            matches!(&done.steps[0], Step::Austenitize { soak_s, temperature_c, .. }
            if soak_s.value() == 420.0 && temperature_c.value() == 822.0)
        );
        assert!(done.doubts.is_empty());
    }

    #[test]
    fn the_time_it_lay_untempered_is_the_lived_one() {
        let presses = presses(&[0.0, 60.0, 300.0, 2.0, 30.0, 36_000.0]);
        let done = done(&presses);
        assert_eq!(done.untempered_s, Some(Seconds::clamped(36_000.0)));
        assert_eq!(hours_untempered(&done.clone().plan()), 10.0);
        assert_eq!(hours_untempered(&Plan::stored(done.steps)), 0.0);
    }

    #[test]
    fn the_wait_for_the_cold_is_the_lived_one() {
        let steps = plan(
            r#"[{"kind":"austenitize","temperature_c":1050,"soak_s":900},
                {"kind":"quench","stages":[{"medium":"plates"}]},
                {"kind":"sub_zero","temperature_c":-75,"hold_s":7200},
                {"kind":"temper","temperature_c":180,"hold_s":7200}]"#,
        );
        let events = presses(&[0.0, 600.0, 900.0, 120.0, 5400.0]);
        let done = as_done(steps.steps(), &state(steps.steps(), &events).unwrap());
        assert!(matches!(&done.steps[2], Step::SubZero { wait_s, .. } if wait_s.value() == 5400.0));
    }

    fn deviate(n: u128, how: Deviation) -> Event {
        Event {
            id: Uuid::from_u128(800 + n),
            what: FiringEvent::Deviate { how },
            at_ms: 0,
        }
    }

    #[test]
    fn what_was_put_in_or_left_out_is_done_or_not() {
        let pressed = presses(&[0.0, 60.0, 300.0, 2.0, 30.0]);
        let kinds = |how: Deviation| {
            let events = [&pressed[..], &[deviate(0, how)]].concat();
            let done = done(&events);
            let kinds: Vec<_> = done.steps.iter().map(Step::kind).collect();
            (kinds, done.planned)
        };
        use crate::process::step::StepKind::{Austenitize, Cool, Quench, Temper};
        let step = Step::Cool {
            temperature_c: Celsius::clamped(20.0),
            hold_s: Seconds::clamped(0.0),
        };
        assert_eq!(
            kinds(Deviation::Extra { step }),
            (vec![Austenitize, Quench, Cool, Temper], vec![0, 1, 3, 2])
        );
        assert_eq!(
            kinds(Deviation::Again { from: 0, to: 1 }),
            (
                vec![Austenitize, Quench, Austenitize, Quench, Temper],
                vec![0, 1, 3, 4, 2]
            )
        );
        let left_out = Deviation::LeftOut {
            step: 2,
            round: Some(1),
        };
        let events = [&pressed[..], &[deviate(0, left_out)]].concat();
        assert_eq!(tempers(&done(&events)), [(205.0, 7200.0, 1)]);
    }

    #[test]
    fn a_hold_that_was_to_last_longer_is_believed_when_it_did() {
        let longer = Deviation::Timed {
            step: 0,
            round: 0,
            lasts_s: Seconds::clamped(3600.0),
        };
        let soak = |pressed_s: f64| {
            let presses = presses(&[0.0, 60.0, pressed_s]);
            let events = [&presses[..2], &[deviate(0, longer.clone())], &presses[2..]].concat();
            let done = done(&events);
            match &done.steps[0] {
                Step::Austenitize { soak_s, .. } => (soak_s.value(), done.doubts.len()),
                _ => panic!(),
            }
        };
        // Twelve times what was planned: forgotten, had nobody said so.
        assert_eq!(soak(3500.0), (3500.0, 0));
        assert_eq!(soak(1.0), (3600.0, 1));
    }

    #[test]
    fn the_bath_it_went_into_is_the_one_that_was_said() {
        let mut events = presses(&[0.0, 60.0, 300.0, 2.0, 30.0]);
        events.push(Event {
            id: Uuid::from_u128(70),
            what: FiringEvent::Say {
                step: 1,
                round: Some(1),
                temperature_c: None,
                by: None,
                medium: Some(Medium::SlowOil),
                lasted_s: None,
                note: String::new(),
            },
            at_ms: 0,
        });
        let Step::Quench { stages } = &done(&events).steps[1] else {
            panic!()
        };
        let media: Vec<_> = stages.iter().map(|s| s.medium).collect();
        assert_eq!(media, [Medium::Water, Medium::SlowOil]);
        assert_eq!(stages[1].bath_c, Medium::SlowOil.usual_bath());
    }

    #[test]
    fn what_was_never_pressed_is_told_once_the_firing_is_closed() {
        let mut events = presses(&[0.0, 60.0, 300.0, 2.0, 30.0]);
        assert!(done(&events).doubts.is_empty());
        events.push(Event {
            id: Uuid::from_u128(77),
            what: FiringEvent::Close { end: End::Done },
            at_ms: 0,
        });
        assert_eq!(done(&events).doubts, [Doubt::NotPressed { step: 2 }]);
    }
}
