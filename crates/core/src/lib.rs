//! The heat-treatment computation and the rules of the job.
//!
//! No I/O, no clock, no database, no web types. Inside: °C, seconds, percent by weight; millimetres
//! and HRC where the name says so. Input is checked at the edge into types that cannot be wrong;
//! nothing returns NaN.

pub mod analysis;
pub mod bar;
pub mod bend;
pub mod blade;
pub mod check;
pub mod clay;
pub mod crack;
pub mod critical;
pub mod decarburization;
pub mod dissolution;
pub mod fault;
pub mod film;
pub mod finding;
pub mod firing;
pub mod fit;
pub mod form;
pub mod grain;
pub mod hamon;
pub mod hardness;
pub mod heat;
pub mod heating;
pub mod help;
pub mod import;
pub mod interpolate;
pub mod interval;
pub mod laminate;
pub mod learn;
pub mod map;
pub mod medium;
pub mod method;
pub mod next;
pub mod outcome;
pub mod outline;
pub mod physics;
pub mod plan;
pub mod prediction;
pub mod probe;
pub mod purpose;
pub mod quench;
pub mod reading;
pub mod ready;
pub mod school;
pub mod shape;
pub mod steel;
pub mod temper;
pub mod thermal;
pub mod transformation;
pub mod trial;
pub mod units;
pub mod warning;
pub mod window;
pub mod work;
