//! The hours at the forge in a real browser: a whole day with stand-ins running, a stretch without a server
//! and a battery that dies, a soft blade and its causes, a hamon traced on a photograph.

use crate::support;

use rstest::rstest;
use serde_json::{Value, json};
use sqlx::{ConnectOptions, PgPool};
use std::time::Duration;
use support::browser::Stage;
use support::demo::Demo;
use support::process::Server;
use support::proxy::{Does, Proxy};
use vatten_standins::furnace::Furnace;
use vatten_standins::kiln::Kiln;
use vatten_standins::tester::Tester;

/// A blade with a plan that begins in the kiln; gives its id and its firing, started.
fn fire(server: &Server, cookie: &str, stations: (&Value, &Value), number: usize) -> Value {
    let blade = json!({ "steel": "1084", "shape": "net", "length_mm": 120, "width_mm": 22, "spine_mm": 2.5,
        "edge_mm": 0.8, "purpose": "all_round", "mark": format!("D-{number}"), "name": "Net blade" });
    let made = server
        .json("POST", "/api/v1/blades", cookie, &blade)
        .unwrap();
    let path = format!("/api/v1/blades/{}", made["id"].as_str().unwrap());
    let steps = json!([
        { "kind": "austenitize", "temperature_c": 815, "soak_s": 300, "station_id": stations.0 },
        { "kind": "quench", "stages": [{ "medium": "fast_oil", "bath_c": 50 }] },
        { "kind": "temper", "temperature_c": 205, "hold_s": 7200, "times": 1, "station_id": stations.1 },
    ]);
    let plan = server
        .json("GET", &format!("{path}/plan"), cookie, &Value::Null)
        .unwrap();
    let body = json!({ "steps": steps, "version": plan["version"] });
    let saved = server
        .json("PUT", &format!("{path}/plan"), cookie, &body)
        .unwrap();
    let start = json!({ "plan_version": saved["version"] });
    server
        .json("POST", &format!("{path}/firings"), cookie, &start)
        .unwrap()
}

/// A press that ends a hold long before its time: it is asked about once, and meant.
async fn press_early(stage: &Stage, button: &str) {
    stage.click("button", button).await;
    stage.click("button", "press again").await;
}

