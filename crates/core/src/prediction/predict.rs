//! A prediction: physics corrected by the shop's records, with intervals, reasons and warnings.

use crate::learning::kernel::KernelTerm;
use crate::learning::{Corrected, Features, Model};
use crate::material::analysis::Analysis;
use crate::material::critical;
use crate::material::dissolution::Dissolved;
use crate::material::hardness;
use crate::material::steel::{Origin, Steel};
use crate::material::temper::{self, Drawback, Treatment};
use crate::prediction::laminate::{EdgeLayer, LayerOutcome};
use crate::prediction::outcome::Outcomes;
use crate::prediction::reason::{About, CheckReach, LevelSource, Reason, Why};
use crate::prediction::recommendation::{Next, propose};
use crate::prediction::subject::{Subject, features, heats_shown, stations};
use crate::prediction::warning::{Warning, warnings};
use crate::process::bath_warming::blade_by_blade;
use crate::process::change::DRY_ICE_C;
use crate::process::plan::Plan;
use crate::process::step::Step;
use crate::process::workpiece::Workpiece;
use crate::quantity::interval::{Interval, NINETY};
use crate::quantity::units::{Celsius, Kelvins, Kilograms, Quantity};
use crate::record::reading::When;
use crate::simulation::heat::{Heat, READING_SPOT, STRIP_AT, Section};
use crate::simulation::physics::{
    self, Hardened, Physics, Sensitivity, Shift, Slopes, Verdict, of_section, over_steels, section,
    sensitivity,
};
use crate::simulation::straightening::Straightening;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use uuid::Uuid;

/// Names of the shop's stations, for the reasons.
pub type StationNames = HashMap<Uuid, String>;

/// Predicted hardness at both stages, HRC.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Hardness {
    /// After the quench and any sub-zero, before tempering.
    pub as_quenched: Interval,
    /// After the last temper.
    pub tempered: Interval,
}

/// Predicted retained austenite, percent.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RetainedAustenite {
    /// After the coldest step.
    pub with_plan: Interval,
    /// If no sub-zero step were done.
    pub without_sub_zero: Interval,
}

/// The quench on this section.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Through {
    /// The verdict.
    pub verdict: Verdict,
    /// Thickest section whose middle is half martensite in this quench, mm.
    pub critical_thickness_mm: f64,
    /// The spine, mm.
    #[serde(default)]
    pub spine_mm: f64,
    /// Bare it would harden: what is soft is soft under the clay.
    #[serde(default)]
    pub by_clay: bool,
    /// How deep the spine is hardened from each face, mm; none when it is through.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub case_mm: Option<f64>,
}

/// Where on the blade its hardness is told.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReadingPlace {
    /// From the heel, mm.
    pub from_heel_mm: f64,
    /// Above the edge, mm.
    pub above_edge_mm: f64,
    /// Steel there, mm.
    pub thickness_mm: f64,
    /// Clay there, the thicker of both faces, mm; none on a blade without clay.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clay_mm: Option<f64>,
}

impl ReadingPlace {
    /// On a blade as it goes into the fire.
    #[must_use]
    pub fn of(work: &Workpiece) -> Self {
        let x = STRIP_AT * work.blade().length_mm;
        let (edge, spine) =
            (work.form.outline().section(x)).unwrap_or((0.0, work.blade().width_mm));
        let above = READING_SPOT * (spine - edge);
        let (thick, thin) = work.form.ends_mm(x);
        Self {
            from_heel_mm: x,
            above_edge_mm: above,
            thickness_mm: thin + READING_SPOT * (thick - thin),
            clay_mm: (!work.clay.is_bare()).then(|| work.clay.thickest_at(x, edge + above, above)),
        }
    }
}

/// The critical temperatures of the steel as planned, for the level lines of the heat path, °C.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Levels {
    /// Austenite begins.
    pub ac1_c: Interval,
    /// Ac3 of a lean steel, Acm of a rich one.
    pub upper_c: Interval,
    /// True when the upper line is Ac3.
    pub upper_is_ac3: bool,
    /// The magnet lets go.
    pub curie_c: f64,
    /// Martensite starts, from what is dissolved.
    pub martensite_start_c: Interval,
    /// Martensite is 95 % done.
    pub martensite_finish_c: f64,
}

/// The temper that would reach the wanted hardness.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TemperFor {
    /// Middle of the wanted window, HRC.
    pub wanted_hrc: f64,
    /// Set every temper of the plan to this, °C; none when no temperature reaches it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temperature_c: Option<f64>,
    /// Where that temperature lies nine times out of ten, for this oven and these records, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub interval_c: Option<Interval>,
    /// Another temper that gives the same hardness.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub also: Option<OtherTemper>,
    /// Why none does.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub out_of_reach: Option<OutOfReach>,
}

/// A temper that reaches the wanted hardness as well, and why it is not the one advised.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OtherTemper {
    /// At this, °C.
    pub temperature_c: f64,
    /// What speaks against it.
    pub drawback: Drawback,
}

/// Why no temper reaches a wanted hardness.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum OutOfReach {
    /// The plan has no temper.
    NoTemper {},
    /// It is more than the plan reaches.
    TooHard {
        /// Hardness after the coolest temper, HRC.
        top_hrc: f64,
    },
    /// No temper brings it down so far.
    TooSoft {
        /// The hottest temper tried, °C.
        hottest_c: f64,
    },
}

