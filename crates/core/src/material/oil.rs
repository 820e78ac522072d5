//! How thick an oil is by its temperature, and what that does to the heat it carries off.

use crate::material::medium::Medium;

/// Kinematic viscosity at 40 and at 100 °C, mm²/s, typical of its kind: quench oils by their usual ISO VG classes
/// (ISO 3448: 10, 22, 32, 100), rapeseed oil at most 36 at 40 °C (DIN 51605), engine oil SAE 30 (SAE
/// J300: 9.3 to 12.5 at 100 °C).
const fn typical(medium: Medium) -> Option<(f64, f64)> {
    match medium {
        Medium::FastOil => Some((10.0, 2.6)),
        Medium::MediumOil => Some((22.0, 4.3)),
        Medium::SlowOil => Some((32.0, 5.4)),
        Medium::WarmOil => Some((100.0, 11.2)),
        Medium::VegetableOil => Some((35.0, 8.0)),
        Medium::UsedEngineOil => Some((95.0, 10.8)),
        _ => None,
    }
}

/// Kinematic viscosity of a kind of oil at a temperature, °C, in mm²/s: the Walther equation of ASTM D341,
/// lg lg(ν + 0.7) = A − B lg T. None of what is no oil.
#[must_use]
pub fn viscosity_mm2_s(medium: Medium, bath_c: f64) -> Option<f64> {
    let (at_40, at_100) = typical(medium)?;
    let lower = |v: f64| (v + 0.7).log10().log10();
    let kelvin = |t: f64| (t + 273.15).max(200.0).log10();
    let slope = (lower(at_40) - lower(at_100)) / (kelvin(100.0) - kelvin(40.0));
    let of = lower(at_40) - slope * (kelvin(bath_c) - kelvin(40.0));
    Some((10f64.powf(10f64.powf(of)) - 0.7).max(0.2))
}

/// How much more heat it carries off below the boiling than at its usual temperature: along a moved blade the Nusselt
/// number goes with Re^½ Pr^⅓, so with ν^(−1/6) (Incropera and DeWitt 2007, 7.30). 1 of what is no oil.
#[must_use]
pub fn convection(medium: Medium, bath_c: f64) -> f64 {
    let usual = medium.usual_bath().value();
    let (Some(at), Some(as_usual)) = (
        viscosity_mm2_s(medium, bath_c),
        viscosity_mm2_s(medium, usual),
    ) else {
        return 1.0;
    };
    (at / as_usual).powf(-1.0 / 6.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_is_as_thick_as_its_kind_says_and_thins_when_warm() {
        for medium in Medium::ALL.iter().filter(|m| m.is_oil()) {
            let (at_40, at_100) = typical(*medium).unwrap();
            let at = |t| viscosity_mm2_s(*medium, t).unwrap();
            assert!((at(40.0) / at_40 - 1.0).abs() < 1e-9);
            assert!((at(100.0) / at_100 - 1.0).abs() < 1e-9);
            assert!(at(0.0) > at(20.0) && at(20.0) > at(60.0));
        }
        assert_eq!(viscosity_mm2_s(Medium::Water, 20.0), None);
    }

    #[test]
    fn rapeseed_oil_is_as_its_standard_wants_it() {
        // At most 36 mm²/s at 40 °C (DIN 51605); twice as thick at room temperature, as tables of oils have it.
        let at = |t| viscosity_mm2_s(Medium::VegetableOil, t).unwrap();
        assert!(
            at(40.0) < 36.0 && (65.0..85.0).contains(&at(20.0)),
            "{}",
            at(20.0)
        );
    }

    #[test]
    fn cold_oil_carries_off_less_and_hot_oil_more() {
        let cold = convection(Medium::MediumOil, 10.0);
        assert!((0.7..0.9).contains(&cold), "{cold}");
        assert!(convection(Medium::MediumOil, 90.0) > 1.05);
        assert_eq!(convection(Medium::MediumOil, 50.0), 1.0);
        assert_eq!(convection(Medium::Water, 5.0), 1.0);
    }
}
