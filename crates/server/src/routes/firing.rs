//! Firings and what happens in them.

use crate::answers::firing::EventView;
use crate::answers::firing::Firing;
use crate::answers::{self, all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::predictor::{Depth, Predictor};
use crate::prepared_blade::{PreparedBlade, made_now};
use crate::problem::Problem;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::Deserialize;
use std::sync::Arc;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::process::operator::Operator;
use vatten_core::process::plan::Plan;
use vatten_core::process::sighting::SightingDraft;
use vatten_core::process::station::StationKind;
use vatten_core::quantity::units::{Celsius, Quantity, Seconds};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::finding::Finding;
use vatten_core::record::firing::{End, FiringEvent};
use vatten_core::simulation::simulated::STEP_MM;
use vatten_store::firing::{Frozen, Past};
use vatten_store::{Error, PgPool, blade, clay, firing, plan, station};

/// A firing to be started.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StartBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// Version of the draft plan that is to be frozen.
    pub plan_version: i64,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub at: Option<OffsetDateTime>,
}

/// A device whose clock was never set is not believed further than this.
const MOST_AHEAD: Duration = Duration::days(3653);

/// Something that happened.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct EventBody {
    /// Id made by the client (UUID version 7): the same event sent twice happens once.
    pub id: Option<Uuid>,
    /// `confirm`, `undo`, `say`, `found`, `operator` or `close`.
    pub kind: String,
    /// Position of the action, for `confirm`. Presses that wait on a device since an older version say `beat`.
    #[serde(alias = "beat")]
    pub action: Option<usize>,
    /// The event that is taken back, for `undo`.
    pub event: Option<Uuid>,
    /// Position of the step, for `say`.
    pub step: Option<usize>,
    /// Round of a temper or bath of a quench, from 0, for `say`; all rounds and the first bath when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 11))]
    pub round: Option<usize>,
    /// Real temperature, for `say`, −200 to 1300 °C.
    #[cfg_attr(feature = "schema", schema(minimum = -200, maximum = 1300))]
    pub temperature_c: Option<f64>,
    /// How hot it was by eye or magnet, for `say`; with a temperature beside it, what an eye called it.
    pub by: Option<SightingDraft>,
    /// Real soak, hold or first quench stage, for `say`, s.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 604_800))]
    pub lasted_s: Option<f64>,
    /// What was found, for `found`.
    pub found: Option<Finding>,
    /// A remark, for `say`.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// How it ended, for `close`: `done`, `abandoned` or `mistake`; done when left out.
    pub end: Option<String>,
    /// Who quenches, for `operator`.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 40))]
    pub name: Option<String>,
    /// When, by the clock of the device; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub at: Option<OffsetDateTime>,
    /// How far the server's clock was ahead of the device's when that was last measured, ms: with it `at` is
    /// turned into the server's time.
    pub ahead_ms: Option<i64>,
    /// When it is sent, by the clock of the device: tells the same where nothing was measured.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub sent_at: Option<OffsetDateTime>,
}

/// When it happened by the server's clock, and by the device's where that was told. A clock that is wrong is
/// no reason to refuse a press; nothing happened later than now.
fn times(body: &EventBody, now: OffsetDateTime) -> (OffsetDateTime, Option<OffsetDateTime>) {
    let Some(at) = body.at else {
        return (now, None);
    };
    let ahead = match (body.ahead_ms, body.sent_at) {
        (Some(ms), _) => Duration::milliseconds(ms),
        (None, Some(sent_at)) => now - sent_at,
        (None, None) => Duration::ZERO,
    };
    let ahead = ahead.clamp(-MOST_AHEAD, MOST_AHEAD);
    let really = at.checked_add(ahead).unwrap_or(now).min(now);
    let by_device = body.ahead_ms.is_some() || body.sent_at.is_some() || really != at;
    (really, by_device.then_some(at))
}

