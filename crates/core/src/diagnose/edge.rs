//! An edge that chips or rolls.

use super::{Case, Suspect, last_heat, temper_hotter};
use crate::finding::Finding;
use crate::plan::Step;
use crate::reading::When;

/// Thinner than this behind the edge it needs a light hand, mm.
const THIN_MM: f64 = 0.35;

pub(super) fn chips(case: &Case<'_>) -> Vec<Suspect> {
    let read = case.read(When::Tempered);
    let over = read.map_or(0.0, |r| r - case.target.1);
    let told = case.found(|f| matches!(f, Finding::Grain { astm } if *astm < 7.5));
    let grain = case.outcomes.map_or(9.0, |o| o.grain_astm);
    let edge = case.subject.work.form.thinnest_edge_mm();
    let temper = last_heat(case, |s| matches!(s, Step::Temper { .. })).map(|h| h.1);
    let plain = case.subject.steel.analysis.chromium < 4.0;
    let brittle = temper.is_some_and(|t| plain && (260.0..=370.0).contains(&t));
    vec![
        Suspect::new(
            "too_hard",
            "It is harder than this work wants.",
            0.3,
            "Temper it 15 °C hotter once more, for an hour, and try again.",
        )
        .given(
            over > 0.2,
            1.0 + 2.0 * over,
            format!(
                "Read {:.1} HRC, wanted {:.0} at most.",
                read.unwrap_or(0.0),
                case.target.1
            ),
        )
        .given(
            read.is_some() && over <= 0.2,
            0.4,
            "It was read inside what was wanted.",
        )
        .avoided("A hotter temper.")
        .fixed(temper_hotter(case, 15.0)),
        Suspect::new(
            "coarse_grain",
            "Its grain is coarse.",
            0.15,
            "Break the tip of a coupon hardened with it: velvet or glitter?",
        )
        .given(grain < 7.5, 3.0, format!("Physics says ASTM {grain:.1}."))
        .given(
            grain >= 9.0,
            0.5,
            format!("Physics says ASTM {grain:.1}: fine."),
        )
        .given(told, 4.0, "A coupon broke coarse.")
        .avoided("Three normalizing heats, and no hotter than the middle of its window."),
        Suspect::new(
            "brittle_temper",
            "Tempered where carbon steel is brittle.",
            if brittle { 0.6 } else { 0.01 },
            "The temper colour: purple to blue is the brittle range.",
        )
        .given(
            brittle,
            1.5,
            format!(
                "{:.0} °C lies between 260 and 370 °C.",
                temper.unwrap_or(0.0)
            ),
        )
        .avoided("Below 250 °C, or well above 370 °C."),
        Suspect::new(
            "thin",
            "The edge is too thin, or its angle too small, for this work.",
            0.2,
            "Strop it five degrees steeper and try again: if it holds, it was the angle.",
        )
        .given(
            edge < THIN_MM,
            1.8,
            format!("{edge:.2} mm behind the edge."),
        )
        .avoided("A steeper edge for chopping."),
        Suspect::new(
            "no_temper",
            "The temper did not do its work: too short, or an oven that ran cool.",
            0.12,
            "Look at the temper colour: none or pale says cool.",
        )
        .given(temper.is_none(), 6.0, "It was not tempered.")
        .given(
            case.temper.is_some_and(|s| s.real_c < s.planned_c - 10.0),
            4.0,
            "The thermocouple saw a cooler temper.",
        )
        .avoided("Check the oven; two tempers of two hours."),
        Suspect::new(
            "burr",
            "Not the blade: a burr broke off.",
            0.12,
            "Strop it well, cut into the end of a board twice, and look again.",
        )
        .avoided("Take the burr off before a trial."),
    ]
}

pub(super) fn rolls(case: &Case<'_>) -> Vec<Suspect> {
    let read = case.read(When::Tempered);
    let under = read.map_or(0.0, |r| case.target.0 - r);
    let edge = case.subject.work.form.thinnest_edge_mm();
    let burned = case.found(|f| matches!(f, Finding::Burn { .. }));
    let skin = case.outcomes.map_or(0.02, |o| o.decarburization_mm);
    let left = case.subject.plan.last_quench().map_or(0.0, |_| {
        let heat = crate::heat::Heat::of(case.subject.plan, case.subject.steel, 0.0);
        crate::hardness::retained_austenite_percent(heat.dissolved.martensite_start_c, 20.0)
    });
    vec![
        Suspect::new(
            "soft",
            "It is softer than this work wants.",
            0.3,
            "Read it at three clean places near the edge; if it is soft, ask why it is soft.",
        )
        .given(
            under > 0.2,
            1.0 + 2.0 * under,
            format!(
                "Read {:.1} HRC, wanted {:.0} at least.",
                read.unwrap_or(0.0),
                case.target.0
            ),
        )
        .given(
            read.is_some() && under <= 0.2,
            0.4,
            "It was read inside what was wanted.",
        )
        .avoided("A cooler temper, once it is known to be hard before it.")
        .fixed(temper_hotter(case, -15.0)),
        Suspect::new(
            "burned",
            "The edge was burned at the belt.",
            0.15,
            "Etch the edge: a soft rim comes up in another grey.",
        )
        .given(burned, 4.0, "A colour from the belt was written down.")
        .avoided("Finish grinding cool, bare-handed, wet."),
        Suspect::new(
            "skin",
            "The edge is decarburized.",
            0.1 + 2.0 * skin,
            "Sharpen it back half a millimetre and try again: if it holds now, it was the skin.",
        )
        .given(
            edge < 0.7,
            1.5,
            format!(
                "The edge went into the fire {edge:.1} mm thick: {skin:.2} mm a side lost carbon."
            ),
        )
        .avoided("Leave the edge thicker before the fire, or coat it."),
        Suspect::new(
            "thin",
            "The edge is too thin, or its angle too small, for this work.",
            0.2,
            "Strop it five degrees steeper and try again.",
        )
        .given(
            edge < THIN_MM,
            1.8,
            format!("{edge:.2} mm behind the edge."),
        )
        .avoided("A steeper edge."),
        Suspect::new(
            "austenite",
            "Soft austenite is left between the needles.",
            0.03 + 0.01 * left,
            "Cold to −75 °C and a short temper: if the edge then holds, this was it.",
        )
        .given(
            left > 12.0,
            1.5,
            format!("Physics says {left:.0} % at room temperature."),
        )
        .avoided("Sub-zero within the hour after the quench."),
        Suspect::new(
            "burr",
            "Not the blade: a burr folded over.",
            0.12,
            "Strop it well and try again.",
        )
        .avoided("Take the burr off before a trial."),
    ]
}

#[cfg(test)]
mod tests {
    use super::super::tests::{Bench, read};
    use super::super::{Symptom, diagnose};
    use crate::finding::Finding;
    use crate::reading::When;

    #[test]
    fn over_hard_edges_chip_because_they_are_hard() {
        let bench = Bench::new("1084", "fast_oil");
        let mut case = bench.case();
        case.readings = vec![read(When::Tempered, 64.0)];
        let causes = diagnose(&case, Symptom::Chips).causes;
        assert_eq!(causes[0].cause, "too_hard", "{causes:#?}");
        assert_eq!(causes[0].fix.as_ref().unwrap().label, "Temper at 220 °C");
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
        assert_eq!(causes[0].cause, "burned", "{causes:#?}");
    }
}
