//! A firing: a frozen plan being done, its frozen prediction, and everything that happened.

use crate::Error;
use crate::finding::{self, NewFinding};
use crate::workshop::WorkshopId;
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::advice::extra::{ExtraStep, extras};
use vatten_core::advice::found::{Now, what_now};
use vatten_core::prediction::Prediction;
use vatten_core::prediction::made::Made;
use vatten_core::process::operator::Operator;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::quantity::validation::Faults;
use vatten_core::record::done::{Done, as_done};
use vatten_core::record::firing::{
    self, End, Event, FiringAction, FiringEvent, Planned, Refusal, State,
};

/// A firing with where it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Firing {
    /// Id.
    pub id: Uuid,
    /// Its blade.
    pub blade_id: Uuid,
    /// Mark of the blade.
    pub mark: String,
    /// Name of the blade.
    pub name: String,
    /// Name of the steel it was fired as.
    pub steel_name: String,
    /// The frozen plan.
    pub plan_id: Uuid,
    /// The frozen plan, where the firing left it.
    pub planned: Option<Planned>,
    /// The steps by their number: those of the plan, and those that were put in at the fire.
    pub steps: Vec<Step>,
    /// The numbers of the steps that are done or to be done, in order.
    pub order: Vec<usize>,
    /// Steps that can be put in now, each with what there is to do in it.
    pub extras: Vec<ExtraStep>,
    /// What was really done of them.
    pub done: Done,
    /// What there is to do, in order.
    pub actions: Vec<FiringAction>,
    /// Where it stands.
    pub state: State,
    /// What was predicted when it started.
    pub prediction: Prediction,
    /// The blade as it went into the fire.
    pub made: Made,
    /// When it started.
    pub started_at: OffsetDateTime,
    /// When it was closed.
    pub closed_at: Option<OffsetDateTime>,
    /// What each finding at the fire asks for now, in their order.
    pub now: Vec<Option<Now>>,
    /// Goes up with every event.
    pub version: i64,
}

impl Firing {
    /// The steps of the frozen plan.
    #[must_use]
    pub fn frozen_steps(&self) -> &[Step] {
        self.planned.as_ref().map_or(&self.steps, |p| &p.steps)
    }
}

/// What is frozen beside the plan when a firing starts.
#[derive(Debug, Clone, Copy)]
pub struct Frozen<'a> {
    /// What was predicted.
    pub prediction: &'a Prediction,
    /// The blade as it goes into the fire.
    pub made: &'a Made,
}

struct Row {
    id: Uuid,
    blade_id: Uuid,
    mark: String,
    name: String,
    plan_id: Uuid,
    steps: Json<Vec<Step>>,
    state: Json<State>,
    prediction: Json<Prediction>,
    made: Json<Made>,
    started_at: OffsetDateTime,
    closed_at: Option<OffsetDateTime>,
    version: i64,
}

impl From<Row> for Firing {
    fn from(row: Row) -> Self {
        let steel = row.made.0.material.steel.steel();
        let mut done = as_done(&row.steps.0, &row.state.0);
        if let Some(steel) = &steel {
            done = done.judged_on(steel);
        }
        let course = row.state.0.course(&row.steps.0);
        let extras = match row.closed_at {
            None => extras(steel.as_ref(), &row.steps.0),
            Some(_) => Vec::new(),
        };
        let planned = (!row.state.0.deviations.is_empty()).then(|| Planned {
            actions: firing::actions(&row.steps.0),
            steps: row.steps.0.clone(),
        });
        Self {
            id: row.id,
            blade_id: row.blade_id,
            mark: row.mark,
            name: row.name,
            steel_name: row.made.0.material.steel.name(),
            plan_id: row.plan_id,
            actions: row.state.0.actions(&course),
            order: course.order(),
            extras,
            steps: course.steps().to_vec(),
            planned,
            done,
            now: (row.state.0.found.iter())
                .map(|f| what_now(&f.found, &row.prediction.0))
                .collect(),
            state: row.state.0,
            prediction: row.prediction.0,
            made: row.made.0,
            started_at: row.started_at,
            closed_at: row.closed_at,
            version: row.version,
        }
    }
}

/// An event as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct EventRow {
    /// Id.
    pub id: Uuid,
    /// Order within the firing.
    pub position: i32,
    /// What happened.
    pub what: FiringEvent,
    /// When, by the server's clock.
    pub at: OffsetDateTime,
    /// When by the clock of the device it was pressed on, where that was told.
    pub device_at: Option<OffsetDateTime>,
    /// When the server took it down.
    pub recorded_at: OffsetDateTime,
}

