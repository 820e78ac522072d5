//! What the records say about the predictions.

use crate::auth::SignedIn;
use crate::compute_pool::broken_off;
use crate::predictor::Predictor;
use crate::problem::Problem;
use crate::shop_model::ShopModel;
use rocket::response::content::RawJson;
use rocket::{State, get};
use serde::Serialize;
use std::collections::BTreeMap;
use std::sync::Arc;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::learning::Lesson;
use vatten_core::learning::bias_model::BiasModel;
use vatten_core::learning::crack::{Count, counts};
use vatten_core::learning::lesson::{Bias, Share};
use vatten_core::learning::proposal::{Measurement, Proposal, propose};
use vatten_core::learning::warp::{Promise, Scale};
use vatten_core::prediction::outcome::tolerance_mm;
use vatten_core::record::reading::When;
use vatten_store::lessons::Kept;
use vatten_store::{PgPool, WorkshopId, lessons, workshop};

/// An outcome that is predicted and then measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum OutcomeName {
    /// Hardness before tempering, HRC.
    AsQuenched,
    /// Hardness after tempering, HRC.
    Tempered,
    /// Height of the hamon above the edge, mm.
    Line,
    /// Width of its band, mm; errors are ratios.
    Band,
    /// Curve towards the spine, mm as on 240 mm of length.
    Curve,
    /// Grain, ASTM number.
    Grain,
}

/// A bias with the name of what it is of.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BiasView {
    /// Name of the steel, station, tank or operator.
    pub name: String,
    /// Of a fire or oven that was checked: how much hotter than set its last check says it runs about
    /// where it is used, °C. It is in `by` too.
    pub by_check_c: Option<f64>,
    /// The bias.
    #[serde(flatten)]
    pub bias: Bias,
}

/// What the records say of one outcome.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OutcomeLesson {
    /// The outcome.
    pub outcome: OutcomeName,
    /// How far off and how honest.
    pub lesson: Lesson,
    /// Whose doing.
    pub biases: Vec<BiasView>,
}

/// Cracks counted, with the name of whose.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CountView {
    /// Name of the steel, tank or operator; empty for the whole shop.
    pub name: String,
    /// The count.
    #[serde(flatten)]
    pub count: Count,
}

/// How large a cause of warp is, with the name of whose.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WarpScaleView {
    /// Name of the tank or operator; empty for the whole shop.
    pub name: String,
    /// The scale.
    #[serde(flatten)]
    pub scale: Scale,
}

/// A proposal with names.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ProposalView {
    /// Name of the station or steel.
    pub name: String,
    /// Name of what it tells about.
    pub teaches_name: String,
    /// The proposal.
    #[serde(flatten)]
    pub proposal: Proposal,
}

/// What the records say.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LessonsView {
    /// Something came in since, and is being counted: ask again in a moment.
    pub counting: bool,
    /// Hardness results learned from.
    pub records: usize,
    /// Every outcome that something was recorded of.
    pub outcomes: Vec<OutcomeLesson>,
    /// Cracks: the shop first, then each steel, tank and operator.
    pub cracks: Vec<CountView>,
    /// How large each cause of warp is here: the shop first, then operators and tanks.
    pub warp: Vec<WarpScaleView>,
    /// Chances of warp that were promised, and what came.
    pub warp_promises: Vec<Promise>,
    /// What to try next, best first, at most three.
    pub next: Vec<ProposalView>,
    /// Marks of the blades by id.
    pub marks: BTreeMap<Uuid, String>,
}

/// About where ovens temper and kilns harden, °C: their checks are told for this.
const USED_AT_C: (f64, f64) = (205.0, 800.0);

fn named(learned: &ShopModel, share: &Share) -> String {
    match share {
        Share::Shop => String::new(),
        Share::Steel { key } => learned.steels.get(key).unwrap_or(key).clone(),
        Share::Kiln { id } | Share::Oven { id } | Share::Tester { id } => {
            learned.names.get(id).cloned().unwrap_or_default()
        }
        Share::Tank { medium } => learned
            .tanks
            .get(medium)
            .map_or_else(|| medium.name(), String::as_str)
            .to_owned(),
        // Words for a kind of clay are the interface's.
        Share::Clay { .. } => String::new(),
        Share::Operator { operator } => operator.name().to_owned(),
    }
}

/// A bias with its name; of a checked fire, what its check says and the part that it left unknown.
fn bias(learned: &ShopModel, bias: Bias) -> BiasView {
    let used = match bias.share {
        Share::Oven { id } => Some((id, USED_AT_C.0)),
        Share::Kiln { id } => Some((id, USED_AT_C.1)),
        _ => None,
    };
    let checks = learned
        .checks
        .at(OffsetDateTime::now_utc().unix_timestamp());
    let checked = used.filter(|(id, at)| checks.tells(Some(*id), *at) > 0.05);
    let by_check_c = checked.map(|(id, at)| checks.really(Some(id), at) - at);
    let left = checked.map_or(1.0, |(id, at)| checks.left_unknown(Some(id), at));
    let name = named(learned, &bias.share);
    let bias = match by_check_c {
        Some(check) => {
            let deviation = left * bias.give_or_take / vatten_core::quantity::interval::NINETY;
            let by = check + left * bias.by;
            Bias::new(bias.share, by, deviation, bias.results)
        }
        None => bias,
    };
    BiasView {
        name,
        by_check_c,
        bias,
    }
}

