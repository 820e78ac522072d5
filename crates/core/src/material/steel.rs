//! A steel: its windows, what it dissolves, and how it tempers.
//!
//! The built-in table (`data/steels.csv`, `data/temper.csv`) holds typical published values. A
//! shop's own steel is made from its analysis: critical temperatures by formula, working windows and
//! the temper curve from the built-in steels most like it, with a wider interval the less alike.

use crate::material::analysis::Analysis;
use crate::material::critical;
use crate::material::dissolution::{Dissolution, Limits, Structure, dissolve};
use crate::material::hardness;
use crate::material::medium::Medium;
use crate::material::temper::{TABLE_HOURS, TemperCurve, parameter};
use crate::quantity::units::{Celsius, Quantity, Seconds};
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// How a steel is hardened.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Hardening {
    /// Too little carbon for an edge.
    NotHardenable,
    /// Needs water, brine or a fast oil.
    Water,
    /// Hardens in oil; water is likely to crack it.
    Oil,
    /// Hardens between plates or in air.
    Air,
}

/// Whether sub-zero treatment pays.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SubZero {
    /// Gains next to nothing.
    No,
    /// Gains a little.
    Optional,
    /// Part of the usual treatment.
    Yes,
}

/// Lowest, nominal and highest working temperature.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Window {
    /// Lowest.
    pub low: Celsius,
    /// Nominal.
    pub nominal: Celsius,
    /// Highest.
    pub high: Celsius,
}

/// Where the numbers of a steel come from.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub enum Origin {
    /// The built-in table of typical published values.
    Table,
    /// Formulas and the nearest built-in steels, at this distance ([`Analysis::distance`]).
    Analysis {
        /// Distance to the nearest built-in steel.
        distance: f64,
    },
    /// A coupon trial, with the width it leaves.
    Trial {
        /// One standard deviation of the as-quenched hardness, HRC.
        spread_hrc: f64,
    },
}

/// A steel with everything the computation needs.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Steel {
    /// Identifier: the table's, or the shop's own.
    pub key: String,
    /// Designation.
    pub name: String,
    /// Other designations, may be empty.
    pub equivalent: String,
    /// Kind, in words.
    pub family: String,
    /// How it hardens.
    pub hardening: Hardening,
    /// Total composition.
    pub analysis: Analysis,
    /// Start of austenite on heating, °C.
    pub ac1_c: f64,
    /// End of ferrite (lean steels) or of carbide (rich steels), °C.
    pub ac3_or_acm_c: f64,
    /// Normalizing temperature; None for air-hardening and stainless steels.
    pub normalize: Option<Celsius>,
    /// Annealing temperature.
    pub anneal: Celsius,
    /// Austenitizing window.
    pub austenitize: Window,
    /// Usual soak.
    pub soak: Seconds,
    /// Temperature where ten minutes coarsen the grain, °C.
    pub coarsening_c: f64,
    /// What dissolves.
    pub dissolution: Dissolution,
    /// Media that suit it, best first.
    pub media: Vec<Medium>,
    /// A few seconds of water followed by oil suits it.
    pub water_then_oil: bool,
    /// Whether sub-zero pays.
    pub sub_zero: SubZero,
    /// Softening against the Hollomon–Jaffe parameter.
    pub curve: TemperCurve,
    /// The curve belongs to steel that went through −75 °C.
    pub curve_has_sub_zero: bool,
    /// Added to the model's as-quenched hardness so that the nominal treatment gives the published
    /// value, HRC.
    pub offset_hrc: f64,
    /// Where the numbers come from.
    pub origin: Origin,
    /// Structure it comes in, when known; as usual for the steel otherwise.
    pub comes_as: Option<Structure>,
}

