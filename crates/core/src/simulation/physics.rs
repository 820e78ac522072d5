//! Hardness and retained austenite of a plan by physics alone, before any record corrects them.

use crate::geometry::blade::Blade;
use crate::material::dissolution::{Dissolved, Structure};
use crate::material::medium::Medium;
use crate::material::steel::Steel;
use crate::material::temper::{self, Tempered, Treatment};
use crate::process::furnace::Furnace;
use crate::process::manner::Cooled;
use crate::process::plan::{Plan, TORCH_S};
use crate::process::step::{Part, Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::interval::upper_quantile;
use crate::quantity::units::{Celsius, Kelvins, Quantity, Seconds};
use crate::simulation::heat::{Heat, LATER_S, Section, solution};
use crate::simulation::transformation::Phases;
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
    /// Retained austenite after the last step, percent.
    pub retained_percent: f64,
    /// Retained austenite after the same tempers if no sub-zero step were done, percent.
    pub retained_without_sub_zero_percent: f64,
    /// Retained austenite before the first temper, percent.
    pub retained_before_tempers_percent: f64,
    /// Martensite that formed after the last temper and is untempered, percent; none without a temper.
    pub untempered_percent: f64,
    /// What was in solution.
    pub dissolved: Dissolved,
    /// Structure before the hardening heat.
    pub structure: Structure,
    /// The verdict on this blade.
    pub verdict: Verdict,
    /// Share of martensite at the face where hardness is read, 0 to 1.
    pub martensite_at_reading: f64,
    /// Share of martensite in the middle of the spine, 0 to 1.
    pub martensite_at_spine: f64,
    /// How deep it is hardened from each face at the spine, mm; none when it is hardened through.
    pub case_at_spine_mm: Option<f64>,
    /// Hollomon–Jaffe parameter of all tempers together, if any.
    pub temper_parameter: Option<f64>,
    /// Hottest temper after the quench, if any.
    pub hottest_temper: Option<Celsius>,
    /// The part softened by a torch, and its hardness, HRC.
    pub torched: Option<(Part, f64)>,
}

/// How what was really done differs from what is planned, or a steel from what is known of it.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Shift {
    /// The kiln or forge runs hotter than set.
    pub kiln: Kelvins,
    /// The oven runs hotter than set.
    pub oven: Kelvins,
    /// Natural logarithm of how much longer it soaked, or sooner its carbides dissolve.
    pub ln_soak: f64,
    /// Natural logarithm of how much slower it transforms.
    pub ln_pace: f64,
    /// More carbon in solution, percent by weight.
    pub carbon_percent: f64,
    /// It was [`LATER_S`] longer in air on the way to the bath.
    pub late: bool,
}

/// Hours of waiting that halve what sub-zero still gains.
const HALF_GAIN_HOURS: f64 = 24.0;
/// Share of the gain left when a temper came before the sub-zero step.
const GAIN_AFTER_TEMPER: f64 = 0.35;

/// The stages of the last quench; none without a quench. Where even the last one has an end the blade comes
/// out into still air.
#[must_use]
pub fn stages(plan: &Plan) -> Cow<'_, [Stage]> {
    match plan.last_quench().map(|i| &plan.real_steps()[i]) {
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
    let heat = Heat::new(work, plan, steel, Kelvins::ZERO);
    Section::of_blade(&heat, &work.form, &work.clay, &stages(plan))
}

/// Share hardened where a blade is read, 0 to 1.
#[must_use]
pub fn hard_middle(plan: &Plan, steel: &Steel, work: &Workpiece) -> f64 {
    section(plan, steel, work).reading.face.hardened()
}

/// A section that came out of the quench, before anything else is done to it: what follows can be tried on it
/// many times.
#[derive(Debug, Clone)]
pub struct Hardened<'a> {
    steel: &'a Steel,
    section: &'a Section,
    /// The steps after the quench.
    after: &'a [Step],
    /// What was in solution.
    pub dissolved: Dissolved,
    /// Structure before the hardening heat.
    pub structure: Structure,
    /// Where it is read.
    reading: Phases,
    /// Retained austenite at the end of cooling, share of what hardened, 0 to 1.
    warm: f64,
}

