//! What a plan risks, and the single change that would help.

use crate::geometry::clay::DRY_C;
use crate::geometry::form::Grid;
use crate::material::critical::solidus_c;
use crate::material::hardness::hv_of_hrc;
use crate::material::medium::Medium;
use crate::material::salvage::Salvage;
use crate::material::steel::{Hardening, Origin, Steel, SubZero};
use crate::material::temper::{BRITTLE_C, HOTTEST_C, STAINLESS_LIMIT_C};
use crate::prediction::laminate::Conflict;
use crate::process::change::{Change, StepField};
use crate::process::plan::Plan;
use crate::process::step::{MAX_TIMES, Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use crate::simulation::decarburization;
use crate::simulation::physics::{Physics, Verdict};
use crate::simulation::simulated::STEP_MM;
use serde::{Deserialize, Serialize};

/// One thing to know before the fire.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Warning {
    /// What it is.
    #[serde(flatten)]
    pub risk: Risk,
    /// The step it belongs to; None for the blade or the plan as a whole.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub step: Option<usize>,
    /// A change that would help, where there is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fix: Option<Change>,
}

/// What can go wrong, with its quantities.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = PlanRisk))]
pub enum Risk {
    /// The hardening heat lies below Ac1: nothing becomes austenite.
    BelowAc1 {
        /// The heat, °C.
        temperature_c: f64,
        /// Ac1, °C.
        ac1_c: f64,
        /// Name of the steel.
        steel: String,
    },
    /// The hardening heat coarsens the grain within ten minutes.
    CoarseGrain {
        /// The heat, °C.
        temperature_c: f64,
        /// Where grain coarsens, °C.
        coarsening_c: f64,
        /// Name of the steel.
        steel: String,
    },
    /// The hardening heat lies outside the usual window of the steel.
    OutsideWindow {
        /// The heat, °C.
        temperature_c: f64,
        /// Lower end of the window, °C.
        low_c: f64,
        /// Upper end of the window, °C.
        high_c: f64,
        /// Name of the steel.
        steel: String,
    },
    /// The soak is too short to dissolve the carbon.
    ShortSoak {
        /// The soak, s.
        soak_s: f64,
        /// Share of the carbon this heat can hold that it dissolves, 0 to 1.
        dissolved_share: f64,
        /// The soak that dissolves most of it, s.
        enough_s: f64,
    },
    /// Nobody knows the steel, and nothing of it was tried yet: a coupon comes first.
    SteelUntried {
        /// What it was.
        was: Salvage,
    },
    /// A stainless steel is tempered so hot that it rusts.
    StainlessTooHot {
        /// Above this it loses its stainlessness, °C.
        limit_c: f64,
        /// Name of the steel.
        steel: String,
    },
    /// The temper lies in the brittle range of martensite.
    BrittleTemper {
        /// Lower end of the range, °C.
        low_c: f64,
        /// Upper end of the range, °C.
        high_c: f64,
    },
    /// Clay is painted, and no step lays it on.
    ClayNotPlanned {},
    /// A step lays clay on, and none is painted.
    ClayNotPainted {},
    /// The clay is not dried long enough.
    ClayWet {
        /// What it wants, s.
        dry_s: f64,
        /// At this heat, °C.
        dry_c: f64,
    },
    /// The coat is so thick, or so damp, that many such crack as they dry or let go in the bath.
    ClayLetsGo {
        /// Share of them, 0 to 1.
        share: f64,
        /// Where it is thickest, mm.
        thickest_mm: f64,
    },
    /// A pouch keeps the bath off the blade.
    PouchInBath {},
    /// It is to be straightened cold and untempered.
    ColdStraighten {},
    /// It is to be straightened cold after its temper, and is still hard.
    StraightenHard {
        /// Its hardness, HRC.
        hrc: f64,
        /// A bow of less than this springs back whole, over the blade's length, mm.
        springs_mm: f64,
        /// So hard and rich in carbon that it snaps before it takes a set.
        snaps: bool,
    },
    /// The edge is so thin that by smiths' rule it ripples in this bath: not computed.
    EdgeWaves {
        /// The edge, mm.
        edge_mm: f64,
        /// From here on it stays straight by that rule, mm.
        rule_mm: f64,
    },
    /// The temper begins before the blade is cold.
    TemperedWarm {
        /// How far it cools, °C.
        temperature_c: f64,
        /// Austenite left there, percent.
        austenite_percent: f64,
        /// Austenite left at room temperature, percent.
        at_room_percent: f64,
    },
    /// Sub-zero waits until the austenite has settled.
    WaitingForCold {
        /// The wait, s.
        wait_s: f64,
        /// Share of what the cold could gain that is lost by it, 0 to 1.
        lost_share: f64,
    },
    /// A torch on an untempered blade.
    TorchUntempered {},
    /// Too little carbon for an edge.
    NotHardenable {
        /// Name of the steel.
        steel: String,
    },
    /// The edge is thin for a bare fire.
    ThinEdge {
        /// The edge, mm.
        edge_mm: f64,
        /// From here on it is safer, mm.
        safe_mm: f64,
    },
    /// An air-hardening steel is normalized.
    NoNormalize {
        /// Name of the steel.
        steel: String,
    },
    /// A normalizing heat is hotter than the one before.
    RisingHeats {
        /// By so much, K.
        rise_k: f64,
    },
    /// A steel for oil or air goes into water.
    WaterOnOilSteel {
        /// Name of the steel.
        steel: String,
    },
    /// The last bath has a time: the rest is cooled in air.
    OutIntoAir {
        /// The time in it, s.
        after_s: f64,
    },
    /// Sub-zero after a temper.
    LateSubZero {},
    /// Clay covers the place where hardness is read.
    ClayTooLow {},
    /// The edge hardens and the spine is too thick for this quench.
    SpineStaysSoft {
        /// The spine, mm.
        spine_mm: f64,
        /// How thick a section the quench reaches, mm.
        reach_mm: f64,
    },
    /// The section is too thick for this quench.
    TooThick {
        /// How thick a section the quench reaches, mm.
        reach_mm: f64,
        /// Name of the steel.
        steel: String,
    },
    /// No temper follows the quench.
    NoTemper {},
    /// Drained engine oil: its make is unknown, and its smoke carries metals and acids.
    UsedEngineOil {},
    /// Steels of one bar cannot be hardened together.
    LayersDoNotMeet {
        /// What keeps them apart.
        conflict: Conflict,
    },
    /// The analysis lies outside what the formulas were tried for: nothing is advised.
    OutsideFormulas {
        /// Name of the steel.
        steel: String,
    },
    /// The hardening heat begins to melt the steel.
    Melts {
        /// The heat, °C.
        temperature_c: f64,
        /// Where melting begins, °C.
        solidus_c: f64,
        /// Name of the steel.
        steel: String,
    },
    /// A lean steel is only partly austenite at its hardening heat.
    PartlyAustenite {
        /// Share that is, 0 to 1.
        share: f64,
        /// Where all of it is, °C.
        upper_c: f64,
    },
    /// So long at heat coarsens the grain and takes the skin's carbon, and dissolves nothing more.
    LongSoak {
        /// The soak, s.
        soak_s: f64,
        /// What is enough, s.
        enough_s: f64,
    },
    /// A temper so hot forms austenite again: it hardens anew on cooling.
    TemperAboveAc1 {
        /// The temper, °C.
        temperature_c: f64,
        /// Ac1, °C.
        ac1_c: f64,
    },
    /// A temper so cool does next to nothing.
    TemperDoesNothing {
        /// The temper, °C.
        temperature_c: f64,
    },
    /// A temper beyond what is known of the steel's softening.
    BeyondTemperTable {
        /// The last known, °C.
        hottest_c: f64,
    },
    /// The last temper leaves fresh martensite, hard and brittle.
    FreshMartensite {
        /// Percent of the structure.
        percent: f64,
    },
    /// A cold step that is not cold.
    NotCold {
        /// Its temperature, °C.
        temperature_c: f64,
    },
    /// Cooled slowly from above Acm, carbide makes a brittle network along the grain.
    CarbideNetwork {
        /// The heat it is cooled slowly from, °C.
        temperature_c: f64,
        /// Acm, °C.
        acm_c: f64,
    },
    /// The edge has lost carbon through and through: it stays softer than the rest.
    SoftSkin {
        /// Skin that lost carbon on each face, mm.
        depth_mm: f64,
        /// The edge, mm.
        edge_mm: f64,
        /// Hardness of the edge as it leaves the fire, HRC.
        edge_hrc: f64,
    },
    /// Ground hard and tempered low, hasty grinding cracks it.
    GrindingCracks {
        /// Retained austenite, percent.
        austenite_percent: f64,
        /// Hardness, HRC.
        hrc: f64,
    },
    /// Much austenite is left over that sub-zero would turn.
    WantsSubZero {
        /// Austenite left over, percent.
        austenite_percent: f64,
    },
}

