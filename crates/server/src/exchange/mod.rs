//! The open exchange format: a whole shop as one JSON file. `docs/format.md` describes it.

mod reader;
mod station;
mod writer;

pub use reader::{import, shop_name};
pub use writer::export;

use crate::body::text;
use crate::routes::clay::check_wanted;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashMap};
use time::{Duration, OffsetDateTime};
use uuid::Uuid;
use vatten_core::geometry::blade::{Blade as Geometry, BladeDraft};
use vatten_core::geometry::clay::{Clay, ClayDraft};
use vatten_core::material::analysis::Analysis;
use vatten_core::material::purpose::Purpose;
use vatten_core::material::steel::Steel;
use vatten_core::prediction::Prediction;
use vatten_core::prediction::laminate::{LayerDraft, Role, edge_of};
use vatten_core::prediction::made::{BarMade, LayerMade, Made, MadeOf, SteelMade};
use vatten_core::process::bar::{BarSize, Condition};
use vatten_core::process::calibration::{Calibration, Corrections};
use vatten_core::process::firing::{self as rules, Happening};
use vatten_core::process::plan::{Plan as CorePlan, Stations};
use vatten_core::process::ready::Ready as MadeReady;
use vatten_core::process::step::{Step, StepDraft};
use vatten_core::quantity::units::{Hrc, Quantity};
use vatten_core::quantity::validation::{Checker, Faults};
use vatten_core::record::finding::Finding;
use vatten_core::record::reading::{Taken, Values, When};
use vatten_core::record::trial::{Entry, Estimate};
use vatten_store::bar::NewBar;
use vatten_store::blade::{NewBlade, SteelRef};
use vatten_store::edit::BladeEdit;
use vatten_store::finding::NewFinding;
use vatten_store::firing::Past;
use vatten_store::reading::NewReading;

/// Name of the format.
pub const FORMAT: &str = "vatten-exchange";
/// Its version.
pub const VERSION: u32 = 1;
/// What a shop has that no exchange file holds.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LeftOut {
    /// Photographs.
    pub photographs: i64,
    /// Temperature logs brought in from files.
    pub logs: i64,
    /// House methods that were written anew or taken off the list since, or that this version cannot read.
    #[serde(default)]
    pub methods: i64,
}

/// A shop's stations, steels and blades. Ids only tie the parts together; an import makes new ones.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ExchangeFile<B = Vec<BladeFile>>
where
    B: Default,
{
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
    /// What the shop has that stands in no such file.
    #[serde(default, skip_serializing_if = "is_default")]
    pub left_out: LeftOut,
    /// Blades, oldest first.
    #[serde(default)]
    #[schema(value_type = Vec<BladeFile>)]
    pub blades: B,
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
    /// What was changed of it after its first firing, oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub edits: Vec<EditFile>,
}

/// A change of a blade in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EditFile {
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// Who, by name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub by: Option<String>,
    /// Each field that was changed, with what stood there before and after.
    pub changed: BTreeMap<String, [serde_json::Value; 2]>,
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

/// A prediction whose sentences, where it has any, are read into facts.
fn with_facts<'de, D: serde::Deserializer<'de>>(from: D) -> Result<Option<Prediction>, D::Error> {
    let found = Option::<serde_json::Value>::deserialize(from)?;
    let read = |value| serde_json::from_value(vatten_store::sentences::prediction(value).0);
    found
        .map(read)
        .transpose()
        .map_err(serde::de::Error::custom)
}

/// A firing in an exchange file.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FiringFile {
    /// When it started.
    #[serde(with = "time::serde::rfc3339")]
    pub started_at: OffsetDateTime,
    /// What was predicted then; made anew when missing. Of files that hold sentences, as those of version 0.1
    /// once did, the facts of them.
    #[serde(
        default,
        skip_serializing_if = "Option::is_none",
        deserialize_with = "with_facts"
    )]
    pub prediction: Option<Prediction>,
    /// The blade as it went into the fire; what is missing of it is as the blade has it.
    #[serde(default)]
    pub made: MadeFile,
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

/// A blade as it went into the fire, in an exchange file.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct MadeFile {
    /// The mark it was known by.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mark: Option<String>,
    /// Its name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Shape, sizes and grind.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub blade: Option<Geometry>,
    /// Its steel.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub steel: Option<SteelMade>,
    /// The bar it was made from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bar: Option<BarMade>,
    /// What it was for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub purpose: Option<Purpose>,
    /// Wanted hardness, HRC.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub target_hrc: Option<(f64, f64)>,
    /// What was known of it beyond its sizes.
    #[serde(skip_serializing_if = "is_default")]
    pub ready: MadeReady,
    /// The clay it went in with.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub clay: Option<ClayDraft>,
    /// The stations it went to where its plan names none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stations: Option<Stations>,
    /// The checks of stations that were in force.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub checks: Option<Corrections>,
}