impl<'a> Hardened<'a> {
    /// After the last quench of `plan`, with what `shift` says of fire, soak, carbon and pace.
    #[must_use]
    pub fn new(plan: &'a Plan, steel: &'a Steel, section: &'a Section, shift: Shift) -> Self {
        let steps = plan.real_steps();
        let quench = plan.last_quench().unwrap_or(steps.len());
        let after = &steps[quench.min(steps.len())..];
        let soak = (section.heating_s, shift.ln_soak.exp());
        let (_, structure, found) = solution(plan, steel, shift.kiln, soak);
        let dissolved = if shift.carbon_percent == 0.0 {
            found
        } else {
            found.with_carbon(found.composition.carbon + shift.carbon_percent)
        };
        let face = section.later.filter(|_| shift.late);
        Self {
            steel,
            section,
            after,
            dissolved,
            structure,
            reading: face
                .unwrap_or(section.reading.face)
                .slower(section.exponent, shift.ln_pace)
                .with_never(1.0 - dissolved.austenite, dissolved.soft_hv),
            warm: dissolved.retained(coolest_before_temper_c(after)),
        }
    }

    /// What the steps after the quench do, with tempers as hot as `real` makes of what is set; sub-zero steps
    /// as far as `cold` is set.
    #[must_use]
    pub fn treatments(&self, real: impl Fn(Celsius) -> Celsius, cold: bool) -> Vec<Treatment> {
        let mut all: Vec<Treatment> = self.section.slow_cooling.into_iter().collect();
        let mut tempered = false;
        for step in self.after {
            match step {
                Step::SubZero {
                    temperature_c,
                    wait_s,
                    ..
                } if cold => {
                    let at = self.dissolved.retained(temperature_c.value().min(20.0));
                    let gain = 0.5f64.powf(wait_s.hours() / HALF_GAIN_HOURS)
                        * if tempered { GAIN_AFTER_TEMPER } else { 1.0 };
                    let gone = (1.0 - at / self.warm.max(1e-12)).clamp(0.0, 1.0);
                    all.push(Treatment::Cold {
                        stays: 1.0 - gone * gain,
                    });
                }
                Step::Temper {
                    temperature_c,
                    hold_s,
                    times,
                    cooled,
                    ..
                } => {
                    tempered = true;
                    let temperature = real(*temperature_c);
                    let hold = Treatment::Hold {
                        temperature,
                        time: match cooled {
                            Some(Cooled::Oven) => slowly_cooled(temperature, *hold_s),
                            _ => *hold_s,
                        },
                    };
                    all.extend((0..*times).map(|_| hold));
                }
                _ => {}
            }
        }
        all
    }

    /// Hardness where it is read, HRC, and what the treatments left of what hardened.
    #[must_use]
    pub fn after(&self, treatments: &[Treatment]) -> (f64, Tempered) {
        let (hard, left) = self
            .steel
            .hardened_hrc(&self.dissolved, self.warm, treatments);
        (self.reading.hrc(hard), left)
    }
}

/// An oven that is shut off falls to room temperature with about this, s.
const OVEN_COOLS_S: f64 = 7200.0;

/// In pieces so long it is summed, s, and so many: nothing tempers any more by then.
const PIECE_S: f64 = 200.0;
const PIECES: i32 = 40;

/// A hold that is followed by cooling in the oven, as one that tempers as much: near the parameter P = T(C + lg t) of the
/// hold a second at T′ counts for 10^(P/T − P/T′) seconds at T.
fn slowly_cooled(temperature: Celsius, hold: Seconds) -> Seconds {
    let p = temper::parameter(temperature, (hold.value() / 3600.0).max(1e-3));
    let above = (temperature.value() - 20.0).max(0.0);
    let piece = |i: i32| {
        let t = 293.15 + above * (-(f64::from(i) + 0.5) * PIECE_S / OVEN_COOLS_S).exp();
        PIECE_S * 10f64.powf(p / temperature.kelvin() - p / t)
    };
    Seconds::clamped(hold.value() + (0..PIECES).map(piece).sum::<f64>())
}

fn is_hold(t: &Treatment) -> bool {
    matches!(t, Treatment::Hold { .. })
}

