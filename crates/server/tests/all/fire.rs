//! What happens at the fire: stations and their checks, devices, changes told to every server.

use crate::support;

use rstest::rstest;
use serde_json::{Value, json};
use sqlx::{ConnectOptions, PgPool};
use std::io::{BufRead, BufReader, Write};
use std::net::TcpStream;
use std::time::{Duration, Instant};
use support::demo::Demo;
use support::process::Server;
use support::{Asker, predict_body, server};
use vatten_standins::furnace::Furnace;
use vatten_standins::kiln::Kiln;
use vatten_standins::tester::Tester;

async fn station(me: &Asker<'_>, kind: &str, name: &str) -> String {
    let body = json!({ "kind": kind, "name": name });
    me.post("/api/v1/stations", &body).await.id()
}

/// Waits until `good` finds something; patient, since two cores may be busy.
async fn until<T>(what: &str, mut good: impl AsyncFnMut() -> Option<T>) -> T {
    let begun = Instant::now();
    loop {
        if let Some(found) = good().await {
            return found;
        }
        assert!(begun.elapsed() < Duration::from_secs(40), "{what}");
        rocket::tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

#[rstest]
#[case(json!({ "kind": "anvil", "name": "A" }), "kind")]
#[case(json!({ "kind": "kiln", "name": " " }), "name")]
#[case(json!({ "kind": "kiln", "name": "A", "medium": "water" }), "medium")]
#[case(json!({ "kind": "tank", "name": "A", "medium": "soup" }), "medium")]
#[case(json!({ "kind": "tank", "name": "A", "litres": 0 }), "litres")]
#[case(json!({ "kind": "kiln", "name": "A",
    "device": { "speaks": "lines", "host": "a b", "port": 1, "pattern": "{value}" } }), "device.host")]
#[case(json!({ "kind": "magnet", "name": "A",
    "device": { "speaks": "lines", "host": "a", "port": 1, "pattern": "{value}" } }), "device")]
#[sqlx::test(migrations = "../store/migrations")]
async fn a_station_that_cannot_be_is_refused(
    #[ignore] pool: PgPool,
    #[case] body: Value,
    #[case] field: &str,
) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let answer = me.post("/api/v1/stations", &body).await;
    assert_eq!(
        (answer.status, answer.fields()),
        (422, vec![field]),
        "{body}"
    );
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_check_of_the_oven_moves_every_prediction(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let oven = station(&me, "oven", "Bench oven").await;
    let blade = me.blade("1084").await;
    let ask = async || {
        let body = predict_body(&blade);
        me.post("/api/v1/predict", &body).await.ok()
    };
    let hrc = |p: &Value| p["hardness"]["tempered"]["middle"].as_f64().unwrap();
    let before = ask().await;
    let path = format!("/api/v1/stations/{oven}/calibrations");
    let check = json!({ "against": "thermometer", "points": [[150, 158], [250, 264]] });
    let kept = me.post(&path, &check).await.ok();
    let after = ask().await;
    assert!(
        hrc(&after) < hrc(&before) - 0.4,
        "{} {}",
        hrc(&after),
        hrc(&before)
    );
    let said = after["reasons"].as_array().unwrap().iter();
    assert!(said.clone().any(|r| {
        r["code"] == "check_counted"
            && r["station"] == "Bench oven"
            && (r["by_k"].as_f64().unwrap() - 11.0).abs() < 0.5
    }));
    // The next check says how far it moved; a withdrawn one is kept, but no longer used.
    let moved = json!({ "against": "thermometer", "points": [[150, 160], [250, 266]] });
    let second = me.post(&path, &moved).await.ok();
    assert!((second["drift"].as_f64().unwrap() - 2.0).abs() < 1e-9);
    for id in [&kept["id"], &second["id"]] {
        let path = format!("{path}/{}", id.as_str().unwrap());
        assert_eq!(me.delete(&path).await.status, 204);
    }
    assert!((hrc(&ask().await) - hrc(&before)).abs() < 1e-9);
    let all = me.get("/api/v1/calibrations").await.ok();
    assert_eq!(all.as_array().unwrap().len(), 2);
}

