//! What was changed of a blade once it was fired: the record of the fire stays as it was, and this tells the
//! change beside it.

use crate::Error;
use crate::blade::BladeRow;
use crate::workshop::WorkshopId;
use serde_json::{Map, Value, json};
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use std::collections::BTreeMap;
use time::OffsetDateTime;
use uuid::Uuid;

/// One change.
#[derive(Debug, Clone, PartialEq)]
pub struct BladeEdit {
    /// Id.
    pub id: Uuid,
    /// When.
    pub at: OffsetDateTime,
    /// Who, by name.
    pub by: Option<String>,
    /// Each field that was changed, with what stood there before and after; those of what is known beyond
    /// its sizes as `ready.order`.
    pub changed: BTreeMap<String, [Value; 2]>,
}

/// The fields of a blade that a smith can change.
fn fields(blade: &BladeRow) -> Map<String, Value> {
    let written = json!({
        "mark": blade.mark,
        "name": blade.name,
        "steel_name": blade.steel_name,
        "shape": blade.shape,
        "length_mm": blade.length_mm,
        "width_mm": blade.width_mm,
        "spine_mm": blade.spine_mm,
        "edge_mm": blade.edge_mm,
        "grind": blade.grind,
        "purpose": blade.purpose,
        "target_low_hrc": blade.target_low_hrc,
        "target_high_hrc": blade.target_high_hrc,
        "note": blade.note,
        "finished": blade.finished_at.is_some(),
        "bar_id": blade.bar_id,
    });
    let mut all = match written {
        Value::Object(all) => all,
        _ => Map::new(),
    };
    if let Ok(Value::Object(ready)) = serde_json::to_value(&blade.ready) {
        all.extend(ready.into_iter().map(|(k, v)| (format!("ready.{k}"), v)));
    }
    all
}

/// Keeps what differs between two states of a blade.
pub(crate) async fn keep(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    before: &BladeRow,
    after: &BladeRow,
    person_id: Option<Uuid>,
) -> Result<(), Error> {
    if before.firing_id.is_none() {
        return Ok(());
    }
    let (mut old, new) = (fields(before), fields(after));
    let changed: BTreeMap<String, [Value; 2]> = new
        .into_iter()
        .filter_map(|(field, now)| {
            let was = old.remove(&field).unwrap_or_default();
            (was != now).then_some((field, [was, now]))
        })
        .collect();
    if changed.is_empty() {
        return Ok(());
    }
    insert(connection, workshop, after.id, &changed, person_id).await
}

async fn insert(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    blade_id: Uuid,
    changed: &BTreeMap<String, [Value; 2]>,
    person_id: Option<Uuid>,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into blade_edit (id, workshop_id, blade_id, by_name, changed)
         values ($1, $2, $3, (select name from person where workshop_id = $2 and id = $4), $5)",
        Uuid::now_v7(),
        workshop.uuid(),
        blade_id,
        person_id,
        Json(changed) as _
    )
    .execute(connection)
    .await?;
    Ok(())
}

/// Says that the clay of a fired blade was painted anew: once in ten minutes, not at every stroke.
pub(crate) async fn clay_painted(
    connection: &mut PgConnection,
    workshop: WorkshopId,
    blade_id: Uuid,
    person_id: Option<Uuid>,
) -> Result<(), Error> {
    let to_tell = sqlx::query_scalar!(
        r#"select exists (select from firing where workshop_id = $1 and blade_id = $2)
               and not exists (select from blade_edit where workshop_id = $1 and blade_id = $2
                   and changed ? 'clay' and at > now() - interval '10 minutes') as "to_tell!""#,
        workshop.uuid(),
        blade_id
    )
    .fetch_one(&mut *connection)
    .await?;
    if !to_tell {
        return Ok(());
    }
    let changed = BTreeMap::from([("clay".to_owned(), [Value::Null, Value::Null])]);
    insert(connection, workshop, blade_id, &changed, person_id).await
}

/// What was changed of a blade after its first firing, oldest first, at most 500.
///
/// # Errors
/// [`Error::NotFound`] when the shop has no such blade.
pub async fn of_blade(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    blade_id: Uuid,
) -> Result<Vec<BladeEdit>, Error> {
    let mut db = db.acquire().await?;
    crate::blade::get(&mut *db, workshop, blade_id).await?;
    let rows = sqlx::query!(
        r#"select id, at, by_name, changed as "changed: Json<BTreeMap<String, [Value; 2]>>" from blade_edit
           where workshop_id = $1 and blade_id = $2 order by at, id limit 500"#,
        workshop.uuid(),
        blade_id
    )
    .fetch_all(&mut *db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| BladeEdit {
            id: r.id,
            at: r.at,
            by: r.by_name,
            changed: r.changed.0,
        })
        .collect())
}

/// The changes of several blades with their blade, for export, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn of_blades(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<(Uuid, BladeEdit)>, Error> {
    let rows = sqlx::query!(
        r#"select id, blade_id, at, by_name, changed as "changed: Json<BTreeMap<String, [Value; 2]>>"
           from blade_edit where workshop_id = $1 and blade_id = any($2) order by at, id"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| {
            let edit = BladeEdit {
                id: r.id,
                at: r.at,
                by: r.by_name,
                changed: r.changed.0,
            };
            (r.blade_id, edit)
        })
        .collect())
}

/// Puts a change back as it was.
pub(crate) async fn restore(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    blade_id: Uuid,
    edit: &BladeEdit,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into blade_edit (id, workshop_id, blade_id, at, by_name, changed)
         values ($1, $2, $3, $4, $5, $6)",
        edit.id,
        workshop.uuid(),
        blade_id,
        edit.at,
        edit.by,
        Json(&edit.changed) as _
    )
    .execute(db)
    .await?;
    Ok(())
}