/// Everything predicted of a plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Prediction {
    /// Hardness, HRC.
    pub hardness: Hardness,
    /// Retained austenite in the finished blade, percent (the middle).
    pub retained_austenite_percent: f64,
    /// The same with its interval, and without sub-zero.
    pub retained_austenite: RetainedAustenite,
    /// Whether the section hardens through.
    pub through: Through,
    /// Where on the blade this hardness is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reading_place: Option<ReadingPlace>,
    /// Carbon in solution at the quench, percent.
    pub dissolved_carbon_percent: Interval,
    /// The layers beside the edge, for a bar of several steels.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<LayerOutcome>,
    /// Where the edge layer ends, for such a bar whose edge layer was said to be so thick.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge_layer: Option<EdgeLayer>,
    /// The lines of the heat path.
    pub levels: Levels,
    /// The temper for the wanted hardness, when one was asked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temper_for_target: Option<TemperFor>,
    /// The single change that helps most towards the wanted hardness, when one was asked for and one
    /// helps.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub next: Option<Next>,
    /// Temper colour to expect, as a cross-check.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temper_colour: Option<String>,
    /// What the whole blade does in the quench; none when only hardness was asked for.
    #[serde(flatten, default, skip_serializing_if = "Option::is_none")]
    pub outcomes: Option<Outcomes>,
    /// When it can be straightened out of the bath; none when there is no time for it, or it was not
    /// asked for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub straightening: Option<Straightening>,
    /// How many records of the shop were learned from.
    pub records_used: usize,
    /// The checks of the shop's stations that went in; none of them with physics alone.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub checks_used: Vec<CheckUsed>,
    /// Why.
    pub reasons: Vec<Reason>,
    /// What to know before the fire.
    pub warnings: Vec<Warning>,
}

impl Prediction {
    /// The same with stations under other ids; checks of those without one are left out.
    #[must_use]
    pub fn with_stations(mut self, ids: &HashMap<Uuid, Uuid>) -> Self {
        self.checks_used
            .retain_mut(|used| match ids.get(&used.station_id) {
                Some(to) => {
                    used.station_id = *to;
                    true
                }
                None => false,
            });
        self
    }
}

/// A station's check that went into a prediction.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CheckUsed {
    /// The station.
    pub station_id: Uuid,
    /// Position of the step that it is used in.
    pub step: usize,
    /// What the station is set to, °C.
    pub shown_c: f64,
    /// What that really is by the check, °C.
    pub really_c: f64,
    /// How much the check tells here, 0 (nothing) to 1: it fades with distance and age.
    pub tells: f64,
    /// Nearest point of the check, °C as shown.
    pub nearest_c: f64,
    /// Age of the check, days.
    pub age_days: f64,
}

/// The station checks that go into a plan, in the order of its steps.
#[must_use]
pub fn checks_used(plan: &Plan) -> Vec<CheckUsed> {
    let known = plan.corrections();
    let steps = plan.steps().iter().enumerate();
    steps
        .filter_map(|(step, s)| {
            let (Step::Austenitize {
                temperature_c,
                station_id,
                ..
            }
            | Step::Temper {
                temperature_c,
                station_id,
                ..
            }) = s
            else {
                return None;
            };
            if s.sighting().is_some() || s.temper_sighting().is_some() {
                return None;
            }
            let (check, shown_c) = (known.check(*station_id)?, temperature_c.value());
            let points = check.points.points().iter().map(|p| p[0]);
            let nearest_c = points.min_by(|a, b| {
                let off = |t: &f64| (t - shown_c).abs();
                off(a).total_cmp(&off(b))
            })?;
            Some(CheckUsed {
                station_id: (*station_id)?,
                step,
                shown_c,
                really_c: known.really(*station_id, shown_c),
                tells: known.tells(*station_id, shown_c),
                nearest_c,
                age_days: known.age_days(check),
            })
        })
        .collect()
}

const BOUNDS: (f64, f64) = (0.0, 70.0);
/// Smallest effect worth a sentence, HRC.
const WORTH_SAYING_HRC: f64 = 0.1;

/// Hardness by physics with what the records add to it, HRC.
fn corrected(physics_hrc: f64, by: Corrected) -> Interval {
    Interval::normal(physics_hrc + by.shift_hrc, by.deviation_hrc, BOUNDS)
}

/// The same over the spread of its heat, where that is so wide that hardness is no straight line over it, and over what
/// its steel may be: `over_steels` HRC more, each as likely as the next.
fn over_doubts(
    physics_hrc: f64,
    slopes: &Slopes,
    by: Corrected,
    model: &Model,
    x: &Features,
    (over_steels, steel): (&[f64], &Steel),
) -> Interval {
    if !slopes.is_wide() && over_steels.is_empty() {
        return corrected(physics_hrc, by);
    }
    let mut known = x.clone();
    let mut over_heat: &[f64] = &[0.0];
    if slopes.is_wide() {
        known = known.with_heat_known();
        over_heat = &slopes.over_heat_hrc;
    }
    let mut over_steel: &[f64] = &[0.0];
    if let Origin::Reclaimed { formula_hrc, .. } = steel.origin
        && !over_steels.is_empty()
    {
        known.steel_spread_hrc = formula_hrc;
        over_steel = over_steels;
    }
    let deviation = model.correct(&known).deviation_hrc;
    let middle = physics_hrc + by.shift_hrc;
    let all: Vec<f64> = over_steel
        .iter()
        .flat_map(|steel| over_heat.iter().map(move |heat| middle + steel + heat))
        .collect();
    Interval::of_equals(&all, deviation, BOUNDS)
}

/// The martensite start is known to about ±15 °C, a sixth of the austenite left, percent.
fn austenite(percent: f64) -> Interval {
    Interval {
        middle: percent,
        low: percent / 1.35,
        high: (percent * 1.35).min(100.0),
    }
}

