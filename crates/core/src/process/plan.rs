//! The plan of a heat treatment: typed steps in order, checked once at the edge and trusted after.

use crate::material::steel::Steel;
use crate::process::calibration::Corrections;
use crate::process::furnace::Furnace;
use crate::process::sighting::{Sighting, Sign};
use crate::process::step::Step;
use crate::process::step_draft::StepDraft;
use crate::process::temper_colour::TemperSighting;
use crate::quantity::units::{Celsius, Quantity, Seconds};
use crate::quantity::validation::{Checker, Faults};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use uuid::Uuid;

/// A torch holds its heat about this long, s.
pub const TORCH_S: f64 = 30.0;

/// Most steps in a plan.
pub const MAX_STEPS: usize = 40;

/// The stations a plan will use, when the shop has said so.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stations {
    /// Forge or kiln for the hardening heat.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kiln: Option<Uuid>,
    /// Tempering oven.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub oven: Option<Uuid>,
    /// The eye that judges heats.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub eye: Option<Uuid>,
}

/// How far a heat is from what is planned: what stays the same from heat to heat, and what does not.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct HeatDoubt {
    /// The kiln, or the eye, that it is judged by, where known.
    pub known_by: Option<Uuid>,
    /// What it is off each time, one standard deviation, °C.
    pub lasting_c: f64,
    /// What it is off once, one standard deviation, °C.
    pub once_c: f64,
}

impl HeatDoubt {
    /// Both together, one standard deviation, °C.
    #[must_use]
    pub fn spread_c(&self) -> f64 {
        self.lasting_c.hypot(self.once_c)
    }
}

/// How far an instrument that was never checked is off, one standard deviation, °C.
pub const KILN_C: f64 = 7.0;

/// A plan that was checked: it has a quench, each quench follows a heat, every number is in range.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[serde(transparent)]
pub struct Plan {
    steps: Vec<Step>,
    /// The steps at real temperatures, where a station that shows others was checked.
    #[serde(skip)]
    real: Option<Vec<Step>>,
    #[serde(skip)]
    corrections: Arc<Corrections>,
    /// How long it really lay hard and untempered, where that was lived.
    #[serde(skip)]
    untempered_s: Option<Seconds>,
}

impl Plan {
    /// Checks drafts and builds the plan. `normalize` with `times` becomes that many steps.
    ///
    /// # Errors
    /// Every fault of every step, fields as `steps[2].temperature_c`; no quench; a quench without an
    /// austenitize before it; too many steps.
    ///
    /// ```
    /// use vatten_core::process::plan::Plan;
    /// let drafts = serde_json::from_str::<Vec<_>>(
    ///     r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
    ///         {"kind":"quench","stages":[{"medium":"fast_oil"}]}]"#,
    /// );
    /// let plan = Plan::parse(&drafts.unwrap()).unwrap();
    /// assert_eq!(plan.last_quench(), Some(1));
    /// assert_eq!(Plan::parse(&[]).unwrap_err().0[0].field, "steps");
    /// ```
    pub fn parse(drafts: &[StepDraft]) -> Result<Self, Faults> {
        let mut checker = Checker::default();
        let mut steps = Vec::with_capacity(drafts.len());
        for (i, draft) in drafts.iter().enumerate().take(MAX_STEPS) {
            let field = format!("steps[{i}]");
            let parsed = draft.parse().map_err(|f| f.under(&field));
            steps.extend(checker.take(parsed).into_iter().flatten());
        }
        if drafts.len() > MAX_STEPS || steps.len() > MAX_STEPS {
            checker.refuse_allowing(
                "steps",
                "There are more steps than a plan can hold.",
                format!("1 to {MAX_STEPS} steps"),
            );
        }
        match drafts.iter().position(|d| matches!(d, StepDraft::Quench(_))) {
            None => checker.refuse(
                "steps",
                "The plan has no quench, so nothing would harden. Add a quench after the austenitize.",
            ),
            Some(first) => {
                if !drafts[..first].iter().any(|d| matches!(d, StepDraft::Austenitize(_))) {
                    checker.refuse(
                        format!("steps[{first}]"),
                        "There is no austenitize before this quench. Add one before it.",
                    );
                }
            }
        }
        checker.finish(Some(Self::stored(steps)))
    }

