//! What was really done, and the blade as it went into the fire, through the API: what is kept is what physics,
//! learning and every answer see.

use crate::support;

use serde_json::{Value, json};
use sqlx::PgPool;
use support::{Asker, blade, predict_body, question, server};
use time::format_description::well_known::Rfc3339;
use time::{Duration, OffsetDateTime};

/// Confirms the actions of a firing, each so many seconds after the one before, from an hour ago on.
async fn pressed(me: &Asker<'_>, firing: &Value, after_s: impl Fn(&Value) -> f64) -> Value {
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let mut at = OffsetDateTime::now_utc() - Duration::days(1);
    let mut last = Value::Null;
    for (action, told) in firing["actions"].as_array().unwrap().iter().enumerate() {
        at += Duration::seconds_f64(after_s(told));
        let event =
            json!({ "kind": "confirm", "action": action, "at": at.format(&Rfc3339).unwrap() });
        last = me.post(&path, &event).await.ok();
    }
    last
}

/// A blade whose plan has these steps.
async fn planned(me: &Asker<'_>, body: &Value, steps: &Value) -> String {
    let id = me.post("/api/v1/blades", body).await.id();
    let path = format!("/api/v1/blades/{id}/plan");
    let plan = me.get(&path).await.ok();
    let saved = json!({ "steps": steps, "version": plan["version"] });
    me.put(&path, &saved).await.ok();
    id
}

fn water_then_oil() -> Value {
    json!([
        { "kind": "austenitize", "temperature_c": 800, "soak_s": 300 },
        { "kind": "quench", "stages": [{ "medium": "water", "bath_c": 25, "for_s": 2 },
            { "medium": "fast_oil", "bath_c": 50 }] },
        { "kind": "temper", "temperature_c": 205, "hold_s": 7200, "times": 2 }
    ])
}

/// Point 2: each round of a temper keeps its own time and temperature.
#[sqlx::test(migrations = "../store/migrations")]
async fn each_round_of_a_temper_keeps_its_own(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = planned(&me, &blade("1084"), &question()["steps"]).await;
    let firing = me.start(&id).await;
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let temper = firing["steps"].as_array().unwrap().len() - 1;
    for (round, celsius, seconds) in [(0, 205, 7200), (1, 190, 3600)] {
        let said = json!({ "kind": "say", "step": temper, "round": round, "temperature_c": celsius,
            "lasted_s": seconds });
        me.post(&path, &said).await.ok();
    }
    let beyond = json!({ "kind": "say", "step": temper, "round": 2, "lasted_s": 60 });
    let answer = me.post(&path, &beyond).await;
    assert_eq!((answer.status, answer.fields()), (409, vec!["round"]));
    me.finish(&firing).await;
    let now = me
        .get(&format!(
            "/api/v1/firings/{}",
            firing["id"].as_str().unwrap()
        ))
        .await
        .ok();
    let rounds: Vec<Value> = now["done"]["steps"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|s| s["kind"] == "temper")
        .map(|s| json!([s["temperature_c"], s["hold_s"], s["times"]]))
        .collect();
    let wanted = [json!([205.0, 7200.0, 1]), json!([190.0, 3600.0, 1])];
    assert_eq!(rounds, wanted, "{:#}", now["done"]);
    assert_eq!(
        now["steps"], firing["steps"],
        "the plan stays as it was frozen"
    );
}

/// Point 3: seconds in water that were pressed at the fire count, in the crack chance as well.
#[sqlx::test(migrations = "../store/migrations")]
async fn seconds_in_water_count_as_they_were_pressed(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let mut body = blade("1095");
    // Thick: two seconds do not cool it through.
    body["spine_mm"] = json!(8);
    body["edge_mm"] = json!(3);
    body["width_mm"] = json!(40);
    let id = planned(&me, &body, &water_then_oil()).await;
    let firing = me.start(&id).await;
    let in_water = |action: &Value| {
        // Into the oil six seconds after the water.
        let step = action["step"] == 1;
        let oil = action["kind"]["medium"] == "fast_oil";
        if step && oil { 6.0 } else { 300.0 }
    };
    let now = pressed(&me, &firing, in_water).await;
    let quench = &now["done"]["steps"][1];
    let seconds = quench["stages"][0]["for_s"].as_f64().unwrap();
    assert!((seconds - 6.0).abs() < 0.1, "{:#}", now["done"]);
    assert_eq!(now["steps"][1]["stages"][0]["for_s"], 2.0);
    // What was done cracks more often than what was planned.
    let mut ask = predict_body(&id);
    let mut chance = async |steps: &Value| {
        ask["steps"] = steps.clone();
        let found = me.post("/api/v1/predict", &ask).await.ok();
        found["crack"]["probability"].as_f64().unwrap()
    };
    let (planned, done) = (
        chance(&now["steps"]).await,
        chance(&now["done"]["steps"]).await,
    );
    assert!(done > 2.0 * planned, "{planned} {done}");
    let lived = now["done"]["untempered_s"].as_f64().unwrap();
    // From the oil, where it gets hard, to the oven: each press 300 s after the one before.
    let actions = firing["actions"].as_array().unwrap();
    let place = |good: &dyn Fn(&Value) -> bool| actions.iter().position(good).unwrap();
    let oven = place(&|b| b["step"] == 2);
    let out = place(&|b| b["mark"] == "quenched");
    assert_eq!(lived, 300.0 * (oven - out) as f64);
}

