//! Softer than it should be: each cause says by the engine what would then have been read, and what was
//! read says how likely that is.

use super::{Case, Culprit, Evidence, Suspect, austenitize_at, last_heat, temper_hotter};
use crate::material::medium::Medium;
use crate::material::steel::{Origin, Steel};
use crate::process::furnace::Furnace;
use crate::process::plan::Plan;
use crate::process::step::{Stage, Step};
use crate::quantity::interval::{Interval, NINETY, upper_tail};
use crate::quantity::units::{Quantity, Seconds};
use crate::record::finding::Finding;
use crate::record::reading::When;
use crate::simulation::physics::{Shift, of_section, section};

/// A skin of a tenth of a millimetre takes this off a Rockwell reading, HRC: the cone goes about as deep.
const SKIN_HRC_PER_MM: f64 = 40.0;

/// As quenched and tempered, HRC.
#[derive(Debug, Clone, Copy)]
struct Pair(f64, f64);

/// What physics says of a plan and steel with the fires off by so much.
fn hardness(case: &Case<'_>, plan: &Plan, steel: &Steel, shift: Shift) -> Pair {
    let section = section(plan, steel, case.subject.work);
    let p = of_section(plan, steel, &section, shift);
    Pair(p.as_quenched_hrc, p.tempered_hrc)
}

/// The plan with another soak, in shares of what was done.
fn soaked(plan: &Plan, share: f64) -> Plan {
    let mut steps = plan.steps().to_vec();
    for step in &mut steps {
        if let Step::Austenitize { soak_s, .. } = step {
            *soak_s = Seconds::clamped(share * soak_s.value());
        }
    }
    plan.with_steps(steps)
}

/// The plan with a bath that takes heat more slowly than its name says: old, cold, or reached late.
fn slower(plan: &Plan) -> Plan {
    let mut steps = plan.steps().to_vec();
    let Some(Step::Quench { stages }) = plan.last_quench().map(|i| &mut steps[i]) else {
        return plan.clone();
    };
    for stage in stages {
        let medium = match stage.medium {
            Medium::Brine => Medium::Water,
            Medium::Water | Medium::FastOil => Medium::MediumOil,
            Medium::MediumOil => Medium::SlowOil,
            Medium::Plates => Medium::ForcedAir,
            _ => Medium::StillAir,
        };
        *stage = Stage {
            for_s: stage.for_s,
            ..Stage::until_cold(medium)
        };
    }
    plan.with_steps(steps)
}

/// Density with heavy tails (Student's with four degrees of freedom, but for its constant): a cause that
/// explains most of a large miss is not ruled out by the rest of it.
fn heavy(z: f64) -> f64 {
    (1.0 + 0.25 * z * z).powf(-2.5)
}

/// How likely the readings are when these hardnesses were to be read, give or take `doubt` HRC.
fn likelihood(case: &Case<'_>, expected: Pair, doubt: (f64, f64)) -> f64 {
    let mut all = 1.0;
    for (when, hrc, width) in [
        (When::AsQuenched, expected.0, doubt.0),
        (When::Tempered, expected.1, doubt.1),
    ] {
        if let Some(mean) = case.read(when) {
            all *= heavy((mean - hrc) / width) / width;
        }
        for bracket in case.brackets(when) {
            // A file is judged by hand: a point or two either way.
            let wide = width.hypot(FILE_HRC);
            let over = |bound: f64| upper_tail((bound - hrc) / wide);
            all *= (over(bracket.low_hrc) - over(bracket.high_hrc)).max(LEAST);
        }
    }
    all
}

/// How far off a file or punch is judged, one standard deviation, HRC.
const FILE_HRC: f64 = 1.5;
/// A cause that makes a file finding all but impossible is not ruled out by it alone.
const LEAST: f64 = 0.02;

