//! Everything before the fire, driven in a real browser.

use crate::support;

use sqlx::PgPool;
use support::browser::{ENTER, HARDNESS, RIGHT, Stage, UP, number, rewrite};

const SHIFT_RIGHT: &str = "\u{e008}\u{e014}\u{e000}";

/// Opens a place of a blade of the demo.
async fn open(stage: &Stage, mark: &str, tab: &str) {
    stage.click("a", mark).await;
    stage.until(HARDNESS, |t| number(t).is_some()).await;
    stage.click("a", tab).await;
}

/// On a phone, an old file from nothing to a tempered blade: what it was, planned with at once, coupons by eye, a firing
/// and a reading, each narrowing what it may be.
#[sqlx::test(migrations = "../store/migrations")]
async fn an_old_file_becomes_a_tempered_blade(pool: PgPool) {
    let stage = Stage::set(&pool, 390, 844).await;
    stage.demo().await;
    stage.go("/steels/trials").await;
    stage.see_text("h1", "Harrow tine").await;
    stage.click("button", "All steels").await;
    // It slides in.
    let another = stage.see_text("button", "Another piece").await;
    for _ in 0..50 {
        // What is still sliding cannot be met, or is met beside.
        let _ = another.click().await;
        tokio::time::sleep(std::time::Duration::from_millis(200)).await;
        if stage.says().await.contains("What was it?") {
            break;
        }
    }
    stage.click("label", "saw plate").await;
    stage.click("label", "file or rasp").await;
    let name = stage.field("Call it").await;
    assert_eq!(
        name.prop("value").await.unwrap().as_deref(),
        Some("Old file")
    );
    rewrite(&name, "Barn file").await;
    // More chromium than any file has.
    stage.click("summary", "was measured").await;
    let chromium = stage.field("Cr %").await;
    rewrite(&chromium, "18").await;
    stage.click("button", "Begin with it").await;
    stage
        .see_text("div", "not what such a thing is made of")
        .await;
    rewrite(&chromium, "0.1").await;
    stage.click("button", "Begin with it").await;
    stage.see_text("h1", "Barn file").await;
    stage.see_text("p", "Nothing is tried yet").await;

    stage.see_text("h2", "Quench a coupon in oil").await;
    let how = stage.see("select[aria-label='How hot']").await;
    how.select_by_value("colour").await.unwrap();
    stage.click("label", "bites: soft").await;
    stage.click("button", "Keep it, go on").await;
    stage
        .see_text("li", "In oil, from full cherry in a dim shop")
        .await;
    stage.see_text("h2", "the same in water").await;
    stage.see_text("p", "face shield").await;
    stage.click("label", "skates: hard").await;
    stage.click("button", "Keep it, go on").await;
    for (rung, grain) in [(1, "silk"), (2, "fine velvet"), (3, "coarse sand")] {
        stage.see_text("h2", &format!("Rung {rung}")).await;
        stage.click("label", "skates: hard").await;
        stage.click("label", grain).await;
        stage.click("button", "Keep it, go on").await;
    }
    stage.see_text("p", "It hardens in water only").await;
    stage.click("button", "Make it a steel of the shop").await;
    stage.see_text("h1", "Barn file").await;
    stage
        .see_text("p", "Known by what it was, an old file")
        .await;

    stage.go("/").await;
    stage.click("button", "New blade").await;
    stage
        .see_text("option", "Barn file")
        .await
        .click()
        .await
        .unwrap();
    stage.click("button", "Plan it").await;
    stage.until(HARDNESS, |t| number(t).is_some()).await;
    stage.click("a", "Fire").await;
    stage.click("button", "Start firing").await;
    // Heat by heat through the plan, every hold cut short: asked about once each, and meant.
    let over = "All steps are done";
    for _ in 0..80 {
        if stage.says().await.contains(over) {
            break;
        }
        stage.see(".lights-out .big").await.click().await.unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(150)).await;
    }
    stage.see_text("h1", over).await;
    stage.click("button", "Close the firing").await;
    stage.click("a", "Readings").await;
    stage.write("#readings", "61 62 61.5").await;
    stage.click("button", "Keep readings").await;
    stage
        .see_text("span", "The next prediction has learned from it")
        .await;
    stage.go("/steels/trials").await;
    stage.see_text("span", "5 coupons so far, 1 reading").await;
    stage.end().await;
}

