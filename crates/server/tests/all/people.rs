//! Several people in a shop: what each may do, how they come in, and how they get back in.

use crate::support::{Asker, server};
use rocket::http::{Header, Method};
use rocket::local::asynchronous::Client;
use serde_json::{Value, json};
use sqlx::PgPool;
use std::collections::BTreeSet;
use uuid::Uuid;

const PASSWORD: &str = "a few long words";

/// Somebody with that role in the shop of its owner.
async fn with_role<'a>(client: &'a Client, owner: &Asker<'_>, role: &str) -> Asker<'a> {
    let invite = json!({ "name": role, "role": role });
    let made = owner.post("/api/v1/invitations", &invite).await.ok();
    let body = json!({ "secret": secret_of(&made["path"]), "name": role,
        "email": format!("{role}@shop.example"), "password": PASSWORD });
    let nobody = Asker::nobody(client);
    let answer = nobody.post("/api/v1/invitations/accept", &body).await;
    assert_eq!(answer.status, 200, "{answer:?}");
    assert_eq!(answer.body["person"]["role"], role);
    Asker::with(client, answer.cookie.unwrap())
}

fn secret_of(path: &Value) -> String {
    path.as_str().unwrap().split_once('#').unwrap().1.to_owned()
}

async fn token<'a>(client: &'a Client, maker: &Asker<'_>, scope: &str) -> Asker<'a> {
    let body = json!({ "name": scope, "scope": scope, "days": 30 });
    let made = maker.post("/api/v1/tokens", &body).await.ok();
    let secret = made["secret"].as_str().unwrap();
    Asker {
        client,
        headers: vec![("Authorization", format!("Bearer {secret}"))],
    }
}

/// What a helper may do beside looking, in full: written down here apart from the table in the code.
const HELPERS: [&str; 19] = [
    "DELETE /blades/{id}/findings/{finding}",
    "DELETE /blades/{id}/photos/{photo}",
    "DELETE /blades/{id}/readings/{reading}",
    "DELETE /blades/{id}/traces/{trace}",
    "DELETE /stations/{id}/calibrations/{calibration}",
    "DELETE /stations/{id}/set-point",
    "POST /blades/{id}/findings",
    "POST /blades/{id}/firings",
    "POST /blades/{id}/photos",
    "POST /blades/{id}/photos/{photo}/line",
    "POST /blades/{id}/readings",
    "POST /blades/{id}/traces",
    "POST /firings/{id}/events",
    "POST /stations/{id}/calibrations",
    "POST /testers/aside",
    "PUT /blades/{id}/readings/{reading}/aside",
    "PUT /ladders/{id}",
    "PUT /stations/{id}/set-point",
    "PUT /trials/{id}",
];
/// What changes nothing, though it is asked by POST.
const ASKED: [&str; 12] = [
    "POST /advise/clay",
    "POST /advise/water",
    "POST /bath",
    "POST /blades/{id}/traces/read",
    "POST /day/what-if",
    "POST /help",
    "POST /outline",
    "POST /outline/file",
    "POST /predict",
    "POST /simulate",
    "POST /simulate/place",
    "POST /steels/meet",
];

