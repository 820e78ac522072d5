//! A firing that goes another way than planned, through the API and in a browser: steps left out, done again, put in,
//! drawn forward, timed anew, in another bath; what comes of it from there on; and another blade that joins.

use crate::support;

use rstest::rstest;
use serde_json::{Value, json};
use sqlx::PgPool;
use support::browser::Stage;
use support::process::Server;
use support::{Asker, blade, server};
use uuid::Uuid;

fn path(firing: &Value) -> String {
    format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap())
}

fn deviate(how: &Value) -> Value {
    json!({ "id": Uuid::now_v7(), "kind": "deviate", "how": how })
}

/// Position of the first action behind `from` with this code.
fn action_at(firing: &Value, code: &str, from: usize) -> usize {
    let actions = firing["actions"].as_array().unwrap();
    let found = actions[from..]
        .iter()
        .position(|a| a["kind"]["code"] == code);
    from + found.unwrap_or_else(|| panic!("no {code} in {actions:?}"))
}

/// Confirms what was not confirmed before `upto`.
async fn confirm(me: &Asker<'_>, firing: &Value, upto: usize) -> Value {
    let from = firing["state"]["position"].as_u64().unwrap() as usize;
    let mut last = firing.clone();
    for action in from..upto {
        let body = json!({ "kind": "confirm", "action": action });
        last = me.post(&path(firing), &body).await.ok();
    }
    last
}

