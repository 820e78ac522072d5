//! A ladder on a steel that is known: coupons alike but for one temperature, that of the hardening heat or that of the
//! temper, each read cold; what they say of the best heat, or of the temper for a hardness.

use crate::geometry::blade::{Blade, BladeDraft};
use crate::material::medium::Medium;
use crate::material::steel::{Hardening, Steel};
use crate::process::plan::{Plan, Stations};
use crate::process::step::{MAX_TIMES, Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::interval::Interval;
use crate::quantity::units::{Celsius, Hrc, Millimetres, Quantity, Seconds};
use crate::quantity::validation::{Checker, Faults, Unit};
use crate::record::reading::{Values, When};
use crate::record::trial::{COARSE, Filed};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Most rungs of a ladder.
pub const MAX_RUNGS: usize = 12;
/// Rungs that were read from which a ladder says anything.
const ENOUGH: usize = 3;
/// Hard enough is within this of the hardest, HRC: about what two readings of one coupon differ by.
const HARD_ENOUGH_HRC: f64 = 1.0;
/// Rungs of heats are this far apart, and above 900 °C, where carbides of alloy dissolve slower, this far, K.
const APART_K: (f64, f64) = (15.0, 25.0);
/// Heat from which the wider steps are usual, °C.
const WIDE_FROM_C: f64 = 900.0;
/// Tempers of low-alloy steel, °C.
const TEMPERS_C: [f64; 5] = [150.0, 175.0, 200.0, 230.0, 260.0];
/// Tempers of steel that hardens a second time, °C.
const SECOND_C: [f64; 5] = [480.0, 510.0, 540.0, 560.0, 590.0];
/// Steel hardened from here on is usually tempered for its second hardness, °C.
const SECOND_FROM_C: f64 = 1100.0;
/// Two rungs closer than this are the same one, K.
const SAME_K: f64 = 4.0;
/// Hottest and coolest rung of heats, and of tempers, °C.
const HEATS_C: (f64, f64) = (650.0, 1300.0);
const TEMPER_RANGE_C: (f64, f64) = (80.0, 700.0);
/// Thinnest and thickest coupon, mm.
const THICKNESS_MM: (f64, f64) = (1.0, 20.0);

/// What differs from rung to rung.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Along {
    /// The heat they are quenched from; read as quenched, broken and graded.
    Heats,
    /// The temper after one quench of all of them.
    Tempers,
}

/// What all coupons of a ladder go through alike.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Treatment {
    /// Thickness of the coupons, 1 to 20 mm.
    pub thickness_mm: Millimetres,
    /// Heat they are quenched from, °C; of a ladder of heats the usual one of the steel.
    pub heat_c: Celsius,
    /// Soak, s.
    pub soak_s: Seconds,
    /// What they are quenched in.
    pub medium: Medium,
    /// Its temperature, °C.
    pub bath_c: Celsius,
    /// Hold of each temper, s.
    pub hold_s: Seconds,
    /// How many tempers, 1 to 12.
    pub times: u32,
    /// Fire and oven used, where known.
    #[serde(default)]
    pub stations: Stations,
    /// The tester they are read with, where known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tester: Option<Uuid>,
}

/// A coupon, and what was read of it cold.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Rung {
    /// Its temperature as the instrument showed it, °C: 650 to 1300 of a heat, 80 to 700 of a temper.
    pub temperature_c: f64,
    /// Readings, HRC; empty while it is not read.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub values_hrc: Vec<f64>,
    /// The hardest file of a set that skated, 40 to 67 HRC.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub skated_hrc: Option<f64>,
    /// The softest file that bit, 40 to 70 HRC.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bit_hrc: Option<f64>,
    /// What a plain file did.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub file: Option<Filed>,
    /// Grain of the fracture, 1 (silky) to 5 (sugar).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub grain: Option<u8>,
}

/// How hard a coupon is, as far as it was tried.
#[derive(Debug, Clone, PartialEq)]
pub enum Hardness {
    /// Read by a tester.
    Read(Values),
    /// Between two files of a set, HRC.
    Between(f64, f64),
}

impl Hardness {
    /// The middle, HRC.
    #[must_use]
    pub fn middle(&self) -> f64 {
        match self {
            Self::Read(values) => values.mean(),
            Self::Between(low, high) => 0.5 * (low + high),
        }
    }
}