/// Point 4: what is written of a blade after its fire changes nothing of what was, and is told beside it.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_fired_blade_stays_as_it_was(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let bar = json!({ "name": "Flat", "steel": "1084", "analysis": { "C": 0.86, "Mn": 0.7 },
        "size": { "width_mm": 40, "thickness_mm": 5, "length_mm": 900, "left_mm": 900 } });
    let bar = me.post("/api/v1/bars", &bar).await.id();
    let mut body = blade("1084");
    body["bar_id"] = json!(bar);
    let id = me.post("/api/v1/blades", &body).await.id();
    let firing = me.start(&id).await;
    me.finish(&firing).await;
    let read = json!({ "stage": "tempered", "values": [60, 60.4] });
    me.post(&format!("/api/v1/blades/{id}/readings"), &read)
        .await
        .ok();
    let of_firing = format!("/api/v1/firings/{}", firing["id"].as_str().unwrap());
    let before = (
        me.get("/api/v1/lessons").await.ok(),
        me.get(&of_firing).await.ok(),
        me.get(&format!("/api/v1/blades/{id}/diagnosis?symptom=soft"))
            .await
            .ok(),
    );
    let path = format!("/api/v1/blades/{id}");

    // Off the rack names nothing but that: the bar stays.
    let now = me.get(&path).await.ok();
    let off = json!({ "version": now["version"], "finished": true });
    let off = me.patch(&path, &off).await.ok();
    assert_eq!(off["bar_id"], json!(bar));
    assert!(off["finished_at"].is_string());

    let change = json!({ "version": off["version"], "spine_mm": 6, "length_mm": 200, "steel": "O1",
        "grind": "hollow", "bar_id": null });
    let changed = me.patch(&path, &change).await.ok();
    assert!(changed["bar_id"].is_null());
    assert_eq!(changed["steel"], "o1");
    let after = (
        me.get("/api/v1/lessons").await.ok(),
        me.get(&of_firing).await.ok(),
        me.get(&format!("/api/v1/blades/{id}/diagnosis?symptom=soft"))
            .await
            .ok(),
    );
    assert_eq!(before.1, after.1, "the firing");
    assert_eq!(before.2, after.2, "the diagnosis");
    assert_eq!(
        before.0["outcomes"], after.0["outcomes"],
        "what was learned"
    );
    let made = &after.1["made"];
    assert_eq!(made["blade"]["spine_mm"], 2.5);
    assert_eq!(made["bar"]["id"], json!(bar));

    let edits = me.get(&format!("{path}/edits")).await.ok();
    let last = edits.as_array().unwrap().last().unwrap();
    assert_eq!(last["changed"]["spine_mm"], json!([2.5, 6.0]));
    assert_eq!(last["by"], "Owner");
    assert!(last["at"].is_string());
}

/// Point 6: a school brings its own clay, and only its own.
#[sqlx::test(migrations = "../store/migrations")]
async fn clay_and_water_lays_its_clay(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let mut body = blade("W2");
    body["spine_mm"] = json!(5);
    body["width_mm"] = json!(30);
    let id = me.post("/api/v1/blades", &body).await.id();
    let path = format!("/api/v1/blades/{id}/methods");
    let all = me.get(&path).await.ok();
    let of = |all: &Value, name: &str| {
        let all = all["methods"].as_array().unwrap();
        all.iter().find(|m| m["id"] == name).unwrap().clone()
    };
    let (clayed, bare) = (of(&all, "clay_in_water"), of(&all, "straight_water"));
    assert_eq!(
        (&clayed["lays"], &bare["lays"]),
        (&json!("band"), &json!("nothing"))
    );
    assert!(clayed["clay"]["left"]["band"].is_object());
    assert!(
        clayed["steps"]
            .as_array()
            .unwrap()
            .iter()
            .any(|s| s["kind"] == "clay")
    );
    assert_ne!(clayed["compared"], bare["compared"]);
    // What is painted goes with the school that lays clay, and with no other.
    let painted = json!({ "clay": { "left": { "band": { "from_edge_mm": 6, "thickness_mm": 1 } } },
        "version": 0 });
    me.put(&format!("/api/v1/blades/{id}/clay"), &painted)
        .await
        .ok();
    let all = me.get(&path).await.ok();
    assert_eq!(of(&all, "clay_in_water")["lays"], "painted");
    assert_eq!(of(&all, "straight_water")["compared"], bare["compared"]);
}