fn kinds(firing: &Value) -> Vec<&str> {
    let order = firing["order"].as_array().unwrap();
    let kind = |n: &Value| firing["steps"][n.as_u64().unwrap() as usize]["kind"].as_str();
    order.iter().filter_map(kind).collect()
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_firing_goes_another_way_and_is_kept_as_it_went(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let other = Asker::shop(&client, "south").await;
    let id = me.blade("1084").await;
    let firing = me.start(&id).await;
    let planned = kinds(&firing);
    let tail = ["austenitize", "quench", "temper"];
    assert!(
        planned.starts_with(&["normalize"]) && planned.ends_with(&tail),
        "{planned:?}"
    );
    let many = planned.len();

    // One heat more, pressed twice on two devices: one more heat.
    let extra = deviate(&json!({ "deviation": "again", "from": 0, "to": 0 }));
    let heat = confirm(&me, &firing, 3).await;
    me.post(&path(&firing), &extra).await.ok();
    let longer = me.post(&path(&firing), &extra).await.ok();
    assert_eq!(kinds(&longer).len(), many + 1);
    assert_eq!(longer["order"][1], many);
    assert_eq!(other.post(&path(&firing), &extra).await.status, 404);
    // Undo takes it back, and only once.
    let undo = json!({ "kind": "undo", "event": extra["id"] });
    let back = me.post(&path(&firing), &undo).await.ok();
    assert_eq!(kinds(&back), kinds(&heat));
    me.post(
        &path(&firing),
        &deviate(&json!({ "deviation": "again", "from": 0, "to": 0 })),
    )
    .await
    .ok();
    let step = json!({ "kind": "stress_relief", "temperature_c": 640, "hold_s": 3600 });
    let put = json!({ "deviation": "extra", "step": step });
    let now = me.post(&path(&firing), &deviate(&put)).await.ok();
    assert_eq!(kinds(&now)[1], "stress_relief");
    let left_out = json!({ "deviation": "left_out", "step": 1 });
    let now = me.post(&path(&firing), &deviate(&left_out)).await.ok();

    // Into water, and hot from it nothing is quenched again.
    let bath = action_at(&now, "into_bath", 0);
    let at_heat = confirm(&me, &now, bath).await;
    let quench = at_heat["actions"][bath]["step"].clone();
    let say = json!({ "kind": "say", "step": quench, "medium": "water" });
    let wet = me.post(&path(&firing), &say).await.ok();
    assert_eq!(wet["actions"][bath]["kind"]["medium"], "water");
    assert_eq!(wet["actions"][bath]["caution"], "water");
    let hot = confirm(&me, &wet, bath + 1).await;
    let heat = hot["actions"][bath - 1]["step"].clone();
    let again = json!({ "deviation": "again", "from": heat, "to": quench });
    let early = me.post(&path(&firing), &deviate(&again)).await;
    assert_eq!((early.status, early.fields()), (409, vec!["how"]));
    let cold = confirm(&me, &hot, bath + 2).await;
    assert!(!cold["state"]["untempered_since_ms"].is_null());

    // What comes of it: the bath is told, and a crack is likelier than it was.
    let ahead = format!("/api/v1/firings/{}/outlook", firing["id"].as_str().unwrap());
    let outlook = me.get(&ahead).await.ok();
    let told = outlook["departures"].to_string();
    for code in ["\"bath\"", "\"left_out\"", "\"extra\""] {
        assert!(told.contains(code), "{told}");
    }
    assert!(outlook["crack"].as_f64() > outlook["crack_before"].as_f64());
    let temper = firing["steps"].as_array().unwrap().last().unwrap();
    assert_eq!(outlook["temper"]["planned_c"], temper["temperature_c"]);
    assert_eq!(other.get(&ahead).await.status, 404);

    // Hardened again: a risk of its own, and the first temper is the one behind it.
    let again = me.post(&path(&firing), &deviate(&again)).await.ok();
    assert_eq!(kinds(&again).iter().filter(|k| **k == "quench").count(), 2);
    let twice = me.get(&ahead).await.ok();
    // By the last quench, in oil: the one in water did not crack it.
    assert!(
        twice["crack"].as_f64() > twice["crack_before"].as_f64(),
        "{twice}"
    );
    let cooler =
        json!({ "deviation": "heat", "step": twice["temper"]["step"], "temperature_c": 190 });
    me.post(&path(&firing), &deviate(&cooler)).await.ok();
    let all = me
        .get(&format!(
            "/api/v1/firings/{}",
            firing["id"].as_str().unwrap()
        ))
        .await
        .ok();
    let ended = confirm(&me, &all, all["actions"].as_array().unwrap().len()).await;
    assert_eq!(ended["state"]["tempered"], true);
    me.post(&path(&firing), &json!({ "kind": "close" }))
        .await
        .ok();
    let done = me
        .get(&format!(
            "/api/v1/firings/{}",
            firing["id"].as_str().unwrap()
        ))
        .await
        .ok();
    let steps = done["done"]["steps"].as_array().unwrap();
    assert_eq!(steps.last().unwrap()["temperature_c"], 190.0);
    assert_eq!(steps.iter().filter(|s| s["kind"] == "quench").count(), 2);
    // What was frozen is what was planned.
    let plan = me.get(&format!("/api/v1/blades/{id}/plan")).await.ok();
    assert_eq!(plan["steps"], firing["steps"]);

    // It is read and learned from, and goes out and in again as it went.
    let read = json!({ "stage": "tempered", "values": [60.0, 60.5, 60.0] });
    me.post(&format!("/api/v1/blades/{id}/readings"), &read)
        .await
        .ok();
    assert_eq!(me.get("/api/v1/lessons").await.ok()["records"], 1);
    let third = Asker::shop(&client, "third").await;
    third
        .post("/api/v1/import", &me.get("/api/v1/export").await.ok())
        .await
        .ok();
    let moved = third.get("/api/v1/blades/finished").await.ok();
    let moved = moved.as_array().unwrap().first().cloned();
    let moved = match moved {
        Some(blade) => blade["id"].clone(),
        None => third.get("/api/v1/blades").await.ok()[0]["id"].clone(),
    };
    let firings = format!("/api/v1/blades/{}/firings", moved.as_str().unwrap());
    let copy = third.get(&firings).await.ok();
    assert_eq!(copy[0]["done"]["steps"], done["done"]["steps"]);
    assert_eq!(copy[0]["order"], done["order"]);
}

#[rstest]
#[case(json!({ "deviation": "left_out", "step": 90 }), 409, "step")]
#[case(json!({ "deviation": "left_out", "step": 0, "round": 3 }), 409, "round")]
#[case(json!({ "deviation": "again", "from": 2, "to": 1 }), 409, "step")]
#[case(json!({ "deviation": "heat", "step": 0, "temperature_c": 5000 }), 422, "how.temperature_c")]
#[case(json!({ "deviation": "timed", "step": 0, "lasts_s": -1 }), 422, "how.lasts_s")]
#[case(json!({ "deviation": "extra", "step": { "kind": "temper", "temperature_c": 2000, "hold_s": 60 } }), 422, "how.step.temperature_c")]
#[case(json!({ "deviation": "extra", "step": { "kind": "quench", "stages": [{ "medium": "water" }] } }), 409, "how")]
#[case(json!({ "deviation": "extra", "step": { "kind": "normalize", "temperature_c": 870, "times": 3 } }), 422, "how.step.times")]
#[sqlx::test(migrations = "../store/migrations")]
async fn what_cannot_be_is_named_and_nothing_is_lost(
    #[ignore] pool: PgPool,
    #[case] how: Value,
    #[case] status: u16,
    #[case] field: &str,
) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("1084").await;
    let firing = me.start(&id).await;
    let answer = me.post(&path(&firing), &deviate(&how)).await;
    assert_eq!(
        (answer.status, answer.fields()),
        (status, vec![field]),
        "{how}"
    );
    let bath = json!({ "kind": "say", "step": 0, "medium": "fast_oil" });
    assert_eq!(me.post(&path(&firing), &bath).await.fields(), ["medium"]);
    let odd = json!({ "kind": "say", "step": 0, "medium": "soup" });
    assert_eq!(me.post(&path(&firing), &odd).await.fields(), ["medium"]);
    let none = json!({ "kind": "deviate" });
    assert_eq!(me.post(&path(&firing), &none).await.fields(), ["how"]);
    let still = me
        .get(&format!(
            "/api/v1/firings/{}",
            firing["id"].as_str().unwrap()
        ))
        .await
        .ok();
    assert_eq!(still["steps"], firing["steps"]);
}

