//! What a plan risks, in a sentence, and the single change that would help.

use crate::hardness::retained_austenite_percent;
use crate::physics::{Physics, Verdict};
use crate::plan::{Plan, Stage, Step};
use crate::steel::{Hardening, Steel, SubZero};
use crate::units::{Celsius, Quantity, Seconds};
use crate::work::Work;
use serde::{Deserialize, Serialize};

/// A change to a plan, small enough to be applied with one press.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "change", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Change {
    /// Give a field of a step another value.
    Set {
        /// Position of the step.
        step: usize,
        /// Field, as in the API.
        field: String,
        /// New value, in the field's unit.
        value: f64,
    },
    /// Put a new step in.
    Insert {
        /// Position it takes.
        at: usize,
        /// The step.
        step: Step,
    },
    /// Put another step in the place of one.
    Replace {
        /// Its position.
        at: usize,
        /// The step.
        with: Step,
    },
    /// Take a step out.
    Remove {
        /// Position of the step.
        step: usize,
    },
}

/// A way out of a warning.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fix {
    /// What the button says.
    pub label: String,
    /// What it does.
    pub change: Change,
}

/// One thing to know before the fire.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Warning {
    /// Stable name of the kind of warning.
    pub code: String,
    /// The step it belongs to; None for the blade or the plan as a whole.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub step: Option<usize>,
    /// The sentence.
    pub text: String,
    /// A change that would help, where there is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fix: Option<Fix>,
}

struct Warnings<'a> {
    steel: &'a Steel,
    found: Vec<Warning>,
}

impl Warnings<'_> {
    fn say(&mut self, code: &str, step: Option<usize>, text: String, fix: Option<Fix>) {
        self.found.push(Warning {
            code: code.to_owned(),
            step,
            text,
            fix,
        });
    }

    fn set(step: usize, field: &str, value: f64, label: String) -> Option<Fix> {
        Some(Fix {
            label,
            change: Change::Set {
                step,
                field: field.to_owned(),
                value,
            },
        })
    }

    fn to_temperature(step: usize, t: Celsius) -> Option<Fix> {
        let value = t.value().round();
        Self::set(step, "temperature_c", value, format!("Set {value} °C"))
    }

    fn heat(&mut self, i: usize, t: f64, soak_s: f64, physics: &Physics) {
        let steel = self.steel;
        let window = steel.austenitize;
        let nominal = || Self::to_temperature(i, window.nominal);
        if t < steel.ac1_c {
            let text = format!(
                "{t:.0} °C is below Ac1 ({:.0} °C) of {}: nothing becomes austenite, so nothing hardens.",
                steel.ac1_c, steel.name
            );
            self.say("below_ac1", Some(i), text, nominal());
        } else if t > steel.coarsening_c {
            let text = format!(
                "{t:.0} °C is above {:.0} °C, where grain of {} coarsens within ten minutes.",
                steel.coarsening_c, steel.name
            );
            self.say(
                "coarse_grain",
                Some(i),
                text,
                Self::to_temperature(i, window.high),
            );
        } else if t < window.low.value() || t > window.high.value() {
            let text = format!(
                "{t:.0} °C is outside {:.0} to {:.0} °C, the usual window of {}.",
                window.low.value(),
                window.high.value(),
                steel.name
            );
            self.say("outside_window", Some(i), text, nominal());
        }
        if t >= steel.ac1_c && physics.dissolved.progress < 0.85 {
            let tau = physics
                .structure
                .time_constant_s(t - window.nominal.value());
            let minutes = (tau * 2.5 / 60.0).ceil();
            let text = format!(
                "{:.0} min dissolves only {:.0} % of the carbon this heat can hold. {minutes} min takes most of it.",
                soak_s / 60.0,
                100.0 * physics.dissolved.progress
            );
            self.say(
                "short_soak",
                Some(i),
                text,
                Self::set(i, "soak_s", minutes * 60.0, format!("Set {minutes} min")),
            );
        }
    }

    fn temper(&mut self, i: usize, t: f64) {
        let steel = self.steel;
        if steel.is_stainless() {
            if t > 425.0 {
                let text = format!("Above 425 °C {} loses its stainlessness.", steel.name);
                self.say("stainless_too_hot", Some(i), text, None);
            }
        } else if (260.0..=370.0).contains(&t) && steel.hardening != Hardening::Air {
            let text =
                "260 to 370 °C is the brittle range: martensite tempered there snaps sooner than it is soft."
                    .to_owned();
            let fix = if t < 315.0 { 255.0 } else { 375.0 };
            self.say(
                "brittle_temper",
                Some(i),
                text,
                Self::to_temperature(i, Celsius::clamped(fix)),
            );
        }
    }
}