#[rstest]
#[case("oven", json!({ "against": "blocks", "points": [[60, 60]] }), "against")]
#[case("tester", json!({ "against": "blocks", "points": [[71, 66]] }), "points[0][0]")]
#[case("tester", json!({ "against": "blocks", "points": [] }), "points")]
#[case("oven", json!({ "against": "thermometer", "points": [[200, 400]] }), "points[0][1]")]
#[case("kiln", json!({ "against": "ice_and_boiling_water", "points": [[1, 0]] }), "points")]
#[case("kiln", json!({ "against": "ice_and_boiling_water", "points": [[1, 0], [99, 0]], "altitude_m": 99_999 }), "altitude_m")]
#[case("magnet", json!({ "against": "thermometer", "points": [[20, 20]] }), "against")]
#[sqlx::test(migrations = "../store/migrations")]
async fn a_check_that_cannot_be_is_refused(
    #[ignore] pool: PgPool,
    #[case] kind: &str,
    #[case] body: Value,
    #[case] field: &str,
) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = station(&me, kind, "It").await;
    let answer = me
        .post(&format!("/api/v1/stations/{id}/calibrations"), &body)
        .await;
    assert_eq!(
        (answer.status, answer.fields()),
        (422, vec![field]),
        "{body}"
    );
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_kiln_is_read_set_and_missed(pool: PgPool) {
    let kiln = Kiln::new(Furnace::at_heat(815.0), 1.0);
    let (address, serving) = kiln.serve(0).await.unwrap();
    let serving = rocket::tokio::spawn(serving);
    let server = Server::over(&pool).await;
    let cookie = server.demo();
    let bench = server.station(&cookie, "kiln");
    let id = bench["id"].as_str().unwrap();
    let device = json!({ "speaks": "modbus", "host": "127.0.0.1", "port": address.port(),
        "map": { "unit": 1, "per_degree": 10, "temperature": { "address": 0, "table": "input" },
            "set_point": { "address": 0 } } });
    let body = json!({ "kind": "kiln", "name": "Bench kiln", "device": device, "version": bench["version"] });
    server
        .json("PUT", &format!("/api/v1/stations/{id}"), &cookie, &body)
        .unwrap();
    let now = || {
        let all = server.json("GET", "/api/v1/stations/now", &cookie, &Value::Null)?;
        all.as_array()?
            .iter()
            .find(|s| s["station_id"] == id)
            .cloned()
    };
    let read = until("it is read", async || {
        now().filter(|n| n["value"].is_number())
    })
    .await;
    assert!(
        (read["value"].as_f64().unwrap() - 815.0).abs() < 15.0,
        "{read}"
    );
    // The last check of the demo kiln says that it runs cool.
    assert!(read["really"].as_f64().unwrap() < read["value"].as_f64().unwrap());
    let set = json!({ "temperature_c": 790.5 });
    server
        .json(
            "PUT",
            &format!("/api/v1/stations/{id}/set-point"),
            &cookie,
            &set,
        )
        .unwrap();
    until("it is set", async || {
        now().filter(|n| n["set_value"] == json!(790.5) && n["wanted_c"].is_null())
    })
    .await;
    assert_eq!(kiln.set_c(), 790.5);
    kiln.break_sensor(true);
    let told = until("rubbish is told", async || {
        now().filter(|n| n["trouble"].is_string())
    })
    .await;
    assert!(
        told["trouble"].as_str().unwrap().contains("no temperature"),
        "{told}"
    );
    kiln.break_sensor(false);
    until("it is well again", async || {
        now().filter(|n| n["trouble"].is_null())
    })
    .await;
    serving.abort();
    until("it is missed", async || {
        now().filter(|n| n["trouble"].is_string())
    })
    .await;
}