/// A bar of layers whose windows do not meet says why; one that does makes a blade, every layer told.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_laminated_bar_is_brought_in_and_planned_with(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    stage.demo().await;
    stage.click("a", "Steels").await;
    stage.click("a", "Bars in stock").await;
    stage.see_text("li", "Quay pattern").await;
    stage.click("button", "Bring in a bar").await;
    stage.fill("Bar", "Three layers").await;
    stage.click("button", "It is made of several steels").await;
    let choose = async |label: &str, option: &str| {
        let path = format!("//select[@aria-label='{label}']/option[.='{option}']");
        let option = stage
            .client
            .wait()
            .for_element(fantoccini::Locator::XPath(&path))
            .await
            .unwrap();
        option.click().await.unwrap();
    };
    choose("Role of layer 2", "core: hardens with it").await;
    choose("Steel of layer 2", "X65Cr13").await;
    stage.see_text("p", "Their windows do not meet").await;
    stage.see_text("p", "wants at least").await;
    choose("Steel of layer 2", "15N20").await;
    stage
        .see_text("p", "Together they are austenitized from")
        .await;
    stage.click("button", "Bring it into stock").await;
    stage.see_text("li", "Three layers").await;

    stage.go("/").await;
    open(&stage, "K-113", "Ready").await;
    stage
        .see_text("option", "Three layers")
        .await
        .click()
        .await
        .unwrap();
    stage.click("button", "Save blade").await;
    stage.see_text("p", "15N20 ends at about").await;
    stage.end().await;
}

/// A drawing becomes the blade, and its plan follows.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_drawing_becomes_the_blade(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    let folder = std::env::temp_dir();
    let bad = folder.join(format!("vatten-bad-{}.svg", uuid::Uuid::now_v7()));
    let good = folder.join(format!("vatten-good-{}.svg", uuid::Uuid::now_v7()));
    std::fs::write(&bad, "<svg><script>alert(1)</script></svg>").unwrap();
    let path = "M5 20 L80 18 L80 10 C120 2 180 4 215 34 C190 44 120 42 80 40 L80 32 L5 30 Z";
    std::fs::write(
        &good,
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"220mm\" height=\"60mm\" viewBox=\"0 0 220 60\"><path d=\"{path}\"/></svg>"
        ),
    )
    .unwrap();
    stage.demo().await;
    open(&stage, "K-112", "Ready").await;
    let file = stage.see("#outline-file").await;
    file.send_keys(bad.to_str().unwrap()).await.unwrap();
    stage.see_text("p", "It holds scripts").await;
    let file = stage.see("#outline-file").await;
    file.send_keys(good.to_str().unwrap()).await.unwrap();
    stage.click("button", "Use this outline").await;
    let length = stage.field("Length, heel to tip").await;
    let text = length.prop("value").await.unwrap().unwrap();
    assert!((number(&text).unwrap() - 135.0).abs() < 1.0, "{text}");
    stage.click("button", "Save blade").await;
    stage.see_text("p", "It has an outline of its own").await;
    stage.click("a", "Plan").await;
    stage.until(HARDNESS, |t| number(t).is_some()).await;
    stage.click("label", "Hamon").await;
    stage.until(".said", |t| !t.is_empty() && t != "…").await;
    let _ = std::fs::remove_file(bad);
    let _ = std::fs::remove_file(good);
    stage.end().await;
}

/// Clay is painted by hand and by key, its line seen, a wanted line drawn, and the clay for it found.
#[sqlx::test(migrations = "../store/migrations")]
async fn clay_is_painted_and_found(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    stage.demo().await;
    open(&stage, "K-112", "Clay").await;
    stage.see(".clay-layer path").await;
    let line = |t: &str| t.starts_with("The line lies") && !t.contains("preview");
    let before = stage.until(".clay-tab .advice", line).await;
    stage.click("button", "Wipe the face bare").await;
    // Bare it hardens through, or its line lies elsewhere.
    let told = |t: &str| {
        let none = t.starts_with("It hardens right through") || t.starts_with("Of its length");
        line(t) || none
    };
    let bare = stage
        .until(".clay-tab .advice", |t| told(t) && t != before)
        .await;
    // By key: brush down, along the back, up.
    let board = stage.see(".board").await;
    for keys in [UP, UP, " "] {
        board.send_keys(keys).await.unwrap();
    }
    for _ in 0..8 {
        board.send_keys(SHIFT_RIGHT).await.unwrap();
    }
    board.send_keys(" ").await.unwrap();
    stage.see(".clay-layer path").await;
    let painted = stage
        .until(".clay-tab .advice", |t| told(t) && t != bare)
        .await;
    assert_ne!(painted, bare);
    stage.until(".clay-tab .saved", |t| t == "saved").await;
    let field = stage.field("At the middle").await;
    rewrite(&field, "8 mm").await;
    field.send_keys(ENTER).await.unwrap();
    stage.click("button", "Find the clay").await;
    stage
        .see_text("p", "of clay on both faces brings the line")
        .await;
    stage
        .until(".clay-tab .advice", |t| {
            line(t) && t.contains("off the one you want")
        })
        .await;
    stage.see_text("p", "Mix ").await;
    stage.until(".clay-tab .saved", |t| t == "saved").await;
    // What was laid out is there when the page is opened again.
    stage.client.refresh().await.unwrap();
    stage.see(".clay-layer rect").await;
    stage.end().await;
}

