//! Steel without a paper: what an old thing of steel may be made of, by the practice of its trade.
//!
//! The grades and what the standards allow of each are `data/grades.csv`; how often a thing is made of which is
//! workshop experience (`data/reclaimed.csv`). Inside a grade every analysis is as likely as the next.

use crate::material::analysis::{Analysis, ELEMENTS};
use crate::material::hardness::martensite_hrc;
use crate::material::salvage::Salvage;
use crate::material::steel::Steel;
use crate::quantity::interval::density;
use crate::quantity::validation::{Checker, Faults};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;
use strum::VariantArray;

impl Salvage {
    /// What it may be made of, each with its share; they sum to 1.
    pub fn grades(self) -> impl Iterator<Item = (&'static Grade, f64)> {
        let of = SHARES.iter().filter(move |s| s.was == self);
        of.filter_map(|s| Some((GRADES.iter().find(|g| g.grade == s.grade)?, s.share)))
    }

    /// The analyses it may have, with what each weighs before anything was tried; the weights sum to 1.
    #[must_use]
    pub fn candidates(self) -> &'static [Candidate] {
        static ALL: LazyLock<Vec<Vec<Candidate>>> = LazyLock::new(|| {
            let of = |was: &Salvage| was.grades().flat_map(|(g, share)| g.candidates(share));
            Salvage::VARIANTS.iter().map(|p| of(p).collect()).collect()
        });
        &ALL[self as usize]
    }

    /// Least and most of an element that any of its grades may hold, percent by weight.
    #[must_use]
    pub fn range(self, element: usize) -> (f64, f64) {
        let of = self.grades().map(|(g, _)| g.ranges()[element]);
        of.fold((f64::INFINITY, 0.0), |all, one| {
            (all.0.min(one.0), all.1.max(one.1))
        })
    }
}

/// A grade of steel, and what its standard allows.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct Grade {
    /// Its designation.
    pub grade: String,
    /// Key of the built-in steel that stands for it; empty where there is none.
    pub like: String,
    /// The standard.
    pub standard: String,
    #[serde(rename = "C_low")]
    carbon_low: f64,
    #[serde(rename = "C_high")]
    carbon_high: f64,
    #[serde(rename = "Si_low")]
    silicon_low: f64,
    #[serde(rename = "Si_high")]
    silicon_high: f64,
    #[serde(rename = "Mn_low")]
    manganese_low: f64,
    #[serde(rename = "Mn_high")]
    manganese_high: f64,
    #[serde(rename = "Cr_low")]
    chromium_low: f64,
    #[serde(rename = "Cr_high")]
    chromium_high: f64,
    #[serde(rename = "Ni_low")]
    nickel_low: f64,
    #[serde(rename = "Ni_high")]
    nickel_high: f64,
    #[serde(rename = "Mo_low")]
    molybdenum_low: f64,
    #[serde(rename = "Mo_high")]
    molybdenum_high: f64,
    #[serde(rename = "W_low")]
    tungsten_low: f64,
    #[serde(rename = "W_high")]
    tungsten_high: f64,
    #[serde(rename = "V_low")]
    vanadium_low: f64,
    #[serde(rename = "V_high")]
    vanadium_high: f64,
}

/// Elements that grades differ in, the first of [`ELEMENTS`].
const TOLD: usize = 8;
/// Analyses that stand for a grade.
const POINTS: usize = 6;

impl Grade {
    /// Least and most of carbon, silicon, manganese, chromium, nickel, molybdenum, tungsten and vanadium, percent by
    /// weight: in the order of [`ELEMENTS`].
    #[must_use]
    pub const fn ranges(&self) -> [(f64, f64); TOLD] {
        [
            (self.carbon_low, self.carbon_high),
            (self.silicon_low, self.silicon_high),
            (self.manganese_low, self.manganese_high),
            (self.chromium_low, self.chromium_high),
            (self.nickel_low, self.nickel_high),
            (self.molybdenum_low, self.molybdenum_high),
            (self.tungsten_low, self.tungsten_high),
            (self.vanadium_low, self.vanadium_high),
        ]
    }

