//! Two blades side by side: in what they differed, and how much of what came of it each difference explains.
//!
//! The engine is asked with every mixture of the two: a blade of the first's steel with the second's temper, and
//! so on. Each difference gets its mean effect over all orders in which one can be turned into the other, so
//! that the effects add up (Shapley 1953).

use crate::learning::kernel::KernelTerm;
use crate::learning::{Features, Model};
use crate::material::steel::Steel;
use crate::prediction::subject::{Subject, features, stations};
use crate::process::plan::Plan;
use crate::process::step::{Stage, Step};
use crate::process::workpiece::Workpiece;
use crate::quantity::units::{Celsius, Kelvins, Seconds};
use crate::record::finding::{EdgeResult, EdgeWork, Finding, ScrapCause};
use crate::record::reading::When;
use crate::simulation::hamon::{Hamon, hamon};
use crate::simulation::heat::{Heat, Section};
use crate::simulation::physics::{Shift, of_section, section, sensitivity, stages};
use crate::simulation::quench::{Setup, Stopped, quench};
use serde::Serialize;
use std::collections::HashMap;
use std::sync::atomic::AtomicBool;

/// Temperatures nearer than this are taken to be the same, °C.
const NEAR_C: f64 = 3.0;
/// Times whose ratio is nearer to one than this are.
const NEAR_TIME: f64 = 1.25;
/// Lengths nearer than this share of themselves are, but for thicknesses.
const NEAR_LENGTH: f64 = 0.05;
/// Thicknesses nearer than this are, mm.
const NEAR_MM: f64 = 0.1;
/// Cells of the quench that tells where the line would be, mm.
const STEP_MM: f64 = 3.0;
/// With more differences than this before the quench is over, too many quenches would have to be computed to
/// tell what each did to the line.
const MOST_FOR_LINE: usize = 5;

/// In what blades can differ, in the order of the work.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, strum::VariantArray,
)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Aspect {
    /// Another steel.
    Steel,
    /// The same steel from another bar.
    Bar,
    /// Shape, sizes and grind.
    Sizes,
    /// What was done before the hardening heat.
    Before,
    /// What kept its carbon in.
    Protection,
    /// Its clay.
    Clay,
    /// The hardening heat.
    Heat,
    /// The quench.
    Quench,
    /// Who quenched.
    Operator,
    /// Cold after the quench.
    Cold,
    /// The tempers.
    Temper,
    /// What it was read with.
    Tester,
}

impl Aspect {
    /// Every aspect.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The engine knows what it does.
    const fn physical(self) -> bool {
        !matches!(self, Self::Protection | Self::Operator | Self::Tester)
    }

    /// What the records tell of it.
    const fn parts(self) -> &'static [KernelTerm] {
        match self {
            Self::Steel => &[KernelTerm::Steel, KernelTerm::Bar],
            Self::Bar => &[KernelTerm::Bar],
            Self::Sizes => &[KernelTerm::Thickness],
            Self::Heat => &[KernelTerm::Kiln],
            Self::Quench => &[KernelTerm::Tank],
            Self::Operator => &[KernelTerm::Operator],
            Self::Temper => &[KernelTerm::Temper, KernelTerm::Oven],
            Self::Tester => &[KernelTerm::Tester],
            Self::Before | Self::Protection | Self::Clay | Self::Cold => &[],
        }
    }
}

/// What one difference did.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Effect {
    /// The difference.
    pub aspect: Aspect,
    /// What the engine says it did, HRC.
    pub engine_hrc: f64,
    /// What the shop's records add to that, HRC.
    pub records_hrc: f64,
    /// What the engine says it did to the height of the hamon, mm; none where one of the two has no line, or
    /// where too much differs.
    pub line_mm: Option<f64>,
}

/// A trial of an edge.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tried {
    /// What was done.
    pub work: EdgeWork,
    /// What the edge did.
    pub edge: EdgeResult,
}

/// What came of a blade besides hardness: the last word on each.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Came {
    /// Mean height of the hamon, mm.
    pub line_mm: Option<f64>,
    /// Width of its band, mm.
    pub band_mm: Option<f64>,
    /// Furthest off the straight from the quench, mm, either side.
    pub side_mm: Option<f64>,
    /// It cracked, or was looked at and did not.
    pub cracked: Option<bool>,
    /// Grain of its coupon, ASTM number.
    pub grain_astm: Option<f64>,
    /// Trials of its edge.
    pub trials: Vec<Tried>,
    /// Times the belt coloured it.
    pub burns: usize,
    /// Why it was given up.
    pub scrapped: Option<ScrapCause>,
}

