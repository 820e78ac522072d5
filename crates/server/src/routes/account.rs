//! Signing up, in and out.

use crate::answers::session::{Session, SessionDevice};
use crate::auth::{self, OwnPage, SignedIn, Through};
use crate::body::{Body, Id, text};
use crate::config::{Config, SignUps};
use crate::password_rule;
use crate::problem::Problem;
use crate::sign_in_limits::Client;
use crate::user_agent;
use rocket::http::{CookieJar, Status};
use rocket::request::{FromRequest, Outcome, Request};
use rocket::serde::json::Json;
use rocket::{State, delete, get, post};
use serde::Deserialize;
use uuid::Uuid;
use vatten_core::quantity::validation::Checker;
use vatten_store::person::NewPerson;
use vatten_store::tries::{self, Limit};
use vatten_store::{PgPool, WorkshopId, person, session, workshop};

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

/// Whoever asks, as far as the network and the browser tell.
pub struct Visitor {
    /// Where from.
    pub client: Client,
    /// On what kind of device.
    pub device: String,
    behind_tls: bool,
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Visitor {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        let Outcome::Success(client) = Client::from_request(request).await else {
            return Outcome::Forward(Status::InternalServerError);
        };
        let config = request.rocket().state::<Config>();
        let user_agent = request.headers().get_one("User-Agent");
        Outcome::Success(Self {
            client,
            device: user_agent.map(user_agent::device).unwrap_or_default(),
            behind_tls: config.is_some_and(|c| c.behind_tls),
        })
    }
}

/// Too many tries.
fn too_often() -> Problem {
    let sentence = "Too many tries, from here or for this address. Try again later: mostly a quarter of an hour is enough.";
    Problem::new(Status::TooManyRequests, sentence)
}

/// Takes a try; what is right gives it back.
///
/// # Errors
/// There is none left.
pub async fn take_try(pool: &PgPool, limits: &[Limit]) -> Result<(), Problem> {
    if tries::take(pool, limits).await? {
        Ok(())
    } else {
        Err(too_often())
    }
}

async fn session_of(
    pool: &PgPool,
    id: WorkshopId,
    person_id: Uuid,
) -> Result<Json<Session>, Problem> {
    Ok(Json(Session {
        person: person::get(pool, id, person_id).await?.into(),
        workshop: workshop::get(pool, id).await?.into(),
    }))
}

/// Signs a person in on the device that asks, which is known as one of theirs from then on.
pub async fn open(
    pool: &PgPool,
    jar: &CookieJar<'_>,
    visitor: &Visitor,
    id: WorkshopId,
    person_id: Uuid,
) -> Result<Json<Session>, Problem> {
    let secret = auth::secret()?;
    session::open(pool, id, person_id, &visitor.device, &auth::digest(&secret)).await?;
    match visitor.client.device() {
        Some(known) => session::know_device(pool, id, person_id, known).await?,
        None => {
            let device = auth::secret()?;
            session::know_device(pool, id, person_id, &auth::digest(&device)).await?;
            jar.add(auth::device_cookie(device, visitor.behind_tls));
        }
    }
    jar.add(auth::cookie(secret, visitor.behind_tls));
    session_of(pool, id, person_id).await
}

/// The name and the address that somebody wants to go by, and the password they will sign in with.
pub fn new_person(
    c: &mut Checker,
    name: &str,
    email: &str,
    password: &str,
    shop: &str,
) -> Option<(String, String)> {
    let called = c.take(text("name", name, (1, 80)));
    let address = c.take(text("email", email, (3, 254)));
    let shaped = address.as_deref().is_none_or(|e| {
        e.split_once('@')
            .is_some_and(|(a, b)| !a.is_empty() && !b.is_empty() && !b.contains('@'))
            && !e.contains(char::is_whitespace)
    });
    if !shaped {
        c.refuse("email", "This is not an address.");
    }
    c.take(password_rule::check(password, &[name, email, shop]));
    Some((called?, address?))
}

/// Signs up: makes a shop with its first person and signs them in.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", request_body = SignUp,
    responses((status = 200, body = Session), crate::openapi::Problems)))]
#[post("/signup", data = "<body>")]
pub async fn sign_up(
    pool: &State<PgPool>,
    config: &State<Config>,
    jar: &CookieJar<'_>,
    visitor: Visitor,
    _own: OwnPage,
    body: Body<SignUp>,
) -> Result<Json<Session>, Problem> {
    if config.sign_up != SignUps::Open {
        let sentence = "Shops are opened here by invitation: ask whoever runs this server.";
        return Err(Problem::new(Status::Forbidden, sentence));
    }
    let SignUp {
        workshop,
        name,
        email,
        password,
    } = body.0;
    let mut c = Checker::default();
    let shop = c.take(text("workshop", &workshop, (1, 80)));
    let person = new_person(&mut c, &name, &email, &password, &workshop);
    let (shop, (name, email)) = c.finish(shop.zip(person))?;
    take_try(pool, &visitor.client.of_client("shop")).await?;
    let password_hash = auth::hash(password).await?;
    let new = NewPerson {
        name: &name,
        email: &email,
        password_hash: &password_hash,
    };
    let (id, person_id) = person::sign_up(pool.inner(), &shop, new).await?;
    open(pool, jar, &visitor, id, person_id).await
}

/// Signs in.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", request_body = SignIn,
    responses((status = 200, body = Session), (status = 429, body = Problem), crate::openapi::Problems)))]
#[post("/session", data = "<body>")]
pub async fn sign_in(
    pool: &State<PgPool>,
    jar: &CookieJar<'_>,
    visitor: Visitor,
    _own: OwnPage,
    body: Body<SignIn>,
) -> Result<Json<Session>, Problem> {
    let limits = visitor.client.limits(pool, &body.0.email).await?;
    take_try(pool, &limits).await?;
    let known = person::credentials(pool.inner(), &body.0.email).await?;
    let hash = known.as_ref().map(|k| k.password_hash.clone());
    let fits = auth::matches(body.0.password, hash).await?;
    match known.filter(|_| fits) {
        Some(known) => {
            tries::give_back(pool.inner(), &limits).await?;
            open(pool, jar, &visitor, known.workshop, known.person_id).await
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

/// The devices that whoever asks is signed in on, the last used first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", responses((status = 200, body = Vec<SessionDevice>), crate::openapi::Problems)))]
#[get("/sessions")]
pub async fn sessions(
    pool: &State<PgPool>,
    me: SignedIn,
) -> Result<Json<Vec<SessionDevice>>, Problem> {
    let all = session::list(pool.inner(), me.workshop, me.person_id).await?;
    let device = |s: session::Session| SessionDevice {
        id: s.id,
        device: s.device,
        created_at: s.created_at,
        last_seen_at: s.last_seen_at,
        here: me.through == Through::Session(s.id),
    };
    Ok(Json(all.into_iter().map(device).collect()))
}

/// Signs out on another device.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "account", params(("id" = uuid::Uuid, Path)),
    responses((status = 204), crate::openapi::Problems)))]
#[delete("/sessions/<id>")]
pub async fn end_session(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Status, Problem> {
    session::end(pool.inner(), me.workshop, me.person_id, id.0).await?;
    Ok(Status::NoContent)
}
