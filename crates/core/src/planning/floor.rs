//! The stations of a shop as a day takes them: how many blades each holds, how fast it heats and cools, who has to be there. What
//! the shop has not said is as usual for the kind; what it has none of is taken to be there, so that a day can be laid.

use crate::material::medium::Medium;
use crate::planning::activities::Places;
use crate::planning::day::{Bath, Fire, Sharing, Station, Unattended};
use crate::process::capacity::Capacity;
use crate::process::station::StationKind;
use crate::process::step::{Stage, Step};
use crate::quantity::units::{Litres, Quantity};
use serde::{Deserialize, Serialize};

/// How fast a fire heats and cools.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rates {
    /// How long a degree up takes, s/°C.
    pub heat_s_per_c: f64,
    /// Time constant of cooling towards the room, s.
    pub cool_tau_s: f64,
}

/// What is known of a station.
#[derive(Debug, Clone, PartialEq)]
pub struct KnownStation {
    /// Which.
    pub id: String,
    /// What it is.
    pub kind: StationKind,
    /// What the shop says that it takes.
    pub capacity: Capacity,
    /// How fast it heats and cools, where that was measured.
    pub measured: Option<Rates>,
    /// Of a tank: what is in it.
    pub medium: Option<Medium>,
    /// Of a tank: how much.
    pub litres: Option<Litres>,
    /// How warm it is at a moment, °C and s.
    pub now: Option<(f64, i64)>,
}

/// Name of the bench, which is no station of its own.
pub const BENCH: &str = "bench";
/// Blades that are worked on beside each other.
const BENCHES: i64 = 4;
/// A second blade in a load lengthens its heat by this, the third by as much again: the prototype's measure.
const MORE_PER_BLADE: f64 = 0.35;
/// A bath goes back to where it is kept with this time constant: workshop experience of 15 to 25 l in a tank of steel, s.
const BATH_TAU_S: f64 = 2400.0;
/// A tank of which it was not said how much is in it, l.
const USUAL_LITRES: f64 = 15.0;
/// What lies in an oven that switched itself off may lie there overnight, s.
const OVERNIGHT_S: i64 = 14 * 3600;
/// The room, °C.
const ROOM_C: f64 = 20.0;

/// As usual for the kind, until a shop's own is measured: a small kiln is at 815 °C in half an hour, an oven at 200 °C in a
/// quarter of one, a gas forge in ten minutes.
#[must_use]
pub const fn usual_rates(kind: StationKind) -> Option<Rates> {
    let (heat_s_per_c, cool_tau_s) = match kind {
        StationKind::Kiln => (2.4, 10_800.0),
        StationKind::Forge => (0.75, 2700.0),
        StationKind::Oven => (4.5, 3600.0),
        _ => return None,
    };
    Some(Rates {
        heat_s_per_c,
        cool_tau_s,
    })
}

/// What "how long it heats" is said of, °C.
#[must_use]
pub const fn heated_to_c(kind: StationKind) -> f64 {
    match kind {
        StationKind::Oven => 200.0,
        _ => 800.0,
    }
}

/// How many blades a kind takes at once.
#[must_use]
pub const fn usual_places(kind: StationKind) -> u32 {
    match kind {
        StationKind::Kiln => 4,
        StationKind::Forge => 2,
        StationKind::Oven | StationKind::ColdBox => 6,
        _ => 1,
    }
}

impl KnownStation {
    /// One of a kind of which nothing more is known.
    #[must_use]
    pub fn of(id: &str, kind: StationKind) -> Self {
        Self {
            id: id.to_owned(),
            kind,
            capacity: Capacity::default(),
            measured: None,
            medium: None,
            litres: None,
            now: None,
        }
    }

    fn fire(&self) -> Option<Fire> {
        let usual = usual_rates(self.kind)?;
        let rates = self.measured.unwrap_or(usual);
        let (start_c, start_s) = self.now.unwrap_or((ROOM_C, 0));
        let up_c = heated_to_c(self.kind) - ROOM_C;
        let said = self.capacity.heats_in_s.map(|s| s / up_c);
        Some(Fire {
            start_c,
            start_s,
            heat_s_per_c: said.unwrap_or(rates.heat_s_per_c),
            cool_tau_s: rates.cool_tau_s,
        })
    }

    fn bath(&self) -> Option<Bath> {
        let medium = self.medium.filter(|m| m.is_liquid())?;
        let filled = Stage {
            litres: Some(self.litres.unwrap_or_else(|| Litres::clamped(USUAL_LITRES))),
            ..Stage::until_cold(medium)
        };
        let rest_c = medium.usual_bath().value();
        Some(Bath {
            start_c: self.now.map_or(rest_c, |n| n.0),
            rest_c,
            tau_s: BATH_TAU_S,
            j_per_c: filled.capacity_j_k()?,
        })
    }

    fn station(&self, sharing: Sharing) -> Station {
        // A gas forge is never left alone.
        let capacity = self.capacity;
        let alone = capacity.runs_alone && self.kind != StationKind::Forge;
        Station {
            id: self.id.clone(),
            kind: self.kind.id().to_owned(),
            sharing,
            units: i64::from(capacity.blades.unwrap_or(usual_places(self.kind))),
            depth_mm: capacity.depth_mm.unwrap_or(0.0),
            attention: i64::from(self.kind == StationKind::Forge),
            unattended: if alone {
                Unattended::Always
            } else {
                Unattended::Present
            },
            more_per_blade: MORE_PER_BLADE,
            timer_extra_s: if capacity.switches_off {
                OVERNIGHT_S
            } else {
                0
            },
            fire: self.fire(),
            bath: self.bath(),
        }
    }
}

