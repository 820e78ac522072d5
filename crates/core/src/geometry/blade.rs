//! A blade's geometry in its simple form: a shape preset, its size, and the thickness across it.

use crate::geometry::shape::Shape;
use crate::quantity::validation::{Checker, Faults, Unit, named};
use serde::{Deserialize, Serialize};

/// How the blade is ground between spine and edge.
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
pub enum Grind {
    /// Straight from spine to edge.
    #[default]
    Flat,
    /// Hollow: thinner behind the edge.
    Hollow,
    /// Convex: thicker behind the edge.
    Convex,
    /// Flat with a small second bevel.
    FlatSecondary,
    /// Not ground yet: still a bar.
    None,
}

/// Height and thickness of the shoulder of a second bevel, as shares of the whole.
const BEVEL: (f64, f64) = (0.08, 0.16);

impl Grind {
    /// Share of the way from edge to spine thickness at `u` of the way up (0 to 1).
    #[must_use]
    pub fn rise(self, u: f64) -> f64 {
        let u = u.clamp(0.0, 1.0);
        match self {
            Self::Flat => u,
            Self::Hollow => u.powf(1.7),
            Self::Convex => u.powf(0.6),
            // A steep second bevel over the lowest twelfth, the flat above it.
            Self::FlatSecondary if u < BEVEL.0 => u / BEVEL.0 * BEVEL.1,
            Self::FlatSecondary => BEVEL.1 + (1.0 - BEVEL.1) * (u - BEVEL.0) / (1.0 - BEVEL.0),
            Self::None => 1.0,
        }
    }

    /// Finds a grind by identifier.
    ///
    /// # Errors
    /// There is no such grind; the fault lists them.
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        named(field, text, || format!("There is no grind called {text}."))
    }
}

/// A blade as written by a caller, not yet checked. Lengths in mm.
#[derive(Debug, Clone, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BladeDraft {
    /// Shape preset; plain when left out.
    pub shape: Option<String>,
    /// Heel to tip, 10 to 1000 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 10, maximum = 1000))]
    pub length_mm: Option<f64>,
    /// Spine to edge at the widest, 3 to 300 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 3, maximum = 300))]
    pub width_mm: Option<f64>,
    /// Thickness of the spine, 0.5 to 25 mm.
    #[cfg_attr(feature = "schema", schema(minimum = 0.5, maximum = 25))]
    pub spine_mm: Option<f64>,
    /// Thickness left at the edge, 0.05 mm up to the spine.
    #[cfg_attr(feature = "schema", schema(minimum = 0.05, maximum = 25))]
    pub edge_mm: Option<f64>,
    /// Grind; flat when left out.
    pub grind: Option<String>,
}

/// A blade whose geometry was checked.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = BladeSizes))]
pub struct Blade {
    /// Shape preset.
    pub shape: Shape,
    /// Heel to tip, mm.
    pub length_mm: f64,
    /// Spine to edge at the widest, mm.
    pub width_mm: f64,
    /// Thickness of the spine, mm.
    pub spine_mm: f64,
    /// Thickness left at the edge, mm.
    pub edge_mm: f64,
    /// Grind.
    pub grind: Grind,
}

fn length(
    checker: &mut Checker,
    field: &str,
    what: &str,
    value: Option<f64>,
    (low, high): (f64, f64),
) -> f64 {
    match value {
        Some(v) if v.is_finite() && (low..=high).contains(&v) => return v,
        Some(_) => {
            let message = format!("Such {what} is not possible.");
            checker.refuse_outside(field, message, (low, high), Unit::Millimetre);
        }
        None => {
            let message = format!("It needs {what}.");
            checker.refuse_outside(field, message, (low, high), Unit::Millimetre);
        }
    }
    f64::NAN
}