/// The tester of the demo, connected to a stand-in at a port; gives its id.
async fn connected(server: &Server, cookie: &str, tester: &Tester, port: u16) -> String {
    let bench = server.station(cookie, "tester");
    let id = bench["id"].as_str().unwrap();
    let device =
        json!({ "speaks": "lines", "host": "127.0.0.1", "port": port, "pattern": "HRC {value}" });
    let body = json!({ "kind": "tester", "name": bench["name"], "device": device, "version": bench["version"] });
    server
        .json("PUT", &format!("/api/v1/stations/{id}"), cookie, &body)
        .unwrap();
    until("somebody listens", async || {
        (tester.listeners() > 0).then_some(())
    })
    .await;
    id.to_owned()
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_tester_sends_its_readings(pool: PgPool) {
    let tester = Tester::default();
    let (address, serving) = tester.serve(0).await.unwrap();
    rocket::tokio::spawn(serving);
    let server = Server::over(&pool).await;
    let cookie = server.demo();
    let id = connected(&server, &cookie, &tester, address.port()).await;
    let now = |field: &str, good: &dyn Fn(&Value) -> bool| {
        let all = server.json("GET", "/api/v1/stations/now", &cookie, &Value::Null)?;
        let mine = all
            .as_array()?
            .iter()
            .find(|s| s["station_id"] == id)?
            .clone();
        good(&mine[field]).then_some(mine)
    };
    tester.press(61.4);
    until("the reading is there", async || {
        now("value", &|v| *v == json!(61.4))
    })
    .await;
    tester.send("\u{7}\u{7f}?? HRB 99");
    let told = until("rubbish is told", async || {
        now("trouble", &Value::is_string)
    })
    .await;
    assert!(
        told["trouble"]
            .as_str()
            .unwrap()
            .contains("does not look like"),
        "{told}"
    );
    tester.press(61.4);
    until("it goes on", async || now("trouble", &Value::is_null)).await;
}

/// Point 17: a set point goes out once within its minute, or is dropped with a word; it can be called back.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_set_point_is_sent_once_or_dropped(pool: PgPool) {
    let kiln = Kiln::new(Furnace::at_heat(815.0), 1.0);
    // Not switched on yet: its port is there, and nothing answers.
    let (address, serving) = kiln.serve(0).await.unwrap();
    let server = Server::over(&pool).await;
    let cookie = server.demo();
    let bench = server.station(&cookie, "kiln");
    let id = bench["id"].as_str().unwrap();
    let device = json!({ "speaks": "modbus", "host": "127.0.0.1", "port": address.port(),
        "map": { "unit": 1, "per_degree": 10, "temperature": { "address": 0, "table": "input" },
            "set_point": { "address": 0 } } });
    let body = json!({ "kind": "kiln", "name": "Bench kiln", "device": device, "version": bench["version"] });
    let path = format!("/api/v1/stations/{id}");
    server.json("PUT", &path, &cookie, &body).unwrap();
    let set_point = format!("{path}/set-point");
    let now = || {
        let all = server.json("GET", "/api/v1/stations/now", &cookie, &Value::Null)?;
        let mut all = all.as_array()?.iter();
        all.find(|s| s["station_id"] == id).cloned()
    };
    let set = |celsius: f64| {
        let body = json!({ "temperature_c": celsius }).to_string();
        let (head, _) = server.send("PUT", &set_point, &cookie, &body).unwrap();
        head.starts_with("HTTP/1.1 20")
    };
    let silent = "it is silent";
    until(silent, async || now().filter(|n| n["trouble"].is_string())).await;
    // What is pending is shown, and can be called back.
    until("it is taken", async || set(700.0).then_some(())).await;
    assert_eq!(now().unwrap()["wanted_c"], 700.0);
    let call_back = |celsius: f64| {
        let body = json!({ "temperature_c": celsius }).to_string();
        let (head, _) = server.send("DELETE", &set_point, &cookie, &body).unwrap();
        head.split(' ').nth(1).unwrap().to_owned()
    };
    assert_eq!(call_back(650.0), "409", "another one is on its way");
    assert_eq!(call_back(700.0), "204");
    assert!(now().unwrap()["wanted_c"].is_null());
    // Pressed yesterday, with the kiln off: it does not go out when the kiln is switched on.
    assert!(set(790.0));
    sqlx::query(
        "update station_now set wanted_until = now() - interval '1 day' where wanted_c is not null",
    )
    .execute(&pool)
    .await
    .unwrap();
    let serving = rocket::tokio::spawn(serving);
    let told = until("it is dropped with a word", async || {
        now().filter(|n| n["value"].is_number() && n["dropped_c"] == json!(790.0))
    })
    .await;
    assert!(told["wanted_c"].is_null(), "{told}");
    assert_eq!(kiln.set_c(), 815.0);
    // While it answers a set point goes out, once.
    assert!(set(780.5));
    until("it is set", async || {
        now().filter(|n| n["set_value"] == json!(780.5) && n["wanted_c"].is_null())
    })
    .await;
    assert_eq!(kiln.set_c(), 780.5);
    serving.abort();
}

