//! Blades on the rack and off it.

use crate::answers::blade::BladeView;
use crate::answers::blade::Marked;
use crate::answers::edit::BladeEdit;
use crate::answers::{all, one};
use crate::auth::SignedIn;
use crate::body::{Body, Id, text, wanted_hrc};
use crate::materials::{find_steel, made_of_bar, metal};
use crate::predictor::Predictor;
use crate::problem::Problem;
use rocket::serde::json::Json;
use rocket::{State, get, patch, post};
use serde::Deserialize;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::advice::method;
use vatten_core::geometry::blade::{Blade as Geometry, BladeDraft};
use vatten_core::geometry::outline::{Outline, OutlineDraft};
use vatten_core::material::medium::Medium;
use vatten_core::material::purpose::Purpose;
use vatten_core::material::steel::{Origin, Steel};
use vatten_core::process::bar::usual_cut_mm;
use vatten_core::process::plan::Stations;
use vatten_core::process::ready::Ready;
use vatten_core::process::station::StationKind;
use vatten_core::quantity::validation::{Checker, Faults, Unit, ids};
use vatten_store::blade::{NewBlade, SteelRef};
use vatten_store::station::Station;
use vatten_store::{Error, PgPool, WorkshopId, blade, edit, plan, station};

/// A field of a change: left out (None), cleared with null, or given.
fn given<'de, T, D>(field: D) -> Result<Option<Option<T>>, D::Error>
where
    T: Deserialize<'de>,
    D: serde::Deserializer<'de>,
{
    Deserialize::deserialize(field).map(Some)
}

/// What is to be changed of a blade: what is not named stays as it is.
#[derive(Debug, Default, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BladeChange {
    /// The mark it is known by.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 20))]
    pub mark: Option<String>,
    /// Name.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: Option<String>,
    /// Designation of a built-in steel, or id of one of the shop's own. With a bar it is the bar's.
    pub steel: Option<String>,
    /// Shape preset.
    pub shape: Option<String>,
    /// Heel to tip, 10 to 1000 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 10, maximum = 1000))]
    pub length_mm: Option<f64>,
    /// Spine to edge, 3 to 300 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 3, maximum = 300))]
    pub width_mm: Option<f64>,
    /// Spine thickness, 0.5 to 25 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 25))]
    pub spine_mm: Option<f64>,
    /// Edge thickness, 0.05 mm to the spine's.
    #[cfg_attr(feature = "schema", schema(minimum = 0.05, maximum = 25))]
    pub edge_mm: Option<f64>,
    /// Grind.
    pub grind: Option<String>,
    /// Purpose: `fine_edge`, `all_round`, `heavy` or `springy`.
    pub purpose: Option<String>,
    /// Wanted hardness, lowest.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 70))]
    pub target_low_hrc: Option<f64>,
    /// Wanted hardness, highest.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 70))]
    pub target_high_hrc: Option<f64>,
    /// What is known of it beyond its sizes, whole.
    pub ready: Option<Ready>,
    /// The bar it is made from; null takes it off the bar.
    #[serde(default, deserialize_with = "given")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Uuid>))]
    pub bar_id: Option<Option<Uuid>>,
    /// What it takes of that bar, 0 to 10000 mm: 0 puts it back. As it was when left out; of another bar the usual.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 10000))]
    pub cut_mm: Option<f64>,
    /// Remark.
    #[cfg_attr(feature = "schema", schema(max_length = 2000))]
    pub note: Option<String>,
    /// Off the rack, or back on it.
    pub finished: Option<bool>,
    /// Version it was read at.
    pub version: i64,
}

impl BladeChange {
    /// The whole blade with the change.
    /// The blade as it is, with what is changed.
    pub fn on(self, now: &blade::BladeRow) -> BladeBody {
        let bar_id = self.bar_id.unwrap_or(now.bar_id);
        BladeBody {
            id: None,
            mark: self.mark.or_else(|| Some(now.mark.clone())),
            name: self.name.or_else(|| Some(now.name.clone())),
            steel: self.steel.or_else(|| Some(now.steel.clone())),
            shape: self.shape.or_else(|| Some(now.shape.clone())),
            length_mm: self.length_mm.or(Some(now.length_mm)),
            width_mm: self.width_mm.or(Some(now.width_mm)),
            spine_mm: self.spine_mm.or(Some(now.spine_mm)),
            edge_mm: self.edge_mm.or(Some(now.edge_mm)),
            grind: self.grind.or_else(|| Some(now.grind.clone())),
            purpose: self.purpose.or_else(|| Some(now.purpose.clone())),
            target_low_hrc: self.target_low_hrc.or(Some(now.target_low_hrc)),
            target_high_hrc: self.target_high_hrc.or(Some(now.target_high_hrc)),
            ready: self.ready,
            bar_id,
            cut_mm: match self.cut_mm {
                Some(cut) => Some(cut),
                // One from before that was kept took nothing that is known.
                None if bar_id == now.bar_id => Some(now.cut_mm.unwrap_or(0.0)),
                None => None,
            },
            note: self.note.unwrap_or_else(|| now.note.clone()),
            medium: None,
            fire_id: None,
        }
    }
}