/// One firing.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<Firing, Error> {
    let row = sqlx::query_as!(
        Row,
        r#"select f.id, f.blade_id, b.mark, b.name, f.plan_id,
               p.steps as "steps: Json<Vec<Step>>",
               f.state as "state: Json<State>", f.made as "made: Json<Made>",
               f.prediction as "prediction: Json<Prediction>", f.started_at, f.closed_at, f.version
           from firing f join plan p on p.workshop_id = f.workshop_id and p.id = f.plan_id
           join blade b on b.workshop_id = f.workshop_id and b.id = f.blade_id
           where f.workshop_id = $1 and f.id = $2"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

/// All firings of a blade, newest first.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade.
pub async fn of_blade(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<Firing>, Error> {
    let mut db = db.acquire().await?;
    crate::blade::get(&mut *db, workshop, blade_id).await?;
    let rows = sqlx::query_as!(
        Row,
        r#"select f.id, f.blade_id, b.mark, b.name, f.plan_id,
               p.steps as "steps: Json<Vec<Step>>",
               f.state as "state: Json<State>", f.made as "made: Json<Made>",
               f.prediction as "prediction: Json<Prediction>", f.started_at, f.closed_at, f.version
           from firing f join plan p on p.workshop_id = f.workshop_id and p.id = f.plan_id
           join blade b on b.workshop_id = f.workshop_id and b.id = f.blade_id
           where f.workshop_id = $1 and f.blade_id = $2 order by f.id desc limit 50"#,
        workshop.uuid(),
        blade_id
    )
    .fetch_all(&mut *db)
    .await?;
    Ok(rows.into_iter().map(Firing::from).collect())
}

/// Most blades in the fire at once that are listed.
const MOST_OPEN: i64 = 60;

/// The firings going on, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn open(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<Firing>, Error> {
    let rows = sqlx::query_as!(
        Row,
        r#"select f.id, f.blade_id, b.mark, b.name, f.plan_id,
               p.steps as "steps: Json<Vec<Step>>",
               f.state as "state: Json<State>", f.made as "made: Json<Made>",
               f.prediction as "prediction: Json<Prediction>", f.started_at, f.closed_at, f.version
           from firing f join plan p on p.workshop_id = f.workshop_id and p.id = f.plan_id
           join blade b on b.workshop_id = f.workshop_id and b.id = f.blade_id
           where f.workshop_id = $1 and f.closed_at is null order by f.id limit $2"#,
        workshop.uuid(),
        MOST_OPEN
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(Firing::from).collect())
}

/// The events of a firing in order.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such firing.
pub async fn events(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<Vec<EventRow>, Error> {
    let mut db = db.acquire().await?;
    get(&mut *db, workshop, id).await?;
    let rows = sqlx::query!(
        r#"select id, position, what as "what: Json<FiringEvent>", at, device_at, recorded_at
           from event where workshop_id = $1 and firing_id = $2 order by position"#,
        workshop.uuid(),
        id
    )
    .fetch_all(&mut *db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| EventRow {
            id: r.id,
            position: r.position,
            what: r.what.0,
            at: r.at,
            device_at: r.device_at,
            recorded_at: r.recorded_at,
        })
        .collect())
}

/// Freezes the draft plan of a blade and starts firing it; the same id again is the same firing.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::NotNow`] when the blade is being fired already, or has no draft
/// plan; [`Error::Stale`] when the plan is no longer the one that was predicted.
pub async fn start(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    plan: &crate::plan::PlanRow,
    frozen: Frozen<'_>,
    at: OffsetDateTime,
) -> Result<Firing, Error> {
    let mut db = db.acquire().await?;
    if let Some(known) = started(&mut *db, workshop, plan.blade_id, id).await? {
        return Ok(known);
    }
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let put_in = insert(&mut tx, workshop, id, plan, frozen, at).await;
    match put_in {
        Ok(()) => {
            tx.commit().await?;
            get(&mut *db, workshop, id).await
        }
        // The same start, sent twice, may have come first by the other way.
        Err(error) => {
            tx.rollback().await?;
            let known = started(&mut *db, workshop, plan.blade_id, id).await?;
            known.ok_or(error)
        }
    }
}

/// The firing of a blade that was started under this id before, if one was.
///
/// # Errors
/// [`Error::Refused`] at `id` when it is another blade's.
pub async fn started(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    id: Uuid,
) -> Result<Option<Firing>, Error> {
    match get(db, workshop, id).await {
        Ok(known) if known.blade_id == blade_id => Ok(Some(known)),
        Ok(_) => Err(Faults::one("id", "A firing of another blade has this id.").into()),
        Err(Error::NotFound) => Ok(None),
        Err(other) => Err(other),
    }
}

/// Freezes a plan and puts its firing in.
pub(crate) async fn insert(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    plan: &crate::plan::PlanRow,
    frozen: Frozen<'_>,
    at: OffsetDateTime,
) -> Result<(), Error> {
    let froze = sqlx::query!(
        "update plan set frozen_at = $4, version = version + 1
         where workshop_id = $1 and id = $2 and version = $3 and frozen_at is null",
        workshop.uuid(),
        plan.id,
        plan.version,
        at
    )
    .execute(&mut *connection)
    .await?;
    if froze.rows_affected() == 0 {
        return Err(Error::Stale);
    }
    sqlx::query!(
        "insert into firing (id, workshop_id, blade_id, plan_id, prediction, state, started_at, made)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        id,
        workshop.uuid(),
        plan.blade_id,
        plan.id,
        serde_json::to_value(frozen.prediction)?,
        serde_json::to_value(State::default())?,
        at,
        Json(frozen.made) as _
    )
    .execute(connection)
    .await?;
    Ok(())
}

/// Something that happened, as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct Past {
    /// Id.
    pub id: Uuid,
    /// What.
    pub what: FiringEvent,
    /// When, by the server's clock.
    pub at: OffsetDateTime,
    /// When by the device's clock, where that was told.
    pub device_at: Option<OffsetDateTime>,
}

