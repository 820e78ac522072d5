//! How a quenchant takes heat from a surface: the heat transfer coefficient by surface temperature.
//!
//! The tables are tuned so that a simulated ISO 9950 probe ([`crate::simulation::probe`]) behaves like typical
//! published probes of each kind of quenchant (`data/media.csv`). Their shape is the usual one: vapour
//! film when very hot, nucleate boiling below, convection at the end.

use crate::material::medium::Medium;
use crate::material::oil::convection;
use crate::material::properties::radiation;
use crate::process::manner::Plates;
use crate::process::step::Stage;
use crate::quantity::interpolate::linear;
use crate::quantity::units::Celsius;
use crate::quantity::validation::Faults;
use serde::{Deserialize, Serialize};

/// How the blade or the bath is moved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Agitation {
    /// Held still.
    Still,
    /// Sliced forward and back, as usual.
    #[default]
    Moved,
    /// Pumped or stirred hard.
    Strong,
}

impl Agitation {
    /// Reads an identifier.
    ///
    /// # Errors
    /// There is no such way of moving; the fault lists them.
    pub fn parse(field: &str, text: &str) -> Result<Self, Faults> {
        match text {
            "still" => Ok(Self::Still),
            "moved" => Ok(Self::Moved),
            "strong" => Ok(Self::Strong),
            _ => Err(Faults::with_allowed(
                field,
                format!("A bath cannot be {text}."),
                "still, moved, strong",
            )),
        }
    }

    /// Heat transfer against the usual movement, where there is no steam to sweep off.
    const fn factor(self) -> f64 {
        match self {
            Self::Still => 0.85,
            Self::Moved => 1.0,
            Self::Strong => 1.25,
        }
    }
}

/// Places where a measured heat transfer is kept: this many, from the first on in steps, °C.
pub const NODES: usize = 18;
const FIRST_NODE_C: f64 = 50.0;
const NODE_STEP_C: f64 = 50.0;

/// Heat transfer as it was measured, W/m²K at surfaces of 50, 100 to 900 °C.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(transparent)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(value_type = Vec<f64>))]
pub struct Nodes([f64; NODES]);

impl Nodes {
    fn at_c(node: usize) -> f64 {
        FIRST_NODE_C + NODE_STEP_C * node as f64
    }

    /// Those of a film.
    #[must_use]
    pub fn of(film: &Film) -> Self {
        Self(std::array::from_fn(|i| film.at(Self::at_c(i))))
    }

    /// From natural logarithms of W/m²K.
    #[must_use]
    pub fn from_ln(ln: &[f64; NODES]) -> Self {
        Self(ln.map(f64::exp))
    }

    /// Natural logarithms of W/m²K.
    #[must_use]
    pub fn ln(&self) -> [f64; NODES] {
        self.0.map(f64::ln)
    }

    /// To whole W/m²K.
    #[must_use]
    pub fn rounded(&self) -> Self {
        Self(self.0.map(f64::round))
    }

    /// At a surface temperature, W/m²K; beyond its ends as there.
    #[must_use]
    pub fn at(&self, surface_c: f64) -> f64 {
        let x = ((surface_c - FIRST_NODE_C) / NODE_STEP_C).clamp(0.0, (NODES - 1) as f64);
        let i = (x as usize).min(NODES - 2);
        self.0[i] + (self.0[i + 1] - self.0[i]) * (x - i as f64)
    }

    /// Its film in a bath of `bath_c`, °C, as it was measured.
    #[must_use]
    pub fn film(&self, bath_c: f64) -> Film {
        Film::from_surface(bath_c, |t| self.at(t))
    }

    /// Checks what was kept elsewhere.
    ///
    /// # Errors
    /// A fault at `nodes`: no bath takes so little or so much.
    pub fn check(&self) -> Result<(), Faults> {
        if self.0.iter().all(|h| (1.0..=100_000.0).contains(h)) {
            Ok(())
        } else {
            let message = "No bath takes so little or so much heat.";
            Err(Faults::with_allowed("nodes", message, "1 to 100000 W/m²K"))
        }
    }
}

/// Coldest and hottest surface of the table, °C, and its step.
const RANGE: (f64, f64, f64) = (-60.0, 1300.0, 4.0);

