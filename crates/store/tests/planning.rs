//! What is kept before the fire, against a real PostgreSQL: each shop its own, nothing overwritten.

#![allow(clippy::unwrap_used, clippy::panic, reason = "tests")]

use serde_json::json;
use sqlx::PgPool;
use uuid::Uuid;
use vatten_core::material::reclaimed::Measured;
use vatten_core::material::salvage::Salvage;
use vatten_core::material::steel::Steel;
use vatten_core::process::bar::{BarSize, Condition};
use vatten_core::process::plan::Plan;
use vatten_core::process::step_draft::StepDraft;
use vatten_core::quantity::units::{Millimetres, Quantity};
use vatten_core::record::ladder::{Along, Ladder};
use vatten_core::record::trial::{Bath, Entry, Filed};
use vatten_store::bar::NewBar;
use vatten_store::blade::SteelRef;
use vatten_store::ladder::NewLadder;
use vatten_store::trial::Piece;
use vatten_store::{Error, WorkshopId, bar, ladder, method, person, trial};

async fn shop(pool: &PgPool, name: &str) -> WorkshopId {
    let email = format!("{name}@shop.example");
    let new = person::NewPerson {
        name: "Owner",
        email: &email,
        password_hash: "hash",
    };
    let made = person::sign_up(pool, name, new).await;
    made.unwrap().0
}

fn flat(name: &str, left_mm: f64) -> NewBar {
    NewBar {
        name: name.to_owned(),
        steel: SteelRef::BuiltIn("1084".to_owned()),
        layers: Vec::new(),
        size: BarSize {
            width_mm: 40.0,
            thickness_mm: 5.0,
            length_mm: 1000.0,
            left_mm,
        },
        condition: Condition::Spheroidized,
        analysis: None,
        note: String::new(),
    }
}

fn plan(temper_c: f64) -> Plan {
    let steps: Vec<StepDraft> = serde_json::from_value(json!([
        { "kind": "austenitize", "temperature_c": 815, "soak_s": 300 },
        { "kind": "quench", "stages": [{ "medium": "fast_oil" }] },
        { "kind": "temper", "temperature_c": temper_c, "hold_s": 7200 },
    ]))
    .unwrap();
    Plan::parse(&steps).unwrap()
}

#[sqlx::test(migrations = "./migrations")]
async fn a_bar_is_one_shops_and_never_overwritten(pool: PgPool) {
    let (north, south) = (shop(&pool, "north").await, shop(&pool, "south").await);
    let id = Uuid::now_v7();
    let made = bar::create(&pool, north, id, &flat("A", 900.0))
        .await
        .unwrap();
    assert_eq!((made.condition, made.blades), (Condition::Spheroidized, 0));
    let taken = bar::create(&pool, north, Uuid::now_v7(), &flat("a", 1.0)).await;
    assert!(matches!(taken, Err(Error::Refused(_))), "{taken:?}");
    let theirs = bar::create(&pool, south, id, &flat("A", 1.0)).await;
    assert!(matches!(theirs, Err(Error::NotFound)), "{theirs:?}");
    bar::update(&pool, north, id, &flat("A", 0.0), 1)
        .await
        .unwrap();
    let late = bar::update(&pool, north, id, &flat("A", 500.0), 1).await;
    assert!(matches!(late, Err(Error::Stale)), "{late:?}");
    bar::create(&pool, north, Uuid::now_v7(), &flat("B", 10.0))
        .await
        .unwrap();
    // What is used up stands last.
    let all = bar::list(&pool, north).await.unwrap();
    let names: Vec<_> = all.iter().map(|b| b.name.as_str()).collect();
    assert_eq!(names, ["B", "A"]);
    assert!(bar::list(&pool, south).await.unwrap().is_empty());
}