/// Predicts a plan. `target` is the wanted hardness window, HRC, when a temper for it is asked for.
#[must_use]
pub fn predict(
    subject: Subject<'_>,
    model: &Model,
    names: &StationNames,
    target: Option<(f64, f64)>,
) -> Prediction {
    let Subject {
        plan, steel, work, ..
    } = subject;
    let section = section(plan, steel, work);
    let physics = of_section(plan, steel, &section, Shift::default());
    let slopes = sensitivity(plan, steel, &section, work.furnace);
    let reach_mm =
        Heat::new(work, plan, steel, Kelvins::ZERO).reach_mm(&work.form, &physics::stages(plan));
    let at = |when| features(subject, when, &physics, &slopes, None);
    let (quenched, tempered) = (at(When::AsQuenched), at(When::Tempered));
    let (cq, ct) = (model.correct(&quenched), model.correct(&tempered));
    let mut reasons = physics_reasons(steel, &physics);
    record_reasons(
        &mut reasons,
        model,
        names,
        About::AsQuenched,
        &quenched,
        (physics.as_quenched_hrc, cq),
    );
    record_reasons(
        &mut reasons,
        model,
        names,
        About::Tempered,
        &tempered,
        (physics.tempered_hrc, ct),
    );
    station_reasons(&mut reasons, plan, names, &slopes);
    reasons.extend(eye_reason(subject, names));
    reasons.extend(temper_reason(subject, &slopes));
    reasons.extend(fire_reason(subject));
    reasons.extend(bath_reason(subject));
    let temper_for_target =
        target.map(|t| temper_for(subject, &section, (&physics, &slopes), model, t));
    let advised_c = temper_for_target.as_ref().and_then(|t| t.temperature_c);
    let tried = match steel.origin {
        Origin::Analysis { .. } => steel.analysis.formulas_hold(),
        // A coupon comes before any finer change.
        Origin::Reclaimed { tried, .. } => tried,
        Origin::Table | Origin::Trial { .. } => true,
    };
    let next = target
        .filter(|_| tried)
        .and_then(|t| propose(subject, model, t, advised_c));
    if temper_for_target.is_some() {
        let hrc_per_k = slopes.tempered.per_oven_c.abs();
        let why = Why::TemperSlope { hrc_per_k };
        reasons.push(Reason::plain(About::TemperForTarget, why));
    }
    if let Some((part, hrc)) = physics.torched {
        reasons.push(Reason::plain(About::Tempered, Why::Torched { part, hrc }));
    }
    let chromium = physics.dissolved.composition.chromium;
    let [steels_quenched, steels_tempered] = over_steels(plan, steel, work, &physics);
    let hardness = Hardness {
        as_quenched: over_doubts(
            physics.as_quenched_hrc,
            &slopes.as_quenched,
            cq,
            model,
            &quenched,
            (&steels_quenched, steel),
        ),
        tempered: over_doubts(
            physics.tempered_hrc,
            &slopes.tempered,
            ct,
            model,
            &tempered,
            (&steels_tempered, steel),
        ),
    };
    Prediction {
        hardness,
        retained_austenite_percent: physics.retained_percent,
        retained_austenite: RetainedAustenite {
            with_plan: austenite(physics.retained_percent),
            without_sub_zero: austenite(physics.retained_without_sub_zero_percent),
        },
        through: through(work, reach_mm, &physics),
        reading_place: Some(ReadingPlace::of(work)),
        dissolved_carbon_percent: dissolved_carbon(steel, &physics),
        levels: levels(steel, &physics),
        temper_for_target,
        next,
        temper_colour: physics
            .temper_parameter
            .map(|p| temper::colour(p, chromium).to_owned()),
        records_used: model.records().len(),
        checks_used: checks_used(plan),
        reasons,
        warnings: warnings(plan, steel, work, &physics, reach_mm),
        layers: Vec::new(),
        edge_layer: None,
        outcomes: None,
        straightening: None,
    }
}

/// What judging the hardening heat by eye or magnet costs.
fn eye_reason(subject: Subject<'_>, names: &StationNames) -> Option<Reason> {
    let by = subject.plan.sighting()?;
    let eye = subject.plan.corrections().eye(by.eye_id);
    let usual = by.sign.about(subject.steel);
    let doubt = subject.plan.heat_doubt(subject.work.furnace);
    let why = Why::HeatByEye {
        sign: by.sign,
        eye: by.eye_id.and_then(|id| names.get(&id).cloned()),
        looks: eye.looks,
        middle_c: if by.sign.is_by_colour() {
            usual.middle_c + eye.offset_c
        } else {
            usual.middle_c
        },
        deviation_c: doubt.spread_c(),
    };
    Some(Reason::plain(About::AsQuenched, why))
}

/// What judging the temper by its colour costs.
fn temper_reason(subject: Subject<'_>, slopes: &Sensitivity) -> Option<Reason> {
    let steps = subject.plan.steps().iter().rev();
    let mut tempers = steps.filter_map(|s| match s {
        Step::Temper {
            by, temperature_c, ..
        } => Some((*by, *temperature_c)),
        _ => None,
    });
    let (by, middle) = tempers.next()?;
    let by = by?;
    let deviation_c = by.deviation_c();
    let why = Why::TemperByColour {
        colour: by.colour,
        light: by.light,
        middle_c: middle.value(),
        deviation_c,
        hrc: (slopes.tempered.per_oven_c * deviation_c).abs(),
    };
    Some(Reason::plain(About::Tempered, why))
}