    /// Rebuilds a plan that was stored; trusts that it was checked then.
    #[must_use]
    pub fn stored(steps: Vec<Step>) -> Self {
        Self {
            steps,
            real: None,
            corrections: Arc::default(),
            untempered_s: None,
        }
    }

    /// A plan as it was really done, with how long it lay hard before its first temper, where that was lived.
    #[must_use]
    pub fn done(steps: Vec<Step>, untempered_s: Option<Seconds>) -> Self {
        Self {
            untempered_s,
            ..Self::stored(steps)
        }
    }

    /// How long it really lay hard and untempered, where that was lived.
    #[must_use]
    pub const fn untempered(&self) -> Option<Seconds> {
        self.untempered_s
    }

    /// The plan with what is known of the stations it names: physics goes by real temperatures.
    #[must_use]
    pub fn with_corrections(mut self, corrections: Arc<Corrections>) -> Self {
        self.corrections = corrections;
        self.correct()
    }

    /// Other steps with the same stations known.
    #[must_use]
    pub fn with_steps(&self, steps: Vec<Step>) -> Self {
        Self {
            untempered_s: self.untempered_s,
            ..Self::stored(steps)
        }
        .with_corrections(Arc::clone(&self.corrections))
    }

    fn correct(mut self) -> Self {
        let known = &self.corrections;
        let mut real = self.steps.clone();
        for step in &mut real {
            if let Some((Some(by), temperature_c)) = step.judged() {
                if by.sign.is_by_colour() {
                    let offset = known.eye(by.eye_id).offset_c;
                    *temperature_c = Celsius::clamped(temperature_c.value() + offset);
                }
            } else if let Step::Quench { stages } = step {
                for stage in stages {
                    known.tanks().fill(stage);
                }
            } else if step.temper_sighting().is_some() {
                // Its colour says what it really was.
            } else if let Step::Austenitize {
                temperature_c,
                station_id,
                ..
            }
            | Step::Temper {
                temperature_c,
                station_id,
                ..
            } = step
            {
                let really = known.really(*station_id, temperature_c.value());
                *temperature_c = Celsius::clamped(really);
            }
        }
        self.real = (real != self.steps).then_some(real);
        self
    }

    /// The plan for a steel: what is judged by eye or magnet is as hot as that usually means for it.
    #[must_use]
    pub fn judged_on(mut self, steel: &Steel) -> Self {
        for step in &mut self.steps {
            if let Some((Some(by), temperature_c)) = step.judged() {
                *temperature_c = by.usual(steel);
            }
            match step {
                Step::Temper {
                    by: Some(by),
                    temperature_c,
                    hold_s,
                    ..
                } => *temperature_c = by.colour.usual(steel, *hold_s),
                Step::TorchTemper {
                    by: Some(by),
                    temperature_c,
                    ..
                } => *temperature_c = by.colour.usual(steel, Seconds::clamped(TORCH_S)),
                _ => {}
            }
        }
        self.correct()
    }

