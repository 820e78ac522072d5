//! Heating a blade in a fire: when edge, spine and thickest part are at heat, and when the soak counts.
//!
//! A section is one lump of its thickness t (the Biot number stays under 0.1): both faces take
//! radiation and convection, ρ·c·(t/2)·dT/dt = εσ(Tf⁴ − T⁴) + h(Tf − T); forming austenite takes heat
//! near Ac1. A thick bolster and a stack of blades in a pipe are slabs. The fire dips when it is loaded and recovers with its own time constant.

use crate::material::dissolution::pace;
use crate::material::properties::{CONDUCTIVITY, DENSITY, PEARLITE_HEAT, radiation, specific_heat};
use crate::quantity::units::{Celsius, Kelvins, Quantity};
use crate::quantity::validation::{Faults, named};
use serde::{Deserialize, Serialize};

/// Kind of fire.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Default,
    Serialize,
    Deserialize,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Furnace {
    /// Electric kiln.
    #[default]
    Kiln,
    /// Gas or coal forge, open.
    Forge,
    /// Muffle pipe in a forge.
    Pipe,
    /// Charcoal fire, blown.
    Charcoal,
    /// Tempering or kitchen oven with a fan.
    Oven,
}

/// A fire as it behaves.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Behaviour {
    /// Convection, W/m²K.
    convection: f64,
    /// Effective emissivity between fire and scaled steel.
    emissivity: f64,
    /// Time constant of its recovery, s.
    recovery_s: f64,
    /// Dip when a kilogram goes in, °C.
    dip_per_kg_c: f64,
    /// Largest dip, °C.
    dip_most_c: f64,
}

impl Furnace {
    /// Every kind, with the identifier of the API.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// Finds a fire by identifier.
    ///
    /// # Errors
    /// There is no such fire; the fault lists them.
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        named(field, text, || format!("There is no fire called {text}."))
    }

    /// How far a blade in it is from what its instrument says, from fire to fire and beyond that of a kiln, one
    /// standard deviation, °C. Workshop experience.
    #[must_use]
    pub const fn scatter_c(self) -> f64 {
        match self {
            Self::Kiln | Self::Oven => 0.0,
            Self::Pipe => 6.0,
            Self::Forge => 14.0,
            Self::Charcoal => 18.0,
        }
    }

    /// How much hotter the tip runs than the middle of the blade, °C: it is thin, and lies in the hottest of the fire.
    /// Workshop experience.
    #[must_use]
    pub const fn tip_hotter_c(self) -> f64 {
        match self {
            Self::Kiln | Self::Oven => 0.0,
            Self::Pipe => 5.0,
            Self::Forge => 15.0,
            Self::Charcoal => 20.0,
        }
    }

    const fn behaviour(self) -> Behaviour {
        let (convection, emissivity, recovery_s, dip_per_kg_c, dip_most_c) = match self {
            Self::Kiln => (12.0, 0.8, 90.0, 70.0, 150.0),
            Self::Forge => (45.0, 0.85, 40.0, 20.0, 60.0),
            Self::Pipe => (15.0, 0.7, 90.0, 40.0, 120.0),
            Self::Charcoal => (35.0, 0.9, 30.0, 10.0, 40.0),
            Self::Oven => (25.0, 0.8, 200.0, 25.0, 60.0),
        };
        Behaviour {
            convection,
            emissivity,
            recovery_s,
            dip_per_kg_c,
            dip_most_c,
        }
    }
}

/// The opening of the door alone cools the fire by this, °C.
const DOOR_C: f64 = 30.0;
/// Every further blade in the same space shadows the others: time grows by this share.
const SHADOW: f64 = 0.35;
/// At heat means within this, °C.
const WITHIN_C: f64 = 5.0;
/// Given up after this, s.
const LONGEST_S: f64 = 6.0 * 3600.0;

/// What is put in, and into what.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Load {
    /// The fire.
    pub furnace: Furnace,
    /// What it is set to, °C.
    pub set_c: f64,
    /// Temperature of the blade when it goes in, °C.
    pub start_c: f64,
    /// Mass of one blade, kg.
    pub mass_kg: f64,
    /// Blades put in together.
    pub blades: u32,
}

