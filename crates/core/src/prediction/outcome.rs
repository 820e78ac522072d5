//! What the whole blade does in the quench: hamon, bend, crack, grain, skin, and the soak before it.

use crate::geometry::clay::{Clay, DRY_C, Lay};
use crate::geometry::form::Grid;
use crate::learning::bias_model::{CURVE_LENGTH_MM, Shift, Traits};
use crate::learning::bias_models::BiasModels;
use crate::learning::crack::Risk;
use crate::learning::warp::{self, Part, WarpModel, over};
use crate::material::medium::Medium;
use crate::material::properties::DENSITY;
use crate::material::steel::Steel;
use crate::material::temper::parameter;
use crate::prediction::over_heat::OverHeat;
use crate::prediction::preparation::{Checked, Measured, checked};
use crate::prediction::reason::{About, Reason, Why};
use crate::process::check::Check;
use crate::process::furnace::{Load, Soak, time_to_heat_s};
use crate::process::plan::Plan;
use crate::process::protection::Protection;
use crate::process::step::{Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::interval::{Interval, NINETY};
use crate::quantity::units::{Kelvins, Quantity};
use crate::simulation::crack::Causes;
use crate::simulation::decarburization;
use crate::simulation::grain;
use crate::simulation::hamon::{Hamon, NoLine, columns, line_of};
use crate::simulation::heat::{Heat, STRIP_AT};
use crate::simulation::physics::stages;
use crate::simulation::quench::{Quenched, Setup, Stopped, quench};
use crate::simulation::simulated::{STEP_MM, Simulated, lay, quench_and_bend, relieved};
use crate::simulation::straightening::{TemperClamp, first_temper, planned_clamp};
use crate::simulation::warp::blade::{Moment, Station};
use crate::simulation::warp::driver::{Driver, lies_on_its_side};
use serde::{Deserialize, Serialize};
use std::sync::atomic::AtomicBool;

/// How a blade bends in the quench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BendOutcome {
    /// Sag from heel to tip, mm; positive: edge convex, spine-in.
    pub sori_mm: f64,
    /// Sag sideways for bevels whose heights differ by a tenth, mm.
    pub side_mm_per_10_percent: f64,
    /// Chance that it ends more out of line sideways than the tolerance, 0 to 1.
    pub side_over_tolerance_probability: f64,
    /// What can be left without straightening, mm.
    pub tolerance_mm: f64,
    /// Sag sideways that one quench in ten exceeds, mm.
    pub side_ninety_mm: f64,
    /// Sag sideways of what is known to differ from face to face, mm: above zero the left face is convex.
    #[serde(default)]
    pub side_known_mm: f64,
    /// What else bends it sideways, largest first.
    #[serde(default)]
    pub parts: Vec<Part>,
    /// The one change that makes it likelier to stay straight.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub help: Option<WarpHelp>,
    /// What a clamp in the temper leaves of that; none where the plan clamps nothing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clamped: Option<ClampedBend>,
    /// It goes one way near the heel and the other near the tip: how much of it comes back, mm.
    #[serde(default)]
    pub twist_mm: f64,
    /// How far the sag may be off by the steps in time, mm.
    #[serde(default)]
    pub numerical_mm: f64,
    /// The sag towards the spine through the quench.
    #[serde(default)]
    pub moments: Vec<Moment>,
    /// Curvature along the blade.
    #[serde(default)]
    pub stations: Vec<Station>,
}

/// What a clamp in the temper leaves of a bow sideways: a shim goes under a blade that is bowed by more than can be left.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ClampedBend {
    /// How far past straight the shim holds it, mm; 0 where it is clamped straight.
    pub shim_mm: f64,
    /// Share of what it is bent by there that stays, 0 to 1.
    pub takes_out: f64,
    /// Chance that more than the tolerance is left, to either side, 0 to 1.
    pub over_tolerance_probability: f64,
    /// What is left that one blade in ten exceeds, mm.
    pub ninety_mm: f64,
}

impl ClampedBend {
    /// `over(mm)` is the chance of a bow of more than that before the clamp; `ninety_mm` what one in ten exceeds then.
    fn of(
        clamp: TemperClamp,
        shim_mm: f64,
        (tolerance_mm, ninety_mm): (f64, f64),
        over: impl Fn(f64) -> f64,
    ) -> Self {
        let left = (1.0 - clamp.takes_out).max(0.01);
        let pulled = clamp.takes_out * shim_mm;
        let more_than = |mm: f64| {
            let between = |low: f64, high: f64| (over(low) - over(high)).max(0.0);
            // Straight enough: clamped without a shim.
            let small = if mm / left < tolerance_mm {
                between(mm / left, tolerance_mm)
            } else {
                0.0
            };
            let short = over(tolerance_mm.max((mm + pulled) / left));
            let past = (pulled - mm) / left;
            let beyond = if past > tolerance_mm {
                between(tolerance_mm, past)
            } else {
                0.0
            };
            (small + short + beyond).min(1.0)
        };
        let (mut low, mut high) = (0.0, ninety_mm.max(pulled).max(0.1));
        for _ in 0..30 {
            let middle = 0.5 * (low + high);
            if more_than(middle) > 0.1 {
                low = middle;
            } else {
                high = middle;
            }
        }
        Self {
            shim_mm,
            takes_out: clamp.takes_out,
            over_tolerance_probability: more_than(tolerance_mm),
            ninety_mm: 0.5 * (low + high),
        }
    }
}

