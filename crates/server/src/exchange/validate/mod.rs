//! A file checked against the rules of the job before anything of it is kept: every fault with its place.

mod blade;
mod firing;
mod made;
mod shop;

pub use blade::{ReadyBlade, ReadyPlan};
pub use firing::ReadyFiring;
pub use shop::{ReadyStation, check_stations};
use std::collections::{BTreeMap, HashMap};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::made::{BarMade, SteelMade};
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::process::step_draft::StepDraft;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_store::blade::SteelRef;

/// What the ids of a file are in the shop.
#[derive(Default)]
pub struct Ids {
    /// Stations by their id in the file.
    pub stations: HashMap<Uuid, Uuid>,
    /// Steels by their id in the file.
    pub steels: HashMap<String, SteelMade>,
    /// Bars by their id in the file.
    pub bars: HashMap<Uuid, BarMade>,
    /// Nothing of them was refused: what is missing here is missing in the file.
    pub complete: bool,
}

impl Ids {
    /// A steel by its designation or its id in the file.
    pub fn steel(&self, text: &str) -> Option<SteelMade> {
        let table = || {
            let key = Steel::built_in(text)?.key.clone();
            Some(SteelMade::BuiltIn { key })
        };
        self.steels.get(text).cloned().or_else(table)
    }

    /// A steel as it was kept with a firing, under its id in the shop.
    fn kept(&self, steel: &SteelMade) -> SteelMade {
        match steel {
            SteelMade::House {
                id,
                name,
                analysis,
                estimate,
            } => match self.steels.get(&id.to_string()) {
                Some(SteelMade::House { id, .. }) => SteelMade::House {
                    id: *id,
                    name: name.clone(),
                    analysis: *analysis,
                    estimate: estimate.clone(),
                },
                _ => steel.clone(),
            },
            built_in => built_in.clone(),
        }
    }
}

fn reference(steel: &SteelMade) -> SteelRef {
    match steel {
        SteelMade::BuiltIn { key } => SteelRef::BuiltIn(key.clone()),
        SteelMade::House { id, .. } => SteelRef::House(*id),
    }
}

/// Faults of a steel as it was kept.
fn check_kept(steel: &SteelMade) -> Result<(), Faults> {
    match steel {
        SteelMade::BuiltIn { key } if Steel::built_in(key).is_none() => {
            Err(Faults::one("steel", "This is not a steel of the table."))
        }
        SteelMade::BuiltIn { .. } => Ok(()),
        SteelMade::House { analysis, .. } => Analysis::parse(&elements(analysis)).map(|_| ()),
    }
}

/// A new id that says when and sorts by it; those of one moment by their place in the file.
pub fn v7_at(at: OffsetDateTime, place: usize) -> Uuid {
    let millis = u64::try_from(at.unix_timestamp_nanos() / 1_000_000).unwrap_or(0);
    let mut random = [0; 10];
    random.copy_from_slice(&Uuid::now_v7().as_bytes()[6..]);
    // Twelve bits come before the random ones.
    let place = u16::try_from(place % 4096).unwrap_or(0).to_be_bytes();
    random[..2].copy_from_slice(&place);
    uuid::Builder::from_unix_timestamp_millis(millis, &random).into_uuid()
}

/// Gives every station of a plan its new id.
fn with_stations(plan: &Plan, ids: &Ids) -> Result<Plan, Faults> {
    let mut c = Checker::default();
    let mut steps = plan.steps().to_vec();
    for (i, step) in steps.iter_mut().enumerate() {
        if let Some((Some(by), _)) = step.judged()
            && let Some(id) = by.eye_id
        {
            match ids.stations.get(&id) {
                Some(to) => by.eye_id = Some(*to),
                None if !ids.complete => by.eye_id = None,
                None => {
                    let field = format!("steps[{i}].by.eye_id");
                    c.refuse(field, "This is no station of the file.");
                }
            }
        }
        if let Step::Quench { stages } = step {
            for (j, stage) in stages.iter_mut().enumerate() {
                let Some(id) = stage.tank_id else { continue };
                match ids.stations.get(&id) {
                    Some(to) => stage.tank_id = Some(*to),
                    None if !ids.complete => stage.tank_id = None,
                    None => {
                        let field = format!("steps[{i}].stages[{j}].tank_id");
                        c.refuse(field, "This is no station of the file.");
                    }
                }
            }
        }
        if let Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. } = step
            && let Some(id) = station_id
        {
            match ids.stations.get(id) {
                Some(to) => *id = *to,
                None if !ids.complete => *station_id = None,
                None => {
                    let field = format!("steps[{i}].station_id");
                    c.refuse(field, "This is no station of the file.");
                }
            }
        }
    }
    c.finish(Some(Plan::stored(steps)))
}

fn drafts_of(steps: &[serde_json::Value]) -> Result<Vec<StepDraft>, Faults> {
    steps
        .iter()
        .enumerate()
        .map(|(i, step)| {
            serde_json::from_value(step.clone())
                .map_err(|e| Faults::one(format!("steps[{i}]"), e.to_string()))
        })
        .collect()
}

/// Percent by symbol.
pub fn elements(analysis: &Analysis) -> BTreeMap<String, f64> {
    serde_json::to_value(analysis)
        .and_then(serde_json::from_value)
        .unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use time::Duration;

    #[test]
    fn ids_of_one_moment_sort_as_they_stand_in_the_file() {
        let at = OffsetDateTime::from_unix_timestamp(1_764_000_000).unwrap();
        let ids: Vec<Uuid> = (0..400).map(|i| v7_at(at, i)).collect();
        assert!(ids.is_sorted());
        assert!(v7_at(at + Duration::milliseconds(1), 0) > ids[399]);
        let (seconds, _) = ids[0].get_timestamp().unwrap().to_unix();
        assert_eq!((ids[0].get_version_num(), seconds), (7, 1_764_000_000));
    }
}
