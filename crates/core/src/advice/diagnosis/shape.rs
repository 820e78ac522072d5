//! Out of line, or cracked.

use super::{Case, Culprit, Evidence, Suspect, austenitize_at, last_heat};
use crate::material::medium::Medium;
use crate::prediction::warning::NORMALIZE_S;
use crate::process::change::Change;
use crate::process::furnace::Furnace;
use crate::process::protection::Protection;
use crate::process::step::{Stage, Step};
use crate::quantity::units::{Quantity, Seconds};
use crate::record::finding::Finding;
use crate::simulation::crack::Cause;
use crate::simulation::physics::stages;
use crate::simulation::warp::driver::Driver;

fn has(case: &Case<'_>, good: impl Fn(&Step) -> bool) -> bool {
    case.subject.plan.steps().iter().any(good)
}

pub(super) fn bent(case: &Case<'_>) -> Vec<Suspect> {
    let work = case.subject.work;
    let plan = case.subject.plan;
    let parts = case.outcomes.map_or(&[][..], |o| &o.bend.parts);
    let by = |driver: Driver| {
        let found = parts.iter().find(|p| p.driver == driver);
        found.map_or(0.0, |p| p.mm)
    };
    let sori = case.outcomes.map_or(0.0, |o| o.bend.sori_mm);
    let found = case.findings.iter().filter_map(|f| f.sag_mm());
    let sag = found.map(f64::abs).fold(0.0, f64::max).max(0.1);
    let bevels = work.form.unevenness_percent();
    let by_bevels = case
        .outcomes
        .filter(|_| work.clay.is_even())
        .map_or(0.0, |o| o.bend.side_known_mm.abs());
    let cooling = by(Driver::Film).hypot(by(Driver::Cooling));
    let explains = |mm: f64| (mm / sag).min(3.0);
    let forge = work.furnace == Furnace::Forge;
    let relieved = has(case, |s| {
        matches!(
            s,
            Step::Normalize { .. } | Step::StressRelief { .. } | Step::Anneal { .. }
        )
    });
    let quench = plan.last_quench().unwrap_or(0);
    let heat = plan.steps()[..quench]
        .iter()
        .rposition(|s| matches!(s, Step::Austenitize { .. }))
        .unwrap_or(0);
    let straightened = has(case, |s| matches!(s, Step::Straighten {}));
    let relief = Step::StressRelief {
        by: None,
        temperature_c: crate::quantity::units::Celsius::clamped(640.0),
        hold_s: Seconds::clamped(3600.0),
    };
    vec![
        Suspect::new(Culprit::UnevenCooling, 0.5 * explains(cooling))
            .says(Evidence::UsuallyBends { mm: cooling }),
        Suspect::new(Culprit::UnevenSkin, 0.5 * explains(by(Driver::Skin))).says(
            Evidence::UsuallyBends {
                mm: by(Driver::Skin),
            },
        ),
        Suspect::new(Culprit::Leaned, 0.5 * explains(by(Driver::Lean))).says(
            Evidence::UsuallyBends {
                mm: by(Driver::Lean),
            },
        ),
        Suspect::new(Culprit::UnevenClay, 0.25)
            .given(work.clay.is_bare(), 0.0, Evidence::NoClay {})
            .given(
                !work.clay.is_bare() && !work.clay.is_even(),
                4.0,
                Evidence::PaintedUnevenly {},
            ),
        Suspect::new(
            Culprit::UnevenBevels,
            0.15 * explains(by_bevels.max(by(Driver::Bevels))).max(0.15),
        )
        .given(
            bevels > 0.5,
            1.0 + by_bevels / sag,
            Evidence::BevelsDiffer {
                percent: bevels,
                bend_mm: by_bevels,
            },
        ),
        Suspect::new(Culprit::Stresses, 0.2 + 0.3 * explains(by(Driver::Rest)))
            .given(!relieved, 3.0, Evidence::NotRelieved {})
            .given(relieved, 0.5, Evidence::Relieved {})
            .fixed((!relieved).then_some(Change::Insert {
                at: heat,
                step: relief,
            })),
        Suspect::new(Culprit::UnevenHeat, 0.15).given(forge, 2.0, Evidence::ForgeHeatsOneSide {}),
        Suspect::new(Culprit::TowardsTheSpine, 0.1).given(
            sori.abs() > 0.5,
            1.0 + sori.abs(),
            Evidence::InPlane { sori_mm: sori },
        ),
        Suspect::new(Culprit::NoStraightening, 0.08)
            .given(straightened, 0.2, Evidence::StraightenedWarm {})
            .fixed((!straightened).then(|| Change::Insert {
                at: quench + 1,
                step: Step::Straighten {},
            })),
    ]
}

