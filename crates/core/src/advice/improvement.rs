//! What would help most: the few single changes of a plan that bring each outcome towards its window,
//! computed and ranked, with what each costs elsewhere.

use crate::advice::success::inside;
use crate::learning::Model;
use crate::learning::bias_models::BiasModels;
use crate::material::medium::Medium;
use crate::prediction::outcome::{Outcomes, outcomes, seconds_in_water};
use crate::prediction::predict::{Prediction, StationNames, predict};
use crate::prediction::reason::About;
use crate::prediction::recommendation::{Candidate, candidates};
use crate::prediction::subject::Subject;
use crate::process::change::{Change, StepField};
use crate::process::plan::Plan;
use crate::process::step::{Stage, Step};
use crate::quantity::units::{Quantity, Seconds};
use crate::simulation::physics::stages;
use crate::simulation::quench::Stopped;
use crate::simulation::simulated::STEP_MM;
use crate::simulation::simulated::hours_untempered;
use serde::{Deserialize, Serialize};
use std::sync::atomic::AtomicBool;

/// One change that helps one outcome.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Help {
    /// The outcome it helps.
    pub about: About,
    /// The change.
    pub fix: Change,
    /// The outcome as planned.
    pub from: OutcomeValue,
    /// The outcome with the change.
    pub to: OutcomeValue,
    /// What gets worse by it.
    pub costs: Vec<OutcomeValue>,
    /// Share of the way to the window that it brings, 0 to 1.
    pub share: f64,
}

/// An outcome in its own measure.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum OutcomeValue {
    /// Hardness after the last temper.
    Hardness {
        /// HRC.
        hrc: f64,
    },
    /// Chance of a crack.
    Crack {
        /// 0 to 1.
        probability: f64,
    },
    /// Chance of a bend sideways beyond what can be left.
    Bend {
        /// 0 to 1.
        probability: f64,
    },
    /// Grain.
    Grain {
        /// ASTM grain size number.
        astm: f64,
    },
    /// Austenite left over.
    Austenite {
        /// Percent of the structure.
        percent: f64,
    },
    /// Skin that loses carbon.
    Skin {
        /// Depth, mm.
        depth_mm: f64,
    },
    /// Mean height of the line.
    Line {
        /// Above the edge, mm.
        height_mm: f64,
    },
    /// No line.
    NoLine {},
}

impl OutcomeValue {
    /// Differs by less than is ever shown: nobody would see the change.
    fn looks_like(self, other: Self) -> bool {
        let same = |a: f64, b: f64, digits: i32| {
            let scale = 10_f64.powi(digits);
            (a * scale).round() == (b * scale).round()
        };
        match (self, other) {
            (Self::Hardness { hrc: a }, Self::Hardness { hrc: b })
            | (Self::Grain { astm: a }, Self::Grain { astm: b })
            | (Self::Line { height_mm: a }, Self::Line { height_mm: b }) => same(a, b, 1),
            (Self::Crack { probability: a }, Self::Crack { probability: b })
            | (Self::Bend { probability: a }, Self::Bend { probability: b }) => same(a, b, 2),
            (Self::Austenite { percent: a }, Self::Austenite { percent: b }) => same(a, b, 0),
            (Self::Skin { depth_mm: a }, Self::Skin { depth_mm: b }) => same(a, b, 2),
            (a, b) => a == b,
        }
    }
}

/// Most proposals for one outcome.
const EACH: usize = 2;
/// A change must close this share of what is missing.
const WORTH: f64 = 0.15;
/// What is aimed at where the blade itself says nothing: cracks, bends, grain, austenite.
const CRACK: f64 = 0.02;
const BEND: f64 = 0.10;
const GRAIN: f64 = 8.0;
const AUSTENITE: f64 = 10.0;

/// The state of a plan, as far as it is aimed at.
struct Aimed {
    found: Prediction,
    whole: Outcomes,
}

