//! A coupon trial: small pieces of steel without a paper, heated, quenched and filed, then a ladder of
//! temperatures broken and graded; step by step to a house steel with honest width, or to "no blade
//! steel".

use crate::material::analysis::Analysis;
use crate::material::hardness::martensite_hrc;
use crate::material::medium::Medium;
use crate::material::reclaimed::Reclaimed;
use crate::material::steel::{Hardening, Origin, Steel, Window};
use crate::process::sighting::{Glow, Light, Sighting, Sign};
use crate::quantity::units::{Celsius, Quantity, Seconds};
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};

/// Most entries of a trial.
pub const MAX_ENTRIES: usize = 20;
/// Temperatures of the ladder that are asked for, °C.
const RUNGS_C: [f64; 5] = [770.0, 790.0, 810.0, 830.0, 850.0];
/// From this grade on a fracture is coarse.
pub const COARSE: u8 = 4;
/// Heat of the first coupons: past non-magnetic and a shade more, °C.
const FIRST_C: f64 = 820.0;
/// Heat of a coupon that cools in air: what hardens so dissolves too little below it, °C.
const AIR_C: f64 = 980.0;
/// Where so many may harden in air, as a share, a coupon that cools in air is worth its while.
const WORTH_AIR: f64 = 0.02;
/// Rungs that a window can be told from.
const ENOUGH_RUNGS: usize = 3;

/// What the file did on a cold coupon with its skin off.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Filed {
    /// It skates: hard.
    Skates,
    /// It bites: soft.
    Bites,
}

/// What a coupon was cooled in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Bath {
    /// Oil.
    Oil,
    /// Water.
    Water,
    /// Still air: hung up, not quenched.
    Air,
}

impl Bath {
    /// What cools it, as far as it is known: most first coupons go into vegetable oil.
    #[must_use]
    pub const fn medium(self) -> Medium {
        match self {
            Self::Oil => Medium::VegetableOil,
            Self::Water => Medium::Water,
            Self::Air => Medium::StillAir,
        }
    }
}

/// How hot a coupon was.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Heated {
    /// An instrument showed it.
    To(Celsius),
    /// An eye or a magnet judged it.
    By(Sighting),
}

/// One thing done and seen.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Entry {
    /// A coupon heated past non-magnetic, quenched and filed.
    First {
        /// Where.
        bath: Bath,
        /// What the file did.
        file: Filed,
        /// The hardest file of a set that still skated, 40 to 67 HRC, when there is a set.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        skated_hrc: Option<f64>,
        /// The softest file that bit, 40 to 70 HRC.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        bit_hrc: Option<f64>,
        /// Temperature where an instrument showed it, 650 to 1100 °C.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        temperature_c: Option<f64>,
        /// How it was judged where none did; a shade past the magnet when nothing is said, in air yellow in a dim shop.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
    },
    /// A rung of the ladder: heated to a temperature, quenched, filed, broken and graded.
    Rung {
        /// Temperature where an instrument showed it, 650 to 1100 °C.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        temperature_c: Option<f64>,
        /// How it was judged where none did.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
        /// What the file did.
        file: Filed,
        /// Grain of the fracture, 1 (silky) to 5 (sugar).
        grain: u8,
    },
}

impl Entry {
    /// How hot it was.
    #[must_use]
    pub fn heated(&self) -> Heated {
        let (Self::First {
            temperature_c, by, ..
        }
        | Self::Rung {
            temperature_c, by, ..
        }) = *self;
        match (temperature_c, by) {
            (Some(t), _) => Heated::To(Celsius::clamped(t)),
            (None, Some(by)) => Heated::By(by),
            (None, None) => Heated::By(Sighting {
                sign: match self {
                    // What hardens in air hardens from a heat that others do not bear.
                    Self::First {
                        bath: Bath::Air, ..
                    } => Sign::Colour {
                        colour: Glow::Yellow,
                        light: Light::Dim,
                    },
                    _ => Sign::PastMagnet {},
                },
                eye_id: None,
            }),
        }
    }

