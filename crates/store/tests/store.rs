//! The store against a real PostgreSQL: what the database itself holds to.

#![allow(clippy::unwrap_used, clippy::panic, reason = "tests")]

use sqlx::PgPool;
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::advice::method;
use vatten_core::geometry::blade::{Blade, BladeDraft};
use vatten_core::learning::Model;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::purpose::Purpose;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::made::{Made, MadeOf, SteelMade};
use vatten_core::prediction::reason::Why;
use vatten_core::prediction::subject::Subject;
use vatten_core::prediction::{Prediction, StationNames, predict};
use vatten_core::process::operator::Operator;
use vatten_core::process::plan::{Plan, Stations};
use vatten_core::process::ready::Ready;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::record::firing::{FiringEvent, actions};
use vatten_core::record::reading::{Values, When};
use vatten_store::blade::{NewBlade, SteelRef};
use vatten_store::firing::{Frozen, Past};
use vatten_store::person::NewPerson;
use vatten_store::reading::NewReading;
use vatten_store::role::{Role, Scope};
use vatten_store::tries::{self, Limit};
use vatten_store::{
    Error, WorkshopId, archive, blade, firing, invitation, person, plan, reading, record, recovery,
    session, station, steel, token, trace, workshop,
};

fn someone(email: &str) -> NewPerson<'_> {
    NewPerson {
        name: "Owner",
        email,
        password_hash: "hash",
    }
}

async fn shop(pool: &PgPool, name: &str) -> (WorkshopId, Uuid) {
    let email = format!("{name}@shop.example");
    person::sign_up(pool, name, someone(&email)).await.unwrap()
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
        cut_mm: None,
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
    let (plan, work) = (usual_plan(), Workpiece::plain(&geometry()));
    let steel = Steel::built_in("1084").unwrap();
    let subject = Subject {
        plan: &plan,
        steel,
        work: &work,
        tester: None,
        bar: None,
        operator: None,
    };
    predict(subject, &Model::default(), &StationNames::new(), None)
}

fn made(mark: &str) -> Made {
    let new = new_blade(mark);
    Made {
        mark: new.mark,
        name: new.name,
        blade: new.geometry,
        material: MadeOf {
            steel: SteelMade::BuiltIn {
                key: "1084".to_owned(),
            },
            bar: None,
        },
        purpose: new.purpose,
        target_hrc: new.target_hrc,
        ready: new.ready,
        clay: None,
        stations: Stations::default(),
        checks: vatten_core::process::calibration::Corrections::default(),
    }
}

fn past(what: FiringEvent, at: OffsetDateTime) -> Past {
    Past {
        id: Uuid::now_v7(),
        what,
        at,
        device_at: None,
    }
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
            made: &made("K-1"),
        },
        now,
    )
    .await
    .unwrap();
    for action in 0..actions(usual_plan().steps()).len() {
        let what = FiringEvent::Confirm { action };
        firing::happen(pool, shop, started.id, &past(what, now), None)
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
        taken: vatten_core::record::reading::Taken::default(),
    }
}

fn refused_at(error: Error, field: &str) {
    match error {
        Error::Refused(faults) => assert_eq!(faults.0[0].field, field),
        other => panic!("{other}"),
    }
}

fn named(kind: &str, name: &str) -> vatten_store::station::NewStation {
    let kind = vatten_core::process::station::StationKind::parse(kind).unwrap();
    vatten_store::station::NewStation::named(kind, name.to_owned())
}

#[sqlx::test(migrations = "./migrations")]
async fn migrating_twice_is_migrating_once(pool: PgPool) {
    vatten_store::migrate(&pool).await.unwrap();
    vatten_store::migrate(&pool).await.unwrap();
}