/// As [`physics`], of a section that was quenched already: a few degrees of the kiln change what
/// dissolves, not what hardens.
#[must_use]
pub fn of_section(plan: &Plan, steel: &Steel, section: &Section, shift: Shift) -> Physics {
    let hardened = Hardened::new(plan, steel, section, shift);
    let dissolved = hardened.dissolved;
    let martensite_at_reading = section.reading.face.hardened();
    let martensite_at_spine = section.spine.middle.hardened();
    let verdict = if dissolved.austenite < 0.05 {
        Verdict::NeverHot
    } else if martensite_at_spine >= 0.5 {
        Verdict::HardensThrough
    } else if martensite_at_reading >= 0.5 {
        Verdict::SpineStaysSoft
    } else {
        Verdict::TooThick
    };
    let case = section.spine.case();
    let real = |t: Celsius| t.plus(shift.oven);
    let all = hardened.treatments(real, true);
    let first = all.iter().position(is_hold).unwrap_or(all.len());
    let (as_quenched_hrc, quenched) = hardened.after(&all[..first]);
    let (tempered_hrc, left) = hardened.after(&all);
    let (_, warm) = hardened.after(&hardened.treatments(real, false));
    let percent = |share: f64| 100.0 * share * martensite_at_reading;
    let tempers: Vec<Celsius> = all
        .iter()
        .filter_map(|t| match t {
            Treatment::Hold { temperature, .. } => Some(*temperature),
            _ => None,
        })
        .collect();
    let torched = torched(hardened.after).map(|(part, heat)| {
        let mut with: Vec<Treatment> = all.clone();
        with.push(heat);
        let (hard, _) = steel.hardened_hrc(&dissolved, hardened.warm, &with);
        (part, section.spine.face.hrc(hard))
    });
    Physics {
        as_quenched_hrc,
        tempered_hrc,
        retained_percent: percent(left.retained),
        retained_without_sub_zero_percent: percent(warm.retained),
        retained_before_tempers_percent: percent(quenched.retained),
        untempered_percent: if tempers.is_empty() {
            0.0
        } else {
            percent(left.untempered)
        },
        dissolved,
        structure: hardened.structure,
        verdict,
        martensite_at_reading,
        martensite_at_spine,
        case_at_spine_mm: (case < 1.0).then_some(0.5 * case * section.thickness_mm.1),
        temper_parameter: if tempers.is_empty() {
            None
        } else {
            left.parameter
        },
        hottest_temper: tempers
            .into_iter()
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

/// The part that a torch softens last, and the heat it gets.
fn torched(after: &[Step]) -> Option<(Part, Treatment)> {
    after.iter().rev().find_map(|s| match s {
        Step::TorchTemper {
            temperature_c,
            part,
            ..
        } => Some((
            *part,
            Treatment::Hold {
                temperature: *temperature_c,
                time: Seconds::clamped(TORCH_S),
            },
        )),
        _ => None,
    })
}

/// A heat that is known as well as this is straight over its spread, one standard deviation, K.
pub const NARROW_K: f64 = 10.0;

/// How many heats a wide spread is looked at in.
pub const HEATS: usize = 32;

/// A hardness over a spread of heats: what it is more in each of as many equal shares of it, the straight line that fits
/// that best, and what is left.
#[derive(Debug, Clone, Copy, Default)]
struct OverHeat {
    more_hrc: [f64; HEATS],
    per_c: f64,
    rest_hrc: f64,
}

/// Both hardnesses over a normal spread of heats: what does not harden below a heat is no straight line of it.
fn over_heat(spread_k: f64, at: impl Fn(f64) -> Physics) -> [OverHeat; 2] {
    let z: [f64; HEATS] = std::array::from_fn(|i| {
        let (from_end, sign) = if i < HEATS / 2 {
            (i, -1.0)
        } else {
            (HEATS - 1 - i, 1.0)
        };
        sign * upper_quantile((from_end as f64 + 0.5) / HEATS as f64)
    });
    let middle = at(0.0);
    let all = z.map(|z| at(z * spread_k));
    let of = |hrc: fn(&Physics) -> f64| {
        let more_hrc: [f64; HEATS] = std::array::from_fn(|i| hrc(&all[i]) - hrc(&middle));
        let mean = more_hrc.iter().sum::<f64>() / HEATS as f64;
        let squares = z.iter().map(|z| z * z).sum::<f64>();
        let slope = z.iter().zip(&more_hrc).map(|(z, h)| z * h).sum::<f64>() / squares;
        let left = z
            .iter()
            .zip(&more_hrc)
            .map(|(z, h)| (h - mean - slope * z).powi(2));
        OverHeat {
            more_hrc,
            per_c: slope / spread_k,
            rest_hrc: (left.sum::<f64>() / HEATS as f64).sqrt(),
        }
    };
    [of(|p| p.as_quenched_hrc), of(|p| p.tempered_hrc)]
}

/// How a hardness moves with what is not known well.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Slopes {
    /// The kiln hotter than set, HRC/°C; over the whole spread of the heat where that is wide.
    pub per_kiln_c: f64,
    /// What it is more in equal shares of that spread, the coolest first, HRC; nothing where it is narrow.
    pub over_heat_hrc: [f64; HEATS],
    /// What the spread of the heat does beyond its slope, one standard deviation, HRC.
    pub heat_rest_hrc: f64,
    /// The oven hotter than set, HRC/°C.
    pub per_oven_c: f64,
    /// What comes before the temper.
    pub quench: QuenchSlopes,
}

impl Slopes {
    /// The heat is so unsure that a straight line over it says too little.
    #[must_use]
    pub fn is_wide(&self) -> bool {
        self.over_heat_hrc.iter().any(|more| *more != 0.0)
    }
}

/// How a hardness moves with what is not known well of the steel and its quench.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct QuenchSlopes {
    /// Slower transformation, HRC for each unit of the logarithm of time.
    pub per_ln_pace: f64,
    /// A medium that takes heat faster, HRC for each unit of the logarithm of heat transfer.
    pub per_ln_film: f64,
    /// A longer way through the air, HRC/s.
    pub per_transfer_s: f64,
    /// A longer soak, or carbides that dissolve sooner, HRC for each unit of the logarithm of time.
    pub per_ln_soak: f64,
    /// More carbon in solution, HRC/%.
    pub per_carbon_percent: f64,
}