/// Everything weighed, with what physics would have been read.
pub(super) fn suspects(case: &Case<'_>) -> Vec<Suspect> {
    let subject = case.subject;
    let (plan, steel) = (subject.plan, subject.steel);
    let physics = of_section(
        plan,
        steel,
        &section(plan, steel, subject.work),
        Shift::default(),
    );
    // What was predicted, moved by what was done otherwise than planned; each cause moves it further.
    let planned = hardness(case, case.planned, steel, Shift::default());
    let before = case.predicted;
    let off = Pair(
        before.as_quenched.middle - planned.0,
        before.tempered.middle - planned.1,
    );
    let shifted = |p: Pair| Pair(p.0 + off.0, p.1 + off.1);
    let base = shifted(Pair(physics.as_quenched_hrc, physics.tempered_hrc));
    let deviation = |i: Interval| 0.5 * i.width() / NINETY;
    let wide = |by: f64| {
        let spread = |i: Interval| deviation(i).max(0.3).hypot(by);
        (spread(before.as_quenched), spread(before.tempered))
    };
    let weigh = |prior: f64, versions: &[Pair], doubt: f64| {
        let mean: f64 = versions
            .iter()
            .map(|v| likelihood(case, *v, wide(doubt)))
            .sum();
        prior * mean / versions.len().max(1) as f64
    };
    let less = |drop: f64| Pair(base.0 - drop, base.1 - drop);
    // What would then have been read, at the stage that something is known of.
    let told_apart = |p: Pair| match (case.read(When::Tempered), case.read(When::AsQuenched)) {
        (Some(_), _) => Evidence::WouldBe {
            hrc: p.1,
            when: When::Tempered,
            read: true,
        },
        (None, Some(_)) => Evidence::WouldBe {
            hrc: p.0,
            when: When::AsQuenched,
            read: true,
        },
        (None, None) if case.has_brackets(When::Tempered) => Evidence::WouldBe {
            hrc: p.1,
            when: When::Tempered,
            read: false,
        },
        (None, None) if case.has_brackets(When::AsQuenched) => Evidence::WouldBe {
            hrc: p.0,
            when: When::AsQuenched,
            read: false,
        },
        (None, None) => Evidence::NothingRead {},
    };
    let fire = |by: f64| {
        let shift = Shift {
            kiln_c: by,
            oven_c: 0.0,
        };
        shifted(hardness(case, plan, steel, shift))
    };
    let oven = |by: f64| {
        let shift = Shift {
            kiln_c: 0.0,
            oven_c: by,
        };
        shifted(hardness(case, plan, steel, shift))
    };
    let heat_c = last_heat(case, |s| matches!(s, Step::Austenitize { .. })).map(|h| h.1);
    let tempered = last_heat(case, |s| matches!(s, Step::Temper { .. }));
    let nominal = steel.austenitize.nominal.value();
    let (skin_on, warm) = (
        case.readings.iter().any(|r| r.skin_on) || case.all_brackets().any(|b| b.skin_on),
        case.readings.iter().any(|r| r.warm) || case.all_brackets().any(|b| b.warm),
    );
    let skin_mm = case.outcomes.map_or(0.02, |o| o.decarburization_mm);
    let skin_hrc = (SKIN_HRC_PER_MM * skin_mm).clamp(0.5, 15.0);
    let forge = subject.work.furnace == Furnace::Forge;
    let (kiln, oven_id) = crate::prediction::subject::stations(plan);
    let known = plan.corrections();
    // By what it was set to: a check tells of what the station shows.
    let checked = |station, really: Option<f64>| {
        really.is_some_and(|t| known.tells(station, known.shown(station, t)) > 0.5)
    };
    let heat_checked = checked(kiln, heat_c);
    let oven_checked = checked(oven_id, tempered.map(|t| t.1));

    let (cool, cooler, coolest) = (fire(-25.0), fire(-50.0), fire(-85.0));
    let brief = shifted(hardness(case, &soaked(plan, 0.15), steel, Shift::default()));
    let slowed = slower(plan);
    let slow = shifted(hardness(case, &slowed, steel, Shift::default()));
    let slowest = shifted(hardness(case, &slower(&slowed), steel, Shift::default()));
    let (hot, hotter) = (oven(18.0), oven(35.0));
    let over = fire(40.0);
    let mut lean_analysis = steel.analysis;
    lean_analysis.carbon = (lean_analysis.carbon - 0.2).max(0.1);
    let lean = shifted(hardness(
        case,
        plan,
        &steel.with_analysis(&lean_analysis),
        Shift::default(),
    ));
    let seen_cool = case.heat.map(|s| s.planned_c - s.real_c);
    let seen_hot = case.temper.map(|s| s.real_c - s.planned_c);
    let briefly = case.heat.map(|s| s.time_share);
    let burned = case.found(|f| matches!(f, Finding::Burn { .. }));

    vec![
        Suspect::new(
            Culprit::SkinRead,
            weigh(0.14, &[less(skin_hrc)], 0.4 * skin_hrc),
        )
        .given(skin_on, 6.0, Evidence::ReadWithSkin {})
        .says(Evidence::SkinReadsSofter { skin_mm, skin_hrc }),
        Suspect::new(Culprit::ReadWarm, weigh(0.05, &[less(1.5)], 1.0)).given(
            warm,
            8.0,
            Evidence::ReadWarm {},
        ),
        Suspect::new(
            Culprit::TesterLow,
            weigh(0.08, &[less(1.5), less(3.0)], 1.0),
        )
        .given(case.tester_checked, 0.25, Evidence::TesterChecked {}),
        Suspect::new(Culprit::TooCool, weigh(0.15, &[cool, cooler, coolest], 1.0))
            .given(forge, 1.6, Evidence::ForgeByEye {})
            .given(heat_checked, 0.4, Evidence::KilnChecked {})
            .given(
                seen_cool.is_some_and(|c| c < 8.0),
                0.1,
                Evidence::SawAtHeat {},
            )
            .given(
                seen_cool.is_some_and(|c| c >= 12.0),
                5.0,
                Evidence::SawCooler {},
            )
            .says(told_apart(cool))
            .fixed(heat_c.and_then(|c| austenitize_at(case, c + 15.0))),
        Suspect::new(Culprit::ShortSoak, weigh(0.08, &[brief], 1.0))
            .given(
                briefly.is_some_and(|s| s >= 0.9),
                0.1,
                Evidence::SawWholeSoak {},
            )
            .given(
                briefly.is_some_and(|s| s < 0.6),
                5.0,
                Evidence::SawShortSoak {},
            )
            .says(told_apart(brief)),
        Suspect::new(Culprit::SlowQuench, weigh(0.16, &[slow, slowest], 1.2))
            .says(told_apart(slow)),
        Suspect::new(Culprit::OverTempered, weigh(0.15, &[hot, hotter], 0.6))
            .given(tempered.is_none(), 0.0, Evidence::NotTempered {})
            .given(oven_checked, 0.35, Evidence::OvenChecked {})
            .given(
                seen_hot.is_some_and(|c| c < 8.0),
                0.1,
                Evidence::SawNoHotterTemper {},
            )
            .given(
                seen_hot.is_some_and(|c| c >= 10.0),
                5.0,
                Evidence::SawHotterTemper {},
            )
            .says(told_apart(hot))
            .fixed(temper_hotter(case, -15.0)),
        Suspect::new(Culprit::AusteniteLeft, weigh(0.06, &[over], 1.0))
            .given(
                seen_cool.is_some_and(|c| c > -8.0),
                0.2,
                Evidence::SawNoHotterFire {},
            )
            .says(told_apart(over))
            .fixed(
                heat_c
                    .filter(|c| *c > nominal)
                    .and_then(|_| austenitize_at(case, nominal)),
            ),
        Suspect::new(Culprit::NotThisSteel, weigh(0.08, &[lean], 1.5))
            .given(
                subject.bar.is_some() && steel.origin != Origin::Table,
                0.4,
                Evidence::BarHasAnalysis {},
            )
            .given(
                matches!(steel.origin, Origin::Trial { .. }),
                2.0,
                Evidence::SteelByTrial {},
            )
            .says(told_apart(lean)),
        Suspect::new(Culprit::Burned, weigh(0.02, &[less(4.0)], 3.0))
            .given(
                !burned && case.read(When::Tempered).is_none(),
                0.0,
                Evidence::NotAtBelt {},
            )
            .given(burned, 20.0, Evidence::BeltColour {}),
        Suspect::new(Culprit::Scatter, weigh(0.15, &[base], 0.2)).says(told_apart(base)),
        Suspect::new(
            Culprit::LongTemper,
            weigh(0.03, &[shifted(longer(case))], 0.6),
        )
        .given(tempered.is_none(), 0.0, Evidence::NotTempered {}),
    ]
}

