//! What blades are made of: steels by the names a caller uses, bars with their layers, and the stations a plan
//! goes to.

use crate::problem::Problem;
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::StationNames;
use vatten_core::prediction::laminate::{Role, edge_share};
use vatten_core::prediction::made::{BarMade, LayerMade, MadeOf, Metal, SteelMade};
use vatten_core::prediction::subject::stations;
use vatten_core::process::furnace::Furnace;
use vatten_core::process::plan::Plan;
use vatten_core::process::station::StationKind;
use vatten_core::process::step::Step;
use vatten_core::quantity::validation::Faults;
use vatten_store::blade::BladeRow;
use vatten_store::station::Station;
use vatten_store::{PgPool, WorkshopId, bar, steel};

/// Names of stations by id.
#[must_use]
pub fn names_of(all: &[Station]) -> StationNames {
    all.iter().map(|s| (s.id, s.name.clone())).collect()
}

/// Refuses a plan that names a station the shop does not have.
///
/// # Errors
/// A fault at each such `steps[i].station_id`; a tank has to be a tank, and an eye an eye.
pub fn check_stations(plan: &Plan, stations: &[Station]) -> Result<(), Faults> {
    let mut faults = Vec::new();
    let has = |id: Uuid| stations.iter().any(|s| s.id == id);
    let is = |id: Uuid, kind: StationKind| stations.iter().any(|s| s.id == id && s.kind == kind);
    for (i, step) in plan.steps().iter().enumerate() {
        if let Some(id) = step.sighting().and_then(|by| by.eye_id)
            && !is(id, StationKind::Eye)
        {
            let field = format!("steps[{i}].by.eye_id");
            faults.extend(Faults::one(field, "The shop keeps no such eye.").0);
        }
        if let Step::Quench { stages } = step {
            for (j, stage) in stages.iter().enumerate() {
                if stage.tank_id.is_some_and(|id| !is(id, StationKind::Tank)) {
                    let field = format!("steps[{i}].stages[{j}].tank_id");
                    faults.extend(Faults::one(field, "The shop has no such tank.").0);
                }
            }
        }
        let (Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. }) = step else {
            continue;
        };
        if station_id.is_some_and(|id| !has(id)) {
            faults.extend(
                Faults::one(
                    format!("steps[{i}].station_id"),
                    "The shop has no such station.",
                )
                .0,
            );
        }
    }
    if faults.is_empty() {
        Ok(())
    } else {
        Err(Faults(faults))
    }
}

/// Finds a steel by its key or by the id of one of the shop's own.
///
/// # Errors
/// A fault at `steel` when there is none.
pub async fn find_steel(pool: &PgPool, id: WorkshopId, text: &str) -> Result<Steel, Problem> {
    if let Some(known) = Steel::built_in(text) {
        return Ok(known.clone());
    }
    if let Ok(house) = Uuid::parse_str(text.trim())
        && let Ok(row) = steel::get(pool, id, house).await
    {
        return Ok(row.steel());
    }
    Err(Faults::with_allowed(
        "steel",
        format!("{text} is not a steel of the table nor of this shop."),
        "a designation of the table, the id of a house steel, or {\"analysis\": {…}}",
    )
    .into())
}

/// All that makes a steel known, by its key or by the id of one of the shop's own.
///
/// # Errors
/// A fault at `steel` when there is none.
async fn steel_made(pool: &PgPool, id: WorkshopId, text: &str) -> Result<SteelMade, Problem> {
    let steel = find_steel(pool, id, text).await?;
    match Uuid::parse_str(&steel.key) {
        Ok(house) => Ok(steel::get(pool, id, house).await?.made()),
        Err(_) => Ok(SteelMade::BuiltIn { key: steel.key }),
    }
}

/// What is made from a bar of the shop.
///
/// # Errors
/// The shop has no such bar, or one of its steels is gone.
pub async fn made_of_bar(pool: &PgPool, id: WorkshopId, bar_id: Uuid) -> Result<MadeOf, Problem> {
    let bar = bar::get(pool, id, bar_id).await?;
    let mut layers = Vec::new();
    for layer in bar.layers.iter().filter(|l| l.role != Role::Edge) {
        layers.push(LayerMade {
            role: layer.role,
            steel: steel_made(pool, id, &layer.steel).await?,
        });
    }
    Ok(MadeOf {
        steel: steel_made(pool, id, &bar.steel).await?,
        bar: Some(BarMade {
            id: bar.id,
            name: bar.name,
            analysis: bar.analysis,
            condition: bar.condition,
            edge_share: edge_share(&bar.layers, bar.size.thickness_mm).unwrap_or(None),
            layers,
        }),
    })
}

/// What a stored blade is made of.
///
/// # Errors
/// As [`made_of_bar`] and [`find_steel`].
pub async fn made_of(pool: &PgPool, id: WorkshopId, blade: &BladeRow) -> Result<MadeOf, Problem> {
    match blade.bar_id {
        Some(bar) => made_of_bar(pool, id, bar).await,
        None => Ok(MadeOf {
            steel: steel_made(pool, id, &blade.steel).await?,
            bar: None,
        }),
    }
}

/// As the engine takes it.
///
/// # Errors
/// A fault at `steel`: the table no longer has one of its steels.
pub fn metal(of: &MadeOf) -> Result<Metal, Problem> {
    of.metal().ok_or_else(|| {
        Faults::one("steel", "The table no longer has the steel of this blade.").into()
    })
}

/// A steel as a caller wrote it: a designation, the id of a house steel, or `{"analysis": {…}}`.
///
/// # Errors
/// Faults at `steel` or `steel.analysis.Mn` and the like.
pub async fn read_steel(
    pool: &PgPool,
    id: WorkshopId,
    value: &serde_json::Value,
) -> Result<Steel, Problem> {
    match value {
        serde_json::Value::String(text) => find_steel(pool, id, text).await,
        serde_json::Value::Object(map) if map.contains_key("analysis") => {
            let elements: std::collections::BTreeMap<String, f64> =
                serde_json::from_value(map["analysis"].clone()).map_err(|_| {
                    Problem::from(Faults::one(
                        "steel.analysis",
                        "An analysis is a number in percent for each element.",
                    ))
                })?;
            let analysis =
                Analysis::parse(&elements).map_err(|f| Problem::from(f.under("steel.analysis")))?;
            Ok(Steel::from_analysis("analysis", "this analysis", &analysis))
        }
        serde_json::Value::Null => Err(Faults::one("steel", "A steel is needed.").into()),
        _ => Err(Faults::with_allowed(
            "steel",
            "This names no steel.",
            "a designation, or {\"analysis\": {\"C\": 0.84, …}}",
        )
        .into()),
    }
}

/// The fire that a plan names, as far as the shop has said what it is; a kiln otherwise.
#[must_use]
pub fn fire(all: &[Station], plan: &Plan) -> Furnace {
    if let Some(said) = plan.fire() {
        return said;
    }
    let named = stations(plan).0;
    let forge = all
        .iter()
        .any(|s| Some(s.id) == named && s.kind == StationKind::Forge);
    if forge { Furnace::Forge } else { Furnace::Kiln }
}

/// The tester readings will come from when none was said: the shop's only one.
#[must_use]
pub fn usual_tester(all: &[Station]) -> Option<Uuid> {
    let used = |s: &&Station| s.kind == StationKind::Tester && s.retired_at.is_none();
    let mut testers = all.iter().filter(used);
    let first = testers.next().map(|s| s.id);
    if testers.next().is_none() {
        first
    } else {
        None
    }
}
