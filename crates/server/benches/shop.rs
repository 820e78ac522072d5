//! How fast the server answers in a shop of 100,000 blades and a million sets of readings:
//! `scripts/bench-shop`, or over an empty database of your own
//! `VATTEN_DATABASE_URL=postgres://… cargo bench --bench shop`. PredictionRequest in the process of the server, so that
//! what is measured is the server with its database and no network.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stdout,
    reason = "a bench that cannot go on ends"
)]

#[allow(dead_code, reason = "a benchmark uses a part of it")]
#[path = "../tests/all/support/mod.rs"]
mod support;

use rocket::http::Method;
use serde_json::json;
use std::time::{Duration, Instant};
use support::{Asker, root};
use vatten_server::demo::{DEMO_EMAIL, DEMO_PASSWORD};
use vatten_store::PgPool;

/// Requests for a figure.
const TIMES: usize = 60;

/// Median, 95th percentile and slowest of some times, and the size of the largest answer.
fn show(name: &str, mut times: Vec<Duration>, bytes: usize) {
    times.sort();
    let at = |share: f64| {
        let i = (share * (times.len() - 1) as f64).round() as usize;
        times[i].as_secs_f64() * 1e3
    };
    let (median, most, slowest) = (at(0.5), at(0.95), at(1.0));
    println!("{name:<46} {median:>8.1} {most:>8.1} {slowest:>8.1} ms {bytes:>9} B");
}

/// Asks for each path in turn, after one that does not count.
async fn measure(me: &Asker<'_>, name: &str, paths: &[String]) {
    me.raw(&paths[0]).await;
    let (mut times, mut bytes) = (Vec::new(), 0);
    for i in 0..TIMES {
        let started = Instant::now();
        let size = me.raw(&paths[i % paths.len()]).await;
        times.push(started.elapsed());
        bytes = bytes.max(size);
    }
    show(name, times, bytes);
}

async fn once(name: &str, work: impl Future<Output = usize>) {
    let started = Instant::now();
    let bytes = work.await;
    show(name, vec![started.elapsed()], bytes);
}

async fn seeded(url: &str) -> PgPool {
    let pool = vatten_store::open(url, 5, || {}).await.unwrap();
    let started = Instant::now();
    let demo = root().join("demo/brinholm.json");
    vatten_server::demo::load(&pool, &demo).await.unwrap();
    let count = async |table: &str| -> i64 {
        let query = format!("select count(*) from {table}");
        let count = sqlx::query_scalar(sqlx::AssertSqlSafe(query));
        count.fetch_one(&pool).await.unwrap()
    };
    if count("blade").await < 100_000 {
        let seed = sqlx::raw_sql(include_str!("shop.sql"));
        seed.execute(&pool).await.unwrap();
        sqlx::raw_sql("vacuum").execute(&pool).await.unwrap();
        println!("seeded in {:.0} s", started.elapsed().as_secs_f64());
    }
    for table in ["blade", "firing", "event", "reading", "finding"] {
        println!("{:>9} {table}s", count(table).await);
    }
    pool
}

/// Lessons before and after new readings.
async fn learning(me: &Asker<'_>, ids: &[uuid::Uuid]) {
    let lessons = "/api/v1/lessons";
    once("GET lessons, nothing known yet", me.raw(lessons)).await;
    measure(me, "GET lessons", &[lessons.to_owned()]).await;
    let read = json!({ "stage": "tempered", "values": [60.1, 60.4, 60.2] });
    let add = async |id: &uuid::Uuid| {
        let path = format!("/api/v1/blades/{id}/readings");
        let answer = me.ask(Method::Post, &path, Some(read.to_string())).await;
        answer.ok().to_string().len()
    };
    for id in &ids[..3] {
        once("POST a reading", add(id)).await;
        once("GET lessons after it", me.raw(lessons)).await;
        let counted = async {
            while me.get(lessons).await.ok()["counting"] == true {
                rocket::tokio::time::sleep(Duration::from_millis(20)).await;
            }
            0
        };
        once("until it is counted", counted).await;
    }
}

/// Predictions that no cache knows.
async fn predicting(me: &Asker<'_>) {
    let mut times = Vec::new();
    for i in 0..20 {
        let mut body = support::question();
        body["steps"][3]["temperature_c"] = json!(800 + i);
        let started = Instant::now();
        me.post("/api/v1/predict", &body).await.ok();
        times.push(started.elapsed());
    }
    show("POST predict, another quench each time", times, 0);
}

#[rocket::main]
async fn main() {
    let Ok(url) = std::env::var("VATTEN_DATABASE_URL") else {
        println!("VATTEN_DATABASE_URL names no database: see scripts/bench-shop.");
        return;
    };
    let pool = seeded(&url).await;
    let client = support::server(pool.clone()).await;
    let nobody = Asker::nobody(&client);
    let login = json!({ "email": DEMO_EMAIL, "password": DEMO_PASSWORD });
    let cookie = nobody.post("/api/v1/session", &login).await.cookie;
    let me = Asker::with(&client, cookie.unwrap());
    // Blades from all over the twenty years.
    let ids: Vec<uuid::Uuid> = sqlx::query_scalar(
        "select id from blade where mark like 'S-%' and substr(mark, 3)::int % 3331 = 7 order by id",
    )
    .fetch_all(&pool)
    .await
    .unwrap();
    let each = |tail: &str| -> Vec<String> {
        let of = |id: &uuid::Uuid| format!("/api/v1/blades/{id}{tail}");
        ids.iter().map(of).collect()
    };
    let one = |path: &str| vec![format!("/api/v1{path}")];

    println!(
        "{:<46} {:>8} {:>8} {:>8}    {:>11}",
        "", "median", "95 %", "slowest", "answer"
    );
    learning(&me, &ids).await;
    measure(&me, "GET blades: the rack", &one("/blades")).await;
    measure(&me, "GET blades/finished", &one("/blades/finished")).await;
    let older: Vec<String> = ids
        .iter()
        .map(|id| format!("/api/v1/blades/finished?before={id}"))
        .collect();
    measure(&me, "GET blades/finished?before=…", &older).await;
    let begins = one("/blades/marked?begins=S-5");
    measure(&me, "GET blades/marked?begins=S-5", &begins).await;
    measure(&me, "GET a blade", &each("")).await;
    for part in [
        "plan", "firings", "readings", "findings", "photos", "traces",
    ] {
        let name = format!("GET a blade: {part}");
        measure(&me, &name, &each(&format!("/{part}"))).await;
    }
    let firings: Vec<uuid::Uuid> =
        sqlx::query_scalar("select id from firing where blade_id = any($1)")
            .bind(&ids)
            .fetch_all(&pool)
            .await
            .unwrap();
    let events: Vec<String> = firings
        .iter()
        .map(|id| format!("/api/v1/firings/{id}/events"))
        .collect();
    measure(&me, "GET a firing: events", &events).await;
    for path in [
        "/firings",
        "/operators",
        "/stations",
        "/now",
        "/steels/1084/points",
    ] {
        measure(&me, &format!("GET {path}"), &one(path)).await;
    }
    let pairs: Vec<String> = ids
        .windows(2)
        .map(|two| format!("/api/v1/compare?blades={},{}", two[0], two[1]))
        .collect();
    measure(&me, "GET compare: two blades", &pairs).await;
    predicting(&me).await;
}
