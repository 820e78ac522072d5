//! Out of line, or cracked.

use super::{Case, Suspect, austenitize_at};
use crate::finding::Finding;
use crate::heating::Furnace;
use crate::medium::Medium;
use crate::outcome::UNEVENNESS_PERCENT;
use crate::physics::stages;
use crate::plan::{Stage, Step};
use crate::units::{Quantity, Seconds};
use crate::warning::{Change, Fix};

fn has(case: &Case<'_>, good: impl Fn(&Step) -> bool) -> bool {
    case.subject.plan.steps().iter().any(good)
}

fn insert(at: usize, step: Step, label: &str) -> Fix {
    Fix {
        label: label.to_owned(),
        change: Change::Insert { at, step },
    }
}

pub(super) fn bent(case: &Case<'_>) -> Vec<Suspect> {
    let work = case.subject.work;
    let plan = case.subject.plan;
    let per_ten = case.outcomes.map_or(0.5, |o| o.bend.side_mm_per_10_percent);
    let sori = case.outcomes.map_or(0.0, |o| o.bend.sori_mm);
    let found = case.findings.iter().filter_map(|f| f.sag_mm());
    let sag = found.map(f64::abs).fold(0.0, f64::max).max(0.1);
    let bevels = work.form.unevenness_percent();
    let by_bevels = per_ten * bevels / 10.0;
    let usual = per_ten * UNEVENNESS_PERCENT / 10.0;
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
        temperature_c: crate::units::Celsius::clamped(640.0),
        hold_s: Seconds::clamped(3600.0),
    };
    vec![
        Suspect::new(
            "uneven_cooling",
            "One face cooled faster: it went in at a slant, or was moved sideways.",
            0.5 * explains(usual),
            "Look which side is hollow: the face that cooled first is the outer one. Two blades bent alike say the hand.",
        )
        .says(format!("Your usual unevenness bends this blade about {usual:.1} mm; each 10 % bends it {per_ten:.1} mm."))
        .avoided("Straight down, slice forward and back, never from side to side."),
        Suspect::new(
            "uneven_clay",
            "The clay was not alike on both faces.",
            0.25,
            "Measure what is left of it at three places on each face.",
        )
        .given(work.clay.is_bare(), 0.0, "There was no clay.")
        .given(!work.clay.is_bare() && !work.clay.is_even(), 4.0, "It was laid unevenly as painted.")
        .avoided("Paint it mirrored and gauge both faces."),
        Suspect::new(
            "uneven_bevels",
            "The bevels are not alike left and right.",
            0.15 * explains(by_bevels).max(0.15),
            "Calipers at the same height on both sides, or ink on the edge and a square.",
        )
        .given(bevels > 0.5, 1.0 + by_bevels / sag, format!("They differ by {bevels:.0} %: about {by_bevels:.1} mm of bend."))
        .avoided("Grind both sides to the same scribed lines; or harden flat and grind after."),
        Suspect::new(
            "stresses",
            "Stresses from forging and grinding came free in the heat.",
            0.2,
            "Heat the next one alone without a quench: if it bends, it was in it before.",
        )
        .given(!relieved, 3.0, "Neither normalized nor stress relieved.")
        .given(relieved, 0.5, "It was relieved before.")
        .avoided("Stress relief before the hardening heat.")
        .fixed((!relieved).then(|| insert(heat, relief, "Stress relief first"))),
        Suspect::new(
            "uneven_heat",
            "It was not evenly hot, or sagged under its own weight.",
            0.15,
            "Look at the grain of two coupons from tip and heel, or at its colour in the dark.",
        )
        .given(forge, 2.0, "A forge heats from one side.")
        .avoided("A muffle, a support along its length, and a few minutes to even out."),
        Suspect::new(
            "towards_the_spine",
            "It curved up or down, as its section makes it.",
            0.1,
            "Lay it on its spine: bent in its own plane, not sideways?",
        )
        .given(sori.abs() > 0.5, 1.0 + sori.abs(), format!("Physics says {sori:.1} mm in its own plane."))
        .avoided("Bend it the other way beforehand by as much, or change the clay's height."),
        Suspect::new(
            "no_straightening",
            "It was straight enough until it stiffened unwatched.",
            0.08,
            "Ask when it was first looked at: while it hung warm, or when cold?",
        )
        .given(straightened, 0.2, "It was straightened warm.")
        .avoided("Straighten it while it bends easily, then clamp it for the temper.")
        .fixed((!straightened).then(|| insert(quench + 1, Step::Straighten {}, "Straighten out of the bath"))),
    ]
}

