//! A first plan for a steel and a wanted hardness: where a smith starts before making it their own.

use crate::medium::Medium;
use crate::plan::{Plan, Stage, Stations, Step};
use crate::steel::{Hardening, Steel, SubZero};
use crate::temper;
use crate::units::{Celsius, Quantity, Seconds};

/// The usual treatment: three falling normalizing heats where the steel takes them, nominal
/// austenitize, `medium` (or its first), sub-zero where it belongs, and two tempers of two hours for
/// the middle of `target` (HRC).
#[must_use]
pub fn usual(steel: &Steel, medium: Option<Medium>, target: (f64, f64), at: Stations) -> Plan {
    let mut steps = Vec::new();
    if let Some(first) = steel.normalize {
        let nominal = steel.austenitize.nominal.value();
        let low = nominal.min(first.value());
        let middle = 5.0 * ((0.5 * (first.value() + low)) / 5.0).round();
        for t in [first.value(), middle, low] {
            steps.push(Step::Normalize {
                temperature_c: Celsius::clamped(t.round()),
                hold_s: Seconds::clamped(120.0),
            });
        }
    }
    steps.push(Step::Austenitize {
        temperature_c: Celsius::clamped(steel.austenitize.nominal.value().round()),
        soak_s: steel.soak,
        station_id: at.kiln,
    });
    let medium = medium
        .or_else(|| {
            // Most water steels are safest in fast oil when the section allows it.
            let oil = steel.media.contains(&Medium::FastOil) && steel.hardening == Hardening::Water;
            if oil {
                Some(Medium::FastOil)
            } else {
                steel.media.first().copied()
            }
        })
        .unwrap_or(Medium::FastOil);
    steps.push(Step::Quench {
        stages: vec![Stage::of(medium)],
    });
    if steel.sub_zero == SubZero::Yes {
        steps.push(Step::SubZero {
            temperature_c: Celsius::clamped(-75.0),
            hold_s: Seconds::clamped(7200.0),
            wait_s: Seconds::clamped(0.0),
        });
    }
    let wanted = 0.5 * (target.0 + target.1);
    let temperature = temper::temperature_for(
        wanted,
        Celsius::clamped(150.0),
        Celsius::clamped(540.0),
        |t| steel.typical_tempered_hrc(t),
    )
    .map_or(if wanted > 55.0 { 150.0 } else { 540.0 }, |t| {
        5.0 * (t.value() / 5.0).round()
    });
    steps.push(Step::Temper {
        temperature_c: Celsius::clamped(temperature),
        hold_s: Seconds::clamped(7200.0),
        times: 2,
        station_id: at.oven,
    });
    Plan::stored(steps)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::physics::{Shift, physics, tests::blade};

    #[test]
    fn every_steel_gets_a_plan_that_reaches_a_sensible_hardness() {
        for steel in Steel::table()
            .iter()
            .filter(|s| s.hardening != Hardening::NotHardenable)
        {
            let top = steel.typical_tempered_hrc(Celsius::clamped(160.0));
            let target = (top - 3.0, top - 2.0);
            let plan = usual(steel, None, target, Stations::default());
            let got = physics(&plan, steel, &blade(), Shift::default());
            let off = got.tempered_hrc - 0.5 * (target.0 + target.1);
            // Shallow water steels lose a little at the reading spot of a 4 mm blade in oil.
            assert!(off.abs() < 2.0, "{}: {off}", steel.name);
            assert!(plan.last_quench().is_some());
        }
    }

    #[test]
    fn an_unreachable_hardness_gets_the_coolest_temper() {
        let plan = usual(
            Steel::built_in("5160").unwrap(),
            None,
            (66.0, 68.0),
            Stations::default(),
        );
        assert!(
            matches!(plan.steps().last(), Some(Step::Temper { temperature_c, .. }) if temperature_c.value() == 150.0)
        );
    }
}
