//! A bar in stock: what it is, its size, how it came, and how much of it is left.

use crate::geometry::outline::Outline;
use crate::material::dissolution::Structure;
use crate::quantity::validation::{Checker, Faults, Unit};
use serde::{Deserialize, Serialize};

/// How a bar came.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Condition {
    /// Nothing is known of it.
    #[default]
    Unknown,
    /// As it left the rolls.
    HotRolled,
    /// Normalized.
    Normalized,
    /// Annealed: soft, pearlite.
    Annealed,
    /// Carbides in balls: soft for the saw.
    Spheroidized,
    /// Forged here.
    Forged,
}

impl Condition {
    /// The structure it starts from, where it tells.
    #[must_use]
    pub const fn structure(self) -> Option<Structure> {
        match self {
            Self::Unknown => None,
            Self::HotRolled | Self::Normalized | Self::Forged => Some(Structure::Normalized),
            Self::Annealed | Self::Spheroidized => Some(Structure::Spheroidized),
        }
    }
}

/// A saw takes this, mm.
const SAW_MM: f64 = 3.0;

/// What a blade with its tang takes of a bar where nothing else is said, mm.
#[must_use]
pub fn usual_cut_mm(outline: &Outline) -> f64 {
    (outline.tip_mm() - outline.start_mm() + SAW_MM).round()
}

/// Size of a bar, mm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BarSize {
    /// Width, 3 to 500 mm.
    pub width_mm: f64,
    /// Thickness, 0.5 to 60 mm.
    pub thickness_mm: f64,
    /// Length when it came, 10 to 10000 mm.
    pub length_mm: f64,
    /// Length left, 0 to the whole.
    pub left_mm: f64,
}

impl BarSize {
    /// Checks the sizes.
    ///
    /// # Errors
    /// Faults at `width_mm`, `thickness_mm`, `length_mm`, `left_mm`.
    pub fn check(&self) -> Result<(), Faults> {
        let mut c = Checker::default();
        for (field, what, value, (low, high)) in [
            ("width_mm", "width", self.width_mm, (3.0, 500.0)),
            ("thickness_mm", "thickness", self.thickness_mm, (0.5, 60.0)),
            ("length_mm", "length", self.length_mm, (10.0, 10_000.0)),
            ("left_mm", "rest", self.left_mm, (0.0, 10_000.0)),
        ] {
            if !(low..=high).contains(&value) {
                let message = format!("Such a {what} is not possible.");
                c.refuse_outside(field, message, (low, high), Unit::Millimetre);
            }
        }
        if self.left_mm > self.length_mm {
            let message = "More is left than there was.";
            let range = (0.0, self.length_mm);
            c.refuse_outside("left_mm", message, range, Unit::Millimetre);
        }
        c.finish(Some(()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::shape::Shape;
    use rstest::rstest;

    #[test]
    fn a_blade_takes_its_tang_and_the_saw_along() {
        let outline = Outline::trusted(Shape::default().outline(180.0, 30.0));
        let cut = usual_cut_mm(&outline);
        assert!((180.0 + SAW_MM..300.0).contains(&cut), "{cut}");
    }

    #[rstest]
    #[case([40.0, 4.0, 1000.0, 600.0], None)]
    #[case([0.0, 4.0, 1000.0, 600.0], Some("width_mm"))]
    #[case([40.0, f64::NAN, 1000.0, 600.0], Some("thickness_mm"))]
    #[case([40.0, 4.0, 1e9, 600.0], Some("length_mm"))]
    #[case([40.0, 4.0, 1000.0, 1200.0], Some("left_mm"))]
    fn sizes(#[case] mm: [f64; 4], #[case] field: Option<&str>) {
        let [width_mm, thickness_mm, length_mm, left_mm] = mm;
        let size = BarSize {
            width_mm,
            thickness_mm,
            length_mm,
            left_mm,
        };
        let found = size.check().err().map(|f| f.0[0].field.clone());
        assert_eq!(found.as_deref(), field);
    }

    #[test]
    fn a_soft_bar_starts_from_balls() {
        assert_eq!(
            Condition::Spheroidized.structure(),
            Some(Structure::Spheroidized)
        );
        assert_eq!(Condition::Forged.structure(), Some(Structure::Normalized));
        assert_eq!(Condition::Unknown.structure(), None);
    }
}