impl EventBody {
    fn check(&self) -> Result<FiringEvent, Faults> {
        let mut c = Checker::default();
        let note = c.take(text("note", &self.note, (0, 500)));
        let temperature_c = self
            .temperature_c
            .and_then(|t| c.take(Celsius::check("temperature_c", t)));
        let lasted_s = self
            .lasted_s
            .and_then(|s| c.take(Seconds::check("lasted_s", s)));
        let by = self
            .by
            .as_ref()
            .and_then(|by| c.take(by.parse().map_err(|f| f.under("by"))));
        let needed = |field: &str| Err(Faults::one(field, "This is needed."));
        let what = match self.kind.as_str() {
            "confirm" => match self.action {
                Some(action) => Some(FiringEvent::Confirm { action }),
                None => c.take(needed("action")),
            },
            "undo" => match self.event {
                Some(event) => Some(FiringEvent::Undo { event }),
                None => c.take(needed("event")),
            },
            "say" if self.step.is_none() => c.take(needed("step")),
            "say" => note.zip(self.step).map(|(note, step)| FiringEvent::Say {
                step,
                round: self.round,
                temperature_c,
                by,
                lasted_s,
                note,
            }),
            "found" => match &self.found {
                Some(found) => c
                    .take(found.check().map_err(|f| f.under("found")))
                    .map(|()| FiringEvent::Found {
                        found: found.clone(),
                    }),
                None => c.take(needed("found")),
            },
            "operator" | "hand" => c
                .take(Operator::parse(self.name.as_deref().unwrap_or_default()))
                .map(|name| FiringEvent::Operator { name }),
            "close" => match self.end.as_deref() {
                None => Some(FiringEvent::Close { end: End::Done }),
                Some(end) => c
                    .take(End::parse(end))
                    .map(|end| FiringEvent::Close { end }),
            },
            _ => c.take(Err(Faults::with_allowed(
                "kind",
                "There is no such event.",
                "confirm, undo, say, found, operator, close",
            ))),
        };
        c.finish(what)
    }
}

/// Freezes the draft plan with its prediction and starts firing it.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)), request_body = StartBody,
    responses((status = 200, body = Firing), crate::openapi::Problems)))]