    /// How long it was held there: as a first coupon or a rung is.
    #[must_use]
    pub fn soak(&self) -> Seconds {
        Seconds::clamped(match self {
            Self::First { .. } => 120.0,
            Self::Rung { .. } => 300.0,
        })
    }

    /// Checks its numbers.
    ///
    /// # Errors
    /// Faults at its fields.
    pub fn check(&self) -> Result<(), Faults> {
        let mut c = Checker::default();
        let mut within = |field: &str, value: f64, (low, high): (f64, f64), unit: Option<Unit>| {
            if !(low..=high).contains(&value) {
                let message = "This is not possible.";
                match unit {
                    Some(unit) => c.refuse_outside(field, message, (low, high), unit),
                    None => c.refuse_allowing(field, message, format!("{low} to {high}")),
                }
            }
        };
        match self {
            Self::First {
                skated_hrc,
                bit_hrc,
                ..
            } => {
                if let Some(v) = skated_hrc {
                    within("skated_hrc", *v, (40.0, 67.0), Some(Unit::Hrc));
                }
                if let Some(v) = bit_hrc {
                    within("bit_hrc", *v, (40.0, 70.0), Some(Unit::Hrc));
                }
                if let (Some(skated), Some(bit)) = (skated_hrc, bit_hrc)
                    && skated >= bit
                {
                    c.refuse(
                        "bit_hrc",
                        "A file that bites is harder than one that skates.",
                    );
                }
            }
            Self::Rung {
                temperature_c,
                by,
                grain,
                ..
            } => {
                within("grain", f64::from(*grain), (1.0, 5.0), None);
                if temperature_c.is_none() && by.is_none() {
                    c.refuse("temperature_c", "How hot was it?");
                }
            }
        }
        let (Self::First {
            temperature_c, by, ..
        }
        | Self::Rung {
            temperature_c, by, ..
        }) = self;
        if let Some(t) = temperature_c {
            if !(650.0..=1100.0).contains(t) {
                c.refuse_outside(
                    "temperature_c",
                    "This is not possible.",
                    (650.0, 1100.0),
                    Unit::Celsius,
                );
            }
            if by.is_some() {
                c.refuse("by", "Either an instrument showed it, or an eye judged it.");
            }
        }
        c.finish(Some(()))
    }
}

/// What a trial has found out of a steel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Estimate {
    /// Carbon, percent: one in twenty has less than the first, one in twenty more than the last.
    pub carbon: [f64; 3],
    /// Manganese it behaves as if it had, percent.
    pub manganese: f64,
    /// Austenitizing, °C: lowest, best, highest.
    pub austenitize_c: [f64; 3],
    /// Grain coarsens from here, °C, when the ladder went that far.
    pub coarsens_c: Option<f64>,
    /// What hardens it.
    pub bath: Bath,
    /// What it may be made of; none in a trial of a time before that was kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reclaimed: Option<Reclaimed>,
}

/// How a trial ended.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "verdict", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TrialEnd {
    /// Soft even from water: not for blades.
    NotABladeSteel {
        /// It has less carbon than about this, percent by weight.
        carbon_percent: f64,
    },
    /// A steel for the shop.
    HouseSteel {
        /// What is known of it.
        estimate: Box<Estimate>,
    },
}

/// Where a trial stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = TrialStage))]
pub enum Stage {
    /// A coupon is quenched in oil and filed.
    Oil,
    /// The same in water.
    Water,
    /// It may be one that hardens in air: a coupon cools in air from a high heat and is filed.
    Air,
    /// Coupons from rising heats, filed and broken.
    Ladder,
    /// It is over.
    Done,
}