/// What would keep a blade straight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum WarpRemedy {
    /// Measure the bevels on both faces, and even them out.
    MeasureBevels,
    /// Coat it, or wrap it in foil.
    Coat,
    /// In upright, and moved along its edge only.
    HoldUpright,
    /// Edge up in the fire, or hung.
    LayEdgeUp,
    /// Normalize before it is hardened.
    Normalize,
}

/// A change, and what the chance would be.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WarpHelp {
    /// What.
    pub remedy: WarpRemedy,
    /// Chance of more than the tolerance then, 0 to 1.
    pub probability: f64,
}

impl WarpRemedy {
    /// The cause that it makes smaller, and to what share of it.
    const fn makes(self) -> (Driver, f64) {
        match self {
            Self::MeasureBevels => (Driver::Bevels, 0.2),
            Self::Coat => (Driver::Skin, 0.1),
            Self::HoldUpright => (Driver::Lean, 0.3),
            Self::LayEdgeUp => (Driver::Support, 0.0),
            Self::Normalize => (Driver::Rest, 0.5),
        }
    }
}

/// 90 % intervals of the outcomes that are plain numbers.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ranges {
    /// ASTM grain size number.
    pub grain_astm: Interval,
    /// Skin that loses carbon, mm.
    pub decarburization_mm: Interval,
    /// Hardened share of the middle, percent.
    pub martensite_percent_middle: Interval,
    /// Sag towards the spine, mm.
    pub sori_mm: Interval,
    /// Mean height of the line, mm; none without a line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hamon_mm: Option<Interval>,
}

/// Everything that the quench of the whole blade decides.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Outcomes {
    /// The line, or why there is none.
    pub hamon: Hamon,
    /// How much of the middle of the blade hardens, percent.
    pub martensite_percent_middle: f64,
    /// Bend.
    pub bend: BendOutcome,
    /// Risk of a crack.
    pub crack: Risk,
    /// What speaks for one, so that what comes of it can be learned from.
    #[serde(default)]
    pub crack_causes: Causes,
    /// Where it would start, mm from the heel and above the edge; none where next to nothing speaks for one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub crack_at_mm: Option<[f64; 2]>,
    /// ASTM grain size number at the quench.
    pub grain_astm: f64,
    /// How much of that number comes from the shop's broken coupons.
    #[serde(default)]
    pub grain_learned: f64,
    /// Depth of skin that loses carbon, mm.
    pub decarburization_mm: f64,
    /// When the parts are at heat, and the soak.
    pub soak: Soak,
    /// 90 % intervals.
    pub ranges: Ranges,
    /// The checks before the fire, with what each costs on this blade.
    #[serde(default)]
    pub checks: Vec<Checked>,
    /// What laying the clay on amounts to; none when bare.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clay: Option<Lay>,
    /// The grid was coarser than asked for, to keep within its limit: its step, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coarsened_to_mm: Option<f64>,
    /// Why.
    pub outcome_reasons: Vec<Reason>,
}

/// Sag that is left without straightening, mm: half a millimetre in 100 mm of blade, at least 0.3 mm.
#[must_use]
pub fn tolerance_mm(length_mm: f64) -> f64 {
    (0.005 * length_mm).max(0.3)
}

/// Where the hardening heat starts from, °C: the preheat before it, or room temperature.
fn preheated_c(plan: &Plan) -> f64 {
    let before = &plan.real_steps()[..plan.last_quench().unwrap_or(0)];
    let found = before.iter().rev().find_map(|s| match s {
        Step::Preheat { temperature_c, .. } => Some(temperature_c.value()),
        Step::Normalize { .. } | Step::Quench { .. } => Some(20.0),
        _ => None,
    });
    found.unwrap_or(20.0)
}

/// When edge, spine and thickest part are at heat, and the soak to advise.
fn soak(work: &Workpiece, plan: &Plan, steel: &Steel, heat: &Heat, grid: &Grid) -> Soak {
    let blade = work.blade();
    let load = Load {
        furnace: work.furnace,
        set_c: heat.temperature.value(),
        start_c: preheated_c(plan),
        mass_kg: DENSITY * grid.volume_m3(),
        blades: work.together,
    };
    let at = |mm: f64| time_to_heat_s(load, steel.ac1_c, mm);
    let thickest = grid.thickness_mm.iter().copied().fold(0.0, f64::max);
    let above = heat.temperature.value() - steel.austenitize.nominal.value();
    let dissolving = steel
        .limits()
        .soak_needed_s(heat.structure, Kelvins::of(above));
    let soak_s = dissolving.max(0.5 * steel.soak.value()).clamp(60.0, 5400.0);
    Soak {
        edge_s: at(blade.edge_mm),
        spine_s: at(blade.spine_mm),
        ready_after_s: at(thickest.max(blade.spine_mm)),
        soak_s: (soak_s / 30.0).ceil() * 30.0,
    }
}