/// Point 18: what a connected tester says while the database is away is kept, each of it, and is taken or put
/// aside by hand; what is no reading is no reading.
#[sqlx::test(migrations = "../store/migrations")]
async fn readings_of_a_tester_outlive_a_database_that_is_away(pool: PgPool) {
    let tester = Tester::default();
    let (address, serving) = tester.serve(0).await.unwrap();
    rocket::tokio::spawn(serving);
    let server = Server::over(&pool).await;
    let cookie = server.demo();
    let id = connected(&server, &cookie, &tester, address.port()).await;
    let waiting = || {
        let all = server.json("GET", "/api/v1/testers/waiting", &cookie, &Value::Null)?;
        let all = all.as_array()?.iter();
        let values = all.map(|v| (v["id"].clone(), v["value_hrc"].as_f64().unwrap()));
        Some(values.collect::<Vec<_>>())
    };
    let away = async |sql: &'static str| sqlx::query(sql).execute(&pool).await.unwrap();
    away("alter table tester_value rename to tester_value_away").await;
    for value in [60.5, 61.0, 61.5] {
        tester.press(value);
    }
    tester.send("HRC 6 1");
    rocket::tokio::time::sleep(Duration::from_secs(2)).await;
    away("alter table tester_value_away rename to tester_value").await;
    let all = until("all three are there", async || {
        waiting().filter(|w| w.len() == 3)
    })
    .await;
    let mut values: Vec<f64> = all.iter().map(|v| v.1).collect();
    values.sort_by(f64::total_cmp);
    assert_eq!(values, [60.5, 61.0, 61.5], "none of them 6");
    // Two are taken with a reading, one is put aside: none waits any more.
    let firing = server.fire_one(&cookie);
    let events = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    for action in 0..firing["actions"].as_array().unwrap().len() {
        let confirm = json!({ "kind": "confirm", "action": action });
        server.json("POST", &events, &cookie, &confirm).unwrap();
    }
    let read = json!({ "stage": "tempered", "values": [all[0].1, all[1].1], "tester_id": id,
        "from_tester": [all[0].0, all[1].0] });
    let blade = firing["blade_id"].as_str().unwrap();
    server
        .json(
            "POST",
            &format!("/api/v1/blades/{blade}/readings"),
            &cookie,
            &read,
        )
        .unwrap();
    assert_eq!(waiting().unwrap().len(), 1);
    let aside = json!({ "ids": [all[2].0] }).to_string();
    let (head, _) = server
        .send("POST", "/api/v1/testers/aside", &cookie, &aside)
        .unwrap();
    assert!(head.starts_with("HTTP/1.1 204"), "{head}");
    assert_eq!(waiting().unwrap(), []);
}

/// Lines of the event stream of a server, from now on.
fn listen(server: &Server, cookie: &str) -> BufReader<TcpStream> {
    let mut stream = TcpStream::connect(("127.0.0.1", server.port)).unwrap();
    stream
        .set_read_timeout(Some(Duration::from_secs(30)))
        .unwrap();
    write!(
        stream,
        "GET /api/v1/live HTTP/1.1\r\nHost: x\r\nCookie: {cookie}\r\n\r\n"
    )
    .unwrap();
    let mut lines = BufReader::new(stream);
    find(&mut lines, "event:gap");
    lines
}

fn find(lines: &mut BufReader<TcpStream>, mark: &str) -> String {
    let mut line = String::new();
    loop {
        line.clear();
        assert!(
            lines.read_line(&mut line).unwrap() > 0,
            "the stream ended before {mark}"
        );
        if line.contains(mark) {
            return line;
        }
    }
}

