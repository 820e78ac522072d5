//! A hamon that is dull, or does not run where it should.

use super::{Case, Suspect, austenitize_at, last_heat};
use crate::finding::Finding;
use crate::physics::stages;
use crate::plan::Step;
use crate::warning::Fix;

/// A band wider than this is dull by itself, mm.
const DULL_MM: f64 = 5.0;

/// How far over the middle of its window the steel was austenitized, °C.
fn over_c(case: &Case<'_>) -> f64 {
    let nominal = case.subject.steel.austenitize.nominal.value();
    last_heat(case, |s| matches!(s, Step::Austenitize { .. })).map_or(0.0, |h| h.1 - nominal)
}

/// A little under the middle of the window.
fn cooler(case: &Case<'_>) -> Option<Fix> {
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
        Suspect::new(
            "polish",
            "It is there, but not polished out.",
            0.3,
            "One finer paper along the line, then two short dips in weak etchant.",
        )
        .given(!polished, 1.8, "No polishing was written down.")
        .given(polished && etched, 0.4, "It was polished and etched.")
        .avoided("Finer and finer paper across the old scratches, then short dips, wiped between."),
        Suspect::new(
            "deep_steel",
            "This steel hardens too deep for a clear line.",
            0.08 + (deep - 0.4).max(0.0),
            "Etch a coupon of the bar quenched the same way: no line there either?",
        )
        .given(
            deep > 0.6,
            1.5,
            format!("Manganese and chromium together {deep:.2} %."),
        )
        .avoided("A shallow steel: 1075 or W2 with little manganese."),
        Suspect::new(
            "wide_band",
            "From hard to soft takes too long a way: the band is wide.",
            0.15,
            "Measure the band after etching: wider than 5 mm, this is it.",
        )
        .given(
            band.is_some_and(|b| b > DULL_MM),
            3.0,
            format!("Physics says {:.1} mm.", band.unwrap_or(0.0)),
        )
        .given(
            band.is_some_and(|b| b <= DULL_MM),
            0.4,
            format!("Physics says only {:.1} mm.", band.unwrap_or(0.0)),
        )
        .avoided("A sharper border of the clay, or a faster bath."),
        Suspect::new(
            "too_hot",
            "It was too hot: the line runs high and soft.",
            0.12,
            "Is the line higher than predicted all along? Then it was hot.",
        )
        .given(
            over > 12.0,
            3.0,
            format!("{over:.0} °C over the middle of its window."),
        )
        .given(over <= 0.0, 0.5, "It was inside its window.")
        .avoided("The lower half of the window, from a fine normalized grain.")
        .fixed(cooler(case).filter(|_| over > 5.0)),
        Suspect::new(
            "skin",
            "The decarburized skin still lies over it.",
            0.1 + 2.0 * skin,
            "Take another tenth off one place and etch that.",
        )
        .given(
            skin > 0.05,
            1.5,
            format!("About {skin:.2} mm of skin lost carbon."),
        )
        .avoided("Coat it, or leave more to grind."),
        Suspect::new(
            "etch",
            "Etched too long: the hard part went grey as well.",
            0.1,
            "Rub it back with fine powder and dip for half as long.",
        )
        .given(!etched, 0.2, "No etching was written down.")
        .avoided("Weak etchant, ten seconds at a time."),
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
        Suspect::new(
            "clay_came_off",
            "Clay came off in the fire or in the bath.",
            if bare { 0.0 } else { 0.35 },
            "Look at the scale: a clean bright patch where clay should have been.",
        )
        .avoided("Dry it bone dry, roughen the steel, thin clay first and wire or ribs over it."),
        Suspect::new(
            "uneven_clay",
            "The clay's border is not where it was meant.",
            if bare { 0.02 } else { 0.25 },
            "Lay the printed sheet on the blade: does the line follow the clay as painted?",
        )
        .given(
            !bare && !work.clay.is_even(),
            2.0,
            "The two faces were painted differently.",
        )
        .avoided("Trace the border from the printed sheet, both faces."),
        Suspect::new(
            "steam",
            "Steam clung to it: cold spots in the bath.",
            0.2,
            "Soft round spots along the edge, on one face more than the other: steam.",
        )
        .given(still, 1.3, "The bath was moved as usual, no more.")
        .avoided("Brine instead of water, or move the blade harder along its length."),
        Suspect::new(
            "uneven_heat",
            "It was hotter in one place than in another.",
            0.2,
            "The line climbs where it was hot: towards the thick or towards the thin end?",
        )
        .given(
            over > 12.0,
            1.5,
            format!("{over:.0} °C over the middle of its window."),
        )
        .avoided("Longer to even out, the tip out of the flame.")
        .fixed(cooler(case).filter(|_| over > 5.0)),
        Suspect::new(
            "section",
            "The blade's own section moves it: thin places harden further up.",
            0.12,
            "Compare it with the predicted line: does it rise and fall in the same places?",
        )
        .avoided("Even bevels, or clay that follows the section."),
        Suspect::new(
            "forged_in",
            "Uneven structure from forging.",
            0.1,
            "Islands away from the line, on both faces in the same places.",
        )
        .given(
            !case
                .subject
                .plan
                .steps()
                .iter()
                .any(|s| matches!(s, Step::Normalize { .. })),
            2.5,
            "It was not normalized.",
        )
        .avoided("Three falling normalizing heats."),
    ]
}

#[cfg(test)]
mod tests {
    use super::super::tests::Bench;
    use super::super::{Symptom, diagnose};
    use crate::finding::Finding;

    #[test]
    fn nothing_polished_is_polish_first() {
        let mut bench = Bench::new("w2", "water");
        let before = diagnose(&bench.case(), Symptom::DullLine).causes;
        assert_eq!(before[0].cause, "polish", "{before:#?}");
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
                .find(|c| c.cause == "polish")
                .map_or(0.0, |c| c.chance)
        };
        assert!(chance(&after) < 0.5 * chance(&before));
    }

    #[test]
    fn without_clay_none_came_off() {
        let bench = Bench::new("w2", "water");
        let causes = diagnose(&bench.case(), Symptom::WanderingLine).causes;
        assert!(causes.iter().all(|c| c.cause != "clay_came_off"));
    }
}
