//! A day in a real browser: six blades of four steels, one kiln, one oven, two people, stand-ins running; one step is late,
//! one blade cracks, and the day mends itself.

use crate::support;

use fantoccini::Locator;
use icalendar::{Calendar, CalendarComponent, Component};
use serde_json::{Value, json};
use sqlx::{ConnectOptions, PgPool};
use std::time::Duration;
use support::browser::Stage;
use support::demo::Demo;
use support::process::Server;
use vatten_core::planning::kept::KeptDay;
use vatten_standins::furnace::Furnace;
use vatten_standins::kiln::Kiln;
use vatten_standins::tester::Tester;

const STEELS: [&str; 6] = ["1084", "80CrV2", "O1", "52100", "1084", "80CrV2"];

/// The shop over its interface, as a script has it.
struct Script<'a> {
    server: &'a Server,
    cookie: &'a str,
}

impl Script<'_> {
    fn get(&self, path: &str) -> Value {
        self.server
            .json("GET", path, self.cookie, &Value::Null)
            .unwrap()
    }

    fn post(&self, path: &str, body: &Value) -> Value {
        let made = self.server.json("POST", path, self.cookie, body);
        made.unwrap_or_else(|| panic!("{path} refuses {body}"))
    }

    /// A blade with a plan in the kiln and the oven, heated, quenched and tempered.
    fn blade(&self, number: usize, steel: &str) -> String {
        let blade = json!({ "steel": steel, "shape": "net", "length_mm": 120, "width_mm": 22, "spine_mm": 2.5,
            "edge_mm": 0.8, "purpose": "all_round", "mark": format!("D-{number}"), "name": "Net blade",
            "medium": "fast_oil" });
        let made = self.post("/api/v1/blades", &blade);
        made["id"].as_str().unwrap().to_owned()
    }

    fn start(&self, blade: &str) -> Value {
        let path = format!("/api/v1/blades/{blade}");
        let plan = self.get(&format!("{path}/plan"));
        let body = json!({ "plan_version": plan["version"] });
        self.post(&format!("{path}/firings"), &body)
    }

    fn happen(&self, firing: &Value, event: &Value) {
        let path = format!("/api/v1/firings/{}/events", firing["id"].as_str().unwrap());
        self.post(&path, event);
    }

    fn confirm(&self, firing: &Value, actions: std::ops::Range<usize>) {
        for action in actions {
            self.happen(firing, &json!({ "kind": "confirm", "action": action }));
        }
    }
}

/// Position of the first action of a kind.
fn at(firing: &Value, code: &str) -> usize {
    let actions = firing["actions"].as_array().unwrap();
    actions
        .iter()
        .position(|a| a["kind"]["code"] == code)
        .unwrap()
}

