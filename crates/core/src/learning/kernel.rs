//! The additive kernel: why two results should be off in the same way.

use super::record::Features;
use crate::process::plan::KILN_C;
use crate::record::reading::When;
use serde::{Deserialize, Serialize};

/// One reason for results to be off together.
#[derive(Debug, Clone, Copy, PartialEq, Eq, strum::VariantArray)]
pub enum KernelTerm {
    /// Everything this shop does.
    Shop,
    /// The hardness tester reads high or low.
    Tester,
    /// The steel differs from its typical numbers.
    Steel,
    /// This bar differs from others of its steel.
    Bar,
    /// The kiln or forge runs hotter or cooler than set.
    Kiln,
    /// The oven runs hotter or cooler than set.
    Oven,
    /// The steel transforms faster or slower than computed.
    Pace,
    /// This bath cools faster or slower than its kind.
    Tank,
    /// Who quenched.
    Operator,
    /// Physics is off at this temper temperature.
    Temper,
    /// Physics is off at this thickness.
    Thickness,
    /// This one blade.
    Blade,
}

impl KernelTerm {
    /// Every part.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;
}

/// One thing that makes a result unsure, and how much.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpreadPart {
    /// What.
    pub of: SpreadFrom,
    /// One standard deviation, HRC.
    pub hrc: f64,
}

/// What a result is unsure of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SpreadFrom {
    /// Typical numbers of the steel, or what formulas say of its analysis.
    Steel,
    /// How bars of it differ.
    Bar,
    /// Carbon that the standard leaves open.
    Analysis,
    /// How hot the fire really is.
    Fire,
    /// How well an eye or a magnet tells the heat.
    Eye,
    /// How hot the oven really is.
    Oven,
    /// How well an eye tells the colour of a temper.
    TemperColour,
    /// What the soak dissolves.
    Soak,
    /// How fast it transforms, where it hardens in part.
    Transformation,
    /// How fast the medium takes heat.
    Medium,
    /// How long it is in air on the way to the bath.
    Transfer,
    /// The temper curve.
    TemperCurve,
    /// The thickness.
    Thickness,
    /// What the shop does otherwise than others.
    Shop,
    /// The tester.
    Tester,
    /// Scatter from blade to blade.
    Blade,
    /// Scatter of readings.
    Reading,
}

/// Sizes of the parts, one standard deviation each, before any record is seen.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Scales {
    /// Shop bias, HRC.
    pub shop_hrc: f64,
    /// Tester bias, HRC.
    pub tester_hrc: f64,
    /// Steel bias as a multiple of the steel's own spread.
    pub steel: f64,
    /// Bar bias as a multiple of the steel's own spread.
    pub bar: f64,
    /// Kiln offset, °C.
    pub kiln_c: f64,
    /// Oven offset, °C.
    pub oven_c: f64,
    /// Bias of a bath, HRC.
    pub tank_hrc: f64,
    /// How much faster a bath takes heat than its kind, logarithm.
    pub tank_ln: f64,
    /// Bias of an operator, HRC.
    pub operator_hrc: f64,
    /// How much longer an operator takes to the bath than is planned, s.
    pub operator_s: f64,
    /// How much slower a steel transforms than computed, logarithm of time.
    pub pace_ln: f64,
    /// Carbon of a bar against its steel's, percent.
    pub bar_carbon_percent: f64,
    /// How much sooner or later carbides dissolve from blade to blade, logarithm of time.
    pub soak_ln: f64,
    /// Smooth bias over temper temperature, HRC.
    pub temper_hrc: f64,
    /// Smooth bias over thickness, HRC.
    pub thickness_hrc: f64,
    /// Scatter from blade to blade, HRC.
    pub blade_hrc: f64,
    /// Scatter of one reading, HRC.
    pub reading_hrc: f64,
    /// Scatter of a whole set of readings (surface, place, operator), HRC.
    pub set_hrc: f64,
}

impl Default for Scales {
    /// What a smith would expect of an unknown shop.
    fn default() -> Self {
        Self {
            shop_hrc: 0.25,
            tester_hrc: 0.5,
            steel: 1.0,
            bar: 0.35,
            kiln_c: KILN_C,
            oven_c: 7.0,
            tank_hrc: 0.2,
            tank_ln: 0.2,
            operator_hrc: 0.15,
            operator_s: 1.0,
            pace_ln: 0.5,
            bar_carbon_percent: 0.015,
            soak_ln: 0.4,
            temper_hrc: 0.3,
            thickness_hrc: 0.25,
            blade_hrc: 0.4,
            reading_hrc: 0.6,
            set_hrc: 0.25,
        }
    }
}

