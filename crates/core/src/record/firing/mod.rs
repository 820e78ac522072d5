//! A firing: the plan broken into actions that are confirmed one by one (`action`), the steps as they stand
//! once it went another way (`course`), and what the events of it amount to (`event`).

mod action;
mod course;
mod event;

pub use action::{ActionKind, Caution, Doing, FiringAction, Heat, Mark, actions};
pub use course::{Course, Deviated, Deviation, Planned};
pub use event::{End, Event, FiringEvent, FoundAtFire, Refusal, State, state};
