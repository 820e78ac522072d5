//! The log on standard error: one line for each request with its id, and what went wrong on the way.
//!
//! No query, body, header or cookie is ever logged: they may hold secrets.

use crate::config::LogFormat;
use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::Header;
use rocket::{Data, Request, Response};
use std::time::Instant;
use tracing::level_filters::LevelFilter;
use uuid::Uuid;

/// Starts the log of this process. A second call changes nothing.
pub fn start(level: LevelFilter, format: LogFormat) {
    let log = tracing_subscriber::fmt()
        .with_max_level(level)
        .with_writer(std::io::stderr)
        .with_target(false);
    let _ = match format {
        LogFormat::Text => log.try_init(),
        LogFormat::Json => log.json().flatten_event(true).try_init(),
    };
}

/// Which request it is and when it came.
#[derive(Debug, Clone, Copy)]
pub struct RequestId {
    id: Uuid,
    came: Instant,
}

impl RequestId {
    /// The id of a request, the same for as long as it lives.
    #[must_use]
    pub fn of(request: &Request<'_>) -> Uuid {
        Self::read(request).id
    }

    fn read(request: &Request<'_>) -> Self {
        *request.local_cache(|| Self {
            id: Uuid::now_v7(),
            came: Instant::now(),
        })
    }
}

/// Writes a line when a request was answered, and tells the caller the id it stands under.
pub struct AccessLog;

#[rocket::async_trait]
impl Fairing for AccessLog {
    fn info(&self) -> Info {
        Info {
            name: "access log",
            kind: Kind::Request | Kind::Response,
        }
    }

    async fn on_request(&self, request: &mut Request<'_>, _: &mut Data<'_>) {
        // The clock starts here.
        let _ = RequestId::read(request);
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, response: &mut Response<'r>) {
        let RequestId { id, came } = RequestId::read(request);
        response.set_header(Header::new("X-Request-Id", id.to_string()));
        tracing::info!(
            request = %id,
            method = %request.method(),
            path = told(request.uri().path().as_str()),
            status = response.status().code,
            ms = came.elapsed().as_millis() as u64,
            "answered"
        );
    }
}

/// A path as it may be written down: the address of a calendar is a secret.
fn told(path: &str) -> &str {
    if path.starts_with("/calendar/") {
        "/calendar/…"
    } else {
        path
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::problem::{Problem, catch};
    use rocket::local::blocking::Client;
    use rocket::{Build, Rocket, get, routes};
    use std::io::Write;
    use std::sync::{Arc, Mutex};

    #[derive(Clone, Default)]
    struct Lines(Arc<Mutex<Vec<u8>>>);

    impl Write for Lines {
        fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
            self.0.lock().unwrap().write(bytes)
        }
        fn flush(&mut self) -> std::io::Result<()> {
            Ok(())
        }
    }

    #[get("/fails")]
    fn fails() -> Problem {
        let error = sqlx::Error::PoolTimedOut;
        vatten_store::Error::Database(error).into()
    }

    fn server() -> Rocket<Build> {
        let figment = rocket::Config::figment().merge(("log_level", "off"));
        rocket::custom(figment)
            .attach(AccessLog)
            .mount("/", routes![fails])
            .register("/", rocket::catchers![catch])
    }

    fn logged(uris: &[&'static str]) -> (Vec<serde_json::Value>, Vec<String>) {
        let lines = Lines::default();
        let writer = lines.clone();
        let subscriber = tracing_subscriber::fmt()
            .json()
            .flatten_event(true)
            .with_writer(move || writer.clone())
            .finish();
        let ids = tracing::subscriber::with_default(subscriber, || {
            let client = Client::untracked(server()).unwrap();
            let id = |uri: &&'static str| {
                let answer = client.get(*uri).dispatch();
                answer.headers().get_one("X-Request-Id").unwrap().to_owned()
            };
            uris.iter().map(id).collect()
        });
        let text = String::from_utf8(lines.0.lock().unwrap().clone()).unwrap();
        let read = |line| serde_json::from_str(line).unwrap();
        (text.lines().map(read).collect(), ids)
    }

    #[test]
    fn a_request_is_logged_under_the_id_that_its_caller_is_told() {
        let (lines, ids) = logged(&["/nothing?token=secret", "/nothing"]);
        assert_ne!(ids[0], ids[1]);
        assert_eq!(lines.len(), 2, "{lines:?}");
        assert_eq!(lines[0]["request"], ids[0]);
        assert_eq!(lines[0]["status"], 404);
        assert_eq!(lines[0]["path"], "/nothing");
        assert!(lines[0]["ms"].is_u64());
        assert!(!lines[0].to_string().contains("secret"));
    }

    #[test]
    fn the_address_of_a_calendar_is_not_written_down() {
        let (lines, _) = logged(&["/calendar/secret.ics"]);
        assert_eq!(lines[0]["path"], "/calendar/…");
        assert!(!lines[0].to_string().contains("secret"));
    }

    #[test]
    fn what_went_wrong_inside_stands_under_the_same_id() {
        let (lines, ids) = logged(&["/fails"]);
        assert_eq!(lines.len(), 2, "{lines:?}");
        assert_eq!(lines[0]["level"], "ERROR");
        assert!(lines.iter().all(|line| line["request"] == ids[0].as_str()));
        assert_eq!(lines[1]["status"], 500);
    }
}
