//! What a finding at the fire asks for at once: the next thing to do, before anything cools, cracks or is forgotten.

use crate::prediction::Prediction;
use crate::prediction::reason::Why;
use crate::record::finding::{After, Finding, Sound};
use crate::record::reading::When;
use serde::{Deserialize, Serialize};

/// What to do now.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(tag = "code", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = DoNow))]
pub enum Now {
    /// It is cracked: stop, and give it up.
    Stop {},
    /// A ping was heard, or it sounds dull: look for a line before it goes on.
    LookForLine {},
    /// A file says nothing of steel that is warm or has its skin on: file again.
    FileAgain {
        /// It was warm.
        warm: bool,
        /// Its skin was on.
        skin_on: bool,
    },
    /// Softer than was promised: from the normalizing on, again.
    HardenAgain {
        /// At most so hard, HRC.
        at_most_hrc: f64,
        /// Nine in ten were to be at least so hard, HRC.
        promised_hrc: f64,
    },
    /// As hard as was promised: temper.
    Temper {},
    /// Bowed by more than can be left: bend it while it can be bent, or clamp it past straight in the temper.
    Straighten {
        /// How far it is off, mm.
        off_mm: f64,
        /// How far can be left, mm.
        tolerance_mm: f64,
        /// How far past straight to shim it in the first temper, mm; none where the plan has no temper.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        shim_mm: Option<f64>,
    },
    /// As straight as it has to be.
    LeaveIt {
        /// How far can be left, mm.
        tolerance_mm: f64,
    },
}

/// What a finding asks for, by what was predicted when the firing began; none where it asks for nothing.
#[must_use]
pub fn what_now(found: &Finding, prediction: &Prediction) -> Option<Now> {
    match found {
        Finding::Crack { cracked: true, .. } => Some(Now::Stop {}),
        Finding::Heard {
            sound: Sound::Ping | Sound::Dull,
        } => Some(Now::LookForLine {}),
        Finding::File { .. } => by_file(found, prediction),
        Finding::Straight { after, .. } => {
            let off_mm = farthest_mm(found)?;
            bowed(off_mm, *after, prediction)
        }
        _ => None,
    }
}

fn by_file(found: &Finding, prediction: &Prediction) -> Option<Now> {
    let bracket = found.bracket()?;
    let hardness = &prediction.hardness;
    let promised_hrc = match bracket.stage {
        When::AsQuenched => hardness.as_quenched.low,
        When::Tempered => hardness.tempered.low,
    };
    let soft = bracket.high_hrc <= promised_hrc;
    if soft && !bracket.counts() {
        return Some(Now::FileAgain {
            warm: bracket.warm,
            skin_on: bracket.skin_on,
        });
    }
    if soft {
        return Some(Now::HardenAgain {
            at_most_hrc: bracket.high_hrc,
            promised_hrc,
        });
    }
    let quenched = bracket.stage == When::AsQuenched;
    (quenched && bracket.low_hrc + FILE_STEP_HRC >= promised_hrc).then_some(Now::Temper {})
}

/// Files of a set are so far apart, HRC.
const FILE_STEP_HRC: f64 = 5.0;

fn farthest_mm(found: &Finding) -> Option<f64> {
    let Finding::Straight { places, .. } = found else {
        return None;
    };
    let off = places.iter().map(|p| p[1].abs());
    off.max_by(f64::total_cmp)
}

fn bowed(off_mm: f64, after: After, prediction: &Prediction) -> Option<Now> {
    let whole = prediction.outcomes.as_ref()?;
    let tolerance_mm = whole.bend.tolerance_mm;
    if matches!(after, After::Forging | After::Grinding) {
        return None;
    }
    if off_mm <= tolerance_mm {
        return Some(Now::LeaveIt { tolerance_mm });
    }
    let shim_per_mm = whole.outcome_reasons.iter().find_map(|r| match r.why {
        Why::ClampedInTemper { shim_per_mm, .. } => Some(shim_per_mm),
        _ => None,
    });
    Some(Now::Straighten {
        off_mm,
        tolerance_mm,
        shim_mm: shim_per_mm.map(|per| per * off_mm),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::learning::Model;
    use crate::learning::bias_models::BiasModels;
    use crate::material::steel::Steel;
    use crate::prediction::outcome::outcomes;
    use crate::prediction::predict::{StationNames, predict};
    use crate::prediction::subject::Subject;
    use crate::process::workpiece::Workpiece;
    use crate::simulation::physics::tests::{blade, plan};

    fn promised() -> Prediction {
        let steel = Steel::built_in("1084").unwrap();
        let plan = plan(
            r#"[{"kind":"normalize","temperature_c":870},{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        );
        let work = Workpiece::plain(&blade());
        let subject = Subject {
            plan: &plan,
            steel,
            work: &work,
            tester: None,
            bar: None,
            operator: None,
        };
        let mut made = predict(subject, &Model::fit(Vec::new()), &StationNames::new(), None);
        let whole = outcomes(&work, &plan, steel, &BiasModels::default(), 2.0, None);
        made.outcomes = Some(whole.unwrap().0);
        made
    }

    fn file(low: Option<f64>, high: Option<f64>, warm: bool, skin_on: bool) -> Finding {
        Finding::File {
            stage: When::AsQuenched,
            low_hrc: low,
            high_hrc: high,
            warm,
            skin_on,
        }
    }

    #[test]
    fn a_soft_file_is_believed_only_on_cold_clean_steel() {
        let promised = promised();
        let soft = |warm, skin| what_now(&file(None, Some(50.0), warm, skin), &promised);
        assert_eq!(
            soft(true, false),
            Some(Now::FileAgain {
                warm: true,
                skin_on: false
            })
        );
        assert!(matches!(soft(false, true), Some(Now::FileAgain { .. })));
        assert!(
            matches!(soft(false, false), Some(Now::HardenAgain { at_most_hrc, promised_hrc })
                if at_most_hrc == 50.0 && promised_hrc > 60.0)
        );
        assert_eq!(
            what_now(&file(Some(60.0), Some(65.0), false, false), &promised),
            Some(Now::Temper {})
        );
    }

    #[test]
    fn a_bow_is_left_or_shimmed_by_how_far_it_is() {
        let promised = promised();
        let bow = |after, mm| {
            let places = vec![[60.0, 0.2 * mm], [90.0, mm], [140.0, 0.4 * mm]];
            what_now(&Finding::Straight { after, places }, &promised)
        };
        assert!(matches!(bow(After::Quench, 0.1), Some(Now::LeaveIt { .. })));
        let far = bow(After::Quench, -3.0);
        assert!(
            matches!(far, Some(Now::Straighten { off_mm, shim_mm: Some(shim), .. })
                if off_mm == 3.0 && shim > 1.0),
            "{far:?}"
        );
        assert_eq!(bow(After::Forging, 3.0), None);
    }

    #[test]
    fn a_crack_stops_it_and_a_ping_asks_for_a_look() {
        let promised = promised();
        let crack = |cracked| Finding::Crack {
            cracked,
            place: None,
        };
        assert_eq!(what_now(&crack(true), &promised), Some(Now::Stop {}));
        assert_eq!(what_now(&crack(false), &promised), None);
        let heard = |sound| what_now(&Finding::Heard { sound }, &promised);
        assert_eq!(heard(Sound::Ping), Some(Now::LookForLine {}));
        assert_eq!(heard(Sound::Clear), None);
    }
}
