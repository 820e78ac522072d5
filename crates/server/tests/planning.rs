//! What happens before the fire, through the API: making ready, clay, methods, bars, trials.

mod support;

use serde_json::{Value, json};
use sqlx::PgPool;
use support::{Asker, blade, question, server};

/// The blade as it is stored, as a body that changes it.
fn body_of(stored: &Value) -> Value {
    let mut body = blade(stored["steel"].as_str().unwrap());
    for field in [
        "mark",
        "name",
        "shape",
        "length_mm",
        "width_mm",
        "spine_mm",
        "edge_mm",
        "version",
    ] {
        body[field] = stored[field].clone();
    }
    body
}

fn predicted(id: &str) -> Value {
    json!({ "blade_id": id, "steps": question()["steps"] })
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_blade_is_made_ready_and_every_prediction_knows(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("1084").await;
    let path = format!("/api/v1/blades/{id}");
    let stored = me.get(&path).await.ok();
    assert_eq!(stored["ready"]["order"], "grind_first");
    let plain = me.post("/api/v1/predict", &predicted(&id)).await.ok();
    assert_eq!(plain["checks"].as_array().unwrap().len(), 8);

    let mut body = body_of(&stored);
    body["ready"] = json!({ "outline": [[-50, 8], [-50, 20], [0, 24], [140, 24], [150, 10], [130, 0], [0, 0]],
        "bevels": [{ "x_mm": 0, "left_mm": 18, "right_mm": 12 }], "protection": "foil", "beside": 3,
        "checks": { "scratches_out": false, "degreased": true } });
    let changed = me.put(&path, &body).await.ok();
    assert_eq!(changed["length_mm"], 150.0);
    assert_eq!(changed["width_mm"], 24.0);
    assert_eq!(changed["outline"].as_array().unwrap().len(), 7);
    let now = me.post("/api/v1/predict", &predicted(&id)).await.ok();
    assert!(now["decarburization_mm"].as_f64() < plain["decarburization_mm"].as_f64());
    assert!(now["crack"]["probability"].as_f64() > plain["crack"]["probability"].as_f64());
    assert!(now["soak"]["ready_after_s"].as_f64() > plain["soak"]["ready_after_s"].as_f64());
    let standing = |check: &str| {
        let all = now["checks"].as_array().unwrap();
        all.iter().find(|c| c["check"] == check).unwrap()["standing"].clone()
    };
    assert_eq!(standing("scratches_out"), "bad");
    assert_eq!(standing("bevels_match"), "bad");
    assert_eq!(standing("degreased"), "good");
    assert_eq!(standing("mark_stamped"), "open");

    // Left out, it stays as it was; a body of its own overrides it.
    let mut other = body_of(&changed);
    other["name"] = json!("Renamed");
    let renamed = me.put(&path, &other).await.ok();
    assert_eq!(renamed["ready"], changed["ready"]);
    let mut bare = predicted(&id);
    bare["ready"] = json!({});
    let bare = me.post("/api/v1/predict", &bare).await.ok();
    assert!(bare["decarburization_mm"].as_f64() > now["decarburization_mm"].as_f64());
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_cannot_be_ready_is_named(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let mut body = blade("1084");
    body["ready"] = json!({ "outline": [[0, 0], [10, 30], [10, 0], [0, 30]] });
    assert_eq!(
        me.post("/api/v1/blades", &body).await.fields(),
        ["ready.outline"]
    );
    body["ready"] = json!({ "beside": 70, "taper": [{ "x_mm": 0, "spine_mm": 90, "edge_mm": 1 }] });
    let answer = me.post("/api/v1/blades", &body).await;
    assert_eq!(answer.fields(), ["ready.taper[0].spine_mm", "ready.beside"]);
    body["ready"] = json!({ "checks": { "polished": true } });
    let answer = me.post("/api/v1/blades", &body).await;
    assert_eq!(answer.status, 422, "{answer:?}");
    assert!(answer.fields()[0].starts_with("ready.checks"), "{answer:?}");
}

#[sqlx::test(migrations = "../store/migrations")]
async fn clay_is_kept_with_the_blade_and_with_its_firing(pool: PgPool) {
    let client = server(pool.clone()).await;
    let me = Asker::shop(&client, "north").await;
    let id = me.blade("W2").await;
    let path = format!("/api/v1/blades/{id}/clay");
    assert_eq!(me.get(&path).await.ok()["version"], 0);
    let bare = me.post("/api/v1/predict", &predicted(&id)).await.ok();
    let clay = json!({ "left": { "band": { "from_edge_mm": 8, "thickness_mm": 3 } } });
    let first = json!({ "clay": clay, "wanted": [[10, 8], [100, 9]], "version": 0 });
    let saved = me.put(&path, &first).await.ok();
    assert_eq!(saved["version"], 1);
    assert_eq!(saved["wanted"][1][1], 9.0);
    let covered = me.post("/api/v1/predict", &predicted(&id)).await.ok();
    assert_ne!(covered["hamon"], bare["hamon"]);

    // Somebody else's clay is never painted over.
    let stale = me.put(&path, &first).await;
    assert_eq!(stale.status, 409);
    assert_eq!(stale.body["current"]["version"], 1);
    let bad = json!({ "clay": { "left": { "band": { "from_edge_mm": 8, "thickness_mm": 30 } } },
        "wanted": [[10, 8], [5, 9]], "version": 1 });
    let answer = me.put(&path, &bad).await;
    assert_eq!(answer.fields(), ["clay.left.band.thickness_mm", "wanted"]);

    // The firing keeps the clay it had, whatever is painted after.
    let firing = me.start(&id).await;
    me.finish(&firing).await;
    let next = json!({ "clay": {}, "version": 1 });
    me.put(&path, &next).await.ok();
    let made: Value = sqlx::query_scalar("select made from firing")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(made["clay"]["left"]["band"]["thickness_mm"], 3.0);

    // And it all goes out and comes in.
    let file = me.get("/api/v1/export").await.ok();
    let other = Asker::shop(&client, "south").await;
    other.post("/api/v1/import", &file).await.ok();
    let again = other.get("/api/v1/export").await.ok();
    assert_eq!(again["blades"][0]["clay"], file["blades"][0]["clay"]);
    assert_eq!(again["blades"][0]["ready"], file["blades"][0]["ready"]);
    let made = |f: &Value| f["blades"][0]["plans"][0]["firing"]["made"].clone();
    assert_eq!(made(&again), made(&file));
    assert!(made(&file)["clay"].is_object());
}
