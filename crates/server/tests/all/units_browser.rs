//! Every place and every dialog, in inches and °F and in millimetres and °C: none of them has a word in the
//! other units, and none of them is closed to a screen reader. Units are changed on the open page, as a smith would do it.
use crate::support;

use fantoccini::Locator;
use serde_json::Value;
use sqlx::PgPool;
use std::time::Duration;
use support::browser::{ENTER, HARDNESS, Stage, number, rewrite};

/// Everything that can be read or heard on the page: text, also where it is folded away, names for the ear,
/// hints, and what stands in fields.
const ALL_TEXT: &str = r"
    // The script of a place is still on its way.
    if (!document.querySelector('#root > *') || document.querySelector('main[aria-busy=true]')) return '…';
    const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    const said = [];
    for (let n = walk.nextNode(); n; n = walk.nextNode()) {
        if (!n.parentElement.closest('script, style')) said.push(n.data);
    }
    for (const e of document.body.querySelectorAll('*')) {
        for (const a of ['aria-label', 'aria-valuetext', 'title', 'placeholder', 'alt']) {
            if (e.hasAttribute(a)) said.push(e.getAttribute(a));
        }
        if (e instanceof HTMLInputElement || e instanceof HTMLTextAreaElement) said.push(e.value);
    }
    // A number and its unit may stand side by side as two pieces of text.
    return said.join('\n');";

/// What axe finds, each with the rule that is broken and where.
const AXE: &str = r"
    const done = arguments[arguments.length - 1];
    const tags = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'];
    axe.run(document, { runOnly: tags, resultTypes: ['violations'] }).then(({ violations }) => {
        const grave = violations.filter((v) => v.impact === 'serious' || v.impact === 'critical');
        done(grave.flatMap((v) => v.nodes.slice(0, 3).map((n) => `${v.id} at ${n.target.join(' ')}: ${n.any[0]?.message ?? ''}`)));
    }, (error) => done([String(error)]));";

/// Lines of a text that hold a word of the units that are not wanted.
fn foreign(text: &str, inch: bool) -> Vec<String> {
    let lines = text.lines().map(str::trim).filter(|l| !l.is_empty());
    let words = |l: &str| -> Vec<String> {
        let apart = |c: char| c.is_whitespace() || "(),;:…".contains(c);
        l.split(apart).map(str::to_owned).collect()
    };
    let bad = |l: &&str| {
        let said = words(l);
        if inch {
            return l.contains("°C") || said.iter().any(|w| w.trim_end_matches('.') == "mm");
        }
        // “in” is a word of its own; an inch has a fraction before it.
        let inches = said.windows(2).any(|w| {
            let decimal = w[0].contains('.') && w[0].trim_start_matches('−').parse::<f64>().is_ok();
            decimal && w[1].trim_end_matches('.') == "in"
        });
        l.contains("°F") || inches
    };
    lines.filter(bad).map(str::to_owned).collect()
}

#[test]
fn words_in_other_units_are_found() {
    for told in [
        "Set 780 °C",
        "5 mm",
        "a spine (4.3 mm), thick",
        "mm",
        "wanted 2 to 3 mm.",
    ] {
        assert_eq!(foreign(told, true).len(), 1, "{told}");
        assert!(foreign(told, false).is_empty(), "{told}");
    }
    for told in ["Set 1475 °F", "0.19 in", "reaches 0.31 in; so", "−0.02 in."] {
        assert_eq!(foreign(told, false).len(), 1, "{told}");
        assert!(foreign(told, true).is_empty(), "{told}");
    }
    assert!(foreign("9 in 10 between 60.1 and 62.0, 2 in all", false).is_empty());
}

struct Walk {
    stage: Stage,
    seen: usize,
    wrong: Vec<String>,
    /// What reads a page as a screen reader does and names what it could not make out.
    axe: String,
}

impl Walk {
    fn new(stage: Stage) -> Self {
        let axe = support::root().join("web/node_modules/axe-core/axe.min.js");
        Self {
            stage,
            seen: 0,
            wrong: Vec::new(),
            axe: std::fs::read_to_string(axe).unwrap(),
        }
    }

