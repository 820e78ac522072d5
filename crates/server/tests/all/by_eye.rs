//! Heats judged by eye through the API and in a browser: a plan by colour, looks beside a thermocouple that teach an eye,
//! and what another shop sees of it.

use crate::support;

use serde_json::{Value, json};
use sqlx::PgPool;
use support::browser::Stage;
use support::process::Server;
use support::{Asker, blade, server};

fn cherry(light: &str) -> Value {
    json!({ "sign": "colour", "colour": "cherry", "light": light })
}

fn steps(by: &Value) -> Value {
    json!([
        { "kind": "normalize", "by": { "sign": "shadow_passed" }, "hold_s": 60 },
        { "kind": "austenitize", "by": by, "soak_s": 120, "fire": "forge" },
        { "kind": "quench", "stages": [{ "medium": "fast_oil" }] },
        { "kind": "temper", "temperature_c": 205, "hold_s": 7200, "times": 2 }
    ])
}

async fn eye(me: &Asker<'_>, name: &str) -> String {
    let body = json!({ "kind": "eye", "name": name });
    me.post("/api/v1/stations", &body).await.id()
}

async fn save(me: &Asker<'_>, id: &str, by: &Value) -> support::Answer {
    let path = format!("/api/v1/blades/{id}/plan");
    let version = me.get(&path).await.ok()["version"].clone();
    let body = json!({ "steps": steps(by), "version": version });
    me.put(&path, &body).await
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_plan_by_eye_is_as_hot_as_it_means_for_the_steel(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let (rich, lean) = (me.blade("w2").await, me.blade("1050").await);
    let magnet = json!({ "sign": "magnet_lets_go" });
    let mut heats = Vec::new();
    for id in [&rich, &lean] {
        let saved = save(&me, id, &magnet).await.ok();
        assert_eq!(saved["steps"][1]["by"], magnet);
        heats.push(saved["steps"][0]["temperature_c"].as_f64().unwrap());
        let means = me.get(&format!("/api/v1/eyes?blade={id}")).await.ok();
        let about = means["signs"][0]["about"]["middle_c"].as_f64().unwrap();
        let heat = saved["steps"][1]["temperature_c"].as_f64().unwrap();
        assert!((heat - about).abs() <= 0.5, "{heat} {about}");
    }
    // The shadow passes in a lean steel when its ferrite is gone.
    assert!(heats[1] > heats[0] + 15.0, "{heats:?}");
    let firing = me.start(&rich).await;
    let told = firing["prediction"]["reasons"].to_string();
    assert!(
        told.contains("heat_by_eye") && told.contains("fire_uneven"),
        "{told}"
    );
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_is_no_sighting_is_refused_by_field(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("1084").await;
    let nobodys = "01a226bd-bab8-7024-9a15-25c035ee20d3";
    for (by, field) in [
        (json!({ "sign": "colour", "colour": "cherry" }), "light"),
        (
            json!({ "sign": "colour", "colour": "mauve", "light": "dim" }),
            "colour",
        ),
        (json!({ "sign": "nose" }), "sign"),
        (
            json!({ "sign": "colour", "colour": "cherry", "light": "dim", "eye_id": nobodys }),
            "eye_id",
        ),
    ] {
        let answer = save(&me, &id, &by).await;
        assert_eq!(answer.fields(), [format!("steps[1].by.{field}")]);
        assert_eq!(answer.status, 422);
    }
}

#[sqlx::test(migrations = "../store/migrations")]
async fn looks_beside_a_thermocouple_teach_an_eye_and_nobody_elses(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let other = Asker::shop(&client, "south").await;
    let (mine, theirs) = (eye(&me, "Tove").await, eye(&other, "Odd").await);
    let id = me.blade("1084").await;
    let mut by = cherry("dark");
    by["eye_id"] = json!(mine);
    save(&me, &id, &by).await.ok();
    let firing = me.start(&id).await;
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let said = |by: &Value, celsius: f64| json!({ "kind": "say", "step": 1, "by": by, "temperature_c": celsius });
    let mut foreign = cherry("dark");
    foreign["eye_id"] = json!(theirs);
    assert_eq!(
        me.post(&path, &said(&foreign, 760.0)).await.fields(),
        ["by.eye_id"]
    );
    // It says cherry where steel is forty degrees hotter than the name.
    let found = async || me.get("/api/v1/eyes").await.ok()["eyes"][0]["eye"].clone();
    assert_eq!(found().await["looks"], 0);
    let usual = me.get("/api/v1/eyes").await.ok()["eyes"][0]["sees"]
        .as_array()
        .unwrap()
        .iter()
        .find(|s| s["colour"] == "cherry" && s["light"] == "dark")
        .unwrap()["middle_c"]
        .as_f64()
        .unwrap();
    let event = "01a226bd-bab8-7024-9a15-25c035ee2aaa";
    let mut last = said(&by, usual + 40.0);
    last["id"] = json!(event);
    for off in [38.0, 43.0, 41.0] {
        me.post(&path, &said(&by, usual + off)).await.ok();
    }
    me.post(&path, &last).await.ok();
    let four = found().await;
    assert_eq!(four["looks"], 4);
    assert!(four["offset_c"].as_f64().unwrap() > 25.0, "{four}");
    // One that was taken back was not so; the thermocouple counts for what was done.
    let undo = json!({ "kind": "undo", "event": event });
    me.post(&path, &undo).await.ok();
    assert_eq!(found().await["looks"], 3);
    let now = me
        .get(&format!(
            "/api/v1/firings/{}",
            firing["id"].as_str().unwrap()
        ))
        .await
        .ok();
    let done = &now["done"]["steps"][1];
    assert!(done["by"].is_null(), "{done}");
    assert_eq!(done["temperature_c"].as_f64(), Some(usual + 41.0));
    let nothing = other.get("/api/v1/eyes").await.ok();
    assert_eq!(nothing["eyes"][0]["eye"]["looks"], 0);
    // Another shop's blade tells nothing.
    assert_eq!(
        other.get(&format!("/api/v1/eyes?blade={id}")).await.status,
        404
    );
    assert_eq!(me.get("/api/v1/eyes?blade=soon").await.fields(), ["blade"]);
    // Out and into another shop: the eye and what taught it go along.
    let file = me.get("/api/v1/export").await.ok();
    let third = Asker::shop(&client, "third").await;
    third.post("/api/v1/import", &file).await.ok();
    let moved = third.get("/api/v1/eyes").await.ok()["eyes"][0]["eye"].clone();
    assert_eq!(moved, found().await);
}

/// A heat that was planned by eye and seen otherwise is as hot as it was seen to be.
#[sqlx::test(migrations = "../store/migrations")]
async fn what_was_seen_counts_where_no_instrument_said_more(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("1084").await;
    save(&me, &id, &cherry("dim")).await.ok();
    let firing = me.start(&id).await;
    let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
    let seen = json!({ "sign": "colour", "colour": "bright_cherry", "light": "dim" });
    let said = json!({ "kind": "say", "step": 1, "by": seen });
    let now = me.post(&path, &said).await.ok();
    assert_eq!(now["done"]["steps"][1]["by"]["colour"], "bright_cherry");
    assert_eq!(now["done"]["steps"][1]["temperature_c"], 843.0);
    let bad = json!({ "kind": "say", "step": 1, "by": { "sign": "colour", "colour": "cherry" } });
    assert_eq!(me.post(&path, &bad).await.fields(), ["by.light"]);
}

/// At the fire on a phone: the heat by eye is planned, seen, taken back and seen again.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_forge_heat_by_eye_at_the_fire(pool: PgPool) {
    let server = Server::over(&pool).await;
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let cookie = server.demo();
    let stage = Stage::browser(server, profile, 390, 844).await;
    stage.demo().await;
    let made = stage
        .server
        .json("POST", "/api/v1/blades", &cookie, &blade("1084"))
        .unwrap();
    let id = made["id"].as_str().unwrap();
    let plan = format!("/api/v1/blades/{id}/plan");
    let now = stage
        .server
        .json("GET", &plan, &cookie, &Value::Null)
        .unwrap();
    let body = json!({ "steps": steps(&cherry("dim")), "version": now["version"] });
    let saved = stage.server.json("PUT", &plan, &cookie, &body).unwrap();
    let start = json!({ "plan_version": saved["version"] });
    let firing = stage
        .server
        .json(
            "POST",
            &format!("/api/v1/blades/{id}/firings"),
            &cookie,
            &start,
        )
        .unwrap();
    stage
        .go(&format!("/firings/{}", firing["id"].as_str().unwrap()))
        .await;
    stage.see_text("span", "the shadow has passed").await;
    stage.click("button", "In the fire").await;
    stage.click("button", "Colour, magnet").await;
    stage.click("button", "in the dark").await;
    stage.click("button", "bright cherry").await;
    stage
        .see_text("span", "Kept: bright cherry in the dark")
        .await;
    stage.click("button", "Take it back").await;
    stage.click("button", "Colour, magnet").await;
    stage.click("button", "a shade past the magnet").await;
    stage
        .see_text("span", "Kept: a shade past the magnet")
        .await;
    let path = format!("/api/v1/firings/{}", firing["id"].as_str().unwrap());
    let arrived = async |is: &dyn Fn(&Value) -> bool| {
        for _ in 0..100 {
            let now = stage
                .server
                .json("GET", &path, &cookie, &Value::Null)
                .unwrap();
            if is(&now) {
                return;
            }
            tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        }
        panic!("what was pressed did not arrive");
    };
    arrived(&|now| now["done"]["steps"][0]["by"]["sign"] == "past_magnet").await;

    // It was not hot enough all along: back into the fire, and judged again.
    stage.click("button", "At heat").await;
    stage.click("button", "Out to cool").await;
    stage.click("button", "press again").await;
    stage.click("button", "It went otherwise").await;
    stage.click("button", "Normalize once more").await;
    stage.see_text("h1", "Normalize 1 of 2").await;
    stage.click("button", "In the fire").await;
    stage.see_text("h1", "Normalize 2 of 2").await;
    stage.click("button", "Colour, magnet").await;
    stage.click("button", "in the dark").await;
    stage.click("button", "bright cherry").await;
    stage
        .see_text("span", "Kept: bright cherry in the dark")
        .await;
    arrived(&|now| {
        let steps = now["done"]["steps"].as_array().unwrap();
        let heats = steps.iter().filter(|s| s["kind"] == "normalize");
        let seen: Vec<_> = heats.map(|s| s["by"]["sign"].clone()).collect();
        seen == ["past_magnet", "colour"]
    })
    .await;
    stage.end().await;
}
