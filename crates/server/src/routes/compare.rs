//! Blades side by side: in what they differed, and what came of it.

use crate::auth::SignedIn;
use crate::caller::Caller;
use crate::came_out_well::mean_hrc;
use crate::predictor::Predictor;
use crate::problem::Problem;
use crate::shop_model::TreatedBlade;
use rocket::serde::json::Json;
use rocket::{State, get};
use serde::Serialize;
use std::collections::HashMap;
use std::sync::Arc;
use uuid::Uuid;
use vatten_core::advice::comparison::{Aspect, Came, Effect, Stretches, effects};
use vatten_core::geometry::blade::Grind;
use vatten_core::geometry::clay::Band;
use vatten_core::geometry::shape::Shape;
use vatten_core::prediction::subject::stations;
use vatten_core::process::calibration::Checks;
use vatten_core::process::operator::Operator;
use vatten_core::process::protection::Protection;
use vatten_core::quantity::interval::Interval;
use vatten_core::quantity::validation::Faults;
use vatten_core::record::reading::When;
use vatten_core::simulation::simulated::Simulated;
use vatten_store::finding::FindingRow;
use vatten_store::reading::Reading;
use vatten_store::record::Fired;
use vatten_store::station::Station;
use vatten_store::{Error, PgPool, finding, reading, record, station};

/// Most blades side by side.
const MOST: usize = 6;

/// Hardness read of a blade, HRC, as the tester really reads.
#[derive(Debug, Clone, Copy, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HardnessRead {
    /// Before tempering.
    pub as_quenched_hrc: Option<f64>,
    /// After it.
    pub tempered_hrc: Option<f64>,
}

/// What was predicted of a blade when it was fired.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Foreseen {
    /// Before tempering, HRC.
    pub as_quenched: Interval,
    /// After it, HRC.
    pub tempered: Interval,
    /// Height of the hamon, mm; none where none was foreseen.
    pub line: Option<Interval>,
    /// Furthest off the straight nine times in ten, mm.
    pub side_ninety_mm: Option<f64>,
    /// Risk of a crack, 0 to 1.
    pub crack: Option<f64>,
    /// Grain, ASTM number.
    pub grain_astm: Option<Interval>,
}

/// A blade beside others.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ComparedBlade {
    /// Its id.
    pub id: Uuid,
    /// Its mark.
    pub mark: String,
    /// Its name.
    pub name: String,
    /// Name of its steel.
    pub steel_name: String,
    /// Name of its bar.
    pub bar_name: Option<String>,
    /// Its outline for drawing, mm.
    pub outline: Vec<[f64; 2]>,
    /// Shape.
    pub shape: Shape,
    /// Heel to tip, mm.
    pub length_mm: f64,
    /// Spine to edge, mm.
    pub width_mm: f64,
    /// Spine thickness, mm.
    pub spine_mm: f64,
    /// Edge thickness, mm.
    pub edge_mm: f64,
    /// Grind.
    pub grind: Grind,
    /// What kept its carbon in.
    pub protection: Protection,
    /// It went into the quench with clay.
    pub clay: bool,
    /// Its plain band, where it has one on the left face.
    pub clay_band: Option<Band>,
    /// Who quenched.
    pub operator: Option<Operator>,
    /// Name of the fire.
    pub kiln: Option<String>,
    /// Name of the oven.
    pub oven: Option<String>,
    /// Name of the tester.
    pub tester: Option<String>,
    /// What was done.
    pub done: Stretches,
    /// Wanted hardness, lowest, HRC.
    pub target_low_hrc: f64,
    /// Wanted hardness, highest, HRC.
    pub target_high_hrc: f64,
    /// What was predicted.
    pub foreseen: Foreseen,
    /// What was read.
    pub read: HardnessRead,
    /// What else came of it.
    pub came: Came,
}

/// A blade against the first one.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PairView {
    /// The blade.
    pub id: Uuid,
    /// The hardness that is explained.
    pub when: When,
    /// How much harder it was read than the first, HRC; none when one of them was not.
    pub measured_hrc: Option<f64>,
    /// How much higher its hamon was than the first's, mm.
    pub measured_line_mm: Option<f64>,
    /// In what it differs, in the order of the work, and what each difference did.
    pub effects: Vec<Effect>,
}

