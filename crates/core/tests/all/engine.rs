//! The engine as a whole: what must come out of the simulation without being put in, and that it answers
//! anything inside the allowed range.

use proptest::prelude::*;
use rstest::rstest;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::geometry::clay::{Band, Clay, ClayDraft, Face};
use vatten_core::geometry::form::Form;
use vatten_core::material::dissolution::{Structure, dissolve};
use vatten_core::material::medium::Medium;
use vatten_core::material::steel::Steel;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Stage;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::{Celsius, Quantity, Seconds};
use vatten_core::simulation::hamon::{Hamon, Line, hamon};
use vatten_core::simulation::quench::{Quenched, Setup, quench};
use vatten_core::simulation::simulated::simulated;
use vatten_core::simulation::transformation::Kinetics;
use vatten_core::simulation::warp::blade::Bend;

fn blade(width: f64, spine: f64, edge: f64, grind: &str) -> Blade {
    Blade::parse(&BladeDraft {
        shape: Some("plain".into()),
        length_mm: Some(180.0),
        width_mm: Some(width),
        spine_mm: Some(spine),
        edge_mm: Some(edge),
        grind: Some(grind.into()),
    })
    .unwrap()
}

/// How a steel's nominal austenite transforms, and the nominal heat.
fn nominal(steel: &str) -> (Kinetics, Celsius) {
    let steel = Steel::built_in(steel).unwrap();
    let nominal = steel.austenitize.nominal;
    let d = dissolve(&steel.limits(), nominal, steel.soak, Structure::Normalized);
    let kinetics = Kinetics::new(&d.composition, steel.ac1_c, 9.0, d.martensite_start_c);
    (kinetics, nominal)
}

struct Run<'a> {
    steel: &'a str,
    blade: Blade,
    clay: Clay,
    stages: Vec<Stage>,
    step_mm: f64,
    refine: f64,
    faces: [f64; 2],
}

impl<'a> Run<'a> {
    fn new(steel: &'a str, medium: Medium) -> Self {
        Self {
            steel,
            blade: blade(30.0, 5.0, 0.6, "flat"),
            clay: Clay::default(),
            stages: vec![Stage::until_cold(medium)],
            step_mm: 2.0,
            refine: 1.0,
            faces: [1.0, 1.0],
        }
    }

    fn go(&self) -> Quenched {
        let form = Form::from_blade(&self.blade);
        let (kinetics, start) = nominal(self.steel);
        quench(
            Setup {
                step_mm: self.step_mm,
                refine: self.refine,
                faces: self.faces,
                ..Setup::usual(&form, &self.clay, &kinetics, start, &self.stages)
            },
            None,
        )
        .unwrap()
    }

    fn line(&self) -> Line {
        match hamon(&self.go(), self.blade.length_mm) {
            Hamon::Line(line) => line,
            Hamon::None { none } => panic!("{none:?}"),
        }
    }

    /// As the application has it: from the nominal heat through the medium.
    fn bend(&self) -> Bend {
        let steel = Steel::built_in(self.steel).unwrap();
        let work = Workpiece {
            clay: self.clay.clone(),
            ..Workpiece::plain(&self.blade)
        };
        let steps = format!(
            r#"[{{"kind":"normalize","temperature_c":860}},{{"kind":"austenitize","temperature_c":{},"soak_s":{}}},
                {{"kind":"quench","stages":[{{"medium":"{}"}}]}}]"#,
            steel.austenitize.nominal.value(),
            steel.soak.value(),
            self.stages[0].medium.id(),
        );
        let drafts: Vec<_> = serde_json::from_str(&steps).unwrap();
        let plan = Plan::parse(&drafts).unwrap();
        simulated(&work, &plan, steel, None).unwrap().bend
    }

    fn sori(&self) -> f64 {
        self.bend().sori_mm
    }

    fn side(&self) -> f64 {
        self.bend().side_mm.abs()
    }
}

#[test]
fn brine_hardens_five_millimetres_of_water_steel_through() {
    let run = Run {
        blade: blade(40.0, 5.0, 5.0, "none"),
        ..Run::new("w2", Medium::Brine)
    };
    let q = run.go();
    assert!(q.hardened(q.cell_at(90.0, 20.0).unwrap()) > 0.5);
}

#[test]
fn thick_clay_sits_lower_than_thin_in_oil() {
    let with = |mm| {
        let run = Run {
            clay: Clay::band(12.0, mm),
            ..Run::new("w2", Medium::FastOil)
        };
        run.line().height_mm
    };
    assert!(with(4.0) < with(1.0) - 0.2);
}

#[rstest]
#[case("o1", Medium::MediumOil)]
#[case("5160", Medium::MediumOil)]
#[case("80crv2", Medium::FastOil)]
fn alloyed_oil_steels_show_no_line(#[case] steel: &str, #[case] medium: Medium) {
    let q = Run::new(steel, medium).go();
    assert!(matches!(hamon(&q, 180.0), Hamon::None { .. }));
}

#[test]
fn halving_grid_and_step_hardly_moves_the_line() {
    for run in [
        Run::new("w2", Medium::FastOil),
        Run {
            clay: Clay::band(12.0, 2.0),
            ..Run::new("1095", Medium::FastOil)
        },
    ] {
        let coarse = Run {
            step_mm: 1.0,
            ..run
        };
        let fine = Run {
            step_mm: 0.5,
            refine: 2.0,
            clay: coarse.clay.clone(),
            stages: coarse.stages.clone(),
            ..coarse
        };
        let (a, b) = (coarse.line(), fine.line());
        assert!(
            (a.height_mm - b.height_mm).abs() < 0.5,
            "{} {}",
            a.height_mm,
            b.height_mm
        );
    }
}