/// Every operation as each role and as tokens of each scope: refused exactly where the table says, and before
/// anything of it is read.
#[sqlx::test(migrations = "../store/migrations")]
async fn every_route_is_for_whom_the_table_says(pool: PgPool) {
    let client = server(pool).await;
    let owner = Asker::shop(&client, "north").await;
    let smith = with_role(&client, &owner, "smith").await;
    let helper = with_role(&client, &owner, "helper").await;
    let reader = with_role(&client, &owner, "reader").await;
    let tokens = [
        token(&client, &owner, "read").await,
        token(&client, &owner, "fire").await,
        token(&client, &owner, "plan").await,
    ];
    let smiths_token = token(&client, &smith, "plan").await;
    let all = vatten_server::openapi::allowed();
    assert!(all.len() > 130);
    let mut open_to_helpers = Vec::new();
    for (method, path, need) in all {
        // A stream is heard elsewhere; who signs out or in here changes who asks.
        if path == "/api/v1/live"
            || path.starts_with("/api/v1/session")
            || path.ends_with("/signup")
        {
            continue;
        }
        let mut real = path.clone();
        while let (Some(from), Some(to)) = (real.find('{'), real.find('}')) {
            let value = match &real[from..=to] {
                "{file}" => "sheet.svg".to_owned(),
                "{key}" => "1084".to_owned(),
                _ => Uuid::now_v7().to_string(),
            };
            real.replace_range(from..=to, &value);
        }
        let method: Method = method.parse().unwrap();
        let reads = matches!(method, Method::Get);
        let body = (!reads && method != Method::Delete).then(|| "{}".to_owned());
        let least = match format!("{need:?}").as_str() {
            "Nothing" | "Read" | "Oneself" => 0,
            "Fire" => 1,
            "Plan" => 2,
            "Own" => 3,
            other => panic!("{other}"),
        };
        let people = [&reader, &helper, &smith, &owner];
        for (rank, who) in people.into_iter().enumerate() {
            let status = who.ask(method, &real, body.clone()).await.status;
            assert_eq!(
                status == 403,
                rank < least,
                "{method} {path} {rank} {status}"
            );
            assert_ne!(status, 401, "{method} {path}");
        }
        for (rank, script) in tokens.iter().enumerate() {
            let status = script.ask(method, &real, body.clone()).await.status;
            let in_person = format!("{need:?}") == "Oneself"
                || ["/api/v1/tokens", "/api/v1/day/calendar"].contains(&path.as_str())
                    && method == Method::Post;
            assert_eq!(
                status == 403,
                in_person || rank < least,
                "{method} {path} {rank} {status}"
            );
        }
        if least <= 1
            && !reads
            && format!("{need:?}") != "Nothing"
            && format!("{need:?}") != "Oneself"
        {
            open_to_helpers.push((format!("{method} {}", &path[7..]), least));
        }
    }
    let of = |wanted: usize| -> BTreeSet<&str> {
        let kept = open_to_helpers.iter().filter(|(_, least)| *least == wanted);
        kept.map(|(operation, _)| operation.as_str()).collect()
    };
    assert_eq!(of(1), HELPERS.into_iter().collect());
    assert_eq!(of(0), ASKED.into_iter().collect());
    // A token may no more than whoever made it may now.
    assert_eq!(
        smiths_token.post("/api/v1/bars", &json!({})).await.status,
        422
    );
    let people = owner.get("/api/v1/people").await.ok();
    let people = people.as_array().unwrap();
    let id = people.iter().find(|p| p["role"] == "smith").unwrap()["id"].clone();
    let path = format!("/api/v1/people/{}", id.as_str().unwrap());
    let less = json!({ "name": "Aksel", "role": "reader" });
    assert_eq!(owner.put(&path, &less).await.ok()["name"], "Aksel");
    assert_eq!(
        smiths_token.post("/api/v1/bars", &json!({})).await.status,
        403
    );
    assert_eq!(smith.post("/api/v1/bars", &json!({})).await.status, 403);
    // Who leaves is out, with their tokens.
    assert_eq!(owner.delete(&path).await.status, 204);
    assert_eq!(smith.get("/api/v1/session").await.status, 401);
    assert_eq!(smiths_token.get("/api/v1/blades").await.status, 401);
    let again = json!({ "email": "smith@shop.example", "password": PASSWORD });
    assert_eq!(
        Asker::nobody(&client)
            .post("/api/v1/session", &again)
            .await
            .status,
        401
    );
}

