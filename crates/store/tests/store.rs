//! The store against a real PostgreSQL: what the database itself holds to.

#![allow(clippy::unwrap_used, clippy::panic, reason = "tests")]

use sqlx::PgPool;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::analysis::Analysis;
use vatten_core::blade::{Blade, BladeDraft};
use vatten_core::firing::{Happening, beats};
use vatten_core::learn::Model;
use vatten_core::method;
use vatten_core::plan::{Plan, Stations};
use vatten_core::prediction::{Prediction, StationNames, Subject, predict};
use vatten_core::purpose::Purpose;
use vatten_core::reading::{Values, When};
use vatten_core::ready::{Made, Ready};
use vatten_core::steel::Steel;
use vatten_core::work::Work;
use vatten_store::blade::{NewBlade, SteelRef};
use vatten_store::firing::Frozen;
use vatten_store::reading::NewReading;
use vatten_store::{
    Error, WorkshopId, archive, blade, firing, person, plan, reading, record, session, station,
    steel, token, workshop,
};

async fn shop(pool: &PgPool, name: &str) -> (WorkshopId, Uuid) {
    let email = format!("{name}@shop.example");
    person::sign_up(pool, name, "Owner", &email, "hash")
        .await
        .unwrap()
}

fn geometry() -> Blade {
    Blade::parse(&BladeDraft {
        length_mm: Some(150.0),
        width_mm: Some(26.0),
        spine_mm: Some(3.5),
        edge_mm: Some(0.8),
        ..BladeDraft::default()
    })
    .unwrap()
}

fn new_blade(mark: &str) -> NewBlade {
    NewBlade {
        mark: mark.to_owned(),
        name: "Bench blade".to_owned(),
        steel: SteelRef::BuiltIn("1084".to_owned()),
        geometry: geometry(),
        purpose: Purpose::AllRound,
        target_hrc: (59.0, 61.0),
        ready: Ready::default(),
        bar_id: None,
        note: String::new(),
    }
}

fn usual_plan() -> Plan {
    method::usual(
        Steel::built_in("1084").unwrap(),
        &geometry(),
        None,
        (59.0, 61.0),
        Stations::default(),
    )
}

fn prediction() -> Prediction {
    let (plan, work) = (usual_plan(), Work::plain(&geometry()));
    let steel = Steel::built_in("1084").unwrap();
    let subject = Subject {
        plan: &plan,
        steel,
        work: &work,
        tester: None,
        bar: None,
        hand: None,
    };
    predict(subject, &Model::default(), &StationNames::new(), None)
}

/// A blade that was fired to the end; gives blade and firing.
async fn fired(pool: &PgPool, shop: WorkshopId, mark: &str) -> (Uuid, Uuid) {
    let id = blade::create(pool, shop, Uuid::now_v7(), &new_blade(mark))
        .await
        .unwrap()
        .id;
    let draft = plan::save(pool, shop, id, &usual_plan(), 0).await.unwrap();
    let now = OffsetDateTime::now_utc();
    let started = firing::start(
        pool,
        shop,
        Uuid::now_v7(),
        &draft,
        Frozen {
            prediction: &prediction(),
            made: &Made::default(),
        },
        now,
    )
    .await
    .unwrap();
    for beat in 0..beats(usual_plan().steps()).len() {
        let what = Happening::Confirm { beat };
        firing::happen(pool, shop, started.id, Uuid::now_v7(), &what, now, None)
            .await
            .unwrap();
    }
    (id, started.id)
}

fn read(values: &[f64], taken_at: OffsetDateTime) -> NewReading {
    NewReading {
        id: Uuid::now_v7(),
        stage: When::Tempered,
        values: Values::parse(values).unwrap(),
        tester_id: None,
        note: String::new(),
        taken_at,
        taken: vatten_core::reading::Taken::default(),
    }
}

fn refused_at(error: Error, field: &str) {
    match error {
        Error::Refused(faults) => assert_eq!(faults.0[0].field, field),
        other => panic!("{other}"),
    }
}

fn named(kind: &str, name: &str) -> vatten_store::station::NewStation {
    let kind = vatten_core::station::StationKind::parse(kind).unwrap();
    vatten_store::station::NewStation::named(kind, name.to_owned())
}

#[sqlx::test(migrations = "./migrations")]
async fn migrating_twice_is_migrating_once(pool: PgPool) {
    vatten_store::migrate(&pool).await.unwrap();
    vatten_store::migrate(&pool).await.unwrap();
}

