//! The straightening window: how long a blade out of the bath still bends easily.

use crate::material::medium::Medium;
use crate::material::steel::Steel;
use crate::process::plan::Plan;
use crate::process::step::Stage;
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Kelvins, Quantity, Seconds};
use crate::simulation::heat::{Heat, READING_SPOT};
use crate::simulation::physics::stages;
use crate::simulation::quench::Quenched;
use serde::{Deserialize, Serialize};

/// Below this nothing soft forms any more in the seconds that a pull takes, °C: well under the nose of
/// the pearlite of plain steels.
const PAST_THE_NOSE_C: f64 = 400.0;
/// Once this share of the section is hard it springs, and may snap.
const STIFF: f64 = 0.25;
/// At least this share of the section must become hard for a window to mean anything.
const MOSTLY: f64 = 0.5;
/// A moment shorter than this nobody hits, s.
const SHORTEST_S: f64 = 2.0;

/// When a blade can come out of the bath, and until when it bends easily: austenite is soft, martensite
/// is not. Times count from entering the bath, for the section where the blade is read.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Straightening {
    /// Martensite starts at this temperature, °C.
    pub martensite_start_c: f64,
    /// It may come out, s: cold enough that nothing soft forms in air.
    pub pull_s: f64,
    /// Pulled then, it stiffens in still air, s.
    pub until_s: f64,
    /// Left in the bath it stiffens, s.
    pub in_bath_s: f64,
}

/// Hottest place of the section at each frame, °C.
fn hottest(q: &Quenched, frame: usize) -> f64 {
    let cells = q.frames[frame]
        .temperature_c
        .iter()
        .zip(&q.grid.thickness_mm);
    cells
        .filter(|(_, thick)| **thick > 0.0)
        .map(|(t, _)| f64::from(*t))
        .fold(f64::NEG_INFINITY, f64::max)
}

/// How much is hard at each frame, 0 to 1: of the section, where thick places count for more, or of twice
/// the place where the blade is read, if that is harder: an edge can be glass under a soft spine.
fn hard(q: &Quenched, frame: usize) -> f64 {
    let thickness = q.grid.thickness_mm.iter();
    let cells: Vec<(f64, f64)> = thickness
        .zip(&q.frames[frame].martensite)
        .filter(|(thick, _)| **thick > 0.0)
        .map(|(thick, share)| (*thick, f64::from(*share)))
        .collect();
    let all: f64 = cells.iter().map(|(thick, _)| thick).sum();
    let mean = cells
        .iter()
        .map(|(thick, share)| thick * share)
        .sum::<f64>()
        / all.max(1e-9);
    let read = (READING_SPOT * cells.len() as f64) as usize;
    let edge = cells.get(read).map_or(0.0, |(_, share)| 0.5 * share);
    mean.max(edge)
}

/// First time `value`, falling or rising to `limit`, is there, s, between two frames by straight line.
fn first(q: &Quenched, limit: f64, falling: bool, value: impl Fn(usize) -> f64) -> Option<f64> {
    let there = |i: &usize| {
        if falling {
            value(*i) <= limit
        } else {
            value(*i) >= limit
        }
    };
    let after = (0..q.frames.len()).find(there)?;
    let Some(before) = after.checked_sub(1) else {
        return Some(q.frames[0].time_s);
    };
    let (from, to) = (value(before), value(after));
    let share = if (to - from).abs() < 1e-9 {
        1.0
    } else {
        (limit - from) / (to - from)
    };
    let (begun, ended) = (q.frames[before].time_s, q.frames[after].time_s);
    Some(begun + share * (ended - begun))
}

/// When it no longer bends easily, s: a part of the section is hard, or all of it is below the martensite
/// start.
fn stiff(q: &Quenched, ms: f64) -> Option<f64> {
    let cold = first(q, ms, true, |i| hottest(q, i));
    let grown = first(q, STIFF, false, |i| hard(q, i));
    match (cold, grown) {
        (Some(a), Some(b)) => Some(a.min(b)),
        (a, b) => a.or(b),
    }
}

