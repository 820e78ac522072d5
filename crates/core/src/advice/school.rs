//! Schools: the ways of working that smiths hold to, each with its reasons and what it costs. None is
//! forbidden; what a steel does not bear is said.

use crate::advice::method::usual;
use crate::geometry::clay::{Clay, DRY_C};
use crate::material::medium::Medium;
use crate::material::steel::{Hardening, Steel, SubZero};
use crate::process::change::DRY_ICE_C;
use crate::process::plan::{Plan, Stations};
use crate::process::step::{Look, Part, Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Quantity, Seconds};
use crate::simulation::physics::{hard_middle, stages};
use serde::{Deserialize, Serialize};

/// A way of working, in the order they are shown.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum School {
    /// Three normalizing heats, each cooler than the last.
    FallingHeats,
    /// Three heats at hardening temperature.
    EvenHeats,
    /// One heat above critical, two just below.
    BelowCritical,
    /// Straight to the hardening heat.
    AsBought,
    /// Seconds in water, then oil.
    WaterThenOil,
    /// Water alone.
    StraightWater,
    /// Fast oil.
    FastOil,
    /// Vegetable oil.
    VegetableOil,
    /// Clay on the back, and water.
    ClayInWater,
    /// Foil, plates and cold.
    Plates,
    /// Sub-zero straight from the quench.
    ColdToo,
    /// Into the oven while still warm.
    FromWarm,
    /// One temper of an hour.
    Once,
    /// The back torched after.
    SoftBack,
}

/// The clay that goes with a way of working.
#[derive(Debug, Clone, PartialEq)]
pub enum Lays {
    /// None, whatever is painted for the blade.
    Nothing,
    /// What is painted for it.
    Painted,
    /// A plain band along the back: nothing is painted yet.
    Band(Clay),
}

/// A school's plan for one blade.
#[derive(Debug, Clone, PartialEq)]
pub struct Taught {
    /// The plan.
    pub plan: Plan,
    /// The clay it is laid out with.
    pub lays: Lays,
    /// Why it is advised against for this steel, when it is.
    pub against: Option<Against>,
}

/// Why a steel, or this blade of it, does not bear a school. Steels by name.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = SchoolAgainst))]
pub enum Against {
    /// It hardens in air: normalizing leaves it hard and strained.
    HardensInAir {
        /// The steel.
        steel: String,
    },
    /// It is likely to crack in water.
    CracksInWater {
        /// The steel.
        steel: String,
    },
    /// Plates are too slow for it.
    PlatesTooSlow {
        /// The steel.
        steel: String,
        /// What hardens where it is read, 0 to 1.
        hard_share: f64,
    },
    /// This section of it stays soft in that medium.
    StaysSoft {
        /// The steel.
        steel: String,
        /// The medium.
        medium: Medium,
    },
    /// It keeps next to no austenite for the cold to turn.
    NoAustenite {
        /// The steel.
        steel: String,
    },
}

