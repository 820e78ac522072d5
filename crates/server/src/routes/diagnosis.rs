//! What could be the cause when a blade did not come out as it should.

use crate::auth::SignedIn;
use crate::body::Id;
use crate::predictor::Predictor;
use crate::prepared_blade::PreparedBlade;
use crate::problem::Problem;
use crate::routes::trace;
use rocket::serde::json::Json;
use rocket::{State, get};
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::advice::diagnosis::{Case, Diagnosis, Read, Seen, Symptom, diagnose};
use vatten_core::prediction::subject::Subject;
use vatten_core::process::calibration::Checks;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::quantity::validation::named;
use vatten_core::record::finding::Finding;
use vatten_core::record::reading::When;
use vatten_core::record::trace::StepTrace;
use vatten_core::simulation::physics::Verdict;
use vatten_store::firing::Firing;
use vatten_store::reading::Reading;
use vatten_store::{Error, PgPool, blade, calibration, finding, firing, reading};

/// Readings as they tell of the cause: what was set aside is left out, what was doubtful is marked.
fn read(all: &[Reading], firing: Uuid, checks: &Checks) -> Vec<Read> {
    let counts = |r: &&Reading| r.firing_id == firing && r.withdrawn_at.is_none();
    all.iter()
        .filter(counts)
        .filter_map(|r| {
            let aside = |i: &usize| r.taken.aside.iter().any(|a| a.index == *i);
            let kept: Vec<f64> = (0..r.values_hrc.len())
                .filter(|i| !aside(i))
                .map(|i| r.values_hrc[i])
                .collect();
            let known = checks.at(r.taken_at.unix_timestamp());
            Some(Read {
                when: When::parse(&r.stage)?,
                mean_hrc: known.really(r.tester_id, kept.iter().sum::<f64>() / kept.len() as f64),
                count: kept.len(),
                warm: r.taken.warm,
                skin_on: r.taken.skin_on,
            })
        })
        .filter(|r| r.count > 0)
        .collect()
}

/// What a thermocouple saw of the last step of a kind.
fn seen(traces: &[trace::TraceView], firing: &Firing, kind: fn(&Step) -> bool) -> Option<Seen> {
    let of_kind = |s: &&StepTrace| firing.steps.get(s.step).is_some_and(kind);
    let mine = traces.iter().filter(|t| t.firing_id == firing.id);
    let seen = mine.flat_map(|t| &t.steps).rfind(of_kind)?;
    Some(Seen {
        planned_c: seen.planned_c,
        real_c: seen.temper.map(|t| t.as_steady_c).or(seen.held.mean_c)?,
        time_share: seen.held.at_heat_s / seen.planned_s.max(1.0),
    })
}

/// Ranked causes of a symptom, with what speaks for each and the cheapest check, and what the prediction of the
/// same firing said otherwise.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "findings",
    params(("id" = Uuid, Path), ("symptom" = Symptom, Query)),
    responses((status = 200, body = Diagnosis), crate::openapi::Problems)))]
#[get("/blades/<id>/diagnosis?<symptom>")]
pub async fn get(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    id: Id,
    symptom: Option<&str>,
) -> Result<Json<Diagnosis>, Problem> {
    blade::get(pool.inner(), me.workshop, id.0).await?;
    let symptom: Symptom = named("symptom", symptom.unwrap_or_default(), || {
        "Say what went wrong.".to_owned()
    })?;
    let firings = firing::of_blade(pool.inner(), me.workshop, id.0).await?;
    let Some(latest) = firings.into_iter().next().filter(|f| f.state.quenched) else {
        let sentence = "This blade was not quenched yet: nothing can have gone wrong in it.";
        return Err(Error::not_now("symptom", sentence).into());
    };
    // The blade as it went into the fire, whatever was written of it since.
    let stored = PreparedBlade::fired(pool, me.workshop, latest.made.clone()).await?;
    let operator = latest.state.operator.clone();
    let checks = calibration::checks(pool.inner(), me.workshop).await?;
    let readings = reading::of_blade(pool.inner(), me.workshop, id.0).await?;
    let findings = finding::of_blade(pool.inner(), me.workshop, id.0).await?;
    let traces = trace::of_blade(pool, predictor, me.workshop, id.0).await?;
    let learned = predictor.models.current(pool, me.workshop).await?;
    let asked = stored.asked(latest.done.clone().plan());
    let planned = stored.asked(Plan::stored(latest.steps.clone())).plan;
    let found = predictor
        .compute
        .run(move || {
            let now = checks.at(OffsetDateTime::now_utc().unix_timestamp());
            let mine = findings
                .iter()
                .filter(|f| f.firing_id == latest.id && f.withdrawn_at.is_none());
            let found: Vec<&Finding> = mine.map(|f| &f.found).collect();
            let case = Case {
                subject: Subject {
                    plan: &asked.plan,
                    steel: &asked.steel,
                    work: &asked.work,
                    tester: asked.tester,
                    bar: asked.bar,
                    operator: operator.as_ref(),
                },
                planned: &planned,
                predicted: latest.prediction.hardness,
                hardens_through: latest.prediction.through.verdict == Verdict::HardensThrough,
                biases: &learned.biases,
                outcomes: latest.prediction.outcomes.as_ref(),
                target: stored.target(),
                readings: read(&readings, latest.id, &checks),
                findings: found,
                heat: seen(&traces, &latest, |s| matches!(s, Step::Austenitize { .. })),
                temper: seen(&traces, &latest, |s| matches!(s, Step::Temper { .. })),
                tester_checked: now.tells(asked.tester, stored.target().0) > 0.5,
            };
            diagnose(&case, symptom)
        })
        .await?;
    Ok(Json(found))
}