/// Above this thickness the middle lags behind the face, mm: there the Biot number passes 0.1 at red heat.
const LUMP_MM: f64 = 25.0;
/// Conductivity across blades stacked flat: steel, scale and air between, W/mK.
const STACKED: f64 = CONDUCTIVITY / 5.0;
/// Most cells from the face to the middle of a slab.
const SLAB_CELLS: usize = 12;
/// Thinnest of them, mm.
const THINNEST_CELL_MM: f64 = 0.75;

/// Time until a section of `thickness_mm` is within 5 °C of the fire's set point, s: as one lump, or from
/// face to middle of a slab where it is thick or several blades lie stacked in a pipe.
#[must_use]
pub fn time_to_heat_s(load: Load, ac1_c: f64, thickness_mm: f64) -> f64 {
    heat_up(load, ac1_c, thickness_mm, |_, _| {})
}

/// Time at the fire's set point that dissolves as much as heating from Ac1 up to it, s.
#[must_use]
pub fn dissolving_while_heating_s(load: Load, ac1_c: f64, thickness_mm: f64) -> f64 {
    let mut time = 0.0;
    heat_up(load, ac1_c, thickness_mm, |t, step| {
        if t > ac1_c {
            let set = Celsius::clamped(load.set_c);
            time += step * pace(set, Kelvins::of(t - load.set_c));
        }
    });
    time
}

/// Heats a section and tells `each` step: temperature of the middle, °C, and length, s.
fn heat_up(load: Load, ac1_c: f64, thickness_mm: f64, mut each: impl FnMut(f64, f64)) -> f64 {
    let stacked = load.furnace == Furnace::Pipe && load.blades > 1;
    let whole = thickness_mm.max(0.1) * if stacked { f64::from(load.blades) } else { 1.0 };
    let conductivity = if stacked { STACKED } else { CONDUCTIVITY };
    let cells = if stacked || whole > LUMP_MM {
        // A cell thinner than this needs steps that no fire is worth; a thin stack is one lump.
        ((0.5 * whole / THINNEST_CELL_MM).ceil() as usize).clamp(1, SLAB_CELLS)
    } else {
        1
    };
    let b = load.furnace.behaviour();
    let count = f64::from(load.blades.max(1));
    let dip = (DOOR_C + b.dip_per_kg_c * load.mass_kg * count).min(b.dip_most_c);
    // In a stack only the outermost faces see the fire; side by side the blades shade each other.
    let shadow = if stacked {
        1.0
    } else {
        1.0 / (1.0 + SHADOW * (count - 1.0))
    };
    let width = 0.5e-3 * whole / cells as f64;
    let mut t = vec![load.start_c; cells];
    let (mut time, mut fire) = (0.0, load.set_c - dip);
    while time < LONGEST_S {
        let face = t[0];
        let flux = shadow * (radiation(b.emissivity, fire, face) + b.convection) * (fire - face);
        let mut step =
            (4.0 * DENSITY * width * specific_heat(face) / (flux.abs() + 1.0)).clamp(0.01, 2.0);
        if cells > 1 {
            // Explicit: the step must not outrun conduction between neighbours.
            step = step.min(0.4 * width * width * DENSITY * 560.0 / conductivity);
        }
        let mut inflow = flux;
        for i in 0..cells {
            let onward = if i + 1 < cells {
                conductivity * (t[i] - t[i + 1]) / width
            } else {
                0.0
            };
            // The heat of forming austenite, spread over about 30 °C from Ac1 on.
            let peak = PEARLITE_HEAT / 30.0 * (-(((t[i] - ac1_c - 12.0) / 17.0).powi(2))).exp();
            t[i] += step * (inflow - onward) / (DENSITY * width * (specific_heat(t[i]) + peak));
            inflow = onward;
        }
        fire += step * (load.set_c - fire) / b.recovery_s;
        time += step;
        each(t[cells - 1], step);
        if t[cells - 1] >= load.set_c - WITHIN_C {
            break;
        }
    }
    time
}