/// An edge thinner than this burns, ripples or loses its carbon in a bare fire, mm.
const SAFE_EDGE_MM: f64 = 0.5;
/// Below this share of austenite nothing hardens.
const NEVER_HOT: f64 = 0.05;
/// So many times what is enough is too long at heat.
const LONG_SOAK: f64 = 8.0;
/// A temper below this does next to nothing, °C.
const IDLE_TEMPER_C: f64 = 80.0;
/// A cold step warmer than this is none, °C.
const WARM_COLD_C: f64 = 0.0;
/// Fresh martensite after the last temper that is worth another, percent.
const FRESH_PERCENT: f64 = 3.0;
/// This hard, with so much austenite, it is known to crack under a hasty wheel: HRC and percent.
const GRINDING_HRC: f64 = 60.0;
/// Softer than this a blade is straightened cold without much thought, HRC.
const SPRINGY_HRC: f64 = 48.0;
/// From here on rich steel snaps before it sets, HRC.
const SNAPS_HRC: f64 = 57.0;
/// Young's modulus of steel, MPa.
const YOUNG_MPA: f64 = 206_000.0;
/// Bare edges thinner than this ripple in water, and in oil, mm: smiths' rule.
const WAVES_IN_WATER_MM: f64 = 0.7;
const WAVES_IN_OIL_MM: f64 = 0.4;
/// A chance that clay lets go that is worth a warning.
const LETS_GO_OFTEN: f64 = 0.3;
const GRINDING_PERCENT: f64 = 18.0;
/// Share of its carbon that the middle of an edge keeps, below which the edge is soft.
const SOUND_EDGE: f64 = 0.85;
/// More carbon than this is enough for a network, percent.
const NETWORK_PERCENT: f64 = 0.9;
/// Hold of a normalizing heat that is put in, s.
pub(crate) const NORMALIZE_S: f64 = 600.0;
/// Sub-zero later than this after the quench loses what it should gain, s.
const LATE_COLD_S: f64 = 3600.0;
/// Room temperature, °C.
const ROOM_C: f64 = 20.0;

