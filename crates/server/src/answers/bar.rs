//! A bar in stock.

use crate::answers::answer;
use uuid::Uuid;
use vatten_core::material::analysis::Analysis;
use vatten_core::prediction::laminate::LayerDraft;
use vatten_core::process::bar::{BarSize, Condition};
use vatten_store::bar as store;

answer! {
    /// A bar in stock.
    pub struct Bar from store::Bar {
        /// Id.
        pub id: Uuid,
        /// What it is called in the shop.
        pub name: String,
        /// Key of a built-in steel, or id of one of the shop's own: that of the edge.
        pub steel: String,
        /// Layers, the edge among them; empty for a bar of one steel.
        pub layers: Vec<LayerDraft>,
        /// Size.
        pub size: BarSize,
        /// How it came.
        pub condition: Condition,
        /// The mill's own analysis.
        pub analysis: Option<Analysis>,
        /// Remark.
        pub note: String,
        /// Blades made from it.
        pub blades: i64,
        /// Goes up with every change.
        pub version: i64,
    }
}
