//! What one place of a blade goes through in the quench: temperature, phases and stress at its face and in its middle,
//! beside the start lines of its steel.

use crate::process::step::Stage;
use crate::process::workpiece::Workpiece;
use crate::simulation::heat::Heat;
use crate::simulation::quench::Stopped;
use crate::simulation::warp::blade::{case_at, faces_of, heat_j, section_at};
use crate::simulation::warp::course::Course;
use crate::simulation::warp::run::{Case, Watched, bend};
use crate::simulation::warp::section::Faces;
use serde::{Deserialize, Serialize};
use std::sync::atomic::AtomicBool;

/// One spot of a place at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spot {
    /// Temperature, °C.
    pub temperature_c: f64,
    /// Pearlite, and what was never austenite, 0 to 1.
    pub pearlite: f64,
    /// Bainite, 0 to 1.
    pub bainite: f64,
    /// Martensite, 0 to 1.
    pub martensite: f64,
    /// Stress along the blade, MPa: above zero it is drawn apart.
    pub stress_mpa: f64,
}

/// A place at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceMoment {
    /// Since it entered the first medium, s; below zero on the way to it.
    pub time_s: f64,
    /// At its left face.
    pub face: Spot,
    /// In the middle of its thickness.
    pub middle: Spot,
    /// How fast its middle cools, K/s.
    pub cooling_k_s: f64,
}

/// When the first percent turns, held at one temperature.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StartPoint {
    /// Temperature, °C.
    pub temperature_c: f64,
    /// To pearlite, s; none where that takes longer than any quench.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pearlite_s: Option<f64>,
    /// To bainite, s, likewise.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bainite_s: Option<f64>,
}

/// What a place goes through.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlaceHistory {
    /// Where, mm: from the heel, and the height of the row of the section that it lies in.
    pub at_mm: [f64; 2],
    /// Steel there, mm.
    pub thickness_mm: f64,
    /// Clay on its left face that keeps as much heat in as what lies there, mm.
    pub clay_mm: f64,
    /// From the fire to cold, at most [`MOST_MOMENTS`].
    pub moments: Vec<PlaceMoment>,
    /// The start lines, from hot to the martensite start.
    pub starts: Vec<StartPoint>,
    /// Martensite start, °C.
    pub martensite_start_c: f64,
}

/// Most moments that are kept.
pub const MOST_MOMENTS: usize = 160;
/// A start line is told as far as this, s.
const LATEST_S: f64 = 1e5;
/// From one point of a start line to the next, K.
const LINE_STEP_K: f64 = 10.0;
/// Largest change of temperature in a step, K.
const STEP_K: f64 = 6.0;

fn spot(at: &Watched, layer: usize) -> Spot {
    let (t, phases, stress) = &at.cells[layer.min(at.cells.len() - 1)];
    Spot {
        temperature_c: *t,
        pearlite: phases.pearlite,
        bainite: phases.bainite,
        martensite: phases.martensite,
        stress_mpa: 1e-6 * stress,
    }
}