impl Rung {
    /// One that is not made yet.
    #[must_use]
    pub const fn at(temperature_c: f64) -> Self {
        Self {
            temperature_c,
            values_hrc: Vec::new(),
            skated_hrc: None,
            bit_hrc: None,
            file: None,
            grain: None,
        }
    }

    /// How hard it is, as a number; readings before files.
    #[must_use]
    pub fn hardness(&self) -> Option<Hardness> {
        if let Ok(values) = Values::parse(&self.values_hrc) {
            return Some(Hardness::Read(values));
        }
        let (low, high) = self.skated_hrc.zip(self.bit_hrc)?;
        Some(Hardness::Between(low, high))
    }

    fn check(&self, along: Along) -> Result<(), Faults> {
        let mut c = Checker::default();
        let mut within = |field: &str, value: f64, (low, high): (f64, f64), unit: Unit| {
            if !(low..=high).contains(&value) {
                c.refuse_outside(field, "This is not possible.", (low, high), unit);
            }
        };
        let heats = match along {
            Along::Heats => HEATS_C,
            Along::Tempers => TEMPER_RANGE_C,
        };
        within("temperature_c", self.temperature_c, heats, Unit::Celsius);
        if let Some(v) = self.skated_hrc {
            within("skated_hrc", v, (40.0, 67.0), Unit::Hrc);
        }
        if let Some(v) = self.bit_hrc {
            within("bit_hrc", v, (40.0, 70.0), Unit::Hrc);
        }
        if let (Some(skated), Some(bit)) = (self.skated_hrc, self.bit_hrc)
            && skated >= bit
        {
            let message = "A file that bites is harder than one that skates.";
            c.refuse("bit_hrc", message);
        }
        if self.grain.is_some_and(|g| !(1..=5).contains(&g)) {
            c.refuse_allowing("grain", "This is not possible.", "1 to 5");
        }
        if !self.values_hrc.is_empty() {
            let values = Values::parse(&self.values_hrc);
            c.take(values.map_err(|mut faults| {
                for fault in &mut faults.0 {
                    fault.field = fault.field.replace("values", "values_hrc");
                }
                faults
            }));
        }
        c.finish(Some(()))
    }
}

/// A ladder.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Ladder {
    /// What differs.
    pub along: Along,
    /// What does not.
    pub treatment: Treatment,
    /// The coupons.
    pub rungs: Vec<Rung>,
}

impl Ladder {
    /// The usual one of a steel: five coupons about its heat, or of its tempers.
    #[must_use]
    pub fn usual(along: Along, steel: &Steel) -> Self {
        let heat = steel.austenitize.nominal;
        let apart = if heat.value() > WIDE_FROM_C {
            APART_K.1
        } else {
            APART_K.0
        };
        let at: Vec<f64> = match along {
            Along::Heats => (-2..=2)
                .map(|i| heat.value() + apart * f64::from(i))
                .map(|t| t.clamp(HEATS_C.0, HEATS_C.1))
                .collect(),
            Along::Tempers if heat.value() >= SECOND_FROM_C => SECOND_C.to_vec(),
            Along::Tempers => TEMPERS_C.to_vec(),
        };
        let medium = steel.media.first().copied().unwrap_or(Medium::MediumOil);
        Self {
            along,
            treatment: Treatment {
                thickness_mm: Millimetres::clamped(4.0),
                heat_c: heat,
                soak_s: steel.soak,
                medium,
                bath_c: medium.usual_bath(),
                hold_s: Seconds::clamped(7200.0),
                times: if matches!(steel.hardening, Hardening::Air) {
                    2
                } else {
                    1
                },
                stations: Stations::default(),
                tester: None,
            },
            rungs: at.into_iter().map(Rung::at).collect(),
        }
    }