/// What is to be done next.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Guide {
    /// Where it stands.
    pub stage: Stage,
    /// Which rung of the ladder is next, from 1.
    pub rung: Option<usize>,
    /// What the next coupon is quenched in.
    pub bath: Option<Bath>,
    /// Temperature to heat to, °C.
    pub temperature_c: Option<f64>,
    /// How it ended, or would end now: the ladder may be ended once there is one.
    pub verdict: Option<TrialEnd>,
}

impl Guide {
    const fn ended(verdict: TrialEnd) -> Self {
        Self {
            stage: Stage::Done,
            rung: None,
            bath: None,
            temperature_c: None,
            verdict: Some(verdict),
        }
    }

    const fn first(stage: Stage, (bath, heat_c): (Bath, f64), verdict: TrialEnd) -> Self {
        Self {
            stage,
            rung: None,
            bath: Some(bath),
            temperature_c: Some(heat_c),
            verdict: Some(verdict),
        }
    }
}

fn firsts(entries: &[Entry], bath: Bath) -> impl Iterator<Item = Filed> + '_ {
    entries.iter().filter_map(move |e| match e {
        Entry::First { bath: b, file, .. } if *b == bath => Some(*file),
        _ => None,
    })
}

/// The rungs by their usual heat, °C: that of a sighting on the steel it may be.
fn rungs(entries: &[Entry], steel: &Steel) -> Vec<(f64, Filed, u8)> {
    let mut all: Vec<_> = entries
        .iter()
        .filter_map(|e| match e {
            Entry::Rung { file, grain, .. } => {
                let usual = match e.heated() {
                    Heated::To(t) => t,
                    Heated::By(by) => by.usual(steel),
                };
                Some((usual.value(), *file, *grain))
            }
            Entry::First { .. } => None,
        })
        .collect();
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    all
}

/// What hardens it, so far.
fn hardens_in(entries: &[Entry]) -> Option<Bath> {
    let hard = |bath: &Bath| firsts(entries, *bath).last() == Some(Filed::Skates);
    [Bath::Air, Bath::Oil, Bath::Water].into_iter().find(hard)
}

/// The next step of a trial of what `reclaimed` may be, after these coupons.
#[must_use]
pub fn guide(entries: &[Entry], reclaimed: &Reclaimed) -> Guide {
    let oil = firsts(entries, Bath::Oil).last();
    let water = firsts(entries, Bath::Water).last();
    let in_air = firsts(entries, Bath::Air).last();
    let air = |verdict| Guide::first(Stage::Air, (Bath::Air, AIR_C), verdict);
    let worth_air = in_air.is_none() && reclaimed.in_air >= WORTH_AIR;
    let bath = hardens_in(entries);
    let climbed = entries.iter().any(|e| matches!(e, Entry::Rung { .. }));
    let now = || conclude(entries, reclaimed);
    match (bath, oil, water) {
        (Some(_), ..) if worth_air && !climbed => air(now()),
        (Some(bath), ..) => ladder(entries, bath, reclaimed),
        (None, None, _) => Guide::first(Stage::Oil, (Bath::Oil, FIRST_C), now()),
        (None, Some(_), None) => Guide::first(Stage::Water, (Bath::Water, FIRST_C), now()),
        (None, Some(_), Some(_)) => {
            let soft = TrialEnd::NotABladeSteel {
                carbon_percent: carbon_of(50.0),
            };
            // Soft from a heat just past the magnet is what much alloy is, too.
            if worth_air {
                air(soft)
            } else {
                Guide::ended(soft)
            }
        }
    }
}

