//! Everything learning reads, in one query: each set of readings with what was really done.

use crate::Error;
use crate::steel::steel_of;
use crate::workshop::WorkshopId;
use sqlx::PgPool;
use sqlx::types::Json;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::analysis::Analysis;
use vatten_core::bar::Condition;
use vatten_core::hand::Hand;
use vatten_core::outcome::Outcomes;
use vatten_core::plan::Step;
use vatten_core::prediction::Prediction;
use vatten_core::reading::Taken;
use vatten_core::ready::Made;
use vatten_core::steel::Steel;
use vatten_core::trial::Estimate;

/// A blade and what was really done to it.
#[derive(Debug, Clone)]
pub struct Treated {
    /// The blade.
    pub blade_id: Uuid,
    /// Its mark.
    pub mark: String,
    /// Built-in steel.
    pub steel_key: Option<String>,
    /// House steel.
    pub house_steel: Option<Steel>,
    /// Shape preset.
    pub shape: String,
    /// Length, width, spine and edge, mm.
    pub lengths_mm: [f64; 4],
    /// Grind.
    pub grind: String,
    /// The steps as really done.
    pub done: Vec<Step>,
    /// When the firing started.
    pub started_at: OffsetDateTime,
    /// The blade as it went into the fire.
    pub made: Made,
    /// Who quenched it, when said.
    pub hand: Option<Hand>,
    /// The bar it was made from.
    pub bar: Option<FromBar>,
}

/// What the bar of a blade tells.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FromBar {
    /// Its id.
    pub id: Uuid,
    /// The mill's own analysis.
    pub analysis: Option<Analysis>,
    /// How it came.
    pub condition: Condition,
}

/// The bar of a row, when it has one.
pub(crate) fn of_bar(
    id: Option<Uuid>,
    analysis: Option<Json<Analysis>>,
    condition: Option<&str>,
) -> Option<FromBar> {
    Some(FromBar {
        id: id?,
        analysis: analysis.map(|a| a.0),
        condition: condition.map(crate::bar::condition).unwrap_or_default(),
    })
}

/// The house steel of a row, when it has one.
pub(crate) fn house(
    id: Option<Uuid>,
    name: Option<&str>,
    analysis: Option<Json<Analysis>>,
    estimate: Option<Json<Estimate>>,
) -> Option<Steel> {
    Some(steel_of(
        id?,
        name?,
        &analysis?.0,
        estimate.map(|e| e.0).as_ref(),
    ))
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
    /// What was predicted of the whole blade when it was fired.
    pub outcomes: Option<Outcomes>,
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
               s.analysis as "analysis?: Json<Analysis>", s.estimate as "estimate?: Json<Estimate>", b.shape, b.length_mm, b.width_mm, b.spine_mm,
               b.edge_mm, b.grind, f.done as "done: Json<Vec<Step>>", f.started_at, f.made as "made: Json<Made>", f.state ->> 'hand' as "hand?", r2.id as "bar_id?",
               r2.analysis as "bar_analysis?: Json<Analysis>", r2.condition as "bar_condition?", r.stage, r.values_hrc, r.tester_id,
               r.taken as "taken: Json<Taken>",
               case when r.taken -> 'places' <> '[]' then f.prediction end as "prediction: Json<Prediction>"
           from reading r
           join blade b on b.workshop_id = r.workshop_id and b.id = r.blade_id
           join firing f on f.workshop_id = r.workshop_id and f.id = r.firing_id
           left join bar r2 on r2.workshop_id = b.workshop_id and r2.id = b.bar_id
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
                house_steel: house(
                    r.house_steel_id,
                    r.house_name.as_deref(),
                    r.analysis,
                    r.estimate,
                ),
                shape: r.shape,
                lengths_mm: [r.length_mm, r.width_mm, r.spine_mm, r.edge_mm],
                grind: r.grind,
                done: r.done.0,
                started_at: r.started_at,
                made: r.made.0,
                hand: r.hand.as_deref().and_then(|h| Hand::parse(h).ok()),
                bar: of_bar(r.bar_id, r.bar_analysis, r.bar_condition.as_deref()),
            },
            stage: r.stage,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
            taken: r.taken.0,
            outcomes: r.prediction.and_then(|p| p.0.outcomes),
        })
        .collect())
}
