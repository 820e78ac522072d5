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
use vatten_store::{PgPool, token};

/// What a new token is for.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NewToken {
    /// What it is for.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
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
    let name = text("name", &body.0.name, (1, 80))?;
    let secret = format!("{}{}", auth::TOKEN_PREFIX, auth::secret()?);
    let made = token::create(
        pool.inner(),
        me.workshop,
        me.person_id,
        &name,
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