/// Follows a place (mm) of a blade from `heat` through `stages`, which are not empty. None beside the blade.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn follow(
    work: &Workpiece,
    heat: &Heat,
    stages: &[Stage],
    [x, y]: [f64; 2],
    stop: Option<&AtomicBool>,
) -> Result<Option<PlaceHistory>, Stopped> {
    let Some((edge, spine)) = work.form.outline().section(x) else {
        return Ok(None);
    };
    if stages.is_empty() || !(edge..=spine).contains(&y) {
        return Ok(None);
    }
    let alike = faces_of(work);
    let Some(section) = section_at(work, x, alike, [1.0; 2]) else {
        return Ok(None);
    };
    let above = 1e-3 * (y - edge);
    let row = section
        .borders
        .partition_point(|b| *b <= above)
        .saturating_sub(1)
        .min(section.rows() - 1);
    let course = Course::warmed(stages, heat_j(work, heat));
    let case = Case {
        watch: Some(row),
        ..case_at(work, heat, &course, x, STEP_K)
    };
    let bent = bend(&section, &case, stop)?;
    let middle = match alike {
        Faces::Alike => section.layers - 1,
        Faces::Apart => section.layers / 2,
    };
    let every = bent.watched.len().div_ceil(MOST_MOMENTS).max(1);
    let last = bent.watched.len().saturating_sub(1);
    let kept = (0..bent.watched.len()).filter(|i| i % every == 0 || *i == last);
    let mut before: Option<(f64, f64)> = None;
    let moments = kept
        .map(|i| {
            let at = &bent.watched[i];
            let now = spot(at, middle);
            let cooling_k_s = before.map_or(0.0, |(time, t)| {
                (t - now.temperature_c) / (at.time_s - time).max(1e-9)
            });
            before = Some((at.time_s, now.temperature_c));
            PlaceMoment {
                time_s: at.time_s - course.way_s(),
                face: spot(at, 0),
                middle: now,
                cooling_k_s,
            }
        })
        .collect();
    let kinetics = &heat.kinetics;
    let martensite_start_c = kinetics.martensite_start_c();
    let span = (kinetics.starts_c() - martensite_start_c).max(0.0);
    let starts = (0..=(span / LINE_STEP_K) as usize)
        .map(|i| {
            let temperature_c = kinetics.starts_c() - LINE_STEP_K * i as f64;
            let [pearlite, bainite] = kinetics.first_percent_s(temperature_c);
            let within = |s: f64| (s < LATEST_S).then_some(s);
            StartPoint {
                temperature_c,
                pearlite_s: within(pearlite),
                bainite_s: within(bainite),
            }
        })
        .collect();
    Ok(Some(PlaceHistory {
        at_mm: [
            x,
            edge + 500.0 * (section.borders[row] + section.borders[row + 1]),
        ],
        thickness_mm: 1e3 * section.thickness(row),
        clay_mm: 1e3 * section.clay[0][row],
        moments,
        starts,
        martensite_start_c,
    }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::clay::Clay;
    use crate::material::medium::Medium;
    use crate::material::steel::Steel;
    use crate::quantity::units::Kelvins;
    use crate::simulation::physics::tests::{blade, nominal};

    fn followed(steel: &str, medium: Medium, clay: Clay, at: [f64; 2]) -> Option<PlaceHistory> {
        let steel = Steel::built_in(steel).unwrap();
        let work = Workpiece {
            clay,
            ..Workpiece::plain(&blade())
        };
        let heat = Heat::new(&work, &nominal(steel, "water"), steel, Kelvins::ZERO);
        follow(&work, &heat, &[Stage::until_cold(medium)], at, None).unwrap()
    }

    #[test]
    fn a_bare_edge_in_water_misses_the_nose_and_under_clay_it_does_not() {
        let bare = followed("w2", Medium::Water, Clay::default(), [80.0, 5.0]).unwrap();
        let under = followed("w2", Medium::Water, Clay::band(0.0, 3.0), [80.0, 5.0]).unwrap();
        let end = |p: &PlaceHistory| p.moments.last().unwrap().middle;
        assert!(end(&bare).martensite > 0.8, "{:?}", end(&bare));
        assert!(end(&under).pearlite > 0.8, "{:?}", end(&under));
        assert_eq!((bare.clay_mm, under.clay_mm), (0.0, 3.0));
        assert!(bare.moments.len() <= MOST_MOMENTS + 1 && bare.moments[0].time_s < 0.0);
        assert!(bare.moments.windows(2).all(|m| m[0].time_s < m[1].time_s));
        for m in bare.moments.iter().chain(&under.moments) {
            for s in [m.face, m.middle] {
                let sum = s.pearlite + s.bainite + s.martensite;
                assert!(
                    (-1e-9..=1.0 + 1e-9).contains(&sum) && s.stress_mpa.abs() < 3000.0,
                    "{m:?}"
                );
            }
        }
        assert!((bare.at_mm[1] - 5.0).abs() < 1.0 && bare.thickness_mm > 0.8);
    }

    #[test]
    fn the_start_line_has_its_nose_where_the_kinetics_have_it() {
        let p = followed("1084", Medium::FastOil, Clay::default(), [80.0, 10.0]).unwrap();
        let nose = p
            .starts
            .iter()
            .filter_map(|s| Some((s.pearlite_s?, s.temperature_c)))
            .min_by(|a, b| a.0.total_cmp(&b.0))
            .unwrap();
        let steel = Steel::built_in("1084").unwrap();
        let work = Workpiece::plain(&blade());
        let heat = Heat::new(&work, &nominal(steel, "water"), steel, Kelvins::ZERO);
        let (seconds, at) = heat.kinetics.pearlite_nose();
        assert!(
            (nose.0 / seconds - 1.0).abs() < 0.05 && (nose.1 - at).abs() <= 10.0,
            "{nose:?}"
        );
        assert!(
            p.starts
                .windows(2)
                .all(|s| s[0].temperature_c > s[1].temperature_c)
        );
        assert!(p.starts.last().unwrap().temperature_c >= p.martensite_start_c);
    }

    #[test]
    fn stress_along_the_section_is_in_balance_so_the_face_and_the_middle_pull_against_each_other() {
        // The face of a through-hardened blade turns first, is drawn apart by the middle that swells after it, or pressed
        // together: never both at rest.
        let p = followed("1084", Medium::Water, Clay::default(), [80.0, 20.0]).unwrap();
        let most = p
            .moments
            .iter()
            .map(|m| m.face.stress_mpa)
            .fold(0.0, f64::max);
        assert!(most > 50.0, "{most}");
    }

    #[test]
    fn beside_the_blade_there_is_no_place() {
        for at in [
            [80.0, 200.0],
            [-4000.0, 5.0],
            [80.0, -3.0],
            [f64::NAN, 5.0],
            [80.0, f64::NAN],
        ] {
            assert_eq!(
                followed("w2", Medium::Water, Clay::default(), at),
                None,
                "{at:?}"
            );
        }
    }
}
