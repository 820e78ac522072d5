//! A simulated ISO 9950 probe: an Inconel 600 cylinder, 12.5 mm across, quenched from 850 °C with a
//! thermocouple at its centre. It ties the film tables to what quenchants are measured by.

use crate::process::heat_transfer::Film;
use serde::{Deserialize, Serialize};

/// What the probe's cooling curve shows.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = ProbeCurve))]
pub struct Curve {
    /// Fastest cooling, °C/s.
    pub max_rate_c_s: f64,
    /// Temperature at which the centre cools fastest, °C.
    pub temp_of_max_c: f64,
    /// Cooling rate as the centre passes 300 °C, °C/s.
    pub rate_at_300_c_s: f64,
}

const RADIUS: f64 = 6.25e-3;
const RINGS: usize = 25;
const DENSITY: f64 = 8420.0;

/// Conductivity of Inconel 600, W/mK (maker-independent handbook line).
fn conductivity(t: f64) -> f64 {
    14.6 + 0.0157 * t
}

/// Specific heat of Inconel 600, J/kgK.
fn specific_heat(t: f64) -> f64 {
    440.0 + 0.21 * t
}

/// The probe at one moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Moment {
    /// Since it went in, s.
    pub time_s: f64,
    /// Centre, °C.
    pub centre_c: f64,
    /// Surface, °C.
    pub surface_c: f64,
    /// How fast the centre cools, °C/s.
    pub rate_c_s: f64,
}

/// Nearer than this to the bath, °C, it is as good as cold.
const COLD_C: f64 = 40.0;
/// Longest that it is followed, s.
const LONGEST_S: f64 = 1200.0;

/// Quenches the probe in `film` from `start_c`, °C, until it is near the bath or near 100 °C. Explicit rings; the step
/// keeps the thinnest ring stable.
#[must_use]
pub fn trace(film: &Film, start_c: f64) -> Vec<Moment> {
    let width = RADIUS / RINGS as f64;
    let step = 0.2 * width * width * DENSITY * 440.0 / conductivity(850.0);
    let mut t = [start_c; RINGS];
    // The coefficient is written for the surface, half a ring outside the last node.
    let mut surface = start_c;
    let mut moments = vec![Moment {
        time_s: 0.0,
        centre_c: start_c,
        surface_c: start_c,
        rate_c_s: 0.0,
    }];
    // Rates are read over a tenth of a second, as a logger does.
    let every = ((0.1 / step).round() as usize).max(1);
    let end_c = (film.bath_c() + COLD_C).max(100.0);
    let mut before = start_c;
    for n in 1..(LONGEST_S / step) as usize {
        let mut flow = [0.0_f64; RINGS + 1];
        for i in 1..RINGS {
            let k = conductivity(0.5 * (t[i] + t[i - 1]));
            flow[i] = k * (t[i - 1] - t[i]) / width * (i as f64 * width);
        }
        let resistance = 0.5 * width / conductivity(surface);
        let h = film.at(surface);
        let flux = (t[RINGS - 1] - film.bath_c()) / (1.0 / h + resistance);
        surface = t[RINGS - 1] - flux * resistance;
        flow[RINGS] = flux * RADIUS;
        for i in 0..RINGS {
            let area = 0.5 * width * width * (2 * i + 1) as f64;
            t[i] += step * (flow[i] - flow[i + 1]) / (area * DENSITY * specific_heat(t[i]));
        }
        if n % every == 0 {
            let time_s = n as f64 * step;
            moments.push(Moment {
                time_s,
                centre_c: t[0],
                surface_c: surface,
                rate_c_s: (before - t[0]) / (every as f64 * step),
            });
            before = t[0];
            if t[0] < end_c {
                break;
            }
        }
    }
    moments
}

/// The figures of the probe quenched in `film` from 850 °C.
#[must_use]
pub fn quench(film: &Film) -> Curve {
    let mut curve = Curve {
        max_rate_c_s: 0.0,
        temp_of_max_c: 850.0,
        rate_at_300_c_s: 0.0,
    };
    for pair in trace(film, 850.0).windows(2) {
        let (from, to) = (pair[0].centre_c, pair[1].centre_c);
        let rate = pair[1].rate_c_s;
        if rate > curve.max_rate_c_s {
            (curve.max_rate_c_s, curve.temp_of_max_c) = (rate, 0.5 * (from + to));
        }
        if from >= 300.0 && to < 300.0 {
            curve.rate_at_300_c_s = rate;
            break;
        }
    }
    curve
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::medium::Medium;
    use crate::process::heat_transfer::Agitation;
    use crate::quantity::units::{Celsius, Quantity};

    #[test]
    fn every_medium_lands_in_its_published_window() {
        let mut reader = csv::ReaderBuilder::new()
            .comment(Some(b'#'))
            .from_reader(include_str!("../../data/media.csv").as_bytes());
        let mut seen = 0;
        let mut wrong = Vec::new();
        for row in reader.records().map(Result::unwrap) {
            let medium = Medium::parse(&row[0]).unwrap();
            let number = |i: usize| row[i].parse::<f64>().unwrap();
            let moved = if medium == Medium::Water {
                Agitation::Still
            } else {
                Agitation::Moved
            };
            let film = Film::new(medium, Celsius::clamped(number(2)), moved);
            let got = quench(&film);
            for (what, value, low, high) in [
                ("fastest", got.max_rate_c_s, number(3), number(4)),
                ("at", got.temp_of_max_c, number(5), number(6)),
                ("at 300", got.rate_at_300_c_s, number(7), number(8)),
            ] {
                if !(low..=high).contains(&value) {
                    wrong.push(format!(
                        "{}: {what} {value:.1} not {low} to {high}",
                        &row[0]
                    ));
                }
            }
            seen += 1;
        }
        assert_eq!(seen, 9);
        assert!(wrong.is_empty(), "{wrong:#?}");
    }
}