/// As done, but each temper three times as long.
fn longer(case: &Case<'_>) -> Pair {
    let plan = case.subject.plan;
    let mut steps = plan.steps().to_vec();
    for step in &mut steps {
        if let Step::Temper { hold_s, .. } = step {
            *hold_s = Seconds::clamped(3.0 * hold_s.value());
        }
    }
    hardness(
        case,
        &plan.with_steps(steps),
        case.subject.steel,
        Shift::default(),
    )
}

#[cfg(test)]
mod tests {
    use super::super::tests::{Bench, read};
    use super::super::{Cause, Seen, Symptom, diagnose};
    use super::*;
    use crate::process::change::Change;
    use crate::testing::code;

    fn chance(causes: &[Cause], cause: &str) -> f64 {
        causes
            .iter()
            .find(|c| code(&c.cause) == cause)
            .map_or(0.0, |c| c.chance)
    }

    #[test]
    fn hard_before_and_soft_after_is_the_oven() {
        let bench = Bench::new("1084", "fast_oil");
        let mut case = bench.case();
        case.readings = vec![read(When::AsQuenched, 65.2), read(When::Tempered, 58.6)];
        let causes = diagnose(&case, Symptom::Soft).causes;
        assert_eq!(causes[0].cause, Culprit::OverTempered, "{causes:#?}");
        assert!(causes[0].fix.is_some() && causes[0].chance > 0.25);
        // A thermocouple that saw nothing of the kind clears it.
        case.temper = Some(Seen {
            planned_c: 205.0,
            real_c: 206.0,
            time_share: 1.0,
        });
        let cleared = diagnose(&case, Symptom::Soft).causes;
        assert!(chance(&cleared, "over_tempered") < 0.5 * causes[0].chance);
    }