fn ladder(entries: &[Entry], bath: Bath, reclaimed: &Reclaimed) -> Guide {
    let done = rungs(entries, &reclaimed.steel());
    let coarse = done.iter().any(|r| r.2 >= COARSE);
    let hard = done.iter().any(|r| r.1 == Filed::Skates);
    // A steel that hardens in air is tried about its own heat.
    let about = match bath {
        Bath::Air => reclaimed.steel().austenitize.nominal.value() - RUNGS_C[2],
        Bath::Oil | Bath::Water => 0.0,
    };
    let asked = RUNGS_C.map(|t| t + about);
    let next = asked
        .into_iter()
        .find(|t| !done.iter().any(|r| (r.0 - t).abs() < 8.0));
    let verdict = conclude(entries, reclaimed);
    if done.len() >= ENOUGH_RUNGS && hard && (coarse || next.is_none()) {
        return Guide::ended(verdict);
    }
    // Where nothing on the ladder hardened, it goes on upwards.
    let above = done.last().map_or(asked[0], |r| r.0 + 20.0);
    let t = next.unwrap_or(above).min(1100.0);
    Guide {
        stage: Stage::Ladder,
        rung: Some(done.len() + 1),
        bath: Some(bath),
        temperature_c: Some(t),
        verdict: Some(verdict),
    }
}

/// Carbon whose full martensite is this hard, percent (inverse of [`martensite_hrc`]).
fn carbon_of(hrc: f64) -> f64 {
    let (mut low, mut high) = (0.05, 1.0);
    for _ in 0..40 {
        let middle = 0.5 * (low + high);
        if martensite_hrc(middle) < hrc {
            low = middle;
        } else {
            high = middle;
        }
    }
    0.5 * (low + high)
}

/// Lowest, best and highest heat by a ladder of three rungs or more, one of them hard; and where it grew coarse, °C.
fn window(done: &[(f64, Filed, u8)]) -> Option<([f64; 3], Option<f64>)> {
    let hard: Vec<_> = done.iter().filter(|r| r.1 == Filed::Skates).collect();
    let first_hard = hard.first()?.0;
    if done.len() < ENOUGH_RUNGS {
        return None;
    }
    let coarsens_c = done.iter().find(|r| r.2 >= COARSE).map(|r| r.0);
    // The finest fracture that is hard; of equals the hottest, for what it dissolves.
    let finest = hard.iter().map(|r| r.2).min()?;
    let best = hard
        .iter()
        .filter(|r| r.2 == finest)
        .map(|r| r.0)
        .fold(first_hard, f64::max);
    let top = match coarsens_c {
        Some(t) => (t - 10.0).max(best),
        None => best + 10.0,
    };
    Some(([first_hard.min(best), best, top], coarsens_c))
}

/// What is known of a steel after these coupons.
#[must_use]
pub fn estimate(entries: &[Entry], reclaimed: &Reclaimed) -> Estimate {
    let likely = reclaimed.steel();
    let by_ladder = window(&rungs(entries, &likely));
    let usual = likely.austenitize;
    let usual_c = [usual.low, usual.nominal, usual.high].map(|t| t.value().round());
    let (austenitize_c, coarsens_c) = by_ladder.unwrap_or((usual_c, None));
    // Into water only once oil has left it soft: an unknown steel may crack there.
    let bath = hardens_in(entries).unwrap_or(match likely.hardening {
        Hardening::Air => Bath::Air,
        _ => Bath::Oil,
    });
    Estimate {
        carbon: reclaimed.carbon,
        manganese: reclaimed.analysis.manganese,
        austenitize_c,
        coarsens_c,
        bath,
        reclaimed: Some(reclaimed.clone()),
    }
}

fn conclude(entries: &[Entry], reclaimed: &Reclaimed) -> TrialEnd {
    TrialEnd::HouseSteel {
        estimate: Box::new(estimate(entries, reclaimed)),
    }
}

impl Estimate {
    /// The analysis it is planned with: the likeliest, or what it behaves as if it had.
    #[must_use]
    pub fn analysis(&self) -> Analysis {
        self.reclaimed.as_ref().map_or_else(
            || Analysis {
                carbon: self.carbon[1],
                silicon: 0.25,
                manganese: self.manganese,
                ..Analysis::default()
            },
            |r| r.analysis,
        )
    }

