//! The manner of a step, beside its temperatures and times: how a blade goes into a bath, between which plates it
//! lies, in what it cools, what makes the cold. Where physics knows what it does it counts; where not it is kept.

use crate::quantity::units::{Millimetres, Quantity};
use crate::quantity::validation::{Checker, Faults, named};
use serde::{Deserialize, Serialize};

macro_rules! named_enum {
    ($(#[$doc:meta])* $name:ident as $message:literal { $($(#[$variant_doc:meta])* $variant:ident,)* }) => {
        #[derive(
            Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize,
            strum::IntoStaticStr, strum::VariantArray,
        )]
        #[strum(serialize_all = "snake_case")]
        #[serde(rename_all = "snake_case")]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        $(#[$doc])*
        pub enum $name {
            $($(#[$variant_doc])* $variant,)*
        }

        impl $name {
            /// Finds one by its identifier.
            ///
            /// # Errors
            /// A fault at `field` that lists them.
            pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
                named(field, text, || $message.to_owned())
            }
        }
    };
}

named_enum!(
    /// How a blade goes into a bath. Where it lay at an angle the check before the fire says what that costs; the way it
    /// goes in is kept.
    #[cfg_attr(feature = "schema", schema(as = BathEntry))]
    Entry as "A blade does not go in like that." {
        /// Point first, upright.
        TipFirst,
        /// Edge first, level.
        EdgeFirst,
        /// Back first, level.
        SpineFirst,
        /// Flat on its side.
        Flat,
        /// Slanting, point and edge together.
        Slanting,
    }
);

named_enum!(
    /// What plates are of.
    PlateMetal as "Plates are not made of that." {
        /// Aluminium.
        Aluminium,
        /// Copper.
        Copper,
        /// Brass.
        Brass,
        /// Steel.
        Steel,
    }
);

named_enum!(
    /// In what a blade cools after a temper.
    Cooled as "A blade does not cool in that." {
        /// In air, as usual.
        Air,
        /// In the oven that is shut off.
        Oven,
        /// In water.
        Water,
    }
);

named_enum!(
    /// What makes the cold.
    ColdBath as "Nothing is cooled with that." {
        /// A freezer.
        Freezer,
        /// Dry ice in alcohol.
        DryIceAlcohol,
        /// Dry ice in acetone.
        DryIceAcetone,
        /// Liquid nitrogen, or its vapour.
        Nitrogen,
    }
);

named_enum!(
    /// In what an annealed blade cools.
    Bed as "A blade does not cool in that." {
        /// In the fire that is shut down.
        Furnace,
        /// In ash or lime.
        Ash,
        /// In vermiculite.
        Vermiculite,
    }
);

/// A blade clamped to a straight bar in the temper.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = TemperClamp))]
pub struct Clamp {
    /// How far past straight a shim holds it, 0.01 to 20 mm; straight when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shim_mm: Option<Millimetres>,
}

/// The plates a blade is quenched between.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = QuenchPlates))]
pub struct Plates {
    /// What they are of.
    pub metal: PlateMetal,
    /// How thick each is, 2 to 200 mm.
    pub thickness_mm: Millimetres,
    /// It lies on one slab, air above it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub one_slab: bool,
    /// Air is blown along them; kept, since where plates touch it takes next to nothing.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub with_air: bool,
}

/// Plates as written by a caller.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlatesDraft {
    /// What they are of.
    #[cfg_attr(feature = "schema", schema(value_type = PlateMetal))]
    pub metal: String,
    /// How thick each is, 2 to 200 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 2, maximum = 200))]
    pub thickness_mm: f64,
    /// It lies on one slab, air above it.
    #[serde(default)]
    pub one_slab: bool,
    /// Air is blown along them.
    #[serde(default)]
    pub with_air: bool,
}

/// Thinnest and thickest plates, mm.
const THICKNESS_MM: (f64, f64) = (2.0, 200.0);