    /// How far the hardening heat is from what is planned, in a fire of this kind.
    #[must_use]
    pub fn heat_doubt(&self, usual_fire: Furnace) -> HeatDoubt {
        let heat = self.steps.iter().rev().find_map(|s| match s {
            Step::Austenitize {
                temperature_c,
                station_id,
                by,
                ..
            } => Some((temperature_c.value(), *station_id, *by)),
            _ => None,
        });
        let Some((shown_c, station, by)) = heat else {
            return HeatDoubt::default();
        };
        let known = &self.corrections;
        match by.map(|by| (by.sign, by.eye_id)) {
            None => HeatDoubt {
                known_by: station,
                lasting_c: KILN_C * known.left_unknown(station, shown_c),
                once_c: usual_fire.scatter_c(),
            },
            Some((Sign::Colour { colour, light }, eye_id)) => {
                let eye = known.eye(eye_id);
                HeatDoubt {
                    known_by: eye_id,
                    lasting_c: eye.doubt_c,
                    once_c: eye.sees(colour, light).1,
                }
            }
            Some((sign, _)) => HeatDoubt {
                known_by: None,
                lasting_c: 0.0,
                once_c: sign.deviation_c(),
            },
        }
    }

    /// An eye or a magnet judges its hardening heat.
    #[must_use]
    pub fn is_judged_by_eye(&self) -> bool {
        self.sighting().is_some()
    }

    /// The colour that its last temper in an oven is judged by, where not by an instrument.
    #[must_use]
    pub fn temper_sighting(&self) -> Option<TemperSighting> {
        let mut steps = self.steps.iter().rev();
        steps
            .find(|s| matches!(s, Step::Temper { .. }))?
            .temper_sighting()
    }

    /// How its last hardening heat is judged, where not by an instrument.
    #[must_use]
    pub fn sighting(&self) -> Option<Sighting> {
        let mut steps = self.steps.iter().rev();
        steps
            .find(|s| matches!(s, Step::Austenitize { .. }))?
            .sighting()
    }

    /// The kind of fire that its last hardening heat names.
    #[must_use]
    pub fn fire(&self) -> Option<Furnace> {
        self.steps.iter().rev().find_map(|s| match s {
            Step::Austenitize { fire, .. } => Some(*fire),
            _ => None,
        })?
    }

    /// The steps at real temperatures, as far as the stations were checked.
    #[must_use]
    pub fn real_steps(&self) -> &[Step] {
        self.real.as_deref().unwrap_or(&self.steps)
    }

    /// What is known of the stations.
    #[must_use]
    pub fn corrections(&self) -> &Corrections {
        &self.corrections
    }

    /// The plan with `at` in every step that names no station of its own.
    #[must_use]
    pub fn with_stations(mut self, at: Stations) -> Self {
        for step in &mut self.steps {
            if let Some((Some(by), _)) = step.judged() {
                by.eye_id = by.eye_id.or(at.eye);
            }
            match step {
                Step::Austenitize { station_id, .. } => *station_id = station_id.or(at.kiln),
                Step::Temper { station_id, .. } => *station_id = station_id.or(at.oven),
                _ => {}
            }
        }
        self.correct()
    }

    /// The plan with every temper after the last quench at a temperature.
    #[must_use]
    pub fn tempered_at(mut self, t: Celsius) -> Self {
        let after = self.last_quench().map_or(0, |q| q + 1);
        for step in &mut self.steps[after..] {
            if matches!(step, Step::Temper { .. }) {
                step.set_temperature(0, t);
            }
        }
        self.correct()
    }

    /// The steps in order.
    #[must_use]
    pub fn steps(&self) -> &[Step] {
        &self.steps
    }

    /// A step lays clay on before the last quench.
    #[must_use]
    pub fn lays_clay(&self) -> bool {
        let until = self.last_quench().unwrap_or(self.steps.len());
        self.steps[..until]
            .iter()
            .any(|s| matches!(s, Step::Clay { .. }))
    }

