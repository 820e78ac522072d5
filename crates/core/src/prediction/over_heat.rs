//! What a hardening heat that is not sure does to the line, the grain and the chance of a crack: the same quench from heats
//! across the doubt.

use crate::material::steel::Steel;
use crate::process::plan::Plan;
use crate::process::workpiece::Workpiece;
use crate::quantity::interval::{NINETY, upper_quantile};
use crate::quantity::units::Kelvins;
use crate::simulation::crack::Causes;
use crate::simulation::grain;
use crate::simulation::hamon::strip_mm;
use crate::simulation::heat::Heat;
use crate::simulation::physics::{NARROW_K, stages};
use crate::simulation::simulated::causes;
use crate::simulation::warp::blade::Chill;

/// Heats that the chance of a crack is the mean over, each as likely as the next.
const HEATS: usize = 5;

/// What a heat that is not sure does.
#[derive(Debug, Clone, PartialEq)]
pub struct OverHeat {
    /// How far the heat is known, one standard deviation, K.
    pub deviation_k: f64,
    /// What that is of the height of the line, one standard deviation, mm.
    pub line_mm: f64,
    /// What that is of the hardened share of the middle, one standard deviation, percent.
    pub middle_percent: f64,
    /// How much finer the coolest one in twenty is, and how much coarser the hottest, ASTM numbers.
    pub astm: (f64, f64),
    /// What speaks for a crack at each of several heats that are as likely as each other.
    pub causes: Vec<Causes>,
}

impl OverHeat {
    /// None where the heat is as sure as that of a kiln.
    #[must_use]
    pub fn of(work: &Workpiece, plan: &Plan, steel: &Steel, chill: Chill) -> Option<Self> {
        let doubt = plan.heat_doubt(work.furnace);
        let deviation_k = doubt.spread_c();
        if deviation_k <= NARROW_K {
            return None;
        }
        let at = |z: f64| Heat::new(work, plan, steel, Kelvins::of(z * deviation_k));
        let number = |heat: &Heat| grain::astm_number(heat.grain_um * 1e-3);
        let baths = stages(plan);
        let strip = |heat: &Heat| heat.across(&work.form, &work.clay, &baths);
        let (cool, hot) = (at(-1.0), at(1.0));
        let (cool, hot) = (strip(&cool), strip(&hot));
        let apart = |of: fn(&crate::simulation::quench::Quenched) -> f64| match (&cool, &hot) {
            (Some(cool), Some(hot)) => 0.5 * (of(hot) - of(cool)).abs(),
            _ => 0.0,
        };
        let planned = number(&at(0.0));
        let share = |i: usize| (i as f64 + 0.5) / HEATS as f64;
        let heats = (0..HEATS).map(|i| {
            // The middle one is the median itself.
            if 2 * i + 1 == HEATS {
                0.0
            } else if share(i) < 0.5 {
                -upper_quantile(share(i))
            } else {
                upper_quantile(1.0 - share(i))
            }
        });
        Some(Self {
            deviation_k,
            line_mm: apart(|q| strip_mm(q).unwrap_or(0.0)),
            middle_percent: 100.0 * apart(|q| q.mean_hardened()),
            astm: (
                (number(&at(-NINETY)) - planned).max(0.0),
                (planned - number(&at(NINETY))).max(0.0),
            ),
            causes: heats
                .map(|z| causes(work, plan, steel, &at(z), chill))
                .collect(),
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learning::bias_models::BiasModels;
    use crate::prediction::outcome::outcomes;
    use crate::process::furnace::Furnace;
    use crate::process::sighting::{Glow, Light, Sighting, Sign};
    use crate::process::step::Step;
    use crate::simulation::physics::tests::{blade, nominal};

    fn by_eye(plan: &Plan, light: Light) -> Plan {
        let mut steps = plan.steps().to_vec();
        for step in &mut steps {
            if let Step::Austenitize { by, .. } = step {
                let colour = Glow::BrightCherry;
                *by = Some(Sighting {
                    sign: Sign::Colour { colour, light },
                    eye_id: None,
                });
            }
        }
        plan.with_steps(steps)
    }

    #[test]
    fn a_kiln_leaves_nothing_open_and_an_eye_does() {
        let steel = Steel::built_in("w2").unwrap();
        let plan = nominal(steel, "fast_oil");
        let work = Workpiece::plain(&blade());
        let of = |plan: &Plan| OverHeat::of(&work, plan, steel, Chill::default());
        assert_eq!(of(&plan), None);
        let dim = of(&by_eye(&plan, Light::Dim)).unwrap();
        let daylight = of(&by_eye(&plan, Light::Daylight)).unwrap();
        assert!(daylight.deviation_k > dim.deviation_k);
        assert!(
            daylight.line_mm >= dim.line_mm && dim.line_mm > 0.1,
            "{dim:?}"
        );
        // Hotter coarsens more than cooler refines.
        assert!(dim.astm.1 > dim.astm.0 && dim.astm.1 > 0.3, "{dim:?}");
        let over = |c: &Causes| c.overheated;
        assert!(over(&dim.causes[HEATS - 1]) > over(&dim.causes[0]));
    }

    /// The same plan and fire but for the eye: intervals are wider, and the chance of a crack is the mean over the heats,
    /// which is more than that of the heat in the middle, since it rises ever faster.
    #[test]
    fn outcomes_say_what_the_eye_costs() {
        let steel = Steel::built_in("w2").unwrap();
        let plan = nominal(steel, "fast_oil");
        let work = Workpiece {
            furnace: Furnace::Forge,
            ..Workpiece::plain(&blade())
        };
        let none = BiasModels::default();
        let ask = |plan: &Plan| outcomes(&work, plan, steel, &none, 2.0, None).unwrap().0;
        // By eye at the heat of the plan itself.
        let seen = by_eye(&plan, Light::Daylight);
        let (sure, seen) = (
            {
                let kiln = Workpiece::plain(&blade());
                outcomes(&kiln, &plan, steel, &none, 2.0, None).unwrap().0
            },
            ask(&seen),
        );
        let width = |i: crate::quantity::interval::Interval| i.high - i.low;
        assert!(width(seen.ranges.grain_astm) > 1.2 * width(sure.ranges.grain_astm));
        assert!(seen.crack.probability > sure.crack.probability);
        if let (Some(seen), Some(sure)) = (seen.ranges.hamon_mm, sure.ranges.hamon_mm) {
            assert!(width(seen) > width(sure));
        }
    }
}