/// Point 8: a log whose times name no zone is read by the clock of the shop.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_log_without_zone_is_read_by_the_clock_of_the_shop(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let shop = json!({ "name": "North", "temperature_unit": "c", "length_unit": "mm",
        "time_zone": "Asia/Tokyo", "version": 1 });
    me.put("/api/v1/workshop", &shop).await.ok();
    let id = me.blade("1084").await;
    let firing = me.start(&id).await;
    me.finish(&firing).await;
    let text = "time,temperature\n2026-11-20 08:00:00,105\n2026-11-20 08:00:10,221\n2026-11-20 08:10:00,221\n";
    let chosen = json!({ "time": 0, "temperature": 1, "fahrenheit": false });
    let log = json!({ "name": "l.csv", "text": text, "columns": chosen });
    let path = format!("/api/v1/blades/{id}/traces");
    let read = me.post(&format!("{path}/read"), &log).await.ok();
    assert_eq!(read["began_at"], "2026-11-19T23:00:00Z");
    assert_eq!(read["span_c"], json!([105.0, 221.0]), "as it was chosen");
    let kept = me.post(&path, &log).await;
    assert!(kept.status < 300, "{kept:?}");
    let view = me.get(&path).await.ok();
    let first = view[0]["samples"][0][0].as_i64().unwrap();
    assert_eq!(first, 1_795_129_200_000);
    // In °F with °C chosen: taken at its word, and what cannot be so is said.
    let hot = "time,temperature\n2026-11-20 08:00:00,1500\n2026-11-20 08:10:00,1500\n";
    let log = json!({ "name": "f.csv", "text": hot, "columns": chosen });
    let read = me.post(&format!("{path}/read"), &log).await.ok();
    assert_eq!(read["span_c"], json!([1500.0, 1500.0]));
    assert!(
        read["notes"][0]["code"] == "too_hot" && read["notes"][0]["hottest_c"] == 1500.0,
        "{read}"
    );
}

/// Points 7 and 9: physics alone knows nothing of the shop; where a check goes in, the answer says which, and
/// how much it tells.
#[sqlx::test(migrations = "../store/migrations")]
async fn physics_alone_knows_nothing_of_the_shop(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let kiln = json!({ "kind": "kiln", "name": "Bench kiln" });
    let kiln = me.post("/api/v1/stations", &kiln).await.id();
    let mut ask = question();
    ask["steps"][0]["station_id"] = json!(kiln);
    let unchecked = me.post("/api/v1/predict", &ask).await.ok();
    assert!(
        unchecked["checks_used"]
            .as_array()
            .is_none_or(Vec::is_empty)
    );
    let width = |p: &Value| {
        let h = &p["hardness"]["as_quenched"];
        h["high"].as_f64().unwrap() - h["low"].as_f64().unwrap()
    };

    // Ice and boiling water say next to nothing of 815 °C.
    let checks = format!("/api/v1/stations/{kiln}/calibrations");
    let ice = json!({ "against": "ice_and_boiling_water", "points": [[0, 0], [101, 100]] });
    me.post(&checks, &ice).await.ok();
    let by_ice = me.post("/api/v1/predict", &ask).await.ok();
    assert!(
        width(&by_ice) > 0.95 * width(&unchecked),
        "{} {}",
        width(&by_ice),
        width(&unchecked)
    );
    let tells = |p: &Value| p["checks_used"][0]["tells"].as_f64().unwrap_or(0.0);
    assert!(tells(&by_ice) < 0.05, "{}", by_ice["checks_used"]);

    let near = json!({ "against": "thermometer", "points": [[810, 808]] });
    me.post(&checks, &near).await.ok();
    let checked = me.post("/api/v1/predict", &ask).await.ok();
    assert_eq!(checked["checks_used"][0]["station_id"], json!(kiln));
    assert!(tells(&checked) > 0.7, "{}", checked["checks_used"]);
    assert!(width(&checked) < width(&unchecked));
    assert_ne!(checked["hardness"], unchecked["hardness"]);

    ask["use_records"] = json!(false);
    let alone = me.post("/api/v1/predict", &ask).await.ok();
    assert_eq!(alone["hardness"], unchecked["hardness"]);
    assert!(alone["checks_used"].as_array().is_none_or(Vec::is_empty));
}

