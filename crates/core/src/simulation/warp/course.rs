//! The quench as a section lives it: the media and the air between them, one after the other.

use crate::material::medium::Medium;
use crate::process::heat_transfer::{Agitation, Film};
use crate::process::step::{Stage, USUAL_TRANSFER_S};
use crate::quantity::units::{Celsius, Millimetres, Quantity};
use crate::simulation::quench::ROOM_C;

/// One medium, or the air on the way to it.
#[derive(Debug, Clone, PartialEq)]
pub struct Leg {
    /// How it takes heat.
    pub film: Film,
    /// What it takes it to, °C.
    pub sink_c: f64,
    /// How long, s; until as cold as the sink when left out.
    pub seconds: Option<f64>,
    /// Held straight sideways: between plates.
    pub clamped: bool,
    /// Only so much above the lowest edge is in it, m.
    pub depth: Option<f64>,
    /// Only so much from the tip is in it, m.
    pub tip: Option<f64>,
}

/// All of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Course {
    /// In order.
    pub legs: Vec<Leg>,
    /// What stands out of a medium is in this.
    pub air: Film,
}

impl Course {
    /// The way from the fire, and each stage with the way to it.
    #[must_use]
    pub fn new(stages: &[Stage]) -> Self {
        let room = Celsius::clamped(ROOM_C);
        let air = Film::new(Medium::StillAir, room, Agitation::Moved);
        let mut legs = Vec::with_capacity(2 * stages.len());
        for (n, stage) in stages.iter().enumerate() {
            let usual = if n == 0 { USUAL_TRANSFER_S } else { 0.0 };
            let way = stage.transfer_s.map_or(usual, |t| t.value());
            if way > 0.0 {
                legs.push(Leg {
                    film: air.clone(),
                    sink_c: ROOM_C,
                    seconds: Some(way),
                    clamped: false,
                    depth: None,
                    tip: None,
                });
            }
            let metres = |mm: Option<Millimetres>| mm.map(|mm| 1e-3 * mm.value());
            legs.push(Leg {
                film: Film::of_stage(stage),
                sink_c: stage.bath_c.value(),
                seconds: stage.for_s.map(|t| t.value()),
                clamped: stage.medium == Medium::Plates,
                depth: metres(stage.edge_depth_mm),
                tip: metres(stage.tip_length_mm),
            });
        }
        Self { legs, air }
    }

    /// The same with baths as warm as a blade that holds so much heat, J, makes them by the time that martensite forms.
    #[must_use]
    pub fn warmed(stages: &[Stage], blade_j: f64) -> Self {
        /// Share of its heat that has gone by then.
        const GIVEN: f64 = 0.8;
        /// Share of what is left that a bath takes which it leaves before it is cold.
        const LEFT_EARLY: f64 = 0.6;
        let mut left = GIVEN * blade_j.max(0.0);
        let warmed: Vec<Stage> = stages
            .iter()
            .map(|stage| {
                let takes = if stage.for_s.is_some() {
                    LEFT_EARLY * left
                } else {
                    left
                };
                left -= takes;
                let rise = stage.capacity_j_k().map_or(0.0, |c| takes / c.max(1.0));
                let bath = stage.bath_c.value();
                // It boils, or burns, before it is hotter than that.
                Stage {
                    bath_c: Celsius::clamped((bath + rise).min(bath.max(300.0))),
                    ..*stage
                }
            })
            .collect();
        Self::new(&warmed)
    }

    /// How long it is in air before the first medium, s.
    #[must_use]
    pub fn way_s(&self) -> f64 {
        let way = self.legs.first().filter(|leg| leg.film == self.air);
        way.and_then(|leg| leg.seconds).unwrap_or(0.0)
    }
}

impl Leg {
    /// Whether a place so high above the lowest edge and so far from the tip, m, is in the medium.
    #[must_use]
    pub fn wets(&self, above: f64, from_tip: f64) -> bool {
        self.depth.is_none_or(|d| above <= d) && self.tip.is_none_or(|t| from_tip <= t)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::units::Litres;

    #[test]
    fn a_small_bath_is_warmer_by_what_the_blade_brought() {
        let tank = |litres: f64| Stage {
            litres: Some(Litres::clamped(litres)),
            ..Stage::until_cold(Medium::FastOil)
        };
        let sink =
            |stages: &[Stage], j: f64| Course::warmed(stages, j).legs.last().map(|l| l.sink_c);
        let cold = Stage::until_cold(Medium::FastOil).bath_c.value();
        // A quarter of a kilogram from 800 °C: about 120 kJ, and four fifths of them in 8 l of 1750 J/K each.
        let warm = sink(&[tank(8.0)], 120e3).unwrap();
        assert!((warm - cold - 0.8 * 120e3 / 14e3).abs() < 0.1, "{warm}");
        assert_eq!(
            sink(&[Stage::until_cold(Medium::FastOil)], 120e3),
            Some(cold)
        );
        assert!(sink(&[tank(0.5)], 1e9).unwrap() <= 300.0);
    }
}