impl School {
    /// Every school, in the order they are shown.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The identifier used in the API.
    #[must_use]
    pub fn id(self) -> &'static str {
        self.into()
    }

    /// Finds a school by its identifier.
    #[must_use]
    pub fn find(id: &str) -> Option<Self> {
        Self::ALL.iter().copied().find(|s| s.id() == id)
    }

    /// The school's plan for a blade of `steel`, with tempers for the middle of `target` (HRC).
    #[must_use]
    pub fn teach(
        self,
        steel: &Steel,
        work: &Workpiece,
        target: (f64, f64),
        at: Stations,
    ) -> Taught {
        let base = usual(steel, work.blade(), None, target, at);
        let in_medium = |medium| usual(steel, work.blade(), Some(medium), target, at);
        let plan = match self {
            Self::EvenHeats => with_heats(base, |steps| {
                let t = steel.austenitize.nominal;
                steps.extend((0..3).map(|_| heat(t)));
            }),
            Self::BelowCritical => with_heats(base, |steps| {
                steps.push(heat(steel.normalize.unwrap_or(steel.austenitize.nominal)));
                let below = Celsius::clamped((steel.ac1_c - 15.0).round());
                steps.extend((0..2).map(|_| Step::Refine {
                    temperature_c: below,
                    hold_s: Seconds::clamped(120.0),
                    by: None,
                }));
            }),
            Self::AsBought => with_heats(base, |_| {}),
            Self::WaterThenOil => with_quench(
                base,
                vec![
                    Stage {
                        for_s: Some(Seconds::clamped(2.5)),
                        ..Stage::until_cold(Medium::Water)
                    },
                    Stage::until_cold(Medium::FastOil),
                ],
            ),
            Self::StraightWater => in_medium(Medium::Water),
            Self::FastOil => in_medium(Medium::FastOil),
            Self::VegetableOil => in_medium(Medium::VegetableOil),
            Self::ClayInWater => {
                let laid = if work.clay.is_bare() {
                    back_band(work)
                } else {
                    work.clay.clone()
                };
                before_heat(
                    in_medium(Medium::Water),
                    Step::Clay {
                        temperature_c: Celsius::clamped(DRY_C),
                        hold_s: Seconds::clamped(laid.dry_oven_s(&work.form)),
                    },
                )
            }
            Self::Plates => plates(in_medium(Medium::Plates), steel),
            Self::ColdToo => cold(base),
            Self::FromWarm => after_quench(
                base,
                Step::Cool {
                    temperature_c: Celsius::clamped(60.0),
                    hold_s: Seconds::clamped(0.0),
                },
            ),
            Self::Once => once(base),
            Self::SoftBack => {
                let mut steps = base.steps().to_vec();
                steps.push(Step::TorchTemper {
                    temperature_c: Celsius::clamped(430.0),
                    part: Part::Spine,
                    by: None,
                });
                steps.push(Step::Check { look: Look::Colour });
                Plan::stored(steps)
            }
            Self::FallingHeats => base,
        };
        let lays = Lays::of(&plan, work);
        let with = Workpiece {
            clay: lays.clay(&work.clay),
            ..work.clone()
        };
        let against = self.against(steel, &with, &plan);
        Taught {
            plan,
            lays,
            against,
        }
    }

    /// Why this steel, or this blade of it, does not bear it.
    fn against(self, steel: &Steel, work: &Workpiece, plan: &Plan) -> Option<Against> {
        let name = || steel.name.clone();
        let normalizes = matches!(
            self,
            Self::FallingHeats | Self::EvenHeats | Self::BelowCritical
        );
        if normalizes && steel.normalize.is_none() {
            let own = self != Self::FallingHeats;
            return own.then(|| Against::HardensInAir { steel: name() });
        }
        let medium = stages(plan).first().map(|s| s.medium);
        let bears_water = steel.hardening == Hardening::Water
            || steel.water_then_oil
            || steel.media.iter().any(|m| m.is_water());
        if medium.is_some_and(Medium::is_water) && !bears_water {
            return Some(Against::CracksInWater { steel: name() });
        }
        match self {
            Self::Plates if steel.hardening != Hardening::Air => {
                let hard_share = hard_middle(plan, steel, work);
                let steel = name();
                (hard_share < 0.9).then_some(Against::PlatesTooSlow { steel, hard_share })
            }
            Self::FastOil | Self::VegetableOil => {
                let (steel_name, soft) = (name(), hard_middle(plan, steel, work) < 0.5);
                medium.filter(|_| soft).map(|medium| Against::StaysSoft {
                    steel: steel_name,
                    medium,
                })
            }
            Self::ColdToo if steel.sub_zero == SubZero::No => {
                Some(Against::NoAustenite { steel: name() })
            }
            _ => None,
        }
    }
}

/// Where a plain band of clay begins, as a share of the width, and its thickness, mm: the thick coat on the
/// back that the school is named for.
const BACK_BAND: (f64, f64) = (0.45, 4.0);

fn back_band(work: &Workpiece) -> Clay {
    let (from, thickness_mm) = BACK_BAND;
    Clay::band((from * work.blade().width_mm).round(), thickness_mm)
}

impl Lays {
    /// What a plan lays on a blade: what is painted, else a band.
    fn of(plan: &Plan, work: &Workpiece) -> Self {
        if !plan.lays_clay() {
            Self::Nothing
        } else if work.clay.is_bare() {
            Self::Band(back_band(work))
        } else {
            Self::Painted
        }
    }