/// Whatever nouns take part: all of it happens, or none.
#[sqlx::test(migrations = "./migrations")]
async fn one_transaction_holds_changes_of_several_nouns(pool: PgPool) {
    let (north, _) = shop(&pool, "north").await;
    let (blade_id, station_id) = (Uuid::now_v7(), Uuid::now_v7());
    let mut tx = pool.begin().await.unwrap();
    let kiln = named("kiln", "Kiln");
    station::create(&mut *tx, north, station_id, &kiln)
        .await
        .unwrap();
    blade::create(&mut *tx, north, blade_id, &new_blade("K-1"))
        .await
        .unwrap();
    assert_eq!(station::list(&mut *tx, north).await.unwrap().len(), 1);
    tx.rollback().await.unwrap();
    assert!(station::list(&pool, north).await.unwrap().is_empty());
    assert!(blade::get(&pool, north, blade_id).await.is_err());
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
    let twin = person::sign_up(&pool, "x", someone("NORTH@shop.example"))
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
    assert!(
        archive::plans(&pool, north, &[id])
            .await
            .unwrap()
            .is_empty()
    );
    assert!(
        archive::events(&pool, north, &[id])
            .await
            .unwrap()
            .is_empty()
    );
    assert_eq!(
        archive::events(&pool, south, &[id]).await.unwrap().len(),
        actions(usual_plan().steps()).len()
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
    blade::update(&pool, north, id, &changed, false, 1, None)
        .await
        .unwrap();
    assert!(matches!(
        blade::update(&pool, north, id, &changed, false, 1, None).await,
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
async fn the_same_action_from_two_operators_happens_once(pool: PgPool) {
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
            made: &made("K-1"),
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
            made: &made("K-1"),
        },
        now,
    )
    .await
    .unwrap();
    assert_eq!(started.id, again.id, "the same firing sent twice is one");
    let press = || past(FiringEvent::Confirm { action: 0 }, now);
    let (a, b) = (press(), press());
    let (a, b) = tokio::join!(
        firing::happen(&pool, north, firing_id, &a, None),
        firing::happen(&pool, north, firing_id, &b, None),
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
            made: &made("K-1"),
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
        blade::update(
            &pool,
            north,
            id,
            &new_blade(&format!("M-{i}")),
            true,
            1,
            None,
        )
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
    let all = blade::after(&pool, north, None, 100).await.unwrap();
    assert_eq!(all.len(), 23);
    let rest = blade::after(&pool, north, Some(all[9].id), 100).await;
    assert_eq!(rest.unwrap(), all[10..]);
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
        archive::readings(&pool, north, &[id])
            .await
            .unwrap()
            .iter()
            .filter(|r| r.withdrawn_at.is_some())
            .count(),
        1
    );
}

#[sqlx::test(migrations = "./migrations")]
async fn sessions_and_tokens_end(pool: PgPool) {
    let (north, owner) = shop(&pool, "north").await;
    session::open(&pool, north, owner, "", b"one")
        .await
        .unwrap();
    let found = session::find(&pool, b"one").await.unwrap().unwrap();
    assert_eq!((found.workshop, found.person_id), (north, owner));
    assert_eq!(found.role, Role::Owner);
    sqlx::query("update session set expires_at = now() - interval '1 minute'")
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(session::find(&pool, b"one").await.unwrap(), None);
    session::open(&pool, north, owner, "", b"two")
        .await
        .unwrap();
    let kept: i64 = sqlx::query_scalar("select count(*) from session")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(kept, 1, "the one that ran out was forgotten");
    session::close(&pool, b"two").await.unwrap();
    assert_eq!(session::find(&pool, b"two").await.unwrap(), None);

    let new = token::NewToken {
        name: "script",
        scope: Scope::Fire,
        days: Some(30),
    };
    let made = token::create(&pool, north, owner, new, b"three")
        .await
        .unwrap();
    assert!(made.expires_at.is_some());
    let found = token::find(&pool, b"three").await.unwrap().unwrap();
    assert_eq!((found.workshop, found.person_id), (north, owner));
    assert_eq!(
        found.role,
        Role::Helper,
        "its scope allows less than its maker"
    );
    assert!(
        token::list(&pool, north).await.unwrap()[0]
            .last_used_at
            .is_some()
    );
    token::revoke(&pool, north, made.id).await.unwrap();
    assert_eq!(token::find(&pool, b"three").await.unwrap(), None);
    assert!(matches!(
        token::revoke(&pool, north, made.id).await,
        Err(Error::NotFound)
    ));
    assert!(token::list(&pool, north).await.unwrap().is_empty());
}

#[sqlx::test(migrations = "./migrations")]
async fn tries_are_counted_by_every_limit(pool: PgPool) {
    let limit = |name: &str, most| Limit {
        bucket: name.into(),
        most,
        minutes: 15,
    };
    let both = [limit("client", 3), limit("account", 2)];
    for _ in 0..2 {
        assert!(tries::take(&pool, &both).await.unwrap());
    }
    assert!(!tries::take(&pool, &both).await.unwrap());
    // What was refused was not counted: the client has one left for another account.
    let other = [limit("client", 3), limit("other", 2)];
    assert!(tries::take(&pool, &other).await.unwrap());
    assert!(!tries::take(&pool, &other).await.unwrap());
    tries::give_back(&pool, &both).await.unwrap();
    assert!(tries::take(&pool, &both).await.unwrap());
}

#[sqlx::test(migrations = "./migrations")]
async fn people_come_in_once_by_each_invitation(pool: PgPool) {
    let (north, owner) = shop(&pool, "north").await;
    let (south, _) = shop(&pool, "south").await;
    let made = invitation::create(&pool, north, owner, "Aksel", Role::Helper, b"one")
        .await
        .unwrap();
    assert!(matches!(
        invitation::revoke(&pool, south, made.id).await,
        Err(Error::NotFound)
    ));
    let to = invitation::find(&pool, b"one").await.unwrap();
    assert_eq!((to.workshop.as_str(), to.role), ("north", Role::Helper));
    // An address that is taken uses nothing up.
    let taken = invitation::accept(&pool, b"one", someone("North@shop.example")).await;
    assert!(matches!(taken, Err(Error::Refused(_))));
    let accepted = invitation::accept(&pool, b"one", someone("aksel@shop.example")).await;
    let (shop, helper) = accepted.unwrap();
    assert_eq!(shop, north);
    let again = invitation::accept(&pool, b"one", someone("other@shop.example")).await;
    assert!(matches!(again, Err(Error::NotFound)));
    let late = invitation::create(&pool, north, owner, "Late", Role::Reader, b"two");
    late.await.unwrap();
    sqlx::query("update invitation set expires_at = now() - interval '1 second'")
        .execute(&pool)
        .await
        .unwrap();
    assert!(matches!(
        invitation::find(&pool, b"two").await,
        Err(Error::NotFound)
    ));
    assert_eq!(
        person::get(&pool, north, helper).await.unwrap().role,
        Role::Helper
    );
}

#[sqlx::test(migrations = "./migrations")]
async fn a_shop_has_an_owner_whatever_is_asked(pool: PgPool) {
    let (north, owner) = shop(&pool, "north").await;
    invitation::create(&pool, north, owner, "Aksel", Role::Owner, b"one")
        .await
        .unwrap();
    let accepted = invitation::accept(&pool, b"one", someone("aksel@shop.example")).await;
    let (_, second) = accepted.unwrap();
    session::open(&pool, north, second, "", b"his")
        .await
        .unwrap();
    // Both cease to be one at once: one of them is refused.
    let (a, b) = tokio::join!(
        person::change(&pool, north, owner, "Owner", Role::Smith),
        person::leave(&pool, north, second)
    );
    assert!(a.is_ok() != b.is_ok());
    let left = person::list(&pool, north).await.unwrap();
    assert!(left.iter().any(|p| p.role == Role::Owner));
    if b.is_ok() {
        assert_eq!(session::find(&pool, b"his").await.unwrap(), None);
        // The address is free again.
        shop_of(&pool, "aksel@shop.example").await;
    }
}

async fn shop_of(pool: &PgPool, email: &str) {
    person::sign_up(pool, "another", someone(email))
        .await
        .unwrap();
}

#[sqlx::test(migrations = "./migrations")]
async fn ways_back_in_work_once(pool: PgPool) {
    let (north, owner) = shop(&pool, "north").await;
    let codes = [b"a".to_vec(), b"b".to_vec()];
    recovery::set_codes(&pool, north, owner, &codes)
        .await
        .unwrap();
    let stranger = recovery::use_code(&pool, "south@shop.example", b"a").await;
    assert!(matches!(stranger, Err(Error::NotFound)));
    let back = recovery::use_code(&pool, "NORTH@shop.example", b"a")
        .await
        .unwrap();
    assert_eq!((back.workshop, back.person_id), (north, owner));
    assert!(
        recovery::use_code(&pool, "north@shop.example", b"a")
            .await
            .is_err()
    );
    assert_eq!(recovery::codes_left(&pool, north, owner).await.unwrap(), 1);
    recovery::set_link(&pool, north, owner, b"old")
        .await
        .unwrap();
    recovery::set_link(&pool, north, owner, b"new")
        .await
        .unwrap();
    assert!(recovery::use_link(&pool, b"old").await.is_err());
    session::open(&pool, north, owner, "", b"lost")
        .await
        .unwrap();
    session::know_device(&pool, north, owner, b"phone")
        .await
        .unwrap();
    assert!(
        session::is_known_device(&pool, "north@shop.example", b"phone")
            .await
            .unwrap()
    );
    recovery::use_link(&pool, b"new").await.unwrap();
    person::set_password(&pool, north, owner, "other")
        .await
        .unwrap();
    assert_eq!(session::find(&pool, b"lost").await.unwrap(), None);
    assert!(
        !session::is_known_device(&pool, "north@shop.example", b"phone")
            .await
            .unwrap()
    );
}

/// As after a power cut: the server is up before its database.
#[sqlx::test(migrations = false)]
async fn a_database_that_comes_late_is_waited_for(pool: PgPool) {
    use std::io::copy;
    use std::net::{TcpListener, TcpStream};
    let options = pool.connect_options();
    let there = (options.get_host().to_owned(), options.get_port());
    let port = {
        let free = TcpListener::bind("127.0.0.1:0").unwrap();
        free.local_addr().unwrap().port()
    };
    std::thread::spawn(move || {
        std::thread::sleep(std::time::Duration::from_millis(800));
        let late = TcpListener::bind(("127.0.0.1", port)).unwrap();
        for client in late.incoming().flatten() {
            let server = TcpStream::connect(&there).unwrap();
            let (mut up, mut down) = (client.try_clone().unwrap(), server.try_clone().unwrap());
            std::thread::spawn(move || copy(&mut up, &mut down));
            let (mut server, mut client) = (server, client);
            std::thread::spawn(move || copy(&mut server, &mut client));
        }
    });
    let name = options.get_database().unwrap();
    let url = format!(
        "postgres://{}@127.0.0.1:{port}/{name}",
        options.get_username()
    );
    let told = std::sync::atomic::AtomicU32::new(0);
    let count = || {
        told.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
    };
    let opened = vatten_store::open(&url, 2, count).await.unwrap();
    assert_eq!(told.into_inner(), 1);
    let shops: i64 = sqlx::query_scalar("select count(*) from workshop")
        .fetch_one(&opened)
        .await
        .unwrap();
    assert_eq!(shops, 0);
    // What waiting does not mend is not waited for.
    let wrong = format!("postgres://nobody-here@127.0.0.1:{port}/none");
    assert!(vatten_store::open(&wrong, 2, count_not).await.is_err());
}

fn count_not() {
    panic!("nothing to wait for");
}

/// Every migration up to one, in order.
async fn migrate_to(pool: &PgPool, last: &str) {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/migrations");
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .unwrap()
        .map(|f| f.unwrap().path())
        .collect();
    files.sort();
    for file in files {
        let name = file.file_name().unwrap().to_string_lossy().into_owned();
        if name.as_str() <= last {
            migration(pool, &name).await;
        }
    }
}

async fn migration(pool: &PgPool, name: &str) {
    let path = format!("{}/migrations/{name}", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).unwrap();
    let run = sqlx::raw_sql(sqlx::AssertSqlSafe(text)).execute(pool).await;
    run.unwrap_or_else(|e| panic!("{name}: {e}"));
}

/// A database as the version before it left one: a blade of a house steel from a bar of two, fired with an undo
/// by position, and an oven that was checked before and after.
const BEFORE_AS_DONE: &str = r#"
insert into workshop (id, name) values ('00000000-0000-7000-8000-000000000001', 'north');
insert into person (id, workshop_id, email, name, password_hash) values (gen_random_uuid(),
    '00000000-0000-7000-8000-000000000001', 'owner@north.example', 'Owner', 'hash');
insert into steel (id, workshop_id, name, analysis) values ('00000000-0000-7000-8000-000000000002',
    '00000000-0000-7000-8000-000000000001', 'spring', '{"C":0.6,"Si":0.2,"Mn":0.9,"Cr":0,"Mo":0,"W":0,"V":0,"Ni":0,"N":0}');
insert into bar (id, workshop_id, name, house_steel_id, layers, width_mm, thickness_mm, length_mm, left_mm, condition)
values ('00000000-0000-7000-8000-000000000003', '00000000-0000-7000-8000-000000000001', 'clad',
    '00000000-0000-7000-8000-000000000002',
    '[{"role":"edge","steel":"00000000-0000-7000-8000-000000000002"},{"role":"cladding","steel":"1018"}]',
    30, 4, 900, 500, 'forged');
insert into station (id, workshop_id, kind, name) values ('00000000-0000-7000-8000-000000000004',
    '00000000-0000-7000-8000-000000000001', 'oven', 'Oven');
insert into calibration (id, workshop_id, station_id, against, points, done_at) values
    (gen_random_uuid(), '00000000-0000-7000-8000-000000000001', '00000000-0000-7000-8000-000000000004', 'thermometer', '[[200,204]]', '2026-01-01Z'),
    (gen_random_uuid(), '00000000-0000-7000-8000-000000000001', '00000000-0000-7000-8000-000000000004', 'thermometer', '[[200,209]]', '2026-09-01Z');
insert into blade (id, workshop_id, mark, name, house_steel_id, shape, length_mm, width_mm, spine_mm, edge_mm, grind,
    purpose, target_low_hrc, target_high_hrc, bar_id)
values ('00000000-0000-7000-8000-000000000005', '00000000-0000-7000-8000-000000000001', 'K-1', 'Hook',
    '00000000-0000-7000-8000-000000000002', 'plain', 150, 26, 3.5, 0.8, 'flat', 'all_round', 58, 60,
    '00000000-0000-7000-8000-000000000003');
insert into plan (id, workshop_id, blade_id, number, format, steps, frozen_at)
values ('00000000-0000-7000-8000-000000000006', '00000000-0000-7000-8000-000000000001',
    '00000000-0000-7000-8000-000000000005', 1, 2, '[{"kind":"austenitize","temperature_c":815.0,"soak_s":300.0},
    {"kind":"quench","stages":[{"medium":"water","bath_c":25.0,"for_s":2.0},{"medium":"fast_oil","bath_c":50.0}]},
    {"kind":"temper","temperature_c":205.0,"hold_s":7200.0,"times":2}]', '2026-06-01Z');
insert into firing (id, workshop_id, blade_id, plan_id, prediction, state, done, started_at, made)
values ('00000000-0000-7000-8000-000000000007', '00000000-0000-7000-8000-000000000001',
    '00000000-0000-7000-8000-000000000005', '00000000-0000-7000-8000-000000000006', '{prediction}',
    '{"position":4,"confirmed_ms":[0,60000,360000,366000],"untempered_since_ms":null,"quenched":false,"tempered":false,
      "closed":false,"said":[]}', '[]', '2026-06-01T10:00:00Z', '{"ready":{"beside":2}}');
insert into event (id, workshop_id, firing_id, position, happening, at)
select ('00000000-0000-7000-8000-0000000001' || lpad(e.n::text, 2, '0'))::uuid, '00000000-0000-7000-8000-000000000001',
    '00000000-0000-7000-8000-000000000007', e.n - 1, e.what, timestamptz '2026-06-01T10:00:00Z' + e.n * interval '1 minute'
from jsonb_array_elements('[{"kind":"confirm","beat":0},{"kind":"confirm","beat":1},{"kind":"undo","beat":1},
    {"kind":"confirm","beat":1},{"kind":"confirm","beat":2},{"kind":"confirm","beat":3}]') with ordinality as e (what, n);
"#;

#[sqlx::test(migrations = false)]
async fn what_an_older_version_kept_is_whole_after_the_migration(pool: PgPool) {
    migrate_to(&pool, "0011_lessons.sql").await;
    let predicted = serde_json::to_string(&prediction())
        .unwrap()
        .replace('\'', "''");
    let before = BEFORE_AS_DONE.replace("{prediction}", &predicted);
    let put_in = sqlx::raw_sql(sqlx::AssertSqlSafe(before))
        .execute(&pool)
        .await;
    put_in.unwrap();
    for newer in ["0012_as_done.sql", "0013_facts.sql", "0014_terms.sql"] {
        migration(&pool, newer).await;
    }
    let id = |n: u128| Uuid::from_u128(0x7000_8000_0000_0000_0000 | n);
    migration(&pool, "0022_people.sql").await;
    let owner = person::credentials(&pool, "owner@north.example").await;
    let north = owner.unwrap().unwrap().workshop;
    let firing = firing::get(&pool, north, id(7)).await.unwrap();
    // The blade whole, with its bar, both of its steels and the check of the time.
    let made = &firing.made;
    assert_eq!((made.blade.length_mm, made.ready.beside), (150.0, 2));
    let bar = made.material.bar.as_ref().unwrap();
    assert_eq!((bar.name.as_str(), bar.layers.len()), ("clad", 1));
    let metal = made.material.metal().unwrap();
    assert_eq!(metal.edge.name, "spring");
    assert_eq!(metal.layers[0].steel.key, "1018");
    let really = made.checks.really(Some(id(4)), 200.0);
    assert!((3.0..4.0).contains(&(really - 200.0)), "{really}");
    // What was pressed counts now: six seconds in the water, not two.
    let text = serde_json::to_string(&firing.done.steps[1]).unwrap();
    assert!(text.contains("\"for_s\":6.0"), "{text}");
    // The undo names its event, and the events are the state.
    let events = firing::events(&pool, north, id(7)).await.unwrap();
    let undone = events[1].id;
    assert_eq!(events[2].what, FiringEvent::Undo { event: undone });
    let told: Vec<_> = events
        .iter()
        .map(|e| vatten_core::record::firing::Event {
            id: e.id,
            what: e.what.clone(),
            at_ms: 0,
        })
        .collect();
    let state = vatten_core::record::firing::state(&firing.steps, &told).unwrap();
    assert_eq!(state.confirmed_by, firing.state.confirmed_by);
    assert_eq!(state.position, 4);
    let undo = FiringEvent::Undo {
        event: firing.state.confirmed_by[3],
    };
    let now = OffsetDateTime::now_utc();
    let back = firing::happen(&pool, north, id(7), &past(undo, now), None).await;
    assert_eq!(back.unwrap().state.position, 3);
}

#[sqlx::test(migrations = "./migrations")]
async fn a_change_after_the_fire_is_kept_beside_it_and_changes_nothing_of_it(pool: PgPool) {
    let (north, owner) = shop(&pool, "north").await;
    let new = |spine_mm: f64| NewBlade {
        geometry: Blade {
            spine_mm,
            ..geometry()
        },
        ..new_blade("K-1")
    };
    let (id, fire) = fired(&pool, north, "K-1").await;
    let before = firing::get(&pool, north, fire).await.unwrap();
    let version = blade::get(&pool, north, id).await.unwrap().version;
    blade::update(&pool, north, id, &new(6.0), false, version, Some(owner))
        .await
        .unwrap();
    let after = firing::get(&pool, north, fire).await.unwrap();
    assert_eq!(after.made, before.made);
    let edits = vatten_store::edit::of_blade(&pool, north, id)
        .await
        .unwrap();
    assert_eq!(edits.len(), 1);
    assert_eq!(edits[0].by.as_deref(), Some("Owner"));
    let changed: Vec<_> = edits[0].changed.iter().collect();
    assert_eq!(changed.len(), 1, "{changed:?}");
    assert_eq!(*changed[0].0, "spine_mm");
    assert_eq!(
        changed[0].1,
        &[serde_json::json!(3.5), serde_json::json!(6.0)]
    );
    // A change that changes nothing is none, and one before any fire is no part of its story.
    blade::update(&pool, north, id, &new(6.0), false, version + 1, None)
        .await
        .unwrap();
    assert_eq!(
        vatten_store::edit::of_blade(&pool, north, id)
            .await
            .unwrap()
            .len(),
        1
    );
    let unfired = blade::create(&pool, north, Uuid::now_v7(), &new_blade("K-2"))
        .await
        .unwrap();
    let other = NewBlade {
        name: "Other".to_owned(),
        ..new_blade("K-2")
    };
    blade::update(&pool, north, unfired.id, &other, false, 1, None)
        .await
        .unwrap();
    let none = vatten_store::edit::of_blade(&pool, north, unfired.id).await;
    assert!(none.unwrap().is_empty());
}

/// A shop as version 0.1 left it at migration 12: six firings in all stages of the work, with their predictions in
/// sentences, and a log with notes.
const SENTENCES: &str = include_str!("kept/sentences.sql");

#[sqlx::test(migrations = false)]
async fn sentences_of_the_version_before_are_facts_after_the_migration(pool: PgPool) {
    migrate_to(&pool, "0012_as_done.sql").await;
    let run = async |sql: &str| {
        let done = sqlx::raw_sql(sqlx::AssertSqlSafe(sql.to_owned())).execute(&pool);
        done.await.unwrap();
    };
    run(SENTENCES).await;
    let numbers = "select jsonb_agg(prediction -> 'hardness' order by id)::text from firing";
    let before: String = sqlx::query_scalar(numbers).fetch_one(&pool).await.unwrap();
    migration(&pool, "0013_facts.sql").await;
    vatten_store::facts::bring_up_to_date(&pool).await.unwrap();
    // Who quenched, as the version between the two kept it; the name is as unlucky as can be.
    run(
        r#"update firing set prediction = jsonb_set(prediction, '{reasons,0}',
           '{"about": "tempered", "code": "hand_results", "hand": "\"hand\": Tove"}')"#,
    )
    .await;
    migration(&pool, "0014_terms.sql").await;
    // A second server that starts finds nothing left to do.
    vatten_store::facts::bring_up_to_date(&pool).await.unwrap();
    let after: String = sqlx::query_scalar(numbers).fetch_one(&pool).await.unwrap();
    assert_eq!(after, before);
    let left = "select count(*) from firing where prediction_before is not null";
    let left: i64 = sqlx::query_scalar(left).fetch_one(&pool).await.unwrap();
    assert_eq!(left, 0, "every sentence was read");

    migration(&pool, "0022_people.sql").await;
    let owner = person::credentials(&pool, "smith@brinholm.example").await;
    let shop = owner.unwrap().unwrap().workshop;
    let ids: Vec<Uuid> = sqlx::query_scalar("select id from firing order by id")
        .fetch_all(&pool)
        .await
        .unwrap();
    assert_eq!(ids.len(), 6);
    let (mut notes, mut said) = (Vec::new(), 0);
    for id in ids {
        let f = firing::get(&pool, shop, id).await.unwrap();
        let events = firing::events(&pool, shop, id).await.unwrap();
        let confirmed = |e: &&firing::EventRow| matches!(e.what, FiringEvent::Confirm { .. });
        assert!(events.iter().filter(confirmed).count() >= f.state.position);
        let who = |e: &&firing::EventRow| matches!(e.what, FiringEvent::Operator { .. });
        said += events.iter().filter(who).count();
        let why = Why::OperatorResults {
            operator: Some("\"hand\": Tove".to_owned()),
            slower_s: None,
        };
        assert_eq!(f.prediction.reasons[0].why, why);
        assert!(f.prediction.reasons.len() >= 5, "{:?}", f.prediction);
        assert!(f.prediction.outcomes.unwrap().outcome_reasons.len() >= 6);
        let action = f
            .state
            .position
            .checked_sub(1)
            .and_then(|i| f.actions.get(i));
        assert_eq!(f.state.doing, action.map(|b| b.doing));
        for log in trace::of_blade(&pool, shop, f.blade_id).await.unwrap() {
            notes.extend(log.notes);
        }
    }
    assert_eq!(notes.len(), 3, "{notes:?}");
    let who = firing::operators(&pool, shop).await.unwrap();
    let mut who: Vec<&str> = who.iter().map(Operator::name).collect();
    who.sort_unstable();
    assert_eq!(who, ["Aksel", "Tove"]);
    assert_eq!(said, 6, "who quenched is in each log");
}
