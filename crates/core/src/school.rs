//! Schools: the ways of working that smiths hold to, each with its reasons and what it costs. None is
//! forbidden; what a steel does not bear is said.

use crate::clay::Clay;
use crate::medium::Medium;
use crate::method::usual;
use crate::physics::{hard_middle, stages};
use crate::plan::{Look, Part, Plan, Stage, Stations, Step};
use crate::steel::{Hardening, Steel, SubZero};
use crate::units::{Celsius, Quantity, Seconds};
use crate::work::Work;

/// A way of working.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct School {
    /// Identifier.
    pub id: &'static str,
    /// Name.
    pub name: &'static str,
    /// Why smiths do it.
    pub reasons: &'static str,
    /// What it costs.
    pub costs: &'static str,
}

/// The clay that goes with a way of working.
#[derive(Debug, Clone, PartialEq)]
pub enum Lays {
    /// None, whatever is painted for the blade.
    Nothing,
    /// What is painted for it.
    Painted,
    /// A plain band along the back: nothing is painted yet.
    Band(Clay),
}

/// A school's plan for one blade.
#[derive(Debug, Clone, PartialEq)]
pub struct Taught {
    /// The plan.
    pub plan: Plan,
    /// The clay it is laid out with.
    pub lays: Lays,
    /// Why it is advised against for this steel, when it is.
    pub against: Option<String>,
}

const fn school(
    id: &'static str,
    name: &'static str,
    reasons: &'static str,
    costs: &'static str,
) -> School {
    School {
        id,
        name,
        reasons,
        costs,
    }
}

/// Every school, in the order they are shown.
pub const SCHOOLS: [School; 14] = [
    school(
        "falling_heats",
        "Three falling heats",
        "Each normalizing heat is cooler than the last: the first evens out forging, the last leaves the finest grain.",
        "Three heats and coolings before the hardening heat; skin is lost in each.",
    ),
    school(
        "even_heats",
        "Three heats at hardening temperature",
        "Nothing to remember: every heat is the one it will be quenched from. Enough for a bar that was forged little.",
        "A badly overheated forging keeps some coarse grain.",
    ),
    school(
        "below_critical",
        "One heat above, two just below",
        "One full normalizing heat, then two that stop short of critical: they soften and relieve without growing anything.",
        "The last two do not refine grain; carbides ball up and want a longer soak.",
    ),
    school(
        "as_bought",
        "Straight to the hardening heat",
        "A bar ground to shape and never forged is fine and even as it came from the mill.",
        "Whatever the mill or the drill left in it stays; never after forging.",
    ),
    school(
        "water_then_oil",
        "Water, then oil",
        "Seconds in water get a shallow steel past the nose, oil takes it gently through the martensite.",
        "A second more or less moves the line; two baths and a quick hand; more cracks than oil alone.",
    ),
    school(
        "straight_water",
        "Water alone",
        "The fastest bath most shops have: hardest edge, and the most upward curve under clay.",
        "The most cracks. No sharp corners, no scratches, an even plunge.",
    ),
    school(
        "fast_oil",
        "Fast oil",
        "Mild on the blade and even; a thin section of a shallow steel still hardens.",
        "Needs real quenching oil. A thick spine stays soft, and the line sits low.",
    ),
    school(
        "vegetable_oil",
        "Vegetable oil",
        "Cheap, easy to find, warms and cleans easily.",
        "Slower than fast oil, goes rancid, and smokes; shallow steels may miss their hardness.",
    ),
    school(
        "clay_in_water",
        "Clay and water",
        "A thick coat on the back slows it: a hard edge, a soft back, a line to show, and a curve upwards.",
        "A night of drying, the cracks of water, and clay that may let go.",
    ),
    school(
        "plates",
        "Foil, plates and cold",
        "Bright and straight from between plates; the cold turns what austenite is left at once.",
        "Foil for every blade, plates to hand, dry ice or nitrogen the same hour.",
    ),
    school(
        "cold_too",
        "Sub-zero on top",
        "Down to dry ice straight from the quench turns some of the austenite left: harder, and it stays as it is.",
        "Dry ice for half a point of hardness; pointless in lean steels.",
    ),
    school(
        "from_warm",
        "Into the oven while still warm",
        "Never quite cold before the first temper: the fewest cracks of all.",
        "What austenite is left at hand warmth is not turned; a little softer.",
    ),
    school(
        "once",
        "One temper of an hour",
        "Most of what a temper does is done in the first hour.",
        "Austenite that turns while cooling from it stays untempered.",
    ),
    school(
        "soft_back",
        "Torch the back after",
        "A springy back over a hard edge: it bends before it breaks.",
        "A steady hand, the edge in water, and one slip softens the edge for good.",
    ),
];