pub(super) fn cracked(case: &Case<'_>) -> Vec<Suspect> {
    let causes = case.outcomes.map(|o| o.crack_causes).unwrap_or_default();
    let plan = case.subject.plan;
    let quench = plan.last_quench();
    let all = case.biases.crack.reasons(&causes);
    let by = |cause: Cause| all.iter().find(|r| r.0 == cause).map_or(1.0, |r| r.1);
    // The odds that a cause multiplies a crack by, as weight: what multiplies by one was not it.
    let weight = |odds: f64| (odds.max(1.0)).ln() + 0.02;
    let times = |odds: f64| Evidence::TimesAsLikely { odds };
    let milder = match stages(plan).first().map(|s| s.medium) {
        Some(Medium::Brine) => Some(Medium::Water),
        Some(Medium::Water) => Some(Medium::FastOil),
        Some(Medium::FastOil) => Some(Medium::MediumOil),
        _ => None,
    };
    let mild = quench.zip(milder).map(|(at, medium)| {
        let stages = vec![Stage::until_cold(medium)];
        let with = Step::Quench { stages };
        Change::Replace { at, with }
    });
    let nominal = case.subject.steel.austenitize.nominal.value();
    let cooler = austenitize_at(case, nominal);
    // A late martensite start tells in a medium that is too sharp for it.
    let medium = by(Cause::WrongMedium) * by(Cause::LateMartensite);
    let severe = by(Cause::SevereMedium);
    let raisers = by(Cause::StressRaisers) * by(Cause::InsideCorners);
    let hot = by(Cause::Overheated) * by(Cause::CoarseGrain);
    let (unrelieved, again) = (by(Cause::NotNormalized), by(Cause::Requenched));
    let (skin, bared) = (by(Cause::Skin), by(Cause::ClayLetsGo));
    let heat = last_heat(case, |s| matches!(s, Step::Austenitize { .. })).map(|h| h.0);
    let normalize = heat.zip(case.subject.steel.normalize);
    let normalize = normalize.map(|(at, temperature_c)| Change::Insert {
        at,
        step: Step::Normalize {
            temperature_c,
            hold_s: Seconds::clamped(NORMALIZE_S),
            by: None,
        },
    });
    let protected = case.subject.work.protection != Protection::Bare
        || (plan.steps().iter()).any(|s| matches!(s, Step::Coat {} | Step::Pouch {}));
    let coat = heat.filter(|_| !protected).map(|at| Change::Insert {
        at,
        step: Step::Coat {},
    });
    let (section, waited) = (by(Cause::Section), by(Cause::Untempered));
    let carbon = by(Cause::Carbon);
    let grain = case.outcomes.map_or(9.0, |o| o.grain_astm);
    let coarse = case.found(|f| matches!(f, Finding::Grain { astm } if *astm < 7.5));
    vec![
        Suspect::new(Culprit::WrongMedium, weight(medium))
            .given(medium > 1.05, 1.0, times(medium))
            .fixed(mild.clone().filter(|_| medium > 1.05)),
        Suspect::new(Culprit::SevereToTheEnd, weight(severe))
            .given(severe > 1.05, 1.0, times(severe))
            .fixed(mild.filter(|_| severe > 1.05)),
        Suspect::new(Culprit::NotNormalized, weight(unrelieved))
            .given(unrelieved > 1.05, 1.0, times(unrelieved))
            .fixed(normalize.clone().filter(|_| unrelieved > 1.05)),
        Suspect::new(Culprit::Requenched, weight(again))
            .given(again > 1.05, 1.0, times(again))
            .fixed(normalize.filter(|_| again > 1.05)),
        Suspect::new(Culprit::SkinDrawn, weight(skin))
            .given(skin > 1.05, 1.0, times(skin))
            .fixed(coat.filter(|_| skin > 1.05)),
        Suspect::new(Culprit::ClayLetGo, weight(bared)).given(bared > 1.05, 1.0, times(bared)),
        Suspect::new(Culprit::StressRaiser, weight(raisers) + 0.1).given(
            raisers > 1.05,
            1.0,
            times(raisers),
        ),
        Suspect::new(
            Culprit::CrackedTooHot,
            weight(hot) + if grain < 7.5 { 0.5 } else { 0.05 },
        )
        .given(hot > 1.05, 1.0, times(hot))
        .given(coarse, 3.0, Evidence::CouponCoarse {})
        .says(Evidence::Grain { astm: grain })
        .fixed(cooler.filter(|_| hot > 1.05)),
        Suspect::new(Culprit::WaitedUntempered, weight(waited)).given(
            waited > 1.05,
            1.0,
            times(waited),
        ),
        Suspect::new(Culprit::ThinEdgeThickSpine, weight(section)).given(
            section > 1.05,
            1.0,
            times(section),
        ),
        Suspect::new(Culprit::LateMartensite, weight(carbon)).given(
            carbon > 1.05,
            1.0,
            times(carbon),
        ),
        Suspect::new(Culprit::Flaw, 0.15),
    ]
}

