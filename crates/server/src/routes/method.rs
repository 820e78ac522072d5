//! Methods: the schools, the shop's own, and what was done to blades that came out well.

use crate::answers::method::HouseMethod;
use crate::answers::{all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::caller::Caller;
use crate::came_out_well::{CameOutWell, came_out_well};
use crate::materials::check_stations;
use crate::predictor::{Depth, Predictor};
use crate::prepared_blade::PreparedBlade;
use crate::problem::Problem;
use crate::routes::predict::{PredictBody, learned_for};
use crate::shop_model::ShopModel;
use rocket::serde::json::Json;
use rocket::{State, delete, get, post, put};
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::advice::improvement::{Help, Known, help};
use vatten_core::advice::school::{Against, Lays, School};
use vatten_core::advice::success::{Fit, Standing, ToldApartBy, told_apart_by};
use vatten_core::geometry::clay::{Clay, ClayDraft};
use vatten_core::prediction::Prediction;
use vatten_core::prediction::subject::Subject;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::{Step, Unreadable};
use vatten_core::process::step_draft::StepDraft;
use vatten_core::quantity::interval::Interval;
use vatten_core::quantity::units::{Celsius, Quantity};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::simulation::simulated::STEP_MM;
use vatten_store::{Error, PgPool, clay, method, station};

/// Where a method comes from.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "source", rename_all = "snake_case")]
pub enum Source {
    /// A school.
    School {
        /// Which.
        school: School,
    },
    /// The shop's own.
    House {
        /// Its name.
        name: String,
        /// The smith's own note.
        note: String,
    },
    /// What was done to a blade that came out well.
    Blade {
        /// Mark of the blade.
        mark: String,
        /// Its name.
        name: String,
        /// Its spine, mm.
        spine_mm: f64,
        /// What it was read at, HRC.
        measured_hrc: f64,
    },
}

impl Source {
    /// Schools first, then the shop's own, then blades.
    const fn rank(&self) -> u8 {
        match self {
            Self::School { .. } => 0,
            Self::House { .. } => 1,
            Self::Blade { .. } => 2,
        }
    }
}

/// What a plan makes of the blade, in the numbers to compare it by.
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Compared {
    /// Hardness after tempering, HRC.
    pub tempered_hrc: Interval,
    /// Austenite left, percent.
    pub retained_percent: f64,
    /// Mean height of the line, mm; none without one.
    pub hamon_mm: Option<f64>,
    /// Sag towards the spine, mm.
    pub sori_mm: f64,
    /// Chance of a sideways bend beyond what can be left, 0 to 1.
    pub bent_probability: f64,
    /// Chance of a crack, 0 to 1.
    pub crack_probability: f64,
    /// Grain, ASTM number.
    pub grain_astm: f64,
    /// Skin lost on each face, mm.
    pub skin_mm: f64,
}

/// A method with what it would make of one blade.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MethodView {
    /// Identifier of a school, id of a house method or of a blade.
    pub id: String,
    /// Where it comes from.
    #[serde(flatten)]
    pub source: Source,
    /// Why it is advised against here.
    pub against: Option<Against>,
    /// Why its steps cannot be read, when they cannot.
    pub unreadable: Option<Unreadable>,
    /// Version of a house method; 0 otherwise.
    pub version: i64,
    /// The steps for this blade.
    pub steps: Vec<Step>,
    /// The clay that goes with it.
    pub lays: LaysClay,
    /// That clay, where it is not what is painted already.
    pub clay: Option<ClayDraft>,
    /// What comes of it; none when it cannot be read.
    pub compared: Option<Compared>,
    /// The chance that it comes out right.
    pub fit: Option<Fit>,
}

/// The clay that goes with a method.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum LaysClay {
    /// None, whatever is painted.
    Nothing,
    /// What is painted for the blade.
    Painted,
    /// A plain band along the back: nothing is painted yet.
    Band,
}

