//! What happens in a firing, and the state that a list of events amounts to. Times are milliseconds since
//! 1970 (UTC), given by the caller.

use super::action::{ActionKind, Doing, FiringAction, Mark};
use super::course::{Course, Deviated, Deviation, into_said};
use crate::material::medium::Medium;
use crate::process::operator::Operator;
use crate::process::sighting::Sighting;
use crate::process::step::Step;
use crate::quantity::units::{Celsius, Seconds};
use crate::quantity::validation::{Faults, named};
use crate::record::finding::Finding;
use serde::{Deserialize, Serialize};
use std::collections::HashSet;
use uuid::Uuid;

/// What a smith can do in a firing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum FiringEvent {
    /// An action was done.
    Confirm {
        /// Its position; `beat` in older records.
        #[serde(alias = "beat")]
        action: usize,
    },
    /// An event was not so: the one that confirmed the last action, or something that was said. Taking the
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
        /// How hot it was by eye or magnet, where no instrument said it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        by: Option<Sighting>,
        /// The bath it really went into.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        medium: Option<Medium>,
        /// Real soak or hold, of each round of a temper, s.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        lasted_s: Option<Seconds>,
        /// A remark.
        #[serde(default, skip_serializing_if = "String::is_empty")]
        note: String,
    },
    /// It goes on another way than planned.
    Deviate {
        /// How.
        how: Deviation,
    },
    /// Something was found of the blade.
    Found {
        /// What.
        found: Finding,
    },
    /// Who quenches; the last one said counts. `hand` in older records.
    #[serde(alias = "hand")]
    Operator {
        /// Who.
        name: Operator,
    },
    /// The firing is over.
    Close {
        /// How it ended.
        #[serde(default, skip_serializing_if = "End::is_done")]
        end: End,
    },
}

/// How a firing ended.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Default,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = FiringEnd))]
pub enum End {
    /// What was not pressed was done as planned.
    #[default]
    Done,
    /// It was broken off: what was not pressed was not done.
    Abandoned,
    /// It was begun by mistake: nothing was done to the blade.
    Mistake,
}

impl End {
    /// As most firings end.
    #[must_use]
    pub fn is_done(&self) -> bool {
        *self == Self::Done
    }

    /// Finds one by its identifier.
    ///
    /// # Errors
    /// A fault at `end` that lists them.
    pub fn parse(text: &str) -> Result<Self, Faults> {
        named("end", text, || {
            "A firing does not end like that.".to_owned()
        })
    }
}

/// An event: what happened and when, in milliseconds since 1970.
#[derive(Debug, Clone, PartialEq)]
pub struct Event {
    /// Its id.
    pub id: Uuid,
    /// What.
    pub what: FiringEvent,
    /// When, ms.
    pub at_ms: i64,
}

/// Why an event cannot be taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    /// The firing was closed before.
    #[error("This firing is already closed.")]
    Closed,
    /// The action was confirmed before.
    #[error("This step was already confirmed.")]
    Twice,
    /// The action is not the next one.
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
    /// The step was begun.
    #[error("This was begun already.")]
    Begun,
    /// Nothing would be hardened.
    #[error(
        "Without a hardening heat and a quench after it nothing hardens: abandon the firing instead."
    )]
    NothingHardens,
    /// It is in the quench, or warm from it.
    #[error("It is still hot from the quench: let it get cold first.")]
    StillHot,
    /// More steps than a firing can hold.
    #[error("There are more steps than a firing can hold.")]
    TooMany,
    /// The step is none that is set to a temperature.
    #[error("This step is not set to a temperature.")]
    NoHeat,
    /// The step is no temper.
    #[error("It is clamped in a temper only.")]
    NoTemper,
    /// The step is no quench.
    #[error("Only a quench has a bath.")]
    NoBath,
    /// It was quenched: that happened.
    #[error("It was quenched, and that happened: abandon the firing instead.")]
    WasQuenched,
    /// It was not quenched yet, so that nothing can have come of it.
    #[error("This blade was not quenched yet, so nothing can have come of it.")]
    NotQuenched,
}

/// Something that was found at the fire.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FoundAtFire {
    /// The event that said it; the finding has the same id.
    pub event: Uuid,
    /// What.
    pub found: Finding,
}