/// What the kind of fire does to how sure and how even the heat is; nothing of a kiln.
fn fire_reason(subject: Subject<'_>) -> Option<Reason> {
    let fire = subject.work.furnace;
    let (scatter_c, tip_hotter_c) = (fire.scatter_c(), fire.tip_hotter_c());
    let by_eye = subject.plan.is_judged_by_eye();
    (tip_hotter_c > 0.0).then(|| {
        let why = Why::FireUneven {
            fire,
            scatter_c: if by_eye { 0.0 } else { scatter_c },
            tip_hotter_c,
        };
        Reason::plain(About::AsQuenched, why)
    })
}

/// What the checks of kiln and oven change, and where they tell little.
fn station_reasons(
    reasons: &mut Vec<Reason>,
    plan: &Plan,
    names: &StationNames,
    slopes: &Sensitivity,
) {
    let mut warned: Vec<Uuid> = Vec::new();
    for used in checks_used(plan).into_iter().rev() {
        if warned.contains(&used.station_id) {
            continue;
        }
        warned.push(used.station_id);
        let (about, slope) = match plan.steps()[used.step] {
            Step::Temper { .. } => (About::Tempered, slopes.tempered.per_oven_c),
            _ => (About::AsQuenched, slopes.as_quenched.per_kiln_c),
        };
        let station = names.get(&used.station_id).cloned();
        let (shown_c, by_k) = (used.shown_c, used.really_c - used.shown_c);
        let reach = CheckReach {
            nearest_c: ((used.nearest_c - shown_c).abs() >= FAR_K).then_some(used.nearest_c),
            age_days: (used.age_days >= OLD_DAYS).then_some(used.age_days),
            tells: used.tells,
        };
        if by_k.abs() >= 0.5 {
            let why = Why::CheckCounted {
                station,
                by_k,
                shown_c,
                faded: (used.tells < 0.9).then_some(reach),
            };
            reasons.push(Reason::moved(about, why, slope * by_k));
        } else if used.tells < 0.5 {
            let why = Why::CheckTellsLittle {
                station,
                shown_c,
                reach,
            };
            reasons.push(Reason::plain(about, why));
        }
    }
}

/// A check this far from a heat is worth naming its own temperature, K.
const FAR_K: f64 = 20.0;
/// A check this old is worth naming its age, days.
const OLD_DAYS: f64 = 60.0;

/// Standard errors of Ac1, Ac3 or Acm and the martensite start, °C: of Ac1 over steels that its formula was not
/// fitted to, of Ac3 as Andrews gives it, of the start against published ones; half of the first two where the
/// table's own values stand; half as much again where the formulas were not tried.
fn level_errors(steel: &Steel) -> [f64; 3] {
    let formulas: [f64; 3] = [9.5, 16.7, 15.0];
    let known: f64 = match steel.origin {
        Origin::Table => 0.5,
        Origin::Analysis { .. } if steel.analysis.formulas_hold() => 1.0,
        Origin::Analysis { .. } | Origin::Trial { .. } | Origin::Reclaimed { .. } => 1.5,
    };
    // What it may be made of is further apart than any formula is off.
    let apart = [
        apart(steel, critical::ac1_c),
        apart(
            steel,
            if steel.is_lean() {
                critical::ac3_c
            } else {
                critical::acm_c
            },
        ),
        apart(steel, critical::martensite_start_c),
    ];
    // The martensite start is by formula for every steel.
    [
        (formulas[0] * known).hypot(apart[0]),
        (formulas[1] * known).hypot(apart[1]),
        (formulas[2] * known.max(1.0)).hypot(apart[2]),
    ]
}

/// How far something goes apart over what a steel may be made of, one standard deviation; 0 where it is known.
fn apart(steel: &Steel, of: fn(&Analysis) -> f64) -> f64 {
    let n = steel.perhaps.len().max(1) as f64;
    let all = || steel.perhaps.iter().map(of);
    let mean = all().sum::<f64>() / n;
    (all().map(|x| (x - mean).powi(2)).sum::<f64>() / n).sqrt()
}

fn levels(steel: &Steel, physics: &Physics) -> Levels {
    let ms = physics.dissolved.martensite_start_c;
    let [ac1, upper, start] = level_errors(steel);
    let free = (-300.0, 1600.0);
    Levels {
        ac1_c: Interval::normal(steel.ac1_c, ac1, free),
        upper_c: Interval::normal(steel.ac3_or_acm_c, upper, free),
        upper_is_ac3: steel.is_lean(),
        curie_c: critical::non_magnetic_c(steel.ac1_c),
        martensite_start_c: Interval::normal(ms, start, free),
        martensite_finish_c: ms
            - 20_f64.ln() / critical::martensite_rate(&physics.dissolved.composition),
    }
}

/// Carbon in solution. A tabulated steel is known to about 4 % of it, an analysis to 8 %; what the soak
/// leaves undissolved is half as uncertain as it is large.
fn dissolved_carbon(steel: &Steel, physics: &Physics) -> Interval {
    let carbon = physics.dissolved.composition.carbon;
    let share = if steel.origin == Origin::Table {
        0.04
    } else {
        0.08
    };
    let left = carbon * (1.0 / physics.dissolved.progress.max(0.05) - 1.0);
    // Of a steel that nobody knows as much of what it may hold is dissolved as of the likeliest.
    let perhaps = steel.perhaps.iter().map(|a| a.carbon);
    let most = perhaps.fold(steel.analysis.carbon, f64::max);
    let apart = apart(steel, |a| a.carbon) * carbon / steel.analysis.carbon.max(0.05);
    let deviation = (carbon * share).hypot(0.5 * left).hypot(apart);
    Interval::normal(carbon, deviation, (0.0, most))
}

