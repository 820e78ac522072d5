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
use vatten_core::finding::Finding;
use vatten_core::hamon::Hamon;
use vatten_core::hand::Hand;
use vatten_core::plan::Step;
use vatten_core::prediction::Prediction;
use vatten_core::reading::Taken;
use vatten_core::ready::Made;
use vatten_core::steel::Steel;
use vatten_core::trial::Estimate;

/// A blade and what was really done to it.
#[derive(Debug, Clone)]
pub struct Treated {
    /// The firing.
    pub firing_id: Uuid,
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
fn of_bar(
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
fn house(
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
    /// The line that was predicted when it was fired, where the values have places.
    pub hamon: Option<Hamon>,
}

/// Firings joined to something, with their blade and treatment: first the further columns, then what is
/// joined and asked for.
macro_rules! treated_rows {
    ($columns:tt, $tail:tt, $($argument:expr),*) => {
        sqlx::query!(
            r#"select f.id as firing_id, f.blade_id, b.mark, b.steel_key, b.house_steel_id, s.name as "house_name?",
                s.analysis as "analysis?: Json<Analysis>", s.estimate as "estimate?: Json<Estimate>",
                b.shape, b.length_mm, b.width_mm, b.spine_mm, b.edge_mm, b.grind,
                f.done as "done: Json<Vec<Step>>", f.started_at, f.made as "made: Json<Made>",
                f.state ->> 'hand' as "hand?", r2.id as "bar_id?",
                r2.analysis as "bar_analysis?: Json<Analysis>", r2.condition as "bar_condition?", "#
                + $columns
                + r#" from firing f
            join blade b on b.workshop_id = f.workshop_id and b.id = f.blade_id
            left join bar r2 on r2.workshop_id = b.workshop_id and r2.id = b.bar_id
            left join steel s on s.workshop_id = b.workshop_id and s.id = b.house_steel_id "#
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
            steel_key: $row.steel_key,
            house_steel: house(
                $row.house_steel_id,
                $row.house_name.as_deref(),
                $row.analysis,
                $row.estimate,
            ),
            shape: $row.shape,
            lengths_mm: [$row.length_mm, $row.width_mm, $row.spine_mm, $row.edge_mm],
            grind: $row.grind,
            done: $row.done.0,
            started_at: $row.started_at,
            made: $row.made.0,
            hand: $row.hand.as_deref().and_then(|h| Hand::parse(h).ok()),
            bar: of_bar(
                $row.bar_id,
                $row.bar_analysis,
                $row.bar_condition.as_deref(),
            ),
        }
    };
}

/// A blade with its latest firing.
#[derive(Debug, Clone)]
pub struct Fired {
    /// Blade and treatment.
    pub treated: Treated,
    /// Name of the blade.
    pub name: String,
    /// Name of its bar.
    pub bar_name: Option<String>,
    /// What was frozen.
    pub prediction: Prediction,
    /// Wanted hardness, lowest and highest, HRC.
    pub target_hrc: (f64, f64),
}

/// Blades with their latest firing, those that were quenched, in no order.
///
/// # Errors
/// The database cannot be read.
pub async fn fired(
    pool: &PgPool,
    workshop: WorkshopId,
    blades: &[Uuid],
) -> Result<Vec<Fired>, Error> {
    let rows = treated_rows!(
        r#"f.prediction as "prediction: Json<Prediction>", b.name, r2.name as "bar_name?",
           b.target_low_hrc, b.target_high_hrc"#,
        r#"where f.workshop_id = $1 and f.blade_id = any($2) and (f.state ->> 'quenched')::boolean
           and not exists (select from firing g where g.workshop_id = f.workshop_id
               and g.blade_id = f.blade_id and g.id > f.id)"#,
        workshop.uuid(),
        blades
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Fired {
            name: r.name,
            bar_name: r.bar_name,
            prediction: r.prediction.0,
            target_hrc: (r.target_low_hrc, r.target_high_hrc),
            treated: treated!(r),
        })
        .collect())
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
    let rows = treated_rows!(
        r#"r.stage, r.values_hrc, r.tester_id, r.taken as "taken: Json<Taken>",
           case when r.taken -> 'places' <> '[]' then f.prediction -> 'hamon' end as "hamon: Json<Hamon>""#,
        r#"join reading r on r.workshop_id = f.workshop_id and r.firing_id = f.id
           where f.workshop_id = $1 and r.workshop_id = $1 and r.withdrawn_at is null
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
            stage: r.stage,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
            taken: r.taken.0,
            hamon: r.hamon.map(|h| h.0),
            treated: treated!(r),
        })
        .collect())
}

/// A finding with its blade, its treatment and what was predicted of it.
#[derive(Debug, Clone)]
pub struct LearnedFrom {
    /// Blade and treatment.
    pub treated: Treated,
    /// What was frozen.
    pub prediction: Prediction,
    /// What was found.
    pub found: Finding,
}

/// The newest `limit` findings that count and that something is learned from, oldest first.
///
/// # Errors
/// The database cannot be read.
pub async fn findings(
    pool: &PgPool,
    workshop: WorkshopId,
    limit: i64,
) -> Result<Vec<LearnedFrom>, Error> {
    let rows = treated_rows!(
        r#"f.prediction as "prediction: Json<Prediction>", r.found as "found: Json<Finding>""#,
        r#"join finding r on r.workshop_id = f.workshop_id and r.firing_id = f.id
           where f.workshop_id = $1 and r.workshop_id = $1 and r.withdrawn_at is null
           and r.found ->> 'kind' in ('line', 'straight', 'side', 'crack', 'file', 'punch', 'grain')
           order by r.found_at desc, r.id desc limit $2"#,
        workshop.uuid(),
        limit
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .rev()
        .map(|r| LearnedFrom {
            prediction: r.prediction.0,
            found: r.found.0,
            treated: treated!(r),
        })
        .collect())
}
