//! Who is asking: passwords, sessions by cookie for people, bearer tokens for scripts.

use crate::config::Config;
use crate::problem::{PendingProblem, Problem};
use crate::routes::Need;
use argon2::Argon2;
use argon2::{PasswordHash, PasswordHasher, PasswordVerifier};
use rocket::http::{Cookie, Method, SameSite, Status};
use rocket::request::{FromRequest, Outcome, Request};
use sha2::{Digest, Sha256};
use std::sync::LazyLock;
use tokio::sync::Semaphore;
use uuid::Uuid;
use vatten_store::role::Role;
use vatten_store::{PgPool, WorkshopId, session, token};

/// Name of the session cookie.
pub const COOKIE: &str = "vatten_session";
/// Name of the cookie that a browser is known by, and for how many days.
pub const DEVICE_COOKIE: &str = "vatten_device";
const DEVICE_DAYS: i64 = 365;
/// Beginning of every bearer token, so that a leaked one is recognised.
pub const TOKEN_PREFIX: &str = "vatten_";

/// Hashing is slow on purpose; more at once than cores only makes all of them wait.
static HASHING: Semaphore = Semaphore::const_new(2);

/// A hash of some password, compared against when nobody has the address, so that both answers take
/// as long.
static NOBODY: LazyLock<String> =
    LazyLock::new(|| hash_now("nobody has this password").unwrap_or_default());

fn hash_now(password: &str) -> Option<String> {
    Argon2::default()
        .hash_password(password.as_bytes())
        .ok()
        .map(|hash| hash.to_string())
}

async fn off_thread<T: Send + 'static>(
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, Problem> {
    let broken = || {
        Problem::new(
            Status::InternalServerError,
            "The password could not be checked.",
        )
    };
    let _turn = HASHING.acquire().await.map_err(|_| broken())?;
    tokio::task::spawn_blocking(work)
        .await
        .map_err(|_| broken())
}

/// Argon2id hash of a password, in PHC form.
///
/// # Errors
/// The system gave no randomness.
pub async fn hash(password: String) -> Result<String, Problem> {
    off_thread(move || hash_now(&password))
        .await?
        .ok_or_else(|| {
            Problem::new(
                Status::InternalServerError,
                "The password could not be kept.",
            )
        })
}

/// Whether a password belongs to a hash; without a hash it takes as long and says no.
///
/// # Errors
/// The check could not run.
pub async fn matches(password: String, hash: Option<String>) -> Result<bool, Problem> {
    off_thread(move || {
        let known = hash.is_some();
        let hash = hash.unwrap_or_else(|| NOBODY.clone());
        let fits = PasswordHash::new(&hash).is_ok_and(|hash| {
            Argon2::default()
                .verify_password(password.as_bytes(), &hash)
                .is_ok()
        });
        known && fits
    })
    .await
}

/// A new secret of 32 random bytes, in hexadecimal.
///
/// # Errors
/// The system gave no randomness.
pub fn secret() -> Result<String, Problem> {
    let mut bytes = [0u8; 32];
    getrandom::fill(&mut bytes)
        .map_err(|_| Problem::new(Status::InternalServerError, "No randomness to be had."))?;
    Ok(bytes.iter().map(|b| format!("{b:02x}")).collect())
}

/// What is stored of a secret.
#[must_use]
pub fn digest(secret: &str) -> Vec<u8> {
    Sha256::digest(secret.as_bytes()).to_vec()
}

/// The session cookie.
#[must_use]
pub fn cookie(secret: String, behind_tls: bool) -> Cookie<'static> {
    kept(COOKIE, secret, behind_tls, i64::from(session::DAYS))
}

/// The cookie that a browser is known by.
#[must_use]
pub fn device_cookie(secret: String, behind_tls: bool) -> Cookie<'static> {
    kept(DEVICE_COOKIE, secret, behind_tls, DEVICE_DAYS)
}

fn kept(name: &'static str, secret: String, behind_tls: bool, days: i64) -> Cookie<'static> {
    Cookie::build((name, secret))
        .http_only(true)
        .same_site(SameSite::Strict)
        .secure(behind_tls)
        .path("/")
        .max_age(rocket::time::Duration::days(days))
        .build()
}

/// A request from one of our own pages or from a script: not from a page of another site.
pub struct OwnPage;

fn from_other_site(request: &Request<'_>) -> bool {
    let Some(origin) = request.headers().get_one("Origin") else {
        return false;
    };
    let host = request.headers().get_one("Host").unwrap_or_default();
    let config = request.rocket().state::<Config>();
    let scheme = if config.is_some_and(|c| c.behind_tls) {
        "https"
    } else {
        "http"
    };
    origin != format!("{scheme}://{host}")
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for OwnPage {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        if from_other_site(request) {
            let problem = Problem::new(Status::Forbidden, "This came from a page of another site.");
            return Outcome::Error((PendingProblem::leave(request, problem), ()));
        }
        Outcome::Success(Self)
    }
}

/// What somebody is signed in by.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Through {
    /// A session, by its id.
    Session(Uuid),
    /// A token, by its id.
    Token(Uuid),
}

