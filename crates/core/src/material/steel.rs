//! A steel: its windows, what it dissolves, and how it tempers.
//!
//! The built-in table (`data/steels.csv`, `data/temper.csv`) holds typical published values: the model is
//! corrected so that the nominal treatment of a built-in steel gives its row. A shop's own steel is made from
//! its analysis by the formulas alone, but for what a built-in steel very like it teaches.

use crate::material::analysis::Analysis;
use crate::material::critical;
use crate::material::dissolution::{Dissolution, Dissolved, Limits, Structure, dissolve};
use crate::material::equilibrium::equilibrium;
use crate::material::hardness;
use crate::material::medium::Medium;
use crate::material::salvage::Salvage;
use crate::material::temper::{
    CONSTANT, Correction, TABLE_HOURS, Tempered, Treatment, better_of, temper, temperatures_for,
};
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
    /// What an old thing may be made of: formulas for the likeliest analysis.
    Reclaimed {
        /// What it was.
        was: Salvage,
        /// A coupon or a blade of it was tried.
        tried: bool,
        /// One standard deviation of the as-quenched hardness, over what it may be made of, HRC.
        spread_hrc: f64,
        /// The same were its analysis known, HRC.
        formula_hrc: f64,
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
    /// What is added to the model so that the nominal treatment gives the published values.
    pub correction: Correction,
    /// Those values belong to steel that went through −75 °C.
    pub row_has_sub_zero: bool,
    /// Where the numbers come from.
    pub origin: Origin,
    /// Structure it comes in, when known; as usual for the steel otherwise.
    pub comes_as: Option<Structure>,
    /// Analyses that it may have, each as likely as the next, where nobody knows; empty otherwise.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub perhaps: Vec<Analysis>,
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
    #[serde(rename = "N")]
    n: f64,
    #[serde(rename = "Co")]
    co: f64,
    #[serde(rename = "Nb")]
    nb: f64,
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
pub const TEMPER_COLUMNS: [f64; 15] = [
    150.0, 175.0, 205.0, 230.0, 260.0, 290.0, 315.0, 370.0, 425.0, 480.0, 510.0, 540.0, 565.0,
    595.0, 650.0,
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
    rows.into_iter()
        .map(|row| {
            let temper = tempers
                .iter()
                .position(|t| t.0 == row.id)
                .map(|i| tempers.swap_remove(i).1);
            Steel::from_row(row, temper.as_ref())
        })
        .collect()
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
    pub fn limits(&self) -> Limits {
        Limits {
            analysis: self.analysis,
            ac1_c: self.ac1_c,
            upper_c: self.ac3_or_acm_c,
            nominal: self.austenitize.nominal,
            soak: self.soak,
            usual: self.usual_structure(),
            dissolution: self.dissolution,
            by_equilibrium: self.origin != Origin::Table,
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

    /// What the nominal soak leaves in the austenite.
    #[must_use]
    pub fn nominal_dissolved(&self) -> Dissolved {
        dissolve(
            &self.limits(),
            self.austenitize.nominal,
            self.soak,
            self.usual_structure(),
        )
    }

    /// What hardened, after `treatments`: its hardness in HRC, and what the tempers left. `retained` is the
    /// austenite before them, 0 to 1.
    #[must_use]
    pub fn hardened_hrc(
        &self,
        dissolved: &Dissolved,
        retained: f64,
        treatments: &[Treatment],
    ) -> (f64, Tempered) {
        let after = temper(dissolved, retained, treatments);
        let hrc = hardness::hrc_of_hv(after.hv) + self.correction.at(after.parameter);
        (hrc.max(0.0), after)
    }

    /// Hardness and retained austenite (HRC, percent) of full martensite after the nominal soak, cooled to
    /// `coldest_c`.
    #[must_use]
    pub fn nominal_hrc(&self, coldest_c: f64) -> (f64, f64) {
        let d = self.nominal_dissolved();
        let retained = d.retained(coldest_c);
        (self.hardened_hrc(&d, retained, &[]).0, 100.0 * retained)
    }

    /// The steel after its nominal treatment, ready to be tempered in thought.
    #[must_use]
    pub fn typical(&self) -> Typical<'_> {
        let dissolved = self.nominal_dissolved();
        let coldest_c = if self.row_has_sub_zero {
            SUB_ZERO_C
        } else {
            20.0
        };
        Typical {
            steel: self,
            retained: dissolved.retained(coldest_c),
            dissolved,
        }
    }

    /// Typical hardness after two tempers of two hours at `temperature`, nominal treatment, HRC.
    #[must_use]
    pub fn typical_tempered_hrc(&self, temperature: Celsius) -> f64 {
        self.typical().tempered_hrc(temperature)
    }

    /// Typical hardness after tempers that amount to a Hollomon–Jaffe parameter, nominal treatment, HRC.
    #[must_use]
    pub fn softened_hrc(&self, parameter: f64) -> f64 {
        let kelvin = parameter / (CONSTANT + TABLE_HOURS.log10());
        self.typical_tempered_hrc(Celsius::clamped(kelvin - 273.15))
    }

    /// How far the as-quenched physics of this steel may be off before any record, one standard
    /// deviation, HRC: 0.5 for a tabulated steel, more for an analysis.
    #[must_use]
    pub fn spread_hrc(&self) -> f64 {
        match self.origin {
            Origin::Table => 0.5,
            Origin::Analysis { distance } if self.analysis.formulas_hold() => {
                1.6 + 0.25 * distance.min(3.0)
            }
            Origin::Analysis { .. } => 3.0,
            Origin::Trial { spread_hrc } | Origin::Reclaimed { spread_hrc, .. } => spread_hrc,
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
            nitrogen: row.n,
            cobalt: row.co,
            niobium: row.nb,
            ..Analysis::default()
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
            correction: Correction::new(0.0, &[]),
            row_has_sub_zero: temper.is_some_and(|t| t.sub_zero),
            origin: Origin::Table,
            comes_as: None,
            perhaps: Vec::new(),
        };
        if steel.media.is_empty() {
            steel.media.push(Medium::Water);
        }
        let offset = row
            .as_quenched_hrc
            .map_or(0.0, |published| published - steel.nominal_hrc(20.0).0);
        let points: Vec<(f64, f64)> = temper
            .map(|row| row.points.as_slice())
            .unwrap_or_default()
            .iter()
            .map(|(t, hrc)| (*t, hrc - steel.typical_tempered_hrc(Celsius::clamped(*t))))
            .collect();
        steel.correction = Correction::new(offset, &points);
        steel
    }

    /// A steel known only by its analysis: the formulas, with the rest of what a built-in steel is off by them
    /// as far as one is very like it. Widths of the windows and the media are those of the steels most like
    /// it.
    #[must_use]
    pub fn from_analysis(key: &str, name: &str, analysis: &Analysis) -> Self {
        let all: Vec<&Self> = TABLE
            .iter()
            .filter(|s| s.hardening != Hardening::NotHardenable)
            .collect();
        let near = Neighbours::near(analysis, &all);
        let model = near.nearest;
        let alike = near.alike();
        let like = |formula: fn(&Analysis) -> f64, known: f64| {
            formula(analysis) + alike * (known - formula(&model.analysis))
        };
        let ac1 = like(critical::ac1_c, model.ac1_c);
        let usual = like(critical::usual_heat_c, model.austenitize.nominal.value());
        let nominal = usual.max(ac1 + LEAST_ABOVE_AC1_K);
        let held = equilibrium(analysis, Celsius::clamped(nominal));
        let usual = equilibrium(&model.analysis, model.austenitize.nominal).austenite;
        let more = alike * (model.dissolution.carbon - usual.carbon);
        let lean = held.austenite.carbon + more > analysis.carbon - 1e-3;
        let upper = if lean {
            critical::ac3_c(analysis)
        } else {
            critical::acm_c(analysis)
        };
        let below = near.mean(|s| s.austenitize.nominal.value() - s.austenitize.low.value());
        let above = near.mean(|s| s.austenitize.high.value() - s.austenitize.nominal.value());
        let melts = critical::solidus_c(analysis) - BELOW_MELTING_K;
        let (hardening, media) = bath_for(analysis, model);
        let deep = hardening == Hardening::Air;
        let over = |s: &Self| {
            s.normalize
                .map_or(60.0, |n| n.value() - s.austenitize.nominal.value())
        };
        let mut steel = Self {
            key: key.to_owned(),
            name: name.to_owned(),
            equivalent: String::new(),
            family: model.family.clone(),
            hardening,
            analysis: *analysis,
            ac1_c: ac1,
            ac3_or_acm_c: upper.max(ac1 + 5.0),
            normalize: (model.normalize.is_some() && !deep)
                .then(|| Celsius::clamped(nominal + near.mean(over))),
            anneal: Celsius::clamped(ac1 + near.mean(|s| s.anneal.value() - s.ac1_c)),
            austenitize: Window {
                low: Celsius::clamped((nominal - below).max(ac1 + 10.0)),
                nominal: Celsius::clamped(nominal),
                high: Celsius::clamped((nominal + above).min(melts.max(nominal))),
            },
            soak: Seconds::clamped(near.mean(|s| s.soak.value()).round()),
            coarsening_c: (nominal + near.mean(|s| s.coarsening_c - s.austenitize.nominal.value()))
                .min(melts.max(nominal)),
            dissolution: model.dissolution,
            media,
            water_then_oil: model.water_then_oil && hardening == model.hardening,
            sub_zero: model.sub_zero,
            correction: model.correction.times(alike),
            row_has_sub_zero: model.row_has_sub_zero,
            origin: Origin::Analysis {
                distance: near.distance,
            },
            comes_as: None,
            perhaps: Vec::new(),
        };
        steel.dissolution = near.dissolution(&steel, lean);
        steel
    }

    /// The same with another window; what dissolves at the new nominal heat follows from the equilibrium.
    #[must_use]
    pub fn with_window(mut self, window: Window) -> Self {
        let at = |t| equilibrium(&self.analysis, t).austenite;
        let (was, now) = (at(self.austenitize.nominal), at(window.nominal));
        let total = &self.analysis;
        let moved = self.dissolution.carbon + now.carbon - was.carbon;
        self.dissolution.carbon = moved.clamp(0.05, total.carbon);
        let moved = self.dissolution.chromium + now.chromium - was.chromium;
        self.dissolution.chromium = moved.clamp(0.0, total.chromium);
        self.austenitize = window;
        self
    }

    /// This steel with the mill's own analysis of a bar: critical temperatures, windows and what dissolves
    /// move by the difference that the formulas make between the two analyses.
    #[must_use]
    pub fn with_analysis(&self, analysis: &Analysis) -> Self {
        if *analysis == self.analysis {
            return self.clone();
        }
        let mut steel = self.clone();
        let differ = |formula: fn(&Analysis) -> f64| formula(analysis) - formula(&self.analysis);
        let ac1 = differ(critical::ac1_c);
        let upper = if self.is_lean() {
            differ(critical::ac3_c)
        } else {
            differ(critical::acm_c)
        };
        let heat = differ(critical::usual_heat_c).clamp(-40.0, 40.0);
        let moved = |t: Celsius, by: f64| Celsius::clamped(t.value() + by);
        steel.ac1_c += ac1;
        steel.ac3_or_acm_c = (steel.ac3_or_acm_c + upper).max(steel.ac1_c + 5.0);
        steel.normalize = self.normalize.map(|t| moved(t, heat));
        steel.anneal = moved(self.anneal, ac1);
        steel.austenitize = Window {
            low: moved(self.austenitize.low, heat),
            nominal: moved(self.austenitize.nominal, heat),
            high: moved(self.austenitize.high, heat),
        };
        let was = equilibrium(&self.analysis, self.austenitize.nominal).austenite;
        let now = equilibrium(analysis, steel.austenitize.nominal).austenite;
        steel.dissolution.carbon = if self.is_lean() {
            analysis.carbon
        } else {
            (self.dissolution.carbon + now.carbon - was.carbon).clamp(0.05, analysis.carbon)
        };
        steel.dissolution.chromium =
            (self.dissolution.chromium + now.chromium - was.chromium).clamp(0.0, analysis.chromium);
        steel.analysis = *analysis;
        if !steel.perhaps.is_empty() {
            // An analysis of the bar is a paper.
            steel.perhaps.clear();
            steel.origin = Self::from_analysis(&self.key, &self.name, analysis).origin;
        }
        steel
    }

    /// The steels that it may be, each as likely as the next; none where it is known.
    #[must_use]
    pub fn may_be(&self) -> Vec<Self> {
        let of = |analysis: &Analysis| Self {
            comes_as: self.comes_as,
            ..Self::from_analysis(&self.key, &self.name, analysis)
        };
        self.perhaps.iter().map(of).collect()
    }
}

/// A steel after its nominal treatment.
#[derive(Debug, Clone, Copy)]
pub struct Typical<'a> {
    steel: &'a Steel,
    dissolved: Dissolved,
    retained: f64,
}

impl Typical<'_> {
    /// Hardness after two tempers of two hours, HRC.
    #[must_use]
    pub fn tempered_hrc(&self, temperature: Celsius) -> f64 {
        let (hrc, _) = self
            .steel
            .hardened_hrc(&self.dissolved, self.retained, &twice(temperature));
        hrc
    }

    /// The better temper of two times two hours for a hardness, between two temperatures.
    #[must_use]
    pub fn temper_for(&self, wanted_hrc: f64, low: Celsius, high: Celsius) -> Option<Celsius> {
        let all = temperatures_for(wanted_hrc, low, high, |t| self.tempered_hrc(t));
        better_of(&all, self.steel).map(|found| found.0)
    }
}