/// How far an outcome is from its window, 0 when inside, in its own unit.
fn missing(about: About, a: &Aimed, target: (f64, f64), line_mm: Option<f64>) -> f64 {
    match about {
        About::Tempered => (0.8 - inside(&a.found.hardness.tempered, target)).max(0.0),
        About::Crack => (a.whole.crack.probability - CRACK).max(0.0),
        About::Bend => {
            (a.whole.bend.side_over_tolerance_probability - BEND).max(0.0)
                + 0.1 * (a.whole.bend.sori_mm.abs() - a.whole.bend.tolerance_mm).max(0.0)
        }
        About::Grain => (GRAIN - a.whole.grain_astm).max(0.0),
        About::RetainedAustenite => (a.found.retained_austenite_percent - AUSTENITE).max(0.0),
        About::Decarburization => (a.whole.decarburization_mm - 0.08).max(0.0),
        About::Hamon => match (line_mm, a.whole.hamon.line()) {
            (Some(wanted), Some(line)) => ((line.height_mm - wanted).abs() - 1.0).max(0.0),
            (Some(wanted), None) => wanted,
            (None, _) => 0.0,
        },
        _ => 0.0,
    }
}

/// What is not worth a change.
const fn negligible(about: About) -> f64 {
    match about {
        About::Crack => 0.01,
        About::Bend => 0.03,
        About::RetainedAustenite => 1.0,
        About::Grain => 0.2,
        About::Decarburization => 0.02,
        _ => 0.0,
    }
}

impl Aimed {
    fn hardness(&self) -> OutcomeValue {
        OutcomeValue::Hardness {
            hrc: self.found.hardness.tempered.middle,
        }
    }

    fn crack(&self) -> OutcomeValue {
        OutcomeValue::Crack {
            probability: self.whole.crack.probability,
        }
    }

    fn grain(&self) -> OutcomeValue {
        OutcomeValue::Grain {
            astm: self.whole.grain_astm,
        }
    }

    fn line(&self) -> OutcomeValue {
        let line = self.whole.hamon.line();
        line.map_or(OutcomeValue::NoLine {}, |l| OutcomeValue::Line {
            height_mm: l.height_mm,
        })
    }

    fn value(&self, about: About) -> OutcomeValue {
        match about {
            About::Crack => self.crack(),
            About::Bend => OutcomeValue::Bend {
                probability: self.whole.bend.side_over_tolerance_probability,
            },
            About::Grain => self.grain(),
            About::RetainedAustenite => OutcomeValue::Austenite {
                percent: self.found.retained_austenite_percent,
            },
            About::Decarburization => OutcomeValue::Skin {
                depth_mm: self.whole.decarburization_mm,
            },
            About::Hamon => self.line(),
            _ => self.hardness(),
        }
    }
}

/// Changes beyond those of [`candidates`]: other baths, a coat, one more normalizing heat, cold at once.
fn more(subject: Subject<'_>) -> Vec<Candidate> {
    let (steps, steel) = (subject.plan.steps(), subject.steel);
    let Some(quench) = subject.plan.last_quench() else {
        return Vec::new();
    };
    let mut all = Vec::new();
    let mut add = |change| all.push(Candidate::new(steps, change, None));
    let now = stages(subject.plan);
    let first = now.first().map(|s| s.medium);
    for medium in &steel.media {
        if Some(*medium) != first || now.len() > 1 {
            let stages = vec![Stage::until_cold(*medium)];
            let with = Step::Quench { stages };
            add(Change::Replace { at: quench, with });
        }
    }
    if steel.water_then_oil && !(now.len() > 1 && first.is_some_and(Medium::is_water)) {
        add(water_then_oil(quench, 2.5));
    }
    for (i, step) in steps.iter().enumerate().skip(quench) {
        if let Step::SubZero { wait_s, .. } = step
            && wait_s.value() > 600.0
        {
            add(Change::set(steps, i, StepField::WaitS, 0.0));
        }
    }
    let heat = steps[..quench]
        .iter()
        .rposition(|s| matches!(s, Step::Austenitize { .. }));
    if let Some(at) = heat {
        let before = &steps[..at];
        if !before
            .iter()
            .any(|s| matches!(s, Step::Coat {} | Step::Pouch {}))
        {
            let step = Step::Coat {};
            add(Change::Insert { at, step });
        }
        if steel.normalize.is_some() {
            let step = Step::Normalize {
                temperature_c: steel.austenitize.nominal,
                hold_s: Seconds::clamped(60.0),
                by: None,
            };
            add(Change::Insert { at, step });
        }
    }
    all
}