/// Computes the outcomes of a plan with cells of `step_mm`, on two cores.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn outcomes(
    work: &Workpiece,
    plan: &Plan,
    steel: &Steel,
    biases: &BiasModels,
    step_mm: f64,
    stop: Option<&AtomicBool>,
) -> Result<(Outcomes, Quenched), Stopped> {
    let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
    let stages = stages(plan);
    let setup = heat.whole(&work.form, &work.clay, &stages, step_mm);
    let (even, bend) = quench_and_bend(setup, work, plan, steel, &heat, stop)?;
    let spread = OverHeat::of(work, plan, steel, bend.chill);
    let found = Assembly {
        work,
        plan,
        steel,
        biases,
        heat: &heat,
        even: &even,
        spread,
        simulated: Simulated::from_quench(work, plan, steel, &heat, (&even, bend)),
        traits: biases.traits(plan, steel, &work.clay),
        reasons: Vec::new(),
    };
    Ok((found.outcomes(), even))
}

/// What the outcomes of one quench are put together from.
struct Assembly<'a> {
    work: &'a Workpiece,
    plan: &'a Plan,
    steel: &'a Steel,
    biases: &'a BiasModels,
    heat: &'a Heat,
    even: &'a Quenched,
    simulated: Simulated,
    traits: Traits,
    /// What a heat that is not sure does; none where it is as sure as a kiln's.
    spread: Option<OverHeat>,
    reasons: Vec<Reason>,
}

/// Below this share of austenite nothing hardens.
const NEVER_HOT: f64 = 0.05;
/// A chance of a crack that is worth a mark on the blade.
const WORTH_MARKING: f64 = 0.03;
/// A chance of a crack over a heat that is not sure is worth telling where it is this much more than at the planned one.
const CRACK_TOLD: f64 = 1.15;
/// A twist that is worth telling, mm.
const TWIST_MM: f64 = 0.05;
/// A band narrower than this is a crisp line, mm.
const CRISP_MM: f64 = 5.0;

