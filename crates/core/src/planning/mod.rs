//! The day: several blades, few stations, one or two pairs of hands. What is to be done, the rules that it keeps, and a good
//! order of it, found by a search with a budget in passes: the same question has the same answer.

pub mod activities;
mod attempt;
pub mod chance;
pub mod changes;
pub mod check;
pub mod cure;
pub mod day;
pub mod floor;
pub mod genome;
mod grips;
pub mod hands;
pub mod heat_line;
pub mod kept;
pub mod known;
pub mod layout;
pub mod lengths;
mod load;
pub mod moves;
pub mod plan;
pub mod problem;
pub mod progress;
pub mod rates;
mod room;
pub mod score;
pub mod search;
pub mod shop;
pub mod start;
pub mod tasks;