impl From<Made> for MadeFile {
    fn from(made: Made) -> Self {
        Self {
            mark: Some(made.mark),
            name: Some(made.name),
            blade: Some(made.blade),
            steel: Some(made.of.steel),
            bar: made.of.bar,
            purpose: Some(made.purpose),
            target_hrc: Some(made.target_hrc),
            ready: made.ready,
            clay: made.clay,
            stations: Some(made.stations),
            checks: Some(made.checks),
        }
    }
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
    /// Id that an undo of it uses.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub id: Option<Uuid>,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// When by the clock of the device, where that was told.
    #[serde(
        default,
        skip_serializing_if = "Option::is_none",
        with = "time::serde::rfc3339::option"
    )]
    pub device_at: Option<OffsetDateTime>,
    /// What.
    #[schema(value_type = Happening)]
    pub happening: serde_json::Value,
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
    /// Names of stations, steels, bars, methods and trials that the shop had already: its own were left as
    /// they are.
    pub known: Vec<String>,
    /// What the shop it came from had that stands in no such file.
    pub left_out: LeftOut,
}

/// What the ids of a file are in the shop.
#[derive(Default)]
struct Ids {
    stations: HashMap<Uuid, Uuid>,
    steels: HashMap<String, SteelMade>,
    bars: HashMap<Uuid, BarMade>,
    /// Nothing of them was refused: what is missing here is missing in the file.
    complete: bool,
}

impl Ids {
    /// A steel by its designation or its id in the file.
    fn steel(&self, text: &str) -> Option<SteelMade> {
        let table = || {
            let key = Steel::built_in(text)?.key.clone();
            Some(SteelMade::BuiltIn { key })
        };
        self.steels.get(text).cloned().or_else(table)
    }

    /// A steel as it was kept with a firing, under its id in the shop.
    fn kept(&self, steel: &SteelMade) -> SteelMade {
        match steel {
            SteelMade::House {
                id,
                name,
                analysis,
                estimate,
            } => match self.steels.get(&id.to_string()) {
                Some(SteelMade::House { id, .. }) => SteelMade::House {
                    id: *id,
                    name: name.clone(),
                    analysis: *analysis,
                    estimate: *estimate,
                },
                _ => steel.clone(),
            },
            built_in => built_in.clone(),
        }
    }
}

fn reference(steel: &SteelMade) -> SteelRef {
    match steel {
        SteelMade::BuiltIn { key } => SteelRef::BuiltIn(key.clone()),
        SteelMade::House { id, .. } => SteelRef::House(*id),
    }
}

/// Faults of a steel as it was kept.
fn check_kept(steel: &SteelMade) -> Result<(), Faults> {
    match steel {
        SteelMade::BuiltIn { key } if Steel::built_in(key).is_none() => {
            Err(Faults::one("steel", "This is not a steel of the table."))
        }
        SteelMade::BuiltIn { .. } => Ok(()),
        SteelMade::House { analysis, .. } => Analysis::parse(&elements(analysis)).map(|_| ()),
    }
}