    /// Position of the last quench, the one that counts.
    #[must_use]
    pub fn last_quench(&self) -> Option<usize> {
        self.steps
            .iter()
            .rposition(|s| matches!(s, Step::Quench { .. }))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::process::step::{StepKind, Unreadable, read_steps};
    use rstest::rstest;

    fn drafts(json: &str) -> Vec<StepDraft> {
        serde_json::from_str(json).unwrap()
    }

    const GOOD: &str = r#"[
        {"kind":"normalize","temperature_c":870,"times":3},
        {"kind":"austenitize","temperature_c":815,"soak_s":300},
        {"kind":"quench","stages":[{"medium":"water","bath_c":25,"for_s":2},{"medium":"fast_oil"}]},
        {"kind":"sub_zero","temperature_c":-75,"hold_s":7200},
        {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#;

    #[test]
    fn a_good_plan_is_read_and_survives_storage() {
        let plan = Plan::parse(&drafts(GOOD)).unwrap();
        assert_eq!(plan.steps().len(), 7);
        assert_eq!(plan.last_quench(), Some(4));
        let json = serde_json::to_string(&plan).unwrap();
        let steps: Vec<Step> = serde_json::from_str(&json).unwrap();
        assert_eq!(Plan::stored(steps), plan);
    }

    #[rstest]
    #[case(r#"[{"kind":"temper","temperature_c":205,"hold_s":7200}]"#, "steps")]
    #[case("[]", "steps")]
    #[case(r#"[{"kind":"quench","stages":[{"medium":"water"}]}]"#, "steps[0]")]
    #[case(r#"[{"kind":"austenitize","temperature_c":1400,"soak_s":1},{"kind":"quench","stages":[{"medium":"water"}]}]"#, "steps[0].temperature_c")]
    #[case(r#"[{"kind":"austenitize","temperature_c":815},{"kind":"quench","stages":[{"medium":"water"}]}]"#, "steps[0].soak_s")]
    #[case(r#"[{"kind":"austenitize","temperature_c":815,"soak_s":1},{"kind":"quench","stages":[{"medium":"treacle"}]}]"#, "steps[1].stages[0].medium")]
    #[case(
        r#"[{"kind":"austenitize","temperature_c":815,"soak_s":1},{"kind":"quench","stages":[]}]"#,
        "steps[1].stages"
    )]
    #[case(r#"[{"kind":"austenitize","temperature_c":815,"soak_s":1},{"kind":"quench","stages":[{"medium":"water"},{"medium":"fast_oil"}]}]"#, "steps[1].stages[0].for_s")]
    #[case(r#"[{"kind":"austenitize","temperature_c":815,"soak_s":1},{"kind":"quench","stages":[{"medium":"water","for_s":0},{"medium":"fast_oil"}]}]"#, "steps[1].stages[0].for_s")]
    #[case(r#"[{"kind":"austenitize","temperature_c":815,"soak_s":1},{"kind":"quench","stages":[{"medium":"water","bath_c":120}]}]"#, "steps[1].stages[0].bath_c")]
    #[case(r#"[{"kind":"austenitize","temperature_c":815,"soak_s":1},{"kind":"quench","stages":[{"medium":"water"}]},{"kind":"temper","temperature_c":200,"hold_s":7200,"times":99}]"#, "steps[2].times")]
    fn refused_by_field(#[case] json: &str, #[case] field: &str) {
        let faults = Plan::parse(&drafts(json)).unwrap_err();
        assert_eq!(faults.0[0].field, field, "{faults}");
        assert_eq!(faults.0.len(), 1, "{faults}");
    }

    #[test]
    fn every_kind_of_step_is_read_and_reads_back() {
        let all = drafts(
            r#"[{"kind":"anneal","temperature_c":740,"hold_s":3600},{"kind":"stress_relief","temperature_c":650,"hold_s":3600},
                {"kind":"normalize","temperature_c":860},{"kind":"refine","temperature_c":790},{"kind":"coat"},{"kind":"pouch"},
                {"kind":"clay","temperature_c":200,"hold_s":3600},{"kind":"preheat","temperature_c":550,"hold_s":600},
                {"kind":"austenitize","temperature_c":800,"soak_s":300},{"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"straighten"},{"kind":"cool","temperature_c":50},{"kind":"sub_zero","temperature_c":-75,"hold_s":7200},
                {"kind":"temper","temperature_c":200,"hold_s":7200},{"kind":"torch_temper","temperature_c":400,"part":"spine"},
                {"kind":"stamp"},{"kind":"check","look":"straight"}]"#,
        );
        let plan = Plan::parse(&all).unwrap();
        let kinds: Vec<StepKind> = plan.steps().iter().map(Step::kind).collect();
        assert_eq!(kinds, StepKind::ALL);
        let text = serde_json::to_string(plan.steps()).unwrap();
        assert_eq!(
            serde_json::from_str::<Vec<Step>>(&text).unwrap(),
            plan.steps()
        );
        let again: Vec<StepDraft> = serde_json::from_str(&text).unwrap();
        assert_eq!(Plan::parse(&again).unwrap(), plan);
    }