#[post("/blades/<id>/firings", data = "<body>")]
pub async fn start(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<StartBody>,
) -> Result<Json<Firing>, Problem> {
    let blade = blade::get(pool.inner(), me.workshop, id.0).await?;
    let draft = plan::latest(pool.inner(), me.workshop, id.0).await?;
    let firing_id = body.0.id.unwrap_or_else(Uuid::now_v7);
    if let Ok(known) = firing::get(pool.inner(), me.workshop, firing_id).await {
        return Ok(one(known));
    }
    if blade.firing_open {
        return Err(Error::not_now("plan_version", "This blade is already being fired.").into());
    }
    if draft.frozen_at.is_some() {
        let sentence = "This plan was fired before and is frozen. Save a new plan first.";
        return Err(Error::not_now("plan_version", sentence).into());
    }
    if draft.version != body.0.plan_version {
        return Err(Problem::stale(&answers::plan::PlanView::from(draft)));
    }
    let steps = Plan::stored(draft.steps.clone());
    // Clay that no step lays on stays on the drawing.
    let painted = clay::get(pool.inner(), me.workshop, id.0).await?;
    let laid = painted.painted().filter(|_| steps.lays_clay()).cloned();
    let made = made_now(pool, me.workshop, &blade, laid).await?;
    let stations = station::list(pool.inner(), me.workshop).await?;
    let asked = PreparedBlade::new(made.clone(), stations, true)?.asked(steps);
    let learned = predictor.models.current(pool, me.workshop).await?;
    let prediction = predictor
        .predict(asked, learned, Depth::Whole(STEP_MM))
        .await?;
    let frozen = Frozen {
        prediction: &prediction,
        made: &made,
    };
    let now = OffsetDateTime::now_utc();
    let at = body.0.at.unwrap_or(now).min(now);
    match firing::start(pool.inner(), me.workshop, firing_id, &draft, frozen, at).await {
        Err(Error::Stale) => Err(Problem::stale(&answers::plan::PlanView::from(
            plan::latest(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// Firings of a blade, newest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Firing>), crate::openapi::Problems)))]
#[get("/blades/<id>/firings")]
pub async fn of_blade(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<Firing>>, Problem> {
    Ok(all(firing::of_blade(pool.inner(), me.workshop, id.0).await?))
}

/// The firings going on, oldest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", responses((status = 200, body = Vec<Firing>), crate::openapi::Problems)))]
#[get("/firings")]
pub async fn open(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Firing>>, Problem> {
    Ok(all(firing::open(pool.inner(), me.workshop).await?))
}

/// One firing.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Firing), crate::openapi::Problems)))]
#[get("/firings/<id>")]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<Firing>, Problem> {
    Ok(one(firing::get(pool.inner(), me.workshop, id.0).await?))
}

/// Who quenched lately in this shop, the latest first, at most twelve.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", responses((status = 200, body = Vec<Operator>), crate::openapi::Problems)))]
#[get("/operators")]
pub async fn operators(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Operator>>, Problem> {
    Ok(Json(firing::operators(pool.inner(), me.workshop).await?))
}

/// Everything that happened in a firing, in order.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<EventView>), crate::openapi::Problems)))]
#[get("/firings/<id>/events")]
pub async fn events(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<EventView>>, Problem> {
    Ok(all(firing::events(pool.inner(), me.workshop, id.0).await?))
}

/// Something happened.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)), request_body = EventBody,
    responses((status = 200, body = Firing), crate::openapi::Problems)))]
#[post("/firings/<id>/events", data = "<body>")]
pub async fn happen(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<EventBody>,
) -> Result<Json<Firing>, Problem> {
    let what = body.0.check()?;
    if let FiringEvent::Say { by: Some(by), .. } = &what
        && let Some(eye) = by.eye_id
    {
        let known = station::list(pool.inner(), me.workshop).await?;
        if !known
            .iter()
            .any(|s| s.id == eye && s.kind == StationKind::Eye)
        {
            return Err(Faults::one("by.eye_id", "The shop keeps no such eye.").into());
        }
    }
    let now = OffsetDateTime::now_utc();
    let (at, device_at) = times(&body.0, now);
    let new = Past {
        id: body.0.id.unwrap_or_else(Uuid::now_v7),
        what,
        at,
        device_at,
    };
    let by = Some(me.person_id);
    Ok(one(firing::happen(
        pool.inner(),
        me.workshop,
        id.0,
        &new,
        by,
    )
    .await?))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;
    use time::macros::datetime;

    const NOW: OffsetDateTime = datetime!(2026-11-29 12:00 UTC);

    fn body(at: OffsetDateTime) -> EventBody {
        let at = at.format(&time::format_description::well_known::Rfc3339);
        let body = serde_json::json!({ "kind": "close", "at": at.unwrap() });
        serde_json::from_value(body).unwrap()
    }

    #[rstest]
    // A press two days ago on a device 20 minutes fast, measured or told by when it was sent.
    #[case(Some(-1_200_000), None, datetime!(2026-11-27 12:20 UTC), datetime!(2026-11-27 12:00 UTC))]
    #[case(None, Some(datetime!(2026-11-29 12:20 UTC)), datetime!(2026-11-27 12:20 UTC), datetime!(2026-11-27 12:00 UTC))]
    // What was measured at the press counts before what the clock says now.
    #[case(Some(0), Some(datetime!(2026-11-29 13:00 UTC)), datetime!(2026-11-27 12:20 UTC), datetime!(2026-11-27 12:20 UTC))]
    // Nothing happened later than now, and nothing is refused for it.
    #[case(None, None, datetime!(2026-11-29 14:00 UTC), NOW)]
    #[case(Some(i64::MAX), None, datetime!(2026-11-29 11:00 UTC), NOW)]
    fn a_press_is_taken_by_the_servers_clock_and_keeps_its_own(
        #[case] ahead_ms: Option<i64>,
        #[case] sent_at: Option<OffsetDateTime>,
        #[case] at: OffsetDateTime,
        #[case] really: OffsetDateTime,
    ) {
        let body = EventBody {
            ahead_ms,
            sent_at,
            ..body(at)
        };
        assert_eq!(times(&body, NOW), (really, Some(at)));
    }

    #[test]
    fn a_clock_that_is_right_is_not_told_twice() {
        let at = datetime!(2026-11-29 11:58 UTC);
        assert_eq!(times(&body(at), NOW), (at, None));
    }
}