impl Assembly<'_> {
    fn say(&mut self, about: About, why: Why) {
        self.reasons.push(Reason::plain(about, why));
    }

    fn say_from_records(&mut self, about: About, why: Why) {
        self.reasons.push(Reason::plain(about, why).from_records());
    }

    fn hamon(&mut self) -> Hamon {
        let mut moved = self.biases.line_moved(&self.traits);
        if let Some(spread) = &self.spread {
            moved.deviation_mm = moved.deviation_mm.hypot(spread.line_mm);
        }
        let found = if self.heat.dissolved.austenite < NEVER_HOT {
            let ac1_c = self.steel.ac1_c;
            Hamon::None {
                none: NoLine::NeverHot { ac1_c },
            }
        } else {
            line_of(&self.simulated.columns, moved)
        };
        match &found {
            Hamon::Line(l) => {
                let why = Why::LineAt {
                    height_mm: l.height_mm,
                    band_mm: l.band_mm,
                    crisp: l.band_mm < CRISP_MM,
                };
                self.say(About::Hamon, why);
                if let Some(spread) = self.spread.as_ref().filter(|s| s.line_mm >= 0.2) {
                    let why = Why::LineOverHeat {
                        deviation_c: spread.deviation_k,
                        mm: spread.line_mm,
                    };
                    self.say(About::Hamon, why);
                }
                let by_mm = moved.by_mm;
                if l.unseen {
                    self.say_from_records(About::Hamon, Why::LineFromRecords {});
                } else if by_mm.abs() >= 0.3 {
                    self.say_from_records(About::Hamon, Why::LinesMoved { by_mm });
                }
            }
            Hamon::None { none } => self.say(About::Hamon, Why::NoLine { none: *none }),
        }
        if !self.work.clay.is_bare() {
            let why = Why::ClayMustHold {
                dry_c: DRY_C,
                dry_s: self.work.clay.dry_oven_s(&self.work.form),
            };
            self.say(About::Hamon, why);
        }
        found
    }

    /// Hardened share of the middle of the blade, percent.
    fn middle(&mut self) -> f64 {
        let x = STRIP_AT * self.work.blade().length_mm;
        let section = self.work.form.outline().section(x);
        let percent = section
            .and_then(|(edge, spine)| self.even.cell_at(x, 0.5 * (edge + spine)))
            .map_or(0.0, |cell| 100.0 * self.even.hardened(cell));
        let why = Why::MiddleHardens {
            percent,
            grain_astm: grain::astm_number(self.heat.grain_um * 1e-3),
            carbon_percent: self.heat.dissolved.composition.carbon,
        };
        self.say(About::Middle, why);
        percent
    }

    fn bend(&mut self) -> BendOutcome {
        let bend = self.simulated.bend.clone();
        let work_length = self.work.blade().length_mm;
        let tolerance = tolerance_mm(work_length);
        let mut parts = self.biases.warp.parts(&self.traits, &bend.causes);
        let scale = WarpModel::scale_mm(&parts);
        let probability = over(tolerance, bend.side_mm, scale);
        let help = self.help(&parts, |scale| over(tolerance, bend.side_mm, scale));
        let ninety_mm = bend.side_mm.abs() + warp::NINETY * scale;
        let clamped = planned_clamp(self.plan).map(|planned| {
            let clamp = TemperClamp::in_temper(planned.parameter).times(self.biases.clamp.times());
            let bow = |mm: f64| over(mm, bend.side_mm, scale);
            ClampedBend::of(clamp, planned.shim_mm, (tolerance, ninety_mm), bow)
        });
        parts.sort_by(|a, b| b.mm.total_cmp(&a.mm));
        let as_told = (work_length / CURVE_LENGTH_MM).powi(2);
        let by_mm = as_told * self.biases.sori.shift(&self.traits).by;
        let sori_mm = bend.sori_mm + by_mm;
        let why = if sori_mm.abs() < 0.1 {
            Why::StaysStraight {}
        } else {
            Why::Curves { sori_mm }
        };
        self.say(About::Bend, why);
        if by_mm.abs() >= 0.05 {
            self.say_from_records(About::Bend, Why::CurvesMoved { by_mm });
        }
        for part in parts.iter().take(3).filter(|p| p.mm >= 0.02) {
            let why = Why::WarpFrom {
                driver: part.driver,
                mm: part.mm,
                times: part.times,
            };
            if (part.times - 1.0).abs() > 0.05 {
                self.say_from_records(About::Bend, why);
            } else {
                self.say(About::Bend, why);
            }
        }
        if bend.side_mm.abs() >= 0.02 {
            let side_mm = bend.side_mm.abs();
            let why = if self.work.clay.is_even() {
                Why::UnevenBevels { side_mm }
            } else {
                Why::UnevenClay { side_mm }
            };
            self.say(About::Bend, why);
        }
        self.clamp();
        if bend.twist_mm >= TWIST_MM {
            let twist_mm = bend.twist_mm;
            self.say(About::Bend, Why::Twists { twist_mm });
        }
        BendOutcome {
            sori_mm,
            side_mm_per_10_percent: bend.bevels_mm_per_10_percent,
            side_over_tolerance_probability: probability,
            tolerance_mm: tolerance,
            side_ninety_mm: ninety_mm,
            clamped,
            side_known_mm: bend.side_mm,
            parts,
            help,
            twist_mm: bend.twist_mm,
            numerical_mm: bend.numerical_mm,
            moments: bend.moments,
            stations: bend.stations,
        }
    }

    /// What a clamp in the first temper after the quench does.
    fn clamp(&mut self) {
        if let Some((temperature, hours)) = first_temper(self.plan) {
            let learned = &self.biases.clamp;
            let clamp =
                TemperClamp::in_temper(parameter(temperature, hours)).times(learned.times());
            let why = Why::ClampedInTemper {
                temper_c: temperature.value(),
                takes_out: clamp.takes_out,
                shim_per_mm: clamp.shim_per_mm,
                tried: learned.tried(),
            };
            if learned.tried() > 0 {
                self.say_from_records(About::Bend, why);
            } else {
                self.say(About::Bend, why);
            }
        }
    }

    /// The change that lowers the chance most, where one lowers it by a fifth.
    fn help(&self, parts: &[Part], chance: impl Fn(f64) -> f64) -> Option<WarpHelp> {
        const WORTH: f64 = 0.8;
        let before = chance(WarpModel::scale_mm(parts));
        // A coat or a pouch of the plan is one already.
        let protected = self.work.protection != Protection::Bare
            || self
                .plan
                .steps()
                .iter()
                .any(|s| matches!(s, Step::Coat {} | Step::Pouch {}));
        let relieved = relieved(self.plan, self.steel, self.heat);
        let all = [
            (WarpRemedy::MeasureBevels, true),
            (WarpRemedy::Coat, !protected),
            (
                WarpRemedy::HoldUpright,
                self.work.checks.get(&Check::GoesInUpright) != Some(&true),
            ),
            (WarpRemedy::LayEdgeUp, lies_on_its_side(self.work)),
            (WarpRemedy::Normalize, !relieved),
        ];
        all.into_iter()
            .filter(|r| r.1)
            .map(|(remedy, _)| {
                let (driver, share) = remedy.makes();
                let with: Vec<Part> = parts
                    .iter()
                    .map(|p| Part {
                        mm: if p.driver == driver {
                            share * p.mm
                        } else {
                            p.mm
                        },
                        ..*p
                    })
                    .collect();
                WarpHelp {
                    remedy,
                    probability: chance(WarpModel::scale_mm(&with)),
                }
            })
            .filter(|h| h.probability < WORTH * before && before > 0.01)
            .min_by(|a, b| a.probability.total_cmp(&b.probability))
    }

    fn crack(&mut self) -> Risk {
        let (causes, model) = (self.simulated.crack_causes, &self.biases.crack);
        let risk = if self.heat.dissolved.austenite < NEVER_HOT {
            Risk {
                probability: 0.0,
                low: 0.0,
                high: 0.01,
            }
        } else {
            let planned = model.risk(&causes);
            match &self.spread {
                None => planned,
                Some(spread) => {
                    let over: Vec<Risk> = spread.causes.iter().map(|c| model.risk(c)).collect();
                    let mean = |of: fn(&Risk) -> f64| {
                        over.iter().map(of).sum::<f64>() / over.len().max(1) as f64
                    };
                    let risk = Risk {
                        probability: mean(|r| r.probability),
                        low: mean(|r| r.low),
                        high: mean(|r| r.high),
                    };
                    if risk.probability > CRACK_TOLD * planned.probability {
                        self.reasons.push(Reason::plain(
                            About::Crack,
                            Why::CrackOverHeat {
                                deviation_c: spread.deviation_k,
                                at_planned: planned.probability,
                            },
                        ));
                    }
                    risk
                }
            }
        };
        for (cause, odds) in model.reasons(&causes).into_iter().take(3) {
            self.say(About::Crack, Why::CrackCause { cause, odds });
        }
        let why = match model.outcomes {
            0 => Why::CracksByHandbook {},
            blades => Why::CracksByRecords { blades },
        };
        self.say(About::Crack, why);
        risk
    }

    /// ASTM grain size number with its standard deviation, and how much of it is learned.
    fn grain(&mut self) -> (f64, Shift) {
        let finer = self.biases.grain.shift(&self.traits);
        if finer.by.abs() >= 0.1 {
            self.say_from_records(About::Grain, Why::CouponsFiner { by_astm: finer.by });
        }
        let why = Why::GrainAtQuench {
            grain_um: self.heat.grain_um,
            finest_um: grain::FINEST_UM,
        };
        self.say(About::Grain, why);
        if let Some(spread) = self.spread.as_ref().filter(|s| s.astm.1 >= 0.3) {
            let why = Why::GrainOverHeat {
                deviation_c: spread.deviation_k,
                coarsest_astm: self.simulated.grain_astm + finer.by - spread.astm.1,
            };
            self.say(About::Grain, why);
        }
        (self.simulated.grain_astm + finer.by, finer)
    }

    /// Depth of skin that loses carbon, mm.
    fn skin(&mut self) -> f64 {
        let steps = self.plan.real_steps();
        let depth_mm = decarburization::depth_mm(steps, self.work.protection, Kelvins::ZERO);
        let why = Why::SkinLost {
            depth_mm,
            edge_gone: 2.0 * depth_mm > self.work.blade().edge_mm,
        };
        self.say(About::Decarburization, why);
        depth_mm
    }

    fn soak(&mut self) -> Soak {
        let soak = soak(self.work, self.plan, self.steel, self.heat, &self.even.grid);
        let furnace = self.work.furnace;
        self.say(About::Soak, Why::SoakFrom { furnace, soak });
        soak
    }

    fn outcomes(mut self) -> Outcomes {
        let line = self.hamon();
        let middle = self.middle();
        // Widest where half of it hardens.
        let doubt = 4.0 + 0.36 * (middle * (100.0 - middle)).max(0.0).sqrt();
        let over_heat = |of: fn(&OverHeat) -> f64| self.spread.as_ref().map_or(0.0, of);
        let doubt = doubt.hypot(NINETY * over_heat(|s| s.middle_percent));
        let (finest, coarsest) = (over_heat(|s| s.astm.0), over_heat(|s| s.astm.1));
        let bend = self.bend();
        let risk = self.crack();
        let (number, finer) = self.grain();
        let skin = self.skin();
        let soak = self.soak();
        let as_told = (self.work.blade().length_mm / CURVE_LENGTH_MM).powi(2);
        let own_sori = (as_told * self.biases.sori.shift(&self.traits).deviation)
            .hypot(0.15 * bend.sori_mm)
            .hypot(bend.numerical_mm);
        let measured = Measured {
            side_mm_per_10_percent: bend.side_mm_per_10_percent,
            side_known_mm: bend.side_known_mm,
            decarburization_mm: skin,
            lean_mm: (bend.parts.iter())
                .find(|p| p.driver == Driver::Lean)
                .map_or(0.0, |p| p.mm),
            lying_mm: self.simulated.bend.lying_mm,
            crack_causes: self.simulated.crack_causes,
        };
        let checks = checked(&self.work.checks, self.work, &measured, &self.biases.crack);
        Outcomes {
            ranges: Ranges {
                grain_astm: Interval {
                    middle: number,
                    low: (number - (NINETY * finer.deviation).hypot(coarsest)).max(0.0),
                    high: (number + (NINETY * finer.deviation).hypot(finest)).min(14.0),
                },
                decarburization_mm: Interval::normal(skin, 0.3 * skin, (0.0, 10.0)),
                martensite_percent_middle: Interval::normal(middle, doubt / NINETY, (0.0, 100.0)),
                sori_mm: Interval::normal(bend.sori_mm, own_sori, (-500.0, 500.0)),
                hamon_mm: line.line().map(|l| {
                    let width = l.points.first().map_or(0.0, |p| p.high_mm - p.height_mm);
                    Interval::normal(l.height_mm, width / NINETY, (0.0, 400.0))
                }),
            },
            hamon: line,
            martensite_percent_middle: middle,
            bend,
            crack: risk,
            crack_at_mm: (risk.probability >= WORTH_MARKING)
                .then_some(self.simulated.bend.chill.at_mm),
            crack_causes: self.simulated.crack_causes,
            grain_astm: number,
            grain_learned: finer.by,
            decarburization_mm: skin,
            soak,
            coarsened_to_mm: self.even.grid.coarsened.then_some(self.even.grid.step_mm),
            outcome_reasons: self.reasons,
            checks,
            clay: lay(self.work, self.plan, &self.even.grid),
        }
    }
}

