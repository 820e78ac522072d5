//! Owner, smith and helper on three devices, each at a server of its own over one database: how they come in, what each may, and
//! one firing that all of them follow.

use crate::support;

use sqlx::PgPool;
use support::browser::Stage;

/// The owner makes a link for somebody, who comes in by it.
async fn comes_in(owner: &Stage, other: &Stage, name: &str, role: &str) {
    owner.go("/shop").await;
    owner.fill("Who", name).await;
    let choice = owner.choice("As").await;
    choice.select_by_label(role).await.unwrap();
    owner.click("button", "Make a link").await;
    let link = owner.until(".notice code", |t| t.contains("#")).await;
    let path = link.split_once("/invited#").unwrap().1;
    other.go(&format!("/invited#{path}")).await;
    other.see_text("p", "Brinholm forge invites you").await;
    other
        .fill("Address", &format!("{name}@brinholm.example"))
        .await;
    other.fill("Password", "hammer on cold steel").await;
    other.click("button", "Come in").await;
    other.see_text("h1", "Rack").await;
}

#[sqlx::test(migrations = "../store/migrations")]
async fn owner_smith_and_helper_at_one_firing(pool: PgPool) {
    let owner = Stage::set(&pool, 1280, 800).await;
    owner.demo().await;
    let smith = Stage::set(&pool, 1280, 800).await;
    let helper = Stage::set(&pool, 390, 844).await;
    comes_in(&owner, &smith, "Runa", "Smith").await;
    comes_in(&owner, &helper, "Aksel", "Helper").await;
    // Its link is used up.
    owner.go("/shop").await;
    owner.see_text("b", "Aksel").await;
    assert!(!owner.says().await.contains("invited as"));

    // The helper looks at the plan, and fires it.
    assert!(!helper.says().await.contains("New blade"));
    helper.click("a", "K-113").await;
    helper.see_text("p", "a smith of the shop plans").await;
    helper.see("fieldset:disabled").await;
    helper.click("a", "Fire").await;
    helper.click("button", "Start firing").await;
    let first = helper.until(".lights-out .big", |t| !t.is_empty()).await;
    let address = helper.client.current_url().await.unwrap();
    let path = address.path();

    // The others see it at once; the smith presses, and the helper's phone goes on.
    smith.go(path).await;
    owner.go(path).await;
    owner.until(".lights-out .big", |t| t == first).await;
    smith.until(".lights-out .big", |t| t == first).await;
    smith.press(" ").await;
    helper
        .until(".lights-out .big", |t| !t.is_empty() && t != first)
        .await;
    owner
        .until(".lights-out .big", |t| !t.is_empty() && t != first)
        .await;

    // Aksel leaves: his phone is out, the record stays.
    owner.go("/shop").await;
    owner.click("button", "Leaves").await;
    owner.see_text("p", "stays in the record").await;
    let leaves = owner
        .client
        .find_all(fantoccini::Locator::Css(".btn-outline-danger"))
        .await;
    let name = leaves.unwrap()[0].text().await.unwrap();
    owner.click("button", &name).await;
    let gone = name.trim_end_matches(" leaves").to_owned();
    let out = if gone == "Aksel" { &helper } else { &smith };
    owner.until(".lines", |t| !t.contains(&gone)).await;
    out.go("/").await;
    out.see_text("h2", "Sign in").await;
    let server = &owner.server;
    let cookie = server.demo();
    let kept = server.json(
        "GET",
        path.replace("/firings", "/api/v1/firings").as_str(),
        &cookie,
        &serde_json::Value::Null,
    );
    assert_eq!(kept.unwrap()["state"]["position"], 1);
    for stage in [owner, smith, helper] {
        stage.end().await;
    }
}
