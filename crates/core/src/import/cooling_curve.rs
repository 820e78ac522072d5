//! The cooling curve of a probe as loggers write it.

use crate::import::log;
use crate::quantity::validation::Faults;
use crate::record::cooling_curve::CoolingCurve;

/// Reads the file of a logger: columns in any order, °C or °F by their heading, by the rules of [`log::read`].
///
/// # Errors
/// Faults at `text`: as [`log::read`] and [`CoolingCurve::parse`].
pub fn read(text: &str) -> Result<CoolingCurve, Faults> {
    let log = log::read(text, None).map_err(|mut faults| {
        for fault in &mut faults.0 {
            "text".clone_into(&mut fault.field);
        }
        faults
    })?;
    let first = log.samples.first().map_or(0, |s| s.at_ms);
    let points = log.samples.iter();
    CoolingCurve::parse(
        points
            .map(|s| [(s.at_ms - first) as f64 / 1000.0, s.celsius])
            .collect(),
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::fmt::Write;

    /// A made-up oil, four times a second.
    fn file(head: &str, of: impl Fn(f64) -> f64) -> String {
        let mut text = format!("Time (s),{head}\n");
        let mut celsius = 850.0_f64;
        let mut i = 0;
        while celsius > 150.0 {
            writeln!(text, "{:.2},{:.2}", 0.25 * f64::from(i), of(celsius)).unwrap();
            celsius -= 0.25 * (8.0 + 50.0 * (-((celsius - 560.0) / 110.0).powi(2)).exp());
            i += 1;
        }
        text
    }

    #[test]
    fn a_file_in_fahrenheit_is_the_same_curve() {
        let c = read(&file("Temperature (C)", |t| t)).unwrap();
        let f = read(&file("Temperature (F)", |t| 1.8 * t + 32.0)).unwrap();
        let at = |curve: &CoolingCurve| curve.passes_s(500.0).unwrap();
        assert!((at(&c) - at(&f)).abs() < 0.02, "{} {}", at(&c), at(&f));
    }

    #[test]
    fn what_is_no_table_is_refused_at_the_text() {
        for text in ["", "a,b\n1,2\n", "no numbers at all"] {
            assert_eq!(read(text).unwrap_err().0[0].field, "text");
        }
    }
}