/// As if so much time had passed since the day was laid: everything on it was to be earlier.
async fn an_hour_passes(pool: &PgPool, by_s: i64) {
    let kept: sqlx::types::Json<KeptDay> = sqlx::query_scalar("select kept from day")
        .fetch_one(pool)
        .await
        .unwrap();
    let mut kept = kept.0;
    kept.bars = kept.bars.iter().map(|b| b.later(-by_s)).collect();
    sqlx::query("update day set kept = $1, version = version + 1")
        .bind(sqlx::types::Json(&kept))
        .execute(pool)
        .await
        .unwrap();
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_day_of_six_blades_mends_itself(pool: PgPool) {
    let (kiln, oven) = (
        Kiln::new(Furnace::at_heat(815.0), 20.0),
        Kiln::new(Furnace::at_heat(205.0), 20.0),
    );
    let (kiln_at, serves) = kiln.serve(0).await.unwrap();
    rocket::tokio::spawn(serves);
    let (oven_at, serves) = oven.serve(0).await.unwrap();
    rocket::tokio::spawn(serves);
    let (tester_at, serves) = Tester::default().serve(0).await.unwrap();
    rocket::tokio::spawn(serves);
    let ports = [kiln_at.port(), oven_at.port(), tester_at.port()];
    Demo::InWork.copy_to(&pool).await;
    let url = pool.connect_options().to_url_lossy().to_string();
    let server = Server::with(&url, None, Some(ports));
    let cookie = server.demo();
    let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
    let stage = Stage::browser(server, profile, 1280, 800).await;
    let script = Script {
        server: &stage.server,
        cookie: &cookie,
    };
    // A day of nothing but these.
    let of_demo = script.get("/api/v1/day");
    for blade in of_demo["blades"].as_array().unwrap() {
        let path = format!("/api/v1/day/blades/{}", blade["blade_id"].as_str().unwrap());
        stage
            .server
            .json("DELETE", &path, &cookie, &Value::Null)
            .unwrap();
    }
    let blades: Vec<String> = STEELS
        .iter()
        .enumerate()
        .map(|(n, steel)| script.blade(n + 1, steel))
        .collect();
    let known = script.get("/api/v1/day/hours");
    let one = json!({ "name": "Runa Holt", "days": [1, 2, 3, 4, 5, 6, 7], "hours": [0, 1440] });
    let hours = json!({ "hours": { "shifts": [one], "temper_within_s": 7200 }, "version": known["version"] });
    stage
        .server
        .json("PUT", "/api/v1/day/hours", &cookie, &hours)
        .unwrap();
    stage.demo().await;

    // A second pair of hands.
    stage.go("/shop").await;
    stage.click("button", "Somebody else works here too").await;
    let names = Locator::XPath("//label[contains(., \"Name\")]/following-sibling::input");
    let names = stage.client.find_all(names).await.unwrap();
    let second = names.last().unwrap();
    second.send_keys("Tove Lind").await.unwrap();
    stage.click("button", "Keep the hours").await;
    stage.see_text("span", "The day was laid again").await;

    // Six blades are picked, and laid out.
    stage.go("/day").await;
    for n in 1..=6 {
        stage.click("label", &format!("D-{n}")).await;
    }
    stage.click("button", "Put 6 on the day").await;
    stage.see("[data-bar]").await;
    let day = script.get("/api/v1/day");
    assert_eq!(day["blades"].as_array().unwrap().len(), 6);
    assert_eq!(day["measures"]["left_out"], 0, "{}", day["measures"]);
    assert_eq!(day["operators"].as_array().unwrap().len(), 2);
    stage.see_text("h2", "Tove Lind").await;

    // By keys alone: a bar is walked to, pinned, moved by five minutes, let go.
    let first = stage.see("[data-bar][tabindex='0']").await;
    first.click().await.unwrap();
    stage.see_text("section", "Not earlier").await;
    stage.press("\u{e014}").await;
    stage.press("p").await;
    stage.see("[data-bar][aria-label$='pinned']").await;
    let pinned_at = || {
        let day = script.get("/api/v1/day");
        let bars = day["bars"].as_array().unwrap();
        let pinned = bars.iter().find(|b| b["pinned"] == true);
        pinned.map(|b| b["start_s"].as_i64().unwrap())
    };
    let before = pinned_at().unwrap();
    stage.press("\u{e008}\u{e014}\u{e000}").await;
    for _ in 0..100 {
        if pinned_at().is_some_and(|now| now > before) {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert!(pinned_at().unwrap() > before, "it moved");
    // What gave way for it is said, later or earlier.
    stage.see_text("p", " min ").await;
    stage.click("button", "Let it go").await;
    stage.see_text("button", "Pin it here").await;
    let pins = script.get("/api/v1/day");
    let pinned = pins["bars"].as_array().unwrap().iter();
    assert!(!pinned.into_iter().any(|b| b["pinned"] == true));

    // What if: nothing is changed by asking.
    stage.click("button", "Try it").await;
    stage.see("[aria-label='What if'] [role=status]").await;

    // Two go into the kiln. At the fire it is told what is next across the blades.
    let firings: Vec<Value> = blades[..2].iter().map(|b| script.start(b)).collect();
    let id = firings[0]["id"].as_str().unwrap();
    stage.go(&format!("/firings/{id}")).await;
    stage.click("button", "One by one").await;
    stage.see("[aria-label='Next on the day'] li").await;
    stage.click("button", "In the fire").await;
    stage.go("/day").await;
    stage.see_text("div", "D-1").await;
    stage.see("[data-bar][aria-label*='goes on']").await;

    // Late: most of an hour passes and nobody presses. The day is laid from now, and says what is other.
    an_hour_passes(&pool, 2700).await;
    stage.see_text("p", "later").await;

    // The first is quenched. It cracked: it is abandoned, and the others stay. Another device shows it without being asked.
    let out = at(&firings[0], "out_cold") + 1;
    script.confirm(&firings[0], 1..out);
    let crack = json!({ "kind": "found", "found": { "kind": "crack", "cracked": true } });
    script.happen(&firings[0], &crack);
    let over = json!({ "kind": "close", "end": "abandoned" });
    script.happen(&firings[0], &over);
    // Its own line may be followed at once by what a search found then: the page itself is asked.
    for _ in 0..150 {
        if !stage.says().await.contains("D-1 waits for another day") {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert!(!stage.says().await.contains("D-1 waits for another day"));
    let day = script.get("/api/v1/day");
    assert_eq!(day["blades"].as_array().unwrap().len(), 5);

    // The second goes on to its oven; nothing lies hard beyond the limit.
    let out = at(&firings[1], "out_cold") + 1;
    let pressed = script.get(&format!(
        "/api/v1/firings/{}",
        firings[1]["id"].as_str().unwrap()
    ));
    let from = usize::try_from(pressed["state"]["position"].as_u64().unwrap()).unwrap();
    script.confirm(&firings[1], from..out);
    let day = script.get("/api/v1/day");
    for blade in day["blades"].as_array().unwrap() {
        let hard = &blade["hard"];
        let lies = hard[1].as_i64().unwrap() - hard[0].as_i64().unwrap();
        assert!(lies <= blade["hard_at_most_s"].as_i64().unwrap(), "{blade}");
    }
    assert_eq!(day["measures"]["broken_s"], 0, "{}", day["measures"]);

    // A week, for what dries or tempers overnight.
    stage.click("label", "Week").await;
    stage.see_text("span", "done").await;

    // The rack tells what is in each station.
    stage.go("/").await;
    stage.see("[aria-label='Stations of the day'] li").await;

    // The calendar is read by a parser of another make.
    stage.go("/shop").await;
    stage.click("button", "Make an address").await;
    let address = stage
        .until("code", |text| text.contains("/calendar/"))
        .await;
    let path = address.split_once("/calendar/").unwrap().1;
    let (_, text) = stage
        .server
        .send("GET", &format!("/calendar/{path}"), "", "")
        .unwrap();
    let begin = text.find("BEGIN:VCALENDAR").unwrap();
    let calendar: Calendar = text[begin..].parse().unwrap();
    let events = calendar
        .components
        .iter()
        .filter_map(CalendarComponent::as_event);
    let told: Vec<String> = events
        .filter_map(|e| e.get_summary().map(str::to_owned))
        .collect();
    assert!(told.iter().any(|t| t.starts_with("D-2: ")), "{told:?}");
    assert!(!told.iter().any(|t| t.starts_with("D-1: ")), "{told:?}");
    // All that is left is fired through, each press ahead of its time: nothing lies hard beyond its limit at any of them.
    let mut left: Vec<Value> = blades[2..].iter().map(|b| script.start(b)).collect();
    left.insert(0, firings[1].clone());
    for firing in &left {
        let path = format!("/api/v1/firings/{}", firing["id"].as_str().unwrap());
        let all = firing["actions"].as_array().unwrap().len();
        let from = script.get(&path)["state"]["position"].as_u64().unwrap();
        for action in usize::try_from(from).unwrap()..all {
            script.confirm(firing, action..action + 1);
            let day = script.get("/api/v1/day");
            for blade in day["blades"].as_array().unwrap() {
                if let (Some(from), Some(to)) =
                    (blade["hard"][0].as_i64(), blade["hard"][1].as_i64())
                {
                    let most = blade["hard_at_most_s"].as_i64().unwrap();
                    assert!(to - from <= most, "{blade}");
                }
            }
        }
    }

    for firing in &left {
        script.happen(firing, &json!({ "kind": "close" }));
    }
    assert_eq!(script.get("/api/v1/day")["blades"], json!([]));
    stage.click("button", "Take it down").await;
    let gone = || {
        let (head, _) = script
            .server
            .send("GET", &format!("/calendar/{path}"), "", "")
            .unwrap();
        head.contains(" 404 ")
    };
    for _ in 0..100 {
        if gone() {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    assert!(gone());
    stage.end().await;
}
