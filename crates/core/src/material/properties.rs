//! Thermal properties of blade steel and of clay. SI units: W/mK, J/kgK, kg/m³; temperatures in °C.
//!
//! One set serves all steels: above the transformation they are alike within a few percent, and what
//! decides a quench is the surface, not the metal. Values as in the handbooks for low-alloy austenite
//! cooling to room temperature (for example Incropera and DeWitt 2007, table A.1).

/// Conductivity of steel through a quench, W/mK.
pub const CONDUCTIVITY: f64 = 27.0;
/// Density of steel, kg/m³.
pub const DENSITY: f64 = 7750.0;
/// Heat set free when austenite turns to ferrite, pearlite or bainite, J/kg.
pub const PEARLITE_HEAT: f64 = 85e3;
/// Heat set free when austenite turns to martensite, J/kg.
pub const MARTENSITE_HEAT: f64 = 80e3;

const BASE: f64 = 560.0;
const SLOPE: f64 = 0.12;
const UPPER: f64 = 640.0;
const BREAK: f64 = 700.0;
const AT_BREAK: f64 = BASE * BREAK + 0.5 * SLOPE * BREAK * BREAK;

/// Specific heat without the heat of transformation, J/kgK: 560 + 0.12·T below 700 °C, 640 above.
#[inline]
#[must_use]
pub fn specific_heat(t: f64) -> f64 {
    if t < BREAK { BASE + SLOPE * t } else { UPPER }
}

/// Heat content above 0 °C without the heat of transformation, J/kg.
#[inline]
#[must_use]
pub fn heat_content(t: f64) -> f64 {
    if t < BREAK {
        t * (BASE + 0.5 * SLOPE * t)
    } else {
        AT_BREAK + UPPER * (t - BREAK)
    }
}

/// Temperature at a heat content, °C; the inverse of [`heat_content`] above −1000 °C.
#[inline]
#[must_use]
pub fn temperature(content: f64) -> f64 {
    if content < AT_BREAK {
        ((BASE * BASE + 2.0 * SLOPE * content).max(0.0).sqrt() - BASE) / SLOPE
    } else {
        BREAK + (content - AT_BREAK) / UPPER
    }
}

/// Stefan–Boltzmann constant, W/m²K⁴.
const STEFAN: f64 = 5.670_374e-8;

/// Heat transfer by radiation between a surface and surroundings, W/m²K, °C in.
#[must_use]
pub fn radiation(emissivity: f64, surface: f64, around: f64) -> f64 {
    let (a, b) = (surface + 273.15, around + 273.15);
    emissivity * STEFAN * (a * a + b * b) * (a + b)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn radiation_meets_the_textbook() {
        // A black surface at 1000 K to 300 K: 56.2 kW/m².
        let (hot, cold) = (1000.0 - 273.15, 300.0 - 273.15);
        let flux = radiation(1.0, hot, cold) * 700.0;
        assert!((flux - 56.24e3).abs() < 100.0, "{flux}");
    }

    proptest! {
        #[test]
        fn heat_content_goes_there_and_back(t in -196.0..1300.0_f64) {
            prop_assert!((temperature(heat_content(t)) - t).abs() < 1e-6);
        }

        #[test]
        fn heat_content_is_the_integral_of_specific_heat(t in -190.0..1290.0_f64) {
            let slope = (heat_content(t + 0.01) - heat_content(t - 0.01)) / 0.02;
            prop_assert!((slope - specific_heat(t)).abs() < 5.0);
        }
    }
}
