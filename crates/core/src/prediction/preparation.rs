//! What the checks before the fire cost on a blade, or were measured to be.

use crate::learning::crack::CrackModel;
use crate::process::check::{Answers, Check, raisers};
use crate::process::workpiece::Workpiece;
use crate::simulation::crack::Causes;
use crate::simulation::warp::driver::{SLANTED_TIMES, UPRIGHT_TIMES, lean_times};
use serde::{Deserialize, Serialize};

/// How a check stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Standing {
    /// Done, or measured and good.
    Good,
    /// Not looked at yet.
    Open,
    /// Not done, or measured and bad.
    Bad,
}

/// A check with how it stands and what it costs as it is, or would cost left undone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Checked {
    /// Which.
    pub check: Check,
    /// How it stands.
    pub standing: Standing,
    /// It was measured rather than said: it follows from the numbers of the blade.
    pub measured: bool,
    /// What failing costs on this blade.
    pub cost: Cost,
}

/// Bevels that differ by more than this from side to side are uneven, mm.
const BEVEL_OFF_MM: f64 = 0.5;
/// An edge is thick enough when this much is left inside its decarburized skins, mm.
const SOUND_CORE_MM: f64 = 0.3;

/// What a check that fails costs on a blade, or what was measured of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = CheckCost))]
pub enum Cost {
    /// More blades crack. Chances 0 to 1.
    Cracks {
        /// Chance with it done, all else as it is.
        done: f64,
        /// Chance with it left undone.
        undone: f64,
    },
    /// It cannot be stamped any more.
    NoStamp {},
    /// The edge wanders off the middle when it is ground.
    EdgeWanders {},
    /// Scale spots, and coating and clay that let go.
    Spots {},
    /// Bevels were measured from side to side.
    BevelsDiffer {
        /// By up to, mm.
        off_mm: f64,
        /// How much more one face cools, percent.
        cooling_percent: f64,
        /// Sag sideways from it, mm.
        side_mm: f64,
    },
    /// What bevels that differ cost.
    BevelsBend {
        /// Sag sideways for each tenth that one side is thicker, mm.
        per_tenth_mm: f64,
    },
    /// How it goes into the bath: sag sideways by leaning, one standard deviation.
    Leans {
        /// Upright, mm.
        upright_mm: f64,
        /// Slanted, or swept sideways, mm.
        slanted_mm: f64,
    },
    /// Lying on its side it sags in the fire.
    SagsInFire {
        /// By about, mm.
        lying_mm: f64,
    },
    /// The edge was measured against the skin it loses.
    Edge {
        /// The edge, mm.
        edge_mm: f64,
        /// Skin lost on each face, mm.
        skin_mm: f64,
        /// What stays sound, mm; none of it at 0 or below.
        sound_mm: f64,
        /// Too little: it may ripple or burn.
        thin: bool,
    },
}

/// What the quench of the blade came to, as far as the checks need it.
#[derive(Debug, Clone, Copy)]
pub struct Measured {
    /// Sag sideways for bevels whose heights differ by a tenth, and of what is known to differ, mm.
    pub side_mm_per_10_percent: f64,
    /// Sag sideways of what is known to differ, mm.
    pub side_known_mm: f64,
    /// Skin that loses carbon on each face, mm.
    pub decarburization_mm: f64,
    /// Sag by leaning in the bath as it goes in, one standard deviation, mm.
    pub lean_mm: f64,
    /// Sag that lying on its side in the fire would leave, mm.
    pub lying_mm: f64,
    /// What speaks for a crack.
    pub crack_causes: Causes,
}

/// A check by what was said of it or measured: whether it is good, where that is known.
struct Looked {
    good: Option<bool>,
    measured: bool,
    cost: Cost,
}

fn bevels(work: &Workpiece, found: &Measured, said: Option<bool>) -> Looked {
    let per_tenth_mm = found.side_mm_per_10_percent;
    let uneven = work.form.unevenness_percent();
    match work.form.bevels_off_mm() {
        Some(off_mm) => Looked {
            good: Some(off_mm <= BEVEL_OFF_MM),
            measured: true,
            cost: Cost::BevelsDiffer {
                off_mm,
                cooling_percent: uneven.abs(),
                side_mm: found.side_known_mm.abs(),
            },
        },
        None => Looked {
            good: said,
            measured: false,
            cost: Cost::BevelsBend { per_tenth_mm },
        },
    }
}

