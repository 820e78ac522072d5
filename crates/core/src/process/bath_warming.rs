//! How warm a bath gets from a hot bar that is held in it, and from the blades that are quenched in it.

use crate::material::medium::Medium;
use crate::material::properties::{PEARLITE_HEAT, heat_content};
use crate::process::step::Stage;
use crate::quantity::units::{Celsius, Kilograms, Litres, Quantity};
use serde::{Deserialize, Serialize};

/// Steel above this is austenite and gives off the heat of its transformation too, °C.
const AUSTENITE_C: f64 = 730.0;

/// How warm a bath gets.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BathWarmth {
    /// Once all of the heat is in it, °C.
    pub after_c: f64,
    /// Hotter than this it is not worked with, °C: oil smokes and burns, water boils.
    pub most_c: f64,
    /// It gets hotter than that.
    pub too_hot: bool,
}

/// How warm `litres` of `medium` get from `bath_c` by so much steel of `steel_c` that is left in until both are as warm,
/// with nothing lost to the air. None of what is no bath.
#[must_use]
pub fn warmed(
    medium: Medium,
    litres: Litres,
    bath_c: Celsius,
    (steel, steel_c): (Kilograms, Celsius),
) -> Option<BathWarmth> {
    let stage = Stage {
        litres: Some(litres),
        ..Stage::until_cold(medium)
    };
    let capacity = stage.capacity_j_k()?;
    let (bath, hot) = (bath_c.value(), steel_c.value());
    let turns = if hot > AUSTENITE_C {
        PEARLITE_HEAT
    } else {
        0.0
    };
    let content = heat_content(hot) + turns;
    // What the steel gives off down to t less what the bath takes up to it: falls with t.
    let left = |t: f64| steel.value() * (content - heat_content(t)) - capacity * (t - bath);
    let (mut low, mut high) = (bath.min(hot), bath.max(hot) + 200.0);
    for _ in 0..60 {
        let middle = 0.5 * (low + high);
        if left(middle) > 0.0 {
            low = middle;
        } else {
            high = middle;
        }
    }
    let after_c = 0.5 * (low + high);
    let most_c = medium.bath_range_c().1;
    Some(BathWarmth {
        after_c,
        most_c,
        too_hot: after_c > most_c,
    })
}

/// How warm a bath gets from blade to blade.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BladeByBlade {
    /// After the first, °C.
    pub first_c: f64,
    /// After the fifth, °C.
    pub fifth_c: f64,
    /// After so many it is hotter than it is worked with; none within [`MOST_BLADES`].
    pub too_hot_after: Option<u32>,
}

/// Blades that are looked at, one after another.
pub const MOST_BLADES: u32 = 30;

/// How warm the bath of a stage gets from blades of so much steel from `heat`, each left in until it is as warm as the bath,
/// with nothing lost to the air between. None where the stage says not how much there is of it, or is no bath.
#[must_use]
pub fn blade_by_blade(stage: &Stage, steel: Kilograms, heat: Celsius) -> Option<BladeByBlade> {
    let (litres, most_c) = (stage.litres?, stage.medium.bath_range_c().1);
    let at_once = f64::from(stage.blades.unwrap_or(1).max(1));
    let load = Kilograms::clamped(at_once * steel.value());
    let mut bath = stage.bath_c;
    let mut after = Vec::with_capacity(MOST_BLADES as usize);
    for _ in 0..MOST_BLADES {
        let warm = warmed(stage.medium, litres, bath, (load, heat))?;
        after.push(warm.after_c);
        if warm.too_hot && after.len() >= 5 {
            break;
        }
        bath = Celsius::clamped(warm.after_c);
    }
    let too_hot = after.iter().position(|c| *c > most_c);
    Some(BladeByBlade {
        first_c: *after.first()?,
        fifth_c: *after.get(4)?,
        too_hot_after: too_hot.and_then(|i| u32::try_from(i + 1).ok()),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rise(kg: f64, bar_c: f64, litres: f64, bath_c: f64) -> BathWarmth {
        warmed(
            Medium::MediumOil,
            Litres::clamped(litres),
            Celsius::clamped(bath_c),
            (Kilograms::clamped(kg), Celsius::clamped(bar_c)),
        )
        .unwrap()
    }

    #[test]
    fn heat_is_conserved() {
        // 1 kg from 700 °C into 10 l: what it gives off is what the oil takes up.
        let after = rise(1.0, 700.0, 10.0, 20.0).after_c;
        let given = heat_content(700.0) - heat_content(after);
        assert!((given - 17_500.0 * (after - 20.0)).abs() < 1.0, "{after}");
        // About 25 degrees, as smiths find with a bar of a kilogram in a bucket.
        assert!((40.0..46.0).contains(&after), "{after}");
    }

    #[test]
    fn more_steel_hotter_steel_and_less_oil_warm_it_more() {
        let after = |kg, bar, litres| rise(kg, bar, litres, 20.0).after_c;
        assert!(after(2.0, 700.0, 10.0) > after(1.0, 700.0, 10.0));
        assert!(after(1.0, 900.0, 10.0) > after(1.0, 700.0, 10.0));
        assert!(after(1.0, 700.0, 5.0) > after(1.0, 700.0, 10.0));
    }

    #[test]
    fn a_kilogram_in_half_a_litre_sets_the_oil_on_fire() {
        let hot = rise(1.0, 1300.0, 0.5, 20.0);
        assert!(hot.too_hot && hot.after_c > 300.0, "{hot:?}");
        assert!(!rise(1.0, 700.0, 10.0, 20.0).too_hot);
    }

    #[test]
    fn five_blades_warm_it_as_five_times_the_steel_does() {
        let stage = Stage {
            litres: Some(Litres::clamped(12.0)),
            ..Stage::until_cold(Medium::MediumOil)
        };
        let (kg, heat) = (Kilograms::clamped(0.3), Celsius::clamped(815.0));
        let found = blade_by_blade(&stage, kg, heat).unwrap();
        assert!(found.first_c > 55.0 && found.fifth_c > found.first_c);
        // All at once ends as warm as one after another: heat is conserved, but for what the earlier ones take along as
        // they come out warm.
        let all = (Kilograms::clamped(1.5), heat);
        let at_once = warmed(stage.medium, stage.litres.unwrap(), stage.bath_c, all).unwrap();
        assert!(
            (found.fifth_c - at_once.after_c).abs() < 3.0,
            "{found:?} {at_once:?}"
        );
        let after = found.too_hot_after.unwrap();
        assert!((6..MOST_BLADES).contains(&after), "{found:?}");
        assert_eq!(
            blade_by_blade(&Stage::until_cold(Medium::MediumOil), kg, heat),
            None
        );
        let bucket = Stage {
            litres: Some(Litres::clamped(1.0)),
            ..stage
        };
        assert_eq!(
            blade_by_blade(&bucket, kg, heat).unwrap().too_hot_after,
            Some(1)
        );
    }

    #[test]
    fn air_and_plates_are_no_bath() {
        let at = Celsius::clamped(20.0);
        let steel = (Kilograms::clamped(1.0), Celsius::clamped(800.0));
        assert_eq!(
            warmed(Medium::Plates, Litres::clamped(5.0), at, steel),
            None
        );
    }
}