impl Came {
    /// From findings, oldest first.
    #[must_use]
    pub fn from_findings<'a>(findings: impl Iterator<Item = &'a Finding>) -> Self {
        let mut all = Self::default();
        for found in findings {
            match found {
                Finding::Line {
                    second: false,
                    places,
                    band_mm,
                    ..
                } => {
                    let sum: f64 = places.iter().map(|p| p[1]).sum();
                    all.line_mm = Some(sum / places.len().max(1) as f64);
                    all.band_mm = band_mm.or(all.band_mm);
                }
                Finding::Crack { cracked, .. } => {
                    // A crack stays one, whatever is seen later.
                    all.cracked = Some(*cracked || all.cracked == Some(true));
                }
                Finding::Grain { astm } => all.grain_astm = Some(*astm),
                Finding::Trial { work, edge, .. } => all.trials.push(Tried {
                    work: *work,
                    edge: *edge,
                }),
                Finding::Burn { .. } => all.burns += 1,
                Finding::Scrap { cause } => all.scrapped = Some(*cause),
                other => all.side_mm = other.sag_mm().map(f64::abs).or(all.side_mm),
            }
        }
        all
    }
}

/// The steps of a plan by what they do.
#[derive(Debug, Clone, Default, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stretches {
    /// Before the hardening heat.
    pub before: Vec<Step>,
    /// The hardening heat with its preheats.
    pub heat: Vec<Step>,
    /// The quench.
    pub quench: Vec<Step>,
    /// Cold after it.
    pub cold: Vec<Step>,
    /// Tempers.
    pub temper: Vec<Step>,
}

impl Stretches {
    /// Sorts steps. What neither heats nor cools (checks, coats, clay, straightening) is left out.
    #[must_use]
    pub fn new(steps: &[Step]) -> Self {
        let plan = Plan::stored(steps.to_vec());
        let quenched = plan.last_quench().unwrap_or(steps.len());
        let heated = steps[..quenched]
            .iter()
            .rposition(|s| matches!(s, Step::Austenitize { .. }))
            .unwrap_or(quenched);
        let mut all = Self::default();
        for (i, step) in steps.iter().enumerate() {
            let real = match step {
                Step::Check { .. }
                | Step::Coat {}
                | Step::Pouch {}
                | Step::Clay { .. }
                | Step::Straighten {} => continue,
                Step::Preheat { .. } => &mut all.heat,
                _ if i < heated => &mut all.before,
                _ if i < quenched => &mut all.heat,
                _ if i == quenched => &mut all.quench,
                Step::SubZero { .. } | Step::Cool { .. } => &mut all.cold,
                _ => &mut all.temper,
            };
            real.push(step.clone());
        }
        all
    }

    fn steps(&self) -> Vec<Step> {
        let Self {
            before,
            heat,
            quench,
            cold,
            temper,
        } = self;
        [before, heat, quench, cold, temper]
            .into_iter()
            .flatten()
            .cloned()
            .collect()
    }
}

fn near_time(a: Seconds, b: Seconds) -> bool {
    let (a, b) = (a.value(), b.value());
    // A few tenths are the reaction of an operator.
    a.max(b) <= NEAR_TIME * a.min(b) || (a - b).abs() < 0.3
}

fn near_c(a: Celsius, b: Celsius) -> bool {
    (a.value() - b.value()).abs() <= NEAR_C
}

fn same_stage(a: &Stage, b: &Stage) -> bool {
    let timed = match (a.for_s, b.for_s) {
        (Some(a), Some(b)) => near_time(a, b),
        (a, b) => a == b,
    };
    timed
        && near_c(a.bath_c, b.bath_c)
        && Stage {
            bath_c: a.bath_c,
            for_s: a.for_s,
            ..*b
        } == *a
}

