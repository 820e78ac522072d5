//! The checks before the fire: what is asked of the blade, and what a failed one costs.

use crate::crack;
use crate::outcome::Outcomes;
use crate::work::Work;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// One thing to look at before the fire.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Check {
    /// Every hole is drilled and its rim broken.
    HolesDrilled,
    /// The mark is stamped.
    MarkStamped,
    /// Sharp inside corners and rims are chamfered.
    CornersChamfered,
    /// Coarse scratches are sanded out.
    ScratchesOut,
    /// The centre line is scribed.
    CentreScribed,
    /// Bevels and plunge lines match left and right.
    BevelsMatch,
    /// The edge is left thick enough to survive the fire.
    EdgeLeftThick,
    /// Grease is off.
    Degreased,
}

impl Check {
    /// Every check, in the order a smith goes over the blade.
    pub const ALL: [Self; 8] = [
        Self::HolesDrilled,
        Self::MarkStamped,
        Self::CornersChamfered,
        Self::ScratchesOut,
        Self::CentreScribed,
        Self::BevelsMatch,
        Self::EdgeLeftThick,
        Self::Degreased,
    ];

    /// Left undone, it raises the stress where a crack starts.
    #[must_use]
    pub const fn is_raiser(self) -> bool {
        matches!(
            self,
            Self::HolesDrilled | Self::CornersChamfered | Self::ScratchesOut
        )
    }

    /// What is asked.
    #[must_use]
    pub const fn question(self) -> &'static str {
        match self {
            Self::HolesDrilled => "Every hole drilled, its rim broken",
            Self::MarkStamped => "Mark stamped",
            Self::CornersChamfered => "Sharp inside corners and rims chamfered",
            Self::ScratchesOut => "Coarse scratches sanded out",
            Self::CentreScribed => "Centre line scribed",
            Self::BevelsMatch => "Bevels and plunge lines match left and right",
            Self::EdgeLeftThick => "Edge left thick enough",
            Self::Degreased => "Degreased",
        }
    }
}

/// What the smith said: done or not; a check that is missing was not looked at.
pub type Answers = BTreeMap<Check, bool>;

/// Kinds of stress raiser known to be left, 0 to 3.
#[must_use]
pub fn raisers(answers: &Answers) -> u8 {
    let left = answers.iter().filter(|(c, done)| c.is_raiser() && !**done);
    u8::try_from(left.count()).unwrap_or(3)
}

/// How a check stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Standing {
    /// Done, or measured and good.
    Good,
    /// Not looked at yet.
    Open,
    /// Not done, or measured and bad.
    Bad,
}

/// A check with how it stands and what it costs as it is, or would cost left undone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Checked {
    /// Which.
    pub check: Check,
    /// What is asked.
    pub question: String,
    /// How it stands.
    pub standing: Standing,
    /// It was measured rather than said: it follows from the numbers of the blade.
    pub measured: bool,
    /// What failing costs on this blade, in a sentence.
    pub cost: String,
}

/// Bevels that differ by more than this from side to side are uneven, mm.
const BEVEL_OFF_MM: f64 = 0.5;
/// An edge is thick enough when this much is left inside its decarburized skins, mm.
const SOUND_CORE_MM: f64 = 0.3;

fn percent(probability: f64) -> String {
    let p = 100.0 * probability;
    if p < 1.0 {
        format!("{p:.1} %")
    } else {
        format!("{p:.0} %")
    }
}

