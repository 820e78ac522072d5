//! Blades on the rack and off it.

use crate::auth::SignedIn;
use crate::body::{Body, Id, text};
use crate::predictor::{Metal, Predictor, find_steel};
use crate::problem::{Problem, Problems};
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::Deserialize;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::blade::{Blade as Geometry, BladeDraft};
use vatten_core::fault::{Checker, Faults};
use vatten_core::medium::Medium;
use vatten_core::method;
use vatten_core::outline::{Outline, OutlineDraft};
use vatten_core::plan::Stations;
use vatten_core::purpose::Purpose;
use vatten_core::ready::Ready;
use vatten_core::station::StationKind;
use vatten_core::steel::{Origin, Steel};
use vatten_core::units::{Hrc, Quantity};
use vatten_store::blade::{Blade, Marked, NewBlade, SteelRef};
use vatten_store::station::Station;
use vatten_store::{Error, PgPool, WorkshopId, blade, plan, station};

/// A blade as a caller writes it.
#[derive(Debug, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BladeBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// The mark it is known by; the next free one when left out.
    #[schema(min_length = 1, max_length = 20)]
    pub mark: Option<String>,
    /// Name; that of the shape when left out.
    #[schema(min_length = 1, max_length = 80)]
    pub name: Option<String>,
    /// Designation of a built-in steel, or id of one of the shop's own.
    pub steel: Option<String>,
    /// Shape preset.
    pub shape: Option<String>,
    /// Heel to tip, 10 to 1000 mm.
    #[schema(minimum = 10, maximum = 1000)]
    pub length_mm: Option<f64>,
    /// Spine to edge, 3 to 300 mm.
    #[schema(minimum = 3, maximum = 300)]
    pub width_mm: Option<f64>,
    /// Spine thickness, 0.5 to 25 mm.
    #[schema(minimum = 0.5, maximum = 25)]
    pub spine_mm: Option<f64>,
    /// Edge thickness, 0.05 mm to the spine's.
    #[schema(minimum = 0.05, maximum = 25)]
    pub edge_mm: Option<f64>,
    /// Grind.
    pub grind: Option<String>,
    /// Purpose: `fine_edge`, `all_round`, `heavy` or `springy`.
    pub purpose: Option<String>,
    /// Wanted hardness, lowest; the purpose's usual when left out.
    #[schema(minimum = 0, maximum = 70)]
    pub target_low_hrc: Option<f64>,
    /// Wanted hardness, highest; the purpose's usual when left out.
    #[schema(minimum = 0, maximum = 70)]
    pub target_high_hrc: Option<f64>,
    /// What is known of it beyond its sizes; as it was when left out.
    pub ready: Option<Ready>,
    /// The bar it is made from; then `steel` may be left out.
    pub bar_id: Option<Uuid>,
    /// Remark.
    #[serde(default)]
    #[schema(max_length = 2000)]
    pub note: String,
    /// Off the rack.
    #[serde(default)]
    pub finished: bool,
    /// Medium of the first plan, when entering a blade; the steel's best when left out.
    pub medium: Option<String>,
    /// Forge or kiln of the first plan, when entering a blade.
    pub fire_id: Option<Uuid>,
    /// Version it was read at, when changing one.
    #[serde(default)]
    pub version: i64,
}