/// Sub-zero later than this after the quench loses what it should gain, s.
const LATE_COLD_S: f64 = 3600.0;
/// Clay dries in this, s.
const DRY_S: f64 = 3600.0;

fn take_out(step: usize) -> Option<Fix> {
    Some(Fix {
        label: "Take it out".to_owned(),
        change: Change::Remove { step },
    })
}

impl Warnings<'_> {
    /// What surrounds the heats: clay, pouch, straightening, cooling, cold, torch.
    fn around(
        &mut self,
        steps: &[Step],
        quench: usize,
        heat: Option<usize>,
        work: &Work,
        physics: &Physics,
    ) {
        let clayed = steps.iter().position(|s| matches!(s, Step::Clay { .. }));
        if let (None, true, Some(heat)) = (clayed, work.unlaid, heat) {
            let step = Step::Clay {
                temperature_c: Celsius::clamped(200.0),
                hold_s: Seconds::clamped(DRY_S),
            };
            let fix = Fix {
                label: "Add clay and dry".to_owned(),
                change: Change::Insert { at: heat, step },
            };
            let text = "Clay is painted for this blade, but no step lays it on and dries it: it is predicted bare.";
            self.say("clay_not_planned", Some(heat), text.to_owned(), Some(fix));
        }
        let tempered = |i: usize| {
            steps[quench..i]
                .iter()
                .any(|s| matches!(s, Step::Temper { .. }))
        };
        for (i, step) in steps.iter().enumerate() {
            match step {
                Step::Clay { hold_s, .. } => {
                    if work.clay.is_bare() {
                        let text = "No clay is laid out yet: paint it under Clay, or the line is computed bare.";
                        self.say("clay_not_painted", Some(i), text.to_owned(), take_out(i));
                    } else if hold_s.value() < DRY_S {
                        let text = "Clay wants an hour at 200 °C or a night in the air; steam under it throws it off.";
                        let fix = Self::set(i, "hold_s", DRY_S, "Dry 1 h".to_owned());
                        self.say("clay_wet", Some(i), text.to_owned(), fix);
                    }
                }
                Step::Pouch {} if i < quench => {
                    if let Some(Step::Quench { stages }) = steps.get(quench)
                        && stages.first().is_some_and(|s| s.medium.is_liquid())
                    {
                        let text = "A pouch keeps the bath off the blade: cut it open on the way, or quench between plates.";
                        self.say("pouch_in_bath", Some(i), text.to_owned(), None);
                    }
                }
                Step::Straighten {} if i > quench && !tempered(i) => {
                    let cold = steps[quench..i]
                        .iter()
                        .any(|s| matches!(s, Step::Cool { .. } | Step::SubZero { .. }));
                    if cold {
                        let text = "Cold and untempered it snaps before it bends: straighten on the way down, or clamped in the temper.";
                        self.say("cold_straighten", Some(i), text.to_owned(), take_out(i));
                    }
                }
                Step::Cool { temperature_c, .. } if i > quench && !tempered(i) => {
                    let ms = physics.dissolved.martensite_start_c;
                    let left = retained_austenite_percent(ms, temperature_c.value());
                    let room = retained_austenite_percent(ms, 20.0);
                    if left > room + 3.0 {
                        let text = format!(
                            "At {:.0} °C {left:.0} % austenite is left, at room temperature {room:.0} %. Tempering from warm is safer from cracks, and leaves it softer.",
                            temperature_c.value()
                        );
                        let fix = Self::to_temperature(i, Celsius::clamped(20.0));
                        self.say("tempered_warm", Some(i), text, fix);
                    }
                }
                Step::SubZero { wait_s, .. } if i > quench && wait_s.value() > LATE_COLD_S => {
                    let text = format!(
                        "After {:.0} h the austenite has settled: sub-zero gains {:.0} % less than straight after the quench.",
                        wait_s.hours(),
                        100.0 * (1.0 - 0.5_f64.powf(wait_s.hours() / 24.0))
                    );
                    let fix = Self::set(i, "wait_s", 0.0, "At once".to_owned());
                    self.say("waiting_for_cold", Some(i), text, fix);
                }
                Step::TorchTemper { .. } if i > quench && !tempered(i) => {
                    let text = "A torch on an untempered blade cracks it: temper first.";
                    self.say("torch_untempered", Some(i), text.to_owned(), None);
                }
                _ => {}
            }
        }
    }
}

