//! What findings teach: each is held against what the engine alone says of that very quench, as it was done.

use super::bias_model::{
    BiasModel, CLARITY, CURVE_LENGTH_MM, GRAIN, LINE, SORI, Seen, Traits, UNSEEN,
};
use crate::learning::bias_models::BiasModels;
use crate::learning::clamp::{self, ClampModel};
use crate::learning::crack;
use crate::learning::warp::{self, WarpModel};
use crate::process::operator::Operator;
use crate::record::finding::Finding;
use crate::simulation::simulated::Simulated;
use std::collections::HashMap;
use uuid::Uuid;

/// A finding with the quench it came of.
#[derive(Debug, Clone)]
pub struct Found<'a> {
    /// The blade.
    pub blade: Uuid,
    /// The quench.
    pub traits: Traits,
    /// What the engine says of it.
    pub simulated: &'a Simulated,
    /// What was found.
    pub finding: &'a Finding,
}

/// Mean of some values and how many they are; None of none.
fn mean(values: impl Iterator<Item = f64>) -> Option<(f64, usize)> {
    let (sum, n) = values.fold((0.0, 0), |(sum, n), v| (sum + v, n + 1));
    (n > 0).then(|| (sum / n as f64, n))
}

impl BiasModels {
    /// Learns from findings, oldest first; the next blade is taken to be quenched by `operator`. File
    /// brackets belong to the hardness model and are left aside here.
    #[must_use]
    pub fn learn<'a>(all: impl Iterator<Item = Found<'a>>, operator: Option<Operator>) -> Self {
        let (mut curves, mut bands, mut grains, mut cracks) =
            (Vec::new(), Vec::new(), Vec::new(), Vec::new());
        let (mut lines, mut unseen, mut warped) = (Vec::new(), Vec::new(), Vec::new());
        let mut clamps = Vec::new();
        // How far each was off before the fire, mm to the left: what the quench did is what came on top.
        let mut before: HashMap<Uuid, f64> = HashMap::new();
        for f in all {
            let seen = |measured: f64, residual: f64, places: usize| Seen {
                blade: f.blade,
                traits: f.traits.clone(),
                measured,
                residual,
                places,
            };
            match f.finding {
                Finding::Line {
                    second: false,
                    places,
                    band_mm,
                    ..
                } => {
                    let Some(line) = f.simulated.line() else {
                        let share = |[x, height]: &[f64; 2]| {
                            Some(height / f.simulated.section_mm(*x)?.max(1.0))
                        };
                        if let Some((share, n)) = mean(places.iter().filter_map(share)) {
                            let none = f.simulated.share_without_line();
                            unseen.push(seen(share, share - none, n));
                        }
                        continue;
                    };
                    let met = || {
                        let on = |[x, height]: &[f64; 2]| Some((*height, line.simulated_mm(*x)?));
                        places.iter().filter_map(on)
                    };
                    if let Some((height, n)) = mean(met().map(|(height, _)| height)) {
                        let off = mean(met().map(|(height, simulated)| height - simulated));
                        lines.push(seen(height, off.map_or(0.0, |o| o.0), n));
                    }
                    let simulated = line.band_mm;
                    if let Some(band) = band_mm.filter(|b| *b > 0.05 && simulated > 0.05) {
                        bands.push(seen(band, CLARITY.measure.residual(band, simulated), 1));
                    }
                }
                Finding::Grain { astm } => {
                    let simulated = f.simulated.grain_astm;
                    grains.push(seen(*astm, GRAIN.measure.residual(*astm, simulated), 1));
                }
                Finding::Crack { cracked, .. } => cracks.push(crack::Seen {
                    blade: f.blade,
                    traits: f.traits.clone(),
                    outcome: crack::Outcome {
                        causes: f.simulated.crack_causes,
                        cracked: *cracked,
                    },
                }),
                Finding::Sori { sori_mm, before_mm } => {
                    let bend = &f.simulated.bend;
                    let as_told = (CURVE_LENGTH_MM / bend.length_mm.max(1.0)).powi(2);
                    let found = (sori_mm - before_mm) * as_told;
                    let off = SORI.measure.residual(found, bend.sori_mm * as_told);
                    curves.push(seen(found, off, 1));
                }
                Finding::Clamped {
                    bow_mm,
                    shim_mm,
                    left_mm,
                } => clamps.extend(f.simulated.clamp_takes_out.map(|by_rule| clamp::Seen {
                    by_rule,
                    bow_mm: *bow_mm,
                    shim_mm: *shim_mm,
                    left_mm: *left_mm,
                })),
                found => {
                    if let Some(before_mm) = found.before_mm() {
                        before.insert(f.blade, before_mm);
                        continue;
                    }
                    let Some(sag_mm) = found.sag_mm() else {
                        continue;
                    };
                    let bend = &f.simulated.bend;
                    let unsigned = matches!(found, Finding::Side { .. });
                    let was_mm = before.get(&f.blade).filter(|_| !unsigned);
                    warped.push(warp::Seen {
                        blade: f.blade,
                        traits: f.traits.clone(),
                        length_mm: bend.length_mm,
                        sag_mm: sag_mm - was_mm.copied().unwrap_or(0.0),
                        unsigned,
                        known_mm: bend.side_mm,
                        causes: bend.causes.clone(),
                    });
                }
            }
        }
        let outcomes: Vec<crack::Outcome> = cracks.iter().map(|c| c.outcome).collect();
        Self {
            crack: crack::CrackModel::fit(&outcomes),
            cracks,
            sori: BiasModel::fit(SORI, curves),
            warp: WarpModel::fit(warped),
            clamp: ClampModel::fit(&clamps),
            line: BiasModel::fit(LINE, lines),
            unseen: BiasModel::fit(UNSEEN, unseen),
            clarity: BiasModel::fit(CLARITY, bands),
            grain: BiasModel::fit(GRAIN, grains),
            operator,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::medium::Medium;
    use crate::material::steel::Steel;
    use crate::prediction::outcome::{Outcomes, outcomes};
    use crate::prediction::reason::Why;
    use crate::process::plan::Plan;
    use crate::process::workpiece::Workpiece;
    use crate::record::finding::After;
    use crate::simulation::physics::tests::{blade, plan};
    use crate::simulation::simulated::{STEP_MM, simulated};

    fn oil() -> Plan {
        plan(
            r#"[{"kind":"normalize","temperature_c":870,"times":3},{"kind":"austenitize","temperature_c":795,"soak_s":480},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]}]"#,
        )
    }

    fn predicted_of(steel: &str, biases: &BiasModels) -> Outcomes {
        let work = Workpiece::plain(&blade());
        let steel = Steel::built_in(steel).unwrap();
        outcomes(&work, &oil(), steel, biases, STEP_MM, None)
            .unwrap()
            .0
    }

    fn predicted(biases: &BiasModels) -> Outcomes {
        predicted_of("w2", biases)
    }

    fn learn_of(steel: &str, findings: &[Finding]) -> BiasModels {
        let work = Workpiece::plain(&blade());
        let simulated = simulated(&work, &oil(), Steel::built_in(steel).unwrap(), None).unwrap();
        BiasModels::learn(
            findings.iter().enumerate().map(|(i, finding)| Found {
                blade: Uuid::from_u128(i as u128),
                traits: Traits {
                    steel: steel.to_owned(),
                    medium: Medium::FastOil,
                    clay: None,
                    operator: None,
                },
                simulated: &simulated,
                finding,
            }),
            None,
        )
    }

    fn learn(findings: &[Finding]) -> BiasModels {
        learn_of("w2", findings)
    }

    fn line_at(places: Vec<[f64; 2]>) -> Finding {
        Finding::Line {
            second: false,
            places,
            band_mm: None,
            clarity: None,
            liveliness: None,
            photo_id: None,
        }
    }

    #[test]
    fn a_line_that_physics_does_not_see_is_learned_for_that_steel() {
        let before = predicted_of("o1", &BiasModels::default());
        assert!(before.hamon.line().is_none());
        let found = line_at(vec![[40.0, 12.0], [90.0, 12.0], [140.0, 12.0]]);
        let biases = learn_of("o1", &vec![found; 5]);
        let after = predicted_of("o1", &biases);
        let line = after.hamon.line().unwrap();
        assert!(
            line.unseen && (9.0..17.0).contains(&line.height_mm),
            "{}",
            line.height_mm
        );
        assert!(
            after
                .outcome_reasons
                .iter()
                .any(|r| r.learned && r.why == Why::LineFromRecords {})
        );
        // It says nothing of a steel whose line physics does see.
        let other = |biases: &BiasModels| predicted(biases).hamon.line().unwrap().height_mm;
        assert_eq!(other(&biases), other(&BiasModels::default()));
    }

    #[test]
    fn lines_that_come_out_lower_pull_the_next_one_down() {
        let first = predicted(&BiasModels::default());
        let line = first.hamon.line().unwrap();
        let at = |x: f64| [x, line.simulated_mm(x).unwrap() - 3.0];
        let finding = Finding::Line {
            second: false,
            places: vec![at(40.0), at(90.0), at(140.0)],
            band_mm: Some(0.5 * line.band_mm),
            clarity: None,
            liveliness: None,
            photo_id: None,
        };
        let biases = learn(&vec![finding.clone(); 5]);
        let next = predicted(&biases);
        let now = next.hamon.line().unwrap();
        assert!(now.height_mm < line.height_mm - 1.5, "{}", now.height_mm);
        assert!(now.band_mm < 0.8 * line.band_mm);
        let width =
            |l: &crate::simulation::hamon::Line| l.points[5].high_mm - l.points[5].height_mm;
        assert!(width(now) < width(line));
        assert!(
            next.outcome_reasons
                .iter()
                .any(|r| r.learned && matches!(r.why, Why::LinesMoved { by_mm } if by_mm < 0.0))
        );
        // The simulation under it is the same, so what was learned is not learned again.
        let x = 90.0;
        assert!((now.simulated_mm(x).unwrap() - line.simulated_mm(x).unwrap()).abs() < 1e-6);
        let lesson = biases.line.lesson().unwrap();
        assert!(lesson.coverage > 0.8);
        // Three places of one line are one result, as high as they are on the mean.
        assert_eq!(lesson.results, 5);
        let mean = [40.0, 90.0, 140.0].map(|x| at(x)[1]).iter().sum::<f64>() / 3.0;
        assert!((lesson.points[0].measured - mean).abs() < 1e-9);
        assert!((lesson.bias + 3.0).abs() < 1e-9);
    }

    #[test]
    fn curves_that_come_out_further_move_the_next_one() {
        let first = predicted(&BiasModels::default());
        let found = |more: f64, before_mm: f64| Finding::Sori {
            sori_mm: first.bend.sori_mm + more + before_mm,
            before_mm,
        };
        let next = predicted(&learn(&vec![found(0.4, 0.0); 6]));
        let moved = next.bend.sori_mm - first.bend.sori_mm;
        assert!((0.2..0.4).contains(&moved), "{moved}");
        let width = |o: &Outcomes| o.ranges.sori_mm.width();
        assert!(width(&next) < width(&first));
        assert!(
            next.outcome_reasons
                .iter()
                .any(|r| r.learned && matches!(r.why, Why::CurvesMoved { by_mm } if by_mm > 0.0))
        );
        // What it was curved before the fire is not the quench's doing.
        let same = predicted(&learn(&vec![found(0.4, 3.0); 6]));
        assert!((same.bend.sori_mm - next.bend.sori_mm).abs() < 1e-9);
    }

    #[test]
    fn what_was_off_before_the_fire_is_not_the_quenchs_doing() {
        let straight = |after, off: f64| Finding::Straight {
            after,
            places: vec![[60.0, 0.2 * off], [90.0, off]],
        };
        let steel = Steel::built_in("w2").unwrap();
        let simulated = simulated(&Workpiece::plain(&blade()), &oil(), steel, None).unwrap();
        let chance = |findings: &[Finding]| {
            let found = findings.iter().enumerate().map(|(i, finding)| Found {
                blade: Uuid::from_u128(i as u128 / 2),
                traits: Traits {
                    steel: "w2".to_owned(),
                    medium: Medium::FastOil,
                    clay: None,
                    operator: None,
                },
                simulated: &simulated,
                finding,
            });
            let next = predicted(&BiasModels::learn(found, None));
            next.bend.side_over_tolerance_probability
        };
        let blades = |before: f64| -> Vec<Finding> {
            let one = || {
                [
                    straight(After::Forging, before),
                    straight(After::Quench, 2.0),
                ]
            };
            (0..8).flat_map(|_| one()).collect()
        };
        let (off, bent) = (blades(2.0), blades(0.0));
        let none = chance(&[]);
        assert!(chance(&off) < none && chance(&bent) > none, "{none}");
    }

    #[test]
    fn clamps_that_were_tried_set_the_next_shim() {
        let tempered = plan(
            r#"[{"kind":"austenitize","temperature_c":795,"soak_s":480},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        );
        let (work, steel) = (Workpiece::plain(&blade()), Steel::built_in("w2").unwrap());
        let simulated = simulated(&work, &tempered, steel, None).unwrap();
        let clamped = Finding::Clamped {
            bow_mm: 1.0,
            shim_mm: 1.0,
            left_mm: 0.0,
        };
        let learned = |n: usize| {
            let found = (0..n).map(|i| Found {
                blade: Uuid::from_u128(i as u128),
                traits: BiasModels::default().traits(&tempered, steel, &work.clay),
                simulated: &simulated,
                finding: &clamped,
            });
            let biases = BiasModels::learn(found, None);
            let found = outcomes(&work, &tempered, steel, &biases, STEP_MM, None)
                .unwrap()
                .0;
            let reasons = found.outcome_reasons.iter();
            let mut told = reasons.filter_map(|r| match r.why {
                Why::ClampedInTemper {
                    shim_per_mm, tried, ..
                } => Some((shim_per_mm, tried, r.learned)),
                _ => None,
            });
            told.next_back().unwrap()
        };
        let (by_rule, tried, from_records) = learned(0);
        assert!(by_rule > 1.5 && tried == 0 && !from_records);
        let (now, tried, from_records) = learned(5);
        assert!(
            now < 0.75 * by_rule && tried == 5 && from_records,
            "{now} {by_rule}"
        );
    }

    #[test]
    fn broken_coupons_teach_the_grain_once() {
        let first = predicted(&BiasModels::default());
        let finer = Finding::Grain {
            astm: first.grain_astm + 1.5,
        };
        let next = predicted(&learn(&vec![finer.clone(); 6]));
        let moved = next.grain_astm - first.grain_astm;
        assert!((0.8..1.5).contains(&moved), "{moved}");
        assert!(next.ranges.grain_astm.width() < first.ranges.grain_astm.width());
        // Held against a prediction that had learned it already, it says the same.
        let again = predicted(&learn(&vec![finer; 6]));
        assert!((again.grain_astm - next.grain_astm).abs() < 1e-9);
    }

    #[test]
    fn sound_and_straight_blades_lower_the_risks() {
        let first = predicted(&BiasModels::default());
        let sound = vec![
            Finding::Crack {
                cracked: false,
                place: None
            };
            150
        ];
        let next = predicted(&learn(&sound));
        assert!(next.crack.probability < 0.7 * first.crack.probability);
        let straight = vec![Finding::Side { sag_mm: 0.0 }; 12];
        let next = predicted(&learn(&straight));
        assert!(next.bend.side_ninety_mm < first.bend.side_ninety_mm);
        let file = [Finding::File {
            stage: crate::record::reading::When::AsQuenched,
            low_hrc: Some(60.0),
            high_hrc: Some(65.0),
            warm: false,
            skin_on: false,
        }];
        assert_eq!(learn(&file).line.lesson(), None);
    }
}