/// The same but for what a clock or a thermometer would call the same.
fn same_step(a: &Step, b: &Step) -> bool {
    match (a, b) {
        (Step::Quench { stages: x }, Step::Quench { stages: y }) => {
            x.len() == y.len() && x.iter().zip(y).all(|(x, y)| same_stage(x, y))
        }
        // The station of a heat stands elsewhere.
        _ => match (a.hold(), b.hold()) {
            (Some(x), Some(y)) => {
                a.kind() == b.kind()
                    && near_c(x.temperature_c, y.temperature_c)
                    && near_time(x.lasts_s, y.lasts_s)
                    && x.times == y.times
            }
            _ => a == b,
        },
    }
}

fn same_steps(a: &[Step], b: &[Step]) -> bool {
    a.len() == b.len() && a.iter().zip(b).all(|(a, b)| same_step(a, b))
}

fn same_sizes(a: &Workpiece, b: &Workpiece) -> bool {
    let (x, y) = (a.blade(), b.blade());
    let near = |x: f64, y: f64| (x - y).abs() <= NEAR_LENGTH * x.max(y);
    x.shape == y.shape
        && x.grind == y.grind
        && near(x.length_mm, y.length_mm)
        && near(x.width_mm, y.width_mm)
        && (x.spine_mm - y.spine_mm).abs() <= NEAR_MM
        && (x.edge_mm - y.edge_mm).abs() <= NEAR_MM
}

/// In what the second differs from the first, in the order of the work. Nearly the same is the same.
#[must_use]
pub fn differing(a: Subject<'_>, b: Subject<'_>) -> Vec<Aspect> {
    let (x, y) = (
        Stretches::new(a.plan.steps()),
        Stretches::new(b.plan.steps()),
    );
    let (fires, others) = (stations(a.plan), stations(b.plan));
    let steel = a.steel.key != b.steel.key;
    let differs = |aspect: Aspect| match aspect {
        Aspect::Steel => steel,
        Aspect::Bar => !steel && a.bar != b.bar,
        Aspect::Sizes => !same_sizes(a.work, b.work),
        Aspect::Before => !same_steps(&x.before, &y.before),
        Aspect::Protection => a.work.protection != b.work.protection,
        Aspect::Clay => a.work.clay != b.work.clay,
        Aspect::Heat => !same_steps(&x.heat, &y.heat) || fires.0 != others.0,
        Aspect::Quench => !same_steps(&x.quench, &y.quench),
        Aspect::Operator => a.operator != b.operator,
        Aspect::Cold => !same_steps(&x.cold, &y.cold),
        Aspect::Temper => !same_steps(&x.temper, &y.temper) || fires.1 != others.1,
        Aspect::Tester => a.tester != b.tester,
    };
    Aspect::ALL
        .iter()
        .copied()
        .filter(|a| differs(*a))
        .collect()
}

/// A mixture of two blades.
struct Mixture<'a> {
    steel: &'a Steel,
    plan: Plan,
    work: Workpiece,
}

/// The first blade with those differences of the second that `mask` has.
fn mixed<'a>(a: Subject<'a>, b: Subject<'a>, aspects: &[Aspect], mask: usize) -> Mixture<'a> {
    let takes = |aspect: Aspect| {
        aspects
            .iter()
            .position(|x| *x == aspect)
            .is_some_and(|i| mask & (1 << i) != 0)
    };
    // What the stations showed is turned into what really was, each by its own checks.
    let (x, y) = (
        Stretches::new(a.plan.real_steps()),
        Stretches::new(b.plan.real_steps()),
    );
    let pick = |aspect, x: Vec<Step>, y: Vec<Step>| if takes(aspect) { y } else { x };
    let stretches = Stretches {
        before: pick(Aspect::Before, x.before, y.before),
        heat: pick(Aspect::Heat, x.heat, y.heat),
        quench: pick(Aspect::Quench, x.quench, y.quench),
        cold: pick(Aspect::Cold, x.cold, y.cold),
        temper: pick(Aspect::Temper, x.temper, y.temper),
    };
    let sizes = if takes(Aspect::Sizes) { b } else { a };
    let clay = if takes(Aspect::Clay) { b } else { a };
    let heat = if takes(Aspect::Heat) { b } else { a };
    Mixture {
        steel: if takes(Aspect::Steel) || takes(Aspect::Bar) {
            b.steel
        } else {
            a.steel
        },
        plan: Plan::stored(stretches.steps()),
        work: Workpiece {
            form: sizes.work.form.clone(),
            clay: clay.work.clay.clone(),
            furnace: heat.work.furnace,
            together: heat.work.together,
            ..a.work.clone()
        },
    }
}

