//! The parts of an exchange file. `docs/format.md` describes them.

use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::geometry::blade::Blade as Geometry;
use vatten_core::geometry::clay::ClayDraft;
use vatten_core::material::purpose::Purpose;
use vatten_core::planning::shop::ShopHours;
use vatten_core::prediction::Prediction;
use vatten_core::prediction::laminate::LayerDraft;
use vatten_core::prediction::made::{BarMade, Made, SteelMade};
use vatten_core::process::bar::{BarSize, Condition};
use vatten_core::process::calibration::{Against, Corrections};
use vatten_core::process::capacity::Capacity;
use vatten_core::process::plan::Stations;
use vatten_core::process::ready::Ready;
use vatten_core::process::station::StationKind;
use vatten_core::record::cooling_curve::MeasuredBath;
use vatten_core::record::finding::Finding;
use vatten_core::record::ladder::{Along, Rung, Treatment};
use vatten_core::record::reading::Taken;
use vatten_core::record::trial::{Entry, Estimate};

/// Name of the format.
pub const FORMAT: &str = "vatten-exchange";
/// Its version.
pub const VERSION: u32 = 1;

/// What a shop has that no exchange file holds.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
    pub stations: Vec<StationFile>,
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
    /// Ladders on steel that is known.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ladders: Vec<LadderFile>,
    /// Who is in the shop when, and what counts on its days.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<ShopHours>,
    /// The blades on the days to come, in the order in which they were put there.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub day: Vec<OnDayFile>,
    /// What the shop has that stands in no such file.
    #[serde(default, skip_serializing_if = "is_default")]
    pub left_out: LeftOut,
    /// Blades, oldest first.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Vec<BladeFile>))]
    pub blades: B,
}

/// A blade on a day to come.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct OnDayFile {
    /// Its mark.
    pub mark: String,
    /// Not before.
    #[serde(with = "time::serde::rfc3339")]
    pub not_before: OffsetDateTime,
    /// Wanted by.
    #[serde(
        default,
        with = "time::serde::rfc3339::option",
        skip_serializing_if = "Option::is_none"
    )]
    pub due_at: Option<OffsetDateTime>,
}

/// A bar in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct MethodFile {
    /// Name.
    pub name: String,
    /// Why.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// Steps, as in the API.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<vatten_core::process::step::Step>))]
    pub steps: Vec<serde_json::Value>,
}

/// A coupon trial in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct TrialFile {
    /// Name.
    pub name: String,
    /// What it was; an unknown bar when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<vatten_core::material::salvage::Salvage>))]
    pub was: Option<String>,
    /// What was measured of it, percent by weight by symbol.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub measured: BTreeMap<String, f64>,
    /// How thick its coupons are, 1 to 20 mm; 5 when left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub thickness_mm: Option<f64>,
    /// What was done and seen.
    #[serde(default)]
    pub entries: Vec<Entry>,
    /// The house steel it became.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub steel_id: Option<Uuid>,
}

/// A ladder in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct LadderFile {
    /// Name.
    pub name: String,
    /// Designation of a built-in steel or id of a house steel.
    pub steel: String,
    /// What differs from rung to rung.
    pub along: Along,
    /// What does not.
    pub treatment: Treatment,
    /// The coupons.
    pub rungs: Vec<Rung>,
    /// When it began.
    #[serde(with = "time::serde::rfc3339")]
    pub began_at: OffsetDateTime,
}

/// A house steel in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
    /// What it took of that bar, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cut_mm: Option<f64>,
    /// Geometry.
    #[cfg_attr(feature = "schema", schema(value_type = Object))]
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
    pub ready: Ready,
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
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
#[derive(Debug, Clone, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
    /// Shape.
    pub shape: String,
    /// Length.
    pub length_mm: f64,
    /// Width.
    pub width_mm: f64,
    /// Thickness of the back.
    pub spine_mm: f64,
    /// Thickness of the edge.
    pub edge_mm: f64,
    /// Grind.
    pub grind: String,
}

/// A plan in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PlanFile {
    /// Steps, as in the API.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<vatten_core::process::step::Step>))]
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
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
    pub ready: Ready,
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
            steel: Some(made.material.steel),
            bar: made.material.bar,
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
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
    /// What; `happening` in older files.
    #[cfg_attr(feature = "schema", schema(value_type = vatten_core::record::firing::FiringEvent))]
    #[serde(alias = "happening")]
    pub what: serde_json::Value,
}

fn is_plain(taken: &Taken) -> bool {
    *taken == Taken::default()
}

/// Readings in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
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

/// A station in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct StationFile {
    /// Id that steps and readings use.
    pub id: Uuid,
    /// What it is.
    pub kind: StationKind,
    /// Name.
    pub name: String,
    /// Of a tank: the medium in it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub medium: Option<String>,
    /// Of a tank: how much, l.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub litres: Option<f64>,
    /// Of a tank: when what is in it was put in.
    #[serde(
        default,
        with = "time::serde::rfc3339::option",
        skip_serializing_if = "Option::is_none"
    )]
    pub filled_at: Option<OffsetDateTime>,
    /// Of a tank: what it does, where that was measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub curve: Option<MeasuredBath>,
    /// What it takes, as far as the shop says.
    #[serde(default, skip_serializing_if = "is_default")]
    pub capacity: Capacity,
    /// Remark.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// No longer used.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub retired: bool,
    /// How it was checked, oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub checks: Vec<CheckFile>,
}

/// A check of a station in an exchange file.
#[derive(Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CheckFile {
    /// What it was checked against.
    pub against: Against,
    /// What it showed and what really was, °C or HRC.
    pub points: Vec<[f64; 2]>,
    /// Remark.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    pub done_at: OffsetDateTime,
    /// Withdrawn: kept, but not used.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub withdrawn: bool,
}
