//! A firing: the plan broken into actions that are confirmed one by one ([`action`]), and what the events of
//! it amount to ([`event`]).

mod action;
mod event;

pub use action::{Action, Beat, Caution, Doing, Heat, Mark, beats};
pub use event::{Event, Happening, Refusal, State, state};
