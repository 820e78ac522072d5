//! The open exchange format: a whole shop as one JSON file. `docs/format.md` describes it.

mod station;

use crate::body::text;
use crate::predictor::{Depth, Predictor, station_names};
use crate::problem::Problem;
use crate::routes::clay::check_wanted;
use crate::routes::firing::predict_stored;
use crate::stored::Stored;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashMap, HashSet};
use time::{Duration, OffsetDateTime};
use uuid::{NoContext, Timestamp, Uuid};
use vatten_core::analysis::Analysis;
use vatten_core::bar::{BarSize, Condition};
use vatten_core::blade::{Blade as Geometry, BladeDraft};
use vatten_core::clay::{Clay, ClayDraft};
use vatten_core::fault::{Checker, Faults};
use vatten_core::finding::Finding;
use vatten_core::firing::{self as rules, Happening};
use vatten_core::laminate::{LayerDraft, edge_of};
use vatten_core::plan::{Plan as CorePlan, Step, StepDraft};
use vatten_core::prediction::Prediction;
use vatten_core::purpose::Purpose;
use vatten_core::reading::{Taken, Values, When};
use vatten_core::ready::{Made, Ready as MadeReady};
use vatten_core::steel::Steel;
use vatten_core::trial::{Entry, Estimate, MAX_ENTRIES};
use vatten_core::units::{Hrc, Quantity};
use vatten_store::bar::NewBar;
use vatten_store::blade::{NewBlade, SteelRef};
use vatten_store::finding::NewFinding;
use vatten_store::reading::NewReading;
use vatten_store::{
    PgPool, WorkshopId, archive, bar, blade, clay, finding, firing, method, plan, reading, steel,
    trial, workshop,
};

/// Name of the format.
pub const FORMAT: &str = "vatten-exchange";
/// Its version.
pub const VERSION: u32 = 1;
/// Most blades in one file.
const MAX_BLADES: usize = 5000;
/// Up to this many fired blades, a missing prediction is made with the records so far; beyond, by
/// physics alone.
const LEARN_AS_IT_GOES: usize = 200;

/// A shop's stations, steels and blades. Ids only tie the parts together; an import makes new ones.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ExchangeFile {
    /// `vatten-exchange`.
    pub format: String,
    /// 1.
    pub version: u32,
    /// When it was written.
    #[serde(with = "time::serde::rfc3339")]
    pub exported_at: OffsetDateTime,
    /// Name of the shop it came from.
    pub workshop: String,
    /// Stations.
    #[serde(default)]
    pub stations: Vec<station::StationFile>,
    /// House steels.
    #[serde(default)]
    pub steels: Vec<SteelFile>,
    /// Bars in stock.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bars: Vec<BarFile>,
    /// House methods.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub methods: Vec<MethodFile>,
    /// Coupon trials.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub trials: Vec<TrialFile>,
    /// Blades, oldest first.
    #[serde(default)]
    pub blades: Vec<BladeFile>,
}

/// A bar in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BarFile {
    /// Id that blades use.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Designation of a built-in steel or id of a house steel; that of the edge.
    pub steel: String,
    /// Layers, the edge among them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<LayerDraft>,
    /// Size.
    pub size: BarSize,
    /// How it came.
    #[serde(default)]
    pub condition: Condition,
    /// The mill's own analysis.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub analysis: Option<BTreeMap<String, f64>>,
    /// Remark.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

/// A house method in an exchange file, as it is now.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MethodFile {
    /// Name.
    pub name: String,
    /// Why.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// Steps, as in the API.
    #[schema(value_type = Vec<Step>)]
    pub steps: Vec<serde_json::Value>,
}

/// A coupon trial in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TrialFile {
    /// Name.
    pub name: String,
    /// What was done and seen.
    #[serde(default)]
    pub entries: Vec<Entry>,
    /// The house steel it became.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub steel_id: Option<Uuid>,
}

