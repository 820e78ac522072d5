//! Hardness and retained austenite of a plan by physics alone, before any record corrects them.

use crate::geometry::blade::Blade;
use crate::material::dissolution::{Dissolved, Structure};
use crate::material::hardness;
use crate::material::medium::Medium;
use crate::material::steel::Steel;
use crate::material::temper;
use crate::process::plan::Plan;
use crate::process::step::{Part, Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use crate::simulation::heat::{Heat, Section, solution};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;

/// What the quench does to this section in this medium.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Verdict {
    /// Spine and edge harden.
    HardensThrough,
    /// The edge hardens; the spine is too thick for this medium.
    SpineStaysSoft,
    /// Even the edge is too thick for this medium.
    TooThick,
    /// Nothing became austenite: it was never hot enough.
    NeverHot,
}

/// The outcome of a plan by physics.
#[derive(Debug, Clone, PartialEq)]
pub struct Physics {
    /// Hardness before tempering, where a smith reads it, HRC.
    pub as_quenched_hrc: f64,
    /// Hardness after the last temper, HRC; the as-quenched hardness when there is none.
    pub tempered_hrc: f64,
    /// Retained austenite after the coldest step, percent.
    pub retained_percent: f64,
    /// Retained austenite if no sub-zero step were done, percent.
    pub retained_without_sub_zero_percent: f64,
    /// What was in solution.
    pub dissolved: Dissolved,
    /// Structure before the hardening heat.
    pub structure: Structure,
    /// The verdict on this blade.
    pub verdict: Verdict,
    /// Share of martensite where hardness is read, 0 to 1.
    pub martensite_at_reading: f64,
    /// Share of martensite at the middle of the spine, 0 to 1.
    pub martensite_at_spine: f64,
    /// Hollomon–Jaffe parameter of all tempers together, if any.
    pub temper_parameter: Option<f64>,
    /// Hottest temper after the quench, if any.
    pub hottest_temper: Option<Celsius>,
    /// The part softened by a torch, and its hardness, HRC.
    pub torched: Option<(Part, f64)>,
}

/// Shifts of the real temperature against the set one, °C: how much hotter the kiln and the oven run.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Shift {
    /// Kiln or forge.
    pub kiln: Kelvins,
    /// Tempering oven.
    pub oven: Kelvins,
}

/// Hours of waiting that halve what sub-zero still gains.
const HALF_GAIN_HOURS: f64 = 24.0;
/// Share of the gain left when a temper came before the sub-zero step.
const GAIN_AFTER_TEMPER: f64 = 0.35;

/// The stages of the last quench; none without a quench. Where even the last one has an end the blade comes
/// out into still air.
#[must_use]
pub fn stages(plan: &Plan) -> Cow<'_, [Stage]> {
    match plan.last_quench().map(|i| &plan.steps()[i]) {
        Some(Step::Quench { stages }) => match stages.last() {
            Some(Stage { for_s: Some(_), .. }) => {
                let mut all = stages.clone();
                all.push(Stage::until_cold(Medium::StillAir));
                Cow::Owned(all)
            }
            _ => Cow::Borrowed(stages),
        },
        _ => Cow::Borrowed(&[]),
    }
}

/// Computes the outcome of `plan` on a bare `blade` of `steel`, with the real temperatures shifted by
/// `shift`.
///
/// The last quench and the austenitize before it count. The plan has both, by construction.
#[must_use]
pub fn physics(plan: &Plan, steel: &Steel, blade: &Blade, shift: Shift) -> Physics {
    let section = section(plan, steel, &Workpiece::plain(blade));
    of_section(plan, steel, &section, shift)
}

/// The section of a blade where it is read, after the last quench of `plan` at set temperatures.
#[must_use]
pub fn section(plan: &Plan, steel: &Steel, work: &Workpiece) -> Section {
    let heat = Heat::new(plan, steel, Kelvins::ZERO);
    Section::of_blade(&heat, &work.form, &work.clay, &stages(plan))
}

/// Share hardened where a blade is read, 0 to 1.
#[must_use]
pub fn hard_middle(plan: &Plan, steel: &Steel, work: &Workpiece) -> f64 {
    section(plan, steel, work).reading.hardened()
}

