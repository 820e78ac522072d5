//! A prediction: physics corrected by the shop's records, with intervals, reasons and warnings.

use crate::critical;
use crate::dissolution::Structure;
use crate::hand::Hand;
use crate::heat::{Heat, Section};
use crate::interval::{About, Interval, NINETY, Reason};
use crate::laminate::LayerOutcome;
use crate::learn::kernel::Part;
use crate::learn::{Corrected, Features, Model};
use crate::next::{Next, propose};
use crate::outcome::Outcomes;
use crate::physics::{
    self, Physics, Sensitivity, Shift, Verdict, of_section, section, sensitivity,
};
use crate::plan::{Plan, Step};
use crate::reading::When;
use crate::steel::{Origin, Steel};
use crate::temper;
use crate::units::{Celsius, Quantity, Seconds};
use crate::warning::{Warning, warnings};
use crate::window::Straightening;
use crate::work::Work;
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

/// The quench in plain words, with its numbers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Through {
    /// The verdict.
    pub verdict: Verdict,
    /// Thickest section whose middle is half martensite in this quench, mm.
    pub critical_thickness_mm: f64,
    /// One sentence.
    pub text: String,
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
    /// One sentence.
    pub text: String,
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
    /// Carbon in solution at the quench, percent.
    pub dissolved_carbon_percent: Interval,
    /// The layers beside the edge, for a bar of several steels.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<LayerOutcome>,
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

/// What a prediction is made for.
#[derive(Debug, Clone, Copy)]
pub struct Subject<'a> {
    /// The plan.
    pub plan: &'a Plan,
    /// The steel.
    pub steel: &'a Steel,
    /// The blade and what is around it.
    pub work: &'a Work,
    /// The tester it will be read with, when known.
    pub tester: Option<Uuid>,
    /// The bar it is made from, when known.
    pub bar: Option<Uuid>,
    /// Who quenches it, when known.
    pub hand: Option<&'a Hand>,
}

/// Kiln of the hardening heat and oven of the last temper that the plan names.
#[must_use]
pub fn stations(plan: &Plan) -> (Option<Uuid>, Option<Uuid>) {
    let find = |of: &dyn Fn(&Step) -> Option<Option<Uuid>>| {
        plan.steps().iter().rev().find_map(of).flatten()
    };
    (
        find(&|s| match s {
            Step::Austenitize { station_id, .. } => Some(*station_id),
            _ => None,
        }),
        find(&|s| match s {
            Step::Temper { station_id, .. } => Some(*station_id),
            _ => None,
        }),
    )
}