/// A house steel in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SteelFile {
    /// Id that blades use.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Weight percent by symbol.
    pub analysis: BTreeMap<String, f64>,
    /// What a coupon trial found out, when it was made by one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub estimate: Option<Estimate>,
}

/// A blade in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BladeFile {
    /// Mark.
    pub mark: String,
    /// Name.
    pub name: String,
    /// Designation of a built-in steel or id of a house steel.
    pub steel: String,
    /// The bar it is made from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bar_id: Option<Uuid>,
    /// Geometry.
    #[schema(value_type = Object)]
    pub geometry: GeometryFile,
    /// Purpose.
    pub purpose: String,
    /// Wanted hardness, HRC.
    pub target_low_hrc: f64,
    /// Wanted hardness, HRC.
    pub target_high_hrc: f64,
    /// Remark.
    #[serde(default)]
    pub note: String,
    /// When it was entered.
    #[serde(with = "time::serde::rfc3339")]
    pub entered_at: OffsetDateTime,
    /// When it came off the rack.
    #[serde(default, with = "time::serde::rfc3339::option")]
    pub finished_at: Option<OffsetDateTime>,
    /// What is known of it beyond its sizes.
    #[serde(default, skip_serializing_if = "is_default")]
    pub ready: MadeReady,
    /// Its clay.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub clay: Option<ClayFile>,
    /// Plans, oldest first; all but the last were fired.
    #[serde(default)]
    pub plans: Vec<PlanFile>,
}

fn is_default<T: Default + PartialEq>(value: &T) -> bool {
    *value == T::default()
}

/// Clay in an exchange file.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ClayFile {
    /// As painted.
    pub clay: ClayDraft,
    /// The line that is wanted: [x, height above the edge], mm.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub wanted: Vec<[f64; 2]>,
}

/// Geometry in an exchange file, mm.
#[derive(Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct GeometryFile {
    shape: String,
    length_mm: f64,
    width_mm: f64,
    spine_mm: f64,
    edge_mm: f64,
    grind: String,
}

/// A plan in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PlanFile {
    /// Steps, as in the API.
    #[schema(value_type = Vec<Step>)]
    pub steps: Vec<serde_json::Value>,
    /// The firing of it, if it was fired.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub firing: Option<FiringFile>,
}

/// A firing in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FiringFile {
    /// When it started.
    #[serde(with = "time::serde::rfc3339")]
    pub started_at: OffsetDateTime,
    /// What was predicted then; made anew when missing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub prediction: Option<Prediction>,
    /// The blade as it went into the fire; plain when missing.
    #[serde(default, skip_serializing_if = "is_default")]
    pub made: Made,
    /// What happened, in order.
    #[serde(default)]
    pub events: Vec<EventFile>,
    /// Hardness readings.
    #[serde(default)]
    pub readings: Vec<ReadingFile>,
    /// What else came of it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub findings: Vec<FindingFile>,
}

/// A finding in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FindingFile {
    /// What was found.
    pub found: Finding,
    /// Remark.
    #[serde(default)]
    pub note: String,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub found_at: OffsetDateTime,
    /// Withdrawn: kept, but not learned from.
    #[serde(default)]
    pub withdrawn: bool,
}

/// An event in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EventFile {
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// What.
    pub happening: Happening,
}

fn is_plain(taken: &Taken) -> bool {
    *taken == Taken::default()
}

/// Readings in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingFile {
    /// `as_quenched` or `tempered`.
    pub stage: String,
    /// Values, HRC.
    pub values_hrc: Vec<f64>,
    /// Tester.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tester_id: Option<Uuid>,
    /// Remark.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub taken_at: OffsetDateTime,
    /// Kept, but not learned from.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub withdrawn: bool,
    /// Where and in what state they were read, and what was set aside.
    #[serde(default, skip_serializing_if = "is_plain")]
    pub taken: Taken,
}

/// What an import did.
#[derive(Debug, Default, Serialize, utoipa::ToSchema)]
pub struct ImportReport {
    /// Blades brought in.
    pub blades: usize,
    /// Marks that the shop had already; those blades were left alone.
    pub skipped: Vec<String>,
}

