//! What the records say about the predictions.

use crate::auth::SignedIn;
use crate::predictor::{Learned, Predictor};
use crate::problem::{Problem, Problems};
use rocket::serde::json::Json;
use rocket::{State, get};
use serde::Serialize;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::calibration::LEFT_UNKNOWN;
use vatten_core::interval::NINETY;
use vatten_core::learn::habit::Habit;
use vatten_core::outcome::Habits;
use vatten_core::reading::When;
use vatten_store::PgPool;

/// One result against its predictions, HRC.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct LessonPoint {
    /// Mark of the blade.
    pub mark: String,
    /// When it was read.
    pub stage: When,
    /// What physics alone said.
    pub physics_hrc: f64,
    /// What physics and all the *other* blades say.
    pub left_out_hrc: f64,
    /// Lower end of its 90 % interval.
    pub left_out_low_hrc: f64,
    /// Upper end of its 90 % interval.
    pub left_out_high_hrc: f64,
    /// What was read.
    pub measured_hrc: f64,
}

/// What an oven was found to do.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct OvenLesson {
    /// The oven.
    pub station_id: Uuid,
    /// Its name.
    pub name: String,
    /// How much hotter than set it runs, by its last check and by the records, °C.
    pub runs_hot_c: f64,
    /// How much of that its last check says, °C; none when it was never checked.
    pub by_check_c: Option<f64>,
}

/// What the records say.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct LessonsView {
    /// Results counted.
    pub records: usize,
    /// Error of physics alone, root mean square, HRC.
    pub before_rms_hrc: f64,
    /// Error when each blade is predicted from all the others, root mean square, HRC.
    pub after_rms_hrc: f64,
    /// Mean of measured minus physics, HRC.
    pub bias_hrc: f64,
    /// Share of results inside their 90 % interval, 0 to 1.
    pub coverage: f64,
    /// Ovens.
    pub ovens: Vec<OvenLesson>,
    /// Every result, oldest first.
    pub points: Vec<LessonPoint>,
    /// Outcomes other than hardness that something was recorded of.
    pub others: Vec<OtherLesson>,
}

/// How well another outcome is predicted.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct OtherLesson {
    /// `line`, `band`, `side` or `crack`.
    pub outcome: String,
    /// Results counted.
    pub results: usize,
    /// Error of physics alone, root mean square: mm for the line, a logarithm for band and side. None
    /// for cracks.
    pub before_rms: Option<f64>,
    /// The same with each blade predicted from all the others.
    pub after_rms: Option<f64>,
    /// Share inside the 90 % interval, 0 to 1.
    pub coverage: Option<f64>,
}

fn others(habits: &Habits) -> Vec<OtherLesson> {
    let of = |outcome: &str, habit: &Habit| {
        habit.honesty().map(|h| OtherLesson {
            outcome: outcome.to_owned(),
            results: h.results,
            before_rms: Some(h.before_rms),
            after_rms: Some(h.after_rms),
            coverage: Some(h.coverage),
        })
    };
    let crack = (habits.crack.outcomes > 0).then(|| OtherLesson {
        outcome: "crack".to_owned(),
        results: habits.crack.outcomes,
        before_rms: None,
        after_rms: None,
        coverage: None,
    });
    [
        of("line", &habits.line),
        of("band", &habits.clarity),
        of("side", &habits.sag),
        crack,
    ]
    .into_iter()
    .flatten()
    .collect()
}

/// About where ovens temper, °C: their checks are told for this.
const TEMPERS_AT_C: f64 = 205.0;

fn oven(learned: &Learned, id: Uuid) -> Option<OvenLesson> {
    let checks = learned.checks.at(i64::MAX);
    let by_records = learned.model.oven_offset_c(Some(id));
    let by_check_c = checks
        .knows(Some(id))
        .then(|| checks.really(Some(id), TEMPERS_AT_C) - TEMPERS_AT_C);
    Some(OvenLesson {
        station_id: id,
        name: learned.names.get(&id)?.clone(),
        runs_hot_c: by_check_c.map_or(by_records, |c| c + LEFT_UNKNOWN * by_records),
        by_check_c,
    })
}

/// What the records say about the predictions so far.
#[utoipa::path(context_path = "/api/v1", tag = "lessons", responses((status = 200, body = LessonsView), Problems))]
#[get("/lessons")]
pub async fn get(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
) -> Result<Json<LessonsView>, Problem> {
    let learned = predictor.learned(pool, me.workshop).await?;
    let view = predictor
        .run(move || {
            let lessons = learned.model.lessons();
            let points = lessons.iter().flat_map(|l| l.left_out.iter());
            LessonsView {
                others: others(&learned.habits),
                records: lessons.as_ref().map_or(0, |l| l.records),
                before_rms_hrc: lessons.as_ref().map_or(0.0, |l| l.before_rms_hrc),
                after_rms_hrc: lessons.as_ref().map_or(0.0, |l| l.after_rms_hrc),
                bias_hrc: lessons.as_ref().map_or(0.0, |l| l.bias_hrc),
                coverage: lessons.as_ref().map_or(0.0, |l| l.coverage),
                ovens: learned
                    .ovens
                    .iter()
                    .filter_map(|id| oven(&learned, *id))
                    .collect(),
                points: learned
                    .model
                    .records()
                    .iter()
                    .zip(&learned.marks)
                    .zip(points)
                    .map(|((record, mark), (left_out, deviation))| LessonPoint {
                        mark: mark.clone(),
                        stage: record.features.when,
                        physics_hrc: record.physics_hrc,
                        left_out_hrc: *left_out,
                        left_out_low_hrc: left_out - NINETY * deviation,
                        left_out_high_hrc: left_out + NINETY * deviation,
                        measured_hrc: record.measured_hrc,
                    })
                    .collect(),
            }
        })
        .await?;
    Ok(Json(view))
}
