//! What speaks for a crack in the quench or before the temper.
//!
//! The stress that cracks a blade arises while martensite forms among martensite: the middle of a section, hotter than
//! its face, turns and swells under a skin that is hard already. How much hotter it is then is taken from the sections
//! of [`crate::simulation::warp`], over all media and both faces, and what it does is the worse the more carbon the
//! martensite holds.

use nalgebra::SVector;
use serde::{Deserialize, Serialize};

/// How many causes are counted, with the constant.
pub const CAUSES: usize = 18;

/// What speaks for a crack. Each is zero for a harmless quench.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Causes {
    /// Cube root of how much hotter the middle is than the face while martensite forms among martensite, K, times the
    /// share that hardens.
    pub chill: f64,
    /// That, for each tenth of a percent of carbon dissolved above 0.5 %.
    pub carbon: f64,
    /// That, when a steel that hardens in oil or air is put into water.
    pub wrong_medium: f64,
    /// That, for each ten degrees that its martensite starts below 240 °C, likewise in water.
    pub low_start: f64,
    /// That, less what leaving the bath for a milder one while still hot spares: the square of how hot.
    pub left_hot: f64,
    /// Held between plates: 1.
    pub held: f64,
    /// Logarithm of spine over edge thickness, less 1.7: thin beside thick.
    pub section: f64,
    /// Coarse scratches, sharp corners, undrilled holes, holes or stamps near the edge: 0 to 4 kinds.
    pub raisers: f64,
    /// Heat above the nominal, in tens of degrees.
    pub overheated: f64,
    /// Logarithm of 1 + hours left untempered, by how much carbon there is: 1 at 0.75 % dissolved.
    pub untempered: f64,
    /// Not normalized, of a steel that should be: 1.
    pub unnormalized: f64,
    /// Quenched before and not normalized since: 1.
    pub requenched: f64,
    /// Numbers by which the grain is coarser than ASTM 8.
    pub coarse: f64,
    /// Skin that lost carbon, in tenths of a millimetre beyond the first: it turns first, and is drawn apart by what turns later.
    pub skin: f64,
    /// Sharp inside corners of the outline beyond the heel, each by how far it turns against a right angle.
    pub notches: f64,
    /// Chance that clay lets go in the bath, times [`Causes::chill`]: what is suddenly bare beside what is not.
    pub bared: f64,
    /// Phosphorus and sulphur beyond what tool steels may hold, in hundredths of a percent.
    pub unclean: f64,
}

impl Causes {
    pub(crate) fn vector(&self) -> SVector<f64, CAUSES> {
        SVector::from([
            1.0,
            self.chill,
            self.carbon,
            self.wrong_medium,
            self.low_start,
            self.left_hot,
            self.held,
            self.section,
            self.raisers,
            self.overheated,
            self.untempered,
            self.unnormalized,
            self.requenched,
            self.coarse,
            self.skin,
            self.notches,
            self.bared,
            self.unclean,
        ])
    }

    /// Each cause with how strong it is, in the order of the weights.
    pub(crate) const fn each(&self) -> [(Cause, f64); CAUSES - 1] {
        [
            (Cause::SevereMedium, self.chill),
            (Cause::Carbon, self.carbon),
            (Cause::WrongMedium, self.wrong_medium),
            (Cause::LateMartensite, self.low_start),
            (Cause::LeftHot, self.left_hot),
            (Cause::Held, self.held),
            (Cause::Section, self.section),
            (Cause::StressRaisers, self.raisers),
            (Cause::Overheated, self.overheated),
            (Cause::Untempered, self.untempered),
            (Cause::NotNormalized, self.unnormalized),
            (Cause::Requenched, self.requenched),
            (Cause::CoarseGrain, self.coarse),
            (Cause::Skin, self.skin),
            (Cause::InsideCorners, self.notches),
            (Cause::ClayLetsGo, self.bared),
            (Cause::Unclean, self.unclean),
        ]
    }
}

/// What speaks for a crack, or against it.
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
    /// It leaves the bath for a milder one before it is cold: against a crack.
    LeftHot,
    /// Between plates: against a crack.
    Held,
    /// Thin edge beside a thick spine.
    Section,
    /// Scratches, sharp corners, holes as they are or near the edge.
    StressRaisers,
    /// Hotter than the steel needs.
    Overheated,
    /// Waiting hard and untempered.
    Untempered,
    /// Forged and not normalized.
    NotNormalized,
    /// Quenched again without normalizing.
    Requenched,
    /// Coarse grain.
    CoarseGrain,
    /// A skin without carbon.
    Skin,
    /// Sharp inside corners of the outline.
    InsideCorners,
    /// Clay that may let go in the bath.
    ClayLetsGo,
    /// Phosphorus and sulphur of the steel.
    Unclean,
}