/// Faster cooling does to the hardened share what slower transformation does, by this share.
const FILM_AGAINST_PACE: f64 = 0.75;

/// Slopes of both hardnesses.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Sensitivity {
    /// Of the hardness before tempering.
    pub as_quenched: Slopes,
    /// Of the hardness after the last temper.
    pub tempered: Slopes,
}

/// How both hardnesses move with what is not known well: differences over steps about as wide as the doubt.
#[must_use]
pub fn sensitivity(plan: &Plan, steel: &Steel, section: &Section, fire: Furnace) -> Sensitivity {
    let slopes = |up: Shift, down: Shift, width: f64| {
        let (up, down) = (
            of_section(plan, steel, section, up),
            of_section(plan, steel, section, down),
        );
        let per = |a: f64, b: f64| (a - b) / width;
        (
            per(up.as_quenched_hrc, down.as_quenched_hrc),
            per(up.tempered_hrc, down.tempered_hrc),
        )
    };
    let same = Shift::default();
    const HEAT_K: f64 = 4.0;
    let kiln = |k: f64| Shift {
        kiln: Kelvins::of(k),
        ..same
    };
    let oven = |k: f64| Shift {
        oven: Kelvins::of(k),
        ..same
    };
    let doubt = plan.heat_doubt(fire);
    let spread_k = doubt.spread_c();
    let heat = if spread_k > NARROW_K {
        over_heat(spread_k, |by| of_section(plan, steel, section, kiln(by)))
    } else {
        let (quenched, tempered) = slopes(kiln(HEAT_K), kiln(-HEAT_K), 2.0 * HEAT_K);
        [quenched, tempered].map(|per_c| OverHeat {
            per_c,
            ..OverHeat::default()
        })
    };
    let oven = slopes(oven(HEAT_K), oven(-HEAT_K), 2.0 * HEAT_K);
    const LN: f64 = 0.4;
    let soak = |ln_soak: f64| Shift { ln_soak, ..same };
    let soak = slopes(soak(LN), soak(-LN), 2.0 * LN);
    let pace = |ln_pace: f64| Shift { ln_pace, ..same };
    // Where all of it hardens nothing hangs on the pace.
    let pace = if section.reading.face.soft_log() < SURELY_HARD {
        (0.0, 0.0)
    } else {
        slopes(pace(LN), pace(-LN), 2.0 * LN)
    };
    const CARBON_PERCENT: f64 = 0.03;
    let carbon = |carbon_percent: f64| Shift {
        carbon_percent,
        ..same
    };
    let carbon = slopes(
        carbon(CARBON_PERCENT),
        carbon(-CARBON_PERCENT),
        2.0 * CARBON_PERCENT,
    );
    let late = match section.later {
        Some(_) => slopes(Shift { late: true, ..same }, same, LATER_S),
        None => (0.0, 0.0),
    };
    let quench = |pace: f64, late: f64, soak: f64, carbon: f64| QuenchSlopes {
        per_ln_pace: pace,
        per_ln_film: FILM_AGAINST_PACE * pace,
        per_transfer_s: late,
        per_ln_soak: soak,
        per_carbon_percent: carbon,
    };
    Sensitivity {
        as_quenched: Slopes {
            per_kiln_c: heat[0].per_c,
            over_heat_hrc: heat[0].more_hrc,
            heat_rest_hrc: heat[0].rest_hrc,
            per_oven_c: oven.0,
            quench: quench(pace.0, late.0, soak.0, carbon.0),
        },
        tempered: Slopes {
            per_kiln_c: heat[1].per_c,
            over_heat_hrc: heat[1].more_hrc,
            heat_rest_hrc: heat[1].rest_hrc,
            per_oven_c: oven.1,
            quench: quench(pace.1, late.1, soak.1, carbon.1),
        },
    }
}