pub(super) fn cracked(case: &Case<'_>) -> Vec<Suspect> {
    let causes = case.outcomes.map(|o| o.crack_causes).unwrap_or_default();
    let plan = case.subject.plan;
    let quench = plan.last_quench();
    let by = |text: &str| {
        let all = case.habits.crack.reasons(&causes);
        all.iter()
            .find(|r| r.0.starts_with(text))
            .map_or(1.0, |r| r.1)
    };
    // The odds that a cause multiplies a crack by, as weight: what multiplies by one was not it.
    let weight = |odds: f64| (odds.max(1.0)).ln() + 0.02;
    let times = |odds: f64| format!("It makes a crack {odds:.1} times as likely here.");
    let milder = match stages(plan).first().map(|s| s.medium) {
        Some(Medium::Brine) => Some(Medium::Water),
        Some(Medium::Water) => Some(Medium::FastOil),
        Some(Medium::FastOil) => Some(Medium::MediumOil),
        _ => None,
    };
    let mild = quench.zip(milder).map(|(at, medium)| Fix {
        label: format!("Quench in {}", medium.name()),
        change: Change::Replace {
            at,
            with: Step::Quench {
                stages: vec![Stage::of(medium)],
            },
        },
    });
    let nominal = case.subject.steel.austenitize.nominal.value();
    let cooler = austenitize_at(case, nominal);
    let (medium, severe) = (
        by("This steel hardens in a milder"),
        by("The medium still takes"),
    );
    let (raisers, hot) = (by("Scratches"), by("Hotter than"));
    let (section, waited) = (by("Thin edge"), by("Waiting"));
    let carbon = by("The carbon in solution").max(by("Martensite forms late"));
    let grain = case.outcomes.map_or(9.0, |o| o.grain_astm);
    let coarse = case.found(|f| matches!(f, Finding::Grain { astm } if *astm < 7.5));
    vec![
        Suspect::new(
            "medium",
            "The bath was too hard for this steel.",
            weight(medium),
            "Cracks from the edge inwards, at once, with a ping: the bath.",
        )
        .given(medium > 1.05, 1.0, times(medium))
        .avoided("The medium the steel is made for.")
        .fixed(mild.clone().filter(|_| medium > 1.05)),
        Suspect::new(
            "severity",
            "It cooled fast to the end, where martensite forms.",
            weight(severe),
            "Did it ping in the bath, or later on the bench? In the bath: this.",
        )
        .given(severe > 1.05, 1.0, times(severe))
        .avoided("Take it out of the water after two or three seconds and let oil finish it.")
        .fixed(mild.filter(|_| severe > 1.05)),
        Suspect::new(
            "raisers",
            "It began at a scratch, a stamp, a hole or a sharp corner.",
            weight(raisers) + 0.1,
            "A glass on the end of the crack: does it start in a scratch or a corner?",
        )
        .given(raisers > 1.05, 1.0, times(raisers))
        .avoided("Sand along the blade to 220, chamfer holes and corners before the fire."),
        Suspect::new(
            "overheated",
            "It was too hot: coarse grain cracks along its boundaries.",
            weight(hot) + if grain < 7.5 { 0.5 } else { 0.05 },
            "Break it at the crack: grey velvet is fine, glitter is coarse.",
        )
        .given(hot > 1.05, 1.0, times(hot))
        .given(coarse, 3.0, "A coupon broke coarse.")
        .says(format!("Physics says grain ASTM {grain:.1}."))
        .avoided("The middle of the steel's window, and no longer than the soak.")
        .fixed(cooler.filter(|_| hot > 1.05)),
        Suspect::new(
            "waiting",
            "It waited hard and untempered.",
            weight(waited),
            "Was it sound when it came out, and cracked the next morning? Then this.",
        )
        .given(waited > 1.05, 1.0, times(waited))
        .avoided("Temper within the hour, or hold it warm."),
        Suspect::new(
            "section",
            "Thin edge beside a thick spine: they shrink at different times.",
            weight(section),
            "Does the crack run in from the edge, square to it? Edge cracks say thin edge.",
        )
        .given(section > 1.05, 1.0, times(section))
        .avoided("Leave the edge thicker: 1 mm or more for water."),
        Suspect::new(
            "steel",
            "This steel makes brittle martensite late and cold.",
            weight(carbon),
            "Two coupons, one in a milder bath: if only the hard one cracks, mind the steel.",
        )
        .given(carbon > 1.05, 1.0, times(carbon))
        .avoided("A milder bath, or out of it while still warm to the hand."),
        Suspect::new(
            "flaw",
            "The bar had a flaw: a cold shut, a seam, a weld that did not take.",
            0.15,
            "A dark, scaled wall in the crack was there before the quench; a bright one was not.",
        )
        .avoided("Look at the bar's ends, grind off seams, forge hot enough."),
    ]
}

#[cfg(test)]
mod tests {
    use super::super::tests::Bench;
    use super::super::{Symptom, diagnose};
    use crate::finding::{After, Finding};

    #[test]
    fn an_oil_steel_cracked_in_water_is_the_water() {
        let bench = Bench::new("o1", "water");
        let causes = diagnose(&bench.case(), Symptom::Cracked).causes;
        assert!(
            ["medium", "severity"].contains(&causes[0].cause.as_str()),
            "{causes:#?}"
        );
        assert!(causes[0].fix.as_ref().unwrap().label.contains("oil"));
        let right = Bench::new("o1", "medium_oil");
        let mild = diagnose(&right.case(), Symptom::Cracked).causes;
        assert_ne!(mild[0].cause, "medium");
    }

    #[test]
    fn a_small_bend_is_the_hand_before_anything_else() {
        let mut bench = Bench::new("w2", "water");
        let usual = 0.8 * bench.outcomes.bend.side_mm_per_10_percent;
        bench.findings.push(Finding::Straight {
            after: After::Quench,
            places: vec![[90.0, usual]],
        });
        let causes = diagnose(&bench.case(), Symptom::Bent).causes;
        assert_eq!(causes[0].cause, "uneven_cooling", "{causes:#?}");
        // It had no clay, so that was not it.
        assert!(causes.iter().all(|c| c.cause != "uneven_clay"));
    }
}
