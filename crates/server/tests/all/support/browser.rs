//! The real server and a real headless browser for it.

use super::process::{Group, Server, find_line};
use fantoccini::wd::Capabilities;
use fantoccini::{Client, ClientBuilder, Locator};
use serde_json::json;
use sqlx::PgPool;
use std::process::{Command, Stdio};
use std::time::Duration;

/// Keys, as WebDriver writes them.
pub const UP: &str = "\u{e013}";
pub const RIGHT: &str = "\u{e014}";
pub const ENTER: &str = "\u{e007}";
/// Where the predicted hardness stands.
pub const HARDNESS: &str = ".outcomes section[aria-label=Hardness] .value";

/// Longer than anything takes on a machine that is busy with something else: only a failure waits for it.
const PATIENCE: Duration = Duration::from_secs(60);

/// The number a text begins with.
pub fn number(text: &str) -> Option<f64> {
    text.split(' ').next()?.parse().ok()
}

/// Types over everything in a field, as a person would.
pub async fn rewrite(field: &fantoccini::elements::Element, text: &str) {
    // Control and A together, then let go.
    field.send_keys("\u{e009}a\u{e000}").await.unwrap();
    field.send_keys(text).await.unwrap();
}

/// The server, its address, and a browser.
pub struct Stage {
    pub address: String,
    pub client: Client,
    pub driver: Group,
    pub server: Server,
    pub profile: std::path::PathBuf,
}

impl Stage {
    /// Starts the real server over the test's database, with the demo, and a browser of this size.
    pub async fn set(pool: &PgPool, width: u32, height: u32) -> Self {
        let server = Server::whole(pool).await;
        let profile = std::env::temp_dir().join(format!("vatten-chrome-{}", server.port));
        Self::browser(server, profile, width, height).await
    }

    /// A browser for a running server, with a profile that may have been used before.
    pub async fn browser(
        server: Server,
        profile: std::path::PathBuf,
        width: u32,
        height: u32,
    ) -> Self {
        // It takes a free port for IPv4 and then wants the same one for IPv6, which another driver may
        // hold by then: it is started again.
        let (driver, line) = (0..8)
            .find_map(|_| {
                let mut driver = Group::start(
                    Command::new("chromedriver")
                        .arg("--port=0")
                        .stdout(Stdio::piped()),
                );
                let line = find_line(&mut driver.0, "started successfully on port")?;
                Some((driver, line))
            })
            .expect("chromedriver starts");
        let driver_port: u16 = line
            .rsplit(' ')
            .next()
            .unwrap()
            .trim_end_matches('.')
            .parse()
            .unwrap();
        let arguments = [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-dev-shm-usage",
            "--disable-quic",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--no-first-run",
            "--no-default-browser-check",
            "--hide-scrollbars",
            &format!("--user-data-dir={}", profile.display()),
        ];
        let metrics = json!({ "width": width, "height": height, "pixelRatio": 1.0, "mobile": false, "touch": false });
        let capabilities: Capabilities = serde_json::from_value(json!({
            "goog:chromeOptions": {
                "args": arguments,
                "mobileEmulation": { "deviceMetrics": metrics },
            },
        }))
        .unwrap();
        let connector = hyper_util::client::legacy::connect::HttpConnector::new();
        let client = ClientBuilder::new(connector)
            .capabilities(capabilities)
            .connect(&format!("http://127.0.0.1:{driver_port}"))
            .await
            .unwrap();
        Self {
            address: server.address(),
            client,
            driver,
            server,
            profile,
        }
    }

    /// The browser is gone at once, as when a battery dies; what it wrote to disk stays. Gives the server
    /// and the profile, to start another one.
    pub fn crash(mut self) -> (Server, std::path::PathBuf) {
        self.driver.kill();
        // What it left there says that it still runs.
        for lock in ["SingletonLock", "SingletonSocket", "SingletonCookie"] {
            let _ = std::fs::remove_file(self.profile.join(lock));
        }
        (self.server, self.profile)
    }

    pub async fn go(&self, path: &str) {
        self.client
            .goto(&format!("{}{path}", self.address))
            .await
            .unwrap();
    }

