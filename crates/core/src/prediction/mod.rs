//! Physics corrected by the shop's records, with intervals, reasons and warnings.

pub mod laminate;
pub mod made;
pub mod outcome;
pub mod over_heat;
pub mod predict;
pub mod preparation;
pub mod reason;
pub mod recommendation;
pub mod rung;
pub mod subject;
pub mod warning;

pub use predict::{
    CheckUsed, Hardness, Levels, OutOfReach, Prediction, RetainedAustenite, StationNames,
    TemperFor, Through, checks_used, predict, temper_for,
};