#[sqlx::test(migrations = "../store/migrations")]
async fn an_invitation_works_once_and_for_its_shop(pool: PgPool) {
    let client = server(pool).await;
    let owner = Asker::shop(&client, "north").await;
    let other = Asker::shop(&client, "south").await;
    let nobody = Asker::nobody(&client);
    let invite = json!({ "name": "Aksel", "role": "helper" });
    let made = owner.post("/api/v1/invitations", &invite).await.ok();
    let secret = secret_of(&made["path"]);
    let look = json!({ "secret": secret });
    let seen = nobody.post("/api/v1/invitations/look", &look).await.ok();
    assert_eq!(
        seen,
        json!({ "workshop": "north", "name": "Aksel", "role": "helper" })
    );
    let path = format!(
        "/api/v1/invitations/{}",
        made["invitation"]["id"].as_str().unwrap()
    );
    assert_eq!(other.delete(&path).await.status, 404);
    assert_eq!(other.get("/api/v1/invitations").await.ok(), json!([]));
    let accept = |email: &str, password: &str| json!({ "secret": secret, "name": "Aksel", "email": email, "password": password });
    let path_of = "/api/v1/invitations/accept";
    let weak = nobody
        .post(path_of, &accept("aksel@shop.example", "password123"))
        .await;
    assert_eq!((weak.status, weak.fields()), (422, vec!["password"]));
    let taken = nobody
        .post(path_of, &accept("NORTH@shop.example", PASSWORD))
        .await;
    assert_eq!((taken.status, taken.fields()), (422, vec!["email"]));
    let came = nobody
        .post(path_of, &accept("aksel@shop.example", PASSWORD))
        .await;
    assert_eq!(came.ok()["workshop"]["name"], "north");
    assert_eq!(
        nobody.post("/api/v1/invitations/look", &look).await.status,
        404
    );
    let twice = nobody
        .post(path_of, &accept("twice@shop.example", PASSWORD))
        .await;
    assert_eq!(twice.status, 404);
    // One that is taken back works no more.
    let made = owner.post("/api/v1/invitations", &invite).await.ok();
    let path = format!(
        "/api/v1/invitations/{}",
        made["invitation"]["id"].as_str().unwrap()
    );
    assert_eq!(owner.delete(&path).await.status, 204);
    let look = json!({ "secret": secret_of(&made["path"]) });
    assert_eq!(
        nobody.post("/api/v1/invitations/look", &look).await.status,
        404
    );
    // Another shop's people are nobody's here.
    let people = owner.get("/api/v1/people").await.ok();
    let id = people[1]["id"].as_str().unwrap();
    let path = format!("/api/v1/people/{id}");
    assert_eq!(
        other
            .put(&path, &json!({ "name": "x", "role": "reader" }))
            .await
            .status,
        404
    );
    assert_eq!(other.delete(&path).await.status, 404);
    assert_eq!(
        other
            .post(&format!("{path}/link"), &Value::Null)
            .await
            .status,
        404
    );
    // The last owner stays one.
    let own = format!("/api/v1/people/{}", people[0]["id"].as_str().unwrap());
    let step_down = owner
        .put(&own, &json!({ "name": "x", "role": "smith" }))
        .await;
    assert_eq!((step_down.status, step_down.fields()), (409, vec!["role"]));
    assert_eq!(owner.delete(&own).await.status, 409);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn another_password_ends_every_other_session(pool: PgPool) {
    let client = server(pool).await;
    let here = Asker::shop(&client, "north").await;
    let nobody = Asker::nobody(&client);
    let sign_in = |password: &str| json!({ "email": "north@shop.example", "password": password });
    let there = nobody.post("/api/v1/session", &sign_in(PASSWORD)).await;
    let there = Asker::with(&client, there.cookie.unwrap());
    let sessions = here.get("/api/v1/sessions").await.ok();
    let sessions = sessions.as_array().unwrap();
    assert_eq!(sessions.len(), 2);
    assert_eq!(sessions.iter().filter(|s| s["here"] == true).count(), 1);
    let path = "/api/v1/session/password";
    let wrong = json!({ "old": "not this one", "password": "hammer on cold steel" });
    let refused = here.put(path, &wrong).await;
    assert_eq!((refused.status, refused.fields()), (422, vec!["old"]));
    let change = json!({ "old": PASSWORD, "password": "hammer on cold steel" });
    let changed = here.put(path, &change).await;
    assert_eq!(changed.status, 200);
    let now_here = Asker::with(&client, changed.cookie.unwrap());
    assert_eq!(there.get("/api/v1/session").await.status, 401);
    assert_eq!(here.get("/api/v1/session").await.status, 401);
    assert_eq!(
        nobody
            .post("/api/v1/session", &sign_in(PASSWORD))
            .await
            .status,
        401
    );
    let there = nobody
        .post("/api/v1/session", &sign_in("hammer on cold steel"))
        .await;
    let there = Asker::with(&client, there.cookie.unwrap());
    // Signed out from afar, by its own person only.
    let sessions = now_here.get("/api/v1/sessions").await.ok();
    let afar = sessions
        .as_array()
        .unwrap()
        .iter()
        .find(|s| s["here"] == false)
        .unwrap();
    let path = format!("/api/v1/sessions/{}", afar["id"].as_str().unwrap());
    assert_eq!(
        Asker::shop(&client, "south")
            .await
            .delete(&path)
            .await
            .status,
        404
    );
    assert_eq!(now_here.delete(&path).await.status, 204);
    assert_eq!(there.get("/api/v1/session").await.status, 401);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn codes_and_links_let_back_in_once(pool: PgPool) {
    let client = server(pool).await;
    let owner = Asker::shop(&client, "north").await;
    let helper = with_role(&client, &owner, "helper").await;
    let nobody = Asker::nobody(&client);
    let codes = helper
        .post("/api/v1/session/codes", &json!({ "old": PASSWORD }))
        .await
        .ok();
    let codes = codes["codes"].as_array().unwrap();
    assert_eq!(codes.len(), 8);
    let by_code = |email: &str, code: &str| json!({ "email": email, "code": code, "password": "hammer on cold steel" });
    let code = codes[3].as_str().unwrap();
    let stranger = nobody
        .post("/api/v1/recovery", &by_code("north@shop.example", code))
        .await;
    assert_eq!(stranger.status, 401);
    // However it is spaced and written.
    let typed = code.replace('-', " ").to_uppercase();
    let back = nobody
        .post("/api/v1/recovery", &by_code("Helper@shop.example", &typed))
        .await;
    assert_eq!(back.status, 200, "{back:?}");
    let helper_again = Asker::with(&client, back.cookie.unwrap());
    assert_eq!(helper.get("/api/v1/session").await.status, 401);
    assert_eq!(
        helper_again.get("/api/v1/session/codes").await.ok()["left"],
        7
    );
    let twice = nobody
        .post("/api/v1/recovery", &by_code("helper@shop.example", code))
        .await;
    assert_eq!(twice.status, 401);
    // A link of the owner's.
    let people = owner.get("/api/v1/people").await.ok();
    let path = format!("/api/v1/people/{}/link", people[1]["id"].as_str().unwrap());
    let link = owner.post(&path, &Value::Null).await.ok();
    let by_link = json!({ "secret": secret_of(&link["path"]), "password": "another few words" });
    let back = nobody.post("/api/v1/recovery/link", &by_link).await;
    assert_eq!(back.ok()["person"]["email"], "helper@shop.example");
    assert_eq!(
        nobody.post("/api/v1/recovery/link", &by_link).await.status,
        401
    );
    assert_eq!(helper_again.get("/api/v1/session").await.status, 401);
}

/// From somewhere on the network, with a browser that may be known.
async fn try_from(
    client: &Client,
    address: &str,
    device: Option<&str>,
    password: &str,
) -> (u16, Option<String>) {
    let body = json!({ "email": "north@shop.example", "password": password }).to_string();
    let mut request = client
        .post("/api/v1/session")
        .header(rocket::http::ContentType::JSON)
        .remote(format!("{address}:4000").parse().unwrap())
        .body(body);
    if let Some(secret) = device {
        request = request.cookie(rocket::http::Cookie::new(
            "vatten_device",
            secret.to_owned(),
        ));
    }
    // Nobody may say by themselves where they come from.
    request = request.header(Header::new("X-Real-IP", Uuid::now_v7().to_string()));
    let answer = request.dispatch().await;
    let cookies: Vec<&str> = answer.headers().get("Set-Cookie").collect();
    let device = cookies
        .iter()
        .find_map(|c| c.strip_prefix("vatten_device="));
    let device = device.and_then(|c| c.split(';').next()).map(str::to_owned);
    (answer.status().code, device)
}

/// A stranger who guesses is stopped; the owner, and whoever else comes from elsewhere, is not.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_stranger_who_guesses_locks_nobody_out(pool: PgPool) {
    let client = server(pool).await;
    Asker::shop(&client, "north").await;
    let (status, device) = try_from(&client, "192.0.2.1", None, PASSWORD).await;
    assert_eq!(status, 200);
    let device = device.unwrap();
    for _ in 0..10 {
        assert_eq!(
            try_from(&client, "198.51.100.7", None, "wrong").await.0,
            401
        );
    }
    assert_eq!(
        try_from(&client, "198.51.100.7", None, PASSWORD).await.0,
        429
    );
    // From elsewhere it still goes, and from a browser that is known even beside the stranger.
    assert_eq!(try_from(&client, "192.0.2.1", None, PASSWORD).await.0, 200);
    assert_eq!(
        try_from(&client, "198.51.100.7", Some(&device), PASSWORD)
            .await
            .0,
        200
    );
    // A made-up browser is not known.
    assert_eq!(
        try_from(&client, "198.51.100.7", Some("mine"), PASSWORD)
            .await
            .0,
        429
    );
    // Many strangers together are stopped as well, and the known browser goes on.
    for stranger in 0..30 {
        for _ in 0..7 {
            try_from(&client, &format!("203.0.113.{stranger}"), None, "wrong").await;
        }
    }
    assert_eq!(
        try_from(&client, "203.0.113.200", None, PASSWORD).await.0,
        429
    );
    assert_eq!(
        try_from(&client, "203.0.113.200", Some(&device), PASSWORD)
            .await
            .0,
        200
    );
}

/// Capital letters that lower to two characters are compared the same way at signing up as at signing in.
#[sqlx::test(migrations = "../store/migrations")]
async fn addresses_are_compared_the_same_way(pool: PgPool) {
    let client = server(pool).await;
    let nobody = Asker::nobody(&client);
    let up = json!({ "workshop": "north", "name": "Owner", "email": "\u{130}da@shop.example", "password": PASSWORD });
    assert_eq!(nobody.post("/api/v1/signup", &up).await.status, 200);
    for email in [
        "\u{130}da@shop.example",
        "i\u{307}da@shop.example",
        "\u{130}DA@SHOP.example",
    ] {
        let body = json!({ "email": email, "password": PASSWORD });
        assert_eq!(
            nobody.post("/api/v1/session", &body).await.status,
            200,
            "{email}"
        );
    }
    assert_eq!(nobody.post("/api/v1/signup", &up).await.status, 422);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn an_operator_says_who_may_open_shops(pool: PgPool) {
    use vatten_server::config::{Config, SignUps};
    let with = |sign_up| {
        let config = Config {
            sign_up,
            ..crate::support::config()
        };
        Client::untracked(vatten_server::rocket(pool.clone(), config).unwrap())
    };
    let open = with(SignUps::Open).await.unwrap();
    let owner = Asker::shop(&open, "north").await;
    let invite = json!({ "name": "Aksel", "role": "helper" });
    let made = owner.post("/api/v1/invitations", &invite).await.ok();
    let accept = json!({ "secret": secret_of(&made["path"]), "name": "Aksel",
        "email": "aksel@shop.example", "password": PASSWORD });
    let up = json!({ "workshop": "south", "name": "Owner", "email": "south@shop.example", "password": PASSWORD });
    let off = with(SignUps::Off).await.unwrap();
    let nobody = Asker::nobody(&off);
    assert_eq!(nobody.post("/api/v1/signup", &up).await.status, 403);
    assert_eq!(
        nobody
            .post("/api/v1/invitations/accept", &accept)
            .await
            .status,
        403
    );
    let invited = with(SignUps::Invitation).await.unwrap();
    let nobody = Asker::nobody(&invited);
    assert_eq!(nobody.post("/api/v1/signup", &up).await.status, 403);
    assert_eq!(
        nobody
            .post("/api/v1/invitations/accept", &accept)
            .await
            .status,
        200
    );
}

/// Signing out closes what listens; so does revoking a token. Another session's stream goes on.
#[sqlx::test(migrations = "../store/migrations")]
async fn a_stream_ends_with_what_it_was_opened_by(pool: PgPool) {
    use rocket::tokio::time::{Duration, sleep, timeout};
    let client = server(pool).await;
    let owner = Asker::shop(&client, "north").await;
    let helper = with_role(&client, &owner, "helper").await;
    let script = token(&client, &owner, "read").await;
    let tokens = owner.get("/api/v1/tokens").await.ok();
    let revoke = format!("/api/v1/tokens/{}", tokens[0]["id"].as_str().unwrap());
    let patience = Duration::from_secs(20);
    let (by_token, by_session, others, ()) = rocket::tokio::join!(
        timeout(patience, script.get("/api/v1/live")),
        timeout(patience, helper.get("/api/v1/live")),
        timeout(Duration::from_secs(5), owner.get("/api/v1/live")),
        async {
            // Until the listening has begun.
            sleep(Duration::from_secs(2)).await;
            assert_eq!(owner.delete(&revoke).await.status, 204);
            assert_eq!(helper.delete("/api/v1/session").await.status, 204);
        }
    );
    assert_eq!(by_token.expect("it ended").status, 200);
    assert_eq!(by_session.expect("it ended").status, 200);
    assert!(others.is_err(), "it goes on");
}