    /// Analyses spread evenly over what is allowed: carbon in equal steps, the others by the Halton sequence (Halton
    /// 1960), so that none goes with another.
    fn candidates(&'static self, share: f64) -> impl Iterator<Item = Candidate> {
        const BASES: [usize; TOLD] = [0, 2, 3, 5, 7, 11, 13, 17];
        (0..POINTS).map(move |i| {
            let at = |element: usize| {
                let (low, high) = self.ranges()[element];
                let share = if element == 0 {
                    (i as f64 + 0.5) / POINTS as f64
                } else {
                    radical_inverse(i + 1, BASES[element])
                };
                rounded(low + share * (high - low))
            };
            let analysis = Analysis {
                carbon: at(0),
                silicon: at(1),
                manganese: at(2),
                chromium: at(3),
                nickel: at(4),
                molybdenum: at(5),
                tungsten: at(6),
                vanadium: at(7),
                ..Analysis::default()
            };
            Candidate {
                grade: self,
                steel: Steel::from_analysis("reclaimed", &self.grade, &analysis),
                weight: share / POINTS as f64,
            }
        })
    }
}

/// To four places: what is kept of a piece is read back as it was written.
#[must_use]
pub fn rounded(x: f64) -> f64 {
    (1e4 * x).round() / 1e4
}

/// The digits of `n` in a base, read behind the point, 0 to 1.
fn radical_inverse(mut n: usize, base: usize) -> f64 {
    let (mut sum, mut place) = (0.0, 1.0 / base as f64);
    while n > 0 {
        sum += (n % base) as f64 * place;
        n /= base;
        place /= base as f64;
    }
    sum
}

/// One analysis that a piece may have.
#[derive(Debug, Clone, PartialEq)]
pub struct Candidate {
    /// The grade it would be.
    pub grade: &'static Grade,
    /// The steel of that analysis.
    pub steel: Steel,
    /// How likely before anything was tried, 0 to 1.
    pub weight: f64,
}

#[derive(Deserialize)]
struct Share {
    was: Salvage,
    grade: String,
    share: f64,
}

fn rows<T: for<'de> Deserialize<'de>>(file: &str) -> Vec<T> {
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(file.as_bytes());
    // The files are compiled in; a test holds that every row of them is read.
    reader.deserialize().filter_map(Result::ok).collect()
}

static GRADES: LazyLock<Vec<Grade>> = LazyLock::new(|| rows(include_str!("../../data/grades.csv")));
static SHARES: LazyLock<Vec<Share>> =
    LazyLock::new(|| rows(include_str!("../../data/reclaimed.csv")));

/// Elements that were measured of a piece, with percent by weight: a spark, a test of drops or an analysis of some of
/// them.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measured(BTreeMap<String, f64>);

/// A grade may be off its standard by this much in an old piece, percent by weight and as a share.
const OFF: (f64, f64) = (0.05, 0.15);
/// What is measured so of an element is off by this much, percent by weight and as a share, one standard deviation.
const MEASURED_OFF: (f64, f64) = (0.03, 0.06);

impl Measured {
    /// Checks what was measured of a piece.
    ///
    /// # Errors
    /// A fault at the symbol of each element that is not among the eight that grades differ in, or that no such thing
    /// holds so little or so much of.
    ///
    /// ```
    /// use std::collections::BTreeMap;
    /// use vatten_core::material::reclaimed::Measured;
    /// use vatten_core::material::salvage::Salvage;
    /// let chromium = |percent| BTreeMap::from([("Cr".to_owned(), percent)]);
    /// assert!(Measured::parse(Salvage::Rail, chromium(1.0)).is_ok());
    /// let faults = Measured::parse(Salvage::Rail, chromium(20.0)).unwrap_err();
    /// assert_eq!(faults.0[0].allowed.as_deref(), Some("0 to 1.43 %"));
    /// ```
    pub fn parse(was: Salvage, elements: BTreeMap<String, f64>) -> Result<Self, Faults> {
        let mut c = Checker::default();
        for (symbol, percent) in &elements {
            let known = ELEMENTS.iter().take(TOLD).position(|e| e.0 == symbol);
            let Some(element) = known else {
                let all: Vec<&str> = ELEMENTS.iter().take(TOLD).map(|e| e.0).collect();
                let message = format!("{symbol} tells no such grades apart.");
                c.refuse_allowing(symbol, message, all.join(", "));
                continue;
            };
            let (low, high) = was.range(element);
            let least = (low - OFF.0 - OFF.1 * low).max(0.0);
            let most = high + OFF.0 + OFF.1 * high;
            if !(least..=most).contains(percent) {
                let message = format!(
                    "{percent} % {symbol} is not what such a thing is made of. Begin it as an unknown bar, or as a steel by its analysis."
                );
                let round = |x: f64| (100.0 * x).round() / 100.0;
                let allowed = format!("{} to {} %", round(least), round(most));
                c.refuse_allowing(symbol, message, allowed);
            }
        }
        c.finish(Some(Self(elements)))
    }

