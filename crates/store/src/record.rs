//! Everything learning reads, in one query: each set of readings with what was really done.

use crate::Error;
use crate::workshop::WorkshopId;
use sqlx::PgPool;
use sqlx::types::Json;
use uuid::Uuid;
use vatten_core::analysis::Analysis;
use vatten_core::plan::Step;
use vatten_core::ready::Made;

/// A blade and what was really done to it.
#[derive(Debug, Clone)]
pub struct Treated {
    /// The blade.
    pub blade_id: Uuid,
    /// Its mark.
    pub mark: String,
    /// Built-in steel.
    pub steel_key: Option<String>,
    /// House steel: id, name and analysis.
    pub house_steel: Option<(Uuid, String, Analysis)>,
    /// Shape preset.
    pub shape: String,
    /// Length, width, spine and edge, mm.
    pub lengths_mm: [f64; 4],
    /// Grind.
    pub grind: String,
    /// The steps as really done.
    pub done: Vec<Step>,
    /// The blade as it went into the fire.
    pub made: Made,
}

/// Id, name and analysis of a house steel, when a row has one.
pub(crate) fn house(
    id: Option<Uuid>,
    name: Option<String>,
    analysis: Option<Json<Analysis>>,
) -> Option<(Uuid, String, Analysis)> {
    Some((id?, name?, analysis?.0))
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
}

/// The newest `limit` sets of readings that count, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn list(
    pool: &PgPool,
    workshop: WorkshopId,
    limit: i64,
) -> Result<Vec<RecordRow>, Error> {
    let rows = sqlx::query!(
        r#"select r.blade_id, b.mark, b.steel_key, b.house_steel_id, s.name as "house_name?",
               s.analysis as "analysis?: Json<Analysis>", b.shape, b.length_mm, b.width_mm, b.spine_mm,
               b.edge_mm, b.grind, f.done as "done: Json<Vec<Step>>", f.made as "made: Json<Made>", r.stage, r.values_hrc, r.tester_id
           from reading r
           join blade b on b.workshop_id = r.workshop_id and b.id = r.blade_id
           join firing f on f.workshop_id = r.workshop_id and f.id = r.firing_id
           left join steel s on s.workshop_id = b.workshop_id and s.id = b.house_steel_id
           where r.workshop_id = $1 and r.withdrawn_at is null
           order by r.taken_at desc, r.id desc limit $2"#,
        workshop.uuid(),
        limit
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .rev()
        .map(|r| RecordRow {
            treated: Treated {
                blade_id: r.blade_id,
                mark: r.mark,
                steel_key: r.steel_key,
                house_steel: house(r.house_steel_id, r.house_name, r.analysis),
                shape: r.shape,
                lengths_mm: [r.length_mm, r.width_mm, r.spine_mm, r.edge_mm],
                grind: r.grind,
                done: r.done.0,
                made: r.made.0,
            },
            stage: r.stage,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
        })
        .collect())
}
