//! What bends a blade sideways: not one unevenness but several causes, each with a sag of its own.
//!
//! Each is computed at one standard deviation of what is usual in a shop; causes add as squares, since the sag of
//! each goes with its size and turns over with its sign.

use crate::process::check::Check;
use crate::process::workpiece::Workpiece;
use crate::simulation::heat::Heat;
use crate::simulation::warp::mechanics::{TRANSFORMATION_PLASTICITY, leblond, swelling};
use crate::simulation::warp::run::{Bent, Face};
use crate::simulation::warp::section::Section;
use serde::{Deserialize, Serialize};

/// A cause of a sag sideways.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = WarpDriver))]
pub enum Driver {
    /// Bevels whose heights differ from face to face.
    Bevels,
    /// Skin that lost its carbon deeper on one face.
    Skin,
    /// Leaning, or swept sideways, while martensite forms.
    Lean,
    /// Steam or vapour that breaks later on one face.
    Film,
    /// One face cooled more than the other.
    Cooling,
    /// All that is not computed: how it lay in the fire, stresses from forging and grinding, uneven heat.
    Rest,
}

impl Driver {
    /// Every cause.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// Identifier of the API.
    #[must_use]
    pub fn id(self) -> &'static str {
        self.into()
    }

    /// How one standard deviation of it is set up in a run: faces, and the heights of the bevels against what
    /// they are. None where it is computed otherwise.
    #[must_use]
    pub fn set_up(self, work: &Workpiece) -> Option<([Face; 2], [f64; 2])> {
        let usual = Face::default();
        match self {
            Self::Bevels => {
                // Ground to the spine as they are, only a lower one can differ: both higher and lower it would be a
                // section that leans, which stays straight.
                Some(([usual; 2], [1.0 - 0.01 * bevels_percent(work)?, 1.0]))
            }
            Self::Film => {
                let shifted = |film_k| Face { film_k, ..usual };
                Some(([shifted(-0.5 * FILM_K), shifted(0.5 * FILM_K)], [1.0; 2]))
            }
            Self::Cooling => {
                let times = |more: f64| Face {
                    times: 1.0 + more,
                    ..usual
                };
                let half = 0.005 * COOLING_PERCENT;
                Some(([times(half), times(-half)], [1.0; 2]))
            }
            Self::Skin | Self::Lean | Self::Rest => None,
        }
    }
}

/// Difference of bevel heights from face to face where nobody measured, percent, one standard deviation: by eye;
/// looked over and found to match; looked over and found not to.
const BEVELS_PERCENT: (f64, f64, f64) = (8.0, 4.0, 14.0);
/// Difference of temperature at which the film breaks, K.
const FILM_K: f64 = 20.0;
/// Difference of heat transfer, percent.
const COOLING_PERCENT: f64 = 8.0;
/// Skin on one face deeper than on the other, share of its depth.
const SKIN_SHARE: f64 = 0.16;
/// Off upright, degrees.
const LEAN_DEGREES: f64 = 10.0;
/// What is not computed: sag of a blade of [`REST_LENGTH_MM`], mm; it goes with the square of the length.
const REST_MM: f64 = 0.26;
const REST_LENGTH_MM: f64 = 240.0;
/// So many times as much in steel that was not normalized.
const NOT_NORMALIZED: f64 = 2.0;
const GRAVITY: f64 = 9.81;

/// Usual difference of the bevel heights, percent, one standard deviation; none when they were measured: then it
/// is known.
fn bevels_percent(work: &Workpiece) -> Option<f64> {
    if work.form.bevels_off_mm().is_some() {
        return None;
    }
    Some(match work.checks.get(&Check::BevelsMatch) {
        None => BEVELS_PERCENT.0,
        Some(true) => BEVELS_PERCENT.1,
        Some(false) => BEVELS_PERCENT.2,
    })
}

/// Martensite of a section weighted by the cube of its thickness: what bends.
fn stiff_martensite(section: &Section, bent: &Bent) -> f64 {
    let (mut sum, mut weight) = (0.0, 0.0);
    for row in 0..section.rows() {
        let w = section.thickness(row).powi(3) * section.cell(row).0;
        let cells = &bent.phases[row * section.layers..(row + 1) * section.layers];
        let mean = cells.iter().map(|p| p.martensite).sum::<f64>() / section.layers as f64;
        sum += w * mean;
        weight += w;
    }
    sum / weight.max(f64::MIN_POSITIVE)
}

/// Curvature sideways, 1/m, of one face whose skin is deeper by 16 % of `depth_mm`: what lost its carbon
/// swells less and later.
#[must_use]
pub fn skin_curvature(section: &Section, bent: &Bent, heat: &Heat, depth_mm: f64) -> f64 {
    const OF_A_LAYER: f64 = 0.42;
    let carbon = heat.dissolved.composition.carbon;
    let swells = swelling(carbon)[0] - 10e-6 * (heat.kinetics.martensite_start_c() - 20.0);
    let strain = stiff_martensite(section, bent) * swells;
    let moment: f64 = (0..section.rows())
        .map(|row| 0.5 * section.thickness(row) * section.cell(row).0)
        .sum();
    OF_A_LAYER * strain * SKIN_SHARE * 1e-3 * depth_mm * moment / section.sideways_inertia()
}

/// Curvature sideways, 1/m, of a blade held at its heel and leaning by 10° in a medium of a density
/// (kg/m³) while martensite forms, `beyond` (m) of it further out: its own weight bends it by transformation
/// plasticity, ten times as much as it would when cold.
#[must_use]
pub fn lean_curvature(section: &Section, bent: &Bent, medium_kg_m3: f64, beyond: f64) -> f64 {
    let share = stiff_martensite(section, bent).clamp(1e-9, 1.0);
    let weight = (crate::material::properties::DENSITY - medium_kg_m3) * GRAVITY * section.area();
    let moment = weight * LEAN_DEGREES.to_radians().sin() * beyond * beyond / 2.0;
    let stays = TRANSFORMATION_PLASTICITY[0] * leblond(share);
    stays * moment / section.sideways_inertia()
}

/// Sag of all that is not computed, mm, one standard deviation.
#[must_use]
pub fn rest_mm(length_mm: f64, normalized: bool) -> f64 {
    let times = if normalized { 1.0 } else { NOT_NORMALIZED };
    times * REST_MM * (length_mm / REST_LENGTH_MM).powi(2)
}