#[sqlx::test(migrations = "./migrations")]
async fn names_are_taken_once_in_a_shop_and_free_in_the_next(pool: PgPool) {
    let ((north, _), (south, _)) = (shop(&pool, "north").await, shop(&pool, "south").await);
    let analysis = Analysis {
        carbon: 0.8,
        ..Analysis::default()
    };
    let new = Uuid::now_v7;
    steel::create(&pool, north, new(), "Own", &analysis, None)
        .await
        .unwrap();
    refused_at(
        steel::create(&pool, north, new(), "OWN", &analysis, None)
            .await
            .unwrap_err(),
        "name",
    );
    steel::create(&pool, south, new(), "Own", &analysis, None)
        .await
        .unwrap();
    station::create(&pool, north, new(), &named("oven", "Oven"))
        .await
        .unwrap();
    refused_at(
        station::create(&pool, north, new(), &named("oven", "oven"))
            .await
            .unwrap_err(),
        "name",
    );
    station::create(&pool, north, new(), &named("kiln", "Oven"))
        .await
        .unwrap();
    blade::create(&pool, north, new(), &new_blade("K-1"))
        .await
        .unwrap();
    refused_at(
        blade::create(&pool, north, new(), &new_blade("k-1"))
            .await
            .unwrap_err(),
        "mark",
    );
    blade::create(&pool, south, new(), &new_blade("K-1"))
        .await
        .unwrap();
    assert_eq!(blade::next_mark(&pool, north).await.unwrap(), "K-2");
    let twin = person::sign_up(&pool, "x", "x", "NORTH@shop.example", "h")
        .await
        .unwrap_err();
    refused_at(twin, "email");
    assert!(
        person::credentials(&pool, "North@Shop.Example")
            .await
            .unwrap()
            .is_some()
    );
}

#[sqlx::test(migrations = "./migrations")]
async fn no_row_points_into_another_shop(pool: PgPool) {
    let ((north, _), (south, south_owner)) =
        (shop(&pool, "north").await, shop(&pool, "south").await);
    let analysis = Analysis {
        carbon: 0.8,
        ..Analysis::default()
    };
    let own = steel::create(&pool, south, Uuid::now_v7(), "Own", &analysis, None)
        .await
        .unwrap();
    let stolen = NewBlade {
        steel: SteelRef::House(own.id),
        ..new_blade("K-9")
    };
    refused_at(
        blade::create(&pool, north, Uuid::now_v7(), &stolen)
            .await
            .unwrap_err(),
        "steel",
    );
    assert!(matches!(
        steel::get(&pool, north, own.id).await,
        Err(Error::NotFound)
    ));
    // The same id in another shop is nobody's to take.
    let again = steel::create(&pool, north, own.id, "Mine", &analysis, None).await;
    assert!(matches!(again, Err(Error::NotFound)));
    assert_eq!(steel::get(&pool, south, own.id).await.unwrap().name, "Own");

    let (id, fire) = fired(&pool, south, "K-1").await;
    let tester = station::create(&pool, north, Uuid::now_v7(), &named("tester", "T"))
        .await
        .unwrap();
    let mut new = read(&[60.0], OffsetDateTime::now_utc());
    new.tester_id = Some(tester.id);
    refused_at(
        reading::create(&pool, south, id, &new).await.unwrap_err(),
        "tester_id",
    );
    assert!(matches!(
        firing::get(&pool, north, fire).await,
        Err(Error::NotFound)
    ));
    assert!(matches!(
        firing::events(&pool, north, fire).await,
        Err(Error::NotFound)
    ));
    assert!(matches!(
        plan::latest(&pool, north, id).await,
        Err(Error::NotFound)
    ));
    assert!(matches!(
        person::get(&pool, north, south_owner).await,
        Err(Error::NotFound)
    ));
    assert!(archive::plans(&pool, north).await.unwrap().is_empty());
    assert_eq!(
        archive::events(&pool, south).await.unwrap().len(),
        beats(usual_plan().steps()).len()
    );
}

#[sqlx::test(migrations = "./migrations")]
async fn the_tables_refuse_what_cannot_be(pool: PgPool) {
    let (north, _) = shop(&pool, "north").await;
    let (id, fire) = fired(&pool, north, "K-1").await;
    let insert = |values: &'static str| {
        sqlx::query(sqlx::AssertSqlSafe(format!(
            "insert into reading (id, workshop_id, blade_id, firing_id, stage, values_hrc, taken_at)
             values (gen_random_uuid(), $1, $2, $3, 'tempered', {values}, now())"
        )))
        .bind(north.uuid())
        .bind(id)
        .bind(fire)
        .execute(&pool)
    };
    insert("array[60.0]").await.unwrap();
    assert!(insert("array[71.0]").await.is_err());
    assert!(insert("array[-1.0]").await.is_err());
    assert!(insert("array[]::float8[]").await.is_err());
    for change in [
        "update blade set edge_mm = 9",
        "update blade set length_mm = 5000",
        "update blade set steel_key = null",
        "update blade set target_low_hrc = 65",
        "update plan set steps = '[]'",
        "delete from plan",
        "update event set at = now()",
        "delete from event",
    ] {
        assert!(
            sqlx::query(change).execute(&pool).await.is_err(),
            "{change}"
        );
    }
}