impl BladeBody {
    async fn check(
        &self,
        pool: &PgPool,
        id: WorkshopId,
        mark: String,
        now: Option<&Ready>,
    ) -> Result<(NewBlade, Steel), Problem> {
        let mut c = Checker::default();
        let mut ready = self.ready.clone().or(now.cloned()).unwrap_or_default();
        let own = ready
            .outline
            .as_ref()
            .and_then(|o| c.take(Outline::read(o).map_err(|f| f.under("ready"))));
        // An outline of its own says how long and wide the blade is.
        let size = own.as_ref().map(|o| (o.tip_mm(), o.width_mm()));
        ready.outline = own.map(|o| OutlineDraft::Points(o.points().to_vec()));
        let geometry = c.take(Geometry::parse(&BladeDraft {
            shape: self.shape.clone(),
            length_mm: size.map(|s| s.0).or(self.length_mm),
            width_mm: size.map(|s| s.1).or(self.width_mm),
            spine_mm: self.spine_mm,
            edge_mm: self.edge_mm,
            grind: self.grind.clone(),
        }));
        let purpose = c.take(
            self.purpose
                .as_deref()
                .map_or(Ok(Purpose::default()), |p| Purpose::parse("purpose", p)),
        );
        let usual = purpose.unwrap_or_default().target_hrc();
        let low = c.take(Hrc::check(
            "target_low_hrc",
            self.target_low_hrc.unwrap_or(usual.0),
        ));
        let high = c.take(Hrc::check(
            "target_high_hrc",
            self.target_high_hrc.unwrap_or(usual.1),
        ));
        if let (Some(low), Some(high)) = (low, high)
            && low > high
        {
            c.refuse(
                "target_low_hrc",
                "The lowest wanted hardness is above the highest.",
            );
        }
        if let Some(geometry) = &geometry {
            c.take(ready.work(geometry, None).map_err(|f| f.under("ready")));
        }
        let mark = c.take(text("mark", &mark, (1, 20)));
        let note = c.take(text("note", &self.note, (0, 2000)));
        let mut shape_name = geometry.map_or("blade", |g| g.shape.name()).to_owned();
        shape_name[..1].make_ascii_uppercase();
        let name = c.take(text(
            "name",
            self.name.as_deref().unwrap_or(&shape_name),
            (1, 80),
        ));
        let metal = match self.bar_id {
            Some(bar) => match Metal::of_bar(pool, id, bar).await {
                Ok(metal) => Some(metal),
                Err(problem) if problem.status == 404 => {
                    c.take(Err(Faults::one("bar_id", "The shop has no such bar.")))
                }
                Err(problem) => return Err(problem),
            },
            None => None,
        };
        let steel = match self.steel.as_deref() {
            _ if self.bar_id.is_some() => metal.map(|m| m.steel),
            None => c.take(Err(Faults::one("steel", "A steel is needed."))),
            Some(text) => match find_steel(pool, id, text).await {
                Ok(steel) => Some(steel),
                Err(problem) => c.take(Err(Faults(problem.fields))),
            },
        };
        let parts = match (
            geometry,
            purpose,
            low.zip(high),
            mark.zip(name).zip(note),
            steel,
        ) {
            (
                Some(geometry),
                Some(purpose),
                Some((low, high)),
                Some(((mark, name), note)),
                Some(steel),
            ) => {
                let reference = steel_ref(&steel);
                let target_hrc = (low.value(), high.value());
                Some((
                    NewBlade {
                        mark,
                        name,
                        steel: reference,
                        geometry,
                        purpose,
                        target_hrc,
                        ready,
                        bar_id: self.bar_id,
                        note,
                    },
                    steel,
                ))
            }
            _ => None,
        };
        Ok(c.finish(parts)?)
    }
}

/// How a steel is referred to in the store.
pub fn steel_ref(steel: &Steel) -> SteelRef {
    match (steel.origin, Uuid::parse_str(&steel.key)) {
        (Origin::Analysis { .. } | Origin::Trial { .. }, Ok(id)) => SteelRef::House(id),
        _ => SteelRef::BuiltIn(steel.key.clone()),
    }
}

/// The stations of a plan when none was named: the shop's only fire and oven, if it has just one.
pub fn usual_stations(all: &[Station], fire: Option<Uuid>) -> Result<Stations, Faults> {
    let only = |kinds: &[StationKind]| {
        let used = |s: &&Station| s.retired_at.is_none() && kinds.contains(&s.kind);
        let mut found = all.iter().filter(used);
        let first = found.next().map(|s| s.id);
        if found.next().is_none() { first } else { None }
    };
    if fire.is_some_and(|id| {
        !all.iter()
            .any(|s| s.id == id && matches!(s.kind, StationKind::Kiln | StationKind::Forge))
    }) {
        return Err(Faults::one(
            "fire_id",
            "The shop has no such forge or kiln.",
        ));
    }
    Ok(Stations {
        kiln: fire.or_else(|| only(&[StationKind::Kiln, StationKind::Forge])),
        oven: only(&[StationKind::Oven]),
    })
}

/// A medium by its id.
///
/// # Errors
/// A fault at `medium`.
pub fn parse_medium(text: Option<&str>) -> Result<Option<Medium>, Faults> {
    text.map(|text| {
        Medium::parse(text).ok_or_else(|| {
            Faults::with_allowed(
                "medium",
                format!("There is no medium called {text}."),
                Medium::ALL.map(Medium::id).join(", "),
            )
        })
    })
    .transpose()
}