/// Mean effect of each of `n` differences over all orders, from the value of each mixture.
fn shares(n: usize, values: &[f64]) -> Vec<f64> {
    // Weight of a mixture of `k` others among `n`: k!(n−k−1)!/n!.
    let weight = |k: usize| {
        let choose = (0..k).fold(1.0, |c, i| c * (n - 1 - i) as f64 / (i + 1) as f64);
        1.0 / (n as f64 * choose)
    };
    (0..n)
        .map(|i| {
            (0..1_usize << n)
                .filter(|mask| mask & (1 << i) == 0)
                .map(|mask| {
                    let k = mask.count_ones() as usize;
                    weight(k) * (values[mask | (1 << i)] - values[mask])
                })
                .sum()
        })
        .collect()
}

/// Height of the line of a mixture, mm: the width of the blade where it hardens through.
fn line_mm(mixture: &Mixture<'_>, stop: Option<&AtomicBool>) -> Result<f64, Stopped> {
    let heat = Heat::new(&mixture.work, &mixture.plan, mixture.steel, Kelvins::ZERO);
    let baths = stages(&mixture.plan);
    let setup = Setup {
        ..heat.whole(&mixture.work.form, &mixture.work.clay, &baths, STEP_MM)
    };
    let quenched = quench(setup, stop)?;
    Ok(match hamon(&quenched, mixture.work.blade().length_mm) {
        Hamon::Line(line) => line.height_mm,
        Hamon::None { .. } if quenched.mean_hardened() < 0.5 => 0.0,
        Hamon::None { .. } => mixture.work.blade().width_mm,
    })
}

/// Features of a blade as the records see it.
fn seen(subject: Subject<'_>, when: When) -> Features {
    let section = section(subject.plan, subject.steel, subject.work);
    let physics = of_section(subject.plan, subject.steel, &section, Shift::default());
    let slopes = sensitivity(subject.plan, subject.steel, &section, subject.work.furnace);
    features(subject, when, &physics, &slopes, None)
}

