//! A temperature trace: what a thermocouple showed over time, and what that means for the steel.

use crate::material::temper;
use crate::process::step::Step;
use crate::quantity::units::{Celsius, Quantity};
use crate::record::firing::{FiringAction, Mark};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A temperature at a time.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sample {
    /// Milliseconds since 1970.
    pub at_ms: i64,
    /// °C.
    pub celsius: f64,
}

/// A fire is back at heat this close below its set point, °C.
const BACK_WITHIN_C: f64 = 3.0;
/// A smaller dip than this is a swing, °C.
const DIP_C: f64 = 6.0;
/// A hold counts from this close below its temperature, °C.
const HELD_WITHIN_C: f64 = 6.0;
/// Between two samples further apart nothing is known, s.
pub const GAP_S: f64 = 300.0;
/// Below this nothing tempers, °C.
const TEMPERS_FROM_C: f64 = 90.0;

/// What a fire did after it was loaded.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Recovery {
    /// Coolest since loading, °C; none without a dip.
    pub lowest_c: Option<f64>,
    /// When it was back at heat, ms since 1970; none while it is not, or when it never dipped.
    pub back_ms: Option<i64>,
}

/// Reads dip and recovery from samples since loading, oldest first, against the set point.
#[must_use]
pub fn recovery(samples: &[Sample], set_c: f64) -> Recovery {
    let lowest = samples
        .iter()
        .enumerate()
        .min_by(|a, b| a.1.celsius.total_cmp(&b.1.celsius));
    let Some((at, low)) = lowest.filter(|(_, s)| s.celsius <= set_c - DIP_C) else {
        return Recovery::default();
    };
    let back = samples[at..]
        .iter()
        .find(|s| s.celsius >= set_c - BACK_WITHIN_C);
    Recovery {
        lowest_c: Some(low.celsius),
        back_ms: back.map(|s| s.at_ms),
    }
}

/// A hold as it really was.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Held {
    /// Time at heat: no cooler than 6 °C under what was planned, s.
    pub at_heat_s: f64,
    /// Mean while at heat, °C; none when it never was.
    pub mean_c: Option<f64>,
    /// Hottest, °C.
    pub hottest_c: f64,
    /// How far it went over what was planned, °C, 0 when it did not.
    pub overshoot_c: f64,
    /// How far it fell under what was planned between first and last being at heat, °C, 0 when it did not.
    pub undershoot_c: f64,
    /// Time that is not known, for want of samples, s.
    pub unknown_s: f64,
}

/// Time between two samples that counts, s: none over a gap.
fn between(a: Sample, b: Sample) -> Option<f64> {
    let seconds = (b.at_ms - a.at_ms) as f64 / 1000.0;
    (0.0..=GAP_S).contains(&seconds).then_some(seconds)
}

/// Reads a hold planned at `planned_c` from samples, oldest first; None without any.
#[must_use]
pub fn held(samples: &[Sample], planned_c: f64) -> Option<Held> {
    let hottest_c = samples.iter().map(|s| s.celsius).reduce(f64::max)?;
    let from = planned_c - HELD_WITHIN_C;
    let (mut at_heat_s, mut sum, mut unknown_s) = (0.0, 0.0, 0.0);
    for pair in samples.windows(2) {
        let (a, b) = (pair[0], pair[1]);
        let Some(seconds) = between(a, b) else {
            unknown_s += (b.at_ms - a.at_ms).max(0) as f64 / 1000.0;
            continue;
        };
        // The part of a straight line from a to b that lies over the limit.
        let (low, high) = (a.celsius.min(b.celsius), a.celsius.max(b.celsius));
        let share = if high <= from {
            0.0
        } else if low >= from {
            1.0
        } else {
            (high - from) / (high - low)
        };
        at_heat_s += share * seconds;
        sum += share * seconds * 0.5 * (high + low.max(from));
    }
    let hot = |s: &Sample| s.celsius >= from;
    let inside = match (samples.iter().position(hot), samples.iter().rposition(hot)) {
        (Some(first), Some(last)) => &samples[first..=last],
        _ => &[],
    };
    let coolest = inside.iter().map(|s| s.celsius).reduce(f64::min);
    Some(Held {
        at_heat_s,
        mean_c: (at_heat_s > 0.0).then(|| sum / at_heat_s),
        hottest_c,
        overshoot_c: (hottest_c - planned_c).max(0.0),
        undershoot_c: coolest.map_or(0.0, |c| (planned_c - c).max(0.0)),
        unknown_s,
    })
}

