//! A coupon trial: small pieces of an unknown steel, heated, quenched and filed, then a ladder of
//! temperatures broken and graded; step by step to a house steel with honest width, or to "no blade
//! steel".

use crate::material::analysis::Analysis;
use crate::material::hardness::martensite_hrc;
use crate::material::medium::Medium;
use crate::material::steel::{Hardening, Origin, Steel, Window};
use crate::quantity::units::{Celsius, Quantity};
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};

/// Most entries of a trial.
pub const MAX_ENTRIES: usize = 20;
/// Temperatures of the ladder that are asked for, °C.
const RUNGS_C: [f64; 5] = [770.0, 790.0, 810.0, 830.0, 850.0];
/// From this grade on a fracture is coarse.
const COARSE: u8 = 4;
/// Heat of the first coupons: past non-magnetic and a shade more, °C.
const FIRST_C: f64 = 820.0;
/// A plain file of this hardness and softer bites into what did not harden, HRC.
const PLAIN_FILE_HRC: f64 = 60.0;

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

/// Where a coupon was quenched.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Bath {
    /// Oil.
    Oil,
    /// Water.
    Water,
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
    },
    /// A rung of the ladder: heated to a temperature, quenched, filed, broken and graded.
    Rung {
        /// Temperature, 650 to 1100 °C.
        temperature_c: f64,
        /// What the file did.
        file: Filed,
        /// Grain of the fracture, 1 (silky) to 5 (sugar).
        grain: u8,
    },
}

impl Entry {
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
                grain,
                ..
            } => {
                within(
                    "temperature_c",
                    *temperature_c,
                    (650.0, 1100.0),
                    Some(Unit::Celsius),
                );
                within("grain", f64::from(*grain), (1.0, 5.0), None);
            }
        }
        c.finish(Some(()))
    }
}

/// What a trial has found out of a steel.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Estimate {
    /// Carbon, percent: lowest, likely, highest.
    pub carbon: [f64; 3],
    /// Manganese it behaves as if it had, percent.
    pub manganese: f64,
    /// Austenitizing, °C: lowest, best, highest.
    pub austenitize_c: [f64; 3],
    /// Grain coarsens from here, °C, when the ladder went that far.
    pub coarsens_c: Option<f64>,
    /// What hardens it.
    pub bath: Bath,
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
        estimate: Estimate,
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

    const fn first(stage: Stage, bath: Bath) -> Self {
        Self {
            stage,
            rung: None,
            bath: Some(bath),
            temperature_c: Some(FIRST_C),
            verdict: None,
        }
    }
}

fn firsts(entries: &[Entry], bath: Bath) -> impl Iterator<Item = Filed> + '_ {
    entries.iter().filter_map(move |e| match e {
        Entry::First { bath: b, file, .. } if *b == bath => Some(*file),
        _ => None,
    })
}

fn rungs(entries: &[Entry]) -> Vec<(f64, Filed, u8)> {
    let mut all: Vec<_> = entries
        .iter()
        .filter_map(|e| match e {
            Entry::Rung {
                temperature_c,
                file,
                grain,
            } => Some((*temperature_c, *file, *grain)),
            Entry::First { .. } => None,
        })
        .collect();
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    all
}

/// What hardens it, so far.
fn hardens_in(entries: &[Entry]) -> Option<Bath> {
    if firsts(entries, Bath::Oil).last() == Some(Filed::Skates) {
        Some(Bath::Oil)
    } else if firsts(entries, Bath::Water).last() == Some(Filed::Skates) {
        Some(Bath::Water)
    } else {
        None
    }
}

/// The next step of a trial.
#[must_use]
pub fn guide(entries: &[Entry]) -> Guide {
    let oil = firsts(entries, Bath::Oil).last();
    let water = firsts(entries, Bath::Water).last();
    match (oil, water) {
        (None, _) => Guide::first(Stage::Oil, Bath::Oil),
        (Some(Filed::Bites), None) => Guide::first(Stage::Water, Bath::Water),
        (Some(Filed::Bites), Some(Filed::Bites)) => Guide::ended(TrialEnd::NotABladeSteel {
            carbon_percent: carbon_of(50.0),
        }),
        _ => ladder(entries),
    }
}

