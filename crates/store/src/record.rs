//! Everything learning reads, in one query: each set of readings with what was really done.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgExecutor;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::prediction::Prediction;
use vatten_core::prediction::made::Made;
use vatten_core::process::operator::Operator;
use vatten_core::process::step::Step;
use vatten_core::record::done::{Done, as_done};
use vatten_core::record::finding::Finding;
use vatten_core::record::firing::State;
use vatten_core::record::reading::Taken;
use vatten_core::simulation::simulated::Simulated;

/// A blade and what was really done to it.
#[derive(Debug, Clone)]
pub struct Treated {
    /// The firing.
    pub firing_id: Uuid,
    /// The blade.
    pub blade_id: Uuid,
    /// Its mark.
    pub mark: String,
    /// What was really done.
    pub done: Done,
    /// When the firing started.
    pub started_at: OffsetDateTime,
    /// The blade as it went into the fire.
    pub made: Made,
    /// Who quenched it, when said.
    pub operator: Option<Operator>,
    /// What the engine was once asked of it, and said.
    pub simulated: Option<KeptSimulation>,
}

/// What an engine said of a quench as it was done.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptSimulation {
    /// Which engine.
    pub engine: i32,
    /// What it was asked, hashed.
    pub asked: Vec<u8>,
    /// What it said.
    pub found: Simulated,
}

/// One set of readings with its blade and treatment.
#[derive(Debug, Clone)]
pub struct RecordRow {
    /// Blade and treatment.
    pub treated: Treated,
    /// `as_quenched` or `tempered`.
    pub stage: String,
    /// Values, HRC.
    pub values_hrc: Vec<f64>,
    /// Tester.
    pub tester_id: Option<Uuid>,
    /// Where and in what state they were read.
    pub taken: Taken,
    /// When they were read.
    pub taken_at: OffsetDateTime,
}

/// Firings joined to something, with their blade and treatment: first the further columns, then what is
/// joined and asked for.
macro_rules! treated_rows {
    ($columns:tt, $tail:tt, $($argument:expr),*) => {
        sqlx::query!(
            r#"select f.id as firing_id, f.blade_id, b.mark, p.steps as "steps: Json<Vec<Step>>",
                f.state as "state: Json<State>", f.started_at, f.made as "made: Json<Made>",
                q.engine as "engine?", q.asked as "asked?", q.found as "simulated?: Json<Simulated>""#
                + $columns
                + r#" from firing f
            join blade b on b.workshop_id = f.workshop_id and b.id = f.blade_id
            join plan p on p.workshop_id = f.workshop_id and p.id = f.plan_id
            left join simulation q on q.workshop_id = f.workshop_id and q.firing_id = f.id "#
                + $tail,
            $($argument),*
        )
    };
}

/// Blade and treatment of such a row.
macro_rules! treated {
    ($row:ident) => {
        Treated {
            firing_id: $row.firing_id,
            blade_id: $row.blade_id,
            mark: $row.mark,
            done: as_done(&$row.steps.0, &$row.state.0),
            operator: $row.state.0.operator,
            started_at: $row.started_at,
            made: $row.made.0,
            simulated: match ($row.engine, $row.asked, $row.simulated) {
                (Some(engine), Some(asked), Some(found)) => Some(KeptSimulation {
                    engine,
                    asked,
                    found: found.0,
                }),
                _ => None,
            },
        }
    };
}