/// A blade checked and ready to be stored.
struct Ready {
    new: NewBlade,
    entered_at: OffsetDateTime,
    finished_at: Option<OffsetDateTime>,
    clay: Option<ClayFile>,
    plans: Vec<ReadyPlan>,
}

struct ReadyPlan {
    plan: CorePlan,
    firing: Option<ReadyFiring>,
}

struct ReadyFiring {
    started_at: OffsetDateTime,
    prediction: Option<Prediction>,
    made: Made,
    events: Vec<EventFile>,
    readings: Vec<(NewReading, bool)>,
    findings: Vec<(NewFinding, bool)>,
}

fn v7_at(at: OffsetDateTime) -> Uuid {
    let seconds = u64::try_from(at.unix_timestamp()).unwrap_or(0);
    Uuid::new_v7(Timestamp::from_unix(NoContext, seconds, at.nanosecond()))
}

/// Gives every station of a plan its new id.
fn with_stations(plan: &CorePlan, ids: &HashMap<Uuid, Uuid>) -> CorePlan {
    let mut steps = plan.steps().to_vec();
    for step in &mut steps {
        if let Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. } = step {
            *station_id = station_id.and_then(|id| ids.get(&id).copied());
        }
    }
    CorePlan::stored(steps)
}

impl BladeFile {
    fn check(
        &self,
        steels: &HashMap<String, SteelRef>,
        stations: &HashMap<Uuid, Uuid>,
        bars: &HashMap<Uuid, Uuid>,
        shift: Duration,
    ) -> Result<Ready, Faults> {
        let mut c = Checker::default();
        let g = &self.geometry;
        let geometry = c.take(
            Geometry::parse(&BladeDraft {
                shape: Some(g.shape.clone()),
                length_mm: Some(g.length_mm),
                width_mm: Some(g.width_mm),
                spine_mm: Some(g.spine_mm),
                edge_mm: Some(g.edge_mm),
                grind: Some(g.grind.clone()),
            })
            .map_err(|f| f.under("geometry")),
        );
        if let Some(geometry) = &geometry {
            let work = self.ready.work(geometry, None);
            c.take(work.map_err(|f| f.under("ready")));
            for (i, plan) in self.plans.iter().enumerate() {
                let Some(firing) = &plan.firing else { continue };
                let made = &firing.made;
                let work = made.ready.work(geometry, made.clay.as_ref());
                c.take(work.map_err(|f| f.under(&format!("plans[{i}].firing.made"))));
            }
        }
        if let Some(file) = &self.clay {
            c.take(Clay::parse(&file.clay).map_err(|f| f.under("clay.clay")));
            let mut line = Checker::default();
            check_wanted(&mut line, &file.wanted);
            c.take(line.finish(Some(())).map_err(|f| f.under("clay")));
        }
        let purpose = c.take(Purpose::parse("purpose", &self.purpose));
        let low = c.take(Hrc::check("target_low_hrc", self.target_low_hrc));
        let high = c.take(Hrc::check("target_high_hrc", self.target_high_hrc));
        if self.target_low_hrc > self.target_high_hrc {
            c.refuse(
                "target_low_hrc",
                "The lowest wanted hardness is above the highest.",
            );
        }
        let mark = c.take(text("mark", &self.mark, (1, 20)));
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 2000)));
        let steel = steels
            .get(&self.steel)
            .cloned()
            .or_else(|| Steel::built_in(&self.steel).map(|s| SteelRef::BuiltIn(s.key.clone())));
        if steel.is_none() {
            c.refuse(
                "steel",
                format!(
                    "{} is not a steel of the table nor of this file.",
                    self.steel
                ),
            );
        }
        let count = self.plans.len();
        let mut plans = Vec::with_capacity(count);
        for (i, file) in self.plans.iter().enumerate() {
            let fields = format!("plans[{i}]");
            if file.firing.is_none() && i + 1 < count {
                c.refuse(
                    fields.clone(),
                    "Only the last plan of a blade may be unfired.",
                );
            }
            let length_mm = self.geometry.length_mm;
            plans.extend(
                c.take(
                    file.check(stations, shift, length_mm)
                        .map_err(|f| f.under(&fields)),
                ),
            );
        }
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
                let target_hrc = (low.value(), high.value());
                Some(Ready {
                    new: NewBlade {
                        mark,
                        name,
                        steel,
                        geometry,
                        purpose,
                        target_hrc,
                        ready: self.ready.clone(),
                        bar_id: self.bar_id.and_then(|id| bars.get(&id).copied()),
                        note,
                    },
                    clay: self.clay.clone(),
                    entered_at: self.entered_at + shift,
                    finished_at: self.finished_at.map(|at| at + shift),
                    plans,
                })
            }
            _ => None,
        };
        c.finish(parts)
    }
}

