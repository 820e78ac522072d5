//! A hamon that is dull, or does not run where it should.

use super::{Case, Culprit, Evidence, Suspect, austenitize_at, last_heat};
use crate::process::change::Change;
use crate::process::step::Step;
use crate::record::finding::Finding;
use crate::simulation::physics::stages;

/// A band wider than this is dull by itself, mm.
const DULL_MM: f64 = 5.0;

/// How far over the middle of its window the steel was austenitized, °C.
fn over_c(case: &Case<'_>) -> f64 {
    let nominal = case.subject.steel.austenitize.nominal.value();
    last_heat(case, |s| matches!(s, Step::Austenitize { .. })).map_or(0.0, |h| h.1 - nominal)
}

/// A little under the middle of the window.
fn cooler(case: &Case<'_>) -> Option<Change> {
    austenitize_at(case, case.subject.steel.austenitize.nominal.value() - 10.0)
}

pub(super) fn dull(case: &Case<'_>) -> Vec<Suspect> {
    let steel = case.subject.steel;
    let band = case
        .outcomes
        .and_then(|o| o.hamon.line())
        .map(|l| l.band_mm);
    let deep = steel.analysis.manganese + steel.analysis.chromium;
    let polished = case.found(|f| matches!(f, Finding::Polish { .. }));
    let etched = case.found(|f| matches!(f, Finding::Etch { .. }));
    let over = over_c(case);
    let skin = case.outcomes.map_or(0.0, |o| o.decarburization_mm);
    vec![
        Suspect::new(Culprit::NotPolished, 0.3)
            .given(!polished, 1.8, Evidence::NoPolish {})
            .given(polished && etched, 0.4, Evidence::PolishedAndEtched {}),
        Suspect::new(Culprit::DeepSteel, 0.08 + (deep - 0.4).max(0.0)).given(
            deep > 0.6,
            1.5,
            Evidence::DeepHardening {
                mn_cr_percent: deep,
            },
        ),
        Suspect::new(Culprit::WideBand, 0.15)
            .given(
                band.is_some_and(|b| b > DULL_MM),
                3.0,
                Evidence::WideBand {
                    band_mm: band.unwrap_or(0.0),
                },
            )
            .given(
                band.is_some_and(|b| b <= DULL_MM),
                0.4,
                Evidence::NarrowBand {
                    band_mm: band.unwrap_or(0.0),
                },
            ),
        Suspect::new(Culprit::TooHot, 0.12)
            .given(over > 12.0, 3.0, Evidence::OverWindow { over_k: over })
            .given(over <= 0.0, 0.5, Evidence::InsideWindow {})
            .fixed(cooler(case).filter(|_| over > 5.0)),
        Suspect::new(Culprit::SkinOverLine, 0.1 + 2.0 * skin).given(
            skin > 0.05,
            1.5,
            Evidence::SkinLost { skin_mm: skin },
        ),
        Suspect::new(Culprit::OverEtched, 0.1).given(!etched, 0.2, Evidence::NoEtch {}),
    ]
}

pub(super) fn wandering(case: &Case<'_>) -> Vec<Suspect> {
    let work = case.subject.work;
    let bare = work.clay.is_bare();
    let over = over_c(case);
    let still = stages(case.subject.plan)
        .first()
        .is_some_and(|s| s.agitation.is_none());
    vec![
        Suspect::new(Culprit::ClayCameOff, if bare { 0.0 } else { 0.35 }),
        Suspect::new(Culprit::ClayBorder, if bare { 0.02 } else { 0.25 }).given(
            !bare && !work.clay.is_even(),
            2.0,
            Evidence::FacesPaintedDifferently {},
        ),
        Suspect::new(Culprit::Steam, 0.2).given(still, 1.3, Evidence::MovedAsUsual {}),
        Suspect::new(Culprit::HotSpot, 0.2)
            .given(over > 12.0, 1.5, Evidence::OverWindow { over_k: over })
            .fixed(cooler(case).filter(|_| over > 5.0)),
        Suspect::new(Culprit::SectionMovesLine, 0.12),
        Suspect::new(Culprit::ForgedIn, 0.1).given(
            !case
                .subject
                .plan
                .steps()
                .iter()
                .any(|s| matches!(s, Step::Normalize { .. })),
            2.5,
            Evidence::NotNormalized {},
        ),
    ]
}

#[cfg(test)]
mod tests {
    use super::super::tests::Bench;
    use super::super::{Culprit, Symptom, diagnose};
    use crate::record::finding::Finding;

    #[test]
    fn nothing_polished_is_polish_first() {
        let mut bench = Bench::new("w2", "water");
        let before = diagnose(&bench.case(), Symptom::DullLine).causes;
        assert_eq!(before[0].cause, Culprit::NotPolished, "{before:#?}");
        bench.findings = vec![
            Finding::Polish {
                with: "1500 paper".to_owned(),
            },
            Finding::Etch {
                with: "iron salts".to_owned(),
                dips: 4,
                dip_s: 10.0,
            },
        ];
        let after = diagnose(&bench.case(), Symptom::DullLine).causes;
        let chance = |all: &[super::super::Cause]| {
            all.iter()
                .find(|c| c.cause == Culprit::NotPolished)
                .map_or(0.0, |c| c.chance)
        };
        assert!(chance(&after) < 0.5 * chance(&before));
    }

    #[test]
    fn without_clay_none_came_off() {
        let bench = Bench::new("w2", "water");
        let causes = diagnose(&bench.case(), Symptom::WanderingLine).causes;
        assert!(causes.iter().all(|c| c.cause != Culprit::ClayCameOff));
    }
}