/// Where rows with a sub-zero step went, °C.
const SUB_ZERO_C: f64 = -75.0;
/// A usual heat is at least this far above Ac1, K.
const LEAST_ABOVE_AC1_K: f64 = 40.0;
/// No window reaches nearer than this to where melting begins, K.
const BELOW_MELTING_K: f64 = 15.0;

/// Two tempers of two hours.
fn twice(temperature: Celsius) -> [Treatment; 2] {
    let hold = Treatment::Hold {
        temperature,
        time: Seconds::clamped(0.5 * TABLE_HOURS * 3600.0),
    };
    [hold, hold]
}

/// How a steel of an analysis hardens, and in what: as the one most like it, unless its alloy says otherwise.
fn bath_for(analysis: &Analysis, like: &Steel) -> (Hardening, Vec<Medium>) {
    let deep = analysis.chromium >= 4.0 || analysis.molybdenum_equivalent() >= 4.0;
    if analysis.carbon < 0.3 && analysis.nitrogen < 0.1 {
        (Hardening::NotHardenable, like.media.clone())
    } else if deep && like.hardening != Hardening::Air {
        (Hardening::Air, vec![Medium::Plates, Medium::ForcedAir])
    } else if !deep && like.hardening == Hardening::Air {
        (Hardening::Oil, vec![Medium::MediumOil, Medium::WarmOil])
    } else {
        (like.hardening, like.media.clone())
    }
}

