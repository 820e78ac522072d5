//! What findings teach: each is held against what was predicted of that very quench.

use super::habit::{CLARITY, GRAIN, Habit, LINE, SAG, Sag, Seen, Traits};
use crate::crack;
use crate::finding::Finding;
use crate::hand::Hand;
use crate::outcome::{Habits, Outcomes, UNEVENNESS_PERCENT};
use uuid::Uuid;

/// A finding with the quench it came of.
#[derive(Debug, Clone)]
pub struct Found<'a> {
    /// The blade.
    pub blade: Uuid,
    /// The quench.
    pub traits: Traits,
    /// What was predicted when it was frozen.
    pub predicted: &'a Outcomes,
    /// What was found.
    pub finding: &'a Finding,
}

/// Mean of some values and how many they are; None of none.
fn mean(values: impl Iterator<Item = f64>) -> Option<(f64, usize)> {
    let (sum, n) = values.fold((0.0, 0), |(sum, n), v| (sum + v, n + 1));
    (n > 0).then(|| (sum / n as f64, n))
}

impl Habits {
    /// Learns from findings, oldest first; the next blade is taken to be quenched by `hand`. File
    /// brackets belong to the hardness model and are left aside here.
    #[must_use]
    pub fn learn<'a>(all: impl Iterator<Item = Found<'a>>, hand: Option<Hand>) -> Self {
        let (mut sags, mut lines, mut bands, mut grains, mut cracks) =
            (Vec::new(), Vec::new(), Vec::new(), Vec::new(), Vec::new());
        for f in all {
            let seen = |measured: f64, residual: f64, places: usize| Seen {
                blade: f.blade,
                traits: f.traits.clone(),
                measured,
                residual,
                places,
                at_most: false,
            };
            match f.finding {
                Finding::Line {
                    places, band_mm, ..
                } => {
                    let Some(line) = f.predicted.hamon.line() else {
                        continue;
                    };
                    let met = || {
                        let on = |[x, height]: &[f64; 2]| Some((*height, line.simulated_mm(*x)?));
                        places.iter().filter_map(on)
                    };
                    if let Some((height, n)) = mean(met().map(|(height, _)| height)) {
                        let off = mean(met().map(|(height, simulated)| height - simulated));
                        lines.push(seen(height, off.map_or(0.0, |o| o.0), n));
                    }
                    let simulated = line.band_mm / line.learned_wider;
                    if let Some(band) = band_mm.filter(|b| *b > 0.05 && simulated > 0.05) {
                        bands.push(seen(band, CLARITY.measure.residual(band, simulated), 1));
                    }
                }
                Finding::Grain { astm } => {
                    let simulated = f.predicted.grain_astm - f.predicted.grain_learned;
                    grains.push(seen(*astm, GRAIN.measure.residual(*astm, simulated), 1));
                }
                Finding::Crack { cracked } => cracks.push(crack::Seen {
                    blade: f.blade,
                    traits: f.traits.clone(),
                    outcome: crack::Outcome {
                        causes: f.predicted.crack_causes,
                        cracked: *cracked,
                    },
                }),
                found => {
                    let per_ten = f.predicted.bend.side_mm_per_10_percent;
                    let sag = found.sag_mm();
                    let sag = sag.and_then(|s| Sag::against(s, per_ten, UNEVENNESS_PERCENT));
                    sags.extend(sag.map(|sag| Seen {
                        at_most: sag.straight,
                        ..seen(sag.seen_mm, sag.residual, 1)
                    }));
                }
            }
        }
        let outcomes: Vec<crack::Outcome> = cracks.iter().map(|c| c.outcome).collect();
        Self {
            crack: crack::Model::fit(&outcomes),
            cracks,
            sag: Habit::fit(SAG, sags),
            line: Habit::fit(LINE, lines),
            clarity: Habit::fit(CLARITY, bands),
            grain: Habit::fit(GRAIN, grains),
            hand,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::medium::Medium;
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
        Habits::learn(
            findings.iter().enumerate().map(|(i, finding)| Found {
                blade: Uuid::from_u128(i as u128),
                traits: Traits {
                    steel: "w2".to_owned(),
                    medium: Medium::Water,
                    hand: None,
                },
                predicted,
                finding,
            }),
            None,
        )
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
        let lesson = habits.line.lesson().unwrap();
        assert!(lesson.coverage > 0.8);
        // Three places of one line are one result, as high as they are on the mean.
        assert_eq!(lesson.results, 5);
        let mean = [40.0, 90.0, 140.0].map(|x| at(x)[1]).iter().sum::<f64>() / 3.0;
        assert!((lesson.points[0].measured - mean).abs() < 1e-9);
        assert!((lesson.bias + 3.0).abs() < 1e-9);
    }

    #[test]
    fn broken_coupons_teach_the_grain_once() {
        let first = predicted(&Habits::default());
        let finer = Finding::Grain {
            astm: first.grain_astm + 1.5,
        };
        let next = predicted(&learn(&first, &vec![finer.clone(); 6]));
        let moved = next.grain_astm - first.grain_astm;
        assert!((0.8..1.5).contains(&moved), "{moved}");
        assert!(next.ranges.grain_astm.width() < first.ranges.grain_astm.width());
        // Held against a prediction that had learned it already, it says the same.
        let again = predicted(&learn(&next, &vec![finer; 6]));
        assert!((again.grain_astm - next.grain_astm).abs() < 1e-9);
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
        assert_eq!(learn(&first, &file).line.lesson(), None);
    }
}