/// Blades side by side.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CompareView {
    /// The blades, as asked for.
    pub blades: Vec<ComparedBlade>,
    /// In what any of them differs from the first, in the order of the work.
    pub differ: Vec<Aspect>,
    /// Each but the first against the first.
    pub against_first: Vec<PairView>,
}

/// One blade with all that is known of it.
struct One {
    fired: Fired,
    treated: TreatedBlade,
    tester: Option<Uuid>,
    read: HardnessRead,
    came: Came,
    /// The engine shows a line in what was done.
    has_line: bool,
}

fn ids(text: &str) -> Result<Vec<Uuid>, Faults> {
    let allowed = || format!("2 to {MOST} different ids of blades, with commas between");
    let refuse = |message: &str| Faults::with_allowed("blades", message, allowed());
    let mut all = Vec::new();
    for part in text
        .split(',')
        .filter(|p| !p.trim().is_empty())
        .take(MOST + 1)
    {
        let id = Uuid::parse_str(part.trim()).map_err(|_| refuse("This is no id of a blade."))?;
        if !all.contains(&id) {
            all.push(id);
        }
    }
    match all.len() {
        2..=MOST => Ok(all),
        0 | 1 => Err(refuse("It takes two blades to compare.")),
        _ => Err(refuse("So many do not stand side by side.")),
    }
}

impl One {
    fn of(
        fired: Fired,
        stations: &[Station],
        readings: &[Reading],
        findings: &[FindingRow],
        checks: &Checks,
        simulated: Option<&Simulated>,
    ) -> Option<Self> {
        let treated = TreatedBlade::from_row(&fired.treated, stations)?;
        let line = simulated.and_then(Simulated::line);
        let own: Vec<&Reading> = readings
            .iter()
            .filter(|r| r.firing_id == fired.treated.firing_id && r.withdrawn_at.is_none())
            .collect();
        let found = findings
            .iter()
            .filter(|f| f.firing_id == fired.treated.firing_id && f.withdrawn_at.is_none());
        Some(Self {
            tester: own.iter().rev().find_map(|r| r.tester_id),
            read: HardnessRead {
                as_quenched_hrc: mean_hrc(&own, line.as_ref(), checks, When::AsQuenched),
                tempered_hrc: mean_hrc(&own, line.as_ref(), checks, When::Tempered),
            },
            came: Came::from_findings(found.map(|f| &f.found)),
            has_line: line.is_some(),
            treated,
            fired,
        })
    }

    fn subject(&self) -> vatten_core::prediction::subject::Subject<'_> {
        self.treated.subject(&self.fired.treated, self.tester)
    }

    fn view(&self, names: &HashMap<Uuid, String>) -> ComparedBlade {
        let (fire, oven) = stations(&self.treated.plan);
        let named = |id: Option<Uuid>| names.get(&id?).cloned();
        let (treated, predicted) = (&self.fired.treated, &self.fired.prediction);
        let (whole, blade) = (predicted.outcomes.as_ref(), self.treated.work.blade());
        ComparedBlade {
            id: treated.blade_id,
            mark: treated.mark.clone(),
            name: treated.made.name.clone(),
            steel_name: self.treated.metal.steel.name.clone(),
            bar_name: treated.made.material.bar.as_ref().map(|b| b.name.clone()),
            outline: self.treated.work.form.outline().points().to_vec(),
            shape: blade.shape,
            length_mm: blade.length_mm,
            width_mm: blade.width_mm,
            spine_mm: blade.spine_mm,
            edge_mm: blade.edge_mm,
            grind: blade.grind,
            protection: self.treated.work.protection,
            clay: !self.treated.work.clay.is_bare(),
            clay_band: treated.made.clay.as_ref().and_then(|c| c.left.band),
            operator: treated.operator.clone(),
            kiln: named(fire),
            oven: named(oven),
            tester: named(self.tester),
            done: Stretches::new(&treated.done.steps),
            target_low_hrc: treated.made.target_hrc.0,
            target_high_hrc: treated.made.target_hrc.1,
            foreseen: Foreseen {
                as_quenched: predicted.hardness.as_quenched,
                tempered: predicted.hardness.tempered,
                line: whole.and_then(|w| w.ranges.hamon_mm),
                side_ninety_mm: whole.map(|w| w.bend.side_ninety_mm),
                crack: whole.map(|w| w.crack.probability),
                grain_astm: whole.map(|w| w.ranges.grain_astm),
            },
            read: self.read,
            came: self.came.clone(),
        }
    }
}

