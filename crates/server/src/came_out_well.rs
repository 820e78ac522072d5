//! Blades that came out as they were wanted: hard enough by the readings that count, straight and sound as
//! far as anybody looked.

use crate::predictor::Predictor;
use crate::problem::Problem;
use crate::routes::reading::lines;
use std::collections::HashMap;
use uuid::Uuid;
use vatten_core::prediction::outcome::tolerance_mm;
use vatten_core::process::calibration::Checks;
use vatten_core::record::finding::Finding;
use vatten_core::record::reading::When;
use vatten_core::simulation::hamon::Line;
use vatten_store::finding::FindingRow;
use vatten_store::reading::Reading;
use vatten_store::record::Fired;
use vatten_store::{PgPool, WorkshopId, calibration, finding, method, reading, record};

/// A blade that came out well.
#[derive(Debug)]
pub struct CameOutWell {
    /// The blade and what was done to it.
    pub fired: Fired,
    /// Its name now.
    pub name: String,
    /// Mean of what counts of its readings after the last temper, HRC.
    pub measured_hrc: f64,
}

/// Blades of a steel that are looked at.
const LOOKED_AT: i64 = 60;

/// Mean at a stage of all that counts, HRC, as the testers really read; None without any.
#[must_use]
pub fn mean_hrc(
    readings: &[&Reading],
    line: Option<&Line>,
    checks: &Checks,
    when: When,
) -> Option<f64> {
    let mut values = Vec::new();
    for r in readings
        .iter()
        .filter(|r| When::parse(&r.stage) == Some(when))
    {
        let known = checks.at(r.taken_at.unix_timestamp());
        let counting = r.taken.counting(&r.values_hrc, line);
        values.extend(counting.iter().map(|v| known.really(r.tester_id, *v)));
    }
    (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64)
}

/// Nothing that was found speaks against it: no crack, not given up, and straight when it was last looked at.
fn straight_and_sound<'a>(found: impl Iterator<Item = &'a Finding>, length_mm: f64) -> bool {
    let mut straight = true;
    for f in found {
        match f {
            Finding::Crack { cracked: true, .. } | Finding::Scrap { .. } => return false,
            Finding::Side { sag_mm } => straight = sag_mm.abs() <= tolerance_mm(length_mm),
            Finding::Straight { places, .. } => {
                straight = places.iter().all(|p| p[1].abs() <= tolerance_mm(length_mm));
            }
            _ => {}
        }
    }
    straight
}

/// Blades of the same steel as one that came out well, those of nearest spine first, at most `most`.
///
/// # Errors
/// The database cannot be read.
pub async fn came_out_well(
    pool: &PgPool,
    predictor: &Predictor,
    workshop: WorkshopId,
    blade_id: Uuid,
    most: usize,
) -> Result<Vec<CameOutWell>, Problem> {
    let like = method::like(pool, workshop, blade_id, LOOKED_AT).await?;
    let ids: Vec<Uuid> = like.iter().map(|l| l.blade_id).collect();
    let fired = record::fired(pool, workshop, &ids).await?;
    let mut fired: HashMap<Uuid, Fired> =
        fired.into_iter().map(|f| (f.treated.blade_id, f)).collect();
    let readings = reading::of_blades(pool, workshop, &ids).await?;
    let findings = finding::of_blades(pool, workshop, &ids).await?;
    let checks = calibration::checks(pool, workshop).await?;
    let lines = lines(pool, predictor, workshop, &readings).await?;
    let mut well = Vec::new();
    for one in like {
        let Some(fired) = fired.remove(&one.blade_id) else {
            continue;
        };
        let (of, made) = (fired.treated.firing_id, &fired.treated.made);
        let read: Vec<&Reading> = readings
            .iter()
            .filter(|r| r.firing_id == of && r.withdrawn_at.is_none())
            .collect();
        let counts = |f: &&FindingRow| f.firing_id == of && f.withdrawn_at.is_none();
        let found = findings.iter().filter(counts).map(|f| &f.found);
        let Some(measured_hrc) = mean_hrc(&read, lines.get(&of), &checks, When::Tempered) else {
            continue;
        };
        let (low, high) = made.target_hrc;
        let met = (low..=high).contains(&measured_hrc);
        if met && straight_and_sound(found, made.blade.length_mm) {
            well.push(CameOutWell {
                fired,
                name: one.name,
                measured_hrc,
            });
        }
        if well.len() == most {
            break;
        }
    }
    Ok(well)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(r#"[]"#, true)]
    #[case(
        r#"[{"kind":"crack","cracked":false},{"kind":"side","sag_mm":0.3}]"#,
        true
    )]
    #[case(r#"[{"kind":"crack","cracked":true}]"#, false)]
    #[case(r#"[{"kind":"scrap","cause":"bent"}]"#, false)]
    #[case(r#"[{"kind":"side","sag_mm":4.0}]"#, false)]
    // Straightened since: what was seen last counts.
    #[case(r#"[{"kind":"side","sag_mm":4.0},{"kind":"straight","after":"straightening","places":[[90,0.2]]}]"#, true)]
    #[case(r#"[{"kind":"straight","after":"quench","places":[[90,0.2]]},{"kind":"straight","after":"temper","places":[[90,-2.0]]}]"#, false)]
    fn only_straight_and_sound_blades_came_out_well(#[case] found: &str, #[case] well: bool) {
        let found: Vec<Finding> = serde_json::from_str(found).unwrap();
        assert_eq!(straight_and_sound(found.iter(), 180.0), well);
    }
}