fn state(server: &Server, cookie: &str, firing: &str) -> Value {
    let path = format!("/api/v1/firings/{firing}");
    server.json("GET", &path, cookie, &Value::Null).unwrap()["state"].clone()
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_whole_day_with_six_blades(pool: PgPool) {
    let (kiln, oven) = (
        Kiln::new(Furnace::at_heat(815.0), 20.0),
        Kiln::new(Furnace::at_heat(205.0), 20.0),
    );
    let tester = Tester::default();
    let (kiln_at, serves) = kiln.serve(0).await.unwrap();
    rocket::tokio::spawn(serves);
    let (oven_at, serves) = oven.serve(0).await.unwrap();
    rocket::tokio::spawn(serves);
    let (tester_at, serves) = tester.serve(0).await.unwrap();
    rocket::tokio::spawn(serves);
    let ports = [kiln_at.port(), oven_at.port(), tester_at.port()];
    Demo::InWork.copy_to(&pool).await;
    let url = pool.connect_options().to_url_lossy().to_string();
    let server = Server::with(&url, None, Some(ports));
    let cookie = server.demo();
    let of = |kind: &str| server.station(&cookie, kind)["id"].clone();
    let (bench_kiln, kitchen_oven) = (of("kiln"), of("oven"));
    let firings: Vec<Value> = (1..=6)
        .map(|n| fire(&server, &cookie, (&bench_kiln, &kitchen_oven), n))
        .collect();
    let ids: Vec<&str> = firings.iter().map(|f| f["id"].as_str().unwrap()).collect();
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let stage = Stage::browser(server, profile, 390, 844).await;
    stage.demo().await;
    stage.go(&format!("/firings/{}", ids[0])).await;
    stage.see_text("button", "In the fire").await;
    stage.click("button", "One by one").await;
    stage.see_text("button", "Together: 6 blades").await;
    // Six into the kiln at once: it dips, and is seen to be back.
    stage.click("button", "In the fire").await;
    stage.see_text("button", "Back at heat").await;
    kiln.load(0.6);
    stage.see_text("div", "Bench kiln").await;
    stage.see_text("div", "fell to").await;
    stage.see_text("div", "back at heat").await;
    stage.click("button", "Back at heat").await;
    stage.see_text("h1", "Austenitize: soak").await;
    // Blade by blade through the oil; each hangs hard until the oven takes it.
    for id in &ids {
        stage.go(&format!("/firings/{id}")).await;
        press_early(&stage, "In the oil").await;
        stage.click("button", "Out of the bath, cold").await;
        stage.see_text("div", "Hard and untempered").await;
    }
    stage.see_text("button", "Together: 6 blades").await;
    stage.click("button", "In the oven").await;
    stage.click("button", "Oven at heat").await;
    press_early(&stage, "Out to cool").await;
    stage.see_text("h1", "All steps are done").await;
    for id in &ids {
        // What was pressed is on its way, one event after the other.
        let mut last = state(&stage.server, &cookie, id);
        for _ in 0..200 {
            if last["tempered"] == true {
                break;
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
            last = state(&stage.server, &cookie, id);
        }
        assert!(last["tempered"].as_bool().unwrap(), "{id}: {last}");
        // The soak counts from when the kiln was back, for all alike.
        assert_eq!(
            last["confirmed_ms"][1],
            state(&stage.server, &cookie, ids[0])["confirmed_ms"][1]
        );
        stage.go(&format!("/firings/{id}")).await;
        stage.click("button", "Close the firing").await;
        stage.see_text("a", "Readings").await;
    }
    // At the bench each test comes from the tester by itself.
    stage.see_text("div", "The tester is connected").await;
    for reading in [60.9, 61.3, 61.1] {
        tester.press(reading);
        let text = format!("{reading:.1}");
        // It is shown, and taken by hand.
        stage.see_text("li", &text).await;
        stage.click("button", "Take it").await;
        let field = stage.see("#readings").await;
        for _ in 0..100 {
            if field
                .prop("value")
                .await
                .unwrap()
                .is_some_and(|v| v.contains(&text))
            {
                break;
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
        assert!(field.prop("value").await.unwrap().unwrap().contains(&text));
    }
    stage.click("button", "Keep readings").await;
    stage
        .see_text("span", "The next prediction has learned from it")
        .await;
    stage.end().await;
}

/// How many events of each kind the server has of a firing.
fn confirmed(server: &Server, cookie: &str, firing: &str) -> Vec<u64> {
    let path = format!("/api/v1/firings/{firing}/events");
    let all = server.json("GET", &path, cookie, &Value::Null).unwrap();
    let actions = all.as_array().unwrap().iter();
    actions
        .filter_map(|e| e["what"]["action"].as_u64())
        .collect()
}

#[sqlx::test(migrations = "../store/migrations")]
async fn without_a_server_and_with_a_dead_battery_nothing_is_lost(pool: PgPool) {
    Demo::InWork.copy_to(&pool).await;
    let url = pool.connect_options().to_url_lossy().to_string();
    let server = Server::start(&url, None);
    let cookie = server.demo();
    let of = |kind: &str| server.station(&cookie, kind)["id"].clone();
    let firing = fire(&server, &cookie, (&of("kiln"), &of("oven")), 1);
    let id = firing["id"].as_str().unwrap();
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let mut stage = Stage::browser(server, profile, 390, 844).await;
    stage.demo().await;
    // The page is kept on the device before the server goes.
    kept_on_the_device(&stage).await;
    stage.go(&format!("/firings/{id}")).await;
    stage.click("button", "In the fire").await;
    stage.see_text("button", "Back at heat").await;
    // This one is with the server before it goes.
    for _ in 0..200 {
        if confirmed(&stage.server, &cookie, id) == [0] {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    written_up(&stage).await;
    let port = stage.server.port;
    stage.server.group.kill();
    stage.click("button", "Back at heat").await;
    stage.see_text("div", "kept on this device").await;
    press_early(&stage, "In the oil").await;
    stage.see_text("button", "Out of the bath, cold").await;
    stage.see_text("div", "2 kept on this device").await;
    // A reload with the server gone goes on where it was.
    stage.client.refresh().await.unwrap();
    stage.see_text("button", "Out of the bath, cold").await;
    stage.see_text("div", "2 kept on this device").await;
    stage.click("button", "Out of the bath, cold").await;
    stage.see_text("div", "3 kept on this device").await;
    // The battery dies; another start of the same device, and the server is back.
    let (_, profile) = stage.crash();
    let server = Server::start(&url, Some(port));
    assert_eq!(confirmed(&server, &cookie, id), [0]);
    let stage = Stage::browser(server, profile, 390, 844).await;
    stage.go("/").await;
    let signed_out = stage.client.wait().at_most(Duration::from_secs(3));
    if signed_out
        .for_element(fantoccini::Locator::Css("#email"))
        .await
        .is_ok()
    {
        stage.demo().await;
    }
    for _ in 0..200 {
        if confirmed(&stage.server, &cookie, id).len() == 4 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert_eq!(
        confirmed(&stage.server, &cookie, id),
        [0, 1, 2, 3],
        "once each, in order"
    );
    stage.go(&format!("/firings/{id}")).await;
    stage.see_text("div", "Hard and untempered").await;
    stage.end().await;
}

/// Waits until the page itself is kept on the device.
async fn kept_on_the_device(stage: &Stage) {
    for _ in 0..200 {
        let ready = "return !!navigator.serviceWorker.controller && \
                     (window.kept ??= false, caches.match('/').then((p) => { window.kept = !!p }), window.kept)";
        if stage.client.execute(ready, vec![]).await.unwrap() == json!(true) {
            return;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    panic!("the page is not kept");
}

/// Waits until the server has these actions of a firing, once each and in order.
async fn has(stage: &Stage, cookie: &str, firing: &str, actions: &[u64]) {
    for _ in 0..300 {
        if confirmed(&stage.server, cookie, firing) == actions {
            return;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    let all = confirmed(&stage.server, cookie, firing);
    panic!("{all:?} instead of {actions:?}");
}

/// Waits until the device has heard that nothing is left to write up: the server has an event a moment before
/// the browser knows it.
async fn written_up(stage: &Stage) {
    let count = "const done = arguments[arguments.length - 1]; \
                 indexedDB.open('vatten').onsuccess = ({ target: { result: db } }) => { \
                     const all = db.transaction('entries').objectStore('entries').count(); \
                     all.onsuccess = () => { db.close(); done(all.result); }; \
                 };";
    for _ in 0..300 {
        if stage.client.execute_async(count, vec![]).await.unwrap() == json!(0) {
            return;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    panic!("the device still keeps what is written up");
}

/// Point 14: a proxy that answers for a server it does not reach, or that never answers, is a server that is
/// not there now: the firing goes on from the device, also after a reload, and all of it is written up once.
#[rstest]
#[case(Does::BadGateway)]
#[case(Does::Silence)]
#[sqlx::test(migrations = "../store/migrations")]
async fn behind_a_proxy_without_a_server_nothing_is_lost(
    #[ignore] pool: PgPool,
    #[case] does: Does,
) {
    Demo::InWork.copy_to(&pool).await;
    let url = pool.connect_options().to_url_lossy().to_string();
    let server = Server::start(&url, None);
    let cookie = server.demo();
    let of = |kind: &str| server.station(&cookie, kind)["id"].clone();
    let firing = fire(&server, &cookie, (&of("kiln"), &of("oven")), 1);
    let id = firing["id"].as_str().unwrap();
    let proxy = Proxy::before(server.port);
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let mut stage = Stage::browser(server, profile, 390, 844).await;
    stage.address = format!("http://127.0.0.1:{}", proxy.port);
    stage.demo().await;
    kept_on_the_device(&stage).await;
    stage.go(&format!("/firings/{id}")).await;
    stage.click("button", "In the fire").await;
    stage.see_text("button", "Back at heat").await;
    has(&stage, &cookie, id, &[0]).await;
    written_up(&stage).await;
    proxy.set(does);
    stage.click("button", "Back at heat").await;
    stage.see_text("button", "In the oil").await;
    stage.see_text("div", "kept on this device").await;
    press_early(&stage, "In the oil").await;
    stage.see_text("button", "Out of the bath, cold").await;
    stage.see_text("div", "2 kept on this device").await;
    // A reload shows the firing as it stands, no page of the proxy.
    stage.client.refresh().await.unwrap();
    stage.see_text("button", "Out of the bath, cold").await;
    stage.see_text("div", "2 kept on this device").await;
    stage.click("button", "Out of the bath, cold").await;
    stage.see_text("div", "3 kept on this device").await;
    assert_eq!(confirmed(&stage.server, &cookie, id), [0]);
    proxy.set(Does::Pass);
    has(&stage, &cookie, id, &[0, 1, 2, 3]).await;
    stage.see_text("div", "Hard and untempered").await;
    stage.end().await;
}

/// Presses on the picture at shares of its width and height.
async fn press(stage: &Stage, places: &[(f64, f64)]) {
    for (across, down) in places {
        let script = "const s = document.querySelector('.tracing svg'); const b = s.getBoundingClientRect(); \
             s.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: b.left + arguments[0] * b.width, \
             clientY: b.top + arguments[1] * b.height }))";
        stage
            .client
            .execute(script, vec![json!(across), json!(down)])
            .await
            .unwrap();
        tokio::time::sleep(Duration::from_millis(60)).await;
    }
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_soft_blade_is_asked_why_and_a_hamon_is_traced(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    stage.demo().await;
    let cookie = stage.server.demo();
    let done = stage
        .server
        .json("GET", "/api/v1/blades/finished", &cookie, &Value::Null)
        .unwrap();
    let blade = done
        .as_array()
        .unwrap()
        .iter()
        .find(|b| b["steel"] == "w2")
        .unwrap()
        .clone();
    let id = blade["id"].as_str().unwrap();
    stage.go(&format!("/blades/{id}/readings")).await;
    stage.write("#readings", "56.0 56.4 55.8\u{e007}").await;
    stage
        .see_text("span", "The next prediction has learned from it")
        .await;
    let choose = stage.choice("What went wrong").await;
    choose.select_by_value("soft").await.unwrap();
    stage.see_text("p", "To tell it").await;
    let causes = stage
        .client
        .find_all(fantoccini::Locator::Css(".causes > li"))
        .await
        .unwrap();
    assert!(causes.len() >= 3);
    // A photograph as a phone would send it, its line four tenths of the way up.
    let picture = std::env::temp_dir().join(format!("vatten-photo-{}.png", stage.server.port));
    let grey = image::GrayImage::from_fn(900, 300, |_, y| {
        image::Luma([if y < 180 { 90 } else { 170 }])
    });
    grey.save(&picture).unwrap();
    let input = stage.see("#photo").await;
    input.send_keys(picture.to_str().unwrap()).await.unwrap();
    stage.see_text("b", "Point at the heel").await;
    press(&stage, &[(0.1, 0.8), (0.9, 0.8)]).await;
    stage.see_text("b", "follow the line").await;
    press(&stage, &[(0.2, 0.6), (0.4, 0.6), (0.6, 0.6), (0.8, 0.6)]).await;
    stage.see_text("b", "4 places on the line").await;
    stage.click("button", "Keep the line").await;
    stage.see_text("b", "above the edge").await;
    let _ = std::fs::remove_file(&picture);
    let path = format!("/api/v1/blades/{id}/findings");
    // Another finding of the blade stands above the edge too: this one is there once it is kept.
    let traced = async || {
        loop {
            let all = stage.server.json("GET", &path, &cookie, &Value::Null);
            let all = all.unwrap().as_array().unwrap().clone();
            let of_photo = |f: &Value| f["found"]["photo_id"].is_string();
            if let Some(line) = all.into_iter().rfind(of_photo) {
                return line;
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    };
    let line = tokio::time::timeout(Duration::from_secs(20), traced())
        .await
        .unwrap();
    let length = blade["length_mm"].as_f64().unwrap();
    // Two tenths of 300 dots up, where eight tenths of 900 are the blade.
    let wanted = 0.2 * 300.0 * length / (0.8 * 900.0);
    let height = line["found"]["places"][3][1].as_f64().unwrap();
    let tip = line["found"]["places"].as_array().unwrap().last().unwrap()[1]
        .as_f64()
        .unwrap();
    assert!(
        (height - wanted).abs() < 3.0 && (tip - wanted).abs() < 8.0,
        "{height} {tip} {wanted}"
    );
    stage.click("a", "Story").await;
    stage.see_text("span", "Photograph").await;
    stage.end().await;
}