/// Point 10: one line of one blade and plan is one number wherever it is shown, and follows the records.
#[sqlx::test(migrations = "../store/migrations")]
async fn one_line_is_one_number_everywhere(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let steps = json!([
        { "kind": "clay", "temperature_c": 200, "hold_s": 3600 },
        { "kind": "austenitize", "temperature_c": 790, "soak_s": 240 },
        { "kind": "quench", "stages": [{ "medium": "water", "bath_c": 25 }] },
        { "kind": "temper", "temperature_c": 205, "hold_s": 7200, "times": 2 }
    ]);
    let mut body = blade("W2");
    body["shape"] = json!("plain");
    body["spine_mm"] = json!(5);
    body["width_mm"] = json!(30);
    let clay = json!({ "clay": { "left": { "band": { "from_edge_mm": 10, "thickness_mm": 3 } } },
        "version": 0 });
    let clayed = async || {
        let id = planned(&me, &body, &steps).await;
        me.put(&format!("/api/v1/blades/{id}/clay"), &clay)
            .await
            .ok();
        id
    };
    let next = clayed().await;
    let mut ask = predict_body(&next);
    ask["steps"] = steps.clone();
    let height = |found: &Value| found["hamon"]["height_mm"].as_f64();
    let before = height(&me.post("/api/v1/predict", &ask).await.ok()).unwrap();
    for _ in 0..3 {
        let id = clayed().await;
        let firing = me.start(&id).await;
        me.finish(&firing).await;
        let h = height(&firing["prediction"]).unwrap() + 2.0;
        let line = json!({ "found": { "kind": "line", "places": [[40, h], [60, h], [80, h]] } });
        me.post(&format!("/api/v1/blades/{id}/findings"), &line)
            .await
            .ok();
    }
    let predicted = height(&me.post("/api/v1/predict", &ask).await.ok()).unwrap();
    assert!(predicted > before + 0.2, "learned: {before} to {predicted}");
    for step_mm in [1.0, 2.0] {
        let mut fine = ask.clone();
        fine["step_mm"] = json!(step_mm);
        let drawn = height(&me.post("/api/v1/simulate", &fine).await.ok()).unwrap();
        assert_eq!(drawn, predicted, "drawn with cells of {step_mm} mm");
    }
    let mut painted = ask.clone();
    painted["clay"] = clay["clay"].clone();
    let board = height(&me.post("/api/v1/simulate", &painted).await.ok()).unwrap();
    assert_eq!(board, predicted, "under Clay");
    let method = json!({ "name": "As planned", "steps": steps });
    me.post("/api/v1/methods", &method).await.ok();
    let all = me.get(&format!("/api/v1/blades/{next}/methods")).await.ok();
    let mine = all["methods"]
        .as_array()
        .unwrap()
        .iter()
        .find(|m| m["name"] == "As planned")
        .unwrap();
    assert_eq!(
        mine["compared"]["hamon_mm"].as_f64().unwrap(),
        predicted,
        "among the methods"
    );
}

/// Point 10: where physics sees no line and the smith records one, that is learned as well.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_line_that_physics_does_not_see_is_learned(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let next = me.blade("W2").await;
    let steps = me.get(&format!("/api/v1/blades/{next}/plan")).await.ok()["steps"].clone();
    let mut ask = predict_body(&next);
    ask["steps"] = steps.clone();
    let before = me.post("/api/v1/predict", &ask).await.ok();
    assert!(before["hamon"]["none"].is_object(), "{}", before["hamon"]);
    for _ in 0..4 {
        let id = me.blade("W2").await;
        let firing = me.start(&id).await;
        me.finish(&firing).await;
        let line = json!({ "found": { "kind": "line", "places": [[40, 7], [60, 7], [80, 7]] } });
        me.post(&format!("/api/v1/blades/{id}/findings"), &line)
            .await
            .ok();
    }
    let after = me.post("/api/v1/predict", &ask).await.ok();
    assert_ne!(after["hamon"], before["hamon"]);
}

/// Point 11: a file alone makes a diagnosis, and what the prediction said against it is told.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_file_that_bites_is_read_by_the_diagnosis(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("1084").await;
    let firing = me.start(&id).await;
    me.finish(&firing).await;
    let path = format!("/api/v1/blades/{id}/diagnosis?symptom=soft");
    let unread = me.get(&path).await.ok();
    let findings = format!("/api/v1/blades/{id}/findings");
    let none = json!({ "found": { "kind": "file", "stage": "tempered" } });
    assert_eq!(me.post(&findings, &none).await.status, 422);
    let bites = json!({ "found": { "kind": "file", "stage": "tempered", "high_hrc": 52 } });
    me.post(&findings, &bites).await.ok();
    let read = me.get(&path).await.ok();
    assert_ne!(read["causes"], unread["causes"]);
    assert_eq!(read["contradicts"]["said"], "hard_enough", "{read:#}");
    assert!(read["contradicts"]["predicted"]["low"].as_f64() > Some(52.0));
}
