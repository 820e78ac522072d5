//! An answer that takes a while: JSON that starts with a blank now and then until the result is there.
//!
//! The web server notices that a client has gone only when it writes to it. A blank before JSON means
//! nothing, so one is written every so often; when that fails the answer is dropped, and with it the
//! computation that it waits for.

use crate::problem::Problem;
use rocket::Request;
use rocket::futures::stream::{self, BoxStream, StreamExt};
use rocket::http::{ContentType, Status};
use rocket::response::stream::ByteStream;
use rocket::response::{self, Responder};
use serde::Serialize;
use std::future::Future;
use std::pin::Pin;
use std::sync::Arc;
use std::time::Duration;

/// How often a blank is written.
const EVERY: Duration = Duration::from_millis(250);

type Wait = Pin<Box<dyn Future<Output = Result<Arc<String>, Problem>> + Send>>;

/// JSON that is waited for.
pub struct Patient(BoxStream<'static, Vec<u8>>);

impl Patient {
    /// Answers with a value as JSON once it is there; otherwise as [`Patient::waiting_for`].
    pub fn waiting_for_value<T: Serialize>(
        value: impl Future<Output = Result<T, Problem>> + Send + 'static,
    ) -> Self {
        Self::waiting_for(async move {
            let text = serde_json::to_string(&value.await?);
            text.map(Arc::new).map_err(|_| {
                Problem::new(Status::InternalServerError, "The result cannot be written.")
            })
        })
    }

    /// Answers with what `result` ends in. Everything that can be wrong with the request must have been
    /// checked before: the status is sent first.
    pub fn waiting_for(
        result: impl Future<Output = Result<Arc<String>, Problem>> + Send + 'static,
    ) -> Self {
        let wait: Option<Wait> = Some(Box::pin(result));
        let parts = stream::unfold(wait, |wait| async move {
            let mut wait = wait?;
            match tokio::time::timeout(EVERY, &mut wait).await {
                Err(_) => Some((b" ".to_vec(), Some(wait))),
                Ok(Ok(text)) => Some((text.as_bytes().to_vec(), None)),
                Ok(Err(problem)) => {
                    // The client sees JSON that is no map, with the reason in it.
                    let text = serde_json::to_vec(&problem).unwrap_or_else(|_| b"null".to_vec());
                    Some((text, None))
                }
            }
        });
        Self(parts.boxed())
    }
}

impl<'r> Responder<'r, 'r> for Patient {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'r> {
        (ContentType::JSON, ByteStream(self.0)).respond_to(request)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::{AtomicBool, Ordering};

    struct Gone(Arc<AtomicBool>);

    impl Drop for Gone {
        fn drop(&mut self) {
            self.0.store(true, Ordering::Relaxed);
        }
    }

    #[tokio::test]
    async fn blanks_come_until_the_result_does() {
        let mut patient = Patient::waiting_for(async {
            tokio::time::sleep(EVERY * 2 + EVERY / 2).await;
            Ok(Arc::new("{}".to_owned()))
        });
        let mut all = Vec::new();
        while let Some(part) = patient.0.next().await {
            all.extend(part);
        }
        assert_eq!(all, b"  {}");
    }

    #[tokio::test]
    async fn what_it_waits_for_goes_with_it() {
        let gone = Arc::new(AtomicBool::new(false));
        let guard = Gone(Arc::clone(&gone));
        let mut patient = Patient::waiting_for(async move {
            let _guard = guard;
            std::future::pending().await
        });
        assert_eq!(patient.0.next().await, Some(b" ".to_vec()));
        assert!(!gone.load(Ordering::Relaxed));
        drop(patient);
        assert!(gone.load(Ordering::Relaxed));
    }
}