/// What a tank takes from a surface, as it was measured.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = OwnBath))]
pub struct Own {
    /// Heat transfer.
    pub nodes: Nodes,
    /// With the bath at this.
    pub bath_c: Celsius,
}

/// The heat transfer of one medium at one bath temperature, tabulated for speed.
#[derive(Debug, Clone, PartialEq)]
pub struct Film {
    /// Heat transfer, W/m²K, and its reciprocal.
    table: Vec<f64>,
    resistances: Vec<f64>,
    bath: f64,
}

/// (surface °C, W/m²K) in water of 25 °C. Motion sweeps the steam off: it does more where the surface is hot
/// than to the boiling below. Still water is what probes are measured in.
fn water(agitation: Agitation) -> &'static [(f64, f64)] {
    match agitation {
        Agitation::Still => &[
            (20.0, 1200.0),
            (150.0, 5000.0),
            (250.0, 11_000.0),
            (350.0, 12_000.0),
            (550.0, 4500.0),
            (650.0, 1800.0),
            (750.0, 1400.0),
            (900.0, 600.0),
        ],
        Agitation::Moved => &[
            (20.0, 1250.0),
            (150.0, 5200.0),
            (250.0, 11_500.0),
            (350.0, 12_500.0),
            (550.0, 8500.0),
            (650.0, 6000.0),
            (750.0, 4000.0),
            (900.0, 2200.0),
        ],
        Agitation::Strong => &[
            (20.0, 1500.0),
            (150.0, 6000.0),
            (250.0, 13_000.0),
            (350.0, 14_500.0),
            (550.0, 12_000.0),
            (650.0, 9500.0),
            (750.0, 6500.0),
            (900.0, 4000.0),
        ],
    }
}

/// (surface °C, W/m²K) at the usual bath temperature, moved as usual but for water.
fn points(medium: Medium, agitation: Agitation) -> &'static [(f64, f64)] {
    match medium {
        Medium::Brine => &[
            (20.0, 1500.0),
            (250.0, 13_000.0),
            (450.0, 18_000.0),
            (650.0, 9000.0),
            (900.0, 2500.0),
        ],
        Medium::Water => water(agitation),
        Medium::FastOil => &[
            (40.0, 250.0),
            (300.0, 330.0),
            (390.0, 1400.0),
            (455.0, 3150.0),
            (515.0, 4300.0),
            (570.0, 4300.0),
            (630.0, 2900.0),
            (710.0, 1150.0),
            (900.0, 680.0),
        ],
        Medium::VegetableOil => &[
            (40.0, 250.0),
            (300.0, 340.0),
            (430.0, 1700.0),
            (545.0, 3000.0),
            (605.0, 2900.0),
            (760.0, 1500.0),
            (900.0, 1100.0),
        ],
        Medium::MediumOil => &[
            (40.0, 230.0),
            (300.0, 320.0),
            (380.0, 900.0),
            (450.0, 2100.0),
            (510.0, 2900.0),
            (565.0, 2600.0),
            (650.0, 1200.0),
            (740.0, 680.0),
            (900.0, 540.0),
        ],
        // A thick oil of no make: as slow ones are.
        Medium::SlowOil | Medium::UsedEngineOil => &[
            (40.0, 200.0),
            (300.0, 280.0),
            (385.0, 700.0),
            (460.0, 1450.0),
            (520.0, 1750.0),
            (580.0, 1250.0),
            (660.0, 620.0),
            (740.0, 440.0),
            (900.0, 390.0),
        ],
        Medium::WarmOil => &[
            (40.0, 250.0),
            (300.0, 380.0),
            (385.0, 900.0),
            (460.0, 1800.0),
            (540.0, 2500.0),
            (600.0, 2000.0),
            (685.0, 900.0),
            (770.0, 550.0),
            (900.0, 480.0),
        ],
        // A bath of nitrites and nitrates, moved.
        Medium::Salt => &[
            (150.0, 600.0),
            (300.0, 900.0),
            (500.0, 1500.0),
            (900.0, 1200.0),
        ],
        // Between cold metal plates under a light clamp, contact over most of the face.
        Medium::Plates => &[(20.0, 450.0), (500.0, 550.0), (1100.0, 650.0)],
        Medium::ForcedAir => &[(20.0, 65.0), (1100.0, 65.0)],
        Medium::StillAir => &[(20.0, 7.0), (300.0, 9.0), (1100.0, 9.0)],
    }
}

