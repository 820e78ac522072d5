//! Batches: blades of one order, planned once, fired together, read apart.

use crate::answers::blade::BladeView;
use crate::auth::SignedIn;
use crate::body::{Body, Id};
use crate::problem::Problem;
use crate::routes::blade::{BladeChange, next_marked};
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use uuid::Uuid;
use vatten_core::process::plan::Plan;
use vatten_core::quantity::validation::Faults;
use vatten_store::{Error, PgPool, batch, blade, clay, plan};

/// A batch with its blades that are still in work.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BatchView {
    /// Id.
    pub id: Uuid,
    /// Its blades, oldest first.
    pub blade_ids: Vec<Uuid>,
}

/// More blades like one.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct AlikeBody {
    /// How many, 1 to 11.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 11))]
    pub count: u32,
}

/// Who took a plan.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BatchPlanned {
    /// Blades that have the plan now.
    pub planned: Vec<Uuid>,
    /// Blades that are in the fire, or were: theirs stays.
    pub kept: Vec<Uuid>,
}

/// Most that are made at once.
const MOST: u32 = 11;

/// Every batch of which two blades or more are in work, newest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", responses((status = 200, body = Vec<BatchView>), crate::openapi::Problems)))]
#[get("/batches")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<BatchView>>, Problem> {
    let all = batch::list(pool.inner(), me.workshop).await?;
    let views = all.into_iter().map(|b| BatchView {
        id: b.id,
        blade_ids: b.blade_ids,
    });
    Ok(Json(views.collect()))
}

/// Makes more blades like one, with its plan and its clay, as a batch; each is a blade of its own from then on.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = Uuid, Path)), request_body = AlikeBody,
    responses((status = 200, body = Vec<BladeView>), crate::openapi::Problems)))]
#[post("/blades/<id>/alike", data = "<body>")]
pub async fn alike(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<AlikeBody>,
) -> Result<Json<Vec<BladeView>>, Problem> {
    let first = blade::get(pool.inner(), me.workshop, id.0).await?;
    if !(1..=MOST).contains(&body.0.count) {
        let sentence = "So many are not made at once.";
        return Err(Faults::with_allowed("count", sentence, format!("1 to {MOST}")).into());
    }
    let steps = plan::latest(pool.inner(), me.workshop, id.0).await?.steps;
    let of_first = clay::get(pool.inner(), me.workshop, id.0).await?;
    let like = BladeChange::default().on(&first);
    let checked = like.check(pool, me.workshop, first.mark.clone(), Some(&first.ready));
    let (mut new, _) = checked.await?;
    let mut made = Vec::new();
    for _ in 0..body.0.count {
        let one = Uuid::now_v7();
        next_marked(pool, me.workshop, one, &mut new).await?;
        let of_one = Plan::stored(steps.clone());
        plan::save(pool.inner(), me.workshop, one, &of_one, 0).await?;
        if let Some(painted) = of_first.painted() {
            let wanted = &of_first.wanted;
            let by = Some(me.person_id);
            clay::save(pool.inner(), me.workshop, one, painted, wanted, 0, by).await?;
        }
        batch::join(pool.inner(), me.workshop, one, id.0).await?;
        made.push(blade::get(pool.inner(), me.workshop, one).await?.into());
    }
    Ok(Json(made))
}

/// Gives a blade's plan to the others of its batch that were not in the fire with theirs.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = Uuid, Path)),
    responses((status = 200, body = BatchPlanned), crate::openapi::Problems)))]
#[post("/blades/<id>/plan/batch")]
pub async fn give_plan(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<BatchPlanned>, Problem> {
    let given = plan::latest(pool.inner(), me.workshop, id.0).await?;
    let steps = Plan::stored(given.steps);
    let all = batch::of_blade(pool.inner(), me.workshop, id.0).await?;
    let (mut planned, mut kept) = (Vec::new(), Vec::new());
    for other in all.into_iter().filter(|b| *b != id.0) {
        let known = plan::latest(pool.inner(), me.workshop, other).await?;
        if known.frozen_at.is_some() {
            kept.push(other);
            continue;
        }
        match plan::save(pool.inner(), me.workshop, other, &steps, known.version).await {
            Ok(_) => planned.push(other),
            // Somebody plans that one just now.
            Err(Error::Stale) => kept.push(other),
            Err(error) => return Err(error.into()),
        }
    }
    Ok(Json(BatchPlanned { planned, kept }))
}