/// As [`physics`], of a section that was quenched already: a few degrees of the kiln change what
/// dissolves, not what hardens.
#[must_use]
pub fn of_section(plan: &Plan, steel: &Steel, section: &Section, shift: Shift) -> Physics {
    let steps = plan.real_steps();
    let quench = plan.last_quench().unwrap_or(steps.len());
    let (_, structure, dissolved) = solution(plan, steel, shift.kiln);
    let martensite_at_reading = section.reading.hardened();
    let martensite_at_spine = section.spine.hardened();
    let verdict = if dissolved.austenite < 0.05 {
        Verdict::NeverHot
    } else if martensite_at_spine >= 0.5 {
        Verdict::HardensThrough
    } else if martensite_at_reading >= 0.5 {
        Verdict::SpineStaysSoft
    } else {
        Verdict::TooThick
    };

    let ms = dissolved.martensite_start_c;
    let warm = hardness::retained_austenite_percent(ms, coolest_before_temper_c(&steps[quench..]));
    let mut retained = warm;
    let mut tempers: Vec<(Celsius, Seconds)> = Vec::new();
    for step in steps.iter().skip(quench + 1) {
        match step {
            Step::SubZero {
                temperature_c,
                wait_s,
                ..
            } => {
                let cold =
                    hardness::retained_austenite_percent(ms, temperature_c.value().min(20.0));
                let kept = 0.5f64.powf(wait_s.hours() / HALF_GAIN_HOURS)
                    * if tempers.is_empty() {
                        1.0
                    } else {
                        GAIN_AFTER_TEMPER
                    };
                retained = retained.min(warm - (warm - cold) * kept);
            }
            Step::Temper {
                temperature_c,
                hold_s,
                times,
                ..
            } => {
                let real = temperature_c.plus(shift.oven);
                tempers.extend((0..*times).map(|_| (real, *hold_s)));
            }
            _ => {}
        }
    }

    let hard_hrc = hard_hrc(steel, &dissolved, retained);
    let as_quenched_hrc = section.reading.hrc(hard_hrc);
    let temper_parameter = temper::combined(&tempers);
    let share = martensite_at_reading;
    let tempered_hrc = after_tempers(as_quenched_hrc, share, steel, temper_parameter);
    let torched = torched(&steps[quench..], &tempers, |p| {
        let spine = section.spine.hrc(hard_hrc);
        after_tempers(spine, martensite_at_spine, steel, p)
    });
    Physics {
        as_quenched_hrc,
        tempered_hrc,
        retained_percent: retained * share,
        retained_without_sub_zero_percent: warm * share,
        dissolved,
        structure,
        verdict,
        martensite_at_reading,
        martensite_at_spine,
        temper_parameter,
        hottest_temper: tempers
            .iter()
            .map(|t| t.0)
            .max_by(|a, b| a.value().total_cmp(&b.value())),
        torched,
    }
}

/// How far it cools before its first temper, °C: room temperature, or what the plan says.
fn coolest_before_temper_c(after: &[Step]) -> f64 {
    let first = after
        .iter()
        .position(|s| matches!(s, Step::Temper { .. }))
        .unwrap_or(after.len());
    after[..first]
        .iter()
        .filter_map(|s| match s {
            Step::Cool { temperature_c, .. } => Some(temperature_c.value()),
            _ => None,
        })
        .reduce(f64::min)
        .map_or(20.0, |t| t.max(-196.0))
}

/// A torch holds its heat about this long.
const TORCH_S: f64 = 30.0;

/// The part that a torch softens last, and its hardness after that and the tempers.
fn torched(
    after: &[Step],
    tempers: &[(Celsius, Seconds)],
    hardness: impl Fn(Option<f64>) -> f64,
) -> Option<(Part, f64)> {
    let (part, t) = after.iter().rev().find_map(|s| match s {
        Step::TorchTemper {
            temperature_c,
            part,
        } => Some((*part, *temperature_c)),
        _ => None,
    })?;
    let mut all = tempers.to_vec();
    all.push((t, Seconds::clamped(TORCH_S)));
    Some((part, hardness(temper::combined(&all))))
}

/// Hardness of what hardened: martensite of the dissolved carbon, less what the retained austenite
/// (percent) costs, HRC.
#[must_use]
pub fn hard_hrc(steel: &Steel, dissolved: &Dissolved, retained_percent: f64) -> f64 {
    hardness::martensite_hrc(dissolved.composition.carbon)
        - hardness::retained_austenite_loss_hrc(retained_percent)
        + steel.offset_hrc
}

/// Hardness after tempering to a Hollomon–Jaffe parameter, HRC: only the martensite, `share` of the
/// structure, softens.
#[must_use]
pub fn after_tempers(
    as_quenched_hrc: f64,
    share: f64,
    steel: &Steel,
    parameter: Option<f64>,
) -> f64 {
    let drop = parameter.map_or(0.0, |p| steel.curve.drop_hrc(p));
    (as_quenched_hrc - drop * share).max(0.0)
}

