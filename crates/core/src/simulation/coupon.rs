//! A coupon: a small plate of a steel, heated, quenched and filed where it is thickest.

use crate::geometry::blade::{Blade, BladeDraft};
use crate::material::dissolution::dissolve;
use crate::material::medium::Medium;
use crate::material::steel::Steel;
use crate::process::step::{Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Kelvins, Millimetres, Seconds};
use crate::simulation::grain;
use crate::simulation::heat::Heat;
use crate::simulation::transformation::Kinetics;
use std::sync::LazyLock;

/// What a coupon went through.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Coupon {
    /// How thick it is.
    pub thickness: Millimetres,
    /// How hot it was.
    pub heat: Celsius,
    /// How long.
    pub soak: Seconds,
    /// What it was cooled in, at its usual temperature.
    pub medium: Medium,
}

/// A plate is cut out of the form of this: its own sizes do not matter.
static PLATE: LazyLock<Option<Workpiece>> = LazyLock::new(|| {
    let draft = BladeDraft {
        length_mm: Some(80.0),
        width_mm: Some(20.0),
        spine_mm: Some(5.0),
        edge_mm: Some(5.0),
        ..BladeDraft::default()
    };
    let blade: Option<Blade> = Blade::parse(&draft).ok();
    blade.map(|b| Workpiece::plain(&b))
});

impl Coupon {
    /// Hardness at its face once it is cold, HRC; 0 where it cannot be computed.
    #[must_use]
    pub fn hrc(&self, steel: &Steel) -> f64 {
        let Some(work) = PLATE.as_ref() else {
            return 0.0;
        };
        let before = steel.usual_structure();
        let dissolved = dissolve(&steel.limits(), self.heat, self.soak, before);
        let heated = [Step::Austenitize {
            temperature_c: self.heat,
            soak_s: self.soak,
            station_id: None,
            by: None,
            fire: None,
        }];
        let grain_um = grain::at_quench_um(&heated, steel, Kelvins::ZERO);
        let kinetics = Kinetics::new(
            &dissolved.composition,
            steel.ac1_c,
            grain::astm_number(grain_um * 1e-3),
            dissolved.martensite_start_c,
        );
        let heat = Heat {
            temperature: self.heat,
            structure: before,
            dissolved,
            grain_um,
            kinetics,
            heating_s: 0.0,
            tip_hotter: Kelvins::ZERO,
        };
        let stages = [Stage::until_cold(self.medium)];
        let Some(through) = heat.plate(&work.form, &stages, self.thickness.value()) else {
            return 0.0;
        };
        let (hard, _) = steel.hardened_hrc(&dissolved, dissolved.retained(20.0), &[]);
        let face = through
            .face
            .with_never(1.0 - dissolved.austenite, dissolved.soft_hv);
        face.hrc(hard)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::units::Quantity;
    use rstest::rstest;

    fn hrc(steel: &str, mm: f64, heat: f64, medium: Medium) -> f64 {
        let coupon = Coupon {
            thickness: Millimetres::clamped(mm),
            heat: Celsius::clamped(heat),
            soak: Seconds::clamped(300.0),
            medium,
        };
        coupon.hrc(Steel::built_in(steel).unwrap())
    }

    // What is known of these steels: the hardness of the table where they harden, soft where they do not.
    #[rstest]
    #[case("1084", 3.0, 815.0, Medium::FastOil, 62.0, 66.0)]
    #[case("1084", 3.0, 700.0, Medium::Water, 0.0, 40.0)]
    #[case("1018", 3.0, 850.0, Medium::VegetableOil, 0.0, 45.0)]
    #[case("5160", 5.0, 835.0, Medium::VegetableOil, 60.0, 64.0)]
    #[case("w1", 10.0, 795.0, Medium::SlowOil, 0.0, 50.0)]
    #[case("w1", 5.0, 795.0, Medium::Water, 63.0, 68.0)]
    #[case("a2", 5.0, 955.0, Medium::StillAir, 60.0, 66.0)]
    #[case("1084", 5.0, 815.0, Medium::StillAir, 0.0, 45.0)]
    fn it_comes_out_as_the_steel_does(
        #[case] steel: &str,
        #[case] mm: f64,
        #[case] heat: f64,
        #[case] medium: Medium,
        #[case] low: f64,
        #[case] high: f64,
    ) {
        let got = hrc(steel, mm, heat, medium);
        assert!((low..=high).contains(&got), "{got}");
    }
}
