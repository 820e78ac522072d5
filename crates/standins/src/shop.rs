//! A shop that is not there: what really comes out of its fire. Its truth is another than the engine's, so that
//! what is learned from its records is held against something the engine did not write.

use vatten_core::material::analysis::Analysis;
use vatten_core::material::dissolution::Dissolved;
use vatten_core::material::medium::Medium;
use vatten_core::material::steel::Steel;
use vatten_core::process::plan::Plan;
use vatten_core::process::step::Step;
use vatten_core::process::workpiece::Workpiece;
use vatten_core::quantity::units::{Celsius, Kelvins, Seconds};
use vatten_core::simulation::heat::{Heat, Section};
use vatten_core::simulation::physics::{Hardened, Shift, stages};

/// How things really are in a shop.
#[derive(Debug, Clone)]
pub struct Shop {
    /// The fire is hotter than it shows, K.
    pub kiln: Kelvins,
    /// The oven is hotter than it shows, K.
    pub oven: Kelvins,
    /// A steel that turns so many times slower than computed.
    pub slow_steel: (&'static str, f64),
    /// A medium that takes heat so many times as fast as its kind.
    pub tank: (Medium, f64),
    /// Tempers soften more (above) or less (below 230 °C) than published, HRC for each 100 K.
    pub tilt_hrc_per_100k: f64,
}

/// What a blade of the shop came out as, before scatter: HRC.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CameOut {
    /// From the quench and any cold.
    pub as_quenched_hrc: f64,
    /// After the last temper.
    pub tempered_hrc: f64,
}

/// Retained austenite by an older law, 0 to 1: Koistinen and Marburger 1959 with the martensite start of Andrews
/// 1965, which the engine does not use.
fn retained(d: &Dissolved, coldest_c: f64) -> f64 {
    let Analysis {
        carbon,
        manganese,
        nickel,
        chromium,
        molybdenum,
        ..
    } = d.composition;
    let start = 539.0
        - 423.0 * carbon
        - 30.4 * manganese
        - 17.7 * nickel
        - 12.1 * chromium
        - 7.5 * molybdenum;
    (-0.011 * (start - coldest_c).max(0.0)).exp().min(0.45)
}

impl Shop {
    /// What comes out of `plan` when it takes `transfer` from the fire to the bath.
    #[must_use]
    pub fn came_out(
        &self,
        work: &Workpiece,
        plan: &Plan,
        steel: &Steel,
        transfer: Seconds,
    ) -> CameOut {
        let mut steps = plan.steps().to_vec();
        if let Some(Step::Quench { stages }) = plan.last_quench().map(|i| &mut steps[i])
            && let Some(first) = stages.first_mut()
        {
            first.transfer_s = Some(transfer);
        }
        let plan = plan.with_steps(steps);
        let mut heat = Heat::new(work, &plan, steel, self.kiln);
        if steel.key == self.slow_steel.0 {
            heat.kinetics = heat.kinetics.slowed(self.slow_steel.1);
        }
        let baths = stages(&plan);
        let film = match baths.first() {
            Some(first) if first.medium == self.tank.0 => self.tank.1,
            _ => 1.0,
        };
        let section = Section::with_film(&heat, &work.form, &work.clay, &baths, film);
        let shift = Shift {
            kiln: self.kiln,
            ..Shift::default()
        };
        let hardened = Hardened::new(&plan, steel, &section, shift);
        let coldest_c = plan
            .steps()
            .iter()
            .fold(20.0, |cold: f64, step| match step {
                Step::SubZero { temperature_c, .. } => cold.min(temperature_c.value()),
                _ => cold,
            });
        let left = retained(&hardened.dissolved, coldest_c);
        let real = |t: Celsius| t.plus(self.oven);
        // The cold is in the austenite that is left already.
        let treatments = hardened.treatments(real, false);
        let read = |treatments: &[_]| {
            let (hard, _) = steel.hardened_hrc(&hardened.dissolved, left, treatments);
            section.reading.face.hrc(hard)
        };
        let hottest = plan.steps().iter().filter_map(|step| match step {
            Step::Temper { temperature_c, .. } => Some(temperature_c.value()),
            _ => None,
        });
        let tilt = hottest
            .reduce(f64::max)
            .map_or(0.0, |t| self.tilt_hrc_per_100k * (t - 230.0) / 100.0);
        CameOut {
            as_quenched_hrc: read(&[]),
            tempered_hrc: read(&treatments) - tilt,
        }
    }
}