/// The stages until `seconds`, then still air until cold.
fn pulled(stages: &[Stage], seconds: f64) -> Vec<Stage> {
    let mut left = seconds;
    let mut cut = Vec::with_capacity(stages.len() + 1);
    for stage in stages {
        let lasts = stage.for_s.map_or(f64::INFINITY, Seconds::value);
        cut.push(Stage {
            for_s: Some(Seconds::clamped(lasts.min(left))),
            ..*stage
        });
        if lasts >= left {
            break;
        }
        left -= lasts;
    }
    cut.push(Stage::until_cold(Medium::StillAir));
    cut
}

/// The window of the last quench of `plan`; None when there is none worth the name: water, a thin
/// section, or nothing that became austenite.
#[must_use]
pub fn straightening(plan: &Plan, steel: &Steel, work: &Workpiece) -> Option<Straightening> {
    let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
    let ms = heat.dissolved.martensite_start_c;
    if heat.dissolved.austenite < 0.05 || ms < 60.0 {
        return None;
    }
    let planned = stages(plan);
    let bath = heat.across(&work.form, &work.clay, &planned)?;
    let end = bath.frames.len().checked_sub(1)?;
    if hard(&bath, end) < MOSTLY {
        // A soft spine bends at any time, and would break the hard edge.
        return None;
    }
    let past_nose = PAST_THE_NOSE_C.max(ms + 40.0);
    let pull_s = first(&bath, past_nose, true, |i| hottest(&bath, i))?;
    let in_bath_s = stiff(&bath, ms)?;
    if in_bath_s < pull_s + SHORTEST_S {
        // Part of it is hard before, or just as, the rest is safe: water, or an edge under a clayed spine.
        return None;
    }
    let air = heat.across(&work.form, &work.clay, &pulled(&planned, pull_s))?;
    let until_s = stiff(&air, ms)?;
    (until_s - pull_s >= SHORTEST_S).then_some(Straightening {
        martensite_start_c: ms,
        pull_s,
        until_s,
        in_bath_s,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::{blade, nominal};

    fn window(steel: &str, medium: &str) -> Option<Straightening> {
        let steel = Steel::built_in(steel).unwrap();
        straightening(&nominal(steel, medium), steel, &Workpiece::plain(&blade()))
    }

    #[test]
    fn pulled_from_oil_it_bends_for_longer_than_in_the_oil() {
        let w = window("o1", "medium_oil").unwrap();
        assert!(w.pull_s > 1.0 && w.pull_s < w.in_bath_s, "{w:?}");
        assert!(w.until_s > w.in_bath_s + 5.0, "{w:?}");
        assert!((10.0..300.0).contains(&(w.until_s - w.pull_s)), "{w:?}");
    }

    #[test]
    fn water_and_clay_leave_no_time() {
        assert_eq!(window("w2", "water"), None);
        let steel = Steel::built_in("w2").unwrap();
        let clayed = Workpiece {
            clay: crate::geometry::clay::Clay::band(18.0, 2.0),
            ..Workpiece::plain(&blade())
        };
        assert_eq!(
            straightening(&nominal(steel, "water"), steel, &clayed),
            None
        );
    }

    #[test]
    fn an_air_hardening_steel_gives_minutes() {
        let air = window("a2", "still_air").unwrap();
        assert!(
            (air.until_s - air.in_bath_s).abs() < 0.1 * air.until_s,
            "{air:?}"
        );
        assert!(air.until_s - air.pull_s > 60.0, "{air:?}");
    }

    #[test]
    fn a_richer_steel_has_a_longer_window() {
        // The more carbon in solution, the lower the martensite start.
        let (lean, rich) = (window("5160", "medium_oil"), window("o1", "medium_oil"));
        assert!(lean.unwrap().martensite_start_c > rich.unwrap().martensite_start_c);
    }
}
