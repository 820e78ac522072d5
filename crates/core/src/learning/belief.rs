//! What a piece without a paper is made of, after what coupons and blades of it showed: Bayes over the analyses that it may
//! have.
//!
//! Physics is asked of each analysis what would have come of that coupon or that blade; how far physics may be off for a
//! steel known by its analysis is one error for all its blades, so that ten readings of one blade do not count for ten
//! steels. How hard a plain file is, and how often a hand errs with it, is workshop experience.

use crate::material::analysis::Analysis;
use crate::material::reclaimed::{Candidate, GradeShare, Measured, Reclaimed, rounded};
use crate::material::salvage::Salvage;
use crate::material::steel::{Hardening, Steel};
use crate::process::calibration::Corrections;
use crate::process::plan::{KILN_C, Plan};
use crate::process::sighting::{About, Sign};
use crate::process::workpiece::Workpiece;
use crate::quantity::interval::{upper_quantile, upper_tail};
use crate::quantity::units::{Celsius, Millimetres, Quantity};
use crate::record::reading::When;
use crate::record::trial::{Bath, Entry, Filed, Heated};
use crate::simulation::coupon::Coupon;
use crate::simulation::physics::{Shift, of_section, section};
use std::sync::Arc;

/// A plain file skates on steel as hard as this and bites into softer, within this, HRC.
const FILE_HRC: (f64, f64) = (60.0, 2.0);
/// Files of a set tell within this, HRC.
const SET_HRC: f64 = 1.5;
/// A skin that was left on makes a hard coupon bite one time in so many; scale makes a soft one skate less often.
const SKIN: (f64, f64) = (0.04, 0.005);
/// A fracture or a bracket is misread one time in so many.
const MISREAD: f64 = 0.03;
/// Heat beyond which grain is seen to be coarse, within this, K.
const COARSE_K: f64 = 25.0;
/// A fracture of this grade and more is coarse.
const COARSE: u8 = 4;
/// Heats that a coupon is looked at in.
const HEATS: usize = 5;
/// Analyses that a belief is told in.
const TOLD: usize = 16;
/// Grades that are told.
const GRADES: usize = 6;
/// What a reading of a blade is off by besides what is wrong with its steel, one standard deviation, HRC.
const READING_HRC: f64 = 1.0;

/// What was seen of a blade.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Seen {
    /// Read, HRC.
    Read(f64),
    /// Between two files, HRC.
    Between(f64, f64),
}

/// How hard a blade would be of each analysis that a piece may have, as quenched and tempered, HRC: in the order of what the
/// piece may be.
pub type HardnessOfEach = Vec<[f64; 2]>;

/// How hard a blade would be of each analysis that what it was may have: physics is asked once for each, which is what takes
/// long.
#[must_use]
pub fn hardness_of_each(was: Salvage, plan: &Plan, work: &Workpiece) -> HardnessOfEach {
    let of = |c: &Candidate| {
        let section = section(plan, &c.steel, work);
        let physics = of_section(plan, &c.steel, &section, Shift::default());
        [physics.as_quenched_hrc, physics.tempered_hrc]
    };
    was.candidates().iter().map(of).collect()
}

/// A blade of the piece, as it went through the fire, and what was seen of it.
#[derive(Debug, Clone)]
pub struct BladeSeen {
    /// How hard it would be of each analysis ([`hardness_of_each`]).
    pub of_each: Arc<HardnessOfEach>,
    /// What was seen, and when.
    pub seen: Vec<(When, Seen)>,
}

/// How likely each analysis is that a piece may have.
#[derive(Debug, Clone, PartialEq)]
pub struct Belief {
    was: Salvage,
    /// Of each candidate of the was; they sum to 1.
    weights: Vec<f64>,
    coupons: usize,
    readings: usize,
}

/// What is judged, as a distribution of heat on a steel.
fn about(entry: &Entry, steel: &Steel, eyes: &Corrections) -> About {
    match entry.heated() {
        Heated::To(t) => About {
            middle_c: t.value(),
            deviation_c: KILN_C,
        },
        Heated::By(by) => {
            let usual = by.sign.about(steel);
            let Sign::Colour { colour, light } = by.sign else {
                return usual;
            };
            let eye = eyes.eye(by.eye_id);
            let (middle_c, once_c) = eye.sees(colour, light);
            About {
                middle_c,
                deviation_c: once_c.hypot(eye.doubt_c),
            }
        }
    }
}

