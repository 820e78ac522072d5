//! What findings teach: each is held against what was predicted of that very quench.

use super::habit::{CLARITY, Habit, LINE, SAG, Seen, sag_residual};
use crate::crack;
use crate::finding::Finding;
use crate::medium::Medium;
use crate::outcome::{Habits, Outcomes, UNEVENNESS_PERCENT};
use uuid::Uuid;

/// A finding with the quench it came of.
#[derive(Debug, Clone, Copy)]
pub struct Found<'a> {
    /// The blade.
    pub blade: Uuid,
    /// Key of the steel.
    pub steel: &'a str,
    /// First medium of the quench.
    pub medium: Medium,
    /// What was predicted when it was frozen.
    pub predicted: &'a Outcomes,
    /// What was found.
    pub finding: &'a Finding,
}

impl Habits {
    /// Learns from findings. File brackets belong to the hardness model and are left aside here.
    #[must_use]
    pub fn learn<'a>(all: impl Iterator<Item = Found<'a>>) -> Self {
        let (mut sags, mut lines, mut bands, mut cracks) =
            (Vec::new(), Vec::new(), Vec::new(), Vec::new());
        for f in all {
            let seen = |residual: f64| Seen {
                blade: f.blade,
                steel: f.steel.to_owned(),
                medium: f.medium,
                residual,
            };
            match f.finding {
                Finding::Line {
                    places, band_mm, ..
                } => {
                    let Some(line) = f.predicted.hamon.line() else {
                        continue;
                    };
                    lines.extend(
                        places
                            .iter()
                            .filter_map(|[x, height]| Some(seen(height - line.simulated_mm(*x)?))),
                    );
                    let simulated = line.band_mm / line.learned_wider;
                    if let Some(band) = band_mm.filter(|b| *b > 0.05 && simulated > 0.05) {
                        bands.push(seen((band / simulated).ln()));
                    }
                }
                Finding::Crack { cracked } => cracks.push(crack::Outcome {
                    causes: f.predicted.crack_causes,
                    cracked: *cracked,
                }),
                found => {
                    let per_ten = f.predicted.bend.side_mm_per_10_percent;
                    let sag = found.sag_mm();
                    let residual = sag.and_then(|s| sag_residual(s, per_ten, UNEVENNESS_PERCENT));
                    sags.extend(residual.map(seen));
                }
            }
        }
        Self {
            crack: crack::Model::fit(&cracks),
            sag: Habit::fit(SAG, sags),
            line: Habit::fit(LINE, lines),
            clarity: Habit::fit(CLARITY, bands),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::outcome::outcomes;
    use crate::physics::tests::{blade, plan};
    use crate::steel::Steel;
    use crate::work::Work;

    fn predicted(habits: &Habits) -> Outcomes {
        let plan = plan(
            r#"[{"kind":"normalize","temperature_c":870,"times":3},{"kind":"austenitize","temperature_c":795,"soak_s":480},
                {"kind":"quench","stages":[{"medium":"water"}]}]"#,
        );
        let work = Work::plain(&blade());
        let steel = Steel::built_in("w2").unwrap();
        outcomes(&work, &plan, steel, habits, 2.0, None).unwrap().0
    }

    fn learn(predicted: &Outcomes, findings: &[Finding]) -> Habits {
        Habits::learn(findings.iter().enumerate().map(|(i, finding)| Found {
            blade: Uuid::from_u128(i as u128),
            steel: "w2",
            medium: Medium::Water,
            predicted,
            finding,
        }))
    }

    #[test]
    fn lines_that_come_out_lower_pull_the_next_one_down() {
        let first = predicted(&Habits::default());
        let line = first.hamon.line().unwrap();
        let at = |x: f64| [x, line.simulated_mm(x).unwrap() - 3.0];
        let finding = Finding::Line {
            places: vec![at(40.0), at(90.0), at(140.0)],
            band_mm: Some(0.5 * line.band_mm),
            clarity: None,
            liveliness: None,
            photo_id: None,
        };
        let habits = learn(&first, &vec![finding.clone(); 5]);
        let next = predicted(&habits);
        let now = next.hamon.line().unwrap();
        assert!(now.height_mm < line.height_mm - 1.5, "{}", now.height_mm);
        assert!(now.band_mm < 0.8 * line.band_mm);
        let width = |l: &crate::hamon::Line| l.points[5].high_mm - l.points[5].height_mm;
        assert!(width(now) < width(line));
        assert!(
            next.outcome_reasons
                .iter()
                .any(|r| r.learned && r.text.contains("lower"))
        );
        // The simulation under it is the same, so what was learned is not learned again.
        let x = 90.0;
        assert!((now.simulated_mm(x).unwrap() - line.simulated_mm(x).unwrap()).abs() < 1e-6);
        assert!(habits.line.honesty().unwrap().coverage > 0.8);
    }

    #[test]
    fn sound_and_straight_blades_lower_the_risks() {
        let first = predicted(&Habits::default());
        let sound = vec![Finding::Crack { cracked: false }; 25];
        let next = predicted(&learn(&first, &sound));
        assert!(next.crack.probability < 0.7 * first.crack.probability);
        let straight = vec![Finding::Side { sag_mm: 0.0 }; 12];
        let next = predicted(&learn(&first, &straight));
        assert!(next.bend.side_ninety_mm < first.bend.side_ninety_mm);
        let file = [Finding::File {
            stage: crate::reading::When::AsQuenched,
            low_hrc: 60.0,
            high_hrc: 65.0,
        }];
        assert_eq!(learn(&first, &file).line.results(), 0);
    }
}