    /// Waits for an element.
    pub async fn see(&self, css: &str) -> fantoccini::elements::Element {
        self.client
            .wait()
            .at_most(PATIENCE)
            .for_element(Locator::Css(css))
            .await
            .unwrap_or_else(|e| panic!("{css}: {e}"))
    }

    /// Waits for an element whose text has `part`.
    pub async fn see_text(&self, tag: &str, part: &str) -> fantoccini::elements::Element {
        let path = format!("//{tag}[contains(normalize-space(.), \"{part}\")]");
        let found = self
            .client
            .wait()
            .at_most(PATIENCE)
            .for_element(Locator::XPath(&path))
            .await;
        match found {
            Ok(element) => element,
            Err(error) => panic!(
                "{tag} with {part}: {error}; the page says {}",
                self.says().await
            ),
        }
    }

    /// What the page says.
    pub async fn says(&self) -> String {
        let text = "return document.body.innerText";
        let said = self.client.execute(text, vec![]).await;
        said.map_or_else(|e| e.to_string(), |said| said.to_string())
    }

    /// Waits for the input under a label.
    pub async fn field(&self, label: &str) -> fantoccini::elements::Element {
        self.under(label, "input").await
    }

    /// Waits for the list under a label.
    pub async fn choice(&self, label: &str) -> fantoccini::elements::Element {
        self.under(label, "select").await
    }

    async fn under(&self, label: &str, tag: &str) -> fantoccini::elements::Element {
        let path = format!("//label[contains(., \"{label}\")]/following-sibling::{tag}");
        self.client
            .wait()
            .at_most(PATIENCE)
            .for_element(Locator::XPath(&path))
            .await
            .unwrap_or_else(|e| panic!("{tag} under {label}: {e}"))
    }

    /// Writes into the field under a label.
    pub async fn fill(&self, label: &str, text: &str) {
        rewrite(&self.field(label).await, text).await;
    }

    /// Clicks an element by its text; again, brought to the middle, when it was still moving or hidden.
    pub async fn click(&self, tag: &str, part: &str) {
        let mut last = String::new();
        for _ in 0..20 {
            let element = self.see_text(tag, part).await;
            match element.click().await {
                Ok(()) => return,
                Err(error) => last = error.to_string(),
            }
            let middle = "arguments[0].scrollIntoView({ block: 'center' })";
            let target = serde_json::to_value(&element).unwrap();
            let _ = self.client.execute(middle, vec![target]).await;
            tokio::time::sleep(Duration::from_millis(150)).await;
        }
        panic!("{tag} with {part}: {last}");
    }

    pub async fn write(&self, css: &str, text: &str) {
        let field = self.see(css).await;
        rewrite(&field, text).await;
    }

    /// Presses keys wherever the focus is.
    pub async fn press(&self, keys: &str) {
        self.client
            .active_element()
            .await
            .unwrap()
            .send_keys(keys)
            .await
            .unwrap();
    }

    /// Waits until `css` shows something that `good` accepts; gives it.
    pub async fn until(&self, css: &str, good: impl Fn(&str) -> bool) -> String {
        let mut last = String::new();
        for _ in 0..PATIENCE.as_millis() / 100 {
            if let Ok(element) = self.client.find(Locator::Css(css)).await
                && let Ok(text) = element.text().await
            {
                if good(&text) {
                    return text;
                }
                last = text;
            }
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
        panic!("{css} shows {last:?}; the page says {}", self.says().await);
    }

    /// Signs in to the demo.
    pub async fn demo(&self) {
        self.go("/").await;
        self.write("#email", "smith@brinholm.example").await;
        self.write("#password", "orchard and harbour").await;
        self.press("\u{e007}").await;
        self.see_text("h1", "Rack").await;
    }

    /// A picture of the page, as PNG.
    pub async fn picture(&self, name: &str) {
        tokio::time::sleep(Duration::from_millis(700)).await;
        let png = self.client.screenshot().await.unwrap();
        std::fs::write(super::root().join("docs/screenshots").join(name), png).unwrap();
    }

    pub async fn end(self) {
        let _ = self.client.clone().close().await;
        let _ = std::fs::remove_dir_all(&self.profile);
    }
}