/// When the parts of a blade are at heat, and what to soak.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Soak {
    /// Seconds until the edge is within 5 °C.
    pub edge_s: f64,
    /// Seconds until the spine is.
    pub spine_s: f64,
    /// Seconds until the thickest part is: start the soak clock then.
    pub ready_after_s: f64,
    /// Advised soak from then, s.
    pub soak_s: f64,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn heating_counts_for_about_a_minute_in_a_kiln_and_less_in_a_forge() {
        let at = |furnace| {
            let load = Load {
                furnace,
                set_c: 815.0,
                start_c: 20.0,
                mass_kg: 0.2,
                blades: 1,
            };
            dissolving_while_heating_s(load, 723.0, 4.0)
        };
        let (kiln, forge) = (at(Furnace::Kiln), at(Furnace::Forge));
        assert!((20.0..150.0).contains(&kiln), "{kiln}");
        assert!(forge < kiln && forge > 5.0, "{forge}");
    }

    #[test]
    fn a_thin_edge_in_a_pipe_with_others_takes_its_time() {
        let seconds = |mm: f64, blades: u32| {
            let load = Load {
                furnace: Furnace::Pipe,
                set_c: 815.0,
                start_c: 20.0,
                mass_kg: 0.2,
                blades,
            };
            time_to_heat_s(load, 725.0, mm)
        };
        for blades in [2, 4, 9] {
            let times = [0.2, 0.5, 0.8, 2.0, 4.0, 8.0].map(|mm| seconds(mm, blades));
            assert!(times[0] > 60.0, "{blades} blades: {times:?}");
            assert!(
                times.windows(2).all(|t| t[0] < t[1]),
                "{blades} blades: {times:?}"
            );
        }
        // Cells as fine again change it little: the steps are stable.
        assert!((seconds(2.9, 5) / seconds(3.1, 5) - 1.0).abs() < 0.12);
    }
    use proptest::prelude::*;

    fn load(furnace: Furnace, blades: u32) -> Load {
        Load {
            furnace,
            set_c: 815.0,
            start_c: 20.0,
            mass_kg: 0.2,
            blades,
        }
    }

    #[test]
    fn thick_and_many_take_longer() {
        let at = |mm, blades| time_to_heat_s(load(Furnace::Kiln, blades), 723.0, mm);
        assert!(at(6.0, 1) > 1.3 * at(3.0, 1));
        assert!(at(4.0, 6) > 1.3 * at(4.0, 1));
    }

    #[test]
    fn a_stack_in_a_pipe_heats_much_slower_than_one() {
        let at = |blades| time_to_heat_s(load(Furnace::Pipe, blades), 723.0, 4.0);
        assert!(at(4) > 3.0 * at(1), "{} {}", at(4), at(1));
    }

    #[test]
    fn a_thick_bolster_goes_over_from_lump_to_slab_without_a_jump() {
        let at = |mm| time_to_heat_s(load(Furnace::Kiln, 1), 723.0, mm);
        let (lump, slab) = (at(LUMP_MM), at(LUMP_MM + 0.01));
        assert!(slab >= lump && slab < 1.1 * lump, "{lump} {slab}");
    }

    #[test]
    fn a_forge_is_faster_than_a_kiln() {
        let at = |furnace| time_to_heat_s(load(furnace, 1), 723.0, 4.0);
        assert!(at(Furnace::Forge) < at(Furnace::Kiln));
    }

    proptest! {
        #[test]
        fn always_an_answer(set in 100.0..1250.0_f64, start in -80.0..100.0_f64, mm in 0.1..60.0_f64, kg in 0.01..20.0_f64, n in 1..40_u32) {
            let load = Load { furnace: Furnace::Pipe, set_c: set, start_c: start, mass_kg: kg, blades: n };
            let t = time_to_heat_s(load, 730.0, mm);
            prop_assert!(t > 0.0 && t <= LONGEST_S + 2.0);
        }
    }
}
