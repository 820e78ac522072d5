//! What to do for a wanted hamon: the clay, or the seconds in water. Nothing is stored.

use crate::auth::SignedIn;
use crate::body::Body;
use crate::caller::Caller;
use crate::predictor::{PredictionRequest, Predictor};
use crate::problem::Problem;
use crate::routes::clay::{MAX_WANTED, check_wanted};
use crate::routes::predict::{PredictBody, learned_for};
use crate::shop_model::ShopModel;
use rocket::serde::json::Json;
use rocket::{State, post};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use vatten_core::geometry::clay::{ClayDraft, MAX_MM};
use vatten_core::prediction::outcome::{Brush, clay_for, seconds_in_water};
use vatten_core::quantity::validation::{Checker, Faults, Unit};
use vatten_core::simulation::simulated::STEP_MM;
use vatten_store::PgPool;

/// A wanted line, and what it is wanted on.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct ClayQuestion {
    /// Steel, blade and steps, as for a prediction.
    pub request: PredictBody,
    /// Height of the line above the edge, [x, mm] from heel to tip; one point for the same everywhere.
    pub wanted: Vec<[f64; 2]>,
    /// Thinnest clay that can be laid on, 0.1 to 10 mm; 0.8 when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0.1, maximum = 10))]
    pub thinnest_mm: Option<f64>,
    /// Thickest, 0.1 to 10 mm; 4 when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0.1, maximum = 10))]
    pub thickest_mm: Option<f64>,
    /// Width of the brush, 2 to 40 mm; 8 when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 2, maximum = 40))]
    pub brush_mm: Option<f64>,
}

/// The clay that comes nearest.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ClayAdvice {
    /// The clay, the same on both faces; none when no clay gives a line.
    pub clay: Option<ClayDraft>,
    /// Where it begins above the edge: [x, mm].
    pub border: Vec<[f64; 2]>,
    /// How thick, mm.
    pub thickness_mm: Option<f64>,
    /// How far its line is from the wanted one, root mean square, mm.
    pub off_mm: Option<f64>,
}

/// A wanted height of the line.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WaterQuestion {
    /// Steel, blade and heat, as for a prediction.
    pub request: PredictBody,
    /// Mean height of the line above the edge, 0.5 to 300 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 300))]
    pub wanted_mm: f64,
}

/// Seconds in water before fast oil.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WaterAdvice {
    /// Seconds; none when no time puts the line there.
    pub seconds: Option<f64>,
}

fn within(c: &mut Checker, field: &str, value: f64, (low, high): (f64, f64)) {
    if !(low..=high).contains(&value) {
        c.refuse_outside(
            field,
            "This is not possible.",
            (low, high),
            Unit::Millimetre,
        );
    }
}

/// What is asked about, with what the records teach of it; the faults of a question under `of`.
async fn asked(
    pool: &PgPool,
    predictor: &Predictor,
    me: &SignedIn,
    of: &PredictBody,
) -> Result<(PredictionRequest, Arc<ShopModel>), Problem> {
    match of.check(pool, me.workshop, STEP_MM).await {
        Ok((asked, names, _)) => {
            let learned = learned_for(pool, predictor, me, of, names).await?;
            Ok((asked, learned))
        }
        Err(problem) if problem.status == 422 => {
            Err(Faults(problem.fields).under("request").into())
        }
        Err(problem) => Err(problem),
    }
}

/// The clay whose simulated line comes nearest to a wanted one.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "predict", request_body = ClayQuestion,
    responses((status = 200, body = ClayAdvice), crate::openapi::Problems)))]
#[post("/advise/clay", data = "<body>")]
pub async fn clay(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    body: Body<ClayQuestion>,
) -> Result<Json<ClayAdvice>, Problem> {
    let q = body.0;
    let mut c = Checker::default();
    let (thin, thick) = (q.thinnest_mm.unwrap_or(0.8), q.thickest_mm.unwrap_or(4.0));
    within(&mut c, "thinnest_mm", thin, (0.1, MAX_MM));
    within(&mut c, "thickest_mm", thick, (0.1, MAX_MM));
    if thin > thick {
        c.refuse(
            "thinnest_mm",
            "The thinnest clay is thicker than the thickest.",
        );
    }
    let width = q.brush_mm.unwrap_or(8.0);
    within(&mut c, "brush_mm", width, (2.0, 40.0));
    if q.wanted.is_empty() {
        c.refuse_allowing(
            "wanted",
            "A line needs at least one point.",
            format!("1 to {MAX_WANTED} points"),
        );
    }
    check_wanted(&mut c, &q.wanted);
    c.finish(Some(()))?;
    let (asked, learned) = asked(pool, predictor, &me, &q.request).await?;
    let brush = Brush {
        thickness_mm: (thin, thick),
        width_mm: width,
    };
    let line = q.wanted;
    let found = predictor.compute.run_stoppable(move |stop| {
        let height = |x: f64| {
            let i = line.partition_point(|p| p[0] <= x);
            match (i.checked_sub(1).map(|i| line[i]), line.get(i)) {
                (Some(a), Some(b)) => a[1] + (b[1] - a[1]) * (x - a[0]) / (b[0] - a[0]),
                (Some(only), None) => only[1],
                (None, Some(only)) => only[1],
                (None, None) => 0.0,
            }
        };
        let PredictionRequest {
            work, plan, steel, ..
        } = &asked;
        clay_for(
            work,
            plan,
            steel,
            &learned.biases,
            &height,
            brush,
            Some(stop),
        )
    });
    Ok(Json(match caller.wait(found).await? {
        Some(found) => ClayAdvice {
            clay: Some(found.clay.draft()),
            border: found.border.iter().map(|b| [b.0, b.1]).collect(),
            thickness_mm: Some(found.thickness_mm),
            off_mm: Some(found.off_mm),
        },
        None => ClayAdvice {
            clay: None,
            border: Vec::new(),
            thickness_mm: None,
            off_mm: None,
        },
    }))
}

/// Seconds in water, before fast oil, that put the line at a wanted height.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "predict", request_body = WaterQuestion,
    responses((status = 200, body = WaterAdvice), crate::openapi::Problems)))]
#[post("/advise/water", data = "<body>")]
pub async fn water(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    body: Body<WaterQuestion>,
) -> Result<Json<WaterAdvice>, Problem> {
    let WaterQuestion { request, wanted_mm } = body.0;
    let mut c = Checker::default();
    within(&mut c, "wanted_mm", wanted_mm, (0.5, 300.0));
    c.finish(Some(()))?;
    let (asked, learned) = asked(pool, predictor, &me, &request).await?;
    let seconds = predictor.compute.run_stoppable(move |stop| {
        let PredictionRequest {
            work, plan, steel, ..
        } = &asked;
        seconds_in_water(work, plan, steel, &learned.biases, wanted_mm, Some(stop))
    });
    let seconds = caller.wait(seconds).await?;
    Ok(Json(WaterAdvice { seconds }))
}