/// Puts back all that happened in a firing, from an export: one insert.
///
/// # Errors
/// [`Error::NotNow`] when the rules of a firing refuse one of them.
pub(crate) async fn restore(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    steps: &[Step],
    started_at: OffsetDateTime,
    past: &[Past],
) -> Result<(), Error> {
    let events: Vec<Event> = past
        .iter()
        .map(|e| Event {
            id: e.id,
            what: e.what.clone(),
            at_ms: millis(e.at),
        })
        .collect();
    let state = firing::state(steps, &events).map_err(|e| refusal(&e))?;
    let ids: Vec<Uuid> = past.iter().map(|e| e.id).collect();
    let whats = past
        .iter()
        .map(|e| serde_json::to_value(&e.what))
        .collect::<Result<Vec<_>, _>>()?;
    let times: Vec<OffsetDateTime> = past.iter().map(|e| e.at).collect();
    let device_times: Vec<Option<OffsetDateTime>> = past.iter().map(|e| e.device_at).collect();
    sqlx::query!(
        "insert into event (id, workshop_id, firing_id, position, what, at, device_at)
         select e.id, $1, $2, (e.n - 1)::integer, e.what, e.at, e.device_at
         from unnest($3::uuid[], $4::jsonb[], $5::timestamptz[], $6::timestamptz[]) with ordinality
             as e (id, what, at, device_at, n)",
        workshop.uuid(),
        id,
        &ids,
        &whats,
        &times,
        &device_times as _
    )
    .execute(&mut *connection)
    .await?;
    let last = times.last().copied().unwrap_or(started_at);
    settle(connection, workshop, id, &state, last).await
}

/// Keeps what the events amount to beside the firing.
async fn settle(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    state: &State,
    at: OffsetDateTime,
) -> Result<(), Error> {
    let untempered = state
        .untempered_since_ms
        .and_then(|ms| OffsetDateTime::from_unix_timestamp_nanos(i128::from(ms) * 1_000_000).ok());
    sqlx::query!(
        "update firing set state = $3, untempered_since = $4,
            closed_at = case when $5 then coalesce(closed_at, $6::timestamptz) end, version = version + 1
         where workshop_id = $1 and id = $2",
        workshop.uuid(),
        id,
        serde_json::to_value(state)?,
        untempered,
        state.closed,
        at
    )
    .execute(&mut *connection)
    .await?;
    // What is learned from changes only once something came of this firing.
    sqlx::query!(
        "update workshop set records_version = records_version + 1
         where id = $1 and exists (select from firing f where f.workshop_id = $1 and f.id = $2 and (
             exists (select from reading r
                 where r.workshop_id = $1 and r.blade_id = f.blade_id and r.firing_id = f.id)
             or exists (select from finding r
                 where r.workshop_id = $1 and r.blade_id = f.blade_id and r.firing_id = f.id)))",
        workshop.uuid(),
        id
    )
    .execute(connection)
    .await?;
    Ok(())
}

/// Who quenched in the newest firings, the latest first, at most twelve.
///
/// # Errors
/// The database cannot be read.
pub async fn operators(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
) -> Result<Vec<Operator>, Error> {
    let rows = sqlx::query_scalar!(
        r#"select operator as "operator!: String" from (
               select state ->> 'operator' as operator, started_at from firing
               where workshop_id = $1 order by started_at desc limit 300
           ) newest where operator is not null
           group by operator order by max(started_at) desc limit 12"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .iter()
        .filter_map(|h| Operator::parse(h).ok())
        .collect())
}