#[sqlx::test(migrations = "./migrations")]
async fn of_two_who_save_at_once_one_is_told(pool: PgPool) {
    let (north, _) = shop(&pool, "north").await;
    let id = blade::create(&pool, north, Uuid::now_v7(), &new_blade("K-1"))
        .await
        .unwrap()
        .id;
    let draft = plan::save(&pool, north, id, &usual_plan(), 0)
        .await
        .unwrap();
    let steps = usual_plan();
    let (a, b) = tokio::join!(
        plan::save(&pool, north, id, &steps, draft.version),
        plan::save(&pool, north, id, &steps, draft.version),
    );
    assert!(a.is_ok() ^ b.is_ok(), "exactly one");
    // A second first draft is no draft at all.
    assert!(matches!(
        plan::save(&pool, north, id, &usual_plan(), 0).await,
        Err(Error::Stale)
    ));
    let changed = NewBlade {
        name: "Other".to_owned(),
        ..new_blade("K-1")
    };
    blade::update(&pool, north, id, &changed, false, 1)
        .await
        .unwrap();
    assert!(matches!(
        blade::update(&pool, north, id, &changed, false, 1).await,
        Err(Error::Stale)
    ));
    let mut settings = workshop::get(&pool, north).await.unwrap();
    settings.name = "North forge".to_owned();
    assert_eq!(
        workshop::update(&pool, north, &settings)
            .await
            .unwrap()
            .version,
        2
    );
    assert!(matches!(
        workshop::update(&pool, north, &settings).await,
        Err(Error::Stale)
    ));
}

#[sqlx::test(migrations = "./migrations")]
async fn the_same_beat_from_two_hands_happens_once(pool: PgPool) {
    let (north, _) = shop(&pool, "north").await;
    let id = blade::create(&pool, north, Uuid::now_v7(), &new_blade("K-1"))
        .await
        .unwrap()
        .id;
    let draft = plan::save(&pool, north, id, &usual_plan(), 0)
        .await
        .unwrap();
    let now = OffsetDateTime::now_utc();
    let firing_id = Uuid::now_v7();
    let started = firing::start(
        &pool,
        north,
        firing_id,
        &draft,
        Frozen {
            prediction: &prediction(),
            made: &Made::default(),
        },
        now,
    )
    .await
    .unwrap();
    let again = firing::start(
        &pool,
        north,
        firing_id,
        &draft,
        Frozen {
            prediction: &prediction(),
            made: &Made::default(),
        },
        now,
    )
    .await
    .unwrap();
    assert_eq!(started.id, again.id, "the same firing sent twice is one");
    let what = Happening::Confirm { beat: 0 };
    let (a, b) = (Uuid::now_v7(), Uuid::now_v7());
    let (a, b) = tokio::join!(
        firing::happen(&pool, north, firing_id, a, &what, now, None),
        firing::happen(&pool, north, firing_id, b, &what, now, None),
    );
    assert!(a.is_ok() ^ b.is_ok(), "exactly one");
    assert_eq!(
        firing::get(&pool, north, firing_id)
            .await
            .unwrap()
            .state
            .position,
        1
    );
    assert_eq!(
        firing::events(&pool, north, firing_id).await.unwrap().len(),
        1
    );
    // Another plan for the blade cannot start while this one burns.
    let next = plan::save(&pool, north, id, &usual_plan(), 0)
        .await
        .unwrap();
    let second = firing::start(
        &pool,
        north,
        Uuid::now_v7(),
        &next,
        Frozen {
            prediction: &prediction(),
            made: &Made::default(),
        },
        now,
    )
    .await;
    assert!(matches!(second, Err(Error::NotNow(_))));
    assert_eq!(firing::of_blade(&pool, north, id).await.unwrap().len(), 1);
}