impl MadeFile {
    /// The blade as it went into the fire, with what is missing as the blade of the file has it. The checks in
    /// force are None where the file does not say.
    fn check(&self, of: &NewBlade, as_is: &MadeOf, ids: &Ids) -> Result<(Made, bool), Faults> {
        let mut c = Checker::default();
        let blade = match &self.blade {
            Some(b) => c.take(
                Geometry::parse(&BladeDraft {
                    shape: Some(b.shape.id().to_owned()),
                    length_mm: Some(b.length_mm),
                    width_mm: Some(b.width_mm),
                    spine_mm: Some(b.spine_mm),
                    edge_mm: Some(b.edge_mm),
                    grind: serde_json::to_value(b.grind)
                        .ok()
                        .and_then(|g| g.as_str().map(str::to_owned)),
                })
                .map_err(|f| f.under("blade")),
            ),
            None => Some(of.geometry),
        };
        let mark = c.take(text(
            "mark",
            self.mark.as_ref().unwrap_or(&of.mark),
            (1, 20),
        ));
        let name = c.take(text(
            "name",
            self.name.as_ref().unwrap_or(&of.name),
            (1, 80),
        ));
        for steel in self.steel.iter().chain(
            self.bar
                .iter()
                .flat_map(|b| b.layers.iter().map(|l| &l.steel)),
        ) {
            c.take(check_kept(steel));
        }
        if let Some(analysis) = self.bar.as_ref().and_then(|b| b.analysis.as_ref()) {
            c.take(Analysis::parse(&elements(analysis)).map_err(|f| f.under("bar.analysis")));
        }
        let target = self.target_hrc.unwrap_or(of.target_hrc);
        c.take(Hrc::check("target_hrc[0]", target.0));
        c.take(Hrc::check("target_hrc[1]", target.1));
        let checks = self.checks.as_ref().map(|checks| {
            for (id, check) in checks.all() {
                let points = check.points.points();
                let good = Calibration::parse(points, check.against.scale());
                c.take(good.map_err(|f| f.under(&format!("checks.{id}"))));
            }
            checks.with_stations(&ids.stations)
        });
        let bar = self.bar.as_ref().map(|bar| BarMade {
            id: ids.bars.get(&bar.id).map_or(bar.id, |b| b.id),
            layers: bar
                .layers
                .iter()
                .map(|l| LayerMade {
                    role: l.role,
                    steel: ids.kept(&l.steel),
                })
                .collect(),
            ..bar.clone()
        });
        // An older file says nothing of the steel: then it says nothing of the bar either.
        let made_of = match &self.steel {
            Some(steel) => MadeOf {
                steel: ids.kept(steel),
                bar,
            },
            None => as_is.clone(),
        };
        let moved = |id: Option<Uuid>| ids.stations.get(&id?).copied();
        let stations = self.stations.unwrap_or_default();
        let told = checks.is_some();
        let made = blade.zip(mark).zip(name).map(|((blade, mark), name)| Made {
            mark,
            name,
            blade,
            of: made_of,
            purpose: self.purpose.unwrap_or(of.purpose),
            target_hrc: target,
            ready: self.ready.clone(),
            clay: self.clay.clone(),
            stations: Stations {
                kiln: moved(stations.kiln),
                oven: moved(stations.oven),
            },
            checks: checks.unwrap_or_default(),
        });
        if let Some(made) = &made {
            c.take(made.work());
        }
        c.finish(made.map(|made| (made, told)))
    }
}

/// The events of a firing under new ids. An older file undoes by position: what it took back is the event
/// that confirmed that beat last.
fn events_of(files: &[EventFile], shift: Duration) -> Result<Vec<Past>, Faults> {
    let mut ids: HashMap<Uuid, Uuid> = HashMap::new();
    let mut confirmed: HashMap<u64, Uuid> = HashMap::new();
    let mut past: Vec<Past> = Vec::with_capacity(files.len());
    for (i, file) in files.iter().enumerate() {
        let bad = |message: String| Faults::one(format!("events[{i}].happening"), message);
        let at = file.at + shift;
        let id = v7_at(at, i);
        if let Some(known) = file.id {
            ids.insert(known, id);
        }
        let what = &file.happening;
        let beat = what.get("beat").and_then(serde_json::Value::as_u64);
        let what = match (what.get("kind").and_then(|k| k.as_str()), beat) {
            (Some("undo"), Some(beat)) => {
                let event = confirmed.get(&beat).copied();
                let event =
                    event.ok_or_else(|| bad("There is nothing to undo here.".to_owned()))?;
                Happening::Undo { event }
            }
            (kind, beat) => {
                if let (Some("confirm"), Some(beat)) = (kind, beat) {
                    confirmed.insert(beat, id);
                }
                serde_json::from_value(what.clone()).map_err(|e| bad(e.to_string()))?
            }
        };
        let what = match what {
            Happening::Undo { event } => Happening::Undo {
                event: ids.get(&event).copied().unwrap_or(event),
            },
            other => other,
        };
        past.push(Past {
            id,
            what,
            at,
            device_at: file.device_at.map(|at| at + shift),
        });
    }
    Ok(past)
}

/// A blade that was checked.
struct Ready {
    new: NewBlade,
    entered_at: OffsetDateTime,
    finished_at: Option<OffsetDateTime>,
    clay: Option<ClayFile>,
    plans: Vec<ReadyPlan>,
    edits: Vec<BladeEdit>,
}

struct ReadyPlan {
    plan: CorePlan,
    firing: Option<ReadyFiring>,
}