impl BarFile {
    fn check(&self, steels: &HashMap<String, SteelRef>) -> Result<NewBar, Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 60)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(self.size.check().map_err(|f| f.under("size")));
        c.take(edge_of(&self.layers));
        let analysis = self
            .analysis
            .as_ref()
            .and_then(|a| c.take(Analysis::parse(a).map_err(|f| f.under("analysis"))));
        let known = |text: &str| {
            steels
                .get(text)
                .cloned()
                .or_else(|| Steel::built_in(text).map(|s| SteelRef::BuiltIn(s.key.clone())))
        };
        let steel = known(&self.steel);
        if steel.is_none() {
            c.refuse(
                "steel",
                "This is not a steel of the table nor of this file.",
            );
        }
        let mut layers = Vec::new();
        for (i, layer) in self.layers.iter().enumerate() {
            match known(&layer.steel) {
                Some(SteelRef::BuiltIn(steel)) => layers.push(LayerDraft {
                    role: layer.role,
                    steel,
                }),
                Some(SteelRef::House(to)) => layers.push(LayerDraft {
                    role: layer.role,
                    steel: to.to_string(),
                }),
                None => c.refuse(
                    format!("layers[{i}].steel"),
                    "This is not a steel of the table nor of this file.",
                ),
            }
        }
        let parts = name
            .zip(note)
            .zip(steel)
            .map(|((name, note), steel)| NewBar {
                name,
                steel,
                layers,
                size: self.size,
                condition: self.condition,
                analysis,
                note,
            });
        c.finish(parts)
    }
}

fn drafts_of(steps: &[serde_json::Value]) -> Result<Vec<StepDraft>, Faults> {
    steps
        .iter()
        .enumerate()
        .map(|(i, step)| {
            serde_json::from_value(step.clone())
                .map_err(|e| Faults::one(format!("steps[{i}]"), e.to_string()))
        })
        .collect()
}

impl MethodFile {
    fn check(&self, stations: &HashMap<Uuid, Uuid>) -> Result<(String, String, CorePlan), Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 500)));
        let plan = c.take(drafts_of(&self.steps).and_then(|d| CorePlan::parse(&d)));
        let parts = name.zip(note).zip(plan);
        c.finish(parts.map(|((n, t), p)| (n, t, with_stations(&p, stations))))
    }
}