/// A person acting for their shop, who is allowed what the route needs. Nothing else gives a [`WorkshopId`].
#[derive(Debug, Clone, Copy)]
pub struct SignedIn {
    /// The shop.
    pub workshop: WorkshopId,
    /// The person.
    pub person_id: Uuid,
    /// What they may do.
    pub role: Role,
    /// By what.
    pub through: Through,
}

/// A person who signed in: no token acts for one here.
#[derive(Debug, Clone, Copy)]
pub struct InPerson(pub SignedIn);

fn not_in_person() -> Problem {
    let sentence = "Only somebody who signed in can do this, not a token.";
    Problem::new(Status::Forbidden, sentence)
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for InPerson {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        if request.headers().contains("Authorization") {
            return Outcome::Error((PendingProblem::leave(request, not_in_person()), ()));
        }
        SignedIn::from_request(request).await.map(Self)
    }
}

async fn find(request: &Request<'_>) -> Result<Option<SignedIn>, Problem> {
    let Some(pool) = request.rocket().state::<PgPool>() else {
        return Ok(None);
    };
    if let Some(header) = request.headers().get_one("Authorization") {
        let Some(secret) = header.strip_prefix("Bearer ") else {
            return Ok(None);
        };
        let found = token::find(pool, &digest(secret.trim())).await?;
        return Ok(found.map(|f| SignedIn {
            workshop: f.workshop,
            person_id: f.person_id,
            role: f.role,
            through: Through::Token(f.id),
        }));
    }
    let Some(cookie) = request.cookies().get(COOKIE) else {
        return Ok(None);
    };
    if request.method() != Method::Get && from_other_site(request) {
        return Err(Problem::new(
            Status::Forbidden,
            "This came from a page of another site.",
        ));
    }
    let found = session::find(pool, &digest(cookie.value())).await?;
    Ok(found.map(|f| SignedIn {
        workshop: f.workshop,
        person_id: f.person_id,
        role: f.role,
        through: Through::Session(f.id),
    }))
}

/// Why somebody may not ask this, if they may not.
fn refused(me: SignedIn, need: Need) -> Option<Problem> {
    let is_token = matches!(me.through, Through::Token(_));
    if is_token && need == Need::Oneself {
        return Some(not_in_person());
    }
    if me.role >= need.role() {
        return None;
    }
    let sentence = match (is_token, need.role()) {
        (true, _) => "This token may not do that: its scope, or who made it, allows less.",
        (_, Role::Owner) => "This is for the owner of the shop.",
        (_, Role::Smith) => "This is planning: for a smith or the owner of the shop.",
        _ => "You may look in this shop, not change anything. A helper, a smith or the owner can.",
    };
    Some(Problem::new(Status::Forbidden, sentence))
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for SignedIn {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        let need = request.route().map_or(Need::Own, Need::of);
        let problem = match find(request).await {
            Ok(Some(me)) => match refused(me, need) {
                None => return Outcome::Success(me),
                Some(problem) => problem,
            },
            Ok(None) => Problem::unauthorized(),
            Err(problem) => problem,
        };
        Outcome::Error((PendingProblem::leave(request, problem), ()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[rocket::async_test]
    async fn a_password_fits_its_own_hash_only() {
        let hash = hash("orchard and harbour".to_owned()).await.unwrap();
        assert!(hash.starts_with("$argon2id$"));
        assert!(
            matches("orchard and harbour".to_owned(), Some(hash.clone()))
                .await
                .unwrap()
        );
        assert!(!matches("orchard".to_owned(), Some(hash)).await.unwrap());
        assert!(
            !matches("nobody has this password".to_owned(), None)
                .await
                .unwrap()
        );
    }

    #[test]
    fn secrets_differ_and_are_kept_hashed() {
        let (a, b) = (secret().unwrap(), secret().unwrap());
        assert_ne!(a, b);
        assert_eq!(a.len(), 64);
        assert_ne!(digest(&a), digest(&b));
    }
}