#[sqlx::test(migrations = "../store/migrations")]
async fn two_servers_tell_the_same_within_a_second(pool: PgPool) {
    let (a, b) = (Server::over(&pool).await, Server::over(&pool).await);
    let cookie = a.demo();
    let mut heard = listen(&b, &cookie);
    // The listening itself begins with a gap once the database answers.
    find(&mut heard, "event:gap");
    let firing = a.fire_one(&cookie);
    let firing = firing["id"].as_str().unwrap();
    find(&mut heard, firing);
    let begun = Instant::now();
    let confirm = json!({ "kind": "confirm", "action": 0 });
    a.json(
        "POST",
        &format!("/api/v1/firings/{firing}/events"),
        &cookie,
        &confirm,
    )
    .unwrap();
    find(&mut heard, firing);
    assert!(
        begun.elapsed() < Duration::from_secs(1),
        "{:?}",
        begun.elapsed()
    );
    let there = b
        .json(
            "GET",
            &format!("/api/v1/firings/{firing}"),
            &cookie,
            &Value::Null,
        )
        .unwrap();
    assert_eq!(there["state"]["position"], 1);
    // Nobody hears of another shop's blades.
    let other = json!({ "workshop": "South", "name": "S", "email": "s@south.example", "password": "a few long words" });
    let (head, _) = b
        .send("POST", "/api/v1/signup", "", &other.to_string())
        .unwrap();
    let line = head
        .lines()
        .find(|l| l.to_lowercase().starts_with("set-cookie: vatten_session="))
        .unwrap();
    let stranger = line[12..].split(';').next().unwrap();
    let mut elsewhere = listen(&a, stranger);
    find(&mut elsewhere, "event:gap");
    let confirm = json!({ "kind": "confirm", "action": 1 });
    a.json(
        "POST",
        &format!("/api/v1/firings/{firing}/events"),
        &cookie,
        &confirm,
    )
    .unwrap();
    let station = json!({ "kind": "oven", "name": "Mine" });
    let made = a
        .json("POST", "/api/v1/stations", stranger, &station)
        .unwrap();
    let line = find(&mut elsewhere, "\"noun\"");
    assert!(line.contains(made["id"].as_str().unwrap()), "{line}");
}

/// Point 15: whatever the clock of a device says, its presses are taken, and both times are kept.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_clock_that_is_wrong_refuses_no_press(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let blade = me.blade("1084").await;
    let firing = me.start(&blade).await;
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let event = json!({ "kind": "confirm", "action": 0, "at": "2099-01-01T00:00:00Z" });
    me.post(&path, &event).await.ok();
    let next = json!({ "kind": "confirm", "action": 1 });
    me.post(&path, &next).await.ok();
    let all = me.get(&path).await.ok();
    assert_eq!(all[0]["device_at"], "2099-01-01T00:00:00Z");
    assert!(all[0]["at"].as_str() < Some("2098"), "{all}");
    assert!(all[1]["device_at"].is_null());
    // A blade that is being fired is not fired once more.
    let plan = me.get(&format!("/api/v1/blades/{blade}/plan")).await.ok();
    let start = json!({ "plan_version": plan["version"] });
    let twice = me
        .post(&format!("/api/v1/blades/{blade}/firings"), &start)
        .await;
    assert_eq!((twice.status, twice.fields()), (409, vec!["plan_version"]));
    assert_eq!(
        me.get("/api/v1/firings")
            .await
            .ok()
            .as_array()
            .unwrap()
            .len(),
        1
    );
}