fn view(learned: &ShopModel) -> LessonsView {
    let biases =
        |all: Vec<Bias>| -> Vec<BiasView> { all.into_iter().map(|b| bias(learned, b)).collect() };
    // The same for both: they are of one process.
    let of_hardness = learned.model.biases();
    let hardness = |outcome, when| {
        learned.model.lesson(when).map(|lesson| OutcomeLesson {
            outcome,
            lesson,
            biases: biases(of_hardness.clone()),
        })
    };
    let other = |outcome, habit: &BiasModel| {
        habit.lesson().map(|lesson| OutcomeLesson {
            outcome,
            lesson,
            biases: biases(habit.biases()),
        })
    };
    let biases = &learned.biases;
    let outcomes = [
        hardness(OutcomeName::Tempered, When::Tempered),
        hardness(OutcomeName::AsQuenched, When::AsQuenched),
        other(OutcomeName::Line, &biases.line),
        other(OutcomeName::Band, &biases.clarity),
        other(OutcomeName::Curve, &biases.sori),
        other(OutcomeName::Grain, &biases.grain),
    ];
    let name_of = |measurement: &Measurement| match measurement {
        Measurement::Thermometer { id } | Measurement::Blocks { id } => {
            learned.names.get(id).cloned().unwrap_or_default()
        }
        Measurement::ReadAsQuenched { steel } | Measurement::Coupon { steel, .. } => {
            learned.steels.get(steel).unwrap_or(steel).clone()
        }
    };
    LessonsView {
        counting: false,
        records: learned.model.records().len(),
        outcomes: outcomes.into_iter().flatten().collect(),
        cracks: counts(&biases.crack, &biases.cracks)
            .into_iter()
            .map(|count| CountView {
                name: named(learned, &count.share),
                count,
            })
            .collect(),
        warp: biases
            .warp
            .scales()
            .into_iter()
            .map(|scale| WarpScaleView {
                name: named(learned, &scale.share),
                scale,
            })
            .collect(),
        warp_promises: biases.warp.promises(|seen| tolerance_mm(seen.length_mm)),
        next: propose(&learned.model)
            .into_iter()
            .map(|proposal| ProposalView {
                name: name_of(&proposal.measurement),
                teaches_name: named(learned, &proposal.teaches),
                proposal,
            })
            .collect(),
        marks: learned.marks.clone(),
    }
}

/// Goes up when records are counted or told otherwise: what was kept before is then counted anew.
const FORMAT: i32 = 6;
/// With more results than this, counting them takes longer than anybody wants to wait: what they said
/// before is shown meanwhile.
const COUNTED_AT_ONCE: i64 = 200;

/// Counts the records, and keeps what they say. Nobody else does so meanwhile: see [`Predictor::counting`].
async fn count(pool: &PgPool, predictor: &Predictor, id: WorkshopId) -> Result<String, Problem> {
    let records_version = workshop::records_version(pool, id).await?;
    let learned = predictor.models.current(pool, id).await?;
    if let Some(known) = learned.lessons.get() {
        return Ok(known.clone());
    }
    let records = i64::try_from(learned.model.records().len()).unwrap_or(i64::MAX);
    let answer = predictor
        .compute
        .run(move || {
            let text = serde_json::to_string(&view(&learned)).map_err(|_| broken_off())?;
            Ok::<_, Problem>(learned.lessons.get_or_init(|| text).clone())
        })
        .await??;
    let kept = Kept {
        format: FORMAT,
        records_version,
        records,
        answer,
    };
    lessons::keep(pool, id, &kept).await?;
    Ok(kept.answer)
}

/// What the records say about the predictions so far. In a shop with many results, what they said before
/// the last one came in: then `counting` is true.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "lessons", responses((status = 200, body = LessonsView), crate::openapi::Problems)))]
#[get("/lessons")]
pub async fn get(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
) -> Result<RawJson<String>, Problem> {
    let version = workshop::records_version(pool.inner(), me.workshop).await?;
    let learned = predictor.models.at(me.workshop, version);
    if let Some(known) = learned.as_ref().and_then(|l| l.lessons.get()) {
        return Ok(RawJson(known.clone()));
    }
    let kept = lessons::kept(pool.inner(), me.workshop, FORMAT).await?;
    match kept {
        Some(kept) if kept.records_version == version => Ok(RawJson(kept.answer)),
        Some(kept) if kept.records > COUNTED_AT_ONCE => {
            if let Ok(alone) = predictor
                .models
                .counting
                .lock_of(me.workshop)
                .try_lock_owned()
            {
                let (pool, predictor) = (PgPool::clone(pool), Arc::clone(predictor));
                // It goes on when the one who asked has gone; when it fails, the next one asks again.
                tokio::spawn(async move {
                    let _alone = alone;
                    count(&pool, &predictor, me.workshop).await.ok()
                });
            }
            let (counted, counting) = (r#"{"counting":false"#, r#"{"counting":true"#);
            Ok(RawJson(kept.answer.replacen(counted, counting, 1)))
        }
        _ => {
            let _alone = predictor
                .models
                .counting
                .lock_of(me.workshop)
                .lock_owned()
                .await;
            Ok(RawJson(count(pool, predictor, me.workshop).await?))
        }
    }
}
