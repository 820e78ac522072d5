//! A blade as the rack and its own place show it.

use crate::answers::answer;
use time::OffsetDateTime;
use uuid::Uuid;
use vatten_core::process::ready::Ready;
use vatten_core::record::firing::State;
use vatten_store::blade as store;

answer! {
    /// A blade with what the rack shows of it.
    pub struct BladeView from store::BladeRow {
        /// Id.
        pub id: Uuid,
        /// The mark it is known by in the shop.
        pub mark: String,
        /// Name.
        pub name: String,
        /// Key of a built-in steel, or id of one of the shop's own.
        pub steel: String,
        /// Its name.
        pub steel_name: String,
        /// Shape preset.
        pub shape: String,
        /// Heel to tip, mm.
        pub length_mm: f64,
        /// Spine to edge, mm.
        pub width_mm: f64,
        /// Spine thickness, mm.
        pub spine_mm: f64,
        /// Edge thickness, mm.
        pub edge_mm: f64,
        /// Grind.
        pub grind: String,
        /// Purpose.
        pub purpose: String,
        /// Wanted hardness, lowest, HRC.
        pub target_low_hrc: f64,
        /// Wanted hardness, highest, HRC.
        pub target_high_hrc: f64,
        /// Remark.
        pub note: String,
        /// Off the rack since.
        #[serde(with = "time::serde::rfc3339::option")]
        pub finished_at: Option<OffsetDateTime>,
        /// Goes up with every change.
        pub version: i64,
        /// When it was entered.
        #[serde(with = "time::serde::rfc3339")]
        pub created_at: OffsetDateTime,
        /// The latest plan, if any.
        pub plan_id: Option<Uuid>,
        /// That plan is frozen.
        pub plan_frozen: bool,
        /// The latest firing, if any.
        pub firing_id: Option<Uuid>,
        /// Where that firing stands.
        pub firing_state: Option<State>,
        /// That firing goes on.
        pub firing_open: bool,
        /// Hard and untempered since.
        #[serde(with = "time::serde::rfc3339::option")]
        pub untempered_since: Option<OffsetDateTime>,
        /// Outline for drawing, mm.
        pub outline: Vec<[f64; 2]>,
        /// What is known of it beyond its sizes.
        pub ready: Ready,
        /// The bar it is made from.
        pub bar_id: Option<Uuid>,
        /// What it took of that bar, mm.
        pub cut_mm: Option<f64>,
    }
}

answer! {
    /// A blade as it is found by its mark.
    pub struct Marked from store::Marked {
        /// Id.
        pub id: Uuid,
        /// Mark.
        pub mark: String,
        /// Name.
        pub name: String,
        /// Name of its steel.
        pub steel_name: String,
    }
}