    /// Checks it; the rungs come out from cool to hot.
    ///
    /// # Errors
    /// Faults such as `treatment.thickness_mm` and `rungs[2].values_hrc[0]`.
    pub fn checked(mut self) -> Result<Self, Faults> {
        let mut c = Checker::default();
        let thick = self.treatment.thickness_mm.value();
        if !(THICKNESS_MM.0..=THICKNESS_MM.1).contains(&thick) {
            c.refuse_outside(
                "treatment.thickness_mm",
                "A coupon of this thickness is not possible.",
                THICKNESS_MM,
                Unit::Millimetre,
            );
        }
        let heat = self.treatment.heat_c.value();
        if !(HEATS_C.0..=HEATS_C.1).contains(&heat) {
            let message = "Nothing hardens from this.";
            c.refuse_outside("treatment.heat_c", message, HEATS_C, Unit::Celsius);
        }
        if !(1..=MAX_TIMES).contains(&self.treatment.times) {
            let message = "Tempers are done once or more.";
            c.refuse_allowing("treatment.times", message, format!("1 to {MAX_TIMES}"));
        }
        if self.treatment.hold_s.value() < 60.0 && self.along == Along::Tempers {
            let message = "No coupon is through in this time.";
            let range = (60.0, Seconds::RANGE.1);
            c.refuse_outside("treatment.hold_s", message, range, Unit::Second);
        }
        if self.rungs.is_empty() || self.rungs.len() > MAX_RUNGS {
            let message = "A ladder has a few coupons.";
            c.refuse_allowing("rungs", message, format!("1 to {MAX_RUNGS}"));
        }
        for (i, rung) in self.rungs.iter().enumerate().take(MAX_RUNGS) {
            let checked = rung.check(self.along);
            c.take(checked.map_err(|f| f.under(&format!("rungs[{i}]"))));
            let before = &self.rungs[..i];
            if before
                .iter()
                .any(|b| (b.temperature_c - rung.temperature_c).abs() < SAME_K)
            {
                c.refuse(
                    format!("rungs[{i}].temperature_c"),
                    "There is a coupon of this temperature.",
                );
            }
        }
        c.finish(Some(()))?;
        self.rungs
            .sort_by(|a, b| a.temperature_c.total_cmp(&b.temperature_c));
        Ok(self)
    }

    /// What a rung goes through.
    #[must_use]
    pub fn plan(&self, rung: &Rung) -> Plan {
        let of = &self.treatment;
        let heats = self.along == Along::Heats;
        let rung_c = Celsius::clamped(rung.temperature_c);
        let mut steps = vec![
            Step::Austenitize {
                temperature_c: if heats { rung_c } else { of.heat_c },
                soak_s: of.soak_s,
                station_id: None,
                by: None,
                fire: None,
            },
            Step::Quench {
                stages: vec![Stage {
                    bath_c: of.bath_c,
                    ..Stage::until_cold(of.medium)
                }],
            },
        ];
        if !heats {
            steps.push(Step::Temper {
                temperature_c: rung_c,
                hold_s: of.hold_s,
                times: of.times,
                station_id: None,
                clamp: None,
                cooled: None,
                blades: None,
                by: None,
            });
        }
        Plan::stored(steps).with_stations(of.stations)
    }

    /// When its coupons are read.
    #[must_use]
    pub const fn when(&self) -> When {
        match self.along {
            Along::Heats => When::AsQuenched,
            Along::Tempers => When::Tempered,
        }
    }

    /// A coupon as the engine takes it: a flat plate.
    #[must_use]
    pub fn coupon(&self) -> Option<Workpiece> {
        let thick = self.treatment.thickness_mm.value();
        let draft = BladeDraft {
            length_mm: Some(80.0),
            width_mm: Some(20.0_f64.max(2.0 * thick)),
            spine_mm: Some(thick),
            edge_mm: Some(thick),
            ..BladeDraft::default()
        };
        let blade: Blade = Blade::parse(&draft).ok()?;
        Some(Workpiece::plain(&blade))
    }

    /// The id that a coupon is learned from by. Those of tempers were quenched together and have what that heat was off in
    /// common; those of heats had each its own.
    #[must_use]
    pub fn coupon_id(&self, ladder: Uuid, number: usize) -> Uuid {
        match self.along {
            Along::Tempers => ladder,
            Along::Heats => Uuid::from_u128(ladder.as_u128() ^ (number as u128 + 1)),
        }
    }

    /// What the rungs say, each with what is expected of it knowing all that was read; None before three were read.
    #[must_use]
    pub fn found(&self, expected: &[Expected]) -> Option<Found> {
        match self.along {
            Along::Heats => self.best_heat(),
            Along::Tempers => self.tempers(expected),
        }
    }