fn through(work: &Workpiece, reach_mm: f64, physics: &Physics) -> Through {
    let spine_mm = work.blade().spine_mm;
    Through {
        verdict: physics.verdict,
        case_mm: physics
            .case_at_spine_mm
            .filter(|_| physics.verdict != Verdict::NeverHot),
        critical_thickness_mm: reach_mm,
        spine_mm,
        by_clay: !work.clay.is_bare() && reach_mm > spine_mm,
    }
}

fn level_source(steel: &Steel) -> LevelSource {
    match steel.origin {
        Origin::Table => LevelSource::Table,
        Origin::Trial { .. } => LevelSource::Trial,
        Origin::Reclaimed { .. } => LevelSource::Likeliest,
        Origin::Analysis { .. } if steel.analysis.formulas_hold() => LevelSource::Formula,
        Origin::Analysis { .. } => LevelSource::OutOfRange,
    }
}

/// Hardness that austenite costs, before tempering, HRC: against the same carbon all martensite.
fn austenite_costs_hrc(d: &Dissolved, percent: f64) -> f64 {
    let hrc = |share: f64| hardness::hrc_of_hv(d.hardened_hv(share));
    hrc(0.0) - hrc((0.01 * percent).clamp(0.0, 1.0))
}

/// How warm the first bath gets from blade to blade, where it is known how much there is of it.
fn bath_reason(subject: Subject<'_>) -> Option<Reason> {
    let Subject { plan, work, .. } = subject;
    let stages = physics::stages(plan);
    let stage = stages.first()?;
    let heat = plan.real_steps()[..plan.last_quench()?]
        .iter()
        .rev()
        .find_map(|s| match s {
            Step::Austenitize { temperature_c, .. } => Some(*temperature_c),
            _ => None,
        })?;
    let found = blade_by_blade(stage, Kilograms::clamped(work.mass_kg()), heat)?;
    let why = Why::BathWarms {
        medium: stage.medium,
        litres: stage.litres?.value(),
        bath_c: stage.bath_c.value(),
        first_c: found.first_c,
        fifth_c: found.fifth_c,
        too_hot_after: found.too_hot_after,
    };
    Some(Reason::plain(About::Bath, why))
}

/// What sub-zero does or would do to the austenite left over.
fn cold_reason(physics: &Physics) -> Reason {
    let d = &physics.dissolved;
    let without_percent = physics.retained_without_sub_zero_percent;
    let percent_now = physics.retained_percent;
    let (why, left_percent) = if percent_now + 0.5 < without_percent {
        let percent = without_percent - percent_now;
        (Why::ColdTurns { percent }, percent_now)
    } else {
        let percent = 100.0 * d.retained(DRY_ICE_C) * physics.martensite_at_reading;
        let percent = percent.min(without_percent);
        let why = Why::ColdWouldLeave {
            cold_c: DRY_ICE_C,
            percent,
        };
        (why, percent)
    };
    let gain = austenite_costs_hrc(d, without_percent) - austenite_costs_hrc(d, left_percent);
    Reason::moved(About::RetainedAustenite, why, gain)
}

/// The chain from the fire to the temper: carbon in solution, martensite of it, austenite among it, what is not
/// martensite, what the temper takes and leaves.
fn physics_reasons(steel: &Steel, physics: &Physics) -> Vec<Reason> {
    let d = &physics.dissolved;
    let source = level_source(steel);
    let dissolved = Why::Dissolved {
        share: d.progress,
        structure: physics.structure,
    };
    let start = Why::MartensiteStart {
        carbon_percent: d.composition.carbon,
        start_c: d.martensite_start_c,
    };
    let mut reasons = vec![
        Reason::plain(About::CriticalTemperatures, Why::Levels { source }),
        Reason::plain(About::DissolvedCarbon, dissolved),
        Reason::plain(About::AsQuenched, start),
    ];
    match steel.origin {
        Origin::Analysis { distance } => {
            let near = distance < 0.3;
            reasons.push(Reason::plain(
                About::Tempered,
                Why::KnownByAnalysis { near },
            ));
        }
        Origin::Trial { .. } => {
            reasons.push(Reason::plain(About::Tempered, Why::KnownByTrial {}));
        }
        Origin::Reclaimed { was, tried, .. } => {
            let carbon = steel.perhaps.iter().map(|a| a.carbon);
            let why = Why::KnownBySalvage {
                was,
                tried,
                low_percent: carbon.clone().fold(steel.analysis.carbon, f64::min),
                high_percent: carbon.fold(steel.analysis.carbon, f64::max),
            };
            reasons.push(Reason::plain(About::Tempered, why));
        }
        Origin::Table => {}
    }
    if physics.verdict != Verdict::NeverHot {
        let hrc = hardness::hrc_of_hv(d.hardened_hv(0.0));
        let why = Why::MartensiteOf {
            carbon_percent: d.composition.carbon,
            carbide_percent: 100.0 * d.carbides,
            hrc,
        };
        reasons.push(Reason::plain(About::AsQuenched, why));
    }
    let percent = physics.retained_before_tempers_percent;
    let lost = austenite_costs_hrc(d, percent);
    if lost >= WORTH_SAYING_HRC {
        let why = Why::AusteniteLeft { percent };
        reasons.push(Reason::moved(About::AsQuenched, why, -lost));
    }
    reasons.push(cold_reason(physics));
    if physics.martensite_at_reading < 0.97 && physics.verdict != Verdict::NeverHot {
        let percent = 100.0 * physics.martensite_at_reading;
        let why = Why::PartlyMartensite { percent };
        reasons.push(Reason::plain(About::AsQuenched, why));
    }
    if physics.temper_parameter.is_some() {
        let taken = physics.tempered_hrc - physics.as_quenched_hrc;
        reasons.push(Reason::moved(About::Tempered, Why::TemperTakes {}, taken));
        let gone = percent - physics.retained_percent;
        if gone >= 1.0 {
            let why = Why::TemperTurnsAustenite { percent: gone };
            reasons.push(Reason::plain(About::Tempered, why));
        }
    }
    reasons
}

