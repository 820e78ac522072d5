//! What speaks for a crack in the quench or before the temper.

use nalgebra::SVector;
use serde::{Deserialize, Serialize};

/// How many causes are counted, with the constant.
pub const CAUSES: usize = 9;

/// What speaks for a crack. Each is zero for a harmless quench.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Causes {
    /// Carbon dissolved above 0.55 %, in tenths of a percent.
    pub carbon: f64,
    /// Martensite start below 220 °C, in tens of degrees.
    pub low_start: f64,
    /// Severity around the martensite start: logarithm of the heat transfer against slow oil's.
    pub severity: f64,
    /// A steel that hardens in oil or air put into water: 1.
    pub wrong_medium: f64,
    /// Logarithm of spine over edge thickness, less 1.5: thin beside thick.
    pub section: f64,
    /// Coarse scratches or sharp corners left: 0 to 2.
    pub raisers: f64,
    /// Heat above the window, in tens of degrees.
    pub overheated: f64,
    /// Logarithm of 1 + hours left untempered.
    pub untempered: f64,
}

impl Causes {
    pub(crate) fn vector(&self) -> SVector<f64, CAUSES> {
        SVector::from([
            1.0,
            self.carbon,
            self.low_start,
            self.severity,
            self.wrong_medium,
            self.section,
            self.raisers,
            self.overheated,
            self.untempered,
        ])
    }

    /// Each cause with how strong it is, in the order of the weights.
    pub(crate) const fn each(&self) -> [(Cause, f64); CAUSES - 1] {
        [
            (Cause::Carbon, self.carbon),
            (Cause::LateMartensite, self.low_start),
            (Cause::SevereMedium, self.severity),
            (Cause::WrongMedium, self.wrong_medium),
            (Cause::Section, self.section),
            (Cause::StressRaisers, self.raisers),
            (Cause::Overheated, self.overheated),
            (Cause::Untempered, self.untempered),
        ]
    }
}

/// What speaks for a crack.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = CrackCause))]
pub enum Cause {
    /// The carbon in solution makes hard, brittle martensite.
    Carbon,
    /// Martensite forms late, in a cold and stiff blade.
    LateMartensite,
    /// The medium still takes heat fast where martensite forms.
    SevereMedium,
    /// The steel hardens in a milder medium than this one.
    WrongMedium,
    /// Thin edge beside a thick spine.
    Section,
    /// Scratches or sharp corners.
    StressRaisers,
    /// Hotter than the steel's window.
    Overheated,
    /// Waiting hard and untempered.
    Untempered,
}