    /// The clay that goes on a blade that has `painted` laid out.
    #[must_use]
    pub fn clay(&self, painted: &Clay) -> Clay {
        match self {
            Self::Nothing => Clay::default(),
            Self::Painted => painted.clone(),
            Self::Band(clay) => clay.clone(),
        }
    }
}

fn heat(t: Celsius) -> Step {
    Step::Normalize {
        temperature_c: t,
        hold_s: Seconds::clamped(120.0),
        by: None,
    }
}

/// The plan with other heats before the hardening heat.
fn with_heats(plan: Plan, fill: impl FnOnce(&mut Vec<Step>)) -> Plan {
    let mut steps = Vec::new();
    fill(&mut steps);
    let rest = plan.steps().iter();
    steps.extend(
        rest.filter(|s| !matches!(s, Step::Normalize { .. } | Step::Refine { .. }))
            .cloned(),
    );
    Plan::stored(steps)
}

fn with_quench(plan: Plan, stages: Vec<Stage>) -> Plan {
    let mut steps = plan.steps().to_vec();
    if let Some(at) = plan.last_quench() {
        steps[at] = Step::Quench { stages };
    }
    Plan::stored(steps)
}

/// The plan with a step put before the hardening heat.
fn before_heat(plan: Plan, step: Step) -> Plan {
    let mut steps = plan.steps().to_vec();
    let at = steps
        .iter()
        .rposition(|s| matches!(s, Step::Austenitize { .. }))
        .unwrap_or(0);
    steps.insert(at, step);
    Plan::stored(steps)
}

fn after_quench(plan: Plan, step: Step) -> Plan {
    let mut steps = plan.steps().to_vec();
    steps.insert(plan.last_quench().map_or(steps.len(), |q| q + 1), step);
    Plan::stored(steps)
}

fn cold(plan: Plan) -> Plan {
    if plan
        .steps()
        .iter()
        .any(|s| matches!(s, Step::SubZero { .. }))
    {
        return plan;
    }
    after_quench(
        plan,
        Step::SubZero {
            bath: None,
            until_c: None,
            temperature_c: Celsius::clamped(DRY_ICE_C),
            hold_s: Seconds::clamped(7200.0),
            wait_s: Seconds::clamped(0.0),
        },
    )
}

fn plates(plan: Plan, steel: &Steel) -> Plan {
    let mut plan = plan;
    if steel.austenitize.nominal.value() > 900.0 {
        plan = before_heat(
            plan,
            Step::Preheat {
                by: None,
                temperature_c: Celsius::clamped(650.0),
                hold_s: Seconds::clamped(600.0),
            },
        );
    }
    plan = before_heat(plan, Step::Pouch {});
    // The pouch goes on before the preheat.
    let mut steps = plan.steps().to_vec();
    let pouch = steps.iter().position(|s| matches!(s, Step::Pouch {}));
    let preheat = steps.iter().position(|s| matches!(s, Step::Preheat { .. }));
    if let (Some(pouch), Some(preheat)) = (pouch, preheat)
        && preheat < pouch
    {
        steps.swap(pouch, preheat);
    }
    cold(Plan::stored(steps))
}

