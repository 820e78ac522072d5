//! A blade: what it is, and where it stands.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use serde::Serialize;
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::geometry::outline::Outline;
use vatten_core::process::ready::Ready;
use vatten_core::record::firing::State;

/// Which steel a blade is of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SteelRef {
    /// A built-in one, by key.
    BuiltIn(String),
    /// One of the shop's own.
    House(Uuid),
}

impl SteelRef {
    pub(crate) fn parts(&self) -> (Option<&str>, Option<Uuid>) {
        match self {
            Self::BuiltIn(key) => (Some(key), None),
            Self::House(id) => (None, Some(*id)),
        }
    }
}

/// What is written of a blade; checked before it comes here.
#[derive(Debug, Clone, PartialEq)]
pub struct NewBlade {
    /// The mark it is known by in the shop.
    pub mark: String,
    /// Name.
    pub name: String,
    /// Steel.
    pub steel: SteelRef,
    /// Geometry.
    pub geometry: vatten_core::geometry::blade::Blade,
    /// Purpose.
    pub purpose: vatten_core::material::purpose::Purpose,
    /// Wanted hardness window, HRC.
    pub target_hrc: (f64, f64),
    /// What is known of it beyond its sizes.
    pub ready: Ready,
    /// The bar it is made from.
    pub bar_id: Option<Uuid>,
    /// What it takes of that bar, mm.
    pub cut_mm: Option<f64>,
    /// Remark.
    pub note: String,
}

/// A blade with what the rack shows of it.
#[derive(Debug, Clone, PartialEq)]
pub struct BladeRow {
    /// Id.
    pub id: Uuid,
    /// The mark it is known by in the shop.
    pub mark: String,
    /// Name.
    pub name: String,
    /// Key of a built-in steel, or id of one of the shop's own.
    pub steel: String,
    /// Its name.
    pub steel_name: String,
    /// Shape preset.
    pub shape: String,
    /// Heel to tip, mm.
    pub length_mm: f64,
    /// Spine to edge, mm.
    pub width_mm: f64,
    /// Spine thickness, mm.
    pub spine_mm: f64,
    /// Edge thickness, mm.
    pub edge_mm: f64,
    /// Grind.
    pub grind: String,
    /// Purpose.
    pub purpose: String,
    /// Wanted hardness, lowest, HRC.
    pub target_low_hrc: f64,
    /// Wanted hardness, highest, HRC.
    pub target_high_hrc: f64,
    /// Remark.
    pub note: String,
    /// Off the rack since.
    pub finished_at: Option<OffsetDateTime>,
    /// Goes up with every change.
    pub version: i64,
    /// When it was entered.
    pub created_at: OffsetDateTime,
    /// The latest plan, if any.
    pub plan_id: Option<Uuid>,
    /// That plan is frozen.
    pub plan_frozen: bool,
    /// The latest firing, if any.
    pub firing_id: Option<Uuid>,
    /// Where that firing stands.
    pub firing_state: Option<State>,
    /// That firing goes on.
    pub firing_open: bool,
    /// Hard and untempered since.
    pub untempered_since: Option<OffsetDateTime>,
    /// Outline for drawing, mm.
    pub outline: Vec<[f64; 2]>,
    /// What is known of it beyond its sizes.
    pub ready: Ready,
    /// The bar it is made from.
    pub bar_id: Option<Uuid>,
    /// What it took of that bar, mm.
    pub cut_mm: Option<f64>,
}

impl BladeRow {
    /// Its geometry.
    ///
    /// # Errors
    /// The row no longer fits the rules it was stored by.
    pub fn geometry(
        &self,
    ) -> Result<vatten_core::geometry::blade::Blade, vatten_core::quantity::validation::Faults>
    {
        vatten_core::geometry::blade::Blade::parse(&vatten_core::geometry::blade::BladeDraft {
            shape: Some(self.shape.clone()),
            length_mm: Some(self.length_mm),
            width_mm: Some(self.width_mm),
            spine_mm: Some(self.spine_mm),
            edge_mm: Some(self.edge_mm),
            grind: Some(self.grind.clone()),
        })
    }
}

struct Row {
    id: Uuid,
    mark: String,
    name: String,
    steel_key: Option<String>,
    house_steel_id: Option<Uuid>,
    house_name: Option<String>,
    shape: String,
    length_mm: f64,
    width_mm: f64,
    spine_mm: f64,
    edge_mm: f64,
    grind: String,
    purpose: String,
    target_low_hrc: f64,
    target_high_hrc: f64,
    note: String,
    finished_at: Option<OffsetDateTime>,
    version: i64,
    created_at: OffsetDateTime,
    plan_id: Option<Uuid>,
    plan_frozen: bool,
    firing_id: Option<Uuid>,
    firing_state: Option<Json<State>>,
    firing_open: bool,
    untempered_since: Option<OffsetDateTime>,
    ready: Json<Ready>,
    bar_id: Option<Uuid>,
    cut_mm: Option<f64>,
}

