//! What a shop has taught of outcomes other than hardness.

use super::habit::{self, Habit, Traits};
use crate::learning::crack;
use crate::material::medium::Medium;
use crate::material::steel::Steel;
use crate::process::hand::Hand;
use crate::process::plan::Plan;
use crate::simulation::hamon::Moved;
use crate::simulation::physics::stages;

/// What a shop has taught of outcomes other than hardness.
#[derive(Debug, Clone)]
pub struct Habits {
    /// Cracks.
    pub crack: crack::Model,
    /// What those were learned from.
    pub cracks: Vec<crack::Seen>,
    /// How uneven this smith's quenches are: logarithm against [`UNEVENNESS_PERCENT`].
    pub sag: Habit,
    /// How much higher the line comes out than simulated, mm.
    pub line: Habit,
    /// Where a line is found that the simulation does not show, as a share of the section.
    pub unseen: Habit,
    /// How much wider its band comes out: logarithm.
    pub clarity: Habit,
    /// How much finer the grain of broken coupons is, ASTM numbers.
    pub grain: Habit,
    /// Who is taken to quench the next blade.
    pub hand: Option<Hand>,
}

/// Unevenness of a quench before any record: one standard deviation of the difference between the
/// faces, in percent of cooling.
pub const UNEVENNESS_PERCENT: f64 = 8.0;

impl Default for Habits {
    fn default() -> Self {
        Self {
            crack: crack::Model::default(),
            cracks: Vec::new(),
            sag: Habit::unknown(habit::SAG),
            line: Habit::unknown(habit::LINE),
            unseen: Habit::unknown(habit::UNSEEN),
            clarity: Habit::unknown(habit::CLARITY),
            grain: Habit::unknown(habit::GRAIN),
            hand: None,
        }
    }
}

impl Habits {
    /// What a plan shares with the shop's other quenches of this steel.
    #[must_use]
    pub fn traits(&self, plan: &Plan, steel: &Steel) -> Traits {
        Traits {
            steel: steel.key.clone(),
            medium: stages(plan).first().map_or(Medium::StillAir, |s| s.medium),
            hand: self.hand.clone(),
        }
    }

    /// How they move its line.
    #[must_use]
    pub fn line_moved(&self, of: &Traits) -> Moved {
        let (line, unseen) = (self.line.shift(of), self.unseen.shift(of));
        Moved {
            by_mm: line.by,
            deviation_mm: line.deviation,
            wider: self.clarity.shift(of).by.exp(),
            unseen: unseen.by,
            unseen_deviation: unseen.deviation,
        }
    }
}
