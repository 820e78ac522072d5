//! Hardness readings: several values of one tester at one stage, where they were taken and in what state.

use crate::quantity::units::{Hrc, Quantity};
use crate::quantity::validation::{Checker, Faults, Unit};
use crate::record::outlier::odd_one;
use crate::simulation::hamon::Line;
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
    ///
    /// ```
    /// use vatten_core::record::reading::Values;
    /// assert_eq!(Values::parse(&[61.0, 62.0]).unwrap().mean(), 61.5);
    /// assert_eq!(Values::parse(&[91.0]).unwrap_err().0[0].field, "values[0]");
    /// ```
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

/// A value set aside by the smith: kept and shown, but not counted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Aside {
    /// Position of the value.
    pub index: usize,
    /// Why, 1 to 200 characters.
    pub reason: String,
}

/// The state of the blade when it was read, and where: what makes a value count or not.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Taken {
    /// Where each value was taken, `[from the heel, above the edge]`, mm; as many as values, or none at all.
    pub places: Vec<Option<[f64; 2]>>,
    /// The blade was still warm: retained austenite and heat make it read low.
    pub warm: bool,
    /// The decarburized skin was still on: it reads low.
    pub skin_on: bool,
    /// Values set aside.
    pub aside: Vec<Aside>,
}

/// Why a value does not count.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum NotCounted {
    /// The blade was still warm.
    Warm,
    /// The skin was still on.
    SkinOn,
    /// It was set aside.
    SetAside {
        /// Why.
        reason: String,
    },
    /// It was taken above the line, in the soft back: it says nothing of the edge.
    AboveTheLine,
}

impl Taken {
    /// Checks places and what was set aside against `count` values of a blade `length_mm` long.
    ///
    /// # Errors
    /// Faults at `places`, `places[2]`, `aside[0].index`, `aside[0].reason`.
    pub fn check(&self, count: usize, length_mm: f64) -> Result<(), Faults> {
        let mut c = Checker::default();
        if !self.places.is_empty() && self.places.len() != count {
            let sentence = "There is a place for each value, or none at all.";
            c.refuse_allowing("places", sentence, format!("{count} places"));
        }
        // A tang lies before the heel.
        let from = -0.6 * length_mm;
        for (i, [x, y]) in self
            .places
            .iter()
            .enumerate()
            .filter_map(|(i, p)| p.map(|p| (i, p)))
        {
            if !(from..=length_mm).contains(&x) || !(-50.0..=300.0).contains(&y) {
                let (field, range) = (format!("places[{i}]"), (from, length_mm));
                let message = "This is not on the blade; along it a place lies from tang to tip.";
                c.refuse_outside(field, message, range, Unit::Millimetre);
            }
        }
        for (i, aside) in self.aside.iter().enumerate() {
            if aside.index >= count || self.aside[..i].iter().any(|a| a.index == aside.index) {
                c.refuse(
                    format!("aside[{i}].index"),
                    "There is no such value to set aside.",
                );
            }
            if aside.reason.trim().is_empty() || aside.reason.chars().count() > 200 {
                c.refuse_allowing(
                    format!("aside[{i}].reason"),
                    "A value is only set aside with a reason.",
                    "1 to 200 characters",
                );
            }
        }
        c.finish(Some(()))
    }

    /// For each value why it does not count; None for one that does. `line` is where the back begins.
    #[must_use]
    pub fn verdicts(&self, count: usize, line: Option<&Line>) -> Vec<Option<NotCounted>> {
        let verdict = |i: usize| {
            if let Some(aside) = self.aside.iter().find(|a| a.index == i) {
                return Some(NotCounted::SetAside {
                    reason: aside.reason.clone(),
                });
            }
            if self.warm {
                return Some(NotCounted::Warm);
            }
            if self.skin_on {
                return Some(NotCounted::SkinOn);
            }
            let [x, y] = self.places.get(i).copied().flatten()?;
            let height = line?.simulated_mm(x)?;
            (y > height).then_some(NotCounted::AboveTheLine)
        };
        (0..count).map(verdict).collect()
    }

    /// The values that count, HRC.
    #[must_use]
    pub fn counting(&self, values: &[f64], line: Option<&Line>) -> Vec<f64> {
        let verdicts = self.verdicts(values.len(), line);
        let all = values.iter().zip(&verdicts);
        all.filter(|(_, v)| v.is_none())
            .map(|(value, _)| *value)
            .collect()
    }

    /// Position of the odd one out among the values that count, if there is one.
    #[must_use]
    pub fn outlier(&self, values: &[f64], line: Option<&Line>) -> Option<usize> {
        let verdicts = self.verdicts(values.len(), line);
        let counting: Vec<usize> = (0..values.len())
            .filter(|i| verdicts[*i].is_none())
            .collect();
        let those: Vec<f64> = counting.iter().map(|i| values[*i]).collect();
        odd_one(&those).and_then(|i| counting.get(i).copied())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::hamon::LinePoint;
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

    #[rstest]
    #[case(r#"{"places":[[20,4]]}"#, "places")]
    #[case(r#"{"places":[[20,4],null,[900,4]]}"#, "places[2]")]
    #[case(r#"{"aside":[{"index":3,"reason":"slipped"}]}"#, "aside[0].index")]
    #[case(
        r#"{"aside":[{"index":1,"reason":"a"},{"index":1,"reason":"b"}]}"#,
        "aside[1].index"
    )]
    #[case(r#"{"aside":[{"index":1,"reason":" "}]}"#, "aside[0].reason")]
    fn what_was_taken_is_checked(#[case] json: &str, #[case] field: &str) {
        let taken: Taken = serde_json::from_str(json).unwrap();
        assert_eq!(taken.check(3, 180.0).unwrap_err().0[0].field, field);
    }

    fn line(height: f64) -> Line {
        let at = |x_mm| LinePoint {
            x_mm,
            height_mm: height,
            low_mm: height - 2.0,
            high_mm: height + 2.0,
        };
        Line {
            points: vec![at(20.0), at(160.0)],
            height_mm: height,
            band_mm: 3.0,
            liveliness: 0.4,
            learned_mm: 0.0,
            learned_wider: 1.0,
            unseen: false,
        }
    }

    #[test]
    fn the_soft_back_says_nothing_of_the_edge() {
        let taken = Taken {
            places: vec![Some([50.0, 5.0]), Some([50.0, 20.0]), None],
            ..Taken::default()
        };
        let values = [61.0, 38.0, 60.6];
        assert_eq!(taken.counting(&values, Some(&line(12.0))), [61.0, 60.6]);
        assert_eq!(
            taken.verdicts(3, Some(&line(12.0)))[1],
            Some(NotCounted::AboveTheLine)
        );
        // Without a line every place counts, and then one is odd.
        assert_eq!(taken.outlier(&values, None), Some(1));
        assert_eq!(taken.outlier(&values, Some(&line(12.0))), None);
    }

    #[test]
    fn warm_or_skinned_readings_do_not_count_and_what_is_set_aside_says_why() {
        let warm = Taken {
            warm: true,
            ..Taken::default()
        };
        assert!(warm.counting(&[61.0, 60.0], None).is_empty());
        let aside = Aside {
            index: 0,
            reason: "slipped off the edge".to_owned(),
        };
        let set = Taken {
            skin_on: false,
            aside: vec![aside],
            ..Taken::default()
        };
        assert_eq!(set.counting(&[52.0, 60.0], None), [60.0]);
        let reason = "slipped off the edge".to_owned();
        assert_eq!(
            set.verdicts(2, None)[0],
            Some(NotCounted::SetAside { reason })
        );
    }
}