/// On a phone: an early press is asked about once, one heat more and taken back, another bath, and a blade that joins.
#[sqlx::test(migrations = "../store/migrations")]
async fn whatever_happens_is_one_press(pool: PgPool) {
    let server = Server::over(&pool).await;
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let cookie = server.demo();
    let stage = Stage::browser(server, profile, 390, 844).await;
    stage.demo().await;
    let ask = |method: &str, path: &str, body: &Value| {
        stage.server.json(method, path, &cookie, body).unwrap()
    };
    let steps = json!([{ "kind": "normalize", "temperature_c": 870, "hold_s": 600 },
        { "kind": "austenitize", "temperature_c": 815, "soak_s": 300 },
        { "kind": "quench", "stages": [{ "medium": "fast_oil" }] },
        { "kind": "temper", "temperature_c": 205, "hold_s": 7200, "times": 2 }]);
    let mut ids = Vec::new();
    for name in ["Reed hook", "Grafting hook"] {
        let mut body = blade("1084");
        body["name"] = json!(name);
        let made = ask("POST", "/api/v1/blades", &body);
        let plan = format!("/api/v1/blades/{}/plan", made["id"].as_str().unwrap());
        let version = ask("GET", &plan, &Value::Null)["version"].clone();
        let saved = ask("PUT", &plan, &json!({ "steps": steps, "version": version }));
        ids.push((
            made["id"].as_str().unwrap().to_owned(),
            saved["version"].clone(),
        ));
    }
    let start = json!({ "plan_version": ids[0].1 });
    let firing = ask(
        "POST",
        &format!("/api/v1/blades/{}/firings", ids[0].0),
        &start,
    );
    let get = format!("/api/v1/firings/{}", firing["id"].as_str().unwrap());
    stage.go(&get.replace("/api/v1", "")).await;
    stage.click("button", "In the fire").await;

    // Another blade joins the load: it is in the fire by the same press.
    stage.click("button", "It went otherwise").await;
    stage.click("button", "Another blade joins").await;
    stage.click("button", "Grafting hook").await;
    stage.see_text("nav", "heating").await;
    let joined = ask(
        "GET",
        &format!("/api/v1/blades/{}/firings", ids[1].0),
        &Value::Null,
    );
    assert_eq!(joined[0]["state"]["position"], 1);

    stage.click("button", "At heat").await;
    stage.see_text("h1", "even out").await;
    // Ten minutes were planned: it asks, once.
    stage.click("button", "Out to cool").await;
    stage.see_text("button", "press again").await;
    stage.see_text("h1", "even out").await;
    stage.click("button", "press again").await;
    stage.see_text("h1", "cooling in air").await;

    stage.click("button", "It went otherwise").await;
    stage.click("button", "Normalize once more").await;
    stage.see_text("span", "Once more: normalize").await;
    stage.see_text("span", "step 1 of 5").await;
    stage.click("button", "Take it back").await;
    stage.see_text("span", "step 1 of 4").await;
    stage.click("button", "It went otherwise").await;
    stage.click("button", "Normalize once more").await;
    stage.see_text("h1", "Normalize 1 of 2").await;
    for press in ["In the fire", "At heat", "Out to cool"] {
        stage.click("button", press).await;
    }
    stage.click("button", "press again").await;
    for press in ["In the fire", "Back at heat"] {
        stage.click("button", press).await;
    }
    stage.click("button", "It went otherwise").await;
    stage.click("button", "1 min longer").await;
    stage.see_text("div", "of 6:00").await;
    stage.click("button", "It went otherwise").await;
    stage.click("button", "Another bath").await;
    stage.click("button", "water").await;
    stage.click("button", "In the water").await;
    stage.click("button", "press again").await;
    stage.see_text("h1", "Quench: water").await;
    stage.click("button", "Out of the bath, cold").await;
    stage
        .see_text("section", "Quenched in water instead of fast oil")
        .await;
    // Hardened again straight from hard is asked about.
    stage.click("button", "It went otherwise").await;
    stage.click("button", "straight from hard").await;
    stage.see_text("div", "cracks and warps more easily").await;
    stage.click("button", "No").await;
    stage
        .click("button", "Harden again, from normalizing")
        .await;
    stage.see_text("section", "Beyond the plan").await;
    let now = ask("GET", &get, &Value::Null);
    let quenches = kinds(&now).iter().filter(|k| **k == "quench").count();
    assert_eq!(quenches, 2, "{:?}", kinds(&now));
    stage.end().await;
}

