//! Days of a shop: laid, moved, pinned, mended by presses, told to other programs.

use crate::support;

use serde_json::{Value, json};
use sqlx::PgPool;
use support::{Asker, server};
use time::format_description::well_known::Rfc3339;
use time::{Duration, OffsetDateTime};

const DAY: &str = "/api/v1/day";

fn at(seconds: i64) -> String {
    let at = OffsetDateTime::from_unix_timestamp(seconds).unwrap();
    at.format(&Rfc3339).unwrap()
}

/// Somebody is there around the clock, so that the hour at which the test runs does not matter.
async fn always_there(me: &Asker<'_>, names: &[&str]) -> Value {
    let shift =
        |name: &&str| json!({ "name": name, "days": [1, 2, 3, 4, 5, 6, 7], "hours": [0, 1440] });
    let shifts: Vec<Value> = names.iter().map(shift).collect();
    let known = me.get("/api/v1/day/hours").await.ok();
    let body = json!({ "hours": { "shifts": shifts, "temper_within_s": 7200 }, "version": known["version"] });
    me.put("/api/v1/day/hours", &body).await.ok()
}

async fn put_on(me: &Asker<'_>, blades: &[&String]) -> Value {
    let blades: Vec<Value> = blades.iter().map(|b| json!({ "blade_id": b })).collect();
    let body = json!({ "blades": blades });
    me.post("/api/v1/day/blades", &body).await.ok()
}

fn bars<'a>(day: &'a Value, blade: &str) -> Vec<&'a Value> {
    let all = day["bars"].as_array().unwrap().iter();
    all.filter(|b| b["blade"] == *blade).collect()
}

fn of_kind<'a>(day: &'a Value, blade: &str, kind: &str) -> &'a Value {
    let all = bars(day, blade);
    all.into_iter().find(|b| b["kind"] == *kind).unwrap()
}

