//! Who works in the shop.

use crate::answers::person::Person;
use crate::answers::{all, one};
use crate::auth::{self, InPerson, SignedIn};
use crate::body::{Body, Id, text};
use crate::problem::Problem;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post, put};
use serde::{Deserialize, Serialize};
use vatten_store::role::Role;
use vatten_store::{PgPool, person, recovery};

/// What a person is called and may do.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PersonChange {
    /// Name.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// What they may do.
    pub role: Role,
}

/// Where somebody goes on, shown this once.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Link {
    /// Path on this server. The secret in it is never sent to a server as part of an address.
    pub path: String,
}

/// Everybody who works in the shop, the longest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", responses((status = 200, body = Vec<Person>), crate::openapi::Problems)))]
#[get("/people")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Person>>, Problem> {
    Ok(all(person::list(pool.inner(), me.workshop).await?))
}

/// Changes what a person is called and may do.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", params(("id" = uuid::Uuid, Path)),
    request_body = PersonChange, responses((status = 200, body = Person), crate::openapi::Problems)))]
#[put("/people/<id>", data = "<body>")]
pub async fn change(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<PersonChange>,
) -> Result<Json<Person>, Problem> {
    let name = text("name", &body.0.name, (1, 80))?;
    let changed = person::change(pool.inner(), me.workshop, id.0, &name, body.0.role).await?;
    Ok(one(changed))
}

/// A person leaves the shop: their sessions and tokens end, the record keeps their name.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", params(("id" = uuid::Uuid, Path)),
    responses((status = 204), crate::openapi::Problems)))]
#[delete("/people/<id>")]
pub async fn leave(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Status, Problem> {
    person::leave(pool.inner(), me.workshop, id.0).await?;
    Ok(Status::NoContent)
}

/// Makes a link by which a person gives themselves a new password, once, within a day.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", params(("id" = uuid::Uuid, Path)),
    responses((status = 200, body = Link), crate::openapi::Problems)))]
#[post("/people/<id>/link")]
pub async fn link(pool: &State<PgPool>, me: InPerson, id: Id) -> Result<Json<Link>, Problem> {
    let secret = auth::secret()?;
    recovery::set_link(pool.inner(), me.0.workshop, id.0, &auth::digest(&secret)).await?;
    Ok(Json(Link {
        path: format!("/back#{secret}"),
    }))
}