fn edge(work: &Workpiece, found: &Measured) -> Looked {
    let edge_mm = work.form.thinnest_edge_mm();
    let skin_mm = found.decarburization_mm;
    let sound_mm = edge_mm - 2.0 * skin_mm;
    let thin = sound_mm < SOUND_CORE_MM;
    Looked {
        good: Some(!thin),
        measured: true,
        cost: Cost::Edge {
            edge_mm,
            skin_mm,
            sound_mm,
            thin,
        },
    }
}

/// Every check of a blade with this work and these outcomes.
#[must_use]
pub fn checked(
    answers: &Answers,
    work: &Workpiece,
    found: &Measured,
    cracks: &CrackModel,
) -> Vec<Checked> {
    let raisers_now = f64::from(raisers(answers));
    let chance = |raisers: f64| {
        let causes = Causes {
            raisers,
            ..found.crack_causes
        };
        cracks.risk(&causes).probability
    };
    let one = |check: Check| {
        let said = answers.get(&check).copied();
        let as_said = |cost| Looked {
            good: said,
            measured: false,
            cost,
        };
        let looked = match check {
            Check::HolesDrilled
            | Check::ClearOfEdge
            | Check::CornersChamfered
            | Check::ScratchesOut => {
                // Against the blade with all else as it is.
                let others = raisers_now - f64::from(u8::from(said == Some(false)));
                as_said(Cost::Cracks {
                    done: chance(others),
                    undone: chance(others + 1.0),
                })
            }
            Check::MarkStamped => as_said(Cost::NoStamp {}),
            Check::CentreScribed => as_said(Cost::EdgeWanders {}),
            Check::Degreased => as_said(Cost::Spots {}),
            Check::BevelsMatch => bevels(work, found, said),
            Check::EdgeLeftThick => edge(work, found),
            Check::LiesEdgeUp => as_said(Cost::SagsInFire {
                lying_mm: found.lying_mm,
            }),
            Check::GoesInUpright => {
                let usual = found.lean_mm / lean_times(work);
                as_said(Cost::Leans {
                    upright_mm: UPRIGHT_TIMES * usual,
                    slanted_mm: SLANTED_TIMES * usual,
                })
            }
        };
        Checked {
            check,
            standing: match looked.good {
                Some(true) => Standing::Good,
                Some(false) => Standing::Bad,
                None => Standing::Open,
            },
            measured: looked.measured,
            cost: looked.cost,
        }
    };
    Check::ALL.iter().copied().map(one).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::form::Bevel;
    use crate::learning::bias_models::BiasModels;
    use crate::material::steel::Steel;
    use crate::prediction::outcome::{Outcomes, outcomes};
    use crate::process::ready::Ready;
    use crate::simulation::physics::tests::{blade, nominal};
    use crate::simulation::warp::driver::Driver;
    use rstest::rstest;

    fn measured(outcomes: &Outcomes) -> Measured {
        Measured {
            side_mm_per_10_percent: outcomes.bend.side_mm_per_10_percent,
            side_known_mm: outcomes.bend.side_known_mm,
            decarburization_mm: outcomes.decarburization_mm,
            lean_mm: 0.1,
            lying_mm: 1.0,
            crack_causes: outcomes.crack_causes,
        }
    }

    fn checks(ready: &Ready, steel: &str, medium: &str) -> Vec<Checked> {
        let steel = Steel::built_in(steel).unwrap();
        let work = ready.work(&blade(), None).unwrap();
        let biases = BiasModels::default();
        let plan = nominal(steel, medium);
        let found = outcomes(&work, &plan, steel, &biases, 3.0, None).unwrap().0;
        checked(&ready.checks, &work, &measured(&found), &biases.crack)
    }

    fn one(all: &[Checked], check: Check) -> &Checked {
        all.iter().find(|c| c.check == check).unwrap()
    }

    #[test]
    fn what_was_not_looked_at_stays_open_and_what_is_measured_does_not() {
        let all = checks(&Ready::default(), "w2", "water");
        assert_eq!(all.len(), Check::ALL.len());
        assert_eq!(one(&all, Check::ScratchesOut).standing, Standing::Open);
        let edge = one(&all, Check::EdgeLeftThick);
        assert!(edge.measured && edge.standing == Standing::Good, "{edge:?}");
        assert!(
            all.iter()
                .zip(Check::ALL)
                .all(|(c, checks)| c.check == *checks)
        );
    }

    #[rstest]
    #[case(Check::HolesDrilled)]
    #[case(Check::ClearOfEdge)]
    #[case(Check::CornersChamfered)]
    #[case(Check::ScratchesOut)]
    fn a_raiser_left_costs_cracks(#[case] check: Check) {
        let ready = Ready {
            checks: [(check, false)].into(),
            ..Ready::default()
        };
        let all = checks(&ready, "w2", "water");
        let left = one(&all, check);
        assert_eq!(left.standing, Standing::Bad);
        assert!(
            matches!(left.cost, Cost::Cracks { done, undone } if undone > done),
            "{:?}",
            left.cost
        );
        assert_eq!(raisers(&ready.checks), 1);
    }

    #[test]
    fn how_it_lay_and_went_in_count_and_say_what_they_cost() {
        let of = |answers: &[(Check, bool)]| {
            let ready = Ready {
                checks: answers.iter().copied().collect(),
                ..Ready::default()
            };
            let steel = Steel::built_in("1084").unwrap();
            let work = ready.work(&blade(), None).unwrap();
            let plan = nominal(steel, "fast_oil");
            let biases = BiasModels::default();
            outcomes(&work, &plan, steel, &biases, 3.0, None).unwrap().0
        };
        let chance = |o: &Outcomes| o.bend.side_over_tolerance_probability;
        let usual = of(&[]);
        let well = of(&[(Check::LiesEdgeUp, true), (Check::GoesInUpright, true)]);
        let badly = of(&[(Check::LiesEdgeUp, false), (Check::GoesInUpright, false)]);
        assert!(chance(&well) < chance(&usual) && chance(&usual) < chance(&badly));
        let has = |o: &Outcomes, driver| o.bend.parts.iter().any(|p| p.driver == driver);
        assert!(has(&badly, Driver::Support) && !has(&usual, Driver::Support));
        // The cost of leaning is told of the usual hand, however it goes in.
        let leans = |o: &Outcomes| match one(&o.checks, Check::GoesInUpright).cost {
            Cost::Leans {
                upright_mm,
                slanted_mm,
            } => (upright_mm, slanted_mm),
            other => panic!("{other:?}"),
        };
        assert!((leans(&well).0 - leans(&badly).0).abs() < 1e-9);
        assert!((leans(&usual).1 / leans(&usual).0 - 5.0).abs() < 1e-9);
        let lying = one(&usual.checks, Check::LiesEdgeUp).cost;
        assert!(
            matches!(lying, Cost::SagsInFire { lying_mm } if lying_mm > 0.05),
            "{lying:?}"
        );
    }

    #[test]
    fn uneven_bevels_are_measured_and_cost_a_bend() {
        let ready = Ready {
            bevels: vec![Bevel {
                x_mm: 60.0,
                left_mm: 20.0,
                right_mm: 14.0,
            }],
            ..Ready::default()
        };
        let all = checks(&ready, "w2", "water");
        let bevels = one(&all, Check::BevelsMatch);
        assert!(bevels.measured && bevels.standing == Standing::Bad);
        assert!(
            matches!(bevels.cost, Cost::BevelsDiffer { off_mm, .. } if (off_mm - 6.0).abs() < 0.05),
            "{:?}",
            bevels.cost
        );
    }

    #[test]
    fn a_thin_edge_is_bad_bare_and_good_in_foil() {
        let thin = crate::geometry::blade::Blade {
            edge_mm: 0.35,
            ..blade()
        };
        let steel = Steel::built_in("1095").unwrap();
        let plan = crate::simulation::physics::tests::plan(
            r#"[{"kind":"austenitize","temperature_c":800,"soak_s":1200},{"kind":"quench","stages":[{"medium":"fast_oil"}]}]"#,
        );
        let standing = |protection| {
            let ready = Ready {
                protection,
                ..Ready::default()
            };
            let work = ready.work(&thin, None).unwrap();
            let biases = BiasModels::default();
            let found = outcomes(&work, &plan, steel, &biases, 3.0, None).unwrap().0;
            let all = checked(&ready.checks, &work, &measured(&found), &biases.crack);
            one(&all, Check::EdgeLeftThick).standing
        };
        use crate::process::protection::Protection;
        assert_eq!(standing(Protection::Bare), Standing::Bad);
        assert_eq!(standing(Protection::Foil), Standing::Good);
    }
}