macro_rules! blades {
    ($tail:tt, $($argument:expr),*) => {
        sqlx::query_as!(
            Row,
            r#"select b.id, b.mark, b.name, b.steel_key, b.house_steel_id, s.name as "house_name?",
                b.shape, b.length_mm, b.width_mm, b.spine_mm, b.edge_mm, b.grind, b.purpose,
                b.target_low_hrc, b.target_high_hrc, b.note, b.finished_at, b.version, b.created_at,
                p.id as "plan_id?", (p.frozen_at is not null) as "plan_frozen!",
                f.id as "firing_id?", f.state as "firing_state?: Json<State>",
                (f.id is not null and f.closed_at is null) as "firing_open!",
                f.untempered_since as "untempered_since?", b.ready as "ready: Json<Ready>", b.bar_id, b.cut_mm
            from blade b
            left join steel s on s.workshop_id = b.workshop_id and s.id = b.house_steel_id
            left join lateral (
                select id, frozen_at from plan
                where workshop_id = b.workshop_id and blade_id = b.id order by number desc limit 1
            ) p on true
            left join lateral (
                select id, state, closed_at, untempered_since from firing
                where workshop_id = b.workshop_id and blade_id = b.id and coalesce(state ->> 'end', '') <> 'mistake'
                order by id desc limit 1
            ) f on true "# + $tail,
            $($argument),*
        )
    };
}

impl From<Row> for BladeRow {
    fn from(row: Row) -> Self {
        let preset = || {
            vatten_core::geometry::shape::Shape::parse("shape", &row.shape)
                .unwrap_or_default()
                .outline(row.length_mm, row.width_mm)
        };
        let own = row.ready.outline.as_ref().map(Outline::read);
        let outline = match own {
            Some(Ok(own)) => own.points().to_vec(),
            _ => preset(),
        };
        Self {
            steel: row
                .steel_key
                .clone()
                .or_else(|| row.house_steel_id.map(|id| id.to_string()))
                .unwrap_or_default(),
            steel_name: crate::steel::shown_name(row.steel_key.as_deref(), row.house_name),
            id: row.id,
            mark: row.mark,
            name: row.name,
            shape: row.shape,
            length_mm: row.length_mm,
            width_mm: row.width_mm,
            spine_mm: row.spine_mm,
            edge_mm: row.edge_mm,
            grind: row.grind,
            purpose: row.purpose,
            target_low_hrc: row.target_low_hrc,
            target_high_hrc: row.target_high_hrc,
            note: row.note,
            finished_at: row.finished_at,
            version: row.version,
            created_at: row.created_at,
            plan_id: row.plan_id,
            plan_frozen: row.plan_frozen,
            firing_id: row.firing_id,
            firing_state: row.firing_state.map(|s| s.0),
            firing_open: row.firing_open,
            untempered_since: row.untempered_since,
            outline,
            ready: row.ready.0,
            bar_id: row.bar_id,
            cut_mm: row.cut_mm,
        }
    }
}