    /// Percent by weight by symbol.
    #[must_use]
    pub fn into_elements(self) -> BTreeMap<String, f64> {
        self.0
    }

    /// Nothing was measured.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// How likely an analysis gives what was measured, up to a factor.
    #[must_use]
    pub fn likelihood(&self, analysis: &Analysis) -> f64 {
        let told = analysis.percents();
        let of = |(symbol, percent): (&String, &f64)| {
            let element = ELEMENTS.iter().take(TOLD).position(|e| e.0 == symbol)?;
            let off = MEASURED_OFF.0 + MEASURED_OFF.1 * percent;
            // Points of a grade stand apart: as far as their spacing it may be either.
            let apart = 0.04 * told[element];
            Some(density((told[element] - percent) / off.hypot(apart)))
        };
        self.0.iter().filter_map(of).product()
    }
}

/// Most analyses that a piece is told in.
const MOST_ANALYSES: usize = 64;

/// A grade that a piece may be of.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GradeShare {
    /// Its designation.
    pub grade: String,
    /// The standard that has it.
    pub standard: String,
    /// How likely, 0 to 1.
    pub share: f64,
}

/// A piece without a paper as far as it is known: by what it was, what was measured of it, and what coupons and blades of
/// it showed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reclaimed {
    /// What it was.
    pub was: Salvage,
    /// The likeliest analysis of those that harden: a plan is made for it.
    pub analysis: Analysis,
    /// Analyses that it may have, each as likely as the next.
    pub analyses: Vec<Analysis>,
    /// The likeliest grades, the first before the others.
    pub grades: Vec<GradeShare>,
    /// Carbon, percent by weight: one in twenty has less than the first, half less than the second, one in twenty more
    /// than the last.
    pub carbon: [f64; 3],
    /// How likely it hardens in air, 0 to 1.
    pub in_air: f64,
    /// How likely it has too little carbon for an edge, 0 to 1.
    pub too_little: f64,
    /// Coupons that told of it.
    pub coupons: usize,
    /// Readings and files of blades that told of it.
    pub readings: usize,
}

impl Reclaimed {
    /// Checks what was kept of a piece elsewhere.
    ///
    /// # Errors
    /// A fault at `analysis` or `analyses[2]`: an element outside what the formulas hold for.
    pub fn check(&self) -> Result<(), Faults> {
        let mut c = Checker::default();
        c.take(self.analysis.check().map_err(|f| f.under("analysis")));
        if self.analyses.len() > MOST_ANALYSES {
            c.refuse_allowing(
                "analyses",
                "These are too many.",
                format!("0 to {MOST_ANALYSES}"),
            );
        }
        for (i, analysis) in self.analyses.iter().enumerate().take(MOST_ANALYSES) {
            c.take(
                analysis
                    .check()
                    .map_err(|f| f.under(&format!("analyses[{i}]"))),
            );
        }
        c.finish(Some(()))
    }

    /// The steel a plan is made for.
    #[must_use]
    pub fn steel(&self) -> Steel {
        Steel::from_analysis("reclaimed", "reclaimed", &self.analysis)
    }