#[cfg(test)]
mod tests {
    use super::super::tests::Bench;
    use super::super::{Culprit, Symptom, diagnose};
    use crate::process::change::Change;
    use crate::process::step::Step;
    use crate::record::finding::{After, Finding};

    #[test]
    fn an_oil_steel_cracked_in_water_is_the_water() {
        let bench = Bench::new("o1", "water");
        let causes = diagnose(&bench.case(), Symptom::Cracked).causes;
        assert!(
            [Culprit::WrongMedium, Culprit::SevereToTheEnd].contains(&causes[0].cause),
            "{causes:#?}"
        );
        let Some(Change::Replace {
            with: Step::Quench { stages },
            ..
        }) = &causes[0].fix
        else {
            panic!("{:?}", causes[0].fix)
        };
        assert!(stages[0].medium.is_oil());
        let right = Bench::new("o1", "medium_oil");
        let mild = diagnose(&right.case(), Symptom::Cracked).causes;
        assert_ne!(mild[0].cause, Culprit::WrongMedium);
    }

    #[test]
    fn what_was_done_already_is_not_advised() {
        for (steel, medium) in [
            ("w2", "brine"),
            ("w2", "water"),
            ("1095", "fast_oil"),
            ("o1", "water"),
            ("5160", "medium_oil"),
        ] {
            let mut bench = Bench::new(steel, medium);
            for coated in [false, true] {
                if coated {
                    let mut steps = bench.plan.steps().to_vec();
                    steps.insert(1, Step::Coat {});
                    bench.plan = bench.plan.with_steps(steps);
                }
                for symptom in [Symptom::Cracked, Symptom::Bent] {
                    for cause in diagnose(&bench.case(), symptom).causes {
                        let Some(fix) = cause.fix else { continue };
                        // It was normalized; a coat is advised once; a bath is not changed for itself.
                        let again = match &fix {
                            Change::Insert { step, .. } => {
                                let known = bench.plan.steps().iter();
                                known
                                    .filter(|s| {
                                        std::mem::discriminant(*s) == std::mem::discriminant(step)
                                    })
                                    .count()
                                    > 0
                            }
                            Change::Replace { at, with } => bench.plan.steps()[*at] == *with,
                            _ => false,
                        };
                        assert!(!again, "{steel} in {medium}: {fix:?} for {:?}", cause.cause);
                    }
                }
            }
        }
    }

    #[test]
    fn a_small_bend_is_the_hand_before_anything_else() {
        let mut bench = Bench::new("w2", "water");
        let usual = 0.5 * bench.outcomes.bend.side_ninety_mm;
        bench.findings.push(Finding::Straight {
            after: After::Quench,
            places: vec![[90.0, usual]],
        });
        let causes = diagnose(&bench.case(), Symptom::Bent).causes;
        assert_eq!(causes[0].cause, Culprit::UnevenCooling, "{causes:#?}");
        // It had no clay, so that was not it.
        assert!(causes.iter().all(|c| c.cause != Culprit::UnevenClay));
    }
}