/// Blades in work, newest first, at most 500 (a rack holds fewer).
///
/// # Errors
/// The database cannot be read.
pub async fn rack(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<BladeRow>, Error> {
    let rows = blades!(
        "where b.workshop_id = $1 and b.finished_at is null order by b.id desc limit 500",
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(BladeRow::from).collect())
}

/// Finished blades, newest first, `limit` of them, those older than `before` when given.
///
/// # Errors
/// The database cannot be read.
pub async fn finished(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    before: Option<Uuid>,
    limit: i64,
) -> Result<Vec<BladeRow>, Error> {
    let rows = blades!(
        "where b.workshop_id = $1 and b.finished_at is not null and b.id < $2 order by b.id desc limit $3",
        workshop.uuid(),
        before.unwrap_or(Uuid::max()),
        limit
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(BladeRow::from).collect())
}

/// A blade as it is found by its mark.
#[derive(Debug, Clone, PartialEq)]
pub struct Marked {
    /// Id.
    pub id: Uuid,
    /// Mark.
    pub mark: String,
    /// Name.
    pub name: String,
    /// Name of its steel.
    pub steel_name: String,
}

macro_rules! marked {
    ($tail:tt, $($argument:expr),*) => {
        sqlx::query!(
            r#"select b.id, b.mark, b.name, b.steel_key, s.name as "house_name?" from blade b
               left join steel s on s.workshop_id = b.workshop_id and s.id = b.house_steel_id
               where b.workshop_id = $1 and exists (select from firing f where f.workshop_id = b.workshop_id
                   and f.blade_id = b.id and (f.state ->> 'quenched')::boolean) "# + $tail,
            $($argument),*
        )
        .map(|r| Marked {
            id: r.id,
            mark: r.mark,
            name: r.name,
            steel_name: crate::steel::shown_name(r.steel_key.as_deref(), r.house_name),
        })
    };
}

/// Quenched blades whose mark begins with `text`, in whatever case, in the order of their marks, at most
/// twelve; the newest when `text` is empty.
///
/// # Errors
/// The database cannot be read.
pub async fn marked(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    text: &str,
) -> Result<Vec<Marked>, Error> {
    let mut db = db.acquire().await?;
    if text.is_empty() {
        let newest = marked!("order by b.id desc limit 12", workshop.uuid());
        return Ok(newest.fetch_all(&mut *db).await?);
    }
    let begins = text.to_lowercase().replace('\\', "\\\\");
    let begins = begins.replace('%', "\\%").replace('_', "\\_") + "%";
    // In the order of the index, so that it ends with the twelfth.
    let found = marked!(
        "and lower(b.mark) like $2 order by lower(b.mark) using ~<~ limit 12",
        workshop.uuid(),
        begins
    );
    Ok(found.fetch_all(&mut *db).await?)
}

/// One blade.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<BladeRow, Error> {
    one(db, workshop, id).await
}

async fn one(db: impl PgExecutor<'_>, workshop: WorkshopId, id: Uuid) -> Result<BladeRow, Error> {
    let row = blades!(
        "where b.workshop_id = $1 and b.id = $2",
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(row.into())
}

fn id_of<T: Serialize>(noun: &T) -> String {
    // The serde name of a plain enum is its identifier in the API and in the table.
    serde_json::to_value(noun)
        .ok()
        .and_then(|v| v.as_str().map(str::to_owned))
        .unwrap_or_default()
}

/// Enters a blade; the same id again is the same blade.
///
/// # Errors
/// [`Error::Refused`] at `mark` when it is taken, at `steel` when the shop has no such steel;
/// [`Error::NotFound`] when the id is another shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewBlade,
) -> Result<BladeRow, Error> {
    let mut tx = db.begin().await?;
    let entered = insert(&mut *tx, workshop, id, new, None).await?;
    if entered {
        take(&mut tx, workshop, id, new).await?;
    }
    let made = one(&mut *tx, workshop, id).await?;
    tx.commit().await?;
    Ok(made)
}

/// Takes what a blade needs off the rest of its bar, as far as it goes, and keeps with the blade what that was.
async fn take(
    tx: &mut PgConnection,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewBlade,
) -> Result<(), Error> {
    let (Some(bar), Some(cut_mm)) = (new.bar_id, new.cut_mm) else {
        return Ok(());
    };
    sqlx::query!(
        "with rest as (select left_mm from bar where workshop_id = $1 and id = $2 for update),
            taken as (update bar set left_mm = greatest(rest.left_mm - $3, 0), version = version + 1, updated_at = now()
                from rest where workshop_id = $1 and id = $2)
         update blade set cut_mm = least(rest.left_mm, $3) from rest where workshop_id = $1 and id = $4",
        workshop.uuid(),
        bar,
        cut_mm,
        id
    )
    .execute(tx)
    .await?;
    Ok(())
}

/// Puts back what a blade took of its bar.
async fn put_back(
    tx: &mut PgConnection,
    workshop: WorkshopId,
    blade: &BladeRow,
) -> Result<(), Error> {
    let (Some(bar), Some(cut_mm)) = (blade.bar_id, blade.cut_mm) else {
        return Ok(());
    };
    sqlx::query!(
        "update bar set left_mm = least(left_mm + $3, length_mm), version = version + 1, updated_at = now()
         where workshop_id = $1 and id = $2",
        workshop.uuid(),
        bar,
        cut_mm
    )
    .execute(tx)
    .await?;
    Ok(())
}

