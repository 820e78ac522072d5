//! Checks of stations. They are never changed, only withdrawn.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::calibration::{Against, Calibration, Check, Checks};
use vatten_core::process::eye::Look;
use vatten_core::process::sighting::Sign;
use vatten_core::record::firing::FiringEvent;

/// A check as it was read.
#[derive(Debug, Clone, PartialEq)]
pub struct CalibrationRow {
    /// Id.
    pub id: Uuid,
    /// The station.
    pub station_id: Uuid,
    /// What it was checked against.
    pub against: Against,
    /// What it showed and what really was, `[shown, really]`, °C or HRC.
    pub points: Calibration,
    /// Remark.
    pub note: String,
    /// When.
    pub done_at: OffsetDateTime,
    /// Withdrawn since: kept, not used.
    pub withdrawn_at: Option<OffsetDateTime>,
    /// How far it moved since the check before, °C or HRC.
    pub drift: Option<f64>,
}

/// A check to be kept.
#[derive(Debug, Clone, PartialEq)]
pub struct NewCalibration {
    /// Id, made by the client.
    pub id: Uuid,
    /// What it was checked against.
    pub against: Against,
    /// What was read.
    pub points: Calibration,
    /// Remark.
    pub note: String,
    /// When.
    pub done_at: OffsetDateTime,
}

/// All checks of the shop's stations, oldest first, withdrawn ones too.
///
/// # Errors
/// The database cannot be read.
pub async fn list(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Vec<CalibrationRow>, Error> {
    let rows = sqlx::query!(
        r#"select id, station_id, against, points as "points: Json<Calibration>", note, done_at, withdrawn_at
           from calibration where workshop_id = $1 order by done_at, id"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    let mut all: Vec<CalibrationRow> = Vec::with_capacity(rows.len());
    for r in rows {
        let points = r.points.0;
        let earlier = all
            .iter()
            .rev()
            .find(|c| c.station_id == r.station_id && c.withdrawn_at.is_none());
        all.push(CalibrationRow {
            drift: earlier.map(|e| points.drift_since(&e.points)),
            id: r.id,
            station_id: r.station_id,
            against: serde_json::from_value(r.against.into())?,
            points,
            note: r.note,
            done_at: r.done_at,
            withdrawn_at: r.withdrawn_at,
        });
    }
    Ok(all)
}

/// The checks that count, to be asked what was in force when, and with them what eyes called colours at the fire beside
/// a thermocouple; nothing that was taken back.
///
/// # Errors
/// The database cannot be read.
pub async fn checks(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Checks, Error> {
    let rows = sqlx::query!(
        r#"select station_id as "station_id!", points as "points: Json<Calibration>", against,
               done_at as "at!", null::jsonb as "what: Json<FiringEvent>", null::uuid as shown_by
           from calibration where workshop_id = $1 and withdrawn_at is null
           union all
           select (what -> 'by' ->> 'eye_id')::uuid, null, null, at, what, (f.made #>> '{stations,kiln}')::uuid
           from event e join firing f on f.workshop_id = $1 and f.id = e.firing_id
           where e.workshop_id = $1 and what -> 'by' ->> 'eye_id' is not null and what ? 'temperature_c'
             and not exists (select from event u where u.workshop_id = $1 and u.firing_id = e.firing_id
                 and u.what ->> 'kind' = 'undo' and u.what ->> 'event' = e.id::text)
           order by 4, 1"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    let (mut checks, mut looks) = (Vec::new(), Vec::new());
    for r in rows {
        let at_s = r.at.unix_timestamp();
        if let (Some(points), Some(against)) = (r.points, r.against) {
            let check = Check {
                at_s,
                against: serde_json::from_value(against.into())?,
                points: points.0,
            };
            checks.push((r.station_id, check));
        }
        let shown_by = r.shown_by;
        let look = r.what.and_then(|what| look(&what.0, at_s, shown_by));
        looks.extend(look.map(|look| (r.station_id, look)));
    }
    Ok(Checks::from_iter(checks).with_looks(looks))
}

/// What an eye called a colour beside a thermocouple.
fn look(what: &FiringEvent, at_s: i64, shown_by: Option<Uuid>) -> Option<Look> {
    let FiringEvent::Say {
        by: Some(by),
        temperature_c: Some(really),
        ..
    } = what
    else {
        return None;
    };
    let Sign::Colour { colour, light } = by.sign else {
        return None;
    };
    Some(Look {
        at_s,
        colour,
        light,
        really_c: really.value(),
        shown_by,
    })
}

/// Keeps a check; the same id again changes nothing.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such station.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    station: Uuid,
    new: &NewCalibration,
) -> Result<CalibrationRow, Error> {
    let mut db = db.acquire().await?;
    crate::station::get(&mut *db, workshop, station).await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    insert(&mut tx, workshop, station, new, None).await?;
    tx.commit().await?;
    let all = list(&mut *db, workshop).await?;
    all.into_iter()
        .find(|c| c.id == new.id)
        .ok_or(Error::NotFound)
}

/// Puts a check in.
pub(crate) async fn insert(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    station: Uuid,
    new: &NewCalibration,
    withdrawn_at: Option<OffsetDateTime>,
) -> Result<(), Error> {
    let against = serde_json::to_value(new.against)?;
    sqlx::query!(
        "insert into calibration (id, workshop_id, station_id, against, points, note, done_at, withdrawn_at)
         values ($1, $2, $3, $4, $5, $6, $7, $8) on conflict (id) do nothing",
        new.id,
        workshop.uuid(),
        station,
        against.as_str(),
        serde_json::to_value(&new.points)?,
        new.note,
        new.done_at,
        withdrawn_at
    )
    .execute(&mut *connection)
    .await?;
    records_changed(connection, workshop).await
}

/// Withdraws a check: kept and shown, no longer used.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn withdraw(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    station: Uuid,
    id: Uuid,
) -> Result<(), Error> {
    let mut tx = db.begin().await?;
    let done = sqlx::query!(
        "update calibration set withdrawn_at = coalesce(withdrawn_at, now())
         where workshop_id = $1 and station_id = $2 and id = $3",
        workshop.uuid(),
        station,
        id
    )
    .execute(&mut *tx)
    .await?;
    crate::one_at_least(&done)?;
    records_changed(&mut tx, workshop).await?;
    tx.commit().await?;
    Ok(())
}
