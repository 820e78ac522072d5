//! What hot steel looks like: the light that a black body gives off (Planck), through the eye (CIE 1931 observer, as
//! fitted by Wyman, Sloan and Shirley 2013, J. Computer Graphics Techniques 2, 1), on a screen (sRGB, IEC 61966-2-1).
//! How bright it looks goes with the cube root of its luminance (Stevens 1957) against what the eye is used to.

use crate::process::sighting::Light;

/// Radiation constants: 2hc² in W m²/sr, hc/k in m K (CODATA 2018).
const TWICE_HC2: f64 = 1.191_042_972e-16;
const SECOND: f64 = 0.014_387_768_77;
/// Luminous efficacy at its peak, lm/W.
const EFFICACY: f64 = 683.0;

/// Spectral radiance of a black body, W/(m² sr m).
fn radiance(wavelength_m: f64, kelvin: f64) -> f64 {
    TWICE_HC2 / wavelength_m.powi(5) / ((SECOND / (wavelength_m * kelvin)).exp() - 1.0)
}

/// Observer functions at a wavelength, nm.
fn observer(nm: f64) -> [f64; 3] {
    let lobe = |middle: f64, below: f64, above: f64| {
        let width = if nm < middle { below } else { above };
        (-0.5 * ((nm - middle) * width).powi(2)).exp()
    };
    [
        0.362 * lobe(442.0, 0.0624, 0.0374) + 1.056 * lobe(599.8, 0.0264, 0.0323)
            - 0.065 * lobe(501.1, 0.0490, 0.0382),
        0.821 * lobe(568.8, 0.0213, 0.0247) + 0.286 * lobe(530.9, 0.0613, 0.0322),
        1.217 * lobe(437.0, 0.0845, 0.0278) + 0.681 * lobe(459.0, 0.0385, 0.0725),
    ]
}

/// Tristimulus values of a black body, cd/m² in the second.
fn tristimulus(kelvin: f64) -> [f64; 3] {
    const STEP_NM: f64 = 5.0;
    let mut sum = [0.0; 3];
    for i in 0..=84 {
        let nm = 360.0 + STEP_NM * f64::from(i);
        let power = EFFICACY * radiance(nm * 1e-9, kelvin) * STEP_NM * 1e-9;
        for (sum, part) in sum.iter_mut().zip(observer(nm)) {
            *sum += power * part;
        }
    }
    sum
}

/// Luminance of glowing steel, cd/m².
#[must_use]
pub fn luminance(temperature_c: f64) -> f64 {
    tristimulus(temperature_c + 273.15)[1]
}

/// Luminance that fills a screen where the eye is used to a light, cd/m².
const fn full_cd_m2(light: Light) -> f64 {
    match light {
        Light::Dark => 150.0,
        Light::Dim => 300.0,
        Light::Daylight => 1200.0,
    }
}

/// What a scaled blade sends back of the light around it, as a share of a full screen.
const fn sent_back(light: Light) -> f64 {
    match light {
        Light::Dark => 0.002,
        Light::Dim => 0.012,
        Light::Daylight => 0.06,
    }
}

/// Red, green and blue of a screen, 0 to 255, for steel that glows at a temperature, °C, in a light.
#[must_use]
pub fn chip(temperature_c: f64, light: Light) -> [u8; 3] {
    let [x, y, z] = tristimulus(temperature_c.clamp(300.0, 1500.0) + 273.15);
    let looks = (y / full_cd_m2(light)).cbrt().powi(2).min(1.0);
    let scale = looks / y;
    let linear = [
        3.2406 * x - 1.5372 * y - 0.4986 * z,
        -0.9689 * x + 1.8758 * y + 0.0415 * z,
        0.0557 * x - 0.2040 * y + 1.0570 * z,
    ];
    // Redder than any screen: what is below nothing is nothing. What is brighter than it goes over into yellow, as it
    // does for the eye.
    linear.map(|c| {
        let shown = ((c * scale).max(0.0) + sent_back(light)).min(1.0);
        let coded = if shown <= 0.003_130_8 {
            12.92 * shown
        } else {
            1.055 * shown.powf(1.0 / 2.4) - 0.055
        };
        (255.0 * coded).round() as u8
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::process::sighting::Glow;

    #[test]
    fn a_black_body_has_its_published_colour_and_luminance() {
        // CIE 15: illuminant A is a black body of 2856 K (1.4388 cm K), x 0.4476, y 0.4074.
        let [x, y, z] = tristimulus(2855.5);
        let sum = x + y + z;
        assert!((x / sum - 0.4476).abs() < 0.004, "{}", x / sum);
        assert!((y / sum - 0.4074).abs() < 0.004, "{}", y / sum);
        // The candela of before 1979: 60 cd/cm² at the freezing point of platinum, 2042 K.
        let platinum = luminance(2041.4 - 273.15);
        assert!((platinum / 6.0e5 - 1.0).abs() < 0.03, "{platinum}");
    }

    #[test]
    fn hotter_is_brighter_and_goes_from_red_to_yellow() {
        for light in [Light::Dark, Light::Dim, Light::Daylight] {
            let chips: Vec<[u8; 3]> = Glow::ALL
                .iter()
                .map(|g| chip(g.usual_c(light), light))
                .collect();
            for pair in chips.windows(2) {
                let sum = |c: [u8; 3]| c.iter().map(|v| u32::from(*v)).sum::<u32>();
                assert!(sum(pair[1]) > sum(pair[0]), "{light:?} {chips:?}");
            }
            println!("{light:?} {chips:?}");
            let green = |c: [u8; 3]| f64::from(c[1]) / f64::from(c[0]);
            assert!(green(chips[9]) > green(chips[4]) && chips[9][0] >= chips[9][1]);
        }
        // The same steel looks darker by day.
        assert!(chip(800.0, Light::Daylight)[0] < chip(800.0, Light::Dark)[0]);
        // Nothing to be seen is no error.
        assert_eq!(
            chip(f64::NEG_INFINITY, Light::Dark),
            chip(300.0, Light::Dark)
        );
    }
}