/// Both hardnesses over what a steel without a paper may be: what they are more than `middle` in each of its analyses, HRC,
/// as quenched and tempered; empty where it is known.
#[must_use]
pub fn over_steels(
    plan: &Plan,
    steel: &Steel,
    work: &Workpiece,
    middle: &Physics,
) -> [Vec<f64>; 2] {
    let all: Vec<Physics> = steel
        .may_be()
        .iter()
        .map(|s| of_section(plan, s, &section(plan, s, work), Shift::default()))
        .collect();
    let more = |hrc: fn(&Physics) -> f64| all.iter().map(|p| hrc(p) - hrc(middle)).collect();
    [more(|p| p.as_quenched_hrc), more(|p| p.tempered_hrc)]
}

/// −ln of the hardened share below which a slower or faster quench changes nothing that is read.
const SURELY_HARD: f64 = 5e-4;

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

    #[test]
    fn cooling_in_the_oven_tempers_as_much_as_the_pieces_of_it() {
        let (at, hold) = (Celsius::clamped(205.0), Seconds::clamped(7200.0));
        // Newton's cooling ten seconds at a time: how long it would have taken there to be where it is, and on from it.
        let free = temper::parameter(at, hold.hours());
        let cooled = (0..3000).fold(free, |p, i| {
            let t = 20.0 + 185.0 * (-10.0 * f64::from(i) / OVEN_COOLS_S).exp();
            let now = Celsius::clamped(t);
            temper::parameter(now, temper::equivalent_hours(p, now) + 10.0 / 3600.0)
        });
        let ours = temper::parameter(at, slowly_cooled(at, hold).hours());
        assert!(cooled > free + 8.0);
        assert!(
            (ours - cooled).abs() < 0.1 * (cooled - free),
            "{free} {ours} {cooled}"
        );
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
        // Fine pearlite as it was before, 300 to 340 HV: not nothing, and no temper changes it.
        assert!((28.0..35.0).contains(&got.as_quenched_hrc), "{got:?}");
        assert!((got.tempered_hrc - got.as_quenched_hrc).abs() < 0.5);
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
        let s = sensitivity(&plan, steel, &section, Furnace::Kiln);
        assert!(
            s.tempered.per_oven_c < -0.03 && s.tempered.per_oven_c > -0.12,
            "{s:?}"
        );
        assert!(s.as_quenched.per_kiln_c.abs() < 0.05);
    }

    #[test]
    fn a_thin_section_is_lost_on_a_long_way_to_the_bath_and_a_thick_one_is_not() {
        let steel = Steel::built_in("1084").unwrap();
        let plan = plan(
            r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil","transfer_s":8}]}]"#,
        );
        let slope = |mm: f64| {
            let work = Workpiece::plain(&Blade {
                spine_mm: mm,
                edge_mm: 0.6,
                ..blade()
            });
            let section = section(&plan, steel, &work);
            let slopes = sensitivity(&plan, steel, &section, Furnace::Kiln);
            slopes.as_quenched.quench.per_transfer_s
        };
        let (thin, thick) = (slope(1.2), slope(12.0));
        assert!(thin < -0.01 && thick > -0.01, "{thin} {thick}");
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
            index in 0..46_usize, austenitize in 600.0..1300.0_f64, a in 100.0..290.0_f64, b in 100.0..290.0_f64,
            spine in 0.5..20.0_f64,
        ) {
            let steel = &Steel::table()[index];
            prop_assume!(steel.hardening != crate::material::steel::Hardening::NotHardenable);
            let blade = Blade { spine_mm: spine, edge_mm: spine.min(0.7), ..blade() };
            // Overheated steel is full of austenite that a temper turns harder, and one that was not hot enough
            // is softer than any the softening was measured on.
            let austenitize = austenitize.clamp(steel.austenitize.low.value(), steel.austenitize.high.value());
            let at = |t: f64| physics(&oil(austenitize, t), steel, &blade, Shift::default());
            let (cool, hot) = (at(a.min(b)), at(a.max(b)));
            prop_assert!(cool.tempered_hrc.is_finite() && cool.as_quenched_hrc.is_finite());
            prop_assert!((0.0..=70.0).contains(&cool.tempered_hrc), "{cool:?}");
            prop_assert!((0.0..=100.0).contains(&cool.retained_percent));
            // High-speed steels harden again from about 300 °C.
            prop_assert!(hot.tempered_hrc <= cool.tempered_hrc + 0.6, "{} {}", hot.tempered_hrc, cool.tempered_hrc);
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