/// What each difference did to the hardness read at `when` and, with `line`, to the height of the hamon,
/// from the first blade to the second.
///
/// # Errors
/// [`Stopped`] when `stop` was set meanwhile.
pub fn effects(
    a: Subject<'_>,
    b: Subject<'_>,
    when: When,
    line: bool,
    model: &Model,
    stop: Option<&AtomicBool>,
) -> Result<Vec<Effect>, Stopped> {
    let all = differing(a, b);
    let physical: Vec<Aspect> = all.iter().copied().filter(|x| x.physical()).collect();
    let n = physical.len();
    // What comes after the quench changes nothing of it.
    let late = physical
        .iter()
        .enumerate()
        .filter(|(_, x)| matches!(x, Aspect::Cold | Aspect::Temper))
        .fold(0_usize, |mask, (i, _)| mask | 1 << i);
    let line = line && n - late.count_ones() as usize <= MOST_FOR_LINE;
    let mut sections: HashMap<usize, Section> = HashMap::new();
    let mut heights: HashMap<usize, f64> = HashMap::new();
    let (mut hard, mut high) = (Vec::new(), Vec::new());
    for mask in 0..1_usize << n {
        let mixture = mixed(a, b, &physical, mask);
        let quenched = sections
            .entry(mask & !late)
            .or_insert_with(|| section(&mixture.plan, mixture.steel, &mixture.work));
        let physics = of_section(&mixture.plan, mixture.steel, quenched, Shift::default());
        hard.push(match when {
            When::AsQuenched => physics.as_quenched_hrc,
            When::Tempered => physics.tempered_hrc,
        });
        if line {
            let height = match heights.get(&(mask & !late)) {
                Some(known) => *known,
                None => line_mm(&mixture, stop)?,
            };
            heights.insert(mask & !late, height);
            high.push(height);
        }
    }
    let hrc = shares(n, &hard);
    let mm = line.then(|| shares(n, &high));
    let (x, y) = (seen(a, when), seen(b, when));
    Ok(all
        .into_iter()
        .map(|aspect| {
            let i = physical.iter().position(|p| *p == aspect);
            let bias = |features: &Features, part: &KernelTerm| model.contribution(*part, features);
            let parts = aspect.parts().iter();
            Effect {
                aspect,
                engine_hrc: i.map_or(0.0, |i| hrc[i]),
                records_hrc: parts.map(|p| bias(&y, p) - bias(&x, p)).sum(),
                line_mm: i.and_then(|i| mm.as_ref().map(|mm| mm[i])),
            }
        })
        .collect())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::clay::Clay;
    use crate::learning::Record;
    use crate::process::operator::Operator;
    use crate::simulation::physics::tests::{blade, plan};
    use rstest::rstest;
    use uuid::Uuid;

    fn steps(heat_c: f64, temper_c: f64, hold_s: f64) -> Plan {
        plan(&format!(
            r#"[{{"kind":"normalize","temperature_c":870,"times":3}},
                {{"kind":"austenitize","temperature_c":{heat_c},"soak_s":480}},
                {{"kind":"quench","stages":[{{"medium":"water"}}]}},
                {{"kind":"check","look":"straight"}},
                {{"kind":"temper","temperature_c":{temper_c},"hold_s":{hold_s},"times":2}}]"#
        ))
    }

    fn subject<'a>(plan: &'a Plan, steel: &str, work: &'a Workpiece) -> Subject<'a> {
        Subject {
            plan,
            steel: Steel::built_in(steel).unwrap(),
            work,
            tester: None,
            bar: None,
            operator: None,
        }
    }

    #[rstest]
    #[case(792.0, 202.0, 7400.0, &[])]
    #[case(815.0, 200.0, 7200.0, &[Aspect::Heat])]
    #[case(790.0, 230.0, 7200.0, &[Aspect::Temper])]
    #[case(790.0, 200.0, 14400.0, &[Aspect::Temper])]
    fn nearly_the_same_is_the_same(
        #[case] heat_c: f64,
        #[case] temper_c: f64,
        #[case] hold_s: f64,
        #[case] aspects: &[Aspect],
    ) {
        let work = Workpiece::plain(&blade());
        let (a, b) = (steps(790.0, 200.0, 7200.0), steps(heat_c, temper_c, hold_s));
        let (a, b) = (subject(&a, "w2", &work), subject(&b, "w2", &work));
        assert_eq!(differing(a, b), aspects);
        assert_eq!(differing(a, a), []);
    }

    #[test]
    fn every_aspect_is_told_apart() {
        let (x, y) = (steps(790.0, 200.0, 7200.0), steps(815.0, 230.0, 7200.0));
        let plain = Workpiece::plain(&blade());
        let mut other = Workpiece::plain(&crate::geometry::blade::Blade {
            spine_mm: 5.0,
            ..blade()
        });
        other.clay = Clay::band(12.0, 2.0);
        other.protection = crate::process::protection::Protection::Coating;
        let operator = Operator::parse("Tove").unwrap();
        let a = subject(&x, "w2", &plain);
        let b = Subject {
            operator: Some(&operator),
            tester: Some(Uuid::from_u128(1)),
            bar: Some(Uuid::from_u128(2)),
            ..subject(&y, "w2", &other)
        };
        let named = |all: &[Aspect]| format!("{all:?}");
        assert_eq!(
            named(&differing(a, b)),
            "[Bar, Sizes, Protection, Clay, Heat, Operator, Temper, Tester]"
        );
        // Of another steel a bar is nothing by itself.
        let c = Subject {
            steel: Steel::built_in("1095").unwrap(),
            ..b
        };
        assert_eq!(named(&differing(a, c)[..2]), "[Steel, Sizes]");
    }

    #[test]
    fn effects_add_up_and_point_the_right_way() {
        let (x, y) = (steps(790.0, 190.0, 7200.0), steps(800.0, 240.0, 7200.0));
        let work = Workpiece::plain(&blade());
        let thick = Workpiece::plain(&crate::geometry::blade::Blade {
            spine_mm: 25.0,
            ..blade()
        });
        let (a, b) = (subject(&x, "w2", &work), subject(&y, "1075", &thick));
        let all = effects(a, b, When::Tempered, false, &Model::default(), None).unwrap();
        let reading = |s: Subject<'_>| {
            let section = section(s.plan, s.steel, s.work);
            of_section(s.plan, s.steel, &section, Shift::default()).tempered_hrc
        };
        let sum: f64 = all.iter().map(|e| e.engine_hrc).sum();
        assert!(
            (sum - (reading(b) - reading(a))).abs() < 1e-6,
            "{sum} {all:?}"
        );
        let one = |aspect| all.iter().find(|e| e.aspect == aspect).unwrap();
        assert!(one(Aspect::Temper).engine_hrc < -1.5, "{all:?}");
        assert!(one(Aspect::Sizes).engine_hrc < -0.1, "{all:?}");
        assert!(
            all.iter()
                .all(|e| e.records_hrc == 0.0 && e.line_mm.is_none())
        );
    }

    #[test]
    fn clay_and_a_longer_swim_move_the_line() {
        let swim = |seconds: f64| {
            plan(&format!(
                r#"[{{"kind":"austenitize","temperature_c":790,"soak_s":480}},
                    {{"kind":"quench","stages":[{{"medium":"water","for_s":{seconds}}},{{"medium":"fast_oil"}}]}},
                    {{"kind":"temper","temperature_c":200,"hold_s":7200}}]"#
            ))
        };
        let form = crate::geometry::blade::Blade {
            spine_mm: 5.5,
            edge_mm: 0.6,
            ..blade()
        };
        let work = |from: f64| Workpiece {
            clay: Clay::band(from, 2.5),
            ..Workpiece::plain(&form)
        };
        let (x, y) = (swim(1.5), swim(6.0));
        let (low, high) = (work(8.0), work(14.0));
        let (a, b) = (subject(&x, "1095", &low), subject(&y, "1095", &high));
        let all = effects(a, b, When::AsQuenched, true, &Model::default(), None).unwrap();
        let aspects: Vec<Aspect> = all.iter().map(|e| e.aspect).collect();
        assert_eq!(aspects, [Aspect::Clay, Aspect::Quench]);
        assert!(all.iter().all(|e| e.line_mm.unwrap() > 0.3), "{all:?}");
    }

    #[test]
    fn the_records_tell_of_a_hand() {
        let x = steps(790.0, 200.0, 7200.0);
        let work = Workpiece::plain(&blade());
        let operators = ["Tove", "Aksel"].map(|n| Operator::parse(n).unwrap());
        let by = |i: usize| Subject {
            operator: Some(&operators[i]),
            ..subject(&x, "w2", &work)
        };
        let records = (0..20)
            .map(|i| {
                let features = Features {
                    blade: Some(Uuid::from_u128(i as u128)),
                    ..seen(by(i % 2), When::Tempered)
                };
                Record {
                    features,
                    physics_hrc: 61.0,
                    measured_hrc: 61.0 - 0.8 * (i % 2) as f64 + 0.1 * (i % 3) as f64,
                    readings: 3,
                    bracket_hrc: None,
                }
            })
            .collect();
        let model = Model::fit(records);
        let all = effects(by(0), by(1), When::Tempered, false, &model, None).unwrap();
        assert_eq!(all.len(), 1);
        assert_eq!((all[0].aspect, all[0].engine_hrc), (Aspect::Operator, 0.0));
        assert!((-0.9..-0.3).contains(&all[0].records_hrc), "{all:?}");
    }

    #[test]
    fn the_last_word_counts_but_a_crack_stays() {
        let crack = |cracked| Finding::Crack {
            cracked,
            place: None,
        };
        let side = |sag_mm| Finding::Side { sag_mm };
        let line = Finding::Line {
            second: false,
            places: vec![[20.0, 8.0], [60.0, 10.0]],
            band_mm: None,
            clarity: None,
            liveliness: None,
            photo_id: None,
        };
        let all = [crack(true), side(-0.4), side(-0.2), line, crack(false)];
        let came = Came::from_findings(all.iter());
        assert_eq!(
            (came.cracked, came.side_mm, came.line_mm),
            (Some(true), Some(0.2), Some(9.0))
        );
        assert_eq!(Came::from_findings([].iter()), Came::default());
        assert_eq!(
            Came::from_findings([crack(false)].iter()).cracked,
            Some(false)
        );
    }

    #[test]
    fn what_does_not_matter_for_hardness_is_left_out_of_the_stretches() {
        let sorted = Stretches::new(steps(790.0, 200.0, 7200.0).steps());
        assert_eq!(sorted.before.len(), 3);
        let counts = [&sorted.heat, &sorted.quench, &sorted.cold, &sorted.temper].map(Vec::len);
        assert_eq!(counts, [1, 1, 0, 1]);
        assert_eq!(Stretches::new(&[]), Stretches::default());
    }
}
