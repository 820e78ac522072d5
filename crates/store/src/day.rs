//! The days to come: the blades on them, pins, hours, the day as it was laid last, and how long things really took.

use crate::workshop::WorkshopId;
use crate::{Error, one_at_least};
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::planning::kept::KeptDay;
use vatten_core::planning::shop::ShopHours;
use vatten_core::process::step::Step;

/// Most blades on the days to come.
pub const MOST_BLADES: i64 = 40;

/// A blade on a day to come.
#[derive(Debug, Clone, PartialEq)]
pub struct DayBlade {
    /// The blade.
    pub blade_id: Uuid,
    /// Its mark.
    pub mark: String,
    /// Version of the blade.
    pub version: i64,
    /// Version of the clay that is painted; 0 when none is.
    pub clay_version: i64,
    /// Not before.
    pub not_before: OffsetDateTime,
    /// Wanted by.
    pub due_at: Option<OffsetDateTime>,
    /// Steps of its latest plan; none without a plan.
    pub steps: Option<Vec<Step>>,
}

/// The blades on the days to come, in the order in which they were put there.
///
/// # Errors
/// The database cannot be read.
pub async fn blades(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<DayBlade>, Error> {
    let rows = sqlx::query!(
        r#"select d.blade_id, b.mark, b.version, coalesce(c.version, 0) as "clay_version!", d.not_before, d.due_at,
               p.steps as "steps?: Json<Vec<Step>>"
           from day_blade d join blade b on b.workshop_id = d.workshop_id and b.id = d.blade_id
           left join clay c on c.workshop_id = d.workshop_id and c.blade_id = d.blade_id
           left join lateral (
               select p.steps from plan p where p.workshop_id = d.workshop_id and p.blade_id = d.blade_id
               order by p.number desc limit 1) p on true
           where d.workshop_id = $1 order by d.added_at, d.blade_id"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    let blades = rows.into_iter().map(|r| DayBlade {
        blade_id: r.blade_id,
        mark: r.mark,
        version: r.version,
        clay_version: r.clay_version,
        not_before: r.not_before,
        due_at: r.due_at,
        steps: r.steps.map(|s| s.0),
    });
    Ok(blades.collect())
}

/// Whether there is anything on the days to come.
///
/// # Errors
/// The database cannot be read.
pub async fn any(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<bool, Error> {
    Ok(sqlx::query_scalar!(
        r#"select exists (select 1 from day_blade where workshop_id = $1) as "any!""#,
        workshop.uuid()
    )
    .fetch_one(db)
    .await?)
}

/// A blade that is put on a day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NewDayBlade {
    /// The blade.
    pub blade_id: Uuid,
    /// Not before.
    pub not_before: OffsetDateTime,
    /// Wanted by.
    pub due_at: Option<OffsetDateTime>,
}

/// Puts blades on the days to come.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade; [`Error::NotNow`] when one is on a day already, or there are too
/// many.
pub async fn add(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    new: &[NewDayBlade],
) -> Result<(), Error> {
    let mut tx = sqlx::Connection::begin(connection).await?;
    crate::workshop::lock(&mut tx, workshop).await?;
    for one in new {
        crate::blade::get(&mut *tx, workshop, one.blade_id).await?;
        let done = sqlx::query!(
            "insert into day_blade (workshop_id, blade_id, not_before, due_at) values ($1, $2, $3, $4)
             on conflict do nothing",
            workshop.uuid(),
            one.blade_id,
            one.not_before,
            one.due_at
        )
        .execute(&mut *tx)
        .await?;
        if done.rows_affected() == 0 {
            let sentence = "This blade is on a day already: move it there.";
            return Err(Error::not_now("blades", sentence));
        }
    }
    let count = sqlx::query_scalar!(
        r#"select count(*) as "n!" from day_blade where workshop_id = $1"#,
        workshop.uuid()
    )
    .fetch_one(&mut *tx)
    .await?;
    if count > MOST_BLADES {
        let sentence = "More blades than can be planned at once: at most 40.";
        return Err(Error::not_now("blades", sentence));
    }
    tx.commit().await?;
    Ok(())
}

/// Changes when a blade may begin and when it is wanted.
///
/// # Errors
/// [`Error::NotFound`] when it is on no day.
pub async fn change(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    new: NewDayBlade,
) -> Result<(), Error> {
    let done = sqlx::query!(
        "update day_blade set not_before = $3, due_at = $4 where workshop_id = $1 and blade_id = $2",
        workshop.uuid(),
        new.blade_id,
        new.not_before,
        new.due_at
    )
    .execute(db)
    .await?;
    one_at_least(&done)
}

