//! What a shop has taught of outcomes other than hardness.

use super::bias_model::{self, BiasModel, Traits};
use crate::geometry::clay::Clay;
use crate::learning::clamp::ClampModel;
use crate::learning::crack;
use crate::learning::warp::WarpModel;
use crate::material::medium::Medium;
use crate::material::steel::Steel;
use crate::process::operator::Operator;
use crate::process::plan::Plan;
use crate::simulation::hamon::Moved;
use crate::simulation::physics::stages;

/// What a shop has taught of outcomes other than hardness.
#[derive(Debug, Clone)]
pub struct BiasModels {
    /// Cracks.
    pub crack: crack::CrackModel,
    /// What those were learned from.
    pub cracks: Vec<crack::Seen>,
    /// How much further a blade curves towards the spine, mm as on 240 mm of length.
    pub sori: BiasModel,
    /// How large each cause of a sag sideways is.
    pub warp: WarpModel,
    /// What clamps in the temper take out.
    pub clamp: ClampModel,
    /// How much higher the line comes out than simulated, mm.
    pub line: BiasModel,
    /// Where a line is found that the simulation does not show, as a share of the section.
    pub unseen: BiasModel,
    /// How much wider its band comes out: logarithm.
    pub clarity: BiasModel,
    /// How much finer the grain of broken coupons is, ASTM numbers.
    pub grain: BiasModel,
    /// Who is taken to quench the next blade.
    pub operator: Option<Operator>,
}

impl Default for BiasModels {
    fn default() -> Self {
        Self {
            crack: crack::CrackModel::default(),
            cracks: Vec::new(),
            sori: BiasModel::unknown(bias_model::SORI),
            warp: WarpModel::fit(Vec::new()),
            clamp: ClampModel::default(),
            line: BiasModel::unknown(bias_model::LINE),
            unseen: BiasModel::unknown(bias_model::UNSEEN),
            clarity: BiasModel::unknown(bias_model::CLARITY),
            grain: BiasModel::unknown(bias_model::GRAIN),
            operator: None,
        }
    }
}

impl BiasModels {
    /// What a plan shares with the shop's other quenches of this steel.
    #[must_use]
    pub fn traits(&self, plan: &Plan, steel: &Steel, clay: &Clay) -> Traits {
        Traits {
            steel: steel.key.clone(),
            medium: stages(plan).first().map_or(Medium::StillAir, |s| s.medium),
            clay: (!clay.is_bare()).then(|| clay.mix()),
            operator: self.operator.clone(),
        }
    }

    /// How they move its line.
    #[must_use]
    pub fn line_moved(&self, traits: &Traits) -> Moved {
        let (line, unseen) = (self.line.shift(traits), self.unseen.shift(traits));
        Moved {
            by_mm: line.by,
            deviation_mm: line.deviation,
            wider: self.clarity.shift(traits).by.exp(),
            unseen: unseen.by,
            unseen_deviation: unseen.deviation,
        }
    }
}