    /// Coupons that were read or filed, from cool to hot, with whether each is hard enough.
    fn tried(&self) -> Vec<(&Rung, bool)> {
        let middle = |r: &Rung| r.hardness().map(|h| h.middle());
        let hardest = self.rungs.iter().filter_map(middle).fold(0.0, f64::max);
        let hard = |r: &Rung| match (middle(r), r.file) {
            (Some(hrc), _) => Some(hrc >= hardest - HARD_ENOUGH_HRC),
            (None, Some(file)) => Some(file == Filed::Skates),
            (None, None) => None,
        };
        let tried = self.rungs.iter().filter_map(|r| Some((r, hard(r)?)));
        tried.collect()
    }

    fn best_heat(&self) -> Option<Found> {
        let tried = self.tried();
        if tried.len() < ENOUGH {
            return None;
        }
        let graded = |r: &Rung| r.grain.unwrap_or(1);
        let coarse = |r: &Rung| graded(r) >= COARSE;
        let hard: Vec<&Rung> = tried.iter().filter(|t| t.1).map(|t| t.0).collect();
        let sound: Vec<&Rung> = hard.iter().copied().filter(|r| !coarse(r)).collect();
        let finest = sound.iter().map(|r| graded(r)).min();
        let middle = |r: &Rung| r.hardness().map_or(0.0, |h| h.middle());
        // The hardest of the finest; of those that only a file told of the hottest, for what it dissolves.
        let best = sound
            .iter()
            .filter(|r| Some(graded(r)) == finest)
            .max_by(|a, b| middle(a).total_cmp(&middle(b)));
        let numbers = hard.iter().filter_map(|r| r.hardness());
        Some(Found::Heats {
            low_c: sound.first().map(|r| r.temperature_c),
            best_c: best.map(|r| r.temperature_c),
            high_c: sound.last().map(|r| r.temperature_c),
            coarsens_c: tried
                .iter()
                .find(|t| coarse(t.0))
                .map(|t| t.0.temperature_c),
            hardest_hrc: numbers.map(|h| h.middle()).reduce(f64::max),
        })
    }

    fn tempers(&self, expected: &[Expected]) -> Option<Found> {
        let read: Vec<(f64, f64)> = self
            .rungs
            .iter()
            .zip(expected)
            .filter_map(|(r, e)| Some((r.hardness()?.middle(), e.physics_hrc)))
            .collect();
        if read.len() < ENOUGH {
            return None;
        }
        let offset_hrc = read.iter().map(|(m, p)| m - p).sum::<f64>() / read.len() as f64;
        // Whole hardnesses between the softest and the hardest, each at the hottest temper that still has it: that is the
        // tougher one, and the stable one above a second hardness.
        let curve: Vec<(f64, f64)> = self
            .rungs
            .iter()
            .zip(expected)
            .map(|(r, e)| (r.temperature_c, e.hrc.middle))
            .collect();
        let hrc = curve.iter().map(|p| p.1);
        let (softest, hardest) = (
            hrc.clone().fold(f64::MAX, f64::min),
            hrc.fold(f64::MIN, f64::max),
        );
        let mut for_hrc = Vec::new();
        let mut wanted = hardest.floor();
        while wanted >= softest && for_hrc.len() < 2 * MAX_RUNGS {
            let crossing = curve.windows(2).rev().find_map(|w| {
                let ((t0, h0), (t1, h1)) = (w[0], w[1]);
                let falls = h0 > h1 && (h1..=h0).contains(&wanted);
                falls.then(|| t0 + (h0 - wanted) / (h0 - h1) * (t1 - t0))
            });
            for_hrc.extend(crossing.map(|t| (Hrc::clamped(wanted), t.round())));
            wanted -= 1.0;
        }
        Some(Found::Tempers {
            offset_hrc,
            for_hrc,
        })
    }

