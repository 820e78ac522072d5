//! Everything of a shop at once, for export: a fixed number of queries however many blades there are.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgPool;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::clay::ClayDraft;
use vatten_core::firing::Happening;
use vatten_core::plan::Step;
use vatten_core::prediction::Prediction;
use vatten_core::reading::Taken;
use vatten_core::ready::Made;

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
    /// Where and in what state.
    pub taken: Taken,
}

/// All plans, each blade's in order.
///
/// # Errors
/// The database cannot be read.
pub async fn plans(pool: &PgPool, workshop: WorkshopId) -> Result<Vec<PlanRow>, Error> {
    let rows = sqlx::query!(
        r#"select p.blade_id, p.steps as "steps: Json<Vec<Step>>", f.id as "firing_id?",
               f.started_at as "started_at?", f.prediction as "prediction?: Json<Prediction>",
               f.made as "made?: Json<Made>"
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

/// The clay of every blade that has some.
///
/// # Errors
/// The database cannot be read.
pub async fn clays(pool: &PgPool, workshop: WorkshopId) -> Result<Vec<ClayRow>, Error> {
    let rows = sqlx::query!(
        r#"select blade_id, clay as "clay: Json<ClayDraft>", wanted as "wanted: Json<Vec<[f64; 2]>>"
           from clay where workshop_id = $1"#,
        workshop.uuid()
    )
    .fetch_all(pool)
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
               (withdrawn_at is not null) as "withdrawn!", taken as "taken: Json<Taken>"
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
            taken: r.taken.0,
        })
        .collect())
}