#[derive(Deserialize)]
struct SteelRow {
    id: String,
    name: String,
    equivalent: String,
    family: String,
    hardening: String,
    #[serde(rename = "C")]
    c: f64,
    #[serde(rename = "Si")]
    si: f64,
    #[serde(rename = "Mn")]
    mn: f64,
    #[serde(rename = "Cr")]
    cr: f64,
    #[serde(rename = "Ni")]
    ni: f64,
    #[serde(rename = "Mo")]
    mo: f64,
    #[serde(rename = "W")]
    w: f64,
    #[serde(rename = "V")]
    v: f64,
    ac1_c: f64,
    ac3_or_acm_c: f64,
    normalize_c: Option<f64>,
    anneal_c: f64,
    austenitize_low_c: Option<f64>,
    austenitize_c: Option<f64>,
    austenitize_high_c: Option<f64>,
    soak_min: Option<f64>,
    coarsening_c: f64,
    c_dissolved: f64,
    c_dissolved_per_100c: f64,
    cr_dissolved: f64,
    as_quenched_hrc: Option<f64>,
    media: String,
    subzero: String,
}

/// Temperatures of the columns of `temper.csv`, °C.
pub const TEMPER_COLUMNS: [f64; 11] = [
    150.0, 175.0, 205.0, 230.0, 260.0, 290.0, 315.0, 370.0, 425.0, 480.0, 540.0,
];

struct TemperRow {
    sub_zero: bool,
    points: Vec<(f64, f64)>,
}

fn temper_rows() -> impl Iterator<Item = (String, TemperRow)> {
    include_str!("../../data/temper.csv")
        .lines()
        .filter(|line| !line.starts_with('#') && !line.starts_with("id,"))
        .filter_map(|line| {
            let mut cells = line.split(',');
            let id = cells.next()?.to_owned();
            let sub_zero = cells.next()? == "yes";
            let points = TEMPER_COLUMNS
                .into_iter()
                .zip(cells)
                .filter_map(|(t, cell)| Some((t, cell.trim().parse().ok()?)))
                .collect();
            Some((id, TemperRow { sub_zero, points }))
        })
}

static TABLE: LazyLock<Vec<Steel>> = LazyLock::new(|| {
    let mut tempers: Vec<(String, TemperRow)> = temper_rows().collect();
    let mut reader = csv::Reader::from_reader(include_str!("../../data/steels.csv").as_bytes());
    // The file is compiled in; a test holds that every row of it is read.
    let rows: Vec<SteelRow> = reader.deserialize().filter_map(Result::ok).collect();
    let mut steels: Vec<Steel> = rows
        .into_iter()
        .map(|row| {
            let temper = tempers
                .iter()
                .position(|t| t.0 == row.id)
                .map(|i| tempers.swap_remove(i).1);
            Steel::from_row(row, temper.as_ref())
        })
        .collect();
    // A steel without a row (not meant for hardening) borrows the softening of those most like it.
    for i in 0..steels.len() {
        if steels[i].curve.points().is_empty() {
            let others: Vec<&Steel> = steels
                .iter()
                .filter(|s| !s.curve.points().is_empty())
                .collect();
            steels[i].curve = Neighbours::near(&steels[i].analysis, &others).curve();
        }
    }
    steels
});