/// A quantity that is large enough to speak of.
fn worth(value: f64, least: f64) -> Option<f64> {
    (value.abs() >= least).then_some(value)
}

/// What the records say by one thing that blades share; None where they say nothing of it.
fn part_reason(
    part: KernelTerm,
    model: &Model,
    names: &StationNames,
    on_steel: usize,
    x: &Features,
) -> Option<Why> {
    let named = |id: Option<Uuid>| id.and_then(|id| names.get(&id).cloned());
    Some(match part {
        KernelTerm::Shop => Why::ShopResults {},
        KernelTerm::Tester => Why::TesterReads {
            station: named(x.tester),
            high: model.contribution(part, x) > 0.0,
        },
        KernelTerm::Steel => Why::SteelResults { results: on_steel },
        KernelTerm::Bar => Why::BarResults {},
        KernelTerm::Kiln if x.heat.by_eye => Why::EyeRuns {
            eye: named(x.kiln),
            by_k: x.heat.lasting * model.kiln_offset_c(x.kiln),
        },
        KernelTerm::Kiln => Why::KilnRuns {
            station: named(x.kiln),
            by_k: model.kiln_offset_c(x.kiln),
        },
        KernelTerm::Oven => Why::OvenRuns {
            station: named(x.oven),
            by_k: model.oven_offset_c(x.oven),
        },
        KernelTerm::Tank => Why::TankResults {
            medium: x.tank?,
            faster_share: worth(model.film_ln(x.tank).exp() - 1.0, 0.03),
        },
        KernelTerm::Pace => Why::PaceResults {
            slower_share: model.pace_ln(&x.steel).exp() - 1.0,
        },
        KernelTerm::Operator => Why::OperatorResults {
            operator: x
                .operator
                .as_ref()
                .map(|operator| operator.name().to_owned()),
            slower_s: worth(model.transfer_s(x.operator.as_ref()), 0.2),
        },
        KernelTerm::Temper => Why::TemperResults {},
        KernelTerm::Thickness => Why::ThicknessResults {},
        KernelTerm::Blade => return None,
    })
}

fn record_reasons(
    reasons: &mut Vec<Reason>,
    model: &Model,
    names: &StationNames,
    about: About,
    x: &Features,
    (physics_hrc, c): (f64, Corrected),
) {
    let (results, on_steel) = model.counts(&x.steel);
    let parts = model.spread_parts(x);
    reasons.push(Reason::plain(about, Why::WidthFrom { parts }));
    if results == 0 {
        reasons.push(Reason::plain(about, Why::NoResults {}));
        return;
    }
    for &part in KernelTerm::ALL {
        let moved = model.contribution(part, x);
        if moved.abs() < WORTH_SAYING_HRC {
            continue;
        }
        if let Some(why) = part_reason(part, model, names, on_steel, x) {
            reasons.push(Reason::moved(about, why, moved).from_records());
        }
    }
    let width = |deviation: f64| 2.0 * NINETY * deviation;
    let why = Why::Learned {
        results,
        on_steel,
        physics_hrc,
        width_hrc: width(c.deviation_hrc),
        width_before_hrc: width(c.deviation_before_hrc),
    };
    reasons.push(Reason::plain(about, why));
}

/// Coolest and hottest temper that is looked for, °C.
const TEMPERS_C: (f64, f64) = (120.0, temper::HOTTEST_C);