/// Seconds in water, before oil, that put the line as the records correct it `wanted_mm` above the edge: 0.2 to 12 s, to a tenth.
/// None when no time does.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn seconds_in_water(
    work: &Workpiece,
    plan: &Plan,
    steel: &Steel,
    biases: &BiasModels,
    wanted_mm: f64,
    stop: Option<&AtomicBool>,
) -> Result<Option<f64>, Stopped> {
    let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
    let traits = Traits {
        medium: Medium::Water,
        ..biases.traits(plan, steel, &work.clay)
    };
    let moved = biases.line_moved(&traits);
    let height = |seconds: f64| {
        let stages = [
            Stage {
                for_s: Some(crate::quantity::units::Seconds::clamped(seconds)),
                ..Stage::until_cold(Medium::Water)
            },
            Stage::until_cold(Medium::FastOil),
        ];
        let setup = Setup {
            ..heat.whole(&work.form, &work.clay, &stages, STEP_MM)
        };
        let q = quench(setup, stop)?;
        let columns = columns(&q, work.blade().length_mm);
        Ok(match line_of(&columns, moved) {
            Hamon::Line(l) => l.height_mm,
            // Soft throughout lies below every line, hardened throughout above.
            Hamon::None { .. } if q.mean_hardened() < 0.5 => 0.0,
            Hamon::None { .. } => f64::INFINITY,
        })
    };
    let (mut low, mut high) = (0.2, 12.0);
    if height(low)? > wanted_mm || height(high)? < wanted_mm {
        return Ok(None);
    }
    for _ in 0..7 {
        let middle = 0.5 * (low + high);
        if height(middle)? < wanted_mm {
            low = middle;
        } else {
            high = middle;
        }
    }
    Ok(Some((5.0 * (low + high)).round() / 10.0))
}