impl PlanFile {
    fn check(
        &self,
        stations: &HashMap<Uuid, Uuid>,
        shift: Duration,
        length_mm: f64,
    ) -> Result<ReadyPlan, Faults> {
        let drafts = drafts_of(&self.steps)?;
        let plan = with_stations(&CorePlan::parse(&drafts)?, stations);
        let Some(file) = &self.firing else {
            return Ok(ReadyPlan { plan, firing: None });
        };
        let mut c = Checker::default();
        let events: Vec<EventFile> = file
            .events
            .iter()
            .map(|e| EventFile {
                at: e.at + shift,
                happening: e.happening.clone(),
            })
            .collect();
        let past: Vec<rules::Event> = events
            .iter()
            .map(|e| rules::Event {
                what: e.happening.clone(),
                at_ms: 0,
            })
            .collect();
        let state = rules::state(plan.steps(), &past);
        if let Err(refusal) = &state {
            c.refuse("firing.events", refusal.to_string());
        }
        let soft = state.is_ok_and(|s| !s.quenched);
        for (field, empty) in [
            ("firing.readings", file.readings.is_empty()),
            ("firing.findings", file.findings.is_empty()),
        ] {
            if soft && !empty {
                c.refuse(field, "There are results, but it was never quenched.");
            }
        }
        let mut readings = Vec::new();
        for (i, r) in file.readings.iter().enumerate() {
            let field = format!("firing.readings[{i}]");
            let values = c.take(Values::parse(&r.values_hrc).map_err(|f| f.under(&field)));
            let note = c.take(text("note", &r.note, (0, 500)).map_err(|f| f.under(&field)));
            let stage = When::parse(&r.stage);
            if stage.is_none() {
                c.refuse_allowing(
                    format!("{field}.stage"),
                    "There is no such stage.",
                    "as_quenched, tempered",
                );
            }
            if let Some(values) = &values {
                let good = r.taken.check(values.count(), length_mm);
                c.take(good.map_err(|e| e.under("taken").under(&field)));
            }
            if let (Some(values), Some(note), Some(stage)) = (values, note, stage) {
                let new = NewReading {
                    id: v7_at(r.taken_at + shift),
                    stage,
                    values,
                    tester_id: r.tester_id.and_then(|id| stations.get(&id).copied()),
                    note,
                    taken_at: r.taken_at + shift,
                    taken: r.taken.clone(),
                };
                readings.push((new, r.withdrawn));
            }
        }
        let mut findings = Vec::new();
        for (i, f) in file.findings.iter().enumerate() {
            let field = format!("firing.findings[{i}]");
            let good = c.take(f.found.check().map_err(|e| e.under("found").under(&field)));
            let note = c.take(text("note", &f.note, (0, 500)).map_err(|e| e.under(&field)));
            if let (Some(()), Some(note)) = (good, note) {
                let new = NewFinding {
                    id: v7_at(f.found_at + shift),
                    found: f.found.clone(),
                    note,
                    found_at: f.found_at + shift,
                };
                findings.push((new, f.withdrawn));
            }
        }
        let firing = Some(ReadyFiring {
            started_at: file.started_at + shift,
            prediction: file.prediction.clone(),
            made: file.made.clone(),
            events,
            readings,
            findings,
        });
        c.finish(Some(ReadyPlan { plan, firing }))
    }
}