/// A blade as a caller writes it.
#[derive(Debug, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct BladeBody {
    /// Id made by the client (UUID version 7); made here when left out.
    pub id: Option<Uuid>,
    /// The mark it is known by; the next free one when left out.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 20))]
    pub mark: Option<String>,
    /// Name; that of the shape when left out.
    #[cfg_attr(feature = "schema", schema(min_length = 1, max_length = 80))]
    pub name: Option<String>,
    /// Designation of a built-in steel, or id of one of the shop's own.
    pub steel: Option<String>,
    /// Shape preset.
    pub shape: Option<String>,
    /// Heel to tip, 10 to 1000 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 10, maximum = 1000))]
    pub length_mm: Option<f64>,
    /// Spine to edge, 3 to 300 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 3, maximum = 300))]
    pub width_mm: Option<f64>,
    /// Spine thickness, 0.5 to 25 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 25))]
    pub spine_mm: Option<f64>,
    /// Edge thickness, 0.05 mm to the spine's.
    #[cfg_attr(feature = "schema", schema(minimum = 0.05, maximum = 25))]
    pub edge_mm: Option<f64>,
    /// Grind.
    pub grind: Option<String>,
    /// Purpose: `fine_edge`, `all_round`, `heavy` or `springy`.
    pub purpose: Option<String>,
    /// Wanted hardness, lowest; the purpose's usual when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 70))]
    pub target_low_hrc: Option<f64>,
    /// Wanted hardness, highest; the purpose's usual when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 70))]
    pub target_high_hrc: Option<f64>,
    /// What is known of it beyond its sizes; as it was when left out.
    pub ready: Option<Ready>,
    /// The bar it is made from; then `steel` may be left out.
    pub bar_id: Option<Uuid>,
    /// What it takes of that bar, 0 to 10000 mm; its length with the tang when left out.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 10000))]
    pub cut_mm: Option<f64>,
    /// Remark.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(max_length = 2000))]
    pub note: String,
    /// Medium of the first plan; the steel's best when left out.
    pub medium: Option<String>,
    /// Forge or kiln of the first plan.
    pub fire_id: Option<Uuid>,
}

/// Most that a blade takes of a bar, mm.
const MOST_CUT_MM: f64 = 10_000.0;

impl BladeBody {
    /// The sizes, and how it is made ready: an outline of its own says how long and wide the blade is.
    fn geometry(&self, c: &mut Checker, now: Option<&Ready>) -> (Option<Geometry>, Ready) {
        let mut ready = self.ready.clone().or(now.cloned()).unwrap_or_default();
        let own = ready
            .outline
            .as_ref()
            .and_then(|o| c.take(Outline::read(o).map_err(|f| f.under("ready"))));
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
        if let Some(geometry) = &geometry {
            c.take(ready.work(geometry, None).map_err(|f| f.under("ready")));
        }
        (geometry, ready)
    }

    /// The steel: that of the bar it is made from, else the one that is named.
    async fn steel(
        &self,
        c: &mut Checker,
        pool: &PgPool,
        id: WorkshopId,
    ) -> Result<Option<Steel>, Problem> {
        if let Some(bar) = self.bar_id {
            return match made_of_bar(pool, id, bar).await {
                Ok(of) => Ok(Some(metal(&of)?.steel)),
                Err(problem) if problem.status == 404 => {
                    Ok(c.take(Err(Faults::one("bar_id", "The shop has no such bar."))))
                }
                Err(problem) => Err(problem),
            };
        }
        let Some(text) = self.steel.as_deref() else {
            return Ok(c.take(Err(Faults::one("steel", "A steel is needed."))));
        };
        let found = find_steel(pool, id, text).await;
        Ok(c.take(found.map_err(|problem| Faults(problem.fields))))
    }