/// Clay that brings the line nearest to a wanted one.
#[derive(Debug, Clone, PartialEq)]
pub struct ClayFor {
    /// The clay, the same on both faces: where it begins above the edge, along the blade (x, mm; mm).
    pub border: Vec<(f64, f64)>,
    /// Its thickness, mm.
    pub thickness_mm: f64,
    /// The clay itself.
    pub clay: Clay,
    /// Root mean square distance of the simulated line from the wanted one, mm.
    pub off_mm: f64,
}

/// What a smith can lay on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Brush {
    /// Thinnest and thickest clay, mm.
    pub thickness_mm: (f64, f64),
    /// Width of the brush, mm: the border cannot change faster along the blade.
    pub width_mm: f64,
}

/// Finds clay for a wanted line, given as height above the edge by x (mm): the border starts at the line
/// and is moved by what the line, as the records correct it, misses, a brush width at a time, for three thicknesses.
/// None when no clay gives a line.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn clay_for(
    work: &Workpiece,
    plan: &Plan,
    steel: &Steel,
    biases: &BiasModels,
    wanted: &dyn Fn(f64) -> f64,
    brush: Brush,
    stop: Option<&AtomicBool>,
) -> Result<Option<ClayFor>, Stopped> {
    let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
    let (thin, thick) = brush.thickness_mm;
    let step = brush.width_mm.clamp(2.0, 20.0);
    let length = work.blade().length_mm;
    let count = (length / step).ceil().max(2.0) as usize;
    let at = |i: usize| (i as f64 + 0.5) * length / count as f64;
    let baths = stages(plan);
    let traits = Traits {
        clay: Some(work.clay.mix()),
        ..biases.traits(plan, steel, &work.clay)
    };
    let moved = biases.line_moved(&traits);
    let mut best: Option<ClayFor> = None;
    for thickness_mm in [thin, (thin * thick).max(0.0).sqrt(), thick] {
        let mut border: Vec<f64> = (0..count).map(|i| wanted(at(i)) + 1.0).collect();
        for _ in 0..5 {
            let heights: Vec<(f64, f64)> = border
                .iter()
                .enumerate()
                .map(|(i, b)| (at(i), *b))
                .collect();
            let clay = Clay::above(&work.form, &heights, thickness_mm).of_mix(work.clay.mix());
            let setup = Setup {
                ..heat.whole(&work.form, &clay, &baths, STEP_MM)
            };
            let q = quench(setup, stop)?;
            let Hamon::Line(line) = line_of(&columns(&q, length), moved) else {
                break;
            };
            let miss = |x: f64| {
                let near = line
                    .points
                    .iter()
                    .filter(|p| (p.x_mm - x).abs() <= 0.5 * step.max(5.0));
                let (n, sum) = near.fold((0.0, 0.0), |(n, s), p| {
                    (n + 1.0, s + wanted(p.x_mm) - p.height_mm)
                });
                if n > 0.0 { sum / n } else { 0.0 }
            };
            let off = line
                .points
                .iter()
                .map(|p| (p.height_mm - wanted(p.x_mm)).powi(2))
                .sum::<f64>();
            let off_mm = (off / line.points.len() as f64).sqrt();
            if best.as_ref().is_none_or(|b| off_mm < b.off_mm) {
                best = Some(ClayFor {
                    border: heights,
                    thickness_mm,
                    clay,
                    off_mm,
                });
            }
            for (i, b) in border.iter_mut().enumerate() {
                *b = (*b + 0.9 * miss(at(i))).clamp(0.0, 300.0);
            }
        }
    }
    Ok(best)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A clamp that holds straight leaves a share; a shim that is a share of the bow past straight takes it all out; one that
    /// is too thick bends what was nearly straight over to the other side.
    #[test]
    fn a_clamp_leaves_what_its_rule_says() {
        let clamp = TemperClamp {
            takes_out: 0.4,
            shim_per_mm: 1.5,
        };
        // Every blade bows by 1 mm.
        let all = |mm: f64| f64::from(u8::from(mm < 1.0));
        let left = |shim_mm: f64, tolerance_mm: f64| {
            let of = ClampedBend::of(clamp, shim_mm, (tolerance_mm, 1.0), all);
            (of.over_tolerance_probability, of.ninety_mm)
        };
        assert!((left(0.0, 0.3).1 - 0.6).abs() < 1e-6);
        assert_eq!((left(0.0, 0.7).0, left(0.0, 0.5).0), (0.0, 1.0));
        assert!(left(1.5, 0.3).1 < 1e-6 && left(1.5, 0.3).0 == 0.0);
        assert!((left(4.0, 0.3).1 - 1.0).abs() < 1e-6);
        assert_eq!(left(4.0, 0.3).0, 1.0);
        assert!((clamp.leaves_mm(1.0, 4.0) + 1.0).abs() < 1e-12);
    }
    use crate::simulation::physics::tests::{blade, nominal, plan};
    use crate::simulation::simulated::simulated;
    use rstest::rstest;

    fn quenched_in(steel: &str, medium: &str) -> (Plan, &'static Steel) {
        let steel = Steel::built_in(steel).unwrap();
        (nominal(steel, medium), steel)
    }

    fn run(steel: &str, medium: &str, work: &Workpiece) -> Outcomes {
        let (plan, steel) = quenched_in(steel, medium);
        outcomes(work, &plan, steel, &BiasModels::default(), 2.0, None)
            .unwrap()
            .0
    }

    #[test]
    fn the_preview_is_near_the_full_simulation() {
        let (plan, steel) = quenched_in("w2", "fast_oil");
        let mut work = Workpiece::plain(&blade());
        work.clay = Clay::band(14.0, 2.0);
        let at = |step_mm| {
            let (found, _) =
                outcomes(&work, &plan, steel, &BiasModels::default(), step_mm, None).unwrap();
            found.hamon.line().unwrap().height_mm
        };
        assert!((at(2.0) - at(1.0)).abs() < 0.8, "{} {}", at(2.0), at(1.0));
    }

    #[test]
    fn every_outcome_has_its_interval_and_its_reasons() {
        let got = run("w2", "fast_oil", &Workpiece::plain(&blade()));
        assert!(got.hamon.line().is_some(), "{:?}", got.hamon);
        assert!(
            got.ranges
                .hamon_mm
                .unwrap()
                .holds(got.hamon.line().unwrap().height_mm)
        );
        assert!(got.ranges.grain_astm.holds(got.grain_astm));
        assert!(got.crack.low < got.crack.probability && got.crack.probability < got.crack.high);
        assert!(got.soak.edge_s < got.soak.ready_after_s && got.soak.soak_s >= 60.0);
        for about in [
            About::Hamon,
            About::Middle,
            About::Bend,
            About::Crack,
            About::Grain,
            About::Decarburization,
            About::Soak,
        ] {
            assert!(
                got.outcome_reasons.iter().any(|r| r.about == about),
                "{about:?}"
            );
        }
    }

    #[rstest]
    #[case("o1", "medium_oil")]
    #[case("5160", "medium_oil")]
    fn an_oil_steel_has_no_line_and_says_why(#[case] steel: &str, #[case] medium: &str) {
        let got = run(steel, medium, &Workpiece::plain(&blade()));
        let Hamon::None { none } = &got.hamon else {
            panic!("{:?}", got.hamon)
        };
        assert!(matches!(none, NoLine::HardensThrough {}), "{none:?}");
        assert!(got.martensite_percent_middle > 95.0);
    }

    #[test]
    fn water_cracks_more_and_scratches_more_still() {
        let plain = Workpiece::plain(&blade());
        let (oil, water) = (run("w2", "fast_oil", &plain), run("w2", "water", &plain));
        assert!(water.crack.probability > 3.0 * oil.crack.probability);
        let rough = Workpiece {
            raisers: 2,
            ..plain
        };
        assert!(run("w2", "water", &rough).crack.probability > 1.5 * water.crack.probability);
    }

    #[test]
    fn waiting_hard_and_untempered_is_a_risk_of_its_own() {
        let after = |steps: &str| {
            let plan = plan(&format!(
                r#"[{{"kind":"austenitize","temperature_c":795,"soak_s":480}},{{"kind":"quench","stages":[{{"medium":"water"}}]}}{steps}]"#
            ));
            let work = Workpiece::plain(&blade());
            let steel = Steel::built_in("w2").unwrap();
            let biases = BiasModels::default();
            let found = outcomes(&work, &plan, steel, &biases, 3.0, None);
            found.unwrap().0.crack.probability
        };
        let temper = r#",{"kind":"temper","temperature_c":200,"hold_s":7200}"#;
        let cold = r#",{"kind":"sub_zero","temperature_c":-75,"hold_s":7200,"wait_s":36000}"#;
        let (at_once, late, never) = (after(temper), after(&format!("{cold}{temper}")), after(""));
        assert!(at_once < late && late < never, "{at_once} {late} {never}");
    }

    #[test]
    fn a_steadier_hand_bends_less_often() {
        let (plan, steel) = quenched_in("1095", "water");
        let work = Workpiece::plain(&blade());
        let causes = simulated(&work, &plan, steel, None).unwrap().bend.causes;
        let with = |sag_mm: f64| {
            let seen = (0..30)
                .map(|b| warp::Seen {
                    blade: uuid::Uuid::from_u128(b),
                    traits: Traits {
                        steel: "1095".to_owned(),
                        medium: Medium::Water,
                        clay: None,
                        operator: None,
                    },
                    length_mm: 180.0,
                    sag_mm,
                    unsigned: true,
                    known_mm: 0.0,
                    causes: causes.clone(),
                })
                .collect();
            let biases = BiasModels {
                warp: WarpModel::fit(seen),
                ..BiasModels::default()
            };
            outcomes(&work, &plan, steel, &biases, 2.0, None)
                .unwrap()
                .0
                .bend
        };
        let (steady, rough) = (with(0.0), with(2.0));
        assert!(steady.side_over_tolerance_probability <= rough.side_over_tolerance_probability);
        assert!(steady.side_ninety_mm < rough.side_ninety_mm);
        assert_eq!(steady.sori_mm, rough.sori_mm);
    }

    #[test]
    fn below_ac1_nothing_hardens_and_it_says_so() {
        let plan = plan(
            r#"[{"kind":"austenitize","temperature_c":690,"soak_s":300},{"kind":"quench","stages":[{"medium":"water"}]}]"#,
        );
        let steel = Steel::built_in("w2").unwrap();
        let work = Workpiece::plain(&blade());
        let got = outcomes(&work, &plan, steel, &BiasModels::default(), 3.0, None)
            .unwrap()
            .0;
        let Hamon::None { none } = &got.hamon else {
            panic!()
        };
        assert!(matches!(none, NoLine::NeverHot { .. }), "{none:?}");
        assert!(got.martensite_percent_middle < 1.0 && got.crack.probability < 0.001);
    }

    #[test]
    fn the_water_time_it_advises_puts_the_line_there() {
        let (plan, steel) = quenched_in("w2", "fast_oil");
        let thick = crate::geometry::blade::Blade {
            spine_mm: 5.0,
            edge_mm: 0.6,
            ..blade()
        };
        let work = Workpiece::plain(&thick);
        let seconds = seconds_in_water(&work, &plan, steel, &BiasModels::default(), 25.0, None)
            .unwrap()
            .unwrap();
        assert!((0.2..2.0).contains(&seconds), "{seconds}");
        assert_eq!(
            seconds_in_water(&work, &plan, steel, &BiasModels::default(), 5.0, None).unwrap(),
            None
        );
    }

    #[test]
    fn the_clay_it_finds_gives_the_wanted_line() {
        let (plan, steel) = quenched_in("1095", "water");
        let thick = crate::geometry::blade::Blade {
            spine_mm: 5.5,
            edge_mm: 0.6,
            ..blade()
        };
        let work = Workpiece::plain(&thick);
        let wanted = |x: f64| 11.0 + 2.0 * (x / 40.0).sin();
        let brush = Brush {
            thickness_mm: (0.8, 3.0),
            width_mm: 8.0,
        };
        let found = clay_for(
            &work,
            &plan,
            steel,
            &BiasModels::default(),
            &wanted,
            brush,
            None,
        )
        .unwrap()
        .unwrap();
        assert!(
            found.off_mm < 1.5,
            "{} mm off with {} mm",
            found.off_mm,
            found.thickness_mm
        );
        assert!(found.border.len() > 10);
    }
}
