//! Everything of a shop at once, for export: a fixed number of queries however many blades there are.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgPool;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::firing::Happening;
use vatten_core::plan::Step;
use vatten_core::prediction::Prediction;

/// A plan with its firing, if it was fired.
#[derive(Debug)]
pub struct PlanRow {
    /// Its blade.
    pub blade_id: Uuid,
    /// The steps.
    pub steps: Vec<Step>,
    /// The firing: id, start, and what was predicted then.
    pub firing: Option<(Uuid, OffsetDateTime, Prediction)>,
}

/// An event with its firing.
#[derive(Debug)]
pub struct EventRow {
    /// Its firing.
    pub firing_id: Uuid,
    /// What.
    pub happening: Happening,
    /// When.
    pub at: OffsetDateTime,
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
    pub withdrawn: bool,
}

/// All plans, each blade's in order.
///
/// # Errors
/// The database cannot be read.
pub async fn plans(pool: &PgPool, workshop: WorkshopId) -> Result<Vec<PlanRow>, Error> {
    let rows = sqlx::query!(
        r#"select p.blade_id, p.steps as "steps: Json<Vec<Step>>", f.id as "firing_id?",
               f.started_at as "started_at?", f.prediction as "prediction?: Json<Prediction>"
           from plan p
           left join firing f on f.workshop_id = p.workshop_id and f.plan_id = p.id
           where p.workshop_id = $1 order by p.blade_id, p.number"#,
        workshop.uuid()
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| PlanRow {
            blade_id: r.blade_id,
            steps: r.steps.0,
            firing: match (r.firing_id, r.started_at, r.prediction) {
                (Some(id), Some(at), Some(prediction)) => Some((id, at, prediction.0)),
                _ => None,
            },
        })
        .collect())
}

/// All events, each firing's in order.
///
/// # Errors
/// The database cannot be read.
pub async fn events(pool: &PgPool, workshop: WorkshopId) -> Result<Vec<EventRow>, Error> {
    let rows = sqlx::query!(
        r#"select firing_id, happening as "happening: Json<Happening>", at from event
           where workshop_id = $1 order by firing_id, position"#,
        workshop.uuid()
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| EventRow {
            firing_id: r.firing_id,
            happening: r.happening.0,
            at: r.at,
        })
        .collect())
}

/// All readings in time order.
///
/// # Errors
/// The database cannot be read.
pub async fn readings(pool: &PgPool, workshop: WorkshopId) -> Result<Vec<ReadingRow>, Error> {
    let rows = sqlx::query!(
        r#"select firing_id, stage, values_hrc, tester_id, note, taken_at,
               (withdrawn_at is not null) as "withdrawn!"
           from reading where workshop_id = $1 order by taken_at, id"#,
        workshop.uuid()
    )
    .fetch_all(pool)
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
            withdrawn: r.withdrawn,
        })
        .collect())
}