/// Adds an event; the same event id again changes nothing.
///
/// # Errors
/// [`Error::NotFound`]; [`Error::NotNow`] when the rules of a firing refuse it (closed, confirmed
/// twice, out of order).
pub async fn happen(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    firing_id: Uuid,
    new: &Past,
    person_id: Option<Uuid>,
) -> Result<Firing, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    // The row lock puts the events of one firing in order, whichever server they come through.
    let plan = sqlx::query!(
        r#"select p.steps as "steps: Json<Vec<Step>>" from firing f
           join plan p on p.workshop_id = f.workshop_id and p.id = f.plan_id
           where f.workshop_id = $1 and f.id = $2 for update of f"#,
        workshop.uuid(),
        firing_id
    )
    .fetch_one(&mut *tx)
    .await?;
    let past = sqlx::query!(
        r#"select id, what as "what: Json<FiringEvent>", at from event
           where workshop_id = $1 and firing_id = $2 order by position"#,
        workshop.uuid(),
        firing_id
    )
    .fetch_all(&mut *tx)
    .await?;
    if past.iter().any(|e| e.id == new.id) {
        tx.commit().await?;
        return get(&mut *db, workshop, firing_id).await;
    }
    let position = i32::try_from(past.len()).unwrap_or(i32::MAX);
    let mut events: Vec<Event> = past
        .into_iter()
        .map(|e| Event {
            id: e.id,
            what: e.what.0,
            at_ms: millis(e.at),
        })
        .collect();
    events.push(Event {
        id: new.id,
        what: new.what.clone(),
        at_ms: millis(new.at),
    });
    let state = firing::state(&plan.steps.0, &events).map_err(|e| refusal(&e))?;
    sqlx::query!(
        "insert into event (id, workshop_id, firing_id, position, what, at, person_id, device_at)
         values ($1, $2, $3, $4, $5, $6, $7, $8)",
        new.id,
        workshop.uuid(),
        firing_id,
        position,
        serde_json::to_value(&new.what)?,
        new.at,
        person_id,
        new.device_at
    )
    .execute(&mut *tx)
    .await?;
    keep_found(&mut tx, workshop, firing_id, new).await?;
    if state.end == End::Mistake {
        let blade_id = blade_of(&mut tx, workshop, firing_id).await?;
        let anew = Plan::stored(plan.steps.0.clone());
        crate::plan::insert(&mut *tx, workshop, blade_id, &anew).await?;
    }
    settle(&mut tx, workshop, firing_id, &state, new.at).await?;
    tx.commit().await?;
    get(&mut *db, workshop, firing_id).await
}

async fn blade_of(
    tx: &mut PgConnection,
    workshop: WorkshopId,
    firing_id: Uuid,
) -> Result<Uuid, Error> {
    Ok(sqlx::query_scalar!(
        "select blade_id from firing where workshop_id = $1 and id = $2",
        workshop.uuid(),
        firing_id
    )
    .fetch_one(tx)
    .await?)
}

/// What was found at the fire is a finding of the blade, under the id of the event that said it; taken back it is
/// withdrawn.
async fn keep_found(
    tx: &mut PgConnection,
    workshop: WorkshopId,
    firing_id: Uuid,
    new: &Past,
) -> Result<(), Error> {
    match &new.what {
        FiringEvent::Found { found } => {
            let blade_id = blade_of(tx, workshop, firing_id).await?;
            let kept = NewFinding {
                id: new.id,
                found: found.clone(),
                note: String::new(),
                found_at: new.at,
            };
            finding::keep(tx, workshop, blade_id, firing_id, &kept).await
        }
        FiringEvent::Undo { event } => {
            sqlx::query!(
                "update finding set withdrawn_at = coalesce(withdrawn_at, $4)
                 where workshop_id = $1 and firing_id = $2 and id = $3",
                workshop.uuid(),
                firing_id,
                event,
                new.at
            )
            .execute(tx)
            .await?;
            Ok(())
        }
        _ => Ok(()),
    }
}

fn refusal(refusal: &Refusal) -> Error {
    let field = match refusal {
        Refusal::Closed => "kind",
        Refusal::NoSuchStep | Refusal::Begun | Refusal::NoHeat | Refusal::NoTemper => "step",
        Refusal::NothingHardens | Refusal::StillHot | Refusal::TooMany => "how",
        Refusal::NoBath => "medium",
        Refusal::NotQuenched => "found",
        Refusal::WasQuenched => "end",
        Refusal::NoSuchRound => "round",
        Refusal::NoSuchEvent | Refusal::NotTheLast => "event",
        _ => "action",
    };
    Error::not_now(field, refusal.to_string())
}

fn millis(at: OffsetDateTime) -> i64 {
    i64::try_from(at.unix_timestamp_nanos() / 1_000_000).unwrap_or(i64::MAX)
}