    /// The steel: formulas for the analysis, the trial's own temperatures and bath, and an interval as
    /// wide as what it may be made of.
    #[must_use]
    pub fn steel(&self, key: &str, name: &str) -> Steel {
        let mut steel = Steel::from_analysis(key, name, &self.analysis());
        let [low, best, high] = self.austenitize_c.map(Celsius::clamped);
        steel = steel.with_window(Window {
            low,
            nominal: best,
            high,
        });
        if let Some(t) = self.coarsens_c {
            steel.coarsening_c = t;
        }
        if steel.normalize.is_some() {
            steel.normalize = Some(Celsius::clamped(best.value() + 40.0));
        }
        match self.bath {
            Bath::Oil => {
                steel.hardening = Hardening::Oil;
                steel.media = vec![Medium::FastOil, Medium::MediumOil];
                steel.water_then_oil = false;
            }
            Bath::Water => {
                steel.hardening = Hardening::Water;
                steel.media = vec![Medium::Water, Medium::FastOil];
                steel.water_then_oil = true;
            }
            Bath::Air => {
                steel.hardening = Hardening::Air;
                steel.media = vec![Medium::Plates, Medium::ForcedAir, Medium::StillAir];
                steel.water_then_oil = false;
                steel.normalize = None;
            }
        }
        match &self.reclaimed {
            Some(known) => {
                let formula = steel.spread_hrc();
                steel.perhaps.clone_from(&known.analyses);
                steel.origin = Origin::Reclaimed {
                    was: known.was,
                    tried: known.coupons > 0 || known.readings > 0,
                    spread_hrc: formula.hypot(known.spread_hrc()),
                    formula_hrc: formula,
                };
            }
            None => {
                let width = martensite_hrc(self.carbon[2]) - martensite_hrc(self.carbon[0]);
                steel.origin = Origin::Trial {
                    spread_hrc: (1.3_f64.powi(2) + (width / 3.3).powi(2)).sqrt(),
                };
            }
        }
        steel
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learning::belief::Belief;
    use crate::material::reclaimed::Measured;
    use crate::material::salvage::Salvage;
    use crate::process::calibration::Corrections;
    use crate::quantity::units::Millimetres;
    use rstest::rstest;

    fn first(bath: Bath, file: Filed) -> Entry {
        Entry::First {
            bath,
            file,
            skated_hrc: None,
            bit_hrc: None,
            temperature_c: None,
            by: None,
        }
    }

    fn rung(t: f64, file: Filed, grain: u8) -> Entry {
        Entry::Rung {
            temperature_c: Some(t),
            by: None,
            file,
            grain,
        }
    }

    fn told(was: Salvage, entries: &[Entry]) -> Guide {
        let belief = Belief::prior(was, &Measured::default()).with_coupons(
            entries,
            Millimetres::clamped(5.0),
            &Corrections::default(),
        );
        guide(entries, &belief.reclaimed())
    }

    fn found(g: &Guide) -> &Estimate {
        match &g.verdict {
            Some(TrialEnd::HouseSteel { estimate }) => estimate,
            other => panic!("{other:?}"),
        }
    }

    #[test]
    fn it_is_led_from_oil_to_water_to_the_verdict() {
        let mut all = vec![];
        assert_eq!(told(Salvage::UnknownBar, &all).stage, Stage::Oil);
        all.push(first(Bath::Oil, Filed::Bites));
        assert_eq!(told(Salvage::UnknownBar, &all).stage, Stage::Water);
        all.push(first(Bath::Water, Filed::Bites));
        let end = told(Salvage::UnknownBar, &all);
        assert!(matches!(end.verdict, Some(TrialEnd::NotABladeSteel { .. })));
        // Before it is given up: it may be full of alloy.
        assert_eq!((end.stage, end.temperature_c), (Stage::Air, Some(AIR_C)));
        all.push(first(Bath::Air, Filed::Bites));
        let end = told(Salvage::UnknownBar, &all);
        assert_eq!(end.stage, Stage::Done);
        assert!(matches!(end.verdict, Some(TrialEnd::NotABladeSteel { .. })));
    }

    #[test]
    fn it_can_be_planned_with_before_anything_was_tried() {
        let g = told(Salvage::File, &[]);
        assert_eq!((g.stage, g.bath), (Stage::Oil, Some(Bath::Oil)));
        let steel = found(&g).steel("x", "Old file");
        assert!(matches!(
            steel.origin,
            Origin::Reclaimed { tried: false, .. }
        ));
        assert!(steel.analysis.carbon > 1.0 && steel.perhaps.len() > 8);
        // Not into water before oil was tried.
        assert!(steel.media.iter().all(|m| !m.is_water()));
    }

    #[test]
    fn what_hardens_climbs_the_ladder_until_it_grows_coarse() {
        let mut all = vec![first(Bath::Oil, Filed::Skates)];
        let g = told(Salvage::LeafSpring, &all);
        assert_eq!((g.stage, g.temperature_c), (Stage::Ladder, Some(770.0)));
        assert_eq!(g.bath, Some(Bath::Oil));
        for (t, file, grain) in [
            (770.0, Filed::Bites, 1),
            (790.0, Filed::Skates, 1),
            (810.0, Filed::Skates, 1),
            (830.0, Filed::Skates, 3),
        ] {
            all.push(rung(t, file, grain));
        }
        let g = told(Salvage::LeafSpring, &all);
        assert_eq!(g.temperature_c, Some(850.0));
        all.push(rung(850.0, Filed::Skates, 4));
        let g = told(Salvage::LeafSpring, &all);
        let estimate = found(&g);
        assert_eq!(g.stage, Stage::Done);
        assert_eq!(estimate.austenitize_c, [790.0, 810.0, 840.0]);
        assert_eq!(estimate.coarsens_c, Some(850.0));
        assert_eq!(estimate.bath, Bath::Oil);
    }

    #[test]
    fn one_that_is_hard_without_a_quench_is_recognised() {
        let mut all = vec![
            first(Bath::Oil, Filed::Bites),
            first(Bath::Water, Filed::Bites),
        ];
        let g = told(Salvage::PlaneIron, &all);
        assert_eq!((g.stage, g.bath), (Stage::Air, Some(Bath::Air)));
        assert!(matches!(g.verdict, Some(TrialEnd::NotABladeSteel { .. })));
        // Files are not made of such steel: nothing is asked for nothing.
        assert_eq!(told(Salvage::File, &all).stage, Stage::Done);
        all.push(first(Bath::Air, Filed::Skates));
        let g = told(Salvage::PlaneIron, &all);
        let steel = found(&g).steel("x", "Iron");
        assert_eq!(steel.hardening, Hardening::Air);
        assert!(steel.analysis.chromium > 4.0, "{:?}", steel.analysis);
        // Its ladder is about its own heat.
        assert!(
            g.stage == Stage::Ladder && g.temperature_c > Some(860.0),
            "{g:?}"
        );
    }

    #[test]
    fn a_trial_by_eye_and_magnet_is_a_trial() {
        let by = |sign| Entry::Rung {
            temperature_c: None,
            by: Some(Sighting { sign, eye_id: None }),
            file: Filed::Skates,
            grain: 2,
        };
        let cherry = Sign::Colour {
            colour: Glow::BrightCherry,
            light: Light::Dim,
        };
        let all = [
            first(Bath::Oil, Filed::Skates),
            by(Sign::MagnetLetsGo {}),
            by(Sign::PastMagnet {}),
            by(cherry),
        ];
        let g = told(Salvage::SawPlate, &all);
        let [low, best, high] = found(&g).austenitize_c;
        assert!(low < best && best < high && (700.0..790.0).contains(&low));
        assert!((best - 843.0).abs() < 1.0);
    }

    #[test]
    fn a_set_of_files_narrows_the_carbon() {
        let carbon = |skated_hrc, bit_hrc| {
            let all = [
                first(Bath::Oil, Filed::Bites),
                Entry::First {
                    bath: Bath::Water,
                    file: Filed::Skates,
                    skated_hrc,
                    bit_hrc,
                    temperature_c: None,
                    by: None,
                },
            ];
            found(&told(Salvage::UnknownBar, &all)).clone()
        };
        let (wide, narrow) = (carbon(None, None), carbon(Some(54.0), Some(58.0)));
        // Half of what it may be, between its quarters.
        let width = |e: &Estimate| {
            let all = &e.reclaimed.as_ref().unwrap().analyses;
            all[12].carbon - all[4].carbon
        };
        assert!(width(&narrow) < 0.5 * width(&wide), "{narrow:?} {wide:?}");
        assert!(wide.carbon[1] > 0.65, "{wide:?}");
        assert!((0.35..0.6).contains(&narrow.carbon[1]), "{narrow:?}");
    }

    #[test]
    fn the_steel_it_makes_can_be_planned_with() {
        let all = [
            first(Bath::Oil, Filed::Bites),
            first(Bath::Water, Filed::Skates),
            rung(770.0, Filed::Skates, 1),
            rung(790.0, Filed::Skates, 2),
            rung(810.0, Filed::Skates, 5),
        ];
        let g = told(Salvage::File, &all);
        let steel = found(&g).steel("x", "Old file");
        assert_eq!(steel.hardening, Hardening::Water);
        assert!(steel.media[0].is_water() && steel.austenitize.nominal.value() == 770.0);
        assert!((50.0..68.0).contains(&steel.nominal_hrc(20.0).0));
    }

    #[rstest]
    #[case(
        r#"{"kind":"rung","temperature_c":2000,"file":"skates","grain":2}"#,
        "temperature_c"
    )]
    #[case(r#"{"kind":"rung","file":"skates","grain":2}"#, "temperature_c")]
    #[case(
        r#"{"kind":"rung","temperature_c":800,"by":{"sign":"past_magnet"},"file":"skates","grain":2}"#,
        "by"
    )]
    #[case(
        r#"{"kind":"rung","temperature_c":800,"file":"skates","grain":9}"#,
        "grain"
    )]
    #[case(
        r#"{"kind":"first","bath":"oil","file":"skates","skated_hrc":75}"#,
        "skated_hrc"
    )]
    #[case(
        r#"{"kind":"first","bath":"oil","file":"skates","skated_hrc":62,"bit_hrc":60}"#,
        "bit_hrc"
    )]
    fn bad_entries_name_their_field(#[case] json: &str, #[case] field: &str) {
        let entry: Entry = serde_json::from_str(json).unwrap();
        assert_eq!(entry.check().unwrap_err().0[0].field, field);
    }

    #[test]
    fn a_ladder_where_nothing_hardens_goes_on_upwards() {
        let mut all = vec![first(Bath::Oil, Filed::Skates)];
        all.extend(RUNGS_C.map(|t| rung(t, Filed::Bites, 1)));
        let g = told(Salvage::File, &all);
        assert_eq!((g.stage, g.temperature_c), (Stage::Ladder, Some(870.0)));
    }

    #[test]
    fn a_trial_of_an_older_time_is_still_a_steel() {
        let old = r#"{"carbon":[0.5,0.7,1.0],"manganese":0.8,"austenitize_c":[790,810,830],"coarsens_c":850,"bath":"oil"}"#;
        let steel = serde_json::from_str::<Estimate>(old)
            .unwrap()
            .steel("x", "Old spring");
        assert!(matches!(steel.origin, Origin::Trial { .. }) && steel.spread_hrc() > 1.3);
        assert_eq!(steel.coarsening_c, 850.0);
    }
}
