//! What is found of a blade at the fire, through the API and in a browser: kept as a finding of that moment, with what it
//! asks for now, and taken back as one.

use crate::support;

use serde_json::{Value, json};
use sqlx::PgPool;
use support::browser::Stage;
use support::process::Server;
use support::{Asker, blade, question, server};
use uuid::Uuid;

fn path(firing: &Value) -> String {
    format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap())
}

fn found(what: &Value) -> Value {
    json!({ "id": Uuid::now_v7(), "kind": "found", "found": what })
}

/// Confirms everything up to and with the quench.
async fn quenched(me: &Asker<'_>, firing: &Value) {
    let actions = firing["actions"].as_array().unwrap();
    let last = actions
        .iter()
        .position(|a| a["mark"] == "quenched")
        .unwrap();
    for action in 0..=last {
        let body = json!({ "kind": "confirm", "action": action });
        me.post(&path(firing), &body).await.ok();
    }
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_is_found_is_a_finding_and_asks_for_something(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let other = Asker::shop(&client, "south").await;
    let id = me.blade("1084").await;
    let firing = me.start(&id).await;
    let file = |hrc: f64, warm: bool| json!({ "kind": "file", "stage": "as_quenched", "high_hrc": hrc, "warm": warm });
    // Before the quench nothing can have come of it; how straight it was can.
    let early = me.post(&path(&firing), &found(&file(50.0, false))).await;
    assert_eq!((early.status, early.fields()), (409, vec!["found"]));
    let before = json!({ "kind": "straight", "after": "forging", "places": [[60, 0.4]] });
    me.post(&path(&firing), &found(&before)).await.ok();
    quenched(&me, &firing).await;
    let warm = me
        .post(&path(&firing), &found(&file(50.0, true)))
        .await
        .ok();
    assert_eq!(
        warm["now"][1],
        json!({ "code": "file_again", "warm": true, "skin_on": false })
    );
    let soft = found(&file(50.0, false));
    let cold = me.post(&path(&firing), &soft).await.ok();
    assert_eq!(cold["now"][2]["code"], "harden_again");
    // The same once more from another device is the same.
    let again = me.post(&path(&firing), &soft).await.ok();
    assert_eq!(again["state"]["found"].as_array().unwrap().len(), 3);
    let bowed = json!({ "kind": "straight", "after": "quench", "places": [[60, -3.0]] });
    let told = me.post(&path(&firing), &found(&bowed)).await.ok();
    assert_eq!(told["now"][3]["code"], "straighten");
    assert!(told["now"][3]["shim_mm"].as_f64().unwrap() > 1.0);
    let list = format!("/api/v1/blades/{id}/findings");
    let all = me.get(&list).await.ok();
    assert_eq!(all.as_array().unwrap().len(), 4);
    // Taken back it is withdrawn, and asks for nothing.
    let undo = json!({ "kind": "undo", "event": soft["id"] });
    let back = me.post(&path(&firing), &undo).await.ok();
    assert_eq!(back["state"]["found"].as_array().unwrap().len(), 3);
    let withdrawn: Vec<Value> = me.get(&list).await.ok().as_array().unwrap().clone();
    let gone = withdrawn.iter().filter(|f| !f["withdrawn_at"].is_null());
    assert_eq!(
        gone.map(|f| f["id"].clone()).collect::<Vec<_>>(),
        [soft["id"].clone()]
    );
    assert_eq!(other.post(&path(&firing), &found(&bowed)).await.status, 404);
    // A crack found days after the firing was closed is dated and placed.
    me.post(&path(&firing), &json!({ "kind": "close" }))
        .await
        .ok();
    let crack = json!({ "kind": "crack", "cracked": true, "place": [120, 0] });
    let late = me.post(&path(&firing), &found(&crack)).await.ok();
    assert_eq!(
        late["now"].as_array().unwrap().last().unwrap()["code"],
        "stop"
    );
    // Out and in again it is there once.
    let exported = me.get("/api/v1/export").await.ok();
    let third = Asker::shop(&client, "third").await;
    third.post("/api/v1/import", &exported).await.ok();
    let moved = third.get("/api/v1/blades").await.ok();
    let moved = moved["blades"].as_array().or(moved.as_array()).unwrap()[0]["id"].clone();
    let findings = third
        .get(&format!(
            "/api/v1/blades/{}/findings",
            moved.as_str().unwrap()
        ))
        .await
        .ok();
    assert_eq!(findings.as_array().unwrap().len(), 5);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_cannot_be_found_is_named(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("1084").await;
    let firing = me.start(&id).await;
    quenched(&me, &firing).await;
    for (what, field) in [
        (json!({ "kind": "twist", "degrees": 400 }), "found.degrees"),
        (json!({ "kind": "skin_off", "off_mm": -1 }), "found.off_mm"),
        (json!({ "kind": "as_received", "hrc": 90 }), "found.hrc"),
        (
            json!({ "kind": "temper_colour", "colour": "plaid" }),
            "found.colour",
        ),
        (
            json!({ "kind": "crack", "cracked": true, "place": [9000, 0] }),
            "found.place[0]",
        ),
        (
            json!({ "kind": "straight", "after": "quench", "places": [] }),
            "found.places",
        ),
    ] {
        let answer = me.post(&path(&firing), &found(&what)).await;
        assert_eq!(
            (answer.status, answer.fields()),
            (422, vec![field]),
            "{what}"
        );
    }
    let empty = json!({ "kind": "found" });
    assert_eq!(me.post(&path(&firing), &empty).await.fields(), ["found"]);
    for what in [
        json!({ "kind": "heard", "sound": "ping" }),
        json!({ "kind": "twist", "degrees": -4 }),
        json!({ "kind": "line", "second": true, "places": [[60, 9]] }),
        json!({ "kind": "temper_colour", "colour": "straw", "light": "daylight" }),
    ] {
        me.post(&path(&firing), &found(&what)).await.ok();
    }
}

/// On a phone at the fire: a file while warm and again when cold, a bow, and one taken back.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_file_and_a_bow_are_answered_at_the_fire(pool: PgPool) {
    let server = Server::over(&pool).await;
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let cookie = server.demo();
    let stage = Stage::browser(server, profile, 390, 844).await;
    stage.demo().await;
    let ask = |method: &str, path: &str, body: &Value| {
        stage.server.json(method, path, &cookie, body).unwrap()
    };
    let made = ask("POST", "/api/v1/blades", &blade("1084"));
    let id = made["id"].as_str().unwrap();
    let plan = format!("/api/v1/blades/{id}/plan");
    let version = ask("GET", &plan, &Value::Null)["version"].clone();
    let saved = ask(
        "PUT",
        &plan,
        &json!({ "steps": question()["steps"], "version": version }),
    );
    let start = json!({ "plan_version": saved["version"] });
    let firing = ask("POST", &format!("/api/v1/blades/{id}/firings"), &start);
    let events = path(&firing);
    let actions = firing["actions"].as_array().unwrap();
    let last = actions
        .iter()
        .position(|a| a["mark"] == "quenched")
        .unwrap();
    for action in 0..=last {
        ask(
            "POST",
            &events,
            &json!({ "kind": "confirm", "action": action }),
        );
    }
    stage
        .go(&format!("/firings/{}", firing["id"].as_str().unwrap()))
        .await;
    stage.click("button", "Found").await;
    stage.click("button", "Hard?").await;
    stage.click("button", "still warm").await;
    stage.click("button", "50 bites").await;
    stage
        .see_text("div", "That says nothing yet: file again cold")
        .await;
    stage.click("button", "Found").await;
    stage.click("button", "Hard?").await;
    // Its skin is off by now.
    stage.click("button", "with its skin on").await;
    stage.click("button", "50 bites").await;
    stage.see_text("div", "Softer than it should be").await;
    stage.click("button", "Take it back").await;
    stage.see_text("div", "That says nothing yet").await;
    stage.click("button", "Found").await;
    stage.click("button", "by the tip").await;
    stage.click("button", "3.0 mm left").await;
    stage.see_text("div", "In the temper clamp it").await;
    // One press puts the clamp into the plan as it goes on.
    stage.click("button", "Clamp it so in the temper").await;
    stage.see_text("span", "past straight").await;
    let findings = ask(
        "GET",
        &format!("/api/v1/blades/{id}/findings"),
        &Value::Null,
    );
    let kept: Vec<&Value> = findings
        .as_array()
        .unwrap()
        .iter()
        .filter(|f| f["withdrawn_at"].is_null())
        .map(|f| &f["found"]["kind"])
        .collect();
    assert_eq!(kept, ["file", "straight"]);
    stage.end().await;
}

/// A firing that was begun by mistake leaves nothing; one that was broken off leaves what was pressed.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_firing_is_begun_by_mistake_or_broken_off(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("1084").await;
    let steps = me.get(&format!("/api/v1/blades/{id}/plan")).await.ok()["steps"].clone();
    let firing = me.start(&id).await;
    me.post(&path(&firing), &json!({ "kind": "confirm", "action": 0 }))
        .await
        .ok();
    let end = |how: &str| json!({ "kind": "close", "end": how });
    let odd = me.post(&path(&firing), &end("by lightning")).await;
    assert_eq!((odd.status, odd.fields()), (422, vec!["end"]));
    let ended = me.post(&path(&firing), &end("mistake")).await.ok();
    assert_eq!(ended["done"]["steps"], json!([]));
    let stands = me.get(&format!("/api/v1/blades/{id}")).await.ok();
    assert!(stands["firing_id"].is_null(), "{stands}");
    // The plan is there to be changed, as it was.
    let plan = me.get(&format!("/api/v1/blades/{id}/plan")).await.ok();
    assert!(plan["frozen_at"].is_null());
    assert_eq!(plan["steps"], steps);
    // The record says so.
    let all = me.get(&format!("/api/v1/blades/{id}/firings")).await.ok();
    assert_eq!(all[0]["state"]["end"], "mistake");

    let firing = me.start(&id).await;
    quenched(&me, &firing).await;
    // It happened: that is no mistake any more.
    let late = me.post(&path(&firing), &end("mistake")).await;
    assert_eq!((late.status, late.fields()), (409, vec!["end"]));
    let ended = me.post(&path(&firing), &end("abandoned")).await.ok();
    let kinds: Vec<&Value> = ended["done"]["steps"]
        .as_array()
        .unwrap()
        .iter()
        .map(|s| &s["kind"])
        .collect();
    assert_eq!(kinds.last().unwrap().as_str(), Some("quench"), "{kinds:?}");
    let doubts = ended["done"]["doubts"].to_string();
    assert!(!doubts.contains("not_pressed"), "{doubts}");
    let twice = me.post(&path(&firing), &end("abandoned")).await;
    assert_eq!((twice.status, twice.fields()), (409, vec!["kind"]));
    let stands = me.get(&format!("/api/v1/blades/{id}")).await.ok();
    assert!(!stands["untempered_since"].is_null(), "hard as it is");
    // What it was quenched to is read and learned from, though the tempers never came.
    let read = json!({ "stage": "as_quenched", "values": [64.0, 64.5, 64.0] });
    me.post(&format!("/api/v1/blades/{id}/readings"), &read)
        .await
        .ok();
    assert_eq!(me.get("/api/v1/lessons").await.ok()["records"], 1);
    // Out and in again both end as they did.
    let third = Asker::shop(&client, "third").await;
    let exported = me.get("/api/v1/export").await.ok();
    third.post("/api/v1/import", &exported).await.ok();
    let again = third.get("/api/v1/export").await.ok().to_string();
    assert!(again.contains("\"mistake\"") && again.contains("\"abandoned\""));
}

