//! An edge that chips or rolls.

use super::{Case, Culprit, Evidence, Suspect, last_heat, temper_hotter};
use crate::material::temper::BRITTLE_C;
use crate::process::step::Step;
use crate::quantity::units::Kelvins;
use crate::record::finding::Finding;
use crate::record::reading::When;

/// Thinner than this behind the edge it needs a light hand, mm.
const THIN_MM: f64 = 0.35;

pub(super) fn chips(case: &Case<'_>) -> Vec<Suspect> {
    let read = case.read(When::Tempered);
    let over = read.map_or(0.0, |r| r - case.target.1);
    let coarse = case.found(|f| matches!(f, Finding::Grain { astm } if *astm < 7.5));
    let grain = case.outcomes.map_or(9.0, |o| o.grain_astm);
    let edge = case.subject.work.form.thinnest_edge_mm();
    let temper = last_heat(case, |s| matches!(s, Step::Temper { .. })).map(|h| h.1);
    let plain = case.subject.steel.analysis.chromium < 4.0;
    let brittle = temper.is_some_and(|t| plain && BRITTLE_C.contains(&t));
    vec![
        Suspect::new(Culprit::TooHard, 0.3)
            .given(
                over > 0.2,
                1.0 + 2.0 * over,
                Evidence::ReadOver {
                    read_hrc: read.unwrap_or(0.0),
                    most_hrc: case.target.1,
                },
            )
            .given(
                read.is_some() && over <= 0.2,
                0.4,
                Evidence::InsideWanted {},
            )
            .fixed(temper_hotter(case, Kelvins::of(15.0))),
        Suspect::new(Culprit::CoarseGrain, 0.15)
            .given(grain < 7.5, 3.0, Evidence::Grain { astm: grain })
            .given(grain >= 9.0, 0.5, Evidence::FineGrain { astm: grain })
            .given(coarse, 4.0, Evidence::CouponCoarse {}),
        Suspect::new(Culprit::BrittleTemper, if brittle { 0.6 } else { 0.01 }).given(
            brittle,
            1.5,
            Evidence::InBrittleRange {
                temper_c: temper.unwrap_or(0.0),
                low_c: *BRITTLE_C.start(),
                high_c: *BRITTLE_C.end(),
            },
        ),
        Suspect::new(Culprit::ThinChips, 0.2).given(
            edge < THIN_MM,
            1.8,
            Evidence::BehindEdge { edge_mm: edge },
        ),
        Suspect::new(Culprit::NoTemper, 0.12)
            .given(temper.is_none(), 6.0, Evidence::NotTempered {})
            .given(
                case.temper.is_some_and(|s| s.real_c < s.planned_c - 10.0),
                4.0,
                Evidence::SawCoolerTemper {},
            ),
        Suspect::new(Culprit::BurrBroke, 0.12),
    ]
}

pub(super) fn rolls(case: &Case<'_>) -> Vec<Suspect> {
    let read = case.read(When::Tempered);
    let under = read.map_or(0.0, |r| case.target.0 - r);
    let edge = case.subject.work.form.thinnest_edge_mm();
    let burned = case.found(|f| matches!(f, Finding::Burn { .. }));
    let skin = case.outcomes.map_or(0.02, |o| o.decarburization_mm);
    let left = case.subject.plan.last_quench().map_or(0.0, |_| {
        let heat = crate::simulation::heat::Heat::new(
            case.subject.work,
            case.subject.plan,
            case.subject.steel,
            Kelvins::ZERO,
        );
        100.0 * heat.dissolved.retained(20.0)
    });
    vec![
        Suspect::new(Culprit::TooSoft, 0.3)
            .given(
                under > 0.2,
                1.0 + 2.0 * under,
                Evidence::ReadUnder {
                    read_hrc: read.unwrap_or(0.0),
                    least_hrc: case.target.0,
                },
            )
            .given(
                read.is_some() && under <= 0.2,
                0.4,
                Evidence::InsideWanted {},
            )
            .fixed(temper_hotter(case, Kelvins::of(-15.0))),
        Suspect::new(Culprit::BurnedEdge, 0.15).given(burned, 4.0, Evidence::BeltColour {}),
        Suspect::new(Culprit::DecarburizedEdge, 0.1 + 2.0 * skin).given(
            edge < 0.7,
            1.5,
            Evidence::EdgeLostCarbon {
                edge_mm: edge,
                skin_mm: skin,
            },
        ),
        Suspect::new(Culprit::ThinRolls, 0.2).given(
            edge < THIN_MM,
            1.8,
            Evidence::BehindEdge { edge_mm: edge },
        ),
        Suspect::new(Culprit::SoftAustenite, 0.03 + 0.01 * left).given(
            left > 12.0,
            1.5,
            Evidence::AusteniteAtRoom { percent: left },
        ),
        Suspect::new(Culprit::BurrFolded, 0.12),
    ]
}

#[cfg(test)]
mod tests {
    use super::super::tests::{Bench, read};
    use super::super::{Culprit, Symptom, diagnose};
    use crate::process::change::Change;
    use crate::record::finding::Finding;
    use crate::record::reading::When;

    #[test]
    fn over_hard_edges_chip_because_they_are_hard() {
        let bench = Bench::new("1084", "fast_oil");
        let mut case = bench.case();
        case.readings = vec![read(When::Tempered, 64.0)];
        let causes = diagnose(&case, Symptom::Chips).causes;
        assert_eq!(causes[0].cause, Culprit::TooHard, "{causes:#?}");
        assert!(matches!(
            causes[0].fix,
            Some(Change::Set { value: 220.0, .. })
        ));
    }

    #[test]
    fn an_edge_burned_at_the_belt_rolls_for_that() {
        let mut bench = Bench::new("1084", "fast_oil");
        bench.findings.push(Finding::Burn {
            colour: "light blue".to_owned(),
            hot_s: 0.5,
            place: None,
        });
        let mut case = bench.case();
        case.readings = vec![read(When::Tempered, 61.0)];
        let causes = diagnose(&case, Symptom::Rolls).causes;
        assert_eq!(causes[0].cause, Culprit::BurnedEdge, "{causes:#?}");
    }
}