/// Oil boils where the surface is hotter than this, and only flows where it is cooler than the other, °C.
const BOILS_C: f64 = 480.0;
const FLOWS_C: f64 = 350.0;

/// Emissivity that a hardening blade shows in air: thin scale over bright metal.
pub(crate) const EMISSIVITY: f64 = 0.42;

impl Film {
    /// The film of `medium` with the bath at `bath`.
    #[must_use]
    pub fn new(medium: Medium, bath: Celsius, agitation: Agitation) -> Self {
        let bath = bath.value();
        let usual = medium.usual_bath().value();
        let moved = match medium {
            Medium::StillAir | Medium::Plates | Medium::Water => 1.0,
            _ => agitation.factor(),
        };
        let flows = convection(medium, bath);
        let (low, high, step) = RANGE;
        let count = ((high - low) / step) as usize + 1;
        let points = points(medium, agitation);
        let last = points[points.len() - 1];
        let table: Vec<f64> = (0..count)
            .map(|i| {
                let surface = low + step * i as f64;
                let base = if surface >= last.0 {
                    last.1
                } else {
                    linear(points, surface.max(points[0].0))
                };
                let warmth = if medium.is_water() {
                    // Steam blankets the blade the longer, the warmer the water.
                    (1.0 - (bath - 30.0) / 60.0).clamp(0.12, 1.0)
                } else if medium.is_oil() {
                    // Warmer oil is thinner: it boils nearly the same and carries off more below the boiling.
                    let boils = (1.0 + 0.0015 * (bath - usual)).clamp(0.8, 1.2);
                    let still = ((BOILS_C - surface) / (BOILS_C - FLOWS_C)).clamp(0.0, 1.0);
                    boils + still * (flows - boils)
                } else {
                    1.0
                };
                let glow = if matches!(medium, Medium::ForcedAir | Medium::StillAir) {
                    radiation(EMISSIVITY, surface, bath)
                } else {
                    0.0
                };
                base * warmth * moved + glow
            })
            .collect();
        Self {
            resistances: table.iter().map(|h| 1.0 / h).collect(),
            table,
            bath,
        }
    }

    fn from_surface(bath: f64, h: impl Fn(f64) -> f64) -> Self {
        let (low, high, step) = RANGE;
        let count = ((high - low) / step) as usize + 1;
        let table: Vec<f64> = (0..count).map(|i| h(low + step * i as f64)).collect();
        Self {
            resistances: table.iter().map(|h| 1.0 / h).collect(),
            table,
            bath,
        }
    }

    /// The film of a tank that was measured, for a stage in it: another bath temperature and another movement do to it what
    /// they do to its kind.
    fn of_tank(own: &Own, stage: &Stage) -> Self {
        let agitation = stage.agitation.unwrap_or_default();
        let now = Self::new(stage.medium, stage.bath_c, agitation);
        let then = Self::new(stage.medium, own.bath_c, Agitation::Moved);
        Self::from_surface(stage.bath_c.value(), |t| {
            own.nodes.at(t) * now.at(t) / then.at(t).max(1e-9)
        })
    }

    /// The film of a stage of a quench: a tank that was measured by its own curve; between plates by what they are and how
    /// thick, on one slab with air above.
    #[must_use]
    pub fn of_stage(stage: &Stage) -> Self {
        if let Some(own) = &stage.own {
            return Self::of_tank(own, stage);
        }
        let agitation = stage.agitation.unwrap_or_default();
        let film = Self::new(stage.medium, stage.bath_c, agitation);
        let Some(plates) = stage.plates.filter(|_| stage.medium == Medium::Plates) else {
            return film;
        };
        let more = plates.resistance() - Plates::USUAL.resistance();
        let air = Self::new(Medium::StillAir, stage.bath_c, agitation);
        let table = film.resistances.iter().zip(&air.table).map(|(r, air)| {
            let touching = 1.0 / (r + more).max(0.5 * r);
            if plates.one_slab {
                0.5 * (touching + air)
            } else {
                touching
            }
        });
        let table: Vec<f64> = table.collect();
        Self {
            resistances: table.iter().map(|h| 1.0 / h).collect(),
            table,
            bath: film.bath,
        }
    }