/// On a phone: begun by mistake, and taken for that.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_mistake_is_said_at_the_fire(pool: PgPool) {
    let server = Server::over(&pool).await;
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let cookie = server.demo();
    let stage = Stage::browser(server, profile, 390, 844).await;
    stage.demo().await;
    let ask = |method: &str, path: &str, body: &Value| {
        stage.server.json(method, path, &cookie, body).unwrap()
    };
    let made = ask("POST", "/api/v1/blades", &blade("1084"));
    let id = made["id"].as_str().unwrap();
    let version = ask("GET", &format!("/api/v1/blades/{id}/plan"), &Value::Null)["version"].clone();
    let start = json!({ "plan_version": version });
    let firing = ask("POST", &format!("/api/v1/blades/{id}/firings"), &start);
    stage
        .go(&format!("/firings/{}", firing["id"].as_str().unwrap()))
        .await;
    stage.click("button", "In the fire").await;
    stage.click("button", "It went otherwise").await;
    stage.click("button", "Stop here").await;
    stage.click("button", "Begun by mistake").await;
    stage.see_text("div", "nothing is learned from this").await;
    stage.click("button", "Yes, it was a mistake").await;
    stage.see_text("h1", "Begun by mistake").await;
    stage.go(&format!("/blades/{id}/plan")).await;
    stage.see_text("button", "Double").await;
    stage.end().await;
}
