//! How long things really take in a shop, by kind and station, beside what the engine and the hand's usual measure say.

use crate::planning::activities::{Phase, PlannedBlade};
use crate::planning::day::Activity;
use serde::Serialize;
use std::collections::BTreeMap;

/// How long something took.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Took<'a> {
    /// What kind of thing.
    pub kind: &'a str,
    /// Where; none at no station.
    pub station: Option<&'a str>,
    /// As is usual, s.
    pub usual_s: f64,
    /// Really, s.
    pub took_s: f64,
}

/// What was learned of one kind at one station.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = LearnedLength))]
pub struct LearnedLength {
    /// What kind of thing.
    pub kind: String,
    /// Where.
    pub station: Option<String>,
    /// How many times as long as is usual.
    pub factor: f64,
    /// From how many.
    pub of: usize,
    /// Typical error of the usual length on them, s.
    pub usual_error_s: f64,
    /// Typical error of what was learned on them, each told from those before it alone, s.
    pub learned_error_s: f64,
}

/// Scatter of one length about what is typical for the station, and of stations about the usual, in ln: workshop experience.
const EACH: f64 = 0.25;
const STATIONS: f64 = 0.4;
/// What is longer than this many times, or shorter, was something else.
const ODD: f64 = 6.0;

/// Mean of a normal with the prior of stations, after these, ln.
fn mean(of: &[f64]) -> f64 {
    let weight = of.len() as f64 / (EACH * EACH);
    let sum: f64 = of.iter().sum::<f64>() / (EACH * EACH);
    sum / (weight + 1.0 / (STATIONS * STATIONS))
}

/// What a shop's lengths amount to.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Lengths(BTreeMap<(String, Option<String>), LearnedLength>);

impl Lengths {
    /// Of those that are known, in the order of time.
    #[must_use]
    pub fn of<'a>(all: impl Iterator<Item = Took<'a>>) -> Self {
        type Seen = Vec<(f64, f64)>;
        let mut by: BTreeMap<(String, Option<String>), Seen> = BTreeMap::new();
        for one in all {
            let odd = one.took_s / one.usual_s.max(1.0);
            if one.usual_s <= 0.0 || !(1.0 / ODD..=ODD).contains(&odd) {
                continue;
            }
            let key = (one.kind.to_owned(), one.station.map(str::to_owned));
            let seen = by.entry(key).or_default();
            seen.push((one.usual_s, one.took_s));
        }
        let learned = by.into_iter().map(|(key, seen)| {
            let ratios: Vec<f64> = seen.iter().map(|(u, t)| (t / u).ln()).collect();
            let error = |told: &dyn Fn(usize) -> f64| {
                let all = seen.iter().enumerate();
                let sum: f64 = all.map(|(i, (u, t))| (t - u * told(i)).abs()).sum();
                sum / seen.len() as f64
            };
            let of = LearnedLength {
                kind: key.0.clone(),
                station: key.1.clone(),
                factor: mean(&ratios).exp(),
                of: seen.len(),
                usual_error_s: error(&|_| 1.0),
                learned_error_s: error(&|i| mean(&ratios[..i]).exp()),
            };
            (key, of)
        });
        Self(learned.collect())
    }

    /// Each that is known.
    pub fn iter(&self) -> impl Iterator<Item = &LearnedLength> {
        self.0.values()
    }

    /// How many times as long as is usual it takes at the first of these stations; 1 where nothing is known.
    fn factor(&self, kind: &str, at: &[String]) -> f64 {
        let known = |station: Option<String>| self.0.get(&(kind.to_owned(), station));
        let mut of_stations = at.iter().filter_map(|s| known(Some(s.clone())));
        let found = of_stations.next().or_else(|| known(None));
        found.map_or(1.0, |l| l.factor)
    }

    /// A blade with lengths as they really are here, on a grid of so many seconds. Holds stay: they are what the plan says.
    #[must_use]
    pub fn real(&self, of: &PlannedBlade, grid_s: i64) -> PlannedBlade {
        let mut real = of.clone();
        let of_each = real.blade.activities.iter_mut().zip(&of.origins);
        for (activity, origin) in of_each {
            let factor = self.factor(&activity.kind, &activity.at);
            let Some(length) = length_of(activity, origin.phase) else {
                continue;
            };
            let s = (*length as f64 * factor / grid_s as f64).round() as i64;
            *length = s.max(i64::from(*length > 0)) * grid_s;
        }
        real
    }
}

/// The part of an activity that is learned: the heat in a fire, the work of a hand, the stay in a bath.
fn length_of(activity: &mut Activity, phase: Phase) -> Option<&mut i64> {
    match phase {
        Phase::Heat | Phase::Temper => Some(&mut activity.heat_s),
        Phase::Bench | Phase::Bath => Some(&mut activity.hold_s),
        Phase::Cooling | Phase::Drying | Phase::Cool | Phase::Cold => None,
    }
}

/// The usual length of the part of an activity that is learned, s; none where nothing is.
#[must_use]
pub fn usual_s(activity: &Activity, phase: Phase) -> Option<i64> {
    let mut activity = activity.clone();
    length_of(&mut activity, phase).map(|s| *s)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn took(usual_s: f64, took_s: f64) -> Took<'static> {
        Took {
            kind: "temper",
            station: Some("oven"),
            usual_s,
            took_s,
        }
    }

    #[test]
    fn a_slow_oven_is_learned_and_the_next_day_is_truer() {
        let all = [took(600.0, 900.0); 6];
        let lengths = Lengths::of(all.into_iter());
        let of = lengths.iter().next().unwrap();
        // Half as long again; the prior holds back a little.
        assert!((1.4..1.5).contains(&of.factor), "{of:?}");
        assert!((of.usual_error_s - 300.0).abs() < 1e-9);
        assert!(of.learned_error_s < 0.5 * of.usual_error_s);
        assert_eq!(lengths.factor("temper", &["other".to_owned()]), 1.0);
        assert_eq!(lengths.factor("temper", &["oven".to_owned()]), of.factor);
    }

    #[test]
    fn one_odd_length_is_not_believed_and_an_absurd_one_is_left_out() {
        let lengths = Lengths::of([took(600.0, 900.0)].into_iter());
        let of = lengths.iter().next().unwrap();
        assert!((1.2..1.4).contains(&of.factor), "{of:?}");
        let slept = Lengths::of([took(600.0, 36_000.0)].into_iter());
        assert_eq!(slept.iter().count(), 0);
    }
}