    /// How far the hardness of full martensite goes apart over what it may be made of, of those that harden, one standard
    /// deviation, HRC.
    #[must_use]
    pub fn spread_hrc(&self) -> f64 {
        let hard = self.analyses.iter().filter(|a| a.carbon >= 0.3);
        let all: Vec<f64> = hard.map(|a| martensite_hrc(a.carbon.min(0.8))).collect();
        let n = all.len().max(1) as f64;
        let mean = all.iter().sum::<f64>() / n;
        (all.iter().map(|h| (h - mean).powi(2)).sum::<f64>() / n).sqrt()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::steel::Hardening;
    use rstest::rstest;

    #[test]
    fn both_tables_are_read_and_shares_sum_to_one() {
        let lines = |file: &str| file.lines().count() - 2;
        assert_eq!(GRADES.len(), lines(include_str!("../../data/grades.csv")));
        assert_eq!(
            SHARES.len(),
            lines(include_str!("../../data/reclaimed.csv"))
        );
        for was in Salvage::VARIANTS {
            let sum: f64 = was.grades().map(|g| g.1).sum();
            assert!((sum - 1.0).abs() < 1e-9, "{was:?} {sum}");
            let all: f64 = was.candidates().iter().map(|c| c.weight).sum();
            assert!((all - 1.0).abs() < 1e-9, "{was:?} {all}");
        }
    }

    #[test]
    fn the_typical_analysis_of_a_built_in_steel_lies_inside_its_grade() {
        let mut held = 0;
        for grade in GRADES.iter().filter(|g| !g.like.is_empty()) {
            let steel = Steel::built_in(&grade.like).unwrap();
            let told = steel.analysis.percents();
            for ((low, high), value) in grade.ranges().into_iter().zip(told) {
                assert!(
                    low <= value && value <= high,
                    "{}: {value} not in {low} to {high}",
                    grade.grade
                );
            }
            held += 1;
        }
        assert!(held >= 20, "{held}");
    }

    #[test]
    fn a_grade_is_spread_over_what_its_standard_allows() {
        for was in Salvage::VARIANTS {
            for (grade, _) in was.grades() {
                let of = was.candidates().iter().filter(|c| c.grade == grade);
                let carbon: Vec<f64> = of.map(|c| c.steel.analysis.carbon).collect();
                let (low, high) = grade.ranges()[0];
                assert_eq!(carbon.len(), POINTS);
                let mean = carbon.iter().sum::<f64>() / POINTS as f64;
                assert!((mean - 0.5 * (low + high)).abs() < 1e-3);
                assert!(carbon.iter().all(|c| (low..=high).contains(c)));
            }
        }
    }

    #[rstest]
    #[case(Salvage::File, Hardening::Air, false)]
    #[case(Salvage::PlaneIron, Hardening::Air, true)]
    #[case(Salvage::BearingRing, Hardening::Air, true)]
    #[case(Salvage::Rail, Hardening::Air, false)]
    fn only_some_may_harden_in_air(
        #[case] was: Salvage,
        #[case] hardening: Hardening,
        #[case] may: bool,
    ) {
        let found = was.candidates().iter();
        assert_eq!(
            found.map(|c| c.steel.hardening).any(|h| h == hardening),
            may
        );
    }

    #[test]
    fn what_was_measured_picks_the_grades_that_fit() {
        let measured =
            Measured::parse(Salvage::PlaneIron, BTreeMap::from([("Cr".to_owned(), 5.0)])).unwrap();
        let weighed = Salvage::PlaneIron.candidates().iter();
        let best = weighed
            .max_by(|a, b| {
                let of = |c: &Candidate| c.weight * measured.likelihood(&c.steel.analysis);
                of(a).total_cmp(&of(b))
            })
            .unwrap();
        assert_eq!(best.grade.grade, "A2");
        assert!(Measured::default().is_empty());
        let odd = BTreeMap::from([("Xx".to_owned(), 1.0)]);
        assert_eq!(
            Measured::parse(Salvage::File, odd).unwrap_err().0[0].field,
            "Xx"
        );
        assert_eq!(Salvage::parse("boat").unwrap_err().0[0].field, "was");
    }
}
