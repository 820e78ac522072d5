//! Invitations into the shop.

use crate::answers::invitation::{Invitation, Invited};
use crate::answers::session::Session;
use crate::answers::{all, one};
use crate::auth::{self, InPerson, OwnPage, SignedIn};
use crate::body::{Body, Id, text};
use crate::config::{Config, SignUps};
use crate::problem::Problem;
use crate::routes::account::{Visitor, new_person, open, take_try};
use rocket::http::{CookieJar, Status};
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::{Deserialize, Serialize};
use vatten_core::quantity::validation::Checker;
use vatten_store::person::NewPerson;
use vatten_store::role::Role;
use vatten_store::{Error, PgPool, invitation};

/// Whom to invite.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct NewInvitation {
    /// For whom, as the shop calls them.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// What they will be.
    pub role: Role,
}

/// A new invitation with its link, shown this once.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MadeInvitation {
    /// The invitation.
    pub invitation: Invitation,
    /// Path on this server. The secret in it is never sent to a server as part of an address.
    pub path: String,
}

/// The secret of an invitation.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct InvitationSecret {
    /// The part of the link after `#`.
    pub secret: String,
}

/// Somebody who comes in.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Acceptance {
    /// The part of the link after `#`.
    pub secret: String,
    /// Name.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// Address to sign in with.
    #[cfg_attr(feature = "schema", schema(min_length = 3, max_length = 254))]
    pub email: String,
    /// Password.
    #[cfg_attr(feature = "schema", schema(min_length = 10, max_length = 200))]
    pub password: String,
}

/// Invitations that nobody took yet.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", responses((status = 200, body = Vec<Invitation>), crate::openapi::Problems)))]
#[get("/invitations")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Invitation>>, Problem> {
    Ok(all(invitation::list(pool.inner(), me.workshop).await?))
}

/// Makes an invitation: a link that works once, for seven days.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", request_body = NewInvitation,
    responses((status = 200, body = MadeInvitation), crate::openapi::Problems)))]
#[post("/invitations", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: InPerson,
    body: Body<NewInvitation>,
) -> Result<Json<MadeInvitation>, Problem> {
    let me = me.0;
    let name = text("name", &body.0.name, (1, 80))?;
    let secret = auth::secret()?;
    let hash = auth::digest(&secret);
    let role = body.0.role;
    let made =
        invitation::create(pool.inner(), me.workshop, me.person_id, &name, role, &hash).await?;
    Ok(Json(MadeInvitation {
        invitation: made.into(),
        path: format!("/invited#{secret}"),
    }))
}

/// Takes an invitation back.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", params(("id" = uuid::Uuid, Path)),
    responses((status = 204), crate::openapi::Problems)))]
#[delete("/invitations/<id>")]
pub async fn revoke(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Status, Problem> {
    invitation::revoke(pool.inner(), me.workshop, id.0).await?;
    Ok(Status::NoContent)
}

fn over(error: Error) -> Problem {
    match error {
        Error::NotFound => Problem::new(
            Status::NotFound,
            "This invitation works no more: it was used or taken back, or is over a week old.",
        ),
        other => other.into(),
    }
}

/// What the holder of a link is invited to.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", security(()), request_body = InvitationSecret,
    responses((status = 200, body = Invited), (status = 429, body = Problem), crate::openapi::Problems)))]
#[post("/invitations/look", data = "<body>")]
pub async fn look(
    pool: &State<PgPool>,
    _own: OwnPage,
    body: Body<InvitationSecret>,
) -> Result<Json<Invited>, Problem> {
    let found = invitation::find(pool.inner(), &auth::digest(&body.0.secret)).await;
    Ok(one(found.map_err(over)?))
}

/// Comes into the shop by an invitation, which is used up.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "people", security(()), request_body = Acceptance,
    responses((status = 200, body = Session), (status = 429, body = Problem), crate::openapi::Problems)))]
#[post("/invitations/accept", data = "<body>")]
pub async fn accept(
    pool: &State<PgPool>,
    config: &State<Config>,
    jar: &CookieJar<'_>,
    visitor: Visitor,
    _own: OwnPage,
    body: Body<Acceptance>,
) -> Result<Json<Session>, Problem> {
    if config.sign_up == SignUps::Off {
        let sentence = "Nobody is taken in here now: ask whoever runs this server.";
        return Err(Problem::new(Status::Forbidden, sentence));
    }
    let Acceptance {
        secret,
        name,
        email,
        password,
    } = body.0;
    let hash = auth::digest(&secret);
    let to = invitation::find(pool.inner(), &hash).await.map_err(over)?;
    let mut c = Checker::default();
    let person = new_person(&mut c, &name, &email, &password, &to.workshop);
    let (name, email) = c.finish(person)?;
    take_try(pool, &visitor.client.of_client("link")).await?;
    let password_hash = auth::hash(password).await?;
    let new = NewPerson {
        name: &name,
        email: &email,
        password_hash: &password_hash,
    };
    let (id, person_id) = invitation::accept(pool.inner(), &hash, new)
        .await
        .map_err(over)?;
    open(pool, jar, &visitor, id, person_id).await
}