impl School {
    /// Finds a school by its identifier.
    #[must_use]
    pub fn find(id: &str) -> Option<&'static Self> {
        SCHOOLS.iter().find(|s| s.id == id)
    }

    /// The school's plan for a blade of `steel`, with tempers for the middle of `target` (HRC).
    #[must_use]
    pub fn teach(&self, steel: &Steel, work: &Work, target: (f64, f64), at: Stations) -> Taught {
        let base = usual(steel, work.blade(), None, target, at);
        let in_medium = |medium| usual(steel, work.blade(), Some(medium), target, at);
        let plan = match self.id {
            "even_heats" => with_heats(base, |steps| {
                let t = steel.austenitize.nominal;
                steps.extend((0..3).map(|_| heat(t)));
            }),
            "below_critical" => with_heats(base, |steps| {
                steps.push(heat(steel.normalize.unwrap_or(steel.austenitize.nominal)));
                let below = Celsius::clamped((steel.ac1_c - 15.0).round());
                steps.extend((0..2).map(|_| Step::Refine {
                    temperature_c: below,
                    hold_s: Seconds::clamped(120.0),
                }));
            }),
            "as_bought" => with_heats(base, |_| {}),
            "water_then_oil" => with_quench(
                base,
                vec![
                    Stage {
                        for_s: Some(Seconds::clamped(2.5)),
                        ..Stage::of(Medium::Water)
                    },
                    Stage::of(Medium::FastOil),
                ],
            ),
            "straight_water" => in_medium(Medium::Water),
            "fast_oil" => in_medium(Medium::FastOil),
            "vegetable_oil" => in_medium(Medium::VegetableOil),
            "clay_in_water" => before_heat(
                in_medium(Medium::Water),
                Step::Clay {
                    temperature_c: Celsius::clamped(200.0),
                    hold_s: Seconds::clamped(3600.0),
                },
            ),
            "plates" => plates(in_medium(Medium::Plates), steel),
            "cold_too" => cold(base),
            "from_warm" => after_quench(
                base,
                Step::Cool {
                    temperature_c: Celsius::clamped(60.0),
                    hold_s: Seconds::clamped(0.0),
                },
            ),
            "once" => once(base),
            "soft_back" => {
                let mut steps = base.steps().to_vec();
                steps.push(Step::TorchTemper {
                    temperature_c: Celsius::clamped(430.0),
                    part: Part::Spine,
                });
                steps.push(Step::Check { look: Look::Colour });
                Plan::stored(steps)
            }
            _ => base,
        };
        let lays = if !plan.lays_clay() {
            Lays::Nothing
        } else if work.clay.is_bare() {
            Lays::Band(back_band(work))
        } else {
            Lays::Painted
        };
        let with = Work {
            clay: lays.clay(&work.clay),
            ..work.clone()
        };
        let against = self.against(steel, &with, &plan);
        Taught {
            plan,
            lays,
            against,
        }
    }

    /// Why this steel, or this blade of it, does not bear it.
    fn against(&self, steel: &Steel, work: &Work, plan: &Plan) -> Option<String> {
        let normalizes = matches!(self.id, "falling_heats" | "even_heats" | "below_critical");
        if normalizes && steel.normalize.is_none() {
            return (self.id != "falling_heats").then(|| {
                format!(
                    "{} hardens in air: normalizing leaves it hard and strained.",
                    steel.name
                )
            });
        }
        let wet = stages(plan).first().is_some_and(|s| s.medium.is_water());
        let bears_water = steel.hardening == Hardening::Water
            || steel.water_then_oil
            || steel.media.iter().any(|m| m.is_water());
        if wet && !bears_water {
            return Some(format!(
                "{} is no water steel: in water it is likely to crack.",
                steel.name
            ));
        }
        if self.id == "plates" && steel.hardening != Hardening::Air {
            let middle = hard_middle(plan, steel, work);
            if middle < 0.9 {
                return Some(format!(
                    "Plates are too slow for {}: only {:.0} % hardens where it is read.",
                    steel.name,
                    100.0 * middle
                ));
            }
        }
        if matches!(self.id, "fast_oil" | "vegetable_oil") && hard_middle(plan, steel, work) < 0.5 {
            return Some(format!(
                "This section of {} stays soft in {}.",
                steel.name,
                stages(plan).first().map_or("it", |s| s.medium.name())
            ));
        }
        if self.id == "cold_too" && steel.sub_zero == SubZero::No {
            return Some(format!("{} keeps next to no austenite.", steel.name));
        }
        None
    }
}

