//! The days to come: which blades, when, and what gives way.

use crate::auth::{InPerson, SignedIn};
use crate::body::{Body, Id};
use crate::day::{Asked, Cures, DayView, Shop, WhatIf};
use crate::day::{cures_of, current, lay_anew, shop_hours, what_if};
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::response::status::NoContent;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post, put};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::planning::cure::Relaxation;
use vatten_core::planning::shop::ShopHours;
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_store::day::{self, NewDayBlade, Pin};
use vatten_store::{Error, PgPool};

/// A blade that is put on a day.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OnDay {
    /// The blade.
    pub blade_id: Uuid,
    /// Not before; now when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub not_before: Option<OffsetDateTime>,
    /// Wanted by.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub due_at: Option<OffsetDateTime>,
}

/// Blades that are put on a day.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AddBlades {
    /// The blades, 1 to 40.
    pub blades: Vec<OnDay>,
}

/// When a blade may begin, and when it is wanted.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BladeTimes {
    /// Not before.
    #[serde(with = "time::serde::rfc3339")]
    pub not_before: OffsetDateTime,
    /// Wanted by.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub due_at: Option<OffsetDateTime>,
}

/// A start that is pinned.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PinBody {
    /// The blade.
    pub blade_id: Uuid,
    /// Its activity, from 0.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 400))]
    pub activity: i32,
    /// When it is to start; let go when left out.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub start_at: Option<OffsetDateTime>,
}

/// A shop's hours with their version.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HoursView {
    /// Who is there when, and what counts.
    pub hours: ShopHours,
    /// Goes up with every change; 0 before the shop said any.
    pub version: i64,
}

/// New hours.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HoursBody {
    /// Who is there when, and what counts.
    pub hours: ShopHours,
    /// Version they were read at.
    pub version: i64,
}

/// So far ahead a blade may be planned.
const AHEAD: time::Duration = time::Duration::days(365);

fn check_times(
    field: &str,
    not_before: OffsetDateTime,
    due_at: Option<OffsetDateTime>,
) -> Result<(), Faults> {
    let mut c = Checker::default();
    let now = OffsetDateTime::now_utc();
    let allowed = "within a year from now";
    if (not_before - now).abs() > AHEAD {
        c.refuse_allowing(
            format!("{field}not_before"),
            "That is no day to plan.",
            allowed,
        );
    }
    if due_at.is_some_and(|due| (due - now).abs() > AHEAD) {
        c.refuse_allowing(format!("{field}due_at"), "That is no day to plan.", allowed);
    }
    c.finish(Some(()))
}

fn shop<'a>(pool: &'a PgPool, predictor: &'a Arc<Predictor>, me: &SignedIn) -> Shop<'a> {
    Shop {
        pool,
        predictor,
        id: me.workshop,
    }
}

/// The day as it is now: laid again from what was pressed.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", responses((status = 200, body = DayView), crate::openapi::Problems)))]
#[get("/day")]
pub async fn get(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
) -> Result<Json<DayView>, Problem> {
    Ok(Json(current(shop(pool, predictor, &me)).await?))
}

/// Puts blades on a day: the others give way.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", request_body = AddBlades,
    responses((status = 200, body = DayView), crate::openapi::Problems)))]
#[post("/day/blades", data = "<body>")]
pub async fn add(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<AddBlades>,
) -> Result<Json<DayView>, Problem> {
    let now = OffsetDateTime::now_utc();
    let most = usize::try_from(day::MOST_BLADES).unwrap_or(40);
    if !(1..=most).contains(&body.0.blades.len()) {
        let sentence = "Say which blades.";
        return Err(Faults::with_allowed("blades", sentence, format!("1 to {most}")).into());
    }
    let mut new = Vec::with_capacity(body.0.blades.len());
    for (i, one) in body.0.blades.iter().enumerate() {
        let not_before = one.not_before.unwrap_or(now);
        check_times(&format!("blades[{i}]."), not_before, one.due_at)?;
        new.push(NewDayBlade {
            blade_id: one.blade_id,
            not_before,
            due_at: one.due_at,
        });
    }
    let mut connection = pool.acquire().await.map_err(Error::from)?;
    day::add(&mut connection, me.workshop, &new).await?;
    drop(connection);
    Ok(Json(
        lay_anew(shop(pool, predictor, &me), Asked::Anew).await?,
    ))
}

/// Changes when a blade may begin and when it is wanted.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", params(("id" = Uuid, Path)), request_body = BladeTimes,
    responses((status = 200, body = DayView), crate::openapi::Problems)))]
#[put("/day/blades/<id>", data = "<body>")]
pub async fn change(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    body: Body<BladeTimes>,
) -> Result<Json<DayView>, Problem> {
    let BladeTimes { not_before, due_at } = body.0;
    check_times("", not_before, due_at)?;
    let new = NewDayBlade {
        blade_id: id.0,
        not_before,
        due_at,
    };
    day::change(pool.inner(), me.workshop, new).await?;
    Ok(Json(
        lay_anew(shop(pool, predictor, &me), Asked::Anew).await?,
    ))
}

/// Takes a blade off: the others move up.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", params(("id" = Uuid, Path)),
    responses((status = 200, body = DayView), crate::openapi::Problems)))]
#[delete("/day/blades/<id>")]
pub async fn remove(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
) -> Result<Json<DayView>, Problem> {
    day::remove(pool.inner(), me.workshop, id.0).await?;
    Ok(Json(
        lay_anew(shop(pool, predictor, &me), Asked::Anew).await?,
    ))
}

