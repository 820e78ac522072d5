//! What is treated and quenched in: analyses, steels and their critical temperatures, what dissolves, how
//! hard martensite is and what a temper takes, media, and what a blade is for.

pub mod analysis;
pub mod clay_mix;
pub mod critical;
pub mod designation;
pub mod dissolution;
pub mod equilibrium;
pub mod hardness;
pub mod medium;
pub mod oil;
pub mod properties;
pub mod purpose;
pub mod reclaimed;
pub mod salvage;
pub mod steel;
pub mod temper;