/// Every method for a blade.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MethodsView {
    /// What tells them apart best: they are in this order within each source.
    pub told_apart_by: ToldApartBy,
    /// The methods.
    pub methods: Vec<MethodView>,
}

/// A method of the shop's own to be kept.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MethodBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// Name.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: String,
    /// Why.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 500))]
    pub note: String,
    /// The steps in order, 1 to 40.
    pub steps: Vec<StepDraft>,
    /// Version it was read at, when changing one.
    #[serde(default)]
    pub version: i64,
}

impl MethodBody {
    async fn check(&self, pool: &PgPool, me: &SignedIn) -> Result<(String, String, Plan), Problem> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 500)));
        let plan = c.take(Plan::parse(&self.steps));
        if let Some(plan) = &plan {
            let stations = station::list(pool, me.workshop).await?;
            c.take(check_stations(plan, &stations));
        }
        let parts = name.zip(note).zip(plan);
        let ((name, note), plan) = c.finish(parts)?;
        Ok((name, note, plan))
    }
}

/// A method before it is computed.
struct Offered {
    view: MethodView,
    plan: Option<Plan>,
    /// The clay it is computed with, where that is not what its steps say.
    clay: Option<Clay>,
}

fn offered(id: String, source: Source, plan: Option<Plan>) -> Offered {
    Offered {
        view: MethodView {
            id,
            source,
            against: None,
            unreadable: None,
            version: 0,
            steps: plan
                .as_ref()
                .map(|p| p.steps().to_vec())
                .unwrap_or_default(),
            lays: LaysClay::Nothing,
            clay: None,
            compared: None,
            fit: None,
        },
        plan,
        clay: None,
    }
}

fn of_house(m: method::HouseMethod) -> Offered {
    let plan = m.unreadable.is_none().then(|| Plan::stored(m.steps));
    let source = Source::House {
        name: m.name,
        note: m.note,
    };
    let mut found = offered(m.id.to_string(), source, plan);
    found.view.unreadable = m.unreadable;
    found.view.version = m.version;
    found
}

fn of_blade(b: CameOutWell) -> Offered {
    let of = b.fired.treated;
    let source = Source::Blade {
        mark: of.mark,
        name: b.name,
        spine_mm: of.made.blade.spine_mm,
        measured_hrc: b.measured_hrc,
    };
    // As steps to do again: how long that blade lay untempered is its own story.
    let plan = Plan::stored(of.done.steps);
    offered(of.blade_id.to_string(), source, Some(plan))
}

fn compared(found: &Prediction) -> Option<Compared> {
    let whole = found.outcomes.as_ref()?;
    Some(Compared {
        tempered_hrc: found.hardness.tempered,
        retained_percent: found.retained_austenite_percent,
        hamon_mm: whole.hamon.line().map(|l| l.height_mm),
        sori_mm: whole.bend.sori_mm,
        bent_probability: whole.bend.side_over_tolerance_probability,
        crack_probability: whole.crack.probability,
        grain_astm: whole.grain_astm,
        skin_mm: whole.decarburization_mm,
    })
}

/// Blades that came out well, at most.
const MAX_BLADES: usize = 4;
/// Every method for a blade, with what it would make of it, in the order of what tells them apart best, those
/// advised against last, within each source. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "methods", params(("id" = Uuid, Path)),
    responses((status = 200, body = MethodsView), crate::openapi::Problems)))]
