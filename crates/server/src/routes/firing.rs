//! Firings and what happens in them.

use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::predictor::{Depth, Predictor};
use crate::problem::{Problem, Problems};
use crate::stored::Stored;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::Deserialize;
use std::sync::Arc;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::fault::{Checker, Faults};
use vatten_core::firing::Happening;
use vatten_core::hand::Hand;
use vatten_core::plan::Plan as CorePlan;
use vatten_core::prediction::Prediction;
use vatten_core::ready::Made;
use vatten_core::units::{Celsius, Quantity, Seconds};
use vatten_store::blade::Blade;
use vatten_store::firing::{Event, Firing, Frozen};
use vatten_store::plan::Plan;
use vatten_store::{Error, PgPool, WorkshopId, blade, clay, firing, plan};

/// A firing to be started.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
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

/// Clocks of devices may be ahead by this much.
const FUTURE: Duration = Duration::minutes(2);

/// Something that happened.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EventBody {
    /// Id made by the client (UUID version 7): the same event sent twice happens once.
    pub id: Option<Uuid>,
    /// `confirm`, `undo`, `say`, `hand` or `close`.
    pub kind: String,
    /// Position of the beat, for `confirm` and `undo`.
    pub beat: Option<usize>,
    /// Position of the step, for `say`.
    pub step: Option<usize>,
    /// Real temperature, for `say`, −200 to 1300 °C.
    #[schema(minimum = -200, maximum = 1300)]
    pub temperature_c: Option<f64>,
    /// Real soak, hold or first quench stage, for `say`, s.
    #[schema(minimum = 0, maximum = 604_800)]
    pub lasted_s: Option<f64>,
    /// A remark, for `say`.
    #[serde(default)]
    #[schema(max_length = 500)]
    pub note: String,
    /// Who quenches, for `hand`.
    #[schema(min_length = 1, max_length = 40)]
    pub name: Option<String>,
    /// When; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub at: Option<OffsetDateTime>,
}

impl EventBody {
    fn check(&self) -> Result<Happening, Faults> {
        let mut c = Checker::default();
        let note = c.take(text("note", &self.note, (0, 500)));
        let temperature_c = self
            .temperature_c
            .and_then(|t| c.take(Celsius::check("temperature_c", t)));
        let lasted_s = self
            .lasted_s
            .and_then(|s| c.take(Seconds::check("lasted_s", s)));
        let happening = match (self.kind.as_str(), self.beat, self.step) {
            ("confirm", Some(beat), _) => Some(Happening::Confirm { beat }),
            ("undo", Some(beat), _) => Some(Happening::Undo { beat }),
            ("say", _, Some(step)) => note.map(|note| Happening::Say {
                step,
                temperature_c,
                lasted_s,
                note,
            }),
            ("hand", _, _) => c
                .take(Hand::parse(self.name.as_deref().unwrap_or_default()))
                .map(|name| Happening::Hand { name }),
            ("close", _, _) => Some(Happening::Close),
            ("confirm" | "undo", None, _) => c.take(Err(Faults::one("beat", "This is needed."))),
            ("say", _, None) => c.take(Err(Faults::one("step", "This is needed."))),
            _ => c.take(Err(Faults::with_allowed(
                "kind",
                "There is no such event.",
                "confirm, undo, say, hand, close",
            ))),
        };
        c.finish(happening)
    }
}

/// The prediction of a stored blade with a stored plan, corrected by the records.
pub async fn predict_stored(
    pool: &PgPool,
    predictor: &Predictor,
    id: WorkshopId,
    blade: &Blade,
    made: &Made,
    plan: &Plan,
) -> Result<Prediction, Problem> {
    let stored = Stored::of(pool, id, blade.clone(), made).await?;
    let asked = stored.asked(CorePlan::stored(plan.steps.clone()))?;
    let learned = predictor.learned(pool, id).await?;
    predictor.predict(asked, learned, Depth::Whole(2.0)).await
}

