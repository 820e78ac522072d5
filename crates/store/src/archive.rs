//! Everything of a shop for export, in runs of blades, and back in again: all of it on one connection, so
//! that an export is of one moment and an import is there whole or not at all.

use crate::Error;
use crate::blade::NewBlade;
use crate::calibration::NewCalibration;
use crate::edit::BladeEdit;
use crate::finding::NewFinding;
use crate::firing::{Frozen, Past};
use crate::reading::NewReading;
use crate::station::NewStation;
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::geometry::clay::ClayDraft;
use vatten_core::material::analysis::Analysis;
use vatten_core::prediction::Prediction;
use vatten_core::prediction::made::Made;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::record::firing::FiringEvent;
use vatten_core::record::reading::Taken;
use vatten_core::record::trial::Estimate;

use crate::ladder::NewLadder;
pub use crate::trial::PastTrial;

/// A plan with its firing, if it was fired.
#[derive(Debug)]
pub struct PlanRow {
    /// Its blade.
    pub blade_id: Uuid,
    /// The steps.
    pub steps: Vec<Step>,
    /// Its firing, if it was fired.
    pub firing: Option<FiredRow>,
}

/// A firing of a plan.
#[derive(Debug)]
pub struct FiredRow {
    /// Its id.
    pub id: Uuid,
    /// When it started.
    pub started_at: OffsetDateTime,
    /// What was predicted then.
    pub prediction: Prediction,
    /// The blade as it went into the fire.
    pub made: Made,
}

/// Clay with its blade.
#[derive(Debug)]
pub struct ClayRow {
    /// Its blade.
    pub blade_id: Uuid,
    /// As painted.
    pub clay: ClayDraft,
    /// The line that is wanted.
    pub wanted: Vec<[f64; 2]>,
}

/// An event with its firing.
#[derive(Debug)]
pub struct EventRow {
    /// Its id: other events speak of it.
    pub id: Uuid,
    /// Its firing.
    pub firing_id: Uuid,
    /// What.
    pub what: FiringEvent,
    /// When.
    pub at: OffsetDateTime,
    /// When by the device's clock, where that was told.
    pub device_at: Option<OffsetDateTime>,
}

/// Readings with their firing.
#[derive(Debug)]
pub struct ReadingRow {
    /// Their firing.
    pub firing_id: Uuid,
    /// `as_quenched` or `tempered`.
    pub stage: String,
    /// Values, HRC.
    pub values_hrc: Vec<f64>,
    /// Tester.
    pub tester_id: Option<Uuid>,
    /// Remark.
    pub note: String,
    /// When.
    pub taken_at: OffsetDateTime,
    /// Withdrawn since.
    pub withdrawn_at: Option<OffsetDateTime>,
    /// Where and in what state.
    pub taken: Taken,
}

/// The plans of some blades, each blade's in order.
///
/// # Errors
/// The database cannot be read.
pub async fn plans(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<PlanRow>, Error> {
    let rows = sqlx::query!(
        r#"select p.blade_id, p.steps as "steps: Json<Vec<Step>>", f.id as "firing_id?",
               f.started_at as "started_at?", f.prediction as "prediction?: Json<Prediction>",
               f.made as "made?: Json<Made>"
           from plan p
           left join firing f on f.workshop_id = p.workshop_id and f.plan_id = p.id
           where p.workshop_id = $1 and p.blade_id = any($2) order by p.blade_id, p.number"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| PlanRow {
            blade_id: r.blade_id,
            steps: r.steps.0,
            firing: match (r.firing_id, r.started_at, r.prediction, r.made) {
                (Some(id), Some(started_at), Some(prediction), Some(made)) => Some(FiredRow {
                    id,
                    started_at,
                    prediction: prediction.0,
                    made: made.0,
                }),
                _ => None,
            },
        })
        .collect())
}

/// The clay of those of some blades that have some.
///
/// # Errors
/// The database cannot be read.
pub async fn clays(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<ClayRow>, Error> {
    let rows = sqlx::query!(
        r#"select blade_id, clay as "clay: Json<ClayDraft>", wanted as "wanted: Json<Vec<[f64; 2]>>"
           from clay where workshop_id = $1 and blade_id = any($2)"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| ClayRow {
            blade_id: r.blade_id,
            clay: r.clay.0,
            wanted: r.wanted.0,
        })
        .collect())
}

/// The events of the firings of some blades, each firing's in order.
///
/// # Errors
/// The database cannot be read.
pub async fn events(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<EventRow>, Error> {
    let rows = sqlx::query!(
        r#"select e.id, e.firing_id, e.what as "what: Json<FiringEvent>", e.at, e.device_at
           from firing f join event e on e.workshop_id = f.workshop_id and e.firing_id = f.id
           where f.workshop_id = $1 and f.blade_id = any($2) order by e.firing_id, e.position"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| EventRow {
            id: r.id,
            firing_id: r.firing_id,
            what: r.what.0,
            at: r.at,
            device_at: r.device_at,
        })
        .collect())
}

/// The readings of some blades in time order.
///
/// # Errors
/// The database cannot be read.
pub async fn readings(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<ReadingRow>, Error> {
    let rows = sqlx::query!(
        r#"select firing_id, stage, values_hrc, tester_id, note, taken_at, withdrawn_at,
               taken as "taken: Json<Taken>"
           from reading where workshop_id = $1 and blade_id = any($2) order by taken_at, id"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| ReadingRow {
            firing_id: r.firing_id,
            stage: r.stage,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
            note: r.note,
            taken_at: r.taken_at,
            withdrawn_at: r.withdrawn_at,
            taken: r.taken.0,
        })
        .collect())
}

