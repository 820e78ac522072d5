//! What the server itself prints, in the units of who reads: the clay sheet. Everything on the screen is told by
//! the front end.

/// What lengths are written in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LengthUnit {
    /// Millimetres.
    Millimetre,
    /// Inches.
    Inch,
}

/// An inch, mm.
const INCH_MM: f64 = 25.4;

/// A ruler to check a printer by.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ruler {
    /// Its length, mm.
    pub length_mm: f64,
    /// Parts it is divided into, the fifth or the whole ones taller.
    pub parts: u32,
    /// Every so many of them is tall.
    pub tall_every: u32,
}

impl LengthUnit {
    /// The unit by its name in the API: `mm` or `in`.
    #[must_use]
    pub fn parse(text: &str) -> Option<Self> {
        match text {
            "mm" => Some(Self::Millimetre),
            "in" => Some(Self::Inch),
            _ => None,
        }
    }

    /// A length: a tenth of a millimetre or a hundredth of an inch.
    #[must_use]
    pub fn length(self, mm: f64) -> String {
        match self {
            Self::Millimetre => format!("{mm:.1} mm"),
            Self::Inch => format!("{:.2} in", mm / INCH_MM),
        }
    }

    /// A ruler of 100 mm by centimetres, or of four inches by quarters.
    #[must_use]
    pub const fn ruler(self) -> Ruler {
        match self {
            Self::Millimetre => Ruler {
                length_mm: 100.0,
                parts: 10,
                tall_every: 5,
            },
            Self::Inch => Ruler {
                length_mm: 4.0 * INCH_MM,
                parts: 16,
                tall_every: 4,
            },
        }
    }

    /// How the ruler is used.
    #[must_use]
    pub fn measure_it(self) -> String {
        let long = match self {
            Self::Millimetre => "100 mm",
            Self::Inch => "4 in",
        };
        format!("Measure it: {long}. If not, print again at 100 %, without fitting to the page.")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_ruler_is_as_long_as_it_says_in_either_unit() {
        let inch = LengthUnit::parse("in").unwrap();
        assert_eq!(inch.length(25.4), "1.00 in");
        assert_eq!(inch.ruler().length_mm, 101.6);
        assert!(inch.measure_it().contains("4 in"));
        assert_eq!(LengthUnit::parse("mm"), Some(LengthUnit::Millimetre));
        assert_eq!(LengthUnit::Millimetre.length(2.04), "2.0 mm");
        assert_eq!(LengthUnit::parse("furlong"), None);
    }
}