/// Freezes the draft plan with its prediction and starts firing it.
#[utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)), request_body = StartBody,
    responses((status = 200, body = Firing), Problems))]
#[post("/blades/<id>/firings", data = "<body>")]
pub async fn start(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<StartBody>,
) -> Result<Json<Firing>, Problem> {
    let blade = blade::get(pool, me.workshop, id.0).await?;
    let draft = plan::latest(pool, me.workshop, id.0).await?;
    let firing_id = body.0.id.unwrap_or_else(Uuid::now_v7);
    if let Ok(known) = firing::get(pool, me.workshop, firing_id).await {
        return Ok(Json(known));
    }
    if blade.firing_open {
        return Err(Error::not_now("plan_version", "This blade is already being fired.").into());
    }
    if draft.frozen_at.is_some() {
        let sentence = "This plan was fired before and is frozen. Save a new plan first.";
        return Err(Error::not_now("plan_version", sentence).into());
    }
    if draft.version != body.0.plan_version {
        return Err(Problem::stale(&draft));
    }
    let made = Made {
        ready: blade.ready.clone(),
        clay: clay::get(pool, me.workshop, id.0).await?.painted().cloned(),
    };
    let prediction = predict_stored(pool, predictor, me.workshop, &blade, &made, &draft).await?;
    let frozen = Frozen {
        prediction: &prediction,
        made: &made,
    };
    let at = body.0.at.unwrap_or_else(OffsetDateTime::now_utc);
    match firing::start(pool, me.workshop, firing_id, &draft, frozen, at).await {
        Err(Error::Stale) => Err(Problem::stale(
            &plan::latest(pool, me.workshop, id.0).await?,
        )),
        other => Ok(Json(other?)),
    }
}

/// Firings of a blade, newest first.
#[utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Firing>), Problems))]
#[get("/blades/<id>/firings")]
pub async fn of_blade(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<Firing>>, Problem> {
    Ok(Json(firing::of_blade(pool, me.workshop, id.0).await?))
}

/// The firings going on, oldest first.
#[utoipa::path(context_path = "/api/v1", tag = "firings", responses((status = 200, body = Vec<Firing>), Problems))]
#[get("/firings")]
pub async fn open(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Firing>>, Problem> {
    Ok(Json(firing::open(pool, me.workshop).await?))
}

/// One firing.
#[utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Firing), Problems))]
#[get("/firings/<id>")]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<Firing>, Problem> {
    Ok(Json(firing::get(pool, me.workshop, id.0).await?))
}

/// Who quenched lately in this shop, the latest first, at most twelve.
#[utoipa::path(context_path = "/api/v1", tag = "firings", responses((status = 200, body = Vec<Hand>), Problems))]
#[get("/hands")]
pub async fn hands(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Hand>>, Problem> {
    Ok(Json(firing::hands(pool, me.workshop).await?))
}

/// Everything that happened in a firing, in order.
#[utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Event>), Problems))]
#[get("/firings/<id>/events")]
pub async fn events(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<Event>>, Problem> {
    Ok(Json(firing::events(pool, me.workshop, id.0).await?))
}

/// Something happened.
#[utoipa::path(context_path = "/api/v1", tag = "firings", params(("id" = Uuid, Path)), request_body = EventBody,
    responses((status = 200, body = Firing), Problems))]
#[post("/firings/<id>/events", data = "<body>")]
pub async fn happen(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<EventBody>,
) -> Result<Json<Firing>, Problem> {
    let happening = body.0.check()?;
    let now = OffsetDateTime::now_utc();
    let at = body.0.at.unwrap_or(now);
    if at > now + FUTURE {
        let sentence = "This lies in the future: the clock of this device is ahead.";
        return Err(Faults::with_allowed("at", sentence, "until now").into());
    }
    let event_id = body.0.id.unwrap_or_else(Uuid::now_v7);
    let by = Some(me.person_id);
    Ok(Json(
        firing::happen(pool, me.workshop, id.0, event_id, &happening, at, by).await?,
    ))
}
