//! A firing: the plan broken into beats that are confirmed one by one, and the state that a list of
//! events amounts to. Times are milliseconds since 1970 (UTC), given by the caller.

use crate::hand::Hand;
use crate::medium::Medium;
use crate::plan::{Look, Step};
use crate::units::{Celsius, Seconds};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;
use uuid::Uuid;

/// One thing to do and confirm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Beat {
    /// Position of its step in the plan.
    pub step: usize,
    /// Which round of a temper or which bath of a quench, from 0.
    #[serde(default)]
    pub round: usize,
    /// What is to be done, as the big button says it.
    pub action: String,
    /// What goes on once it was confirmed, as a heading.
    pub doing: String,
    /// How long that should last, s; None until the smith says so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lasts_s: Option<f64>,
    /// The caution that belongs to this moment.
    pub caution: String,
    /// What confirming it does to the blade.
    pub mark: Mark,
    /// Several blades can do it in one go: a load in one fire, one oven, one cold box. A quench is done
    /// blade by blade.
    pub together: bool,
}

/// What a confirmed beat means for the blade.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Mark {
    /// Nothing lasting.
    None,
    /// The hold of the step begins.
    HoldBegins,
    /// The hold of the step ends.
    HoldEnds,
    /// It was quenched: hard and brittle from now.
    Quenched,
    /// It went into its first temper: no longer untempered.
    Tempering,
}

const HOT: &str =
    "Burns: gloves, face shield, dry floor. Air the room: fires give off carbon monoxide.";
const OIL: &str =
    "Hot oil flashes: metal tank, lid and extinguisher in reach, no water in it. Face shield.";
const WATER: &str = "Steam and a hard crack: face shield, edge straight in, keep hands clear.";
const BRITTLE: &str = "Hard and brittle as glass until tempered: eye protection, do not drop it.";
const COLD: &str = "Cold burns: gloves. Never a closed container or closed room: the gas displaces air. Keep flame from alcohol.";
const OVEN: &str =
    "An oven used for oily blades is not for food. Wipe the oil off first: it smokes.";
const COATING: &str =
    "Coating smokes as it melts on: mask and moving air. The alcohol it is wiped with burns.";
const FOIL: &str =
    "Foil edges cut: gloves. A scrap of paper inside burns the air up; fold twice all round.";
const CLAY: &str =
    "Clay must be bone dry: trapped steam throws it off. No dust in the breath when it is sanded.";
const STRAIGHTEN: &str = "Only while it still bends easily: stop when it springs. Gloves, eyes; a cold hard blade snaps.";
const TORCH: &str =
    "Edge in water all the while. Flame, hot steel and carbon monoxide: gloves and air.";
const AIR: &str = "It looks cold long before it is: gloves. Hang it where nobody brushes past.";

fn medium_words(medium: Medium) -> (&'static str, &'static str) {
    match medium {
        Medium::Brine => ("In the brine", WATER),
        Medium::Water => ("In the water", WATER),
        Medium::Plates => ("Between the plates", HOT),
        Medium::ForcedAir | Medium::StillAir => ("Out into the air", HOT),
        _ => ("In the oil", OIL),
    }
}

fn beat(
    step: usize,
    action: &str,
    doing: &str,
    lasts_s: Option<f64>,
    caution: &str,
    mark: Mark,
) -> Beat {
    Beat {
        step,
        round: 0,
        action: action.to_owned(),
        doing: doing.to_owned(),
        lasts_s,
        caution: caution.to_owned(),
        mark,
        together: true,
    }
}

fn alone(mut beat: Beat) -> Beat {
    beat.together = false;
    beat
}

fn of_round(round: usize, mut beat: Beat) -> Beat {
    beat.round = round;
    beat
}

/// Which heat this is of how many in a row of the same kind, for example ` 2 of 3`; nothing for a
/// single one.
fn heat_of(steps: &[Step], i: usize) -> String {
    let same = |s: &&Step| s.kind() == steps[i].kind();
    let before = steps[..i].iter().rev().take_while(same).count();
    let after = steps[i + 1..].iter().take_while(same).count();
    if before + after == 0 {
        String::new()
    } else {
        format!(" {} of {}", before + 1, before + 1 + after)
    }
}

