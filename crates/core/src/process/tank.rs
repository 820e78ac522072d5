//! A tank of the shop: what is in it, how much, and what it does where it was measured.

use crate::material::medium::Medium;
use crate::process::heat_transfer::Own;
use crate::process::step::Stage;
use crate::quantity::units::Litres;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// A tank as far as it is known.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tank {
    /// What is in it.
    pub medium: Medium,
    /// How much; not said when none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub litres: Option<Litres>,
    /// What it takes from a surface, where it was measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub own: Option<Own>,
}

/// The tanks of a shop that are in use.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tanks(BTreeMap<Uuid, Tank>);

impl FromIterator<(Uuid, Tank)> for Tanks {
    fn from_iter<T: IntoIterator<Item = (Uuid, Tank)>>(all: T) -> Self {
        Self(all.into_iter().collect())
    }
}

impl Tanks {
    /// The shop has said of none what is in it.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// Each with its id.
    pub fn iter(&self) -> impl Iterator<Item = (Uuid, &Tank)> {
        self.0.iter().map(|(id, tank)| (*id, tank))
    }

    /// Where a stage goes: to the tank it names, while that is in it; else to the only measured one of its medium.
    fn of(&self, stage: &Stage) -> Option<&Tank> {
        let holds = |t: &&Tank| t.medium == stage.medium;
        if let Some(id) = stage.tank_id {
            return self.0.get(&id).filter(holds);
        }
        let mut measured = self.0.values().filter(|t| t.own.is_some()).filter(holds);
        measured.next().filter(|_| measured.next().is_none())
    }

    /// A stage as it really is: as full as its tank, and by what that does, where the plan says nothing else.
    pub fn fill(&self, stage: &mut Stage) {
        if let Some(tank) = self.of(stage) {
            stage.litres = stage.litres.or(tank.litres);
            stage.own = tank.own;
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::process::heat_transfer::{Agitation, Film, Nodes};
    use crate::quantity::units::{Celsius, Quantity};

    fn slow() -> Own {
        let bath_c = Celsius::clamped(50.0);
        let film = Film::new(Medium::SlowOil, bath_c, Agitation::Moved);
        let nodes = Nodes::of(&film);
        Own { nodes, bath_c }
    }

    fn tank(medium: Medium, own: Option<Own>) -> Tank {
        Tank {
            medium,
            litres: Some(Litres::clamped(12.0)),
            own,
        }
    }

    fn filled(all: &[(u128, Tank)], mut stage: Stage) -> Stage {
        let tanks: Tanks = all.iter().map(|(n, t)| (Uuid::from_u128(*n), *t)).collect();
        tanks.fill(&mut stage);
        stage
    }

    #[test]
    fn a_stage_goes_to_the_tank_it_names_or_the_only_measured_one() {
        let oil = Stage::until_cold(Medium::FastOil);
        let named = |n| Stage {
            tank_id: Some(Uuid::from_u128(n)),
            ..oil
        };
        let plain = tank(Medium::FastOil, None);
        let measured = tank(Medium::FastOil, Some(slow()));
        let both = [(1, plain), (2, measured)];
        assert_eq!(filled(&both, oil).own, Some(slow()));
        assert_eq!(filled(&both, named(1)).own, None);
        assert_eq!(filled(&both, named(1)).litres, plain.litres);
        assert_eq!(filled(&both, named(3)), named(3));
        // Two that were measured: it has to be said which.
        assert_eq!(filled(&[(2, measured), (3, measured)], oil), oil);
        assert_eq!(filled(&[(1, plain)], oil), oil);
        // What is in it now is another medium.
        let water = [(1, tank(Medium::Water, None))];
        assert_eq!(filled(&water, named(1)), named(1));
        let said = Stage {
            litres: Some(Litres::clamped(3.0)),
            ..named(2)
        };
        assert_eq!(filled(&both, said).litres, said.litres);
    }

    #[test]
    fn a_measured_tank_does_what_was_measured_and_changes_with_its_bath_as_its_kind_does() {
        let stage = filled(
            &[(1, tank(Medium::FastOil, Some(slow())))],
            Stage::until_cold(Medium::FastOil),
        );
        let ours = Film::of_stage(&stage);
        let as_measured = Film::new(Medium::SlowOil, Celsius::clamped(50.0), Agitation::Moved);
        for t in [300.0, 500.0, 700.0] {
            let off = ours.at(t) / as_measured.at(t) - 1.0;
            assert!(off.abs() < 0.05, "{t} {off}");
        }
        let strong = Film::of_stage(&Stage {
            agitation: Some(Agitation::Strong),
            ..stage
        });
        assert!((strong.at(500.0) / ours.at(500.0) - 1.25).abs() < 0.01);
    }
}