struct Warnings<'a> {
    steps: &'a [Step],
    /// The quench that counts.
    quench: usize,
    /// The heat before it.
    heat: Option<usize>,
    steel: &'a Steel,
    work: &'a Workpiece,
    physics: &'a Physics,
    found: Vec<Warning>,
}

impl Warnings<'_> {
    fn warn(&mut self, risk: Risk, step: Option<usize>, fix: Option<Change>) {
        self.found.push(Warning { risk, step, fix });
    }

    /// The change of one number of a step.
    fn set(&self, step: usize, field: StepField, value: f64) -> Option<Change> {
        Some(Change::set(self.steps, step, field, value))
    }

    fn set_temperature(&self, step: usize, t: Celsius) -> Option<Change> {
        self.set(step, StepField::TemperatureC, t.value().round())
    }

    fn steel_name(&self) -> String {
        self.steel.name.clone()
    }

    /// No temper lies between the quench and step `i`.
    fn untempered(&self, i: usize) -> bool {
        i > self.quench
            && !self.steps[self.quench..i]
                .iter()
                .any(|s| matches!(s, Step::Temper { .. }))
    }

    fn hardening_heat(&mut self, i: usize, t: f64, soak_s: f64) {
        let (steel, physics) = (self.steel, self.physics);
        let window = steel.austenitize;
        let solidus_c = solidus_c(&steel.analysis);
        if t > solidus_c {
            let risk = Risk::Melts {
                temperature_c: t,
                solidus_c,
                steel: self.steel_name(),
            };
            self.warn(risk, Some(i), self.set_temperature(i, window.nominal));
        } else if t < steel.ac1_c {
            let risk = Risk::BelowAc1 {
                temperature_c: t,
                ac1_c: steel.ac1_c,
                steel: self.steel_name(),
            };
            self.warn(risk, Some(i), self.set_temperature(i, window.nominal));
        } else if t > steel.coarsening_c {
            let risk = Risk::CoarseGrain {
                temperature_c: t,
                coarsening_c: steel.coarsening_c,
                steel: self.steel_name(),
            };
            self.warn(risk, Some(i), self.set_temperature(i, window.high));
        } else if t < window.low.value() || t > window.high.value() {
            let risk = Risk::OutsideWindow {
                temperature_c: t,
                low_c: window.low.value(),
                high_c: window.high.value(),
                steel: self.steel_name(),
            };
            self.warn(risk, Some(i), self.set_temperature(i, window.nominal));
        }
        let share = physics.dissolved.austenite;
        if (NEVER_HOT..0.98).contains(&share) {
            let upper_c = steel.ac3_or_acm_c.max(steel.ac1_c + 20.0);
            self.warn(
                Risk::PartlyAustenite { share, upper_c },
                Some(i),
                self.set_temperature(i, window.nominal),
            );
        }
        let above = t - window.nominal.value();
        let needed = steel
            .limits()
            .soak_needed_s(physics.structure, Kelvins::of(above));
        let enough_s = (needed / 60.0).ceil() * 60.0;
        let longest_s = LONG_SOAK * enough_s.max(steel.soak.value());
        if t >= steel.ac1_c && soak_s > longest_s {
            let enough_s = enough_s.max(steel.soak.value());
            let fix = self.set(i, StepField::SoakS, enough_s);
            self.warn(Risk::LongSoak { soak_s, enough_s }, Some(i), fix);
        }
        if t >= steel.ac1_c && physics.dissolved.progress < 0.93 {
            let risk = Risk::ShortSoak {
                soak_s,
                dissolved_share: physics.dissolved.progress,
                enough_s,
            };
            self.warn(risk, Some(i), self.set(i, StepField::SoakS, enough_s));
        }
    }

    fn normalizing(&mut self, i: usize, t: f64, before: Option<f64>) {
        if self.steel.normalize.is_none() && self.steel.hardening == Hardening::Air {
            let steel = self.steel_name();
            let fix = Change::Remove { step: i };
            self.warn(Risk::NoNormalize { steel }, Some(i), Some(fix));
        } else if let Some(before) = before.filter(|b| t > *b) {
            let risk = Risk::RisingHeats { rise_k: t - before };
            let fix = self.set_temperature(i, Celsius::clamped(before - 15.0));
            self.warn(risk, Some(i), fix);
        }
    }

    fn quench(&mut self, i: usize, stages: &[Stage]) {
        let steel = self.steel;
        let first = stages.first().map(|s| s.medium);
        if first.is_some_and(|m| m.is_water())
            && matches!(steel.hardening, Hardening::Oil | Hardening::Air)
            && !steel.media.iter().any(|m| m.is_water())
            && !steel.water_then_oil
        {
            let steel = self.steel_name();
            self.warn(Risk::WaterOnOilSteel { steel }, Some(i), None);
        }
        if stages.iter().any(|s| s.medium == Medium::UsedEngineOil) {
            self.warn(Risk::UsedEngineOil {}, Some(i), None);
        }
        if let Some(Stage {
            for_s: Some(time), ..
        }) = stages.last()
        {
            let after_s = time.value();
            self.warn(Risk::OutIntoAir { after_s }, Some(i), None);
        }
    }

    fn temper(&mut self, i: usize, t: f64) {
        let steel = self.steel;
        let ac1_c = steel.ac1_c;
        if t >= ac1_c {
            let temperature_c = t;
            let risk = Risk::TemperAboveAc1 {
                temperature_c,
                ac1_c,
            };
            self.warn(risk, Some(i), None);
        } else if t > HOTTEST_C {
            let hottest_c = HOTTEST_C;
            self.warn(Risk::BeyondTemperTable { hottest_c }, Some(i), None);
        } else if t < IDLE_TEMPER_C {
            let temperature_c = t;
            self.warn(Risk::TemperDoesNothing { temperature_c }, Some(i), None);
        }
        if steel.is_stainless() {
            if t > STAINLESS_LIMIT_C {
                let risk = Risk::StainlessTooHot {
                    limit_c: STAINLESS_LIMIT_C,
                    steel: self.steel_name(),
                };
                self.warn(risk, Some(i), None);
            }
        } else if BRITTLE_C.contains(&t) && steel.hardening != Hardening::Air {
            let risk = Risk::BrittleTemper {
                low_c: *BRITTLE_C.start(),
                high_c: *BRITTLE_C.end(),
            };
            let beside = if t < 315.0 { 255.0 } else { 375.0 };
            let fix = self.set_temperature(i, Celsius::clamped(beside));
            self.warn(risk, Some(i), fix);
        }
    }

    /// Each step by itself.
    fn of_steps(&mut self) {
        let mut last_normalize: Option<f64> = None;
        for (i, step) in self.steps.iter().enumerate() {
            match step {
                Step::Normalize { temperature_c, .. } => {
                    let t = temperature_c.value();
                    self.normalizing(i, t, last_normalize);
                    last_normalize = Some(t);
                }
                Step::Austenitize {
                    temperature_c,
                    soak_s,
                    ..
                } if Some(i) == self.heat => {
                    self.hardening_heat(i, temperature_c.value(), soak_s.value());
                }
                Step::Quench { stages } if i == self.quench => self.quench(i, stages),
                Step::SubZero { temperature_c, .. } if temperature_c.value() > WARM_COLD_C => {
                    let temperature_c = temperature_c.value();
                    self.warn(Risk::NotCold { temperature_c }, Some(i), None);
                }
                Step::SubZero { .. } if i > self.quench && !self.untempered(i) => {
                    self.warn(Risk::LateSubZero {}, Some(i), None);
                }
                Step::Anneal { temperature_c, .. } if Some(i) < self.heat => {
                    self.slow_from(i, temperature_c.value());
                }
                Step::Temper { temperature_c, .. } if i > self.quench => {
                    self.temper(i, temperature_c.value());
                }
                _ => {}
            }
        }
    }

    /// A rich steel cooled slowly from above Acm, with no heat after it that breaks the network up.
    fn slow_from(&mut self, i: usize, t: f64) {
        let steel = self.steel;
        let acm_c = steel.ac3_or_acm_c;
        let cured = self.steps[i + 1..self.heat.unwrap_or(i + 1).max(i + 1)]
            .iter()
            .any(|s| matches!(s, Step::Normalize { temperature_c, .. } if temperature_c.value() >= acm_c - 10.0));
        let rich = steel.analysis.carbon > NETWORK_PERCENT;
        if !rich || steel.analysis.chromium > 6.0 || t <= acm_c || cured {
            return;
        }
        let risk = Risk::CarbideNetwork {
            temperature_c: t,
            acm_c,
        };
        let fix = steel.normalize.map(|temperature_c| Change::Insert {
            at: i + 1,
            step: Step::Normalize {
                temperature_c,
                hold_s: Seconds::clamped(NORMALIZE_S),
                by: None,
            },
        });
        self.warn(risk, Some(i), fix);
    }

    fn clay(&mut self, i: usize, hold_s: Seconds) {
        if self.work.clay.is_bare() {
            let fix = Change::Remove { step: i };
            self.warn(Risk::ClayNotPainted {}, Some(i), Some(fix));
            return;
        }
        let Some(lay) = self.work.clay.lay(&Grid::over(&self.work.form, STEP_MM)) else {
            return;
        };
        let dry_s = lay.dry_oven_s;
        if hold_s.value() < dry_s {
            let risk = Risk::ClayWet {
                dry_s,
                dry_c: DRY_C,
            };
            self.warn(risk, Some(i), self.set(i, StepField::HoldS, dry_s));
        }
        let share = lay.lets_go_dried(hold_s.value());
        if share > LETS_GO_OFTEN {
            let risk = Risk::ClayLetsGo {
                share,
                thickest_mm: lay.thickest_mm,
            };
            self.warn(risk, Some(i), None);
        }
    }

    fn pouch(&mut self, i: usize) {
        if let Some(Step::Quench { stages }) = self.steps.get(self.quench)
            && stages.first().is_some_and(|s| s.medium.is_liquid())
        {
            self.warn(Risk::PouchInBath {}, Some(i), None);
        }
    }

    /// Straightened cold after a temper.
    fn straighten_hard(&mut self, i: usize) {
        let hrc = self.physics.tempered_hrc;
        if i < self.quench || hrc < SPRINGY_HRC {
            return;
        }
        // Tensile strength by ISO 18265, about 3.3 MPa for each HV, and yield at four fifths of it.
        let yield_mpa = 0.8 * 3.3 * hv_of_hrc(hrc);
        let blade = self.work.blade();
        let springs_mm = yield_mpa * blade.length_mm.powi(2) / (4.0 * YOUNG_MPA * blade.spine_mm);
        let rich = self.physics.dissolved.composition.carbon > 0.65;
        let risk = Risk::StraightenHard {
            hrc,
            springs_mm,
            snaps: hrc >= SNAPS_HRC && rich,
        };
        self.warn(risk, Some(i), None);
    }

    /// Edges that ripple in the bath: by rule, until it can be computed.
    fn edge_waves(&mut self) {
        let Some(Step::Quench { stages }) = self.steps.get(self.quench) else {
            return;
        };
        let rule_mm = stages.first().map_or(0.0, |s| match s.medium {
            m if m.is_water() => WAVES_IN_WATER_MM,
            m if m.is_oil() => WAVES_IN_OIL_MM,
            _ => 0.0,
        });
        let edge_mm = self.work.form.thinnest_edge_mm();
        if edge_mm < rule_mm {
            self.warn(
                Risk::EdgeWaves { edge_mm, rule_mm },
                Some(self.quench),
                None,
            );
        }
    }

    fn straighten(&mut self, i: usize) {
        let cold = self.steps[self.quench..i]
            .iter()
            .any(|s| matches!(s, Step::Cool { .. } | Step::SubZero { .. }));
        if cold {
            let fix = Change::Remove { step: i };
            self.warn(Risk::ColdStraighten {}, Some(i), Some(fix));
        }
    }

    fn cool(&mut self, i: usize, t: Celsius) {
        let left = 100.0 * self.physics.dissolved.retained(t.value());
        let room = 100.0 * self.physics.dissolved.retained(ROOM_C);
        if left > room + 3.0 {
            let risk = Risk::TemperedWarm {
                temperature_c: t.value(),
                austenite_percent: left,
                at_room_percent: room,
            };
            let fix = self.set_temperature(i, Celsius::clamped(ROOM_C));
            self.warn(risk, Some(i), fix);
        }
    }

    /// What surrounds the heats: clay, pouch, straightening, cooling, cold, torch.
    fn around(&mut self) {
        let clayed = self.steps.iter().any(|s| matches!(s, Step::Clay { .. }));
        if let (false, true, Some(at)) = (clayed, self.work.unlaid, self.heat) {
            let step = Step::Clay {
                temperature_c: Celsius::clamped(DRY_C),
                hold_s: Seconds::clamped(self.work.clay.dry_oven_s(&self.work.form)),
            };
            let fix = Change::Insert { at, step };
            self.warn(Risk::ClayNotPlanned {}, Some(at), Some(fix));
        }
        for (i, step) in self.steps.iter().enumerate() {
            match step {
                Step::Clay { hold_s, .. } => self.clay(i, *hold_s),
                Step::Pouch {} if i < self.quench => self.pouch(i),
                Step::Straighten {} if self.untempered(i) => self.straighten(i),
                Step::Straighten {} => self.straighten_hard(i),
                Step::Cool { temperature_c, .. } if self.untempered(i) => {
                    self.cool(i, *temperature_c);
                }
                Step::SubZero { wait_s, .. } if i > self.quench && wait_s.value() > LATE_COLD_S => {
                    let risk = Risk::WaitingForCold {
                        wait_s: wait_s.value(),
                        lost_share: 1.0 - 0.5_f64.powf(wait_s.hours() / 24.0),
                    };
                    self.warn(risk, Some(i), self.set(i, StepField::WaitS, 0.0));
                }
                Step::TorchTemper { .. } if self.untempered(i) => {
                    self.warn(Risk::TorchUntempered {}, Some(i), None);
                }
                _ => {}
            }
        }
    }

    /// The quench on this section.
    fn section(&mut self, reach_mm: f64) {
        let spine_mm = self.work.blade().spine_mm;
        // Bare it would harden: what is soft is soft under the clay.
        let by_clay = !self.work.clay.is_bare() && reach_mm > spine_mm;
        let risk = match self.physics.verdict {
            Verdict::SpineStaysSoft if by_clay => return,
            Verdict::TooThick if by_clay => Risk::ClayTooLow {},
            Verdict::SpineStaysSoft => Risk::SpineStaysSoft { spine_mm, reach_mm },
            Verdict::TooThick => Risk::TooThick {
                reach_mm,
                steel: self.steel_name(),
            },
            Verdict::HardensThrough | Verdict::NeverHot => return,
        };
        self.warn(risk, Some(self.quench), None);
    }

    /// An edge that is mostly skin without its carbon.
    fn skin(&mut self) {
        let depth_mm = decarburization::depth_mm(self.steps, self.work.protection, Kelvins::ZERO);
        let edge_mm = self.work.blade().edge_mm;
        let d = &self.physics.dissolved;
        let share = decarburization::carbon_left(depth_mm, edge_mm);
        if share > SOUND_EDGE || d.austenite < NEVER_HOT {
            return;
        }
        let edge_hrc = decarburization::hard_hrc(self.steel, d, depth_mm, edge_mm);
        let risk = Risk::SoftSkin {
            depth_mm,
            edge_mm,
            edge_hrc,
        };
        self.warn(risk, None, None);
    }

    /// What is missing after the quench.
    fn missing(&mut self) {
        let after = &self.steps[(self.quench + 1).min(self.steps.len())..];
        if !after.iter().any(|s| matches!(s, Step::Temper { .. })) {
            let step = Step::Temper {
                by: None,
                blades: None,
                clamp: None,
                cooled: None,
                temperature_c: Celsius::clamped(205.0),
                hold_s: Seconds::clamped(7200.0),
                times: 2,
                station_id: None,
            };
            let at = self.steps.len();
            self.warn(Risk::NoTemper {}, None, Some(Change::Insert { at, step }));
        }
        let tempers = self
            .steps
            .iter()
            .rposition(|s| matches!(s, Step::Temper { .. }));
        let percent = self.physics.untempered_percent;
        if percent > FRESH_PERCENT
            && let Some(i) = tempers
            && let Step::Temper { times, .. } = &self.steps[i]
        {
            let mut with = self.steps[i].clone();
            let more = (*times < MAX_TIMES).then_some(times + 1);
            let fix = more.map(|more| {
                if let Step::Temper { times, .. } = &mut with {
                    *times = more;
                }
                Change::Replace { at: i, with }
            });
            self.warn(Risk::FreshMartensite { percent }, Some(i), fix);
        }
        let austenite_percent = self.physics.retained_percent;
        let hrc = self.physics.tempered_hrc;
        if tempers.is_some() && hrc >= GRINDING_HRC && austenite_percent > GRINDING_PERCENT {
            let risk = Risk::GrindingCracks {
                austenite_percent,
                hrc,
            };
            self.warn(risk, None, None);
        }
        if self.steel.sub_zero == SubZero::Yes
            && austenite_percent > 10.0
            && !after.iter().any(|s| matches!(s, Step::SubZero { .. }))
        {
            let risk = Risk::WantsSubZero { austenite_percent };
            let fix = Change::add_cold(self.quench + 1);
            self.warn(risk, Some(self.quench), Some(fix));
        }
    }
}

