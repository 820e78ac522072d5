//! Signing up, in and out.

use crate::answers::person::Person;
use crate::answers::workshop::Workshop;
use crate::auth::{self, OwnPage, SignedIn};
use crate::body::{Body, text};
use crate::config::Config;
use crate::problem::Problem;
use rocket::http::{CookieJar, Status};
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::{Deserialize, Serialize};
use vatten_core::quantity::validation::Checker;
use vatten_store::{PgPool, WorkshopId, person, session, workshop};

/// Shortest and longest password, characters.
const PASSWORD: (usize, usize) = (10, 200);

/// A new shop and its first person.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SignUp {
    /// Name of the shop.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub workshop: String,
    /// Name of the person.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// Address to sign in with.
    #[cfg_attr(feature = "schema", schema(min_length = 3, max_length = 254))]
    pub email: String,
    /// Password.
    #[cfg_attr(feature = "schema", schema(min_length = 10, max_length = 200))]
    pub password: String,
}

/// What a person signs in with.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SignIn {
    /// Address.
    pub email: String,
    /// Password.
    pub password: String,
}

/// Who is signed in, and to which shop.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Session {
    /// The person.
    pub person: Person,
    /// The shop.
    pub workshop: Workshop,
}

async fn session_of(
    pool: &PgPool,
    id: WorkshopId,
    person_id: uuid::Uuid,
) -> Result<Json<Session>, Problem> {
    Ok(Json(Session {
        person: person::get(pool, id, person_id).await?.into(),
        workshop: workshop::get(pool, id).await?.into(),
    }))
}

async fn open(
    pool: &PgPool,
    jar: &CookieJar<'_>,
    config: &Config,
    id: WorkshopId,
    person_id: uuid::Uuid,
) -> Result<Json<Session>, Problem> {
    let secret = auth::secret()?;
    session::open(pool, id, person_id, &auth::digest(&secret)).await?;
    jar.add(auth::cookie(secret, config.behind_tls));
    session_of(pool, id, person_id).await
}

/// Signs up: makes a shop with its first person and signs them in.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", request_body = SignUp,
    responses((status = 200, body = Session), crate::openapi::Problems)))]
#[post("/signup", data = "<body>")]
pub async fn sign_up(
    pool: &State<PgPool>,
    config: &State<Config>,
    jar: &CookieJar<'_>,
    _own: OwnPage,
    body: Body<SignUp>,
) -> Result<Json<Session>, Problem> {
    let mut c = Checker::default();
    let shop = c.take(text("workshop", &body.0.workshop, (1, 80)));
    let name = c.take(text("name", &body.0.name, (1, 80)));
    let email = c.take(text("email", &body.0.email, (3, 254)));
    let shaped = email.as_deref().is_none_or(|e| {
        e.split_once('@')
            .is_some_and(|(a, b)| !a.is_empty() && !b.is_empty() && !b.contains('@'))
            && !e.contains(char::is_whitespace)
    });
    if !shaped {
        c.refuse("email", "This is not an address.");
    }
    let count = body.0.password.chars().count();
    if !(PASSWORD.0..=PASSWORD.1).contains(&count) {
        c.refuse_allowing(
            "password",
            "A longer password, please: a few words are easiest.",
            format!("{} to {} characters", PASSWORD.0, PASSWORD.1),
        );
    }
    let (shop, name, email) = c.finish(match (shop, name, email) {
        (Some(a), Some(b), Some(e)) => Some((a, b, e)),
        _ => None,
    })?;
    let hash = auth::hash(body.0.password).await?;
    let (id, person_id) = person::sign_up(pool.inner(), &shop, &name, &email, &hash).await?;
    open(pool, jar, config, id, person_id).await
}

/// Signs in.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", request_body = SignIn,
    responses((status = 200, body = Session), (status = 429, body = Problem), crate::openapi::Problems)))]
#[post("/session", data = "<body>")]
pub async fn sign_in(
    pool: &State<PgPool>,
    config: &State<Config>,
    jar: &CookieJar<'_>,
    _own: OwnPage,
    body: Body<SignIn>,
) -> Result<Json<Session>, Problem> {
    let email = body.0.email.trim().to_lowercase();
    let email_hash = auth::digest(&email);
    if !session::take_try(pool.inner(), &email_hash).await? {
        return Err(Problem::new(
            Status::TooManyRequests,
            "Too many failed tries for this address. Wait a quarter of an hour.",
        ));
    }
    let known = person::credentials(pool.inner(), &email).await?;
    let hash = known.as_ref().map(|k| k.password_hash.clone());
    let fits = auth::matches(body.0.password, hash).await?;
    match known.filter(|_| fits) {
        Some(known) => {
            session::give_back_try(pool.inner(), &email_hash).await?;
            open(pool, jar, config, known.workshop, known.person_id).await
        }
        None => Err(Problem::new(
            Status::Unauthorized,
            "Address and password do not belong together.",
        )),
    }
}

/// Who is signed in.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", responses((status = 200, body = Session), crate::openapi::Problems)))]
#[get("/session")]
pub async fn who(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Session>, Problem> {
    session_of(pool, me.workshop, me.person_id).await
}

/// Signs out.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", responses((status = 204), crate::openapi::Problems)))]
#[delete("/session")]
pub async fn sign_out(
    pool: &State<PgPool>,
    jar: &CookieJar<'_>,
    _me: SignedIn,
) -> Result<Status, Problem> {
    if let Some(cookie) = jar.get(auth::COOKIE) {
        session::close(pool.inner(), &auth::digest(cookie.value())).await?;
        jar.remove(rocket::http::Cookie::build(auth::COOKIE).path("/"));
    }
    Ok(Status::NoContent)
}
