//! A firing: the plan broken into beats that are confirmed one by one, and the state that a list of
//! events amounts to. Times are milliseconds since 1970 (UTC), given by the caller.

use crate::hand::Hand;
use crate::medium::Medium;
use crate::plan::Step;
use crate::units::{Celsius, Quantity, Seconds};
use serde::{Deserialize, Serialize};

/// One thing to do and confirm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Beat {
    /// Position of its step in the plan.
    pub step: usize,
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
                let action = format!("Down to {:.0} °C", temperature_c.value());
                let hold = (hold_s.value() > 0.0).then_some(hold_s.value());
                all.push(beat(i, &action, "Cooled", hold, BRITTLE, Mark::None));
            }
            Step::TorchTemper { part, .. } => {
                let action = format!("Torch off the {}", part.name());
                let doing = format!("The {} is softened", part.name());
                all.push(alone(beat(i, &action, &doing, None, TORCH, Mark::None)));
            }
            Step::Check { look } => {
                let beat = beat(i, "Looked", look.question(), None, AIR, Mark::None);
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
                    all.push(alone(beat(i, words, &doing, lasts, caution, mark)));
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
                    all.push(beat(
                        i,
                        "In the oven",
                        &format!("{name}: heating"),
                        None,
                        OVEN,
                        mark,
                    ));
                    all.push(beat(
                        i,
                        "Oven at heat",
                        &name,
                        Some(hold_s.value()),
                        OVEN,
                        Mark::HoldBegins,
                    ));
                    all.push(beat(
                        i,
                        "Out to cool",
                        &format!("{name}: cooling"),
                        None,
                        HOT,
                        Mark::HoldEnds,
                    ));
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
    /// The last confirmed beat was not so.
    Undo {
        /// Its position.
        beat: usize,
    },
    /// What was really done in a step, where it differs from the plan.
    Say {
        /// Position of the step.
        step: usize,
        /// Real temperature, °C.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        temperature_c: Option<Celsius>,
        /// Real soak or hold, s.
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
    /// There is nothing to undo, or not this.
    #[error("There is nothing to undo here.")]
    NothingToUndo,
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
    for event in events {
        // What really was may come to light later: a logger is read when the fire is out.
        let late = matches!(event.what, Happening::Say { .. } | Happening::Hand { .. });
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
                state.position += 1;
            }
            Happening::Undo { beat } => {
                if state.position == 0 || *beat + 1 != state.position {
                    return Err(Refusal::NothingToUndo);
                }
                state.confirmed_ms.pop();
                state.position -= 1;
            }
            Happening::Say { step, .. } => {
                if *step >= steps.len() {
                    return Err(Refusal::NoSuchStep);
                }
                state.said.push(event.what.clone());
            }
            Happening::Hand { name } => state.hand = Some(name.clone()),
            Happening::Close => state.closed = true,
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

/// The steps as they really were: what was said, then what the clock showed.
///
/// A hold read from the clock counts when it is between a quarter and four times the plan; outside
/// that the beats were clearly confirmed afterwards in one go, and the plan stands unless the smith
/// said otherwise.
#[must_use]
pub fn as_done(steps: &[Step], state: &State) -> Vec<Step> {
    let beats = beats(steps);
    let mut done = steps.to_vec();
    let timed: Vec<(&Beat, i64)> = beats
        .iter()
        .zip(state.confirmed_ms.iter().copied())
        .collect();
    for pair in timed.windows(2) {
        let ((begun, from), (_, to)) = (pair[0], pair[1]);
        if begun.mark == Mark::HoldBegins
            && let Some(planned) = begun.lasts_s
        {
            let real = (to - from) as f64 / 1000.0;
            if real >= 0.25 * planned && real <= 4.0 * planned {
                set_time(&mut done[begun.step], Seconds::clamped(real));
            }
        }
    }
    for said in &state.said {
        if let Happening::Say {
            step,
            temperature_c,
            lasted_s,
            ..
        } = said
            && let Some(step) = done.get_mut(*step)
        {
            if let Some(t) = temperature_c {
                set_temperature(step, *t);
            }
            if let Some(s) = lasted_s {
                set_time(step, *s);
            }
        }
    }
    done
}

fn set_time(step: &mut Step, time: Seconds) {
    match step {
        Step::Normalize { hold_s, .. }
        | Step::Anneal { hold_s, .. }
        | Step::StressRelief { hold_s, .. }
        | Step::Refine { hold_s, .. }
        | Step::Clay { hold_s, .. }
        | Step::Preheat { hold_s, .. }
        | Step::Cool { hold_s, .. }
        | Step::SubZero { hold_s, .. }
        | Step::Temper { hold_s, .. } => *hold_s = time,
        Step::Coat {}
        | Step::Pouch {}
        | Step::Straighten {}
        | Step::TorchTemper { .. }
        | Step::Check { .. } => {}
        Step::Austenitize { soak_s, .. } => *soak_s = time,
        Step::Quench { stages } => {
            // What is timed of a quench is how long its first stage lasted.
            if let Some(stage) = stages.first_mut().filter(|s| s.for_s.is_some()) {
                stage.for_s = Some(time);
            }
        }
    }
}

fn set_temperature(step: &mut Step, t: Celsius) {
    match step {
        Step::Normalize { temperature_c, .. }
        | Step::Anneal { temperature_c, .. }
        | Step::StressRelief { temperature_c, .. }
        | Step::Refine { temperature_c, .. }
        | Step::Clay { temperature_c, .. }
        | Step::Preheat { temperature_c, .. }
        | Step::Cool { temperature_c, .. }
        | Step::TorchTemper { temperature_c, .. }
        | Step::Austenitize { temperature_c, .. }
        | Step::SubZero { temperature_c, .. }
        | Step::Temper { temperature_c, .. } => *temperature_c = t,
        Step::Coat {} | Step::Pouch {} | Step::Straighten {} | Step::Check { .. } => {}
        Step::Quench { stages } => {
            if let Some(stage) = stages.first_mut() {
                let (low, high) = stage.medium.bath_range_c();
                stage.bath_c = Celsius::clamped(t.value().clamp(low, high));
            }
        }
    }
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

    fn confirm(upto: usize, every_ms: i64) -> Vec<Event> {
        (0..upto)
            .map(|beat| Event {
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
            what: Happening::Hand {
                name: Hand::parse(name).unwrap(),
            },
            at_ms: 0,
        };
        let mut events = vec![say("Tove")];
        events.extend(confirm(3, 1000));
        let close = Event {
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
            events.push(Event {
                what: extra,
                at_ms: 9000,
            });
            state(&steps, &events)
        };
        assert_eq!(then(Happening::Confirm { beat: 1 }), Err(Refusal::Twice));
        assert_eq!(then(Happening::Confirm { beat: 5 }), Err(Refusal::TooEarly));
        assert_eq!(
            then(Happening::Undo { beat: 0 }),
            Err(Refusal::NothingToUndo)
        );
        assert_eq!(then(Happening::Undo { beat: 1 }).unwrap().position, 1);
        let say = Happening::Say {
            step: 9,
            temperature_c: None,
            lasted_s: None,
            note: String::new(),
        };
        assert_eq!(then(say), Err(Refusal::NoSuchStep));
        let mut closed = confirm(1, 1);
        closed.push(Event {
            what: Happening::Close,
            at_ms: 2,
        });
        closed.push(Event {
            what: Happening::Close,
            at_ms: 3,
        });
        assert_eq!(state(&steps, &closed), Err(Refusal::Closed));
        closed[2].what = Happening::Say {
            step: 0,
            temperature_c: None,
            lasted_s: None,
            note: "from the logger".to_owned(),
        };
        let late = state(&steps, &closed).unwrap();
        assert!(late.closed && late.said.len() == 1);
    }

    #[test]
    fn the_clock_counts_when_it_is_believable() {
        let steps = steps();
        let mut events = confirm(3, 0);
        events[2].at_ms = 480_000;
        let done = as_done(&steps, &state(&steps, &events).unwrap());
        assert!(matches!(&done[0], Step::Austenitize { soak_s, .. } if soak_s.value() == 480.0));
        events[2].at_ms = 900;
        let done = as_done(&steps, &state(&steps, &events).unwrap());
        assert!(matches!(&done[0], Step::Austenitize { soak_s, .. } if soak_s.value() == 300.0));
    }

    #[test]
    fn what_was_said_wins() {
        let steps = steps();
        let mut events = confirm(2, 1000);
        events.push(Event {
            what: Happening::Say {
                step: 2,
                temperature_c: Some(Celsius::clamped(220.0)),
                lasted_s: Some(Seconds::clamped(3600.0)),
                note: "oven ran away".to_owned(),
            },
            at_ms: 5000,
        });
        let done = as_done(&steps, &state(&steps, &events).unwrap());
        assert!(
            matches!(&done[2], Step::Temper { temperature_c, hold_s, .. }
            if temperature_c.value() == 220.0 && hold_s.value() == 3600.0)
        );
    }
}