    #[test]
    fn older_forms_are_read_and_unknown_ones_told() {
        let steps = |json: &str| serde_json::from_str::<Vec<serde_json::Value>>(json).unwrap();
        let old = steps(r#"[{"kind":"austenitize","temperature_c":800.0,"soak_s":300.0}]"#);
        assert_eq!(read_steps(1, old.clone()).unwrap().len(), 1);
        assert!(matches!(
            read_steps(9, old.clone()),
            Err(Unreadable::Format { format: 9, .. })
        ));
        assert!(read_steps(0, old).is_err());
        let odd = steps(r#"[{"kind":"coat"},{"kind":"hum"}]"#);
        assert!(matches!(
            read_steps(2, odd),
            Err(Unreadable::Step { number: 2, .. })
        ));
    }

    #[test]
    fn every_bad_step_is_named_at_once() {
        let faults = Plan::parse(&drafts(
            r#"[{"kind":"austenitize","temperature_c":1400,"soak_s":-1},{"kind":"quench","stages":[{"medium":"mud"}]},
                {"kind":"temper","temperature_c":-300,"hold_s":0}]"#,
        ))
        .unwrap_err();
        let fields: Vec<&str> = faults.0.iter().map(|f| f.field.as_str()).collect();
        assert_eq!(
            fields,
            [
                "steps[0].temperature_c",
                "steps[0].soak_s",
                "steps[1].stages[0].medium",
                "steps[2].temperature_c",
                "steps[2].hold_s"
            ]
        );
    }

    #[test]
    fn a_temper_by_colour_is_as_hot_as_its_colour_means_and_no_oven_corrects_it() {
        let by = r#"{"colour":"dark_straw","light":"daylight"}"#;
        let plan = Plan::parse(&drafts(&format!(
            r#"[{{"kind":"austenitize","temperature_c":815,"soak_s":300}},{{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}},
                {{"kind":"temper","by":{by},"hold_s":300}},{{"kind":"torch_temper","by":{by},"part":"spine"}}]"#
        )))
        .unwrap()
        .judged_on(Steel::built_in("1084").unwrap());
        let heat = |plan: &Plan, i: usize| match plan.real_steps()[i] {
            Step::Temper { temperature_c, .. } | Step::TorchTemper { temperature_c, .. } => {
                temperature_c.value()
            }
            _ => panic!(),
        };
        // Five minutes in an oven are those of the charts; half a minute under a torch takes more.
        assert!((heat(&plan, 2) - 235.0).abs() < 3.0);
        assert!(heat(&plan, 3) > heat(&plan, 2) + 15.0);
        // A temper in degrees is by an instrument.
        let set = plan.clone().tempered_at(Celsius::clamped(190.0));
        assert_eq!((heat(&set, 2), set.temper_sighting()), (190.0, None));
        let change = crate::process::change::Change::set(
            plan.steps(),
            2,
            crate::process::change::StepField::TemperatureC,
            210.0,
        );
        assert_eq!(change.applied(plan.steps())[2].temper_sighting(), None);
    }

    #[test]
    fn too_many_steps_are_refused() {
        let mut many = drafts(GOOD);
        many.extend(vec![many[4].clone(); 60]);
        assert!(Plan::parse(&many).is_err());
    }
}