/// Everything to warn of in `plan`.
#[must_use]
pub fn warnings(
    plan: &Plan,
    steel: &Steel,
    work: &Work,
    physics: &Physics,
    reach_mm: f64,
) -> Vec<Warning> {
    let blade = work.blade();
    let mut w = Warnings {
        steel,
        found: Vec::new(),
    };
    let steps = plan.steps();
    let quench = plan.last_quench().unwrap_or(0);
    let hardening_heat = steps[..quench]
        .iter()
        .rposition(|s| matches!(s, Step::Austenitize { .. }));
    if steel.hardening == Hardening::NotHardenable {
        let text = format!("{} has too little carbon for an edge.", steel.name);
        w.say("not_hardenable", None, text, None);
    }
    if blade.edge_mm < 0.5 {
        let text = format!(
            "The edge is {:.2} mm: thin for a bare kiln. It can burn, ripple or lose its carbon; 0.5 mm or more is safer.",
            blade.edge_mm
        );
        w.say("thin_edge", None, text, None);
    }
    let mut last_normalize: Option<f64> = None;
    for (i, step) in steps.iter().enumerate() {
        match step {
            Step::Normalize { temperature_c, .. } => {
                let t = temperature_c.value();
                if steel.normalize.is_none() {
                    let text = format!(
                        "{} hardens in air; normalizing leaves it hard and strained.",
                        steel.name
                    );
                    w.say(
                        "no_normalize",
                        Some(i),
                        text,
                        Some(Fix {
                            label: "Take it out".to_owned(),
                            change: Change::Remove { step: i },
                        }),
                    );
                } else if let Some(before) = last_normalize.filter(|b| t > *b) {
                    let text = format!(
                        "This normalizing heat is {:.0} °C hotter than the one before; falling heats leave finer grain.",
                        t - before
                    );
                    w.say(
                        "rising_heats",
                        Some(i),
                        text,
                        Warnings::to_temperature(i, Celsius::clamped(before - 15.0)),
                    );
                }
                last_normalize = Some(t);
            }
            Step::Austenitize {
                temperature_c,
                soak_s,
                ..
            } if Some(i) == hardening_heat => {
                w.heat(i, temperature_c.value(), soak_s.value(), physics);
            }
            Step::Quench { stages } if i == quench => {
                let first = stages.first().map(|s| s.medium);
                if first.is_some_and(|m| m.is_water())
                    && matches!(steel.hardening, Hardening::Oil | Hardening::Air)
                    && !steel.media.iter().any(|m| m.is_water())
                    && !steel.water_then_oil
                {
                    let text = format!(
                        "{} is no water steel: in water it is likely to crack.",
                        steel.name
                    );
                    w.say("water_on_oil_steel", Some(i), text, None);
                }
                if let Some(Stage {
                    for_s: Some(time), ..
                }) = stages.last()
                {
                    let text = format!(
                        "After {:.0} s in the last bath it comes out into still air, and is predicted so. Leave the time off to keep it in until it is cold.",
                        time.value()
                    );
                    w.say("out_into_air", Some(i), text, None);
                }
            }
            Step::SubZero { .. }
                if i > quench
                    && steps[quench..i]
                        .iter()
                        .any(|s| matches!(s, Step::Temper { .. })) =>
            {
                let text = "Sub-zero after a temper gains little: the austenite has settled.";
                w.say("late_sub_zero", Some(i), text.to_owned(), None);
            }
            Step::Temper { temperature_c, .. } if i > quench => w.temper(i, temperature_c.value()),
            _ => {}
        }
    }
    w.around(steps, quench, hardening_heat, work, physics);
    // Bare it would harden: what is soft is soft under the clay.
    let by_clay = !work.clay.is_bare() && reach_mm > blade.spine_mm;
    match physics.verdict {
        Verdict::SpineStaysSoft if by_clay => {}
        Verdict::TooThick if by_clay => {
            let text = "Under this clay it stays soft where hardness is read: begin it higher, or lay it on thinner.";
            w.say("clay_too_low", Some(quench), text.to_owned(), None);
        }
        Verdict::SpineStaysSoft => {
            let text = format!(
                "The edge hardens; the spine ({:.1} mm) is too thick for this quench, which reaches about {:.1} mm.",
                blade.spine_mm, reach_mm
            );
            w.say("spine_stays_soft", Some(quench), text, None);
        }
        Verdict::TooThick => {
            let text = format!(
                "This section is too thick for this quench: it reaches about {:.1} mm in {}. Expect a soft blade.",
                reach_mm, steel.name
            );
            w.say("too_thick", Some(quench), text, None);
        }
        Verdict::HardensThrough | Verdict::NeverHot => {}
    }
    let after = &steps[(quench + 1).min(steps.len())..];
    if !after.iter().any(|s| matches!(s, Step::Temper { .. })) {
        let temper = Step::Temper {
            temperature_c: Celsius::clamped(205.0),
            hold_s: Seconds::clamped(7200.0),
            times: 2,
            station_id: None,
        };
        w.say(
            "no_temper",
            None,
            "There is no temper after the quench: the blade stays as brittle as glass.".to_owned(),
            Some(Fix {
                label: "Add 2 × 2 h at 205 °C".to_owned(),
                change: Change::Insert {
                    at: steps.len(),
                    step: temper,
                },
            }),
        );
    }
    if steel.sub_zero == SubZero::Yes
        && physics.retained_percent > 10.0
        && !after.iter().any(|s| matches!(s, Step::SubZero { .. }))
    {
        let text = format!(
            "{:.0} % austenite is left over; sub-zero straight after the quench turns most of it.",
            physics.retained_percent
        );
        let step = Step::SubZero {
            temperature_c: Celsius::clamped(-75.0),
            hold_s: Seconds::clamped(7200.0),
            wait_s: Seconds::clamped(0.0),
        };
        w.say(
            "wants_sub_zero",
            Some(quench),
            text,
            Some(Fix {
                label: "Add −75 °C".to_owned(),
                change: Change::Insert {
                    at: quench + 1,
                    step,
                },
            }),
        );
    }
    w.found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::blade::Blade;
    use crate::physics::{
        Shift, physics,
        tests::{blade, plan},
    };
    use rstest::rstest;

    fn codes(steel: &str, json: &str, edge_mm: f64) -> Vec<String> {
        let (plan, steel) = (plan(json), Steel::built_in(steel).unwrap());
        let blade = Blade { edge_mm, ..blade() };
        let physics = physics(&plan, steel, &blade, Shift::default());
        warnings(&plan, steel, &Work::plain(&blade), &physics, 4.0)
            .into_iter()
            .map(|w| w.code)
            .collect()
    }

    const OIL: &str = r#"{"kind":"quench","stages":[{"medium":"fast_oil"}]}"#;
    const WATER: &str = r#"{"kind":"quench","stages":[{"medium":"water"}]}"#;
    const SOFT: &str = r#"{"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}"#;

    fn heat(t: u32, s: u32) -> String {
        format!(r#"{{"kind":"austenitize","temperature_c":{t},"soak_s":{s}}}"#)
    }

    #[rstest]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(815, 300)), 0.8, &[])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(815, 300)), 0.3, &["thin_edge"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(700, 300)), 0.8, &["below_ac1"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(900, 300)), 0.8, &["coarse_grain"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(850, 300)), 0.8, &["outside_window"])]
    #[case("1084", format!("[{},{OIL},{SOFT}]", heat(815, 80)), 0.8, &["short_soak"])]
    #[case("1084", format!("[{},{OIL}]", heat(815, 300)), 0.8, &["no_temper"])]
    #[case("o1", format!("[{},{WATER},{SOFT}]", heat(800, 720)), 0.8, &["water_on_oil_steel"])]
    #[case("1084", format!(r#"[{{"kind":"normalize","temperature_c":815}},{{"kind":"normalize","temperature_c":870}},{},{OIL},{SOFT}]"#, heat(815, 300)), 0.8, &["rising_heats"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"temper","temperature_c":300,"hold_s":7200}}]"#, heat(815, 300)), 0.8, &["brittle_temper"])]
    #[case("1084", format!(r#"[{{"kind":"clay","temperature_c":200,"hold_s":3600}},{},{OIL},{SOFT}]"#, heat(815, 300)), 0.8, &["clay_not_painted"])]
    #[case("1084", format!(r#"[{{"kind":"pouch"}},{},{OIL},{SOFT}]"#, heat(815, 300)), 0.8, &["pouch_in_bath"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"straighten"}},{SOFT}]"#, heat(815, 300)), 0.8, &[])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"cool","temperature_c":20}},{{"kind":"straighten"}},{SOFT}]"#, heat(815, 300)), 0.8, &["cold_straighten"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"cool","temperature_c":90}},{SOFT}]"#, heat(815, 300)), 0.8, &["tempered_warm"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"sub_zero","temperature_c":-75,"hold_s":7200,"wait_s":86400}},{SOFT}]"#, heat(815, 300)), 0.8, &["waiting_for_cold"])]
    #[case("1084", format!(r#"[{},{OIL},{{"kind":"torch_temper","temperature_c":400,"part":"tang"}},{SOFT}]"#, heat(815, 300)), 0.8, &["torch_untempered"])]
    #[case("1018", format!("[{},{WATER},{SOFT}]", heat(880, 300)), 0.8, &["not_hardenable", "too_thick"])]
    fn each_thing_is_said_once(
        #[case] steel: &str,
        #[case] json: String,
        #[case] edge: f64,
        #[case] expected: &[&str],
    ) {
        assert_eq!(codes(steel, &json, edge), expected);
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
    fn clay_that_no_step_lays_on_is_missed_and_a_wet_one_warned_of() {
        let steel = Steel::built_in("1084").unwrap();
        let work = Work {
            clay: crate::clay::Clay::band(14.0, 2.0),
            ..Work::plain(&blade())
        };
        let bare = Work {
            unlaid: true,
            ..Work::plain(&blade())
        };
        let codes_of = |work: &Work, json: String| {
            let plan = plan(&json);
            let physics = crate::physics::physics(&plan, steel, &blade(), Shift::default());
            let found = warnings(&plan, steel, work, &physics, 10.0);
            found.iter().map(|w| w.code.clone()).collect::<Vec<_>>()
        };
        let codes = |json: String| codes_of(&work, json);
        let rest = format!("{},{OIL},{SOFT}", heat(815, 300));
        assert_eq!(codes_of(&bare, format!("[{rest}]")), ["clay_not_planned"]);
        let clay =
            |s: u32| format!(r#"[{{"kind":"clay","temperature_c":200,"hold_s":{s}}},{rest}]"#);
        let low = Work {
            clay: crate::clay::Clay::band(0.0, 10.0),
            ..Work::plain(&blade())
        };
        let dried = plan(&clay(7200));
        let section = crate::physics::section(&dried, steel, &low);
        let soft = crate::physics::of_section(&dried, steel, &section, Shift::default());
        let found = warnings(&dried, steel, &low, &soft, 10.0);
        assert_eq!(soft.verdict, Verdict::TooThick);
        let found: Vec<_> = found.iter().map(|w| w.code.as_str()).collect();
        assert_eq!(found, ["clay_too_low"]);
        assert_eq!(codes(clay(600)), ["clay_wet"]);
        assert!(codes(clay(7200)).is_empty());
    }
}