/// Whether the blade lies hard and untempered when it comes to a step: quenched since its last heat, and in
/// no temper yet.
fn hard_at(steps: &[Step], i: usize) -> bool {
    let last = steps[..i].iter().rev().find(|s| {
        matches!(
            s,
            Step::Quench { .. }
                | Step::Temper { .. }
                | Step::Austenitize { .. }
                | Step::Normalize { .. }
                | Step::Anneal { .. }
                | Step::StressRelief { .. }
                | Step::Refine { .. }
        )
    });
    matches!(last, Some(Step::Quench { .. }))
}

/// What to mind while looking. A magnet is held to steel that still glows; a blade that is hard is brittle
/// before it is anything else.
fn check_caution(steps: &[Step], i: usize, look: Look) -> &'static str {
    if look == Look::Magnet {
        HOT
    } else if hard_at(steps, i) {
        BRITTLE
    } else {
        AIR
    }
}

/// The beats of a plan, in order.
#[must_use]
pub fn beats(steps: &[Step]) -> Vec<Beat> {
    let mut all = Vec::new();
    let quench = steps.iter().rposition(|s| matches!(s, Step::Quench { .. }));
    for (i, step) in steps.iter().enumerate() {
        match step {
            Step::Normalize { hold_s, .. }
            | Step::Refine { hold_s, .. }
            | Step::StressRelief { hold_s, .. } => {
                let name = match step {
                    Step::Normalize { .. } => "Normalize",
                    Step::Refine { .. } => "Refine",
                    _ => "Stress relief",
                };
                let name = format!("{name}{}", heat_of(steps, i));
                all.push(beat(
                    i,
                    "In the fire",
                    &format!("{name}: heating"),
                    None,
                    HOT,
                    Mark::None,
                ));
                all.push(beat(
                    i,
                    "At heat",
                    &format!("{name}: even out"),
                    Some(hold_s.value()),
                    HOT,
                    Mark::HoldBegins,
                ));
                all.push(beat(
                    i,
                    "Out to cool",
                    &format!("{name}: cooling in air"),
                    None,
                    AIR,
                    Mark::HoldEnds,
                ));
            }
            Step::Anneal { hold_s, .. } => {
                all.push(beat(
                    i,
                    "In the fire",
                    "Anneal: heating",
                    None,
                    HOT,
                    Mark::None,
                ));
                all.push(beat(
                    i,
                    "At heat",
                    "Anneal: soak",
                    Some(hold_s.value()),
                    HOT,
                    Mark::HoldBegins,
                ));
                all.push(beat(
                    i,
                    "Shut down to cool slowly",
                    "Anneal: cooling slowly",
                    None,
                    HOT,
                    Mark::HoldEnds,
                ));
            }
            Step::Coat {} => all.push(beat(
                i,
                "Coated",
                "Coated: dry, ready for the fire",
                None,
                COATING,
                Mark::None,
            )),
            Step::Pouch {} => all.push(beat(
                i,
                "Pouch closed",
                "In the pouch: ready for the fire",
                None,
                FOIL,
                Mark::None,
            )),
            Step::Clay { hold_s, .. } => {
                let dry = Some(hold_s.value());
                all.push(beat(
                    i,
                    "Clay is on",
                    "Clay: drying",
                    dry,
                    CLAY,
                    Mark::HoldBegins,
                ));
                all.push(beat(
                    i,
                    "Clay is dry",
                    "Clay: dry",
                    None,
                    CLAY,
                    Mark::HoldEnds,
                ));
            }
            Step::Preheat { hold_s, .. } => {
                all.push(beat(
                    i,
                    "In the fire",
                    "Preheat: heating",
                    None,
                    HOT,
                    Mark::None,
                ));
                let hold = Some(hold_s.value());
                all.push(beat(
                    i,
                    "Even",
                    "Preheat: hold",
                    hold,
                    HOT,
                    Mark::HoldBegins,
                ));
            }
            Step::Straighten {} => all.push(alone(beat(
                i,
                "Straight",
                "Straightened: look along edge and spine",
                None,
                STRAIGHTEN,
                Mark::None,
            ))),
            Step::Cool {
                temperature_c,
                hold_s,
            } => {
                let caution = if hard_at(steps, i) { BRITTLE } else { AIR };
                let action = format!("Down to {:.0} °C", temperature_c.value());
                let hold = (hold_s.value() > 0.0).then_some(hold_s.value());
                all.push(beat(i, &action, "Cooled", hold, caution, Mark::None));
            }
            Step::TorchTemper { part, .. } => {
                let action = format!("Torch off the {}", part.name());
                let doing = format!("The {} is softened", part.name());
                all.push(alone(beat(i, &action, &doing, None, TORCH, Mark::None)));
            }
            Step::Check { look } => {
                let caution = check_caution(steps, i, *look);
                let beat = beat(i, "Looked", look.question(), None, caution, Mark::None);
                all.push(alone(beat));
            }
            Step::Austenitize { soak_s, .. } => {
                all.push(beat(
                    i,
                    "In the fire",
                    "Austenitize: heating",
                    None,
                    HOT,
                    Mark::None,
                ));
                all.push(beat(
                    i,
                    "Back at heat: start soak",
                    "Austenitize: soak",
                    Some(soak_s.value()),
                    HOT,
                    Mark::HoldBegins,
                ));
            }
            Step::Quench { stages } => {
                for (n, stage) in stages.iter().enumerate() {
                    let (words, caution) = medium_words(stage.medium);
                    let doing = format!("Quench: {}", stage.medium.name());
                    let mark = if n == 0 { Mark::HoldEnds } else { Mark::None };
                    let lasts = stage.for_s.map(Seconds::value);
                    let beat = beat(i, words, &doing, lasts, caution, mark);
                    all.push(alone(of_round(n, beat)));
                }
                let mark = if Some(i) == quench {
                    Mark::Quenched
                } else {
                    Mark::None
                };
                let warm = matches!(steps.get(i + 1), Some(Step::Straighten {}));
                let (action, doing, caution) = if warm {
                    (
                        "Out of the bath, warm: straighten",
                        "Straighten while it bends easily",
                        STRAIGHTEN,
                    )
                } else {
                    (
                        "Out of the bath, cold",
                        "Check: straight? cracked? hard once cold?",
                        BRITTLE,
                    )
                };
                all.push(alone(beat(i, action, doing, None, caution, mark)));
            }
            Step::SubZero { hold_s, .. } => {
                all.push(beat(
                    i,
                    "In the cold",
                    "Sub-zero",
                    Some(hold_s.value()),
                    COLD,
                    Mark::HoldBegins,
                ));
                all.push(beat(
                    i,
                    "Out of the cold",
                    "Sub-zero: back to room temperature",
                    None,
                    BRITTLE,
                    Mark::HoldEnds,
                ));
            }
            Step::Temper { hold_s, times, .. } => {
                let after_quench = quench.is_none_or(|q| i > q);
                for n in 1..=*times {
                    let name = if *times > 1 {
                        format!("Temper {n} of {times}")
                    } else {
                        "Temper".to_owned()
                    };
                    let mark = if n == 1 && after_quench {
                        Mark::Tempering
                    } else {
                        Mark::None
                    };
                    let round = [
                        beat(
                            i,
                            "In the oven",
                            &format!("{name}: heating"),
                            None,
                            OVEN,
                            mark,
                        ),
                        beat(
                            i,
                            "Oven at heat",
                            &name,
                            Some(hold_s.value()),
                            OVEN,
                            Mark::HoldBegins,
                        ),
                        beat(
                            i,
                            "Out to cool",
                            &format!("{name}: cooling"),
                            None,
                            HOT,
                            Mark::HoldEnds,
                        ),
                    ];
                    all.extend(round.map(|beat| of_round(n as usize - 1, beat)));
                }
            }
        }
    }
    all
}

