//! Who took a blade through the quench.

use crate::quantity::validation::Faults;
use serde::{Deserialize, Serialize};

/// Longest name, characters.
pub const MAX_NAME: usize = 40;

/// The one who quenched: a name as the shop says it, 1 to 40 characters, no control characters, single
/// spaces.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Operator(String);

impl Operator {
    /// Reads a name; spaces around and doubled inside are left out.
    ///
    /// # Errors
    /// A fault at `name`.
    ///
    /// ```
    /// use vatten_core::process::operator::Operator;
    /// assert_eq!(Operator::parse(" Tove  Lind ").unwrap().name(), "Tove Lind");
    /// ```
    pub fn parse(text: &str) -> Result<Self, Faults> {
        let name = text.split_whitespace().collect::<Vec<_>>().join(" ");
        let count = name.chars().count();
        if !(1..=MAX_NAME).contains(&count) || name.chars().any(char::is_control) {
            return Err(Faults::with_allowed(
                "name",
                "Say who quenches.",
                format!("1 to {MAX_NAME} characters"),
            ));
        }
        Ok(Self(name))
    }

    /// The name.
    #[must_use]
    pub fn name(&self) -> &str {
        &self.0
    }
}

impl TryFrom<String> for Operator {
    type Error = Faults;

    fn try_from(text: String) -> Result<Self, Faults> {
        Self::parse(&text)
    }
}

impl From<Operator> for String {
    fn from(operator: Operator) -> Self {
        operator.0
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("Tove", Some("Tove"))]
    #[case("  Tove \t Lind ", Some("Tove Lind"))]
    #[case("", None)]
    #[case(" \n ", None)]
    #[case("To\u{0}ve", None)]
    fn a_name_is_tidied_or_refused(#[case] text: &str, #[case] name: Option<&str>) {
        let operator = Operator::parse(text);
        assert_eq!(operator.as_ref().ok().map(Operator::name), name);
        if let Err(faults) = operator {
            assert_eq!(faults.0[0].field, "name");
        }
    }

    #[test]
    fn a_long_one_is_refused_also_from_a_file() {
        let long = "o".repeat(MAX_NAME + 1);
        assert!(Operator::parse(&long).is_err());
        assert!(serde_json::from_value::<Operator>(long.into()).is_err());
    }
}
