//! What is to be expected of the rungs of a ladder.

use crate::learning::Model;
use crate::material::steel::Steel;
use crate::prediction::predict::{StationNames, predict};
use crate::prediction::subject::Subject;
use crate::process::calibration::Corrections;
use crate::process::furnace::Furnace;
use crate::process::operator::Operator;
use crate::record::ladder::{Expected, Ladder};
use crate::record::reading::When;
use crate::simulation::physics::{Shift, of_section, section};
use std::sync::Arc;

/// The shop that a ladder is tried in.
#[derive(Debug, Clone, Copy)]
pub struct Shop<'a> {
    /// What was learned of it.
    pub model: &'a Model,
    /// What is known of its stations.
    pub corrections: &'a Arc<Corrections>,
    /// The fire the coupons are heated in.
    pub fire: Furnace,
    /// Who quenches them, when known.
    pub operator: Option<&'a Operator>,
}

/// What is to be expected of each rung, from cool to hot; empty where a coupon is no plate.
#[must_use]
pub fn expected(ladder: &Ladder, steel: &Steel, shop: Shop<'_>) -> Vec<Expected> {
    let Some(mut work) = ladder.coupon() else {
        return Vec::new();
    };
    work.furnace = shop.fire;
    let names = StationNames::default();
    let of = |rung| {
        let plan = ladder.plan(rung);
        let plan = plan.with_corrections(Arc::clone(shop.corrections));
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: ladder.treatment.tester,
            bar: None,
            operator: shop.operator,
        };
        let hardness = predict(subject, shop.model, &names, None).hardness;
        let alone = of_section(
            &plan,
            steel,
            &section(&plan, steel, &work),
            Shift::default(),
        );
        match ladder.when() {
            When::AsQuenched => Expected {
                physics_hrc: alone.as_quenched_hrc,
                hrc: hardness.as_quenched,
            },
            When::Tempered => Expected {
                physics_hrc: alone.tempered_hrc,
                hrc: hardness.tempered,
            },
        }
    };
    ladder.rungs.iter().map(of).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::units::{Celsius, Quantity};
    use crate::record::ladder::{Along, Found};

    fn told(ladder: &Ladder, of: &Steel) -> Vec<Expected> {
        let shop = Shop {
            model: &Model::default(),
            corrections: &Arc::default(),
            fire: Furnace::Kiln,
            operator: None,
        };
        expected(ladder, of, shop)
    }

    // The rungs of a ladder on a steel of the table agree with the published hardnesses of the table wherever they lie.
    #[test]
    fn a_coupon_of_the_table_tempers_as_the_table_has_it() {
        for key in ["1084", "o1", "a2"] {
            let of = Steel::built_in(key).unwrap();
            let mut ladder = Ladder::usual(Along::Tempers, of);
            // The table's values are of two tempers.
            ladder.treatment.times = 2;
            let said = told(&ladder, of);
            for (rung, said) in ladder.rungs.iter().zip(&said) {
                let table = of.typical_tempered_hrc(Celsius::clamped(rung.temperature_c));
                let off = said.physics_hrc - table;
                assert!(off.abs() < 1.0, "{key} {rung:?} {said:?} {table}");
                assert!(said.hrc.holds(table), "{key} {rung:?} {said:?} {table}");
            }
            assert!(said.windows(2).all(|w| w[0].physics_hrc > w[1].physics_hrc));
        }
    }

    #[test]
    fn tempers_say_the_temper_for_a_hardness() {
        let of = Steel::built_in("1084").unwrap();
        let mut ladder = Ladder::usual(Along::Tempers, of);
        let said = told(&ladder, of);
        for (rung, said) in ladder.rungs.iter_mut().zip(&said) {
            rung.values_hrc = vec![said.physics_hrc - 1.2];
        }
        let found = ladder.found(&said).unwrap();
        let Found::Tempers {
            offset_hrc,
            for_hrc,
        } = found
        else {
            panic!("{found:?}")
        };
        assert!((offset_hrc + 1.2).abs() < 1e-9);
        assert!(for_hrc.len() >= 3, "{for_hrc:?}");
        assert!(
            for_hrc
                .windows(2)
                .all(|w| w[0].0 > w[1].0 && w[0].1 < w[1].1)
        );
        let range = 150.0..=260.0;
        assert!(
            for_hrc.iter().all(|(_, t)| range.contains(t)),
            "{for_hrc:?}"
        );
    }
}