/// Puts a blade in, and says whether it is new; `dates` are when it was entered and when it came off the rack, where that is long past.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewBlade,
    dates: Option<(OffsetDateTime, Option<OffsetDateTime>)>,
) -> Result<bool, Error> {
    let (key, house) = new.steel.parts();
    let g = &new.geometry;
    let done = sqlx::query!(
        "insert into blade (id, workshop_id, mark, name, steel_key, house_steel_id, shape, length_mm,
            width_mm, spine_mm, edge_mm, grind, purpose, target_low_hrc, target_high_hrc, note,
            ready, bar_id, created_at, finished_at, cut_mm)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18,
            coalesce($19::timestamptz, now()), $20, $21)
         on conflict (id) do nothing",
        id,
        workshop.uuid(),
        new.mark,
        new.name,
        key,
        house,
        g.shape.id(),
        g.length_mm,
        g.width_mm,
        g.spine_mm,
        g.edge_mm,
        id_of(&g.grind),
        new.purpose.id(),
        new.target_hrc.0,
        new.target_hrc.1,
        new.note,
        Json(&new.ready) as _,
        new.bar_id,
        dates.map(|d| d.0),
        dates.and_then(|d| d.1),
        new.cut_mm
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// Changes a blade; `finished` puts it off the rack or back on it.
///
/// # Errors
/// [`Error::NotFound`], [`Error::Stale`], or as [`create`].
pub async fn update(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    new: &NewBlade,
    finished: bool,
    version: i64,
    person_id: Option<Uuid>,
) -> Result<BladeRow, Error> {
    let (key, house) = new.steel.parts();
    let g = &new.geometry;
    let mut tx = db.begin().await?;
    let before = one(&mut *tx, workshop, id).await?;
    let changed = sqlx::query!(
        "update blade set mark = $3, name = $4, steel_key = $5, house_steel_id = $6, shape = $7,
            length_mm = $8, width_mm = $9, spine_mm = $10, edge_mm = $11, grind = $12, purpose = $13,
            target_low_hrc = $14, target_high_hrc = $15, note = $16,
            finished_at = case when $17 then coalesce(finished_at, now()) end, ready = $19, bar_id = $20,
            version = version + 1, updated_at = now()
         where workshop_id = $1 and id = $2 and version = $18",
        workshop.uuid(),
        id,
        new.mark,
        new.name,
        key,
        house,
        g.shape.id(),
        g.length_mm,
        g.width_mm,
        g.spine_mm,
        g.edge_mm,
        id_of(&g.grind),
        new.purpose.id(),
        new.target_hrc.0,
        new.target_hrc.1,
        new.note,
        finished,
        version,
        Json(&new.ready) as _,
        new.bar_id
    )
    .execute(&mut *tx)
    .await?;
    // Somebody else was quicker, even if only by the time between the two.
    if changed.rows_affected() == 0 || before.version != version {
        return Err(Error::Stale);
    }
    if (before.bar_id, before.cut_mm) != (new.bar_id, new.cut_mm) {
        put_back(&mut tx, workshop, &before).await?;
        sqlx::query!(
            "update blade set cut_mm = null where workshop_id = $1 and id = $2",
            workshop.uuid(),
            id
        )
        .execute(&mut *tx)
        .await?;
        take(&mut tx, workshop, id, new).await?;
    }
    let after = one(&mut *tx, workshop, id).await?;
    crate::edit::keep(&mut tx, workshop, &before, &after, person_id).await?;
    if before.mark != after.mark {
        // Marks stand in what the records say; what was fired is kept with its firing.
        records_changed(&mut tx, workshop).await?;
    }
    tx.commit().await?;
    Ok(after)
}

/// The next free mark of the usual pattern, `K-1`, `K-2` and so on after the highest in use.
///
/// # Errors
/// The database cannot be read.
pub async fn next_mark(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<String, Error> {
    let highest = sqlx::query_scalar!(
        r#"select coalesce(max(substring(mark from 3)::bigint), 0) as "highest!" from blade
           where workshop_id = $1 and mark ~ '^K-[0-9]{1,9}$'"#,
        workshop.uuid()
    )
    .fetch_one(db)
    .await?;
    Ok(format!("K-{}", highest + 1))
}

/// Every mark in use.
///
/// # Errors
/// The database cannot be read.
pub async fn marks(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<String>, Error> {
    Ok(sqlx::query_scalar!(
        "select mark from blade where workshop_id = $1",
        workshop.uuid()
    )
    .fetch_all(db)
    .await?)
}

/// Blades oldest first, those after `after`, at most `limit`; for exports.
///
/// # Errors
/// The database cannot be read.
pub async fn after(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    after: Option<Uuid>,
    limit: i64,
) -> Result<Vec<BladeRow>, Error> {
    let rows = blades!(
        "where b.workshop_id = $1 and b.id > $2 order by b.id limit $3",
        workshop.uuid(),
        after.unwrap_or(Uuid::nil()),
        limit
    )
    .fetch_all(db)
    .await?;
    Ok(rows.into_iter().map(BladeRow::from).collect())
}