/// Bad input of point 15: 500 presses over two days, from a device whose clock is 20 minutes fast.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_queue_of_two_days_from_a_fast_clock_is_all_taken(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let firing = me.start(&me.blade("1084").await).await;
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let actions = firing["actions"].as_array().unwrap().len();
    let (fast, pressed) = (time::Duration::minutes(20), 500_i64);
    let begun = time::OffsetDateTime::now_utc() - time::Duration::days(2);
    let text = |at: time::OffsetDateTime| {
        at.format(&time::format_description::well_known::Rfc3339)
            .unwrap()
    };
    let mut really = Vec::new();
    for i in 0..pressed {
        let at = begun + time::Duration::seconds(345) * i as i32;
        really.push(at);
        let mut event = match i as usize {
            action if action < actions => json!({ "kind": "confirm", "action": action }),
            n => json!({ "kind": "say", "step": 0, "note": format!("remark {n}") }),
        };
        event["id"] = json!(uuid::Uuid::now_v7());
        event["at"] = json!(text(at + fast));
        // Whether the clock was ever compared, or only when it is sent.
        match i % 2 {
            0 => event["ahead_ms"] = json!(-fast.whole_milliseconds()),
            _ => event["sent_at"] = json!(text(time::OffsetDateTime::now_utc() + fast)),
        }
        assert_eq!(me.post(&path, &event).await.status, 200, "{event}");
    }
    let all = me.get(&path).await.ok();
    let all = all.as_array().unwrap();
    assert_eq!(all.len(), pressed as usize);
    for (event, really) in all.iter().zip(&really) {
        let kept = |key: &str| {
            let at = event[key].as_str().unwrap();
            time::OffsetDateTime::parse(at, &time::format_description::well_known::Rfc3339).unwrap()
        };
        let off = kept("at") - *really;
        assert!(off.abs() < time::Duration::seconds(5), "{event}");
        assert_eq!((kept("device_at") - (*really + fast)).whole_seconds(), 0);
    }
}

/// Point 13: an undo names what it takes back, whoever pressed meanwhile.
#[sqlx::test(migrations = "../store/migrations")]
async fn an_undo_takes_back_its_own_press_only(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let firing = me.start(&me.blade("1084").await).await;
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let position = |answer: &Value| answer["state"]["position"].as_u64().unwrap();
    // One device pressed and took back while it was offline; another went on meanwhile.
    let (queued, theirs) = (uuid::Uuid::now_v7(), uuid::Uuid::now_v7());
    let press = |id, action| json!({ "id": id, "kind": "confirm", "action": action });
    let undo = |event| json!({ "kind": "undo", "event": event });
    me.post(&path, &press(theirs, 0)).await.ok();
    let refused = me.post(&path, &press(queued, 0)).await;
    assert_eq!((refused.status, refused.fields()), (409, vec!["action"]));
    let answer = me.post(&path, &undo(queued)).await;
    assert_eq!((answer.status, answer.fields()), (409, vec!["event"]));
    let id = firing["id"].as_str().unwrap();
    let now = me.get(&format!("/api/v1/firings/{id}")).await.ok();
    assert_eq!(position(&now), 1, "theirs stands");

    // Two devices undo the same press at once: it is taken back once, and neither is refused.
    let second = uuid::Uuid::now_v7();
    me.post(&path, &press(second, 1)).await.ok();
    let (one, other) = (undo(second), undo(second));
    let (a, b) = rocket::tokio::join!(me.post(&path, &one), me.post(&path, &other));
    assert_eq!((position(&a.ok()), position(&b.ok())), (1, 1));
    // What came before another press is not pulled from under it.
    me.post(&path, &press(uuid::Uuid::now_v7(), 1)).await.ok();
    assert_eq!(me.post(&path, &undo(theirs)).await.fields(), ["event"]);
}

/// Whatever was answered is there after the process died in the middle of the next one.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_killed_server_loses_no_event(pool: PgPool) {
    Demo::InWork.copy_to(&pool).await;
    let url = pool.connect_options().to_url_lossy().to_string();
    let mut server = Server::start(&url, None);
    let cookie = server.demo();
    let firing = server.fire_one(&cookie);
    let path = format!("/api/v1/firings/{}", firing["id"].as_str().unwrap());
    let actions = firing["actions"].as_array().unwrap().len().min(8);
    let mut answered = 0;
    for action in 0..actions {
        let event = json!({ "id": format!("01900000-0000-7000-8000-{action:012}"), "kind": "confirm", "action": action });
        // Every other time it dies while it works on the event: a moment later each time.
        if action % 2 == 1 {
            let port = server.port;
            let body = event.to_string();
            let mut stream = TcpStream::connect(("127.0.0.1", port)).unwrap();
            write!(
                stream,
                "POST {path}/events HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nCookie: {cookie}\r\n\
                 Content-Type: application/json\r\nContent-Length: {}\r\n\r\n{body}",
                body.len()
            )
            .unwrap();
            std::thread::sleep(Duration::from_millis(2 * action as u64));
            server.group.kill();
            server = Server::start(&url, None);
            let state = server.json("GET", &path, &cookie, &Value::Null).unwrap();
            let there = state["state"]["position"].as_u64().unwrap() as usize;
            assert!(
                there == answered || there == answered + 1,
                "{there} of {answered}"
            );
        }
        // Sent again, as the device does: it happens once.
        server
            .json("POST", &format!("{path}/events"), &cookie, &event)
            .unwrap();
        answered = action + 1;
        let events = server
            .json("GET", &format!("{path}/events"), &cookie, &Value::Null)
            .unwrap();
        assert_eq!(events.as_array().unwrap().len(), answered);
    }
}

