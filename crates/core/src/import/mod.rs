//! What comes in files: outlines from drawings, and temperature logs. The files are hostile until shown
//! otherwise: size, numbers, nesting and counts are bounded before anything is built from them.

pub mod cooling_curve;
pub mod dxf;
pub mod log;
pub mod loops;
pub mod svg;

use crate::geometry::outline::{Outline, POINTS};
use crate::geometry::shape::Point;
use crate::quantity::validation::{Faults, Unit};
use serde::{Deserialize, Serialize};

/// Largest file, bytes.
pub const MAX_BYTES: usize = 1_000_000;
/// Largest number that may stand in a file.
pub const MAX_NUMBER: f64 = 1e5;

/// The length that one unit of a drawing stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum DrawingUnit {
    /// Millimetre.
    Mm,
    /// Centimetre.
    Cm,
    /// Inch.
    In,
    /// Screen dot, 96 to the inch.
    Px,
}

impl DrawingUnit {
    /// Millimetres for one.
    #[must_use]
    pub const fn mm(self) -> f64 {
        match self {
            Self::Mm => 1.0,
            Self::Cm => 10.0,
            Self::In => 25.4,
            Self::Px => 25.4 / 96.0,
        }
    }
}

/// What a file holds: its closed lines in its own units, y upwards, the largest first.
#[derive(Debug, Clone, PartialEq)]
pub struct Drawn {
    /// Closed lines.
    pub loops: Vec<Vec<Point>>,
    /// What the file says of its unit.
    pub unit: Option<DrawingUnit>,
}

/// How a drawing is laid to become a blade.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Laying {
    /// Unit of the drawing, when it does not say or says it wrongly.
    pub unit: Option<DrawingUnit>,
    /// The tip was drawn to the left.
    pub mirror: bool,
    /// The edge was drawn upwards.
    pub upside_down: bool,
    /// Which closed line, the largest first.
    pub which: usize,
    /// Where the heel is, mm from the end of the tang; found when left out.
    pub heel_mm: Option<f64>,
}

/// A drawing laid as a blade.
#[derive(Debug, Clone, PartialEq)]
pub struct Laid {
    /// Heel at x = 0, edge at the heel at y = 0, mm.
    pub outline: Outline,
    /// How many closed lines there were.
    pub loops: usize,
    /// The unit it was read in.
    pub unit: DrawingUnit,
    /// The file itself says its unit.
    pub unit_known: bool,
    /// Where the heel was taken to be, mm from the end of the tang.
    pub heel_mm: f64,
}

/// A fault of the file as a whole.
pub(crate) fn bad(message: impl Into<String>) -> Faults {
    Faults::with_allowed(
        "text",
        message,
        "SVG or DXF (as text) with one closed outline, up to 1 MB",
    )
}

fn no_outline() -> Faults {
    bad("There is no closed outline in it: join the ends of the line and save it again.")
}

/// Reads a file, by what is in it.
///
/// # Errors
/// A fault at `text`: too large, neither SVG nor DXF, or as [`svg::read`] and [`dxf::read`].
///
/// ```
/// use vatten_core::import::{lay, read, Laying};
/// let file = r#"<svg xmlns="http://www.w3.org/2000/svg" width="200mm" viewBox="0 0 200 24">
///     <path d="M0 12 L60 12 L60 0 L180 0 L200 20 L180 24 L60 24 L60 20 L0 20 Z"/></svg>"#;
/// let laid = lay(&read(file).unwrap(), Laying::default()).unwrap();
/// assert_eq!(laid.loops, 1);
/// ```
pub fn read(text: &str) -> Result<Drawn, Faults> {
    if text.len() > MAX_BYTES {
        return Err(bad("This file is larger than 1 MB."));
    }
    let start = text.trim_start_matches('\u{feff}').trim_start();
    let mut drawn = if start.starts_with('<') {
        svg::read(start)?
    } else if start.contains("SECTION") || start.starts_with("999") {
        dxf::read(start)?
    } else {
        return Err(bad(
            "This is neither an SVG nor a DXF drawing in text form.",
        ));
    };
    drawn
        .loops
        .sort_by(|a, b| loops::area(b).total_cmp(&loops::area(a)));
    if drawn.loops.is_empty() {
        return Err(no_outline());
    }
    Ok(drawn)
}