fn once(plan: Plan) -> Plan {
    let mut steps = plan.steps().to_vec();
    for step in &mut steps {
        if let Step::Temper { hold_s, times, .. } = step {
            *hold_s = Seconds::clamped(3600.0);
            *times = 1;
        }
    }
    Plan::stored(steps)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::process::step_draft::StepDraft;
    use crate::simulation::physics::tests::blade;
    use crate::testing::code;

    fn taught(id: &str, steel: &str) -> Taught {
        let steel = Steel::built_in(steel).unwrap();
        let work = Workpiece::plain(&blade());
        School::find(id)
            .unwrap()
            .teach(steel, &work, (60.0, 61.0), Stations::default())
    }

    #[test]
    fn every_school_has_a_plan_for_every_steel_that_hardens() {
        for steel in Steel::table()
            .iter()
            .filter(|s| s.hardening != Hardening::NotHardenable)
        {
            let work = Workpiece::plain(&blade());
            for school in School::ALL {
                let taught = school.teach(steel, &work, (58.0, 60.0), Stations::default());
                let text = serde_json::to_string(&taught.plan).unwrap();
                let drafts: Vec<StepDraft> = serde_json::from_str(&text).unwrap();
                let read = Plan::parse(&drafts);
                assert_eq!(
                    read.as_ref(),
                    Ok(&taught.plan),
                    "{} {}",
                    school.id(),
                    steel.name
                );
            }
        }
    }

    #[test]
    fn each_school_differs_from_the_usual_in_what_it_is_named_for() {
        let kinds = |t: &Taught| {
            let steps = t.plan.steps().iter();
            steps.map(|s| s.kind().id()).collect::<Vec<_>>()
        };
        let usual = taught("falling_heats", "1084");
        assert_eq!(kinds(&taught("as_bought", "1084"))[0], "austenitize");
        assert_eq!(kinds(&taught("below_critical", "1084"))[1], "refine");
        assert_eq!(kinds(&taught("even_heats", "1084")), kinds(&usual));
        assert!(kinds(&taught("clay_in_water", "w2")).contains(&"clay"));
        let plates = kinds(&taught("plates", "x65cr13"));
        assert_eq!(plates[..3], ["pouch", "preheat", "austenitize"]);
        assert!(plates.contains(&"sub_zero"));
        assert_eq!(kinds(&taught("from_warm", "1084"))[5], "cool");
        assert_eq!(kinds(&taught("soft_back", "1084")).last(), Some(&"check"));
        assert_eq!(stages(&taught("water_then_oil", "w2").plan).len(), 2);
        let Some(Step::Temper { times, .. }) = taught("once", "1084").plan.steps().last().cloned()
        else {
            panic!()
        };
        assert_eq!(times, 1);
    }

    #[test]
    fn only_the_school_of_clay_lays_clay() {
        let steel = Steel::built_in("w2").unwrap();
        let bare = Workpiece::plain(&blade());
        let painted = Workpiece {
            clay: Clay::band(20.0, 1.2),
            ..bare.clone()
        };
        let lays = |id: &str, work: &Workpiece| {
            let school = School::find(id).unwrap();
            let taught = school.teach(steel, work, (60.0, 61.0), Stations::default());
            taught.lays.clay(&work.clay)
        };
        let band = lays("clay_in_water", &bare);
        assert!(!band.is_bare());
        assert_eq!(lays("clay_in_water", &painted), painted.clay);
        for other in School::ALL.iter().filter(|s| **s != School::ClayInWater) {
            assert!(lays(other.id(), &painted).is_bare(), "{}", other.id());
        }
        // It is not water alone under another name.
        let under = Workpiece {
            clay: band,
            ..bare.clone()
        };
        let plan = taught("clay_in_water", "w2").plan;
        let dries = plan.steps().iter().find_map(|s| match s {
            Step::Clay { hold_s, .. } => Some(hold_s.value()),
            _ => None,
        });
        assert_eq!(dries, Some(under.clay.dry_oven_s(&under.form)));
        assert!(dries > Some(3600.0));
        let line = |work: &Workpiece| {
            let simulated =
                crate::simulation::simulated::simulated(work, &plan, steel, None).unwrap();
            simulated.line().map(|l| l.height_mm)
        };
        assert!(line(&under).is_some_and(|l| line(&bare).is_none_or(|b| l < b - 3.0)));
    }

    #[test]
    fn what_a_steel_does_not_bear_is_said() {
        for (id, steel, word) in [
            ("straight_water", "o1", "cracks_in_water"),
            ("clay_in_water", "o2", "cracks_in_water"),
            ("even_heats", "x65cr13", "hardens_in_air"),
            ("plates", "w1", "plates_too_slow"),
            ("cold_too", "5160", "no_austenite"),
        ] {
            let against = taught(id, steel).against;
            assert!(
                against.as_ref().is_some_and(|a| code(a) == word),
                "{id} {steel} {against:?}"
            );
        }
        assert_eq!(taught("straight_water", "w2").against, None);
        assert_eq!(taught("falling_heats", "1084").against, None);
    }
}