#[test]
fn heat_is_neither_made_nor_lost() {
    for medium in [
        Medium::Brine,
        Medium::Water,
        Medium::FastOil,
        Medium::StillAir,
    ] {
        let run = Run {
            clay: Clay::band(14.0, 2.0),
            faces: [1.0, 1.1],
            ..Run::new("1084", medium)
        };
        let (lost, given) = run.go().energy_j;
        assert!(
            (lost / given - 1.0).abs() < 0.005,
            "{medium:?} {lost} {given}"
        );
    }
}

#[test]
fn same_input_same_output_to_the_bit() {
    let run = Run {
        clay: Clay::band(14.0, 2.0),
        ..Run::new("w2", Medium::Water)
    };
    assert_eq!(run.go(), run.go());
}

// The four facts of bending.

#[rstest]
#[case("w2")]
#[case("1095")]
#[case("1050")]
fn clayed_in_water_it_curves_towards_the_spine(#[case] steel: &str) {
    let run = Run {
        clay: Clay::band(12.0, 3.0),
        ..Run::new(steel, Medium::Water)
    };
    assert!(run.sori() > 0.3, "{}", run.sori());
}

#[rstest]
#[case("w2")]
#[case("1095")]
#[case("1050")]
fn clayed_in_oil_it_curves_towards_the_edge(#[case] steel: &str) {
    let run = Run {
        clay: Clay::band(12.0, 1.0),
        ..Run::new(steel, Medium::FastOil)
    };
    assert!(run.sori() < -0.1, "{}", run.sori());
}

fn clay_on_one_face() -> Clay {
    let face = |mm| Face {
        band: Some(Band {
            from_edge_mm: 12.0,
            thickness_mm: mm,
        }),
        ..Face::default()
    };
    Clay::parse(&ClayDraft {
        left: face(3.0),
        right: Some(Face::default()),
        ..ClayDraft::default()
    })
    .unwrap()
}

#[test]
fn unequal_clay_bends_it_sideways() {
    let even = Run {
        clay: Clay::band(12.0, 3.0),
        ..Run::new("1095", Medium::FastOil)
    };
    let uneven = Run {
        clay: clay_on_one_face(),
        ..Run::new("1095", Medium::FastOil)
    };
    assert_eq!(even.side(), 0.0);
    assert!(uneven.side() > 0.05);
}

// One steel may come out nearly straight by chance of opposing strains; over the three shallow ones
// water bends more, as in the shop.
#[test]
fn unequal_clay_bends_it_more_in_water_than_in_oil() {
    let bend = |medium| {
        let runs = ["w2", "1095", "1050"].map(|steel| Run {
            clay: clay_on_one_face(),
            ..Run::new(steel, medium)
        });
        runs.iter().map(Run::side).sum::<f64>() / 3.0
    };
    let (water, oil) = (bend(Medium::Water), bend(Medium::FastOil));
    assert!(water > 1.3 * oil, "{water} {oil}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn anything_allowed_is_answered(
        steel in 0..46_usize, medium in 0..11_usize, second in 0..11_usize, secs in 0.1..600.0_f64,
        start in 20.0..1250.0_f64, austenite in 0.0..1.0_f64, spine in 0.5..25.0_f64, edge in 0.05..3.0_f64,
        length in 10.0..300.0_f64, width in 3.0..80.0_f64, from in 0.0..40.0_f64, mm in 0.0..10.0_f64,
        left in 0.5..2.0_f64,
    ) {
        let steel = &Steel::table()[steel];
        let d = dissolve(&steel.limits(), steel.austenitize.nominal, steel.soak, Structure::Spheroidized);
        let kinetics = Kinetics::new(&d.composition, steel.ac1_c, 6.0, d.martensite_start_c);
        let blade = Blade::parse(&BladeDraft {
            shape: Some("bill".into()), length_mm: Some(length), width_mm: Some(width),
            spine_mm: Some(spine), edge_mm: Some(edge.min(spine)), grind: Some("hollow".into()),
        }).unwrap();
        let form = Form::from_blade(&blade);
        let clay = Clay::band(from, mm);
        let stages = [
            Stage { for_s: Some(Seconds::clamped(secs)), ..Stage::until_cold(Medium::ALL[medium]) },
            Stage::until_cold(Medium::ALL[second]),
        ];
        let q = quench(Setup {
            austenite, step_mm: 4.0, faces: [left, 1.0],
            ..Setup::usual(&form, &clay, &kinetics, Celsius::clamped(start), &stages)
        }, None).unwrap();
        for cell in 0..q.grid.thickness_mm.len() {
            let (hard, hrc) = (q.hardened(cell), q.hrc(cell, 65.0));
            prop_assert!((-1e-9..=1.0 + 1e-9).contains(&hard) && hrc.is_finite());
        }
        prop_assert!(q.frames.iter().all(|f| f.temperature_c.iter().all(|t| t.is_finite())));
        if let Hamon::Line(line) = hamon(&q, length) {
            prop_assert!(line.points.iter().all(|p| p.low_mm <= p.height_mm && p.height_mm <= p.high_mm));
            prop_assert!(line.liveliness.is_finite() && line.band_mm.is_finite());
        }
    }

    #[test]
    fn thicker_clay_never_raises_the_line_in_oil(thin in 0.5..5.0_f64, more in 0.5..5.0_f64, from in 8.0..16.0_f64) {
        let with = |mm| Run { clay: Clay::band(from, mm), ..Run::new("w2", Medium::FastOil) }.line().height_mm;
        prop_assert!(with(thin + more) <= with(thin) + 0.15);
    }
}