/// HRC per °C that the kiln (as-quenched and tempered) and the oven (tempered) run hotter than set.
#[must_use]
pub fn sensitivity(plan: &Plan, steel: &Steel, section: &Section) -> Sensitivity {
    let step = 4.0;
    let at = |shift| of_section(plan, steel, section, shift);
    let (up, down) = (
        at(Shift {
            kiln: Kelvins::of(step),
            oven: Kelvins::ZERO,
        }),
        at(Shift {
            kiln: Kelvins::of(-step),
            oven: Kelvins::ZERO,
        }),
    );
    let (hot, cool) = (
        at(Shift {
            kiln: Kelvins::ZERO,
            oven: Kelvins::of(step),
        }),
        at(Shift {
            kiln: Kelvins::ZERO,
            oven: Kelvins::of(-step),
        }),
    );
    Sensitivity {
        as_quenched_per_kiln_c: (up.as_quenched_hrc - down.as_quenched_hrc) / (2.0 * step),
        tempered_per_kiln_c: (up.tempered_hrc - down.tempered_hrc) / (2.0 * step),
        tempered_per_oven_c: (hot.tempered_hrc - cool.tempered_hrc) / (2.0 * step),
    }
}

/// See [`sensitivity`].
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sensitivity {
    /// As-quenched hardness against the kiln, HRC/°C.
    pub as_quenched_per_kiln_c: f64,
    /// Tempered hardness against the kiln, HRC/°C.
    pub tempered_per_kiln_c: f64,
    /// Tempered hardness against the oven, HRC/°C.
    pub tempered_per_oven_c: f64,
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;
    use crate::geometry::blade::BladeDraft;
    use proptest::prelude::*;

    pub(crate) fn blade() -> Blade {
        Blade::parse(&BladeDraft {
            length_mm: Some(180.0),
            width_mm: Some(30.0),
            spine_mm: Some(4.0),
            edge_mm: Some(0.8),
            ..BladeDraft::default()
        })
        .unwrap()
    }

    pub(crate) fn plan(json: &str) -> Plan {
        Plan::parse(&serde_json::from_str::<Vec<_>>(json).unwrap()).unwrap()
    }

    /// Normalized, the nominal soak of a steel, and a quench in one medium.
    pub(crate) fn nominal(steel: &Steel, medium: &str) -> Plan {
        plan(&format!(
            r#"[{{"kind":"normalize","temperature_c":860,"times":3}},{{"kind":"austenitize","temperature_c":{},"soak_s":{}}},
                {{"kind":"quench","stages":[{{"medium":"{medium}"}}]}}]"#,
            steel.austenitize.nominal.value(),
            steel.soak.value()
        ))
    }

    fn oil(temperature: f64, temper: f64) -> Plan {
        plan(&format!(
            r#"[{{"kind":"austenitize","temperature_c":{temperature},"soak_s":300}},
                {{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}},
                {{"kind":"temper","temperature_c":{temper},"hold_s":7200,"times":2}}]"#
        ))
    }

    fn run(steel: &str, plan: &Plan) -> Physics {
        physics(
            plan,
            Steel::built_in(steel).unwrap(),
            &blade(),
            Shift::default(),
        )
    }

    #[test]
    fn the_published_treatment_gives_the_published_hardness() {
        let got = run("1084", &oil(815.0, 205.0));
        assert!((got.tempered_hrc - 61.5).abs() < 0.3, "{got:?}");
        assert!((got.as_quenched_hrc - 65.0).abs() < 0.3);
        assert_eq!(got.verdict, Verdict::HardensThrough);
    }

    #[test]
    fn below_ac1_nothing_hardens() {
        let got = run("1084", &oil(700.0, 205.0));
        assert_eq!(got.verdict, Verdict::NeverHot);
        assert!(got.as_quenched_hrc < 20.0 && got.tempered_hrc < 20.0);
    }

    #[test]
    fn a_water_steel_in_slow_oil_is_too_thick_at_the_spine() {
        let slow = plan(
            r#"[{"kind":"austenitize","temperature_c":795,"soak_s":480},{"kind":"quench","stages":[{"medium":"slow_oil"}]}]"#,
        );
        assert!(matches!(
            run("w2", &slow).verdict,
            Verdict::TooThick | Verdict::SpineStaysSoft
        ));
    }

    #[test]
    fn sub_zero_gains_less_after_waiting_or_a_temper() {
        let with = |json: &str| run("x65cr13", &plan(json)).retained_percent;
        let head = r#"[{"kind":"austenitize","temperature_c":1060,"soak_s":720},{"kind":"quench","stages":[{"medium":"plates"}]},"#;
        let none = with(&format!(
            r#"{head}{{"kind":"temper","temperature_c":175,"hold_s":7200}}]"#
        ));
        let at_once = with(&format!(
            r#"{head}{{"kind":"sub_zero","temperature_c":-75,"hold_s":7200}}]"#
        ));
        let next_day = with(&format!(
            r#"{head}{{"kind":"sub_zero","temperature_c":-75,"hold_s":7200,"wait_s":86400}}]"#
        ));
        let after = with(&format!(
            r#"{head}{{"kind":"temper","temperature_c":175,"hold_s":7200}},{{"kind":"sub_zero","temperature_c":-75,"hold_s":7200}}]"#
        ));
        assert!(at_once < next_day && next_day < after && after < none);
        assert!((next_day - 0.5 * (at_once + none)).abs() < 1e-6);
    }

    #[test]
    fn a_hot_oven_softens() {
        let (plan, steel) = (oil(815.0, 205.0), Steel::built_in("1084").unwrap());
        let section = section(&plan, steel, &Workpiece::plain(&blade()));
        let s = sensitivity(&plan, steel, &section);
        assert!(
            s.tempered_per_oven_c < -0.03 && s.tempered_per_oven_c > -0.12,
            "{s:?}"
        );
        assert!(s.as_quenched_per_kiln_c.abs() < 0.05);
    }

    #[test]
    fn an_annealed_bar_soaked_briefly_is_softer() {
        let annealed = plan(
            r#"[{"kind":"anneal","temperature_c":780,"hold_s":3600},{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]}]"#,
        );
        assert!(
            run("1084", &annealed).as_quenched_hrc
                < run("1084", &oil(815.0, 200.0)).as_quenched_hrc
        );
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]
        #[test]
        fn never_nan_and_hotter_never_harder(
            index in 0..26_usize, austenitize in 600.0..1300.0_f64, a in 100.0..380.0_f64, b in 100.0..380.0_f64,
            spine in 0.5..20.0_f64,
        ) {
            let steel = &Steel::table()[index];
            let blade = Blade { spine_mm: spine, edge_mm: spine.min(0.7), ..blade() };
            let at = |t: f64| physics(&oil(austenitize, t), steel, &blade, Shift::default());
            let (cool, hot) = (at(a.min(b)), at(a.max(b)));
            prop_assert!(cool.tempered_hrc.is_finite() && cool.as_quenched_hrc.is_finite());
            prop_assert!((0.0..=70.0).contains(&cool.tempered_hrc), "{cool:?}");
            prop_assert!((0.0..=100.0).contains(&cool.retained_percent));
            // Stainless and air steels may harden again from about 370 °C; 380 °C stays below it.
            prop_assert!(hot.tempered_hrc <= cool.tempered_hrc + 0.05, "{} {}", hot.tempered_hrc, cool.tempered_hrc);
        }
    }

    #[test]
    fn tempered_while_warm_to_the_hand_more_austenite_stays() {
        let steel = Steel::built_in("52100").unwrap();
        let with = |cool: &str| {
            let p = plan(&format!(
                r#"[{{"kind":"austenitize","temperature_c":845,"soak_s":900}},{{"kind":"quench","stages":[{{"medium":"medium_oil"}}]}},{cool}{{"kind":"temper","temperature_c":180,"hold_s":7200}}]"#
            ));
            physics(&p, steel, &blade(), Shift::default()).retained_percent
        };
        let (room, warm) = (with(""), with(r#"{"kind":"cool","temperature_c":65},"#));
        assert!(warm > 1.2 * room, "{warm} {room}");
        assert_eq!(with(r#"{"kind":"cool","temperature_c":20},"#), room);
    }

    #[test]
    fn a_torch_softens_the_spine_and_not_where_it_is_read() {
        let steel = Steel::built_in("1084").unwrap();
        let with = |torch: &str| {
            let p = plan(&format!(
                r#"[{{"kind":"austenitize","temperature_c":815,"soak_s":300}},{{"kind":"quench","stages":[{{"medium":"fast_oil"}}]}},{{"kind":"temper","temperature_c":200,"hold_s":7200}}{torch}]"#
            ));
            physics(&p, steel, &blade(), Shift::default())
        };
        let torched = with(r#",{"kind":"torch_temper","temperature_c":450,"part":"spine"}"#);
        let (part, hrc) = torched.torched.unwrap();
        assert_eq!(part, Part::Spine);
        assert!(hrc < torched.tempered_hrc - 8.0, "{hrc}");
        assert_eq!(torched.tempered_hrc, with("").tempered_hrc);
    }
}