/// Keeps what an engine said of firings.
///
/// # Errors
/// The database cannot be written.
pub async fn keep_simulated(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    all: &[(Uuid, KeptSimulation)],
) -> Result<(), Error> {
    let ids: Vec<Uuid> = all.iter().map(|a| a.0).collect();
    let engines: Vec<i32> = all.iter().map(|a| a.1.engine).collect();
    let asked: Vec<Vec<u8>> = all.iter().map(|a| a.1.asked.clone()).collect();
    let found = all
        .iter()
        .map(|a| serde_json::to_value(&a.1.found))
        .collect::<Result<Vec<_>, _>>()?;
    sqlx::query!(
        "insert into simulation (workshop_id, firing_id, engine, asked, found)
         select $1, a.firing_id, a.engine, a.asked, a.found
         from unnest($2::uuid[], $3::integer[], $4::bytea[], $5::jsonb[]) as a (firing_id, engine, asked, found)
         where exists (select from firing f where f.workshop_id = $1 and f.id = a.firing_id)
         on conflict (workshop_id, firing_id) do update
             set engine = excluded.engine, asked = excluded.asked, found = excluded.found",
        workshop.uuid(),
        &ids,
        &engines,
        &asked,
        &found
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A blade with its latest firing.
#[derive(Debug, Clone)]
pub struct Fired {
    /// Blade and treatment.
    pub treated: Treated,
    /// What was frozen.
    pub prediction: Prediction,
}

/// Blades with their latest firing, those that were quenched, in no order.
///
/// # Errors
/// The database cannot be read.
pub async fn fired(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<Fired>, Error> {
    let rows = treated_rows!(
        r#", f.prediction as "prediction: Json<Prediction>""#,
        r#"where f.workshop_id = $1 and f.blade_id = any($2) and (f.state ->> 'quenched')::boolean
           and not exists (select from firing g where g.workshop_id = f.workshop_id
               and g.blade_id = f.blade_id and g.id > f.id and coalesce(g.state ->> 'end', '') <> 'mistake')"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Fired {
            prediction: r.prediction.0,
            treated: treated!(r),
        })
        .collect())
}

/// What was done in firings, in no order.
///
/// # Errors
/// The database cannot be read.
pub async fn treated(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    firings: &[Uuid],
) -> Result<Vec<Treated>, Error> {
    let rows = treated_rows!(
        "",
        "where f.workshop_id = $1 and f.id = any($2)",
        workshop.uuid(),
        firings
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(|r| treated!(r)).collect())
}

/// The newest `limit` sets of readings that count, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    limit: i64,
) -> Result<Vec<RecordRow>, Error> {
    let rows = treated_rows!(
        r#", r.stage, r.values_hrc, r.tester_id, r.taken as "taken: Json<Taken>", r.taken_at"#,
        r#"join reading r on r.workshop_id = f.workshop_id and r.firing_id = f.id
           where f.workshop_id = $1 and r.workshop_id = $1 and r.withdrawn_at is null
           and coalesce(f.state ->> 'end', '') <> 'mistake'
           order by r.taken_at desc, r.id desc limit $2"#,
        workshop.uuid(),
        limit
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .rev()
        .map(|r| RecordRow {
            stage: r.stage,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
            taken: r.taken.0,
            taken_at: r.taken_at,
            treated: treated!(r),
        })
        .collect())
}

/// A finding with its blade and its treatment.
#[derive(Debug, Clone)]
pub struct LearnedFrom {
    /// Blade and treatment.
    pub treated: Treated,
    /// What was found.
    pub found: Finding,
}

/// The newest `limit` findings that count and that something is learned from, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn findings(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    limit: i64,
) -> Result<Vec<LearnedFrom>, Error> {
    let rows = treated_rows!(
        r#", r.found as "found: Json<Finding>""#,
        r#"join finding r on r.workshop_id = f.workshop_id and r.firing_id = f.id
           where f.workshop_id = $1 and r.workshop_id = $1 and r.withdrawn_at is null
           and coalesce(f.state ->> 'end', '') <> 'mistake'
           and r.found ->> 'kind' in ('line', 'straight', 'side', 'sori', 'clamped', 'crack', 'file', 'punch', 'grain')
           order by r.found_at desc, r.id desc limit $2"#,
        workshop.uuid(),
        limit
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .rev()
        .map(|r| LearnedFrom {
            found: r.found.0,
            treated: treated!(r),
        })
        .collect())
}