    /// Holds the page to WCAG 2.1 AA as far as a program can: nothing serious or critical.
    async fn hear(&mut self, place: &str) {
        let there = "return typeof axe === 'object'";
        if self.stage.client.execute(there, vec![]).await.unwrap() != true {
            let source = format!("{}; return true", self.axe);
            self.stage.client.execute(&source, vec![]).await.unwrap();
        }
        let found = self.stage.client.execute_async(AXE, vec![]).await.unwrap();
        let found = found.as_array().unwrap().iter();
        self.wrong
            .extend(found.map(|v| format!("{place}: {}", v.as_str().unwrap())));
    }

    async fn text(&self) -> String {
        let found = self.stage.client.execute(ALL_TEXT, vec![]).await.unwrap();
        found.as_str().unwrap().to_owned()
    }

    /// The text once the page has come to rest.
    async fn settled(&self) -> String {
        let mut last = self.text().await;
        let mut still = 0;
        for _ in 0..100 {
            tokio::time::sleep(Duration::from_millis(100)).await;
            let now = self.text().await;
            still = if now == last && !now.lines().any(|l| l.trim() == "…") {
                still + 1
            } else {
                0
            };
            last = now;
            if still >= 2 {
                break;
            }
        }
        last
    }

    async fn inch(&self) -> bool {
        let kept = "return localStorage.getItem('vatten.units')";
        self.stage.client.execute(kept, vec![]).await.unwrap() == "inch"
    }

    /// Looks at the page in the units it is in.
    async fn look(&mut self, place: &str) {
        let (text, inch) = (self.settled().await, self.inch().await);
        self.seen += 1;
        let found = foreign(&text, inch);
        let told = found.iter().map(|l| format!("{place}: {l}"));
        self.wrong.extend(told);
    }

    async fn toggle(&self) {
        self.stage.see("button.units").await;
        let click = "document.querySelector('button.units').click()";
        self.stage.client.execute(click, vec![]).await.unwrap();
    }

    /// Looks at the page in both, and hears it.
    async fn look_in_both(&mut self, place: &str) {
        self.look(place).await;
        self.hear(place).await;
        self.toggle().await;
        self.look(place).await;
        self.toggle().await;
    }

    /// A place as it is when it is come to, then with everything in it that folds open.
    async fn at(&mut self, path: &str) {
        self.stage.go(path).await;
        self.look_in_both(path).await;
        let open =
            "const all = document.querySelectorAll('#content [aria-expanded=false]:not([hidden])');
            for (const one of all) one.click();
            return all.length;";
        if self.stage.client.execute(open, vec![]).await.unwrap() != 0 {
            self.look_in_both(path).await;
        }
    }

    /// Chooses everything that a field offers, one after the other.
    async fn choose_each(&mut self, css: &str, place: &str) {
        self.stage.see(css).await;
        let list =
            format!("return [...document.querySelector(\"{css}\").options].map((o) => o.value)");
        let all = self.stage.client.execute(&list, vec![]).await.unwrap();
        for value in all.as_array().unwrap() {
            let value = value.as_str().unwrap();
            self.stage
                .see(css)
                .await
                .select_by_value(value)
                .await
                .unwrap();
            self.look(&format!("{place}: {value}")).await;
        }
    }

    /// Clicks everything of a kind, one after the other, looking after each.
    async fn open_each(&mut self, css: &str, place: &str) {
        let count = self
            .stage
            .client
            .find_all(Locator::Css(css))
            .await
            .unwrap()
            .len();
        for i in 0..count {
            let all = self.stage.client.find_all(Locator::Css(css)).await.unwrap();
            if let Some(one) = all.get(i) {
                let target = serde_json::to_value(one).unwrap();
                let click = "arguments[0].click()";
                self.stage
                    .client
                    .execute(click, vec![target])
                    .await
                    .unwrap();
            }
        }
        self.look_in_both(place).await;
    }