/// Two to six fired blades side by side: in what they differ from the first, and what the engine and the
/// records say each difference did.
#[cfg_attr(feature = "schema", utoipa::path(context_path = "/api/v1", tag = "lessons",
    params(("blades" = String, Query, description = "2 to 6 ids, with commas between")),
    responses((status = 200, body = CompareView), crate::openapi::Problems)))]
#[get("/compare?<blades>")]
pub async fn get(
    pool: &State<PgPool>,
    predictor: &State<Arc<Predictor>>,
    me: SignedIn,
    caller: Caller,
    blades: Option<&str>,
) -> Result<Json<Option<CompareView>>, Problem> {
    let ids = ids(blades.unwrap_or_default())?;
    let fired = record::fired(pool.inner(), me.workshop, &ids).await?;
    let mut by_id: HashMap<Uuid, Fired> =
        fired.into_iter().map(|f| (f.treated.blade_id, f)).collect();
    let firings: Vec<Uuid> = by_id.values().map(|f| f.treated.firing_id).collect();
    let simulated = predictor
        .models
        .simulated(pool, me.workshop, &firings)
        .await?;
    let readings = reading::of_blades(pool.inner(), me.workshop, &ids).await?;
    let findings = finding::of_blades(pool.inner(), me.workshop, &ids).await?;
    let stations = station::list(pool.inner(), me.workshop).await?;
    let learned = predictor.models.current(pool, me.workshop).await?;
    let mut all = Vec::new();
    for id in ids {
        let Some(fired) = by_id.remove(&id) else {
            // Not the shop's, or not fired yet.
            let blade = vatten_store::blade::get(pool.inner(), me.workshop, id).await?;
            let sentence = format!("{} was not quenched yet: nothing came of it.", blade.mark);
            return Err(Error::not_now("blades", sentence).into());
        };
        let mark = fired.treated.mark.clone();
        let simulated = simulated.get(&fired.treated.firing_id);
        let one = One::of(
            fired,
            &stations,
            &readings,
            &findings,
            &learned.checks,
            simulated,
        );
        all.push(one.ok_or_else(|| {
            let sentence = format!("What was done to {mark} can no longer be understood.");
            Problem::from(Error::not_now("blades", sentence))
        })?);
    }
    let work = predictor.compute.run_stoppable(move |stop| {
        let Some((first, others)) = all.split_first() else {
            return Ok(None);
        };
        let mut against_first = Vec::new();
        for other in others {
            let (a, b) = (first.read, other.read);
            let less = |a: Option<f64>, b: Option<f64>| Some(b? - a?);
            let tempered = less(a.tempered_hrc, b.tempered_hrc);
            let hard = less(a.as_quenched_hrc, b.as_quenched_hrc);
            let (when, measured_hrc) = match (tempered, hard) {
                (None, Some(_)) => (When::AsQuenched, hard),
                _ => (When::Tempered, tempered),
            };
            let lines = first.has_line && other.has_line;
            let (x, y) = (first.subject(), other.subject());
            against_first.push(PairView {
                id: other.fired.treated.blade_id,
                when,
                measured_hrc,
                measured_line_mm: less(first.came.line_mm, other.came.line_mm),
                effects: effects(x, y, when, lines, &learned.model, Some(stop))?,
            });
        }
        let differs = |aspect: &Aspect| {
            let mut effects = against_first.iter().flat_map(|a| &a.effects);
            effects.any(|e| e.aspect == *aspect)
        };
        Ok(Some(CompareView {
            differ: Aspect::ALL.iter().copied().filter(differs).collect(),
            blades: all.iter().map(|one| one.view(&learned.names)).collect(),
            against_first,
        }))
    });
    Ok(Json(caller.wait(work).await?))
}