/// What the events so far amount to.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct State {
    /// Number of actions confirmed; the next one has this position.
    pub position: usize,
    /// When each confirmed action was confirmed, ms.
    pub confirmed_ms: Vec<i64>,
    /// The event that confirmed each of them.
    #[serde(default)]
    pub confirmed_by: Vec<Uuid>,
    /// When it became hard, ms, while it waits for its first temper.
    pub untempered_since_ms: Option<i64>,
    /// What goes on since the last confirmed action.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub doing: Option<Doing>,
    /// It was quenched at least once.
    pub quenched: bool,
    /// It went through its last temper.
    pub tempered: bool,
    /// The firing is over.
    pub closed: bool,
    /// How it ended.
    #[serde(default, skip_serializing_if = "End::is_done")]
    pub end: End,
    /// What was said to differ, step and event in order.
    pub said: Vec<FiringEvent>,
    /// How it left the plan, in order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub deviations: Vec<Deviated>,
    /// What was found of the blade at the fire, in order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub found: Vec<FoundAtFire>,
    /// Who quenches, when said; `hand` in older records.
    #[serde(default, alias = "hand", skip_serializing_if = "Option::is_none")]
    pub operator: Option<Operator>,
}

/// What was done one after the other: only the last of it can be taken back.
#[derive(Debug, Clone)]
enum Undoable {
    Confirmed { event: Uuid, at_ms: i64 },
    Deviated { event: Uuid, before: Course },
}

impl Undoable {
    const fn event(&self) -> &Uuid {
        match self {
            Self::Confirmed { event, .. } | Self::Deviated { event, .. } => event,
        }
    }
}

impl State {
    /// The steps as they stand, of a plan.
    #[must_use]
    pub fn course(&self, planned: &[Step]) -> Course {
        Course::after(planned, &self.deviations)
    }

    /// What there is to do, in order, with the baths that were said.
    #[must_use]
    pub fn actions(&self, course: &Course) -> Vec<FiringAction> {
        let mut actions = course.actions();
        let said = self.said.iter().filter_map(|said| match said {
            FiringEvent::Say {
                step,
                round,
                medium: Some(medium),
                ..
            } => Some((*step, round.unwrap_or(0), *medium)),
            _ => None,
        });
        into_said(&mut actions, &said.collect::<Vec<_>>());
        actions
    }

    /// What the confirmed actions made of the blade.
    fn follow(&mut self, actions: &[FiringAction]) {
        for (action, at) in actions.iter().zip(&self.confirmed_ms) {
            match action.mark {
                Mark::Quenched => {
                    self.quenched = true;
                    self.untempered_since_ms = Some(*at);
                }
                Mark::Tempering => self.untempered_since_ms = None,
                _ if action.kind == (ActionKind::IntoFire {}) => self.untempered_since_ms = None,
                _ => {}
            }
        }
        let last = self.position.checked_sub(1).and_then(|i| actions.get(i));
        self.doing = last.map(|b| b.doing);
        let lasting = |a: &&FiringAction| matches!(a.mark, Mark::Quenched | Mark::Tempering);
        self.tempered = self.quenched
            && self.position == actions.len()
            && (actions.iter().rfind(lasting)).is_some_and(|a| a.mark == Mark::Tempering);
    }
}

/// Events as they are folded.
struct Fold {
    course: Course,
    state: State,
    done: Vec<Undoable>,
    /// What was said, by the event that said it: each can be taken back.
    said: Vec<(Uuid, FiringEvent)>,
    taken_back: HashSet<Uuid>,
}

impl Fold {
    fn new(steps: &[Step]) -> Self {
        Self {
            course: Course::planned(steps),
            state: State::default(),
            done: Vec::new(),
            said: Vec::new(),
            taken_back: HashSet::new(),
        }
    }

    fn was_quenched(&self) -> bool {
        (0..self.state.position)
            .filter_map(|at| self.course.action(at))
            .any(|a| a.mark == Mark::Quenched)
    }