/// Lays a drawing as a blade: long side level, tip right, edge down, heel at zero.
///
/// # Errors
/// A fault at `unit` when the file does not say it, at `which` or `heel_mm` out of range, at `outline`
/// when what comes out is no blade.
pub fn lay(drawn: &Drawn, how: Laying) -> Result<Laid, Faults> {
    if drawn.loops.is_empty() {
        return Err(no_outline());
    }
    let Some(unit) = how.unit.or(drawn.unit) else {
        return Err(Faults::with_allowed(
            "unit",
            "The drawing does not say its unit. Choose the one it was drawn in.",
            "mm, cm, in, px",
        ));
    };
    let Some(points) = drawn.loops.get(how.which) else {
        return Err(Faults::with_allowed(
            "which",
            format!("There is no closed line number {}.", how.which + 1),
            format!("0 to {}", drawn.loops.len() - 1),
        ));
    };
    let mut points: Vec<Point> = points
        .iter()
        .map(|p| [p[0] * unit.mm(), p[1] * unit.mm()])
        .collect();
    let span = |points: &[Point], k: usize| {
        let (low, high) = points
            .iter()
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), p| {
                (l.min(p[k]), h.max(p[k]))
            });
        (low, high - low)
    };
    if span(&points, 1).1 > span(&points, 0).1 {
        // Drawn standing: the upper end becomes the tip.
        points = points.iter().map(|p| [p[1], -p[0]]).collect();
    }
    if how.mirror {
        points = points.iter().map(|p| [-p[0], p[1]]).collect();
    }
    if how.upside_down {
        points = points.iter().map(|p| [p[0], -p[1]]).collect();
    }
    let (x0, long) = span(&points, 0);
    let points = loops::thinned(points, POINTS.1);
    if points.len() < POINTS.0 {
        return Err(bad("The closed line is too simple to be a blade."));
    }
    let raw = Outline::trusted(points);
    let heel = match how.heel_mm {
        Some(mm) if (0.0..0.9 * long).contains(&mm) => x0 + mm,
        Some(_) => {
            let message = "The heel cannot be so far from the end.";
            let range = (0.0, (0.9 * long).round());
            return Err(Faults::outside("heel_mm", message, range, Unit::Millimetre));
        }
        None => heel_of(&raw, x0, long),
    };
    let at = heel + 0.02 * (x0 + long - heel);
    let edge = raw.section(at).map_or(0.0, |s| s.0);
    let moved: Vec<Point> = raw
        .points()
        .iter()
        .map(|p| {
            let round = |v: f64| (v * 1000.0).round() / 1000.0;
            [round(p[0] - heel), round(p[1] - edge)]
        })
        .collect();
    Ok(Laid {
        outline: Outline::parse(&moved)?,
        loops: drawn.loops.len(),
        unit,
        unit_known: drawn.unit.is_some(),
        heel_mm: heel - x0,
    })
}