/// A firing that was checked.
struct ReadyFiring {
    started_at: OffsetDateTime,
    /// Made anew where the file has none.
    prediction: Option<Prediction>,
    made: Made,
    /// The file says which checks were in force.
    has_checks: bool,
    events: Vec<Past>,
    readings: Vec<(NewReading, Option<OffsetDateTime>)>,
    findings: Vec<(NewFinding, Option<OffsetDateTime>)>,
}

/// A new id that says when and sorts by it; those of one moment by their place in the file.
fn v7_at(at: OffsetDateTime, place: usize) -> Uuid {
    let millis = u64::try_from(at.unix_timestamp_nanos() / 1_000_000).unwrap_or(0);
    let mut random = [0; 10];
    random.copy_from_slice(&Uuid::now_v7().as_bytes()[6..]);
    // Twelve bits come before the random ones.
    let place = u16::try_from(place % 4096).unwrap_or(0).to_be_bytes();
    random[..2].copy_from_slice(&place);
    uuid::Builder::from_unix_timestamp_millis(millis, &random).into_uuid()
}

/// Gives every station of a plan its new id.
fn with_stations(plan: &CorePlan, ids: &Ids) -> Result<CorePlan, Faults> {
    let mut c = Checker::default();
    let mut steps = plan.steps().to_vec();
    for (i, step) in steps.iter_mut().enumerate() {
        if let Step::Austenitize { station_id, .. } | Step::Temper { station_id, .. } = step
            && let Some(id) = station_id
        {
            match ids.stations.get(id) {
                Some(to) => *id = *to,
                None if !ids.complete => *station_id = None,
                None => {
                    let field = format!("steps[{i}].station_id");
                    c.refuse(field, "This is no station of the file.");
                }
            }
        }
    }
    c.finish(Some(CorePlan::stored(steps)))
}

impl BladeFile {
    fn check(&self, ids: &Ids, shift: Duration) -> Result<Ready, Faults> {
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
        let bar = self.bar_id.and_then(|id| {
            let known = ids.bars.get(&id).cloned();
            if known.is_none() && ids.complete {
                c.refuse("bar_id", "This is no bar of the file.");
            }
            known
        });
        let steel = ids.steel(&self.steel);
        if steel.is_none() {
            c.refuse(
                "steel",
                format!(
                    "{} is not a steel of the table nor of this file.",
                    self.steel
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
            ) => Some((
                NewBlade {
                    mark,
                    name,
                    steel: reference(&steel),
                    geometry,
                    purpose,
                    target_hrc: (low.value(), high.value()),
                    ready: self.ready.clone(),
                    bar_id: bar.as_ref().map(|b| b.id),
                    note,
                },
                MadeOf { steel, bar },
            )),
            _ => None,
        };
        let (new, made_of) = c.finish(parts)?;
        let mut c = Checker::default();
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
            let checked = file.check(ids, shift, &new, &made_of);
            plans.extend(c.take(checked.map_err(|f| f.under(&fields))));
        }
        let edits = self.edits.iter().enumerate().map(|(i, e)| BladeEdit {
            id: v7_at(e.at + shift, i),
            at: e.at + shift,
            by: e.by.clone(),
            changed: e.changed.clone(),
        });
        c.finish(Some(Ready {
            new,
            clay: self.clay.clone(),
            entered_at: self.entered_at + shift,
            finished_at: self.finished_at.map(|at| at + shift),
            plans,
            edits: edits.collect(),
        }))
    }
}