    fn take(&mut self, event: &Event) -> Result<(), Refusal> {
        let said = |id: &Uuid| self.said.iter().any(|s| s.0 == *id);
        // What really was may come to light later: a logger is read when the fire is out.
        let late = match &event.what {
            FiringEvent::Undo { event } => said(event),
            FiringEvent::Say { .. } | FiringEvent::Operator { .. } | FiringEvent::Found { .. } => {
                true
            }
            _ => false,
        };
        if self.state.closed && !late {
            return Err(Refusal::Closed);
        }
        match &event.what {
            FiringEvent::Confirm { action } => self.confirm(*action, event)?,
            FiringEvent::Undo { event } => self.take_back(event)?,
            FiringEvent::Deviate { how } => self.deviate(how, event.id)?,
            FiringEvent::Say {
                step,
                round,
                medium,
                ..
            } => {
                let planned = self.course.steps().get(*step).ok_or(Refusal::NoSuchStep)?;
                if round.is_some_and(|r| r >= planned.rounds()) {
                    return Err(Refusal::NoSuchRound);
                }
                if medium.is_some() && !matches!(planned, Step::Quench { .. }) {
                    return Err(Refusal::NoBath);
                }
                self.said.push((event.id, event.what.clone()));
            }
            FiringEvent::Found { found } => {
                if !self.was_quenched() && !found.is_early() {
                    return Err(Refusal::NotQuenched);
                }
                self.said.push((event.id, event.what.clone()));
            }
            FiringEvent::Operator { .. } => self.said.push((event.id, event.what.clone())),
            FiringEvent::Close { end } => {
                if *end == End::Mistake && self.was_quenched() {
                    return Err(Refusal::WasQuenched);
                }
                self.state.closed = true;
                self.state.end = *end;
            }
        }
        Ok(())
    }

    fn confirm(&mut self, action: usize, event: &Event) -> Result<(), Refusal> {
        if action < self.state.position {
            return Err(Refusal::Twice);
        }
        if action > self.state.position || action >= self.course.len() {
            return Err(Refusal::TooEarly);
        }
        self.done.push(Undoable::Confirmed {
            event: event.id,
            at_ms: event.at_ms,
        });
        self.state.position += 1;
        Ok(())
    }

    fn deviate(&mut self, how: &Deviation, event: Uuid) -> Result<(), Refusal> {
        let then = self.course.deviated(self.state.position, how)?;
        let before = std::mem::replace(&mut self.course, then);
        self.done.push(Undoable::Deviated { event, before });
        self.state.deviations.push(Deviated {
            event,
            position: self.state.position,
            deviation: how.clone(),
        });
        Ok(())
    }

    fn take_back(&mut self, event: &Uuid) -> Result<(), Refusal> {
        if self.taken_back.contains(event) {
            return Ok(());
        }
        if self.said.iter().any(|s| s.0 == *event) {
            self.said.retain(|s| s.0 != *event);
        } else if self.done.last().is_some_and(|d| d.event() == event) {
            self.unwind();
        } else if self.done.iter().any(|d| d.event() == event) {
            return Err(Refusal::NotTheLast);
        } else {
            return Err(Refusal::NoSuchEvent);
        }
        self.taken_back.insert(*event);
        Ok(())
    }

    /// Takes the last of what was done back.
    fn unwind(&mut self) {
        match self.done.pop() {
            Some(Undoable::Confirmed { .. }) => self.state.position -= 1,
            Some(Undoable::Deviated { before, .. }) => {
                self.course = before;
                self.state.deviations.pop();
                // What was said of steps that are no more is said of nothing.
                let known = self.course.steps().len();
                let of = |what: &FiringEvent| match what {
                    FiringEvent::Say { step, .. } => *step,
                    _ => 0,
                };
                self.said.retain(|(_, what)| of(what) < known.max(1));
            }
            None => {}
        }
    }

    fn finish(mut self) -> State {
        for done in &self.done {
            if let Undoable::Confirmed { event, at_ms } = done {
                self.state.confirmed_by.push(*event);
                self.state.confirmed_ms.push(*at_ms);
            }
        }
        for (event, what) in self.said {
            match what {
                FiringEvent::Operator { name } => self.state.operator = Some(name),
                FiringEvent::Found { found } => {
                    self.state.found.push(FoundAtFire { event, found });
                }
                what => self.state.said.push(what),
            }
        }
        let actions = self.state.actions(&self.course);
        self.state.follow(&actions);
        self.state
    }
}