impl Steel {
    /// The built-in steels, in the order of the table.
    #[must_use]
    pub fn table() -> &'static [Self] {
        &TABLE
    }

    /// Finds a built-in steel by key, name or one of its other designations, in any case.
    ///
    /// ```
    /// use vatten_core::material::steel::Steel;
    /// let steel = Steel::built_in("1084").expect("in the table");
    /// assert!(steel.austenitize.low < steel.austenitize.high);
    /// assert!(Steel::built_in("treacle").is_none());
    /// ```
    #[must_use]
    pub fn built_in(text: &str) -> Option<&'static Self> {
        let wanted = text.trim().to_lowercase();
        let named = |s: &&Self| s.key == wanted || s.name.to_lowercase() == wanted;
        TABLE.iter().find(named).or_else(|| {
            TABLE.iter().find(|s| {
                s.equivalent
                    .to_lowercase()
                    .split([' ', '(', ')', '~'])
                    .any(|word| word == wanted)
                    && !wanted.is_empty()
            })
        })
    }

    /// True when all carbon dissolves above Ac3 (the upper critical temperature is Ac3, not Acm).
    #[must_use]
    pub fn is_lean(&self) -> bool {
        self.dissolution.is_all()
    }

    /// True for stainless steels (12 % chromium or more in all).
    #[must_use]
    pub fn is_stainless(&self) -> bool {
        self.analysis.chromium >= 12.0
    }

    /// What its austenite can hold, and from where.
    #[must_use]
    pub const fn limits(&self) -> Limits {
        Limits {
            analysis: self.analysis,
            ac1_c: self.ac1_c,
            upper_c: self.ac3_or_acm_c,
            nominal: self.austenitize.nominal,
            dissolution: self.dissolution,
        }
    }

    /// Structure it has when nothing was done to it before hardening: pearlite for steels that are
    /// normalized, carbides in balls for those that are not.
    #[must_use]
    pub fn usual_structure(&self) -> Structure {
        if let Some(known) = self.comes_as {
            known
        } else if self.normalize.is_some() {
            Structure::Normalized
        } else {
            Structure::Spheroidized
        }
    }

    /// Hardness and retained austenite (HRC, percent) of full martensite after the nominal soak, cooled to
    /// `coldest_c`.
    #[must_use]
    pub fn nominal_hrc(&self, coldest_c: f64) -> (f64, f64) {
        let d = dissolve(
            &self.limits(),
            self.austenitize.nominal,
            self.soak,
            self.usual_structure(),
        );
        let retained = hardness::retained_austenite_percent(d.martensite_start_c, coldest_c);
        let hrc = hardness::martensite_hrc(d.composition.carbon)
            - hardness::retained_austenite_loss_hrc(retained)
            + self.offset_hrc;
        (hrc, retained)
    }

    /// Typical hardness after four hours at `temperature`, nominal treatment, HRC.
    #[must_use]
    pub fn typical_tempered_hrc(&self, temperature: Celsius) -> f64 {
        let coldest = if self.curve_has_sub_zero { -75.0 } else { 20.0 };
        self.nominal_hrc(coldest).0 - self.curve.drop_hrc(parameter(temperature, TABLE_HOURS))
    }

    /// How far the as-quenched physics of this steel may be off before any record, one standard
    /// deviation, HRC: 0.8 for a tabulated steel, more for an analysis.
    #[must_use]
    pub fn spread_hrc(&self) -> f64 {
        match self.origin {
            Origin::Table => 0.8,
            Origin::Analysis { distance } => 1.1 + 0.6 * distance.min(4.0),
            Origin::Trial { spread_hrc } => spread_hrc,
        }
    }

    fn from_row(row: SteelRow, temper: Option<&TemperRow>) -> Self {
        let analysis = Analysis {
            carbon: row.c,
            silicon: row.si,
            manganese: row.mn,
            chromium: row.cr,
            nickel: row.ni,
            molybdenum: row.mo,
            tungsten: row.w,
            vanadium: row.v,
        };
        let nominal = row.austenitize_c.unwrap_or(row.ac3_or_acm_c + 40.0);
        let mut steel = Self {
            key: row.id,
            name: row.name,
            equivalent: row.equivalent,
            family: row.family,
            hardening: match row.hardening.as_str() {
                "water" => Hardening::Water,
                "oil" => Hardening::Oil,
                "air" => Hardening::Air,
                _ => Hardening::NotHardenable,
            },
            analysis,
            ac1_c: row.ac1_c,
            ac3_or_acm_c: row.ac3_or_acm_c,
            normalize: row.normalize_c.map(Celsius::clamped),
            anneal: Celsius::clamped(row.anneal_c),
            austenitize: Window {
                low: Celsius::clamped(row.austenitize_low_c.unwrap_or(nominal - 15.0)),
                nominal: Celsius::clamped(nominal),
                high: Celsius::clamped(row.austenitize_high_c.unwrap_or(nominal + 15.0)),
            },
            soak: Seconds::clamped(60.0 * row.soak_min.unwrap_or(5.0)),
            coarsening_c: row.coarsening_c,
            dissolution: Dissolution {
                carbon: row.c_dissolved,
                carbon_per_100c: row.c_dissolved_per_100c,
                chromium: row.cr_dissolved,
            },
            media: row.media.split('|').filter_map(Medium::parse).collect(),
            water_then_oil: row.media.contains("water then oil"),
            sub_zero: match row.subzero.as_str() {
                "yes" => SubZero::Yes,
                "optional" => SubZero::Optional,
                _ => SubZero::No,
            },
            curve: TemperCurve::from_drops(Vec::new()),
            curve_has_sub_zero: temper.is_some_and(|t| t.sub_zero),
            offset_hrc: 0.0,
            origin: Origin::Table,
            comes_as: None,
        };
        if steel.media.is_empty() {
            steel.media.push(Medium::Water);
        }
        if let Some(published) = row.as_quenched_hrc {
            steel.offset_hrc = published - steel.nominal_hrc(20.0).0;
        }
        if let Some(temper) = temper {
            let coldest = if temper.sub_zero { -75.0 } else { 20.0 };
            steel.curve = TemperCurve::from_row(&temper.points, steel.nominal_hrc(coldest).0);
        }
        steel
    }

    /// A steel known only by its analysis.
    ///
    /// Critical temperatures by Andrews 1965; working windows, what dissolves and the temper curve are
    /// means over the built-in steels, weighted by the inverse fourth power of their distance.
    #[must_use]
    pub fn from_analysis(key: &str, name: &str, analysis: &Analysis) -> Self {
        let all: Vec<&Self> = TABLE
            .iter()
            .filter(|s| s.hardening != Hardening::NotHardenable)
            .collect();
        let near = Neighbours::near(analysis, &all);
        let model = near.nearest;
        let lean = model.is_lean() && analysis.carbon <= 0.77;
        let ac1 = critical::ac1_c(analysis);
        let upper = if lean {
            critical::ac3_c(analysis)
        } else {
            critical::acm_c(analysis)
        };
        let above_ac1 = near.mean(|s| s.austenitize.nominal.value() - s.ac1_c);
        let nominal = if lean {
            (ac1 + above_ac1).max(upper + 25.0)
        } else {
            ac1 + above_ac1
        };
        let below = near.mean(|s| s.austenitize.nominal.value() - s.austenitize.low.value());
        let above = near.mean(|s| s.austenitize.high.value() - s.austenitize.nominal.value());
        let hardening = if analysis.carbon < 0.3 {
            Hardening::NotHardenable
        } else {
            model.hardening
        };
        Self {
            key: key.to_owned(),
            name: name.to_owned(),
            equivalent: String::new(),
            family: model.family.clone(),
            hardening,
            analysis: *analysis,
            ac1_c: ac1,
            ac3_or_acm_c: upper.max(ac1 + 5.0),
            normalize: model.normalize.map(|_| {
                let over = |s: &Self| {
                    s.normalize
                        .map_or(60.0, |n| n.value() - s.austenitize.nominal.value())
                };
                Celsius::clamped(nominal + near.mean(over))
            }),
            anneal: Celsius::clamped(ac1 + near.mean(|s| s.anneal.value() - s.ac1_c)),
            austenitize: Window {
                low: Celsius::clamped(nominal - below),
                nominal: Celsius::clamped(nominal),
                high: Celsius::clamped(nominal + above),
            },
            soak: Seconds::clamped(near.mean(|s| s.soak.value()).round()),
            coarsening_c: nominal + near.mean(|s| s.coarsening_c - s.austenitize.nominal.value()),
            dissolution: near.dissolution(analysis, lean),
            media: model.media.clone(),
            water_then_oil: model.water_then_oil,
            sub_zero: model.sub_zero,
            curve: near.curve(),
            curve_has_sub_zero: model.curve_has_sub_zero,
            offset_hrc: near.mean(|s| s.offset_hrc),
            origin: Origin::Analysis {
                distance: near.distance,
            },
            comes_as: None,
        }
    }

    /// This steel with the mill's own analysis of a bar: critical temperatures move by Andrews' formulas,
    /// what dissolves by its share of the carbon; windows and curve stay, shifted as far as Ac1 moves.
    #[must_use]
    pub fn with_analysis(&self, analysis: &Analysis) -> Self {
        let mut steel = self.clone();
        let ac1 = critical::ac1_c(analysis) - critical::ac1_c(&self.analysis);
        let upper = if self.is_lean() {
            critical::ac3_c(analysis) - critical::ac3_c(&self.analysis)
        } else {
            critical::acm_c(analysis) - critical::acm_c(&self.analysis)
        };
        let moved = |t: Celsius| Celsius::clamped(t.value() + ac1);
        steel.ac1_c += ac1;
        steel.ac3_or_acm_c = (steel.ac3_or_acm_c + upper).max(steel.ac1_c + 5.0);
        steel.normalize = self.normalize.map(moved);
        steel.anneal = moved(self.anneal);
        steel.austenitize = Window {
            low: moved(self.austenitize.low),
            nominal: moved(self.austenitize.nominal),
            high: moved(self.austenitize.high),
        };
        let carbon = analysis.carbon / self.analysis.carbon.max(0.01);
        steel.dissolution.carbon = if self.is_lean() {
            analysis.carbon
        } else {
            (self.dissolution.carbon * carbon.clamp(0.7, 1.3)).min(analysis.carbon)
        };
        if self.analysis.chromium > 0.0 {
            steel.dissolution.chromium *= analysis.chromium / self.analysis.chromium;
        }
        steel.analysis = *analysis;
        steel
    }
}