/// Everything to warn of in `plan`. `reach_mm`: the thickest section that its quench hardens, mm.
#[must_use]
pub fn warnings(
    plan: &Plan,
    steel: &Steel,
    work: &Workpiece,
    physics: &Physics,
    reach_mm: f64,
) -> Vec<Warning> {
    let (steps, quench) = (plan.steps(), plan.last_quench().unwrap_or(0));
    let mut w = Warnings {
        steps,
        quench,
        heat: steps[..quench]
            .iter()
            .rposition(|s| matches!(s, Step::Austenitize { .. })),
        steel,
        work,
        physics,
        found: Vec::new(),
    };
    if let Origin::Reclaimed {
        was, tried: false, ..
    } = steel.origin
    {
        w.warn(Risk::SteelUntried { was }, None, None);
    }
    if steel.hardening == Hardening::NotHardenable {
        let steel = w.steel_name();
        w.warn(Risk::NotHardenable { steel }, None, None);
    }
    let edge_mm = work.blade().edge_mm;
    if edge_mm < SAFE_EDGE_MM {
        let safe_mm = SAFE_EDGE_MM;
        w.warn(Risk::ThinEdge { edge_mm, safe_mm }, None, None);
    }
    w.of_steps();
    w.edge_waves();
    w.around();
    w.section(reach_mm);
    w.skin();
    w.missing();
    if matches!(steel.origin, Origin::Analysis { .. }) && !steel.analysis.formulas_hold() {
        // What formulas say where they were not tried must not be acted on by a press.
        for warning in &mut w.found {
            warning.fix = None;
        }
        let steel = w.steel_name();
        w.warn(Risk::OutsideFormulas { steel }, None, None);
    }
    w.found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::blade::Blade;
    use crate::simulation::physics::{
        Shift, physics,
        tests::{blade, plan},
    };
    use crate::testing::code;
    use rstest::rstest;

    fn codes(steel: &str, json: &str, edge_mm: f64) -> Vec<String> {
        let (plan, steel) = (plan(json), Steel::built_in(steel).unwrap());
        let blade = Blade { edge_mm, ..blade() };
        let physics = physics(&plan, steel, &blade, Shift::default());
        warnings(&plan, steel, &Workpiece::plain(&blade), &physics, 4.0)
            .into_iter()
            .map(|w| code(&w.risk))
            .collect()
    }

    const OIL: &str = r#"{"kind":"quench","stages":[{"medium":"fast_oil"}]}"#;
    const WATER: &str = r#"{"kind":"quench","stages":[{"medium":"water"}]}"#;
    const PLATES: &str = r#"{"kind":"quench","stages":[{"medium":"plates"}]}"#;
    const SOFT: &str = r#"{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}"#;

    fn heat(t: u32, s: u32) -> String {
        format!(r#"{{"kind":"austenitize","temperature_c":{t},"soak_s":{s}}}"#)
    }

    #[rstest]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(815, 300)), 0.8, &[])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(815, 300)), 0.3, &["thin_edge", "edge_waves"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(700, 300)), 0.8, &["below_ac1"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(900, 300)), 0.8, &["coarse_grain"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(850, 300)), 0.8, &["outside_window"])]
    #[case("1084", format!(r#"[{{"kind":"anneal","temperature_c":740,"hold_s":3600}},{},{OIL},{SOFT}]"#, heat(815, 80)), 0.8, &["short_soak"])]
    #[case("1084", format!("[{},{OIL}]", heat(815, 300)), 0.8, &["no_temper"])]
    #[case("o1", format!("[{},{WATER},{SOFT}]", heat(800, 720)), 0.8, &["water_on_oil_steel"])]
    #[case("1084", format!(r#"[{{"kind":"normalize","temperature_c":815}},{{"kind":"normalize","temperature_c":870}},{},{OIL},{SOFT}]"#, heat(815, 300)), 0.8, &["rising_heats"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"temper","temperature_c":300,"hold_s":7200}}]"#, heat(815, 300)), 0.8, &["brittle_temper"])]
    #[case("1084", format!(r#"[{{"kind":"clay","temperature_c":200,"hold_s":3600}},{},{OIL},{SOFT}]"#, heat(815, 300)), 0.8, &["clay_not_painted"])]
    #[case("1084", format!(r#"[{{"kind":"pouch"}},{},{OIL},{SOFT}]"#, heat(815, 300)), 0.8, &["pouch_in_bath"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"straighten"}},{SOFT}]"#, heat(815, 300)), 0.8, &[])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"cool","temperature_c":20}},{{"kind":"straighten"}},{SOFT}]"#, heat(815, 300)), 0.8, &["cold_straighten"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"cool","temperature_c":90}},{SOFT}]"#, heat(815, 300)), 0.8, &["tempered_warm", "grinding_cracks"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"sub_zero","temperature_c":-75,"hold_s":7200,"wait_s":86400}},{SOFT}]"#, heat(815, 300)), 0.8, &["waiting_for_cold"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"torch_temper","temperature_c":400,"part":"tang"}},{SOFT}]"#, heat(815, 300)), 0.8, &["torch_untempered"])]
    #[case("1018", format!("[{},{WATER},{SOFT}]", heat(880, 300)), 0.8, &["not_hardenable"])]
    #[case("d2", format!(r#"[{},{PLATES},{SOFT}]"#, heat(1260, 300)), 0.8, &["melts", "wants_sub_zero"])]
    #[case("1050", format!("[{},{WATER},{SOFT}]", heat(745, 300)), 0.8, &["outside_window", "partly_austenite"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(815, 604_800)), 0.8, &["long_soak", "soft_skin"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"temper","temperature_c":760,"hold_s":7200}}]"#, heat(815, 300)), 0.8, &["temper_above_ac1"])]
    #[case("a2", format!(r#"[{},{PLATES},{{"kind":"temper","temperature_c":700,"hold_s":7200,"times":2}}]"#, heat(955, 1500)), 0.8, &["beyond_temper_table"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"temper","temperature_c":60,"hold_s":7200}}]"#, heat(815, 300)), 0.8, &["temper_does_nothing"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"sub_zero","temperature_c":400,"hold_s":7200}},{SOFT}]"#, heat(815, 300)), 0.8, &["not_cold"])]
    #[case("hs6-5-2", format!(r#"[{},{PLATES},{{"kind":"temper","temperature_c":560,"hold_s":3600}}]"#, heat(1220, 240)), 0.8, &["fresh_martensite"])]
    #[case("52100", format!(r#"[{{"kind":"anneal","temperature_c":920,"hold_s":3600}},{},{OIL},{SOFT}]"#, heat(845, 720)), 0.8, &["carbide_network"])]
    #[case("52100", format!(r#"[{{"kind":"anneal","temperature_c":920,"hold_s":3600}},{{"kind":"normalize","temperature_c":900}},{},{OIL},{SOFT}]"#, heat(845, 720)), 0.8, &[])]
    fn each_thing_is_said_once(
        #[case] steel: &str,
        #[case] json: String,
        #[case] edge: f64,
        #[case] expected: &[&str],
    ) {
        assert_eq!(codes(steel, &json, edge), expected);
    }

    #[test]
    fn outside_what_the_formulas_know_nothing_is_offered_to_press() {
        let odd = crate::material::analysis::Analysis {
            carbon: 1.0,
            chromium: 19.5,
            ..crate::material::analysis::Analysis::default()
        };
        let steel = Steel::from_analysis("odd", "odd", &odd);
        let plan = plan(&format!("[{},{OIL}]", heat(700, 60)));
        let physics = physics(&plan, &steel, &blade(), Shift::default());
        let found = warnings(&plan, &steel, &Workpiece::plain(&blade()), &physics, 4.0);
        let outside = |w: &Warning| matches!(w.risk, Risk::OutsideFormulas { .. });
        assert!(found.iter().any(outside) && found.iter().all(|w| w.fix.is_none()));
    }

    #[test]
    fn no_change_that_is_offered_goes_above_the_window_or_below_ac1() {
        for steel in Steel::table() {
            for t in [680.0, 760.0, 900.0, 1100.0, 1290.0] {
                let plan = plan(&format!("[{},{OIL}]", heat(t as u32, 300)));
                let physics = physics(&plan, steel, &blade(), Shift::default());
                let all = warnings(&plan, steel, &Workpiece::plain(&blade()), &physics, 4.0);
                for change in all.into_iter().filter_map(|w| w.fix) {
                    if let Change::Set {
                        step: 0,
                        field: StepField::TemperatureC,
                        value,
                        ..
                    } = change
                    {
                        assert!(
                            value > steel.ac1_c && value <= steel.austenitize.high.value(),
                            "{}: {value}",
                            steel.name
                        );
                    }
                }
            }
        }
    }

    #[test]
    fn stainless_asks_for_cold_and_refuses_normalizing() {
        let plates = r#"{"kind":"quench","stages":[{"medium":"plates"}]}"#;
        let found = codes(
            "x65cr13",
            &format!(
                r#"[{{"kind":"normalize","temperature_c":900}},{},{plates},{SOFT}]"#,
                heat(1060, 720)
            ),
            0.8,
        );
        assert_eq!(found, ["no_normalize", "wants_sub_zero"]);
    }

    #[test]
    fn a_last_bath_with_an_end_says_that_it_comes_out_into_air() {
        let brief = r#"{"kind":"quench","stages":[{"medium":"fast_oil","for_s":4}]}"#;
        let found = codes("1084", &format!("[{},{brief},{SOFT}]", heat(815, 300)), 0.8);
        assert!(found.contains(&"out_into_air".to_owned()), "{found:?}");
    }

    #[test]
    fn a_slow_quench_is_called_too_slow() {
        let air = r#"{"kind":"quench","stages":[{"medium":"still_air"}]}"#;
        assert_eq!(
            codes("1084", &format!("[{},{air},{SOFT}]", heat(815, 300)), 0.8),
            ["too_thick"]
        );
    }

    #[test]
    fn straightening_hard_steel_cold_is_warned_of_by_its_hardness() {
        let found = |temper: &str, spine_mm: f64| {
            let steel = Steel::built_in("1084").unwrap();
            let plan = plan(&format!(
                "[{},{OIL},{temper},{{\"kind\":\"straighten\"}}]",
                heat(815, 300)
            ));
            let blade = crate::geometry::blade::Blade {
                spine_mm,
                ..blade()
            };
            let physics =
                crate::simulation::physics::physics(&plan, steel, &blade, Shift::default());
            let all = warnings(&plan, steel, &Workpiece::plain(&blade), &physics, 10.0);
            all.into_iter().find_map(|w| match w.risk {
                Risk::StraightenHard {
                    hrc,
                    springs_mm,
                    snaps,
                } => Some((hrc, springs_mm, snaps)),
                _ => None,
            })
        };
        let temper =
            |c: u32| format!(r#"{{"kind":"temper","temperature_c":{c},"hold_s":7200,"times":1}}"#);
        let (hrc, springs_mm, snaps) = found(&temper(180), 3.0).unwrap();
        // A spring of 60 HRC, 3 mm thick and 180 mm long: κ = 2σ/Et with σ about 1.8 GPa, sag κL²/8.
        assert!(
            hrc > 58.0 && snaps && (15.0..28.0).contains(&springs_mm),
            "{springs_mm}"
        );
        let (_, thick, _) = found(&temper(180), 6.0).unwrap();
        assert!((springs_mm / thick - 2.0).abs() < 0.1);
        assert!(!found(&temper(300), 3.0).unwrap().2);
        assert_eq!(found(&temper(600), 3.0), None);
    }

    #[test]
    fn thin_edges_ripple_in_water_sooner_than_in_oil() {
        let waves = |edge_mm: f64, medium: &str| {
            let steel = Steel::built_in("w2").unwrap();
            let quench = format!(r#"{{"kind":"quench","stages":[{{"medium":"{medium}"}}]}}"#);
            let plan = plan(&format!("[{},{quench},{SOFT}]", heat(790, 300)));
            let blade = crate::geometry::blade::Blade { edge_mm, ..blade() };
            let physics =
                crate::simulation::physics::physics(&plan, steel, &blade, Shift::default());
            let all = warnings(&plan, steel, &Workpiece::plain(&blade), &physics, 10.0);
            all.iter().any(|w| matches!(w.risk, Risk::EdgeWaves { .. }))
        };
        assert!(waves(0.6, "water") && !waves(0.8, "water"));
        assert!(waves(0.3, "fast_oil") && !waves(0.6, "fast_oil"));
        assert!(!waves(0.2, "plates"));
    }

    #[test]
    fn clay_that_no_step_lays_on_is_missed_and_a_wet_one_warned_of() {
        let steel = Steel::built_in("1084").unwrap();
        let work = Workpiece {
            clay: crate::geometry::clay::Clay::band(14.0, 2.0),
            ..Workpiece::plain(&blade())
        };
        let bare = Workpiece {
            unlaid: true,
            ..Workpiece::plain(&blade())
        };
        let codes_of = |work: &Workpiece, json: String| {
            let plan = plan(&json);
            let physics =
                crate::simulation::physics::physics(&plan, steel, &blade(), Shift::default());
            let found = warnings(&plan, steel, work, &physics, 10.0);
            found.iter().map(|w| code(&w.risk)).collect::<Vec<_>>()
        };
        let codes = |json: String| codes_of(&work, json);
        let rest = format!("{},{OIL},{SOFT}", heat(815, 300));
        assert_eq!(codes_of(&bare, format!("[{rest}]")), ["clay_not_planned"]);
        let clay =
            |s: u32| format!(r#"[{{"kind":"clay","temperature_c":200,"hold_s":{s}}},{rest}]"#);
        let low = Workpiece {
            clay: crate::geometry::clay::Clay::band(0.0, 10.0),
            ..Workpiece::plain(&blade())
        };
        let dried = plan(&clay(14_400));
        let section = crate::simulation::physics::section(&dried, steel, &low);
        let soft =
            crate::simulation::physics::of_section(&dried, steel, &section, Shift::default());
        let found = warnings(&dried, steel, &low, &soft, 10.0);
        assert_eq!(soft.verdict, Verdict::TooThick);
        let found: Vec<_> = found.iter().map(|w| code(&w.risk)).collect();
        // A centimetre of clay lets go as often as not, too.
        assert_eq!(found, ["clay_lets_go", "clay_too_low"]);
        assert_eq!(codes(clay(600)), ["clay_wet"]);
        assert!(codes(clay(7200)).is_empty());
    }
}