impl PlatesDraft {
    pub(super) fn parse(&self) -> Result<Plates, Faults> {
        let mut c = Checker::default();
        let metal = c.take(PlateMetal::parse("metal", &self.metal));
        let (thin, thick) = THICKNESS_MM;
        if !(thin..=thick).contains(&self.thickness_mm) {
            let message = "Plates are not so thick.";
            let unit = Millimetres::UNIT;
            c.refuse_outside("thickness_mm", message, (thin, thick), unit);
        }
        c.finish(metal.map(|metal| Plates {
            metal,
            thickness_mm: Millimetres::clamped(self.thickness_mm),
            one_slab: self.one_slab,
            with_air: self.with_air,
        }))
    }
}

/// Contact that matters for hardening lasts about so long, s: a blade of 3 mm is below the start of martensite by
/// then.
const CONTACT_S: f64 = 10.0;
/// Beyond this Fourier number a plate warms through evenly.
const WARM_THROUGH: f64 = 0.3;

impl PlateMetal {
    /// Conductivity, W/mK; density, kg/m³; specific heat, J/kgK: Incropera and DeWitt 2007, table A.1 (aluminium
    /// 6061, pure copper, cartridge brass, plain carbon steel, at 300 K).
    const fn properties(self) -> (f64, f64, f64) {
        match self {
            Self::Aluminium => (167.0, 2700.0, 896.0),
            Self::Copper => (401.0, 8933.0, 385.0),
            Self::Brass => (110.0, 8530.0, 380.0),
            Self::Steel => (60.5, 7854.0, 434.0),
        }
    }
}

impl Plates {
    /// What the films of plates are tabulated for: aluminium of an inch.
    pub const USUAL: Self = Self {
        metal: PlateMetal::Aluminium,
        thickness_mm: Millimetres::INCH,
        one_slab: false,
        with_air: false,
    };

    /// How far the face of a plate has warmed by then for each W/m² that goes in, m²K/W: of a thick body under
    /// constant flux 2√(t/π)/√(kρc), of a plate that is warm through t/(ρcd) + d/3k (Carslaw and Jaeger 1959, 2.9
    /// and 3.8; Incropera and DeWitt, 5.7).
    #[must_use]
    pub fn resistance(&self) -> f64 {
        let (k, rho, c) = self.metal.properties();
        let d = 1e-3 * self.thickness_mm.value();
        let fourier = k / (rho * c) * CONTACT_S / (d * d);
        if fourier > WARM_THROUGH {
            CONTACT_S / (rho * c * d) + d / (3.0 * k)
        } else {
            2.0 * (CONTACT_S / std::f64::consts::PI).sqrt() / (k * rho * c).sqrt()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plates(metal: PlateMetal, mm: f64) -> Plates {
        Plates {
            metal,
            thickness_mm: Millimetres::clamped(mm),
            ..Plates::USUAL
        }
    }

    #[test]
    fn a_plate_warms_as_the_series_solution_says() {
        // Under constant flux, other face insulated: Carslaw and Jaeger 1959, 3.8 (3), at the heated face.
        let series = |p: Plates| {
            let (k, rho, c) = p.metal.properties();
            let d = 1e-3 * p.thickness_mm.value();
            let fo = k / (rho * c) * CONTACT_S / (d * d);
            let pi = std::f64::consts::PI;
            let sum: f64 = (1..2000)
                .map(|n| {
                    let n2 = f64::from(n * n);
                    (-n2 * pi * pi * fo).exp() / n2
                })
                .sum();
            d / k * (fo + 1.0 / 3.0 - 2.0 / (pi * pi) * sum)
        };
        for metal in <PlateMetal as strum::VariantArray>::VARIANTS {
            for mm in [3.0, 6.0, 12.0, 25.0, 40.0, 80.0] {
                let p = plates(*metal, mm);
                let off = p.resistance() / series(p) - 1.0;
                assert!(off.abs() < 0.03, "{metal:?} {mm}: {off}");
            }
        }
    }

    #[test]
    fn thin_plates_and_steel_ones_take_less() {
        let r = |metal, mm| plates(metal, mm).resistance();
        assert!(r(PlateMetal::Aluminium, 5.0) > 2.0 * r(PlateMetal::Aluminium, 25.0));
        assert!(r(PlateMetal::Steel, 25.0) > r(PlateMetal::Aluminium, 25.0));
        assert!(r(PlateMetal::Copper, 25.0) < r(PlateMetal::Aluminium, 25.0));
    }
}