    /// The same everywhere, W/m²K: for checks against textbook solutions.
    #[must_use]
    pub fn constant(h: f64) -> Self {
        Self {
            table: vec![h; 2],
            resistances: vec![1.0 / h; 2],
            bath: 0.0,
        }
    }

    #[inline]
    fn look_up(table: &[f64], surface_c: f64) -> f64 {
        let (low, _, step) = RANGE;
        let x = ((surface_c - low) * (1.0 / step))
            .max(0.0)
            .min((table.len() - 2) as f64);
        let i = x as usize;
        table[i] + (table[i + 1] - table[i]) * (x - i as f64)
    }

    /// Heat transfer coefficient at a surface temperature, W/m²K.
    #[inline]
    #[must_use]
    pub fn at(&self, surface_c: f64) -> f64 {
        Self::look_up(&self.table, surface_c)
    }

    /// Its reciprocal, m²K/W.
    #[inline]
    #[must_use]
    pub fn resistance(&self, surface_c: f64) -> f64 {
        Self::look_up(&self.resistances, surface_c)
    }

    /// Bath temperature, °C.
    #[must_use]
    pub const fn bath_c(&self) -> f64 {
        self.bath
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::units::{Millimetres, Quantity};

    fn film(medium: Medium, bath: f64) -> Film {
        Film::new(medium, Celsius::clamped(bath), Agitation::Moved)
    }

    #[test]
    fn the_table_meets_its_points_and_holds_at_the_ends() {
        let water = film(Medium::Water, 25.0);
        assert!((water.at(550.0) - 8500.0).abs() < 60.0);
        assert_eq!(water.at(1290.0), water.at(5000.0));
        assert!(water.at(-300.0) > 0.0 && water.at(f64::NAN).is_finite());
    }

    #[test]
    fn warm_water_is_slower_and_stirring_faster() {
        let cold = film(Medium::Water, 20.0);
        let warm = film(Medium::Water, 70.0);
        assert!(warm.at(600.0) < 0.5 * cold.at(600.0));
        let still = Film::new(Medium::Water, Celsius::clamped(20.0), Agitation::Still);
        assert!(cold.at(700.0) > 3.0 * still.at(700.0) && cold.at(250.0) < 1.1 * still.at(250.0));
        let stirred = Film::new(Medium::FastOil, Celsius::clamped(50.0), Agitation::Strong);
        assert!(stirred.at(600.0) > film(Medium::FastOil, 50.0).at(600.0));
    }

    #[test]
    fn cold_oil_boils_nearly_the_same_and_flows_less() {
        let (cold, warm) = (film(Medium::MediumOil, 15.0), film(Medium::MediumOil, 60.0));
        assert!(cold.at(600.0) > 0.92 * warm.at(600.0));
        assert!(cold.at(250.0) < 0.85 * warm.at(250.0));
    }

    #[test]
    fn plates_take_heat_by_what_they_are() {
        use crate::process::manner::PlateMetal;
        let at = |metal, mm, one_slab| {
            let plates = Some(Plates {
                metal,
                thickness_mm: Millimetres::clamped(mm),
                one_slab,
                with_air: false,
            });
            let stage = Stage {
                plates,
                ..Stage::until_cold(Medium::Plates)
            };
            Film::of_stage(&stage).at(600.0)
        };
        let usual = film(Medium::Plates, 20.0).at(600.0);
        let inch = at(PlateMetal::Aluminium, 25.4, false);
        assert!((inch / usual - 1.0).abs() < 1e-9);
        assert!(at(PlateMetal::Aluminium, 4.0, false) < 0.8 * inch);
        assert!(at(PlateMetal::Copper, 25.4, false) > inch);
        let slab = at(PlateMetal::Steel, 40.0, true);
        assert!(slab < 0.6 * inch, "{slab} {inch}");
    }

    #[test]
    fn air_takes_heat_mostly_by_radiation_when_hot() {
        let still = film(Medium::StillAir, 20.0);
        assert!(still.at(850.0) > 4.0 * still.at(100.0));
    }
}