/// Water for a time, then fast oil, in the place of a quench.
fn water_then_oil(at: usize, seconds: f64) -> Change {
    let water = Stage {
        for_s: Some(Seconds::clamped(seconds)),
        ..Stage::until_cold(Medium::Water)
    };
    let stages = vec![water, Stage::until_cold(Medium::FastOil)];
    let with = Step::Quench { stages };
    Change::Replace { at, with }
}

/// The water time that puts the line where it is wanted, as a change.
fn water_for(
    subject: Subject<'_>,
    biases: &BiasModels,
    wanted_mm: f64,
    stop: Option<&AtomicBool>,
) -> Result<Option<Candidate>, Stopped> {
    let Subject {
        plan, steel, work, ..
    } = subject;
    let Some(at) = plan.last_quench().filter(|_| steel.water_then_oil) else {
        return Ok(None);
    };
    let found = seconds_in_water(work, plan, steel, biases, wanted_mm, stop)?;
    Ok(found.map(|s| Candidate::new(plan.steps(), water_then_oil(at, s), None)))
}

/// Everything that is taken as known.
#[derive(Clone, Copy)]
pub struct Known<'a> {
    /// Hardness as the records correct it.
    pub model: &'a Model,
    /// Everything else.
    pub biases: &'a BiasModels,
    /// Wanted hardness, HRC.
    pub target: (f64, f64),
    /// Wanted mean height of the line, mm, when one is wanted.
    pub line_mm: Option<f64>,
}

/// Outcomes that can miss what is wanted of them.
const AIMED_AT: [About; 7] = [
    About::Tempered,
    About::Crack,
    About::Bend,
    About::Hamon,
    About::RetainedAustenite,
    About::Grain,
    About::Decarburization,
];

/// The changes that mend most of each outcome, best first.
fn best(mut found: Vec<Help>) -> Vec<Help> {
    found.sort_by(|a, b| b.share.total_cmp(&a.share));
    let mut kept: Vec<Help> = Vec::new();
    for help in found {
        if kept.iter().filter(|k| k.about == help.about).count() < EACH {
            kept.push(help);
        }
    }
    kept
}

/// The changes that help most, those that close most of what is missing first, at most two for each
/// outcome. None for outcomes inside their window.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn help(
    subject: Subject<'_>,
    known: Known<'_>,
    stop: Option<&AtomicBool>,
) -> Result<Vec<Help>, Stopped> {
    let target = known.target;
    let quench_of = |plan: &Plan| {
        let until = plan.last_quench().map_or(0, |i| i + 1);
        plan.steps()[..until].to_vec()
    };
    let aim = |plan: &Plan, whole: Outcomes| Aimed {
        found: predict(
            Subject { plan, ..subject },
            known.model,
            &StationNames::new(),
            None,
        ),
        whole,
    };
    let run = |plan: &Plan| {
        outcomes(
            subject.work,
            plan,
            subject.steel,
            known.biases,
            STEP_MM,
            stop,
        )
    };
    let whole = run(subject.plan)?.0;
    let advised = predict(subject, known.model, &StationNames::new(), Some(target));
    let advised_c = advised.temper_for_target.and_then(|t| t.temperature_c);
    let now = aim(subject.plan, whole.clone());
    let open: Vec<(About, f64)> = AIMED_AT
        .into_iter()
        .map(|a| (a, missing(a, &now, target, known.line_mm)))
        .filter(|(a, m)| *m > negligible(*a))
        .collect();
    if open.is_empty() {
        return Ok(Vec::new());
    }
    let mut tried = candidates(subject, advised_c);
    tried.extend(more(subject));
    if let Some(wanted) = known
        .line_mm
        .filter(|_| open.iter().any(|o| o.0 == About::Hamon))
    {
        tried.extend(water_for(subject, known.biases, wanted, stop)?);
    }
    let before = quench_of(subject.plan);
    let mut found: Vec<Help> = Vec::new();
    for candidate in tried {
        let plan = subject.plan.with_steps(candidate.steps);
        // What comes after the quench changes nothing of it but how long it lies untempered.
        let waits = hours_untempered(&plan);
        let whole = if quench_of(&plan) == before && waits == hours_untempered(subject.plan) {
            whole.clone()
        } else {
            run(&plan)?.0
        };
        let then = aim(&plan, whole);
        for (about, m) in &open {
            let left = missing(*about, &then, target, known.line_mm);
            let share = ((m - left) / m).clamp(0.0, 1.0);
            let (from, to) = (now.value(*about), then.value(*about));
            if share < WORTH || from.looks_like(to) {
                continue;
            }
            found.push(Help {
                about: *about,
                fix: candidate.change.clone(),
                from,
                to,
                costs: costs(*about, &now, &then, target),
                share,
            });
        }
    }
    Ok(best(found))
}