/// Brings a file into a shop. Stations and steels of the same name are the same; blades whose mark
/// the shop has are left alone, so a file may be brought in twice. With `shift_to_now` all times move
/// so that the file was written now (the demo stays fresh).
///
/// # Errors
/// Every fault in the file, fields as `blades[3].plans[0].steps[1].temperature_c`; then nothing is
/// stored.
pub async fn import(
    pool: &PgPool,
    predictor: &Predictor,
    id: WorkshopId,
    file: &ExchangeFile,
    shift_to_now: bool,
) -> Result<ImportReport, Problem> {
    if file.format != FORMAT || file.version != VERSION {
        let allowed = format!("{FORMAT}, version {VERSION}");
        return Err(
            Faults::with_allowed("format", "This is not a file Vatten wrote.", allowed).into(),
        );
    }
    if file.blades.len() > MAX_BLADES {
        return Err(Faults::with_allowed(
            "blades",
            "These are too many at once.",
            format!("0 to {MAX_BLADES}"),
        )
        .into());
    }
    let shift = if shift_to_now {
        OffsetDateTime::now_utc() - file.exported_at
    } else {
        Duration::ZERO
    };
    let mut c = Checker::default();
    let (stations, new_stations) = station::check(pool, id, &file.stations, shift, &mut c).await?;
    let known = steel::list(pool, id).await?;
    let mut steels = HashMap::new();
    let mut new_steels = Vec::new();
    for (i, s) in file.steels.iter().enumerate() {
        let field = format!("steels[{i}]");
        let name = c.take(text("name", &s.name, (1, 60)).map_err(|f| f.under(&field)));
        let analysis =
            c.take(Analysis::parse(&s.analysis).map_err(|f| f.under(&format!("{field}.analysis"))));
        let same = known
            .iter()
            .find(|k| k.name.to_lowercase() == s.name.trim().to_lowercase());
        let to = same.map_or_else(Uuid::now_v7, |k| k.id);
        steels.insert(s.id.to_string(), SteelRef::House(to));
        if let (None, Some(name), Some(analysis)) = (same, name, analysis) {
            new_steels.push((to, name, analysis, s.estimate));
        }
    }
    let known = bar::list(pool, id).await?;
    let mut bars = HashMap::new();
    let mut new_bars = Vec::new();
    for (i, b) in file.bars.iter().enumerate() {
        let field = format!("bars[{i}]");
        let same = known
            .iter()
            .find(|k| k.name.to_lowercase() == b.name.trim().to_lowercase());
        let to = same.map_or_else(Uuid::now_v7, |k| k.id);
        bars.insert(b.id, to);
        let checked = c.take(b.check(&steels).map_err(|f| f.under(&field)));
        if let (None, Some(new)) = (same, checked) {
            new_bars.push((to, new));
        }
    }
    let known = method::list(pool, id).await?;
    let mut new_methods = Vec::new();
    for (i, m) in file.methods.iter().enumerate() {
        let same = known
            .iter()
            .any(|k| k.name.to_lowercase() == m.name.trim().to_lowercase());
        let checked = c.take(
            m.check(&stations)
                .map_err(|f| f.under(&format!("methods[{i}]"))),
        );
        if let (false, Some(new)) = (same, checked) {
            new_methods.push(new);
        }
    }
    let known = trial::list(pool, id).await?;
    let mut new_trials = Vec::new();
    for (i, t) in file.trials.iter().enumerate() {
        let field = format!("trials[{i}]");
        let name = c.take(text("name", &t.name, (1, 60)).map_err(|f| f.under(&field)));
        for (k, entry) in t.entries.iter().enumerate() {
            c.take(
                entry
                    .check()
                    .map_err(|f| f.under(&format!("{field}.entries[{k}]"))),
            );
        }
        if t.entries.len() > MAX_ENTRIES {
            c.refuse(format!("{field}.entries"), "These are too many coupons.");
        }
        let same = |k: &vatten_store::trial::Trial| {
            k.name.to_lowercase() == t.name.trim().to_lowercase() && k.entries == t.entries
        };
        let steel = t.steel_id.and_then(|s| match steels.get(&s.to_string()) {
            Some(SteelRef::House(to)) => Some(*to),
            _ => None,
        });
        if let (false, Some(name)) = (known.iter().any(same), name) {
            new_trials.push((name, t.entries.clone(), steel));
        }
    }
    let mut ready = Vec::with_capacity(file.blades.len());
    let mut marks = HashSet::new();
    for (i, b) in file.blades.iter().enumerate() {
        let field = format!("blades[{i}]");
        if !marks.insert(b.mark.trim().to_lowercase()) {
            c.refuse(
                format!("{field}.mark"),
                "Two blades of the file have this mark.",
            );
        }
        ready.extend(
            c.take(
                b.check(&steels, &stations, &bars, shift)
                    .map_err(|f| f.under(&field)),
            ),
        );
    }
    let ready = c.finish(Some(ready))?;

    station::create(pool, id, new_stations).await?;
    for (to, name, analysis, estimate) in new_steels {
        steel::create(pool, id, to, &name, &analysis, estimate.as_ref()).await?;
    }
    for (to, new) in new_bars {
        bar::create(pool, id, to, &new).await?;
    }
    for (name, note, plan) in new_methods {
        method::save(pool, id, Uuid::now_v7(), &name, &note, &plan, 0).await?;
    }
    for (name, entries, steel) in new_trials {
        let made = trial::create(pool, id, Uuid::now_v7(), &name).await?;
        trial::save(pool, id, made.id, &entries, made.version).await?;
        if let Some(steel) = steel {
            trial::became(pool, id, made.id, steel).await?;
        }
    }
    let taken: HashSet<String> = blade::marks(pool, id)
        .await?
        .into_iter()
        .map(|m| m.to_lowercase())
        .collect();
    let learn = ready
        .iter()
        .filter(|r| r.plans.iter().any(|p| p.firing.is_some()))
        .count()
        <= LEARN_AS_IT_GOES;
    let mut report = ImportReport::default();
    for one in ready {
        if taken.contains(&one.new.mark.to_lowercase()) {
            report.skipped.push(one.new.mark);
        } else {
            store(pool, predictor, id, one, learn).await?;
            report.blades += 1;
        }
    }
    Ok(report)
}