    #[test]
    fn soft_from_the_quench_is_heat_or_bath() {
        let bench = Bench::new("1084", "fast_oil");
        let mut case = bench.case();
        case.readings = vec![read(When::AsQuenched, 50.0)];
        let causes = diagnose(&case, Symptom::Soft).causes;
        let upstream = ["too_cool", "short_soak", "slow_quench", "not_this_steel"];
        let sum: f64 = upstream.iter().map(|c| chance(&causes, c)).sum();
        assert!(sum > 0.6, "{causes:#?}");
        assert!(chance(&causes, "over_tempered") < 0.05 && chance(&causes, "scatter") < 0.05);
        // A fire that was seen to be cool is the cause.
        case.heat = Some(Seen {
            planned_c: 815.0,
            real_c: 770.0,
            time_share: 1.0,
        });
        let seen = diagnose(&case, Symptom::Soft).causes;
        assert!(chance(&seen, "too_cool") > chance(&causes, "too_cool"));
    }

    #[test]
    fn a_little_soft_with_the_skin_on_is_the_skin() {
        let bench = Bench::new("1084", "fast_oil");
        let mut case = bench.case();
        let mut low = read(When::Tempered, 60.3);
        low.skin_on = true;
        case.readings = vec![low];
        let causes = diagnose(&case, Symptom::Soft).causes;
        assert_eq!(causes[0].cause, Culprit::SkinRead, "{causes:#?}");
        assert!(causes[0].why.contains(&Evidence::ReadWithSkin {}));
    }

    #[test]
    fn a_fix_is_what_the_oven_is_to_be_set_to() {
        use crate::process::calibration::{Against, Calibration, Check, Corrections};
        use crate::process::plan::Stations;
        use crate::process::station::Scale;
        let oven = uuid::Uuid::from_u128(3);
        let check = Calibration::parse(&[[205.0, 215.0]], Scale::Temperature).unwrap();
        let check = Check {
            at_s: 0,
            against: Against::Thermometer,
            points: check,
        };
        let known = Corrections::new(0, [(oven, check)]);
        let mut bench = Bench::new("1084", "fast_oil");
        let at = Stations {
            kiln: None,
            oven: Some(oven),
        };
        bench.plan = bench
            .plan
            .with_stations(at)
            .with_corrections(std::sync::Arc::new(known));
        let mut case = bench.case();
        case.readings = vec![read(When::AsQuenched, 65.2), read(When::Tempered, 57.5)];
        let causes = diagnose(&case, Symptom::Soft).causes;
        let oven = causes
            .iter()
            .find(|c| c.cause == Culprit::OverTempered)
            .unwrap();
        // It was set to 205 °C and really was 215; 15 °C less is set as 190.
        assert!(
            matches!(oven.fix, Some(Change::Set { value: 190.0, .. })),
            "{:?}",
            oven.fix
        );
    }

    #[test]
    fn a_file_that_bites_says_what_a_reading_would() {
        let mut bench = Bench::new("1084", "fast_oil");
        let file = |high_hrc: f64| Finding::File {
            stage: When::AsQuenched,
            low_hrc: None,
            high_hrc: Some(high_hrc),
            warm: false,
            skin_on: false,
        };
        bench.findings = vec![file(55.0)];
        let causes = diagnose(&bench.case(), Symptom::Soft).causes;
        let upstream = ["too_cool", "short_soak", "slow_quench", "not_this_steel"];
        let sum: f64 = upstream.iter().map(|c| chance(&causes, c)).sum();
        assert!(sum > 0.5, "{causes:#?}");
        assert!(chance(&causes, "over_tempered") < 0.1);
        let says = |causes: &[Cause], what: fn(&Evidence) -> bool| {
            causes.iter().flat_map(|c| &c.why).any(what)
        };
        assert!(!says(&causes, |w| *w == Evidence::NothingRead {}));
        let as_quenched = |w: &Evidence| {
            let Evidence::WouldBe { when, read, .. } = w else {
                return false;
            };
            *when == When::AsQuenched && !read
        };
        assert!(says(&causes, as_quenched));
        bench.findings = vec![Finding::Punch {
            stage: When::Tempered,
            punch_hrc: 58.0,
            marked: true,
            warm: true,
            skin_on: false,
        }];
        let causes = diagnose(&bench.case(), Symptom::Soft).causes;
        assert!(
            says(&causes, |w| *w == Evidence::ReadWarm {}),
            "{causes:#?}"
        );
    }

    #[test]
    fn just_as_predicted_is_chance() {
        let bench = Bench::new("1084", "fast_oil");
        let mut case = bench.case();
        case.readings = vec![read(When::Tempered, 61.9)];
        case.tester_checked = true;
        let causes = diagnose(&case, Symptom::Soft).causes;
        assert!(chance(&causes, "scatter") > 0.15, "{causes:#?}");
    }
}
