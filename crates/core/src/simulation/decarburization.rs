//! Carbon lost from the skin while hot.
//!
//! Depth ≈ 1.3·√(D·t) with D = 2.3·10⁻⁵·exp(−148 kJ/mol / RT) m²/s for carbon in austenite (Wells,
//! Batz and Mehl 1950), times what atmosphere and protection let through.

use crate::material::dissolution::Dissolved;
use crate::material::steel::Steel;
use crate::process::protection::Protection;
use crate::process::step::{Step, heats};
use crate::quantity::units::Kelvins;
use crate::simulation::quench::ROOM_C;

/// Below this the steel holds too little carbon in solution to lose any, °C.
const FROM_C: f64 = 700.0;

/// Depth of skin that loses carbon, mm, over the heats of a plan up to the last quench. A coat or pouch
/// of the plan protects the heats after it.
#[must_use]
pub fn depth_mm(steps: &[Step], protection: Protection, kiln: Kelvins) -> f64 {
    let end = steps
        .iter()
        .rposition(|s| matches!(s, Step::Quench { .. }))
        .unwrap_or(steps.len());
    let mut now = protection;
    let mut sum = 0.0;
    for step in &steps[..end] {
        match step {
            Step::Coat {} => now = Protection::Coating,
            Step::Pouch {} => now = Protection::Foil,
            _ => {}
        }
        let Some((set, seconds)) = heats(std::slice::from_ref(step)).next() else {
            continue;
        };
        let t = set + kiln.value();
        if t >= FROM_C {
            // m² to mm²; half a minute on the way up counts as well.
            sum += now.factor().powi(2) * diffusivity(t) * 1e6 * (seconds + 30.0);
        }
    }
    1.3 * sum.sqrt()
}

/// Share of its carbon that the middle of a section keeps, 0 to 1, under a skin of `depth_mm` on either face: from
/// none at the face to all of it at the depth.
#[must_use]
pub fn carbon_left(depth_mm: f64, thickness_mm: f64) -> f64 {
    (0.5 * thickness_mm / depth_mm.max(1e-9)).clamp(0.0, 1.0)
}

/// Hardness of the middle of a fully hardened section before tempering, HRC, with such a skin.
#[must_use]
pub fn hard_hrc(steel: &Steel, dissolved: &Dissolved, depth_mm: f64, thickness_mm: f64) -> f64 {
    let share = carbon_left(depth_mm, thickness_mm);
    let left = dissolved.with_carbon(share * dissolved.composition.carbon);
    let kept = if share < 1.0 { &left } else { dissolved };
    steel.hardened_hrc(kept, kept.retained(ROOM_C), &[]).0
}

/// Diffusivity of carbon in austenite, m²/s.
fn diffusivity(t: f64) -> f64 {
    2.3e-5 * (-148e3 / (8.314 * (t + 273.15))).exp()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::tests::plan;

    fn soak(minutes: f64, t: f64) -> Vec<Step> {
        plan(&format!(
            r#"[{{"kind":"austenitize","temperature_c":{t},"soak_s":{}}},{{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}}]"#,
            minutes * 60.0
        ))
        .steps()
        .to_vec()
    }

    #[test]
    fn ten_minutes_in_a_bare_kiln_cost_a_tenth_of_a_millimetre() {
        let depth = depth_mm(&soak(10.0, 815.0), Protection::Bare, Kelvins::ZERO);
        assert!((0.03..0.15).contains(&depth), "{depth}");
    }

    #[test]
    fn a_thin_edge_is_as_soft_as_the_carbon_it_keeps() {
        let steel = Steel::built_in("1084").unwrap();
        let d = steel.nominal_dissolved();
        let at = |mm| hard_hrc(steel, &d, 0.1, mm);
        assert_eq!(at(0.2), at(4.0));
        assert!((at(4.0) - steel.nominal_hrc(ROOM_C).0).abs() < 1e-9);
        // Half the carbon of 0.84 %: martensite of 0.4 % carbon is 57 ± 2 HRC (Hodge and Orehoski 1946).
        assert!((55.0..59.5).contains(&at(0.1)), "{}", at(0.1));
        assert!(at(0.02) < at(0.06) && at(0.06) < at(0.1));
    }

    #[test]
    fn a_coat_of_the_plan_protects_what_comes_after_it() {
        let steps = |head: &str, middle: &str| {
            plan(&format!(
                r#"[{head}{{"kind":"normalize","temperature_c":870,"hold_s":300}},{middle}{{"kind":"austenitize","temperature_c":815,"soak_s":600}},{{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}}]"#
            ))
        };
        let depth =
            |p: crate::process::plan::Plan| depth_mm(p.steps(), Protection::Bare, Kelvins::ZERO);
        let bare = depth(steps("", ""));
        let late = depth(steps("", r#"{"kind":"coat"},"#));
        let early = depth(steps(r#"{"kind":"pouch"},"#, ""));
        assert!(early < late && late < bare, "{early} {late} {bare}");
    }

    #[test]
    fn hotter_and_longer_costs_more_and_protection_less() {
        let base = depth_mm(&soak(10.0, 815.0), Protection::Bare, Kelvins::ZERO);
        assert!(depth_mm(&soak(10.0, 900.0), Protection::Bare, Kelvins::ZERO) > base);
        assert!(depth_mm(&soak(40.0, 815.0), Protection::Bare, Kelvins::ZERO) > 1.8 * base);
        assert!(
            depth_mm(&soak(10.0, 815.0), Protection::ReducingForge, Kelvins::ZERO) < 0.5 * base
        );
        assert!(depth_mm(&soak(10.0, 815.0), Protection::Foil, Kelvins::ZERO) < 0.2 * base);
        assert_eq!(
            depth_mm(&soak(10.0, 600.0), Protection::Bare, Kelvins::ZERO),
            0.0
        );
    }
}
