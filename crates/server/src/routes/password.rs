//! Another password, and the ways back in without the old one.

use crate::answers::session::Session;
use crate::auth::{self, OwnPage, SignedIn};
use crate::body::Body;
use crate::password_rule;
use crate::problem::Problem;
use crate::routes::account::{Visitor, open, take_try};
use rocket::http::{CookieJar, Status};
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use vatten_core::quantity::validation::Faults;
use vatten_store::{Error, PgPool, WorkshopId, person, recovery, tries};

/// Codes a person is given at once.
const CODES: usize = 8;

/// The old password and the new one.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PasswordChange {
    /// The one that holds now.
    pub old: String,
    /// The new one.
    #[cfg_attr(feature = "schema", schema(min_length = 10, max_length = 200))]
    pub password: String,
}

/// The password, to do what the session alone is not enough for.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OwnPassword {
    /// The one that holds now.
    pub old: String,
}

/// A new password by one of the codes.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ByCode {
    /// Address.
    pub email: String,
    /// A code; however it is spaced.
    pub code: String,
    /// The new password.
    #[cfg_attr(feature = "schema", schema(min_length = 10, max_length = 200))]
    pub password: String,
}

/// A new password by a link.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ByLink {
    /// The secret of the link.
    pub secret: String,
    /// The new password.
    #[cfg_attr(feature = "schema", schema(min_length = 10, max_length = 200))]
    pub password: String,
}

/// How many codes still work.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CodesLeft {
    /// Codes that still work.
    pub left: i64,
}

/// New codes, shown this once.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Codes {
    /// Each works once, in place of the password that is forgotten.
    pub codes: Vec<String>,
}

/// What is kept of a code: its digits, however it was typed.
fn kept(code: &str) -> Vec<u8> {
    let digits: String = code.chars().filter(char::is_ascii_alphanumeric).collect();
    auth::digest(&digits.to_ascii_lowercase())
}

/// Whoever asks knows the password of the account.
async fn know_password(
    pool: &PgPool,
    visitor: &Visitor,
    me: SignedIn,
    old: String,
) -> Result<(), Problem> {
    let email = person::get(pool, me.workshop, me.person_id).await?.email;
    let limits = visitor.client.limits(pool, &email).await?;
    take_try(pool, &limits).await?;
    let hash = person::password_hash(pool, me.workshop, me.person_id).await?;
    if !auth::matches(old, Some(hash)).await? {
        return Err(Faults::one("old", "This is not your password.").into());
    }
    tries::give_back(pool, &limits).await?;
    Ok(())
}

/// Gives a person another password and signs them in; all their other sessions have ended.
async fn set(
    pool: &PgPool,
    jar: &CookieJar<'_>,
    visitor: &Visitor,
    (id, person_id): (WorkshopId, uuid::Uuid),
    password: String,
) -> Result<Json<Session>, Problem> {
    let hash = auth::hash(password).await?;
    person::set_password(pool, id, person_id, &hash).await?;
    open(pool, jar, visitor, id, person_id).await
}

/// Changes the password. Every other session of the person ends.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", request_body = PasswordChange,
    responses((status = 200, body = Session), (status = 429, body = Problem), crate::openapi::Problems)))]
#[put("/session/password", data = "<body>")]
pub async fn change(
    pool: &State<PgPool>,
    jar: &CookieJar<'_>,
    visitor: Visitor,
    me: SignedIn,
    body: Body<PasswordChange>,
) -> Result<Json<Session>, Problem> {
    let of = person::get(pool.inner(), me.workshop, me.person_id).await?;
    password_rule::check(&body.0.password, &[&of.name, &of.email])?;
    know_password(pool, &visitor, me, body.0.old).await?;
    set(
        pool,
        jar,
        &visitor,
        (me.workshop, me.person_id),
        body.0.password,
    )
    .await
}

/// How many recovery codes still work.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", responses((status = 200, body = CodesLeft), crate::openapi::Problems)))]
#[get("/session/codes")]
pub async fn codes(pool: &State<PgPool>, me: SignedIn) -> Result<Json<CodesLeft>, Problem> {
    let left = recovery::codes_left(pool.inner(), me.workshop, me.person_id).await?;
    Ok(Json(CodesLeft { left }))
}

/// Makes new recovery codes, shown this once; those before work no more.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", request_body = OwnPassword,
    responses((status = 200, body = Codes), (status = 429, body = Problem), crate::openapi::Problems)))]
#[post("/session/codes", data = "<body>")]
pub async fn set_codes(
    pool: &State<PgPool>,
    visitor: Visitor,
    me: SignedIn,
    body: Body<OwnPassword>,
) -> Result<Json<Codes>, Problem> {
    know_password(pool, &visitor, me, body.0.old).await?;
    let mut codes = Vec::new();
    for _ in 0..CODES {
        let secret = auth::secret()?;
        let groups: Vec<&str> = (0..4).map(|i| &secret[i * 5..i * 5 + 5]).collect();
        codes.push(groups.join("-"));
    }
    let hashes: Vec<Vec<u8>> = codes.iter().map(|code| kept(code)).collect();
    recovery::set_codes(pool.inner(), me.workshop, me.person_id, &hashes).await?;
    Ok(Json(Codes { codes }))
}

/// A new password by one of the recovery codes, which is used up.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", security(()), request_body = ByCode,
    responses((status = 200, body = Session), (status = 429, body = Problem), crate::openapi::Problems)))]
#[post("/recovery", data = "<body>")]
pub async fn by_code(
    pool: &State<PgPool>,
    jar: &CookieJar<'_>,
    visitor: Visitor,
    _own: OwnPage,
    body: Body<ByCode>,
) -> Result<Json<Session>, Problem> {
    let ByCode {
        email,
        code,
        password,
    } = body.0;
    password_rule::check(&password, &[&email])?;
    let limits = visitor.client.limits(pool, &email).await?;
    take_try(pool, &limits).await?;
    let back = recovery::use_code(pool.inner(), &email, &kept(&code)).await;
    let back = back.map_err(|error| match error {
        Error::NotFound => Problem::new(
            Status::Unauthorized,
            "Address and code do not belong together.",
        ),
        other => other.into(),
    })?;
    tries::give_back(pool.inner(), &limits).await?;
    set(
        pool,
        jar,
        &visitor,
        (back.workshop, back.person_id),
        password,
    )
    .await
}

/// A new password by a link that the owner of the shop made.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", security(()), request_body = ByLink,
    responses((status = 200, body = Session), (status = 429, body = Problem), crate::openapi::Problems)))]
#[post("/recovery/link", data = "<body>")]
pub async fn by_link(
    pool: &State<PgPool>,
    jar: &CookieJar<'_>,
    visitor: Visitor,
    _own: OwnPage,
    body: Body<ByLink>,
) -> Result<Json<Session>, Problem> {
    password_rule::check(&body.0.password, &[])?;
    take_try(pool, &visitor.client.of_client("link")).await?;
    let back = recovery::use_link(pool.inner(), &auth::digest(&body.0.secret)).await;
    let back = back.map_err(|error| match error {
        Error::NotFound => Problem::new(
            Status::Unauthorized,
            "This link works no more: it was used, is over a day old, or a newer one was made.",
        ),
        other => other.into(),
    })?;
    set(
        pool,
        jar,
        &visitor,
        (back.workshop, back.person_id),
        body.0.password,
    )
    .await
}