/// Where the blade begins: the shoulder, the largest step in height in the first six tenths; the very
/// end when there is no step.
fn heel_of(outline: &Outline, x0: f64, long: f64) -> f64 {
    const STEPS: usize = 120;
    let height = |i: usize| {
        let x = x0 + (i as f64 + 0.5) / STEPS as f64 * long;
        outline.section(x).map_or(0.0, |(e, s)| s - e)
    };
    let widest = (0..STEPS).map(height).fold(0.0, f64::max);
    let mut best = (0.12 * widest, None);
    for i in 2..STEPS * 6 / 10 {
        let step = height(i + 1) - height(i - 1);
        if step > best.0 {
            best = (step, Some(i));
        }
    }
    let Some(i) = best.1 else { return x0 };
    // Closer: where the height changes most over a hundredth of what was found.
    let (from, wide) = (
        x0 + (i as f64 - 1.0) / STEPS as f64 * long,
        3.0 / STEPS as f64 * long,
    );
    let fine = |k: usize| {
        let x = from + k as f64 / 100.0 * wide;
        outline.section(x).map_or(0.0, |(e, s)| s - e)
    };
    let step = (0..100)
        .map(|k| (fine(k + 1) - fine(k), k))
        .max_by(|a, b| a.0.total_cmp(&b.0));
    step.map_or(x0, |(_, k)| from + (k as f64 + 1.0) / 100.0 * wide)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const BLADE: &str = "M0 12 L60 12 L60 0 L180 0 L200 20 L180 24 L60 24 L60 20 L0 20 Z";

    fn svg(attributes: &str, inner: &str) -> String {
        format!("<svg xmlns=\"http://www.w3.org/2000/svg\" {attributes}>{inner}</svg>")
    }

    fn laid(text: &str, how: Laying) -> Result<Laid, Faults> {
        lay(&read(text)?, how)
    }

    #[test]
    fn an_svg_in_millimetres_becomes_a_blade_of_its_size() {
        let text = svg(
            "width=\"200mm\" height=\"24mm\" viewBox=\"0 0 200 24\"",
            &format!("<path d=\"{BLADE}\"/>"),
        );
        // SVG counts downwards: what was drawn at the top is the spine.
        let found = laid(&text, Laying::default()).unwrap();
        assert!(
            (found.outline.tip_mm() - 140.0).abs() < 3.5,
            "{}",
            found.outline.tip_mm()
        );
        assert!((found.outline.start_mm() + 60.0).abs() < 3.5);
        assert!((found.outline.width_mm() - 24.0).abs() < 0.5);
        assert!((found.heel_mm - 60.0).abs() < 3.5 && found.unit_known);
        let exact = Laying {
            heel_mm: Some(60.0),
            ..Laying::default()
        };
        let exact = laid(&text, exact).unwrap();
        assert!((exact.outline.tip_mm() - 140.0).abs() < 0.1);
    }

    #[test]
    fn turned_mirrored_and_standing_drawings_are_laid_the_same_way() {
        let drawing = |d: &str| {
            svg(
                "width=\"300mm\" height=\"300mm\" viewBox=\"0 0 300 300\"",
                &format!("<path d=\"{d}\"/>"),
            )
        };
        let left = "M200 12 L140 12 L140 0 L20 0 L0 20 L20 24 L140 24 L140 20 L200 20 Z";
        let mirrored = Laying {
            mirror: true,
            ..Laying::default()
        };
        let a = laid(&drawing(left), mirrored).unwrap().outline;
        assert!((a.tip_mm() - 140.0).abs() < 3.5);
        let standing = "M12 200 L12 140 L0 140 L0 20 L20 0 L24 20 L24 140 L20 140 L20 200 Z";
        let b = laid(&drawing(standing), Laying::default()).unwrap().outline;
        assert!((b.tip_mm() - 140.0).abs() < 3.5, "{}", b.tip_mm());
        let down = Laying {
            upside_down: true,
            ..Laying::default()
        };
        let up = laid(&drawing(BLADE), Laying::default()).unwrap().outline;
        let turned = laid(&drawing(BLADE), down).unwrap().outline;
        assert!(up != turned && (up.width_mm() - turned.width_mm()).abs() < 0.5);
    }

    #[test]
    fn a_drawing_without_a_unit_asks_for_it() {
        let text = svg("viewBox=\"0 0 200 24\"", &format!("<path d=\"{BLADE}\"/>"));
        assert_eq!(
            laid(&text, Laying::default()).unwrap_err().0[0].field,
            "unit"
        );
        let inch = Laying {
            unit: Some(DrawingUnit::Mm),
            ..Laying::default()
        };
        let found = laid(&text, inch).unwrap();
        assert!((found.outline.width_mm() - 24.0).abs() < 0.5 && !found.unit_known);
    }

    #[rstest]
    #[case("hello", "neither")]
    #[case("", "neither")]
    #[case(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"10mm\"><path d=\"M0 0L100 0\"/></svg>",
        "no closed"
    )]
    #[case(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"10mm\"/>",
        "no closed"
    )]
    fn what_is_no_outline_is_told(#[case] text: &str, #[case] words: &str) {
        let faults = read(text).unwrap_err();
        assert!(faults.to_string().contains(words), "{faults}");
    }

    #[test]
    fn what_is_asked_of_it_must_be_there() {
        let text = svg(
            "width=\"200mm\" viewBox=\"0 0 200 24\"",
            &format!("<path d=\"{BLADE}\"/>"),
        );
        let drawn = read(&text).unwrap();
        let which = Laying {
            which: 3,
            ..Laying::default()
        };
        assert_eq!(lay(&drawn, which).unwrap_err().0[0].field, "which");
        let heel = Laying {
            heel_mm: Some(400.0),
            ..Laying::default()
        };
        assert_eq!(lay(&drawn, heel).unwrap_err().0[0].field, "heel_mm");
        let large = "x".repeat(MAX_BYTES + 1);
        assert!(read(&large).is_err());
    }
}
