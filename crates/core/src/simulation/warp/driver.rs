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
    /// It lay on its side in the fire, and sagged under its own weight.
    Support,
    /// All that is not computed: stresses from forging and grinding, uneven heat, how it lay where nobody said.
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
            Self::Skin | Self::Lean | Self::Support | Self::Rest => None,
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
/// Said to go in upright, and said to lean or to be swept sideways: 5° and 25°.
pub const UPRIGHT_TIMES: f64 = 0.5;
/// Likewise.
pub const SLANTED_TIMES: f64 = 2.5;
/// Share of the rest that is left once it is known how it lay in the fire.
const LAY_KNOWN: f64 = 0.8;
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

/// How much more or less than usual it leans, by what was said of how it goes in.
#[must_use]
pub fn lean_times(work: &Workpiece) -> f64 {
    match work.checks.get(&Check::GoesInUpright) {
        None => 1.0,
        Some(true) => UPRIGHT_TIMES,
        Some(false) => SLANTED_TIMES,
    }
}

/// Whether it was said to lie on its side in the fire.
#[must_use]
pub fn lies_on_its_side(work: &Workpiece) -> bool {
    work.checks.get(&Check::LiesEdgeUp) == Some(&false)
}

/// Sag of a blade that lies on its side on two supports, mm: steel that turns to austenite gives way under its own
/// weight, and creeps at heat. On 240 mm of plate 2 mm thick 1.4 mm by the one, and by the other 0.5 mm in ten minutes at
/// 815 °C, 3.4 mm at 1060 °C (power law of creep after Frost and Ashby 1982, "Deformation-Mechanism Maps"); with the
/// fourth power of the length over the square of the thickness.
#[must_use]
pub fn lying_mm(sections: &[&Section], length_mm: f64, heat_c: f64, soak_s: f64) -> f64 {
    const TURNING_MM: f64 = 1.4;
    const CREEP_MM: f64 = 0.5;
    const TEN_MINUTES_S: f64 = 600.0;
    /// From 0.5 to 3.4 mm between 815 and 1060 °C, K.
    const ACTIVATION_K: f64 = 11_300.0;
    let (inertia, area) = sections.iter().fold((0.0, 0.0), |(i, a), s| {
        (i + s.sideways_inertia(), a + s.area())
    });
    if area <= 0.0 {
        return 0.0;
    }
    let square_mm2 = 12e6 * inertia / area;
    let hotter = (ACTIVATION_K * (1.0 / 1088.0 - 1.0 / (heat_c.max(20.0) + 273.0))).exp();
    let plate = TURNING_MM + CREEP_MM * hotter * soak_s.clamp(0.0, 36_000.0) / TEN_MINUTES_S;
    let sag = plate * (length_mm / REST_LENGTH_MM).powi(4) * 4.0 / square_mm2.max(0.01);
    // It comes to rest on the floor of the fire.
    sag.min(0.1 * length_mm)
}

/// Sag of all that is not computed, mm, one standard deviation.
#[must_use]
pub fn rest_mm(work: &Workpiece, normalized: bool) -> f64 {
    let times = if normalized { 1.0 } else { NOT_NORMALIZED };
    // How it lay is part of it until that is said.
    let lay = if work.checks.contains_key(&Check::LiesEdgeUp) {
        LAY_KNOWN
    } else {
        1.0
    };
    times * lay * REST_MM * (work.blade().length_mm / REST_LENGTH_MM).powi(2)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::blade::{Blade, BladeDraft};
    use crate::geometry::clay::Clay;
    use crate::geometry::form::Form;
    use crate::simulation::warp::section::{Faces, Fineness};

    fn plate(mm: f64, length_mm: f64) -> Section {
        let blade = Blade::parse(&BladeDraft {
            length_mm: Some(length_mm),
            width_mm: Some(45.0),
            spine_mm: Some(mm),
            edge_mm: Some(mm),
            ..BladeDraft::default()
        })
        .unwrap();
        let fine = Fineness {
            rows: 10,
            layers: 4,
            clay_layers: 2,
        };
        let (form, clay) = (Form::from_blade(&blade), Clay::default());
        Section::of_blade(&form, &clay, 0.5 * length_mm, fine, Faces::Alike, [1.0; 2]).unwrap()
    }

    // What the formula was made from: 1.4 mm of turning and 0.5 of creep in ten minutes, 3.4 at 1060 °C.
    #[test]
    fn lying_on_its_side_sags_as_published_of_creep() {
        let two = plate(2.0, 240.0);
        let sag = |heat_c: f64, soak_s: f64| lying_mm(&[&two], 240.0, heat_c, soak_s);
        assert!(
            (sag(815.0, 600.0) - 1.9).abs() < 0.05,
            "{}",
            sag(815.0, 600.0)
        );
        assert!(
            (sag(1060.0, 600.0) - 4.8).abs() < 0.2,
            "{}",
            sag(1060.0, 600.0)
        );
        // As 1 : 16 with twice the length, as 1 : 1/4 with twice the thickness.
        let long = plate(2.0, 480.0);
        let thick = plate(4.0, 240.0);
        let ratio = lying_mm(&[&long], 480.0, 815.0, 300.0) / sag(815.0, 300.0);
        assert!((ratio - 16.0).abs() < 0.01, "{ratio}");
        let ratio = sag(815.0, 300.0) / lying_mm(&[&thick], 240.0, 815.0, 300.0);
        assert!((ratio - 4.0).abs() < 0.01, "{ratio}");
        // It comes to rest on the floor, whatever is asked.
        for (heat_c, soak_s) in [(5000.0, 1e9), (f64::NAN, 600.0), (-300.0, -5.0)] {
            let sag = lying_mm(&[&plate(0.5, 900.0)], 900.0, heat_c, soak_s);
            assert!((0.0..=90.0).contains(&sag), "{heat_c} {soak_s}: {sag}");
        }
        assert_eq!(lying_mm(&[], 240.0, 815.0, 600.0), 0.0);
    }
}