/// The temper for the middle of `target`, with this oven and these records: every temper after the
/// last quench at one temperature between 120 and 650 °C, to the nearest degree. Where steel hardens again in
/// the temper the same hardness can be had low or high: the better is advised and the other named. `quenched` and
/// `like` are what physics says of the plan as it is, and its slopes.
#[must_use]
pub fn temper_for(
    subject: Subject<'_>,
    section: &Section,
    (quenched, like): (&Physics, &Sensitivity),
    model: &Model,
    target: (f64, f64),
) -> TemperFor {
    let wanted_hrc = 0.5 * (target.0 + target.1);
    let (plan, steel) = (subject.plan, subject.steel);
    let unreached = |why| TemperFor {
        wanted_hrc,
        temperature_c: None,
        interval_c: None,
        also: None,
        out_of_reach: Some(why),
    };
    // The quench does not depend on the temper: it is computed once.
    let hardened = Hardened::new(plan, steel, section, Shift::default());
    let planned = hardened.treatments(|t| t, true);
    if !planned.iter().any(|t| matches!(t, Treatment::Hold { .. })) {
        return unreached(OutOfReach::NoTemper {});
    }
    let oven = stations(plan).1;
    let known = plan.corrections();
    let left = heats_shown(plan)
        .1
        .map_or(1.0, |shown| known.left_unknown(oven, shown));
    let by_physics = |t: f64| {
        let temperature = Celsius::clamped(known.really(oven, t));
        let tempers: Vec<Treatment> = planned
            .iter()
            .map(|planned| match planned {
                Treatment::Hold { time, .. } => Treatment::Hold {
                    temperature,
                    time: *time,
                },
                other => *other,
            })
            .collect();
        hardened.after(&tempers).0
    };
    let base = features(subject, When::Tempered, quenched, like, None);
    let at = |t: f64| {
        let slope = (by_physics(t + 4.0) - by_physics(t - 4.0)) / 8.0;
        let x = Features {
            temper_c: Some(t),
            per_oven_c: left * slope,
            ..base.clone()
        };
        (x, slope)
    };
    let hardness = |t: Celsius| by_physics(t.value()) + model.shift_hrc(&at(t.value()).0);
    let (low, high) = (Celsius::clamped(TEMPERS_C.0), Celsius::clamped(TEMPERS_C.1));
    let branches = temper::temperatures_for(wanted_hrc, low, high, hardness);
    let Some((better, other)) = temper::better_of(&branches, steel) else {
        let top_hrc = hardness(low);
        return unreached(if top_hrc < wanted_hrc {
            OutOfReach::TooHard { top_hrc }
        } else {
            OutOfReach::TooSoft {
                hottest_c: high.value(),
            }
        });
    };
    let t = better.value().round();
    let (x, slope) = at(t);
    let width = model.correct(&x).deviation_hrc / slope.abs().max(0.01);
    TemperFor {
        wanted_hrc,
        temperature_c: Some(t),
        interval_c: Some(Interval::normal(t, width, TEMPERS_C)),
        also: other.map(|(t, drawback)| OtherTemper {
            temperature_c: t.value().round(),
            drawback,
        }),
        out_of_reach: None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learning::Record;
    use crate::process::calibration::{Against, Calibration, Check, Corrections};
    use crate::process::plan::Stations;
    use crate::process::station::Scale;
    use crate::simulation::physics::tests::{blade, plan};
    use std::sync::Arc;

    const PLAN: &str = r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
        {"kind":"quench","stages":[{"medium":"fast_oil","bath_c":50}]},
        {"kind":"sub_zero","temperature_c":-75,"hold_s":7200},
        {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#;

    fn run(model: &Model, target: Option<(f64, f64)>) -> Prediction {
        let (plan, work) = (plan(PLAN), Workpiece::plain(&blade()));
        let steel = Steel::built_in("1084").unwrap();
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        predict(subject, model, &StationNames::new(), target)
    }

    fn records(n: u128, off: f64) -> Vec<Record> {
        let (plan, work) = (plan(PLAN), Workpiece::plain(&blade()));
        let steel = Steel::built_in("1084").unwrap();
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        let section = section(&plan, steel, &work);
        let p = of_section(&plan, steel, &section, Shift::default());
        let s = sensitivity(&plan, steel, &section, work.furnace);
        (0..n)
            .map(|i| Record {
                features: features(subject, When::Tempered, &p, &s, Some(Uuid::from_u128(i))),
                physics_hrc: p.tempered_hrc,
                measured_hrc: p.tempered_hrc + off,
                readings: 3,
                bracket_hrc: None,
            })
            .collect()
    }

    #[test]
    fn a_temper_by_colour_costs_what_the_light_costs() {
        let (steel, work) = (Steel::built_in("1084").unwrap(), Workpiece::plain(&blade()));
        let ask = |by: &str| {
            let plan = plan(&PLAN.replace("\"temperature_c\":205", by)).judged_on(steel);
            let subject = Subject {
                plan: &plan,
                steel,
                work: &work,
                tester: None,
                bar: None,
                operator: None,
            };
            predict(subject, &Model::default(), &StationNames::new(), None)
        };
        let seen = |light: &str| ask(&format!(r#""by":{{"colour":"bronze","light":"{light}"}}"#));
        let width = |p: &Prediction| p.hardness.tempered.width();
        let (oven, day, dim, dark) = (
            ask("\"temperature_c\":205"),
            seen("daylight"),
            seen("dim"),
            seen("dark"),
        );
        assert!(width(&day) < width(&dim) && width(&dim) < width(&dark));
        assert!(width(&oven) < width(&dim));
        let told = |p: &Prediction| {
            let mut all = p.reasons.iter();
            all.any(|r| matches!(r.why, Why::TemperByColour { .. }))
        };
        assert!(told(&dim) && !told(&oven));
        // Before the temper nothing is different.
        assert_eq!(dim.hardness.as_quenched, oven.hardness.as_quenched);
    }

    #[test]
    fn the_example_of_the_interface_is_answered() {
        let got = run(&Model::default(), Some((60.0, 62.0)));
        let t = got.hardness.tempered;
        assert!(t.low < t.middle && t.middle < t.high);
        assert!((t.middle - 62.2).abs() < 1.0, "{t:?}");
        assert!(got.hardness.as_quenched.middle > t.middle);
        assert!(got.retained_austenite_percent < got.retained_austenite.without_sub_zero.middle);
        assert!(got.reasons.iter().any(|r| r.why == Why::NoResults {}));
        assert_eq!(got.records_used, 0);
        let advice = got.temper_for_target.unwrap();
        let (temper, range) = (advice.temperature_c.unwrap(), advice.interval_c.unwrap());
        assert!((205.0..250.0).contains(&temper), "{temper}");
        assert!(
            range.low < temper - 10.0 && range.high > temper + 10.0,
            "{range:?}"
        );
        assert!(got.levels.ac1_c.holds(723.0) && got.levels.martensite_start_c.width() > 30.0);
        assert!(got.dissolved_carbon_percent.holds(0.80));
        for about in [
            About::CriticalTemperatures,
            About::DissolvedCarbon,
            About::TemperForTarget,
        ] {
            assert!(got.reasons.iter().any(|r| r.about == about), "{about:?}");
        }
        assert_eq!(got.temper_colour.as_deref(), Some("bronze"));
    }

    #[test]
    fn a_handful_of_records_moves_narrows_and_says_why() {
        let before = run(&Model::default(), None).hardness.tempered;
        let after = run(&Model::fit(records(5, -1.5)), None);
        assert!(after.hardness.tempered.middle < before.middle - 0.8);
        assert!(after.hardness.tempered.width() < 0.8 * before.width());
        assert!(
            after
                .reasons
                .iter()
                .any(|r| matches!(r.why, Why::Learned { results: 5, .. }))
        );
        assert!(
            after
                .reasons
                .iter()
                .any(|r| r.effect_hrc.is_some_and(|e| e < -0.1) && r.about == About::Tempered)
        );
    }

    #[test]
    fn the_temper_it_advises_reaches_what_was_wanted() {
        let model = Model::fit(records(6, 0.8));
        let advised = run(&model, Some((59.0, 60.0)))
            .temper_for_target
            .unwrap()
            .temperature_c
            .unwrap();
        let json = PLAN.replace("205", &format!("{advised}"));
        let (plan, work) = (plan(&json), Workpiece::plain(&blade()));
        let steel = Steel::built_in("1084").unwrap();
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        let got = predict(subject, &model, &StationNames::new(), None);
        assert!(
            (got.hardness.tempered.middle - 59.5).abs() < 0.15,
            "{:?}",
            got.hardness
        );
    }

    #[test]
    fn a_checked_oven_is_taken_as_it_is() {
        let oven = Uuid::from_u128(9);
        let check = Calibration::parse(&[[205.0, 217.0]], Scale::Temperature).unwrap();
        let check = Check {
            at_s: 0,
            against: Against::Thermometer,
            points: check,
        };
        let known = Arc::new(Corrections::new(0, [(oven, check)]));
        let at = Stations {
            kiln: None,
            oven: Some(oven),
            eye: None,
        };
        let steel = Steel::built_in("1084").unwrap();
        let work = Workpiece::plain(&blade());
        let names = StationNames::from([(oven, "Bench oven".to_owned())]);
        let run = |plan: &Plan| {
            let subject = Subject {
                plan,
                steel,
                work: &work,
                tester: None,
                bar: None,
                operator: None,
            };
            predict(subject, &Model::default(), &names, Some((59.0, 61.0)))
        };
        let bare = run(&plan(PLAN).with_stations(at));
        let checked = run(&plan(PLAN).with_stations(at).with_corrections(known));
        let (a, b) = (bare.hardness.tempered, checked.hardness.tempered);
        assert!(b.middle < a.middle - 0.4, "{a:?} {b:?}");
        // What is known of the oven makes the interval narrower.
        assert!(b.width() < a.width());
        let advised = |p: &Prediction| p.temper_for_target.clone().unwrap().temperature_c.unwrap();
        assert!((advised(&bare) - advised(&checked) - 12.0).abs() < 1.1);
        let said = checked.reasons.iter().find(|r| {
            matches!(&r.why, Why::CheckCounted { station: Some(name), by_k, .. }
                if name == "Bench oven" && (by_k - 12.0).abs() < 0.5)
        });
        assert!(said.unwrap().effect_hrc.unwrap() < -0.4);
        assert_eq!(checked.checks_used[0].station_id, oven);
        assert!(bare.checks_used.is_empty());
    }

    #[test]
    fn a_check_in_ice_and_steam_leaves_a_kiln_as_unknown_as_it_was() {
        let kiln = Uuid::from_u128(9);
        let checked = |points: &[[f64; 2]], against: Against, age_s: i64| {
            let points = Calibration::parse(points, Scale::Temperature).unwrap();
            let check = Check {
                at_s: 0,
                against,
                points,
            };
            let at = Stations {
                kiln: Some(kiln),
                oven: None,
                eye: None,
            };
            let known = Arc::new(Corrections::new(age_s, [(kiln, check)]));
            // A heat just above Ac1, where some degrees tell.
            let plan = plan(&PLAN.replace("815", "741")).with_stations(at);
            let subject = Subject {
                plan: &plan.with_corrections(known),
                steel: Steel::built_in("1084").unwrap(),
                work: &Workpiece::plain(&blade()),
                tester: None,
                bar: None,
                operator: None,
            };
            let names = StationNames::from([(kiln, "Big kiln".to_owned())]);
            predict(subject, &Model::default(), &names, None)
        };
        let steam = checked(
            &[[1.0, 0.0], [103.0, 100.0]],
            Against::IceAndBoilingWater,
            0,
        );
        let there = checked(&[[741.0, 741.0]], Against::Thermometer, 0);
        let old = checked(&[[741.0, 741.0]], Against::Thermometer, 200_000_000);
        let width = |p: &Prediction| p.hardness.as_quenched.width();
        assert!(
            width(&there) < width(&old) - 0.01,
            "{} {}",
            width(&there),
            width(&old)
        );
        assert!(width(&steam) > width(&old));
        let unchecked = |p: &Prediction| {
            p.reasons.iter().find_map(|r| match &r.why {
                Why::CheckTellsLittle { reach, .. } => Some(*reach),
                _ => None,
            })
        };
        assert_eq!(unchecked(&steam).unwrap().nearest_c, Some(103.0));
        assert!(unchecked(&old).unwrap().age_days.unwrap() > 2000.0);
        assert!(unchecked(&there).is_none());
    }

    #[test]
    fn an_impossible_wish_is_told_so() {
        let got = run(&Model::default(), Some((69.0, 70.0)))
            .temper_for_target
            .unwrap();
        assert!(got.temperature_c.is_none());
        assert!(
            matches!(got.out_of_reach, Some(OutOfReach::TooHard { top_hrc }) if top_hrc < 69.0)
        );
    }
}
