//! Hardness readings: several values of one tester at one stage.

use crate::fault::{Checker, Faults};
use crate::units::{Hrc, Quantity};
use serde::{Deserialize, Serialize};

/// When a hardness was read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum When {
    /// After the quench (and sub-zero), before any temper.
    AsQuenched,
    /// After the last temper.
    Tempered,
}

impl When {
    /// The identifier, as in the API.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::AsQuenched => "as_quenched",
            Self::Tempered => "tempered",
        }
    }

    /// Finds a stage by identifier.
    #[must_use]
    pub fn parse(text: &str) -> Option<Self> {
        [Self::AsQuenched, Self::Tempered]
            .into_iter()
            .find(|w| w.id() == text)
    }
}

/// Most values in one set of readings.
pub const MAX_VALUES: usize = 20;

/// One or more values, HRC, read together; never empty.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(transparent)]
pub struct Values(Vec<Hrc>);

impl Values {
    /// Checks values as typed.
    ///
    /// # Errors
    /// None, more than [`MAX_VALUES`], or any outside 0 to 70 HRC; fields as `values[1]`.
    pub fn parse(values: &[f64]) -> Result<Self, Faults> {
        let mut checker = Checker::default();
        if values.is_empty() || values.len() > MAX_VALUES {
            checker.refuse_allowing(
                "values",
                "At least one reading is needed; three or more are better.",
                format!("1 to {MAX_VALUES} values"),
            );
        }
        let mut good = Vec::with_capacity(values.len());
        for (i, value) in values.iter().enumerate().take(MAX_VALUES) {
            good.extend(checker.take(Hrc::check(&format!("values[{i}]"), *value)));
        }
        checker.finish(Some(Self(good)))
    }

    /// The values.
    #[must_use]
    pub fn all(&self) -> &[Hrc] {
        &self.0
    }

    /// How many.
    #[must_use]
    pub fn count(&self) -> usize {
        self.0.len()
    }

    /// Mean, HRC.
    #[must_use]
    pub fn mean(&self) -> f64 {
        self.0.iter().map(|v| v.value()).sum::<f64>() / self.0.len() as f64
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(&[], "values")]
    #[case(&[61.0, 75.0], "values[1]")]
    #[case(&[-1.0], "values[0]")]
    #[case(&[60.0; 21], "values")]
    fn refused(#[case] values: &[f64], #[case] field: &str) {
        assert_eq!(Values::parse(values).unwrap_err().0[0].field, field);
    }

    #[test]
    fn mean_of_what_was_read() {
        let values = Values::parse(&[60.0, 61.0, 62.0]).unwrap();
        assert_eq!((values.mean(), values.count()), (61.0, 3));
        assert_eq!(When::parse("tempered"), Some(When::Tempered));
        assert_eq!(When::parse("later"), None);
    }
}