/// What a smith can do in a firing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Happening {
    /// A beat was done.
    Confirm {
        /// Its position.
        beat: usize,
    },
    /// An event was not so: the one that confirmed the last beat, or something that was said. Taking the
    /// same one back twice is taking it back once.
    Undo {
        /// Its id.
        event: Uuid,
    },
    /// What was really done in a step, where it differs from the plan.
    Say {
        /// Position of the step.
        step: usize,
        /// Which round of a temper or which bath of a quench, from 0; all rounds and the first bath when
        /// left out.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        round: Option<usize>,
        /// Real temperature, °C.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        temperature_c: Option<Celsius>,
        /// Real soak or hold, of each round of a temper, s.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        lasted_s: Option<Seconds>,
        /// A remark.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        note: String,
    },
    /// Who quenches; the last one said counts.
    Hand {
        /// Who.
        name: Hand,
    },
    /// The firing is over.
    Close,
}

/// An event: a happening and when, in milliseconds since 1970.
#[derive(Debug, Clone, PartialEq)]
pub struct Event {
    /// Its id.
    pub id: Uuid,
    /// What.
    pub what: Happening,
    /// When, ms.
    pub at_ms: i64,
}

/// Why an event cannot be taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    /// The firing was closed before.
    #[error("This firing is already closed.")]
    Closed,
    /// The beat was confirmed before.
    #[error("This step was already confirmed.")]
    Twice,
    /// The beat is not the next one.
    #[error("Something comes before this step.")]
    TooEarly,
    /// What is to be taken back never happened in this firing, or cannot be taken back.
    #[error("There is nothing like this to take back in this firing.")]
    NoSuchEvent,
    /// More was confirmed after what is to be taken back.
    #[error("More was confirmed after this. Take that back first.")]
    NotTheLast,
    /// The step has no such round or bath.
    #[error("The step has no such round.")]
    NoSuchRound,
    /// The plan has no such step.
    #[error("The plan has no such step.")]
    NoSuchStep,
}

