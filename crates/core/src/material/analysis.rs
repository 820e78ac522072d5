//! The chemical analysis of a steel, in weight percent.

use crate::quantity::validation::{Checker, Faults};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Weight percent of each element that the formulas use. Iron is the rest.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Analysis {
    /// Carbon, 0.05 to 2.5 %.
    #[serde(rename = "C")]
    pub carbon: f64,
    /// Silicon, 0 to 3 %.
    #[serde(rename = "Si")]
    pub silicon: f64,
    /// Manganese, 0 to 3 %.
    #[serde(rename = "Mn")]
    pub manganese: f64,
    /// Chromium, 0 to 20 %.
    #[serde(rename = "Cr")]
    pub chromium: f64,
    /// Nickel, 0 to 5 %.
    #[serde(rename = "Ni")]
    pub nickel: f64,
    /// Molybdenum, 0 to 10 %.
    #[serde(rename = "Mo")]
    pub molybdenum: f64,
    /// Tungsten, 0 to 20 %.
    #[serde(rename = "W")]
    pub tungsten: f64,
    /// Vanadium, 0 to 15 %.
    #[serde(rename = "V")]
    pub vanadium: f64,
    /// Nitrogen, 0 to 1 %.
    #[serde(rename = "N")]
    pub nitrogen: f64,
    /// Cobalt, 0 to 13 %.
    #[serde(rename = "Co")]
    pub cobalt: f64,
    /// Niobium, 0 to 3 %.
    #[serde(rename = "Nb")]
    pub niobium: f64,
    /// Phosphorus, 0 to 0.2 %; 0 when not stated: what the standard bears.
    #[serde(rename = "P")]
    pub phosphorus: f64,
    /// Sulphur, 0 to 0.4 %; 0 when not stated: what the standard bears.
    #[serde(rename = "S")]
    pub sulphur: f64,
}

/// Symbol, smallest and largest allowed weight percent of each element that an analysis may name.
pub const ELEMENTS: [(&str, f64, f64); 13] = [
    ("C", 0.05, 2.5),
    ("Si", 0.0, 3.0),
    ("Mn", 0.0, 3.0),
    ("Cr", 0.0, 20.0),
    ("Ni", 0.0, 5.0),
    ("Mo", 0.0, 10.0),
    ("W", 0.0, 20.0),
    ("V", 0.0, 15.0),
    ("N", 0.0, 1.0),
    ("Co", 0.0, 13.0),
    ("Nb", 0.0, 3.0),
    ("P", 0.0, 0.2),
    ("S", 0.0, 0.4),
];

/// Phosphorus or sulphur that a tool steel may hold, percent.
const BORNE_PERCENT: f64 = 0.03;
/// More than this of everything but iron is no steel, percent.
const MOST_PERCENT: f64 = 50.0;

impl Analysis {
    /// Reads an analysis from symbols and weight percents; what is not named is none.
    ///
    /// # Errors
    /// An unknown element, an element outside its range in [`ELEMENTS`], no carbon, or a sum over
    /// 50 % (then it is no steel); every fault is named.
    ///
    /// ```
    /// use std::collections::BTreeMap;
    /// use vatten_core::material::analysis::Analysis;
    /// let written = BTreeMap::from([("C".to_owned(), 0.84), ("Mn".to_owned(), 0.8)]);
    /// assert_eq!(Analysis::parse(&written).map(|a| a.carbon), Ok(0.84));
    /// ```
    pub fn parse(elements: &BTreeMap<String, f64>) -> Result<Self, Faults> {
        let mut checker = Checker::default();
        let mut analysis = Self::default();
        for (symbol, percent) in elements {
            match ELEMENTS.iter().find(|e| e.0 == symbol) {
                None => checker.refuse_allowing(
                    symbol,
                    format!("{symbol} is not an element the formulas know."),
                    ELEMENTS.map(|e| e.0).join(", "),
                ),
                Some((_, low, high)) if !(*low..=*high).contains(percent) => checker
                    .refuse_allowing(
                        symbol,
                        format!("{percent} % {symbol} is outside what the formulas hold for."),
                        format!("{low} to {high} %"),
                    ),
                Some(_) => analysis.set(symbol, *percent),
            }
        }
        let sum: f64 = elements.values().filter(|p| p.is_finite()).sum();
        if sum > MOST_PERCENT {
            checker.refuse_allowing(
                "sum",
                format!("{sum} % in all leaves too little iron for a steel."),
                format!("at most {MOST_PERCENT} % besides iron"),
            );
        }
        if !elements.contains_key("C") {
            checker.refuse_allowing("C", "Carbon is needed.", "0.05 to 2.5 %");
        }
        checker.finish(Some(analysis))
    }

    /// Percent by weight of each element, in the order of [`ELEMENTS`].
    #[must_use]
    pub const fn percents(&self) -> [f64; ELEMENTS.len()] {
        [
            self.carbon,
            self.silicon,
            self.manganese,
            self.chromium,
            self.nickel,
            self.molybdenum,
            self.tungsten,
            self.vanadium,
            self.nitrogen,
            self.cobalt,
            self.niobium,
            self.phosphorus,
            self.sulphur,
        ]
    }