#[sqlx::test(migrations = "./migrations")]
async fn every_version_of_a_method_is_kept(pool: PgPool) {
    let (north, south) = (shop(&pool, "north").await, shop(&pool, "south").await);
    let id = Uuid::now_v7();
    let save = async |shop, plan: &Plan, version| {
        method::save(&pool, shop, id, "Way", "", plan, version).await
    };
    let first = save(north, &plan(200.0), 0).await.unwrap();
    // Sent twice it is the same method; from another shop it is nobody's.
    assert_eq!(save(north, &plan(200.0), 0).await.unwrap(), first);
    assert!(matches!(
        save(south, &plan(200.0), 0).await,
        Err(Error::NotFound)
    ));
    save(north, &plan(210.0), 1).await.unwrap();
    assert!(matches!(
        save(north, &plan(220.0), 1).await,
        Err(Error::Stale)
    ));
    let versions = method::versions(&pool, north, id).await.unwrap();
    assert_eq!(versions.len(), 2);
    assert_eq!(versions[1].steps, plan(200.0).steps());
    let touched = sqlx::query("update method_version set name = 'x'")
        .execute(&pool)
        .await;
    assert!(touched.is_err(), "what was saved stays");
    method::retire(&pool, north, id).await.unwrap();
    assert!(method::list(&pool, north).await.unwrap().is_empty());
    assert!(matches!(
        method::retire(&pool, south, id).await,
        Err(Error::NotFound)
    ));
}

#[sqlx::test(migrations = "./migrations")]
async fn a_trial_keeps_its_coupons_in_order(pool: PgPool) {
    let (north, south) = (shop(&pool, "north").await, shop(&pool, "south").await);
    let id = Uuid::now_v7();
    let piece = Piece {
        was: Salvage::LeafSpring,
        measured: Measured::default(),
        thickness: Millimetres::clamped(6.0),
    };
    let begun = trial::create(&pool, north, id, "Spring", &piece)
        .await
        .unwrap();
    assert_eq!(begun.piece, piece);
    let first = Entry::First {
        bath: Bath::Oil,
        file: Filed::Skates,
        skated_hrc: Some(60.0),
        bit_hrc: None,
        temperature_c: None,
        by: None,
    };
    let rung = Entry::Rung {
        temperature_c: Some(790.0),
        by: None,
        file: Filed::Skates,
        grain: 2,
    };
    let saved = trial::save(&pool, north, id, &[first, rung], begun.version)
        .await
        .unwrap();
    assert_eq!(saved.entries, [first, rung]);
    let late = trial::save(&pool, north, id, &[first], begun.version).await;
    assert!(matches!(late, Err(Error::Stale)), "{late:?}");
    let theirs = trial::save(&pool, south, id, &[], saved.version).await;
    assert!(matches!(theirs, Err(Error::NotFound)), "{theirs:?}");
    assert_eq!(trial::list(&pool, north).await.unwrap(), [saved]);
    // No steel came of it yet: nothing is narrowed.
    let mut connection = pool.acquire().await.unwrap();
    let sources = trial::sources(&mut connection, north).await.unwrap();
    assert!(sources.is_empty());
}

#[sqlx::test(migrations = "./migrations")]
async fn a_ladder_is_the_shops_own(pool: PgPool) {
    let (north, south) = (shop(&pool, "north").await, shop(&pool, "south").await);
    let id = Uuid::now_v7();
    let steel = Steel::built_in("1084").unwrap();
    let mut new = NewLadder {
        name: "Tempers".into(),
        steel: steel.key.clone(),
        ladder: Ladder::usual(Along::Tempers, steel),
    };
    let begun = ladder::create(&pool, north, id, &new).await.unwrap();
    assert_eq!(begun.of, new);
    // The same id again is the same ladder, and no other shop's.
    assert_eq!(ladder::create(&pool, north, id, &new).await.unwrap(), begun);
    let theirs = ladder::create(&pool, south, id, &new).await;
    assert!(matches!(theirs, Err(Error::NotFound)), "{theirs:?}");
    new.ladder.rungs[0].values_hrc = vec![63.0, 62.5];
    let saved = ladder::update(&pool, north, id, &new, 1).await.unwrap();
    assert_eq!((saved.of, saved.version), (new.clone(), 2));
    let late = ladder::update(&pool, north, id, &new, 1).await;
    assert!(matches!(late, Err(Error::Stale)), "{late:?}");
    let theirs = ladder::update(&pool, south, id, &new, 2).await;
    assert!(matches!(theirs, Err(Error::NotFound)), "{theirs:?}");
    let theirs = ladder::delete(&pool, south, id).await;
    assert!(matches!(theirs, Err(Error::NotFound)), "{theirs:?}");
    assert!(ladder::list(&pool, south).await.unwrap().is_empty());
    ladder::delete(&pool, north, id).await.unwrap();
    assert!(ladder::list(&pool, north).await.unwrap().is_empty());
}
