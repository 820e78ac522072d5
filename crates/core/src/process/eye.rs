//! The eye of a smith: how far what it calls a colour is off, and how widely it scatters, from looks that a
//! thermocouple was read beside.
//!
//! Looks are normal about the eye's own offset, with the scatter of the light times a factor of the eye; offset normal
//! and factor scaled inverse chi-square before any look (Gelman et al. 2013, "Bayesian Data Analysis", chapter 3), found
//! by turns (expectation and maximization).

use crate::process::sighting::{Glow, Light};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A colour that was named, and what the thermocouple said.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = EyeLook))]
pub struct Look {
    /// When, s since 1970.
    pub at_s: i64,
    /// Named.
    pub colour: Glow,
    /// In this light.
    pub light: Light,
    /// The thermocouple, °C.
    pub really_c: f64,
    /// The station whose thermocouple it was, where that is known: its checks say what it really was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shown_by: Option<Uuid>,
}

/// Steel glows between these, °C: what a look can be held against.
pub const GLOWS_C: (f64, f64) = (400.0, 1300.0);

/// An eye as far as it is known.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Eye {
    /// How much hotter steel is than the names say where this eye calls a colour, °C.
    pub offset_c: f64,
    /// One standard deviation of that, °C.
    pub doubt_c: f64,
    /// How far one look is off against what is usual in its light, as a factor.
    pub scatter: f64,
    /// Looks it is known from.
    pub looks: usize,
}

/// How far eyes are off, one standard deviation, °C.
const OFFSET_C: f64 = 18.0;
/// Looks that the usual scatter is worth.
const WORTH: f64 = 5.0;

impl Default for Eye {
    /// An eye that nobody tried.
    fn default() -> Self {
        Self {
            offset_c: 0.0,
            doubt_c: OFFSET_C,
            scatter: 1.0,
            looks: 0,
        }
    }
}

impl Eye {
    /// From its looks.
    #[must_use]
    pub fn of(looks: &[Look]) -> Self {
        let off: Vec<(f64, f64)> = looks
            .iter()
            .map(|l| (l.really_c - l.colour.usual_c(l.light), l.light.look_c()))
            .filter(|(off, _)| off.is_finite())
            .collect();
        let mut eye = Self {
            looks: off.len(),
            ..Self::default()
        };
        if off.is_empty() {
            return eye;
        }
        for _ in 0..40 {
            let weight = |look: f64| (eye.scatter * look).powi(-2);
            let precision = OFFSET_C.powi(-2) + off.iter().map(|o| weight(o.1)).sum::<f64>();
            let sum: f64 = off.iter().map(|o| weight(o.1) * o.0).sum();
            let (offset, variance) = (sum / precision, 1.0 / precision);
            let squares: f64 = off
                .iter()
                .map(|(o, look)| ((o - offset).powi(2) + variance) / (look * look))
                .sum();
            eye.offset_c = offset;
            eye.doubt_c = variance.sqrt();
            eye.scatter = ((WORTH + squares) / (WORTH + off.len() as f64)).sqrt();
        }
        eye
    }

    /// How hot steel is that it calls a colour, °C, and how far one look is off, one standard deviation, °C.
    #[must_use]
    pub fn sees(&self, colour: Glow, light: Light) -> (f64, f64) {
        (
            colour.usual_c(light) + self.offset_c,
            self.scatter * light.look_c(),
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn looks(off: &[f64]) -> Vec<Look> {
        off.iter()
            .enumerate()
            .map(|(i, off)| {
                let (colour, light) = (Glow::ALL[3 + i % 4], Light::ALL[i % 3]);
                Look {
                    at_s: i as i64,
                    colour,
                    light,
                    really_c: colour.usual_c(light) + off,
                    shown_by: None,
                }
            })
            .collect()
    }

    #[test]
    fn an_eye_that_nobody_tried_is_right_on_the_mean() {
        let eye = Eye::of(&[]);
        assert_eq!(eye, Eye::default());
        // A colour alone: within 25 °C in the dark to 40 °C in daylight, one standard deviation.
        for (light, within) in [
            (Light::Dark, 25.0),
            (Light::Dim, 30.0),
            (Light::Daylight, 40.0),
        ] {
            let whole = eye.doubt_c.hypot(eye.sees(Glow::Cherry, light).1);
            assert!((whole - within).abs() < 0.6, "{light:?} {whole}");
        }
    }

    #[test]
    fn an_eye_that_reads_low_is_found() {
        // It says a colour where the steel is 20 °C hotter than the name.
        let eye = Eye::of(&looks(&[
            35.0, 8.0, 22.0, 14.0, 31.0, 10.0, 20.0, 18.0, 24.0, 21.0,
        ]));
        assert!((eye.offset_c - 20.0).abs() < 5.0, "{eye:?}");
        assert!(eye.doubt_c < 8.0 && eye.scatter < 0.9 && eye.looks == 10);
        let one = Eye::of(&looks(&[20.0]));
        assert!(one.offset_c > 3.0 && one.offset_c < 15.0 && one.doubt_c < OFFSET_C);
    }

    #[test]
    fn an_eye_that_scatters_is_found() {
        let steady = Eye::of(&looks(&[5.0, -5.0, 4.0, -4.0, 6.0, -6.0, 5.0, -5.0]));
        let wild = Eye::of(&looks(&[
            60.0, -70.0, 80.0, -50.0, 65.0, -75.0, 70.0, -80.0,
        ]));
        assert!(
            steady.scatter < 0.75 && wild.scatter > 1.6,
            "{steady:?} {wild:?}"
        );
        assert!(wild.doubt_c > steady.doubt_c);
    }

    #[test]
    fn nonsense_is_left_out() {
        let mut all = looks(&[10.0, 12.0]);
        all[0].really_c = f64::NAN;
        assert_eq!(Eye::of(&all).looks, 1);
    }
}
