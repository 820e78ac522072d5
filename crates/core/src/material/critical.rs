//! Critical temperatures from composition, °C.
//!
//! Andrews 1965, "Empirical formulae for the calculation of some transformation temperatures",
//! Journal of the Iron and Steel Institute 203, 721–727. The formulas hold for carbon up to about
//! 0.6 % and low alloy; [`andrews_holds`] says whether an analysis is inside.

use crate::material::analysis::Analysis;

/// The temperature at which the magnet lets go, °C: the Curie point of iron, 770 °C, or lower where alloy
/// takes Ac1 below that of plain steel and austenite forms first.
#[must_use]
pub fn non_magnetic_c(ac1_c: f64) -> f64 {
    770.0 - (727.0 - ac1_c).clamp(0.0, 100.0)
}

/// Temperature where austenite begins to form on heating, °C. Andrews 1965.
#[must_use]
pub fn ac1_c(a: &Analysis) -> f64 {
    723.0 - 10.7 * a.manganese - 16.9 * a.nickel
        + 29.1 * a.silicon
        + 16.9 * a.chromium
        + 6.4 * a.tungsten
}

/// Temperature where the last ferrite turns to austenite in a lean steel, °C. Andrews 1965.
#[must_use]
pub fn ac3_c(a: &Analysis) -> f64 {
    910.0 - 203.0 * a.carbon.max(0.0).sqrt() - 30.0 * a.manganese - 15.2 * a.nickel
        + 44.7 * a.silicon
        + 104.0 * a.vanadium
        + 31.5 * a.molybdenum
        + 13.1 * a.tungsten
        - 11.0 * a.chromium
}

/// Temperature where the last carbide would dissolve in a carbon-rich steel, °C.
///
/// The straight line of the iron–carbon diagram from 0.77 % at 727 °C to 2.11 % at 1147 °C, raised
/// 20 °C for each percent of chromium (fitted to the built-in table).
#[must_use]
pub fn acm_c(a: &Analysis) -> f64 {
    727.0 + 313.4 * (a.carbon - 0.77) + 20.0 * a.chromium.min(6.0)
}

/// Temperature where martensite starts to form on cooling, °C, from what is *dissolved*. Andrews 1965.
#[must_use]
pub fn martensite_start_c(dissolved: &Analysis) -> f64 {
    539.0
        - 423.0 * dissolved.carbon
        - 30.4 * dissolved.manganese
        - 17.7 * dissolved.nickel
        - 12.1 * dissolved.chromium
        - 7.5 * dissolved.molybdenum
}

/// True inside the composition range of the formulas (carbon to 0.6 %, manganese to 2, silicon to
/// 1.8, chromium and nickel to 5, molybdenum to 1): outside, predictions are widened.
#[must_use]
pub fn andrews_holds(a: &Analysis) -> bool {
    a.carbon <= 0.6
        && a.manganese <= 2.0
        && a.silicon <= 1.8
        && a.chromium <= 5.0
        && a.nickel <= 5.0
        && a.molybdenum <= 1.0
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn lean(carbon: f64, manganese: f64) -> Analysis {
        Analysis {
            carbon,
            manganese,
            ..Analysis::default()
        }
    }

    #[rstest]
    #[case(lean(0.2, 0.5), true)]
    #[case(lean(0.9, 0.5), false)]
    #[case(Analysis { chromium: 13.0, ..lean(0.4, 0.5) }, false)]
    fn range_of_the_formulas(#[case] analysis: Analysis, #[case] inside: bool) {
        assert_eq!(andrews_holds(&analysis), inside);
    }

    #[test]
    fn the_magnet_lets_go_earlier_where_austenite_forms_earlier() {
        assert_eq!(non_magnetic_c(730.0), 770.0);
        assert_eq!(non_magnetic_c(700.0), 743.0);
    }

    #[test]
    fn alloy_moves_the_temperatures_the_way_it_should() {
        let plain = lean(0.8, 0.5);
        let nickel = Analysis {
            nickel: 2.0,
            ..plain
        };
        assert!(ac1_c(&nickel) < ac1_c(&plain));
        assert!(martensite_start_c(&lean(1.0, 0.5)) < martensite_start_c(&plain));
        assert!(acm_c(&lean(1.0, 0.3)) > acm_c(&plain));
        assert!(ac3_c(&lean(0.3, 0.3)) > ac3_c(&lean(0.6, 0.3)));
    }
}