#[get("/blades/<id>/methods")]
pub async fn for_blade(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    id: Id,
) -> Result<Json<MethodsView>, Problem> {
    let stored = PreparedBlade::read(pool, me.workshop, id.0).await?;
    let wanted_mm = mean_height_mm(&clay::get(pool.inner(), me.workshop, id.0).await?.wanted);
    let house = method::list(pool.inner(), me.workshop).await?;
    let good = came_out_well(pool, predictor, me.workshop, id.0, MAX_BLADES).await?;
    let learned = predictor.models.current(pool, me.workshop).await?;
    let schools = {
        let subject = stored.clone();
        predictor.compute.run(move || schools(&subject)).await?
    };
    let all = schools
        .into_iter()
        .chain(house.into_iter().map(of_house))
        .chain(good.into_iter().map(of_blade));
    let work = async {
        let mut views = Vec::new();
        for one in all {
            views.push(computed(one, &stored, predictor, &learned, wanted_mm).await?);
        }
        Ok(views)
    };
    let mut methods = caller.wait(work).await?;
    // What nobody would choose does not tell the others apart.
    let chosen = methods.iter().filter(|m| m.against.is_none());
    let standings: Vec<Standing> = chosen.filter_map(standing).collect();
    let told_apart_by = told_apart_by(&standings);
    let rank = |v: &MethodView| standing(v).map_or(f64::MAX, |s| s.rank(told_apart_by));
    methods.sort_by(|a, b| {
        let (first, second) = (a.source.rank(), b.source.rank());
        first
            .cmp(&second)
            .then(a.against.is_some().cmp(&b.against.is_some()))
            .then(rank(a).total_cmp(&rank(b)))
    });
    Ok(Json(MethodsView {
        told_apart_by,
        methods,
    }))
}

/// What each school teaches for a blade.
fn schools(of: &PreparedBlade) -> Vec<Offered> {
    let teach = |school: School| {
        let taught = school.teach(&of.metal.steel, &of.work, of.target(), of.usual_stations());
        let source = Source::School { school };
        let mut found = offered(school.id().to_owned(), source, Some(taught.plan));
        if let Lays::Band(clay) = &taught.lays {
            found.view.lays = LaysClay::Band;
            found.view.clay = Some(clay.draft());
            found.clay = Some(clay.clone());
        }
        found.view.against = taught.against;
        found
    };
    School::ALL.iter().copied().map(teach).collect()
}

/// A method with what it would make of a blade.
async fn computed(
    Offered {
        mut view,
        plan,
        clay,
    }: Offered,
    stored: &PreparedBlade,
    predictor: &Predictor,
    learned: &Arc<ShopModel>,
    wanted_mm: Option<f64>,
) -> Result<MethodView, Problem> {
    let Some(mut plan) = plan else {
        return Ok(view);
    };
    if plan.lays_clay() && clay.is_none() && !stored.work.clay.is_bare() {
        view.lays = LaysClay::Painted;
    }
    let ask = async |plan: &Plan| {
        let asked = match &clay {
            Some(clay) => stored.asked_with(plan.clone(), clay.clone()),
            None => stored.asked(plan.clone()),
        };
        let depth = Depth::Whole(STEP_MM);
        predictor.predict(asked, Arc::clone(learned), depth).await
    };
    let mut found = ask(&plan).await?;
    let advised = found
        .temper_for_target
        .as_ref()
        .and_then(|t| t.temperature_c);
    if let (Source::School { .. }, Some(t)) = (&view.source, advised) {
        // A school says how to work, the records say how hot this oven must be set.
        plan = plan.tempered_at(Celsius::clamped(t.round()));
        found = ask(&plan).await?;
        view.steps = plan.steps().to_vec();
    }
    view.compared = compared(&found);
    view.fit = Some(Fit::new(&plan, &found, stored.target(), wanted_mm));
    Ok(view)
}

/// What a method can be told apart by.
fn standing(of: &MethodView) -> Option<Standing> {
    let (fit, compared) = (of.fit.as_ref()?, of.compared.as_ref()?);
    Some(Standing {
        right: fit.right,
        hours: fit.hours,
        grain_astm: compared.grain_astm,
        crack: compared.crack_probability,
        bend: compared.bent_probability,
    })
}

/// Keeps a plan as a house method.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "methods", request_body = MethodBody,
    responses((status = 200, body = HouseMethod), crate::openapi::Problems)))]