/// Where a plain band of clay begins, as a share of the width, and its thickness, mm: the thick coat on the
/// back that the school is named for.
const BACK_BAND: (f64, f64) = (0.45, 4.0);

fn back_band(work: &Work) -> Clay {
    let (from, thickness_mm) = BACK_BAND;
    Clay::band((from * work.blade().width_mm).round(), thickness_mm)
}

impl Lays {
    /// The clay that goes on a blade that has `painted` laid out.
    #[must_use]
    pub fn clay(&self, painted: &Clay) -> Clay {
        match self {
            Self::Nothing => Clay::default(),
            Self::Painted => painted.clone(),
            Self::Band(clay) => clay.clone(),
        }
    }
}

fn heat(t: Celsius) -> Step {
    Step::Normalize {
        temperature_c: t,
        hold_s: Seconds::clamped(120.0),
    }
}

/// The plan with other heats before the hardening heat.
fn with_heats(plan: Plan, fill: impl FnOnce(&mut Vec<Step>)) -> Plan {
    let mut steps = Vec::new();
    fill(&mut steps);
    let rest = plan.steps().iter();
    steps.extend(
        rest.filter(|s| !matches!(s, Step::Normalize { .. } | Step::Refine { .. }))
            .cloned(),
    );
    Plan::stored(steps)
}

fn with_quench(plan: Plan, stages: Vec<Stage>) -> Plan {
    let mut steps = plan.steps().to_vec();
    if let Some(at) = plan.last_quench() {
        steps[at] = Step::Quench { stages };
    }
    Plan::stored(steps)
}

/// The plan with a step put before the hardening heat.
fn before_heat(plan: Plan, step: Step) -> Plan {
    let mut steps = plan.steps().to_vec();
    let at = steps
        .iter()
        .rposition(|s| matches!(s, Step::Austenitize { .. }))
        .unwrap_or(0);
    steps.insert(at, step);
    Plan::stored(steps)
}

fn after_quench(plan: Plan, step: Step) -> Plan {
    let mut steps = plan.steps().to_vec();
    steps.insert(plan.last_quench().map_or(steps.len(), |q| q + 1), step);
    Plan::stored(steps)
}

fn cold(plan: Plan) -> Plan {
    if plan
        .steps()
        .iter()
        .any(|s| matches!(s, Step::SubZero { .. }))
    {
        return plan;
    }
    after_quench(
        plan,
        Step::SubZero {
            temperature_c: Celsius::clamped(-75.0),
            hold_s: Seconds::clamped(7200.0),
            wait_s: Seconds::clamped(0.0),
        },
    )
}

fn plates(plan: Plan, steel: &Steel) -> Plan {
    let mut plan = plan;
    if steel.austenitize.nominal.value() > 900.0 {
        plan = before_heat(
            plan,
            Step::Preheat {
                temperature_c: Celsius::clamped(650.0),
                hold_s: Seconds::clamped(600.0),
            },
        );
    }
    plan = before_heat(plan, Step::Pouch {});
    // The pouch goes on before the preheat.
    let mut steps = plan.steps().to_vec();
    let pouch = steps.iter().position(|s| matches!(s, Step::Pouch {}));
    let preheat = steps.iter().position(|s| matches!(s, Step::Preheat { .. }));
    if let (Some(pouch), Some(preheat)) = (pouch, preheat)
        && preheat < pouch
    {
        steps.swap(pouch, preheat);
    }
    cold(Plan::stored(steps))
}