/// A shop's floor: its stations, and what is done where.
#[derive(Debug, Clone, PartialEq)]
pub struct Floor {
    /// The stations.
    pub stations: Vec<Station>,
    /// What is done where.
    pub places: Places,
    /// Those that the shop did not name: taken to be there.
    pub presumed: Vec<KnownStation>,
}

/// What steps need that the known stations do not give.
fn missing(known: &[KnownStation], steps: &[&[Step]]) -> Vec<KnownStation> {
    let all = || steps.iter().copied().flatten();
    let has = |kinds: &[StationKind]| known.iter().any(|k| kinds.contains(&k.kind));
    let named = |kind: StationKind| KnownStation::of(kind.id(), kind);
    let mut missing = Vec::new();
    if !has(&[StationKind::Kiln, StationKind::Forge]) {
        missing.push(named(StationKind::Kiln));
    }
    let tempers = |s: &&Step| matches!(s, Step::Temper { .. } | Step::Clay { .. });
    if !has(&[StationKind::Oven]) && all().any(|s| tempers(&s)) {
        missing.push(named(StationKind::Oven));
    }
    let freezes = |s: &&Step| matches!(s, Step::SubZero { .. });
    if !has(&[StationKind::ColdBox]) && all().any(|s| freezes(&s)) {
        missing.push(named(StationKind::ColdBox));
    }
    let media = all().flat_map(|s| match s {
        Step::Quench { stages } => stages.iter().map(|s| s.medium).collect(),
        _ => Vec::new(),
    });
    let mut wanted: Vec<Medium> = media.collect();
    wanted.sort_by_key(|m| m.id());
    wanted.dedup();
    for medium in wanted {
        let plates = medium == Medium::Plates;
        let in_air = matches!(medium, Medium::StillAir | Medium::ForcedAir);
        let holds = |k: &KnownStation| {
            (plates && k.kind == StationKind::Plates) || k.medium == Some(medium)
        };
        if in_air || known.iter().any(holds) {
            continue;
        }
        let kind = if plates {
            StationKind::Plates
        } else {
            StationKind::Tank
        };
        missing.push(KnownStation {
            medium: Some(medium),
            ..KnownStation::of(medium.id(), kind)
        });
    }
    missing
}

impl Floor {
    /// Of what is known, for these plans.
    #[must_use]
    pub fn of(known: &[KnownStation], steps: &[&[Step]]) -> Self {
        let presumed = missing(known, steps);
        let (mut stations, mut places) = (Vec::new(), Places::default());
        for one in known.iter().chain(&presumed) {
            let id = one.id.clone();
            let sharing = match one.kind {
                StationKind::Kiln | StationKind::Forge => {
                    places.fires.push(id);
                    Sharing::Load
                }
                StationKind::Oven => {
                    places.ovens.push(id);
                    Sharing::Rolling
                }
                StationKind::Tank => {
                    let Some(medium) = one.medium else { continue };
                    places.tanks.push((id, medium));
                    Sharing::Rolling
                }
                StationKind::Plates => {
                    places.tanks.push((id, Medium::Plates));
                    Sharing::Rolling
                }
                StationKind::ColdBox => {
                    places.cold.push(id);
                    Sharing::Rolling
                }
                _ => continue,
            };
            stations.push(one.station(sharing));
        }
        places.benches.push(BENCH.to_owned());
        stations.push(Station {
            units: BENCHES,
            kind: BENCH.to_owned(),
            ..KnownStation::of(BENCH, StationKind::Torch).station(Sharing::Rolling)
        });
        Self {
            stations,
            places,
            presumed,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::plan;

    const STEPS: &str = r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
        {"kind":"temper","temperature_c":220,"hold_s":7200,"times":2}]"#;

    #[test]
    fn an_empty_shop_is_taken_to_have_what_the_plans_need_and_no_more() {
        let plan = plan(STEPS);
        let floor = Floor::of(&[], &[plan.steps()]);
        let ids: Vec<&str> = floor.stations.iter().map(|s| s.id.as_str()).collect();
        assert_eq!(ids, ["kiln", "oven", "fast_oil", BENCH]);
        assert_eq!(floor.presumed.len(), 3);
        // Nothing runs alone before the shop says so.
        assert!(
            floor
                .stations
                .iter()
                .all(|s| s.unattended == Unattended::Present)
        );
    }

    #[test]
    fn what_the_shop_has_is_used_and_a_forge_is_never_left_alone() {
        let alone = |id: &str, kind| KnownStation {
            capacity: Capacity {
                runs_alone: true,
                blades: Some(3),
                ..Capacity::default()
            },
            ..KnownStation::of(id, kind)
        };
        let oil = KnownStation {
            medium: Some(Medium::FastOil),
            litres: Some(Litres::clamped(20.0)),
            ..KnownStation::of("a", StationKind::Tank)
        };
        let known = [
            alone("b", StationKind::Forge),
            alone("c", StationKind::Oven),
            oil,
        ];
        let plan = plan(STEPS);
        let floor = Floor::of(&known, &[plan.steps()]);
        assert!(floor.presumed.is_empty());
        let of = |id: &str| floor.stations.iter().find(|s| s.id == id).unwrap();
        assert_eq!(of("b").unattended, Unattended::Present);
        assert_eq!((of("c").unattended, of("c").units), (Unattended::Always, 3));
        // What does not switch itself off goes on tempering.
        assert_eq!(of("c").timer_extra_s, 0);
        // 20 l of oil: 35 kJ for a degree.
        assert_eq!(of("a").bath.unwrap().j_per_c, 35_000.0);
    }
}