async fn store(
    pool: &PgPool,
    predictor: &Predictor,
    id: WorkshopId,
    ready: Ready,
    learn: bool,
) -> Result<(), Problem> {
    let blade_id = v7_at(ready.entered_at);
    blade::create(pool, id, blade_id, &ready.new).await?;
    if let Some(file) = &ready.clay {
        clay::save(pool, id, blade_id, &file.clay, &file.wanted, 0).await?;
    }
    for one in ready.plans {
        let draft = plan::save(pool, id, blade_id, &one.plan, 0).await?;
        let Some(fired) = one.firing else { continue };
        let prediction = match fired.prediction {
            Some(prediction) => prediction,
            None if learn => {
                let now = blade::get(pool, id, blade_id).await?;
                predict_stored(pool, predictor, id, &now, &fired.made, &draft).await?
            }
            None => {
                let now = blade::get(pool, id, blade_id).await?;
                let asked = Stored::of(pool, id, now, &fired.made)
                    .await?
                    .asked(one.plan.clone())?;
                let names = station_names(pool, id).await?;
                let nothing = crate::learned::Learned {
                    names,
                    ..Default::default()
                };
                predictor
                    .predict(asked, std::sync::Arc::new(nothing), Depth::Hardness)
                    .await?
            }
        };
        let past: Vec<_> = fired
            .events
            .into_iter()
            .map(|e| (v7_at(e.at), e.happening, e.at))
            .collect();
        let firing_id = v7_at(fired.started_at);
        firing::restore(
            pool,
            id,
            firing_id,
            &draft,
            firing::Frozen {
                prediction: &prediction,
                made: &fired.made,
            },
            fired.started_at,
            &past,
        )
        .await?;
        for (new, withdrawn) in fired.readings {
            reading::create(pool, id, blade_id, &new).await?;
            if withdrawn {
                reading::withdraw(pool, id, blade_id, new.id).await?;
            }
        }
        for (new, withdrawn) in fired.findings {
            finding::create(pool, id, blade_id, &new).await?;
            if withdrawn {
                finding::withdraw(pool, id, blade_id, new.id).await?;
            }
        }
    }
    blade::set_dates(pool, id, blade_id, ready.entered_at, ready.finished_at).await?;
    Ok(())
}

/// Percent by symbol.
fn elements(analysis: &Analysis) -> BTreeMap<String, f64> {
    serde_json::to_value(analysis)
        .and_then(serde_json::from_value)
        .unwrap_or_default()
}

