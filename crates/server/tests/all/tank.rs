//! What a tank of the shop does: by its kind, or by the cooling curve of a probe in it.

use crate::support;

use serde_json::{Value, json};
use sqlx::PgPool;
use support::{Asker, server};
use vatten_core::material::medium::Medium;
use vatten_core::process::heat_transfer::{Agitation, Film};
use vatten_core::quantity::units::{Celsius, Quantity};
use vatten_core::simulation::probe::trace;

/// The file of a logger: a probe in a slow oil, as the tables have it, in °F or °C.
fn logged(fahrenheit: bool, left_out: Option<(f64, f64)>) -> String {
    let film = Film::new(
        Medium::SlowOil,
        Celsius::clamped(50.0),
        Agitation::default(),
    );
    let unit = if fahrenheit { "F" } else { "C" };
    let mut text = format!("Time (s);Temperature ({unit})\n");
    for m in trace(&film, 850.0) {
        if left_out.is_some_and(|(low, high)| m.centre_c > low && m.centre_c < high) {
            continue;
        }
        let shown = if fahrenheit {
            1.8 * m.centre_c + 32.0
        } else {
            m.centre_c
        };
        text.push_str(&format!("{:.2};{shown:.2}\n", m.time_s));
    }
    text
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_tank_that_was_measured_quenches_as_it_was(pool: PgPool) {
    let client = server(pool).await;
    let me = Asker::shop(&client, "north").await;
    let tank = json!({ "kind": "tank", "name": "Long tank", "medium": "fast_oil", "litres": 15,
        "filled_at": "2026-02-01T00:00:00Z" });
    let made = me.post("/api/v1/stations", &tank).await.ok();
    assert_eq!(made["filled_at"], "2026-02-01T00:00:00Z");
    let (id, path) = (
        made["id"].as_str().unwrap(),
        format!("/api/v1/stations/{}/curve", made["id"].as_str().unwrap()),
    );
    let blade = me.blade("1095").await;
    let predicted = async |tank: Option<&str>| {
        let body = json!({ "blade_id": blade, "steps": [
            { "kind": "austenitize", "temperature_c": 800, "soak_s": 300 },
            { "kind": "quench", "stages": [{ "medium": "fast_oil", "tank_id": tank }] },
        ] });
        me.post("/api/v1/predict", &body).await
    };
    let reach = |p: &Value| p["through"]["critical_thickness_mm"].as_f64().unwrap();
    let kind = reach(&predicted(None).await.ok());

    for (body, field) in [
        (
            json!({ "text": logged(false, Some((400.0, 600.0))), "version": 1 }),
            "text",
        ),
        (json!({ "text": "", "version": 1 }), "text"),
        (json!({ "text": "a,b\n1,2\n", "version": 1 }), "text"),
        (
            json!({ "text": logged(false, None), "bath_c": 400, "version": 1 }),
            "bath_c",
        ),
    ] {
        assert_eq!(me.put(&path, &body).await.fields(), [field]);
    }
    let good = json!({ "text": logged(true, None), "version": 1 });
    let kept = me.put(&path, &good).await.ok();
    let fastest = kept["curve"]["measured"]["max_rate_c_s"].as_f64().unwrap();
    // As slow oils are published (media.csv: 40 to 55 °C/s).
    assert!((40.0..=55.0).contains(&fastest), "{}", kept["curve"]);
    assert_eq!(me.put(&path, &good).await.status, 409);

    // The only measured tank of that oil: a plan that names none goes to it too.
    let measured = reach(&predicted(None).await.ok());
    assert!(measured < 0.8 * kind, "{measured} {kind}");
    assert_eq!(reach(&predicted(Some(id)).await.ok()), measured);
    let nobodys = "01a226bd-bab8-7024-9a15-25c035ee20d3";
    assert_eq!(
        predicted(Some(nobodys)).await.fields(),
        ["steps[1].stages[0].tank_id"]
    );

    // It goes out and comes in, and a blade's plan with it.
    let plan = format!("/api/v1/blades/{blade}/plan");
    let version = me.get(&plan).await.ok()["version"].clone();
    let steps = json!([{ "kind": "austenitize", "temperature_c": 800, "soak_s": 300 },
        { "kind": "quench", "stages": [{ "medium": "fast_oil", "tank_id": id }] }]);
    let body = json!({ "steps": steps, "version": version });
    me.put(&plan, &body).await.ok();
    let file = me.get("/api/v1/export").await.ok();
    let other = Asker::shop(&client, "south").await;
    other.post("/api/v1/import", &file).await.ok();
    let theirs = other.get("/api/v1/stations").await.ok();
    assert_eq!(theirs[0]["curve"]["nodes"], kept["curve"]["nodes"]);
    let out = other.get("/api/v1/export").await.ok();
    let stage = &out["blades"][0]["plans"][0]["steps"][1]["stages"][0];
    assert_eq!(stage["tank_id"], theirs[0]["id"], "{}", out["blades"][0]);
    assert_eq!(stage["own"], Value::Null);

    // A tank has to be one.
    let oven = json!({ "kind": "oven", "name": "Small oven" });
    let oven = me.post("/api/v1/stations", &oven).await.id();
    let refused = predicted(Some(&oven)).await;
    assert_eq!(refused.fields(), ["steps[1].stages[0].tank_id"]);

    // A firing keeps what the tank did then.
    let firing = me.start(&blade).await;
    let forgotten = me
        .ask(
            rocket::http::Method::Delete,
            &format!("{path}?version={}", kept["version"]),
            None,
        )
        .await
        .ok();
    assert_eq!(forgotten["curve"], Value::Null);
    assert!((reach(&predicted(None).await.ok()) - kind).abs() < 1e-9);
    let fired = firing["prediction"].clone();
    assert!((reach(&fired) - measured).abs() < 1e-9);

    // Only a bath is measured, and other stuff in the tank is not what was measured.
    let kiln = json!({ "kind": "kiln", "name": "Kiln" });
    let kiln = me.post("/api/v1/stations", &kiln).await.id();
    let body = json!({ "text": logged(false, None), "version": 1 });
    let at_kiln = format!("/api/v1/stations/{kiln}/curve");
    assert_eq!(me.put(&at_kiln, &body).await.fields(), ["medium"]);
    let again = json!({ "text": logged(false, None), "version": forgotten["version"] });
    let mut now = me.put(&path, &again).await.ok();
    now["medium"] = json!("water");
    let body = json!({ "kind": "tank", "name": "Long tank", "medium": "water", "version": now["version"] });
    let changed = me.put(&format!("/api/v1/stations/{id}"), &body).await.ok();
    assert_eq!(changed["curve"], Value::Null);
}