/// A temper as it really was.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RealTemper {
    /// Hollomon–Jaffe parameter of all of it, K with hours and a constant of 20.
    pub parameter: f64,
    /// A steady temperature that does the same in the time that was planned, °C.
    pub as_steady_c: f64,
}

/// What a trace tempers: the parameter carried along it, each interval adding its time to what came before,
/// turned into time at its own temperature. None when it never got warm enough. `planned_s` must be above
/// zero.
#[must_use]
pub fn real_temper(samples: &[Sample], planned_s: f64) -> Option<RealTemper> {
    let mut parameter: Option<f64> = None;
    for pair in samples.windows(2) {
        let celsius = 0.5 * (pair[0].celsius + pair[1].celsius);
        let Some(seconds) = between(pair[0], pair[1]).filter(|s| *s > 0.0) else {
            continue;
        };
        if celsius < TEMPERS_FROM_C {
            continue;
        }
        let t = Celsius::clamped(celsius);
        let before = parameter.map_or(0.0, |p| temper::equivalent_hours(p, t));
        parameter = Some(temper::parameter(t, before + seconds / 3600.0));
    }
    let parameter = parameter?;
    Some(RealTemper {
        parameter,
        as_steady_c: steady_c(parameter, planned_s),
    })
}

/// The steady temperature, °C, that amounts to a Hollomon–Jaffe parameter in so many seconds.
fn steady_c(parameter: f64, seconds: f64) -> f64 {
    let hours = (seconds / 3600.0).max(1e-3);
    parameter / (temper::CONSTANT + hours.log10()) - 273.15
}

/// One step of a firing against a trace.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepTrace {
    /// Position of the step.
    pub step: usize,
    /// Round of a temper, from 0; 0 of every other step.
    pub round: usize,
    /// Planned, °C.
    pub planned_c: f64,
    /// Planned at heat in this round, s.
    pub planned_s: f64,
    /// When the step, or its round, began, ms since 1970.
    pub from_ms: i64,
    /// When the next one began, or what is known of it ends, ms since 1970.
    pub to_ms: i64,
    /// What really was.
    pub held: Held,
    /// What that tempers, for a temper.
    pub temper: Option<RealTemper>,
    /// What the record should say of this round, as temperature, °C, and time, s: for a hardening heat its
    /// mean and real soak, for a temper its time at heat and the steady temperature that does the same in it.
    pub really: Option<(f64, f64)>,
}

/// What the record should say of a round: temperature, °C, and time, s. See [`StepTrace::really`].
fn really(
    step: &Step,
    held: &Held,
    temper: Option<&RealTemper>,
    planned_s: f64,
) -> Option<(f64, f64)> {
    match (temper, held.mean_c) {
        (Some(t), _) => {
            // Where it never was at heat, what it got is told for the time that was planned.
            let lasted_s = if held.at_heat_s >= 60.0 {
                held.at_heat_s
            } else {
                planned_s
            };
            Some((steady_c(t.parameter, lasted_s), lasted_s))
        }
        (None, Some(mean)) if matches!(step, Step::Austenitize { .. }) => {
            Some((mean, held.at_heat_s))
        }
        _ => None,
    }
}

/// Where a step is done; none where it is not said.
fn station_of(step: &Step) -> Option<Uuid> {
    match step {
        Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. } => *station_id,
        _ => None,
    }
}

