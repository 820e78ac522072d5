//! What came of a blade besides tested hardness: the hamon, how it bent, whether it cracked, what the
//! files said.

use crate::fault::{Checker, Faults};
use crate::reading::When;
use crate::units::{Hrc, Quantity};
use serde::{Deserialize, Serialize};

/// Most places where a line is measured.
pub const MAX_PLACES: usize = 60;

/// One thing found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Finding {
    /// The hamon, measured at one or more places.
    Line {
        /// Height above the edge by place: [x from the heel, mm], 1 to 60 places.
        places: Vec<[f64; 2]>,
        /// Width of the band from hard to soft, 0 to 100 mm, when measured.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        band_mm: Option<f64>,
    },
    /// Sideways sag straight from the quench, before straightening.
    Side {
        /// −100 to 100 mm; 0 is straight.
        sag_mm: f64,
    },
    /// It cracked, or it was looked for and did not.
    Crack {
        /// Whether it did.
        cracked: bool,
    },
    /// Two files: one skates, the next harder one bites.
    File {
        /// When.
        stage: When,
        /// Hardness of the file that skates, 0 to 70 HRC.
        low_hrc: f64,
        /// Hardness of the file that bites, 0 to 70 HRC.
        high_hrc: f64,
    },
}

impl Finding {
    /// Checks the numbers.
    ///
    /// # Errors
    /// Faults such as `places[2][1]`, `band_mm`, `sag_mm`, `low_hrc`.
    pub fn check(&self) -> Result<(), Faults> {
        let mut c = Checker::default();
        let mut within = |field: String, value: f64, (low, high): (f64, f64)| {
            if !(low..=high).contains(&value) {
                c.refuse_allowing(
                    field,
                    format!("{value} mm is not possible."),
                    format!("{low} to {high} mm"),
                );
            }
        };
        match self {
            Self::Line { places, band_mm } => {
                for (i, [x, height]) in places.iter().enumerate().take(MAX_PLACES) {
                    within(format!("places[{i}][0]"), *x, (0.0, 1000.0));
                    within(format!("places[{i}][1]"), *height, (0.0, 300.0));
                }
                if let Some(band) = band_mm {
                    within("band_mm".to_owned(), *band, (0.0, 100.0));
                }
                if places.is_empty() || places.len() > MAX_PLACES {
                    c.refuse_allowing(
                        "places",
                        "A line is measured somewhere.",
                        format!("1 to {MAX_PLACES} places"),
                    );
                }
            }
            Self::Side { sag_mm } => within("sag_mm".to_owned(), *sag_mm, (-100.0, 100.0)),
            Self::Crack { .. } => {}
            Self::File {
                low_hrc, high_hrc, ..
            } => {
                c.take(Hrc::check("low_hrc", *low_hrc));
                c.take(Hrc::check("high_hrc", *high_hrc));
                if low_hrc >= high_hrc {
                    c.refuse(
                        "low_hrc",
                        "The file that skates is the softer one of the two.",
                    );
                }
            }
        }
        c.finish(Some(()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case(r#"{"kind":"line","places":[[20,11],[90,12.5]],"band_mm":3}"#, None)]
    #[case(r#"{"kind":"line","places":[]}"#, Some("places"))]
    #[case(r#"{"kind":"line","places":[[20,400]]}"#, Some("places[0][1]"))]
    #[case(r#"{"kind":"line","places":[[20,10]],"band_mm":-1}"#, Some("band_mm"))]
    #[case(r#"{"kind":"side","sag_mm":0.8}"#, None)]
    #[case(r#"{"kind":"side","sag_mm":800}"#, Some("sag_mm"))]
    #[case(r#"{"kind":"crack","cracked":false}"#, None)]
    #[case(
        r#"{"kind":"file","stage":"as_quenched","low_hrc":60,"high_hrc":65}"#,
        None
    )]
    #[case(
        r#"{"kind":"file","stage":"as_quenched","low_hrc":65,"high_hrc":60}"#,
        Some("low_hrc")
    )]
    #[case(
        r#"{"kind":"file","stage":"tempered","low_hrc":60,"high_hrc":75}"#,
        Some("high_hrc")
    )]
    fn numbers_are_checked_by_field(#[case] json: &str, #[case] field: Option<&str>) {
        let finding: Finding = serde_json::from_str(json).unwrap();
        match (finding.check(), field) {
            (Ok(()), None) => {}
            (Err(faults), Some(field)) => assert_eq!(faults.0[0].field, field),
            (got, _) => panic!("{got:?}"),
        }
    }

    #[test]
    fn what_is_no_finding_is_refused() {
        assert!(serde_json::from_str::<Finding>(r#"{"kind":"smell"}"#).is_err());
        assert!(serde_json::from_str::<Finding>(r#"{"kind":"side","sag_mm":1,"x":2}"#).is_err());
    }
}
