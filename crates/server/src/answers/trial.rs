//! A coupon trial of a steel without a paper.

use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::material::reclaimed::Measured;
use vatten_core::material::salvage::Salvage;
use vatten_core::record::trial::Entry;
use vatten_store::trial as store;

/// A trial.
#[derive(Debug, Clone, PartialEq, serde::Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Trial {
    /// Id.
    pub id: Uuid,
    /// What the steel is called until more is known.
    pub name: String,
    /// What it was.
    pub was: Salvage,
    /// What was measured of it, percent by weight by symbol.
    pub measured: Measured,
    /// How thick its coupons are, mm.
    pub thickness_mm: f64,
    /// What was done and seen, in order.
    pub entries: Vec<Entry>,
    /// The house steel it became.
    pub steel_id: Option<Uuid>,
    /// Goes up with every change.
    pub version: i64,
    /// When it began.
    #[serde(with = "time::serde::rfc3339")]
    pub created_at: OffsetDateTime,
}

impl From<store::Trial> for Trial {
    fn from(row: store::Trial) -> Self {
        Self {
            id: row.id,
            name: row.name,
            was: row.piece.was,
            measured: row.piece.measured,
            thickness_mm: row.piece.thickness.value(),
            entries: row.entries,
            steel_id: row.steel_id,
            version: row.version,
            created_at: row.created_at,
        }
    }
}