/// Holds the steps of a firing, by their number, against a trace, each round of a temper by itself: from its first confirmed
/// action to that of the next round or step. A round without a sample, or at another station than `station`,
/// is left out.
#[must_use]
pub fn against(
    steps: &[Step],
    actions: &[FiringAction],
    confirmed_ms: &[i64],
    until_ms: i64,
    (samples, station): (&[Sample], Option<Uuid>),
) -> Vec<StepTrace> {
    let began = |step: usize, round: usize| {
        let mut timed = actions.iter().zip(confirmed_ms);
        timed
            .find(|(b, _)| b.step == step && b.round >= round)
            .map(|(_, ms)| *ms)
    };
    let rounds = steps.iter().enumerate().flat_map(|(i, step)| {
        let rounds = step.hold().map_or(0, |_| step.rounds());
        (0..rounds).map(move |round| (i, round, step))
    });
    let mut found = Vec::new();
    for (i, round, step) in rounds {
        let Some(from_ms) = began(i, round) else {
            continue;
        };
        // Clay dries and blades cool where no thermocouple looks.
        let hold = match step {
            Step::Clay { .. } | Step::Cool { .. } | Step::SubZero { .. } => continue,
            other => other.hold(),
        };
        let Some(hold) = hold else { continue };
        let planned_s = hold.lasts_s.value();
        let at = station_of(step);
        if at.is_some() && station.is_some() && at != station {
            continue;
        }
        let planned_c = hold.temperature_c.value();
        let out = || {
            let ends =
                |b: &FiringAction| b.step == i && b.round == round && b.mark == Mark::HoldEnds;
            let mut timed = actions.iter().zip(confirmed_ms);
            timed.find(|(b, _)| ends(b)).map(|(_, ms)| *ms)
        };
        let next_step = || {
            let mut timed = actions.iter().zip(confirmed_ms);
            let mut behind = timed.by_ref().skip_while(|(b, _)| b.step != i);
            behind.find(|(b, _)| b.step != i).map(|(_, ms)| *ms)
        };
        // Once the blade is out, what its oven does is nothing to it.
        let to_ms = out()
            .or_else(|| began(i, round + 1))
            .or_else(next_step)
            .unwrap_or(until_ms);
        let begin = samples.partition_point(|s| s.at_ms < from_ms);
        let end = samples.partition_point(|s| s.at_ms <= to_ms).max(begin);
        let inside = &samples[begin..end];
        // A fire that never came near this heat was not at this step.
        let Some(held) = held(inside, planned_c).filter(|h| h.hottest_c > planned_c - 60.0) else {
            continue;
        };
        let temper = matches!(step, Step::Temper { .. })
            .then(|| real_temper(inside, planned_s))
            .flatten();
        let really = really(step, &held, temper.as_ref(), planned_s);
        found.push(StepTrace {
            step: i,
            round,
            planned_c,
            planned_s,
            from_ms,
            to_ms,
            held,
            temper,
            really,
        });
    }
    // Steps are not always done in the order of their numbers.
    found.sort_by_key(|s| s.from_ms);
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// A sample every ten seconds.
    fn every_ten(values: impl IntoIterator<Item = f64>) -> Vec<Sample> {
        let values = values.into_iter().enumerate();
        values
            .map(|(i, celsius)| Sample {
                at_ms: 10_000 * i as i64,
                celsius,
            })
            .collect()
    }

    #[test]
    fn a_loaded_kiln_dips_and_is_back() {
        let samples = every_ten([815.0, 800.0, 782.0, 790.0, 803.0, 811.0, 813.0, 816.0]);
        let r = recovery(&samples, 815.0);
        assert_eq!((r.lowest_c, r.back_ms), (Some(782.0), Some(60_000)));
        assert_eq!(recovery(&samples[..5], 815.0).back_ms, None);
        // A swing is no dip.
        assert_eq!(
            recovery(&every_ten([815.0, 811.0, 816.0]), 815.0),
            Recovery::default()
        );
    }

    #[test]
    fn a_hold_counts_while_it_is_at_heat() {
        let ramp = (0..30).map(|i| 500.0 + 10.0 * f64::from(i));
        let hold = [800.0; 31];
        let samples = every_ten(ramp.chain(hold).chain([820.0, 780.0, 800.0, 300.0]));
        let h = held(&samples, 800.0).unwrap();
        assert!((h.at_heat_s - 345.0).abs() < 20.0, "{h:?}");
        assert_eq!((h.overshoot_c, h.undershoot_c), (20.0, 20.0));
        assert!((h.mean_c.unwrap() - 801.0).abs() < 2.0);
        assert!(held(&[], 800.0).is_none());
        let never = held(&every_ten([20.0, 300.0]), 800.0).unwrap();
        assert_eq!((never.at_heat_s, never.mean_c), (0.0, None));
    }

    #[test]
    fn nothing_is_known_over_a_gap() {
        let mut samples = every_ten([800.0; 13]);
        for s in &mut samples[6..] {
            s.at_ms += 3_600_000;
        }
        let h = held(&samples, 800.0).unwrap();
        assert_eq!(h.at_heat_s, 110.0);
        assert_eq!(h.unknown_s, 3_610.0);
    }

    #[test]
    fn a_steady_temper_is_what_it_says() {
        let samples = every_ten([205.0; 721]);
        let t = real_temper(&samples, 7200.0).unwrap();
        assert!((t.as_steady_c - 205.0).abs() < 0.01, "{t:?}");
        let wanted = temper::parameter(Celsius::clamped(205.0), 2.0);
        assert!((t.parameter - wanted).abs() < 0.5);
        assert!(real_temper(&every_ten([20.0; 700]), 7200.0).is_none());
    }

    #[test]
    fn the_hot_half_hour_tells_most() {
        let swings =
            |by: f64| every_ten((0..721).map(|i| 205.0 + by * (f64::from(i) / 30.0).sin()));
        let (calm, wild) = (
            real_temper(&swings(0.0), 7200.0),
            real_temper(&swings(20.0), 7200.0),
        );
        let above = wild.unwrap().as_steady_c - calm.unwrap().as_steady_c;
        assert!((2.0..12.0).contains(&above), "{above}");
    }

    #[test]
    fn each_step_is_held_against_its_own_stretch() {
        let plan = crate::simulation::physics::tests::plan(
            r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":3600,"times":1}]"#,
        );
        let steps = plan.steps();
        let actions = crate::record::firing::actions(steps);
        // In the fire, at heat, in the oil, out, in the oven, at heat, out.
        let confirmed = [0, 120_000, 500_000, 560_000, 600_000, 700_000, 4_300_000];
        let fire = (0..50).map(|_| 812.0);
        let samples = every_ten(
            fire.chain((50..60).map(|_| 300.0))
                .chain((60..431).map(|_| 214.0)),
        );
        let found = against(steps, &actions, &confirmed, 4_400_000, (&samples, None));
        assert_eq!(found.iter().map(|f| f.step).collect::<Vec<_>>(), [0, 2]);
        let soak = found[0].really.unwrap();
        assert!(
            (soak.0 - 812.0).abs() < 0.5 && (soak.1 - 490.0).abs() < 15.0,
            "{soak:?}"
        );
        let temper = found[1].really.unwrap();
        assert!(
            (temper.0 - 214.0).abs() < 1.0 && (temper.1 - 3700.0).abs() < 20.0,
            "{temper:?}"
        );
        // A trace of another oven says nothing of a step that names its own.
        let other = Some(Uuid::from_u128(7));
        let named = plan.clone().with_stations(crate::process::plan::Stations {
            kiln: other,
            oven: other,
            eye: None,
        });
        let elsewhere = (&samples[..], Some(Uuid::from_u128(8)));
        assert!(against(named.steps(), &actions, &confirmed, 4_400_000, elsewhere).is_empty());
    }

    #[test]
    fn each_round_of_a_temper_has_its_own_time_and_temperature() {
        let plan = crate::simulation::physics::tests::plan(
            r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        );
        let steps = plan.steps();
        let actions = crate::record::firing::actions(steps);
        // In, at heat, out after two hours; in again, at heat, out after one.
        let rounds = [0, 600_000, 7_800_000, 9_000_000, 9_600_000, 13_200_000];
        let confirmed: Vec<i64> = [-900_000, -600_000, -300_000, -200_000]
            .into_iter()
            .chain(rounds)
            .collect();
        // The oven stays hot while the blade is out between them.
        let samples = every_ten((0..1400).map(|i| {
            let s = 10 * i;
            match s {
                0..600 => 25.0 + 0.3 * f64::from(s),
                600..9000 => 206.0,
                _ => 211.0,
            }
        }));
        let found = against(steps, &actions, &confirmed, 14_000_000, (&samples, None));
        let really: Vec<_> = found
            .iter()
            .map(|f| (f.step, f.round, f.really.unwrap()))
            .collect();
        let [(2, 0, first), (2, 1, second)] = really[..] else {
            panic!("{really:?}")
        };
        assert!(
            (first.0 - 206.0).abs() < 1.0 && (first.1 - 7200.0).abs() < 60.0,
            "{first:?}"
        );
        assert!(
            (second.0 - 211.0).abs() < 1.0 && (second.1 - 4200.0).abs() < 60.0,
            "{second:?}"
        );
        // The two together temper as the trace did.
        let steady = found.iter().map(|f| {
            let (celsius, seconds) = f.really.unwrap();
            (
                Celsius::clamped(celsius),
                crate::quantity::units::Seconds::clamped(seconds),
            )
        });
        let amounts_to = temper::combined(&steady.collect::<Vec<_>>()).unwrap();
        let hold =
            |from: usize, to: usize| real_temper(&samples[from..=to], 3600.0).unwrap().parameter;
        assert!(
            amounts_to > hold(0, 780) && amounts_to > hold(900, 1320) && amounts_to < hold(0, 1399)
        );
    }

    proptest! {
        #[test]
        fn two_halves_are_the_whole(cut in 1usize..700, t in 120.0..600.0_f64) {
            let samples = every_ten([t; 721]);
            let whole = real_temper(&samples, 7200.0).unwrap().parameter;
            let mut doubled = samples.clone();
            doubled.insert(cut, Sample { at_ms: samples[cut].at_ms - 5_000, celsius: t });
            let again = real_temper(&doubled, 7200.0).unwrap().parameter;
            prop_assert!((whole - again).abs() < 1e-6 * whole);
        }
    }
}
