//! A first plan for a steel and a wanted hardness: where a smith starts before making it their own.

use crate::geometry::blade::Blade;
use crate::material::medium::Medium;
use crate::material::steel::{Hardening, Steel, SubZero};
use crate::material::temper::HOTTEST_C;
use crate::process::change::DRY_ICE_C;
use crate::process::plan::{Plan, Stations};
use crate::process::step::{Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Quantity, Seconds};
use crate::simulation::physics::section;

/// The usual treatment: three falling normalizing heats where the steel takes them, nominal
/// austenitize, `medium` (or the mildest that hardens this blade), sub-zero where it belongs, and two
/// tempers of two hours for the middle of `target` (HRC).
#[must_use]
pub fn usual(
    steel: &Steel,
    blade: &Blade,
    medium: Option<Medium>,
    target: (f64, f64),
    at: Stations,
) -> Plan {
    let mut steps = Vec::new();
    if let Some(first) = steel.normalize {
        let nominal = steel.austenitize.nominal.value();
        let low = nominal.min(first.value());
        let middle = 5.0 * ((0.5 * (first.value() + low)) / 5.0).round();
        for t in [first.value(), middle, low] {
            steps.push(Step::Normalize {
                temperature_c: Celsius::clamped(t.round()),
                hold_s: Seconds::clamped(120.0),
                by: None,
            });
        }
    }
    steps.push(Step::Austenitize {
        temperature_c: Celsius::clamped(steel.austenitize.nominal.value().round()),
        soak_s: steel.soak,
        station_id: at.kiln,
        by: None,
        fire: None,
    });
    let stages = match medium {
        Some(medium) => vec![Stage::until_cold(medium)],
        None => mildest(steel, blade, &steps),
    };
    steps.push(Step::Quench { stages });
    if steel.sub_zero == SubZero::Yes {
        steps.push(Step::SubZero {
            bath: None,
            until_c: None,
            temperature_c: Celsius::clamped(DRY_ICE_C),
            hold_s: Seconds::clamped(7200.0),
            wait_s: Seconds::clamped(0.0),
        });
    }
    let wanted = 0.5 * (target.0 + target.1);
    let found =
        steel
            .typical()
            .temper_for(wanted, Celsius::clamped(150.0), Celsius::clamped(HOTTEST_C));
    let temperature = found.map_or(if wanted > 55.0 { 150.0 } else { 540.0 }, |t| {
        5.0 * (t.value() / 5.0).round()
    });
    steps.push(Step::Temper {
        by: None,
        blades: None,
        clamp: None,
        cooled: None,
        temperature_c: Celsius::clamped(temperature),
        hold_s: Seconds::clamped(7200.0),
        times: 2,
        station_id: at.oven,
    });
    Plan::stored(steps)
}

/// Seconds in the water before the oil, to start from.
const WATER_S: f64 = 2.0;
/// Share hardened where the blade is read that counts as hard.
const HARD: f64 = 0.9;

/// The mildest quench that hardens the blade where it is read: fast oil for a water steel when the
/// section allows it, water then oil when not, otherwise the steel's first medium.
fn mildest(steel: &Steel, blade: &Blade, heats: &[Step]) -> Vec<Stage> {
    let first = steel.media.first().copied().unwrap_or(Medium::FastOil);
    if steel.hardening != Hardening::Water {
        return vec![Stage::until_cold(first)];
    }
    let oil = vec![Stage::until_cold(Medium::FastOil)];
    let mut steps = heats.to_vec();
    steps.push(Step::Quench {
        stages: oil.clone(),
    });
    let section = section(&Plan::stored(steps), steel, &Workpiece::plain(blade));
    if steel.media.contains(&Medium::FastOil) && section.reading.face.hardened() >= HARD {
        oil
    } else if steel.water_then_oil {
        let water = Stage {
            for_s: Some(Seconds::clamped(WATER_S)),
            ..Stage::until_cold(Medium::Water)
        };
        vec![water, oil[0]]
    } else {
        vec![Stage::until_cold(first)]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::{Shift, physics, tests::blade};

    #[test]
    fn every_steel_gets_a_plan_that_reaches_a_sensible_hardness() {
        for steel in Steel::table()
            .iter()
            .filter(|s| s.hardening != Hardening::NotHardenable)
        {
            let top = steel.typical_tempered_hrc(Celsius::clamped(160.0));
            let target = (top - 3.0, top - 2.0);
            let plan = usual(steel, &blade(), None, target, Stations::default());
            let got = physics(&plan, steel, &blade(), Shift::default());
            let off = got.tempered_hrc - 0.5 * (target.0 + target.1);
            assert!(off.abs() < 2.0, "{}: {off}", steel.name);
            assert!(plan.last_quench().is_some());
        }
    }

    #[test]
    fn a_shallow_steel_goes_into_water_first_and_a_deeper_one_into_oil() {
        let first = |steel: &str, spine_mm: f64| {
            let blade = Blade {
                spine_mm,
                ..blade()
            };
            let steel = Steel::built_in(steel).unwrap();
            let plan = usual(steel, &blade, None, (60.0, 61.0), Stations::default());
            crate::simulation::physics::stages(&plan)[0].medium
        };
        assert_eq!(first("w1", 6.0), Medium::Water);
        assert_eq!(first("1084", 4.0), Medium::FastOil);
        assert_eq!(first("o1", 4.0), Medium::MediumOil);
    }

    #[test]
    fn an_unreachable_hardness_gets_the_coolest_temper() {
        let plan = usual(
            Steel::built_in("5160").unwrap(),
            &blade(),
            None,
            (66.0, 68.0),
            Stations::default(),
        );
        assert!(
            matches!(plan.steps().last(), Some(Step::Temper { temperature_c, .. }) if temperature_c.value() == 150.0)
        );
    }
}