fn ladder(entries: &[Entry]) -> Guide {
    let bath = hardens_in(entries).unwrap_or(Bath::Water);
    let done = rungs(entries);
    let coarse = done.iter().any(|r| r.2 >= COARSE);
    let hard = done.iter().filter(|r| r.1 == Filed::Skates).count();
    let next = RUNGS_C
        .into_iter()
        .find(|t| !done.iter().any(|r| (r.0 - t).abs() < 8.0));
    let enough = done.len() >= 3 && hard >= 1;
    let verdict = enough.then(|| conclude(entries, bath));
    let finished = coarse && enough || next.is_none();
    if let (true, Some(verdict)) = (finished, verdict.clone()) {
        return Guide::ended(verdict);
    }
    // Where nothing on the ladder hardened, it goes on upwards.
    let above = done.last().map_or(RUNGS_C[0], |r| r.0 + 20.0);
    let t = next.unwrap_or(above).min(1100.0);
    Guide {
        stage: Stage::Ladder,
        rung: Some(done.len() + 1),
        bath: Some(bath),
        temperature_c: Some(t),
        verdict,
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

fn conclude(entries: &[Entry], bath: Bath) -> TrialEnd {
    // The hardest file that skated and the softest that bit, of coupons that hardened.
    let (mut skated, mut bit) = (PLAIN_FILE_HRC - 3.0, 68.0_f64);
    for e in entries {
        if let Entry::First {
            file: Filed::Skates,
            skated_hrc,
            bit_hrc,
            ..
        } = e
        {
            skated = skated_hrc.unwrap_or(skated).max(skated);
            bit = bit_hrc.unwrap_or(bit).min(bit);
        }
    }
    // A point of file and hand on either side; above 0.8 % hardness says nothing more.
    let low = carbon_of(skated - 1.0).clamp(0.35, 0.85);
    let high = if bit < 65.0 {
        carbon_of(bit + 1.0).clamp(low + 0.08, 1.1)
    } else {
        1.1
    };
    let likely = if high >= 1.1 {
        (low + 0.3 * (high - low)).max(0.7_f64.min(high))
    } else {
        0.5 * (low + high)
    };
    let done = rungs(entries);
    let hard: Vec<_> = done.iter().filter(|r| r.1 == Filed::Skates).collect();
    let first_hard = hard.first().map_or(RUNGS_C[1], |r| r.0);
    let coarsens_c = done.iter().find(|r| r.2 >= COARSE).map(|r| r.0);
    // The finest fracture that is hard; of equals the hottest, for what it dissolves.
    let finest = hard.iter().map(|r| r.2).min().unwrap_or(2);
    let best = hard
        .iter()
        .filter(|r| r.2 == finest)
        .map(|r| r.0)
        .fold(first_hard, f64::max);
    let top = match coarsens_c {
        Some(t) => (t - 10.0).max(best),
        None => best + 10.0,
    };
    let manganese = match bath {
        Bath::Oil => 0.8,
        Bath::Water => 0.3,
    };
    let estimate = Estimate {
        carbon: [low, likely, high].map(|c| (c * 100.0).round() / 100.0),
        manganese,
        austenitize_c: [first_hard.min(best), best, top],
        coarsens_c,
        bath,
    };
    TrialEnd::HouseSteel { estimate }
}

impl Estimate {
    /// The analysis it behaves as if it had.
    #[must_use]
    pub fn analysis(&self) -> Analysis {
        Analysis {
            carbon: self.carbon[1],
            silicon: 0.25,
            manganese: self.manganese,
            ..Analysis::default()
        }
    }

    /// The steel: formulas for the analysis, the trial's own temperatures and bath, and an interval as
    /// wide as the carbon is unsure.
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
        }
        let width = martensite_hrc(self.carbon[2]) - martensite_hrc(self.carbon[0]);
        steel.origin = Origin::Trial {
            spread_hrc: (1.3_f64.powi(2) + (width / 3.3).powi(2)).sqrt(),
        };
        steel
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn first(bath: Bath, file: Filed) -> Entry {
        Entry::First {
            bath,
            file,
            skated_hrc: None,
            bit_hrc: None,
        }
    }

    fn rung(t: f64, file: Filed, grain: u8) -> Entry {
        Entry::Rung {
            temperature_c: t,
            file,
            grain,
        }
    }

    #[test]
    fn it_is_led_from_oil_to_water_to_the_verdict() {
        let mut all = vec![];
        assert_eq!(guide(&all).stage, Stage::Oil);
        all.push(first(Bath::Oil, Filed::Bites));
        assert_eq!(guide(&all).stage, Stage::Water);
        all.push(first(Bath::Water, Filed::Bites));
        let end = guide(&all);
        assert_eq!(end.stage, Stage::Done);
        assert!(matches!(end.verdict, Some(TrialEnd::NotABladeSteel { .. })));
    }

    #[test]
    fn what_hardens_climbs_the_ladder_until_it_grows_coarse() {
        let mut all = vec![first(Bath::Oil, Filed::Skates)];
        let g = guide(&all);
        assert_eq!(
            (g.stage, g.temperature_c, g.verdict.is_some()),
            (Stage::Ladder, Some(770.0), false)
        );
        assert_eq!(g.bath, Some(Bath::Oil));
        for (t, file, grain) in [
            (770.0, Filed::Bites, 1),
            (790.0, Filed::Skates, 1),
            (810.0, Filed::Skates, 1),
            (830.0, Filed::Skates, 3),
        ] {
            all.push(rung(t, file, grain));
        }
        let g = guide(&all);
        assert!(g.temperature_c == Some(850.0) && g.verdict.is_some());
        all.push(rung(850.0, Filed::Skates, 4));
        let g = guide(&all);
        let Some(TrialEnd::HouseSteel { estimate }) = g.verdict else {
            panic!("{g:?}")
        };
        assert_eq!(g.stage, Stage::Done);
        assert_eq!(estimate.austenitize_c, [790.0, 810.0, 840.0]);
        assert_eq!(estimate.coarsens_c, Some(850.0));
        assert_eq!(
            (estimate.austenitize_c[1], estimate.bath),
            (810.0, Bath::Oil)
        );
    }

    #[test]
    fn a_set_of_files_narrows_the_carbon() {
        let ladder = [
            rung(770.0, Filed::Bites, 1),
            rung(790.0, Filed::Skates, 2),
            rung(810.0, Filed::Skates, 4),
        ];
        let carbon = |skated, bit| {
            let mut all = vec![first(Bath::Oil, Filed::Bites)];
            all.push(Entry::First {
                bath: Bath::Water,
                file: Filed::Skates,
                skated_hrc: skated,
                bit_hrc: bit,
            });
            all.extend(ladder);
            match guide(&all).verdict {
                Some(TrialEnd::HouseSteel { estimate, .. }) => estimate,
                other => panic!("{other:?}"),
            }
        };
        let (wide, narrow) = (carbon(None, None), carbon(Some(58.0), Some(62.0)));
        let width = |e: Estimate| e.carbon[2] - e.carbon[0];
        assert!(width(narrow) < width(wide), "{narrow:?} {wide:?}");
        assert!((0.4..0.6).contains(&narrow.carbon[1]), "{narrow:?}");
        let (sure, unsure) = (narrow.steel("a", "a"), wide.steel("b", "b"));
        assert!(sure.spread_hrc() < unsure.spread_hrc() && unsure.spread_hrc() > 1.3);
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
        let Some(TrialEnd::HouseSteel { estimate, .. }) = guide(&all).verdict else {
            panic!()
        };
        let steel = estimate.steel("x", "Old spring");
        assert_eq!(steel.hardening, Hardening::Water);
        assert!(steel.media[0].is_water() && steel.austenitize.nominal.value() == 770.0);
        assert!((50.0..68.0).contains(&steel.nominal_hrc(20.0).0));
    }

    #[rstest]
    #[case(
        r#"{"kind":"rung","temperature_c":2000,"file":"skates","grain":2}"#,
        "temperature_c"
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
        let g = guide(&all);
        assert_eq!((g.stage, g.temperature_c), (Stage::Ladder, Some(870.0)));
        assert!(g.verdict.is_none());
    }
}