/// Length over which the bias at a temper temperature changes, °C.
const TEMPER_LENGTH_C: f64 = 70.0;
/// Length over which the bias at a thickness changes, mm.
const THICKNESS_LENGTH_MM: f64 = 2.5;

fn squared_exponential(distance: f64, length: f64) -> f64 {
    (-0.5 * (distance / length).powi(2)).exp()
}

impl Scales {
    /// Covariance that one part gives two results, HRC².
    #[must_use]
    pub fn part(&self, part: KernelTerm, a: &Features, b: &Features) -> f64 {
        let same = |equal: bool, variance: f64| if equal { variance } else { 0.0 };
        match part {
            KernelTerm::Shop => self.shop_hrc.powi(2),
            KernelTerm::Tester => same(a.tester == b.tester, self.tester_hrc.powi(2)),
            KernelTerm::Steel => same(
                a.steel == b.steel,
                self.steel.powi(2) * a.steel_spread_hrc * b.steel_spread_hrc,
            ),
            KernelTerm::Bar => same(a.bar.is_some() && a.bar == b.bar, self.bar_variance(a, b)),
            KernelTerm::Pace => same(
                a.steel == b.steel,
                self.pace_ln.powi(2) * a.quench.per_ln_pace * b.quench.per_ln_pace,
            ),
            KernelTerm::Kiln => same(
                a.kiln == b.kiln,
                self.kiln_c.powi(2) * a.per_kiln_c * b.per_kiln_c,
            ),
            KernelTerm::Oven => same(
                a.oven == b.oven,
                self.oven_c.powi(2) * a.per_oven_c * b.per_oven_c,
            ),
            KernelTerm::Tank => same(
                a.tank.is_some() && a.tank == b.tank,
                self.tank_hrc.powi(2)
                    + self.tank_ln.powi(2) * a.quench.per_ln_film * b.quench.per_ln_film,
            ),
            KernelTerm::Operator => same(
                a.operator == b.operator,
                self.operator_hrc.powi(2)
                    + self.operator_s.powi(2) * a.quench.per_transfer_s * b.quench.per_transfer_s,
            ),
            KernelTerm::Temper => match (a.temper_c, b.temper_c) {
                (Some(x), Some(y)) if a.when == When::Tempered && b.when == When::Tempered => {
                    self.temper_hrc.powi(2) * squared_exponential(x - y, TEMPER_LENGTH_C)
                }
                _ => 0.0,
            },
            KernelTerm::Thickness => {
                self.thickness_hrc.powi(2)
                    * squared_exponential(a.spine_mm - b.spine_mm, THICKNESS_LENGTH_MM)
            }
            KernelTerm::Blade => same(
                a.blade.is_some() && a.blade == b.blade,
                self.blade_variance(a, b),
            ),
        }
    }

    /// What two results of one bar have in common, HRC².
    fn bar_variance(&self, a: &Features, b: &Features) -> f64 {
        self.bar.powi(2) * a.steel_spread_hrc * b.steel_spread_hrc
            + self.bar_carbon_percent.powi(2)
                * a.quench.per_carbon_percent
                * b.quench.per_carbon_percent
    }

    /// What two results of one blade have in common, HRC²: scatter of its making, how its carbides
    /// dissolved, and what its heat was off.
    fn blade_variance(&self, a: &Features, b: &Features) -> f64 {
        self.blade_hrc.powi(2)
            + self.soak_ln.powi(2) * a.quench.per_ln_soak * b.quench.per_ln_soak
            + a.heat.once_hrc * b.heat.once_hrc
            + a.heat.rest_hrc * b.heat.rest_hrc
            + a.heat.temper_once_hrc * b.heat.temper_once_hrc
    }

    /// Covariance of two different results, HRC².
    #[must_use]
    pub fn covariance(&self, a: &Features, b: &Features) -> f64 {
        KernelTerm::ALL
            .iter()
            .map(|part| self.part(*part, a, b))
            .sum()
    }

