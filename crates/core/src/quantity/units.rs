//! The quantities of the trade as types: a number that is inside its allowed range and cannot be NaN.

use crate::quantity::validation::{Faults, Unit};
use serde::{Deserialize, Serialize};

/// A number with a unit and an allowed range.
pub trait Quantity: Copy + Sized {
    /// Smallest and largest allowed value, in the unit of the type.
    const RANGE: (f64, f64);
    /// The unit.
    const UNIT: Unit;

    /// Wraps a number already known to be inside [`Self::RANGE`]; clamps it if it is not.
    #[must_use]
    fn clamped(value: f64) -> Self;

    /// Checks a number for the named field.
    ///
    /// # Errors
    /// The number is not finite or lies outside [`Self::RANGE`].
    fn check(field: &str, value: f64) -> Result<Self, Faults> {
        if value.is_finite() && value >= Self::RANGE.0 && value <= Self::RANGE.1 {
            Ok(Self::clamped(value))
        } else {
            let message = "This is outside what is possible.";
            Err(Faults::outside(field, message, Self::RANGE, Self::UNIT))
        }
    }

    /// Checks a number that must be there.
    ///
    /// # Errors
    /// As [`Quantity::check`], or the number is missing.
    fn need(field: &str, value: Option<f64>) -> Result<Self, Faults> {
        match value {
            Some(value) => Self::check(field, value),
            None => {
                let message = "This is needed.";
                Err(Faults::outside(field, message, Self::RANGE, Self::UNIT))
            }
        }
    }
}

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident, $unit:expr, $low:expr, $high:expr) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize)]
        #[serde(try_from = "f64", into = "f64")]
        #[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
        #[cfg_attr(feature = "schema", schema(value_type = f64))]
        pub struct $name(f64);

        impl $name {
            /// The plain number, in the unit of the type.
            #[must_use]
            pub const fn value(self) -> f64 {
                self.0
            }
        }

        impl Quantity for $name {
            const RANGE: (f64, f64) = ($low, $high);
            const UNIT: Unit = $unit;
            fn clamped(value: f64) -> Self {
                Self(if value.is_nan() { $low } else { value.clamp($low, $high) })
            }
        }

        impl TryFrom<f64> for $name {
            type Error = Faults;
            fn try_from(value: f64) -> Result<Self, Faults> {
                Self::check("", value)
            }
        }

        impl From<$name> for f64 {
            fn from(value: $name) -> f64 {
                value.0
            }
        }
    };
}

quantity!(
    /// A temperature, °C, −200 (liquid nitrogen) to 1300 (beyond any blade steel's treatment).
    Celsius, Unit::Celsius, -200.0, 1300.0
);
quantity!(
    /// A duration, seconds, up to a week.
    Seconds, Unit::Second, 0.0, 604_800.0
);
quantity!(
    /// A length of a blade, millimetres, from 0.01 mm to a metre.
    Millimetres, Unit::Millimetre, 0.01, 1000.0
);
quantity!(
    /// The volume of a bath, litres.
    Litres, Unit::Litre, 0.5, 2000.0
);
quantity!(
    /// The mass of a bar or a blade, kilograms.
    Kilograms, Unit::Kilogram, 0.01, 50.0
);
quantity!(
    /// Rockwell C hardness, HRC.
    Hrc, Unit::Hrc, 0.0, 70.0
);

/// A difference of two temperatures, K: how much hotter a fire is than it shows, how far above nominal a heat
/// was. Not a temperature: the two cannot be mistaken for each other where they cross a function.
///
/// ```
/// use vatten_core::quantity::units::{Celsius, Kelvins, Quantity};
/// let shown = Celsius::clamped(800.0);
/// assert_eq!(shown.plus(Kelvins::of(12.0)), Celsius::clamped(812.0));
/// ```
#[derive(Debug, Clone, Copy, Default, PartialEq, PartialOrd)]
pub struct Kelvins(f64);

impl Kelvins {
    /// No difference.
    pub const ZERO: Self = Self(0.0);

    /// So many kelvin; negative where the first is the cooler.
    #[must_use]
    pub const fn of(kelvins: f64) -> Self {
        Self(kelvins)
    }

    /// The plain number, K.
    #[must_use]
    pub const fn value(self) -> f64 {
        self.0
    }
}

impl std::ops::Neg for Kelvins {
    type Output = Self;

    fn neg(self) -> Self {
        Self(-self.0)
    }
}

impl Celsius {
    /// This much hotter, inside the range of the type.
    #[must_use]
    pub fn plus(self, by: Kelvins) -> Self {
        Self::clamped(self.0 + by.0)
    }

    /// Absolute temperature, kelvin.
    #[must_use]
    pub fn kelvin(self) -> f64 {
        self.0 + 273.15
    }
}

impl Millimetres {
    /// An inch.
    pub const INCH: Self = Self(25.4);
}

impl Seconds {
    /// The duration in hours.
    #[must_use]
    pub fn hours(self) -> f64 {
        self.0 / 3600.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(-200.0, true)]
    #[case(1300.0, true)]
    #[case(-200.1, false)]
    #[case(1300.1, false)]
    #[case(f64::NAN, false)]
    #[case(f64::INFINITY, false)]
    fn a_temperature_is_inside_its_range_or_refused(#[case] value: f64, #[case] good: bool) {
        assert_eq!(Celsius::check("t", value).is_ok(), good);
    }

    #[test]
    fn a_refusal_names_field_and_range() {
        let faults = Hrc::check("values[0]", 71.0).unwrap_err();
        assert_eq!(faults.0[0].field, "values[0]");
        assert_eq!(faults.0[0].allowed.as_deref(), Some("0 to 70 HRC"));
        assert!(Hrc::need("x", None).is_err());
    }

    #[test]
    fn json_is_the_plain_number_and_is_checked() {
        assert_eq!(
            serde_json::to_string(&Celsius::clamped(815.0)).unwrap(),
            "815.0"
        );
        assert!(serde_json::from_str::<Celsius>("1301").is_err());
        assert_eq!(Seconds::clamped(7200.0).hours(), 2.0);
        assert_eq!(Celsius::clamped(f64::NAN).value(), -200.0);
    }
}