impl BarFile {
    fn check(&self, to: Uuid, ids: &Ids) -> Result<(NewBar, BarMade), Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 60)));
        let note = c.take(text("note", &self.note, (0, 500)));
        c.take(self.size.check().map_err(|f| f.under("size")));
        c.take(edge_of(&self.layers));
        let analysis = self
            .analysis
            .as_ref()
            .and_then(|a| c.take(Analysis::parse(a).map_err(|f| f.under("analysis"))));
        let steel = ids.steel(&self.steel);
        if steel.is_none() {
            c.refuse(
                "steel",
                "This is not a steel of the table nor of this file.",
            );
        }
        let (mut layers, mut made) = (Vec::new(), Vec::new());
        for (i, layer) in self.layers.iter().enumerate() {
            let Some(steel) = ids.steel(&layer.steel) else {
                c.refuse(
                    format!("layers[{i}].steel"),
                    "This is not a steel of the table nor of this file.",
                );
                continue;
            };
            layers.push(LayerDraft {
                role: layer.role,
                steel: steel.key(),
            });
            if layer.role != Role::Edge {
                let role = layer.role;
                made.push(LayerMade { role, steel });
            }
        }
        let parts = name.zip(note).zip(steel).map(|((name, note), steel)| {
            let new = NewBar {
                name: name.clone(),
                steel: reference(&steel),
                layers,
                size: self.size,
                condition: self.condition,
                analysis,
                note,
            };
            let made = BarMade {
                id: to,
                name,
                analysis,
                condition: self.condition,
                layers: made,
            };
            (new, made)
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
    fn check(&self, ids: &Ids) -> Result<(String, String, CorePlan), Faults> {
        let mut c = Checker::default();
        let name = c.take(text("name", &self.name, (1, 80)));
        let note = c.take(text("note", &self.note, (0, 500)));
        let plan = c.take(drafts_of(&self.steps).and_then(|d| CorePlan::parse(&d)));
        let parts = name.zip(note).zip(plan);
        let moved = parts.map(|((n, t), p)| Ok((n, t, with_stations(&p, ids)?)));
        c.finish(moved)?
    }
}

impl PlanFile {
    fn check(
        &self,
        ids: &Ids,
        shift: Duration,
        of: &NewBlade,
        as_is: &MadeOf,
    ) -> Result<ReadyPlan, Faults> {
        let drafts = drafts_of(&self.steps)?;
        let stations = &ids.stations;
        let plan = with_stations(&CorePlan::parse(&drafts)?, ids)?;
        let Some(file) = &self.firing else {
            return Ok(ReadyPlan { plan, firing: None });
        };
        let mut c = Checker::default();
        let made = file.made.check(of, as_is, ids);
        let made = c.take(made.map_err(|f| f.under("firing.made")));
        let events = c.take(events_of(&file.events, shift).map_err(|f| f.under("firing")));
        let events = events.unwrap_or_default();
        let past: Vec<rules::Event> = events
            .iter()
            .map(|e| rules::Event {
                id: e.id,
                what: e.what.clone(),
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
        let length_mm = made
            .as_ref()
            .map_or(of.geometry.length_mm, |(made, _)| made.blade.length_mm);
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
            let tester_id = r.tester_id.and_then(|id| stations.get(&id).copied());
            if tester_id.is_none() && r.tester_id.is_some() && ids.complete {
                c.refuse(
                    format!("{field}.tester_id"),
                    "This is no station of the file.",
                );
            }
            if let (Some(values), Some(note), Some(stage)) = (values, note, stage) {
                let new = NewReading {
                    id: v7_at(r.taken_at + shift, i),
                    stage,
                    values,
                    tester_id,
                    note,
                    taken_at: r.taken_at + shift,
                    taken: r.taken.clone(),
                };
                readings.push((new, r.withdrawn.then_some(r.taken_at + shift)));
            }
        }
        let mut findings = Vec::new();
        for (i, f) in file.findings.iter().enumerate() {
            let field = format!("firing.findings[{i}]");
            let good = c.take(f.found.check().map_err(|e| e.under("found").under(&field)));
            let note = c.take(text("note", &f.note, (0, 500)).map_err(|e| e.under(&field)));
            if let (Some(()), Some(note)) = (good, note) {
                let new = NewFinding {
                    id: v7_at(f.found_at + shift, i),
                    found: f.found.clone(),
                    note,
                    found_at: f.found_at + shift,
                };
                findings.push((new, f.withdrawn.then_some(f.found_at + shift)));
            }
        }
        let ready = made.map(|(made, has_checks)| ReadyPlan {
            plan,
            firing: Some(ReadyFiring {
                started_at: file.started_at + shift,
                prediction: file.prediction.clone().map(|p| p.with_stations(stations)),
                made,
                has_checks,
                events,
                readings,
                findings,
            }),
        });
        c.finish(ready)
    }
}

/// Percent by symbol.
fn elements(analysis: &Analysis) -> BTreeMap<String, f64> {
    serde_json::to_value(analysis)
        .and_then(serde_json::from_value)
        .unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ids_of_one_moment_sort_as_they_stand_in_the_file() {
        let at = OffsetDateTime::from_unix_timestamp(1_764_000_000).unwrap();
        let ids: Vec<Uuid> = (0..400).map(|i| v7_at(at, i)).collect();
        assert!(ids.is_sorted());
        assert!(v7_at(at + Duration::milliseconds(1), 0) > ids[399]);
        let (seconds, _) = ids[0].get_timestamp().unwrap().to_unix();
        assert_eq!((ids[0].get_version_num(), seconds), (7, 1_764_000_000));
    }
}
