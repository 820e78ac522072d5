//! A firing and its events.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::advice::extra::ExtraStep;
use vatten_core::advice::found::Now;
use vatten_core::prediction::Prediction;
use vatten_core::prediction::made::Made;
use vatten_core::process::step::Step;
use vatten_core::record::done::Done;
use vatten_core::record::firing::{FiringAction, FiringEvent, Planned, State};
use vatten_store::firing as store;

answer! {
    /// A firing with where it stands.
    pub struct Firing from store::Firing {
        /// Id.
        pub id: Uuid,
        /// Its blade.
        pub blade_id: Uuid,
        /// Mark of the blade.
        pub mark: String,
        /// Name of the blade.
        pub name: String,
        /// Name of the steel it was fired as.
        pub steel_name: String,
        /// The frozen plan.
        pub plan_id: Uuid,
        /// The steps by their number: those of the plan, and those that were put in at the fire.
        pub steps: Vec<Step>,
        /// The frozen plan, where the firing left it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        pub planned: Option<Planned>,
        /// The numbers of the steps that are done or to be done, in order.
        pub order: Vec<usize>,
        /// Steps that can be put in now, each with what there is to do in it.
        pub extras: Vec<ExtraStep>,
        /// What was really done of them.
        pub done: Done,
        /// What there is to do, in order.
        pub actions: Vec<FiringAction>,
        /// Where it stands.
        pub state: State,
        /// What was predicted when it started.
        pub prediction: Prediction,
        /// The blade as it went into the fire.
        pub made: Made,
        /// When it started.
        #[serde(with = "time::serde::rfc3339")]
        pub started_at: OffsetDateTime,
        /// When it was closed.
        #[serde(with = "time::serde::rfc3339::option")]
        pub closed_at: Option<OffsetDateTime>,
        /// What each finding at the fire asks for now, in their order.
        pub now: Vec<Option<Now>>,
        /// Goes up with every event.
        pub version: i64,
    }
}

answer! {
    /// An event as stored.
    pub struct EventView from store::EventRow {
        /// Id.
        pub id: Uuid,
        /// Order within the firing.
        pub position: i32,
        /// What happened.
        pub what: FiringEvent,
        /// When, by the server's clock.
        #[serde(with = "time::serde::rfc3339")]
        pub at: OffsetDateTime,
        /// When by the clock of the device it was pressed on, where that was told.
        #[serde(
            default,
            skip_serializing_if = "Option::is_none",
            with = "time::serde::rfc3339::option"
        )]
        pub device_at: Option<OffsetDateTime>,
        /// When the server took it down.
        #[serde(with = "time::serde::rfc3339")]
        pub recorded_at: OffsetDateTime,
    }
}