/// What the kiln of the hardening heat and the oven of the last temper are set to, °C.
fn heats_shown(plan: &Plan) -> (Option<f64>, Option<f64>) {
    let find = |of: fn(&Step) -> Option<f64>| plan.steps().iter().rev().find_map(of);
    (
        find(|s| match s {
            Step::Austenitize { temperature_c, .. } => Some(temperature_c.value()),
            _ => None,
        }),
        find(|s| match s {
            Step::Temper { temperature_c, .. } => Some(temperature_c.value()),
            _ => None,
        }),
    )
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

/// Features of a result of this subject, for learning and for predicting.
#[must_use]
pub fn features(
    subject: Subject<'_>,
    when: When,
    physics: &Physics,
    slopes: &Sensitivity,
    blade_id: Option<Uuid>,
) -> Features {
    let (kiln, oven) = stations(subject.plan);
    let tempered = when == When::Tempered;
    // Of a station that was checked less is left to be learned, where its check tells of this heat.
    let known = subject.plan.corrections();
    let (heat_c, temper_c) = heats_shown(subject.plan);
    let unknown =
        |station, shown: Option<f64>| shown.map_or(1.0, |shown| known.left_unknown(station, shown));
    Features {
        when,
        blade: blade_id,
        steel: subject.steel.key.clone(),
        steel_spread_hrc: subject.steel.spread_hrc(),
        bar: subject.bar,
        kiln,
        oven: if tempered { oven } else { None },
        tester: subject.tester,
        tank: physics::stages(subject.plan).first().map(|s| s.medium),
        hand: subject.hand.cloned(),
        temper_c: if tempered {
            physics.hottest_temper.map(Celsius::value)
        } else {
            None
        },
        spine_mm: subject.work.blade().spine_mm,
        per_kiln_c: unknown(kiln, heat_c)
            * if tempered {
                slopes.tempered_per_kiln_c
            } else {
                slopes.as_quenched_per_kiln_c
            },
        per_oven_c: if tempered {
            unknown(oven, temper_c) * slopes.tempered_per_oven_c
        } else {
            0.0
        },
    }
}

const BOUNDS: (f64, f64) = (0.0, 70.0);
/// Smallest effect worth a sentence, HRC.
const WORTH_SAYING_HRC: f64 = 0.1;

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
    let slopes = sensitivity(plan, steel, &section);
    let reach_mm = Heat::of(plan, steel, 0.0).reach_mm(&work.form, &physics::stages(plan));
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
    let temper_for_target = target.map(|t| temper_for(subject, &section, model, t));
    let advised_c = temper_for_target.as_ref().and_then(|t| t.temperature_c);
    let next = target.and_then(|t| propose(subject, model, t, advised_c));
    if temper_for_target.is_some() {
        reasons.push(Reason::plain(
            About::TemperForTarget,
            format!(
                "Each °C of this temper takes {:.2} HRC; the width of the hardness sets that of the temperature.",
                slopes.tempered_per_oven_c.abs()
            ),
        ));
    }
    if let Some((part, hrc)) = physics.torched {
        reasons.push(Reason::plain(
            About::Tempered,
            format!(
                "The torch leaves the {} at about {hrc:.0} HRC; where it is read nothing changes.",
                part.name()
            ),
        ));
    }
    // The martensite start is known to about ±15 °C, a sixth of the austenite left.
    let austenite = |percent: f64| Interval {
        middle: percent,
        low: percent / 1.35,
        high: (percent * 1.35).min(100.0),
    };
    let chromium = physics.dissolved.composition.chromium;
    Prediction {
        hardness: Hardness {
            as_quenched: Interval::normal(
                physics.as_quenched_hrc + cq.shift_hrc,
                cq.deviation_hrc,
                BOUNDS,
            ),
            tempered: Interval::normal(
                physics.tempered_hrc + ct.shift_hrc,
                ct.deviation_hrc,
                BOUNDS,
            ),
        },
        retained_austenite_percent: physics.retained_percent,
        retained_austenite: RetainedAustenite {
            with_plan: austenite(physics.retained_percent),
            without_sub_zero: austenite(physics.retained_without_sub_zero_percent),
        },
        through: through(steel, work, reach_mm, physics.verdict),
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
        outcomes: None,
        straightening: None,
    }
}

/// What the checks of kiln and oven change, and where they tell little.
fn station_reasons(
    reasons: &mut Vec<Reason>,
    plan: &Plan,
    names: &StationNames,
    slopes: &Sensitivity,
) {
    let mut told: Vec<Uuid> = Vec::new();
    for used in checks_used(plan).into_iter().rev() {
        if told.contains(&used.station_id) {
            continue;
        }
        told.push(used.station_id);
        let (about, slope) = match plan.steps()[used.step] {
            Step::Temper { .. } => (About::Tempered, slopes.tempered_per_oven_c),
            _ => (About::AsQuenched, slopes.as_quenched_per_kiln_c),
        };
        let name = names.get(&used.station_id).map_or("It", String::as_str);
        let off = used.really_c - used.shown_c;
        let far = if (used.nearest_c - used.shown_c).abs() >= 20.0 {
            format!("at {:.0} °C ", used.nearest_c)
        } else {
            String::new()
        };
        let old = match used.age_days {
            days if days >= 60.0 => format!("{:.0} months ago ", days / 30.4),
            _ => String::new(),
        };
        if off.abs() >= 0.5 {
            let faded = if used.tells < 0.9 {
                format!(
                    " It was checked {far}{old}and tells {:.0} % of what it would tell fresh and here.",
                    100.0 * used.tells
                )
            } else {
                String::new()
            };
            reasons.push(Reason {
                about,
                text: format!(
                    "{name} runs {:.0} °C {} at {:.0} °C by its last check; counted.{faded}",
                    off.abs(),
                    if off > 0.0 { "hot" } else { "cool" },
                    used.shown_c
                ),
                effect_hrc: Some(slope * off),
                learned: false,
            });
        } else if used.tells < 0.5 {
            let text = format!(
                "{name} was checked {far}{old}: that says little of {:.0} °C, which stays as unknown as before.",
                used.shown_c
            );
            reasons.push(Reason::plain(about, text));
        }
    }
}