/// Every check of a blade with this work and these outcomes.
#[must_use]
pub fn checked(
    answers: &Answers,
    work: &Work,
    found: &Outcomes,
    cracks: &crack::Model,
) -> Vec<Checked> {
    let raisers_now = f64::from(raisers(answers));
    let risk = |raisers: f64| {
        let causes = crack::Causes {
            raisers,
            ..found.crack_causes
        };
        cracks.risk(&causes).probability
    };
    Check::ALL
        .into_iter()
        .map(|check| {
            let said = answers.get(&check).copied();
            let mut measured = false;
            let mut good = said;
            let cost = match check {
                c if c.is_raiser() => {
                    // Against the blade with all else as it is.
                    let others = raisers_now - f64::from(u8::from(said == Some(false)));
                    format!(
                        "Left undone, cracks go from {} to {} of such blades{}.",
                        percent(risk(others)),
                        percent(risk(others + 1.0)),
                        match c {
                            Check::HolesDrilled => ", and hardened steel eats drills",
                            Check::ScratchesOut => ": sand along the blade, not across",
                            _ => "",
                        }
                    )
                }
                Check::MarkStamped => {
                    "Hardened steel cannot be stamped; after that only etching marks it.".to_owned()
                }
                Check::CentreScribed => {
                    "Without a line the edge wanders off the middle when it is ground.".to_owned()
                }
                Check::Degreased => {
                    "Grease smokes and burns on: scale spots, and coating and clay let go there."
                        .to_owned()
                }
                Check::BevelsMatch => {
                    let uneven = work.form.unevenness_percent();
                    if let Some(off) = work.form.bevels_off_mm() {
                        measured = true;
                        good = Some(off <= BEVEL_OFF_MM);
                        format!(
                            "They differ by up to {off:.1} mm: the faces cool {:.0} % apart, which bends it {:.2} mm to one side.",
                            uneven.abs(),
                            (found.bend.side_mm_per_10_percent * uneven / 10.0).abs()
                        )
                    } else {
                        format!(
                            "For each 10 % that one side is thicker, it bends {:.2} mm sideways.",
                            found.bend.side_mm_per_10_percent
                        )
                    }
                }
                Check::EdgeLeftThick => {
                    measured = true;
                    let edge = work.form.thinnest_edge_mm();
                    let sound = edge - 2.0 * found.decarburization_mm;
                    good = Some(sound >= SOUND_CORE_MM);
                    if sound <= 0.0 {
                        format!(
                            "{edge:.2} mm of edge, and {:.2} mm of skin lost on each face: nothing sound is left. Leave it thicker, coat it, or grind after hardening.",
                            found.decarburization_mm
                        )
                    } else {
                        format!(
                            "{edge:.2} mm of edge, {:.2} mm of skin lost on each face: {sound:.2} mm stays sound{}.",
                            found.decarburization_mm,
                            if sound < SOUND_CORE_MM {
                                "; it may ripple or burn"
                            } else {
                                ""
                            }
                        )
                    }
                }
                Check::HolesDrilled | Check::CornersChamfered | Check::ScratchesOut => String::new(),
            };
            Checked {
                check,
                question: check.question().to_owned(),
                standing: match good {
                    Some(true) => Standing::Good,
                    Some(false) => Standing::Bad,
                    None => Standing::Open,
                },
                measured,
                cost,
            }
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::outcome::{Habits, outcomes};
    use crate::physics::tests::{blade, nominal};
    use crate::ready::{Bevel, Ready};
    use crate::steel::Steel;

    fn of(ready: &Ready, steel: &str, medium: &str) -> Vec<Checked> {
        let steel = Steel::built_in(steel).unwrap();
        let work = ready.work(&blade(), None).unwrap();
        let habits = Habits::default();
        let plan = nominal(steel, medium);
        let found = outcomes(&work, &plan, steel, &habits, 3.0, None).unwrap().0;
        checked(&ready.checks, &work, &found, &habits.crack)
    }

    fn one(all: &[Checked], check: Check) -> &Checked {
        all.iter().find(|c| c.check == check).unwrap()
    }

    #[test]
    fn what_was_not_looked_at_stays_open_and_what_is_measured_does_not() {
        let all = of(&Ready::default(), "w2", "water");
        assert_eq!(all.len(), Check::ALL.len());
        assert_eq!(one(&all, Check::ScratchesOut).standing, Standing::Open);
        let edge = one(&all, Check::EdgeLeftThick);
        assert!(edge.measured && edge.standing == Standing::Good, "{edge:?}");
        assert!(
            all.iter()
                .all(|c| !c.cost.is_empty() && !c.question.is_empty())
        );
    }

    #[test]
    fn a_scratch_left_costs_cracks() {
        let ready = Ready {
            checks: [(Check::ScratchesOut, false)].into(),
            ..Ready::default()
        };
        let all = of(&ready, "w2", "water");
        let scratches = one(&all, Check::ScratchesOut);
        assert_eq!(scratches.standing, Standing::Bad);
        assert!(
            scratches.cost.contains("cracks go from"),
            "{}",
            scratches.cost
        );
        assert_eq!(raisers(&ready.checks), 1);
    }

    #[test]
    fn uneven_bevels_are_measured_and_cost_a_bend() {
        let ready = Ready {
            bevels: vec![Bevel {
                x_mm: 60.0,
                left_mm: 20.0,
                right_mm: 14.0,
            }],
            ..Ready::default()
        };
        let all = of(&ready, "w2", "water");
        let bevels = one(&all, Check::BevelsMatch);
        assert!(bevels.measured && bevels.standing == Standing::Bad);
        assert!(bevels.cost.contains("6.0 mm"), "{}", bevels.cost);
    }

    #[test]
    fn a_thin_edge_is_bad_bare_and_good_in_foil() {
        let thin = crate::blade::Blade {
            edge_mm: 0.35,
            ..blade()
        };
        let steel = Steel::built_in("1095").unwrap();
        let plan = crate::physics::tests::plan(
            r#"[{"kind":"austenitize","temperature_c":800,"soak_s":1200},{"kind":"quench","stages":[{"medium":"fast_oil"}]}]"#,
        );
        let standing = |protection| {
            let ready = Ready {
                protection,
                ..Ready::default()
            };
            let work = ready.work(&thin, None).unwrap();
            let habits = Habits::default();
            let found = outcomes(&work, &plan, steel, &habits, 3.0, None).unwrap().0;
            let all = checked(&ready.checks, &work, &found, &habits.crack);
            one(&all, Check::EdgeLeftThick).standing
        };
        use crate::decarburization::Protection;
        assert_eq!(standing(Protection::Bare), Standing::Bad);
        assert_eq!(standing(Protection::Foil), Standing::Good);
    }
}