/// What else gets worse by the change.
fn costs(about: About, now: &Aimed, then: &Aimed, target: (f64, f64)) -> Vec<OutcomeValue> {
    let mut worse = Vec::new();
    let chance = |a: &Aimed| inside(&a.found.hardness.tempered, target);
    if about != About::Tempered && chance(then) < chance(now) - 0.05 {
        worse.push(then.hardness());
    }
    if about != About::Crack && then.whole.crack.probability > now.whole.crack.probability + 0.01 {
        worse.push(then.crack());
    }
    if about != About::Grain && then.whole.grain_astm < now.whole.grain_astm - 0.3 {
        worse.push(then.grain());
    }
    if about != About::Hamon
        && let Some(a) = now.whole.hamon.line()
    {
        let moved = |b: f64| (a.height_mm - b).abs() > 1.5;
        if then.whole.hamon.line().is_none_or(|b| moved(b.height_mm)) {
            worse.push(then.line());
        }
    }
    worse
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::steel::Steel;
    use crate::process::workpiece::Workpiece;
    use crate::simulation::physics::tests::{blade, plan};

    fn ask(steel: &str, json: &str, target: (f64, f64), line_mm: Option<f64>) -> Vec<Help> {
        let (plan, work) = (plan(json), Workpiece::plain(&blade()));
        let subject = Subject {
            plan: &plan,
            steel: Steel::built_in(steel).unwrap(),
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        let known = Known {
            model: &Model::default(),
            biases: &BiasModels::default(),
            target,
            line_mm,
        };
        help(subject, known, None).unwrap()
    }

    const WATER: &str = r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},{"kind":"quench","stages":[{"medium":"water"}]},
        {"kind":"temper","temperature_c":150,"hold_s":7200,"times":2}]"#;

    #[test]
    fn a_harsh_quench_is_answered_by_a_milder_one() {
        let all = ask("1084", WATER, (64.0, 66.0), None);
        let crack: Vec<_> = all.iter().filter(|h| h.about == About::Crack).collect();
        assert!(!crack.is_empty() && crack.len() <= EACH, "{all:?}");
        assert!(matches!(crack[0].to, OutcomeValue::Crack { .. }));
        assert!(
            crack
                .iter()
                .any(|h| matches!(&h.fix, Change::Replace { at: 1, .. })),
            "{crack:?}"
        );
    }

    #[test]
    fn hardness_outside_its_window_is_answered_by_the_temper() {
        let oil = WATER.replace("water", "fast_oil");
        let all = ask("1084", &oil, (59.0, 61.0), None);
        let best = all.iter().find(|h| h.about == About::Tempered).unwrap();
        assert!(matches!(&best.fix, Change::Set { step: 2, .. }), "{best:?}");
        assert!(!best.from.looks_like(best.to), "{best:?}");
    }

    #[test]
    fn a_wanted_line_gets_its_seconds_in_water() {
        let json = WATER.replace("815", "795").replace("water", "fast_oil");
        let all = ask("w2", &json, (60.0, 66.0), Some(25.0));
        let mut lines = all.iter().filter(|h| h.about == About::Hamon);
        assert!(
            lines.any(
                |h| matches!(&h.fix, Change::Replace { with: Step::Quench { stages }, .. }
                if stages[0].medium == Medium::Water)
            ),
            "{all:?}"
        );
    }

    #[test]
    fn what_is_inside_its_window_is_left_alone() {
        let oil = WATER.replace("water", "fast_oil").replace("150", "205");
        let all = ask("1084", &oil, (58.0, 65.0), None);
        assert!(
            all.iter()
                .all(|h| !matches!(h.about, About::Tempered | About::Hamon)),
            "{all:?}"
        );
    }
}