/// Standard errors of Ac1, Ac3 or Acm and the martensite start, °C: about those Andrews gives for his
/// formulas; half of them where the table's own values stand; half as much again outside his range.
fn level_errors(steel: &Steel) -> [f64; 3] {
    let andrews = [11.5, 16.7, 15.0];
    let known = match steel.origin {
        Origin::Table => 0.5,
        Origin::Analysis { .. } if critical::andrews_holds(&steel.analysis) => 1.0,
        Origin::Analysis { .. } | Origin::Trial { .. } => 1.5,
    };
    // The martensite start is by formula for every steel.
    [
        andrews[0] * known,
        andrews[1] * known,
        andrews[2] * known.max(1.0),
    ]
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
        // 5 % left: ln(0.05)/−0.011 below the start.
        martensite_finish_c: ms - 272.3,
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
    let deviation = ((carbon * share).powi(2) + (0.5 * left).powi(2)).sqrt();
    Interval::normal(carbon, deviation, (0.0, steel.analysis.carbon))
}

fn through(steel: &Steel, work: &Work, reach: f64, verdict: Verdict) -> Through {
    let spine = work.blade().spine_mm;
    let by_clay = !work.clay.is_bare() && reach > spine;
    let text = match verdict {
        Verdict::SpineStaysSoft if by_clay => {
            "The edge hardens; under the clay the spine stays softer.".to_owned()
        }
        Verdict::TooThick if by_clay => {
            "Under this clay it stays soft where hardness is read.".to_owned()
        }
        Verdict::HardensThrough if reach > 100.0 => {
            format!(
                "Hardens through: {} hardens far deeper than any blade here.",
                steel.name
            )
        }
        Verdict::HardensThrough => {
            format!(
                "Hardens through: this quench reaches {reach:.1} mm, the spine is {spine:.1} mm."
            )
        }
        Verdict::SpineStaysSoft => {
            format!(
                "The edge hardens, the spine stays softer: this quench reaches {reach:.1} mm, the spine is {spine:.1} mm."
            )
        }
        Verdict::TooThick => {
            format!("The section is too thick for this medium: it reaches only {reach:.1} mm.")
        }
        Verdict::NeverHot => format!("Never above Ac1 ({:.0} °C): nothing hardens.", steel.ac1_c),
    };
    Through {
        verdict,
        critical_thickness_mm: reach,
        text,
    }
}

