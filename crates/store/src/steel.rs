//! A steel of the shop's own, known by its analysis.

use crate::Error;
use crate::workshop::{WorkshopId, records_changed};
use sqlx::types::Json;
use sqlx::{Acquire, PgConnection, PgExecutor, Postgres};
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::made::{SteelMade, house_steel};
use vatten_core::record::trial::Estimate;

/// A house steel.
#[derive(Debug, Clone, PartialEq)]
pub struct HouseSteel {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Analysis, weight percent.
    pub analysis: Analysis,
    /// What a coupon trial found out, when it was made by one.
    pub estimate: Option<Estimate>,
    /// Goes up with every change.
    pub version: i64,
}

impl HouseSteel {
    /// Everything the computation needs of it.
    #[must_use]
    pub fn steel(&self) -> Steel {
        house_steel(self.id, &self.name, &self.analysis, self.estimate.as_ref())
    }

    /// All that makes it known.
    #[must_use]
    pub fn made(&self) -> SteelMade {
        SteelMade::House {
            id: self.id,
            name: self.name.clone(),
            analysis: self.analysis,
            estimate: self.estimate.clone().map(Box::new),
        }
    }

    /// Nobody knows its analysis: it is known by what it was and what was tried of it.
    #[must_use]
    pub fn is_reclaimed(&self) -> bool {
        self.estimate
            .as_ref()
            .is_some_and(|e| e.reclaimed.is_some())
    }
}

/// Keeps what coupons and blades showed of steels without a paper since: they are known better, and not other steels, so
/// that their version stays. One that was given an analysis meanwhile keeps it.
///
/// # Errors
/// The database cannot be written.
pub async fn narrow(
    db: &mut PgConnection,
    workshop: WorkshopId,
    all: &[(Uuid, Estimate)],
) -> Result<(), Error> {
    let ids: Vec<Uuid> = all.iter().map(|a| a.0).collect();
    let mut analyses = Vec::with_capacity(all.len());
    let mut estimates = Vec::with_capacity(all.len());
    for (_, estimate) in all {
        analyses.push(serde_json::to_value(estimate.analysis())?);
        estimates.push(serde_json::to_value(estimate)?);
    }
    sqlx::query!(
        "update steel set analysis = a.analysis, estimate = a.estimate
         from unnest($2::uuid[], $3::jsonb[], $4::jsonb[]) as a (id, analysis, estimate)
         where steel.workshop_id = $1 and steel.id = a.id and steel.estimate is not null",
        workshop.uuid(),
        &ids,
        &analyses,
        &estimates
    )
    .execute(db)
    .await?;
    Ok(())
}

/// True when the shop has a steel that is known only by what it was.
///
/// # Errors
/// The database cannot be read.
pub async fn any_reclaimed(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<bool, Error> {
    let found = sqlx::query_scalar!(
        r#"select exists (select from steel where workshop_id = $1 and estimate -> 'reclaimed' is not null) as "any!""#,
        workshop.uuid()
    )
    .fetch_one(db)
    .await?;
    Ok(found)
}

/// All house steels, by name.
///
/// # Errors
/// The database cannot be read.
pub async fn list(db: impl PgExecutor<'_>, workshop: WorkshopId) -> Result<Vec<HouseSteel>, Error> {
    let rows = sqlx::query!(
        r#"select id, name, analysis as "analysis: Json<Analysis>", estimate as "estimate: Json<Estimate>", version from steel
           where workshop_id = $1 order by lower(name)"#,
        workshop.uuid()
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| HouseSteel {
            id: r.id,
            name: r.name,
            analysis: r.analysis.0,
            estimate: r.estimate.map(|e| e.0),
            version: r.version,
        })
        .collect())
}

/// One house steel.
///
/// # Errors
/// [`Error::NotFound`].
pub async fn get(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
) -> Result<HouseSteel, Error> {
    let r = sqlx::query!(
        r#"select id, name, analysis as "analysis: Json<Analysis>", estimate as "estimate: Json<Estimate>", version from steel
           where workshop_id = $1 and id = $2"#,
        workshop.uuid(),
        id
    )
    .fetch_one(db)
    .await?;
    Ok(HouseSteel {
        id: r.id,
        name: r.name,
        analysis: r.analysis.0,
        estimate: r.estimate.map(|e| e.0),
        version: r.version,
    })
}

/// Adds a house steel; the same id again is the same steel.
///
/// # Errors
/// [`Error::Refused`] at `name` when the name is taken; [`Error::NotFound`] when the id is another
/// shop's.
pub async fn create(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    analysis: &Analysis,
    estimate: Option<&Estimate>,
) -> Result<HouseSteel, Error> {
    let mut db = db.acquire().await?;
    insert(&mut *db, workshop, id, name, analysis, estimate).await?;
    get(&mut *db, workshop, id).await
}

/// Puts a house steel in.
pub(crate) async fn insert(
    db: impl PgExecutor<'_>,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    analysis: &Analysis,
    estimate: Option<&Estimate>,
) -> Result<(), Error> {
    sqlx::query!(
        "insert into steel (id, workshop_id, name, analysis, estimate) values ($1, $2, $3, $4, $5)
         on conflict (id) do nothing",
        id,
        workshop.uuid(),
        name,
        serde_json::to_value(analysis)?,
        estimate.map(Json) as _
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Changes name and analysis; a real analysis replaces what a trial estimated.
///
/// # Errors
/// [`Error::NotFound`], or [`Error::Stale`] when `version` is not the current one.
pub async fn update(
    db: impl Acquire<'_, Database = Postgres>,
    workshop: WorkshopId,
    id: Uuid,
    name: &str,
    analysis: &Analysis,
    version: i64,
) -> Result<HouseSteel, Error> {
    let mut db = db.acquire().await?;
    let mut tx = sqlx::Connection::begin(&mut *db).await?;
    let changed = sqlx::query!(
        "update steel set name = $3, analysis = $4, estimate = null, version = version + 1
         where workshop_id = $1 and id = $2 and version = $5",
        workshop.uuid(),
        id,
        name,
        serde_json::to_value(analysis)?,
        version
    )
    .execute(&mut *tx)
    .await?;
    if changed.rows_affected() == 1 {
        records_changed(&mut tx, workshop).await?;
        tx.commit().await?;
        get(&mut *db, workshop, id).await
    } else {
        get(&mut *tx, workshop, id).await?;
        Err(Error::Stale)
    }
}

/// The name of the steel of a blade: of the shop's own one, or of the table's.
pub(crate) fn shown_name(key: Option<&str>, house: Option<String>) -> String {
    let table = || Some(Steel::built_in(key?)?.name.clone());
    house
        .or_else(table)
        .or_else(|| key.map(str::to_owned))
        .unwrap_or_default()
}
