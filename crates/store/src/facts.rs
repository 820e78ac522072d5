//! Records of older versions, brought to facts: run once after the migrations, and nothing to do after that.

use crate::Error;
use crate::sentences;
use serde_json::{Value, json};
use sqlx::types::Json;
use sqlx::{PgConnection, PgPool};
use uuid::Uuid;
use vatten_core::process::step::Step;
use vatten_core::record::firing::actions;

/// Rows that are read at once.
const BATCH: i64 = 200;
/// One server at a time does it: any number that no other lock of this program has.
const LOCK: i64 = 0x7661_7474_656e_0013;

/// Turns what older versions kept as sentences into facts.
///
/// # Errors
/// The database cannot be read or written, or holds a prediction that is none.
pub async fn bring_up_to_date(pool: &PgPool) -> Result<(), Error> {
    let mut tx = pool.begin().await?;
    sqlx::query!("select pg_advisory_xact_lock($1)", LOCK)
        .execute(&mut *tx)
        .await?;
    while firings(&mut tx).await? > 0 {}
    traces(&mut tx).await?;
    tx.commit().await?;
    Ok(())
}

/// What went on after the last confirmed action, as it stands in a state.
fn doing(steps: &[Step], state: &Value) -> Value {
    let position = state["position"]
        .as_u64()
        .and_then(|p| usize::try_from(p).ok());
    let last = position.and_then(|p| p.checked_sub(1));
    let actions = actions(steps);
    last.and_then(|i| actions.get(i))
        .map_or(Value::Null, |b| json!(b.doing))
}

/// One batch of firings; how many there were.
async fn firings(tx: &mut PgConnection) -> Result<usize, Error> {
    let rows = sqlx::query!(
        r#"select f.workshop_id, f.id, f.prediction as "prediction: Json<Value>", f.state as "state: Json<Value>",
               p.steps as "steps: Json<Vec<Step>>"
           from firing f join plan p on p.workshop_id = f.workshop_id and p.id = f.plan_id
           where f.prediction -> 'through' ? 'text' or jsonb_typeof(f.state -> 'doing') = 'string'
           order by f.id limit $1"#,
        BATCH
    )
    .fetch_all(&mut *tx)
    .await?;
    let (mut workshops, mut ids) = (Vec::<Uuid>::new(), Vec::<Uuid>::new());
    let (mut predictions, mut states) = (Vec::<Value>::new(), Vec::<Value>::new());
    let mut unread = Vec::<bool>::new();
    for row in rows {
        let (prediction, left) = sentences::prediction(row.prediction.0);
        let mut state = row.state.0;
        if state["doing"].is_string() {
            state["doing"] = doing(&row.steps.0, &state);
        }
        workshops.push(row.workshop_id);
        ids.push(row.id);
        predictions.push(prediction);
        states.push(state);
        unread.push(!left.is_empty());
    }
    sqlx::query!(
        "update firing f set prediction = n.prediction, state = n.state,
             prediction_before = case when n.unread then f.prediction end
         from unnest($1::uuid[], $2::uuid[], $3::jsonb[], $4::jsonb[], $5::boolean[])
             as n (workshop_id, id, prediction, state, unread)
         where f.workshop_id = n.workshop_id and f.id = n.id",
        &workshops,
        &ids,
        &predictions,
        &states,
        &unread
    )
    .execute(&mut *tx)
    .await?;
    Ok(ids.len())
}

async fn traces(tx: &mut PgConnection) -> Result<(), Error> {
    let rows = sqlx::query!(
        r#"select workshop_id, id, notes as "notes: Json<Vec<Value>>" from trace
           where jsonb_path_exists(notes, '$[*] ? (@.type() == "string")')"#
    )
    .fetch_all(&mut *tx)
    .await?;
    let workshops: Vec<Uuid> = rows.iter().map(|r| r.workshop_id).collect();
    let ids: Vec<Uuid> = rows.iter().map(|r| r.id).collect();
    let notes: Vec<Value> = rows
        .iter()
        .map(|r| Value::Array(sentences::log_notes(&r.notes)))
        .collect();
    sqlx::query!(
        "update trace t set notes = n.notes
         from unnest($1::uuid[], $2::uuid[], $3::jsonb[]) as n (workshop_id, id, notes)
         where t.workshop_id = n.workshop_id and t.id = n.id",
        &workshops,
        &ids,
        &notes
    )
    .execute(&mut *tx)
    .await?;
    Ok(())
}
