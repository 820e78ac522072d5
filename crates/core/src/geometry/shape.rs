//! Shape presets of our own and their outlines, for edge tools of orchard, harbour and workshop.

use crate::quantity::validation::{Faults, ids};
use serde::{Deserialize, Serialize};

/// A shape to start from.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Default,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Shape {
    /// Straight blade with a skewed end, as for marking and bench work.
    #[default]
    Plain,
    /// Reed hook: edge swept up, spine hollowed towards the tip.
    ReedHook,
    /// Grafting blade: straight edge, spine dropping to it.
    Grafting,
    /// Pruning bill: broad, beak turned down at the tip.
    Bill,
    /// Drawing blade: tang at both ends.
    Drawing,
    /// Oyster blade: both sides running to a stubby point.
    Oyster,
    /// Net blade: sheep's-foot end.
    Net,
}

/// A point of an outline, mm: x from the heel towards the tip (the tang lies at negative x), y upwards
/// from the edge at the heel.
pub type Point = [f64; 2];

const STATIONS: usize = 48;

impl Shape {
    /// Every preset.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The name shown.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Plain => "plain blade",
            Self::ReedHook => "reed hook",
            Self::Grafting => "grafting blade",
            Self::Bill => "pruning bill",
            Self::Drawing => "drawing blade",
            Self::Oyster => "oyster blade",
            Self::Net => "net blade",
        }
    }

    /// The identifier used in the API.
    #[must_use]
    pub fn id(self) -> &'static str {
        self.into()
    }

    /// Finds a preset by identifier or name, in any case.
    ///
    /// # Errors
    /// There is no such preset; the fault lists them.
    ///
    /// ```
    /// use vatten_core::geometry::shape::Shape;
    /// assert_eq!(Shape::parse("shape", "Reed hook"), Ok(Shape::ReedHook));
    /// ```
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        let wanted = text.trim().to_lowercase().replace(' ', "_");
        Self::ALL
            .iter()
            .copied()
            .find(|s| s.id() == wanted || s.name().replace(' ', "_") == wanted)
            .ok_or_else(|| {
                Faults::with_allowed(
                    field,
                    format!("There is no shape called {text}."),
                    ids::<Self>(),
                )
            })
    }

    /// Spine and edge height at `u` along the blade (0 heel, 1 tip), as shares of the width, y up.
    fn spine_and_edge(self, u: f64) -> (f64, f64) {
        let bow = |x: f64| (std::f64::consts::PI * x).sin();
        match self {
            Self::Plain => (1.0, 0.94 * ((u - 0.84) / 0.16).max(0.0)),
            Self::ReedHook => {
                let spine = 1.0 + 0.16 * bow(0.75 * u) - 1.15 * u.powf(2.3);
                (spine, spine - 1.0 + 0.86 * u.powf(1.25))
            }
            Self::Grafting => (
                1.0 - 0.9 * ((u - 0.62) / 0.38).max(0.0).powf(1.6),
                0.03 * bow(u),
            ),
            Self::Bill => {
                let beak = ((u - 0.70) / 0.30).max(0.0);
                (
                    0.92 + 0.10 * bow(0.8 * u) - 1.30 * beak.powf(2.6),
                    0.10 * u + 0.22 * bow((beak * 0.9).min(1.0)) - 0.42 * beak.powf(3.0),
                )
            }
            Self::Drawing => (1.0, 0.05 * (2.0 * u - 1.0).powi(2)),
            Self::Oyster => {
                let taper = 0.5 * u.powf(2.6);
                (1.0 - taper, taper * 0.94)
            }
            Self::Net => (1.0 - 0.92 * ((u - 0.80) / 0.20).max(0.0).powf(1.8), 0.0),
        }
    }

    /// Closed outline for a blade of `length_mm` (heel to tip) and `width_mm`, tang included; the first
    /// point is not repeated at the end.
    #[must_use]
    pub fn outline(self, length_mm: f64, width_mm: f64) -> Vec<Point> {
        let stations = || (0..=STATIONS).map(|i| i as f64 / STATIONS as f64);
        let spine = stations().map(|u| [u * length_mm, width_mm * self.spine_and_edge(u).0]);
        let edge = stations().rev().map(|u| {
            let (spine, edge) = self.spine_and_edge(u);
            [u * length_mm, width_mm * edge.min(spine)]
        });
        let tang = (0.42 * length_mm).min(95.0);
        let (high, low) = (0.80 * width_mm, 0.42 * width_mm);
        let shoulder = (0.025 * length_mm).min(4.0);
        let mut points = vec![
            [-tang, low + 0.04 * width_mm],
            [-tang, high - 0.06 * width_mm],
            [-shoulder, high],
        ];
        points.extend(spine);
        if matches!(self, Self::Drawing) {
            let end = length_mm;
            points.extend([
                [end + shoulder, high],
                [end + tang, high - 0.06 * width_mm],
                [end + tang, low + 0.04 * width_mm],
                [end + shoulder, low],
            ]);
        }
        points.extend(edge);
        points.push([-shoulder, low]);
        points
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_outline_has_its_size_and_encloses_something() {
        for shape in Shape::ALL {
            let points = shape.outline(180.0, 30.0);
            let area: f64 = (0..points.len())
                .map(|i| {
                    let (a, b) = (points[i], points[(i + 1) % points.len()]);
                    0.5 * (a[0] * b[1] - b[0] * a[1])
                })
                .sum();
            assert!(area.abs() > 0.3 * 180.0 * 30.0, "{shape:?} {area}");
            let lowest = points.iter().map(|p| p[1]).fold(f64::INFINITY, f64::min);
            // A hook or beak may turn down past the edge.
            assert!((-15.0..2.0).contains(&lowest), "{shape:?} {lowest}");
            assert!(points.iter().flatten().all(|x| x.is_finite()));
        }
    }

    #[test]
    fn parsed_by_id_and_name() {
        for shape in Shape::ALL {
            assert_eq!(Shape::parse("shape", shape.id()).unwrap(), *shape);
            assert_eq!(Shape::parse("shape", shape.name()).unwrap(), *shape);
        }
        assert_eq!(
            Shape::parse("shape", "spoon").unwrap_err().0[0].field,
            "shape"
        );
    }
}