/// Middles of equal shares of a normal distribution.
fn shares(about: About) -> [f64; HEATS] {
    std::array::from_fn(|i| {
        let share = (i as f64 + 0.5) / HEATS as f64;
        let z = if share < 0.5 {
            -upper_quantile(share)
        } else if share > 0.5 {
            upper_quantile(1.0 - share)
        } else {
            0.0
        };
        about.middle_c + z * about.deviation_c
    })
}

/// Chance that something of this hardness is harder than `than`, both HRC.
fn harder(hrc: f64, than: f64, deviation: f64) -> f64 {
    upper_tail((than - hrc) / deviation)
}

/// How likely a coupon of this steel shows what was seen, 0 to 1.
fn likelihood(
    entry: &Entry,
    bath: Bath,
    thickness: Millimetres,
    steel: &Steel,
    eyes: &Corrections,
) -> f64 {
    let formula = steel.spread_hrc();
    let of = |heat_c: f64| {
        let coupon = Coupon {
            thickness,
            heat: Celsius::clamped(heat_c),
            soak: entry.soak(),
            medium: bath.medium(),
        };
        let hrc = coupon.hrc(steel);
        let hard = harder(hrc, FILE_HRC.0, formula.hypot(FILE_HRC.1));
        let skates = SKIN.1 + (1.0 - SKIN.0 - SKIN.1) * hard;
        let set = formula.hypot(SET_HRC);
        match *entry {
            Entry::First {
                file: Filed::Bites, ..
            } => 1.0 - skates,
            Entry::First {
                skated_hrc: None,
                bit_hrc: None,
                ..
            } => skates,
            Entry::First {
                skated_hrc,
                bit_hrc,
                ..
            } => {
                let over = skated_hrc.map_or(1.0, |s| harder(hrc, s, set));
                let beyond = bit_hrc.map_or(0.0, |b| harder(hrc, b, set));
                MISREAD + (1.0 - 2.0 * MISREAD) * (over - beyond).max(0.0)
            }
            Entry::Rung { file, grain, .. } => {
                let coarse = upper_tail((steel.coarsening_c - heat_c) / COARSE_K);
                let filed = if file == Filed::Skates {
                    skates
                } else {
                    1.0 - skates
                };
                let broken = if grain >= COARSE {
                    coarse
                } else {
                    1.0 - coarse
                };
                filed * (MISREAD + (1.0 - 2.0 * MISREAD) * broken)
            }
        }
    };
    let heats = shares(about(entry, steel, eyes));
    heats.into_iter().map(of).sum::<f64>() / HEATS as f64
}

/// Logarithm of how likely residuals are, HRC, where all of them share an error of `common` and each has its own of
/// `own`, one standard deviation (Sherman and Morrison 1950), up to a term that hangs on neither.
fn ln_of_residuals(residuals: &[f64], common: f64, own: f64) -> f64 {
    let n = residuals.len() as f64;
    let (sum, squares) = residuals
        .iter()
        .fold((0.0, 0.0), |(s, q), r| (s + r, q + r * r));
    let (own2, common2) = (own * own, common * common);
    let all = own2 + n * common2;
    -0.5 * ((squares - common2 / all * sum * sum) / own2 + (all / own2).ln())
}

impl Belief {
    /// What such a thing may be made of, with what was measured of it.
    #[must_use]
    pub fn prior(was: Salvage, measured: &Measured) -> Self {
        let of = |c: &Candidate| c.weight * measured.likelihood(&c.steel.analysis);
        let belief = Self {
            was,
            weights: was.candidates().iter().map(of).collect(),
            coupons: 0,
            readings: 0,
        };
        belief.normalized()
    }

    fn normalized(mut self) -> Self {
        let sum: f64 = self.weights.iter().sum();
        if sum > 0.0 && sum.is_finite() {
            for w in &mut self.weights {
                *w /= sum;
            }
        } else {
            // What cannot be tells nothing.
            self.weights = self.was.candidates().iter().map(|c| c.weight).collect();
        }
        self
    }

    /// After coupons `thickness` thick; the rungs were quenched in what hardened the first ones before them.
    #[must_use]
    pub fn with_coupons(
        mut self,
        entries: &[Entry],
        thickness: Millimetres,
        eyes: &Corrections,
    ) -> Self {
        let mut bath = Bath::Oil;
        for entry in entries {
            let cooled_in = match *entry {
                Entry::First { bath: b, file, .. } => {
                    if file == Filed::Skates {
                        bath = b;
                    }
                    b
                }
                Entry::Rung { .. } => bath,
            };
            for (weight, c) in self.weights.iter_mut().zip(self.was.candidates()) {
                *weight *= likelihood(entry, cooled_in, thickness, &c.steel, eyes);
            }
            self.coupons += 1;
            self = self.normalized();
        }
        self
    }