/// Runs a function of the scripts.
fn script(line: &str) {
    let root = support::root();
    let done = std::process::Command::new("bash")
        .args(["-c", &format!(". scripts/lib.sh; {line}")])
        .current_dir(root)
        .status()
        .unwrap();
    assert!(done.success(), "{line}");
}

/// A database of its own, kept as a shop's is: every commit on disk before it is answered.
struct Database {
    folder: std::path::PathBuf,
    port: u16,
}

impl Database {
    fn start(&self) {
        script(&format!(
            "postgres_start {} {} keep",
            self.folder.display(),
            self.port
        ));
    }

    fn url(&self, name: &str) -> String {
        let password = std::fs::read_to_string(self.folder.join("password")).unwrap();
        format!(
            "postgres://vatten:{}@127.0.0.1:{}/{name}",
            password.trim(),
            self.port
        )
    }

    /// All of it is gone at once: SIGKILL to the postmaster and its children.
    fn kill(&self) {
        let pid = std::fs::read_to_string(self.folder.join("db/postmaster.pid")).unwrap();
        let pid = pid.lines().next().unwrap().to_owned();
        let kill = format!("pkill -KILL -P {pid}; kill -KILL {pid}; true");
        std::process::Command::new("bash")
            .args(["-c", &kill])
            .status()
            .unwrap();
        // The port is free again once the kernel has buried them.
        while TcpStream::connect(("127.0.0.1", self.port)).is_ok() {
            std::thread::sleep(Duration::from_millis(50));
        }
    }
}

impl Drop for Database {
    fn drop(&mut self) {
        self.kill();
        let _ = std::fs::remove_dir_all(&self.folder);
    }
}

/// A database killed in the middle of the work has everything that was answered, and the server goes on by
/// itself once it is back.
#[test]
fn a_killed_database_loses_no_event() {
    let port = support::process::free_port();
    let database = Database {
        folder: std::env::temp_dir().join(format!("vatten-killed-{port}")),
        port,
    };
    database.start();
    let admin = database.url("postgres");
    script(&format!("psql -q '{admin}' -c 'create database vatten'"));
    let server = Server::start(&database.url("vatten"), None);
    let cookie = server.demo();
    let firing = server.fire_one(&cookie);
    let path = format!("/api/v1/firings/{}", firing["id"].as_str().unwrap());
    for action in 0..4 {
        let event = json!({ "id": format!("01900000-0000-7000-8000-{action:012}"), "kind": "confirm", "action": action });
        if action % 2 == 1 {
            database.kill();
            let told = server.send(
                "POST",
                &format!("{path}/events"),
                &cookie,
                &event.to_string(),
            );
            assert!(
                !told.unwrap().0.contains(" 200 "),
                "nothing is answered that was not kept"
            );
            // What a killed postmaster leaves behind says that it still runs.
            database.start();
        }
        let begun = Instant::now();
        while server
            .json("POST", &format!("{path}/events"), &cookie, &event)
            .is_none()
        {
            assert!(
                begun.elapsed() < Duration::from_secs(40),
                "the server goes on"
            );
            std::thread::sleep(Duration::from_millis(200));
        }
        let events = server
            .json("GET", &format!("{path}/events"), &cookie, &Value::Null)
            .unwrap();
        assert_eq!(events.as_array().unwrap().len(), action + 1, "once each");
    }
}