/// On a phone: three seconds of water were planned before the oil, and it stayed in longer; what comes of it is told.
#[sqlx::test(migrations = "../store/migrations")]
async fn an_interrupted_quench_that_went_long(pool: PgPool) {
    let server = Server::over(&pool).await;
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let cookie = server.demo();
    let stage = Stage::browser(server, profile, 390, 844).await;
    stage.demo().await;
    let ask = |method: &str, path: &str, body: &Value| {
        stage.server.json(method, path, &cookie, body).unwrap()
    };
    let made = ask("POST", "/api/v1/blades", &blade("w2"));
    let of = format!("/api/v1/blades/{}", made["id"].as_str().unwrap());
    let version = ask("GET", &format!("{of}/plan"), &Value::Null)["version"].clone();
    let steps = json!([{ "kind": "austenitize", "temperature_c": 795, "soak_s": 300 },
        { "kind": "quench", "stages": [{ "medium": "water", "for_s": 3 }, { "medium": "fast_oil" }] },
        { "kind": "temper", "temperature_c": 205, "hold_s": 7200, "times": 2 }]);
    let plan = json!({ "steps": steps, "version": version });
    let saved = ask("PUT", &format!("{of}/plan"), &plan);
    let start = json!({ "plan_version": saved["version"] });
    let firing = ask("POST", &format!("{of}/firings"), &start);
    let path = format!("/firings/{}", firing["id"].as_str().unwrap());
    stage.go(&path).await;
    for press in ["In the fire", "Back at heat", "In the water"] {
        stage.click("button", press).await;
    }
    stage.click("button", "press again").await;
    stage.see_text("h1", "Quench: water").await;
    tokio::time::sleep(std::time::Duration::from_secs(8)).await;
    stage.click("button", "In the oil").await;
    stage.see_text("h1", "Quench: fast oil").await;
    stage.click("button", "Out of the bath, cold").await;
    stage.see_text("section", "instead of 3 s").await;
    stage.see_text("section", "By what was done").await;
    let now = ask("GET", &format!("/api/v1{path}"), &Value::Null);
    let water = now["done"]["steps"][1]["stages"][0]["for_s"].as_f64();
    assert!(water > Some(7.0) && water < Some(30.0), "{}", now["done"]);
    stage.end().await;
}