    /// A coupon more that would tell where the ladder ends, and why; None when it says enough.
    #[must_use]
    pub fn next(&self, steel: &Steel) -> Option<NextRung> {
        let tried = self.tried();
        if self.along == Along::Tempers || tried.len() < self.rungs.len().max(ENOUGH) {
            return None;
        }
        if self.rungs.len() >= MAX_RUNGS {
            return None;
        }
        let (coolest, hottest) = (tried.first()?, tried.last()?);
        let apart = if steel.austenitize.nominal.value() > WIDE_FROM_C {
            APART_K.1
        } else {
            APART_K.0
        };
        let cooler = coolest.0.temperature_c - apart;
        if coolest.1 && cooler > steel.ac1_c {
            return Some(NextRung {
                temperature_c: cooler,
                why: WhyNext::CoolestIsHard,
            });
        }
        let coarse = tried.iter().any(|t| t.0.grain.is_some_and(|g| g >= COARSE));
        let hotter = hottest.0.temperature_c + apart;
        let rises = hottest.1 && !tried[..tried.len() - 1].iter().any(|t| t.1);
        let why = if rises || !tried.iter().any(|t| t.1) {
            WhyNext::StillRising
        } else if hottest.1 && !coarse && hottest.0.grain.is_some() {
            WhyNext::NotCoarseYet
        } else {
            return None;
        };
        (hotter <= HEATS_C.1).then_some(NextRung {
            temperature_c: hotter,
            why,
        })
    }
}

/// What is to be expected of a rung.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Expected {
    /// By physics alone, HRC.
    pub physics_hrc: f64,
    /// Knowing all records of the shop, this ladder among them.
    pub hrc: Interval,
}

/// What a ladder says.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(tag = "along", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = LadderFound))]
pub enum Found {
    /// Of heats.
    Heats {
        /// The coolest that is hard enough and not coarse, °C.
        low_c: Option<f64>,
        /// The best: the hardest of the finest fractures, °C.
        best_c: Option<f64>,
        /// The hottest that is hard enough and not coarse, °C.
        high_c: Option<f64>,
        /// Where the fracture is coarse, °C.
        coarsens_c: Option<f64>,
        /// The hardest, HRC.
        hardest_hrc: Option<f64>,
    },
    /// Of tempers.
    Tempers {
        /// How much harder they are than physics has it, HRC.
        offset_hrc: f64,
        /// Temper for a hardness: HRC, °C.
        #[cfg_attr(feature = "schema", schema(value_type = Vec<[f64; 2]>))]
        for_hrc: Vec<(Hrc, f64)>,
    },
}

/// Why another coupon would tell more.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum WhyNext {
    /// The coolest is hard already: where it ends is not seen.
    CoolestIsHard,
    /// The hottest is the hardest, or none is hard.
    StillRising,
    /// The hottest is fine yet: where it coarsens is not seen.
    NotCoarseYet,
}

