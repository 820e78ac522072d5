//! Changes as they happen, and the time by the server's clock.

use crate::auth::{SignedIn, Through};
use crate::live::Live;
use rocket::response::stream::{Event, EventStream};
use rocket::serde::json::Json;
use rocket::tokio::select;
use rocket::tokio::sync::broadcast::error::RecvError;
use rocket::tokio::time::{Duration, sleep};
use rocket::{Shutdown, State, get};
use serde::Serialize;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_store::PgPool;
use vatten_store::live::{Change, Heard};

/// A stream ends after this long; pages come back by themselves.
const LONGEST: Duration = Duration::from_secs(900);

/// Something changed.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Changed {
    /// What it is: `firing`, `reading`, `finding`, `blade`, `station` and so on.
    pub noun: String,
    /// Its id.
    pub id: Uuid,
    /// The blade it belongs to.
    pub blade_id: Option<Uuid>,
}

/// The server's clock.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Now {
    /// Milliseconds since 1970, UTC.
    pub now_ms: i64,
}

/// The time, so that devices whose clocks differ show the same one.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "live", security(()), responses((status = 200, body = Now))))]
#[get("/now")]
pub fn now() -> Json<Now> {
    let nanos = OffsetDateTime::now_utc().unix_timestamp_nanos();
    Json(Now {
        now_ms: i64::try_from(nanos / 1_000_000).unwrap_or(i64::MAX),
    })
}

/// True when this was the end of what somebody is signed in by.
fn ends(change: &Change, through: Through) -> bool {
    match through {
        Through::Session(id) => change.noun == "session" && change.id == id,
        Through::Token(id) => change.noun == "token" && change.id == id,
    }
}

/// Server-sent events: `changed` with a [`Changed`], and `gap` when anything may have changed.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "live",
    responses((status = 200, content_type = "text/event-stream", body = Changed), crate::openapi::Problems)))]
#[get("/live")]
pub fn live(
    pool: &State<PgPool>,
    live: &State<Live>,
    me: SignedIn,
    mut end: Shutdown,
) -> EventStream![] {
    let mut heard = live.hear(pool);
    EventStream! {
        yield Event::data("").event("gap");
        let over = sleep(LONGEST);
        rocket::tokio::pin!(over);
        loop {
            let next = select! {
                next = heard.recv() => next,
                () = &mut over => break,
                () = &mut end => break,
            };
            match next {
                // The stream goes with what it was opened by.
                Ok(Heard::Changed(change)) if ends(&change, me.through) => break,
                Ok(Heard::Changed(change)) if change.is_of(me.workshop) => {
                    let changed = Changed { noun: change.noun, id: change.id, blade_id: change.blade };
                    yield Event::json(&changed).event("changed");
                }
                Ok(Heard::Changed(_)) => {}
                Ok(Heard::Gap) | Err(RecvError::Lagged(_)) => yield Event::data("").event("gap"),
                Err(RecvError::Closed) => break,
            }
        }
    }
}