fn physics_reasons(steel: &Steel, physics: &Physics) -> Vec<Reason> {
    let d = &physics.dissolved;
    let mut reasons = vec![
        Reason::plain(
            About::CriticalTemperatures,
            match steel.origin {
                Origin::Table => {
                    "Ac1 and the upper line from the table; martensite start by Andrews from what is dissolved."
                }
                Origin::Analysis { .. } if critical::andrews_holds(&steel.analysis) => {
                    "By Andrews' formulas from the analysis."
                }
                Origin::Trial { .. } => {
                    "By Andrews' formulas for the carbon and manganese it behaves as if it had."
                }
                Origin::Analysis { .. } => {
                    "By formulas outside the range they were made for: wider."
                }
            },
        ),
        Reason::plain(
            About::DissolvedCarbon,
            format!(
                "{:.0} % of what this heat can hold went into solution, from {}.",
                100.0 * d.progress,
                match physics.structure {
                    Structure::Normalized => "a normalized structure",
                    Structure::Spheroidized => "carbides in balls",
                }
            ),
        ),
        Reason::plain(
            About::AsQuenched,
            format!(
                "{:.2} % carbon dissolved; martensite starts at {:.0} °C.",
                d.composition.carbon, d.martensite_start_c
            ),
        ),
    ];
    if let Origin::Analysis { distance } = steel.origin {
        let text = if distance < 0.3 {
            "Known by its analysis only, close to a steel in the table.".to_owned()
        } else {
            "Known by its analysis only and unlike the steels in the table: the interval is wide."
                .to_owned()
        };
        reasons.push(Reason::plain(About::Tempered, text));
    }
    if let Origin::Trial { .. } = steel.origin {
        let text = "Known by a coupon trial only: its carbon is a guess, and the interval as wide as that.";
        reasons.push(Reason::plain(About::Tempered, text.to_owned()));
    }
    let lost = crate::hardness::retained_austenite_loss_hrc(physics.retained_percent);
    if lost >= WORTH_SAYING_HRC {
        reasons.push(Reason::moved(
            About::AsQuenched,
            format!("{:.0} % austenite left over.", physics.retained_percent),
            -lost,
        ));
    }
    let without =
        crate::hardness::retained_austenite_loss_hrc(physics.retained_without_sub_zero_percent);
    let gain = without - lost;
    reasons.push(
        if physics.retained_percent + 0.5 < physics.retained_without_sub_zero_percent {
            Reason::moved(
                About::RetainedAustenite,
                format!(
                    "Sub-zero turns {:.0} % of it.",
                    physics.retained_without_sub_zero_percent - physics.retained_percent
                ),
                gain,
            )
        } else {
            let cold = crate::hardness::retained_austenite_percent(d.martensite_start_c, -75.0)
                * physics.martensite_at_reading;
            Reason::moved(
                About::RetainedAustenite,
                format!("−75 °C straight after the quench would leave {cold:.0} %."),
                without - crate::hardness::retained_austenite_loss_hrc(cold),
            )
        },
    );
    if physics.martensite_at_reading < 0.97 && physics.verdict != Verdict::NeverHot {
        reasons.push(Reason::plain(
            About::AsQuenched,
            format!(
                "Only {:.0} % martensite where hardness is read.",
                100.0 * physics.martensite_at_reading
            ),
        ));
    }
    if physics.temper_parameter.is_some() {
        reasons.push(Reason::moved(
            About::Tempered,
            "What the temper takes from the quenched hardness.".to_owned(),
            physics.tempered_hrc - physics.as_quenched_hrc,
        ));
    }
    reasons
}

fn degrees(offset: f64) -> String {
    format!(
        "{:.0} °C {}",
        offset.abs(),
        if offset > 0.0 { "hot" } else { "cool" }
    )
}

fn record_reasons(
    reasons: &mut Vec<Reason>,
    model: &Model,
    names: &StationNames,
    about: About,
    x: &Features,
    (physics_hrc, c): (f64, Corrected),
) {
    let (all, same) = model.counts(&x.steel);
    if all == 0 {
        reasons.push(Reason::plain(
            about,
            "No results of your own yet: typical published numbers. A few blades with readings narrow this.",
        ));
        return;
    }
    let named = |id: Option<Uuid>, unknown: &str| {
        id.and_then(|id| names.get(&id).cloned())
            .unwrap_or_else(|| unknown.to_owned())
    };
    for part in Part::ALL {
        let moved = model.contribution(part, x);
        if moved.abs() < WORTH_SAYING_HRC {
            continue;
        }
        let text = match part {
            Part::Shop => "What your results have in common.".to_owned(),
            Part::Tester => format!(
                "{} reads {}.",
                named(x.tester, "The tester"),
                if moved > 0.0 { "high" } else { "low" }
            ),
            Part::Steel => format!("Your {same} results on this steel."),
            Part::Bar => "Your results from this bar.".to_owned(),
            Part::Kiln => format!(
                "{} runs {}.",
                named(x.kiln, "The fire"),
                degrees(model.kiln_offset_c(x.kiln))
            ),
            Part::Oven => format!(
                "{} runs {}.",
                named(x.oven, "The oven"),
                degrees(model.oven_offset_c(x.oven))
            ),
            Part::Tank => match x.tank {
                Some(tank) => format!("Your results in {}.", tank.name().to_lowercase()),
                None => continue,
            },
            Part::Hand => match &x.hand {
                Some(hand) => format!("Blades that {} quenched.", hand.name()),
                None => "Blades of the same hand.".to_owned(),
            },
            Part::Temper => "Your results near this temper.".to_owned(),
            Part::Thickness => "Your results near this thickness.".to_owned(),
            Part::Blade => continue,
        };
        reasons.push(Reason::moved(about, text, moved).from_records());
    }
    let width = |deviation: f64| 2.0 * NINETY * deviation;
    reasons.push(Reason::plain(
        about,
        format!(
            "Learned from {all} results, {same} on this steel: physics alone said {physics_hrc:.1}; the width is {:.1} HRC instead of {:.1}.",
            width(c.deviation_hrc),
            width(c.deviation_before_hrc)
        ),
    ));
}