    /// The blade to be entered or changed, and its steel.
    ///
    /// # Errors
    /// Faults at the fields.
    pub async fn check(
        &self,
        pool: &PgPool,
        id: WorkshopId,
        mark: String,
        now: Option<&Ready>,
    ) -> Result<(NewBlade, Steel), Problem> {
        let mut c = Checker::default();
        let (geometry, ready) = self.geometry(&mut c, now);
        let purpose = c.take(
            self.purpose
                .as_deref()
                .map_or(Ok(Purpose::default()), |p| Purpose::parse("purpose", p)),
        );
        let usual = purpose.unwrap_or_default().target_hrc();
        let target = wanted_hrc(
            &mut c,
            ("target_low_hrc", self.target_low_hrc.unwrap_or(usual.0)),
            ("target_high_hrc", self.target_high_hrc.unwrap_or(usual.1)),
        );
        let mark = c.take(text("mark", &mark, (1, 20)));
        let note = c.take(text("note", &self.note, (0, 2000)));
        let mut shape_name = geometry.map_or("blade", |g| g.shape.name()).to_owned();
        shape_name[..1].make_ascii_uppercase();
        let name = self.name.as_deref().unwrap_or(&shape_name);
        let name = c.take(text("name", name, (1, 80)));
        let steel = self.steel(&mut c, pool, id).await?;
        if self
            .cut_mm
            .is_some_and(|cut| !(0.0..=MOST_CUT_MM).contains(&cut))
        {
            let message = "No blade takes so much of a bar.";
            c.refuse_outside("cut_mm", message, (0.0, MOST_CUT_MM), Unit::Millimetre);
        }
        let work = geometry.as_ref().and_then(|g| ready.work(g, None).ok());
        let usual_cut = work.map(|w| usual_cut_mm(w.form.outline()));
        let new = || {
            Some(NewBlade {
                mark: mark?,
                name: name?,
                steel: steel_ref(steel.as_ref()?),
                geometry: geometry?,
                purpose: purpose?,
                target_hrc: target?,
                ready,
                bar_id: self.bar_id,
                cut_mm: self.bar_id.and(self.cut_mm.or(usual_cut)),
                note: note?,
            })
        };
        let parts = new().zip(steel);
        Ok(c.finish(parts)?)
    }
}

/// Several at once want the next mark: each of them gets one after so many tries.
const MARK_TRIES: usize = 50;

/// Enters a blade under the next free mark, whoever else enters one at the same moment.
///
/// # Errors
/// As [`blade::create`].
pub async fn next_marked(
    pool: &PgPool,
    id: WorkshopId,
    blade_id: Uuid,
    new: &mut NewBlade,
) -> Result<blade::BladeRow, Error> {
    let mut tries = 0;
    loop {
        new.mark = blade::next_mark(pool, id).await?;
        tries += 1;
        match blade::create(pool, id, blade_id, new).await {
            Err(Error::Refused(faults))
                if tries < MARK_TRIES && faults.0.iter().any(|f| f.field == "mark") => {}
            other => return other,
        }
    }
}

/// How a steel is referred to in the store.
pub fn steel_ref(steel: &Steel) -> SteelRef {
    match (steel.origin, Uuid::parse_str(&steel.key)) {
        (Origin::Analysis { .. } | Origin::Trial { .. } | Origin::Reclaimed { .. }, Ok(id)) => {
            SteelRef::House(id)
        }
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
        eye: only(&[StationKind::Eye]),
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
                ids::<Medium>(),
            )
        })
    })
    .transpose()
}

/// The blades in work.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", responses((status = 200, body = Vec<BladeView>), crate::openapi::Problems)))]
#[get("/blades")]
pub async fn rack(pool: &State<PgPool>, me: SignedIn) -> Result<Json<Vec<BladeView>>, Problem> {
    Ok(all(blade::rack(pool.inner(), me.workshop).await?))
}

/// Finished blades, newest first, fifty at a time: pass the id of the last one seen as `before`.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("before" = Option<Uuid>, Query)),
    responses((status = 200, body = Vec<BladeView>), crate::openapi::Problems)))]
#[get("/blades/finished?<before>")]
pub async fn finished(
    pool: &State<PgPool>,
    me: SignedIn,
    before: Option<&str>,
) -> Result<Json<Vec<BladeView>>, Problem> {
    let before = match before {
        None => None,
        Some(text) => {
            Some(Uuid::parse_str(text).map_err(|_| Faults::one("before", "This is not an id."))?)
        }
    };
    Ok(all(
        blade::finished(pool.inner(), me.workshop, before, 50).await?
    ))
}

/// Quenched blades whose mark begins so, in the order of their marks, at most twelve; the newest when
/// nothing is typed yet.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("begins" = Option<String>, Query)),
    responses((status = 200, body = Vec<Marked>), crate::openapi::Problems)))]