    /// Checks an analysis that was not read by [`Analysis::parse`].
    ///
    /// # Errors
    /// As [`Analysis::parse`].
    pub fn check(&self) -> Result<(), Faults> {
        let named = ELEMENTS.iter().zip(self.percents());
        let elements = named.map(|(e, percent)| (e.0.to_owned(), percent));
        Self::parse(&elements.collect()).map(drop)
    }

    fn set(&mut self, symbol: &str, percent: f64) {
        match symbol {
            "C" => self.carbon = percent,
            "Si" => self.silicon = percent,
            "Mn" => self.manganese = percent,
            "Cr" => self.chromium = percent,
            "Ni" => self.nickel = percent,
            "Mo" => self.molybdenum = percent,
            "W" => self.tungsten = percent,
            "V" => self.vanadium = percent,
            "N" => self.nitrogen = percent,
            "Co" => self.cobalt = percent,
            "Nb" => self.niobium = percent,
            "P" => self.phosphorus = percent,
            _ => self.sulphur = percent,
        }
    }

    /// Phosphorus and sulphur beyond what the standards of tool steels bear (0.03 % of each: ASTM A 681, EN ISO 4957),
    /// percent in all: they lie in the boundaries of its grains and as threads of sulphide along the bar.
    #[must_use]
    pub fn unclean_percent(&self) -> f64 {
        (self.phosphorus - BORNE_PERCENT).max(0.0) + (self.sulphur - BORNE_PERCENT).max(0.0)
    }

    /// Molybdenum with half of the tungsten, percent: what the two do alike.
    #[inline]
    #[must_use]
    pub fn molybdenum_equivalent(&self) -> f64 {
        self.molybdenum + 0.5 * self.tungsten
    }

    /// True inside the range that the formulas were tried in (C 0.3 to 2.2, Cr to 18, V to 10, W to 19,
    /// Mo to 10 %): outside, predictions are widened.
    #[must_use]
    pub fn formulas_hold(&self) -> bool {
        (0.3..=2.2).contains(&self.carbon)
            && self.chromium <= 18.0
            && self.vanadium <= 10.0
            && self.tungsten <= 19.0
            && self.molybdenum <= 10.0
    }

    /// How unlike two analyses are: 0 for the same, about 1 where a smith would call them different
    /// steels. Each element is scaled by the step that separates neighbouring grades; chromium counts
    /// by ratio, since 12 and 13 % are alike and 0 and 1 % are not.
    #[must_use]
    pub fn distance(&self, other: &Self) -> f64 {
        let chromium = ((1.0 + self.chromium) / (1.0 + other.chromium)).ln() / 0.35;
        [
            (self.carbon - other.carbon) / 0.12,
            (self.silicon - other.silicon) / 0.5,
            (self.manganese - other.manganese) / 0.45,
            (self.nickel - other.nickel) / 0.7,
            (self.molybdenum - other.molybdenum) / 0.5,
            (self.tungsten - other.tungsten) / 0.7,
            (self.vanadium - other.vanadium) / 0.4,
            (self.nitrogen - other.nitrogen) / 0.1,
            (self.cobalt - other.cobalt) / 2.0,
            (self.niobium - other.niobium) / 0.4,
            chromium,
        ]
        .iter()
        .map(|d| d * d)
        .sum::<f64>()
        .sqrt()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn elements(pairs: &[(&str, f64)]) -> BTreeMap<String, f64> {
        pairs.iter().map(|(k, v)| ((*k).to_owned(), *v)).collect()
    }

    #[test]
    fn reads_what_is_named() {
        let analysis = Analysis::parse(&elements(&[("C", 0.84), ("Mn", 0.8)])).unwrap();
        assert_eq!(
            (analysis.carbon, analysis.manganese, analysis.chromium),
            (0.84, 0.8, 0.0)
        );
        assert_eq!(analysis.distance(&analysis), 0.0);
    }

    #[rstest]
    #[case(&[("C", 3.0)], "C")]
    #[case(&[("C", 0.8), ("Cr", 21.0)], "Cr")]
    #[case(&[("C", 0.8), ("Mn", -0.1)], "Mn")]
    #[case(&[("C", 0.8), ("Xx", 1.0)], "Xx")]
    #[case(&[("C", f64::NAN)], "C")]
    #[case(&[("Mn", 0.8)], "C")]
    #[case(&[("C", 1.0), ("Cr", 18.0), ("W", 19.0), ("V", 10.0), ("Mo", 9.0)], "sum")]
    #[case(&[("C", 0.5), ("N", 2.0)], "N")]
    #[case(&[("C", 1.0), ("Cr", 30.0)], "Cr")]
    fn refuses_by_element(#[case] pairs: &[(&str, f64)], #[case] field: &str) {
        let faults = Analysis::parse(&elements(pairs)).unwrap_err();
        assert_eq!(faults.0.len(), 1);
        assert_eq!(faults.0[0].field, field);
        assert!(faults.0[0].allowed.is_some());
    }

    #[test]
    fn names_every_bad_element_at_once() {
        let faults =
            Analysis::parse(&elements(&[("C", 9.0), ("Mn", 9.0), ("Q", 1.0)])).unwrap_err();
        assert_eq!(faults.0.len(), 3);
    }
}