impl Blade {
    /// Checks a draft.
    ///
    /// # Errors
    /// Every length that is missing or out of range, an edge thicker than the spine, an unknown shape
    /// or grind.
    ///
    /// ```
    /// use vatten_core::geometry::blade::{Blade, BladeDraft};
    /// let draft = BladeDraft {
    ///     length_mm: Some(180.0),
    ///     width_mm: Some(30.0),
    ///     spine_mm: Some(4.0),
    ///     edge_mm: Some(0.8),
    ///     shape: Some("plain".to_owned()),
    ///     grind: Some("flat".to_owned()),
    /// };
    /// assert!(Blade::parse(&draft).is_ok());
    /// let faults = Blade::parse(&BladeDraft { edge_mm: Some(-1.0), ..draft }).unwrap_err();
    /// assert_eq!(faults.0[0].field, "edge_mm");
    /// ```
    pub fn parse(draft: &BladeDraft) -> Result<Self, Faults> {
        let mut checker = Checker::default();
        let shape = draft
            .shape
            .as_deref()
            .map_or(Ok(Shape::default()), |s| Shape::parse("shape", s));
        let grind = draft
            .grind
            .as_deref()
            .map_or(Ok(Grind::default()), |g| Grind::parse("grind", g));
        let (shape, grind) = (checker.take(shape), checker.take(grind));
        let length_mm = length(
            &mut checker,
            "length_mm",
            "a length",
            draft.length_mm,
            (10.0, 1000.0),
        );
        let width_mm = length(
            &mut checker,
            "width_mm",
            "a width",
            draft.width_mm,
            (3.0, 300.0),
        );
        let spine_mm = length(
            &mut checker,
            "spine_mm",
            "a spine",
            draft.spine_mm,
            (0.5, 25.0),
        );
        let edge_mm = length(
            &mut checker,
            "edge_mm",
            "an edge",
            draft.edge_mm,
            (0.05, 25.0),
        );
        if edge_mm > spine_mm {
            let message = "The edge is thicker than the spine.";
            let range = (0.05, spine_mm);
            checker.refuse_outside("edge_mm", message, range, Unit::Millimetre);
        }
        let blade = shape.zip(grind).map(|(shape, grind)| Self {
            shape,
            length_mm,
            width_mm,
            spine_mm,
            edge_mm,
            grind,
        });
        checker.finish(blade)
    }

    /// Thickness, mm, at a share of the way from edge (0) to spine (1).
    #[must_use]
    pub fn thickness_mm(&self, share: f64) -> f64 {
        self.edge_mm + (self.spine_mm - self.edge_mm) * self.grind.rise(share)
    }

    /// Outline for drawing, see [`Shape::outline`].
    #[must_use]
    pub fn outline(&self) -> Vec<[f64; 2]> {
        self.shape.outline(self.length_mm, self.width_mm)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn draft(length: f64, width: f64, spine: f64, edge: f64) -> BladeDraft {
        BladeDraft {
            length_mm: Some(length),
            width_mm: Some(width),
            spine_mm: Some(spine),
            edge_mm: Some(edge),
            ..BladeDraft::default()
        }
    }

    #[rstest]
    #[case(draft(0.0, 30.0, 4.0, 0.8), "length_mm")]
    #[case(draft(5000.0, 30.0, 4.0, 0.8), "length_mm")]
    #[case(draft(180.0, -30.0, 4.0, 0.8), "width_mm")]
    #[case(draft(180.0, 30.0, 4.0, 4.5), "edge_mm")]
    #[case(draft(180.0, 30.0, f64::NAN, 0.8), "spine_mm")]
    #[case(BladeDraft { edge_mm: None, ..draft(180.0, 30.0, 4.0, 0.8) }, "edge_mm")]
    #[case(BladeDraft { grind: Some("wavy".into()), ..draft(180.0, 30.0, 4.0, 0.8) }, "grind")]
    #[case(BladeDraft { shape: Some("spoon".into()), ..draft(180.0, 30.0, 4.0, 0.8) }, "shape")]
    fn refused_by_field(#[case] draft: BladeDraft, #[case] field: &str) {
        let faults = Blade::parse(&draft).unwrap_err();
        assert_eq!(faults.0.len(), 1, "{faults}");
        assert_eq!(faults.0[0].field, field);
        assert!(faults.0[0].allowed.is_some());
    }

    #[test]
    fn a_grind_changes_the_middle_not_the_ends() {
        for &grind in <Grind as strum::VariantArray>::VARIANTS {
            let mut d = draft(180.0, 30.0, 4.0, 0.8);
            d.grind = Some(<&str>::from(grind).into());
            let blade = Blade::parse(&d).unwrap();
            assert_eq!(blade.thickness_mm(1.0), 4.0);
            assert_eq!(blade.grind, grind);
            if grind != Grind::None {
                assert_eq!(blade.thickness_mm(0.0), 0.8);
            }
            assert!(blade.outline().len() > 50);
        }
    }

    proptest! {
        #[test]
        fn any_numbers_are_answered(l in any::<f64>(), w in any::<f64>(), s in any::<f64>(), e in any::<f64>()) {
            if let Ok(blade) = Blade::parse(&draft(l, w, s, e)) {
                prop_assert!(blade.thickness_mm(0.5).is_finite() && blade.edge_mm <= blade.spine_mm);
            }
        }
    }
}
