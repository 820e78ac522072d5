//! One recorded result, and the features that say which other results it resembles.

use crate::material::medium::Medium;
use crate::process::operator::Operator;
use crate::record::reading::When;
use crate::simulation::physics::QuenchSlopes;
use uuid::Uuid;

/// How far the hardening heat of a hardness is known.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct HeatSpread {
    /// An eye or a magnet judged it.
    pub by_eye: bool,
    /// What it is off each time against a kiln that was never checked, as a share.
    pub lasting: f64,
    /// What it was off this once, one standard deviation, HRC.
    pub once_hrc: f64,
    /// What of that no straight line over the heat tells, HRC.
    pub rest_hrc: f64,
    /// What a temper that was judged by its colour was off this once, one standard deviation, HRC.
    pub temper_once_hrc: f64,
}

/// What a hardness depends on besides physics.
#[derive(Debug, Clone, PartialEq)]
pub struct Features {
    /// When it was, or will be, read.
    pub when: When,
    /// The blade; None for one not made yet.
    pub blade: Option<Uuid>,
    /// Key of the steel.
    pub steel: String,
    /// How far physics may be off for this steel before any record, one standard deviation, HRC.
    pub steel_spread_hrc: f64,
    /// The bar, when known.
    pub bar: Option<Uuid>,
    /// Kiln or forge, or the eye that judged the heat, when known.
    pub kiln: Option<Uuid>,
    /// Tempering oven, when known.
    pub oven: Option<Uuid>,
    /// Hardness tester, when known.
    pub tester: Option<Uuid>,
    /// What it is quenched in first.
    pub tank: Option<Medium>,
    /// Who quenched, when known.
    pub operator: Option<Operator>,
    /// Hottest temper, °C; None before tempering.
    pub temper_c: Option<f64>,
    /// Spine thickness, mm.
    pub spine_mm: f64,
    /// How this hardness moves when the kiln runs hotter, HRC/°C.
    pub per_kiln_c: f64,
    /// How far its heat is known.
    pub heat: HeatSpread,
    /// How this hardness moves when the oven runs hotter, HRC/°C.
    pub per_oven_c: f64,
    /// How it moves with what is not known well of the steel and its quench.
    pub quench: QuenchSlopes,
}

impl Features {
    /// The same with nothing unknown of its heat.
    #[must_use]
    pub fn with_heat_known(&self) -> Self {
        Self {
            per_kiln_c: 0.0,
            heat: HeatSpread {
                once_hrc: 0.0,
                rest_hrc: 0.0,
                ..self.heat
            },
            ..self.clone()
        }
    }
}

/// A result: what physics said and what was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Record {
    /// Its features.
    pub features: Features,
    /// Physics for what was actually done, HRC.
    pub physics_hrc: f64,
    /// Mean of the readings, HRC.
    pub measured_hrc: f64,
    /// How many readings the mean is of.
    pub readings: usize,
    /// Only known to lie between these, HRC: one file skates, the next bites. `measured_hrc` is then
    /// the middle.
    pub bracket_hrc: Option<(f64, f64)>,
}

impl Record {
    /// What physics got wrong, HRC.
    #[must_use]
    pub fn residual(&self) -> f64 {
        self.measured_hrc - self.physics_hrc
    }
}
