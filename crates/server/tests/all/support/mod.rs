//! A server over a test's own database, and a shop to speak for.

use rocket::http::{ContentType, Cookie, Header, Method, Status};
use rocket::local::asynchronous::{Client, LocalRequest};
use serde_json::Value;
use sqlx::PgPool;
use std::path::PathBuf;
use uuid::Uuid;
use vatten_server::config::Config;

pub mod browser;
pub mod demo;
pub mod process;
pub mod proxy;

/// The repository.
pub fn root() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// A front end of one page, made once: many tests ask for it at the same time.
fn web() -> PathBuf {
    let web = PathBuf::from(env!("CARGO_TARGET_TMPDIR")).join("web");
    if !web.is_dir() {
        let own = web.with_extension(Uuid::now_v7().to_string());
        std::fs::create_dir_all(own.join("assets")).unwrap();
        let page = "<!doctype html><title>Vatten</title>";
        std::fs::write(own.join("index.html"), page).unwrap();
        std::fs::write(own.join("assets/a-1.js"), "export {}").unwrap();
        // Whoever is first; the others find it there.
        if std::fs::rename(&own, &web).is_err() {
            std::fs::remove_dir_all(&own).unwrap();
        }
    }
    web
}

/// A configuration with that front end.
pub fn config() -> Config {
    Config {
        database_url: String::new(),
        address: [127, 0, 0, 1].into(),
        port: 0,
        web: web(),
        demo: None,
        standins: None,
        behind_tls: false,
        devices: vatten_server::device::reach::Reach::Off,
        spool: std::env::temp_dir().join("vatten-test-spool"),
        sign_up: vatten_server::config::SignUps::Open,
        connections: 5,
    }
}

/// A server answering in the test's process.
pub async fn server(pool: PgPool) -> Client {
    Client::untracked(vatten_server::rocket(pool, config()).unwrap())
        .await
        .unwrap()
}

/// An answer.
#[derive(Debug)]
pub struct Answer {
    pub status: u16,
    pub body: Value,
    pub cookie: Option<String>,
}

impl Answer {
    /// The fields a problem names.
    pub fn fields(&self) -> Vec<&str> {
        let fields = self.body["fields"]
            .as_array()
            .map(Vec::as_slice)
            .unwrap_or_default();
        fields.iter().filter_map(|f| f["field"].as_str()).collect()
    }

    /// The body, when it is a success.
    pub fn ok(self) -> Value {
        assert!(self.status < 300, "{self:?}");
        self.body
    }

    /// The id in the body.
    pub fn id(self) -> String {
        self.ok()["id"].as_str().unwrap().to_owned()
    }
}

/// Somebody asking a server.
pub struct Asker<'a> {
    pub client: &'a Client,
    pub headers: Vec<(&'static str, String)>,
}

impl<'a> Asker<'a> {
    /// Nobody in particular.
    pub fn nobody(client: &'a Client) -> Self {
        Self {
            client,
            headers: Vec::new(),
        }
    }

    /// Somebody with this cookie.
    pub fn with(client: &'a Client, cookie: String) -> Self {
        Self {
            client,
            headers: vec![("Cookie", cookie)],
        }
    }

    /// Its cookie.
    pub fn cookie(&self) -> String {
        self.headers[0].1.clone()
    }

    /// A new shop's owner, signed in.
    pub async fn shop(client: &'a Client, name: &str) -> Self {
        let answer = Self::nobody(client)
            .post(
                "/api/v1/signup",
                &serde_json::json!({ "workshop": name, "name": "Owner",
                    "email": format!("{name}@shop.example"), "password": "a few long words" }),
            )
            .await;
        assert_eq!(answer.status, 200, "{answer:?}");
        Self::with(client, answer.cookie.unwrap())
    }