/// Pins a start, or lets it go: the rest gives way.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", request_body = PinBody,
    responses((status = 200, body = DayView), crate::openapi::Problems)))]
#[put("/day/pins", data = "<body>")]
pub async fn pin(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<PinBody>,
) -> Result<Json<DayView>, Problem> {
    let PinBody {
        blade_id,
        activity,
        start_at,
    } = body.0;
    if !(0..=400).contains(&activity) {
        let sentence = "The blade has no such activity.";
        return Err(Faults::with_allowed("activity", sentence, "0 to 400").into());
    }
    match start_at {
        Some(start_at) => {
            if (start_at - OffsetDateTime::now_utc()).abs() > AHEAD {
                let sentence = "That is no moment to plan.";
                return Err(
                    Faults::with_allowed("start_at", sentence, "within a year from now").into(),
                );
            }
            let new = Pin {
                blade_id,
                activity,
                start_at,
            };
            day::pin(pool.inner(), me.workshop, new).await?;
        }
        None => day::unpin(pool.inner(), me.workshop, blade_id, activity).await?,
    }
    Ok(Json(
        lay_anew(shop(pool, predictor, &me), Asked::Anew).await?,
    ))
}

/// Lays the day anew, whatever people went by so far. Pins stay.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", responses((status = 200, body = DayView), crate::openapi::Problems)))]
#[post("/day/anew")]
pub async fn anew(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
) -> Result<Json<DayView>, Problem> {
    let asked = shop(pool, predictor, &me);
    Ok(Json(lay_anew(asked, Asked::FromNothing).await?))
}

/// What a change would do. Nothing is kept.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", request_body = Relaxation,
    responses((status = 200, body = WhatIf), crate::openapi::Problems)))]
#[post("/day/what-if", data = "<body>")]
pub async fn if_so(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<Relaxation>,
) -> Result<Json<WhatIf>, Problem> {
    if let Relaxation::Longer { by_s, .. } | Relaxation::Due { by_s, .. } = &body.0
        && !(-86_400..=30 * 86_400).contains(by_s)
    {
        let sentence = "That is no time to add.";
        let allowed = "-86400 to 2592000 s";
        return Err(Faults::with_allowed("by_s", sentence, allowed).into());
    }
    Ok(Json(what_if(shop(pool, predictor, &me), body.0).await?))
}

/// What would mend a day on which something cannot be, those that cure it first; none where nothing ails.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", responses((status = 200, body = Cures), crate::openapi::Problems)))]
#[get("/day/cures")]
pub async fn cures(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
) -> Result<Json<Cures>, Problem> {
    Ok(Json(cures_of(shop(pool, predictor, &me)).await?))
}

/// Who is in the shop when, and what counts.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", responses((status = 200, body = HoursView), crate::openapi::Problems)))]
#[get("/day/hours")]
pub async fn hours(pool: &State<PgPool>, me: SignedIn) -> Result<Json<HoursView>, Problem> {
    let (hours, version) = shop_hours(pool, me.workshop).await?;
    Ok(Json(HoursView { hours, version }))
}

/// Saves who is in the shop when, and what counts.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", request_body = HoursBody,
    responses((status = 200, body = HoursView), crate::openapi::Problems)))]
#[put("/day/hours", data = "<body>")]
pub async fn set_hours(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<HoursBody>,
) -> Result<Json<HoursView>, Problem> {
    let HoursBody { hours, version } = body.0;
    let hours = hours.checked().map_err(|f| f.under("hours"))?;
    match day::set_hours(pool.inner(), me.workshop, &hours, version).await {
        Ok(version) => {
            lay_anew(shop(pool, predictor, &me), Asked::Anew).await?;
            Ok(Json(HoursView { hours, version }))
        }
        Err(Error::Stale) => {
            let (hours, version) = shop_hours(pool, me.workshop).await?;
            Err(Problem::stale(&HoursView { hours, version }))
        }
        Err(other) => Err(other.into()),
    }
}

/// The address of a shop's calendar: shown this once.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CalendarAddress {
    /// Path under this server that calendar programs subscribe to.
    pub path: String,
}

/// Whether there is a calendar.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CalendarView {
    /// Since when; none where there is none.
    #[serde(with = "time::serde::rfc3339::option")]
    pub since: Option<OffsetDateTime>,
}

/// Whether the shop's calendar can be read under a secret address.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", responses((status = 200, body = CalendarView), crate::openapi::Problems)))]
#[get("/day/calendar")]
pub async fn calendar(pool: &State<PgPool>, me: SignedIn) -> Result<Json<CalendarView>, Problem> {
    let since = day::calendar_since(pool.inner(), me.workshop).await?;
    Ok(Json(CalendarView { since }))
}

/// Puts up the shop's calendar under a new secret address. The one before no longer opens.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", responses((status = 200, body = CalendarAddress), crate::openapi::Problems)))]
#[post("/day/calendar")]
pub async fn put_up_calendar(
    pool: &State<PgPool>,
    me: InPerson,
) -> Result<Json<CalendarAddress>, Problem> {
    let me = me.0;
    let secret = crate::auth::secret()?;
    day::set_calendar(pool.inner(), me.workshop, &crate::auth::digest(&secret)).await?;
    let path = format!("/calendar/{secret}.ics");
    Ok(Json(CalendarAddress { path }))
}

/// Takes the shop's calendar down.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "day", responses((status = 204), crate::openapi::Problems)))]
#[delete("/day/calendar")]
pub async fn revoke_calendar(pool: &State<PgPool>, me: SignedIn) -> Result<NoContent, Problem> {
    day::revoke_calendar(pool.inner(), me.workshop).await?;
    Ok(NoContent)
}