fn once(plan: Plan) -> Plan {
    let mut steps = plan.steps().to_vec();
    for step in &mut steps {
        if let Step::Temper { hold_s, times, .. } = step {
            *hold_s = Seconds::clamped(3600.0);
            *times = 1;
        }
    }
    Plan::stored(steps)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::physics::tests::blade;
    use crate::plan::StepDraft;

    fn taught(id: &str, steel: &str) -> Taught {
        let steel = Steel::built_in(steel).unwrap();
        let work = Work::plain(&blade());
        School::find(id)
            .unwrap()
            .teach(steel, &work, (60.0, 61.0), Stations::default())
    }

    #[test]
    fn every_school_has_a_plan_for_every_steel_that_hardens() {
        for steel in Steel::table()
            .iter()
            .filter(|s| s.hardening != Hardening::NotHardenable)
        {
            let work = Work::plain(&blade());
            for school in &SCHOOLS {
                let taught = school.teach(steel, &work, (58.0, 60.0), Stations::default());
                let text = serde_json::to_string(&taught.plan).unwrap();
                let drafts: Vec<StepDraft> = serde_json::from_str(&text).unwrap();
                let read = Plan::parse(&drafts);
                assert_eq!(
                    read.as_ref(),
                    Ok(&taught.plan),
                    "{} {}",
                    school.id,
                    steel.name
                );
                assert!(!school.reasons.is_empty() && !school.costs.is_empty());
            }
        }
    }

    #[test]
    fn each_school_differs_from_the_usual_in_what_it_is_named_for() {
        let kinds = |t: &Taught| t.plan.steps().iter().map(Step::kind).collect::<Vec<_>>();
        let usual = taught("falling_heats", "1084");
        assert_eq!(kinds(&taught("as_bought", "1084"))[0], "austenitize");
        assert_eq!(kinds(&taught("below_critical", "1084"))[1], "refine");
        assert_eq!(kinds(&taught("even_heats", "1084")), kinds(&usual));
        assert!(kinds(&taught("clay_in_water", "w2")).contains(&"clay"));
        let plates = kinds(&taught("plates", "x65cr13"));
        assert_eq!(plates[..3], ["pouch", "preheat", "austenitize"]);
        assert!(plates.contains(&"sub_zero"));
        assert_eq!(kinds(&taught("from_warm", "1084"))[5], "cool");
        assert_eq!(kinds(&taught("soft_back", "1084")).last(), Some(&"check"));
        assert_eq!(stages(&taught("water_then_oil", "w2").plan).len(), 2);
        let Some(Step::Temper { times, .. }) = taught("once", "1084").plan.steps().last().cloned()
        else {
            panic!()
        };
        assert_eq!(times, 1);
    }

    #[test]
    fn only_the_school_of_clay_lays_clay() {
        let steel = Steel::built_in("w2").unwrap();
        let bare = Work::plain(&blade());
        let painted = Work {
            clay: Clay::band(20.0, 1.2),
            ..bare.clone()
        };
        let lays = |id: &str, work: &Work| {
            let school = School::find(id).unwrap();
            let taught = school.teach(steel, work, (60.0, 61.0), Stations::default());
            taught.lays.clay(&work.clay)
        };
        let band = lays("clay_in_water", &bare);
        assert!(!band.is_bare());
        assert_eq!(lays("clay_in_water", &painted), painted.clay);
        for other in SCHOOLS.iter().filter(|s| s.id != "clay_in_water") {
            assert!(lays(other.id, &painted).is_bare(), "{}", other.id);
        }
        // It is not water alone under another name.
        let under = Work {
            clay: band,
            ..bare.clone()
        };
        let plan = taught("clay_in_water", "w2").plan;
        let line = |work: &Work| {
            let simulated = crate::simulated::simulated(work, &plan, steel, None).unwrap();
            simulated.line().map(|l| l.height_mm)
        };
        assert!(line(&under).is_some_and(|l| line(&bare).is_none_or(|b| l < b - 3.0)));
    }

    #[test]
    fn what_a_steel_does_not_bear_is_said() {
        for (id, steel, word) in [
            ("straight_water", "o1", "crack"),
            ("clay_in_water", "o2", "crack"),
            ("even_heats", "x65cr13", "air"),
            ("plates", "w1", "slow"),
            ("cold_too", "5160", "austenite"),
        ] {
            let against = taught(id, steel).against;
            assert!(
                against.as_ref().is_some_and(|a| a.contains(word)),
                "{id} {steel} {against:?}"
            );
        }
        assert_eq!(taught("straight_water", "w2").against, None);
        assert_eq!(taught("falling_heats", "1084").against, None);
    }
}