/// Writes a shop to a file.
///
/// # Errors
/// The database cannot be read.
pub async fn export(pool: &PgPool, id: WorkshopId) -> Result<ExchangeFile, Problem> {
    let mut events: HashMap<Uuid, Vec<EventFile>> = HashMap::new();
    for e in archive::events(pool, id).await? {
        events.entry(e.firing_id).or_default().push(EventFile {
            at: e.at,
            happening: e.happening,
        });
    }
    let mut readings: HashMap<Uuid, Vec<ReadingFile>> = HashMap::new();
    for r in archive::readings(pool, id).await? {
        readings.entry(r.firing_id).or_default().push(ReadingFile {
            stage: r.stage,
            values_hrc: r.values_hrc,
            tester_id: r.tester_id,
            note: r.note,
            taken_at: r.taken_at,
            withdrawn: r.withdrawn,
            taken: r.taken,
        });
    }
    let mut findings: HashMap<Uuid, Vec<FindingFile>> = HashMap::new();
    for f in finding::all(pool, id).await? {
        findings.entry(f.firing_id).or_default().push(FindingFile {
            found: f.found,
            note: f.note,
            found_at: f.found_at,
            withdrawn: f.withdrawn_at.is_some(),
        });
    }
    let mut plans: HashMap<Uuid, Vec<PlanFile>> = HashMap::new();
    for p in archive::plans(pool, id).await? {
        plans.entry(p.blade_id).or_default().push(PlanFile {
            steps: p
                .steps
                .iter()
                .filter_map(|s| serde_json::to_value(s).ok())
                .collect(),
            firing: p.firing.map(|f| FiringFile {
                started_at: f.started_at,
                prediction: Some(f.prediction),
                made: f.made,
                events: events.remove(&f.id).unwrap_or_default(),
                readings: readings.remove(&f.id).unwrap_or_default(),
                findings: findings.remove(&f.id).unwrap_or_default(),
            }),
        });
    }
    let mut clays: HashMap<Uuid, ClayFile> = HashMap::new();
    for c in archive::clays(pool, id).await? {
        let file = ClayFile {
            clay: c.clay,
            wanted: c.wanted,
        };
        clays.insert(c.blade_id, file);
    }
    let blades = blade::all(pool, id).await?.into_iter().map(|b| BladeFile {
        plans: plans.remove(&b.id).unwrap_or_default(),
        clay: clays.remove(&b.id),
        ready: b.ready,
        bar_id: b.bar_id,
        mark: b.mark,
        name: b.name,
        steel: b.steel,
        geometry: GeometryFile {
            shape: b.shape,
            length_mm: b.length_mm,
            width_mm: b.width_mm,
            spine_mm: b.spine_mm,
            edge_mm: b.edge_mm,
            grind: b.grind,
        },
        purpose: b.purpose,
        target_low_hrc: b.target_low_hrc,
        target_high_hrc: b.target_high_hrc,
        note: b.note,
        entered_at: b.created_at,
        finished_at: b.finished_at,
    });
    Ok(ExchangeFile {
        format: FORMAT.to_owned(),
        version: VERSION,
        exported_at: OffsetDateTime::now_utc(),
        workshop: workshop::get(pool, id).await?.name,
        stations: station::export(pool, id).await?,
        steels: steel::list(pool, id)
            .await?
            .into_iter()
            .map(|s| SteelFile {
                id: s.id,
                name: s.name,
                estimate: s.estimate,
                analysis: elements(&s.analysis),
            })
            .collect(),
        bars: bar::list(pool, id)
            .await?
            .into_iter()
            .map(|b| BarFile {
                id: b.id,
                name: b.name,
                steel: b.steel,
                layers: b.layers,
                size: b.size,
                condition: b.condition,
                analysis: b.analysis.map(|a| elements(&a)),
                note: b.note,
            })
            .collect(),
        // One that cannot be read here would not be read elsewhere either.
        methods: method::list(pool, id)
            .await?
            .into_iter()
            .filter(|m| m.unreadable.is_none())
            .map(|m| MethodFile {
                name: m.name,
                note: m.note,
                steps: m
                    .steps
                    .iter()
                    .filter_map(|s| serde_json::to_value(s).ok())
                    .collect(),
            })
            .collect(),
        trials: trial::list(pool, id)
            .await?
            .into_iter()
            .rev()
            .map(|t| TrialFile {
                name: t.name,
                entries: t.entries,
                steel_id: t.steel_id,
            })
            .collect(),
        blades: blades.collect(),
    })
}
