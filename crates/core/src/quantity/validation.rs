//! What was wrong with an input: the field, a plain sentence, and what is allowed.

use serde::{Deserialize, Serialize};

/// One thing wrong with one field of an input.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fault {
    /// Path of the field as the caller wrote it, for example `steps[1].stages[0].bath_c`.
    pub field: String,
    /// What is wrong, as a plain sentence.
    pub message: String,
    /// The allowed range or values, when there is such a thing, in the units of the API.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub allowed: Option<String>,
    /// The same as quantities where it is a range, to be shown in any unit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub range: Option<AllowedRange>,
}

/// A range that is allowed, both ends included.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AllowedRange {
    /// Lowest.
    pub low: f64,
    /// Highest.
    pub high: f64,
    /// Unit of both.
    pub unit: Unit,
}

/// Units of the API.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Unit {
    /// Degrees Celsius.
    Celsius,
    /// Kelvin, for a difference of temperatures.
    Kelvin,
    /// Millimetres.
    Millimetre,
    /// Metres.
    Metre,
    /// Seconds.
    Second,
    /// Litres.
    Litre,
    /// Kilograms.
    Kilogram,
    /// Rockwell C.
    Hrc,
    /// Percent.
    Percent,
}

impl Unit {
    /// The symbol of the unit, as it stands in the text of an allowed range.
    #[must_use]
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Celsius => "°C",
            Self::Kelvin => "K",
            Self::Millimetre => "mm",
            Self::Metre => "m",
            Self::Second => "s",
            Self::Litre => "l",
            Self::Kilogram => "kg",
            Self::Hrc => "HRC",
            Self::Percent => "%",
        }
    }
}

/// Everything that was wrong with an input; never empty when returned as an error.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{}", .0.iter().map(|f| format!("{}: {}", f.field, f.message)).collect::<Vec<_>>().join("; "))]
pub struct Faults(pub Vec<Fault>);

impl Faults {
    /// A single fault.
    pub fn one(field: impl Into<String>, message: impl Into<String>) -> Self {
        Self(vec![Fault {
            field: field.into(),
            message: message.into(),
            allowed: None,
            range: None,
        }])
    }

    /// A single fault that names what is allowed.
    pub fn with_allowed(
        field: impl Into<String>,
        message: impl Into<String>,
        allowed: impl Into<String>,
    ) -> Self {
        Self(vec![Fault {
            field: field.into(),
            message: message.into(),
            allowed: Some(allowed.into()),
            range: None,
        }])
    }

    /// A single fault of a number that lies outside a range. The message names no number: the range stands
    /// beside it, for the reader's own unit.
    pub fn outside(
        field: impl Into<String>,
        message: impl Into<String>,
        (low, high): (f64, f64),
        unit: Unit,
    ) -> Self {
        Self(vec![Fault {
            field: field.into(),
            message: message.into(),
            allowed: Some(format!("{low} to {high} {}", unit.symbol())),
            range: Some(AllowedRange { low, high, unit }),
        }])
    }

    /// The same faults with `prefix` put before each field.
    #[must_use]
    pub fn under(mut self, prefix: &str) -> Self {
        for fault in &mut self.0 {
            fault.field = if fault.field.is_empty() {
                prefix.to_owned()
            } else {
                format!("{prefix}.{}", fault.field)
            };
        }
        self
    }
}

/// Finds one of a list of kinds by its identifier of the API.
///
/// # Errors
/// There is no such kind; the fault at `field` lists them.
///
/// ```
/// use vatten_core::process::protection::Protection;
/// use vatten_core::quantity::validation::named;
/// let foil = named("protection", "foil", || "There is no such protection.".to_owned());
/// assert_eq!(foil, Ok(Protection::Foil));
/// let faults = named::<Protection>("protection", "wax", || "There is no wax.".to_owned());
/// assert_eq!(faults.unwrap_err().0[0].field, "protection");
/// ```
pub fn named<T>(field: &str, text: &str, message: impl Fn() -> String) -> Result<T, Faults>
where
    T: Copy + Into<&'static str> + strum::VariantArray,
{
    let found = T::VARIANTS.iter().copied().find(|k| (*k).into() == text);
    found.ok_or_else(|| Faults::with_allowed(field, message(), ids::<T>()))
}

/// The identifiers of a list of kinds, with commas between them.
#[must_use]
pub fn ids<T>() -> String
where
    T: Copy + Into<&'static str> + strum::VariantArray,
{
    let ids: Vec<&'static str> = T::VARIANTS.iter().map(|k| (*k).into()).collect();
    ids.join(", ")
}

/// Gathers faults while an input is checked, so that every bad field is named at once.
#[derive(Debug, Default)]
pub struct Checker {
    faults: Vec<Fault>,
}

impl Checker {
    /// Takes the value of a result, keeping its faults.
    pub fn take<T>(&mut self, result: Result<T, Faults>) -> Option<T> {
        result.map_err(|faults| self.faults.extend(faults.0)).ok()
    }

    /// Notes a fault.
    pub fn refuse(&mut self, field: impl Into<String>, message: impl Into<String>) {
        self.faults.extend(Faults::one(field, message).0);
    }

    /// Notes a fault that names what is allowed.
    pub fn refuse_allowing(
        &mut self,
        field: impl Into<String>,
        message: impl Into<String>,
        allowed: impl Into<String>,
    ) {
        self.faults
            .extend(Faults::with_allowed(field, message, allowed).0);
    }

    /// Notes a fault of a number that lies outside a range, see [`Faults::outside`].
    pub fn refuse_outside(
        &mut self,
        field: impl Into<String>,
        message: impl Into<String>,
        range: (f64, f64),
        unit: Unit,
    ) {
        self.faults
            .extend(Faults::outside(field, message, range, unit).0);
    }

    /// True while nothing was wrong.
    #[must_use]
    pub fn is_clean(&self) -> bool {
        self.faults.is_empty()
    }

    /// The value when nothing was wrong and it is there, otherwise all faults.
    ///
    /// # Errors
    /// Every fault gathered so far.
    pub fn finish<T>(self, value: Option<T>) -> Result<T, Faults> {
        match value {
            Some(value) if self.faults.is_empty() => Ok(value),
            _ if self.faults.is_empty() => Err(Faults::one("", "Something needed is missing.")),
            _ => Err(Faults(self.faults)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_fault_is_kept_and_prefixed() {
        let mut checker = Checker::default();
        checker.refuse("a", "bad");
        checker.refuse_allowing("b", "worse", "1 to 2");
        let faults = checker.finish(Some(())).unwrap_err().under("blade");
        assert_eq!(faults.0[0].field, "blade.a");
        assert_eq!(faults.0[1].allowed.as_deref(), Some("1 to 2"));
        assert_eq!(faults.to_string(), "blade.a: bad; blade.b: worse");
    }

    #[test]
    fn a_missing_value_without_a_fault_is_still_an_error() {
        assert!(Checker::default().finish::<()>(None).is_err());
    }
}