/// Takes a blade off, with its pins.
///
/// # Errors
/// [`Error::NotFound`] when it is on no day.
pub async fn remove(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<(), Error> {
    let done = sqlx::query!(
        "delete from day_blade where workshop_id = $1 and blade_id = $2",
        workshop.uuid(),
        blade_id
    )
    .execute(db)
    .await?;
    one_at_least(&done)
}

/// Takes off every blade whose firing since it was put there is over.
///
/// # Errors
/// The database cannot be written.
pub async fn clear_fired(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<u64, Error> {
    let done = sqlx::query!(
        "delete from day_blade d where d.workshop_id = $1
           and exists (select 1 from firing f where f.workshop_id = d.workshop_id and f.blade_id = d.blade_id
               and f.closed_at > d.added_at)
           and not exists (select 1 from firing f where f.workshop_id = d.workshop_id and f.blade_id = d.blade_id
               and f.closed_at is null)",
        workshop.uuid()
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected())
}

/// A start that was pinned by hand.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pin {
    /// The blade.
    pub blade_id: Uuid,
    /// Its activity, from 0.
    pub activity: i32,
    /// When it starts.
    pub start_at: OffsetDateTime,
}

/// All pins.
///
/// # Errors
/// The database cannot be read.
pub async fn pins(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Pin>, Error> {
    Ok(sqlx::query_as!(
        Pin,
        "select blade_id, activity, start_at from day_pin where workshop_id = $1 order by start_at",
        workshop.uuid()
    )
    .fetch_all(db)
    .await?)
}

/// Pins the start of an activity.
///
/// # Errors
/// [`Error::NotFound`] when the blade is on no day.
pub async fn pin(db: impl PgExecutor<'_>, workshop: WorkshopId, pin: Pin) -> Result<(), Error> {
    let done = sqlx::query!(
        "insert into day_pin (workshop_id, blade_id, activity, start_at)
         select workshop_id, blade_id, $3, $4 from day_blade where workshop_id = $1 and blade_id = $2
         on conflict (workshop_id, blade_id, activity) do update set start_at = $4",
        workshop.uuid(),
        pin.blade_id,
        pin.activity,
        pin.start_at
    )
    .execute(db)
    .await?;
    one_at_least(&done)
}

/// Lets a start go again; one that is not pinned is let go already.
///
/// # Errors
/// The database cannot be written.
pub async fn unpin(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    activity: i32,
) -> Result<(), Error> {
    sqlx::query!(
        "delete from day_pin where workshop_id = $1 and blade_id = $2 and activity = $3",
        workshop.uuid(),
        blade_id,
        activity
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A shop's hours and their version; none before it said any.
///
/// # Errors
/// The database cannot be read.
pub async fn hours(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Option<(ShopHours, i64)>, Error> {
    let row = sqlx::query!(
        r#"select hours as "hours: Json<ShopHours>", version from day_hours where workshop_id = $1"#,
        workshop.uuid()
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.hours.0, r.version)))
}

/// Saves a shop's hours; `version` is 0 before the first.
///
/// # Errors
/// [`Error::Stale`] when they were changed meanwhile.
pub async fn set_hours(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    hours: &ShopHours,
    version: i64,
) -> Result<i64, Error> {
    let row = sqlx::query_scalar!(
        "insert into day_hours (workshop_id, hours) values ($1, $2)
         on conflict (workshop_id) do update set hours = $2, version = day_hours.version + 1
             where day_hours.version = $3
         returning version",
        workshop.uuid(),
        Json(hours) as _,
        version
    )
    .fetch_optional(db)
    .await?;
    row.ok_or(Error::Stale)
}

/// The day as it was laid last, and its version; an empty one of version 0 before the first.
///
/// # Errors
/// The database cannot be read.
pub async fn kept(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<(KeptDay, i64), Error> {
    let row = sqlx::query!(
        r#"select kept as "kept: Json<KeptDay>", version from day where workshop_id = $1"#,
        workshop.uuid()
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map_or_else(|| (KeptDay::default(), 0), |r| (r.kept.0, r.version)))
}

/// Keeps a day as it was laid.
///
/// # Errors
/// [`Error::Stale`] when another was kept meanwhile.
pub async fn keep(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    day: &KeptDay,
    version: i64,
) -> Result<i64, Error> {
    let row = sqlx::query_scalar!(
        "insert into day (workshop_id, kept) values ($1, $2)
         on conflict (workshop_id) do update set kept = $2, version = day.version + 1, laid_at = now()
             where day.version = $3
         returning version",
        workshop.uuid(),
        Json(day) as _,
        version
    )
    .fetch_optional(db)
    .await?;
    row.ok_or(Error::Stale)
}

/// How long something took beside how long it was given.
#[derive(Debug, Clone, PartialEq)]
pub struct Length {
    /// The firing.
    pub firing_id: Uuid,
    /// Its activity.
    pub activity: i32,
    /// What kind of thing.
    pub kind: String,
    /// Where.
    pub station: Option<String>,
    /// Who.
    pub operator: Option<String>,
    /// By the engine, or as is usual, s.
    pub usual_s: i32,
    /// Really, s.
    pub took_s: i32,
    /// As the day had it, s.
    pub planned_s: i32,
    /// When it was over.
    pub ended_at: OffsetDateTime,
}

/// Keeps how long things took; what is known stays.
///
/// # Errors
/// The database cannot be written.
pub async fn keep_lengths(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    lengths: &[Length],
) -> Result<(), Error> {
    let of = |f: fn(&Length) -> i32| lengths.iter().map(f).collect::<Vec<i32>>();
    let firings: Vec<Uuid> = lengths.iter().map(|l| l.firing_id).collect();
    let kinds: Vec<String> = lengths.iter().map(|l| l.kind.clone()).collect();
    let stations: Vec<Option<String>> = lengths.iter().map(|l| l.station.clone()).collect();
    let operators: Vec<Option<String>> = lengths.iter().map(|l| l.operator.clone()).collect();
    let ended: Vec<OffsetDateTime> = lengths.iter().map(|l| l.ended_at).collect();
    sqlx::query!(
        "insert into day_length (workshop_id, firing_id, activity, kind, station, operator, usual_s, took_s, planned_s, ended_at)
         select $1, * from unnest($2::uuid[], $3::int[], $4::text[], $5::text[], $6::text[], $7::int[], $8::int[], $9::int[], $10::timestamptz[])
         on conflict do nothing",
        workshop.uuid(),
        &firings,
        &of(|l| l.activity),
        &kinds,
        &stations as &[Option<String>],
        &operators as &[Option<String>],
        &of(|l| l.usual_s),
        &of(|l| l.took_s),
        &of(|l| l.planned_s),
        &ended
    )
    .execute(connection)
    .await?;
    Ok(())
}

/// Newest lengths that are learned from.
const MOST_LENGTHS: i64 = 2000;

/// How long things took, the newest last.
///
/// # Errors
/// The database cannot be read.
pub async fn lengths(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Length>, Error> {
    let mut all = sqlx::query_as!(
        Length,
        "select firing_id, activity, kind, station, operator, usual_s, took_s, planned_s, ended_at from day_length
         where workshop_id = $1 order by ended_at desc, firing_id, activity limit $2",
        workshop.uuid(),
        MOST_LENGTHS
    )
    .fetch_all(db)
    .await?;
    all.reverse();
    Ok(all)
}

/// Puts up a calendar under a new secret; one from before no longer opens.
///
/// # Errors
/// The database cannot be written.
pub async fn set_calendar(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    secret_hash: &[u8],
) -> Result<(), Error> {
    sqlx::query!(
        "insert into day_calendar (workshop_id, secret_hash) values ($1, $2)
         on conflict (workshop_id) do update set secret_hash = $2, created_at = now()",
        workshop.uuid(),
        secret_hash
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Takes the calendar down.
///
/// # Errors
/// The database cannot be written.
pub async fn revoke_calendar(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<(), Error> {
    sqlx::query!(
        "delete from day_calendar where workshop_id = $1",
        workshop.uuid()
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Since when there is a calendar.
///
/// # Errors
/// The database cannot be read.
pub async fn calendar_since(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Option<OffsetDateTime>, Error> {
    Ok(sqlx::query_scalar!(
        "select created_at from day_calendar where workshop_id = $1",
        workshop.uuid()
    )
    .fetch_optional(db)
    .await?)
}

/// The shop whose calendar has this secret.
///
/// # Errors
/// [`Error::NotFound`] when there is none.
pub async fn shop_of_calendar(
    db: impl PgExecutor<'_>,
    secret_hash: &[u8],
) -> Result<WorkshopId, Error> {
    let id = sqlx::query_scalar!(
        "select workshop_id from day_calendar where secret_hash = $1",
        secret_hash
    )
    .fetch_one(db)
    .await?;
    Ok(WorkshopId::new(id))
}