    fn end(&self) {
        assert!(self.seen > 0);
        assert!(
            self.wrong.is_empty(),
            "{} places:\n{}",
            self.seen,
            self.wrong.join("\n")
        );
    }
}

async fn in_inches(stage: &Stage) {
    let set = "localStorage.setItem('vatten.units', 'inch')";
    stage.client.execute(set, vec![]).await.unwrap();
}

#[sqlx::test(migrations = "../store/migrations")]
async fn every_place_of_the_demo_keeps_to_the_units_chosen(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    stage.demo().await;
    in_inches(&stage).await;
    let cookie = stage.server.demo();
    let get = |path: &str| {
        stage
            .server
            .json("GET", path, &cookie, &Value::Null)
            .unwrap()
    };
    let blades = get("/api/v1/blades");
    let finished = get("/api/v1/blades/finished");
    let all = |of: &Value| {
        let list = of.as_array().or_else(|| of["blades"].as_array());
        list.cloned().unwrap_or_default().into_iter()
    };
    let id = |mark: &str| {
        let of = all(&blades)
            .chain(all(&finished))
            .find(|b| b["mark"] == mark);
        of.unwrap_or_else(|| panic!("{mark}"))["id"]
            .as_str()
            .unwrap()
            .to_owned()
    };
    let (planned, hook, read) = (id("K-112"), id("K-113"), id("K-108"));
    let stations = get("/api/v1/stations");
    let mut walk = Walk::new(stage);
    walk.at("/").await;
    // A blade that is planned: the drawing in all its views, every reason, every method, every place.
    let plan = format!("/blades/{planned}/plan");
    walk.at(&plan).await;
    walk.open_each(".blade-view label", &plan).await;
    walk.stage.see(".methods tbody").await;
    walk.open_each(".methods button.why", "methods").await;
    for tab in ["ready", "clay", "fire", "readings", "story", "sheet"] {
        walk.at(&format!("/blades/{planned}/{tab}")).await;
    }
    walk.at(&format!("/blades/{hook}/ready")).await;
    // One that was fired and read, and what could have gone wrong with it.
    for tab in ["plan", "fire", "readings", "story"] {
        walk.at(&format!("/blades/{read}/{tab}")).await;
    }
    walk.stage.go(&format!("/blades/{read}/readings")).await;
    let finding = "form[aria-label='What else came of it'] select";
    walk.choose_each(finding, "a finding").await;
    for wrong in [
        "soft",
        "bent",
        "cracked",
        "dull_line",
        "wandering_line",
        "chips",
        "rolls",
    ] {
        let symptom = walk.stage.see_text("label", "What went wrong").await;
        let id = symptom.attr("for").await.unwrap().unwrap();
        let field = walk.stage.see(&format!("[id='{id}']")).await;
        field.select_by_value(wrong).await.unwrap();
        walk.look_in_both(wrong).await;
    }
    for path in [
        "/steels",
        "/steels?steel=1084",
        "/steels?steel=x46cr13",
        "/steels/compare",
        "/steels/bars",
        "/steels/trials",
        "/steels/ladders",
        "/lessons",
        "/stations",
        "/shop",
        "/nowhere",
    ] {
        walk.at(path).await;
    }
    walk.stage.go("/steels/bars").await;
    walk.stage.click("button", "Quay pattern").await;
    walk.look_in_both("a bar").await;
    walk.stage.go("/compare").await;
    for mark in ["K-81", "K-90", "K-101"] {
        walk.stage.write(".add-blade input", mark).await;
        walk.stage.click("button", "Add").await;
        walk.settled().await;
    }
    walk.stage.see_text("h2", "What came of it").await;
    walk.look_in_both("blades compared").await;
    for station in stations.as_array().unwrap() {
        walk.at(&format!("/stations/{}", station["id"].as_str().unwrap()))
            .await;
    }
    walk.end();
    walk.stage.end().await;
}