/// The temper for the middle of `target`, with this oven and these records: every temper after the
/// last quench at one temperature between 120 and 600 °C, to the nearest degree.
#[must_use]
pub fn temper_for(
    subject: Subject<'_>,
    section: &Section,
    model: &Model,
    target: (f64, f64),
) -> TemperFor {
    let wanted_hrc = 0.5 * (target.0 + target.1);
    let quench = subject.plan.last_quench().unwrap_or(0);
    let holds: Vec<Seconds> = subject
        .plan
        .steps()
        .iter()
        .skip(quench)
        .flat_map(|step| match step {
            Step::Temper { hold_s, times, .. } => vec![*hold_s; *times as usize],
            _ => Vec::new(),
        })
        .collect();
    if holds.is_empty() {
        let text = "Add a temper to the plan first.".to_owned();
        return TemperFor {
            wanted_hrc,
            temperature_c: None,
            interval_c: None,
            text,
        };
    }
    // The quench does not depend on the temper: it is computed once.
    let quenched = of_section(subject.plan, subject.steel, section, Shift::default());
    let share = quenched.martensite_at_reading;
    let oven = stations(subject.plan).1;
    let known = subject.plan.corrections();
    let left = heats_shown(subject.plan)
        .1
        .map_or(1.0, |shown| known.left_unknown(oven, shown));
    let by_physics = |t: f64| {
        let t = Celsius::clamped(subject.plan.corrections().really(oven, t));
        let tempers: Vec<_> = holds.iter().map(|hold| (t, *hold)).collect();
        let parameter = temper::combined(&tempers);
        physics::after_tempers(quenched.as_quenched_hrc, share, subject.steel, parameter)
    };
    let like = sensitivity(subject.plan, subject.steel, section);
    let base = features(subject, When::Tempered, &quenched, &like, None);
    let hardness = |t: Celsius| {
        let slope = (by_physics(t.value() + 4.0) - by_physics(t.value() - 4.0)) / 8.0;
        let x = Features {
            temper_c: Some(t.value()),
            per_oven_c: left * slope,
            ..base.clone()
        };
        by_physics(t.value()) + model.shift_hrc(&x)
    };
    let (low, high) = (Celsius::clamped(120.0), Celsius::clamped(600.0));
    match temper::temperature_for(wanted_hrc, low, high, hardness) {
        Some(t) => {
            let t = t.value().round();
            let slope = (by_physics(t + 4.0) - by_physics(t - 4.0)) / 8.0;
            let x = Features {
                temper_c: Some(t),
                per_oven_c: left * slope,
                ..base.clone()
            };
            let width = model.correct(&x).deviation_hrc / slope.abs().max(0.01);
            let interval = Interval::normal(t, width, (low.value(), high.value()));
            TemperFor {
                wanted_hrc,
                temperature_c: Some(t),
                interval_c: Some(interval),
                text: format!(
                    "{t:.0} °C for {wanted_hrc:.1} HRC; nine in ten between {:.0} and {:.0} °C.",
                    interval.low, interval.high
                ),
            }
        }
        None => {
            let top = hardness(low);
            let text = if top < wanted_hrc {
                format!(
                    "{wanted_hrc:.1} HRC is more than this plan reaches: {top:.1} at the coolest temper."
                )
            } else {
                format!("No temper up to 600 °C brings this down to {wanted_hrc:.1} HRC.")
            };
            TemperFor {
                wanted_hrc,
                temperature_c: None,
                interval_c: None,
                text,
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::calibration::{Against, Calibration, Check, Corrections};
    use crate::learn::Record;
    use crate::physics::tests::{blade, plan};
    use crate::plan::Stations;
    use crate::station::Scale;
    use std::sync::Arc;

    const PLAN: &str = r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
        {"kind":"quench","stages":[{"medium":"fast_oil","bath_c":50}]},
        {"kind":"sub_zero","temperature_c":-75,"hold_s":7200},
        {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#;

    fn run(model: &Model, target: Option<(f64, f64)>) -> Prediction {
        let (plan, work) = (plan(PLAN), Work::plain(&blade()));
        let steel = Steel::built_in("1084").unwrap();
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            hand: None,
        };
        predict(subject, model, &StationNames::new(), target)
    }

    fn records(n: u128, off: f64) -> Vec<Record> {
        let (plan, work) = (plan(PLAN), Work::plain(&blade()));
        let steel = Steel::built_in("1084").unwrap();
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            hand: None,
        };
        let section = section(&plan, steel, &work);
        let p = of_section(&plan, steel, &section, Shift::default());
        let s = sensitivity(&plan, steel, &section);
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
    fn the_example_of_the_interface_is_answered() {
        let got = run(&Model::default(), Some((60.0, 62.0)));
        let t = got.hardness.tempered;
        assert!(t.low < t.middle && t.middle < t.high);
        assert!((t.middle - 62.2).abs() < 1.0, "{t:?}");
        assert!(got.hardness.as_quenched.middle > t.middle);
        assert!(got.retained_austenite_percent < got.retained_austenite.without_sub_zero.middle);
        assert!(
            got.reasons
                .iter()
                .any(|r| r.text.contains("No results of your own"))
        );
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
        assert_eq!(got.temper_colour.as_deref(), Some("straw"));
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
                .any(|r| r.text.starts_with("Learned from 5 results"))
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
        let (plan, work) = (plan(&json), Work::plain(&blade()));
        let steel = Steel::built_in("1084").unwrap();
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            hand: None,
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
        };
        let steel = Steel::built_in("1084").unwrap();
        let work = Work::plain(&blade());
        let names = StationNames::from([(oven, "Bench oven".to_owned())]);
        let run = |plan: &Plan| {
            let subject = Subject {
                plan,
                steel,
                work: &work,
                tester: None,
                bar: None,
                hand: None,
            };
            predict(subject, &Model::default(), &names, Some((59.0, 61.0)))
        };
        let bare = run(&plan(PLAN).with_stations(at));
        let checked = run(&plan(PLAN).with_stations(at).knowing(known));
        let (a, b) = (bare.hardness.tempered, checked.hardness.tempered);
        assert!(b.middle < a.middle - 0.4, "{a:?} {b:?}");
        // What is known of the oven makes the interval narrower.
        assert!(b.width() < a.width());
        let advised = |p: &Prediction| p.temper_for_target.clone().unwrap().temperature_c.unwrap();
        assert!((advised(&bare) - advised(&checked) - 12.0).abs() < 1.1);
        let said = checked
            .reasons
            .iter()
            .find(|r| r.text.contains("Bench oven runs 12 °C hot"));
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
            };
            let known = Arc::new(Corrections::new(age_s, [(kiln, check)]));
            // A heat at the lower end, where some degrees tell.
            let plan = plan(&PLAN.replace("815", "760")).with_stations(at);
            let subject = Subject {
                plan: &plan.knowing(known),
                steel: Steel::built_in("1084").unwrap(),
                work: &Work::plain(&blade()),
                tester: None,
                bar: None,
                hand: None,
            };
            let names = StationNames::from([(kiln, "Big kiln".to_owned())]);
            predict(subject, &Model::default(), &names, None)
        };
        let steam = checked(
            &[[1.0, 0.0], [103.0, 100.0]],
            Against::IceAndBoilingWater,
            0,
        );
        let there = checked(&[[760.0, 760.0]], Against::Thermometer, 0);
        let old = checked(&[[760.0, 760.0]], Against::Thermometer, 200_000_000);
        let width = |p: &Prediction| p.hardness.as_quenched.width();
        assert!(
            width(&there) < width(&old) - 0.01,
            "{} {}",
            width(&there),
            width(&old)
        );
        assert!(width(&steam) > width(&old));
        let says = |p: &Prediction, what: &str| p.reasons.iter().any(|r| r.text.contains(what));
        assert!(
            says(&steam, "Big kiln was checked at 103 °C"),
            "{:?}",
            steam.reasons
        );
        assert!(says(&old, "months ago"));
        assert!(!says(&there, "was checked"));
    }

    #[test]
    fn an_impossible_wish_is_told_so() {
        let got = run(&Model::default(), Some((69.0, 70.0)))
            .temper_for_target
            .unwrap();
        assert!(got.temperature_c.is_none() && got.text.contains("more than this plan reaches"));
    }
}