/// The blades in work.
#[utoipa::path(context_path = "/api/v1", tag = "blades", responses((status = 200, body = Vec<Blade>), Problems))]
#[get("/blades")]
pub async fn rack(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<Blade>>, Problem> {
    Ok(Json(blade::rack(pool, me.workshop).await?))
}

/// Finished blades, newest first, fifty at a time: pass the id of the last one seen as `before`.
#[utoipa::path(context_path = "/api/v1", tag = "blades", params(("before" = Option<Uuid>, Query)),
    responses((status = 200, body = Vec<Blade>), Problems))]
#[get("/blades/finished?<before>")]
pub async fn finished(
    pool: &State<PgPool>,
    me: SignedIn,
    before: Option<&str>,
) -> Result<Json<Vec<Blade>>, Problem> {
    let before = match before {
        None => None,
        Some(text) => {
            Some(Uuid::parse_str(text).map_err(|_| Faults::one("before", "This is not an id."))?)
        }
    };
    Ok(Json(blade::finished(pool, me.workshop, before, 50).await?))
}

/// Quenched blades whose mark begins so, in the order of their marks, at most twelve; the newest when
/// nothing is typed yet.
#[utoipa::path(context_path = "/api/v1", tag = "blades", params(("begins" = Option<String>, Query)),
    responses((status = 200, body = Vec<Marked>), Problems))]
#[get("/blades/marked?<begins>")]
pub async fn marked(
    pool: &State<PgPool>,
    me: SignedIn,
    begins: Option<&str>,
) -> Result<Json<Vec<Marked>>, Problem> {
    let begins = text("begins", begins.unwrap_or_default(), (0, 20))?;
    Ok(Json(blade::marked(pool, me.workshop, &begins).await?))
}

/// Enters a blade and gives it the usual plan for its steel and wanted hardness.
#[utoipa::path(context_path = "/api/v1", tag = "blades", request_body = BladeBody,
    responses((status = 200, body = Blade), Problems))]
#[post("/blades", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<BladeBody>,
) -> Result<Json<Blade>, Problem> {
    let body = body.0;
    let id = body.id.unwrap_or_else(Uuid::now_v7);
    let mark = match &body.mark {
        Some(mark) => mark.clone(),
        None => blade::next_mark(pool, me.workshop).await?,
    };
    let medium = parse_medium(body.medium.as_deref());
    let (new, steel) = body.check(pool, me.workshop, mark, None).await?;
    let medium = medium?;
    let at = usual_stations(&station::list(pool, me.workshop).await?, body.fire_id)?;
    let made = blade::create(pool, me.workshop, id, &new).await?;
    if made.plan_id.is_none() {
        let (geometry, target) = (new.geometry, new.target_hrc);
        let usual = move || method::usual(&steel, &geometry, medium, target, at);
        let first = predictor.run(usual).await?;
        match plan::save(pool, me.workshop, id, &first, 0).await {
            // Sent twice at once: the other one made the plan.
            Ok(_) | Err(Error::Stale) => {}
            Err(error) => return Err(error.into()),
        }
    }
    Ok(Json(blade::get(pool, me.workshop, id).await?))
}

/// One blade.
#[utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = Uuid, Path)),
    responses((status = 200, body = Blade), Problems))]
#[get("/blades/<id>", rank = 2)]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<Blade>, Problem> {
    Ok(Json(blade::get(pool, me.workshop, id.0).await?))
}

/// Changes a blade, or takes it off the rack.
#[utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = Uuid, Path)), request_body = BladeBody,
    responses((status = 200, body = Blade), Problems))]
#[put("/blades/<id>", data = "<body>")]
pub async fn update(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<BladeBody>,
) -> Result<Json<Blade>, Problem> {
    let body = body.0;
    let now = blade::get(pool, me.workshop, id.0).await?;
    let mark = body.mark.clone().unwrap_or_else(|| now.mark.clone());
    let (new, _) = body
        .check(pool, me.workshop, mark, Some(&now.ready))
        .await?;
    match blade::update(pool, me.workshop, id.0, &new, body.finished, body.version).await {
        Err(Error::Stale) => Err(Problem::stale(&blade::get(pool, me.workshop, id.0).await?)),
        other => Ok(Json(other?)),
    }
}