    /// After what was seen of blades of it.
    #[must_use]
    pub fn with_blades(mut self, blades: &[BladeSeen]) -> Self {
        let mut logs = vec![0.0_f64; self.weights.len()];
        let candidates = self.was.candidates();
        for (i, (log, c)) in logs.iter_mut().zip(candidates).enumerate() {
            let common = c.steel.spread_hrc();
            let mut residuals = Vec::new();
            for blade in blades {
                let Some([as_quenched, tempered]) = blade.of_each.get(i) else {
                    continue;
                };
                for (when, seen) in &blade.seen {
                    let hrc = match when {
                        When::AsQuenched => *as_quenched,
                        When::Tempered => *tempered,
                    };
                    match *seen {
                        Seen::Read(read) => residuals.push(read - hrc),
                        Seen::Between(low, high) => {
                            let off = common.hypot(SET_HRC);
                            let inside = harder(hrc, low, off) - harder(hrc, high, off);
                            *log += (MISREAD + (1.0 - 2.0 * MISREAD) * inside.max(0.0)).ln();
                        }
                    }
                }
            }
            if !residuals.is_empty() {
                *log += ln_of_residuals(&residuals, common, READING_HRC);
            }
        }
        let most = logs.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        for (weight, log) in self.weights.iter_mut().zip(logs) {
            *weight *= (log - most).exp();
        }
        self.readings += blades.iter().map(|b| b.seen.len()).sum::<usize>();
        self.normalized()
    }

    fn all(&self) -> impl Iterator<Item = (&f64, &'static Candidate)> {
        self.weights.iter().zip(self.was.candidates())
    }

    fn share_of(&self, is: impl Fn(&Steel) -> bool) -> f64 {
        let those = self.all().filter(|(_, c)| is(&c.steel));
        those.map(|(w, _)| w).sum()
    }

    /// In so many analyses, each as likely as the next, by carbon.
    fn equals(&self) -> Vec<Analysis> {
        let mut all: Vec<_> = self.all().map(|(w, c)| (*w, c.steel.analysis)).collect();
        all.sort_by(|a, b| a.1.carbon.total_cmp(&b.1.carbon));
        let mut told = Vec::with_capacity(TOLD);
        let mut below = 0.0;
        for (weight, analysis) in all {
            below += weight;
            while told.len() < TOLD && (told.len() as f64 + 0.5) / (TOLD as f64) < below {
                told.push(analysis);
            }
        }
        told
    }