    /// Variance of one result before any record and without the scatter of its reading, HRC².
    #[must_use]
    pub fn variance(&self, x: &Features) -> f64 {
        // A blade and a bar of which nothing else is known scatter all the same.
        let blade = match x.blade {
            None => self.blade_variance(x, x),
            Some(_) => 0.0,
        };
        let bar = match x.bar {
            None => self.bar_variance(x, x),
            Some(_) => 0.0,
        };
        self.covariance(x, x) + blade + bar
    }

    /// What makes a result unsure, as standard deviations, largest first; nothing below 0.05 HRC.
    #[must_use]
    pub fn spread_parts(&self, x: &Features, readings: usize) -> Vec<SpreadPart> {
        let q = &x.quench;
        let temper = match x.temper_c {
            Some(_) if x.when == When::Tempered => self.temper_hrc,
            _ => 0.0,
        };
        let mut all: Vec<SpreadPart> = [
            (SpreadFrom::Steel, self.steel * x.steel_spread_hrc),
            (SpreadFrom::Bar, self.bar * x.steel_spread_hrc),
            (
                SpreadFrom::Analysis,
                self.bar_carbon_percent * q.per_carbon_percent,
            ),
            (
                if x.heat.by_eye {
                    SpreadFrom::Eye
                } else {
                    SpreadFrom::Fire
                },
                (self.kiln_c * x.per_kiln_c)
                    .hypot(x.heat.once_hrc)
                    .hypot(x.heat.rest_hrc),
            ),
            (SpreadFrom::Oven, self.oven_c * x.per_oven_c),
            (SpreadFrom::TemperColour, x.heat.temper_once_hrc),
            (SpreadFrom::Soak, self.soak_ln * q.per_ln_soak),
            (SpreadFrom::Transformation, self.pace_ln * q.per_ln_pace),
            (
                SpreadFrom::Medium,
                (self.tank_ln * q.per_ln_film).hypot(self.tank_hrc),
            ),
            (
                SpreadFrom::Transfer,
                (self.operator_s * q.per_transfer_s).hypot(self.operator_hrc),
            ),
            (SpreadFrom::TemperCurve, temper),
            (SpreadFrom::Thickness, self.thickness_hrc),
            (SpreadFrom::Shop, self.shop_hrc),
            (SpreadFrom::Tester, self.tester_hrc),
            (SpreadFrom::Blade, self.blade_hrc),
            (SpreadFrom::Reading, self.noise(readings).sqrt()),
        ]
        .into_iter()
        .map(|(of, hrc)| SpreadPart { of, hrc: hrc.abs() })
        .filter(|d| d.hrc >= 0.05)
        .collect();
        all.sort_by(|a, b| b.hrc.total_cmp(&a.hrc));
        all
    }

    /// Variance of the mean of a set of readings, HRC².
    #[must_use]
    pub fn noise(&self, readings: usize) -> f64 {
        self.set_hrc.powi(2) + self.reading_hrc.powi(2) / readings.max(1) as f64
    }
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use uuid::Uuid;

    pub(crate) fn features(steel: &str, blade: Option<u128>, temper: Option<f64>) -> Features {
        Features {
            when: if temper.is_some() {
                When::Tempered
            } else {
                When::AsQuenched
            },
            blade: blade.map(Uuid::from_u128),
            steel: steel.to_owned(),
            steel_spread_hrc: 0.8,
            kiln: None,
            oven: Some(Uuid::from_u128(7)),
            tester: None,
            bar: None,
            tank: Some(crate::material::medium::Medium::FastOil),
            operator: None,
            temper_c: temper,
            spine_mm: 4.0,
            per_kiln_c: 0.01,
            heat: crate::learning::record::HeatSpread::default(),
            per_oven_c: if temper.is_some() { -0.06 } else { 0.0 },
            quench: crate::simulation::physics::QuenchSlopes::default(),
        }
    }

    #[test]
    fn more_alike_is_more_correlated() {
        let s = Scales::default();
        let a = features("1084", None, Some(205.0));
        let other_steel = features("w2", None, Some(205.0));
        let other_temper = features("1084", None, Some(400.0));
        let own = s.covariance(&a, &a);
        assert!(own > s.covariance(&a, &other_temper));
        assert!(s.covariance(&a, &other_temper) > s.covariance(&other_steel, &other_temper));
        assert_eq!(s.part(KernelTerm::Blade, &a, &a), 0.0);
        assert!(s.variance(&a) > own);
        assert!(s.noise(1) > s.noise(3));
    }
}