fn s(value: &Value) -> i64 {
    value.as_i64().unwrap()
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_day_keeps_the_rules_and_gives_way_to_a_pin(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    assert_eq!(me.get(DAY).await.ok()["bars"], json!([]));
    always_there(&me, &["Runa", "Tove"]).await;
    let (a, b) = (me.blade("1084").await, me.blade("80CrV2").await);
    let day = put_on(&me, &[&a, &b]).await;
    // An empty shop is taken to have what is needed, and is told so.
    let stations = day["stations"].as_array().unwrap();
    let used = |s: &&Value| s["kind"].is_string();
    assert!(stations.iter().filter(used).all(|s| s["presumed"] == true));
    for blade in [&a, &b] {
        let all = bars(&day, blade);
        assert!(
            all.windows(2)
                .all(|w| s(&w[0]["end_s"]) <= s(&w[1]["start_s"]))
        );
        let heat = of_kind(&day, blade, "austenitize");
        let quench = of_kind(&day, blade, "quench");
        assert_eq!(heat["leave_s"], quench["start_s"], "straight into the bath");
        let waits = s(&of_kind(&day, blade, "temper")["start_s"]) - s(&quench["end_s"]);
        assert!((0..=7200).contains(&waits), "{waits}");
    }
    // Each is on one day only.
    let again = me
        .post(
            "/api/v1/day/blades",
            &json!({ "blades": [{ "blade_id": a }] }),
        )
        .await;
    assert_eq!((again.status, again.fields()), (409, vec!["blades"]));
    // Nothing happened: the same day comes back, and is not written anew.
    let same = me.get(DAY).await.ok();
    assert_eq!(same["version"], day["version"]);
    let starts = |day: &Value| -> Vec<i64> {
        let all = day["bars"].as_array().unwrap().iter();
        all.map(|b| s(&b["start_s"])).collect()
    };
    assert_eq!(starts(&same), starts(&day));
    assert_eq!(same["bars"][0]["binds"], day["bars"][0]["binds"]);
    // A pin is kept to the grid of half a minute, and what follows gives way.
    let first = bars(&day, &a)[0].clone();
    let to = (s(&first["start_s"]) + 3 * 3600) / 30 * 30;
    let pin = json!({ "blade_id": a, "activity": 0, "start_at": at(to) });
    let pinned = me.put("/api/v1/day/pins", &pin).await.ok();
    let moved = bars(&pinned, &a)[0];
    assert_eq!((s(&moved["start_s"]), &moved["pinned"]), (to, &json!(true)));
    assert!(s(&bars(&pinned, &a)[1]["start_s"]) >= to);
    assert_eq!(pinned["measures"]["broken_s"], 0);
    assert!(!pinned["news"].as_array().unwrap().is_empty());
    let free = json!({ "blade_id": a, "activity": 0 });
    let free = me.put("/api/v1/day/pins", &free).await.ok();
    assert!(s(&bars(&free, &a)[0]["start_s"]) < to);
    // What if asks and changes nothing.
    let asked = json!({ "code": "without", "blade": b });
    let what = me.post("/api/v1/day/what-if", &asked).await.ok();
    assert!(s(&what["then"]["ends_s"]) <= s(&what["now"]["ends_s"]));
    assert!(!bars(&me.get(DAY).await.ok(), &b).is_empty());
    let less = me.delete(&format!("/api/v1/day/blades/{b}")).await.ok();
    assert!(bars(&less, &b).is_empty());
    assert_eq!(
        me.delete(&format!("/api/v1/day/blades/{b}")).await.status,
        404
    );
}

#[sqlx::test(migrations = "../store/migrations")]
async fn presses_move_the_day_and_what_is_over_leaves_it(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    always_there(&me, &["Runa"]).await;
    let (a, b) = (me.blade("1084").await, me.blade("1084").await);
    put_on(&me, &[&a, &b]).await;
    let firing = me.start(&a).await;
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let actions = firing["actions"].as_array().unwrap();
    let quench = actions
        .iter()
        .position(|x| x["kind"]["code"] == "into_bath");
    let quench = quench.unwrap();
    // A press every 140 s, the last one now.
    let begun = OffsetDateTime::now_utc().unix_timestamp() - 140 * (quench as i64 + 1);
    let press = async |action: usize| {
        let when = at(begun + 140 * action as i64);
        let body = json!({ "kind": "confirm", "action": action, "at": when });
        assert_eq!(me.post(&path, &body).await.status, 200);
        me.get(DAY).await.ok()
    };
    let mut day = press(0).await;
    assert_eq!(bars(&day, &a)[0]["standing"], "running");
    assert_eq!(bars(&day, &a)[1]["standing"], "coming");
    for action in 1..=quench + 1 {
        day = press(action).await;
    }
    // Out of the bath: it is hard, and goes into its temper within the shop's limit.
    let quenched = of_kind(&day, &a, "quench");
    assert_eq!(quenched["standing"], "done");
    let blades = day["blades"].as_array().unwrap();
    let of_a = blades.iter().find(|x| x["blade_id"] == *a).unwrap();
    let hard = s(&of_a["hard"][1]) - s(&of_a["hard"][0]);
    assert!(hard <= 7200, "{hard}");
    // How long the bath took is learned from.
    let mut learned = None;
    for _ in 0..100 {
        let day = me.get(DAY).await.ok();
        let all = day["learned"].as_array().unwrap().clone();
        learned = all.into_iter().find(|l| l["kind"] == "quench");
        if learned.is_some() {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let learned = learned.expect("the bath is learned from");
    assert_eq!(learned["of"], 1);
    // As it was pressed, on the grid of half a minute.
    let lasted = s(&quenched["end_s"]) - s(&quenched["start_s"]);
    assert!([120, 150].contains(&lasted), "{lasted}");
    // It cracked: abandoned, it is off the day, and the other one is not.
    let over = json!({ "kind": "close", "end": "abandoned" });
    assert_eq!(me.post(&path, &over).await.status, 200);
    let day = me.get(DAY).await.ok();
    assert!(bars(&day, &a).is_empty());
    assert!(!bars(&day, &b).is_empty());
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_cannot_be_is_said_with_what_would_mend_it(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    always_there(&me, &["Runa"]).await;
    let a = me.blade("1084").await;
    let soon = at((OffsetDateTime::now_utc() + Duration::hours(1)).unix_timestamp());
    let body = json!({ "blades": [{ "blade_id": a, "due_at": soon }] });
    let day = me.post("/api/v1/day/blades", &body).await.ok();
    assert_eq!(day["measures"]["ails"], true);
    assert!(s(&day["measures"]["late_s"]) > 3600);
    let cures = me.get("/api/v1/day/cures").await.ok();
    assert_eq!(cures["late_alone"], json!([a]));
    let due = cures["cures"].as_array().unwrap().iter();
    let due = due.filter(|c| c["gives"]["code"] == "due" && c["cures"] == true);
    assert_eq!(due.count(), 1, "{cures}");
    // Everybody away: no room is found, and that is a day too.
    let known = me.get("/api/v1/day/hours").await.ok();
    let mut hours = known["hours"].clone();
    hours["shifts"][0]["days"] = json!([1]);
    hours["shifts"][0]["hours"] = json!([0, 1]);
    let body = json!({ "hours": hours, "version": known["version"] });
    let kept = me.put("/api/v1/day/hours", &body).await.ok();
    let day = me.get(DAY).await.ok();
    assert_eq!(day["measures"]["left_out"], 1);
    assert_eq!(day["blades"][0]["left_out"], true);
    // Changed by somebody else meanwhile.
    assert_eq!(me.put("/api/v1/day/hours", &body).await.status, 409);
    // A pin that breaks a rule says by how much.
    always_there(&me, &["Runa"]).await;
    let day = me.get(DAY).await.ok();
    let quench = of_kind(&day, &a, "quench");
    let odd = json!({ "blade_id": a, "activity": quench["activity"],
        "start_at": at(s(&quench["start_s"]) - 1800) });
    let day = me.put("/api/v1/day/pins", &odd).await.ok();
    let measures = &day["measures"];
    assert!(
        s(&measures["broken_s"]) > 0 || s(&measures["left_out"]) == 1,
        "{measures}"
    );
    let cures = me.get("/api/v1/day/cures").await.ok();
    assert_eq!(cures["cures"][0]["gives"]["code"], "unpin", "{cures}");
    assert!(kept["version"].as_i64().unwrap() >= 2);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_plan_that_leaves_it_hard_a_station_that_goes_and_forty_blades(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    always_there(&me, &["Runa"]).await;
    let oven = json!({ "kind": "oven", "name": "Kitchen oven" });
    let oven = me.post("/api/v1/stations", &oven).await.ok();
    let a = me.blade("1084").await;
    let path = format!("/api/v1/blades/{a}/plan");
    let plan = me.get(&path).await.ok();
    let mut steps = plan["steps"].as_array().unwrap().clone();
    put_on(&me, &[&a]).await;
    let day = me.get(DAY).await.ok();
    assert_eq!(of_kind(&day, &a, "temper")["station"], oven["id"]);
    // The oven is retired in the middle: another one is taken to be there.
    let retired = json!({ "kind": "oven", "name": "Kitchen oven", "retired": true, "version": oven["version"] });
    let path_of = format!("/api/v1/stations/{}", oven["id"].as_str().unwrap());
    assert_eq!(me.put(&path_of, &retired).await.status, 200);
    let day = me.get(DAY).await.ok();
    assert_eq!(of_kind(&day, &a, "temper")["station"], "oven");
    // A plan without a temper is laid, and told.
    steps.retain(|x| x["kind"] != "temper");
    let body = json!({ "steps": steps, "version": plan["version"] });
    assert_eq!(me.put(&path, &body).await.status, 200);
    let day = me.get(DAY).await.ok();
    assert_eq!(day["blades"][0]["untempered"], true);
    // As many as can be, and one more.
    let mut all = Vec::new();
    for _ in 0..40 {
        all.push(me.blade("1084").await);
    }
    let on = |ids: &[String]| {
        let blades: Vec<Value> = ids.iter().map(|b| json!({ "blade_id": b })).collect();
        json!({ "blades": blades })
    };
    let refused = me.post("/api/v1/day/blades", &on(&all)).await;
    assert_eq!((refused.status, refused.fields()), (409, vec!["blades"]));
    let day = me.post("/api/v1/day/blades", &on(&all[..39])).await.ok();
    assert_eq!(day["blades"].as_array().unwrap().len(), 40);
    assert_eq!(day["measures"]["broken_s"], 0);
    for (body, field) in [
        (json!({ "blades": [] }), "blades"),
        (
            json!({ "blades": [{ "blade_id": a, "not_before": "1999-01-01T00:00:00Z" }] }),
            "blades[0].not_before",
        ),
        (
            json!({ "blades": [{ "blade_id": "moon" }] }),
            "blades[0].blade_id",
        ),
    ] {
        let refused = me.post("/api/v1/day/blades", &body).await;
        assert_eq!(
            (refused.status, refused.fields()),
            (422, vec![field]),
            "{body}"
        );
    }
}

/// The calendar opens in a parser of another make, with alarms, stable names and the shop's zone; its address can be revoked.
#[sqlx::test(migrations = "../store/migrations")]
async fn the_calendar_is_one_and_its_address_is_secret(pool: PgPool) {
    use icalendar::{Calendar, CalendarComponent, Component};
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    always_there(&me, &["Runa"]).await;
    let a = me.blade("1084").await;
    put_on(&me, &[&a]).await;
    let nobody = Asker::nobody(&client);
    assert_eq!(nobody.get("/calendar/moon.ics").await.status, 404);
    let made = me.post("/api/v1/day/calendar", &Value::Null).await.ok();
    let path = made["path"].as_str().unwrap().to_owned();
    let read = async || {
        let answer = client.get(path.clone()).dispatch().await;
        assert_eq!(
            answer.content_type(),
            Some(rocket::http::ContentType::Calendar)
        );
        answer.into_string().await.unwrap()
    };
    let text = read().await;
    assert!(text.contains("\r\n"));
    // No line is longer than the standard allows.
    assert!(text.split("\r\n").all(|line| line.len() <= 75));
    let events = |text: &str| {
        let calendar: Calendar = text.parse().unwrap();
        let events = calendar
            .components
            .iter()
            .filter_map(CalendarComponent::as_event);
        let mut all: Vec<(String, String)> = events
            .map(|e| {
                assert!(e.get_start().is_some() && e.get_end().is_some());
                (
                    e.get_uid().unwrap().to_owned(),
                    e.get_summary().unwrap().to_owned(),
                )
            })
            .collect();
        all.sort();
        all
    };
    let first = events(&text);
    assert!(first.len() >= 6, "{first:?}");
    assert!(first.iter().any(|e| e.1.contains("quench")), "{first:?}");
    assert_eq!(text.matches("BEGIN:VALARM").count(), first.len());
    assert!(text.contains("TRIGGER:-PT5M"));
    // Moved, the same moments have the same names.
    let pin = json!({ "blade_id": a, "activity": 0,
        "start_at": at((OffsetDateTime::now_utc() + Duration::hours(5)).unix_timestamp()) });
    me.put("/api/v1/day/pins", &pin).await.ok();
    assert_eq!(events(&read().await), first);
    assert_eq!(me.delete("/api/v1/day/calendar").await.status, 204);
    assert_eq!(nobody.get(&path).await.status, 404);
}

/// Planned once, each a blade of its own: its mark, its plan, its readings.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_batch_is_planned_once_and_read_apart(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    always_there(&me, &["Runa"]).await;
    let a = me.blade("1084").await;
    let path = format!("/api/v1/blades/{a}/plan");
    let plan = me.get(&path).await.ok();
    let alike = format!("/api/v1/blades/{a}/alike");
    let refused = me.post(&alike, &json!({ "count": 12 })).await;
    assert_eq!((refused.status, refused.fields()), (422, vec!["count"]));
    let made = me.post(&alike, &json!({ "count": 3 })).await.ok();
    let ids: Vec<&str> = (made.as_array().unwrap().iter())
        .map(|b| b["id"].as_str().unwrap())
        .collect();
    let marks: std::collections::BTreeSet<&str> = (made.as_array().unwrap().iter())
        .map(|b| b["mark"].as_str().unwrap())
        .collect();
    assert_eq!(marks.len(), 3);
    let batches = me.get("/api/v1/batches").await.ok();
    assert_eq!(batches[0]["blade_ids"].as_array().unwrap().len(), 4);
    // What is changed of the plan is given to the others; one that is in the fire keeps its own.
    me.start(ids[0]).await;
    let mut steps = plan["steps"].clone();
    let temper = steps
        .as_array()
        .unwrap()
        .iter()
        .position(|x| x["kind"] == "temper");
    steps[temper.unwrap()]["temperature_c"] = json!(251.0);
    let body = json!({ "steps": steps, "version": plan["version"] });
    assert_eq!(me.put(&path, &body).await.status, 200);
    let given = me.post(&format!("{path}/batch"), &Value::Null).await.ok();
    assert_eq!(given["planned"].as_array().unwrap().len(), 2);
    assert_eq!(given["kept"], json!([ids[0]]));
    let of =
        async |id: &str| me.get(&format!("/api/v1/blades/{id}/plan")).await.ok()["steps"].clone();
    assert_eq!(of(ids[1]).await, steps);
    assert_eq!(of(ids[0]).await, plan["steps"]);
    // The day takes the whole batch, and shares the kiln where it may.
    let all: Vec<String> = ids.iter().map(|id| (*id).to_owned()).collect();
    let day = put_on(&me, &all.iter().collect::<Vec<_>>()).await;
    assert_eq!(day["blades"].as_array().unwrap().len(), 3);
}