/// Built-in steels weighted by how alike they are to an analysis.
struct Neighbours<'a> {
    weights: Vec<(f64, &'a Steel)>,
    nearest: &'a Steel,
    distance: f64,
}

impl<'a> Neighbours<'a> {
    /// What goes into solution at the usual heat; all of the carbon in a lean steel.
    fn dissolution(&self, analysis: &Analysis, lean: bool) -> Dissolution {
        let ratio = self
            .mean(|s| s.dissolution.carbon / s.analysis.carbon)
            .min(1.0);
        let per_100c = self.mean(|s| s.dissolution.carbon_per_100c);
        let chromium = self.mean(|s| {
            if s.analysis.chromium > 0.0 {
                s.dissolution.chromium / s.analysis.chromium
            } else {
                0.9
            }
        });
        Dissolution {
            carbon: if lean {
                analysis.carbon
            } else {
                ratio * analysis.carbon
            },
            carbon_per_100c: if lean { 0.0 } else { per_100c.max(0.01) },
            chromium: analysis.chromium * chromium.min(1.0),
        }
    }

    /// `steels` must not be empty.
    fn near(analysis: &Analysis, steels: &[&'a Steel]) -> Self {
        let mut nearest = (f64::INFINITY, steels[0]);
        let mut weights = Vec::with_capacity(steels.len());
        for steel in steels {
            let distance = analysis.distance(&steel.analysis);
            if distance < nearest.0 {
                nearest = (distance, steel);
            }
            weights.push((1.0 / (distance.powi(4) + 1e-4), *steel));
        }
        let sum: f64 = weights.iter().map(|w| w.0).sum();
        for weight in &mut weights {
            weight.0 /= sum;
        }
        Self {
            weights,
            nearest: nearest.1,
            distance: nearest.0,
        }
    }

    fn mean(&self, property: impl Fn(&Steel) -> f64) -> f64 {
        self.weights.iter().map(|(w, s)| w * property(s)).sum()
    }

    fn curve(&self) -> TemperCurve {
        let drops = std::iter::once(70.0)
            .chain(TEMPER_COLUMNS)
            .map(|t| parameter(Celsius::clamped(t), TABLE_HOURS))
            .map(|p| (p, self.mean(|s| s.curve.drop_hrc(p))))
            .collect();
        TemperCurve::from_drops(drops)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn the_whole_table_is_read() {
        let lines = include_str!("../../data/steels.csv").lines().count() - 1;
        assert_eq!(Steel::table().len(), lines);
        assert_eq!(temper_rows().count(), 25);
        assert!(temper_rows().all(|(_, row)| row.points.len() == TEMPER_COLUMNS.len()));
        assert!(Steel::table().iter().all(|s| !s.curve.points().is_empty()));
    }

    #[test]
    fn every_nominal_treatment_gives_the_published_rows() {
        for (id, row) in temper_rows() {
            let steel = Steel::built_in(&id).unwrap();
            for (t, hrc) in row.points {
                let got = steel.typical_tempered_hrc(Celsius::clamped(t));
                assert!((got - hrc).abs() < 0.05, "{id} at {t}: {got} not {hrc}");
            }
        }
    }

    #[rstest]
    #[case("W2", Some("w2"))]
    #[case("1.4037", Some("x65cr13"))]
    #[case("100Cr6", Some("52100"))]
    #[case("", None)]
    #[case("unobtainium", None)]
    fn found_by_any_designation(#[case] text: &str, #[case] key: Option<&str>) {
        assert_eq!(Steel::built_in(text).map(|s| s.key.as_str()), key);
    }

    #[test]
    fn a_known_analysis_comes_out_like_the_table() {
        for known in Steel::table()
            .iter()
            .filter(|s| s.hardening != Hardening::NotHardenable)
        {
            let made = Steel::from_analysis("own", "own", &known.analysis);
            let t = Celsius::clamped(205.0);
            let (a, b) = (made.typical_tempered_hrc(t), known.typical_tempered_hrc(t));
            assert!((a - b).abs() < 1.2, "{}: {a} against {b}", known.name);
            assert!(made.spread_hrc() > known.spread_hrc());
            assert!(made.austenitize.low < made.austenitize.high);
        }
    }

    #[test]
    fn an_unlike_analysis_is_less_sure() {
        let odd = Analysis {
            carbon: 1.9,
            manganese: 2.5,
            tungsten: 6.0,
            ..Analysis::default()
        };
        let steel = Steel::from_analysis("odd", "odd", &odd);
        assert!(steel.spread_hrc() > 2.0);
        assert!(steel.nominal_hrc(20.0).0.is_finite());
    }

    #[test]
    fn a_mill_analysis_moves_a_steel_only_as_far_as_it_differs() {
        let steel = Steel::built_in("1084").unwrap();
        assert_eq!(steel.with_analysis(&steel.analysis), *steel);
        let rich = Analysis {
            carbon: steel.analysis.carbon + 0.05,
            manganese: steel.analysis.manganese + 0.2,
            ..steel.analysis
        };
        let bar = steel.with_analysis(&rich);
        assert!(bar.ac1_c < steel.ac1_c && bar.key == steel.key);
        assert!(bar.dissolution.carbon <= rich.carbon);
        assert!(bar.austenitize.low < bar.austenitize.high);
    }

    #[test]
    fn a_bar_that_comes_spheroidized_wants_a_longer_soak() {
        let steel = Steel::built_in("1095").unwrap();
        let bar = Steel {
            comes_as: Some(Structure::Spheroidized),
            ..steel.clone()
        };
        let at = |s: &Steel| {
            dissolve(
                &s.limits(),
                s.austenitize.nominal,
                Seconds::clamped(120.0),
                s.usual_structure(),
            )
            .progress
        };
        assert!(at(&bar) < at(steel));
    }
}