#[post("/methods", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    me: SignedIn,
    body: Body<MethodBody>,
) -> Result<Json<HouseMethod>, Problem> {
    let (name, note, plan) = body.0.check(pool, &me).await?;
    let id = body.0.id.unwrap_or_else(Uuid::now_v7);
    Ok(one(method::save(
        pool.inner(),
        me.workshop,
        id,
        &name,
        &note,
        &plan,
        0,
    )
    .await?))
}

/// The house methods in use.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "methods",
    responses((status = 200, body = Vec<HouseMethod>), crate::openapi::Problems)))]
#[get("/methods")]
pub async fn list(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<HouseMethod>>, Problem> {
    Ok(all(method::list(pool.inner(), me.workshop).await?))
}

/// Saves a new version of a house method.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "methods", params(("id" = Uuid, Path)), request_body = MethodBody,
    responses((status = 200, body = HouseMethod), crate::openapi::Problems)))]
#[put("/methods/<id>", data = "<body>")]
pub async fn update(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<MethodBody>,
) -> Result<Json<HouseMethod>, Problem> {
    let (name, note, plan) = body.0.check(pool, &me).await?;
    if body.0.version < 1 {
        return Err(
            Faults::with_allowed("version", "Say which version was changed.", "1 or more").into(),
        );
    }
    method::get(pool.inner(), me.workshop, id.0).await?;
    match method::save(
        pool.inner(),
        me.workshop,
        id.0,
        &name,
        &note,
        &plan,
        body.0.version,
    )
    .await
    {
        Err(Error::Stale) => Err(Problem::stale(&HouseMethod::from(
            method::get(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// Every version a house method had, newest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "methods", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<HouseMethod>), crate::openapi::Problems)))]
#[get("/methods/<id>/versions")]
pub async fn versions(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<HouseMethod>>, Problem> {
    Ok(all(method::versions(pool.inner(), me.workshop, id.0).await?))
}

/// Takes a house method out of use; its versions are kept.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "methods", params(("id" = Uuid, Path)),
    responses((status = 204), crate::openapi::Problems)))]
#[delete("/methods/<id>")]
pub async fn retire(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<rocket::response::status::NoContent, Problem> {
    method::retire(pool.inner(), me.workshop, id.0).await?;
    Ok(rocket::response::status::NoContent)
}

/// Mean height of a wanted line, mm; none without one.
fn mean_height_mm(wanted: &[[f64; 2]]) -> Option<f64> {
    let sum: f64 = wanted.iter().map(|p| p[1]).sum();
    (!wanted.is_empty()).then(|| sum / wanted.len() as f64)
}

/// The few single changes of a plan that bring each outcome nearest to its window. Nothing is stored.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "predict", request_body = PredictBody,
    responses((status = 200, body = Vec<Help>), crate::openapi::Problems)))]
#[post("/help", data = "<body>")]
pub async fn what_helps(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    body: Body<PredictBody>,
) -> Result<Json<Vec<Help>>, Problem> {
    let (asked, names, _) = body.0.check(pool, me.workshop, STEP_MM).await?;
    let Some(target) = asked.target else {
        return Err(Faults::one("target_hrc", "Say what hardness is wanted.").into());
    };
    let line_mm = match body.0.blade_id {
        Some(id) => mean_height_mm(&clay::get(pool.inner(), me.workshop, id).await?.wanted),
        None => None,
    };
    let learned = learned_for(pool, predictor, &me, &body.0, names).await?;
    let work = predictor.compute.run_stoppable(move |stop| {
        let subject = Subject {
            plan: &asked.plan,
            steel: &asked.steel,
            work: &asked.work,
            tester: asked.tester,
            bar: asked.bar,
            operator: learned.biases.operator.as_ref(),
        };
        let known = Known {
            model: &learned.model,
            biases: &learned.biases,
            target,
            line_mm,
        };
        help(subject, known, Some(stop))
    });
    Ok(Json(caller.wait(work).await?))
}