    fn request(&self, method: Method, path: &str) -> LocalRequest<'a> {
        let mut request = self.client.req(method, path.to_owned());
        for (name, value) in &self.headers {
            // In-process requests carry cookies beside their headers.
            request = match (*name, value.split_once('=')) {
                ("Cookie", Some((key, secret))) => {
                    request.cookie(Cookie::new(key.to_owned(), secret.to_owned()))
                }
                _ => request.header(Header::new(*name, value.clone())),
            };
        }
        request
    }

    /// Bytes of the answer to what must be there.
    #[allow(dead_code, reason = "the benchmark asks for it")]
    pub async fn raw(&self, path: &str) -> usize {
        let response = self.request(Method::Get, path).dispatch().await;
        assert_eq!(response.status(), Status::Ok, "{path}");
        response.into_bytes().await.unwrap_or_default().len()
    }

    pub async fn ask(&self, method: Method, path: &str, body: Option<String>) -> Answer {
        let mut request = self.request(method, path);
        if let Some(body) = body {
            request = request.header(ContentType::JSON).body(body);
        }
        let response = request.dispatch().await;
        let cookie = response
            .headers()
            .get("Set-Cookie")
            .find(|c| c.starts_with("vatten_session="))
            .and_then(|c| c.split(';').next())
            .map(str::to_owned);
        let status = response.status();
        if status.code >= 400 {
            let kind = response.content_type().map(|c| c.to_string());
            assert_eq!(kind.as_deref(), Some("application/problem+json"), "{path}");
        }
        let text = response.into_string().await.unwrap_or_default();
        let body = serde_json::from_str(&text).unwrap_or(Value::String(text));
        if status == Status::NoContent {
            return Answer {
                status: 204,
                body: Value::Null,
                cookie,
            };
        }
        Answer {
            status: status.code,
            body,
            cookie,
        }
    }

    pub async fn get(&self, path: &str) -> Answer {
        self.ask(Method::Get, path, None).await
    }

    pub async fn post(&self, path: &str, body: &Value) -> Answer {
        self.ask(Method::Post, path, Some(body.to_string())).await
    }

    pub async fn put(&self, path: &str, body: &Value) -> Answer {
        self.ask(Method::Put, path, Some(body.to_string())).await
    }

    pub async fn patch(&self, path: &str, body: &Value) -> Answer {
        self.ask(Method::Patch, path, Some(body.to_string())).await
    }

    pub async fn delete(&self, path: &str) -> Answer {
        self.ask(Method::Delete, path, None).await
    }

    /// Enters a blade and gives its id.
    pub async fn blade(&self, steel: &str) -> String {
        self.post("/api/v1/blades", &blade(steel)).await.id()
    }

    /// Starts firing a blade; gives the firing.
    pub async fn start(&self, blade: &str) -> Value {
        let plan = self.get(&format!("/api/v1/blades/{blade}/plan")).await.ok();
        let body = serde_json::json!({ "plan_version": plan["version"] });
        self.post(&format!("/api/v1/blades/{blade}/firings"), &body)
            .await
            .ok()
    }

    /// Confirms every action of a firing and closes it.
    pub async fn finish(&self, firing: &Value) {
        let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
        for action in 0..firing["actions"].as_array().unwrap().len() {
            let body = serde_json::json!({ "kind": "confirm", "action": action });
            assert_eq!(self.post(&path, &body).await.status, 200);
        }
        assert_eq!(
            self.post(&path, &serde_json::json!({ "kind": "close" }))
                .await
                .status,
            200
        );
    }
}

/// A blade as a script would enter it.
pub fn blade(steel: &str) -> Value {
    serde_json::json!({ "steel": steel, "shape": "net", "length_mm": 120, "width_mm": 22,
        "spine_mm": 2.5, "edge_mm": 0.8, "purpose": "all_round" })
}

/// What the steps of that example would do to a stored blade.
pub fn predict_body(id: &str) -> Value {
    serde_json::json!({ "blade_id": id, "steps": question()["steps"] })
}

/// The example of the interface: a plan for 1084.
pub fn question() -> Value {
    serde_json::json!({ "steel": "1084",
        "blade": { "length_mm": 180, "width_mm": 30, "spine_mm": 4, "edge_mm": 0.8, "grind": "flat" },
        "steps": [
            { "kind": "austenitize", "temperature_c": 815, "soak_s": 300 },
            { "kind": "quench", "stages": [{ "medium": "fast_oil", "bath_c": 50 }] },
            { "kind": "sub_zero", "temperature_c": -75, "hold_s": 7200 },
            { "kind": "temper", "temperature_c": 205, "hold_s": 7200, "times": 2 }
        ],
        "use_records": true })
}
