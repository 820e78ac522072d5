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
            let agitation = stage.agitation.unwrap_or_default();
            let metres = |mm: Option<Millimetres>| mm.map(|mm| 1e-3 * mm.value());
            legs.push(Leg {
                film: Film::new(stage.medium, stage.bath_c, agitation),
                sink_c: stage.bath_c.value(),
                seconds: stage.for_s.map(|t| t.value()),
                clamped: stage.medium == Medium::Plates,
                depth: metres(stage.edge_depth_mm),
                tip: metres(stage.tip_length_mm),
            });
        }
        Self { legs, air }
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
