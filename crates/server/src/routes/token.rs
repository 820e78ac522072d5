//! Bearer tokens for scripts.

use crate::answers::all;
use crate::answers::token::Token;
use crate::auth::{self, InPerson, SignedIn};
use crate::body::{Body, Id, text};
use crate::problem::Problem;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::{Deserialize, Serialize};
use std::ops::RangeInclusive;
use vatten_core::quantity::validation::Checker;
use vatten_store::role::Scope;
use vatten_store::{PgPool, token};

/// Days a token may work.
const DAYS: RangeInclusive<i32> = 1..=3650;

/// What a new token is for.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NewToken {
    /// What it is for.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// What it may do; never more than whoever makes it.
    #[serde(default = "plan")]
    #[cfg_attr(feature = "schema", schema(required = false))]
    pub scope: Scope,
    /// Days it works; for good without.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 3650))]
    pub days: Option<i32>,
}

/// What tokens did before they had a scope.
fn plan() -> Scope {
    Scope::Plan
}

/// A new token with its secret, shown this once.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MadeToken {
    /// The token.
    pub token: Token,
    /// What a script sends after `Authorization: Bearer`.
    pub secret: String,
}

/// Tokens that work.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", responses((status = 200, body = Vec<Token>), crate::openapi::Problems)))]
#[get("/tokens")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Token>>, Problem> {
    Ok(all(token::list(pool.inner(), me.workshop).await?))
}

/// Makes a token. The secret is shown this once.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", request_body = NewToken,
    responses((status = 200, body = MadeToken), crate::openapi::Problems)))]
#[post("/tokens", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: InPerson,
    body: Body<NewToken>,
) -> Result<Json<MadeToken>, Problem> {
    let me = me.0;
    let mut c = Checker::default();
    let name = c.take(text("name", &body.0.name, (1, 80)));
    if body.0.days.is_some_and(|d| !DAYS.contains(&d)) {
        c.refuse_allowing(
            "days",
            "A token cannot work that long.",
            format!("{} to {} days", DAYS.start(), DAYS.end()),
        );
    }
    let name = c.finish(name)?;
    let new = token::NewToken {
        name: &name,
        scope: body.0.scope,
        days: body.0.days,
    };
    let secret = format!("{}{}", auth::TOKEN_PREFIX, auth::secret()?);
    let made = token::create(
        pool.inner(),
        me.workshop,
        me.person_id,
        new,
        &auth::digest(&secret),
    )
    .await?;
    Ok(Json(MadeToken {
        token: made.into(),
        secret,
    }))
}

/// Revokes a token for good.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "shop", params(("id" = uuid::Uuid, Path)),
    responses((status = 204), crate::openapi::Problems)))]
#[delete("/tokens/<id>")]
pub async fn revoke(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Status, Problem> {
    token::revoke(pool.inner(), me.workshop, id.0).await?;
    Ok(Status::NoContent)
}