/// The firing view on a phone, at the stages of the work that the demo has blades in.
#[sqlx::test(migrations = "../store/migrations")]
async fn the_firing_view_keeps_to_the_units_chosen(pool: PgPool) {
    let stage = Stage::set(&pool, 390, 844).await;
    stage.demo().await;
    let cookie = stage.server.demo();
    let all = stage
        .server
        .json("GET", "/api/v1/blades", &cookie, &Value::Null)
        .unwrap();
    let firings: Vec<String> = all
        .as_array()
        .unwrap()
        .iter()
        .filter(|b| b["firing_open"] == true)
        .map(|b| b["firing_id"].as_str().unwrap().to_owned())
        .collect();
    assert!(firings.len() >= 4);
    let mut walk = Walk::new(stage);
    for inch in [true, false] {
        let set = format!(
            "localStorage.setItem('vatten.units', '{}')",
            if inch { "inch" } else { "metric" }
        );
        walk.stage.client.execute(&set, vec![]).await.unwrap();
        for firing in &firings {
            walk.stage.go(&format!("/firings/{firing}")).await;
            walk.stage.see(".lights-out .big").await;
            walk.look("firing").await;
            walk.hear("firing").await;
            walk.stage.click("button", "It went otherwise").await;
            walk.look("what can go otherwise").await;
            walk.stage.click("button", "What really was").await;
            walk.look("what was otherwise").await;
        }
    }
    walk.end();
    walk.stage.end().await;
}

/// An empty shop, from signing up to a plan; a fix sets what it says, a temperature comes back as it was
/// typed, and what is allowed is told in the same units.
#[sqlx::test(migrations = "../store/migrations")]
async fn an_empty_shop_in_fahrenheit_reads_back_what_was_written(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    stage.go("/").await;
    in_inches(&stage).await;
    stage.go("/").await;
    stage.click("button", "No shop yet").await;
    stage.write("#workshop", "Tarn forge").await;
    stage.write("#name", "Owner").await;
    stage.write("#new-email", "owner@tarn.example").await;
    stage.write("#new-password", "a few long words").await;
    stage.press(ENTER).await;
    stage.see_text("p", "Nothing in work").await;
    let mut walk = Walk::new(stage);
    for path in [
        "/steels",
        "/steels/compare",
        "/steels/bars",
        "/steels/trials",
        "/steels/ladders",
        "/lessons",
        "/compare",
        "/stations",
        "/shop",
    ] {
        walk.at(path).await;
    }
    walk.at("/").await;
    walk.stage.click("button", "Plan it").await;
    walk.stage.until(HARDNESS, |t| number(t).is_some()).await;
    walk.look_in_both("the first plan").await;
    let step = walk.stage.see("[aria-label*='Austenitize']").await;
    step.click().await.unwrap();
    // 1475 °F stays 1475 °F, also after a new start; so does one that is too cool.
    let field = walk.stage.field("Temperature").await;
    for typed in ["1475", "1280"] {
        rewrite(&field, &format!("{typed} F")).await;
        field.send_keys(ENTER).await.unwrap();
        let shown = async || field.prop("value").await.unwrap().unwrap();
        for _ in 0..50 {
            if shown().await == format!("{typed} °F") {
                break;
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
        assert_eq!(shown().await, format!("{typed} °F"));
    }
    // Below Ac1: the button says what it sets, and sets what it says.
    walk.settled().await;
    let fix = walk.stage.see_text("button", "Austenitize at ").await;
    let says = fix.text().await.unwrap().replace("Austenitize at ", "");
    assert!(says.ends_with(" °F"), "{says}");
    walk.stage.click("button", "Austenitize at ").await;
    for _ in 0..50 {
        if field.prop("value").await.unwrap().unwrap() == says {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert_eq!(field.prop("value").await.unwrap().unwrap(), says);
    // Every kind of step, each with its own fields and its caution.
    let add = "[aria-label='Add a step after this one']";
    walk.choose_each(add, "a step").await;
    let step = walk.stage.see("[aria-label*='Austenitize']").await;
    step.click().await.unwrap();
    let field = walk.stage.field("Temperature").await;
    rewrite(&field, "9000 F").await;
    field.send_keys(ENTER).await.unwrap();
    walk.look("a refusal").await;
    walk.end();
    walk.stage.end().await;
}
