//! A firing: the plan broken into actions that are confirmed one by one (`action`), and what the events of
//! it amount to (`event`).

mod action;
mod event;

pub use action::{ActionKind, Caution, Doing, FiringAction, Heat, Mark, actions};
pub use event::{End, Event, FiringEvent, FoundAtFire, Refusal, State, state};