/// What a shop has that no exchange file holds: photographs, logs, and house methods that were written anew or
/// taken off the list since, each count in this order.
///
/// # Errors
/// The database cannot be read.
pub async fn left_out(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<[i64; 3], Error> {
    let row = sqlx::query!(
        r#"select (select count(*) from photo where workshop_id = $1 and withdrawn_at is null) as "photos!",
               (select count(*) from trace where workshop_id = $1 and withdrawn_at is null) as "logs!",
               (select count(*) from method m where workshop_id = $1 and retired_at is not null)
               + (select count(*) from method_version v
                  join method m on m.workshop_id = v.workshop_id and m.id = v.method_id
                  where v.workshop_id = $1 and v.version < m.version) as "methods!""#,
        workshop.uuid()
    )
    .fetch_one(db)
    .await?;
    Ok([row.photos, row.logs, row.methods])
}

/// A blade as it was, with all that happened to it.
#[derive(Debug)]
pub struct PastBlade {
    /// What it is.
    pub new: NewBlade,
    /// When it was entered.
    pub entered_at: OffsetDateTime,
    /// When it came off the rack.
    pub finished_at: Option<OffsetDateTime>,
    /// Its clay, and the line that is wanted.
    pub clay: Option<(ClayDraft, Vec<[f64; 2]>)>,
    /// Its plans, oldest first.
    pub plans: Vec<PastPlan>,
    /// What was changed of it after its first firing.
    pub edits: Vec<BladeEdit>,
}

/// A plan as it was.
#[derive(Debug)]
pub struct PastPlan {
    /// The plan.
    pub plan: Plan,
    /// Its firing, if it was fired.
    pub firing: Option<PastFiring>,
}

/// A firing as it was.
#[derive(Debug)]
pub struct PastFiring {
    /// Its id.
    pub id: Uuid,
    /// When it started.
    pub started_at: OffsetDateTime,
    /// What was predicted then.
    pub prediction: Prediction,
    /// The blade as it went into the fire.
    pub made: Made,
    /// What happened, in order.
    pub events: Vec<Past>,
    /// Readings, with when they were withdrawn.
    pub readings: Vec<(NewReading, Option<OffsetDateTime>)>,
    /// Findings, with when they were withdrawn.
    pub findings: Vec<(NewFinding, Option<OffsetDateTime>)>,
}

/// Puts a blade back with all that happened to it.
///
/// # Errors
/// The database refuses part of it: then none of it may be kept.
pub async fn restore_blade(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    past: &PastBlade,
) -> Result<(), Error> {
    let dates = (past.entered_at, past.finished_at);
    crate::blade::insert(&mut *connection, workshop, id, &past.new, Some(dates)).await?;
    if let Some((clay, wanted)) = &past.clay {
        crate::clay::insert(&mut *connection, workshop, id, clay, wanted).await?;
    }
    for one in &past.plans {
        let draft = crate::plan::insert(&mut *connection, workshop, id, &one.plan).await?;
        let Some(fired) = &one.firing else { continue };
        let frozen = Frozen {
            prediction: &fired.prediction,
            made: &fired.made,
        };
        let started_at = fired.started_at;
        crate::firing::insert(connection, workshop, fired.id, &draft, frozen, started_at).await?;
        crate::firing::restore(
            connection,
            workshop,
            fired.id,
            &draft.steps,
            started_at,
            &fired.events,
        )
        .await?;
        for (new, withdrawn_at) in &fired.readings {
            crate::reading::insert(&mut *connection, workshop, id, fired.id, new, *withdrawn_at)
                .await?;
        }
        for (new, withdrawn_at) in &fired.findings {
            crate::finding::insert(&mut *connection, workshop, id, fired.id, new, *withdrawn_at)
                .await?;
        }
    }
    for edit in &past.edits {
        crate::edit::restore(&mut *connection, workshop, id, edit).await?;
    }
    Ok(())
}

/// Puts a station back with its checks, and when each was withdrawn.
///
/// # Errors
/// The database refuses part of it: then none of it may be kept.
pub async fn restore_station(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewStation,
    retired_at: Option<OffsetDateTime>,
    checks: &[(NewCalibration, Option<OffsetDateTime>)],
) -> Result<(), Error> {
    crate::station::insert(connection, workshop, id, new, retired_at).await?;
    for (check, withdrawn_at) in checks {
        crate::calibration::insert(connection, workshop, id, check, *withdrawn_at).await?;
    }
    Ok(())
}

/// Puts a house steel back.
///
/// # Errors
/// The database refuses it.
pub async fn restore_steel(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    analysis: &Analysis,
    estimate: Option<&Estimate>,
) -> Result<(), Error> {
    crate::steel::insert(connection, workshop, id, name, analysis, estimate).await
}

/// Puts a bar back.
///
/// # Errors
/// The database refuses it.
pub async fn restore_bar(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    new: &crate::bar::NewBar,
) -> Result<(), Error> {
    crate::bar::insert(connection, workshop, id, new).await
}

/// Puts a house method back.
///
/// # Errors
/// The database refuses it.
pub async fn restore_method(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    name: &str,
    note: &str,
    plan: &Plan,
) -> Result<(), Error> {
    crate::method::insert(connection, workshop, Uuid::now_v7(), name, note, plan).await
}

/// Puts a coupon trial back.
///
/// # Errors
/// The database refuses it.
pub async fn restore_trial(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    past: &PastTrial,
) -> Result<(), Error> {
    crate::trial::insert(connection, workshop, Uuid::now_v7(), past).await
}

/// Puts a ladder back, as old as it is.
///
/// # Errors
/// The database refuses it.
pub async fn restore_ladder(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    new: &NewLadder,
    id: Uuid,
    began_at: OffsetDateTime,
) -> Result<(), Error> {
    crate::ladder::insert(connection, workshop, id, new, began_at).await
}