/// Built-in steels weighted by how alike they are to an analysis.
struct Neighbours<'a> {
    weights: Vec<(f64, &'a Steel)>,
    nearest: &'a Steel,
    distance: f64,
}

impl<'a> Neighbours<'a> {
    /// How alike the nearest is, 0 (not at all) to 1: a steel half a grade away teaches little.
    fn alike(&self) -> f64 {
        1.0 / (1.0 + (self.distance / 0.35).powi(4))
    }

    /// What goes into solution at the usual heat: all of the carbon in a lean steel, else what is in
    /// equilibrium there.
    fn dissolution(&self, steel: &Steel, lean: bool) -> Dissolution {
        let at = |a: &Analysis, t: f64| equilibrium(a, Celsius::clamped(t)).austenite;
        let (analysis, nominal) = (&steel.analysis, steel.austenitize.nominal.value());
        let held = at(analysis, nominal);
        let slope =
            2.0 * (at(analysis, nominal + 25.0).carbon - at(analysis, nominal - 25.0).carbon);
        let (known, alike) = (self.nearest, self.alike());
        let usual = at(&known.analysis, known.austenitize.nominal.value());
        let carbon = held.carbon + alike * (known.dissolution.carbon - usual.carbon);
        let chromium = held.chromium + alike * (known.dissolution.chromium - usual.chromium);
        Dissolution {
            carbon: if lean {
                analysis.carbon
            } else {
                carbon.clamp(0.05, analysis.carbon)
            },
            carbon_per_100c: if lean { 0.0 } else { slope.max(0.01) },
            chromium: chromium.clamp(0.0, analysis.chromium),
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
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn the_whole_table_is_read() {
        let lines = include_str!("../../data/steels.csv").lines().count() - 1;
        assert_eq!(Steel::table().len(), lines);
        assert_eq!((lines, temper_rows().count()), (46, 45));
        assert!(temper_rows().all(|(_, row)| row.points.len() == TEMPER_COLUMNS.len()));
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
        assert!(steel.spread_hrc() > 1.5);
        let beyond = Analysis {
            chromium: 19.5,
            ..odd
        };
        assert!(Steel::from_analysis("odd", "odd", &beyond).spread_hrc() > 2.5);
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
