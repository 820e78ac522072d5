//! Errors as RFC 9457 problem+json.

use crate::log::RequestId;
use rocket::Request;
use rocket::http::{ContentType, Status};
use rocket::response::{self, Responder, Response};
use serde::Serialize;
use std::io::Cursor;
use vatten_core::quantity::validation::{Fault, Faults};

/// The body of every answer that is not a success.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Problem {
    /// HTTP status.
    pub status: u16,
    /// What kind of problem it is, in a few words.
    pub title: &'static str,
    /// What was wrong, as a sentence.
    pub detail: String,
    /// Every field that was wrong.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<Fault>,
    /// With 409: what is stored now, so that nothing typed needs to be lost.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Object>))]
    pub current: Option<serde_json::Value>,
    /// What went wrong inside: for the log, not for the world.
    #[serde(skip)]
    pub cause: Option<Box<str>>,
}

impl Problem {
    /// A problem with a status and a sentence.
    pub fn new(status: Status, detail: impl Into<String>) -> Self {
        let title = match status.code {
            401 => "Not signed in",
            403 => "Not allowed",
            404 => "Not found",
            409 => "Not as it was",
            413 => "Too large",
            415 => "Not JSON",
            422 => "Something is wrong in what was sent",
            429 => "Too often",
            _ => status.reason_lossy(),
        };
        Self {
            status: status.code,
            title,
            detail: detail.into(),
            fields: Vec::new(),
            current: None,
            cause: None,
        }
    }

    /// Nobody is signed in.
    pub fn unauthorized() -> Self {
        Self::new(Status::Unauthorized, "Sign in, or send a bearer token.")
    }

    /// There is no such thing in this shop.
    pub fn not_found() -> Self {
        Self::new(Status::NotFound, "There is no such thing in this shop.")
    }

    /// Someone else changed it; `current` is what is stored now.
    pub fn stale(current: &impl Serialize) -> Self {
        let mut problem = Self::new(
            Status::Conflict,
            "Someone changed this meanwhile. Nothing of yours is lost; look at both.",
        );
        problem.current = serde_json::to_value(current).ok();
        problem
    }
}

impl From<Faults> for Problem {
    fn from(faults: Faults) -> Self {
        let mut problem = Self::new(
            Status::UnprocessableEntity,
            match faults.0.as_slice() {
                [one] => one.message.clone(),
                many => format!("{} fields need another look.", many.len()),
            },
        );
        problem.fields = faults.0;
        problem
    }
}

impl From<vatten_store::Error> for Problem {
    fn from(error: vatten_store::Error) -> Self {
        use vatten_store::Error;
        match error {
            Error::NotFound => Self::not_found(),
            Error::Stale => Self::new(Status::Conflict, "Someone changed this meanwhile."),
            Error::Refused(faults) => faults.into(),
            Error::NotNow(faults) => {
                let mut problem = Self::from(faults);
                problem.status = Status::Conflict.code;
                problem.title = "Not as it must be for this";
                problem
            }
            Error::Database(error) => {
                let mut problem = Self::new(
                    Status::InternalServerError,
                    "The database could not answer. Try again.",
                );
                problem.cause = Some(format!("database: {error}").into());
                problem
            }
        }
    }
}

impl<'r> Responder<'r, 'static> for Problem {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'static> {
        if let Some(cause) = &self.cause {
            tracing::error!(request = %RequestId::of(request), "{cause}");
        }
        let body = serde_json::to_vec(&self).unwrap_or_default();
        Response::build()
            .status(Status::new(self.status))
            .header(ContentType::new("application", "problem+json"))
            .sized_body(body.len(), Cursor::new(body))
            .ok()
    }
}

/// A problem left by a guard for the catcher that answers.
#[derive(Default)]
pub struct PendingProblem(std::sync::Mutex<Option<Problem>>);

impl PendingProblem {
    /// Leaves a problem on the request.
    pub fn leave(request: &Request<'_>, problem: Problem) -> Status {
        let status = Status::new(problem.status);
        if let Ok(mut slot) = request.local_cache(Self::default).0.lock() {
            *slot = Some(problem);
        }
        status
    }
}

/// Answers whatever no route answered.
#[rocket::catch(default)]
pub fn catch(status: Status, request: &Request<'_>) -> Problem {
    let left = request
        .local_cache(PendingProblem::default)
        .0
        .lock()
        .ok()
        .and_then(|mut slot| slot.take());
    left.unwrap_or_else(|| match status.code {
        404 => Problem::new(
            status,
            format!(
                "Nothing answers {} {}.",
                request.method(),
                request.uri().path()
            ),
        ),
        500 => Problem::new(
            status,
            "Something went wrong here. Nothing was stored; try again.",
        ),
        _ => Problem::new(status, status.reason_lossy()),
    })
}