/// Methods side by side: one is read, used, undone, and kept as the shop's own.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_method_is_compared_and_used(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    stage.demo().await;
    open(&stage, "K-112", "Plan").await;
    stage.click("button", "Methods").await;
    stage.see_text("th", "Your own methods").await;
    stage.see_text("th", "Harbour way").await;
    stage
        .click("button", "One heat above, two just below")
        .await;
    stage.see_text("p", "It costs:").await;
    let row = "//tr[contains(., 'One heat above')]//button[.='Use it']";
    let used = stage
        .client
        .wait()
        .for_element(fantoccini::Locator::XPath(row))
        .await
        .unwrap();
    used.click().await.unwrap();
    stage.see_text("div[@role='option']", "Refine").await;
    stage.until(".over .saved", |t| t == "saved").await;
    stage.click("button", "Undo").await;
    stage.until(".heat-path", |t| !t.contains("Refine")).await;
    stage.click("button", "Methods").await;
    stage.fill("Keep this plan as", "Reed way").await;
    stage.press(ENTER).await;
    stage.see_text("th", "Reed way").await;
    // The bench sheet holds the plan on one page.
    stage.click("a", "Bench sheet").await;
    stage.see_text("h1", "Reed hook").await;
    stage.see_text("td", "from back at heat").await;
    stage.see_text("li", "Hot oil flashes").await;
    stage.end().await;
}

/// Two people at one plan, through two servers: the second is told, sees both, and loses nothing.
#[sqlx::test(migrations = "../store/migrations")]
async fn two_editors_of_one_plan(pool: PgPool) {
    let first = Stage::set(&pool, 1280, 800).await;
    first.demo().await;
    open(&first, "K-113", "Plan").await;
    let second = Stage::set(&pool, 1280, 800).await;
    second.demo().await;
    open(&second, "K-113", "Plan").await;
    let nudge = async |stage: &Stage, times: usize| {
        let path = stage.see(".heat-path").await;
        path.click().await.unwrap();
        for _ in 0..8 {
            path.send_keys(RIGHT).await.unwrap();
        }
        for _ in 0..times {
            path.send_keys(UP).await.unwrap();
        }
    };
    nudge(&first, 2).await;
    first.until(".over .saved", |t| t == "saved").await;
    nudge(&second, 4).await;
    second
        .see_text("span", "Someone changed this plan meanwhile")
        .await;
    let mine = second.see(".heat-path").await.text().await.unwrap();
    second.click("button", "Keep mine").await;
    second.until(".over .saved", |t| t == "saved").await;
    assert_eq!(second.see(".heat-path").await.text().await.unwrap(), mine);
    // And the first, changing it again, is told in turn and takes theirs.
    nudge(&first, 1).await;
    first.click("button", "Take theirs").await;
    first.until(".heat-path", |t| t == mine).await;
    first.end().await;
    second.end().await;
}

/// From a steel of the table to what it does in this fire: five coupons, five readings, the temper for a hardness, and the
/// coupons on the curve of the steel.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_ladder_says_the_temper_for_a_hardness(pool: PgPool) {
    let stage = Stage::set(&pool, 1280, 800).await;
    stage.demo().await;
    stage.go("/steels").await;
    stage.click("a", "coupons of several tempers").await;
    stage.see_text("h1", "A ladder on a steel you know").await;
    stage.click("button", "Begin it").await;
    stage.see_text("h1", "Tempers of 1084").await;
    stage.see_text("p", "Three coupons that were read").await;
    let all = [
        ("150 °C", "64 63.5"),
        ("175 °C", "62 62.5"),
        ("200 °C", "61"),
        ("230 °C", "59.5 x"),
        ("260 °C", "57"),
    ];
    for (at, read) in all {
        let field = stage.field(&format!("Readings of {at}")).await;
        rewrite(&field, read).await;
    }
    stage.click("button", "Keep what was read").await;
    stage.see_text("div", "“x” is no number").await;
    let field = stage.field("Readings of 230 °C").await;
    rewrite(&field, "59.5").await;
    stage.click("button", "Keep what was read").await;
    stage.see_text("h2", "What it says").await;
    stage.see_text("th", "60 HRC").await;
    stage.go("/steels?steel=1084").await;
    stage.see_text("p", "Tempers of 1084").await;
    stage.end().await;
}
