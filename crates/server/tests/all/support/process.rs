//! The real server as a process of its own, and plain requests to it.

use super::demo::Demo;
use serde_json::Value;
use sqlx::{ConnectOptions, PgPool};
use std::io::{BufRead, BufReader, Read, Write};
use std::net::{TcpListener, TcpStream};
use std::os::unix::process::CommandExt;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

/// A child in a process group of its own, which is ended with it.
pub struct Group(pub Child);

impl Group {
    pub fn start(command: &mut Command) -> Self {
        Self(
            command
                .process_group(0)
                .stdin(Stdio::null())
                .spawn()
                .unwrap(),
        )
    }

    /// Ends all of it at once, as a power cut would: SIGKILL.
    pub fn kill(&mut self) {
        let _ = Command::new("kill")
            .args(["-KILL", "--", &format!("-{}", self.0.id())])
            .status();
        let _ = self.0.wait();
    }
}

impl Drop for Group {
    fn drop(&mut self) {
        self.kill();
    }
}

/// Reads a child's output until a line has `mark`; gives the line, or none when it ends before.
pub fn find_line(child: &mut Child, mark: &str) -> Option<String> {
    let output = child.stdout.take().unwrap();
    let mut lines = BufReader::new(output).lines();
    let found = lines
        .by_ref()
        .map_while(Result::ok)
        .find(|line| line.contains(mark));
    // Keep reading, so that the child never waits for a full pipe.
    std::thread::spawn(move || lines.map_while(Result::ok).for_each(drop));
    found
}

/// A port that was free a moment ago.
pub fn free_port() -> u16 {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    listener.local_addr().unwrap().port()
}

/// A running server.
pub struct Server {
    pub port: u16,
    pub group: Group,
}

impl Server {
    /// Starts one over a database with what the demo has in work, at a free port or at `port` again.
    pub fn start(url: &str, port: Option<u16>) -> Self {
        Self::with(url, port, None)
    }

    /// As [`Server::start`], with stand-ins for kiln, oven and tester at these ports. A database that has
    /// no demo yet is given one.
    pub fn with(url: &str, port: Option<u16>, standins: Option<[u16; 3]>) -> Self {
        let demo = Demo::InWork.file();
        let server = Self::showing(url, port, standins, &demo);
        let _ = std::fs::remove_file(demo);
        server
    }

    fn showing(url: &str, port: Option<u16>, standins: Option<[u16; 3]>, demo: &Path) -> Self {
        let standins = standins
            .map(|p| p.map(|p| p.to_string()).join(","))
            .unwrap_or_default();
        let port = port.unwrap_or_else(free_port);
        let root = super::root();
        let mut group = Group::start(
            Command::new(env!("CARGO_BIN_EXE_vatten-server"))
                .env("VATTEN_DATABASE_URL", url)
                .env("VATTEN_PORT", port.to_string())
                .env("VATTEN_WEB", root.join("web/dist"))
                .env("VATTEN_DEMO", demo)
                .env("VATTEN_CONNECTIONS", "6")
                // What a test prints is for its failure, not for each request.
                .env("VATTEN_LOG", "warn")
                .env(
                    "VATTEN_SPOOL",
                    std::env::temp_dir().join(format!("vatten-spool-{port}")),
                )
                .env("VATTEN_STANDINS", standins)
                .stdout(Stdio::piped()),
        );
        find_line(&mut group.0, "Listening on").expect("the server starts");
        Self { port, group }
    }

    /// Starts one over a test's database, with what the demo has in work.
    pub async fn over(pool: &PgPool) -> Self {
        Demo::InWork.copy_to(pool).await;
        Self::start(pool.connect_options().to_url_lossy().as_str(), None)
    }

    /// Starts one over a test's database with the whole demo.
    pub async fn whole(pool: &PgPool) -> Self {
        Demo::Whole.copy_to(pool).await;
        let url = pool.connect_options().to_url_lossy();
        Self::showing(url.as_str(), None, None, &Demo::Whole.file())
    }

    pub fn address(&self) -> String {
        format!("http://127.0.0.1:{}", self.port)
    }

    /// Signs in to the demo; gives the cookie.
    pub fn demo(&self) -> String {
        let body = serde_json::json!({ "email": vatten_server::demo::DEMO_EMAIL,
            "password": vatten_server::demo::DEMO_PASSWORD });
        let (head, _) = self
            .send("POST", "/api/v1/session", "", &body.to_string())
            .unwrap();
        let cookie = head.lines().find_map(|l| {
            l.strip_prefix("set-cookie: ")
                .or_else(|| l.strip_prefix("Set-Cookie: "))
                .filter(|c| c.starts_with("vatten_session="))
        });
        cookie.unwrap().split(';').next().unwrap().to_owned()
    }

    /// Sends a request; gives the head and the body of the answer.
    pub fn send(
        &self,
        method: &str,
        path: &str,
        cookie: &str,
        body: &str,
    ) -> std::io::Result<(String, String)> {
        let mut stream = TcpStream::connect(("127.0.0.1", self.port))?;
        stream.set_read_timeout(Some(Duration::from_secs(30)))?;
        write!(
            stream,
            "{method} {path} HTTP/1.1\r\nHost: 127.0.0.1:{}\r\nCookie: {cookie}\r\nConnection: close\r\n\
             Content-Type: application/json\r\nContent-Length: {}\r\n\r\n{body}",
            self.port,
            body.len()
        )?;
        let mut text = String::new();
        stream.read_to_string(&mut text)?;
        let (head, body) = text.split_once("\r\n\r\n").unwrap_or((&text, ""));
        Ok((head.to_owned(), body.to_owned()))
    }

    /// A station of the demo shop of a kind.
    pub fn station(&self, cookie: &str, kind: &str) -> Value {
        let all = self
            .json("GET", "/api/v1/stations", cookie, &Value::Null)
            .unwrap();
        let found = all.as_array().unwrap().iter().find(|s| s["kind"] == kind);
        found.unwrap().clone()
    }

    /// Starts firing a blade of the demo shop that is only planned yet; gives the firing.
    pub fn fire_one(&self, cookie: &str) -> Value {
        let rack = self
            .json("GET", "/api/v1/blades", cookie, &Value::Null)
            .unwrap();
        let free = rack
            .as_array()
            .unwrap()
            .iter()
            .find(|r| r["plan_frozen"] == false);
        let path = format!("/api/v1/blades/{}", free.unwrap()["id"].as_str().unwrap());
        let plan = self
            .json("GET", &format!("{path}/plan"), cookie, &Value::Null)
            .unwrap();
        let start = serde_json::json!({ "plan_version": plan["version"] });
        self.json("POST", &format!("{path}/firings"), cookie, &start)
            .unwrap()
    }

    /// As [`Server::send`], with JSON out of a success.
    pub fn json(&self, method: &str, path: &str, cookie: &str, body: &Value) -> Option<Value> {
        let body = if body.is_null() {
            String::new()
        } else {
            body.to_string()
        };
        let (head, body) = self.send(method, path, cookie, &body).ok()?;
        let fine = head.split(' ').nth(1)?.starts_with('2');
        // The body may come in chunks; JSON is then between the sizes.
        let begin = body.find(['{', '['])?;
        let end = body.rfind(['}', ']'])?;
        fine.then(|| serde_json::from_str(&body[begin..=end]).ok())
            .flatten()
    }
}