#[get("/blades/marked?<begins>")]
pub async fn marked(
    pool: &State<PgPool>,
    me: SignedIn,
    begins: Option<&str>,
) -> Result<Json<Vec<Marked>>, Problem> {
    let begins = text("begins", begins.unwrap_or_default(), (0, 20))?;
    Ok(all(blade::marked(pool.inner(), me.workshop, &begins).await?))
}

/// Enters a blade and gives it the usual plan for its steel and wanted hardness.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", request_body = BladeBody,
    responses((status = 200, body = BladeView), crate::openapi::Problems)))]
#[post("/blades", data = "<body>")]
pub async fn create(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    body: Body<BladeBody>,
) -> Result<Json<BladeView>, Problem> {
    let body = body.0;
    let id = body.id.unwrap_or_else(Uuid::now_v7);
    let medium = parse_medium(body.medium.as_deref());
    let first = body.mark.clone().unwrap_or_else(|| "K-1".to_owned());
    let (mut new, steel) = body.check(pool, me.workshop, first, None).await?;
    let medium = medium?;
    let at = usual_stations(
        &station::list(pool.inner(), me.workshop).await?,
        body.fire_id,
    )?;
    let made = match &body.mark {
        Some(_) => blade::create(pool.inner(), me.workshop, id, &new).await?,
        None => next_marked(pool, me.workshop, id, &mut new).await?,
    };
    if made.plan_id.is_none() {
        let (geometry, target) = (new.geometry, new.target_hrc);
        let usual = move || method::usual(&steel, &geometry, medium, target, at);
        let first = predictor.compute.run(usual).await?;
        match plan::save(pool.inner(), me.workshop, id, &first, 0).await {
            // Sent twice at once: the other one made the plan.
            Ok(_) | Err(Error::Stale) => {}
            Err(error) => return Err(error.into()),
        }
    }
    Ok(one(blade::get(pool.inner(), me.workshop, id).await?))
}

/// One blade.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = Uuid, Path)),
    responses((status = 200, body = BladeView), crate::openapi::Problems)))]
#[get("/blades/<id>", rank = 2)]
pub async fn get(pool: &State<PgPool>, me: SignedIn, id: Id) -> Result<Json<BladeView>, Problem> {
    Ok(one(blade::get(pool.inner(), me.workshop, id.0).await?))
}

/// Changes a blade, or takes it off the rack: what is not named stays as it is.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = Uuid, Path)), request_body = BladeChange,
    responses((status = 200, body = BladeView), crate::openapi::Problems)))]
#[patch("/blades/<id>", data = "<body>")]
pub async fn update(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
    body: Body<BladeChange>,
) -> Result<Json<BladeView>, Problem> {
    let change = body.0;
    let now = blade::get(pool.inner(), me.workshop, id.0).await?;
    let version = change.version;
    let finished = change.finished.unwrap_or(now.finished_at.is_some());
    if version != now.version {
        return Err(Problem::stale(&BladeView::from(now)));
    }
    let whole = change.on(&now);
    let mark = whole.mark.clone().unwrap_or_default();
    let (new, _) = whole
        .check(pool, me.workshop, mark, Some(&now.ready))
        .await?;
    let by = Some(me.person_id);
    match blade::update(pool.inner(), me.workshop, id.0, &new, finished, version, by).await {
        Err(Error::Stale) => Err(Problem::stale(&BladeView::from(
            blade::get(pool.inner(), me.workshop, id.0).await?,
        ))),
        other => Ok(one(other?)),
    }
}

/// What was changed of a blade after its first firing, oldest first.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "blades", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<BladeEdit>), crate::openapi::Problems)))]
#[get("/blades/<id>/edits")]
pub async fn edits(
    pool: &State<PgPool>,
    me: SignedIn,
    id: Id,
) -> Result<Json<Vec<BladeEdit>>, Problem> {
    Ok(all(edit::of_blade(pool.inner(), me.workshop, id.0).await?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_field_is_left_out_cleared_or_given() {
        let read = |json: &str| serde_json::from_str::<BladeChange>(json).unwrap().bar_id;
        assert_eq!(read(r#"{"version":1}"#), None);
        assert_eq!(read(r#"{"version":1,"bar_id":null}"#), Some(None));
        let id = Uuid::from_u128(5);
        let given = format!(r#"{{"version":1,"bar_id":"{id}"}}"#);
        assert_eq!(read(&given), Some(Some(id)));
    }
}