    /// Grades with their shares, the likeliest first.
    fn grades(&self) -> Vec<(&'static Candidate, f64)> {
        let mut all: Vec<(&'static Candidate, f64)> = Vec::new();
        for (weight, c) in self.all() {
            match all.iter_mut().find(|(known, _)| known.grade == c.grade) {
                Some((_, share)) => *share += weight,
                None => all.push((c, *weight)),
            }
        }
        all.sort_by(|a, b| b.1.total_cmp(&a.1));
        all
    }

    /// The likeliest analysis: of the likeliest grade that hardens the one in the middle; of any where none does.
    fn likeliest(&self, grades: &[(&'static Candidate, f64)]) -> Analysis {
        let hardens = |c: &Candidate| c.steel.hardening != Hardening::NotHardenable;
        let best = grades.iter().find(|(c, _)| hardens(c)).or(grades.first());
        let grade = best.map(|(c, _)| c.grade);
        let mut of: Vec<_> = self.all().filter(|(_, c)| Some(c.grade) == grade).collect();
        of.sort_by(|a, b| {
            a.1.steel
                .analysis
                .carbon
                .total_cmp(&b.1.steel.analysis.carbon)
        });
        let half = 0.5 * of.iter().map(|(w, _)| *w).sum::<f64>();
        let mut below = 0.0;
        let middle = of.iter().find(|(w, _)| {
            below += **w;
            below >= half
        });
        middle.map_or_else(Analysis::default, |(_, c)| c.steel.analysis)
    }

    /// As it is told and planned with.
    #[must_use]
    pub fn reclaimed(&self) -> Reclaimed {
        let grades = self.grades();
        let analyses = self.equals();
        let carbon = |share: f64| {
            let i = (share * analyses.len() as f64) as usize;
            let last = analyses.len().saturating_sub(1);
            analyses.get(i.min(last)).map_or(0.0, |a| a.carbon)
        };
        Reclaimed {
            was: self.was,
            analysis: self.likeliest(&grades),
            carbon: [carbon(0.05), carbon(0.5), carbon(0.95)],
            grades: grades
                .iter()
                .take(GRADES)
                .filter(|(_, share)| *share >= 0.01)
                .map(|(c, share)| GradeShare {
                    grade: c.grade.grade.clone(),
                    standard: c.grade.standard.clone(),
                    share: rounded(*share),
                })
                .collect(),
            in_air: rounded(self.share_of(|s| s.hardening == Hardening::Air)),
            too_little: rounded(self.share_of(|s| s.hardening == Hardening::NotHardenable)),
            analyses,
            coupons: self.coupons,
            readings: self.readings,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::simulation::physics::physics;
    use crate::simulation::physics::tests::{blade, nominal, plan};
    use rstest::rstest;
    use strum::VariantArray;

    fn prior(was: Salvage) -> Belief {
        Belief::prior(was, &Measured::default())
    }

    fn coupon(bath: Bath, file: Filed) -> Entry {
        Entry::First {
            bath,
            file,
            skated_hrc: None,
            bit_hrc: None,
            temperature_c: None,
            by: None,
        }
    }

    fn after(was: Salvage, entries: &[Entry]) -> Reclaimed {
        let corrections = Corrections::default();
        prior(was)
            .with_coupons(entries, Millimetres::clamped(5.0), &corrections)
            .reclaimed()
    }

    #[test]
    fn before_anything_is_tried_it_is_what_the_trade_makes_it_of() {
        for was in Salvage::VARIANTS {
            let known = prior(*was).reclaimed();
            assert_eq!((known.coupons, known.readings), (0, 0));
            assert_eq!(known.analyses.len(), TOLD);
            let [low, middle, high] = known.carbon;
            assert!(low <= middle && middle <= high, "{was:?} {known:?}");
            let shares: f64 = known.grades.iter().map(|g| g.share).sum();
            assert!(shares > 0.6 && shares < 1.0 + 1e-9, "{was:?} {shares}");
        }
        assert!(prior(Salvage::File).reclaimed().carbon[1] > 1.0);
        assert!(prior(Salvage::UnknownBar).reclaimed().too_little > 0.2);
        assert_eq!(prior(Salvage::Rail).reclaimed().grades[0].grade, "R260");
    }

    // The published hardness of a steel that such a thing is made of lies in what is said of it before anything is known.
    #[rstest]
    #[case(Salvage::File, "c125u", "water")]
    #[case(Salvage::LeafSpring, "5160", "medium_oil")]
    #[case(Salvage::LeafSpring, "9260", "medium_oil")]
    #[case(Salvage::CoilSpring, "54sicr6", "medium_oil")]
    #[case(Salvage::BearingRing, "52100", "medium_oil")]
    #[case(Salvage::SawPlate, "15n20", "medium_oil")]
    #[case(Salvage::SawPlate, "80crv2", "medium_oil")]
    #[case(Salvage::PlaneIron, "o1", "medium_oil")]
    fn the_interval_holds_the_published_steels(
        #[case] was: Salvage,
        #[case] steel: &str,
        #[case] medium: &str,
    ) {
        let known = Steel::built_in(steel).unwrap();
        let plan = nominal(known, medium);
        let published = physics(&plan, known, &blade(), Shift::default()).as_quenched_hrc;
        let all: Vec<f64> = prior(was)
            .reclaimed()
            .analyses
            .iter()
            .map(|a| {
                let steel = Steel::from_analysis("x", "x", a);
                physics(&plan, &steel, &blade(), Shift::default()).as_quenched_hrc
            })
            .collect();
        let told = crate::quantity::interval::Interval::of_equals(&all, 1.8, (0.0, 70.0));
        assert!(told.holds(published), "{published} not in {told:?}");
    }

    #[test]
    fn soft_from_oil_and_hard_from_water_is_a_plain_steel() {
        let told = after(
            Salvage::UnknownBar,
            &[
                coupon(Bath::Oil, Filed::Bites),
                coupon(Bath::Water, Filed::Skates),
            ],
        );
        assert!(told.in_air < 0.01 && told.too_little < 0.15, "{told:?}");
        assert!(told.carbon[1] > 0.45, "{told:?}");
        let oil = after(Salvage::UnknownBar, &[coupon(Bath::Oil, Filed::Skates)]);
        assert!(oil.too_little < 0.05, "{oil:?}");
    }

    #[test]
    fn hard_from_air_is_one_that_hardens_in_air() {
        let hung = Entry::First {
            bath: Bath::Air,
            file: Filed::Skates,
            skated_hrc: None,
            bit_hrc: None,
            temperature_c: Some(980.0),
            by: None,
        };
        let told = after(Salvage::UnknownBar, &[hung]);
        assert!(told.in_air > 0.5, "{told:?}");
        assert!(told.in_air > 10.0 * prior(Salvage::UnknownBar).reclaimed().in_air);
    }

    #[test]
    fn silicon_wants_more_heat_before_it_hardens() {
        let rung = |file, t: f64| Entry::Rung {
            temperature_c: Some(t),
            by: None,
            file,
            grain: 2,
        };
        let of = |entries: &[Entry], grade: &str| {
            let told = after(Salvage::CoilSpring, entries);
            told.grades
                .iter()
                .filter(|g| g.grade == grade)
                .map(|g| g.share)
                .sum::<f64>()
        };
        let late = [
            coupon(Bath::Oil, Filed::Skates),
            rung(Filed::Bites, 770.0),
            rung(Filed::Bites, 790.0),
            rung(Filed::Skates, 850.0),
        ];
        let silicon = |entries: &[Entry]| {
            let grades = ["54SiCr6", "61SiCr7", "9260"];
            grades.into_iter().map(|g| of(entries, g)).sum::<f64>()
        };
        assert!(silicon(&late) > 1.25 * silicon(&[]), "{}", silicon(&late));
        let chromium = |entries: &[Entry]| of(entries, "5160") + of(entries, "55Cr3");
        assert!(chromium(&late) < 0.75 * chromium(&[]));
    }

    #[test]
    fn readings_of_blades_narrow_it_and_do_not_count_more_than_they_are() {
        let plan = plan(
            r#"[{"kind":"austenitize","temperature_c":835,"soak_s":300},{"kind":"quench","stages":[{"medium":"medium_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        );
        let work = Workpiece::plain(&blade());
        let of_each = Arc::new(hardness_of_each(Salvage::UnknownBar, &plan, &work));
        let seen = |read: &[f64]| BladeSeen {
            of_each: Arc::clone(&of_each),
            seen: read
                .iter()
                .map(|r| (When::Tempered, Seen::Read(*r)))
                .collect(),
        };
        let bar = prior(Salvage::UnknownBar);
        // A steel of the table: what the shop would read of it.
        let truth = Steel::built_in("1084").unwrap();
        let read = physics(&plan, truth, &blade(), Shift::default()).tempered_hrc;
        let after = |read: &[f64]| bar.clone().with_blades(&[seen(read)]).reclaimed();
        let one = after(&[read]);
        let ten = after(&[read; 10]);
        let spread = |r: &Reclaimed| r.carbon[2] - r.carbon[0];
        assert!(one.too_little < 0.02 && one.spread_hrc() < 0.6 * bar.reclaimed().spread_hrc());
        assert!(spread(&ten) > 0.5 * spread(&one), "{ten:?} {one:?}");
        assert_eq!((one.readings, ten.readings), (1, 10));
        let filed = BladeSeen {
            seen: vec![(When::Tempered, Seen::Between(58.0, 62.0))],
            ..seen(&[])
        };
        assert!(bar.clone().with_blades(&[filed]).reclaimed().too_little < 0.1);
    }

    #[test]
    fn what_many_residuals_share_is_one_error() {
        // Against the full covariance of two: s² + n² on the diagonal, s² beside it.
        let (common, own) = (1.7_f64, 0.9_f64);
        let (a, b) = (2.0, -0.5);
        let (d, o) = (common.powi(2) + own.powi(2), common.powi(2));
        let determinant = d * d - o * o;
        let form = (d * a * a - 2.0 * o * a * b + d * b * b) / determinant;
        let full = -0.5 * (form + determinant.ln()) + own.powi(4).ln() / 2.0;
        let ours = ln_of_residuals(&[a, b], common, own);
        assert!((full - ours).abs() < 1e-9, "{full} {ours}");
    }
}