#[sqlx::test(migrations = "./migrations")]
async fn finished_blades_come_in_pages_without_gaps(pool: PgPool) {
    let (north, _) = shop(&pool, "north").await;
    for i in 0..23 {
        let id = Uuid::now_v7();
        blade::create(&pool, north, id, &new_blade(&format!("M-{i}")))
            .await
            .unwrap();
        let day = OffsetDateTime::now_utc() - Duration::days(i);
        blade::set_dates(&pool, north, id, day, Some(day))
            .await
            .unwrap();
    }
    let (mut seen, mut before) = (Vec::new(), None);
    loop {
        let page = blade::finished(&pool, north, before, 10).await.unwrap();
        before = page.last().map(|b| b.id);
        seen.extend(page.into_iter().map(|b| b.mark));
        if seen.len() % 10 != 0 || before.is_none() {
            break;
        }
    }
    let wanted: Vec<String> = (0..23).rev().map(|i| format!("M-{i}")).collect();
    assert_eq!(seen, wanted);
    assert!(blade::rack(&pool, north).await.unwrap().is_empty());
    assert_eq!(blade::all(&pool, north).await.unwrap().len(), 23);
    assert_eq!(blade::marks(&pool, north).await.unwrap().len(), 23);
}

#[sqlx::test(migrations = "./migrations")]
async fn records_are_the_newest_in_time_order_and_their_number_goes_up(pool: PgPool) {
    let (north, _) = shop(&pool, "north").await;
    let (id, _) = fired(&pool, north, "K-1").await;
    let version = workshop::records_version(&pool, north).await.unwrap();
    let now = OffsetDateTime::now_utc();
    for (day, hrc) in [(3, 58.0), (1, 60.0), (2, 59.0)] {
        reading::create(&pool, north, id, &read(&[hrc], now - Duration::days(day)))
            .await
            .unwrap();
    }
    let values =
        |rows: Vec<record::RecordRow>| rows.iter().map(|r| r.values_hrc[0]).collect::<Vec<_>>();
    assert_eq!(
        values(record::list(&pool, north, 10).await.unwrap()),
        [58.0, 59.0, 60.0]
    );
    assert_eq!(
        values(record::list(&pool, north, 2).await.unwrap()),
        [59.0, 60.0]
    );
    assert_eq!(
        workshop::records_version(&pool, north).await.unwrap(),
        version + 3
    );
    let all = reading::of_blade(&pool, north, id).await.unwrap();
    reading::withdraw(&pool, north, id, all[0].id)
        .await
        .unwrap();
    assert_eq!(
        values(record::list(&pool, north, 10).await.unwrap()),
        [59.0, 60.0]
    );
    assert_eq!(
        reading::of_blade(&pool, north, id).await.unwrap().len(),
        3,
        "kept, not lost"
    );
    assert!(matches!(
        reading::withdraw(&pool, north, id, Uuid::now_v7()).await,
        Err(Error::NotFound)
    ));
    assert_eq!(
        archive::readings(&pool, north)
            .await
            .unwrap()
            .iter()
            .filter(|r| r.withdrawn)
            .count(),
        1
    );
}

#[sqlx::test(migrations = "./migrations")]
async fn sessions_and_tokens_end(pool: PgPool) {
    let (north, owner) = shop(&pool, "north").await;
    session::open(&pool, north, owner, b"one").await.unwrap();
    assert_eq!(
        session::find(&pool, b"one").await.unwrap(),
        Some((north, owner))
    );
    sqlx::query("update session set expires_at = now() - interval '1 minute'")
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(session::find(&pool, b"one").await.unwrap(), None);
    session::open(&pool, north, owner, b"two").await.unwrap();
    let kept: i64 = sqlx::query_scalar("select count(*) from session")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(kept, 1, "the one that ran out was forgotten");
    session::close(&pool, b"two").await.unwrap();
    assert_eq!(session::find(&pool, b"two").await.unwrap(), None);

    let made = token::create(&pool, north, owner, "script", b"three")
        .await
        .unwrap();
    assert_eq!(
        token::find(&pool, b"three").await.unwrap(),
        Some((north, owner))
    );
    token::revoke(&pool, north, made.id).await.unwrap();
    assert_eq!(token::find(&pool, b"three").await.unwrap(), None);
    assert!(matches!(
        token::revoke(&pool, north, made.id).await,
        Err(Error::NotFound)
    ));
    assert!(token::list(&pool, north).await.unwrap().is_empty());

    for _ in 0..session::MAX_FAILURES {
        assert!(!session::must_wait(&pool, b"mail").await.unwrap());
        session::note_failure(&pool, b"mail").await.unwrap();
    }
    assert!(session::must_wait(&pool, b"mail").await.unwrap());
    assert!(!session::must_wait(&pool, b"other").await.unwrap());
}