/// Folds `events` over the actions of `steps`.
///
/// # Errors
/// The first event that cannot be, see [`Refusal`].
///
/// ```
/// use vatten_core::record::firing::state;
/// let at_start = state(&[], &[]).unwrap();
/// assert_eq!(at_start.position, 0);
/// ```
pub fn state(steps: &[Step], events: &[Event]) -> Result<State, Refusal> {
    let mut fold = Fold::new(steps);
    for event in events {
        fold.take(event)?;
    }
    Ok(fold.finish())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::firing::actions;
    use crate::simulation::physics::tests::plan;

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

    fn at(n: usize, what: FiringEvent, at_ms: i64) -> Event {
        Event {
            id: id(n),
            what,
            at_ms,
        }
    }

    fn confirm(upto: usize, every_ms: i64) -> Vec<Event> {
        (0..upto)
            .map(|action| Event {
                id: id(action),
                what: FiringEvent::Confirm { action },
                at_ms: action as i64 * every_ms,
            })
            .collect()
    }

    #[test]
    fn every_action_in_order_reaches_tempered() {
        let steps = steps();
        let actions = actions(&steps);
        assert_eq!(actions.len(), 2 + 3 + 6);
        let state = state(&steps, &confirm(actions.len(), 1000)).unwrap();
        assert!(state.quenched && state.tempered && state.untempered_since_ms.is_none());
    }

    #[test]
    fn between_quench_and_temper_the_clock_runs() {
        let steps = steps();
        let hard = state(&steps, &confirm(5, 1000)).unwrap();
        assert_eq!(hard.untempered_since_ms, Some(4000));
        assert_eq!(hard.doing, Some(Doing::LookingOver {}));
        let in_oven = state(&steps, &confirm(6, 1000)).unwrap();
        assert_eq!(in_oven.untempered_since_ms, None);
        assert!(!in_oven.tempered);
    }

    #[test]
    fn who_quenches_can_be_said_at_any_time_and_the_last_word_counts() {
        let steps = steps();
        let say = |name: &str| Event {
            id: Uuid::from_u128(500 + name.len() as u128),
            what: FiringEvent::Operator {
                name: Operator::parse(name).unwrap(),
            },
            at_ms: 0,
        };
        let mut events = vec![say("Tove")];
        events.extend(confirm(3, 1000));
        let close = Event {
            id: id(900),
            what: FiringEvent::Close { end: End::Done },
            at_ms: 9000,
        };
        events.extend([close, say("Aksel")]);
        let last = state(&steps, &events).unwrap();
        assert_eq!(last.operator.as_ref().map(Operator::name), Some("Aksel"));
        assert_eq!((last.position, last.closed), (3, true));
        assert_eq!(
            state(&steps, &events[..2])
                .unwrap()
                .operator
                .unwrap()
                .name(),
            "Tove"
        );
    }

    #[test]
    fn what_cannot_be_is_refused() {
        let steps = steps();
        let then = |extra: FiringEvent| {
            let mut events = confirm(2, 1000);
            events.push(at(90, extra, 9000));
            state(&steps, &events)
        };
        assert_eq!(
            then(FiringEvent::Confirm { action: 1 }),
            Err(Refusal::Twice)
        );
        assert_eq!(
            then(FiringEvent::Confirm { action: 5 }),
            Err(Refusal::TooEarly)
        );
        let say = |step: usize, round: Option<usize>| FiringEvent::Say {
            step,
            round,
            temperature_c: None,
            lasted_s: None,
            note: "from the logger".to_owned(),
            by: None,
            medium: None,
        };
        assert_eq!(then(say(9, None)), Err(Refusal::NoSuchStep));
        assert_eq!(then(say(2, Some(2))), Err(Refusal::NoSuchRound));
        let mut closed = confirm(1, 1);
        closed.push(at(91, FiringEvent::Close { end: End::Done }, 2));
        closed.push(at(92, FiringEvent::Close { end: End::Done }, 3));
        assert_eq!(state(&steps, &closed), Err(Refusal::Closed));
        closed[2].what = say(0, None);
        let late = state(&steps, &closed).unwrap();
        assert!(late.closed && late.said.len() == 1);
    }

    #[test]
    fn undo_takes_back_the_event_it_names_and_no_other() {
        let steps = steps();
        let undo = |event: usize| FiringEvent::Undo { event: id(event) };
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
        let anew = FiringEvent::Confirm { action: 1 };
        let events = [at(90, undo(1), 1), at(91, anew, 2), at(92, undo(1), 3)];
        assert_eq!(fold(&events).unwrap().position, 2);
    }

    #[test]
    fn what_was_said_can_be_taken_back_even_when_the_firing_is_closed() {
        let steps = steps();
        let operator = |name: &str| FiringEvent::Operator {
            name: Operator::parse(name).unwrap(),
        };
        let events = [
            at(1, operator("Tove"), 1),
            at(2, operator("Aksel"), 2),
            at(3, FiringEvent::Close { end: End::Done }, 3),
            at(4, FiringEvent::Undo { event: id(2) }, 4),
        ];
        assert_eq!(
            state(&steps, &events).unwrap().operator.unwrap().name(),
            "Tove"
        );
    }
}