/// Another coupon.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextRung {
    /// Its temperature, °C.
    pub temperature_c: f64,
    /// Why.
    pub why: WhyNext,
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn steel(key: &str) -> &'static Steel {
        Steel::built_in(key).unwrap()
    }

    fn read(ladder: &mut Ladder, all: &[(f64, Option<u8>)]) {
        for (rung, (hrc, grain)) in ladder.rungs.iter_mut().zip(all) {
            rung.values_hrc = vec![*hrc];
            rung.grain = *grain;
        }
    }

    #[rstest]
    #[case("1084", &[785.0, 800.0, 815.0, 830.0, 845.0])]
    #[case("a2", &[905.0, 930.0, 955.0, 980.0, 1005.0])]
    fn the_usual_heats_are_about_that_of_the_steel(#[case] key: &str, #[case] at: &[f64]) {
        let ladder = Ladder::usual(Along::Heats, steel(key)).checked().unwrap();
        let temperatures: Vec<f64> = ladder.rungs.iter().map(|r| r.temperature_c).collect();
        assert_eq!(temperatures, at);
    }

    #[test]
    fn the_best_heat_is_the_hardest_of_the_fine() {
        let mut ladder = Ladder::usual(Along::Heats, steel("1084"));
        read(
            &mut ladder,
            &[
                (58.0, Some(1)),
                (63.4, Some(1)),
                (64.6, Some(1)),
                (65.0, Some(2)),
                (64.8, Some(4)),
            ],
        );
        let found = ladder.found(&[]).unwrap();
        let Found::Heats {
            low_c,
            best_c,
            high_c,
            coarsens_c,
            hardest_hrc,
        } = found
        else {
            panic!("{found:?}")
        };
        assert_eq!(
            (low_c, best_c, high_c),
            (Some(815.0), Some(815.0), Some(830.0))
        );
        assert_eq!((coarsens_c, hardest_hrc), (Some(845.0), Some(65.0)));
        assert_eq!(ladder.next(steel("1084")), None);
    }

    #[test]
    fn it_asks_for_what_is_not_seen_yet() {
        let of = steel("1084");
        let mut ladder = Ladder::usual(Along::Heats, of);
        assert_eq!((ladder.next(of), ladder.found(&[])), (None, None));
        let all = |hrc: [f64; 5], grain| hrc.map(|h| (h, Some(grain)));
        read(&mut ladder, &all([64.0, 64.5, 65.0, 65.0, 65.0], 1));
        let next = ladder.next(of).unwrap();
        assert_eq!(
            (next.why, next.temperature_c),
            (WhyNext::CoolestIsHard, 770.0)
        );
        read(&mut ladder, &all([50.0, 52.0, 55.0, 58.0, 61.0], 1));
        let next = ladder.next(of).unwrap();
        assert_eq!(
            (next.why, next.temperature_c),
            (WhyNext::StillRising, 860.0)
        );
        read(&mut ladder, &all([58.0, 64.5, 65.0, 65.0, 65.0], 1));
        assert_eq!(ladder.next(of).unwrap().why, WhyNext::NotCoarseYet);
        // Nobody broke one: nothing of grain is asked for.
        read(
            &mut ladder,
            &[58.0, 64.5, 65.0, 65.0, 65.0].map(|h| (h, None)),
        );
        assert_eq!(ladder.next(of), None);
    }

    #[test]
    fn a_file_is_enough_for_a_ladder_of_heats() {
        let mut ladder = Ladder::usual(Along::Heats, steel("w1"));
        for (i, rung) in ladder.rungs.iter_mut().enumerate() {
            rung.file = Some(if i == 0 { Filed::Bites } else { Filed::Skates });
            rung.grain = Some(if i == 4 { 3 } else { 1 });
        }
        let found = ladder.found(&[]).unwrap();
        let Found::Heats {
            best_c,
            hardest_hrc,
            ..
        } = found
        else {
            panic!("{found:?}")
        };
        assert_eq!(
            (best_c, hardest_hrc),
            (Some(ladder.rungs[3].temperature_c), None)
        );
    }

    #[rstest]
    #[case(1.0)]
    #[case(20.0)]
    fn a_coupon_of_every_thickness_is_a_plate(#[case] mm: f64) {
        let mut ladder = Ladder::usual(Along::Heats, steel("o1"));
        ladder.treatment.thickness_mm = Millimetres::clamped(mm);
        assert_eq!(ladder.coupon().unwrap().blade().spine_mm, mm);
    }

    fn faults(change: impl Fn(&mut Ladder)) -> Vec<String> {
        let mut ladder = Ladder::usual(Along::Tempers, steel("1084"));
        change(&mut ladder);
        let found = ladder.checked().unwrap_err().0;
        found.into_iter().map(|f| f.field).collect()
    }

    #[test]
    fn what_cannot_be_is_refused_at_its_field() {
        assert_eq!(faults(|l| l.rungs.clear()), ["rungs"]);
        assert_eq!(
            faults(|l| l.rungs[1].temperature_c = 900.0),
            ["rungs[1].temperature_c"]
        );
        assert_eq!(
            faults(|l| l.rungs[1].temperature_c = 150.5),
            ["rungs[1].temperature_c"]
        );
        assert_eq!(
            faults(|l| l.rungs[0].values_hrc = vec![60.0, 99.0]),
            ["rungs[0].values_hrc[1]"]
        );
        assert_eq!(faults(|l| l.rungs[0].grain = Some(7)), ["rungs[0].grain"]);
        assert_eq!(
            faults(|l| (l.rungs[2].skated_hrc, l.rungs[2].bit_hrc) = (Some(62.0), Some(60.0))),
            ["rungs[2].bit_hrc"]
        );
        assert_eq!(faults(|l| l.treatment.times = 0), ["treatment.times"]);
        assert_eq!(
            faults(|l| l.treatment.thickness_mm = Millimetres::clamped(90.0)),
            ["treatment.thickness_mm"]
        );
        assert_eq!(
            faults(|l| l.treatment.heat_c = Celsius::clamped(300.0)),
            ["treatment.heat_c"]
        );
        assert_eq!(
            faults(|l| l.treatment.hold_s = Seconds::clamped(1.0)),
            ["treatment.hold_s"]
        );
    }
}