/// What the events so far amount to.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct State {
    /// Number of beats confirmed; the next one has this position.
    pub position: usize,
    /// When each confirmed beat was confirmed, ms.
    pub confirmed_ms: Vec<i64>,
    /// The event that confirmed each of them.
    #[serde(default)]
    pub confirmed_by: Vec<Uuid>,
    /// When it became hard, ms, while it waits for its first temper.
    pub untempered_since_ms: Option<i64>,
    /// What goes on since the last confirmed beat.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub doing: Option<String>,
    /// It was quenched at least once.
    pub quenched: bool,
    /// It went through its last temper.
    pub tempered: bool,
    /// The firing is over.
    pub closed: bool,
    /// What was said to differ, step and happening in order.
    pub said: Vec<Happening>,
    /// Who quenches, when said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hand: Option<Hand>,
}

/// Folds `events` over the beats of `steps`.
///
/// # Errors
/// The first event that cannot be, see [`Refusal`].
pub fn state(steps: &[Step], events: &[Event]) -> Result<State, Refusal> {
    let beats = beats(steps);
    let mut state = State::default();
    // What was said, by the event that said it: each can be taken back.
    let mut said: Vec<(Uuid, &Happening)> = Vec::new();
    let mut taken_back: HashSet<Uuid> = HashSet::new();
    for event in events {
        let told = said
            .iter()
            .any(|s| matches!(event.what, Happening::Undo { event } if s.0 == event));
        // What really was may come to light later: a logger is read when the fire is out.
        let late = told || matches!(event.what, Happening::Say { .. } | Happening::Hand { .. });
        if state.closed && !late {
            return Err(Refusal::Closed);
        }
        match &event.what {
            Happening::Confirm { beat } if *beat < state.position => return Err(Refusal::Twice),
            Happening::Confirm { beat } if *beat > state.position || *beat >= beats.len() => {
                return Err(Refusal::TooEarly);
            }
            Happening::Confirm { .. } => {
                state.confirmed_ms.push(event.at_ms);
                state.confirmed_by.push(event.id);
                state.position += 1;
            }
            Happening::Undo { event } => {
                if taken_back.contains(event) {
                    continue;
                }
                if told {
                    said.retain(|s| s.0 != *event);
                } else if state.confirmed_by.last() == Some(event) {
                    state.confirmed_ms.pop();
                    state.confirmed_by.pop();
                    state.position -= 1;
                } else if state.confirmed_by.contains(event) {
                    return Err(Refusal::NotTheLast);
                } else {
                    return Err(Refusal::NoSuchEvent);
                }
                taken_back.insert(*event);
            }
            Happening::Say { step, round, .. } => {
                let of = steps.get(*step).ok_or(Refusal::NoSuchStep)?;
                if round.is_some_and(|r| r >= of.rounds()) {
                    return Err(Refusal::NoSuchRound);
                }
                said.push((event.id, &event.what));
            }
            Happening::Hand { .. } => said.push((event.id, &event.what)),
            Happening::Close => state.closed = true,
        }
    }
    for (_, what) in said {
        match what {
            Happening::Hand { name } => state.hand = Some(name.clone()),
            what => state.said.push(what.clone()),
        }
    }
    for (beat, at) in beats.iter().zip(&state.confirmed_ms) {
        match beat.mark {
            Mark::Quenched => {
                state.quenched = true;
                state.untempered_since_ms = Some(*at);
            }
            Mark::Tempering => state.untempered_since_ms = None,
            _ => {}
        }
    }
    state.doing = state
        .position
        .checked_sub(1)
        .and_then(|i| beats.get(i))
        .map(|b| b.doing.clone());
    state.tempered = state.quenched
        && state.position == beats.len()
        && steps.iter().any(|s| matches!(s, Step::Temper { .. }));
    Ok(state)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::physics::tests::plan;

    fn steps() -> Vec<Step> {
        plan(
            r#"[{"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"water","for_s":2},{"medium":"fast_oil"}]},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":2}]"#,
        )
        .steps()
        .to_vec()
    }

    fn id(n: usize) -> Uuid {
        Uuid::from_u128(n as u128)
    }

    fn at(n: usize, what: Happening, at_ms: i64) -> Event {
        Event {
            id: id(n),
            what,
            at_ms,
        }
    }

    fn confirm(upto: usize, every_ms: i64) -> Vec<Event> {
        (0..upto)
            .map(|beat| Event {
                id: id(beat),
                what: Happening::Confirm { beat },
                at_ms: beat as i64 * every_ms,
            })
            .collect()
    }

    #[test]
    fn every_beat_in_order_reaches_tempered() {
        let steps = steps();
        let beats = beats(&steps);
        assert_eq!(beats.len(), 2 + 3 + 6);
        let state = state(&steps, &confirm(beats.len(), 1000)).unwrap();
        assert!(state.quenched && state.tempered && state.untempered_since_ms.is_none());
        assert!(
            beats
                .iter()
                .all(|b| !b.caution.is_empty() && !b.action.is_empty())
        );
    }

    #[test]
    fn heats_are_counted_and_a_quench_is_done_blade_by_blade() {
        let steps = plan(
            r#"[{"kind":"normalize","temperature_c":870,"times":3},
                {"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},
                {"kind":"straighten"},
                {"kind":"temper","temperature_c":205,"hold_s":7200,"times":1}]"#,
        );
        let beats = beats(steps.steps());
        assert_eq!(beats[4].doing, "Normalize 2 of 3: even out");
        let alone: Vec<&str> = beats
            .iter()
            .filter(|b| !b.together)
            .map(|b| &*b.action)
            .collect();
        assert_eq!(
            alone,
            [
                "In the oil",
                "Out of the bath, warm: straighten",
                "Straight"
            ]
        );
        assert!(
            beats
                .iter()
                .any(|b| b.action == "Back at heat: start soak" && b.together)
        );
    }

    #[test]
    fn between_quench_and_temper_the_clock_runs() {
        let steps = steps();
        let hard = state(&steps, &confirm(5, 1000)).unwrap();
        assert_eq!(hard.untempered_since_ms, Some(4000));
        assert!(hard.doing.unwrap().starts_with("Check"));
        let in_oven = state(&steps, &confirm(6, 1000)).unwrap();
        assert_eq!(in_oven.untempered_since_ms, None);
        assert!(!in_oven.tempered);
    }

    #[test]
    fn who_quenches_can_be_said_at_any_time_and_the_last_word_counts() {
        let steps = steps();
        let say = |name: &str| Event {
            id: Uuid::from_u128(500 + name.len() as u128),
            what: Happening::Hand {
                name: Hand::parse(name).unwrap(),
            },
            at_ms: 0,
        };
        let mut events = vec![say("Tove")];
        events.extend(confirm(3, 1000));
        let close = Event {
            id: id(900),
            what: Happening::Close,
            at_ms: 9000,
        };
        events.extend([close, say("Aksel")]);
        let last = state(&steps, &events).unwrap();
        assert_eq!(last.hand.as_ref().map(Hand::name), Some("Aksel"));
        assert_eq!((last.position, last.closed), (3, true));
        assert_eq!(
            state(&steps, &events[..2]).unwrap().hand.unwrap().name(),
            "Tove"
        );
    }

    #[test]
    fn what_cannot_be_is_refused() {
        let steps = steps();
        let then = |extra: Happening| {
            let mut events = confirm(2, 1000);
            events.push(at(90, extra, 9000));
            state(&steps, &events)
        };
        assert_eq!(then(Happening::Confirm { beat: 1 }), Err(Refusal::Twice));
        assert_eq!(then(Happening::Confirm { beat: 5 }), Err(Refusal::TooEarly));
        let say = |step: usize, round: Option<usize>| Happening::Say {
            step,
            round,
            temperature_c: None,
            lasted_s: None,
            note: "from the logger".to_owned(),
        };
        assert_eq!(then(say(9, None)), Err(Refusal::NoSuchStep));
        assert_eq!(then(say(2, Some(2))), Err(Refusal::NoSuchRound));
        let mut closed = confirm(1, 1);
        closed.push(at(91, Happening::Close, 2));
        closed.push(at(92, Happening::Close, 3));
        assert_eq!(state(&steps, &closed), Err(Refusal::Closed));
        closed[2].what = say(0, None);
        let late = state(&steps, &closed).unwrap();
        assert!(late.closed && late.said.len() == 1);
    }

    #[test]
    fn undo_takes_back_the_event_it_names_and_no_other() {
        let steps = steps();
        let undo = |event: usize| Happening::Undo { event: id(event) };
        let fold = |extra: &[Event]| state(&steps, &[&confirm(2, 1000)[..], extra].concat());
        let back = fold(&[at(90, undo(1), 9000)]).unwrap();
        assert_eq!((back.position, back.confirmed_by.len()), (1, 1));
        // Something was confirmed after it, or it never happened.
        assert_eq!(fold(&[at(90, undo(0), 9000)]), Err(Refusal::NotTheLast));
        assert_eq!(fold(&[at(90, undo(40), 9000)]), Err(Refusal::NoSuchEvent));
        // Two devices take the same press back: it is taken back once.
        let twice = fold(&[at(90, undo(1), 9000), at(91, undo(1), 9001)]).unwrap();
        assert_eq!(twice.position, 1);
        // One takes it back after somebody else took it back and confirmed anew: the new press stays.
        let anew = Happening::Confirm { beat: 1 };
        let events = [at(90, undo(1), 1), at(91, anew, 2), at(92, undo(1), 3)];
        assert_eq!(fold(&events).unwrap().position, 2);
    }

    #[test]
    fn what_was_said_can_be_taken_back_even_when_the_firing_is_closed() {
        let steps = steps();
        let hand = |name: &str| Happening::Hand {
            name: Hand::parse(name).unwrap(),
        };
        let events = [
            at(1, hand("Tove"), 1),
            at(2, hand("Aksel"), 2),
            at(3, Happening::Close, 3),
            at(4, Happening::Undo { event: id(2) }, 4),
        ];
        assert_eq!(state(&steps, &events).unwrap().hand.unwrap().name(), "Tove");
    }

    #[test]
    fn hard_steel_is_brittle_and_hot_steel_is_hot() {
        let steps = plan(
            r#"[{"kind":"normalize","temperature_c":870},{"kind":"cool","temperature_c":20},
                {"kind":"check","look":"magnet"},
                {"kind":"austenitize","temperature_c":815,"soak_s":300},
                {"kind":"quench","stages":[{"medium":"fast_oil"}]},{"kind":"check","look":"cracked"},
                {"kind":"cool","temperature_c":20},{"kind":"temper","temperature_c":205,"hold_s":7200},
                {"kind":"check","look":"colour"}]"#,
        );
        let of = |step: usize| {
            let beats = beats(steps.steps());
            beats.into_iter().find(|b| b.step == step).unwrap().caution
        };
        assert_eq!([of(1), of(8)], [AIR, AIR]);
        assert_eq!(of(2), HOT);
        assert_eq!([of(5), of(6)], [BRITTLE, BRITTLE]);
    }
}
